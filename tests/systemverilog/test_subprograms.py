"""Functions, tasks and statements: IEEE 1800-2017 clauses 12 and 13, each row by hand from its clause."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import Row, check_rows, prints

Run = Callable[..., Done]

AROUND = """
  typedef int three_t [3];
  typedef struct { string name; int n; } item_t;
  int calls;
  function automatic int fact(int n); return n < 2 ? 1 : n * fact(n - 1); endfunction
  function automatic int scaled(int x, int by = 2, int plus = 1); return x * by + plus; endfunction
  function automatic void swap(ref int a, ref int b); int t = a; a = b; b = t; endfunction
  function automatic int split(input int x, output int high, output int low); high = x / 10; low = x % 10; return high + low; endfunction
  function automatic three_t upto(int n); foreach (upto[i]) upto[i] = n + i; endfunction
  function automatic int total(input int v [3]); total = 0; foreach (v[i]) total += v[i]; endfunction
  function automatic int longest(string v []); longest = 0; foreach (v[i]) if (v[i].len() > longest) longest = v[i].len(); endfunction
  function automatic item_t named(string s, int n = 1); named.name = s; named.n = n; endfunction
  function automatic void grow(ref int q [$], input int x); q.push_back(x); endfunction
  function automatic int first_even(int v [3]); foreach (v[i]) if (v[i] % 2 == 0) return i; return -1; endfunction
  function int counted(); static int n = 10; n++; return n; endfunction
  function automatic int fresh(); int n = 10; n++; return n; endfunction
  function void note(); calls++; endfunction
  task automatic later(input int d, output int t); #d t = $time; endtask
  task automatic fill(output int v [3]); v = '{7, 8, 9}; endtask
  function automatic string join_all(string v [$], string by = ","); foreach (v[i]) join_all = i ? {join_all, by, v[i]} : v[i]; endfunction
