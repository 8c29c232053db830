package rv; 
  typedef enum logic [6:0] {OP_IMM = 7'h13, OP = 7'h33, LOAD = 7'h03, STORE = 7'h23, BRANCH = 7'h63, LUI = 7'h37, JAL = 7'h6f} opcode_t;
  typedef enum logic [2:0] {ADD, SLL, SLT, SLTU, XOR_, SRL, OR_, AND_} alu_t;
  typedef struct packed { logic [6:0] f7; logic [4:0] rs2, rs1; logic [2:0] f3; logic [4:0] rd; opcode_t op; } r_t;
  typedef struct packed { logic [11:0] imm; logic [4:0] rs1; logic [2:0] f3; logic [4:0] rd; opcode_t op; } i_t;
  typedef union packed { logic [31:0] raw; r_t r; i_t i; } instr_t;
  typedef struct { logic valid; instr_t ins; logic [31:0] pc, a, b, imm; struct packed { logic we; logic [4:0] rd; } wb; } stage_t;
  localparam logic [31:0] NOP = 32'h13;
  function automatic logic [31:0] imm_of(instr_t i);
    unique case (i.r.op)
      OP_IMM, LOAD: imm_of = 32'(signed'(i.i.imm));
      STORE: imm_of = {{20{i.raw[31]}}, i.r.f7, i.r.rd};
      BRANCH: imm_of = {{20{i.raw[31]}}, i.raw[7], i.raw[30:25], i.raw[11:8], 1'b0};
      LUI: imm_of = {i.raw[31:12], 12'b0};
      JAL: imm_of = {{12{i.raw[31]}}, i.raw[19:12], i.raw[20], i.raw[30:21], 1'b0};
      default: imm_of = '0;
    endcase
  endfunction
  function automatic string dis(instr_t i); case (i.r.op) OP_IMM: return $sformatf("addi x%0d,x%0d,%0d", i.i.rd, i.i.rs1, $signed(i.i.imm)); OP: return $sformatf("%s x%0d,x%0d,x%0d", i.r.f7[5] ? "sub" : "add", i.r.rd, i.r.rs1, i.r.rs2);
    BRANCH: return $sformatf("b%s x%0d,x%0d,%0d", i.r.f3[0] ? "ne" : "eq", i.r.rs1, i.r.rs2, $signed(imm_of(i))); default: return $sformatf("op %s", i.r.op.name()); endcase endfunction
  function automatic logic [31:0] addi(int rd, rs1, imm); return {imm[11:0], rs1[4:0], 3'b0, rd[4:0], OP_IMM}; endfunction
  function automatic logic [31:0] add(int rd, rs1, rs2, bit sub = 0); return {1'b0, sub, 5'b0, rs2[4:0], rs1[4:0], 3'b0, rd[4:0], OP}; endfunction
  function automatic logic [31:0] bne(int rs1, rs2, off); return {off[12], off[10:5], rs2[4:0], rs1[4:0], 3'b1, off[4:1], off[11], BRANCH}; endfunction
  function automatic logic [31:0] sw(int rs2, rs1, off); return {off[11:5], rs2[4:0], rs1[4:0], 3'd2, off[4:0], STORE}; endfunction
endpackage
interface mem_if(input logic clk); logic req, we; logic [31:0] addr, wdata, rdata; modport cpu(input rdata, output req, we, addr, wdata); modport mem(input req, we, addr, wdata, output rdata); endinterface
module regfile import rv::*; #(parameter int N = 32, W = 32) (input logic clk, input logic we, input logic [$clog2(N)-1:0] wa, ra [2], input logic [W-1:0] wd, output logic [W-1:0] rd [2]);
  logic [W-1:0] r [N] = '{default: '0};
  always_ff @(posedge clk) if (we && wa != 0) r[wa] <= wd;
  for (genvar g = 0; g < 2; g++) always_comb rd[g] = (we && wa == ra[g] && wa != 0) ? wd : r[ra[g]];
endmodule
module cpu import rv::*; (input logic clk, rst_n, mem_if.cpu d, input logic [31:0] rom [64], output logic [31:0] pc, output logic halt);
  stage_t ex; instr_t ins; logic [31:0] rd [2], res; logic [4:0] ra [2]; logic taken;
  assign ins = rom[pc[7:2]]; assign ra = '{ins.r.rs1, ins.r.rs2};
  regfile rf(.clk, .we(ex.valid && ex.wb.we), .wa(ex.wb.rd), .ra, .wd(res), .rd);
  always_comb begin
    res = 'x; taken = 0;
    case (ex.ins.r.op) inside
      OP_IMM: res = ex.a + ex.imm; OP: res = ex.ins.r.f7[5] ? ex.a - ex.b : ex.a + ex.b; BRANCH: taken = ex.valid && ((ex.a == ex.b) ^ ex.ins.r.f3[0]); LUI: res = ex.imm; default: ;
    endcase
  end
  assign d.req = ex.valid && ex.ins.r.op inside {LOAD, STORE}, d.we = ex.ins.r.op == STORE, d.addr = ex.a + ex.imm, d.wdata = ex.b;
  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) begin pc <= '0; ex <= '{valid: 0, ins: NOP, wb: '0, default: '0}; halt <= 0; end
    else begin
      pc <= taken ? ex.pc + ex.imm : pc + 4;
      ex <= '{valid: !taken, ins: ins, pc: pc, a: rd[0], b: rd[1], imm: imm_of(ins), wb: '{we: ins.r.op inside {OP, OP_IMM, LUI}, rd: ins.r.rd}};
      if (ex.valid && ex.ins.raw == '0) halt <= 1;
    end
  property p_pc; @(posedge clk) disable iff (!rst_n) !taken |=> pc == $past(pc) + 4; endproperty
  assert property (p_pc) else $error("pc");
endmodule
module tb; import rv::*; logic clk = 0, rst_n = 0, halt; logic [31:0] pc, rom [64]; mem_if bus(clk); logic [31:0] ram[int]; int stores;
  cpu dut(.clk, .rst_n, .d(bus), .rom, .pc, .halt);
  always #5 clk = ~clk;
  always @(posedge clk) if (bus.req === 1 && bus.we) begin ram[bus.addr] = bus.wdata; stores++; end
  initial begin
    rom = '{default: 32'h0}; rom[0] = addi(1, 0, 10); rom[1] = addi(2, 0, 0); rom[2] = add(2, 2, 1); rom[3] = addi(1, 1, -1); rom[4] = bne(1, 0, -8); rom[5] = sw(2, 0, 16); rom[6] = add(3, 2, 2, 1); rom[7] = sw(3, 0, 20);
    for (int i = 0; i < 8; i++) $display("%h %s", rom[i], dis(rom[i]));
    #12 rst_n = 1; wait (halt); $display("%p stores %0d pc %0d x2=%0d", ram, stores, pc, dut.rf.r[2]); $finish(0);
  end
endmodule
