"""Sources of random numbers: one for each process and each object (IEEE 1800-2017 18.13, 18.14)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]

GATE = (
    "class Gate; rand bit [31:0] a; rand bit [7:0] b; typedef enum {UP, DOWN, STILL} way; rand way w; randc bit [3:0] c; endclass\n"
)


def test_objects(simulate: Run) -> None:
    """18.13.3, 18.14.2: from one seed come the same values, whatever the process draws between; a state that was kept goes on from there."""
    text = """module tb; Gate g, h; string kept; int a; initial begin
      g = new; h = new; g.srandom(7); h.srandom(7);
      for (int i = 0; i < 40; i++) begin
        void'(g.randomize()); void'($urandom); void'(h.randomize());
        if (g.a != h.a || g.b != h.b || g.w != h.w || g.c != h.c) $display("differ %0d", i);
      end
      kept = g.get_randstate(); void'(g.randomize(a)); a = g.a; void'(g.randomize(a)); $display("%b", a == g.a);
      g.set_randstate(kept); void'(g.randomize(a)); $display("%b", a == g.a);
      h.srandom(8); void'(h.randomize()); $display("%b", a == h.a);
    end endmodule"""
    prints(simulate, GATE + text, "0\n1\n0")


def test_methods_are_there_in_every_class(simulate: Run) -> None:
    """18.13.3: of an object that has nothing random, and without a handle from inside; randomize() too (18.6.1)."""
    text = """class Plain; int x; function void again(int s); srandom(s); x = randomize(); endfunction endclass
    module tb; Plain p, q; initial begin p = new; q = new; p.again(3); q.srandom(3); $display("%0d %b", p.x, p.get_randstate() == q.get_randstate()); end endmodule"""
    prints(simulate, text, "1 1")


def test_processes(simulate: Run) -> None:
    """18.13.3 to 18.13.5 of a process; $urandom with a seed (18.13.1); std::randomize, shuffle and randcase draw from the process (18.14.1)."""
    text = """module tb; process me; int x[4], y[4], q[$] = '{1, 2, 3, 4, 5, 6, 7, 8}, r[$]; string kept; int c; initial begin
      me = process::self(); me.srandom(5); foreach (x[i]) x[i] = $urandom; me.srandom(5); foreach (y[i]) y[i] = $urandom; $display("%b", x == y);
      r = q; me.srandom(1); q.shuffle(); me.srandom(1); r.shuffle(); $display("%b", q == r);
      kept = me.get_randstate(); void'(std::randomize(c)); x[0] = c; me.set_randstate(kept); void'(std::randomize(c)); $display("%b", x[0] == c);
      x[0] = $urandom(42); x[1] = $urandom; y[0] = $urandom(42); y[1] = $urandom; $display("%b %b", x[0] == y[0], x[1] == y[1]);
      me.set_randstate("nonsense"); $display("%b", x[1] == $urandom);
    end endmodule"""
    done = prints(simulate, text, "1\n1\n1\n1 1\n0")
    assert "set_randstate: the text comes from no get_randstate, so nothing changes (18.13.5)" in done.err


def test_branches_and_instances(simulate: Run) -> None:
    """18.14.1: what a branch draws doesn't depend on what its siblings draw; an instance begins as any other of its module."""
    text = """module worker; int first, later; initial first = $urandom; initial #1 later = $urandom; endmodule
    module tb; worker a(); worker b(); int got[2][2]; initial begin
      for (int turn = 0; turn < 2; turn++) begin
        process::self().srandom(99);
        fork begin if (turn) repeat (10) void'($urandom); #1; end begin got[turn][0] = $urandom; #1 got[turn][1] = $urandom; end join
      end
      #1 $display("%b %b %b %b", got[0] == got[1], a.first == b.first, a.later == b.later, a.first == a.later);
    end endmodule"""
    prints(simulate, text, "1 1 1 0")
