`timescale 1ns / 1ps
`include "weir_defs.vh"

// First in, first out; empty and full told apart by one more bit in the pointers.
module weir_fifo
    #(parameter WIDTH = 8,
      parameter DEPTH_LOG2 = 3)
    (input                    clk, rst_n,
     input                    push, pop,
     input      [WIDTH - 1:0] in,
     output     [WIDTH - 1:0] out,
     output                   empty, full,
     output reg [DEPTH_LOG2:0] level);
    reg [WIDTH - 1:0] store [(1 << DEPTH_LOG2) - 1:0];
    reg [DEPTH_LOG2:0] wp, rp;
    assign empty = wp == rp;
    assign full  = (wp ^ rp) == {1'b1, {DEPTH_LOG2{1'b0}}};
    assign out   = store[rp[DEPTH_LOG2 - 1:0]];
    wire do_push = push & ~full, do_pop = pop & ~empty;
    always @(posedge clk or negedge rst_n)
        if (!rst_n) {wp, rp, level} <= 0;
        else begin
            if (do_push) begin
                store[wp[DEPTH_LOG2 - 1:0]] <= in;
                wp <= wp + 1'd1;
            end
            if (do_pop) rp <= rp + 1'd1;
            case ({do_push, do_pop})
                2'b10: level <= level + 1;
                2'b01: level <= level - 1;
            endcase
        end
endmodule

