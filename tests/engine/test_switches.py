"""Switches (IEEE 1364-2005 7.5 to 7.7), and tasks and blocks of other instances (10.3, 12.5)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

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


def test_inout_ports_on_parts_of_nets(simulate: Run) -> None:
    """1364-2005 12.3.8: an inout port is joined with what it is connected to, bit by bit, and no strength is lost on the way."""
    text = """module lane(inout [7:0] dq, input oe, input [7:0] v); assign dq = oe ? v : 8'bz; endmodule
    module pair(inout [15:0] bus, input [1:0] oe);
      lane low(.dq(bus[7:0]), .oe(oe[0]), .v(8'h12)); lane high(.dq(bus[15:8]), .oe(oe[1]), .v(8'h34));
    endmodule
    module levels(inout s, p, r); assign (supply1, supply0) s = 1'b0; pullup(p); assign (weak1, weak0) r = 1'b1; endmodule
    module tb;
      wire [31:0] dq; reg [3:0] oe = 0; reg drive = 0; reg [31:0] w = 32'h89abcdef;
      assign dq = drive ? w : 32'bz;
      pair lower(dq[15:0], oe[1:0]);
      pair upper(.bus({dq[23:16], dq[31:24]}), .oe(oe[3:2]));
      wire a, b; wire [7:0] o;
      lane mixed({o[3:0], b, a, o[5:4]}, oe[0], 8'hC5);
      lane four[3:0](.dq(dq), .oe(4'b0), .v(32'd0));
      wire [2:0] v; levels l(v[2], v[1], v[0]);
      initial begin
        #1 $display("%h %h", dq, lower.bus);
        oe = 4'b0101; #1 $display("%h %b %b", dq, o, {a, b});
        oe = 4'b1010; #1 $display("%h %h", dq, upper.high.dq);
        oe = 0; drive = 1; #1 $display("%h %h %h %h", dq, lower.low.dq, upper.bus, four[2].dq);
        oe = 4'b1000; #1 $display("%b", dq[23:16]);
        $display("%v %v %v", v[2], v[1], v[0]);
      end
    endmodule"""
    # {dq[23:16], dq[31:24]}: the upper half of the port is dq[23:16]; there h34 meets hab: 0x1xxxxx where 00110100 and 10101011 differ
    wanted = """zzzzzzzz zzzz
    12zzzz12 zz011100 10
    zz3434zz 34
    89abcdef ef ab89 ab
    x01xxxxx
    Su0 Pu1 We1"""
    prints(simulate, text, wanted)


def test_an_inout_port_on_a_variable(simulate: Run) -> None:
    """12.3.8: it is connected to nets only."""
    done = simulate("module m(inout [1:0] p); endmodule\nmodule tb; reg [3:0] r; m u(r[1:0]); endmodule")
    assert "2:29: error: the inout port 'p' must be connected to a net, 'r' is a variable: declare it as wire" in done.err


def test_ports_that_stand_for_parts_and_controls_that_are_expressions(simulate: Run) -> None:
    """12.3.2: an inout port may be a part or a group of the nets inside. 7.6: the control of a switch is any expression."""
    text = """module m(.lo(bus[3:0]), .hi(bus[7:4]), {a, b}, oe); inout [7:0] bus; inout a; inout [1:0] b; input oe;
      assign bus = oe ? 8'h5a : 8'bz; assign a = oe, b = oe ? 2'b10 : 2'bzz; endmodule
    module tb;
      wire [3:0] x, y; wire [2:0] z; reg oe = 0, d = 0, e = 1; reg [1:0] en = 0; assign x = d ? 4'h9 : 4'bz; m u(x, y, z, oe);
      wire p, q; wire [1:0] r, s; assign p = 1; tranif1 t(p, q, oe & e); tranif0 tt[1:0](r, s, ~en); assign r = 2'b01;
      initial begin
        #1 $display("%h %h %b %b %b %b", x, y, z, u.bus, q, s); oe = 1; en = 1;
        #1 $display("%h %h %b %b %b", x, y, z, q, s); oe = 0; d = 1; e = 0; en = 3;
        #1 $display("%h %h %b %b %b %b", x, y, z, u.bus, q, s);
      end
    endmodule"""
    prints(simulate, text, "z z 0zz zzzzzzzz z zz\na 5 110 1 z1\n9 z 0zz zzzz1001 z 01")


def test_disable_from_inside_ends_all_that_is_in_the_block(simulate: Run) -> None:
    """1364-2005 clause 11, 1800-2017 9.6.2: branches that nothing waits for end with their block, but not those of the block around it;
    disabling a task ends all of its activations."""
    text = """module tb;
      integer n = 0;
      task automatic slow(input int k, input bit stop);
        begin : body #(k); if (stop) disable slow; n = n + 1; $display("slow %0d %0t", k, $time); end
      endtask
      initial begin : outer
        fork #30 $display("branch of outer"); join_none
        begin : inner
          fork begin #5 $display("never 1"); end begin #6 $display("never 2"); end join_none
          #2 $display("in %0t", $time);
          disable inner;
          $display("not here");
        end
        $display("after inner %0t", $time);
        #10;
        fork slow(4, 0); slow(3, 1); slow(2, 0); join
        $display("joined %0t %0d", $time, n);
        begin : any
          fork #1 $display("one"); #9 $display("never 3"); join_any
          disable any;
        end
        #20 $display("end %0t", $time);
      end
    endmodule"""
    done = simulate(text, suffix=".sv")
    assert done.out.splitlines() == ["in 2", "after inner 2", "slow 2 14", "joined 15 1", "one", "branch of outer", "end 36"]


def test_many_chips_on_one_bus(simulate: Run) -> None:
    """16 chips of 64 bits behind two levels of ports that are parts: in each round of 17 one chip after the other drives, then none."""
    text = """module chip(inout [63:0] dq, input oe, input [63:0] v); assign dq = oe ? v : 64'bz; endmodule
    module half(inout [31:0] lo, inout [31:0] hi, input oe); chip c({hi, lo}, oe, 64'hdeadbeefcafef00d); endmodule
    module tb;
      wire [63:0] dq; reg [15:0] sel = 0; integer k, n = 0, z = 0; genvar g;
      generate for (g = 0; g < 16; g = g + 1) begin : h half u(dq[31:0], dq[63:32], sel[g]); end endgenerate
      initial begin
        for (k = 0; k < 340; k = k + 1) begin
          sel = 1 << (k % 17); #1 if (dq === 64'hdeadbeefcafef00d && h[3].u.c.dq === dq) n = n + 1; if (dq === 64'bz) z = z + 1;
        end
        $display("%0d %0d", n, z);
      end
    endmodule"""
    prints(simulate, text, "320 20")
