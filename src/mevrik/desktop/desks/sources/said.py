"""What is said about the sources: filters by severity and code, the list, and the mend of a line where it is certain."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

from PySide6.QtCore import QPoint, QRect, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from mevrik.desktop import theme
from mevrik.desktop.faults import guarded
from mevrik.lang.diagnostics import Diagnostic

SEVERITIES = ("error", "warning", "note")
SHOWN_HAPPENING = ("clock-skew",)  # kinds that a run can show delta by delta
SEE = "See it happen"
DIAGNOSTIC = Qt.ItemDataRole.UserRole
_PLACE, _MESSAGE, _CODE, _MEND = range(4)


def draw_wedge(painter: QPainter, left: int, middle: int, severity: str) -> None:
    """An error is a filled wedge, a warning an open one, a note only its edge."""
    role = {"error": "differ", "warning": "unknown"}.get(severity, "faint")
    painter.setPen(QPen(theme.colour(role), 1.5))
    painter.setBrush(theme.colour(role) if severity == "error" else QColor(0, 0, 0, 0))
    corners = [QPoint(left, middle - 5), QPoint(left + 8, middle), QPoint(left, middle + 5)]
    painter.drawPolyline(corners) if severity == "note" else painter.drawPolygon(corners)


def counted(found: list[Diagnostic]) -> dict[str, int]:
    """How many there are of each severity that occurs, the gravest first."""
    counts = Counter(d.severity for d in found)
    return {s: counts[s] for s in SEVERITIES if counts[s]}


def in_words(counts: dict[str, int]) -> str:
    return ", ".join(f"{n:,} {s if n == 1 else s + 's'}" for s, n in counts.items())


class SaidCount(QWidget):
    """The wedges with their numbers, for the strip; takes no room while nothing is said."""

    def __init__(self) -> None:
        super().__init__()
        self.counts: dict[str, int] = {}
        self.setVisible(False)

    def show_counts(self, found: list[Diagnostic]) -> None:
        self.counts = {s: n for s, n in counted(found).items() if s != "note"}
        words = in_words(self.counts)
        self.setAccessibleName(words)
        self.setToolTip(f"{words} in the sources" if words else "")
        self.setVisible(bool(self.counts))
        self.updateGeometry()
        self.update()

    def _width(self, number: int) -> int:
        return 13 + self.fontMetrics().horizontalAdvance(f"{number:,}") + 5

    def sizeHint(self) -> QSize:
        return QSize(sum(self._width(n) for n in self.counts.values()), 20)

    minimumSizeHint = sizeHint

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.font(theme.SMALL))
        left = 1
        for severity, number in self.counts.items():
            draw_wedge(painter, left, self.height() // 2, severity)
            painter.setPen(theme.colour("ink"))
            rect = QRect(left + 12, 0, self._width(number), self.height())
            painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, f"{number:,}")
            left += self._width(number)


class _Rows(QTreeWidget):
    def drawRow(self, painter: QPainter, option: object, index: object) -> None:
        super().drawRow(painter, option, index)  # type: ignore[arg-type]
        item = self.itemFromIndex(index)  # type: ignore[arg-type]
        rect = self.visualItemRect(item)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_wedge(painter, 6, rect.center().y(), item.data(0, DIAGNOSTIC).severity)
        painter.restore()


class SaidPanel(QWidget):
    """Below the text. `chosen` goes to a place, `mended` asks for the change that belongs to a diagnostic, `happening` to see it in the run."""

    chosen = Signal(object)
    mended = Signal(object)
    happening = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.found: list[Diagnostic] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        bar = QHBoxLayout()
        bar.setContentsMargins(8, 2, 4, 2)
        bar.setSpacing(2)
        bar.addWidget(QLabel("Show"))
        self.severities: dict[str, QPushButton] = {}
        for severity in SEVERITIES:
            button = QPushButton()
            button.setProperty("word", True)
            button.setCheckable(True)
            button.setChecked(True)
            button.toggled.connect(self._fill)
            self.severities[severity] = button
            bar.addWidget(button)
        bar.addSpacing(theme.UNIT)
        self.codes = QComboBox()
        self.codes.setAccessibleName("Of which kind")
        self.codes.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.codes.activated.connect(self._fill)
        bar.addWidget(self.codes)
        bar.addStretch()
        layout.addLayout(bar)
        self.rows = _Rows()
        self.rows.setAccessibleName("Diagnostics")
        self.rows.setColumnCount(4)
        self.rows.setHeaderHidden(True)
        self.rows.setRootIsDecorated(False)
        self.rows.setUniformRowHeights(True)
        header = self.rows.header()
        header.setStretchLastSection(False)
        for column in (_PLACE, _CODE, _MEND):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(_MESSAGE, QHeaderView.ResizeMode.Stretch)
        self.rows.itemClicked.connect(self._click)
        self.rows.itemActivated.connect(lambda item, _: self.chosen.emit(item.data(0, DIAGNOSTIC)))
        layout.addWidget(self.rows, 1)
        self.setMinimumHeight(90)
        self.show_found([])

    def show_found(self, found: list[Diagnostic]) -> None:
        """Replace what is shown; the filters stay."""
        self.found = found
        counts = counted(found)
        for severity, button in self.severities.items():
            button.setText(in_words({severity: counts.get(severity, 0)}))
            button.setVisible(severity in counts)
        code = self.codes.currentData()
        kinds = sorted(Counter(d.code for d in found).items())
        self.codes.clear()
        self.codes.addItem("every kind", None)
        for kind, number in kinds:
            self.codes.addItem(f"{kind}  {number:,}", kind)
        self.codes.setCurrentIndex(max(self.codes.findData(code), 0))
        self.setVisible(bool(found))
        self._fill()

    def _fill(self, *_: object) -> None:
        code = self.codes.currentData()
        self.rows.clear()
        items = []
        for d in self.found:
            if self.severities[d.severity].isChecked() and code in (None, d.code):
                place = f"    {Path(d.place.file).name}, line {d.place.line}"
                item = QTreeWidgetItem(
                    [place, d.message, d.code, d.mend.words if d.mend else SEE if d.code in SHOWN_HAPPENING else ""]
                )
                item.setData(0, DIAGNOSTIC, d)
                item.setForeground(_PLACE, theme.colour("faint"))
                item.setForeground(_CODE, theme.colour("faint"))
                item.setForeground(_MEND, theme.colour("accent"))
                item.setToolTip(_MESSAGE, d.message)
                item.setToolTip(_MEND, "Changes the text; Undo takes it back" if d.mend else "")
                items.append(item)
        self.rows.addTopLevelItems(items)

    def _click(self, item: QTreeWidgetItem, column: int) -> None:
        found: Diagnostic = item.data(0, DIAGNOSTIC)
        self.chosen.emit(found)
        if column == _MEND and found.mend is not None:
            self.mended.emit(found)
        elif column == _MEND and found.code in SHOWN_HAPPENING:
            self.happening.emit(found)

    @property
    def current(self) -> Diagnostic | None:
        item = self.rows.currentItem()
        return item.data(0, DIAGNOSTIC) if item is not None else None
