library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use ieee.math_real.all;
use work.dsp.all;
entity fft is
  generic (points : positive := 16);
  port (clk, rst : in std_ulogic; start : in boolean; din : in complex_vector(0 to points - 1);
        done : out boolean; dout : out complex_vector(0 to points - 1));
begin
  assert 2 ** integer(ceil(log2(real(points)))) = points report "points must be a power of two" severity failure;
end entity;
architecture iterative of fft is
  constant stages : natural := integer(log2(real(points)));
  type twiddle_table is array (0 to points / 2 - 1) of complex;
  function twiddles return twiddle_table is
    variable t : twiddle_table;
  begin
    for k in t'range loop
      t(k) := (to_sample(cos(-math_2_pi * real(k) / real(points))), to_sample(sin(-math_2_pi * real(k) / real(points))));
    end loop;
    return t;
  end function;
  constant w : twiddle_table := twiddles;
  function reversed (x : natural) return natural is
    variable u : unsigned(stages - 1 downto 0) := to_unsigned(x, stages);
    alias r : unsigned(0 to stages - 1) is u;
    variable y : unsigned(stages - 1 downto 0);
  begin
    for i in y'range loop y(i) := r(i); end loop;
    return to_integer(y);
  end function;
  signal mem : complex_vector(0 to points - 1) := (others => zero);
  signal stage : integer range 0 to stages := 0;
begin
  process (clk, rst) is
    procedure butterfly (variable m : inout complex_vector; constant top, bottom, tw : in natural) is
      constant a : complex := m(top); constant b : complex := m(bottom) * w(tw);
    begin
      m(top) := half(a + b); m(bottom) := half(a - b);
    end procedure;
    variable m : complex_vector(mem'range);
    variable span : positive;
  begin
    if rst = '1' then
      stage <= 0; done <= false;
    elsif rising_edge(clk) then
      done <= false;
      if stage = 0 then
        if start then
          for i in din'range loop mem(reversed(i)) <= din(i); end loop;
          stage <= 1;
        end if;
      else
        m := mem; span := 2 ** (stage - 1);
        for k in 0 to points / 2 - 1 loop
          butterfly(m, (k / span) * 2 * span + k mod span, (k / span) * 2 * span + k mod span + span, (k mod span) * (points / (2 * span)));
        end loop;
        mem <= m;
        done <= stage = stages;
        stage <= 0 when stage = stages else stage + 1;
      end if;
    end if;
  end process;
  dout <= mem;
end architecture;
