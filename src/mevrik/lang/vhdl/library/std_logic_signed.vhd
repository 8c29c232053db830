-- std_logic_signed: arithmetic on std_logic_vector as it is widespread; no part of the standard.
--: include arithmetic V = std_logic_vector ;; B = std_logic ;; SIGN = true ;; RIGHT = 2
--: include logic_numbers V = std_logic_vector
library ieee;
use ieee.std_logic_1164.all;
package std_logic_signed is
--: insert kernel
end package;

package body std_logic_signed is
--: insert logic_numbers
--: each OP = - | abs ;; ONLY = false | true
  function "$OP"(l : std_logic_vector) return std_logic_vector is
  begin
    return x_negate(l, $ONLY, true);
  end function;
--: end
end package body;
