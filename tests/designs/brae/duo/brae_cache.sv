// A set-associative cache, written back; the way to give up is the one of a tree of bits. Read-only where WRITES is 0.
module brae_cache #(
    parameter int unsigned SETS = 8,
    parameter int unsigned WAYS = 2,
    parameter int unsigned LINE_WORDS = 4,
    parameter bit WRITES = 1'b1,
    parameter string NAME = "cache"
) (
    input  logic             clk,
    input  logic             rst_n,
    // from the core
    input  logic             req,
    input  logic             we,
    input  brae_pkg::word_t  addr,
    input  brae_pkg::word_t  wdata,
    input  logic [3:0]       be,
    output logic             ready,      // what is asked is done in this clock
    output brae_pkg::word_t  rdata,
    output int unsigned      hits,
    output int unsigned      misses,
    brae_bus_if.master       bus
);
  import brae_pkg::*;

  localparam int unsigned OFF_W = $clog2(LINE_WORDS);
  localparam int unsigned SET_W = $clog2(SETS);
  localparam int unsigned TAGW  = XLEN - SET_W - OFF_W - 2;
  localparam int unsigned WAY_W = WAYS > 1 ? $clog2(WAYS) : 1;

  typedef logic [LINE_WORDS-1:0][3:0][7:0] line_t;
  typedef struct packed {
    logic            valid;
    logic            dirty;
    logic [TAGW-1:0] tag;
  } state_t;
  typedef struct packed {
    logic [TAGW-1:0]  tag;
    logic [SET_W-1:0] set;
    logic [OFF_W-1:0] offset;
    logic [1:0]       low;
  } address_t;

  line_t             data [SETS][WAYS];
  state_t [WAYS-1:0] state[SETS];
  logic [WAYS-1:0]   used [SETS];        // bit of the tree, or of the last use

  enum logic [2:0] {IDLE, EVICT, FILL, WAIT_FILL, DEVICE, WAIT_DEVICE} st, st_next;

  address_t split;
  assign split = address_t'(addr);

  logic [WAYS-1:0]  match;
  logic             hit;
  logic [WAY_W-1:0] way, victim;
  logic             device;
  assign device = addr[XLEN-1];

  for (genvar w = 0; w < WAYS; w++) begin : g_way
    assign match[w] = state[split.set][w].valid && state[split.set][w].tag == split.tag;
  end
  assign hit = |match && !device;

  always_comb begin
    way = '0;
    foreach (match[w]) if (match[w]) way = WAY_W'(w);
  end

  always_comb begin : choose
    victim = '0;
    for (int w = WAYS - 1; w >= 0; w--) if (!used[split.set][w]) victim = WAY_W'(w);
    for (int w = WAYS - 1; w >= 0; w--) if (!state[split.set][w].valid) victim = WAY_W'(w);
  end : choose

  assign rdata = st == WAIT_DEVICE ? bus.rdata[0] : data[split.set][way][split.offset];
  assign ready = (st == IDLE && req && hit) || (st == WAIT_DEVICE && bus.rvalid && split == held);

  always_comb begin
    st_next = st;
    case (st)
      IDLE:
        if (req) begin
          if (device) st_next = DEVICE;
          else if (!hit) st_next = WRITES && state[split.set][victim].valid && state[split.set][victim].dirty ? EVICT : FILL;
        end
      EVICT:       if (bus.gnt) st_next = FILL;
      FILL:        if (bus.gnt) st_next = WAIT_FILL;
      WAIT_FILL:   if (bus.rvalid) st_next = IDLE;
      DEVICE:      if (bus.gnt) st_next = WAIT_DEVICE;
      WAIT_DEVICE: if (bus.rvalid) st_next = IDLE;
      default:     st_next = IDLE;
    endcase
  end

  // the request that is under way, for the core may change its mind about a fetch
  address_t         held;
  logic             held_we;
  word_t            held_data;
  logic [3:0]       held_be;
  logic [WAY_W-1:0] held_way;

  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      st <= IDLE;
      state <= '{default: '0};
      used <= '{default: '0};
      {hits, misses} <= '0;
    end else begin
      st <= st_next;
      if (st == IDLE && req) begin
        held <= split;
        held_we <= we;
        held_data <= wdata;
        held_be <= be;
        held_way <= victim;
        if (hit) begin
          automatic logic [WAYS-1:0] now = used[split.set] | WAYS'(1) << way;
          used[split.set] <= &now ? WAYS'(1) << way : now;
          hits <= hits + 1;
          if (we && WRITES) begin
            state[split.set][way].dirty <= 1'b1;
            for (int b = 0; b < 4; b++)
              if (be[b]) data[split.set][way][split.offset][b] <= wdata[8*b+:8];
          end
        end else if (!device) misses <= misses + 1;
      end
      if (st == WAIT_FILL && bus.rvalid) begin
        data[held.set][held_way] <= bus.rdata;
        state[held.set][held_way] <= '{valid: 1'b1, dirty: 1'b0, tag: held.tag};
      end
    end

  always_comb begin
    bus.req    = st inside {EVICT, FILL, DEVICE};
    bus.we     = st == EVICT || (st == DEVICE && held_we);
    bus.single = st == DEVICE;
    bus.be     = held_be;
    bus.addr   = {held.tag, held.set, {OFF_W{1'b0}}, 2'b00};
    bus.wdata  = data[held.set][held_way];
    if (st == EVICT) bus.addr = {state[held.set][held_way].tag, held.set, (OFF_W + 2)'(0)};
    else if (st == DEVICE) begin
      bus.addr = held;
      bus.wdata = '{0: held_data, default: '0};
    end
  end

`ifndef SYNTHESIS
  one_way: assert property (@(posedge clk) disable iff (!rst_n) $onehot0(match))
    else $error("%s: a line is there twice", NAME);
  generate
    if (!WRITES) begin : g_read_only
      never_written: assert property (@(posedge clk) disable iff (!rst_n) !(req && we));
    end
  endgenerate
`endif
endmodule : brae_cache
