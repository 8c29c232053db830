"""The small language in which our packages say once what holds for several types or operators.

    --: table NAME: A / B                 rows follow as `--:   value / value`
    --: each NAME                         once for each row of a table, up to `--: end`
    --: each A = x | y ;; B = p | q       once for x and p, once for y and q
    --: part NAME                         kept, up to `--: end`; `--: insert NAME` puts it in, with the values of that place
    --: include FILE                      the tables and parts of FILE.inc; also with values for all that follows:
    --: include FILE A = x ;; B = y

`$A` is the value of A, `$UPPER(A)` in capitals. Everything else is VHDL.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

_MARK = "--:"
_VALUE = re.compile(r"\$(?:UPPER\(([A-Z]+)\)|([A-Z]+))")
Values = dict[str, str]


class Template:
    def __init__(self, load: Callable[[str], str]) -> None:
        """`load` gives the text of a file that is included."""
        self.load = load
        self.tables: dict[str, tuple[list[str], list[list[str]]]] = {}
        self.parts: dict[str, list[str]] = {}
        self.given: Values = {}

    def expand(self, text: str) -> str:
        return "\n".join(self._lines(text.split("\n"), {}))

    def _lines(self, lines: list[str], values: Values) -> Iterator[str]:
        at = 0
        while at < len(lines):
            line = lines[at]
            at += 1
            if not line.startswith(_MARK):
                yield self._with(line, values)
                continue
            word, _, rest = line[len(_MARK) :].strip().partition(" ")
            if word in ("each", "part"):
                end = _end(lines, at)
                inner = lines[at:end]
                at = end + 1
                if word == "part":
                    self.parts[rest] = inner
                else:
                    for row in self._rows(rest):
                        yield from self._lines(inner, {**values, **row})
            elif word == "insert":
                yield from self._lines(self.parts[rest], values)
            elif word == "table":
                name, _, titles = rest.partition(": ")
                rows: list[list[str]] = []
                while at < len(lines) and lines[at].startswith(f"{_MARK}   "):
                    rows.append(lines[at][len(_MARK) :].strip().split(" / "))
                    at += 1
                self.tables[name] = titles.split(" / "), rows
            elif word == "include":
                file, _, settings = rest.partition(" ")
                if settings:
                    self.given.update(next(iter(self._rows(settings))))
                yield from (x for x in self._lines(self.load(file).split("\n"), values) if not x.startswith("--") and x)
            else:
                raise ValueError(f"no such line in a template: {line}")

    def _rows(self, rest: str) -> Iterator[Values]:
        if " =" not in rest:
            titles, rows = self.tables[rest]
            for row in rows:
                yield dict(zip(titles, row, strict=True))
            return
        columns = [part.partition(" =") for part in rest.split(" ;; ")]
        choices = [[v.strip() for v in f" {given} ".split(" | ")] for _, _, given in columns]
        for values in zip(*choices, strict=True):
            yield {name.strip(): value for (name, _, _), value in zip(columns, values)}

    def _with(self, line: str, values: Values) -> str:
        """The line with its values, which may hold others."""

        def value(match: re.Match[str]) -> str:
            name = match[1] or match[2]
            known = next((n for n in _shorter(name) if n in values or n in self.given), None)
            if known is None:
                raise ValueError(f"${name} has no value in: {line}")
            found = self._with(values.get(known, self.given.get(known, "")), values)
            return (found.upper() if match[1] else found) + name[len(known) :]

        return _VALUE.sub(value, line) if "$" in line else line


def _shorter(name: str) -> Iterator[str]:
    """`$SHORTstring` is no trouble, but `$AB` may be `$A` before a B."""
    for size in range(len(name), 0, -1):
        yield name[:size]


def _end(lines: list[str], at: int) -> int:
    depth = 1
    while at < len(lines):
        word = lines[at][len(_MARK) :].split()[:1] if lines[at].startswith(_MARK) else []
        depth += (word in (["each"], ["part"])) - (word == ["end"])
        if depth == 0:
            return at
        at += 1
    raise ValueError("a part of a template has no end")
