"""Operators on values that only the run knows (IEEE 1076-2008 9.2, 5.2.6, 5.3.2.4), each row by hand from its clause."""

from __future__ import annotations

from tests.vhdl.rows import Row, Run, check_rows, notes, prints

DECLARATIONS = """
  type point is record x, y : integer; name : string(1 to 2); end record;
  type points is array (natural range <>) of point;
  type ints is array (natural range <>) of integer;
  type reals is array (natural range <>) of real;
  type nest is array (natural range <>) of ints(0 to 1);
  type level is (low, mid, high);
  type weight is range 0 to 1_000_000 units mg; g = 1000 mg; end units;
  function pt(x, y : integer) return point is begin return (x, y, "pt"); end function;
"""

VARIABLES = """
    variable one : bit := '1'; variable zero : bit := '0'; variable bv : bit_vector(3 downto 0) := "1101"; variable bw : bit_vector(3 downto 0) := "1001";
    variable yes : boolean := true; variable no : boolean := false; variable bb : std_ulogic := '1'; variable sx : std_ulogic := 'X'; variable sl : std_ulogic := 'L';
    variable r : real := 2.5; variable q : real := -1.5; variable i : integer := -7; variable j : integer := 3; variable n : natural := 2;
    variable ps : points(0 to 1) := (pt(1, 2), pt(3, 4)); variable qs : points(0 to 1) := (pt(1, 2), pt(3, 4)); variable is1 : ints(0 to 2) := (5, 3, 9); variable is2 : ints(0 to 2) := (5, 4, 0);
    variable rs : reals(1 to 3) := (1.5, -2.0, 0.25); variable w : weight := 2 g; variable lv : level := mid; variable tt : time := 10 ns; variable sv : std_ulogic_vector(3 downto 0) := "1L0H"; variable nn : nest(0 to 1) := ((1, 2), (3, 4)); variable ss : string(1 to 3) := "abc";
"""

