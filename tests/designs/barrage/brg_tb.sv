`timescale 1ns/1ps
`include "brg_assert.svh"

package brg_check_pkg;
  import brg_pkg::*;

  // what one program does, instruction by instruction
  virtual class model;
    protected word_t x [REGS];
    word_t memory [int unsigned];
    word_t pc;
    int retired;
    bit done;
    static int made = 0;

    function new(string name = "model");
      made++;
      pc = '0;
      foreach (x[i]) x[i] = '0;
    endfunction

    pure virtual function void observe(instr_t i);

    virtual function void step();
      instr_t i = memory.exists(pc) ? memory[pc] : '1;
      word_t next = pc + 4, a = x[i.r.rs1], b = x[i.r.rs2], s = x[i.i.rd];
      word_t imm = word_t'(i.i.imm);
      retired++;
      observe(i);
      case (i.r.op)
        OpAddi: set(i.i.rd, a + imm);
        OpLui: set(i.i.rd, {i.i.imm, 16'b0});
        OpLw: set(i.i.rd, memory[a + imm]);
        OpSw: memory[a + imm] = s;
        OpBeq: if (a == s) next = pc + 4 * imm;
        OpBne: if (a != s) next = pc + 4 * imm;
        OpBlt: if ($signed(a) < $signed(s)) next = pc + 4 * imm;
        OpJal: begin set(i.i.rd, next); next = pc + 4 * imm; end
        OpCsr: ;
        OpHalt: done = 1;
        default: set(i.r.rd, alu(i.r.op, a, b));
      endcase
      pc = next;
    endfunction

    protected function void set(reg_t r, word_t v);
      if (r != 0) x[r] = v;
    endfunction

    function word_t value(int r); return x[r]; endfunction
  endclass

  class counting_model extends model;
    int unsigned count [opcode_e];
    string longest;

    function new(); super.new("counting"); endfunction

    virtual function void observe(instr_t i);
      string text = disassemble(i);
      if (!count.exists(i.r.op)) count[i.r.op] = 0;
      count[i.r.op]++;
      if (text.len() > longest.len()) longest = text;
    endfunction

    function string summary();
      string parts[$];
      opcode_e op;
      if (count.first(op))
        do parts.push_back($sformatf("%s:%0d", op.name(), count[op]));
        while (count.next(op));
      summary = "";
      foreach (parts[i]) summary = {summary, i ? " " : "", parts[i]};
    endfunction
  endclass

  class assembler;
    local instr_t code[$];
    local int labels[string];
    local struct { int at; string label; } fixes[$];

    function void r(opcode_e op, reg_t rd, rs1, rs2);
      code.push_back(rtype_t'{op: op, rd: rd, rs1: rs1, rs2: rs2, unused: '0});
    endfunction
    function void i(opcode_e op, reg_t rd, rs1, shortint imm = 0);
      instr_t n;
      n.i = '{op, rd, rs1, 3'b0, imm};
      code.push_back(n);
    endfunction
    function void to(opcode_e op, reg_t rs1, rs2, string label);
      fixes.push_back('{code.size(), label});
      this.i(op, .rd(rs2), .rs1(rs1));
    endfunction
    function void here(string label);
      labels[label] = code.size();
    endfunction
    function int finish(ref word_t memory [int unsigned]);
      foreach (fixes[k]) code[fixes[k].at].i.imm = labels[fixes[k].label] - fixes[k].at;
      foreach (code[k]) memory[4 * k] = code[k];
      return code.size();
    endfunction
  endclass
endpackage

// A memory that answers after a number of clocks that varies
module brg_memory import brg_pkg::*; #(parameter int unsigned SEED = 1, DEPTH = 256) (input logic clk_i, rst_ni, brg_bus.device bus);
  word_t mem [int unsigned];
  typedef struct { bit we; word_t addr, data; int unsigned wait_for; } job_t;
  job_t jobs[$];
  logic [15:0] lfsr;

  always_ff @(posedge clk_i or negedge rst_ni)
    if (!rst_ni) lfsr <= 16'(SEED);
    else lfsr <= {lfsr[14:0], lfsr[15] ^ lfsr[13] ^ lfsr[12] ^ lfsr[10]};

  assign bus.gnt = bus.req & lfsr[0];

  always @(posedge clk_i) begin
    bus.rvalid <= 1'b0;
    if (!rst_ni) jobs.delete();
    else begin
      if (jobs.size() != 0) begin
        if (jobs[0].wait_for == 0) begin
          automatic job_t job = jobs.pop_front();
          if (job.we) mem[job.addr] = job.data;
          bus.rdata <= mem.exists(job.addr) ? mem[job.addr] : 'x;
          bus.rvalid <= 1'b1;
        end else jobs[0].wait_for--;
      end
      if (bus.req && bus.gnt) jobs.push_back('{bus.we, bus.addr, bus.wdata, {30'b0, lfsr[5:4]}});
    end
  end
endmodule

module brg_checker #(parameter string NAME = "") (input logic clk_i, rst_ni, retire, halted);
  int seen = 0;
  sequence after_halt; halted ##1 halted; endsequence
  always @(posedge clk_i) if (rst_ni && retire) seen++;
  stays: assert property (@(posedge clk_i) disable iff (!rst_ni) $rose(halted) |=> halted [*3]);
  quiet: cover property (@(posedge clk_i) after_halt);
  final $display("%s saw %0d instructions", NAME, seen);
