"""`mevrik.toml`: every mistake at its line, and changes that leave the rest as it is written."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.project.load import load_project
from mevrik.project.project_file import set_file
from tests.conftest import mevrik

SUBJECT = '[[subject]]\nmodule = "gate"\n'
WRONG = [
    ("name = ", 1, "no TOML"),
    ('name = "x"\n[[subject]]\nmodule = gate', 3, "no TOML"),
    ("subject = 3", 1, "begins with [[subject]]"),
    ("subject = [1, 2]", 1, "begins with [[subject]]"),
    ('[subject]\nmodule = "gate"', 1, "begins with [[subject]]"),
    ('naem = "x"\n' + SUBJECT, 1, "did you mean 'name'"),
    ("\n[[subject]]\n", 2, "needs a module"),
    ("\n\n[[ subject ]]\nmodule = 3", 3, "module is a text in quotes, not 3"),
    (SUBJECT + "tabel = 3", 1, "did you mean 'table'"),
    (SUBJECT + "table = true", 1, "table is a text in quotes"),
    (SUBJECT + "sources = 'gate.v'", 1, "sources is a list of files"),
    (SUBJECT + "sources = []", 1, "sources is a list of files"),
    (SUBJECT + "sources = [3]", 1, "sources is a list of files"),
    (SUBJECT + "for = 3", 1, "for is a text"),
    (SUBJECT + 'for = "3"', 1, "for: '3' is no time"),
    (SUBJECT + 'tolerance = "4 parsecs"', 1, "tolerance: '4 parsecs' is no time"),
    (SUBJECT + "parameters = 4", 1, "parameters are names with whole numbers"),
    (SUBJECT + "parameters = { WIDTH = 1.5 }", 1, "a parameter is a whole number"),
    (SUBJECT + 'expressions = "y"', 1, "expressions are texts"),
    (SUBJECT + "expressions = { y = 3 }", 1, "expressions are texts"),
    (SUBJECT + SUBJECT, 3, "already one called 'gate'"),
]


@pytest.mark.parametrize("text, line, word", WRONG)
def test_wrong_files(tmp_path: Path, text: str, line: int, word: str) -> None:
    (tmp_path / "gate.v").write_text("module gate(input a, output y); assign y = a; endmodule\n")
    (tmp_path / "mevrik.toml").write_text(text)
    told = [p for p in load_project(tmp_path).problems if word in p.text]
    assert [p.line for p in told] == [line]


def test_one_wrong_subject_does_not_take_the_others(tmp_path: Path) -> None:
    (tmp_path / "mevrik.toml").write_text(SUBJECT + "for = 3\n" + SUBJECT + 'name = "other"\n')
    project = load_project(tmp_path)
    assert [s.name for s in project.subjects] == ["other"] and [p.line for p in project.problems] == [1]


def test_parameters_and_paths(tmp_path: Path) -> None:
    (tmp_path / "mevrik.toml").write_text(
        SUBJECT + 'sources = ["rtl/gate.v"]\ntable = "t.csv"\nparameters = { WIDTH = 4, MASK = "0xF0" }\n'
    )
    (subject,) = load_project(tmp_path).subjects
    assert subject.parameters == (("WIDTH", 4), ("MASK", 240))
    assert (subject.sources, subject.table) == ((tmp_path / "rtl" / "gate.v",), tmp_path / "t.csv")


def test_a_change_leaves_the_rest_as_it_is_written(tmp_path: Path) -> None:
    """Comments, blank lines, what stands behind, and a subject that is broken."""
    before = """# the logic of the lock
name = "Lock"   # as on the plate

[[subject]]
module = "gate"   # the lower one
[subject.expressions]
y = "a & b"   # by hand

[[subject]]
module = "gate"
name = "again"

[[subject]]
module = "lamp"
for = 3
"""
    file = tmp_path / "mevrik.toml"
    file.write_text(before)
    project = load_project(tmp_path)
    set_file(project, project.subjects[1], "table", tmp_path / "tables" / "gate.csv")
    set_file(project, project.subjects[0], "channel_map", tmp_path / "gate.map.csv")
    text = file.read_text()
    assert [line for line in text.splitlines() if line and line not in before] == [
        'map = "gate.map.csv"',
        'table = "tables/gate.csv"',
    ]
    assert [line for line in before.splitlines() if line not in text] == []
    again = load_project(tmp_path).subjects
    assert (again[0].table, again[0].channel_map) == (None, tmp_path / "gate.map.csv")
    assert (again[1].table, again[1].channel_map) == (tmp_path / "tables" / "gate.csv", None)
    assert again[0].expressions == (("y", "a & b"),)


def test_an_expression_for_no_output_is_told_and_the_others_are_compared(tmp_path: Path) -> None:
    (tmp_path / "gate.v").write_text("module gate(input a, input b, output y); assign y = a & b; endmodule\n")
    (tmp_path / "mevrik.toml").write_text("\n" + SUBJECT + '[subject.expressions]\ny = "a & b"\nz = "a"\n')
    done = mevrik("check", tmp_path)
    assert "mevrik.toml:2: error: expressions: 'z' is no output of 'gate'" in done.err
    assert "4 agree" in done.out and "Traceback" not in done.err


def test_expressions_beside_a_testbench_are_said_to_be_idle(tmp_path: Path) -> None:
    (tmp_path / "gate.v").write_text("module gate(input a, output y); assign y = a; endmodule\n")
    (tmp_path / "bench.v").write_text(
        "module bench; reg a; wire y; gate g(a, y); initial begin a = 0; #5 a = 1; #5 $finish; end endmodule\n"
    )
    (tmp_path / "mevrik.toml").write_text(SUBJECT + 'testbench = "bench"\nexpressions = { y = "a" }\n')
    assert "expressions are compared where a drive plan drives the design, not 'bench'" in mevrik("check", tmp_path).err