// Serial port, eight bits, no parity; DIVISOR clocks a bit.
module weir_uart #(parameter DIVISOR = 16) (
    input clk, rst_n,
    input sel, input [3:0] wstrb, input [3:2] addr, input [31:0] wdata, output reg [31:0] rdata, output reg ready,
    output reg txd, input rxd, output irq
);
    localparam [1:0] IDLE = 2'd0, START = 2'd1, DATA = 2'd2, STOP = 2'd3;
    // sender
    reg [1:0] tstate;
    reg [7:0] tshift;
    reg [2:0] tbit;
    reg [15:0] tcount;
    wire tempty, tfull;
    wire [7:0] tnext;
    wire write = sel & ready & |wstrb;
    wire tpop = tstate == IDLE & !tempty;
    weir_fifo #(8, 4) tx_fifo (clk, rst_n, write && addr == 2'd0, tpop, wdata[7:0], tnext, tempty, tfull, );
    `CLOCKED_RESET(clk, rst_n) begin
        if (!rst_n) begin
            tstate <= IDLE; txd <= 1'b1; tcount <= 0; tbit <= 0;
        end else if (tcount != 0)
            tcount <= tcount - 1;
        else case (tstate)
            IDLE: if (!tempty) begin tshift <= tnext; tstate <= START; txd <= 1'b0; tcount <= DIVISOR - 1; end
            START: begin tstate <= DATA; {tshift, txd} <= {1'b0, tshift}; tbit <= 7; tcount <= DIVISOR - 1; end
            DATA: begin
                tcount <= DIVISOR - 1;
                if (tbit == 0) begin txd <= 1'b1; tstate <= STOP; end
                else begin {tshift, txd} <= {1'b0, tshift}; tbit <= tbit - 1; end
            end
            STOP: tstate <= IDLE;
        endcase
    end
    // receiver: the line is brought into the clock and looked at in the middle of each bit
    reg [2:0] sync;
    reg [1:0] rstate;
    reg [7:0] rshift, rbyte;
    reg [2:0] rbit;
    reg [15:0] rcount;
    reg rfull;
    assign irq = rfull;
    always @(posedge clk or negedge rst_n)
        if (!rst_n) begin
            sync <= 3'b111; rstate <= IDLE; rfull <= 0; rcount <= 0;
        end else begin
            sync <= {sync[1:0], rxd};
            if (sel && ready && !(|wstrb) && addr == 2'd0) rfull <= 0;
            if (rcount != 0) rcount <= rcount - 1;
            else
                case (rstate)
                    IDLE: if (sync[2:1] == 2'b10) begin rstate <= START; rcount <= DIVISOR / 2 - 1; end
                    START: if (sync[2]) rstate <= IDLE; else begin rstate <= DATA; rbit <= 0; rcount <= DIVISOR - 1; end
                    DATA: begin
                        rshift <= {sync[2], rshift[7:1]};
                        rbit <= rbit + 1;
                        rcount <= DIVISOR - 1;
                        if (&rbit) rstate <= STOP;
                    end
                    STOP: begin rbyte <= rshift; rfull <= sync[2]; rstate <= IDLE; end
                endcase
        end
    always @(posedge clk) begin
        ready <= sel & ~ready;
        rdata <= addr[2] ? {30'b0, tfull, rfull} : {24'b0, rbyte};
    end
endmodule

// Counts down and asks for attention; a watchdog that bites when it isn't fed.
module weir_timer (
    input clk, input rst_n,
    input sel, input [3:0] wstrb, input [3:2] addr, input [31:0] wdata, output reg [31:0] rdata, output reg ready,
    output reg irq, output bite
);
    reg [31:0] count, reload;
    reg running;
    reg [19:0] dog;
    assign bite = (dog == 20'hFFFFF);
    wire strobe = sel && ready && wstrb == 4'hF;
    always @(posedge clk or negedge rst_n) begin : timer
        if (!rst_n) begin
            count <= 0; reload <= 0; running <= 0; irq <= 0; dog <= 20'd0;
            disable timer;
        end
        if (~bite) dog <= dog + 1'b1;
        if (running) begin
            if (count == 0) begin
                irq <= 1'b1;
                count <= reload;
                running <= |reload;
            end else
                count <= count - 1;
        end
        if (strobe)
            case (addr)
                2'b00: begin count <= wdata; running <= 1; end
                2'b01: reload <= wdata;
                2'b10: irq <= 0;
                2'b11: dog <= 0;
            endcase
    end
    always @(posedge clk) begin
        ready <= sel & !ready;
        case (addr)
            0: rdata <= count;
            1: rdata <= reload;
            2: rdata <= {31'd0, irq};
            default: rdata <= {12'd0, dog};
        endcase
    end
endmodule

// Drives the gate motors; a move is held back while the paddle switch bounces.
module weir_gates #(parameter GATES = 4, parameter SETTLE = 3) (
    input clk, rst_n, sel, input [3:0] wstrb, input [31:0] wdata, output [31:0] rdata, output reg ready,
    input [GATES-1:0] paddle, output [GATES-1:0] raise, lower, inout [7:0] panel
);
    reg [GATES-1:0] want_up, want_down;
    wire [GATES-1:0] calm;
    reg panel_out;
    reg [7:0] panel_value;
    bufif1 drive [7:0] (panel, panel_value, panel_out);
    pullup (weak1) hold [7:0] (panel);

    genvar n;
    generate for (n = 0; n < GATES; n = n + 1) begin : gate
        reg [1:0] sync;
        reg [SETTLE-1:0] history;
        always @(posedge clk or negedge rst_n)
            if (!rst_n) begin sync <= 0; history <= 0; end
            else begin sync <= {sync[0], paddle[n]}; history <= {history, sync[1]}; end
        assign calm[n] = &history | ~|history;
        and up (raise[n], want_up[n], calm[n], history[0]);
        and down (lower[n], want_down[n], calm[n], !want_up[n]);
    end endgenerate

    assign rdata = {panel, 8'h00, {(8 - GATES){1'b0}}, calm, {(8 - GATES){1'b0}}, raise};
    always @(posedge clk or negedge rst_n)
        if (!rst_n) begin
            want_up <= {GATES{1'b0}}; want_down <= 0; panel_out <= 0; panel_value <= 8'd0; ready <= 0;
        end else begin
            ready <= sel && !ready;
            if (sel && ready) begin
                if (wstrb[0]) want_up <= wdata[0 +: GATES];
                if (wstrb[1]) want_down <= wdata[8 +: GATES];
                if (wstrb[3]) {panel_out, panel_value} <= {wdata[23], wdata[31:24]};
            end
        end
endmodule

// Which request is the most urgent: a tree of pairs, made by a recursive module.
module weir_urgent #(parameter N = 8, parameter W = 3) (input [N-1:0] req, output any, output [W-1:0] which);
    generate
        if (N == 2) begin : leaf
            assign any = req[0] | req[1];
            assign which = {{(W-1){1'b0}}, ~req[0]};
        end else begin : node
            wire any_lo, any_hi;
            wire [W-2:0] lo, hi;
            weir_urgent #(.N(N / 2), .W(W - 1)) low  (req[N/2-1:0], any_lo, lo);
            weir_urgent #(.N(N / 2), .W(W - 1)) high (req[N-1:N/2], any_hi, hi);
            assign any = any_lo || any_hi;
            assign which = any_lo ? {1'b0, lo} : {1'b1, hi};
        end
    endgenerate
endmodule

module weir_irq (
    input clk, rst_n, sel, input [3:0] wstrb, input [31:0] wdata, output reg [31:0] rdata, output reg ready,
    input [7:0] lines, output irq
);
    reg [7:0] mask;
    wire [2:0] which;
    weir_urgent tree (.req(lines & mask), .any(irq), .which(which));
    always @(posedge clk or negedge rst_n)
        if (!rst_n) begin mask <= 8'h00; ready <= 1'b0; end
        else begin
            ready <= sel & ~ready;
            rdata <= {irq, 15'd0, mask, 5'd0, which};
            if (sel & ready & wstrb[0]) mask <= wdata[7:0];
        end
endmodule
