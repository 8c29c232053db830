// fixed-point radix-2 FFT with a reference in real numbers
`timescale 1ns/1ps
package fft_pkg;
  parameter int N = 16, W = 16, F = 14;
  parameter int STAGES = $clog2(N);
  typedef logic signed [W-1:0] sample_t;
  typedef struct packed { sample_t re, im; } complex_t;
  typedef struct { real re, im; } rcomplex_t;
  localparam real PI = 3.14159265358979323846;
  function automatic int bit_reverse(int x);
    int r = 0;
    for (int i = 0; i < STAGES; i++) r |= ((x >> i) & 1) << (STAGES - 1 - i);
    return r;
  endfunction
  typedef sample_t table_t [N/2];
  function automatic table_t make_cos();
    for (int k = 0; k < N/2; k++) make_cos[k] = sample_t'($rtoi($cos(2.0*PI*k/N) * (1 << F) + ($cos(2.0*PI*k/N) < 0 ? -0.5 : 0.5)));
  endfunction
  function automatic table_t make_sin();
    for (int k = 0; k < N/2; k++) make_sin[k] = sample_t'($rtoi(-$sin(2.0*PI*k/N) * (1 << F) - ($sin(2.0*PI*k/N) < 0 ? -0.5 : 0.5)));
  endfunction
  localparam table_t COS = make_cos(), SIN = make_sin();
endpackage

module butterfly import fft_pkg::*; #(parameter bit SCALE = 1) (
  input  complex_t a, b, w,
  output complex_t x, y
);
  logic signed [2*W-1:0] p [4];
  logic signed [W:0] tre, tim;
  always_comb begin
    p = '{b.re * w.re, b.im * w.im, b.re * w.im, b.im * w.re};
    tre = (W+1)'((p[0] - p[1] + (1 <<< (F-1))) >>> F);
    tim = (W+1)'((p[2] + p[3] + (1 <<< (F-1))) >>> F);
    x.re = W'((a.re + tre) >>> SCALE); x.im = W'((a.im + tim) >>> SCALE);
    y.re = W'((a.re - tre) >>> SCALE); y.im = W'((a.im - tim) >>> SCALE);
  end
endmodule

module fft import fft_pkg::*; (
  input  logic clk, rst_n, start,
  input  complex_t din [N],
  output logic done,
  output complex_t dout [N]
);
  complex_t mem [N];
  logic [$clog2(STAGES+1)-1:0] stage;
  complex_t nxt [N];
  genvar s, k;
  complex_t cand [STAGES][N];
  generate
    for (s = 0; s < STAGES; s++) begin : g_stage
      localparam int HALF = 1 << s;
      for (k = 0; k < N/2; k++) begin : g_bf
        localparam int TOP = (k / HALF) * 2 * HALF + k % HALF;
        localparam int TW = (k % HALF) * (N / (2 * HALF));
        complex_t w;
        assign w = '{re: COS[TW], im: SIN[TW]};
        butterfly #(.SCALE(1'b1)) u_bf (.a(mem[TOP]), .b(mem[TOP + HALF]), .w(w), .x(cand[s][TOP]), .y(cand[s][TOP + HALF]));
      end
    end
  endgenerate
  always_comb begin
    nxt = mem;
    for (int i = 0; i < STAGES; i++) if (stage == i) nxt = cand[i];
  end
  typedef enum logic [1:0] {IDLE, BUSY, LAST} state_t;
  state_t state;
  always_ff @(posedge clk or negedge rst_n)
    if (!rst_n) begin state <= IDLE; stage <= '0; done <= 1'b0; mem <= '{default: '0}; end
    else begin
      done <= 1'b0;
      unique case (state)
        IDLE: if (start) begin foreach (mem[i]) mem[bit_reverse(i)] <= din[i]; stage <= '0; state <= BUSY; end
        BUSY: begin mem <= nxt; if (stage == STAGES-1) state <= LAST; else stage <= stage + 1'b1; end
        LAST: begin done <= 1'b1; state <= IDLE; end
      endcase
    end
  assign dout = mem;
endmodule

module tb;
  import fft_pkg::*;
  logic clk = 0, rst_n = 0, start = 0, done;
  complex_t din [N], dout [N];
  rcomplex_t rin [N], rout [N];
  fft dut (.*);
  always #5 clk = ~clk;
  function automatic void reference(input rcomplex_t x [N], output rcomplex_t y [N]);
    for (int k = 0; k < N; k++) begin
      y[k] = '{0.0, 0.0};
      for (int n = 0; n < N; n++) begin
        automatic real ang = -2.0 * PI * k * n / N;
        y[k].re += x[n].re * $cos(ang) - x[n].im * $sin(ang);
        y[k].im += x[n].re * $sin(ang) + x[n].im * $cos(ang);
      end
      y[k].re /= N; y[k].im /= N;
    end
  endfunction
  function automatic real abs(real x); return x < 0.0 ? -x : x; endfunction
  real worst, e;
  int seed = 7;
  initial begin
    repeat (3) @(negedge clk); rst_n = 1;
    for (int t = 0; t < 4; t++) begin
      foreach (din[i]) begin
        case (t)
          0: rin[i] = '{i == 0 ? 0.9 : 0.0, 0.0};
          1: rin[i] = '{0.7 * $cos(2.0*PI*3*i/N), 0.7 * $sin(2.0*PI*3*i/N)};
          2: rin[i] = '{i % 2 ? -0.5 : 0.5, 0.25};
          default: rin[i] = '{$dist_uniform(seed, -16000, 16000) / 16384.0 * 0.7, $dist_uniform(seed, -16000, 16000) / 16384.0 * 0.7};
        endcase
        din[i].re = sample_t'($rtoi(rin[i].re * (1 << F))); din[i].im = sample_t'($rtoi(rin[i].im * (1 << F)));
      end
      @(negedge clk) start = 1; @(negedge clk) start = 0;
      @(posedge done); @(negedge clk);
      reference(rin, rout);
      worst = 0.0;
      foreach (dout[i]) begin
        e = abs($itor(dout[i].re) / (1 << F) - rout[i].re); if (e > worst) worst = e;
        e = abs($itor(dout[i].im) / (1 << F) - rout[i].im); if (e > worst) worst = e;
      end
      $display("test %0d: worst %s, dout[3] = %0d %0d", t, worst < 0.001 ? "ok" : $sformatf("%f", worst), dout[3].re, dout[3].im);
    end
    $finish;
  end
  property p_done; @(posedge clk) disable iff (!rst_n) start |-> ##[1:8] done; endproperty
  assert property (p_done) else $error("late");
endmodule
