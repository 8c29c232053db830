"""A pipelined core in SystemVerilog in the style of packages, structures, interfaces, macros for checks, and classes in the bench.

What the program does is known: the squares of 0 to 9 less 20 are -20 -19 -16 -11 -4 5 16 29 44 61, so the negative ones sum to -70,
the others to 155, the greatest is 61. 5 instructions before the first loop, 6 in it ten times, 4 between; the second loop has 9 for
each of the five negative numbers and 10 for the others; 5 at the end: 159 in all."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.conftest import Done, mevrik

HERE = Path(__file__).parent / "barrage"
LINES = """30 words, 159 instructions, longest 'lui r8, r0, -32768'
OpAdd:30 OpXor:2 OpSra:1 OpSlt:1 OpSltu:1 OpAddi:56 OpLui:1 OpLw:10 OpSw:10 OpBne:10 OpBlt:30 OpJal:5 OpCsr:1 OpHalt:1
negative -70, others 155, greatest 61
0 words differ, r14 is TARN
0 errors, 1 model
barrage watcher saw 159 instructions
slow watcher saw 159 instructions""".splitlines()


@pytest.mark.parametrize("order", [[], ["--order", "shuffle", "--seed", 5], ["--start", "random", "--seed", 2]])
def test_the_core_does_what_the_model_does(order: list[object]) -> None:
    done = mevrik("run", HERE, "--top", "tb", *order)
    assert done.err == ""
    assert sorted(done.out.splitlines()) == sorted(LINES)


def test_a_clean_design_has_no_findings() -> None:
    done = mevrik("lint", HERE)
    assert (done.out + done.err).strip() == ""


def speaks(tmp_path: Path, *statements: str) -> Done:
    path = tmp_path / "speaks.sv"
    path.write_text("module unit #(parameter int W = 8, parameter string S = \"a\");\n" + "\n".join(statements) + """
    endmodule
    module t; unit #(.W(12)) u (); endmodule""")  # fmt: skip
    return mevrik("lint", path, "--top", "t")


def test_tasks_that_speak_at_elaboration(tmp_path: Path) -> None:
    """IEEE 1800-2017 20.11: they take constants, and speak only where the generate block is there."""
    said = speaks(
        tmp_path,
        'if (W > 8) begin : wide $warning("%0d bits, %s, %b", W, S, 3\'d5); end',
        'else $error("narrow");',
        'if (W < 8) $fatal(1, "too narrow"); else $info("fits");',
    ).err
    assert ":2:25: warning: 12 bits, a, 101 (in 'unit.wide')" in said
    assert ":4:42: note: fits" in said
    assert "error" not in said.replace("$error", "")


def test_an_error_at_elaboration_keeps_the_design_from_running(tmp_path: Path) -> None:
    path = tmp_path / "stops.sv"
    path.write_text('module t; initial $display("ran");\n  if (1) $fatal(0, "depth %0d", 3);\nendmodule')
    done = mevrik("run", path)
    assert done.status != 0
    assert ":2:10: error: depth 3 (in 't.genblk1')" in done.err
    assert "ran" not in done.out
