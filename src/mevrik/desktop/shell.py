"""The window: strip above, subjects at the left, one or two desks in the middle, inspector at the right, ribbon below."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QIcon
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from mevrik.desktop import theme
from mevrik.desktop.commands import Command, CommandList, install
from mevrik.desktop.desks.captures import CapturesDesk
from mevrik.desktop.desks.desk import Desk, word_button
from mevrik.desktop.desks.ledger import LedgerDesk
from mevrik.desktop.desks.sources import SourcesDesk
from mevrik.desktop.desks.stimulus import StimulusDesk
from mevrik.desktop.desks.tables import TablesDesk
from mevrik.desktop.desks.waves import WavesDesk
from mevrik.desktop.faults import guarded
from mevrik.desktop.inspector import Inspector
from mevrik.desktop.ribbon import TimeRibbon
from mevrik.desktop.session import Session
from mevrik.desktop.strip import AgreementStrip
from mevrik.desktop.subjects import SubjectList
from mevrik.lab.capture import is_time_heading
from mevrik.project.project import ProjectError

_SAID_MS = 8000
_ROOM_FOR_TWO = 1100  # pixels for two desks side by side


class Shell(QMainWindow):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setWindowTitle("Mevrik")
        self.setWindowIcon(QIcon(str(theme.ASSETS / "mevrik.svg")))
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.desks: dict[str, Desk] = {
            d.name: d
            for d in (
                TablesDesk(session), SourcesDesk(session), StimulusDesk(session), WavesDesk(session), CapturesDesk(session), LedgerDesk(session),
            )
        }  # fmt: skip
        for desk in self.desks.values():  # they go with the window, also those that are never shown
            desk.setParent(self)
            desk.hide()
            desk.edited.connect(self._mark_unsaved)
        self.sides = [QStackedWidget(), QStackedWidget()]
        for side in self.sides:
            side.setMinimumSize(260, 120)
        self._build()
        self.commands = self._commands()
        install(self, self.commands)
        session.project_changed.connect(self._project_changed)
        session.progress_changed.connect(self._progress)
        session.show_desk.connect(self.show_desk)
        session.said.connect(self.say)
        session.selection_changed.connect(self._selected)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(self._progress)
        self._restore()
        waves = self.desks["Waves"]
        assert isinstance(waves, WavesDesk)
        self.show_desk("Waves")
        self._project_changed()
        self._progress()
        waves.view.setFocus()

    # ---- build ----

    def _build(self) -> None:
        start = QPushButton("Mevrik")
        start.setProperty("word", True)
        start.setFont(theme.font(theme.LARGE, bold=True))
        start.setAccessibleName("Project menu")
        start.clicked.connect(lambda: self._menu().exec(start.mapToGlobal(start.rect().bottomLeft())))
        self.strip = AgreementStrip(self.session, start)
        self.strip.desk_chosen.connect(self.show_desk)
        self.subjects = SubjectList(self.session)
        self.inspector = Inspector(self.session)
        self.ribbon = TimeRibbon(self.session)
        self.middle = QSplitter()
        for side in self.sides:
            self.middle.addWidget(side)
        self.middle.setChildrenCollapsible(False)
        self.columns = QSplitter()
        for column in (self.subjects, self.middle, self.inspector):
            self.columns.addWidget(column)
        self.columns.setStretchFactor(1, 1)
        self.columns.setSizes([178, 820, 282])
        foot = QWidget()
        foot.setFixedHeight(22)
        row = QHBoxLayout(foot)
        row.setContentsMargins(10, 0, 6, 0)
        self.status = QLabel()
        self.status.setAccessibleName("Status")
        self.status.setFont(theme.font(theme.SMALL))
        self.cancel_button = word_button("Cancel", self.session.cancel, "End what is under way (Esc)")
        row.addWidget(self.status, 1)
        row.addWidget(self.cancel_button)
        row.addWidget(word_button("Commands  F1", self.show_commands, "Every action by name"))
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        for part in (self.strip, self.columns, self.ribbon, foot):
            layout.addWidget(part, 1 if part is self.columns else 0)
        self.setCentralWidget(whole)

    def _commands(self) -> list[Command]:
        s = self.session
        waves = self.desks["Waves"]
        sources = self.desks["Sources"]
        assert isinstance(waves, WavesDesk) and isinstance(sources, SourcesDesk)
        found = [
            Command("Open a folder", self.open_folder, "Ctrl+O"),
            Command("Open the demo project", self.open_demo),
            Command("Save", self.save, "Ctrl+S"),
            Command("Examine again", s.examine_all, "Ctrl+E"),
            Command("Read the project again", s.reload),
            Command("Cancel what is under way", s.cancel, "Esc"),
            Command("Next difference", lambda: s.step_entry(1), "F8"),
            Command("Previous difference", lambda: s.step_entry(-1), "Shift+F8"),
            Command("Undo in the desk", lambda: self._undo("undo"), "Ctrl+Z"),
            Command("Redo in the desk", lambda: self._undo("redo"), "Ctrl+Shift+Z"),
            Command("Mend this line", sources.mend_here, "Ctrl+M"),
            Command("Whole run", waves.view.whole_run, "Ctrl+0"),
            Command("Put the mark at the moment", lambda: waves.view.set_mark(s.selection.moment)),
            Command("Remove the mark", lambda: waves.view.set_mark(None)),
            Command("Open the moment into its deltas", waves.toggle_ladder, "Ctrl+D"),
            Command("Export the run as VCD", waves.export_vcd),
            Command("One desk only", self.one_desk, "Ctrl+1"),
            Command("Two desks the other way round", self.turn_desks, "Ctrl+2"),
            Command("Light theme", lambda: self.set_theme("light")),
            Command("Dark theme", lambda: self.set_theme("dark")),
            Command("Commands", self.show_commands, "F1"),
            Command("Quit", self.close, "Ctrl+Q"),
        ]
        for number, name in enumerate(self.desks, 1):
            found.append(Command(f"Desk: {name}", lambda n=name: self.show_desk(n), f"Alt+{number}"))
            found.append(Command(f"Beside: {name}", lambda n=name: self.show_beside(n), f"Alt+Shift+{number}"))
        return found

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        by_name = {c.name: c for c in self.commands}

        def add(name: str) -> None:
            command = by_name[name]
            action = menu.addAction(name, lambda: command.act())
            if command.keys:
                action.setText(f"{name}\t{command.keys}")

        add("Open a folder")
        recent = [p for p in self.session.recent() if Path(p).is_dir()]
        if recent:
            inner = menu.addMenu("Open again")
            for path in recent:
                inner.addAction(theme.elide_middle(path, 60), lambda p=path: self.open(Path(p)))
        add("Open the demo project")
        menu.addSeparator()
        for name in ("Save", "Examine again", "Read the project again", "Export the run as VCD"):
            add(name)
        menu.addSeparator()
        for name in ("One desk only", "Two desks the other way round", "Light theme", "Dark theme", "Commands"):
            add(name)
        menu.addSeparator()
        add("Quit")
        return menu

    # ---- desks ----

    def open_desks(self) -> list[str]:
        """The desks that can be seen, from the left."""
        return [w.name for side in self.sides if side.isVisibleTo(self) and isinstance(w := side.currentWidget(), Desk)]

    def _place(self, side: int, name: str) -> None:
        desk, stack = self.desks[name], self.sides[side]
        stack.addWidget(desk)  # moves it here if it is at the other side
        stack.setCurrentWidget(desk)
        stack.show()
        other = self.sides[1 - side]
        if other.count() == 0 or (other.currentWidget() is None):
            other.hide()
        self.strip.mark_open(self.open_desks())

    def _mark_unsaved(self) -> None:
        self.strip.mark_unsaved([d.name for d in self.desks.values() if d.unsaved])

    def show_desk(self, name: str) -> None:
        """Show a desk: where it is, else at the left; if two desks are open, at the side that has not the focus' desk."""
        if name in self.open_desks():
            self.desks[name].setFocus()
            return
        if self.sides[1].isVisibleTo(self):
            keep = self.sides[0].currentWidget()
            side = (
                1
                if keep is self.desks["Ledger"]
                or (isinstance(keep, Desk) and keep.isAncestorOf(QApplication.focusWidget() or self))
                else 0
            )
        else:
            side = 0
        self._place(side, name)
        self.desks[name].setFocus()

    def show_beside(self, name: str) -> None:
        """Show a desk at the right of the one that is open."""
        if self.open_desks() == [name] or name in self.open_desks():
            return
        fresh = not self.sides[1].isVisibleTo(self)
        self._place(1, name)
        self.sides[0].show()
        if fresh:
            self._share()
        self.strip.mark_open(self.open_desks())

    def _share(self) -> None:
        """Two desks stand side by side where there is room, else one above the other."""
        across = self.middle.width() >= _ROOM_FOR_TWO
        self.middle.setOrientation(Qt.Orientation.Horizontal if across else Qt.Orientation.Vertical)
        whole = self.middle.width() if across else self.middle.height()
        first = self.sides[0].currentWidget()
        share = 0.5 if across else 0.36 if isinstance(first, LedgerDesk) else 0.5
        self.middle.setSizes([int(whole * share), int(whole * (1 - share))])

    def turn_desks(self) -> None:
        """Put the two desks the other way round: side by side, or one above the other."""
        across = self.middle.orientation() == Qt.Orientation.Horizontal
        self.middle.setOrientation(Qt.Orientation.Vertical if across else Qt.Orientation.Horizontal)
        self.middle.setSizes([100, 100])

    def one_desk(self) -> None:
        if self.sides[1].isVisibleTo(self):
            self.sides[1].hide()
            self.strip.mark_open(self.open_desks())

    def _selected(self) -> None:
        """A difference picked in the ledger is seen in the waves, beside it."""
        if self.session.selection.entry is not None and self.open_desks() in (["Ledger"], ["Tables"]):
            self.show_beside("Waves")

    # ---- project ----

    def open(self, folder: Path) -> None:
        if not self._may_leave():
            return
        try:
            self.session.open(folder)
        except ProjectError as error:
            self.say(str(error))
            QMessageBox.warning(self, "This folder can't be opened", str(error))

    def open_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Open a folder with HDL files")
        if name:
            self.open(Path(name))

    def open_demo(self) -> None:
        from mevrik.demo import fresh_copy

        self.open(fresh_copy())

    def _project_changed(self) -> None:
        project = self.session.project
        self.setWindowTitle(f"{project.name} – Mevrik" if project else "Mevrik")
        if project is not None and not project.subjects:
            said = project.problems[0].text if project.problems else "there is nothing to examine in this folder"
            self.say(said)
        for desk in self.desks.values():
            desk.refresh()
        if project is None:
            waves = self.desks["Waves"]
            waves.show_empty(
                "Do the four accounts agree?",
                "Open a folder with Verilog or VHDL files: that is all it takes. Tops, testbenches, tables and captures are found by themselves.",
                "Open a folder",
                self.open_folder,
            )

    def save(self) -> None:
        for desk in self.desks.values():
            if desk.unsaved:
                desk.save()

    def _undo(self, act: str) -> None:
        """Undo or redo where the focus is, else in the desk at the left that can."""
        focus = QApplication.focusWidget()
        tables, sources = self.desks["Tables"], self.desks["Sources"]
        assert isinstance(tables, TablesDesk) and isinstance(sources, SourcesDesk)
        if focus is not None and hasattr(focus, act) and not isinstance(focus, Desk):
            getattr(focus, act)()
        elif "Tables" in self.open_desks() and (focus is None or tables.isAncestorOf(focus) or "Sources" not in self.open_desks()):
            getattr(tables.undo, act)()
        elif sources.current is not None:
            getattr(sources.current, act)()

    # ---- status ----

    def say(self, text: str) -> None:
        self.status.setText(text)
        theme.tint(self.status, "ink")
        self._quiet.start(_SAID_MS)

    def _progress(self) -> None:
        self.cancel_button.setVisible(self.session.busy)
        if self._quiet.isActive():
            return
        theme.tint(self.status, "faint")
        parts = [f"{p.subject}: {p.stage} {p.reached}".strip() for p in self.session.progress.values() if p.stage != "waiting"]
        if parts:
            self.status.setText("   ".join(parts))
        elif self.session.project is not None:
            count = len(self.session.project.subjects)
            self.status.setText(f"{self.session.project.folder}   {count} subject{'s' if count != 1 else ''}")
        else:
            self.status.setText("")

    def show_commands(self) -> None:
        dialog = CommandList(self, self.commands)
        dialog.move(self.mapToGlobal(self.rect().center()) - dialog.rect().center())
        dialog.exec()

    def set_theme(self, name: str) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply(app, name)
        for widget in self.findChildren(QWidget):  # not all of the application: some may be on their way out
            widget.update()
        self.inspector.refresh()
        for account in self.strip.accounts:
            account.restyle()
        for desk in self.desks.values():
            desk.refresh()

    # ---- window ----

    def _restore(self) -> None:
        settings = QSettings()
        geometry, columns = settings.value("geometry"), settings.value("columns")
        if geometry is not None:
            self.restoreGeometry(geometry)
        if columns is not None:
            self.columns.restoreState(columns)

    def _may_leave(self) -> bool:
        """Ask what to do with changes that are not saved."""
        changed = [d.name for d in self.desks.values() if d.unsaved]
        if not changed:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self,
            "Not saved",
            f"There are changes in {' and '.join(changed)}. Save them?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )
        if answer == buttons.Save:
            self.save()
            return not any(d.unsaved for d in self.desks.values())  # what could not be saved is still here
        return answer != buttons.Cancel

    def look_again(self) -> None:
        """Back from another program: what it changed is shown and examined."""
        sources, tables = self.desks["Sources"], self.desks["Tables"]
        assert isinstance(sources, SourcesDesk) and isinstance(tables, TablesDesk)
        sources.look_again()
        tables.look_again()
        self.session.look_again()

    @guarded
    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow() and self.session.project is not None:
            self.look_again()

    @guarded
    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        settings = QSettings()
        settings.setValue("geometry", self.saveGeometry())
        settings.setValue("columns", self.columns.saveState())
        self.session.close_project()
        event.accept()

    @guarded
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    @guarded
    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            if url.isLocalFile():
                self.take_path(Path(url.toLocalFile()))
                return

    def take_path(self, path: Path) -> None:
        """A folder or a source file opens its folder; a capture becomes the capture of the subject."""
        if path.suffix.lower() == ".csv" and self.session.subject is not None:
            try:
                head = path.open(errors="replace").readline().split(",")[0].strip()
            except OSError as error:
                self.say(f"{path} can't be read: {error.strerror}")
                return
            captures = self.desks["Captures"]
            assert isinstance(captures, CapturesDesk)
            if is_time_heading(head):
                captures.take(path)
            else:
                self.say(f"{path.name} is no capture: its first column is no time. A table is called like its module.")
            return
        self.open(path if path.is_dir() else path.parent)
