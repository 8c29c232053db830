-- Two 24-bit counters that enable each other, as in counters.v.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;

entity counters is
  generic (CLOCKS : natural := 1000);
end entity counters;

architecture bench of counters is
  signal clk        : std_logic := '0';
  signal rst        : std_logic := '1';
  signal fast, slow : unsigned(23 downto 0) := (others => '0');
  signal carry      : std_logic;
begin
  clk   <= not clk after 5 ns;
  rst   <= '0' after 12 ns;
  carry <= '1' when fast = x"FFFFFF" else '0';

  count_fast : process (clk)
  begin
    if rising_edge(clk) then
      if rst = '1' then
        fast <= (others => '0');
      else
        fast <= fast + 1;
      end if;
    end if;
  end process count_fast;

  count_slow : process (clk)
  begin
    if rising_edge(clk) then
      if rst = '1' then
        slow <= (others => '0');
      elsif carry = '1' then
        slow <= slow + 1;
      end if;
    end if;
  end process count_slow;

  finish : process
    variable l : line;
  begin
    wait for 12 ns + CLOCKS * 10 ns;
    write(l, to_string(to_integer(fast)) & " " & to_string(to_integer(slow)));
    writeline(output, l);
    std.env.finish;
  end process finish;
end architecture bench;
