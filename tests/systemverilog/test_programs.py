"""Programs of fifty lines that use the language from side to side, as people bring them: what each prints stands beside it, and was
followed line by line by hand."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import mevrik

PROGRAMS = sorted((Path(__file__).parent / "programs").glob("*.sv"))


SIDE_BY_SIDE = {"coherence", "generate", "mixins", "patterns", "processes"}  # several processes print at the same moment


def check(program: Path, *order: object) -> None:
    done = mevrik("run", program, "--top", "tb", *order)
    assert done.status == 0, done.err
    assert done.out == program.with_suffix(".out").read_text(), done.err


@pytest.mark.parametrize("program", PROGRAMS, ids=lambda p: p.stem)
def test_it_prints_what_it_should(program: Path) -> None:
    check(program)


@pytest.mark.parametrize("program", [p for p in PROGRAMS if p.stem not in SIDE_BY_SIDE], ids=lambda p: p.stem)
def test_no_order_of_events_matters(program: Path) -> None:
    check(program, "--order", "shuffle", "--seed", 5)
