library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

package penstock_package is

  -- configuration --------------------------------------------------------------------------
  constant data_width_c  : natural := 32;
  constant hw_version_c  : std_ulogic_vector(31 downto 0) := x"0107_0900";
  constant archid_c      : natural := 23;

  -- address map ----------------------------------------------------------------------------
  constant mem_imem_base_c : std_ulogic_vector(31 downto 0) := x"00000000";
  constant mem_dmem_base_c : std_ulogic_vector(31 downto 0) := x"80000000";
  constant base_io_uart_c  : std_ulogic_vector(31 downto 0) := x"fffff000";
  constant base_io_gpio_c  : std_ulogic_vector(31 downto 0) := x"fffff100";
  constant base_io_mtime_c : std_ulogic_vector(31 downto 0) := x"fffff200";
  constant iodev_size_c    : natural := 256;

  -- bus ------------------------------------------------------------------------------------
  type bus_req_t is record
    addr : std_ulogic_vector(31 downto 0);
    data : std_ulogic_vector(31 downto 0);
    ben  : std_ulogic_vector(3 downto 0);
    stb  : std_ulogic;
    rw   : std_ulogic;
    src  : std_ulogic;
    priv : std_ulogic;
  end record;

  type bus_rsp_t is record
    data : std_ulogic_vector(31 downto 0);
    ack  : std_ulogic;
    err  : std_ulogic;
  end record;

  constant req_terminate_c : bus_req_t := (
    addr => (others => '0'), data => (others => '0'), ben => (others => '0'),
    stb | rw | src | priv => '0');
  constant rsp_terminate_c : bus_rsp_t := (data => (others => '0'), ack => '0', err => '0');

  type req_array_t is array (natural range <>) of bus_req_t;
  type rsp_array_t is array (natural range <>) of bus_rsp_t;
  type word_array_t is array (natural range <>) of std_ulogic_vector(31 downto 0);
  type natural_array_t is array (natural range <>) of natural;

  type device_t is record
    base : std_ulogic_vector(31 downto 0);
    size : natural;
    name : string(1 to 6);
  end record;
  type device_list_t is array (natural range <>) of device_t;
  constant devices_c : device_list_t(0 to 4) := (
    0 => (mem_imem_base_c, 4096, "imem  "),
    1 => (mem_dmem_base_c, 2048, "dmem  "),
    2 => (base => base_io_uart_c, size => iodev_size_c, name => "uart  "),
    3 => (base_io_gpio_c, iodev_size_c, "gpio  "),
    4 => (base_io_mtime_c, iodev_size_c, "mtime "));

  -- instruction set -------------------------------------------------------------------------
  subtype opcode_t is std_ulogic_vector(5 downto 0);
  constant op_alu_c    : opcode_t := "000000";
  constant op_alui_c   : opcode_t := "000001";
  constant op_lui_c    : opcode_t := "000010";
  constant op_load_c   : opcode_t := "000100";
  constant op_store_c  : opcode_t := "000101";
  constant op_branch_c : opcode_t := "001000";
  constant op_jal_c    : opcode_t := "001001";
  constant op_system_c : opcode_t := "111111";

  type alu_op_t is (alu_add, alu_sub, alu_and, alu_or, alu_xor, alu_sll, alu_srl, alu_sra, alu_slt, alu_sltu, alu_mul, alu_cp);

  type exe_state_t is (RESTART, DISPATCH, EXECUTE, ALU_WAIT, BRANCH, MEM_REQ, MEM_RSP, TRAP, SLEEP);

  type ctrl_bus_t is record
    rf_wb    : std_ulogic;
    rf_rd    : std_ulogic_vector(3 downto 0);
    rf_rs1   : std_ulogic_vector(3 downto 0);
    rf_rs2   : std_ulogic_vector(3 downto 0);
    alu_op   : alu_op_t;
    alu_imm  : std_ulogic;
    lsu_req  : std_ulogic;
    lsu_rw   : std_ulogic;
    lsu_type : std_ulogic_vector(1 downto 0);
  end record;
  constant ctrl_bus_zero_c : ctrl_bus_t := (
    rf_wb => '0', rf_rd => (others => '0'), rf_rs1 => (others => '0'), rf_rs2 => (others => '0'),
    alu_op => alu_add, alu_imm => '0', lsu_req => '0', lsu_rw => '0', lsu_type => "00");

  -- helpers --------------------------------------------------------------------------------
  function index_size_f(input : natural) return natural;
  function cond_sel_natural_f(cond : boolean; val_t : natural; val_f : natural) return natural;
  function cond_sel_suv_f(cond : boolean; val_t, val_f : std_ulogic_vector) return std_ulogic_vector;
  function bool_to_ulogic_f(cond : boolean) return std_ulogic;
  function or_reduce_f(a : std_ulogic_vector) return std_ulogic;
  function bit_rev_f(input : std_ulogic_vector) return std_ulogic_vector;
  function bswap_f(input : std_ulogic_vector) return std_ulogic_vector;
  function popcount_f(input : std_ulogic_vector) return natural;
  function leading_zeros_f(input : std_ulogic_vector) return natural;
  function is_power_of_two_f(input : natural) return boolean;
  function mux_f(rsp : rsp_array_t) return bus_rsp_t;
  function hex_char_f(input : std_ulogic_vector(3 downto 0)) return character;
  function in_device_f(addr : std_ulogic_vector(31 downto 0); dev : device_t) return boolean;
  function sum_f(list : natural_array_t) return natural;

  component penstock_fifo
    generic (
      FIFO_DEPTH : natural := 4;
      FIFO_WIDTH : natural := 32;
      FIFO_SAFE  : boolean := true);
    port (
      clk_i   : in  std_ulogic;
      rstn_i  : in  std_ulogic := '1';
      clear_i : in  std_ulogic := '0';
      half_o  : out std_ulogic;
      wdata_i : in  std_ulogic_vector(FIFO_WIDTH - 1 downto 0);
      we_i    : in  std_ulogic;
      free_o  : out std_ulogic;
      re_i    : in  std_ulogic;
      rdata_o : out std_ulogic_vector(FIFO_WIDTH - 1 downto 0);
      avail_o : out std_ulogic);
  end component;

