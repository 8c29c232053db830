"""Operators of sequences and properties, tick by tick (IEEE 1800-2017 16.9, 16.12)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done

# at the ticks 1 to 10: a 1000100000, b 0110010000, c 0010000100; what is printed is the tick after the one at which an attempt ends
TEXT = """
module tb;
  logic clk = 0; int t = 0;
  logic [1:10] A = 10'b1000100000, B = 10'b0110010000, C = 10'b0010000100;
  logic a, b, c;
  always #5 clk = ~clk;
  // sampled at tick k (time 10k-5): bit k
  initial begin for (int k = 1; k <= 10; k++) begin a = A[k]; b = B[k]; c = C[k]; @(posedge clk); t = k; #1; end $finish; end
  `define P(n, p) n: assert property (@(posedge clk) p) begin if (`"n`" != "") ; end else $display("%s fail %0d", `"n`", t + 1);
  `define Q(n, s) n: cover property (@(posedge clk) s) $display("%s match %0d", `"n`", t + 1);
  `P(p_or,   a |=> ((b ##1 c) or (b ##2 c)))
  `P(p_and,  a |=> ((b ##1 c) and (b ##2 !c)))
  `P(p_int,  a |=> ((b ##[1:2] c) intersect (1 ##2 1)))
  `P(p_thr,  a |=> (!a throughout (b [->2] ##1 !b)))
  `P(p_fus,  a |-> ((a ##1 b) ##0 (b ##1 c)))
  `P(p_if,   a |=> if (b) ##1 c else 0)
  `P(p_if2,  b |-> if (c) 1 else ##1 b)
  `P(p_non,  a |=> b [=2] ##1 c)
  `P(p_rep,  a |=> b [*1:2] ##1 c)
  `P(p_par,  (a ##1 b) |=> (c))
  `P(p_not,  not (b ##1 b))
  `P(p_star, a |-> ##[*] c)
  `Q(q_plus, a ##[+] c)
  `Q(q_fm,   first_match(a ##[1:9] b))
  `Q(q_with, (b ##1 c) within (a ##1 1[*3]))
  `Q(q_fus,  (a ##[0:2] b) ##0 c)
  `Q(q_zero, a ##1 b[*0:1] ##1 b)
endmodule
"""

# name: the tick at which each attempt that fails (p) or matches first (q) ends, worked out by hand from the three rows
ENDS = {
    "p_or": [],  # a 1: b 2, c 3; a 5: b 6, c 8
    "p_and": [7],  # of a 5 the first half wants c at 7
    "p_int": [4],  # both are three ticks long: of a 1 c is wanted at 4, of a 5 at 8
    "p_thr": [],  # of a 1 b goes at 2 and 3, not at 4; of a 5 the second b never comes
    "p_fus": [7],  # the last tick of the one is the first of the other
    "p_if": [7],  # b at 2 wants c at 3, b at 6 wants c at 7
    "p_if2": [7],  # b alone at 2 wants b at 3, at 6 wants b at 7
    "p_non": [6],  # after b at 2 and 3 neither c nor a tick without b may fail to come: at 6 b comes again
    "p_rep": [7],  # b at 2 and c at 3; b at 6 alone, without c at 7
    "p_par": [7],
    "p_not": [3],
    "p_star": [],
    "q_plus": [3, 8],
    "q_fm": [2, 6],
    "q_with": [4],  # from b 2 to c 3 inside of 1 to 4
    "q_fus": [3],
    "q_zero": [2, 6],  # no b in between is enough
}


def test_operators_of_sequences(simulate: Callable[..., Done]) -> None:
    done = simulate(TEXT, suffix=".sv")
    assert done.status == 0, done.err
    found: dict[str, list[int]] = {name: [] for name in ENDS}
    for line in done.out.splitlines():
        name, _, tick = line.split()
        found[name].append(int(tick) - 1)
    assert found == ENDS


STRONG = """
module tb;
  logic clk = 0; int t = 0; logic a, b, c = 1;
  logic [1:8] A = 8'b1000_0100, B = 8'b0010_0000;
  always #5 clk = ~clk;
  initial begin for (int k = 1; k <= 8; k++) begin a = A[k]; b = B[k]; @(posedge clk); t = k; #1; end $finish; end
  `define P(n, p) n: assert property (@(posedge clk) p) else $display("%s %0d", `"n`", t);
  `P(s_eventually_b,  a |-> s_eventually b)
  `P(s_in_two,        a |-> (s_eventually [1:2] b))
  `P(in_two,          a |-> (eventually [1:2] b))
  `P(s_until_b,       a |-> (c s_until b))
  `P(until_b,         a |-> (c until b))
  `P(s_next,          a |-> s_nexttime !a)
  `P(s_third,         a |-> s_nexttime [3] !a)
  `P(third,           a |-> nexttime [3] !a)
  `P(s_throughout,    a |-> s_always [1:3] c)
  `P(throughout_3,    a |-> always [1:3] c)
  `P(s_sequence,      a |-> strong(##[1:$] b ##1 !b))
  `P(a_sequence,      a |-> weak(##[1:$] b ##1 !b))
  `P(never,           not strong(a ##[1:$] (b && a)))
  `P(s_off,           disable iff (t > 6) a |-> s_eventually b)
  in_vain: cover property (@(posedge clk) a |-> s_eventually b);
endmodule"""


def test_strong_properties_fail_when_the_run_ends(simulate: Callable[..., Done]) -> None:
    """16.12.2, 16.12.10 to 16.12.13: what began at 1 is settled; of what began at 6 the strong ones are still open when the last tick was
    8, but for those whose two ticks are over; nothing is open of an attempt that was disabled."""
    done = simulate(STRONG, suffix=".sv")
    assert done.status == 0, done.err
    assert sorted(done.out.split("\n")) == [
        "", "in_two 8", "s_eventually_b 8", "s_in_two 8", "s_sequence 8", "s_third 8", "s_throughout 8", "s_until_b 8",
    ]  # fmt: skip


def test_what_a_strong_property_does_can_not_wait(simulate: Callable[..., Done]) -> None:
    text = 'module tb; logic c, a; assert property (@(posedge c) s_eventually a) else #1 $display("late"); endmodule'
    assert "can't wait: the run may have ended (16.12.2)" in simulate(text, suffix=".sv").err
