"""The list of subjects at the left: each module with everything that is said about it, and its verdict as a form."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from mevrik.desktop import theme
from mevrik.desktop.session import Session
from mevrik.desktop.strip import verdict
from mevrik.desktop.strokes import colour_of, draw_strokes

NAME, STATE, WORDS = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1, Qt.ItemDataRole.UserRole + 2


class _SubjectDelegate(QStyledItemDelegate):
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(120, 40)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        rect: QRect = option.rect
        state: QStyle.StateFlag = option.state
        painter.save()
        if state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.colour("chosen"))
        elif state & QStyle.StateFlag.State_MouseOver:
            painter.fillRect(rect, theme.colour("shade"))
        painter.setFont(theme.font(bold=bool(state & QStyle.StateFlag.State_Selected)))
        painter.setPen(theme.colour("ink"))
        text = theme.elide_middle(str(index.data(NAME)), 24)
        painter.drawText(rect.adjusted(10, 3, -6, -18), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)
        draw = QRectF(rect.left() + 10, rect.top() + 23, 34, 10)
        draw_strokes(painter, draw, str(index.data(STATE)), 2)
        painter.setFont(theme.font(theme.SMALL))
        painter.setPen(theme.colour(colour_of(str(index.data(STATE)))))
        painter.drawText(
            rect.adjusted(52, 18, -4, -3), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, str(index.data(WORDS))
        )
        painter.restore()


class SubjectList(QListWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setAccessibleName("Subjects")
        self.setItemDelegate(_SubjectDelegate(self))
        self.setMouseTracking(True)
        self.setStyleSheet("QListWidget { background: transparent; }")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        session.project_changed.connect(self._fill)
        session.subject_changed.connect(self._mark)
        session.findings_changed.connect(self._states)
        session.progress_changed.connect(self._states)
        self.currentItemChanged.connect(self._chosen)

    def _fill(self) -> None:
        self.blockSignals(True)
        self.clear()
        project = self.session.project
        for subject in project.subjects if project else []:
            item = QListWidgetItem()
            item.setData(NAME, subject.name)
            self.addItem(item)
        self.blockSignals(False)
        self._states()
        self._mark()

    def _states(self) -> None:
        for row in range(self.count()):
            item = self.item(row)
            name = item.data(NAME)
            state, words = verdict(self.session.findings.get(name), name in self.session.progress)
            if (item.data(STATE), item.data(WORDS)) != (state, words):
                item.setData(STATE, state)
                item.setData(WORDS, words)
                item.setToolTip(f"{name}: {words}")
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{name}: {words}")

    def _mark(self) -> None:
        wanted = self.session.subject.name if self.session.subject else ""
        for row in range(self.count()):
            if self.item(row).data(NAME) == wanted and row != self.currentRow():
                self.blockSignals(True)
                self.setCurrentRow(row)
                self.blockSignals(False)

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.session.choose(item.data(NAME))
