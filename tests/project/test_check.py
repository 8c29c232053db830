"""`mevrik check` and projects, on the demo and on folders that are not as they should be."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import pytest

from mevrik.project.load import load_project
from mevrik.project.project import ProjectError
from mevrik.project.project_file import set_file
from tests.conftest import mevrik


def test_demo(demo: Path) -> None:
    done = mevrik("check", demo, "--json", demo / "r.json", "--junit", demo / "r.xml")
    assert done.status == 1, done.err
    results = {r["subject"]: r for r in json.loads((demo / "r.json").read_text())}
    assert results["gate_interlock"]["agrees"]
    flawed = results["gate_interlock_flawed"]["ledgers"][0]
    # the upper gate is freed though the lower one stands open: level_high, ask, not hold, lower_shut 0, upper_shut either
    assert [(e["row"], e["signal"], e["left"], e["right"]) for e in flawed["entries"]] == [
        (18, "free_upper", "0", "1"),
        (22, "free_upper", "0", "1"),
    ]
    measured = results["paddle_pwm"]["ledgers"][0]
    (entry,) = measured["entries"]
    assert (measured["right"], entry["signal"], entry["left"], entry["right"]) == ("Measured", "paddle", "0", "1")
    assert "row 19" in done.out and "row 23" in done.out and "192 agree" in done.out
    suites = ElementTree.parse(demo / "r.xml").getroot()
    assert {s.get("name"): (s.get("failures"), s.get("skipped")) for s in suites} == {
        "gate_interlock": ("0", "0"), "gate_interlock_flawed": ("1", "0"), "paddle_pwm": ("1", "0"), "lamp_timer": ("0", "1"),
        "level_encoder": ("0", "0"), "gate_position": ("0", "1"), "gate_position_copied": ("0", "1"), "gate_position_unreset": ("0", "1"),
        "lock_top": ("0", "1"),
    }  # fmt: skip


def test_only_the_good_design_agrees(demo: Path) -> None:
    (demo / "mevrik.toml").write_text(
        '[[subject]]\nmodule = "gate_interlock"\nsources = ["gate_interlock.v"]\ntable = "gate_interlock.csv"\n'
    )
    assert mevrik("check", demo).status == 0


def test_everything_is_found_without_a_project_file(demo: Path) -> None:
    (demo / "mevrik.toml").unlink()
    project = load_project(demo)
    by_name = {s.name: s for s in project.subjects}
    # the tops, and what has a table of its own though it is a part of a top; not gate_position, which is a part and has none
    assert set(by_name) == {
        "gate_interlock_flawed", "lock_top", "lamp_timer", "gate_position_copied", "gate_position_unreset", "paddle_pwm", "gate_interlock",
        "level_encoder",
    }  # fmt: skip
    assert by_name["paddle_pwm"].testbench == "paddle_pwm_tb"
    assert by_name["paddle_pwm"].capture == demo / "paddle_pwm.capture.csv"
    assert by_name["gate_interlock"].table == demo / "gate_interlock.csv"
    assert by_name["lamp_timer"].plan == demo / "lamp_timer.plan.toml"


def test_what_was_found_is_kept_when_something_is_set(demo: Path) -> None:
    (demo / "mevrik.toml").unlink()
    before = load_project(demo)
    subject = before.subject("lamp_timer")
    assert subject is not None
    set_file(before, subject, "table", demo / "gate_interlock.csv")
    after = load_project(demo)
    assert [s.name for s in after.subjects] == [s.name for s in before.subjects]
    changed = after.subject("lamp_timer")
    assert changed is not None and changed.table is not None and changed.table.resolve() == (demo / "gate_interlock.csv").resolve()


@pytest.mark.parametrize(
    "toml, word",
    [
        ("x = ", "no TOML"),
        ("name = 'a'", "no [[subject]]"),
        ("[[subject]]\nmodul = 'a'", "did you mean 'module'"),
        ("[[subject]]\nname = 'a'", "needs a module"),
    ],
)
def test_wrong_project_files(tmp_path: Path, toml: str, word: str) -> None:
    (tmp_path / "mevrik.toml").write_text(toml)
    done = mevrik("check", tmp_path)
    assert done.status == 2 and word in done.err and "Traceback" not in done.err


def test_folders_that_are_none(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with pytest.raises(ProjectError, match="no such folder"):
        load_project(tmp_path / "none")
    with pytest.raises(ProjectError, match="is a file"):
        load_project(tmp_path / "file")
    done = mevrik("check", tmp_path)
    assert done.status == 2 and "no HDL file" in done.err


def test_missing_and_wrong_inputs_are_told(demo: Path) -> None:
    (demo / "gate_interlock.v").unlink()
    (demo / "gate_interlock.csv").write_text("level_low,gate,alarm\n0,0,0\n")
    (demo / "paddle_pwm.capture.csv").write_text("time_ns,paddle\n0,0\nlate,1\n")
    done = mevrik("check", demo)
    assert done.status == 2 and "Traceback" not in done.err
    assert "gate_interlock.v" in done.err and "no such file" in done.err
    assert "gate_interlock.csv:1:" in done.err and "no port 'gate'" in done.err
    assert "paddle_pwm.capture.csv:3:" in done.err


def test_a_folder_that_cant_be_written(demo: Path, tmp_path: Path) -> None:
    if os.geteuid() == 0:
        pytest.skip("root may write everywhere")
    demo.chmod(0o555)
    try:
        done = mevrik("check", demo, XDG_CACHE_HOME=str(tmp_path / "cache"))
        assert done.status == 1 and not (demo / ".mevrik").exists()
    finally:
        demo.chmod(0o755)


def test_a_design_that_never_ends_is_stopped_with_its_statement(tmp_path: Path) -> None:
    (tmp_path / "m.v").write_text(
        "module m(input a, output y);\n  wire n;\n  assign n = a ? ~n : 1'b0;\n  assign y = n;\nendmodule\n"
    )
    (tmp_path / "m.csv").write_text("a,y\n0,0\n1,1\n")
    done = mevrik("check", tmp_path)
    assert done.status == 2 and "never settles" in done.err and "m.v:3" in done.err


def test_compare_a_run_with_a_capture(demo: Path) -> None:
    run = mevrik("run", demo / "paddle_pwm.v", demo / "paddle_pwm_tb.v", "--record-file", demo / "r.run")
    assert run.status == 0 and run.out.count("done") == 5
    done = mevrik("compare", demo / "r.run", demo / "paddle_pwm.capture.csv", "--scope", "paddle_pwm_tb.dut")
    assert done.status == 1 and "paddle: Behavioural 0, Measured 1" in done.out and "offset 1.4" in done.out
    (demo / "map.csv").write_text("channel,port\npaddle,none\n")
    assert mevrik("compare", demo / "r.run", demo / "paddle_pwm.capture.csv", "--map", demo / "map.csv").status == 0
    wrong = mevrik("compare", demo / "r.run", demo / "paddle_pwm.capture.csv", "--scope", "paddle_pwm_tb.dot")
    assert wrong.status == 2 and "did you mean 'paddle_pwm_tb.dut'" in wrong.err


def test_a_folder_with_packages_interfaces_and_files(tmp_path: Path) -> None:
    """Packages, whatever else stands in their file, go to all subjects; an interface is no subject; a path leads from the folder,
    wherever the check is started."""
    (tmp_path / "kinds.sv").write_text("package kinds; typedef enum {LOW, HIGH} level_e; endpackage\nmodule spare; endmodule\n")
    (tmp_path / "bus.sv").write_text("interface bus; logic v; endinterface\n")
    (tmp_path / "lift.sv").write_text(
        "module lift import kinds::*; (bus b, input logic d, output level_e l); assign l = level_e'(b.v ^ d); endmodule\n"
    )
    (tmp_path / "start.hex").write_text("1\n")
    (tmp_path / "lift_tb.sv").write_text(
        """module lift_tb; import kinds::*; bus b (); logic d, m [1]; level_e l; lift u (.*); int f;
        initial begin $readmemh("start.hex", m); b.v = m[0]; d = 0; #1 $display("level %s", l.name()); f = $fopen("out.txt", "w"); $fdisplay(f, "done"); $fclose(f); end
        endmodule"""
    )  # fmt: skip
    done = mevrik("check", tmp_path, cwd=Path("/"))
    assert done.err == "level HIGH\n"
    assert "lift: nothing to compare with" in done.out
    assert (tmp_path / "out.txt").read_text() == "done\n"


def test_the_server_of_jobs_has_all_that_a_job_needs() -> None:
    """What a job imports it imports each time: it is a fork. So an examination imports nothing that the server did not."""
    program = """
import sys, tempfile
from pathlib import Path
import mevrik.project.ready
from mevrik.demo import fresh_copy
from mevrik.project.examine import _Examination
from mevrik.project.load import load_project
class Nobody:
    def send(self, event): pass
    def on_command(self, hearer): pass
project = load_project(fresh_copy(Path(tempfile.mkdtemp()) / "demo"))
there = set(sys.modules)
for name in ("gate_interlock_flawed", "level_encoder"):
    found = _Examination(Nobody(), project.subject(name), project.folder / "a.run", project.folder, 0).run()
    assert found.outcome is not None, found
print(sorted(set(sys.modules) - there))
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, timeout=120)
    assert done.stdout.strip() == "[]", done.stdout + done.stderr
