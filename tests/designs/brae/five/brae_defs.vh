// What the units of the five-stage core share. BRAE_NO_ICACHE leaves the cache out, BRAE_SLOW_MUL multiplies bit by bit.
`ifndef BRAE_DEFS
`define BRAE_DEFS

`define WORD        [31:0]
`define REGNO       [4:0]
`define FIELD(hi, lo)  [hi:lo]

`define F_OP        31:26
`define F_D         25:21
`define F_A         20:16
`define F_B         15:11
`define F_FN        10:0
`define F_IMM       15:0

`define OP_R        6'd0
`define OP_ADDI     6'd1
`define OP_ANDI     6'd2
`define OP_ORI      6'd3
`define OP_XORI     6'd4
`define OP_SLTI     6'd5
`define OP_SLTIU    6'd6
`define OP_SLLI     6'd7
`define OP_SRLI     6'd8
`define OP_SRAI     6'd9
`define OP_LUI      6'd10
`define OP_AUIPC    6'd11
`define OP_LB       6'b010000
`define OP_LH       6'b010001
`define OP_LW       6'b010010
`define OP_LBU      6'b010011
`define OP_LHU      6'b010100
`define OP_SB       6'b010101
`define OP_SH       6'b010110
`define OP_SW       6'b010111
`define OP_SWP      6'b011000
`define OP_FAD      6'b011001
`define OP_JAL      6'd40
`define OP_JALR     6'd41
`define OP_CSRRW    6'd48
`define OP_CSRRS    6'd49
`define OP_CSRRC    6'd50
`define OP_ECALL    6'd56
`define OP_ERET     6'd57
`define OP_HALT     6'd59

`define FN_MUL      5'd16
`define FN_REMU     5'd22
`define FN_SUBS     5'd30

`define CAUSE_MISALIGNED  32'd1
`define CAUSE_ILLEGAL     32'd2
`define CAUSE_CALL        32'd3

`define SEXT16(x)   {{16{x[15]}}, x}
`define ZEXT16(x)   {16'h0000, x}
`define RESET_OR(r) posedge clk or negedge r

// tells what went wrong, but goes on
`define CHECK(cond, msg) \
  if ((cond) !== 1'b1) begin \
    $display("%m at %0t: %s", $time, msg); \
    errors = errors + 1; \
  end

`endif
