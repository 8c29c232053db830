"""Module paths and timing checks (IEEE 1364-2005 clauses 14 and 15)."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done

Run = Callable[..., Done]
HEAD = "`timescale 1ns/1ns\n"


def test_the_path_of_the_source_that_changed_last_counts(simulate: Run) -> None:
    """14.3.3: of the active paths the shortest; rise and fall have their own delays."""
    done = simulate(
        HEAD
        + """module g(output y, input a, b); and (y, a, b); specify (a => y) = (2, 3); (b => y) = 7; endspecify endmodule
        module tb; reg a = 0, b = 0; wire y; g u(y, a, b); always @(y) if (y !== 1'bx) $display("%0t %b", $time, y);
        initial begin #20 b = 1; #20 a = 1; #20 a = 0; #20 a = 1; #20 b = 0; #20 {a, b} = 2'b00; #20 {a, b} = 2'b11; #20 $finish; end endmodule"""
    )
    assert done.out.splitlines()[1:] == ["42 1", "63 0", "82 1", "107 0", "142 1"]


def test_state_dependent_and_ifnone(simulate: Run) -> None:
    """14.2.4: a condition chooses the path; ifnone holds when no condition does."""
    done = simulate(
        HEAD
        + """module x(output y, input a, b); xor (y, a, b);
        specify if (b) (a => y) = 5; ifnone (a => y) = 2; (b => y) = 9; endspecify endmodule
        module tb; reg a = 0, b = 0; wire y; x u(y, a, b); always @(y) $display("%0t %b", $time, y);
        initial begin #30 a = 1; #30 b = 1; #30 a = 0; #30 $finish; end endmodule"""
    )
    assert done.out.splitlines()[1:] == ["32 1", "69 0", "95 1"]


def test_a_pulse_shorter_than_the_path_is_lost(simulate: Run) -> None:
    """14.6: inertial by default."""
    done = simulate(
        HEAD
        + """module g(output y, input a); buf (y, a); specify (a => y) = 6; endspecify endmodule
        module tb; reg a = 0; wire y; g u(y, a); always @(y) $display("%0t %b", $time, y);
        initial begin #20 a = 1; #4 a = 0; #20 a = 1; #8 a = 0; #20 $finish; end endmodule"""
    )
    assert done.out.splitlines()[1:] == ["50 1", "58 0"]


def test_clock_to_output_and_specparams(simulate: Run) -> None:
    done = simulate(
        HEAD
        + """module ff(output reg q, input clk, d); always @(posedge clk) q <= d;
        specify specparam up = 3, down = 5; (posedge clk => (q +: d)) = (up, down); endspecify endmodule
        module tb; reg clk = 0, d = 1; wire q; ff u(q, clk, d); always @(q) $display("%0t %b", $time, q);
        initial begin #10 clk = 1; #10 begin clk = 0; d = 0; end #10 clk = 1; #20 $finish; end endmodule"""
    )
    assert done.out == "13 1\n35 0\n"


def test_setup_and_hold_with_notifier(simulate: Run) -> None:
    """15.2.1, 15.2.2: data within the limit before or after the clock; the notifier flips, the run goes on."""
    done = simulate(
        HEAD
        + """module ff(input clk, d); reg bad = 0; always @(bad) if ($time > 0) $display("%0t", $time);
        specify $setup(d, posedge clk, 4, bad); $hold(posedge clk, d, 3, bad); endspecify endmodule
        module tb; reg clk = 0, d = 0; ff u(clk, d);
        initial begin #10 d = 1; #4 clk = 1; #5 clk = 0; #5 d = 0; #3 clk = 1; #2 d = 1; #20 clk = 0; #5 clk = 1; #3 d = 0; #9 $finish; end endmodule"""
    )
    assert done.out == "27\n29\n" and done.status == 0
    assert done.err.count("violation") == 2


