"""Whole programs: subprograms, packages, access and protected types, files, generics, configurations, generates."""

from __future__ import annotations

from pathlib import Path

from tests.conftest import mevrik
from tests.vhdl.rows import Run, bench, notes, prints


def test_subprograms(simulate: Run) -> None:
    """Clause 4: overloading, defaults, names, nesting, recursion, signal parameters."""
    declarations = """
  signal s : integer := 0;
  function twice(n : integer) return integer is begin return 2 * n; end function;
  function twice(t : string) return string is begin return t & t; end function;
  function fact(n : natural) return natural is
  begin
    if n < 2 then return 1; end if;
    return n * fact(n - 1);
  end function;
  function "+"(l, r : string) return string is begin return l & "+" & r; end function;
  procedure swap(a, b : inout integer) is
    variable t : integer := a;
  begin
    a := b; b := t;
  end procedure;
  procedure put(signal x : out integer; v : integer; after_time : time := 0 ns) is
  begin
    x <= v after after_time;
  end procedure;
  function outer(a : integer; b : integer := 2) return integer is
    variable sum : integer := a;
    procedure bump(by : integer) is
    begin
      sum := sum + by * b;
    end procedure;
  begin
    bump(3); bump(4);
    return sum;
  end function;
"""
    body = """    variable i, k : integer := 1;
  begin
    k := 2;
    swap(i, k);
    say(integer'image(i) & integer'image(k) & integer'image(twice(21)) & twice("ab"));
    say(integer'image(fact(6)) & integer'image(outer(1)) & integer'image(outer(b => 1, a => 0)) & ("x" + "y"));
    put(s, 4, 3 ns);
    wait on s;
    say(integer'image(s) & integer'image(now / 1 ns));"""
    prints(simulate, bench(body, declarations), "2142abab\n720157x+y\n43")


def test_access_values_and_trees(simulate: Run) -> None:
    """5.4: a tree that grows, lines, deallocation."""
    declarations = """
  type node;
  type link is access node;
  type node is record key : integer; left, right : link; end record;
  procedure insert(t : inout link; k : integer) is
  begin
    if t = null then t := new node'(k, null, null);
    elsif k < t.key then insert(t.left, k);
    else insert(t.right, k); end if;
  end procedure;
  procedure walk(t : inout link; l : inout line) is
  begin
    if t /= null then
      walk(t.left, l); write(l, t.key); write(l, ' '); walk(t.right, l);
    end if;
  end procedure;
"""
    body = """    variable root : link;
    variable l : line;
  begin
    insert(root, 5); insert(root, 2); insert(root, 9); insert(root, 7);
    walk(root, l);
    writeline(output, l);
    root.right.key := 8;
    say(integer'image(root.right.all.key) & boolean'image(root.left.left = null));
    deallocate(root);
    say(boolean'image(root = null));"""
    prints(simulate, bench(body, declarations), "2 5 7 9\n8true\ntrue")


def test_generic_packages_and_protected_types(simulate: Run) -> None:
    """4.9, 5.6: a stack of any type, shared by processes."""
    units = """package stacks is
  generic (type elem; function img(e : elem) return string; depth : positive := 4);
  type stack is protected
    procedure push(e : elem);
    impure function dump return string;
  end protected;
end package;
package body stacks is
  type stack is protected body
    type cells is array (1 to depth) of elem;
    variable a : cells;
    variable n : natural := 0;
    procedure push(e : elem) is begin n := n + 1; a(n) := e; end procedure;
    impure function part(k : natural) return string is
    begin
      if k > n then return ""; end if;
      return img(a(k)) & ";" & part(k + 1);
    end function;
    impure function dump return string is begin return part(1); end function;
  end protected body;
end package body;
"""
    declarations = """  function iimg(i : integer) return string is begin return integer'image(i); end function;
  package ints is new work.stacks generic map (elem => integer, img => iimg, depth => 8);
  use ints.all;
  shared variable st : stack;"""
    concurrent = "  other : process begin\n    st.push(1);\n    wait;\n  end process;"
    body = "  begin\n    wait for 1 ns;\n    st.push(4); st.push(5);\n    say(st.dump);"
    prints(simulate, bench(body, declarations, concurrent, units), "1;4;5;")


def test_files(simulate: Run, tmp_path: Path) -> None:
    """5.5, 16.4: text is written and read again, integers as well; what lies outside of the folder can't be opened."""
    body = """    file f : text;
    type int_file is file of integer;
    file g : int_file;
    variable l : line;
    variable i : integer;
    variable t : time;
    variable v : std_logic_vector(7 downto 0);
    variable ok : boolean;
    variable st : file_open_status;
  begin
    file_open(f, "out.txt", write_mode);
    write(l, string'("12 25 us A5 x")); writeline(f, l);
    write(f, "a" & LF & "b" & LF);
    file_close(f);
    file_open(st, f, "out.txt", read_mode);
    readline(f, l);
    read(l, i); read(l, t); hread(l, v);
    say(file_open_status'image(st) & integer'image(i) & integer'image(t / 1 ns) & to_string(v) & l.all);
    read(l, i, ok);
    say(boolean'image(ok));
    while not endfile(f) loop
      readline(f, l);
      say(l.all);
    end loop;
    file_close(f);
    file_open(g, "n.bin", write_mode); write(g, 5); write(g, -6); file_close(g);
    file_open(g, "n.bin"); read(g, i); read(g, i); say(integer'image(i) & boolean'image(endfile(g)));
    file_open(st, f, "none.txt", read_mode);
    say(file_open_status'image(st));
    file_open(f, "/etc/passwd", read_mode);"""
    done = prints(simulate, bench(body), "open_ok122500010100101 x\nfalse\na\nb\n-6true\nname_error")
    assert done.status == 1 and "outside of the project folder" in done.err
    assert (tmp_path / "out.txt").read_text() == "12 25 us A5 x\na\nb\n"


