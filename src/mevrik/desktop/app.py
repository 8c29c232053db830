"""Starting the desktop."""

from __future__ import annotations

import signal
import sys
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QTimer
from PySide6.QtWidgets import QApplication

from mevrik.desktop import theme
from mevrik.desktop.session import Session
from mevrik.desktop.shell import Shell
from mevrik.engine.job import warm_up


def application() -> QApplication:
    """The one QApplication, with names, fonts and theme set."""
    QCoreApplication.setOrganizationName("Mevrik")
    QCoreApplication.setApplicationName("Mevrik")
    found = QApplication.instance()
    app = found if isinstance(found, QApplication) else QApplication(sys.argv[:1])
    app.setDesktopFileName("mevrik")
    theme.apply(app)
    return app


def start(folder: Path | None) -> int:
    """Open the window, on a project if a folder is given, and stay until it is closed."""
    warm_up()
    app = application()
    session = Session()
    shell = Shell(session)
    shell.show()
    if folder is not None:
        QTimer.singleShot(0, lambda: shell.open(folder))
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    beat = QTimer()
    beat.timeout.connect(lambda: None)  # lets Python see signals
    beat.start(300)
    return int(app.exec())
