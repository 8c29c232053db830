-- ---------------------------------------------------------------------------------------------
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
library penstock;
use penstock.penstock_package.all;

entity penstock_fifo is
  generic (
    FIFO_DEPTH : natural := 4;
    FIFO_WIDTH : natural := 32;
    FIFO_SAFE  : boolean := true
  );
  port (
    clk_i   : in  std_ulogic;
    rstn_i  : in  std_ulogic := '1';
    clear_i : in  std_ulogic := '0';
    half_o  : out std_ulogic;
    wdata_i : in  std_ulogic_vector(FIFO_WIDTH-1 downto 0);
    we_i    : in  std_ulogic;
    free_o  : out std_ulogic;
    re_i    : in  std_ulogic;
    rdata_o : out std_ulogic_vector(FIFO_WIDTH-1 downto 0);
    avail_o : out std_ulogic
  );
end penstock_fifo;

architecture penstock_fifo_rtl of penstock_fifo is
  constant fifo_depth_c : natural := cond_sel_natural_f(is_power_of_two_f(FIFO_DEPTH), FIFO_DEPTH, 2**index_size_f(FIFO_DEPTH));
  type fifo_mem_t is array (0 to fifo_depth_c-1) of std_ulogic_vector(FIFO_WIDTH-1 downto 0);
  signal fifo_mem : fifo_mem_t;
  signal w_pnt, r_pnt : unsigned(index_size_f(fifo_depth_c) downto 0);
  signal level : unsigned(index_size_f(fifo_depth_c) downto 0);
  signal match, empty, full, we, re : std_ulogic;
