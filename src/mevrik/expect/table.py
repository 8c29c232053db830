"""Truth tables: text cells in a CSV file, and what they mean once bound to the ports of a module."""

from __future__ import annotations

import csv
import io
import os
import re
from dataclasses import dataclass, field
from pathlib import Path

from mevrik.design.ports import PortInfo
from mevrik.design.values import Logic
from mevrik.lang.diagnostics import nearest
from mevrik.lang.source import SourceError, read_text

_COLUMN = re.compile(r"\s*([A-Za-z_][A-Za-z0-9_$]*)\s*(?:\[\s*(\d+)\s*(?::\s*(\d+)\s*)?\])?\s*$")


@dataclass(frozen=True, slots=True)
class Problem:
    """Something wrong in an input file: its line (1 is the first), the column's name, what it is and the remedy."""

    file: str
    line: int
    text: str
    severity: str = "error"

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.severity}: {self.text}"


class TableError(Exception):
    """A table that can't be used; `problems` say where and why."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(map(str, problems)))
        self.problems = problems


@dataclass(frozen=True, slots=True)
class Column:
    """`width` bits of a port from bit `low` on (counted from the right-hand end)."""

    heading: str
    port: PortInfo
    low: int
    width: int

    @property
    def is_input(self) -> bool:
        return self.port.direction != "output"


@dataclass(frozen=True, slots=True)
class Cell:
    """A value and the bits of it that count (`care`); x or z bits that are really expected have care set."""

    value: Logic
    care: int


@dataclass(slots=True)
class TableText:
    """The cells as written, for editing. Row k stands in line `lines[k]` of the file."""

    path: Path
    header: list[str]
    rows: list[list[str]]
    lines: list[int] = field(default_factory=list)

    def to_csv(self) -> str:
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(self.header)
        writer.writerows(self.rows)
        return out.getvalue()

    def save(self) -> None:
        """Atomic. Raises OSError."""
        write_atomically(self.path, self.to_csv())


def write_atomically(path: Path, text: str) -> None:
    """Replace a file at once, so that a crash leaves the old or the new text. Raises OSError."""
    temporary = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        temporary.write_text(text, encoding="utf-8")
        os.replace(temporary, path)
    except OSError:
        temporary.unlink(missing_ok=True)
        raise


def read_table_text(path: Path) -> TableText:
    """The cells of a CSV file. Raises TableError for a file that is missing, no text, empty, or ragged."""
    try:
        text = read_text(path)
    except SourceError as error:
        raise TableError([Problem(str(path), 1, error.message)]) from None
    header: list[str] = []
    rows: list[list[str]] = []
    lines: list[int] = []
    problems: list[Problem] = []
    reader = csv.reader(io.StringIO(text), strict=True)
    try:
        for cells in reader:
            line = reader.line_num
            stripped = [c.strip() for c in cells]
            if not any(stripped):
                continue
            if not header:
                header = stripped
                continue
            if len(stripped) != len(header):
                problems.append(Problem(str(path), line, f"this row has {len(stripped)} cells, the head has {len(header)} columns"))
                continue
            rows.append(stripped)
            lines.append(line)
    except csv.Error as error:
        problems.append(Problem(str(path), reader.line_num, f"this line can't be read as CSV ({error})"))
    if not header:
        problems.append(Problem(str(path), 1, "the table is empty: its first line names the ports, such as a,b,y"))
    if problems:
        raise TableError(problems)
    return TableText(path, header, rows, lines)


def parse_cell(text: str, width: int) -> Cell:
    """Binary with as many digits as the column has bits, `0b`, `0x` hexadecimal, else decimal; `-` is don't care, x and z are
    values. Raises ValueError with what is wrong."""
    low = text.strip().lower().replace("_", "")
    ones = (1 << width) - 1
    if low in ("-", ""):
        if not low:
            raise ValueError("the cell is empty; write '-' for don't care")
        return Cell(Logic(width, 0), 0)
    if low in ("x", "z"):
        return Cell(Logic.unknown(width) if low == "x" else Logic.floating(width), ones)
    if low.startswith("0x"):
        return Cell(Logic(width, _number(low[2:], 16, text, width)), ones)
    digits = low[2:] if low.startswith("0b") else low
    if digits and all(c in "01-xz" for c in digits) and (len(digits) == width or low.startswith("0b") or not digits.isdigit()):
        if len(digits) > width:
            raise ValueError(f"'{text}' has {len(digits)} digits, the column has {width} bit{'s' if width > 1 else ''}")
        if len(digits) < width and not low.startswith("0b"):
            raise ValueError(f"'{text}' has {len(digits)} digits, the column has {width} bits")
        digits = digits.rjust(width, "0")
        care = int("".join("0" if c == "-" else "1" for c in digits), 2)
        return Cell(Logic.parse(digits.replace("-", "0")), care)
    if not low.isdigit():
        raise ValueError(f"'{text}' is no value: use binary digits, 0x for hexadecimal, a decimal number, '-', x or z")
    return Cell(Logic(width, _number(low, 10, text, width)), ones)


def _number(digits: str, base: int, text: str, width: int) -> int:
    try:
        value = int(digits, base)
    except ValueError:
        raise ValueError(f"'{text}' is no value in base {base}") from None
    if value >> width:
        raise ValueError(f"{text} does not fit into {width} bit{'s' if width > 1 else ''}")
    return value


@dataclass(slots=True)
class Table:
    """A table bound to ports. Each row has a cell a column, in the order of `columns`."""

    text: TableText
    columns: list[Column]
    rows: list[list[Cell]]

    @property
    def inputs(self) -> list[int]:
        return [k for k, c in enumerate(self.columns) if c.is_input]

    @property
    def outputs(self) -> list[int]:
        return [k for k, c in enumerate(self.columns) if not c.is_input]

    @property
    def input_bits(self) -> int:
        return sum(self.columns[k].width for k in self.inputs)

    def packed_inputs(self, row: int) -> tuple[int, int]:
        """(value, care) of a row's inputs, the first input column highest."""
        value = care = 0
        for k in self.inputs:
            cell, width = self.rows[row][k], self.columns[k].width
            value = value << width | (cell.value.val & cell.care & ~cell.value.unk)
            care = care << width | cell.care
        return value, care

    def packed_outputs(self, row: int) -> tuple[int, int, int]:
        """(value, unknown, care) of a row's outputs, the first output column highest."""
        value = unknown = care = 0
        for k in self.outputs:
            cell, width = self.rows[row][k], self.columns[k].width
            value = value << width | cell.value.val & cell.care
            unknown = unknown << width | cell.value.unk & cell.care
            care = care << width | cell.care
        return value, unknown, care


