"""From opening the demo to the statement that caused a difference, as a user would."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from mevrik.desktop.commands import CommandList
from mevrik.desktop.desks.captures import CapturesDesk
from mevrik.desktop.desks.ledger import LedgerDesk
from mevrik.desktop.desks.sources import SourcesDesk
from mevrik.desktop.desks.stimulus import StimulusDesk
from mevrik.desktop.desks.tables import TablesDesk
from mevrik.desktop.desks.waves import WavesDesk
from mevrik.desktop.desks.waves.rows import Row
from mevrik.desktop.shell import Shell
from mevrik.desktop.strip import joint_state
from tests.desktop.conftest import settle


def desk(shell: Shell, kind: type) -> object:
    found = next(d for d in shell.desks.values() if isinstance(d, kind))
    return found


def waves(shell: Shell) -> WavesDesk:
    found = desk(shell, WavesDesk)
    assert isinstance(found, WavesDesk)
    return found


def tables(shell: Shell) -> TablesDesk:
    found = desk(shell, TablesDesk)
    assert isinstance(found, TablesDesk)
    return found


def sources(shell: Shell) -> SourcesDesk:
    found = desk(shell, SourcesDesk)
    assert isinstance(found, SourcesDesk)
    return found


def press(shell: Shell, name: str) -> None:
    """Click a button by its accessible name."""
    button = next(b for b in shell.findChildren(QPushButton) if b.accessibleName() == name and b.isVisible())
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def click_entry(shell: Shell, row: int) -> None:
    ledger = desk(shell, LedgerDesk)
    assert isinstance(ledger, LedgerDesk)
    where = ledger.view.visualRect(ledger.model.index(row, 2)).center()
    QTest.mouseClick(ledger.view.viewport(), Qt.MouseButton.LeftButton, pos=where)


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
    assert opened.open_desks()[0] == "Ledger"
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


def test_a_table_is_edited_undone_saved_and_compared(opened: Shell, demo: Path) -> None:
    opened.show_desk("Tables")
    table = tables(opened)
    column = table.model.text.header.index("alarm")  # type: ignore[union-attr]
    where = table.view.visualRect(table.model.index(1, column)).center()
    QTest.mouseClick(table.view.viewport(), Qt.MouseButton.LeftButton, pos=where)
    QTest.mouseDClick(table.view.viewport(), Qt.MouseButton.LeftButton, pos=where)
    field = table.view.findChild(QLineEdit)
    assert field is not None
    field.setText("0")
    QTest.keyClick(field, Qt.Key.Key_Return)
    QTest.qWait(50)
    assert table.model.text.rows[1][column] == "0" and table.unsaved  # type: ignore[union-attr]
    table.undo.undo()
    assert not table.unsaved
    table.undo.redo()
    opened.save()
    settle(opened.session)
    found = opened.session.findings["gate_interlock"]
    assert [(e.row, e.signal) for e in found.ledgers[0].entries] == [(1, "alarm")]
    assert (demo / "gate_interlock.csv").read_text().splitlines()[2].endswith(",0")


def test_a_table_that_leaves_rows_out_says_so(opened: Shell) -> None:
    opened.show_desk("Tables")
    table = tables(opened)
    table.view.setCurrentIndex(table.model.index(5, 0))
    table._remove_rows()
    assert "leaves out 1 of 64" in table.verdict.text()
    table.model.setData(table.model.index(0, 0), "7")
    assert "does not fit" in table.verdict.text()
    table.undo.undo()
    table.undo.undo()
    assert "complete" in table.verdict.text()


def test_a_lane_is_changed_and_run(opened: Shell, demo: Path) -> None:
    opened.session.choose("lamp_timer")
    opened.show_desk("Stimulus")
    stimulus = desk(opened, StimulusDesk)
    assert isinstance(stimulus, StimulusDesk)
    line = stimulus.lines["clocks"]
    line.selectAll()
    QTest.keyClicks(line, "hold 99")
    assert "does not fit" in stimulus.fault.text() and not stimulus.save_button.isEnabled()
    line.selectAll()
    QTest.keyClicks(line, "hold 3")
    press(opened, "Save the plan")
    settle(opened.session)
    assert "value = 3" in (demo / "lamp_timer.plan.toml").read_text()
    record, found = opened.session.record, opened.session.current
    assert record is not None and found is not None
    assert record.trace(f"{found.scope}.clocks").at(600_000).val == 3


def test_a_channel_can_be_another_port(opened: Shell, demo: Path) -> None:
    opened.session.choose("paddle_pwm")
    opened.show_desk("Captures")
    captures = desk(opened, CapturesDesk)
    assert isinstance(captures, CapturesDesk)
    captures._map("start", "")
    settle(opened.session)
    found = opened.session.current
    assert found is not None and found.matched == {"paddle": "paddle"}
    assert (demo / "paddle_pwm.capture.map.csv").read_text() == "channel,port\npaddle,paddle\nstart,none\n"


# ---- waves ----


def test_waves_zoom_about_the_pointer(opened: Shell) -> None:
    view = waves(opened).view
    x = view.left + 200
    before = view.time_at(x)
    at = QPointF(x, 120)
    QApplication.sendEvent(
        view,
        QWheelEvent(
            at, view.mapToGlobal(at), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase, False,
        ),
    )  # fmt: skip
    assert view.time_at(x) == pytest.approx(before)
    low, high = opened.session.window
    assert high - low == pytest.approx(640_000 * 1.02 * 0.64)
    QTest.keyClick(view, Qt.Key.Key_0)
    assert opened.session.window == pytest.approx((0, 640_000 * 1.02))


def test_waves_keys_and_cursors(opened: Shell) -> None:
    view = waves(opened).view
    view.setFocus()
    opened.session.select(signal=view.rows[1].path, moment=0)
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert opened.session.selection.moment == 160_000  # level_high rises with row 16 of 64
    QTest.keyClick(view, Qt.Key.Key_M)
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert (opened.session.selection.moment, opened.session.mark) == (320_000, 160_000)
    assert "apart 160 ns" in waves(opened).facts.text()
    QTest.keyClick(view, Qt.Key.Key_Left)
    assert opened.session.selection.moment == 160_000


def test_waves_click_snaps_to_the_change(opened: Shell) -> None:
    view = waves(opened).view
    x = int(view.x_at(320_000)) + 3
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(x, int(view.row_top(0)) + 10))
    assert opened.session.selection.moment == 320_000
    assert opened.session.selection.signal.endswith(".level_low")


def test_waves_rows_drag_expand_radix_remove(opened: Shell) -> None:
    opened.session.choose("paddle_pwm")
    view = waves(opened).view
    names = [r.path.rsplit(".", 1)[-1] for r in view.rows]
    duty = names.index("duty")
    y = int(view.row_top(duty)) + 10
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(8, y))
    assert [r.bit for r in view.rows[duty + 1 : duty + 5]] == [3, 2, 1, 0]
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(8, y))
    assert view.rows[duty + 1].bit < 0
    opened.session.select(moment=10_000)
    assert view.value_text(view.rows[duty]) == "1010"
    view.set_radix(duty, "dec")
    assert view.value_text(view.rows[duty]) == "10"
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(60, y))
    QTest.mouseMove(view, QPoint(60, int(view.row_top(0)) + 2))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(60, int(view.row_top(0)) + 2))
    assert view.rows[0].path.endswith(".duty")
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert not any(r.path.endswith(".duty") for r in view.rows)
    waves(opened).add("dut.duty")
    assert view.rows[-1] == Row("paddle_pwm_tb.dut.duty")


STRUCTURES = """
package gate_pkg;
  typedef enum logic [1:0] {CLOSED, OPENING, OPEN, CLOSING} phase_e;
  typedef struct packed { phase_e phase; logic [5:0] position; logic alarm; logic [1:0][3:0] limits; } gate_t;
