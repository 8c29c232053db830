-- ieee.numeric_bit (IEEE 1076-2008 16.8). What begins with x_ is done by the run-time kernel.
package numeric_bit is
  type unsigned is array (natural range <>) of bit;
  type signed is array (natural range <>) of bit;
  function x_add(l, r : unsigned; subtract, is_signed, nine : boolean) return unsigned;
  function x_negate(l : unsigned; only_negative, nine : boolean) return unsigned;
  function x_mul(l, r : unsigned; is_signed, nine : boolean) return unsigned;
  function x_div(l, r : unsigned; what : integer; is_signed, nine : boolean) return unsigned;
  function x_order(l, r : unsigned; is_signed, nine : boolean) return integer;
  function x_shift(l : unsigned; count, how : integer; nine : boolean) return unsigned;
  function x_resize(l : unsigned; size, how : integer; nine : boolean) return unsigned;
  function x_to_integer(l : unsigned; is_signed, nine : boolean) return integer;
  function x_logic(l, r : unsigned; op : integer; nine : boolean) return unsigned;
  function x_logic_with(l : unsigned; r : bit; op : integer; nine : boolean) return unsigned;
  function x_not(l : unsigned; nine : boolean) return unsigned;
  function x_reduce(l : unsigned; op : integer; nine : boolean) return bit;
  function x_down(l : unsigned) return unsigned;
  function x_digits(value : unsigned; bits : integer; signed : boolean; nine : boolean) return string;
  function x_from_integer(value, size : integer; nine : boolean) return unsigned;
  function x_add(l, r : signed; subtract, is_signed, nine : boolean) return signed;
  function x_negate(l : signed; only_negative, nine : boolean) return signed;
  function x_mul(l, r : signed; is_signed, nine : boolean) return signed;
  function x_div(l, r : signed; what : integer; is_signed, nine : boolean) return signed;
  function x_order(l, r : signed; is_signed, nine : boolean) return integer;
  function x_shift(l : signed; count, how : integer; nine : boolean) return signed;
  function x_resize(l : signed; size, how : integer; nine : boolean) return signed;
  function x_to_integer(l : signed; is_signed, nine : boolean) return integer;
  function x_logic(l, r : signed; op : integer; nine : boolean) return signed;
  function x_logic_with(l : signed; r : bit; op : integer; nine : boolean) return signed;
  function x_not(l : signed; nine : boolean) return signed;
  function x_reduce(l : signed; op : integer; nine : boolean) return bit;
  function x_down(l : signed) return signed;
  function x_digits(value : signed; bits : integer; signed : boolean; nine : boolean) return string;
  function x_from_integer(value, size : integer; nine : boolean) return signed;
  function x_fits(value, size : integer; is_signed : boolean) return boolean;
  constant no_warning : boolean := false;
  function "abs"(arg : signed) return signed;
  function "-"(arg : signed) return signed;
  function to_unsigned(arg, size : natural) return unsigned;
  function to_signed(arg : integer; size : natural) return signed;
  function to_unsigned(arg : natural; size_res : unsigned) return unsigned;
  function to_signed(arg : integer; size_res : signed) return signed;
  function to_integer(arg : unsigned) return natural;
  function to_integer(arg : signed) return integer;
  function "+"(l, r : unsigned) return unsigned;
  function "+"(l, r : signed) return signed;
  function "+"(l : unsigned; r : natural) return unsigned;
  function "+"(l : natural; r : unsigned) return unsigned;
  function "+"(l : signed; r : integer) return signed;
  function "+"(l : integer; r : signed) return signed;
  function "+"(l : unsigned; r : bit) return unsigned;
  function "+"(l : bit; r : unsigned) return unsigned;
  function "+"(l : signed; r : bit) return signed;
  function "+"(l : bit; r : signed) return signed;
  function "-"(l, r : unsigned) return unsigned;
  function "-"(l, r : signed) return signed;
  function "-"(l : unsigned; r : natural) return unsigned;
  function "-"(l : natural; r : unsigned) return unsigned;
  function "-"(l : signed; r : integer) return signed;
  function "-"(l : integer; r : signed) return signed;
  function "-"(l : unsigned; r : bit) return unsigned;
  function "-"(l : bit; r : unsigned) return unsigned;
  function "-"(l : signed; r : bit) return signed;
  function "-"(l : bit; r : signed) return signed;
  function "*"(l, r : unsigned) return unsigned;
  function "*"(l, r : signed) return signed;
  function "*"(l : unsigned; r : natural) return unsigned;
  function "*"(l : natural; r : unsigned) return unsigned;
  function "*"(l : signed; r : integer) return signed;
  function "*"(l : integer; r : signed) return signed;
  function bits_of_unsigned(value : natural; least : natural) return natural;
  function bits_of_signed(value : integer; least : natural) return natural;
  function "/"(l, r : unsigned) return unsigned;
  function "/"(l, r : signed) return signed;
  function "/"(l : unsigned; r : natural) return unsigned;
  function "/"(l : natural; r : unsigned) return unsigned;
  function "/"(l : signed; r : integer) return signed;
  function "/"(l : integer; r : signed) return signed;
  function "rem"(l, r : unsigned) return unsigned;
  function "rem"(l, r : signed) return signed;
  function "rem"(l : unsigned; r : natural) return unsigned;
  function "rem"(l : natural; r : unsigned) return unsigned;
  function "rem"(l : signed; r : integer) return signed;
  function "rem"(l : integer; r : signed) return signed;
  function "mod"(l, r : unsigned) return unsigned;
  function "mod"(l, r : signed) return signed;
  function "mod"(l : unsigned; r : natural) return unsigned;
  function "mod"(l : natural; r : unsigned) return unsigned;
  function "mod"(l : signed; r : integer) return signed;
  function "mod"(l : integer; r : signed) return signed;
  function "<"(l, r : unsigned) return boolean;
  function "<"(l, r : signed) return boolean;
  function "<"(l : natural; r : unsigned) return boolean;
  function "<"(l : unsigned; r : natural) return boolean;
  function "<"(l : integer; r : signed) return boolean;
  function "<"(l : signed; r : integer) return boolean;
  function ">"(l, r : unsigned) return boolean;
  function ">"(l, r : signed) return boolean;
  function ">"(l : natural; r : unsigned) return boolean;
  function ">"(l : unsigned; r : natural) return boolean;
  function ">"(l : integer; r : signed) return boolean;
  function ">"(l : signed; r : integer) return boolean;
  function "<="(l, r : unsigned) return boolean;
  function "<="(l, r : signed) return boolean;
  function "<="(l : natural; r : unsigned) return boolean;
  function "<="(l : unsigned; r : natural) return boolean;
  function "<="(l : integer; r : signed) return boolean;
  function "<="(l : signed; r : integer) return boolean;
  function ">="(l, r : unsigned) return boolean;
  function ">="(l, r : signed) return boolean;
  function ">="(l : natural; r : unsigned) return boolean;
  function ">="(l : unsigned; r : natural) return boolean;
  function ">="(l : integer; r : signed) return boolean;
  function ">="(l : signed; r : integer) return boolean;
  function "="(l, r : unsigned) return boolean;
  function "="(l, r : signed) return boolean;
  function "="(l : natural; r : unsigned) return boolean;
  function "="(l : unsigned; r : natural) return boolean;
  function "="(l : integer; r : signed) return boolean;
  function "="(l : signed; r : integer) return boolean;
  function "/="(l, r : unsigned) return boolean;
  function "/="(l, r : signed) return boolean;
  function "/="(l : natural; r : unsigned) return boolean;
  function "/="(l : unsigned; r : natural) return boolean;
  function "/="(l : integer; r : signed) return boolean;
  function "/="(l : signed; r : integer) return boolean;
  function minimum(l, r : unsigned) return unsigned;
  function minimum(l, r : signed) return signed;
  function minimum(l : natural; r : unsigned) return unsigned;
  function minimum(l : unsigned; r : natural) return unsigned;
  function minimum(l : integer; r : signed) return signed;
  function minimum(l : signed; r : integer) return signed;
  function maximum(l, r : unsigned) return unsigned;
  function maximum(l, r : signed) return signed;
  function maximum(l : natural; r : unsigned) return unsigned;
  function maximum(l : unsigned; r : natural) return unsigned;
  function maximum(l : integer; r : signed) return signed;
  function maximum(l : signed; r : integer) return signed;
  function shift_left(arg : unsigned; count : natural) return unsigned;
  function shift_left(arg : signed; count : natural) return signed;
  function shift_right(arg : unsigned; count : natural) return unsigned;
  function shift_right(arg : signed; count : natural) return signed;
  function rotate_left(arg : unsigned; count : natural) return unsigned;
  function rotate_left(arg : signed; count : natural) return signed;
  function rotate_right(arg : unsigned; count : natural) return unsigned;
  function rotate_right(arg : signed; count : natural) return signed;
  function "sll"(arg : unsigned; count : integer) return unsigned;
  function "sll"(arg : signed; count : integer) return signed;
  function "srl"(arg : unsigned; count : integer) return unsigned;
  function "srl"(arg : signed; count : integer) return signed;
  function "rol"(arg : unsigned; count : integer) return unsigned;
  function "rol"(arg : signed; count : integer) return signed;
  function "ror"(arg : unsigned; count : integer) return unsigned;
  function "ror"(arg : signed; count : integer) return signed;
  function "sla"(arg : unsigned; count : integer) return unsigned;
  function "sla"(arg : signed; count : integer) return signed;
  function "sra"(arg : unsigned; count : integer) return unsigned;
  function "sra"(arg : signed; count : integer) return signed;
  function resize(arg : unsigned; new_size : natural) return unsigned;
  function resize(arg, size_res : unsigned) return unsigned;
  function resize(arg : signed; new_size : natural) return signed;
  function resize(arg, size_res : signed) return signed;
  function longer(l, r : natural) return natural;
  function "not"(l : unsigned) return unsigned;
  function "and"(l, r : unsigned) return unsigned;
  function "and"(l : bit; r : unsigned) return unsigned;
  function "and"(l : unsigned; r : bit) return unsigned;
  function "and"(l : unsigned) return bit;
  function "or"(l, r : unsigned) return unsigned;
  function "or"(l : bit; r : unsigned) return unsigned;
  function "or"(l : unsigned; r : bit) return unsigned;
  function "or"(l : unsigned) return bit;
  function "nand"(l, r : unsigned) return unsigned;
  function "nand"(l : bit; r : unsigned) return unsigned;
  function "nand"(l : unsigned; r : bit) return unsigned;
  function "nand"(l : unsigned) return bit;
  function "nor"(l, r : unsigned) return unsigned;
  function "nor"(l : bit; r : unsigned) return unsigned;
  function "nor"(l : unsigned; r : bit) return unsigned;
  function "nor"(l : unsigned) return bit;
  function "xor"(l, r : unsigned) return unsigned;
  function "xor"(l : bit; r : unsigned) return unsigned;
  function "xor"(l : unsigned; r : bit) return unsigned;
  function "xor"(l : unsigned) return bit;
  function "xnor"(l, r : unsigned) return unsigned;
  function "xnor"(l : bit; r : unsigned) return unsigned;
  function "xnor"(l : unsigned; r : bit) return unsigned;
  function "xnor"(l : unsigned) return bit;
  function find_leftmost(arg : unsigned; y : bit) return integer;
  function find_rightmost(arg : unsigned; y : bit) return integer;
  function "not"(l : signed) return signed;
  function "and"(l, r : signed) return signed;
  function "and"(l : bit; r : signed) return signed;
  function "and"(l : signed; r : bit) return signed;
  function "and"(l : signed) return bit;
  function "or"(l, r : signed) return signed;
  function "or"(l : bit; r : signed) return signed;
  function "or"(l : signed; r : bit) return signed;
  function "or"(l : signed) return bit;
  function "nand"(l, r : signed) return signed;
  function "nand"(l : bit; r : signed) return signed;
  function "nand"(l : signed; r : bit) return signed;
  function "nand"(l : signed) return bit;
  function "nor"(l, r : signed) return signed;
  function "nor"(l : bit; r : signed) return signed;
  function "nor"(l : signed; r : bit) return signed;
  function "nor"(l : signed) return bit;
  function "xor"(l, r : signed) return signed;
  function "xor"(l : bit; r : signed) return signed;
  function "xor"(l : signed; r : bit) return signed;
  function "xor"(l : signed) return bit;
  function "xnor"(l, r : signed) return signed;
  function "xnor"(l : bit; r : signed) return signed;
  function "xnor"(l : signed; r : bit) return signed;
  function "xnor"(l : signed) return bit;
  function find_leftmost(arg : signed; y : bit) return integer;
  function find_rightmost(arg : signed; y : bit) return integer;
  function to_bstring(value : unsigned) return string;
  function to_ostring(value : unsigned) return string;
  function to_hstring(value : unsigned) return string;
  alias to_binary_string is to_bstring [unsigned return string];
  alias to_octal_string is to_ostring [unsigned return string];
  alias to_hex_string is to_hstring [unsigned return string];
  function to_bstring(value : signed) return string;
  function to_ostring(value : signed) return string;
  function to_hstring(value : signed) return string;
  alias to_binary_string is to_bstring [signed return string];
  alias to_octal_string is to_ostring [signed return string];
  alias to_hex_string is to_hstring [signed return string];
