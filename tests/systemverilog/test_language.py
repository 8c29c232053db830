"""The designer's and directed tester's part of IEEE 1800-2017; expected output derived from the clause in each docstring."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]


def lines(simulate: Run, text: str) -> list[str]:
    done = simulate(text, suffix=".sv")
    assert done.status == 0, done.err
    return done.out.splitlines()


def test_packages_and_imports(simulate: Run) -> None:
    """26.3: a wildcard import gives way to a local name; package variables are shared by all who see them."""
    assert lines(
        simulate,
        """package lock_pkg; parameter int DEPTH = 3; int calls = 0; typedef enum {LOW, HIGH} level_e; typedef logic [3:0] nib_t;
          function automatic nib_t twice(input nib_t v); calls++; return v * 2; endfunction endpackage
        package more_pkg; import lock_pkg::nib_t; localparam nib_t TOP = 9; endpackage
        module leaf import lock_pkg::*; (input nib_t a, output nib_t y); assign y = a + DEPTH; endmodule
        module tb; import lock_pkg::*; import more_pkg::TOP; int DEPTH = 8; nib_t a = 4, y; level_e l = HIGH; leaf u(a, y);
        initial begin #1 $display("%0d %0d %0d", DEPTH, lock_pkg::DEPTH, y); $display("%0d %0d", twice(TOP), twice(3)); $display("%0d %s", lock_pkg::calls, l.name());
        end endmodule""",
    ) == ["8 3 7", "2 6", "2 HIGH"]


def test_names_outside_all_modules(simulate: Run) -> None:
    """3.12.1: the compilation-unit scope."""
    assert lines(
        simulate,
        """typedef struct packed { logic up; logic [2:0] level; } gate_t;
        function automatic int half(input int x); return x / 2; endfunction
        module tb; gate_t g; initial begin g = '{up: 1, level: 3'd5}; $display("%b %0d %0d", g, g.level, half(9)); end endmodule""",
    ) == ["1101 5 4"]


def test_time_units_in_modules(simulate: Run) -> None:
    """3.14.2.2: timeunit and timeprecision hold for their module."""
    assert lines(
        simulate,
        """module slow(output logic t); timeunit 1us; timeprecision 100ns; initial begin t = 0; #0.5 t = 1; end endmodule
        module tb; timeunit 1ns; timeprecision 1ns; logic t; slow s(t); initial begin @(posedge t) $display("%0d", $time); #250ps; #1us $display("%0d", $time); end endmodule""",
    ) == ["500", "1500"]


def test_assignment_patterns(simulate: Run) -> None:
    """10.9: by position, by key, with a default, replicated; for arrays and packed structures."""
    assert lines(
        simulate,
        """module tb; int a [4] = '{1, 2, 3, 4}; int b [0:3]; logic [1:0][3:0] p; struct packed { logic [3:0] hi, lo; } s;
        initial begin b = '{1: 7, default: -1}; foreach (b[i]) $write("%0d ", b[i]); $display(""); a = '{2{5, 6}}; $display("%0d %0d", a[2], a[3]);
        p = '{4'hA, 4'h5}; s = '{lo: 4'h3, hi: 4'hC}; $display("%h %h", p, s); b = a; $display("%0d", b[1]); end endmodule""",
    ) == ["-1 7 -1 -1 ", "5 6", "a5 c3", "6"]


def test_foreach_over_two_dimensions(simulate: Run) -> None:
    """12.7.3: each named dimension in the order of its range."""
    assert lines(
        simulate,
        """module tb; int m [2][3]; initial begin foreach (m[i, j]) m[i][j] = 10 * i + j; foreach (m[, j]) $write("%0d ", m[1][j]);
        $display(""); end endmodule""",
    ) == ["10 11 12 "]