def test_text_in_columns(simulate: Run) -> None:
    """16.4: justification, width, digits, units."""
    body = """    variable l : line;
  begin
    write(l, string'("ab"), left, 5); write(l, 12, right, 6); write(l, 3.25, right, 8, 2); write(l, 5 ns, right, 8);
    write(l, true, left, 6); write(l, 'c'); write(l, bit'('1')); write(l, 1500 ps, right, 10, ps);
    writeline(output, l);
    hwrite(l, std_logic_vector'("11010010"), right, 4); owrite(l, bit_vector'("001111"), left, 3); write(l, std_logic_vector'("1Z"));
    writeline(output, l);"""
    prints(simulate, bench(body), "ab       12    3.25    5 nstrue  c1   1500 ps\nD217 1Z")


def test_configurations_and_generates(simulate: Run) -> None:
    """3.4, 7.3, 11.9: which architecture an instance gets, and branches by number, condition and case."""
    units = """entity leaf is generic (n : integer := 1); port (a : in integer; b : out integer); end entity;
architecture one of leaf is begin b <= a + n; end architecture;
architecture two of leaf is begin b <= a + n * 100; end architecture;
entity mid is port (x : in integer; y, z : out integer); end entity;
architecture str of mid is
  component leaf is generic (n : integer := 1); port (a : in integer; b : out integer); end component;
begin
  first : leaf generic map (n => 5) port map (a => x, b => y);
  g : for i in 0 to 0 generate
    second : leaf generic map (2) port map (x, z);
  end generate;
end architecture;
configuration cfg of mid is
  for str
    for first : leaf use entity work.leaf(one); end for;
    for g(0)
      for all : leaf use entity work.leaf(two); end for;
    end for;
  end for;
end configuration;
"""
    declarations = '  signal x : integer := 3;\n  signal y, z : integer;\n  constant mode : string := "fast";'
    concurrent = """  m : configuration work.cfg port map (x, y, z);
  c : case mode generate
    when "slow" => process begin say("slow"); wait; end process;
    when "fast" | "faster" => process begin say("quick"); wait; end process;
    when others => process begin say("none"); wait; end process;
  end generate;
  i : if mode'length > 4 generate
    process begin say("long"); wait; end process;
  elsif mode'length = 4 generate
    process begin say("four"); wait; end process;
  end generate;"""
    body = "  begin\n    wait for 1 ns;\n    say(integer'image(y) & \" \" & integer'image(z));"
    done = simulate(bench(body, declarations, concurrent, units), suffix=".vhd")
    assert sorted(done.out.splitlines()) == sorted(["quick", "four", "8 203"]), done.err


def test_ports_with_conversions_expressions_and_parts(simulate: Run) -> None:
    """6.5.6.3, 6.5.7: conversions of actuals and formals, expressions (2008), elements one by one, open, defaults."""
    units = """library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
entity dev is
  generic (w : positive);
  port (n : in integer; lo : in integer := 10; v : in std_logic_vector(w - 1 downto 0); q : out unsigned(w - 1 downto 0); hot : out boolean);
end entity;
architecture a of dev is
begin
  q <= unsigned(v) + 1;
  hot <= n > lo;
end architecture;
"""
    declarations = """  signal u : unsigned(3 downto 0) := "0011";
  signal b0, b1 : std_logic := '0';
  signal r : std_logic_vector(3 downto 0);
  signal h1, h2 : boolean;
  signal two : unsigned(1 downto 0);"""
    concurrent = """  one : entity work.dev generic map (4) port map (to_integer(u), 2, std_logic_vector(u), std_logic_vector(q) => r, hot => h1);
  two_bits : entity work.dev generic map (2) port map (n => to_integer(u) * 3, lo => open, v(0) => b0, v(1) => b1, q => two, hot => h2);"""
    body = """  begin
    wait for 1 ns;
    say(to_string(r) & boolean'image(h1) & to_string(two) & boolean'image(h2));
    u <= "0100"; b1 <= '1';
    wait for 1 ns;
    say(to_string(r) & boolean'image(h1) & to_string(two) & boolean'image(h2));"""
    prints(simulate, bench(body, declarations, concurrent, units), "0100true01false\n0101true11true")


def test_a_tree_of_instances(simulate: Run) -> None:
    """11.7: an entity that instantiates itself until its generic is 1."""
    units = """library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
entity tree is generic (n : positive); port (x : in unsigned; y : out unsigned(7 downto 0)); end entity;
architecture rec of tree is
begin
  leaf : if n = 1 generate y <= resize(x, 8); end generate;
  node : if n > 1 generate
    constant half : positive := n / 2;
    constant w : natural := x'length / n;
    signal l, r : unsigned(7 downto 0);
  begin
    a : entity work.tree generic map (half) port map (x(x'left downto x'left - half * w + 1), l);
    b : entity work.tree generic map (n - half) port map (x(x'left - half * w downto x'right), r);
    y <= l + r;
  end generate;
end architecture;
"""
    concurrent = "  t : entity work.tree generic map (5) port map (to_unsigned(16#12345#, 20), s);"
    body = "  begin\n    wait for 1 ns;\n    say(integer'image(to_integer(s)));"
    prints(simulate, bench(body, "  signal s : unsigned(7 downto 0);", concurrent, units), "15")


def test_bounds_from_functions_and_tables(simulate: Run) -> None:
    """7.4.2: what has to be known before the run is computed by running it."""
    declarations = """
  function clog2(n : natural) return natural is
    variable r, v : natural := 0;
  begin
    v := 1;
    while v < n loop v := v * 2; r := r + 1; end loop;
    return r;
  end function;
  signal address : unsigned(clog2(20) - 1 downto 0) := (others => '1');
  type rom_t is array (0 to 19) of std_logic_vector(7 downto 0);
  function fill return rom_t is
    variable r : rom_t;
  begin
    for i in r'range loop r(i) := std_logic_vector(to_unsigned(i * i mod 256, 8)); end loop;
    return r;
  end function;
  constant rom : rom_t := fill;
  constant words : string := integer'image(clog2(1000)) & " bits";
"""
    body = "  begin\n    say(integer'image(address'length) & to_hstring(rom(19)) & words & integer'image(words'length));"
    prints(simulate, bench(body, declarations), "56910 bits7")


