// Two 24-bit counters that enable each other; the outputs are recorded, nothing else happens.
`timescale 1ns/1ns
module counters;
  reg clk = 0, rst = 1;
  reg [23:0] fast = 0, slow = 0;
  wire carry = fast == 24'hFFFFFF;
  always #5 clk = ~clk;
  always @(posedge clk) if (rst) fast <= 0; else fast <= fast + 1'b1;
  always @(posedge clk) if (rst) slow <= 0; else if (carry) slow <= slow + 1'b1;
  initial begin
    #12 rst = 0;
    #(10.0 * `CLOCKS) $display("%0d %0d", fast, slow);
    $finish;
  end
endmodule
