-- processor.v in VHDL, statement by statement: the same registers, wires, memories and program.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity register_file is
  port (
    clk, write : in std_logic;
    rd, ra, rb : in unsigned(4 downto 0);
    data       : in unsigned(31 downto 0);
    a, b       : out unsigned(31 downto 0));
end entity;

architecture rtl of register_file is
  type cells is array (0 to 31) of unsigned(31 downto 0);
  signal r : cells := (others => (others => '0'));
begin
  a <= (others => 'X') when is_x(std_logic_vector(ra)) else data when write = '1' and rd = ra and ra /= 0 else r(to_integer(ra));
  b <= (others => 'X') when is_x(std_logic_vector(rb)) else data when write = '1' and rd = rb and rb /= 0 else r(to_integer(rb));
  process (clk)
  begin
    if rising_edge(clk) then
      if write = '1' and rd /= 0 then
        r(to_integer(rd)) <= data;
      end if;
    end if;
  end process;
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity arithmetic is
  port (
    op   : in unsigned(5 downto 0);
    a, b : in unsigned(31 downto 0);
    y    : out unsigned(31 downto 0));
end entity;

architecture rtl of arithmetic is
begin
  process (all)
  begin
    case to_integer(op) is
      when 1 | 9 | 16 | 17 => y <= a + b;
      when 2 => y <= a - b;
      when 3 => y <= a and b;
      when 4 => y <= a or b;
      when 5 => y <= a xor b;
      when 6 => y <= shift_left(a, to_integer(b(4 downto 0)));
      when 7 => y <= shift_right(a, to_integer(b(4 downto 0)));
      when 8 =>
        if signed(a) < signed(b) then
          y <= to_unsigned(1, 32);
        else
          y <= (others => '0');
        end if;
      when 10 => y <= b(15 downto 0) & x"0000";
      when 11 => y <= resize(a * b, 32);
      when others => y <= (others => '0');
    end case;
  end process;
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity processor is
  port (
    clk, rst            : in std_logic;
    fetch_at            : out unsigned(31 downto 0);
    fetched             : in unsigned(31 downto 0);
    store               : out std_logic;
    data_at, store_data : out unsigned(31 downto 0);
    loaded              : in unsigned(31 downto 0);
    retired             : out unsigned(31 downto 0));
end entity;

architecture rtl of processor is
  constant nop : unsigned(31 downto 0) := (others => '0');
  function bit_of (x : boolean) return std_logic is
  begin
    if x then return '1'; else return '0'; end if;
  end function;
  signal pc : unsigned(31 downto 0);
  -- decode
  signal ir, ir_pc : unsigned(31 downto 0);
  signal op : unsigned(5 downto 0);
  signal rd, ra, rb, second : unsigned(4 downto 0);
  signal imm : unsigned(31 downto 0);
  signal is_imm, is_branch, writes : std_logic;
  signal reg_a, reg_b : unsigned(31 downto 0);
  -- execute
  signal x_op : unsigned(5 downto 0);
  signal x_rd, x_ra, x_rb : unsigned(4 downto 0);
  signal x_a, x_b, x_imm, x_pc : unsigned(31 downto 0);
  signal x_is_imm, x_writes, x_branch : std_logic;
  -- memory
  signal m_op : unsigned(5 downto 0);
  signal m_rd : unsigned(4 downto 0);
  signal m_y, m_store : unsigned(31 downto 0);
  signal m_writes : std_logic;
  -- write back
  signal w_rd : unsigned(4 downto 0);
  signal w_data : unsigned(31 downto 0);
  signal w_writes : std_logic;

  signal m_result, a, b_reg, b, y : unsigned(31 downto 0);
  signal taken, interlock : std_logic;