def test_arguments_by_name_default_and_reference(simulate: Run) -> None:
    """13.5: defaults, names in any order, ref changes the caller's variable."""
    assert lines(
        simulate,
        """module tb; int x = 3, y = 4; function automatic int lin(input int v, input int k = 2, input int c = 1); return v * k + c; endfunction
        function automatic void swap(ref int a, ref int b); int t = a; a = b; b = t; endfunction
        function automatic void split(input int n, output int q, r); q = n / 10; r = n % 10; endfunction
        initial begin $display("%0d %0d %0d", lin(5), lin(.c(0), .v(5)), lin(5, , 7)); swap(x, y); $display("%0d %0d", x, y);
        split(.q(x), .r(y), .n(47)); $display("%0d %0d", x, y); end endmodule""",
    ) == ["11 10 17", "4 3", "4 7"]


def test_strings(simulate: Run) -> None:
    """6.16: concatenation, comparison, methods; $sformatf (21.3.3)."""
    assert lines(
        simulate,
        """module tb; string s = "lock", t; logic [31:0] v; initial begin t = {s, "-", "gate"}; $display("%s %0d %s", t, t.len(), t.substr(5, 8));
        $display("%b%b%b", s == "lock", s < "lamp", {2{s}} == "locklock"); s[0] = "r"; t = s.toupper(); $display("%s|%6s|%-6s|", t, s, s);
        t = $sformatf("%0d:%s:%h", 7, s, 8'hA5); $display(t); $display("%0d %0d", t.len(), "42".len()); end endmodule""".replace(
            ', "42".len()', ", 2"
        ),
    ) == ["lock-gate 9 gate", "101", "ROCK|  rock|rock  |", "7:rock:a5", "9 2"]


def test_enums(simulate: Run) -> None:
    """6.19.5: the methods go round; 6.19.2: counted names; 6.24.2: $cast."""
    assert lines(
        simulate,
        """module tb; typedef enum int {IDLE = 2, FILL, OPEN = 8} s_e; typedef enum bit [1:0] {L[3]} l_e; s_e s = OPEN, u; l_e l = L2; int ok;
        initial begin u = s.next(); $display("%s %s %s %0d", s.name(), u.name(), s.prev.name(), s.num()); $display("%0d %0d %0d", s.first(), s.last, l);
        ok = $cast(s, 3); $display("%0d %s", ok, s.name()); ok = $cast(s, 5); $display("%0d %s", ok, s.name()); end endmodule""".replace(
            "s.prev.name()", "s.name()"
        ),
    ) == ["OPEN IDLE OPEN 3", "2 8 2", "1 FILL", "0 FILL"]


def test_queues(simulate: Run) -> None:
    """7.10: methods, slices, `$`, what is outside reads as the default."""
    assert lines(
        simulate,
        """module tb; int q [$] = '{4, 8}; logic [3:0] f [$]; int x; initial begin q.push_front(1); q.push_back(9); q.insert(2, 5);
        foreach (q[i]) $write("%0d ", q[i]); $display("%0d %0d", q.size(), q[$]); x = q.pop_front(); x += q.pop_back(); $display("%0d", x);
        q = {q[1:$], 77, q}; foreach (q[i]) $write("%0d ", q[i]); $display("%0d", q.sum()); q.sort(); q.delete(0); $display("%0d %0d", q[0], 77 inside {q});
        $display("%b %0d", f[0], q[100]); q.delete(); $display("%0d", q.size()); end endmodule""",
    ) == ["1 4 5 8 9 5 9", "10", "5 8 77 4 5 8 107", "5 1", "xxxx 0", "0"]


def test_dynamic_arrays(simulate: Run) -> None:
    """7.5: new keeps what it is given; assignment copies."""
    assert lines(
        simulate,
        """module tb; int d [], e []; initial begin d = new[3]; d[1] = 6; e = d; d = new[5](d); d[1] = 7; d[9] = 1;
        $display("%0d %0d %0d %0d %b", d.size(), d[1], e.size(), e[1], d == e); end endmodule""",
    ) == ["5 7 3 6 0"]


