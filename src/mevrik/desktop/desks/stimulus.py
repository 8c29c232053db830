"""The Stimulus desk: what drives the inputs, as a testbench or as a drive plan with a lane a pin."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from mevrik.design.ports import PortInfo
from mevrik.design.time import parse_time
from mevrik.design.values import Logic
from mevrik.desktop import theme
from mevrik.desktop.desks.desk import Desk, word_button
from mevrik.desktop.desks.waves.paint import Painter
from mevrik.desktop.desks.waves.rows import Row, Shape
from mevrik.desktop.faults import guarded
from mevrik.desktop.session import Session
from mevrik.project.examine import Findings
from mevrik.project.project import Subject
from mevrik.stimulus.plan import Clock, Hold, Pattern, Plan, PlanError, Sweep, check_time
from mevrik.stimulus.plan_file import save_plan
from mevrik.stimulus.words import FORMS, WordsError, from_words, to_words
from mevrik.waves.record import SignalInfo

_TICK = -12
_PREVIEW_CHANGES = 4000


def preview(patterns: list[Pattern], width: int, end: int) -> Shape:
    """The shape of a lane from 0 to `end` (in ps)."""
    times: list[int] = []
    values: list[int] = []
    now = 0

    def put(time: int, value: int) -> None:
        if not values or values[-1] != value:
            times.append(time)
            values.append(value)

    for pattern in patterns:
        match pattern:
            case Hold(value, duration):
                put(now, value)
                now = now + parse_time(duration, _TICK) if duration else end
            case Clock(period, high, start):
                whole = max(parse_time(period, _TICK), 2)
                up = int(whole * high)
                put(now, 0)
                now += parse_time(start, _TICK)
                while now < end and len(times) < _PREVIEW_CHANGES:
                    put(now + whole - up, 1)
                    put(now + whole, 0)
                    now += whole
            case Sweep(first, last, every):
                value, step = first, 1 if last >= first else -1
                while now < end and len(times) < _PREVIEW_CHANGES:
                    put(now, value)
                    value = first if value == last else value + step
                    now += max(parse_time(every, _TICK), 1)
    stamps = np.array(times or [0], float)
    if width == 1:
        return Shape(stamps, np.array(values or [0], np.uint8), None, np.arange(len(stamps)))
    return Shape(stamps, None, None, np.arange(len(stamps)), [Logic(width, v) for v in values or [0]])


class _LanePicture(QWidget):
    def __init__(self, port: PortInfo) -> None:
        super().__init__()
        self.port = port
        self.patterns: list[Pattern] = []
        self.end = 1
        self.setMinimumHeight(theme.ROW + 4)
        self.setMinimumWidth(120)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("sheet"))
        if not self.patterns:
            return
        p = self.port
        info = SignalInfo(0, p.width, 8, 1, 1, p.signed, "var", p.lsb, p.msb, {}, b"", True)
        shape = preview(self.patterns, p.width, self.end)
        Painter(painter, 0, self.end, self.width()).draw(shape, Row(p.name, radix="dec"), info, 2, theme.ROW, self.end)


class StimulusDesk(Desk):
    name = "Stimulus"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.stack = QStackedWidget()
        layout = QVBoxLayout(self.body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.stack)
        self.bench = QPlainTextEdit()
        self.bench.setReadOnly(True)
        self.bench.setFont(theme.font(theme.BODY, code=True))
        self.bench.setAccessibleName("The testbench made from the plan")
        self.lanes_area = QScrollArea()
        self.lanes_area.setWidgetResizable(True)
        self.lanes_area.setFrameShape(QScrollArea.Shape.NoFrame)
        self.stack.addWidget(self.lanes_area)
        self.stack.addWidget(self.bench)
        self.lines: dict[str, QLineEdit] = {}
        self.pictures: dict[str, _LanePicture] = {}
        self.length, self.fault = QLineEdit(self.stack), QLabel(self.stack)  # until there are lanes
        self.length.hide()
        self.fault.hide()
        self._ports: list[PortInfo] = []
        self._clean: dict[str, str] = {}
        self._shown = ""  # the subject whose lanes are here
        self._kept: dict[str, dict[str, str]] = {}  # changed lanes of other subjects that were not saved yet
        self._folder: Path | None = None
        self.toggle = word_button("Show the testbench", self._toggle, "The testbench that Mevrik made from the plan")
        self.save_button = word_button("Save the plan", self.save, "Save the plan and run it (Ctrl+S)")
        self.bar.addWidget(self.toggle)
        self.bar.addWidget(self.save_button)
        session.project_changed.connect(self._forget)
        self.refresh()

    # ---- content ----

    def _forget(self) -> None:
        """Another project: changes to plans of the one before were saved or given up."""
        folder = self.session.project.folder if self.session.project else None
        if folder != self._folder:
            self._folder = folder
            self._kept.clear()
            self.lines, self._shown = {}, ""

    def refresh(self) -> None:
        subject, found = self.session.subject, self.session.current
        if self._shown != (subject.name if subject is not None else ""):
            if self._changed_here:
                self._kept[self._shown] = self._texts()
            self.lines, self._shown = {}, ""
        self.toggle.setVisible(bool(found and found.bench))
        self.save_button.setVisible(False)
        if subject is None:
            self.show_empty("No stimulus", "What drives the inputs of a design is shown here.")
        elif subject.testbench:
            bench = next(
                (p for p in subject.sources if subject.testbench in p.stem), subject.sources[-1] if subject.sources else None
            )
            self.show_empty(
                f"Driven by {subject.testbench}",
                "This design comes with a testbench, which sets the inputs itself.",
                "Open the testbench",
                lambda: self._open_source(bench),
            )
        elif found is None or found.plan is None:
            self.show_empty("No stimulus yet", "The drive plan is made as soon as the ports of the module are known.")
        elif self._changed_here:
            self.save_button.setVisible(True)
        else:
            self.show_body()
            self.bench.setPlainText(found.bench)
            self._ports = _inputs(found)
            self._build(found.plan)
            self._shown = subject.name
            self._put_back(self._kept.pop(subject.name, {}))

    def _open_source(self, path: Path | None) -> None:
        if path is not None:
            self.session.select(file=str(path), line=1)
            self.session.show_desk.emit("Sources")

    def _toggle(self) -> None:
        shown = self.stack.currentWidget() is self.bench
        self.stack.setCurrentWidget(self.lanes_area if shown else self.bench)
        self.toggle.setText("Show the testbench" if shown else "Show the plan")

    def _build(self, plan: Plan) -> None:
        inside = QWidget()
        grid = QGridLayout(inside)
        grid.setContentsMargins(10, 8, 10, 8)
        grid.setVerticalSpacing(6)
        grid.setHorizontalSpacing(10)
        self.lines, self.pictures = {}, {}
        row = 0
        if plan.walks_rows:
            note = QLabel(plan.note or f"{len(plan.rows or [])} rows, one each {plan.step}")
            note.setWordWrap(True)
            grid.addWidget(note, row, 0, 1, 3)
            row += 1
        grid.setColumnStretch(2, 1)
        grid.setColumnMinimumWidth(1, 250)
        bits = sum(p.width for p in self._ports)
        patterns = self._row_lanes(bits, plan) if plan.walks_rows else plan.lanes
        for port in self._ports:
            label = QLabel(port.label)
            label.setFont(theme.font(code=True))
            role = f", {port.role}" if port.role else ""
            label.setToolTip(f"{port.direction}{role}")
            picture = _LanePicture(port)
            picture.patterns = patterns.get(port.name, [Hold(0)])
            self.pictures[port.name] = picture
            grid.addWidget(label, row, 0)
            if plan.walks_rows:
                grid.addWidget(picture, row, 1, 1, 2)
            else:
                line = QLineEdit(to_words(picture.patterns))
                line.setCursorPosition(0)  # a long lane shows its beginning
                line.setFont(theme.font(theme.SMALL, code=True))
                line.setAccessibleName(f"Lane {port.name}")
                line.textEdited.connect(self._edited)
                self.lines[port.name] = line
                grid.addWidget(line, row, 1)
                grid.addWidget(picture, row, 2)
            row += 1
        if plan.walks_rows:
            count = len(plan.rows) if plan.rows is not None else 1 << bits
            self._set_end(parse_time(plan.step, _TICK) * min(count, 64))
        else:
            self._length_row(grid, row, plan)
            row += 1
            self._set_end(parse_time(plan.length or "1us", _TICK))
        self.fault = QLabel("" if plan.walks_rows else f"A lane is a list of patterns: {FORMS}.")
        self.fault.setWordWrap(True)
        theme.tint(self.fault, "faint")
        grid.addWidget(self.fault, row, 0, 1, 3)
        grid.setRowStretch(row + 1, 1)
        self.lanes_area.setWidget(inside)
        self._clean = self._texts()
        self.save_button.setVisible(not plan.walks_rows)
        self.save_button.setEnabled(False)
        if plan.walks_rows:
            self.facts.setText("input rows in order")
        else:
            self._say_facts(plan.length)

    def _length_row(self, grid: QGridLayout, row: int, plan: Plan) -> None:
        grid.addWidget(QLabel("run for"), row, 0)
        self.length = QLineEdit(plan.length or "1us")
        self.length.setFont(theme.font(theme.SMALL, code=True))
        self.length.setAccessibleName("Length of the run")
        self.length.textEdited.connect(self._edited)
        box = QHBoxLayout()
        box.addWidget(self.length)
        box.addStretch()
        grid.addLayout(box, row, 1)

    def _row_lanes(self, bits: int, plan: Plan) -> dict[str, list[Pattern]]:
        """For the picture: what the walk through the rows looks like at each pin, for the first 64 rows."""
        lanes: dict[str, list[Pattern]] = {}
        rows = plan.rows[:64] if plan.rows is not None else list(range(min(1 << bits, 64)))
        left = bits
        for p in self._ports:
            left -= p.width
            lanes[p.name] = [Hold(r >> left & ((1 << p.width) - 1), plan.step) for r in rows]
        return lanes

    def _set_end(self, end: int) -> None:
        for picture in self.pictures.values():
            picture.end = max(end, 1)
            picture.update()

    # ---- edit ----

    def _texts(self) -> dict[str, str]:
        return {**{n: e.text() for n, e in self.lines.items()}, "": self.length.text() if self.lines else ""}

    def _put_back(self, texts: dict[str, str]) -> None:
        """Changes that were left here when another subject was chosen."""
        for name, text in texts.items():
            line = self.length if not name else self.lines.get(name)
            if line is not None:
                line.setText(text)
                line.setCursorPosition(0)
        if texts and self.lines:
            self._edited()

    @property
    def _changed_here(self) -> bool:
        return bool(self.lines) and self._texts() != self._clean

    @property
    def unsaved(self) -> bool:
        return self._changed_here or bool(self._kept)

    def _edited(self) -> None:
        plan, fault = _plan_of(self._texts(), self._ports)
        self.fault.setText(fault or f"A lane is a list of patterns: {FORMS}.")
        theme.tint(self.fault, "differ" if fault else "faint")
        for name, patterns in plan.lanes.items():
            self.pictures[name].patterns = patterns
        if not fault:
            self._set_end(parse_time(plan.length, _TICK))
        self.save_button.setEnabled(self._changed_here and not fault)
        self._say_facts(plan.length)

    def _say_facts(self, length: str) -> None:
        self.edited.emit()
        self.facts.setText(f"{len(self.lines)} lanes for {length or '1us'}{', not saved' if self._changed_here else ''}")

    def save(self) -> None:
        project, findings = self.session.project, dict(self.session.findings)
        if project is None:
            return
        changed = {self._shown: self._texts()} if self._changed_here else {}
        for name, texts in {**changed, **self._kept}.items():
            subject, found = project.subject(name), findings.get(name)
            if subject is not None and found is not None and self._save_plan(subject, found, texts):
                self._kept.pop(name, None)
        self.edited.emit()

    def _save_plan(self, subject: Subject, found: Findings, texts: dict[str, str]) -> bool:
        """Write the lanes of a subject and run them; says what is wrong, and that they are kept, if they can't be."""
        assert self.session.project is not None
        plan, fault = _plan_of(texts, _inputs(found))
        if fault:
            self.session.said.emit(f"Not saved: {fault}")
            return False
        path = subject.plan or self.session.project.folder / f"{subject.module}.plan.toml"
        try:
            save_plan(plan, path)
        except PlanError as error:
            self.session.said.emit(f"Not saved, the plan is still here. {error.problems[0]}")
            return False
        except OSError as error:
            self.session.said.emit(f"{path} can't be written: {error.strerror}; the plan is still here")
            return False
        before = self._clean
        if subject.name == self._shown:
            self._clean = texts
        if subject.plan is None and not self.session.give(subject, "plan", path):
            self._clean = before
            return False
        if subject.name == self._shown:
            self.save_button.setEnabled(False)
            self._say_facts(plan.length)
        self.session.said.emit(f"Saved {path.name}")
        if subject.plan is not None:
            self.session.examine(subject)
        return True


def _inputs(found: Findings) -> list[PortInfo]:
    return [p for p in found.ports if p.direction != "output"]


def _plan_of(texts: dict[str, str], ports: list[PortInfo]) -> tuple[Plan, str]:
    """The plan as written, one text a lane and the length under no name, and what is wrong with it."""
    plan, fault = Plan(length=texts[""]), ""
    for port in (p for p in ports if p.name in texts):
        try:
            plan.lanes[port.name] = from_words(texts[port.name], port.width)
        except WordsError as error:
            fault = fault or f"{port.name}: {error}"
    try:
        check_time(plan.length)
    except ValueError as error:
        fault = fault or f"run for: {error}"
    return plan, fault
