"""Whole testbenches of components, written as verification engineers write them (IEEE 1800-2017 clauses 7, 8, 15, 25); what each prints
was worked out by hand."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]


def test_driver_and_monitor(simulate: Run) -> None:
    """A tree of components with parents, a bounded queue between them, virtual interfaces, a class that makes its only object itself.
    The driver takes an item, drives it at an edge and lets go at the next: four items take edges 5 to 65, the monitor sees each one edge
    after it is driven, the last at 75."""
    text = """package sluice_vp;
      typedef class Env;
      virtual class Component;
        string name; Component parent; Component children[$]; static int total;
        function new(string name, Component parent = null);
          this.name = name; this.parent = parent; if (parent != null) parent.children.push_back(this); total++;
        endfunction
        function string path(); return parent == null ? name : {parent.path(), ".", name}; endfunction
        pure virtual task run();
        virtual function void report(int depth = 0);
          $display("%s%s", {depth{"-"}}, name); foreach (children[i]) children[i].report(depth + 1);
        endfunction
      endclass
      class Item; int addr; byte data[]; function new(int a = 0); addr = a; data = new[2]; foreach (data[i]) data[i] = a + i; endfunction endclass
      class Fifo #(type T = int); local T q[$]; local int most; static int fifos = 0;
        function new(int most = 2); this.most = most; fifos++; endfunction
        task put(T x); wait (q.size() < most); q.push_back(x); endtask
        task get(output T x); wait (q.size() > 0); x = q.pop_front(); endtask
      endclass
      class Driver extends Component; Fifo #(Item) f; virtual bus_if vif; int sent;
        function new(string name, Component parent); super.new(name, parent); endfunction
        virtual task run(); Item it;
          forever begin f.get(it); @(posedge vif.clk); vif.a <= it.addr; vif.d <= it.data[1]; vif.v <= 1; sent++; @(posedge vif.clk) vif.v <= 0; end
        endtask
      endclass
      class Monitor extends Component; virtual bus_if vif; int seen[$]; int by_addr[int][$];
        function new(string name, Component parent); super.new(name, parent); endfunction
        virtual task run(); forever begin @(posedge vif.clk iff vif.v); seen.push_back(vif.a); by_addr[vif.a % 2].push_back(vif.d); end endtask
      endclass
      class Env extends Component; Driver d; Monitor m; Fifo #(Item) f; static local Env one;
        static function Env get(); if (one == null) one = new("env"); return one; endfunction
        function new(string name); super.new(name); f = new(1); d = new("drv", this); m = new("mon", this); d.f = f; endfunction
        virtual task run();
          fork d.run(); m.run(); join_none
          for (int i = 0; i < 4; i++) begin automatic Item it = new(i * 10 + 1); f.put(it); end
          wait (m.seen.size() == 4);
        endtask
      endclass
    endpackage
    interface bus_if (input bit clk); logic [7:0] a, d; logic v = 0; endinterface
    module tb; import sluice_vp::*; bit clk; always #5 clk = !clk; bus_if b(clk); Env e;
      initial begin
        e = Env::get(); if (Env::get() == e) $display("single"); e.d.vif = b; e.m.vif = b; e.run();
        $display("%0t %p %p sent %0d", $time, e.m.seen, e.m.by_addr, e.d.sent); e.report();
        $display("%s %0d %0d", e.m.path(), Component::total, Fifo#(Item)::fifos); $finish(0);
      end
      final $display("final %0t", $time);
    endmodule"""
    wanted = """single
    75 '{1, 11, 21, 31} '{1:'{2, 12, 22, 32}} sent 4
    env
    -drv
    -mon
    env.mon 3 1
    final 75"""
    prints(simulate, text, wanted)


def test_objects_in_queues(simulate: Run) -> None:
    """7.12 with objects: find, sort, max and sum by a property; copies are shallow (8.12) but for what is copied by hand."""
    text = """class Item; int addr; bit write; byte data[]; Item next;
      function new(int a = 0, bit w = 0); addr = a; write = w; data = new[2]; foreach (data[i]) data[i] = a + i; endfunction
      function Item clone(); clone = new this; clone.data = new[data.size()](data); endfunction
      function bit eq(Item o); return addr == o.addr && data == o.data; endfunction endclass
    module tb; Item a, c, list[$], found[$]; int idx[$]; string names[$] = '{"b", "a", "c"};
      initial begin
        a = new(5); c = a.clone(); c.data[0] = 9; $display("%b %0d %0d", a.eq(c), a.data[0], c.data[0]);
        for (int i = 0; i < 5; i++) begin automatic Item n = new(7 - i * 3, i[0]); list.push_back(n); end
        found = list.find with (item.write); $display("%0d %0d", found.size(), found[0].addr);
        idx = list.find_last_index(x) with (x.addr < 0); $display("%p", idx);
        list.sort with (item.addr); foreach (list[i]) $write("%0d ", list[i].addr); $display("%0d", list.sum() with (item.addr));
        found = list.max with (item.addr); names.sort(); $display("%0d %p", found[0].addr, names);
        begin int q[$][$]; q.push_back('{1, 2}); q.push_back('{}); q[1].push_back(5); $display("%p %0d", q, q[0].sum()); end
        a.next = c; a.next.next = a; $display("%0d", a.next.next.next.addr); a = null; if (a == null) $display("null");
      end
    endmodule"""
    wanted = """0 5 9
    2 4
    '{4}
    -5 -2 1 4 7 5
    7 '{"a", "b", "c"}
    '{'{1, 2}, '{5}} 3
    5
    null"""
    prints(simulate, text, wanted)


def test_interface_classes_and_what_they_call(simulate: Run) -> None:
    """8.26, 8.14, 8.20: objects by what they promise; a list of objects called back, the argument handed on by reference."""
    text = """interface class Shape; pure virtual function real area(); endclass
    interface class Named; pure virtual function string name(); endclass
    class Square implements Shape, Named; real s; function new(real s); this.s = s; endfunction
      virtual function real area(); return s * s; endfunction virtual function string name(); return "square"; endfunction endclass
    class Circle implements Shape; real r; function new(real r); this.r = r; endfunction virtual function real area(); return 3.0 * r * r; endfunction endclass
    class Hook; virtual function void earlier(ref int x); endfunction virtual task after(int x); endtask endclass
    class Doubler extends Hook; virtual function void earlier(ref int x); x *= 2; endfunction
      virtual task after(int x); #1 $display("after %0d %0t", x, $time); endtask endclass
    class Machine; Hook hooks[$]; int log[string];
      task go(int x); foreach (hooks[i]) hooks[i].earlier(x); foreach (hooks[i]) hooks[i].after(x); log[$sformatf("x%0d", x)]++; endtask endclass
    module tb; Shape shapes[$]; Square sq; Circle ci; Named nm; Machine m; Doubler d;
      initial begin
        sq = new(2.0); ci = new(1.5); shapes.push_back(sq); shapes.push_back(ci); foreach (shapes[i]) $write("%0.2f ", shapes[i].area());
        if ($cast(nm, shapes[0])) $display(nm.name()); if (!$cast(nm, shapes[1])) $display("no name");
        m = new; d = new; m.hooks.push_back(d); m.hooks.push_back(d); m.go(3); $display("%p", m.log);
      end
    endmodule"""
    prints(simulate, text, '4.00 6.75 square\nno name\nafter 12 1\nafter 12 2\n\'{"x12":1}')


def test_parameters_of_classes(simulate: Run) -> None:
    """8.25: parameters and types of a class are its members, inherited and reached by its name; each set of values has static properties of
    its own, with start values of their own; a constant property is set once, for each object."""
    text = """class Base #(int W = 4); typedef logic [W-1:0] word_t; word_t w; static const int LIMIT = 2 ** W; static int n = next(); static int m = n + W;
      static function int next(); return 5; endfunction function word_t inc(int by = 1); w += by; return w; endfunction endclass
    class Wide extends Base #(12); function int both(); return W * 100 + LIMIT; endfunction endclass
    class Counter; static int n; const int id; function new; id = ++n; endfunction static function int count(); return n; endfunction endclass
    class Outer; int v = 3; class Inner; int v = 4; function int twice(); return 2 * v; endfunction endclass Inner i; function new; i = new; endfunction endclass
    module tb; Wide w; Base #(4) b4; Counter c1, c2; Outer o; Outer::Inner oi; Base#(9)::word_t word; Base #(6)::word_t words[2];
      initial begin
        w = new; b4 = new; b4.w = 15; $display("%0d %0d %0d %0d", b4.inc(), w.inc(4000), w.both(), Base#(6)::LIMIT);
        $display("%0d %0d %0d %0d", Base#(6)::n, Base#(6)::m, Base#(7)::m, Base#(3)::W);
        c1 = new; c2 = new; $display("%0d %0d %0d", c1.id, c2.id, Counter::count());
        o = new; oi = o.i; oi.v = 10; $display("%0d %0d", o.v, o.i.twice());
        word = '1; words[1] = '1; $display("%0d %h %h %0d", $bits(Base#(9)::word_t), word, words[1], Base#(5)::word_t'(40));
      end
    endmodule"""
    prints(simulate, text, "0 x 5296 64\n5 11 12 3\n1 2 2\n3 20\n9 1ff 3f 8")


def test_lists_that_functions_give(simulate: Run) -> None:
    """7.10.2, 7.12, 13.4: queues and arrays as results and arguments; the methods of queues in a row; enum keys print as names."""
    text = """typedef enum {READ, WRITE} kind_e; typedef struct { kind_e k; int a; } op_t;
    module tb; op_t ops[$]; int hist[kind_e]; int res[]; typedef int list_t[$];
      function automatic int apply(input int q[$], output int m[]); m = new[q.size()]; foreach (q[i]) m[i] = q[i] ** 2; return q.sum(); endfunction
      function automatic list_t range(int n); for (int i = 0; i < n; i++) range.push_back(i); endfunction
      initial begin
        ops = '{'{READ, 1}, '{WRITE, 2}, '{k: READ, a: 7}}; foreach (ops[i]) hist[ops[i].k]++;
        $display("%p %0d", hist, ops.sum() with (item.k == READ ? item.a : 0));
        $display("%0d %p %p %0d", apply('{1, 2, 3}, res), res, range(4), range(5)[3]);
        begin automatic int q[$] = range(6); q = q[2:4]; $display("%p %0d", q, q[$]); q = {q, 9, q[0]}; q.insert(1, 77); $display("%p", q);
          q.delete(0); void'(q.pop_back()); q.reverse(); $display("%p", q); q = {}; $display("%0d", q.size()); end
        begin automatic int a[5] = '{5, 2, 8, 2, 1}; automatic int u[$]; $display("%0d %0d", a.sum(), a.xor()); u = a.unique(); u.sort();
          $display("%p", u); a.shuffle(); $display("%0d", a.sum()); $display("%p %b %b", a.find_first with (item == 8), 8 inside {a}, 3 inside {a}); end
      end
    endmodule"""
    wanted = """'{READ:2, WRITE:1} 8
    6 '{1, 4, 9} '{0, 1, 2, 3} 3
    '{2, 3, 4} 4
    '{2, 77, 3, 4, 9, 2}
    '{9, 4, 3, 77}
    0
    18 12
    '{1, 2, 5, 8}
    18
    '{8} 1 0"""
    prints(simulate, text, wanted)


def test_a_fifo_of_structures(simulate: Run) -> None:
    """A parameter of type, `.*`, localparams of the head, a unique case over a concatenation: four of six pushes fit."""
    text = """package calc;
      localparam DEPTH = 2**3;
      function automatic int unsigned log2(input int unsigned n); log2 = 0; while (n > 1) begin n >>= 1; log2++; end endfunction
      typedef struct packed { logic valid; logic [log2(DEPTH)-1:0] ptr; } slot_t;
      typedef logic [3:0] nib_t;
    endpackage : calc
    module fifo import calc::*; #(parameter type T = logic [7:0], parameter int D = DEPTH, localparam A = $clog2(D)) (
      input logic clk, rst, push, pop, input T din, output T dout, output logic full, empty, output logic [A:0] count);
      T mem [D]; logic [A-1:0] rp, wp;
      assign dout = mem[rp]; assign full = count == D; assign empty = count == '0;
      always_ff @(posedge clk or posedge rst)
        if (rst) begin rp <= '0; wp <= '0; count <= '0; end
        else unique case ({push && !full, pop && !empty})
          2'b10: begin mem[wp] <= din; wp <= wp + 1'b1; count <= count + 1'b1; end
          2'b01: begin rp <= rp + 1'b1; count <= count - 1'b1; end
          2'b11: begin mem[wp] <= din; wp <= wp + 1'b1; rp <= rp + 1'b1; end
          default: ;
        endcase
    endmodule
    module tb; import calc::*;
      typedef struct packed { logic [3:0] tag; nib_t [1:0] data; } item_t;
      logic clk = 0, rst = 1, push = 0, pop = 0, full, empty; item_t din = '0, dout; logic [2:0] count;
      fifo #(.T(item_t), .D(4)) dut (.*);
      always #5 clk = ~clk;
      initial begin
        #12 rst = 0;
        for (int i = 0; i < 6; i++) begin @(negedge clk); push = 1; din = '{tag: i, data: '{i, ~i}}; end
        @(negedge clk) push = 0; $display("full %b count %0d", full, count);
        while (!empty) begin $write("%h ", dout); pop = 1; @(negedge clk); end $display; pop = 0;
        $display("%0d %0d", $bits(slot_t), $bits(item_t)); $finish(0);
      end
    endmodule"""
    prints(simulate, text, "full 1 count 4\n00f 11e 22d 33c \n4 12")


def test_copies_are_copies(simulate: Run) -> None:
    """7.2.2, 7.6, 7.9.9, 8.12: what is assigned, or lies in an object that is copied, is a value, lists in structures in lists included;
    a handle is copied as a handle, and the copy is of the object's own class."""
    text = """typedef struct {string n; int l[$];} bag_t;
    class B; bag_t bags[$]; int arr[2][$]; string s = "b"; B other; endclass
    class D extends B; int extra[$]; bag_t one; int m[string]; function D again(); again = new this; again.extra = {again.extra, 8}; endfunction endclass
    module tb; bag_t q[$], r[$], t; bag_t fix[2], fix2[2]; int qq[$][$], rr[$][$]; B b, c; D d, e, f; bag_t m[string], m2[string];
      initial begin
        t = '{"a", '{1}}; q.push_back(t); t.l.push_back(4); r = q; r[0].l.push_back(2); r[0].l.push_back(3);
        $display("%0d %0d %0d", q[0].l.size(), r[0].l.size(), t.l.size());
        t = q[0]; t.l.push_back(7); $display("%0d", q[0].l.size());
        fix[0].l.push_back(1); fix2 = fix; fix2[0].l.push_back(2); $display("%0d %0d", fix[0].l.size(), fix2[0].l.size());
        qq.push_back('{1}); rr = qq; rr[0].push_back(2); $display("%0d %0d", qq[0].size(), rr[0].size());
        m["k"].l.push_back(1); m2 = m; m2["k"].l.push_back(5); $display("%0d %0d", m["k"].l.size(), m2["k"].l.size());
        d = new; d.bags = q; d.arr[1].push_back(3); d.extra.push_back(4); d.one.l.push_back(6); d.m["x"] = 1; d.other = d; b = d; c = new b;
        if (!$cast(e, c)) $display("lost its class");
        e.bags[0].l.push_back(9); e.arr[1].push_back(9); e.extra.push_back(9); e.one.l.push_back(9); e.m["x"] = 9; e.s = "e";
        $display("%0d %0d %0d %0d %0d %s", d.bags[0].l.size(), d.arr[1].size(), d.extra.size(), d.one.l.size(), d.m["x"], d.s);
        $display("%0d %0d %0d %0d %0d %s %b", e.bags[0].l.size(), e.arr[1].size(), e.extra.size(), e.one.l.size(), e.m["x"], e.s, e.other == d);
        f = d.again(); $display("%p %p", d.extra, f.extra);
      end
    endmodule"""
    wanted = """1 3 2
    1
    1 2
    1 2
    1 2
    1 1 1 1 1 b
    2 2 2 2 9 e 1
    '{4} '{4, 8}"""
    prints(simulate, text, wanted)
