"""Findings about an elaborated design that predict a difference between simulation and hardware. All are warnings.

A finding is silenced at its place by a comment on its line: `// mevrik: allow CODE`.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import EventType, Vec
from mevrik.design.unit import Design, Process, Signal, Unit
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.source import Place

_ALLOW = re.compile(r"mevrik:\s*allow\s+([\w\-, ]+)")


def allowed(place: Place, code: str) -> bool:
    """Whether a comment on the line allows what the code stands for."""
    match = _ALLOW.search(place.text)
    return match is not None and code in re.split(r"[,\s]+", match[1])


class Findings:
    """Looks at each unit of a design once."""

    def __init__(self, design: Design, diagnostics: Diagnostics) -> None:
        self.design = design
        self.diagnostics = diagnostics

    def run(self) -> None:
        for unit in self.design.units:
            for process in unit.processes:
                if _is_combinational(process):
                    self._sensitivity(process)
                    self._latch(process)
                self._comparisons(process)
            self._styles(unit)
            self._writers(unit)

    def _warn(self, pos: int, message: str, code: str) -> None:
        if pos and not allowed(self.diagnostics.sources.place(pos), code):
            self.diagnostics.warning(pos, message, code)

    def _pos(self, site: int) -> int:
        return self.design.sites[site].pos if 0 < site < len(self.design.sites) else 0

    def _line(self, pos: int) -> int:
        return self.diagnostics.sources.place(pos).line

    # ---- one process ----

    def _sensitivity(self, process: Process) -> None:
        """A signal that is read but not waited for: simulation keeps an old result where hardware follows the signal."""
        if process.kind != "always" or not process.explicit:
            return
        sense = {walk.owner(r.signal) for s in process.sense or () for r in walk.reads_of(s.expr)}
        written = {walk.owner(p.signal) for p in walk.writes(process.body)}
        missing: dict[Signal, None] = {}
        for ref in walk.reads(process.body, into_calls=True):
            signal = walk.owner(ref.signal)
            if signal not in sense and signal not in written and signal.kind != "local" and not signal.implicit:
                missing[signal] = None
        if missing:
            names = ", ".join(f"'{s.name}'" for s in missing)
            verb = "is" if len(missing) == 1 else "are"
            self._warn(
                process.pos,
                f"{names} {verb} read here but missing from the sensitivity list: hardware follows, the simulation keeps the old result; "
                "write @* instead",
                "sensitivity",
            )

    def _latch(self, process: Process) -> None:
        """A signal that some path through a combinational process leaves as it was."""
        if process.latch:
            return
        always = _assigned(process.body)
        told: set[Signal] = set()
        for s in walk.statements(process.body):
            for place in walk.targets(s) if isinstance(s, (n.Assign, n.Schedule)) else ():
                signal = walk.owner(place.signal)
                if (
                    signal not in always
                    and signal not in told
                    and signal.kind != "local"
                    and not signal.dims
                    and place.bits is None
                ):
                    if _is_counter(signal):
                        continue
                    told.add(signal)
                    self._warn(
                        self._pos(s.site),
                        f"'{signal.name}' keeps its value on some path through this process: hardware gets a latch; assign it on every "
                        "path, or give it a value first",
                        "latch",
                    )

    def _comparisons(self, process: Process) -> None:
        """A comparison with a constant that the other side can't reach."""
        for s in walk.statements(process.body):
            for top in walk.own_expressions(s):
                for e in walk.expressions(top):
                    if isinstance(e, n.Binary) and e.op in ("==", "==="):
                        self._compare(s, e)

    def _compare(self, s: n.Stmt, e: n.Binary) -> None:
        for a, b in ((e.a, e.b), (e.b, e.a)):
            inner = a.a if isinstance(a, n.Resize) else a
            if isinstance(b, n.Const) and not b.unk and isinstance(inner, (n.Ref, n.Bits)) and isinstance(inner.type, Vec):
                if not inner.type.signed and b.val >> inner.type.width:
                    message = f"this comparison is never true: {b.val} does not fit into {inner.type.width} bits"
                    self._warn(self._pos(s.site), message, "never-true")

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
                            kept.setdefault(walk.owner(place.signal), self._pos(s.site))
        for signal in blocking.keys() & nonblocking.keys():
            first, second = sorted((blocking[signal], nonblocking[signal]))
            style = "blocking" if second == blocking[signal] else "nonblocking"
            other = "nonblocking" if style == "blocking" else "blocking"
            self._warn(
                second,
                f"'{signal.name}' has a {style} assignment here and a {other} one in line {self._line(first)}: mixing them makes its value "
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
                        signal = walk.owner(place.signal)
                        if signal.kind == "var" and not signal.dims and place.bits is None and not signal.implicit:
                            mine.setdefault(signal, self._pos(s.site))
            for signal, pos in mine.items():
                if signal in found and found[signal][0] is not process:
                    line = self._line(found[signal][1])
                    self._warn(
                        pos,
                        f"'{signal.name}' is also written by the process of line {line}: hardware has one driver",
                        "two-writers",
                    )
                else:
                    found[signal] = (process, pos)


def _is_combinational(process: Process) -> bool:
    """A process that hardware would be made of gates only: level-sensitive, writes something, doesn't wait or print."""
    if process.kind not in ("always", "always_comb") or process.sense is None or process.hidden:
        return False
    if any(s.edge != "any" or isinstance(s.expr.type, EventType) for s in process.sense):
        return False
    body = list(walk.statements(process.body))
    if any(isinstance(s, (n.SysTask, n.Force, n.Trigger, n.CallTask)) for s in body) or walk.suspends(process.body):
        return False
    return any(isinstance(s, (n.Assign, n.Schedule)) for s in body)


def _assigned(body: Iterable[n.Stmt]) -> set[Signal]:
    """The signals written as a whole on every path through the statements."""
    found: set[Signal] = set()
    for s in body:
        match s:
            case n.Assign() | n.Schedule():
                found |= {walk.owner(p.signal) for p in s.target}
            case n.If(then=then, other=other):
                found |= _assigned(then) & _assigned(other)
            case n.Case():
                found |= _assigned_in_case(s)
            case n.Block(body=inner) | n.Loop(body=inner) | n.RepeatLoop(body=inner):
                found |= _assigned(inner)
            case n.Leave():
                break
    return found


def _assigned_in_case(s: n.Case) -> set[Signal]:
    arms = [_assigned(body) for _, body in s.arms]
    if not arms:
        return set()
    labels = [label for given, _ in s.arms for label in given]
    full = any(not given for given, _ in s.arms) or _covers(s, labels)
    return set.intersection(*arms) if full else set()


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


def look(design: Design, diagnostics: Diagnostics) -> None:
    """Add the findings about a design."""
    Findings(design, diagnostics).run()
