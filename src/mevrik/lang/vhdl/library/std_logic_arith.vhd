-- std_logic_arith: arithmetic as it is widespread; no part of the standard. Each operator gives its own type or std_logic_vector.
--: include arithmetic B = std_ulogic
--: table forms: PARAMS / T / SIGN / L / R
--:   l, r : unsigned / unsigned / false / l / r
--:   l, r : signed / signed / true / l / r
--:   l : unsigned; r : signed / signed / true / conv_signed(l, l'length + 1) / r
--:   l : signed; r : unsigned / signed / true / l / conv_signed(r, r'length + 1)
--: table with_integers: PARAMS / T / SIGN / L / R
--:   l : unsigned; r : integer / unsigned / false / l / conv_unsigned(r, l'length)
--:   l : integer; r : unsigned / unsigned / false / conv_unsigned(l, r'length) / r
--:   l : signed; r : integer / signed / true / l / conv_signed(r, l'length)
--:   l : integer; r : signed / signed / true / conv_signed(l, r'length) / r
--: table by_integers: PARAMS / SIGN / L / R
--:   l : unsigned; r : integer / true / conv_signed(l, l'length + 1) / conv_signed(r, 32)
--:   l : integer; r : unsigned / true / conv_signed(l, 32) / conv_signed(r, r'length + 1)
--:   l : signed; r : integer / true / l / conv_signed(r, 32)
--:   l : integer; r : signed / true / conv_signed(l, 32) / r
--: part complaint
--: end
library ieee;
use ieee.std_logic_1164.all;
package std_logic_arith is
  type unsigned is array (natural range <>) of std_logic;
  type signed is array (natural range <>) of std_logic;
  subtype small_int is integer range 0 to 1;
--: each V = unsigned | signed
--: insert kernel
--: end
  function x_resize(l : std_logic_vector; size, how : integer; nine : boolean) return std_logic_vector;
  function x_from_integer(value, size : integer; nine : boolean) return std_logic_vector;
end package;

package body std_logic_arith is
--: part sums
  function "$OP"($PARAMS) return $T is
  begin
    return x_add($L, $R, $SUBTRACT, $SIGN, true);
  end function;
  function "$OP"($PARAMS) return std_logic_vector is
  begin
    return std_logic_vector(x_add($L, $R, $SUBTRACT, $SIGN, true));
  end function;
--: end
--: each OP = + | - ;; SUBTRACT = false | true
--: each forms
--: insert sums
--: end
--: each with_integers
--: insert sums
--: end
--: each V = unsigned | signed
--: each RESULT = $V | std_logic_vector ;; AS =  | std_logic_vector
--: insert one_bit
--: end
--: end
--: end
--: each forms
  function "*"($PARAMS) return $T is
  begin
    return x_mul($L, $R, $SIGN, true);
  end function;
  function "*"($PARAMS) return std_logic_vector is
  begin
    return std_logic_vector(x_mul($L, $R, $SIGN, true));
  end function;
--: end
--: each T = unsigned | signed
  function "+"(l : $T) return $T is
  begin
    return l;
  end function;
  function "+"(l : $T) return std_logic_vector is
  begin
    return std_logic_vector(l);
  end function;
--: end
--: each OP = - | abs ;; ONLY = false | true
  function "$OP"(l : signed) return signed is
  begin
    return x_negate(l, $ONLY, true);
  end function;
  function "$OP"(l : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_negate(l, $ONLY, true));
  end function;
--: end
--: each operators
--: each forms
  function "$OP"($PARAMS) return boolean is
--: insert compared
--: end
--: each by_integers
  function "$OP"($PARAMS) return boolean is
--: insert compared
--: end
--: end
--: each T = unsigned | signed ;; RIGHT = 1 | 2
--: each NAME = shl | shr ;; WAY = 0 | $RIGHT
  function $NAME(arg : $T; count : unsigned) return $T is
  begin
    return x_shift(arg, conv_integer(count), $WAY, true);
  end function;
--: end
--: end
--: each V = unsigned | signed ;; SIGN = false | true
--: insert integer_of
--: end
  function conv_integer(arg : integer) return integer is
  begin
    return arg;
  end function;
  function conv_integer(arg : std_ulogic) return small_int is
  begin
    if arg = '1' or arg = 'H' then
      return 1;
    end if;
    return 0;
  end function;
--: each T = unsigned | signed | std_logic_vector
  function conv_$T(arg : integer; size : integer) return $T is
  begin
    return x_from_integer(arg, size, true);
  end function;
  function conv_$T(arg : unsigned; size : integer) return $T is
  begin
    return $T(unsigned'(x_resize(arg, size, 0, true)));
  end function;
  function conv_$T(arg : signed; size : integer) return $T is
  begin
    return $T(signed'(x_resize(arg, size, 1, true)));
  end function;
  function conv_$T(arg : std_ulogic; size : integer) return $T is
    variable result : $T(size - 1 downto 0) := (others => '0');
  begin
    result(0) := arg;
    return result;
  end function;
--: end
--: each NAME = ext | sxt ;; HOW = 0 | 1
  function $NAME(arg : std_logic_vector; size : integer) return std_logic_vector is
  begin
    return x_resize(arg, size, $HOW, true);
  end function;
--: end
end package body;
