-- std_logic_unsigned: arithmetic on std_logic_vector as it is widespread; no part of the standard.
--: include arithmetic V = std_logic_vector ;; B = std_logic ;; SIGN = false ;; RIGHT = 1
--: include logic_numbers V = std_logic_vector
library ieee;
use ieee.std_logic_1164.all;
package std_logic_unsigned is
--: insert kernel
end package;

package body std_logic_unsigned is
--: insert logic_numbers
end package body;
