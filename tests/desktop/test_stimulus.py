"""The Stimulus desk: lanes in words, changed, refused, kept and saved."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from mevrik.desktop.shell import Shell
from tests.desktop.conftest import settle
from tests.desktop.hands import press, sources, stimulus


def write(line: QLineEdit, text: str) -> None:
    line.setFocus()
    line.selectAll()
    QTest.keyClicks(line, text)


@pytest.fixture
def lanes(opened: Shell) -> Shell:
    opened.session.choose("lamp_timer")
    opened.show_desk("Stimulus")
    return opened


def test_a_length_that_is_no_time(lanes: Shell, demo: Path) -> None:
    before = (demo / "lamp_timer.plan.toml").read_text()
    desk = stimulus(lanes)
    write(desk.length, "soon")
    assert desk.fault.text().startswith("run for:") and not desk.save_button.isEnabled()
    desk.save()
    assert lanes.status.text().startswith("Not saved: run for:")
    assert (demo / "lamp_timer.plan.toml").read_text() == before and desk.unsaved


def test_the_picture_follows_the_words(lanes: Shell) -> None:
    desk = stimulus(lanes)
    before = desk.pictures["clocks"].grab().toImage()
    write(desk.lines["clocks"], "sweep 0 to 3 every 100 ns")
    assert desk.pictures["clocks"].grab().toImage() != before
    assert not desk.fault.text().startswith("clocks")


def test_the_testbench_is_shown_and_the_plan_again(lanes: Shell) -> None:
    desk = stimulus(lanes)
    press(lanes, "Show the testbench")
    assert desk.bench.isVisible() and "module" in desk.bench.toPlainText()
    press(lanes, "Show the plan")
    assert desk.lines["clocks"].isVisible()


def test_changes_stay_with_their_subject(lanes: Shell, demo: Path) -> None:
    """Lanes of one design are never shown for, or saved to, another; saving writes each to its own plan."""
    desk = stimulus(lanes)
    write(desk.lines["clocks"], "hold 5")
    lanes.session.choose("gate_position")
    assert "clocks" not in desk.lines and desk.unsaved
    other = next(iter(desk.lines))
    write(desk.lines[other], "hold 1")
    lanes.session.choose("gate_interlock")
    button = next(b for a in lanes.strip.accounts for n, b in a.buttons.items() if n == "Stimulus")
    assert button.text() == "Stimulus •"
    assert not desk.lines or desk._shown == "gate_interlock"
    lanes.session.choose("lamp_timer")
    assert desk.lines["clocks"].text() == "hold 5" and desk.save_button.isEnabled()
    assert desk.facts.text().endswith(", not saved") and desk.lines["freed"].cursorPosition() == 0
    lanes.save()
    settle(lanes.session)
    assert not desk.unsaved and "not saved" not in desk.facts.text() and button.text() == "Stimulus"
    assert "value = 5" in (demo / "lamp_timer.plan.toml").read_text()
    made = (demo / "gate_position.plan.toml").read_text()
    assert f"lane.{other}" in made and "clocks" not in made
    assert 'plan = "gate_position.plan.toml"' in (demo / "mevrik.toml").read_text()


def test_a_plan_is_saved_from_another_subject(lanes: Shell, demo: Path) -> None:
    write(stimulus(lanes).lines["clocks"], "hold 5")
    lanes.session.choose("paddle_pwm")
    lanes.save()
    button = next(b for a in lanes.strip.accounts for n, b in a.buttons.items() if n == "Stimulus")
    assert "value = 5" in (demo / "lamp_timer.plan.toml").read_text() and button.text() == "Stimulus"


def test_a_plan_whose_file_is_broken_is_kept(lanes: Shell, demo: Path) -> None:
    desk = stimulus(lanes)
    write(desk.lines["clocks"], "hold 5")
    (demo / "lamp_timer.plan.toml").write_text("for = \n")
    desk.save()
    assert "the plan is still here" in lanes.status.text() and "lamp_timer.plan.toml:1" in lanes.status.text()
    assert desk.unsaved and (demo / "lamp_timer.plan.toml").read_text() == "for = \n"


def test_a_plan_that_cant_be_written_is_kept(lanes: Shell, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(*_: object) -> None:
        raise OSError(28, "No space left on device")

    desk = stimulus(lanes)
    write(desk.lines["clocks"], "hold 5")
    monkeypatch.setattr("mevrik.stimulus.plan_file.write_atomically", refuse)
    desk.save()
    assert "No space left on device; the plan is still here" in lanes.status.text() and desk.unsaved


def test_a_design_with_its_own_testbench_leads_there(opened: Shell) -> None:
    opened.session.choose("paddle_pwm")
    opened.show_desk("Stimulus")
    assert stimulus(opened).empty.title.text() == "Driven by paddle_pwm_tb"
    press(opened, "Open the testbench")
    editor = sources(opened).current
    assert editor is not None and editor.path.name == "paddle_pwm_tb.v" and "Sources" in opened.open_desks()


def test_rows_in_order_have_no_lines(opened: Shell) -> None:
    """A design with a table walks through its rows: there is nothing to edit."""
    opened.show_desk("Stimulus")
    desk = stimulus(opened)
    inputs = [p.name for p in opened.session.current.ports if p.direction != "output"]  # type: ignore[union-attr]
    assert desk.facts.text() == "input rows in order"
    assert (list(desk.lines), list(desk.pictures)) == ([], inputs)
    assert not desk.unsaved and not desk.save_button.isVisible()