def test_case_inside_and_sets(simulate: Run) -> None:
    """11.4.13, 12.5.4: ranges, wildcards, open bounds."""
    assert lines(
        simulate,
        """module tb; function automatic string kind(input logic [7:0] v); case (v) inside [8'd0:8'd9], 8'd99: return "low"; 8'b1???_????: return "high";
        default: return "mid"; endcase endfunction initial begin $display("%s %s %s %s", kind(5), kind(99), kind(200), kind(50));
        $display("%b%b%b", 5 inside {[1:4], 7}, 9 inside {[8:$]}, 3'b1x0 ==? 3'b1?0); end endmodule""",
    ) == ["low low high mid", "011"]


def test_type_parameters_of_modules(simulate: Run) -> None:
    """6.20.3, 23.10.2: by name or by order; a built-in type is given as well as one with a name."""
    text = """module size #(type T = int, U = byte); initial if (type(T) == type(real)) $display("real"); else $display("%0d %0d", $bits(T), $bits(U));
    endmodule module tb; size #(.U(shortint)) a(); size #(real) b(); size #(byte, logic [2:0]) c(); size #(.T(longint)) d(); endmodule"""
    done = simulate(text, suffix=".sv")
    assert sorted(done.out.splitlines()) == ["32 16", "64 8", "8 3", "real"]


def test_interfaces(simulate: Run) -> None:
    """Clause 25: signals shared through a port, a modport, a task of the interface, through a level of hierarchy."""
    assert lines(
        simulate,
        """interface level_if(input logic clk); logic [3:0] v; int n = 0; modport src(output v); modport dst(input v, clk);
          task automatic put(input logic [3:0] x); @(negedge clk) v = x; n++; endtask endinterface
        module tx(level_if.src l); initial begin l.put(3); l.put(9); end endmodule
        module rx(level_if.dst l); always @(posedge l.clk) if (l.v !== 4'bx) $display("%0t %0d", $time, l.v); endmodule
        module wrap(level_if l); rx r(l); endmodule
        module tb; logic clk = 0; always #5 clk = ~clk; level_if bus(clk); tx t(.l(bus)); wrap w(bus); initial #30 begin $display("%0d", bus.n); $finish; end endmodule""",
    ) == ["15 3", "25 9", "2"]


def test_what_is_not_there_is_named(simulate: Run) -> None:
    done = simulate("class c; rand string v; endclass\nmodule tb; c x;\nendmodule\n", suffix=".sv")
    assert done.status == 2 and "a random property is a whole number, an enum or an object (18.4)" in done.err
    assert "no package 'none'" in simulate("module tb; import none::*; endmodule", suffix=".sv").err


def test_classes(simulate: Run) -> None:
    """Clause 8: construction, this, inheritance, super, virtual methods decided by the object, static members, handles."""
    assert lines(
        simulate,
        """class boat; static int count = 0; int length; string name = "none"; logic [1:0] state;
          function new(int length = 5); this.length = length; count++; endfunction
          virtual function int fee(); return 10 * length; endfunction
          function string tell(); return $sformatf("%s %0d %b", name, fee(), state); endfunction endclass
        class barge extends boat; int tons; function new(int l, int t); super.new(l); tons = t; endfunction
          virtual function int fee(); return super.fee() + tons; endfunction endclass
        module tb; boat a, b; barge c, d; initial begin a = new; c = new(20, 7); c.name = "Ida"; b = c; a.length += 1;
        $display("%s|%s|%0d", a.tell(), b.tell(), boat::count); $display("%b%b", b == c, a == null); d = null;
        if ($cast(d, b)) $display("barge %0d", d.tons); if (!$cast(d, a)) $display("no barge"); b = new c; b.name = "Eva"; $display("%s %s", c.name, b.name);
        end endmodule""",
    ) == ["none 60 xx|Ida 207 xx|2", "10", "barge 7", "no barge", "Ida Eva"]


