-- ieee.fixed_pkg (IEEE 1076-2008 16.10, annex G): numbers with a point in them. The point stands between the elements 0 and -1; all is done with
-- the vectors of numeric_std, wide enough that nothing is lost, and cut to what is asked for by `resize`.
--: table both: T / N / KIND / NUMBER / SIGN / STYLE
--:   unresolved_ufixed / unresolved_unsigned / ufixed / natural / false / unsigned
--:   unresolved_sfixed / unresolved_signed / sfixed / integer / true / signed
--: table mixed: PARAMS / T / L / R
--:   l : unresolved_ufixed; r : natural / unresolved_ufixed / l / to_ufixed(r, maximum(l'high, 0), 0)
--:   l : natural; r : unresolved_ufixed / unresolved_ufixed / to_ufixed(l, maximum(r'high, 0), 0) / r
--:   l : unresolved_ufixed; r : real / unresolved_ufixed / l / to_ufixed(r, l'high, l'low)
--:   l : real; r : unresolved_ufixed / unresolved_ufixed / to_ufixed(l, r'high, r'low) / r
--:   l : unresolved_sfixed; r : integer / unresolved_sfixed / l / to_sfixed(r, maximum(l'high, 0), 0)
--:   l : integer; r : unresolved_sfixed / unresolved_sfixed / to_sfixed(l, maximum(r'high, 0), 0) / r
--:   l : unresolved_sfixed; r : real / unresolved_sfixed / l / to_sfixed(r, l'high, l'low)
--:   l : real; r : unresolved_sfixed / unresolved_sfixed / to_sfixed(l, r'high, r'low) / r
--: part styles
overflow_style : fixed_overflow_style_type := fixed_overflow_style; round_style : fixed_round_style_type := fixed_round_style) return $T is
--: end
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use ieee.fixed_float_types.all;
package fixed_pkg is
  constant fixed_round_style : fixed_round_style_type := fixed_round;
  constant fixed_overflow_style : fixed_overflow_style_type := fixed_saturate;
  constant fixed_guard_bits : natural := 3;
  constant no_warning : boolean := false;
  type unresolved_ufixed is array (integer range <>) of std_ulogic;
  type unresolved_sfixed is array (integer range <>) of std_ulogic;
  alias u_ufixed is unresolved_ufixed;
  alias u_sfixed is unresolved_sfixed;
  subtype ufixed is (resolved) unresolved_ufixed;
  subtype sfixed is (resolved) unresolved_sfixed;
  constant x_no_ufixed : unresolved_ufixed(0 downto 1) := (others => '0');
  constant x_no_sfixed : unresolved_sfixed(0 downto 1) := (others => '0');
end package;

package body fixed_pkg is
  function x_any(arg : std_ulogic_vector) return boolean is
  begin
    for i in arg'range loop
      if arg(i) = '1' then
        return true;
      end if;
    end loop;
    return false;
  end function;
--: each both
  -- ---- bits and points ----
  function x_bits(arg : $T) return $N is
    subtype bits is $N(arg'length - 1 downto 0);
  begin
    return bits(arg);
  end function;
  function x_pointed(arg : $N; left_index, right_index : integer) return $T is
    subtype pointed is $T(left_index downto right_index);
  begin
    return pointed(arg);
  end function;
  -- The same number with the elements high downto low, none of which it lacks.
  function x_spread(arg : $T; high, low : integer) return $N is
  begin
    return shift_left(resize(x_bits(arg), high - low + 1), arg'low - low);
  end function;
  function x_unknown(left_index, right_index : integer) return $T is
    variable result : $T(left_index downto right_index) := (others => 'X');
  begin
    return result;
  end function;
  function is_x(arg : $T) return boolean is
  begin
    return is_x(std_ulogic_vector(x_bits(arg)));
  end function;
--: each NAME = to_x01 | to_x01z | to_ux01
  function $NAME(arg : $T) return $T is
  begin
    return x_pointed($N($NAME(std_ulogic_vector(x_bits(arg)))), arg'high, arg'low);
  end function;
--: end
  function to_01(s : $T; xmap : std_ulogic := '0') return $T is
  begin
    if s'length < 1 then
      return s;
    end if;
    return x_pointed(to_01(x_bits(s), xmap), s'high, s'low);
  end function;
  -- The largest number, or for sign '1' the least.
  function x_extreme(left_index, right_index : integer; sign : std_ulogic) return $T is
    variable result : $T(left_index downto right_index) := (others => not sign);
  begin
    if $SIGN then
      result(left_index) := sign;
    end if;
    return result;
  end function;
  function saturate(left_index, right_index : integer) return $T is
  begin
    return x_extreme(left_index, right_index, '0');
  end function;
  function saturate(size_res : $T) return $T is
  begin
    return saturate(size_res'high, size_res'low);
  end function;

  -- ---- to another size ----
  function resize(arg : $T; left_index, right_index : integer;
--: insert styles
    constant high : integer := maximum(arg'high, left_index) + 1;   -- there is room for a carry
    constant low : integer := minimum(arg'low, right_index);
    constant size : integer := left_index - right_index + 1;
    constant below : integer := right_index - low;
    variable wide : $N(high - low downto 0);
    variable cut : $N(high - right_index downto 0);
    variable top : std_ulogic := '0';
  begin
    if arg'length < 1 or size < 1 then
      return x_no_$KIND;
    elsif is_x(arg) then
      return x_unknown(left_index, right_index);
    end if;
    wide := x_spread(to_01(arg), high, low);
    cut := wide(wide'high downto below);
    if round_style = fixed_round and below > 0 then               -- to the nearest, of two to the even one
      if wide(below - 1) = '1' and (cut(0) = '1' or x_any(std_ulogic_vector(wide(below - 2 downto 0)))) then
        cut := cut + 1;
      end if;
    end if;
    if overflow_style = fixed_saturate then
      if $SIGN then
        top := cut(cut'high);
      end if;
      for i in size - boolean'pos($SIGN) to cut'high loop
        if cut(i) /= top then
          return x_extreme(left_index, right_index, top);
        end if;
      end loop;
    end if;
    return x_pointed(cut(size - 1 downto 0), left_index, right_index);
  end function;
  function resize(arg, size_res : $T;
--: insert styles
  begin
    return resize(arg, size_res'high, size_res'low, overflow_style, round_style);
  end function;

  -- ---- from other types ----
  function to_$KIND(arg : std_ulogic_vector; left_index, right_index : integer) return $T is
  begin
    return x_pointed($N(arg), left_index, right_index);
  end function;
  function to_$KIND(arg : std_ulogic_vector; size_res : $T) return $T is
  begin
    return to_$KIND(arg, size_res'high, size_res'low);
  end function;
  function to_$KIND(arg : $N) return $T is
  begin
    return x_pointed(arg, arg'length - 1, 0);
  end function;
  function to_$KIND(arg : $N; left_index : integer; right_index : integer := 0;
--: insert styles
  begin
    return resize(to_$KIND(arg), left_index, right_index, overflow_style, round_style);
  end function;
  function to_$KIND(arg : $N; size_res : $T;
--: insert styles
  begin
    return to_$KIND(arg, size_res'high, size_res'low, overflow_style, round_style);
  end function;
  function to_$KIND(arg : $NUMBER; left_index : integer; right_index : integer := 0;
--: insert styles
  begin
    return resize(to_$KIND(to_$STYLE(arg, 32)), left_index, right_index, overflow_style, round_style);
  end function;
  function to_$KIND(arg : $NUMBER; size_res : $T;
--: insert styles
  begin
    return to_$KIND(arg, size_res'high, size_res'low, overflow_style, round_style);
  end function;
--: part real_styles
left_index, right_index : integer; overflow_style : fixed_overflow_style_type := fixed_overflow_style;
                    round_style : fixed_round_style_type := fixed_round_style; guard_bits : natural := fixed_guard_bits) return $T is
--: end
  function to_$KIND(arg : real; size_res : $T; overflow_style : fixed_overflow_style_type := fixed_overflow_style;
                    round_style : fixed_round_style_type := fixed_round_style; guard_bits : natural := fixed_guard_bits) return $T is
  begin
    return to_$KIND(arg, size_res'high, size_res'low, overflow_style, round_style, guard_bits);
  end function;

  -- ---- to other types ----
--: each NAME = slv | std_logic_vector | stdlogicvector ;; RESULT = std_logic_vector | std_logic_vector | std_logic_vector
  function to_$NAME(arg : $T) return $RESULT is
  begin
    return $RESULT(x_bits(arg));
  end function;
--: end
--: each NAME = sulv | std_ulogic_vector | stdulogicvector
  function to_$NAME(arg : $T) return std_ulogic_vector is
  begin
    return std_ulogic_vector(x_bits(arg));
  end function;
--: end
  function to_$STYLE(arg : $T; size : natural; overflow_style : fixed_overflow_style_type := fixed_overflow_style;
                     round_style : fixed_round_style_type := fixed_round_style) return $N is
  begin
    return x_bits(resize(arg, size - 1, 0, overflow_style, round_style));
  end function;
  function to_$STYLE(arg : $T; size_res : $N; overflow_style : fixed_overflow_style_type := fixed_overflow_style;
                     round_style : fixed_round_style_type := fixed_round_style) return $N is
  begin
    return to_$STYLE(arg, size_res'length, overflow_style, round_style);
  end function;
  function to_integer(arg : $T; overflow_style : fixed_overflow_style_type := fixed_overflow_style;
                      round_style : fixed_round_style_type := fixed_round_style) return $NUMBER is
  begin
    if arg'length < 1 then
      assert no_warning report "FIXED_PKG.TO_INTEGER: null detected, returning 0" severity warning;
      return 0;
    elsif is_x(arg) then
      assert no_warning report "FIXED_PKG.TO_INTEGER: metavalue detected, returning 0" severity warning;
      return 0;
    end if;
    return to_integer(x_bits(resize(arg, maximum(arg'high + 1, 0), 0, overflow_style, round_style)));
  end function;
  function to_real(arg : $T) return real is
    variable result : real := 0.0;
    variable bits : $T(arg'high downto arg'low) := to_01(arg);
  begin
    if arg'length < 1 then
      assert no_warning report "FIXED_PKG.TO_REAL: null detected, returning 0.0" severity warning;
      return 0.0;
    elsif is_x(arg) then
      assert no_warning report "FIXED_PKG.TO_REAL: metavalue detected, returning 0.0" severity warning;
      return 0.0;
    end if;
    for i in bits'range loop
      if bits(i) = '1' then
        if $SIGN and i = bits'high then
          result := -(2.0 ** i);
        else
          result := result + 2.0 ** i;
        end if;
      end if;
    end loop;
    return result;
  end function;

  -- ---- arithmetic: the results have room for every value ----
--: each OP = + | -
  function "$OP"(l, r : $T) return $T is
    constant high : integer := maximum(l'high, r'high) + 1;
    constant low : integer := minimum(l'low, r'low);
  begin
    if l'length < 1 or r'length < 1 then
      return x_no_$KIND;
    elsif is_x(l) or is_x(r) then
      return x_unknown(high, low);
    end if;
    return x_pointed(x_spread(to_01(l), high, low) $OP x_spread(to_01(r), high, low), high, low);
  end function;
--: end
  function "*"(l, r : $T) return $T is
  begin
    if l'length < 1 or r'length < 1 then
      return x_no_$KIND;
    elsif is_x(l) or is_x(r) then
      return x_unknown(l'high + r'high + 1, l'low + r'low);
    end if;
    return x_pointed(x_bits(to_01(l)) * x_bits(to_01(r)), l'high + r'high + 1, l'low + r'low);
  end function;
  function divide(l, r : $T; round_style : fixed_round_style_type := fixed_round_style; guard_bits : natural := fixed_guard_bits) return $T is
    constant high : integer := l'high - r'low + boolean'pos($SIGN);
    constant low : integer := l'low - r'high - 1 + boolean'pos($SIGN);
    constant shift : natural := r'length - boolean'pos($SIGN) + guard_bits;
    variable quotient : $N(l'length + shift downto 0);
  begin
    if l'length < 1 or r'length < 1 then
      return x_no_$KIND;
    elsif is_x(l) or is_x(r) then
      return x_unknown(high, low);
    elsif not x_any(to_sulv(to_01(r))) then
      report "FIXED_PKG.DIVIDE: Division by zero" severity error;
      return saturate(high, low);
    end if;
    quotient := shift_left(resize(x_bits(to_01(l)), quotient'length), shift) / x_bits(to_01(r));
    return resize(x_pointed(quotient, low - guard_bits + quotient'high, low - guard_bits), high, low, fixed_wrap, round_style);
  end function;
  function reciprocal(arg : $T; round_style : fixed_round_style_type := fixed_round_style; guard_bits : natural := fixed_guard_bits) return $T is
    constant one : $T(boolean'pos($SIGN) downto 0) := (0 => '1', others => '0');
  begin
    if arg'length < 1 then
      return x_no_$KIND;
    end if;
    return resize(divide(one, arg, round_style, guard_bits), boolean'pos($SIGN) - arg'low, boolean'pos($SIGN) - 1 - arg'high, fixed_wrap, round_style);
  end function;
--: each NAME = remainder | modulo ;; OP = rem | mod
  function $NAME(l, r : $T; round_style : fixed_round_style_type := fixed_round_style; guard_bits : natural := fixed_guard_bits) return $T is
    constant high : integer := maximum(l'high, r'high);
    constant low : integer := minimum(l'low, r'low);
  begin
    if l'length < 1 or r'length < 1 then
      return x_no_$KIND;
    elsif is_x(l) or is_x(r) then
      return x_unknown(minimum(l'high, r'high), low);
    elsif not x_any(to_sulv(to_01(r))) then
      report "FIXED_PKG.$UPPER(NAME): Division by zero" severity error;
      return saturate(minimum(l'high, r'high), low);
    end if;
    return resize(x_pointed(x_spread(to_01(l), high, low) $OP x_spread(to_01(r), high, low), high, low), minimum(l'high, r'high), low, fixed_wrap, round_style);
  end function;
--: end
--: each OP = / | rem | mod ;; NAME = divide | remainder | modulo
  function "$OP"(l, r : $T) return $T is
  begin
    return $NAME(l, r);
  end function;
--: end
  procedure add_carry(l, r : in $T; c_in : in std_ulogic; result : out $T; c_out : out std_ulogic) is
    constant high : integer := maximum(l'high, r'high) + 1;
    constant low : integer := minimum(l'low, r'low);
    variable sum : $N(high - low downto 0) := (others => 'X');
    variable carry : $N(1 downto 0) := "00";
  begin
    if not (is_x(l) or is_x(r) or is_x(c_in)) then
      carry(0) := to_x01(c_in);
      sum := x_spread(to_01(l), high, low) + x_spread(to_01(r), high, low) + resize(carry, sum'length);
    end if;
    result := x_pointed(sum(sum'high - 1 downto 0), high - 1, low);
    c_out := sum(sum'high);
  end procedure;
  function scalb(y : $T; n : integer) return $T is
  begin
    if y'length < 1 then
      return x_no_$KIND;
    end if;
    return x_pointed(x_bits(y), y'high + n, y'low + n);
  end function;
  function scalb(y : $T; n : unresolved_signed) return $T is
  begin
    return scalb(y, to_integer(n));
  end function;

  -- ---- comparison ----
--: each OP = = | /= | < | <= | > | >= ;; ELSE = false | true | false | false | false | false
  function "$OP"(l, r : $T) return boolean is
    constant high : integer := maximum(l'high, r'high);
    constant low : integer := minimum(l'low, r'low);
  begin
    if l'length < 1 or r'length < 1 then
      assert no_warning report "FIXED_PKG.""$OP"": null detected, returning $UPPER(ELSE)" severity warning;
      return $ELSE;
    elsif is_x(l) or is_x(r) then
      assert no_warning report "FIXED_PKG.""$OP"": metavalue detected, returning $UPPER(ELSE)" severity warning;
      return $ELSE;
    end if;
    return x_spread(to_01(l), high, low) $OP x_spread(to_01(r), high, low);
  end function;
  function "?$OP"(l, r : $T) return std_ulogic is
    constant high : integer := maximum(l'high, r'high);
    constant low : integer := minimum(l'low, r'low);
  begin
    if l'length < 1 or r'length < 1 then
      assert no_warning report "FIXED_PKG.""?$OP"": null detected, returning X" severity warning;
      return 'X';
    end if;
    return x_spread(l, high, low) ?$OP x_spread(r, high, low);
  end function;
--: end
--: each NAME = minimum | maximum ;; OP = < | >
  function $NAME(l, r : $T) return $T is
    constant high : integer := maximum(l'high, r'high);
    constant low : integer := minimum(l'low, r'low);
  begin
    if l'length < 1 or r'length < 1 then
      return x_no_$KIND;
    elsif l $OP r then
      return resize(l, high, low);
    end if;
    return resize(r, high, low);
  end function;
--: end
  function std_match(l, r : $T) return boolean is
  begin
    if l'high /= r'high or l'low /= r'low then
      assert no_warning report "FIXED_PKG.STD_MATCH: L'RANGE /= R'RANGE, returning FALSE" severity warning;
      return false;
    end if;
    return std_match(x_bits(l), x_bits(r));
  end function;

  -- ---- bit by bit ----
  function "not"(l : $T) return $T is
  begin
    return x_pointed(not x_bits(l), l'high, l'low);
  end function;
--: each OP = and | or | nand | nor | xor | xnor
  function "$OP"(l, r : $T) return $T is
  begin
    if l'high /= r'high or l'low /= r'low then
      assert no_warning report "FIXED_PKG.""$OP"": Range error L'RANGE /= R'RANGE" severity warning;
      return x_unknown(l'high, l'low);
    end if;
    return x_pointed(x_bits(l) $OP x_bits(r), l'high, l'low);
  end function;
  function "$OP"(l : std_ulogic; r : $T) return $T is
  begin
    return x_pointed(l $OP x_bits(r), r'high, r'low);
  end function;
  function "$OP"(l : $T; r : std_ulogic) return $T is
  begin
    return x_pointed(x_bits(l) $OP r, l'high, l'low);
  end function;
  function "$OP"(l : $T) return std_ulogic is
  begin
    return $OP x_bits(l);
  end function;
--: end
--: each OP = sll | srl | rol | ror | sla | sra
  function "$OP"(arg : $T; count : integer) return $T is
  begin
    return x_pointed(x_bits(arg) $OP count, arg'high, arg'low);
  end function;
--: end
--: each NAME = shift_left | shift_right
  function $NAME(arg : $T; count : natural) return $T is
  begin
    return x_pointed($NAME(x_bits(arg), count), arg'high, arg'low);
  end function;
--: end
--: each NAME = leftmost | rightmost ;; NONE = low - 1 | high + 1
  function find_$NAME(arg : $T; y : std_ulogic) return integer is
    constant place : integer := find_$NAME(x_bits(arg), y);
  begin
    if place < 0 then
      return arg'$NONE;
    end if;
    return arg'low + place;
  end function;
--: end

  -- ---- the bounds of results ----
--: each NAME = high | low
  function $KIND_$NAME(left_index, right_index : integer; operation : character := 'X'; left_index2, right_index2 : integer := 0) return integer is
    constant most : integer := maximum(left_index, left_index2);
    constant least : integer := minimum(right_index, right_index2);
    constant s : integer := boolean'pos($SIGN);
    constant is_high : boolean := string'("$NAME") = "high";
  begin
    case operation is
      when '+' | '-' =>
        if is_high then return most + 1; else return least; end if;
      when '*' =>
        if is_high then return left_index + left_index2 + 1; else return right_index + right_index2; end if;
      when '/' =>
        if is_high then return left_index - right_index2 + s; else return right_index - left_index2 - 1 + s; end if;
      when '1' =>
        if is_high then return s - right_index; else return s - 1 - left_index; end if;
      when 'R' | 'r' | 'M' | 'm' =>
        if is_high then return minimum(left_index, left_index2); else return least; end if;
      when 'A' | 'a' | 'N' | 'n' =>
        if is_high then return left_index + s; else return right_index; end if;
      when others =>
        if is_high then return left_index; else return right_index; end if;
    end case;
  end function;
  function $KIND_$NAME(size_res : $T; operation : character := 'X'; size_res2 : $T) return integer is
  begin
    return $KIND_$NAME(size_res'high, size_res'low, operation, size_res2'high, size_res2'low);
  end function;
--: end

  -- ---- text: the point is written ----
  function to_string(value : $T) return string is
    variable bits : $N(value'length - 1 downto 0) := x_bits(value);
  begin
    if value'length < 1 then
      return "";
    elsif value'high < 0 then
      return to_string(resize(value, 0, value'low));
    elsif value'low >= 0 then
      return to_string(bits) & to_string($N'(bits'length to bits'length + value'low - 1 => '0')) & ".0";
    end if;
    return to_string(bits(bits'high downto -value'low)) & "." & to_string(bits(-value'low - 1 downto 0));
  end function;
  function to_bstring(value : $T) return string is
  begin
    return to_string(value);
  end function;
--: each NAME = to_ostring | to_hstring ;; EACH = 3 | 4
  function $NAME(value : $T) return string is
    constant whole : integer := maximum(value'high, 0);
    constant part : integer := minimum(value'low, -1);
    constant low : integer := -((-part + $EACH - 1) / $EACH * $EACH);
    variable bits : $N(whole - low downto 0) := x_spread(value, whole, low);
  begin
    if value'length < 1 then
      return "";
    end if;
    return $NAME(bits(bits'high downto -low)) & "." & $NAME(unresolved_unsigned(bits(-low - 1 downto 0)));
  end function;
--: end
--: each LONG = binary | octal | hex ;; SHORT = b | o | h
  alias to_$LONG_string is to_$SHORTstring [$T return string];
--: end
--: each NAME = write | owrite | hwrite ;; MADE = to_string | to_ostring | to_hstring
  procedure $NAME(l : inout std.textio.line; value : in $T; justified : in std.textio.side := std.textio.right; field : in std.textio.width := 0) is
  begin
    std.textio.write(l, $MADE(value), justified, field);
  end procedure;
--: end
--: each NAME = bwrite | binary_write | octal_write | hex_write ;; OF = write | write | owrite | hwrite
  alias $NAME is $OF [std.textio.line, $T, std.textio.side, std.textio.width];
--: end
  -- Elements from the left on, with a point between 0 and -1 or without one.
  procedure read(l : inout std.textio.line; value : out $T; good : out boolean) is
    constant letters : string := "UX01ZWLH-";
    variable c : character;
    variable ok, known : boolean;
    variable at : integer := value'high;
    variable pending : boolean := true;
  begin
    good := false;
    while at >= value'low loop
      std.textio.read(l, c, ok);
      if not ok then
        return;
      elsif pending and (c = ' ' or c = HT) then
        next;
      elsif (c = '.' and at = -1) or (c = '_' and not pending) then
        next;
      end if;
      pending := false;
      known := false;
      for k in letters'range loop
        if letters(k) = c then
          value(at) := std_ulogic'val(k - 1);
          known := true;
        end if;
      end loop;
      if not known then
        return;
      end if;
      at := at - 1;
    end loop;
    good := true;
  end procedure;
  procedure read(l : inout std.textio.line; value : out $T) is
    variable ok : boolean;
  begin
    read(l, value, ok);
    assert ok report "read: there is no number to read" severity error;
  end procedure;
--: each NAME = bread | binary_read
  alias $NAME is read [std.textio.line, $T, boolean];
  alias $NAME is read [std.textio.line, $T];
--: end
  function from_string(bstring : string; left_index, right_index : integer) return $T is
    variable result : $T(left_index downto right_index) := (others => 'X');
    variable l : std.textio.line := new string'(bstring);
    variable ok : boolean;
  begin
    read(l, result, ok);
    assert ok report "FIXED_PKG.FROM_STRING: " & bstring & " is no number of this size" severity error;
    std.textio.deallocate(l);
    return result;
  end function;
  function from_string(bstring : string; size_res : $T) return $T is
  begin
    return from_string(bstring, size_res'high, size_res'low);
  end function;
--: end
  -- ---- what only one of the types has ----
  function to_ufixed(arg : real;
--: each T = unresolved_ufixed
--: insert real_styles
--: end
    constant low : integer := right_index - guard_bits;
    variable high : integer := left_index + 1;
    variable rest : real := arg;
  begin
    if left_index < right_index then
      return x_no_ufixed;
    elsif arg < 0.0 then
      report "FIXED_PKG.TO_UFIXED: Negative argument passed " & real'image(arg) severity error;
      rest := 0.0;
    end if;
    while rest >= 2.0 ** high loop
      high := high + 1;
    end loop;
    return resize(x_pointed(x_binary(rest, high, low), high, low), left_index, right_index, overflow_style, round_style);
  end function;
  function to_sfixed(arg : real;
--: each T = unresolved_sfixed
--: insert real_styles
--: end
    constant size : unresolved_ufixed(left_index + 1 downto right_index) := (others => '0');
    variable magnitude : unresolved_sfixed(left_index + 3 downto right_index);
  begin
    if left_index < right_index then
      return x_no_sfixed;
    elsif overflow_style = fixed_saturate and (arg >= 2.0 ** left_index or arg < -(2.0 ** left_index)) then
      if arg < 0.0 then
        return x_extreme(left_index, right_index, '1');
      end if;
      return saturate(left_index, right_index);
    end if;
    magnitude := resize(to_sfixed(to_ufixed(abs arg, size, fixed_wrap, round_style, guard_bits)), magnitude);
    if arg < 0.0 then
      return resize(-magnitude, left_index, right_index, overflow_style, round_style);
    end if;
    return resize(magnitude, left_index, right_index, overflow_style, round_style);
  end function;
  -- The elements high downto low of a number below 2 ** high.
  function x_binary(arg : real; high, low : integer) return unresolved_unsigned is
    variable rest : real := arg;
    variable result : unresolved_unsigned(high - low downto 0) := (others => '0');
  begin
    for i in result'range loop
      if rest >= 2.0 ** (i + low) then
        result(i) := '1';
        rest := rest - 2.0 ** (i + low);
      end if;
    end loop;
    return result;
  end function;
  function to_sfixed(arg : unresolved_ufixed) return unresolved_sfixed is
    variable result : unresolved_sfixed(arg'high + 1 downto arg'low);
  begin
    if arg'length < 1 then
      return x_no_sfixed;
    end if;
    result := x_pointed(unresolved_signed('0' & x_bits(arg)), arg'high + 1, arg'low);
    return result;
  end function;
  function is_negative(arg : unresolved_sfixed) return boolean is
  begin
    return to_x01(arg(arg'high)) = '1';
  end function;
--: each OP = abs | -
  function "$OP"(arg : unresolved_sfixed) return unresolved_sfixed is
  begin
    if arg'length < 1 then
      return x_no_sfixed;
    elsif is_x(arg) then
      return x_unknown(arg'high + 1, arg'low);
    end if;
    return x_pointed($OP resize(x_bits(to_01(arg)), arg'length + 1), arg'high + 1, arg'low);
  end function;
--: end
  -- ---- with numbers of the language ----
--: each mixed
--: each OP = + | - | * | / | rem | mod
  function "$OP"($PARAMS) return $T is
  begin
    return $L $OP $R;
  end function;
--: end
--: each OP = = | /= | < | <= | > | >=
  function "$OP"($PARAMS) return boolean is
  begin
    return $L $OP $R;
  end function;
  function "?$OP"($PARAMS) return std_ulogic is
  begin
    return $L ?$OP $R;
  end function;
--: end
--: each NAME = minimum | maximum
  function $NAME($PARAMS) return $T is
  begin
    return $NAME($L, $R);
  end function;
--: end
--: end
end package body;
