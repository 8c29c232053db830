"""Findings about single processes: sensitivity, latches (IEEE 1364-2005 9.7.5); and about what several of them do to one variable."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.evaluate import Evaluator, NotConstant
from mevrik.design.types import Vec
from mevrik.design.unit import Process, Signal, Unit
from mevrik.design.values import Logic
from mevrik.lang.diagnostics import Mend, replacement
from mevrik.lang.findings.base import Looker
from mevrik.lang.findings.bodies import Body

_LIST = re.compile(r"always\s*(@\s*\([^()]*\))")


class ProcessFindings(Looker):
    def look(self, unit: Unit) -> None:
        procedures = [self.bodies.of(p) for p in unit.processes if not p.hidden and p.kind in ("always", "always_comb")]
        registers = [body for body in procedures if body.clocked]
        for body in procedures:
            if body.combinational and self._edge_is_missing(body):
                continue
            if body.combinational:
                self._sensitivity(body.process, unit)
                self._latch(body.process)
            else:
                self._edges_and_levels(body)
                self._reset_against_its_edge(body)
        self._styles(procedures)
        self._writers(procedures)
        self._readers(registers)
        self._clocks(registers)

    # ---- one process ----

    def _sensitivity(self, process: Process, unit: Unit) -> None:
        """A signal that is read but not waited for: simulation keeps an old result where hardware follows the signal."""
        if process.kind != "always" or not process.explicit:
            return
        sense = {r.signal for s in process.sense or () for r in walk.reads_of(s.expr)}
        written = {p.signal for p in self.bodies.of(process).writes}
        inside = tuple(f"{sub.path}." for sub in unit.subprograms)  # what a function keeps to itself is no input
        missing: dict[Signal, None] = {}
        for ref in self.bodies.of(process).all_reads:
            signal = ref.signal
            own = signal in written or signal.kind == "local" or signal.implicit or signal.name.startswith(inside)
            if signal not in sense and not own:
                missing[signal] = None
        if missing:
            names = ", ".join(f"'{s.name.removeprefix('^.')}'" for s in missing)  # also those seen through a port of interface
            verb = "is" if len(missing) == 1 else "are"
            self.warn(
                process.pos,
                f"{names} {verb} read here but missing from the sensitivity list: hardware follows, the simulation keeps the old result; "
                "write @* instead",
                "sensitivity",
                self._every_signal(process.pos),
            )

    def _edge_is_missing(self, body: Body) -> bool:
        """`always @(clk)` before nonblocking assignments that don't read the clock: told instead of what else would follow from it."""
        sense = {r.signal for s in body.process.sense or () for r in walk.reads_of(s.expr)}
        written = [s for s in body.statements if isinstance(s, (n.Assign, n.Schedule))]
        read = {r.signal for r in body.all_reads}
        if not body.process.explicit or len(sense) != 1 or sense & read or not all(isinstance(s, n.Schedule) for s in written):
            return False
        name = next(iter(sense)).name
        message = f"this runs at both edges of '{name}', which it doesn't read: a register takes one; write posedge {name} or negedge {name}"
        self.warn(body.process.pos, message, "edge-missing")
        return True

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
        for s in self.bodies.of(process).statements:
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

    def _reset_against_its_edge(self, body: Body) -> None:
        """`negedge rst_n` with `if (rst_n)`, or the like: at the edge of the reset the process does what belongs to the clock."""
        sense = body.process.sense or ()
        first = next(iter(body.process.body), None)
        while isinstance(first, n.Block):
            first = next(iter(first.body), None)
        if len(sense) < 2 or not isinstance(first, n.If) or not first.other:
            return
        read = {ref.signal for ref in walk.reads_of(first.cond)}
        for s in sense:
            signals = [ref.signal for ref in walk.reads_of(s.expr)]
            both = sum(bool({ref.signal for ref in walk.reads_of(x.expr)} & read) for x in sense) > 1  # then each is asked for
            if s.edge not in ("posedge", "negedge") or len(signals) != 1 or read != set(signals) or both:
                continue
            level = int(s.edge == "posedge")
            if _holds_at(first.cond, signals[0], level) is False and _holds_at(first.cond, signals[0], 1 - level):
                name, other = signals[0].name, "negedge" if level else "posedge"
                message = (
                    f"the process waits for the {s.edge} of '{name}', but its first branch is for '{name}' being {1 - level}: at that edge it "
                    f"does what belongs to the clock; test for {level}, or wait for the {other}"
                )
                self.warn(self.pos(first.site), message, "reset-edge")

    def _edges_and_levels(self, body: Body) -> None:
        """A register that takes a new value at an edge, and also whenever some other signal changes in either direction."""
        sense = body.process.sense or ()
        levels = [s for s in sense if s.edge == "any"]
        if not levels or len(levels) == len(sense) or not any(isinstance(s, n.Schedule) for s in body.statements):
            return
        names = ", ".join(f"'{ref.signal.name}'" for s in levels for ref in walk.reads_of(s.expr))
        message = f"this register also runs at each change of {names}, up and down: hardware has none like it; write posedge or negedge before it"
        self.warn(body.process.pos, message, "edge-and-level")

    # ---- all processes of a unit ----

    def _styles(self, procedures: list[Body]) -> None:
        """Blocking and nonblocking assignment to one variable: what is seen when depends on the order of processes."""
        blocking: dict[Signal, int] = {}
        nonblocking: dict[Signal, int] = {}
        for body in procedures:
            for s, place in body.assigned:
                if place.signal.kind != "local" and not place.signal.implicit:
                    (nonblocking if isinstance(s, n.Schedule) else blocking).setdefault(place.signal, s.site)
        for signal in blocking.keys() & nonblocking.keys():
            first, second = sorted((self.pos(blocking[signal]), self.pos(nonblocking[signal])))
            style = "blocking" if second == self.pos(blocking[signal]) else "nonblocking"
            other = "nonblocking" if style == "blocking" else "blocking"
            self.warn(
                second,
                f"'{signal.name}' has a {style} assignment here and a {other} one in line {self.line(first)}: mixing them makes its value "
                "depend on the order of events",
                "mixed-assignment",
            )

    def _writers(self, procedures: list[Body]) -> None:
        """A variable that two processes write."""
        found: dict[Signal, tuple[Process, int]] = {}
        for body in procedures:
            process = body.process
            mine: dict[Signal, int] = {}
            for s, place in body.assigned:
                signal = place.signal
                if signal.kind == "var" and not signal.dims and place.bits is None and not signal.implicit:
                    mine.setdefault(signal, s.site)
            for signal, site in mine.items():
                if signal in found and found[signal][0] is not process and not (process.strict or found[signal][0].strict):
                    line = self.line(self.pos(found[signal][1]))
                    self.warn(
                        self.pos(site),
                        f"'{signal.name}' is also written by the process of line {line}: hardware has one driver",
                        "two-writers",
                    )
                else:
                    found[signal] = (process, site)

    def _readers(self, registers: list[Body]) -> None:
        """A variable that one clocked process assigns with '=' and another one reads at the same edge: who is first is open."""
        written: dict[Signal, tuple[Body, int]] = {}
        for body in registers:
            for s, place in body.assigned:
                if isinstance(s, n.Assign) and place.signal.kind == "var" and not place.signal.implicit:
                    written.setdefault(place.signal, (body, s.site))
        if not written:
            return
        told: set[Signal] = set()
        for body in registers:
            for ref in body.all_reads:
                signal = ref.signal
                if signal in written and signal not in told:
                    other, site = written[signal]
                    if other is not body and other.clock == body.clock:
                        told.add(signal)
                        message = (
                            f"'{signal.name}' is assigned with '=' here and read at the same edge by the process of line "
                            f"{self.line(body.process.pos)}: which comes first is open; assign it with '<='"
                        )
                        self.warn(self.pos(site), message, "race")

    def _clocks(self, registers: list[Body]) -> None:
        """A clock made by a nonblocking assignment is late: what the other clock changed has changed already."""
        made: dict[Signal, tuple[tuple[Signal, str] | None, int]] = {}
        registered: dict[Signal, tuple[Signal, str] | None] = {}
        for body in registers:
            for s, place in body.assigned:
                if isinstance(s, n.Schedule):
                    registered[place.signal] = body.clock
                    made.setdefault(place.signal, (body.clock, s.site))
        for body in registers:
            clock = body.clock
            if clock is None or clock[0] not in made:
                continue
            root, site = made[clock[0]]
            for ref in body.all_reads:
                signal = ref.signal
                if root is not None and registered.get(signal) == root and signal is not clock[0]:
                    message = (
                        f"'{clock[0].name}' is a clock that a nonblocking assignment makes: '{signal.name}' of the clock '{root[0].name}' has its new "
                        f"value when the process of line {self.line(body.process.pos)} reads it; in hardware the old one is read"
                    )
                    self.warn(self.pos(site), message, "clock-assignment")
                    break


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


def _holds_at(cond: n.Expr, signal: Signal, level: int) -> bool | None:
    """Whether a condition that reads one signal holds where that is 0 or 1; None where that isn't known."""
    if not isinstance(signal.type, Vec) or signal.type.width != 1:
        return None
    try:
        found = Evaluator(lambda s, element: Logic(1, level)).logic(cond)
    except NotConstant:
        return None
    return None if found.unk else bool(found.val)
