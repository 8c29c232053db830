"""The window around the desks: opening, commands, themes, leaving."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu, QMessageBox, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from mevrik.desktop import theme
from mevrik.desktop.commands import CommandList
from mevrik.desktop.session import Session
from mevrik.desktop.shell import Shell
from mevrik.explain.why import why
from tests.desktop.conftest import put_away, settle
from tests.desktop.hands import press, sources, tables, waves


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


def test_cancel_ends_what_is_under_way(shell: Shell, tmp_path: Path) -> None:
    (tmp_path / "m.v").write_text("module tb; reg c = 0; always #1 c = ~c; endmodule")
    shell.open(tmp_path)
    QTest.qWait(700)
    assert shell.session.busy and shell.cancel_button.isVisible()
    press(shell, "Cancel")
    assert not shell.session.busy


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


# ---- leaving ----


@pytest.fixture
def asked(shell: Shell, monkeypatch: pytest.MonkeyPatch) -> tuple[list[str], list[QMessageBox.StandardButton]]:
    """What was asked, and what is answered in turn."""
    said: list[str] = []
    answers: list[QMessageBox.StandardButton] = []

    def question(parent: QWidget, title: str, text: str, buttons: object) -> QMessageBox.StandardButton:
        said.append(text)
        return answers.pop(0)

    monkeypatch.setattr(QMessageBox, "question", question)
    return said, answers


def test_changes_are_asked_about_before_leaving(
    opened: Shell, demo: Path, tmp_path: Path, asked: tuple[list[str], list[QMessageBox.StandardButton]]
) -> None:
    said, answers = asked
    buttons = QMessageBox.StandardButton
    desk = tables(opened)
    desk.model.setData(desk.model.index(0, 0), "1")
    answers.append(buttons.Cancel)
    opened.close()
    assert opened.isVisible() and said == ["There are changes in Tables. Save them?"]
    other = tmp_path / "other"
    other.mkdir()
    (other / "weir.v").write_text("module weir(input a, output y); assign y = ~a; endmodule\n")
    answers.append(buttons.Cancel)
    opened.open(other)
    assert opened.session.project is not None and opened.session.project.folder == demo
    before = (demo / "gate_interlock.csv").read_text()
    answers.append(buttons.Discard)
    opened.open(other)
    settle(opened.session)
    assert opened.session.project.folder == other and not desk.unsaved
    assert (demo / "gate_interlock.csv").read_text() == before
    opened.open(demo)
    settle(opened.session)
    desk.model.setData(desk.model.index(0, 0), "1")
    answers.append(buttons.Save)
    opened.close()
    assert not opened.isVisible() and (demo / "gate_interlock.csv").read_text() != before and not answers


def test_the_window_is_as_it_was_left(qtbot: QtBot) -> None:
    first = Shell(Session())
    first.show()
    first.resize(1, 700)  # as narrow as it can be: no wider than the screen of the test
    first.columns.setSizes([300, 400, 219])
    QTest.qWait(20)
    size, sizes = first.size(), first.columns.sizes()
    first.close()
    put_away(first)
    second = Shell(Session())
    second.show()
    QTest.qWait(20)
    assert second.size() == size and size.height() == 700
    assert second.columns.sizes() == sizes
    put_away(second)


# ---- opening ----


def drop(shell: Shell, path: Path) -> None:
    """Drag a file over the window and let it go."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    buttons, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(QPoint(300, 300), Qt.DropAction.CopyAction, data, buttons, keys)
    QApplication.sendEvent(shell, enter)
    assert enter.isAccepted()
    QApplication.sendEvent(shell, QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data, buttons, keys))


def test_a_dropped_source_opens_its_folder(shell: Shell, demo: Path, no_dialogs: list[str]) -> None:
    drop(shell, demo / "gate_interlock.v")
    settle(shell.session)
    assert shell.session.project is not None and shell.session.project.folder == demo
    drop(shell, demo / "nothing.csv")
    assert "can't be read" in shell.status.text()
    shell.session.choose("gate_position")
    drop(shell, demo / "paddle_pwm.capture.csv")
    settle(shell.session)
    assert shell.session.subject is not None and shell.session.subject.capture == demo / "paddle_pwm.capture.csv"


