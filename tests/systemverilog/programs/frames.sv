package net;
  typedef bit [7:0] byte_t;
  typedef byte_t bytes_t[$];
  typedef enum bit [15:0] {LEVEL = 16'h0800, GATE = 16'h0806, ALARM = 16'h86dd} kind_e;
  typedef struct packed { bit [47:0] dst, src; kind_e kind; } head_t;
  typedef struct { string who; int hits; byte_t last[$]; } stat_t;

  interface class printable;
    pure virtual function string show();
  endclass
  interface class packable;
    pure virtual function bytes_t pack();
    pure virtual function int unpack(bytes_t b, int from = 0);
  endclass

  function automatic bit [31:0] crc32(input bytes_t b, input int n = -1);
    crc32 = '1;
    if (n < 0) n = b.size();
    foreach (b[i]) begin
      if (i >= n) break;
      crc32 ^= b[i];
      repeat (8) crc32 = crc32[0] ? (crc32 >> 1) ^ 32'hEDB88320 : crc32 >> 1;
    end
    crc32 = ~crc32;
  endfunction

  virtual class frame implements printable, packable;
    static int unsigned made[string];
    const int unsigned id;
    local static int unsigned next_id = 100;
    protected head_t head;
    byte_t payload[];
    extern function new(kind_e kind, input byte_t fill[] = '{});
    extern virtual function string show();
    extern virtual function bytes_t pack();
    extern virtual function int unpack(bytes_t b, int from = 0);
    pure virtual function string type_name();
    static function frame create(kind_e k);
      case (k)
        LEVEL: begin level_frame f = new; return f; end
        GATE: begin gate_frame f = new(.open(1)); return f; end
        default: return null;
      endcase
    endfunction
    function frame tagged_with(bit [47:0] dst); head.dst = dst; return this; endfunction
    function bit [47:0] dst(); return head.dst; endfunction
  endclass

  function frame::new(kind_e kind, input byte_t fill[] = '{});
    id = next_id++;
    head = '{dst: '1, src: 48'h02_00_00_00_00_00 | id, kind: kind};
    payload = new[fill.size()](fill);
    made[type_name()]++;
  endfunction
  function string frame::show();
    return $sformatf("%s#%0d %h>%h %s %p", type_name(), id, head.src, head.dst, head.kind.name(), payload);
  endfunction
  function bytes_t frame::pack();
    bytes_t b;
    bit [31:0] crc;
    {>>{b}} = {>>{head, payload}};
    while (b.size() < 18) b.push_back(0);
    crc = crc32(b);
    b = {b, crc[7:0], crc[15:8], crc[23:16], crc[31:24]};
    return b;
  endfunction
  function int frame::unpack(bytes_t b, int from = 0);
    bytes_t rest;
    if (b.size() - from < 22) return -1;
    rest = b[from : $];
    begin
      automatic byte_t h[14];
      foreach (h[i]) h[i] = rest.pop_front();
      head = head_t'(h);
    end
    payload = rest[0 : $-4];
    return crc32(b, b.size() - 4) == {b[$], b[$-1], b[$-2], b[$-3]};
  endfunction

  class level_frame extends frame;
    bit [15:0] mm;
    function new(bit [15:0] mm = 1000); super.new(LEVEL, '{mm[15:8], mm[7:0]}); this.mm = mm; endfunction
    virtual function string type_name(); return "level"; endfunction
    virtual function string show(); return {super.show(), $sformatf(" mm=%0d", mm)}; endfunction
    virtual function int unpack(bytes_t b, int from = 0);
      unpack = super.unpack(b, from);
      if (unpack > 0) mm = {payload[0], payload[1]};
    endfunction
  endclass
  class gate_frame extends frame;
    bit open; int unsigned tags[$];
    function new(bit open, int unsigned tags[$] = {});
      super.new(GATE);
      this.open = open; this.tags = tags;
      payload = {<<8{32'(tags.size()), open}};
    endfunction
    virtual function string type_name(); return "gate"; endfunction
  endclass

  class switch #(int PORTS = 4, type F = frame);
    typedef F frames_t[$];
    local frames_t queues[PORTS];
    local int where[bit [47:0]];
    stat_t stats[PORTS];
    event arrived[PORTS];
    function new(); foreach (stats[i]) stats[i] = '{$sformatf("port%0d", i), 0, '{}}; endfunction
    function void learn(bit [47:0] a, int p); where[a] = p; endfunction
    function int unsigned send(F f, int from);
      int targets[$];
      if (where.exists(f.dst())) targets = '{where[f.dst()]};
      else for (int p = 0; p < PORTS; p++) if (p != from) targets.push_back(p);
      foreach (targets[i]) begin
        queues[targets[i]].push_back(f);
        stats[targets[i]].hits++;
        stats[targets[i]].last = f.pack();
        -> arrived[targets[i]];
      end
      return targets.size();
    endfunction
    task receive(int p, output F f);
      while (queues[p].size() == 0) @(arrived[p]);
      f = queues[p].pop_front();
    endtask
    function frames_t pending(int p); return queues[p]; endfunction
    function int busiest();
      stat_t m[$] = stats.max with (item.hits);
      int at[$] = stats.find_first_index(s) with (s.hits == m[0].hits);
      return at[0];
    endfunction
  endclass
endpackage

module tb;
  import net::*;
  switch #(.PORTS(3)) sw = new;
  typedef switch #(3)::frames_t list_t;
  function automatic string brief(bytes_t b, int n = 4);
    string parts[$];
    foreach (b[i]) if (i < n || i >= b.size() - n) parts.push_back($sformatf("%02x", b[i]));
    foreach (parts[i]) brief = {brief, i ? (i == n ? ".." : ":") : "", parts[i]};
  endfunction
  initial begin
    automatic frame f[$];
    frame g; level_frame lf; gate_frame gf; printable p; packable k; bytes_t raw; list_t waiting;
    int unsigned sums[kind_e]; string names[$]; int order[$]; int u;
    for (int i = 0; i < 3; i++) begin lf = new(1000 * (i + 1)); f.push_back(lf); end
    gf = new(1, '{5, 6, 7}); f = {f[0], gf, f[1:$]};
    foreach (f[i]) begin p = f[i]; $display("%s", p.show()); end
    raw = f[2].pack();
    $display("%0d %s", raw.size(), brief(raw));
    $display("crc %h", crc32('{"1","2","3","4","5","6","7","8","9"}));
    lf = new;
    u = lf.unpack(raw);
    $display("%0d %0d %s", u, lf.mm, lf.show());
    raw[15] ^= 8'h10;
    $display("%0d", lf.unpack(raw));
    k = lf; $display("%0d", k.unpack(raw[0:9]));
    g = frame::create(ALARM); $display("%b", g == null);
    g = frame::create(GATE).tagged_with(48'h42);
    $display("%s %0d", g.show(), $cast(lf, g));
    sw.learn(48'h42, 2);
    fork
      begin frame r; repeat (2) begin sw.receive(2, r); $display("%0t port 2 got %0d", $time, r.id); end end
      begin frame r; sw.receive(0, r); $display("%0t port 0 got %0d", $time, r.id); end
    join_none
    #3 $display("%0d", sw.send(g, 0));
    #2 $display("%0d", sw.send(f[0], 1));
    #1 $display("%0d", sw.send(f[1].tagged_with(48'h43), 2));
    waiting = sw.pending(1);
    foreach (waiting[i]) names.push_back(waiting[i].type_name());
    $display("%p busiest %0d %0d", names, sw.busiest(), sw.stats[1].hits);
    f.sort with (-item.id);
    foreach (f[i]) order.push_back(f[i].id);
    $display("%p %p", order, frame::made);
    foreach (f[i]) if ($cast(lf, f[i])) sums[LEVEL] += lf.mm; else if ($cast(gf, f[i])) sums[GATE] += gf.tags.sum();
    foreach (sums[s]) $display("%s %0d", s.name(), sums[s]);
    $display("%p", sw.stats[0].last[12:15]);
    names = '{"weir", "Lock", "sluice"};
    names.sort with (item.tolower());
    $display("%p %s", names, names.size() ? names[$] : "none");
    order = order.find with (item > 100 && item.index != 1);
    $display("%p %0d %p", order, order.sum with (item - 100), order.unique with (item % 2));
    #1 $finish;
  end
endmodule
