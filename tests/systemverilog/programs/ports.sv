module leaf #(parameter int W = 4, parameter type T = logic [W-1:0], parameter T INIT [2] = '{1, 2}) (input T a [2], input logic [1:0][W-1:0] p, output T y [1:0], output struct_pkg::s_t s, inout tri [W-1:0] io, input var int unsigned k = 3);
  always_comb foreach (y[i]) y[i] = a[1 - i] + p[i] + INIT[i]; assign s = '{hi: a[0], lo: p[1], flag: k > 2}; assign io = k[0] ? 'z : a[0];
endmodule
package struct_pkg; typedef struct packed { logic [3:0] hi, lo; bit flag; } s_t; typedef s_t [2:0] v_t; typedef enum {RED, GREEN = 5, BLUE} c_e; typedef c_e cmap_t [string]; 
  function automatic v_t rot(v_t v); return {v[0], v[2:1]}; endfunction endpackage
module mid #(parameter int N = 2)(input logic clk, input logic [3:0] d, output logic [3:0] q [N]); 
  logic [3:0] sr [N+1]; assign sr[0] = d; generate for (genvar i = 0; i < N; i++) begin : g if (i == 0) begin always_ff @(posedge clk) sr[i+1] <= sr[i]; end else if (i % 2) begin : odd reg [3:0] t; always_ff @(posedge clk) t <= ~sr[i]; assign sr[i+1] = t; end else begin : even always_ff @(posedge clk) sr[i+1] <= sr[i] + 1; end assign q[i] = sr[i+1]; end endgenerate
endmodule
module tb; import struct_pkg::*; logic [3:0] a [2] = '{4'd5, 4'd9}; logic [1:0][3:0] p = 8'h21; logic [3:0] y [1:0]; s_t s; tri [3:0] io; logic clk = 0; logic [3:0] d = 3, q [3], q2 [2]; v_t v; cmap_t cm; c_e c; logic [7:0] m2 [2][3]; int dyn[][]; bit [3:0][7:0] pk; 
  leaf #(.INIT('{4'd3, 4'd4})) u (.a, .p, .y, .s, .io, .k(2)); leaf u2 (.a('{4'd1, 4'd2}), .p(8'h43), .y(), .s(), .io(), .k()); mid #(3) m (.*); mid m3 (.clk, .d(q[2]), .q(q2));
  initial begin
    #1 $display("%p %p %h %b", y, s, s, io); $display("%p %p", u2.y, u2.s);
    repeat (6) begin #1 clk = 1; #1 clk = 0; end $display("%p %p %h", q, q2, m.g[1].odd.t);
    v = {9'h1AA, 9'h055, 9'h0F0}; v = rot(v); $display("%h %h %b", v, v[2], v[1].flag); v[0].lo = 4'hE; v[2:1] = '0; $display("%h", v);
    cm["a"] = BLUE; c = c.first; $display("%s %0d %s", cm["a"].name(), cm["a"], c.next().name());
    m2 = '{'{1, 2, 3}, '{default: 7}}; m2[0][1:2] = '{8, 9}; $display("%p %0d", m2, m2[1].sum()); m2[1] = m2[0]; $display("%p", m2[1]);
    dyn = new[2]; foreach (dyn[i]) begin dyn[i] = new[i + 2]; foreach (dyn[i][j]) dyn[i][j] = 10 * i + j; end $display("%p %0d", dyn, dyn[1].size());
    pk = 32'h04030201; pk[3:2] = pk[1:0]; $display("%h", pk); pk[1] += 8'hF; {pk[0], pk[3]} = {pk[3], pk[0]}; $display("%h %0d", pk, $countones(pk)); foreach (pk[i, j]) if (j == 0) pk[i][j] = ~pk[i][j]; $display("%h", pk);
    begin automatic int idx = 1; $display("%h %h", pk[idx+:2], pk[idx*2-1-:2]); $display("%b", pk[2][idx +: 3]); end
    $display("%0d %0d %0d", $bits(m2), $dimensions(m2), $size(m2, 2)); $display("%s", $typename(c)); 
    for (int i = 0, byte b = 3; i < 2; i++, b--) $write("%0d%0d ", i, b); $display;
  end
endmodule
