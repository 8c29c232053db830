"""The real window on the demo project, driven by mouse and keyboard."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
import shiboken6
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from mevrik.desktop import app as desktop_app
from mevrik.desktop.session import Session
from mevrik.desktop.shell import Shell
from mevrik.engine.job import warm_up


def settle(session: Session, limit: float = 30) -> None:
    """Wait until nothing is under way."""
    end = time.monotonic() + limit
    while session.busy:
        assert time.monotonic() < end, "the examinations don't end"
        QTest.qWait(10)
    QTest.qWait(30)


@pytest.fixture(scope="session", autouse=True)
def server() -> None:
    """The server of jobs is started with the imports done, as the application does: else each job imports everything."""
    warm_up()


def put_away(shell: Shell) -> None:
    """Changes that a test left unsaved are dropped without a question, and the window is gone: the next test's theme would reach it."""
    shell._may_leave = lambda: True  # type: ignore[method-assign]
    shell.session.cancel()
    shell.close()
    QTest.qWait(0)
    shiboken6.delete(shell)


@pytest.fixture
def shell(qtbot: QtBot) -> Iterator[Shell]:
    desktop_app.application()
    made = Shell(Session())
    made.resize(1280, 800)
    made.show()
    yield made
    put_away(made)


@pytest.fixture
def opened(shell: Shell, demo: Path) -> Shell:
    """The window with the demo examined."""
    shell.open(demo)
    settle(shell.session)
    return shell


@pytest.fixture
def no_dialogs(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Message boxes are noted, not shown."""
    said: list[str] = []
    monkeypatch.setattr(QMessageBox, "warning", lambda parent, title, text: said.append(text))
    return said


Settle = Callable[[Session], None]
