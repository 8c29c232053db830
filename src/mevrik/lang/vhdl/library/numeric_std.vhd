-- ieee.numeric_std (IEEE 1076-2008 16.8). What begins with x_ is done by the run-time kernel.
--: include numeric U = unresolved_unsigned ;; S = unresolved_signed ;; E = std_ulogic ;; NINE = true ;; NAMED = NUMERIC_STD ;; SAME = (arg(i) ?= y) = '1' ;; CHARACTERS = UX01ZWLH-
--: include matching
--: part if_unknown
    if x_is_x(arg) then
      assert no_warning report "NUMERIC_STD.TO_INTEGER: metavalue detected, returning 0" severity warning;
      return 0;
    end if;
--: end
library ieee;
use ieee.std_logic_1164.all;
package numeric_std is
  type unresolved_unsigned is array (natural range <>) of std_ulogic;
  type unresolved_signed is array (natural range <>) of std_ulogic;
  alias u_unsigned is unresolved_unsigned;
  alias u_signed is unresolved_signed;
  subtype unsigned is (resolved) unresolved_unsigned;
  subtype signed is (resolved) unresolved_signed;
--: insert kernel
--: each both
  function x_match(l, r : $T) return std_ulogic;
  function x_std_match(l, r : $T) return boolean;
  function x_is_x(l : $T) return boolean;
  function x_map(s : $T; table : integer; unknown : bit) return $T;
--: end
  function x_std_match(l, r : std_ulogic_vector) return boolean;
  function x_match1(l, r : std_ulogic) return std_ulogic;
end package;

package body numeric_std is
--: insert operators
--: each OP = ?= | ?/= ;; NOT =  | not
--: each both
  function "$OP"(l, r : $T) return $E is
  begin
    return $NOT x_match(resize(l, x_longer(l'length, r'length)), resize(r, x_longer(l'length, r'length)));
  end function;
--: end
--: each mixed
  function "$OP"($PARAMS) return $E is
  begin
    return $NOT x_match($L, $R);
  end function;
--: end
--: end
--: each OP = < | <= | > | >=
--: each both
  function "?$OP"(l, r : $T) return $E is
  begin
--: each UNKNOWN = x_is_x(l) or x_is_x(r)
--: insert matched
--: end
--: end
--: each mixed
  function "?$OP"($PARAMS) return $E is
  begin
--: each UNKNOWN = x_is_x($OTHER)
--: insert matched
--: end
--: end
--: end
--: each both
  function std_match(l, r : $T) return boolean is
  begin
    return x_std_match(l, r);
  end function;
  function to_01(s : $T; xmap : std_ulogic := '0') return $T is
    variable result : $T(s'length - 1 downto 0);
    alias v : $T(s'length - 1 downto 0) is s;
  begin
    for i in result'range loop
      case v(i) is
        when '0' | 'L' => result(i) := '0';
        when '1' | 'H' => result(i) := '1';
        when others => return (result'range => xmap);
      end case;
    end loop;
    return result;
  end function;
--: each NAME = to_x01 | to_x01z | to_ux01 ;; TABLE = 0 | 1 | 2
  function $NAME(s : $T) return $T is
  begin
    return x_map(s, $TABLE, '0');
  end function;
--: end
  function is_x(s : $T) return boolean is
  begin
    return x_is_x(s);
  end function;
--: end
  function std_match(l, r : std_ulogic_vector) return boolean is
  begin
    return x_std_match(l, r);
  end function;
  function std_match(l, r : std_ulogic) return boolean is
  begin
    return x_std_match(std_ulogic_vector'(1 => l), std_ulogic_vector'(1 => r));
  end function;
end package body;
