library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use ieee.math_real.all;
use std.textio.all;
use std.env.all;
use work.log_pkg.all;
use work.bus_pkg.all;

entity store is
  port (clk : in std_logic; b : inout small_bus);
end entity;
architecture rtl of store is
  type mem_t is array (0 to 15) of std_logic_vector(7 downto 0);
  signal mem : mem_t := (others => x"00");
  signal waits : natural range 0 to 2 := 0;
begin
  b.addr <= (others => 'Z');
  b.valid <= 'Z';
  process (all) is
  begin
    b.data <= (others => 'Z');
    b.ready <= '0';
    if b.valid = '1' and waits = 0 then
      b.ready <= '1';
    end if;
  end process;
  process (clk) is
    variable first_write : boolean := true;
  begin
    if rising_edge(clk) then
      if b.valid = '1' and b.ready = '1' then
        if not is_x(b.data) and b.data /= (b.data'range => 'Z') then
          mem(to_integer(unsigned(b.addr))) <= b.data;
        end if;
        waits <= to_integer(unsigned(b.addr)) mod 3;
      elsif waits > 0 then
        waits <= waits - 1;
      end if;
    end if;
  end process;
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use ieee.math_real.all;
use std.textio.all;
use std.env.all;
use work.log_pkg.all;
use work.bus_pkg.all;
entity tb is
  generic (rounds : positive := 3);
end entity;
architecture sim of tb is
  constant period : time := 10 ns;
  signal clk : std_logic := '0';
  signal b : small_bus := (addr => "ZZZZ", data => (others => 'Z'), valid => '0', ready => 'Z');
  signal barrier : barrier_t;
  shared variable log : logger;
  package commands is new work.queue_pkg generic map (item_t => command, show => image);
  package numbers is new work.queue_pkg generic map (item_t => integer, show => integer'image);
  shared variable todo, done : commands.queue;
  shared variable seen : numbers.queue;
  signal finished : boolean := false;
begin
  clk <= not clk after period / 2 when not finished;
  dut : entity work.store port map (clk => clk, b => b);

  driver : process is
    variable c : command;
    variable got : std_logic_vector(7 downto 0);
    variable n : natural := 0;
  begin
    barrier <= integer'high;
    log.open_log("run.log");
    for i in 1 to rounds loop
      wait until barrier = i for 1 us;
      log.say(trace, "driver", "round " & to_string(i));
      while todo.size > 0 loop
        c := todo.pop;
        transact(b, clk, c, got);
        done.push(c);
        n := n + 1;
        log.say(info, "driver", image(c) & " at " & to_string(now / 1 ns) & " got " & hex(got));
      end loop;
      wait for 0 ns;
    end loop;
    wait;
  end process;

  maker : process is
    variable s1, s2 : positive := 17;
    variable r : real;
    variable l : line;
    variable k : integer;
    variable good : boolean;
    procedure add(op : operation; addr : natural; data : natural := 0) is
    begin
      todo.push((op, addr, std_logic_vector(to_unsigned(data, 8))));
    end procedure;
    procedure add(text_form : string) is
      variable x : line := new string'(text_form);
      variable ch : character;
      variable a, d : natural;
    begin
      read(x, ch);
      read(x, a);
      if ch = 'w' then
        read(x, ch);
        assert ch = '=' report "an '=' expected, not " & ch severity error;
        read(x, d);
        add(op_write, a, d);
      else
        add(op_read, a);
      end if;
      deallocate(x);
    end procedure;
  begin
    barrier <= integer'high;
    add(op_write, 3, 16#5A#);
    add("w7=129");
    add("r3");
    log.say(info, "maker", todo.text);
    wait for period;
    for i in 1 to rounds loop
      barrier <= i;
      if i < rounds then add("w" & to_string(i) & "=" & to_string(i * 40)); end if;
      wait until todo.size = 0 for 300 ns;
    end loop;
    uniform(s1, s2, r);
    seen.push(integer(floor(r * 10.0)) / 10);
    seen.push(7);
    log.say(warn, "maker", join(to_string(seen.has(7)) & seen.text, done.text, "; "));
    l := new string'("12 xx");
    read(l, k, good);
    log.say(fail, "maker", to_string(k) & " " & to_string(good) & " rest '" & l.all & "'");
    log.summary;
    finished <= true;
    stop(0);
    wait;
  end process;
end architecture;
