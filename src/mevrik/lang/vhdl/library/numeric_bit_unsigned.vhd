-- ieee.numeric_bit_unsigned (IEEE 1076-2008 16.8.5.3): vectors of bits as numbers without a sign, by the operators of numeric_bit.
--: table forms: PARAMS / L / R
--:   l, r : bit_vector / unsigned(l) / unsigned(r)
--:   l : bit_vector; r : natural / unsigned(l) / r
--:   l : natural; r : bit_vector / l / unsigned(r)
library ieee;
use ieee.numeric_bit.all;
package numeric_bit_unsigned is
end package;

package body numeric_bit_unsigned is
--: each forms
--: each OP = + | - | * | / | rem | mod
  function "$OP"($PARAMS) return bit_vector is
  begin
    return bit_vector($L $OP $R);
  end function;
--: end
--: each OP = = | /= | < | <= | > | >=
  function "$OP"($PARAMS) return boolean is
  begin
    return $L $OP $R;
  end function;
  function "?$OP"($PARAMS) return bit is
  begin
    return $L ?$OP $R;
  end function;
--: end
--: each NAME = minimum | maximum
  function $NAME($PARAMS) return bit_vector is
  begin
    return bit_vector($NAME($L, $R));
  end function;
--: end
--: end
--: each OP = + | -
  function "$OP"(l : bit_vector; r : bit) return bit_vector is
  begin
    return bit_vector(unsigned(l) $OP r);
  end function;
  function "$OP"(l : bit; r : bit_vector) return bit_vector is
  begin
    return bit_vector(l $OP unsigned(r));
  end function;
--: end
--: each NAME = shift_left | shift_right | rotate_left | rotate_right
  function $NAME(arg : bit_vector; count : natural) return bit_vector is
  begin
    return bit_vector($NAME(unsigned(arg), count));
  end function;
--: end
  function resize(arg : bit_vector; new_size : natural) return bit_vector is
  begin
    return bit_vector(resize(unsigned(arg), new_size));
  end function;
  function resize(arg, size_res : bit_vector) return bit_vector is
  begin
    return resize(arg, size_res'length);
  end function;
  function to_integer(arg : bit_vector) return natural is
  begin
    return to_integer(unsigned(arg));
  end function;
  function to_bitvector(arg, size : natural) return bit_vector is
  begin
    return bit_vector(to_unsigned(arg, size));
  end function;
  function to_bitvector(arg : natural; size_res : bit_vector) return bit_vector is
  begin
    return to_bitvector(arg, size_res'length);
  end function;
--: each NAME = to_bit_vector | to_bv
  alias $NAME is to_bitvector [natural, natural return bit_vector];
  alias $NAME is to_bitvector [natural, bit_vector return bit_vector];
--: end
--: each NAME = leftmost | rightmost
  function find_$NAME(arg : bit_vector; y : bit) return integer is
  begin
    return find_$NAME(unsigned(arg), y);
  end function;
--: end
end package body;
