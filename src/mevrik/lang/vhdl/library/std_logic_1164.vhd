-- ieee.std_logic_1164 (IEEE 1076-2008 16.7). What begins with x_ is done by the run-time kernel.
package std_logic_1164 is
  type std_ulogic is ('U', 'X', '0', '1', 'Z', 'W', 'L', 'H', '-');
  type std_ulogic_vector is array (natural range <>) of std_ulogic;
  function resolved(s : std_ulogic_vector) return std_ulogic;
  subtype std_logic is resolved std_ulogic;
  subtype std_logic_vector is (resolved) std_ulogic_vector;
  subtype x01 is resolved std_ulogic range 'X' to '1';
  subtype x01z is resolved std_ulogic range 'X' to 'Z';
  subtype ux01 is resolved std_ulogic range 'U' to '1';
  subtype ux01z is resolved std_ulogic range 'U' to 'Z';
  function x_logic1(l, r : std_ulogic; op : integer) return std_ulogic;
  function x_not1(l : std_ulogic) return std_ulogic;
  function x_logic(l, r : std_ulogic_vector; op : integer; nine : boolean) return std_ulogic_vector;
  function x_logic_with(l : std_ulogic_vector; r : std_ulogic; op : integer; nine : boolean) return std_ulogic_vector;
  function x_not(l : std_ulogic_vector; nine : boolean) return std_ulogic_vector;
  function x_reduce(l : std_ulogic_vector; op : integer; nine : boolean) return std_ulogic;
  function x_map1(s : std_ulogic; table : integer) return std_ulogic;
  function x_map(s : std_ulogic_vector; table : integer; unknown : bit) return std_ulogic_vector;
  function x_is_x(s : std_ulogic_vector) return boolean;
  function x_digits(value : std_ulogic_vector; bits : integer; signed : boolean; nine : boolean) return string;
  procedure x_read_chars(l : inout std.textio.line; value : out std_ulogic_vector; chars : string; good : out boolean);
  procedure x_read_digits(l : inout std.textio.line; value : out std_ulogic_vector; bits : integer; nine : boolean; good : out boolean);
  procedure x_write(l : inout std.textio.line; value : string; justified : std.textio.side; field : std.textio.width);
  function "and"(l, r : std_ulogic) return ux01;
  function "or"(l, r : std_ulogic) return ux01;
  function "nand"(l, r : std_ulogic) return ux01;
  function "nor"(l, r : std_ulogic) return ux01;
  function "xor"(l, r : std_ulogic) return ux01;
  function "xnor"(l, r : std_ulogic) return ux01;
  function "not"(l : std_ulogic) return ux01;
  function "and"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "and"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector;
  function "and"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector;
  function "and"(l : std_ulogic_vector) return std_ulogic;
  function "or"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "or"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector;
  function "or"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector;
  function "or"(l : std_ulogic_vector) return std_ulogic;
  function "nand"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "nand"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector;
  function "nand"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector;
  function "nand"(l : std_ulogic_vector) return std_ulogic;
  function "nor"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "nor"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector;
  function "nor"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector;
  function "nor"(l : std_ulogic_vector) return std_ulogic;
  function "xor"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "xor"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector;
  function "xor"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector;
  function "xor"(l : std_ulogic_vector) return std_ulogic;
  function "xnor"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "xnor"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector;
  function "xnor"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector;
  function "xnor"(l : std_ulogic_vector) return std_ulogic;
  function "not"(l : std_ulogic_vector) return std_ulogic_vector;
  function "sll"(l : std_ulogic_vector; r : integer) return std_ulogic_vector;
  function "srl"(l : std_ulogic_vector; r : integer) return std_ulogic_vector;
  function "rol"(l : std_ulogic_vector; r : integer) return std_ulogic_vector;
  function "ror"(l : std_ulogic_vector; r : integer) return std_ulogic_vector;
  function to_bit(s : std_ulogic; xmap : bit := '0') return bit;
  function to_bitvector(s : std_ulogic_vector; xmap : bit := '0') return bit_vector;
  function to_stdulogic(b : bit) return std_ulogic;
  function to_stdlogicvector(b : bit_vector) return std_logic_vector;
  function to_stdlogicvector(s : std_ulogic_vector) return std_logic_vector;
  function to_stdulogicvector(b : bit_vector) return std_ulogic_vector;
  function to_stdulogicvector(s : std_logic_vector) return std_ulogic_vector;
  alias to_bit_vector is to_bitvector [std_ulogic_vector, bit return bit_vector];
  alias to_bv is to_bitvector [std_ulogic_vector, bit return bit_vector];
  alias to_std_logic_vector is to_stdlogicvector [bit_vector return std_logic_vector];
  alias to_slv is to_stdlogicvector [bit_vector return std_logic_vector];
  alias to_std_logic_vector is to_stdlogicvector [std_ulogic_vector return std_logic_vector];
  alias to_slv is to_stdlogicvector [std_ulogic_vector return std_logic_vector];
  alias to_std_ulogic_vector is to_stdulogicvector [bit_vector return std_ulogic_vector];
  alias to_sulv is to_stdulogicvector [bit_vector return std_ulogic_vector];
  alias to_std_ulogic_vector is to_stdulogicvector [std_logic_vector return std_ulogic_vector];
  alias to_sulv is to_stdulogicvector [std_logic_vector return std_ulogic_vector];
  function to_x01(s : std_ulogic_vector) return std_ulogic_vector;
  function to_x01(s : std_ulogic) return x01;
  function to_x01(b : bit_vector) return std_ulogic_vector;
  function to_x01(b : bit) return x01;
  function to_x01z(s : std_ulogic_vector) return std_ulogic_vector;
  function to_x01z(s : std_ulogic) return x01z;
  function to_x01z(b : bit_vector) return std_ulogic_vector;
  function to_x01z(b : bit) return x01z;
  function to_ux01(s : std_ulogic_vector) return std_ulogic_vector;
  function to_ux01(s : std_ulogic) return ux01;
  function to_ux01(b : bit_vector) return std_ulogic_vector;
  function to_ux01(b : bit) return ux01;
  function to_01(s : std_ulogic_vector; xmap : std_ulogic := '0') return std_ulogic_vector;
  function to_01(s : std_ulogic; xmap : std_ulogic := '0') return std_ulogic;
  function "??"(l : std_ulogic) return boolean;
  function rising_edge(signal s : std_ulogic) return boolean;
  function falling_edge(signal s : std_ulogic) return boolean;
  function is_x(s : std_ulogic_vector) return boolean;
  function is_x(s : std_ulogic) return boolean;
  function to_bstring(value : std_ulogic_vector) return string;
  alias to_binary_string is to_bstring [std_ulogic_vector return string];
  function to_ostring(value : std_ulogic_vector) return string;
  alias to_octal_string is to_ostring [std_ulogic_vector return string];
  function to_hstring(value : std_ulogic_vector) return string;
  alias to_hex_string is to_hstring [std_ulogic_vector return string];
  procedure read(l : inout std.textio.line; value : out std_ulogic; good : out boolean);
  procedure read(l : inout std.textio.line; value : out std_ulogic);
  procedure write(l : inout std.textio.line; value : std_ulogic; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  procedure read(l : inout std.textio.line; value : out std_ulogic_vector; good : out boolean);
  procedure read(l : inout std.textio.line; value : out std_ulogic_vector);
  procedure write(l : inout std.textio.line; value : std_ulogic_vector; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias bread is read [std.textio.line, std_ulogic_vector, boolean];
  alias bread is read [std.textio.line, std_ulogic_vector];
  alias binary_read is read [std.textio.line, std_ulogic_vector, boolean];
  alias binary_read is read [std.textio.line, std_ulogic_vector];
  alias bwrite is write [std.textio.line, std_ulogic_vector, std.textio.side, std.textio.width];
  alias binary_write is write [std.textio.line, std_ulogic_vector, std.textio.side, std.textio.width];
  procedure oread(l : inout std.textio.line; value : out std_ulogic_vector; good : out boolean);
  procedure oread(l : inout std.textio.line; value : out std_ulogic_vector);
  alias octal_read is oread [std.textio.line, std_ulogic_vector, boolean];
  alias octal_read is oread [std.textio.line, std_ulogic_vector];
  procedure hread(l : inout std.textio.line; value : out std_ulogic_vector; good : out boolean);
  procedure hread(l : inout std.textio.line; value : out std_ulogic_vector);
  alias hex_read is hread [std.textio.line, std_ulogic_vector, boolean];
  alias hex_read is hread [std.textio.line, std_ulogic_vector];
  procedure owrite(l : inout std.textio.line; value : std_ulogic_vector; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias octal_write is owrite [std.textio.line, std_ulogic_vector, std.textio.side, std.textio.width];
  procedure hwrite(l : inout std.textio.line; value : std_ulogic_vector; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias hex_write is hwrite [std.textio.line, std_ulogic_vector, std.textio.side, std.textio.width];
end package;

package body std_logic_1164 is
  type table is array (std_ulogic, std_ulogic) of std_ulogic;
  constant resolution : table := (
    ('U', 'U', 'U', 'U', 'U', 'U', 'U', 'U', 'U'), ('U', 'X', 'X', 'X', 'X', 'X', 'X', 'X', 'X'), ('U', 'X', '0', 'X', '0', '0', '0', '0', 'X'),
    ('U', 'X', 'X', '1', '1', '1', '1', '1', 'X'), ('U', 'X', '0', '1', 'Z', 'W', 'L', 'H', 'X'), ('U', 'X', '0', '1', 'W', 'W', 'W', 'W', 'X'),
    ('U', 'X', '0', '1', 'L', 'W', 'L', 'W', 'X'), ('U', 'X', '0', '1', 'H', 'W', 'W', 'H', 'X'), ('U', 'X', 'X', 'X', 'X', 'X', 'X', 'X', 'X'));
  function resolved(s : std_ulogic_vector) return std_ulogic is
    variable r : std_ulogic := 'Z';
  begin
    if s'length = 1 then
      return s(s'low);
    end if;
    for i in s'range loop
      r := resolution(r, s(i));
    end loop;
    return r;
  end function;
  function "and"(l, r : std_ulogic) return ux01 is
  begin
    return x_logic1(l, r, 0);
  end function;
  function "or"(l, r : std_ulogic) return ux01 is
  begin
    return x_logic1(l, r, 1);
  end function;
  function "nand"(l, r : std_ulogic) return ux01 is
  begin
    return x_logic1(l, r, 2);
  end function;
  function "nor"(l, r : std_ulogic) return ux01 is
  begin
    return x_logic1(l, r, 3);
  end function;
  function "xor"(l, r : std_ulogic) return ux01 is
  begin
    return x_logic1(l, r, 4);
  end function;
  function "xnor"(l, r : std_ulogic) return ux01 is
  begin
    return x_logic1(l, r, 5);
  end function;
  function "not"(l : std_ulogic) return ux01 is
  begin
    return x_not1(l);
  end function;
  function "and"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic(l, r, 0, true);
  end function;
  function "and"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector is
  begin
    return x_logic_with(l, r, 0, true);
  end function;
  function "and"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic_with(r, l, 0, true);
  end function;
  function "and"(l : std_ulogic_vector) return std_ulogic is
  begin
    return x_reduce(l, 0, true);
  end function;
  function "or"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic(l, r, 1, true);
  end function;
  function "or"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector is
  begin
    return x_logic_with(l, r, 1, true);
  end function;
  function "or"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic_with(r, l, 1, true);
  end function;
  function "or"(l : std_ulogic_vector) return std_ulogic is
  begin
    return x_reduce(l, 1, true);
  end function;
  function "nand"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic(l, r, 2, true);
  end function;
  function "nand"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector is
  begin
    return x_logic_with(l, r, 2, true);
  end function;
  function "nand"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic_with(r, l, 2, true);
  end function;
  function "nand"(l : std_ulogic_vector) return std_ulogic is
  begin
    return x_reduce(l, 2, true);
  end function;
  function "nor"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic(l, r, 3, true);
  end function;
  function "nor"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector is
  begin
    return x_logic_with(l, r, 3, true);
  end function;
  function "nor"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic_with(r, l, 3, true);
  end function;
  function "nor"(l : std_ulogic_vector) return std_ulogic is
  begin
    return x_reduce(l, 3, true);
  end function;
  function "xor"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic(l, r, 4, true);
  end function;
  function "xor"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector is
  begin
    return x_logic_with(l, r, 4, true);
  end function;
  function "xor"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic_with(r, l, 4, true);
  end function;
  function "xor"(l : std_ulogic_vector) return std_ulogic is
  begin
    return x_reduce(l, 4, true);
  end function;
  function "xnor"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic(l, r, 5, true);
  end function;
  function "xnor"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector is
  begin
    return x_logic_with(l, r, 5, true);
  end function;
  function "xnor"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_logic_with(r, l, 5, true);
  end function;
  function "xnor"(l : std_ulogic_vector) return std_ulogic is
  begin
    return x_reduce(l, 5, true);
  end function;
  function "not"(l : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_not(l, true);
  end function;
  function "sll"(l : std_ulogic_vector; r : integer) return std_ulogic_vector is
    alias v : std_ulogic_vector(1 to l'length) is l;
    variable result : std_ulogic_vector(1 to l'length) := (others => '0');
  begin
    for i in result'range loop
      if i + (r) >= 1 and i + (r) <= l'length then
        result(i) := v(i + (r));
      end if;
    end loop;
    return result;
  end function;
  function "srl"(l : std_ulogic_vector; r : integer) return std_ulogic_vector is
    alias v : std_ulogic_vector(1 to l'length) is l;
    variable result : std_ulogic_vector(1 to l'length) := (others => '0');
  begin
    for i in result'range loop
      if i + (-r) >= 1 and i + (-r) <= l'length then
        result(i) := v(i + (-r));
      end if;
    end loop;
    return result;
  end function;
  function "rol"(l : std_ulogic_vector; r : integer) return std_ulogic_vector is
    alias v : std_ulogic_vector(1 to l'length) is l;
    variable result : std_ulogic_vector(1 to l'length);
  begin
    for i in result'range loop
      result(i) := v((i - 1 + (r)) mod l'length + 1);
    end loop;
    return result;
  end function;
  function "ror"(l : std_ulogic_vector; r : integer) return std_ulogic_vector is
    alias v : std_ulogic_vector(1 to l'length) is l;
    variable result : std_ulogic_vector(1 to l'length);
  begin
    for i in result'range loop
      result(i) := v((i - 1 + (-r)) mod l'length + 1);
    end loop;
    return result;
  end function;
  function to_bit(s : std_ulogic; xmap : bit := '0') return bit is
  begin
    case s is
      when '0' | 'L' => return '0';
      when '1' | 'H' => return '1';
      when others => return xmap;
    end case;
  end function;
  function to_bitvector(s : std_ulogic_vector; xmap : bit := '0') return bit_vector is
    alias v : std_ulogic_vector(s'length - 1 downto 0) is s;
    variable result : bit_vector(s'length - 1 downto 0);
  begin
    for i in result'range loop
      result(i) := to_bit(v(i), xmap);
    end loop;
    return result;
  end function;
  function to_stdulogic(b : bit) return std_ulogic is
  begin
    if b = '1' then
      return '1';
    end if;
    return '0';
  end function;
  function to_stdlogicvector(b : bit_vector) return std_logic_vector is
    alias v : bit_vector(b'length - 1 downto 0) is b;
    variable result : std_logic_vector(b'length - 1 downto 0);
  begin
    for i in result'range loop
      result(i) := to_stdulogic(v(i));
    end loop;
    return result;
  end function;
  function to_stdlogicvector(s : std_ulogic_vector) return std_logic_vector is
    alias v : std_logic_vector(s'length - 1 downto 0) is s;
  begin
    return v;
  end function;
  function to_stdulogicvector(s : std_logic_vector) return std_ulogic_vector is
  begin
    return to_stdlogicvector(s);
  end function;
  function to_stdulogicvector(b : bit_vector) return std_ulogic_vector is
  begin
    return to_stdlogicvector(b);
  end function;
  function to_x01(s : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_map(s, 0, '0');
  end function;
  function to_x01(s : std_ulogic) return x01 is
  begin
    return x_map1(s, 0);
  end function;
  function to_x01(b : bit_vector) return std_ulogic_vector is
  begin
    return to_stdlogicvector(b);
  end function;
  function to_x01(b : bit) return x01 is
  begin
    return to_stdulogic(b);
  end function;
  function to_x01z(s : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_map(s, 1, '0');
  end function;
  function to_x01z(s : std_ulogic) return x01z is
  begin
    return x_map1(s, 1);
  end function;
  function to_x01z(b : bit_vector) return std_ulogic_vector is
  begin
    return to_stdlogicvector(b);
  end function;
  function to_x01z(b : bit) return x01z is
  begin
    return to_stdulogic(b);
  end function;
  function to_ux01(s : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_map(s, 2, '0');
  end function;
  function to_ux01(s : std_ulogic) return ux01 is
  begin
    return x_map1(s, 2);
  end function;
  function to_ux01(b : bit_vector) return std_ulogic_vector is
  begin
    return to_stdlogicvector(b);
  end function;
  function to_ux01(b : bit) return ux01 is
  begin
    return to_stdulogic(b);
  end function;
  function to_01(s : std_ulogic_vector; xmap : std_ulogic := '0') return std_ulogic_vector is
    variable result : std_ulogic_vector(s'length - 1 downto 0);
    alias v : std_ulogic_vector(s'length - 1 downto 0) is s;
  begin
    for i in result'range loop
      case v(i) is
        when '0' | 'L' => result(i) := '0';
        when '1' | 'H' => result(i) := '1';
        when others => return (result'range => xmap);
      end case;
    end loop;
    return result;
  end function;
  function to_01(s : std_ulogic; xmap : std_ulogic := '0') return std_ulogic is
  begin
    case s is
      when '0' | 'L' => return '0';
      when '1' | 'H' => return '1';
      when others => return xmap;
    end case;
  end function;
  function "??"(l : std_ulogic) return boolean is
  begin
    return l = '1' or l = 'H';
  end function;
  function rising_edge(signal s : std_ulogic) return boolean is
  begin
    return s'event and to_x01(s) = '1' and to_x01(s'last_value) = '0';
  end function;
  function falling_edge(signal s : std_ulogic) return boolean is
  begin
    return s'event and to_x01(s) = '0' and to_x01(s'last_value) = '1';
  end function;
  function is_x(s : std_ulogic_vector) return boolean is
  begin
    return x_is_x(s);
  end function;
  function is_x(s : std_ulogic) return boolean is
  begin
    return not (s = '0' or s = '1' or s = 'L' or s = 'H');
  end function;
  function to_bstring(value : std_ulogic_vector) return string is
  begin
    return to_string(value);
  end function;
  function to_ostring(value : std_ulogic_vector) return string is
  begin
    return x_digits(value, 3, false, true);
  end function;
  function to_hstring(value : std_ulogic_vector) return string is
  begin
    return x_digits(value, 4, false, true);
  end function;
  procedure read(l : inout std.textio.line; value : out std_ulogic; good : out boolean) is
    variable v : std_ulogic_vector(1 to 1);
    variable ok : boolean;
  begin
    x_read_chars(l, v, "UX01ZWLH-", ok);
    good := ok;
    if ok then
      value := v(1);
    end if;
  end procedure;
  procedure read(l : inout std.textio.line; value : out std_ulogic) is
    variable ok : boolean;
  begin
    read(l, value, ok);
    assert ok report "read: there is no std_ulogic to read" severity error;
  end procedure;
  procedure write(l : inout std.textio.line; value : std_ulogic; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_string(value), justified, field);
  end procedure;
  procedure read(l : inout std.textio.line; value : out std_ulogic_vector; good : out boolean) is
  begin
    x_read_chars(l, value, "UX01ZWLH-", good);
  end procedure;
  procedure read(l : inout std.textio.line; value : out std_ulogic_vector) is
    variable ok : boolean;
  begin
    x_read_chars(l, value, "UX01ZWLH-", ok);
    assert ok report "read: there is no vector to read" severity error;
  end procedure;
  procedure write(l : inout std.textio.line; value : std_ulogic_vector; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_string(value), justified, field);
  end procedure;
  procedure oread(l : inout std.textio.line; value : out std_ulogic_vector; good : out boolean) is
  begin
    x_read_digits(l, value, 3, true, good);
  end procedure;
  procedure oread(l : inout std.textio.line; value : out std_ulogic_vector) is
    variable ok : boolean;
  begin
    x_read_digits(l, value, 3, true, ok);
    assert ok report "oread: there are no digits to read" severity error;
  end procedure;
  procedure hread(l : inout std.textio.line; value : out std_ulogic_vector; good : out boolean) is
  begin
    x_read_digits(l, value, 4, true, good);
  end procedure;
  procedure hread(l : inout std.textio.line; value : out std_ulogic_vector) is
    variable ok : boolean;
  begin
    x_read_digits(l, value, 4, true, ok);
    assert ok report "hread: there are no digits to read" severity error;
  end procedure;
  procedure owrite(l : inout std.textio.line; value : std_ulogic_vector; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_ostring(value), justified, field);
  end procedure;
  procedure hwrite(l : inout std.textio.line; value : std_ulogic_vector; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_hstring(value), justified, field);
  end procedure;
end package body;
