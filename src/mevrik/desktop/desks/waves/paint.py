"""Drawing signals. A state can be read without colour: 1 is a heavy upper stroke over a light fill, 0 a fine lower stroke, an
unknown a band with diagonal hatching, one that was never given a value a band with cross hatching, high impedance a dotted middle
line, weak values the same in half weight, don't-care a band of dots."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QBrush, QFontMetricsF, QPainter, QPen

from mevrik.desktop import theme
from mevrik.desktop.desks.waves.rows import Row, Shape
from mevrik.waves.record import SignalInfo

PAD = 4.0
_CROWDED = 3.0  # stretches narrower than this many pixels are drawn as a band of activity


class Painter:
    """Draws shapes into rows; `x_of` turns ticks into pixels."""

    def __init__(self, painter: QPainter, low: float, high: float, width: float) -> None:
        self.p = painter
        self.low = low
        self.scale = width / max(high - low, 1e-9)
        self.width = width
        self.metrics = QFontMetricsF(theme.font(theme.SMALL, code=True))
        self.heavy = QPen(theme.colour("ink"), 2)
        self.heavy.setCapStyle(Qt.PenCapStyle.FlatCap)
        self.fine = QPen(theme.colour("ink"), 1)
        self.faint = QPen(theme.colour("faint"), 1)
        self.hatch = QBrush(theme.colour("unknown"), Qt.BrushStyle.BDiagPattern)
        self.cross = QBrush(theme.colour("unknown"), Qt.BrushStyle.DiagCrossPattern)
        self.dots = QBrush(theme.colour("faint"), Qt.BrushStyle.Dense6Pattern)

    def x(self, time: float) -> float:
        return (time - self.low) * self.scale

    def draw(self, shape: Shape, row: Row, info: SignalInfo, top: float, height: float, end: float) -> None:
        if not len(shape.times):
            return
        if info.kind == "event":
            self._events(shape, top, height)
            return
        end = min(end, shape.last)
        left = np.maximum((shape.times - self.low) * self.scale, -20.0)
        right = np.append(left[1:], min(self.x(end), self.width + 20.0))
        visible = (right > -1.0) & (left < self.width + 1.0) & (right > left)
        wide = right - left >= _CROWDED
        self._crowd(left, right, visible & ~wide, top, height)
        draw = np.flatnonzero(visible & wide)
        if shape.codes is not None:
            self._bits(shape.codes, left, right, draw, top, height)
        else:
            self._bus(shape, row, info, left, right, draw, top, height)

    def _crowd(self, left: np.ndarray, right: np.ndarray, which: np.ndarray, top: float, height: float) -> None:
        """Changes too close to be told apart: one band over all columns they touch."""
        index = np.flatnonzero(which)
        if not len(index):
            return
        a, b = left[index], np.maximum(right[index], left[index] + 1.0)
        split = np.flatnonzero(np.append(True, a[1:] > b[:-1] + 1.0))
        stop = np.append(split[1:] - 1, len(index) - 1)
        for k, m in zip(split.tolist(), stop.tolist()):
            if b[m] - a[k] <= _CROWDED:  # one narrow pulse
                self.p.setPen(self.heavy)
                self.p.drawLine(QLineF(a[k] + 1, top + PAD, a[k] + 1, top + height - PAD))
                continue
            self.p.setPen(Qt.PenStyle.NoPen)
            self.p.setBrush(QBrush(theme.colour("faint"), Qt.BrushStyle.Dense5Pattern))
            self.p.drawRect(QRectF(max(a[k], -1), top + PAD, min(b[m], self.width + 1) - max(a[k], -1), height - 2 * PAD))

    def _bits(self, codes: np.ndarray, left: np.ndarray, right: np.ndarray, draw: np.ndarray, top: float, height: float) -> None:
        high, low, middle = top + PAD + 1, top + height - PAD, top + height / 2
        levels = {0: low, 1: high, 2: middle, 3: middle, 4: middle, 5: middle, 6: low, 7: high, 8: middle}
        heavy: list[QLineF] = []
        fine: list[QLineF] = []
        edges: list[QLineF] = []
        p = self.p
        previous = -1
        for k in draw.tolist():
            a, b, code = float(left[k]), float(right[k]), int(codes[k])
            if code == 1:
                p.fillRect(QRectF(a, high, b - a, low - high), theme.colour("fill"))
                heavy.append(QLineF(a, high, b, high))
            elif code == 0:
                fine.append(QLineF(a, low, b, low))
            elif code in (3, 5):
                self._band(a, b, high, low, self.hatch, theme.colour("unknown" if code == 3 else "faint"))
            elif code == 4:
                self._band(a, b, high, low, self.cross, theme.colour("unknown"))
            elif code == 8:
                self._band(a, b, high, low, self.dots, theme.colour("faint"))
            elif code in (6, 7):  # weak: the same strokes in half weight, broken
                p.setPen(QPen(theme.colour("ink"), 1.2 if code == 7 else 0.8, Qt.PenStyle.DashLine))
                p.drawLine(QLineF(a, levels[code], b, levels[code]))
            else:
                pen = QPen(theme.colour("ink"), 1.5, Qt.PenStyle.DotLine)
                p.setPen(pen)
                p.drawLine(QLineF(a, middle, b, middle))
            if previous == k - 1 and k > 0 and a > -5:
                before = int(codes[k - 1])
                if {levels[before], levels[code]} == {low, high}:
                    edges.append(QLineF(a, high, a, low))
                elif 2 in (before, code) and not {3, 4, 5, 8} & {before, code}:
                    edges.append(QLineF(a, levels[before], a, levels[code]))
            previous = k
        p.setPen(self.fine)
        p.drawLines(fine)
        p.drawLines(edges)
        p.setPen(self.heavy)
        p.drawLines(heavy)

    def _band(self, a: float, b: float, high: float, low: float, brush: QBrush, colour: object) -> None:
        self.p.fillRect(QRectF(a, high, b - a, low - high), brush)
        self.p.setPen(QPen(colour, 1))  # type: ignore[call-overload]
        self.p.drawLine(QLineF(a, high, b, high))
        self.p.drawLine(QLineF(a, low, b, low))

    def _bus(
        self,
        shape: Shape,
        row: Row,
        info: SignalInfo,
        left: np.ndarray,
        right: np.ndarray,
        draw: np.ndarray,
        top: float,
        height: float,
    ) -> None:
        high, low = top + PAD, top + height - PAD + 0.5
        p = self.p
        p.setFont(theme.font(theme.SMALL, code=True))
        for k in draw.tolist():
            a, b = float(left[k]), float(right[k])
            state = "" if info.kind == "real" else shape.unknown(k, info.width)
            if state == "z":
                p.setPen(QPen(theme.colour("ink"), 1.5, Qt.PenStyle.DotLine))
                p.drawLine(QLineF(a, (high + low) / 2, b, (high + low) / 2))
                continue
            if state:
                brush = {"u": self.cross, "-": self.dots}.get(state, self.hatch)
                self._band(a, b, high, low, brush, theme.colour("faint" if state == "-" else "unknown"))
            else:
                p.setPen(self.faint)
                p.drawLine(QLineF(a, high, b, high))
                p.drawLine(QLineF(a, low, b, low))
            p.setPen(self.fine)
            p.drawLine(QLineF(a, high, a, low))
            start, stop = max(a, 0.0) + 4, min(b, self.width) - 3
            room = int((stop - start) / self.metrics.averageCharWidth())
            if room < 1:
                continue
            text = theme.elide_middle(shape.text(k, row, info), room)
            if state:
                width = self.metrics.horizontalAdvance(text) + 4
                p.fillRect(QRectF(start - 2, high + 2, width, low - high - 3), theme.colour("sheet"))
            p.setPen(theme.colour("ink"))
            p.drawText(QRectF(start, top, stop - start, height), Qt.AlignmentFlag.AlignVCenter, text)

    def _events(self, shape: Shape, top: float, height: float) -> None:
        """A named event has no value: an upright mark for each time it was triggered."""
        self.p.setPen(self.heavy)
        for time in shape.times.tolist():
            x = self.x(time)
            if -2 < x < self.width + 2:
                self.p.drawLine(QLineF(x, top + PAD, x, top + height - PAD))


def nice_step(span: float, pixels: float, least: float = 90.0) -> float:
    """A round distance between marks of the time axis: 1, 2 or 5 times a power of ten, at least `least` pixels wide."""
    raw = span / max(pixels / least, 1.0)
    power = 10.0 ** np.floor(np.log10(max(raw, 1e-12)))
    for factor in (1.0, 2.0, 5.0, 10.0):
        if raw <= factor * power:
            return float(factor * power)
    return float(10.0 * power)
