// Takes the paddle drive through four duties, one of them nought, and a stop in the middle of a period.
`timescale 1ns/1ns
module paddle_pwm_tb;
  reg        clk = 0;
  reg        rst_n = 0;
  reg        enable = 0;
  reg  [3:0] duty = 4'd0;
  wire       paddle, start;

  paddle_pwm #(.WIDTH(4)) dut (
    .clk(clk), .rst_n(rst_n), .enable(enable), .duty(duty), .paddle(paddle), .start(start)
  );

  always #50 clk = ~clk;             // 10 MHz

  task run_at(input [3:0] wanted, input integer periods);
    begin
      duty = wanted;
      repeat (16 * periods) @(negedge clk);
      $display("%0t: duty %0d done", $time, wanted);
    end
  endtask

  initial begin
    repeat (3) @(negedge clk);
    rst_n = 1;
    repeat (2) @(negedge clk);
    enable = 1;
    run_at(4'd4, 3);
    run_at(4'd10, 3);
    run_at(4'd0, 1);
    run_at(4'd13, 2);
    repeat (5) @(negedge clk);
    enable = 0;
    repeat (6) @(negedge clk);
    enable = 1;
    run_at(4'd7, 3);
    $finish;
  end
endmodule
