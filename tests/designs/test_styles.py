"""Designs that check themselves, each in one style throughout: a board with memory chips as their makers give them away (weir), a
transformation of samples in both languages with a reference in real numbers (ripple), registers on a bus with assertions in its
interface and a bench of classes (towpath)."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from tests.conftest import mevrik

HERE = Path(__file__).parent
ORDERS = ([], ["--order", "shuffle", "--seed", 4], ["--start", "random", "--seed", 3])


@pytest.mark.parametrize("order", ORDERS, ids=("plain", "shuffled", "random start"))
def test_the_board_keeps_what_is_written(order: list[object]) -> None:
    """40 words of 16 bits over an inout bus of two chips of 8; a word written takes 12 clocks, a word read 14, the reset and the chips'
    start before them."""
    done = mevrik("run", HERE / "weir", "--top", "tb", *order)
    assert done.out.startswith("0 bad, chips 0 0,"), done.out
    assert {line.rsplit("[", 1)[1] for line in done.err.splitlines() if ": warning: " in line} == {
        "truncated]",
        "mixed-assignment]",
    }


def test_a_command_too_early_is_told(tmp_path: Path) -> None:
    """The chip itself checks the time from its row to its column: without the wait of two clocks it is 10 ns, wanted are 20."""
    folder = tmp_path / "weir"
    shutil.copytree(HERE / "weir", folder)
    source = (folder / "ctrl.v").read_text()
    assert "state <= TRCD; cnt <= 2;" in source
    (folder / "ctrl.v").write_text(source.replace("state <= TRCD; cnt <= 2;", "state <= TRCD; cnt <= 0;"))
    done = mevrik("run", folder, "--top", "tb")
    assert "ERROR: tRCD violation, 10.0" in done.out


@pytest.mark.parametrize("order", ORDERS, ids=("plain", "shuffled", "random start"))
def test_spectra_in_systemverilog(order: list[object]) -> None:
    """An impulse of 0.9 has 0.9 / 16 in each line: 921 of 16384. A tone of 0.7 has all of it in its own line: 11468 less rounding."""
    done = mevrik("run", HERE / "ripple" / "ripple.sv", "--top", "tb", *order)
    lines = done.out.splitlines()
    assert [line.split(",")[0] for line in lines] == [f"test {k}: worst ok" for k in range(4)]
    assert [line.split("= ")[1] for line in lines[:3]] == ["921 0", "11467 0", "0 0"]
    assert done.err == ""


def test_spectra_in_vhdl() -> None:
    done = mevrik("run", *(HERE / "ripple" / f"{n}.vhd" for n in ("types", "spectrum", "bench")), "--top", "tb")
    lines = done.out.splitlines()
    assert lines[:3] == ["info: impulse (0.056,0.000)", "info: tone (0.700,0.000)", "info: square (0.000,0.000)"]
    assert lines[4:] == ["debug   4;info   4;warn   0;fail   0"]
    assert done.err == ""


@pytest.mark.parametrize("order", ORDERS, ids=("plain", "shuffled", "random start"))
def test_registers_against_a_model(order: list[object]) -> None:
    done = mevrik("run", HERE / "towpath", "--top", "tb", *order)
    lines = done.out.splitlines()
    assert lines[0] == "house.tally: 200 checked, 0 bad, 7 registers"
    assert lines[1].endswith("same")
    assert done.err == ""


def test_a_changed_word_breaks_the_rule_of_the_bus(tmp_path: Path) -> None:
    """What is offered and not yet taken must stay: an assertion of the interface says so, with its line."""
    folder = tmp_path / "towpath"
    shutil.copytree(HERE / "towpath", folder)
    source = (folder / "bench.sv").read_text()
    taken = "vif.word_given <= 1; do @(posedge vif.clock); while (!vif.word_taken);"
    assert taken in source
    (folder / "bench.sv").write_text(
        source.replace(
            taken,
            taken.replace(
                "do @(posedge vif.clock);", "do begin @(posedge vif.clock); if (!vif.word_taken) vif.put_word <= ~t.data; end"
            ),
        )
    )
    lane = (folder / "lane.sv").read_text()
    assert "assign s.word_taken  = !word_seen && !s.kept;" in lane
    (folder / "lane.sv").write_text(
        lane.replace("assign s.word_taken  = !word_seen && !s.kept;", "assign s.word_taken = put_seen && !word_seen && !s.kept;")
    )
    done = mevrik("run", folder, "--top", "tb")
    assert "lane.sv:17:" in done.err
    assert "w changed" in done.err


@pytest.mark.parametrize("name", ("ripple", "towpath"))
def test_clean_designs_have_no_findings(name: str) -> None:
    for files in ([HERE / name / "ripple.sv"] if name == "ripple" else [HERE / name],):
        done = mevrik("lint", *files)
        assert (done.out + done.err).strip() == ""


def test_components_from_a_registry() -> None:
    """Classes that register themselves before time 0, a factory with an override, a tree of components that run side by side, what they
    found counted by callbacks. The two sources send after 5, 6, 7... units; levels 0 to 20 and 0 to 40 make 130; 4 components, 8 items and
    the two at the end make 14 objects. The files are given in an order in which no class is known when it is used first."""
    done = mevrik("run", *(HERE / "registry" / f"{name}.sv" for name in ("tb", "lock_env", "kit")), "--top", "tb")
    assert done.err == ""
    assert done.out.splitlines() == [
        "top (env)", "  a (source)", "  b (source)", "  s (scoreboard)",
        "5 top.a item RAISE@0", "5 top.b item RAISE@0", "11 top.a item LOWER@10", "11 top.b item LOWER@10",
        "18 top.a item HOLD@20", "18 top.b item HOLD@20", "26 top.b item RAISE@30", "35 top.b item LOWER@40",
        "bad_item item 0 1", "RAISE 3", "LOWER 3", "HOLD 2", "130 14",
    ]  # fmt: skip
