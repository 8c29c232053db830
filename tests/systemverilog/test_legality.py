"""What the standard forbids is an error, once and at its place; what looks like it but is allowed is none (IEEE 1800-2017)."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse


def errors(text: str, folder: Path, severity: str = "error") -> list[tuple[int, str]]:
    path = folder / "a.sv"
    path.write_text(text)
    analysis = analyse([path])
    if not analysis.diagnostics.failed:
        analysis.elaborate("t")
    return [(d.place.line, d.code) for d in analysis.diagnostics.sorted() if d.severity == severity]


WRITERS = [
    ("10.3.2: two continuous assignments", "logic a;\nassign a = 1;\nassign a = 0;", 3),
    ("6.5: a continuous and a procedural one", "logic a;\nassign a = 1;\ninitial a = 0;", 3),
    ("6.5: the other way round", "logic a;\ninitial a = 0;\nassign a = 1;", 3),
    ("23.3.3.2: a port drives it already", "logic a;\nsub u(1'b0, a);\nalways @* a = 0;", 3),
    ("6.5: other bits", "logic [3:0] a;\nassign a[1:0] = 1;\ninitial a[2] = 0;", 0),
    ("6.5: the same bits", "logic [3:0] a;\nassign a[1:0] = 1;\ninitial a[1] = 0;", 3),
    ("6.5: other elements", "logic a[4];\nassign a[0] = 1;\nassign a[1] = 0;\ninitial a[2] = 0;", 0),
    ("6.5: an index that is not known", "logic a[4]; int i;\nassign a[0] = 1;\ninitial a[i] = 0;", 3),
    ("10.3.2: a net takes several", "wire a;\nassign a = 1;\nassign a = 1'bz;", 0),
    ("9.2.2.2: always_comb and another process", "logic a, b;\nalways_comb a = b;\nalways @(b) a = 0;", 3),
    ("9.2.2.4: always_ff and initial", "logic a, c;\nalways_ff @(posedge c) a <= 1;\ninitial a = 0;", 3),
    ("9.2.2.4: a start value is no process", "logic a = 0, c;\nalways_ff @(posedge c) a <= 1;", 0),
    ("9.2.2: plain procedures may share", "logic a;\nalways @(posedge a) a = 0;\ninitial a = 1;", 0),
    ("9.2.2.2: parts of one vector", "logic [1:0] a; logic b;\nalways_comb a[0] = b;\nalways_comb a[1] = ~b;", 0),
]


@pytest.mark.parametrize(("clause", "items", "line"), WRITERS)
def test_who_may_write_a_variable(clause: str, items: str, line: int, tmp_path: Path) -> None:
    text = f"module sub(input i, output logic o); assign o = i; endmodule module t; {items}\nendmodule\n"
    assert errors(text, tmp_path) == ([(line, "variable-writers")] if line else []), clause


ENUM = "typedef enum {A, B} en; typedef enum {C, D} other; en e, list[2]; other m; logic [1:0] v; int i; string s;"
GOOD = ["e = B", "e = en'(1)", "e = e.next()", "e = list[0]", "e = v[0] ? A : B", "list = '{A, B}", "e = 'x", "void'($cast(e, 1))", "i = e + 1",
        "v = e", "e = B; if (e == 1) i = 2", "s = e.name()", "foreach (list[k]) list[k] = A"]  # fmt: skip
BAD = ["e = 1", "e = m", "e = i", "e = e + 1", "e = C", "e = v[0]", "e++", "e += 1", "e = v[0] ? A : 1", "list = '{A, 1}"]


@pytest.mark.parametrize("statement", [*GOOD, *BAD])
def test_what_an_enum_takes(statement: str, tmp_path: Path) -> None:
    """6.19.3: its names and values of its own type; anything else needs a cast."""
    wanted = [(2, "enum-value")] if statement in BAD else []
    assert errors(f"module t; {ENUM} initial begin\n{statement}; end endmodule\n", tmp_path) == wanted


def test_an_assignment_as_a_condition(tmp_path: Path) -> None:
    """11.4.1: in an if, '=' is a mistake for '=='; the rest of the statement is still read."""
    text = "module t; int a, b; initial begin\nif (a = 1) b = 2; else b = c;\nend endmodule\n"
    assert errors(text, tmp_path) == [(2, "assignment-in-condition")]


NOT_YET = {
    "covergroup": ("covergroup g @(posedge c); coverpoint c { bins x = {1}; } endgroup", "module"),
    "randsequence": ("initial begin randsequence(m) m : a; a : { c = 1; }; endsequence c = 1; end", "module"),
    "nettype": ("nettype real level; logic after;", "module"),
    "interconnect": ("interconnect i; logic after;", "module"),
    "a call with constraints": ("initial void'(std::randomize(c) with { c == 1; });", "module"),
    "a function in C": ('import "DPI-C" function int f(int a); int k; initial k = f(1);', "module"),
    "checker": ("checker k(input a); assert property (@(posedge a) 1); endchecker : k", "file"),
    "constraint": ("class K; int a; constraint c { a > 1; if (a == 2) { a < 9; } } int b; endclass", "file"),
    "covergroup of a class": ("class K; int a; covergroup g; coverpoint a; endgroup int b; endclass", "file"),
}


@pytest.mark.parametrize("what", NOT_YET)
def test_what_is_not_there_yet_is_named_once(what: str, tmp_path: Path) -> None:
    """It is named at its line, no syntax error follows, and what stands behind it is read."""
    text, place = NOT_YET[what]
    inside = f"\n{text}\nlogic last;" if place == "module" else ""
    outside = f"\n{text}\n" if place == "file" else ""
    assert errors(f"{outside}module t; logic c;{inside}\nendmodule\n", tmp_path) == [(2, "unsupported")]


def test_a_static_variable_with_a_start_value_is_pointed_out(tmp_path: Path) -> None:
    """6.21: in a static procedure the keyword shows what is meant; in an automatic one, and for a loop's own variable, it is clear."""
    text = """module t; initial repeat (2) begin
      int a = 1;
      static int b = 1; automatic int c = 1; int d;
      for (int i = 0; i < 2; i++) d = i; a = b + c; end
    function automatic int f(); int z = 1; return z; endfunction
    function int g();
      int z = 1; return z; endfunction
    initial $display(f(), g()); endmodule"""
    assert errors(text, tmp_path, "warning") == [(2, "starts-once"), (7, "starts-once")]
    once = "module t; int n = 1; initial begin int a = 1; int q[$] = '{1, -2};\nint b = n; $display(a, b, q[0]); end endmodule"
    assert errors(once, tmp_path, "warning") == [(2, "starts-once")]


