"""Findings about single processes: sensitivity, latches (IEEE 1364-2005 9.7.5); and about what several of them do to one variable."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import EventType, Vec
from mevrik.design.unit import Process, Signal, Unit
from mevrik.lang.diagnostics import Mend, replacement
from mevrik.lang.findings.base import Looker

_LIST = re.compile(r"always\s*(@\s*\([^()]*\))")


class ProcessFindings(Looker):
    def look(self, unit: Unit) -> None:
        for process in unit.processes:
            if is_combinational(process):
                self._sensitivity(process, unit)
                self._latch(process)
        self._styles(unit)
        self._writers(unit)
        self._readers(unit)
        self._clocks(unit)

    # ---- one process ----

    def _sensitivity(self, process: Process, unit: Unit) -> None:
        """A signal that is read but not waited for: simulation keeps an old result where hardware follows the signal."""
        if process.kind != "always" or not process.explicit:
            return
        sense = {r.signal for s in process.sense or () for r in walk.reads_of(s.expr)}
        written = {p.signal for p in walk.writes(process.body)}
        inside = tuple(f"{sub.path}." for sub in unit.subprograms)  # what a function keeps to itself is no input
        missing: dict[Signal, None] = {}
        for ref in walk.reads(process.body, into_calls=True):
            signal = ref.signal
            own = signal in written or signal.kind == "local" or signal.implicit or signal.name.startswith(inside)
            if signal not in sense and not own:
                missing[signal] = None
        if missing:
            names = ", ".join(f"'{s.name}'" for s in missing)
            verb = "is" if len(missing) == 1 else "are"
            self.warn(
                process.pos,
                f"{names} {verb} read here but missing from the sensitivity list: hardware follows, the simulation keeps the old result; "
                "write @* instead",
                "sensitivity",
                self._every_signal(process.pos),
            )

    def _every_signal(self, pos: int) -> Mend | None:
        """The list of signals behind `always`, as it is written, becomes @*."""
        sources = self.diagnostics.sources
        source = sources.owner(pos)
        written = _LIST.match(source.text, pos - source.base) if source else None
        if written is None:
            return None
        return replacement(sources, pos + written.start(1) - written.start(), written[1], "@*", "Wait for every signal: @*")

    def _latch(self, process: Process) -> None:
        """A signal that some path through a combinational process leaves as it was."""
        if process.latch:
            return
        always = _assigned(process.body) or set()
        told: set[Signal] = set()
        for s in walk.statements(process.body):
            for place in walk.targets(s) if isinstance(s, (n.Assign, n.Schedule)) else ():
                signal = place.signal
                if (
                    signal not in always
                    and signal not in told
                    and signal.kind != "local"
                    and not signal.implicit
                    and not signal.dims
                    and place.bits is None
                ):
                    if _is_counter(signal):
                        continue
                    told.add(signal)
                    self.warn(
                        self.pos(s.site),
                        f"'{signal.name}' keeps its value on some path through this process: hardware gets a latch; assign it on every "
                        "path, or give it a value first",
                        "latch",
                    )

    # ---- all processes of a unit ----

    def _styles(self, unit: Unit) -> None:
        """Blocking and nonblocking assignment to one variable: what is seen when depends on the order of processes."""
        blocking: dict[Signal, int] = {}
        nonblocking: dict[Signal, int] = {}
        for process in unit.processes:
            if process.hidden or process.kind not in ("always", "always_comb"):
                continue
            for s in walk.statements(process.body):
                if isinstance(s, (n.Assign, n.Schedule)):
                    kept = nonblocking if isinstance(s, n.Schedule) else blocking
                    for place in s.target:
                        if place.signal.kind != "local" and not place.signal.implicit:
                            kept.setdefault(place.signal, self.pos(s.site))
        for signal in blocking.keys() & nonblocking.keys():
            first, second = sorted((blocking[signal], nonblocking[signal]))
            style = "blocking" if second == blocking[signal] else "nonblocking"
            other = "nonblocking" if style == "blocking" else "blocking"
            self.warn(
                second,
                f"'{signal.name}' has a {style} assignment here and a {other} one in line {self.line(first)}: mixing them makes its value "
                "depend on the order of events",
                "mixed-assignment",
            )

    def _writers(self, unit: Unit) -> None:
        """A variable that two processes write."""
        found: dict[Signal, tuple[Process, int]] = {}
        for process in unit.processes:
            if process.hidden or process.kind not in ("always", "always_comb"):
                continue
            mine: dict[Signal, int] = {}
            for s in walk.statements(process.body):
                if isinstance(s, (n.Assign, n.Schedule)):
                    for place in s.target:
                        signal = place.signal
                        if signal.kind == "var" and not signal.dims and place.bits is None and not signal.implicit:
                            mine.setdefault(signal, self.pos(s.site))
            for signal, pos in mine.items():
                if signal in found and found[signal][0] is not process and not (process.strict or found[signal][0].strict):
                    line = self.line(found[signal][1])
                    self.warn(
                        pos,
                        f"'{signal.name}' is also written by the process of line {line}: hardware has one driver",
                        "two-writers",
                    )
                else:
                    found[signal] = (process, pos)

    def _readers(self, unit: Unit) -> None:
        """A variable that one clocked process assigns with '=' and another one reads at the same edge: who is first is open."""
        written: dict[Signal, tuple[Process, int]] = {}
        for process in unit.processes:
            if is_clocked(process):
                for s in walk.statements(process.body):
                    if isinstance(s, n.Assign):
                        for place in s.target:
                            if place.signal.kind == "var" and not place.signal.implicit:
                                written.setdefault(place.signal, (process, self.pos(s.site)))
        told: set[Signal] = set()
        for process in unit.processes:
            if not is_clocked(process):
                continue
            for ref in walk.reads(process.body, into_calls=True):
                signal = ref.signal
                if signal in written and signal not in told:
                    other, pos = written[signal]
                    if other is not process and _clock(other) == _clock(process):
                        told.add(signal)
                        message = (
                            f"'{signal.name}' is assigned with '=' here and read at the same edge by the process of line {self.line(process.pos)}: "
                            "which comes first is open; assign it with '<='"
                        )
                        self.warn(pos, message, "race")

    def _clocks(self, unit: Unit) -> None:
        """A clock made by a nonblocking assignment is late: what the other clock changed has changed already."""
        made: dict[Signal, tuple[tuple[Signal, str] | None, int]] = {}
        registered: dict[Signal, tuple[Signal, str] | None] = {}
        for process in unit.processes:
            if is_clocked(process):
                for s in walk.statements(process.body):
                    if isinstance(s, n.Schedule):
                        for place in s.target:
                            registered[place.signal] = _clock(process)
                            made.setdefault(place.signal, (_clock(process), self.pos(s.site)))
        for process in unit.processes:
            clock = _clock(process) if is_clocked(process) else None
            if clock is None or clock[0] not in made:
                continue
            root, pos = made[clock[0]]
            for ref in walk.reads(process.body, into_calls=True):
                signal = ref.signal
                if root is not None and registered.get(signal) == root and signal is not clock[0]:
                    message = (
                        f"'{clock[0].name}' is a clock that a nonblocking assignment makes: '{signal.name}' of the clock '{root[0].name}' has its new "
                        f"value when the process of line {self.line(process.pos)} reads it; in hardware the old one is read"
                    )
                    self.warn(pos, message, "clock-assignment")
                    break


def is_clocked(process: Process) -> bool:
    """A process that hardware would make of registers."""
    return (
        process.kind == "always"
        and process.sense is not None
        and not process.hidden
        and bool(process.sense)
        and all(s.edge in ("posedge", "negedge") for s in process.sense)
    )


def _clock(process: Process) -> tuple[Signal, str] | None:
    """Signal and edge of the clock: the edge whose signal the process does not test."""
    tested: set[Signal] = set()
    for s in process.body[:1]:
        if isinstance(s, n.If):
            tested = {r.signal for r in walk.reads_of(s.cond)}
    for sense in process.sense or ():
        if isinstance(sense.expr, n.Ref) and sense.expr.signal not in tested:
            return sense.expr.signal, sense.edge
    return None


def is_combinational(process: Process) -> bool:
    """A process that hardware would be made of gates only: level-sensitive, writes something, doesn't wait or print."""
    if process.kind not in ("always", "always_comb") or process.sense is None or process.hidden:
        return False
    if any(s.edge != "any" or isinstance(s.expr.type, EventType) for s in process.sense):
        return False
    body = list(walk.statements(process.body))
    if any(isinstance(s, (n.SysTask, n.Force, n.Trigger, n.CallTask)) for s in body) or walk.suspends(process.body):
        return False
    return any(isinstance(s, (n.Assign, n.Schedule)) for s in body)


