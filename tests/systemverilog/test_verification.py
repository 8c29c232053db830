"""Processes, interfaces, clocking blocks, programs and assertions: IEEE 1800-2017 clauses 9, 14 to 16, 23 to 25."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik
from tests.rows import prints

Run = Callable[..., Done]
CLOCK = "logic clk = 0; always #5 clk = ~clk; "


def lines(simulate: Run, text: str, *args: object) -> list[str]:
    done = simulate(text, *args, suffix=".sv")
    assert done.status == 0, done.err
    return done.out.splitlines()


def test_fork_families(simulate: Run) -> None:
    """9.3.2: join_any goes on at 2, join_none at once; wait fork waits for the last branch at 4; disable fork ends the rest."""
    text = """module tb; initial begin
      fork #4 $display("a %0t", $time); #2 $display("b %0t", $time); join_any $display("any %0t", $time);
      fork #1 $display("c %0t", $time); join_none $display("none %0t", $time); wait fork; $display("all %0t", $time);
      fork #3 $display("never"); #1 $display("d %0t", $time); join_any disable fork; #5 $display("end %0t", $time); end endmodule"""
    assert lines(simulate, text) == ["b 2", "any 2", "none 2", "c 3", "a 4", "all 4", "d 5", "end 10"]


def test_process_handles(simulate: Run) -> None:
    """9.7: status, kill and await."""
    text = """module tb; process p, q; initial begin
      fork begin p = process::self(); #10 $display("killed?"); end begin q = process::self(); #3; end join_none
      #1 $display("%s", p.status().name()); p.kill(); q.await(); $display("%0t %s %s", $time, p.status().name(), q.status().name()); end endmodule"""
    assert lines(simulate, text) == ["WAITING", "3 KILLED FINISHED"]


def test_mailbox_and_semaphore(simulate: Run) -> None:
    """15.3, 15.4: a bounded mailbox makes the third put wait for the first get at 10; a semaphore serves one at a time."""
    text = """module tb; mailbox #(int) m = new(2); semaphore s = new(1); initial begin
      fork begin for (int i = 0; i < 3; i++) begin m.put(i); $display("put %0d %0t", i, $time); end end
      begin int v; #10; repeat (3) begin m.get(v); $display("got %0d", v); end end join
      fork begin s.get(); #5 s.put(); end begin #1 s.get(); $display("mine %0t", $time); end join
      $display("%0d %0d", m.try_put(9), s.try_get(3)); end endmodule"""
    assert lines(simulate, text) == ["put 0 0", "put 1 0", "got 0", "got 1", "put 2 10", "got 2", "mine 15", "1 0"]


def test_events(simulate: Run) -> None:
    """15.5.3: triggered holds until time goes on, so a wait that comes later in the same moment is not too late."""
    text = """module tb; event e; initial begin -> e; end initial begin #0 wait (e.triggered); $display("seen %0t", $time); #1 $display("%b", e.triggered); end endmodule"""
    assert lines(simulate, text) == ["seen 0", "0"]


def test_disabling_a_fork_ends_branches_that_nothing_waits_for(simulate: Run) -> None:
    """9.6.3: disable ends all processes that execute the block, here at 2 and at 3, two of a task that returned; not what was
    forked before the block, nor a branch of another instance."""
    text = """module each; initial begin fork : w #10 $display("%m goes on %0t", $time); join_none start(1); end
      task automatic start(int n); fork : t #10 $display("task %0d", n); join_none endtask endmodule
    module tb; each a(), b(); initial begin fork #20 $display("before"); join_none
      fork : w #10 $display("any"); begin fork #11 $display("below"); join end #2; join_any $display("at %0t", $time); disable w;
      fork : v #10 $display("none"); join_none #1 disable v; disable a.start; disable b.start; disable a.w; end endmodule"""
    assert lines(simulate, text) == ["at 2", "tb.b.w goes on 10", "before"]


