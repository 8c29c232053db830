"""Sources of 1987 and 1993: names that later became reserved, the usual arithmetic packages, guarded blocks, buffers."""

from __future__ import annotations

from pathlib import Path

from tests.conftest import mevrik
from tests.vhdl.rows import Run

CONVERTER = """LIBRARY IEEE;
USE IEEE.STD_LOGIC_1164.ALL;
USE IEEE.STD_LOGIC_ARITH.ALL;
USE IEEE.STD_LOGIC_UNSIGNED.ALL;

ENTITY bin2bcd IS
  GENERIC (N : INTEGER := 8);
  PORT (clk, reset, start : IN STD_LOGIC;
        bin  : IN STD_LOGIC_VECTOR(N-1 DOWNTO 0);
        bcd  : OUT STD_LOGIC_VECTOR(11 DOWNTO 0);
        busy : BUFFER STD_LOGIC);
END bin2bcd;

ARCHITECTURE behavior OF bin2bcd IS
  TYPE states IS (idle, shift, done);
  SIGNAL state : states;
  SIGNAL sr : STD_LOGIC_VECTOR(N+11 DOWNTO 0);
  SIGNAL cnt : INTEGER RANGE 0 TO N;
BEGIN
  PROCESS (clk, reset)
    VARIABLE v : STD_LOGIC_VECTOR(N+11 DOWNTO 0);
  BEGIN
    IF reset = '1' THEN
      state <= idle; busy <= '0'; bcd <= (OTHERS => '0'); cnt <= 0;
    ELSIF clk'EVENT AND clk = '1' THEN
      CASE state IS
        WHEN idle =>
          IF start = '1' THEN
            sr <= CONV_STD_LOGIC_VECTOR(0, 12) & bin;
            cnt <= N; busy <= '1'; state <= shift;
          END IF;
        WHEN shift =>
          v := sr;
          FOR d IN 0 TO 2 LOOP
            IF v(N+4*d+3 DOWNTO N+4*d) > 4 THEN
              v(N+4*d+3 DOWNTO N+4*d) := v(N+4*d+3 DOWNTO N+4*d) + 3;
            END IF;
          END LOOP;
          sr <= v(N+10 DOWNTO 0) & '0';
          IF cnt = 1 THEN state <= done; ELSE cnt <= cnt - 1; END IF;
        WHEN done =>
          bcd <= sr(N+11 DOWNTO N); busy <= '0'; state <= idle;
      END CASE;
    END IF;
  END PROCESS;
END behavior;

LIBRARY ieee; USE ieee.std_logic_1164.ALL; USE ieee.std_logic_arith.ALL; USE ieee.std_logic_unsigned.ALL;
ENTITY seven_seg IS PORT (digit : IN STD_LOGIC_VECTOR(3 DOWNTO 0); seg : OUT STD_LOGIC_VECTOR(6 DOWNTO 0)); END;
ARCHITECTURE table OF seven_seg IS
  TYPE rom IS ARRAY (0 TO 15) OF STD_LOGIC_VECTOR(6 DOWNTO 0);
  CONSTANT codes : rom := ("0111111", "0000110", "1011011", "1001111", "1100110", "1101101", "1111101", "0000111", "1111111", "1101111",
    OTHERS => (OTHERS => '-'));
BEGIN
  seg <= codes(CONV_INTEGER(digit));
END table;

LIBRARY ieee; USE ieee.std_logic_1164.ALL;
ENTITY mux_bus IS PORT (a, b, c : IN STD_LOGIC_VECTOR(3 DOWNTO 0); sel : IN STD_LOGIC_VECTOR(1 DOWNTO 0); y : OUT STD_LOGIC_VECTOR(3 DOWNTO 0)); END;
ARCHITECTURE tri OF mux_bus IS
  SIGNAL common : STD_LOGIC_VECTOR(3 DOWNTO 0) BUS;
BEGIN
  b0 : BLOCK (sel = "00") BEGIN common <= GUARDED a; END BLOCK;
  b1 : BLOCK (sel = "01") BEGIN common <= GUARDED b; END BLOCK b1;
  b2 : BLOCK (sel(1) = '1') BEGIN common <= GUARDED c AFTER 1 ns; END BLOCK;
  y <= common;
END tri;
"""

