"""The state that all desks share: the project, what its examinations found, one moment and one selection."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from PySide6.QtCore import QObject, QSettings, QTimer, Signal

from mevrik.compare.ledger import Entry, Ledger
from mevrik.engine.job import Died, Job
from mevrik.expect.table import Problem
from mevrik.explain.ladder import busiest_moment
from mevrik.lang.diagnostics import Diagnostic
from mevrik.project.examine import Findings, Progress, examine
from mevrik.project.files import files_of_interest
from mevrik.project.load import load_project
from mevrik.project.project import FILE, Project, Subject
from mevrik.project.project_file import set_file
from mevrik.toml_file import TomlError
from mevrik.waves.record import RecordError, RunRecord, SiteInfo

_POLL_MS = 15
RECENT_KEPT = 8


@dataclass(frozen=True, slots=True)
class Selection:
    """The selected thing: a moment in ticks, a signal (its path in the run), a ledger entry, a row of the table, a place."""

    moment: int = 0
    signal: str = ""
    entry: Entry | None = None
    ledger: Ledger | None = None
    row: int = -1
    file: str = ""
    line: int = 0


def whole_run(end: float) -> tuple[float, float]:
    """The window that shows a run to its end, with a little room behind it."""
    return 0.0, end * 1.02


def _stamps(subject: Subject) -> list[tuple[int, int] | None]:
    """What tells whether the files of a subject have changed: of each its time and size; None for one that is not there."""
    found: list[tuple[int, int] | None] = []
    for path in (*subject.sources, subject.table, subject.plan, subject.capture, subject.channel_map):
        try:
            state = path.stat() if path is not None else None
        except OSError:
            state = None
        found.append((state.st_mtime_ns, state.st_size) if state is not None else None)
    return found


def _files_in(folder: Path) -> frozenset[tuple[Path, int]]:
    try:
        return files_of_interest(folder)
    except OSError:  # a file went away meanwhile
        return frozenset()


class Session(QObject):
    project_changed = Signal()
    subject_changed = Signal()
    findings_changed = Signal(str)  # the subject's name
    selection_changed = Signal()
    window_changed = Signal()  # the visible stretch of time
    progress_changed = Signal()
    diagnostics_changed = Signal()
    show_desk = Signal(str)
    ladder_wanted = Signal()  # open the moment into its deltas
    said = Signal(str)  # a line for the status bar

    def __init__(self) -> None:
        super().__init__()
        self.project: Project | None = None
        self.subject: Subject | None = None
        self.findings: dict[str, Findings] = {}
        self.records: dict[str, RunRecord] = {}
        self._live: list[Diagnostic] | None = None
        self.selection = Selection()
        self.mark: int | None = None  # the second cursor
        self.window: tuple[float, float] = (0.0, 1.0)
        self.progress: dict[str, Progress] = {}
        self._files: frozenset[tuple[Path, int]] = frozenset()  # what there was in the folder when the subjects were found
        self._seen: dict[str, list[tuple[int, int] | None]] = {}  # by subject: its files as they were when it was examined
        self._jobs: dict[str, Job] = {}
        self._waiting: list[Subject] = []
        self._timer = QTimer(self)
        self._timer.setInterval(_POLL_MS)
        self._timer.timeout.connect(self._poll)
        self._listeners: dict[Job, Callable[[object], None]] = {}

    # ---- project ----

    def open(self, folder: Path) -> None:
        """Open a project folder and examine everything in it. Raises ProjectError."""
        files = _files_in(folder)
        project = load_project(folder)
        self.close_project()
        self._files = files
        self.project = project
        self.subject = project.subjects[0] if project.subjects else None
        settings = QSettings()
        recent = [str(folder.resolve()), *self.recent()]
        settings.setValue("recent", list(dict.fromkeys(recent))[:RECENT_KEPT])
        self.project_changed.emit()
        self.subject_changed.emit()
        self.examine_all()

    def recent(self) -> list[str]:
        value = QSettings().value("recent", [])
        return [value] if isinstance(value, str) else [str(v) for v in value] if isinstance(value, list) else []

    def close_project(self) -> None:
        self.cancel()
        for record in self.records.values():
            record.close()
        self.records.clear()
        self.findings.clear()
        self.selection = Selection()
        self.project = None
        self.subject = None
        self._live = None
        self._seen.clear()

    def reload(self) -> None:
        """Read the project again after its files were added to or its settings changed; keep the subject."""
        if self.project is None:
            return
        name = self.subject.name if self.subject else ""
        self._files = _files_in(self.project.folder)
        self.project = load_project(self.project.folder)
        self.subject = self.project.subject(name) or (self.project.subjects[0] if self.project.subjects else None)
        self.project_changed.emit()
        self.subject_changed.emit()
        self.examine_all()

    def give(self, subject: Subject, name: str, path: Path) -> bool:
        """Make a file the "table", "plan", "capture" or "channel_map" of a subject, in mevrik.toml; says why if it can't be."""
        assert self.project is not None
        try:
            set_file(self.project, subject, name, path)
        except OSError as error:
            self.said.emit(f"{FILE} can't be written: {error.strerror}")
            return False
        except TomlError as error:
            self.said.emit(f"{path.name} was not taken. {error}")
            return False
        self.reload()
        return True

    def choose(self, name: str) -> None:
        """Make a subject the current one."""
        found = self.project.subject(name) if self.project else None
        if found is not None and found is not self.subject:
            self.subject = found
            self._live = None
            self.selection = Selection()
            self.mark = None
            self.subject_changed.emit()
            self._fit_window()

    # ---- what is known of the current subject ----

    @property
    def current(self) -> Findings | None:
        return self.findings.get(self.subject.name) if self.subject else None

    @property
    def diagnostics(self) -> list[Diagnostic]:
        """What is said about the sources of the current subject: as they are in the editor, else as they were examined."""
        if self._live is not None:
            return self._live
        return self.current.diagnostics if self.current else []

    def hear(self, found: list[Diagnostic] | None) -> None:
        """What the text in the editor gives; None once it is saved or left."""
        self._live = found
        self.diagnostics_changed.emit()

    @property
    def record(self) -> RunRecord | None:
        return self.records.get(self.subject.name) if self.subject else None

    @property
    def tick_exp(self) -> int:
        return self.record.tick_exp if self.record else -9

    # ---- examinations ----

    def examine_all(self) -> None:
        if self.project is not None:
            chosen = [self.subject] if self.subject else []
            for subject in [*chosen, *(s for s in self.project.subjects if s is not self.subject)]:
                self.examine(subject)

    def look_again(self) -> None:
        """Examine what other programs changed files of since it was examined; where files came or went, find the subjects anew."""
        if self.project is not None and self._files != _files_in(self.project.folder):
            self.reload()
            return
        for subject in self.project.subjects if self.project is not None else ():
            if subject.name in self._seen and self._seen[subject.name] != _stamps(subject):
                self.examine(subject)

    def examine(self, subject: Subject) -> None:
        """Start, or start again, the examination of a subject; two run at a time."""
        old = self._jobs.pop(subject.name, None)
        if old is not None:
            self._listeners.pop(old, None)
            old.kill()
        self._waiting = [s for s in self._waiting if s.name != subject.name] + [subject]
        self.progress[subject.name] = Progress(subject.name, "waiting")
        self.progress_changed.emit()
        self._start_waiting()

    def _start_waiting(self) -> None:
        while self._waiting and len(self._jobs) < 2 and self.project is not None:
            subject = self._waiting.pop(0)
            path = self.project.record_path(subject)
            if self.records.get(subject.name) is not None:
                path = path if self.records[subject.name].path != path else path.with_suffix(".next.run")
            self._seen[subject.name] = _stamps(subject)
            self._jobs[subject.name] = Job(examine, subject, path, self.project.folder, context="forkserver")
        if self._jobs:
            self._timer.start()

    def watch(self, job: Job, listener: Callable[[object], None]) -> None:
        """Have the events of another job handed to a listener."""
        self._listeners[job] = listener
        self._timer.start()

    @property
    def busy(self) -> bool:
        return bool(self._jobs or self._waiting)

    def cancel(self) -> None:
        """End all examinations that are under way; what they recorded stays."""
        self._waiting.clear()
        for job in [*self._jobs.values(), *self._listeners]:
            job.kill()
        self._jobs.clear()
        self._listeners.clear()
        self._timer.stop()
        self.progress.clear()
        self.progress_changed.emit()

    def _poll(self) -> None:
        for name, job in list(self._jobs.items()):
            for event in job.poll():
                if isinstance(event, Progress):
                    self.progress[name] = event
                    self.progress_changed.emit()
                elif isinstance(event, Findings):
                    self._take(event)
                elif isinstance(event, Died) and self.project is not None:
                    subject = self.project.subject(name)
                    lost = Findings(name, subject.module if subject else name)
                    lost.problems.append(Problem(str(self.project.folder), 1, f"the examination died: {event.reason}"))
                    self._take(lost)
            if job.ended:
                if self._jobs.get(name) is job:
                    del self._jobs[name]
                    self.progress.pop(name, None)
                self.progress_changed.emit()
        for other, listener in list(self._listeners.items()):
            for event in other.poll():
                listener(event)
            if other.ended:
                self._listeners.pop(other, None)
        self._start_waiting()
        if not self._jobs and not self._listeners:
            self._timer.stop()

    def _take(self, findings: Findings) -> None:
        name = findings.subject
        old = self.records.get(name)
        if findings.record is not None:
            try:
                record = RunRecord(findings.record)
            except RecordError as error:
                findings.problems.append(Problem(str(findings.record), 1, str(error)))
            else:
                if old is not None:
                    old.close()
                self.records[name] = record
        self.findings[name] = findings
        if self.subject is not None and self.subject.name == name:
            self._live = None
            self._fit_window(keep=old is not None)
            self._reselect()
        self.findings_changed.emit(name)

    def _reselect(self) -> None:
        """After a new run: keep the moment and the signal, drop what no longer exists."""
        s, record = self.selection, self.record
        if record is not None:
            signal = s.signal if s.signal in record.names else ""
            self.selection = replace(s, signal=signal, entry=None, ledger=None, moment=min(s.moment, record.end))
            self.selection_changed.emit()

    # ---- time and selection ----

    def _fit_window(self, keep: bool = False) -> None:
        record = self.record
        end = float(max(record.end, 1)) if record else 1.0
        low, high = self.window
        if not keep or high > end * 1.05 or high - low <= 0:
            self.window = whole_run(end)
        self.window_changed.emit()

    def show_window(self, low: float, high: float) -> None:
        """Show a stretch of time, kept inside the run and no narrower than 4 ticks."""
        end = float(max(self.record.end, 1)) if self.record else 1.0
        span = min(max(high - low, 4.0), end * 1.04)
        margin = 0.02 * span
        low = min(max(low, -margin), max(end + margin - span, -margin))
        if (low, low + span) != self.window:
            self.window = (low, low + span)
            self.window_changed.emit()

    def select(self, **changes: object) -> None:
        """Change the selection; what is not named stays, a new moment or signal drops the ledger entry."""
        if "entry" not in changes and ("moment" in changes or "signal" in changes):
            changes |= {"entry": None, "ledger": None, "row": -1}
        new = replace(self.selection, **changes)  # type: ignore[arg-type]
        if new != self.selection:
            self.selection = new
            self.selection_changed.emit()

    def select_entry(self, entry: Entry, ledger: Ledger) -> None:
        """One difference: its moment, its signal, its row and the statement that wrote the value."""
        site = self.site_of(entry.path, entry.at)
        place = (site.file, site.line) if site else (self.selection.file, self.selection.line)
        self.select(moment=entry.at, signal=entry.path, entry=entry, ledger=ledger, row=entry.row, file=place[0], line=place[1])
        self.reveal(entry.start, max(entry.end, entry.start))

    def reveal(self, start: int, end: int) -> None:
        """Move the window so that a stretch can be seen, keeping its width if it fits."""
        low, high = self.window
        span = high - low
        if start >= low + 0.05 * span and end <= high - 0.05 * span and (end - start) * 60 > span:
            return
        least = max(40.0, self.record.end / 100 if self.record else 0.0)
        span = min(span, max((end - start) * 12.0, least))
        middle = (start + end) / 2
        self.show_window(middle - span / 2, middle + span / 2)

    def show_happening(self, file: str, line: int) -> None:
        """Open the deltas of a moment in which a statement of this line wrote."""
        found = busiest_moment(self.record, file, line) if self.record is not None else None
        if found is None:
            self.said.emit("The run has no moment in which this line wrote a recorded signal")
            return
        self.select(signal=found[0], moment=found[1], file=file, line=line)
        room = (self.record.end if self.record else 1) / 24
        self.show_window(found[1] - room, found[1] + room)
        self.show_desk.emit("Waves")
        self.ladder_wanted.emit()

    def site_of(self, path: str, moment: int) -> SiteInfo | None:
        """The statement that wrote the value which a signal has at a moment."""
        record = self.record
        if record is None or path not in record.names:
            return None
        trace = record.trace(path, moment, moment)
        index = trace.index_at(moment)
        return record.site(int(trace.sites[index])) if index >= 0 and trace.sites[index] else None

    def step_entry(self, direction: int) -> None:
        """Go to the next or previous difference of the current subject."""
        found = self.current
        if found is None:
            return
        every = sorted(((e, x) for x in found.ledgers for e in x.entries), key=lambda item: (item[0].start, item[0].signal))
        if not every:
            self.said.emit("There is no difference to go to")
            return
        entry = self.selection.entry
        if entry is not None:
            at = next((k for k, (e, _) in enumerate(every) if e is entry or e == entry), -1)
            at = (at + direction) % len(every)
        else:
            moment = self.selection.moment
            later = [k for k, (e, _) in enumerate(every) if (e.start > moment if direction > 0 else e.start < moment)]
            at = (later[0] if direction > 0 else later[-1]) if later else (0 if direction > 0 else len(every) - 1)
        self.select_entry(*every[at])