def test_a_queue_is_no_single_value(tmp_path: Path) -> None:
    """7.6: where one value is needed."""
    text = """module t; int q[$] = '{1, 2}; int x; int r[$]; string s; initial begin
      x = q;
      r = '{q, 3};
      x = q + 1;
      if (q) x = 1;
      s = {"a", q};
      r = {q, 3}; x = q[0] + q.sum(); end endmodule"""
    assert [line for line, _ in errors(text, tmp_path)] == [2, 3, 4, 5, 6]


CLASSES = """module t;
  class P; local int v = 1; protected int w = 2; local static int s = 3; local rand bit [3:0] r;
    local function int lf(); return v; endfunction protected function int pf(); return w + lf(); endfunction
    function bit same(P o); return o.v == v; endfunction static function int sv(P o); return o.v + s; endfunction
    extern function int e(); endclass
  function int P::e(); return v + this.w; endfunction
  class D extends P; rand bit [3:0] q; function int g(); return w + pf() + super.pf() + this.w; endfunction
    class In; function int peek(D d); return d.w; endfunction endclass
    BODY
  endclass
  class One; static One it; local function new(); endfunction
    static function One get(); if (it == null) it = new; return it; endfunction endclass
  P p; D d; One o; int dd[];
  initial begin p = new; d = new; o = One::get(); void'(d.randomize()); $display(p.same(d), d.g(), P::sv(p)); end
  initial begin
    STEP
  end
endmodule"""


@pytest.mark.parametrize(
    ("body", "step", "line"),
    [
        ("", "", 0),
        ("function int bad(); return v; endfunction", "", 9),
        ("function int bad(); return lf(); endfunction", "", 9),
        ("", "p.v = 3;", 16),
        ("", "$display(d.w);", 16),
        ("", "$display(p.lf());", 16),
        ("", "$display(P::s);", 16),
        ("", "o = new;", 16),
    ],
)
def test_local_and_protected_members(tmp_path: Path, body: str, step: str, line: int) -> None:
    """8.18: a local member is for methods of its class, of whatever object; a protected one also for those of classes that extend it."""
    text = CLASSES.replace("BODY", body).replace("STEP", step)
    assert errors(text, tmp_path) == ([(line, "class-access")] if line else [])


def test_a_dynamic_array_is_no_queue(tmp_path: Path) -> None:
    """7.5, 7.10.2: push_back, push_front and insert are methods of queues; delete is one of both."""
    text = """module t; int d[]; int q[$]; initial begin
      d.push_back(1);
      d.insert(0, 1);
      d.delete(); q.push_back(1); end endmodule"""
    assert errors(text, tmp_path) == [(2, "operand-type"), (3, "operand-type")]


def test_overrides_have_the_arguments_of_what_they_override(tmp_path: Path) -> None:
    """8.20: number, names and directions; a method that is not virtual is only hidden by one of its name."""
    text = """module t; class A; virtual function int f(int a); return a; endfunction virtual task k(); endtask function int h(int a); return a; endfunction endclass
    class B extends A; function int f(int a, int b); return a; endfunction
      function void k(); endfunction function int h(); return 1; endfunction endclass
    class C extends A; function int f(int b); return b; endfunction endclass
    class D extends A; function int f(int a); return 2 * a; endfunction task k(); endtask endclass
    endmodule"""
    assert errors(text, tmp_path) == [(2, "override"), (3, "override"), (4, "override")]


def test_generate_loops_have_genvars(tmp_path: Path) -> None:
    """27.4: declared before or in the loop, and each of nested loops its own."""
    text = """module t; integer k; genvar g, h;
    for (k = 0; k < 2; k = k + 1) begin end
    for (i = 0; i < 2; i = i + 1) begin end
    for (g = 0; g < 2; g = g + 1) begin for (h = 0; h < 2; h = h + 1) begin end end
    for (g = 0; g < 2; g = g + 1) begin for (genvar j = 0; j < 2; j++) begin end end
    for (g = 0; g < 2; g = g + 1) begin : a
      for (g = 0; g < 2; g = g + 1) begin : b end end endmodule"""
    assert sorted(set(errors(text, tmp_path))) == [(2, "genvar"), (3, "genvar"), (7, "genvar")]


def test_a_property_that_is_not_declared(tmp_path: Path) -> None:
    assert errors("module t;\nassert property (nothing); endmodule", tmp_path) == [(2, "unknown-name")]
