"""Timing checks (IEEE 1364-2005 clause 15): processes that compare the times of two events, tell, and flip the notifier."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import BIT, TIME, Vec
from mevrik.design.unit import DelaySpot, Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.folding import fold_resize
from mevrik.lang.verilog.elaborate.skews import skew
from mevrik.lang.verilog.elaborate.specify import SpecifyElaborator, written

_SIGNED = Vec(64, True)
_OPPOSITE = {"posedge": "negedge", "negedge": "posedge"}


_EDGES = {frozenset(("01", "0x", "x1")): "posedge", frozenset(("10", "1x", "x0")): "negedge"}


class CheckElaborator:
    def __init__(self, specify: SpecifyElaborator) -> None:
        self.specify = specify
        self.elab = specify.elab
        self.delayed: dict[Signal, tuple[ast.CheckEvent, int]] = {}  # the nets of delayed events: what they follow, how much later
        self.changes: dict[int, n.Expr] = {}  # by the position of an event that names its edges: what flips at each of them

    def check(self, tree: ast.TimingCheck) -> None:
        """One timing check. The event that comes second tests how long ago the first one was."""
        a = [*tree.args, *[None] * 9]
        first, second = a[0], a[1]
        if first is None or second is None:
            raise self.elab.error(tree.pos, f"{tree.name} needs its events and a limit", "specify")
        name = tree.name
        self._variable_limits(tree, a)
        if name in ("$setuphold", "$recrem"):
            self._delayed_events(tree, a)
        if name == "$setup":  # data, reference, limit
            self._pair(tree, first, second, a[2], a[3], strict=True)
        elif name in ("$hold", "$skew"):  # reference, data, limit
            self._pair(tree, first, second, a[2], a[3], strict=False, late=name == "$skew")
        elif name == "$setuphold":
            self._pair(tree, _if(second, a[5]), _if(first, a[6]), a[2], a[4], strict=True, other=a[3])
            self._pair(tree, _if(first, a[5]), _if(second, a[6]), a[3], a[4], strict=False, other=a[2])
        elif name == "$recovery":  # control, clock, limit
            self._pair(tree, first, second, a[2], a[3], strict=True)
        elif name == "$removal":  # control, clock, limit: the control may not go soon after the clock
            self._pair(tree, second, first, a[2], a[3], strict=True)
        elif name == "$recrem":
            self._pair(tree, _if(first, a[5]), _if(second, a[6]), a[2], a[4], strict=True, other=a[3])
            self._pair(tree, _if(second, a[5]), _if(first, a[6]), a[3], a[4], strict=True, other=a[2])
        elif name == "$period":
            self._pair(tree, first, first, second, a[2], strict=True)
        elif name == "$width":
            opposite = ast.CheckEvent(first.pos, _OPPOSITE.get(first.edge, ""), first.value, first.condition)
            self._pair(tree, first, opposite, second, a[3], strict=True, threshold=a[2])
        else:
            skew(self, tree, a)

    def _delayed_events(self, tree: ast.TimingCheck, a: list[ast.CheckEvent | None]) -> None:
        """The nets by which the model sees its inputs late enough that no limit is negative (15.5.1)."""
        before, after = (2, 3) if tree.name == "$setuphold" else (3, 2)  # what delays the reference, what delays the data
        for event, given, limit in ((a[0], a[7], a[before]), (a[1], a[8], a[after])):
            if event is None or given is None:
                continue
            signal = self.elab.place(given.value)[0].signal
            late = self.elab.ticks(limit.value) if limit is not None else None
            least = (1 << 64) - late.val if isinstance(late, n.Const) and late.val >> 63 else 0
            known = self.delayed.get(signal)
            self.delayed[signal] = (event, max(least, known[1] if known is not None else 0))

    def finish(self) -> None:
        """Drive the nets of delayed events."""
        elab = self.elab
        for signal, (event, ticks) in self.delayed.items():
            site = elab.context.site(event.pos, event.pos, "delayed event")
            value = fold_resize(elab.expr(event.value), Vec(n.vec(n.Ref(signal.type, signal)).width))
            target = (n.LRef(signal, None, None, n.vec(value).width),)
            delay = n.Const(TIME, ticks)
            if ticks:
                hidden = self.specify.hidden(f"{signal.name}.late", Vec(n.vec(value).width), None)
                body: n.Stmt = n.Schedule(site, (n.LRef(hidden, None, None, n.vec(value).width),), value, delay)
                elab.unit.processes.append(
                    Process("always_comb", [body], event.pos, elab.scope.prefix, (n.Sense("any", value),), hidden=True)
                )
                value = n.Ref(hidden.type, hidden)
            drive = n.Drive(site, target, value)
            elab.unit.processes.append(Process("assign", [drive], event.pos, elab.scope.prefix, sensitivity([drive]), hidden=True))

    def _variable_limits(self, tree: ast.TimingCheck, a: list[ast.CheckEvent | None]) -> None:
        """Limits as variables of the instance, if a delay file may change them."""
        elab = self.elab
        self.limits: dict[int, n.Expr] = {}
        if not elab.context.annotated or a[0] is None:
            return
        single = tree.name in ("$width", "$period")
        where = [1] if single else [2, 3] if tree.name in ("$setuphold", "$recrem") else [2]
        made: list[Signal] = []
        for k in where:
            limit = a[k]
            ticks = elab.ticks(limit.value) if limit is not None else None
            if limit is None or not isinstance(ticks, n.Const):
                return
            made.append(self.specify.hidden(f"{tree.name[1:]}.limit.{len(elab.unit.delays)}.{k}", TIME, ticks))
            self.limits[id(limit)] = n.Ref(TIME, made[-1])
        second = a[1] if not single else None
        other = (written(second.value), second.edge) if second is not None else ("", "")
        elab.unit.delays.append(DelaySpot("check", written(a[0].value), a[0].edge, other[0], other[1], made, tree.name))

    def _pair(
        self,
        tree: ast.TimingCheck,
        early: ast.CheckEvent,
        late_event: ast.CheckEvent,
        limit: ast.CheckEvent | None,
        notifier: ast.CheckEvent | None,
        strict: bool,
        late: bool = False,
        other: ast.CheckEvent | None = None,
        threshold: ast.CheckEvent | None = None,
    ) -> None:
        """A violation if `late_event` comes less than the limit after `early` (with `late`: more). `strict`: events of one
        moment don't violate. `other` is the limit at the other side of the same window, which when negative moves that side past
        the events (15.2.3); pulses up to the `threshold` are no violation (15.3.4)."""
        elab = self.elab
        if limit is None:
            return
        ticks = self.limit(limit)
        if isinstance(ticks, n.Const) and ticks.val >> 63:
            return
        stamp = self._stamp(tree, early)
        site = elab.context.site(tree.pos, tree.pos + len(tree.name), tree.name)
        now = n.Binary(TIME, "+", self.specify.now(), n.Const(TIME, 1))
        passed = n.Binary(_SIGNED, "-", now, n.Ref(TIME, stamp))
        bad: n.Expr = n.Binary(BIT, ">" if late else "<", passed, ticks)
        bad = n.Binary(BIT, "&&", n.Binary(BIT, "!=", n.Ref(TIME, stamp), n.Const(TIME, 0)), bad)
        if strict:
            bad = n.Binary(BIT, "&&", bad, n.Binary(BIT, "!=", passed, n.Const(TIME, 0)))
        if other is not None:
            bad = self._within(bad, passed, self.limit(other))
        if threshold is not None:
            bad = n.Binary(BIT, "&&", bad, n.Binary(BIT, ">", passed, self.limit(threshold)))
        if late_event.condition is not None:
            bad = n.Binary(BIT, "&&", bad, elab.truth(late_event.condition))
        body = self.violated(tree, notifier)
        test = n.If(site, bad, body, [])
        same = early is late_event
        after = [self._note(site, stamp, early)] if same else []
        elab.unit.processes.append(
            Process("always", [test, *after], tree.pos, elab.scope.prefix, self.sense(late_event), hidden=True)
        )

    def violated(self, tree: ast.TimingCheck, notifier: ast.CheckEvent | None) -> list[n.Stmt]:
        """What a violation does: it is told, and the notifier flips (15.5.2)."""
        elab = self.elab
        site = elab.context.site(tree.pos, tree.pos + len(tree.name), tree.name)
        text = f"{tree.name} violation".encode()
        body: list[n.Stmt] = [
            n.SysTask(site, "$warning", (n.Const(Vec(8 * len(text)), int.from_bytes(text, "big"), 0, True),), elab.scope.prefix)
        ]
        if notifier is not None:
            places = elab.place(notifier.value)
            old = elab.expr(notifier.value)
            flipped = n.Choice(BIT, n.Binary(BIT, "===", old, n.Const(BIT, 1)), n.Const(BIT, 0), n.Const(BIT, 1))
            kept = n.Choice(BIT, n.Binary(BIT, "===", old, n.Const(BIT, 0, 1)), n.Const(BIT, 0, 1), flipped)
            body.append(n.Assign(site, places, kept))
        return body

    @staticmethod
    def signed(ticks: n.Expr) -> n.Expr:
        return fold_resize(ticks, _SIGNED)

    @staticmethod
    def sum(a: n.Expr, b: n.Expr) -> n.Expr:
        return n.Binary(_SIGNED, "+", a, b)

    @staticmethod
    def difference(a: n.Expr, b: n.Expr) -> n.Expr:
        return n.Binary(_SIGNED, "-", a, b)

    def limit(self, limit: ast.CheckEvent) -> n.Expr:
        """A limit in ticks; it may be negative."""
        return fold_resize(self.limits.get(id(limit)) or self.elab.ticks(limit.value), _SIGNED)

    @staticmethod
    def _within(bad: n.Expr, passed: n.Expr, other: n.Expr) -> n.Expr:
        """Only where the other side of the window, if its limit is negative, is past."""
        zero = n.Const(_SIGNED, 0)
        if isinstance(other, n.Const) and not other.val >> 63:
            return bad
        past = n.Binary(BIT, ">", passed, n.Binary(_SIGNED, "-", zero, other))
        return n.Binary(BIT, "&&", bad, n.Binary(BIT, "||", n.Binary(BIT, ">=", other, zero), past))

    def _stamp(self, tree: ast.TimingCheck, event: ast.CheckEvent) -> Signal:
        """When an event happened last (plus one). The process that notes it comes after those that test it in the same moment."""
        elab = self.elab
        elab.anonymous += 1
        stamp = Signal(
            f"{elab.scope.prefix}{tree.name[1:]}.{elab.anonymous}", TIME, "var", 0, left=63, implicit=True, init=n.Const(TIME, 0)
        )
        elab.unit.signals.append(stamp)
        if tree.name != "$period":
            site = elab.context.site(tree.pos, tree.pos + len(tree.name), tree.name)
            body = [self._note(site, stamp, event)]
            elab.unit.processes.append(Process("always", body, tree.pos, elab.scope.prefix, self.sense(event), hidden=True))
        return stamp

    def _note(self, site: int, stamp: Signal, event: ast.CheckEvent) -> n.Stmt:
        now = n.Binary(TIME, "+", self.specify.now(), n.Const(TIME, 1))
        put = n.Assign(site, (n.LRef(stamp, None, None, 64),), now)
        return put if event.condition is None else n.If(site, self.elab.truth(event.condition), [put], [])

    def sense(self, event: ast.CheckEvent) -> tuple[n.Sense, ...]:
        value = self.elab.expr(event.value)
        edge = _EDGES.get(frozenset(event.changes), event.edge) if event.changes else event.edge
        if edge == "edge" and event.changes and len(event.changes) < 6:
            return (n.Sense("any", self._flips(event, value)),)
        return (n.Sense(edge or "any", value),)

    def _flips(self, event: ast.CheckEvent, value: n.Expr) -> n.Expr:
        """A bit that flips at each of the changes that the event names."""
        found = self.changes.get(event.pos)
        if found is not None:
            return found
        elab = self.elab
        elab.anonymous += 1
        flip = self.specify.hidden(f"edge.{elab.anonymous}", BIT, n.Const(BIT, 0))
        old = self.specify.hidden(f"before.{elab.anonymous}", BIT, None)
        hit: n.Expr = n.Const(BIT, 0)
        for change in event.changes:
            both = n.Binary(BIT, "&&", _is(n.Ref(BIT, old), change[0]), _is(value, change[1]))
            hit = n.Binary(BIT, "||", hit, both)
        site = elab.context.site(event.pos, event.pos, "edge")
        turn = n.Assign(site, (whole(flip),), n.Unary(BIT, "~", n.Ref(BIT, flip)))
        keep = n.Assign(site, (whole(old),), value)
        body: list[n.Stmt] = [n.If(site, hit, [turn], []), keep]
        elab.unit.processes.append(Process("always", body, event.pos, elab.scope.prefix, (n.Sense("any", value),), hidden=True))
        self.changes[event.pos] = n.Ref(BIT, flip)
        return self.changes[event.pos]


def _is(value: n.Expr, letter: str) -> n.Expr:
    """Whether a bit is 0 or 1, or neither."""
    if letter in "01":
        return n.Binary(BIT, "===", value, n.Const(BIT, int(letter)))
    return n.Binary(BIT, "===", n.Binary(BIT, "^", value, value), n.Const(BIT, 1, 1))


def _if(event: ast.CheckEvent, more: ast.CheckEvent | None) -> ast.CheckEvent:
    """An event with the condition for stamps, or for checks, of a negative timing check (15.5.1): in each of its halves it belongs to
    the event that comes first, or second, there."""
    if more is None:
        return event
    both = more.value if event.condition is None else ast.Binary(more.pos, "&&", event.condition, more.value)
    return replace(event, condition=both)
