"""Expected against Behavioural on a design whose faults are known."""

from __future__ import annotations

from pathlib import Path

from mevrik.compare.ledger import Ledger
from mevrik.project.check import examine_all
from mevrik.project.examine import Findings
from mevrik.project.load import load_project


def examined(folder: Path, **files: str) -> Findings:
    for name, text in files.items():
        (folder / name.replace("__", ".")).write_text(text)
    (found,) = examine_all(load_project(folder))
    return found


def ledger(found: Findings) -> Ledger:
    assert not found.failed, (found.diagnostics, found.problems)
    return found.ledgers[0]


AND = "module m(input a, b, output y); assign y = a & b; endmodule"


def test_all_rows_agree(tmp_path: Path) -> None:
    found = examined(tmp_path, m__v=AND, m__csv="a,b,y\n0,-,0\n1,0,0\n1,1,1\n")
    assert (ledger(found).agreeing, ledger(found).state) == (4, "agree")
    assert found.agrees and found.coverage is not None and found.coverage.complete


def test_the_rows_that_differ(tmp_path: Path) -> None:
    found = examined(tmp_path, m__v=AND, m__csv="a,b,y\n0,0,0\n0,1,1\n1,0,0\n1,1,0\n")
    made = ledger(found)
    assert [(e.row, e.left, e.right) for e in made.entries] == [(1, "1", "0"), (3, "0", "1")]
    assert [(e.start, e.end) for e in made.entries] == [(10_000, 20_000), (30_000, 40_000)]
    assert (made.agreeing, made.differing, made.state) == (2, 2, "differ")
    assert made.first is not None and made.first.row == 1


def test_dont_care_is_no_difference_and_no_point(tmp_path: Path) -> None:
    found = examined(tmp_path, m__v=AND, m__csv="a,b,y\n0,0,-\n0,1,-\n1,0,0\n1,1,1\n")
    assert (ledger(found).checked, ledger(found).state) == (2, "agree")


def test_unknown_is_not_comparable(tmp_path: Path) -> None:
    text = "module m(input a, output y); reg r; assign y = a ? r : 1'b0; endmodule"
    made = ledger(examined(tmp_path, m__v=text, m__csv="a,y\n0,0\n1,1\n"))
    assert (made.agreeing, made.differing, made.unknown, made.state) == (1, 0, 1, "unknown")
    assert made.entries[0].kind == "unknown"


def test_an_expected_unknown_or_high_impedance(tmp_path: Path) -> None:
    text = "module m(input a, output y); assign y = a ? 1'b1 : 1'bz; endmodule"
    assert ledger(examined(tmp_path, m__v=text, m__csv="a,y\n0,z\n1,1\n")).state == "agree"
    assert ledger(examined(tmp_path, m__v=text, m__csv="a,y\n0,z\n1,z\n")).differing == 1


def test_sampling_waits_until_the_design_has_settled(tmp_path: Path) -> None:
    """The output follows 7 ns late; each row lasts 10 ns."""
    text = "`timescale 1ns/1ns\nmodule m(input a, b, output y); wire #3 n = ~a; assign #4 y = n ^ b; endmodule"
    assert ledger(examined(tmp_path, m__v=text, m__csv="a,b,y\n0,0,1\n0,1,0\n1,0,0\n1,1,1\n")).state == "agree"


def test_buses(tmp_path: Path) -> None:
    text = "module m(input [1:0] a, output [2:0] y); assign y = a + 2'd3; endmodule"
    found = examined(tmp_path, m__v=text, m__csv="a[1:0],y[2:0]\n0,3\n1,4\n2,0b101\n3,0x7\n")
    made = ledger(found)
    assert [(e.row, e.left, e.right) for e in made.entries] == [(3, "111", "110")]


def test_expressions_make_a_table_too(tmp_path: Path) -> None:
    toml = '[[subject]]\nmodule = "m"\nsources = ["m.v"]\n[subject.expressions]\ny = "a | b"\n'
    made = ledger(examined(tmp_path, m__v=AND, mevrik__toml=toml))
    assert (made.agreeing, made.differing) == (2, 2)
    assert [(e.left, e.right) for e in made.entries] == [("1", "0"), ("1", "0")]


def test_a_testbench_in_the_folder_drives(tmp_path: Path) -> None:
    bench = """module tb; reg a = 0, b = 0; wire y; m dut(a, b, y);
    initial begin #5 a = 1; #5 b = 1; #5 a = 0; #5 $finish; end endmodule"""
    found = examined(tmp_path, m__v=AND, tb__v=bench, m__csv="a,b,y\n0,0,0\n1,0,0\n1,1,1\n0,1,1\n")
    made = ledger(found)
    assert found.bench == "" and made.checked == 4
    assert [(e.row, e.start) for e in made.entries] == [(3, 15)]


def test_rows_of_the_table_and_random_ones_when_there_are_too_many(tmp_path: Path) -> None:
    text = "module m(input [15:0] a, b, output y); assign y = a == b; endmodule"
    found = examined(tmp_path, m__v=text, m__csv="a,b,y\n0xBEEF,0xBEEF,1\n0x1234,0x1235,1\n")
    made = ledger(found)
    assert [(e.row, e.right) for e in made.entries] == [(1, "0")]
    assert any("random" in n for n in found.notes)


def test_a_clocked_design_gets_clock_reset_and_sweeps(tmp_path: Path) -> None:
    text = """module m(input clk, input rst_n, input en, output reg [3:0] q);
    always @(posedge clk or negedge rst_n) if (!rst_n) q <= 0; else if (en) q <= q + 1; endmodule"""
    found = examined(tmp_path, m__v=text)
    assert [(p.name, p.role, p.active) for p in found.ports[:3]] == [("clk", "clock", 1), ("rst_n", "reset", 0), ("en", "", 1)]
    assert found.outcome is not None and found.outcome.ended == "finish"
    assert found.plan is not None and set(found.plan.lanes) == {"clk", "rst_n", "en"}
    from mevrik.waves.record import RunRecord

    assert found.record is not None
    record = RunRecord(found.record)
    assert record.trace(f"{found.scope}.q").at(24_000).val == 0
    assert len(record.trace(f"{found.scope}.q")) > 100
