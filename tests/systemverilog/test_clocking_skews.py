"""When a clocking block samples its inputs and drives its outputs (IEEE 1800-2017 14.3, 14.4, 14.16). The clock rises at 5, 15, 25 and so on."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]


def test_delays_and_other_names(simulate: Run) -> None:
    """Inputs 2 before the edge, #1step and #0; outputs 3 after it; a value of more bits under another name."""
    text = """`timescale 1ns/1ns
    module tb;
      bit clk = 0; always #5 clk = ~clk;
      logic [3:0] d = 0, q, q2; logic en = 0; logic [3:0] own = 'z; wire [3:0] bus = own;
      default clocking cb @(posedge clk);
        default input #2 output #3;
        input d; output q; input #0 en; inout bus; input #1step just = d; output negedge late = q2;
      endclocking
      initial begin #12 d = 1; #2 d = 2; #1 d = 3; en = 1; end
      initial begin
        @(cb) $display("%0t %0d %0d %b", $time, cb.d, cb.just, cb.en);
        @(cb) $display("%0t %0d %0d %b", $time, cb.d, cb.just, cb.en);    // d was 1 at 13, 2 just before 15
        cb.q <= 7; cb.late <= 9; cb.bus <= 5;
        @(q) $display("%0t q %0d", $time, q);
        @(q2) $display("%0t q2 %0d", $time, q2);
        ##1 $display("%0t %0d", $time, cb.bus);
        cb.bus <= 'z; own = 6;
        ##1 $display("%0t %0d", $time, cb.bus);
        cb.q <= ##2 3;
        @(q) $display("%0t q %0d", $time, q);
        cb.q <= 1; cb.q <= 2;                                                // the last one counts
        @(q) $display("%0t q %0d", $time, q);
        $finish;
      end
    endmodule"""
    prints(simulate, text, "5 0 0 0\n15 1 2 1\n18 q 7\n20 q2 9\n25 5\n35 6\n58 q 3\n68 q 2")


def test_edges_as_skews(simulate: Run) -> None:
    """14.4: inputs as they were at the last falling edge (10, 20, 30), outputs at the next one; the clock's own edge is no wait."""
    text = """`timescale 1ns/1ns
    module tb;
      bit clk = 0; always #5 clk = ~clk;
      logic [3:0] d = 0, q = 0, r = 0;
      default clocking cb @(posedge clk);
        default input negedge output negedge; input d; output q; output posedge #2 r;
      endclocking
      initial begin #8 d = 1; #4 d = 2; #6 d = 3; #4 d = 4; end
      initial begin ##1 cb.q <= 5; cb.r <= 6; ##2 cb.q <= 7; #20 $finish; end
      initial begin @(cb); forever @(cb) $display("%0t d %0d", $time, cb.d); end
      always @(q) $display("%0t q %0d", $time, q);
      always @(r) $display("%0t r %0d", $time, r);
    endmodule"""
    prints(simulate, text, "7 r 6\n10 q 5\n15 d 1\n25 d 3\n30 q 7\n35 d 4")


def test_mistakes(simulate: Run) -> None:
    for signals, words in (
        ("output later;", "'later' has to be declared before the clocking block that samples or drives it (14.3)"),
        ("input a = nope;", "'nope' is not declared"),
    ):
        done = simulate(
            f"module tb; bit clk; clocking cb @(posedge clk); {signals} endclocking logic later; endmodule", suffix=".sv"
        )
        assert done.status != 0 and words in done.err and done.err.count("error") == 1, done.err
    done = simulate("module tb; bit a, b, c; clocking cb @(a or b); input negedge c; endclocking endmodule", suffix=".sv")
    assert "an edge as a skew needs a clocking event of one signal (14.4)" in done.err
