library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use ieee.math_real.all;
package dsp_types is
  generic (width : positive := 16; frac : natural := 12);
  subtype sample is signed(width - 1 downto 0);
  type sample_vector is array (natural range <>) of sample;
  type complex is record re, im : sample; end record;
  type complex_vector is array (natural range <>) of complex;
  constant zero : complex := (others => (others => '0'));
  function to_sample (x : real) return sample;
  function to_real (x : sample) return real;
  function "*" (a, b : complex) return complex;
  function "+" (a, b : complex) return complex;
  function "-" (a, b : complex) return complex;
  function half (a : complex) return complex;
  function image (c : complex) return string;
end package;
package body dsp_types is
  function saturate (x : real) return integer is
    constant top : real := 2.0 ** (width - 1) - 1.0;
  begin
    return integer(round(realmax(realmin(x, top), -top - 1.0)));
  end function;
  function to_sample (x : real) return sample is
  begin
    return to_signed(saturate(x * 2.0 ** frac), width);
  end function;
  function to_real (x : sample) return real is
  begin
    return real(to_integer(x)) / 2.0 ** frac;
  end function;
  function round_shift (x : signed; n : natural) return sample is
    variable y : signed(x'length - 1 downto 0) := x;
  begin
    if n > 0 then
      y := shift_right(y + to_signed(2 ** (n - 1), y'length), n);
    end if;
    return resize(y, width);
  end function;
  function "*" (a, b : complex) return complex is
    variable re, im : signed(2 * width downto 0);
  begin
    re := resize(a.re * b.re, re'length) - resize(a.im * b.im, re'length);
    im := resize(a.re * b.im, re'length) + resize(a.im * b.re, re'length);
    return (re => round_shift(re, frac), im => round_shift(im, frac));
  end function;
  function "+" (a, b : complex) return complex is
  begin
    return (a.re + b.re, a.im + b.im);
  end function;
  function "-" (a, b : complex) return complex is
  begin
    return (re => a.re - b.re, im => a.im - b.im);
  end function;
  function half (a : complex) return complex is
  begin
    return (shift_right(a.re, 1), shift_right(a.im, 1));
  end function;
  function image (c : complex) return string is
  begin
    return "(" & to_string(to_real(c.re), "%.3f") & "," & to_string(to_real(c.im), "%.3f") & ")";
  end function;
end package body;

package dsp is new work.dsp_types generic map (width => 18, frac => 14);

use std.textio.all;
package log_pkg is
  type level is (debug, info, warn, fail);
  type logger is protected
    procedure set_level (l : level);
    procedure say (l : level; msg : string);
    impure function count (l : level) return natural;
    procedure summary (variable f : inout text);
  end protected;
end package;
package body log_pkg is
  type logger is protected body
    type counts is array (level) of natural;
    type entry;
    type entry_ptr is access entry;
    type entry is record text : line; next_one : entry_ptr; end record;
    variable n : counts := (others => 0);
    variable threshold : level := info;
    variable head, tail : entry_ptr;
    procedure set_level (l : level) is begin threshold := l; end procedure;
    procedure say (l : level; msg : string) is
      variable e : entry_ptr;
    begin
      n(l) := n(l) + 1;
      if l < threshold then return; end if;
      e := new entry'(text => new string'(level'image(l) & ": " & msg), next_one => null);
      if head = null then head := e; else tail.next_one := e; end if;
      tail := e;
    end procedure;
    impure function count (l : level) return natural is begin return n(l); end function;
    procedure summary (variable f : inout text) is
      variable p, q : entry_ptr;
      variable l : line;
    begin
      p := head;
      while p /= null loop
        write(l, p.text.all); writeline(f, l);
        q := p.next_one; deallocate(p.text); deallocate(p); p := q;
      end loop;
      head := null;
      for k in level loop
        write(l, level'image(k)); write(l, n(k), right, 4); if k /= level'high then write(l, string'(";")); end if;
      end loop;
      writeline(f, l);
    end procedure;
  end protected body;
end package body;
