"""What the values that a combinational process gives depend on: statement by statement, through its own variables and its conditions."""

from __future__ import annotations

from collections.abc import Iterable

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.unit import Process, Signal
from mevrik.lang.findings.bodies import Bodies

Sources = dict[Signal, set[Signal]]  # by what is written: the signals outside of the process that its value is made of


class Flow:
    """`sources` after a process has run once; `partly` holds the signals of which it writes parts, `sites` who wrote last."""

    def __init__(self, process: Process, bodies: Bodies) -> None:
        self._bodies = bodies
        self._reads = bodies.of(process).reads_by_statement
        self.sources: Sources = {}
        self.partly: set[Signal] = set()
        self.sites: dict[Signal, int] = {}
        self._run(process.body, self.sources, set())

    def _of(self, reads: Iterable[n.Ref], known: Sources) -> set[Signal]:
        found: set[Signal] = set()
        for r in reads:
            signal = r.signal
            if signal in known:
                found |= known[signal]
            elif signal.kind != "local":
                found.add(signal)
        return found

    def _run(self, body: Iterable[n.Stmt], known: Sources, control: set[Signal]) -> None:
        for s in body:
            own = self._of(self._reads[id(s)], known) | control
            match s:
                case n.Block(body=inner):
                    self._run(inner, known, control)
                case n.If(then=then, other=other):
                    self._either((then, other), known, own)
                case n.Case(arms=arms):
                    bodies = [inner for _, inner in arms]
                    self._either(bodies if any(not labels for labels, _ in arms) else [*bodies, []], known, own)
                case n.Loop() | n.RepeatLoop() | n.Fork():
                    for _ in range(2):  # what one round leaves the next one reads
                        self._either([[], [x for inner in walk.nested(s) for x in inner]], known, own)
                case _:
                    self._write(s, known, own)

    def _either(self, bodies: Iterable[list[n.Stmt]], known: Sources, control: set[Signal]) -> None:
        """One of several goes on."""
        ends = []
        for body in bodies:
            ends.append(dict(known))
            self._run(body, ends[-1], control)
        for signal in {s for end in ends for s in end}:
            known[signal] = set().union(*(end.get(signal, set()) for end in ends))

    def _write(self, s: n.Stmt, known: Sources, own: set[Signal]) -> None:
        places = list(walk.targets(s))
        if isinstance(s, n.CallTask):
            places += [p for p in self._bodies.of(s.task).writes if p.signal.kind != "local"]
        for place in places:
            signal = place.signal
            self.sites[signal] = s.site
            if place.bits is None and place.element is None and not isinstance(s, n.CallTask):
                known[signal] = set(own)
            else:
                known[signal] = known.get(signal, set()) | own
                if not isinstance(s, n.CallTask):
                    self.partly.add(signal)
