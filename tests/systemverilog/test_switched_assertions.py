"""$assertoff, $asserton and $assertkill with levels and scopes (IEEE 1800-2017 20.12), $exit (24.7), and a process that ends itself (9.7)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

LOCK = """
module gate(input logic clk, shut);
  a1: assert property (@(posedge clk) shut) else $display("%m %0t", $time);
endmodule
module chamber(input logic clk, shut);
  gate lower(clk, shut);
  a0: assert property (@(posedge clk) shut) else $display("%m %0t", $time);
endmodule
module tb;
  logic clk = 0, shut = 0;
  always #5 clk = ~clk;
  gate upper(clk, shut);
  chamber c(clk, shut);
  always @(posedge clk) here: assert (shut) else $display("here %0t", $time);
  initial begin
    %s
    $finish;
  end
endmodule"""


def failing(simulate: Callable[..., Done], acts: str) -> list[str]:
    done = simulate(LOCK.replace("%s", acts), suffix=".sv")
    assert done.status == 0, done.err
    return sorted(done.out.splitlines())


def test_an_instance_and_all_below(simulate: Callable[..., Done]) -> None:
    """Levels 0: the scope and all of the hierarchy below it."""
    assert failing(simulate, "$assertoff(0, c); #10;") == ["here 5", "tb.upper 5"]


def test_one_level(simulate: Callable[..., Done]) -> None:
    """Levels 1: the scope alone."""
    assert failing(simulate, "$assertoff(1, c); #10;") == ["here 5", "tb.c.lower 5", "tb.upper 5"]
    assert failing(simulate, "$assertoff(1, tb); #10;") == ["tb.c 5", "tb.c.lower 5", "tb.upper 5"]
    assert failing(simulate, "$assertoff(2, tb); #10;") == ["tb.c.lower 5"]


def test_one_assertion(simulate: Callable[..., Done]) -> None:
    """By its label, at home or further below."""
    assert failing(simulate, "$assertoff(0, c.lower.a1, here); #10;") == ["tb.c 5", "tb.upper 5"]
    assert failing(simulate, "$assertoff(0, tb.c.a0); #10;") == ["here 5", "tb.c.lower 5", "tb.upper 5"]


def test_what_comes_later_counts(simulate: Callable[..., Done]) -> None:
    assert failing(simulate, "$assertoff; $asserton(0, c.lower); #10;") == ["tb.c.lower 5"]
    assert failing(simulate, "$assertoff(0, c.lower); $asserton; $assertoff(0, upper); #10;") == [
        "here 5",
        "tb.c 5",
        "tb.c.lower 5",
    ]
    assert failing(simulate, "$assertoff; #10 $asserton(0, here); #10;") == ["here 15"]


def test_attempts_under_way(simulate: Callable[..., Done]) -> None:
    """$assertoff leaves them alone, $assertkill gives them up: that of 5 would fail at 15, what begins at 25 fails at 35."""
    text = """
    module w(input logic clk, input logic go, input logic done);
      p: assert property (@(posedge clk) go |=> done) else $display("%m %0t", $time);
    endmodule
    module tb;
      logic clk = 0, go = 1, done = 0;
      always #5 clk = ~clk;
      w left(clk, go, done), right(clk, go, done);
      initial begin
        #7 $assertoff(0, left); $assertkill(0, right);
        #15 $asserton(0, right);
        #20 $finish;
      end
    endmodule"""
    done = simulate(text, suffix=".sv")
    assert sorted(done.out.splitlines()) == ["tb.left 15", "tb.right 35"], done.err


def test_a_scope_that_is_not_there(simulate: Callable[..., Done]) -> None:
    done = simulate(LOCK.replace("%s", "$assertoff(0, lowe);"), suffix=".sv")
    assert "'lowe' is not declared" in done.err
    assert done.status == 2


def test_a_process_that_ends_itself(simulate: Callable[..., Done]) -> None:
    """9.7: kill ends the process and all that it forked, whoever calls it."""
    text = """
    module tb;
      process p;
      function automatic void leave(); process me = process::self(); me.kill(); $display("never"); endfunction
      initial begin
        p = process::self();
        fork #1 $display("child never"); join_none
        leave();
        $display("never");
      end
      initial begin
        fork begin process me; me = process::self(); me.kill(); $display("never"); end $display("sibling"); join
        $display("joined %0t", $time);
        #3 $display("%0d", p.status() == process::KILLED);
      end
      process always_one;
      int count;
      always @(count) begin always_one = process::self(); $display("count %0d", count); if (count == 2) always_one.kill(); end
      initial begin #1 count = 1; #1 count = 2; #1 count = 3; #1 $display("end"); end
      final begin process me; me = process::self(); me.kill(); $display("never"); end
      final $display("last");
    endmodule"""
    prints(simulate, text, "sibling\njoined 0\ncount 1\ncount 2\n1\nend\nlast\n")


def test_exit_ends_the_program_that_calls_it(simulate: Callable[..., Done]) -> None:
    """24.7: all its procedures and what they forked; the simulation ends when no program is left (24.3)."""
    text = """
    program one;
      task leave(); #3 $display("leave %0t", $time); $exit; $display("never"); endtask
      initial begin
        fork forever #1 $display("tick %0t", $time); join_none
        leave();
      end
      initial #10 $display("never");
    endprogram
    program two;
      initial begin fork begin #6 $display("two %0t", $time); $exit; end join_none #20 $display("never"); end
    endprogram
    module tb;
      one a();
      two b();
      initial #30 $display("never");
      final $display("end %0t", $time);
    endmodule"""
    prints(simulate, text, "tick 1\ntick 2\nleave 3\ntwo 6\nend 6\n")


def test_exit_outside_of_a_program(simulate: Callable[..., Done]) -> None:
    """There is nothing to end: the module goes on."""
    prints(simulate, 'module tb; initial begin $exit; $display("on"); end endmodule', "on")
    assert "$exit takes no arguments (24.7)" in simulate("module tb; initial $exit(1); endmodule", suffix=".sv").err
