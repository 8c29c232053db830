"""Compiler directives: what they do (IEEE 1364-2005 clause 19, 1800-2017 clause 22), and what is said of wrong ones."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from mevrik.lang.analysis import Options, analyse
from tests.conftest import Done
from tests.rows import prints


def test_unconnected_inputs_are_pulled(simulate: Callable[..., Done]) -> None:
    """19.9: those of modules between the directives; anything stronger that drives the port from inside wins; `resetall ends it."""
    text = """
    `unconnected_drive pull1
    module up(input a, input [2:0] b, input c); initial #1 $display("%b%b%b %v", a, b, c, a); endmodule
    `unconnected_drive pull0
    module down(input a, input b); assign b = 1'b1; initial #2 $display("%b%b", a, b); endmodule
    `nounconnected_drive
    module loose(input a); initial #3 $display("%b", a); endmodule
    `unconnected_drive pull1
    `resetall
    module again(input a); initial #4 $display("%b", a); endmodule
    module tb;
      up u(.a(), .c(1'b0)); down d(); loose l(); again g();
    endmodule"""
    assert simulate(text, "--top", "tb").out.split("\n") == ["11110 Pu1", "01", "z", "z", ""]


def test_reserved_words_of_older_versions(simulate: Callable[..., Done]) -> None:
    """19.11: between the directives only the words of that version are reserved; they nest."""
    text = """
    `begin_keywords "1364-1995"
    module old; reg generate, signed, logic; initial begin generate = 1; signed = 0; logic = generate; $display("%b", logic); end endmodule
    `begin_keywords "1364-2005"
    module mid; reg logic, bit; initial begin #1 logic = 1; bit = ~logic; $display("%b", bit); end endmodule
    `end_keywords
    `end_keywords
    module tb; logic x; old o(); mid m(); endmodule"""
    prints(simulate, text, "1\n0", "--top", "tb")


def test_macros(simulate: Callable[..., Done]) -> None:
    """22.5.1: arguments with parentheses and commas, defaults, empty ones, pasted names, strings, macros of macros over lines."""
    text = r"""
    `define ONE 1
    `define ADD(a, b) ((a) + (b))
    `define DEF(a = 4, b = 5) (a * b)
    `define NAME(x, y) x``_``y
    `define SAY(x) $display(`"x is %0d`", x)
    `define QUOTED(x) $display(`"<`\`"x`\`">`")
    `define TWO_LINES \
      $write("first "); \
      $display("second")
    `define NONE
    module tb;
      int lock_gate = 7;
      initial begin
        $display("%0d %0d", `ADD(`ONE, 2), `ADD({1'b1, 1'b0}, `ADD(5, (6))));
        $display("%0d %0d %0d", `DEF(), `DEF(2), `DEF(, 3));
        $display("%0d", `NAME(lock, gate));
        `SAY(lock_gate);
        `QUOTED(sluice);
        `TWO_LINES;
        `NONE `NONE
      end
    endmodule"""
    prints(simulate, text, '3 13\n20 10 12\n7\nlock_gate is 7\n<"sluice">\nfirst second')


def test_where_one_is(simulate: Callable[..., Done]) -> None:
    """19.7: `line changes what is said of places, in messages too; 22.13: `__FILE__ and `__LINE__."""
    text = 'module tb;\n  initial begin\n    $display("%0d", `__LINE__);\n`line 100 "gate.v" 0\n    $display("%0d", `__LINE__);\n    $error("here");\n  end\nendmodule\n'
    done = simulate(text, suffix=".sv")
    assert done.out == "3\n100\n"
    assert "gate.v:101:5: error: here" in done.err


def test_branches(simulate: Callable[..., Done]) -> None:
    """19.4: nested, with `elsif, and a branch that is not taken is not read."""
    text = """
    `define A
    module tb; initial begin
    `ifdef A `ifndef B $display("A alone"); `else $display("both"); `endif
    `elsif B $display("B"); `unknown_macro ( `endif
    `undef A
    `ifdef A $display("A"); `elsif B $display("B"); `elsif C $display("C"); `else $display("none"); `endif
    `undefineall
    end endmodule"""
    prints(simulate, text, "A alone\nnone")


WRONG = [
    ("`else\nmodule t; endmodule", "`else without an `ifdef before it"),
    ("`ifdef\nmodule t; endmodule\n`endif", "`ifdef needs the name of a macro"),
    ("`define\nmodule t; endmodule", "`define needs a name"),
    ("`timescale 1ns\nmodule t; endmodule", "`timescale needs a unit and a precision, such as 1ns/1ps"),
    ("`timescale 1ps/1ns\nmodule t; endmodule", "the precision of a `timescale can't be coarser than its unit"),
    ("`line 5\nmodule t; endmodule", "`line needs a number, a file name in quotes and a level"),
    ("`include defs.vh\nmodule t; endmodule", "`include needs a file name in quotes"),
    ('`include "t.v"\nmodule t; endmodule', "`include of 't.v' goes round in a circle"),
    ('`include "nowhere.vh"\nmodule t; endmodule', "nowhere.vh"),
    ('`begin_keywords "1066"\nmodule t; endmodule\n`end_keywords', "`begin_keywords needs one of the versions"),
    ("`end_keywords\nmodule t; endmodule", "this `end_keywords has no `begin_keywords before it"),
    ("`unconnected_drive up\nmodule t; endmodule", "`unconnected_drive is followed by pull0 or pull1 (19.9)"),
    ("`default_nettype wir\nmodule t; endmodule", "`default_nettype"),
    ("`define F(a, b) a\nmodule t; initial $display(`F); endmodule", "the macro `F needs its 2 arguments in parentheses"),
    ("`define F(a, b) a\nmodule t; initial $display(`F(1)); endmodule", "`F takes 2 arguments, 1 are given"),
    ("`ifdef A\nmodule t; endmodule", "`ifdef"),
    ("module t; initial $display(`NIX); endmodule", "`NIX"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "said"), WRONG, ids=[said[:30] for _, said in WRONG])
def test_what_is_said(text: str, said: str, tmp_path: Path) -> None:
    """One error, in the line of the directive."""
    path = tmp_path / "t.v"
    path.write_text(text)
    analysis = analyse([path], Options())
    analysis.elaborate("t")
    errors = [d for d in analysis.diagnostics.sorted() if d.severity == "error"]
    assert len(errors) == 1, [d.render() for d in errors]
    assert said in errors[0].message, errors[0].message
