-- std_logic_arith: arithmetic as it is widespread; no part of the standard.
library ieee;
use ieee.std_logic_1164.all;
package std_logic_arith is
  type unsigned is array (natural range <>) of std_logic;
  type signed is array (natural range <>) of std_logic;
  subtype small_int is integer range 0 to 1;
  function x_add(l, r : unsigned; subtract, is_signed, nine : boolean) return unsigned;
  function x_mul(l, r : unsigned; is_signed, nine : boolean) return unsigned;
  function x_div(l, r : unsigned; what : integer; is_signed, nine : boolean) return unsigned;
  function x_order(l, r : unsigned; is_signed, nine : boolean) return integer;
  function x_shift(l : unsigned; count, how : integer; nine : boolean) return unsigned;
  function x_resize(l : unsigned; size, how : integer; nine : boolean) return unsigned;
  function x_to_integer(l : unsigned; is_signed, nine : boolean) return integer;
  function x_from_integer(value, size : integer; nine : boolean) return unsigned;
  function x_negate(l : unsigned; only_negative, nine : boolean) return unsigned;
  function x_is_x(l : unsigned) return boolean;
  function x_add(l, r : signed; subtract, is_signed, nine : boolean) return signed;
  function x_mul(l, r : signed; is_signed, nine : boolean) return signed;
  function x_div(l, r : signed; what : integer; is_signed, nine : boolean) return signed;
  function x_order(l, r : signed; is_signed, nine : boolean) return integer;
  function x_shift(l : signed; count, how : integer; nine : boolean) return signed;
  function x_resize(l : signed; size, how : integer; nine : boolean) return signed;
  function x_to_integer(l : signed; is_signed, nine : boolean) return integer;
  function x_from_integer(value, size : integer; nine : boolean) return signed;
  function x_negate(l : signed; only_negative, nine : boolean) return signed;
  function x_is_x(l : signed) return boolean;
  function x_resize(l : std_logic_vector; size, how : integer; nine : boolean) return std_logic_vector;
  function x_from_integer(value, size : integer; nine : boolean) return std_logic_vector;
  function longer(l, r : natural) return natural;
  function "+"(l, r : unsigned) return unsigned;
  function "+"(l, r : unsigned) return std_logic_vector;
  function "+"(l, r : signed) return signed;
  function "+"(l, r : signed) return std_logic_vector;
  function "+"(l : unsigned; r : signed) return signed;
  function "+"(l : unsigned; r : signed) return std_logic_vector;
  function "+"(l : signed; r : unsigned) return signed;
  function "+"(l : signed; r : unsigned) return std_logic_vector;
  function "+"(l : unsigned; r : integer) return unsigned;
  function "+"(l : unsigned; r : integer) return std_logic_vector;
  function "+"(l : integer; r : unsigned) return unsigned;
  function "+"(l : integer; r : unsigned) return std_logic_vector;
  function "+"(l : signed; r : integer) return signed;
  function "+"(l : signed; r : integer) return std_logic_vector;
  function "+"(l : integer; r : signed) return signed;
  function "+"(l : integer; r : signed) return std_logic_vector;
  function "+"(l : unsigned; r : std_ulogic) return unsigned;
  function "+"(l : unsigned; r : std_ulogic) return std_logic_vector;
  function "+"(l : std_ulogic; r : unsigned) return unsigned;
  function "+"(l : std_ulogic; r : unsigned) return std_logic_vector;
  function "+"(l : signed; r : std_ulogic) return signed;
  function "+"(l : signed; r : std_ulogic) return std_logic_vector;
  function "+"(l : std_ulogic; r : signed) return signed;
  function "+"(l : std_ulogic; r : signed) return std_logic_vector;
  function "-"(l, r : unsigned) return unsigned;
  function "-"(l, r : unsigned) return std_logic_vector;
  function "-"(l, r : signed) return signed;
  function "-"(l, r : signed) return std_logic_vector;
  function "-"(l : unsigned; r : signed) return signed;
  function "-"(l : unsigned; r : signed) return std_logic_vector;
  function "-"(l : signed; r : unsigned) return signed;
  function "-"(l : signed; r : unsigned) return std_logic_vector;
  function "-"(l : unsigned; r : integer) return unsigned;
  function "-"(l : unsigned; r : integer) return std_logic_vector;
  function "-"(l : integer; r : unsigned) return unsigned;
  function "-"(l : integer; r : unsigned) return std_logic_vector;
  function "-"(l : signed; r : integer) return signed;
  function "-"(l : signed; r : integer) return std_logic_vector;
  function "-"(l : integer; r : signed) return signed;
  function "-"(l : integer; r : signed) return std_logic_vector;
  function "-"(l : unsigned; r : std_ulogic) return unsigned;
  function "-"(l : unsigned; r : std_ulogic) return std_logic_vector;
  function "-"(l : std_ulogic; r : unsigned) return unsigned;
  function "-"(l : std_ulogic; r : unsigned) return std_logic_vector;
  function "-"(l : signed; r : std_ulogic) return signed;
  function "-"(l : signed; r : std_ulogic) return std_logic_vector;
  function "-"(l : std_ulogic; r : signed) return signed;
  function "-"(l : std_ulogic; r : signed) return std_logic_vector;
  function "*"(l, r : unsigned) return unsigned;
  function "*"(l, r : unsigned) return std_logic_vector;
  function "*"(l, r : signed) return signed;
  function "*"(l, r : signed) return std_logic_vector;
  function "*"(l : signed; r : unsigned) return signed;
  function "*"(l : unsigned; r : signed) return signed;
  function "*"(l : signed; r : unsigned) return std_logic_vector;
  function "*"(l : unsigned; r : signed) return std_logic_vector;
  function "+"(l : unsigned) return unsigned;
  function "+"(l : unsigned) return std_logic_vector;
  function "+"(l : signed) return signed;
  function "+"(l : signed) return std_logic_vector;
  function "-"(l : signed) return signed;
  function "abs"(l : signed) return signed;
  function "-"(l : signed) return std_logic_vector;
  function "abs"(l : signed) return std_logic_vector;
  function "<"(l, r : unsigned) return boolean;
  function "<"(l, r : signed) return boolean;
  function "<"(l : unsigned; r : signed) return boolean;
  function "<"(l : signed; r : unsigned) return boolean;
  function "<"(l : unsigned; r : integer) return boolean;
  function "<"(l : integer; r : unsigned) return boolean;
  function "<"(l : signed; r : integer) return boolean;
  function "<"(l : integer; r : signed) return boolean;
  function ">"(l, r : unsigned) return boolean;
  function ">"(l, r : signed) return boolean;
  function ">"(l : unsigned; r : signed) return boolean;
  function ">"(l : signed; r : unsigned) return boolean;
  function ">"(l : unsigned; r : integer) return boolean;
  function ">"(l : integer; r : unsigned) return boolean;
  function ">"(l : signed; r : integer) return boolean;
  function ">"(l : integer; r : signed) return boolean;
  function "<="(l, r : unsigned) return boolean;
  function "<="(l, r : signed) return boolean;
  function "<="(l : unsigned; r : signed) return boolean;
  function "<="(l : signed; r : unsigned) return boolean;
  function "<="(l : unsigned; r : integer) return boolean;
  function "<="(l : integer; r : unsigned) return boolean;
  function "<="(l : signed; r : integer) return boolean;
  function "<="(l : integer; r : signed) return boolean;
  function ">="(l, r : unsigned) return boolean;
  function ">="(l, r : signed) return boolean;
  function ">="(l : unsigned; r : signed) return boolean;
  function ">="(l : signed; r : unsigned) return boolean;
  function ">="(l : unsigned; r : integer) return boolean;
  function ">="(l : integer; r : unsigned) return boolean;
  function ">="(l : signed; r : integer) return boolean;
  function ">="(l : integer; r : signed) return boolean;
  function "="(l, r : unsigned) return boolean;
  function "="(l, r : signed) return boolean;
  function "="(l : unsigned; r : signed) return boolean;
  function "="(l : signed; r : unsigned) return boolean;
  function "="(l : unsigned; r : integer) return boolean;
  function "="(l : integer; r : unsigned) return boolean;
  function "="(l : signed; r : integer) return boolean;
  function "="(l : integer; r : signed) return boolean;
  function "/="(l, r : unsigned) return boolean;
  function "/="(l, r : signed) return boolean;
  function "/="(l : unsigned; r : signed) return boolean;
  function "/="(l : signed; r : unsigned) return boolean;
  function "/="(l : unsigned; r : integer) return boolean;
  function "/="(l : integer; r : unsigned) return boolean;
  function "/="(l : signed; r : integer) return boolean;
  function "/="(l : integer; r : signed) return boolean;
  function shl(arg : unsigned; count : unsigned) return unsigned;
  function shr(arg : unsigned; count : unsigned) return unsigned;
  function shl(arg : signed; count : unsigned) return signed;
  function shr(arg : signed; count : unsigned) return signed;
  function conv_integer(arg : unsigned) return integer;
  function conv_integer(arg : signed) return integer;
  function conv_integer(arg : integer) return integer;
  function conv_integer(arg : std_ulogic) return small_int;
  function conv_unsigned(arg : integer; size : integer) return unsigned;
  function conv_unsigned(arg : unsigned; size : integer) return unsigned;
  function conv_unsigned(arg : signed; size : integer) return unsigned;
  function conv_unsigned(arg : std_ulogic; size : integer) return unsigned;
  function conv_signed(arg : integer; size : integer) return signed;
  function conv_signed(arg : unsigned; size : integer) return signed;
  function conv_signed(arg : signed; size : integer) return signed;
  function conv_signed(arg : std_ulogic; size : integer) return signed;
  function conv_std_logic_vector(arg : integer; size : integer) return std_logic_vector;
  function conv_std_logic_vector(arg : unsigned; size : integer) return std_logic_vector;
  function conv_std_logic_vector(arg : signed; size : integer) return std_logic_vector;
  function conv_std_logic_vector(arg : std_ulogic; size : integer) return std_logic_vector;
  function ext(arg : std_logic_vector; size : integer) return std_logic_vector;
  function sxt(arg : std_logic_vector; size : integer) return std_logic_vector;
