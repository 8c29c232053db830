"""Delays from a file: IEEE 1497 and $sdf_annotate. Times by hand from the file's values, in units of 100 ps."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import mevrik

CELLS = """`timescale 1ns/10ps
`celldefine
module and2(output y, input a, b); and (y, a, b); specify (a => y) = 1; (b => y) = (1, 2); endspecify endmodule
module dff(output reg q, input d, c); reg n; always @(posedge c) q <= d;
  specify (posedge c => (q +: d)) = 1; $setup(d, posedge c, 1, n); $hold(posedge c, d, 1, n); endspecify endmodule
`endcelldefine
"""
BENCH = (
    CELLS
    + """module top(input a, b, c, output q); wire y; and2 g(y, a, b); dff f(q, y, c); endmodule
module tb; reg a, b, c; wire q; top u(a, b, c, q); initial $sdf_annotate("delays.sdf", u%s);
 always @(u.y) $display("y %%b %%0t", u.y, $realtime); always @(q) $display("q %%b %%0t", q, $realtime);
 initial begin $timeformat(-9, 2, "", 0); a = 0; b = 0; c = 0; #20 a = 1; b = 1; #20 b = 0; #20 b = 1; #10 c = 1; #20 $finish(0); end
endmodule
"""
)
DELAYS = """(DELAYFILE (SDFVERSION "3.0") (DIVIDER .) (TIMESCALE 100ps) // the header
 (CELL (CELLTYPE "top") (INSTANCE) (DELAY (ABSOLUTE (INTERCONNECT b g.b (1:2:3)))))
 (CELL (CELLTYPE "and2") (INSTANCE g) (DELAY (ABSOLUTE (IOPATH a y (10:20:30) (15)) (IOPATH b y (30:40:50) (40)))))
 (CELL (CELLTYPE "dff") (INSTANCE *) (DELAY (ABSOLUTE (IOPATH (posedge c) q (25)))) (TIMINGCHECK (SETUP d (posedge c) (%s))))
)
"""


def run(tmp_path: Path, delays: str, more: str = "") -> tuple[list[str], str]:
    (tmp_path / "cells.v").write_text(BENCH % more)
    (tmp_path / "delays.sdf").write_text(delays)
    done = mevrik("run", "cells.v", "--top", "tb", cwd=tmp_path)
    assert done.status == 0, done.err
    return done.out.splitlines(), done.err


def test_paths_interconnects_and_edges(tmp_path: Path) -> None:
    """y falls 1.5 after a at 0; b reaches the gate 0.2 later: y at 20.2 + 4, 40.2 + 4, 60.2 + 4; q 2.5 after c at 70."""
    out, err = run(tmp_path, DELAYS % "10")
    assert out == ["y 0 1.50", "y 1 24.20", "y 0 44.20", "y 1 64.20", "q 1 72.50"]
    assert "warning" not in err


def test_minimum_and_factors(tmp_path: Path) -> None:
    """Minimum values times 2: b reaches the gate 0.2 later, y rises 6 after it; a falls 3 after 0."""
    out, _ = run(tmp_path, DELAYS % "10", ', , , "MINIMUM", "2.0:1.0:1.0"')
    assert out[:2] == ["y 0 3.00", "y 1 26.20"]


def test_a_limit_from_the_file(tmp_path: Path) -> None:
    """y is 1 from 64.2 on; a setup of 6 before c at 70 is violated, one of 5.8 is not."""
    assert "$setup violation" in run(tmp_path, DELAYS % "60")[1]
    assert "$setup violation" not in run(tmp_path, DELAYS % "58")[1]


def test_what_finds_no_target_is_a_warning_with_its_line(tmp_path: Path) -> None:
    lost = DELAYS % "10" + ""
    lost = lost.rstrip().removesuffix(")") + ' (CELL (CELLTYPE "dff") (INSTANCE gone) (DELAY (ABSOLUTE (IOPATH c q (1)))))\n'
    lost += ' (CELL (CELLTYPE "and2") (INSTANCE g)\n  (DELAY (ABSOLUTE (IOPATH z y (1)))))\n)'
    _, err = run(tmp_path, lost)
    assert "delays.sdf:5:" in err and "gone" in err and "delays.sdf:7:" in err and "IOPATH z y" in err


def test_a_file_that_is_none(tmp_path: Path) -> None:
    """The run goes on with the delays of the source."""
    out, err = run(tmp_path, "(DELAYFILE (CELL (CELLTYPE)")
    assert "delays.sdf:1:" in err and "missing" in err and out[0] == "y 0 1.00"


@pytest.mark.parametrize("entry", ["(IOPATH a)", "(IOPATH)", "(NETDELAY)", "(PORT)", "(INTERCONNECT a)"])
def test_an_entry_without_its_ports(tmp_path: Path, entry: str) -> None:
    """It is told with its line, and the delays of the source hold."""
    text = f"""(DELAYFILE (TIMESCALE 1ns)
      (CELL (CELLTYPE "and2") (INSTANCE g)
        (DELAY (ABSOLUTE {entry}))))"""
    out, err = run(tmp_path, text)
    assert "delays.sdf:3:" in err and "before its delays" in err and out[0] == "y 0 1.00"
