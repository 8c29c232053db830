library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;
use std.env.all;
library penstock;
use penstock.penstock_package.all;

package simulation_log is
  type log_t is protected
    procedure note(what : string);
    procedure failed(what : string; got, wanted : integer);
    impure function failures return natural;
    impure function lines return natural;
  end protected;
end package;

package body simulation_log is
  type log_t is protected body
    variable count_v, lines_v : natural := 0;
    procedure note(what : string) is
      variable l : line;
    begin
      write(l, what);
      writeline(output, l);
      lines_v := lines_v + 1;
    end procedure;
    procedure failed(what : string; got, wanted : integer) is
    begin
      count_v := count_v + 1;
      note(what & " is " & integer'image(got) & " instead of " & integer'image(wanted));
    end procedure;
    impure function failures return natural is begin return count_v; end function;
    impure function lines return natural is begin return lines_v; end function;
  end protected body;
end package body;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;
library penstock;
use penstock.penstock_package.all;

entity serial_listener is
  generic (BIT_TIME : time; NAME : string);
  port (line_i : in std_logic; count_o : out natural := 0);
end entity;

architecture behave of serial_listener is
  type text_access is access string;
begin
  listen: process
    variable char_v : std_ulogic_vector(7 downto 0);
    variable text_v : line;
    variable n_v : natural := 0;
    file log_file : text open write_mode is NAME & ".log";
    variable copy_v : line;
    procedure get(variable c : out std_ulogic_vector(7 downto 0)) is
    begin
      wait until falling_edge(line_i);
      wait for BIT_TIME * 1.5;
      for i in c'reverse_range loop
        c(i) := to_UX01(line_i);
        wait for BIT_TIME;
      end loop;
      assert line_i = '1' report "stop bit is missing" severity warning;
    end procedure;
  begin
    get(char_v);
    n_v := n_v + 1;
    count_o <= n_v;
    if char_v = x"0A" then
      if text_v /= null then
        copy_v := new string'(text_v.all);
        writeline(log_file, copy_v);
        write(output, NAME & ": " & text_v.all & LF);
        deallocate(text_v);
      end if;
    elsif char_v = x"0D" then
      null;
    else
      write(text_v, character'val(to_integer(unsigned(char_v))));
    end if;
  end process;
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;
use std.env.stop;
library penstock;
use penstock.penstock_package.all;
use work.simulation_log.all;

entity tb is
end entity;

architecture sim of tb is
  constant period_c : time := 10 ns;
  constant systems_c : positive := 2;
  subtype word_t is std_ulogic_vector(31 downto 0);
  type gpio_array_t is array (natural range <>) of std_ulogic_vector(7 downto 0);
  type retired_array_t is array (natural range <>) of unsigned(31 downto 0);

  signal clk, rstn : std_ulogic := '0';
  signal running : boolean := true;
  signal txd : std_logic_vector(systems_c-1 downto 0);
  signal gpio_out, gpio_in : gpio_array_t(0 to systems_c-1);
  signal sleeping, trapped : std_ulogic_vector(systems_c-1 downto 0);
  signal heard : natural_array_t(0 to systems_c-1);
  signal retired : retired_array_t(0 to systems_c-1);
  shared variable logger : log_t;

  -- an assembler of functions; the condition of a branch stands above its distance
  type condition_t is (eq, ne, lt, ge);
  function field(n : natural) return std_ulogic_vector is
  begin
    return std_ulogic_vector(to_unsigned(n, 4));
  end function;
  function imm(n : integer; width : positive := 14) return std_ulogic_vector is
  begin
    return std_ulogic_vector(to_signed(n, width));
  end function;
  function alu(op : alu_op_t; rd, ra, rb : natural) return word_t is
  begin
    return op_alu_c & field(rd) & field(ra) & field(rb) & (13 downto 4 => '0') & field(alu_op_t'pos(op));
  end function;
  function addi(rd, ra : natural; value : integer) return word_t is
  begin
    return op_alui_c & field(rd) & field(ra) & "0000" & imm(value);
  end function;
  function lui(rd : natural; value : natural) return word_t is
  begin
    return op_lui_c & field(rd) & "000000" & std_ulogic_vector(to_unsigned(value, 16));
  end function;
  function mem(op : opcode_t; r, ra : natural; at : integer := 0) return word_t is
  begin
    return op & field(r) & field(ra) & "0000" & imm(at);
  end function;
  function br(c : condition_t; ra, rb : natural; from, target : natural) return word_t is
  begin
    return op_branch_c & field(rb) & field(ra) & "00" & std_ulogic_vector(to_unsigned(condition_t'pos(c), 2)) & imm(target - from);
  end function;
  function jal(rd : natural; from, target : natural) return word_t is
  begin
    return op_jal_c & field(rd) & "0000" & "0000" & imm(target - from);
  end function;

  constant program_c : word_array_t := (
     0 => addi(1, 0, -4096),
     1 => addi(2, 1, 256),
     2 => lui(3, 16#8000#),
     3 => addi(4, 0, 1),          -- cubes of 1 to 5 into the memory
     4 => addi(5, 0, 6),
     5 => addi(6, 3, 0),
     6 => alu(alu_mul, 7, 4, 4),
     7 => alu(alu_mul, 7, 7, 4),
     8 => mem(op_store_c, 7, 6),
     9 => addi(6, 6, 4),
    10 => addi(4, 4, 1),
    11 => br(lt, 4, 5, 11, 6),
    12 => addi(8, 0, 0),          -- and their sum
    13 => addi(4, 0, 5),
    14 => addi(6, 6, -4),
    15 => mem(op_load_c, 7, 6),
    16 => alu(alu_add, 8, 8, 7),
    17 => addi(4, 4, -1),
    18 => br(ne, 4, 0, 18, 14),
    19 => mem(op_store_c, 8, 2),
    20 => addi(9, 0, 4),          -- two digits
    21 => alu(alu_srl, 10, 8, 9),
    22 => addi(11, 0, 15),
    23 => alu(alu_and, 10, 10, 11),
    24 => addi(11, 0, 10),
    25 => br(lt, 10, 11, 25, 27),
    26 => addi(10, 10, 39),
    27 => addi(10, 10, 48),
    28 => mem(op_load_c, 12, 1),
    29 => br(eq, 12, 0, 29, 28),
    30 => mem(op_store_c, 10, 1),
    31 => addi(9, 9, -4),
    32 => br(ge, 9, 0, 32, 21),
    33 => addi(10, 0, 10),
    34 => mem(op_store_c, 10, 1),
    35 => addi(4, 0, -100),
    36 => addi(9, 0, 3),
    37 => alu(alu_sra, 5, 4, 9),
    38 => alu(alu_sll, 6, 4, 9),
    39 => alu(alu_slt, 7, 4, 9),
    40 => alu(alu_sltu, 10, 4, 9),
    41 => alu(alu_cp, 11, 4, 0),
    42 => mem(op_store_c, 5, 3, 64),
    43 => mem(op_store_c, 6, 3, 68),
    44 => mem(op_store_c, 7, 3, 72),
    45 => mem(op_store_c, 10, 3, 76),
    46 => mem(op_store_c, 11, 3, 80),
    47 => mem(op_load_c, 13, 2),
    48 => mem(op_store_c, 13, 3, 84),
    49 => jal(15, 49, 51),
    50 => addi(14, 0, 1),
    51 => mem(op_store_c, 15, 3, 88),
    52 => op_system_c & (25 downto 0 => '0'));

  procedure check(what : in string; got : in std_ulogic_vector; wanted : in integer) is
    constant number : integer := to_integer(signed(got));
  begin
    if is_x(got) then
      logger.note(what & " is " & to_string(got));
    end if;
    if number /= wanted then
      logger.failed(what, got => number, wanted => wanted);
    end if;
  end procedure check;
  function image_f(k : natural) return string is
  begin
    if k = 0 then
      return "";
    end if;
    return "program.hex";
  end function;
begin
  clock: clk <= not clk after period_c / 2 when running else '0';
  rstn <= '0', '1' after 7 * period_c / 2;

  systems: for k in 0 to systems_c - 1 generate
    function name_f return string is
    begin
      return "system" & integer'image(k);
    end function;
  begin
    gpio_in(k) <= "HLHLHLHL" when k = 0 else x"AA";
    top: entity work.penstock_top
      generic map (
        FAST_SHIFT => k = 1,
        IMAGE => image_f(k))
      port map (
        clk_i => clk, rstn_i => rstn, txd_o => txd(k), gpio_o => gpio_out(k), gpio_i => gpio_in(k),
        sleep_o => sleeping(k), trap_o => trapped(k), retired_o => retired(k));
    listener: entity work.serial_listener
      generic map (BIT_TIME => 4 * period_c, NAME => name_f)
      port map (txd(k), heard(k));
  end generate systems;

  -- the first system gets its program by force, the second one reads it from a file
  fill: process
    alias rom is <<signal .tb.systems(0).top.imem.mem : word_array_t(0 to 1023)>>;
    variable image : word_array_t(0 to 1023) := (others => (others => '0'));
  begin
    image(program_c'range) := program_c;
    rom <= force image;
    wait;
  end process;

  main: process
    alias ram0 is <<signal .tb.systems(0).top.dmem.mem : word_array_t(0 to 511)>>;
    alias ram1 is <<signal systems(1).top.dmem.mem : word_array_t(0 to 511)>>;
    type result_t is record
      at : natural;
      wanted : integer;
    end record;
    type results_t is array (positive range <>) of result_t;
    constant results_c : results_t := (
      (0, 1), (1, 8), (2, 27), (3, 64), (4, 125), (16, -13), (17, -800), (18, 1), (19, 0), (20, 28 * 2**16), (21, 16#AA#), (22, 200));
    variable l : line;
  begin
    wait until rstn = '1';
    wait until and sleeping for 50 us;
    assert and sleeping report "the systems don't sleep: " & to_string(sleeping) & " traps " & to_string(trapped) severity failure;
    if heard /= (3, 3) then
      wait until heard = (0 to 1 => 3) for 10 us;
    end if;
    for i in results_c'range loop
      check("word " & to_string(results_c(i).at), ram0(results_c(i).at), results_c(i).wanted);
      check("word " & to_string(results_c(i).at) & " of the second", ram1(results_c(i).at), results_c(i).wanted);
    end loop;
    for k in gpio_out'range loop
      check("gpio", "000" & gpio_out(k), 225);
    end loop;
    write(l, string'("retired "));
    for k in retired'range loop
      write(l, to_integer(retired(k)), right, 5);
    end loop;
    write(l, ' ');
    write(l, trapped);
    write(l, string'(" at "));
    hwrite(l, std_ulogic_vector'(x"0" & gpio_out(0)));
    writeline(output, l);
    logger.note(integer'image(logger.failures) & " failures, " & integer'image(heard(0) + heard(1)) & " characters");
    running <= false;
    stop(0);
    wait;
  end process;
end architecture;
