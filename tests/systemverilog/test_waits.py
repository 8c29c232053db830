"""Waits for what is no signal, events in order, suspended processes: IEEE 1800-2017 9.4, 9.7, 15.5.4, each time worked out by hand."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]


def test_waits_for_contents(simulate: Run) -> None:
    """9.4.3: a condition is looked at again when anything in it changes: the size and the elements of queues, dynamic and associative
    arrays, strings, properties of objects."""
    text = """module tb; int order[$]; int d[]; string s; int m[string]; class K; int q[$]; int n; endclass K k;
    initial begin
      fork
        begin wait (order.size() == 2); $display("two %0t", $time); end
        begin wait (order[0] == 9); $display("nine %0t", $time); end
        begin wait (d.size() == 3); $display("d %0t", $time); end
        begin wait (s == "go"); $display("s %0t", $time); end
        begin wait (m.exists("x")); $display("m %0t", $time); end
        begin @(order.size()); $display("size %0t", $time); end
        begin k = new; wait (k.q.size() > 0); $display("k %0t", $time); end
        begin wait (k.n == 5); $display("n %0t", $time); end
        begin wait (order.size() == 0); $display("empty %0t", $time); end
      join_none
      #1 order.push_back(8); #1 order.push_back(7); #1 order[0] = 9; #1 d = new[3]; #1 s = "go"; #1 m["x"] = 1;
      #1 k.q.push_back(1); #1 k.n = 5; #1 void'(order.pop_front()); void'(order.pop_front()); #1;
    end endmodule"""
    # `empty` is true at once when its branch first runs, in time 0
    prints(simulate, text, "empty 0\nsize 1\ntwo 2\nnine 3\nd 4\ns 5\nm 6\nk 7\nn 8")


def test_waits_through_methods_and_shared_variables(simulate: Run) -> None:
    """9.4.3, 8.20: what a method of a condition reads counts too, of the object's own class; branches share the variables of a task."""
    text = """module tb;
    class Job; int steps; virtual function bit ready(); return steps > 2; endfunction endclass
    class Fast extends Job; virtual function bit ready(); return steps > 0; endfunction endclass
    task automatic both; bit ok = 0; fork begin #5 ok = 1; end begin wait (ok); $display("ok %0t", $time); end join endtask
    mailbox #(int) box = new; Job j, f; Fast q; int aa[int];
    initial begin
      both(); j = new; q = new; f = q;
      fork
        begin wait (j.ready()); $display("ready %0t", $time); end
        begin wait (f.ready()); $display("fast %0t", $time); end
        begin repeat (4) begin #1 j.steps++; f.steps++; end end
      join
      fork begin wait (box.num() == 2); $display("two %0t", $time); end begin #3 box.put(1); #3 box.put(2); end join
      fork wait (aa.num() == 1 && aa[4] == 7) $display("aa %0t", $time); #2 aa[4] = 6; #3 aa[4]++; join
    end endmodule"""
    prints(simulate, text, "ok 5\nfast 6\nready 8\ntwo 15\naa 18")


def test_a_suspended_process_misses_events(simulate: Run) -> None:
    """9.7: suspended while it waits for an event it does not see it; a condition that has become true and a time that has passed count
    when it is resumed."""
    text = """module tb; event go; process p, q, r; int level = 0;
    initial begin
      fork
        begin p = process::self(); forever begin @go; $display("go %0t", $time); end end
        begin q = process::self(); wait (level == 3); $display("level %0t", $time); end
        begin r = process::self(); #2 $display("time %0t", $time); end
      join_none
      #1 p.suspend(); q.suspend(); r.suspend(); -> go; level = 3;
      #4 p.resume(); q.resume(); r.resume(); #1 -> go; #1 $display("%s", p.status().name()); p.kill();
      $display("%s", p.status().name());
    end endmodule"""
    prints(simulate, text, "level 5\ntime 5\ngo 6\nWAITING\nKILLED")


def test_events_in_order(simulate: Run) -> None:
    """15.5.4: in the order given; one that comes too early ends it; those before may come again."""
    text = """module tb; event a, b, c;
    task watch(string what); wait_order(a, b, c) $display("%s in order %0t", what, $time); else $display("%s out of order %0t", what, $time); endtask
    initial begin
      fork watch("1"); begin #1 -> a; #1 -> b; #1 -> c; end join
      fork watch("2"); begin #1 -> a; #1 -> c; #1 -> b; end join
      fork watch("3"); begin #1 -> a; #1 -> a; #1 -> b; #1 -> a; #1 -> c; end join
      fork watch("4"); begin #1 -> b; end join
      fork begin wait_order(a, b); $display("silent %0t", $time); end begin #1 -> a; #1 -> b; end join
      fork begin wait_order(a, b) else $display("failed %0t", $time); end begin #1 -> b; end join
    end endmodule"""
    wanted = "1 in order 3\n2 out of order 5\n3 in order 11\n4 out of order 12\nsilent 14\nfailed 15"
    prints(simulate, text, wanted)


def test_variables_of_a_fork(simulate: Run) -> None:
    """9.3.2: branches share the variables that their fork declares; they get their start values before any branch begins."""
    text = """module tb;
      initial begin
        fork automatic int k = 5; begin #2 k++; $display("k %0d", k); end begin #4 $display("k %0d", k); end join
        for (int i = 0; i < 2; i++) fork automatic int k = i * 10; begin #1 k++; end begin #2 $display("none %0d", k); end join_none
        #5; fork automatic int m = 1; #1 m = 2; begin #3 $display("any %0d", m); end join_any $display("first %0t", $time); #5;
      end
    endmodule"""
    prints(simulate, text, "k 6\nk 6\nnone 1\nnone 11\nfirst 10\nany 2")


def test_automatic_modules(simulate: Run) -> None:
    """6.21, 23.2.1: the lifetime of a module is that of the variables in its blocks, functions and tasks, unless they say otherwise; what
    it declares itself stays static."""
    text = """module automatic tb; int g = 0;
      function int twice(int x); int y = x; y += x; return y; endfunction
      function static int count(); static int n = 0; n++; return n; endfunction
      task wait_for(int d); int start = $time; #d $display("%0d took %0d", d, int'($time) - start); endtask
      initial begin
        for (int i = 0; i < 3; i++) begin int z = g; z++; g += 2; $write("%0d ", z); end $display("%0d %0d %0d", twice(4), count(), count());
        fork wait_for(3); wait_for(5); join
      end
    endmodule"""
    prints(simulate, text, "1 3 5 8 1 2\n3 took 3\n5 took 5")
