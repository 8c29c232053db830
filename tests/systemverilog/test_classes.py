"""Classes: IEEE 1800-2017 clause 8, each row by hand from its clause."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse
from tests.conftest import Done
from tests.rows import Row, check_rows

Run = Callable[..., Done]

CLASSES = """
class Gate;
  static int made = 0;
  const int number;
  string name;
  int levels [2];
  bit [7:0] flags;
  int log [$];
  Gate upstream;
  function new(string name = "gate", int level = 3);
    this.name = name; made++; number = made; levels = '{level, level + 1};
  endfunction
  function int total(); return levels.sum(); endfunction
  virtual function string kind(); return "plain"; endfunction
  function string words(); return {name, ":", kind()}; endfunction
  static function int count(); return made; endfunction
  task wait_and_log(int d); #d log.push_back($time); endtask
  function Gate self(); return this; endfunction
endclass
class SluiceGate extends Gate;
  int width = 5;
  function new(string name, int width); super.new(name, 10); this.width = width; endfunction
  virtual function string kind(); return {"sluice of ", super.kind()}; endfunction
  function int total(); return super.total() + width; endfunction
endclass
class MitreGate extends SluiceGate;
  function new(); super.new("mitre", 9); endfunction
  function string kind(); return "mitre"; endfunction
endclass
virtual class Sensor;
  pure virtual function int read();
  function int doubled(); return 2 * read(); endfunction
endclass
class Depth extends Sensor;
  local int cm;
  function new(int cm); this.cm = cm; endfunction
  function int read(); return cm; endfunction
endclass
class Pair #(type A = int, type B = A, int WEIGHT = 1);
  A first; B second;
  function new(A a, B b); first = a; second = b; endfunction
  function int weight(); return WEIGHT; endfunction
  static function Pair #(A, B, WEIGHT) of(A a, B b); of = new(a, b); endfunction
endclass
class Node; int value; Node next; endclass
class Chain;
  Node head; int size;
  function void add(int v); Node n = new; n.value = v; n.next = head; head = n; size++; endfunction
  function int sum(); for (Node n = head; n != null; n = n.next) sum += n.value; endfunction