ROWS: list[Row] = [
 ("9.2.2 unary reduction", "to_string(and bv) & to_string(or bv) & to_string(nand bv) & to_string(nor bv) & to_string(xor bv) & to_string(xnor bv)", "011010"),
 ("9.2.2 of std_ulogic", "to_string(and sv) & to_string(or sv) & to_string(xor sv)", "010"),
 ("9.2.2 scalars", "to_string(one xor zero) & to_string(one xnor zero) & to_string(one nand one) & to_string(zero nor zero) & boolean'image(yes xor no) & boolean'image(yes xnor no)", "1001truefalse"),
 ("9.2.2 scalar and array", "to_string(one and bv) & to_string(bv xor one) & to_string(zero nor bv)", "110100100010"),
 ("9.2.6 signs", "integer'image(+i) & integer'image(-i) & integer'image(abs i) & to_string(abs q, 1) & to_string(+r, 1) & to_string(-r, 1)", "-7771.52.5-2.5"),
 ("9.2.8 powers", "to_string(r ** 2, 2) & to_string(r ** (-1), 2) & integer'image(j ** n) & integer'image((-2) ** j)", "6.250.409-8"),
 ("9.2.7 physical", "integer'image((w * r) / mg) & integer'image((w / 2.0) / mg) & integer'image((2 * w) / g) & integer'image(w / g) & integer'image((r * w) / g)", "50001000425"),
 ("9.2.7 time", "time'image(tt * r) & time'image(tt / 4) & integer'image(tt / 3 ns) & time'image(tt mod 3 ns) & time'image(abs (-tt))", "25000000 fs2500000 fs31000000 fs10000000 fs"),
 ("9.2.3 records and arrays of them", "boolean'image(ps = qs) & boolean'image(ps /= qs) & boolean'image(ps(0) = qs(1)) & boolean'image(nn = nn) & boolean'image(ps(0) = pt(1, 2))", "truefalsefalsetruetrue"),
 ("9.2.3 order of arrays", "boolean'image(is1 < is2) & boolean'image(is1(0 to 0) < is1) & boolean'image(ss >= string'(\"abd\")) & boolean'image(bv > bw)", "truetruefalsetrue"),
 ("5.3.2.4 minimum and maximum of arrays", "to_string(minimum(bv, bw)) & to_string(maximum(bv, bw)) & maximum(ss, string'(\"abcd\")) & integer'image(maximum(is1, is2)(2))", "10011101abcd0"),
 ("5.3.2.4 over the elements", "integer'image(minimum(is1)) & integer'image(maximum(is1)) & to_string(minimum(rs), 2) & to_string(maximum(rs), 2) & to_string(maximum(bv))", "39-2.001.501"),
 ("5.2.6 of scalars", "to_string(minimum(r, q), 1) & to_string(maximum(r, q), 1) & level'image(minimum(lv, high)) & time'image(maximum(tt, 3 ns)) & to_string(minimum(one, zero))", "-1.52.5mid10000000 fs0"),
 ("9.2.3 matching of bits", "to_string(one ?= zero) & to_string(one ?/= zero) & to_string(zero ?< one) & to_string(one ?<= zero) & to_string(one ?> zero) & to_string(zero ?>= zero)", "011011"),
 ("9.2.3 matching of std_ulogic", "to_string(bb ?= '-') & to_string(sl ?= '0') & to_string(sx ?= '1') & to_string(sl ?< bb) & to_string(bb ?<= sl) & to_string(sx ?> bb) & to_string(sl ?/= '0') & to_string(bb ?>= sl)", "11X10001"),
 ("9.2.3 matching of arrays", "to_string(bv ?= bw) & to_string(bv ?/= bw) & to_string(sv ?= \"1-0-\") & to_string(sv ?/= \"1000\")", "0111"),
 ("9.2.4 shifts by either sign", "to_string(bv sll 1) & to_string(bv srl n) & to_string(bv sla 1) & to_string(bv sra 1) & to_string(bv rol 1) & to_string(bv ror -1) & to_string(bv sll -1)", "1010001110111110101110110110"),
 ("9.2.5 & of elements and arrays", "to_string(one & zero) & to_string(one & bv) & to_string(bv & zero) & integer'image(ints'(i & is1)(3)) & integer'image(points'(ps & ps(0))(2).y)", "10111011101092"),
 ("9.3.6 conversions", "integer'image(integer(q)) & to_string(real(i), 1) & integer'image(integer(r * 2.0)) & to_string(bit_vector(bw(1 downto 0)))", "-2-7.0501"),
 ("9.3.3.3 the index of an unconstrained array rises", "to_string(bit_vector'(bw(1 downto 0) & \"1\" & one)) & to_string(bit_vector'(3 downto 2 => '1', 1 downto 0 => '0'))", "01110011"),
 ("9.3.3.3 arrays in aggregates", "integer'image(ints'(0 to 1 => 4, 2 => 5)(2)) & integer'image(ints'(is1(0 to 1), 8)(2))", "58"),
 ("9.2.2 short circuit", "boolean'image(no and (1 / (j - 3) = 0)) & boolean'image(yes or (1 / (j - 3) = 0)) & boolean'image(no nand (1 / (j - 3) = 0)) & boolean'image(yes nor (1 / (j - 3) = 0))", "falsetruetruefalse"),
]  # fmt: skip


def test_operators_at_run_time(simulate: Run) -> None:
    check_rows(simulate, ROWS, DECLARATIONS, VARIABLES)


