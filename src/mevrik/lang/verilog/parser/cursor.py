"""A place in the tokens of Verilog and SystemVerilog: its settings, its keywords, what can be skipped."""

from __future__ import annotations

import re
from bisect import bisect_right
from typing import NoReturn

from mevrik.lang import cursor
from mevrik.lang.diagnostics import Diagnostics, Mend, nearest, replacement
from mevrik.lang.verilog.ast import Number
from mevrik.lang.verilog.tokens import KEYWORDS, TokenStream

# What is named as not supported and left out up to its last word: what it is, the clause of IEEE 1800-2017, that word.
LEFT_OUT = {
    "checker": ("a checker", "17.2", "endchecker"),
    "config": ("a configuration", "33.4", "endconfig"),
    "constraint": ("a constraint", "18.5", "}"),
    "covergroup": ("a covergroup", "19.3", "endgroup"),
    "export": ("an export to another language", "35.5", ";"),
    "interconnect": ("an interconnect net", "6.6.8", ";"),
    "nettype": ("a nettype", "6.6.7", ";"),
    "randsequence": ("randsequence", "18.17", "endsequence"),
}


_MACRO = re.compile(r"`\w+")
# Keywords that look like names to those who do not use what they are for.
LIKE_NAMES = frozenset(
    """accept_on alias before bins binsof cell checker config context cover cross design dist eventually expect first_match
    global highz0 highz1 ignore_bins illegal_bins implements implies incdir include instance interconnect large liblist library
    matches medium nettype nexttime pull0 pull1 randsequence reject_on restrict scalared small soft solve strong strong0 strong1
    tagged untyped use vectored weak weak0 weak1 wildcard within""".split()
)


class Cursor(cursor.Cursor):
    MARKS = ("';'", "','", "')'", "']'", "'}'")

    def __init__(self, tokens: TokenStream, diagnostics: Diagnostics) -> None:
        super().__init__(tokens.kinds, tokens.texts, tokens.positions, diagnostics)
        self.settings = tokens.settings
        self.sv = tokens.sv
        self.holes = tokens.holes
        self.types: set[str] = {"mailbox", "semaphore", "process"} if tokens.sv else set()  # names declared as types, file-wide
        self.package_types: dict[str, set[str]] = {}
        self.numbers: dict[str, Number] = {}  # what was read without a complaint, by its text

    def complain(self, pos: int, message: str, code: str = "syntax", mend: Mend | None = None) -> None:
        """A complaint; beside an unknown macro, which was reported, it would be a consequence."""
        if self.holes:
            at = bisect_right(self.holes, self.i + 1)
            if at and self.holes[at - 1] >= self.i - 3:
                self.mistakes += 1
                self.shaken = True
                return
        super().complain(pos, message, code, mend)

    def describe(self) -> str:
        """What stands here, and from which macro it comes."""
        source = self.diagnostics.sources.owner(self.pos)
        macro = _MACRO.match(source.text, self.pos - source.base) if source is not None else None
        if self.kind != "eof" and macro is not None:
            hint = "; a `define takes no ';' at its end" if self.kind == ";" else ""
            return f"{super().describe()} from the macro {macro[0]}{hint}"
        return super().describe()

    def unexpected(self, pos: int, what: str) -> NoReturn:
        """Report that `what` should stand here."""
        hint, mend = self.keyword_hint()
        self.fail(pos, f"{what} expected, found {self.describe()}{hint}", "syntax", mend)

    def keyword_hint(self) -> tuple[str, Mend | None]:
        """A keyword that a misspelt identifier nearby was probably meant to be, and the change to it."""
        for at in (self.i, self.i - 1, self.i - 2):
            word = self.texts[at] if 0 <= at < len(self.kinds) and self.kinds[at] == "id" else ""
            if len(word) > 3 and self.texts.count(word) == 1:  # what stands more often is a name
                hint = nearest(self.texts[at], [w for w in KEYWORDS[self.sv] if len(w) > 3], 0.8)
                if hint and self.texts[at] not in KEYWORDS[self.sv]:
                    meant = hint.split("'")[1]
                    place = self.positions[at]
                    return hint, replacement(self.diagnostics.sources, place, self.texts[at], meant, f"Write {meant}")
        return "", None

    def identifier(self, what: str = "a name") -> str:
        if self.kinds[self.i] == "id":
            self.i += 1
            return self.texts[self.i - 1]
        if self.kind in KEYWORDS[self.sv]:
            if self.kind in LIKE_NAMES and self.ahead() in ("id", ",", ";", "=", "[", "(", ")", ":"):
                return self._taken_for_a_name(what)
            self.fail(self.pos, f"{what} expected, but '{self.texts[self.i]}' is a keyword", "syntax")
        self.missing(what)

    def _taken_for_a_name(self, what: str) -> str:
        """A keyword in the place of a name. From here on the word is one in this file: what is done with it is no further mistake."""
        word = self.texts[self.i]
        message = f"{what} expected, but '{word}' is a keyword: choose another name, or write '\\{word} ' with a blank behind it"
        self.diagnostics.error(self.pos, message, "syntax")
        for k in range(self.i, len(self.kinds)):
            if self.kinds[k] == word:
                self.kinds[k] = "id"
        self.i += 1
        return word

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

    def left_out(self) -> bool:
        """Name what stands here as not supported, and skip it; False if it is nothing of the kind."""
        if self.kind == "extern" and self.sv:
            self._extern()
            return True
        if self.kind not in LEFT_OUT or not (self.sv or self.kind == "config"):
            return False
        what, clause, closing = LEFT_OUT[self.kind]
        standard = "1364-2005 clause 13" if not self.sv else f"1800-2017 {clause}"
        self.diagnostics.error(self.pos, f"{what} is not supported yet (IEEE {standard})", "unsupported")
        depth = 0
        while self.kind != "eof":
            if self.kind in ("randcase", "case", "casez", "casex", "{"):
                depth += 1
            elif self.kind in ("endcase", "}"):
                depth -= 1
            self.i += 1
            if self.kinds[self.i - 1] in (closing, ";" if closing == "}" else closing) and depth <= 0:
                break
        if self.kind == ":":
            self.i += 2
        return True

    def _extern(self) -> None:
        """The head of a module that stands elsewhere says nothing new (23.5); a subprogram of an interface that a module has (25.7.4) is
        not supported."""
        if self.ahead() in ("task", "function", "forkjoin"):
            self.diagnostics.error(
                self.pos,
                "a task or function of an interface that a module gives it is not supported yet (IEEE 1800-2017 25.7.4)",
                "unsupported",
            )
        while self.kind not in (";", "eof"):
            self.i += 1
        self.i += self.kind != "eof"

    def behind_parenthesis(self, start: int, ends: int = 0) -> bool:
        """After a mistake in what began with the token `start`, a '(' or where one is missing: go behind its ')', or before the 'begin'
        that shows where it should be. False, and at most `ends` ';' further, if there is none."""
        depth = int(self.kinds[start] != "(") + sum((k == "(") - (k == ")") for k in self.kinds[start : self.i])
        ends -= self.kinds[start : self.i].count(";")
        while depth > 0:
            if self.kind == "begin":
                return True
            if self.kind in ("eof", "end", "endmodule", "endfunction", "endtask", "endcase", "join") or (
                self.kind == ";" and ends <= 0
            ):
                return False
            ends -= self.kind == ";"
            depth += (self.kind == "(") - (self.kind == ")")
            self.i += 1
        return True

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
