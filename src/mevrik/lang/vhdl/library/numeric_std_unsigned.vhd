-- ieee.numeric_std_unsigned (IEEE 1076-2008 16.8.6). What begins with x_ is done by the run-time kernel.
library ieee;
use ieee.std_logic_1164.all;
package numeric_std_unsigned is
  function x_add(l, r : std_ulogic_vector; subtract, is_signed, nine : boolean) return std_ulogic_vector;
  function x_mul(l, r : std_ulogic_vector; is_signed, nine : boolean) return std_ulogic_vector;
  function x_div(l, r : std_ulogic_vector; what : integer; is_signed, nine : boolean) return std_ulogic_vector;
  function x_order(l, r : std_ulogic_vector; is_signed, nine : boolean) return integer;
  function x_shift(l : std_ulogic_vector; count, how : integer; nine : boolean) return std_ulogic_vector;
  function x_resize(l : std_ulogic_vector; size, how : integer; nine : boolean) return std_ulogic_vector;
  function x_to_integer(l : std_ulogic_vector; is_signed, nine : boolean) return integer;
  function x_from_integer(value, size : integer; nine : boolean) return std_ulogic_vector;
  function x_negate(l : std_ulogic_vector; only_negative, nine : boolean) return std_ulogic_vector;
  function x_is_x(l : std_ulogic_vector) return boolean;
  function x_fits(value, size : integer; is_signed : boolean) return boolean;
  function x_match(l, r : std_ulogic_vector) return std_ulogic;
  function bits_of(value : natural; least : natural) return natural;
  function to_stdlogicvector(arg, size : natural) return std_logic_vector;
  function to_stdlogicvector(arg : natural; size_res : std_ulogic_vector) return std_logic_vector;
  function to_stdulogicvector(arg, size : natural) return std_ulogic_vector;
  function to_stdulogicvector(arg : natural; size_res : std_ulogic_vector) return std_ulogic_vector;
  alias to_std_logic_vector is to_stdlogicvector [natural, natural return std_logic_vector];
  alias to_slv is to_stdlogicvector [natural, natural return std_logic_vector];
  alias to_std_ulogic_vector is to_stdulogicvector [natural, natural return std_ulogic_vector];
  alias to_sulv is to_stdulogicvector [natural, natural return std_ulogic_vector];
  function to_integer(arg : std_ulogic_vector) return natural;
  function "+"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "+"(l : std_ulogic_vector; r : natural) return std_ulogic_vector;
  function "+"(l : natural; r : std_ulogic_vector) return std_ulogic_vector;
  function "+"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector;
  function "+"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector;
  function "-"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "-"(l : std_ulogic_vector; r : natural) return std_ulogic_vector;
  function "-"(l : natural; r : std_ulogic_vector) return std_ulogic_vector;
  function "-"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector;
  function "-"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector;
  function "*"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "*"(l : std_ulogic_vector; r : natural) return std_ulogic_vector;
  function "*"(l : natural; r : std_ulogic_vector) return std_ulogic_vector;
  function "/"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "/"(l : std_ulogic_vector; r : natural) return std_ulogic_vector;
  function "/"(l : natural; r : std_ulogic_vector) return std_ulogic_vector;
  function "rem"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "rem"(l : std_ulogic_vector; r : natural) return std_ulogic_vector;
  function "rem"(l : natural; r : std_ulogic_vector) return std_ulogic_vector;
  function "mod"(l, r : std_ulogic_vector) return std_ulogic_vector;
  function "mod"(l : std_ulogic_vector; r : natural) return std_ulogic_vector;
  function "mod"(l : natural; r : std_ulogic_vector) return std_ulogic_vector;
  function "<"(l, r : std_ulogic_vector) return boolean;
  function "<"(l : natural; r : std_ulogic_vector) return boolean;
  function "<"(l : std_ulogic_vector; r : natural) return boolean;
  function ">"(l, r : std_ulogic_vector) return boolean;
  function ">"(l : natural; r : std_ulogic_vector) return boolean;
  function ">"(l : std_ulogic_vector; r : natural) return boolean;
  function "<="(l, r : std_ulogic_vector) return boolean;
  function "<="(l : natural; r : std_ulogic_vector) return boolean;
  function "<="(l : std_ulogic_vector; r : natural) return boolean;
  function ">="(l, r : std_ulogic_vector) return boolean;
  function ">="(l : natural; r : std_ulogic_vector) return boolean;
  function ">="(l : std_ulogic_vector; r : natural) return boolean;
  function "="(l, r : std_ulogic_vector) return boolean;
  function "="(l : natural; r : std_ulogic_vector) return boolean;
  function "="(l : std_ulogic_vector; r : natural) return boolean;
  function "/="(l, r : std_ulogic_vector) return boolean;
  function "/="(l : natural; r : std_ulogic_vector) return boolean;
  function "/="(l : std_ulogic_vector; r : natural) return boolean;
  function minimum(l, r : std_ulogic_vector) return std_ulogic_vector;
  function maximum(l, r : std_ulogic_vector) return std_ulogic_vector;
  function shift_left(arg : std_ulogic_vector; count : natural) return std_ulogic_vector;
  function shift_right(arg : std_ulogic_vector; count : natural) return std_ulogic_vector;
  function rotate_left(arg : std_ulogic_vector; count : natural) return std_ulogic_vector;
  function rotate_right(arg : std_ulogic_vector; count : natural) return std_ulogic_vector;
  function "sla"(arg : std_ulogic_vector; count : integer) return std_ulogic_vector;
  function "sra"(arg : std_ulogic_vector; count : integer) return std_ulogic_vector;
  function resize(arg : std_ulogic_vector; new_size : natural) return std_ulogic_vector;
  function resize(arg, size_res : std_ulogic_vector) return std_ulogic_vector;
  function find_leftmost(arg : std_ulogic_vector; y : std_ulogic) return integer;
  function find_rightmost(arg : std_ulogic_vector; y : std_ulogic) return integer;
