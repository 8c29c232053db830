"""Mistakes as people make them: each is told once, at its line, by what is wrong; nothing follows from it. `>>` marks the lines with a
message, the codes stand behind."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse

VERILOG = {
    "no semicolon after assign": ("module m(input [3:0] a, output [4:0] s);\n>>assign s = a + 1\nendmodule", "syntax"),
    "no semicolon in a block": ("module m; reg [7:0] c;\ninitial begin\n>>c = 0\n#10 c = c + 1;\nend endmodule", "syntax"),
    "no endcase": ("module m(input c, output reg o);\nalways @(posedge c)\ncase (o)\n1'b0: o <= 1;\n>>endmodule", "block-open"),
    "a wire in a procedure": ("module m; wire w;\ninitial begin\n>>w = 1;\nend endmodule", "assign-net"),
    "assign to a reg": ("module m; reg a;\n>>assign a = 1;\nendmodule", "assign-variable"),
    "a name in another case": ("module sub(input x); endmodule\nmodule m; reg x;\n>>Sub s(x);\nendmodule", "unknown-module"),
    "a connection too many": ("module sub(input x); endmodule\nmodule m; reg x, y;\n>>sub s(x, y);\nendmodule", "connection"),
    "a whole memory": ("module m; reg [7:0] mem [0:15];\ninitial begin\n>>mem = 0;\nend endmodule", "array-assign"),
    "a delay in a function": ("module m; reg r; function f(input x);\n>>#1 f = x;\nendfunction\ninitial r = f(1); endmodule", "function-waits"),
    "a parameter is assigned": ("module m; parameter N = 4;\ninitial begin\n>>N = 5;\nend endmodule", "assign-constant"),
    "always without a wait": ("module m; reg clk;\n>>always clk = ~clk;\nendmodule", "endless-always"),
    "++ in Verilog": ("module m; integer i; reg r;\ninitial\n>>for (i = 0; i < 4; i++) r = i;\nendmodule", "syntax"),
    "= for ==": ("module m; reg [3:0] r; initial begin r = 1;\n>>if (r = 4'd12) r = 0;\nend endmodule", "assignment-in-condition"),
    "an open sensitivity list": ("module m; reg a, b;\n>>always @(a or b begin\na = b;\nend endmodule", "syntax"),
    "an open gate": ("module m; wire y; reg a, b;\n>>and (y, a, b;\ninitial a = 0; endmodule", "syntax"),
    "a misspelt macro": ("`define WIDTH 8\nmodule m;\n>>reg [`WIDHT-1:0] r;\nendmodule", "macro-unknown"),
    "a misspelt constant": ("module m; reg s; localparam IDLE = 0;\ninitial\n>>s = IDEL;\nendmodule", "unknown-name"),
    "an argument too many": ("module m; task show(input v); $display(v); endtask\n>>initial show(1, 2);\nendmodule", "arguments"),
    "a digit that is none": ("module m; reg [7:0] d; initial begin\n>>d = 8'b1020_0001;\nend endmodule", "number-digit"),
    "an end too many": ("module m; reg r;\ninitial begin\nr = 1;\nend\n>>end\nendmodule", "syntax"),
    "a port without direction": (
        "module mux(a, b,\n>>s, y);\ninput a, b; output y;\nassign y = s ? a : b;\nendmodule\n"
        "module m; reg a, b, s; wire y; mux u(a, b, s, y); endmodule", "port-undeclared"),
    "an open comment": ("module m; reg a;\n>>/* counts up\ninitial a = 1;\nendmodule", "comment-open"),
    "no comma between ports": ("module m(input a,\n>>output b\ninput c);\nassign b = a & c;\nendmodule", "syntax"),
    "no comma between connections": ("module k(input a, b); endmodule\nmodule m; reg x;\n>>k u(.a(x) .b(x));\nendmodule", "syntax"),
    "endtask for endfunction": ("module m; function f(input a); f = a;\n>>endtask\nendmodule", "block-open"),
    "no endfunction": ("module m; function f(input a); f = a;\n>>initial $display(f(1));\nendfunction endmodule", "block-open"),
    "two statements of an always": ("module m; reg a, b, c; always @(posedge c)\nif (a)\nb <= 1;\n>>a <= 0;\nelse b <= 0;\nendmodule", "syntax"),
    "a port twice": ("module k(input a, b); endmodule\nmodule m; reg x;\n>>k u(.a(x), .a(x));\nendmodule", "connection"),
    "connections of both kinds": ("module k(input a, b); endmodule\nmodule m; reg x;\n>>k u(x, .b(x));\nendmodule", "connection"),
    "a function as a statement": ("module m; function f(input a); f = a; endfunction\n>>initial f(1);\nendmodule", "result-unused"),
    "a hexadecimal digit that is none": ("module m; reg [7:0] d; initial begin\n>>d = 8'hg0;\nend endmodule", "number-digit"),
    "a begin that is no macro": ("`define ON 1\nmodule m;\nreg a = `ON;\n>>wire b = `OFF;\nendmodule", "macro-unknown"),
    "a port declared once more as reg": (
        "module m(input c, d, output q);\n>>reg q;\nalways @(posedge c) q <= d;\nendmodule", "declared-twice"),
    "a macro that nobody defined, used twice": ("module m;\n>>reg [`WIDTH-1:0] a;\nreg [`WIDTH:0] b;\nendmodule", "macro-unknown"),
    "an output without reg, assigned twice": (
        "module m(input c, d, output q);\nalways @(posedge c)\n>>if (d) q <= 1;\nelse q <= 0;\nendmodule", "assign-net"),
    "a begin too many before a join": ("module m; initial fork\nbegin\n#1;\n>>join\nendmodule", "block-open"),
    "the head of a module twice": ("module m(input a, output b);\n>>module m(input a, output b);\nassign b = a; endmodule\nmodule t; wire b; m u(1'b1, b); endmodule", "block-open"),
    "a line of declarations twice": ("module m; wire x;\nreg a, b;\n>>reg a, b;\ninitial a = b; endmodule", "declared-twice"),
    "a register of a bench that is not declared": (
        "module k(input [1:0] d); endmodule\nmodule m; k u(.d(data));\ninitial begin\n>>data = 1;\ndata[0] = 0;\nend endmodule", "unknown-name"),
    "an argument that a task lacks": ("module m; task t(input a); $display(a); endtask\ninitial begin\n>>t(1, 2);\nt(2, 3);\nend endmodule", "arguments"),
    "a semicolon at the end of a macro": ("`define WIDTH 8;\nmodule m;\n>>reg [`WIDTH-1:0] a;\ninitial a = 0; endmodule", "syntax"),
    "no endcase before more statements": (
        "module m; reg [1:0] a; reg b; initial begin\ncase (a)\n0: b = 1;\n1: b = 0;\n>>b = a[0];\na = 2;\n$display(b);\nend endmodule", "block-open"),
    "parameter values behind the name of an instance": ("module k #(parameter W = 1)(input a); endmodule\nmodule m; reg r;\n>>k u #(2) (r);\ninitial r = 0; endmodule", "syntax"),
    "a condition behind else": ("module m; reg a, b; initial begin\nif (a) b = 1;\n>>else (b) begin\nb = 0;\na = 1;\nend\nend endmodule", "syntax"),
    "a range with one bound": ("module m;\n>>reg [7] a;\ninitial a[0] = 1; endmodule", "range"),
    "a misspelt initial": ("module m; reg [7:0] r;\n>>initia begin\nr[0] = 1;\nr = 2;\nend\nwire w;\nassign w = r[0]; endmodule", "syntax"),
    "a misspelt always": ("module m(input c, d, output reg q);\n>>alwas @(posedge c) begin\nq <= d;\nif (d) q <= 0; else q <= 1;\nend endmodule", "syntax"),
    "no condition in the head of a loop": ("module m; integer i; initial begin\n>>for (i = 0; i < ; i = i + 1)\n$display(i);\ni = 0;\nend endmodule", "syntax"),
    "no parenthesis before a condition": ("module m; reg r; initial begin\n>>if r) r = 0;\nelse r = 1;\nend endmodule", "syntax"),
    "no parenthesis behind a condition": ("module m; reg r; initial begin\n>>if (r r = 0;\nelse r = 1;\nend endmodule", "syntax"),
    "no parenthesis behind a case": ("module m; reg r; initial begin\n>>case (r\n0: r = 1;\n1: r = 0;\nendcase\nend endmodule", "syntax"),
    "no parenthesis before events": ("module m(input c, output reg q, p);\n>>always @ posedge c) begin\nq <= 1;\np <= 0;\nend endmodule", "syntax"),
    "an open bracket in the head of a function": (
        "module m; reg [7:0] r; integer i;\n>>function signed [7:0] f(input signed 7:0] a, b);\nreg [7:0] p;\nbegin\np = a;\nf = p;\nend\nendfunction\n"
        "initial r = 0; endmodule", "syntax"),
    "an end too few in a function": ("module m; function f(input a);\nbegin\nif (a) begin\nf = 1;\nend\n>>endfunction\ninitial $display(f(1)); endmodule", "block-open"),
    "a name that is declared misspelt": ("module m; reg [3:0] limi;\ninitial begin\n>>if (limit > 3) limit = 0;\nlimit = limit + 1;\nend endmodule", "unknown-name"),
    "a parameter by a wrong name, and paths into the instance": (
        "module k #(parameter W = 1); reg [W:0] r; endmodule\nmodule m;\n>>k #(.DEPH(2)) b();\nendmodule\nmodule t; m u();\n"
        "initial $display(u.b.r);\ninitial u.b.r = 1;\nendmodule", "unknown-parameter"),
    "a real number into a gate": ("module m; real r; wire y;\n>>and (y, r, 1'b1);\ninitial r = y; endmodule", "operand-type"),
    "an event as a delay": ("module m; event e; initial begin\n>>#e;\n-> e; end endmodule", "operand-type"),
    "a keyword as a name": (
        "module m; reg x;\n>>reg [3:0] cell;\nwire w = cell[0]; initial begin cell = 4'd1; x = cell[1] & w; $display(cell); end endmodule", "syntax"),
    "a misspelt system task": ("module m; initial begin\n>>$dispaly(1);\nend endmodule", "unsupported"),
    "a port of an unknown width": ("module k(\n>>input [WIDHT-1:0] a, output y); assign y = ^a; endmodule\nmodule m(input [3:0] a, output y);\n"
        "k u(.a(a), .y(y));\nendmodule", "unknown-name"),
    "the same, connected by order": ("module k(a, y);\n>>input [WIDHT-1:0] a;\noutput y; assign y = ^a; endmodule\nmodule m(input [3:0] a, output y);\n"
        "k u(a, y);\nendmodule", "unknown-name"),
    "a function of an unknown width": ("module m;\n>>function [W:0] f(input a);\nf = a; endfunction\ninitial $display(f(1)); endmodule", "unknown-name"),
    "an argument of an unknown width": ("module m;\n>>task t(input [K:0] a);\n$display(a); endtask\ninitial t(3); endmodule", "unknown-name"),
    "a generate loop without an end": ("module m; wire [3:0] y; genvar i;\n>>generate for (i = 0; i < N; i = i + 1) begin : g\n"
        "assign y[i] = 1; end endgenerate\ninitial $display(g[0].x); endmodule", "unknown-name"),
    "a port without a direction": ("module m(a,\n>>y);\ninput a; assign y = a; endmodule", "port-undeclared"),
    "SystemVerilog in a file of Verilog": ("module m(input clk,\n>>output logic q);\nalways_ff @(posedge clk) q <= ~q;\nint n; endmodule", "systemverilog"),
}  # fmt: skip
SYSTEMVERILOG = {
    "a reference of another type": (
        "module m; byte b; logic [7:0] a; task automatic t(ref logic [7:0] x); x = 1; endtask\ninitial begin t(a);\n>>t(b);\nend endmodule", "ref-type"),
    "a literal by reference": (
        "module m; function automatic int f(const ref string s); return s.len(); endfunction\n>>initial $display(f(\"abc\"));\nendmodule", "ref-type"),
    "a keyword as an argument": (
        "module m; int d;\nfunction automatic void f(\n>>ref int dist);\nforeach (q[i]) dist += q[i]; if (dist > 3) dist = 3; endfunction\n"
        "int q[2]; initial begin f(d); end endmodule", "syntax"),
    "a declaration behind a statement": ("module m; initial begin int a;\na = 1;\n>>int b;\nb = a; $display(b); end endmodule", "declaration-late"),
    "a return without its value": ("module m; function int f();\n>>return;\nendfunction\ninitial $display(f()); endmodule", "jump"),
    "a join that is none": ("module m; initial fork\n#1;\n>>join_all\nendmodule", "syntax"),
    "a parameter without a value": ("module m #(\n>>parameter N);\nlogic [N-1:0] a; initial a = 0; endmodule", "parameter"),
    "an expression by reference": (
        "module m; int x; task automatic t(ref int a); a = 1; endtask\ninitial\n>>t(x + 1);\nendmodule", "ref-type"),
    "two always_ff": ("module m; logic q, c, d;\nalways_ff @(posedge c) q <= d;\n>>always_ff @(negedge c) q <= ~d;\nendmodule", "variable-writers"),
    "a value that is none of the enum": ("module m; enum {A, B} x; initial begin\n>>x = 1;\nend endmodule", "enum-value"),
    "a misspelt member": ("module m; struct packed {logic hi, lo;} s; initial begin\n>>s.high = 1;\nend endmodule", "unknown-name"),
    "a modport that is none": ("interface i; logic d; modport a(output d); endinterface\n>>module k(i.aa b);\nendmodule\nmodule m; i x(); k y(x); endmodule", "unknown-name"),
    "a modport of nothing": ("interface i; logic data;\n>>modport a(output dta);\nendinterface\nmodule k(i.a b); endmodule\nmodule m; i x(); k y(x); endmodule", "unknown-name"),
    "an input of a modport": (
        "interface i; logic d, r; modport a(output d, input r); endinterface\nmodule k(i.a b);\ninitial begin b.d = 1;\n>>b.r = 1;\nend\n"
        "endmodule\nmodule m; i x(); k y(x); endmodule", "modport"),
    "an input of a modport by assign": (
        "interface i; logic d, r; modport a(output d, input r); endinterface\nmodule k(i b);\n>>assign b.r = 1;\nendmodule\n"
        "module m; i x(); k y(x.a); endmodule", "modport"),
    "a method that is none": ("class C; int x; endclass\nmodule m; C c; initial begin c = new;\n>>$display(c.fetch());\nend endmodule", "unknown-name"),
    "a method of queues that is none": ("module m; int q[$]; initial begin\n>>q.push(3);\nend endmodule", "not-callable"),
    "an argument too few": ("module m; function int f(int a, b); return a; endfunction\n>>initial $display(f(1));\nendmodule", "arguments"),
    "an argument by a wrong name": ("module m; function int f(int a); return a; endfunction\n>>initial $display(f(.b(1)));\nendmodule", "arguments"),
    "a parameter by a wrong name": ("module k #(W = 4) (); endmodule\nmodule m;\n>>k #(.WIDTH(8)) u();\nendmodule", "unknown-parameter"),
    "a port by a wrong name": ("module k(input d); endmodule\nmodule m; logic x;\n>>k u(.dd(x));\nendmodule", "unknown-port"),
    "assign and always_comb": ("module m; logic b;\nassign b = 1;\n>>always_comb b = 0;\nendmodule", "variable-writers"),
    "a pattern too long": ("module m; struct {int a, b;} r; initial begin\n>>r = '{1, 2, 3};\nend endmodule", "pattern"),
    "a loop variable outside": ("module m; initial begin for (int i = 0; i < 3; i++) ;\n>>$display(i);\nend endmodule", "unknown-name"),
    "an else behind end": ("module m; logic a; initial begin\nif (a) begin\na = 1;\n>>else\na = 0;\nend\nend endmodule", "syntax"),
    "a number for a string": ("module m; int x; string s; initial begin\n>>s = x;\nend endmodule", "operand-type"),
    "a method left out": ("virtual class A; pure virtual function int f(); endclass\n>>class B extends A; endclass\nmodule m; B b; initial b = new; endmodule", "class"),
    "an object of an abstract class": ("virtual class A; int x; endclass\nmodule m; A a; initial\n>>a = new;\nendmodule", "class"),
    "an enum name twice": ("module m;\n>>enum {RED, GREEN, RED} c;\ninitial c = RED; endmodule", "declared-twice"),
    "a task that returns a value": ("module m; task t(int n);\n>>return n;\nendtask\ninitial t(1); endmodule", "jump"),
    "break outside a loop": ("module m; initial begin\n>>break;\nend endmodule", "jump"),
    "a constant": ("module m; const int K = 3; initial begin\n>>K++;\nend endmodule", "assign-constant"),
    "a constant of an object": ("class C; const int k; function new; k = 9; endfunction endclass\nmodule m; C c; initial begin c = new;\n>>c.k = 7;\nend endmodule", "assign-constant"),
    "no endclass": ("class A; int x;\n>>module m; A a; initial a = new; endmodule", "block-open"),
    "an interface port left out": ("interface i; endinterface\nmodule k(i b); endmodule\nmodule m;\n>>k u();\nendmodule", "connection"),
    "a wait in always_comb": ("module m(input logic d, c, output logic q);\n>>always_comb @(posedge c) q = d;\nendmodule", "strict-waits"),
    "a second wait in always_ff": ("module m(input logic d, c, output logic q);\nalways_ff @(posedge c) begin\n>>#1 q <= d;\nend endmodule", "strict-waits"),
    "ref of a static function": ("module m; int x;\n>>function void f(ref int a); a = 1; endfunction\ninitial f(x); endmodule", "ref-static"),
    "another result": ("class A; virtual function int f(int a); return a; endfunction endclass\nclass B extends A;\n"
        ">>virtual function string f(int a); return \"\"; endfunction\nendclass\nmodule m; B b; initial b = new; endmodule", "override"),
    "another argument": ("class A; virtual task t(byte a); endtask endclass\nclass B extends A;\n>>virtual task t(int a); endtask\nendclass\n"
        "module m; B b; initial b = new; endmodule", "override"),
    "arithmetic with a string": ("module m; string s; int x; initial begin\n>>x = s + 1;\nend endmodule", "operand-type"),
    "a constant of a class": ("class C; static const int k = 3; endclass\nmodule m; initial begin\n>>C::k = 7;\nend endmodule", "assign-constant"),
    "a package that is not there": ("module m;\n>>import lock_pkg::*;\ninitial $display(LIMIT, other::X); endmodule", "unknown-package"),
    "a misspelt constant of a package": ("package p; parameter LIMIT = 3; endpackage\nmodule m; initial\n>>$display(p::LIMTI);\nendmodule", "unknown-name"),
    "a property of an unknown type": ("class c;\n>>foo_t k;\nfunction int g(); return k; endfunction endclass\n"
        "module m; c x; initial begin x = new; x.k = 3; $display(x.g()); end endmodule", "unknown-name"),
    "a class that extends nothing": (">>class b extends aa;\nfunction void f(); g(); endfunction endclass\n"
        "module m; b x; initial begin x = new; x.f(); x.g(); end endmodule", "unknown-name"),
    "an enum of an unknown width": ("module m;\n>>typedef enum logic [W:0] {A, B} st;\nst s; initial s = A; endmodule", "unknown-name"),
    "a pattern by position and by name": ("module m;\n>>int a[3] = '{9, default: 0};\ninitial $display(a[0]); endmodule", "pattern"),
    "the same the other way round": ("module m; struct {int a, b;} s; initial begin\n>>s = '{a: 9, 0};\nend endmodule", "pattern"),
    "a method that the base lacks": (
        "class a; int k; endclass\nclass b extends a;\nfunction int f();\n>>return super.g() + super.g();\nendfunction endclass\n"
        "module m; b o; initial begin o = new; $display(o.f()); end endmodule", "unknown-name"),
    "with behind a queue that is not declared": (
        "module m; int n; initial begin\n>>n = lps.size();\nn = laps.sum() with (item + 1);\nend endmodule".replace("lps", "laps"), "unknown-name"),
    "a module in a module": ("module m; logic a;\n>>module inner(input logic b); endmodule\ninner u(a);\ninitial a = 1; endmodule", "unsupported"),
    "a name that the modport leaves out": (
        "interface i; logic a, b; modport m(input a); endinterface\nmodule k(i.m p, output logic q);\nassign q = p.a;\n>>initial if (p.b) $display(p.b);\n"
        "endmodule\nmodule t; i p(); logic q; k u(p, q); initial p.a = p.b; endmodule", "modport"),
    "an assignment as the value of another": ("module m; logic [1:0] a; logic b;\n>>assign b = (a = 2);\ninitial a = 0; endmodule", "assignment-in-condition"),
    "endmodule of an interface": ("interface i; logic a;\n>>endmodule\nmodule t; i p(); initial p.a = 1; endmodule", "block-open"),
    "no endpackage": ("package p; parameter N = 1;\n>>interface i; logic a; endinterface\nclass c; function new; endfunction endclass\nmodule t; i x(); endmodule", "block-open"),
    "end of a class": ("class c; int k;\nfunction new(int k);\nthis.k = k;\nendfunction\n>>end\nmodule t; c o; initial o = new(1); endmodule", "block-open"),
    "a static property of a class with a dot": ("class c; static int k; endclass\nmodule t; initial\n>>$display(c.k);\nendmodule", "class"),
    "an instance of an interface without parentheses": (
        "interface i; logic a; endinterface\nmodule k(i p); initial p.a = 1; endmodule\nmodule m;\n>>i bus;\nk u(.p(bus)); initial $display(bus.a); endmodule", "unknown-name"),
    "an instance of an interface that is not there": (
        "interface i; logic a; endinterface\nmodule k(i p); initial p.a = 1; endmodule\nmodule m; i bsu();\n>>k u(.p(bus));\ninitial begin bus.a = 0; $display(bus.a); end endmodule", "unknown-name"),
    "an interface of an unknown kind": (
        "interface i; logic c; endinterface\n>>module k(j.m p, output logic q);\nalways_ff @(posedge p.c) q <= ~q;\nendmodule\nmodule m; i b(); logic q; k u(b, q); endmodule", "unknown-name"),
    "a type of the name of a variable": ("package p; typedef enum {A, B} state; endpackage\nmodule m; import p::*;\n>>state_t state;\ninitial begin state = A; if (state == B) state = A; end endmodule", "unknown-name"),
    "a constructor named like its class": ("class c; int k;\n>>function c(int k);\nthis.k = k;\nendfunction endclass\nmodule m; c o; initial o = new; endmodule", "constructor"),
    "a constructor with a type": ("class c; int k;\n>>function void new(int k);\nthis.k = k;\nendfunction endclass\nmodule m; c o; initial o = new(1); endmodule", "constructor"),
    "an assertion that assigns": ("module m; int n; initial begin\n>>assert (n = 1) else $display(n);\nend endmodule", "assignment-in-condition"),
    "automatic twice": (
        "module m; int n;\n>>function automatic automatic int f(int x);\nfor (int i = 0; i < 3; i++) x++;\nif (x > 3) return 3;\nreturn x;\nendfunction\ninitial n = f(1); endmodule", "syntax"),
    "a type that the package does not have": (
        "package p; typedef enum {IDLE, RUN} mode; endpackage\nmodule m;\n>>import p::IDEL;\ninitial $display(IDLE); endmodule", "unknown-name"),
    "no parenthesis behind the ports of a method": (
        "class c;\n>>function void f(int a;\nif (a > 1) $display(a);\na = 2;\nendfunction\nint x; endclass\nmodule m; c o; initial o = new; endmodule", "syntax"),
    "a misspelt forever": ("module m; logic c; initial begin c = 0;\n>>forevr #4 c = ~c;\nend endmodule", "syntax"),
    "no genvar in the head of a loop": (
        "module m; logic [3:0] a, b;\n>>for (genvar = 0; i < 4; i++) begin : g\nassign a[i] = b[i];\nif (i) begin\nend\nend\nlogic q; endmodule", "syntax"),
    "a misspelt case": ("module m; logic [1:0] a, b; initial begin\n>>unique cas (a)\n0: b = 1;\n1: b = 2;\ndefault: b = 0;\nendcase\nb = 1;\nend endmodule", "syntax"),
    "an assertion with an open condition": (
        "module m; int v; initial begin\n>>assert (v > 0 else begin\n$display(v);\nv = 1;\nend\nend endmodule", "syntax"),
    "a static variable that begins with an automatic one": ("module m; initial for (int i = 0; i < 2; i++) begin\n>>int z = i;\n$display(z);\nend endmodule", "starts-once"),
}  # fmt: skip


def told(mistake: tuple[str, str], suffix: str, folder: Path) -> None:
    """Elaborates a text and compares the lines and codes of its errors with the marked ones."""
    text, code = mistake
    wanted = [(k + 1, code) for k, line in enumerate(text.splitlines()) if line.startswith(">>")]
    path = folder / f"m{suffix}"
    path.write_text(text.replace(">>", ""))
    analysis = analyse([path])
    analysis.elaborate()
    found = [d for d in analysis.diagnostics.sorted() if d.severity == "error"]
    assert [(d.place.line, d.code) for d in found] == wanted, [d.headline() for d in found]


def test_two_mistakes_are_told_both(tmp_path: Path) -> None:
    """What was read between them is understood, so that the second is no consequence."""
    text = "module m; reg a, b;\ninitial begin\n>>a = ;\nb = 1;\na = 0;\n>>b = a +;\nend\n>>assign = b;\nendmodule"
    told((text, "syntax"), ".v", tmp_path)


@pytest.mark.parametrize("what", VERILOG)
def test_verilog(what: str, tmp_path: Path) -> None:
    told(VERILOG[what], ".v", tmp_path)


@pytest.mark.parametrize("what", SYSTEMVERILOG)
def test_systemverilog(what: str, tmp_path: Path) -> None:
    told(SYSTEMVERILOG[what], ".sv", tmp_path)
