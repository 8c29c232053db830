"""Timing checks of two events in either order, with a timer, or with a level (IEEE 1364-2005 15.3.4, 15.3.5, 15.3.6)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import BIT, TIME
from mevrik.design.unit import Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.checks import CheckElaborator

_NOTHING = n.Const(TIME, 0)


def skew(checks: CheckElaborator, tree: ast.TimingCheck, a: list[ast.CheckEvent | None]) -> None:
    if tree.name == "$nochange":
        NoChange(checks, tree, a)
    elif tree.name == "$timeskew":
        Skew(checks, tree, a, a[2], None, *a[3:6])
    else:
        Skew(checks, tree, a, a[2], a[3], *a[4:7])


class _Check:
    """What these checks share. A stamp is the time of an event plus one; 0 means that none is waited for."""

    def __init__(self, checks: CheckElaborator, tree: ast.TimingCheck) -> None:
        self.checks, self.tree = checks, tree
        self.elab = checks.elab
        self.site = self.elab.context.site(tree.pos, tree.pos + len(tree.name), tree.name)

    def variable(self, what: str) -> Signal:
        self.elab.anonymous += 1
        return self.checks.specify.hidden(f"{self.tree.name[1:]}.{what}.{self.elab.anonymous}", TIME, _NOTHING)

    def now(self) -> n.Expr:
        return n.Binary(TIME, "+", self.checks.specify.now(), n.Const(TIME, 1))

    def put(self, signal: Signal, value: n.Expr) -> n.Stmt:
        return n.Assign(self.site, (whole(signal),), value)

    def when(self, event: ast.CheckEvent, body: list[n.Stmt], otherwise: list[n.Stmt] | None = None) -> None:
        """A process at an event, with its condition."""
        if event.condition is not None:
            body = [n.If(self.site, self.elab.truth(event.condition), body, otherwise or [])]
        self.process(self.checks.sense(event), body)

    def process(self, sense: tuple[n.Sense, ...], body: list[n.Stmt]) -> None:
        self.elab.unit.processes.append(Process("always", body, self.tree.pos, self.elab.scope.prefix, sense, hidden=True))

    def event(self, given: ast.CheckEvent | None) -> ast.CheckEvent:
        if given is None:
            raise self.elab.error(self.tree.pos, f"{self.tree.name} needs its events and limits", "specify")
        return given

    def flag(self, given: ast.CheckEvent | None) -> bool:
        return given is not None and bool(self.elab.constant_int(given.value, f"a flag of {self.tree.name}"))


class Skew(_Check):
    """`$timeskew`: the data may come late by the limit at most; `$fullskew`: so may the reference. By default a timer tells of what
    doesn't come; with the event-based flag an event that comes too late does."""

    def __init__(
        self,
        checks: CheckElaborator,
        tree: ast.TimingCheck,
        a: list[ast.CheckEvent | None],
        data_limit: ast.CheckEvent | None,
        reference_limit: ast.CheckEvent | None,
        notifier: ast.CheckEvent | None,
        event_based: ast.CheckEvent | None,
        remain: ast.CheckEvent | None,
    ) -> None:
        super().__init__(checks, tree)
        reference, data = self.event(a[0]), self.event(a[1])
        self.notifier = notifier
        self.event_based, self.remain = self.flag(event_based), self.flag(remain)
        waiting = self.variable("reference")
        limit = self.checks.limit(self.event(data_limit))
        opened, closed = self._opened(waiting, limit), self._closed(waiting, limit, both=tree.name == "$fullskew")
        asleep: list[n.Stmt] = [] if self.remain else [self.put(waiting, _NOTHING)]
        if tree.name == "$timeskew":
            self.when(reference, opened, asleep)
            self.when(data, [n.If(self.site, self._seen(waiting), closed, [])])
            return
        turned = self.variable("data")
        other = self.checks.limit(self.event(reference_limit))
        turned_closed = self._closed(turned, other, both=True)
        self.when(reference, [n.If(self.site, self._seen(turned), turned_closed, opened)], asleep)
        self.when(data, [n.If(self.site, self._seen(waiting), closed, self._opened(turned, other))])

    def _seen(self, window: Signal) -> n.Expr:
        return n.Binary(BIT, "!=", n.Ref(TIME, window), _NOTHING)

    def _opened(self, window: Signal, limit: n.Expr) -> list[n.Stmt]:
        """What an event does from which on another one is waited for."""
        opened: list[n.Stmt] = [self.put(window, self.now())]
        if not self.event_based:
            timer = self.variable("timer")
            opened.append(n.Schedule(self.site, (whole(timer),), self.now(), limit))
            waits = n.Binary(BIT, "==", n.Ref(TIME, timer), n.Ref(TIME, window))
            tell = [*self.checks.violated(self.tree, self.notifier), self.put(window, _NOTHING)]
            self.process((n.Sense("any", n.Ref(TIME, timer)),), [n.If(self.site, waits, tell, [])])
        return opened

    def _closed(self, window: Signal, limit: n.Expr, both: bool) -> list[n.Stmt]:
        """What the event does that was waited for."""
        asleep: list[n.Stmt] = [self.put(window, _NOTHING)]
        if not self.event_based:
            return asleep
        bad = n.Binary(BIT, ">", n.Binary(TIME, "-", self.now(), n.Ref(TIME, window)), limit)
        told = self.checks.violated(self.tree, self.notifier)
        if both:
            return [n.If(self.site, bad, told, []), *asleep]
        # the check stays awake while the data comes in time, and with the flag also when it doesn't
        return [n.If(self.site, bad, [*told, *([] if self.remain else asleep)], [])]


