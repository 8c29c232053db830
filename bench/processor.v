// A 32-bit processor with five pipeline stages, forwarding and a load interlock, running a loop that fills and sums a table.
// Instructions: op[31:26] rd[25:21] ra[20:16] rb[15:11] or imm[15:0]. Its own instruction set, made for this measurement.
`timescale 1ns/1ns
`define NOP 32'h0000_0000

module register_file(input clk, input write, input [4:0] rd, ra, rb, input [31:0] data, output [31:0] a, b);
  reg [31:0] r [0:31];
  integer k;
  initial for (k = 0; k < 32; k = k + 1) r[k] = 0;
  assign a = (write && rd == ra && ra != 0) ? data : r[ra];
  assign b = (write && rd == rb && rb != 0) ? data : r[rb];
  always @(posedge clk) if (write && rd != 0) r[rd] <= data;
endmodule

module arithmetic(input [5:0] op, input [31:0] a, b, output reg [31:0] y);
  always @* case (op)
    6'd1, 6'd9, 6'd16, 6'd17: y = a + b;
    6'd2: y = a - b;
    6'd3: y = a & b;
    6'd4: y = a | b;
    6'd5: y = a ^ b;
    6'd6: y = a << b[4:0];
    6'd7: y = a >> b[4:0];
    6'd8: y = $signed(a) < $signed(b) ? 32'd1 : 32'd0;
    6'd10: y = {b[15:0], 16'd0};
    6'd11: y = a * b;
    default: y = 32'd0;
  endcase
endmodule

