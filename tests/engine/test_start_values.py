"""Values that variables have from the start (IEEE 1364-2005 6.2.1, IEEE 1800-2017 6.8) and what they wake."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done

TEXT = """module tb; reg a = 1, c = 0; reg y, z, w; wire n = ~a; integer falls = 0;
  always @* y = a & ~c;
  always @(n) z = n;
  always @* w = 1'b0 & falls[0];
  always @(negedge c) falls = falls + 1;
  initial begin #1 $display("%b%b%b %0d", y, z, w, falls); c = 1; #1 $display("%b%b%b %0d", y, z, w, falls); end
endmodule"""


@pytest.mark.parametrize(("suffix", "first"), [(".v", "100 0"), (".sv", "x0x 0")])
def test_start_values_wake_combinational_logic(simulate: Callable[..., Done], suffix: str, first: str) -> None:
    """In Verilog a start value is an assignment at time 0, for which an `@*` may wait already; it is no edge of a clock here. In
    SystemVerilog it is there before anything runs and wakes nothing; what follows it through a net is woken in both."""
    assert simulate(TEXT, suffix=suffix).out.splitlines() == [first, "000 0" if suffix == ".v" else "00x 0"]


def test_a_netlist_that_a_tool_wrote(simulate: Callable[..., Done]) -> None:
    """Attributes everywhere, escaped names with every sort of character, and a bit whose start value is to wake an `@*`."""
    text = r"""(* dynports = 1 *) (* src = "counter.v:1.1-20.10" *)
    module \\$made$0123abc\\counter (clk, rst, q, \\odd.name[3] );
      reg \\$auto$writer:2083:dump$5  = 0;
      reg [3:0] _00_; (* src = "counter.v:11.12" *) wire [31:0] _01_;
      input clk; wire clk; input rst; wire rst; output [3:0] q; reg [3:0] q; output \\odd.name[3] ; wire \\odd.name[3] ;
      wire [3:0] \\u$1.x ;
      assign _01_ = q + (* src = "counter.v:11.12" *) 32'd1;
      assign \\odd.name[3]  = \\u$1.x [3];
      assign \\u$1.x  = { q[0], q[1], q[2], q[3] };
      always @* begin
        if (\\$auto$writer:2083:dump$5 ) begin end
        _00_ = q;
        (* parallel_case, full_case *) casez (rst) 1'h1: _00_ = 4'h0; default: _00_ = _01_[3:0]; endcase
      end
      always @(posedge clk) begin q <= _00_; end
      (* keep *) \\$_BUF_  \\buf.1 (.A(q[0]), .Y());
    endmodule
    module \\$_BUF_ (A, Y); input A; output Y; assign Y = A; endmodule
    module tb;
      reg clk = 0, rst = 1; wire [3:0] q; wire odd; integer i;
      \\$made$0123abc\\counter  dut (.clk(clk), .rst(rst), .q(q), .\\odd.name[3] (odd));
      initial for (i = 0; i < 5; i = i + 1) begin
        #5 clk = 1; #5 clk = 0;
        if (i == 1) rst = 0;
        $display("%0d %b %b", q, odd, dut.\\buf.1 .Y);
      end
    endmodule""".replace("\\\\", "\\")
    assert simulate(text).out.splitlines() == ["0 0 0", "0 0 0", "1 1 1", "2 0 0", "3 1 1"]


@pytest.mark.parametrize("order", [[], ["--order", "shuffle", "--seed", 4], ["--order", "shuffle", "--seed", 9]])
def test_start_values_come_before_all_processes(simulate: Callable[..., Done], order: list[object]) -> None:
    """6.8: also those that a function computes, in whatever unit: one initial block reads what others declare below it."""
    text = """package p; function automatic int twice(int x); return 2 * x; endfunction int base = twice(20); int list[$] = '{base, 2}; endpackage
    module early; initial $display("%0d %0d %0d", tb.l.v, tb.l.w[1], p::list.size()); endmodule
    module late #(K = 1); int v = p::twice(K) + p::base; int w[2] = '{v, v + 1}; string s = $sformatf("s%0d", v); initial $display("%s", s); endmodule
    module tb; early e (); late #(3) l (); endmodule"""
    assert sorted(simulate(text, *order, "--top", "tb", suffix=".sv").out.splitlines()) == ["46 47 2", "s46"]


@pytest.mark.parametrize("suffix", [".v", ".sv"])
def test_start_values_reach_combinational_logic_behind_ports(simulate: Callable[..., Done], suffix: str) -> None:
    """A port is a net that follows what it is connected to (1364-2005 12.3.9.2), so it changes at time 0: a process that computes is woken,
    with and without a list; one that waits for an edge is not."""
    text = """module gate(input a, b, output reg y, z, output reg [3:0] falls);
      initial falls = 0;
      always @* y = a & b;
      always @(a or b) if (a) z = ~b; else z = b;
      always @(negedge b) falls = falls + 1;
    endmodule
    module tb; reg a = 1, b = 0; wire y, z; wire [3:0] falls; gate g(.a(a), .b(b), .y(y), .z(z), .falls(falls));
      initial begin #1 $display("%b %b %0d", y, z, falls); b = 1; #1 $display("%b %b %0d", y, z, falls); end
    endmodule"""
    assert simulate(text, suffix=suffix).out.splitlines() == ["0 1 0", "1 0 0"]