def test_the_variables_of_a_task_live_as_long_as_its_branches(tmp_path: Path) -> None:
    """9.3.2, 6.21: at 2 the block that called the first task ends, at 21 the second task returns; memory that is given back is filled."""
    (tmp_path / "a.sv").write_text("""module tb;
      task automatic first(int k); int own = k * 10; fork #5 $display("first %0d", own); join_none #20 own = 0; endtask
      task automatic second(int k); int own = k * 10; fork #1; begin #5 own++; $display("second %0d", own); end join_any endtask
      initial begin begin : calls first(3); $display("never"); end #18 second(4); #20 $finish(0); end
      initial #2 disable calls; endmodule""")
    done = mevrik("run", tmp_path / "a.sv", MALLOC_PERTURB_="85")
    assert (done.out.splitlines(), done.status) == (["first 30", "second 41"], 0), done.err


def test_ports_that_are_arrays_of_interfaces(simulate: Run) -> None:
    """25.3.2, 23.3.3.5: the leftmost elements correspond; an array of instances shares an array of interfaces out."""
    text = """interface line; int x; endinterface
    module sum(output int y, line l[2:1]); assign y = l[2].x * 10 + l[1].x; endmodule
    module put #(int by = 1) (line l); initial l.x = by; endmodule
    module tb; line ls[0:1](); int y; sum s(.l(ls), .*); put p[0:1](.l(ls)); defparam p[1].by = 7;
      initial #1 $display("%0d", y); endmodule"""
    assert lines(simulate, text) == ["17"]


def test_an_array_of_interfaces_has_the_size_of_the_port(simulate: Run) -> None:
    """25.3.2 with 23.3.3.5: as many interfaces as the port has elements, or as there are instances; and an array where it is one."""
    text = """interface line; int x; endinterface module m(line l[3]); endmodule module k(line l); endmodule
    module tb; line ls[2](), one(); m a(ls); m b(one); k c[3](ls); endmodule"""
    done = simulate(text, suffix=".sv")
    assert "connected to 2 interfaces" in done.err and "needs an array of instances of the interface 'line'" in done.err
    assert "the port 'l' of 'k' needs an instance of the interface 'line'" in done.err


def test_an_interface_with_modports_and_tasks(simulate: Run) -> None:
    """25.3 to 25.7: both sides see the same signals; a task of the interface is called through the port."""
    text = """interface bus(input logic clk); logic [7:0] d; logic v = 0; modport src(output d, v, input clk, import put); modport dst(input d, v, clk);
      task put(input [7:0] x); @(posedge clk); d <= x; v <= 1; @(posedge clk); v <= 0; endtask endinterface
    module source(bus.src b); initial begin b.put(8'h41); b.put(8'h42); end endmodule
    module sink(bus.dst b); always @(posedge b.clk) if (b.v) $display("%c at %0t", b.d, $time); endmodule
    module tb; """ + CLOCK + """bus i(clk); source s(i); sink k(.b(i)); initial #60 $finish(0); endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["A at 15", "B at 35"]


def test_virtual_interfaces(simulate: Run) -> None:
    """25.9: an object reaches the signals and tasks of the interface that it was given; each has its own."""
    text = """interface lamp; logic on = 0; function automatic string state(); return on ? "on" : "off"; endfunction
      task automatic blink(int n); repeat (n) begin #1 on = 1; #1 on = 0; end endtask endinterface
    class Keeper; virtual lamp l; function new(virtual lamp l); this.l = l; endfunction
      task run(); l.blink(2); l.on = 1; @(negedge l.on) $display("dark %0t", $time); endtask endclass
    module tb; lamp a(), b(); Keeper k; virtual lamp w; initial begin k = new(b); w = a; fork k.run(); join_none
      #5 $display("%s %s", a.state(), w.state()); w.on = 1; $display("%s %b", a.state(), b.on); b.on <= 0; #1; end endmodule"""
    assert lines(simulate, text) == ["off off", "on 1", "dark 5"]


