"""The functions of reals (IEEE 1364-2005 17.11.2), conversions (17.8), and arithmetic of reals (5.1.1, 3.9)."""

from __future__ import annotations

import math
from collections.abc import Callable

from tests.conftest import Done
from tests.rows import Row, check_rows

POINTS = (-2.5, -1.0, -0.75, -0.1, 0.0, 0.3, 0.5, 1.0, 1.5, 2.0, 10.0, 1234.5678)
ONE = {
    "ln": math.log, "log10": math.log10, "exp": math.exp, "sqrt": math.sqrt, "floor": math.floor, "ceil": math.ceil, "sin": math.sin,
    "cos": math.cos, "tan": math.tan, "asin": math.asin, "acos": math.acos, "atan": math.atan, "sinh": math.sinh, "cosh": math.cosh,
    "tanh": math.tanh, "asinh": math.asinh, "acosh": math.acosh, "atanh": math.atanh,
}  # fmt: skip
TWO = {"pow": math.pow, "atan2": math.atan2, "hypot": math.hypot}


def inside(function: Callable[..., float], *at: float) -> float | None:
    try:
        return float(function(*at))
    except (ValueError, OverflowError, ZeroDivisionError):
        return None


def test_as_in_the_library_of_c(simulate: Callable[..., Done]) -> None:
    """Table 17-21: each is the function of the C library of that name."""
    wanted: list[float] = []
    lines: list[str] = []
    for name, function in ONE.items():
        for x in POINTS:
            value = inside(function, x)
            if value is not None:
                wanted.append(value)
                lines.append(f'$display("%.17g", ${name}({x}));')
    for name, both in TWO.items():
        for x in POINTS:
            for y in (-2.0, 0.5, 3.0):
                value = inside(both, x, y)
                if value is not None:
                    wanted.append(value)
                    lines.append(f'a = {x}; b = {y}; $display("%.17g", ${name}(a, b));')
    done = simulate("module tb; real a, b; initial begin\n" + "\n".join(lines) + "\nend endmodule")
    assert done.status == 0, done.err
    found = [float(x) for x in done.out.split()]
    assert len(found) == len(wanted)
    for line, value, expected in zip(lines, found, wanted, strict=True):
        assert math.isclose(value, expected, rel_tol=1e-14, abs_tol=1e-300), line


ROWS: list[Row] = [
    ("17.8: $rtoi cuts off", '$display("%0d %0d %0d", $rtoi(2.9), $rtoi(-2.9), $rtoi(0.5));', "2 -2 0"),
    ("4.8.2: an assignment rounds, halves away from zero", 'i = 2.5; j = -2.5; k = -1.4; $display("%0d %0d %0d", i, j, k);', "3 -3 -1"),
    ("4.8.2: as does an argument of a task", 'show(35.7, -35.5);', "36 -36"),
    ("17.8: $itor", 'r = $itor(7) / 2; $display("%g", r);', "3.5"),
    ("17.8: bits of a real, there and back", 'bits = $realtobits(-1.5); $display("%h %g", bits, $bitstoreal(bits));', "bff8000000000000 -1.5"),
    ("5.1.5: a real is compared as one", '$display("%b%b%b", 0.5 < 1, 3 == 3.0, 2.5 >= 2.6);', "110"),
    ("5.1.6: and is true unless it is zero", 'r = 0.25; if (r && !0.0) $display("true"); else $display("false");', "true"),
    ("5.1.13: a choice of an integer and a real is real", 'i = 1; $display("%g", i ? 3 : 0.5);', "3"),
    ("5.1.2: an integer beside a real becomes one", 'i = 7; $display("%g %g", i / 2.0, i / 2 + 0.0);', "3.5 3"),
    ("3.9.2: unknown bits count as 0 in a real", "r = 8'b0000_1x1z; $display(\"%g\", r);", "10"),
    ("17.1.1.7: widths and precisions", '$display("[%8.3f][%-8.2f][%e][%g]", 3.14159, 2.5, 12345.678, 0.00001);', "[   3.142][2.50    ][1.234568e+04][1e-05]"),
    ("17.1.1: without a format as with %g", "$display(0.1, , 1.0e10);", "0.1 1e+10"),
    ("4.8: a real variable begins as 0.0", '$display("%f", fresh);', "0.000000"),
    ("17.11.1: $clog2", '$display("%0d %0d %0d %0d %0d", $clog2(0), $clog2(1), $clog2(2), $clog2(3), $clog2(1025));', "0 0 1 2 11"),
    ("5.1.1: ** of reals", '$display("%g %g %g", 2.0 ** 0.5 * 2.0 ** 0.5 > 1.99, 2 ** -1.0, 9 ** 0.5);', "1 0.5 3"),
    ("9.5: a case of reals", 'r = 1.5; case (r) 1: $display("one"); 1.5: $display("more"); default: $display("none"); endcase', "more"),
    ("9.6: a loop over a real", 'for (r = 0.0; r < 1.0; r = r + 0.25) $write("%g ", r); $display;', "0 0.25 0.5 0.75 "),
]  # fmt: skip

AROUND = """integer i, j, k; real r, fresh; reg [63:0] bits;
task show(input integer a, input integer b); $display("%0d %0d", a, b); endtask"""


def test_rows(simulate: Callable[..., Done]) -> None:
    check_rows(simulate, ROWS, AROUND, suffix=".v")
