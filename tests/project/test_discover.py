"""What is found in a folder that says nothing of itself: subjects, their sources, testbenches, tables, plans and captures."""

from __future__ import annotations

from pathlib import Path

from mevrik.project.discover import found_project
from mevrik.project.project import Subject
from tests.conftest import mevrik

GATE = "module gate(input a, b, output y); assign y = a & b; endmodule\n"
BENCH = "module gate_tb; reg a, b; wire y; gate g(a, b, y); initial begin a = 1; b = 1; #1 $finish; end endmodule\n"
TABLE = "a,b,y\n0,-,0\n1,0,0\n1,1,1\n"


def put(folder: Path, **files: str) -> Path:
    """Files by name, with `__` for a dot and `_in_` for a folder."""
    for name, text in files.items():
        *inside, last = name.split("_in_")
        path = folder.joinpath(*inside, last.replace("__", "."))
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)
    return folder


def only(folder: Path) -> Subject:
    (subject,) = found_project(folder).subjects
    return subject


def names(files: tuple[Path, ...]) -> list[str]:
    return [f.name for f in files]


def test_a_module_alone(tmp_path: Path) -> None:
    subject = only(put(tmp_path, gate__v=GATE))
    assert (subject.name, subject.module, subject.testbench, names(subject.sources)) == ("gate", "gate", "", ["gate.v"])
    assert subject.table is None and subject.plan is None and subject.capture is None


def test_a_testbench_and_a_table(tmp_path: Path) -> None:
    """The subject is what the testbench instantiates; the table is the one of its name."""
    subject = only(put(tmp_path, gate__v=GATE, gate_tb__v=BENCH, gate__csv=TABLE, other__csv="x,y\n0,1\n"))
    assert (subject.module, subject.testbench) == ("gate", "gate_tb")
    assert sorted(names(subject.sources)) == ["gate.v", "gate_tb.v"]
    assert subject.table is not None and subject.table.name == "gate.csv"


def test_sources_are_what_is_needed(tmp_path: Path) -> None:
    """All that is instantiated below, packages in any case, and nothing else."""
    folder = put(
        tmp_path,
        top__sv="module top(input a, output y); import p::*; leaf l(a, y); endmodule",
        leaf__sv="module leaf(input a, output y); assign y = !a; endmodule",
        p__sv="package p; localparam W = 3; endpackage",
        apart__sv="module apart(input z, output q); assign q = z; endmodule",
    )
    subjects = {s.name: sorted(names(s.sources)) for s in found_project(folder).subjects}
    assert subjects == {"top": ["leaf.sv", "p.sv", "top.sv"], "apart": ["apart.sv", "p.sv"]}


def test_a_part_with_a_table_of_its_own(tmp_path: Path) -> None:
    """What is a part of something larger is a subject too if it has a table."""
    folder = put(
        tmp_path,
        gate__v=GATE,
        lock__v="module lock(input a, b, output y); gate g(a, b, y); endmodule",
        gate__csv=TABLE,
    )
    assert [s.name for s in found_project(folder).subjects] == ["lock", "gate"]


def test_tables_and_captures_are_told_apart(tmp_path: Path) -> None:
    """By their first line: a capture has a column of times."""
    subject = only(put(tmp_path, gate__v=GATE, gate__csv=TABLE, **{"gate_capture__csv": "time (ns),a,b,y\n0,0,0,0\n10,1,1,1\n"}))
    assert subject.table is not None and subject.table.name == "gate.csv"


def test_both_languages(tmp_path: Path) -> None:
    folder = put(
        tmp_path,
        enc__vhd="entity enc is port (a : in bit; y : out bit); end;\narchitecture r of enc is begin y <= not a; end;\n",
        top__v="module top(input a, output y); enc e(a, y); endmodule\n",
    )
    subject = only(folder)
    assert subject.module == "top" and sorted(names(subject.sources)) == ["enc.vhd", "top.v"]


def test_copies_of_a_module(tmp_path: Path) -> None:
    """The file that is named like it, the one least deep down; the others are told of, and are no error."""
    folder = put(
        tmp_path,
        gate__v=GATE,
        a_old_in_gate__v=GATE.replace("&", "|"),
        gate_netlist__v=GATE.replace("a & b", "b & a"),
        gate__csv=TABLE,
    )
    project = found_project(folder)
    (subject,) = project.subjects
    assert subject.sources == (folder / "gate.v",)
    assert [(Path(p.file).relative_to(folder).as_posix(), p.severity) for p in project.problems] == [
        ("a_old/gate.v", "note"), ("gate_netlist.v", "note"),
    ]  # fmt: skip
    assert "'gate' is declared here too; gate.v is used" in project.problems[0].text
    done = mevrik("check", folder)
    assert done.status == 0, done.out + done.err
    assert "1 agree, 0 do not" in done.out


def test_nothing_to_examine(tmp_path: Path) -> None:
    project = found_project(put(tmp_path, notes__txt="gate"))
    assert not project.subjects
    assert "there is no HDL file here; Mevrik reads .v and .sv and .vhd and .vhdl files" in project.problems[0].text
    assert mevrik("check", tmp_path).status == 2


def test_hidden_folders_are_left_alone(tmp_path: Path) -> None:
    put(tmp_path, gate__v=GATE)
    for inside in (".git", ".mevrik", "node_modules", ".old"):
        (tmp_path / inside).mkdir()
        (tmp_path / inside / "gate.v").write_text(GATE)
    assert only(tmp_path).sources == (tmp_path / "gate.v",)


def test_files_with_mistakes_are_subjects(tmp_path: Path) -> None:
    """What does not parse is found all the same, so that its mistake is told."""
    folder = put(tmp_path, gate__v=GATE.replace("assign y", "assing y"))
    assert only(folder).module == "gate"
    assert mevrik("check", folder).status == 2