endclass
class Holder; typedef enum {IDLE, BUSY} state_e; localparam int DEPTH = 6; state_e state = BUSY; Pair #(string) pair; endclass
"""

AROUND = "Gate g, h; SluiceGate s; MitreGate m; Depth d; Sensor sensor; Chain c; Holder k; Gate all [$]; Pair #(string, int, 4) p;"

ROWS: list[Row] = [
    ("8.4 a handle starts at null", '$display("%b", g == null);', "1"),
    ("8.7 new with defaults", 'g = new; $display("%s %0d %0d", g.name, g.total(), g.number);', "gate 7 1"),
    ("8.7 new with arguments by name", 'h = new(.level(1)); $display("%s %p", h.name, h.levels);', "gate '{1, 2}"),
    ("8.9 static properties and methods", '$display("%0d %0d %0d", Gate::made, Gate::count(), g.made);', "2 2 2"),
    ("8.5 an element of a property", 'g.levels[1] = 20; g.levels[0]++; $display("%0d", g.total());', "24"),
    ("8.5 bits of a property", "g.flags = '0; g.flags[7:6] = 2'b10; g.flags[0] = 1; $display(\"%b\", g.flags);", "10000001"),
    ("8.4 assigning a handle makes another name, no copy", 'h = g; h.name = "same"; $display("%s", g.name);', "same"),
    (
        "8.12 a shallow copy",
        'h = new g; h.name = "copy"; h.levels[0] = 0; $display("%s %s %0d", g.name, h.name, g.levels[0]);',
        "same copy 4",
    ),
    (
        "8.13 inherited properties and methods",
        's = new("east", 7); $display("%0d %0d %s", s.total(), s.width, s.name);',
        "28 7 east",
    ),
    ("8.20 a virtual method by way of a handle of the base", 'g = s; $display("%s", g.words());', "east:sluice of plain"),
    ("8.14 a method that is not virtual goes by the handle", '$display("%0d %0d", g.total(), s.total());', "21 28"),
    ("8.20 virtual once, virtual below", 'm = new; g = m; $display("%s %s", g.kind(), m.words());', "mitre mitre:mitre"),
    (
        "8.21 what a virtual class leaves open",
        'd = new(40); sensor = d; $display("%0d %0d", sensor.read(), sensor.doubled());',
        "40 80",
    ),
    ("8.16 $cast down", 'SluiceGate t; $display("%0d", $cast(t, g));', "1"),
    ("8.16 $cast of another class fails", 'SluiceGate t; g = new; $display("%0d%b", $cast(t, g), t == null);', "01"),
    ("8.25 parameters of a class", 'p = new("a", 3); $display("%s%0d %0d", p.first, p.second, p.weight());', "a3 4"),
    (
        "8.25 a default that is another parameter",
        'Pair #(byte) q; q = new(300, 200); $display("%0d %0d", q.first, q.second);',
        "44 -56",
    ),
    (
        "8.25.1 a static method by the class and its parameters",
        'p = Pair#(string, int, 4)::of("z", 8); $display("%s%0d", p.first, p.second);',
        "z8",
    ),
    (
        "8.4 objects that point to objects",
        'c = new; c.add(3); c.add(4); c.add(5); $display("%0d %0d %0d", c.sum(), c.size, c.head.next.value);',
        "12 3 4",
    ),
    ("8.11 this as a value", '$display("%b %s", g.self() == g, g.self().self().name);', "1 gate"),
    (
        "8.23 types and constants of a class",
        'k = new; $display("%0d %s %0d", Holder::DEPTH, k.state.name(), k.state == Holder::BUSY);',
        "6 BUSY 1",
    ),
    (
        "8.4 a property that is an object of a parametrised class",
        'k.pair = new("x", "y"); $display("%s", {k.pair.first, k.pair.second});',
        "xy",
    ),
    (
        "7.10 a queue of handles",
        'all.push_back(s); all.push_back(m); foreach (all[i]) $write("%s ", all[i].kind()); $display;',
        "sluice of plain mitre ",
    ),
    (
        "7.12.1 a locator over handles",
        'Gate r [$]; r = all.find(x) with (x.name == "mitre"); $display("%0d %s", r.size(), r[0].kind());',
        "1 mitre",
    ),
    ("8.6 a task of an object takes time", 'g.wait_and_log(5); g.wait_and_log(2); $display("%0d", g.log[1] - g.log[0]);', "2"),
    ("8.4 comparing handles", 'h = g; $write("%b", h == g); h = new; $display("%b%b", h == g, h != null);', "101"),
    (
        "7.8 handles under keys",
        'Gate by_name [string]; by_name["e"] = s; $display("%0d %s", by_name["e"].total(), by_name["e"].name);',
        "21 east",
    ),
]


def test_objects(simulate: Run) -> None:
    check_rows(simulate, ROWS, AROUND, outside=CLASSES)


def test_a_null_handle_is_named(simulate: Run) -> None:
    """8.4: using a handle that holds no object ends the run with the statement."""
    done = simulate("class A; int n; endclass\nmodule tb; A a; initial begin\n  a.n = 1;\nend endmodule", suffix=".sv")
    assert done.status == 1
    assert "null" in done.err and ":3" in done.err


def test_what_can_not_be_made(simulate: Run) -> None:
    """8.21: an object of a virtual class can't be made."""
    done = simulate("virtual class A; endclass\nmodule tb; A a;\ninitial a = new; endmodule", suffix=".sv")
    assert done.status == 2 and "virtual" in done.err and ":3:" in done.err


def test_later_clauses_are_named(simulate: Run) -> None:
    """Constraints are named, with their clause, at their place; nothing else is complained of."""
    done = simulate(
        "class A;\n  rand int n;\n  constraint c { n > 0; }\n  int m;\nendclass\nmodule tb; A a; initial begin a = new; a.m = 1; end endmodule",
        suffix=".sv",
    )
    assert done.status == 2
    errors = [line for line in done.err.splitlines() if ": error:" in line]
    assert len(errors) == 1 and ":3:" in errors[0] and "18.5" in errors[0]


def test_methods_outside_their_class(simulate: Run) -> None:
    """8.24: the body belongs to the class; a default may stand in the prototype alone; `virtual` stands only there."""
    outside = """class Sluice; protected int level; extern function new(int l = 5);
        extern virtual function int after(int rise = 2); extern task raise(input int by); extern static function int spare(); endclass
    function Sluice::new(int l); level = l; endfunction
    function int Sluice::after(int rise); return level + rise; endfunction
    task Sluice::raise(input int by); #1 level += by; endtask
    function int Sluice::spare(); return 9; endfunction
    class Double extends Sluice; function new(); super.new(3); endfunction
        virtual function int after(int rise = 2); return 2 * super.after(rise); endfunction endclass"""
    rows = [
        ("8.24", 'begin Sluice s; s = new; $display("%0d %0d", s.after(), s.after(4)); end', "7 9"),
        ("8.24", 'begin Sluice s; s = new(1); s.raise(6); $display("%0d %0d", s.after(0), Sluice::spare()); end', "7 9"),
        ("8.20", 'begin Sluice s; Double d; d = new; s = d; $display("%0d", s.after(1)); end', "8"),
    ]
    check_rows(simulate, rows, outside=outside)


