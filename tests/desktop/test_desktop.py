"""From opening the demo to the statement that caused a difference, as a user would."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from mevrik.desktop.shell import Shell
from mevrik.desktop.strip import joint_state
from tests.desktop.conftest import settle
from tests.desktop.hands import click_entry, ledger, press, sources, stimulus, tables, waves


def test_opening_shows_the_first_verdicts(opened: Shell) -> None:
    found = opened.session.findings
    states = {n: joint_state(f, "Expected", "Behavioural", False).state for n, f in found.items()}
    with_a_table = {"gate_interlock": "agree", "gate_interlock_flawed": "differ", "level_encoder": "agree"}
    without = ("paddle_pwm", "lamp_timer", "gate_position", "gate_position_copied", "gate_position_unreset", "lock_top")
    assert states == {**with_a_table, **dict.fromkeys(without, "empty")}
    assert joint_state(found["paddle_pwm"], "Behavioural", "Measured", False).state == "differ"
    assert opened.strip.joints[0].accessibleName() == "Expected and Behavioural: 192 agree"
    assert opened.open_desks() == ["Waves"]
    assert [r.path.rsplit(".", 1)[-1] for r in waves(opened).view.rows][:3] == ["level_low", "level_high", "lower_shut"]


def test_from_the_strip_to_the_statement(opened: Shell) -> None:
    """Two clicks: the joint, then the row. Waves, table and source have moved to it."""
    opened.session.choose("gate_interlock_flawed")
    QTest.mouseClick(opened.strip.joints[0], Qt.MouseButton.LeftButton)
    assert opened.open_desks() == ["Ledger", "Waves"]
    first = opened.session.selection.entry
    assert first is not None and first.row == 18 and ledger(opened).view.hasFocus()  # the keys go through the list at once
    QTest.keyClick(ledger(opened).view, Qt.Key.Key_Down)
    assert opened.session.selection.row == 22 and ledger(opened).view.hasFocus()
    click_entry(opened, 0)
    s = opened.session.selection
    assert s.entry is not None and s.entry.row == 18 and s.signal.endswith(".free_upper")
    assert "Waves" in opened.open_desks()
    low, high = opened.session.window
    assert low <= s.moment <= high
    view = waves(opened).view
    assert view.rows[view.chosen].path == s.signal
    assert tables(opened).model.chosen == 18
    editor = sources(opened).current
    assert editor is not None and editor.path.name == "gate_interlock_flawed.v"
    line = editor.document().findBlockByNumber(editor.marked - 1).text()
    assert "assign free_upper" in line
    said = opened.inspector.view.toPlainText()
    assert "differs" in said and "at_upper" in said and f"line {editor.marked}" in said
    assert " ".join(line.split()) in " ".join(said.split())  # all of the statement: what it lacks shows at its end


def test_the_measured_difference_leads_to_its_moment(opened: Shell) -> None:
    opened.session.choose("paddle_pwm")
    QTest.mouseClick(opened.strip.joints[2], Qt.MouseButton.LeftButton)
    click_entry(opened, 0)
    s = opened.session.selection
    assert s.entry is not None and s.entry.signal == "paddle" and 9_300 < s.moment < 9_700
    assert any(r.measured for r in waves(opened).view.rows)


def test_f8_goes_from_difference_to_difference(opened: Shell) -> None:
    opened.session.choose("gate_interlock_flawed")
    rows = []
    for _ in range(3):
        QTest.keyClick(opened, Qt.Key.Key_F8)
        entry = opened.session.selection.entry
        assert entry is not None
        rows.append(entry.row)
    assert rows == [18, 22, 18]


def test_editing_a_source_gives_a_new_verdict(opened: Shell, demo: Path) -> None:
    """The forgotten term is typed in and saved: the account agrees."""
    opened.session.choose("gate_interlock_flawed")
    opened.show_desk("Sources")
    editor = sources(opened).current
    assert editor is not None
    text = editor.toPlainText().replace("ask & at_upper & ~hold", "ask & at_upper & lower_shut & ~hold")
    editor.selectAll()
    editor.insertPlainText(text)
    assert sources(opened).unsaved
    opened.save()
    settle(opened.session)
    assert "lower_shut & ~hold" in (demo / "gate_interlock_flawed.v").read_text()
    assert opened.session.findings["gate_interlock_flawed"].agrees
    assert opened.strip.joints[0].shown.state == "agree"
    editor.undo()
    assert "at_upper & ~hold" in editor.toPlainText()


def test_mistakes_are_told_while_typing(opened: Shell, qtbot: QtBot) -> None:
    opened.session.choose("gate_interlock")
    opened.show_desk("Sources")
    desk_ = sources(opened)
    editor = desk_.current
    assert editor is not None
    editor.selectAll()
    editor.insertPlainText(editor.toPlainText().replace("ask & at_lower", "ask & at_lover"))
    qtbot.waitUntil(lambda: bool(editor.diagnostics), timeout=8000)
    (line,) = editor.diagnostics
    assert "at_lover" in editor.document().findBlockByNumber(line - 1).text()
    assert "did you mean 'at_lower'" in desk_.said.rows.topLevelItem(0).text(1)
    assert not (opened.session.project.folder / "gate_interlock.v").read_text().count("at_lover")  # type: ignore[union-attr]


def test_certain_mends_are_one_click(opened: Shell, qtbot: QtBot) -> None:
    """A nearest name, a missing semicolon and a sensitivity list: told, counted, filtered, mended, undone."""
    opened.session.choose("gate_interlock")
    opened.show_desk("Sources")
    desk_ = sources(opened)
    editor = desk_.current
    assert editor is not None
    strip = opened.strip.accounts[1].said
    assert not strip.isVisible()
    good = editor.toPlainText()
    extra = "\n  reg spare;\n  always @(ask) spare = ask & at_lower;\nendmodule"
    bad = good.replace("ask & at_lower", "ask & at_lover").replace("endmodule", extra)

    def tell(text: str, count: int) -> None:
        editor.selectAll()
        editor.insertPlainText(text)
        qtbot.waitUntil(lambda: len(opened.session.diagnostics) == count, timeout=8000)

    tell(bad, 1)
    assert strip.isVisible() and strip.accessibleName() == "1 error"
    rows = desk_.said.rows
    place = rows.visualItemRect(rows.topLevelItem(0))
    mend = rows.columnViewportPosition(3)
    QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(mend + 10, place.center().y()))
    qtbot.waitUntil(lambda: [d.code for d in opened.session.diagnostics] == ["sensitivity"], timeout=8000)
    assert strip.accessibleName() == "1 warning"
    QTest.mouseClick(desk_.said.severities["warning"], Qt.MouseButton.LeftButton)
    assert rows.topLevelItemCount() == 0
    QTest.mouseClick(desk_.said.severities["warning"], Qt.MouseButton.LeftButton)
    editor.go_to(opened.session.diagnostics[0].place.line)
    QTest.keyClick(editor, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert "always @* spare" in editor.toPlainText()
    qtbot.waitUntil(lambda: not opened.session.diagnostics, timeout=8000)
    editor.undo()
    assert "always @(ask) spare" in editor.toPlainText()
    first = good.index(";\n")
    tell(good[:first] + good[first + 1 :], 1)
    (found,) = opened.session.diagnostics
    desk_.mend(found)
    assert editor.toPlainText() == good
    editor.selectAll()
    editor.insertPlainText("// all else is gone\n")
    assert found.mend is not None and not editor.apply(found.mend)  # never a change where the text is another
    assert editor.toPlainText() == "// all else is gone\n"


def test_a_lane_is_changed_and_run(opened: Shell, demo: Path) -> None:
    opened.session.choose("lamp_timer")
    opened.show_desk("Stimulus")
    plan = stimulus(opened)
    line = plan.lines["clocks"]
    line.selectAll()
    QTest.keyClicks(line, "hold 99")
    assert "does not fit" in plan.fault.text() and not plan.save_button.isEnabled()
    line.selectAll()
    QTest.keyClicks(line, "hold 3")
    press(opened, "Save the plan")
    settle(opened.session)
    assert "value = 3" in (demo / "lamp_timer.plan.toml").read_text()
    record, found = opened.session.record, opened.session.current
    assert record is not None and found is not None
    assert record.trace(f"{found.scope}.clocks").at(600_000).val == 3


def test_a_broken_design_is_told_and_the_rest_works(opened: Shell, demo: Path) -> None:
    (demo / "gate_interlock.v").write_text("module gate_interlock(input a;\nendmodule\n")
    opened.session.examine_all()
    settle(opened.session)
    assert opened.strip.joints[0].shown.state == "failed"
    assert "In the way" in opened.inspector.view.toPlainText()
    assert opened.session.findings["gate_interlock_flawed"].ledgers
