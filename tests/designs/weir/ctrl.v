`timescale 1ns/10ps
module store_ctrl #(parameter ROW = 4, COL = 6) (
  input wire clk, rst,
  input wire req, we, input wire [ROW+COL:0] addr, input wire [15:0] wdata, output reg [15:0] rdata, output reg ack,
  inout wire [15:0] dq, output reg [9:0] a, output reg [1:0] ba, output reg cs_n, ras_n, cas_n, we_n, output wire [1:0] dqm);
  localparam [3:0] INIT = 0, MODE = 1, IDLE = 2, ACT = 3, TRCD = 4, RW = 5, LAT = 6, DATA = 7, PRE = 8, DONE = 9;
  reg [3:0] state, cnt;
  reg oe; reg [15:0] dout;
  assign dq = oe ? dout : 16'hzzzz;
  assign dqm = 2'b00;
  task command(input [2:0] c); {cs_n, ras_n, cas_n, we_n} <= {1'b0, c}; endtask
  always @(posedge clk or posedge rst)
    if (rst) begin
      state <= INIT; cnt <= 4; oe <= 0; ack <= 0; {cs_n, ras_n, cas_n, we_n} <= 4'b1111; a <= 0; ba <= 0; dout <= 0; rdata <= 0;
    end else begin
      {cs_n, ras_n, cas_n, we_n} <= 4'b1111; ack <= 1'b0; oe <= 1'b0;
      if (cnt != 0) cnt <= cnt - 1'b1;
      case (state)
        INIT: if (cnt == 0) begin command(3'b010); a <= 10'h200; state <= MODE; cnt <= 2; end
        MODE: if (cnt == 0) begin command(3'b000); a <= 10'b0_000_010_0_000 >> 0; a[6:4] <= 3'b010; state <= IDLE; cnt <= 2; end
        IDLE: if (cnt == 0 && req) begin command(3'b011); a <= addr[ROW+COL-1:COL]; ba <= {1'b0, addr[ROW+COL]}; state <= TRCD; cnt <= 2; end
        TRCD: if (cnt == 0) begin
            command(we ? 3'b100 : 3'b101); a <= addr[COL-1:0];
            if (we) begin oe <= 1; dout <= wdata; state <= PRE; cnt <= 3; end else begin state <= LAT; cnt <= 2; end
          end
        LAT: if (cnt == 0) begin rdata <= dq; state <= PRE; cnt <= 1; end
        PRE: if (cnt == 0) begin command(3'b010); a <= 10'h200; state <= DONE; cnt <= 2; end
        DONE: if (cnt == 0) begin ack <= 1; state <= IDLE; cnt <= 1; end
        default: state <= INIT;
      endcase
    end
endmodule
