"""What all findings share: a warning at its place, unless a comment on the line allows it (`// mevrik: allow CODE`)."""

from __future__ import annotations

import re

from mevrik.design.unit import Design
from mevrik.lang.diagnostics import Diagnostics, Mend
from mevrik.lang.source import Place

_ALLOW = re.compile(r"mevrik:\s*allow\s+([\w\-, ]+)")


def allowed(place: Place, code: str) -> bool:
    """Whether a comment on the line allows what the code stands for."""
    match = _ALLOW.search(place.text)
    return match is not None and code in re.split(r"[,\s]+", match[1])


class Looker:
    def __init__(self, design: Design, diagnostics: Diagnostics) -> None:
        self.design = design
        self.diagnostics = diagnostics

    def warn(self, pos: int, message: str, code: str, mend: Mend | None = None) -> None:
        place = self.diagnostics.sources.place(pos)
        if pos and not place.file.startswith("<") and not allowed(place, code):
            self.diagnostics.warning(pos, message, code, mend)

    def pos(self, site: int) -> int:
        return self.design.sites[site].pos if 0 < site < len(self.design.sites) else 0

    def line(self, pos: int) -> int:
        return self.diagnostics.sources.place(pos).line