end package;

package body numeric_bit is
  function "abs"(arg : signed) return signed is
  begin
    return x_negate(arg, true, false);
  end function;
  function "-"(arg : signed) return signed is
  begin
    return x_negate(arg, false, false);
  end function;
  function to_unsigned(arg, size : natural) return unsigned is
  begin
    assert x_fits(arg, size, false) or no_warning report "NUMERIC_BIT.TO_UNSIGNED: vector truncated" severity warning;
    return x_from_integer(arg, size, false);
  end function;
  function to_signed(arg : integer; size : natural) return signed is
  begin
    assert x_fits(arg, size, true) or no_warning report "NUMERIC_BIT.TO_SIGNED: vector truncated" severity warning;
    return x_from_integer(arg, size, false);
  end function;
  function to_unsigned(arg : natural; size_res : unsigned) return unsigned is
  begin
    return to_unsigned(arg, size_res'length);
  end function;
  function to_signed(arg : integer; size_res : signed) return signed is
  begin
    return to_signed(arg, size_res'length);
  end function;
  function to_integer(arg : unsigned) return natural is
  begin
    if arg'length < 1 then
      assert no_warning report "NUMERIC_BIT.TO_INTEGER: null detected, returning 0" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, false, false);
  end function;
  function to_integer(arg : signed) return integer is
  begin
    if arg'length < 1 then
      assert no_warning report "NUMERIC_BIT.TO_INTEGER: null detected, returning 0" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, true, false);
  end function;
  function "+"(l, r : unsigned) return unsigned is
  begin
    return x_add(l, r, false, false, false);
  end function;
  function "+"(l, r : signed) return signed is
  begin
    return x_add(l, r, false, true, false);
  end function;
  function "+"(l : unsigned; r : natural) return unsigned is
  begin
    return x_add(l, to_unsigned(r, l'length), false, false, false);
  end function;
  function "+"(l : natural; r : unsigned) return unsigned is
  begin
    return x_add(to_unsigned(l, r'length), r, false, false, false);
  end function;
  function "+"(l : signed; r : integer) return signed is
  begin
    return x_add(l, to_signed(r, l'length), false, true, false);
  end function;
  function "+"(l : integer; r : signed) return signed is
  begin
    return x_add(to_signed(l, r'length), r, false, true, false);
  end function;
  function "+"(l : unsigned; r : bit) return unsigned is
    variable one : unsigned(l'length - 1 downto 0) := (others => '0');
  begin
    if l'length > 0 then
      one(0) := r;
    end if;
    return x_add(l, one, false, false, false);
  end function;
  function "+"(l : bit; r : unsigned) return unsigned is
    variable one : unsigned(r'length - 1 downto 0) := (others => '0');
  begin
    if r'length > 0 then
      one(0) := l;
    end if;
    return x_add(one, r, false, false, false);
  end function;
  function "+"(l : signed; r : bit) return signed is
    variable one : signed(l'length - 1 downto 0) := (others => '0');
  begin
    if l'length > 0 then
      one(0) := r;
    end if;
    return x_add(l, one, false, false, false);
  end function;
  function "+"(l : bit; r : signed) return signed is
    variable one : signed(r'length - 1 downto 0) := (others => '0');
  begin
    if r'length > 0 then
      one(0) := l;
    end if;
    return x_add(one, r, false, false, false);
  end function;
  function "-"(l, r : unsigned) return unsigned is
  begin
    return x_add(l, r, true, false, false);
  end function;
  function "-"(l, r : signed) return signed is
  begin
    return x_add(l, r, true, true, false);
  end function;
  function "-"(l : unsigned; r : natural) return unsigned is
  begin
    return x_add(l, to_unsigned(r, l'length), true, false, false);
  end function;
  function "-"(l : natural; r : unsigned) return unsigned is
  begin
    return x_add(to_unsigned(l, r'length), r, true, false, false);
  end function;
  function "-"(l : signed; r : integer) return signed is
  begin
    return x_add(l, to_signed(r, l'length), true, true, false);
  end function;
  function "-"(l : integer; r : signed) return signed is
  begin
    return x_add(to_signed(l, r'length), r, true, true, false);
  end function;
  function "-"(l : unsigned; r : bit) return unsigned is
    variable one : unsigned(l'length - 1 downto 0) := (others => '0');
  begin
    if l'length > 0 then
      one(0) := r;
    end if;
    return x_add(l, one, true, false, false);
  end function;
  function "-"(l : bit; r : unsigned) return unsigned is
    variable one : unsigned(r'length - 1 downto 0) := (others => '0');
  begin
    if r'length > 0 then
      one(0) := l;
    end if;
    return x_add(one, r, true, false, false);
  end function;
  function "-"(l : signed; r : bit) return signed is
    variable one : signed(l'length - 1 downto 0) := (others => '0');
  begin
    if l'length > 0 then
      one(0) := r;
    end if;
    return x_add(l, one, true, false, false);
  end function;
  function "-"(l : bit; r : signed) return signed is
    variable one : signed(r'length - 1 downto 0) := (others => '0');
  begin
    if r'length > 0 then
      one(0) := l;
    end if;
    return x_add(one, r, true, false, false);
  end function;
  function "*"(l, r : unsigned) return unsigned is
  begin
    return x_mul(l, r, false, false);
  end function;
  function "*"(l, r : signed) return signed is
  begin
    return x_mul(l, r, true, false);
  end function;
  function "*"(l : unsigned; r : natural) return unsigned is
  begin
    return x_mul(l, to_unsigned(r, l'length), false, false);
  end function;
  function "*"(l : natural; r : unsigned) return unsigned is
  begin
    return x_mul(to_unsigned(l, r'length), r, false, false);
  end function;
  function "*"(l : signed; r : integer) return signed is
  begin
    return x_mul(l, to_signed(r, l'length), true, false);
  end function;
  function "*"(l : integer; r : signed) return signed is
  begin
    return x_mul(to_signed(l, r'length), r, true, false);
  end function;
  function bits_of_unsigned(value : natural; least : natural) return natural is
    variable n : natural := least;
  begin
    while n < 32 and not x_fits(value, n, false) loop
      n := n + 1;
    end loop;
    return n;
  end function;
  function bits_of_signed(value : integer; least : natural) return natural is
    variable n : natural := least;
  begin
    while n < 33 and not x_fits(value, n, true) loop
      n := n + 1;
    end loop;
    return n;
  end function;
  function "/"(l, r : unsigned) return unsigned is
  begin
    return x_div(l, r, 0, false, false);
  end function;
  function "/"(l, r : signed) return signed is
  begin
    return x_div(l, r, 0, true, false);
  end function;
  function "/"(l : unsigned; r : natural) return unsigned is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), 0, false, false), l'length, 0, false);
  end function;
  function "/"(l : natural; r : unsigned) return unsigned is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, 0, false, false), r'length, 0, false);
  end function;
  function "/"(l : signed; r : integer) return signed is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_signed(r, l'length), false), 0, true, false), l'length, 1, false);
  end function;
  function "/"(l : integer; r : signed) return signed is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_signed(l, r'length), false), r, 0, true, false), r'length, 1, false);
  end function;
  function "rem"(l, r : unsigned) return unsigned is
  begin
    return x_div(l, r, 1, false, false);
  end function;
  function "rem"(l, r : signed) return signed is
  begin
    return x_div(l, r, 1, true, false);
  end function;
  function "rem"(l : unsigned; r : natural) return unsigned is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), 1, false, false), l'length, 0, false);
  end function;
  function "rem"(l : natural; r : unsigned) return unsigned is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, 1, false, false), r'length, 0, false);
  end function;
  function "rem"(l : signed; r : integer) return signed is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_signed(r, l'length), false), 1, true, false), l'length, 1, false);
  end function;
  function "rem"(l : integer; r : signed) return signed is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_signed(l, r'length), false), r, 1, true, false), r'length, 1, false);
  end function;
  function "mod"(l, r : unsigned) return unsigned is
  begin
    return x_div(l, r, 2, false, false);
  end function;
  function "mod"(l, r : signed) return signed is
  begin
    return x_div(l, r, 2, true, false);
  end function;
  function "mod"(l : unsigned; r : natural) return unsigned is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), 2, false, false), l'length, 0, false);
  end function;
  function "mod"(l : natural; r : unsigned) return unsigned is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, 2, false, false), r'length, 0, false);
  end function;
  function "mod"(l : signed; r : integer) return signed is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_signed(r, l'length), false), 2, true, false), l'length, 1, false);
  end function;
  function "mod"(l : integer; r : signed) return signed is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_signed(l, r'length), false), r, 2, true, false), r'length, 1, false);
  end function;
  function "<"(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : natural; r : unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : integer; r : signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), false), r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), false), true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function ">"(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : natural; r : unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : integer; r : signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), false), r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), false), true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function "<="(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : natural; r : unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : integer; r : signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), false), r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), false), true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function ">="(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : natural; r : unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : integer; r : signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), false), r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), false), true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function "="(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : natural; r : unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : integer; r : signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), false), r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), false), true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "/="(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : natural; r : unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), false), r, false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), false), false, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : integer; r : signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), false), r, true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), false), true, false);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_BIT.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_BIT.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function minimum(l, r : unsigned) return unsigned is
  begin
    if l < r then
      return resize(l, longer(l'length, r'length));
    end if;
    return resize(r, longer(l'length, r'length));
  end function;
  function minimum(l, r : signed) return signed is
  begin
    if l < r then
      return resize(l, longer(l'length, r'length));
    end if;
    return resize(r, longer(l'length, r'length));
  end function;
  function minimum(l : natural; r : unsigned) return unsigned is
  begin
    return minimum(to_unsigned(l, r'length), r);
  end function;
  function minimum(l : unsigned; r : natural) return unsigned is
  begin
    return minimum(l, to_unsigned(r, l'length));
  end function;
  function minimum(l : integer; r : signed) return signed is
  begin
    return minimum(to_signed(l, r'length), r);
  end function;
  function minimum(l : signed; r : integer) return signed is
  begin
    return minimum(l, to_signed(r, l'length));
  end function;
  function maximum(l, r : unsigned) return unsigned is
  begin
    if l > r then
      return resize(l, longer(l'length, r'length));
    end if;
    return resize(r, longer(l'length, r'length));
  end function;
  function maximum(l, r : signed) return signed is
  begin
    if l > r then
      return resize(l, longer(l'length, r'length));
    end if;
    return resize(r, longer(l'length, r'length));
  end function;
  function maximum(l : natural; r : unsigned) return unsigned is
  begin
    return maximum(to_unsigned(l, r'length), r);
  end function;
  function maximum(l : unsigned; r : natural) return unsigned is
  begin
    return maximum(l, to_unsigned(r, l'length));
  end function;
  function maximum(l : integer; r : signed) return signed is
  begin
    return maximum(to_signed(l, r'length), r);
  end function;
  function maximum(l : signed; r : integer) return signed is
  begin
    return maximum(l, to_signed(r, l'length));
  end function;
  function shift_left(arg : unsigned; count : natural) return unsigned is
  begin
    return x_shift(arg, count, 0, false);
  end function;
  function shift_left(arg : signed; count : natural) return signed is
  begin
    return x_shift(arg, count, 0, false);
  end function;
  function shift_right(arg : unsigned; count : natural) return unsigned is
  begin
    return x_shift(arg, count, 1, false);
  end function;
  function shift_right(arg : signed; count : natural) return signed is
  begin
    return x_shift(arg, count, 2, false);
  end function;
  function rotate_left(arg : unsigned; count : natural) return unsigned is
  begin
    return x_shift(arg, count, 3, false);
  end function;
  function rotate_left(arg : signed; count : natural) return signed is
  begin
    return x_shift(arg, count, 3, false);
  end function;
  function rotate_right(arg : unsigned; count : natural) return unsigned is
  begin
    return x_shift(arg, count, 4, false);
  end function;
  function rotate_right(arg : signed; count : natural) return signed is
  begin
    return x_shift(arg, count, 4, false);
  end function;
  function "sll"(arg : unsigned; count : integer) return unsigned is
  begin
    if count >= 0 then
      return shift_left(arg, count);
    end if;
    return shift_right(arg, -count);
  end function;
  function "sll"(arg : signed; count : integer) return signed is
  begin
    if count >= 0 then
      return x_shift(arg, count, 0, false);
    end if;
    return x_shift(arg, -count, 1, false);
  end function;
  function "srl"(arg : unsigned; count : integer) return unsigned is
  begin
    if count >= 0 then
      return shift_right(arg, count);
    end if;
    return shift_left(arg, -count);
  end function;
  function "srl"(arg : signed; count : integer) return signed is
  begin
    if count >= 0 then
      return x_shift(arg, count, 1, false);
    end if;
    return x_shift(arg, -count, 0, false);
  end function;
  function "rol"(arg : unsigned; count : integer) return unsigned is
  begin
    if count >= 0 then
      return rotate_left(arg, count);
    end if;
    return rotate_right(arg, -count);
  end function;
  function "rol"(arg : signed; count : integer) return signed is
  begin
    if count >= 0 then
      return rotate_left(arg, count);
    end if;
    return rotate_right(arg, -count);
  end function;
  function "ror"(arg : unsigned; count : integer) return unsigned is
  begin
    if count >= 0 then
      return rotate_right(arg, count);
    end if;
    return rotate_left(arg, -count);
  end function;
  function "ror"(arg : signed; count : integer) return signed is
  begin
    if count >= 0 then
      return rotate_right(arg, count);
    end if;
    return rotate_left(arg, -count);
  end function;
  function "sla"(arg : unsigned; count : integer) return unsigned is
  begin
    if count >= 0 then
      return shift_left(arg, count);
    end if;
    return shift_right(arg, -count);
  end function;
  function "sla"(arg : signed; count : integer) return signed is
  begin
    if count >= 0 then
      return shift_left(arg, count);
    end if;
    return shift_right(arg, -count);
  end function;
  function "sra"(arg : unsigned; count : integer) return unsigned is
  begin
    if count >= 0 then
      return shift_right(arg, count);
    end if;
    return shift_left(arg, -count);
  end function;
  function "sra"(arg : signed; count : integer) return signed is
  begin
    if count >= 0 then
      return shift_right(arg, count);
    end if;
    return shift_left(arg, -count);
  end function;
  function resize(arg : unsigned; new_size : natural) return unsigned is
  begin
    return x_resize(arg, new_size, 0, false);
  end function;
  function resize(arg, size_res : unsigned) return unsigned is
  begin
    return x_resize(arg, size_res'length, 0, false);
  end function;
  function resize(arg : signed; new_size : natural) return signed is
  begin
    return x_resize(arg, new_size, 1, false);
  end function;
  function resize(arg, size_res : signed) return signed is
  begin
    return x_resize(arg, size_res'length, 1, false);
  end function;
  function longer(l, r : natural) return natural is
  begin
    if l > r then
      return l;
    end if;
    return r;
  end function;
  function "not"(l : unsigned) return unsigned is
  begin
    return x_down(x_not(l, false));
  end function;
  function "and"(l, r : unsigned) return unsigned is
  begin
    return x_down(x_logic(l, r, 0, false));
  end function;
  function "and"(l : bit; r : unsigned) return unsigned is
  begin
    return x_down(x_logic_with(r, l, 0, false));
  end function;
  function "and"(l : unsigned; r : bit) return unsigned is
  begin
    return x_down(x_logic_with(l, r, 0, false));
  end function;
  function "and"(l : unsigned) return bit is
  begin
    return x_reduce(l, 0, false);
  end function;
  function "or"(l, r : unsigned) return unsigned is
  begin
    return x_down(x_logic(l, r, 1, false));
  end function;
  function "or"(l : bit; r : unsigned) return unsigned is
  begin
    return x_down(x_logic_with(r, l, 1, false));
  end function;
  function "or"(l : unsigned; r : bit) return unsigned is
  begin
    return x_down(x_logic_with(l, r, 1, false));
  end function;
  function "or"(l : unsigned) return bit is
  begin
    return x_reduce(l, 1, false);
  end function;
  function "nand"(l, r : unsigned) return unsigned is
  begin
    return x_down(x_logic(l, r, 2, false));
  end function;
  function "nand"(l : bit; r : unsigned) return unsigned is
  begin
    return x_down(x_logic_with(r, l, 2, false));
  end function;
  function "nand"(l : unsigned; r : bit) return unsigned is
  begin
    return x_down(x_logic_with(l, r, 2, false));
  end function;
  function "nand"(l : unsigned) return bit is
  begin
    return x_reduce(l, 2, false);
  end function;
  function "nor"(l, r : unsigned) return unsigned is
  begin
    return x_down(x_logic(l, r, 3, false));
  end function;
  function "nor"(l : bit; r : unsigned) return unsigned is
  begin
    return x_down(x_logic_with(r, l, 3, false));
  end function;
  function "nor"(l : unsigned; r : bit) return unsigned is
  begin
    return x_down(x_logic_with(l, r, 3, false));
  end function;
  function "nor"(l : unsigned) return bit is
  begin
    return x_reduce(l, 3, false);
  end function;
  function "xor"(l, r : unsigned) return unsigned is
  begin
    return x_down(x_logic(l, r, 4, false));
  end function;
  function "xor"(l : bit; r : unsigned) return unsigned is
  begin
    return x_down(x_logic_with(r, l, 4, false));
  end function;
  function "xor"(l : unsigned; r : bit) return unsigned is
  begin
    return x_down(x_logic_with(l, r, 4, false));
  end function;
  function "xor"(l : unsigned) return bit is
  begin
    return x_reduce(l, 4, false);
  end function;
  function "xnor"(l, r : unsigned) return unsigned is
  begin
    return x_down(x_logic(l, r, 5, false));
  end function;
  function "xnor"(l : bit; r : unsigned) return unsigned is
  begin
    return x_down(x_logic_with(r, l, 5, false));
  end function;
  function "xnor"(l : unsigned; r : bit) return unsigned is
  begin
    return x_down(x_logic_with(l, r, 5, false));
  end function;
  function "xnor"(l : unsigned) return bit is
  begin
    return x_reduce(l, 5, false);
  end function;
  function find_leftmost(arg : unsigned; y : bit) return integer is
  begin
    for i in arg'range loop
      if arg(i) = y then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function find_rightmost(arg : unsigned; y : bit) return integer is
  begin
    for i in arg'reverse_range loop
      if arg(i) = y then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function "not"(l : signed) return signed is
  begin
    return x_down(x_not(l, false));
  end function;
  function "and"(l, r : signed) return signed is
  begin
    return x_down(x_logic(l, r, 0, false));
  end function;
  function "and"(l : bit; r : signed) return signed is
  begin
    return x_down(x_logic_with(r, l, 0, false));
  end function;
  function "and"(l : signed; r : bit) return signed is
  begin
    return x_down(x_logic_with(l, r, 0, false));
  end function;
  function "and"(l : signed) return bit is
  begin
    return x_reduce(l, 0, false);
  end function;
  function "or"(l, r : signed) return signed is
  begin
    return x_down(x_logic(l, r, 1, false));
  end function;
  function "or"(l : bit; r : signed) return signed is
  begin
    return x_down(x_logic_with(r, l, 1, false));
  end function;
  function "or"(l : signed; r : bit) return signed is
  begin
    return x_down(x_logic_with(l, r, 1, false));
  end function;
  function "or"(l : signed) return bit is
  begin
    return x_reduce(l, 1, false);
  end function;
  function "nand"(l, r : signed) return signed is
  begin
    return x_down(x_logic(l, r, 2, false));
  end function;
  function "nand"(l : bit; r : signed) return signed is
  begin
    return x_down(x_logic_with(r, l, 2, false));
  end function;
  function "nand"(l : signed; r : bit) return signed is
  begin
    return x_down(x_logic_with(l, r, 2, false));
  end function;
  function "nand"(l : signed) return bit is
  begin
    return x_reduce(l, 2, false);
  end function;
  function "nor"(l, r : signed) return signed is
  begin
    return x_down(x_logic(l, r, 3, false));
  end function;
  function "nor"(l : bit; r : signed) return signed is
  begin
    return x_down(x_logic_with(r, l, 3, false));
  end function;
  function "nor"(l : signed; r : bit) return signed is
  begin
    return x_down(x_logic_with(l, r, 3, false));
  end function;
  function "nor"(l : signed) return bit is
  begin
    return x_reduce(l, 3, false);
  end function;
  function "xor"(l, r : signed) return signed is
  begin
    return x_down(x_logic(l, r, 4, false));
  end function;
  function "xor"(l : bit; r : signed) return signed is
  begin
    return x_down(x_logic_with(r, l, 4, false));
  end function;
  function "xor"(l : signed; r : bit) return signed is
  begin
    return x_down(x_logic_with(l, r, 4, false));
  end function;
  function "xor"(l : signed) return bit is
  begin
    return x_reduce(l, 4, false);
  end function;
  function "xnor"(l, r : signed) return signed is
  begin
    return x_down(x_logic(l, r, 5, false));
  end function;
  function "xnor"(l : bit; r : signed) return signed is
  begin
    return x_down(x_logic_with(r, l, 5, false));
  end function;
  function "xnor"(l : signed; r : bit) return signed is
  begin
    return x_down(x_logic_with(l, r, 5, false));
  end function;
  function "xnor"(l : signed) return bit is
  begin
    return x_reduce(l, 5, false);
  end function;
  function find_leftmost(arg : signed; y : bit) return integer is
  begin
    for i in arg'range loop
      if arg(i) = y then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function find_rightmost(arg : signed; y : bit) return integer is
  begin
    for i in arg'reverse_range loop
      if arg(i) = y then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function to_bstring(value : unsigned) return string is
  begin
    return to_string(value);
  end function;
  function to_ostring(value : unsigned) return string is
  begin
    return x_digits(value, 3, false, false);
  end function;
  function to_hstring(value : unsigned) return string is
  begin
    return x_digits(value, 4, false, false);
  end function;
  function to_bstring(value : signed) return string is
  begin
    return to_string(value);
  end function;
  function to_ostring(value : signed) return string is
  begin
    return x_digits(value, 3, true, false);
  end function;
  function to_hstring(value : signed) return string is
  begin
    return x_digits(value, 4, true, false);
  end function;
end package body;
