package kit;
  typedef enum {LOW = 100, MEDIUM = 200, HIGH = 300, FULL = 400} verbosity_e;
  typedef enum bit [1:0] {OK, NOT_OK, HAS_X} status_e;
  typedef class component;
  typedef class root_c;

  class report_catcher;
    static int unsigned counts[string];
    static verbosity_e limit = MEDIUM;
    static string log[$];
    static function void put(string severity, string id, string text, verbosity_e v = MEDIUM);
      if (severity == "INFO" && v > limit) return;
      counts[severity] += 1;
      log.push_back($sformatf("%-7s [%s] @%0t: %s", severity, id, $time, text));
      $display("%s", log[$]);
    endfunction
  endclass

  `define info(ID, TEXT, V = MEDIUM) kit::report_catcher::put("INFO", ID, TEXT, V);
  `define err(ID, TEXT) kit::report_catcher::put("ERROR", ID, TEXT);

  virtual class object;
    local string m_name;
    static protected int m_count;
    protected int m_id;
    function new(string name = "");
      m_name = name;
      m_id = m_count++;
    endfunction
    virtual function string get_name(); return m_name; endfunction
    virtual function string get_full_name(); return get_name(); endfunction
    pure virtual function string get_type_name();
    virtual function object clone(); return null; endfunction
    virtual function bit do_compare(object rhs); return 1; endfunction
    virtual function string convert2string(); return ""; endfunction
    virtual function void do_copy(object rhs); endfunction
    function bit compare(object rhs);
      if (rhs == null) return 0;
      if (rhs.get_type_name() != get_type_name()) return 0;
      return do_compare(rhs);
    endfunction
    function void print();
      $display("%s %s: %s", get_type_name(), get_full_name(), convert2string());
    endfunction
  endclass : object

  class phase;
    string name;
    local int objections[component];
    event dropped;
    function new(string n); name = n; endfunction
    function void raise(component c, int n = 1); objections[c] += n; endfunction
    function void drop(component c, int n = 1);
      objections[c] -= n;
      if (objections[c] == 0) objections.delete(c);
      if (objections.num() == 0) -> dropped;
    endfunction
    task wait_done();
      #0;
      while (objections.num() != 0) @(dropped);
    endtask
    function int total(); total = 0; foreach (objections[c]) total += objections[c]; endfunction
  endclass

  virtual class component extends object;
    protected component m_parent;
    protected component m_children[string];
    function new(string name, component parent);
      super.new(name);
      m_parent = parent;
      if (parent != null) begin
        if (parent.m_children.exists(name)) `err("DUP", {"two children ", name})
        parent.m_children[name] = this;
      end
    endfunction
    virtual function string get_full_name();
      if (m_parent == null || m_parent.get_full_name() == "") return get_name();
      return {m_parent.get_full_name(), ".", get_name()};
    endfunction
    function component lookup(string path);
      int dot = -1;
      for (int i = 0; i < path.len(); i++) if (path[i] == ".") begin dot = i; break; end
      if (dot < 0) return m_children.exists(path) ? m_children[path] : null;
      if (!m_children.exists(path.substr(0, dot - 1))) return null;
      return m_children[path.substr(0, dot - 1)].lookup(path.substr(dot + 1, path.len() - 1));
    endfunction
    virtual function void build_phase(phase p); endfunction
    virtual function void connect_phase(phase p); endfunction
    virtual task run_phase(phase p); endtask
    virtual function void check_phase(phase p); endfunction
    function void top_down(string what, phase p);
      case (what)
        "build": build_phase(p);
        default: `err("PHASE", what)
      endcase
      foreach (m_children[n]) m_children[n].top_down(what, p);
    endfunction
    function void bottom_up(string what, phase p);
      foreach (m_children[n]) m_children[n].bottom_up(what, p);
      case (what)
        "connect": connect_phase(p);
        "check": check_phase(p);
      endcase
    endfunction
    function void spawn(phase p);
      foreach (m_children[n]) m_children[n].spawn(p);
      fork run_phase(p); join_none
    endfunction
  endclass : component

  class config_db #(type T = int);
    local static T store[string];
    local static string keys[$];
    static function void set(component cntxt, string path, string field, T value);
      string key = {cntxt == null ? "" : {cntxt.get_full_name(), "."}, path, "/", field};
      store[key] = value;
      keys.push_front(key);
    endfunction
    static function bit get(component cntxt, string field, ref T value);
      string wanted = {cntxt.get_full_name(), "/", field};
      foreach (keys[i]) if (globs(keys[i], wanted)) begin
        value = store[keys[i]];
        return 1;
      end
      return 0;
    endfunction
    // '*' stands for any characters
    local static function bit globs(string glob, string s);
      int g = 0, k = 0, star = -1, mark = 0;
      while (k < s.len()) begin
        if (g < glob.len() && (glob[g] == s[k])) begin g++; k++; end
        else if (g < glob.len() && glob[g] == "*") begin star = g++; mark = k; end
        else if (star >= 0) begin g = star + 1; k = ++mark; end
        else return 0;
      end
      while (g < glob.len() && glob[g] == "*") g++;
      return g == glob.len();
    endfunction
  endclass : config_db

  // ---- transaction-level ports ----
  virtual class tlm_if #(type T = object);
    pure virtual task put(input T t);
    pure virtual function bit try_put(T t);
  endclass

  class tlm_fifo #(type T = object) extends tlm_if #(T);
    protected mailbox #(T) m_box;
    function new(int depth = 0); m_box = new(depth); endfunction
    virtual task put(input T t); m_box.put(t); endtask
    virtual function bit try_put(T t); return m_box.try_put(t); endfunction
    task get(output T t); m_box.get(t); endtask
    function bit try_get(output T t); return m_box.try_get(t) > 0; endfunction
    function int used(); return m_box.num(); endfunction
  endclass

  class port #(type T = object);
    local tlm_if #(T) m_imp[$];
    function void connect(tlm_if #(T) imp); m_imp.push_back(imp); endfunction
    task put(T t); foreach (m_imp[i]) m_imp[i].put(t); endtask
    function void write(T t); foreach (m_imp[i]) void'(m_imp[i].try_put(t)); endfunction
    function int size(); return m_imp.size(); endfunction
  endclass

  // ---- sequences ----
  typedef class sequencer;
  virtual class sequence_base #(type REQ = object, RSP = REQ) extends object;
    sequencer #(REQ, RSP) m_sequencer;
    function new(string name = ""); super.new(name); endfunction
    virtual function string get_type_name(); return "sequence"; endfunction
    pure virtual task body();
    virtual task pre_body(); endtask
    task start(sequencer #(REQ, RSP) s);
      m_sequencer = s;
      pre_body();
      body();
    endtask
    task send(REQ r, output RSP rsp);
      m_sequencer.execute(r, rsp);
    endtask
  endclass

  class sequencer #(type REQ = object, type RSP = REQ) extends component;
    local semaphore grant = new(1);
    mailbox #(REQ) requests = new(1);
    mailbox #(RSP) responses = new();
    int unsigned served;
    function new(string name, component parent); super.new(name, parent); endfunction
    virtual function string get_type_name(); return "sequencer"; endfunction
    task execute(REQ r, output RSP rsp);
      grant.get();
      requests.put(r);
      responses.get(rsp);
      served++;
      grant.put();
    endtask
  endclass

  class root_c;
    static local root_c m_inst;
    component tops[$];
    static function root_c get(); if (m_inst == null) m_inst = new; return m_inst; endfunction
    local function new(); endfunction
    task run();
      phase build = new("build"), connect = new("connect"), run_ph = new("run"), check = new("check");
      foreach (tops[i]) tops[i].top_down("build", build);
      foreach (tops[i]) tops[i].bottom_up("connect", connect);
      foreach (tops[i]) tops[i].spawn(run_ph);
      fork
        begin
          fork
            run_ph.wait_done();
            begin #10000; `err("TIMEOUT", $sformatf("%0d objections", run_ph.total())) end
          join_any
          disable fork;
        end
      join
      foreach (tops[i]) tops[i].bottom_up("check", check);
    endtask
  endclass
endpackage
package regs;
  import kit::*;
  typedef class reg_c;
  typedef class block_c;
  typedef enum {RW, RO, W1C, RC} access_e;

  class field extends object;
    local int unsigned m_lsb, m_size;
    access_e access;
    bit [31:0] mirrored, reset_value;
    function new(string name, int unsigned lsb, size, access_e access = RW, bit [31:0] reset_value = 0);
      super.new(name);
      this.m_lsb = lsb; m_size = size; this.access = access; this.reset_value = reset_value;
      reset();
    endfunction
    virtual function string get_type_name(); return "field"; endfunction
    function void reset(); mirrored = reset_value; endfunction
    function bit [31:0] mask(); return ((33'b1 << m_size) - 1) << m_lsb; endfunction
    function bit [31:0] get(); return mirrored << m_lsb & mask(); endfunction
    function void predict_write(bit [31:0] v);
      bit [31:0] mine = (v & mask()) >> m_lsb;
      unique case (access)
        RW: mirrored = mine;
        W1C: mirrored &= ~mine;
        RO, RC: ;
      endcase
    endfunction
    function void predict_read(bit [31:0] v);
      mirrored = access == RC ? 0 : (v & mask()) >> m_lsb;
    endfunction
    virtual function string convert2string();
      return $sformatf("[%0d:%0d] %s = %0h", m_lsb + m_size - 1, m_lsb, access.name(), mirrored);
    endfunction
  endclass

  class bus_op;
    rand bit [7:0] addr;
    rand bit [31:0] data;
    rand bit write;
    status_e status;
    function string convert2string(); return $sformatf("%s %02h %08h %s", write ? "W" : "R", addr, data, status.name()); endfunction
  endclass

  virtual class frontdoor;
    pure virtual task access(bus_op op);
  endclass

  class reg_c extends object;
    protected field m_fields[$];
    protected block_c m_block;
    bit [7:0] offset;
    typedef class void_cb;
    local void_cb cbs[$];
    class void_cb;
      virtual function void post_write(reg_c r, bit [31:0] v); endfunction
    endclass
    function new(string name = "", bit [7:0] offset = 0);
      super.new(name);
      this.offset = offset;
    endfunction
    virtual function string get_type_name(); return "reg"; endfunction
    function void add_cb(void_cb cb); cbs.push_back(cb); endfunction
    function void set_block(block_c b); m_block = b; endfunction
    function field add(field f); m_fields.push_back(f); return f; endfunction
    function bit [31:0] get_mirrored(); foreach (m_fields[i]) get_mirrored |= m_fields[i].get(); endfunction
    task write(output status_e s, input bit [31:0] v);
      bus_op op = new;
      op.addr = offset; op.data = v; op.write = 1;
      m_block.door.access(op);
      s = op.status;
      if (s == OK) foreach (m_fields[i]) m_fields[i].predict_write(v);
      foreach (cbs[i]) cbs[i].post_write(this, v);
    endtask
    task read(output status_e s, output bit [31:0] v);
      bus_op op = new;
      op.addr = offset;
      m_block.door.access(op);
      s = op.status; v = op.data;
    endtask
    task mirror(output status_e s, input bit check = 1);
      bit [31:0] v, was = get_mirrored();
      read(s, v);
      if (check && v !== was) `err("MIRROR", $sformatf("%s is %h, mirrored %h", get_name(), v, was))
      foreach (m_fields[i]) m_fields[i].predict_read(v);
    endtask
    virtual function string convert2string();
      foreach (m_fields[i]) convert2string = {convert2string, i ? ", " : "", m_fields[i].get_name(), m_fields[i].convert2string()};
    endfunction
  endclass

  class block_c extends object;
    frontdoor door;
    reg_c by_name[string];
    reg_c by_addr[bit [7:0]];
    function new(string name); super.new(name); endfunction
    virtual function string get_type_name(); return "block"; endfunction
    function void add(reg_c r);
      r.set_block(this);
      by_name[r.get_name()] = r;
      by_addr[r.offset] = r;
    endfunction
    function reg_c get(string n); return by_name.exists(n) ? by_name[n] : null; endfunction
  endclass
endpackage
`timescale 1ns/1ns
interface sluice_if #(parameter int AW = 8, DW = 32) (input bit clk);
  logic sel = 0, write; logic [AW-1:0] addr; logic [DW-1:0] wdata, rdata; logic ready;
  clocking drv @(posedge clk);
    default input #1step output #1;
    output sel, write, addr, wdata;
    input rdata, ready;
  endclocking
  clocking mon @(posedge clk);
    input sel, write, addr, wdata, rdata, ready;
  endclocking
  modport driver(clocking drv, import task pause(input int n));
  modport monitor(clocking mon);
  task pause(input int n); repeat (n) @(posedge clk); endtask
endinterface

module sluice_regs(input bit clk, sluice_if bus);
  logic [31:0] ctrl = 32'h1, level = 0, flags = 32'hA; int unsigned count = 0;
  always_comb bus.ready = bus.sel;
  always_comb
    case (bus.addr)
      8'h00: bus.rdata = ctrl;
      8'h04: bus.rdata = level;
      8'h08: bus.rdata = flags;
      8'h0C: bus.rdata = count;
      default: bus.rdata = 'x;
    endcase
  always @(posedge clk) if (bus.sel) begin
    if (bus.write)
      case (bus.addr)
        8'h00: begin ctrl <= bus.wdata & 32'h0000_00F7; if (bus.wdata[0]) level <= level + 3; end
        8'h08: flags <= flags & ~bus.wdata;
      endcase
    else if (bus.addr == 8'h0C) count <= 0;
    if (bus.write) count <= count + 1;
  end
endmodule

package env;
  import kit::*;
  import regs::*;

  class item extends object;
    bus_op op;
    function new(string name = "item", bus_op op = null); super.new(name); this.op = op; endfunction
    virtual function string get_type_name(); return "item"; endfunction
    virtual function string convert2string(); return op.convert2string(); endfunction
    virtual function item clone(); bus_op o = new op; clone = new({get_name(), "_c"}, o); endfunction
    virtual function bit do_compare(object rhs);
      item r;
      if (!$cast(r, rhs)) return 0;
      return r.op.addr == op.addr && r.op.data === op.data && r.op.write == op.write;
    endfunction
  endclass

  class driver extends component;
    virtual sluice_if #(8, 32).driver vif;
    sequencer #(item) sqr;
    function new(string name, component parent); super.new(name, parent); endfunction
    virtual function string get_type_name(); return "driver"; endfunction
    virtual function void connect_phase(phase p);
      virtual sluice_if #(8, 32) whole;
      if (!config_db #(virtual sluice_if #(8, 32))::get(this, "vif", whole)) `err("NOVIF", get_full_name())
      vif = whole;
    endfunction
    virtual task run_phase(phase p);
      item it;
      vif.drv.sel <= 0;
      forever begin
        sqr.requests.get(it);
        @(vif.drv);
        vif.drv.sel <= 1; vif.drv.write <= it.op.write; vif.drv.addr <= it.op.addr; vif.drv.wdata <= it.op.data;
        @(vif.drv);
        vif.drv.sel <= 0;
        @(vif.drv);
        it.op.status = it.op.write ? OK : $isunknown(vif.drv.rdata) ? HAS_X : OK;
        if (!it.op.write) it.op.data = vif.drv.rdata;
        sqr.responses.put(it);
        vif.pause(1);
      end
    endtask
  endclass

  class monitor extends component;
    virtual sluice_if.monitor vif;
    port #(item) ap = new;
    function new(string name, component parent); super.new(name, parent); endfunction
    virtual function string get_type_name(); return "monitor"; endfunction
    virtual function void connect_phase(phase p);
      virtual sluice_if w;
      void'(config_db #(virtual sluice_if)::get(this, "vif", w));
      vif = w;
    endfunction
    virtual task run_phase(phase p);
      forever begin
        @(vif.mon);
        if (vif.mon.sel === 1'b1) begin
          automatic bus_op op = new;
          automatic item it;
          op.addr = vif.mon.addr; op.write = vif.mon.write;
          op.data = vif.mon.write ? vif.mon.wdata : vif.mon.rdata;
          it = new($sformatf("seen%0d", m_id), op);
          ap.write(it);
        end
      end
    endtask
  endclass

  class scoreboard extends component;
    tlm_fifo #(item) seen = new();
    int writes[bit [7:0]][$];
    int unsigned total;
    function new(string name, component parent); super.new(name, parent); endfunction
    virtual function string get_type_name(); return "scoreboard"; endfunction
    virtual task run_phase(phase p);
      item it;
      forever begin
        seen.get(it);
        total++;
        if (it.op.write) writes[it.op.addr].push_back(it.op.data);
      end
    endtask
    virtual function void check_phase(phase p);
      foreach (writes[a]) `info("SB", $sformatf("%02h: %p sum %0d", a, writes[a], writes[a].sum()))
      `info("SB", $sformatf("%0d transfers", total), HIGH)
    endfunction
  endclass

  class agent extends component;
    driver drv; monitor mon; sequencer #(item) sqr;
    bit active = 1;
    function new(string name, component parent); super.new(name, parent); endfunction
    virtual function string get_type_name(); return "agent"; endfunction
    virtual function void build_phase(phase p);
      void'(config_db #(bit)::get(this, "active", active));
      mon = new("mon", this);
      if (active) begin drv = new("drv", this); sqr = new("sqr", this); end
    endfunction
    virtual function void connect_phase(phase p);
      if (active) drv.sqr = sqr;
    endfunction
  endclass

  class door extends frontdoor;
    sequencer #(item) sqr;
    class one extends sequence_base #(item);
      bus_op op;
      static int started;
      function new(bus_op op); super.new("one"); this.op = op; endfunction
      virtual task pre_body(); started++; endtask
      virtual task body();
        item it = new("req", op), rsp;
        send(it, rsp);
        if (rsp != it) `err("DOOR", "another answer")
      endtask
    endclass
    virtual task access(bus_op op);
      one s = new(op);
      s.start(sqr);
    endtask
  endclass

  class count_cb extends reg_c::void_cb;
    int calls; bit [31:0] last;
    virtual function void post_write(reg_c r, bit [31:0] v);
      calls++; last = v;
    endfunction
  endclass

  class test extends component;
    agent ag[2]; scoreboard sb; block_c model; door d = new; count_cb cb = new;
    function new(string name, component parent); super.new(name, parent); endfunction
    virtual function string get_type_name(); return "test"; endfunction
    virtual function void build_phase(phase p);
      reg_c r;
      foreach (ag[i]) begin
        ag[i] = new($sformatf("ag%0d", i), this);
      end
      config_db #(bit)::set(this, "ag1", "active", 0);
      sb = new("sb", this);
      model = new("model");
      r = new("ctrl", 8'h00); void'(r.add(new("en", 0, 1, RW, 1))); void'(r.add(new("mode", 4, 4))); r.add_cb(cb); model.add(r);
      r = new("level", 8'h04); void'(r.add(new("mm", 0, 16, RO))); model.add(r);
      r = new("flags", 8'h08); void'(r.add(new("seen", 0, 4, W1C, 4'hA))); model.add(r);
      r = new("count", 8'h0C); void'(r.add(new("n", 0, 8, RC))); model.add(r);
      model.door = d;
    endfunction
    virtual function void connect_phase(phase p);
      d.sqr = ag[0].sqr;
      foreach (ag[i]) ag[i].mon.ap.connect(sb.seen);
    endfunction
    virtual task run_phase(phase p);
      status_e s; bit [31:0] v; reg_c r;
      p.raise(this);
      fork
        begin p.raise(this, 2); #40 p.drop(this, 2); end
      join_none
      r = model.get("ctrl");
      r.mirror(s);
      r.write(s, 32'h31);
      r.mirror(s);
      r.print();
      model.get("level").read(s, v);
      `info("TEST", $sformatf("level %0d %s", v, s.name()))
      r = model.by_addr[8];
      r.write(s, 2);
      r.mirror(s);
      r.print();
      model.get("count").read(s, v);
      `info("TEST", $sformatf("count %0d", v))
      model.get("level").mirror(s);
      r = new("ghost", 8'h40); void'(r.add(new("g", 0, 8))); model.add(r);
      r.read(s, v);
      `info("TEST", $sformatf("ghost %s", s.name()))
      p.drop(this);
    endtask
    virtual function void check_phase(phase p);
      component c = lookup("ag0.drv");
      item a = new("a", new), b;
      a.op.addr = 5;
      b = a.clone();
      $display("%s %b %b", b.get_name(), a.compare(b), a.op == b.op);
      b.op.data = 1;
      $display("%b %b %b", a.compare(b), a.compare(null), a.compare(model));
      $display("%s %s %0d", c.get_full_name(), c.get_type_name(), lookup("ag1.drv") == null);
      $display("%0d calls, last %h, %0d sequences, %0d served", cb.calls, cb.last, door::one::started, ag[0].sqr.served);
      foreach (report_catcher::counts[k]) $display("%s: %0d", k, report_catcher::counts[k]);
    endfunction
  endclass
endpackage

module tb;
  import kit::*;
  import env::*;
  bit clk;
  always #5 clk = ~clk;
  sluice_if #(8, 32) bus(clk);
  sluice_regs dut(.*);
  initial begin
    automatic test t = new("test", null);
    config_db #(virtual sluice_if #(8, 32))::set(null, "test.*", "vif", bus);
    kit::root_c::get().tops.push_back(t);
    kit::root_c::get().run();
    $finish;
  end
endmodule
