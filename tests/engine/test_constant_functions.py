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


def test_constants_keep_the_sign_of_what_makes_them(simulate: Callable[..., Done]) -> None:
    """6.20.2: without a type a parameter is what its value is: F0 hexadecimal, signed, is -16; a part is unsigned."""
    text = """module tb;
      function automatic logic [3:0] f(int x); return x; endfunction
      localparam X = $signed({f(15), 4'h0}), Y = f(9); localparam signed [3:0] Z = f(12);
      typedef struct { string s; int n; } pair_t; localparam pair_t T = '{"ab", -3};
      localparam N = T.n; localparam string S = T.s;
      initial $display("%0d %0d %0d %0d %s", X, Y, Z, N, S);
    endmodule"""
    assert simulate(text, suffix=".sv").out == "-16 9 -4 -3 ab\n"
