"""A place in a stream of tokens, and how a parser complains and recovers: what the parsers of all languages share."""

from __future__ import annotations

from typing import ClassVar, NoReturn

from mevrik.lang.diagnostics import Diagnostics, Mend, replacement


class Recover(Exception):
    """Thrown after a syntax error was reported, caught where the parser can go on."""


class Cursor:
    """`kinds`, `texts` and `positions` of the tokens, the last of which is "eof"."""

    MARKS: ClassVar[tuple[str, ...]]  # what is missing at the end of a line rather than at the begin of the next one

    def __init__(self, kinds: list[str], texts: list[str], positions: list[int], diagnostics: Diagnostics) -> None:
        self.kinds, self.texts, self.positions = kinds, texts, positions
        self.diagnostics = diagnostics
        self.i = 0
        self.mistakes = 0
        self.shaken = False  # there was a mistake in this unit: what does not fit together behind it may be its consequence
        self.astray = False  # ... and nothing has been understood since

    @property
    def kind(self) -> str:
        return self.kinds[self.i]

    @property
    def pos(self) -> int:
        return self.positions[self.i]

    @property
    def end(self) -> int:
        """Where the last token ended."""
        return self.positions[self.i - 1] + len(self.texts[self.i - 1])

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
        hint, mend = self.keyword_hint()
        if self.i and what in self.MARKS:
            end = self.end
            if self.diagnostics.sources.place(end).line != self.diagnostics.sources.place(where).line or self.kind == "eof":
                where = end
                if what == "';'" and not hint:
                    mend = replacement(self.diagnostics.sources, end, "", ";", "Add the ;")
        context = f" {after}" if after else ""
        self.fail(where, f"{what} expected{context}, found {found}{hint}", "syntax", mend)

    def keyword_hint(self) -> tuple[str, Mend | None]:
        """What was probably meant here, in words, and the change to it."""
        raise NotImplementedError

    def describe(self) -> str:
        return "the end of the file" if self.kind == "eof" else f"'{self.texts[self.i]}'"

    def fail(self, pos: int, message: str, code: str = "syntax", mend: Mend | None = None) -> NoReturn:
        self.complain(pos, message, code, mend)
        self.shaken = self.astray = True
        raise Recover

    def misfit(self, pos: int, message: str, code: str = "syntax", mend: Mend | None = None) -> None:
        """Report what does not fit together here: a word that closes nothing, something that is still open."""
        if self.shaken:
            self.mistakes += 1
        else:
            self.complain(pos, message, code, mend)
        self.shaken = self.astray = True

    def close(self, kind: str, after: str = "") -> int:
        """As `expect`, of what closes something that was opened: if it is not there, that may be a consequence."""
        if self.kinds[self.i] != kind and self.shaken:
            self.astray = True
        return self.expect(kind, after)

    def understood(self, mistakes: int, astray: bool = True) -> None:
        """Something has been read to its end. It began `astray`, or else what was wrong in it lies behind; `mistakes` were known then."""
        if mistakes == self.mistakes or not astray:
            self.astray = False

    def new_unit(self) -> None:
        """A unit begins here: it is read as if nothing had been wrong before."""
        self.shaken = self.astray = False

    def complain(self, pos: int, message: str, code: str = "syntax", mend: Mend | None = None) -> None:
        self.mistakes += 1
        if not self.astray:
            self.diagnostics.error(pos, message, code, mend)
