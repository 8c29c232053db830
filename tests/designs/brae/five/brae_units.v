`timescale 1ns/10ps
`include "brae_defs.vh"

// ---------------------------------------------------------------------------------------------
// Two read ports, one write port; what is written now is read now.
module brae_regs (clk, ra, rb, qa, qb, we, rd, d);
  input            clk, we;
  input  `REGNO    ra, rb, rd;
  input  `WORD     d;
  output `WORD     qa, qb;

  reg `WORD file [1:31];
  integer i;

  assign qa = ra == 0 ? 32'h0 : we && rd == ra ? d : file[ra];
  assign qb = rb == 0 ? 32'h0 : we && rd == rb ? d : file[rb];

  initial for (i = 1; i < 32; i = i + 1) file[i] = 0;

  always @(posedge clk)
    if (we && rd != 5'd0) file[rd] <= d;
endmodule

// ---------------------------------------------------------------------------------------------
module brae_decode (
  input      `WORD  ins,
  output reg `REGNO rd, ra, rb,
  output reg        writes,
  output reg [4:0]  fn,
  output reg `WORD  imm,
  output reg        use_imm, use_pc,
  output reg        is_mul, is_load, is_store, is_atomic, is_branch, is_jal, is_jalr, is_csr, is_ecall, is_eret, is_halt,
  output reg [1:0]  size,
  output reg        unsign,
  output reg        illegal
);
  wire [5:0]  op    = ins[`F_OP];
  wire [15:0] imm16 = ins[`F_IMM];

  function legal_csr;
    input [15:0] n;
    legal_csr = n <= 16'd6 || n == 16'd8;
  endfunction

  always @* begin
    {writes, use_imm, use_pc, unsign, illegal} = 0;
    {is_mul, is_load, is_store, is_atomic, is_branch, is_jal, is_jalr, is_csr, is_ecall, is_eret, is_halt} = 11'b0;
    rd = ins[`F_D];
    ra = ins[`F_A];
    rb = ins[`F_B];
    fn = 5'd0;
    imm = `SEXT16(imm16);
    size = 2'd2;
    casez (op)
      `OP_R: begin
        fn = ins[4:0];
        writes = 1;
        illegal = ins[`F_FN] > `FN_SUBS;
        is_mul = !illegal && fn >= `FN_MUL && fn <= `FN_REMU;
      end
      6'b000001, 6'b00001?, 6'b0001??, 6'b00100?, 6'b00101?: begin
        writes = 1;
        use_imm = 1;
        case (op)
          `OP_ADDI:  fn = 5'd0;
          `OP_ANDI:  begin fn = 5'd2; imm = `ZEXT16(imm16); end
          `OP_ORI:   begin fn = 5'd3; imm = `ZEXT16(imm16); end
          `OP_XORI:  begin fn = 5'd4; imm = `ZEXT16(imm16); end
          `OP_SLTI:  fn = 5'd10;
          `OP_SLTIU: fn = 5'd11;
          `OP_SLLI:  fn = 5'd6;
          `OP_SRLI:  fn = 5'd7;
          `OP_SRAI:  fn = 5'd8;
          `OP_LUI, `OP_AUIPC: begin
            imm = {imm16, 16'b0};
            use_pc = op == `OP_AUIPC;
            ra = 0;
          end
        endcase
      end
      6'b0100??, 6'b010100: begin
        is_load = 1;
        writes = 1;
        size = op == `OP_LW ? 2 : op == `OP_LH || op == `OP_LHU ? 1 : 0;
        unsign = op == `OP_LBU || op == `OP_LHU;
      end
      `OP_SB, `OP_SH, `OP_SW: begin
        is_store = 1;
        rb = rd;
        rd = 0;
        size = op == `OP_SW ? 2'd2 : op == `OP_SH;
      end
      `OP_SWP, `OP_FAD: {is_atomic, writes, imm} = {2'b11, 32'b0};
      6'b1000??, 6'b10010?: begin
        is_branch = 1;
        rb = ra;
        ra = rd;
        rd = 0;
        imm = `SEXT16(imm16) << 2;
      end
      `OP_JAL: begin
        {is_jal, writes} = 2'b11;
        imm = {{14{imm16[15]}}, imm16, 2'b00};
      end
      `OP_JALR: {is_jalr, writes} = 2'b11;
      `OP_CSRRW, `OP_CSRRS, `OP_CSRRC: begin
        is_csr = legal_csr(imm16);
        illegal = !is_csr;
        writes = 1'b1;
      end
      `OP_ECALL: is_ecall = 1;
      `OP_ERET:  is_eret = 1;
      `OP_HALT:  is_halt = 1;
      default:   illegal = 1;
    endcase
    if (illegal) writes = 0;
  end
endmodule

// ---------------------------------------------------------------------------------------------
module brae_alu (fn, a, b, y);
  input  [4:0] fn;
  input  `WORD a, b;
  output `WORD y;
  reg    `WORD y;

  wire [4:0]  sh   = b[4:0];
  wire        less  = $signed(a) < $signed(b);
  wire        below = a < b;
  wire [32:0] sum  = {a[31], a} + {b[31], b};
  wire [32:0] diff = {a[31], a} - {b[31], b};
  wire [63:0] turned = {a, a} << sh;
  wire [15:0] low = a[15:0];

  function [31:0] leading;
    input [31:0] x;
    integer i;
    begin : count
      leading = 32;
      for (i = 31; i >= 0; i = i - 1)
        if (x[i]) begin
          leading = 31 - i;
          disable count;
        end
    end
  endfunction

  function [5:0] ones;
    input [31:0] x;
    begin
      ones = 0;
      while (x) begin
        ones = ones + x[0];
        x = x >> 1;
      end
    end
  endfunction

  function automatic [31:0] reversed;
    input [31:0] x;
    input integer from, width;
    // halves change places, and are turned in themselves
    reversed = width == 1 ? x & 32'b1
             : reversed(x, from, width / 2) << width / 2 | reversed(x >> width / 2, from, width / 2);
  endfunction

  function [31:0] saturate;
    input [32:0] x;
    case (x[32:31])
      2'b01: saturate = 32'h7fffffff;
      2'b10: saturate = 32'h80000000;
      default: saturate = x[31:0];
    endcase
  endfunction

  always @(fn or a or b or sh or less or below or sum or diff or turned or low)
    case (fn) // synthesis full_case
      5'd0:  y = a + b;
      5'd1:  y = a - b;
      5'd2:  y = a & b;
      5'd3:  y = a | b;
      5'd4:  y = a ^ b;
      5'd5:  y = a & ~b;
      5'd6:  y = a << sh;
      5'd7:  y = a >> sh;
      5'd8:  y = $signed(a) >>> sh;
      5'd9:  y = turned[63:32];
      5'd10: y = {31'b0, less};
      5'd11: y = below;
      5'd12: y = less ? a : b;
      5'd13: y = less ? b : a;
      5'd14: y = below ? a : b;
      5'd15: y = below ? b : a;
      5'd23: y = leading(a);
      5'd24: y = ones(a);
      5'd25: y = reversed(a, 0, 32);
      5'd26: y = {a[7:0], a[15:8], a[23:16], a[31:24]};
      5'd27: y = {{24{a[7]}}, a[7:0]};
      5'd28: y = `SEXT16(low);
      5'd29: y = saturate(sum);
      5'd30: y = saturate(diff);
      default: y = 32'bx;
    endcase
endmodule

// ---------------------------------------------------------------------------------------------
// start must stay until done; the result is there in the clock of done.
module brae_muldiv (clk, rst_n, start, fn, a, b, done, y);
  input             clk, rst_n, start;
  input      [4:0]  fn;
  input      `WORD  a, b;
  output            done;
  output reg `WORD  y;

  parameter [1:0] IDLE = 2'd0, WORK = 2'd1, LAST = 2'd2;
  reg [1:0]  state;
  reg [5:0]  n;
  reg [63:0] acc;
  reg [31:0] m;
  reg        neg, negr;

  wire signed_op = fn == 5'd17 || fn == 5'd19 || fn == 5'd21;
  wire divides   = fn >= 5'd19;
  wire `WORD abs_a = signed_op && a[31] ? -a : a;
  wire `WORD abs_b = signed_op && b[31] ? -b : b;
  wire [32:0] part = {acc[62:32], acc[31]} - m;

  assign done = state == LAST;

`ifdef BRAE_SLOW_MUL
  wire [32:0] add = {1'b0, acc[63:32]} + (acc[0] ? m : 32'd0);
`endif

  always @(`RESET_OR(rst_n))
    if (!rst_n) begin
      state <= IDLE;
      n <= 0;
    end else
      case (state)
        IDLE: if (start) begin
          neg  <= signed_op && (a[31] ^ b[31]);
          negr <= signed_op && a[31];
          m <= abs_b;
          acc <= {32'b0, abs_a};
          n <= 6'd32;
          state <= WORK;
`ifndef BRAE_SLOW_MUL
          if (!divides) begin
            acc <= abs_a * {32'b0, abs_b};
            n <= 6'd2;
          end
`endif
        end
        WORK: begin
          n <= n - 1;
          if (n == 1) state <= LAST;
          if (divides)
            acc <= part[32] ? {acc[62:0], 1'b0} : {part[31:0], acc[30:0], 1'b1};
`ifdef BRAE_SLOW_MUL
          else
            acc <= {add, acc[31:1]};
`endif
        end
        LAST: state <= IDLE;
        default: state <= IDLE;
      endcase

  wire [63:0] product = neg ? -acc : acc;
  always @*
    case (fn)
      5'd16: y = product[31:0];
      5'd17, 5'd18: y = product[63:32];
      5'd19, 5'd20: y = b == 0 ? ~32'b0 : neg ? -acc[31:0] : acc[31:0];
      default: y = b == 0 ? a : negr ? -acc[63:32] : acc[63:32];
    endcase
endmodule

// ---------------------------------------------------------------------------------------------
// Direct-mapped, four words a line.
module brae_icache (clk, rst_n, addr, hit, data, bus_req, bus_addr, bus_ack, bus_data);
  parameter LINES = 16;
  parameter LG = clog2(LINES);
  input         clk, rst_n;
  input  `WORD  addr;
  output        hit;
  output `WORD  data;
  output reg    bus_req;
  output `WORD  bus_addr;
  input         bus_ack;
  input  `WORD  bus_data;

  function integer clog2;
    input integer x;
    begin
      x = x - 1;
      for (clog2 = 0; x > 0; clog2 = clog2 + 1) x = x >> 1;
    end
  endfunction

  reg `WORD        words [0:LINES*4-1];
  reg [31-4-LG:0]  tags  [0:LINES-1];
  reg [LINES-1:0]  valid;
  reg [31:4]       line;
  reg [1:0]        beat;

  wire [LG-1:0] index = addr[4+:LG];
  assign hit  = valid[index] && tags[index] == addr[31:4+LG];
  assign data = words[{index, addr[3:2]}];
  assign bus_addr = {line, beat, 2'b00};

  always @(posedge clk or negedge rst_n)
    if (~rst_n) begin
      valid <= {LINES{1'b0}};
      bus_req <= 0;
      beat <= 0;
    end
    else if (bus_req) begin
      if (bus_ack) begin
        words[{line[4+:LG], beat}] <= bus_data;
        beat <= beat + 2'd1;
        if (&beat) begin
          bus_req <= 1'b0;
          tags[line[4+:LG]] <= line[31:4+LG];
          valid[line[4+:LG]] <= 1'b1;
        end
      end
    end
    else if (!hit) begin
      bus_req <= 1'b1;
      line <= addr[31:4];
      valid[index] <= 1'b0;
    end
endmodule

// ---------------------------------------------------------------------------------------------
// The registers of control, and traps.
module brae_csr (
  input             clk, rst_n,
  input      [3:0]  number,
  input             write,
  input      [1:0]  how,          // 0 write, 1 set, 2 clear
  input      `WORD  operand,
  output reg `WORD  value,
  input             retire, trap, eret,
  input      `WORD  cause, bad, pc,
  output     `WORD  vector, back
);
  reg [1:0] status;
  reg `WORD r_cause, epc, tvec, scratch, badaddr, cycles, retired;
  reg `WORD next;

  assign vector = tvec;
  assign back = epc;

  always @(*) begin
    case (number)
      4'd0: value = {30'b0, status};
      4'd1: value = r_cause;
      4'd2: value = epc;
      4'd3: value = tvec;
      4'd4: value = scratch;
      4'd5: value = cycles;
      4'd6: value = retired;
      4'd8: value = badaddr;
      default: value = 0;
    endcase
    case (how)
      2'd1: next = value | operand;
      2'd2: next = value & ~operand;
      default: next = operand;
    endcase
  end

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      {status, r_cause, epc, tvec, scratch, badaddr, cycles, retired} <= 0;
    end else begin
      cycles <= cycles + 1;
      if (retire) retired <= retired + 1;
      if (write)
        case (number)
          0: status <= next[1:0];
          1: r_cause <= next;
          2: epc <= {next[31:2], 2'b00};
          3: tvec <= next & ~32'd3;
          4: scratch <= next;
          8: badaddr <= next;
        endcase
      if (eret) status <= {1'b1, status[1]};
      if (trap) begin
        status <= {status[0], 1'b0};
        r_cause <= cause;
        epc <= pc;
        badaddr <= bad;
      end
    end
endmodule
