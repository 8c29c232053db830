"""What the standard forbids, clause by clause: one error, at its line (marked with `>>`), and nothing else (IEEE 1800-2017)."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.systemverilog.test_legality import errors

SUB = "module sub #(parameter P = 1, localparam L = 2)(input a, b); endmodule\n"
OUT = "module sub(output a); assign a = 1; endmodule\n"
BUS = "interface bus; logic a; modport m(input a); endinterface\n"
PACKAGES = "package p1; int q; endpackage\npackage p2; int q; endpackage\n"

ITEMS = [  # (clause, what stands in a module, code)
    ("13.4", ">>function void f(); endfunction int x; initial x = f();", "task-value"),
    ("13.3", "task t; endtask int x;\n>>initial x = t();", "task-value"),
    ("13.4.4", "task w; #1; endtask function int f();\n>>w(); return 1; endfunction", "function-waits"),
    ("13.5", "function int f(int a); return a; endfunction int x;\n>>initial x = f(1, 2);", "arguments"),
    ("13.5.3", "function int f(int a, int b); return a; endfunction int x;\n>>initial x = f(1);", "arguments"),
    ("13.5.4", "function int f(int a); return a; endfunction int x;\n>>initial x = f(.c(1));", "arguments"),
    ("13.5.2", "task automatic k(ref int a); a = 1; endtask\n>>initial k(3);", "ref-type"),
    ("13.5.2", "task automatic k(ref int a); a = 1; endtask byte b;\n>>initial k(b);", "ref-type"),
    ("13.5.2", ">>task k(ref int a); a = 1; endtask", "ref-static"),
    ("12.8", "initial begin\n>>return; end", "jump"),
    ("12.8", "function void f();\n>>return 1; endfunction", "jump"),
    ("12.8", "function int f();\n>>return; endfunction", "jump"),
    ("12.8", ">>initial break;", "jump"),
    ("12.8", ">>initial continue;", "jump"),
    ("9.6.2", ">>initial disable nothing;", "unknown-name"),
    ("15.5.1", "int e1;\n>>initial -> e1;", "operand-type"),
    ("15.5.5", "event e1;\n>>initial e1 = 1;", "operand-type"),
    ("15.5.3", "event e1;\n>>initial wait (e1);", "operand-type"),
    ("6.12", "real r;\n>>always @(posedge r) ;", "operand-type"),
    ("11.5.1", "logic a, b;\n>>initial b = a[0];", "select"),
    ("11.5.1", "real a; logic b;\n>>initial b = a[0];", "select"),
    ("11.5.1", "logic [7:0] a; logic [1:0] b;\n>>initial b = a[0:1];", "select-order"),
    ("11.5.1", "logic [7:0] a; int i; logic [1:0] b;\n>>initial b = a[i:0];", "not-constant"),
    ("7.4.3", "logic [7:0] mem [0:3]; logic [7:0] b;\n>>initial b = mem;", "array-value"),
    ("7.6", "logic [7:0] mem [0:3];\n>>initial mem = 0;", "array-assign"),
    ("7.6", "int a[3], b[4];\n>>initial a = b;", "array-assign"),
    ("7.6", "int a[3]; byte b[3];\n>>initial a = b;", "array-assign"),
    ("7.10.2", "int q[3];\n>>initial q.push_back(1);", "not-callable"),
    ("7.10.2", "int q[$];\n>>initial q.push(1);", "not-callable"),
    ("6.19", ">>typedef enum {A, B, A} t1;", "declared-twice"),
    ("6.19", ">>typedef enum {A = 1, B = 1} t1;", "enum-value"),
    ("6.19", ">>typedef enum logic [0:0] {A, B, C} t1;", "enum-value"),
    ("6.19", ">>typedef enum logic [1:0] {A = 'x, B} t1;", "enum-value"),
    ("7.2", "struct {int a;} s;\n>>initial s.b = 1;", "unknown-name"),
    ("7.2", ">>struct {int a; int a;} s;", "declared-twice"),
    ("7.2.1", ">>struct packed {real a;} s;", "struct-member"),
    ("7.3.1", ">>union packed {logic [3:0] a; logic [4:0] b;} u;", "union-width"),
    ("10.9.2", ">>struct {int a; int b;} s = '{a:1};", "pattern"),
    ("10.9.2", ">>struct {int a; int b;} s = '{a:1, a:2, b:3};", "pattern"),
    ("10.9.2", ">>struct {int a; int b;} s = '{a:1, c:2, b:3};", "unknown-name"),
    ("10.9.1", ">>int a[3] = '{1, 2};", "pattern"),
    ("6.16", "int i; string s;\n>>initial s = i;", "operand-type"),
    ("8.7", "class C; function new(int a); endfunction endclass C c;\n>>initial c = new();", "arguments"),
    ("8.5", "class C; int a; endclass C c; initial begin c = new;\n>>c.b = 1; end", "unknown-name"),
    ("8.21", "virtual class C; endclass C c;\n>>initial c = new;", "class"),
    ("8.21", "virtual class C; pure virtual function int f(); endclass\n>>class D extends C; endclass D d; initial d = new;", "class"),
    ("8.13", ">>class C extends D; endclass class D extends C; endclass", "class"),
    ("8.13", ">>class C extends D; endclass", "unknown-name"),
    ("8.10", "class C; int a; static function int f();\n>>return a; endfunction endclass", "class"),
    ("8.11", "int a;\n>>initial this.a = 1;", "class"),
    ("8.15", "class C; function int f();\n>>return super.f(); endfunction endclass", "unknown-name"),
    ("8.16", "class C; endclass class D; endclass C c; D d;\n>>initial c = d;", "class"),
    ("8.16", "class C; endclass class D extends C; endclass C c; D d;\n>>initial d = c;", "class"),
    ("6.20.6", "const int a = 1;\n>>initial a = 2;", "assign-constant"),
    ("6.20.2", "parameter P = 1;\n>>initial P = 2;", "assign-constant"),
    ("6.20.2", "int a;\n>>parameter P = a;", "not-constant"),
    ("9.2.2.2", "logic a; always_comb a = 0;\n>>always_comb a = 1;", "variable-writers"),
    ("9.2.2.4", "logic c, q; always_ff @(posedge c) begin\n>>#1 q <= 1; end", "strict-waits"),
    ("9.2.2.2", "logic c, q; always_comb begin\n>>@(c); q = 1; end", "strict-waits"),
    ("9.2.2.1", "logic q;\n>>always q = ~q;", "endless-always"),
    ("23.10.1", ">>defparam nothing.P = 1;", "defparam"),
    ("27.5", "int n;\n>>if (n) begin int x; end", "not-constant"),
    ("27.4", ">>for (genvar i = 0; i < 1; i = i) begin int x; end", "generate-endless"),
    ("27.4", "genvar i;\n>>initial i = 1;", "not-a-value"),
    ("27.6", "for (genvar i = 0; i < 2; i++) begin : g end\n>>for (genvar i = 0; i < 2; i++) begin : g end", "declared-twice"),
    ("3.13", "function int f(); return 1; endfunction\n>>function int f(); return 1; endfunction", "declared-twice"),
    ("6.18", ">>nothing_t x;", "unknown-name"),
    ("6.18", "typedef later;\n>>later x;", "unknown-name"),
    ("3.14.2", ">>timeunit 3ns;", "timescale"),
    ("5.7.1", ">>int a = 4'b12;", "number-digit"),
    ("5.7.1", ">>int a = 0'd1;", "number"),
    ("9.3.4", ">>initial begin : a end : b", "label"),
    ("11.4.12", "logic [31:0] a;\n>>initial a = {-1{1'b1}};", "replication"),
    ("11.4.12", "logic [31:0] a; int n;\n>>initial a = {n{1'b1}};", "not-constant"),
    ("11.3.1", "real r;\n>>initial r = 3.0 % 2.0;", "operand-type"),
    ("11.3.1", "real r;\n>>initial r = 3.0 & 2.0;", "operand-type"),
    ("11.3.1", "real r;\n>>initial r = 3.0 << 2;", "operand-type"),
    ("14.3", "logic c, a; clocking cb @(posedge c); input a; endclocking\n>>initial cb.a <= 1;", "unknown-name"),
    ("16.14.6", "logic c, a;\n>>assert property (a |-> a);", "no-clock"),
    ("22.5.1", ">>int a = `NOTHING;", "macro-unknown"),
]  # fmt: skip

TEXTS = [  # (clause, a whole text with the module t, code)
    ("23.2.2", ">>module t(input a, input a); endmodule", "declared-twice"),
    ("23.2.2.1", ">>module t(a); endmodule", "port-undeclared"),
    ("23.2.2.1", "module t(a); input a;\n>>input b; endmodule", "port-unlisted"),
    ("23.3.2", "module t;\n>>nothing u(); endmodule", "unknown-module"),
    ("23.3.2.2", SUB + "module t;\n>>sub u(.c(1'b1)); endmodule", "unknown-port"),
    ("23.3.2.2", SUB + "module t;\n>>sub u(.a(1'b1), .b(), .a(1'b0)); endmodule", "connection"),
    ("23.3.2", SUB + "module t;\n>>sub u(1'b1, .b(1'b0)); endmodule", "connection"),
    ("23.3.2.1", SUB + "module t;\n>>sub u(1, 0, 1); endmodule", "connection"),
    ("23.3.2.3", SUB + "module t; wire b;\n>>sub u(.a, .b); endmodule", "unknown-name"),
    ("23.3.2.4", SUB + "module t; wire b;\n>>sub u(.*); endmodule", "connection"),
    ("23.3.3", OUT + "module t; wire x, y;\n>>sub u(x & y); endmodule", "assign-constant"),
    ("23.10.2", SUB + "module t;\n>>sub #(.Q(2)) u(1, 0); endmodule", "unknown-parameter"),
    ("6.20.4", SUB + "module t;\n>>sub #(.L(3)) u(1, 0); endmodule", "parameter"),
    ("23.10.2.1", SUB + "module t;\n>>sub #(1, 2, 3) u(1, 0); endmodule", "parameter"),
    ("3.13", SUB + "module t; sub u(1, 0);\n>>sub u(1, 0); endmodule", "declared-twice"),
    ("25.5", BUS + ">>module sub(bus.k p); endmodule\nmodule t; bus u(); sub v(u); endmodule", "unknown-name"),
    ("25.5", BUS + "module sub(bus.m p);\n>>assign p.a = 1; endmodule\nmodule t; bus u(); sub v(u); endmodule", "modport"),
    ("25.3.2", BUS + "module sub(bus p); endmodule\nmodule t;\n>>sub v(); endmodule", "connection"),
    ("26.3", "module t;\n>>import nothing::*; endmodule", "unknown-package"),
    ("26.3", PACKAGES + "module t;\n>>import p1::z; endmodule", "unknown-name"),
    ("26.3", PACKAGES + "module t; import p1::*; import p2::*;\n>>initial q = 1; endmodule", "ambiguous"),
    ("22.6", "`ifdef A\n`else\n>>`else\n`endif\nmodule t; endmodule", "ifdef-else"),
    ("22.5.1", "`define F(a, b) a + b\nmodule t;\n>>int a = `F(1); endmodule", "macro-args"),
    ("23.11", SUB + ">>bind nothing sub u(1, 0);\nmodule t; endmodule", "bind"),
]  # fmt: skip
ROWS = [(clause, f"module t;\n{items}\nendmodule\n", code) for clause, items, code in ITEMS] + TEXTS


@pytest.mark.parametrize(("clause", "text", "code"), ROWS, ids=[f"{clause}-{k}" for k, (clause, _, _) in enumerate(ROWS)])
def test_is_told(clause: str, text: str, code: str, tmp_path: Path) -> None:
    lines = text.splitlines()
    wanted = [(k, code) for k, line in enumerate(lines, 1) if line.startswith(">>")]
    assert errors(text.replace(">>", ""), tmp_path) == wanted, clause


@pytest.mark.parametrize(
    "items",
    [
        'int a; string s; initial $display("%d %s %m %0t %%", a, s, $time);',
        'int a; initial $display("%0d", a, " and ", a, "%b", a);',
        'string s; int a; initial begin s = $sformatf("%5.2f %h %p", 1.0, a, a); s = {s, "%d"}; $display(s); end',
        'initial begin $error("%m"); $fatal(1, "%0d", 3); end',
        'integer f; initial begin $fdisplay(f, "%d", f); $fwrite(f, "%v %c %e %g %u %z", f, f, 1.0, 1.0, f, f); end',
        'reg [99:0] r; initial begin $swrite(r, "%d", 1, "%b", 2); $sformat(r, "%l %d", 1); end',
    ],
)
def test_formats_that_fit(items: str, tmp_path: Path) -> None:
    """21.2.1: each conversion has its value; a string among the values is a format of its own."""
    text = f"module t; {items}\nendmodule"
    assert errors(text, tmp_path) == []
    assert not [x for x in errors(text, tmp_path, "warning") if x[1] == "format"]


@pytest.mark.parametrize(
    "step",
    [
        '$display("%d %d", 1)',
        '$write("%q", 1)',
        '$display("%d", 1, "%b")',
        '$error("%s")',
        '$display("50 %")',
        's = $sformatf("%d %d", 1)',
    ],
)
def test_formats_that_do_not_fit(step: str, tmp_path: Path) -> None:
    assert errors(f"module t; string s; initial begin\n{step}; end endmodule", tmp_path, "warning") == [(2, "format")]


def test_what_an_empty_handle_is_used_for_is_told_there(simulate: object, tmp_path: Path) -> None:
    """15.4: the methods of a mailbox that was never made stop the run at the call, not in our own source of it."""
    done = simulate("module t; mailbox #(int) m; initial begin\nm.put(1);\nend endmodule", suffix=".sv")  # type: ignore[operator]
    assert ":2:" in done.err and "null handle" in done.err and "std.sv" not in done.err


TABLES = [
    ("29.3.4: an output for each combination", "output q; input a;", "0 : 1;\n>>0 : 0;"),
    ("29.6: an edge that another one includes", "output reg q; input a;", "r : ? : 0;\n>>p : ? : 1;"),
    ("29.8: levels are stronger than edges", "output reg q; input a;", "r : ? : 0;\n1 : ? : 1;"),
    ("29.6: other states", "output reg q; input a;", "r : 0 : 1;\nr : 1 : 0;"),
]


@pytest.mark.parametrize(("clause", "ports", "rows"), TABLES)
def test_tables_that_contradict_themselves(clause: str, ports: str, rows: str, tmp_path: Path) -> None:
    """The first of the rows is taken, and the second told."""
    text = f"primitive p(q, a);\n{ports}\ntable\n{rows}\nendtable endprimitive\nmodule t; wire q; p u(q, 1'b1); endmodule\n"
    wanted = [(k, "udp-row") for k, line in enumerate(text.splitlines(), 1) if line.startswith(">>")]
    assert errors(text.replace(">>", ""), tmp_path, "warning") == wanted, clause
