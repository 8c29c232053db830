`timescale 1ns/1ps
`include "weir_defs.vh"

module weir_system (clk, rst_n, txd, rxd, paddle, raise, lower, panel, halted, trap, bite);
    parameter GATES = 4;
    parameter DIVISOR = 8;
    parameter FAST = 1;
    parameter PROGRAM = "";
    input clk, rst_n, rxd;
    input [GATES-1:0] paddle;
    output txd, halted, trap, bite;
    output [GATES-1:0] raise, lower;
    inout [7:0] panel;

    wire        valid, instr;
    wire [31:0] addr, wdata;
    wire [3:0]  wstrb;
    reg  [31:0] rdata;
    wire [63:0] cycles, retired;

    // addresses: the upper four bits choose the part
    wire [4:0] sel;
    wire [4:0] ready;
    wire [31:0] part_data [0:4];
    genvar p;
    generate
        for (p = 0; p < 5; p = p + 1) begin : choose
            localparam [3:0] MINE = p == 0 ? `MAP_RAM : `MAP_UART + p - 1;
            assign sel[p] = valid && addr[31:28] == MINE;
        end
    endgenerate

    integer k;
    always @(*) begin
        rdata = 32'hDEAD_BEEF;
        for (k = 0; k < 5; k = k + 1)
            if (sel[k]) rdata = part_data[k];
    end
    wire nowhere = valid & ~|sel;
    wire irq, uart_irq, timer_irq;

    weir_core #(.FAST_MUL(FAST)) core (
        .clk(clk), .rst_n(rst_n), .bus_valid(valid), .bus_instr(instr), .bus_addr(addr), .bus_wdata(wdata), .bus_wstrb(wstrb),
        .bus_rdata(rdata), .bus_ready(|(ready & sel) | nowhere), .irq(irq), .halted(halted), .trap(trap),
        .cycles(cycles), .retired(retired)
    );
    weir_ram #(.WORDS(2048), .WAITS(1), .INIT(PROGRAM)) ram (clk, sel[0], addr, wdata, wstrb, part_data[0], ready[0]);
    weir_uart uart (
        .clk(clk), .rst_n(rst_n), .sel(sel[1]), .wstrb(wstrb), .addr(addr[3:2]), .wdata(wdata), .rdata(part_data[1]),
        .ready(ready[1]), .txd(txd), .rxd(rxd), .irq(uart_irq));
    defparam uart.DIVISOR = DIVISOR;
    weir_timer timer (clk, rst_n, sel[2], wstrb, addr[3:2], wdata, part_data[2], ready[2], timer_irq, bite);
    weir_gates #(GATES) gates (
        clk, rst_n, sel[3], wstrb, wdata, part_data[3], ready[3], paddle, raise, lower, panel);
    weir_irq irqs (
        .clk(clk), .rst_n(rst_n), .sel(sel[4]), .wstrb(wstrb), .wdata(wdata), .rdata(part_data[4]), .ready(ready[4]),
        .lines({6'b0, timer_irq, uart_irq}), .irq(irq));
endmodule
