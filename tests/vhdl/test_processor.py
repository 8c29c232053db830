"""A processor in the style that many VHDL cores have: two processes over nested records, unconstrained arrays of records between
entities, an assembler with access types and a protected type, a bench that reads a text file. What it must print is worked out here,
by the instructions' meaning."""

from __future__ import annotations

from pathlib import Path

from tests.conftest import mevrik

CORE = Path(__file__).parents[2] / "bench" / "processor"
SOURCES = [str(CORE / f"{name}.vhd") for name in ("types", "core", "memory", "assembler", "bench")]


def _table() -> list[int]:
    """What the program of sum.asm leaves in memory: entry k is k*k xor the sum of the entries before it, in 32 bits."""
    entries: list[int] = []
    for k in range(100):
        entries.append((k * k ^ sum(entries)) % 2**32)
    return entries


def test_the_processor_runs_its_program() -> None:
    done = mevrik("run", *SOURCES, "--top", "processor_bench", "--param", "clocks=3000", "--record", "none", cwd=CORE)
    assert done.status == 0, done.err
    printed = done.out.splitlines()
    assert printed[0] == "instructions:    14"
    table = _table()
    for line, k in zip(printed[2:6], (24, 49, 74, 99), strict=True):
        swapped = table[k].to_bytes(4, "little").hex()
        assert line == f"{k:3}: {table[k]:08X} parity '{table[k].bit_count() % 2}' swapped {swapped}"
    # 3000 clocks of 10 ns, the reset's 12 ns, and 1 ns for each of the 100 words that are read back
    assert f"sum {sum(table) % 2**32:08X} at 30112000000 fs" in done.out + done.err


def test_its_program_must_be_there(tmp_path: Path) -> None:
    done = mevrik("run", *SOURCES, "--top", "processor_bench", cwd=tmp_path)
    assert done.status == 1
    assert "no file sum.asm" in done.out + done.err and "assembler.vhd:" in done.out + done.err
