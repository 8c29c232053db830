// patterns of parameterised classes: options, trees, comparators, observers, pools
package lib;
  typedef enum {FEW, MANY} verb_t;
  class id_gen #(string PREFIX = "id");
    static int n;
    static function string next(); return $sformatf("%s%0d", PREFIX, n++); endfunction
  endclass
  class optional #(type T = int);
    local T v; local bit has;
    static function optional #(T) some(T v); optional #(T) o = new; o.v = v; o.has = 1; return o; endfunction
    static function optional #(T) none(); optional #(T) o = new; return o; endfunction
    function T or_else(T d); return has ? v : d; endfunction
    function bit present(); return has; endfunction
  endclass
  class pair #(type A = int, type B = A);
    A first; B second;
    function new(A a, B b); first = a; second = b; endfunction
    function pair #(B, A) swapped(); pair #(B, A) p = new(second, first); return p; endfunction
  endclass
  class tree #(type K = int, type V = string);
    typedef tree #(K, V) node_t;
    K key; V value; node_t l, r;
    function new(K k, V v); key = k; value = v; endfunction
    function void put(K k, V v);
      if (k == key) value = v;
      else if (k < key) begin if (l == null) l = new(k, v); else l.put(k, v); end
      else begin if (r == null) r = new(k, v); else r.put(k, v); end
    endfunction
    function optional #(V) get(K k);
      node_t n = this;
      while (n != null) begin
        if (n.key == k) return optional #(V)::some(n.value);
        n = k < n.key ? n.l : n.r;
      end
      return optional #(V)::none();
    endfunction
    function void walk(ref pair #(K, V) out[$]);
      pair #(K, V) p = new(key, value);
      if (l != null) l.walk(out);
      out.push_back(p);
      if (r != null) r.walk(out);
    endfunction
    function int depth();
      int a = l == null ? 0 : l.depth(), b = r == null ? 0 : r.depth();
      return 1 + (a > b ? a : b);
    endfunction
  endclass
  virtual class comparator #(type T = int);
    pure virtual function bit less(T a, T b);
    function void sort(ref T q[$]);
      for (int i = 1; i < q.size(); i++) begin
        automatic T x = q[i];
        automatic int j = i - 1;
        while (j >= 0 && less(x, q[j])) begin q[j + 1] = q[j]; j--; end
        q[j + 1] = x;
      end
    endfunction
  endclass
  class by_length extends comparator #(string);
    virtual function bit less(string a, string b); return a.len() < b.len() || (a.len() == b.len() && a < b); endfunction
  endclass
  class observer #(type E = int);
    virtual function void notify(E e); endfunction
  endclass
  class subject #(type E = int);
    local observer #(E) list[$];
    local static int unsigned total;
    function void attach(observer #(E) o); if (!(o inside {list})) list.push_back(o); endfunction
    function void detach(observer #(E) o);
      int at[$] = list.find_first_index with (item == o);
      if (at.size()) list.delete(at[0]);
    endfunction
    function void fire(E e); total++; foreach (list[i]) list[i].notify(e); endfunction
    static function int unsigned fired(); return total; endfunction
  endclass
  class state_machine;
    typedef enum {IDLE, FILLING, FULL, EMPTYING} state_e;
    typedef struct {state_e from, upon; int guard_min;} rule_t;
    state_e s = IDLE; int level;
    subject #(pair #(state_e, state_e)) changes = new;
    local static const rule_t rules[] = '{'{IDLE, FILLING, 0}, '{FILLING, FULL, 10}, '{FULL, EMPTYING, 0}, '{EMPTYING, IDLE, 0}};
    function bit step();
      foreach (rules[i])
        if (rules[i].from == s && level >= rules[i].guard_min) begin
          pair #(state_e, state_e) p = new(s, rules[i].upon);
          s = rules[i].upon;
          changes.fire(p);
          return 1;
        end
      return 0;
    endfunction
  endclass
  class watcher extends observer #(pair #(state_machine::state_e, state_machine::state_e));
    string log[$];
    virtual function void notify(pair #(state_machine::state_e, state_machine::state_e) e);
      log.push_back({e.first.name(), "->", e.second.name()});
    endfunction
  endclass
  class timer;
    static task with_limit(input int limit, output bit late, ref event go);
      automatic bit hit = 0;
      fork
        begin
          fork
            begin @(go); hit = 1; end
            #(limit);
          join_any
          disable fork;
        end
      join
      late = !hit;
    endtask
  endclass
  class pool #(type T = int, int MAX = 2);
    local T free[$]; local int made; local semaphore s = new(MAX);
    task take(output T t);
      s.get();
      if (free.size()) t = free.pop_back();
      else begin t = new(made, made * 10); made++; end
    endtask
    function void give(T t); free.push_front(t); s.put(); endfunction
    function int count(); return made; endfunction
  endclass
endpackage
module tb;
  import lib::*;
  typedef pair #(int) ip_t;
  pool #(ip_t) p = new;
  event go;
  class never; rand int x; endclass
  initial begin
    automatic tree #(string, int) t = new("m", 0);
    automatic pair #(string, int) all[$];
    automatic by_length c = new;
    automatic string q[$] = '{"sluice", "weir", "lock", "a", "gate", "bb"};
    automatic state_machine sm = new; automatic watcher w = new, w2 = new;
    automatic pair #(int, string) pr; bit late;
    automatic tree #(int)::node_t tn = new(5, "five");
    foreach (q[i]) t.put(q[i], i);
    t.put("weir", 42);
    t.walk(all);
    foreach (all[i]) $write("%s=%0d ", all[i].first, all[i].second);
    $display("depth %0d", t.depth());
    $display("%0d %0d %b", t.get("weir").or_else(-1), t.get("dam").or_else(-1), t.get("a").present());
    c.sort(q); $display("%p", q);
    pr = all[0].swapped(); $display("%0d %s", pr.first, pr.second);
    tn.put(3, "three"); $display("%s %s", tn.get(3).or_else("none"), tn.get(4).or_else("none"));
    sm.changes.attach(w); sm.changes.attach(w); sm.changes.attach(w2);
    repeat (3) begin void'(sm.step()); sm.level += 6; end
    sm.changes.detach(w2);
    while (sm.s != state_machine::IDLE) void'(sm.step());
    $display("%p %0d %0d", w.log, w2.log.size(), subject #(pair #(state_machine::state_e, state_machine::state_e))::fired());
    $display("%s %s %s", id_gen #("op")::next(), id_gen#("op")::next(), id_gen#()::next());
    fork #3 ->go; join_none
    timer::with_limit(5, late, go); $display("%b %0t", late, $time);
    timer::with_limit(5, late, go); $display("%b %0t", late, $time);
    for (int i = 0; i < 5; i++)
      fork
        automatic int k = i;
        begin
          automatic ip_t x; p.take(x); #(k + 1); $display("%0d has %0d %0d at %0t", k, x.first, x.second, $time); p.give(x);
        end
      join_none
    wait fork;
    $display("%0d", p.count());
    $finish;
  end
endmodule
