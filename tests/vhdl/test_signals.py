"""Signals, deltas, waveforms, drivers: IEEE 1076-2008 clauses 10.5, 11 and 14.7, each result by hand from its clause."""

from __future__ import annotations

from tests.vhdl.rows import Run, bench, prints


def test_deltas_one_by_one(simulate: Run) -> None:
    """14.7.5.3: a signal assignment without delay takes effect in the next delta."""
    body = """  begin
    a <= '1';
    say(bit'image(a) & bit'image(b));
    wait for 0 ns;
    say(bit'image(a) & bit'image(b));
    wait for 0 ns;
    say(bit'image(a) & bit'image(b) & " " & time'image(now));"""
    prints(simulate, bench(body, "  signal a, b : bit;", "  b <= a;"), "'0''0'\n'1''0'\n'1''1' 0 fs")


def test_inertial_transport_and_reject(simulate: Run) -> None:
    """10.5.2.2: inertial delay drops pulses shorter than its limit; transport keeps all."""
    body = """  begin
    a <= '1' after 10 ns, '0' after 11 ns, '1' after 15 ns, '0' after 18 ns;
    wait for 40 ns;"""
    concurrent = """  b <= transport a after 3 ns;
  c <= reject 2 ns inertial a after 4 ns;
  d <= a after 4 ns;
  watch : process (b, c, d)
  begin
    if now > 0 ns then
      say(integer'image(now / 1 ns) & bit'image(b) & bit'image(c) & bit'image(d));
    end if;
  end process;"""
    wanted = "13'1''0''0'\n14'0''0''0'\n18'1''0''0'\n19'1''1''0'\n21'0''1''0'\n22'0''0''0'"
    prints(simulate, bench(body, "  signal a, b, c, d : bit;", concurrent), wanted)


def test_resolution_and_disconnection(simulate: Run) -> None:
    """4.6, 11.6: a resolution function sees all drivers; a guarded bus is disconnected while its guard is false."""
    units = """package r is
  type levels is array (natural range <>) of integer;
  function total(v : levels) return integer;
  subtype summed is total integer;
end package;
package body r is
  function total(v : levels) return integer is
    variable t : integer := 0;
  begin
    for i in v'range loop t := t + v(i); end loop;
    return t;
  end function;
end package body;
use work.r.all;"""
    declarations = "  signal s : summed := 1;\n  signal g : summed bus := 0;\n  signal on_air : boolean := false;"
    concurrent = """  s <= 10, 20 after 5 ns;
  s <= 100 after 2 ns;
  gate : block (on_air)
  begin
    g <= guarded 7;
  end block;"""
    body = """  begin
    say(integer'image(s));
    wait for 1 ns;
    say(integer'image(s) & " " & integer'image(g));
    on_air <= true;
    wait for 2 ns;
    say(integer'image(s) & " " & integer'image(g));
    on_air <= false;
    wait for 3 ns;
    say(integer'image(s) & " " & integer'image(g));"""
    prints(
        simulate, bench(body, declarations, concurrent, units, "use std.textio.all;\nuse work.r.all;\n"), "2\n11 0\n110 7\n120 0"
    )


def test_attributes_of_signals(simulate: Run) -> None:
    """16.2.4."""
    body = """  begin
    wait for 10 ns;
    a <= '1';
    wait on a;
    say(boolean'image(a'event) & boolean'image(a'active) & bit'image(a'last_value) & integer'image(a'last_event / 1 ns));
    wait for 3 ns;
    say(boolean'image(a'event) & integer'image(a'last_event / 1 ns) & boolean'image(a'stable(5 ns)) & boolean'image(a'stable(2 ns)));
    say(bit'image(a'delayed(2 ns)) & bit'image(a'delayed(5 ns)) & boolean'image(a'quiet(5 ns)) & bit'image(a'transaction));
    a <= '1';
    wait for 1 ns;
    say(boolean'image(a'event) & integer'image(a'last_active / 1 ns) & integer'image(a'last_event / 1 ns) & bit'image(a'transaction));"""
    wanted = "truetrue'0'0\nfalse3falsetrue\n'1''0'false'1'\nfalse14'0'"
    prints(simulate, bench(body, "  signal a : bit;"), wanted)


