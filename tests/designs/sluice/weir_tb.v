`timescale 1 ns / 100 ps
`include "weir_defs.vh"
`ifndef CLOCK_MHZ
 `define CLOCK_MHZ 50.0
`endif
`define SHOW(what) $display("%8.1f %0s", $realtime, what);
`define EXPECT(got, wanted, name) \
    if ((got) !== (wanted)) begin \
        $display("FAIL %0s: %h instead of %h", name, got, wanted); \
        failures = failures + 1; \
    end else passed = passed + 1;

// A terminal at the other end of the serial line: collects characters into lines.
module terminal(line);
    parameter BIT = 160.0, NAME = "terminal";
    input line;
    reg [7:0] c;
    reg [8*64:1] text;
    integer count;
    event got;
    initial begin text = ""; count = 0; end
    always @(negedge line) begin : receive
        integer k;
        #(BIT * 1.5);
        for (k = 0; k < 8; k = k + 1) begin
            c[k] = line;
            #(BIT);
        end
        if (line !== 1'b1) begin
            $display("%0s: frame lost", NAME);
            disable receive;
        end
        count = count + 1;
        if (c == "\n") begin
            $display("%0s says %0s", NAME, text);
            text = "";
        end else
            text = {text, c};
        -> got;
    end
endmodule

module tb;
    localparam real PERIOD = 1000.0 / `CLOCK_MHZ;
    localparam DIVISOR = 8;
    reg clk = 1'b0, rst_n, to_core;
    reg [3:0] paddle;
    integer failures, passed, at, pass, k;
    tri [7:0] panel1, panel2;
    wire [3:0] raise1, lower1, raise2, lower2;
    wire txd1, txd2, halted1, halted2, trap1, trap2, bite1, bite2;

    always #(PERIOD / 2) clk = ~clk;

    weir_system dut1 (.clk(clk), .rst_n(rst_n), .txd(txd1), .rxd(to_core), .paddle(paddle), .raise(raise1), .lower(lower1),
                      .panel(panel1), .halted(halted1), .trap(trap1), .bite(bite1));
    weir_system #(.DIVISOR(DIVISOR), .FAST(0)) dut2 (clk, rst_n, txd2, to_core, paddle, raise2, lower2, panel2, halted2, trap2, bite2);

    terminal #(.BIT(DIVISOR * PERIOD), .NAME("first")) term1 (txd1);
    terminal #(DIVISOR * PERIOD, "second") term2 (txd2);

    // ---- a small assembler: two passes over one task; the labels of the first pass serve the second
    integer l_start, l_isr, l_puts, l_putn, l_done, l_text, l_data, a, b, c, d, e;

    task put(input [31:0] w);
        begin
            dut1.ram.poke(at, w);
            dut2.ram.poke(at, w);
            at = at + 4;
        end
    endtask
    task alu(input [5:0] f, input [4:0] rd, ra, rb); put({`OP_ALU, rd, ra, rb, 5'd0, f}); endtask
    task imm(input [5:0] op, input [4:0] rd, ra, input [15:0] v); put({op, rd, ra, v}); endtask
    task bra(input [5:0] op, input [4:0] ra, rb, input integer to);
        reg signed [15:0] off;
        begin off = (to - at) >>> 2; put({op, rb, ra, off}); end
    endtask
    task jal(input integer to);
        reg [31:0] off;
        begin off = (to - at) / 4; put({`OP_JAL, off[25:0]}); end
    endtask
    task ret; imm(`OP_JALR, 0, 31, 0); endtask
    task li(input [4:0] rd, input [31:0] v);
        begin imm(`OP_LUI, rd, 0, v[31:16]); imm(`OP_ORI, rd, rd, v[15:0]); end
    endtask
    task mv(input [4:0] rd, ra); imm(`OP_ADDI, rd, ra, 0); endtask
    task shift(input [4:0] rd, ra, input [1:0] kind, input [4:0] by); imm(`OP_SHIFTI, rd, ra, {9'd0, kind, by}); endtask
    task ascii(input [8*16:1] s);
        reg [8*16:1] rest;
        integer n;
        begin : letters
            rest = s;
            n = 0;
            while (rest[8*16 -: 8] == 0) begin rest = rest << 8; n = n + 1; end
            for (n = 16 - n; n > 0; n = n - 4) begin
                put({rest[8*13 -: 8], rest[8*14 -: 8], rest[8*15 -: 8], rest[8*16 -: 8]});
                rest = rest << 32;
            end
        end
    endtask

    // r20 uart, r21 timer, r22 gates, r23 irq; r1.. scratch; r10, r11 arguments; r30 saved link
    task assemble;
        begin
            at = 0;
            jal(l_start); put(0);
            // 8: interrupt: r25 counts them; the byte of the serial line goes to r26, the timer is answered
            l_isr = at;
            imm(`OP_LW, 24, 23, 0);
            imm(`OP_ANDI, 24, 24, 7);
            b = at; bra(`OP_BNE, 24, 0, c);
            imm(`OP_LW, 26, 20, 0);
            imm(`OP_RETI, 0, 0, 0);
            c = at;
            imm(`OP_SW, 0, 21, 8);
            imm(`OP_ADDI, 25, 25, 1);
            imm(`OP_RETI, 0, 0, 0);

            l_start = at;
            li(20, 32'h8000_0000); li(21, 32'h9000_0000); li(22, 32'hA000_0000); li(23, 32'hB000_0000);
            imm(`OP_ADDI, 10, 0, l_text); jal(l_puts);
            // the sum of 1 to 100
            imm(`OP_ADDI, 1, 0, 100); mv(10, 0);
            a = at;
            alu(`FN_ADD, 10, 10, 1); imm(`OP_ADDI, 1, 1, -1); bra(`OP_BNE, 1, 0, a);
            jal(l_putn);
            // 12! by products, its upper half is 0
            imm(`OP_ADDI, 1, 0, 12); imm(`OP_ADDI, 10, 0, 1);
            a = at;
            alu(`FN_MUL, 10, 10, 1); imm(`OP_ADDI, 1, 1, -1); bra(`OP_BNE, 1, 0, a);
            jal(l_putn);
            // -7 * 9 = -63: the upper half is -1; quotient and remainder by -8 are 7 and -7
            imm(`OP_ADDI, 1, 0, -7); imm(`OP_ADDI, 2, 0, 9);
            alu(`FN_MUL, 3, 1, 2); alu(`FN_MULH, 4, 1, 2);
            imm(`OP_ADDI, 5, 0, -8); alu(`FN_DIV, 6, 3, 5); alu(`FN_REM, 7, 3, 5);
            alu(`FN_DIVU, 8, 3, 5); alu(`FN_DIV, 9, 1, 0); alu(`FN_REMU, 12, 3, 2);
            alu(`FN_CLZ, 13, 2, 0); alu(`FN_SWAP, 14, 5, 0); shift(15, 3, 2, 3); shift(16, 3, 1, 28); shift(17, 2, 0, 10);
            alu(`FN_SLT, 18, 3, 2); alu(`FN_SLTU, 19, 3, 2);
            // bytes and halves: store -63 as byte and half, read back with and without sign
            imm(`OP_ADDI, 27, 0, l_data);
            imm(`OP_SB, 3, 27, 33); imm(`OP_SH, 3, 27, 34);
            imm(`OP_LB, 28, 27, 33); imm(`OP_LBU, 29, 27, 33);
            // sort eight halves upwards
            imm(`OP_ADDI, 1, 0, 7);
            d = at;
            mv(2, 27); mv(3, 1);
            e = at;
            imm(`OP_LH, 10, 2, 0); imm(`OP_LH, 11, 2, 2);
            bra(`OP_BGE, 11, 10, at + 12); imm(`OP_SH, 11, 2, 0); imm(`OP_SH, 10, 2, 2);
            imm(`OP_ADDI, 2, 2, 2); imm(`OP_ADDI, 3, 3, -1); bra(`OP_BNE, 3, 0, e);
            imm(`OP_ADDI, 1, 1, -1); bra(`OP_BNE, 1, 0, d);
            // interrupts: timer after 200 clocks and again each 300, until three came
            imm(`OP_ADDI, 1, 0, 3); imm(`OP_SW, 1, 23, 0);
            imm(`OP_ADDI, 1, 0, 300); imm(`OP_SW, 1, 21, 4);
            imm(`OP_ADDI, 1, 0, 200); imm(`OP_SW, 1, 21, 0);
            imm(`OP_EI, 0, 0, 0);
            imm(`OP_ADDI, 1, 0, 3);
            bra(`OP_BLT, 25, 1, at);
            imm(`OP_SW, 0, 21, 4);
            mv(10, 25); jal(l_putn);
            // a byte from the terminal, one added, printed as a number
            bra(`OP_BEQ, 26, 0, at);
            imm(`OP_ADDI, 10, 26, 1); jal(l_putn);
            // gates: ask for 1 and 2 to rise and 3 to sink; the panel shows 5A
            li(1, 32'h5A80_0806); imm(`OP_SW, 1, 22, 0);
            imm(`OP_ADDI, 2, 0, 50);
            imm(`OP_ADDI, 2, 2, -1); bra(`OP_BNE, 2, 0, at - 4);
            imm(`OP_LW, 1, 22, 0); shift(1, 1, 1, 24); mv(10, 1); jal(l_putn);
            // a word at an odd place: the core traps
            imm(`OP_LW, 1, 0, 1);
            imm(`OP_HALT, 0, 0, 0);

            l_puts = at;    // r10: text up to a zero byte
            imm(`OP_LBU, 11, 10, 0);
            bra(`OP_BNE, 11, 0, at + 8); ret;
            imm(`OP_LW, 12, 20, 4); imm(`OP_ANDI, 12, 12, 2); bra(`OP_BNE, 12, 0, at - 8);
            imm(`OP_SW, 11, 20, 0); imm(`OP_ADDI, 10, 10, 1); bra(`OP_BEQ, 0, 0, l_puts);

            l_putn = at;    // r10 as a decimal number and a line end: digits are made backwards into memory
            mv(30, 31); imm(`OP_ADDI, 11, 0, l_data + 60); imm(`OP_ADDI, 12, 0, 10);
            imm(`OP_SB, 0, 11, 0); imm(`OP_ADDI, 11, 11, -1); imm(`OP_SB, 12, 11, 0);
            a = at;
            alu(`FN_REMU, 13, 10, 12); alu(`FN_DIVU, 10, 10, 12);
            imm(`OP_ADDI, 13, 13, "0"); imm(`OP_ADDI, 11, 11, -1); imm(`OP_SB, 13, 11, 0);
            bra(`OP_BNE, 10, 0, a);
            mv(10, 11); mv(29, 30); jal(l_puts); mv(31, 29); ret;

            l_text = at; ascii("Tarnwick Lock 07"); put("\n");
            l_data = at;
            put({-16'sd5, 16'sd300}); put({16'sd0, 16'sd7}); put({16'sh8000, 16'sd12}); put({16'sd299, 16'sd1});
            for (k = 0; k < 16; k = k + 1) put(0);
        end
    endtask

    task send(input [7:0] byte_out);
        integer n;
        begin
            to_core = 0;
            #(DIVISOR * PERIOD);
            for (n = 0; n < 8; n = n + 1) begin to_core = byte_out[n]; #(DIVISOR * PERIOD); end
            to_core = 1'b1;
            #(DIVISOR * PERIOD);
        end
    endtask

    initial begin : main
        {failures, passed} = 64'd0;
        {l_start, l_isr, l_puts, l_putn, l_text, l_data, a, b, c, d, e} = 0;
        rst_n = 1'b1; to_core = 1; paddle = 4'b0000;
        assemble; assemble; assemble;
        if ($test$plusargs("list")) for (k = 0; k < at; k = k + 4) $display("%h: %h", k, dut1.ram.peek(k));
        #1 rst_n = 0;
        repeat (3) @(posedge clk);
        @(negedge clk) rst_n = 1;
        fork : work
            begin
                wait (halted1 & halted2);
                disable work;
            end
            begin
                @(term1.got or term2.got);
                wait (dut1.core.regs[25] == 3 && dut2.core.regs[25] == 3)
                    repeat (40) @(negedge clk);
                send(8'd41);
            end
            begin : bounce
                wait (dut1.gates.want_up != 0);
                repeat (5) begin @(negedge clk) paddle[1] = ~paddle[1]; end
                paddle[2] = 1;
            end
            begin
                #5_000_000 $display("too long: pc %h and %h", dut1.core.pc, dut2.core.pc);
                disable main;
            end
        join
        #(12 * DIVISOR * PERIOD);
        `EXPECT(dut1.core.regs[4], 32'hFFFF_FFFF, "upper half of -63")
        `EXPECT(dut1.core.regs[6], 32'd7, "-63 / -8")
        `EXPECT(dut1.core.regs[7], -32'sd7, "-63 rem -8")
        `EXPECT(dut1.core.regs[8], 32'd0, "unsigned quotient")
        `EXPECT(dut1.core.regs[9], ~0, "quotient by zero")
        `EXPECT(dut1.core.regs[14], 32'hF8FF_FFFF, "bytes swapped")
        `EXPECT(dut1.core.regs[15], -32'sd8, "-63 >>> 3")
        `EXPECT(dut1.core.regs[16], 32'hF, "-63 >> 28")
        `EXPECT(dut1.core.regs[17], 32'd9216, "9 << 10")
        `EXPECT({dut1.core.regs[18], dut1.core.regs[19]}, {32'd1, 32'd0}, "less, with and without sign")
        `EXPECT(dut1.core.regs[28], 32'hFFFF_FFC1, "byte with sign")
        `EXPECT(dut1.core.regs[0], 0, "register 0")
        `EXPECT({trap1, trap2, bite1, bite2}, 4'b1100, "traps")
        `EXPECT({raise1, lower1}, 8'b0110_1000, "gates")
        `EXPECT(panel1, 8'h5A, "panel")
        for (k = 1; k < 32; k = k + 1)
            if (k != 1) `EXPECT(dut2.core.regs[k], dut1.core.regs[k], "registers of both")
        begin : sorted
            reg signed [15:0] h [0:7];
            for (k = 0; k < 8; k = k + 1) begin
                h[k] = dut1.ram.peek(l_data + 2 * k) >> (k[0] ? 16 : 0);
                $write("%0d%s", h[k], k == 7 ? "\n" : " ");
            end
        end
        $display("%0d of %0d checks, %0d and %0d characters", passed, passed + failures, term1.count, term2.count);
        if (dut2.cycles > dut1.cycles && dut1.retired == dut2.retired) $display("the serial product takes longer");
        else $display("%0d %0d cycles, %0d %0d instructions", dut1.cycles, dut2.cycles, dut1.retired, dut2.retired);
        $finish(0);
    end
endmodule