module processor(input clk, input rst, output [31:0] fetch_at, input [31:0] fetched, output store, output [31:0] data_at, store_data,
                 input [31:0] loaded, output reg [31:0] retired);
  reg [31:0] pc;
  // decode
  reg [31:0] ir, ir_pc;
  wire [5:0] op = ir[31:26];
  wire [4:0] rd = ir[25:21], ra = ir[20:16], rb = ir[15:11];
  wire [31:0] imm = {{16{ir[15]}}, ir[15:0]};
  wire is_imm = op == 6'd9 || op == 6'd10 || op == 6'd16 || op == 6'd17;
  wire is_branch = op == 6'd18 || op == 6'd19;
  wire writes = op != 0 && op != 6'd17 && !is_branch;
  wire [31:0] reg_a, reg_b;
  // execute
  reg [5:0] x_op;
  reg [4:0] x_rd, x_ra, x_rb;
  reg [31:0] x_a, x_b, x_imm, x_pc;
  reg x_is_imm, x_writes, x_branch;
  // memory
  reg [5:0] m_op;
  reg [4:0] m_rd;
  reg [31:0] m_y, m_store;
  reg m_writes;
  // write back
  reg [4:0] w_rd;
  reg [31:0] w_data;
  reg w_writes;

  wire [31:0] m_result = m_op == 6'd16 ? loaded : m_y;
  wire [31:0] a = (m_writes && m_rd == x_ra && x_ra != 0) ? m_result : (w_writes && w_rd == x_ra && x_ra != 0) ? w_data : x_a;
  wire [31:0] b_reg = (m_writes && m_rd == x_rb && x_rb != 0) ? m_result : (w_writes && w_rd == x_rb && x_rb != 0) ? w_data : x_b;
  wire [31:0] b = x_is_imm ? x_imm : b_reg;
  wire [31:0] y;
  wire taken = x_branch && ((x_op == 6'd18) ? a == b_reg : a != b_reg);
  wire interlock = x_op == 6'd16 && x_writes && (x_rd == ra || x_rd == rb);

  register_file registers(clk, w_writes, w_rd, ra, op == 6'd17 || is_branch ? rd : rb, w_data, reg_a, reg_b);
  arithmetic alu(x_op, a, b, y);
  assign fetch_at = pc;
  assign store = m_op == 6'd17;
  assign data_at = m_y;
  assign store_data = m_store;

  always @(posedge clk)
    if (rst) begin
      pc <= 0; ir <= `NOP; ir_pc <= 0; x_op <= 0; x_rd <= 0; x_ra <= 0; x_rb <= 0; x_a <= 0; x_b <= 0; x_imm <= 0; x_pc <= 0; x_is_imm <= 0;
      x_writes <= 0; x_branch <= 0; m_op <= 0; m_rd <= 0; m_y <= 0; m_store <= 0; m_writes <= 0; w_rd <= 0; w_data <= 0; w_writes <= 0;
      retired <= 0;
    end else begin
      if (taken) begin pc <= x_pc + x_imm; ir <= `NOP; end
      else if (!interlock) begin pc <= pc + 4; ir <= fetched; ir_pc <= pc; end
      if (taken || interlock) begin x_op <= 0; x_writes <= 0; x_branch <= 0; x_is_imm <= 0; x_rd <= 0; end
      else begin
        x_op <= op; x_rd <= rd; x_ra <= ra; x_rb <= op == 6'd17 || is_branch ? rd : rb; x_a <= reg_a; x_b <= reg_b; x_imm <= imm; x_pc <= ir_pc;
        x_is_imm <= is_imm; x_writes <= writes; x_branch <= is_branch;
      end
      m_op <= x_op; m_rd <= x_rd; m_y <= y; m_store <= b_reg; m_writes <= x_writes;
      w_rd <= m_rd; w_data <= m_result; w_writes <= m_writes;
      if (m_op != 0) retired <= retired + 1;
    end
endmodule

module processor_bench;
  reg clk = 0, rst = 1;
  wire [31:0] fetch_at, data_at, store_data, retired;
  wire store;
  reg [31:0] program_memory [0:63], data_memory [0:255];
  wire [31:0] fetched = program_memory[fetch_at[7:2]];
  wire [31:0] loaded = data_memory[data_at[9:2]];
  processor core(clk, rst, fetch_at, fetched, store, data_at, store_data, loaded, retired);
  always #5 clk = ~clk;
  always @(posedge clk) if (store) data_memory[data_at[9:2]] <= store_data;
  integer k;
  initial begin
    for (k = 0; k < 64; k = k + 1) program_memory[k] = `NOP;
    for (k = 0; k < 256; k = k + 1) data_memory[k] = 0;
    program_memory[0] = {6'd9, 5'd1, 5'd0, 16'd0};          // r1 = 0, the index
    program_memory[1] = {6'd9, 5'd2, 5'd0, 16'd100};        // r2 = 100
    program_memory[2] = {6'd9, 5'd3, 5'd0, 16'd0};          // r3 = 0, the sum
    program_memory[3] = {6'd11, 5'd4, 5'd1, 5'd1, 11'd0};   // r4 = r1 * r1
    program_memory[4] = {6'd5, 5'd4, 5'd4, 5'd3, 11'd0};    // r4 ^= r3
    program_memory[5] = {6'd9, 5'd6, 5'd0, 16'd2};
    program_memory[6] = {6'd6, 5'd5, 5'd1, 5'd6, 11'd0};    // r5 = r1 << 2
    program_memory[7] = {6'd17, 5'd4, 5'd5, 16'd0};         // store r4 at r5
    program_memory[8] = {6'd16, 5'd7, 5'd5, 16'd0};         // load it
    program_memory[9] = {6'd1, 5'd3, 5'd3, 5'd7, 11'd0};    // r3 += r7
    program_memory[10] = {6'd9, 5'd1, 5'd1, 16'd1};         // r1 += 1
    program_memory[11] = {6'd19, 5'd1, 5'd2, -16'd32};      // to 3 while r1 != r2
    program_memory[12] = {6'd19, 5'd2, 5'd0, -16'd48};      // else to 0
    #12 rst = 0;
    #(10.0 * `CLOCKS) $display("%0d %h", retired, data_memory[99]);
    $finish;
  end
endmodule
