"""Virtual interfaces with parameters (IEEE 1800-2017 25.9): each form stands for the instances with its own values."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik
from tests.rows import prints

BUS = """
interface bus_if #(parameter int W = 8, parameter type T = logic [3:0]) (input bit clk);
  logic [W-1:0] data; T tag; int unsigned count;
  localparam int TOP = W - 1;
  modport user(output data, tag, ref count, import send);
  function automatic int parity(); return ^data; endfunction
  task send(input logic [W-1:0] d, input T t); @(posedge clk) data = d; tag = t; count += $bits(data); endtask
endinterface
"""


def test_two_widths_side_by_side(simulate: Callable[..., Done]) -> None:
    """Given in full, by name, by default, in a class parameter; an instance that names no value is of the same form as a virtual one
    that names the default."""
    text = (
        BUS
        + """
    class sender #(int W = 8);
      virtual bus_if #(W) vif;
      function new(virtual bus_if #(.W(W)) vif); this.vif = vif; endfunction
      task go(int unsigned n); vif.send(W'(n), 4'hA); endtask
      function string text(); return $sformatf("%0d %h %h %0d %0d", $bits(vif.data), vif.data, vif.tag, vif.count, vif.parity()); endfunction
    endclass
    module tb;
      bit clk; always #5 clk = ~clk;
      bus_if a(clk); bus_if #(8) b(clk); bus_if #(16) c(clk); bus_if #(.W(32), .T(byte)) d(clk); bus_if #(32) e[2] (clk);
      typedef virtual bus_if #(32, byte).user wide_t;
      typedef virtual bus_if plain_t;
      wide_t w; plain_t p[2]; virtual bus_if #(32) each[2];
      sender s8; sender #(16) s16; sender #(32) s32;
      function automatic plain_t either(bit first); return first ? p[0] : p[1]; endfunction
      initial begin
        s8 = new(a); s16 = new(c); s32 = new(e[1]);
        w = d; p = '{a, b}; foreach (each[i]) each[i] = null; each[0] = e[0];
        fork s8.go('h1F3); s16.go('h1F3); s32.go(32'hF00001F3); w.send(32'h80000000, 8'h7F); p[1].send(8'h01, 1); join
        $display("%s | %s | %s", s8.text(), s16.text(), s32.text());
        $display("%h %h %0d %h", w.data, w.tag, d.count, b.data);
        $display("%b %b %b %b", p[0] == s8.vif, p[0] == p[1], each[1] == null, either(0) == p[1]);
        each[0].data = 7; p[0].data[0] = 0;
        $display("%0d %h", e[0].data, a.data);
        $finish;
      end
    endmodule"""
    )
    wanted = """8 f3 a 8 0 | 16 01f3 a 16 1 | 32 f00001f3 a 32 1
80000000 7f 32 01
1 0 1 1
7 f2
"""
    prints(simulate, text, wanted)


def test_another_form_is_no_such_interface(tmp_path: Path) -> None:
    (tmp_path / "t.sv").write_text(
        BUS
        + """module tb; bit clk;
      bus_if #(16) c(clk);
      virtual bus_if #(8) v;
      virtual bus_if #(16) w;
      virtual bus_if #(.X(3)) x;
      initial v = c;
      initial w = c;
    endmodule"""
    )
    done = mevrik("lint", tmp_path / "t.sv")
    said = [line for line in done.err.splitlines() if ": error: " in line]
    assert len(said) == 2
    assert ":14:19: error: an instance of the interface 'bus_if #(W=8" in said[1]
    assert "'bus_if' has no parameter 'X'" in said[0]
