"""The examination of one subject, start to end: analyse, drive, run, compare. Runs in a job of its own."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from mevrik.compare.align import Alignment, against_capture
from mevrik.compare.ledger import Ledger
from mevrik.compare.tables import against_model, against_table
from mevrik.design.ports import PortInfo, ports_of
from mevrik.design.record import replace
from mevrik.design.time import parse_seconds, parse_time
from mevrik.design.unit import Design, InstanceDecl
from mevrik.engine.job import Channel
from mevrik.engine.run import LayoutError, Message, Outcome, Run, RunOptions
from mevrik.engine.simulation import FOREVER
from mevrik.expect.coverage import Coverage, coverage
from mevrik.expect.table import Problem, Table, TableError, bind, read_table_text
from mevrik.lab.capture import CaptureError, match_channels, read_capture, read_map
from mevrik.lang.analysis import Analysis, Options, analyse
from mevrik.lang.diagnostics import Diagnostic
from mevrik.lang.source import read_text
from mevrik.project.project import FILE, Subject
from mevrik.stimulus.bench import INSTANCE, MODEL, bench_name, model_name, write_bench, write_model
from mevrik.stimulus.plan import Plan, PlanError, automatic_plan
from mevrik.stimulus.plan_file import load_plan
from mevrik.waves.record import RunRecord

PRINTED_KEPT = 1 << 20
WALL_LIMIT = 20.0  # seconds that a run without a limit of its own may take


@dataclass(frozen=True, slots=True)
class Progress:
    """How far an examination is: what it does, the moment reached in seconds of simulated time."""

    subject: str
    stage: str
    reached: str = ""


@dataclass(slots=True)
class Findings:
    """All that one examination found. Empty ledgers mean that there was nothing to compare."""

    subject: str
    module: str
    diagnostics: list[Diagnostic] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    ports: list[PortInfo] = field(default_factory=list)
    parameters: dict[str, str] = field(default_factory=dict)
    plan: Plan | None = None
    bench: str = ""
    record: Path | None = None
    scope: str = ""
    outcome: Outcome | None = None
    messages: list[Message] = field(default_factory=list)
    printed: str = ""
    coverage: Coverage | None = None
    alignment: Alignment | None = None
    matched: dict[str, str] = field(default_factory=dict)
    ledgers: list[Ledger] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    timings: dict[str, float] = field(default_factory=dict)

    @property
    def failed(self) -> bool:
        """Something kept the examination from its end: a source, a table, a run that stopped with an error."""
        bad_run = self.outcome is not None and self.outcome.status != 0
        return any(d.severity == "error" for d in self.diagnostics) or any(p.severity == "error" for p in self.problems) or bad_run

    @property
    def agrees(self) -> bool:
        return not self.failed and all(ledger.state in ("agree", "empty") for ledger in self.ledgers)

    def ledger(self, left: str, right: str) -> Ledger | None:
        return next((x for x in self.ledgers if (x.left, x.right) == (left, right)), None)


def examine(channel: Channel, subject: Subject, record_path: Path, folder: Path, order: int = 0) -> None:
    """Examine a subject and send its `Progress` and, last, its `Findings`. `order` is the seed of another order of events."""
    channel.send(_Examination(channel, subject, record_path, folder, order).run())


class _Stop(Exception):
    """The examination can't go on; what was found so far is told."""


