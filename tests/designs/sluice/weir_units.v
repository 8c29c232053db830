`timescale 1ns/1ps
`include "weir_defs.vh"

// Product in two clocks: the operands are registered, then multiplied as signed numbers.
module weir_mul_fast (clk, start, a, b, done, p);
    parameter WIDTH = 32;
    input clk, start;
    input [WIDTH-1:0] a, b;
    output done;
    output [2*WIDTH-1:0] p;
    reg done;
    reg signed [WIDTH-1:0] ra, rb;
    assign p = ra * rb;
    initial done = 1'b0;
    always @(posedge clk) begin
        done <= start;
        if (start) begin ra <= a; rb <= b; end
    end
endmodule

// Product one bit a clock: add and shift over magnitudes, sign mended at the end.
module weir_mul_serial (clk, rst_n, start, a, b, done, p);
    parameter WIDTH = 32;
    input clk, rst_n, start;
    input [WIDTH-1:0] a, b;
    output reg done;
    output [2*WIDTH-1:0] p;
    reg [2*WIDTH-1:0] acc, addend;
    reg [WIDTH-1:0] rest;
    reg negative, busy;
    integer left;
    function [WIDTH-1:0] magnitude;
        input signed [WIDTH-1:0] v;
        magnitude = v < 0 ? -v : v;
    endfunction
    assign p = negative ? -acc : acc;
    always @(posedge clk or negedge rst_n)
        if (!rst_n) begin
            busy <= 1'b0; done <= 1'b0;
        end else begin
            done <= 1'b0;
            if (start) begin
                acc <= 0;
                addend <= magnitude(a);
                rest <= magnitude(b);
                negative <= a[WIDTH-1] ^ b[WIDTH-1];
                busy <= 1'b1;
            end else if (busy) begin
                if (rest[0]) acc <= acc + addend;
                addend <= addend << 1;
                rest <= rest >> 1;
                if (rest == 0) begin busy <= 1'b0; done <= 1'b1; end
            end
        end
endmodule

// Quotient and remainder by restoring division, a bit a clock. Division by zero gives all ones and the dividend.
module weir_div #(parameter W = 32) (
    input clk, rst_n, start, is_signed,
    input [W-1:0] dividend, divisor,
    output reg [W-1:0] quotient, remainder,
    output reg done
);
    reg [W-1:0] d, q;
    reg [W:0] r;
    reg [5:0] n;
    reg running, neg_q, neg_r;
    wire [W:0] shifted = {r[W-1:0], q[W-1]};
    wire [W:0] trial = shifted - {1'b0, d};
    wire fits = !trial[W];

    task automatic begin_with(input [W-1:0] x, y, input s);
        begin
            q <= s && x[W-1] ? -x : x;
            d <= s && y[W-1] ? -y : y;
            r <= {(W+1){1'b0}};
            n <= W;
            running <= 1;
            neg_q <= s && (x[W-1] != y[W-1]) && y != 0;
            neg_r <= s && x[W-1];
        end
    endtask

    always @(posedge clk, negedge rst_n) begin
        if (!rst_n) begin
            running <= 0;
            done <= 0;
        end
        else begin
            done <= 0;
            if (start) begin_with(dividend, divisor, is_signed);
            else if (running) begin
                if (n != 0) begin
                    r <= fits ? trial : shifted;
                    q <= {q[W-2:0], fits};
                    n <= n - 1'b1;
                end
                else begin
                    running <= 0;
                    done <= 1;
                    quotient <= neg_q ? ~q + 1'b1 : q;
                    remainder <= neg_r ? ~r[W-1:0] + 1'b1 : r[W-1:0];
                end
            end
        end
    end
endmodule

// A memory with byte lanes, and a wait of WAITS clocks.
module weir_ram #(parameter WORDS = 4096, parameter WAITS = 0, parameter INIT = "") (
    input clk, input valid, input [31:0] addr, input [31:0] wdata, input [3:0] wstrb,
    output reg [31:0] rdata, output reg ready
);
    localparam AW = clogb2(WORDS);
    reg [7:0] lane0 [0:WORDS-1];
    reg [7:0] lane1 [0:WORDS-1];
    reg [7:0] lane2 [0:WORDS-1];
    reg [7:0] lane3 [0:WORDS-1];
    wire [AW-1:0] index = addr[AW+1:2];
    reg [3:0] waited = 0;

    function integer clogb2(input integer depth);
        for (clogb2 = 0; depth > 1; clogb2 = clogb2 + 1)
            depth = (depth + 1) >> 1;
    endfunction

    task poke(input [31:0] where, input [31:0] what);
        {lane3[where >> 2], lane2[where >> 2], lane1[where >> 2], lane0[where >> 2]} = what;
    endtask
    function [31:0] peek(input [31:0] where);
        peek = {lane3[where >> 2], lane2[where >> 2], lane1[where >> 2], lane0[where >> 2]};
    endfunction

    generate if (INIT != "") begin : load
        reg [31:0] words [0:WORDS-1];
        integer k;
        initial begin
            $readmemh(INIT, words);
            for (k = 0; k < WORDS && words[k] !== 32'bx; k = k + 1) poke(4 * k, words[k]);
        end
    end endgenerate

    initial ready = 0;
    always @(posedge clk) begin
        ready <= 1'b0;
        if (valid && !ready) begin
            if (waited == WAITS) begin
                waited <= 0;
                ready <= 1'b1;
                rdata <= {lane3[index], lane2[index], lane1[index], lane0[index]};
                if (wstrb[0]) lane0[index] <= wdata[ 7: 0];
                if (wstrb[1]) lane1[index] <= wdata[15: 8];
                if (wstrb[2]) lane2[index] <= wdata[23:16];
                if (wstrb[3]) lane3[index] <= wdata[31:24];
            end else
                waited <= waited + 1;
        end
    end
endmodule
