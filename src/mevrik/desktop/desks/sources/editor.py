"""The text editor: line numbers, marks for diagnostics in the margin, the statement that is selected."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QRect, QSize, Qt
from PySide6.QtGui import (
    QHelpEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QTextBlock,
    QTextCharFormat,
    QTextCursor,
    QTextFormat,
)  # fmt: skip
from PySide6.QtWidgets import QPlainTextEdit, QTextEdit, QToolTip, QWidget

from mevrik.desktop import theme
from mevrik.desktop.desks.elsewhere import changed_elsewhere, content
from mevrik.desktop.desks.sources.highlight import SourceHighlighter
from mevrik.desktop.desks.sources.said import draw_wedge
from mevrik.desktop.faults import guarded
from mevrik.expect.table import write_atomically
from mevrik.lang.diagnostics import RANK, Diagnostic, Mend
from mevrik.lang.source import read_text


class _Margin(QWidget):
    """Line numbers, and beside them a mark for each line that something is said about."""

    def __init__(self, editor: SourceEditor) -> None:
        super().__init__(editor)
        self.editor = editor

    def sizeHint(self) -> QSize:
        return QSize(self.editor.margin_width(), 0)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        self.editor.paint_margin(event)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            line = self.editor.line_at(event.pos().y())
            said = "\n".join(f"{d.severity}: {d.message}" for d in self.editor.diagnostics.get(line, []))
            QToolTip.showText(event.globalPos(), said, self)
            return True
        return super().event(event)


class SourceEditor(QPlainTextEdit):
    """One file. Raises SourceError when it can't be read as text."""

    def __init__(self, path: Path) -> None:
        super().__init__()
        self.path = path
        self.diagnostics: dict[int, list[Diagnostic]] = {}
        self.marked = 0
        self.setFont(theme.font(theme.BODY, code=True))
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setTabStopDistance(self.fontMetrics().horizontalAdvance(" ") * 4)
        self.setAccessibleName(f"Source text of {path.name}")
        self._known: bytes | None = None  # what the file held when it was read or written last
        self.take()
        self.highlighter = SourceHighlighter(self.document(), path.suffix.lower())
        self.margin = _Margin(self)
        self.blockCountChanged.connect(self._fit_margin)
        self.updateRequest.connect(self._scrolled)
        self.cursorPositionChanged.connect(self._extra)
        self._fit_margin()

    @property
    def unsaved(self) -> bool:
        return self.document().isModified()

    def take(self) -> None:
        """The text as the file has it. Raises SourceError."""
        text = read_text(self.path)
        self._known = content(self.path)
        line = self.textCursor().blockNumber() + 1
        self.setPlainText(text)
        self.document().setModified(False)
        if line > 1:
            self.go_to(line, mark=False)

    @property
    def changed_elsewhere(self) -> bool:
        return changed_elsewhere(self.path, self._known)

    def save(self) -> None:
        """Atomic. Raises OSError."""
        text = self.toPlainText()
        write_atomically(self.path, text if text.endswith("\n") or not text else text + "\n")
        self._known = content(self.path)
        self.document().setModified(False)

    # ---- margin ----

    def margin_width(self) -> int:
        return 26 + self.fontMetrics().horizontalAdvance("9") * max(len(str(self.blockCount())), 3)

    def _fit_margin(self, *_: object) -> None:
        self.setViewportMargins(self.margin_width(), 0, 0, 0)

    def _scrolled(self, rect: QRect, dy: int) -> None:
        if dy:
            self.margin.scroll(0, dy)
        else:
            self.margin.update(0, rect.y(), self.margin.width(), rect.height())

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        inside = self.contentsRect()
        self.margin.setGeometry(QRect(inside.left(), inside.top(), self.margin_width(), inside.height()))

    def _top(self, block: QTextBlock) -> float:
        return self.blockBoundingGeometry(block).translated(self.contentOffset()).top()

    def line_at(self, y: int) -> int:
        block = self.firstVisibleBlock()
        while block.isValid():
            if self._top(block) + self.blockBoundingRect(block).height() > y:
                return block.blockNumber() + 1
            block = block.next()
        return 0

    def paint_margin(self, event: QPaintEvent) -> None:
        painter = QPainter(self.margin)
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setFont(theme.font(theme.SMALL, code=True))
        block = self.firstVisibleBlock()
        width = self.margin.width()
        while block.isValid() and self._top(block) <= event.rect().bottom():
            top, height = int(self._top(block)), int(self.blockBoundingRect(block).height())
            number = block.blockNumber() + 1
            painter.setPen(theme.colour("ink" if number == self.marked else "faint"))
            painter.drawText(0, top, width - 10, height, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(number))
            found = self.diagnostics.get(number)
            if found:
                draw_wedge(painter, 4, top + height // 2, max((d.severity for d in found), key=RANK.__getitem__))
            if number == self.marked:
                painter.setPen(QPen(theme.colour("accent"), 3))
                painter.drawLine(width - 3, top, width - 3, top + height)
            block = block.next()

    # ---- marks in the text ----

    def show_diagnostics(self, found: list[Diagnostic]) -> None:
        self.diagnostics = {}
        for d in found:
            self.diagnostics.setdefault(d.place.line, []).append(d)
        self._extra()
        self.margin.update()

    def _extra(self) -> None:
        every: list[QTextEdit.ExtraSelection] = []
        if self.marked:
            every.append(self._whole_line(self.marked, "chosen"))
        elif self.hasFocus():
            every.append(self._whole_line(self.textCursor().blockNumber() + 1, "shade"))
        for line, found in self.diagnostics.items():
            for d in found:
                every.append(self._underline(line, d))
        self.setExtraSelections(every)

    def _whole_line(self, line: int, role: str) -> QTextEdit.ExtraSelection:
        made = QTextEdit.ExtraSelection()
        made.cursor = QTextCursor(self.document().findBlockByNumber(line - 1))
        made.format.setBackground(theme.colour(role))
        made.format.setProperty(QTextFormat.Property.FullWidthSelection, True)
        return made

    def _underline(self, line: int, d: Diagnostic) -> QTextEdit.ExtraSelection:
        made = QTextEdit.ExtraSelection()
        block = self.document().findBlockByNumber(line - 1)
        cursor = QTextCursor(block)
        start = min(d.place.column - 1, max(block.length() - 2, 0))
        cursor.setPosition(block.position() + start)
        cursor.movePosition(QTextCursor.MoveOperation.EndOfWord, QTextCursor.MoveMode.KeepAnchor)
        if not cursor.hasSelection():
            cursor.movePosition(QTextCursor.MoveOperation.NextCharacter, QTextCursor.MoveMode.KeepAnchor)
        made.cursor = cursor
        made.format.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
        made.format.setUnderlineColor(theme.colour("differ" if d.severity == "error" else "unknown"))
        return made

    def apply(self, mend: Mend) -> bool:
        """Make a change as one step of undo; False, and nothing is done, if the text there is not what it was."""
        block = self.document().findBlockByNumber(mend.line - 1)
        start = block.position() + mend.column - 1
        if not block.isValid() or not self.toPlainText().startswith(mend.old, start):
            return False
        cursor = QTextCursor(self.document())
        cursor.setPosition(start)
        cursor.setPosition(start + len(mend.old), QTextCursor.MoveMode.KeepAnchor)
        cursor.insertText(mend.new)
        self.setTextCursor(cursor)
        return True

    def go_to(self, line: int, mark: bool = True) -> None:
        """Show a line in the middle and mark it as the selected statement."""
        block = self.document().findBlockByNumber(max(line - 1, 0))
        if block.isValid():
            self.marked = line if mark else 0
            self.setTextCursor(QTextCursor(block))
            self.centerCursor()
            self._extra()
            self.margin.update()
