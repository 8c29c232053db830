"""Events as values: in objects and lists, as arguments, assigned and compared (IEEE 1800-2017 15.5)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]


def test_each_object_has_its_own(simulate: Run) -> None:
    """An event that is a property is one of the object: another object's waiters are not woken; a static one is one of the class."""
    text = """class gate; event opened; static event any; string name; function new(string n); name = n; endfunction
      task watch(); forever begin @(opened); $display("%0t %s opened", $time, name); end endtask
      task open(int after); #after; -> opened; -> any; endtask endclass
    module tb; gate g[3];
      initial begin
        foreach (g[i]) g[i] = new($sformatf("g%0d", i));
        foreach (g[i]) begin automatic int k = i; fork g[k].watch(); join_none end
        fork forever begin @(gate::any); $display("%0t any", $time); end join_none
        fork g[1].open(3); g[2].open(5); join #1 $finish(0);
      end
    endmodule"""
    done = simulate(text, suffix=".sv")
    assert sorted(done.out.splitlines()) == ["3 any", "3 g1 opened", "5 any", "5 g2 opened"], done.out + done.err


def test_as_arguments(simulate: Run) -> None:
    """15.5.5: a task waits for, or triggers, the event that it is given; it may be one of a module, an object or an array."""
    text = """class item; event done; endclass
    module tb; event a, b, list[2]; item it = new;
      task automatic await_one(event e, string n, output time t); @(e); t = $time; $display("%0t %s", $time, n); endtask
      task automatic fire(input event e, input int d); #d -> e; endtask
      task automatic through(ref event e); -> e; endtask
      time t[4];
      initial begin
        fork await_one(a, "a", t[0]); await_one(b, "b", t[1]); await_one(list[1], "list 1", t[2]); await_one(it.done, "done", t[3]);
          fire(b, 2); fire(a, 4); fire(list[0], 5); fire(list[1], 6); fire(it.done, 8); join
        $display("%p", t);
        fork begin @(a) $display("%0t again", $time); end #1 through(a); join
        fork begin wait (it.done.triggered); $display("%0t still", $time); end begin #1 -> it.done; end join
      end
    endmodule"""
    prints(simulate, text, "2 b\n4 a\n6 list 1\n8 done\n'{4, 2, 6, 8}\n9 again\n10 still")


def test_assigned(simulate: Run) -> None:
    """15.5.5.1: behind an assignment both names mean one event. Who waited for the old one before waits on."""
    text = """module tb; event a, b;
      initial begin : waiter @(b); $display("%0t old b", $time); end
      initial begin
        #1 b = a;
        fork begin @(b); $display("%0t by b", $time); end begin @(a); $display("%0t by a", $time); end #2 -> a; join
        fork begin @(a); $display("%0t by a", $time); end #2 -> b; join
        $display("%b %b", a == b, b.triggered);
        #10 $finish(0);
      end
    endmodule"""
    done = simulate(text, suffix=".sv")
    assert sorted(done.out.splitlines()) == ["1 1", "3 by a", "3 by b", "5 by a"], done.out + done.err


def test_compared_and_null(simulate: Run) -> None:
    """15.5.5.2 and 15.5.5.3: an event may be null, which nothing triggers; it is equal to itself and, case or not, to no other."""
    text = """class holder; event e; endclass
    module tb; event a, b; holder h = new;
      function automatic bit same(event x, y); return x == y; endfunction
      initial begin
        automatic event mine, other = a;
        $display("%b %b %b %b", other == a, other === a, other == b, mine != other);
        $display("%b %b %b", same(a, a), same(a, b), same(h.e, h.e));
        mine = null; $display("%b %b", mine == null, a != null);
        -> mine; $display("nothing");
        mine = h.e; h.e = null; $display("%b %b", mine == null, h.e == null);
        fork begin @(mine); $display("%0t mine", $time); end begin #3 -> mine; end join
      end
    endmodule"""
    prints(simulate, text, "1 1 0 1\n1 0 1\n1 1\nnothing\n0 1\n3 mine")


def test_in_lists(simulate: Run) -> None:
    text = """module tb; event waiting[$]; event by_name[string]; event first, second; mailbox #(event) box = new;
      typedef event ev_t; typedef struct { int id; } rec_t;
      initial begin
        waiting.push_back(first); waiting.push_back(second); by_name["second"] = second; box.put(first);
        fork
          begin @(first); $display("%0t first", $time); end
          begin @(by_name["second"]); $display("%0t second", $time); end
          begin ev_t e; #1 box.get(e); -> e; #1 foreach (waiting[i]) if (waiting[i] != e) -> waiting[i]; end
        join
        $display("%0d %b", waiting.size(), waiting[1] == by_name["second"]);
      end
    endmodule"""
    prints(simulate, text, "1 first\n2 second\n2 1")


