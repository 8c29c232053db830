`timescale 1ns/10ps
`include "brae_defs.vh"

// Five stages. All that can go wrong is known in EX, so what has left EX completes.
module brae_core (
  clk, rst_n,
  i_req, i_addr, i_ack, i_data,
  d_req, d_we, d_addr, d_be, d_wdata, d_ack, d_rdata,
  halted
);
  parameter RESET_PC = 32'h0;
  input         clk, rst_n;
  output        i_req;
  output `WORD  i_addr;
  input         i_ack;
  input  `WORD  i_data;
  output        d_req, d_we;
  output `WORD  d_addr;
  output [3:0]  d_be;
  output `WORD  d_wdata;
  input         d_ack;
  input  `WORD  d_rdata;
  output reg    halted;

  // ---- IF ----
  reg  `WORD pc;
  wire `WORD f_ins;
  wire       f_hit, redirect;
  wire `WORD redirect_pc;
  wire       id_stall, ex_stall, mem_stall;
  reg        stopping;

`ifdef BRAE_NO_ICACHE
  reg        i_busy, i_drop;
  assign i_req = i_busy;
  assign i_addr = i_busy_addr;
  assign f_hit = i_ack && !i_drop && i_busy;
  assign f_ins = i_data;
  reg `WORD i_busy_addr;
  always @(posedge clk or negedge rst_n)
    if (!rst_n) {i_busy, i_drop} <= 0;
    else if (!i_busy) begin
      if (!id_stall && !stopping && !redirect) begin
        i_busy <= 1;
        i_busy_addr <= pc;
        i_drop <= 0;
      end
    end else begin
      if (redirect) i_drop <= 1;
      if (i_ack && (!id_stall || i_drop || redirect)) i_busy <= 0;
    end
