"""The Ledger desk: every difference between two accounts, one a row."""

from __future__ import annotations

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import QAbstractItemView, QComboBox, QHeaderView, QLabel, QTableView, QVBoxLayout

from mevrik.compare.ledger import Entry, Ledger
from mevrik.design.time import show_time
from mevrik.desktop import theme
from mevrik.desktop.desks.desk import Desk, word_button
from mevrik.desktop.session import Session

_HEADS = ("from, to", "row", "signal", "one says", "the other", "what")
Index = QModelIndex | QPersistentModelIndex


class LedgerModel(QAbstractTableModel):
    """Entries of the ledgers of one subject."""

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[tuple[Entry, Ledger]] = []
        self.tick = -9
        self.pair: tuple[str, str] | None = None  # the accounts, when all entries are of the same two

    def fill(self, entries: list[tuple[Entry, Ledger]], tick: int) -> None:
        self.beginResetModel()
        self.entries, self.tick = entries, tick
        pairs = {(ledger.left, ledger.right) for _, ledger in entries}
        self.pair = pairs.pop() if len(pairs) == 1 else None
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.entries)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return len(_HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.pair[section - 3] if self.pair and section in (3, 4) else _HEADS[section]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        entry, ledger = self.entries[index.row()]
        column = index.column()
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            left, right = (
                (entry.left, entry.right) if self.pair else (f"{ledger.left} {entry.left}", f"{ledger.right} {entry.right}")
            )
            return (self._when(entry), str(entry.row + 1) if entry.row >= 0 else "", entry.signal, left, right, self._what(entry))[
                column
            ]
        if role == Qt.ItemDataRole.FontRole:
            return theme.font(code=column in (3, 4), bold=column == 4)
        if role == Qt.ItemDataRole.ForegroundRole and column in (4, 5):
            return theme.colour("differ" if entry.kind == "differs" else "unknown")
        if role == Qt.ItemDataRole.ToolTipRole:
            return entry.path
        return None

    def _when(self, entry: Entry) -> str:
        if entry.start == entry.end:
            return show_time(entry.start, self.tick)
        return f"{show_time(entry.start, self.tick)} to {show_time(entry.end, self.tick)}"

    @staticmethod
    def _what(entry: Entry) -> str:
        word = "differs" if entry.kind == "differs" else "not comparable"
        return word if entry.points == 1 else f"{word}, {entry.points} samples"


class LedgerDesk(Desk):
    name = "Ledger"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.model = LedgerModel()
        self.view = QTableView()
        self.view.setModel(self.model)
        self.setFocusProxy(self.view)
        self.view.setAccessibleName("Differences")
        self.view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.view.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.view.setShowGrid(False)
        self.view.verticalHeader().hide()
        self.view.verticalHeader().setDefaultSectionSize(theme.ROW)
        head = self.view.horizontalHeader()
        head.setHighlightSections(False)
        head.setStretchLastSection(True)
        head.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        self.notes = QLabel()
        self.notes.setWordWrap(True)
        self.notes.setContentsMargins(10, 6, 10, 8)
        theme.tint(self.notes, "faint")
        layout = QVBoxLayout(self.body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.view, 1)
        layout.addWidget(self.notes)
        self.only = QComboBox()
        self.only.setAccessibleName("Show only one signal")
        self.only.currentIndexChanged.connect(self._fill)
        self.bar.addWidget(self.only)
        self.bar.addWidget(word_button("Previous", lambda: session.step_entry(-1), "The difference before (Shift+F8)"))
        self.bar.addWidget(word_button("Next", lambda: session.step_entry(1), "The next difference (F8)"))
        self.view.selectionModel().currentRowChanged.connect(self._picked)
        self.view.clicked.connect(self._picked)
        session.selection_changed.connect(self._mark)
        self.refresh()

    def refresh(self) -> None:
        found = self.session.current
        if found is None or not any(x.checked for x in found.ledgers):
            self._nothing()
            return
        self.show_body()
        signals = sorted({name for x in found.ledgers for name in x.by_signal})
        self.only.blockSignals(True)
        kept = self.only.currentData()
        self.only.clear()
        self.only.addItem("All signals", "")
        for name in signals:
            self.only.addItem(name, name)
        self.only.setCurrentIndex(max(self.only.findData(kept), 0))
        self.only.blockSignals(False)
        self._fill()

    def _nothing(self) -> None:
        found = self.session.current
        subject = self.session.subject
        if subject is None:
            self.show_empty("Nothing to compare", "The ledger lists where two accounts of a design differ.")
        elif found is None:
            self.show_empty("Being examined", "The ledger fills when the run is over.")
        elif found.failed:
            self.show_empty(
                "Not examined",
                "Something is in the way; the inspector says what.",
                "Open Sources",
                lambda: self.session.show_desk.emit("Sources"),
            )
        else:
            text = f"Nothing was said yet about what {subject.module} should do, and nothing was measured."
            self.show_empty("Nothing compared", text, "Open Tables", lambda: self.session.show_desk.emit("Tables"))

    def _fill(self) -> None:
        found = self.session.current
        if found is None:
            return
        only = self.only.currentData() or ""
        entries = [(e, x) for x in found.ledgers for e in x.entries if not only or e.signal == only]
        entries.sort(key=lambda item: item[0].start)
        self.model.fill(entries, self.session.tick_exp)
        for column, width in enumerate((170, 44, 140, 120, 120)):
            self.view.setColumnWidth(column, width)
        self.facts.setText("   ".join(f"{x.left} and {x.right}: {x.summary()}" for x in found.ledgers if x.checked))
        said = [n for x in found.ledgers for n in x.notes]
        if not entries:
            said.insert(0, "There is no difference." if not only else f"'{only}' has no difference.")
        self.notes.setText("   ·   ".join(said))
        self.notes.setVisible(bool(said))
        self._mark()

    def _picked(self, index: QModelIndex, *_: object) -> None:
        if 0 <= index.row() < len(self.model.entries):
            entry, ledger = self.model.entries[index.row()]
            if self.session.selection.entry != entry:
                self.session.select_entry(entry, ledger)

    def _mark(self) -> None:
        """Show the selected difference, also when it was selected elsewhere."""
        entry = self.session.selection.entry
        row = next((k for k, (e, _) in enumerate(self.model.entries) if e == entry), -1) if entry else -1
        if row < 0:
            self.view.clearSelection()
        elif self.view.currentIndex().row() != row or not self.view.selectionModel().hasSelection():
            self.view.selectRow(row)
            self.view.scrollTo(self.model.index(row, 0))
