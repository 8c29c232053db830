"""Branches of forks: which ones a join waits for, what becomes of them, and that those that have ended leave nothing behind
(IEEE 1800-2017 9.3.2, 9.6, 9.7)."""

from __future__ import annotations

import resource
from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik
from tests.rows import prints


def test_a_join_waits_for_its_own_branches_only(simulate: Callable[..., Done]) -> None:
    """9.3.2: what an earlier join_any left running at 10 is no branch of the later join, which ends at 1 + 20."""
    text = """
    module tb;
      task automatic t;
        fork #1; #10; join_any
        $display("any %0t", $time);
        fork #5; #20; join
        $display("all %0t", $time);
      endtask
      initial begin
        t();
        fork #1; #10 $display("late %0t", $time); join_any
        fork #30; #40; join_any
        $display("second %0t", $time);
        wait fork;
        $display("none %0t", $time);
      end
    endmodule"""
    prints(simulate, text, "any 1\nall 21\nlate 31\nsecond 52\nnone 62\n")


def test_wait_fork_after_a_disabled_task(simulate: Callable[..., Done]) -> None:
    """9.6.1, 9.6.2: the branches of a task that was disabled are no children to wait for."""
    text = """
    module tb;
      task automatic inner; fork #10; #20; join endtask
      initial begin
        fork
          begin : b inner(); end
          #3 disable b;
        join
        wait fork;
        $display("%0t", $time);
        begin : c
          fork #7; join_none
          fork #1 disable c; join_none
          inner();
        end
        wait fork;
        $display("%0t", $time);
      end
    endmodule"""
    prints(simulate, text, "3\n4\n")


SOAK = """
    // many kinds of ends, so that the number or the frame of an ended branch that is used too soon would show
    module tb;
      int n, m, k; event go; semaphore s = new(1); mailbox #(int) mb = new(); process kept[$];
      task automatic nested(int d);
        int own = d;
        if (d == 0) begin #1 n++; return; end
        fork
          begin #(d) nested(d - 1); if (own != d) $display("lost"); end
          begin repeat (2) @(go); m++; end
        join_any
        if (own != d) $display("lost");
      endtask
      task automatic late(int d);
        int own = d * 7;
        fork begin #3; if (own != d * 7) $display("lost"); k++; end join_none
      endtask
      always #2 ->go;
      initial begin
        for (int i = 0; i < 2000; i++) begin
          fork
            begin fork begin s.get(); #1; s.put(); end #(i % 5); join end
            nested(i % 4);
            late(i);
            begin int x; mb.get(x); end
            #1 mb.put(1);
          join_any
          if (i % 3 == 0) disable fork;
          else if (i % 3 == 1) wait fork;
          else begin #6 disable fork; end
          if (i % 10 == 0) begin
            automatic process p;
            fork begin p = process::self(); #2; end join_none
            #1 kept.push_back(p);
            if (i % 20 == 0) p.kill();
            if (kept.size() > 5) begin
              automatic process q = kept.pop_front();
              if (!(q.status() inside {process::FINISHED, process::KILLED})) $display("status %s", q.status().name());
            end
          end
          s = new(1); mb = new();
        end
        $display("%0d", k);
        $finish;
      end
    endmodule"""


def test_branches_of_every_end(simulate: Callable[..., Done]) -> None:
    """`late` returns at once, so join_any goes on at that moment; what it left behind is a grandchild: disable fork ends it in each
    round but those that wait, at least 6, for it to come to its end after 3."""
    prints(simulate, SOAK, f"{sum(i % 3 != 0 for i in range(2000))}\n")


FORKING = """
    module tb;
      int n;
      task automatic work(int k, int d); int a[8]; #d a[0] = k; n += a[0] & 1; endtask
      initial begin
        for (int i = 0; i < {count}; i++) begin
          fork automatic int j = i; work(j, 3); join_none
          fork begin #1; end begin #100; n = 0; end join_any
          disable fork;
          fork work(i, 1); join_none
          #2;
        end
        #10 $display("%0d", n);
      end
    endmodule"""