def test_width_and_period(simulate: Run) -> None:
    done = simulate(
        HEAD
        + """module c(input clk); specify $width(posedge clk, 6); $period(posedge clk, 20); endspecify endmodule
        module tb; reg clk = 0; c u(clk); initial begin #10 clk = 1; #6 clk = 0; #14 clk = 1; #5 clk = 0; #10 clk = 1; #9 $finish; end endmodule"""
    )
    assert "$width violation (at 35 ns)" in done.err and "$period violation (at 45 ns)" in done.err
    assert done.err.count("violation") == 2


def test_mistakes_are_told(simulate: Run) -> None:
    text = (
        HEAD
        + "module g(output [1:0] y, input a); assign y = {a, a};\nspecify\n{}\nendspecify endmodule\nmodule tb; wire [1:0] y; g u(y, 1'b0); endmodule"
    )
    assert ":4:" in simulate(text.replace("{}", "(a => y) = 3;")).err
    assert "1, 2, 3, 6 or 12" in simulate(text.replace("{}", "(a *> y) = (1, 2, 3, 4);")).err
    assert "no timing check" in simulate(text.replace("{}", "$setupp(a, y, 1);")).err


def test_negative_limits_and_the_threshold_of_a_width(simulate: Run) -> None:
    """15.2.3: setup -2 and hold 6 leave the window from 22 to 26 after the edge at 20, so 21 and 26 are outside; setup 6 and hold -2
    leave what is between 6 and 2 before an edge. 15.3.4: a pulse of 2 is as short as the threshold, and no violation."""
    done = simulate(
        HEAD
        + """module c(input clk, d, p); specify $setuphold(posedge clk, d, -2, 6); $width(posedge p, 6, 2); endspecify endmodule
        module e(input clk, d); specify $setuphold(posedge clk, d, 6, -2); endspecify endmodule
        module tb; reg clk = 0, d = 0, p = 0; c u(clk, d, p); e v(clk, d);
        initial begin
          #20 clk = 1; d = 1; #1 d = 0; #2 d = 1; #2 d = 0; #1 d = 1; #4 clk = 0;
          #10 d = 0; #1 clk = 1; #9 clk = 0; #10 d = 1; #3 clk = 1; #9 clk = 0; #10 d = 0; #6 clk = 1; #9 clk = 0;
          #10 p = 1; #2 p = 0; #10 p = 1; #3 p = 0; #10 p = 1; #6 p = 0; #10 $finish; end endmodule"""
    )
    found = [line.split("warning: ")[1] for line in done.err.splitlines()]
    assert found == [*(f"$setuphold violation (at {t} ns)" for t in (23, 25, 63)), "$width violation (at 122 ns)"]


def violations(simulate: Callable[..., Done], check: str, changes: str) -> list[int]:
    """The times at which a timing check of signals a and b speaks; `changes` are pairs of a time and what is assigned then."""
    steps = "\n".join(f"#({time}) {what};" for time, what in (x.split(None, 1) for x in changes.split(",")))
    text = f"""module part(input a, b, c); reg bad; specify {check}; endspecify
      always @(bad) $display("%0d", $time); endmodule
    module tb; reg a = 0, b = 0, c = 1; part u (a, b, c); initial begin {steps} end endmodule"""
    done = simulate(text.replace("specify", "initial bad = 0; specify", 1))
    assert done.status == 0, done.err
    return [int(x) for x in done.out.split()][1:]


