"""Constant functions (IEEE 1364-2005 10.4.5): called above their declaration, in ports, in generate blocks, recursive."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done

TEXT = """
module ring #(parameter DEPTH = 12, parameter A = clog(DEPTH)) (input [clog(DEPTH) - 1:0] at);
  localparam B = clog(DEPTH) + 1;
  wire [B - 1:0] wide;
  function integer clog(input integer depth);
    for (clog = 0; depth > 1; clog = clog + 1) depth = (depth + 1) >> 1;
  endfunction
  generate
    if (B == 5) begin : five
      localparam Q = twice(B);
      function integer twice(input integer d); twice = 2 * d; endfunction
      initial #1 $display("%0d", Q);
    end
  endgenerate
  initial $display("%0d %0d %0d", A, $bits(at), $bits(wide));
endmodule
module tb;
  localparam F = factorial(6);
  ring r (4'd0);
  function automatic integer factorial(input integer k);
    factorial = k < 2 ? 1 : k * factorial(k - 1);
  endfunction
  initial #2 $display("%0d", F);
endmodule
"""


def test_called_above_their_declaration(simulate: Callable[..., Done]) -> None:
    """The base-2 logarithm of 12 rounded up is 4; 5 * 2 = 10; 6! = 720."""
    done = simulate(TEXT)
    assert done.out.splitlines() == ["4 4 5", "10", "720"], done.err


def test_a_function_and_a_net_of_one_name(simulate: Callable[..., Done]) -> None:
    """The second of the two is reported, whichever it is."""
    text = "module tb;\nwire f;\nfunction f(input x); f = x; endfunction\nendmodule"
    assert "program.v:3:1: error: 'f' is already declared in line 2" in simulate(text).err
