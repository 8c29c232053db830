"""What every desk has: a name, a line of words at the top, and a good empty state."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QStackedLayout, QVBoxLayout, QWidget

from mevrik.desktop import theme
from mevrik.desktop.session import Session

_EMPTY_WIDTH = 460  # pixels


def word_button(text: str, act: Callable[[], object], tip: str = "") -> QPushButton:
    """An action as a word."""
    button = QPushButton(text)
    button.setProperty("word", True)
    button.clicked.connect(lambda: act())
    button.setToolTip(tip)
    button.setAccessibleName(text)
    return button


class Empty(QWidget):
    """Says what belongs here and offers the act that brings it."""

    def __init__(self) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.addStretch(2)
        self.title = QLabel()
        self.title.setFont(theme.font(theme.LARGE, bold=True))
        self.text = QLabel()
        self.text.setWordWrap(True)
        self.text.setFixedWidth(_EMPTY_WIDTH)
        self.text.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.button = QPushButton()
        self._act: Callable[[], object] = lambda: None
        self.button.clicked.connect(lambda: self._act())
        for part in (self.title, self.text, self.button):
            layout.addWidget(part, alignment=Qt.AlignmentFlag.AlignHCenter)
            layout.addSpacing(theme.UNIT)
        layout.addStretch(3)

    def say(self, title: str, text: str, action: str = "", act: Callable[[], object] | None = None) -> None:
        self.title.setText(title)
        self.text.setText(text)
        self.text.setFixedHeight(self.text.heightForWidth(_EMPTY_WIDTH))  # a centred label would be as high as one line
        self.button.setVisible(bool(action))
        self.button.setText(action)
        self._act = act or (lambda: None)


class Desk(QWidget):
    """A desk shows either its body or its empty state. Subclasses fill `bar` and `body` and implement `refresh`."""

    name = ""
    edited = Signal()  # whether something is unsaved may have changed

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setAccessibleName(f"Desk {self.name}")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        bar = QWidget()
        bar.setFixedHeight(28)
        head = QHBoxLayout(bar)
        head.setContentsMargins(8, 0, 4, 0)
        head.setSpacing(4)
        self.title = QLabel(self.name)
        self.title.setFont(theme.font(theme.BODY, bold=True))
        head.addWidget(self.title)
        self.facts = QLabel()
        theme.tint(self.facts, "faint")
        self.facts.setMinimumWidth(20)
        head.addWidget(self.facts, 1)
        self.tools = QWidget()  # what can be done with the body; not there while the desk is empty
        self.bar = QHBoxLayout(self.tools)
        self.bar.setContentsMargins(0, 0, 0, 0)
        self.bar.setSpacing(4)
        head.addWidget(self.tools)
        outer.addWidget(bar)
        inner = QWidget()
        self._stack = QStackedLayout(inner)
        self.body = QWidget()
        self.empty = Empty()
        self._stack.addWidget(self.body)
        self._stack.addWidget(self.empty)
        outer.addWidget(inner, 1)
        session.subject_changed.connect(self.refresh)
        session.findings_changed.connect(lambda name: self.refresh() if self._mine(name) else None)

    def _mine(self, name: str) -> bool:
        return self.session.subject is not None and self.session.subject.name == name

    def show_empty(self, title: str, text: str, action: str = "", act: Callable[[], object] | None = None) -> None:
        self.facts.setText("")
        self.empty.say(title, text, action, act)
        self._stack.setCurrentWidget(self.empty)
        self.tools.hide()

    def show_body(self) -> None:
        self._stack.setCurrentWidget(self.body)
        self.tools.show()

    @property
    def is_empty(self) -> bool:
        return self._stack.currentWidget() is self.empty

    def refresh(self) -> None:
        raise NotImplementedError

    def save(self) -> None:
        """Write what was edited; desks that edit nothing do nothing."""

    @property
    def unsaved(self) -> bool:
        return False
