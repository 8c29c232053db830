`timescale 1ns/10ps
`include "brae_defs.vh"

// One bus with a shared data line that whoever is selected drives; the arbiter lets the data port go first.
module brae_ram (clk, sel, we, be, addr, data, ack);
  parameter WORDS = 4096, WAITS = 1;
  input         clk, sel, we;
  input  [3:0]  be;
  input  `WORD  addr;
  inout  `WORD  data;
  output        ack;
  reg    [31:0] mem [0:WORDS-1];
  reg    `WORD  q;
  reg    [3:0]  count;
  integer       k;

  initial count = 0;
  assign ack = sel & count == WAITS + 1;
  assign data = sel & ~we & ack ? q : 32'bz;
  wire [29:0] word = addr[31:2];

  always @(posedge clk) begin
    count <= sel & ~ack ? count + 1 : 0;
    if (sel && count == WAITS) begin
      q <= word < WORDS ? mem[word] : 0;
      if (we && word < WORDS)
        for (k = 0; k < 4; k = k + 1)
          if (be[k]) mem[word][8*k +: 8] <= data[8*k +: 8];
    end
  end
endmodule

// Sends what is written to it: a start bit, eight bits, the lowest first, a stop bit.
module brae_uart (clk, rst_n, sel, we, data, ack, txd);
  parameter DIVIDER = 4;
  parameter LG_DEPTH = 2;
  input        clk, rst_n, sel, we;
  inout `WORD  data;
  output       ack, txd;

  localparam DEPTH = 1 << LG_DEPTH;
  reg [7:0]        fifo [0:DEPTH-1];
  reg [LG_DEPTH:0] wr, rd;
  reg [9:0]        shift;
  reg [3:0]        bits;
  reg [7:0]        divide;
  wire             full  = wr[LG_DEPTH] != rd[LG_DEPTH] && wr[LG_DEPTH-1:0] == rd[LG_DEPTH-1:0];
  wire             empty = wr == rd;

  assign ack = sel & ~(we & full);
  assign data = sel & ~we ? {30'b0, full, empty} : {32{1'bz}};
  assign txd = shift[0];

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      wr <= 0;
      rd <= 0;
      bits <= 0;
      shift <= ~0;
      divide <= 0;
    end
    else begin
      if (sel && we && ack) begin
        fifo[wr[LG_DEPTH-1:0]] <= data[7:0];
        wr <= wr + 1'b1;
      end
      if (bits == 0) begin
        if (!empty) begin
          shift <= {1'b1, fifo[rd[LG_DEPTH-1:0]], 1'b0};
          rd <= rd + 1'b1;
          bits <= 10;
          divide <= DIVIDER - 1;
        end
      end
      else if (divide == 0) begin
        shift <= {1'b1, shift[9:1]};
        bits <= bits - 1;
        divide <= DIVIDER - 1;
      end
      else divide <= divide - 1;
    end
endmodule

module brae_system (clk, rst_in_n, txd, halted);
  parameter WAITS = 1;
  input  clk, rst_in_n;
  output txd, halted;

  wire rst_n;
  brae_sync #(.STAGES(3)) reset (.d(1'b1), .clk(clk), .rn(rst_in_n), .q(rst_n));

  wire        i_req, d_req, d_we, i_ack, d_ack;
  wire `WORD  i_addr, d_addr, d_wdata, bus_data;
  wire [3:0]  d_be;
  tri  `WORD  data;

  brae_core #(32'h0) core (
    clk, rst_n, i_req, i_addr, i_ack, data, d_req, d_we, d_addr, d_be, d_wdata, d_ack, data, halted
  );

  // whoever has begun goes on to the end
  reg  owned, owner_d;
  wire choose_d = owned ? owner_d : d_req;
  wire active   = choose_d ? d_req : i_req;
  wire ram_ack, uart_ack;
  wire ack = ram_ack | uart_ack;
  always @(posedge clk or negedge rst_n)
    if (!rst_n) {owned, owner_d} <= 2'b00;
    else if (active) begin
      owned <= ~ack;
      owner_d <= choose_d;
    end

  wire `WORD addr = choose_d ? d_addr : i_addr;
  wire       we   = choose_d & d_we;
  wire [3:0] be   = d_be;
  wire       device = addr[31];

  bufif1 drive [31:0] (data, d_wdata, we);
  and  (i_ack, ack, ~choose_d), (d_ack, ack, choose_d);

  brae_ram #(.WAITS(WAITS)) ram (clk, active & ~device, we, be, addr, data, ram_ack);
  brae_uart uart (clk, rst_n, active & device, we, data, uart_ack, txd);
  defparam uart.DIVIDER = 3;
endmodule
