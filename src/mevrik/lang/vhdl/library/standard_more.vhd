-- Functions of std.standard (IEEE 1076-2008 5.7, 16.3) that need no special treatment.
package standard_more is
  function x_real_image(value : real; digits : natural) return string;
  function x_real_format(value : real; format : string) return string;
  function x_time_image(value : time; unit : time) return string;
  function x_digits(value : bit_vector; bits : integer; signed : boolean; nine : boolean) return string;
  function to_string(value : real; digits : natural) return string;
  function to_string(value : real; format : string) return string;
  function to_string(value : time; unit : time) return string;
  function to_bstring(value : bit_vector) return string;
  alias to_binary_string is to_bstring [bit_vector return string];
  function to_ostring(value : bit_vector) return string;
  alias to_octal_string is to_ostring [bit_vector return string];
  function to_hstring(value : bit_vector) return string;
  alias to_hex_string is to_hstring [bit_vector return string];
end package;

package body standard_more is
  function to_bstring(value : bit_vector) return string is
  begin
    return to_string(value);
  end function;
  function to_string(value : real; digits : natural) return string is
  begin
    return x_real_image(value, digits);
  end function;
  function to_string(value : real; format : string) return string is
  begin
    return x_real_format(value, format);
  end function;
  function to_string(value : time; unit : time) return string is
  begin
    return x_time_image(value, unit);
  end function;
  function to_ostring(value : bit_vector) return string is
  begin
    return x_digits(value, 3, false, false);
  end function;
  function to_hstring(value : bit_vector) return string is
  begin
    return x_digits(value, 4, false, false);
  end function;
end package body;
