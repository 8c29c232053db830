"""Switches (IEEE 1364-2005 7.5 to 7.7), and tasks and blocks of other instances (10.3, 12.5)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done

Run = Callable[..., Done]


def test_mos_switches_pass_and_weaken(simulate: Run) -> None:
    """Tables 7-6 and 7-8: a resistive switch makes pull of strong; an unknown gate with nothing at the data gives z."""
    done = simulate(
        """module tb; reg d, g; wire a, b, c; nmos (a, d, g); rpmos (b, d, g); cmos (c, d, g, ~g);
        initial begin d = 1; g = 1; #1 $display("%v %v %v", a, b, c); g = 0; #1 $display("%v %v %v", a, b, c);
        g = 1'bx; d = 1'bz; #1 $display("%b%b%b", a, b, c); d = 0; #1 $display("%b", a); end endmodule"""
    )
    assert done.out.splitlines() == ["St1 HiZ St1", "HiZ Pu1 HiZ", "zzz", "x"]


def test_bidirectional_switches_join_nets(simulate: Run) -> None:
    """7.6: while closed both ends are one net; the stronger driver wins, an unknown control leaves it open what comes."""
    done = simulate(
        """module tb; reg l, r, on; wire [1:0] a, b; assign a = {2{l}}; assign (pull0, pull1) b = {2{r}};
        tranif1 s[1:0] (a, b, on); initial begin l = 1; r = 0; on = 0; #1 $display("%b %b", a, b); on = 1; #1 $display("%b %b", a, b);
        l = 1'bz; #1 $display("%b %b", a, b); on = 1'bx; l = 1; #1 $display("%b %b", a, b); end endmodule"""
    )
    assert done.out.splitlines() == ["11 00", "11 11", "00 00", "11 xx"]


def test_a_chain_of_tran_and_rtran(simulate: Run) -> None:
    done = simulate(
        """module tb; reg d; wire p, q, r; assign p = d; tran (p, q); rtran (q, r); assign (pull0, pull1) r = ~d;
        initial begin d = 1; #1 $display("%b%b%b %v", p, q, r, r); d = 0; #1 $display("%b%b%b", p, q, r); end endmodule"""
    )
    assert done.out.splitlines() == ["11x PuX", "00x"]


def test_a_task_of_another_instance(simulate: Run) -> None:
    """12.5: it works on the variables of its own instance, in its own time unit."""
    done = simulate(
        """`timescale 1ns/1ns
        module box; integer held = 0; task add(input integer by); begin #2 held = held + by; $display("%m %0d %0t", held, $time); end endtask endmodule
        `timescale 10ns/1ns
        module tb; box left(), right(); initial begin left.add(3); right.add(5); left.add(4); $display("%0d %0d", left.held, right.held); end endmodule"""
    )
    assert done.out.splitlines() == ["tb.left.add 3 2", "tb.right.add 5 4", "tb.left.add 7 6", "7 5"]


def test_disable_reaches_into_another_instance(simulate: Run) -> None:
    done = simulate(
        """module worker; initial begin : work #10 $display("never"); end initial #20 $display("later"); endmodule
        module tb; worker a(), b(); initial begin #5 disable a.work; disable b.work; $display("gone"); end endmodule"""
    )
    assert done.out.splitlines() == ["gone", "later", "later"]


def test_a_branch_ends_the_fork_it_is_in(simulate: Run) -> None:
    """9.8.2 and 10.3: the first branch to finish ends the block, the other branch with it."""
    done = simulate(
        """module tb; initial begin fork : race begin #3 $display("fast"); disable race; $display("never"); end
        begin #7 $display("slow"); disable race; end join $display("over %0t", $time); #20 $display("end"); end endmodule"""
    )
    assert done.out.splitlines() == ["fast", "over 3", "end"]
