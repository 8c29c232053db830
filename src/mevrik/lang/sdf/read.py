"""Reading a delay file: cells with their delays and timing-check limits (IEEE 1497-2001 clause 5)."""

from __future__ import annotations

import re
from pathlib import Path

from mevrik.design.record import Frozen, Value, field

_TOKEN = re.compile(r'"[^"]*"|//[^\n]*|/\*.*?\*/|[()]|[^\s()"]+', re.S)
_UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9, "ps": 1e-12, "fs": 1e-15}
_CHECKS = {
    "SETUP", "HOLD", "SETUPHOLD", "RECOVERY", "REMOVAL", "RECREM", "SKEW", "WIDTH", "PERIOD", "NOCHANGE", "BIDIRECTSKEW",
}  # fmt: skip
Triple = tuple[float | None, float | None, float | None]


class SdfError(Exception):
    """A file that can't be read as one; the message begins with its line."""

    def __init__(self, line: int, message: str) -> None:
        super().__init__(message)
        self.line = line


class Port(Frozen, frozen=True):
    """A port, with its edge and a condition if it has them."""

    name: str
    edge: str = ""
    condition: str = ""


class Entry(Frozen, frozen=True):
    """One construct. kind: IOPATH (ports: source, target), PORT, INTERCONNECT, DEVICE, or the name of a timing check. Values are in
    seconds, minimum, typical and maximum; None where the file leaves one out."""

    kind: str
    line: int
    ports: tuple[Port, ...]
    values: tuple[Triple, ...]
    increment: bool
    condition: str = ""
    limits: tuple[tuple[Triple, Triple] | None, ...] = ()  # of an IOPATH: below which width pulses of each change vanish or are x


class Cell(Value):
    type: str
    instance: str | None  # a path; "" for the place of the annotation, None for `*`: every instance of the type
    line: int
    entries: list[Entry] = field(default_factory=list)


class DelayFile(Value):
    path: Path
    cells: list[Cell] = field(default_factory=list)
    divider: str = "."
    scale: float = 1e-9


Tree = list["Tree | Word"]


class Word(Frozen, frozen=True):
    text: str
    line: int


def constructs(file: str) -> set[str]:
    """Which of PULSE (limits of pulses), DEVICE and NETDELAY a file has, at a glance: what they change costs time in every cell. All of
    them if it can't be read, or is not known yet (an empty name)."""
    try:
        text = Path(file).read_text("utf-8", "replace")
    except OSError:
        return {"PULSE", "DEVICE", "NETDELAY"}
    found = {word for word in ("DEVICE", "NETDELAY") if re.search(rf"\(\s*{word}\b", text, re.I)}
    if re.search(r"\(\s*PATHPULSE|\(\s*\([\d.:eE+\s-]*\)\s*\(", text, re.I):
        found.add("PULSE")
    return found


def read_delays(path: Path) -> DelayFile:
    """Raises SdfError, OSError."""
    text = path.read_text("utf-8", "replace")
    tree = _parse(text)
    if not tree or not isinstance(tree[0], list) or _head(tree[0]) != "DELAYFILE":
        raise SdfError(1, "the file does not begin with (DELAYFILE")
    made = DelayFile(path)
    for item in tree[0][1:]:
        if not isinstance(item, list):
            continue
        word = _head(item)
        if word == "DIVIDER":
            made.divider = _text(item, 1)
        elif word == "TIMESCALE":
            made.scale = _scale("".join(w.text for w in item[1:] if isinstance(w, Word)), _line(item))
        elif word == "CELL":
            made.cells.append(_cell(item, made))
    return made


def _parse(text: str) -> Tree:
    stack: list[Tree] = [[]]
    line = at = 0
    for match in _TOKEN.finditer(text):
        line += text.count("\n", at, match.start())
        at = match.start()
        token = match[0]
        if token.startswith("//") or token.startswith("/*"):
            continue
        if token == "(":
            stack.append([])
        elif token == ")":
            if len(stack) == 1:
                raise SdfError(line + 1, "a ')' closes nothing")
            done = stack.pop()
            stack[-1].append(done)
        else:
            stack[-1].append(Word(token, line + 1))
    if len(stack) > 1:
        raise SdfError(line + 1, f"{len(stack) - 1} ')' missing at the end of the file")
    return stack[0]


def _head(tree: Tree) -> str:
    return tree[0].text.upper() if tree and isinstance(tree[0], Word) else ""


def _line(tree: Tree) -> int:
    for item in tree:
        if isinstance(item, Word):
            return item.line
        found = _line(item)
        if found:
            return found
    return 0


def _text(tree: Tree, index: int) -> str:
    item = tree[index] if index < len(tree) else None
    return item.text.strip('"') if isinstance(item, Word) else ""


def _scale(text: str, line: int) -> float:
    match = re.fullmatch(r"([\d.]+)\s*(s|ms|us|ns|ps|fs)", text)
    if match is None:
        raise SdfError(line, f"'{text}' is no time scale, such as 100ps")
    return float(match[1]) * _UNITS[match[2]]


