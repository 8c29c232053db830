// The waiting stations and the units behind them. All results leave in a register, onto one of the result buses.
module brae_stations
  import brae_pkg::*;
#(
    parameter int unsigned SIZE  = 4,
    parameter int unsigned BUSES = 3,
    parameter bit IN_ORDER = 0
) (
    input  logic                clk,
    input  logic                rst_n,
    input  logic                flush,
    input  logic                insert,
    input  station_t            incoming,
    output logic                full,
    input  result_t [BUSES-1:0] results,
    output logic                found,
    output station_t            oldest,
    input  logic                take
);
  station_t waiting[SIZE];
  station_t woken  [SIZE];

  function automatic operand_t wake(input operand_t x);
    wake = x;
    for (int k = 0; k < BUSES; k++)
      if (!x.ready && results[k].valid && results[k].tag == x.tag) wake = '{1'b1, x.tag, results[k].value};
  endfunction

  function automatic station_t wake_both(station_t s);
    s.a = wake(s.a);
    s.b = wake(s.b);
    return s;
  endfunction

  // the stations form a queue: the oldest lies at 0
  int unsigned chosen;
  always_comb begin
    found = 1'b0;
    chosen = 0;
    for (int unsigned i = 0; i < SIZE; i++) begin
      if (waiting[i].valid && waiting[i].a.ready && waiting[i].b.ready) begin
        found = 1'b1;
        chosen = i;
        break;
      end
      if (IN_ORDER) break;
    end
    oldest = waiting[chosen];
    full = waiting[SIZE-1].valid;
  end

  always_comb foreach (woken[i]) woken[i] = wake_both(waiting[i]);

  always_ff @(posedge clk or negedge rst_n) begin
    if (!rst_n) waiting <= '{default: '0};
    else if (flush) begin
      for (int i = 0; i < SIZE; i++) waiting[i].valid <= 1'b0;
    end else begin
      automatic station_t next[SIZE+1];
      automatic int count = 0;
      foreach (next[i]) next[i] = '0;
      for (int i = 0; i < SIZE; i++) begin
        if (!woken[i].valid || (take && found && i == chosen)) continue;
        next[count++] = woken[i];
      end
      if (insert && !full) next[count] = wake_both(incoming);
      waiting <= next[0:SIZE-1];
    end
  end
endmodule : brae_stations

module brae_alu_unit
  import brae_pkg::*;
(
    input  logic     clk,
    input  logic     rst_n,
    input  logic     flush,
    input  logic     start,
    input  station_t s,
    output result_t  result
);
  result_t made;

  always_comb begin
    automatic word_t follow = s.pc + 4;
    made = '{valid: start, tag: s.tag, cause: C_NONE, default: '0};
    if (s.dec.kind == K_SYS) begin
      made.value = s.a.value;
      if (s.dec.op == OP_ECALL) begin
        made.cause = C_CALL;
        made.bad = s.dec.imm;
      end
    end else if (s.dec.branch) begin
      if (taken(s.dec.op, s.a.value, s.b.value)) follow = s.pc + s.dec.imm;
    end else if (s.dec.jump) begin
      made.value = follow;
      follow = s.dec.op == OP_JAL ? s.pc + s.dec.imm : (s.a.value + s.dec.imm) & ~word_t'(3);
    end else if (s.dec.op == OP_LUI) made.value = s.dec.imm;
    else if (s.dec.op == OP_AUIPC) made.value = s.pc + s.dec.imm;
    else made.value = alu(s.dec.fn, s.a.value, s.b.value);
    made.target = follow;
    made.redirect = follow != s.target;
  end

  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) result <= '0;
    else result <= flush ? '0 : made;
endmodule : brae_alu_unit

module brae_muldiv_unit
  import brae_pkg::*;
