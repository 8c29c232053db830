"""Does a table say something about every input, and does it contradict itself?"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mevrik.expect.table import Table

EXHAUSTIVE_BITS = 20  # up to here every input row is looked at
EXAMPLES = 8


@dataclass(frozen=True, slots=True)
class Contradiction:
    """Two rows that fit the same input and ask for different outputs; `columns` names the outputs."""

    row: int
    other: int
    columns: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Coverage:
    """`missing` input rows of `total` (both None when there are too many to look at), the first few of them as values
    of the inputs packed as in `Table.packed_inputs`, and the contradictions."""

    total: int | None
    missing: int | None
    examples: tuple[int, ...]
    contradictions: tuple[Contradiction, ...]

    @property
    def complete(self) -> bool:
        return self.missing == 0


class RowFinder:
    """Finds the row that fits an input. With up to 20 input bits by one array look-up, else by trying the rows."""

    def __init__(self, table: Table) -> None:
        self.table = table
        self.bits = table.input_bits
        self.inputs = [table.packed_inputs(r) for r in range(len(table.rows))]
        self.owner: NDArray[np.int32] | None = None
        if self.bits <= EXHAUSTIVE_BITS:
            self.owner = np.full(1 << self.bits, -1, np.int32)
            for row in range(len(table.rows) - 1, -1, -1):
                self.owner[self.covered(row)] = row

    def covered(self, row: int) -> NDArray[np.int64]:
        """The inputs a row stands for."""
        value, care = self.inputs[row]
        found = np.array([value], np.int64)
        for bit in range(self.bits):
            if not care >> bit & 1:
                found = np.concatenate([found, found | (1 << bit)])
        return found

    def rows(self, packed: NDArray[np.object_] | NDArray[np.int64]) -> NDArray[np.int32]:
        """The first row that fits each input, -1 where none does."""
        if self.owner is not None:
            return self.owner[packed.astype(np.int64)]
        found = np.full(len(packed), -1, np.int32)
        for row in range(len(self.inputs) - 1, -1, -1):
            value, care = self.inputs[row]
            found[(packed & care) == value] = row
        return found


def coverage(table: Table) -> Coverage:
    """Completeness and contradictions. Beyond 20 input bits rows are compared in pairs and completeness is left open."""
    finder = RowFinder(table)
    if finder.owner is None:
        return Coverage(None, None, (), tuple(_pairs(table, finder)))
    first = finder.owner
    missing = np.flatnonzero(first < 0)
    found: dict[tuple[int, int], Contradiction] = {}
    for row in range(len(table.rows)):
        for other in np.unique(first[finder.covered(row)]).tolist():
            if other < row:
                conflict = conflicting(table, other, row)
                if conflict:
                    found[other, row] = Contradiction(row, other, conflict)
    return Coverage(1 << finder.bits, len(missing), tuple(missing[:EXAMPLES].tolist()), tuple(found.values()))


def _pairs(table: Table, finder: RowFinder, most: int = 2000) -> list[Contradiction]:
    found: list[Contradiction] = []
    inputs = finder.inputs[:most]
    for row, (value, care) in enumerate(inputs):
        for other in range(row):
            value2, care2 = inputs[other]
            if (value ^ value2) & care & care2 == 0:
                conflict = conflicting(table, other, row)
                if conflict:
                    found.append(Contradiction(row, other, conflict))
    return found


def conflicting(table: Table, a: int, b: int) -> tuple[str, ...]:
    """The outputs for which two rows ask for different values."""
    found: list[str] = []
    for k in table.outputs:
        x, y = table.rows[a][k], table.rows[b][k]
        both = x.care & y.care
        if (x.value.val ^ y.value.val) & both or (x.value.unk ^ y.value.unk) & both:
            found.append(table.columns[k].heading)
    return tuple(found)


def input_text(table: Table, packed: int) -> str:
    """An input row as a person reads it, such as `a=1 level=10`."""
    parts: list[str] = []
    left = table.input_bits
    for k in table.inputs:
        column = table.columns[k]
        left -= column.width
        value = packed >> left & ((1 << column.width) - 1)
        parts.append(f"{column.heading}={value:0{column.width}b}")
    return " ".join(parts)