GENERICS = """
package counters is
  generic (type item; function image(x : item) return string; start : integer := 0);
  impure function show(x : item) return string;
end package;
package body counters is
  impure function show(x : item) return string is begin return "<" & image(x) & integer'image(start) & ">"; end;
end package body;
package wrapper is
  generic (package inner is new work.counters generic map (<>));
  impure function twice(x : inner.item) return string;
end package;
package body wrapper is
  impure function twice(x : inner.item) return string is begin return inner.show(x) & inner.show(x); end;
end package body;
use std.textio.all;
entity t is end;
architecture a of t is
  type ints is array (natural range <>) of integer;
  type real_range is range 0.0 to 2.0 * 5.0;
  type small is range integer'low / 1_000_000_000 to 2 ** 3;
  subtype idx is integer range 0 to 3;
  type again is range idx'low to idx'high;
  type node; type link is access node; type node is record v : integer; nxt : link; end record;
  type intp is access ints; type bitsp is access bit_vector(3 downto 0);
  function sum generic (type item; function "+"(l, r : item) return item is <>; zero : item) parameter (a, b : item) return item is begin return a + b + zero; end function;
  function isum is new sum generic map (item => integer, zero => 100);
  function rsum is new sum generic map (item => real, "+" => "-", zero => 0.5);
  procedure swap generic (type item) parameter (variable a, b : inout item) is variable h : item; begin h := a; a := b; b := h; end procedure;
  procedure iswap is new swap generic map (integer);
  package ic is new work.counters generic map (item => integer, image => to_string, start => 7);
  package wc is new work.wrapper generic map (inner => ic);
  function "="(l, r : link) return boolean is begin return false; end function;
  function make(n : integer) return ints is variable v : ints(1 to n); begin for k in v'range loop v(k) := k * k; end loop; return v; end function;
  function pick(a : ints; k : integer) return integer is begin return a(k); end function;
  function none return ints is begin return (4, 5, 6); end function;
  type table is array (boolean range <>, character range <>) of integer;
begin
  process
    variable l : line; variable p, q : link; variable ip : intp; variable bp : bitsp; variable x, y : integer := 1; variable r : real_range := 2.5; variable s : small := -2; variable ag : again := 3;
    procedure say(t : string) is begin write(l, t); writeline(output, l); end;
    variable tb : table(false to true, 'a' to 'c') := ((1, 2, 3), (4, 5, 6));
  begin
    say(integer'image(isum(1, 2)) & " " & to_string(rsum(4.0, 1.0), 2));
    x := 3; y := 9; iswap(x, y); say(integer'image(x) & integer'image(y));
    say(ic.show(5) & wc.twice(6));
    p := new node'(7, null); q := new node; q.all := (8, p);
    say(boolean'image(p = q) & integer'image(q.nxt.v) & integer'image(q.all.nxt.all.v));
    ip := new ints(1 to 3); ip.all := (1, 2, 3); ip(2) := 20; say(integer'image(ip'length) & integer'image(ip(2)) & integer'image(ip.all(3)) & integer'image(ip(1 to 2)'length));
    ip := new ints'(5 downto 4 => 1); say(integer'image(ip'left) & integer'image(ip'length));
    bp := new bit_vector(3 downto 0); bp.all := "1010"; say(to_string(bp.all(3 downto 2)));
    say(integer'image(make(4)(3)) & integer'image(make(3)'length) & integer'image(none(1)) & integer'image(make(n => 5)(2 to 3)'right));
    r := r * 2.0; say(to_string(real(r), 1) & integer'image(integer(s)) & integer'image(integer(ag)) & integer'image(integer(small'high)));
    say(integer'image(tb(true, 'b')) & integer'image(tb'length(2)) & character'image(tb'right(2)) & boolean'image(tb'left(1)));
    deallocate(ip); say(boolean'image(ip = null));
    say(integer'image(idx'base'left) & small'base'image(3));
    wait;
  end process;
end;
"""


def test_generics_accesses_and_real_ranges(simulate: Run) -> None:
    """4.2 generic subprograms, 4.7 generic packages as generics, 5.4 accesses, 5.2.5 ranges, 8.4 what a function gives is indexed; by hand."""
    wanted = "103 2.50\n93\n<57><67><67>\nfalse77\n32032\n52\n10\n9353\n5.0-238\n53'c'false\ntrue\n-21474836483"
    prints(simulate, GENERICS, wanted, "--top", "t")


CONFIGURATIONS = """
library ieee; use ieee.std_logic_1164.all;
entity leaf is generic (n : natural := 1; tag : string := "leaf"); port (a : in bit; b : out bit); end;
architecture one of leaf is begin b <= a after n * 1 ns; process begin report leaf'path_name & " one " & integer'image(n) & tag; wait; end process; end;
architecture two of leaf is begin b <= not a; process begin report leaf'path_name & " two " & integer'image(n) & tag; wait; end process; end;
entity mid is port (x : in bit; y : out bit); end;
architecture s of mid is
  component leaf is generic (n : natural := 7; tag : string := "decl"); port (a : in bit; b : out bit); end component;
  component other is port (p : in bit; q : out bit); end component;
  signal w, v : bit;
begin
  u1 : leaf generic map (n => 3) port map (x, w);
  u2 : other port map (p => w, q => v);
  g : for i in 0 to 1 generate u3 : leaf port map (v, open); end generate;
  y <= v;
end;
configuration inner of mid is
  for s
    for u1 : leaf use entity work.leaf(one); end for;
    for u2 : other use entity work.leaf(two) generic map (n => 9, tag => "cfg") port map (a => p, b => q); end for;
    for g(0) for all : leaf use entity work.leaf(one) generic map (n => n + 10, tag => tag); end for; end for;
    for g(1) for u3 : leaf use open; end for; end for;
  end for;
end;
configuration outer of mid is
  for s
    for all : leaf use entity work.leaf(two); end for;
    for others : other use open; end for;
  end for;
end;
entity top is end;
architecture t of top is
  component m is port (x : in bit; y : out bit); end component;
  component mid is port (x : in bit; y : out bit); end component;
  for k1 : mid use configuration work.inner;
  for k2 : m use configuration work.outer;
  signal a, b, c : bit;
  type level is (low, mid_level, high);
  package local is function twice(n : integer) return integer; constant later : string; end package;
  package body local is function twice(n : integer) return integer is begin return 2 * n; end; constant later : string := "later"; end package body;
  alias lv is level;
begin
  k1 : mid port map (a, b);
  k2 : m port map (a, c);
  process
    use local.all;
    package inp is type t is (p, q, r); procedure say(x : t); end package;
    package body inp is procedure say(x : t) is begin report "say " & t'image(x); end; end package body;
    alias tt is inp.t;
    alias words : string(1 to 5) is later; variable l : lv := high;
  begin
    report integer'image(twice(21)) & words & words(5) & later & lv'image(l) & level'image(mid_level);
    inp.say(q); inp.say(tt'succ(q));
    a <= '1'; wait for 20 ns;
    report bit'image(b) & bit'image(c);
    wait;
  end process;
end;
"""


