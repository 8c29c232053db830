// component tree with registry, config database, callbacks, ports
package kit;
  typedef class component;
  class object;
    protected string m_name;
    static int unsigned made = 0;
    function new(string name = "object"); m_name = name; made++; endfunction
    virtual function string get_name(); return m_name; endfunction
    virtual function string kind(); return "object"; endfunction
    virtual function object clone(); return null; endfunction
    virtual function bit compare(object rhs); return this == rhs; endfunction
    virtual function string sprint(int depth = 0); 
      return {{depth{"  "}}, kind(), ":", m_name}; 
    endfunction
  endclass
  virtual class creator;
    pure virtual function object make(string name, component parent);
    pure virtual function string wanted();
  endclass
  class factory;
    local static factory m_one;
    creator by_name[string];
    string overrides[string];
    static function factory get(); if (m_one == null) m_one = new; return m_one; endfunction
    local function new(); endfunction
    function void add(creator c); by_name[c.wanted()] = c; endfunction
    function void override(string a, string b); overrides[a] = b; endfunction
    function object create(string t, string name, component parent = null);
      string u = overrides.exists(t) ? overrides[t] : t;
      if (!by_name.exists(u)) begin $display("no %s", u); return null; end
      return by_name[u].make(name, parent);
    endfunction
  endclass
  class registry #(type T = object, string N = "object") extends creator;
    typedef registry#(T, N) this_type;
    static this_type me = get();
    static function this_type get();
      if (me == null) begin me = new; factory::get().add(me); end
      return me;
    endfunction
    virtual function object make(string name, component parent);
      T t = new(name);
      return t;
    endfunction
    virtual function string wanted(); return N; endfunction
    static function T create(string name, component parent = null);
      object o = factory::get().create(N, name, parent);
      T t;
      if (!$cast(t, o)) $display("cast failed for %s", name);
      return t;
    endfunction
  endclass
  class component extends object;
    component parent;
    component children[$];
    function new(string name, component parent = null);
      super.new(name);
      this.parent = parent;
      if (parent != null) parent.children.push_back(this);
    endfunction
    function string full();
      return parent == null ? m_name : {parent.full(), ".", m_name};
    endfunction
    virtual function void build(); endfunction
    virtual task run(); endtask
    function void build_all(); build(); foreach (children[i]) children[i].build_all(); endfunction
    task go_all();
      foreach (children[i]) begin
        automatic component c = children[i];
        fork c.go_all(); join_none
      end
      run();
    endtask
    virtual function string kind(); return "component"; endfunction
    function void show(int d = 0);
      $display("%s%s (%s)", {d{"  "}}, m_name, kind());
      foreach (children[i]) children[i].show(d + 1);
    endfunction
  endclass
  class config_db #(type T = int);
    static T store[string];
    static function void set(string k, T v); store[k] = v; endfunction
    static function bit get(string k, ref T v);
      if (!store.exists(k)) return 0;
      v = store[k];
      return 1;
    endfunction
  endclass
  interface class listener #(type T = int);
    pure virtual function void write(T t);
  endclass
  class port #(type T = int);
    listener#(T) who[$];
    function void connect(listener#(T) l); who.push_back(l); endfunction
    function void write(T t); foreach (who[i]) who[i].write(t); endfunction
  endclass
endpackage
