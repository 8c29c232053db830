`include "brg_assert.svh"

package brg_pkg;
  localparam int unsigned XLEN = 32;
  localparam int unsigned REGS = 16;
  localparam int unsigned REG_AW = $clog2(REGS);

  typedef logic [XLEN-1:0] word_t;
  typedef logic [REG_AW-1:0] reg_t;
  typedef logic [15:0] half_t;

  typedef enum logic [4:0] {
    OpAdd = 5'd0, OpSub, OpAnd, OpOr, OpXor, OpSll, OpSrl, OpSra, OpSlt, OpSltu,
    OpAddi = 5'd16, OpLui, OpLw, OpSw, OpBeq, OpBne, OpBlt, OpJal, OpCsr, OpHalt = 5'd31
  } opcode_e;

  typedef enum logic [1:0] { CsrCycle, CsrInstret, CsrStalls, CsrScratch } csr_e;

  typedef enum int { MulNone, MulSerial, MulFast } mul_e;

  // one instruction, seen three ways
  typedef struct packed {
    opcode_e     op;
    reg_t        rd;
    reg_t        rs1;
    reg_t        rs2;
    logic [14:0] unused;
  } rtype_t;

  typedef struct packed {
    opcode_e            op;
    reg_t               rd;
    reg_t               rs1;
    logic [2:0]         kind;
    logic signed [15:0] imm;
  } itype_t;

  typedef union packed {
    logic [31:0] raw;
    rtype_t      r;
    itype_t      i;
  } instr_t;

  typedef struct packed {
    logic    writes, loads, stores, jumps;
    logic    branches;
    logic    uses_imm, uses_rs2;
    opcode_e alu_op;
    logic    illegal;
  } control_t;

  localparam control_t CONTROL_IDLE = '{alu_op: OpAdd, default: 1'b0};

  typedef struct packed {
    logic   valid;
    word_t  pc;
    instr_t instr;
  } fetched_t;

  typedef struct packed {
    logic     valid;
    word_t    pc;
    control_t ctl;
    reg_t     rd;
    struct packed { logic used; reg_t number; word_t value; } [1:0] src;
    word_t    imm;
    csr_e     csr;
    logic     is_csr, halt;
  } decoded_t;

  typedef struct packed {
    logic     valid, load, store, write;
    reg_t     rd;
    word_t    result, store_data;
    logic     halt;
  } executed_t;

  typedef struct {
    int unsigned depth;
    bit          forward;
    mul_e        mul;
    string       name;
  } config_t;

  localparam config_t DEFAULT_CONFIG = '{depth: 1024, forward: 1'b1, mul: MulNone, name: "barrage"};
  localparam logic [3:0][7:0] IDENT = {8'h54, 8'h41, 8'h52, 8'h4E};
  localparam int unsigned LATENCY [3] = '{1, 33, 2};

  function automatic control_t decode(input instr_t instr);
    control_t c = CONTROL_IDLE;
    unique case (instr.r.op) inside
      [OpAdd:OpSltu]: begin c.writes = 1'b1; c.uses_rs2 = 1'b1; c.alu_op = instr.r.op; end
      OpAddi: begin c.writes = 1'b1; c.uses_imm = 1'b1; end
      OpLui: begin c.writes = '1; c.uses_imm = '1; c.alu_op = OpOr; end
      OpLw: begin {c.writes, c.loads, c.uses_imm} = '1; end
      OpSw: begin c.stores = 1; c.uses_imm = 1; c.uses_rs2 = 1; end
      OpBeq, OpBne, OpBlt: begin c.branches = 1; c.uses_rs2 = 1; end
      OpJal: begin c.jumps = 1; c.writes = 1; end
      OpCsr: c.writes = 1;
      OpHalt: ;
      default: c.illegal = 1'b1;
    endcase
    return c;
  endfunction

  function automatic word_t alu(opcode_e op, word_t a, word_t b);
    case (op)
      OpAdd:  return a + b;
      OpSub:  return a - b;
      OpAnd:  return a & b;
      OpOr:   return a | b;
      OpXor:  return a ^ b;
      OpSll:  return a << b[4:0];
      OpSrl:  return a >> b[4:0];
      OpSra:  return word_t'($signed(a) >>> b[4:0]);
      OpSlt:  return word_t'($signed(a) < $signed(b));
      OpSltu: return {31'b0, a < b};
      default: return 'x;
    endcase
  endfunction

  function automatic string disassemble(instr_t i);
    string text;
    text = i.r.op.name();
    text = text.substr(2, text.len() - 1);
    case (i.r.op)
      OpAdd, OpSub, OpAnd, OpOr, OpXor, OpSll, OpSrl, OpSra, OpSlt, OpSltu:
        return $sformatf("%s r%0d, r%0d, r%0d", text.tolower(), i.r.rd, i.r.rs1, i.r.rs2);
      OpLw, OpSw: return $sformatf("%s r%0d, %0d(r%0d)", text.tolower(), i.i.rd, i.i.imm, i.i.rs1);
      OpHalt: return "halt";
      default: return $sformatf("%s r%0d, r%0d, %0d", text.tolower(), i.i.rd, i.i.rs1, i.i.imm);
    endcase
  endfunction
endpackage : brg_pkg
