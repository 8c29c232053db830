module tb;
  // 1. packet processing with structs, unions, streaming, checksums
  typedef struct packed { bit [3:0] ver, ihl; bit [7:0] tos; bit [15:0] len; } hdr_t;
  typedef struct { hdr_t h; byte unsigned payload[$]; int crc; } pkt_t;
  typedef byte unsigned bytes_t[];
  function automatic bytes_t pack(pkt_t p); bytes_t b; b = new[4 + p.payload.size()]; {b[0], b[1], b[2], b[3]} = p.h; foreach (p.payload[i]) b[4 + i] = p.payload[i]; return b; endfunction
  function automatic pkt_t unpack(bytes_t b); unpack.h = {b[0], b[1], b[2], b[3]}; for (int i = 4; i < b.size(); i++) unpack.payload.push_back(b[i]); unpack.crc = crc(b); endfunction
  function automatic int unsigned crc(bytes_t b); crc = '1; foreach (b[i]) begin crc ^= b[i]; repeat (8) crc = crc[0] ? (crc >> 1) ^ 32'hEDB88320 : crc >> 1; end crc = ~crc; endfunction
  // 2. state machine with tables
  typedef enum bit [2:0] {S0, S1, S2, S3} st_t; typedef struct { st_t from; bit in; st_t to; string act; } tr_t;
  tr_t table_[$] = '{'{S0, 0, S0, "stay"}, '{S0, 1, S1, "go"}, '{S1, 0, S2, "half"}, '{S1, 1, S1, "wait"}, '{S2, 1, S3, "done"}, '{S2, 0, S0, "reset"}};
  function automatic st_t step(st_t s, bit i, output string act); foreach (table_[k]) if (table_[k].from == s && table_[k].in == i) begin act = table_[k].act; return table_[k].to; end act = "none"; return s; endfunction
  // 3. matrix and fixed point
  typedef real mat_t[2][2]; function automatic mat_t mul(mat_t a, b); foreach (mul[i, j]) begin mul[i][j] = 0; for (int k = 0; k < 2; k++) mul[i][j] += a[i][k] * b[k][j]; end endfunction
  function automatic logic signed [15:0] q8(real r); return 16'(longint'(r * 256.0)); endfunction function automatic real to_r(logic signed [15:0] q); return q / 256.0; endfunction
  // 4. string utilities
  function automatic void split(string s, byte sep, ref string out[$]); string cur = ""; for (int i = 0; i < s.len(); i++) if (s[i] == sep) begin out.push_back(cur); cur = ""; end else cur = {cur, s.substr(i, i)}; out.push_back(cur); endfunction
  function automatic string join_(string q[$], string sep); foreach (q[i]) join_ = {join_, i ? sep : "", q[i]}; endfunction
  function automatic string rev(string s); for (int i = s.len() - 1; i >= 0; i--) rev = {rev, s[i]}; endfunction
  function automatic bit is_pal(string s); return s == rev(s); endfunction
  // 5. bit tricks
  function automatic int ffs(logic [31:0] v); for (int i = 0; i < 32; i++) if (v[i]) return i; return -1; endfunction
  function automatic logic [7:0] gray(logic [7:0] b); return b ^ (b >> 1); endfunction
  function automatic logic [7:0] ungray(logic [7:0] g); ungray[7] = g[7]; for (int i = 6; i >= 0; i--) ungray[i] = ungray[i + 1] ^ g[i]; endfunction
  // 6. priority queue by associative array; dijkstra
  function automatic void dijkstra(int w[string][string], string src, ref int dst[string]); string todo[$]; dst[src] = 0; todo.push_back(src);
    while (todo.size()) begin int best = 0; string u; foreach (todo[i]) if (dst[todo[i]] < dst[todo[best]]) best = i; u = todo[best]; todo.delete(best);
      if (w.exists(u)) foreach (w[u][v]) if (!dst.exists(v) || dst[u] + w[u][v] < dst[v]) begin dst[v] = dst[u] + w[u][v]; todo.push_back(v); end end endfunction
  initial begin
    pkt_t p, r; bytes_t b; st_t s = S0; string act, parts[$]; mat_t m = '{'{1.0, 2.0}, '{3.0, 4.0}}, x; int w[string][string], dst[string]; bit seq[] = '{1, 1, 0, 0, 1, 0, 1};
    p.h = '{4'd4, 4'd5, 8'h10, 16'd28}; p.payload = '{"H", "i", "!"}; b = pack(p); r = unpack(b); $display("%p", b); $display("%h %p %0h %b", r.h, r.payload, r.crc, r.h == p.h);
    foreach (seq[i]) begin s = step(s, seq[i], act); $write("%s:%s ", s.name(), act); end $display;
    x = mul(m, m); $display("%p", x); $display("%h %0.3f %h", q8(-1.5), to_r(q8(3.14159)), q8(0.998));
    split("lock,gate,,sluice", ",", parts); $display("%0d [%s] %s %b%b", parts.size(), join_(parts, "|"), rev("weir"), is_pal("level"), is_pal("gate"));
    $display("%0d %0d %b %0d", ffs(32'h50), ffs(0), gray(8'd100), ungray(gray(8'd100)));
    w["a"]["b"] = 4; w["a"]["c"] = 1; w["c"]["b"] = 2; w["b"]["d"] = 5; w["c"]["d"] = 9; dijkstra(w, "a", dst); $display("%p", dst);
    $display("%s %s %s", "abc".toupper(), $sformatf("%-6s|%6s|%06.2f", "ab", "cd", 3.14159), {"x", "y"}); $display("%0d %0d %h %s", "123".atoi(), "ff".atohex(), "1010".atobin(), string'(16'h4142));
    begin string t; t.itoa(-45); $write("%s ", t); t.hextoa(255); $write("%s ", t); t.realtoa(2.5); $write("%s ", t); t = "hello"; t.putc(0, "J"); t[4] = "y"; $display("%s %0d %s %0d", t, t.getc(1), t.substr(1, 3), t.compare("Jelly")); end
    begin automatic int v = 10; fork automatic int k = v; begin #1 $display("k=%0d v=%0d", k, v); end join_none v = 20; end #2;
    $display("%0t %s", $time, p.payload.size() > 2 ? "long" : "short");
  end
endmodule
