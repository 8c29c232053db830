"""Folders as they are found: fragments that other files include, packages included by all who use them, unknown order."""

from __future__ import annotations

from pathlib import Path

from mevrik.project.load import load_project
from tests.conftest import mevrik


def write(folder: Path, **files: str) -> Path:
    for name, text in files.items():
        stem, _, suffix = name.rpartition("_")
        (folder / f"{stem}.{suffix}").write_text(text)
    return folder


def test_fragments_count_where_they_are_included(tmp_path: Path) -> None:
    """A file that others include is not compiled by itself as well, also if it is named: its text may be no module at all."""
    write(
        tmp_path,
        common_v="module half(input a, b, output s, c); assign s = a ^ b, c = a & b; endmodule\n",
        params_v="parameter W = 4;\nlocalparam D = W * `FACTOR;\n",
        funcs_v="`ifndef FUNCS\n`define FUNCS\nfunction [7:0] dbl(input [7:0] x); dbl = x * 2; endfunction\n`endif\n",
        defs_v="`ifndef DEFS\n`define DEFS\n`define FACTOR 2\n`endif\n",
        top_v="""`include "defs.v"
        `include "common.v"
        module tb;
        `include "params.v"
        `include "funcs.v"
          reg a, b; wire s, c; half h(a, b, s, c);
          initial begin a = 1; b = 1; #1 $display("%b%b %0d %0d", s, c, D, dbl(W)); end
        endmodule""",
        unused_v="`ifdef NEVER\n`include \"lonely.v\"\n`endif\n",
        lonely_v="module lonely; initial $display(\"lonely\"); endmodule\n",
    )  # fmt: skip
    for files in ([tmp_path], sorted(tmp_path.iterdir())):
        assert mevrik("run", *files, "--top", "tb").out == "01 8 8\n"
    assert mevrik("lint", tmp_path).err == ""
    # what nobody comes to include is read after all
    assert mevrik("run", tmp_path, "--top", "lonely").out == "lonely\n"


def test_a_package_that_everyone_includes(tmp_path: Path) -> None:
    """The same text a second time declares nothing new; another declaration of the name is still a mistake."""
    write(
        tmp_path,
        types_svh="package types; typedef logic [3:0] n_t; endpackage\ntypedef enum {A, B} outer_t;\n",
        a_sv='`include "types.svh"\nmodule a(input types::n_t x, output types::n_t y); assign y = ~x; endmodule\n',
        tb_sv='`include "types.svh"\nmodule tb; outer_t o; types::n_t x, y; a u (.*); initial begin x = 3; o = B; #1 $display("%0d %s", y, o.name()); end endmodule',
    )
    done = mevrik("run", tmp_path, "--top", "tb")
    assert (done.out, done.err) == ("12 B\n", "")
    (tmp_path / "z.sv").write_text("package types; endpackage\n")
    assert "z.sv:1:1: error: the package 'types' is already declared" in mevrik("lint", tmp_path).err


def test_a_macro_that_declares_several_things_at_one_place(tmp_path: Path) -> None:
    write(tmp_path, m_sv="`define TWO module a; endmodule module b; endmodule\n`TWO\nmodule tb; a x (); b y (); initial $display(\"both\"); endmodule")  # fmt: skip
    assert mevrik("run", tmp_path, "--top", "tb").out == "both\n"


def test_a_library_of_cells_and_a_module_of_globals(tmp_path: Path) -> None:
    """Cells that nothing uses are no subjects and no tops; a module that is only named in paths goes with all subjects."""
    (tmp_path / "cells.v").write_text("""`timescale 1ns/1ps
`celldefine
module INVX1 (output Y, input A); not (Y, A); specify (A => Y) = (0.1, 0.2); endspecify endmodule
module XOR9 (output Y, input A, B); xor (Y, A, B); endmodule
module DFF (output reg Q, input C, D); always @(posedge C or posedge glbl.GSR) if (glbl.GSR) Q <= 0; else Q <= D; endmodule
`endcelldefine
""")
    (tmp_path / "globals.v").write_text("`timescale 1ns/1ps\nmodule glbl; reg GSR = 1; initial #20 GSR = 0; endmodule\n")
    (tmp_path / "top.v").write_text(
        "`timescale 1ns/1ps\nmodule halver(input clk, output q); wire d; INVX1 i(d, q); DFF f(q, clk, d); endmodule\n"
    )
    (tmp_path / "bench.v").write_text("""`timescale 1ns/1ps
module bench; reg clk = 0; wire q; halver dut(clk, q); always #5 clk = ~clk;
  initial begin #18 $display("%b", q); #10 $display("%b", q); #10 $display("%b", q); $finish; end
endmodule
""")
    # edges at 5 and 15 find the reset, those at 25 and 35 halve the clock
    done = mevrik("run", tmp_path)
    assert (done.out, done.err) == ("0\n1\n0\n", "")
    project = load_project(tmp_path)
    assert [(s.name, s.testbench) for s in project.subjects] == [("halver", "bench")]
    assert {p.name for p in project.subjects[0].sources} == {"cells.v", "globals.v", "top.v", "bench.v"}
    assert mevrik("lint", tmp_path).err == ""
