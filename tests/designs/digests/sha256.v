// SHA-256 (FIPS 180-4): one round a clock, the schedule in a sliding window of sixteen words.
`timescale 1ns/1ns
`define ROTR(x, n) {x[(n) - 1:0], x[31:(n)]}
module sha256_core (clk, rst, init, next, block, digest, ready);
  input clk, rst, init, next;
  input [511:0] block;
  output [255:0] digest;
  output ready;

  reg [31:0] h [0:7];
  reg [31:0] w [0:15];
  reg [31:0] a, b, c, d, e, f, g, hh;
  reg [6:0] round;
  reg busy;
  wire [31:0] k;
  sha256_constants rom (.round(round[5:0]), .k(k));

  assign ready = ~busy;
  genvar n;
  generate
    for (n = 0; n < 8; n = n + 1) begin : out
      assign digest[32 * (7 - n) +: 32] = h[n];
    end
  endgenerate

  function [31:0] big0;   input [31:0] x; big0 = `ROTR(x, 2) ^ `ROTR(x, 13) ^ `ROTR(x, 22); endfunction
  function [31:0] big1;   input [31:0] x; big1 = `ROTR(x, 6) ^ `ROTR(x, 11) ^ `ROTR(x, 25); endfunction
  function [31:0] small0; input [31:0] x; small0 = `ROTR(x, 7) ^ `ROTR(x, 18) ^ (x >> 3); endfunction
  function [31:0] small1; input [31:0] x; small1 = `ROTR(x, 17) ^ `ROTR(x, 19) ^ (x >> 10); endfunction

  wire [31:0] t1 = hh + big1(e) + ((e & f) ^ (~e & g)) + k + w[0];
  wire [31:0] t2 = big0(a) + ((a & b) ^ (a & c) ^ (b & c));
  wire [31:0] fresh = small1(w[14]) + w[9] + small0(w[1]) + w[0];

  task load;
    integer i;
    begin
      for (i = 0; i < 16; i = i + 1) w[i] <= block[511 - 32 * i -: 32];
      round <= 0;
      busy <= 1;
    end
  endtask

  integer j;
  always @(posedge clk or posedge rst)
    if (rst) begin
      busy <= 0;
      round <= 0;
    end else if (init || next) begin
      load;
      if (init) begin
        {h[0], h[1], h[2], h[3]} <= 128'h6a09e667_bb67ae85_3c6ef372_a54ff53a;
        {h[4], h[5], h[6], h[7]} <= 128'h510e527f_9b05688c_1f83d9ab_5be0cd19;
        {a, b, c, d, e, f, g, hh} <= 256'h6a09e667_bb67ae85_3c6ef372_a54ff53a_510e527f_9b05688c_1f83d9ab_5be0cd19;
      end else
        {a, b, c, d, e, f, g, hh} <= digest;
    end else if (busy) begin
      if (round == 64) begin
        busy <= 0;
        h[0] <= h[0] + a; h[1] <= h[1] + b; h[2] <= h[2] + c; h[3] <= h[3] + d;
        h[4] <= h[4] + e; h[5] <= h[5] + f; h[6] <= h[6] + g; h[7] <= h[7] + hh;
      end else begin
        for (j = 0; j < 15; j = j + 1) w[j] <= w[j + 1];
        w[15] <= fresh;
        {hh, g, f} <= {g, f, e};
        e <= d + t1;
        {d, c, b} <= {c, b, a};
        a <= t1 + t2;
        round <= round + 1;
      end
    end
endmodule

// The constants are the first 32 bits of the fractions of the cube roots of the first 64 primes: they are computed, not listed.
module sha256_constants (input [5:0] round, output [31:0] k);
  reg [31:0] rom [0:63];
  assign k = rom[round];

  // the greatest x with x * x * x <= n << 96, whose low 32 bits are the fraction
  function [35:0] cube_root(input [127:0] n);
    reg [127:0] target;
    reg [127:0] trial;
    integer bit_number;
    begin
      target = n << 96;
      cube_root = 0;
      for (bit_number = 35; bit_number >= 0; bit_number = bit_number - 1) begin
        trial = cube_root | (36'd1 << bit_number);
        if (trial * trial * trial <= target) cube_root = trial[35:0];
      end
    end
  endfunction

  function is_prime(input integer n);
    integer q;
    begin : search
      is_prime = 1;
      for (q = 2; q * q <= n; q = q + 1)
        if (n % q == 0) begin
          is_prime = 0;
          disable search;
        end
    end
  endfunction

  integer p, found;
  initial begin
    found = 0;
    for (p = 2; found < 64; p = p + 1)
      if (is_prime(p)) begin
        rom[found] = cube_root(p);
        found = found + 1;
      end
  end
endmodule

module sha256_tb;
  reg clk = 0, rst = 1, init = 0, next = 0;
  reg [511:0] block;
  wire [255:0] digest;
  wire ready;
  sha256_core dut (clk, rst, init, next, block, digest, ready);
  always #5 clk = ~clk;

  reg [8*64-1:0] text;
  task run(input first);
    begin
      @(negedge clk) if (first) init = 1; else next = 1;
      @(negedge clk) {init, next} = 0;
      wait (ready);
    end
  endtask

  // a message of up to 55 bytes that stands at the right end of `text`
  task hash_text(input integer size);
    reg [511:0] padded;
    begin
      padded = text << (512 - 8 * size);
      padded = padded | (512'h80 << (504 - 8 * size));
      padded[63:0] = 8 * size;
      block = padded;
      run(1);
      $display("%0s: %h", text, digest);
    end
  endtask

  initial begin
    #12 rst = 0;
    $display("%h %h", dut.rom.rom[0], dut.rom.rom[63]);
    text = "abc"; hash_text(3);
    text = "Tarnwick Lock"; hash_text(13);
    // two blocks (FIPS 180-4, second example)
    block = {"abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq", 8'h80, 56'd0};
    run(1);
    block = 448;
    run(0);
    $display("%h", digest);
    $finish(0);
  end
endmodule
