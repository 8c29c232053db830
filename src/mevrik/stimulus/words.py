"""Patterns as words, one line a lane: `hold 0 for 25ns, hold 1`, `clock 10ns high 50%`, `sweep 0 to 15 every 10ns`."""

from __future__ import annotations

import re

from mevrik.design.time import parse_seconds
from mevrik.stimulus.plan import Clock, Hold, Pattern, Sweep, check_lane

_NUMBER = r"(0[xb][0-9a-fA-F_]+|\d+)"
_TIME = r"(\d+(?:\.\d+)?\s*[a-zµ]+)"
_HOLD = re.compile(rf"hold\s+{_NUMBER}(?:\s+for\s+{_TIME})?$")
_CLOCK = re.compile(rf"clock\s+{_TIME}(?:\s+high\s+(\d+(?:\.\d+)?)\s*%)?(?:\s+from\s+{_TIME})?$")
_SWEEP = re.compile(rf"sweep\s+{_NUMBER}\s+to\s+{_NUMBER}\s+every\s+{_TIME}$")
FORMS = "hold 0 for 25ns, clock 10ns high 50%, or sweep 0 to 15 every 10ns"


class WordsError(ValueError):
    """Words that are no pattern; the message says which and what one looks like."""


def to_words(patterns: list[Pattern]) -> str:
    return ", ".join(_words(p) for p in patterns)


def _words(p: Pattern) -> str:
    match p:
        case Hold(value, duration):
            return f"hold {value}" + (f" for {duration}" if duration else "")
        case Clock(period, high, start):
            late = "" if parse_seconds(start) == 0 else f" from {start}"
            return f"clock {period} high {high * 100:g}%{late}"
        case Sweep(first, last, every):
            return f"sweep {first} to {last} every {every}"


def from_words(text: str, width: int) -> list[Pattern]:
    """The patterns of a lane of `width` bits. Raises WordsError."""
    found = [_pattern(part.strip()) for part in text.split(",") if part.strip()]
    if not found:
        raise WordsError(f"a lane needs a pattern: {FORMS}")
    try:
        check_lane(found, width)
    except ValueError as error:
        raise WordsError(str(error)) from None
    return found


def _pattern(text: str) -> Pattern:
    if match := _HOLD.match(text):
        return Hold(_value(match[1]), _time(match[2]) if match[2] else None)
    if match := _CLOCK.match(text):
        return Clock(_time(match[1]), float(match[2]) / 100 if match[2] else 0.5, _time(match[3]) if match[3] else "0ns")
    if match := _SWEEP.match(text):
        return Sweep(_value(match[1]), _value(match[2]), _time(match[3]))
    raise WordsError(f"'{text}' is no pattern; write {FORMS}")


def _time(text: str) -> str:
    return text.replace(" ", "")


def _value(text: str) -> int:
    try:
        return int(text.replace("_", ""), 0)
    except ValueError:
        raise WordsError(f"'{text}' is no whole number") from None
