-- std.textio (IEEE 1076-2008 16.4). What begins with x_ is done by the run-time kernel.
package textio is
  type line is access string;
  type text is file of string;
  type side is (right, left);
  subtype width is natural;
  function justify(value : string; justified : side := right; field : width := 0) return string;
  file input : text open read_mode is "STD_INPUT";
  file output : text open write_mode is "STD_OUTPUT";
  procedure x_readline(file f : text; l : inout line);
  procedure x_writeline(file f : text; l : inout line);
  procedure readline(file f : text; l : inout line);
  procedure writeline(file f : text; l : inout line);
  procedure tee(file f : text; l : inout line);
  procedure x_read_char(l : inout line; value : out character; good : out boolean);
  procedure x_read_string(l : inout line; value : out string; good : out boolean);
  procedure x_read_word(l : inout line; value : out string; strlen : out natural);
  procedure x_read_integer(l : inout line; value : out integer; good : out boolean);
  procedure x_read_real(l : inout line; value : out real; good : out boolean);
  procedure x_read_time(l : inout line; value : out time; good : out boolean);
  procedure x_read_boolean(l : inout line; value : out boolean; good : out boolean);
  procedure x_read_chars(l : inout line; value : out bit_vector; chars : string; good : out boolean);
  procedure x_read_digits(l : inout line; value : out bit_vector; bits : integer; nine : boolean; good : out boolean);
  procedure x_write(l : inout line; value : string; justified : side; field : width);
  function x_real_image(value : real; digits : natural) return string;
  function x_time_image(value : time; unit : time) return string;
  procedure read(l : inout line; value : out bit; good : out boolean);
  procedure read(l : inout line; value : out bit);
  procedure read(l : inout line; value : out bit_vector; good : out boolean);
  procedure read(l : inout line; value : out bit_vector);
  procedure read(l : inout line; value : out boolean; good : out boolean);
  procedure read(l : inout line; value : out boolean);
  procedure read(l : inout line; value : out character; good : out boolean);
  procedure read(l : inout line; value : out character);
  procedure read(l : inout line; value : out integer; good : out boolean);
  procedure read(l : inout line; value : out integer);
  procedure read(l : inout line; value : out real; good : out boolean);
  procedure read(l : inout line; value : out real);
  procedure read(l : inout line; value : out string; good : out boolean);
  procedure read(l : inout line; value : out string);
  procedure read(l : inout line; value : out time; good : out boolean);
  procedure read(l : inout line; value : out time);
  procedure sread(l : inout line; value : out string; strlen : out natural);
  alias string_read is sread [line, string, natural];
  procedure bread(l : inout line; value : out bit_vector; good : out boolean);
  procedure bread(l : inout line; value : out bit_vector);
  alias binary_read is bread [line, bit_vector, boolean];
  alias binary_read is bread [line, bit_vector];
  procedure oread(l : inout line; value : out bit_vector; good : out boolean);
  procedure oread(l : inout line; value : out bit_vector);
  alias octal_read is oread [line, bit_vector, boolean];
  alias octal_read is oread [line, bit_vector];
  procedure hread(l : inout line; value : out bit_vector; good : out boolean);
  procedure hread(l : inout line; value : out bit_vector);
  alias hex_read is hread [line, bit_vector, boolean];
  alias hex_read is hread [line, bit_vector];
  procedure write(l : inout line; value : bit; justified : side := right; field : width := 0);
  procedure write(l : inout line; value : bit_vector; justified : side := right; field : width := 0);
  procedure write(l : inout line; value : boolean; justified : side := right; field : width := 0);
  procedure write(l : inout line; value : character; justified : side := right; field : width := 0);
  procedure write(l : inout line; value : integer; justified : side := right; field : width := 0);
  procedure write(l : inout line; value : real; justified : side := right; field : width := 0; digits : natural := 0);
  procedure write(l : inout line; value : real; format : string);
  procedure write(l : inout line; value : string; justified : side := right; field : width := 0);
  procedure write(l : inout line; value : time; justified : side := right; field : width := 0; unit : time := ns);
  alias swrite is write [line, string, side, width];
  alias string_write is write [line, string, side, width];
  alias bwrite is write [line, bit_vector, side, width];
  alias binary_write is write [line, bit_vector, side, width];
  procedure owrite(l : inout line; value : bit_vector; justified : side := right; field : width := 0);
  alias octal_write is owrite [line, bit_vector, side, width];
  procedure hwrite(l : inout line; value : bit_vector; justified : side := right; field : width := 0);
  alias hex_write is hwrite [line, bit_vector, side, width];
end package;

