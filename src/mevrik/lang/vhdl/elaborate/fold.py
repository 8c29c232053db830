"""Constants: the predefined operators over Python numbers (IEEE 1076-2008 9.2, 9.4)."""

from __future__ import annotations

import math
from typing import Any

from mevrik.design import typed as t

_COMPARE = {
    "=": lambda x, y: x == y,
    "/=": lambda x, y: x != y,
    "<": lambda x, y: x < y,
    "<=": lambda x, y: x <= y,
    ">": lambda x, y: x > y,
    ">=": lambda x, y: x >= y,
}
_LOGIC = {
    "and": lambda x, y: x & y,
    "or": lambda x, y: x | y,
    "nand": lambda x, y: 1 - (x & y),
    "nor": lambda x, y: 1 - (x | y),
    "xor": lambda x, y: x ^ y,
    "xnor": lambda x, y: 1 - (x ^ y),
}


def quotient(x: int, y: int) -> int:
    """Division rounds towards zero (9.2.7)."""
    q = abs(x) // abs(y)
    return q if (x < 0) == (y < 0) else -q


def fold(op: str, args: list[Any], result: t.BaseType) -> Any:
    """The value of a scalar operation, or None if it has none (a division by zero, an overflow)."""
    try:
        return _fold(op, args, result)
    except (OverflowError, ZeroDivisionError, ValueError, TypeError):
        return None


def _fold(op: str, args: list[Any], result: t.BaseType) -> Any:
    x = args[0]
    if len(args) == 1:
        match op:
            case "-":
                return -x
            case "+":
                return x
            case "abs":
                return abs(x)
            case "not":
                return 1 - x
        return None
    y = args[1]
    if op in _COMPARE:
        return int(_COMPARE[op](x, y))
    if op in _LOGIC and isinstance(result, t.Enum):
        return _LOGIC[op](x, y)
    value: Any = None
    match op:
        case "+":
            value = x + y
        case "-":
            value = x - y
        case "*":
            value = x * y
            if isinstance(result, t.Physical):
                value = math.trunc(value)
        case "/":
            if isinstance(x, float) or isinstance(y, float):
                value = x / y
                if isinstance(result, t.Physical):
                    value = math.trunc(value)
            else:
                value = quotient(x, y)
        case "rem":
            value = x - quotient(x, y) * y
        case "mod":
            value = x % y
        case "**":
            if isinstance(x, int) and (y < 0 or y > 4096):
                return None
            value = x**y
        case "minimum":
            value = min(x, y)
        case "maximum":
            value = max(x, y)
    if isinstance(value, int) and isinstance(result, (t.Integer, t.Physical)):
        if isinstance(result, t.Integer) and not result.universal and not result.low <= value <= result.high:
            return None
        if not -(1 << 63) <= value < 1 << 63:
            return None
    return value
