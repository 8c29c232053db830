`timescale 1ns/10ps
// Cells of the library that the core uses by name.
`celldefine
primitive brae_udp_dffr (q, d, clk, rn);
  output q; reg q;
  input d, clk, rn;
  initial q = 1'b0;
  table
  // d clk rn : q : q+
     0 (01) 1 : ? : 0;
     1 (01) 1 : ? : 1;
     0 (0x) 1 : 0 : 0;
     1 (0x) 1 : 1 : 1;
     ? (?0) 1 : ? : -;
     ? (1x) 1 : ? : -;
     * ?    ? : ? : -;
     ? ?    0 : ? : 0;
     ? ? (0?) : ? : -;
     ? ? (1x) : 0 : 0;
  endtable
endprimitive

module brae_dffr (q, d, clk, rn);
  output q;
  input d, clk, rn;
  wire qi;
  brae_udp_dffr u (qi, d, clk, rn);
  buf (q, qi);
  specify
    specparam tpd = 0.05, tclr = 0.04;
    (posedge clk => (q +: d)) = (tpd, tpd);
    (negedge rn => (q +: 1'b0)) = tclr;
    $width(negedge rn, 1);
  endspecify
endmodule

module brae_sync #(parameter W = 1, STAGES = 2) (input [W-1:0] d, input clk, rn, output [W-1:0] q);
  wire [W-1:0] stage [0:STAGES];
  genvar s, b;
  assign stage[0] = d;
  generate
    for (s = 0; s < STAGES; s = s + 1) begin : st
      for (b = 0; b < W; b = b + 1) begin : bit
        brae_dffr ff (.q(stage[s+1][b]), .d(stage[s][b]), .clk(clk), .rn(rn));
      end
    end
  endgenerate
  assign q = stage[STAGES];
endmodule
`endcelldefine
