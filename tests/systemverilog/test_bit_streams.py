"""Arrays made of bits, of other arrays and of lists: bit-stream casts (IEEE 1800-2017 6.24.3), streams (11.4.14), unpacked array
concatenations (10.10), and which elements correspond (7.6: the leftmost ones, whatever their indexes are)."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done
from tests.rows import Row, check_rows

Run = Callable[..., Done]

AROUND = """
  typedef byte four_t[4]; typedef byte fall_t[3:0]; typedef byte grid_t[1:0][0:1]; typedef byte queue_t[$]; typedef int ints_t[];
  typedef struct {byte a; shortint b; byte c;} rec_t;
  four_t x; fall_t y; grid_t g; queue_t q; rec_t s; int i; byte d[]; int three[3] = '{1, 2, 3}; int five[5]; byte falling[3:0];
"""
ROWS: list[Row] = [
    ("6.24.3: bits to an array", "x = four_t'(32'h01020304); $display(\"%p\", x);", "'{1, 2, 3, 4}"),
    ("6.24.3: the leftmost element is highest", "y = fall_t'(32'h01020304); $display(\"%p %0d\", y, y[3]);", "'{1, 2, 3, 4} 1"),
    ("6.24.3: two dimensions", "g = grid_t'(32'h01020304); $display(\"%p %0d\", g, g[1][1]);", "'{'{1, 2}, '{3, 4}} 2"),
    ("6.24.3: a structure to an array and back", "s = rec_t'(32'h01020304); x = four_t'(s); s = rec_t'(x); $display(\"%p %p\", x, s);",
        "'{1, 2, 3, 4} '{a:1, b:515, c:4}"),
    ("6.24.3: bits to a queue and back", "q = queue_t'(32'h0a0b0c0d); i = int'(q); $display(\"%p %h\", q, i);", "'{10, 11, 12, 13} 0a0b0c0d"),
    ("6.24.3: elements of another size", "q = queue_t'(three); $display(\"%0d %p\", q.size(), q[3:7]);", "12 '{1, 0, 0, 0, 2}"),
    ("11.4.14.3: a stream fills an array from the left", "x = {>>{16'h0102}}; $display(\"%p\", x);", "'{1, 2, 0, 0}"),
    ("11.4.14.2: turned", "y = {<<8{32'h01020304}}; $display(\"%p %h %h\", y, {>>{y}}, {<<8{y}});", "'{4, 3, 2, 1} 04030201 01020304"),
    ("7.6: a list to a falling array", "d = '{1, 2, 3, 4}; y = d; $display(\"%p %0d\", y, y[3]);", "'{1, 2, 3, 4} 1"),
    ("7.6: a falling array to lists", "y[3] = 9; d = y; q = {y, 8'd5}; $display(\"%p %p\", d, q);", "'{9, 2, 3, 4} '{9, 2, 3, 4, 5}"),
    ("7.5.1: new from a falling array", "d = new[2](y); $display(\"%p\", d);", "'{9, 2}"),
    ("11.2.2: a falling array and a list", "d = y; $display(\"%b %b\", y == d, y != d);", "1 0"),
    ("10.10: an array stands for its elements", "five = {three, 77, three[0]}; $display(\"%p\", five);", "'{1, 2, 3, 77, 1}"),
    ("10.10: so does a queue", "q = '{5, 6}; falling = {q, 8'd7, q[0]}; $display(\"%p %0d\", falling, falling[0]);", "'{5, 6, 7, 5} 5"),
]  # fmt: skip


def test_each(simulate: Run) -> None:
    check_rows(simulate, ROWS, AROUND)


@pytest.mark.parametrize(
    "text, said",
    [
        ("initial x = four_t'(24'd1);", "what is cast has 24 bits, its new type 32: they must be as many (6.24.3)"),
        ("initial x = {>>{40'd1}};", "the stream has 40 bits, the array takes 32 (11.4.14.3)"),
        ("byte three[3]; initial x = {three};", "the pattern has 3 values, 4 are needed"),
    ],
)
def test_sizes_that_do_not_fit(text: str, said: str, simulate: Run) -> None:
    assert said in simulate(f"module tb; typedef byte four_t[4]; four_t x; {text} endmodule\n", suffix=".sv").err


PORTS = """
module gate #(W = 4) (input [W-1:0] level = 9, input logic enable = 1'b1, input real rate = 2.5, input byte list[2] = '{7, 8}, output [W-1:0] y);
  assign y = level + enable;
  initial #1 $display("%0d %b %0.1f %p %0d", level, enable, rate, list, y);
endmodule
module fall(input byte list[2:0] = '{7, 8, 9}); initial #1 $display("%p %0d", list, list[2]); endmodule
module old(a, b, y);
  input a; input [3:0] b; output y; logic a; logic [3:0] b; logic y;
  always_comb y = a & b[3];
endmodule
"""


@pytest.mark.parametrize(
    "instance, expected",
    [
        ("gate u();", "9 1 2.5 '{7, 8} 10"),
        ("gate #(6) u(.level(6'd40));", "40 1 2.5 '{7, 8} 41"),
        ("fall u();", "'{7, 8, 9} 7"),
        ("gate u(4'd3, 1'b0);", "3 0 2.5 '{7, 8} 3"),
        ("logic [3:0] level = 2; gate u(.*, .y());", "2 1 2.5 '{7, 8} 3"),
        ("gate u(.enable(), .level(4'd1));", "1 z 2.5 '{7, 8} x"),  # an empty connection is none
        ("wire y; old u(1'b1, 4'h8, y); initial #1 $display(\"%b\", y);", "1"),  # 23.2.2.1: the variable says the type of the port
    ],
)
def test_inputs_that_an_instance_leaves_out(instance: str, expected: str, simulate: Run) -> None:
    """23.2.2.4: they have the default that their declaration gives."""
    assert simulate(f"{PORTS}module tb; {instance} endmodule\n", "--top", "tb", suffix=".sv").out == expected + "\n"
