"""Forms of sequences, properties and of where assertions stand (IEEE 1800-2017 clause 16), tick by tick: `f` where an attempt fails."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done
from tests.systemverilog.test_sequence_variables import ticks

Run = Callable[..., Done]
FAILS = 'else $display("%0d f", tick);'
Row = tuple[str, str, str, dict[str, str]]

FORMS: list[Row] = [
    (
        "16.13.6",
        "sequence s; a ##1 b; endsequence assert property (c |-> s.triggered) FAILS",
        "3 f",
        {"a": "1 0 0 0 0", "b": "0 1 0 0 0", "c": "0 1 0 1 0"},
    ),
    (
        "16.12.15",
        "assert property (case (d) 1, 2: a; 3: b; default: c endcase) FAILS\nassert property (case (d) 7: a; endcase) FAILS",
        "0 f\n3 f",
        {"d": "1 2 3 4 1", "a": "0 1 0 0 1", "b": "0 0 1 0 0", "c": "0 0 0 0 0"},
    ),
    (
        "16.12.9",
        "assert property (a |-> b #-# ##1 c) FAILS\nassert property (a |-> b #=# c) FAILS",
        "3 f\n3 f\n4 f\n4 f",
        {"a": "1 0 0 1 1 0", "b": "1 0 0 0 0 0", "c": "0 1 0 0 0 0"},
    ),
    ("16.9.3", "assert property (a |-> $past(d, 2) == e) FAILS", "3 f", {"a": "0 0 1 1 0", "d": "4 5 6 7 8", "e": "0 0 4 9 0"}),
    (
        "16.9.3",
        "assert property (a |-> $past(d, 1, en) == e) FAILS",
        "4 f",
        {"a": "0 0 0 1 1", "d": "4 5 6 7 8", "en": "1 0 1 0 0", "e": "0 0 0 6 5"},
    ),
    (
        "16.9.9",
        "assert property (a |-> (!x) throughout (##1 b[->2])) FAILS",
        "6 f",
        {"a": "1 0 0 0 1 0 0", "b": "0 1 0 1 0 1 1", "x": "0 0 0 0 0 0 1"},
    ),
    (
        "16.9.10",
        "assert property (a |-> (b ##1 b) within (1 ##3 c)) FAILS",
        "6 f",
        {"a": "1 0 0 0 1 0 0 0", "b": "0 1 1 0 0 1 0 1", "c": "0 0 0 1 0 0 0 1"},
    ),
    (
        "16.9.6",
        "assert property (a |-> (b[*1:5]) intersect (1 ##2 c)) FAILS",
        "4 f",
        {"a": "1 0 0 1 0 0 0", "b": "1 1 1 1 0 0 0", "c": "0 0 1 0 0 1 0"},
    ),
    ("16.9.2.1", "assert property (a |-> b[*0:2] ##1 c) FAILS", "", {"a": "1 0 0 1 0 0", "b": "1 1 0 1 0 0", "c": "0 0 1 0 1 0"}),
    ("16.9.2.1", "assert property (a |-> ##1 b[*0:1] ##1 c) FAILS", "", {"a": "1 1 0 0 0", "b": "0 1 0 0 0", "c": "0 0 1 0 0"}),
    ("16.9.2", "assert property (a |-> b[->2] ##1 c) FAILS", "5 f", {"a": "1 0 0 0 0 0", "b": "0 1 0 0 1 0", "c": "0 0 0 0 0 0"}),
    ("16.9.2", "assert property (a |-> b[=1] ##1 c) FAILS", "4 f", {"a": "1 0 0 0 0 0", "b": "0 1 0 0 1 0", "c": "0 0 0 0 0 0"}),
    ("16.9.2", "assert property (a |-> b[=1] ##1 c) FAILS", "", {"a": "1 0 0 0 0 0", "b": "0 1 0 0 0 0", "c": "0 0 0 0 1 0"}),
    ("16.12.3", "assert property (not (a ##1 b)) FAILS", "1 f\n4 f", {"a": "1 0 0 1 0", "b": "0 1 0 0 1"}),
    ("16.12.6", "assert property (a |=> b |=> c) FAILS", "5 f", {"a": "1 0 0 1 0 0", "b": "0 1 0 0 1 0", "c": "0 0 1 0 0 0"}),
    ("16.9.1", "assert property (a ##[+] b |-> c) FAILS", "2 f", {"a": "1 0 0 0", "b": "1 1 1 0", "c": "0 1 0 0"}),
    (
        "16.9.7",
        "assert property (a |-> (b ##1 c) or (d ##2 e)) FAILS",
        "3 f",
        {"a": "1 1 0 0 0", "b": "1 0 0 0", "c": "0 1 0 0", "d": "0 1 0 0", "e": "0 0 0 0 0"},
    ),
    (
        "16.15",
        "default disable iff (x); assert property (a |-> ##2 b) FAILS",
        "6 f",
        {"a": "1 0 0 0 1 0 0", "b": "0 0 0 0 0 0 0", "x": "0 1 0 0 0 0 0"},
    ),
    (
        "16.14.6",
        "always @(posedge clk) if (en) assert property (a |-> b) FAILS",
        "3 f",
        {"a": "1 0 0 1", "b": "0 0 0 0", "en": "0 0 0 1"},
    ),
    (
        "16.14.6",
        "always @(posedge clk) begin if (en) begin assert property (a |=> b) FAILS end end",
        "4 f",
        {"a": "1 0 0 1 0", "b": "0 0 0 0 0", "en": "0 0 0 1 0"},
    ),
    (
        "16.8",
        "property p(x, y, n = 1); x |-> ##n y; endproperty assert property (p(a, b)) FAILS\nassert property (p(.x(a), .n(2), .y(b))) FAILS",
        "1 f\n2 f\n5 f",
        {"a": "1 0 0 1 0 0", "b": "0 0 0 0 1 0"},
    ),
    ("16.8", "property p(event e, x); @(e) x; endproperty assert property (p(posedge clk, a)) FAILS", "1 f", {"a": "1 0 1"}),
    (
        "27.4",
        'for (genvar i = 0; i < 2; i++) begin : g assert property (a == i |-> b) else $display("%0d f %0d %m", tick, i); end',
        "1 f 0 tb.g[0]\n2 f 1 tb.g[1]",
        {"a": "0 0 1", "b": "1 0 0"},
    ),
    ("16.14.3", 'cover sequence (a ##[1:2] b) $display("%0d c", tick);', "1 c\n2 c", {"a": "1 0 0 0", "b": "0 1 1 0"}),
    ("16.14.3", 'cover property (a ##[1:2] b) $display("%0d c", tick);', "1 c", {"a": "1 0 0 0", "b": "0 1 1 0"}),
    (
        "16.9.3",
        'assert property (a) else $display("%0d %0d %0d", $sampled(d), d, $past(d));',
        "6 6 5",
        {"a": "1 1 0", "d": "4 5 6"},
    ),
    ("16.12.8", "assert property (if (a) b else c) FAILS", "1 f\n2 f", {"a": "1 1 0 0", "b": "1 0 0 0", "c": "0 0 0 1"}),
    (
        "16.12.5",
        "assert property ((a |-> b) and (a |-> ##1 c)) FAILS",
        "0 f\n3 f",
        {"a": "1 0 1 0", "b": "0 0 1 0", "c": "0 1 0 0"},
    ),
    (
        "16.9.3",
        "assert property (a |-> $stable(d)) FAILS\nassert property ($changed(d) |-> e) FAILS\nassert property ($fell(a) |-> e)FAILS",
        "1 f\n1 f\n2 f",
        {"a": "1 1 0 0", "d": "0 1 1 1", "e": "0 0 0 0"},
    ),
    (
        "16.8",
        "sequence s1(x); x[*2]; endsequence sequence s2; s1(a) ##1 s1(b); endsequence assert property (c |-> s2) FAILS",
        "6 f",
        {"c": "1 0 0 0 1 0 0 0", "a": "1 1 0 0 1 1 0 0", "b": "0 0 1 1 0 0 0 0"},
    ),
    ("16.12.12", "assert property (a |-> b until c) FAILS", "4 f", {"a": "1 0 0 1 0 0", "b": "1 1 0 1 0 0", "c": "0 0 1 0 0 0"}),
    ("16.12.12", "assert property (a |-> b until_with c) FAILS", "2 f", {"a": "1 0 0 0", "b": "1 1 0 1", "c": "0 0 1 0"}),
    ("16.12.10", "assert property (a |-> nexttime[2] b) FAILS", "5 f", {"a": "1 0 0 1 0 0", "b": "0 0 1 0 0 0"}),
    ("16.12.11", "assert property (a |-> always [1:2] b) FAILS", "5 f", {"a": "1 0 0 1 0 0", "b": "0 1 1 0 1 0"}),
    ("16.12.13", "assert property (a |-> s_eventually [1:2] b) FAILS", "5 f", {"a": "1 0 0 1 0 0", "b": "0 0 1 0 0 0"}),
    (
        "16.12.7",
        "assert property (a implies b) FAILS\nassert property (a iff b) FAILS",
        "1 f\n1 f\n2 f",
        {"a": "1 1 0 0", "b": "1 0 1 0"},
    ),
    ("11.12", "let both(x, y) = x && y; assert property (both(a, b)) FAILS", "1 f", {"a": "1 1 1", "b": "1 0 1"}),
    (
        "16.6",
        "function bit odd(int v); return v[0]; endfunction assert property (a |-> odd(d)) FAILS",
        "1 f",
        {"a": "1 1 0", "d": "3 4 4"},
    ),
]


def text_of(row: Row) -> str:
    _, assertions, _, driven = row
    return ticks(assertions.replace("FAILS", FAILS), **driven)


@pytest.mark.parametrize("row", FORMS, ids=[f"{k}-{row[0]}" for k, row in enumerate(FORMS)])
def test_form(simulate: Run, row: Row) -> None:
    done = simulate(text_of(row), suffix=".sv")
    assert (done.out.strip(), done.status) == (row[2], 0), done.err


def test_a_procedure_waits_for_a_sequence(simulate: Run) -> None:
    """9.4.2.4, 16.13.6: `@` goes on at each match, after what is assigned at that tick; `.triggered` holds until time goes on."""
    done = simulate(
        ticks(
            """sequence s; a ##1 b; endsequence int q; always @(posedge clk) q <= tick;
               initial forever begin @(s) $display("%0d matched, q %0d, %b", tick, q, s.triggered); #1 if (s.triggered) $display("still"); end
               initial begin wait (s.triggered); $display("%0d first", tick); end""",
            a="1 0 1 1 0",
            b="0 1 0 1 1",
        ),
        suffix=".sv",
    )
    assert (sorted(done.out.split("\n")), done.status) == (
        ["", "1 first", "1 matched, q 1, 1", "3 matched, q 3, 1", "4 matched, q 4, 1"], 0,
    ), done.err  # fmt: skip


def test_a_procedure_comes_by_more_than_once(simulate: Run) -> None:
    """16.14.6: an attempt for each time; an initial procedure begins one alone. What comes by between two ticks (n is 2 from the falling edge on) waits for the next one."""
    done = simulate(
        ticks(
            """always @(posedge clk) repeat (n) assert property (a) else $display("%0d f", tick);
               initial assert property (a) else $display("%0d first", tick);
               always @(negedge clk) if (n == 2) assert property (@(posedge clk) b) else $display("%0d late", tick);""",
            n="0 1 2 0 0",
            a="0 0 0 0 0",
            b="0 0 0 0 0",
        ),
        suffix=".sv",
    )
    assert (done.out.split("\n"), done.status) == (["0 first", "1 f", "2 f", "2 f", "2 late", ""], 0), done.err


def test_clocks_that_tick_together(simulate: Run) -> None:
    """16.13: a match at a tick of both clocks begins what stands behind `|=>` at the next tick of the other one, once; one that waited from
    before begins now. c1 rises at 5, 15, 25, 35; c2 at 15, 35. a holds at 5 and 15, so one attempt begins at 15 and one at 35."""
    text = """`timescale 1ns/1ns
    module tb; bit c1, c2, a = 1; always #5 c1 = ~c1; initial begin #15 forever begin c2 = 1; #10 c2 = 0; #10; end end
      assert property (@(posedge c1) a |=> @(posedge c2) 0) begin : fine end else begin : bad $display("%0t", $time); end
      initial begin #17 a = 0; #60 $finish; end
    endmodule"""
    done = simulate(text, suffix=".sv")
    assert (done.out.splitlines(), done.status) == (["15", "35"], 0), done.err


def test_expect(simulate: Run) -> None:
    """16.17: one attempt, begun at the tick after the statement is reached; what it does when it fails, if nothing is said, is an error."""
    driven = {"a": "0 1 0 0 1 0", "b": "0 0 0 1 0 0"}
    body = """initial begin
      expect (a ##1 b) $display("%0d yes", tick); else $display("%0d no", tick);
      expect (a ##[1:3] b) else $display("%0d no", tick);
      $display("%0d on", tick);
      expect (a) else; $display("%0d last", tick);
      expect (b);
    end
    initial @(posedge clk) expect (a) $display("%0d: not at the tick of the same moment", tick);"""
    done = simulate(ticks(body, **driven), suffix=".sv")
    assert done.out.splitlines() == ["0 no", "1: not at the tick of the same moment", "3 on", "4 last"]
    assert (done.status, done.err.count("expect failed")) == (1, 1)


def test_automatic_variables_are_named(simulate: Run) -> None:
    for body in (
        "always @(posedge clk) for (int i = 0; i < 4; i++) assert property (a == i);",
        "task automatic t(int i); expect (a == i); endtask initial t(1);",
    ):
        done = simulate(ticks(body, a="1"), suffix=".sv")
        assert "the automatic variable 'i' in a concurrent assertion is not supported" in done.err and done.err.count("error") == 1


def test_several_clocks(simulate: Run) -> None:
    """16.13: what stands behind `|=>` begins at the next tick of its own clock after the match, behind `|->` also at the same time. c1 rises at
    5, 15, 25 and so on, c2 at 17, 37, 57; a holds at the ticks of 5, 15 and 45; b until 18, and from 60 on, when `off` ends what is under way."""
    text = """`timescale 1ns/1ns
    module tb; bit c1, c2, a, b, off;
      always #5 c1 = ~c1;
      initial begin #7; forever #10 c2 = ~c2; end
      assert property (@(posedge c1) a |=> @(posedge c2) b) else $display("%0t next", $time);
      assert property (@(posedge c1) disable iff (off) a |-> @(posedge c2) b ##1 b) else $display("%0t two", $time);
      assert property (@(posedge c1) disable iff (off) a |-> @(posedge c2) ##2 b) else $display("%0t dropped at 61 for the one of 45", $time);
      assert property (@(posedge c1) a |-> @(posedge c1) b) else $display("%0t same", $time);
      assert property (@(posedge c1) a |=> @(negedge c1) b) else $display("%0t falling", $time);
      initial begin
        #4 a = 1; b = 1; #2 a = 0; #8 a = 1; #2 a = 0; #2 b = 0; #26 a = 1; #2 a = 0; #14 b = 1; #1 off = 1; #1 off = 0; #50 $finish;
      end
    endmodule"""
    done = simulate(text, suffix=".sv")
    late = "dropped at 61 for the one of 45"
    assert (done.out.splitlines(), done.status) == (
        ["20 falling", "37 two", "37 two", "45 same", "50 falling", "57 next", "57 two", f"57 {late}", f"57 {late}"], 0,
    ), done.err  # fmt: skip
