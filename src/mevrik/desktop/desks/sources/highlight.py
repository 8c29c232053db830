"""Colouring of Verilog and VHDL by weight first: keywords bold, comments slanted and faint, numbers and strings in the accent."""

from __future__ import annotations

import re

from PySide6.QtGui import QSyntaxHighlighter, QTextCharFormat, QTextDocument

from mevrik.desktop import theme
from mevrik.lang.verilog.tokens import KEYWORDS_2005, KEYWORDS_SV
from mevrik.lang.vhdl.tokens import KEYWORDS as KEYWORDS_VHDL

_PATTERN = re.compile(
    r"(?P<comment>//[^\n]*)|(?P<open>/\*)|(?P<string>\"(?:[^\"\\\n]|\\.)*\"?)"
    r"|(?P<number>\b\d[\d_]*(?:\s*'\s*[sS]?[bBoOdDhH]\s*[0-9a-fA-FxXzZ?_]+|\.\d+)?|'[sS]?[bBoOdDhH]?[0-9a-fA-FxXzZ?_]+)"
    r"|(?P<system>\$[A-Za-z_][A-Za-z0-9_$]*|`[A-Za-z_][A-Za-z0-9_]*)|(?P<word>[A-Za-z_][A-Za-z0-9_$]*)"
)


_VHDL = re.compile(
    r"(?P<comment>--[^\n]*)|(?P<open>/\*)|(?P<string>[bBoOxXdDuUsS]*\"(?:[^\"\n]|\"\")*\"?|(?<![\w)'])'.')"
    r"|(?P<number>\b\d[\d_]*(?:#[0-9A-Fa-f_.]+#|\.\d[\d_]*)?(?:[eE][+-]?\d+)?)|(?P<word>[A-Za-z]\w*)"
)


class SourceHighlighter(QSyntaxHighlighter):
    """`suffix` says which language it is."""

    def __init__(self, document: QTextDocument, suffix: str) -> None:
        super().__init__(document)
        self.pattern = _PATTERN
        self.fold = False
        if suffix in (".vhd", ".vhdl"):
            self.words, self.pattern, self.fold = set(KEYWORDS_VHDL), _VHDL, True
        else:
            self.words = set(KEYWORDS_2005) | (set(KEYWORDS_SV) if suffix in (".sv", ".svh") else set())
        self.formats: dict[str, QTextCharFormat] = {}
        for name, colour, bold, italic in (
            ("comment", "faint", False, True), ("string", "accent", False, False), ("number", "accent", False, False),
            ("system", "accent", False, False), ("keyword", "ink", True, False),
        ):  # fmt: skip
            made = QTextCharFormat()
            made.setForeground(theme.colour(colour))
            if bold:
                made.setFontWeight(700)
            made.setFontItalic(italic)
            self.formats[name] = made

    def highlightBlock(self, text: str) -> None:
        at = 0
        if self.previousBlockState() == 1:
            at = self._comment(text, 0)
        while (match := self.pattern.search(text, at)) is not None:
            kind = match.lastgroup or ""
            if kind == "open":
                at = self._comment(text, match.start())
                continue
            at = match.end()
            if kind == "word":
                word = match.group().lower() if self.fold else match.group()
                if word in self.words:
                    self.setFormat(match.start(), at - match.start(), self.formats["keyword"])
            else:
                self.setFormat(match.start(), at - match.start(), self.formats[kind])

    def _comment(self, text: str, start: int) -> int:
        """Format a block comment that begins, or goes on, at `start`; gives where it ends."""
        end = text.find("*/", start)
        stop = end + 2 if end >= 0 else len(text)
        self.setFormat(start, stop - start, self.formats["comment"])
        self.setCurrentBlockState(0 if end >= 0 else 1)
        return stop