def test_configurations_of_components(simulate: Run) -> None:
    """3.4, 7.3: components bound by other names, generics that only the configuration gives, `all`, `others`, `open`, one index of a
    generate; packages and their bodies in declarative parts."""
    done = simulate(CONFIGURATIONS, "--top", "top", suffix=".vhd")
    assert notes(done.err) == [
        ":top:k1:u1: one 3decl", ":top:k1:u2: two 9cfg", ":top:k1:g(0):u3: one 17decl", ":top:k2:u1: two 3decl", ":top:k2:g(0):u3: two 7decl",
        ":top:k2:g(1):u3: two 7decl", "42laterrlaterhighmid_level", "say q", "say r", "'0''0'",
    ]  # fmt: skip


ARGUMENTS = """
library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use std.textio.all;
entity t is end;
architecture a of t is
  type weight is range 0 to 1_000_000 units mg; g = 1000 mg; kg = 1000 g; end units;
  subtype unit_real is real range 0.0 to 1.0;
  type bvf is file of bit_vector; type intf is file of integer; type rec is record a : integer; b : bit_vector(1 to 2); end record; type recf is file of rec;
  type pair is array (0 to 1) of integer; type pairs is array (natural range <>) of pair;
  signal sv : std_logic_vector(3 downto 0) := "0000"; signal clk : bit; signal s1, s2 : integer := 0;
  function f(n : integer) return bit_vector is variable v : bit_vector(n downto 1) := (others => '1'); begin return v; end;
  procedure drive(signal s : out std_logic; v : std_logic) is begin s <= v; end;
  procedure watch(signal s : in std_logic; signal v : in std_logic_vector; n : integer) is begin report to_string(s) & to_string(v) & integer'image(v'length) & boolean'image(s'event); end;
  procedure conv(variable x : out real; y : inout integer) is begin x := 2.6; y := y + 1; end;
  procedure part(variable v : inout bit_vector) is begin v(v'left) := '1'; end;
  procedure outs(a, b : out integer; c : in integer := 5) is begin a := c; b := c + 1; end;
  function count(v : pairs) return integer is variable n : integer := 0; begin for k in v'range loop n := n + v(k)(0) * v(k)(1); end loop; return n; end;
begin
  process
    variable l : line; variable i, j : integer := 3; variable r : real; variable bv : bit_vector(3 downto 0) := "0000"; variable b1, b2 : bit; variable sl : std_ulogic := 'H'; variable n : integer := 0; variable w : weight := 1500 mg;
    file fb : bvf; file fi : intf; file fr : recf; variable len : natural; variable big : bit_vector(1 to 10); variable rc : rec; variable p : pair;
    procedure say(t : string) is begin write(l, t); writeline(output, l); end;
    variable u : unit_real := 0.5;
  begin
    say(weight'image(w) & weight'image(3 kg) & to_string(w) & weight'image(weight'value("2 g")) & integer'image(weight'pos(1 g)));
    case? sl is when '0' => say("low"); when '1' => say("high"); when others => say("other"); end case?;
    sl := 'L'; case? sl is when '0' => say("low"); when others => say("other"); end case?;
    for k in f(3)'range loop n := n * 10 + k; end loop; say(integer'image(n) & integer'image(f(5)'length) & integer'image(f(4)'left));
    for k in f(3)'reverse_range loop n := n + k; end loop; say(integer'image(n));
    drive(sv(2), '1'); wait for 0 ns; watch(sv(2), sv(3 downto 1), 1);
    conv(r, j); say(to_string(r, 1) & integer'image(j));
    part(bv(2 downto 1)); part(bv); say(to_string(bv));
    (b1, b2) := bit_vector'("10"); say(to_string(b1) & to_string(b2));
    (b1, bv(2 downto 0)) := bit_vector'("0111"); say(to_string(b1) & to_string(bv));
    (0 => i, 1 => j) := pair'(8, 9); say(integer'image(i) & integer'image(j));
    (s1, s2) <= pair'(4, 7); wait for 0 ns; say(integer'image(s1) & integer'image(s2));
    outs(b => i, a => j); say(integer'image(i) & integer'image(j)); outs(i, p(1), c => 9); say(integer'image(p(1)));
    file_open(fb, "bv.bin", write_mode); write(fb, bit_vector'("1011")); write(fb, bit_vector'("01")); file_close(fb);
    file_open(fb, "bv.bin", read_mode); read(fb, big, len); say(integer'image(len) & to_string(big(1 to len))); read(fb, big, len); say(integer'image(len) & boolean'image(endfile(fb))); file_close(fb);
    file_open(fi, "i.bin", write_mode); for k in 1 to 3 loop write(fi, k * k); end loop; file_close(fi);
    file_open(fi, "i.bin"); n := 0; while not endfile(fi) loop read(fi, i); n := n + i; end loop; file_close(fi); say(integer'image(n));
    file_open(fr, "r.bin", write_mode); write(fr, rec'(5, "10")); file_close(fr); file_open(fr, "r.bin", read_mode); read(fr, rc); say(integer'image(rc.a) & to_string(rc.b)); file_close(fr);
    say(integer'image(count(((1, 2), (3, 4)))) & integer'image(count((0 => (5, 5)))));
    r := 1.5; u := r - 1.0; say(to_string(u, 1));
    u := r; say("never");
    wait;
  end process;
end;
"""


