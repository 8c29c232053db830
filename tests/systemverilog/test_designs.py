"""Modules and their testbenches in many of the language's forms at once (IEEE 1800-2017), each result worked out by hand."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from mevrik.design.ports import ports_of
from mevrik.lang.analysis import analyse
from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]


def test_declarations_and_expressions(simulate: Run) -> None:
    """5.9, 6.18, 6.19, 6.24, 7.2, 10.9, 11.4, 12.5, 12.7, 13.4; a time parameter is a whole number of units: 2.5 is rounded to 3 (6.12.1)."""
    text = """timeunit 1ns; timeprecision 1ps;
    typedef logic signed [15:0] fix_t;
    function automatic fix_t mul(fix_t a, fix_t b); logic signed [31:0] p = a * b; return p >>> 8; endfunction
    module tb;
      localparam time T = 2.5ns; parameter real R = 1.5; parameter string NAME = "lock"; parameter int A[3] = '{1, 2, 3};
      localparam bit [3:0] MASK = '{3: 1, default: 0};
      typedef struct { real x, y; } pt_t; typedef enum bit [1:0] {N[4]} n_t; typedef enum {A0 = 3, A1, A2 = 10, A3} e_t;
      function automatic pt_t mid(pt_t a, pt_t b); return '{(a.x + b.x) / 2, (a.y + b.y) / 2}; endfunction
      function automatic void sort(ref int v[]);
        for (int i = 0; i < v.size(); i++) for (int j = i + 1; j < v.size(); j++) if (v[j] < v[i]) begin int t = v[i]; v[i] = v[j]; v[j] = t; end
      endfunction
      let max(a, b) = a > b ? a : b;
      n_t n; e_t e; int d[]; pt_t p; logic [31:0] w; byte unsigned by[4]; logic [3:0] nib; int x; string s; bit b4[2][3]; logic [7:0] rgb [3];
      initial begin
        #T $display("%0t %s %0.1f %0d %b", $realtime, NAME, R, A[1] + A[2], MASK); $display("%0d", mul(16'sh0280, -16'sh0100));
        n = N3; $display("%s %0d %s", n.name(), n, n.next().name()); e = A1; $display("%0d %s %0d", e, e.next(2).name(), A3);
        p = mid('{1.0, 2.0}, '{3.0, 5.0}); $display("%0.2f %0.2f", p.x, p.y); d = '{5, 1, 4}; sort(d); $display("%p", d);
        $display("%0d %0d", max(3, 9), max(x, -1)); w = 32'h01020304; {>>8{by}} = w; $display("%p", by);
        w = {<<8{by}}; $display("%h", w); w = {<<4{w}}; $display("%h", w);
        case (w) inside [0:10]: $display("low"); 32'h1020_30??: $display("mask"); [32'h50:32'h60]: $display("hit"); default: $display("none"); endcase
        nib = 4'b1x0z; casez (nib) 4'b1?0?: $display("casez"); endcase casex (nib) 4'b1000: $display("casex"); default: $display("no"); endcase
        unique if (x == 0) $display("zero"); else if (x == 1) $display("one");
        foreach (b4[i, j]) b4[i][j] = (i + j) % 2; $display("%p %0d %0d %0d", b4, $size(b4, 2), $dimensions(b4), $bits(b4));
        s = "gate"; foreach (s[i]) $write("%s-", s[i]); $display("%0d", s[0]);
        s = {s, "_", $sformatf("%03d", 7)}; $display("%s %s [%05d]", s, s.substr(s.len() - 3, s.len() - 1), -5);
        rgb = '{8'hff, 8'h80, 8'h00}; $display("%h %0d", {rgb[0], rgb[1], rgb[2]}, rgb.sum() with (int'(item)));
        $display("%0d %0d %0d %0d", int'(2.5), int'(-2.5), $rtoi(2.9), 10'sd5 * -3);
        begin automatic int q[$] = '{3, 1, 2}; q = {q[2], q[0:1]}; $display("%p %b", q, 2 inside {q}); end
        $display("%h %h", 16'(8'sh80), signed'(8'h80) >>> 4);
        for (int i = 0, bit done = 0; !done; i++) begin done = i == 2; $write("%0d", i); end $display;
      end
    endmodule"""
    wanted = """3000 lock 1.5 5 1000
    -640
    N3 3 N0
    4 A3 11
    2.00 3.50
    '{1, 4, 5}
    9 0
    '{1, 2, 3, 4}
    04030201
    10203040
    mask
    casez
    casex
    zero
    '{'{0, 1, 0}, '{1, 0, 1}} 3 2 6
    g-a-t-e-103
    gate_007 007 [-0005]
    ff8000 383
    3 -3 2 -15
    '{2, 3, 1} 1
    ff80 f8
    012"""
    prints(simulate, text, wanted)


def test_hierarchies_binds_and_strengths(simulate: Run) -> None:
    """23.3, 23.6, 23.11, 27.5, 10.3.4, 6.6: arrays of ports through generated instances, names into them, `bind`, weak drivers."""
    text = """module leaf #(parameter int W = 4, parameter type T = logic [W-1:0]) (input T d, output T q); assign q = ~d; endmodule
    module mid #(N = 2) (input logic [3:0] a [N], output logic [3:0] y [N]);
      for (genvar i = 0; i < N; i++) begin : g
        if (i % 2) begin : odd leaf #(.W(4)) u (.d(a[i]), .q(y[i])); end else begin : even leaf u (a[i], y[i]); end
      end
      function int depth(); return N; endfunction
    endmodule
    module tb;
      logic [3:0] a [3], y [3]; mid #(3) m (.*);
      wire logic [3:0] tap = m.g[1].odd.u.q; tri [1:0] bus; logic en = 0; assign bus = en ? 2'b10 : 'z; assign (weak1, weak0) bus = 2'b01;
      supply1 vdd; wand wa; assign wa = 1; assign wa = en;
      bind mid looker #(.K(7)) chk (.x(a[0]));
      initial begin
        a = '{1, 2, 3}; #2 $display("%p %h %0d", y, tap, m.depth()); $display("%b %b %b", bus, vdd, wa); en = 1; #1 $display("%b %b", bus, wa);
        force m.g[0].even.u.q = 4'h7; #1 $display("%h", y[0]); release m.g[0].even.u.q; #1 $display("%h", y[0]);
        $display("%0d", tb.m.g[1].odd.u.W);
      end
    endmodule
    module looker #(K = 1) (input logic [3:0] x); initial #1 $display("%m sees %0d %0d", x, K); endmodule"""
    wanted = """tb.m.chk sees 1 7
    '{14, 13, 12} d 3
    01 1 0
    10 1
    7
    e
    4"""
    prints(simulate, text, wanted)


BOUND = """module watch #(K = 1) (input [3:0] v, input clk); initial #1 $display("%m K=%0d v=%0d", K, v); endmodule
module leaf #(N = 0) (input clk); reg [3:0] inner = N; endmodule
module mid (input clk);
  leaf #(2) a(clk);
  for (genvar i = 0; i < 2; i++) begin : g leaf #(i + 5) l(clk); end
  leaf #(9) r[1:0](clk);
endmodule
module tb;
  reg clk = 0;
  mid m1(clk), m2(clk);
  bind m2.a watch w0(.v(inner), .clk);
endmodule
bind tb.m1.a watch #(.K(3)) w1(.v(inner), .clk(clk));
bind leaf : tb.m1.g[1].l, tb.m2.r[0] watch #(4) w2(inner, clk);
bind $root.tb.m2.g[0].l watch #(6) w3(inner, clk);
"""


def test_bind_to_single_instances(simulate: Run) -> None:
    """23.11: an instance by its path from the place of the bind or from the top, or a list of instances of one module."""
    done = simulate(BOUND, suffix=".sv")
    assert done.err == ""
    assert sorted(done.out.splitlines()) == ["tb.m1.a.w1 K=3 v=2", "tb.m1.g[1].l.w2 K=4 v=6", "tb.m2.a.w0 K=1 v=2",
                                             "tb.m2.g[0].l.w3 K=6 v=5", "tb.m2.r[0].w2 K=4 v=9"]  # fmt: skip
    for right, wrong, said in (
        ("tb.m2.r[0]", "tb.m2.r[4]", "there is no instance 'r[4]' in 'mid' to bind to; did you mean 'r[1]'?"),
        ("bind m2.a", "bind m3.a", "there is no instance 'm3.a' in 'tb' to bind to"),
        ("bind $root.tb.m2.g[0].l", "bind lief", "there is no module or instance 'lief' in 'tb' to bind to; did you mean 'leaf'?"),
        ("tb.m2.r[0]", "tb.m2", "this is an instance of 'mid', not of 'leaf'"),
    ):
        done = simulate(BOUND.replace(right, wrong), suffix=".sv")
        assert said in done.err
        assert done.err.count("error:") == 1


def test_modules_that_nothing_instantiates(simulate: Run) -> None:
    """1364-2005 12.1.1: they are at the top too. One that a path names is there, with what it instantiates; its own paths lead back."""
    text = """`timescale 1ns/1ps
    module cell_ff(input c, d, output reg q); always @(posedge c or posedge glbl.GSR) if (glbl.GSR) q <= 0; else q <= d; endmodule
    module tb;
      reg c = 0, d = 1; wire q; cell_ff f(c, d, q); always #5 c = ~c; wire w = glbl.GTS;
      initial begin
        #50 $display("%b %b", q, w); #100 $display("%b %0d", q, glbl.count); glbl.say; glbl.k = 3;
        #1 $display("%0d %0d", $root.glbl.k, glbl.W); $finish;
      end
    endmodule
    module glbl;
      reg GSR, GTS = 1; integer count = 0, k; parameter W = 100; task say; $display("%m says"); endtask
      initial begin GSR = 1; #(W) GSR = 0; end
      always @(posedge tb.c) count = count + 1;
      helper h();
    endmodule
    module helper; initial #2 $display("%m"); endmodule
    module unnamed; initial $display("never"); endmodule"""
    # edges of c at 5, 15, ... 145 are 15; GSR holds q at 0 until 100
    done = simulate(text, "--top", "tb")
    assert done.out.splitlines() == ["glbl.h", "0 1", "1 15", "glbl.say says", "3 100"]
    assert done.err == ""


def test_the_name_of_a_subprogram_of_a_package(simulate: Run) -> None:
    """21.2.1.6: %m is the hierarchical name; that of an item of a package has its name and :: before it (26.3)."""
    text = """package p; task automatic t; $display("%m"); endtask function automatic void f; $display("%m"); endfunction endpackage
    module tb; import p::*; initial begin t; p::t; f(); end endmodule"""
    prints(simulate, text, "p::t\np::t\np::f")


def test_the_ports_of_a_top_that_uses_a_package(tmp_path: Path) -> None:
    """Packages stand at the top of a design too; its ports and parameters are those of the module."""
    source = tmp_path / "m.sv"
    source.write_text("package p; typedef logic [3:0] word; endpackage\n"
                      "module m import p::*; #(int N = 2) (input logic clk, input word a, output word y); always_ff @(posedge clk) y <= a + N; endmodule")  # fmt: skip
    design = analyse([source]).elaborate("m")
    assert design is not None
    assert [(x.name, x.direction, x.width, x.role) for x in ports_of(design)] == [
        ("clk", "input", 1, "clock"),
        ("a", "input", 4, ""),
        ("y", "output", 4, ""),
    ]
    assert list(design.top.unit.parameters) == ["N"]


def test_a_bind_below_another_top(simulate: Run) -> None:
    """What a bind names below the bench is no part of a design whose top is a module of its own."""
    done = simulate(BOUND, "--top", "mid", suffix=".sv")
    assert (done.out, done.err, done.status) == ("", "", 0)


def test_paths_from_the_top(simulate: Run) -> None:
    """23.3.1: $root is the top of the hierarchy, in expressions, as a target, before a task."""
    text = """module sub; int x = 5; task hi; $display("hi %m"); endtask
      initial begin #1 $display("%0d", $root.tb.y); $root.tb.y = 8; end
    endmodule
    module tb; int y = 3; sub s();
      initial begin
        #2 $display("%0d %0d", $root.tb.s.x, $root.tb.y); $root.tb.s.hi; $root.tb.s.x <= 4; #1 if ($root.tb.s.x == 4) $display("four");
      end
      wire [3:0] w = $root.tb.s.x; initial #4 $display("%0d", w);
    endmodule"""
    prints(simulate, text, "3\n5 8\nhi tb.s.hi\nfour\n4")


def test_force_of_what_is_driven(simulate: Run) -> None:
    """10.6.2: what drives a net or a variable continuously gives it back its value at the release; what a procedure assigned comes with
    the next assignment. Until it is forced it is driven as ever."""
    text = """module leaf (input logic [3:0] d, output logic [3:0] q); assign q = ~d; endmodule
    module tb; logic [3:0] a, y; leaf u(a, y); logic [3:0] v; assign v = a + 1; logic [3:0] c; always_comb c = a + 2; wire [3:0] w = a + 3;
      initial begin
        a = 1; #1 $display("%0d %0d %0d %0d", y, v, c, w);
        force u.q = 7; force v = 8; force c = 9; force w = 10; #1 $display("%0d %0d %0d %0d", y, v, c, w);
        a = 2; #1 release u.q; release v; release c; release w; #1 $display("%0d %0d %0d %0d", y, v, c, w);
        a = 3; #1 $display("%0d %0d %0d %0d", y, v, c, w);
      end
    endmodule"""
    prints(simulate, text, "14 2 3 4\n7 8 9 10\n13 3 9 5\n12 4 5 6")


def test_assertions_over_a_handshake(simulate: Run) -> None:
    """16.9, 16.12, 14.13: values are those from before the edge; outputs of the clocking block come 2 after it. The first request is seen
    at 25 and 35, its answer at 45; the second at 85 to 115, its answer only at 135."""
    text = """module tb;
      logic clk = 0; always #5 clk = ~clk;
      logic req = 0, ack = 0, rst = 1; logic [3:0] cnt = 0;
      default clocking cb @(posedge clk); default input #1step output #2; input ack, cnt; output req; endclocking
      sequence s_ack(n); ##[1:n] ack; endsequence
      property p_req; $rose(req) |-> s_ack(3); endproperty
      a_req: assert property (disable iff (rst) p_req) else $display("%0t no ack", $time);
      a_cnt: assert property (@(posedge clk) disable iff (rst) ack |=> cnt == $past(cnt) + 1) else $display("%0t cnt", $time);
      a_seq: assert property (@(posedge clk) req ##1 req |-> ##[0:2] ack) else $display("%0t seq", $time);
      a_goto: assert property (@(posedge clk) disable iff (rst) $rose(req) |-> ack[->1] ##1 !ack) else $display("%0t goto", $time);
      always @(posedge clk) if (ack) cnt <= cnt + 1;
      initial begin
        ##2 rst = 0; cb.req <= 1; ##1 $display("%0t req %b", $time, req); ##1 ack <= 1; cb.req <= 0; ##1 ack <= 0; ##3;
        cb.req <= 1; ##4 cb.req <= 0; ##1 ack <= 1; ##1 ack <= 0; $display("%0t sampled %b %0d", $time, cb.ack, cb.cnt); ##2 $finish(0);
      end
    endmodule"""
    done = simulate(text, suffix=".sv")
    lines = [x for x in done.out.splitlines() if x]
    assert sorted(lines, key=lambda x: (int(x.split()[0]), x)) == [
        "25 req 1", "115 no ack", "115 seq", "125 seq", "135 sampled 1 1",
    ], done.out + done.err  # fmt: skip


def test_types_and_conversions_in_corners(simulate: Run) -> None:
    """5.7, 6.3, 6.19, 6.24, 7.3 to 7.5, 7.10, 11.4, 12.5: packed structures in unions, arrays of arrays, signs of what is narrow, x into two
    states, reals, reversed ranges, streams; each line by hand."""
    text = """
    module tb;
      // types & conversions in corners
      typedef logic [7:0] byte_t; typedef byte_t [3:0] quad_t; typedef struct packed { quad_t q; logic [1:0] f; } pk_t; typedef union packed { pk_t p; logic [33:0] raw; } un_t;
      un_t u; quad_t qd; logic [2:0][3:0] m3 [2]; bit signed [3:0] sb; logic signed [7:0] sl; byte b; shortint si; longint li; logic [15:0] w; int q[$], d[]; string s; real r; shortreal sr; time t; bit [7:0] two; logic [7:0] four; integer ig;
      enum bit signed [2:0] {NEG = -2, ZER = 0, POS = 2} sg; int arr2[2][3]; logic [0:7] up; logic [7:0] dn; int fx[3:1];
      function automatic int cnt(logic [7:0] v); cnt = 0; foreach (v[i]) if (v[i] === 1'b1) cnt++; endfunction
      function automatic logic [7:0] fill(bit x); return x ? '1 : 'x; endfunction
      initial begin
        u.p = '{q: 32'h01020304, f: 2'b10}; $display("%h %h %h %b", u.raw, u.p.q[0], u.p.q[3][7:4], u.p.f); u.raw[33:26] = 8'hff; $display("%h", u.p.q); qd = '{default: 8'h11, 2: 8'h22}; $display("%h", qd); qd[1:0] = 16'habcd; $display("%h %0d", qd, $bits(qd));
        m3 = '{12'habc, '{4'd1, 4'd2, 4'd3}}; $display("%h %h %h", m3[0], m3[1][2], m3[1]); m3[0][1] = 4'hf; $display("%h", m3[0]);
        sb = -3; sl = sb; b = 8'hff; si = b; li = 64'hffff_ffff; $display("%0d %0d %0d %0d", sl, si, li, sb >>> 1); sb = 4'b1000; $display("%0d %0d", sb, -sb); w = b; $display("%h", w); w = unsigned'(b); $display("%h", w);
        two = 8'bxz01_1100; four = two; $display("%b %b", two, four); four = 8'b1x; $display("%b %0d %b", four, cnt(8'b1x11_0z01), fill(0)); sg = NEG; $display("%0d %s %0d", sg, sg.name(), sg.last());
        r = 7 / 2; $display("%0.2f", r); r = 7 / 2.0; $display("%0.2f %0d", r, int'(r)); sr = 0.1; r = 1e3; t = r; $display("%0d %g %e", t, r / 3, -r); ig = 'x; $display("%0d %b", ig, ig === 'x); $display("%0d", int'(9.5e0) + 8'd255);
        up = 8'b1000_0001; dn = up; $display("%b %b %b %b", up[0], dn[0], up[0:3], dn[7 -: 4]); {up[0+:2], dn[1:0]} = 4'b0110; $display("%b %b", up, dn); fx = '{10, 20, 30}; $display("%0d %0d %p", fx[3], fx[1], fx);
        arr2 = '{2{'{3{7}}}}; arr2[1] = '{1, 2, 3}; $display("%p", arr2); foreach (arr2[i]) $write("%0d ", arr2[i].sum()); $display; d = '{3{2}}; d = {d, 5, d}; $display("%p", d); q = d[1:3]; q = {q[1:$], q[0]}; $display("%p", q); q.delete(); $display("%0d", q.size());
        s = "a"; s = {3{s}}; $display("%s %0d %b", s, s == "aaa", s < "ab"); s = ""; $display("[%s]%0d", s, s.len()); s = $sformatf("%s|%5.1f|%0h|%c", "z", 2.25, 255, 8'd65); $display(s); s = string'(24'h616263); $display("%s %s", s, {s, "!"}); $display("%0d", "abc" == 24'h616263);
        $display("%b %b %b %b", 4'b1x0z & 4'b1111, 4'b1x0z | 4'b0001, ^4'b1x01, ~|4'b0000); $display("%b %b", 4'b01 ? 1 : 0, 1'bx ? 4'b1010 : 4'b1001); $display("%0d %0d", 5 ** 3, (-2) ** 3); $display("%b", {2'b10, {2{2'b01}}, 1'b1}); $display("%0d", 8'd200 + 8'd100); $display("%0d", 16'(8'd200 + 8'd100)); w = 8'd200 + 8'd100; $display("%0d", w);
        $display("%h", {<<byte{32'h11223344}}); $display("%b", {<<{6'b110100}}); $display("%p", quad_t'(32'h0a0b0c0d)); $display("%0d", $clog2(1)); $display("%0d %0d", $countbits(4'b1x0z, 'x, 'z), $isunknown(4'b1x)); if (8'h5 inside {[1:4], 8'b0000_01??}) $display("in"); $display("%0d", $high(m3) + $left(fx) + $increment(up));
        begin bit [3:0] c = 4'hf; c++; $display("%0d", c); c--; $display("%0d", c--); $display("%0d", c); c <<= 1; $display("%b", c); c ^= '1; $display("%b", c); end
        priority case (1'b1) two[0]: $display("p0"); two[2]: $display("p2"); default: $display("pd"); endcase
      end
    endmodule
"""
    wanted = """
    004080c12 04 0 10
    ff020304
    11221111
    1122abcd 32
    abc 1 123
    afc
    -3 -1 4294967295 -2
    -8 -8
    ffff
    00ff
    00011100 00011100
    0000001x 4 xxxxxxxx
    -2 NEG 2
    3.00
    3.50 4
    1000 333.333 -1.000000e+03
    x 1
    265
    1 1 1000 1000
    01000001 10000010
    10 30 '{10, 20, 30}
    '{'{7, 7, 7}, '{1, 2, 3}}
    21 6
    '{2, 2, 2, 5, 2, 2, 2}
    '{2, 5, 2}
    0
    aaa 1 1
    []0
    z|  2.2|ff|A
    abc abc!
    1
    1x0x 1x01 x 1
    00000000000000000000000000000001 10xx
    125 -8
    1001011
    44
    300
    300
    44332211
    001011
     168496141
    0
    2 1
    in
    3
    0
    15
    14
    1100
    0011
    p2
"""
    prints(simulate, text, wanted)


def test_a_processor_and_its_program(simulate: Run) -> None:
    """A processor behind an interface runs a program that its testbench wrote into a file: 3, 3 + 2, 3 + 2 + 1, and halts; the file is read
    back (21.3, 21.4), plusargs (21.6)."""
    text = """
    // a small processor with a testbench written with tasks, files, plusargs; struct ports; enum FSM; memory via $readmemh
    typedef enum logic [2:0] {NOP, LDI, ADD, SUB, JNZ, OUT, HLT} op_e;
    typedef struct packed { op_e op; logic [1:0] rd, rs; logic [7:0] imm; } instr_t;
    interface mem_if #(parameter int AW = 8, DW = 16) (input logic clk);
      logic [AW-1:0] addr; logic [DW-1:0] rdata, wdata; logic we;
      modport cpu (input rdata, clk, output addr, wdata, we); modport mem (input addr, wdata, we, clk, output rdata);
    endinterface
    module rom #(parameter string FILE = "") (mem_if.mem b); logic [15:0] m [0:255];
      initial if (FILE != "") $readmemh(FILE, m); always_comb b.rdata = m[b.addr]; always_ff @(posedge b.clk) if (b.we) m[b.addr] <= b.wdata; endmodule
    module cpu (mem_if.cpu b, input logic rst, output logic [7:0] port_o, output logic valid, halted);
      typedef enum {FETCH, EXEC, STOP} st_e; st_e st, nx; logic [7:0] pc, r [4]; instr_t ir; logic z;
      assign b.addr = pc, b.we = 0, b.wdata = '0; assign halted = st == STOP;
      always_ff @(posedge b.clk or posedge rst)
        if (rst) begin st <= FETCH; pc <= '0; r <= '{default: '0}; valid <= 0; z <= 0; end
        else begin st <= nx; valid <= 0;
          case (st) FETCH: ir <= instr_t'(b.rdata[14:0]);
            EXEC: begin pc <= pc + 1'b1;
              unique case (ir.op) NOP: ; LDI: r[ir.rd] <= ir.imm; ADD: {z, r[ir.rd]} <= {r[ir.rd] + r[ir.rs] == 8'd0, r[ir.rd] + r[ir.rs]};
                SUB: begin automatic logic [7:0] d = r[ir.rd] - r[ir.rs]; r[ir.rd] <= d; z <= d == 0; end
                JNZ: if (!z) pc <= ir.imm; OUT: begin port_o <= r[ir.rd]; valid <= 1; end HLT: ; endcase end
          endcase end
      always_comb begin nx = st; unique case (st) FETCH: nx = EXEC; EXEC: nx = ir.op == HLT ? STOP : FETCH; STOP: ; endcase end
    endmodule
    module tb;
      logic clk = 0, rst; always #5 clk = ~clk; logic [7:0] port_o; logic valid, halted; int log[$]; int fd; string line; int code, a;
      mem_if #(.DW(16)) b(clk); rom #("prog.hex") u_rom(.b); cpu u_cpu(.*, .b(b.cpu));
      function automatic logic [15:0] asm(op_e op, int rd = 0, int rs = 0, int imm = 0); instr_t i = '{op, 2'(rd), 2'(rs), 8'(imm)}; return 16'(i); endfunction
      task automatic write_program(string name); int f = $fopen(name, "w"); logic [15:0] p[$] = '{asm(LDI, 0, 0, 3), asm(LDI, 1, 0, 1), asm(LDI, 2, 0, 0), asm(ADD, 2, 0), asm(OUT, 2), asm(SUB, 0, 1), asm(JNZ, .imm(3)), asm(HLT)};
        $fdisplay(f, "@0 // %0d words", p.size()); foreach (p[i]) $fdisplay(f, "%h", p[i]); $fclose(f); endtask
      always @(posedge clk) if (valid) log.push_back(port_o);
      initial begin
        write_program("prog.hex"); $readmemh("prog.hex", u_rom.m); rst = 1; repeat (2) @(posedge clk); #1 rst = 0;
        fork begin wait (halted); end begin #2000 $display("timeout"); end join_any disable fork;
        $display("%p r=%p pc=%0d at %0t", log, u_cpu.r, u_cpu.pc, $time); $display("%s %s", u_cpu.st.name(), u_cpu.ir.op.name());
        fd = $fopen("prog.hex", "r"); code = 0; while (!$feof(fd)) begin if ($fgets(line, fd) > 0) code++; end $fclose(fd); $display("%0d lines", code);
        fd = $fopen("prog.hex", "r"); void'($fgets(line, fd)); code = $fscanf(fd, "%h", a); $display("%0d %h %0d", code, a, $ftell(fd) > 0); $fclose(fd);
        code = $sscanf("x=12 y=0x1f s=abc", "x=%d y=0x%h s=%s", a, fd, line); $display("%0d %0d %0d %s", code, a, fd, line);
        if ($test$plusargs("fast")) $display("fast"); if (!$value$plusargs("n=%d", a)) a = 4; $display("%0d", a); $finish(0);
      end
    endmodule
"""
    wanted = """
    '{3, 5, 6} r='{0, 1, 6, 0} pc=8 at 335
    STOP HLT
    9 lines
    1 00001003 1
    3 12 31 abc
    fast
    9
"""
    prints(simulate, text, wanted, "--plus", "fast", "--plus", "n=9")


def test_streams_of_lists(simulate: Run) -> None:
    """11.4.14.3, 11.4.14.4: streams of lists, packed and unpacked: a target wider than its stream is filled to the right, a list takes what is left."""
    text = """module tb; byte q[$], r[$]; logic [7:0] d[]; int w[$]; logic [31:0] v; logic [63:0] wide; bit [3:0] nib[$]; string s; struct packed {logic [7:0] h; logic [15:0] b;} hdr;
    initial begin
     d = '{8'hde, 8'had, 8'hbe, 8'hef}; v = {>>{d}}; $display("%h", v); v = {<<8{d}}; $display("%h", v); v = {<<{d}}; $display("%h", v); wide = {>>{d}}; $display("%h", wide); wide = {>>{8'h01, d, 16'h0203}}; $display("%h", wide);
     {>>{d}} = 24'h010203; $display("%p", d); {<<8{d}} = 32'h01020304; $display("%p", d); q = {>>{v}}; $display("%p", q); q = {<<byte{32'h0a0b0c0d}}; $display("%p", q); nib = {>>{16'habcd}}; $display("%p", nib); w = {>>{d}}; $display("%h %0d", w[0], w.size());
     r = {<<8{q}}; $display("%p", r); d = {>>{8'hff, q}}; $display("%p", d); {>>{hdr.h, d}} = 40'h1122334455; $display("%h %p", hdr.h, d); wide = {<<16{q}}; $display("%h", wide); q = {q, byte'(9)}; wide = {>>{q}}; $display("%h", wide);
    end endmodule"""
    want = """deadbeef
    efbeadde
    f77db57b
    deadbeef00000000
    01deadbeef020300
    '{1, 2, 3}
    '{4, 3, 2, 1}
    '{-9, 125, -75, 123}
    '{13, 12, 11, 10}
    '{10, 11, 12, 13}
    04030201 1
    '{10, 11, 12, 13}
    '{255, 13, 12, 11, 10}
    11 '{34, 51, 68, 85}
    0b0a0d0c00000000
    0d0c0b0a09000000"""
    prints(simulate, text, want)


def test_lists_texts_and_parameters(simulate: Run) -> None:
    """7.4-7.10, 13.5, 21.2.1: associative, nested and sliced arrays, ref arguments, classes by type, texts and their formats."""
    text = """module tb;
      typedef class Late; class Holder; Late l; endclass class Late; int v = 8; endclass
      class Acc #(type T = int); static T total; static function void add(T x); total += x; endfunction extern function T half(T x); endclass
      function Acc::T Acc::half(Acc::T x); return x / 2; endfunction
      int aa[string]; int dflt[int] = '{default: -1, 3: 30}; int nest[string][int]; string names[int]; logic [7:0] mem[logic [15:0]]; int keys[$]; string sk[$]; int arr[6] = '{1, 2, 3, 4, 5, 6}; int sub[3]; int two_d[2][3] = '{'{1, 2, 3}, '{4, 5, 6}}; string s; int k; Holder h; event evs[3]; bit [7:0] bytes[]; int sum;
      function automatic int total(const ref int a[6], input int lo, hi); total = 0; for (int i = lo; i <= hi; i++) total += a[i]; endfunction
      function automatic void scale(ref int a[6], input int f = 2); foreach (a[i]) a[i] *= f; endfunction
      function automatic void swap(inout int a, inout int b); int t = a; a = b; b = t; endfunction
      typedef enum {RD = 1, WR, IDLE = 7} cmd_e; cmd_e cmd; struct { cmd_e c; int n[$]; string t; } pkt;
      initial begin
        aa = '{"b": 2, "a": 1, "c": 3}; if (aa.first(s)) do $write("%s=%0d ", s, aa[s]); while (aa.next(s)); $display("%0d", aa.size()); void'(aa.last(s)); $write("%s ", s); void'(aa.prev(s)); $display("%s", s);
        $display("%0d %0d %0d", dflt[3], dflt[99], dflt.num()); nest["x"][1] = 10; nest["x"][2] = 20; nest["y"][5] = 50; foreach (nest[i, j]) $write("%s/%0d=%0d ", i, j, nest[i][j]); $display("%0d", nest["x"].num()); nest["x"].delete(1); $display("%0d %0d", nest["x"].num(), nest.exists("z"));
        $display("%0d %p %p", aa.sum(), aa.find with (item > 1), aa.find_index with (item == 3)); names[5] = "five"; names[-2] = "minus"; foreach (names[i]) $write("%0d:%s ", i, names[i]); $display; mem[16'hff00] = 8'h11; $display("%h %b", mem[16'hff00], mem[0]);
        sub = arr[2:4]; $display("%p %0d", sub, total(arr, 1, 3)); scale(arr); $display("%p", arr); scale(.a(arr), .f(10)); $display("%0d", arr[5]); arr[0:2] = '{7, 8, 9}; $display("%p %b", arr, sub == '{3, 4, 5}); k = 1; arr[k+:2] = '{0, 0}; $display("%p", arr); swap(arr[0], arr[5]); $display("%0d %0d", arr[0], arr[5]);
        two_d[0] = two_d[1]; $display("%p %0d", two_d, two_d[0][1]); foreach (two_d[, j]) sum += two_d[1][j]; $display("%0d", sum); two_d = '{default: '{0: 9, default: 0}};
        Acc#()::add(4); Acc#(int)::add(5); Acc#(real)::add(1.5); $display("%0d %0.1f", Acc#()::total, Acc#(real)::total); begin automatic Acc #(int) ac = new; $display("%0d", ac.half(9)); end h = new; h.l = new; $display("%0d", h.l.v);
        $swrite(s, "%-6s|%6s|%06.2f|%0x", "ab", "cd", 3.14159, 255); $display(s); $sformat(s, "%s-%0d", "n", 4); $display("%s %0d %0d %0d", s, s.len(), 12, 255); s = "hello"; s[0] = "J"; $display("%s %s %0d", s, s.tolower(), s.icompare("JELLO"));
        if (!$cast(cmd, 3)) $display("not 3"); cmd = cmd_e'(2); $display("%s", cmd.name()); for (cmd_e c = c.first(); ; c = c.next()) begin $write("%s ", c.name()); if (c == c.last()) break; end $display;
        pkt.c = WR; pkt.n = '{4, 5}; pkt.t = "p"; $display("%p", pkt); pkt.n.push_front(3); $display("%0d %0d", pkt.n.size(), pkt.n[0]); fork begin @(evs[1]); $display("ev1 %0t", $time); end begin #2 -> evs[0]; #1 -> evs[1]; end join
        bytes = new[3]; bytes = '{8'hde, 8'had, 8'hbe}; begin automatic logic [23:0] v24 = {>>{bytes}}; $display("%h", v24); end {>>{bytes}} = 32'h01020304; $display("%0d %p", bytes.size(), bytes); k = 0; while (k < 10) begin k++; if (k % 3) continue; if (k > 7) break; $write("%0d ", k); end $display;
        s = ""; repeat (3) s = {s, "ab"}; $display("%s %0d", s, s == {3{"ab"}}); keys = '{3, 1, 2}; keys.sort with (-item); $display("%p", keys); sk = '{"bb", "a", "ccc"}; sk.sort with (item.len()); $display("%p", sk); $display("%p", keys.find(x) with (x inside {[2:5]})); keys = keys.unique(); $display("%0d", keys.and());
      end
    endmodule"""
    want = """a=1 b=2 c=3 3
    c b
    30 -1 1
    x/1=10 x/2=20 y/5=50 2
    1 0
    6 '{2, 3} '{"c"}
    -2:minus 5:five
    11 xxxxxxxx
    '{3, 4, 5} 9
    '{2, 4, 6, 8, 10, 12}
    120
    '{7, 8, 9, 80, 100, 120} 1
    '{7, 0, 0, 80, 100, 120}
    120 7
    '{'{4, 5, 6}, '{4, 5, 6}} 5
    15
    9 1.5
    4
    8
    ab    |    cd|003.14|ff
    n-4 3 12 255
    Jello jello 0
    not 3
    WR
    RD WR IDLE
    '{c:WR, n:'{4, 5}, t:"p"}
    3 3
    ev1 3
    deadbe
    4 '{1, 2, 3, 4}
    3 6
    ababab 1
    '{3, 2, 1}
    '{"a", "bb", "ccc"}
    '{3, 2}
    0"""
    prints(simulate, text, want)


def test_methods_of_literals(simulate: Run) -> None:
    """6.16: methods apply to string literals as to variables."""
    text = """module tb; initial begin $display("%0d %0d %s %0d", "12ab".atoi(), "ff".atohex(), "abc".toupper(), "hello".len()); if ("abc".substr(1, 1) == "b") $display("b"); end endmodule"""
    want = """12 255 ABC 5
    b"""
    prints(simulate, text, want)


def test_formats_of_reals(simulate: Run) -> None:
    """21.2.1.2: %e, %f and %g have the full formatting capabilities of C."""
    text = """module tb; initial begin $display("[%06.2f] [%-8.2f] [%+.1f] [%+07.1f] [%8.3e] [%+d] [%g] [%07.2f]", 3.14159, 2.5, 1.25, -1.5, 12.5, 0.0001, -2.25); end endmodule"""
    want = """[003.14] [2.50    ] [+1.2] [-0001.5] [1.250e+01] [%+d] [0.0001] [-002.25]"""
    prints(simulate, text, want)


def test_names_of_types(simulate: Run) -> None:
    """20.6.1: what $typename returns; the labels of an enum with their values, the place of the declaration, no default signs."""
    text = """package lock; typedef bit node; typedef enum {IDLE, RUN, STOP = 99} state_t; enum {X, Y, Z = 99} mode; typedef bit [9:1] word; endpackage
    module tb; import lock::*;
    typedef struct {node a, b;} ab_t; ab_t ab[10]; typedef enum bit [1:0] {A, B} e_t; typedef struct packed {logic [3:0] a; bit b;} s_t; typedef union packed {s_t s; logic [4:0] v;} u_t;
    e_t e; s_t s; u_t un; state_t st; logic signed [7:0] l[4]; string t; byte q[$]; int aa[string]; node [2:0] nn; int signed y; word w; e_t eq[$]; enum logic signed [2:0] {M = -1, P = 1} m;
    initial begin $display("%s", $typename(node)); $display("%s", $typename(nn)); $display("%s", $typename(y)); $display("%s", $typename(mode)); $display("%s", $typename(st)); $display("%s", $typename(w)); $display("%s", $typename(ab));
    $display("%s", $typename(e)); $display("%s", $typename(s)); $display("%s", $typename(un)); $display("%s", $typename(l)); $display("%s", $typename(t)); $display("%s", $typename(q)); $display("%s", $typename(aa)); $display("%s", $typename(1.5)); $display("%s",$typename(8'h1)); $display("%s", $typename(real)); $display("%s", $typename(eq)); $display("%s", $typename(m)); end endmodule"""
    want = """bit
    bit[2:0]
    int
    enum{X=32'sd0,Y=32'sd1,Z=32'sd99}lock::e$1
    enum{IDLE=32'sd0,RUN=32'sd1,STOP=32'sd99}lock::state_t
    bit[9:1]
    struct{bit a;bit b;}tb.ab_t$[0:9]
    enum bit[1:0]{A=2'd0,B=2'd1}tb.e_t
    struct packed{logic[3:0] a;bit b;}tb.s_t
    union packed{struct packed{logic[3:0] a;bit b;}tb.s_t s;logic[4:0] v;}tb.u_t
    logic signed[7:0]$[0:3]
    string
    byte$[$]
    int$[string]
    real
    logic[7:0]
    real
    enum bit[1:0]{A=2'd0,B=2'd1}tb.e_t$[$]
    enum logic signed[2:0]{M=-3'sd1,P=3'sd1}tb.e$1"""
    prints(simulate, text, want)


def test_cases_over_types(simulate: Run) -> None:
    """6.23: case and generate case over a type parameter."""
    text = """module sub #(type T = int) (); initial case (type(T)) type(int): $display("int"); type(byte), type(bit): $display("small"); type(logic[3:0]): $display("nib"); default: $display("other"); endcase
    case (type(T)) type(real): initial #1 $display("real"); type(byte): begin : b initial #1 $display("%m"); end endcase endmodule
    module tb; sub u1(); sub #(byte) u2(); sub #(logic [3:0]) u3(); sub #(real) u4(); endmodule"""
    want = """int
    small
    nib
    other
    tb.u2.b
    real"""
    prints(simulate, text, want)