begin
  op <= ir(31 downto 26);
  rd <= ir(25 downto 21);
  ra <= ir(20 downto 16);
  rb <= ir(15 downto 11);
  imm <= unsigned(resize(signed(ir(15 downto 0)), 32));
  is_imm <= bit_of(op = 9 or op = 10 or op = 16 or op = 17);
  is_branch <= bit_of(op = 18 or op = 19);
  writes <= bit_of(op /= 0 and op /= 17 and is_branch = '0');
  second <= rd when op = 17 or is_branch = '1' else rb;

  m_result <= loaded when m_op = 16 else m_y;
  a <= m_result when m_writes = '1' and m_rd = x_ra and x_ra /= 0 else w_data when w_writes = '1' and w_rd = x_ra and x_ra /= 0 else x_a;
  b_reg <= m_result when m_writes = '1' and m_rd = x_rb and x_rb /= 0 else w_data when w_writes = '1' and w_rd = x_rb and x_rb /= 0 else x_b;
  b <= x_imm when x_is_imm = '1' else b_reg;
  taken <= x_branch and bit_of((x_op = 18 and a = b_reg) or (x_op /= 18 and a /= b_reg));
  interlock <= bit_of(x_op = 16 and x_writes = '1' and (x_rd = ra or x_rd = rb));

  registers : entity work.register_file port map (clk, w_writes, w_rd, ra, second, w_data, reg_a, reg_b);
  alu : entity work.arithmetic port map (x_op, a, b, y);
  fetch_at <= pc;
  store <= bit_of(m_op = 17);
  data_at <= m_y;
  store_data <= m_store;

  process (clk)
  begin
    if rising_edge(clk) then
      if rst = '1' then
        pc <= (others => '0'); ir <= nop; ir_pc <= (others => '0'); x_op <= (others => '0'); x_rd <= (others => '0');
        x_ra <= (others => '0'); x_rb <= (others => '0'); x_a <= (others => '0'); x_b <= (others => '0'); x_imm <= (others => '0');
        x_pc <= (others => '0'); x_is_imm <= '0'; x_writes <= '0'; x_branch <= '0'; m_op <= (others => '0'); m_rd <= (others => '0');
        m_y <= (others => '0'); m_store <= (others => '0'); m_writes <= '0'; w_rd <= (others => '0'); w_data <= (others => '0');
        w_writes <= '0'; retired <= (others => '0');
      else
        if taken = '1' then
          pc <= x_pc + x_imm; ir <= nop;
        elsif interlock = '0' then
          pc <= pc + 4; ir <= fetched; ir_pc <= pc;
        end if;
        if taken = '1' or interlock = '1' then
          x_op <= (others => '0'); x_writes <= '0'; x_branch <= '0'; x_is_imm <= '0'; x_rd <= (others => '0');
        else
          x_op <= op; x_rd <= rd; x_ra <= ra; x_rb <= second; x_a <= reg_a; x_b <= reg_b; x_imm <= imm; x_pc <= ir_pc;
          x_is_imm <= is_imm; x_writes <= writes; x_branch <= is_branch;
        end if;
        m_op <= x_op; m_rd <= x_rd; m_y <= y; m_store <= b_reg; m_writes <= x_writes;
        w_rd <= m_rd; w_data <= m_result; w_writes <= m_writes;
        if m_op /= 0 then
          retired <= retired + 1;
        end if;
      end if;
    end if;
  end process;
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity processor_bench is
  generic (clocks : positive := 1000);
end entity;

architecture test of processor_bench is
  type words is array (natural range <>) of unsigned(31 downto 0);
  -- op, rd, ra and the last sixteen bits
  function made (op, rd, ra, last : integer) return unsigned is
  begin
    return to_unsigned(op, 6) & to_unsigned(rd, 5) & to_unsigned(ra, 5) & unsigned(to_signed(last, 16));
  end function;
  constant program : words(0 to 63) := (
    0 => made(9, 1, 0, 0),             -- r1 = 0, the index
    1 => made(9, 2, 0, 100),           -- r2 = 100
    2 => made(9, 3, 0, 0),             -- r3 = 0, the sum
    3 => made(11, 4, 1, 1 * 2048),     -- r4 = r1 * r1
    4 => made(5, 4, 4, 3 * 2048),      -- r4 ^= r3
    5 => made(9, 6, 0, 2),
    6 => made(6, 5, 1, 6 * 2048),      -- r5 = r1 << 2
    7 => made(17, 4, 5, 0),            -- store r4 at r5
    8 => made(16, 7, 5, 0),            -- load it
    9 => made(1, 3, 3, 7 * 2048),      -- r3 += r7
    10 => made(9, 1, 1, 1),            -- r1 += 1
    11 => made(19, 1, 2, -32),         -- to 3 while r1 /= r2
    12 => made(19, 2, 0, -48),         -- else to 0
    others => (others => '0'));
  signal data_memory : words(0 to 255) := (others => (others => '0'));
  signal clk : std_logic := '0';
  signal rst : std_logic := '1';
  signal fetch_at, data_at, store_data, retired, fetched, loaded : unsigned(31 downto 0);
  signal store : std_logic;
begin
  fetched <= (others => 'X') when is_x(std_logic_vector(fetch_at(7 downto 2))) else program(to_integer(fetch_at(7 downto 2)));
  loaded <= (others => 'X') when is_x(std_logic_vector(data_at(9 downto 2))) else data_memory(to_integer(data_at(9 downto 2)));
  core : entity work.processor port map (clk, rst, fetch_at, fetched, store, data_at, store_data, loaded, retired);
  clk <= not clk after 5 ns;
  process (clk)
  begin
    if rising_edge(clk) and store = '1' then
      data_memory(to_integer(data_at(9 downto 2))) <= store_data;
    end if;
  end process;
  process
  begin
    wait for 12 ns;
    rst <= '0';
    wait for clocks * 10 ns;
    report to_string(to_integer(retired)) & " " & to_hstring(data_memory(99));
    std.env.finish;
  end process;
end architecture;
