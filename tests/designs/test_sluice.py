"""A microcontroller in Verilog-2005 as people write it: a core, its units, its peripherals, and a bench with an assembler.

The numbers that the program prints are known beforehand: the sum of 1 to 100 is 5050, 12! is 479001600, three interrupts come, the
byte 41 comes back plus one, the panel shows 5A hex, that is 90; eight halves are sorted."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import mevrik

HERE = Path(__file__).parent / "sluice"
SORTED = "-32768 -5 0 1 7 12 299 300"


@pytest.mark.parametrize("order", [[], ["--order", "shuffle", "--seed", 3]])
def test_both_systems_print_the_same(order: list[object]) -> None:
    """The fast and the serial product give the same text, in any order of simultaneous events."""
    done = mevrik("run", HERE, "--top", "tb", *order)
    assert done.err == ""
    lines = ["Tarnwick Lock 07", "5050", "479001600", "3", "42", "90"]
    for name in ("first", "second"):
        assert [x.split(" says ")[1] for x in done.out.splitlines() if x.startswith(f"{name} says")] == lines
    assert done.out.splitlines()[-3:] == [SORTED, "45 of 45 checks, 40 and 40 characters", "the serial product takes longer"]


def test_a_clean_design_has_no_findings() -> None:
    done = mevrik("lint", HERE)
    assert (done.out + done.err).strip() == ""
