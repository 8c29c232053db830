class base; typedef enum {A, B, C} e_t; static int made; static const int LIM[3] = '{1, 2, 3}; static string names[$] = '{"x", "y"}; protected int v; e_t e = B; int arr[2][string];
  function new(int v = 7, string n = "def"); made++; this.v = v; names.push_back(n); show("ctor"); endfunction
  virtual function void show(string w = "base"); $display("base %s %0d", w, v); endfunction
  function string plain(); return "base.plain"; endfunction
  virtual function base dup(); base b = new(v + 1, "dup"); return b; endfunction
  extern virtual function e_t next_e(e_t x = A); extern static function int lim(int i); extern task slow(output int t);
endclass
function base::e_t base::next_e(e_t x = A); return x.next(); endfunction
function int base::lim(int i); return LIM[i]; endfunction
task base::slow(output int t); #3; t = $time; endtask
class derived extends base; int w = 5; local int secret = 42; 
  function new(int v); super.new(v * 2, "der"); w++; endfunction
  virtual function void show(string w = "derived"); $display("derived %s %0d %0d", w, v, this.w); endfunction
  function string plain(); return {"derived.", super.plain()}; endfunction
  virtual function derived dup(); derived d = new(v); d.secret = secret + 1; return d; endfunction
  function int peek(derived o); return o.secret; endfunction
  class inner; static int n; int k; function new(); k = ++n * 10; endfunction endclass
  inner i = new;
endclass
class third extends derived(3); string tag = "t"; virtual function void show(string w = "third"); $display("third %s %s", w, tag); endfunction endclass
class single; local static single one; int hits; protected function new(); endfunction static function single get(); if (one == null) one = new; one.hits++; return one; endfunction endclass
virtual class stack_if #(type T = int); pure virtual function void push(T t); pure virtual function T pop(); virtual function int depth(); return 0; endfunction endclass
class lifo #(type T = int, int D = 4) extends stack_if #(T); local T q[$:D-1]; virtual function void push(T t); q.push_back(t); endfunction virtual function T pop(); return q.pop_back(); endfunction virtual function int depth(); return q.size(); endfunction
  extern function T top(); endclass
function lifo::T lifo::top(); return q[$]; endfunction
class fifo #(type T = int) extends stack_if #(T); local T q[$]; virtual function void push(T t); q.push_back(t); endfunction virtual function T pop(); return q.pop_front(); endfunction endclass
class pkt; rand bit [7:0] a; rand int unsigned b; bit [3:0] c = 5; int pre, post; function void pre_randomize(); pre++; endfunction function void post_randomize(); post++; c = a[3:0]; endfunction endclass
module tb; interface class ic; pure virtual function int f(int x); endclass class impl implements ic; virtual function int f(int x); return x * x; endfunction endclass
  function automatic int use_(ic i, int x); return i.f(x); endfunction
  function automatic void swap(ref base a, ref base b); base t = a; a = b; b = t; endfunction
  initial begin
    automatic base b = new; automatic derived d = new(10); automatic base p = d; automatic third t = new; automatic base::e_t e = base::C; automatic int tm; automatic stack_if#(int) s; automatic lifo#(int) l = new; automatic fifo#(int) f = new; automatic lifo#(string, 2) ls = new; automatic impl im = new; automatic base list[$]; automatic base q[$]; automatic derived dd; automatic pkt k = new, k2; automatic derived::inner di = new;
    p.show(); $display("%s %s", p.plain(), d.plain()); b.show("arg"); p = p.dup(); p.show(); if ($cast(dd, p)) $display("cast %0d", dd.peek(dd)); if (!$cast(dd, b)) $display("no cast %b", dd == p);
    $display("%0d %p %s %0d", base::made, base::names, e.name(), base::lim(2)); e = b.next_e(); $display("%s %s %0d", e.name(), b.next_e(base::B).name(), derived::inner::n); b.slow(tm); $display("%0d", tm);
    b.arr[1]["k"] = 3; b.arr[0]["z"] = 1; $display("%p", b.arr); foreach (b.arr[i]) $write("%0d ", b.arr[i].num()); $display;
    $display("%0d %0d %b", single::get().hits, single::get().hits, single::get() == single::get());
    s = l; s.push(1); s.push(2); s.push(3); $display("%0d %0d %0d", s.pop(), s.depth(), l.top()); s = f; s.push(1); s.push(2); $display("%0d %0d", s.pop(), s.depth()); ls.push("a"); ls.push("b"); ls.push("c"); $display("%0d %s", ls.depth(), ls.top());
    $display("%0d", use_(im, 9)); begin automatic base x = b, y = d; swap(x, y); $display("%b %b", x == d, y == b); end
    list = '{b, d, t, null}; q = list.find(x) with (x != null && x.e == base::B); $display("%0d %0d", q.size(), list.find_first_index(x) with (x == null)[0]); list.delete(3); list.sort(x) with (x.made - x.e); $display("%0d", list.size());
    if (k.randomize()) begin k2 = new k; $display("%0d %0d %b %b", k.pre, k.post, k.c == k.a[3:0], k2.b == k.b && k2 != k); end void'(k.randomize(a)); $display("%0d", k.pre);
    b = null; if (b == null) $display("null"); if (d) $display("handle"); di = d.i; di.k = 99; $display("%0d %0d", d.i.k, t.i.k);
    $finish(0);
  end
endmodule
