"""Modules and their testbenches in many of the language's forms at once (IEEE 1800-2017), each result worked out by hand."""

from __future__ import annotations

from collections.abc import Callable

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
