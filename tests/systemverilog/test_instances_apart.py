"""Signals of the same name in several instances of one module or interface are several signals."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik
from tests.rows import prints

LINKS = """
interface link; logic v, r; logic [3:0] d; modport m(output v, d, input r); modport s(input v, d, output r); endinterface
module fork2(input clk, input rst_n, link.s in, link.m out[2]);
  always_ff @(posedge clk or negedge rst_n) if (!rst_n) out[0].v <= 0; else out[0].v <= in.v;
  always_ff @(posedge clk or negedge rst_n) if (!rst_n) out[1].v <= 0; else out[1].v <= in.v & out[0].v;
  always_comb out[0].d = in.d;
  always_comb out[1].d = out[0].d + 1;
  assign in.r = out[0].r & out[1].r;
endmodule
module sink(input clk, link.s in, output logic [3:0] q);
  assign in.r = 1;
  always_ff @(posedge clk) if (in.v) q <= in.d;
endmodule
module top(input clk, input rst_n, input logic [3:0] d, output logic [3:0] q0, q1, output r);
  link a(), b[2]();
  assign a.d = d; assign a.v = 1; assign r = a.r;
  fork2 f(clk, rst_n, a, b);
  sink s0(clk, b[0], q0), s1(clk, b[1], q1);
endmodule"""


def test_interfaces_in_a_chain_are_no_loop(tmp_path: Path) -> None:
    (tmp_path / "links.sv").write_text(LINKS)
    done = mevrik("lint", tmp_path / "links.sv")
    assert (done.out + done.err).strip() == ""


def test_always_comb_follows_another_instance(simulate: Callable[..., Done]) -> None:
    """IEEE 1800-2017 9.2.2.2.1: what a block writes is not in its sensitivity, but the like of another instance is."""
    bench = """
module tb;
  logic clk = 0, rst_n = 1; logic [3:0] d = 3, q0, q1; wire r;
  top dut(.*);
  initial begin
    #1 clk = 1; #1 clk = 0; #1 rst_n = 0; #1 rst_n = 1;
    repeat (3) begin #1 clk = 1; #1 clk = 0; end
    d = 7;
    #1 $display("%0d %0d %b", dut.b[0].d, dut.b[1].d, r);
    clk = 1; #1 $display("%0d %0d", q0, q1);
  end
endmodule"""
    prints(simulate, LINKS + bench, "7 8 1\n7 8\n")


def test_a_force_holds_in_each_instance(simulate: Callable[..., Done]) -> None:
    """IEEE 1364-2005 9.3.2: a forced value follows its operands until the release of that very signal."""
    text = """
module leaf(input a); wire w = a; reg v; initial v = 0; endmodule
module tb;
  reg p = 0, q = 0; reg [1:0] x = 1;
  leaf one(p), two(q);
  initial begin
    force one.w = x[0]; force two.w = x[1];
    #1 $display("%b %b", one.w, two.w);
    x = 2; #1 $display("%b %b", one.w, two.w);
    release one.w; x = 1; #1 $display("%b %b", one.w, two.w);
    assign one.v = x[0]; assign two.v = x[1];
    #1 x = 3; #1 $display("%b %b", one.v, two.v);
    deassign two.v; x = 0; #1 $display("%b %b", one.v, two.v);
  end
endmodule"""
    prints(simulate, text, "1 0\n0 1\n0 0\n1 1\n0 1\n")