def test_errors_of_a_run_name_statement_value_and_bounds(tmp_path: Path) -> None:
    cases = {
        "variable v : bit_vector(0 to 3); variable i : integer := 4;|v(i) := '1';": "index 4 is outside of 'v', which is 0 to 3",
        "variable n : natural := 0;|n := n - 1;": "the value -1 is outside of natural, whose range is 0 to 2147483647",
        "variable n : integer := integer'high;|n := n + 1;": "the value 2147483648 is outside of integer",
        "variable n : integer := 0;|n := 5 / n;": "division by zero",
        "type p is access integer; variable x : p;|x.all := 1;": "this access value is null",
        "variable a, b : bit_vector(0 to 3); variable n : integer := 3;|a := b(0 to n - 1);": "the value has 3 elements, what it is for has 4",
        "type c is (r, g); variable x : c := g;|x := c'succ(x);": "outside of c",
        "variable s : string(1 to 2);|s := integer'image(100);": "the value has 3 elements, what it is for has 2",
        '|assert false report "no" severity failure;': "failure: no",
    }
    for case, words in cases.items():
        declared, statement = case.split("|")
        path = tmp_path / "e.vhd"
        path.write_text(
            f"entity tb is end;\narchitecture a of tb is\nbegin\n  process\n    {declared}\n  begin\n    {statement}\n    wait;\n  end process;\nend;\n"
        )
        done = mevrik("run", path)
        assert done.status == 1 and words in done.err and "e.vhd:7:" in done.err, (case, done.err)


def test_endless_things_are_stopped(tmp_path: Path) -> None:
    cases = {
        "signal s : bit;|s <= not s;": "never settles",
        "signal s : bit; signal r : bit := '1'; signal n : natural;|s <= not s; process (s, r) begin if r = '1' then n <= 0; elsif s'event and s = '1' then n <= n + 1; end if; end process;": "never settles",
        "|process begin loop null; end loop; end process;": "this loop never ends",
        "function f(n : integer) return integer is begin return f(n) + 1; end; |process variable i : integer; begin i := f(i); wait; end process;": "calls itself without end",
    }
    for case, words in cases.items():
        declared, statement = case.split("|")
        path = tmp_path / "e.vhd"
        path.write_text(f"entity tb is end;\narchitecture a of tb is\n  {declared}\nbegin\n  {statement}\nend;\n")
        done = mevrik("run", path)
        assert done.status == 1 and words in done.err, (case, done.err)


def test_severities_and_the_end(tmp_path: Path) -> None:
    """10.3: only error and failure make the run fail; std.env.finish ends it."""
    path = tmp_path / "e.vhd"
    path.write_text(
        'entity tb is end;\narchitecture a of tb is\nbegin\n  process\n  begin\n    report "so far";\n'
        '    assert 1 = 2 report "odd" severity warning;\n    wait for 3 ns;\n    std.env.finish;\n    report "never";\n  end process;\nend;\n'
    )
    done = mevrik("run", path)
    assert done.status == 0 and done.out == ""
    assert "e.vhd:6:5: note: so far (at 0 s)" in done.err and "e.vhd:7:5: warning: odd" in done.err and "never" not in done.err


def test_path_names(simulate: Run) -> None:
    """16.2.5: entities, instances, generates, processes, subprograms and packages as parts of a path."""
    units = """
package sizes is
  constant depth : integer := 3;
  function name_of(n : natural) return string;
end package;
package body sizes is
  function name_of(n : natural) return string is
    variable kept : integer;
  begin
    return kept'path_name;
  end function;
end package body;
entity leaf is port (clk : in bit); end entity;
architecture rtl of leaf is
  signal level : integer;
begin
  watch : process
    variable seen : bit;
  begin
    report seen'path_name & " " & level'instance_name & " " & watch'path_name & " " & leaf'instance_name;
    wait;
  end process;
end architecture;
"""
    concurrent = "  g : for i in 4 to 4 generate\n    u : entity work.leaf port map (clk => '0');\n  end generate;\n"
    body = """
  begin
    say(work.sizes.depth'path_name & " " & work.sizes.name_of(1) & " " & main'instance_name);
"""
    done = simulate(bench(body, concurrent=concurrent, units=units), suffix=".vhd")
    assert done.out.splitlines() == [":work:sizes:depth :work:sizes:name_of[natural return string]:kept :tb(sim):main:"]
    assert ":tb:g(4):u:watch:seen :tb(sim):g(4):u@leaf(rtl):level :tb:g(4):u:watch: :tb(sim):g(4):u@leaf(rtl):" in done.err


def test_an_instance_written_like_a_call(simulate: Run) -> None:
    """11.7.1: `component` and both maps may be left out; 16.2.5: the generate is a part of the path, wherever the component is declared."""
    text = """
    entity tb is end;
    architecture sim of tb is
      component buoy is end component;
      component nowhere is end component;
      procedure hail is begin report "hailed"; end;
    begin
      u1 : buoy;
      u2 : hail;
      g : for k in 3 to 3 generate
        u3 : buoy;
      end generate;
      u4 : nowhere;
    end;
    entity buoy is end;
    architecture floating of buoy is
      signal lamp : bit;
    begin
      process begin report lamp'instance_name; wait; end process;
    end;
    """
    err = simulate(text, suffix=".vhd").err
    assert sorted(line.split("note: ")[1] for line in err.splitlines() if "note: " in line) == [
        ":tb(sim):g(3):u3@buoy(floating):lamp (at 0 s)",
        ":tb(sim):u1@buoy(floating):lamp (at 0 s)",
        "hailed (at 0 s)",
    ]
    assert "'nowhere' is bound to nothing" in err