@pytest.mark.parametrize(
    ("text", "line", "code"),
    [
        ("class C;\n extern function int f();\nendclass\nmodule t; endmodule", 2, "extern-method"),
        ("class C;\nendclass\nfunction int C::f(); return 1; endfunction\nmodule t; endmodule", 3, "extern-method"),
    ],
)
def test_bodies_and_prototypes_need_each_other(text: str, line: int, code: str, tmp_path: Path) -> None:
    path = tmp_path / "a.sv"
    path.write_text(text + "\n")
    found = analyse([path]).diagnostics.items
    assert [(d.place.line, d.code) for d in found] == [(line, code)]


def test_interface_classes(simulate: Run) -> None:
    """8.26: a handle of an interface class holds objects of what implements it, also by way of a base or of an interface that
    extends it; 8.17: arguments behind extends go to the constructor of the base."""
    outside = """
    interface class Readable #(type T = int); pure virtual function T get(); endclass
    interface class Register extends Readable#(int); pure virtual function void put(int x); endclass
    class Base; int v; function new(int v); this.v = v; endfunction virtual function string who(); return $sformatf("base %0d", v); endfunction endclass
    class Derived extends Base(7); endclass
    class Cell extends Base implements Register; function new; super.new(3); endfunction
      virtual function int get(); return v; endfunction virtual function void put(int x); v = x; endfunction endclass
    class Twice extends Cell; virtual function int get(); return 2 * v; endfunction endclass"""
    rows = [
        ("8.17", 'begin Derived d; d = new; $display("%s", d.who()); end', "base 7"),
        ("8.26.2", 'begin Cell c; Register r; c = new; r = c; r.put(42); $display("%0d %s", r.get(), c.who()); end', "42 base 42"),
        ("8.26.3", 'begin Twice w; Register r; Readable#(int) q; w = new; r = w; q = r; $display("%0d", q.get()); end', "6"),
        ("8.26.5", 'begin Cell c; Readable#(int) q; c = new; q = c; $display("%0d", $cast(c, q)); end', "1"),
        ("8.26.5", 'begin Twice w; Cell c; Readable#(int) q; c = new; q = c; $display("%0d", $cast(w, q)); end', "0"),
    ]  # fmt: skip
    check_rows(simulate, rows, outside=outside)


def test_a_class_that_breaks_its_promise(simulate: Run) -> None:
    """8.26: all methods of the interface have to be there; what is no interface class can't be implemented."""
    done = simulate(
        "interface class I; pure virtual function int f(); endclass\nclass P; endclass\n"
        "class A implements I; endclass\nclass B implements P; endclass\nmodule t; A a; endmodule\n",
        suffix=".sv",
    )
    assert done.status == 2
    assert ":3:1: error: the class 'A' lacks the method 'f' of 'I'" in done.err
    assert ":4:20: error: 'P' is no interface class" in done.err


def test_classes_that_name_each_other(simulate: Run) -> None:
    """6.18, 8.27: a class declared forward; one with parameters that has handles to its own kind; one used above its text."""
    outside = """
    package lock; typedef class Gate; class Keeper; Gate g; function int ask(); g = new(this); return g.level + g.keeper.calm; endfunction int calm = 4; endclass
      class Gate; int level = 3; Keeper keeper; function new(Keeper k); keeper = k; endfunction endclass endpackage
    class Chain #(type T = int); T value; Chain #(T) next; function new(T v, Chain #(T) n); value = v; next = n; endfunction
      function int length(); return next == null ? 1 : 1 + next.length(); endfunction endclass
    import lock::*;"""
    around = "typedef class Late; Late early; class Late extends Base2; endclass class Base2; int a = 5; endclass"
    rows = [
        ("8.27", 'begin Keeper k; k = new; $display("%0d", k.ask()); end', "7"),
        ("8.25", 'begin Chain #(int) c; c = new(1, null); c = new(2, c); c = new(3, c); $display("%0d %0d", c.length(), c.next.value); end', "3 2"),
        ("8.27", 'begin early = new; $display("%0d", early.a); end', "5"),
    ]  # fmt: skip
    check_rows(simulate, rows, around, outside=outside)


def test_a_class_that_extends_itself(simulate: Run) -> None:
    done = simulate("class A extends B; endclass\nclass B extends A; endclass\nmodule t; A a; endmodule\n", suffix=".sv")
    assert (done.status, done.err.count("error:")) == (2, 1)
    assert "extends itself" in done.err