`else
  brae_icache icache (clk, rst_n, pc, f_hit, f_ins, i_req, i_addr, i_ack, i_data);
  defparam icache.LINES = 8;
`endif

  always @(posedge clk or negedge rst_n)
    if (!rst_n) pc <= RESET_PC;
    else if (redirect) pc <= redirect_pc;
    else if (f_hit && !id_stall) pc <= pc + 4;

  // ---- ID ----
  reg        id_valid;
  reg  `WORD id_pc, id_ins;
  wire `REGNO id_rd, id_ra, id_rb;
  wire       id_writes, id_use_imm, id_use_pc, id_unsign, id_illegal;
  wire [4:0] id_fn;
  wire `WORD id_imm;
  wire       id_mul, id_load, id_store, id_atomic, id_branch, id_jal, id_jalr, id_csr, id_ecall, id_eret, id_halt;
  wire [1:0] id_size;
  wire `WORD rf_a, rf_b;
  reg        wb_we;
  reg `REGNO wb_rd;
  reg  `WORD wb_value;

  brae_decode decode (
    .ins(id_ins), .rd(id_rd), .ra(id_ra), .rb(id_rb), .writes(id_writes), .fn(id_fn), .imm(id_imm), .use_imm(id_use_imm),
    .use_pc(id_use_pc), .is_mul(id_mul), .is_load(id_load), .is_store(id_store), .is_atomic(id_atomic), .is_branch(id_branch),
    .is_jal(id_jal), .is_jalr(id_jalr), .is_csr(id_csr), .is_ecall(id_ecall), .is_eret(id_eret), .is_halt(id_halt),
    .size(id_size), .unsign(id_unsign), .illegal(id_illegal)
  );
  brae_regs regs (.clk(clk), .ra(id_ra), .rb(id_rb), .qa(rf_a), .qb(rf_b), .we(wb_we), .rd(wb_rd), .d(wb_value));

  always @(posedge clk or negedge rst_n)
    if (!rst_n) id_valid <= 1'b0;
    else if (redirect) id_valid <= 1'b0;
    else if (!id_stall) begin
      id_valid <= f_hit && !stopping;
      id_pc <= pc;
      id_ins <= f_ins;
    end

  // ---- EX ----
  reg        ex_valid;
  reg  `WORD ex_pc, ex_ins, ex_a, ex_b, ex_imm;
  reg `REGNO ex_rd, ex_ra, ex_rb;
  reg  [4:0] ex_fn;
  reg  [1:0] ex_size;
  reg        ex_writes, ex_use_imm, ex_use_pc, ex_unsign, ex_illegal;
  reg        ex_mul, ex_load, ex_store, ex_atomic, ex_branch, ex_jal, ex_jalr, ex_csr, ex_ecall, ex_eret, ex_halt;
  reg        mem_valid, mem_writes, mem_load, mem_store, mem_atomic, mem_unsign, mem_halt;
  reg  `WORD mem_pc, mem_value, mem_addr, mem_data;
  reg `REGNO mem_rd;
  reg  [1:0] mem_size;

  wire needs_mem = mem_valid && mem_writes && (mem_load || mem_atomic) && mem_rd != 0
                 && (mem_rd == ex_ra || mem_rd == ex_rb);

  function `WORD forward;
    input `REGNO r;
    input `WORD  held;
    if (r == 0) forward = 0;
    else if (mem_valid && mem_writes && mem_rd == r) forward = mem_value;
    else if (wb_we && wb_rd == r) forward = wb_value;
    else forward = held;
  endfunction

  // the function reads what @* can't see
  reg `WORD a, b;
  always @(ex_ra or ex_rb or ex_a or ex_b or mem_valid or mem_writes or mem_rd or mem_value or wb_we or wb_rd or wb_value) begin
    a = forward(ex_ra, ex_a);
    b = forward(ex_rb, ex_b);
  end

  wire `WORD alu_y, mul_y, csr_y;
  wire       mul_done;
  brae_alu alu (.fn(ex_fn), .a(ex_use_pc ? ex_pc : a), .b(ex_use_imm ? ex_imm : b), .y(alu_y));
  brae_muldiv muldiv (
    .clk(clk), .rst_n(rst_n), .start(ex_valid & ex_mul & ~needs_mem), .fn(ex_fn), .a(a), .b(b), .done(mul_done), .y(mul_y)
  );

  wire `WORD ea = ex_atomic ? a : a + ex_imm;
  wire misaligned = (ex_load | ex_store | ex_atomic) & (ex_size == 2 ? |ea[1:0] : ex_size == 1 ? ea[0] : 1'b0);
  reg  taken;
  always @*
    case (ex_ins[28:26])
      3'd0: taken = a == b;
      3'd1: taken = a != b;
      3'd2: taken = $signed(a) < $signed(b);
      3'd3: taken = $signed(a) >= $signed(b);
      3'd4: taken = a < b;
      default: taken = a >= b;
    endcase

  assign ex_stall = mem_stall | needs_mem | (ex_valid & ex_mul & ~mul_done);
  assign id_stall = (ex_valid & ex_stall) | (id_valid & mem_stall) | stopping;
  wire ex_go   = ex_valid & ~ex_stall & ~stopping;
  wire ex_trap = ex_go & (ex_illegal | misaligned | ex_ecall);
  wire jumps   = ex_jal | ex_jalr | (ex_branch & taken);

  assign redirect = ex_trap | (ex_go & (jumps | ex_eret));
  wire `WORD tvec, epc;
  assign redirect_pc = ex_trap ? tvec : ex_eret ? epc : ex_jalr ? (a + ex_imm) & ~32'h3 : ex_pc + ex_imm;

  brae_csr csr (
    .clk(clk), .rst_n(rst_n), .number(ex_ins[3:0]), .write(ex_go & ex_csr & (ex_ins[27:26] == 2'd0 | ex_ra != 0)),
    .how(ex_ins[27:26]), .operand(a), .value(csr_y), .retire(ex_go & ~ex_trap), .trap(ex_trap), .eret(ex_go & ex_eret),
    .cause(ex_illegal ? `CAUSE_ILLEGAL : ex_ecall ? `CAUSE_CALL : `CAUSE_MISALIGNED),
    .bad(ex_illegal ? ex_ins : ex_ecall ? {16'b0, ex_ins[15:0]} : ea), .pc(ex_pc), .vector(tvec), .back(epc)
  );

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      ex_valid <= 0;
      stopping <= 0;
    end
    else begin
      if (ex_go && ex_halt) stopping <= 1;
      if (redirect) ex_valid <= 0;
      else if (!(ex_valid && ex_stall) && !mem_stall) begin
        ex_valid <= id_valid && !stopping;
        ex_pc <= id_pc; ex_ins <= id_ins; ex_a <= rf_a; ex_b <= rf_b; ex_imm <= id_imm;
        {ex_rd, ex_ra, ex_rb} <= {id_rd, id_ra, id_rb};
        ex_fn <= id_fn; ex_size <= id_size;
        {ex_writes, ex_use_imm, ex_use_pc, ex_unsign, ex_illegal} <= {id_writes, id_use_imm, id_use_pc, id_unsign, id_illegal};
        {ex_mul, ex_load, ex_store, ex_atomic, ex_branch, ex_jal, ex_jalr, ex_csr, ex_ecall, ex_eret, ex_halt} <=
          {id_mul, id_load, id_store, id_atomic, id_branch, id_jal, id_jalr, id_csr, id_ecall, id_eret, id_halt};
      end else begin
        // while it waits, what is forwarded to it may pass by
        ex_a <= a;
        ex_b <= b;
      end
    end

  // ---- MEM ----
  always @(posedge clk or negedge rst_n)
    if (!rst_n) mem_valid <= 0;
    else if (!mem_stall) begin
      mem_valid <= ex_go & ~ex_trap;
      mem_pc <= ex_pc;
      mem_rd <= ex_rd;
      mem_writes <= ex_writes & ex_rd != 0;
      mem_value <= ex_mul ? mul_y : ex_csr ? csr_y : ex_jal | ex_jalr ? ex_pc + 4 : alu_y;
      mem_addr <= ea;
      mem_data <= b;
      mem_size <= ex_size;
      mem_unsign <= ex_unsign;
      {mem_load, mem_store, mem_atomic, mem_halt} <= {ex_load, ex_store, ex_atomic, ex_halt};
    end

  reg        second;           // half of an atomic one
  reg  `WORD old;
  reg        mem_adds;
  always @(posedge clk) if (!mem_stall) mem_adds <= ex_ins[26];

  wire wants = mem_valid & (mem_load | mem_store | mem_atomic);
  assign d_req   = wants;
  assign d_we    = mem_store | second;
  assign d_addr  = mem_addr;
  assign d_be    = !d_we || mem_size == 2 ? 4'hf : mem_size == 1 ? 4'h3 << mem_addr[1:0] : 4'h1 << mem_addr[1:0];
  wire `WORD stored = mem_atomic ? (mem_adds ? old + mem_data : mem_data) : mem_data;
  assign d_wdata = stored << 8 * mem_addr[1:0];
  assign mem_stall = wants & ~(d_ack & (~mem_atomic | second));

  always @(posedge clk or negedge rst_n)
    if (!rst_n) second <= 0;
    else if (d_ack && mem_atomic && wants) begin
      second <= ~second;
      if (!second) old <= d_rdata;
    end

  wire `WORD moved = d_rdata >> {mem_addr[1:0], 3'b0};
  reg  `WORD loaded;
  always @*
    case (mem_size)
      0: loaded = {{24{moved[7] & ~mem_unsign}}, moved[7:0]};
      1: loaded = {{16{moved[15] & ~mem_unsign}}, moved[15:0]};
      default: loaded = moved;
    endcase

  // ---- WB ----
  reg        wb_valid, wb_stores;
  reg  `WORD wb_pc, wb_addr, wb_data;
  reg  [1:0] wb_size;
  reg        wb_halt;
  event      retires;

  always @(posedge clk or negedge rst_n)
    if (!rst_n) {wb_valid, wb_we, halted, wb_halt} <= 0;
    else begin
      wb_valid <= mem_valid & ~mem_stall;
      wb_we    <= mem_valid & ~mem_stall & mem_writes;
      wb_rd    <= mem_rd;
      wb_value <= mem_load ? loaded : mem_atomic ? old : mem_value;
      {wb_pc, wb_addr, wb_size} <= {mem_pc, mem_addr, mem_size};
      wb_data <= stored;
      wb_stores <= mem_store | mem_atomic;
      wb_halt <= mem_valid & mem_halt;
      if (wb_halt) halted <= 1;
    end

  always @(negedge clk) if (wb_valid) -> retires;
endmodule
