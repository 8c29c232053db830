-- ieee.std_logic_textio (IEEE 1076-2008 16.10): all that it declared is in std_logic_1164 and textio now.
library ieee;
use ieee.std_logic_1164.all;
package std_logic_textio is
end package;

package body std_logic_textio is
end package body;
