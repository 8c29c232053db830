"""The Waves desk: the probe list over time."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtWidgets import QCompleter, QFileDialog, QLineEdit, QSplitter, QVBoxLayout

from mevrik.design.time import show_time
from mevrik.desktop.desks.desk import Desk, word_button
from mevrik.desktop.desks.waves.ladder import DeltaLadder
from mevrik.desktop.desks.waves.rows import Row, first_rows, still_there
from mevrik.desktop.desks.waves.view import WaveView
from mevrik.desktop.session import Session
from mevrik.lab.capture import CaptureError, read_capture
from mevrik.waves.vcd import write_vcd


class WavesDesk(Desk):
    name = "Waves"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.view = WaveView(session)
        self.setFocusProxy(self.view)
        self._probes: dict[str, list[Row]] = {}  # by subject
        layout = QVBoxLayout(self.body)
        layout.setContentsMargins(0, 0, 0, 0)
        self.ladder = DeltaLadder(session)
        halves = QSplitter(Qt.Orientation.Vertical)
        halves.setChildrenCollapsible(False)
        halves.addWidget(self.view)
        halves.addWidget(self.ladder)
        halves.setStretchFactor(0, 1)
        halves.setStretchFactor(1, 1)
        halves.setSizes([300, 300])
        layout.addWidget(halves)
        self.adder = QLineEdit()
        self.adder.setPlaceholderText("Add a signal")
        self.adder.setAccessibleName("Add a signal to the probe list")
        self.adder.setFixedWidth(150)
        self._paths = QStringListModel()
        completer = QCompleter(self._paths)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.activated.connect(self._add_typed)
        self.adder.setCompleter(completer)
        self.adder.returnPressed.connect(self._add_typed)
        self.bar.addWidget(self.adder)
        self.bar.addWidget(word_button("Whole run", self.view.whole_run, "Show the whole run (0)"))
        self.bar.addWidget(word_button("Closer", lambda: self.view.zoom(240), "Show less time about the moment (+)"))
        self.bar.addWidget(word_button("Wider", lambda: self.view.zoom(-240), "Show more time (-)"))
        self.opener = word_button("Deltas", self.toggle_ladder, "Open the moment into its deltas (Ctrl+D)")
        self.opener.setCheckable(True)
        self.bar.addWidget(self.opener)
        session.selection_changed.connect(self._facts)
        session.ladder_wanted.connect(self.open_ladder)
        session.subject_changed.connect(self._new_subject)
        self.view.rows_changed.connect(self._remember)
        self.refresh()

    def refresh(self) -> None:
        record, found, subject = self.session.record, self.session.current, self.session.subject
        if record is None or found is None or subject is None:
            busy = self.session.busy
            self.show_empty(
                "No run yet",
                "The run is under way."
                if busy
                else "Waves appear once the design was simulated. What keeps it from that is told in the inspector.",
            )
            return
        self.show_body()
        self.view.captured = None
        if subject.capture is not None and found.matched:
            try:
                self.view.captured = read_capture(subject.capture)
            except CaptureError:
                pass  # the findings tell
        self._paths.setStringList([n.path for n in record.names.values() if record.signals[n.signal].recorded])
        kept = [r for r in self._probes.get(subject.name, []) if still_there(r, record)]
        fresh = first_rows(record, found)
        if any(r.measured for r in fresh) != any(r.measured for r in kept):
            kept = []
        self.view.set_rows(kept or fresh)
        self._facts()

    def toggle_ladder(self) -> None:
        """Open the moment into its deltas, or close it again."""
        if self.ladder.isVisibleTo(self):
            self.ladder.setVisible(False)
        else:
            self.open_ladder()
        self.opener.setChecked(self.ladder.isVisibleTo(self))

    def open_ladder(self) -> None:
        self.ladder.setVisible(True)
        self.opener.setChecked(True)
        self.ladder.canvas.moment = -1
        self.ladder.follow()

    def _new_subject(self) -> None:
        self.view.chosen = -1

    def _remember(self) -> None:
        if self.session.subject is not None and self.session.record is not None:
            self._probes[self.session.subject.name] = list(self.view.rows)

    def _facts(self) -> None:
        if self.is_empty:
            return
        tick, moment, mark = self.session.tick_exp, self.session.selection.moment, self.session.mark
        text = f"moment {show_time(moment, tick)}"
        if mark is not None:
            apart = abs(moment - mark)
            text += f"   mark {show_time(mark, tick)}   apart {show_time(apart, tick)}"
            if apart:
                text += f"   1/apart {1 / (apart * 10.0**tick):.6g} Hz"
        self.facts.setText(text)

    def _add_typed(self, *_: object) -> None:
        path = self.adder.text().strip()
        self.adder.clear()
        self.add(path)

    def add(self, path: str) -> None:
        """Put a signal at the end of the probe list; its path, or the end of it."""
        record = self.session.record
        if record is None or not path:
            return
        found = path if path in record.names else next((p for p in record.names if p.endswith("." + path)), None)
        if found is None or not record.signals[record.names[found].signal].recorded:
            self.session.said.emit(f"There is no recorded signal '{path}'")
            return
        self.view.set_rows([*self.view.rows, Row(found)])

    def export_vcd(self) -> None:
        record = self.session.record
        if record is None:
            self.session.said.emit("There is no run to export")
            return
        name, _ = QFileDialog.getSaveFileName(self, "Export the run as VCD", f"{record.path.stem}.vcd", "VCD (*.vcd)")
        if name:
            try:
                write_vcd(record, Path(name))
                self.session.said.emit(f"Written: {name}")
            except OSError as error:
                self.session.said.emit(f"{name} can't be written: {error.strerror}")