endpackage
module gate_tb;
  import gate_pkg::*;
  gate_t gate;
  initial begin
    gate = '{phase: CLOSED, position: 5, alarm: 0, limits: '{9, 2}};
    #10 gate.phase = OPENING;
    #10 gate.position = 7;
    #10 gate.limits[0] = 3;
    #10 gate.alarm = 1'bx;
    #10 $finish;
  end
endmodule
"""


def test_a_structure_opens_into_its_members(shell: Shell, tmp_path: Path) -> None:
    """Each with its own name, range and labels; an array of vectors into its elements; both into bits."""
    (tmp_path / "gate.sv").write_text(STRUCTURES)
    shell.open(tmp_path)
    settle(shell.session)
    view, record = waves(shell).view, shell.session.record
    assert record is not None

    def seen() -> list[str]:
        return [f"{'  ' * r.depth}{r.label(record.info(r.path))} {view.value_text(r)}" for r in view.rows]

    def click(index: int) -> None:
        x = 8 + 14 * view.rows[index].depth
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(x, int(view.row_top(index)) + 10))

    shell.session.select(moment=15)
    assert [r.path for r in view.rows] == ["gate_tb.gate"]
    click(0)
    assert seen()[1:] == ["  phase[1:0] OPENING", "  position[5:0] 05", "  alarm 0", "  limits 92"]
    click(4)
    assert seen()[4:] == ["  limits 92", "    [1][3:0] 1001", "    [0][3:0] 0010"]
    click(6)
    assert seen()[6:] == ["    [0][3:0] 0010", "      [3] 0", "      [2] 0", "      [1] 1", "      [0] 0"]
    times = {r.label(record.info(r.path)): view.shape(r).times.tolist() for r in view.rows}
    assert times["position[5:0]"] == [0, 20]
    assert times["[0][3:0]"] == [0, 30]
    assert times["phase[1:0]"] == [0, 10]
    shell.session.select(moment=45)
    assert seen()[2:4] == ["  position[5:0] 07", "  alarm x"]
    view.set_radix(2, "dec")
    assert seen()[2] == "  position[5:0] 7"
    click(0)
    assert len(view.rows) == 1
    click(0)
    (tmp_path / "gate.sv").write_text(STRUCTURES.replace("logic [5:0] position; logic alarm; ", ""). replace(
        "position: 5, alarm: 0, ", "").replace("#10 gate.position = 7;", "").replace("#10 gate.alarm = 1'bx;", ""))  # fmt: skip
    shell.session.examine_all()
    settle(shell.session)
    assert all(r.way <= (1,) for r in view.rows)


def test_ribbon_moves_the_window(opened: Shell) -> None:
    opened.session.show_window(0, 100_000)
    ribbon = opened.ribbon
    QTest.mouseClick(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(ribbon.width() // 2, 15))
    low, high = opened.session.window
    assert low < 320_000 < high and high - low == pytest.approx(100_000)


# ---- the window ----


def test_commands_by_name(opened: Shell) -> None:
    dialog = CommandList(opened, opened.commands)
    QTest.keyClicks(dialog.field, "desk tab")
    assert dialog.list.count() == 1
    QTest.keyClick(dialog.field, Qt.Key.Key_Return)
    assert opened.open_desks() == ["Tables"]
    assert len({c.name for c in opened.commands}) == len(opened.commands)
    keys = [c.keys for c in opened.commands if c.keys]
    assert len(set(keys)) == len(keys)


def test_two_desks_side_by_side(opened: Shell) -> None:
    opened.show_beside("Sources")
    assert opened.open_desks() == ["Waves", "Sources"]
    opened.one_desk()
    assert opened.open_desks() == ["Waves"]


def test_every_control_has_an_accessible_name(opened: Shell) -> None:
    for name in opened.desks:
        opened.show_desk(name)
        nameless = [b for b in opened.findChildren(QPushButton) if b.isVisible() and not b.accessibleName() and not b.text()]
        assert nameless == []


def test_empty_folder_says_what_belongs_here(shell: Shell, tmp_path: Path) -> None:
    assert "Do the four accounts agree?" in waves(shell).empty.title.text()
    shell.open(tmp_path)
    settle(shell.session)
    assert "no HDL file" in shell.inspector.view.toPlainText()
    for name in shell.desks:
        shell.show_desk(name)
        assert shell.desks[name].is_empty and shell.desks[name].empty.title.text()


def test_folders_and_files_that_cant_be_opened(shell: Shell, tmp_path: Path, no_dialogs: list[str]) -> None:
    shell.open(tmp_path / "none")
    assert "no such folder" in no_dialogs[0]
    (tmp_path / "bad.v").write_bytes(b"\x00\x01\x02")
    (tmp_path / "good.v").write_text("module good(input a, output y); assign y = a; endmodule")
    shell.open(tmp_path)
    settle(shell.session)
    assert shell.session.project is not None and [s.name for s in shell.session.project.subjects] == ["good"]


def test_a_broken_design_is_told_and_the_rest_works(opened: Shell, demo: Path) -> None:
    (demo / "gate_interlock.v").write_text("module gate_interlock(input a;\nendmodule\n")
    opened.session.examine_all()
    settle(opened.session)
    assert opened.strip.joints[0].shown.state == "failed"
    assert "In the way" in opened.inspector.view.toPlainText()
    assert opened.session.findings["gate_interlock_flawed"].ledgers


def test_cancel_ends_what_is_under_way(shell: Shell, tmp_path: Path) -> None:
    (tmp_path / "m.v").write_text("module tb; reg c = 0; always #1 c = ~c; endmodule")
    shell.open(tmp_path)
    QTest.qWait(700)
    assert shell.session.busy and shell.cancel_button.isVisible()
    press(shell, "Cancel")
    assert not shell.session.busy


def test_dropping_a_capture_makes_it_the_capture(opened: Shell, tmp_path: Path) -> None:
    path = tmp_path / "seen.csv"
    path.write_text("time_ns,alarm\n" + "".join(f"{t},{int(t < 40)}\n" for t in range(0, 150, 2)))
    opened.take_path(path)
    settle(opened.session)
    found = opened.session.findings["gate_interlock"]
    assert found.matched == {"alarm": "alarm"} and found.ledgers[-1].right == "Measured"
    other = tmp_path / "table.csv"
    other.write_text("a,b\n0,1\n")
    opened.take_path(other)
    assert "is no capture" in opened.status.text()


def test_dark_theme_and_back(opened: Shell) -> None:
    opened.set_theme("dark")
    dark = opened.grab().toImage().pixelColor(400, 600)
    opened.set_theme("light")
    light = opened.grab().toImage().pixelColor(400, 600)
    assert dark.lightness() < 80 < 200 < light.lightness()


def test_labels_follow_the_theme(opened: Shell) -> None:
    """Secondary words, at the foot too, are light on dark and dark on light, whichever theme they were made in."""
    label = opened.status
    for name, brighter in (("dark", True), ("light", False), ("dark", True), ("light", False)):
        opened.set_theme(name)
        words = label.palette().color(label.foregroundRole()).lightness()
        assert (words > 130) == brighter, (name, words)
