// caches that agree through a directory: classes that name each other, semaphores, arrays of objects in objects
package proto;
  typedef enum bit [1:0] {I, S, M} st_t;
  typedef enum {RD, WR, EV} kind_t;
  typedef struct { kind_t kind; int cpu; bit [7:0] addr; int data; } req_t;
  typedef class cache; typedef class directory;
  class stats; static int c[string]; static function void inc(string s, int by = 1); c[s] += by; endfunction endclass
  class line; st_t st = I; int data; endclass
  class cache;
    int id; directory dir; line lines[bit [7:0]]; semaphore busy = new(1);
    function new(int id, directory dir); this.id = id; this.dir = dir; endfunction
    function line get(bit [7:0] a); if (!lines.exists(a)) lines[a] = new; return lines[a]; endfunction
    task automatic access(req_t r, output int data);
      line l;
      busy.get();
      l = get(r.addr);
      case (r.kind)
        RD: begin
          if (l.st == I) begin stats::inc("miss"); dir.fetch(this, r.addr, 0, l.data); l.st = S; end else stats::inc("hit");
          data = l.data;
        end
        WR: begin
          if (l.st != M) begin stats::inc("upgrade"); dir.fetch(this, r.addr, 1, l.data); l.st = M; end else stats::inc("hit");
          l.data = r.data; data = r.data;
        end
        EV: begin if (l.st == M) dir.put(r.addr, l.data); l.st = I; data = 0; end
      endcase
      busy.put();
    endtask
    function void snoop(bit [7:0] a, bit own, output bit dirty, output int data);
      line l = get(a);
      dirty = l.st == M; data = l.data;
      if (own) l.st = I; else if (dirty) l.st = S;
    endfunction
  endclass
  class directory;
    cache all[$]; int mem[bit [7:0]] = '{default: -1}; local semaphore turn = new(1); int unsigned order[$];
    task fetch(cache who, bit [7:0] a, bit own, output int data);
      bit d; int v; bit found = 0;
      turn.get();
      #2;
      foreach (all[i]) if (all[i] != who) begin
        all[i].snoop(a, own, d, v);
        if (d) begin found = 1; data = v; mem[a] = v; end
      end
      if (!found) data = mem[a];
      order.push_back(who.id * 256 + a);
      turn.put();
    endtask
    function void put(bit [7:0] a, int v); mem[a] = v; endfunction
  endclass
endpackage
module tb;
  import proto::*;
  directory dir = new; cache c[3]; int results[int][$]; event phase[3];
  task automatic play(int id, req_t script[]);
    int v;
    foreach (script[i]) begin c[id].access(script[i], v); results[id].push_back(v); #(id + 1); end
    -> phase[id];
  endtask
  initial begin
    automatic req_t a[] = '{'{WR, 0, 8'h10, 5}, '{RD, 0, 8'h10, 0}, '{RD, 0, 8'h20, 0}, '{EV, 0, 8'h10, 0}};
    automatic req_t b[] = '{'{RD, 1, 8'h10, 0}, '{WR, 1, 8'h10, 7}, '{kind: RD, cpu: 1, addr: 8'h10, data: 0}};
    foreach (c[i]) begin c[i] = new(i, dir); dir.all.push_back(c[i]); end
    fork
      play(0, a);
      play(1, b);
      begin int v; @(phase[0]); c[2].access('{RD, 2, 8'h10, 0}, v); $display("%0t: %0d", $time, v); end
    join
    foreach (results[i]) $display("%0d: %p", i, results[i]);
    $display("%p %p", stats::c, dir.order);
    foreach (c[i]) foreach (c[i].lines[k]) $write("%0d.%h=%s ", i, k, c[i].lines[k].st.name());
    $display("%p", dir.mem);
  end
endmodule