def test_packages_with_generics_and_the_forms_of_2008(simulate: Run) -> None:
    """4.7, 6.5.4, 6.5.5: a package with types and functions as generics, an attribute as one (16.2.2); 8.7: external names; 10.5.2.3: force
    of a signal that has no driver, which falls back to its default value; 9.2.4, 10.6.3, 5.3.2.2 and others, each line by hand."""
    text = """
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
    package fifo_pkg is
      generic (type item; depth : positive := 4; function image (x : item) return string);
      type fifo is protected
        procedure push (x : item); impure function pop return item; impure function count return natural; impure function dump return string;
      end protected;
    end package;
    package body fifo_pkg is
      type fifo is protected body
        type store is array (0 to depth - 1) of item; variable s : store; variable head, n : natural := 0;
        procedure push (x : item) is begin assert n < depth report "full" severity warning; if n < depth then s((head + n) mod depth) := x; n := n + 1; end if; end;
        impure function pop return item is variable r : item := s(head); begin head := (head + 1) mod depth; n := n - 1; return r; end;
        impure function count return natural is begin return n; end;
        impure function dump return string is
          impure function tail (i : natural) return string is begin if i = n then return ""; else return " " & image(s((head + i) mod depth)) & tail(i + 1); end if; end;
        begin return "[" & tail(0) & " ]"; end;
      end protected body;
    end package body;
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
    entity generic_reg is
      generic (type t; init : t);
      port (clk, en : in std_logic; d : in t; q : out t := init);
    end entity;
    architecture rtl of generic_reg is begin process (clk) begin if rising_edge(clk) and en = '1' then q <= d; end if; end process; end architecture;
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use std.textio.all; use std.env.all;
    entity tb is end entity;
    architecture sim of tb is
      package ints is new work.fifo_pkg generic map (item => integer, depth => 3, image => integer'image);
      function vimg (v : unsigned(3 downto 0)) return string is begin return to_hstring(v); end;
      package vecs is new work.fifo_pkg generic map (item => unsigned(3 downto 0), image => vimg);
      shared variable f : ints.fifo; shared variable g : vecs.fifo;
      signal clk : std_logic := '0'; signal en : std_logic := '1'; signal d, q : unsigned(3 downto 0) := x"1"; signal ti, to1 : time := 0 ns;
      type matrix is array (natural range <>, natural range <>) of integer; constant m : matrix(0 to 1, 0 to 2) := ((1, 2, 3), (4, 5, 6));
      type vec_of_vec is array (natural range <>) of std_logic_vector; signal vv : vec_of_vec(0 to 1)(7 downto 0) := (x"12", x"34");
      type rec is record a : std_logic_vector; b : integer; end record; signal r : rec(a(3 downto 0)) := (a => "1010", b => 5);
      procedure say (s : string) is variable l : line; begin write(l, s); writeline(output, l); end;
      function sum (x : matrix) return integer is variable t : integer := 0; begin for i in x'range(1) loop for j in x'range(2) loop t := t + x(i, j); end loop; end loop; return t; end;
      signal hidden : integer := 3;
    begin
      clk <= not clk after 5 ns;
      u : entity work.generic_reg generic map (t => unsigned(3 downto 0), init => x"a") port map (clk, en, d, q);
      v : entity work.generic_reg generic map (t => time, init => 7 ns) port map (clk, en, ti, to1);
      blk : block is signal inner : integer := 9; begin inner <= 10 after 12 ns; end block;
      main : process
        variable i : integer; variable l : line; alias inner is << signal .tb.blk.inner : integer >>;
        variable a2 : string(1 to 5); variable bv : bit_vector(7 downto 0);
      begin
        f.push(1); f.push(2); f.push(3); f.push(4); say(f.dump & integer'image(f.pop) & f.dump & integer'image(f.count));
        g.push(x"c"); g.push(x"d"); say(g.dump);
        say(to_hstring(q) & " " & to_string(to1) & " " & integer'image(sum(m)) & " " & integer'image(m'length(2)));
        wait until rising_edge(clk); wait for 1 ns; say(to_hstring(q) & " " & to_string(to1)); d <= d + 7; ti <= 3 us; en <= '0';
        wait until rising_edge(clk); wait for 0 ns; wait for 0 ns; say(to_hstring(q) & " " & integer'image(inner));
        say(to_hstring(vv(1)) & " " & integer'image(vv'length) & " " & integer'image(vv(0)'length) & " " & to_string(r.a) & " " & integer'image(r.a'left));
        hidden <= force 8; wait for 0 ns; say(integer'image(hidden)); hidden <= release; wait for 0 ns; say(integer'image(hidden));
        with i select a2 := "small" when integer'low to 0, "large" when others; say(a2);
        bv := x"5a"; say(to_string(bv sll 2) & " " & to_string(bv ror 3) & " " & to_string(bv sra 1) & " " & to_string(not bv) & " " & bit'image(xor bv));
        say(to_string(3.14159, 2) & " " & to_string(1.5 ns, ns) & " " & to_string(true) & " " & to_ostring(bv) & " " & to_string(42) & " " & integer'image(maximum(3, 9)) & " " & to_string(minimum(bv)));
        i := 7; i := i when i > 5 else 0; say(integer'image(i));
        case bv(7 downto 6) is when "00" | "11" => say("even"); when others => say("odd"); end case;
        for k in bv'reverse_range loop next when bv(k) = '0'; exit when k > 4; write(l, k); write(l, ' '); end loop; writeline(output, l);
        outer : for x in 1 to 3 loop for y in 1 to 3 loop next outer when y = 2; exit outer when x = 3; write(l, x * 10 + y); write(l, ','); end loop; end loop; writeline(output, l);
        assert false report "note " & time'image(now) severity note; finish;
      end process;
    end architecture;"""
    wanted = """
    [ 1 2 3 ]1[ 2 3 ]2
    [ C D ]
    A 7000000 fs 21 3
    1 0 fs
    1 10
    34 2 8 1010 3
    8
    3
    small
    01101000 01001011 00101101 10100101 '0'
    3.14 1.5 ns true 132 42 9 0
    7
    odd
    1 3 4
    11,21,"""
    done = prints(simulate, text, wanted)
    assert "warning: full" in done.err and "note 15000000 fs" in done.err