def _cell(tree: Tree, file: DelayFile) -> Cell:
    made = Cell("", "", _line(tree))
    for item in tree[1:]:
        if not isinstance(item, list):
            continue
        word = _head(item)
        if word == "CELLTYPE":
            made.type = _text(item, 1)
        elif word == "INSTANCE":
            name = _text(item, 1)
            made.instance = None if name == "*" else name.replace(file.divider, ".") if file.divider == "/" else name
        elif word == "DELAY":
            for group in item[1:]:
                if isinstance(group, list) and _head(group) in ("ABSOLUTE", "INCREMENT"):
                    made.entries += [
                        e for x in group[1:] if isinstance(x, list) for e in _delay(x, _head(group) == "INCREMENT", file)
                    ]
                elif isinstance(group, list) and _head(group) in ("PATHPULSE", "PATHPULSEPERCENT"):
                    made.entries.append(_pulse(group, file))
        elif word == "TIMINGCHECK":
            made.entries += [_check(x, file) for x in item[1:] if isinstance(x, list) and _head(x) in _CHECKS]
    return made


def _delay(tree: Tree, increment: bool, file: DelayFile, condition: str = "") -> list[Entry]:
    word = _head(tree)
    if word == "COND":
        inner = next((x for x in tree[1:] if isinstance(x, list) and _head(x) == "IOPATH"), None)
        words = [x for x in tree[1:] if x is not inner]
        return _delay(inner, increment, file, _words(words)) if inner is not None else []
    if word == "CONDELSE":
        return [e for x in tree[1:] if isinstance(x, list) for e in _delay(x, increment, file, "else")]
    count = {"IOPATH": 2, "INTERCONNECT": 2, "PORT": 1, "DEVICE": 0, "NETDELAY": 1}.get(word)
    if count is None:
        return []
    rest = tree[1:]
    ports: list[Port] = []
    if word == "DEVICE" and rest and isinstance(rest[0], Word):
        count = 1
    if len(rest) < count:
        raise SdfError(_line(tree), f"{word} names {count} port{'s' if count > 1 else ''} before its delays")
    for item in rest[:count]:
        ports.append(_port(item, file))
    given = [_delay_value(x, file) for x in rest[count:] if isinstance(x, list) and _head(x) != "RETAIN"]
    values = tuple(value for value, _ in given)
    limits = tuple(limit for _, limit in given) if any(limit for _, limit in given) else ()
    return [Entry(word, _line(tree), tuple(ports), values, increment, condition, limits)]


def _delay_value(tree: Tree, file: DelayFile) -> tuple[Triple, tuple[Triple, Triple] | None]:
    """A delay, alone or as `((delay) (limit) (limit))`: below the first limit a pulse vanishes, below the second it is x (5.3.5)."""
    parts = [_triple(x, file) for x in tree if isinstance(x, list)]
    if not parts:
        return _triple(tree, file), None
    return parts[0], (parts[1], parts[-1]) if len(parts) > 1 else None


def _pulse(tree: Tree, file: DelayFile) -> Entry:
    """`(PATHPULSE in out (reject) (error))`, `(PATHPULSEPERCENT ...)`: without ports all paths of the cell (5.3.4). A percentage is
    kept as it is written."""
    ports = tuple(_port(x, file) for x in tree[1:] if isinstance(x, Word) or _head(x) in ("POSEDGE", "NEGEDGE"))
    one = DelayFile(file.path, [], file.divider, 1.0 if _head(tree) == "PATHPULSEPERCENT" else file.scale)
    values = tuple(_triple(x, one) for x in tree[1:] if isinstance(x, list) and _head(x) not in ("POSEDGE", "NEGEDGE"))
    return Entry(_head(tree), _line(tree), ports, values, False)


def _check(tree: Tree, file: DelayFile) -> Entry:
    word = _head(tree)
    count = 1 if word in ("WIDTH", "PERIOD") else 2
    ports = tuple(_port(x, file) for x in tree[1 : 1 + count])
    values = tuple(_triple(x, file) for x in tree[1 + count :] if isinstance(x, list) and _head(x) not in ("SCOND", "CCOND"))
    return Entry(word, _line(tree), ports, values, False)


def _port(item: Tree | Word, file: DelayFile) -> Port:
    if isinstance(item, Word):
        name = item.text.replace(file.divider, ".") if file.divider == "/" else item.text
        return Port(name)
    word = _head(item)
    if word == "COND":
        inner = item[-1]
        made = _port(inner, file)
        return Port(made.name, made.edge, _words(item[1:-1]))
    last = item[-1]
    return Port(last.text if isinstance(last, Word) else "", word.lower() if word in ("POSEDGE", "NEGEDGE") else "edge")


def _words(items: Tree) -> str:
    """Text of an expression without blanks and parentheses."""
    return "".join(x.text if isinstance(x, Word) else _words(x) for x in items)


def _triple(tree: Tree, file: DelayFile) -> Triple:
    """`(1:2:3)`, `(2)`, `(1::3)` or `()`."""
    text = "".join(w.text for w in tree if isinstance(w, Word))
    if not text:
        return (None, None, None)
    parts = text.split(":")
    try:
        numbers = [float(p) * file.scale if p else None for p in parts]
    except ValueError:
        raise SdfError(_line(tree), f"'{text}' is no delay") from None
    if len(numbers) == 1:
        return (numbers[0], numbers[0], numbers[0])
    if len(numbers) != 3:
        raise SdfError(_line(tree), f"'{text}' is no delay: one value, or minimum:typical:maximum")
    return (numbers[0], numbers[1], numbers[2])