def bind_columns(text: TableText, ports: list[PortInfo]) -> tuple[list[Column | None], list[Problem]]:
    """What each heading stands for; None where it stands for nothing."""
    by_name = {p.name: p for p in ports}
    columns: list[Column | None] = []
    problems: list[Problem] = []
    taken: dict[tuple[str, int], int] = {}
    for number, heading in enumerate(text.header):
        column, trouble = _bind_one(heading, by_name)
        if column is not None:
            for bit in range(column.low, column.low + column.width):
                other = taken.setdefault((column.port.name, bit), number)
                if other != number:
                    trouble = f"the columns '{text.header[other]}' and '{heading}' share bits of port '{column.port.name}'"
        columns.append(None if trouble else column)
        if trouble:
            problems.append(Problem(str(text.path), 1, trouble))
    return columns, problems


def _bind_one(heading: str, ports: dict[str, PortInfo]) -> tuple[Column | None, str]:
    match = _COLUMN.match(heading)
    if match is None:
        return None, f"the heading '{heading}' is no port name; write name or name[msb:lsb]"
    port = ports.get(match[1])
    if port is None:
        known = ", ".join(ports) or "none"
        hint = nearest(match[1], ports)
        return None, f"there is no port '{match[1]}'{hint}" + ("" if hint else f"; the ports are {known}")
    if match[2] is None:
        return Column(heading, port, 0, port.width), ""
    first, last = int(match[2]), int(match[3] if match[3] is not None else match[2])
    low_bound, high_bound = min(port.msb, port.lsb), max(port.msb, port.lsb)
    if not all(low_bound <= b <= high_bound for b in (first, last)):
        return None, f"'{heading}' goes outside the port, which is {port.label}"
    offsets = sorted(abs(b - port.lsb) for b in (first, last))
    return Column(heading, port, offsets[0], offsets[1] - offsets[0] + 1), ""


def bind(text: TableText, ports: list[PortInfo]) -> Table:
    """The table over these ports. Raises TableError naming every heading and cell that doesn't fit."""
    columns, problems = bind_columns(text, ports)
    rows: list[list[Cell]] = []
    for line, cells in zip(text.lines or range(2, len(text.rows) + 2), text.rows):
        built: list[Cell] = []
        for column, cell in zip(columns, cells):
            if column is None:
                continue
            try:
                built.append(parse_cell(cell, column.width))
            except ValueError as error:
                problems.append(Problem(str(text.path), line, f"column '{column.heading}': {error}"))
        rows.append(built)
    bound = [c for c in columns if c is not None]
    if not problems:
        if not any(c.is_input for c in bound):
            problems.append(Problem(str(text.path), 1, "the table has no input column"))
        if all(c.is_input for c in bound):
            problems.append(Problem(str(text.path), 1, "the table has no output column, so there is nothing to compare"))
        if not rows:
            problems.append(Problem(str(text.path), 2, "the table has no rows"))
    if problems:
        raise TableError(problems)
    return Table(text, bound, rows)
