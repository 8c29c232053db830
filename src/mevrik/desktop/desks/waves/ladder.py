"""The delta ladder below the waves: one moment opened into its deltas. Two rails with a rung for each delta; beside a rung what changed
in it, the statement that did it, and strokes to what follows from it. The chosen change opens into the processes that it wakes."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QLineF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QScrollArea, QWidget

from mevrik.design.time import show_time
from mevrik.desktop import theme
from mevrik.desktop.faults import guarded
from mevrik.desktop.session import Session
from mevrik.explain.ladder import Rung, ladder
from mevrik.waves.record import SiteInfo, Watch

_RAILS, _NAME, _VALUE, _STATEMENT = 58, 96, 300, 470
HEAD = 24


class _Canvas(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rungs: list[Rung] = []
        self.common = ""  # what all paths begin with
        self.moment = -1
        self.chosen = -1  # a rung
        self.woken = -1  # one of the processes that it wakes, if that is chosen
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Delta ladder")

    def sizeHint(self) -> QSize:
        return QSize(600, HEAD + max(len(self.rows()), 1) * theme.ROW + theme.UNIT)

    def rows(self) -> list[tuple[int, int]]:
        """What stands below each other: a rung (with -1), below the chosen one the processes that it wakes."""
        found: list[tuple[int, int]] = []
        for k, rung in enumerate(self.rungs):
            found.append((k, -1))
            if k == self.chosen:
                found += [(k, j) for j in range(len(rung.wakes))]
        return found

    def top(self, rung: int) -> float:
        opened = len(self.rungs[self.chosen].wakes) if 0 <= self.chosen < rung else 0
        return HEAD + (rung + opened) * theme.ROW

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.colour("sheet"))
        p.setFont(theme.font(theme.SMALL))
        p.setPen(theme.colour("faint"))
        for x, word in ((8, "delta"), (_NAME, "changed"), (_VALUE, "from, to"), (_STATEMENT, "written by")):
            p.drawText(QRectF(x, 0, 300, HEAD), Qt.AlignmentFlag.AlignVCenter, word)
        if not self.rungs:
            p.setPen(theme.colour("ink"))
            p.drawText(QRectF(_NAME, HEAD, 600, theme.ROW), Qt.AlignmentFlag.AlignVCenter, "Nothing changed in this moment")
            return
        bottom = HEAD + len(self.rows()) * theme.ROW
        p.setPen(QPen(theme.colour("ink"), 1.5))
        for x in (_RAILS - 38, _RAILS + 6):
            p.drawLine(QLineF(x, HEAD - 2, x, bottom + 2))
        last = -1
        for k, rung in enumerate(self.rungs):
            top = self.top(k)
            if k == self.chosen:
                p.fillRect(QRectF(_RAILS + 8, top + (self.woken + 1) * theme.ROW, self.width(), theme.ROW), theme.colour("chosen"))
            if rung.delta != last:
                last = rung.delta
                p.setPen(QPen(theme.colour("ink"), 1.5))
                p.drawLine(QLineF(_RAILS - 38, top + 1, _RAILS + 6, top + 1))
                p.setFont(theme.font(theme.SMALL, code=True))
                p.drawText(QRectF(_RAILS - 34, top + 1, 38, theme.ROW), Qt.AlignmentFlag.AlignCenter, str(rung.delta))
            p.setFont(theme.font(theme.BODY, code=True))
            p.setPen(theme.colour("ink"))
            name = theme.elide_middle(rung.path.removeprefix(self.common), 26)
            p.drawText(QRectF(_NAME, top, _VALUE - _NAME, theme.ROW), Qt.AlignmentFlag.AlignVCenter, name)
            values = f"{theme.elide_middle(rung.before, 9)} → {theme.elide_middle(rung.after, 9)}"
            p.drawText(QRectF(_VALUE, top, _STATEMENT - _VALUE, theme.ROW), Qt.AlignmentFlag.AlignVCenter, values)
            if rung.site is not None:
                self._place(p, _STATEMENT, top, rung.site)
            if k == self.chosen:
                self._wakes(p, top + theme.ROW, rung.wakes)
        self._strokes(p)

    def _place(self, p: QPainter, x: float, top: float, what: SiteInfo | Watch) -> None:
        """Where something stands, and its text."""
        p.setPen(theme.colour("faint"))
        p.setFont(theme.font(theme.SMALL))
        place = f"{theme.elide_middle(Path(what.file).name, 15)}, line {what.line}"
        p.drawText(QRectF(x, top, 150, theme.ROW), Qt.AlignmentFlag.AlignVCenter, place)
        p.setPen(theme.colour("ink"))
        p.setFont(theme.font(theme.SMALL, code=True))
        room = max(int((self.width() - x - 160) / 7), 8)
        text = theme.elide_middle(what.text, room)
        p.drawText(QRectF(x + 150, top, self.width(), theme.ROW), Qt.AlignmentFlag.AlignVCenter, text)

    def _wakes(self, p: QPainter, top: float, wakes: tuple[Watch, ...]) -> None:
        for j, watch in enumerate(wakes):
            if j == 0:
                p.setPen(theme.colour("faint"))
                p.setFont(theme.font(theme.SMALL))
                p.drawText(QRectF(_NAME + 16, top, 50, theme.ROW), Qt.AlignmentFlag.AlignVCenter, "wakes")
            self._place(p, _NAME + 62, top + j * theme.ROW, watch)

    def _strokes(self, p: QPainter) -> None:
        """From a change to what it woke; those of the chosen rung heavy."""
        for k, rung in enumerate(self.rungs):
            for other in rung.woke:
                chosen = self.chosen in (k, other)
                p.setPen(QPen(theme.colour("accent" if chosen else "faint"), 2 if chosen else 1))
                x = _NAME - 8 - (k % 4) * 5
                a, b = self.top(k) + theme.ROW / 2, self.top(other) + theme.ROW / 2
                p.drawLine(QLineF(_NAME - 4, a, x, a))
                p.drawLine(QLineF(x, a, x, b))
                p.drawLine(QLineF(x, b, _NAME - 4, b))

    @guarded
    def mousePressEvent(self, event: QMouseEvent) -> None:
        rows = self.rows()
        row = int((event.position().y() - HEAD) // theme.ROW)
        if 0 <= row < len(rows):
            self.choose(*rows[row])

    @guarded
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.chosen_place() is not None:
            self.session.show_desk.emit("Sources")

    @guarded
    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
        if step and self.rungs:
            rows = self.rows()
            here = rows.index((self.chosen, self.woken)) if self.chosen >= 0 else -1
            self.choose(*rows[min(max(here + step, 0), len(rows) - 1)])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen >= 0:
            self.session.show_desk.emit("Sources")
        else:
            super().keyPressEvent(event)

    def chosen_place(self) -> SiteInfo | Watch | None:
        """The statement that made the chosen change, or the chosen process that it wakes."""
        if not 0 <= self.chosen < len(self.rungs):
            return None
        rung = self.rungs[self.chosen]
        return rung.wakes[self.woken] if self.woken >= 0 else rung.site

    def choose(self, index: int, woken: int = -1) -> None:
        """A rung, or a process that it wakes: its signal, and that statement, become the selection."""
        if not 0 <= index < len(self.rungs):
            return
        self.chosen, self.woken = index, woken
        changes: dict[str, object] = {"signal": self.rungs[index].path}
        place = self.chosen_place()
        if place is not None:
            changes |= {"file": place.file, "line": place.line}
        self.session.select(**changes)
        self.fit()
        self.update()

    def fit(self) -> None:
        self.updateGeometry()
        self.setMinimumHeight(self.sizeHint().height())


class DeltaLadder(QScrollArea):
    """Follows the moment while it is open."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.canvas = _Canvas(session)
        self.setWidget(self.canvas)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setMinimumHeight(HEAD + 6 * theme.ROW)
        session.selection_changed.connect(self.follow)
        self.setVisible(False)

    @property
    def rungs(self) -> list[Rung]:
        return self.canvas.rungs

    def follow(self) -> None:
        """Show the moment that is selected, if it is another one."""
        record = self.session.record
        parent = self.parentWidget()
        if record is None or (parent is not None and not self.isVisibleTo(parent)):
            return
        moment = self.session.selection.moment
        if moment == self.canvas.moment and self.canvas.rungs:
            return
        self.canvas.moment = moment
        self.canvas.rungs = rungs = ladder(record, moment)
        self.canvas.common = _common([r.path for r in rungs])
        self.canvas.chosen = self.canvas.woken = -1
        self.canvas.setToolTip(f"What happened at {show_time(moment, record.tick_exp)}, delta by delta")
        self.canvas.fit()
        self.canvas.update()


def _common(paths: list[str]) -> str:
    """The instances that all paths go through, with the last dot."""
    found: list[str] = []
    for steps in zip(*(p.split(".")[:-1] for p in paths)):
        if len(set(steps)) > 1:
            break
        found.append(steps[0])
    return ".".join(found) + "." if found else ""
