"""User-defined primitives (IEEE 1364-2005 clause 8)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done

Run = Callable[..., Done]


def test_combinational_table_and_what_it_leaves_out(simulate: Run) -> None:
    """8.1.6: a combination that no row names gives x; z at an input counts as x."""
    done = simulate(
        """primitive pick(y, s, a, b); output y; input s, a, b;
        table 0 1 ? : 1; 0 0 ? : 0; 1 ? 1 : 1; 1 ? 0 : 0; x 0 0 : 0; endtable endprimitive
        module tb; reg s, a, b; wire y; pick p(y, s, a, b);
        initial begin {s, a, b} = 3'b010; #1 $display("%b", y); s = 1; #1 $display("%b", y); s = 1'bz; a = 0; #1 $display("%b", y);
        a = 1; #1 $display("%b", y); end endmodule"""
    )
    assert done.out.split() == ["1", "0", "0", "x"]


def test_edge_sensitive_with_a_level_that_goes_before(simulate: Run) -> None:
    """8.4, 8.8: a rising edge loads, a level-sensitive row goes before an edge; '-' keeps the state; the initial value counts."""
    done = simulate(
        """primitive dff(q, clk, d, rst); output q; reg q; input clk, d, rst; initial q = 1'b1;
        table r 0 0 : ? : 0; r 1 0 : ? : 1; n ? ? : ? : -; ? * ? : ? : -; ? ? 1 : ? : 0; ? ? n : ? : -; endtable endprimitive
        module tb; reg clk = 0, d = 0, rst = 0; wire q; dff #2 f(q, clk, d, rst);
        initial begin #5 $display("%b", q); clk = 1; #5 $display("%b", q); d = 1; clk = 0; #5 clk = 1; #1 $display("%b", q);
        #4 $display("%b", q); rst = 1; #5 $display("%b", q); clk = 0; #5 clk = 1; #5 $display("%b", q); end endmodule"""
    )
    assert done.out.split() == ["1", "0", "0", "1", "0", "0"]


def test_wrong_tables_are_told(simulate: Run) -> None:
    head = "primitive p(y, a, b); output y; input a, b; table {} endtable endprimitive\nmodule tb; wire y; p u(y, 1'b0, 1'b1); endmodule"
    assert "has 1 inputs" in simulate(head.format("0 : 1;")).err
    assert "no current state" in simulate(head.format("0 1 : ? : 1;")).err
    assert "2 are given" in simulate(head.format("0 1 : 1;").replace("1'b0, 1'b1", "1'b0")).err
