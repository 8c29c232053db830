"""The window around the desks: opening, commands, themes, leaving."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from mevrik.desktop.commands import CommandList
from mevrik.desktop.shell import Shell
from tests.desktop.conftest import settle
from tests.desktop.hands import press, waves


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
