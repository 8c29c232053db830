"""A testbench in VHDL in the style of people's own libraries: protected types that log and queue, a package with generics for types
and functions, records of unconstrained arrays as buses, a resolution function as a barrier, text formatting.

The clock rises at 5, 15, 25 ns. The barrier opens at 10: `w3` is taken at 15 and told behind the next edge; `w7` follows at 35, after
which the store waits for 7 mod 3 clocks: `r3` is taken at 55, and finds nobody who drives the data. `w1` was added in the same round.
The maker's waits for the size of a queue see no event of a signal, so each lasts its 300 ns."""

from __future__ import annotations

import shutil
from pathlib import Path

from tests.conftest import mevrik

HERE = Path(__file__).parent / "logbook"
LINES = """
    0 ns INFO  maker...[w3=5A w7=81 r3]
   25 ns INFO  driver..w3=5A at 25 got 0x5A
   45 ns INFO  driver..w7=81 at 45 got 0x81
   65 ns INFO  driver..r3 at 65 got 0xZZ
   85 ns INFO  driver..w1=28 at 85 got 0x28
  325 ns INFO  driver..w2=50 at 325 got 0x50
  910 ns WARN  maker...true[0 7]; [w3=5A w7=81 r3 w1=28 w2=50]
  910 ns FAIL  maker...12 true rest ' xx'
trace=3, info=6, warn=1, fail=1
"""


def test_it_logs_what_happens(tmp_path: Path) -> None:
    folder = tmp_path / "logbook"
    shutil.copytree(HERE, folder)
    done = mevrik("run", ".", "--top", "tb", cwd=folder)
    assert done.err == ""
    assert done.out == LINES.lstrip("\n")
    assert (folder / "run.log").read_text() == LINES.lstrip("\n")


def test_its_design_has_no_findings() -> None:
    done = mevrik("lint", HERE, "--top", "store")
    assert (done.out + done.err).strip() == ""
