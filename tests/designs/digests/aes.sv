// AES-128 (FIPS 197), enciphering and deciphering; the boxes are computed from the field.
package aes_pkg;
  typedef logic [7:0] byte_t;
  typedef byte_t [0:3] column_t;
  typedef column_t [0:3] state_t;   // state[c][r]: the bytes in the order of the input
  typedef enum bit {ENCRYPT, DECRYPT} way_e;
  typedef byte_t box_t [256];

  function automatic byte_t xtime(byte_t b);
    return {b[6:0], 1'b0} ^ (b[7] ? 8'h1b : 8'h00);
  endfunction

  function automatic byte_t mul(byte_t a, byte_t b);
    byte_t sum = '0;
    foreach (b[i]) sum = xtime(sum) ^ (b[i] ? a : '0);
    return sum;
  endfunction

  function automatic box_t make_box();
    byte_t inverse;
    for (int i = 0; i < 256; i++) begin
      inverse = '0;
      for (int j = 1; j < 256 && i != 0; j++)
        if (mul(byte_t'(i), byte_t'(j)) == 8'd1) begin
          inverse = byte_t'(j);
          break;
        end
      make_box[i] = inverse ^ {inverse[6:0], inverse[7]} ^ {inverse[5:0], inverse[7:6]} ^ {inverse[4:0], inverse[7:5]}
                    ^ {inverse[3:0], inverse[7:4]} ^ 8'h63;
    end
  endfunction

  box_t SBOX = make_box();
  box_t INVERSE_BOX;

  function automatic void fill_inverse();
    foreach (SBOX[i]) INVERSE_BOX[SBOX[i]] = byte_t'(i);
  endfunction

  function automatic state_t substitute(state_t s, way_e way);
    foreach (s[c, r]) substitute[c][r] = way == ENCRYPT ? SBOX[s[c][r]] : INVERSE_BOX[s[c][r]];
  endfunction

  function automatic state_t shift_rows(state_t s, way_e way);
    for (int c = 0; c < 4; c++)
      for (int r = 0; r < 4; r++)
        if (way == ENCRYPT) shift_rows[c][r] = s[(c + r) % 4][r];
        else shift_rows[(c + r) % 4][r] = s[c][r];
  endfunction

  function automatic column_t mix(column_t x, way_e way);
    static byte_t [0:3] forward = {8'd2, 8'd3, 8'd1, 8'd1};
    static byte_t [0:3] backward = {8'd14, 8'd11, 8'd13, 8'd9};
    column_t y = '0;
    for (int r = 0; r < 4; r++)
      for (int k = 0; k < 4; k++)
        y[r] ^= mul(way == ENCRYPT ? forward[(k - r + 4) % 4] : backward[(k - r + 4) % 4], x[k]);
    return y;
  endfunction

  function automatic state_t mix_columns(state_t s, way_e way);
    foreach (s[c]) mix_columns[c] = mix(s[c], way);
  endfunction
endpackage

module aes_core import aes_pkg::*; (
  input logic clk, rst_n,
  input logic start, input way_e way,
  input state_t key, input state_t data_in,
  output state_t data_out, output logic done
);
  column_t words [44];
  state_t state;
  int unsigned round;
  enum logic [1:0] {IDLE, ROUNDS, LAST} phase;

  // the round keys of all rounds at once
  always_comb begin : schedule
    automatic column_t t;
    automatic byte_t rcon = 8'd1;
    for (int i = 0; i < 44; i++) begin
      if (i < 4) words[i] = key[i];
      else begin
        t = words[i - 1];
        if (i % 4 == 0) begin
          t = {t[1:3], t[0]};
          foreach (t[k]) t[k] = SBOX[t[k]];
          t[0] ^= rcon;
          rcon = xtime(rcon);
        end
        words[i] = words[i - 4] ^ t;
      end
    end
  end

  function automatic state_t round_key(int unsigned n);
    for (int c = 0; c < 4; c++) round_key[c] = words[4 * n + c];
  endfunction

  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) begin
      phase <= IDLE;
      done <= 1'b0;
    end else begin
      done <= 1'b0;
      unique case (phase)
        IDLE: if (start) begin
          state <= data_in ^ round_key(way == ENCRYPT ? 0 : 10);
          round <= way == ENCRYPT ? 1 : 9;
          phase <= ROUNDS;
        end
        ROUNDS: begin
          if (way == ENCRYPT) begin
            state <= mix_columns(shift_rows(substitute(state, way), way), way) ^ round_key(round);
            round <= round + 1;
            if (round == 9) phase <= LAST;
          end else begin
            state <= mix_columns(substitute(shift_rows(state, way), way) ^ round_key(round), way);
            round <= round - 1;
            if (round == 1) phase <= LAST;
          end
        end
        LAST: begin
          data_out <= substitute(shift_rows(state, way), way) ^ round_key(way == ENCRYPT ? 10 : 0);
          phase <= IDLE;
          done <= 1'b1;
        end
        default: phase <= IDLE;
      endcase
    end
endmodule

module aes_tb;
  import aes_pkg::*;
  bit clk, rst_n, start;
  way_e way;
  state_t key, in, out;
  logic done;
  always #5 clk = ~clk;
  aes_core dut (.clk, .rst_n, .start, .way, .key, .data_in(in), .data_out(out), .done);

  task automatic once(input way_e w, input state_t k, x, output state_t y);
    @(negedge clk);
    {way, key, in, start} = {w, k, x, 1'b1};
    @(negedge clk) start = 0;
    @(posedge clk iff done);
    y = out;
  endtask

  initial begin
    state_t cipher, plain;
    fill_inverse();
    $display("%h %h %h %h", SBOX[0], SBOX[8'h53], INVERSE_BOX[8'hed], mul(8'h57, 8'h83));
    #12 rst_n = 1;
    once(ENCRYPT, 128'h2b7e151628aed2a6abf7158809cf4f3c, 128'h3243f6a8885a308d313198a2e0370734, cipher);
    $display("%h", cipher);
    once(ENCRYPT, 128'h000102030405060708090a0b0c0d0e0f, 128'h00112233445566778899aabbccddeeff, cipher);
    $display("%h", cipher);
    once(DECRYPT, 128'h000102030405060708090a0b0c0d0e0f, cipher, plain);
    $display("%h %0t", plain, $time);
    $finish(0);
  end
endmodule
