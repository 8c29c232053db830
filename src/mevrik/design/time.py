"""Times as whole ticks. A tick is a power of ten in seconds, the finest precision of a design (IEEE 1364-2005 19.8)."""

from __future__ import annotations

import re
from decimal import Decimal, InvalidOperation

EXPONENTS = {"s": 0, "ms": -3, "us": -6, "µs": -6, "ns": -9, "ps": -12, "fs": -15}
_TIME = re.compile(r"\s*([0-9][0-9_]*(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?)\s*([a-zµ]+)\s*$")


class TimeError(ValueError):
    """A text that is no time; the message says what one looks like."""


def parse_seconds(text: str) -> Decimal:
    """Seconds from a text such as `10ns` or `1.5 us`. Raises TimeError."""
    match = _TIME.match(text)
    if match is None or match[2] not in EXPONENTS:
        units = ", ".join(u for u in EXPONENTS if u != "µs")
        raise TimeError(f"'{text}' is no time: write a number and a unit ({units}), such as 10ns")
    try:
        return Decimal(match[1].replace("_", "")).scaleb(EXPONENTS[match[2]])
    except InvalidOperation:
        raise TimeError(f"'{text}' is no time") from None


def parse_time(text: str, tick_exp: int) -> int:
    """Ticks, rounded to the nearest one. Raises TimeError."""
    return int((parse_seconds(text).scaleb(-tick_exp)).to_integral_value())


def show_time(ticks: float, tick_exp: int, digits: int = 6) -> str:
    """A time in the unit that keeps the number between 1 and 1000, such as `12.5 ns`."""
    if not ticks:
        return "0 s"
    seconds = Decimal(ticks).scaleb(tick_exp)
    for unit, exponent in (("s", 0), ("ms", -3), ("µs", -6), ("ns", -9), ("ps", -12), ("fs", -15)):
        scaled = seconds.scaleb(-exponent)
        if abs(scaled) >= 1 or unit == "fs":
            text = f"{scaled:.{digits}f}".rstrip("0").rstrip(".")
            return f"{text} {unit}"
    raise AssertionError
