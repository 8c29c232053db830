library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.core_types.all;

entity data_memory is
  generic (words : positive := 256; delay : time := 0 ns);
  port (clk : in std_ulogic; request : in bus_request; response : out bus_response);
end entity;

architecture behaviour of data_memory is
  constant bits : natural := log2_ceiling(words);
  type lane_array is array (3 downto 0) of byte_array(0 to words - 1);
  signal lanes : lane_array := (others => (others => (others => '0')));
  signal index : natural range 0 to words - 1;
begin
  index <= to_integer(unsigned(request.address(bits + 1 downto 2))) when not is_x(request.address(bits + 1 downto 2)) else 0;
  each_lane : for k in lanes'range generate
    process (clk) is
    begin
      if rising_edge(clk) then
        if (request.valid and request.write and request.lanes(k)) = '1' then
          lanes(k)(index) <= request.data(8 * k + 7 downto 8 * k);
        end if;
      end if;
    end process;
    response.data(8 * k + 7 downto 8 * k) <= lanes(k)(index) after delay;
  end generate each_lane;
  response.ready <= '1';
end architecture behaviour;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.core_types.all;

entity arbiter is
  generic (ports : positive := 2);
  port (
    requests  : in bus_request_array(0 to ports - 1);
    responses : out bus_response_array(0 to ports - 1);
    request   : out bus_request;
    response  : in bus_response);
end entity;

architecture rtl of arbiter is
begin
  process (all)
    variable chosen : integer range -1 to ports - 1;
  begin
    chosen := -1;
    responses <= (others => (ready => '0', data => (others => '0')));
    for k in requests'range loop
      if requests(k).valid = '1' then
        chosen := k;
        exit;
      end if;
    end loop;
    if chosen >= 0 then
      request <= requests(chosen);
      responses(chosen) <= response;
    else
      request <= bus_idle;
    end if;
  end process;
end architecture;
