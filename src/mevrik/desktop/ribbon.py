"""The time ribbon: the whole run in one line, with its activity, its differences and the visible window as a handle."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from mevrik.design.time import show_time
from mevrik.desktop import theme
from mevrik.desktop.faults import guarded
from mevrik.desktop.session import Session, whole_run
from mevrik.waves.record import RunRecord

HEIGHT = 46
MARGIN = 12
_FINE = 4096  # signals with fewer changes are counted one by one, others by block


def activity(record: RunRecord, bins: int) -> NDArray[np.float64]:
    """Changes of all recorded signals, counted in `bins` equal stretches of the run."""
    counts = np.zeros(bins)
    end = float(max(record.end, 1))
    rows = record.db.execute("SELECT signal, SUM(count) FROM blocks GROUP BY signal").fetchall()
    fine = [signal for signal, count in rows if count <= _FINE][:400]
    for signal in fine:
        times = record.trace(signal).times[1:].astype(float)
        counts += np.histogram(times, bins, (0.0, end))[0]
    known = set(fine)
    for signal, first, last, count in record.db.execute("SELECT signal, first, last, count FROM blocks"):
        if signal not in known:
            low, high = int(first / end * (bins - 1)), int(last / end * (bins - 1))
            counts[low : high + 1] += count / (high - low + 1)
    return counts


class TimeRibbon(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName("Time ribbon")
        self.setMouseTracking(True)
        self._counts: NDArray[np.float64] | None = None
        self._drag: tuple[str, float, tuple[float, float]] | None = None
        session.subject_changed.connect(self._recount)
        session.findings_changed.connect(self._recount)
        session.window_changed.connect(self.update)
        session.selection_changed.connect(self.update)

    def _recount(self, *_: object) -> None:
        record = self.session.record
        self._counts = activity(record, max((self.width() - 2 * MARGIN) // 2, 16)) if record else None
        self.update()

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        self._recount()

    # ---- geometry ----

    @property
    def _end(self) -> float:
        return float(max(self.session.record.end, 1)) if self.session.record else 1.0

    def _x(self, time: float) -> float:
        return MARGIN + time / self._end * (self.width() - 2 * MARGIN)

    def _time(self, x: float) -> float:
        return (x - MARGIN) / max(self.width() - 2 * MARGIN, 1) * self._end

    # ---- paint ----

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(theme.colour("rule"), 1))
        painter.drawLine(0, 0, self.width(), 0)
        record = self.session.record
        painter.setFont(theme.font(theme.SMALL))
        if record is None or self._counts is None:
            painter.setPen(theme.colour("faint"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "The whole run appears here once there is one")
            return
        base, top = 28.0, 6.0
        most = max(float(self._counts.max()), 1.0)
        step = (self.width() - 2 * MARGIN) / len(self._counts)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("faint"))
        for k in np.flatnonzero(self._counts):
            height = 2 + (base - top - 2) * float(np.sqrt(self._counts[k] / most))
            painter.drawRect(QRectF(MARGIN + k * step, base - height, max(step - 0.6, 0.6), height))
        painter.setPen(QPen(theme.colour("rule"), 1))
        painter.drawLine(QPointF(MARGIN, base), QPointF(self.width() - MARGIN, base))
        self._differences(painter)
        self._window(painter, top, base)
        painter.setPen(theme.colour("faint"))
        painter.drawText(QRectF(MARGIN, base + 3, 200, 14), "0")
        text = show_time(record.end, record.tick_exp, 3)
        painter.drawText(QRectF(self.width() - MARGIN - 200, base + 3, 200, 14), Qt.AlignmentFlag.AlignRight, text)
        moment = self.session.selection.moment
        x = self._x(moment)
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawLine(QPointF(x, top - 3), QPointF(x, base + 3))

    def _differences(self, painter: QPainter) -> None:
        """A mark below the line for each difference; a stretch is as long as it lasts."""
        found = self.session.current
        for ledger in found.ledgers if found else []:
            for entry in ledger.entries[:2000]:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.colour("differ" if entry.kind == "differs" else "unknown"))
                low, high = self._x(entry.start), self._x(entry.end)
                width = max(high - low, 3.0)
                painter.drawRect(QRectF(low, 30, width, 5))

    def _window(self, painter: QPainter, top: float, base: float) -> None:
        low, high = (min(max(self._x(t), 2.0), self.width() - 2.0) for t in self.session.window)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("ink"), 1))
        painter.drawRect(QRectF(low, top - 3, max(high - low, 3), base - top + 6))
        painter.setPen(QPen(theme.colour("ink"), 3))
        for x in (low, high):
            painter.drawLine(QPointF(x, top + 4), QPointF(x, base - 4))

    # ---- mouse ----

    def _part(self, x: float) -> str:
        low, high = (self._x(t) for t in self.session.window)
        if abs(x - low) < 6:
            return "low"
        if abs(x - high) < 6:
            return "high"
        whole = self.session.window[1] - self.session.window[0] >= self._end
        return "move" if low < x < high and not whole else "jump"

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.session.record is None:
            return
        x = event.position().x()
        part = self._part(x)
        if part == "jump":
            low, high = self.session.window
            span = high - low
            time = self._time(x)
            if span < self._end:
                self.session.show_window(time - span / 2, time + span / 2)
            self.session.select(moment=int(min(max(time, 0), self._end)))
        self._drag = (part, x, self.session.window)

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x = event.position().x()
        if self._drag is None:
            part = self._part(x)
            cursor = {
                "low": Qt.CursorShape.SizeHorCursor,
                "high": Qt.CursorShape.SizeHorCursor,
                "move": Qt.CursorShape.OpenHandCursor,
            }
            self.setCursor(cursor.get(part, Qt.CursorShape.PointingHandCursor))
            return
        part, start, (low, high) = self._drag
        shift = self._time(x) - self._time(start)
        if part == "low":
            self.session.show_window(min(low + shift, high - 4), high)
        elif part == "high":
            self.session.show_window(low, max(high + shift, low + 4))
        elif part == "move":
            self.session.show_window(low + shift, high + shift)
        elif part == "jump":
            self.session.select(moment=int(min(max(self._time(x), 0), self._end)))

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None

    @guarded
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.session.show_window(*whole_run(self._end))

    @guarded
    def wheelEvent(self, event: QWheelEvent) -> None:
        zoom_about(self.session, self._time(event.position().x()), event.angleDelta().y())


def zoom_about(session: Session, time: float, notches: float) -> None:
    """Zoom in (positive) or out so that `time` stays where it is."""
    low, high = session.window
    factor = 0.8 ** (notches / 120.0)
    session.show_window(time - (time - low) * factor, time + (high - time) * factor)