def test_ended_branches_leave_nothing_behind(tmp_path: Path) -> None:
    """A hundred thousand rounds of three branches each take no more memory than a thousand, give or take, and no time that grows with
    their square. Of those that are not disabled each other one adds 1."""

    def memory(count: int) -> int:
        (tmp_path / "t.sv").write_text(FORKING.replace("{count}", str(count)))
        before = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
        done = mevrik("run", tmp_path / "t.sv")
        assert done.out == f"{count // 2}\n"
        return resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss - before

    memory(1000)
    assert memory(100_000) < 12_000


def test_functions_that_fork(simulate: Callable[..., Done]) -> None:
    """13.4.4: what a function forks with join_none runs beside its caller, with the function's variables; a function may do so in an
    expression, a constructor, a continuous assignment or itself, and `disable fork` of its caller ends it."""
    text = """
    module tb;
      typedef int unsigned four_t[4];
      class node;
        int v; static int made;
        function new(int v); this.v = v; fork begin #v made++; end join_none endfunction
        virtual function void go(four_t a, output string s);
          int sum; string text; int q[$];
          foreach (a[i]) begin sum += a[i]; q.push_back(a[i]); end
          s = text; text = $sformatf("%0d", sum);
          fork
            begin #3; $display("%0d: %p %s %p", v, a, text, q); end
            begin #4 sum++; #1 $display("sum %0d", sum); end
          join_none
          sum = sum * 2;
        endfunction
        function automatic int count(int d);
          if (d == 0) return 0;
          fork begin #d; $write("<%0d>", d); end join_none
          return 1 + count(d - 1);
        endfunction
      endclass
      string s; node a, b;
      logic [7:0] x; wire [7:0] y;
      function automatic logic [7:0] noted(logic [7:0] v);
        fork begin #2 $display("noted %0d", v); end join_none
        return v + 1;
      endfunction
      assign y = noted(x);
      initial begin
        a = new(2); b = new(7);
        a.go('{1, 2, 3, 4}, s); b.go('{5, 6, 7, 8}, s);
        #6 $display("made %0d", node::made);
        $display("%0d", a.count(5));
        #10 $display;
        x = 3; #5 $display("%0d", y);
        void'(a.count(2)); disable fork;
        #10 $finish;
      end
    endmodule"""
    wanted = """noted x
2: '{1, 2, 3, 4} 10 '{1, 2, 3, 4}
7: '{5, 6, 7, 8} 26 '{5, 6, 7, 8}
sum 21
sum 53
made 1
5
<1><2><3><4><5>
noted 3
4
"""
    prints(simulate, text, wanted)


def test_a_function_must_not_wait_for_its_branches(tmp_path: Path) -> None:
    (tmp_path / "t.sv").write_text(
        "module t;\n  function void f();\n    fork #1; join_any\n  endfunction\n  initial f();\nendmodule"
    )
    done = mevrik("lint", tmp_path / "t.sv")
    assert "t.sv:3:5: error: the function 'f' waits here for time or events; only a task may (10.4.4)" in done.err
    assert done.err.count("error") == 1


def test_any_statement_may_have_a_label(simulate: Callable[..., Done]) -> None:
    """9.3.5; the label of a loop names its block, which disable ends (12.7.1, 9.6.2)."""
    text = """module tb; int n; initial begin
      outer: for (int k = 0; k < 3; k++) for (int j = 0; j < 3; j++) begin if (j == 2 && k == 1) disable outer; $write("%0d%0d ", k, j); end
      $display("left");
      first: n = 3; second: if (n == 3) third: $display("three"); fourth: while (n > 0) fifth: n--;
      sixth: case (n) 0: seventh: $display("none"); endcase
      eighth: #2 $display("%0t", $time); ninth: begin $display("in"); end
    end endmodule"""
    prints(simulate, text, "00 01 02 10 11 left\nthree\nnone\n2\nin")
