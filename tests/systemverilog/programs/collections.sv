package coll;
  virtual class iterator #(type T = int); pure virtual function bit has_next(); pure virtual function T next(); endclass
  class list #(type T = int);
    class node; T v; node nxt, prv; function new(T v); this.v = v; endfunction endclass
    class iter extends iterator #(T); local node at; function new(node n); at = n; endfunction
      virtual function bit has_next(); return at != null; endfunction
      virtual function T next(); next = at.v; at = at.nxt; endfunction endclass
    protected node head, tail; protected int n;
    function list#(T) add(T v); node x = new(v); if (tail == null) head = x; else begin tail.nxt = x; x.prv = tail; end tail = x; n++; return this; endfunction
    function iter begin_(); iter it = new(head); return it; endfunction
    function int size(); return n; endfunction
    function T at(int i); node x = head; repeat (i) x = x.nxt; return x.v; endfunction
    function void reverse(); node x = head, t; while (x != null) begin t = x.nxt; x.nxt = x.prv; x.prv = t; x = t; end t = head; head = tail; tail = t; endfunction
    virtual function string str(); node x = head; str = "["; while (x != null) begin str = {str, $sformatf("%0p", x.v), x.nxt != null ? "," : ""}; x = x.nxt; end str = {str, "]"}; endfunction
  endclass
  class pair #(type A = int, B = A); A a; B b; function new(A a, B b); this.a = a; this.b = b; endfunction
    function pair#(B, A) swap(); pair#(B, A) p = new(b, a); return p; endfunction endclass
  class cache #(type K = string, type V = int, int CAP = 2); local V store[K]; local K order[$]; int hits, misses;
    function void put(K k, V v); if (!store.exists(k)) begin order.push_back(k); if (order.size() > CAP) store.delete(order.pop_front()); end store[k] = v; endfunction
    function bit get(K k, output V v); if (store.exists(k)) begin v = store[k]; hits++; return 1; end misses++; return 0; endfunction
    function int num(); return store.num(); endfunction endclass
  class shape; static int count; const int id; protected string nm; function new(string nm = "shape"); id = ++count; this.nm = nm; endfunction
    virtual function real area(); return 0.0; endfunction virtual function shape copy(); copy = new this; endfunction
    function string describe(); return $sformatf("%s#%0d %0.2f", nm, id, area()); endfunction
    static function int total(); return count; endfunction endclass
  class circle extends shape; real r; function new(real r); super.new("circle"); this.r = r; endfunction virtual function real area(); return 3.0 * r * r; endfunction
    virtual function shape copy(); circle c = new this; return c; endfunction endclass
  class square extends shape; real s; function new(real s); super.new("square"); this.s = s; endfunction function real area(); return s * s; endfunction endclass
  class cube extends square; function new(real s); super.new(s); nm = {"cube of ", nm}; endfunction function real area(); return 6 * super.area(); endfunction endclass
  class matcher; typedef enum {LOW = 2, MID = 5, HIGH} lev_e; lev_e l = MID; int h[lev_e]; function lev_e up(); return l.next(); endfunction
    function automatic lev_e parse(string s); lev_e e; e = e.first(); forever begin if (e.name() == s) return e; if (e == e.last()) return LOW; e = e.next(); end endfunction endclass
  class tree_cls; int v; tree_cls kids[$]; tree_cls by_name[string]; function new(int v); this.v = v; endfunction
    function tree_cls kid(int v); tree_cls k = new(v); kids.push_back(k); by_name[$sformatf("k%0d", v)] = k; return k; endfunction
    function int sum(); sum = v; foreach (kids[i]) sum += kids[i].sum(); endfunction
    function tree_cls deep(); deep = new(v); foreach (kids[i]) deep.kids.push_back(kids[i].deep()); endfunction endclass
endpackage
module tb; import coll::*;
  typedef struct { string n; int q[$]; shape s; } rec_t;
  function automatic int count_by(string words[$], ref int by[string]); foreach (words[i]) by[words[i]]++; return by.num(); endfunction
  function automatic rec_t make(string n, int k); make.n = n; for (int i = 0; i < k; i++) make.q.push_back(i * i); make.s = new(n); endfunction
  initial begin
    list#(int) l = new; list#(string) ls = new; list#(int)::iter it; pair#(int, string) p = new(3, "three"); pair#(string, int) sp; cache#() c = new; int v; int by[string];
    shape ss[$]; circle ci; square sq; cube cu; matcher m = new; tree_cls t = new(1), t2; rec_t r; int grid[string][$]; shape best; bit ok;
    void'(l.add(1).add(2).add(3)); it = l.begin_(); while (it.has_next()) $write("%0d ", it.next()); $display("| %s %0d", l.str(), l.at(1)); l.reverse(); $display("%s", l.str());
    void'(ls.add("a").add("bc")); $display("%s %0d", ls.str(), ls.size());
    sp = p.swap(); $display("%s %0d %0d", sp.a, sp.b, p.swap().swap().a);
    c.put("x", 1); c.put("y", 2); c.put("z", 3); ok = c.get("x", v); if (c.get("z", v)) $display("%b z=%0d hits %0d misses %0d n %0d", ok, v, c.hits, c.misses, c.num());
    ci = new(2.0); sq = new(1.5); cu = new(1.0); ss = '{ci, sq, cu}; foreach (ss[i]) $display("%s", ss[i].describe());
    ss.sort with (item.area()); $display("%0d %0d %0d", ss[0].id, ss[1].id, ss[2].id); $display("%0d", shape::total());
    begin shape q[$]; q = ss.find(x) with (x.area() > 3.0); $display("%0d", q.size()); q = ss.max with (item.area()); $display("%s", q[0].describe()); end
    best = ss[0].copy(); $display("%s %b %0d", best.describe(), best == ss[0], $cast(ci, ss[0]));
    $display("%s %s %s %0d", m.up().name(), m.parse("HIGH").name(), m.parse("zz"), matcher::HIGH); m.h[matcher::LOW] = 4; $display("%p", m.h);
    void'(t.kid(2).kid(5)); t.kid(3).v = 10; t2 = t.deep(); t.by_name["k2"].v = 100; $display("%0d %0d %0d", t.sum(), t2.sum(), t.kids[0].kids[0].v);
    r = make("rec", 4); $display("%s %p %s", r.n, r.q, r.s.describe()); begin rec_t r2 = r; r2.q.push_back(99); r2.s = null; $display("%0d %0d %b", r.q.size(), r2.q.size(), r.s != null); end
    $display("%0d %p", count_by('{"a", "b", "a"}, by), by); grid["row"].push_back(3); grid["row"].push_back(4); grid["col"] = '{1}; $display("%p %0d", grid, grid["row"][1]);
    if (l.size() inside {[1:5]} && !(sp.b inside {1, 2})) $display("in");
    case (1'b1) l.size() == 0: $display("zero"); l.size() == 3: $display("three"); endcase
  end
endmodule
