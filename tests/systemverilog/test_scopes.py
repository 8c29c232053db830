"""Where names come from: imports in blocks and subprograms (IEEE 1800-2017 26.3), defaults of arguments (13.5.3), prototypes (23.5)."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done
from tests.rows import prints

PACKAGE = """
package gauges;
  localparam int LOW = 3; int marks [3] = '{4, 5, 6}; typedef logic [3:0] level_t; typedef enum {SHUT, OPEN} gate_t;
  function automatic int twice(int x); return 2 * x; endfunction
endpackage
"""


def test_imports_in_blocks_and_subprograms(simulate: Callable[..., Done]) -> None:
    """26.3: what is imported is seen in that block alone; a name of the block itself hides one of a wildcard."""
    text = (
        PACKAGE
        + """
    module tb;
      int LOW = 100;
      task show; import gauges::twice; localparam int Q = 2; $display("%0d", twice(Q)); endtask
      function int sum(int x); import gauges::*; return twice(x) + LOW; endfunction
      initial begin import gauges::*; level_t n; gate_t g; n = LOW; g = OPEN; $display("%0d %s %0d", n, g.name(), $bits(n)); end
      always_comb begin import gauges::level_t; automatic level_t q; q = 17; if (q != 1) $display("never"); end
      initial begin
        #1 show; $display("%0d %0d", sum(5), LOW);
        begin import gauges::*; int marks; marks = 8; $display("%0d %0d", marks, gauges::marks[1]); end
      end
    endmodule"""
    )
    prints(simulate, text, "3 OPEN 4\n4\n13 100\n8 5")


def test_a_default_is_worked_out_where_the_subprogram_stands(simulate: Callable[..., Done]) -> None:
    """13.5.3: with what its names mean there, each time a call uses it; a member of the class is one of the object."""
    text = """
    module tb;
      int step = 3, n = 50;
      function int next_of(int n, int by = step); return n + by; endfunction
      class gate; int open = 4; function int more(int n = open + 1); return n; endfunction endclass
      gate g = new;
      initial begin
        $display("%0d", next_of(1)); step = 5; $display("%0d %0d", next_of(1), next_of(1, 1));
        begin int step; step = 1000; $display("%0d", next_of(1)); end
        g.open = 7; $display("%0d %0d", g.more(), g.more(2));
      end
    endmodule"""
    prints(simulate, text, "4\n6 2\n6\n8 2")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("module tb; function int f(int a, int b = a + 1); return b; endfunction initial $display(f(1)); endmodule",
         "a default can't use 'a', another argument: it is worked out where 'f' is declared (13.5.3)"),
        ("interface bus; extern task send(int n); endinterface\nmodule tb; bus b(); endmodule", "that a module gives it is not supported yet (IEEE 1800-2017 25.7.4)"),
        ("interface bus; logic d; endinterface\nmodule low(bus b); task b.send(int n); b.d = n; endtask endmodule\nmodule tb; bus b(); low l(b); endmodule",
         "'b.send' is given to an interface: not supported yet (IEEE 1800-2017 25.7.4)"),
        (PACKAGE + "module tb; initial begin import gauges::hihg; end endmodule", "the package 'gauges' has nothing called 'hihg'"),
    ],
)  # fmt: skip
def test_one_error(text: str, said: str, simulate: Callable[..., Done]) -> None:
    done = simulate(text, "--top", "tb", suffix=".sv")
    assert done.status == 2 and said in done.err
    assert done.err.count("error:") == 1, done.err


def test_prototypes_of_modules_say_nothing_new(simulate: Callable[..., Done]) -> None:
    text = """
    extern module low(input a, output b);
    module tb; wire y; extern module beside(input x); low l(1'b1, y); initial #1 $display("%b", y); endmodule
    module low(input a, output b); assign b = !a; endmodule"""
    prints(simulate, text, "0", "--top", "tb")
