"""What a design says of itself while it is put together: `$fatal`, `$error`, `$warning`, `$info` as items (IEEE 1800-2017 20.11)."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.evaluate import Evaluator, Value
from mevrik.design.types import Vec
from mevrik.design.values import Logic, show
from mevrik.lang.verilog import ast

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

_CONVERSION = re.compile(r"%(-?\d*(?:\.\d+)?)([a-zA-Z%])")
_RADIX = {"b": "bin", "h": "hex", "x": "hex", "o": "oct"}


def tell(elab: UnitElaborator, item: ast.ElaborationTask) -> None:
    """The message, whose arguments are constants, with the severity of the task; `$fatal` and `$error` keep the design from running."""
    args = list(item.args)
    if item.name == "$fatal" and args:
        args.pop(0)  # what $finish would be given
    values = [(a, elab.constant(a, f"an argument of {item.name}")) for a in args if a is not None]
    where = f"{elab.module.name}{'.' if elab.scope.prefix else ''}{elab.scope.prefix.rstrip('.')}"
    message = f"{_text(elab, values, where) or item.name} (in '{where}')"
    diagnostics = elab.context.diagnostics
    if item.name in ("$fatal", "$error"):
        diagnostics.error(item.pos, message, "told-error")
    elif item.name == "$warning":
        diagnostics.warning(item.pos, message, "told-warning")
    else:
        diagnostics.note(item.pos, message, "told-info")


def _text(elab: UnitElaborator, values: list[tuple[ast.Expr, n.Expr]], where: str) -> str:
    parts: list[str] = []
    rest = list(values)
    while rest:
        tree, value = rest.pop(0)
        if not isinstance(tree, ast.StringLiteral):
            parts.append(_shown(value, "d", ""))
            continue

        def conversion(match: re.Match[str]) -> str:
            letter = match[2].lower()
            if letter == "%":
                return "%"
            if letter in "ml":
                return where
            return _shown(rest.pop(0)[1], letter, match[1]) if rest else match[0]

        parts.append(_CONVERSION.sub(conversion, _bytes(value).decode("latin-1")))
    return "".join(parts)


def _bytes(value: n.Expr) -> bytes:
    found: Value = Evaluator().value(value)
    if isinstance(found, bytes):
        return found
    return found.val.to_bytes((found.width + 7) // 8, "big").lstrip(b"\0") if isinstance(found, Logic) else str(found).encode()


def _shown(value: n.Expr, letter: str, width: str) -> str:
    """A value by one conversion; the width is the least, as in C."""
    found = Evaluator().value(value)
    if isinstance(found, bytes) or letter in "sc":
        text = _bytes(value).decode("latin-1")
    elif isinstance(found, float):
        text = f"%{width}{letter if letter in 'efg' else 'f'}" % found
    elif isinstance(found, Logic):
        text = show(found, _RADIX.get(letter, "dec"), isinstance(value.type, Vec) and value.type.signed)
    else:
        text = str(found)
    least = width.split(".")[0].lstrip("-")
    size = int(least) if least else 0
    return text.ljust(size) if width.startswith("-") else text.rjust(size)