def test_attributes_of_a_signal_without_events(simulate: Run) -> None:
    """16.2.4: it has been stable and quiet for ever, and its delayed copy begins as it does itself."""
    body = """  begin
    say(boolean'image(b'stable(1 ns)) & boolean'image(b'quiet(1 ns)) & boolean'image(b'stable) & bit'image(b'delayed(2 ns)));
    wait for 7 ns;
    say(boolean'image(b'stable(5 ns)) & boolean'image(b'quiet) & bit'image(b'delayed(2 ns)) & bit'image(b'delayed) & bit'image(b'transaction));
    assert b'last_event = time'high and b'last_active = time'high report "never";
    b <= '0';
    wait for 1 ns;
    say(boolean'image(b'stable(3 ns)) & boolean'image(b'stable) & bit'image(b'delayed(2 ns)) & bit'image(b'transaction));
    wait for 2 ns;
    say(boolean'image(b'stable(4 ns)) & boolean'image(b'stable(3 ns)) & bit'image(b'delayed(2 ns)));"""
    wanted = "truetruetrue'1'\ntruetrue'1''1''0'\nfalsetrue'1''1'\nfalsetrue'0'"
    done = prints(simulate, bench(body, "  signal b : bit := '1';"), wanted)
    assert done is None or "never" not in done.err


def test_waits(simulate: Run) -> None:
    """10.2: on, until, for, and what ends a wait first."""
    body = """  begin
    wait until a = 2 for 100 ns;
    say(integer'image(a) & " at " & integer'image(now / 1 ns));
    wait until a = 9 for 20 ns;
    say("over at " & integer'image(now / 1 ns));
    wait on a until a = 4;
    say(integer'image(a) & " at " & integer'image(now / 1 ns));"""
    concurrent = "  a <= 1 after 10 ns, 2 after 20 ns, 3 after 50 ns, 4 after 60 ns;"
    prints(simulate, bench(body, "  signal a : integer := 0;", concurrent), "2 at 20\nover at 40\n4 at 60")


def test_force_and_external_names(simulate: Run) -> None:
    """8.7, 10.5.2.3: a signal of an instance by its path; force wins until release."""
    units = """entity leaf is port (x : in integer; y : out integer); end entity;
architecture a of leaf is
  signal inner : integer := 0;
begin
  inner <= x + 1;
  y <= inner * 2;
end architecture;
"""
    body = """  begin
    wait for 1 ns;
    say(integer'image(<<signal dut.inner : integer>>) & " " & integer'image(y));
    x <= force 10;
    wait for 1 ns;
    say(integer'image(x) & " " & integer'image(y));
    x <= 5;
    wait for 1 ns;
    say(integer'image(x));
    x <= release;
    wait for 1 ns;
    say(integer'image(<<signal .tb.dut.inner : integer>>));"""
    declarations = "  signal x : integer := 3;\n  signal y : integer;"
    prints(simulate, bench(body, declarations, "  dut : entity work.leaf port map (x, y);", units), "4 8\n10 22\n10\n6")


def test_postponed_processes_run_last(simulate: Run) -> None:
    """11.3: after the last delta of the moment."""
    concurrent = """  b <= a;
  late : postponed process (a)
  begin
    say("late " & bit'image(b));
  end process;"""
    body = "  begin\n    wait for 1 ns;\n    a <= '1';\n    wait on b;\n    say(\"now \" & bit'image(b));"
    prints(simulate, bench(body, "  signal a, b : bit;", concurrent), "late '0'\nnow '1'\nlate '1'")


def test_parts_of_signals(simulate: Run) -> None:
    """14.7.2: each scalar part has its own driver and its own events."""
    declarations = """  type pair is record a : integer; v : bit_vector(1 downto 0); end record;
  type bank is array (0 to 1) of pair;
  signal s : bank := (others => (a => 0, v => "00"));"""
    concurrent = """  one : s(0).a <= 5 after 1 ns;
  two : process
  begin
    s(1).v(0) <= '1' after 2 ns;
    (s(1).a, s(0).v(1)) <= pair'(7, "10");
    wait;
  end process;"""
    declarations = declarations.replace("type bank", "type mixed is record n : integer; b : bit; end record;\n  type bank")
    concurrent = concurrent.replace('pair\'(7, "10")', "mixed'(7, '1')")
    body = """  begin
    wait on s(1).v;
    say(integer'image(now / 1 ns) & boolean'image(s(1).v(0)'event) & boolean'image(s(1).v(1)'event) & boolean'image(s(0)'event));
    say(integer'image(s(0).a) & integer'image(s(1).a) & to_string(s(0).v) & to_string(s(1).v));"""
    prints(simulate, bench(body, declarations, concurrent), "2truefalsefalse\n571001")