package body textio is
  function justify(value : string; justified : side := right; field : width := 0) return string is
    constant fill : string(1 to field) := (others => ' ');
  begin
    if value'length >= field then
      return value;
    elsif justified = left then
      return value & fill(1 to field - value'length);
    end if;
    return fill(1 to field - value'length) & value;
  end function;

  procedure readline(file f : text; l : inout line) is
  begin
    x_readline(f, l);
  end procedure;
  procedure writeline(file f : text; l : inout line) is
  begin
    x_writeline(f, l);
  end procedure;
  procedure tee(file f : text; l : inout line) is
    variable copy : line;
  begin
    if l /= null then
      write(copy, l.all);
    end if;
    x_writeline(output, copy);
    x_writeline(f, l);
  end procedure;

  procedure read(l : inout line; value : out bit; good : out boolean) is
    variable v : bit_vector(1 to 1);
    variable ok : boolean;
  begin
    x_read_chars(l, v, "01", ok);
    good := ok;
    if ok then
      value := v(1);
    end if;
  end procedure;
  procedure read(l : inout line; value : out bit) is
    variable ok : boolean;
  begin
    read(l, value, ok);
    assert ok report "textio.read(bit): there is no bit to read" severity error;
  end procedure;
  procedure read(l : inout line; value : out bit_vector; good : out boolean) is
    variable v : bit_vector(value'range);
    variable ok : boolean;
  begin
    x_read_chars(l, v, "01", ok);
    good := ok;
    if ok then
      value := v;
    end if;
  end procedure;
  procedure read(l : inout line; value : out bit_vector) is
    variable ok : boolean;
  begin
    read(l, value, ok);
    assert ok report "textio.read(bit_vector): there is no bit vector to read" severity error;
  end procedure;
  procedure read(l : inout line; value : out boolean; good : out boolean) is
  begin
    x_read_boolean(l, value, good);
  end procedure;
  procedure read(l : inout line; value : out boolean) is
    variable ok : boolean;
  begin
    x_read_boolean(l, value, ok);
    assert ok report "textio.read(boolean): there is no boolean to read" severity error;
  end procedure;
  procedure read(l : inout line; value : out character; good : out boolean) is
  begin
    x_read_char(l, value, good);
  end procedure;
  procedure read(l : inout line; value : out character) is
    variable ok : boolean;
  begin
    x_read_char(l, value, ok);
    assert ok report "textio.read(character): the line is at its end" severity error;
  end procedure;
  procedure read(l : inout line; value : out integer; good : out boolean) is
  begin
    x_read_integer(l, value, good);
  end procedure;
  procedure read(l : inout line; value : out integer) is
    variable ok : boolean;
  begin
    x_read_integer(l, value, ok);
    assert ok report "textio.read(integer): there is no integer to read" severity error;
  end procedure;
  procedure read(l : inout line; value : out real; good : out boolean) is
  begin
    x_read_real(l, value, good);
  end procedure;
  procedure read(l : inout line; value : out real) is
    variable ok : boolean;
  begin
    x_read_real(l, value, ok);
    assert ok report "textio.read(real): there is no real to read" severity error;
  end procedure;
  procedure read(l : inout line; value : out string; good : out boolean) is
  begin
    x_read_string(l, value, good);
  end procedure;
  procedure read(l : inout line; value : out string) is
    variable ok : boolean;
  begin
    x_read_string(l, value, ok);
    assert ok report "textio.read(string): the line is too short" severity error;
  end procedure;
  procedure read(l : inout line; value : out time; good : out boolean) is
  begin
    x_read_time(l, value, good);
  end procedure;
  procedure read(l : inout line; value : out time) is
    variable ok : boolean;
  begin
    x_read_time(l, value, ok);
    assert ok report "textio.read(time): there is no time to read" severity error;
  end procedure;
  procedure sread(l : inout line; value : out string; strlen : out natural) is
  begin
    x_read_word(l, value, strlen);
  end procedure;
  procedure bread(l : inout line; value : out bit_vector; good : out boolean) is
  begin
    read(l, value, good);
  end procedure;
  procedure bread(l : inout line; value : out bit_vector) is
  begin
    read(l, value);
  end procedure;
  procedure oread(l : inout line; value : out bit_vector; good : out boolean) is
  begin
    x_read_digits(l, value, 3, false, good);
  end procedure;
  procedure oread(l : inout line; value : out bit_vector) is
    variable ok : boolean;
  begin
    x_read_digits(l, value, 3, false, ok);
    assert ok report "textio.oread: there are no octal digits to read" severity error;
  end procedure;
  procedure hread(l : inout line; value : out bit_vector; good : out boolean) is
  begin
    x_read_digits(l, value, 4, false, good);
  end procedure;
  procedure hread(l : inout line; value : out bit_vector) is
    variable ok : boolean;
  begin
    x_read_digits(l, value, 4, false, ok);
    assert ok report "textio.hread: there are no hexadecimal digits to read" severity error;
  end procedure;

  procedure write(l : inout line; value : bit; justified : side := right; field : width := 0) is
  begin
    x_write(l, to_string(value), justified, field);
  end procedure;
  procedure write(l : inout line; value : bit_vector; justified : side := right; field : width := 0) is
  begin
    x_write(l, to_string(value), justified, field);
  end procedure;
  procedure write(l : inout line; value : boolean; justified : side := right; field : width := 0) is
  begin
    x_write(l, boolean'image(value), justified, field);
  end procedure;
  procedure write(l : inout line; value : character; justified : side := right; field : width := 0) is
    variable s : string(1 to 1);
  begin
    s(1) := value;
    x_write(l, s, justified, field);
  end procedure;
  procedure write(l : inout line; value : integer; justified : side := right; field : width := 0) is
  begin
    x_write(l, integer'image(value), justified, field);
  end procedure;
  procedure write(l : inout line; value : real; justified : side := right; field : width := 0; digits : natural := 0) is
  begin
    x_write(l, x_real_image(value, digits), justified, field);
  end procedure;
  procedure write(l : inout line; value : real; format : string) is
  begin
    x_write(l, to_string(value, format), right, 0);
  end procedure;
  procedure write(l : inout line; value : string; justified : side := right; field : width := 0) is
  begin
    x_write(l, value, justified, field);
  end procedure;
  procedure write(l : inout line; value : time; justified : side := right; field : width := 0; unit : time := ns) is
  begin
    x_write(l, x_time_image(value, unit), justified, field);
  end procedure;
  procedure owrite(l : inout line; value : bit_vector; justified : side := right; field : width := 0) is
  begin
    x_write(l, to_ostring(value), justified, field);
  end procedure;
  procedure hwrite(l : inout line; value : bit_vector; justified : side := right; field : width := 0) is
  begin
    x_write(l, to_hstring(value), justified, field);
  end procedure;
end package body;