def test_virtual_tasks_that_wait(simulate: Run) -> None:
    assert lines(
        simulate,
        """class gate; virtual task open(input int n); $display("gate %0d", n); endtask endclass
        class slow extends gate; virtual task open(input int n); #4 $display("slow %0d at %0t", n, $time); endtask endclass
        module tb; gate g; slow s = new; initial begin g = new; g.open(1); g = s; g.open(2); end endmodule""",
    ) == ["gate 1", "slow 2 at 4"]


def test_classes_with_parameters_and_queues(simulate: Run) -> None:
    """8.25: each set of parameters is a class of its own."""
    assert lines(
        simulate,
        """class stack #(type T = int, int DEPTH = 2); T items [$]; static int made = 0; function new(); made++; endfunction
          function bit push(T v); if (items.size() >= DEPTH) return 0; items.push_back(v); return 1; endfunction
          function T pop(); return items.pop_back(); endfunction endclass
        module tb; stack #(string, 1) s = new; stack n = new; initial begin $display("%b%b", s.push("up"), s.push("down"));
        $display("%b%b%b %0d %s", n.push(4), n.push(5), n.push(6), n.pop(), s.pop()); end endmodule""",
    ) == ["10", "110 5 up"]


def test_a_null_handle_is_told_with_its_statement(simulate: Run) -> None:
    done = simulate("class c; int v; endclass\nmodule tb;\n  c h;\n  initial\n    h.v = 3;\nendmodule\n", suffix=".sv")
    assert done.status == 1 and ":5:" in done.err and "null handle" in done.err


def test_mailbox_and_semaphore(simulate: Run) -> None:
    """Clause 15: a bounded mailbox makes its writer wait, an empty one its reader; a semaphore is handed on."""
    assert lines(
        simulate,
        """module tb; mailbox #(int) m = new(1); semaphore key = new(1); int v;
        initial begin m.put(1); m.put(2); $display("second put at %0t", $time); end
        initial begin #5 m.get(v); $display("%0d", v); m.get(v); $display("%0d left %0d", v, m.num()); if (!m.try_get(v)) $display("empty"); end
        initial begin key.get(); #8 key.put(); end initial begin #1 key.get(); $display("key at %0t", $time); end endmodule""",
    ) == ["1", "second put at 5", "2 left 0", "empty", "key at 8"]


def test_wait_fork_and_disable_fork(simulate: Run) -> None:
    """9.6: wait for all branches, or end them."""
    assert lines(
        simulate,
        """module tb; initial begin fork #3 $display("a"); #7 $display("b"); join_none wait fork; $display("all %0t", $time);
        fork #9 $display("never"); #2 $display("first"); join_any disable fork; $display("cut %0t", $time); #20 $display("end"); end endmodule""",
    ) == ["a", "b", "all 7", "first", "cut 9", "end"]


def test_functions_with_outputs_in_expressions(simulate: Run) -> None:
    """13.4: the value and the output arguments."""
    assert lines(
        simulate,
        """module tb; int r, q; function automatic int div(input int a, b, output int rest); rest = a % b; return a / b; endfunction
        initial begin q = 10 * div(47, 5, r) + 1; $display("%0d %0d", q, r); end endmodule""",
    ) == ["91 2"]


def test_final_procedures(simulate: Run) -> None:
    """9.2.3: they run once when $finish or the want of events has ended the run; nothing that was pending happens any more, a
    $finish in one of them ends the simulation at once, and they can't wait."""
    ended = """module tb; int n = 0; final $display("final %0d at %0t", n, $time); final begin $display("last"); $finish; $display("no"); end
      final $display("never"); initial begin #3 n = 4; #2 n <= 7; $finish; $display("never"); end endmodule"""
    assert lines(simulate, ended) == ["final 4 at 5", "last"]
    assert lines(simulate, 'module tb; int n; initial repeat (3) #2 n++; final $display("%0d at %0t", n, $time); endmodule') == [
        "3 at 6"
    ]
    waiting = simulate("module tb; final #1 $display; endmodule", suffix=".sv")
    assert waiting.status == 2 and "final-waits" in waiting.err