def test_a_clocking_block(simulate: Run) -> None:
    """14.3, 14.13, 14.16: inputs hold what was there before the edge; outputs follow it by their skew; ## counts its events."""
    text = "module tb; " + CLOCK + """logic [3:0] q = 0, d; always @(posedge clk) q <= q + 1;
      default clocking cb @(posedge clk); input q; output #2 d; endclocking
      always @(d) $display("d %0d at %0t", d, $time);
      initial begin ##2 $display("q %0d sampled %0d", q, cb.q); cb.d <= 7; ##1 $display("q %0d sampled %0d", q, cb.q);
      cb.d <= ##2 9; #1 $display("on at %0t", $time); #30 $finish(0); end endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["q 2 sampled 1", "d 7 at 17", "q 3 sampled 2", "on at 26", "d 9 at 47"]


def test_a_clocking_block_seen_from_outside(simulate: Run) -> None:
    """14.16, 25.9: a program drives it through a port of the interface, a class through a virtual one; both read what was sampled.

    d = 4 from 7 makes q 5 at 15, which 25 samples. d = 5 from 27 makes q 6 at 35 only, so 35 still samples 5."""
    text = """interface bus(input logic clk); logic [7:0] d, q;
      clocking cb @(posedge clk); output #2 d; input q; endclocking modport test(clocking cb); endinterface
    class Sender; virtual bus b; function new(virtual bus b); this.b = b; endfunction
      task send(int x); b.cb.d <= x; @(b.cb); $display("class sees %0d", b.cb.q); endtask endclass
    program check(bus.test b); initial begin @b.cb; b.cb.d <= 4; repeat (2) @b.cb; $display("program sees %0d", b.cb.q); #50; end endprogram
    module tb; """ + CLOCK + """bus b(clk); check c(b); initial b.q = 1; always @(posedge clk) b.q <= b.d + 1;
      always @(b.d) $display("d %0d at %0t", b.d, $time); Sender s;
      initial begin s = new(b); repeat (3) @(b.cb); s.send(5); $finish(0); end endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["d 4 at 7", "program sees 5", "d 5 at 27", "class sees 5"]


