"""Names that are found in modules above (IEEE 1364-2005 12.6, 12.7): scopes by name, tasks, functions and named blocks without a path."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints


def test_tasks_functions_and_blocks_of_modules_above(simulate: Callable[..., Done]) -> None:
    """12.7: the search for those goes on beyond the module; they use the variables of their own module. Nearer ones hide farther ones."""
    text = """
    module paddle;
      initial begin
        #1 note(4);
        $display("%0d", doubled(3));
        counter.total = counter.total + 5; $display("total %0d", counter.total);
        $display("%0d", near(1));
        #1 disable waiting;
      end
    endmodule
    module gate;
      paddle p();
      function integer near(input integer n); near = n + 10; endfunction
    endmodule
    module tb;
      integer calls = 0;
      gate g();
      task note(input integer n); begin calls = calls + 1; $display("%m %0d, call %0d", n, calls); end endtask
      function integer doubled(input integer n); doubled = 2 * n; endfunction
      function integer near(input integer n); near = n + 100; endfunction
      initial begin : counter integer total; total = 1; end
      initial begin : waiting #10 $display("never"); end
      initial begin #5 note(7); #1 $finish; end
    endmodule"""
    done = simulate(text)
    assert done.out.splitlines() == ["tb.note 4, call 1", "6", "total 6", "11", "tb.note 7, call 2"], done.err


def test_paths_that_begin_above(simulate: Callable[..., Done]) -> None:
    """12.6: a module's name, an instance's, a block's that stands further down and is not looked into yet."""
    text = """
    module paddle;
      initial begin
        #1 tb.counter.total = 9; $display("%0d", tb.counter.total);
        g.level = 3; tb.inner.deep.seen = 1;
        counter.say;
        $display("%0d %0d", g.level, blocks[1].kept);
      end
    endmodule
    module gate; integer level; paddle p(); endmodule
    module tb;
      gate g();
      genvar k;
      generate for (k = 0; k < 2; k = k + 1) begin : blocks integer kept; initial kept = 20 + k; end endgenerate
      counter_t counter();
      initial begin : inner begin : deep reg seen; seen = 0; #2 $display("seen %b", seen); end end
    endmodule
    module counter_t; integer total; task say; $display("say %0d", total); endtask endmodule"""
    prints(lambda source, *a, suffix: simulate(source), text, "9\nsay 9\n3 21\nseen 1")


def test_variables_end_at_the_module(simulate: Callable[..., Done]) -> None:
    """12.7: a variable of a module above is no match for a name without a path."""
    text = "module low; initial $display(level); endmodule\nmodule tb; integer level; low l(); endmodule"
    done = simulate(text)
    assert done.status == 2 and "'level' is not declared" in done.err
    assert done.err.count("error:") == 1


def test_one_module_below_two(simulate: Callable[..., Done]) -> None:
    """Each instance finds what stands above itself."""
    text = """
    module low; initial #1 tell; endmodule
    module left; low l(); task tell; $display("left"); endtask endmodule
    module tb; left a(); task tell; $display("top"); endtask endmodule"""
    assert simulate(text).out == "left\n"


def test_start_values_of_blocks_that_are_named_early(simulate: Callable[..., Done]) -> None:
    """A static variable of a block has its start value before time 0, whoever asks for it first (IEEE 1800-2017 6.21)."""
    text = """
    module low; initial begin $display("%0d", tb.work.count); tb.work.count = 8; end endmodule
    module tb;
      low l();
      initial begin : work static int count = 5; int other; #1 $display("%0d", count); end
    endmodule"""
    prints(simulate, text, "5\n8", "--top", "tb")


def test_blocks_further_down_in_the_same_module(simulate: Callable[..., Done]) -> None:
    """12.5: a path may lead to what is declared below; a block's variable, one in a block inside, one of an instance's block, one of a task."""
    text = """
    module tb;
      initial begin
        #1 work.v = 3; $display("%0d", work.v); work.inner.w = 4;
        #1 $display("%0d %0d", tb.work.inner.w, u.z.q);
        keep; $display("%0d", keep.count);
      end
      initial begin : work integer v; begin : inner integer w; w = 0; end end
      low u();
      task keep; integer count; begin count = 7; end endtask
    endmodule
    module low; initial begin : z reg [3:0] q; q = 9; end endmodule"""
    assert simulate(text).out.splitlines() == ["3", "4 9", "7"]
