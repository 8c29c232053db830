"""Drive plans: a lane for each input pin, filled with patterns over time; kept as TOML.

A design without a clock needs no lanes: its plan walks through input rows. Times in a plan are texts such as "10ns".
"""

from __future__ import annotations

import random
import tomllib
from dataclasses import dataclass, field
from decimal import Decimal
from pathlib import Path

import tomli_w

from mevrik.design.ports import PortInfo
from mevrik.design.time import TimeError, parse_seconds
from mevrik.expect.coverage import EXHAUSTIVE_BITS
from mevrik.expect.table import Problem, Table, write_atomically
from mevrik.lang.diagnostics import nearest
from mevrik.lang.source import SourceError, read_text

STEP = "10ns"
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


# ---- TOML ----


def load_plan(path: Path, ports: list[PortInfo] | None = None) -> Plan:
    """Read a plan. Raises PlanError for what it can't be, a lane that is no input included."""
    name = str(path)
    try:
        data = tomllib.loads(read_text(path))
    except SourceError as error:
        raise PlanError([Problem(name, 1, error.message)]) from None
    except tomllib.TOMLDecodeError as error:
        raise PlanError([Problem(name, _line_in(str(error)), f"this is no TOML: {error}")]) from None
    problems: list[Problem] = []
    lanes: dict[str, list[Pattern]] = {}
    names = [p.name for p in ports or [] if p.direction != "output"]
    for pin, body in (data.get("lane") or {}).items():
        if ports is not None and pin not in names:
            problems.append(Problem(name, 1, f"lane '{pin}': there is no such input{nearest(pin, names)}"))
            continue
        try:
            lanes[pin] = [_pattern(p) for p in body["patterns"]]
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            problems.append(Problem(name, 1, f"lane '{pin}': {_why(error)}"))
    length = str(data.get("for", ""))
    for text in (length,) if length else ():
        try:
            parse_seconds(text)
        except TimeError as error:
            problems.append(Problem(name, 1, f"for: {error}"))
    if not lanes and not problems and "rows" not in data:
        problems.append(Problem(name, 1, "the plan has no lanes; write [lane.NAME] with patterns"))
    if problems:
        raise PlanError(problems)
    return Plan(lanes, data.get("rows"), str(data.get("step", STEP)), length)


def _line_in(message: str) -> int:
    """The line that a TOML error names."""
    words = message.replace(",", " ").replace(")", " ").split()
    return int(words[words.index("line") + 1]) if "line" in words else 1


def _why(error: Exception) -> str:
    if isinstance(error, KeyError):
        return f"{error} is missing"
    return str(error) or "its patterns can't be read"


def _pattern(data: dict[str, object]) -> Pattern:
    kind = data["kind"]

    def time(key: str, default: str | None = None) -> str:
        text = str(data[key] if default is None else data.get(key, default))
        parse_seconds(text)
        return text

    if kind == "hold":
        return Hold(int(str(data["value"]), 0), time("for") if "for" in data else None)
    if kind == "clock":
        high = float(str(data.get("high", 0.5)))
        if not 0 < high < 1:
            raise ValueError(f"high must lie between 0 and 1, not {high}")
        return Clock(time("period"), high, time("start", "0ns"))
    if kind == "sweep":
        return Sweep(int(str(data.get("from", 0)), 0), int(str(data["to"]), 0), time("every"))
    raise ValueError(f"'{kind}' is no kind of pattern; there are hold, clock and sweep")


def save_plan(plan: Plan, path: Path) -> None:
    """Atomic. Raises OSError."""
    lanes: dict[str, object] = {}
    for pin, patterns in plan.lanes.items():
        lanes[pin] = {"patterns": [_to_dict(p) for p in patterns]}
    data: dict[str, object] = {"for": plan.length, "lane": lanes}
    write_atomically(path, tomli_w.dumps(data))


def _to_dict(p: Pattern) -> dict[str, object]:
    match p:
        case Hold(value, duration):
            return {"kind": "hold", "value": value, **({"for": duration} if duration else {})}
        case Clock(period, high, start):
            return {"kind": "clock", "period": period, "high": high, "start": start}
        case Sweep(first, last, every):
            return {"kind": "sweep", "from": first, "to": last, "every": every}
