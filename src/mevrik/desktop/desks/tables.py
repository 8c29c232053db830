"""The Tables desk: the truth table of a module, to read, to edit, and marked with what the design does."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QUndoCommand, QUndoStack
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QLabel, QTableView, QVBoxLayout

from mevrik.compare.ledger import EXPECTED
from mevrik.design.ports import PortInfo
from mevrik.desktop import theme
from mevrik.desktop.desks.desk import Desk, word_button
from mevrik.desktop.desks.elsewhere import TAKE, WRITE, ask, changed_elsewhere, content
from mevrik.desktop.session import Session
from mevrik.desktop.strokes import strokes_picture
from mevrik.expect.coverage import coverage, input_text
from mevrik.expect.table import Column, TableError, TableText, bind, bind_columns, parse_cell, read_table_text

Index = QModelIndex | QPersistentModelIndex
FRESH_BITS = 10  # a new table lists every input row up to here


class TableModel(QAbstractTableModel):
    """Cells of a table as text, each with its fault if it has one, and the rows that differ."""

    def __init__(self, undo: QUndoStack) -> None:
        super().__init__()
        self.undo = undo
        self.text: TableText | None = None
        self.columns: list[Column | None] = []
        self.differing: dict[int, set[str]] = {}
        self.chosen = -1

    def fill(self, text: TableText | None, ports: list[PortInfo]) -> None:
        self.beginResetModel()
        self.text = text
        self.columns = bind_columns(text, ports)[0] if text else []
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() or self.text is None else len(self.text.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return len(self.text.header) if self.text else 0

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if self.text is None:
            return None
        if orientation == Qt.Orientation.Vertical:
            if role == Qt.ItemDataRole.DisplayRole:
                return str(section + 1)
            if role == Qt.ItemDataRole.DecorationRole:
                return strokes_picture("differ") if section in self.differing else None
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return self.text.header[section]
        column = self.columns[section] if section < len(self.columns) else None
        if role == Qt.ItemDataRole.FontRole:
            return theme.font(theme.SMALL, bold=column is not None and not column.is_input)
        if role == Qt.ItemDataRole.ToolTipRole:
            return "no port of the module" if column is None else f"{column.port.direction} {column.port.label}"
        return None

    def _fault(self, row: int, column: int) -> str:
        assert self.text is not None
        bound = self.columns[column]
        if bound is None:
            return f"there is no port for the column '{self.text.header[column]}'"
        try:
            parse_cell(self.text.rows[row][column], bound.width)
        except ValueError as error:
            return str(error)
        return ""

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        assert self.text is not None
        row, column = index.row(), index.column()
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self.text.rows[row][column]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignCenter
        bound = self.columns[column] if column < len(self.columns) else None
        output = bound is not None and not bound.is_input
        wrong = output and self.text.header[column] in self.differing.get(row, set())
        if role == Qt.ItemDataRole.FontRole:
            return theme.font(code=True, bold=output)
        if role == Qt.ItemDataRole.BackgroundRole:
            if row == self.chosen:
                return theme.colour("chosen")
            return theme.colour("shade") if output else None
        if role == Qt.ItemDataRole.ForegroundRole:
            if wrong or self._fault(row, column):
                return theme.colour("differ")
            return theme.colour("faint") if self.text.rows[row][column] == "-" else None
        if role == Qt.ItemDataRole.ToolTipRole:
            return self._fault(row, column) or ("the design gives another value here" if wrong else None)
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsEditable

    def setData(self, index: Index, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if role != Qt.ItemDataRole.EditRole or self.text is None:
            return False
        text = str(value).strip()
        if text != self.text.rows[index.row()][index.column()]:
            self.undo.push(_SetCell(self, index.row(), index.column(), text))
        return True

    def put(self, row: int, column: int, text: str) -> None:
        assert self.text is not None
        self.text.rows[row][column] = text
        at = self.index(row, column)
        self.dataChanged.emit(at, at)

    def put_rows(self, rows: list[list[str]]) -> None:
        assert self.text is not None
        self.beginResetModel()
        self.text.rows = rows
        self.text.lines = []
        self.endResetModel()

    def mark(self, differing: dict[int, set[str]], chosen: int) -> None:
        if (differing, chosen) != (self.differing, self.chosen):
            self.differing, self.chosen = differing, chosen
            if self.rowCount():
                self.dataChanged.emit(self.index(0, 0), self.index(self.rowCount() - 1, self.columnCount() - 1))
                self.headerDataChanged.emit(Qt.Orientation.Vertical, 0, self.rowCount() - 1)


class _SetCell(QUndoCommand):
    def __init__(self, model: TableModel, row: int, column: int, text: str) -> None:
        super().__init__(f"set a cell of row {row + 1}")
        assert model.text is not None
        self.model, self.at, self.new, self.old = model, (row, column), text, model.text.rows[row][column]

    def redo(self) -> None:
        self.model.put(*self.at, self.new)

    def undo(self) -> None:
        self.model.put(*self.at, self.old)


class _SetRows(QUndoCommand):
    def __init__(self, model: TableModel, rows: list[list[str]], words: str) -> None:
        super().__init__(words)
        assert model.text is not None
        self.model, self.new, self.old = model, rows, [list(r) for r in model.text.rows]

    def redo(self) -> None:
        self.model.put_rows([list(r) for r in self.new])

    def undo(self) -> None:
        self.model.put_rows([list(r) for r in self.old])


class TablesDesk(Desk):
    name = "Tables"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.undo = QUndoStack(self)  # of the table that is shown
        self._opened: dict[Path, tuple[TableText, QUndoStack]] = {}  # with changes that were not saved yet, also those not shown
        self._known: dict[Path, bytes | None] = {}  # what the files held when they were read or written last
        self.model = TableModel(self.undo)
        self.view = QTableView()
        self.view.setModel(self.model)
        self.setFocusProxy(self.view)
        self.view.setAccessibleName("Truth table")
        self.view.setSelectionMode(QAbstractItemView.SelectionMode.ContiguousSelection)
        self.view.verticalHeader().setDefaultSectionSize(theme.ROW)
        self.view.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.view.horizontalHeader().setHighlightSections(False)
        self.verdict = QLabel()
        self.verdict.setWordWrap(True)
        self.verdict.setContentsMargins(10, 6, 10, 8)
        layout = QVBoxLayout(self.body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.view, 1)
        layout.addWidget(self.verdict)
        self.row_buttons = (
            word_button("Add row", self._add_row, "Add a row below"),
            word_button("Remove rows", self._remove_rows, "Remove the selected rows"),
        )
        for button in self.row_buttons:
            self.bar.addWidget(button)
        self.save_button = word_button("Save", self.save, "Save the table and examine again (Ctrl+S)")
        self.bar.addWidget(self.save_button)
        self._folder: Path | None = None
        session.project_changed.connect(self._forget)
        session.selection_changed.connect(self._mark)
        self.view.selectionModel().currentChanged.connect(self._picked)
        self.refresh()

    @property
    def unsaved(self) -> bool:
        return any(not undo.isClean() for _, undo in self._opened.values())

    def _forget(self) -> None:
        """Another project: changes to tables of the one before were saved or given up."""
        folder = self.session.project.folder if self.session.project else None
        if folder != self._folder:
            self._folder = folder
            self._opened.clear()

    def show_empty(self, title: str, text: str, action: str = "", act: Callable[[], object] | None = None) -> None:
        super().show_empty(title, text, action, act)
        self._offer(False)

    def show_body(self) -> None:
        super().show_body()
        self._offer(True)

    def _offer(self, rows: bool) -> None:
        """Rows come and go only where there is a table; what was changed can be saved wherever it is."""
        for button in self.row_buttons:
            button.setVisible(rows)
        self.tools.setVisible(rows or self.unsaved)
        self.save_button.setEnabled(self.unsaved)

    def refresh(self) -> None:
        subject, found = self.session.subject, self.session.current
        if subject is None:
            self.show_empty("No table", "A truth table says what a module should do, row by row.")
            return
        ports = found.ports if found else []
        if subject.table is None:
            self._no_table(subject.module, ports)
            return
        try:
            text, self.undo = self._open(subject.table)
        except TableError as error:
            said = "\n".join(str(p) for p in error.problems[:6])
            self.show_empty("This table can't be read", said, "Read it again", self.refresh)
            return
        self.model.undo = self.undo
        self.model.fill(text, ports)
        self.show_body()
        for column in range(self.model.columnCount()):
            heading = self.model.text.header[column] if self.model.text else ""
            self.view.setColumnWidth(column, max(56, 12 + 8 * len(heading)))
        self._changed()
        self._mark()

    def look_again(self) -> None:
        """A table that another program changed meanwhile is shown as it is now, but where there are changes here."""
        path = self.session.subject.table if self.session.subject is not None else None
        if path is not None and self.undo.isClean() and changed_elsewhere(path, self._known.get(path)):
            self.refresh()

    def _open(self, path: Path) -> tuple[TableText, QUndoStack]:
        """The table as it was left, or as its file has it if nothing was changed. Raises TableError."""
        known = self._opened.get(path)
        if known is not None and not known[1].isClean():
            return known
        text = read_table_text(path)
        self._known[path] = content(path)
        if known is not None:
            undo = known[1]
            undo.clear()
        else:
            undo = QUndoStack(self)
            undo.cleanChanged.connect(self._changed)
            undo.indexChanged.connect(self._changed)
        self._opened[path] = text, undo
        return text, undo

    def _no_table(self, module: str, ports: list[PortInfo]) -> None:
        if any(p.role == "clock" for p in ports):
            text = f"{module} has a clock; a truth table says what a design without one should do."
            self.show_empty("No table", text)
            return
        usable = any(p.direction == "output" for p in ports) and any(p.direction != "output" for p in ports)
        text = f"A truth table says what {module} should do: a CSV file with one column a port, called {module}.csv."
        if usable:
            self.show_empty("No table", text, "Make one with all input rows", self._make)
        else:
            self.show_empty("No table", text)

    def _make(self) -> None:
        """A new table: every input row, the outputs not yet decided."""
        subject, found, project = self.session.subject, self.session.current, self.session.project
        if subject is None or found is None or project is None:
            return
        inputs = [p for p in found.ports if p.direction != "output"]
        outputs = [p for p in found.ports if p.direction == "output"]
        bits = sum(p.width for p in inputs)
        rows: list[list[str]] = []
        for k in range(1 << bits if bits <= FRESH_BITS else 1):
            cells, left = [], bits
            for p in inputs:
                left -= p.width
                cells.append(f"{k >> left & ((1 << p.width) - 1):0{p.width}b}" if bits <= FRESH_BITS else "-")
            rows.append([*cells, *("-" for _ in outputs)])
        path = project.folder / f"{subject.module}.csv"
        if path.exists():
            self.session.said.emit(f"{path.name} is there already; it was not changed")
            return
        try:
            TableText(path, [p.label for p in [*inputs, *outputs]], rows).save()
        except OSError as error:
            self.session.said.emit(f"{path.name} can't be written: {error.strerror}")
            return
        self.session.give(subject, "table", path)

    # ---- edit ----

    def _add_row(self) -> None:
        if self.model.text is None:
            return
        rows = [list(r) for r in self.model.text.rows]
        at = self.view.currentIndex().row() + 1 if self.view.currentIndex().isValid() else len(rows)
        rows.insert(at, ["-"] * len(self.model.text.header))
        self.undo.push(_SetRows(self.model, rows, "add a row"))
        self.view.setCurrentIndex(self.model.index(at, 0))

    def _remove_rows(self) -> None:
        gone = {i.row() for i in self.view.selectionModel().selectedIndexes()}
        if self.model.text is not None and gone:
            rows = [list(r) for k, r in enumerate(self.model.text.rows) if k not in gone]
            self.undo.push(_SetRows(self.model, rows, "remove rows"))

    def save(self) -> None:
        for path, (text, undo) in list(self._opened.items()):
            if undo.isClean():
                continue
            if changed_elsewhere(path, self._known.get(path)):
                answer = ask(self, path)
                if answer == TAKE:
                    undo.clear()
                    self.refresh()
                if answer != WRITE:
                    continue
            try:
                text.save()
                self._known[path] = content(path)
            except OSError as error:
                self.session.said.emit(f"{path} can't be written: {error.strerror}; nothing was changed")
                continue
            undo.setClean()
            self.session.said.emit(f"Saved {path.name}")
            for subject in self.session.project.subjects if self.session.project is not None else ():
                if subject.table == path:
                    self.session.examine(subject)

    # ---- marks and verdict ----

    def _changed(self, *_: object) -> None:
        self.save_button.setEnabled(self.unsaved)
        self.edited.emit()
        self._say()

    def _say(self) -> None:
        text, found = self.model.text, self.session.current
        if text is None or found is None:
            return
        try:
            table = bind(text, found.ports)
        except TableError as error:
            more = f" (and {len(error.problems) - 1} more)" if len(error.problems) > 1 else ""
            self.verdict.setText(f"Line {error.problems[0].line}: {error.problems[0].text}{more}")
            theme.tint(self.verdict, "differ")
            return
        seen = coverage(table)
        parts: list[str] = []
        if seen.missing:
            examples = "; ".join(input_text(table, e) for e in seen.examples[:3])
            parts.append(f"The table leaves out {seen.missing} of {seen.total} input rows, such as {examples}.")
        elif seen.missing == 0:
            parts.append(f"The table is complete: all {seen.total} input rows.")
        for c in seen.contradictions[:3]:
            parts.append(f"Rows {c.other + 1} and {c.row + 1} contradict each other in {', '.join(c.columns)}.")
        self.facts.setText(f"{text.path.name}, {len(text.rows)} rows" + (", not saved" if not self.undo.isClean() else ""))
        self.verdict.setText("  ".join(parts))
        good = not seen.missing and not seen.contradictions
        theme.tint(self.verdict, "agree" if good else "unknown")

    def _mark(self) -> None:
        found = self.session.current
        differing: dict[int, set[str]] = {}
        for ledger in found.ledgers if found else []:
            if ledger.left == EXPECTED:
                for entry in ledger.entries:
                    if entry.row >= 0:
                        differing.setdefault(entry.row, set()).add(entry.signal)
        row = self.session.selection.row
        self.model.mark(differing, row)
        if row >= 0 and row < self.model.rowCount():
            self.view.scrollTo(self.model.index(row, 0), QAbstractItemView.ScrollHint.EnsureVisible)

    def _picked(self, index: QModelIndex, *_: object) -> None:
        """A row that differs selects its difference."""
        found = self.session.current
        if found is None or not self.view.hasFocus() or index.row() not in self.model.differing or self.model.text is None:
            return
        heading = self.model.text.header[index.column()]
        hits = [(e, x) for x in found.ledgers for e in x.entries if e.row == index.row()]
        hits.sort(key=lambda item: item[0].signal != heading)
        if hits and self.session.selection.row != index.row():
            self.session.select_entry(*hits[0])
