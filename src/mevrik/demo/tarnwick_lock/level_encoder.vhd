-- Seven float switches, one above the other, to the level of the water in the chamber.
--
-- The floats close from below (a thermometer code). A float that is closed above one that is open can't be: that is a fault,
-- and the level then counts the closed floats from below up to the gap.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity level_encoder is
  port (
    floats : in  std_logic_vector(6 downto 0);
    level  : out std_logic_vector(2 downto 0);
    fault  : out std_logic
  );
end entity level_encoder;

architecture rtl of level_encoder is
begin
  encode : process (all)
    variable count : natural range 0 to 7;
    variable gap   : boolean;
  begin
    count := 0;
    gap   := false;
    fault <= '0';
    for i in 0 to 6 loop
      if floats(i) = '1' then
        if gap then
          fault <= '1';
        else
          count := count + 1;
        end if;
      else
        gap := true;
      end if;
    end loop;
    level <= std_logic_vector(to_unsigned(count, 3));
  end process encode;
end architecture rtl;
