`timescale 1ns/10ps
module tb;
  reg clk = 0, rst = 1, req = 0, we = 0; reg [10:0] addr = 0; reg [15:0] wdata = 0; wire [15:0] rdata; wire ack;
  wire [15:0] dq; wire [9:0] a; wire [1:0] ba, dqm; wire cs_n, ras_n, cas_n, we_n;
  always #5 clk = ~clk;
  store_ctrl dut(clk, rst, req, we, addr, wdata, rdata, ack, dq, a, ba, cs_n, ras_n, cas_n, we_n, dqm);
  // board delays
  wire [9:0] #1.5 a_d = a; wire [1:0] #1.5 ba_d = ba; wire #1.5 cs_d = cs_n, ras_d = ras_n, cas_d = cas_n, we_d = we_n;
  genvar g;
  generate for (g = 0; g < 2; g = g + 1) begin : chip
    wet_store #(.data_bits(8)) u (.Dq(dq[8*g +: 8]), .Addr(a_d), .Ba(ba_d), .Clk(clk), .Cke(1'b1), .Cs_n(cs_d), .Ras_n(ras_d), .Cas_n(cas_d), .We_n(we_d), .Dqm(dqm[g]));
  end endgenerate
  reg [15:0] shadow [0:2047]; integer k, bad; reg [10:0] where;
  task access(input w, input [10:0] at, input [15:0] d);
    begin
      @(posedge clk) #1 req = 1; we = w; addr = at; wdata = d;
      @(posedge ack) #1 req = 0;
      if (w) shadow[at] = d;
      else if (rdata !== shadow[at]) begin bad = bad + 1; $display("%t: at %h read %h, wanted %h", $realtime, at, rdata, shadow[at]); end
    end
  endtask
  initial begin
    bad = 0;
    #22 rst = 0;
    for (k = 0; k < 40; k = k + 1) begin where = k * 53 + (k << 7); access(1, where, {where[7:0], ~where[7:0]} ^ k); end
    for (k = 39; k >= 0; k = k - 1) begin where = k * 53 + (k << 7); access(0, where, 16'bx); end
    $display("%0d bad, chips %0d %0d, %0t", bad, chip[0].u.errors, chip[1].u.errors, $time);
    $finish;
  end
  initial #200000 begin $display("too long"); $finish; end
endmodule
