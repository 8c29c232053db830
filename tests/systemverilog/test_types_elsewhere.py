"""Types that another file declares: the form alone tells a declaration from an instance and from an expression."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik

USES = """
module narrow import words::*; #(parameter byte_t [1:0] START = 16'h1234) (
  input byte_t [1:0] in, output words::byte_t [1:0] out, input byte_t one [2]
);
  byte_t [3:0] wide;
  wire byte_t [1:0] swapped = {in[0], in[1]};
  words::byte_t [1:0] kept;
  holder #(int) keep;
  function automatic byte_t [1:0] both(byte_t [1:0] a, input byte_t b); return {a[1], b}; endfunction
  typedef byte_t [2:0] three_t;
  struct packed { byte_t [1:0] pair; byte_t last; } made;
  int count [byte_t];
  three_t three;
  assign out = swapped;
  initial begin
    byte_t [1:0] local_pair;
    automatic holder #(byte_t) other = new(8'h7);
    keep = new(41);
    local_pair = START;
    wide = {in, local_pair};
    kept = both(in, 8'hEE);
    made = '{pair: in, last: 8'h01};
    three = made;
    count[8'h05] = 6;
    wide[0][3:0] = 4'hF;
    #1 $display("%h %h %h %h %h %0d", wide, kept, three, out, one[1], $bits(byte_t [2:0]));
    $display("%0d %0d %0d", keep.value, other.value, count[5]);
  end
endmodule
module t;
  logic [7:0] one [2] = '{8'hA1, 8'hB2};
  logic [15:0] out;
  narrow u (.in(16'hC3D4), .out, .one);
endmodule
"""
DECLARES = """package words;
  typedef logic [7:0] byte_t;
  class holder #(type T = bit); T value; function new(T v); value = v; endfunction endclass
endpackage
"""


def test_the_package_is_read_after_its_users(tmp_path: Path) -> None:
    """wide is C3D4 1234 with a last nibble F; both() joins the first byte and EE."""
    (tmp_path / "a_uses.sv").write_text(USES)
    (tmp_path / "b_declares.sv").write_text(DECLARES)
    done: Done = mevrik("run", tmp_path, "--top", "t")
    assert done.out.splitlines() == ["c3d4123f c3ee c3d401 d4c3 b2 24", "41 7 6"], done.err


def test_structures_of_constants_with_strings(simulate: Callable[..., Done]) -> None:
    """A parameter may be an unpacked structure; a choice between two is constant too (6.20.2, 11.4.11)."""
    text = """
    typedef struct { int depth; string name; bit [3:0] mask; } config_t;
    module unit #(parameter config_t C = '{4, "plain", 4'h3});
      localparam string BOTH = {C.name, "!"};
      localparam int L = C.name.len();
      logic [C.depth - 1:0] v;
      if (C.mask[1]) initial #1 $display("%s %0d %b %s %0d", C.name, $bits(v), C.mask, BOTH, L);
    endmodule
    module tb;
      localparam config_t OTHER = '{name: "other", default: 9};
      unit u ();
      for (genvar k = 0; k < 2; k++) begin : g
        unit #(.C(k ? OTHER : '{6, "direct", 4'hF})) u ();
        unit #(.C('{k + 1, "loop", 4'h2})) v ();
      end
      config_t copy = OTHER;
      initial #2 $display("%s %0d %0d", copy.name, copy.depth, copy.mask);
    endmodule"""
    lines = {"plain 4 0011 plain! 5", "direct 6 1111 direct! 6", "loop 1 0010 loop! 4", "loop 2 0010 loop! 4"}
    done = simulate(text, suffix=".sv")
    assert done.out.splitlines()[-1] == "other 9 9", done.err
    assert set(done.out.splitlines()[:-1]) == lines  # at one moment: in any order


def test_data_outside_of_all_units(simulate: Callable[..., Done]) -> None:
    """3.12.1: variables, nets and their types stand beside the modules and are seen by all of the file behind them."""
    text = """typedef enum {OPEN, SHUT} gate_t;
      int opened = 3; gate_t last = SHUT; logic [3:0] levels[2] = '{4'd1, 4'd2};
      module other; initial #1 opened++; endmodule
      module tb; other o(); initial #2 $display("%0d %s %p %0d", opened, last.name(), levels, $unit::opened); endmodule"""
    assert simulate(text, "--top", "tb", suffix=".sv").out == "4 SHUT '{1, 2} 4\n"
