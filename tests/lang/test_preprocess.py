"""Compiler directives (IEEE 1364-2005 clause 19)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done

Run = Callable[..., Done]


def test_macros_with_arguments_and_continuation(simulate: Run) -> None:
    done = simulate(
        '`define MAX(a, b) ((a) > (b) ? (a) : (b))\n`define LONG 1 + \\\n  2\nmodule tb; initial $display("%0d %0d", `MAX(3, 2 + 5), `LONG); endmodule'
    )
    assert done.out == "7 3\n"


def test_conditions_nest(simulate: Run) -> None:
    text = """`define A
module tb; initial begin
`ifdef A
  `ifndef B $display("a not b"); `else $display("b"); `endif
`elsif A $display("never");
`else $display("never");
`endif
`undef A
`ifdef A $display("never"); `endif
end endmodule"""
    assert simulate(text).out == "a not b\n"


def test_timescale_rounds_to_the_precision(simulate: Run) -> None:
    """19.8: 1.55 ns in a module of 1ns/100ps is 1.6 ns; $time rounds to whole units."""
    done = simulate(
        """`timescale 1ns/100ps
module tb; initial begin #1.55 $display("%0d %0.1f", $time, $realtime); end endmodule"""
    )
    assert done.out == "2 1.6\n"


def test_line_directive_renames_the_place(simulate: Run) -> None:
    done = simulate('module tb;\n`line 40 "lock.v" 0\n  assign y = 1;\n  initial $display(zz);\nendmodule\n')
    assert "lock.v:41:" in done.err