def _assigned(body: Iterable[n.Stmt]) -> set[Signal] | None:
    """The signals written as a whole on every path through the statements; None if the source says that none is ever taken."""
    found: set[Signal] = set()
    for s in body:
        match s:
            case n.Assign() | n.Schedule():
                found |= {p.signal for p in s.target}
            case n.If(then=then, other=other):
                found |= _in_all([_assigned(then), _assigned(other)])
            case n.Case():
                found |= _assigned_in_case(s)
            case n.Block(never=True):
                return None
            case n.Block(body=inner) | n.Loop(body=inner) | n.RepeatLoop(body=inner):
                found |= _assigned(inner) or set()
            case n.Leave():
                break
    return found


def _in_all(branches: list[set[Signal] | None]) -> set[Signal]:
    taken = [b for b in branches if b is not None]
    return set.intersection(*taken) if taken else set()


def _assigned_in_case(s: n.Case) -> set[Signal]:
    labels = [label for given, _ in s.arms for label in given]
    full = any(not given for given, _ in s.arms) or _covers(s, labels)
    return _in_all([_assigned(body) for _, body in s.arms]) if full else set()


def _covers(s: n.Case, labels: list[n.Expr]) -> bool:
    """Whether constant labels name every value of the subject."""
    subject = s.subject.a if isinstance(s.subject, n.Resize) else s.subject
    width = subject.type.width if isinstance(subject.type, Vec) else 64
    if width > 12:
        return False
    seen: set[int] = set()
    for label in labels:
        if not isinstance(label, n.Const):
            return False
        unknown = label.unk & ((1 << width) - 1)
        if unknown and s.kind == "case":
            continue
        seen |= set(_values(label.val & ~unknown, unknown))
    return len({v & ((1 << width) - 1) for v in seen}) == 1 << width


def _values(value: int, free: int) -> Iterator[int]:
    sub = free
    while True:
        yield value | sub
        if not sub:
            return
        sub = (sub - 1) & free


def _is_counter(signal: Signal) -> bool:
    """An integer variable: in a combinational process it counts the rounds of a loop."""
    return isinstance(signal.type, Vec) and signal.type.width == 32 and signal.type.signed
