"""Operators on known, unknown and signed operands: each row gives the value that the clause of IEEE 1364-2005 requires."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest

from tests.conftest import Done

Run = Callable[..., Done]

# (clause, {expression printed with %b: bits})
BITS: dict[str, dict[str, str]] = {
    "5.1.10 bitwise": {
        "4'b01xz & 4'b1111": "01xx",
        "4'b01xz & 4'b0000": "0000",
        "4'b01xz | 4'b1111": "1111",
        "4'b01xz | 4'b0000": "01xx",
        "4'b01xz ^ 4'b1111": "10xx",
        "4'b01xz ~^ 4'b0000": "10xx",
        "~4'b01xz": "10xx",
    },
    "5.1.11 reduction": {
        "&4'b1110": "0",
        "&4'b11x1": "x",
        "&4'b0xx1": "0",
        "|4'b0x00": "x",
        "|4'b1xzz": "1",
        "^4'b0111": "1",
        "^4'b01x1": "x",
        "~&4'b1111": "0",
        "~|4'b0000": "1",
        "~^4'b0110": "1",
    },
    "5.1.8 equality": {
        "4'b1x01 == 4'b1x01": "x",
        "4'b1x01 == 4'b0x01": "0",
        "4'b1x01 != 4'b0x01": "1",
        "4'b1xz1 === 4'b1xz1": "1",
        "4'b1xz1 !== 4'b1xx1": "1",
        "8'hff == 4'hf": "0",
    },
    "5.1.7 relational": {"4'd3 < 4'd4": "1", "4'bx001 < 4'd4": "x", "-1 < 0": "1", "-1 < 32'd0": "0", "4'sb1111 >= 4'sb0000": "0"},
    "5.1.9 logical": {
        "0 && 1'bx": "0",
        "1 && 1'bx": "x",
        "1 || 1'bx": "1",
        "0 || 1'bx": "x",
        "!4'b00x0": "x",
        "!4'b01x0": "0",
        "!4'b0000": "1",
    },
    "5.1.12 shift": {
        "4'b1001 << 1": "0010",
        "4'b1001 >> 1": "0100",
        "4'b1001 >>> 1": "0100",
        "4'sb1001 >>> 1": "1100",
        "4'b1001 << 4": "0000",
        "4'b1001 >> 1'bx": "xxxx",
    },
    "5.1.13 conditional": {
        "1'b1 ? 4'b0011 : 4'b1111": "0011",
        "1'bx ? 4'b0011 : 4'b0101": "0xx1",
        "1'bz ? 4'b1z00 : 4'b1z01": "1x0x",
        "0 ? 2'b11 : 4'b0101": "0101",
    },
    "5.1.14 concatenation": {"{2'b10, 2'b0x}": "100x", "{3{2'b10}}": "101010", "{2{1'b1, 1'bz}}": "1z1z"},
    "3.5.1 sized numbers": {
        "4'bx": "xxxx",
        "6'bz1": "zzzzz1",
        "6'bz": "zzzzzz",
        "4'h1f": "1111",
        "6'o7x": "111xxx",
        "4'sd15": "1111",
    },
    "5.4 widths and signs": {
        "4'sb1000 + 6'sd0": "111000",
        "4'sb1000 + 6'd0": "001000",
        "$signed(4'b1000) + 6'sd0": "111000",
        "{4'd15 + 4'd1}": "0000",
        "4'd15 + 5'd1": "10000",
        "5'd0 + (4'd15 + 4'd1)": "10000",
    },
}

# (clause, {expression printed with %0d: number})
NUMBERS: dict[str, dict[str, str]] = {
    "5.1.5 arithmetic": {
        "-7 / 2": "-3",
        "-7 % 2": "-1",
        "7 % -2": "1",
        "-8'sd7 / 2": "-3",
        "5 / 0": "x",
        "5 % 0": "x",
        "4'd3 + 4'bx": "x",
        "2 ** 10": "1024",
        "(-2) ** 3": "-8",
        "0 ** 0": "1",
        "2 ** -1": "0",
        "1 ** -5": "1",
        "(-1) ** -3": "-1",
        "0 ** -1": "x",
    },
    "5.1.5 unsigned where one operand is": {"-8'd12 / 8'd3": "81", "-8'd12 / 3": "1431655761", "-12 / 32'd3": "1431655761"},
    "17.11.1 $clog2": {"$clog2(1)": "0", "$clog2(2)": "1", "$clog2(9)": "4"},
    "17.8 conversions": {"$rtoi(-2.9)": "-2", "$rtoi(2.9)": "2"},
}

ROWS = [(clause, "b", rows) for clause, rows in BITS.items()] + [(clause, "0d", rows) for clause, rows in NUMBERS.items()]


@pytest.mark.parametrize(("clause", "form", "rows"), ROWS, ids=[r[0] for r in ROWS])
def test_operators_of_constants(simulate: Run, clause: str, form: str, rows: dict[str, str]) -> None:
    prints = " ".join(f'$display("%{form}", {e});' for e in rows)
    done = simulate(f"module tb; initial begin {prints} end endmodule")
    assert dict(zip(rows, done.out.splitlines(), strict=True)) == rows, clause


@pytest.mark.parametrize("clause", ["5.1.10 bitwise", "5.1.11 reduction", "5.1.8 equality", "5.1.12 shift", "5.1.13 conditional"])
def test_operators_of_wide_variables(simulate: Run, clause: str) -> None:
    """The same rows computed at run time, with each literal in a variable, so that nothing is folded beforehand."""
    import re

    declared: list[str] = []

    def variable(match: re.Match[str]) -> str:
        width, signed, digits = match[1], match[2], match[3]
        declared.append(f"reg {'signed' if signed else ''} [{int(width) - 1}:0] v{len(declared)} = {width}'{signed}{digits};")
        return f"v{len(declared) - 1}"

    rows = BITS[clause]
    literal = re.compile(r"([0-9]+)'(s?)([bhd][0-9a-fxz]+)")
    prints = " ".join(f'$display("%b", {literal.sub(variable, e)});' for e in rows)
    done = simulate(f"module tb; {' '.join(declared)} initial #1 begin {prints} end endmodule")
    assert dict(zip(rows, done.out.splitlines(), strict=True)) == rows