def test_a_lock_of_many_parts(simulate: Run) -> None:
    """Packages with protected queues, enumerations as indexes, aliases in both directions, generated chains of components, text read and written,
    matching cases, attributes; each line by hand."""
    text = """
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use std.textio.all;
    package lock_types is
      type gate_state is (closed, opening, open_wide, closing);
      type levels is array (gate_state) of natural;
      type sample is record at : time; level : integer range -100 to 100; valid : boolean; end record;
      type samples is array (natural range <>) of sample;
      constant limits : levels := (closed => 0, open_wide => 90, others => 45);
      function to_text (s : sample) return string;
      procedure push (variable list : inout samples; variable count : inout natural; constant item : in sample);
      type queue is protected
        procedure put (x : integer); impure function take return integer; impure function size return natural;
      end protected;
      function "+" (a : sample; b : integer) return sample;
    end package;
    package body lock_types is
      function to_text (s : sample) return string is
      begin return time'image(s.at) & " " & integer'image(s.level) & " " & boolean'image(s.valid); end;
      procedure push (variable list : inout samples; variable count : inout natural; constant item : in sample) is
      begin list(list'low + count) := item; count := count + 1; end procedure;
      type queue is protected body
        type node; type link is access node;
        type node is record value : integer; next_one : link; end record;
        variable first, last : link; variable n : natural := 0;
        procedure put (x : integer) is variable made : link := new node'(x, null);
        begin if first = null then first := made; else last.next_one := made; end if; last := made; n := n + 1; end;
        impure function take return integer is variable old : link := first; variable v : integer;
        begin v := old.value; first := old.next_one; deallocate(old); n := n - 1; return v; end;
        impure function size return natural is begin return n; end;
      end protected body;
      function "+" (a : sample; b : integer) return sample is variable r : sample := a; begin r.level := r.level + b; return r; end;
    end package body;
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use std.textio.all; use work.lock_types.all;
    entity tb is end;
    architecture a of tb is
      shared variable q : queue;
      signal state : gate_state := closed; signal clk : bit := '0'; signal v : std_logic_vector(7 downto 0) := x"a5";
      alias top : std_logic_vector(3 downto 0) is v(7 downto 4);
      alias up : std_logic_vector(0 to 7) is v;
      signal bus_line : std_logic;
      function parity (x : std_logic_vector) return std_logic is variable p : std_logic := '0';
      begin for i in x'range loop p := p xor x(i); end loop; return p; end function;
      procedure say (s : string) is variable l : line; begin write(l, s); writeline(output, l); end;
      component inverter is generic (delay : time := 1 ns); port (a : in std_logic; y : out std_logic); end component;
      signal chain : std_logic_vector(0 to 3);
    begin
      clk <= not clk after 5 ns when now < 40 ns else clk;
      bus_line <= 'Z', '1' after 10 ns; bus_line <= 'L';
      chain(0) <= '0', '1' after 7 ns;
      gen : for i in 0 to 2 generate
        even : if i mod 2 = 0 generate u : inverter generic map (delay => (i + 1) * 1 ns) port map (chain(i), chain(i + 1)); end generate;
        odd : if i mod 2 = 1 generate u : inverter port map (a => chain(i), y => chain(i + 1)); end generate;
      end generate;
      advance : process (clk) begin
        if clk'event and clk = '1' then
          if state = gate_state'high then state <= gate_state'low; else state <= gate_state'succ(state); end if;
        end if;
      end process;
      main : process
        variable list : samples(3 to 6); variable count : natural := 0; variable s : sample := (1 us, -7, true); variable l : line; variable i : integer; variable ok : boolean; variable t : time; variable b : bit_vector(0 to 3);
      begin
        say(to_text(s) & "|" & to_text(s + 10)); push(list, count, s); push(list, count, s + 1); say(integer'image(list(4).level) & " " & integer'image(count));
        for k in gate_state loop say(gate_state'image(k) & " " & integer'image(limits(k)) & " " & integer'image(gate_state'pos(k))); end loop;
        say(to_string(top) & " " & to_hstring(up) & " " & std_logic'image(parity(v)) & " " & integer'image(to_integer(unsigned(top))));
        v(4) <= '1'; wait for 0 ns; say(to_string(top) & " " & to_string(up));
        q.put(3); q.put(4); say(integer'image(q.take) & integer'image(q.size) & integer'image(q.take));
        wait until state = open_wide for 100 ns; say(gate_state'image(state) & " " & time'image(now));
        wait on bus_line for 20 ns; say(std_logic'image(bus_line) & " " & time'image(now));
        wait for 20 ns; say(to_string(chain));
        l := new string'("12 true 5 ns 1010 x"); read(l, i); read(l, ok); read(l, t); read(l, b); say(integer'image(i) & boolean'image(ok) & time'image(t) & to_string(b) & "[" & l.all & "]");
        read(l, i, ok); say(boolean'image(ok)); deallocate(l);
        write(l, 42, right, 6); write(l, string'("|")); write(l, 3.5, left, 10, 2); write(l, '|'); write(l, true, right, 7); write(l, 15 ns, right, 9, us); writeline(output, l);
        case? v is when "1---0101" => say("match"); when others => say("other"); end case?;
        say(integer'image(v'length) & " " & integer'image(up'left) & " " & integer'image(levels'length) & " " & gate_state'image(levels'right));
        say(integer'image(-7 mod 3) & integer'image(-7 rem 3) & integer'image(7 / (-2)) & " " & real'image(2.5) & " " & integer'image(integer(2.5)) & integer'image(integer(-2.5)) & integer'image(2 ** 10));
        wait;
      end process;
    end architecture;
    library ieee; use ieee.std_logic_1164.all;
    entity inverter is generic (delay : time := 1 ns); port (a : in std_logic; y : out std_logic); end;
    architecture a of inverter is begin y <= not a after delay; end;
"""
    wanted = """
    1000000000 fs -7 true|1000000000 fs 3 true
    -6 2
    closed 0 0
    opening 45 1
    open_wide 90 2
    closing 45 3
    1010 A5 '0' 10
    1011 10110101
    314
    open_wide 15000000 fs
    '1' 35000000 fs
    1010
    12true5000000 fs1010[ x]
    false
        42|3.50      |   true 0.015 us
    match
    8 0 4 closing
    -1-1-3 2.500000000000000e+00 3-31024
"""
    prints(simulate, text, wanted)


