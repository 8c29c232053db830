"""The agreement strip: four accounts in order, a joint between each two; also the way to every desk."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from mevrik.compare.ledger import BEHAVIOURAL, EXPECTED, MEASURED, SYNTHESISED
from mevrik.desktop import theme
from mevrik.desktop.desks.sources.said import SaidCount
from mevrik.desktop.faults import guarded
from mevrik.desktop.session import Session
from mevrik.desktop.strokes import WORDS, draw_strokes
from mevrik.project.examine import Findings

HEIGHT = 64
DESKS = {EXPECTED: ("Tables",), BEHAVIOURAL: ("Sources", "Stimulus", "Waves"), SYNTHESISED: (), MEASURED: ("Captures",)}


@dataclass(frozen=True, slots=True)
class JointState:
    state: str
    lines: tuple[str, ...]


def joint_state(findings: Findings | None, left: str, right: str, busy: bool) -> JointState:
    """What the joint of two accounts shows."""
    if busy and findings is None:
        return JointState("busy", ("being examined",))
    if findings is None:
        return JointState("empty", ("nothing compared",))
    pairs = [x for x in findings.ledgers if (x.left, x.right) == (left, right) and x.checked]
    if not pairs:
        return JointState(
            "failed" if findings.failed else "empty", ("can't be examined" if findings.failed else "nothing compared",)
        )
    agree, differ, unknown = (sum(getattr(x, k) for x in pairs) for k in ("agreeing", "differing", "unknown"))
    state = "differ" if differ else "unknown" if unknown else "agree"
    second = [f"{differ:,} differ"] if differ else []
    second += [f"{unknown:,} not comparable"] if unknown else []
    return JointState(state, (f"{agree:,} agree", ", ".join(second)))


class Joint(QWidget):
    """Two strokes and the counts; a click or Return opens the ledger."""

    chosen = Signal()

    def __init__(self, left: str, right: str) -> None:
        super().__init__()
        self.left, self.right = left, right
        self.shown = JointState("empty", ("nothing compared",))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumWidth(120)
        self.setFixedHeight(HEIGHT - 8)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)

    def show_state(self, shown: JointState) -> None:
        self.shown = shown
        text = f"{self.left} and {self.right}: {', '.join(line for line in shown.lines if line)}"
        self.setAccessibleName(text)
        self.setToolTip(f"{text}\nOpens the ledger")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(150, HEIGHT - 8)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.underMouse():
            painter.fillRect(self.rect(), theme.colour("shade"))
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 1))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        draw_strokes(painter, QRectF(10, 6, self.width() - 20, 16), self.shown.state, 3)
        painter.setFont(theme.font(theme.SMALL))
        y = 24
        for number, line in enumerate(self.shown.lines):
            plain = number == 0
            painter.setPen(theme.colour("ink" if plain and self.shown.state != "empty" else "faint" if plain else self._second()))
            painter.drawText(QRect(0, y, self.width(), 14), Qt.AlignmentFlag.AlignCenter, line)
            y += 14

    def _second(self) -> str:
        return "differ" if self.shown.state == "differ" else "unknown"

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit()

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space, Qt.Key.Key_Enter):
            self.chosen.emit()
        else:
            super().keyPressEvent(event)


class Account(QWidget):
    """The name of an account and its desks as words."""

    desk_chosen = Signal(str)

    def __init__(self, name: str, desks: tuple[str, ...]) -> None:
        super().__init__()
        self.name = name
        self.buttons: dict[str, QPushButton] = {}
        self.said = SaidCount()
        self.said.setParent(self)
        self.said.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(4, 5, 4, 3)
        layout.setSpacing(0)
        title = QPushButton(name)
        title.setProperty("word", True)
        title.setFont(theme.font(theme.LARGE, bold=True))
        title.setAccessibleName(f"Account {name}")
        title.setEnabled(bool(desks))
        if desks:
            title.clicked.connect(lambda: self.desk_chosen.emit(desks[-1]))
        self.title, self.filled = title, bool(desks)
        self.restyle()
        layout.addWidget(title, alignment=Qt.AlignmentFlag.AlignHCenter)
        row = QHBoxLayout()
        row.setSpacing(0)
        row.addStretch()
        for desk in desks:
            button = QPushButton(desk)
            button.setProperty("word", True)
            button.setCheckable(True)
            button.setAccessibleName(f"Desk {desk}")
            button.clicked.connect(lambda _=False, d=desk: self.desk_chosen.emit(d))
            row.addWidget(button)
            self.buttons[desk] = button
            if desk == "Sources":
                row.addWidget(self.said)
        if not desks:
            note = QPushButton("no netlist yet")
            note.setProperty("word", True)
            note.setEnabled(False)
            row.addWidget(note)
        row.addStretch()
        layout.addLayout(row)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)

    def restyle(self) -> None:
        """Take the colours of the current theme."""
        colour = theme.current().ink if self.filled else theme.current().faint
        self.title.setStyleSheet(f"QPushButton {{ color: {colour}; font-size: {theme.LARGE}px; }}")


class AgreementStrip(QWidget):
    """Along the top of the window at all times."""

    desk_chosen = Signal(str)

    def __init__(self, session: Session, start: QWidget) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName("Agreement strip")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 0, 8, 0)
        layout.setSpacing(0)
        layout.addWidget(start)
        layout.addSpacing(8)
        self.accounts: list[Account] = []
        names = list(DESKS)
        # while there is no netlist, Measured is compared with Behavioural: the joint stands between the last two names
        self.joints = [Joint(EXPECTED, BEHAVIOURAL), Joint(BEHAVIOURAL, SYNTHESISED), Joint(BEHAVIOURAL, MEASURED)]
        for k, name in enumerate(names):
            account = Account(name, DESKS[name])
            account.desk_chosen.connect(self.desk_chosen)
            self.accounts.append(account)
            layout.addWidget(account)
            if k < len(self.joints):
                self.joints[k].chosen.connect(lambda: self.desk_chosen.emit("Ledger"))
                layout.addWidget(self.joints[k], 1)
        session.findings_changed.connect(self.refresh)
        session.subject_changed.connect(self.refresh)
        session.progress_changed.connect(self.refresh)
        session.diagnostics_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        found = self.session.current
        busy = self.session.subject is not None and self.session.subject.name in self.session.progress
        for joint in self.joints:
            joint.show_state(joint_state(found, joint.left, joint.right, busy))
        for account in self.accounts:
            if "Sources" in account.buttons:
                account.said.show_counts(self.session.diagnostics)

    def mark_open(self, desks: list[str]) -> None:
        """Show which desks are open."""
        for account in self.accounts:
            for name, button in account.buttons.items():
                button.setChecked(name in desks)

    def mark_unsaved(self, desks: list[str]) -> None:
        """Show which desks hold changes that are not saved, whichever subject they belong to."""
        for account in self.accounts:
            for name, button in account.buttons.items():
                button.setText(f"{name} •" if name in desks else name)
                button.setToolTip("There are changes that are not saved" if name in desks else "")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(theme.colour("rule"), 1))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)


def verdict(findings: Findings | None, busy: bool) -> tuple[str, str]:
    """(state, words) for a whole subject."""
    if findings is None:
        return ("busy", WORDS["busy"]) if busy else ("empty", WORDS["empty"])
    if findings.failed:
        return "failed", WORDS["failed"]
    states = [x.state for x in findings.ledgers if x.checked]
    for state in ("differ", "unknown", "agree"):
        if state in states:
            return state, WORDS[state]
    return "empty", WORDS["empty"]
