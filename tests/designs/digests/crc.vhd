-- Check sums over bytes: CRC-32 and CRC-16 by a table that is computed, MD5 (RFC 1321) as an algorithm with integers and unsigned.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use ieee.math_real.all;

package sums is
  subtype word is unsigned(31 downto 0);
  type words is array (natural range <>) of word;
  type bytes is array (natural range <>) of unsigned(7 downto 0);
  function to_bytes(s : string) return bytes;
  function crc32(data : bytes) return word;
  function md5(data : bytes) return unsigned;
  function hex(u : unsigned) return string;
end package;

package body sums is
  function to_bytes(s : string) return bytes is
    alias t : string(1 to s'length) is s;
    variable r : bytes(0 to s'length - 1);
  begin
    for i in r'range loop
      r(i) := to_unsigned(character'pos(t(i + 1)), 8);
    end loop;
    return r;
  end function;

  function make_table return words is
    variable r : words(0 to 255);
    variable c : word;
  begin
    for i in r'range loop
      c := to_unsigned(i, 32);
      for k in 1 to 8 loop
        if c(0) = '1' then
          c := x"EDB88320" xor shift_right(c, 1);
        else
          c := shift_right(c, 1);
        end if;
      end loop;
      r(i) := c;
    end loop;
    return r;
  end function;

  constant table : words(0 to 255) := make_table;

  function crc32(data : bytes) return word is
    variable c : word := (others => '1');
  begin
    for i in data'range loop
      c := table(to_integer(c(7 downto 0) xor data(i))) xor (c srl 8);
    end loop;
    return not c;
  end function;

  -- floor(abs(sin(i + 1)) * 2**32), made of two halves for an integer has 32 bits
  function sine_word(i : natural) return word is
    variable x : real := abs (sin(real(i + 1))) * 65536.0;
    variable upper, lower : natural;
  begin
    upper := integer(floor(x));
    lower := integer(floor((x - floor(x)) * 65536.0));
    return to_unsigned(upper, 16) & to_unsigned(lower, 16);
  end function;

  function swap(w : word) return word is
  begin
    return w(7 downto 0) & w(15 downto 8) & w(23 downto 16) & w(31 downto 24);
  end function;

  function md5(data : bytes) return unsigned is
    type table_t is array (0 to 3, 0 to 3) of natural;
    constant turns : table_t := ((7, 12, 17, 22), (5, 9, 14, 20), (4, 11, 16, 23), (6, 10, 15, 21));
    constant blocks : positive := (data'length + 8) / 64 + 1;
    variable padded : bytes(0 to 64 * blocks - 1) := (others => x"00");
    variable a0 : word := x"67452301";
    variable b0 : word := x"efcdab89";
    variable c0 : word := x"98badcfe";
    variable d0 : word := x"10325476";
    variable a, b, c, d, f, t : word;
    variable m : words(0 to 15);
    variable g : natural range 0 to 15;
  begin
    padded(0 to data'length - 1) := data;
    padded(data'length) := x"80";
    for i in 0 to 3 loop
      padded(64 * blocks - 8 + i) := resize(shift_right(to_unsigned(8 * data'length, 32), 8 * i), 8);
    end loop;
    for n in 0 to blocks - 1 loop
      for i in m'range loop
        m(i) := padded(64 * n + 4 * i + 3) & padded(64 * n + 4 * i + 2) & padded(64 * n + 4 * i + 1) & padded(64 * n + 4 * i);
      end loop;
      (a, b, c, d) := words'(a0, b0, c0, d0);
      for i in 0 to 63 loop
        case i / 16 is
          when 0 => f := (b and c) or (not b and d); g := i;
          when 1 => f := (d and b) or (c and not d); g := (5 * i + 1) mod 16;
          when 2 => f := b xor c xor d; g := (3 * i + 5) mod 16;
          when others => f := c xor (b or not d); g := (7 * i) mod 16;
        end case;
        t := f + a + sine_word(i) + m(g);
        a := d; d := c; c := b;
        b := b + rotate_left(t, turns(i / 16, i mod 4));
      end loop;
      a0 := a0 + a; b0 := b0 + b; c0 := c0 + c; d0 := d0 + d;
    end loop;
    return swap(a0) & swap(b0) & swap(c0) & swap(d0);
  end function;

  function hex(u : unsigned) return string is
    constant digits : string(1 to 16) := "0123456789abcdef";
    alias v : unsigned(u'length - 1 downto 0) is u;
    variable r : string(1 to u'length / 4);
  begin
    for i in r'range loop
      r(i) := digits(1 + to_integer(v(u'length + 3 - 4 * i downto u'length - 4 * i)));
    end loop;
    return r;
  end function;
end package body;

-- The same sum bit by bit, as a register.
library ieee;
use ieee.std_logic_1164.all;
entity serial_crc is
  generic (poly, start : std_logic_vector);
  port (clk, clear, d : in std_logic; crc : out std_logic_vector(poly'length - 1 downto 0));
end entity;
architecture rtl of serial_crc is
  signal r : std_logic_vector(crc'range);
begin
  process (clk)
    variable back : std_logic;
  begin
    if rising_edge(clk) then
      if clear = '1' then
        r <= start;
      else
        back := r(r'left) xor d;
        r <= (r(r'left - 1 downto 0) & '0') xor (poly and (poly'range => back));
      end if;
    end if;
  end process;
  crc <= r;
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.sums.all;
use std.textio.all;
entity crc_tb is end entity;
architecture sim of crc_tb is
  signal clk : std_logic := '0';
  signal clear, d : std_logic;
  signal ccitt : std_logic_vector(15 downto 0);
  procedure say(s : string) is
    variable l : line;
  begin
    write(l, s);
    writeline(output, l);
  end procedure;
begin
  unit : entity work.serial_crc generic map (poly => x"1021", start => x"FFFF") port map (clk, clear, d, ccitt);
  process
    procedure tick is
    begin
      wait for 5 ns; clk <= '1'; wait for 5 ns; clk <= '0';
    end procedure;
    constant check : bytes := to_bytes("123456789");
  begin
    say("crc32 " & hex(crc32(check)));
    say("crc32 of nothing " & hex(crc32(to_bytes(""))));
    clear <= '1'; tick; clear <= '0';
    for i in check'range loop
      for k in 7 downto 0 loop
        d <= check(i)(k);
        tick;
      end loop;
    end loop;
    wait for 0 ns;
    say("crc16 " & to_hstring(ccitt));
    say("md5 " & hex(md5(to_bytes(""))));
    say("md5 " & hex(md5(to_bytes("abc"))));
    say("md5 " & hex(md5(to_bytes("12345678901234567890123456789012345678901234567890123456789012345678901234567890"))));
    wait;
  end process;
end architecture;
