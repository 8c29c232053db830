-- Brae-32 in VHDL: words, decoded instructions, and what goes from stage to stage.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

package brae_types is
  constant xlen : positive := 32;
  subtype word is std_ulogic_vector(xlen - 1 downto 0);
  subtype reg_no is natural range 0 to 31;
  type word_vector is array (natural range <>) of word;
  type reg_vector is array (natural range <>) of reg_no;

  type alu_fn is (f_add, f_sub, f_and, f_or, f_xor, f_andn, f_sll, f_srl, f_sra, f_rol, f_slt, f_sltu, f_min, f_max, f_minu, f_maxu,
                  f_mul, f_mulh, f_mulhu, f_div, f_divu, f_rem, f_remu, f_clz, f_pop, f_brev, f_bswap, f_sxb, f_sxh, f_adds, f_subs);
  subtype long_fn is alu_fn range f_mul to f_remu;
  subtype divide_fn is alu_fn range f_div to f_remu;

  type operation is (op_bad, op_alu, op_lui, op_auipc, op_load, op_store, op_swap, op_fadd, op_branch, op_jal, op_jalr, op_csr,
                     op_call, op_eret, op_halt);
  subtype memory_op is operation range op_load to op_fadd;
  type condition is (c_eq, c_ne, c_lt, c_ge, c_ltu, c_geu);
  type access_size is (s_byte, s_half, s_word);
  type csr_how is (h_write, h_set, h_clear);
  type trap_cause is (t_none, t_misaligned, t_illegal, t_call);

  type decoded is record
    op             : operation;
    fn             : alu_fn;
    rd, ra, rb     : reg_no;
    writes         : boolean;
    uses_immediate : boolean;
    immediate      : word;
    size           : access_size;
    extend         : boolean;
    cond           : condition;
    how            : csr_how;
  end record decoded;

  constant nothing : decoded := (op => op_bad, fn => f_add, rd | ra | rb => 0, writes | uses_immediate | extend => false,
                                 immediate => (others => '0'), size => s_word, cond => c_eq, how => h_write);

  -- what an instruction leaves behind
  type retirement is record
    valid   : boolean;
    pc      : word;
    writes  : boolean;
    rd      : reg_no;
    value   : word;
    stores  : boolean;
    address : word;
    data    : word;
    size    : access_size;
  end record;

  type bus_request is record
    active  : std_ulogic;
    write   : std_ulogic;
    address : word;
    lanes   : std_ulogic_vector(3 downto 0);
    data    : word;
  end record;
  type bus_answer is record
    done : std_ulogic;
    data : word;
  end record;
  type request_vector is array (natural range <>) of bus_request;
  type answer_vector is array (natural range <>) of bus_answer;
  constant no_request : bus_request := ('0', '0', (others => '0'), "0000", (others => '0'));

  function "+"(a : word; b : integer) return word;
  function shifted(a : word; by : natural; kind : alu_fn) return word;
  function leading_zeros(a : std_ulogic_vector) return natural;
  function ones(a : std_ulogic_vector) return natural;
  function reversed(a : std_ulogic_vector; group_size : positive := 1) return std_ulogic_vector;
  function saturated(a : signed; bits : positive) return signed;
  function computed(fn : alu_fn; a, b : word) return word;
  function holds(c : condition; a, b : word) return boolean;
  function decode(ins : word) return decoded;
  function lanes_of(size : access_size; low : std_ulogic_vector(1 downto 0)) return std_ulogic_vector;
  function extracted(raw : word; low : std_ulogic_vector(1 downto 0); size : access_size; extend : boolean) return word;
  function image(r : retirement) return string;
end package brae_types;