def test_buses_files_and_trees(simulate: Run) -> None:
    """A resolved bus of an own type whose drivers are bound by configuration specifications (7.3), records with resolved elements, a guarded
    signal that is disconnected (7.4), files of integers and of text, a tree of access values; each line by hand."""
    text = """
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use std.textio.all;
    package bus_pkg is
      type level is (idle, low, high, clash);
      type level_vector is array (natural range <>) of level;
      function settle (v : level_vector) return level;
      subtype wire_level is settle level;
      type wire_levels is array (natural range <>) of wire_level;
      type pair is record a : wire_level; n : std_logic_vector(1 downto 0); end record;
      type memory is array (0 to 7) of std_logic_vector(7 downto 0);
      type int_file is file of integer;
      constant deferred : integer;
      procedure tick (signal c : out std_logic; constant half : in time := 5 ns; variable n : inout natural);
      attribute tag : string; attribute weight : integer;
    end package;
    package body bus_pkg is
      function settle (v : level_vector) return level is variable r : level := idle;
      begin for i in v'range loop if v(i) /= idle then if r = idle then r := v(i); elsif r /= v(i) then r := clash; end if; end if; end loop; return r; end;
      constant deferred : integer := 77;
      procedure tick (signal c : out std_logic; constant half : in time := 5 ns; variable n : inout natural) is
      begin c <= '1'; wait for half; c <= '0'; wait for half; n := n + 1; end;
    end package body;
    library ieee; use ieee.std_logic_1164.all;
    entity driver is generic (value : work.bus_pkg.level := work.bus_pkg.low; after_time : time := 3 ns); port (w : inout work.bus_pkg.wire_level); end;
    architecture fast of driver is begin w <= value after after_time, work.bus_pkg.idle after 3 * after_time; end;
    architecture slow of driver is begin w <= value after 10 * after_time; end;
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use std.textio.all; use work.bus_pkg.all;
    entity tb is end;
    architecture t of tb is
      component driver is generic (value : level := low; after_time : time := 1 ns); port (w : inout wire_level); end component;
      for d1 : driver use entity work.driver(slow) generic map (value => high, after_time => after_time);
      for others : driver use entity work.driver(fast);
      signal w : wire_level; signal ws : wire_levels(1 to 2); signal p : pair := (idle, "ZZ"); signal clk : std_logic := '0';
      signal mem : memory := (0 => x"11", 3 to 5 => x"33", others => x"ff"); signal g_on : boolean := false; signal gb : std_logic bus := 'Z';
      attribute tag of w : signal is "shared"; attribute weight of tb : entity is 12;
      signal delayed, stable_ok : std_logic; signal total : natural := 0;
      disconnect gb : std_logic after 2 ns;
      procedure say (s : string) is variable l : line; begin write(l, s); writeline(output, l); end;
      function image (l : level) return string is begin return level'image(l); end;
    begin
      d1 : driver generic map (after_time => 1 ns) port map (w);
      d2 : driver port map (w);
      d3 : component driver generic map (high, 2 ns) port map (ws(2));
      p.a <= low after 4 ns; p.n(0) <= '1' after 5 ns; second : p.n <= "HL" after 6 ns;
      guard_blk : block (g_on) begin gb <= guarded '1'; end block;
      delayed <= clk'delayed(2 ns); total <= total + 1 when rising_edge(clk);
      watch : process (w) begin if now > 0 ns then say("w " & image(w) & " " & time'image(now)); end if; end process;
      watch_gb : process (gb) begin if now > 0 ns then say("gb " & std_logic'image(gb) & " " & time'image(now)); end if; end process;
      g_on <= true after 20 ns, false after 25 ns;
      main : process
        variable n : natural := 0; file f : int_file; file tf : text; variable i : integer; variable l : line; variable st : file_open_status; variable c : character; variable good : boolean; variable s3 : string(1 to 3);
        type tree; type link is access tree; type tree is record key : integer; left, right : link; end record; variable root : link;
        procedure insert (variable t : inout link; key : integer) is begin if t = null then t := new tree'(key, null, null); elsif key < t.key then insert(t.left, key); else insert(t.right, key); end if; end;
        impure function walk (t : link) return string is begin if t = null then return ""; end if; return walk(t.left) & integer'image(t.key) & " " & walk(t.right); end;
      begin
        tick(clk, n => n); tick(clk, 3 ns, n); say(integer'image(n) & " " & integer'image(total) & " " & time'image(now) & " " & std_logic'image(delayed));
        wait for 20 ns; say(image(p.a) & " " & to_string(p.n) & " " & image(ws(2)) & " " & image(ws(1)) & " " & integer'image(deferred) & " " & w'tag & " " & integer'image(tb'weight));
        say(to_hstring(mem(4)) & to_hstring(mem(0)) & to_hstring(mem(7)) & " " & boolean'image(w'stable(5 ns)) & " " & time'image(w'last_event));
        file_open(st, f, "ints.bin", write_mode); for k in 1 to 3 loop write(f, k * k); end loop; file_close(f);
        file_open(f, "ints.bin", read_mode); while not endfile(f) loop read(f, i); write(l, i); write(l, ' '); end loop; file_close(f); writeline(output, l);
        file_open(tf, "t.txt", write_mode); write(l, string'("abc 12")); writeline(tf, l); write(l, string'("-7 xyz")); writeline(tf, l); file_close(tf);
        file_open(st, tf, "t.txt", append_mode); write(l, 3.25, digits => 1); writeline(tf, l); file_close(tf);
        file_open(tf, "t.txt", read_mode); readline(tf, l); read(l, s3); read(l, c); read(l, i); say(s3 & c & integer'image(i) & boolean'image(endfile(tf)));
        readline(tf, l); read(l, i, good); read(l, i, good); say(boolean'image(good) & " " & integer'image(l'length)); readline(tf, l); say(l.all); file_close(tf);
        file_open(st, tf, "none.txt", read_mode); say(file_open_status'image(st));
        for k in 1 to 5 loop insert(root, (k * 7) mod 5); end loop; say(walk(root));
        wait;
      end process;
    end architecture;
"""
    wanted = """
    w low 1000000 fs
    w idle 3000000 fs
    w high 10000000 fs
    2 2 16000000 fs '0'
    gb '1' 20000000 fs
    gb 'Z' 27000000 fs
    low H1 idle idle 77 shared 12
    3311FF true 26000000 fs
    1 4 9
    abc 12false
    false 4
    3.2
    name_error
    0 1 2 3 4
"""
    prints(simulate, text, wanted, "--allow-files")


