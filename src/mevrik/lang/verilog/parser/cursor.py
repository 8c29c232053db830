"""A place in the token stream, and how the parser complains and recovers."""

from __future__ import annotations

from typing import NoReturn

from mevrik.lang.diagnostics import Diagnostics, Mend, nearest, replacement
from mevrik.lang.verilog.tokens import KEYWORDS, TokenStream

_QUIET_TOKENS = 2  # an error this close to the last one is its consequence


class Recover(Exception):
    """Thrown after a syntax error was reported, caught where the parser can go on."""


class Cursor:
    def __init__(self, tokens: TokenStream, diagnostics: Diagnostics) -> None:
        self.kinds = tokens.kinds
        self.texts = tokens.texts
        self.positions = tokens.positions
        self.settings = tokens.settings
        self.sv = tokens.sv
        self.diagnostics = diagnostics
        self.i = 0
        self.last_error = -100
        self.types: set[str] = {"mailbox", "semaphore", "process"} if tokens.sv else set()  # names declared as types, file-wide
        self.package_types: dict[str, set[str]] = {}

    @property
    def kind(self) -> str:
        return self.kinds[self.i]

    @property
    def pos(self) -> int:
        return self.positions[self.i]

    def ahead(self, count: int = 1) -> str:
        at = self.i + count
        return self.kinds[at] if at < len(self.kinds) else "eof"

    def accept(self, kind: str) -> bool:
        if self.kinds[self.i] == kind:
            self.i += 1
            return True
        return False

    def expect(self, kind: str, after: str = "") -> int:
        """Take a token of `kind` and return its position, or report what is missing."""
        if self.kinds[self.i] == kind:
            self.i += 1
            return self.positions[self.i - 1]
        self.missing(f"'{kind}'", after)

    def missing(self, what: str, after: str = "") -> NoReturn:
        """Report that `what` is missing. A missing end mark belongs to the end of the line before, not to the next one."""
        found = self.describe()
        where = self.pos
        hint, mend = self._keyword_hint()
        if self.i and what in ("';'", "','", "')'", "']'", "'}'"):
            before = self.i - 1
            end = self.positions[before] + len(self.texts[before])
            line = self.diagnostics.sources.place(where).line
            if self.diagnostics.sources.place(end).line != line or self.kind == "eof":
                where = end
                if what == "';'" and not hint:
                    mend = replacement(self.diagnostics.sources, end, "", ";", "Add the ;")
        context = f" {after}" if after else ""
        self.fail(where, f"{what} expected{context}, found {found}{hint}", "syntax", mend)

    def unexpected(self, pos: int, what: str) -> NoReturn:
        """Report that `what` should stand here."""
        hint, mend = self._keyword_hint()
        self.fail(pos, f"{what} expected, found {self.describe()}{hint}", "syntax", mend)

    def _keyword_hint(self) -> tuple[str, Mend | None]:
        """A keyword that a misspelt identifier nearby was probably meant to be, and the change to it."""
        for at in (self.i, self.i - 1, self.i - 2):
            if 0 <= at < len(self.kinds) and self.kinds[at] == "id" and len(self.texts[at]) > 3:
                hint = nearest(self.texts[at], [w for w in KEYWORDS[self.sv] if len(w) > 3], 0.8)
                if hint and self.texts[at] not in KEYWORDS[self.sv]:
                    meant = hint.split("'")[1]
                    place = self.positions[at]
                    return hint, replacement(self.diagnostics.sources, place, self.texts[at], meant, f"Write {meant}")
        return "", None

    def describe(self) -> str:
        kind = self.kind
        if kind == "eof":
            return "the end of the file"
        return f"'{self.texts[self.i]}'"

    def fail(self, pos: int, message: str, code: str, mend: Mend | None = None) -> NoReturn:
        self.complain(pos, message, code, mend)
        raise Recover

    def complain(self, pos: int, message: str, code: str, mend: Mend | None = None) -> None:
        if self.i - self.last_error > _QUIET_TOKENS:
            self.diagnostics.error(pos, message, code, mend)
        self.last_error = self.i

    def identifier(self, what: str = "a name") -> str:
        if self.kinds[self.i] == "id":
            self.i += 1
            return self.texts[self.i - 1]
        if self.kind in KEYWORDS[self.sv]:
            self.fail(self.pos, f"{what} expected, but '{self.texts[self.i]}' is a keyword", "syntax")
        self.missing(what)

    def skip_attributes(self) -> None:
        """Attributes are accepted and have no meaning here (IEEE 1364-2005 3.8)."""
        while self.kinds[self.i] == "(*" and self.ahead() != ")":
            while self.kind not in ("*)", "eof"):
                self.i += 1
            self.accept("*)")

    def skip_to(self, *stops: str) -> None:
        """Skip to just behind a ';' or just before one of `stops`."""
        while self.kind != "eof" and self.kind not in stops:
            self.i += 1
            if self.kinds[self.i - 1] == ";":
                return

    def skip_balanced(self, opening: str, closing: str) -> None:
        """Skip from `opening` to behind its matching `closing`."""
        depth = 0
        while self.kind != "eof":
            if self.kind == opening:
                depth += 1
            elif self.kind == closing:
                depth -= 1
            self.i += 1
            if depth == 0:
                return