BENCH = """LIBRARY ieee; USE ieee.std_logic_1164.ALL; USE ieee.std_logic_arith.ALL; USE ieee.std_logic_unsigned.ALL;
USE std.textio.ALL; USE ieee.std_logic_textio.ALL;
ENTITY tb IS END tb;
ARCHITECTURE test OF tb IS
  COMPONENT bin2bcd
    GENERIC (N : INTEGER := 8);
    PORT (clk, reset, start : IN STD_LOGIC; bin : IN STD_LOGIC_VECTOR(N-1 DOWNTO 0);
          bcd : OUT STD_LOGIC_VECTOR(11 DOWNTO 0); busy : BUFFER STD_LOGIC);
  END COMPONENT;
  COMPONENT display PORT (d : IN STD_LOGIC_VECTOR(3 DOWNTO 0); s : OUT STD_LOGIC_VECTOR(6 DOWNTO 0)); END COMPONENT;
  COMPONENT mux_bus PORT (a, b, c : IN STD_LOGIC_VECTOR(3 DOWNTO 0); sel : IN STD_LOGIC_VECTOR(1 DOWNTO 0); y : OUT STD_LOGIC_VECTOR(3 DOWNTO 0)); END COMPONENT;
  FOR ALL : display USE ENTITY work.seven_seg(table) PORT MAP (digit => d, seg => s);
  SIGNAL clk : STD_LOGIC := '0'; SIGNAL reset, start, busy : STD_LOGIC := '0';
  SIGNAL value : STD_LOGIC_VECTOR(7 DOWNTO 0) := (OTHERS => '0'); SIGNAL bcd : STD_LOGIC_VECTOR(11 DOWNTO 0);
  SIGNAL seg0 : STD_LOGIC_VECTOR(6 DOWNTO 0); SIGNAL picked : STD_LOGIC_VECTOR(3 DOWNTO 0); SIGNAL sel : STD_LOGIC_VECTOR(1 DOWNTO 0) := "00";
  SIGNAL stop_it : BOOLEAN := FALSE;
BEGIN
  clk <= NOT clk AFTER 5 ns WHEN NOT stop_it ELSE '0';
  u1 : bin2bcd GENERIC MAP (N => 8) PORT MAP (clk, reset, start, value, bcd, busy);
  u2 : display PORT MAP (bcd(3 DOWNTO 0), seg0);
  u3 : mux_bus PORT MAP (a => bcd(3 DOWNTO 0), b => bcd(7 DOWNTO 4), c => bcd(11 DOWNTO 8), sel => sel, y => picked);
  PROCESS
    VARIABLE l : LINE; VARIABLE i, total : INTEGER := 0;
    TYPE list IS ARRAY (NATURAL RANGE <>) OF INTEGER; CONSTANT samples : list := (0, 9, 10, 99, 128, 255);
    FUNCTION expected (n : INTEGER) RETURN STD_LOGIC_VECTOR IS
      VARIABLE r : STD_LOGIC_VECTOR(11 DOWNTO 0);
    BEGIN
      r := CONV_STD_LOGIC_VECTOR(n / 100, 4) & CONV_STD_LOGIC_VECTOR((n / 10) MOD 10, 4) & CONV_STD_LOGIC_VECTOR(n REM 10, 4);
      RETURN r;
    END expected;
  BEGIN
    reset <= '1'; WAIT FOR 12 ns; reset <= '0';
    WHILE i < samples'LENGTH LOOP
      value <= CONV_STD_LOGIC_VECTOR(samples(i), 8); start <= '1';
      WAIT UNTIL clk'EVENT AND clk = '1' AND busy = '1'; start <= '0';
      WAIT UNTIL busy = '0';
      IF bcd /= expected(samples(i)) THEN total := total + 1; END IF;
      WRITE(l, samples(i), RIGHT, 4); WRITE(l, STRING'(" -> ")); HWRITE(l, bcd); WRITE(l, ' '); WRITE(l, seg0);
      FOR k IN 0 TO 3 LOOP
        sel <= CONV_STD_LOGIC_VECTOR(k, 2); WAIT FOR 2 ns; WRITE(l, ' '); WRITE(l, CONV_INTEGER(picked));
      END LOOP;
      WRITE(l, NOW, RIGHT, 10, ns);
      WRITELINE(OUTPUT, l);
      i := i + 1; sel <= "00"; WAIT FOR 0 ns;
    END LOOP;
    ASSERT total = 0 REPORT "mismatches" SEVERITY ERROR;
    ASSERT FALSE REPORT "end of test, sum " & INTEGER'IMAGE(CONV_INTEGER(SIGNED'("1110")) + CONV_INTEGER(UNSIGNED'("1110"))) SEVERITY NOTE;
    stop_it <= TRUE; WAIT;
  END PROCESS;
END test;
"""


