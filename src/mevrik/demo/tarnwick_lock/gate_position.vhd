-- The position of a gate from the two tracks of its encoder: each step is one edge of one of them, its direction follows from the
-- other. Both tracks are brought to the clock first.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity gate_position is
  port (
    clk, rst_n       : in  std_logic;
    track_a, track_b : in  std_logic;
    position         : out signed(7 downto 0);
    moving           : out std_logic
  );
end entity gate_position;

architecture rtl of gate_position is
  signal a, b   : std_logic_vector(1 downto 0);    -- now (0) and before (1)
  signal count  : signed(7 downto 0);
begin
  sample : process (clk, rst_n)
  begin
    if rst_n = '0' then
      a <= "00";
      b <= "00";
    elsif rising_edge(clk) then
      a <= a(0) & track_a;
      b <= b(0) & track_b;
    end if;
  end process sample;

  step : process (clk, rst_n)
  begin
    if rst_n = '0' then
      count  <= (others => '0');
      moving <= '0';
    elsif rising_edge(clk) then
      moving <= '0';
      if (a(1) xor a(0) xor b(1) xor b(0)) = '1' then
        moving <= '1';
        if (a(1) xor b(0)) = '1' then
          count <= count + 1;
        else
          count <= count - 1;
        end if;
      end if;
    end if;
  end process step;

  position <= count;
end architecture rtl;