endmodule

bind brg_core brg_checker #(.NAME({CFG.name, " watcher"})) i_watch (.clk_i, .rst_ni, .retire(retire_o), .halted(halted_o));

module tb;
  import brg_pkg::*;
  import brg_check_pkg::*;

  localparam config_t SLOW = '{depth: 64, forward: 1'b1, mul: MulSerial, name: "slow"};
  localparam time HALF = 5ns;
  bit clk_i = 0, rst_ni = 1;
  logic [1:0] halted, retire;
  always #HALF clk_i = !clk_i;

  brg_bus ibus [2] (.clk_i, .rst_ni);
  brg_bus #(.AW(32)) dbus [2] (.*);

  for (genvar k = 0; k < 2; k++) begin : g_sys
    brg_core #(.CFG(k == 0 ? DEFAULT_CONFIG : SLOW)) i_core (
      .clk_i, .rst_ni, .ibus(ibus[k].host), .dbus(dbus[k]), .halted_o(halted[k]), .retire_o(retire[k]));
    brg_memory #(.SEED(k + 1)) i_imem (.clk_i, .rst_ni, .bus(ibus[k].device));
    brg_memory #(.SEED(k * 77 + 5)) i_dmem (.clk_i, .rst_ni, .bus(dbus[k]));
  end

  counting_model golden;
  word_t image [int unsigned];
  int words, errors;

  function automatic void build();
    assembler a = new;
    // fill 0x400.. with k*k - 20 for k = 0..9, add up what is negative and what isn't apart, find the greatest
    a.i(OpAddi, 1, 0, 16'h400); a.i(OpAddi, 2, 0, 0); a.i(OpAddi, 3, 0, 10); a.i(OpAddi, 4, 0, -20); a.i(OpAddi, 5, 0, 1);
    a.here("fill");
    a.i(OpSw, 4, 1); a.r(OpAdd, 4, 4, 5); a.i(OpAddi, 5, 5, 2); a.i(OpAddi, 1, 1, 4); a.i(OpAddi, 2, 2, 1);
    a.to(OpBlt, 2, 3, "fill");
    a.i(OpAddi, 1, 0, 16'h400); a.r(OpXor, 6, 6, 6); a.r(OpXor, 7, 7, 7); a.i(OpLui, 8, 0, 16'h8000);
    a.here("sum");
    a.i(OpLw, 9, 1, 0);
    a.to(OpBlt, 9, 0, "below");
    a.r(OpAdd, 7, 7, 9);
    a.to(OpJal, 0, 10, "greatest");
    a.here("below"); a.r(OpAdd, 6, 6, 9);
    a.here("greatest");
    a.to(OpBlt, 9, 8, "next"); a.r(OpAdd, 8, 9, 0);
    a.here("next");
    a.i(OpAddi, 1, 1, 4); a.i(OpAddi, 2, 2, -1); a.to(OpBne, 2, 0, "sum");
    a.r(OpSra, 11, 6, 5); a.r(OpSltu, 12, 7, 6); a.r(OpSlt, 13, 6, 7); a.i(OpCsr, 14, 0, CsrScratch);
    a.i(OpHalt, 0, 0);
    words = a.finish(image);
  endfunction

  task automatic load(int k);
    case (k)
      0: g_sys[0].i_imem.mem = image;
      1: g_sys[1].i_imem.mem = image;
    endcase
  endtask

  task automatic compare(input string who, const ref word_t [REGS-1:0] rf, ref int bad);
    for (int r = 0; r < REGS; r++) begin
      if (r == 14) continue;
      if (rf[r] !== golden.value(r)) begin
        bad++;
        $display("%s: r%0d is %0d, should be %0d", who, r, $signed(rf[r]), $signed(golden.value(r)));
      end
    end
  endtask

  word_t [REGS-1:0] rf [2];
  assign rf[0] = g_sys[0].i_core.i_rf.rf_q;
  assign rf[1] = g_sys[1].i_core.i_rf.rf_q;

  initial begin : main
    build();
    golden = new();
    golden.memory = image;
    do golden.step(); while (!golden.done && golden.retired < 10_000);
    $display("%0d words, %0d instructions, longest '%s'", words, golden.retired, golden.longest);
    $display("%s", golden.summary());
    $display("negative %0d, others %0d, greatest %0d", $signed(golden.value(6)), golden.value(7), $signed(golden.value(8)));
    for (int k = 0; k < 2; k++) load(k);
    #1 rst_ni = 0;
    repeat (2) @(posedge clk_i);
    @(negedge clk_i) rst_ni = 1;
    fork
      wait (&halted);
      begin repeat (20_000) @(posedge clk_i); $display("too long"); end
    join_any
    disable fork;
    repeat (4) @(negedge clk_i);
    foreach (rf[k]) compare($sformatf("core %0d", k), rf[k], errors);
    begin
      automatic int unsigned at;
      automatic int differing = 0;
      if (golden.memory.first(at))
        do if (at >= 'h400 && golden.memory[at] !== g_sys[1].i_dmem.mem[at]) differing++;
        while (golden.memory.next(at));
      $display("%0d words differ, r14 is %s", differing, string'(rf[0][14]));
    end
    $display("%0d errors, %0d model", errors, model::made);
    $finish(0);
  end
endmodule
