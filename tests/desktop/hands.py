"""What a user's hands do, and where the desks are found."""

from __future__ import annotations

from typing import TypeVar

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
Kind = TypeVar("Kind")


def desk(shell: Shell, kind: type[Kind]) -> Kind:
    return next(d for d in shell.desks.values() if isinstance(d, kind))


def captures(shell: Shell) -> CapturesDesk:
    return desk(shell, CapturesDesk)


def ledger(shell: Shell) -> LedgerDesk:
    return desk(shell, LedgerDesk)


def sources(shell: Shell) -> SourcesDesk:
    return desk(shell, SourcesDesk)


def stimulus(shell: Shell) -> StimulusDesk:
    return desk(shell, StimulusDesk)


def tables(shell: Shell) -> TablesDesk:
    return desk(shell, TablesDesk)


def waves(shell: Shell) -> WavesDesk:
    return desk(shell, WavesDesk)


def press(shell: Shell, name: str) -> None:
    """Click a button by its accessible name, or what stands on it."""
    button = next(b for b in shell.findChildren(QPushButton) if name in (b.accessibleName(), b.text()) and b.isVisible())
    QTest.mouseClick(button, LEFT)


def click_entry(shell: Shell, row: int) -> None:
    """Click a row of the ledger."""
    view, model = ledger(shell).view, ledger(shell).model
    QTest.mouseClick(view.viewport(), LEFT, pos=view.visualRect(model.index(row, 2)).center())


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
