"""Operators, sizes and signs, with results derived by hand from IEEE 1364-2005 clauses 4 and 5.

All cases run in one simulation; each prints one line.
"""

from __future__ import annotations

from collections.abc import Callable

import pytest

# declarations, expression, format, expected text
CASES = [
    # 5.4.1: the carry is lost at 16 bits, kept when the context is 17 bits wide
    ("reg [15:0] a, b, s; initial {a, b} = {16'hFFFF, 16'h0001};", "(a + b) >> 1", "%h", "0000"),
    ("reg [15:0] a, b; initial {a, b} = {16'hFFFF, 16'h0001};", "(a + b + 0) >> 1", "%h", "00008000"),
    # 5.5.1: an expression is signed only if all operands are
    ("reg signed [3:0] a; initial a = -4'sd2;", "a + 1'b0", "%0d", "14"),
    ("reg signed [3:0] a; initial a = -4'sd2;", "a + 4'sd1", "%0d", "-1"),
    ("", "-8'd12 / 3", "%0d", str((2**32 - 12) // 3)),
    ("", "-8'sd12 / 3", "%0d", "-4"),
    # 5.1.5: division truncates towards zero, the sign of % is that of the first operand
    ("", "-7 / 2", "%0d", "-3"),
    ("", "-7 % 3", "%0d", "-1"),
    ("", "7 % -3", "%0d", "1"),
    ("", "5 / 0", "%0d", "x"),
    # table 5-6: powers
    ("", "2 ** 10", "%0d", "1024"),
    ("", "2 ** -1", "%0d", "0"),
    ("", "(-1) ** -3", "%0d", "-1"),
    ("", "0 ** -1", "%0d", "x"),
    # 5.1.7 and 5.1.8: relational with an unknown is x; === compares x and z as they are
    ("", "4'b1x10 == 4'b1x10", "%b", "x"),
    ("", "4'b1x10 === 4'b1x10", "%b", "1"),
    ("", "4'b10zx !== 4'b10xx", "%b", "1"),
    ("", "4'b1x10 == 4'b0x10", "%b", "0"),
    ("", "3'b0x1 < 3'b100", "%b", "x"),
    # 5.1.9: logical and with a known 0 is 0
    ("", "1'bx && 1'b0", "%b", "0"),
    ("", "1'bx || 1'b1", "%b", "1"),
    ("", "1'bx && 1'b1", "%b", "x"),
    ("", "!4'b00x0", "%b", "x"),
    ("", "!4'b01x0", "%b", "0"),
    # tables 5-13 to 5-17
    ("", "4'b01xz & 4'b1111", "%b", "01xx"),
    ("", "4'b01xz | 4'b0000", "%b", "01xx"),
    ("", "4'b01xz ^ 4'b1111", "%b", "10xx"),
    ("", "~4'b01xz", "%b", "10xx"),
    ("", "4'b01xz ~^ 4'b0000", "%b", "10xx"),
    # 5.1.11: reductions
    ("", "&4'b110x", "%b", "0"),
    ("", "|4'b00xz", "%b", "x"),
    ("", "^4'b1101", "%b", "1"),
    ("", "~&4'b1111", "%b", "0"),
    ("", "~^4'b1100", "%b", "1"),
    # 5.1.12: shifts; >>> fills with the sign only in a signed expression
    ("", "8'sb1001_0000 >>> 2", "%b", "11100100"),
    ("", "8'b1001_0000 >>> 2", "%b", "00100100"),
    ("", "4'b0011 << 1'bx", "%b", "xxxx"),
    ("", "8'b0000_0001 << 9", "%b", "00000000"),
    # 5.1.13: an unknown condition merges bit by bit (table 5-20)
    ("", "1'bx ? 4'b0011 : 4'b0101", "%b", "0xx1"),
    # 5.1.14: concatenation and replication
    ("", "{2'b10, 3'b011}", "%b", "10011"),
    ("", "{3{2'b10}}", "%b", "101010"),
    # 5.2.1: bits outside the range are x; an unknown index gives x
    ("reg [7:0] a; initial a = 8'hA5;", "a[3:0]", "%h", "5"),
    ("reg [7:0] a; initial a = 8'hA5;", "a[9]", "%b", "x"),
    ("reg [7:0] a; initial a = 8'hA5;", "a[2'b1x]", "%b", "x"),
    ("reg [7:0] a; integer i; initial begin a = 8'hA5; i = 4; end", "a[i +: 4]", "%h", "a"),
    ("reg [0:7] a; integer i; initial begin a = 8'hA5; i = 4; end", "a[i -: 4]", "%b", "0100"),
    # 3.5.1: sizes, x and z extend to the left
    ("", "8'bx1", "%b", "xxxxxxx1"),
    ("", "8'hz", "%b", "zzzzzzzz"),
    ("", "4'd18", "%0d", "2"),
    # 5.5.2: a signed operand is extended with its sign before the operation
    ("reg signed [3:0] a; reg signed [7:0] b; initial begin a = 4'b1000; b = 0; end", "a + b", "%b", "11111000"),
    # 17.1.1.4: partly unknown digits
    ("", "8'bx1_1z_0000", "%h", "XX0"[1:]),
    ("", "12'b0000_xxxx_zzzz", "%h", "0xz"),
    # wide vectors
    ("", "{64'hFFFFFFFFFFFFFFFF, 64'hFFFFFFFFFFFFFFFF} + 128'd1", "%h", "0" * 32),
    ("", "128'd1 << 100", "%h", "0000001" + "0" * 25),
    ("", "128'h100000000000000000 / 128'h10", "%h", "0" * 15 + "1" + "0" * 16),
    ("", "(100'd1 << 70) > (100'd1 << 69)", "%b", "1"),
    # strings are vectors, eight bits a character (3.6)
    ("", '"AB" == 16\'h4142', "%b", "1"),
]


@pytest.fixture(scope="module")
def printed(tmp_path_factory: pytest.TempPathFactory) -> list[str]:
    from tests.conftest import mevrik

    lines = ["module tb;"]
    for k, (declarations, expression, form, _) in enumerate(CASES):
        lines.append(f"if (1) begin : c{k} {declarations}")
        lines.append(f'initial #{k + 1} $display("{form}", {expression}); end')
    lines.append("endmodule")
    path = tmp_path_factory.mktemp("expr") / "cases.v"
    path.write_text("\n".join(lines))
    done = mevrik("run", path)
    assert done.status == 0, done.err
    return done.out.splitlines()


@pytest.mark.parametrize("k", range(len(CASES)), ids=[c[1] for c in CASES])
def test_expression(printed: list[str], k: int) -> None:
    assert printed[k].strip() == CASES[k][3]


def test_real_conversions(simulate: Callable[..., object]) -> None:
    """4.8.2: a real assigned to an integer is rounded, halves away from zero."""
    done = simulate(
        """module tb; integer i; real r; initial begin
        i = 2.5; $display("%0d", i); i = -2.5; $display("%0d", i); i = 1.49; $display("%0d", i);
        r = 7 / 2; $display("%0.1f", r); r = 7 / 2.0; $display("%0.1f", r); end endmodule"""
    )
    assert done.out.split() == ["3", "-3", "1", "3.0", "3.5"]  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("start", "part", "count", "value"),
    [
        ("x", " + x", 4999, "10000"),
        ("x", " - x + 1", 2000, "-1998"),  # 2 + 2000·(1 - 2)
        ("1.5", " + x", 3000, "6002"),  # real as a whole, 6001.5, then rounded (4.8.2)
        ("x", " * x", 40, "0"),  # 2^41 has no bit in the lower 32
        (
            "(4'd15 + 4'd1 > 4'd0)",
            " + x",
            3000,
            "6000",
        ),  # operands of a comparison are as wide as one another (5.4.1): 15 + 1 is 0 there
    ],
)
def test_a_long_sum(simulate: Callable[..., object], start: str, part: str, count: int, value: str) -> None:
    """As many operands as a generator of text writes are taken as fast as few."""
    done = simulate(f'module tb; integer i, x; initial begin x = 2; i = {start}{part * count}; $display("%0d", i); end endmodule')
    assert done.out.split() == [value]  # type: ignore[attr-defined]
