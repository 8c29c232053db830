"""A place in the tokens of VHDL: its names, its keywords, what writers of other languages mean."""

from __future__ import annotations

from mevrik.lang import cursor
from mevrik.lang.diagnostics import Diagnostics, Mend, nearest, replacement
from mevrik.lang.vhdl.ast import Name
from mevrik.lang.vhdl.tokens import KEYWORDS, Tokens

_LONG_KEYWORDS = [w for w in KEYWORDS if len(w) > 3]


_OTHER_OPERATORS = {  # what other languages write: the token before, the token that does not fit
    ("=", "="): "'is equal' is a single '='",
    ("&", "&"): "'and' is written as a word",
    ("|", "|"): "'or' is written as a word",
    ("", ":="): "':=' assigns, '=' compares",
    ("", "!"): "'is not equal' is written '/=', and 'not' as a word",
}

UNITS_OF_PROPERTIES = {f"v{kind}" for kind in ("unit", "prop", "mode")}
PROPERTY_WORDS = {
    "assume", "assume_guarantee", "cover", "default", "fairness", "property", "restrict", "restrict_guarantee", "sequence",
}  # fmt: skip


# Keywords that look like names to those who do not use what they are for.
_LIKE_NAMES = frozenset(
    "access buffer bus disconnect group guarded inertial label linkage literal postponed register reject shared transport units".split()
)


class Cursor(cursor.Cursor):
    MARKS = ("';'", "','", "')'", "'then'", "'is'", "'loop'", "'generate'")

    def __init__(self, tokens: Tokens, diagnostics: Diagnostics) -> None:
        super().__init__(tokens.kinds, tokens.texts, tokens.positions, diagnostics)
        self.ids = tokens.ids
        self.properties: set[str] = set()  # names of the property language

    def keyword_hint(self) -> tuple[str, Mend | None]:
        pair = (self.kinds[self.i - 1] if self.i else "", self.kind)
        if pair in _OTHER_OPERATORS or ("", self.kind) in _OTHER_OPERATORS:
            return f"; {_OTHER_OPERATORS.get(pair) or _OTHER_OPERATORS[('', self.kind)]}", None
        for at in (self.i, self.i - 1, self.i - 2):
            word = self.texts[at] if 0 <= at < len(self.kinds) and self.kinds[at] == "id" else ""
            if len(word) > 3 and self.texts.count(word) == 1:  # what stands more often is a name
                hint = nearest(self.ids[at], _LONG_KEYWORDS, 0.8)
                if hint:
                    meant = hint.split("'")[1]
                    return hint, replacement(self.diagnostics.sources, self.positions[at], self.texts[at], meant, f"Write {meant}")
        return "", None

    def identifier(self, what: str = "a name") -> tuple[str, str, int]:
        """Identifier in lower case, as written, position."""
        if self.kinds[self.i] == "id":
            self.i += 1
            return self.ids[self.i - 1], self.texts[self.i - 1], self.positions[self.i - 1]
        if self.kind in _LIKE_NAMES and self.ahead() in (":", ",", ";", "is", ")", "(", ":=", "<="):
            return self._taken_for_a_name(what)
        if self.kind in KEYWORDS:
            self.fail(self.pos, f"{what} expected, but '{self.texts[self.i]}' is a keyword")
        self.missing(what)

    def _taken_for_a_name(self, what: str) -> tuple[str, str, int]:
        """A keyword in the place of a name. From here on the word is one in this file: what is done with it is no further mistake."""
        word, text, pos = self.kind, self.texts[self.i], self.pos
        self.complain(pos, f"{what} expected, but '{text}' is a keyword: choose another name, or write \\{text}\\")
        for k in range(self.i, len(self.kinds)):
            if self.kinds[k] == word:
                self.kinds[k], self.ids[k] = "id", word
        self.i += 1
        return word, text, pos

    def simple_name(self, what: str = "a name") -> Name:
        low, text, pos = self.identifier(what)
        return Name(pos, low, text)

    def skip_past(self, kind: str = ";") -> None:
        while self.kind not in (kind, "eof"):
            self.i += 1
        self.accept(kind)

    # ---- the property language (clause 6.11, PSL): named as not supported, and left out ----

    def is_property(self) -> bool:
        """Whether a statement or declaration of the property language begins here."""
        if self.kind in PROPERTY_WORDS:
            return True
        if self.kind != "assert":
            return False
        if self.ids[self.i + 1] in ("always", "never", "eventually") or self.ids[self.i + 1] in self.properties:
            return True
        end = self.i + 1
        while self.kinds[end] not in (";", "report", "severity", "eof"):
            if self.kinds[end] in ("{", "@", "next") or (self.kinds[end] == "-" and self.kinds[end + 1] == ">"):
                return True
            end += 1
        return False

    def leave_property(self) -> None:
        """Say that it is not supported, and go behind it."""
        self.diagnostics.error(self.pos, "the property language (clause 6.11, PSL) is not supported", "unsupported")
        if self.kind in ("property", "sequence"):
            self.properties.add(self.ids[self.i + 1])
        closing = "}" if self.ids[self.i] in UNITS_OF_PROPERTIES else ";"
        depth = 0
        while self.kind != "eof":
            depth += (self.kind == "{") - (self.kind == "}")
            self.i += 1
            if depth == 0 and self.kinds[self.i - 1] == closing:
                return

    def closing_name(self, name: str, what: str) -> None:
        """The optional name after `end ...`: it has to be the one at the beginning."""
        if self.kind in ("id", "string", "char"):
            if name and self.ids[self.i].lower() != name.lower():
                self.misfit(self.pos, f"this {what} is named '{name.strip(chr(34))}', but ends as {self.describe()}", "end-name")
            self.i += 1
