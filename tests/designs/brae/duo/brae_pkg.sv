// Brae-32: what all units of the out-of-order core share.
`ifndef BRAE_PKG
`define BRAE_PKG

package brae_pkg;
  timeunit 1ns;
  timeprecision 1ps;

  parameter int unsigned XLEN     = 32;
  parameter int unsigned ROB_SIZE = 16;
  parameter int unsigned RS_ALU   = 4;
  parameter int unsigned RS_MUL   = 2;
  parameter int unsigned LSQ_SIZE = 4;
  localparam int unsigned TAG_W   = $clog2(ROB_SIZE);

  typedef logic [XLEN-1:0]  word_t;
  typedef logic [TAG_W-1:0] tag_t;
  typedef logic [4:0]       reg_t;

  typedef enum logic [5:0] {
    OP_R     = 6'd0,
    OP_ADDI  = 6'd1,  OP_ANDI, OP_ORI, OP_XORI, OP_SLTI, OP_SLTIU, OP_SLLI, OP_SRLI, OP_SRAI, OP_LUI, OP_AUIPC,
    OP_LB    = 6'd16, OP_LH, OP_LW, OP_LBU, OP_LHU, OP_SB, OP_SH, OP_SW,
    OP_SWP   = 6'd24, OP_FAD,
    OP_BEQ   = 6'd32, OP_BNE, OP_BLT, OP_BGE, OP_BLTU, OP_BGEU,
    OP_JAL   = 6'd40, OP_JALR,
    OP_CSRRW = 6'd48, OP_CSRRS, OP_CSRRC,
    OP_ECALL = 6'd56, OP_ERET, OP_WAIT, OP_HALT
  } op_e;

  typedef enum logic [4:0] {
    F_ADD, F_SUB, F_AND, F_OR, F_XOR, F_ANDN, F_SLL, F_SRL, F_SRA, F_ROL, F_SLT, F_SLTU,
    F_MIN, F_MAX, F_MINU, F_MAXU, F_MUL, F_MULH, F_MULHU, F_DIV, F_DIVU, F_REM, F_REMU,
    F_CLZ, F_POP, F_BREV, F_BSWAP, F_SXB, F_SXH, F_ADDS, F_SUBS
  } fn_e;

  // one word of the program, in its two forms
  typedef union packed {
    struct packed {
      op_e         op;
      reg_t        d, a, b;
      logic [10:0] fn;
    } r;
    struct packed {
      op_e         op;
      reg_t        d, a;
      logic [15:0] imm;
    } i;
    logic [31:0] raw;
  } instr_t;

  typedef enum bit [2:0] {K_ALU, K_MUL, K_LSU, K_SYS, K_BAD} kind_e;
  typedef enum logic [1:0] {SZ_BYTE, SZ_HALF, SZ_WORD} size_e;
  typedef enum logic [2:0] {M_LOAD, M_STORE, M_SWAP, M_ADD} mem_e;

  typedef enum logic [3:0] {C_NONE = 0, C_MISALIGNED = 1, C_ILLEGAL = 2, C_CALL = 3} cause_e;

  // a decoded instruction
  typedef struct packed {
    kind_e  kind;
    op_e    op;
    fn_e    fn;
    reg_t   rd, rs1, rs2;
    logic   uses1, uses2, writes;
    logic   use_imm;
    word_t  imm;
    mem_e   mem;
    size_e  size;
    logic   sext;
    logic   branch, jump;
  } decoded_t;

  // from fetch to dispatch
  typedef struct packed {
    word_t  pc;
    instr_t instr;
    logic   predicted;   // taken
    word_t  target;      // where fetch went on
  } fetched_t;

  typedef struct packed {
    logic  ready;
    tag_t  tag;
    word_t value;
  } operand_t;

  // an instruction that waits for its operands
  typedef struct packed {
    logic     valid;
    tag_t     tag;
    decoded_t dec;
    word_t    pc;
    word_t    target;
    operand_t a, b;
  } station_t;

  // what a unit has computed
  typedef struct packed {
    logic   valid;
    tag_t   tag;
    word_t  value;
    cause_e cause;
    word_t  bad;
    logic   redirect;
    word_t  target;
    word_t  address;    // of a store
  } result_t;

  typedef enum logic [2:0] {S_PLAIN, S_STORE, S_CSR, S_ERET, S_HALT, S_ATOMIC} commit_e;

  typedef struct {
    logic    done;
    word_t   pc;
    instr_t  instr;
    commit_e how;
    logic    writes;
    reg_t    rd;
    word_t   value;
    size_e   size;
    result_t res;
  } entry_t;

  // what leaves the core when an instruction is complete
  typedef struct packed {
    logic   valid;
    word_t  pc;
    logic   writes;
    reg_t   rd;
    word_t  value;
    logic   stores;
    word_t  address;
    word_t  data;
    size_e  size;
  } retired_t;

  localparam word_t CONSOLE = 32'h8000_0000;

  function automatic logic legal_csr(input logic [15:0] n);
    return n inside {[0:6], 8};
  endfunction

  function automatic decoded_t decode(input instr_t x);
    decoded_t d = '{kind: K_ALU, op: x.i.op, fn: F_ADD, rd: x.i.d, rs1: x.i.a, size: SZ_WORD, mem: M_LOAD, default: '0};
    word_t simm = word_t'(signed'(x.i.imm));
    word_t zimm = {16'b0, x.i.imm};
    unique case (x.i.op) inside
      OP_R: begin
        d.rs2 = x.r.b;
        {d.uses1, d.uses2, d.writes} = '1;
        if (x.r.fn > 11'(F_SUBS)) d.kind = K_BAD;
        else begin
          d.fn = fn_e'(x.r.fn[4:0]);
          if (d.fn inside {[F_MUL:F_REMU]}) d.kind = K_MUL;
        end
      end
      [OP_ADDI:OP_AUIPC]: begin
        d.uses1   = !(x.i.op inside {OP_LUI, OP_AUIPC});
        d.writes  = 1'b1;
        d.use_imm = 1'b1;
        case (x.i.op)
          OP_ADDI:  begin d.fn = F_ADD; d.imm = simm; end
          OP_ANDI:  begin d.fn = F_AND; d.imm = zimm; end
          OP_ORI:   begin d.fn = F_OR; d.imm = zimm; end
          OP_XORI:  begin d.fn = F_XOR; d.imm = zimm; end
          OP_SLTI:  begin d.fn = F_SLT; d.imm = simm; end
          OP_SLTIU: begin d.fn = F_SLTU; d.imm = simm; end
          OP_SLLI:  begin d.fn = F_SLL; d.imm = zimm; end
          OP_SRLI:  begin d.fn = F_SRL; d.imm = zimm; end
          OP_SRAI:  begin d.fn = F_SRA; d.imm = zimm; end
          default:  d.imm = zimm << 16;
        endcase
      end
      [OP_LB:OP_SW], OP_SWP, OP_FAD: begin
        d.kind  = K_LSU;
        d.imm   = x.i.op inside {OP_SWP, OP_FAD} ? '0 : simm;
        d.uses1 = 1'b1;
        case (x.i.op)
          OP_LB, OP_LBU, OP_SB: d.size = SZ_BYTE;
          OP_LH, OP_LHU, OP_SH: d.size = SZ_HALF;
          default: d.size = SZ_WORD;
        endcase
        d.sext = x.i.op == OP_LB || x.i.op == OP_LH;
        if (x.i.op inside {OP_SB, OP_SH, OP_SW}) begin
          d.mem   = M_STORE;
          d.rs2   = x.i.d;
          d.uses2 = 1'b1;
        end else begin
          d.writes = 1'b1;
          if (x.i.op inside {OP_SWP, OP_FAD}) begin
            d.mem   = x.i.op == OP_SWP ? M_SWAP : M_ADD;
            d.rs2   = x.r.b;
            d.uses2 = 1'b1;
          end
        end
      end
      [OP_BEQ:OP_BGEU]: begin
        d.branch = 1'b1;
        d.rs1 = x.i.d;
        d.rs2 = x.i.a;
        {d.uses1, d.uses2} = 2'b11;
        d.imm = simm <<< 2;
      end
      OP_JAL:  {d.jump, d.writes, d.imm} = {2'b11, simm << 2};
      OP_JALR: {d.jump, d.writes, d.uses1, d.imm} = {3'b111, simm};
      OP_CSRRW, OP_CSRRS, OP_CSRRC: begin
        d.kind = legal_csr(x.i.imm) ? K_SYS : K_BAD;
        d.uses1 = 1'b1;
        d.writes = 1'b1;
      end
      OP_ECALL, OP_ERET, OP_HALT: d.kind = K_SYS;
      default: d.kind = K_BAD;
    endcase
    if (d.rd == '0) d.writes = 1'b0;
    if (d.kind == K_BAD) {d.uses1, d.uses2, d.writes} = '0;
    return d;
  endfunction : decode

  function automatic word_t saturated(input logic signed [XLEN:0] x);
    if (x > $signed(33'h0_7FFF_FFFF)) return 32'h7FFF_FFFF;
    if (x < -33'sh0_8000_0000) return 32'h8000_0000;
    return x[XLEN-1:0];
  endfunction

  function automatic word_t alu(input fn_e fn, input word_t a, b);
    logic signed [XLEN-1:0] sa = a, sb = b;
    logic [4:0] sh = b[4:0];
    unique case (fn)
      F_ADD:  return a + b;
      F_SUB:  return a - b;
      F_AND:  return a & b;
      F_OR:   return a | b;
      F_XOR:  return a ^ b;
      F_ANDN: return a & ~b;
      F_SLL:  return a << sh;
      F_SRL:  return a >> sh;
      F_SRA:  return word_t'(sa >>> sh);
      F_ROL:  begin
        logic [2*XLEN-1:0] both;
        both = {2{a}} << sh;
        return both[2*XLEN-1 -: XLEN];
      end
      F_SLT:  return word_t'(sa < sb);
      F_SLTU: return word_t'(a < b);
      F_MIN:  return sa < sb ? a : b;
      F_MAX:  return sa < sb ? b : a;
      F_MINU: return a < b ? a : b;
      F_MAXU: return a < b ? b : a;
      F_CLZ: begin
        for (int i = XLEN - 1; i >= 0; i--)
          if (a[i]) return XLEN - 1 - i;
        return XLEN;
      end
      F_POP:   return $countones(a);
      F_BREV:  return {<<{a}};
      F_BSWAP: return {<<8{a}};
      F_SXB:   return {{24{a[7]}}, a[7:0]};
      F_SXH:   return word_t'($signed(a[15:0]));
      F_ADDS:  return saturated({sa[XLEN-1], sa} + {sb[XLEN-1], sb});
      F_SUBS:  return saturated(33'(sa) - 33'(sb));
      default: return 'x;
    endcase
  endfunction : alu

  function automatic logic taken(input op_e op, input word_t a, b);
    case (op)
      OP_BEQ:  taken = a == b;
      OP_BNE:  taken = a != b;
      OP_BLT:  taken = $signed(a) < $signed(b);
      OP_BGE:  taken = $signed(a) >= $signed(b);
      OP_BLTU: taken = a < b;
      OP_BGEU: taken = a >= b;
      default: taken = 1'b0;
    endcase
  endfunction

  // the bytes of a word that an access touches, and its data where they lie
  function automatic logic [3:0] lanes(input size_e size, input logic [1:0] low);
    case (size)
      SZ_BYTE: return 4'b0001 << low;
      SZ_HALF: return 4'b0011 << low;
      default: return '1;
    endcase
  endfunction

  function automatic word_t loaded(input word_t raw, input logic [1:0] low, input size_e size, input logic sext);
    word_t moved = raw >> {low, 3'b000};
    case (size)
      SZ_BYTE: return {{24{sext & moved[7]}}, moved[7:0]};
      SZ_HALF: return {{16{sext & moved[15]}}, moved[15:0]};
      default: return moved;
    endcase
  endfunction

  function automatic logic misaligned(input size_e size, input word_t address);
    return (size == SZ_WORD && address[1:0] != 0) || (size == SZ_HALF && address[0]);
  endfunction

endpackage : brae_pkg
`endif
