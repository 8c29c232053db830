"""Regions, delays, events: the order that IEEE 1364-2005 clauses 9 and 11 require."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done

Run = Callable[..., Done]


def test_nonblocking_swap(simulate: Run) -> None:
    """9.2.2: right-hand sides are evaluated first, the updates follow."""
    done = simulate(
        """module tb; reg a = 0, b = 1, clk = 0; always @(posedge clk) a <= b; always @(posedge clk) b <= a;
        initial begin #1 clk = 1; #1 $display("%b%b", a, b); end endmodule"""
    )
    assert done.out == "10\n"


def test_zero_delay_is_inactive_region(simulate: Run) -> None:
    """11.3: #0 runs after all active events of the moment, before nonblocking updates."""
    done = simulate(
        """module tb; reg a; initial begin a = 0; a <= 1; #0 $display("zero %b", a); $strobe("strobe %b", a); end
        initial $display("active"); endmodule"""
    )
    assert done.out == "active\nzero 0\nstrobe 1\n"


def test_monitor_prints_once_a_moment(simulate: Run) -> None:
    """17.1.3: $monitor prints at the end of a moment in which an argument changed; $time alone doesn't count."""
    done = simulate(
        """module tb; reg [3:0] a; initial begin $monitor("%0d %0d", $time, a); a = 1; a = 2; #5 a = 3; #5 a = 3; #5 a = 4;
        #1 $finish; end endmodule"""
    )
    assert done.out == "0 2\n5 3\n15 4\n"


def test_nonblocking_assignment_waits_for_an_event_beside_its_process(simulate: Run) -> None:
    """9.7.7: value, index and count are taken at once and the process goes on; a repeat count of 0 doesn't wait. Edges at 5, 15."""
    done = simulate(
        """module tb; reg clk = 0; reg [3:0] a, m [0:3]; integer i; reg [7:0] v = 0; always #5 clk = ~clk;
        initial begin i = 2; a = 1; m[i] <= @(posedge clk) a; a <= repeat (2) @(posedge clk) 4'd9;
        v[i +: 2] <= repeat (0) @(posedge clk) 2'b11; i = 0; a = 7; $display("on at %0t", $time);
        #1 $display("%0d %b", a, v); #5 $display("%0d %0d %0d", m[2], m[0], a); #10 $display("%0d", a); $finish; end endmodule"""
    )
    assert done.out == "on at 0\n7 00001100\n1 x 7\n9\n"


def test_intra_assignment_delay_samples_at_once(simulate: Run) -> None:
    """9.7.7: the right-hand side is evaluated before the delay."""
    done = simulate(
        """module tb; reg [3:0] a, b; initial begin a = 1; b = #5 a; $display("%0d %0d", $time, b); end
        initial #2 a = 7; endmodule"""
    )
    assert done.out == "5 1\n"


def test_inertial_continuous_assignment(simulate: Run) -> None:
    """6.1.3: a pulse shorter than the delay does not pass."""
    done = simulate(
        """module tb; reg a = 0; wire #10 y = a; initial begin #20 a = 1; #4 a = 0; #30 a = 1; end
        always @(y) if (y !== 1'bx) $display("%0d %b", $time, y); endmodule"""
    )
    assert done.out == "10 0\n64 1\n"


def test_events_and_wait(simulate: Run) -> None:
    """9.7.3 and 9.7.6."""
    done = simulate(
        """module tb; event e; reg go = 0; initial begin @e $display("event %0d", $time); wait (go) $display("go %0d", $time); end
        initial begin #3 -> e; #4 go = 1; end endmodule"""
    )
    assert done.out == "event 3\ngo 7\n"


def test_posedge_from_unknown(simulate: Run) -> None:
    """Table 9-1: 0 to x and x to 1 are rising edges."""
    done = simulate(
        """module tb; reg c = 0; integer n = 0; always @(posedge c) n = n + 1;
        initial begin #1 c = 1'bx; #1 c = 1; #1 c = 1'bz; #1 c = 1; #1 c = 0; #1 $display("%0d", n); end endmodule"""
    )
    assert done.out == "3\n"


def test_fork_join_and_disable(simulate: Run) -> None:
    """9.8.2 and clause 10.3: join waits for all; disable ends a block early."""
    done = simulate(
        """module tb; initial begin fork #5 $display("a"); #2 $display("b"); join $display("joined %0d", $time);
        begin : work #1 $display("one"); disable work; $display("never"); end $display("after %0d", $time); end endmodule"""
    )
    assert done.out == "b\na\njoined 5\none\nafter 6\n"


def test_case_equality_of_casez_and_casex(simulate: Run) -> None:
    """9.5.1: casez ignores z on both sides, casex x and z."""
    done = simulate(
        """module tb; reg [3:0] s; initial begin s = 4'b1z10;
        casez (s) 4'b1010: $display("z matches"); default: $display("no"); endcase
        casex (4'b1x10) 4'b1?10: $display("x matches"); default: $display("no"); endcase
        case (s) 4'b1010: $display("no"); 4'b1z10: $display("exact"); endcase end endmodule"""
    )
    assert done.out == "z matches\nx matches\nexact\n"