end package;

package body std_logic_arith is
  function longer(l, r : natural) return natural is
  begin
    if l > r then
      return l;
    end if;
    return r;
  end function;
  function "+"(l, r : unsigned) return unsigned is
  begin
    return x_add(l, r, false, false, true);
  end function;
  function "+"(l, r : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, r, false, false, true));
  end function;
  function "+"(l, r : signed) return signed is
  begin
    return x_add(l, r, false, true, true);
  end function;
  function "+"(l, r : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, r, false, true, true));
  end function;
  function "+"(l : unsigned; r : signed) return signed is
  begin
    return x_add(conv_signed(l, l'length + 1), r, false, true, true);
  end function;
  function "+"(l : unsigned; r : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_add(conv_signed(l, l'length + 1), r, false, true, true));
  end function;
  function "+"(l : signed; r : unsigned) return signed is
  begin
    return x_add(l, conv_signed(r, r'length + 1), false, true, true);
  end function;
  function "+"(l : signed; r : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, conv_signed(r, r'length + 1), false, true, true));
  end function;
  function "+"(l : unsigned; r : integer) return unsigned is
  begin
    return x_add(l, conv_unsigned(r, l'length), false, false, true);
  end function;
  function "+"(l : unsigned; r : integer) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, conv_unsigned(r, l'length), false, false, true));
  end function;
  function "+"(l : integer; r : unsigned) return unsigned is
  begin
    return x_add(conv_unsigned(l, r'length), r, false, false, true);
  end function;
  function "+"(l : integer; r : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(x_add(conv_unsigned(l, r'length), r, false, false, true));
  end function;
  function "+"(l : signed; r : integer) return signed is
  begin
    return x_add(l, conv_signed(r, l'length), false, true, true);
  end function;
  function "+"(l : signed; r : integer) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, conv_signed(r, l'length), false, true, true));
  end function;
  function "+"(l : integer; r : signed) return signed is
  begin
    return x_add(conv_signed(l, r'length), r, false, true, true);
  end function;
  function "+"(l : integer; r : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_add(conv_signed(l, r'length), r, false, true, true));
  end function;
  function "+"(l : unsigned; r : std_ulogic) return unsigned is
    variable one : unsigned(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return x_add(l, one, false, false, true);
  end function;
  function "+"(l : unsigned; r : std_ulogic) return std_logic_vector is
    variable one : unsigned(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return std_logic_vector(x_add(l, one, false, false, true));
  end function;
  function "+"(l : std_ulogic; r : unsigned) return unsigned is
    variable one : unsigned(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return x_add(one, r, false, false, true);
  end function;
  function "+"(l : std_ulogic; r : unsigned) return std_logic_vector is
    variable one : unsigned(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return std_logic_vector(x_add(one, r, false, false, true));
  end function;
  function "+"(l : signed; r : std_ulogic) return signed is
    variable one : signed(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return x_add(l, one, false, false, true);
  end function;
  function "+"(l : signed; r : std_ulogic) return std_logic_vector is
    variable one : signed(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return std_logic_vector(x_add(l, one, false, false, true));
  end function;
  function "+"(l : std_ulogic; r : signed) return signed is
    variable one : signed(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return x_add(one, r, false, false, true);
  end function;
  function "+"(l : std_ulogic; r : signed) return std_logic_vector is
    variable one : signed(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return std_logic_vector(x_add(one, r, false, false, true));
  end function;
  function "-"(l, r : unsigned) return unsigned is
  begin
    return x_add(l, r, true, false, true);
  end function;
  function "-"(l, r : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, r, true, false, true));
  end function;
  function "-"(l, r : signed) return signed is
  begin
    return x_add(l, r, true, true, true);
  end function;
  function "-"(l, r : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, r, true, true, true));
  end function;
  function "-"(l : unsigned; r : signed) return signed is
  begin
    return x_add(conv_signed(l, l'length + 1), r, true, true, true);
  end function;
  function "-"(l : unsigned; r : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_add(conv_signed(l, l'length + 1), r, true, true, true));
  end function;
  function "-"(l : signed; r : unsigned) return signed is
  begin
    return x_add(l, conv_signed(r, r'length + 1), true, true, true);
  end function;
  function "-"(l : signed; r : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, conv_signed(r, r'length + 1), true, true, true));
  end function;
  function "-"(l : unsigned; r : integer) return unsigned is
  begin
    return x_add(l, conv_unsigned(r, l'length), true, false, true);
  end function;
  function "-"(l : unsigned; r : integer) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, conv_unsigned(r, l'length), true, false, true));
  end function;
  function "-"(l : integer; r : unsigned) return unsigned is
  begin
    return x_add(conv_unsigned(l, r'length), r, true, false, true);
  end function;
  function "-"(l : integer; r : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(x_add(conv_unsigned(l, r'length), r, true, false, true));
  end function;
  function "-"(l : signed; r : integer) return signed is
  begin
    return x_add(l, conv_signed(r, l'length), true, true, true);
  end function;
  function "-"(l : signed; r : integer) return std_logic_vector is
  begin
    return std_logic_vector(x_add(l, conv_signed(r, l'length), true, true, true));
  end function;
  function "-"(l : integer; r : signed) return signed is
  begin
    return x_add(conv_signed(l, r'length), r, true, true, true);
  end function;
  function "-"(l : integer; r : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_add(conv_signed(l, r'length), r, true, true, true));
  end function;
  function "-"(l : unsigned; r : std_ulogic) return unsigned is
    variable one : unsigned(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return x_add(l, one, true, false, true);
  end function;
  function "-"(l : unsigned; r : std_ulogic) return std_logic_vector is
    variable one : unsigned(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return std_logic_vector(x_add(l, one, true, false, true));
  end function;
  function "-"(l : std_ulogic; r : unsigned) return unsigned is
    variable one : unsigned(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return x_add(one, r, true, false, true);
  end function;
  function "-"(l : std_ulogic; r : unsigned) return std_logic_vector is
    variable one : unsigned(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return std_logic_vector(x_add(one, r, true, false, true));
  end function;
  function "-"(l : signed; r : std_ulogic) return signed is
    variable one : signed(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return x_add(l, one, true, false, true);
  end function;
  function "-"(l : signed; r : std_ulogic) return std_logic_vector is
    variable one : signed(l'length - 1 downto 0) := (others => '0');
  begin
    one(0) := r;
    return std_logic_vector(x_add(l, one, true, false, true));
  end function;
  function "-"(l : std_ulogic; r : signed) return signed is
    variable one : signed(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return x_add(one, r, true, false, true);
  end function;
  function "-"(l : std_ulogic; r : signed) return std_logic_vector is
    variable one : signed(r'length - 1 downto 0) := (others => '0');
  begin
    one(0) := l;
    return std_logic_vector(x_add(one, r, true, false, true));
  end function;
  function "*"(l, r : unsigned) return unsigned is
  begin
    return x_mul(l, r, false, true);
  end function;
  function "*"(l, r : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(x_mul(l, r, false, true));
  end function;
  function "*"(l, r : signed) return signed is
  begin
    return x_mul(l, r, true, true);
  end function;
  function "*"(l, r : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_mul(l, r, true, true));
  end function;
  function "*"(l : signed; r : unsigned) return signed is
  begin
    return x_mul(l, conv_signed(r, r'length + 1), true, true);
  end function;
  function "*"(l : unsigned; r : signed) return signed is
  begin
    return x_mul(conv_signed(l, l'length + 1), r, true, true);
  end function;
  function "*"(l : signed; r : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(x_mul(l, conv_signed(r, r'length + 1), true, true));
  end function;
  function "*"(l : unsigned; r : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_mul(conv_signed(l, l'length + 1), r, true, true));
  end function;
  function "+"(l : unsigned) return unsigned is
  begin
    return l;
  end function;
  function "+"(l : unsigned) return std_logic_vector is
  begin
    return std_logic_vector(l);
  end function;
  function "+"(l : signed) return signed is
  begin
    return l;
  end function;
  function "+"(l : signed) return std_logic_vector is
  begin
    return std_logic_vector(l);
  end function;
  function "-"(l : signed) return signed is
  begin
    return x_negate(l, false, true);
  end function;
  function "abs"(l : signed) return signed is
  begin
    return x_negate(l, true, true);
  end function;
  function "-"(l : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_negate(l, false, true));
  end function;
  function "abs"(l : signed) return std_logic_vector is
  begin
    return std_logic_vector(x_negate(l, true, true));
  end function;
  function "<"(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : unsigned; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : signed; r : unsigned) return boolean is
    constant o : integer := x_order(l, conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : unsigned; r : integer) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : integer; r : unsigned) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : integer; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = -1;
  end function;
  function ">"(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : unsigned; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : signed; r : unsigned) return boolean is
    constant o : integer := x_order(l, conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : unsigned; r : integer) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : integer; r : unsigned) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : integer; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 1;
  end function;
  function "<="(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : unsigned; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : signed; r : unsigned) return boolean is
    constant o : integer := x_order(l, conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : unsigned; r : integer) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : integer; r : unsigned) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : integer; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o <= 0;
  end function;
  function ">="(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : unsigned; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : signed; r : unsigned) return boolean is
    constant o : integer := x_order(l, conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : unsigned; r : integer) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : integer; r : unsigned) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : integer; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function "="(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : unsigned; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : signed; r : unsigned) return boolean is
    constant o : integer := x_order(l, conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : unsigned; r : integer) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : integer; r : unsigned) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : integer; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), r, true, true);
  begin
    if o >= 2 then
      return false;
    end if;
    return o = 0;
  end function;
  function "/="(l, r : unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l, r : signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : unsigned; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), r, true, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : signed; r : unsigned) return boolean is
    constant o : integer := x_order(l, conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : unsigned; r : integer) return boolean is
    constant o : integer := x_order(conv_signed(l, l'length + 1), conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : integer; r : unsigned) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), conv_signed(r, r'length + 1), true, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : signed; r : integer) return boolean is
    constant o : integer := x_order(l, conv_signed(r, 32), true, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : integer; r : signed) return boolean is
    constant o : integer := x_order(conv_signed(l, 32), r, true, true);
  begin
    if o >= 2 then
      return true;
    end if;
    return o /= 0;
  end function;
  function shl(arg : unsigned; count : unsigned) return unsigned is
  begin
    return x_shift(arg, conv_integer(count), 0, true);
  end function;
  function shr(arg : unsigned; count : unsigned) return unsigned is
  begin
    return x_shift(arg, conv_integer(count), 1, true);
  end function;
  function shl(arg : signed; count : unsigned) return signed is
  begin
    return x_shift(arg, conv_integer(count), 0, true);
  end function;
  function shr(arg : signed; count : unsigned) return signed is
  begin
    return x_shift(arg, conv_integer(count), 2, true);
  end function;
  function conv_integer(arg : unsigned) return integer is
  begin
    if x_is_x(arg) then
      assert false report "CONV_INTEGER: there is a metavalue in an arithmetic operand" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, false, true);
  end function;
  function conv_integer(arg : signed) return integer is
  begin
    if x_is_x(arg) then
      assert false report "CONV_INTEGER: there is a metavalue in an arithmetic operand" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, true, true);
  end function;
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
  function conv_unsigned(arg : integer; size : integer) return unsigned is
  begin
    return x_from_integer(arg, size, true);
  end function;
  function conv_unsigned(arg : unsigned; size : integer) return unsigned is
  begin
    return unsigned(unsigned'(x_resize(arg, size, 0, true)));
  end function;
  function conv_unsigned(arg : signed; size : integer) return unsigned is
  begin
    return unsigned(signed'(x_resize(arg, size, 1, true)));
  end function;
  function conv_unsigned(arg : std_ulogic; size : integer) return unsigned is
    variable result : unsigned(size - 1 downto 0) := (others => '0');
  begin
    result(0) := arg;
    return result;
  end function;
  function conv_signed(arg : integer; size : integer) return signed is
  begin
    return x_from_integer(arg, size, true);
  end function;
  function conv_signed(arg : unsigned; size : integer) return signed is
  begin
    return signed(unsigned'(x_resize(arg, size, 0, true)));
  end function;
  function conv_signed(arg : signed; size : integer) return signed is
  begin
    return signed(signed'(x_resize(arg, size, 1, true)));
  end function;
  function conv_signed(arg : std_ulogic; size : integer) return signed is
    variable result : signed(size - 1 downto 0) := (others => '0');
  begin
    result(0) := arg;
    return result;
  end function;
  function conv_std_logic_vector(arg : integer; size : integer) return std_logic_vector is
  begin
    return x_from_integer(arg, size, true);
  end function;
  function conv_std_logic_vector(arg : unsigned; size : integer) return std_logic_vector is
  begin
    return std_logic_vector(unsigned'(x_resize(arg, size, 0, true)));
  end function;
  function conv_std_logic_vector(arg : signed; size : integer) return std_logic_vector is
  begin
    return std_logic_vector(signed'(x_resize(arg, size, 1, true)));
  end function;
  function conv_std_logic_vector(arg : std_ulogic; size : integer) return std_logic_vector is
    variable result : std_logic_vector(size - 1 downto 0) := (others => '0');
  begin
    result(0) := arg;
    return result;
  end function;
  function ext(arg : std_logic_vector; size : integer) return std_logic_vector is
  begin
    return x_resize(arg, size, 0, true);
  end function;
  function sxt(arg : std_logic_vector; size : integer) return std_logic_vector is
  begin
    return x_resize(arg, size, 1, true);
  end function;
end package body;