CHECKS = [
    # 15.3.4: the timer tells when the limit is over, once; data in time, or a new window, keeps it quiet
    ("$timeskew(posedge a, posedge b, 5, bad)", "10 a = 1, 3 b = 1, 20 $finish", []),
    ("$timeskew(posedge a, posedge b, 5, bad)", "10 a = 1, 8 b = 1, 20 $finish", [15]),
    ("$timeskew(posedge a, posedge b, 5, bad)", "10 a = 1, 1 a = 0, 3 a = 1, 9 b = 1, 20 $finish", [19]),
    # with the event-based flag the late data tells, the first one only; with both flags each of them, as $skew does
    ("$timeskew(posedge a, posedge b, 5, bad, 1)", "10 a = 1, 8 b = 1, 1 b = 0, 1 b = 1, 9 $finish", [18]),
    ("$timeskew(posedge a, posedge b, 5, bad, 1, 1)", "10 a = 1, 8 b = 1, 1 b = 0, 1 b = 1, 9 $finish", [18, 20]),
    ("$timeskew(posedge a, posedge b, 5, bad, 1)", "10 a = 1, 2 b = 1, 1 b = 0, 9 b = 1, 9 $finish", [22]),
    ("$skew(posedge a, posedge b, 5, bad)", "10 a = 1, 5 b = 1, 1 b = 0, 1 b = 1, 9 $finish", [17]),
    # a reference whose condition is false puts it to sleep, unless it is to remain active
    ("$timeskew(posedge a &&& c, posedge b, 9, bad)", "10 a = 1, 1 a = 0, 1 c = 0, 1 a = 1, 20 $finish", []),
    ("$timeskew(posedge a &&& c, posedge b, 9, bad, 0, 1)", "10 a = 1, 1 a = 0, 1 c = 0, 1 a = 1, 20 $finish", [19]),
    # 15.3.5: either may come first, each with its limit
    ("$fullskew(posedge a, posedge b, 5, 3, bad)", "10 a = 1, 4 b = 1, 20 $finish", []),
    ("$fullskew(posedge a, posedge b, 5, 3, bad)", "10 b = 1, 4 a = 1, 20 a = 0, 1 $finish", [13, 19]),
    ("$fullskew(posedge a, posedge b, 5, 3, bad, 1)", "10 b = 1, 4 a = 1, 20 a = 0, 1 $finish", [14]),
    ("$fullskew(posedge a, posedge b, 5, 3, bad, 1)", "10 a = 1, 4 b = 1, 1 b = 0, 9 b = 1, 9 a = 0, 1 a = 1, 9 $finish", [34]),
    # 15.3.6: not while a is high, 2 before and 3 behind included, but for the very ends
    ("$nochange(posedge a, b, 2, 3, bad)", "10 b = 1, 2 a = 1, 5 a = 0, 3 b = 0, 9 $finish", []),
    ("$nochange(posedge a, b, 2, 3, bad)", "11 b = 1, 1 a = 1, 5 a = 0, 2 b = 0, 9 $finish", [12, 19]),
    ("$nochange(posedge a, b, 0, 0, bad)", "10 a = 1, 4 b = 1, 4 a = 0, 1 b = 0, 9 $finish", [14]),
    ("$nochange(posedge a, b, -2, -3, bad)", "10 a = 1, 2 b = 1, 6 b = 0, 2 a = 0, 9 $finish", []),
    ("$nochange(posedge a, b, -2, -3, bad)", "10 a = 1, 5 b = 1, 5 a = 0, 9 $finish", [20]),
    ("$nochange(negedge a, b, 1, 1, bad)", "10 a = 1, 2 b = 1, 6 a = 0, 2 b = 0, 9 $finish", [20]),
    # 15.4: the edges that count by name
    (
        "$setup(b, edge [01, x1] a, 4, bad)",
        "10 b = 1, 2 a = 1, 9 a = 0, 5 b = 0, 1 a = 1'bx, 5 b = 1, 1 a = 1, 9 $finish",
        [12, 33],
    ),
    ("$setup(b, edge [10] a, 4, bad)", "10 b = 1, 2 a = 1, 9 b = 0, 1 a = 0, 3 b = 1, 1 a = 1'bx, 9 $finish", [22]),
    ("$hold(edge [0x, 1x] a, b, 4, bad)", "10 a = 1, 2 b = 1, 9 a = 1'bx, 1 b = 0, 9 $finish", [22]),
    # 15.2.3: conditions of the stamp and of the check in a negative timing check
    ("$setuphold(posedge a, b, 4, 4, bad, c)", "10 b = 1, 1 c = 0, 1 a = 1, 1 b = 0, 9 $finish", [12]),
    ("$setuphold(posedge a, b, 4, 4, bad, , c)", "10 c = 0, 1 b = 1, 1 a = 1, 1 b = 0, 9 $finish", []),
]


@pytest.mark.parametrize(("check", "changes", "wanted"), CHECKS)
def test_when_a_timing_check_speaks(simulate: Callable[..., Done], check: str, changes: str, wanted: list[int]) -> None:
    assert violations(simulate, check, changes) == wanted


