library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;
use work.brae_types.all;

entity brae_core is
  generic (
    reset_pc    : word := (others => '0');
    cache_lines : positive := 8;
    long_bits   : positive := 4
  );
  port (
    clk, rst_n : in  std_ulogic;
    i_request  : out bus_request;
    i_answer   : in  bus_answer;
    d_request  : out bus_request;
    d_answer   : in  bus_answer;
    retired    : out retirement;
    halted     : out boolean
  );
end entity brae_core;

-- Three stages: fetch, execute, write. All registers of the core are one record; what they become is computed in one process.
architecture two_process of brae_core is
  type fetch_stage is record
    pc : word;
  end record;
  type execute_stage is record
    valid : boolean;
    pc    : word;
    ins   : word;
  end record;
  type memory_step is (first, second);
  type write_stage is record
    valid   : boolean;
    pc      : word;
    dec     : decoded;
    value   : word;
    address : word;
    data    : word;
    old     : word;
    step    : memory_step;
  end record;
  type registers is record
    f    : fetch_stage;
    x    : execute_stage;
    w    : write_stage;
    stop : boolean;
    done : boolean;
  end record;

  signal r, rin : registers;
  signal dec : decoded;
  signal hit : boolean;
  signal fetched : word;
  signal operands : word_vector(0 to 1);
  signal register_write : boolean;
  signal register_value : word;
  signal long_start, long_done : boolean;
  signal a, b, long_result : word;
  signal csr_write, csr_retire, csr_eret : boolean;
  signal csr_value, trap_vector, trap_back, bad : word;
  signal csr_cause : trap_cause;

  component brae_cache is
    generic (lines : positive; line_words : positive);
    port (
      clk, rst_n : in std_ulogic; address : in word; wanted : in boolean; hit : out boolean; data : out word;
      request : out bus_request; answer : in bus_answer
    );
  end component;
  for icache : brae_cache use entity work.brae_cache(rtl);