"""

ROWS: list[Row] = [
    ("13.4.2 recursion", '$display("%0d", fact(5));', "120"),
    ("13.5.3 default arguments", '$display("%0d %0d %0d", scaled(5), scaled(5, 3), scaled(5, , 7));', "11 16 17"),
    ("13.5.4 arguments by name", '$display("%0d", scaled(.plus(0), .x(4)));', "8"),
    ("13.5.2 references", 'int a, b; a = 1; b = 2; swap(a, b); $display("%0d %0d", a, b);', "2 1"),
    ("13.5.2 references to elements", 'int v [2]; v = \'{3, 4}; swap(v[0], v[1]); $display("%p", v);', "'{4, 3}"),
    ("13.4 outputs of a function", 'int h, l, s; s = split(47, h, l); $display("%0d %0d %0d", s, h, l);', "11 4 7"),
    (
        "13.4 outputs into a structure",
        'struct {int h; int l;} p; void\'(split(83, p.h, p.l)); $display("%0d %0d", p.h, p.l);',
        "8 3",
    ),
    ("13.4 an array as a result", 'three_t v; v = upto(4); $display("%p %0d", v, upto(7)[2]);', "'{4, 5, 6} 9"),
    ("13.5.1 an array as an argument is a copy", 'int v [3]; v = \'{1, 2, 3}; $display("%0d", total(v));', "6"),
    ("13.5 a pattern as an argument", '$display("%0d", total(\'{10, 20, 30}));', "60"),
    ("13.5 a dynamic array of strings", 'string v []; v = \'{"a", "abcd", "ab"}; $display("%0d", longest(v));', "4"),
    ("13.4 a structure as a result", 'item_t i; i = named("q"); $display("%s%0d %0d", i.name, i.n, named("z", 5).n);', "q1 5"),
    ("13.5.2 a queue that grows by reference", 'int q [$]; grow(q, 4); grow(q, 5); $display("%p", q);', "'{4, 5}"),
    ("12.8 return leaves loops", "$display(\"%0d %0d\", first_even('{1, 3, 4}), first_even('{1, 3, 5}));", "2 -1"),
    (
        "13.4.2 static variables stay, automatic ones don't",
        "void'(counted()); void'(fresh()); $display(\"%0d %0d\", counted(), fresh());",
        "12 11",
    ),
    ("13.4.1 void functions, and values that are dropped", 'note(); note(); void\'(fact(3)); $display("%0d", calls);', "2"),
    ("13.3 a task with time", 'int t; later(5, t); $display("%0d", t);', "5"),
    ("13.5 an array as the output of a task", 'int v [3]; fill(v); $display("%p", v);', "'{7, 8, 9}"),
    ("13.5 a queue as an argument", 'string q [$]; q = {"a", "b"}; $display("%s %s", join_all(q), join_all(q, "+"));', "a,b a+b"),
    ("12.4.1 else belongs to the nearest if", 'int a, b; a = 1; b = 0; if (a) if (b) $display("1"); else $display("2");', "2"),
    ("12.5.3 unique and priority", 'int a; a = 2; unique case (a) 1: $display("one"); 2: $display("two"); endcase', "two"),
    (
        "12.5.4 case inside",
        'int a; a = 7; case (a) inside 1, 3: $display("a"); [5:9]: $display("b"); default: $display("c"); endcase',
        "b",
    ),
    (
        "12.7.1 several variables of a loop",
        'for (int i = 0, j = 8; i < j; i++, j -= 2) $write("%0d%0d ", i, j); $display;',
        "08 16 24 ",
    ),
    ("12.7.2 repeat", 'int n; repeat (3) n += 2; $display("%0d", n);', "6"),
    ("12.7.5 do-while runs at least once", 'int n; n = 9; do n++; while (n < 5); $display("%0d", n);', "10"),
    (
        "12.8 break and continue",
        'int s; for (int i = 0; i < 9; i++) begin if (i == 2) continue; if (i == 5) break; s += i; end $display("%0d", s);',
        "8",
    ),
    (
        "9.3.1 a variable of a block begins anew each time",
        'for (int i = 0; i < 2; i++) begin automatic int n = 5; n += i; $write("%0d ", n); end $display;',
        "5 6 ",
    ),
    ("12.7.3 foreach leaves out a dimension", 'int m [2][3]; int n; foreach (m[i, ]) n++; $display("%0d", n);', "2"),
    ("13.4.3 a constant function makes a constant", 'localparam int F = fact(4); $display("%0d", F);', "24"),
    (
        "13.4.3 an array from a constant function",
        'localparam three_t T = upto(3); int k; k = 1; $display("%0d %0d", T[2], T[k]);',
        "5 4",
    ),
]


def test_subprograms_and_statements(simulate: Run) -> None:
    check_rows(simulate, ROWS, AROUND)


def test_references_are_the_signal_itself(simulate: Run) -> None:
    """13.5.2: a task waits for what it was given by reference, and others see at once what it writes. Edges at 5, 15, 25."""
    text = """module tb; logic clk = 0; int n = 0; logic [7:0] bus = 0; int arr[3]; always #5 clk = ~clk;
      task automatic edges(ref logic c, input int k, ref int count); repeat (k) begin @(posedge c); count++; end endtask
      task automatic drive(ref logic [7:0] b, input [7:0] v); b = v; #3 b = v + 1; endtask
      task automatic both(ref int a, ref int b); a = 1; b = 2; $display("%0d %0d", a, b); endtask
      initial begin fork edges(clk, 3, n); #12 $display("n %0d", n); join $display("%0d at %0t", n, $time);
        fork drive(bus, 7); #1 $display("bus %0d", bus); join $display("bus %0d", bus);
        both(n, n); both(arr[0], arr[1]); $display("%p", arr); $finish(0); end endmodule"""
    done = simulate(text, suffix=".sv")
    assert done.out.splitlines() == ["n 1", "3 at 25", "bus 7", "bus 8", "2 2", "1 2", "'{1, 2, 0}"], done.err


def test_references_to_parts(simulate: Run) -> None:
    """13.5.2: a reference is the thing itself, also an element, a member, a property or a signal of an interface. Its indexes and objects
    are those of the moment of the call."""
    text = """interface bus; logic req = 0; logic [3:0] d; endinterface
    module tb;
      bus b0(), b1(); int a[4]; int q[$] = '{1, 2, 3}; int aa[string]; int i; logic [7:0] v = 0; int m[2][3];
      struct { logic [3:0] lo; int k[2]; } s;
      class P; int n; P next; int arr[3]; endclass
      P head = new;
      task automatic pulse(ref logic x, input int n = 1); repeat (n) begin x = 1; #2 x = 0; #2; end endtask
      task automatic until_is(ref int x, input int want); wait (x == want); $display("%0d at %0t", x, $time); endtask
      task automatic both(ref int x, y); #1 x = y + 1; #1 y = x + 1; endtask
      initial begin
        fork pulse(b0.req, 2); begin #1 $display("req %b", b0.req); #2 $display("req %b", b0.req); #2 $display("req %b", b0.req); end join
        i = 2; fork until_is(a[i], 9); begin #1 i = 0; a[0] = 9; #1 a[2] = 9; end join
        fork until_is(m[1][i + 2], 5); begin #3 m[1][2] = 5; end join
        fork until_is(s.k[1], 4); begin #1 s.k[1] = 4; end join
        aa["x"] = 0; fork until_is(aa["x"], 3); begin #1 aa["x"] = 3; end join
        head.next = new; head.next.arr[2] = 1; fork until_is(head.next.arr[2], 6); begin #1 head.next.arr[2] = 6; end join
        both(a[1], head.n); $display("%0d %0d", a[1], head.n);
        both(.y(a[3]), .x(q[1])); $display("%0d %p", a[3], q);
        begin automatic int loc = 0; fork until_is(loc, 0); join end
      end
    endmodule"""
    # pulse: 1 from 0 to 2 and 4 to 6, so the fork ends at 8; each further fork ends with its last wait
    wanted = "req 1\nreq 0\nreq 1\n9 at 10\n5 at 13\n4 at 14\n3 at 15\n6 at 16\n1 2\n2 '{1, 1, 3}\n0 at 20"
    prints(simulate, text, wanted)


def test_messages_about_references_name_what_is_written(simulate: Run) -> None:
    """An index that is never right is told with the array's own name, not with what the compiler calls it."""
    text = """module tb; int a[4]; task automatic t(ref int x); x = 1; endtask
      initial begin t(a[7]); end
      logic clk = 0; logic [3:0] d; clocking cb @(posedge clk); output d; endclocking
      initial cb.d[9] <= 1;
    endmodule"""
    done = simulate(text, suffix=".sv")
    assert "outside the range 0 to 3 of 'a':" in done.err
    assert "outside the range 0 to 3 of 'cb.d':" in done.err


