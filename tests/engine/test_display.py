"""What $display and its family print: IEEE 1364-2005 17.1."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done

Run = Callable[..., Done]

# (what is required, arguments, the line)
ROWS = [
    ("17.1.1.2: a decimal is as wide as the greatest value, a leading zero is a blank", '"%d", 8\'d5', "  5"),
    ("17.1.1.2: signed values leave room for the sign", '"%d", -8\'sd5', "  -5"),
    ("17.1.1.2: %0 takes no more room than needed", "\"%0d|%0h|%0b\", 8'd5, 8'h0a, 8'b11", "5|a|11"),
    ("17.1.1.2: hex, octal and binary keep their leading zeros", "\"%h|%o|%b\", 8'h0a, 8'h0a, 4'h3", "0a|012|0011"),
    ("17.1.1.3: all x, all z; some x, some z", "\"%d|%d|%d|%d\", 4'bx, 4'bz, 4'b1x00, 4'b1z00", " x| z| X| Z"),
    ("17.1.1.3: the same for each digit", "\"%h|%h|%o\", 8'bxxxx_1010, 8'b1x00_zzzz, 6'bzz1_xxx", "xa|Xz|Zx"),
    ("17.1.1.5: %s, leading zeros are not printed", '"%0s|%s", 32\'h00004142, "ab"', "AB|ab"),
    ("17.1.1: %c, %% and escapes", '"%c%%\\t\\"\\\\\\101", 8\'h41', 'A%\t"\\A'),
    ("17.1.1.6: reals", '"%f|%e|%g", 1.5, 1.5, 1.5', "1.500000|1.500000e+00|1.5"),
    ("17.1.1: an argument without a format is decimal", "8'd7,, 4'd3", "  7  3"),
    ("17.1.1.4: strengths", "\"%v%v%v\", 1'b1, 1'b0, 1'bz", "St1St0HiZ"),
]


@pytest.mark.parametrize(("clause", "arguments", "line"), ROWS, ids=[r[0].split(":")[0] + f"-{k}" for k, r in enumerate(ROWS)])
def test_a_line(simulate: Run, clause: str, arguments: str, line: str) -> None:
    done = simulate(f"module tb; initial $display({arguments}); endmodule")
    assert done.out == line + "\n", clause


def test_default_bases(simulate: Run) -> None:
    """17.1: $displayb, $displayo and $displayh set the base of arguments without a format; $write ends no line."""
    done = simulate(
        """module tb; initial begin $displayb(4'd5); $displayo(6'd9); $displayh(8'd10); $write("a"); $writeh(4'd11); $display; end
        endmodule"""
    )
    assert done.out == "0101\n11\n0a\nab\n"


def test_time_format(simulate: Run) -> None:
    """17.3.2: %t scales to the unit that $timeformat sets, with its digits, suffix and least width; 2.5 ns are 2500 ps."""
    done = simulate(
        """`timescale 1ns/100ps
        module tb; initial begin $timeformat(-12, 1, " ps", 12); #2.5 $display("[%t]", $realtime); end endmodule"""
    )
    assert done.out == "[   2500.0 ps]\n"
