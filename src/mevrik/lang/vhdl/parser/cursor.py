"""A place in the token stream, and how the parser complains and recovers."""

from __future__ import annotations

from typing import NoReturn

from mevrik.lang.diagnostics import Diagnostics, Mend, nearest, replacement
from mevrik.lang.vhdl.ast import Name
from mevrik.lang.vhdl.tokens import KEYWORDS, Tokens

_QUIET_TOKENS = 3  # an error this close to the last one is its consequence
_LONG_KEYWORDS = [w for w in KEYWORDS if len(w) > 3]


_OTHER_OPERATORS = {  # what other languages write: the token before, the token that does not fit
    ("=", "="): "'is equal' is a single '='",
    ("&", "&"): "'and' is written as a word",
    ("|", "|"): "'or' is written as a word",
    ("", "!"): "'is not equal' is written '/=', and 'not' as a word",
}


class Recover(Exception):
    """Thrown after a syntax error was reported, caught where the parser can go on."""


class Cursor:
    def __init__(self, tokens: Tokens, diagnostics: Diagnostics) -> None:
        self.kinds = tokens.kinds
        self.ids = tokens.ids
        self.texts = tokens.texts
        self.positions = tokens.positions
        self.diagnostics = diagnostics
        self.i = 0
        self.last_error = -100

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
        hint, mend = self._keyword_hint()
        if self.i and what in ("';'", "','", "')'", "'then'", "'is'", "'loop'", "'generate'"):
            end = self.end
            if self.diagnostics.sources.place(end).line != self.diagnostics.sources.place(where).line or self.kind == "eof":
                where = end
                if what == "';'" and not hint:
                    mend = replacement(self.diagnostics.sources, end, "", ";", "Add the ;")
        context = f" {after}" if after else ""
        self.fail(where, f"{what} expected{context}, found {found}{hint}", "syntax", mend)

    def _keyword_hint(self) -> tuple[str, Mend | None]:
        pair = (self.kinds[self.i - 1] if self.i else "", self.kind)
        if pair in _OTHER_OPERATORS or ("", self.kind) in _OTHER_OPERATORS:
            return f"; {_OTHER_OPERATORS.get(pair) or _OTHER_OPERATORS[('', self.kind)]}", None
        for at in (self.i, self.i - 1, self.i - 2):
            if 0 <= at < len(self.kinds) and self.kinds[at] == "id" and len(self.texts[at]) > 3:
                hint = nearest(self.ids[at], _LONG_KEYWORDS, 0.8)
                if hint:
                    meant = hint.split("'")[1]
                    return hint, replacement(self.diagnostics.sources, self.positions[at], self.texts[at], meant, f"Write {meant}")
        return "", None

    def describe(self) -> str:
        return "the end of the file" if self.kind == "eof" else f"'{self.texts[self.i]}'"

    def fail(self, pos: int, message: str, code: str = "syntax", mend: Mend | None = None) -> NoReturn:
        self.complain(pos, message, code, mend)
        raise Recover

    def complain(self, pos: int, message: str, code: str = "syntax", mend: Mend | None = None) -> None:
        if self.i - self.last_error > _QUIET_TOKENS:
            self.diagnostics.error(pos, message, code, mend)
        self.last_error = self.i

    def identifier(self, what: str = "a name") -> tuple[str, str, int]:
        """Identifier in lower case, as written, position."""
        if self.kinds[self.i] == "id":
            self.i += 1
            return self.ids[self.i - 1], self.texts[self.i - 1], self.positions[self.i - 1]
        if self.kind in KEYWORDS:
            self.fail(self.pos, f"{what} expected, but '{self.texts[self.i]}' is a keyword")
        self.missing(what)

    def simple_name(self, what: str = "a name") -> Name:
        low, text, pos = self.identifier(what)
        return Name(pos, low, text)

    def skip_past(self, kind: str = ";") -> None:
        while self.kind not in (kind, "eof"):
            self.i += 1
        self.accept(kind)

    def closing_name(self, name: str, what: str) -> None:
        """The optional name after `end ...`: it has to be the one at the beginning."""
        if self.kind in ("id", "string", "char"):
            if name and self.ids[self.i].lower() != name.lower():
                self.complain(self.pos, f"this {what} is named '{name.strip(chr(34))}', but ends as {self.describe()}", "end-name")
            self.i += 1
