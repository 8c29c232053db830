"""A small processor system in VHDL as people write it: records, arrays of records, functions over unconstrained arrays, text files,
protected types, external names.

The bench assembles its program with functions of VHDL and forces it into the memory of the first system; the second system reads the
same program from a file that is assembled here. The sum of the cubes of 1 to 5 is 225, E1 in hexadecimal. Of the instructions 6 come
before the first loop (6 x 5), 2 and 5 x 5 for the sum, 2 to the digits, 12 for `e` and 11 for `1`, 2 for the end of the line, 15 to
the jump, and the store behind it: 106 are done when the core sleeps."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from tests.conftest import mevrik

HERE = Path(__file__).parent / "penstock"
ALU = {name: k for k, name in enumerate("add sub and or xor sll srl sra slt sltu mul cp".split())}
PROGRAM = """addi 1 0 -4096; addi 2 1 256; lui 3 0x8000; addi 4 0 1; addi 5 0 6; addi 6 3 0; mul 7 4 4; mul 7 7 4; st 7 6 0; addi 6 6 4
addi 4 4 1; lt 4 5 -5; addi 8 0 0; addi 4 0 5; addi 6 6 -4; ld 7 6 0; add 8 8 7; addi 4 4 -1; ne 4 0 -4; st 8 2 0; addi 9 0 4
srl 10 8 9; addi 11 0 15; and 10 10 11; addi 11 0 10; lt 10 11 2; addi 10 10 39; addi 10 10 48; ld 12 1 0; eq 12 0 -1; st 10 1 0
addi 9 9 -4; ge 9 0 -11; addi 10 0 10; st 10 1 0; addi 4 0 -100; addi 9 0 3; sra 5 4 9; sll 6 4 9; slt 7 4 9; sltu 10 4 9; cp 11 4 0
st 5 3 64; st 6 3 68; st 7 3 72; st 10 3 76; st 11 3 80; ld 13 2 0; st 13 3 84; jal 15 0 2; addi 14 0 1; st 15 3 88; halt 0 0 0"""


def word(text: str) -> int:
    """One instruction: six bits of operation, then the registers, then what belongs to the operation."""
    name, *operands = text.split()
    a, b, c = (int(x, 0) for x in operands) if len(operands) == 3 else (int(operands[0]), 0, int(operands[1], 0))
    if name in ALU:
        return a << 22 | b << 18 | c << 14 | ALU[name]
    if name in ("eq", "ne", "lt", "ge"):
        return 8 << 26 | b << 22 | a << 18 | ("eq", "ne", "lt", "ge").index(name) << 14 | c & 0x3FFF
    number = {"addi": 1, "lui": 2, "ld": 4, "st": 5, "jal": 9, "halt": 63}[name]
    return number << 26 | a << 22 | b << 18 | (c if name == "lui" else c & 0x3FFF)


@pytest.fixture
def penstock(tmp_path: Path) -> Path:
    folder = tmp_path / "penstock"
    shutil.copytree(HERE, folder)
    lines = [f"{word(x):08x}" for x in PROGRAM.replace("\n", ";").split(";")]
    (folder / "program.hex").write_text("# cubes\n" + "\n".join(lines) + "\n\n")
    return folder


def test_both_systems_agree(penstock: Path) -> None:
    done = mevrik("run", ".", "--top", "tb", "--no-metavalue-warnings", cwd=penstock)
    assert done.err == ""
    assert done.status == 0
    assert sorted(done.out.splitlines()) == [
        "0 failures, 6 characters",
        "retired   106  106 00 at 0E1",
        "system0: e1",
        "system1: e1",
    ]
    assert (penstock / "system1.log").read_text() == "e1\n"


def test_what_is_said_before_time_0_is_heard(penstock: Path) -> None:
    """The function that gives a signal its first value reports that its file isn't there; the run goes on with it."""
    (penstock / "program.hex").unlink()
    done = mevrik("run", ".", "--top", "tb", "--no-metavalue-warnings", cwd=penstock)
    assert "penstock_system.vhd:28:7: error: no image program.hex: name_error (at 0 s)" in done.err
    assert "the systems don't sleep: 01 traps 00" in done.err
    assert "Traceback" not in done.err


def test_the_files_of_first_values_stay_in_the_folder(penstock: Path, tmp_path: Path) -> None:
    """What runs before time 0 may no more read outside the project than what runs later."""
    (tmp_path / "secret.hex").write_text("00000000\n")
    bench = penstock / "penstock_tb.vhd"
    bench.write_text(bench.read_text().replace('"program.hex"', '"../secret.hex"'))
    done = mevrik("run", ".", "--top", "tb", "--no-metavalue-warnings", cwd=penstock)
    assert "no image ../secret.hex" in done.err


def test_a_design_has_no_findings(penstock: Path) -> None:
    done = mevrik("lint", penstock)
    assert (done.out + done.err).strip() == ""