class NoChange(_Check):
    """`$nochange`: the data may not change while the reference has its level, from the start offset before its leading edge (after
    it, if negative) to the end offset behind its trailing edge (before it, if negative); the ends belong not to it."""

    def __init__(self, checks: CheckElaborator, tree: ast.TimingCheck, a: list[ast.CheckEvent | None]) -> None:
        super().__init__(checks, tree)
        reference, data = self.event(a[0]), self.event(a[1])
        if reference.edge not in ("posedge", "negedge"):
            raise self.elab.error(reference.pos, "the reference of $nochange needs posedge or negedge (15.3.6)", "specify")
        trailing = ast.CheckEvent(
            reference.pos, "negedge" if reference.edge == "posedge" else "posedge", reference.value, reference.condition
        )
        begin, end = (checks.limit(self.event(a[k])) for k in (2, 3))
        led, trailed, changed = (self.variable(x) for x in ("lead", "trail", "data"))
        bad = checks.violated(tree, a[4])
        now = self.now()
        signed = checks.signed

        def seen(signal: Signal) -> n.Expr:
            return n.Binary(BIT, "!=", n.Ref(TIME, signal), _NOTHING)

        def within(time: n.Expr, low: n.Expr, high: n.Expr | None) -> n.Expr:
            inside: n.Expr = n.Binary(BIT, ">", signed(time), low)
            if high is not None:
                inside = n.Binary(BIT, "&&", inside, n.Binary(BIT, "<", signed(time), high))
            return inside

        def both(*conditions: n.Expr) -> n.Expr:
            made = conditions[0]
            for c in conditions[1:]:
                made = n.Binary(BIT, "&&", made, c)
            return made

        data_time, lead_time, trail_time = (n.Ref(TIME, s) for s in (changed, led, trailed))
        start = checks.difference(signed(lead_time), begin)
        # a change before the leading edge
        early = both(seen(changed), within(data_time, checks.difference(signed(now), begin), signed(now)))
        self.when(reference, [n.If(self.site, early, bad, []), self.put(led, now), self.put(trailed, _NOTHING)])
        # a change while the level lasts, unless the window may end before the level; a change behind it
        early_end = n.Binary(BIT, "<", end, checks.signed(_NOTHING))
        lasting = both(seen(led), n.Binary(BIT, "==", trail_time, _NOTHING), n.Unary(BIT, "!", early_end), within(now, start, None))
        behind = both(seen(trailed), within(now, start, checks.sum(signed(trail_time), end)))
        self.when(data, [n.If(self.site, n.Binary(BIT, "||", lasting, behind), bad, []), self.put(changed, now)])
        # the trailing edge tells where such a window ended
        ended = both(seen(led), seen(changed), early_end, within(data_time, start, checks.sum(signed(now), end)))
        self.when(trailing, [n.If(self.site, ended, bad, []), self.put(trailed, now)])
