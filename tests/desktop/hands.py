"""What a user's hands do, and where the desks are found."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from mevrik.desktop.desks.captures import CapturesDesk
from mevrik.desktop.desks.ledger import LedgerDesk
from mevrik.desktop.desks.sources import SourcesDesk
from mevrik.desktop.desks.stimulus import StimulusDesk
from mevrik.desktop.desks.tables import TablesDesk
from mevrik.desktop.desks.waves import WavesDesk
from mevrik.desktop.shell import Shell

LEFT = Qt.MouseButton.LeftButton


def captures(shell: Shell) -> CapturesDesk:
    found = shell.desks["Captures"]
    assert isinstance(found, CapturesDesk)
    return found


def ledger(shell: Shell) -> LedgerDesk:
    found = shell.desks["Ledger"]
    assert isinstance(found, LedgerDesk)
    return found


def sources(shell: Shell) -> SourcesDesk:
    found = shell.desks["Sources"]
    assert isinstance(found, SourcesDesk)
    return found


def stimulus(shell: Shell) -> StimulusDesk:
    found = shell.desks["Stimulus"]
    assert isinstance(found, StimulusDesk)
    return found


def tables(shell: Shell) -> TablesDesk:
    found = shell.desks["Tables"]
    assert isinstance(found, TablesDesk)
    return found


def waves(shell: Shell) -> WavesDesk:
    found = shell.desks["Waves"]
    assert isinstance(found, WavesDesk)
    return found


def press(shell: Shell, name: str) -> None:
    """Click a button by its accessible name, or what stands on it."""
    button = next(b for b in shell.findChildren(QPushButton) if name in (b.accessibleName(), b.text()) and b.isVisible())
    QTest.mouseClick(button, LEFT)


def click_entry(shell: Shell, row: int) -> None:
    """Click a row of the ledger."""
    desk = ledger(shell)
    where = desk.view.visualRect(desk.model.index(row, 2)).center()
    QTest.mouseClick(desk.view.viewport(), LEFT, pos=where)


def drag(widget: QWidget, start: QPoint, end: QPoint, button: Qt.MouseButton = LEFT) -> None:
    """Press, move in two steps, release."""
    QTest.mousePress(widget, button, pos=start)
    QTest.mouseMove(widget, (start + end) / 2)
    QTest.mouseMove(widget, end)
    QTest.mouseRelease(widget, button, pos=end)


def turn(widget: QWidget, at: QPointF, notches: int, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    """The wheel, away from the user if positive."""
    event = QWheelEvent(
        at, widget.mapToGlobal(at), QPoint(), QPoint(0, 120 * notches), Qt.MouseButton.NoButton, keys, Qt.ScrollPhase.NoScrollPhase, False
    )  # fmt: skip
    QApplication.sendEvent(widget, event)
