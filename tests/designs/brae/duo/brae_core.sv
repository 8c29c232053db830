// The core: names instructions by their place in the buffer of those under way, and retires them in order.
module brae_core
  import brae_pkg::*;
#(
    parameter int unsigned HART = 0,
    parameter int unsigned ICACHE_SETS = 8,
    parameter int unsigned DCACHE_SETS = 4
) (
    input  logic     clk,
    input  logic     rst_n,
    brae_bus_if.master ibus,
    brae_bus_if.master dbus,
    output retired_t retired,
    output logic     halted,
    output word_t    count
);
  // ---- fetch ----
  logic     ic_req, ic_ready, redirect, learn, take, available;
  word_t    ic_addr, ic_data, redirect_pc;
  fetched_t next;
  logic     learn_taken;
  word_t    learn_pc, learn_target;

  brae_front front (.*);

  brae_cache #(.SETS(ICACHE_SETS), .WAYS(2), .WRITES(0), .NAME("icache")) icache (
      .clk, .rst_n, .req(ic_req), .we(1'b0), .addr(ic_addr), .wdata('0), .be('1), .ready(ic_ready), .rdata(ic_data),
      .hits(), .misses(), .bus(ibus)
  );

  // ---- state ----
  entry_t rob [ROB_SIZE];
  tag_t   head, tail;
  logic [TAG_W:0] used;
  word_t  regs[32];
  struct packed {logic busy; tag_t tag;} map[32];
  logic [TAG_W:0] stores;
  word_t  csr_status, csr_cause, csr_epc, csr_tvec, csr_scratch, csr_bad, csr_cycles;

  typedef enum int {BUS_ALU, BUS_MUL, BUS_LSU, BUSES} bus_e;
  result_t [BUSES-1:0] cdb;

  // ---- dispatch ----
  decoded_t dec;
  station_t fresh;
  logic alu_full, mul_full, lsu_full, flush;

  function automatic operand_t lookup(input reg_t r, input logic uses);
    operand_t found = '{ready: 1'b1, default: '0};
    if (!uses || r == 0) return found;
    if (!map[r].busy) found.value = regs[r];
    else if (rob[map[r].tag].done) found.value = rob[map[r].tag].value;
    else begin
      found.ready = 1'b0;
      found.tag = map[r].tag;
    end
    return found;
  endfunction : lookup

  assign dec = decode(next.instr);

  always_comb begin
    fresh = '{valid: 1'b1, tag: tail, dec: dec, pc: next.pc, target: next.target, default: '0};
    fresh.a = lookup(dec.rs1, dec.uses1);
    fresh.b = dec.use_imm ? '{ready: 1'b1, tag: '0, value: dec.imm} : lookup(dec.rs2, dec.uses2);
    if (dec.op == OP_ECALL) fresh.dec.imm = word_t'(next.instr.i.imm);
  end

  wire to_alu = dec.kind inside {K_ALU, K_SYS};
  wire to_mul = dec.kind == K_MUL;
  wire to_lsu = dec.kind == K_LSU;
  wire room   = used < ROB_SIZE && !(to_alu && alu_full) && !(to_mul && mul_full) && !(to_lsu && lsu_full);
  assign take = available && room && !flush && !halted;

  // ---- units ----
  station_t alu_next, mul_next, lsu_next;
  logic alu_found, mul_found, lsu_found, mul_free, lsu_take;
  logic l_req, l_we, dc_ready;
  word_t l_addr, l_wdata, dc_rdata;

  brae_stations #(.SIZE(RS_ALU), .BUSES(BUSES)) alu_rs (
      .clk, .rst_n, .flush, .insert(take && to_alu), .incoming(fresh), .full(alu_full), .results(cdb), .found(alu_found),
      .oldest(alu_next), .take(alu_found)
  );
  brae_alu_unit alu_unit (.clk, .rst_n, .flush, .start(alu_found), .s(alu_next), .result(cdb[BUS_ALU]));

  brae_stations #(.SIZE(RS_MUL), .BUSES(BUSES)) mul_rs (
      .clk, .rst_n, .flush, .insert(take && to_mul), .incoming(fresh), .full(mul_full), .results(cdb), .found(mul_found),
      .oldest(mul_next), .take(mul_found && mul_free)
  );
  brae_muldiv_unit #(.STAGES(3)) mul_unit (
      .clk, .rst_n, .flush, .start(mul_found), .s(mul_next), .free(mul_free), .result(cdb[BUS_MUL])
  );

  brae_stations #(.SIZE(LSQ_SIZE), .BUSES(BUSES), .IN_ORDER(1)) lsu_rs (
      .clk, .rst_n, .flush, .insert(take && to_lsu), .incoming(fresh), .full(lsu_full), .results(cdb), .found(lsu_found),
      .oldest(lsu_next), .take(lsu_take)
  );
  brae_lsu lsu (
      .clk, .rst_n, .flush, .found(lsu_found), .s(lsu_next), .take(lsu_take), .head, .head_valid(used != 0),
      .no_stores(stores == 0), .dc_req(l_req), .dc_we(l_we), .dc_addr(l_addr), .dc_wdata(l_wdata),
      .dc_ready(dc_ready && !store_now), .dc_rdata, .result(cdb[BUS_LSU])
  );

  // ---- the end of the oldest ----
  entry_t oldest;
  logic   ready, store_now, complete, trap;
  assign oldest    = rob[head];
  assign ready     = used != 0 && oldest.done && !halted;
  assign trap      = ready && oldest.res.cause != C_NONE;
  assign store_now = ready && !trap && oldest.how == S_STORE;
  assign complete  = ready && !trap && (!store_now || dc_ready);
  assign flush     = trap || (complete && (oldest.res.redirect || oldest.how inside {S_CSR, S_ERET, S_HALT}));

  brae_cache #(.SETS(DCACHE_SETS), .WAYS(4), .NAME("dcache")) dcache (
      .clk, .rst_n,
      .req(store_now || l_req),
      .we(store_now || l_we),
      .addr(store_now ? oldest.res.address : l_addr),
      .wdata(store_now ? oldest.value << {oldest.res.address[1:0], 3'b0} : l_wdata),
      .be(store_now ? lanes(oldest.size, oldest.res.address[1:0]) : 4'b1111),
      .ready(dc_ready), .rdata(dc_rdata), .hits(), .misses(), .bus(dbus)
  );

  word_t old_csr, new_csr;
  always_comb begin
    unique case (oldest.instr.i.imm[3:0])
      0: old_csr = csr_status;
      1: old_csr = csr_cause;
      2: old_csr = csr_epc;
      3: old_csr = csr_tvec;
      4: old_csr = csr_scratch;
      5: old_csr = csr_cycles;
      6: old_csr = count;
      8: old_csr = csr_bad;
      default: old_csr = '0;
    endcase
    case (oldest.instr.i.op)
      OP_CSRRS: new_csr = old_csr | oldest.value;
      OP_CSRRC: new_csr = old_csr & ~oldest.value;
      default:  new_csr = oldest.value;
    endcase
  end
  wire csr_write = complete && oldest.how == S_CSR && (oldest.instr.i.op == OP_CSRRW || oldest.instr.i.a != 0);

  assign redirect = flush;
  always_comb begin : where_to
    if (trap) redirect_pc = csr_tvec;
    else if (oldest.how == S_ERET) redirect_pc = csr_epc;
    else if (oldest.how == S_CSR) redirect_pc = oldest.pc + 4;
    else redirect_pc = oldest.res.target;
  end : where_to

  wire op_e done_op = oldest.instr.i.op;
  wire is_branch = done_op inside {[OP_BEQ:OP_BGEU]};
  assign learn        = complete && (is_branch || done_op inside {OP_JAL, OP_JALR});
  assign learn_pc     = oldest.pc;
  assign learn_taken  = !is_branch || oldest.res.target != oldest.pc + 4;
  assign learn_target = oldest.res.target;

  word_t written;
  assign written = oldest.how == S_CSR ? old_csr : oldest.value;

  assign retired = '{
      valid: complete,
      pc: oldest.pc,
      writes: oldest.writes,
      rd: oldest.rd,
      value: written,
      stores: oldest.how inside {S_STORE, S_ATOMIC},
      address: oldest.res.address,
      data: oldest.how == S_ATOMIC ? l_atomic : oldest.value,
      size: oldest.size
  };

  // what an atomic one wrote is not in the buffer
  word_t l_atomic;
  always_ff @(posedge clk) if (l_req && l_we) l_atomic <= l_wdata;

  always_ff @(posedge clk or negedge rst_n) begin : update
    if (!rst_n) begin
      head <= '0;
      tail <= '0;
      used <= '0;
      stores <= '0;
      halted <= 1'b0;
      count <= '0;
      map <= '{default: '0};
      regs <= '{default: '0};
      {csr_status, csr_cause, csr_epc, csr_tvec, csr_scratch, csr_bad, csr_cycles} <= '0;
      for (int i = 0; i < ROB_SIZE; i++) rob[i].done <= 1'b0;
    end else begin
      csr_cycles <= csr_cycles + 1;

      foreach (cdb[k])
        if (cdb[k].valid) begin
          rob[cdb[k].tag].done  <= 1'b1;
          rob[cdb[k].tag].value <= cdb[k].value;
          rob[cdb[k].tag].res   <= cdb[k];
        end

      if (complete) begin
        if (oldest.writes) begin
          regs[oldest.rd] <= written;
          if (map[oldest.rd].tag == head) map[oldest.rd].busy <= 1'b0;
        end
        count <= count + 1;
        head <= head + 1'b1;
        if (csr_write)
          case (oldest.instr.i.imm[3:0])
            0: csr_status <= new_csr & 3;
            1: csr_cause <= new_csr;
            2: csr_epc <= {new_csr[31:2], 2'b00};
            3: csr_tvec <= {new_csr[31:2], 2'b00};
            4: csr_scratch <= new_csr;
            8: csr_bad <= new_csr;
            default: ;
          endcase
        if (oldest.how == S_ERET) csr_status <= {csr_status[1], 1'b1} == 2'b11 ? 32'd3 : 32'd2;
        if (oldest.how == S_HALT) halted <= 1'b1;
      end

      if (take) begin
        rob[tail] <= '{
            done: dec.kind == K_BAD,
            pc: next.pc,
            instr: next.instr,
            how: how_of(dec),
            writes: dec.writes,
            rd: dec.rd,
            value: '0,
            size: dec.size,
            res: '{cause: dec.kind == K_BAD ? C_ILLEGAL : C_NONE, bad: next.instr.raw, default: '0}
        };
        if (dec.writes) map[dec.rd] <= '{1'b1, tail};
        tail <= tail + 1'b1;
      end
      used <= used + take - complete;
      stores <= stores + (take && dec.mem == M_STORE && to_lsu) - (complete && oldest.how == S_STORE);

      if (flush) begin
        head <= '0;
        tail <= '0;
        used <= '0;
        stores <= '0;
        for (int i = 0; i < 32; i++) map[i].busy <= 1'b0;
      end
      if (trap) begin
        csr_status <= {30'b0, csr_status[0], 1'b0};
        csr_cause <= word_t'(oldest.res.cause);
        csr_epc <= oldest.pc;
        csr_bad <= oldest.res.bad;
      end
    end
  end : update

  function automatic commit_e how_of(input decoded_t d);
    priority case (1'b1)
      d.kind == K_LSU && d.mem == M_STORE: return S_STORE;
      d.kind == K_LSU && d.mem inside {M_SWAP, M_ADD}: return S_ATOMIC;
      d.kind == K_SYS && d.op == OP_ERET: return S_ERET;
      d.kind == K_SYS && d.op == OP_HALT: return S_HALT;
      d.kind == K_SYS && d.op != OP_ECALL: return S_CSR;
      default: return S_PLAIN;
    endcase
  endfunction : how_of
endmodule : brae_core
