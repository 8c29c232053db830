"""The Captures desk: what was measured, chosen, matched and compared."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QFileDialog

from mevrik.desktop.shell import Shell
from tests.desktop.conftest import settle
from tests.desktop.hands import captures, press


def test_a_channel_can_be_another_port(opened: Shell, demo: Path) -> None:
    opened.session.choose("paddle_pwm")
    opened.show_desk("Captures")
    captures(opened)._map("start", "")
    settle(opened.session)
    found = opened.session.current
    assert found is not None and found.matched == {"paddle": "paddle"}
    assert (demo / "paddle_pwm.capture.map.csv").read_text() == "channel,port\npaddle,paddle\nstart,none\n"


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


def test_the_desk_lists_channels_and_what_became_of_them(opened: Shell) -> None:
    opened.session.choose("paddle_pwm")
    opened.show_desk("Captures")
    desk = captures(opened)
    rows = {desk.table.item(r, 0).text(): r for r in range(desk.table.rowCount())}
    assert set(rows) == {"paddle", "start"}
    measured = next(x for x in opened.session.current.ledgers if x.right == "Measured")  # type: ignore[union-attr]
    for channel, row in rows.items():
        told = [int(desk.table.item(row, c).text().replace(",", "")) for c in (3, 4, 5)]
        assert told == measured.by_signal[channel]
    assert "agrees best when moved by" in desk.where.text()
    place = desk.table.visualItemRect(desk.table.item(rows["paddle"], 0)).center()
    QTest.mouseClick(desk.table.viewport(), Qt.MouseButton.LeftButton, pos=place)
    QTest.mouseDClick(desk.table.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert opened.session.selection.signal.endswith(".paddle") and "Waves" in opened.open_desks()


def test_the_port_of_a_channel_is_chosen_in_its_row(opened: Shell, demo: Path) -> None:
    """By keyboard; the choice is kept in a map file that mevrik.toml names, whose other lines stay as they are."""
    project = demo / "mevrik.toml"
    project.write_text("# of the lower gate\n" + project.read_text())
    opened.session.choose("paddle_pwm")
    opened.show_desk("Captures")
    box = next(b for b in captures(opened).table.findChildren(QComboBox) if b.accessibleName() == "Port of channel start")
    assert box.currentText() == "start"
    box.setFocus()
    QTest.keyClick(box, Qt.Key.Key_Home)
    settle(opened.session)
    assert (demo / "paddle_pwm.capture.map.csv").read_text() == "channel,port\npaddle,paddle\nstart,none\n"
    text = project.read_text()
    assert text.startswith("# of the lower gate\n") and 'map = "paddle_pwm.capture.map.csv"' in text
    box = next(b for b in captures(opened).table.findChildren(QComboBox) if b.accessibleName() == "Port of channel start")
    box.setFocus()
    QTest.keyClicks(box, "start")  # and back: the file is there now
    settle(opened.session)
    assert opened.session.current is not None and opened.session.current.matched == {"paddle": "paddle", "start": "start"}


def test_another_capture_is_chosen(opened: Shell, demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    chosen = [""]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", staticmethod(lambda *a, **k: (chosen[0], "")))
    opened.session.choose("gate_position")
    opened.show_desk("Captures")
    desk = captures(opened)
    assert desk.is_empty and desk.empty.title.text() == "No capture"
    press(opened, "Choose a capture")  # and the dialog is left without a choice
    assert opened.session.subject is not None and opened.session.subject.capture is None
    bad = demo / "bad.csv"
    bad.write_text("time_ns,alarm\n0,0\nlater,1\n")
    chosen[0] = str(bad)
    press(opened, "Choose a capture")
    assert "bad.csv:3" in opened.status.text() and opened.session.subject.capture is None
    good = demo / "seen.csv"
    good.write_text("time_ns,alarm\n" + "".join(f"{t},{int(t > 40)}\n" for t in range(0, 150, 2)))
    chosen[0] = str(good)
    press(opened, "Choose a capture")
    settle(opened.session)
    assert opened.session.subject.capture == good and not desk.is_empty
    assert "seen.csv, 75 samples" in desk.facts.text()


def test_a_capture_that_cant_be_read_says_why(opened: Shell, demo: Path) -> None:
    (demo / "paddle_pwm.capture.csv").write_text("time_ns,paddle\n0,0\n1\n")
    opened.session.choose("paddle_pwm")
    opened.show_desk("Captures")
    captures(opened).refresh()
    assert captures(opened).empty.title.text() == "This capture can't be read"
    assert "paddle_pwm.capture.csv:3" in captures(opened).empty.text.text()


@pytest.mark.parametrize("how", ["no room", "broken"])
def test_a_project_file_that_cant_take_the_choice(how: str, opened: Shell, demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Nothing is lost: the file stays as it is, and the status says why."""

    def refuse(path: Path, text: str) -> None:
        raise OSError(28, "No space left on device")

    opened.session.choose("gate_position")
    project = demo / "mevrik.toml"
    if how == "broken":
        project.write_text(project.read_text() + "[[subject]\n")
    else:
        monkeypatch.setattr("mevrik.project.project_file.write_atomically", refuse)
    before = project.read_text()
    good = demo / "seen.csv"
    good.write_text("time_ns,alarm\n0,0\n2,1\n4,1\n")
    captures(opened).take(good)
    assert "mevrik.toml" in opened.status.text(), opened.status.text()
    assert ("No space left" in opened.status.text()) == (how == "no room")
    assert project.read_text() == before
