library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;
use work.core_types.all;

package assembler is
  type text_cell;
  type text_link is access text_cell;
  type text_cell is record
    name  : line;
    value : integer;
    rest  : text_link;
  end record;

  type symbol_table is protected
    procedure define (name : string; value : integer);
    impure function value_of (name : string) return integer;
    impure function known (name : string) return boolean;
    impure function count return natural;
  end protected symbol_table;

  procedure next_word (variable source : inout line; variable word_out : out string; variable length : out natural);
  procedure assemble (file_name : in string; variable code : out word_array; variable count : out natural);
end package;

package body assembler is
  type symbol_table is protected body
    variable first : text_link;
    variable number : natural := 0;

    impure function find (name : string) return text_link is
      variable at : text_link := first;
    begin
      while at /= null loop
        if at.name.all = name then
          return at;
        end if;
        at := at.rest;
      end loop;
      return null;
    end function;

    procedure define (name : string; value : integer) is
      variable at : text_link;
    begin
      at := find(name);
      if at = null then
        first := new text_cell'(name => new string'(name), value => value, rest => first);
        number := number + 1;
      else
        at.value := value;
      end if;
    end procedure;

    impure function value_of (name : string) return integer is
      variable at : text_link;
    begin
      at := find(name);
      assert at /= null report "unknown label " & name severity error;
      if at = null then return 0; end if;
      return at.value;
    end function;

    impure function known (name : string) return boolean is
    begin
      return find(name) /= null;
    end function;

    impure function count return natural is
    begin
      return number;
    end function;
  end protected body symbol_table;

  shared variable symbols : symbol_table;

  function is_blank (c : character) return boolean is
  begin
    return c = ' ' or c = HT or c = ',';
  end;

  procedure next_word (variable source : inout line; variable word_out : out string; variable length : out natural) is
    variable c : character;
    variable good : boolean;
    variable n : natural := 0;
  begin
    word_out := (word_out'range => ' ');
    loop
      exit when source = null or source'length = 0;
      read(source, c, good);
      exit when not good;
      if is_blank(c) then
        exit when n > 0;
        next;
      end if;
      n := n + 1;
      word_out(word_out'left + n - 1) := c;
    end loop;
    length := n;
  end procedure;

  function register_of (s : string) return natural is
  begin
    assert s(s'left) = 'r' report "a register is expected: " & s severity failure;
    return integer'value(s(s'left + 1 to s'right));
  end;

  function operation_of (s : string) return operation is
  begin
    return operation'value("op_" & s);
  end;

  procedure assemble (file_name : in string; variable code : out word_array; variable count : out natural) is
    file source : text;
    variable l : line;
    variable w : string(1 to 20);
    variable n, at : natural;
    variable op : operation;
    variable status : file_open_status;

    procedure operand (variable v : out integer) is
    begin
      next_word(l, w, n);
      case w(1) is
        when 'r' => v := register_of(w(1 to n));
        when '0' to '9' | '-' => v := integer'value(w(1 to n));
        when others => v := symbols.value_of(w(1 to n)) - 4 * at;
      end case;
    end procedure;

    variable x, y, z : integer;
    variable inst : word;
  begin
    for pass in 1 to 2 loop
      file_open(status, source, file_name, read_mode);
      assert status = open_ok report "no file " & file_name severity failure;
      at := 0;
      while not endfile(source) loop
        readline(source, l);
        next_word(l, w, n);
        next when n = 0 or w(1) = '#';
        if w(n) = ':' then
          symbols.define(w(1 to n - 1), 4 * at);
          next;
        end if;
        if pass = 2 then
          op := operation_of(w(1 to n));
          inst := encode(op) & (25 downto 0 => '0');
          case op is
            when op_none => null;
            when op_add | op_sub | op_and | op_or | op_xor | op_shl | op_shr | op_slt | op_mul =>
              operand(x); operand(y); operand(z);
              inst(25 downto 11) := std_logic_vector(to_unsigned(x, 5)) & std_logic_vector(to_unsigned(y, 5))
                                    & std_logic_vector(to_unsigned(z, 5));
            when others =>
              operand(x); operand(y); operand(z);
              inst(25 downto 0) := std_logic_vector(to_unsigned(x, 5) & to_unsigned(y, 5)) & std_logic_vector(to_signed(z, 16));
          end case;
          code(code'left + at) := inst;
        end if;
        at := at + 1;
      end loop;
      file_close(source);
    end loop;
    count := at;
  end procedure;
end package body;
