"""Source texts and positions.

A *position* is one integer over all texts of an analysis: the base of the text plus the offset in it.
That keeps syntax trees small; a `SourceMap` turns a position back into file, line and column.
"""

from __future__ import annotations

from bisect import bisect_right
from pathlib import Path

from mevrik.design.record import Frozen, Value

_STEP = 1 << 20


class Place(Frozen, frozen=True):
    """A position as a person reads it; line and column count from 1."""

    file: str
    line: int
    column: int
    text: str


class SourceError(Exception):
    """A file that can't be used as source text; the message names the file and the remedy."""

    def __init__(self, file: str, message: str) -> None:
        super().__init__(f"{file}: {message}")
        self.file = file
        self.message = message


class SourceText(Value):
    name: str
    text: str
    base: int
    line_starts: list[int]


class SourceMap:
    """All texts of one analysis."""

    def __init__(self) -> None:
        self.texts: list[SourceText] = []
        self._bases: list[int] = []
        self._next = 1
        self._renumbered: dict[int, list[tuple[int, str, int]]] = {}

    def add(self, name: str, text: str, base: int | None = None) -> SourceText:
        """Put a text behind those that are there, or at a fixed `base` far behind them all."""
        starts = [0]
        find = text.find
        at = find("\n")
        while at >= 0:
            starts.append(at + 1)
            at = find("\n", at + 1)
        source = SourceText(name, text, self._next if base is None else base, starts)
        at = bisect_right(self._bases, source.base)
        self.texts.insert(at, source)
        self._bases.insert(at, source.base)
        if base is None:
            self._next += len(text) + 2
        return source

    @property
    def renumberings(self) -> int:
        return len(self._renumbered)

    def align(self) -> None:
        """Where the next text begins shall not depend on the exact sizes of those before it: trees hold positions, and those that were
        kept remain good when another file changes."""
        self._next = (self._next + _STEP - 1) // _STEP * _STEP

    def owner(self, pos: int) -> SourceText | None:
        at = bisect_right(self._bases, pos) - 1
        return self.texts[at] if at >= 0 else None

    def renumber(self, pos: int, file: str, line: int) -> None:
        """From the line after `pos` on, report `file` and lines counted from `line` (IEEE 1364-2005 19.7, `line)."""
        source = self.owner(pos)
        if source is not None:
            here = bisect_right(source.line_starts, pos - source.base)
            self._renumbered.setdefault(source.base, []).append((here + 1, file, line))

    def place(self, pos: int) -> Place:
        source = self.owner(pos)
        if source is None:
            return Place("", 0, 0, "")
        offset = min(pos - source.base, len(source.text))
        row = bisect_right(source.line_starts, offset)
        start = source.line_starts[row - 1]
        end = source.text.find("\n", start)
        text = source.text[start : end if end >= 0 else len(source.text)].rstrip("\r")
        name, line = source.name, row
        for first, file, number in self._renumbered.get(source.base, ()):
            if row >= first:
                name, line = file, number + row - first
        return Place(name, line, offset - start + 1, text)

    def position(self, name: str, line: int, column: int = 1) -> int:
        """The position of a place in the text called `name`; 0 if there is none."""
        for source in self.texts:
            if source.name == name and 1 <= line <= len(source.line_starts):
                return source.base + source.line_starts[line - 1] + column - 1
        return 0


def read_text(path: Path) -> str:
    """The text of a source file. Raises SourceError for what is missing, unreadable or not text."""
    try:
        data = path.read_bytes()
    except FileNotFoundError:
        raise SourceError(str(path), "there is no such file; check the name and the folder") from None
    except IsADirectoryError:
        raise SourceError(str(path), "is a folder; name a file in it") from None
    except OSError as error:
        raise SourceError(str(path), f"can't be read ({error.strerror}); check its permissions") from None
    if b"\0" in data:
        raise SourceError(str(path), "is not a text file (it holds zero bytes); give a source file")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")