end package penstock_package;

package body penstock_package is

  function index_size_f(input : natural) return natural is
  begin
    if (input = 0) then
      return 0;
    end if;
    for i in 0 to natural'high loop
      if (2**i >= input) then
        return i;
      end if;
    end loop;
    return 0;
  end function index_size_f;

  function cond_sel_natural_f(cond : boolean; val_t : natural; val_f : natural) return natural is
  begin
    if cond then return val_t; else return val_f; end if;
  end function;

  function cond_sel_suv_f(cond : boolean; val_t, val_f : std_ulogic_vector) return std_ulogic_vector is
  begin
    if cond then return val_t; end if;
    return val_f;
  end function;

  function bool_to_ulogic_f(cond : boolean) return std_ulogic is
    type table_t is array (boolean) of std_ulogic;
    constant table_c : table_t := (false => '0', true => '1');
  begin
    return table_c(cond);
  end function;

  function or_reduce_f(a : std_ulogic_vector) return std_ulogic is
    variable tmp_v : std_ulogic := '0';
  begin
    for i in a'range loop
      tmp_v := tmp_v or a(i);
    end loop;
    return tmp_v;
  end function;

  function bit_rev_f(input : std_ulogic_vector) return std_ulogic_vector is
    variable output_v : std_ulogic_vector(input'range);
  begin
    for i in 0 to input'length-1 loop
      output_v(input'length-i-1) := input(i);
    end loop;
    return output_v;
  end function;

  function bswap_f(input : std_ulogic_vector) return std_ulogic_vector is
    variable output_v : std_ulogic_vector(input'range);
    alias in_v : std_ulogic_vector(input'length-1 downto 0) is input;
    constant bytes_c : natural := input'length / 8;
  begin
    assert input'length mod 8 = 0 report "bswap_f: " & integer'image(input'length) & " bits" severity failure;
    for i in 0 to bytes_c - 1 loop
      output_v(i*8+7 downto i*8) := in_v(in_v'left - i*8 downto in_v'left - i*8 - 7);
    end loop;
    return output_v;
  end function;

  function popcount_f(input : std_ulogic_vector) return natural is
    variable cnt_v : natural range 0 to input'length;
  begin
    cnt_v := 0;
    for i in input'low to input'high loop
      next when input(i) /= '1';
      cnt_v := cnt_v + 1;
    end loop;
    return cnt_v;
  end function;

  function leading_zeros_f(input : std_ulogic_vector) return natural is
    variable cnt_v : natural := 0;
  begin
    scan: for i in input'range loop
      exit scan when input(i) = '1';
      cnt_v := cnt_v + 1;
    end loop scan;
    return cnt_v;
  end function;

  function is_power_of_two_f(input : natural) return boolean is
    variable tmp_v : unsigned(31 downto 0);
  begin
    tmp_v := to_unsigned(input, 32);
    return input /= 0 and (tmp_v and (tmp_v - 1)) = 0;
  end function;

  function mux_f(rsp : rsp_array_t) return bus_rsp_t is
    variable res_v : bus_rsp_t := rsp_terminate_c;
  begin
    for i in rsp'range loop
      res_v.data := res_v.data or rsp(i).data;
      res_v.ack  := res_v.ack or rsp(i).ack;
      res_v.err  := res_v.err or rsp(i).err;
    end loop;
    return res_v;
  end function;

  function hex_char_f(input : std_ulogic_vector(3 downto 0)) return character is
    constant digits_c : string(1 to 16) := "0123456789abcdef";
  begin
    return digits_c(to_integer(unsigned(input)) + 1);
  end function;

  function in_device_f(addr : std_ulogic_vector(31 downto 0); dev : device_t) return boolean is
    constant lsb_c : natural := index_size_f(dev.size);
  begin
    return addr(31 downto lsb_c) = dev.base(31 downto lsb_c);
  end function;

  function sum_f(list : natural_array_t) return natural is
  begin
    if list'length = 0 then return 0; end if;
    return list(list'left) + sum_f(list(list'left + 1 to list'right));
  end function;

end package body penstock_package;
