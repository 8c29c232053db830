library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;
use work.brae_types.all;

package brae_memory_pkg is
  -- Memory as the bench sees it: words, of which pages come to be when they are written.
  type memory is protected
    impure function load(name : string) return natural;
    impure function read(address : natural) return word;
    procedure write(address : in natural; data : in word; lanes : in std_ulogic_vector(3 downto 0));
    impure function pages return natural;
  end protected memory;

  procedure put(file f : text; s : in string);
end package brae_memory_pkg;

package body brae_memory_pkg is
  type memory is protected body
    constant page_words : positive := 64;
    type page;
    type page_pointer is access page;
    type page is record
      number : natural;
      words  : word_vector(0 to page_words - 1);
      next_page : page_pointer;
    end record;
    variable first : page_pointer := null;
    variable count : natural := 0;

    impure function found(number : natural) return page_pointer is
      variable p : page_pointer := first;
    begin
      while p /= null loop
        exit when p.number = number;
        p := p.next_page;
      end loop;
      return p;
    end function;

    impure function made(number : natural) return page_pointer is
      variable p : page_pointer := found(number);
    begin
      if p = null then
        p := new page'(number => number, words => (others => (others => '0')), next_page => first);
        first := p;
        count := count + 1;
      end if;
      return p;
    end function;

    impure function read(address : natural) return word is
      variable p : page_pointer := found(address / 4 / page_words);
    begin
      if p = null then
        return (31 downto 0 => '0');
      end if;
      return p.words(address / 4 mod page_words);
    end function;

    procedure write(address : in natural; data : in word; lanes : in std_ulogic_vector(3 downto 0)) is
      variable p : page_pointer := made(address / 4 / page_words);
    begin
      for k in lanes'reverse_range loop
        next when lanes(k) = '0';
        p.words(address / 4 mod page_words)(8 * k + 7 downto 8 * k) := data(8 * k + 7 downto 8 * k);
      end loop;
    end procedure;

    impure function load(name : string) return natural is
      file f : text;
      variable status : file_open_status;
      variable l : line;
      variable x : word;
      variable good : boolean;
      variable at : natural := 0;
    begin
      file_open(status, f, name, read_mode);
      assert status = open_ok report "no program " & name & ": " & file_open_status'image(status) severity failure;
      while not endfile(f) loop
        readline(f, l);
        hread(l, x, good);
        if good then
          write(at, x, "1111");
          at := at + 4;
        end if;
      end loop;
      file_close(f);
      deallocate(l);
      return at / 4;
    end function;

    impure function pages return natural is
    begin
      return count;
    end function;
  end protected body memory;

  procedure put(file f : text; s : in string) is
    variable l : line;
    variable from : positive := s'left;
  begin
    for i in s'range loop
      if s(i) = LF then
        write(l, s(from to i - 1));
        writeline(f, l);
        from := i + 1;
      end if;
    end loop;
  end procedure;
end package body brae_memory_pkg;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.brae_types.all;

-- Several masters, one slave: whoever has begun goes on to the end, and the first that asks is next.
entity brae_arbiter is
  generic (masters : positive);
  port (
    clk, rst_n : in  std_ulogic;
    requests   : in  request_vector(0 to masters - 1);
    answers    : out answer_vector(0 to masters - 1);
    request    : out bus_request;
    answer     : in  bus_answer
  );
end entity;

architecture rtl of brae_arbiter is
  signal owner : natural range 0 to masters := masters;   -- nobody
  signal chosen : natural range 0 to masters;
begin
  choose : process (all) is
  begin
    chosen <= masters;
    if owner /= masters then
      chosen <= owner;
    else
      for m in requests'range loop
        if requests(m).active then
          chosen <= m;
          exit;
        end if;
      end loop;
    end if;
  end process;

  request <= requests(chosen) when chosen < masters else no_request;

  each : for m in answers'range generate
    answers(m) <= (done => answer.done, data => answer.data) when chosen = m else (done => '0', data => (others => '-'));
  end generate;

  process (clk, rst_n) is
  begin
    if rst_n = '0' then
      owner <= masters;
    elsif rising_edge(clk) then
      owner <= masters when answer.done = '1' else chosen;
    end if;
  end process;
end architecture rtl;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;
use work.brae_types.all;
use work.brae_memory_pkg.all;

entity brae_tb is
  generic (
    program : string := "program.hex";
    period  : delay_length := 10 ns;
    waits   : natural := 2
  );
end entity brae_tb;

architecture bench of brae_tb is
  signal clk : std_ulogic := '0';
  signal rst_n : std_ulogic := '0';
  signal requests : request_vector(0 to 1);
  signal answers : answer_vector(0 to 1);
  signal request : bus_request;
  signal answer : bus_answer := ('0', (others => '0'));
  signal retired : retirement;
  signal halted : boolean;
  signal finished : boolean := false;
  shared variable ram : memory;

  type histogram is array (operation) of natural;
begin
  clk <= not clk after period / 2 when not finished;
  rst_n <= '0', '1' after 3.2 * period;

  core : entity work.brae_core
    generic map (cache_lines => 4, long_bits => 8)
    port map (clk => clk, rst_n => rst_n, i_request => requests(1), i_answer => answers(1), d_request => requests(0),
              d_answer => answers(0), retired => retired, halted => halted);

  arbiter : entity work.brae_arbiter(rtl)
    generic map (masters => requests'length)
    port map (clk, rst_n, requests, answers, request, answer);

  slave : process is
    variable console : line;
    alias console_page is request.address(31);
  begin
    assert ram.load(program) > 0 report "an empty program" severity failure;
    loop
      wait until rising_edge(clk) and request.active = '1';
      for i in 1 to waits loop
        wait until rising_edge(clk);
      end loop;
      if console_page then
        if request.write then
          write(console, character'val(to_integer(unsigned(request.data(7 downto 0)))));
        end if;
        answer.data <= (others => '0');
      else
        if request.write then
          ram.write(to_integer(unsigned(request.address)), request.data, request.lanes);
        end if;
        answer.data <= ram.read(to_integer(unsigned(request.address)));
      end if;
      answer.done <= '1';
      wait until rising_edge(clk);
      answer.done <= '0';
      if console /= null and console'length = 2 then
        report "console: " & console.all;
        deallocate(console);
      end if;
    end loop;
  end process slave;

  watch : process is
    file trace : text open write_mode is "trace.txt";
    variable seen : natural := 0;
    variable kinds : histogram := (others => 0);
    variable l : line;
    alias state_dec is << signal core.dec : decoded >>;
  begin
    wait until rising_edge(clk);
    if rst_n = '1' and retired.valid then
      seen := seen + 1;
      put(trace, image(retired));
    end if;
    if rst_n = '1' and << signal core.csr_retire : boolean >> then
      kinds(state_dec.op) := kinds(state_dec.op) + 1;
    end if;
    if halted then
      write(l, integer'image(seen) & " retired:");
      for k in kinds'range loop
        if kinds(k) > 0 then
          write(l, ' ' & operation'image(k) & '=');
          write(l, kinds(k));
        end if;
      end loop;
      writeline(output, l);
      finished <= true;
      wait;
    end if;
    assert now < 2 ms report "the program doesn't end" severity failure;
  end process watch;
end architecture bench;
