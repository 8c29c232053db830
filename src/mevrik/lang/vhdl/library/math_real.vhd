-- ieee.math_real (IEEE 1076-2008 16.6, IEEE 1076.2).
package math_real is
  constant math_e : real := 2.71828182845904523536;
  constant math_1_over_e : real := 0.36787944117144232160;
  constant math_pi : real := 3.14159265358979323846;
  constant math_2_pi : real := 6.28318530717958647693;
  constant math_1_over_pi : real := 0.31830988618379067154;
  constant math_pi_over_2 : real := 1.57079632679489661923;
  constant math_pi_over_3 : real := 1.04719755119659774615;
  constant math_pi_over_4 : real := 0.78539816339744830962;
  constant math_3_pi_over_2 : real := 4.71238898038468985769;
  constant math_log_of_2 : real := 0.69314718055994530942;
  constant math_log_of_10 : real := 2.30258509299404568402;
  constant math_log2_of_e : real := 1.44269504088896340736;
  constant math_log10_of_e : real := 0.43429448190325182765;
  constant math_sqrt_2 : real := 1.41421356237309504880;
  constant math_1_over_sqrt_2 : real := 0.70710678118654752440;
  constant math_sqrt_pi : real := 1.77245385090551602730;
  constant math_deg_to_rad : real := 0.01745329251994329577;
  constant math_rad_to_deg : real := 57.29577951308232087680;
  function x_math(what : integer; x : real; y : real) return real;
  function sign(x : real) return real;
  function ceil(x : real) return real;
  function floor(x : real) return real;
  function round(x : real) return real;
  function trunc(x : real) return real;
  function "mod"(x, y : real) return real;
  function realmax(x, y : real) return real;
  function realmin(x, y : real) return real;
  procedure uniform(variable seed1, seed2 : inout positive; variable x : out real);
  function sqrt(x : real) return real;
  function cbrt(x : real) return real;
  function "**"(x : integer; y : real) return real;
  function "**"(x : real; y : real) return real;
  function exp(x : real) return real;
  function log(x : real) return real;
  function log2(x : real) return real;
  function log10(x : real) return real;
  function log(x : real; base : real) return real;
  function sin(x : real) return real;
  function cos(x : real) return real;
  function tan(x : real) return real;
  function arcsin(x : real) return real;
  function arccos(x : real) return real;
  function arctan(y : real) return real;
  function arctan(y : real; x : real) return real;
  function sinh(x : real) return real;
  function cosh(x : real) return real;
  function tanh(x : real) return real;
  function arcsinh(x : real) return real;
  function arccosh(x : real) return real;
  function arctanh(x : real) return real;
end package;

package body math_real is
  function sign(x : real) return real is
  begin
    if x > 0.0 then
      return 1.0;
    elsif x < 0.0 then
      return -1.0;
    end if;
    return 0.0;
  end function;
  function ceil(x : real) return real is
  begin
    return x_math(21, x, 0.0);
  end function;
  function floor(x : real) return real is
  begin
    return x_math(20, x, 0.0);
  end function;
  function round(x : real) return real is
  begin
    return x_math(22, x, 0.0);
  end function;
  function trunc(x : real) return real is
  begin
    return x_math(23, x, 0.0);
  end function;
  function "mod"(x, y : real) return real is
  begin
    assert y /= 0.0 report "math_real.mod: division by zero" severity error;
    return x - y * x_math(20, x / y, 0.0);
  end function;
  function realmax(x, y : real) return real is
  begin
    if x >= y then
      return x;
    end if;
    return y;
  end function;
  function realmin(x, y : real) return real is
  begin
    if x <= y then
      return x;
    end if;
    return y;
  end function;
  -- two combined multiplicative congruential generators (L'Ecuyer 1988), as the standard gives it
  procedure uniform(variable seed1, seed2 : inout positive; variable x : out real) is
    variable z, k : integer;
    variable s1 : integer := integer(seed1);
    variable s2 : integer := integer(seed2);
  begin
    if s1 > 2147483562 then
      assert false report "seed1 > 2147483562 in uniform" severity error;
      return;
    end if;
    if s2 > 2147483398 then
      assert false report "seed2 > 2147483398 in uniform" severity error;
      return;
    end if;
    k := s1 / 53668;
    s1 := 40014 * (s1 - k * 53668) - k * 12211;
    if s1 < 0 then
      s1 := s1 + 2147483563;
    end if;
    k := s2 / 52774;
    s2 := 40692 * (s2 - k * 52774) - k * 3791;
    if s2 < 0 then
      s2 := s2 + 2147483399;
    end if;
    seed1 := positive(s1);
    seed2 := positive(s2);
    z := s1 - s2;
    if z < 1 then
      z := z + 2147483562;
    end if;
    x := real(z) * 4.656613e-10;
  end procedure;
  function sqrt(x : real) return real is
  begin
    assert x >= 0.0 report "math_real.sqrt: the argument is negative" severity error;
    return x_math(0, x, 0.0);
  end function;
  function cbrt(x : real) return real is
  begin
    return x_math(1, x, 0.0);
  end function;
  function "**"(x : integer; y : real) return real is
  begin
    return x_math(2, real(x), y);
  end function;
  function "**"(x : real; y : real) return real is
  begin
    return x_math(2, x, y);
  end function;
  function exp(x : real) return real is
  begin
    return x_math(3, x, 0.0);
  end function;
  function log(x : real) return real is
  begin
    assert x > 0.0 report "math_real.log: the argument is not positive" severity error;
    return x_math(4, x, 0.0);
  end function;
  function log2(x : real) return real is
  begin
    assert x > 0.0 report "math_real.log2: the argument is not positive" severity error;
    return x_math(5, x, 0.0);
  end function;
  function log10(x : real) return real is
  begin
    assert x > 0.0 report "math_real.log10: the argument is not positive" severity error;
    return x_math(6, x, 0.0);
  end function;
  function log(x : real; base : real) return real is
  begin
    return x_math(24, x, base);
  end function;
  function sin(x : real) return real is
  begin
    return x_math(7, x, 0.0);
  end function;
  function cos(x : real) return real is
  begin
    return x_math(8, x, 0.0);
  end function;
  function tan(x : real) return real is
  begin
    return x_math(9, x, 0.0);
  end function;
  function arcsin(x : real) return real is
  begin
    assert abs x <= 1.0 report "math_real.arcsin: the argument is outside of -1 to 1" severity error;
    return x_math(10, x, 0.0);
  end function;
  function arccos(x : real) return real is
  begin
    assert abs x <= 1.0 report "math_real.arccos: the argument is outside of -1 to 1" severity error;
    return x_math(11, x, 0.0);
  end function;
  function arctan(y : real) return real is
  begin
    return x_math(12, y, 0.0);
  end function;
  function arctan(y : real; x : real) return real is
  begin
    return x_math(13, y, x);
  end function;
  function sinh(x : real) return real is
  begin
    return x_math(14, x, 0.0);
  end function;
  function cosh(x : real) return real is
  begin
    return x_math(15, x, 0.0);
  end function;
  function tanh(x : real) return real is
  begin
    return x_math(16, x, 0.0);
  end function;
  function arcsinh(x : real) return real is
  begin
    return x_math(17, x, 0.0);
  end function;
  function arccosh(x : real) return real is
  begin
    return x_math(18, x, 0.0);
  end function;
  function arctanh(x : real) return real is
  begin
    return x_math(19, x, 0.0);
  end function;
end package body;
