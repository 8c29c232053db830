// types and packed data
module tb;
  typedef enum logic [2:0] {IDLE = 3'd1, RUN, WAIT = 3'd5, DONE} st_t;
  typedef union packed { logic [31:0] w; logic [3:0][7:0] b; struct packed { logic [15:0] hi, lo; } h; } u_t;
  typedef struct packed signed { logic [3:0] a; logic signed [3:0] b; bit c; } s_t;
  typedef struct { st_t st; u_t u; int arr[3]; string s; } rec_t;
  localparam int TABLE[4] = '{default: 3, 2: 9}; localparam rec_t R0 = '{IDLE, 32'h1234_5678, '{1,2,3}, "r0"};
  parameter st_t S = RUN; let max(a, b) = a > b ? a : b;
  function automatic rec_t mk(int k); mk = R0; mk.st = st_t'(k); mk.arr[k % 3] = k; mk.s = {mk.s, "+"}; endfunction
  st_t st; u_t u; s_t s; rec_t r, r2; logic [1:0][2:0][3:0] p3; logic signed [7:0] sb; byte by; shortint si; longint li; integer in; time ti; real re; shortreal sr; bit [3:0] nib; logic [7:0] mem[int]; wire [7:0] w8 = by;
  initial begin
    st = st.first(); do begin $write("%s=%0d ", st.name(), st); st = st.next(); end while (st != st.first()); $display(" num %0d last %s prev %s", st.num(), st.last().name(), st.prev(2).name());
    st = st_t'(4); $display("[%s] %0d", st.name(), st); if (!$cast(st, 3)) $display("no"); else $display("%s", st.name);
    u.w = 32'hA1B2C3D4; $display("%h %h %h %h", u.b[3], u.b[0], u.h.hi, u.h.lo); u.b[1] = 8'hFF; u.h.hi[3:0]++; $display("%h", u);
    s = '{a: 4'hF, b: -3, c: 1}; $display("%0d %b %0d %p", s, s, s.b, s); s = -1; $display("%0d %0d", s.a, s.b); s.b >>>= 1; $display("%b", s);
    r = mk(5); r2 = r; r2.arr[0] = 100; $display("%p", r); $display("%p %b", r2, r == r2); r2 = '{default: 0, s: "zz", st: DONE, u: '1}; $display("%p", r2);
    p3 = 24'h123456; $display("%h %h %h %0d %0d", p3[1], p3[0][2], p3[1][1][2:1], $bits(p3), $size(p3, 2)); p3[1][0] = '1; $display("%h", p3); $display("%0d %0d %0d %0d", $left(p3), $right(p3, 3), $high(p3,2), $dimensions(p3));
    sb = -100; by = sb + 8'd50; si = by * 4; li = {si, by}; $display("%0d %0d %0d %0d", sb, by, si, li); in = 'x; by = in; $display("%0d %b", by, in[3:0]);
    re = 7.5; si = re; by = -2.5; $display("%0d %0d %0d %0d", si, by, int'(2.5), int'(-0.5)); sr = 0.1; $display("%0.10f", sr);
    nib = 20; $display("%0d %0d", nib, 4'(20) + 5'd1); $display("%0d %0d", max(3, 9), max(-1, 2)); $display("%p %0d %s", TABLE, R0.u.b[1], S.name());
    mem[5] = 1; mem[-3] = 2; mem[100] = 8'hAA; $display("%p %0d", mem, mem.num()); foreach (mem[k]) $write("%0d:%h ", k, mem[k]); $display;
    $display("%b %b %b", 4'b1x0z ==? 4'b1?0?, 4'b1010 inside {4'b1x1x, [0:3]}, 5 inside {[1:4], 7});
    $display("%b %b %b", 'x === 1'bx, '1 == 16'hFFFF, '0 + 4'd3); $display("%0d %0d", 8'sd100 + 8'sd100, int'(8'sd100) + 8'sd100);
    $display("%s|%5s|%-5s|%05d|%x|%o|%e|%g", "ab", "ab", "ab", 42, 8'hAB, 8'o17, 12345.678, 0.0001);
    unique case (st) IDLE, RUN: $display("a"); default: $display("d"); endcase
    priority if (nib > 3) $display("p1"); else if (nib > 1) $display("p2"); else $display("p3");
  end
endmodule
