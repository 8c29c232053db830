// Instruction set of the Weir core: fields, operations, memory map.
`ifndef WEIR_DEFS_VH
`define WEIR_DEFS_VH

`define OP_FIELD   31:26
`define RD_FIELD   25:21
`define RA_FIELD   20:16
`define RB_FIELD   15:11
`define IMM_FIELD  15:0

`define OP_ALU     6'h00
`define OP_ADDI    6'h01
`define OP_ANDI    6'h02
`define OP_ORI     6'h03
`define OP_XORI    6'h04
`define OP_LUI     6'h05
`define OP_SLTI    6'h06
`define OP_SHIFTI  6'h07
`define OP_LW      6'h10
`define OP_LB      6'h11
`define OP_LBU     6'h12
`define OP_LH      6'h13
`define OP_LHU     6'h14
`define OP_SW      6'h18
`define OP_SB      6'h19
`define OP_SH      6'h1a
`define OP_BEQ     6'h20
`define OP_BNE     6'h21
`define OP_BLT     6'h22
`define OP_BGE     6'h23
`define OP_BLTU    6'h24
`define OP_BGEU    6'h25
`define OP_JAL     6'h28
`define OP_JALR    6'h29
`define OP_RETI    6'h30
`define OP_EI      6'h31
`define OP_DI      6'h32
`define OP_HALT    6'h3f

`define FN_ADD     6'd0
`define FN_SUB     6'd1
`define FN_AND     6'd2
`define FN_OR      6'd3
`define FN_XOR     6'd4
`define FN_SLL     6'd5
`define FN_SRL     6'd6
`define FN_SRA     6'd7
`define FN_SLT     6'd8
`define FN_SLTU    6'd9
`define FN_MUL     6'd10
`define FN_MULH    6'd11
`define FN_DIV     6'd12
`define FN_DIVU    6'd13
`define FN_REM     6'd14
`define FN_REMU    6'd15
`define FN_CLZ     6'd16
`define FN_SWAP    6'd17

`define MAP_RAM    4'h0
`define MAP_UART   4'h8
`define MAP_TIMER  4'h9
`define MAP_GATES  4'hA
`define MAP_IRQ    4'hB

// bits(n): how many bits number n things; written as a macro because old tools had no $clog2
`define BITS_OF(n) ((n) <= 2 ? 1 : (n) <= 4 ? 2 : (n) <= 8 ? 3 : (n) <= 16 ? 4 : (n) <= 32 ? 5 : (n) <= 64 ? 6 : 7)
`define SIGN_EXT(v, from) {{(32 - (from)){v[(from) - 1]}}, v[(from) - 1:0]}
`define CLOCKED_RESET(clk, rst_n) always @(posedge clk or negedge rst_n)

`endif
