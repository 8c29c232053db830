// Drives the motor of a sluice paddle: `paddle` is high for `duty` of each 2**WIDTH clocks.
module paddle_pwm #(
  parameter WIDTH = 4
) (
  input  wire             clk,
  input  wire             rst_n,
  input  wire             enable,
  input  wire [WIDTH-1:0] duty,
  output reg              paddle,
  output reg              start      // one clock at the beginning of each period
);
  reg [WIDTH-1:0] count;
  reg [WIDTH-1:0] current;           // the duty of this period: a change takes effect with the next one

  always @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      count   <= 0;
      current <= 0;
      paddle  <= 1'b0;
      start   <= 1'b0;
    end else if (!enable) begin
      count   <= 0;
      paddle  <= 1'b0;
      start   <= 1'b0;
    end else begin
      count  <= count + 1'b1;
      start  <= count == 0;
      if (count == 0) begin
        current <= duty;
        paddle  <= duty != 0;
      end else
        paddle <= count < current;
    end
endmodule
