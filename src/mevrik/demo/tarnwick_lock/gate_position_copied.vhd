-- A flawed copy: the second register of the synchroniser hangs on a copy of the clock. On the board both registers see the same edge;
-- in a simulation the copy comes a delta later, so the second register takes what the first one has just become.
library ieee;
use ieee.std_logic_1164.all;

entity gate_position_copied is
  port (
    clk, rst_n, track : in  std_logic;
    first, second     : out std_logic
  );
end entity gate_position_copied;

architecture rtl of gate_position_copied is
  signal clk_board : std_logic;
  signal caught    : std_logic;
begin
  clk_board <= clk;

  catch : process (clk, rst_n)
  begin
    if rst_n = '0' then
      caught <= '0';
    elsif rising_edge(clk) then
      caught <= track;
    end if;
  end process catch;

  hand_on : process (clk_board, rst_n)
  begin
    if rst_n = '0' then
      second <= '0';
    elsif rising_edge(clk_board) then
      second <= caught;
    end if;
  end process hand_on;

  first <= caught;
end architecture rtl;