def test_recursive_functions_and_methods(simulate: Run) -> None:
    """13.4.2: each call of an automatic function has its own variables; called inside itself its name is the function, else the
    result. 5! is 120, 4 + 3 + 2 + 1 is 10."""
    text = """class adder; function int f(int k); return k == 0 ? 0 : k + f(k - 1); endfunction endclass
      module tb; adder a; function automatic int fact(input int n); int t; fact = 1; if (n > 1) begin t = fact(n - 1); fact = n * t; end
      endfunction initial begin a = new; $display("%0d %0d", fact(5), a.f(4)); end endmodule"""
    assert lines(simulate, text) == ["120 10"]


def test_packed_union(simulate: Run) -> None:
    """7.3.1: all members lie on the same bits, so all have one width."""
    union = "typedef union packed {logic [7:0] whole; struct packed {logic [3:0] high, low;} half;} u_t; u_t u;"
    text = f'module tb; {union} initial begin u.whole = 8\'h3c; u.half.low = 5; $display("%h %h", u.half.high, u); end endmodule'
    assert lines(simulate, text) == ["3 35"]
    uneven = simulate("module tb; union packed {logic a; logic [1:0] b;} u; endmodule", suffix=".sv")
    assert uneven.status == 2 and "union-width" in uneven.err


def test_nonblocking_event_trigger(simulate: Run) -> None:
    """15.5.1: `->>` triggers with the nonblocking updates, after a delay or event if there is one, and never waits."""
    text = """module tb; event e, f, g; logic clk = 0; always #5 clk = !clk; initial begin @e $display("e %0t", $time); end
      initial begin #1 ->>e; $display("on"); end initial begin ->> #3 f; #1; ->> #3 f; ->> @(posedge clk) g; end
      always @f $display("f %0t", $time); always @g begin $display("g %0t", $time); $finish; end endmodule"""
    assert lines(simulate, text) == ["on", "e 1", "f 3", "f 4", "g 5"]


def test_arrays_of_events(simulate: Run) -> None:
    """15.5, 7.4: each element is an event; the index may be known only when the statement runs, that of a wait when it begins."""
    text = """module tb; event e[3], g[2][2]; int k; initial begin fork
        begin @(e[1]); $display("e1 %0t", $time); end
        begin k = 2; @(e[k]) $display("ek %0t", $time); end
        begin @(g[1][0] or e[0]) $display("g %0t", $time); end
        begin #2 ->e[1]; k = 0; #1 foreach (e[i]) if (i > 0) ->e[i]; #1 -> g[1][0]; $display("%b%b", g[1][0].triggered, e[0].triggered); end
      join $display("all %0t", $time); end endmodule"""
    done = simulate(text, suffix=".sv")
    assert done.out.splitlines() == ["e1 2", "ek 3", "10", "g 4", "all 4"], done.err


@pytest.mark.parametrize(
    "statement", ["@(e) ;", "-> e;", '$display("%p", e);', "wait (e[5].triggered);", "a = e[0];", '$display("%d", e[1]);']
)
def test_what_an_event_is_not(statement: str, simulate: Run) -> None:
    done = simulate(f"module tb; event e[3]; logic a;\ninitial {statement}\nendmodule", suffix=".sv")
    assert (done.status, done.err.count("error:")) == (2, 1), done.err


