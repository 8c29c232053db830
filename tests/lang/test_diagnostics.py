"""One mistake gives one message, at the right line, with the remedy."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from mevrik.lang.analysis import Options, analyse
from mevrik.lang.diagnostics import Diagnostic
from tests.conftest import mevrik


def find(tmp_path: Path, text: str, suffix: str = ".v") -> list[Diagnostic]:
    path = tmp_path / f"a{suffix}"
    path.write_text(text)
    analysis = analyse([path])
    if not analysis.diagnostics.failed:
        for top in analysis.library.tops():
            analysis.elaborate(top)
    return analysis.diagnostics.sorted()


CASES = [
    ("module m(input a, output y);\n  assign y = a\nendmodule\n", 2, "';' expected"),
    ("module m(input a, output y);\n  assign y = aa;\nendmodule\n", 2, "did you mean 'a'"),
    ("module m(input a, output y);\n  asign y = a;\nendmodule\n", 2, "assign"),
    (
        "module m(input a, output y);\n  sub u(.a(a), .y(y));\nendmodule\nmodule Sub(input a, output y);\nendmodule\n",
        2,
        "did you mean 'Sub'",
    ),
    ("module m;\n  s u(.q(1'b0));\nendmodule\nmodule s(input d);\nendmodule\n", 2, "no port 'q'"),
    ("module m;\n  reg y;\n  reg y;\nendmodule\n", 3, "already declared"),
    ("module m(input a, output y);\n  always @(a) begin\n    y = a;\n  end\nendmodule\n", 3, "y"),
    ('module m;\n  initial begin\n    $display("x);\n  end\nendmodule\n', 3, "quote"),
    ("module m;\n  initial $display(`W);\nendmodule\n", 2, "`W is not defined"),
    ("module m;\n`ifdef A\nendmodule\n", 2, "`endif"),
    ("module m(input [3:0] a, output y);\n  assign y = a[3:0;\nendmodule\n", 2, "expected"),
    ("module m;\n  integer i;\n  initial for (i = 0; i < 4; i = i + 1) begin\n    $display(i);\nendmodule\n", 5, "end"),
]


@pytest.mark.parametrize("text, line, word", CASES, ids=[c[2] for c in CASES])
def test_one_mistake_one_message(tmp_path: Path, text: str, line: int, word: str) -> None:
    errors = [d for d in find(tmp_path, text) if d.severity == "error"]
    assert len(errors) == 1, [d.headline() for d in errors]
    assert errors[0].place.line == line
    assert word.lower() in errors[0].message.lower()


def test_independent_mistakes_are_all_told(tmp_path: Path) -> None:
    text = "module m(input a, output y, z, w);\n  assign y = b;\n  assign z = a +;\n  assign w = c;\nendmodule\n"
    found = find(tmp_path, text)
    assert {d.place.line for d in found if d.severity == "error"} >= {3}
    text = "module m(input a, output y, z, w);\n  assign y = bb;\n  assign z = a;\n  assign w = cc;\nendmodule\n"
    assert [d.place.line for d in find(tmp_path, text) if d.severity == "error"] == [2, 4]


def test_caret_points_at_the_column(tmp_path: Path) -> None:
    (error,) = find(tmp_path, "module m(input a, output y);\n\tassign y = nope;\nendmodule\n")
    shown = error.render().split("\n")
    assert shown[1].strip() == "assign y = nope;"
    assert shown[2].index("^") == shown[1].index("nope")


def test_include_is_searched_and_its_lines_are_told(tmp_path: Path) -> None:
    (tmp_path / "inc").mkdir()
    (tmp_path / "inc" / "defs.vh").write_text("`define WIDTH 4\nwire [`WIDTH-1:0] bus = undeclared;\n")
    path = tmp_path / "a.v"
    path.write_text('module m;\n`include "defs.vh"\nendmodule\n')
    analysis = analyse([path], Options([tmp_path / "inc"]))
    analysis.elaborate("m")
    (error,) = [d for d in analysis.diagnostics.items if d.severity == "error"]
    assert Path(error.place.file).name == "defs.vh" and error.place.line == 2
    missing = analyse([path], Options([]))
    assert "there is no file 'defs.vh'" in missing.diagnostics.items[0].message


def test_any_bytes_give_diagnostics(tmp_path: Path) -> None:
    for k, data in enumerate(
        (b"", b"\xff\xfe", b"((((" * 400, b"module", b"module m; initial begin " + b"begin " * 300, b"`define A `A\n`A", b"\x00")
    ):
        path = tmp_path / f"f{k}.v"
        path.write_bytes(data)
        analysis = analyse([path])
        assert data == b"" or analysis.diagnostics.failed


def test_lint_prints_json_and_writes_nothing(tmp_path: Path) -> None:
    path = tmp_path / "a.v"
    path.write_text("module m(input a, output y);\n  assign y = aa;\nendmodule\n")
    done = mevrik("lint", path, "--json", cwd=tmp_path)
    assert done.status == 2
    (entry,) = json.loads(done.out)
    assert (entry["line"], entry["severity"]) == (2, "error")
    assert [p.name for p in tmp_path.iterdir()] == ["a.v"]


@pytest.mark.parametrize(
    "name, content, word", [("none.v", None, "no such file"), ("b.v", b"\x00\x01", "not a text file"), ("c.txt", b"x", "suffix")]
)
def test_files_that_are_no_sources(tmp_path: Path, name: str, content: bytes | None, word: str) -> None:
    if content is not None:
        (tmp_path / name).write_bytes(content)
    done = mevrik("run", tmp_path / name)
    assert done.status == 2 and word in done.err and "Traceback" not in done.err


def test_empty_folder(tmp_path: Path) -> None:
    done = mevrik("run", tmp_path)
    assert done.status == 2 and "no HDL file" in done.err


@pytest.mark.parametrize(
    "text", ["foo\n", "module m; foo\n  end\n", "module m;\n  initial begin ); end\n", "module m; wire a = );\n"]
)
def test_hints_are_words(text: str, tmp_path: Path) -> None:
    """No message shows how it was made."""
    path = tmp_path / "m.v"
    path.write_text(text + "endmodule\n")
    said = analyse([path]).diagnostics.items
    assert said and not any("None" in d.message or "Mend(" in d.message for d in said)
