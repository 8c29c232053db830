package lock_env;
  import kit::*;
  typedef enum bit [1:0] {RAISE, LOWER, HOLD} act_e;
  class item extends object;
    act_e act; rand byte unsigned level;
    typedef registry#(item, "item") type_id;
    function new(string name = "item"); super.new(name); endfunction
    virtual function string kind(); return "item"; endfunction
    virtual function object clone(); item i = new(m_name); i.act = act; i.level = level; return i; endfunction
    virtual function bit compare(object rhs);
      item r; if (!$cast(r, rhs)) return 0; return r.act == act && r.level == level;
    endfunction
    function string text(); return $sformatf("%s@%0d", act.name(), level); endfunction
  endclass
  class bad_item extends item;
    typedef registry#(bad_item, "bad_item") type_id;
    function new(string name = "bad"); super.new(name); endfunction
    virtual function string kind(); return "bad_item"; endfunction
  endclass
  class scoreboard extends component implements listener#(item);
    int hits[act_e]; int total;
    function new(string name, component parent = null); super.new(name, parent); endfunction
    virtual function void write(item t);
      if (!hits.exists(t.act)) hits[t.act] = 0;
      hits[t.act]++; total += t.level;
    endfunction
    virtual function string kind(); return "scoreboard"; endfunction
  endclass
  class source extends component;
    port#(item) out = new;
    int count = 3;
    function new(string name, component parent = null); super.new(name, parent); endfunction
    virtual function void build(); void'(config_db#(int)::get({full(), ".count"}, count)); endfunction
    virtual task run();
      for (int i = 0; i < count; i++) begin
        item t = item::type_id::create($sformatf("t%0d", i), this);
        t.act = act_e'(i % 3); t.level = 8'(10 * i);
        #(5 + i);
        out.write(t);
        $display("%0t %s %s %s", $time, full(), t.kind(), t.text());
      end
    endtask
    virtual function string kind(); return "source"; endfunction
  endclass
  class env extends component;
    source a, b; scoreboard s;
    function new(string name, component parent = null); super.new(name, parent); endfunction
    virtual function void build();
      a = new("a", this); b = new("b", this); s = new("s", this);
      a.out.connect(s); b.out.connect(s);
    endfunction
    virtual function string kind(); return "env"; endfunction
  endclass
endpackage
