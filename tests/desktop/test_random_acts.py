"""Whatever is clicked and typed, in whatever order: nothing is raised and the window stays."""

from __future__ import annotations

import random
import shutil
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QWidget

from mevrik.desktop.shell import Shell
from tests.conftest import DEMO
from tests.desktop.conftest import settle

DESIGNS = Path(__file__).parent.parent / "designs"
PLAIN = [getattr(Qt.Key, f"Key_{k}") for k in "Up Down Left Right Return Delete Escape Tab Home End Space 0 Plus Minus".split()]
WITH_CONTROL = [getattr(Qt.Key, f"Key_{k}") for k in "Z Y S F C V 1 2 3 4 5".split()]


def _act(shell: Shell, pick: random.Random) -> None:
    kind = pick.randrange(8)
    if kind < 4:
        widgets = [w for w in shell.findChildren(QWidget) if w.isVisible() and w.width() > 3 and w.height() > 3]
        widget = pick.choice(widgets)
        at = QPoint(pick.randrange(widget.width()), pick.randrange(widget.height()))
        button = pick.choice((Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton))
        (QTest.mouseDClick if kind == 3 else QTest.mouseClick)(widget, button, pos=at)
    elif kind == 4:
        QTest.keyClick(QApplication.focusWidget() or shell, pick.choice(PLAIN))
    elif kind == 5:
        QTest.keyClicks(QApplication.focusWidget() or shell, pick.choice(("a", "1", "x ", "end", "10ns", "u", "(", ";")))
    elif kind == 6:
        QTest.keyClick(QApplication.focusWidget() or shell, pick.choice(WITH_CONTROL), Qt.KeyboardModifier.ControlModifier)
    else:
        shell.session.select(moment=pick.choice((0, 5, 1000, 10**6, 123456789)))


@pytest.mark.parametrize(
    ("seed", "folder"), [(1, DEMO), (2, DESIGNS / "penstock"), (3, DESIGNS / "towpath"), (4, DESIGNS / "weir")]
)
def test_nothing_is_raised(
    seed: int, folder: Path, shell: Shell, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]
) -> None:
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, staticmethod(lambda *a, **k: ("", "")))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", staticmethod(lambda *a, **k: ""))
    monkeypatch.setattr(shell, "_may_leave", lambda: True)

    def close_what_waits() -> None:
        for w in (QApplication.activePopupWidget(), QApplication.activeModalWidget()):
            if w is not None:
                w.close()

    timer = QTimer()
    timer.timeout.connect(close_what_waits)
    timer.start(100)
    shell.open(shutil.copytree(folder, tmp_path / "project"))
    settle(shell.session, 60)
    pick = random.Random(seed)
    for _ in range(120):
        _act(shell, pick)
        QTest.qWait(pick.choice((0, 0, 2, 10)))
        if not shell.isVisible():
            shell.show()
    settle(shell.session, 60)
    timer.stop()
    said = capfd.readouterr().err
    assert "Traceback" not in said
    assert "fault" not in said
