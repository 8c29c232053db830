-- ieee.numeric_std (IEEE 1076-2008 16.8). What begins with x_ is done by the run-time kernel.
library ieee;
use ieee.std_logic_1164.all;
package numeric_std is
  type unresolved_unsigned is array (natural range <>) of std_ulogic;
  type unresolved_signed is array (natural range <>) of std_ulogic;
  alias u_unsigned is unresolved_unsigned;
  alias u_signed is unresolved_signed;
  subtype unsigned is (resolved) unresolved_unsigned;
  subtype signed is (resolved) unresolved_signed;
  function x_add(l, r : unresolved_unsigned; subtract, is_signed, nine : boolean) return unresolved_unsigned;
  function x_negate(l : unresolved_unsigned; only_negative, nine : boolean) return unresolved_unsigned;
  function x_mul(l, r : unresolved_unsigned; is_signed, nine : boolean) return unresolved_unsigned;
  function x_div(l, r : unresolved_unsigned; what : integer; is_signed, nine : boolean) return unresolved_unsigned;
  function x_order(l, r : unresolved_unsigned; is_signed, nine : boolean) return integer;
  function x_shift(l : unresolved_unsigned; count, how : integer; nine : boolean) return unresolved_unsigned;
  function x_resize(l : unresolved_unsigned; size, how : integer; nine : boolean) return unresolved_unsigned;
  function x_to_integer(l : unresolved_unsigned; is_signed, nine : boolean) return integer;
  function x_logic(l, r : unresolved_unsigned; op : integer; nine : boolean) return unresolved_unsigned;
  function x_logic_with(l : unresolved_unsigned; r : std_ulogic; op : integer; nine : boolean) return unresolved_unsigned;
  function x_not(l : unresolved_unsigned; nine : boolean) return unresolved_unsigned;
  function x_reduce(l : unresolved_unsigned; op : integer; nine : boolean) return std_ulogic;
  function x_down(l : unresolved_unsigned) return unresolved_unsigned;
  function x_digits(value : unresolved_unsigned; bits : integer; signed : boolean; nine : boolean) return string;
  function x_from_integer(value, size : integer; nine : boolean) return unresolved_unsigned;
  function x_match(l, r : unresolved_unsigned) return std_ulogic;
  function x_std_match(l, r : unresolved_unsigned) return boolean;
  function x_is_x(l : unresolved_unsigned) return boolean;
  function x_map(s : unresolved_unsigned; table : integer; unknown : bit) return unresolved_unsigned;
  procedure x_read_chars(l : inout std.textio.line; value : out unresolved_unsigned; chars : string; good : out boolean);
  procedure x_read_digits(l : inout std.textio.line; value : out unresolved_unsigned; bits : integer; nine : boolean; good : out boolean);
  function x_add(l, r : unresolved_signed; subtract, is_signed, nine : boolean) return unresolved_signed;
  function x_negate(l : unresolved_signed; only_negative, nine : boolean) return unresolved_signed;
  function x_mul(l, r : unresolved_signed; is_signed, nine : boolean) return unresolved_signed;
  function x_div(l, r : unresolved_signed; what : integer; is_signed, nine : boolean) return unresolved_signed;
  function x_order(l, r : unresolved_signed; is_signed, nine : boolean) return integer;
  function x_shift(l : unresolved_signed; count, how : integer; nine : boolean) return unresolved_signed;
  function x_resize(l : unresolved_signed; size, how : integer; nine : boolean) return unresolved_signed;
  function x_to_integer(l : unresolved_signed; is_signed, nine : boolean) return integer;
  function x_logic(l, r : unresolved_signed; op : integer; nine : boolean) return unresolved_signed;
  function x_logic_with(l : unresolved_signed; r : std_ulogic; op : integer; nine : boolean) return unresolved_signed;
  function x_not(l : unresolved_signed; nine : boolean) return unresolved_signed;
  function x_reduce(l : unresolved_signed; op : integer; nine : boolean) return std_ulogic;
  function x_down(l : unresolved_signed) return unresolved_signed;
  function x_digits(value : unresolved_signed; bits : integer; signed : boolean; nine : boolean) return string;
  function x_from_integer(value, size : integer; nine : boolean) return unresolved_signed;
  function x_match(l, r : unresolved_signed) return std_ulogic;
  function x_std_match(l, r : unresolved_signed) return boolean;
  function x_is_x(l : unresolved_signed) return boolean;
  function x_map(s : unresolved_signed; table : integer; unknown : bit) return unresolved_signed;
  procedure x_read_chars(l : inout std.textio.line; value : out unresolved_signed; chars : string; good : out boolean);
  procedure x_read_digits(l : inout std.textio.line; value : out unresolved_signed; bits : integer; nine : boolean; good : out boolean);
  function x_fits(value, size : integer; is_signed : boolean) return boolean;
  procedure x_write(l : inout std.textio.line; value : string; justified : std.textio.side; field : std.textio.width);
  constant no_warning : boolean := false;
  function "abs"(arg : unresolved_signed) return unresolved_signed;
  function "-"(arg : unresolved_signed) return unresolved_signed;
  function to_unsigned(arg, size : natural) return unresolved_unsigned;
  function to_signed(arg : integer; size : natural) return unresolved_signed;
  function to_unsigned(arg : natural; size_res : unresolved_unsigned) return unresolved_unsigned;
  function to_signed(arg : integer; size_res : unresolved_signed) return unresolved_signed;
  function to_integer(arg : unresolved_unsigned) return natural;
  function to_integer(arg : unresolved_signed) return integer;
  function "+"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "+"(l, r : unresolved_signed) return unresolved_signed;
  function "+"(l : unresolved_unsigned; r : natural) return unresolved_unsigned;
  function "+"(l : natural; r : unresolved_unsigned) return unresolved_unsigned;
  function "+"(l : unresolved_signed; r : integer) return unresolved_signed;
  function "+"(l : integer; r : unresolved_signed) return unresolved_signed;
  function "+"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned;
  function "+"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned;
  function "+"(l : unresolved_signed; r : std_ulogic) return unresolved_signed;
  function "+"(l : std_ulogic; r : unresolved_signed) return unresolved_signed;
  function "-"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "-"(l, r : unresolved_signed) return unresolved_signed;
  function "-"(l : unresolved_unsigned; r : natural) return unresolved_unsigned;
  function "-"(l : natural; r : unresolved_unsigned) return unresolved_unsigned;
  function "-"(l : unresolved_signed; r : integer) return unresolved_signed;
  function "-"(l : integer; r : unresolved_signed) return unresolved_signed;
  function "-"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned;
  function "-"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned;
  function "-"(l : unresolved_signed; r : std_ulogic) return unresolved_signed;
  function "-"(l : std_ulogic; r : unresolved_signed) return unresolved_signed;
  function "*"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "*"(l, r : unresolved_signed) return unresolved_signed;
  function "*"(l : unresolved_unsigned; r : natural) return unresolved_unsigned;
  function "*"(l : natural; r : unresolved_unsigned) return unresolved_unsigned;
  function "*"(l : unresolved_signed; r : integer) return unresolved_signed;
  function "*"(l : integer; r : unresolved_signed) return unresolved_signed;
  function bits_of_unsigned(value : natural; least : natural) return natural;
  function bits_of_signed(value : integer; least : natural) return natural;
  function "/"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "/"(l, r : unresolved_signed) return unresolved_signed;
  function "/"(l : unresolved_unsigned; r : natural) return unresolved_unsigned;
  function "/"(l : natural; r : unresolved_unsigned) return unresolved_unsigned;
  function "/"(l : unresolved_signed; r : integer) return unresolved_signed;
  function "/"(l : integer; r : unresolved_signed) return unresolved_signed;
  function "rem"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "rem"(l, r : unresolved_signed) return unresolved_signed;
  function "rem"(l : unresolved_unsigned; r : natural) return unresolved_unsigned;
  function "rem"(l : natural; r : unresolved_unsigned) return unresolved_unsigned;
  function "rem"(l : unresolved_signed; r : integer) return unresolved_signed;
  function "rem"(l : integer; r : unresolved_signed) return unresolved_signed;
  function "mod"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "mod"(l, r : unresolved_signed) return unresolved_signed;
  function "mod"(l : unresolved_unsigned; r : natural) return unresolved_unsigned;
  function "mod"(l : natural; r : unresolved_unsigned) return unresolved_unsigned;
  function "mod"(l : unresolved_signed; r : integer) return unresolved_signed;
  function "mod"(l : integer; r : unresolved_signed) return unresolved_signed;
  function "<"(l, r : unresolved_unsigned) return boolean;
  function "<"(l, r : unresolved_signed) return boolean;
  function "<"(l : natural; r : unresolved_unsigned) return boolean;
  function "<"(l : unresolved_unsigned; r : natural) return boolean;
  function "<"(l : integer; r : unresolved_signed) return boolean;
  function "<"(l : unresolved_signed; r : integer) return boolean;
  function ">"(l, r : unresolved_unsigned) return boolean;
  function ">"(l, r : unresolved_signed) return boolean;
  function ">"(l : natural; r : unresolved_unsigned) return boolean;
  function ">"(l : unresolved_unsigned; r : natural) return boolean;
  function ">"(l : integer; r : unresolved_signed) return boolean;
  function ">"(l : unresolved_signed; r : integer) return boolean;
  function "<="(l, r : unresolved_unsigned) return boolean;
  function "<="(l, r : unresolved_signed) return boolean;
  function "<="(l : natural; r : unresolved_unsigned) return boolean;
  function "<="(l : unresolved_unsigned; r : natural) return boolean;
  function "<="(l : integer; r : unresolved_signed) return boolean;
  function "<="(l : unresolved_signed; r : integer) return boolean;
  function ">="(l, r : unresolved_unsigned) return boolean;
  function ">="(l, r : unresolved_signed) return boolean;
  function ">="(l : natural; r : unresolved_unsigned) return boolean;
  function ">="(l : unresolved_unsigned; r : natural) return boolean;
  function ">="(l : integer; r : unresolved_signed) return boolean;
  function ">="(l : unresolved_signed; r : integer) return boolean;
  function "="(l, r : unresolved_unsigned) return boolean;
  function "="(l, r : unresolved_signed) return boolean;
  function "="(l : natural; r : unresolved_unsigned) return boolean;
  function "="(l : unresolved_unsigned; r : natural) return boolean;
  function "="(l : integer; r : unresolved_signed) return boolean;
  function "="(l : unresolved_signed; r : integer) return boolean;
  function "/="(l, r : unresolved_unsigned) return boolean;
  function "/="(l, r : unresolved_signed) return boolean;
  function "/="(l : natural; r : unresolved_unsigned) return boolean;
  function "/="(l : unresolved_unsigned; r : natural) return boolean;
  function "/="(l : integer; r : unresolved_signed) return boolean;
  function "/="(l : unresolved_signed; r : integer) return boolean;
  function minimum(l, r : unresolved_unsigned) return unresolved_unsigned;
  function minimum(l, r : unresolved_signed) return unresolved_signed;
  function minimum(l : natural; r : unresolved_unsigned) return unresolved_unsigned;
  function minimum(l : unresolved_unsigned; r : natural) return unresolved_unsigned;
  function minimum(l : integer; r : unresolved_signed) return unresolved_signed;
  function minimum(l : unresolved_signed; r : integer) return unresolved_signed;
  function maximum(l, r : unresolved_unsigned) return unresolved_unsigned;
  function maximum(l, r : unresolved_signed) return unresolved_signed;
  function maximum(l : natural; r : unresolved_unsigned) return unresolved_unsigned;
  function maximum(l : unresolved_unsigned; r : natural) return unresolved_unsigned;
  function maximum(l : integer; r : unresolved_signed) return unresolved_signed;
  function maximum(l : unresolved_signed; r : integer) return unresolved_signed;
  function "?="(l, r : unresolved_unsigned) return std_ulogic;
  function "?="(l, r : unresolved_signed) return std_ulogic;
  function "?="(l : natural; r : unresolved_unsigned) return std_ulogic;
  function "?="(l : unresolved_unsigned; r : natural) return std_ulogic;
  function "?="(l : integer; r : unresolved_signed) return std_ulogic;
  function "?="(l : unresolved_signed; r : integer) return std_ulogic;
  function "?/="(l, r : unresolved_unsigned) return std_ulogic;
  function "?/="(l, r : unresolved_signed) return std_ulogic;
  function "?/="(l : natural; r : unresolved_unsigned) return std_ulogic;
  function "?/="(l : unresolved_unsigned; r : natural) return std_ulogic;
  function "?/="(l : integer; r : unresolved_signed) return std_ulogic;
  function "?/="(l : unresolved_signed; r : integer) return std_ulogic;
  function "?<"(l, r : unresolved_unsigned) return std_ulogic;
  function "?<"(l, r : unresolved_signed) return std_ulogic;
  function "?<"(l : natural; r : unresolved_unsigned) return std_ulogic;
  function "?<"(l : unresolved_unsigned; r : natural) return std_ulogic;
  function "?<"(l : integer; r : unresolved_signed) return std_ulogic;
  function "?<"(l : unresolved_signed; r : integer) return std_ulogic;
  function "?<="(l, r : unresolved_unsigned) return std_ulogic;
  function "?<="(l, r : unresolved_signed) return std_ulogic;
  function "?<="(l : natural; r : unresolved_unsigned) return std_ulogic;
  function "?<="(l : unresolved_unsigned; r : natural) return std_ulogic;
  function "?<="(l : integer; r : unresolved_signed) return std_ulogic;
  function "?<="(l : unresolved_signed; r : integer) return std_ulogic;
  function "?>"(l, r : unresolved_unsigned) return std_ulogic;
  function "?>"(l, r : unresolved_signed) return std_ulogic;
  function "?>"(l : natural; r : unresolved_unsigned) return std_ulogic;
  function "?>"(l : unresolved_unsigned; r : natural) return std_ulogic;
  function "?>"(l : integer; r : unresolved_signed) return std_ulogic;
  function "?>"(l : unresolved_signed; r : integer) return std_ulogic;
  function "?>="(l, r : unresolved_unsigned) return std_ulogic;
  function "?>="(l, r : unresolved_signed) return std_ulogic;
  function "?>="(l : natural; r : unresolved_unsigned) return std_ulogic;
  function "?>="(l : unresolved_unsigned; r : natural) return std_ulogic;
  function "?>="(l : integer; r : unresolved_signed) return std_ulogic;
  function "?>="(l : unresolved_signed; r : integer) return std_ulogic;
  function shift_left(arg : unresolved_unsigned; count : natural) return unresolved_unsigned;
  function shift_left(arg : unresolved_signed; count : natural) return unresolved_signed;
  function shift_right(arg : unresolved_unsigned; count : natural) return unresolved_unsigned;
  function shift_right(arg : unresolved_signed; count : natural) return unresolved_signed;
  function rotate_left(arg : unresolved_unsigned; count : natural) return unresolved_unsigned;
  function rotate_left(arg : unresolved_signed; count : natural) return unresolved_signed;
  function rotate_right(arg : unresolved_unsigned; count : natural) return unresolved_unsigned;
  function rotate_right(arg : unresolved_signed; count : natural) return unresolved_signed;
  function "sll"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned;
  function "sll"(arg : unresolved_signed; count : integer) return unresolved_signed;
  function "srl"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned;
  function "srl"(arg : unresolved_signed; count : integer) return unresolved_signed;
  function "rol"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned;
  function "rol"(arg : unresolved_signed; count : integer) return unresolved_signed;
  function "ror"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned;
  function "ror"(arg : unresolved_signed; count : integer) return unresolved_signed;
  function "sla"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned;
  function "sla"(arg : unresolved_signed; count : integer) return unresolved_signed;
  function "sra"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned;
  function "sra"(arg : unresolved_signed; count : integer) return unresolved_signed;
  function resize(arg : unresolved_unsigned; new_size : natural) return unresolved_unsigned;
  function resize(arg, size_res : unresolved_unsigned) return unresolved_unsigned;
  function resize(arg : unresolved_signed; new_size : natural) return unresolved_signed;
  function resize(arg, size_res : unresolved_signed) return unresolved_signed;
  function longer(l, r : natural) return natural;
  function "not"(l : unresolved_unsigned) return unresolved_unsigned;
  function "and"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "and"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned;
  function "and"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned;
  function "and"(l : unresolved_unsigned) return std_ulogic;
  function "or"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "or"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned;
  function "or"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned;
  function "or"(l : unresolved_unsigned) return std_ulogic;
  function "nand"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "nand"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned;
  function "nand"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned;
  function "nand"(l : unresolved_unsigned) return std_ulogic;
  function "nor"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "nor"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned;
  function "nor"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned;
  function "nor"(l : unresolved_unsigned) return std_ulogic;
  function "xor"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "xor"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned;
  function "xor"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned;
  function "xor"(l : unresolved_unsigned) return std_ulogic;
  function "xnor"(l, r : unresolved_unsigned) return unresolved_unsigned;
  function "xnor"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned;
  function "xnor"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned;
  function "xnor"(l : unresolved_unsigned) return std_ulogic;
  function find_leftmost(arg : unresolved_unsigned; y : std_ulogic) return integer;
  function find_rightmost(arg : unresolved_unsigned; y : std_ulogic) return integer;
  function "not"(l : unresolved_signed) return unresolved_signed;
  function "and"(l, r : unresolved_signed) return unresolved_signed;
  function "and"(l : std_ulogic; r : unresolved_signed) return unresolved_signed;
  function "and"(l : unresolved_signed; r : std_ulogic) return unresolved_signed;
  function "and"(l : unresolved_signed) return std_ulogic;
  function "or"(l, r : unresolved_signed) return unresolved_signed;
  function "or"(l : std_ulogic; r : unresolved_signed) return unresolved_signed;
  function "or"(l : unresolved_signed; r : std_ulogic) return unresolved_signed;
  function "or"(l : unresolved_signed) return std_ulogic;
  function "nand"(l, r : unresolved_signed) return unresolved_signed;
  function "nand"(l : std_ulogic; r : unresolved_signed) return unresolved_signed;
  function "nand"(l : unresolved_signed; r : std_ulogic) return unresolved_signed;
  function "nand"(l : unresolved_signed) return std_ulogic;
  function "nor"(l, r : unresolved_signed) return unresolved_signed;
  function "nor"(l : std_ulogic; r : unresolved_signed) return unresolved_signed;
  function "nor"(l : unresolved_signed; r : std_ulogic) return unresolved_signed;
  function "nor"(l : unresolved_signed) return std_ulogic;
  function "xor"(l, r : unresolved_signed) return unresolved_signed;
  function "xor"(l : std_ulogic; r : unresolved_signed) return unresolved_signed;
  function "xor"(l : unresolved_signed; r : std_ulogic) return unresolved_signed;
  function "xor"(l : unresolved_signed) return std_ulogic;
  function "xnor"(l, r : unresolved_signed) return unresolved_signed;
  function "xnor"(l : std_ulogic; r : unresolved_signed) return unresolved_signed;
  function "xnor"(l : unresolved_signed; r : std_ulogic) return unresolved_signed;
  function "xnor"(l : unresolved_signed) return std_ulogic;
  function find_leftmost(arg : unresolved_signed; y : std_ulogic) return integer;
  function find_rightmost(arg : unresolved_signed; y : std_ulogic) return integer;
  function std_match(l, r : unresolved_unsigned) return boolean;
  function to_01(s : unresolved_unsigned; xmap : std_ulogic := '0') return unresolved_unsigned;
  function to_x01(s : unresolved_unsigned) return unresolved_unsigned;
  function to_x01z(s : unresolved_unsigned) return unresolved_unsigned;
  function to_ux01(s : unresolved_unsigned) return unresolved_unsigned;
  function is_x(s : unresolved_unsigned) return boolean;
  function std_match(l, r : unresolved_signed) return boolean;
  function to_01(s : unresolved_signed; xmap : std_ulogic := '0') return unresolved_signed;
  function to_x01(s : unresolved_signed) return unresolved_signed;
  function to_x01z(s : unresolved_signed) return unresolved_signed;
  function to_ux01(s : unresolved_signed) return unresolved_signed;
  function is_x(s : unresolved_signed) return boolean;
  function x_std_match(l, r : std_ulogic_vector) return boolean;
  function x_match1(l, r : std_ulogic) return std_ulogic;
  function std_match(l, r : std_ulogic_vector) return boolean;
  function std_match(l, r : std_ulogic) return boolean;
  function to_bstring(value : unresolved_unsigned) return string;
  function to_ostring(value : unresolved_unsigned) return string;
  function to_hstring(value : unresolved_unsigned) return string;
  alias to_binary_string is to_bstring [unresolved_unsigned return string];
  alias to_octal_string is to_ostring [unresolved_unsigned return string];
  alias to_hex_string is to_hstring [unresolved_unsigned return string];
  procedure read(l : inout std.textio.line; value : out unresolved_unsigned; good : out boolean);
  procedure read(l : inout std.textio.line; value : out unresolved_unsigned);
  procedure write(l : inout std.textio.line; value : unresolved_unsigned; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias bread is read [std.textio.line, unresolved_unsigned, boolean];
  alias bread is read [std.textio.line, unresolved_unsigned];
  alias binary_read is read [std.textio.line, unresolved_unsigned, boolean];
  alias binary_read is read [std.textio.line, unresolved_unsigned];
  alias bwrite is write [std.textio.line, unresolved_unsigned, std.textio.side, std.textio.width];
  alias binary_write is write [std.textio.line, unresolved_unsigned, std.textio.side, std.textio.width];
  procedure oread(l : inout std.textio.line; value : out unresolved_unsigned; good : out boolean);
  procedure oread(l : inout std.textio.line; value : out unresolved_unsigned);
  alias octal_read is oread [std.textio.line, unresolved_unsigned, boolean];
  alias octal_read is oread [std.textio.line, unresolved_unsigned];
  procedure hread(l : inout std.textio.line; value : out unresolved_unsigned; good : out boolean);
  procedure hread(l : inout std.textio.line; value : out unresolved_unsigned);
  alias hex_read is hread [std.textio.line, unresolved_unsigned, boolean];
  alias hex_read is hread [std.textio.line, unresolved_unsigned];
  procedure owrite(l : inout std.textio.line; value : unresolved_unsigned; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias octal_write is owrite [std.textio.line, unresolved_unsigned, std.textio.side, std.textio.width];
  procedure hwrite(l : inout std.textio.line; value : unresolved_unsigned; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias hex_write is hwrite [std.textio.line, unresolved_unsigned, std.textio.side, std.textio.width];
  function to_bstring(value : unresolved_signed) return string;
  function to_ostring(value : unresolved_signed) return string;
  function to_hstring(value : unresolved_signed) return string;
  alias to_binary_string is to_bstring [unresolved_signed return string];
  alias to_octal_string is to_ostring [unresolved_signed return string];
  alias to_hex_string is to_hstring [unresolved_signed return string];
  procedure read(l : inout std.textio.line; value : out unresolved_signed; good : out boolean);
  procedure read(l : inout std.textio.line; value : out unresolved_signed);
  procedure write(l : inout std.textio.line; value : unresolved_signed; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias bread is read [std.textio.line, unresolved_signed, boolean];
  alias bread is read [std.textio.line, unresolved_signed];
  alias binary_read is read [std.textio.line, unresolved_signed, boolean];
  alias binary_read is read [std.textio.line, unresolved_signed];
  alias bwrite is write [std.textio.line, unresolved_signed, std.textio.side, std.textio.width];
  alias binary_write is write [std.textio.line, unresolved_signed, std.textio.side, std.textio.width];
  procedure oread(l : inout std.textio.line; value : out unresolved_signed; good : out boolean);
  procedure oread(l : inout std.textio.line; value : out unresolved_signed);
  alias octal_read is oread [std.textio.line, unresolved_signed, boolean];
  alias octal_read is oread [std.textio.line, unresolved_signed];
  procedure hread(l : inout std.textio.line; value : out unresolved_signed; good : out boolean);
  procedure hread(l : inout std.textio.line; value : out unresolved_signed);
  alias hex_read is hread [std.textio.line, unresolved_signed, boolean];
  alias hex_read is hread [std.textio.line, unresolved_signed];
  procedure owrite(l : inout std.textio.line; value : unresolved_signed; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias octal_write is owrite [std.textio.line, unresolved_signed, std.textio.side, std.textio.width];
  procedure hwrite(l : inout std.textio.line; value : unresolved_signed; justified : std.textio.side := std.textio.right; field : std.textio.width := 0);
  alias hex_write is hwrite [std.textio.line, unresolved_signed, std.textio.side, std.textio.width];
end package;

package body numeric_std is
  function "abs"(arg : unresolved_signed) return unresolved_signed is
  begin
    return x_negate(arg, true, true);
  end function;
  function "-"(arg : unresolved_signed) return unresolved_signed is
  begin
    return x_negate(arg, false, true);
  end function;
  function to_unsigned(arg, size : natural) return unresolved_unsigned is
  begin
    assert x_fits(arg, size, false) or no_warning report "NUMERIC_STD.TO_UNSIGNED: vector truncated" severity warning;
    return x_from_integer(arg, size, true);
  end function;
  function to_signed(arg : integer; size : natural) return unresolved_signed is
  begin
    assert x_fits(arg, size, true) or no_warning report "NUMERIC_STD.TO_SIGNED: vector truncated" severity warning;
    return x_from_integer(arg, size, true);
  end function;
  function to_unsigned(arg : natural; size_res : unresolved_unsigned) return unresolved_unsigned is
  begin
    return to_unsigned(arg, size_res'length);
  end function;
  function to_signed(arg : integer; size_res : unresolved_signed) return unresolved_signed is
  begin
    return to_signed(arg, size_res'length);
  end function;
  function to_integer(arg : unresolved_unsigned) return natural is
  begin
    if arg'length < 1 then
      assert no_warning report "NUMERIC_STD.TO_INTEGER: null detected, returning 0" severity warning;
      return 0;
    end if;
    if x_is_x(arg) then
      assert no_warning report "NUMERIC_STD.TO_INTEGER: metavalue detected, returning 0" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, false, true);
  end function;
  function to_integer(arg : unresolved_signed) return integer is
  begin
    if arg'length < 1 then
      assert no_warning report "NUMERIC_STD.TO_INTEGER: null detected, returning 0" severity warning;
      return 0;
    end if;
    if x_is_x(arg) then
      assert no_warning report "NUMERIC_STD.TO_INTEGER: metavalue detected, returning 0" severity warning;
      return 0;
    end if;
    return x_to_integer(arg, true, true);
  end function;
  function "+"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_add(l, r, false, false, true);
  end function;
  function "+"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_add(l, r, false, true, true);
  end function;
  function "+"(l : unresolved_unsigned; r : natural) return unresolved_unsigned is
  begin
    return x_add(l, to_unsigned(r, l'length), false, false, true);
  end function;
  function "+"(l : natural; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_add(to_unsigned(l, r'length), r, false, false, true);
  end function;
  function "+"(l : unresolved_signed; r : integer) return unresolved_signed is
  begin
    return x_add(l, to_signed(r, l'length), false, true, true);
  end function;
  function "+"(l : integer; r : unresolved_signed) return unresolved_signed is
  begin
    return x_add(to_signed(l, r'length), r, false, true, true);
  end function;
  function "+"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned is
    variable one : unresolved_unsigned(l'length - 1 downto 0) := (others => '0');
  begin
    if l'length > 0 then
      one(0) := r;
    end if;
    return x_add(l, one, false, false, true);
  end function;
  function "+"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned is
    variable one : unresolved_unsigned(r'length - 1 downto 0) := (others => '0');
  begin
    if r'length > 0 then
      one(0) := l;
    end if;
    return x_add(one, r, false, false, true);
  end function;
  function "+"(l : unresolved_signed; r : std_ulogic) return unresolved_signed is
    variable one : unresolved_signed(l'length - 1 downto 0) := (others => '0');
  begin
    if l'length > 0 then
      one(0) := r;
    end if;
    return x_add(l, one, false, false, true);
  end function;
  function "+"(l : std_ulogic; r : unresolved_signed) return unresolved_signed is
    variable one : unresolved_signed(r'length - 1 downto 0) := (others => '0');
  begin
    if r'length > 0 then
      one(0) := l;
    end if;
    return x_add(one, r, false, false, true);
  end function;
  function "-"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_add(l, r, true, false, true);
  end function;
  function "-"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_add(l, r, true, true, true);
  end function;
  function "-"(l : unresolved_unsigned; r : natural) return unresolved_unsigned is
  begin
    return x_add(l, to_unsigned(r, l'length), true, false, true);
  end function;
  function "-"(l : natural; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_add(to_unsigned(l, r'length), r, true, false, true);
  end function;
  function "-"(l : unresolved_signed; r : integer) return unresolved_signed is
  begin
    return x_add(l, to_signed(r, l'length), true, true, true);
  end function;
  function "-"(l : integer; r : unresolved_signed) return unresolved_signed is
  begin
    return x_add(to_signed(l, r'length), r, true, true, true);
  end function;
  function "-"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned is
    variable one : unresolved_unsigned(l'length - 1 downto 0) := (others => '0');
  begin
    if l'length > 0 then
      one(0) := r;
    end if;
    return x_add(l, one, true, false, true);
  end function;
  function "-"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned is
    variable one : unresolved_unsigned(r'length - 1 downto 0) := (others => '0');
  begin
    if r'length > 0 then
      one(0) := l;
    end if;
    return x_add(one, r, true, false, true);
  end function;
  function "-"(l : unresolved_signed; r : std_ulogic) return unresolved_signed is
    variable one : unresolved_signed(l'length - 1 downto 0) := (others => '0');
  begin
    if l'length > 0 then
      one(0) := r;
    end if;
    return x_add(l, one, true, false, true);
  end function;
  function "-"(l : std_ulogic; r : unresolved_signed) return unresolved_signed is
    variable one : unresolved_signed(r'length - 1 downto 0) := (others => '0');
  begin
    if r'length > 0 then
      one(0) := l;
    end if;
    return x_add(one, r, true, false, true);
  end function;
  function "*"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_mul(l, r, false, true);
  end function;
  function "*"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_mul(l, r, true, true);
  end function;
  function "*"(l : unresolved_unsigned; r : natural) return unresolved_unsigned is
  begin
    return x_mul(l, to_unsigned(r, l'length), false, true);
  end function;
  function "*"(l : natural; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_mul(to_unsigned(l, r'length), r, false, true);
  end function;
  function "*"(l : unresolved_signed; r : integer) return unresolved_signed is
  begin
    return x_mul(l, to_signed(r, l'length), true, true);
  end function;
  function "*"(l : integer; r : unresolved_signed) return unresolved_signed is
  begin
    return x_mul(to_signed(l, r'length), r, true, true);
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
  function "/"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_div(l, r, 0, false, true);
  end function;
  function "/"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_div(l, r, 0, true, true);
  end function;
  function "/"(l : unresolved_unsigned; r : natural) return unresolved_unsigned is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), 0, false, true), l'length, 0, true);
  end function;
  function "/"(l : natural; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, 0, false, true), r'length, 0, true);
  end function;
  function "/"(l : unresolved_signed; r : integer) return unresolved_signed is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_signed(r, l'length), true), 0, true, true), l'length, 1, true);
  end function;
  function "/"(l : integer; r : unresolved_signed) return unresolved_signed is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_signed(l, r'length), true), r, 0, true, true), r'length, 1, true);
  end function;
  function "rem"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_div(l, r, 1, false, true);
  end function;
  function "rem"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_div(l, r, 1, true, true);
  end function;
  function "rem"(l : unresolved_unsigned; r : natural) return unresolved_unsigned is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), 1, false, true), l'length, 0, true);
  end function;
  function "rem"(l : natural; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, 1, false, true), r'length, 0, true);
  end function;
  function "rem"(l : unresolved_signed; r : integer) return unresolved_signed is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_signed(r, l'length), true), 1, true, true), l'length, 1, true);
  end function;
  function "rem"(l : integer; r : unresolved_signed) return unresolved_signed is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_signed(l, r'length), true), r, 1, true, true), r'length, 1, true);
  end function;
  function "mod"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_div(l, r, 2, false, true);
  end function;
  function "mod"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_div(l, r, 2, true, true);
  end function;
  function "mod"(l : unresolved_unsigned; r : natural) return unresolved_unsigned is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), 2, false, true), l'length, 0, true);
  end function;
  function "mod"(l : natural; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, 2, false, true), r'length, 0, true);
  end function;
  function "mod"(l : unresolved_signed; r : integer) return unresolved_signed is
  begin
    return x_resize(x_div(l, x_from_integer(r, bits_of_signed(r, l'length), true), 2, true, true), l'length, 1, true);
  end function;
  function "mod"(l : integer; r : unresolved_signed) return unresolved_signed is
  begin
    return x_resize(x_div(x_from_integer(l, bits_of_signed(l, r'length), true), r, 2, true, true), r'length, 1, true);
  end function;
  function "<"(l, r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l, r : unresolved_signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : natural; r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : unresolved_unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : integer; r : unresolved_signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), true), r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function "<"(l : unresolved_signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), true), true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = -1;
  end function;
  function ">"(l, r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l, r : unresolved_signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : natural; r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : unresolved_unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : integer; r : unresolved_signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), true), r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function ">"(l : unresolved_signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), true), true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">"": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">"": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 1;
  end function;
  function "<="(l, r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l, r : unresolved_signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : natural; r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : unresolved_unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : integer; r : unresolved_signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), true), r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function "<="(l : unresolved_signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), true), true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""<="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""<="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o <= 0;
  end function;
  function ">="(l, r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l, r : unresolved_signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : natural; r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : unresolved_unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : integer; r : unresolved_signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), true), r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function ">="(l : unresolved_signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), true), true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD."">="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD."">="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0 or o = 1;
  end function;
  function "="(l, r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l, r : unresolved_signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : natural; r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : unresolved_unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : integer; r : unresolved_signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), true), r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "="(l : unresolved_signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), true), true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""="": null argument detected, returning FALSE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""="": metavalue detected, returning FALSE" severity warning;
      end if;
      return false;
    end if;
    return o = 0;
  end function;
  function "/="(l, r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(l, r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l, r : unresolved_signed) return boolean is
    constant o : integer := x_order(l, r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : natural; r : unresolved_unsigned) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_unsigned(l, r'length), true), r, false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : unresolved_unsigned; r : natural) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_unsigned(r, l'length), true), false, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : integer; r : unresolved_signed) return boolean is
    constant o : integer := x_order(x_from_integer(l, bits_of_signed(l, r'length), true), r, true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function "/="(l : unresolved_signed; r : integer) return boolean is
    constant o : integer := x_order(l, x_from_integer(r, bits_of_signed(r, l'length), true), true, true);
  begin
    if o >= 2 then
      if o = 3 then
        assert no_warning report "NUMERIC_STD.""/="": null argument detected, returning TRUE" severity warning;
      else
        assert no_warning report "NUMERIC_STD.""/="": metavalue detected, returning TRUE" severity warning;
      end if;
      return true;
    end if;
    return o /= 0;
  end function;
  function minimum(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    if l < r then
      return resize(l, longer(l'length, r'length));
    end if;
    return resize(r, longer(l'length, r'length));
  end function;
  function minimum(l, r : unresolved_signed) return unresolved_signed is
  begin
    if l < r then
      return resize(l, longer(l'length, r'length));
    end if;
    return resize(r, longer(l'length, r'length));
  end function;
  function minimum(l : natural; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return minimum(to_unsigned(l, r'length), r);
  end function;
  function minimum(l : unresolved_unsigned; r : natural) return unresolved_unsigned is
  begin
    return minimum(l, to_unsigned(r, l'length));
  end function;
  function minimum(l : integer; r : unresolved_signed) return unresolved_signed is
  begin
    return minimum(to_signed(l, r'length), r);
  end function;
  function minimum(l : unresolved_signed; r : integer) return unresolved_signed is
  begin
    return minimum(l, to_signed(r, l'length));
  end function;
  function maximum(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    if l > r then
      return resize(l, longer(l'length, r'length));
    end if;
    return resize(r, longer(l'length, r'length));
  end function;
  function maximum(l, r : unresolved_signed) return unresolved_signed is
  begin
    if l > r then
      return resize(l, longer(l'length, r'length));
    end if;
    return resize(r, longer(l'length, r'length));
  end function;
  function maximum(l : natural; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return maximum(to_unsigned(l, r'length), r);
  end function;
  function maximum(l : unresolved_unsigned; r : natural) return unresolved_unsigned is
  begin
    return maximum(l, to_unsigned(r, l'length));
  end function;
  function maximum(l : integer; r : unresolved_signed) return unresolved_signed is
  begin
    return maximum(to_signed(l, r'length), r);
  end function;
  function maximum(l : unresolved_signed; r : integer) return unresolved_signed is
  begin
    return maximum(l, to_signed(r, l'length));
  end function;
  function "?="(l, r : unresolved_unsigned) return std_ulogic is
  begin
    return x_match(resize(l, longer(l'length, r'length)), resize(r, longer(l'length, r'length)));
  end function;
  function "?="(l, r : unresolved_signed) return std_ulogic is
  begin
    return x_match(resize(l, longer(l'length, r'length)), resize(r, longer(l'length, r'length)));
  end function;
  function "?="(l : natural; r : unresolved_unsigned) return std_ulogic is
  begin
    return x_match(to_unsigned(l, r'length), r);
  end function;
  function "?="(l : unresolved_unsigned; r : natural) return std_ulogic is
  begin
    return x_match(l, to_unsigned(r, l'length));
  end function;
  function "?="(l : integer; r : unresolved_signed) return std_ulogic is
  begin
    return x_match(to_signed(l, r'length), r);
  end function;
  function "?="(l : unresolved_signed; r : integer) return std_ulogic is
  begin
    return x_match(l, to_signed(r, l'length));
  end function;
  function "?/="(l, r : unresolved_unsigned) return std_ulogic is
  begin
    return not x_match(resize(l, longer(l'length, r'length)), resize(r, longer(l'length, r'length)));
  end function;
  function "?/="(l, r : unresolved_signed) return std_ulogic is
  begin
    return not x_match(resize(l, longer(l'length, r'length)), resize(r, longer(l'length, r'length)));
  end function;
  function "?/="(l : natural; r : unresolved_unsigned) return std_ulogic is
  begin
    return not x_match(to_unsigned(l, r'length), r);
  end function;
  function "?/="(l : unresolved_unsigned; r : natural) return std_ulogic is
  begin
    return not x_match(l, to_unsigned(r, l'length));
  end function;
  function "?/="(l : integer; r : unresolved_signed) return std_ulogic is
  begin
    return not x_match(to_signed(l, r'length), r);
  end function;
  function "?/="(l : unresolved_signed; r : integer) return std_ulogic is
  begin
    return not x_match(l, to_signed(r, l'length));
  end function;
  function "?<"(l, r : unresolved_unsigned) return std_ulogic is
  begin
    if x_is_x(l) or x_is_x(r) then
      return 'X';
    elsif l < r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<"(l, r : unresolved_signed) return std_ulogic is
  begin
    if x_is_x(l) or x_is_x(r) then
      return 'X';
    elsif l < r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<"(l : natural; r : unresolved_unsigned) return std_ulogic is
  begin
    if x_is_x(r) then
      return 'X';
    elsif l < r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<"(l : unresolved_unsigned; r : natural) return std_ulogic is
  begin
    if x_is_x(l) then
      return 'X';
    elsif l < r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<"(l : integer; r : unresolved_signed) return std_ulogic is
  begin
    if x_is_x(r) then
      return 'X';
    elsif l < r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<"(l : unresolved_signed; r : integer) return std_ulogic is
  begin
    if x_is_x(l) then
      return 'X';
    elsif l < r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<="(l, r : unresolved_unsigned) return std_ulogic is
  begin
    if x_is_x(l) or x_is_x(r) then
      return 'X';
    elsif l <= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<="(l, r : unresolved_signed) return std_ulogic is
  begin
    if x_is_x(l) or x_is_x(r) then
      return 'X';
    elsif l <= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<="(l : natural; r : unresolved_unsigned) return std_ulogic is
  begin
    if x_is_x(r) then
      return 'X';
    elsif l <= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<="(l : unresolved_unsigned; r : natural) return std_ulogic is
  begin
    if x_is_x(l) then
      return 'X';
    elsif l <= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<="(l : integer; r : unresolved_signed) return std_ulogic is
  begin
    if x_is_x(r) then
      return 'X';
    elsif l <= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?<="(l : unresolved_signed; r : integer) return std_ulogic is
  begin
    if x_is_x(l) then
      return 'X';
    elsif l <= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>"(l, r : unresolved_unsigned) return std_ulogic is
  begin
    if x_is_x(l) or x_is_x(r) then
      return 'X';
    elsif l > r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>"(l, r : unresolved_signed) return std_ulogic is
  begin
    if x_is_x(l) or x_is_x(r) then
      return 'X';
    elsif l > r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>"(l : natural; r : unresolved_unsigned) return std_ulogic is
  begin
    if x_is_x(r) then
      return 'X';
    elsif l > r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>"(l : unresolved_unsigned; r : natural) return std_ulogic is
  begin
    if x_is_x(l) then
      return 'X';
    elsif l > r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>"(l : integer; r : unresolved_signed) return std_ulogic is
  begin
    if x_is_x(r) then
      return 'X';
    elsif l > r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>"(l : unresolved_signed; r : integer) return std_ulogic is
  begin
    if x_is_x(l) then
      return 'X';
    elsif l > r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>="(l, r : unresolved_unsigned) return std_ulogic is
  begin
    if x_is_x(l) or x_is_x(r) then
      return 'X';
    elsif l >= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>="(l, r : unresolved_signed) return std_ulogic is
  begin
    if x_is_x(l) or x_is_x(r) then
      return 'X';
    elsif l >= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>="(l : natural; r : unresolved_unsigned) return std_ulogic is
  begin
    if x_is_x(r) then
      return 'X';
    elsif l >= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>="(l : unresolved_unsigned; r : natural) return std_ulogic is
  begin
    if x_is_x(l) then
      return 'X';
    elsif l >= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>="(l : integer; r : unresolved_signed) return std_ulogic is
  begin
    if x_is_x(r) then
      return 'X';
    elsif l >= r then
      return '1';
    end if;
    return '0';
  end function;
  function "?>="(l : unresolved_signed; r : integer) return std_ulogic is
  begin
    if x_is_x(l) then
      return 'X';
    elsif l >= r then
      return '1';
    end if;
    return '0';
  end function;
  function shift_left(arg : unresolved_unsigned; count : natural) return unresolved_unsigned is
  begin
    return x_shift(arg, count, 0, true);
  end function;
  function shift_left(arg : unresolved_signed; count : natural) return unresolved_signed is
  begin
    return x_shift(arg, count, 0, true);
  end function;
  function shift_right(arg : unresolved_unsigned; count : natural) return unresolved_unsigned is
  begin
    return x_shift(arg, count, 1, true);
  end function;
  function shift_right(arg : unresolved_signed; count : natural) return unresolved_signed is
  begin
    return x_shift(arg, count, 2, true);
  end function;
  function rotate_left(arg : unresolved_unsigned; count : natural) return unresolved_unsigned is
  begin
    return x_shift(arg, count, 3, true);
  end function;
  function rotate_left(arg : unresolved_signed; count : natural) return unresolved_signed is
  begin
    return x_shift(arg, count, 3, true);
  end function;
  function rotate_right(arg : unresolved_unsigned; count : natural) return unresolved_unsigned is
  begin
    return x_shift(arg, count, 4, true);
  end function;
  function rotate_right(arg : unresolved_signed; count : natural) return unresolved_signed is
  begin
    return x_shift(arg, count, 4, true);
  end function;
  function "sll"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned is
  begin
    if count >= 0 then
      return shift_left(arg, count);
    end if;
    return shift_right(arg, -count);
  end function;
  function "sll"(arg : unresolved_signed; count : integer) return unresolved_signed is
  begin
    if count >= 0 then
      return x_shift(arg, count, 0, true);
    end if;
    return x_shift(arg, -count, 1, true);
  end function;
  function "srl"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned is
  begin
    if count >= 0 then
      return shift_right(arg, count);
    end if;
    return shift_left(arg, -count);
  end function;
  function "srl"(arg : unresolved_signed; count : integer) return unresolved_signed is
  begin
    if count >= 0 then
      return x_shift(arg, count, 1, true);
    end if;
    return x_shift(arg, -count, 0, true);
  end function;
  function "rol"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned is
  begin
    if count >= 0 then
      return rotate_left(arg, count);
    end if;
    return rotate_right(arg, -count);
  end function;
  function "rol"(arg : unresolved_signed; count : integer) return unresolved_signed is
  begin
    if count >= 0 then
      return rotate_left(arg, count);
    end if;
    return rotate_right(arg, -count);
  end function;
  function "ror"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned is
  begin
    if count >= 0 then
      return rotate_right(arg, count);
    end if;
    return rotate_left(arg, -count);
  end function;
  function "ror"(arg : unresolved_signed; count : integer) return unresolved_signed is
  begin
    if count >= 0 then
      return rotate_right(arg, count);
    end if;
    return rotate_left(arg, -count);
  end function;
  function "sla"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned is
  begin
    if count >= 0 then
      return shift_left(arg, count);
    end if;
    return shift_right(arg, -count);
  end function;
  function "sla"(arg : unresolved_signed; count : integer) return unresolved_signed is
  begin
    if count >= 0 then
      return shift_left(arg, count);
    end if;
    return shift_right(arg, -count);
  end function;
  function "sra"(arg : unresolved_unsigned; count : integer) return unresolved_unsigned is
  begin
    if count >= 0 then
      return shift_right(arg, count);
    end if;
    return shift_left(arg, -count);
  end function;
  function "sra"(arg : unresolved_signed; count : integer) return unresolved_signed is
  begin
    if count >= 0 then
      return shift_right(arg, count);
    end if;
    return shift_left(arg, -count);
  end function;
  function resize(arg : unresolved_unsigned; new_size : natural) return unresolved_unsigned is
  begin
    return x_resize(arg, new_size, 0, true);
  end function;
  function resize(arg, size_res : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_resize(arg, size_res'length, 0, true);
  end function;
  function resize(arg : unresolved_signed; new_size : natural) return unresolved_signed is
  begin
    return x_resize(arg, new_size, 1, true);
  end function;
  function resize(arg, size_res : unresolved_signed) return unresolved_signed is
  begin
    return x_resize(arg, size_res'length, 1, true);
  end function;
  function longer(l, r : natural) return natural is
  begin
    if l > r then
      return l;
    end if;
    return r;
  end function;
  function "not"(l : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_not(l, true));
  end function;
  function "and"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic(l, r, 0, true));
  end function;
  function "and"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(r, l, 0, true));
  end function;
  function "and"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(l, r, 0, true));
  end function;
  function "and"(l : unresolved_unsigned) return std_ulogic is
  begin
    return x_reduce(l, 0, true);
  end function;
  function "or"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic(l, r, 1, true));
  end function;
  function "or"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(r, l, 1, true));
  end function;
  function "or"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(l, r, 1, true));
  end function;
  function "or"(l : unresolved_unsigned) return std_ulogic is
  begin
    return x_reduce(l, 1, true);
  end function;
  function "nand"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic(l, r, 2, true));
  end function;
  function "nand"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(r, l, 2, true));
  end function;
  function "nand"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(l, r, 2, true));
  end function;
  function "nand"(l : unresolved_unsigned) return std_ulogic is
  begin
    return x_reduce(l, 2, true);
  end function;
  function "nor"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic(l, r, 3, true));
  end function;
  function "nor"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(r, l, 3, true));
  end function;
  function "nor"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(l, r, 3, true));
  end function;
  function "nor"(l : unresolved_unsigned) return std_ulogic is
  begin
    return x_reduce(l, 3, true);
  end function;
  function "xor"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic(l, r, 4, true));
  end function;
  function "xor"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(r, l, 4, true));
  end function;
  function "xor"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(l, r, 4, true));
  end function;
  function "xor"(l : unresolved_unsigned) return std_ulogic is
  begin
    return x_reduce(l, 4, true);
  end function;
  function "xnor"(l, r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic(l, r, 5, true));
  end function;
  function "xnor"(l : std_ulogic; r : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(r, l, 5, true));
  end function;
  function "xnor"(l : unresolved_unsigned; r : std_ulogic) return unresolved_unsigned is
  begin
    return x_down(x_logic_with(l, r, 5, true));
  end function;
  function "xnor"(l : unresolved_unsigned) return std_ulogic is
  begin
    return x_reduce(l, 5, true);
  end function;
  function find_leftmost(arg : unresolved_unsigned; y : std_ulogic) return integer is
  begin
    for i in arg'range loop
      if (arg(i) ?= y) = '1' then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function find_rightmost(arg : unresolved_unsigned; y : std_ulogic) return integer is
  begin
    for i in arg'reverse_range loop
      if (arg(i) ?= y) = '1' then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function "not"(l : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_not(l, true));
  end function;
  function "and"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic(l, r, 0, true));
  end function;
  function "and"(l : std_ulogic; r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic_with(r, l, 0, true));
  end function;
  function "and"(l : unresolved_signed; r : std_ulogic) return unresolved_signed is
  begin
    return x_down(x_logic_with(l, r, 0, true));
  end function;
  function "and"(l : unresolved_signed) return std_ulogic is
  begin
    return x_reduce(l, 0, true);
  end function;
  function "or"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic(l, r, 1, true));
  end function;
  function "or"(l : std_ulogic; r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic_with(r, l, 1, true));
  end function;
  function "or"(l : unresolved_signed; r : std_ulogic) return unresolved_signed is
  begin
    return x_down(x_logic_with(l, r, 1, true));
  end function;
  function "or"(l : unresolved_signed) return std_ulogic is
  begin
    return x_reduce(l, 1, true);
  end function;
  function "nand"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic(l, r, 2, true));
  end function;
  function "nand"(l : std_ulogic; r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic_with(r, l, 2, true));
  end function;
  function "nand"(l : unresolved_signed; r : std_ulogic) return unresolved_signed is
  begin
    return x_down(x_logic_with(l, r, 2, true));
  end function;
  function "nand"(l : unresolved_signed) return std_ulogic is
  begin
    return x_reduce(l, 2, true);
  end function;
  function "nor"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic(l, r, 3, true));
  end function;
  function "nor"(l : std_ulogic; r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic_with(r, l, 3, true));
  end function;
  function "nor"(l : unresolved_signed; r : std_ulogic) return unresolved_signed is
  begin
    return x_down(x_logic_with(l, r, 3, true));
  end function;
  function "nor"(l : unresolved_signed) return std_ulogic is
  begin
    return x_reduce(l, 3, true);
  end function;
  function "xor"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic(l, r, 4, true));
  end function;
  function "xor"(l : std_ulogic; r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic_with(r, l, 4, true));
  end function;
  function "xor"(l : unresolved_signed; r : std_ulogic) return unresolved_signed is
  begin
    return x_down(x_logic_with(l, r, 4, true));
  end function;
  function "xor"(l : unresolved_signed) return std_ulogic is
  begin
    return x_reduce(l, 4, true);
  end function;
  function "xnor"(l, r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic(l, r, 5, true));
  end function;
  function "xnor"(l : std_ulogic; r : unresolved_signed) return unresolved_signed is
  begin
    return x_down(x_logic_with(r, l, 5, true));
  end function;
  function "xnor"(l : unresolved_signed; r : std_ulogic) return unresolved_signed is
  begin
    return x_down(x_logic_with(l, r, 5, true));
  end function;
  function "xnor"(l : unresolved_signed) return std_ulogic is
  begin
    return x_reduce(l, 5, true);
  end function;
  function find_leftmost(arg : unresolved_signed; y : std_ulogic) return integer is
  begin
    for i in arg'range loop
      if (arg(i) ?= y) = '1' then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function find_rightmost(arg : unresolved_signed; y : std_ulogic) return integer is
  begin
    for i in arg'reverse_range loop
      if (arg(i) ?= y) = '1' then
        return i;
      end if;
    end loop;
    return -1;
  end function;
  function std_match(l, r : unresolved_unsigned) return boolean is
  begin
    return x_std_match(l, r);
  end function;
  function to_01(s : unresolved_unsigned; xmap : std_ulogic := '0') return unresolved_unsigned is
    variable result : unresolved_unsigned(s'length - 1 downto 0);
    alias v : unresolved_unsigned(s'length - 1 downto 0) is s;
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
  function to_x01(s : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_map(s, 0, '0');
  end function;
  function to_x01z(s : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_map(s, 1, '0');
  end function;
  function to_ux01(s : unresolved_unsigned) return unresolved_unsigned is
  begin
    return x_map(s, 2, '0');
  end function;
  function is_x(s : unresolved_unsigned) return boolean is
  begin
    return x_is_x(s);
  end function;
  function std_match(l, r : unresolved_signed) return boolean is
  begin
    return x_std_match(l, r);
  end function;
  function to_01(s : unresolved_signed; xmap : std_ulogic := '0') return unresolved_signed is
    variable result : unresolved_signed(s'length - 1 downto 0);
    alias v : unresolved_signed(s'length - 1 downto 0) is s;
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
  function to_x01(s : unresolved_signed) return unresolved_signed is
  begin
    return x_map(s, 0, '0');
  end function;
  function to_x01z(s : unresolved_signed) return unresolved_signed is
  begin
    return x_map(s, 1, '0');
  end function;
  function to_ux01(s : unresolved_signed) return unresolved_signed is
  begin
    return x_map(s, 2, '0');
  end function;
  function is_x(s : unresolved_signed) return boolean is
  begin
    return x_is_x(s);
  end function;
  function std_match(l, r : std_ulogic_vector) return boolean is
  begin
    return x_std_match(l, r);
  end function;
  function std_match(l, r : std_ulogic) return boolean is
  begin
    return x_std_match(std_ulogic_vector'(1 => l), std_ulogic_vector'(1 => r));
  end function;
  function to_bstring(value : unresolved_unsigned) return string is
  begin
    return to_string(value);
  end function;
  function to_ostring(value : unresolved_unsigned) return string is
  begin
    return x_digits(value, 3, false, true);
  end function;
  function to_hstring(value : unresolved_unsigned) return string is
  begin
    return x_digits(value, 4, false, true);
  end function;
  procedure read(l : inout std.textio.line; value : out unresolved_unsigned; good : out boolean) is
  begin
    x_read_chars(l, value, "UX01ZWLH-", good);
  end procedure;
  procedure read(l : inout std.textio.line; value : out unresolved_unsigned) is
    variable ok : boolean;
  begin
    x_read_chars(l, value, "UX01ZWLH-", ok);
    assert ok report "read: there is no vector to read" severity error;
  end procedure;
  procedure write(l : inout std.textio.line; value : unresolved_unsigned; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_string(value), justified, field);
  end procedure;
  procedure oread(l : inout std.textio.line; value : out unresolved_unsigned; good : out boolean) is
  begin
    x_read_digits(l, value, 3, true, good);
  end procedure;
  procedure oread(l : inout std.textio.line; value : out unresolved_unsigned) is
    variable ok : boolean;
  begin
    x_read_digits(l, value, 3, true, ok);
    assert ok report "oread: there are no digits to read" severity error;
  end procedure;
  procedure hread(l : inout std.textio.line; value : out unresolved_unsigned; good : out boolean) is
  begin
    x_read_digits(l, value, 4, true, good);
  end procedure;
  procedure hread(l : inout std.textio.line; value : out unresolved_unsigned) is
    variable ok : boolean;
  begin
    x_read_digits(l, value, 4, true, ok);
    assert ok report "hread: there are no digits to read" severity error;
  end procedure;
  procedure owrite(l : inout std.textio.line; value : unresolved_unsigned; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_ostring(value), justified, field);
  end procedure;
  procedure hwrite(l : inout std.textio.line; value : unresolved_unsigned; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_hstring(value), justified, field);
  end procedure;
  function to_bstring(value : unresolved_signed) return string is
  begin
    return to_string(value);
  end function;
  function to_ostring(value : unresolved_signed) return string is
  begin
    return x_digits(value, 3, true, true);
  end function;
  function to_hstring(value : unresolved_signed) return string is
  begin
    return x_digits(value, 4, true, true);
  end function;
  procedure read(l : inout std.textio.line; value : out unresolved_signed; good : out boolean) is
  begin
    x_read_chars(l, value, "UX01ZWLH-", good);
  end procedure;
  procedure read(l : inout std.textio.line; value : out unresolved_signed) is
    variable ok : boolean;
  begin
    x_read_chars(l, value, "UX01ZWLH-", ok);
    assert ok report "read: there is no vector to read" severity error;
  end procedure;
  procedure write(l : inout std.textio.line; value : unresolved_signed; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_string(value), justified, field);
  end procedure;
  procedure oread(l : inout std.textio.line; value : out unresolved_signed; good : out boolean) is
  begin
    x_read_digits(l, value, 3, true, good);
  end procedure;
  procedure oread(l : inout std.textio.line; value : out unresolved_signed) is
    variable ok : boolean;
  begin
    x_read_digits(l, value, 3, true, ok);
    assert ok report "oread: there are no digits to read" severity error;
  end procedure;
  procedure hread(l : inout std.textio.line; value : out unresolved_signed; good : out boolean) is
  begin
    x_read_digits(l, value, 4, true, good);
  end procedure;
  procedure hread(l : inout std.textio.line; value : out unresolved_signed) is
    variable ok : boolean;
  begin
    x_read_digits(l, value, 4, true, ok);
    assert ok report "hread: there are no digits to read" severity error;
  end procedure;
  procedure owrite(l : inout std.textio.line; value : unresolved_signed; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_ostring(value), justified, field);
  end procedure;
  procedure hwrite(l : inout std.textio.line; value : unresolved_signed; justified : std.textio.side := std.textio.right; field : std.textio.width := 0) is
  begin
    x_write(l, to_hstring(value), justified, field);
  end procedure;
end package body;
