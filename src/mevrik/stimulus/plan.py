"""Drive plans: a lane for each input pin, filled with patterns over time.

A design without a clock needs no lanes: its plan walks through input rows. Times in a plan are texts such as "10ns".
"""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from decimal import Decimal

from mevrik.design.ports import PortInfo
from mevrik.design.time import parse_seconds
from mevrik.expect.coverage import EXHAUSTIVE_BITS
from mevrik.expect.table import Problem, Table

STEP = "10ns"
TICK = Decimal("1e-12")  # the precision of the testbench
RANDOM_ROWS = 4096
CLOCKS = 256


class PlanError(Exception):
    """A plan that can't be used; `problems` say where and why."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(map(str, problems)))
        self.problems = problems


@dataclass(frozen=True, slots=True)
class Hold:
    """A steady value, for a time or (None) to the end."""

    value: int
    duration: str | None = None


@dataclass(frozen=True, slots=True)
class Clock:
    """A square wave: low first, high for `high` of each period."""

    period: str
    high: float = 0.5
    start: str = "0ns"


@dataclass(frozen=True, slots=True)
class Sweep:
    """`first`, then one step towards `last` each `every`, over and over."""

    first: int
    last: int
    every: str


Pattern = Hold | Clock | Sweep


@dataclass(slots=True)
class Plan:
    """What drives the inputs. With `rows` set, they are applied one each `step`, packed with the first input highest;
    `rows` None and no lanes means every input row there is."""

    lanes: dict[str, list[Pattern]] = field(default_factory=dict)
    rows: list[int] | None = None
    step: str = STEP
    length: str = ""
    note: str = ""

    @property
    def walks_rows(self) -> bool:
        return not self.lanes


def automatic_plan(ports: list[PortInfo], table: Table | None) -> Plan:
    """The plan for a module that came without one: all input rows, or clocks, resets and counters."""
    inputs = [p for p in ports if p.direction != "output"]
    clocks = [p for p in inputs if p.role == "clock"]
    if clocks:
        return _clocked(inputs)
    bits = sum(p.width for p in inputs)
    if bits <= EXHAUSTIVE_BITS:
        return Plan(note=f"all {1 << bits} input rows, one each {STEP}")
    rows = _table_rows(inputs, table) if table is not None else []
    source = random.Random(bits)
    rows += [source.getrandbits(bits) for _ in range(RANDOM_ROWS)]
    from_table = len(rows) - RANDOM_ROWS
    said = f"{from_table} rows from the table and " if from_table else ""
    return Plan(rows=rows, note=f"{bits} input bits are too many for every row: {said}{RANDOM_ROWS} random ones are applied")


def _table_rows(inputs: list[PortInfo], table: Table) -> list[int]:
    """The rows of the table over all inputs, their don't-cares first all 0, then all 1."""
    offsets: dict[str, int] = {}
    at = 0
    for p in reversed(inputs):
        offsets[p.name] = at
        at += p.width
    rows: list[int] = []
    for r in range(len(table.rows)):
        for fill in (0, 1):
            packed = ((1 << at) - 1) if fill else 0
            for k in table.inputs:
                column, cell = table.columns[k], table.rows[r][k]
                ones = (1 << column.width) - 1
                value = (cell.value.val & cell.care & ~cell.value.unk) | ((ones & ~cell.care) if fill else 0)
                low = offsets[column.port.name] + column.low
                packed = packed & ~(ones << low) | value << low
            if packed not in rows[-2:]:
                rows.append(packed)
    return rows


def _clocked(inputs: list[PortInfo]) -> Plan:
    lanes: dict[str, list[Pattern]] = {}
    rest = [p for p in inputs if not p.role]
    for p in inputs:
        if p.role == "clock":
            lanes[p.name] = [Clock(STEP)]
        elif p.role == "reset":
            lanes[p.name] = [Hold(p.active, "25ns"), Hold(1 - p.active)]
    every = Decimal(10)
    for p in rest:
        lanes[p.name] = [Sweep(0, (1 << p.width) - 1, f"{every.normalize():f}ns")]
        every *= 1 << min(p.width, 6)
    combinations = 1 << min(sum(p.width for p in rest), 12)
    clocks = max(CLOCKS, min(combinations, 4096))
    return Plan(lanes, length=f"{clocks * 10 + 30}ns", note=f"{clocks} clocks of {STEP}, other inputs swept")


def check_lane(patterns: list[Pattern], width: int) -> None:
    """What a lane of `width` bits can't be. Raises ValueError."""
    if not patterns:
        raise ValueError("a lane needs a pattern")
    for pattern in patterns[:-1]:
        if not isinstance(pattern, Hold) or pattern.duration is None:
            kind = type(pattern).__name__.lower()
            raise ValueError(f"this {kind} never ends, so nothing can follow it")
    for pattern in patterns:
        match pattern:
            case Hold(value, duration):
                _check_value(value, width)
                if duration is not None:
                    check_time(duration)
            case Clock(period, high, start):
                if width != 1:
                    raise ValueError("only a lane of one bit can be a clock")
                if not 0 < high < 1:
                    raise ValueError("a clock is high for more than 0% and less than 100% of its period")
                whole = check_time(period)
                if not 1 <= round(whole * high) < whole:
                    raise ValueError(f"a clock of {period} is too fast: its high and its low part need 1ps each")
                check_time(start, at_least=0)
            case Sweep(first, last, every):
                _check_value(first, width)
                _check_value(last, width)
                check_time(every)


def check_time(text: str, at_least: int = 1) -> int:
    """A time of a testbench in ps. Raises ValueError."""
    ticks = int(parse_seconds(text) / TICK)
    if ticks < at_least:
        raise ValueError(f"{text} is too short: time goes in steps of 1ps here")
    if ticks >> 63:
        raise ValueError(f"{text} is longer than a run can be")
    return ticks


def _check_value(value: int, width: int) -> None:
    if value < 0 or value >> width:
        raise ValueError(f"{value} does not fit into {width} bit{'s' if width > 1 else ''}")
