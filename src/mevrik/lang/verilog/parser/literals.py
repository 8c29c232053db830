"""Numbers and strings as they are written (IEEE 1364-2005 3.5 and 3.6, IEEE 1800-2017 5.7 and 5.9)."""

from __future__ import annotations

import re

from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.cursor import Cursor

_RADIX = {"b": 2, "o": 8, "d": 10, "h": 16}
_BITS = {"b": 1, "o": 3, "h": 4}
_NAMES = {"b": "binary", "o": "octal", "d": "decimal", "h": "hexadecimal"}
_BASED = re.compile(r"(?:(\d[\d_]*)\s*)?'\s*([sS]?)([bBoOdDhH])\s*([0-9a-zA-Z?_]+)$")
MAX_WIDTH = 1 << 24


class LiteralParser(Cursor):
    def no_digits(self) -> None:
        """`4'hg`: behind the base stands what is no digit."""
        rest = self.texts[self.i + 1]
        base = rest.lstrip("sS")[:1].lower()
        if base in _NAMES and self.positions[self.i + 1] == self.pos + 1:
            shown = rest[rest.lower().index(base) + 1 :] or "nothing"
            self.fail(self.pos, f"a {_NAMES[base]} number expected behind '{rest[:1]}, found '{shown}'", "number-digit")

    def number(self, text: str, pos: int) -> ast.Expr:
        """A literal (IEEE 1364-2005 3.5)."""
        known = self.numbers.get(text)
        if known is not None:
            return ast.Number(pos, known.width, known.signed, known.val, known.unk, known.fill)
        mark = self.diagnostics.mark()
        made = self._number(text, pos)
        if isinstance(made, ast.Number) and self.diagnostics.mark() == mark:
            self.numbers[text] = made
        return made

    def _number(self, text: str, pos: int) -> ast.Expr:
        if "'" not in text:
            plain = text.replace("_", "")
            if "." in plain or "e" in plain or "E" in plain:
                return ast.RealNumber(pos, float(plain))
            value = int(plain)
            if value >= 1 << 32:
                return ast.Number(pos, max(32, value.bit_length() + 1), True, value, 0)
            return ast.Number(pos, None, True, value, 0)
        if text[0] == "'" and len(text) == 2:
            digit = text[1].lower()
            return ast.Number(pos, None, False, int(digit in "1x"), int(digit in "xz"), fill=True)
        match = _BASED.match(text)
        if match is None:
            self.fail(pos, f"'{text}' is no number", "number")
        signed = bool(match[2])
        base = match[3].lower()
        digits = match[4].replace("_", "").lower().replace("?", "z")
        width = int(match[1].replace("_", "")) if match[1] else None
        if width == 0:
            self.complain(pos, "the width of a number must not be zero", "number")
            width = 1
        if width is not None and width > MAX_WIDTH:
            self.complain(pos, f"a width of {width} bits is more than the {MAX_WIDTH} supported", "number")
            width = MAX_WIDTH
        if base == "d":
            if digits in ("x", "z"):
                size = width or 32
                ones = (1 << size) - 1
                return ast.Number(pos, width, signed, ones if digits == "x" else 0, ones)
            if not digits.isdigit():
                self._bad_digit(pos, text, base, digits, "0123456789")
                digits = "0"
            val, unk = int(digits), 0
        else:
            allowed = "0123456789abcdef"[: _RADIX[base]] + "xz"
            if any(d not in allowed for d in digits):
                self._bad_digit(pos, text, base, digits, allowed)
                digits = "0"
            val, unk = based_value(digits, _BITS[base])
            size = width or max(32, len(digits) * _BITS[base])
            have = len(digits) * _BITS[base]
            if have < size and digits[0] in "xz":  # 3.5.1: x and z extend to the left
                high = ((1 << size) - 1) & ~((1 << have) - 1)
                unk |= high
                if digits[0] == "x":
                    val |= high
        if width is not None:
            keep = (1 << width) - 1
            if (val | unk) & ~keep:
                self.diagnostics.warning(
                    pos, f"'{text}' has more bits than its width of {width}; the upper ones are lost", "number-truncated"
                )
            val &= keep
            unk &= keep
        elif base == "d" and val >= 1 << 32:
            width = val.bit_length() + 1
        elif base != "d" and (val | unk) >= 1 << 32:
            width = max(32, (val | unk).bit_length())
        return ast.Number(pos, width, signed, val, unk)

    def _bad_digit(self, pos: int, text: str, base: str, digits: str, allowed: str) -> None:
        wrong = next(d for d in digits if d not in allowed)
        self.diagnostics.error(pos, f"'{wrong}' is no {_NAMES[base]} digit in the number '{text}'", "number-digit")


def based_value(digits: str, bits: int) -> tuple[int, int]:
    """Value and unknown planes of digits of `bits` bits each; x is (1,1), z is (0,1)."""
    if "x" not in digits and "z" not in digits:
        return int(digits, 1 << bits), 0
    val = unk = 0
    ones = (1 << bits) - 1
    for d in digits:
        val <<= bits
        unk <<= bits
        if d == "x":
            val |= ones
            unk |= ones
        elif d == "z":
            unk |= ones
        else:
            val |= int(d, 16)
    return val, unk


_ESCAPE = re.compile(rb"\\([0-7]{1,3}|x[0-9a-fA-F]{1,2}|\r?\n|[\s\S])")
_ESCAPES = {b"n": b"\n", b"t": b"\t", b"\\": b"\\", b'"': b'"', b"v": b"\v", b"f": b"\f", b"a": b"\a"}


def string_bytes(text: str) -> bytes:
    """The characters of a string literal (IEEE 1364-2005 3.6.3, IEEE 1800-2017 5.9.1)."""
    raw = (text[3:-3] if text.startswith('"""') else text[1:-1]).encode("utf-8", "surrogateescape")

    def replace(match: re.Match[bytes]) -> bytes:
        code = match[1]
        if code[:1].isdigit():
            return bytes([int(code, 8) & 255])
        if code[:1] == b"x" and len(code) > 1:
            return bytes([int(code[1:], 16)])
        if code[-1:] == b"\n" and code != b"n":
            return b""
        return _ESCAPES.get(code, code)

    return _ESCAPE.sub(replace, raw) if b"\\" in raw else raw
