"""What all findings share: a warning at its place, unless a comment on the line allows it (`// mevrik: allow CODE`)."""

from __future__ import annotations

import re

from mevrik.design.unit import Design
from mevrik.lang.diagnostics import Diagnostics, Mend
from mevrik.lang.findings.bodies import Bodies
from mevrik.lang.source import Place

_INDEX = re.compile(r"\[\d+\]")
_ALLOW = re.compile(r"mevrik:\s*allow\s+([\w\-, ]+)")


def allowed(place: Place, code: str) -> bool:
    """Whether a comment on the line allows what the code stands for."""
    match = _ALLOW.search(place.text)
    return match is not None and code in re.split(r"[,\s]+", match[1])


class Looker:
    def __init__(self, design: Design, diagnostics: Diagnostics, bodies: Bodies) -> None:
        self.design = design
        self.diagnostics = diagnostics
        self.bodies = bodies
        self._said: set[tuple[int, str]] = set()

    def warn(self, pos: int, message: str, code: str, mend: Mend | None = None) -> None:
        """A warning at its place; what only differs in the index of a generate block is said once."""
        place = self.diagnostics.sources.place(pos)
        said = (pos, _INDEX.sub("[]", message))
        if pos and said not in self._said and not place.file.startswith("<") and not allowed(place, code):
            self._said.add(said)
            self.diagnostics.warning(pos, message, code, mend)

    def pos(self, site: int) -> int:
        return self.design.sites[site].pos if 0 < site < len(self.design.sites) else 0

    def line(self, pos: int) -> int:
        return self.diagnostics.sources.place(pos).line


class Allowing:
    """Warnings about the typed half of a design, each once, without what a comment on the line allows."""

    def __init__(self, design: Design, diagnostics: Diagnostics) -> None:
        self.design = design
        self.diagnostics = diagnostics
        self.sources = diagnostics.sources
        self._said: set[tuple[int, str]] = set()

    def warning(self, pos: int, message: str, code: str) -> None:
        if (pos, message) not in self._said and not allowed(self.sources.place(pos), code):
            self._said.add((pos, message))
            self.diagnostics.warning(pos, message, code)

    def at_site(self, site: int, message: str, code: str) -> None:
        if 0 < site < len(self.design.sites):
            self.warning(self.design.sites[site].pos, message, code)
