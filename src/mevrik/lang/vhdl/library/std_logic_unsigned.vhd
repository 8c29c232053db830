-- std_logic_unsigned: arithmetic on std_logic_vector as it is widespread; no part of the standard.
library ieee;
use ieee.std_logic_1164.all;
package std_logic_unsigned is
  function x_add(l, r : std_logic_vector; subtract, is_signed, nine : boolean) return std_logic_vector;
  function x_mul(l, r : std_logic_vector; is_signed, nine : boolean) return std_logic_vector;
  function x_div(l, r : std_logic_vector; what : integer; is_signed, nine : boolean) return std_logic_vector;
  function x_order(l, r : std_logic_vector; is_signed, nine : boolean) return integer;
  function x_shift(l : std_logic_vector; count, how : integer; nine : boolean) return std_logic_vector;
  function x_resize(l : std_logic_vector; size, how : integer; nine : boolean) return std_logic_vector;
  function x_to_integer(l : std_logic_vector; is_signed, nine : boolean) return integer;
  function x_from_integer(value, size : integer; nine : boolean) return std_logic_vector;
  function x_negate(l : std_logic_vector; only_negative, nine : boolean) return std_logic_vector;
  function x_is_x(l : std_logic_vector) return boolean;
  function "+"(l, r : std_logic_vector) return std_logic_vector;
  function "+"(l : std_logic_vector; r : integer) return std_logic_vector;
  function "+"(l : integer; r : std_logic_vector) return std_logic_vector;
  function "+"(l : std_logic_vector; r : std_logic) return std_logic_vector;
  function "+"(l : std_logic; r : std_logic_vector) return std_logic_vector;
  function "-"(l, r : std_logic_vector) return std_logic_vector;
  function "-"(l : std_logic_vector; r : integer) return std_logic_vector;
  function "-"(l : integer; r : std_logic_vector) return std_logic_vector;
  function "-"(l : std_logic_vector; r : std_logic) return std_logic_vector;
  function "-"(l : std_logic; r : std_logic_vector) return std_logic_vector;
  function "+"(l : std_logic_vector) return std_logic_vector;
  function "*"(l, r : std_logic_vector) return std_logic_vector;
  function "<"(l, r : std_logic_vector) return boolean;
  function "<"(l : integer; r : std_logic_vector) return boolean;
  function "<"(l : std_logic_vector; r : integer) return boolean;
  function ">"(l, r : std_logic_vector) return boolean;
  function ">"(l : integer; r : std_logic_vector) return boolean;
  function ">"(l : std_logic_vector; r : integer) return boolean;
  function "<="(l, r : std_logic_vector) return boolean;
  function "<="(l : integer; r : std_logic_vector) return boolean;
  function "<="(l : std_logic_vector; r : integer) return boolean;
  function ">="(l, r : std_logic_vector) return boolean;
  function ">="(l : integer; r : std_logic_vector) return boolean;
  function ">="(l : std_logic_vector; r : integer) return boolean;
  function "="(l, r : std_logic_vector) return boolean;
  function "="(l : integer; r : std_logic_vector) return boolean;
  function "="(l : std_logic_vector; r : integer) return boolean;
  function "/="(l, r : std_logic_vector) return boolean;
  function "/="(l : integer; r : std_logic_vector) return boolean;
  function "/="(l : std_logic_vector; r : integer) return boolean;
  function shl(arg : std_logic_vector; count : std_logic_vector) return std_logic_vector;
  function shr(arg : std_logic_vector; count : std_logic_vector) return std_logic_vector;
  function conv_integer(arg : std_logic_vector) return integer;
end package;

package body std_logic_unsigned is
  function "+"(l, r : std_logic_vector) return std_logic_vector is
  begin
    return x_add(l, r, false, false, true);
  end function;
  function "+"(l : std_logic_vector; r : integer) return std_logic_vector is
  begin
    return x_add(l, x_from_integer(r, l'length, true), false, false, true);
  end function;
  function "+"(l : integer; r : std_logic_vector) return std_logic_vector is
  begin
    return x_add(x_from_integer(l, r'length, true), r, false, false, true);
  end function;
  function "+"(l : std_logic_vector; r : std_logic) return std_logic_vector is
    variable one : std_logic_vector(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return x_add(l, one, false, false, true);
  end function;
  function "+"(l : std_logic; r : std_logic_vector) return std_logic_vector is
    variable one : std_logic_vector(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return x_add(one, r, false, false, true);
  end function;
  function "-"(l, r : std_logic_vector) return std_logic_vector is
  begin
    return x_add(l, r, true, false, true);
  end function;
  function "-"(l : std_logic_vector; r : integer) return std_logic_vector is
  begin
    return x_add(l, x_from_integer(r, l'length, true), true, false, true);
  end function;
  function "-"(l : integer; r : std_logic_vector) return std_logic_vector is
  begin
    return x_add(x_from_integer(l, r'length, true), r, true, false, true);
  end function;
  function "-"(l : std_logic_vector; r : std_logic) return std_logic_vector is
    variable one : std_logic_vector(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return x_add(l, one, true, false, true);
  end function;
  function "-"(l : std_logic; r : std_logic_vector) return std_logic_vector is
    variable one : std_logic_vector(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return x_add(one, r, true, false, true);
  end function;
  function "+"(l : std_logic_vector) return std_logic_vector is
  begin
    return l;
  end function;
  function "*"(l, r : std_logic_vector) return std_logic_vector is
  begin
    return x_mul(l, r, false, true);
  end function;
  function "<"(l, r : std_logic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : integer; r : std_logic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, 32, true), r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : std_logic_vector; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, 32, true), false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function ">"(l, r : std_logic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : integer; r : std_logic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, 32, true), r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : std_logic_vector; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, 32, true), false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function "<="(l, r : std_logic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : integer; r : std_logic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, 32, true), r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : std_logic_vector; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, 32, true), false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function ">="(l, r : std_logic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : integer; r : std_logic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, 32, true), r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : std_logic_vector; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, 32, true), false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function "="(l, r : std_logic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : integer; r : std_logic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, 32, true), r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : std_logic_vector; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, 32, true), false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "/="(l, r : std_logic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : integer; r : std_logic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, 32, true), r, false, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : std_logic_vector; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, 32, true), false, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function shl(arg : std_logic_vector; count : std_logic_vector) return std_logic_vector is
  begin
    return x_shift(arg, conv_integer(count), 0, true);
  end function;
  function shr(arg : std_logic_vector; count : std_logic_vector) return std_logic_vector is
  begin
    return x_shift(arg, conv_integer(count), 1, true);
  end function;
  function conv_integer(arg : std_logic_vector) return integer is
  begin
    if x_is_x(arg) then
      assert false report "CONV_INTEGER: there is a metavalue in an arithmetic operand" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, false, true);
  end function;
end package body;
