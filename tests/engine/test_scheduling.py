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
        simulation.start_processes()
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


def test_a_testbench_of_tasks_and_forces(simulate: Callable[..., Done]) -> None:
    """1364-2005 9.3, 9.6, 9.8, 10, 12.3, 17.1: two units on one bus, tasks that disable themselves, force and release of a register
    (it keeps the value) and of a net (its drivers come back), assign and deassign, strobe and monitor; each line by hand."""
    text = """
    `timescale 1ns/1ns
    module latch_cell(q, d, en); output q; reg q; input d, en; always @(en or d) if (en) q = d; endmodule
    module bus_unit(data, oe, wr, clk); inout [7:0] data; input oe, wr, clk; reg [7:0] store; assign data = oe ? store : 8'bz;
      always @(posedge clk) if (wr) store <= data; initial store = 8'h00; endmodule
    module tb; reg clk, oe1, oe2, wr1, wr2, drive; reg [7:0] out; wire [7:0] data; integer i, errors; reg [8*12:1] name; event done; reg [7:0] mem [0:3][0:1]; real x; time t0;
      assign data = drive ? out : 8'hzz; bus_unit a(data, oe1, wr1, clk), b(.data(data), .oe(oe2), .wr(wr2), .clk(clk)); wire q; reg d, en; latch_cell l(q, d, en);
      task cycle; begin #5 clk = 1; #5 clk = 0; end endtask
      task put; input [7:0] v; input which; begin : body drive = 1; out = v; if (which) wr2 = 1; else wr1 = 1; cycle; wr1 = 0; wr2 = 0; drive = 0; if (v == 8'hff) disable body; $display("%0t put %h in %0d", $time, v, which); end endtask
      function [7:0] reverse; input [7:0] v; integer k; begin for (k = 0; k < 8; k = k + 1) reverse[k] = v[7 - k]; end endfunction
      always @(done) $display("%0t done %0s", $time, name);
      initial begin
        {clk, oe1, oe2, wr1, wr2, drive, errors} = 0; put(8'ha5, 0); put(8'h5a, 1); put(8'hff, 1); oe1 = 1; #1 $display("%h", data); oe2 = 1; #1 $display("%b", data); oe1 = 0; #1 if (data !== 8'hff) errors = errors + 1;
        force a.store = 8'h11; oe2 = 0; oe1 = 1; #1 $display("%h", data); release a.store; #1 $display("%h", data); force data = 8'h77; #1 $display("%h", data); release data; #1 $display("%h", data);
        en = 1; d = 1; #1 en = 0; d = 0; #1 $display("%b", q); en = 1; assign d = 1; #1 $display("%b", q); d = 0; #1 $display("%b", q); deassign d; d = 0; #1 $display("%b", q);
        name = "buses"; -> done; #1 for (i = 0; i < 4; i = i + 1) mem[i][i % 2] = reverse(i * 16 + 1); $display("%h %h %h", mem[1][1], mem[2][0], mem[0][1]); x = 7.0 / 2; t0 = x; $display("%f %0d %0d", x, t0, $rtoi(x)); $display("%0d", errors);
        fork #3 name = "three"; #1 begin name = "one"; -> done; end join #1 -> done; #1 $strobe("%0t strobe %0d", $time, i); i = 99; $monitor("%0t mon %b", $time, en); #2 en = 0; #2 en = 1; #1 $monitoroff; en = 0; #1 $finish(0);
      end
    endmodule
"""
    wanted = """
    10 put a5 in 0
    20 put 5a in 1
    a5
    1x1xx1x1
    11
    11
    77
    11
    1
    1
    1
    0
    42 done buses
    88 84 xx
    3.500000 4 3
    0
    44 done one
    47 done three
    48 strobe 99
    48 mon 1
    50 mon 0
    52 mon 1
"""
    assert [x.strip() for x in simulate(text).out.splitlines()] == [x.strip() for x in wanted.strip().splitlines()]


