"""Plans as TOML: what can't be is told at its line, and saving keeps what else the file says."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.design.ports import PortInfo
from mevrik.stimulus.plan import Clock, Hold, Plan, PlanError, Sweep
from mevrik.stimulus.plan_file import load_plan, save_plan

PORTS = [PortInfo("clk", "input", 1, 0, 0), PortInfo("n", "input", 4, 3, 0), PortInfo("y", "output", 4, 3, 0)]


def lane(patterns: str, pin: str = "clk") -> str:
    return f"\n[lane.{pin}]\npatterns = [{patterns}]\n"


WRONG = [
    ("lane = ", 1, "no TOML"),
    ('for = "1us"\nlane = {', 2, "no TOML"),
    ("", 1, "no lanes"),
    ("lanes = 3", 1, "did you mean 'lane'"),
    ("\nlane = 3", 2, "write [lane.NAME]"),
    ("\n[lane]\nclk = 3", 3, "patterns = ["),
    ('\n[lane.clk]\npatterns = "hold"', 2, "patterns = ["),
    (lane(""), 2, "a lane needs a pattern"),
    (lane("3"), 2, "a pattern is {"),
    (lane('{ kind = "hold", value = 1 }', "clc"), 2, "did you mean 'clk'"),
    (lane('{ kind = "hold", value = 1 }', "y"), 2, "no such input"),
    (lane('{ kind = "wobble" }'), 2, "no kind of pattern"),
    (lane('{ kind = ["hold"] }'), 2, "no kind of pattern"),
    (lane('{ kind = "hold" }'), 2, "'value' of this hold is missing"),
    (lane('{ kind = "hold", value = 1, fro = "3ns" }'), 2, "did you mean 'for'"),
    (lane('{ kind = "hold", value = "one" }'), 2, "a whole number should stand here, not 'one'"),
    (lane('{ kind = "hold", value = 1.5 }'), 2, "a whole number should stand here, not 1.5"),
    (lane('{ kind = "hold", value = 2 }'), 2, "2 does not fit into 1 bit"),
    (lane('{ kind = "hold", value = -1 }', "n"), 2, "-1 does not fit into 4 bits"),
    (lane('{ kind = "hold", value = 1 }, { kind = "hold", value = 0 }'), 2, "this hold never ends"),
    (lane('{ kind = "clock", period = "8ns" }, { kind = "hold", value = 0 }'), 2, "this clock never ends"),
    (lane('{ kind = "hold", value = 1, for = "0ns" }'), 2, "0ns is too short"),
    (lane('{ kind = "hold", value = 1, for = "300fs" }'), 2, "300fs is too short"),
    (lane('{ kind = "hold", value = 1, for = "1e30s" }'), 2, "longer than a run can be"),
    (lane('{ kind = "clock" }'), 2, "'period' of this clock is missing"),
    (lane('{ kind = "clock", period = "10" }'), 2, "no time"),
    (lane('{ kind = "clock", period = "1ps" }'), 2, "too fast"),
    (lane('{ kind = "clock", period = "10ns", high = 1 }'), 2, "less than 100%"),
    (lane('{ kind = "clock", period = "10ns", high = "half" }'), 2, "high is a part of the period"),
    (lane('{ kind = "clock", period = "10ns" }', "n"), 2, "only a lane of one bit"),
    (lane('{ kind = "sweep", every = "5ns" }', "n"), 2, "'to' of this sweep is missing"),
    (lane('{ kind = "sweep", to = 16, every = "5ns" }', "n"), 2, "16 does not fit into 4 bits"),
    (lane('{ kind = "sweep", to = 3, every = "0ns" }', "n"), 2, "0ns is too short"),
    ('\nfor = "soon"\n' + lane('{ kind = "hold", value = 1 }'), 2, "for: 'soon' is no time"),
    ("rows = 3", 1, "a list of input rows"),
    ("rows = []", 1, "a list of input rows"),
    ("rows = [0, true]", 1, "a whole number should stand here, not True"),
    ("rows = [32]", 1, "32 is no input row: the inputs have 5 bits"),
    ("rows = [-1]", 1, "-1 is no input row"),
    ('rows = [1]\nstep = "-3ns"', 2, "step: '-3ns' is no time"),
    ("rows = [1]\n" + lane('{ kind = "hold", value = 1 }'), 1, "rows or lanes"),
]  # fmt: skip


@pytest.mark.parametrize("text, line, word", WRONG)
def test_wrong_plans(tmp_path: Path, text: str, line: int, word: str) -> None:
    (tmp_path / "p.toml").write_text(text)
    with pytest.raises(PlanError) as caught:
        load_plan(tmp_path / "p.toml", PORTS)
    assert [p.line for p in caught.value.problems if word in p.text] == [line], caught.value.problems


def test_every_wrong_lane_is_told(tmp_path: Path) -> None:
    (tmp_path / "p.toml").write_text(lane('{ kind = "hold", value = 3 }') + lane('{ kind = "sweep" }', "n"))
    with pytest.raises(PlanError) as caught:
        load_plan(tmp_path / "p.toml", PORTS)
    assert [p.line for p in caught.value.problems] == [2, 5]


def test_toml_and_back(tmp_path: Path) -> None:
    plan = Plan({"clk": [Clock("10ns")], "n": [Hold(3, "40ns"), Sweep(0, 7, "20ns")]}, length="200ns")
    save_plan(plan, tmp_path / "p.toml")
    assert load_plan(tmp_path / "p.toml", PORTS) == plan


def test_rows(tmp_path: Path) -> None:
    (tmp_path / "p.toml").write_text('rows = [0, "0x1F", 3]\nstep = "4ns"\n')
    assert load_plan(tmp_path / "p.toml", PORTS) == Plan(rows=[0, 31, 3], step="4ns")


def test_saving_keeps_what_else_the_file_says(tmp_path: Path) -> None:
    path = tmp_path / "p.toml"
    path.write_text(
        '# after the works test\nfor = "1us"   # long enough\n\n[lane.clk]   # the board\'s\npatterns = [{ kind = "clock", period = "10ns" }]\n'
    )
    plan = load_plan(path, PORTS)
    plan.length = "2us"
    plan.lanes["n"] = [Hold(1, "5ns"), Sweep(2, 4, "6ns")]
    save_plan(plan, path)
    text = path.read_text()
    for kept in ("# after the works test", "# long enough", "# the board's"):
        assert kept in text
    assert load_plan(path, PORTS) == plan


def test_a_file_that_cant_be_read_is_not_written_over(tmp_path: Path) -> None:
    path = tmp_path / "p.toml"
    path.write_text("[lane.clk\npatterns = 3\n")
    with pytest.raises(PlanError):
        save_plan(Plan({"clk": [Hold(1)]}, length="1us"), path)
    assert path.read_text() == "[lane.clk\npatterns = 3\n"
