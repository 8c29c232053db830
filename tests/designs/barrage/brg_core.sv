`include "brg_assert.svh"

interface brg_bus #(parameter int unsigned AW = 32, parameter type data_t = logic [31:0]) (input logic clk_i, input logic rst_ni);
  logic          req, gnt, we, rvalid;
  logic [AW-1:0] addr;
  data_t         wdata, rdata;

  modport host (output req, we, addr, wdata, input gnt, rvalid, rdata);
  modport device (input req, we, addr, wdata, output gnt, rvalid, rdata);
  modport watch (input req, gnt, we, rvalid, addr, wdata, rdata);

  property one_answer;
    @(posedge clk_i) disable iff (!rst_ni) rvalid |=> !rvalid;
  endproperty
  assert property (one_answer) else $error("%m: two answers to one request");

  function automatic bit busy();
    return req & ~gnt;
  endfunction
endinterface

module brg_regfile
  import brg_pkg::*;
#(
  parameter int unsigned PORTS = 2,
  parameter bit          BYPASS = 1'b1
) (
  input  logic                    clk_i,
  input  logic                    rst_ni,
  input  reg_t  [PORTS-1:0]       raddr_i,
  output word_t [PORTS-1:0]       rdata_o,
  input  logic                    we_i,
  input  reg_t                    waddr_i,
  input  word_t                   wdata_i
);
  word_t [REGS-1:0] rf_d, rf_q;
  logic [REGS-1:1] onehot;

  always_comb begin : decoder
    onehot = '0;
    for (int unsigned i = 1; i < REGS; i++) onehot[i] = we_i && (waddr_i == reg_t'(i));
  end

  for (genvar i = 0; i < REGS; i++) begin : g_reg
    if (i == 0) begin : g_zero
      assign rf_d[i] = '0;
      assign rf_q[i] = '0;
    end else begin : g_flop
      assign rf_d[i] = onehot[i] ? wdata_i : rf_q[i];
      `BRG_FF(rf_q[i], rf_d[i], '0)
    end
  end

  for (genvar p = 0; p < PORTS; p++) begin : g_read
    if (BYPASS) assign rdata_o[p] = rf_d[raddr_i[p]];
    else        assign rdata_o[p] = rf_q[raddr_i[p]];
  end

  `BRG_ASSERT(OneWrite, $onehot0(onehot))
endmodule : brg_regfile

module brg_fetch
  import brg_pkg::*;
#(parameter word_t BOOT = '0) (
  input  logic     clk_i, rst_ni,
  input  logic     stall_i, redirect_i, halt_i,
  input  word_t    target_i,
  brg_bus.host     ibus,
  output fetched_t fetched_o
);
  word_t pc_d, pc_q;
  typedef enum logic [1:0] {Idle, Wait, Full} state_e;
  state_e state_d, state_q;
  instr_t kept_d, kept_q;
  logic drop_d, drop_q;

  always_comb begin
    pc_d = pc_q;
    state_d = state_q;
    kept_d = kept_q;
    drop_d = drop_q;
    ibus.req = 1'b0;
    ibus.addr = pc_q;
    fetched_o = '{valid: 1'b0, pc: pc_q, instr: kept_q};

    unique case (state_q)
      Idle: begin
        ibus.req = ~halt_i;
        if (ibus.gnt && ibus.req) state_d = Wait;
      end
      Wait: if (ibus.rvalid) begin
        drop_d = 1'b0;
        if (drop_q || redirect_i) state_d = Idle;
        else begin
          kept_d = ibus.rdata;
          fetched_o.valid = 1'b1;
          fetched_o.instr = ibus.rdata;
          state_d = stall_i ? Full : Idle;
          if (!stall_i) pc_d = pc_q + 4;
        end
      end
      Full: begin
        fetched_o.valid = ~redirect_i;
        if (!stall_i || redirect_i) begin
          state_d = Idle;
          pc_d = pc_q + 4;
        end
      end
      default: state_d = Idle;
    endcase
    if (redirect_i) begin
      pc_d = target_i;
      if (state_q == Wait && !ibus.rvalid || state_q == Idle && ibus.req && ibus.gnt) drop_d = 1'b1;
    end
  end
  assign {ibus.we, ibus.wdata} = '0;

  `BRG_FF(pc_q, pc_d, BOOT)
  `BRG_FF(state_q, state_d, Idle)
  `BRG_FF(kept_q, kept_d, '0)
  `BRG_FF(drop_q, drop_d, 1'b0)
  `BRG_ASSERT(Aligned, pc_q[1:0] == '0)
endmodule

module brg_core
  import brg_pkg::*;
#(
  parameter config_t CFG  = DEFAULT_CONFIG,
  parameter word_t   BOOT = 32'h0000_0000
) (
  input  logic clk_i,
  input  logic rst_ni,
  brg_bus.host ibus,
  brg_bus.host dbus,
  output logic halted_o,
  output logic retire_o
);
  if (CFG.depth < 16) begin : g_too_small
    $error("a memory of %0d words is too small", CFG.depth);
  end

  fetched_t  if_q;
  decoded_t  id_d, id_q;
  executed_t ex_d, ex_q;
  logic      stall, redirect, halt_seen, mem_wait;
  word_t     target;
  word_t [1:0] rf_data;
  reg_t  [1:0] rf_addr;

  brg_fetch #(.BOOT(BOOT)) i_fetch (
    .stall_i(stall), .redirect_i(redirect), .halt_i(halt_seen), .target_i(target), .fetched_o(if_q), .*
  );

  // ---- decode
  wire instr_t instr = if_q.instr;
  assign rf_addr = {decode(instr).stores | decode(instr).branches ? instr.i.rd : instr.r.rs2, instr.r.rs1};

  logic wb_we;
  word_t wb_data;
  brg_regfile #(.PORTS(2)) i_rf (
    .clk_i, .rst_ni, .raddr_i(rf_addr), .rdata_o(rf_data), .we_i(wb_we), .waddr_i(ex_q.rd), .wdata_i(wb_data));

  always_comb begin : proc_decode
    automatic control_t ctl = decode(instr);
    id_d = '0;
    id_d.valid = if_q.valid;
    id_d.pc = if_q.pc;
    id_d.ctl = ctl;
    id_d.rd = instr.r.rd;
    id_d.imm = instr.r.op == OpLui ? {instr.i.imm, 16'h0} : word_t'(instr.i.imm);
    id_d.src[0] = '{used: instr.r.op != OpLui, number: rf_addr[0], value: instr.r.op == OpLui ? '0 : rf_data[0]};
    id_d.src[1] = '{ctl.uses_rs2, rf_addr[1], rf_data[1]};
    id_d.csr = csr_e'(instr.i.imm[1:0]);
    id_d.is_csr = instr.r.op == OpCsr;
    id_d.halt = instr.r.op == OpHalt || ctl.illegal;
  end

  // ---- execute, with what the stage behind is about to write
  word_t [1:0] operand;
  always_comb
    foreach (operand[i]) begin
      operand[i] = id_q.src[i].value;
      if (CFG.forward && ex_q.valid && ex_q.write && ex_q.rd != '0 && ex_q.rd == id_q.src[i].number && id_q.src[i].used)
        operand[i] = wb_data;
    end

  logic taken;
  opcode_e branch_q;
  always_comb begin
    taken = 1'b0;
    priority case (branch_q)
      OpBeq: taken = operand[0] == operand[1];
      OpBne: taken = operand[0] != operand[1];
      OpBlt: taken = $signed(operand[0]) < $signed(operand[1]);
      default: ;
    endcase
  end

  word_t [3:0] counters;
  always_comb begin : proc_execute
    ex_d = '{default: '0};
    ex_d.valid = id_q.valid;
    ex_d.rd = id_q.rd;
    ex_d.load = id_q.ctl.loads;
    ex_d.store = id_q.ctl.stores;
    ex_d.write = id_q.ctl.writes;
    ex_d.store_data = operand[1];
    ex_d.halt = id_q.halt;
    if (id_q.ctl.jumps)      ex_d.result = id_q.pc + 32'd4;
    else if (id_q.is_csr)    ex_d.result = counters[id_q.csr];
    else ex_d.result = alu(id_q.ctl.alu_op, operand[0], id_q.ctl.uses_imm ? id_q.imm : operand[1]);
    target = id_q.pc + (id_q.imm <<< 2);
    redirect = id_q.valid && !stall && (id_q.ctl.jumps || (id_q.ctl.branches && taken));
  end

  // ---- memory and write back
  enum logic {MemIdle, MemWait} mem_q;
  assign mem_wait = ex_q.valid && (ex_q.load || ex_q.store) && !(mem_q == MemWait && dbus.rvalid);
  assign stall = mem_wait;
  assign dbus.req = ex_q.valid && (ex_q.load || ex_q.store) && mem_q == MemIdle;
  assign dbus.addr = ex_q.result;
  assign dbus.we = ex_q.store;
  assign dbus.wdata = ex_q.store_data;
  always_ff @(posedge clk_i, negedge rst_ni)
    if (!rst_ni) mem_q <= MemIdle;
    else if (mem_q == MemIdle && dbus.req && dbus.gnt) mem_q <= MemWait;
    else if (dbus.rvalid) mem_q <= MemIdle;

  assign wb_data = ex_q.load ? dbus.rdata : ex_q.result;
  assign wb_we = ex_q.valid && ex_q.write && !mem_wait;
  assign retire_o = ex_q.valid & ~mem_wait;

  always_ff @(posedge clk_i or negedge rst_ni) begin
    if (!rst_ni) begin
      id_q <= '0;
      ex_q <= '0;
      branch_q <= OpAdd;
      halt_seen <= 1'b0;
      halted_o <= 1'b0;
    end else begin
      if (!stall) begin
        id_q <= id_d;
        branch_q <= instr.r.op;
        if (redirect || halt_seen) id_q.valid <= 1'b0;
        ex_q <= ex_d;
        if (id_q.valid && id_q.halt) halt_seen <= 1'b1;
        halted_o <= halted_o | (ex_q.valid & ex_q.halt);
      end
    end
  end

  // ---- counters, in a loop over an enum
  always_ff @(posedge clk_i or negedge rst_ni)
    if (!rst_ni) counters <= '{default: '0};
    else begin
      if (!halted_o) counters[CsrCycle] <= counters[CsrCycle] + 32'd1;
      counters[CsrInstret] <= counters[CsrInstret] + word_t'(retire_o);
      if (stall) counters[CsrStalls] <= counters[CsrStalls] + 1'b1;
      counters[CsrScratch] <= {>>{IDENT}};
    end

  logic unused_signals;
  assign unused_signals = ^{if_q.pc[1:0], instr.r.unused, counters};

  `BRG_ASSERT_KNOWN(ResultKnown, {halted_o, retire_o})
  `BRG_ASSERT(NoWriteWhileStalled, stall |-> !wb_we)
  `BRG_ASSERT(RedirectLosesDecode, redirect |=> !id_q.valid)
  `BRG_ASSERT_INIT(Name, CFG.name.len() > 0)
endmodule
