"""Properties whose sequences have local variables or call subroutines at a match (IEEE 1800-2017 16.10, 16.11).

Each way that an attempt can go has variables of its own. So what is kept is not a set of states but a list of threads, each a vector: its
state, the attempt that it belongs to, and the values of all local variables. The threads of an attempt stand one behind the other.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import Frozen
from mevrik.design.types import BIT, INTEGER, List, Real, Type, Vec
from mevrik.design.unit import Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.automata import TRUE, Automaton, joined, leading_to_an_end, letter, steps_of
from mevrik.lang.verilog.elaborate.base import whole

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.assertions import AssertionElaborator

_FLAG, _NUMBER = Vec(1, False, False), Vec(32, False, False)
_STATE, _ATTEMPT, _SEEN, _VALUES = 0, 16, 48, 49  # bits of a thread: where each part of it begins


class Stage(Frozen, frozen=True):
    """A property that is followed: what lets an attempt of it begin, and what adds its steps behind those that do."""

    begin: Callable[[], list[n.Stmt]]
    follow: Callable[[], None]


class Threads:
    def __init__(self, owner: AssertionElaborator) -> None:
        self.owner, self.elab, self.site = owner, owner.elab, owner.site

    def run(self, prop: ast.Prop, starts: Signal, inverted: bool) -> None:
        stage = self._stage(prop, inverted)
        fresh: list[n.Stmt] = []
        for v, value in self.owner.variables.items():
            fresh.append(n.Assign(self.site, (whole(v),), value if value is not None else _unknown(v.type)))
        self.owner.steps.append(n.RepeatLoop(self.site, n.Ref(_NUMBER, starts), [*fresh, *stage.begin()]))
        stage.follow()

    def _stage(self, prop: ast.Prop, inverted: bool) -> Stage:
        owner = self.owner
        prop = owner.named(prop)
        if prop.op in ("implies", "follows") and not inverted:
            left = owner.named(prop.parts[0])
            only_first = left.op == "first_match"
            a = owner.sequence(left.parts[0] if only_first else left)
            if prop.op == "follows":
                a = joined(a, letter(TRUE))
            inner = self._stage(prop.parts[1], False)
            one = _Followed(self, a, only_first)

            def begin() -> list[n.Stmt]:
                return [*one.begin(), *(inner.begin() if a.empty else [])]

            def follow() -> None:
                held = self._count(owner.passes)
                one.follow(inner.begin(), [], held)
                inner.follow()

            return Stage(begin, follow)
        if prop.op == "not":
            return self._stage(prop.parts[0], not inverted)
        if prop.op == "every":
            each = _Followed(self, owner.sequence(prop.parts[0]), False)
            return Stage(each.begin, lambda: each.follow(self._count(owner.passes), [], []))
        if prop.op in ("implies", "follows", "strong", "if", "clocked") or owner.is_property(prop):
            raise owner.error(
                prop.pos, "local variables of sequences in this form of a property are not supported (IEEE 1800-2017 16.10)"
            )
        a = owner.sequence(prop)
        good, bad = (owner.passes, owner.fails) if not inverted else (owner.fails, owner.passes)
        last = _Followed(self, a, True)
        return Stage(
            lambda: self._count(good) if a.empty else last.begin(), lambda: last.follow([], self._count(good), self._count(bad))
        )

    def _count(self, signal: Signal) -> list[n.Stmt]:
        return [self.added(signal, n.Const(_NUMBER, 1))]

    def added(self, signal: Signal, value: n.Expr) -> n.Stmt:
        return n.Assign(self.site, (whole(signal),), n.Binary(signal.type, "+", n.Ref(signal.type, signal), value))


class _Followed:
    """The threads of one sequence. `ends_at_match`: the attempt is over with its first match."""

    def __init__(self, threads: Threads, a: Automaton, ends_at_match: bool) -> None:
        self.threads, self.a, self.ends_at_match = threads, a, ends_at_match
        self.owner, self.elab, self.site = threads.owner, threads.elab, threads.site
        if a.cuts:
            raise self.owner.error(
                self.owner.tree.pos,
                "local variables beside a 'first_match' inside of a sequence are not supported (IEEE 1800-2017 16.9.8)",
            )
        useful = leading_to_an_end(a)
        a.moves = [m for m in a.moves if m[2] in useful]
        self.queue = self._kept("threads", List(64, False, False, _NUMBER, True), 63)
        self.last = self._kept("attempt", _NUMBER, 31)

    def _kept(self, what: str, t: Type, left: int) -> Signal:
        elab = self.elab
        made = Signal(f"{elab.scope.prefix}{what}.{len(elab.unit.signals)}", t, "var", self.owner.tree.pos, "", left, implicit=True)
        elab.unit.signals.append(made)
        return made

    def _form(self) -> Vec:
        """The type of a thread, known when all local variables are."""
        types = [v.type for v in self.owner.variables]
        four = any(isinstance(t, Vec) and t.four for t in types)
        t = Vec(_VALUES + sum(t.width for t in types if isinstance(t, Vec)), False, four)
        self.queue.type = List(64, False, False, t, True)
        return t

    def _set(self, signal: Signal, value: n.Expr | int) -> n.Stmt:
        assert isinstance(signal.type, Vec)
        return n.Assign(self.site, (whole(signal),), n.Const(signal.type, value) if isinstance(value, int) else value)

    def _pushed(self, state: int, attempt: Signal, seen: n.Expr, unless_there: bool) -> list[n.Stmt]:
        """A thread with the variables as they are now."""
        t = self._form()
        made = self.elab.local(t, self.owner.tree.pos)

        def put(low: int, value: n.Expr) -> n.Stmt:
            assert isinstance(value.type, Vec)
            return n.Assign(self.site, (n.LRef(made, None, n.Offset(low), value.type.width),), value)

        steps = [
            put(_STATE, n.Const(Vec(16, False, False), state)),
            put(_ATTEMPT, n.Ref(_NUMBER, attempt)),
            put(_SEEN, seen),
        ]
        low = _VALUES
        for v in self.owner.variables:
            assert isinstance(v.type, Vec)
            steps.append(put(low, n.Ref(v.type, v)))
            low += v.type.width
        push = n.ListStep(self.site, "push", whole(self.queue), (n.Ref(t, made),))
        if not unless_there:
            return [*steps, push]
        more = [push, self.threads.added(self.alive, n.Const(_NUMBER, 1))]
        there, look = self._among_the_last(n.Ref(t, made))
        return [*steps, *look, n.If(self.site, there, [], more)]

    def _among_the_last(self, thread: n.Expr) -> tuple[n.Expr, list[n.Stmt]]:
        """Whether the attempt has such a thread for the next tick already: these stand at the end of the list."""
        pos = self.owner.tree.pos
        found, index = self.elab.local(_FLAG, pos), self.elab.local(INTEGER, pos)
        of = n.Ref(self.queue.type, self.queue)
        size = n.ListValue(INTEGER, "size", of, ())
        last = n.ListValue(thread.type, "get", of, (n.Ref(INTEGER, index),))
        step = [
            n.If(self.site, n.Binary(BIT, "===", last, thread), [self._set(found, 1)], []),
            self.threads.added(index, n.Const(INTEGER, 1)),
        ]
        first = n.Binary(INTEGER, "-", size, n.Ref(_NUMBER, self.alive))
        return n.Ref(_FLAG, found), [
            self._set(found, 0),
            self._set(index, first),
            n.RepeatLoop(self.site, n.Ref(_NUMBER, self.alive), step),
        ]

    def begin(self) -> list[n.Stmt]:
        self.owner.clear.append(n.ListStep(self.site, "clear", whole(self.queue), ()))
        steps = [self.threads.added(self.last, n.Const(_NUMBER, 1))]
        for state in sorted(self.a.starts):
            steps += self._pushed(state, self.last, n.Const(_FLAG, 0), False)
        return steps

    def follow(self, on_match: list[n.Stmt], good: list[n.Stmt], bad: list[n.Stmt]) -> None:
        """A step of every thread. `on_match` is done at each match with the variables of its thread, `good` at the end of an attempt that has
        matched at this tick, `bad` at that of one that never did."""
        elab, site, t, pos = self.elab, self.site, self._form(), self.owner.tree.pos
        thread, state = elab.local(t, pos), elab.local(Vec(16, False, False), pos)
        self.attempt, self.alive = elab.local(_NUMBER, pos), elab.local(_NUMBER, pos)
        hit, seen = elab.local(_FLAG, pos), elab.local(_FLAG, pos)
        place, of = whole(self.queue), n.Ref(self.queue.type, self.queue)
        size = n.ListValue(INTEGER, "size", of, ())
        zero = n.Const(_NUMBER, 0)

        def part(low: int, form: Vec) -> n.Expr:
            return n.Bits(form, n.Ref(t, thread), n.Offset(low))

        drop_last = n.ListStep(site, "delete", place, (n.Binary(INTEGER, "-", size, n.Const(INTEGER, 1)),))
        over = n.RepeatLoop(site, n.Ref(_NUMBER, self.alive), [drop_last])
        ended = n.If(site, n.Binary(BIT, "==", n.Ref(_NUMBER, self.alive), zero), [n.If(site, n.Ref(_FLAG, seen), [], bad)], [])
        conclude: n.Stmt = n.If(site, n.Ref(_FLAG, hit), [*good, over], [ended]) if self.ends_at_match else ended
        conclude = n.If(site, n.Binary(BIT, "!=", n.Ref(_NUMBER, self.attempt), zero), [conclude], [])
        begin = [self._set(self.alive, 0), self._set(hit, 0), self._set(seen, 0)]
        other = n.Binary(BIT, "!=", part(_ATTEMPT, _NUMBER), n.Ref(_NUMBER, self.attempt))
        # a match inside of the attempt's own threads is noted in those that follow it
        matched = [*on_match, self._set(hit, 1), self._set(seen, 1)]

        def go(p: int) -> list[n.Stmt]:
            steps: list[n.Stmt] = []
            for label, targets in self._moves(p):
                taken = list(matched) if any(q in self.a.ends for q in targets) else []
                for q in targets:
                    if any(s == q for s, _, _ in self.a.moves):
                        taken += self._pushed(q, self.attempt, n.Ref(_FLAG, seen), True)
                steps += [*self._values(thread, t), *self._chain(list(steps_of(label)), taken)]
            return steps

        moves: list[n.Stmt] = [
            n.If(site, n.Binary(BIT, "==", n.Ref(state.type, state), n.Const(Vec(16, False, False), p)), go(p), [])
            for p in sorted({p for p, _, _ in self.a.moves})
        ]
        if self.ends_at_match:
            moves = [n.If(site, n.Ref(_FLAG, hit), [], moves)]
        body: list[n.Stmt] = [
            self._set(thread, n.ListValue(t, "get", of, (n.Const(INTEGER, 0),))),
            n.ListStep(site, "delete", place, (n.Const(INTEGER, 0),)),
            self._set(state, part(_STATE, Vec(16, False, False))),
            n.If(site, other, [conclude, self._set(self.attempt, part(_ATTEMPT, _NUMBER)), *begin], []),
            n.If(site, part(_SEEN, _FLAG), [self._set(seen, 1)], []),
            *moves,
        ]
        self.owner.steps += [
            self._set(self.attempt, 0),
            *begin,
            n.RepeatLoop(site, size, body),
            conclude,
        ]

    def _moves(self, p: int) -> list[tuple[n.Expr, list[int]]]:
        """The moves out of a state: what has to hold and is done is one match, wherever it leads."""
        found: dict[int, tuple[n.Expr, list[int]]] = {}
        for source, label, q in self.a.moves:
            if source == p:
                found.setdefault(id(label), (label, []))[1].append(q)
        return list(found.values())

    def _values(self, thread: Signal, t: Vec) -> list[n.Stmt]:
        """The variables as they are in a thread."""
        steps: list[n.Stmt] = []
        low = _VALUES
        for v in self.owner.variables:
            assert isinstance(v.type, Vec)
            steps.append(n.Assign(self.site, (whole(v),), n.Bits(v.type, n.Ref(t, thread), n.Offset(low))))
            low += v.type.width
        return steps

    def _chain(self, steps: list[n.Expr | list[n.Stmt]], then: list[n.Stmt]) -> list[n.Stmt]:
        if not steps:
            return then
        first, *rest = steps
        if isinstance(first, list):
            return [*first, *self._chain(rest, then)]
        return [n.If(self.site, first, self._chain(rest, then), [])]


def _unknown(t: Type) -> n.Expr:
    """What a variable of this type holds before anything is assigned to it."""
    if isinstance(t, Real) or not isinstance(t, Vec):
        return n.RealConst(t, 0.0)
    full = (1 << t.width) - 1
    return n.Const(t, full, full) if t.four else n.Const(t, 0)
