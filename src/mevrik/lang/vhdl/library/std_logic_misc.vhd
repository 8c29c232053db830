-- std_logic_misc: reductions as they are widespread; no part of the standard.
library ieee;
use ieee.std_logic_1164.all;
package std_logic_misc is
  function and_reduce(arg : std_ulogic_vector) return ux01;
  function nand_reduce(arg : std_ulogic_vector) return ux01;
  function or_reduce(arg : std_ulogic_vector) return ux01;
  function nor_reduce(arg : std_ulogic_vector) return ux01;
  function xor_reduce(arg : std_ulogic_vector) return ux01;
  function xnor_reduce(arg : std_ulogic_vector) return ux01;
end package;

package body std_logic_misc is
  function and_reduce(arg : std_ulogic_vector) return ux01 is
  begin
    return and arg;
  end function;
  function nand_reduce(arg : std_ulogic_vector) return ux01 is
  begin
    return nand arg;
  end function;
  function or_reduce(arg : std_ulogic_vector) return ux01 is
  begin
    return or arg;
  end function;
  function nor_reduce(arg : std_ulogic_vector) return ux01 is
  begin
    return nor arg;
  end function;
  function xor_reduce(arg : std_ulogic_vector) return ux01 is
  begin
    return xor arg;
  end function;
  function xnor_reduce(arg : std_ulogic_vector) return ux01 is
  begin
    return xnor arg;
  end function;
end package body;