def test_static_variables_of_automatic_subprograms(simulate: Run) -> None:
    """6.21: `static` makes one variable of it, started once, whatever the lifetime of what is around it: functions, methods, tasks,
    blocks and loops."""
    text = """class k; int id; function new(); static int next = 100; id = next++; endfunction
      function int bump(); static int n; automatic int m = 5; n++; m++; return n * 10 + m; endfunction
      static function int s(); static int q = 3; return q++; endfunction
      task t(); static int c = 7; c += 2; begin static int d; automatic int e; d++; e++; $display("%0d %0d %0d", c, d, e); end endtask endclass
    module tb; k a, b;
      function automatic int f(); static logic [3:0] cnt; cnt = cnt === 'x ? 0 : cnt + 1; return cnt; endfunction
      function automatic int fib(int n); static int memo[int]; static int calls; calls++; if (n < 2) return n; if (memo.exists(n)) return memo[n];
        memo[n] = fib(n - 1) + fib(n - 2); if (n == 40) $display("%0d calls, %0d kept", calls, memo.num()); return memo[n]; endfunction
      task automatic g(); static real r = 1.5; static string s = "a"; r *= 2; s = {s, "b"}; $display("%0.1f %s", r, s); endtask
      initial begin a = new; b = new; $display("%0d %0d %0d %0d", a.id, b.id, a.bump(), b.bump()); $display("%0d %0d", k::s(), k::s()); a.t(); b.t();
        $display("%0d %0d %0d", f(), f(), f()); g(); g(); $display("%0d", fib(40));
        for (int i = 0; i < 3; i++) begin static int z = 4; automatic int y = i; z += y; $write("%0d ", z); end $display; end
    endmodule"""
    # fib(n) asks for n - 1, which is new, and n - 2, which is kept or below 2: 2 * 39 + 1 calls, results for 2 to 40
    wanted = "100 101 16 26\n3 4\n9 1 1\n11 2 1\n0 1 2\n3.0 ab\n6.0 abb\n79 calls, 39 kept\n102334155\n4 5 7"
    prints(simulate, text, wanted)


def test_references_of_methods_are_the_things_themselves(simulate: Run) -> None:
    """13.5.2: a task of a class, of its own or of a package, virtual or not, waits for what it is given and others see at once what it
    writes; its own local members are its own still."""
    text = """package p; int total; typedef logic [7:0] byte_t;
      class drv; local int n; protected static int all; byte_t last;
        task run(ref logic clk, ref byte_t d, input int k); repeat (k) begin @(posedge clk); d = d + 1; bump(d); end endtask
        local function void bump(byte_t x); n++; all++; total += x; last = x; endfunction function int count(); return n; endfunction
        virtual task once(ref logic clk); @(posedge clk); $display("%0t base", $time); endtask endclass
      class sub extends drv; virtual task once(ref logic clk); @(negedge clk); $display("%0t sub %0d", $time, all); endtask endclass
      task automatic free(ref logic clk, input string s); @(posedge clk) $display("%0t %s %0d", $time, s, total); endtask
    endpackage
    class own; int seen[$]; static task twice(ref logic clk); repeat (2) @(clk); $display("%0t twice", $time); endtask
      task watch(ref int v, input int k); repeat (k) begin @(v); seen.push_back(v); end endtask endclass
    module tb; import p::*; logic clk = 0; always #5 clk = ~clk; byte_t d = 0; sub o = new; drv b = o; own w = new; int x, list[2];
      initial begin
        fork o.run(clk, d, 3); begin #12 $display("%0t d=%0d", $time, d); end join
        $display("%0t %0d %0d %0d %0d", $time, d, o.count(), total, o.last);
        free(clk, "free"); p::free(clk, "again"); b.once(clk); own::twice(clk);
        fork w.watch(x, 2); w.watch(list[1], 1); begin #1 x = 3; #1 list[1] = 8; list[0] = 9; #1 x = 4; end join
        w.seen.sort(); $display("%p", w.seen); $finish(0);
      end
    endmodule"""
    prints(simulate, text, "12 d=1\n25 3 3 6 3\n35 free 6\n45 again 6\n50 sub 3\n60 twice\n'{3, 4, 8}")


