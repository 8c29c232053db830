-- Types, constants and helpers of the lock's controller core: a 32-bit pipeline written in the two-process style.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

package core_types is
  constant word_width : positive := 32;
  subtype word is std_logic_vector(word_width - 1 downto 0);
  subtype register_number is std_logic_vector(4 downto 0);
  type word_array is array (natural range <>) of word;
  type byte_array is array (natural range <>) of std_logic_vector(7 downto 0);
  type flag_array is array (natural range <>) of boolean;

  type operation is (op_none, op_add, op_sub, op_and, op_or, op_xor, op_shl, op_shr, op_slt, op_addi, op_high, op_mul,
                     op_load, op_store, op_beq, op_bne);
  attribute enum_encoding : string;

  type alu_control is record
    op         : operation;
    immediate  : boolean;
    write_back : boolean;
    branch     : boolean;
  end record;

  constant alu_idle : alu_control := (op => op_none, immediate | write_back | branch => false);

  type decode_stage is record
    pc      : unsigned(31 downto 0);
    inst    : word;
    valid   : std_ulogic;
  end record;

  type execute_stage is record
    pc         : unsigned(31 downto 0);
    ctrl       : alu_control;
    rd, ra, rb : register_number;
    a, b, imm  : word;
  end record;

  type memory_stage is record
    ctrl   : alu_control;
    rd     : register_number;
    y      : word;
    store  : word;
  end record;

  type write_stage is record
    write : boolean;
    rd    : register_number;
    data  : word;
  end record;

  type pipeline is record
    d       : decode_stage;
    e       : execute_stage;
    m       : memory_stage;
    w       : write_stage;
    pc      : unsigned(31 downto 0);
    retired : natural;
  end record;

  constant pipeline_reset : pipeline := (
    d => (pc => (others => '0'), inst => (others => '0'), valid => '0'),
    e => (pc => (others => '0'), ctrl => alu_idle, rd | ra | rb => (others => '0'), a | b | imm => (others => '0')),
    m => (ctrl => alu_idle, rd => (others => '0'), y | store => (others => '0')),
    w => (write => false, rd => (others => '0'), data => (others => '0')),
    pc => (others => '0'), retired => 0);

  type bus_request is record
    valid   : std_ulogic;
    write   : std_ulogic;
    address : word;
    data    : word;
    lanes   : std_logic_vector(3 downto 0);
  end record;
  type bus_response is record
    ready : std_ulogic;
    data  : word;
  end record;
  type bus_request_array is array (natural range <>) of bus_request;
  type bus_response_array is array (natural range <>) of bus_response;

  constant bus_idle : bus_request := ('0', '0', (others => '0'), (others => '0'), (others => '0'));

  function decode (code : std_logic_vector(5 downto 0)) return operation;
  function encode (op : operation) return std_logic_vector;
  function control_of (op : operation) return alu_control;
  function sign_extend (v : std_logic_vector; width : positive) return std_logic_vector;
  function to_std (b : boolean) return std_ulogic;
  function any (f : flag_array) return boolean;
  function or_reduce_words (v : word_array) return word;
  function log2_ceiling (n : positive) return natural;
  function parity (v : std_logic_vector) return std_ulogic;
  function reverse (v : std_logic_vector) return std_logic_vector;
  function swap_bytes (v : std_logic_vector) return std_logic_vector;
  procedure split (signal v : in word; variable high, low : out std_logic_vector);
  function image (v : std_logic_vector) return string;
end package core_types;

package body core_types is
  function decode (code : std_logic_vector(5 downto 0)) return operation is
    variable n : natural;
  begin
    if is_x(code) then
      return op_none;
    end if;
    n := to_integer(unsigned(code));
    if n > operation'pos(operation'high) then
      return op_none;
    end if;
    return operation'val(n);
  end function;

  function encode (op : operation) return std_logic_vector is
  begin
    return std_logic_vector(to_unsigned(operation'pos(op), 6));
  end function encode;

  function control_of (op : operation) return alu_control is
    variable c : alu_control := alu_idle;
  begin
    c.op := op;
    case op is
      when op_none => null;
      when op_add to op_slt | op_mul => c.write_back := true;
      when op_addi | op_high | op_load =>
        c.write_back := true;
        c.immediate := true;
      when op_store => c.immediate := true;
      when op_beq | op_bne => c.branch := true;
    end case;
    return c;
  end;

  function sign_extend (v : std_logic_vector; width : positive) return std_logic_vector is
    alias n : std_logic_vector(v'length - 1 downto 0) is v;
    variable r : std_logic_vector(width - 1 downto 0) := (others => n(n'high));
  begin
    r(n'range) := n;
    return r;
  end;

  function to_std (b : boolean) return std_ulogic is
  begin
    if b then return '1'; else return '0'; end if;
  end;

  function any (f : flag_array) return boolean is
  begin
    for i in f'range loop
      if f(i) then return true; end if;
    end loop;
    return false;
  end;

  function or_reduce_words (v : word_array) return word is
    variable r : word := (others => '0');
  begin
    for i in v'range loop
      r := r or v(i);
    end loop;
    return r;
  end;

  function log2_ceiling (n : positive) return natural is
  begin
    if n <= 1 then return 0; end if;
    return 1 + log2_ceiling((n + 1) / 2);
  end;

  function parity (v : std_logic_vector) return std_ulogic is
    variable p : std_ulogic := '0';
  begin
    for b in v'range loop
      p := p xor v(b);
    end loop;
    return p;
  end;

  function reverse (v : std_logic_vector) return std_logic_vector is
    variable r : std_logic_vector(v'reverse_range);
  begin
    for i in v'range loop
      r(i) := v(i);
    end loop;
    return r;
  end;

  function swap_bytes (v : std_logic_vector) return std_logic_vector is
    constant n : natural := v'length / 8;
    alias x : std_logic_vector(v'length - 1 downto 0) is v;
    variable r : std_logic_vector(v'length - 1 downto 0);
  begin
    for i in 0 to n - 1 loop
      r(8 * i + 7 downto 8 * i) := x(8 * (n - i) - 1 downto 8 * (n - i - 1));
    end loop;
    return r;
  end;

  procedure split (signal v : in word; variable high, low : out std_logic_vector) is
  begin
    high := v(v'left downto v'left - high'length + 1);
    low := v(low'length - 1 downto 0);
  end;

  function image (v : std_logic_vector) return string is
    constant digits : string := "0123456789abcdef";
    variable padded : std_logic_vector((v'length + 3) / 4 * 4 - 1 downto 0) := (others => '0');
    variable r : string(1 to padded'length / 4);
    variable nibble : std_logic_vector(3 downto 0);
  begin
    padded(v'length - 1 downto 0) := v;
    for i in r'range loop
      nibble := padded(padded'high - 4 * (i - 1) downto padded'high - 4 * i + 1);
      if is_x(nibble) then
        r(i) := 'x';
      else
        r(i) := digits(to_integer(unsigned(nibble)) + 1);
      end if;
    end loop;
    return r;
  end;
end package body;
