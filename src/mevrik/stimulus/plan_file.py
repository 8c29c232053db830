"""Drive plans as TOML: read with every mistake named at its line, and written."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from mevrik.design.ports import PortInfo
from mevrik.expect.table import Problem, write_atomically
from mevrik.lang.diagnostics import nearest
from mevrik.stimulus.plan import Clock, Hold, Pattern, Plan, PlanError, Sweep, check_lane, check_time
from mevrik.toml_file import TomlError, read_toml

_KEYS = ("lane", "for", "rows", "step")
_FIELDS = {"hold": ("value", "for"), "clock": ("period", "high", "start"), "sweep": ("from", "to", "every")}


def load_plan(path: Path, ports: list[PortInfo]) -> Plan:
    """Read a plan. Raises PlanError for what it can't be, a lane that is no input included."""
    name = str(path)
    try:
        text, data = read_toml(path)
    except TomlError as error:
        raise PlanError([error.problem]) from None
    inputs = {p.name: p.width for p in ports if p.direction != "output"}
    plan, problems = Plan(), list[Problem]()

    @contextmanager
    def reading(key: str) -> Iterator[None]:
        try:
            yield
        except ValueError as error:
            problems.append(Problem(name, _line_of(text, key), f"{key}: {error}"))

    for key in data:
        if key not in _KEYS:
            with reading(key):
                raise ValueError(f"is no key of a plan{nearest(key, _KEYS)}")
    lanes = data.get("lane", {})
    with reading("lane"):
        if not isinstance(lanes, dict):
            lanes = {}
            raise ValueError("write [lane.NAME] with patterns")
    for pin, body in lanes.items():
        with reading(f"lane.{pin}"):
            plan.lanes[pin] = _lane(pin, body, inputs)
    if "for" in data:
        with reading("for"):
            plan.length = _time(data["for"])
    if "step" in data:
        with reading("step"):
            plan.step = _time(data["step"])
    if "rows" in data:
        with reading("rows"):
            plan.rows = _rows(data["rows"], sum(inputs.values()))
            if lanes:
                raise ValueError("rows or lanes drive a design, not both")
    elif not lanes and not problems:
        problems.append(Problem(name, 1, "the plan has no lanes; write [lane.NAME] with patterns"))
    if problems:
        raise PlanError(problems)
    return plan


def _lane(pin: str, body: object, inputs: dict[str, int]) -> list[Pattern]:
    if pin not in inputs:
        raise ValueError(f"there is no such input{nearest(pin, inputs)}")
    listed = body.get("patterns") if isinstance(body, dict) else None
    if not isinstance(listed, list):
        raise ValueError('write patterns = [{ kind = "hold", value = 0 }]')
    patterns = [_pattern(p) for p in listed]
    check_lane(patterns, inputs[pin])
    return patterns


def _pattern(data: object) -> Pattern:
    if not isinstance(data, dict) or "kind" not in data:
        raise ValueError('a pattern is { kind = "hold", ... }')
    kind = data["kind"]
    if kind not in list(_FIELDS):
        raise ValueError(f"'{kind}' is no kind of pattern; there are hold, clock and sweep")
    for key in data:
        if key not in ("kind", *_FIELDS[kind]):
            raise ValueError(f"'{key}' says nothing of a {kind}{nearest(key, _FIELDS[kind])}")

    def given(key: str, default: object = None) -> object:
        found = data.get(key, default)
        if found is None:
            raise ValueError(f"'{key}' of this {kind} is missing")
        return found

    if kind == "hold":
        return Hold(_number(given("value")), _time(data["for"]) if "for" in data else None)
    if kind == "clock":
        high = given("high", 0.5)
        if not isinstance(high, int | float):
            raise ValueError(f"high is a part of the period, such as 0.5, not {high!r}")
        return Clock(_time(given("period")), float(high), str(given("start", "0ns")))
    return Sweep(_number(given("from", 0)), _number(given("to")), _time(given("every")))


def _time(value: object) -> str:
    check_time(str(value))
    return str(value)


def _number(value: object) -> int:
    try:
        return int(str(value), 0)
    except ValueError:
        raise ValueError(f"a whole number should stand here, not {value!r}") from None


def _rows(value: object, bits: int) -> list[int]:
    if not isinstance(value, list) or not value:
        raise ValueError("write a list of input rows, such as [0, 3]")
    rows = [_number(row) for row in value]
    for row in rows:
        if row < 0 or row >> bits:
            raise ValueError(f"{row} is no input row: the inputs have {bits} bit{'s' if bits > 1 else ''}")
    return rows


def _line_of(text: str, key: str) -> int:
    """The line that begins a table or gives a key its value."""
    last = re.escape(key.rpartition(".")[2])
    pattern = re.compile(rf"\s*(\[\s*{re.escape(key)}\s*\]|\"?{last}\"?\s*=|{re.escape(key)}\s*=|{re.escape(key)}\.)")
    return next((k for k, line in enumerate(text.splitlines(), 1) if pattern.match(line)), 1)


def save_plan(plan: Plan, path: Path) -> None:
    """Write the lanes and the length; what else the file says stays as it is written. Atomic. Raises OSError, and PlanError for a file there
    that is no TOML."""
    import tomlkit

    try:
        document = tomlkit.parse(read_toml(path)[0]) if path.exists() else tomlkit.document()
    except TomlError as error:
        raise PlanError([error.problem]) from None
    document["for"] = plan.length
    lanes = document.setdefault("lane", tomlkit.table(is_super_table=True))
    for pin, patterns in plan.lanes.items():
        listed = tomlkit.array()
        for pattern in patterns:
            table = tomlkit.inline_table()
            table.update(_to_dict(pattern))
            listed.append(table)
        lanes.setdefault(pin, tomlkit.table())["patterns"] = listed.multiline(len(patterns) > 1)
    write_atomically(path, tomlkit.dumps(document))


def _to_dict(p: Pattern) -> dict[str, object]:
    match p:
        case Hold(value, duration):
            return {"kind": "hold", "value": value, **({"for": duration} if duration else {})}
        case Clock(period, high, start):
            return {"kind": "clock", "period": period, "high": high, "start": start}
        case Sweep(first, last, every):
            return {"kind": "sweep", "from": first, "to": last, "every": every}