package body brae_types is
  function "+"(a : word; b : integer) return word is
  begin
    return word(unsigned(signed(a) + b));
  end function;

  function shifted(a : word; by : natural; kind : alu_fn) return word is
    variable u : unsigned(a'range) := unsigned(a);
  begin
    case kind is
      when f_sll  => return word(u sll by);
      when f_srl  => return word(shift_right(u, by));
      when f_sra  => return word(shift_right(signed(a), by));
      when others => return word(rotate_left(u, by));
    end case;
  end function;

  function leading_zeros(a : std_ulogic_vector) return natural is
    alias bits : std_ulogic_vector(1 to a'length) is a;
  begin
    for i in bits'range loop
      if bits(i) = '1' then
        return i - 1;
      end if;
    end loop;
    return a'length;
  end function;

  function ones(a : std_ulogic_vector) return natural is
  begin
    if a'length = 1 and a(a'left) = '1' then
      return 1;
    end if;
    return 0;
  end function;

  function reversed(a : std_ulogic_vector; group_size : positive := 1) return std_ulogic_vector is
    alias x : std_ulogic_vector(a'length - 1 downto 0) is a;
    variable y : std_ulogic_vector(a'length - 1 downto 0);
    constant groups : positive := a'length / group_size;
  begin
    for g in 0 to groups - 1 loop
      y((g + 1) * group_size - 1 downto g * group_size) := x((groups - g) * group_size - 1 downto (groups - g - 1) * group_size);
    end loop;
    return y;
  end function;

  function saturated(a : signed; bits : positive) return signed is
    constant highest : signed(bits - 1 downto 0) := (bits - 1 => '0', others => '1');
  begin
    if a > resize(highest, a'length) then
      return highest;
    elsif a < resize(not highest, a'length) then
      return not highest;
    end if;
    return a(bits - 1 downto 0);
  end function;

  function count_ones(a : std_ulogic_vector) return natural is
    constant half : natural := a'length / 2;
    alias x : std_ulogic_vector(a'length - 1 downto 0) is a;
  begin
    if a'length <= 1 then
      return ones(a);
    end if;
    return count_ones(x(x'left downto half)) + count_ones(x(half - 1 downto 0));
  end function;

  function computed(fn : alu_fn; a, b : word) return word is
    constant sa : signed(word'range) := signed(a);
    constant sb : signed(word'range) := signed(b);
    constant ua : unsigned(word'range) := unsigned(a);
    constant ub : unsigned(word'range) := unsigned(b);
    constant by : natural := to_integer(ub(4 downto 0));

    function truth(x : boolean) return word is
      variable result : word := (others => '0');
    begin
      if x then
        result(0) := '1';
      end if;
      return result;
    end function;
  begin
    case fn is
      when f_add  => return word(ua + ub);
      when f_sub  => return word(ua - ub);
      when f_and  => return a and b;
      when f_or   => return a or b;
      when f_xor  => return a xor b;
      when f_andn => return a and not b;
      when f_sll | f_srl | f_sra | f_rol => return shifted(a, by, fn);
      when f_slt  => return truth(sa < sb);
      when f_sltu => return truth(ua < ub);
      when f_min  => return word(minimum(sa, sb));
      when f_max  => return word(maximum(sa, sb));
      when f_minu => return word(minimum(ua, ub));
      when f_maxu => return word(maximum(ua, ub));
      when f_clz  => return word(to_unsigned(leading_zeros(a), xlen));
      when f_pop  => return word(to_unsigned(count_ones(a), xlen));
      when f_brev => return reversed(a);
      when f_bswap => return reversed(a, group_size => 8);
      when f_sxb  => return word(resize(sa(7 downto 0), xlen));
      when f_sxh  => return word(resize(signed(a(15 downto 0)), xlen));
      when f_adds => return word(saturated(resize(sa, xlen + 1) + sb, xlen));
      when f_subs => return word(saturated(resize(sa, xlen + 1) - resize(sb, xlen + 1), xlen));
      when long_fn => return (word'range => 'X');
    end case;
  end function;

  function holds(c : condition; a, b : word) return boolean is
  begin
    case c is
      when c_eq  => return a = b;
      when c_ne  => return a /= b;
      when c_lt  => return signed(a) < signed(b);
      when c_ge  => return signed(a) >= signed(b);
      when c_ltu => return unsigned(a) < unsigned(b);
      when c_geu => return unsigned(a) >= unsigned(b);
    end case;
  end function;

  function decode(ins : word) return decoded is
    alias code : std_ulogic_vector(5 downto 0) is ins(31 downto 26);
    alias low  : std_ulogic_vector(15 downto 0) is ins(15 downto 0);
    constant simm : word := word(resize(signed(low), xlen));
    constant zimm : word := word(resize(unsigned(low), xlen));
    constant number : natural := to_integer(unsigned(code));
    variable d : decoded := nothing;
    type fn_table is array (1 to 9) of alu_fn;
    constant immediates : fn_table := (f_add, f_and, f_or, f_xor, f_slt, f_sltu, f_sll, f_srl, f_sra);
  begin
    d.rd := to_integer(unsigned(ins(25 downto 21)));
    d.ra := to_integer(unsigned(ins(20 downto 16)));
    d.rb := to_integer(unsigned(ins(15 downto 11)));
    case? code is
      when "000000" =>
        if unsigned(ins(10 downto 0)) <= alu_fn'pos(alu_fn'high) then
          d.op := op_alu;
          d.fn := alu_fn'val(to_integer(unsigned(ins(10 downto 0))));
        end if;
        d.writes := true;
      when "000001" | "00001-" | "0001--" | "001---" =>
        d.writes := true;
        d.uses_immediate := true;
        case number is
          when 1 to 9 =>
            d.op := op_alu;
            d.fn := immediates(number);
            d.immediate := simm when number = 1 or number = 5 or number = 6 else zimm;
          when 10 | 11 =>
            d.op := op_lui when number = 10 else op_auipc;
            d.immediate := low & (15 downto 0 => '0');
          when others => null;
        end case;
      when "010---" =>
        d.immediate := simm;
        case code(2 downto 0) is
          when "000" => d.size := s_byte; d.extend := true;
          when "001" => d.size := s_half; d.extend := true;
          when "011" | "101" => d.size := s_byte;
          when "100" | "110" => d.size := s_half;
          when others => null;
        end case;
        if number <= 20 then
          d.op := op_load;
          d.writes := true;
        else
          d.op := op_store;
          d.rb := d.rd;
        end if;
      when "01100-" =>
        d.op := op_fadd when code(0) = '1' else op_swap;
        d.writes := true;
      when "1000--" | "10010-" =>
        d.op := op_branch;
        d.cond := condition'val(number - 32);
        d.rb := d.ra;
        d.ra := d.rd;
        d.immediate := simm(29 downto 0) & "00";
      when "101000" =>
        d.op := op_jal;
        d.writes := true;
        d.immediate := simm(29 downto 0) & "00";
      when "101001" =>
        d.op := op_jalr;
        d.writes := true;
        d.immediate := simm;
      when "1100--" =>
        if code /= "110011" and (unsigned(low) <= 6 or unsigned(low) = 8) then
          d.op := op_csr;
          d.how := csr_how'val(number - 48);
          d.writes := true;
        end if;
      when "111000" => d.op := op_call;
      when "111001" => d.op := op_eret;
      when "111011" => d.op := op_halt;
      when others => null;
    end case?;
    d.writes := d.writes and d.rd /= 0 and d.op /= op_bad;
    return d;
  end function decode;

  function lanes_of(size : access_size; low : std_ulogic_vector(1 downto 0)) return std_ulogic_vector is
    variable lanes : std_ulogic_vector(3 downto 0) := "0000";
    constant first : natural := to_integer(unsigned(low));
    variable count : positive range 1 to 4;
  begin
    count := 2 ** access_size'pos(size);
    lanes(first + count - 1 downto first) := (others => '1');
    return lanes;
  end function;

  function extracted(raw : word; low : std_ulogic_vector(1 downto 0); size : access_size; extend : boolean) return word is
    constant moved : word := word(shift_right(unsigned(raw), 8 * to_integer(unsigned(low))));

    function fitted(x : std_ulogic_vector) return word is
    begin
      if extend then
        return word(resize(signed(x), xlen));
      end if;
      return word(resize(unsigned(x), xlen));
    end function;
  begin
    case size is
      when s_byte => return fitted(moved(7 downto 0));
      when s_half => return fitted(moved(15 downto 0));
      when s_word => return moved;
    end case;
  end function;

  -- as the interpreter writes it, in lower case
  function lower(s : string) return string is
    variable result : string(s'range);
  begin
    for i in s'range loop
      if s(i) >= 'A' and s(i) <= 'F' then
        result(i) := character'val(character'pos(s(i)) + 32);
      else
        result(i) := s(i);
      end if;
    end loop;
    return result;
  end function;

  function image(r : retirement) return string is
    constant at : string := lower(to_hstring(r.pc(15 downto 0)));

    function stored return string is
    begin
      case r.size is
        when s_byte => return lower(to_hstring(r.data(7 downto 0)));
        when s_half => return lower(to_hstring(r.data(15 downto 0)));
        when s_word => return lower(to_hstring(r.data));
      end case;
    end function;
    function store_line return string is
    begin
      if r.stores then
        return at & " [" & lower(to_hstring(r.address)) & "] " & stored & LF;
      end if;
      return "";
    end function;
    function write_line return string is
    begin
      if not r.writes then
        return "";
      end if;
      return at & " r" & integer'image(r.rd) & " " & lower(to_hstring(r.value)) & LF;
    end function;
  begin
    return store_line & write_line;
  end function;
end package body brae_types;
