-- The units of the core: registers, multiplication and division, control registers, a cache.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.brae_types.all;

entity brae_registers is
  generic (read_ports : positive := 2);
  port (
    clk     : in  std_ulogic;
    which   : in  reg_vector(0 to read_ports - 1);
    values  : out word_vector(0 to read_ports - 1);
    write   : in  boolean;
    rd      : in  reg_no;
    value   : in  word
  );
end entity brae_registers;

architecture rtl of brae_registers is
  signal file_of : word_vector(reg_no) := (others => (others => '0'));
begin
  ports_out : for p in which'range generate
    values(p) <= (others => '0') when which(p) = 0
                 else value when write and rd = which(p)
                 else file_of(which(p));
  end generate ports_out;

  process (clk) is
  begin
    if rising_edge(clk) and write and rd /= 0 then
      file_of(rd) <= value;
    end if;
  end process;
end architecture rtl;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.brae_types.all;

entity brae_long is
  generic (bits_a_clock : positive := 4);
  port (
    clk, rst_n : in  std_ulogic;
    start      : in  boolean;
    fn         : in  alu_fn;
    a, b       : in  word;
    done       : out boolean;
    result     : out word
  );
end entity;

-- Multiplies and divides a few bits in each clock.
architecture iterative of brae_long is
  type phase is (ready, working, finished);
  type state_t is record
    now      : phase;
    left     : natural range 0 to xlen;
    high     : unsigned(xlen downto 0);
    low      : unsigned(xlen - 1 downto 0);
    operand  : unsigned(xlen - 1 downto 0);
    negative : boolean;
    rest_neg : boolean;
  end record;
  signal r, rin : state_t;

  procedure step_multiply(variable high : inout unsigned; variable low : inout unsigned; operand : in unsigned) is
    variable sum : unsigned(high'range) := high;
  begin
    if low(low'right) = '1' then
      sum := high + operand;
    end if;
    low := sum(0) & low(low'left downto 1);
    high := '0' & sum(sum'left downto 1);
  end procedure;

  procedure step_divide(variable high, low : inout unsigned; operand : in unsigned) is
    variable difference : unsigned(high'length - 1 downto 0);
    variable shifted_in : unsigned(high'length - 1 downto 0);
  begin
    shifted_in := high(high'left - 1 downto 0) & low(low'left);
    difference := shifted_in - operand;
    if difference(difference'left) = '1' then
      high := shifted_in;
      low := low(low'left - 1 downto 0) & '0';
    else
      high := difference;
      low := low(low'left - 1 downto 0) & '1';
    end if;
  end procedure;

  function negated(x : unsigned; do : boolean) return unsigned is
  begin
    if do then
      return unsigned(-signed(x));
    end if;
    return x;
  end function;
begin
  combine : process (all) is
    variable v : state_t;
    variable both : unsigned(2 * xlen - 1 downto 0);
    variable is_signed : boolean;
  begin
    v := r;
    is_signed := fn = f_mulh or fn = f_div or fn = f_rem;
    case r.now is
      when ready =>
        if start then
          v := (now => working, left => xlen, high => (others => '0'),
                low => negated(unsigned(a), is_signed and a(a'left) = '1'),
                operand => negated(unsigned(b), is_signed and b(b'left) = '1'),
                negative => is_signed and (a(a'left) xor b(b'left)) = '1',
                rest_neg => is_signed and a(a'left) = '1');
        end if;
      when working =>
        for i in 1 to bits_a_clock loop
          if fn >= f_div and fn <= f_remu then
            step_divide(v.high, v.low, r.operand);
          else
            step_multiply(v.high, v.low, r.operand);
          end if;
        end loop;
        v.left := r.left - bits_a_clock;
        if v.left = 0 then
          v.now := finished;
        end if;
      when finished =>
        v.now := ready;
    end case;

    both := negated(r.high(xlen - 1 downto 0) & r.low, r.negative);
    case fn is
      when f_mul           => result <= word(both(xlen - 1 downto 0));
      when f_mulh | f_mulhu => result <= word(both(both'left downto xlen));
      when f_div | f_divu  =>
        if unsigned(b) = 0 then
          result <= (others => '1');
        else
          result <= word(negated(r.low, r.negative));
        end if;
      when others =>
        result <= a when unsigned(b) = 0 else word(negated(r.high(xlen - 1 downto 0), r.rest_neg));
    end case;
    rin <= v;
  end process combine;

  done <= r.now = finished;

  process (clk, rst_n) is
  begin
    if rst_n = '0' then
      r.now <= ready;
      r.left <= 0;
    elsif rising_edge(clk) then
      r <= rin;
    end if;
  end process;
end architecture iterative;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.brae_types.all;

entity brae_csr is
  port (
    clk, rst_n : in  std_ulogic;
    number     : in  natural range 0 to 15;
    write      : in  boolean;
    how        : in  csr_how;
    operand    : in  word;
    value      : out word;
    retire     : in  boolean;
    eret       : in  boolean;
    cause      : in  trap_cause;
    bad, pc    : in  word;
    vector     : out word;
    back       : out word
  );
end entity brae_csr;

architecture rtl of brae_csr is
  signal regs : word_vector(0 to 8);
  alias status is regs(0);
  alias cause_reg is regs(1);
  alias epc : word is regs(2);
  alias tvec : word is regs(3);
  attribute keep : boolean;
  attribute keep of regs : signal is true;
begin
  value  <= regs(number) when number <= regs'high else (others => '0');
  vector <= tvec;
  back   <= epc;

  process (clk, rst_n) is
    variable old, new_value : word;
  begin
    if rst_n = '0' then
      regs <= (others => (others => '0'));
    elsif rising_edge(clk) then
      regs(5) <= regs(5) + 1;
      if retire then
        regs(6) <= regs(6) + 1;
      end if;
      if write then
        old := regs(number);
        with how select
          new_value := operand         when h_write,
                       old or operand  when h_set,
                       old and not operand when h_clear;
        case number is
          when 0 => status <= (31 downto 2 => '0') & new_value(1 downto 0);
          when 2 | 3 => regs(number) <= new_value(31 downto 2) & b"00";
          when 1 | 4 | 8 => regs(number) <= new_value;
          when others => null;
        end case;
      end if;
      if eret then
        status(1 downto 0) <= '1' & status(1);
      end if;
      if cause /= t_none then
        status(1 downto 0) <= status(0) & '0';
        cause_reg <= word(to_unsigned(trap_cause'pos(cause), xlen));
        epc <= pc;
        regs(8) <= bad;
      end if;
    end if;
  end process;
end architecture rtl;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.brae_types.all;

-- Reads whole lines; words wait in it until another line takes their place.
entity brae_cache is
  generic (
    lines      : positive := 8;
    line_words : positive := 4
  );
  port (
    clk, rst_n : in  std_ulogic;
    address    : in  word;
    wanted     : in  boolean;
    hit        : out boolean;
    data       : out word;
    request    : out bus_request;
    answer     : in  bus_answer
  );
begin
  assert line_words = 2 or line_words = 4 or line_words = 8
    report "a line has 2, 4 or 8 words, not " & integer'image(line_words) severity failure;
end entity brae_cache;

architecture rtl of brae_cache is
  function log2(x : positive) return natural is
  begin
    if x = 1 then
      return 0;
    end if;
    return 1 + log2((x + 1) / 2);
  end function;

  constant word_bits : natural := log2(line_words);
  constant line_bits : natural := log2(lines);
  subtype word_field is natural range word_bits + 1 downto 2;
  subtype line_field is natural range line_bits + word_bits + 1 downto word_bits + 2;
  subtype tag_field is natural range xlen - 1 downto line_bits + word_bits + 2;
  subtype tag_t is std_ulogic_vector(tag_field);
  type tag_array is array (0 to lines - 1) of tag_t;
  type line_t is array (0 to line_words - 1) of word;
  type data_array is array (0 to lines - 1) of line_t;

  signal tags  : tag_array;
  signal held  : data_array;
  signal valid : std_ulogic_vector(0 to lines - 1);
  signal filling : boolean;
  signal missed : word;
  signal beat : natural range 0 to line_words - 1;

  function to_std(x : boolean) return std_ulogic is
  begin
    if x then
      return '1';
    end if;
    return '0';
  end function;

  function index(a : word) return natural is
  begin
    return to_integer(unsigned(a(line_field)));
  end function;
begin
  hit  <= valid(index(address)) = '1' and tags(index(address)) = address(tag_field) when not filling else false;
  data <= held(index(address))(to_integer(unsigned(address(word_field))));

  request <= (active  => to_std(filling),
              write   => '0',
              address => missed(xlen - 1 downto word_bits + 2) & std_ulogic_vector(to_unsigned(beat * 4, word_bits + 2)),
              lanes   => "1111",
              data    => (others => '0'));

  process (clk, rst_n) is
  begin
    if rst_n = '0' then
      valid <= (others => '0');
      filling <= false;
      beat <= 0;
    elsif rising_edge(clk) then
      if filling then
        if answer.done then
          held(index(missed))(beat) <= answer.data;
          if beat = line_words - 1 then
            filling <= false;
            valid(index(missed)) <= '1';
            tags(index(missed)) <= missed(tag_field);
            beat <= 0;
          else
            beat <= beat + 1;
          end if;
        end if;
      elsif wanted and not hit then
        filling <= true;
        missed <= address;
        valid(index(address)) <= '0';
      end if;
    end if;
  end process;
end architecture rtl;