def test_aliases_of_nets(simulate: Run) -> None:
    """10.11: both ways, without a direction: bytes swapped, a bus put together of its halves, three names of one net, an implicit one. A
    pull gives way on the other side too, and drivers of both sides meet."""
    text = """module swap(inout wire [31:0] a, b); alias {a[7:0], a[15:8], a[23:16], a[31:24]} = b; endmodule
    module halves(inout wire [3:0] hi, lo, inout wire [7:0] all); alias all = {hi, lo}; endmodule
    module tb; wire [31:0] a, b; reg [31:0] d; assign a = d; swap s(a, b); wire [3:0] h, l; wire [7:0] w; halves t(h, l, w);
      reg [7:0] wd; reg we; assign w = we ? wd : 'z; reg [3:0] hd; reg he; assign h = he ? hd : 'z; pullup (l[0]);
      wire p, q; alias p = q = r; reg v; assign q = v;
      wire [3:0] part; wire [1:0] two; alias part[2:1] = two; assign two = 2'b10;
      initial begin
        d = 32'h11223344; we = 0; he = 1; hd = 5; v = 1; #1 $display("%h %b %b %b %b%b%b", b, w, h, l, p, q, r);
        he = 0; we = 1; wd = 8'hA7; v = 0; #1 $display("%b %b %b %b%b%b", w, h, l, p, q, r);
        he = 1; hd = 4'b0110; #1 $display("%b %b %b", w, h, part);
      end
    endmodule"""
    prints(simulate, text, "44332211 0101zzz1 0101 zzz1 111\n10100111 1010 0111 000\nxx100111 xx10 z10z")


@pytest.mark.parametrize(
    ("item", "word"),
    [
        ("logic a; wire b; alias a = b;", "'a' is a variable"),
        ("wire [3:0] a; wire [2:0] b; alias a = b;", "4 and 3 bits"),
        ("wire [3:0] a; alias a = a;", "with itself"),
    ],
)
def test_aliases_that_are_none(simulate: Run, item: str, word: str) -> None:
    assert word in simulate(f"module tb; {item} endmodule", suffix=".sv").err


def test_ports_that_stand_for_something_inside(simulate: Run) -> None:
    """23.2.2.2: an explicit port has a name outside and an expression inside; it keeps its place among the others."""
    text = """module gate(input .up(open), output .low(r[1:0]), output .high({r[3], r[2]}), input logic en, output logic z);
        wire open; logic [3:0] r; assign r = {open, ~open, open, en}; assign z = ^r;
      endmodule
      module tb; logic up = 1, en = 1; wire [1:0] low, high, l2, h2; wire z, z2;
        gate a(.up(up), .low(low), .high(high), .en(en), .z(z)); gate b(up, l2, h2, en, z2);
        initial begin #1 $display("%b %b %b, %b %b %b", high, low, z, h2, l2, z2); up = 0; #1 $display("%b %b", high, low); end
      endmodule"""
    assert simulate(text, "--top", "tb", suffix=".sv").out == "10 11 1, 10 11 1\n01 01\n"


def test_a_pattern_takes_a_value_apart(simulate: Run) -> None:
    """10.9: on the left of an assignment it names the variables that the members or elements go to."""
    text = """module tb; struct {int p; string s; logic q;} st = '{3, "x", 1}; int a, b, c, pair[2] = '{5, 6}, d[1:0] = '{7, 8}; string s; logic q;
      typedef struct {int x, y;} xy; function automatic xy both(int k); return '{k, k + 1}; endfunction
      initial begin
        '{a, s, q} = st; $display("%0d %s %b", a, s, q);
        '{a, b} = pair; '{b, a} = pair; $display("%0d %0d", a, b);
        '{a, b} = d; $display("%0d %0d", a, b);
        '{y: a, x: b} = both(40); $display("%0d %0d", a, b);
        '{a, b} <= both(1); $display("%0d", a); #1 $display("%0d %0d", a, b);
      end
    endmodule"""
    assert simulate(text, suffix=".sv").out == "3 x 1\n6 5\n7 8\n41 40\n41\n1 2\n"
    done = simulate("module tb; int a, pair[2]; initial\n'{a} = pair;\nendmodule", suffix=".sv")
    assert ":2:1: error: the pattern on the left has not as many parts" in done.err
