library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.core_types.all;

entity register_file is
  generic (depth : positive := 32);
  port (
    clk    : in std_ulogic;
    write  : in write_stage;
    ra, rb : in register_number;
    a, b   : out word);
end entity;

architecture rtl of register_file is
  signal cells : word_array(0 to depth - 1) := (others => (others => '0'));
  impure function fetch (n : register_number) return word is
  begin
    if is_x(n) then
      return (others => 'X');
    elsif write.write and write.rd = n and unsigned(n) /= 0 then
      return write.data;
    else
      return cells(to_integer(unsigned(n)));
    end if;
  end function;
begin
  process (clk)
  begin
    if rising_edge(clk) then
      if write.write and unsigned(write.rd) /= 0 then
        cells(to_integer(unsigned(write.rd))) <= write.data;
      end if;
    end if;
  end process;
  reads : process (all)
  begin
    a <= fetch(ra);
    b <= fetch(rb);
  end process reads;
end architecture rtl;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.core_types.all;

entity arithmetic is
  port (op : in operation; a, b : in word; y : out word);
end;

architecture rtl of arithmetic is
  signal shift : natural range 0 to 31;
begin
  shift <= to_integer(unsigned(b(4 downto 0))) when not is_x(b(4 downto 0)) else 0;
  with op select y <=
    std_logic_vector(unsigned(a) + unsigned(b)) when op_add | op_addi | op_load | op_store,
    std_logic_vector(unsigned(a) - unsigned(b)) when op_sub,
    a and b when op_and,
    a or b when op_or,
    a xor b when op_xor,
    std_logic_vector(shift_left(unsigned(a), shift)) when op_shl,
    std_logic_vector(shift_right(unsigned(a), shift)) when op_shr,
    (0 => to_std(signed(a) < signed(b)), others => '0') when op_slt,
    b(15 downto 0) & x"0000" when op_high,
    std_logic_vector(resize(unsigned(a) * unsigned(b), 32)) when op_mul,
    (others => '0') when others;
end architecture;

library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.core_types.all;

entity core is
  generic (
    reset_at : unsigned(31 downto 0) := (others => '0');
    traced   : boolean := false);
  port (
    clk       : in std_ulogic;
    rst       : in std_ulogic;
    fetch_at  : out word;
    fetched   : in word;
    request   : out bus_request;
    response  : in bus_response;
    retired   : out natural);
end entity core;

architecture two_process of core is
  signal r, rin : pipeline := pipeline_reset;
  signal reg_a, reg_b, alu_a, alu_b, alu_y : word;
  signal ra, rb : register_number;

  function forward (n : register_number; value : word; m : memory_stage; result : word; w : write_stage) return word is
  begin
    if unsigned(n) = 0 then
      return value;
    elsif m.ctrl.write_back and m.rd = n then
      return result;
    elsif w.write and w.rd = n then
      return w.data;
    end if;
    return value;
  end function;
begin
  registers : entity work.register_file
    port map (clk => clk, write => r.w, ra => ra, rb => rb, a => reg_a, b => reg_b);

  alu : entity work.arithmetic(rtl) port map (r.e.ctrl.op, alu_a, alu_b, alu_y);

  combinational : process (all)
    variable v : pipeline;
    variable op : operation;
    variable ctrl : alu_control;
    variable result, b_value, imm : word;
    variable taken, interlock : boolean;
    alias inst : word is r.d.inst;
    alias rd_field : register_number is r.d.inst(25 downto 21);
    alias ra_field : register_number is r.d.inst(20 downto 16);
    alias rb_field : register_number is r.d.inst(15 downto 11);
  begin
    v := r;
    op := decode(inst(31 downto 26));
    ctrl := control_of(op);
    imm := sign_extend(inst(15 downto 0), imm'length);

    if r.m.ctrl.op = op_load then result := response.data; else result := r.m.y; end if;
    b_value := forward(r.e.rb, r.e.b, r.m, result, r.w);
    alu_a <= forward(r.e.ra, r.e.a, r.m, result, r.w);
    if r.e.ctrl.immediate then alu_b <= r.e.imm; else alu_b <= b_value; end if;

    ra <= ra_field;
    if op = op_store or ctrl.branch then rb <= rd_field; else rb <= rb_field; end if;

    interlock := r.e.ctrl.op = op_load and r.e.ctrl.write_back and (r.e.rd = ra_field or r.e.rd = rb_field);
    case r.e.ctrl.op is
      when op_beq => taken := alu_a = b_value;
      when op_bne => taken := alu_a /= b_value;
      when others => taken := false;
    end case;

    if taken then
      v.pc := r.e.pc + unsigned(r.e.imm);
      v.d := pipeline_reset.d;
    elsif not interlock then
      v.pc := r.pc + 4;
      v.d := (pc => r.pc, inst => fetched, valid => '1');
    end if;

    if taken or interlock then
      v.e := pipeline_reset.e;
    else
      v.e := (pc => r.d.pc, ctrl => ctrl, rd => rd_field, ra => ra_field, rb => rb, a => reg_a, b => reg_b, imm => imm);
    end if;
    v.m := (r.e.ctrl, r.e.rd, alu_y, b_value);
    v.w := (write => r.m.ctrl.write_back, rd => r.m.rd, data => result);
    if r.m.ctrl.op /= op_none then v.retired := r.retired + 1; end if;

    if rst = '1' then
      v := pipeline_reset;
      v.pc := reset_at;
    end if;
    rin <= v;
  end process combinational;

  registers_of_pipeline : process (clk)
  begin
    if rising_edge(clk) then
      r <= rin;
    end if;
  end process;

  fetch_at <= std_logic_vector(r.pc);
  request <= (valid => to_std(r.m.ctrl.op = op_store or r.m.ctrl.op = op_load), write => to_std(r.m.ctrl.op = op_store),
              address => r.m.y, data => r.m.store, lanes => (others => '1'));
  retired <= r.retired;

  trace : if traced generate
    process (clk)
    begin
      if rising_edge(clk) and r.m.ctrl.op /= op_none then
        report operation'image(r.m.ctrl.op) & " " & image(r.m.y);
      end if;
    end process;
  end generate trace;
end architecture two_process;