begin
  assert fifo_depth_c = FIFO_DEPTH report "FIFO_DEPTH is rounded up to " & natural'image(fifo_depth_c) severity warning;

  safe_access: if FIFO_SAFE generate
    re <= re_i and (not empty);
    we <= we_i and not full;
  end generate;
  fast_access: if not FIFO_SAFE generate
    re <= re_i;
    we <= we_i;
  end generate;

  pointer: process(rstn_i, clk_i)
  begin
    if (rstn_i = '0') then
      w_pnt <= (others => '0');
      r_pnt <= (others => '0');
    elsif rising_edge(clk_i) then
      if (clear_i = '1') then
        w_pnt <= (others => '0');
      elsif (we = '1') then
        w_pnt <= w_pnt + 1;
      end if;
      if (clear_i = '1') then
        r_pnt <= (others => '0');
      elsif (re = '1') then
        r_pnt <= r_pnt + 1;
      end if;
    end if;
  end process pointer;

  more_than_one: if (fifo_depth_c > 1) generate
    match  <= '1' when (r_pnt(r_pnt'left-1 downto 0) = w_pnt(w_pnt'left-1 downto 0)) else '0';
    full   <= '1' when (r_pnt(r_pnt'left) /= w_pnt(w_pnt'left)) and (match = '1') else '0';
    empty  <= '1' when (r_pnt(r_pnt'left)  = w_pnt(w_pnt'left)) and (match = '1') else '0';
    level  <= w_pnt - r_pnt;
    half_o <= '1' when level >= fifo_depth_c / 2 else '0';
    write: process(clk_i)
    begin
      if rising_edge(clk_i) and we = '1' then
        fifo_mem(to_integer(w_pnt(w_pnt'left-1 downto 0))) <= wdata_i;
      end if;
    end process;
    rdata_o <= fifo_mem(to_integer(r_pnt(r_pnt'left-1 downto 0)));
  end generate;
  just_one: if (fifo_depth_c = 1) generate
    full <= w_pnt(0) xor r_pnt(0);
    empty <= w_pnt(0) xnor r_pnt(0);
    half_o <= full;
    level <= (others => '0');
    match <= '0';
    process(clk_i)
    begin
      if rising_edge(clk_i) then
        if we = '1' then fifo_mem(0) <= wdata_i; end if;
      end if;
    end process;
    rdata_o <= fifo_mem(0);
  end generate;

  free_o  <= not full;
  avail_o <= not empty;
end penstock_fifo_rtl;

-- ---------------------------------------------------------------------------------------------
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
library penstock;
use penstock.penstock_package.all;

entity penstock_regfile is
  generic (RESET : boolean := false);
  port (
    clk_i  : in  std_ulogic;
    ctrl_i : in  ctrl_bus_t;
    rd_i   : in  std_ulogic_vector(data_width_c-1 downto 0);
    rs1_o, rs2_o : out std_ulogic_vector(data_width_c-1 downto 0)
  );
end entity;

architecture rtl of penstock_regfile is
  signal reg_file : word_array_t(15 downto 0) := (others => (others => '0'));
begin
  process(clk_i)
  begin
    if rising_edge(clk_i) then
      if (ctrl_i.rf_wb = '1') and (or_reduce_f(ctrl_i.rf_rd) = '1') then
        reg_file(to_integer(unsigned(ctrl_i.rf_rd))) <= rd_i;
      end if;
      rs1_o <= reg_file(to_integer(unsigned(ctrl_i.rf_rs1)));
      rs2_o <= reg_file(to_integer(unsigned(ctrl_i.rf_rs2)));
    end if;
  end process;
end architecture rtl;

-- ---------------------------------------------------------------------------------------------
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
library penstock;
use penstock.penstock_package.all;

entity penstock_alu is
  generic (SERIAL_SHIFT : boolean := true);
  port (
    clk_i, rstn_i : in std_ulogic;
    start_i : in std_ulogic;
    ctrl_i  : in ctrl_bus_t;
    rs1_i, rs2_i, imm_i : in std_ulogic_vector(31 downto 0);
    res_o   : out std_ulogic_vector(31 downto 0);
    cmp_o   : out std_ulogic_vector(1 downto 0);
    done_o  : out std_ulogic
  );
end penstock_alu;

architecture rtl of penstock_alu is
  signal opa, opb : std_ulogic_vector(31 downto 0);
  signal cmp_opx, cmp_opy : signed(32 downto 0);
  type shifter_t is record
    busy : std_ulogic;
    cnt  : std_ulogic_vector(4 downto 0);
    sreg : std_ulogic_vector(31 downto 0);
  end record;
  signal shifter : shifter_t;
  signal shift_res : std_ulogic_vector(31 downto 0);
  signal is_shift : boolean;
  signal mul_res : signed(63 downto 0);
begin
  opa <= rs1_i;
  opb <= imm_i when (ctrl_i.alu_imm = '1') else rs2_i;
  cmp_opx <= signed(resize(signed(rs1_i), 33)) when ctrl_i.alu_op /= alu_sltu else signed('0' & rs1_i);
  cmp_opy <= resize(signed(opb), 33) when ctrl_i.alu_op /= alu_sltu else signed('0' & opb);
  cmp_o(0) <= '1' when rs1_i = rs2_i else '0';
  cmp_o(1) <= '1' when signed(rs1_i) < signed(rs2_i) else '0';
  is_shift <= ctrl_i.alu_op = alu_sll or ctrl_i.alu_op = alu_srl or ctrl_i.alu_op = alu_sra;
  mul_res <= signed(opa) * signed(opb);

  with ctrl_i.alu_op select res_o <=
    std_ulogic_vector(unsigned(opa) + unsigned(opb))          when alu_add,
    std_ulogic_vector(unsigned(opa) - unsigned(opb))          when alu_sub,
    opa and opb                                               when alu_and,
    opa or opb                                                when alu_or,
    opa xor opb                                               when alu_xor,
    (31 downto 1 => '0') & bool_to_ulogic_f(cmp_opx < cmp_opy) when alu_slt | alu_sltu,
    shift_res                                                 when alu_sll | alu_srl | alu_sra,
    std_ulogic_vector(mul_res(31 downto 0))                   when alu_mul,
    std_ulogic_vector(to_unsigned(popcount_f(opa), 16)) & std_ulogic_vector(to_unsigned(leading_zeros_f(opa), 16)) when alu_cp;

  serial_shifter: if SERIAL_SHIFT generate
    shift: process(rstn_i, clk_i)
    begin
      if (rstn_i = '0') then
        shifter <= (busy => '0', cnt => (others => '0'), sreg => (others => '0'));
      elsif rising_edge(clk_i) then
        if (start_i = '1') then
          shifter.busy <= bool_to_ulogic_f(is_shift);
          shifter.cnt  <= opb(4 downto 0);
          shifter.sreg <= opa;
        elsif or_reduce_f(shifter.cnt) = '1' then
          shifter.cnt <= std_ulogic_vector(unsigned(shifter.cnt) - 1);
          case ctrl_i.alu_op is
            when alu_sll => shifter.sreg <= shifter.sreg(30 downto 0) & '0';
            when alu_srl => shifter.sreg <= '0' & shifter.sreg(31 downto 1);
            when others  => shifter.sreg <= shifter.sreg(31) & shifter.sreg(31 downto 1);
          end case;
        else
          shifter.busy <= '0';
        end if;
      end if;
    end process shift;
    shift_res <= shifter.sreg;
    done_o <= not (shifter.busy and or_reduce_f(shifter.cnt));
  end generate serial_shifter;

  barrel_shifter: if not SERIAL_SHIFT generate
    type levels_t is array (0 to 5) of std_ulogic_vector(31 downto 0);
    signal level : levels_t;
    signal fill : std_ulogic;
  begin
    fill <= opa(31) when ctrl_i.alu_op = alu_sra else '0';
    level(0) <= bit_rev_f(opa) when ctrl_i.alu_op = alu_sll else opa;
    stages: for i in 0 to 4 generate
      level(i+1) <= (2**i - 1 downto 0 => fill) & level(i)(31 downto 2**i) when opb(i) = '1' else level(i);
    end generate stages;
    shift_res <= bit_rev_f(level(5)) when ctrl_i.alu_op = alu_sll else level(5);
    done_o <= '1';
    shifter <= (busy => '0', cnt => "00000", sreg => (others => '0'));
  end generate;
end rtl;

-- ---------------------------------------------------------------------------------------------
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
library penstock;
use penstock.penstock_package.all;

entity penstock_cpu is
  generic (
    BOOT_ADDR    : std_ulogic_vector(31 downto 0) := (others => '0');
    FAST_SHIFT   : boolean := false;
    NUM_COUNTERS : natural range 0 to 4 := 2
  );
  port (
    clk_i, rstn_i : in std_ulogic;
    sleep_o, trap_o : out std_ulogic;
    irq_i   : in  std_ulogic;
    ibus_req_o : out bus_req_t;
    ibus_rsp_i : in  bus_rsp_t;
    dbus_req_o : out bus_req_t;
    dbus_rsp_i : in  bus_rsp_t;
    retired_o : out unsigned(31 downto 0)
  );
end entity penstock_cpu;

architecture penstock_cpu_rtl of penstock_cpu is
  type execute_engine_t is record
    state, state_prev : exe_state_t;
    ir    : std_ulogic_vector(31 downto 0);
    pc    : std_ulogic_vector(31 downto 0);
    ctrl  : ctrl_bus_t;
    first : std_ulogic;
  end record;
  signal exe, exe_nxt : execute_engine_t;
  signal rs1, rs2, alu_res, wb, imm, next_pc : std_ulogic_vector(31 downto 0);
  signal cmp : std_ulogic_vector(1 downto 0);
  signal alu_start, alu_done, fetch_en, taken : std_ulogic;
  signal wb_ctrl : ctrl_bus_t;
  signal wb_sel : natural range 0 to 2;
  type counters_t is array (natural range <>) of unsigned(31 downto 0);
  signal counter : counters_t(0 to NUM_COUNTERS-1);
  signal counter_inc : std_ulogic_vector(0 to NUM_COUNTERS-1);
  alias opcode : opcode_t is exe.ir(31 downto 26);
  alias rd  : std_ulogic_vector(3 downto 0) is exe.ir(25 downto 22);
  alias rs_a : std_ulogic_vector(3 downto 0) is exe.ir(21 downto 18);
  alias rs_b : std_ulogic_vector(3 downto 0) is exe.ir(17 downto 14);
  function decode_alu(sel : std_ulogic_vector(3 downto 0)) return alu_op_t is
  begin
    if to_integer(unsigned(sel)) > alu_op_t'pos(alu_op_t'right) then return alu_op_t'right; end if;
    return alu_op_t'val(to_integer(unsigned(sel)));
  end function;
begin
  engine_sync: process(rstn_i, clk_i)
  begin
    if (rstn_i = '0') then
      exe.state      <= RESTART;
      exe.state_prev <= RESTART;
      exe.ctrl       <= ctrl_bus_zero_c;
      exe.ir         <= (others => '0');
      exe.pc         <= BOOT_ADDR(31 downto 2) & "00";
      exe.first      <= '1';
    elsif rising_edge(clk_i) then
      exe <= exe_nxt;
      exe.state_prev <= exe.state;
    end if;
  end process;

  imm <= std_ulogic_vector(resize(signed(exe.ir(13 downto 0)), 32)) when opcode /= op_lui_c
         else exe.ir(15 downto 0) & x"0000";

  engine_comb: process(all)
  begin
    exe_nxt <= exe;
    exe_nxt.first <= '0';
    exe_nxt.ctrl.rf_wb <= '0';
    exe_nxt.ctrl.lsu_req <= '0';
    fetch_en  <= '0';
    alu_start <= '0';
    wb_sel    <= 0;
    next_pc   <= std_ulogic_vector(unsigned(exe.pc) + 4);

    case exe.state is
      when RESTART =>
        exe_nxt.state <= DISPATCH;

      when DISPATCH =>
        fetch_en <= '1';
        if ibus_rsp_i.ack = '1' then
          exe_nxt.ir <= ibus_rsp_i.data;
          exe_nxt.state <= EXECUTE;
          exe_nxt.first <= '1';
          exe_nxt.ctrl.rf_rd  <= ibus_rsp_i.data(25 downto 22);
          exe_nxt.ctrl.rf_rs1 <= ibus_rsp_i.data(21 downto 18);
          if ibus_rsp_i.data(31 downto 26) = op_branch_c or ibus_rsp_i.data(31 downto 26) = op_store_c then
            exe_nxt.ctrl.rf_rs2 <= ibus_rsp_i.data(25 downto 22);
          else
            exe_nxt.ctrl.rf_rs2 <= ibus_rsp_i.data(17 downto 14);
          end if;
        elsif ibus_rsp_i.err = '1' then
          exe_nxt.state <= TRAP;
        end if;

      when EXECUTE =>
        exe_nxt.ctrl.alu_op <= alu_add;
        exe_nxt.ctrl.alu_imm <= '1';
        case opcode is
          when op_alu_c | op_alui_c =>
            exe_nxt.ctrl.alu_imm <= opcode(0);
            exe_nxt.ctrl.alu_op <= decode_alu(exe.ir(3 downto 0));
            if opcode = op_alui_c then exe_nxt.ctrl.alu_op <= alu_add; end if;
            exe_nxt.state <= ALU_WAIT;
            exe_nxt.first <= '1';
          when op_lui_c =>
            exe_nxt.state <= ALU_WAIT;
            exe_nxt.first <= '1';
          when op_load_c | op_store_c =>
            exe_nxt.ctrl.lsu_rw <= opcode(0);
            exe_nxt.state <= MEM_REQ;
          when op_branch_c | op_jal_c =>
            exe_nxt.state <= BRANCH;
          when op_system_c =>
            exe_nxt.state <= SLEEP;
          when others =>
            exe_nxt.state <= TRAP;
        end case;

      when ALU_WAIT =>
        alu_start <= exe.first;
        wb_sel <= 0;
        if exe.first = '0' and alu_done = '1' then
          exe_nxt.ctrl.rf_wb <= '1';
          exe_nxt.pc <= next_pc;
          exe_nxt.state <= DISPATCH;
        end if;

      when BRANCH =>
        exe_nxt.pc <= next_pc;
        if opcode = op_jal_c then
          exe_nxt.ctrl.rf_wb <= '1';
          exe_nxt.pc <= std_ulogic_vector(signed(exe.pc) + shift_left(signed(imm), 2));
        elsif taken = '1' then
          exe_nxt.pc <= std_ulogic_vector(signed(exe.pc) + signed(imm(29 downto 0) & "00"));
        end if;
        exe_nxt.state <= DISPATCH;

      when MEM_REQ =>
        exe_nxt.ctrl.lsu_req <= '1';
        exe_nxt.state <= MEM_RSP;

      when MEM_RSP =>
        if dbus_rsp_i.err then
          exe_nxt.state <= TRAP;
        elsif dbus_rsp_i.ack = '1' then
          exe_nxt.ctrl.rf_wb <= not exe.ctrl.lsu_rw;
          exe_nxt.pc <= next_pc;
          exe_nxt.state <= DISPATCH;
        end if;

      when TRAP | SLEEP => null;
    end case;
  end process engine_comb;

  with exe.ir(15 downto 14) select taken <=
    cmp(0)     when "00",
    not cmp(0) when "01",
    cmp(1)     when "10",
    not cmp(1) when others;

  ibus_req_o <= (addr => exe.pc, data => (others => '0'), ben => "1111", stb => fetch_en, rw => '0', src => '1', priv => '0');

  lsu: process(rstn_i, clk_i)
  begin
    if rstn_i = '0' then
      dbus_req_o <= req_terminate_c;
    elsif rising_edge(clk_i) then
      dbus_req_o.stb <= exe.ctrl.lsu_req;
      if exe.state = MEM_REQ then
        dbus_req_o.addr <= std_ulogic_vector(unsigned(rs1) + unsigned(imm(13 downto 0)));
        dbus_req_o.data <= rs2;
        dbus_req_o.ben  <= (others => '1');
        dbus_req_o.rw   <= exe.ctrl.lsu_rw;
      end if;
    end if;
  end process;

  write_back: process(clk_i)
  begin
    if rising_edge(clk_i) then
      if exe.state = MEM_RSP then wb <= dbus_rsp_i.data;
      elsif exe.state = BRANCH then wb <= next_pc;
      elsif opcode = op_lui_c then wb <= imm;
      else wb <= alu_res;
      end if;
    end if;
  end process;

  alu: entity penstock.penstock_alu
    generic map (SERIAL_SHIFT => not FAST_SHIFT)
    port map (clk_i, rstn_i, alu_start, exe.ctrl, rs1, rs2, imm, alu_res, cmp, alu_done);

  rf: entity penstock.penstock_regfile(rtl)
    generic map (RESET => false)
    port map (clk_i => clk_i, ctrl_i => exe.ctrl, rd_i => wb, rs1_o => rs1, rs2_o => rs2);

  counters: for i in 0 to NUM_COUNTERS-1 generate
    first: if i = 0 generate
      counter_inc(i) <= '0' when exe.state = SLEEP or exe.state = TRAP else '1';
    elsif i = 1 generate
      counter_inc(i) <= '1' when exe.state = DISPATCH and exe.state_prev /= DISPATCH and exe.state_prev /= RESTART else '0';
    else generate
      counter_inc(i) <= '0';
    end generate;
    count: process(rstn_i, clk_i)
    begin
      if rstn_i = '0' then
        counter(i) <= (others => '0');
      elsif rising_edge(clk_i) then
        counter(i) <= counter(i) + unsigned'(0 => counter_inc(i));
      end if;
    end process;
  end generate;
  retired_o <= counter(1) when NUM_COUNTERS > 1 else (others => '0');

  sleep_o <= bool_to_ulogic_f(exe.state = SLEEP);
  trap_o  <= bool_to_ulogic_f(exe.state = TRAP);
end architecture penstock_cpu_rtl;
