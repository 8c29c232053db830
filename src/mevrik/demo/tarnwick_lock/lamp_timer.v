// Keeps the warning lamp lit for a number of clocks after a gate was freed, and blinks it near the end.
module lamp_timer (
  input  wire       clk,
  input  wire       reset,
  input  wire       freed,
  input  wire [3:0] clocks,
  output wire       lamp,
  output reg  [3:0] left
);
  localparam BLINK = 4;

  assign lamp = left > BLINK ? 1'b1 : left[0];

  always @(posedge clk)
    if (reset)
      left <= 0;
    else if (freed)
      left <= clocks;
    else if (left != 0)
      left <= left - 1'b1;
endmodule
