"""Ports that are any interface, interfaces inside of interfaces as ports, names that only a modport gives (IEEE 1800-2017 25.3.3, 25.5.4)."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik
from tests.rows import prints

LANES = """
interface lane_if #(parameter int W = 4);
  logic [W-1:0] d; logic v;
  modport src(output d, v, import encode); modport dst(input d, v, import decode);
  function automatic logic [W-1:0] encode(int x); return W'(x) ^ {W{1'b1}}; endfunction
  function automatic int decode(); return d ^ {W{1'b1}}; endfunction
endinterface
interface trunk_if #(parameter int N = 2, W = 4) (input logic clk);
  lane_if #(W) lane[N]();
  logic [N-1:0] active;
  for (genvar i = 0; i < N; i++) begin : g assign active[i] = lane[i].v === 1'b1; end
  function automatic int count(); return $countones(active); endfunction
endinterface
module producer #(parameter int START = 0) (input logic clk, lane_if.src l);
  int n = START;
  always_ff @(posedge clk) begin l.d <= l.encode(n); l.v <= n[0]; n <= n + 1; end
endmodule
module consumer (interface l, input logic clk, output int sum);
  always_ff @(posedge clk) if (l.v) sum <= sum + l.decode();
endmodule
module pair (interface.dst one, lane_if two[2], output int total);
  always_comb total = one.decode() + two[0].decode() * 100 + two[1].decode() * 10000;
endmodule
"""


def test_lanes_of_a_trunk(simulate: Callable[..., Done]) -> None:
    """Producer i sends i, i + 1, ...; the odd ones are valid, and seen a clock later: in six clocks 1 + 3, 1 + 3 + 5 and 3 + 5."""
    text = (
        LANES
        + """
    module tb;
      logic clk = 0; int sums[3], total;
      trunk_if #(.N(3), .W(6)) t(clk); lane_if #(6) more[2]();
      for (genvar i = 0; i < 3; i++) begin : p
        producer #(.START(i)) p(.clk, .l(t.lane[i]));
        consumer c(.l(t.lane[i]), .clk, .sum(sums[i]));
      end
      pair both(t.lane[1], more, total);
      virtual lane_if #(6) v;
      initial begin
        repeat (6) begin #5 clk = 1; #5 clk = 0; end
        $display("%p %0d %b %h", sums, t.count(), t.active, t.lane[2].d);
        more[0].d = ~6'd3; more[1].d = ~6'd4; v = t.lane[0];
        #1 $display("%0d %0d", total, v.decode());
        $finish;
      end
    endmodule"""
    )
    prints(simulate, text, "'{4, 9, 8} 2 101 38\n40306 5\n")


def test_names_of_a_modport(simulate: Callable[..., Done]) -> None:
    text = """
    interface reg_if; logic [7:0] word; logic [3:0][1:0] pairs;
      modport low(output .half(word[3:0]), input .top(word[7:4]), output .one(pairs[2]));
      modport all(input word, pairs);
    endinterface
    module writer(reg_if.low r);
      initial begin r.half = 4'h5; r.one = 2'b10; #2 $display("%h %b", r.top, r.one[1]); r.half = 4'hC; end
    endmodule
    module reader(interface.all r); initial begin #1 $display("%h %b", r.word, r.pairs); #2 $display("%h", r.word); end endmodule
    module tb; reg_if i(); initial i.word[7:4] = 4'hA; writer w(i); reader q(.r(i)); endmodule"""
    prints(simulate, text, "a5 xx10xxxx\na 1\nac\n")


def test_what_is_no_interface_is_told(tmp_path: Path) -> None:
    (tmp_path / "t.sv").write_text(
        LANES + "module tb; logic clk, x; int s; consumer c(x, clk, s); pair p(.one(x), .two(x), .total(s)); endmodule"
    )
    done = mevrik("lint", tmp_path / "t.sv", "--top", "tb")
    said = [line for line in done.err.splitlines() if ": error: " in line]
    assert len(said) == 2
    assert "the port 'l' of 'consumer' needs an instance of an interface" in said[0]


def test_ports_by_reference(simulate: Callable[..., Done]) -> None:
    """23.3.3.2: a port by reference is the variable outside itself, seen by all at once; arrays and strings too, and for reading alone."""
    text = """module sub(ref int n, ref logic [7:0] mem [4], ref string s, const ref bit [3:0] k, input bit clk);
      always @(posedge clk) begin n++; mem[n % 4] <= n; s = {s, "x"}; end
      always @(k) $display("%m k %0d", k);
    endmodule
    module tb; int n = 5; logic [7:0] mem [4] = '{default: 0}; string s = "a"; bit [3:0] k; bit clk;
      sub u1(.n, .mem, .s(s), .k(k), .clk); sub u2(n, mem, s, k, clk);
      initial begin #1 clk = 1; #1 $display("%0d %p %s", n, mem, s); n = 10; k = 3; clk = 0; #1 clk = 1; #1 $display("%0d %p %s %0d", u1.n, mem, u2.s, u2.n); end
    endmodule"""
    prints(simulate, text, "7 '{0, 0, 6, 7} axx\ntb.u1 k 3\ntb.u2 k 3\n12 '{12, 0, 6, 11} axxxx 12")
    done = simulate(text.replace("u2(n,", "u2(mem[1],"), suffix=".sv")
    assert "the port 'n' is a reference: connect a whole variable of the same type (23.3.3.2" in done.err