def test_the_attributes_of_a_part_are_its_own(simulate: Run) -> None:
    """16.2.4: 'event, 'active, 'last_event and 'last_value of an element are about this element, not the whole signal."""
    declarations = """
  type pair is record
    level : integer;
    gates : bit_vector(1 to 2);
  end record;
  signal v : bit_vector(3 downto 0) := "0000";
  signal p : pair := (256, "00");
"""
    body = """
  begin
    v(2) <= '1' after 1 ns;
    v(0) <= '1' after 3 ns;
    p.level <= 257 after 1 ns, 513 after 2 ns;
    wait for 3 ns;
    say(boolean'image(v(0)'event) & boolean'image(v(2)'event) & boolean'image(v(0)'active) & boolean'image(v'event));
    say(boolean'image(v(2)'last_event = 2 ns) & boolean'image(v(1)'last_event = time'high) & boolean'image(v'last_event = 0 ns));
    say(boolean'image(v(2 downto 1)'last_event = 2 ns) & boolean'image(p.gates'last_event = time'high));
    say(bit'image(v(2)'last_value) & to_string(v'last_value) & integer'image(p.level'last_value));
"""
    done = simulate(bench(body, declarations), suffix=".vhd")
    # at 3 ns only v(0) has an event; 257 differs from 513 in another byte than 256 from 257
    assert done.out.splitlines() == ["truefalsetruetrue", "truetruetrue", "truetrue", "'0'0000257"], done.err


def test_what_a_driver_contributes(simulate: Run) -> None:
    """16.2.4: S'driving_value is that of this process's own driver, and what has just been assigned counts from the next cycle on;
    S'driving is false while the driver is disconnected, and then there is no value."""
    declarations = """  signal a : std_logic; signal n : integer := 3; signal v : std_logic_vector(3 downto 0) := "0000";
  function wired(x : bit_vector) return bit is
  begin
    for i in x'range loop if x(i) = '1' then return '1'; end if; end loop;
    return '0';
  end function;
  signal b : wired bit bus;"""
    body = """  begin
    a <= '1'; n <= 4; v(2 downto 1) <= "11"; b <= '0';
    say(std_logic'image(a'driving_value) & integer'image(n'driving_value) & to_string(v'driving_value) & boolean'image(a'driving));
    wait for 1 ns;
    a <= 'Z'; b <= null;
    say(std_logic'image(a'driving_value) & integer'image(n'driving_value) & to_string(v'driving_value) & boolean'image(b'driving));
    wait for 1 ns;
    say(std_logic'image(a) & std_logic'image(a'driving_value) & boolean'image(a'driving) & boolean'image(b'driving));
    say(bit'image(b'driving_value));"""
    text = bench(body, declarations, "  a <= 'H';")
    done = simulate(text, suffix=".vhd")
    assert done.out.splitlines() == ["'U'30000true", "'1'40110true", "'H''Z'truefalse"], done.err
    assert "there is no 'driving_value" in done.err


def test_attributes_of_all_and_of_others(simulate: Run) -> None:
    """7.2: `all` stands for what is declared so far of a class, `others` for those of them that have no value yet."""
    declarations = """  attribute remark : string;
  signal a, b : bit; attribute remark of a : signal is "first"; attribute remark of others : signal is "rest";
  constant k : integer := 1; constant l : integer := 2; attribute remark of all : constant is "fixed";
  type t is (x, y); attribute remark of t : type is "kind"; attribute remark of y : literal is "word"; attribute remark of u1 : label is "place";"""
    units = "entity nothing is end; architecture a of nothing is begin end;\n"
    body = """  begin
    say(a'remark & " " & b'remark & " " & k'remark & " " & l'remark & " " & t'remark & " " & y'remark & " " & u1'remark);"""
    prints(simulate, bench(body, declarations, "  u1 : entity work.nothing;", units), "first rest fixed fixed kind word place")


def test_numbers_of_signals_before_and_between_events(simulate: Run) -> None:
    """14.4.2.3, 14.7.3.4: a declaration reads the initial value; later each read sees the value of its moment, by whatever way it came:
    an assignment, a part of one, a force; 'H' and 'L' are numbers too (numeric_std), but not the same values as '1' and '0'."""
    declarations = """  signal s : unsigned(3 downto 0) := "0101";
  signal k : integer := to_integer(s) + 1;
  signal n : natural := 0;"""
    concurrent = "  count : process (s) begin n <= n + 1; end process;"
    body = """    variable v : integer := to_integer(s + 2);
  begin
    say(to_string(k) & " " & to_string(v) & " " & to_string(to_integer(s)));
    s <= s + 1;
    wait for 1 ns;
    say(to_string(to_integer(s)) & " " & to_string(n));
    s(3) <= '1';
    wait for 1 ns;
    say(to_string(to_integer(s)) & " " & to_string(n));
    s <= "HHHL";
    wait for 1 ns;
    say(to_string(to_integer(s)) & " " & to_string(s) & " " & to_string(n));
    s <= s - 0;
    wait for 1 ns;
    say(to_string(to_integer(s)) & " " & to_string(s) & " " & to_string(n));
    s <= force "0011";
    wait for 1 ns;
    say(to_string(to_integer(s)) & " " & to_string(n));
    s <= s + 1;
    wait for 1 ns;
    s <= release;
    wait for 1 ns;
    say(to_string(to_integer(s)) & " " & to_string(n));"""
    wanted = "6 7 5\n6 2\n14 3\n14 HHHL 4\n14 1110 5\n3 6\n4 7"
    prints(simulate, bench(body, declarations, concurrent), wanted)


