"""One instruction set, three cores: out of order in SystemVerilog (`duo`), five stages in Verilog (`five`), three stages in VHDL
(`tide`). Each tells what every instruction leaves behind; that is compared with the interpreter of `brae/machine.py`, which was
written from the same words, on random programs with traps, atomic accesses, loops and jumps."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from tests.conftest import Done, mevrik
from tests.designs.brae.machine import Machine, assemble, executed, random_program

HERE = Path(__file__).parent / "brae"
CORES = ("duo", "five", "tide")
QUIET = ("--no-metavalue-warnings",)


def run_program(tmp_path: Path, core: str, text: str, *options: object) -> tuple[Done, Machine]:
    """Run a program on a core; what was said, and what the interpreter made of it. The traces are compared."""
    folder = tmp_path / core
    shutil.copytree(HERE / core, folder)
    words = assemble(text)
    (folder / "program.hex").write_text("".join(f"{w:08x}\n" for w in words))
    done = mevrik("run", ".", "--top", "brae_tb", *options, cwd=folder)
    wanted = executed(words)
    found = (folder / "trace.txt").read_text().splitlines()
    where = [k for k, (a, b) in enumerate(zip(found, wanted.trace)) if a != b][:1]
    assert found == wanted.trace, f"first at {where}\n{done.err}"
    return done, wanted


@pytest.mark.parametrize("seed", range(100, 104))
@pytest.mark.parametrize("core", CORES)
def test_a_core_does_what_the_interpreter_does(tmp_path: Path, core: str, seed: int) -> None:
    options: list[object] = [[], ["--order", "shuffle", "--seed", seed], ["--start", "random", "--seed", seed], []][seed % 4]
    done, wanted = run_program(tmp_path, core, random_program(seed), *options, *QUIET)
    assert done.status == 0, done.err
    said = done.out + done.err
    assert "console: ok" in said
    assert f"{wanted.retired} retired" in said


@pytest.mark.parametrize("define", ["BRAE_NO_ICACHE", "BRAE_SLOW_MUL"])
def test_configurations_by_macro(tmp_path: Path, define: str) -> None:
    done, _ = run_program(tmp_path, "five", random_program(7), "-D", define)
    assert done.out == "console: ok, 329 retired, 0 errors\n"


def test_the_model_in_classes_agrees_too(tmp_path: Path) -> None:
    done, wanted = run_program(tmp_path, "duo", random_program(11))
    assert "0 mismatches" in done.out
    assert f"tracer 1: {wanted.retired} instructions" in done.out


# ten numbers are sorted, the largest first, and their sum is told in hexadecimal
SORTING = """
    ori r1 r0 0x2000
    addi r2 r0 10
    addi r3 r0 1
fill: mul r4 r3 r3
    xori r4 r4 0x2A
    sw r4 r1 0
    addi r1 r1 4
    addi r3 r3 1
    addi r2 r2 -1
    bne r2 r0 fill
    addi r5 r0 9
outer: ori r1 r0 0x2000
    addi r6 r5 0
inner: lw r7 r1 0
    lw r8 r1 4
    bge r7 r8 kept
    sw r8 r1 0
    sw r7 r1 4
kept: addi r1 r1 4
    addi r6 r6 -1
    bne r6 r0 inner
    addi r5 r5 -1
    bne r5 r0 outer
    ori r1 r0 0x2000
    addi r2 r0 10
sum: lw r7 r1 0
    add r9 r9 r7
    addi r1 r1 4
    addi r2 r2 -1
    bne r2 r0 sum
    lui r10 0x8000
    addi r11 r0 8
digits: addi r11 r11 -4
    srl r12 r9 r11
    andi r12 r12 15
    slti r13 r12 10
    addi r12 r12 48
    bne r13 r0 tell
    addi r12 r12 39
tell: sb r12 r10 0
    bne r11 r0 digits
    halt
"""


@pytest.mark.parametrize("core", CORES)
def test_a_sort(tmp_path: Path, core: str) -> None:
    """The squares of 1 to 10 with bits 1, 3 and 5 turned: 43 46 35 58 51 14 27 106 123 78 sum to 581, 245 in hexadecimal; two
    digits are told."""
    done, wanted = run_program(tmp_path, core, SORTING, *QUIET)
    numbers = [int.from_bytes(wanted.memory[k : k + 4], "little") for k in range(0x2000, 0x2028, 4)]
    assert numbers == [123, 106, 78, 58, 51, 46, 43, 35, 27, 14]
    assert wanted.console == "45"
    assert "console: 45" in done.out + done.err


@pytest.mark.parametrize("core", CORES)
def test_a_core_has_no_findings(core: str) -> None:
    done = mevrik("lint", HERE / core)
    assert (done.out + done.err).strip() == ""
