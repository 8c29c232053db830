`define KIND_OF(T) \
  typedef maker #(T, `"T`") type_id; \
  static function type_id get_type(); return type_id::get(); endfunction \
  virtual function string get_type_name(); return `"T`"; endfunction
`define TELL(LEVEL, MSG) begin if (reporter::level >= LEVEL) reporter::tell(`"LEVEL`", MSG, `__LINE__); end
`define FIELD(NAME, FMT) s = {s, `"NAME=`", $sformatf(FMT, NAME), " "};
interface pins(input bit clk); logic req, ack; logic [7:0] d; clocking cb @(posedge clk); output req, d; input ack; endclocking endinterface
package base;
  typedef enum int {NONE = 0, LOW = 100, HIGH = 300} verbosity_e;
  class reporter; static verbosity_e level = LOW; static int counts[string]; static int lines;
    static function void tell(string l, string m, int line); counts[l]++; lines += (line > 0); $display("[%s] %0t %s", l, $time, m); endfunction endclass
  virtual class thing; string name; function new(string name = ""); this.name = name; endfunction pure virtual function string get_type_name(); 
    virtual function string text(); return {get_type_name(), " ", name}; endfunction endclass
  virtual class abstract_maker; pure virtual function thing make(string name); endclass
  class registry; static abstract_maker all[string]; static function thing by_name(string t, string n); if (!all.exists(t)) return null; return all[t].make(n); endfunction endclass
  class maker #(type T, string N) extends abstract_maker; local static maker#(T, N) one = get();
    static function maker#(T, N) get(); if (one == null) begin one = new(); registry::all[N] = one; end return one; endfunction
    virtual function thing make(string name); T t; t = new(name); return t; endfunction
    static function T create(string name); thing x = get().make(name); if (!$cast(create, x)) $fatal(1, "cast"); endfunction endclass
  class settings #(type T = int); static T all[string]; static function void set(string path, string key, T v); all[{path, "/", key}] = v; endfunction
    static function bit get(string path, string key, inout T v); string k = {path, "/", key}, any = {"*/", key}; if (all.exists(k)) v = all[k]; else if (all.exists(any)) v = all[any]; else return 0; return 1; endfunction endclass
  class objection; local int n; event dropped; function void raise(int k = 1); n += k; endfunction function void drop(int k = 1); n -= k; if (n == 0) -> dropped; endfunction task await(); wait (n == 0); endtask endclass
  class fifo #(type T = thing); local T q[$]; local semaphore s = new(0); function void put(T t); q.push_back(t); s.put(); endfunction task get(output T t); s.get(); t = q.pop_front(); endtask function int used(); return q.size(); endfunction endclass
  class part extends thing; part kids[string]; part up; objection obj; function new(string name, part up); super.new(name); this.up = up; if (up != null) begin up.kids[name] = this; obj = up.obj; end else obj = new; endfunction
    virtual function string get_type_name(); return "part"; endfunction function string path(); return up == null ? name : {up.path(), ".", name}; endfunction
    virtual function void build(); endfunction virtual function void connect(); endfunction virtual task run(); endtask virtual function void report(); endfunction
    function void each(string phase); case (phase) "build": build(); "connect": connect(); "report": report(); endcase foreach (kids[k]) kids[k].each(phase); endfunction
    task start(); fork run(); join_none foreach (kids[k]) kids[k].start(); endtask
    task go(); each("build"); each("connect"); fork start(); join_none #0; obj.await(); disable fork; each("report"); endtask endclass
endpackage
package env; import base::*;
  class item extends thing; rand bit [7:0] d; bit ok; `KIND_OF(item)
    function new(string name = "item"); super.new(name); endfunction virtual function string text(); string s = {super.text(), ": "}; `FIELD(d, "%0d") `FIELD(ok, "%b") return s; endfunction endclass
  class odd_item extends item; `KIND_OF(odd_item) function new(string name = "odd"); super.new(name); endfunction function void post_randomize(); d |= 1; endfunction endclass
  class sequencer extends part; fifo#(item) todo = new, done = new; function new(string n, part u); super.new(n, u); endfunction endclass
  virtual class seq extends thing; sequencer sq; function new(string n = "seq"); super.new(n); endfunction pure virtual task body(); task start(sequencer s); sq = s; sq.obj.raise(); body(); sq.obj.drop(); endtask
    task send(item i); item r; sq.todo.put(i); sq.done.get(r); if (r != i) $display("order"); endtask endclass
  class burst extends seq; int n = 3; `KIND_OF(burst) function new(string n = "burst"); super.new(n); endfunction
    virtual task body(); for (int k = 0; k < n; k++) begin item i; thing t = registry::by_name(k % 2 ? "odd_item" : "item", $sformatf("i%0d", k)); void'($cast(i, t)); i.d = 8'(16 * k); if (k % 2) begin odd_item o; if ($cast(o, i)) o.post_randomize(); end send(i); `TELL(LOW, i.text()) end endtask endclass
  class driver extends part; virtual pins vif; sequencer sq; int n; function new(string nm, part u); super.new(nm, u); endfunction
    virtual function void build(); if (!settings#(virtual pins)::get(path(), "vif", vif)) $display("no vif"); endfunction
    virtual task run(); vif.cb.req <= 0; forever begin item i; sq.todo.get(i); vif.cb.req <= 1; vif.cb.d <= i.d; do @(vif.cb); while (!vif.cb.ack); vif.cb.req <= 0; i.ok = 1; n++; sq.done.put(i); @(vif.cb); end endtask
    virtual function void report(); `TELL(NONE, $sformatf("%s drove %0d", path(), n)) `TELL(HIGH, "never") endfunction endclass
  class agent extends part; driver d; sequencer s; function new(string n, part u); super.new(n, u); endfunction
    virtual function void build(); d = new("d", this); s = new("s", this); endfunction virtual function void connect(); d.sq = s; endfunction endclass
  class test extends part; agent a; int n; function new(string n, part u = null); super.new(n, u); endfunction virtual function void build(); a = new("a", this); if (settings#(int)::get(path(), "n", n)) ; obj.raise(); endfunction
    virtual task run(); burst b = burst::type_id::create("b1"); b.n = n; b.start(a.s); #20 obj.drop(); endtask endclass
endpackage
module tb; import base::*; import env::*; bit clk; always #5 clk = ~clk; pins p(clk); test t;
  always @(posedge clk) p.ack <= p.req === 1 && !p.ack;
  int got[$]; always @(posedge clk) if (p.ack && p.req) got.push_back(p.d);
  initial begin settings#(virtual pins)::set("*", "vif", p); settings#(int)::set("top", "n", 4); t = new("top"); t.go(); $display("%p %p %0d", got, reporter::counts, registry::all.num()); 
    begin automatic item i = item::get_type().create("z"); $display("%s|%s", i.text(), i.get_type_name()); end $finish(0); end
endmodule
