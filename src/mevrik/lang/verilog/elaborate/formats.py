"""Formats and what they are given: a conversion without a value, or one that has no meaning (IEEE 1364-2005 17.1.1.2)."""

from __future__ import annotations

import re

from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.verilog import ast

_CONVERSION = re.compile(rb"%[-+0-9.]*(.?)")
_TAKES = frozenset(b"dhxobcvtsefgpuz")
_ALONE = frozenset(b"ml%")


def check_formats(args: list[ast.Expr | None], diagnostics: Diagnostics, only_first: bool = False) -> None:
    """Each string among the arguments is a format for those behind it; `only_first`: all behind the first belong to it (17.2.3)."""
    at = 0
    while at < len(args):
        arg = args[at]
        at += 1
        if not isinstance(arg, ast.StringLiteral):
            if only_first:
                return
            continue
        wanted = 0
        for found in _CONVERSION.finditer(arg.value):
            letter = found[1].lower()
            if letter and letter[0] in _TAKES:
                wanted += 1
            elif not letter or letter[0] not in _ALONE:
                shown = found[0].decode("latin-1")
                message = f"'{shown}' is no conversion (17.1.1.2): it is printed as it stands; '%%' prints a percent sign"
                diagnostics.warning(arg.pos, message, "format")
        given = len(args) - at
        if wanted > given:
            message = f"this format takes {_count(wanted)}, {given or 'none'} {'is' if given < 2 else 'are'} given (17.1.1.2)"
            diagnostics.warning(arg.pos, message, "format")
        if only_first:
            return
        at += wanted


def _count(values: int) -> str:
    return "a value" if values == 1 else f"{values} values"
