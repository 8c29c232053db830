library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use ieee.math_real.all; use ieee.math_real.all;
use std.textio.all; use std.env.all; use work.dsp.all; use work.log_pkg.all;
entity tb is generic (n : positive := 16; seed : positive := 3); end entity;
architecture sim of tb is
  signal clk : std_ulogic := '0'; signal rst : std_ulogic := '1'; signal start, done : boolean := false;
  signal din, dout : complex_vector(0 to n - 1) := (others => zero);
  shared variable log : logger;
  type reals is array (natural range <>) of real;
  procedure tick (signal clk : in std_ulogic; count : positive := 1) is
  begin
    for i in 1 to count loop wait until falling_edge(clk); end loop;
  end procedure;
  signal stop_me : boolean := false;
  type shape is (impulse, tone, square, noise);
begin
  dut : entity work.fft(iterative) generic map (points => n) port map (clk => clk, rst => rst, start => start, din => din, done => done, dout => dout);
  clk <= not clk after 5 ns when not stop_me else clk;
  main : process is
    variable s1, s2 : positive := seed;
    impure function uniform_between (lo, hi : real) return real is
      variable u : real;
    begin
      uniform(s1, s2, u); return lo + u * (hi - lo);
    end function;
    variable xr, xi, yr, yi : reals(0 to n - 1);
    variable worst : real; variable how : level;
    file f : text open write_mode is "STD_OUTPUT";
  begin
    tick(clk, 2); rst <= '0';
    for t in shape loop
      for i in 0 to n - 1 loop
        case t is
          when impulse => xr(i) := 0.9 when i = 0 else 0.0; xi(i) := 0.0;
          when tone => xr(i) := 0.7 * cos(math_2_pi * 3.0 * real(i) / real(n)); xi(i) := 0.7 * sin(math_2_pi * 3.0 * real(i) / real(n));
          when square => xr(i) := 0.5 when i mod 2 = 0 else -0.5; xi(i) := 0.25;
          when noise => xr(i) := uniform_between(-0.6, 0.6); xi(i) := uniform_between(-0.6, 0.6);
        end case;
        din(i) <= (to_sample(xr(i)), to_sample(xi(i)));
      end loop;
      start <= true; tick(clk); start <= false;
      wait until done; tick(clk);
      worst := 0.0;
      for k in 0 to n - 1 loop
        yr(k) := 0.0; yi(k) := 0.0;
        for i in 0 to n - 1 loop
          yr(k) := yr(k) + xr(i) * cos(math_2_pi * real(k * i) / real(n)) + xi(i) * sin(math_2_pi * real(k * i) / real(n));
          yi(k) := yi(k) + xi(i) * cos(math_2_pi * real(k * i) / real(n)) - xr(i) * sin(math_2_pi * real(k * i) / real(n));
        end loop;
        worst := realmax(worst, realmax(abs (yr(k) / real(n) - to_real(dout(k).re)), abs (yi(k) / real(n) - to_real(dout(k).im))));
      end loop;
      how := info when worst < 1.0e-3 else fail;
      log.say(how, shape'image(t) & " " & image(dout(3)));
      log.say(debug, "worst " & real'image(worst));
    end loop;
    log.summary(f);
    stop_me <= true;
    finish;
  end process;
  block_of_watch : block is
    signal seen : natural := 0;
  begin
    seen <= seen + 1 when rising_edge(clk) and <<signal dut.stage : integer>> = 1;
    process begin wait until log.count(info) = 4 for 2 us; wait; end process;
  end block;
end architecture;
