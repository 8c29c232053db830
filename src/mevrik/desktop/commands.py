"""Every action by name: one list that the shortcuts, the menu and the searchable command list share."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from mevrik.desktop import theme


@dataclass(frozen=True, slots=True)
class Command:
    name: str
    act: Callable[[], object]
    keys: str = ""


class CommandList(QDialog):
    """Type a part of a name, Return does it."""

    def __init__(self, parent: QWidget, commands: list[Command]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Commands")
        self.setWindowFlag(Qt.WindowType.FramelessWindowHint)
        self.resize(460, 380)
        self.setStyleSheet(f"QDialog {{ border: 1px solid {theme.current().rule}; }}")
        self.commands = commands
        self.field = QLineEdit()
        self.field.setPlaceholderText("What do you want to do?")
        self.field.setAccessibleName("Search the commands")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.addWidget(self.field)
        layout.addWidget(self.list)
        self.field.textChanged.connect(self._fill)
        self.field.returnPressed.connect(self._do)
        self.list.itemClicked.connect(self._do)
        self.list.itemActivated.connect(self._do)
        self.field.installEventFilter(self)
        self._fill()

    def _fill(self) -> None:
        words = self.field.text().lower().split()
        self.list.clear()
        for command in self.commands:
            if all(w in command.name.lower() for w in words):
                item = QListWidgetItem(f"{command.name}{'    ' + command.keys if command.keys else ''}")
                item.setData(Qt.ItemDataRole.UserRole, command)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _do(self, *_: object) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.accept()
            item.data(Qt.ItemDataRole.UserRole).act()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            event.type() == QEvent.Type.KeyPress
            and isinstance(event, QKeyEvent)
            and event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up)
        ):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), self.list.count() - 1))
            return True
        return super().eventFilter(watched, event)


def install(window: QWidget, commands: list[Command]) -> None:
    """Give the window the shortcuts of its commands."""
    for command in commands:
        if command.keys:
            action = QAction(command.name, window)
            action.setShortcut(QKeySequence(command.keys))
            action.triggered.connect(lambda _=False, c=command: c.act())
            window.addAction(action)
