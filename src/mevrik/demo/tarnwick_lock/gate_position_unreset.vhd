-- A flawed copy: the count of the steps was left out of the reset. It starts as 'U', and a sum with 'U' stays unknown.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity gate_position_unreset is
  port (
    clk, rst_n, step : in  std_logic;
    position         : out unsigned(3 downto 0);
    moved            : out std_logic
  );
end entity gate_position_unreset;

architecture rtl of gate_position_unreset is
  signal count : unsigned(3 downto 0);
begin
  steps : process (clk, rst_n)
  begin
    if rst_n = '0' then
      moved <= '0';
    elsif rising_edge(clk) then
      moved <= step;
      if step = '1' then
        count <= count + 1;
      end if;
    end if;
  end process steps;

  position <= count;
end architecture rtl;