def test_triggered_holds_for_the_moment(simulate: Run) -> None:
    """15.5.3: also when the trigger came first in the same time step; at the next moment it is over. A trigger may be for later (15.5.1)."""
    text = """class c; event e; endclass
    module tb; c o; event s;
      task automatic late(event x, string n); wait (x.triggered); $display("%0t %s", $time, n); endtask
      initial begin
        o = new; #2; -> o.e; late(o.e, "same moment"); #1 $display("%b", o.e.triggered);
        ->> #4 o.e; $display("%0t goes on", $time); late(o.e, "later");
        -> s; late(s, "of the module"); fork late(s, "at once"); join #1 $display("%b", s.triggered);
      end
    endmodule"""
    prints(simulate, text, "2 same moment\n0\n3 goes on\n7 later\n7 of the module\n7 at once\n0")


def test_with_others_in_one_control(simulate: Run) -> None:
    """An event of an object beside edges, with a condition, awaited in order."""
    text = """class c; event e, f; int n; endclass
    module tb; c o; bit clk; always #5 clk = ~clk; event g;
      initial begin
        o = new; fork #3 -> o.e; #12 -> o.e; #13 o.n = 1; #14 -> o.e; join_none
        repeat (3) begin @(posedge clk or o.e); $display("%0t", $time); end
        @(o.e iff o.n == 1) $display("%0t n", $time);
        fork wait_order (o.e, g, o.f) $display("%0t in order", $time); else $display("%0t not", $time); begin #1 -> o.e; #1 -> g; #1 -> o.f; end join
        $finish(0);
      end
    endmodule"""
    prints(simulate, text, "3\n5\n12\n14 n\n17 in order")


def test_what_only_looks_alike(simulate: Run) -> None:
    """A class of one's own is no event, whatever its name; a name that is assigned in another module leaves the event a signal, which an
    always waits for."""
    text = """package mystd; class named_event; int times; function void fire(); times += 5; endfunction endclass endpackage
    module other; int done; initial done = 4; endmodule
    module tb; import mystd::*; named_event n = new, m; event done; other o();
      initial begin n.fire(); m = n; $display("%0d %b", m.times, m == n); #1 -> done; end always @(done) $display("done %0t", $time);
    endmodule"""
    prints(simulate, text, "5 1\ndone 1", "--top", "tb")


def test_arrays_of_events_in_objects(simulate: Callable[..., Done]) -> None:
    """15.5, table 6-7: each event of an array is one of its own, in each object, in each call of an automatic task."""
    text = """
    module tb;
      class lane #(int N = 2);
        event arrived[N], grid[2][2]; int q[N][$];
        task receive(int p, output int f);
          while (q[p].size() == 0) @(arrived[p]);
          f = q[p].pop_front();
        endtask
        function void send(int p, int v); q[p].push_back(v); -> arrived[p]; endfunction
      endclass
      lane #(.N(3)) x = new; lane y = new;
      task automatic own(int n);
        event e[2];
        fork begin @(e[1]); $display("own %0d %0t", n, $time); end join_none
        #n -> e[0];
        #n -> e[1];
        #1;
      endtask
      initial begin
        fork
          begin int v; x.receive(2, v); $display("x %0d %0t", v, $time); end
          begin int v; y.receive(1, v); $display("y %0d %0t", v, $time); end
          begin @(y.grid[1][0]); $display("grid %0t", $time); end
          own(5); own(4);
        join_none
        #1 x.send(2, 7); -> y.grid[0][1];
        #1 y.send(1, 8); -> x.grid[1][0];
        #1 -> y.grid[1][0];
      end
    endmodule"""
    prints(simulate, text, "x 7 1\ny 8 2\ngrid 3\nown 4 8\nown 5 10\n")


def test_an_event_or_a_clocking_block_if_a_condition_holds(simulate: Callable[..., Done]) -> None:
    """9.4.2.3: the condition is looked at when the event occurs; another event beside it wakes by itself."""
    text = """module tb; event e, other; logic clk = 0, ack = 0; always #5 clk = ~clk;
      clocking cb @(posedge clk); input ack; endclocking
      initial begin @(e iff ack) $display("e %0t", $time); @(e iff !ack or other) $display("other %0t", $time); end
      initial begin @(cb iff ack) $display("cb %0t", $time); end
      initial begin #2 ->e; #20 ack = 1; #1 ->e; #1 ->e; #4 ->other; #10 $finish; end
    endmodule"""
    assert simulate(text, suffix=".sv").out == "e 23\ncb 25\nother 28\n"


def test_an_event_that_is_a_value_is_triggered_with_the_nonblocking_updates(simulate: Callable[..., Done]) -> None:
    """15.5.1: whoever wakes sees what was assigned beside `->>`; after a delay too; of null it does nothing (15.5.5.2)."""
    text = """module tb;
      class gate; event moved; endclass
      gate g; event plain; int level;
      function automatic void poke(event x); ->> x; endfunction
      initial begin
        g = new;
        fork
          begin @(g.moved) $display("moved %0t level %0d", $time, level); end
          begin @plain $display("plain %0t level %0d", $time, level); end
        join_none
        #1 ->> g.moved; poke(plain); level <= 5; #0 #0 $display("before %0d", level);
        #1 ->> #3 g.moved; fork begin @(g.moved) $display("again %0t", $time); end join_none
        #5 begin event none = null; ->> none; end
        $finish;
      end
    endmodule"""
    assert sorted(simulate(text, suffix=".sv").out.splitlines()) == ["again 5", "before 0", "moved 1 level 5", "plain 1 level 5"]
