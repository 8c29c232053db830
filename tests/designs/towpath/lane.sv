`timescale 1ns/1ps
`default_nettype none
interface lane_if #(parameter int AW = 6, DW = 32) (input wire clock, input wire reset_n);
  logic [AW-1:0] put_at, ask_at; logic [2:0] put_kind, ask_kind; logic put_given, put_taken, ask_given, ask_taken;
  logic [DW-1:0] put_word, got_word; logic [DW/8-1:0] put_lanes; logic word_given, word_taken;
  logic [1:0] kept_how, got_how; logic kept, kept_seen, got, got_seen;
  modport master (input clock, reset_n, put_taken, word_taken, kept_how, kept, ask_taken, got_word, got_how, got,
                  output put_at, put_kind, put_given, put_word, put_lanes, word_given, kept_seen, ask_at, ask_kind, ask_given, got_seen);
  modport slave (input clock, reset_n, put_at, put_kind, put_given, put_word, put_lanes, word_given, kept_seen, ask_at, ask_kind, ask_given, got_seen,
                 output put_taken, word_taken, kept_how, kept, ask_taken, got_word, got_how, got);
  modport monitor (input clock, reset_n, put_at, put_given, put_taken, put_word, put_lanes, word_given, word_taken, kept_how, kept, kept_seen, ask_at, ask_given, ask_taken, got_word, got_how, got, got_seen);
  // protocol checks
  property stable(valid, ready, payload);
    @(posedge clock) disable iff (!reset_n) valid && !ready |=> valid && $stable(payload);
  endproperty
  a_put: assert property (stable(put_given, put_taken, put_at)) else $error("aw changed");
  a_w:  assert property (stable(word_given, word_taken, {put_word, put_lanes})) else $error("w changed");
  a_r:  assert property (stable(got, got_seen, {got_word, got_how})) else $error("r changed");
  a_known: assert property (@(posedge clock) reset_n |-> !$isunknown({put_given, word_given, ask_given, kept_seen, got_seen})) else $error("unknown handshake at %0t", $time);
  int unsigned writes = 0, reads = 0;
  c_w: cover property (@(posedge clock) kept && kept_seen) writes++;
  sequence s_read; ask_given && ask_taken ##[1:4] got; endsequence
  a_lat: assert property (@(posedge clock) disable iff (!reset_n) ask_given && ask_taken |-> ##[1:4] got) else $error("read too late");
endinterface

module lane_registers #(parameter int NREG = 8, localparam int AW = $clog2(NREG) + 2) (lane_if.slave s, output logic [31:0] ctrl, input wire [31:0] status);
  typedef enum logic [1:0] {FINE = 2'b00, REFUSED = 2'b10} resp_e;
  logic [31:0] regs [NREG];
  logic [AW-1:0] put_at_q; logic put_seen, word_seen; logic [31:0] put_word_q; logic [3:0] put_lanes_q;
  assign s.put_taken = !put_seen && !s.kept;
  assign s.word_taken  = !word_seen && !s.kept;
  function automatic logic [31:0] merge(input logic [31:0] old, input logic [31:0] val, input logic [3:0] strb);
    for (int i = 0; i < 4; i++) merge[8*i +: 8] = strb[i] ? val[8*i +: 8] : old[8*i +: 8];
  endfunction
  wire [$clog2(NREG)-1:0] windex = put_at_q[AW-1:2];
  always_ff @(posedge s.clock or negedge s.reset_n)
    if (!s.reset_n) begin
      put_seen <= 1'b0; word_seen <= 1'b0; s.kept <= 1'b0; s.kept_how <= FINE; put_at_q <= '0; put_word_q <= '0; put_lanes_q <= '0;
      regs <= '{default: '0};
    end else begin
      if (s.put_given && s.put_taken) begin put_seen <= 1'b1; put_at_q <= s.put_at[AW-1:0]; end
      if (s.word_given && s.word_taken) begin word_seen <= 1'b1; put_word_q <= s.put_word; put_lanes_q <= s.put_lanes; end
      if (put_seen && word_seen && !s.kept) begin
        s.kept <= 1'b1; put_seen <= 1'b0; word_seen <= 1'b0;
        if (windex == NREG - 1) s.kept_how <= REFUSED;   // read only
        else begin s.kept_how <= FINE; regs[windex] <= merge(regs[windex], put_word_q, put_lanes_q); end
      end
      if (s.kept && s.kept_seen) s.kept <= 1'b0;
    end
  always_ff @(posedge s.clock or negedge s.reset_n)
    if (!s.reset_n) begin s.got <= 0; s.got_word <= '0; s.got_how <= FINE; end
    else if (s.ask_given && s.ask_taken) begin
      s.got <= 1'b1; s.got_how <= FINE;
      s.got_word <= s.ask_at[AW-1:2] == NREG - 1 ? status : regs[s.ask_at[AW-1:2]];
    end else if (s.got_seen) s.got <= 1'b0;
  assign s.ask_taken = !s.got || s.got_seen;
  assign ctrl = regs[0];
endmodule
`default_nettype wire
