"""Files that other programs change while they are open: taken over where nothing was changed here, never written over without a question."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QMessageBox

from mevrik.desktop.desks.elsewhere import LEAVE, TAKE, WRITE
from mevrik.desktop.shell import Shell
from tests.desktop.conftest import settle
from tests.desktop.hands import sources, tables

MENDED = ("ask & at_upper & ~hold", "ask & at_upper & lower_shut & ~hold")


def answer(word: str) -> list[str]:
    """Clicks the button of the question that comes; gives what was asked."""
    said: list[str] = []

    def click() -> None:
        box = QApplication.activeModalWidget()
        assert isinstance(box, QMessageBox)
        said.append(box.text())
        next(b for b in box.buttons() if b.text() == word).click()

    QTimer.singleShot(0, click)
    return said


def test_what_another_editor_saved_is_shown_and_examined(opened: Shell, demo: Path) -> None:
    opened.session.choose("gate_interlock_flawed")
    opened.show_desk("Sources")
    editor = sources(opened).current
    assert editor is not None
    editor.go_to(12)
    path = demo / "gate_interlock_flawed.v"
    path.write_text(path.read_text().replace(*MENDED))
    opened.look_again()
    assert MENDED[1] in editor.toPlainText() and not editor.unsaved and editor.textCursor().blockNumber() == 11
    settle(opened.session)
    assert opened.session.findings["gate_interlock_flawed"].agrees
    jobs = dict(opened.session.progress)
    opened.look_again()  # nothing has changed since
    assert not opened.session.busy and opened.session.progress == jobs


def test_a_table_that_was_changed_is_compared_again(opened: Shell, demo: Path) -> None:
    opened.show_desk("Tables")
    view = tables(opened).view
    view.setCurrentIndex(tables(opened).model.index(40, 2))
    opened.look_again()  # nothing has changed: the view stays where it is
    assert view.currentIndex().row() == 40
    path = demo / "gate_interlock.csv"
    lines = path.read_text().splitlines()
    lines[2] = lines[2][:-1] + str(1 - int(lines[2][-1]))
    path.write_text("\n".join(lines) + "\n")
    opened.look_again()
    settle(opened.session)
    found = opened.session.findings["gate_interlock"]
    assert [(e.row, e.signal) for e in found.ledgers[0].entries] == [(1, "alarm")]
    assert tables(opened).model.text.rows[1][-1] == lines[2][-1]  # type: ignore[union-attr]


@pytest.mark.parametrize("word", [WRITE, TAKE, LEAVE])
def test_a_source_changed_here_and_there(word: str, opened: Shell, demo: Path) -> None:
    opened.show_desk("Sources")
    editor = sources(opened).current
    assert editor is not None
    path = editor.path
    theirs = "// theirs\n" + path.read_text()
    editor.insertPlainText("// ours\n")
    ours = editor.toPlainText()
    path.write_text(theirs)
    opened.look_again()
    assert editor.toPlainText() == ours  # nothing is taken over what was changed here
    said = answer(word)
    opened.save()
    assert path.name in said[0]
    assert path.read_text() == (ours if word == WRITE else theirs)
    assert editor.toPlainText() == (theirs if word == TAKE else ours)
    assert editor.unsaved == (word == LEAVE)


@pytest.mark.parametrize("word", [WRITE, TAKE, LEAVE])
def test_a_table_changed_here_and_there(word: str, opened: Shell, demo: Path) -> None:
    opened.show_desk("Tables")
    desk = tables(opened)
    path = demo / "gate_interlock.csv"
    theirs = "\n".join(path.read_text().splitlines()[:-1]) + "\n"
    desk.model.setData(desk.model.index(0, 0), "1")
    path.write_text(theirs)
    opened.look_again()
    said = answer(word)
    opened.save()
    assert path.name in said[0]
    assert (path.read_text() == theirs) == (word != WRITE)
    assert desk.model.rowCount() == (63 if word == TAKE else 64)
    assert desk.unsaved == (word == LEAVE)
    if word == LEAVE:
        desk.undo.undo()


def test_leaving_keeps_what_could_not_be_saved(opened: Shell, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(QMessageBox, "question", lambda *a: QMessageBox.StandardButton.Save)
    desk = tables(opened)
    desk.model.setData(desk.model.index(0, 0), "1")
    with monkeypatch.context() as patch:
        patch.setattr("mevrik.expect.table.write_atomically", refuse)
        opened.close()
    assert opened.isVisible() and desk.unsaved


def test_files_that_come_and_go(shell: Shell, tmp_path: Path) -> None:
    """A folder without settings: a new module is a subject, a new table is compared, one that went is gone; unsaved text stays."""
    gate = tmp_path / "gate.v"
    gate.write_text("module gate(input a, b, output y); assign y = a & b; endmodule\n")
    shell.open(tmp_path)
    settle(shell.session)
    assert shell.session.project is not None and [s.name for s in shell.session.project.subjects] == ["gate"]
    shell.show_desk("Sources")
    editor = sources(shell).current
    assert editor is not None
    editor.setFocus()
    editor.moveCursor(editor.textCursor().MoveOperation.End)
    editor.insertPlainText("// not saved yet\n")
    (tmp_path / "gate.csv").write_text("a,b,y\n0,-,0\n1,0,0\n1,1,1\n")
    (tmp_path / "paddle.v").write_text("module paddle(input c, output d); assign d = !c; endmodule\n")
    shell.look_again()
    settle(shell.session)
    assert [s.name for s in shell.session.project.subjects] == ["gate", "paddle"]
    assert shell.session.findings["gate"].agrees and len(shell.session.findings["gate"].ledgers) == 1
    current = sources(shell).current
    assert current is not None and "// not saved yet" in current.toPlainText() and current.unsaved
    (tmp_path / "paddle.v").unlink()
    shell.look_again()
    settle(shell.session)
    assert [s.name for s in shell.session.project.subjects] == ["gate"]
    (tmp_path / "old").mkdir()
    (tmp_path / "old" / "gate.v").write_text(gate.read_text())
    shell.look_again()
    settle(shell.session)
    assert "old/gate.v: 'gate' is declared here too; gate.v is used" in shell.inspector.view.toPlainText()
