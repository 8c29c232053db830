interface bus_if #(parameter int W = 8) (input bit clk);
  logic [W-1:0] data; logic valid = 0; int unsigned count;
  modport tb(input clk, output data, valid, ref count);
  function automatic int parity(); return ^data; endfunction
  task automatic send(input logic [W-1:0] d, input int hold = 1); data = d; valid = 1; repeat (hold) @(posedge clk); valid = 0; count++; endtask
endinterface
package vip;
  typedef virtual bus_if #(8) narrow_t;
  virtual class base; 
    string name; static int made; protected int id;
    function new(string name = "base"); this.name = name; id = made++; endfunction
    virtual function string kind(); return "base"; endfunction
    virtual function void hit(string what); endfunction
  endclass
  class traced #(type BASE = base) extends BASE;
    string log[$];
    function new(string name = "traced"); super.new(name); endfunction
    virtual function void hit(string what); super.hit(what); log.push_back($sformatf("%s@%0t", what, $time)); endfunction
    virtual function string kind(); return {"traced ", super.kind()}; endfunction
  endclass
  class counted #(type BASE = base) extends BASE;
    int hits[string];
    function new(string name = "counted"); super.new(name); endfunction
    virtual function void hit(string what); super.hit(what); hits[what]++; endfunction
    virtual function string kind(); return {"counted ", super.kind()}; endfunction
  endclass
  class single #(type T = int) ;
    typedef single #(T) this_type;
    local static this_type m_inst;
    T items[$]; int gets;
    protected function new(); endfunction
    static function this_type get(); if (m_inst == null) m_inst = new; m_inst.gets++; return m_inst; endfunction
  endclass
  class driver extends traced #(counted #(base));
    narrow_t vif; semaphore lane; mailbox #(int) box = new(2); process me; event sent; static event any_sent;
    function new(string name, narrow_t vif, semaphore lane = null); super.new(name); this.vif = vif; this.lane = lane; endfunction
    task run();
      int v;
      me = process::self();
      forever begin
        box.peek(v);
        if (lane != null) lane.get();
        vif.send(8'(v), v % 3 + 1);
        if (lane != null) lane.put();
        void'(box.try_get(v));
        hit(v > 5 ? "big" : "small");
        -> sent; -> any_sent;
      end
    endtask
    virtual function string kind(); return {"driver ", super.kind()}; endfunction
  endclass
  function automatic void group(ref int by[string][$], input string text);
    string word = "";
    foreach (text[i]) if (text[i] == " ") begin if (word != "") by[word.substr(0, 0)].push_back(word.len()); word = ""; end else word = {word, text.substr(i, i)};
    if (word != "") by[word.substr(0, 0)].push_back(word.len());
  endfunction
  function automatic narrow_t chosen(narrow_t all[], int k); return k inside {[0:all.size() - 1]} ? all[k] : null; endfunction
endpackage
module tb;
  import vip::*;
  bit clk; always #5 clk = ~clk;
  bus_if #(8) b[3] (clk); bus_if #(16) wide(clk);
  narrow_t all[]; driver d[$]; semaphore lane = new(1); int by[string][$]; event a, c, e; int seen;
  typedef enum {MON, TUE, WED} day_t;
  initial begin
    all = new[3]; all[0] = b[0]; all[1] = b[1]; all[2] = b[2];
    for (int i = 0; i < 3; i++) begin automatic driver x = new($sformatf("d%0d", i), chosen(all, i), i < 2 ? lane : null); d.push_back(x); end
    $display("%s %0d %b", d[0].kind(), base::made, chosen(all, 5) == null);
    foreach (d[i]) fork automatic int k = i; d[k].run(); join_none
    fork begin repeat (4) @(driver::any_sent) seen++; end join_none
    for (int v = 4; v < 8; v++) d[v % 3].box.put(v);
    #3 d[2].me.suspend();
    #60 d[2].me.resume();
    wait (seen == 4);
    foreach (d[i]) $display("%s %p %p %0d %0d", d[i].name, d[i].log, d[i].hits, d[i].vif.count, d[i].vif.parity());
    group(by, "the water in the weir went over the wall with a wave");
    foreach (by[k]) $write("%s:%p ", k, by[k]);
    $display;
    foreach (by[k, i]) if (by[k][i] == 4) $write("%s%0d ", k, i);
    $display("%0d", by["t"].sum());
    begin
      automatic single #(string) s = single #(string)::get();
      s.items.push_back("x"); single #(string)::get().items.push_back("y"); void'(single #(day_t)::get());
      $display("%p %0d %0d", s.items, single #(string)::get().gets, single #(day_t)::get().gets);
    end
    begin automatic day_t t = MON; do begin $write("%s ", t.name()); t = t.next(); end while (t != t.first()); $display; end
    fork begin #1 -> a; #1 -> c; #1 -> e; end wait_order (a, c, e) $display("in order %0t", $time); else $display("out of order"); join
    fork begin #1 -> c; #1 -> a; end wait_order (a, c) $display("in order"); else $display("out of order %b", c.triggered); join
    case ({"ga", "te"}) "lock": $display("no"); "gate", "weir": $display("gate"); default: $display("none"); endcase
    fork : racers
      begin : slow #50 $display("slow"); end
      begin : quick #5 $display("quick"); disable slow; end
    join
    $display("%0t %0d", $time, wide.parity());
    $finish;
  end
endmodule