def test_delayed_events_drive_the_model(simulate: Callable[..., Done]) -> None:
    """15.5.1: with a setup limit of -3 the clock reaches the model 3 later, so that data 2 behind the clock is taken; the other nets
    follow their inputs at once; the path from the clock still counts from the clock itself (14.4)."""
    text = """module ff(output q, input ck, d); wire dck, dd; reg r, bad; buf (q, r);
      always @(posedge dck) r <= dd;
      specify (posedge ck => (q : d)) = 7; $setuphold(posedge ck, d, -3, 5, bad, , , dck, dd); endspecify endmodule
    module tb; reg ck = 0, d = 0; wire q; ff u (q, ck, d);
      initial begin #10 ck = 1; #2 d = 1; #20 $finish(0); end
      initial $monitor("%0d %b %b %b %b", $time, u.dck, u.dd, u.r, q);
    endmodule"""
    done = simulate(text)
    assert done.out.splitlines() == ["0 x 0 x x", "3 0 0 x x", "12 0 1 x x", "13 1 1 1 x", "17 1 1 1 1"], done.err


def test_the_larger_of_path_and_inner_delays(simulate: Callable[..., Done]) -> None:
    """14.4: 3 + 1 inside and a path of 7 make 7; 3 + 6 inside and a path of 7 make 9; so before any change: 4 and 9, for no source
    has changed then."""
    text = """module g(output y, input a); wire w; buf #3 (w, a); buf #1 (y, w); specify (a => y) = 7; endspecify endmodule
    module h(output y, input a); wire w; buf #3 (w, a); buf #6 (y, w); specify (a => y) = 7; endspecify endmodule
    module s(output y, input a); g inner (y, a); specify (a => y) = (12, 2); endspecify endmodule
    module tb; reg a; wire y, z, w; g u(y, a); h v(z, a); s t(w, a); initial begin #20 a = 1; #20 a = 0; end
      initial #1 $monitor("%0d %b %b %b", $time, y, z, w); endmodule"""
    wanted = ["1 x x x", "27 1 x x", "29 1 1 x", "32 1 1 1", "47 0 1 0", "49 0 0 0"]
    assert simulate(text).out.splitlines() == wanted


def test_a_variable_that_leaves_by_a_path_keeps_its_name(simulate: Run) -> None:
    """14.2: outside of the module the port has the path's delay, by whatever form it is connected; inside, the variable has none."""
    done = simulate(
        HEAD
        + """module dff(q, d, c); output reg [1:0] q; input [1:0] d; input c; always @(posedge c) q <= d; specify (posedge c *> (q +: d)) = 3; endspecify endmodule
        module tb;
          reg [1:0] d = 1; reg c = 0; wire [1:0] by_name, by_order;
          dff f(.d(d), .c(c), .q(by_name)); dff g(by_order, d, c);
          initial begin #10 c = 1; #2 $display("%b %b %b", by_name, by_order, f.q); #2 $display("%b %b", by_name, by_order); end
        endmodule"""
    )
    assert (done.out.splitlines(), done.status) == (["xx xx 01", "01 01"], 0), done.err


def test_paths_at_time_zero(simulate: Run) -> None:
    """Ports change from x at time 0, whether a start value, a procedure or a constant gives them their level: the path's delay counts (14.3)."""
    done = simulate(
        HEAD
        + """module g(output y, input a, b); nand (y, a, b); specify (a => y) = (4, 3); (b => y) = (6, 5); endspecify endmodule
        module tb; reg a = 0, b = 1, c; wire y0, y1, y2; g g0(y0, a, b); g g1(y1, c, b); g g2(y2, 1'b0, 1'b1); initial c = 0;
          always @(y0) $display("%0t y0 %b", $time, y0); always @(y1) $display("%0t y1 %b", $time, y1); always @(y2) $display("%0t y2 %b", $time, y2);
        endmodule"""
    )
    assert (sorted(done.out.splitlines()), done.status) == (["4 y0 1", "4 y1 1", "4 y2 1"], 0), done.err
