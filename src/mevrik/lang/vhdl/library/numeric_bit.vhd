-- ieee.numeric_bit (IEEE 1076-2008 16.8). What begins with x_ is done by the run-time kernel.
--: include numeric U = unsigned ;; S = signed ;; E = bit ;; NINE = false ;; NAMED = NUMERIC_BIT ;; SAME = arg(i) = y ;; CHARACTERS = 01
--: part if_unknown
--: end
package numeric_bit is
  type unsigned is array (natural range <>) of bit;
  type signed is array (natural range <>) of bit;
--: insert kernel
end package;

package body numeric_bit is
--: insert operators
--: part matched
    if l $OP r then
      return '1';
    end if;
    return '0';
  end function;
--: end
--: each OP = < | <= | > | >= | = | /=
--: each both
  function "?$OP"(l, r : $T) return bit is
  begin
--: insert matched
--: end
--: each mixed
  function "?$OP"($PARAMS) return bit is
  begin
--: insert matched
--: end
--: end
end package body;