def test_folders_that_were_open_can_be_opened_again(
    opened: Shell, demo: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    other = tmp_path / "other"
    other.mkdir()
    (other / "weir.v").write_text("module weir(input a, output y); assign y = ~a; endmodule\n")
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", staticmethod(lambda *a, **k: str(other)))
    opened.open_folder()
    settle(opened.session)
    assert opened.windowTitle() == "other – Mevrik"
    menu = opened._menu()
    again = next(a.menu() for a in menu.actions() if a.text() == "Open again")
    assert isinstance(again, QMenu) and [a.text() for a in again.actions()][:2] == [
        theme.elide_middle(str(p), 60) for p in (other, demo)
    ]
    again.actions()[1].trigger()
    settle(opened.session)
    assert opened.windowTitle() == "Tarnwick Lock – Mevrik"
    assert {a.text().split("\t")[0] for a in menu.actions() if a.text() and a.menu() is None} <= {c.name for c in opened.commands}


# ---- desks ----


def test_desks_move_and_turn(opened: Shell) -> None:
    opened.show_beside("Ledger")
    assert opened.open_desks() == ["Waves", "Ledger"]
    opened.show_beside("Ledger")  # it is there
    assert opened.open_desks() == ["Waves", "Ledger"]
    across = opened.middle.orientation()
    opened.turn_desks()
    assert opened.middle.orientation() != across
    opened.turn_desks()
    assert opened.middle.orientation() == across
    opened.show_desk("Ledger")
    waves(opened).view.setFocus()
    opened.show_desk("Tables")  # the desk that is worked in stays
    assert opened.open_desks() == ["Waves", "Tables"]
    QTest.keyClick(opened, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    assert opened.open_desks() == ["Waves"]
    QTest.keyClick(opened, Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
    assert opened.open_desks() == [list(opened.desks)[1]]


def test_undo_goes_where_the_work_is(opened: Shell) -> None:
    opened.show_desk("Sources")
    editor = sources(opened).current
    assert editor is not None
    before = editor.toPlainText()
    editor.insertPlainText("// a note\n")
    opened.strip.setFocus()
    opened._undo("undo")
    assert editor.toPlainText() == before
    opened._undo("redo")
    assert editor.toPlainText() != before
    editor.setFocus()
    opened._undo("undo")
    assert editor.toPlainText() == before


def test_what_is_said_fades_to_what_is_true(opened: Shell, demo: Path) -> None:
    opened.say("Something happened")
    assert opened.status.text() == "Something happened"
    opened._quiet.stop()
    opened._progress()
    assert opened.status.text() == f"{demo}   9 subjects"


def test_links_of_the_inspector_lead_to_places(opened: Shell) -> None:
    """Each link in the inspector goes to a line of a source, or to a moment of the run."""
    opened.session.choose("gate_interlock_flawed")
    QTest.keyClick(opened, Qt.Key.Key_F8)
    view = opened.inspector.view
    links = re.findall(r'href="([^"]+)"', view.toHtml())
    assert {link.split(":")[0] for link in links} == {"moment", "place", "signal"}
    wrong = opened.session.selection
    assert opened.session.record is not None
    reason = why(opened.session.record, wrong.signal, wrong.moment)
    read = {c.path: opened.inspector._value(c.value) for c in reason.causes}
    assert sorted(p.rsplit(".", 1)[1] for p in read) == ["ask", "at_upper", "hold"]
    for link in links:
        kind, _, rest = link.partition(":")
        opened.session.select(file="", line=0, moment=0, signal="")
        view.anchorClicked.emit(QUrl(link))
        s, (name, _, at) = opened.session.selection, rest.rpartition("@")
        if kind == "place":
            assert (s.file, s.line) == (name, int(at))
        else:
            assert s.moment == int(at), link
            assert kind == "moment" or s.signal == name
            if kind == "signal":  # it is explained where it has the value that the statement read
                told = re.sub(r"<[^>]*>", "", read[name])
                assert f"is {told} at" in view.toPlainText(), (name, told)