def test_endless_loop_is_stopped_and_named(simulate: Run) -> None:
    done = simulate(
        "module tb;\n  integer a = 0;\n  initial\n    while (a < 10)\n      if (a < 9) a = a + 1; else a = 0;\nendmodule\n"
    )
    assert done.status == 1
    assert ":4:" in done.err and "never ends" in done.err


def test_always_without_control_is_refused(simulate: Run) -> None:
    done = simulate("module tb;\n  reg a = 0;\n  always\n    a = ~a;\nendmodule\n")
    assert done.status == 2
    assert ":3:" in done.err and "no delay or event control" in done.err


def test_zero_delay_oscillation_is_stopped_and_named(simulate: Run) -> None:
    done = simulate(
        "module tb;\n  reg go = 0;\n  wire a, b;\n  assign a = go ? ~b : 1'b0;\n  assign b = a;\n  initial #1 go = 1;\nendmodule\n"
    )
    assert done.status == 1
    assert "never settles" in done.err and ("a = go ? ~b" in done.err or ":4:" in done.err)


def test_gates_strength_and_resolution(simulate: Run) -> None:
    """Clause 7 and 4.6: stronger wins, equal strengths of different value give x; wand and wor."""
    done = simulate(
        """module tb; wire s, x; wand wa; wor wo; assign (strong0, strong1) s = 1; assign (pull0, pull1) s = 0;
        assign x = 1; assign x = 0; assign wa = 1; assign wa = 0; assign wo = 1; assign wo = 0;
        initial #1 $display("%b%b%b%b", s, x, wa, wo); endmodule"""
    )
    assert done.out == "1x01\n"


def test_plusargs_parameters_and_defines(simulate: Run) -> None:
    text = """module tb #(parameter N = 1); integer v; initial begin v = 0; $display("%0d %0d", N, `M);
    if ($value$plusargs("LEVEL=%d", v)) $display("level %0d", v); end endmodule"""
    done = simulate(text, "--param", "N=5", "-D", "M=7", "--plus", "LEVEL=42")
    assert done.out == "5 7\nlevel 42\n"


def test_status_after_fatal_and_error(simulate: Run) -> None:
    assert simulate('module tb; initial $fatal(1, "no water"); endmodule', suffix=".sv").status == 1
    assert simulate('module tb; initial $error("no water"); endmodule', suffix=".sv").status == 1
    calm = simulate('module tb; initial $warning("low water"); endmodule', suffix=".sv")
    assert calm.status == 0 and "low water" in calm.err and calm.out == ""


def test_time_limit(simulate: Run) -> None:
    done = simulate('module tb; integer n = 0; always #1 n = n + 1; always #10 $display("%0d", $time); endmodule', "--for", "35")
    assert done.status == 2 and "35" in done.err
    done = simulate('`timescale 1ns/1ns\nmodule tb; always #10 $display("%0d", $time); endmodule', "--for", "35ns")
    assert done.out == "10\n20\n30\n" and done.status == 0


def test_both_compilations_give_the_same(tmp_path: object) -> None:
    """The quick code and the optimised code share all state and must agree."""
    from pathlib import Path

    from mevrik.engine.job import Channel, Job
    from mevrik.engine.simulation import Simulation, prepare
    from mevrik.lang.analysis import analyse

    path = Path(str(tmp_path)) / "lfsr.v"
    path.write_text(
        """module tb; reg clk = 0; reg [15:0] r = 16'hACE1; always #5 clk = ~clk;
        always @(posedge clk) r <= {r[14:0], r[15] ^ r[13] ^ r[12] ^ r[10]}; initial #100003 $finish; endmodule"""
    )

    def run(channel: Channel, level: str) -> None:
        design = analyse([path]).elaborate("tb")
        assert design is not None
        simulation = Simulation(prepare(design), None, level)
        simulation.run()
        channel.send(simulation.peek(simulation.slot("tb.r")).val)

    results = [next(iter(Job(run, level).events())) for level in ("never", "first", "background")]
    expected = 0xACE1
    for _ in range(10000):  # rising edges at 5, 15, … 99995
        bit = (expected >> 15 ^ expected >> 13 ^ expected >> 12 ^ expected >> 10) & 1
        expected = (expected << 1 | bit) & 0xFFFF
    assert results == [expected] * 3


def test_disabling_a_block_leaves_gates_alone(simulate: Run) -> None:
    """9.6.2: a branch disables the fork it belongs to; gates beside it go on (7.2)."""
    done = simulate(
        """module tb; reg a = 0; wire y; not (y, a);
        initial begin
          fork : both begin #3 $display("never"); end begin #1 disable both; end join
          $display("%0d %b", $time, y); a = 1; #1 $display("%b", y);
        end endmodule"""
    )
    assert done.out == "1 1\n0\n"
