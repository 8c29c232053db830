`timescale 1ns/1ns
`include "brae_defs.vh"

module brae_tb;
  parameter PERIOD = 10;
  reg clk, rst_n;
  wire txd, halted;
  integer trace, errors, characters, clocks;
  reg [8*16:1] console;
  reg [8*8:1] program;

  brae_system dut (.clk(clk), .rst_in_n(rst_n), .txd(txd), .halted(halted));

  initial begin
    clk = 0;
    forever #(PERIOD / 2) clk = ~clk;
  end
  always @(posedge clk) clocks = clocks + 1;

  // what an instruction leaves behind, when it leaves the last stage
  always @(dut.core.retires) begin
    if (dut.core.wb_stores) write_store(dut.core.wb_pc[15:0], dut.core.wb_addr, dut.core.wb_data, dut.core.wb_size);
    if (dut.core.wb_we) $fdisplay(trace, "%h r%0d %h", dut.core.wb_pc[15:0], dut.core.wb_rd, dut.core.wb_value);
  end

  task write_store;
    input [15:0] pc;
    input `WORD address, data;
    input [1:0] size;
    begin
      $fwrite(trace, "%h [%h] ", pc, address);
      case (size)
        0: $fdisplay(trace, "%h", data[7:0]);
        1: $fdisplay(trace, "%h", data[15:0]);
        2: $fdisplay(trace, "%h", data);
      endcase
    end
  endtask

  // the other end of the serial line
  task receive;
    output [7:0] character;
    integer k;
    begin
      @(negedge txd);
      #(PERIOD * 3 / 2);
      `CHECK(txd == 1'b0, "no start bit")
      for (k = 0; k < 8; k = k + 1) begin
        #(PERIOD * 3);
        character[k] = txd;
      end
      #(PERIOD * 3);
      `CHECK(txd == 1'b1, "no stop bit")
    end
  endtask

  reg [7:0] got;
  initial begin : listening
    characters = 0;
    console = "";
    forever begin
      receive(got);
      console = {console, got};
      characters = characters + 1;
    end
  end

  initial begin : main
    integer k;
    errors = 0;
    clocks = 0;
    for (k = 0; k < 4096; k = k + 1) dut.ram.mem[k] = 0;
    $readmemh("program.hex", dut.ram.mem);
    trace = $fopen("trace.txt");
    rst_n = 1;
    #3 rst_n = 0;
    #(PERIOD * 4) rst_n = 1;
    fork : waiting
      begin
        wait (halted);
        repeat (100) @(posedge clk);
        disable waiting;
      end
      begin
        repeat (100000) @(posedge clk);
        $display("the program doesn't end");
        errors = errors + 1;
        disable waiting;
      end
    join
    disable listening;
    $fclose(trace);
    `CHECK(dut.core.csr.retired > 0, "nothing happened")
    $display("console: %0s, %0d retired, %0d errors", console, dut.core.csr.retired, errors);
    $finish;
  end
endmodule