def test_a_program_runs_after_the_design(simulate: Run) -> None:
    """24.3: a program that wakes at an edge sees what the design made of it; the run ends with its last procedure."""
    text = """program check(input logic clk, input logic [3:0] q); initial begin repeat (2) @(posedge clk); $display("%0d", q); end endprogram
    module tb; """ + CLOCK + """logic [3:0] q = 0; always_ff @(posedge clk) q <= q + 1; check c(.*);
      always @(posedge clk) $display("edge sees %0d", q); endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["edge sees 0", "edge sees 1", "2"]


def test_bind(simulate: Run) -> None:
    """23.11: what is bound sees the names inside its target, in every instance."""
    text = """module stage(input [3:0] a, output [3:0] y); wire [3:0] inner = a + 1; assign y = inner; endmodule
    module watch(input [3:0] v); initial #1 $display("%m %0d", v); endmodule bind stage watch w(.v(inner));
    module tb; wire [3:0] x, y; stage s(4'd2, x), t(x, y); endmodule"""
    assert sorted(lines(simulate, text)) == ["tb.s.w 3", "tb.t.w 4"]


REQUESTS = "module tb; " + CLOCK + """logic req = 0, ack = 0, rst = 0;
  initial begin #20 req = 1; #10 req = 0; #10 ack = 1; #10 ack = 0; #10 req = 1; #20 req = 0; #30 $finish(0); end """  # fmt: skip
# sampled at the edges 5, 15, 25 …: req at 25, 65 and 75; ack at 45


def test_implication_with_a_range_of_delays(simulate: Run) -> None:
    """16.12.7: the request of 25 is answered at 45, within two ticks; those of 65 and 75 are not, which shows at 85 and 95."""
    text = REQUESTS + 'a: assert property (@(posedge clk) req |-> ##[1:2] ack) else $display("late %0t", $time); endmodule'
    assert lines(simulate, text) == ["late 85", "late 95"]


def test_the_next_tick_and_named_properties(simulate: Run) -> None:
    """16.8, 16.12: |=> starts a tick later; arguments are put into the named sequence and property."""
    text = REQUESTS + """sequence pulse(x); x ##1 !x; endsequence property answered(n); @(posedge clk) pulse(req) |=> ##n ack; endproperty
      assert property (answered(0)) else $display("none %0t", $time); endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["none 95"]


def test_sampled_value_functions(simulate: Run) -> None:
    """16.9.3: $rose at 25 and 65, $fell at 35 and 85; $past is the value a tick ago."""
    text = REQUESTS + """always @(posedge clk) begin if ($rose(req)) $display("rose %0t", $time); if ($fell(req)) $display("fell %0t %b", $time, $past(req)); end
      cover property (@(posedge clk) $stable(req) && req) $display("held %0t", $time); endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["rose 25", "fell 35 1", "rose 65", "held 75", "fell 85 1"]


def test_repetition_disable_and_not(simulate: Run) -> None:
    """16.9.2: req[*2] matches at 75; 16.12.2: 'not' fails where the sequence matches; 16.12: 'disable iff' drops attempts."""
    text = REQUESTS + """assert property (@(posedge clk) not req[*2]) else $display("twice %0t", $time);
      assert property (@(posedge clk) disable iff (rst) req[->3] |-> 0) else $display("third %0t", $time);
      assert property (@(posedge clk) disable iff (1) req |-> 0) else $display("off");
      assert property (@(posedge clk) (!ack throughout req ##2 1) |-> 0) else $display("quiet %0t", $time); endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["twice 75", "third 75", "third 75", "third 75", "quiet 85", "quiet 95"]


def test_the_pass_action(simulate: Run) -> None:
    """16.14.1: the pass action runs for each attempt that succeeds, one that held in vain too."""
    text = "module tb; " + CLOCK + """int n; assert property (@(posedge clk) 1'b1) n++; assert property (@(posedge clk) 0 |-> 0) n += 10;
      initial #32 begin $display("%0d", n); $finish(0); end endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["33"]


def test_properties_that_are_not_supported_are_named(simulate: Run) -> None:
    """16.12: an operator that is missing is named with its clause, the rest of the file is still looked at."""
    done = simulate(
        "module tb; logic clk, a;\nassert property (@(posedge clk) accept_on(a) a);\ninitial b = 1;\nendmodule", suffix=".sv"
    )
    assert done.status == 2 and ":2:" in done.err and "accept_on" in done.err and "16.12" in done.err


def test_one_signal_sampled_twice(simulate: Run) -> None:
    """14.13, 16.5.1: a clocking block and an assertion each see what the signal was before the edge."""
    text = """interface bus(input logic clk); logic ready; clocking cb @(posedge clk); input ready; endclocking endinterface
    module driver(bus b); assign b.ready = 1; endmodule
    module tb; """ + CLOCK + """bus b(clk); driver d(b);
      assert property (@(posedge clk) b.ready) $display("held %0t", $time); else $display("failed %0t", $time);
      always @(b.cb) $display("clocking %b", b.cb.ready); initial #12 $finish(0); endmodule"""  # fmt: skip
    assert sorted(lines(simulate, text)) == ["clocking 1", "held 5"]


def test_property_operators(simulate: Run) -> None:
    """16.12.6 to 16.12.13. The samples at 5, 15, 25, 35: a 1 0 0 0, b 1 1 0 0, c 0 0 0 1."""
    text = """module tb; """ + CLOCK + """logic a = 0, b = 0, c = 0;
      p1: assert property (@(posedge clk) a |-> b until c) else $display("until %0t", $time);
      p2: assert property (@(posedge clk) a |-> nexttime b) else $display("nexttime %0t", $time);
      p3: assert property (@(posedge clk) a |-> nexttime [2] b) else $display("nexttime 2 %0t", $time);
      p4: assert property (@(posedge clk) a |-> always [0:2] b) else $display("always %0t", $time);
      p5: assert property (@(posedge clk) a |-> eventually [1:2] c) else $display("eventually %0t", $time);
      p6: assert property (@(posedge clk) a |-> eventually [1:3] c) else $display("in three %0t", $time);
      p7: assert property (@(posedge clk) a implies b) else $display("implies %0t", $time);
      p8: assert property (@(posedge clk) a iff b) else $display("iff %0t", $time);
      p9: assert property (@(posedge clk) a |-> b until_with c) else $display("with %0t", $time);
      p0: assert property (@(posedge clk) c |-> weak(b ##1 a)) else $display("weak %0t", $time);
      initial begin #2 a = 1; b = 1; #10 a = 0; #10 b = 0; #10 c = 1; #6 $finish(0); end endmodule"""  # fmt: skip
    assert sorted(lines(simulate, text)) == [
        "always 25", "eventually 25", "iff 15", "nexttime 2 25", "until 25", "weak 35", "with 25",
    ]  # fmt: skip


def test_assertions_switched_off_and_on(simulate: Run) -> None:
    """20.12: none begin between $assertoff and $asserton, and $assertkill gives up those under way: the attempts of q that begin
    at 15 and 25 would fail at 35 and 45."""
    text = """module tb; """ + CLOCK + """logic a = 0;
      p: assert property (@(posedge clk) a) else $display("p %0t", $time);
      q: assert property (@(posedge clk) 1 ##2 a) else $display("q %0t", $time);
      initial begin $assertoff; assert (0) else $display("off"); #12 $asserton; assert (0) else $display("on %0t", $time);
        #20 $assertkill; #20 $asserton(0); #16 $finish(0); end endmodule"""  # fmt: skip
    assert lines(simulate, text) == ["on 12", "p 15", "p 25", "p 55", "p 65"]


def test_parts_of_clocked_outputs(simulate: Run) -> None:
    """14.16: a drive of some bits leaves the others as they are, or as another drive of the same moment makes them; what is driven in the
    moment of the event takes effect with it, and ## counts the block's own events."""
    text = """interface bus(input logic clk); logic [7:0] d; logic [3:0] a; wire [7:0] w; typedef struct packed {logic [3:0] hi, lo;} p_t; p_t p;
     clocking cb @(posedge clk); default input #1step output #1; output d, a, w, p; endclocking endinterface
    module tb; logic clk = 0; always #5 clk = ~clk; bus b(clk); virtual bus v = b;
     initial $monitor("%0t d=%b a=%b w=%b p=%h", $time, b.d, b.a, b.w, b.p);
     initial begin
      b.d = 8'h0f; b.a = 0;
      b.cb.d[7] <= 1; b.cb.d[1:0] <= 2'b00; b.cb.a <= 4'ha; b.cb.w <= 8'h55; b.cb.p.hi <= 4'h3;
      @(b.cb); v.cb.d[3 -: 2] <= 2'b01; v.cb.a[0] <= 1; v.cb.w[7:4] <= 4'hf; v.cb.p <= 8'hc0; v.cb.p.lo <= 4'h7;
      @(b.cb); b.cb.d <= 8'h81; b.cb.d[4] <= 1;
      @(b.cb); b.cb.a[3] <= ##1 0;
      repeat (3) @(b.cb); $finish;
     end
    endmodule"""
    wanted = """0 d=00001111 a=0000 w=zzzzzzzz p=xx
    6 d=10000100 a=1011 w=11110101 p=c7
    16 d=10010001 a=1011 w=11110101 p=c7
    36 d=10010001 a=0011 w=11110101 p=c7"""
    prints(simulate, text, wanted)