TASKS_ELSEWHERE = """
module lamp #(parameter K = 1);
  integer n = 0;
  task burn; begin n = n + K; #10 n = n + 10 * K; #10 n = n + 100 * K; end endtask
  task stop; disable burn; endtask
  task short; input integer t; begin #t; disable short; n = -1; end endtask
endmodule
module hall(input go);
  lamp l();
  always @(posedge go) begin l.burn; $display("%m went on at %0t with %0d", $time, l.n); end
endmodule
module tb;
  reg go = 0;
  hall h1(go), h2(go);
  lamp #(2) big();
  initial begin
    #5 go = 1;
    #12 disable h1.l.burn;
    #20 go = 0; #1 go = 1;
    #5 h2.l.stop;
    #40 $display("%0d %0d at %0t", h1.l.n, h2.l.n, $time);
    fork
      begin big.burn; $display("big at %0t: %0d", $time, big.n); end
      begin #15 big.stop; $display("stopped at %0t", $time); end
      begin big.short(3); $display("short at %0t: %0d", $time, big.n); end
    join
    $finish;
  end
endmodule
"""


def test_a_task_is_disabled_wherever_it_was_called_from(simulate: Run) -> None:
    """IEEE 1364-2005 clause 11: all activations of the task of that instance end, those of other instances go on."""
    done = simulate(TASKS_ELSEWHERE, "--top", "tb")
    lines = done.out.splitlines()
    assert lines[:6] == [
        "tb.h1 went on at 17 with 11",
        "tb.h2 went on at 25 with 111",
        "tb.h2 went on at 43 with 112",
        "tb.h1 went on at 58 with 122",
        "122 112 at 83",
        "short at 86: 2",
    ], done.out + done.err
    assert sorted(lines[6:]) == ["big at 98: 22", "stopped at 98"]


ACROSS = """
`timescale 1ns/1ns
module cell1 #(parameter W = 4) (input [W-1:0] d, output reg [W-1:0] q);
  reg [W-1:0] mem [0:3];
  integer k;
  wire net1 = ^d;
  event done;
  function [W-1:0] twist; input [W-1:0] v; twist = {v[0], v[W-1:1]}; endfunction
  task load; input integer at; input [W-1:0] v; output [W-1:0] old; begin old = mem[at]; mem[at] = v; -> done; end endtask
  initial for (k = 0; k < 4; k = k + 1) mem[k] = k;
  always @(d) q = twist(d);
endmodule
module mid(input [7:0] a, output [7:0] b);
  genvar g;
  generate for (g = 0; g < 2; g = g + 1) begin : lane
    cell1 #(.W(4)) c (.d(a[4*g +: 4]), .q(b[4*g +: 4]));
    defparam c.W = 4;
  end endgenerate
  initial begin : note integer cnt; cnt = 0; #3 cnt = 7; end
endmodule
module top;
  reg [7:0] a; wire [7:0] b; reg [3:0] old;
  mid m(a, b);
  initial begin
    $monitor("%0t m %b %h", $time, m.lane[1].c.net1, m.lane[0].c.q);
    a = 8'h21; #1;
    m.lane[1].c.load(2, 4'hc, old);
    $display("%h %h %h", old, m.lane[1].c.mem[2], m.lane[0].c.mem[2]);
    $display("%h", m.lane[0].c.twist(4'b0011));
    force m.lane[1].c.net1 = 1'b1; #1 release m.lane[1].c.net1; #1;
    #1 $display("cnt %0d", m.note.cnt);
    m.lane[0].c.mem[3] = 4'h9; top.m.lane[0].c.mem[1] <= 4'h5; #1
    $display("%h %h", m.lane[0].c.mem[3], top.m.lane[0].c.mem[1]);
    fork @(m.lane[0].c.done) $display("done at %0t", $time); #2 m.lane[0].c.load(0, 4'h1, old); join
    a = 8'h80; #1 $finish;
  end
endmodule
"""


def test_hierarchical_names_reach_everything(simulate: Run) -> None:
    """IEEE 1364-2005 12.5: memories, functions, tasks, events, nets, variables of named blocks, through generate blocks.

    21 hex: lane 0 gets 0001, which `twist` turns into 1000, lane 1 gets 0010, whose parity is 1; 0011 becomes 1001. The load at 5 + 2
    triggers the event; 80 hex leaves 0 in lane 0 and parity 1 in lane 1."""
    done = simulate(ACROSS, "--top", "top")
    assert done.out.splitlines() == ["0 m 1 8", "2 c 2", "9", "cnt 7", "9 5", "done at 7", "7 m 1 0"], done.out + done.err
