"""The Captures desk: what was measured, which channel is which port, and where in the run it lies."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QHeaderView,
    QLabel,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from mevrik.compare.ledger import MEASURED
from mevrik.design.time import show_time
from mevrik.desktop import theme
from mevrik.desktop.desks.desk import Desk, word_button
from mevrik.desktop.session import Session
from mevrik.expect.table import write_atomically
from mevrik.lab.capture import Capture, CaptureError, read_capture

_HEADS = ("channel", "is the port", "edges", "agree", "differ", "not comparable")


class CapturesDesk(Desk):
    name = "Captures"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.where = QLabel()
        self.where.setWordWrap(True)
        self.where.setContentsMargins(10, 4, 10, 8)
        self.table = QTableWidget(0, len(_HEADS))
        self.table.setHorizontalHeaderLabels(list(_HEADS))
        self.setFocusProxy(self.table)
        self.table.setAccessibleName("Channels")
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(26)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        head = self.table.horizontalHeader()
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        head.setStretchLastSection(True)
        head.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        self.table.cellDoubleClicked.connect(self._show_channel)
        layout = QVBoxLayout(self.body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.where)
        layout.addWidget(self.table, 1)
        self.bar.addWidget(word_button("Choose a capture", self.choose, "A CSV file with a time column"))
        self.capture: Capture | None = None
        self.refresh()

    def refresh(self) -> None:
        subject, found = self.session.subject, self.session.current
        if subject is None:
            self.show_empty("No capture", "What was measured on hardware is shown here.")
            return
        if subject.capture is None:
            text = f"A capture of {subject.module} is a CSV file: a time column, such as time_ns, and one column a channel."
            self.show_empty("No capture", text, "Choose a capture", self.choose)
            return
        try:
            self.capture = read_capture(subject.capture)
        except CaptureError as error:
            self.show_empty("This capture can't be read", "\n".join(str(p) for p in error.problems), "Choose another", self.choose)
            return
        self.show_body()
        c = self.capture
        self.facts.setText(f"{subject.capture.name}, {len(c.times):,} samples")
        span = c.times[-1] - c.times[0]
        said = f"{len(c.times):,} samples over {show_time(span / 1e-12, -12, 3)}, one each {show_time(c.period / 1e-12, -12, 3)}."
        if found is not None and found.alignment is not None:
            offset = show_time(found.alignment.offset, self.session.tick_exp, 3)
            said += f"  It agrees best when moved by {offset}: {found.alignment.share * 100:.1f} % of the samples agree there."
        self.where.setText(said)
        self._fill()

    def _fill(self) -> None:
        found, capture = self.session.current, self.capture
        assert capture is not None
        ledger = next((x for x in found.ledgers if x.right == MEASURED), None) if found else None
        ports = [p.name for p in found.ports] if found else []
        self.table.setRowCount(len(capture.values))
        for row, (channel, values) in enumerate(capture.values.items()):
            port = found.matched.get(channel, "") if found else ""
            counts = ledger.by_signal.get(port, [0, 0, 0]) if ledger else [0, 0, 0]
            edges = int((values[1:] != values[:-1]).sum())
            for column, text in (
                (0, channel),
                (2, f"{edges:,}"),
                (3, f"{counts[0]:,}"),
                (4, f"{counts[1]:,}"),
                (5, f"{counts[2]:,}"),
            ):
                item = QTableWidgetItem(text)
                item.setFont(theme.font(code=column == 0, bold=column == 4 and counts[1] > 0))
                if column == 4 and counts[1]:
                    item.setForeground(theme.colour("differ"))
                self.table.setItem(row, column, item)
            box = QComboBox()
            box.setAccessibleName(f"Port of channel {channel}")
            box.addItem("no port", "")
            for name in ports:
                box.addItem(name, name)
            box.setCurrentIndex(max(box.findData(port), 0))
            box.activated.connect(lambda _=0, ch=channel, b=box: self._map(ch, str(b.currentData())))
            self.table.setCellWidget(row, 1, box)
        for column, width in enumerate((140, 160, 70, 80, 80)):
            self.table.setColumnWidth(column, width)

    def _show_channel(self, row: int, column: int) -> None:
        found = self.session.current
        item = self.table.item(row, 0)
        channel = item.text() if item is not None else ""
        if found is not None and channel in found.matched:
            self.session.select(signal=f"{found.scope}.{found.matched[channel]}")
            self.session.show_desk.emit("Waves")

    def _map(self, channel: str, port: str) -> None:
        """Say which port a channel is; kept as a map file beside the capture."""
        subject, found = self.session.subject, self.session.current
        if subject is None or subject.capture is None or self.capture is None or found is None:
            return
        chosen = {**{c: found.matched.get(c, "none") for c in self.capture.values}, channel: port or "none"}
        path = subject.channel_map or subject.capture.with_suffix(".map.csv")
        try:
            write_atomically(path, "channel,port\n" + "".join(f"{c},{p}\n" for c, p in chosen.items()))
        except OSError as error:
            self.session.said.emit(f"{path} can't be written: {error.strerror}")
            return
        if subject.channel_map is None:
            self.session.give(subject, "channel_map", path)
        else:
            self.session.examine(subject)

    def choose(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Choose a capture", str(self.session.project.folder) if self.session.project else "", "CSV (*.csv)"
        )
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Make a file the capture of the current subject."""
        if self.session.subject is None:
            return
        try:
            read_capture(path)
        except CaptureError as error:
            self.session.said.emit(str(error.problems[0]))
            return
        self.session.give(self.session.subject, "capture", path)
