// generate, interfaces arrays, params, packages
package cfg; parameter int N = 3; localparam int LOG = $clog2(N + 1); typedef struct packed { logic [LOG-1:0] id; logic v; } slot_t;
  function automatic int weight(slot_t s[N]); weight = 0; foreach (s[i]) weight += s[i].v ? s[i].id : 0; endfunction endpackage
interface chan #(type T = logic) (input bit clk); T d; logic v; modport src (output d, v, input clk); modport dst (input d, v, clk); function automatic bit is(T x); return v && d == x; endfunction endinterface
module stage import cfg::*; #(parameter int K = 0, type T = logic [7:0]) (chan.dst i, chan.src o);
  always_ff @(posedge i.clk) begin o.d <= T'(i.d + K); o.v <= i.v; end
endmodule
module pipe #(parameter int DEPTH = 2, type T = logic [7:0]) (input bit clk, input T d, input logic v, output T q, output logic qv);
  chan #(T) ch [0:DEPTH] (.clk); assign ch[0].d = d, ch[0].v = v; assign q = ch[DEPTH].d, qv = ch[DEPTH].v;
  for (genvar g = 0; g < DEPTH; g++) begin : st if (g % 2) begin : odd stage #(.K(10), .T(T)) s (.i(ch[g]), .o(ch[g+1])); end else begin : even stage #(.K(1), .T(T)) s (ch[g], ch[g+1]); end end
endmodule
module sub #(parameter int W = 4, parameter bit [W-1:0] INIT = '1, localparam int M = 2 ** W) (input logic [W-1:0] a, output logic [W:0] y); assign y = a + INIT; initial #1 $display("%m W=%0d M=%0d", W, M); endmodule
module tb; import cfg::*; bit clk; always #5 clk = ~clk; logic [7:0] d = 0, q; logic v = 0, qv; logic [15:0] q16; logic q16v; slot_t s[N]; logic [4:0] y4; logic [6:0] y6;
  pipe #(.DEPTH(3)) p (.*); pipe #(2, logic [15:0]) p2 (.d(16'(d) << 8), .q(q16), .qv(q16v), .*);
  sub u4 (.a(4'd3), .y(y4)); sub #(.W(6), .INIT(6'd5)) u6 (.a(6'h3f), .y(y6)); bind sub chk #(.W(W)) c (.*);
  initial begin s = '{'{1, 1}, '{2, 0}, '{3, 1}}; $display("%0d %0d", weight(s), $bits(slot_t));
    @(negedge clk) d = 5; v = 1; @(negedge clk) v = 0; d = 7; repeat (2) @(negedge clk); $display("%0d %b %h %b", q, qv, q16, q16v); $display("%b %h", p.ch[3].is(17), p.st[1].odd.s.o.d);
    case ($typename(d)) "logic[7:0]": $display("type ok"); default: $display("%s", $typename(d)); endcase $finish(0); end
endmodule
module chk #(parameter int W = 1) (input logic [W-1:0] a, input logic [W:0] y); initial #2 $display("%m a=%0d y=%0d", a, y); endmodule
