library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use std.textio.all;
library penstock;
use penstock.penstock_package.all;

entity penstock_memory is
  generic (SIZE : natural; IMAGE : string := ""; LATENCY : positive := 1);
  port (clk_i, rstn_i : in std_ulogic; bus_req_i : in bus_req_t; bus_rsp_o : out bus_rsp_t);
end entity;

architecture behave of penstock_memory is
  impure function init_f return word_array_t is
    file image_file : text;
    variable status_v : file_open_status;
    variable line_v : line;
    variable mem_v : word_array_t(0 to SIZE/4 - 1) := (others => (others => '0'));
    variable word_v : std_ulogic_vector(31 downto 0);
    variable good_v : boolean;
    variable index_v : natural := 0;
  begin
    if IMAGE'length = 0 then
      return mem_v;
    end if;
    file_open(status_v, image_file, IMAGE, read_mode);
    if status_v /= open_ok then
      report "no image " & IMAGE & ": " & file_open_status'image(status_v) severity error;
      return mem_v;
    end if;
    while not endfile(image_file) loop
      readline(image_file, line_v);
      next when line_v'length = 0;
      if line_v(line_v'left) = '#' then
        next;
      end if;
      hread(line_v, word_v, good_v);
      assert good_v report "bad word in line " & integer'image(index_v + 1) severity failure;
      mem_v(index_v) := word_v;
      index_v := index_v + 1;
    end loop;
    file_close(image_file);
    return mem_v;
  end function init_f;

  signal mem : word_array_t(0 to SIZE/4 - 1) := init_f;
  signal pipe : rsp_array_t(0 to LATENCY) := (others => rsp_terminate_c);
begin
  assert is_power_of_two_f(SIZE) report "SIZE must be a power of two" severity failure;
  access_p: process(clk_i)
    variable index_v : natural range 0 to SIZE/4 - 1;
  begin
    if rising_edge(clk_i) then
      pipe(0) <= rsp_terminate_c;
      if bus_req_i.stb = '1' and not (pipe(0).ack = '1') then
        index_v := to_integer(unsigned(bus_req_i.addr(index_size_f(SIZE)-1 downto 2)));
        pipe(0).ack <= '1';
        if bus_req_i.rw = '1' then
          for i in bus_req_i.ben'range loop
            if bus_req_i.ben(i) = '1' then
              mem(index_v)(i*8+7 downto i*8) <= bus_req_i.data(i*8+7 downto i*8);
            end if;
          end loop;
        else
          pipe(0).data <= mem(index_v);
        end if;
      end if;
      pipe(1 to LATENCY) <= pipe(0 to LATENCY-1);
    end if;
  end process;
  bus_rsp_o <= pipe(LATENCY - 1);
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
library penstock;
use penstock.penstock_package.all;

entity penstock_uart is
  generic (BAUD_DIV : positive := 4; FIFO : natural := 4);
  port (
    clk_i, rstn_i : in std_ulogic;
    bus_req_i : in bus_req_t;
    bus_rsp_o : out bus_rsp_t;
    txd_o : out std_logic
  );
end entity;

architecture rtl of penstock_uart is
  type state_t is (S_IDLE, S_SEND);
  type engine_t is record
    state : state_t;
    sreg  : std_ulogic_vector(9 downto 0);
    bits  : integer range 0 to 10;
    baud  : integer range 0 to BAUD_DIV - 1;
  end record;
  constant engine_reset_c : engine_t := (state => S_IDLE, sreg => (others => '1'), bits => 0, baud => 0);
  signal r, rin : engine_t;
  signal tx_data : std_ulogic_vector(7 downto 0);
  signal tx_avail, tx_free, tx_re, tx_we : std_ulogic;
begin
  fifo_inst: penstock_fifo
    generic map (FIFO_DEPTH => FIFO, FIFO_WIDTH => 8)
    port map (
      clk_i => clk_i, rstn_i => rstn_i, half_o => open,
      wdata_i => bus_req_i.data(7 downto 0), we_i => tx_we, free_o => tx_free,
      re_i => tx_re, rdata_o => tx_data, avail_o => tx_avail);
  tx_we <= bus_req_i.stb and bus_req_i.rw;

  -- all of the state in one record, all of the logic in one process
  comb: process(r, tx_data, tx_avail)
    variable v : engine_t;
  begin
    v := r;
    tx_re <= '0';
    case r.state is
      when S_IDLE =>
        if tx_avail = '1' then
          v.sreg := '1' & tx_data & '0';
          v.bits := 10;
          v.baud := BAUD_DIV - 1;
          v.state := S_SEND;
          tx_re <= '1';
        end if;
      when S_SEND =>
        if r.baud /= 0 then
          v.baud := r.baud - 1;
        else
          v.baud := BAUD_DIV - 1;
          v.sreg := '1' & r.sreg(9 downto 1);
          v.bits := r.bits - 1;
          if v.bits = 0 then
            v.state := S_IDLE;
          end if;
        end if;
    end case;
    rin <= v;
  end process;

  regs: process(clk_i, rstn_i)
  begin
    if rstn_i = '0' then r <= engine_reset_c;
    elsif rising_edge(clk_i) then r <= rin;
    end if;
  end process;
  txd_o <= r.sreg(0) when r.state = S_SEND else '1';

  respond: process(clk_i)
  begin
    if rising_edge(clk_i) then
      bus_rsp_o <= rsp_terminate_c;
      bus_rsp_o.ack <= bus_req_i.stb;
      if (bus_req_i.stb = '1') and (bus_req_i.rw = '0') then
        bus_rsp_o.data(0) <= tx_free;
      end if;
    end if;
  end process;
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
library penstock;
use penstock.penstock_package.all;

entity penstock_top is
  generic (
    IMAGE      : string := "";
    FAST_SHIFT : boolean := false;
    GPIO_NUM   : natural range 1 to 32 := 8
  );
  port (
    clk_i, rstn_i : in std_ulogic;
    txd_o  : out std_logic;
    gpio_o : out std_ulogic_vector(GPIO_NUM-1 downto 0);
    gpio_i : in  std_ulogic_vector(GPIO_NUM-1 downto 0) := (others => 'L');
    sleep_o, trap_o : out std_ulogic;
    retired_o : out unsigned(31 downto 0)
  );
end entity;

architecture rtl of penstock_top is
  constant dev_imem_c : natural := 0;
  constant dev_dmem_c : natural := 1;
  constant dev_uart_c : natural := 2;
  constant dev_gpio_c : natural := 3;
  signal ibus_req, dbus_req : bus_req_t;
  signal ibus_rsp, dbus_rsp : bus_rsp_t;
  signal dev_req : req_array_t(devices_c'range);
  signal dev_rsp : rsp_array_t(devices_c'range) := (others => rsp_terminate_c);
  signal error_rsp : bus_rsp_t;
  signal gpio_out : std_ulogic_vector(gpio_o'range);
begin
  cpu: entity work.penstock_cpu
    generic map (BOOT_ADDR => mem_imem_base_c, FAST_SHIFT => FAST_SHIFT)
    port map (
      clk_i => clk_i, rstn_i => rstn_i, sleep_o => sleep_o, trap_o => trap_o, irq_i => '0',
      ibus_req_o => ibus_req, ibus_rsp_i => ibus_rsp, dbus_req_o => dbus_req, dbus_rsp_i => dbus_rsp, retired_o => retired_o);

  imem: entity work.penstock_memory generic map (SIZE => devices_c(0).size, IMAGE => IMAGE)
    port map (clk_i, rstn_i, ibus_req, ibus_rsp);

  route: for i in devices_c'range generate
    process(all)
    begin
      dev_req(i) <= dbus_req;
      dev_req(i).stb <= '0';
      if in_device_f(dbus_req.addr, devices_c(i)) then
        dev_req(i).stb <= dbus_req.stb;
      end if;
    end process;
  end generate;

  dmem: entity work.penstock_memory generic map (SIZE => devices_c(dev_dmem_c).size, LATENCY => 2)
    port map (clk_i, rstn_i, dev_req(dev_dmem_c), dev_rsp(dev_dmem_c));
  uart: entity work.penstock_uart
    port map (clk_i => clk_i, rstn_i => rstn_i, bus_req_i => dev_req(dev_uart_c), bus_rsp_o => dev_rsp(dev_uart_c), txd_o => txd_o);

  gpio: block
    port (req : in bus_req_t; rsp : out bus_rsp_t);
    port map (req => dev_req(dev_gpio_c), rsp => dev_rsp(dev_gpio_c));
  begin
    process(clk_i, rstn_i)
    begin
      if rstn_i = '0' then
        gpio_out <= (others => '0');
        rsp <= rsp_terminate_c;
      elsif rising_edge(clk_i) then
        rsp <= rsp_terminate_c;
        if req.stb = '1' then
          rsp.ack <= '1';
          if req.rw = '1' then
            gpio_out <= req.data(gpio_out'range);
          else
            rsp.data(gpio_i'range) <= to_X01(gpio_i);
          end if;
        end if;
      end if;
    end process;
  end block;
  gpio_o <= gpio_out;

  -- an address that nobody has gives an error
  catch: process(clk_i)
    variable hit_v : boolean;
  begin
    if rising_edge(clk_i) then
      hit_v := false;
      for i in devices_c'range loop
        hit_v := hit_v or (in_device_f(dbus_req.addr, devices_c(i)) and i /= dev_imem_c and i /= 4);
      end loop;
      error_rsp <= (data => x"00000000", ack => '0', err => dbus_req.stb and not bool_to_ulogic_f(hit_v));
    end if;
  end process;
  dbus_rsp <= mux_f(dev_rsp(1 to 3) & error_rsp);
end architecture;
