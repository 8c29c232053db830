"""The Sources desk: the instances and files of a subject, the text, and what is said about it while it is written."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QLabel,
    QSplitter,
    QStackedWidget,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
)

from mevrik.desktop import theme
from mevrik.desktop.desks.desk import Desk, word_button
from mevrik.desktop.desks.elsewhere import LEAVE, WRITE, ask
from mevrik.desktop.desks.sources.editor import SourceEditor
from mevrik.desktop.desks.sources.said import SaidPanel
from mevrik.desktop.session import Session
from mevrik.engine.job import Channel, Job
from mevrik.lang.analysis import Options, analyse
from mevrik.lang.diagnostics import Diagnostic
from mevrik.lang.source import SourceError, read_text
from mevrik.project.project import Subject

_PAUSE_MS = 180  # after the last key before the text is read
FILE, LINE, PATH = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1, Qt.ItemDataRole.UserRole + 2


def read_along(channel: Channel, files: list[Path], texts: dict[Path, str], tops: list[str], folder: Path) -> None:
    """Analyse files as they are in the editor and send the diagnostics."""
    analysis = analyse(files, Options([folder]), lambda p: texts[p] if p in texts else read_text(p))
    for top in tops:
        if analysis.has(top):
            analysis.elaborate(top)
    channel.send(analysis.diagnostics.sorted())


class SourcesDesk(Desk):
    name = "Sources"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.editors: dict[Path, SourceEditor] = {}
        self._job: Job | None = None
        self.tree = QTreeWidget()
        self.tree.setHeaderHidden(True)
        self.setFocusProxy(self.tree)
        self.tree.setAccessibleName("Instances and files")
        self.tree.setIndentation(14)
        self.tree.itemClicked.connect(self._open_item)
        self.tree.itemActivated.connect(self._open_item)
        self.stack = QStackedWidget()
        self.said = SaidPanel()
        self.said.chosen.connect(self._to_diagnostic)
        self.said.mended.connect(self.mend)
        self.said.happening.connect(lambda d: session.show_happening(d.place.file, d.place.line))
        self.blank = QLabel("Choose a file at the left")
        self.blank.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.stack.addWidget(self.blank)
        right = QSplitter(Qt.Orientation.Vertical)
        right.addWidget(self.stack)
        right.addWidget(self.said)
        right.setStretchFactor(0, 1)
        right.setSizes([460, 130])
        split = QSplitter()
        split.addWidget(self.tree)
        split.addWidget(right)
        split.setStretchFactor(1, 1)
        split.setSizes([190, 600])
        layout = QVBoxLayout(self.body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)
        self.save_button = word_button("Save", self.save, "Save and examine again (Ctrl+S)")
        self.bar.addWidget(word_button("Undo", lambda: self._edit("undo"), "Undo (Ctrl+Z)"))
        self.bar.addWidget(word_button("Redo", lambda: self._edit("redo"), "Redo (Ctrl+Shift+Z)"))
        self.bar.addWidget(self.save_button)
        self.timer = QTimer(self)
        self.timer.setSingleShot(True)
        self.timer.setInterval(_PAUSE_MS)
        self.timer.timeout.connect(self._read)
        session.selection_changed.connect(self._follow)
        session.project_changed.connect(self._forget)
        self.refresh()

    # ---- content ----

    def _forget(self) -> None:
        """Another project: close the files of the old one, whose changes were saved or given up."""
        folder = self.session.project.folder.resolve() if self.session.project else None
        for path, editor in list(self.editors.items()):
            if folder is None or not path.resolve().is_relative_to(folder):
                self.stack.removeWidget(editor)
                editor.deleteLater()
                del self.editors[path]

    def refresh(self) -> None:
        subject = self.session.subject
        if self.session.project is None or subject is None:
            self.show_empty(
                "No sources", "Open a folder with HDL files, or drop one on the window. Files end in .v, .sv, .vhd or .vhdl."
            )
            return
        self.show_body()
        self._fill_tree()
        current = self.current
        if current is None or current.path not in subject.sources:
            found = self.session.current
            record = self.session.record
            scope = next((s for s in record.scopes.values() if s.path == found.scope), None) if record and found else None
            first = (
                Path(scope.file)
                if scope is not None and Path(scope.file).is_file()
                else subject.sources[0]
                if subject.sources
                else None
            )
            if first is not None:
                self.open(first)
        self._show_said()

    def _fill_tree(self) -> None:
        subject, record = self.session.subject, self.session.record
        assert subject is not None
        self.tree.clear()
        if record is not None and self.session.current is not None:
            items: dict[int, QTreeWidgetItem] = {}
            for scope in record.scopes.values():
                above = record.scopes.get(scope.parent)
                text = scope.path.removeprefix(f"{above.path}.") if above is not None else scope.path
                item = QTreeWidgetItem([f"{text}  {scope.module}" if text != scope.module else text])
                item.setData(0, FILE, scope.file)
                item.setData(0, LINE, scope.line)
                item.setToolTip(0, f"{scope.path}, an instance of {scope.module}")
                parent = items.get(scope.parent)
                parent.addChild(item) if parent is not None else self.tree.addTopLevelItem(item)
                items[scope.number] = item
        head = QTreeWidgetItem(["Files"])
        head.setForeground(0, theme.colour("faint"))
        head.setFlags(Qt.ItemFlag.ItemIsEnabled)
        self.tree.addTopLevelItem(head)
        for path in subject.sources:
            item = QTreeWidgetItem([path.name + ("  •" if path in self.editors and self.editors[path].unsaved else "")])
            item.setData(0, FILE, str(path))
            item.setData(0, LINE, 0)
            head.addChild(item)
        self.tree.expandAll()

    @property
    def current(self) -> SourceEditor | None:
        widget = self.stack.currentWidget()
        return widget if isinstance(widget, SourceEditor) else None

    @property
    def unsaved(self) -> bool:
        return any(e.unsaved for e in self.editors.values())

    def open(self, path: Path, line: int = 0) -> None:
        """Show a file, and a line of it."""
        editor = self.editors.get(path)
        if editor is None:
            try:
                editor = SourceEditor(path)
            except SourceError as error:
                self.session.said.emit(str(error))
                return
            editor.textChanged.connect(self.timer.start)
            editor.document().modificationChanged.connect(self._changed)
            self.editors[path] = editor
            self.stack.addWidget(editor)
        self.stack.setCurrentWidget(editor)
        self.setFocusProxy(editor)
        if line:
            editor.go_to(line)
        self._changed()
        self._show_said()

    def _changed(self, *_: object) -> None:
        editor = self.current
        self.edited.emit()
        self.save_button.setEnabled(self.unsaved)
        if editor is not None:
            self.facts.setText(f"{editor.path.name}{', not saved' if editor.unsaved else ''}")

    def _open_item(self, item: QTreeWidgetItem, *_: object) -> None:
        file = item.data(0, FILE)
        if not file:
            return
        if Path(file).is_file():
            self.open(Path(file), int(item.data(0, LINE) or 0))
        else:
            self.session.said.emit(f"{file} was made from the drive plan; see the Stimulus desk")

    def _follow(self) -> None:
        s = self.session.selection
        if s.file and s.line and Path(s.file).is_file() and not self.is_empty:
            self.open(Path(s.file), s.line)

    # ---- edit ----

    def _edit(self, act: str) -> None:
        if self.current is not None:
            getattr(self.current, act)()

    def look_again(self) -> None:
        """Texts that other programs changed meanwhile are shown as they are now, but where there are changes here."""
        for editor in self.editors.values():
            if editor.changed_elsewhere and not editor.unsaved:
                try:
                    editor.take()
                except SourceError as error:
                    self.session.said.emit(str(error))

    def save(self) -> None:
        """Save all changed files, then examine the subjects that use them."""
        saved: list[Path] = []
        for path, editor in self.editors.items():
            answer = ask(self, path) if editor.unsaved and editor.changed_elsewhere else WRITE
            if not editor.unsaved or answer == LEAVE:
                continue
            try:
                editor.save() if answer == WRITE else editor.take()
                saved.append(path)
            except OSError as error:
                self.session.said.emit(f"{path} can't be written: {error.strerror}; the text is still here, unsaved")
            except SourceError as error:
                self.session.said.emit(str(error))
        if saved and self.session.project is not None:
            self.session.said.emit(f"Saved {', '.join(p.name for p in saved)}")
            mine = self.session.subject
            for subject in sorted(self.session.project.subjects, key=lambda s: s is not mine):
                if any(p in subject.sources for p in saved):
                    self.session.examine(subject)
        self._changed()

    # ---- diagnostics ----

    def _read(self) -> None:
        """Analyse the text as it stands, in a process of its own."""
        subject, project = self.session.subject, self.session.project
        if subject is None or project is None:
            return
        if self._job is not None and not self._job.ended:
            self._job.kill()
        texts = {p: e.toPlainText() for p, e in self.editors.items() if e.unsaved and p in subject.sources}
        if not texts:  # it is as it was examined
            self.session.hear(None)
            self._show_said()
            return
        tops = list(dict.fromkeys(t for t in (subject.testbench, subject.module) if t))
        self._job = Job(read_along, list(subject.sources), texts, tops, project.folder, context="forkserver")
        self.session.watch(self._job, lambda event: self._heard(event, subject))

    def _heard(self, event: object, subject: Subject) -> None:
        if isinstance(event, list) and subject is self.session.subject:  # else it came too late
            self.session.hear(event)
            self._show_said()

    def _show_said(self) -> None:
        found = self.session.diagnostics
        self.said.show_found(found)
        for path, editor in self.editors.items():
            editor.show_diagnostics([d for d in found if Path(d.place.file) == path])

    def _to_diagnostic(self, found: Diagnostic) -> None:
        if Path(found.place.file).is_file():
            self.open(Path(found.place.file), found.place.line)

    def mend(self, found: Diagnostic) -> None:
        """Make the certain change of a diagnostic in its editor; undo takes it back."""
        path = Path(found.place.file)
        if found.mend is None or not path.is_file():
            return
        self.open(path, found.place.line)
        editor = self.editors.get(path)
        if editor is not None and not editor.apply(found.mend):
            self.session.said.emit(f"Line {found.mend.line} has changed since; nothing was done")

    def mend_here(self) -> None:
        """The change for the chosen diagnostic, else for the first of the line where the cursor stands."""
        editor = self.current
        here = editor.diagnostics.get(editor.textCursor().blockNumber() + 1, []) if editor else []
        chosen = self.said.current
        every = [d for d in ([chosen] if chosen else []) + here if d.mend is not None]
        if every:
            self.mend(every[0])
        else:
            self.session.said.emit("No certain change is known for this line")