#(
    parameter int unsigned STAGES = 2
) (
    input  logic     clk,
    input  logic     rst_n,
    input  logic     flush,
    input  logic     start,
    input  station_t s,
    output logic     free,
    output result_t  result
);
  localparam int CW = $clog2(XLEN + 1);

  enum {READY, MULTIPLY, DIVIDE, DONE} phase;
  station_t                  held;
  logic signed [2*XLEN+1:0]  product[STAGES];
  logic        [XLEN-1:0]    quotient, divisor;
  logic        [XLEN:0]      rest;
  logic        [CW-1:0]      left;
  logic                      negate_q, negate_r;

  wire is_signed = s.dec.fn inside {F_MULH, F_DIV, F_REM};
  wire divides   = s.dec.fn inside {[F_DIV:F_REMU]};
  wire signed [XLEN:0] wide_a = {is_signed & s.a.value[XLEN-1], s.a.value};
  wire signed [XLEN:0] wide_b = {is_signed & s.b.value[XLEN-1], s.b.value};

  assign free = phase == READY;

  function automatic word_t magnitude(logic signed [XLEN:0] x);
    return x < 0 ? word_t'(-x) : word_t'(x);
  endfunction

  wire [XLEN:0] trial = {rest[XLEN-1:0], quotient[XLEN-1]} - {1'b0, divisor};

  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      phase  <= READY;
      result <= '0;
    end else begin
      result.valid <= 1'b0;
      unique case (phase)
        READY: if (start) begin
          held <= s;
          left <= CW'(divides ? XLEN : STAGES);
          product[0] <= wide_a * wide_b;
          quotient <= magnitude(wide_a);
          divisor  <= magnitude(wide_b);
          rest <= '0;
          negate_q <= (wide_a < 0) ^ (wide_b < 0);
          negate_r <= wide_a < 0;
          phase <= divides ? DIVIDE : MULTIPLY;
        end
        MULTIPLY: begin
          for (int i = 1; i < STAGES; i++) product[i] <= product[i-1];
          left <= left - 1'b1;
          if (left == 1) phase <= DONE;
        end
        DIVIDE: begin
          quotient <= {quotient[XLEN-2:0], ~trial[XLEN]};
          rest <= trial[XLEN] ? {rest[XLEN-1:0], quotient[XLEN-1]} : trial;
          if (--left == 0) phase <= DONE;
        end
        DONE: begin
          result <= '{valid: 1'b1, tag: held.tag, cause: C_NONE, default: '0};
          case (held.dec.fn)
            F_MUL:           result.value <= product[STAGES-1][XLEN-1:0];
            F_MULH, F_MULHU: result.value <= product[STAGES-1][2*XLEN-1-:XLEN];
            F_DIV, F_DIVU:   result.value <= divisor == 0 ? '1 : negate_q ? -quotient : quotient;
            default:         result.value <= divisor == 0 ? held.a.value : negate_r ? -rest[XLEN-1:0] : rest[XLEN-1:0];
          endcase
          phase <= READY;
        end
      endcase
      if (flush) begin
        phase <= READY;
        result.valid <= 1'b0;
      end
    end
endmodule : brae_muldiv_unit

// Loads and atomics in order; stores only get their address here, and are written when they are retired.
module brae_lsu
  import brae_pkg::*;
(
    input  logic       clk,
    input  logic       rst_n,
    input  logic       flush,
    input  logic       found,
    input  station_t   s,
    output logic       take,
    input  tag_t       head,
    input  logic       head_valid,
    input  logic       no_stores,
    // the data cache
    output logic       dc_req,
    output logic       dc_we,
    output word_t      dc_addr,
    output word_t      dc_wdata,
    input  logic       dc_ready,
    input  word_t      dc_rdata,
    output result_t    result
);
  word_t address, old;
  logic  second;     // of the two halves of an atomic one
  wire   at_head  = head_valid && s.tag == head;
  wire   is_load  = s.dec.mem == M_LOAD;
  wire   is_store = s.dec.mem == M_STORE;
  wire   bad      = misaligned(s.dec.size, address);
  wire   careful  = !is_load || address[31];

  assign address  = s.a.value + s.dec.imm;
  assign dc_addr  = address;
  assign dc_we    = second;
  assign dc_wdata = s.dec.mem == M_SWAP ? s.b.value : old + s.b.value;
  assign dc_req   = found && !bad && !is_store && (at_head || (!careful && no_stores));
  assign take     = found && (bad || is_store || (dc_req && dc_ready && (is_load || second)));

  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      result <= '0;
      second <= 1'b0;
    end else begin
      result <= '{valid: take && !flush, tag: s.tag, address: address, cause: bad ? C_MISALIGNED : C_NONE, default: '0};
      if (bad) result.bad <= address;
      result.value <= is_store ? s.b.value : is_load ? loaded(dc_rdata, address[1:0], s.dec.size, s.dec.sext) : old;
      if (flush || (take && second)) second <= 1'b0;
      else if (dc_req && dc_ready && !is_load) begin
        second <= 1'b1;
        old <= dc_rdata;
      end
    end
endmodule : brae_lsu
