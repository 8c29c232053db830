// Memory, console and an arbiter that takes turns.
`default_nettype none

module brae_arbiter #(
    parameter int MASTERS = 2
) (
    input wire logic clk,
    input wire logic rst_n,
    brae_bus_if.slave  from[MASTERS],
    brae_bus_if.master to
);
  localparam int W = $clog2(MASTERS);

  logic [MASTERS-1:0] wants, grants, answers;
  logic [MASTERS-1:0] we, single;
  logic [31:0]        addr[MASTERS];
  logic [3:0]         be[MASTERS];
  logic [3:0][31:0]   wdata[MASTERS];
  logic [W-1:0]       turn, chosen, owner;
  logic               waiting;    // for the answer to a read

  for (genvar i = 0; i < MASTERS; i++) begin : g_from
    assign wants[i]       = from[i].req;
    assign we[i]          = from[i].we;
    assign single[i]      = from[i].single;
    assign addr[i]        = from[i].addr;
    assign be[i]          = from[i].be;
    assign wdata[i]       = from[i].wdata;
    assign from[i].gnt    = grants[i];
    assign from[i].rvalid = answers[i];
    assign from[i].rdata  = to.rdata;
  end : g_from

  always_comb begin
    chosen = turn;
    for (int k = MASTERS - 1; k >= 0; k--) begin
      automatic int m = (int'(turn) + k) % MASTERS;
      if (wants[m]) chosen = W'(m);
    end
    grants = '0;
    grants[chosen] = to.gnt && wants[chosen] && !waiting;
    answers = '0;
    answers[owner] = to.rvalid;
  end

  assign to.req    = wants[chosen] && !waiting;
  assign to.we     = we[chosen];
  assign to.single = single[chosen];
  assign to.addr   = addr[chosen];
  assign to.be     = be[chosen];
  assign to.wdata  = wdata[chosen];

  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      turn <= '0;
      owner <= '0;
      waiting <= 1'b0;
    end else if (waiting) begin
      if (to.rvalid) waiting <= 1'b0;
    end else if (to.req && to.gnt) begin
      owner <= chosen;
      turn <= W'((32'(chosen) + 1) % MASTERS);
      waiting <= !to.we || to.single;
    end
endmodule : brae_arbiter

module brae_memory #(
    parameter int unsigned BYTES = 16384,
    parameter int unsigned LATENCY = 2
) (
    input wire logic  clk,
    input wire logic  rst_n,
    brae_bus_if.slave bus,
    output logic       console_valid,
    output logic [7:0] console_char
);
  localparam int unsigned LINES = BYTES / 16;
  typedef logic [3:0][31:0] line_t;
  line_t ram[LINES];

  typedef enum {FREE, BUSY} state_e;
  state_e state;
  int unsigned left;
  logic [31:0] at;
  logic console;
  wire [31:0] line = bus.addr >> 4;

  assign bus.gnt = state == FREE;

  always_ff @(posedge clk or negedge rst_n) begin
    if (!rst_n) begin
      state <= FREE;
      bus.rvalid <= 1'b0;
      console_valid <= 1'b0;
    end else begin
      bus.rvalid <= 1'b0;
      console_valid <= 1'b0;
      case (state)
        FREE:
          if (bus.req) begin
            at <= line;
            if (bus.we && !bus.single && line < LINES) ram[line] <= bus.wdata;
            if (bus.we && bus.single) begin
              console_valid <= bus.addr == brae_pkg::CONSOLE;
              console_char <= bus.wdata[0][7:0];
            end
            if (!bus.we || bus.single) begin
              state <= BUSY;
              left <= LATENCY;
            end
          end
        BUSY:
          if (left != 0) left <= left - 1;
          else begin
            state <= FREE;
            bus.rvalid <= 1'b1;
            bus.rdata <= at < LINES ? ram[at] : '0;
          end
      endcase
    end
  end
endmodule : brae_memory

module brae_soc #(
    parameter int unsigned LATENCY = 2
) (
    input  wire logic          clk,
    input  wire logic          rst_n,
    output logic               halted,
    output logic               console_valid,
    output logic [7:0]         console_char,
    output brae_pkg::word_t    count
);
  brae_bus_if buses[2] (.clk, .rst_n);
  brae_bus_if memory_bus (.clk, .rst_n);
  brae_pkg::retired_t retired;

  brae_core core (.clk, .rst_n, .ibus(buses[0]), .dbus(buses[1]), .retired, .halted, .count);
  brae_arbiter #(.MASTERS(2)) arbiter (.clk, .rst_n, .from(buses), .to(memory_bus));
  brae_memory #(.LATENCY(LATENCY)) memory (.clk, .rst_n, .bus(memory_bus), .console_valid, .console_char);
endmodule : brae_soc
`default_nettype wire