begin
  dec <= decode(r.x.ins);

  registers_file : entity work.brae_registers
    generic map (read_ports => 2)
    port map (clk => clk, which(0) => dec.ra, which(1) => dec.rb, values => operands, write => register_write, rd => r.w.dec.rd,
              value => register_value);

  long : entity work.brae_long(iterative)
    generic map (bits_a_clock => long_bits)
    port map (clk, rst_n, long_start, dec.fn, a, b, long_done, long_result);

  csr : entity work.brae_csr
    port map (clk => clk, rst_n => rst_n, number => to_integer(unsigned(r.x.ins(3 downto 0))), write => csr_write, how => dec.how,
              operand => a, value => csr_value, retire => csr_retire, eret => csr_eret, cause => csr_cause, bad => bad, pc => r.x.pc,
              vector => trap_vector, back => trap_back);

  icache : component brae_cache
    generic map (lines => cache_lines, line_words => 4)
    port map (clk => clk, rst_n => rst_n, address => r.f.pc, wanted => not r.stop, hit => hit, data => fetched,
              request => i_request, answer => i_answer);

  combine : process (all) is
    variable v : registers;
    variable stall, waits, trapped, jumps : boolean;
    variable left, right, sum, target, stored, loaded : word;
    variable cause : trap_cause;
    variable request : bus_request;

    function misaligned(size : access_size; address : word) return boolean is
    begin
      return (size = s_word and address(1 downto 0) /= "00") or (size = s_half and address(0) = '1');
    end function;
  begin
    v := r;

    -- the last stage: memory, and the register file
    request := no_request;
    waits := false;
    stored := r.w.data;
    if r.w.dec.op = op_fadd then
      stored := word(unsigned(r.w.old) + unsigned(r.w.data));
    end if;
    loaded := extracted(d_answer.data, r.w.address(1 downto 0), r.w.dec.size, r.w.dec.extend);
    if r.w.valid and r.w.dec.op >= memory_op'low and r.w.dec.op <= memory_op'high then
      request.active := '1';
      request.address := r.w.address;
      request.lanes := "1111";
      if r.w.dec.op = op_store or r.w.step = second then
        request.write := '1';
        request.lanes := lanes_of(r.w.dec.size, r.w.address(1 downto 0));
        request.data := word(shift_left(unsigned(stored), 8 * to_integer(unsigned(r.w.address(1 downto 0)))));
      end if;
      waits := not (d_answer.done = '1' and (r.w.dec.op = op_load or r.w.dec.op = op_store or r.w.step = second));
      if d_answer.done = '1' and waits then
        v.w.old := d_answer.data;
        v.w.step := second;
      end if;
    end if;
    d_request <= request;
    case r.w.dec.op is
      when op_load => register_value <= loaded;
      when op_swap | op_fadd => register_value <= r.w.old;
      when others => register_value <= r.w.value;
    end case;
    register_write <= r.w.valid and not waits and r.w.dec.writes;
    retired <= (valid => r.w.valid and not waits, pc => r.w.pc, writes => r.w.dec.writes, rd => r.w.dec.rd,
                value => register_value, stores => r.w.dec.op = op_store or r.w.dec.op = op_swap or r.w.dec.op = op_fadd,
                address => r.w.address, data => stored, size => r.w.dec.size);

    -- execution
    left := operands(0);
    right := operands(1);
    a <= left;
    b <= right;
    sum := word(unsigned(left) + unsigned(dec.immediate));
    if dec.op = op_swap or dec.op = op_fadd then
      sum := left;
    end if;
    long_start <= r.x.valid and not waits and dec.op = op_alu and dec.fn >= f_mul and dec.fn <= f_remu and not r.stop;
    stall := waits or (r.x.valid and dec.op = op_alu and dec.fn >= long_fn'low and dec.fn <= long_fn'high and not long_done);
    cause := t_none;
    if r.x.valid and not stall and not r.stop then
      case dec.op is
        when op_bad => cause := t_illegal;
        when op_call => cause := t_call;
        when memory_op => cause := t_misaligned when misaligned(dec.size, sum) else t_none;
        when others => null;
      end case;
    end if;
    trapped := cause /= t_none;
    csr_cause <= cause;
    with cause select
      bad <= r.x.ins when t_illegal,
             word(resize(unsigned(r.x.ins(15 downto 0)), xlen)) when t_call,
             sum when others;

    jumps := false;
    target := r.x.pc + 4;
    if not stall then
      v.w := (valid => r.x.valid and not trapped and not r.stop, pc => r.x.pc, dec => dec, value => target, address => sum,
              data => right, old => (others => '0'), step => first);
      case dec.op is
        when op_alu =>
          if dec.fn >= f_mul and dec.fn <= f_remu then
            v.w.value := long_result;
          elsif dec.uses_immediate then
            v.w.value := computed(dec.fn, left, dec.immediate);
          else
            v.w.value := computed(dec.fn, left, right);
          end if;
        when op_lui => v.w.value := dec.immediate;
        when op_auipc => v.w.value := word(unsigned(r.x.pc) + unsigned(dec.immediate));
        when op_csr => v.w.value := csr_value;
        when op_branch =>
          if holds(dec.cond, left, right) then
            jumps := true;
            target := word(unsigned(r.x.pc) + unsigned(dec.immediate));
          end if;
        when op_jal =>
          jumps := true;
          target := word(unsigned(r.x.pc) + unsigned(dec.immediate));
        when op_jalr =>
          jumps := true;
          target := sum(xlen - 1 downto 2) & "00";
        when op_eret =>
          jumps := true;
          target := trap_back;
        when op_halt =>
          v.stop := r.stop or r.x.valid;
        when others => null;
      end case;
    end if;
    csr_retire <= v.w.valid and not stall;
    csr_write <= v.w.valid and not stall and dec.op = op_csr and (dec.how = h_write or dec.ra /= 0);
    csr_eret <= v.w.valid and not stall and dec.op = op_eret;
    if stall and not waits then
      v.w.valid := false;
    end if;
    jumps := jumps and r.x.valid and not r.stop;
    if trapped then
      jumps := true;
      target := trap_vector;
    end if;

    -- fetch
    if not stall then
      v.x := (valid => hit and not jumps and not v.stop, pc => r.f.pc, ins => fetched);
      if hit then
        v.f.pc := r.f.pc + 4;
      end if;
    end if;
    if jumps and not stall then
      v.f.pc := target;
    end if;
    v.done := r.done or (r.stop and not r.w.valid);

    rin <= v;
  end process combine;

  halted <= r.done;

  state : process (clk, rst_n) is
  begin
    if not rst_n then
      r.f.pc <= reset_pc;
      r.x.valid <= false;
      r.w.valid <= false;
      r.w.dec <= nothing;
      r.w.step <= first;
      r.stop <= false;
      r.done <= false;
    elsif rising_edge(clk) then
      r <= rin;
    end if;
  end process state;
end architecture two_process;