def test_matrices_of_any_size(simulate: Run) -> None:
    """9.3.3: aggregates of arrays of two dimensions whose bounds are those of parameters; the identity, a transpose, a product."""
    text = """entity tb is end;
    architecture a of tb is
      type matrix is array (natural range <>, natural range <>) of integer;
      function ident(n : positive) return matrix is
        variable r : matrix(1 to n, 1 to n) := (others => (others => 0));
      begin for i in 1 to n loop r(i, i) := 1; end loop; return r; end;
      function transpose(m : matrix) return matrix is
        variable r : matrix(m'range(2), m'range(1)) := (m'low(2) => (others => 7), others => (m'low(1) => 8, others => 9));
      begin for i in m'range(1) loop for j in m'range(2) loop if i /= j then r(j, i) := m(i, j); end if; end loop; end loop; return r; end;
      function "*"(a, b : matrix) return matrix is
        variable c : matrix(a'range(1), b'range(2)) := (others => (others => 0));
      begin for i in a'range(1) loop for j in b'range(2) loop for k in a'range(2) loop c(i, j) := c(i, j) + a(i, k) * b(k, j); end loop; end loop; end loop;
        return c; end;
      function image(m : matrix) return string is
        variable s : string(1 to 100); variable p : natural := 0;
      begin
        for i in m'range(1) loop for j in m'range(2) loop
          s(p + 1 to p + 1 + integer'image(m(i, j))'length) := integer'image(m(i, j)) & ' '; p := p + 1 + integer'image(m(i, j))'length; end loop; end loop;
        return s(1 to p - 1); end;
    begin
      process constant m : matrix(0 to 1, 0 to 2) := ((1, 2, 3), (4, 5, 6)); begin
        report image(ident(2)); report image(transpose(m)); report image(m * transpose(m));
        wait; end process;
    end;"""
    # the transpose keeps what was there on the diagonal: (7 4) (2 9) (3 6), so the product is (7+4+9, 4+18+18), (28+10+18, 16+45+36)
    assert notes(simulate(text, suffix=".vhd").err) == ["1 0 0 1", "7 4 2 9 3 6", "20 40 56 97"]


def test_a_part_of_an_external_name(simulate: Run) -> None:
    """8.7: an external name is a name, which may have an index, a slice or an attribute behind it, in a value and as a target."""
    text = """entity low is end;
    architecture a of low is signal s : bit_vector(3 downto 0) := "0110"; begin end;
    entity tb is end;
    architecture a of tb is begin
      u : entity work.low;
      process variable v : bit_vector(1 downto 0); begin
        v := << signal .tb.u.s : bit_vector(3 downto 0) >>(2 downto 1);
        report bit'image(<< signal u.s : bit_vector(3 downto 0) >>(3)) & to_string(v)
          & integer'image(<< signal u.s : bit_vector(3 downto 0) >>'length);
        << signal u.s : bit_vector(3 downto 0) >>(3) <= force '1'; wait for 0 ns;
        report to_string(<< signal u.s : bit_vector(3 downto 0) >>);
        wait; end process;
    end;"""
    assert notes(simulate(text, suffix=".vhd").err) == ["'0'114", "1110"]


