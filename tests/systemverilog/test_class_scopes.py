"""Names across classes: types that classes declare, parameters with their types, classes that come after those that call them
(IEEE 1800-2017 8.20, 8.23, 8.25)."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]


def test_by_way_of_a_type_in_a_class(simulate: Run) -> None:
    """`class::type::member`, with parameters at any place, in expressions, declarations and statements."""
    text = """package p;
      class maker #(type T = int, int N = 1); typedef T made_t; static int count;
        static function T make(); T t; count += N; return t; endfunction static task note(); $display("note %0d %0d", N, count); endtask
        class inner #(int K = 2); static function int k(); return 10 * N + K; endfunction endclass endclass
      class more #(type T = int, int N = 1); typedef maker#(T, N + 1) next_t; endclass
      class gate; typedef maker#(byte, 3) maker_t; typedef maker_t alias_t; typedef more#(byte, 3) more_t; int level = 7; endclass
    endpackage
    module tb; import p::*;
      gate::maker_t::made_t b; p::gate::more_t::next_t::made_t c; more#(shortint)::next_t::made_t s;
      initial begin
        b = gate::maker_t::make(); c = gate::more_t::next_t::make(); c = p::gate::alias_t::make();
        gate::maker_t::note(); p::gate::more_t::next_t::note(); maker#(byte, 3)::note(); p::maker#(int)::note();
        $display("%0d %0d %0d", $bits(b), $bits(c), $bits(s));
        $display("%0d %0d", maker#(byte, 3)::inner#(5)::k(), gate::maker_t::inner#()::k());
        more#(int, 9)::next_t::count = 4; $display("%0d", maker#(int, 10)::count);
      end
    endmodule"""
    prints(simulate, text, "note 3 6\nnote 4 4\nnote 3 6\nnote 1 0\n8 8 16\n35 32\n4")


def test_value_parameters_have_their_types(simulate: Run) -> None:
    """6.20.2: a value is converted to the declared type; a string remains one, whatever its length."""
    text = """class c #(string S = "none", bit [3:0] W = 3, real R = 1, int signed I = 0, type T = int);
      static function void show(); $display("<%s> %0d %0d %0.2f %0d %0d", S, S.len(), W, R, I, $bits(T)); endfunction
      static function string twice(); return {S, S}; endfunction endclass
    module m #(parameter string P = "pp", parameter logic signed [3:0] N = 2); initial #1 $display("[%s] %0d %0d", P, P.len(), N); endmodule
    module tb; m u(); m #("quay") v(); m #({"a", "bc"}, 9) w(); localparam string L = "low"; m #(.P(L)) x(); m #(.P("")) y();
      initial begin
        c#()::show(); c#("gate", 18, 3, 2.6)::show(); c#(.R(2.25), .T(byte), .I(-1))::show(); c#("")::show();
        $display("%s", c#("ab")::twice());
      end
    endmodule"""
    wanted = """<none> 4 3 1.00 0 32
<gate> 4 2 3.00 3 32
<none> 4 3 2.25 -1 8
<> 0 3 1.00 0 32
abab
[pp] 2 2
[quay] 4 2
[abc] 3 -7
[low] 3 2
[] 0 2"""
    prints(simulate, text, wanted)


def test_the_name_alone_is_the_class_itself(simulate: Run) -> None:
    """8.25: inside a class with parameters its name without them is that class, so that no other one comes to be."""
    text = """class log; static string all[$]; static function int add(string s); all.push_back(s); return all.size(); endfunction endclass
    class ring #(string N = "none"); static int mine = log::add(N); ring next; static ring first;
      static function ring get(); if (first == null) first = new; return first; endfunction
      function ring other(); ring r = new; r.next = this; return r; endfunction endclass
    module tb; ring#("a") a; ring#("b") b;
      initial begin a = ring#("a")::get(); b = new; $display("%p %b %b", log::all, a.other().next == a, ring#("b")::first == null); end
    endmodule"""
    prints(simulate, text, '\'{"a", "b"} 1 1')


def test_what_extends_a_parameter(simulate: Run) -> None:
    """8.25: a class may extend one of its type parameters, or a type that another class declares."""
    text = """class base; int v = 1; virtual function string kind(); return "base"; endfunction endclass
    class special extends base; virtual function string kind(); return {"special ", super.kind()}; endfunction endclass
    class counted #(type T = base) extends T; static int made; function new(); made++; v += 10; endfunction
      virtual function string kind(); return {"counted ", super.kind()}; endfunction endclass
    class named #(type T = base, string N = "x") extends T; virtual function string kind(); return {N, " ", super.kind()}; endfunction endclass
    class holder; typedef counted#(special) held_t; endclass
    class last extends holder::held_t; endclass
    module tb; named#(counted#(base), "both") n; counted#(special) c; last l; base all[$];
      initial begin
        n = new; c = new; l = new; all = '{n, c, l};
        foreach (all[i]) $display("%s %0d", all[i].kind(), all[i].v);
        $display("%0d %0d", counted#(base)::made, counted#(special)::made);
      end
    endmodule"""
    wanted = "both counted base 11\ncounted special base 11\ncounted special base 11\n1 2"
    prints(simulate, text, wanted)


def test_a_class_that_comes_later_decides(simulate: Run) -> None:
    """8.20: which method is meant is a matter of the object, though its class is declared behind the call, or comes to be behind it
    because a parameter first has that value there. Functions, tasks that wait, and what start values call."""
    text = """package low;
      virtual class part; static part all[$]; pure virtual function string name(); pure virtual task go(int n);
        function void enlist(); all.push_back(this); $display("enlisted %s", name()); endfunction
        static task every(int n); foreach (all[i]) all[i].go(n); endtask endclass
      class user; static function int call(part p); p.enlist(); return part::all.size(); endfunction endclass
    endpackage
    package high; import low::*;
      class wait_part #(int D = 1) extends part; static wait_part me = get(); static int size = user::call(me);
        static function wait_part get(); if (me == null) me = new; return me; endfunction
        virtual function string name(); return $sformatf("wait %0d", D); endfunction
        virtual task go(int n); #D $display("%0t %s %0d", $time, name(), n); endtask endclass
      class quick_part extends part; virtual function string name(); return "quick"; endfunction
        virtual task go(int n); $display("%0t quick %0d", $time, n); endtask endclass
    endpackage
    module tb; import low::*, high::*; wait_part#(4) w4; quick_part q;
      initial begin q = new; q.enlist(); part::every(5); part::every(6); $display("%0d", wait_part#(4)::size); end
    endmodule"""
    wanted = """enlisted wait 4
enlisted quick
4 wait 4 5
4 quick 5
8 wait 4 6
8 quick 6
1"""
    prints(simulate, text, wanted)


def test_tasks_that_call_each_other_and_wait(simulate: Run) -> None:
    """Each waits because the other does, which is known of neither while the first of them is read."""
    text = """module tb;
      task automatic ping(int n); if (n > 0) pong(n - 1); $display("%0t ping %0d", $time, n); #1; endtask
      task automatic pong(int n); if (n > 0) ping(n - 1); $display("%0t pong %0d", $time, n); endtask
      task automatic count(int n, output int sum); if (n == 0) sum = 0; else begin count(n - 1, sum); sum += n; end endtask
      int total; always_comb count(4, total);
      initial begin ping(3); #1 $display("%0d", total); end
    endmodule"""
    prints(simulate, text, "0 pong 0\n0 ping 1\n1 pong 2\n1 ping 3\n10")


def test_a_nested_class_that_is_announced(simulate: Callable[..., Done]) -> None:
    """6.18, 8.23: `typedef class` in a class makes known one that the class declares further down."""
    text = """
    module tb;
      class holder;
        typedef class hook;
        local hook hooks[$];
        class hook; virtual function void called(holder h, int v); $display("base %0d", v); endfunction endclass
        function void add(hook k); hooks.push_back(k); endfunction
        function void fire(int v); foreach (hooks[i]) hooks[i].called(this, v); endfunction
      endclass
      class counting extends holder::hook;
        int n;
        virtual function void called(holder h, int v); n += v; $display("%0d %b", n, h != null); endfunction
      endclass
      initial begin
        automatic holder h = new; automatic counting c = new; automatic holder::hook b = new;
        h.add(c); h.add(b); h.fire(2); h.fire(3);
      end
    endmodule"""
    prints(simulate, text, "2 1\nbase 2\n5 1\nbase 3\n")


def test_a_static_task_through_a_virtual_interface(simulate: Callable[..., Done]) -> None:
    """25.9, 13.3.1: its arguments lie in the instance that the virtual interface stands for."""
    text = """
    interface line(input bit clk);
      int seen;
      task pause(input int n, output int at, inout int sum[2]);
        repeat (n) @(posedge clk); seen += n; at = $time; sum[1] += n;
      endtask
      modport user(import pause);
    endinterface
    module tb;
      bit clk; always #5 clk = ~clk;
      line a(clk), b(clk);
      class waiter;
        virtual line v;
        task go(int n); int at, s[2]; s = '{1, 2}; v.pause(n, at, s); $display("%0d at %0d %p", n, at, s); endtask
      endclass
      waiter p = new, q = new;
      initial begin
        p.v = a; q.v = b;
        fork p.go(2); q.go(3); join
        $display("%0d %0d", a.seen, b.seen);
        $finish;
      end
    endmodule"""
    prints(simulate, text, "2 at 15 '{1, 4}\n3 at 25 '{1, 5}\n2 3\n")


def test_parameterised_classes_are_told_apart_by_their_types(simulate: Callable[..., Done]) -> None:
    """8.25, 6.22.1: enumerations and structures match only themselves, though their bits are those of others; `byte` matches
    `bit signed [7:0]`."""
    text = """
    module tb;
      typedef bit signed [7:0] sb_t;
      class holder #(type T = int); static int n; T v; function new(T v); this.v = v; n++; endfunction endclass
      typedef enum {A, B} e1; typedef enum {C, D} e2;
      typedef struct packed {bit [3:0] a, b;} s1; typedef struct packed {bit [3:0] x, y;} s2;
      holder #(int) i; holder #(e1) x; holder #(e2) y; holder #(s1) p; holder #(s2) q;
      holder #(byte) b; holder #(sb_t) c; holder #(bit [7:0]) d;
      initial begin
        i = new(1); x = new(A); x = new(B); y = new(D); p = new('{1, 2}); q = new('{3, 4}); b = new(5); c = new(6); d = new(7);
        $display("%0d %0d %0d %0d %0d", holder#(int)::n, holder#(e1)::n, holder#(e2)::n, holder#(s1)::n, holder#(s2)::n);
        $display("%0d %0d", holder#(byte)::n, holder#(bit [7:0])::n);
        b = c;
        $display("%s %s %0d %0d", x.v.name(), y.v.name(), p.v.b, q.v.y);
      end
    endmodule"""
    prints(simulate, text, "1 2 1 1 1\n2 1\nB D 2 4\n")
