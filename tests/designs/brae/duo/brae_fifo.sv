// A queue of any type; what is pushed is seen a clock later.
module brae_fifo #(
    parameter type T = logic [7:0],
    parameter int unsigned DEPTH = 4,
    localparam int unsigned AW = DEPTH > 1 ? $clog2(DEPTH) : 1
) (
    input  logic        clk,
    input  logic        rst_n,
    input  logic        flush,
    input  logic        push,
    input  T            din,
    input  logic        pop,
    output T            dout,
    output logic        empty,
    output logic        full,
    output logic [AW:0] level
);
  T              mem[DEPTH];
  logic [AW-1:0] rd, wr;

  function automatic logic [AW-1:0] next(logic [AW-1:0] x);
    return x == AW'(DEPTH - 1) ? '0 : x + 1'b1;
  endfunction

  assign dout  = mem[rd];
  assign empty = level == '0;
  assign full  = level == (AW + 1)'(DEPTH);

  always_ff @(posedge clk or negedge rst_n) begin
    if (!rst_n) begin
      rd <= '0;
      wr <= '0;
      level <= '0;
    end else if (flush) begin
      rd <= '0;
      wr <= '0;
      level <= '0;
    end else begin
      if (push && !full) wr <= next(wr);
      if (pop && !empty) rd <= next(rd);
      case ({push && !full, pop && !empty})
        2'b10: level <= level + 1'b1;
        2'b01: level <= level - 1'b1;
        default: ;
      endcase
    end
  end

  always_ff @(posedge clk)
    if (push && !full) mem[wr] <= din;

  initial assert (DEPTH >= 1) else $fatal(1, "a queue of nothing");
endmodule : brae_fifo