def test_names_that_were_reserved_later(tmp_path: Path) -> None:
    """15.10: 2002 and 2008 reserved words that sources of 1993 use as names; where the later language has them, they stay."""
    text = """
    entity tb is end;
    architecture a of tb is
      signal default, parameter, force : bit := '0';
      signal sequence, property, cover : integer := 3;
      procedure release(x : integer) is begin report integer'image(x); end;
      procedure twice parameter (x : integer) is begin release(2 * x); end;
      type counter is protected impure function next_one return integer; end protected;
      type counter is protected body
        variable context : integer := 6;
        impure function next_one return integer is begin context := context + 1; return context; end;
      end protected body;
      shared variable c : counter;
    begin
      property <= 4 after 1 ns;
      process
        variable strong, assume, restrict, fairness : integer := 2;
      begin
        release(sequence + property);
        default <= '1'; wait for 2 ns; parameter <= default; wait for 1 ns;
        assert parameter = '1' report "no";
        strong := 5;
        twice(strong + assume + restrict + fairness + property + cover);
        force <= force '1'; wait for 1 ns; assert force = '1' report "not forced"; force <= release; wait for 1 ns;
        release(c.next_one);
        wait;
      end process;
    end;"""
    path = tmp_path / "names.vhd"
    path.write_text(text)
    done = mevrik("run", path, "--top", "tb")
    assert [x.split("note: ")[1].split(" (")[0] for x in done.err.splitlines()] == ["6", "36", "7"], done.err


def test_a_converter_in_the_style_of_1993(tmp_path: Path) -> None:
    """Binary to decimal by shifting, a table, a bus of guarded blocks. The display follows the digits a delta later, so each row shows
    the code of the digit before; the third choice of the bus comes 1 ns after it is chosen. Each conversion takes ten clocks of 10 ns."""
    (tmp_path / "converter.vhd").write_text(CONVERTER)
    (tmp_path / "bench.vhd").write_text(BENCH)
    done = mevrik("run", tmp_path, "--top", "tb")
    assert done.out.splitlines() == [
        "   0 -> 000 0111111 0 0 0 0    113 ns",
        "   9 -> 009 0111111 9 0 0 0    213 ns",
        "  10 -> 010 1101111 0 1 0 0    313 ns",
        "  99 -> 099 0111111 9 9 0 0    413 ns",
        " 128 -> 128 1101111 8 2 1 1    513 ns",
        " 255 -> 255 1111111 5 5 2 2    613 ns",
    ]
    assert "use ieee.numeric_std" in done.err
    assert "note: end of test, sum 12 (at 613 ns)" in done.err
    assert "mismatches" not in done.err


def test_the_end_of_a_context(simulate: Run) -> None:
    """IEEE 1076-2008 13.4: `end context;` names nothing; in a source without contexts it ends what is called so."""
    text = """context all_of_it is
  library ieee;
  use ieee.std_logic_1164.all;
end context;
context work.all_of_it;
entity tb is end;
architecture a of tb is
  signal s : std_logic := '1';
begin
  process begin report to_string(s); wait; end process;
end;
"""
    assert "note: 1 " in simulate(text, suffix=".vhd").err
    older = """entity context is end context;
architecture a of context is begin process begin report "older"; wait; end process; end a;
"""
    assert "note: older" in simulate(older, "--top", "context", suffix=".vhd").err
