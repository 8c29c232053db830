"""System tasks for logic arrays (IEEE 1364-2005 17.5), their gates worked out by hand."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints


def test_arrays_and_planes(simulate: Callable[..., Done]) -> None:
    """b1 = a1 & a2 & a5 & a6, b2 = a3 & a4 & a7, b3 = a5 & a6 & a7; then planes, in which x takes the worst case and z nothing.
    The asynchronous ones follow their inputs and the memory."""
    text = """module tb; reg a1, a2, a3, a4, a5, a6, a7; reg b1, b2, b3; reg [1:7] mem[1:3]; reg [0:3] pm[0:1]; reg [3:0] in; reg [0:1] y, n, ys;
    initial begin
      mem[1] = 7'b1100110; mem[2] = 7'b0011001; mem[3] = 7'b0000111; {a1, a2, a3, a4, a5, a6, a7} = 7'b1100110;
      $async$and$array(mem, {a1, a2, a3, a4, a5, a6, a7}, {b1, b2, b3});
      #1 $display("%b%b%b", b1, b2, b3); {a1, a2, a3, a4, a5, a6, a7} = 7'b0011111; #1 $display("%b%b%b", b1, b2, b3); mem[1] = 7'b0000001; #1 $display("%b%b%b", b1, b2, b3);
    end
    initial begin #10 pm[0] = 4'b10z?; pm[1] = 4'bz1x0; in = 4'b1001; $async$and$plane(pm, in, y); $async$nand$plane(pm, in, n); $sync$or$plane(pm, in, ys);
      #1 $display("%b %b %b", y, n, ys); in = 4'b0100; #1 $display("%b %b %b", y, n, ys); in = 4'b1010; #1 $display("%b %b", y, n); $sync$or$plane(pm, in, ys); $display("%b", ys); pm[1] = 4'b1010; #1 $display("%b %b", y, n);
      pm[0] = 4'b0100; $sync$nand$array(pm, in, ys); $display("%b", ys); #1 $finish(0); end
    endmodule"""
    wanted = """
    100
    011
    111
    10 01 1x
    0x 1x 1x
    10 01
    11
    11 00
    10
    """
    prints(simulate, text, wanted)


def test_sizes_that_differ(simulate: Callable[..., Done]) -> None:
    done = simulate("module tb; reg [0:3] m[0:1]; reg [3:0] a; reg y; initial $sync$and$array(m, a, y); endmodule")
    assert done.status != 0
    assert "2 words of 4 bits" in done.err