def test_arguments_targets_and_files(simulate: Run) -> None:
    """4.2.2 every class of parameter, parts of signals and variables; 10.6.3 aggregates as targets; 5.5 files of values; 16.2 units; by hand.
    The last value is none of its subtype, which stops the run."""
    done = prints(
        simulate,
        ARGUMENTS,
        "1500 mg3000000 mg1500 mg2000 mg1000\nhigh\nlow\n32154\n327\n2.64\n1100\n10\n01111\n89\n47\n65\n10\n41011\n2true\n14\n510\n1425\n0.5",
        "--top",
        "t",
    )
    assert "note: 10103true" in done.err
    assert "the value 1.5 is outside of unit_real, whose range is 0 to 1" in done.err and done.status == 1


def test_vectors_of_all_lengths_element_by_element(simulate: Run) -> None:
    """std_logic_1164: a logical operator of vectors is that of their elements, whatever values stand beside one another; is_x of a vector is
    true if it is of an element."""
    text = """library ieee; use ieee.std_logic_1164.all; use ieee.math_real.all;
    entity tb is end entity;
    architecture a of tb is begin
      process
        variable s1, s2 : positive := 7; variable r : real;
        procedure draw (v : out std_logic_vector; known : boolean) is variable r : real; begin
          for i in v'range loop
            uniform(s1, s2, r);
            if known then v(i) := std_logic'val(2 + integer(floor(r * 2.0))); else v(i) := std_logic'val(integer(floor(r * 9.0))); end if;
          end loop;
        end procedure;
        procedure check (n : positive; all_known : boolean) is
          variable x, y, av, ov, xv, nav, nov, nxv, inv : std_logic_vector(n downto 1); variable any : boolean := false;
        begin
          draw(x, true); draw(y, true);
          if not all_known then uniform(s1, s2, r); draw(x(1 + integer(floor(r * real(n))) downto 1), false); draw(y, r > 0.5); end if;
          av := x and y; ov := x or y; xv := x xor y; nav := x nand y; nov := x nor y; nxv := x xnor y; inv := not x;
          for i in 1 to n loop
            assert av(i) = (x(i) and y(i)) and ov(i) = (x(i) or y(i)) and xv(i) = (x(i) xor y(i)) report "wrong at " & to_string(i) & ": " & to_string(x) & " " & to_string(y) severity failure;
            assert nav(i) = (x(i) nand y(i)) and nov(i) = (x(i) nor y(i)) and nxv(i) = (x(i) xnor y(i)) and inv(i) = (not x(i)) report "inverted" severity failure;
            any := any or is_x(x(i));
          end loop;
          assert is_x(x) = any report "is_x " & to_string(x) severity failure;
        end procedure;
      begin
        for n in 1 to 40 loop for k in 1 to 20 loop check(n, k < 8); end loop; end loop;
        report "done"; wait;
      end process;
    end architecture;"""
    done = simulate(text, suffix=".vhd")
    assert done.status == 0 and "done" in done.err + done.out, done.err