end package;

package body numeric_std_unsigned is
  function bits_of(value : natural; least : natural) return natural is
    variable n : natural := least;
  begin
    while n < 32 and not x_fits(value, n, false) loop
      n := n + 1;
    end loop;
    return n;
  end function;
  function to_stdlogicvector(arg, size : natural) return std_logic_vector is
  begin
    assert x_fits(arg, size, false) report "NUMERIC_STD_UNSIGNED.TO_STDLOGICVECTOR: vector truncated" severity warning;
    return x_from_integer(arg, size, true);
  end function;
  function to_stdlogicvector(arg : natural; size_res : std_ulogic_vector) return std_logic_vector is
  begin
    return to_stdlogicvector(arg, size_res'length);
  end function;
  function to_stdulogicvector(arg, size : natural) return std_ulogic_vector is
  begin
    return to_stdlogicvector(arg, size);
  end function;
  function to_stdulogicvector(arg : natural; size_res : std_ulogic_vector) return std_ulogic_vector is
  begin
    return to_stdlogicvector(arg, size_res'length);
  end function;
  function to_integer(arg : std_ulogic_vector) return natural is
  begin
    if arg'length < 1 then
      assert false report "NUMERIC_STD_UNSIGNED.TO_INTEGER: null detected, returning 0" severity warning;
      return 0;
    end if;
    if x_is_x(arg) then
      assert false report "NUMERIC_STD_UNSIGNED.TO_INTEGER: metavalue detected, returning 0" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, false, true);
  end function;
  function "+"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_add(l, r, false, false, true);
  end function;
  function "+"(l : std_ulogic_vector; r : natural) return std_ulogic_vector is
  begin
    return x_add(l, x_from_integer(r, l'length, true), false, false, true);
  end function;
  function "+"(l : natural; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_add(x_from_integer(l, r'length, true), r, false, false, true);
  end function;
  function "+"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector is
    variable one : std_ulogic_vector(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return x_add(l, one, false, false, true);
  end function;
  function "+"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector is
    variable one : std_ulogic_vector(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return x_add(one, r, false, false, true);
  end function;
  function "-"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_add(l, r, true, false, true);
  end function;
  function "-"(l : std_ulogic_vector; r : natural) return std_ulogic_vector is
  begin
    return x_add(l, x_from_integer(r, l'length, true), true, false, true);
  end function;
  function "-"(l : natural; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_add(x_from_integer(l, r'length, true), r, true, false, true);
  end function;
  function "-"(l : std_ulogic_vector; r : std_ulogic) return std_ulogic_vector is
    variable one : std_ulogic_vector(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return x_add(l, one, true, false, true);
  end function;
  function "-"(l : std_ulogic; r : std_ulogic_vector) return std_ulogic_vector is
    variable one : std_ulogic_vector(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return x_add(one, r, true, false, true);
  end function;
  function "*"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_mul(l, r, false, true);
  end function;
  function "*"(l : std_ulogic_vector; r : natural) return std_ulogic_vector is
  begin
    return x_mul(l, x_from_integer(r, l'length, true), false, true);
  end function;
  function "*"(l : natural; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_mul(x_from_integer(l, r'length, true), r, false, true);
  end function;
  function "/"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_div(l, r, 0, false, true);
  end function;
  function "/"(l : std_ulogic_vector; r : natural) return std_ulogic_vector is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of(r, l'length), true), 0, false, true), l'length, 0, true);
  end function;
  function "/"(l : natural; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of(l, r'length), true), r, 0, false, true), r'length, 0, true);
  end function;
  function "rem"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_div(l, r, 1, false, true);
  end function;
  function "rem"(l : std_ulogic_vector; r : natural) return std_ulogic_vector is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of(r, l'length), true), 1, false, true), l'length, 0, true);
  end function;
  function "rem"(l : natural; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of(l, r'length), true), r, 1, false, true), r'length, 0, true);
  end function;
  function "mod"(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_div(l, r, 2, false, true);
  end function;
  function "mod"(l : std_ulogic_vector; r : natural) return std_ulogic_vector is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of(r, l'length), true), 2, false, true), l'length, 0, true);
  end function;
  function "mod"(l : natural; r : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of(l, r'length), true), r, 2, false, true), r'length, 0, true);
  end function;
  function "<"(l, r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""<"": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : natural; r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""<"": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : std_ulogic_vector; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of(r, l'length), true), false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""<"": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = -1;
  end function;
  function ">"(l, r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED."">"": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : natural; r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED."">"": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : std_ulogic_vector; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of(r, l'length), true), false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED."">"": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 1;
  end function;
  function "<="(l, r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""<="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : natural; r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""<="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : std_ulogic_vector; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of(r, l'length), true), false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""<="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o <= 0;
  end function;
  function ">="(l, r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED."">="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : natural; r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED."">="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : std_ulogic_vector; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of(r, l'length), true), false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED."">="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function "="(l, r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : natural; r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : std_ulogic_vector; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of(r, l'length), true), false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""="": metavalue detected, returning FALSE" severity warning;
      return false;
    end if;
    return o = 0;
  end function;
  function "/="(l, r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""/="": metavalue detected, returning TRUE" severity warning;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : natural; r : std_ulogic_vector) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""/="": metavalue detected, returning TRUE" severity warning;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : std_ulogic_vector; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of(r, l'length), true), false, true);
  begin
    if o >= 2 then
      assert false report "NUMERIC_STD_UNSIGNED.""/="": metavalue detected, returning TRUE" severity warning;
      return true;
    end if;
    return o /= 0;
  end function;
  function minimum(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    if l < r then
      return l;
    end if;
    return r;
  end function;
  function maximum(l, r : std_ulogic_vector) return std_ulogic_vector is
  begin
    if l > r then
      return l;
    end if;
    return r;
  end function;
  function shift_left(arg : std_ulogic_vector; count : natural) return std_ulogic_vector is
  begin
    return x_shift(arg, count, 0, true);
  end function;
  function shift_right(arg : std_ulogic_vector; count : natural) return std_ulogic_vector is
  begin
    return x_shift(arg, count, 1, true);
  end function;
  function rotate_left(arg : std_ulogic_vector; count : natural) return std_ulogic_vector is
  begin
    return x_shift(arg, count, 3, true);
  end function;
  function rotate_right(arg : std_ulogic_vector; count : natural) return std_ulogic_vector is
  begin
    return x_shift(arg, count, 4, true);
  end function;
  function "sla"(arg : std_ulogic_vector; count : integer) return std_ulogic_vector is
  begin
    if count >= 0 then
      return x_shift(arg, count, 0, true);
    end if;
    return x_shift(arg, -count, 1, true);
  end function;
  function "sra"(arg : std_ulogic_vector; count : integer) return std_ulogic_vector is
  begin
    if count >= 0 then
      return x_shift(arg, count, 1, true);
    end if;
    return x_shift(arg, -count, 0, true);
  end function;
  function resize(arg : std_ulogic_vector; new_size : natural) return std_ulogic_vector is
  begin
    return x_resize(arg, new_size, 0, true);
  end function;
  function resize(arg, size_res : std_ulogic_vector) return std_ulogic_vector is
  begin
    return x_resize(arg, size_res'length, 0, true);
  end function;
  function find_leftmost(arg : std_ulogic_vector; y : std_ulogic) return integer is
  begin
    for i in arg'range loop
      if (arg(i) ?= y) = '1' then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function find_rightmost(arg : std_ulogic_vector; y : std_ulogic) return integer is
  begin
    for i in arg'reverse_range loop
      if (arg(i) ?= y) = '1' then
        return i;
      end if;
    end loop;
    return -1;
  end function;
end package body;
