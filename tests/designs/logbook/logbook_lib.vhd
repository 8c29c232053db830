library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use ieee.math_real.all;
use std.textio.all;

package log_pkg is
  type level_t is (trace, info, warn, fail);
  type count_t is array (level_t) of natural;
  type logger is protected
    procedure set_level(l : level_t);
    procedure say(l : level_t; who, what : string);
    impure function count(l : level_t) return natural;
    procedure open_log(name : string);
    procedure summary;
  end protected;
  function pad(s : string; width : natural; fill : character := ' ') return string;
  function join(a, b : string; sep : string := ", ") return string;
  function upper(s : string) return string;
  function hex(v : std_logic_vector) return string;
end package;

package body log_pkg is
  function pad(s : string; width : natural; fill : character := ' ') return string is
    variable r : string(1 to maximum(width, s'length)) := (others => fill);
  begin
    r(1 to s'length) := s;
    return r;
  end function;
  function join(a, b : string; sep : string := ", ") return string is
  begin
    if a'length = 0 then return b; end if;
    if b = "" then return a; end if;
    return a & sep & b;
  end function;
  function upper(s : string) return string is
    variable r : s'subtype;
    constant gap : natural := character'pos('a') - character'pos('A');
  begin
    for i in s'range loop
      case s(i) is
        when 'a' to 'z' => r(i) := character'val(character'pos(s(i)) - gap);
        when others => r(i) := s(i);
      end case;
    end loop;
    return r;
  end function;
  function hex(v : std_logic_vector) return string is
    variable l : line;
    variable found : string(1 to (v'length + 3) / 4);
  begin
    hwrite(l, v);
    found := l.all;
    deallocate(l);
    return "0x" & found;
  end function;

  type logger is protected body
    variable counts : count_t := (others => 0);
    variable lowest : level_t := info;
    file f : text;
    variable opened : boolean := false;
    procedure set_level(l : level_t) is begin lowest := l; end;
    procedure put(l : inout line) is
      variable copy : line;
    begin
      if opened then
        write(copy, l.all);
        writeline(f, copy);
      end if;
      writeline(output, l);
    end procedure;
    procedure say(l : level_t; who, what : string) is
      variable t : line;
    begin
      counts(l) := counts(l) + 1;
      if l < lowest then return; end if;
      write(t, now, right, 8, ns);
      write(t, ' ');
      write(t, upper(level_t'image(l)), left, 6);
      write(t, pad(who, 8, '.') & what);
      put(t);
    end procedure;
    impure function count(l : level_t) return natural is begin return counts(l); end;
    procedure open_log(name : string) is begin file_open(f, name, write_mode); opened := true; end;
    procedure summary is
      variable t : line;
    begin
      for l in level_t loop
        next when counts(l) = 0;
        if t /= null then write(t, string'(", ")); end if;
        write(t, level_t'image(l) & "=" & integer'image(counts(l)));
      end loop;
      put(t);
      if opened then file_close(f); end if;
    end procedure;
  end protected body;
end package body;

package queue_pkg is
  generic (
    type item_t;
    function show(x : item_t) return string;
    function "="(a, b : item_t) return boolean is <>
  );
  type queue is protected
    procedure push(x : item_t);
    impure function pop return item_t;
    impure function size return natural;
    impure function has(x : item_t) return boolean;
    impure function text return string;
  end protected;
end package;

package body queue_pkg is
  type queue is protected body
    type cell;
    type cell_ptr is access cell;
    type cell is record x : item_t; after_it : cell_ptr; end record;
    variable first, last : cell_ptr;
    variable n : natural := 0;
    procedure push(x : item_t) is
      variable c : cell_ptr := new cell'(x => x, after_it => null);
    begin
      if last = null then first := c; else last.after_it := c; end if;
      last := c;
      n := n + 1;
    end procedure;
    impure function pop return item_t is
      variable c : cell_ptr := first;
      variable x : item_t;
    begin
      assert c /= null report "pop of an empty queue" severity failure;
      x := c.x;
      first := c.after_it;
      if first = null then last := null; end if;
      deallocate(c);
      n := n - 1;
      return x;
    end function;
    impure function size return natural is begin return n; end;
    impure function has(x : item_t) return boolean is
      variable c : cell_ptr := first;
    begin
      while c /= null loop
        if c.x = x then return true; end if;
        c := c.after_it;
      end loop;
      return false;
    end function;
    impure function text return string is
      impure function rest(c : cell_ptr) return string is
      begin
        if c = null then return ""; end if;
        if c.after_it = null then return show(c.x); end if;
        return show(c.x) & " " & rest(c.after_it);
      end function;
    begin
      return "[" & rest(first) & "]";
    end function;
  end protected body;
end package body;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
package bus_pkg is
  type bus_t is record
    addr  : std_logic_vector;
    data  : std_logic_vector;
    valid : std_logic;
    ready : std_logic;
  end record;
  subtype small_bus is bus_t(addr(3 downto 0), data(7 downto 0));
  type operation is (op_read, op_write, op_idle);
  type command is record op : operation; addr : natural; data : std_logic_vector(7 downto 0); end record;
  type command_vector is array (natural range <>) of command;
  function image(c : command) return string;
  procedure transact(signal b : inout bus_t; signal clk : in std_logic; c : in command; variable got : out std_logic_vector);
  procedure idle(signal b : inout bus_t);
  -- a barrier: everybody's count, the least of them
  function least(x : integer_vector) return integer;
  subtype barrier_t is least integer;
end package;
package body bus_pkg is
  function image(c : command) return string is
  begin
    case c.op is
      when op_write => return "w" & integer'image(c.addr) & "=" & to_hstring(c.data);
      when op_read => return "r" & integer'image(c.addr);
      when op_idle => return "-";
    end case;
  end function;
  procedure idle(signal b : inout bus_t) is
  begin
    b.addr <= (b.addr'range => 'Z');
    b.data <= (b.data'range => 'Z');
    b.valid <= '0';
    b.ready <= 'Z';
  end procedure;
  procedure transact(signal b : inout bus_t; signal clk : in std_logic; c : in command; variable got : out std_logic_vector) is
  begin
    b.addr <= std_logic_vector(to_unsigned(c.addr, b.addr'length));
    b.data <= c.data when c.op = op_write else (b.data'range => 'Z');
    b.valid <= '1';
    wait until rising_edge(clk) and b.ready = '1';
    got := b.data;
    idle(b);
    wait until rising_edge(clk);
  end procedure;
  function least(x : integer_vector) return integer is
    variable found : integer := integer'high;
  begin
    for i in x'range loop found := minimum(found, x(i)); end loop;
    return found;
  end function;
end package body;
