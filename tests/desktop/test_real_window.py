"""The application in a window on a virtual display, started as a user starts it."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest

from tests.conftest import mevrik


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="there is no Xvfb")
def test_a_window_under_xvfb(demo: Path, tmp_path: Path) -> None:
    picture = tmp_path / "window.png"
    script = tmp_path / "drive.py"
    script.write_text(
        f"""
import time
from pathlib import Path
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

def main():
    from mevrik.desktop.app import application
    from mevrik.desktop.session import Session
    from mevrik.desktop.shell import Shell
    app = application()
    assert app.platformName() == "xcb", app.platformName()
    shell = Shell(Session())
    shell.resize(1280, 800)
    shell.show()
    assert QTest.qWaitForWindowExposed(shell)
    shell.open(Path({str(demo)!r}))
    end = time.monotonic() + 40
    while shell.session.busy and time.monotonic() < end:
        QTest.qWait(20)
    shell.session.choose("gate_interlock_flawed")
    QTest.mouseClick(shell.strip.joints[0], Qt.MouseButton.LeftButton)
    ledger = shell.desks["Ledger"]
    where = ledger.view.visualRect(ledger.model.index(0, 2)).center()
    QTest.mouseClick(ledger.view.viewport(), Qt.MouseButton.LeftButton, pos=where)
    QTest.qWait(200)
    print(shell.open_desks(), shell.session.selection.entry.row)
    app.primaryScreen().grabWindow(shell.winId()).save({str(picture)!r})
    shell.close()

if __name__ == "__main__":
    main()
"""
    )
    reading, writing = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writing), "-screen", "0", "1400x900x24", "-nolisten", "tcp"],
        pass_fds=(writing,),
        stderr=subprocess.DEVNULL,
    )
    try:
        os.close(writing)
        number = os.read(reading, 16).decode().strip()
        assert number, "Xvfb did not start"
        environment = {**os.environ, "DISPLAY": f":{number}", "QT_QPA_PLATFORM": "xcb"}
        done = subprocess.run([sys.executable, script], env=environment, capture_output=True, text=True, timeout=90)
        assert done.stdout.strip() == "['Ledger', 'Waves'] 18", done.stderr
        assert picture.stat().st_size > 20_000
    finally:
        server.terminate()
        server.wait()
        os.close(reading)
        time.sleep(0)


def test_without_a_display_one_line_says_so() -> None:
    for command in ([], ["demo"], ["open", "."]):
        done = mevrik(*command, DISPLAY="", WAYLAND_DISPLAY="", QT_QPA_PLATFORM="")
        assert done.status == 1 and len(done.err.strip().splitlines()) == 1 and "no display" in done.err
