"""The forms that carry meaning: two strokes that meet, are offset, leave a gap, or are frayed."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap

from mevrik.desktop import theme

WORDS = {
    "agree": "agree", "differ": "differ", "unknown": "can't all be compared", "empty": "nothing compared", "failed": "can't be examined",
    "busy": "being examined",
}  # fmt: skip


def colour_of(state: str) -> str:
    """The role of the colour that repeats what a form says."""
    return {"agree": "agree", "differ": "differ", "unknown": "unknown", "failed": "differ"}.get(state, "faint")


def draw_strokes(painter: QPainter, rect: QRectF, state: str, weight: float = 2.5) -> None:
    """One joint: the strokes of the two accounts, left and right, and how they come together in the middle."""
    pen = QPen(theme.colour(colour_of(state)), weight)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(pen)
    y, left, right, middle = rect.center().y(), rect.left(), rect.right(), rect.center().x()
    step = min(rect.height() / 3, 5.0)
    if state == "agree":
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        painter.drawLine(QPointF(middle, y - step), QPointF(middle, y + step))
    elif state == "differ":
        painter.drawLine(QPointF(left, y - step), QPointF(middle + step, y - step))
        painter.drawLine(QPointF(middle - step, y + step), QPointF(right, y + step))
    elif state == "unknown":
        painter.drawLine(QPointF(left, y), QPointF(middle - 2 * step, y))
        painter.drawLine(QPointF(middle + 2 * step, y), QPointF(right, y))
        pen.setWidthF(1.2)
        painter.setPen(pen)
        for k in (-1, 0, 1):
            painter.drawLine(QPointF(middle - 2 * step, y), QPointF(middle - 1, y + k * step))
            painter.drawLine(QPointF(middle + 2 * step, y), QPointF(middle + 1, y + k * step))
    elif state == "failed":
        painter.drawLine(QPointF(left, y), QPointF(middle - step, y))
        painter.drawLine(QPointF(middle - step, y - step), QPointF(middle - step, y + step))
    else:
        if state == "busy":
            pen.setStyle(Qt.PenStyle.DotLine)
            painter.setPen(pen)
        painter.drawLine(QPointF(left, y), QPointF(middle - 2 * step, y))
        painter.drawLine(QPointF(middle + 2 * step, y), QPointF(right, y))
    painter.restore()


def strokes_picture(state: str) -> QPixmap:
    """The strokes, small, for use beside a text."""
    picture = QPixmap(20, 10)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    draw_strokes(painter, QRectF(1, 0, 18, 10), state, 1.8)
    painter.end()
    return picture
