// Fetches along the predicted path: a table of targets, and two-bit counters of what branches did.
module brae_front
  import brae_pkg::*;
#(
    parameter int unsigned BTB = 16,
    localparam int unsigned IW = $clog2(BTB)
) (
    input  logic     clk,
    input  logic     rst_n,
    // the instruction cache
    output logic     ic_req,
    output word_t    ic_addr,
    input  logic     ic_ready,
    input  word_t    ic_data,
    // a new path, and what was learnt
    input  logic     redirect,
    input  word_t    redirect_pc,
    input  logic     learn,
    input  word_t    learn_pc,
    input  logic     learn_taken,
    input  word_t    learn_target,
    // to dispatch
    input  logic     take,
    output logic     available,
    output fetched_t next
);
  typedef enum logic [1:0] {NEVER, SELDOM, OFTEN, ALWAYS} belief_e;
  typedef struct {
    logic         valid;
    logic [29-IW:0] tag;
    word_t        target;
    belief_e      belief;
  } target_t;

  target_t  table_q[BTB];
  word_t    pc;
  fetched_t made;
  logic     full, empty;

  function automatic logic [IW-1:0] slot(input word_t x);
    return x[2+:IW];
  endfunction
  function automatic belief_e stronger(input belief_e b, input logic up);
    if (up) return b == ALWAYS ? b : b.next();
    return b == NEVER ? b : b.prev();
  endfunction

  always_comb begin
    automatic target_t t = table_q[slot(pc)];
    made.pc        = pc;
    made.instr     = instr_t'(ic_data);
    made.predicted = t.valid && t.tag == pc[31:IW+2] && t.belief >= OFTEN;
    made.target    = made.predicted ? t.target : pc + 4;
  end

  assign ic_req  = !full && rst_n;
  assign ic_addr = pc;

  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) pc <= '0;
    else if (redirect) pc <= redirect_pc;
    else if (ic_req && ic_ready) pc <= made.target;

  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n)
      foreach (table_q[i]) table_q[i] <= '{valid: 1'b0, belief: SELDOM, default: '0};
    else if (learn) begin
      if (table_q[slot(learn_pc)].valid && table_q[slot(learn_pc)].tag == learn_pc[31:IW+2]) begin
        table_q[slot(learn_pc)].belief <= stronger(table_q[slot(learn_pc)].belief, learn_taken);
        if (learn_taken) table_q[slot(learn_pc)].target <= learn_target;
      end else if (learn_taken)
        table_q[slot(learn_pc)] <= '{1'b1, learn_pc[31:IW+2], learn_target, OFTEN};
    end

  brae_fifo #(.T(fetched_t), .DEPTH(4)) queue (
      .clk, .rst_n,
      .flush(redirect),
      .push(ic_req && ic_ready),
      .din(made),
      .pop(take),
      .dout(next),
      .empty,
      .full,
      .level()
  );
  assign available = !empty;
endmodule : brae_front
