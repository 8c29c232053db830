"""Concurrent assertions (IEEE 1800-2017 clause 16) as hidden processes.

A sequence becomes an automaton that takes a step at each tick of the clock, over sampled values. Each attempt of a property keeps
the set of the states it can be in, as a vector in a queue: it fails when the set gets empty, it succeeds when it holds an end.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import replace
from mevrik.design.types import BIT, INTEGER, List, Vec
from mevrik.design.unit import Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.automata import Automaton, condition_of, either_of, leading_to_an_end
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.sequences import COUNT, FLAG, STATE_LIMIT, SequenceElaborator
from mevrik.lang.verilog.elaborate.threads import Threads

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


class AssertionElaborator(SequenceElaborator):
    """One assertion. `fails` and `passes` count the attempts that end at a tick."""

    def __init__(
        self, elab: UnitElaborator, tree: ast.Assert, reached: Signal | None, whole_one: AssertionElaborator | None = None
    ) -> None:
        """`reached`: how many times a procedure has come by since the last tick; None: an attempt begins at each. Of a part under another clock
        than `whole_one`: how many times what stands before it has matched in all."""
        super().__init__(elab, tree)
        self.reached, self.whole_one = reached, whole_one
        self.parts: list[tuple[ast.Prop, Signal]] = []  # those under other clocks, with what lets them begin
        self.disable: ast.Expr | None = whole_one.disable if whole_one is not None else None
        self.fails, self.passes = elab.local(COUNT, tree.pos), elab.local(COUNT, tree.pos)
        self.strong = False
        self.pending: list[Signal] = []  # the attempts that fail if they are under way when the run ends

    # ---- the whole ----

    def run(self) -> None:
        elab, tree = self.elab, self.tree
        assert tree.prop is not None
        in_threads = self.has_matched(tree.prop)
        prop, clock, own = self.unwrapped(tree.prop)
        clock = clock or elab.clock or elab.default_clock
        if clock is None:
            if isinstance(prop.expr, (ast.Name, ast.Call)):
                elab.expr(prop.expr)  # a name that is not declared is the nearer mistake
            raise self.error(tree.pos, "the assertion has no clock: write @(posedge …) before the property (16.14.6)", "no-clock")
        self.disable = own if own is not None else self.disable or elab.default_disable
        saved, elab.clock = elab.clock, clock
        try:
            self.steps += [self.put(self.fails, 0), self.put(self.passes, 0)]
            one = elab.local(COUNT, tree.pos)
            self.steps.append(self.put(one, 1))
            if self.reached is not None and self.whole_one is not None:
                taken = self._hidden_count("taken", tree.pos)
                self.steps.append(
                    n.Assign(self.site, (whole(one),), n.Binary(INTEGER, "-", n.Ref(INTEGER, self.reached), n.Ref(INTEGER, taken)))
                )
                self.steps.append(self.copied(taken, self.reached))
                self.clear.append(self.copied(taken, self.reached))
            elif self.reached is not None:
                asked: n.Expr = n.Ref(self.reached.type, self.reached)
                if tree.kind == "expect":
                    asked = elab.sampled(asked)  # from before this moment
                self.steps += [
                    n.Assign(self.site, (whole(one),), asked),
                    n.If(self.site, n.Ref(COUNT, one), [self.put(self.reached, 0)], []),
                ]
                self.clear.append(self.put(self.reached, 0))
            if elab.context.assertions_switched and self.whole_one is None:  # those under way go on when it is switched off (20.12)
                on = n.SysCall(COUNT, "$asserts_on", (self.elab.assertion_name(tree),))
                self.steps.append(n.If(self.site, on, [], [self.put(one, 0)]))
            if in_threads:
                Threads(self).run(prop, one, inverted=False)
            else:
                self.check(prop, one, inverted=False)
            if elab.context.assertions_switched:
                self.steps[:0] = self._given_up_if_killed()
            body = self._with_actions(self.steps)
            if self.pending:
                self._fail_at_the_end()
            off: n.Expr | None = elab.truth(self.disable) if self.disable is not None else None
        finally:
            elab.clock = saved
        if off is not None:
            body = [n.If(self.site, off, list(self.clear), body)]
            sense = elab.sense_of(off)
            clear = n.If(self.site, off, list(self.clear), [])
            if sense and self.clear:
                elab.unit.processes.append(Process("always", [clear], tree.pos, elab.scope.prefix, sense, hidden=True))
        elab.unit.processes.append(
            Process("always", body, tree.pos, elab.scope.prefix, clock, locals=elab.process_locals, hidden=True, region="reactive")
        )
        for part, begins in self.parts:  # behind this one, as they go on at the same tick (16.13.3)
            elab.process_locals = []
            onward = replace(tree, prop=part, then=_without_name(tree.then), other=_without_name(tree.other))
            AssertionElaborator(elab, onward, begins, self).run()

    def _fail_at_the_end(self) -> None:
        """Strong properties whose attempts never came to their end (16.12.2)."""
        elab, failing = self.elab, self._failing()
        if walk.suspends(failing):
            raise self.error(
                self.tree.pos, "what a strong property does when it fails can't wait: the run may have ended (16.12.2)"
            )
        body = [n.RepeatLoop(self.site, n.ListValue(INTEGER, "size", n.Ref(q.type, q), ()), failing) for q in self.pending]
        elab.unit.processes.append(
            Process("final", list(body), self.tree.pos, elab.scope.prefix, None, locals=elab.process_locals, hidden=True)
        )

    def _given_up_if_killed(self) -> list[n.Stmt]:
        """$assertkill ends the attempts that are under way."""
        seen = Signal(f"{self.elab.scope.prefix}kills.{len(self.elab.unit.signals)}", COUNT, "var", self.tree.pos, implicit=True)
        seen.left = 31
        self.elab.unit.signals.append(seen)
        kills = n.SysCall(COUNT, "$asserts_killed", (self.elab.assertion_name(self.tree),))
        took_place = n.Binary(Vec(1), "!=", n.Ref(COUNT, seen), kills)
        return [n.If(self.site, took_place, [n.Assign(self.site, (whole(seen),), kills), *self.clear], [])]

    def _with_actions(self, steps: list[n.Stmt]) -> list[n.Stmt]:
        elab, tree = self.elab, self.tree
        failed = self._failing()
        passed = elab.body(tree.then)
        made = list(steps)
        for count, action in ((self.fails, failed), (self.passes, passed)):
            if action:
                made.append(n.RepeatLoop(self.site, n.Ref(COUNT, count), action))
        return made

    def _failing(self) -> list[n.Stmt]:
        """What is done for an attempt that fails."""
        elab, tree = self.elab, self.tree
        if tree.other is not None or tree.kind == "cover":
            return elab.body(tree.other)
        text = f"assertion {tree.label or ''} failed".replace("  ", " ").encode()
        words = n.Const(Vec(8 * len(text)), int.from_bytes(text, "big"), 0, True)
        return [n.SysTask(self.site, "$error", (words,), elab.scope.prefix)]

    # ---- properties ----

    def check(self, prop: ast.Prop, starts: Signal, inverted: bool) -> None:
        """Steps that follow the attempts of a property; `starts` is how many begin at this tick."""
        prop = self.named(prop)
        if prop.op in ("implies", "follows"):
            if inverted:
                raise self.error(prop.pos, "'not' before an implication is not supported (IEEE 1800-2017 16.12.2)")
            matched = self._antecedent(self.sequence(prop.parts[0]), starts)
            onward = self.named(prop.parts[1])
            if onward.op == "clocked" and not self._is_same_clock(onward):
                self._under_another_clock(onward, matched, prop.op == "follows")
                return
            if prop.op == "follows":
                matched = self._a_tick_later(matched)
            self.check(onward.parts[0] if onward.op == "clocked" else onward, matched, False)
        elif prop.op == "not":
            self.check(prop.parts[0], starts, not inverted)
        elif prop.op == "strong":
            saved, self.strong = self.strong, not inverted
            self.check(prop.parts[0], starts, inverted)
            self.strong = saved
        elif prop.op == "if":
            assert prop.expr is not None
            cond = self.letter(prop.expr)
            yes, no = self.counter(), self.counter()
            self.steps.append(n.If(self.site, cond, [self.copied(yes, starts)], [self.copied(no, starts)]))
            self.check(prop.parts[0], yes, inverted)
            if len(prop.parts) > 1:
                self.check(prop.parts[1], no, inverted)
            else:
                self.add(self.passes, n.Ref(COUNT, no))
        elif prop.op == "and" and not inverted and any(self.is_property(p) for p in prop.parts):
            for part in prop.parts:
                self.check(part, starts, False)
        elif prop.op in ("clocked", "disable"):
            raise self.error(prop.pos, "another clock or 'disable iff' is supported behind '|->' and '|=>' alone (16.13)")
        elif prop.op == "every":
            one = n.Const(COUNT, 1)
            self._follow(
                self.sequence(prop.parts[0]), starts, lambda _: [self.added(self.passes, one)], lambda _: [], ends_at_match=False
            )
        else:
            self._consequent(self.sequence(prop), starts, inverted)

    def _is_same_clock(self, prop: ast.Prop) -> bool:
        assert prop.control is not None and self.elab.clock is not None
        words = [
            [(s.edge, s.expr.signal if isinstance(s.expr, n.Ref) else s.expr) for s in c]
            for c in (self.elab.events(prop.control), self.elab.clock)
        ]
        return words[0] == words[1]

    def _under_another_clock(self, prop: ast.Prop, matched: Signal, later: bool) -> None:
        """What follows a match at the next tick of another clock: with `|->` also one at the same time (16.13.2, 16.13.3)."""
        begins = self._hidden_count("begins", prop.pos)
        more = n.Binary(INTEGER, "+", n.Ref(INTEGER, begins), n.Ref(COUNT, matched))
        step = n.Schedule(self.site, (whole(begins),), more) if later else n.Assign(self.site, (whole(begins),), more)
        self.steps.append(n.If(self.site, n.Binary(BIT, "!=", n.Ref(COUNT, matched), n.Const(COUNT, 0)), [step], []))
        self.parts.append((prop, begins))

    def _hidden_count(self, what: str, pos: int) -> Signal:
        elab = self.elab
        name = f"{elab.scope.prefix}{what}.{len(elab.unit.signals)}"
        made = Signal(name, INTEGER, "var", pos, "", 31, init=n.Const(INTEGER, 0), implicit=True)
        elab.unit.signals.append(made)
        return made

    def is_property(self, prop: ast.Prop) -> bool:
        while (tree := self._declared(prop)) is not None:
            prop = tree.body
        return prop.op in ("implies", "follows", "not", "if", "strong") or any(self.is_property(p) for p in prop.parts)

    def _antecedent(self, a: Automaton, starts: Signal) -> Signal:
        """How many attempts have their condition matched at this tick; one that can match no more has held in vain."""
        matched = self.counter()
        if a.empty:
            self.add(matched, n.Ref(COUNT, starts))
        if (cond := condition_of(a)) is not None:
            self._decide(cond, starts, matched, self.passes)
            return matched
        mark = n.Const(FLAG, 1)

        def on_match(state: Signal) -> list[n.Stmt]:
            seen = n.LRef(state, None, n.Offset(a.states), 1)
            return [self.added(matched, n.Const(COUNT, 1)), n.Assign(self.site, (seen,), mark)]

        def on_end(state: Signal) -> list[n.Stmt]:
            seen = n.Bits(FLAG, n.Ref(state.type, state), n.Offset(a.states))
            return [n.If(self.site, seen, [], [self.added(self.passes, n.Const(COUNT, 1))])]

        self._follow(a, starts, on_match, on_end, ends_at_match=False)
        return matched

    def _consequent(self, a: Automaton, starts: Signal, inverted: bool) -> None:
        good, bad = (self.passes, self.fails) if not inverted else (self.fails, self.passes)
        if a.empty:
            self.add(good, n.Ref(COUNT, starts))
            return
        if (cond := condition_of(a)) is not None:
            self._decide(cond, starts, good, bad)
            return
        one = n.Const(COUNT, 1)
        queue = self._follow(a, starts, lambda _: [self.added(good, one)], lambda _: [self.added(bad, one)], ends_at_match=True)
        if self.strong:
            self.pending.append(queue)

    def _decide(self, cond: n.Expr, starts: Signal, good: Signal, bad: Signal) -> None:
        """A condition decides at once about the attempts that begin."""
        begun = n.Ref(COUNT, starts)
        self.steps.append(n.If(self.site, cond, [self.added(good, begun)], [self.added(bad, begun)]))

    def _follow(self, a: Automaton, starts: Signal, on_match: object, on_end: object, ends_at_match: bool) -> Signal:
        """One step of every attempt, and of those that begin. Gives where those that are under way are kept."""
        elab, site = self.elab, self.site
        assert callable(on_match) and callable(on_end)
        if a.states > STATE_LIMIT:
            raise self.error(self.tree.pos, f"the sequence needs more than {STATE_LIMIT} states", "too-large")
        t = Vec(a.states + 1, False, False)  # the highest bit: it has matched before
        queue_type = List(64, False, False, t, True)
        queue = Signal(
            f"{elab.scope.prefix}attempts.{len(elab.unit.signals)}", queue_type, "var", self.tree.pos, "", 63, implicit=True
        )
        elab.unit.signals.append(queue)
        place = whole(queue)
        self.clear.append(n.ListStep(site, "clear", place, ()))
        first = n.Const(t, sum(1 << s for s in a.starts))
        index, state = elab.local(INTEGER, self.tree.pos), elab.local(t, self.tree.pos)
        after = elab.local(t, self.tree.pos)
        begun = n.Ref(COUNT, starts)
        opening = either_of([c for p, c, _ in a.moves if p in a.starts])  # where none of it holds, an attempt is over at once
        over: list[n.Stmt] = [n.Assign(site, (whole(after),), n.Const(t, 0)), n.RepeatLoop(site, begun, list(on_end(after)))]
        push = n.RepeatLoop(site, begun, [n.ListStep(site, "push", place, (first,))])
        self.steps.append(n.If(site, opening, [push], over) if opening is not None else push)
        of = n.Ref(queue_type, queue)
        here = n.Ref(INTEGER, index)
        body: list[n.Stmt] = [
            n.Assign(site, (whole(state),), n.ListValue(t, "get", of, (here,))),
            n.Assign(site, (whole(after),), n.Const(t, 0)),
            n.Assign(site, (n.LRef(after, None, n.Offset(a.states), 1),), n.Bits(FLAG, n.Ref(t, state), n.Offset(a.states))),
        ]
        body += self.moved(a, state, after)
        ends = sum(1 << s for s in a.ends)
        useful = leading_to_an_end(a)
        live = n.Const(t, sum(1 << s for s in useful))
        hit = n.Binary(BIT, "!=", n.Binary(t, "&", n.Ref(t, after), n.Const(t, ends)), n.Const(t, 0))
        dead = n.Binary(BIT, "==", n.Binary(t, "&", n.Ref(t, after), live), n.Const(t, 0))
        gone = n.ListStep(site, "delete", place, (here,))
        keep: list[n.Stmt] = [n.ListStep(site, "set", place, (here, n.Ref(t, after))), self.added(index, n.Const(INTEGER, 1))]
        ended = n.If(site, dead, [*on_end(after), gone], keep)
        if ends_at_match:
            body.append(n.If(site, hit, [*on_match(after), gone], [ended]))
        else:
            # a state that is an end and leads nowhere is left at once
            onward = sum(1 << s for s in {p for p, _, q in a.moves if q in useful})
            stuck = n.Binary(BIT, "==", n.Binary(t, "&", n.Ref(t, after), n.Const(t, onward)), n.Const(t, 0))
            body += [n.If(site, hit, on_match(after), []), n.If(site, stuck, [*on_end(after), gone], keep)]
        size = n.ListValue(INTEGER, "size", of, ())
        self.steps += [
            n.Assign(site, (whole(index),), n.Const(INTEGER, 0)),
            n.Loop(site, n.Binary(BIT, "<", here, size), body, []),
        ]
        return queue

    def _a_tick_later(self, count: Signal) -> Signal:
        elab = self.elab
        kept = Signal(f"{elab.scope.prefix}later.{len(elab.unit.signals)}", COUNT, "var", self.tree.pos, "", 31, implicit=True)
        elab.unit.signals.append(kept)
        self.clear.append(n.Assign(self.site, (whole(kept),), n.Const(COUNT, 0)))
        now = self.counter()
        self.steps += [self.copied(now, kept), self.copied(kept, count)]
        return now


def _without_name(s: ast.Stmt | None) -> ast.Stmt | None:
    """An action that is there a second time: its block declares its name once."""
    return replace(s, label="") if isinstance(s, ast.Block) else s
