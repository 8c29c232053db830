"""Messages about source texts: what is wrong, where, and what would mend it."""

from __future__ import annotations

import difflib
from collections.abc import Iterable
from dataclasses import dataclass, field

from mevrik.lang.source import Place, SourceMap

RANK = {"note": 0, "warning": 1, "error": 2}


@dataclass(frozen=True, slots=True)
class Diagnostic:
    severity: str
    code: str
    message: str
    place: Place

    def headline(self) -> str:
        p = self.place
        return f"{p.file}:{p.line}:{p.column}: {self.severity}: {self.message} [{self.code}]"

    def render(self) -> str:
        """The headline, the source line and a caret below the column."""
        p = self.place
        if not p.text:
            return self.headline()
        indent = "".join("\t" if c == "\t" else " " for c in p.text[: p.column - 1])
        return f"{self.headline()}\n  {p.text}\n  {indent}^"

    def as_dict(self) -> dict[str, object]:
        p = self.place
        return {
            "severity": self.severity,
            "code": self.code,
            "message": self.message,
            "file": p.file,
            "line": p.line,
            "column": p.column,
        }


@dataclass(slots=True)
class Diagnostics:
    """Collects messages; the same message at the same place is kept once."""

    sources: SourceMap
    items: list[Diagnostic] = field(default_factory=list)
    _keys: list[tuple[str, int, str]] = field(default_factory=list)
    _seen: set[tuple[str, int, str]] = field(default_factory=set)

    def _add(self, severity: str, pos: int, message: str, code: str) -> None:
        key = (code, pos, message)
        if key not in self._seen:
            self._seen.add(key)
            self._keys.append(key)
            self.items.append(Diagnostic(severity, code, message, self.sources.place(pos)))

    def error(self, pos: int, message: str, code: str) -> None:
        self._add("error", pos, message, code)

    def warning(self, pos: int, message: str, code: str) -> None:
        self._add("warning", pos, message, code)

    def note(self, pos: int, message: str, code: str) -> None:
        self._add("note", pos, message, code)

    def mark(self) -> int:
        """A point that `forget` can go back to."""
        return len(self.items)

    def forget(self, mark: int) -> None:
        """Drop what was said since a mark."""
        self._seen.difference_update(self._keys[mark:])
        del self.items[mark:], self._keys[mark:]

    @property
    def failed(self) -> bool:
        return any(d.severity == "error" for d in self.items)

    def sorted(self) -> list[Diagnostic]:
        return sorted(self.items, key=lambda d: (d.place.file, d.place.line, d.place.column, -RANK[d.severity]))


def nearest(name: str, known: Iterable[str]) -> str:
    """A hint naming the known word that is most like `name`, or nothing."""
    words = list(known)
    for word in words:
        if word.lower() == name.lower() and word != name:
            return f"; did you mean '{word}'?"
    close = difflib.get_close_matches(name, words, n=1, cutoff=0.6)
    return f"; did you mean '{close[0]}'?" if close else ""
