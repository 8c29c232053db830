"""What stands in the body of a process or a subprogram: walked through once, and asked by all findings."""

from __future__ import annotations

from functools import cached_property

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import EventType
from mevrik.design.unit import Process, Signal, Subprogram, Unit


class Body:
    """`statements` are all of it, those inside of others behind them."""

    def __init__(self, of: Process | Subprogram, bodies: Bodies) -> None:
        self.of = of
        self._bodies = bodies
        self.cell = of.cell if isinstance(of, Process) else None
        self.statements = list(walk.statements(of.body)) if self.cell is None else of.body

    @cached_property
    def parts(self) -> list[tuple[n.Stmt, list[walk.Part]]]:
        """Each statement with the expressions that it evaluates itself, and all that is in them."""
        return [(s, [x for e in walk.own_expressions(s) for x in walk.expressions(e)]) for s in self.statements]

    @cached_property
    def reads(self) -> list[n.Ref]:
        """Every read of a signal, without those in functions and tasks that are called."""
        if self.cell is not None:
            return [n.Ref(signal.type, signal) for signal, _ in self.cell.inputs if signal is not None]
        return [x for _, inside in self.parts for x in inside if isinstance(x, n.Ref)]

    @cached_property
    def writes(self) -> list[n.LRef]:
        """Every place that a statement writes."""
        return [place for s in self.statements for place in walk.targets(s)]

    @cached_property
    def assigned(self) -> list[tuple[n.Assign | n.Schedule, n.LRef]]:
        """Every procedural assignment with each of its places."""
        return [(s, place) for s in self.statements if isinstance(s, (n.Assign, n.Schedule)) for place in s.target]

    @cached_property
    def all_reads(self) -> list[n.Ref]:
        """Every read, also in what is called."""
        return self.reads_in(self.parts, set())

    def reads_in(self, parts: list[tuple[n.Stmt, list[walk.Part]]], seen: set[Subprogram]) -> list[n.Ref]:
        """The reads of some of the statements, also in what they call; of a subprogram that is `seen`, no more."""
        found: list[n.Ref] = []
        for s, inside in parts:
            called = [s.task] if isinstance(s, n.CallTask) else []
            for x in inside:
                if isinstance(x, n.Ref):
                    found.append(x)
                elif isinstance(x, n.Call):
                    called.append(x.function)
            for sub in called:
                if sub not in seen:
                    seen.add(sub)
                    inner = self._bodies.of(sub)
                    found += inner.reads_in(inner.parts, seen)
        return found

    @cached_property
    def reads_by_statement(self) -> dict[int, list[n.Ref]]:
        """By the identity of each statement, what it reads itself, also in what its expressions and it call."""
        return {id(s): self.reads_in([(s, inside)], set()) for s, inside in self.parts}

    # ---- what hardware a process would be ----

    @cached_property
    def clocked(self) -> bool:
        """A process that hardware would make of registers."""
        process = self.process
        return (
            process.kind == "always"
            and bool(process.sense)
            and not process.hidden
            and all(s.edge in ("posedge", "negedge") for s in process.sense or ())
        )

    @cached_property
    def clock(self) -> tuple[Signal, str] | None:
        """Signal and edge of the clock: the edge whose signal the process does not test."""
        process = self.process
        tested: set[Signal] = set()
        for s in process.body[:1]:
            if isinstance(s, n.If):
                tested = {r.signal for r in walk.reads_of(s.cond)}
        for sense in process.sense or ():
            if isinstance(sense.expr, n.Ref) and sense.expr.signal not in tested:
                return sense.expr.signal, sense.edge
        return None

    @cached_property
    def combinational(self) -> bool:
        """A process that hardware would be made of gates only: level-sensitive, writes something, doesn't wait or print."""
        process = self.process
        if process.kind not in ("always", "always_comb") or process.sense is None or process.hidden:
            return False
        if any(s.edge != "any" or isinstance(s.expr.type, EventType) for s in process.sense):
            return False
        if any(isinstance(s, (n.SysTask, n.Force, n.Trigger, n.CallTask)) or walk.waits(s) for s in self.statements):
            return False
        return any(isinstance(s, (n.Assign, n.Schedule)) for s in self.statements)

    @property
    def process(self) -> Process:
        assert isinstance(self.of, Process)
        return self.of


class Bodies:
    """The bodies of a design, each walked through when it is first asked for."""

    def __init__(self) -> None:
        self._made: dict[Process | Subprogram, Body] = {}

    def of_unit(self, unit: Unit) -> list[Body]:
        """Of its processes that are written in the text, and its subprograms."""
        return [*(self.of(p) for p in unit.processes if not p.hidden), *(self.of(s) for s in unit.subprograms)]

    def of(self, owner: Process | Subprogram) -> Body:
        made = self._made.get(owner)
        if made is None:
            made = self._made[owner] = Body(owner, self)
        return made