def test_a_local_variable_by_reference_is_seen_while_the_task_waits(simulate: Run) -> None:
    """13.5.2: a reference is the variable itself: others see at once what the task writes, and it sees what they write."""
    text = """`timescale 1ns/100ps
    module tb; int total = 0;
      task automatic raise(ref int v, input int n = 3, output int last);
        int k;
        for (k = 0; k < n; k++) begin #2 v++; total++; if (v > 100) return; end
        last = v;
      endtask
      task automatic twice(ref int v); int l; raise(v, .n(2), .last(l)); $display("twice %0d %0d", v, l); endtask
      task automatic fill(ref int a[3], ref string s); foreach (a[i]) begin #1 a[i] = i + 1; s = {s, "x"}; end endtask
      task automatic deep(ref int v, input int d); if (d > 0) begin #1 v++; deep(v, d - 1); end endtask
      task automatic until_set(ref bit go); wait (go); $display("go %0t", $realtime); endtask
      initial begin
        automatic int n = 0, l; automatic int a[3]; automatic string s = ""; automatic bit go = 0;
        fork raise(n, .last(l)); repeat (3) begin #1.5 $display("%0d", n); end join
        $display("end %0d %0d", n, l);
        n = 99; raise(n, 5, l); $display("%0d %0d", n, l);
        fork fill(a, s); begin #1.5 $display("%p %s", a, s); #1 $display("%p %s", a, s); end join
        n = 5; twice(n); deep(n, 3); $display("%0d %0d", n, total);
        fork until_set(go); #4 go = 1; join
      end
    endmodule"""
    wanted = "0\n1\n2\nend 3 3\n101 0\n'{1, 0, 0} x\n'{1, 2, 0} xx\ntwice 7 7\n10 7\ngo 240\n"
    assert simulate(text, suffix=".sv").out == wanted


REFERENCES = """
module tb;
  bit clk = 0; int n = 0; logic [7:0] bus = 0;
  always #5 clk = ~clk;
  class Driver;
    int seen;
    task automatic run(ref bit c, ref logic [7:0] b, input int times);
      repeat (times) begin @(posedge c); b = b + 1; seen++; end
    endtask
    static task automatic watch(ref logic [7:0] b, output int at); wait (b == 3); at = $time; endtask
    function void twice(ref int k); k = 2 * k; endfunction
  endclass
  Driver d; int at;
  int arr[3] = '{1,2,3};
  task automatic rec(ref int k, input int depth); if (depth > 0) begin k++; #2 rec(k, depth - 1); end endtask
  task automatic part(ref int k); #2 k = k + 10; endtask
  initial begin
    d = new; n = 4; d.twice(n);
    fork
      d.run(clk, bus, 5);
      Driver::watch(bus, at);
      begin #12 $display("bus %0d at 12", bus); end
    join
    $display("%0d %0d %0d at %0d", d.seen, bus, n, at);
    fork rec(n, 3); begin #1 $display("n %0d", n); #2 $display("n %0d", n); end join
    $display("n %0d", n);
    fork part(arr[1]); begin #1 arr[1] = 50; end join
    $display("%p", arr);
    $finish;
  end
  initial #1000 begin $display("hung"); $finish; end
endmodule
"""


def test_references_in_methods_recursion_and_parts(simulate: Run) -> None:
    """13.5.2: a reference is the variable itself, while the task waits, in methods, in a task that calls itself and for an element.

    Edges at 5, 15, 25, 35, 45 count the bus to 5, of which 3 is reached at 25; 4 doubled is 8; three steps of the recursion at 45, 47
    and 49 make 11, seen between them; the element is set to 50 after 1 and gets 10 more after 2."""
    lines = simulate(REFERENCES, "--top", "tb", suffix=".sv").out.splitlines()
    assert lines == ["bus 1 at 12", "5 5 8 at 25", "n 9", "n 10", "n 11", "'{1, 60, 3}"]