class _Examination:
    def __init__(self, channel: Channel, subject: Subject, record_path: Path, folder: Path, order: int) -> None:
        self.order = order
        self.channel = channel
        self.subject = subject
        self.record_path = record_path
        self.folder = folder
        self.found = Findings(subject.name, subject.module)
        self.table: Table | None = None
        self.generated: dict[Path, str] = {}
        self.cancelled = False
        self.engine: Run | None = None
        channel.on_command(self._command)

    def run(self) -> Findings:
        try:
            self._work()
        except _Stop:
            pass
        return self.found

    def _command(self, command: object) -> None:
        if command == "cancel":
            self.cancelled = True
            if self.engine is not None:
                self.engine.simulation.request("cancel")

    @contextmanager
    def _stage(self, name: str) -> Iterator[None]:
        if self.cancelled:
            self.found.notes.append("cancelled")
            raise _Stop
        self.channel.send(Progress(self.subject.name, name))
        start = time.perf_counter()
        yield
        self.found.timings[name] = self.found.timings.get(name, 0.0) + time.perf_counter() - start

    def _work(self) -> None:
        subject, found = self.subject, self.found
        with self._stage("parse"):
            analysis = self._analyse()
        with self._stage("elaborate"):
            alone = self._alone(analysis)
            found.ports = ports_of(alone)
            found.parameters = _parameter_texts(alone)
        with self._stage("expect"):
            self._read_table()
        design = alone
        if subject.testbench:
            if subject.testbench != subject.module:
                with self._stage("elaborate"):
                    design = self._elaborate(analysis, subject.testbench, {})
        elif found.ports:
            with self._stage("drive"):
                self._drive()
            with self._stage("parse"):
                analysis = self._analyse()
            with self._stage("elaborate"):
                design = self._elaborate(analysis, bench_name(subject.module), {})
        self._simulate(analysis, design)
        with self._stage("compare"):
            self._compare()

    # ---- sources ----

    def _analyse(self) -> Analysis:
        def reader(path: Path) -> str:
            text = self.generated.get(path)
            return text if text is not None else read_text(path)

        analysis = analyse([*self.subject.sources, *self.generated], Options([self.folder]), reader)
        self._diagnose(analysis)
        return analysis

    def _diagnose(self, analysis: Analysis) -> None:
        known = {d.headline() for d in self.found.diagnostics}
        self.found.diagnostics += [d for d in analysis.diagnostics.sorted() if d.headline() not in known]
        if analysis.diagnostics.failed:
            raise _Stop

    def _alone(self, analysis: Analysis) -> Design:
        """The module by itself; one that needs interfaces as its testbench has it."""
        subject = self.subject
        if not subject.testbench or not analysis.needs_interfaces(subject.module):
            return self._elaborate(analysis, subject.module, dict(subject.parameters))
        design = self._elaborate(analysis, subject.testbench, {})
        unit = next((u for u in design.units if u.name == subject.module), None)
        return design if unit is None else replace(design, tops=[InstanceDecl(subject.module, unit, unit.pos)])

    def _elaborate(self, analysis: Analysis, top: str, parameters: dict[str, int]) -> Design:
        design = analysis.elaborate(top, parameters)
        self._diagnose(analysis)
        if design is None:
            raise _Stop
        return design

    # ---- expected ----

    def _read_table(self) -> None:
        subject, found = self.subject, self.found
        if subject.table is not None:
            try:
                self.table = bind(read_table_text(subject.table), found.ports)
                found.coverage = coverage(self.table)
            except TableError as error:
                found.problems += error.problems
        outputs = {p.name for p in found.ports if p.direction == "output"}
        for name, _ in subject.expressions:
            if name not in outputs:
                found.problems.append(
                    Problem(str(self.folder / FILE), subject.line, f"expressions: '{name}' is no output of '{subject.module}'")
                )

    # ---- stimulus ----

    def _drive(self) -> None:
        subject, found = self.subject, self.found
        plan: Plan | None = None
        if subject.plan is not None:
            try:
                plan = load_plan(subject.plan, found.ports)
            except PlanError as error:
                found.problems += error.problems
        found.plan = plan or automatic_plan(found.ports, self.table)
        if found.plan.note:
            found.notes.append(found.plan.note)
        expressions = {k: v for k, v in subject.expressions if any(p.name == k and p.direction == "output" for p in found.ports)}
        rows_file = self.record_path.with_suffix(".rows")
        found.bench = write_bench(subject.module, found.ports, found.plan, rows_file, expressions, dict(subject.parameters))
        self.generated[Path(f"{bench_name(subject.module)}.v")] = found.bench
        if expressions:
            self.generated[Path(f"{model_name(subject.module)}.v")] = write_model(subject.module, found.ports, expressions)

    # ---- behavioural ----

    def _simulate(self, analysis: Analysis, design: Design) -> None:
        subject, found = self.subject, self.found
        limit = parse_time(subject.limit, design.tick_exp) if subject.limit else FOREVER
        try:
            with self._stage("compile"):
                options = RunOptions(limit, "all", self.record_path, root=self.folder, seed=1, order=self.order)
                self.engine = Run(design, analysis.sources, options, found.messages.append)
        except (LayoutError, OSError) as error:
            found.problems.append(Problem(str(self.record_path), 1, str(error)))
            raise _Stop from None
        with self._stage("run"), self._printing(), self._watch(self.engine, limit == FOREVER) as overrun:
            code = self.engine.go()
        with self._stage("store"):
            outcome = self.engine.finish(code)
        if outcome.ended == "cancelled" and overrun():
            found.notes.append(f"stopped after {WALL_LIMIT:.0f} s: the program has no end of its own; 'for' sets a length")
        found.outcome, found.record = outcome, self.record_path
        if outcome.ended == "error":
            for place in outcome.places[:1]:
                found.problems.append(Problem(place.file, place.line, f"{outcome.text}: {place.text.strip()}"))

    @contextmanager
    def _printing(self) -> Iterator[None]:
        """What the program prints goes to a file beside the record; the findings hold its beginning."""
        path = self.record_path.with_suffix(".out")
        saved = os.dup(1)
        with path.open("wb") as file:
            os.dup2(file.fileno(), 1)
            try:
                yield
            finally:
                os.dup2(saved, 1)
                os.close(saved)
        with path.open("rb") as file:
            self.found.printed = file.read(PRINTED_KEPT).decode("utf-8", "replace")

    @contextmanager
    def _watch(self, engine: Run, bounded: bool) -> Iterator[Callable[[], bool]]:
        """Tell how far the run is, keep the record fresh, and end a run that never ends by itself."""
        over = threading.Event()
        expired = threading.Event()
        tick = engine.design.tick_exp

        def watch() -> None:
            from mevrik.design.time import show_time

            start = time.monotonic()
            while not over.wait(0.2):
                self.channel.send(Progress(self.subject.name, "run", show_time(engine.simulation.now, tick, 2)))
                engine.simulation.request("flush")
                if bounded and time.monotonic() - start > WALL_LIMIT:
                    expired.set()
                    engine.simulation.request("cancel")

        thread = threading.Thread(target=watch, daemon=True)
        thread.start()
        try:
            yield expired.is_set
        finally:
            over.set()
            thread.join()

    # ---- compare ----

    def _compare(self) -> None:
        subject, found = self.subject, self.found
        record = RunRecord(self.record_path)
        scope = record.scope_of_module(subject.module)
        if scope is None:
            found.problems.append(
                Problem(str(subject.sources[0]), 1, f"the testbench '{subject.testbench}' has no instance of '{subject.module}'")
            )
            return
        found.scope = scope.path
        inputs = [p.name for p in found.ports if p.direction != "output"]
        clocked = any(p.role == "clock" for p in found.ports)
        if self.table is not None and clocked and not any(c.port.role == "clock" for c in self.table.columns):
            found.notes.append(
                "a truth table says nothing about a design with a clock unless the clock is one of its columns: not compared"
            )
        elif self.table is not None:
            found.ledgers.append(against_table(subject.name, record, scope.path, self.table, inputs))
        model = f"{bench_name(subject.module)}.{MODEL}"
        if subject.expressions and any(s.path == model for s in record.scopes.values()):
            outputs = [p.name for p in found.ports if p.direction == "output" and p.name in dict(subject.expressions)]
            found.ledgers.append(
                against_model(subject.name, record, f"{bench_name(subject.module)}.{INSTANCE}", model, outputs, inputs)
            )
        elif subject.expressions and subject.testbench:
            found.notes.append(f"expressions are compared where a drive plan drives the design, not '{subject.testbench}'")
        if subject.capture is not None:
            self._compare_capture(record, scope.path)

    def _compare_capture(self, record: RunRecord, scope: str) -> None:
        subject, found = self.subject, self.found
        assert subject.capture is not None
        try:
            capture = read_capture(subject.capture)
            mapping = read_map(subject.channel_map) if subject.channel_map is not None else {}
        except CaptureError as error:
            found.problems += error.problems
            return
        tolerance = float(parse_seconds(subject.tolerance)) if subject.tolerance else 0.0
        found.matched, notes = match_channels(capture, [p.name for p in found.ports], mapping)
        ledger, found.alignment = against_capture(subject.name, record, scope, capture, found.matched, notes, tolerance)
        found.ledgers.append(ledger)


def _parameter_texts(design: Design) -> dict[str, str]:
    from mevrik.design import nodes as n

    found: dict[str, str] = {}
    for name, value in design.top.unit.parameters.items():
        if isinstance(value, n.Const):
            found[name] = str(value.val)
        elif isinstance(value, n.RealConst):
            found[name] = repr(value.value)
    return found