def test_aliases_of_signals_and_of_parameters(simulate: Run) -> None:
    """6.6.2: an alias is the object itself under bounds of its own: it can be read, assigned, waited for, asked for events and aliased again."""
    declarations = """  procedure look(signal s : in bit_vector; signal rises : inout natural; signal o : inout bit_vector) is
    alias lowest : bit is s(s'right);
    alias turned : bit_vector(0 to s'length - 1) is s;
    alias oo : bit_vector(o'length downto 1) is o;
  begin
    if lowest'event and lowest = '1' then rises <= rises + 1; end if;
    if turned'event then oo(1) <= turned(0); oo(2) <= not oo(2); end if;
    if turned'last_value = "0000" then oo(3) <= '1'; end if;
  end procedure;
  signal x : bit_vector(3 downto 0);
  alias high : bit_vector(0 to 1) is x(3 downto 2);
  alias again : bit_vector(8 downto 7) is high;
  signal rises, seen : natural := 0;
  signal o : bit_vector(2 downto 0);"""
    concurrent = """  look(x, rises, o);
  count : process (again) begin seen <= seen + 1; end process;"""
    body = """    variable v : bit_vector(7 downto 0) := x"3c";
    alias a : bit_vector(0 to 7) is v;
    alias b : bit_vector(8 downto 1) is a;
    alias c : bit is b(8);
  begin
    c := '1'; b(1) := '1';
    say(to_string(v));
    x <= "0001"; wait for 1 ns;
    again(8) <= '1'; x(0) <= '0'; wait on again;
    say(boolean'image(high'event) & to_string(x));
    wait for 1 ns;
    x <= "1001"; wait for 1 ns;
    say(integer'image(rises) & to_string(o) & integer'image(seen));"""
    prints(simulate, bench(body, declarations, concurrent), "10111101\ntrue1000\n21112")


def test_a_time_has_64_bits(simulate: Run) -> None:
    """5.2.4.2, 9.2.1: two hours and a half are as much as fits into femtoseconds; more is an error, in the text and in the run."""
    done = simulate(bench("  begin\n    wait for 3 hr;"), suffix=".vhd")
    assert done.status == 2 and "more than a value of time can be" in done.err
    for more in ("t + t", "t * 4", "t * 1.0e9", "-t - t", "3 * t"):
        done = simulate(
            bench(f'    variable t : time := 2 hr;\n  begin\n    wait for 1 ns;\n    t := {more};\n    say("on");'), suffix=".vhd"
        )
        assert "the result is no value of time" in done.err and "on" not in done.out.split(), more


def test_only_elements_that_were_given_a_value_are_active(simulate: Run) -> None:
    """16.2.4: S'active, S'last_active and S'transaction of an element, beside others that the same process assigns in the same delta."""
    declarations = """  signal s : bit_vector(4 downto 0);
  type row is record a, b, c : integer; end record;
  signal x : row := (0, 0, 0);
  signal go : bit;
  signal turns : natural := 0;"""
    concurrent = """  give : process (go) begin
    if go'event then s(4) <= s(4); s(0) <= '1'; s(2) <= '0' after 1 ns; x.a <= 1; x.c <= x.c; end if;
  end process;
  count : process (s(1)'transaction) begin turns <= turns + 1; end process;"""
    body = """  begin
    go <= '1'; wait for 0 ns; wait for 0 ns;
    say(to_string(s(4)'active) & to_string(s(3)'active) & to_string(s(2)'active) & to_string(s(1)'active) & to_string(s(0)'active));
    say(to_string(x.a'active) & to_string(x.b'active) & to_string(x.c'active) & to_string(s'active));
    wait for 1 ns;
    say(to_string(s(2)'active) & to_string(s(1)'active) & " " & to_string(s(0)'last_active, ns) & to_string(s(1)'last_active = time'high));
    s(1) <= force '1'; wait for 0 ns;
    say(to_string(s(1)'active) & to_string(s(3)'active));
    wait for 1 ns;
    say(to_string(turns));"""
    wanted = "truefalsefalsefalsetrue\ntruefalsetruetrue\ntruefalse 1 nstrue\ntruefalse\n2"
    prints(simulate, bench(body, declarations, concurrent), wanted)
