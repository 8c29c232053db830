"""The Tables desk: made, edited, undone, saved, compared."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from mevrik.desktop.shell import Shell
from tests.desktop.conftest import settle
from tests.desktop.hands import click_entry, press, tables


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


AND = "module both(input a, input [1:0] b, output y); assign y = a & (b == 2); endmodule\n"


def test_a_table_is_made_with_all_input_rows(shell: Shell, tmp_path: Path) -> None:
    """Eight rows in counting order, the outputs open; filled in and saved, it is compared."""
    (tmp_path / "both.v").write_text(AND)
    shell.open(tmp_path)
    settle(shell.session)
    shell.show_desk("Tables")
    press(shell, "Make one with all input rows")
    settle(shell.session)
    lines = (tmp_path / "both.csv").read_text().splitlines()
    assert lines[0] == "a,b[1:0],y"
    assert [line.split(",")[:2] for line in lines[1:]] == [[str(k >> 2), f"{k & 3:02b}"] for k in range(8)]
    assert {line.split(",")[2] for line in lines[1:]} == {"-"}
    assert shell.session.subject is not None and shell.session.subject.table == tmp_path / "both.csv"
    model = tables(shell).model
    for row in range(8):
        model.setData(model.index(row, 2), str(int(row == 7)))  # wrong: y is 1 in row 6
    press(shell, "Save")
    settle(shell.session)
    found = shell.session.current
    assert found is not None and [(e.row, e.signal) for e in found.ledgers[0].entries] == [(6, "y"), (7, "y")]
    assert model.differing == {6: {"y"}, 7: {"y"}}


def test_a_table_with_too_many_inputs_begins_with_one_row(shell: Shell, tmp_path: Path) -> None:
    (tmp_path / "wide.v").write_text("module wide(input [11:0] a, output y); assign y = &a; endmodule\n")
    shell.open(tmp_path)
    settle(shell.session)
    tables(shell)._make()
    assert (tmp_path / "wide.csv").read_text() == "a[11:0],y\n-,-\n"


def test_a_table_that_is_there_is_not_overwritten(shell: Shell, tmp_path: Path) -> None:
    (tmp_path / "both.v").write_text(AND)
    shell.open(tmp_path)
    settle(shell.session)
    (tmp_path / "both.csv").write_text("mine")
    tables(shell)._make()
    assert "is there already" in shell.status.text() and (tmp_path / "both.csv").read_text() == "mine"


def test_why_there_is_no_table(opened: Shell) -> None:
    desk = tables(opened)
    opened.show_desk("Tables")
    opened.session.choose("lamp_timer")
    assert desk.is_empty and "has a clock" in desk.empty.text.text()
    assert not any(b.isVisible() for b in (*desk.row_buttons, desk.save_button))
    opened.session.choose("gate_interlock")
    assert not desk.is_empty


def test_rows_come_and_go(opened: Shell) -> None:
    opened.show_desk("Tables")
    desk = tables(opened)
    rows = [list(r) for r in desk.model.text.rows]  # type: ignore[union-attr]
    desk.view.setCurrentIndex(desk.model.index(2, 0))
    press(opened, "Add row")
    assert desk.model.rowCount() == 65 and set(desk.model.text.rows[3]) == {"-"}  # type: ignore[union-attr]
    assert desk.view.currentIndex().row() == 3
    select = desk.view.selectionModel()
    select.clear()
    for row in (3, 4, 5):
        select.select(desk.model.index(row, 1), QItemSelectionModel.SelectionFlag.Select)
    press(opened, "Remove rows")
    assert [list(r) for r in desk.model.text.rows] == rows[:3] + rows[5:]  # type: ignore[union-attr]
    desk.view.setFocus()
    opened._undo("undo")
    opened._undo("undo")
    assert [list(r) for r in desk.model.text.rows] == rows and not desk.unsaved  # type: ignore[union-attr]
    opened._undo("redo")
    assert desk.model.rowCount() == 65


def test_a_cell_that_can_not_be_is_marked_with_why(opened: Shell) -> None:
    opened.show_desk("Tables")
    model = tables(opened).model
    at = model.index(0, 0)
    model.setData(at, "2")
    assert "does not fit" in str(model.data(at, Qt.ItemDataRole.ToolTipRole))
    heading = model.headerData(0, Qt.Orientation.Horizontal, Qt.ItemDataRole.ToolTipRole)
    assert heading == "input level_low"
    assert model.headerData(0, Qt.Orientation.Vertical) == "1"
    tables(opened).undo.undo()
    assert model.data(at, Qt.ItemDataRole.ToolTipRole) is None


def test_a_difference_and_its_row_lead_to_each_other(opened: Shell) -> None:
    opened.session.choose("gate_interlock_flawed")
    opened.show_desk("Ledger")
    click_entry(opened, 1)
    desk = tables(opened)
    assert desk.model.chosen == 22
    opened.show_desk("Tables")
    desk.view.setFocus()
    QTest.mouseClick(desk.view.viewport(), Qt.MouseButton.LeftButton, pos=desk.view.visualRect(desk.model.index(18, 0)).center())
    entry = opened.session.selection.entry
    assert entry is not None and entry.row == 18
    free_upper = desk.model.index(18, desk.model.text.header.index("free_upper"))  # type: ignore[union-attr]
    assert desk.model.data(free_upper, Qt.ItemDataRole.ToolTipRole) == "the design gives another value here"


def test_a_table_that_cant_be_read_or_written(opened: Shell, demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    opened.show_desk("Tables")
    desk = tables(opened)
    desk.model.setData(desk.model.index(0, 0), "1")

    def refuse(*_: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr("mevrik.expect.table.write_atomically", refuse)
        desk.save()
    assert "No space left on device; nothing was changed" in opened.status.text() and desk.unsaved
    desk.undo.undo()
    (demo / "gate_interlock.csv").write_text('level_low,"level_high\n0,1\n')
    desk.refresh()
    assert desk.empty.title.text() == "This table can't be read" and "gate_interlock.csv" in desk.empty.text.text()
    (demo / "gate_interlock.csv").write_text("level_low,level_high\n0,1\n")
    press(opened, "Read it again")
    assert not desk.is_empty and desk.model.rowCount() == 1


def test_changes_stay_while_another_table_is_seen(opened: Shell, demo: Path) -> None:
    """They are there again when their subject is; saving saves those of all tables."""
    opened.show_desk("Tables")
    desk = tables(opened)
    desk.model.setData(desk.model.index(0, 0), "1")
    opened.session.choose("level_encoder")
    before = str(desk.model.data(desk.model.index(0, 0)))
    assert before == (demo / "level_encoder.csv").read_text().splitlines()[1].split(",")[0]
    desk.model.setData(desk.model.index(0, 0), "-")
    assert "not saved" in desk.facts.text()
    desk.undo.undo()
    assert "not saved" not in desk.facts.text() and desk.unsaved
    desk.undo.redo()
    opened.session.choose("lamp_timer")
    assert desk.unsaved and desk.save_button.isVisible() and not desk.row_buttons[0].isVisible()
    opened.session.choose("gate_interlock_flawed")
    assert desk.model.data(desk.model.index(0, 0)) == "1"
    opened.save()
    settle(opened.session)
    assert not desk.unsaved
    for name, cell in (("gate_interlock", "1"), ("level_encoder", "-")):
        assert (demo / f"{name}.csv").read_text().splitlines()[1].split(",")[0] == cell
