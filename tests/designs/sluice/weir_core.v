`timescale 1ns / 1ps
`include "weir_defs.vh"
`default_nettype none

// A core of several cycles an instruction; one bus for instructions and data.
module weir_core #(
    parameter [31:0] RESET_PC = 32'h0000_0000,
    parameter [31:0] IRQ_PC   = 32'h0000_0008,
    parameter        FAST_MUL = 1,
    parameter integer COUNTERS = 1,
    parameter [0:0] CATCH_MISALIGNED = 1
) (
    input  wire        clk,
    input  wire        rst_n,
    output reg         bus_valid,
    output reg         bus_instr,
    output reg  [31:0] bus_addr,
    output reg  [31:0] bus_wdata,
    output reg  [ 3:0] bus_wstrb,
    input  wire [31:0] bus_rdata,
    input  wire        bus_ready,
    input  wire        irq,
    output wire        halted,
    output reg         trap,
    output wire [63:0] cycles,
    output wire [63:0] retired
);
    localparam integer
        S_FETCH = 0,
        S_DECODE = 1,
        S_EXEC = 2,
        S_MEM = 3,
        S_WAIT = 4,
        S_WRITE = 5,
        S_HALT = 6,
        STATES = 7;

    reg [STATES - 1:0] state;          // one-hot
    reg [31:0] pc, next_pc, instr, saved_pc;
    reg        irq_enabled, in_irq;
    reg [31:0] op1, op2, result;
    reg [31:0] regs [0:31];
    wire [31:0] dbg_r1 = regs[1], dbg_r2 = regs[2], dbg_r31 = regs[31];

    wire [5:0]  opcode  = instr[`OP_FIELD];
    wire [4:0]  rd      = instr[`RD_FIELD];
    wire [4:0]  ra      = instr[`RA_FIELD];
    wire [4:0]  rb      = instr[`RB_FIELD];
    wire [5:0]  fn      = instr[5:0];
    wire [31:0] imm_s   = {{16{instr[15]}}, instr[`IMM_FIELD]};
    wire [31:0] imm_u   = {16'b0, instr[`IMM_FIELD]};
    wire [31:0] target  = pc + {{4{instr[25]}}, instr[25:0], 2'b00};

    reg is_alu, is_imm, is_load, is_store, is_branch, is_jump, is_system;
    reg [63:0] ascii_op;

    // decoding, in the style of one condition a line
    always @* begin
        {is_alu, is_imm, is_load, is_store, is_branch, is_jump, is_system} = 0;
        ascii_op = "";
        (* parallel_case, full_case *)
        casez (opcode)
            `OP_ALU:    begin is_alu = 1; ascii_op = "alu"; end
            6'b000???:  begin is_imm = 1; ascii_op = "imm"; end
            6'b010???:  begin is_load = 1; ascii_op = "load"; end
            6'b011???:  begin is_store = 1; ascii_op = "store"; end
            6'b100???:  begin is_branch = 1; ascii_op = "branch"; end
            6'b1010??:  begin is_jump = 1; ascii_op = "jump"; end
            6'b11????:  begin is_system = 1; ascii_op = "system"; end
        endcase
    end

    // the short arithmetic
    reg [31:0] alu_out;
    wire [5:0] alu_fn = is_alu ? fn : imm_fn(opcode, instr[6:5]);
    wire signed [31:0] sop1 = op1, sop2 = op2;
    wire [32:0] difference = {1'b0, op1} - {1'b0, op2};
    wire less_u = difference[32];
    wire less_s = sop1 < sop2;

    function [5:0] imm_fn;
        input [5:0] op;
        input [1:0] kind;
        case (op)
            `OP_ADDI: imm_fn = `FN_ADD;
            `OP_ANDI: imm_fn = `FN_AND;
            `OP_ORI:  imm_fn = `FN_OR;
            `OP_XORI: imm_fn = `FN_XOR;
            `OP_SLTI: imm_fn = `FN_SLT;
            `OP_SHIFTI:
                case (kind)
                    2'd0: imm_fn = `FN_SLL;
                    2'd1: imm_fn = `FN_SRL;
                    default: imm_fn = `FN_SRA;
                endcase
            default: imm_fn = `FN_ADD;
        endcase
    endfunction

    function [31:0] leading_zeros(input [31:0] word);
        integer k;
        begin : count
            leading_zeros = 32;
            for (k = 31; k >= 0; k = k - 1)
                if (word[k]) begin
                    leading_zeros = 31 - k;
                    disable count;
                end
        end
    endfunction

    function automatic [31:0] swapped(input [31:0] word, input integer width);
        if (width == 8)
            swapped = {word[7:0], word[15:8], word[23:16], word[31:24]};
        else
            swapped = {swapped(word, 8)};
    endfunction

    always @(alu_fn or op1 or op2 or sop1 or less_s or less_u) begin : arithmetic
        alu_out = 32'bx;
        case (alu_fn)
            `FN_ADD:  alu_out = op1 + op2;
            `FN_SUB:  alu_out = op1 - op2;
            `FN_AND:  alu_out = op1 & op2;
            `FN_OR:   alu_out = op1 | op2;
            `FN_XOR:  alu_out = op1 ^ op2;
            `FN_SLL:  alu_out = op1 << op2[4:0];
            `FN_SRL:  alu_out = op1 >> op2[4:0];
            `FN_SRA:  alu_out = sop1 >>> op2[4:0];
            `FN_SLT:  alu_out = {31'b0, less_s};
            `FN_SLTU: alu_out = {31'b0, less_u};
            `FN_CLZ:  alu_out = leading_zeros(op1);
            `FN_SWAP: alu_out = swapped(op1, 32);
        endcase
    end

    // products and quotients come from units beside the core
    wire unit_mul = is_alu && (fn == `FN_MUL || fn == `FN_MULH);
    wire unit_div = is_alu && (fn >= `FN_DIV && fn <= `FN_REMU);
    wire mul_done, div_done;
    wire [63:0] product;
    wire [31:0] quotient, remainder;
    reg unit_start;

    generate
        if (FAST_MUL) begin : gen_mul
            weir_mul_fast unit (.clk(clk), .start(unit_start & unit_mul), .a(op1), .b(op2), .done(mul_done), .p(product));
        end else begin : gen_mul
            weir_mul_serial unit (.clk(clk), .rst_n(rst_n), .start(unit_start & unit_mul), .a(op1), .b(op2), .done(mul_done), .p(product));
        end
    endgenerate

    weir_div divider (
        .clk(clk), .rst_n(rst_n), .start(unit_start & unit_div), .is_signed(fn == `FN_DIV || fn == `FN_REM),
        .dividend(op1), .divisor(op2), .quotient(quotient), .remainder(remainder), .done(div_done)
    );

    reg taken;
    always @* case (opcode[2:0])
        3'd0: taken = op1 == op2;
        3'd1: taken = op1 != op2;
        3'd2: taken = less_s;
        3'd3: taken = !less_s;
        3'd4: taken = less_u;
        3'd5: taken = !less_u;
        default: taken = 1'bx;
    endcase

    reg [31:0] loaded;
    always @* begin
        loaded = bus_rdata;
        case (opcode)
            `OP_LB, `OP_LBU: begin
                loaded[7:0] = bus_rdata[8 * bus_addr[1:0] +: 8];
                loaded[31:8] = {24{opcode == `OP_LB && loaded[7]}};
            end
            `OP_LH, `OP_LHU: begin
                loaded[15:0] = bus_addr[1] ? bus_rdata[31:16] : bus_rdata[15:0];
                loaded[31:16] = {16{opcode == `OP_LH && loaded[15]}};
            end
        endcase
    end

    assign halted = state[S_HALT];
    wire [31:0] second = is_imm && (opcode == `OP_ANDI || opcode == `OP_ORI || opcode == `OP_XORI) ? imm_u
                       : opcode == `OP_SHIFTI ? {27'b0, instr[4:0]}
                       : is_imm || is_load || is_store || opcode == `OP_JALR ? imm_s
                       : regs[rb];
    wire [31:0] address = op1 + imm_s;
    wire misaligned = CATCH_MISALIGNED && (
        ((opcode == `OP_LW || opcode == `OP_SW) && |address[1:0]) ||
        ((opcode == `OP_LH || opcode == `OP_LHU || opcode == `OP_SH) && address[0]));

    integer i;
    initial for (i = 0; i < 32; i = i + 1) regs[i] = 0;

    `CLOCKED_RESET(clk, rst_n)
        if (!rst_n) begin
            state <= 1 << S_FETCH;
            pc <= RESET_PC;
            {bus_valid, bus_instr} <= 2'b00;
            bus_wstrb <= 0;
            bus_addr <= 'bx;
            bus_wdata <= 'bx;
            trap <= 0;
            irq_enabled <= 0;
            in_irq <= 0;
            unit_start <= 0;
        end else begin
            unit_start <= 0;
            case (1'b1)
                state[S_FETCH]: begin
                    if (irq && irq_enabled && !in_irq && !bus_valid) begin
                        saved_pc <= pc;
                        pc <= IRQ_PC;
                        in_irq <= 1;
                    end else begin
                        bus_valid <= 1;
                        bus_instr <= 1;
                        bus_wstrb <= 4'b0;
                        bus_addr <= pc;
                        if (bus_valid && bus_ready) begin
                            instr <= bus_rdata;
                            bus_valid <= 0;
                            bus_instr <= 0;
                            state <= 0;
                            state[S_DECODE] <= 1;
                        end
                    end
                end
                state[S_DECODE]: begin
                    op1 <= regs[ra];
                    op2 <= is_branch ? regs[rd] : second;
                    if (is_branch) op1 <= regs[ra];
                    next_pc <= pc + 4;
                    state <= 1 << S_EXEC;
                    if (is_alu) unit_start <= 1;
                end
                state[S_EXEC]: begin
                    state <= 1 << S_WRITE;
                    result <= alu_out;
                    if (unit_mul || unit_div) begin
                        if (unit_mul ? mul_done : div_done)
                            case (fn)
                                `FN_MUL:  result <= product[31:0];
                                `FN_MULH: result <= product[63:32];
                                `FN_DIV, `FN_DIVU: result <= quotient;
                                default:  result <= remainder;
                            endcase
                        else
                            state <= 1 << S_EXEC;
                    end else if (is_load || is_store) begin
                        if (misaligned) begin
                            trap <= 1;
                            state <= 1 << S_HALT;
`ifdef WEIR_CHATTER
                            $display("weir: %0s at %h is misaligned", ascii_op, address);
`endif
                        end else
                            state <= 1 << S_MEM;
                    end else if (is_branch) begin
                        if (taken) next_pc <= pc + (imm_s << 2);
                    end else if (is_jump) begin
                        result <= pc + 4;
                        next_pc <= opcode == `OP_JAL ? target : (op1 + op2) & ~32'd3;
                    end else if (opcode == `OP_LUI)
                        result <= {instr[`IMM_FIELD], 16'h0};
                    else if (is_system)
                        case (opcode)
                            `OP_EI: irq_enabled <= 1;
                            `OP_DI: irq_enabled <= 0;
                            `OP_RETI: begin next_pc <= saved_pc; in_irq <= 0; end
                            `OP_HALT: state <= 1 << S_HALT;
                            default: begin trap <= 1; state <= 1 << S_HALT; end
                        endcase
                end
                state[S_MEM]: begin
                    bus_valid <= 1;
                    bus_addr <= address;
                    if (is_store) begin : store
                        reg [1:0] lane;
                        lane = address[1:0];
                        case (opcode)
                            `OP_SB: begin bus_wdata <= {4{regs[rd][7:0]}}; bus_wstrb <= 4'b0001 << lane; end
                            `OP_SH: begin bus_wdata <= {2{regs[rd][15:0]}}; bus_wstrb <= lane[1] ? 4'b1100 : 4'b0011; end
                            default: begin bus_wdata <= regs[rd]; bus_wstrb <= 4'b1111; end
                        endcase
                    end
                    state <= 1 << S_WAIT;
                end
                state[S_WAIT]:
                    if (bus_ready) begin
                        bus_valid <= 0;
                        bus_wstrb <= 0;
                        result <= loaded;
                        state <= 1 << S_WRITE;
                    end
                state[S_WRITE]: begin
                    if (rd != 0 && (is_alu || is_imm || is_load || opcode == `OP_JAL || opcode == `OP_JALR))
                        regs[opcode == `OP_JAL ? 5'd31 : rd] <= result;
                    else if (opcode == `OP_JAL)
                        regs[31] <= result;
                    pc <= next_pc;
                    state <= 1 << S_FETCH;
                end
                default: ;
            endcase
        end

    generate
        genvar g;
        for (g = 0; g < 2; g = g + 1) begin : counter
            reg [63:0] value;
            wire step;
            if (g == 0) assign step = !state[S_HALT];
            else assign step = state[S_WRITE];
            if (COUNTERS) begin : on
                `CLOCKED_RESET(clk, rst_n)
                    if (~rst_n) value <= 64'd0;
                    else if (step) value <= value + 64'd1;
            end else begin : off
                initial value = 0;
            end
        end
    endgenerate
    assign cycles = counter[0].value, retired = counter[1].value;
endmodule

`default_nettype wire
