library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;
use std.env.all;
use work.core_types.all;
use work.assembler.all;

entity processor_bench is
  generic (clocks : natural := 10000; program : string := "sum.asm");
end entity;

architecture bench of processor_bench is
  signal clk, rst : std_ulogic := '0';
  signal fetch_at, fetched : word := (others => '0');
  signal retired : natural;
  signal requests : bus_request_array(0 to 1) := (others => bus_idle);
  signal responses : bus_response_array(0 to 1);
  signal request : bus_request;
  signal response : bus_response;
  signal code : word_array(0 to 63) := (others => (others => '0'));
  shared variable loaded : natural := 0;
begin
  clk <= not clk after 5 ns when rst /= 'U';
  rst <= '1', '0' after 12 ns;
  fetched <= code(to_integer(unsigned(fetch_at(7 downto 2)))) when not is_x(fetch_at(7 downto 2)) else (others => '0');

  cpu : entity work.core
    generic map (traced => false)
    port map (clk => clk, rst => rst, fetch_at => fetch_at, fetched => fetched, request => requests(1), response => responses(1),
              retired => retired);
  choose : entity work.arbiter generic map (2) port map (requests, responses, request, response);
  memory : entity work.data_memory generic map (words => 256) port map (clk => clk, request => request, response => response);

  load : process
    variable image_of_code : word_array(0 to 63) := (others => (others => '0'));
    variable count : natural;
  begin
    assemble(program, image_of_code, count);
    code <= image_of_code;
    loaded := count;
    wait;
  end process;

  main : process
    variable l : line;
    procedure read_back (address : natural; variable data : out word) is
    begin
      requests(0) <= (valid => '1', write => '0', address => std_logic_vector(to_unsigned(address, 32)), data => (others => '0'),
                      lanes => "0000");
      wait for 1 ns;
      data := responses(0).data;
      requests(0).valid <= '0';
      wait for 0 ns;
    end procedure;
    variable data : word;
    variable sum : unsigned(31 downto 0) := (others => '0');
  begin
    wait for clocks * 10 ns + 12 ns;
    write(l, string'("instructions: "));
    write(l, loaded, right, 5);
    writeline(output, l);
    write(l, string'("retired:      ") & integer'image(retired));
    writeline(output, l);
    for k in 0 to 99 loop
      read_back(4 * k, data);
      if k mod 25 = 24 then
        write(l, k, right, 3);
        write(l, string'(": "));
        hwrite(l, data);
        write(l, string'(" parity ") & std_ulogic'image(parity(data)) & " swapped " & image(swap_bytes(data)));
        writeline(output, l);
      end if;
      sum := sum + unsigned(data);
    end loop;
    report "sum " & to_hstring(sum) & " at " & time'image(now);
    finish;
  end process;
end architecture;