def test_elements_without_bounds(simulate: Run) -> None:
    """5.3.2, 5.3.3 (2008): arrays of arrays and records get the bounds of their elements with the object, from generics, from an actual, in
    records that lie in records; parameters take them from the actual."""
    text = """package p is
      type mat is array (natural range <>) of bit_vector;
      type rec is record id : natural; data : bit_vector; tag : string; end record;
      type recs is array (natural range <>) of rec;
      type nested is record r : rec; n : natural; end record;
      function ones(m : mat) return natural;
      procedure fill(variable m : inout mat; v : bit);
    end;
    package body p is
      function ones(m : mat) return natural is variable s : natural := 0;
      begin for i in m'range loop for k in m'element'range loop if m(i)(k) = '1' then s := s + 1; end if; end loop; end loop; return s; end;
      procedure fill(variable m : inout mat; v : bit) is begin for i in m'range loop m(i) := (m(i)'range => v); end loop; end;
    end;
    use work.p.all;
    entity e is generic (n, w : positive := 2); port (m : in mat(0 to n - 1)(w - 1 downto 0); q : out mat(0 to n - 1)(w - 1 downto 0)); end;
    architecture a of e is begin g : for i in m'range generate q(i) <= not m(m'high - i); end generate; end;
    use work.p.all;
    entity tb is end;
    architecture t of tb is
      signal m : mat(1 downto 0)(3 downto 0) := ("0110", "0001"); signal q : mat(0 to 1)(3 downto 0);
      signal nn : nested(r(data(2 downto 0), tag(1 to 2))) := ((7, "101", "qr"), 3);
      constant c : recs(0 to 1)(data(1 downto 0), tag(1 to 1)) := ((1, "01", "x"), (2, "10", "z"));
      type cube is array (natural range <>) of mat; signal a3 : cube(0 to 1)(0 to 1)(2 downto 0) := (others => ("001", "010"));
    begin
      u : entity work.e generic map (2, 4) port map (m => m, q => q);
      process variable v : mat(0 to 2)(5 downto 0) := ("000001", "000011", "000111"); variable idx : natural := 1; begin
        report integer'image(ones(m)) & integer'image(ones(v)) & integer'image(v'element'length) & integer'image(m(0)'high);
        wait for 1 ns; report to_string(q(0)) & to_string(q(1));
        nn.r.data(0) <= '0'; wait for 0 ns; report nn.r.tag & to_string(nn.r.data) & integer'image(nn.n) & c(idx).tag & to_string(c(0).data);
        report to_string(a3(1)(0)) & integer'image(a3(0)'length) & boolean'image(mat'(v(0), v(1)) = v(0 to 1));
        fill(v, '1'); v(idx) := v(idx) and "010101"; report to_string(v(idx)) & integer'image(ones(v)); wait;
      end process;
    end;"""
    # the left element of m is the formal's element 0, so q(0) is the complement of the right one; 6 + 3 + 6 ones at the end
    assert notes(simulate(text, suffix=".vhd").err) == ["3663", "11101001", "qr1003z01", "0012true", "01010115"]


def test_constants_of_subprograms_as_choices(simulate: Run) -> None:
    """9.4.2: a constant with a static value is static wherever it is declared, so it may be a choice (10.9)."""
    text = bench(
        """begin
          for i in 2 to 10 loop say(name(i)); end loop;
          which("xy"); which("ab"); which("cc");""",
        """function name(x : integer) return string is
          constant k : integer := 3;
          constant l : integer := k + 1;
        begin
          case x is
            when k => return "three";
            when l | l + 1 => return "four or five";
            when integer'pos(k + 4) to 3 * k => return "seven to nine";
            when others => return "other";
          end case;
        end;
        procedure which(t : string(1 to 2)) is
          constant z : string(1 to 2) := "xy";
          constant q : string := "ab";
        begin
          case t is
            when z => say("first");
            when q => say("second");
            when others => say("none");
          end case;
        end;""",
    )
    wanted = "other three four_or_five four_or_five other seven_to_nine seven_to_nine seven_to_nine other first second none"
    prints(simulate, text, "\n".join(wanted.split()).replace("_", " "))


def test_attributes_of_all_kinds_of_things(simulate: Run) -> None:
    """7.2: of literals and subprograms too, also where they come from a package; a signature tells overloaded ones apart."""
    text = """package p is
      attribute remark : string; attribute weight : integer;
      function sum(m : integer) return integer;
      attribute remark of sum : function is "adds all";
      type t is (one, two); attribute remark of one : literal is "the first"; attribute remark of t : type is "a type";
      constant k : integer := 4; attribute weight of k : constant is 17;
    end package;
    package body p is function sum(m : integer) return integer is begin return m; end; end package body;
    use work.p.all; use std.textio.all;
    entity tb is attribute remark of tb : entity is "an entity"; end entity;
    architecture a of tb is
      signal s : bit; attribute weight of s : signal is 3;
      component c is end component; attribute remark of c : component is "a component";
      attribute remark of lab : label is "a label"; attribute remark of a : architecture is "an architecture";
      procedure pr(x : integer) is begin end; procedure pr(x : bit) is begin end;
      attribute remark of pr[integer] : procedure is "of integer"; attribute remark of pr[bit] : procedure is "of bit";
      procedure say(s : string) is variable l : line; begin write(l, s); writeline(output, l); end;
    begin
      lab : process begin
        say(t'remark); say(one'remark); say(sum'remark); say(sum[integer return integer]'remark); say(pr[integer]'remark); say(pr[bit]'remark);
        say(integer'image(k'weight + s'weight)); say(tb'remark); say(c'remark); say(lab'remark); say(a'remark); wait;
      end process;
    end architecture;"""
    wanted = "a type\nthe first\nadds all\nadds all\nof integer\nof bit\n20\nan entity\na component\na label\nan architecture"
    prints(simulate, text, wanted)


def test_what_is_never_chosen_cannot_fail(simulate: Run) -> None:
    """10.5.2.1, 10.8, 10.9, 11.6: that a value is as long as its target is checked when it is assigned; a branch that the generics of this
    instance rule out assigns nothing."""
    text = """entity part is generic (width : positive; wide : boolean); port (q, e, f, g : out bit_vector(width - 1 downto 0)); end entity;
architecture rtl of part is
  signal four : bit_vector(3 downto 0) := "1010";
  signal two : bit_vector(1 downto 0) := "01";
begin
  q <= four when wide else two;
  process begin
    if wide then e <= four; else e <= two; end if;
    case width is when 4 => f <= four; when 2 => f <= two; when others => f <= four & two; end case;
    wait;
  end process;
  with width select g <= four when 3 to 9, two when others;
end architecture;
entity tb is end entity;
architecture sim of tb is
  signal a, b, c, d : bit_vector(3 downto 0);
  signal w, x, y, z : bit_vector(1 downto 0);
begin
  u4 : entity work.part generic map (4, true) port map (a, b, c, d);
  u2 : entity work.part generic map (2, false) port map (w, x, y, z);
  process begin
    wait for 1 ns;
    std.textio.write(std.textio.output, to_string(a & b & c & d) & " " & to_string(w & x & y & z) & LF);
    wait;
  end process;
end architecture;
"""
    prints(simulate, text, "1010101010101010 01010101")
