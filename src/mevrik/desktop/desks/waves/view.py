"""The picture of the Waves desk: names, values at the moment, and the signals over time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QMenu, QScrollBar, QWidget

from mevrik.compare.ledger import EXPECTED
from mevrik.design.time import show_time
from mevrik.desktop import theme
from mevrik.desktop.desks.waves.paint import Painter, nice_step
from mevrik.desktop.desks.waves.rows import (
    LEVELS,
    RADICES,
    RADIX_WORDS,
    Row,
    Shape,
    block_end,
    default_radix,
    measured_shape,
    shape_of,
    toggled,
)
from mevrik.desktop.faults import guarded
from mevrik.desktop.ribbon import zoom_about
from mevrik.desktop.session import Session, whole_run
from mevrik.lab.capture import Capture
from mevrik.waves.record import RunRecord

AXIS = 24
STEP = 14  # by which what lies inside of a row is moved in
_SNAP = 6  # pixels


class WaveView(QWidget):
    """Rows of `theme.ROW` pixels. The rows can be dragged at their names, and removed with Delete."""

    rows_changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows: list[Row] = []
        self.captured: Capture | None = None
        self.chosen = -1
        self.names_width, self.values_width = 168, 76
        self._shapes: dict[Row, Shape] = {}
        self._shapes_for: tuple[object, float, float] | None = None
        self._drag: tuple[str, QPointF, object] | None = None
        self._drop = -1
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Waves")
        self.bar = QScrollBar(Qt.Orientation.Vertical, self)
        self.bar.valueChanged.connect(self.update)
        session.window_changed.connect(self.update)
        session.selection_changed.connect(self._follow_selection)

    # ---- rows ----

    def set_rows(self, rows: list[Row]) -> None:
        self.rows = rows
        self.chosen = min(self.chosen, len(rows) - 1)
        self._forget()
        self._scroll_range()
        self.rows_changed.emit()
        self.update()

    def _forget(self) -> None:
        self._shapes.clear()

    def _scroll_range(self) -> None:
        room = self.height() - AXIS
        whole = len(self.rows) * theme.ROW
        self.bar.setRange(0, max(whole - room, 0))
        self.bar.setPageStep(max(room, 1))
        self.bar.setSingleStep(theme.ROW)
        self.bar.setVisible(whole > room)
        self.bar.setGeometry(self.width() - 9, AXIS, 9, max(room, 0))

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        self._scroll_range()

    @property
    def left(self) -> int:
        return self.names_width + self.values_width

    @property
    def canvas_width(self) -> int:
        return max(self.width() - self.left - (9 if self.bar.isVisible() else 0), 10)

    def row_at(self, y: float) -> int:
        row = int((y - AXIS + self.bar.value()) // theme.ROW)
        return row if y >= AXIS and 0 <= row < len(self.rows) else -1

    def row_top(self, index: int) -> float:
        return AXIS + index * theme.ROW - self.bar.value()

    def time_at(self, x: float) -> float:
        low, high = self.session.window
        return low + (x - self.left) / self.canvas_width * (high - low)

    def x_at(self, time: float) -> float:
        low, high = self.session.window
        return self.left + (time - low) / max(high - low, 1e-9) * self.canvas_width

    def _follow_selection(self) -> None:
        path = self.session.selection.signal
        if path and not (0 <= self.chosen < len(self.rows) and self.rows[self.chosen].path == path):
            record = self.session.record
            number = record.names[path].signal if record and path in record.names else None
            self.chosen = next(
                (k for k, r in enumerate(self.rows) if r.path == path or (record and record.names[r.path].signal == number)), -1
            )
        if self.chosen >= 0:
            top = self.row_top(self.chosen)
            if top < AXIS or top + theme.ROW > self.height():
                self.bar.setValue(int(self.chosen * theme.ROW - (self.height() - AXIS) / 2))
        self.update()

    # ---- shapes ----

    def shape(self, row: Row) -> Shape:
        record = self.session.record
        assert record is not None
        low, high = self.session.window
        key = (record, low, high)
        if self._shapes_for != key:
            self._shapes.clear()
            self._shapes_for = key
        made = self._shapes.get(row)
        if made is None:
            made = self._measured(row, record) if row.measured else shape_of(record, row, int(low), int(high) + 1)
            self._shapes[row] = made
        return made

    def _measured(self, row: Row, record: RunRecord) -> Shape:
        found = self.session.current
        empty = Shape(np.zeros(0), None, None, np.zeros(0, np.int64))
        if self.captured is None or found is None or found.alignment is None:
            return empty
        port = row.path.rsplit(".", 1)[-1]
        channel = next((c for c, p in found.matched.items() if p == port), None)
        if channel is None:
            return empty
        stamps = self.captured.times / 10.0**record.tick_exp + found.alignment.offset
        return measured_shape(found, row, self.captured.values[channel], stamps, record.info(row.path))

    def value_text(self, row: Row) -> str:
        """The value of a row at the moment."""
        record = self.session.record
        if record is None:
            return ""
        moment = float(self.session.selection.moment)
        info = row.info(record)
        if info.kind == "event":
            return ""
        if row.measured:
            shape = self.shape(row)
            index = int(np.searchsorted(shape.times, moment, side="right")) - 1
            if index < 0 or moment > shape.last:
                return "—"
            return LEVELS[int(shape.codes[index])] if shape.codes is not None else shape.text(index, row, info)
        shape = shape_of(record, row, int(moment), int(moment))
        index = max(int(np.searchsorted(shape.times, moment, side="right")) - 1, 0)
        if shape.codes is not None:
            level = LEVELS[int(shape.codes[index])] if len(shape.codes) else ""
            return level.upper() if info.planes == 4 else level  # as either language writes it
        return shape.text(index, row, info)

    # ---- paint ----

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("sheet"))
        record = self.session.record
        if record is None:
            return
        low, high = self.session.window
        self._names(painter, record)
        canvas = QRect(self.left, 0, self.canvas_width, self.height())
        painter.save()
        painter.setClipRect(canvas)
        painter.translate(self.left, 0)
        self._axis(painter, low, high, record.tick_exp)
        brush = Painter(painter, low, high, self.canvas_width)
        painter.save()
        painter.setClipRect(QRect(0, AXIS, self.canvas_width, self.height() - AXIS), Qt.ClipOperation.IntersectClip)
        for index, row in enumerate(self.rows):
            top = self.row_top(index)
            if AXIS - theme.ROW < top < self.height():
                if index == self.chosen:
                    painter.setPen(QPen(theme.colour("accent"), 1))
                    painter.drawLine(QPointF(0, top + theme.ROW - 0.5), QPointF(self.canvas_width, top + theme.ROW - 0.5))
                brush.draw(self.shape(row), row, row.info(record), top, theme.ROW, float(record.end))
        self._differences(painter, brush)
        painter.restore()
        self._cursors(painter, brush)
        painter.restore()
        if self._drag is not None and self._drag[0] == "row" and self._drop >= 0:
            painter.setPen(QPen(theme.colour("accent"), 2))
            y = int(self.row_top(self._drop))
            painter.drawLine(0, y, self.left, y)

    def _names(self, painter: QPainter, record: RunRecord) -> None:
        painter.save()
        painter.setClipRect(QRect(0, AXIS, self.left, self.height() - AXIS))
        for index, row in enumerate(self.rows):
            top = self.row_top(index)
            if not AXIS - theme.ROW < top < self.height():
                continue
            info = record.info(row.path)
            if index == self.chosen:
                painter.fillRect(QRectF(0, top, self.left, theme.ROW), theme.colour("chosen"))
            inset = 22 + STEP * row.depth
            if row.opens(row.info(record)):
                painter.setPen(theme.colour("accent"))
                painter.setFont(theme.font(theme.BODY))
                painter.drawText(
                    QRectF(6 + STEP * row.depth, top, 14, theme.ROW), Qt.AlignmentFlag.AlignVCenter, "–" if row.open else "+"
                )
            port = record.names[row.path].port
            painter.setFont(theme.font(theme.BODY, code=not row.measured, italic=row.measured))
            painter.setPen(theme.colour("faint" if row.measured or not port else "ink"))
            painter.drawText(
                QRectF(inset, top, self.names_width - inset - 4, theme.ROW),
                Qt.AlignmentFlag.AlignVCenter,
                theme.elide_middle(row.label(info), max(int((self.names_width - inset - 12) / 7.2), 4)),
            )
            painter.setFont(theme.font(theme.BODY, code=True, bold=True))
            painter.setPen(theme.colour("ink"))
            text = theme.elide_middle(self.value_text(row), max(int((self.values_width - 8) / 7.4), 3))
            painter.drawText(
                QRectF(self.names_width, top, self.values_width - 8, theme.ROW),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                text,
            )
        painter.restore()
        painter.setPen(QPen(theme.colour("rule"), 1))
        painter.drawLine(self.left - 1, 0, self.left - 1, self.height())
        painter.drawLine(0, AXIS - 1, self.width(), AXIS - 1)
        painter.setFont(theme.font(theme.SMALL))
        painter.setPen(theme.colour("faint"))
        painter.drawText(QRectF(22, 0, self.names_width, AXIS), Qt.AlignmentFlag.AlignVCenter, "signal")
        painter.drawText(
            QRectF(self.names_width, 0, self.values_width - 8, AXIS),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            "value",
        )

    def _axis(self, painter: QPainter, low: float, high: float, tick: int) -> None:
        step = nice_step(high - low, self.canvas_width)
        painter.setFont(theme.font(theme.SMALL))
        first = np.ceil(low / step) * step
        for time in np.arange(max(first, 0.0), high + step / 2, step).tolist():
            x = (time - low) / (high - low) * self.canvas_width
            painter.setPen(QPen(theme.colour("rule"), 1))
            painter.drawLine(QPointF(x, 17), QPointF(x, self.height()))
            painter.setPen(theme.colour("faint"))
            words = show_time(time, tick, 4)
            if x + 3 + painter.fontMetrics().horizontalAdvance(words) <= self.canvas_width:  # else it would stand off its line
                painter.drawText(QPointF(x + 3, 14), words)

    def _differences(self, painter: QPainter, brush: Painter) -> None:
        """Below a signal where an account differs: a bracket over the stretch, with what the other account says."""
        found = self.session.current
        tops: dict[str, float] = {}
        for index, row in enumerate(self.rows):
            if row.depth == 0:
                tops.setdefault(row.path, self.row_top(index))
        low, high = self.session.window
        painter.setFont(theme.font(theme.SMALL, code=True))
        for ledger in found.ledgers if found else []:
            for entry in ledger.entries[:5000]:
                top = tops.get(entry.path)
                if top is None or entry.end < low or entry.start > high:
                    continue
                chosen = entry == self.session.selection.entry
                colour = theme.colour("differ" if entry.kind == "differs" else "unknown")
                a, b = brush.x(entry.start), max(brush.x(entry.end), brush.x(entry.start) + 2)
                painter.setPen(QPen(colour, 2.5 if chosen else 1.5))
                y = top + theme.ROW - 1.5
                painter.drawLine(QPointF(a, y), QPointF(b, y))
                painter.drawLine(QPointF(a, y), QPointF(a, y - 5))
                painter.drawLine(QPointF(b, y), QPointF(b, y - 5))
                words = f"expected {entry.left}"
                if ledger.left == EXPECTED and b - a > painter.fontMetrics().horizontalAdvance(words) + 8:
                    painter.drawText(QRectF(a, top, b - a, theme.ROW), Qt.AlignmentFlag.AlignCenter, words)

    def _cursors(self, painter: QPainter, brush: Painter) -> None:
        for time, colour, word in ((self.session.mark, "faint", "mark"), (self.session.selection.moment, "accent", "")):
            if time is None:
                continue
            x = brush.x(float(time))
            painter.setPen(QPen(theme.colour(colour), 1 if word else 2, Qt.PenStyle.DashLine if word else Qt.PenStyle.SolidLine))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
            if word:
                painter.setFont(theme.font(theme.SMALL))
                painter.drawText(QPointF(x + 3, self.height() - 5), word)

    # ---- mouse ----

    def snapped(self, x: float, row: int) -> int:
        """The time at a point, moved to the nearest change of the row under it if one is close."""
        time = self.time_at(x)
        if 0 <= row < len(self.rows):
            times = self.shape(self.rows[row]).times
            k = int(np.searchsorted(times, time))
            near = [t for t in times[max(k - 1, 0) : k + 1].tolist() if abs(self.x_at(t) - x) <= _SNAP]
            if near:
                time = min(near, key=lambda t: abs(t - time))
        end = self.session.record.end if self.session.record else 0
        return round(min(max(time, 0), end))

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.session.record is None:
            return
        x, y = event.position().x(), event.position().y()
        row = self.row_at(y)
        if event.button() == Qt.MouseButton.MiddleButton or (x >= self.left and event.button() == Qt.MouseButton.LeftButton):
            self._drag = ("pan", event.position(), self.session.window)
        elif abs(x - self.names_width) < 4 and event.button() == Qt.MouseButton.LeftButton:
            self._drag = ("names", event.position(), self.names_width)
        elif x < self.left and row >= 0 and event.button() == Qt.MouseButton.LeftButton:
            if 0 <= x - STEP * self.rows[row].depth < 20:
                self.set_rows(toggled(self.rows, row, self.session.record))
                return
            self.chosen = row
            self._drag = ("row", event.position(), row)
            self.session.select(signal=self.rows[row].path)
        self.update()

    @guarded
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x = event.position().x()
        if self._drag is None:
            self.setCursor(Qt.CursorShape.SplitHCursor if abs(x - self.names_width) < 4 else Qt.CursorShape.ArrowCursor)
            return
        kind, start, held = self._drag
        if kind == "pan" and isinstance(held, tuple) and (event.position() - start).manhattanLength() > 4:
            low, high = held
            shift = (x - start.x()) / self.canvas_width * (high - low)
            self.session.show_window(low - shift, high - shift)
        elif kind == "names" and isinstance(held, int):
            self.names_width = int(min(max(held + x - start.x(), 80), 420))
            self.update()
        elif kind == "row":
            y = event.position().y()
            self._drop = int(min(max((y - AXIS + self.bar.value() + theme.ROW / 2) // theme.ROW, 0), len(self.rows)))
            self.update()

    @guarded
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            return
        kind, start, held = self._drag
        self._drag = None
        moved = (event.position() - start).manhattanLength() > 4
        if kind == "pan" and not moved:
            row = self.row_at(event.position().y())
            at = self.snapped(event.position().x(), row)
            if row >= 0:
                self.chosen = row
            self.session.select(moment=at, **({"signal": self.rows[row].path} if row >= 0 else {}))
            self._pick_entry(at, row)
        elif kind == "row" and isinstance(held, int) and moved and self._drop >= 0:
            self.move_row(held, self._drop)
        self._drop = -1
        self.update()

    def _pick_entry(self, moment: int, row: int) -> None:
        """A click on a stretch that differs selects the difference too."""
        found = self.session.current
        if row < 0 or found is None:
            return
        for ledger in found.ledgers:
            for entry in ledger.entries:
                if entry.path == self.rows[row].path and entry.start <= moment <= entry.end:
                    self.session.select(entry=entry, ledger=ledger, row=entry.row)
                    return

    def move_row(self, index: int, to: int) -> None:
        """Move a row, with the bits that belong to it, before the row `to`."""
        end = block_end(self.rows, index)
        if end < len(self.rows) and self.rows[end].measured and self.rows[end].path == self.rows[index].path:
            end += 1
        if index <= to <= end:
            return
        block = self.rows[index:end]
        rest = self.rows[:index] + self.rows[end:]
        at = to if to < index else to - len(block)
        self.chosen = at
        self.set_rows(rest[:at] + block + rest[at:])

    @guarded
    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() or event.angleDelta().x()
        if event.position().x() < self.left:
            self.bar.setValue(self.bar.value() - turn // 2)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x():
            self.pan(-turn / 120.0 * 0.1)
        else:
            zoom_about(self.session, self.time_at(event.position().x()), turn)

    def pan(self, share: float) -> None:
        low, high = self.session.window
        self.session.show_window(low + share * (high - low), high + share * (high - low))

    @guarded
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row = self.row_at(event.pos().y())
        menu = QMenu(self)
        if event.pos().x() >= self.left:
            at = self.snapped(event.pos().x(), row)
            menu.addAction("Put the mark here", lambda: self.set_mark(at))
            menu.addAction("Whole run", self.whole_run)
        if row >= 0:
            self.chosen = row
            current = self.rows[row]
            info = current.info(self.session.record) if self.session.record else None
            if info is not None and info.width > 1 and current.bit < 0:
                menu.addSeparator()
                for radix in RADICES:
                    action = menu.addAction(RADIX_WORDS[radix].capitalize(), lambda r=radix: self.set_radix(row, r))
                    action.setCheckable(True)
                    action.setChecked((current.radix or default_radix(info)) == radix)
            menu.addSeparator()
            menu.addAction("Remove from the probe list", lambda: self.remove(row))
        if menu.actions():
            menu.exec(event.globalPos())

    # ---- acts ----

    def set_mark(self, time: int | None) -> None:
        self.session.mark = time
        self.session.selection_changed.emit()

    def whole_run(self) -> None:
        if self.session.record is not None:
            self.session.show_window(*whole_run(float(self.session.record.end)))

    def set_radix(self, index: int, radix: str) -> None:
        row = self.rows[index]
        self.set_rows([*self.rows[:index], replace(row, radix=radix), *self.rows[index + 1 :]])

    def remove(self, index: int) -> None:
        """Take a row off the list, with what lies inside of it."""
        self.set_rows(self.rows[:index] + self.rows[block_end(self.rows, index) :])

    def next_change(self, direction: int) -> None:
        """Move the moment to the next or previous change of the chosen row, or of any row when none is chosen."""
        record = self.session.record
        if record is None or not self.rows:
            return
        moment = float(self.session.selection.moment)
        rows = [self.rows[self.chosen]] if 0 <= self.chosen < len(self.rows) else self.rows
        best: float | None = None
        for row in rows:
            times = self.shape(row).times if row.measured else shape_of(record, row, 0, record.end).times
            k = int(np.searchsorted(times, moment, side="right" if direction > 0 else "left")) - (0 if direction > 0 else 1)
            if 0 <= k < len(times) and times[k] != moment:
                best = times[k] if best is None else (min if direction > 0 else max)(best, times[k])
        if best is not None:
            self.session.select(moment=int(best))
            self.session.reveal(int(best), int(best))

    def zoom(self, notches: float) -> None:
        low, high = self.session.window
        moment = float(self.session.selection.moment)
        zoom_about(self.session, moment if low <= moment <= high else (low + high) / 2, notches)

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        acts: dict[int, Callable[[], object]] = {
            Qt.Key.Key_Right: lambda: self.next_change(1), Qt.Key.Key_Left: lambda: self.next_change(-1),
            Qt.Key.Key_Plus: lambda: self.zoom(120), Qt.Key.Key_Minus: lambda: self.zoom(-120), Qt.Key.Key_0: self.whole_run,
            Qt.Key.Key_PageDown: lambda: self.pan(0.5), Qt.Key.Key_PageUp: lambda: self.pan(-0.5),
            Qt.Key.Key_M: lambda: self.set_mark(self.session.selection.moment),
            Qt.Key.Key_Down: lambda: self._choose(self.chosen + 1), Qt.Key.Key_Up: lambda: self._choose(self.chosen - 1),
        }  # fmt: skip
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.chosen >= 0:
            self.remove(self.chosen)
        elif key == Qt.Key.Key_R and self.chosen >= 0 and self.session.record is not None:
            row = self.rows[self.chosen]
            now = row.radix or default_radix(row.info(self.session.record))
            self.set_radix(self.chosen, RADICES[(RADICES.index(now) + 1) % len(RADICES)] if now in RADICES else "hex")
        elif key == Qt.Key.Key_Return and self.chosen >= 0 and self.session.record is not None:
            self.set_rows(toggled(self.rows, self.chosen, self.session.record))
        elif key in acts:
            acts[key]()
        else:
            super().keyPressEvent(event)

    def _choose(self, index: int) -> None:
        if 0 <= index < len(self.rows):
            self.chosen = index
            self.session.select(signal=self.rows[index].path)
            self.update()
