"""Messages about source texts: what is wrong, where, and what would mend it."""

from __future__ import annotations

import re
from collections.abc import Iterable

from mevrik.design.record import Frozen, Value, field
from mevrik.lang.source import Place, SourceMap

RANK = {"note": 0, "warning": 1, "error": 2}
_HINT = re.compile(r"; did you mean '([^']+)'\?$")
_QUOTED = re.compile(r"'([A-Za-z_$`][\w$]*)'")


class Mend(Frozen, frozen=True):
    """A change of the text that certainly removes the cause: `old` at a line and column (both from 1) becomes `new`."""

    words: str
    line: int
    column: int
    old: str
    new: str


class Diagnostic(Frozen, frozen=True):
    severity: str
    code: str
    message: str
    place: Place
    mend: Mend | None = None

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


class Diagnostics(Value):
    """Collects messages; the same message at the same place is kept once."""

    sources: SourceMap
    items: list[Diagnostic] = field(default_factory=list)
    _keys: list[tuple[str, int, str]] = field(default_factory=list)
    _seen: set[tuple[str, int, str]] = field(default_factory=set)

    def _add(self, severity: str, pos: int, message: str, code: str, mend: Mend | None = None, once: str = "") -> None:
        key = (code, 0, once) if once else (code, pos, message)
        place = self.sources.place(pos)
        if key not in self._seen:
            self._seen.add(key)
            self._keys.append(key)
            self.items.append(Diagnostic(severity, code, message, place, mend or _rename(message, place)))
        elif once:
            at = self._keys.index(key)
            said = self.items[at].place
            if said.file == place.file and (place.line, place.column) < (said.line, said.column):
                self.items[at] = Diagnostic(severity, code, message, place, mend or _rename(message, place))

    def error(self, pos: int, message: str, code: str, mend: Mend | None = None, once: str = "") -> None:
        """`once`: what is told once, at its first place in the file, wherever it was met first."""
        self._add("error", pos, message, code, mend, once)

    def told(self, code: str, once: str) -> bool:
        """Whether `error` has told this, which is told once."""
        return (code, 0, once) in self._seen

    def warning(self, pos: int, message: str, code: str, mend: Mend | None = None) -> None:
        self._add("warning", pos, message, code, mend)

    def note(self, pos: int, message: str, code: str) -> None:
        self._add("note", pos, message, code)

    def mark(self) -> int:
        """A point that `forget` can go back to."""
        return len(self.items)

    def forget(self, mark: int) -> None:
        """Drop what was said since a mark."""
        self._seen.difference_update(self._keys[mark:])
        del self.items[mark:], self._keys[mark:]

    def take(self, other: Diagnostics) -> None:
        """Say what another said about the same sources."""
        for key, item in zip(other._keys, other.items, strict=True):
            if key not in self._seen:
                self._seen.add(key)
                self._keys.append(key)
                self.items.append(item)

    def failed_since(self, mark: int) -> bool:
        return any(d.severity == "error" for d in self.items[mark:])

    @property
    def failed(self) -> bool:
        return any(d.severity == "error" for d in self.items)

    def sorted(self) -> list[Diagnostic]:
        return sorted(self.items, key=lambda d: (d.place.file, d.place.line, d.place.column, -RANK[d.severity]))


def replacement(sources: SourceMap, pos: int, old: str, new: str, words: str) -> Mend:
    """The change of `old`, which stands at `pos`, to `new`."""
    place = sources.place(pos)
    return Mend(words, place.line, place.column, old, new)


def _rename(message: str, place: Place) -> Mend | None:
    """The change that a hint of `nearest` at the end of a message asks for, if the wrong name stands once in the line."""
    hint = _HINT.search(message)
    if hint is None:
        return None
    words = _QUOTED.findall(message[: hint.start()])
    found = {w: [m.start() for m in re.finditer(rf"(?<![\w$`]){re.escape(w)}(?![\w$])", place.text)] for w in words}
    here = [w for w in words if place.column - 1 in found[w]]
    once = [w for w in words if len(found[w]) == 1]
    if here:
        return Mend(f"Write {hint[1]}", place.line, place.column, here[0], hint[1])
    if len(words) == 1 and once:
        return Mend(f"Write {hint[1]}", place.line, found[once[0]][0] + 1, once[0], hint[1])
    return None


def nearest(name: str, known: Iterable[str], likeness: float = 0.6) -> str:
    """A hint naming the known word that is most like `name`, or nothing if none is as like as `likeness` (0 to 1)."""
    words = list(known)
    for word in words:
        if word.lower() == name.lower() and word != name:
            return f"; did you mean '{word}'?"
    if len(name) > 3:
        likeness = max(likeness, 0.7)  # of longer words more has to be alike
    import difflib

    close = difflib.get_close_matches(name, words, n=1, cutoff=likeness)
    return f"; did you mean '{close[0]}'?" if close else ""


def counted(count: int, word: str) -> str:
    """`1 port`, `2 ports`."""
    return f"{count} {word}{'s' if count != 1 else ''}"


def offered(name: str, known: Iterable[str]) -> str:
    """A hint naming the nearest known word; if none is near, all of them where they are few."""
    words = list(dict.fromkeys(known))
    few = ", ".join(f"'{w}'" for w in words)
    return nearest(name, words) or (f"; there is {few}" if 0 < len(words) <= 6 else "")
