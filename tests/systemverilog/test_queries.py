"""System functions that ask about types, dimensions and bits (IEEE 1800-2017 20.5 to 20.9), and the tasks that tell of the run."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done
from tests.rows import Row, check_rows

AROUND = """
  logic [7:2] v; logic [0:3][9:5] two; int mem [3:0][5]; byte q[$] = '{1, 2, 3}; int d[] = new[4]; int aa[string];
  typedef struct packed { logic [3:0] a; bit b; } pair_t; pair_t p; typedef enum logic [2:0] { A, B = 5, C } letter_t; letter_t e = B;
  typedef struct { int n; shortint s[2]; } loose_t; loose_t l; string text = "lock"; real r; integer i; bit [15:0] word;
  logic [3:0] x4; event ev; logic [7:0] g;
"""

ROWS: list[Row] = [
    ("20.7: left, right, low, high, size of a vector", '$display("%0d %0d %0d %0d %0d", $left(v), $right(v), $low(v), $high(v), $size(v));', "7 2 2 7 6"),
    ("20.7: the direction", '$display("%0d %0d", $increment(v), $increment(two));', "1 -1"),
    ("20.7: of one dimension of several", '$display("%0d %0d %0d %0d", $left(two, 1), $left(two, 2), $size(two, 2), $high(mem, 2));', "0 9 5 4"),
    ("20.7: unpacked dimensions count first", '$display("%0d %0d %0d", $left(mem, 1), $size(mem, 2), $size(mem, 3));', "3 5 32"),
    ("20.7: how many", '$display("%0d %0d %0d %0d", $dimensions(mem), $unpacked_dimensions(mem), $dimensions(two), $unpacked_dimensions(two));', "3 2 2 0"),
    ("20.7: of simple types", '$display("%0d %0d %0d %0d", $dimensions(i), $dimensions(r), $dimensions(text), $size(i));', "1 0 1 32"),
    ("20.7: of a queue and a dynamic array", '$display("%0d %0d %0d %0d", $size(q), $left(q), $right(q), $high(d));', "3 0 2 3"),
    ("20.7: of a dimension that is not there", '$display("%b", $isunknown($left(v, 3)));', "1"),
    ("20.6.2: $bits of types and values", '$display("%0d %0d %0d %0d", $bits(pair_t), $bits(two), $bits(mem), $bits({v, p}));', "5 20 640 11"),
    ("20.6.2: of what varies, as it is now", '$display("%0d %0d", $bits(q), $bits(text));', "24 32"),
    ("20.6.2: in a constant expression", "begin logic [$bits(loose_t)-1:0] wide; $display(\"%0d\", $size(wide)); end", "64"),
    ("20.6.1: $typename", '$display("%s|%s|%s", $typename(int), $typename(logic [3:0]), $typename(real));', "int|logic[3:0]|real"),
    ("20.9: $countones, $onehot, $onehot0", '$display("%0d %b %b %b %b", $countones(8\'b1011x1z0), $onehot(4\'b0100), $onehot(4\'b0110), $onehot0(4\'b0000), $onehot(4\'b0000));', "4 1 0 1 0"),
    ("20.9: $isunknown", '$display("%b %b %b", $isunknown(4\'b10x0), $isunknown(4\'b1z00), $isunknown(4\'b1100));', "1 1 0"),
    ("20.9: $countbits", '$display("%0d %0d %0d", $countbits(8\'b1101xzz0, \'1), $countbits(8\'b1101xzz0, \'x, \'z), $countbits(8\'b1101xzz0, \'0, \'1));', "3 3 5"),
    ("20.8.1: $clog2 of wide numbers", "$display(\"%0d %0d\", $clog2(65'h1_0000_0000_0000_0000), $clog2(65'h1_0000_0000_0000_0001));", "64 65"),
    ("20.5: $signed and $unsigned", "x4 = 4'b1100; i = $signed(x4); $display(\"%0d %0d %b\", i, $unsigned(-4), $signed(4'b1000) >>> 2);", "-4 4294967292 1110"),
    ("20.5: $cast tells whether it could", 'i = $cast(e, 5); $write("%0d ", i); i = $cast(e, 2); $display("%0d %s", i, e.name);', "1 0 B"),
    ("20.5: short reals", 'word = 0; $display("%h %g", $shortrealtobits(0.5), $bitstoshortreal(32\'hc0200000));', "3f000000 -2.5"),
    ("20.10: %p shows whatever it is", 'l = \'{7, \'{1, 2}}; $display("%p %p %p", l, e, text);', "'{n:7, s:'{1, 2}} B \"lock\""),
    ("11.4.14: bits of a stream and their number", "begin byte b[4]; {>>{b}} = 32'h01020304; $display(\"%p %0d\", b, $bits(b)); end", "'{1, 2, 3, 4} 32"),
    ("16.9.3 outside of assertions: $sampled is what was before this moment", "g = 1; #1 g = 2; $display(\"%0d %0d\", $sampled(g), g);", "1 2"),
]  # fmt: skip


def test_rows(simulate: Callable[..., Done]) -> None:
    check_rows(simulate, ROWS, AROUND)


def test_printtimescale(simulate: Callable[..., Done]) -> None:
    """IEEE 1364-2005 17.3.1: of this module, or of the one that is named."""
    text = """`timescale 1 ms / 1 us
    module inner; endmodule
    `timescale 10 ns / 1 ps
    module tb; inner u(); initial begin $printtimescale; $printtimescale(u); $printtimescale(tb.u); end endmodule"""
    assert simulate(text).out.splitlines() == [
        "Time scale of (tb) is 10ns / 1ps", "Time scale of (tb.u) is 1ms / 1us", "Time scale of (tb.u) is 1ms / 1us",
    ]  # fmt: skip


def test_stop_ends_a_run_that_nobody_watches(simulate: Callable[..., Done]) -> None:
    """17.4.2: it suspends the simulation, which in a run from the command line is its end; it is said, and no error."""
    done = simulate('module tb; initial begin $display("before"); #5 $stop; $display("after"); end endmodule')
    assert done.out == "before\n" and done.status == 0
    assert "$stop" in done.err


def test_memories_written_and_read_again(simulate: Callable[..., Done], tmp_path: Path) -> None:
    """17.2.9, 1800-2017 21.5: what $writemem writes $readmem reads: in the order of addresses, with unknown digits, and from one address on."""
    text = """module tb;
      reg [7:0] m [2:5], n [2:5]; reg [0:11] up [3:0], uq [3:0]; integer k;
      initial begin
        for (k = 2; k <= 5; k = k + 1) m[k] = 8'hA0 + k; m[3] = 8'bxxxx_01z1; m[4] = 8'bz;
        $writememh("h.txt", m); $writememb("b.txt", m); $writememb("part.txt", m, 3, 4);
        $readmemb("b.txt", n); for (k = 2; k <= 5; k = k + 1) $write("%b ", n[k]); $display;
        for (k = 2; k <= 5; k = k + 1) n[k] = 0; $readmemb("part.txt", n); for (k = 2; k <= 5; k = k + 1) $write("%h ", n[k]); $display;
        for (k = 0; k < 4; k = k + 1) up[k] = k * 273; $writememh("up.txt", up); $readmemh("up.txt", uq); $display("%h %h", uq[3], uq[0]);
      end
    endmodule"""
    done = simulate(text)
    assert done.out.splitlines() == ["10100010 xxxx01z1 zzzzzzzz 10100101 ", "00 xZ zz 00 ", "333 000"], done.err
    words = (tmp_path / "b.txt").read_text().split()
    assert [w for w in words if not w.startswith(("//", "@"))] == ["10100010", "xxxx01z1", "zzzzzzzz", "10100101"]
