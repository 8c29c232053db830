-- ieee.numeric_std_unsigned (IEEE 1076-2008 16.8.6). What begins with x_ is done by the run-time kernel.
--: include arithmetic V = std_ulogic_vector ;; B = std_ulogic ;; SIGN = false ;; NAMED = NUMERIC_STD_UNSIGNED
--: include matching
--: table mixed: PARAMS / L / R / OTHER / SIDE
--:   l : $V; r : natural / l / x_from_integer(r, l'length, true) / l / r
--:   l : natural; r : $V / x_from_integer(l, r'length, true) / r / r / l
--: table exact: PARAMS / L / R / OTHER
--:   l : $V; r : natural / l / x_from_integer(r, x_bits_of(r, l'length), true) / l
--:   l : natural; r : $V / x_from_integer(l, x_bits_of(l, r'length), true) / r / r
--: part complaint
      assert false report "$NAMED.""$OP"": metavalue detected, returning $UPPER(ELSE)" severity warning;
--: end
library ieee;
use ieee.std_logic_1164.all;
package numeric_std_unsigned is
--: insert kernel
  function x_fits(value, size : integer; is_signed : boolean) return boolean;
  function x_match(l, r : $V) return std_ulogic;
end package;

package body numeric_std_unsigned is
  function x_bits_of(value : natural; least : natural) return natural is
    variable n : natural := least;
  begin
    while n < 32 and not x_fits(value, n, false) loop
      n := n + 1;
    end loop;
    return n;
  end function;
  function to_stdlogicvector(arg, size : natural) return std_logic_vector is
  begin
    assert x_fits(arg, size, false) report "$NAMED.TO_STDLOGICVECTOR: vector truncated" severity warning;
    return x_from_integer(arg, size, true);
  end function;
  function to_stdulogicvector(arg, size : natural) return std_ulogic_vector is
  begin
    return to_stdlogicvector(arg, size);
  end function;
--: each KIND = logic | ulogic ;; LONG = std_logic | std_ulogic ;; SHORT = slv | sulv
  function to_std$KINDvector(arg : natural; size_res : std_ulogic_vector) return $LONG_vector is
  begin
    return to_stdlogicvector(arg, size_res'length);
  end function;
  alias to_$LONG_vector is to_std$KINDvector [natural, natural return $LONG_vector];
  alias to_$SHORT is to_std$KINDvector [natural, natural return $LONG_vector];
--: end
  function to_integer(arg : std_ulogic_vector) return natural is
  begin
    if arg'length < 1 then
      assert false report "$NAMED.TO_INTEGER: null detected, returning 0" severity warning;
      return 0;
    end if;
    if x_is_x(arg) then
      assert false report "$NAMED.TO_INTEGER: metavalue detected, returning 0" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, false, true);
  end function;
--: each OP = + | - ;; SUBTRACT = false | true
  function "$OP"(l, r : $V) return $V is
  begin
    return x_add(l, r, $SUBTRACT, false, true);
  end function;
--: each mixed
  function "$OP"($PARAMS) return $V is
  begin
    return x_add($L, $R, $SUBTRACT, false, true);
  end function;
--: end
--: each RESULT = $V ;; AS = 
--: insert one_bit
--: end
--: end
  function "*"(l, r : $V) return $V is
  begin
    return x_mul(l, r, false, true);
  end function;
--: each mixed
  function "*"($PARAMS) return $V is
  begin
    return x_mul($L, $R, false, true);
  end function;
--: end
--: each OP = / | rem | mod ;; WHAT = 0 | 1 | 2
  function "$OP"(l, r : $V) return $V is
  begin
    return x_div(l, r, $WHAT, false, true);
  end function;
--: each exact
  function "$OP"($PARAMS) return $V is
  begin
    return x_resize(x_div($L, $R, $WHAT, false, true), $OTHER'length, 0, true);
  end function;
--: end
--: end
--: each operators
--: each L = l ;; R = r
  function "$OP"(l, r : $V) return boolean is
--: insert compared
--: end
--: each exact
  function "$OP"($PARAMS) return boolean is
--: insert compared
--: end
--: end
--: each NAME = minimum | maximum ;; OP = < | >
  function $NAME(l, r : $V) return $V is
  begin
    if l $OP r then
      return l;
    end if;
    return r;
  end function;
--: each mixed
  function $NAME($PARAMS) return $V is
  begin
    return $NAME($L, $R);
  end function;
--: end
--: end
--: each OP = ?= | ?/= ;; NOT =  | not
--: each mixed
  function "$OP"($PARAMS) return std_ulogic is
  begin
    return $NOT x_match($L, $R);
  end function;
--: end
--: end
--: each OP = < | <= | > | >=
  function "?$OP"(l, r : $V) return std_ulogic is
  begin
--: each UNKNOWN = x_is_x(l) or x_is_x(r)
--: insert matched
--: end
--: each mixed
  function "?$OP"($PARAMS) return std_ulogic is
  begin
--: each UNKNOWN = x_is_x($OTHER)
--: insert matched
--: end
--: end
--: end
--: each NAME = shift_left | shift_right | rotate_left | rotate_right ;; WAY = 0 | 1 | 3 | 4
  function $NAME(arg : $V; count : natural) return $V is
  begin
    return x_shift(arg, count, $WAY, true);
  end function;
--: end
--: each OP = sla | sra ;; WAY = 0 | 1 ;; BACK = 1 | 0
  function "$OP"(arg : $V; count : integer) return $V is
  begin
    if count >= 0 then
      return x_shift(arg, count, $WAY, true);
    end if;
    return x_shift(arg, -count, $BACK, true);
  end function;
--: end
  function resize(arg : $V; new_size : natural) return $V is
  begin
    return x_resize(arg, new_size, 0, true);
  end function;
  function resize(arg, size_res : $V) return $V is
  begin
    return x_resize(arg, size_res'length, 0, true);
  end function;
--: each NAME = leftmost | rightmost ;; RANGE = range | reverse_range
  function find_$NAME(arg : $V; y : std_ulogic) return integer is
  begin
    for i in arg'$RANGE loop
      if (arg(i) ?= y) = '1' then
        return i;
      end if;
    end loop;
    return -1;
  end function;
--: end
end package body;
