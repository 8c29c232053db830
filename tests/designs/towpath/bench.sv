package house_pkg;
  typedef virtual lane_if #(.AW(6), .DW(32)) vif_t;
  class transfer;
    typedef enum {READ, WRITE} kind_e;
    rand kind_e kind; rand bit [5:0] addr; rand bit [31:0] data; rand bit [3:0] strb; bit [1:0] resp;
    function string to_s(); return $sformatf("%s %02h %08h %b -> %0d", kind.name(), addr, data, strb, resp); endfunction
    virtual function transfer copy(); transfer t = new(); t.kind = kind; t.addr = addr; t.data = data; t.strb = strb; t.resp = resp; return t; endfunction
  endclass
  virtual class part;
    string name; part parent; local part kids[string];
    function new(string name, part parent); this.name = name; this.parent = parent; if (parent != null) parent.add(this); endfunction
    function void add(part c); kids[c.name] = c; endfunction
    function string path(); return parent == null ? name : {parent.path(), ".", name}; endfunction
    virtual task run(); endtask
    task start_all(); foreach (kids[k]) begin automatic part c = kids[k]; fork c.start_all(); join_none end fork run(); join_none endtask
    virtual function void account(); endfunction
    function void account_all(); account(); foreach (kids[k]) kids[k].account_all(); endfunction
  endclass
  class carrier extends part;
    vif_t vif; mailbox #(transfer) req, rsp;
    function new(string name, part parent, vif_t vif); super.new(name, parent); this.vif = vif; req = new(1); rsp = new(); endfunction
    task idle(); vif.put_given <= 0; vif.word_given <= 0; vif.kept_seen <= 0; vif.ask_given <= 0; vif.got_seen <= 0; vif.put_kind <= 0; vif.ask_kind <= 0; endtask
    task run();
      transfer t;
      idle(); wait (vif.reset_n === 1'b1);
      forever begin
        req.get(t); @(posedge vif.clock);
        if (t.kind == transfer::WRITE) begin
          fork
            begin vif.put_at <= t.addr; vif.put_given <= 1; do @(posedge vif.clock); while (!vif.put_taken); vif.put_given <= 0; end
            begin repeat ($urandom_range(2)) @(posedge vif.clock); vif.put_word <= t.data; vif.put_lanes <= t.strb; vif.word_given <= 1; do @(posedge vif.clock); while (!vif.word_taken); vif.word_given <= 0; end
          join
          vif.kept_seen <= 1; do @(posedge vif.clock); while (!vif.kept); t.resp = vif.kept_how; vif.kept_seen <= 0;
        end else begin
          vif.ask_at <= t.addr; vif.ask_given <= 1; vif.got_seen <= 1;
          do @(posedge vif.clock); while (!vif.ask_taken); vif.ask_given <= 0;
          do @(posedge vif.clock); while (!vif.got); t.data = vif.got_word; t.resp = vif.got_how; vif.got_seen <= 0;
        end
        rsp.put(t);
      end
    endtask
  endclass
  class tally extends part;
    bit [31:0] model[bit [5:0]]; int checked, bad; event done;
    function new(string name, part parent); super.new(name, parent); endfunction
    function void take(transfer t);
      bit [5:0] a = t.addr & 6'h1c;
      checked++;
      if (t.kind == transfer::WRITE) begin
        if (a == 6'h1c) begin if (t.resp != 2) bad++; return; end
        if (!model.exists(a)) model[a] = 0;
        foreach (t.strb[i]) if (t.strb[i]) model[a][8*i +: 8] = t.data[8*i +: 8];
      end else begin
        bit [31:0] want = a == 6'h1c ? 32'hcafe_f00d : model.exists(a) ? model[a] : 0;
        if (t.data !== want) begin bad++; $display("%s: %s, wanted %08h", path(), t.to_s(), want); end
      end
    endfunction
    virtual function void account(); $display("%s: %0d checked, %0d bad, %0d registers", path(), checked, bad, model.num()); endfunction
  endclass
  class house extends part;
    carrier carry; tally count; int n;
    function new(string name, vif_t vif, int n); super.new(name, null); carry = new("carrier", this, vif); count = new("tally", this); this.n = n; endfunction
    task run();
      transfer t = new();
      for (int i = 0; i < n; i++) begin
        transfer sent, back;
        if (!t.randomize()) $fatal(1, "no");
        t.addr = {t.addr[5:2] % 8, 2'b00};
        sent = t.copy(); carry.req.put(sent); carry.rsp.get(back); count.take(back);
      end
      -> count.done;
    endtask
  endclass
endpackage
module tb;
  import house_pkg::*;
  timeunit 1ns; timeprecision 1ps;
  bit clk, rst_n; logic [31:0] ctrl;
  always #5ns clk = ~clk;
  lane_if #(.AW(6), .DW(32)) bus (.clock(clk), .reset_n(rst_n));
  lane_registers #(.NREG(8)) dut (.s(bus), .ctrl, .status(32'hcafe_f00d));
  house e;
  initial begin
    e = new("house", bus, 200);
    fork begin #27 rst_n = 1; end join_none
    e.start_all();
    fork begin wait (e.count.done.triggered); end begin #100us $display("timeout"); end join_any
    disable fork;
    e.account_all();
    $display("%0d writes seen, ctrl %s", bus.writes, ctrl === e.count.model[0] ? "same" : "differs");
    $finish;
  end
endmodule
