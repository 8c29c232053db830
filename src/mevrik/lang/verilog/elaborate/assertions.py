"""Concurrent assertions (IEEE 1800-2017 clause 16) as hidden processes.

A sequence becomes an automaton that takes a step at each tick of the clock, over sampled values. Each attempt of a property keeps
the set of the states it can be in, as a vector in a queue: it fails when the set gets empty, it succeeds when it holds an end.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import replace
from mevrik.design.types import BIT, INTEGER, List, Text, Vec
from mevrik.design.unit import Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.automata import (
    TRUE,
    Automaton,
    both,
    either,
    first,
    fused,
    is_of_one_length,
    joined,
    leading_to_an_end,
    letter,
    matched,
    product,
    repeated,
    star,
)
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.scope import PropertyName, Shape
from mevrik.lang.verilog.elaborate.substitute import renewed, substituted
from mevrik.lang.verilog.elaborate.threads import Threads

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

STATE_LIMIT = 1 << 10
_FLAG = Vec(1, False, False)
_COUNT = Vec(32, False, False)


class AssertionElaborator:
    """One assertion. `fails` and `passes` count the attempts that end at a tick."""

    def __init__(self, elab: UnitElaborator, tree: ast.Assert, reached: Signal | None) -> None:
        """`reached`: how many times a procedure has come by since the last tick; None: an attempt begins at each."""
        self.elab, self.reached = elab, reached
        self.tree = tree
        self.site = elab.context.site(tree.pos, tree.end or tree.pos, f"{tree.kind} {tree.label}".strip())
        self.steps: list[n.Stmt] = []
        self.clear: list[n.Stmt] = []
        self.fails, self.passes = elab.local(_COUNT, tree.pos), elab.local(_COUNT, tree.pos)
        self.letters = 0
        self.strong = False
        self.pending: list[Signal] = []  # the attempts that fail if they are under way when the run ends
        self.variables: dict[Signal, n.Expr | None] = {}  # the local variables of sequences, with what they begin with

    def error(self, pos: int, message: str, code: str = "unsupported") -> Exception:
        return self.elab.error(pos, message, code)

    # ---- the whole ----

    def run(self) -> None:
        elab, tree = self.elab, self.tree
        assert tree.prop is not None
        in_threads = self._has_matched(tree.prop)
        prop, clock, disable = self._unwrapped(tree.prop)
        clock = clock or elab.clock or elab.default_clock
        if clock is None:
            if isinstance(prop.expr, (ast.Name, ast.Call)):
                elab.expr(prop.expr)  # a name that is not declared is the nearer mistake
            raise self.error(tree.pos, "the assertion has no clock: write @(posedge …) before the property (16.14.6)", "no-clock")
        disable = disable if disable is not None else elab.default_disable
        saved, elab.clock = elab.clock, clock
        try:
            self.steps += [self._set(self.fails, 0), self._set(self.passes, 0)]
            one = elab.local(_COUNT, tree.pos)
            self.steps.append(self._set(one, 1))
            if self.reached is not None:
                self.steps += [self._copy(one, self.reached), self._set(self.reached, 0)]
                self.clear.append(self._set(self.reached, 0))
            if elab.context.assertions_switched:  # those under way go on when it is switched off (20.12)
                on = n.SysCall(_COUNT, "$asserts_on", (self.elab.assertion_name(tree),))
                self.steps.append(n.If(self.site, on, [], [self._set(one, 0)]))
            if in_threads:
                Threads(self).run(prop, one, inverted=False)
            else:
                self.check(prop, one, inverted=False)
            if elab.context.assertions_switched:
                self.steps[:0] = self._given_up_if_killed()
            body = self._with_actions(self.steps)
            if self.pending:
                self._fail_at_the_end()
            off: n.Expr | None = elab.truth(disable) if disable is not None else None
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
        seen = Signal(f"{self.elab.scope.prefix}kills.{len(self.elab.unit.signals)}", _COUNT, "var", self.tree.pos, implicit=True)
        seen.left = 31
        self.elab.unit.signals.append(seen)
        kills = n.SysCall(_COUNT, "$asserts_killed", (self.elab.assertion_name(self.tree),))
        took_place = n.Binary(Vec(1), "!=", n.Ref(_COUNT, seen), kills)
        return [n.If(self.site, took_place, [n.Assign(self.site, (whole(seen),), kills), *self.clear], [])]

    def _unwrapped(self, prop: ast.Prop) -> tuple[ast.Prop, tuple[n.Sense, ...] | None, ast.Expr | None]:
        """The property without its clock and its `disable iff`, which may stand in a named one."""
        clock: tuple[n.Sense, ...] | None = None
        disable: ast.Expr | None = None
        while True:
            prop = self.named(prop)
            if prop.op == "clocked":
                assert prop.control is not None
                clock = self.elab.events(prop.control)
                prop = prop.parts[0]
            elif prop.op == "disable":
                disable = prop.expr
                prop = prop.parts[0]
            else:
                return prop, clock, disable

    def named(self, prop: ast.Prop) -> ast.Prop:
        """What a name of a property or sequence stands for."""
        tree, e = self._declared(prop), prop.expr
        if tree is None or e is None:
            return prop
        args = e.args if isinstance(e, ast.Call) else []
        given = substituted(self.elab, tree, tree.name, tree.ports, args, e.pos)
        return self.named(renewed(given.body, self._local_variables(given)) if tree.locals else given.body)

    def _declared(self, prop: ast.Prop) -> ast.PropertyDecl | None:
        """The property or sequence that is named here."""
        e = prop.expr
        if prop.op != "bool" or not isinstance(e, (ast.Name, ast.Call)):
            return None
        entity = self.elab.entity_of(e.target if isinstance(e, ast.Call) else e)
        return entity.tree if isinstance(entity, PropertyName) else None

    def _local_variables(self, tree: ast.PropertyDecl) -> dict[str, ast.Expr]:
        """Makes the local variables that a named sequence has here, under names of their own."""
        elab, made = self.elab, dict[str, ast.Expr]()
        for declared in tree.locals:
            for d in declared.names:
                name = f"{d.name} of {tree.name} {self.tree.pos} {len(self.variables)}"
                shape = elab.shape_with_dims(elab.resolve_type(declared.type), d.dims)
                if not isinstance(shape.type, Vec) or isinstance(shape.type, (Text, List)) or shape.unpacked:
                    raise self.error(
                        d.pos, "a local variable of a sequence that is no vector is not supported (IEEE 1800-2017 16.10)"
                    )
                signal = elab.signal(elab.scope, name, shape, [], "local", d.pos)
                init = renewed(d.init, made) if d.init is not None else None
                self.variables[signal] = elab.sampled(elab.build(init, signal.type)) if init is not None else None
                made[d.name] = ast.Name(d.pos, name)
        return made

    def _has_matched(self, prop: ast.Prop, around: tuple[ast.PropertyDecl, ...] = ()) -> bool:
        """Whether something is done at matches: then each way of an attempt is followed by itself."""
        tree = self._declared(prop)
        if tree is not None:
            if tree in around:
                raise self.error(
                    prop.pos, f"'{tree.name}' names itself: recursive properties are not supported (IEEE 1800-2017 16.12.17)"
                )
            return self._has_matched(tree.body, (*around, tree)) or bool(tree.locals)
        found = [self._has_matched(p, around) for p in prop.parts]
        return prop.op == "matched" or any(found)

    def _with_actions(self, steps: list[n.Stmt]) -> list[n.Stmt]:
        elab, tree = self.elab, self.tree
        failed = self._failing()
        passed = elab.body(tree.then)
        made = list(steps)
        for count, action in ((self.fails, failed), (self.passes, passed)):
            if action:
                made.append(n.RepeatLoop(self.site, n.Ref(_COUNT, count), action))
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
            if prop.op == "follows":
                matched = self._a_tick_later(matched)
            self.check(prop.parts[1], matched, False)
        elif prop.op == "not":
            self.check(prop.parts[0], starts, not inverted)
        elif prop.op == "strong":
            saved, self.strong = self.strong, not inverted
            self.check(prop.parts[0], starts, inverted)
            self.strong = saved
        elif prop.op == "if":
            assert prop.expr is not None
            cond = self._letter(prop.expr)
            yes, no = self._counter(), self._counter()
            self.steps.append(n.If(self.site, cond, [self._copy(yes, starts)], [self._copy(no, starts)]))
            self.check(prop.parts[0], yes, inverted)
            if len(prop.parts) > 1:
                self.check(prop.parts[1], no, inverted)
            else:
                self._add(self.passes, n.Ref(_COUNT, no))
        elif prop.op == "and" and not inverted and any(self.is_property(p) for p in prop.parts):
            for part in prop.parts:
                self.check(part, starts, False)
        elif prop.op in ("clocked", "disable"):
            raise self.error(prop.pos, "one clock, and one 'disable iff', for the whole property is supported (16.13)")
        elif prop.op == "every":
            one = n.Const(_COUNT, 1)
            self._follow(
                self.sequence(prop.parts[0]), starts, lambda _: [self._added(self.passes, one)], lambda _: [], ends_at_match=False
            )
        else:
            self._consequent(self.sequence(prop), starts, inverted)

    def is_property(self, prop: ast.Prop) -> bool:
        while (tree := self._declared(prop)) is not None:
            prop = tree.body
        return prop.op in ("implies", "follows", "not", "if", "strong") or any(self.is_property(p) for p in prop.parts)

    def _antecedent(self, a: Automaton, starts: Signal) -> Signal:
        """How many attempts have their condition matched at this tick; one that can match no more has held in vain."""
        matched = self._counter()
        if a.empty:
            self._add(matched, n.Ref(_COUNT, starts))
        mark = n.Const(_FLAG, 1)

        def on_match(state: Signal) -> list[n.Stmt]:
            seen = n.LRef(state, None, n.Offset(a.states), 1)
            return [self._added(matched, n.Const(_COUNT, 1)), n.Assign(self.site, (seen,), mark)]

        def on_end(state: Signal) -> list[n.Stmt]:
            seen = n.Bits(_FLAG, n.Ref(state.type, state), n.Offset(a.states))
            return [n.If(self.site, seen, [], [self._added(self.passes, n.Const(_COUNT, 1))])]

        self._follow(a, starts, on_match, on_end, ends_at_match=False)
        return matched

    def _consequent(self, a: Automaton, starts: Signal, inverted: bool) -> None:
        good, bad = (self.passes, self.fails) if not inverted else (self.fails, self.passes)
        if a.empty:
            self._add(good, n.Ref(_COUNT, starts))
            return
        one = n.Const(_COUNT, 1)
        queue = self._follow(a, starts, lambda _: [self._added(good, one)], lambda _: [self._added(bad, one)], ends_at_match=True)
        if self.strong:
            self.pending.append(queue)

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
        self.steps.append(n.RepeatLoop(site, n.Ref(_COUNT, starts), [n.ListStep(site, "push", place, (first,))]))
        index, state = elab.local(INTEGER, self.tree.pos), elab.local(t, self.tree.pos)
        after = elab.local(t, self.tree.pos)
        of = n.Ref(queue_type, queue)
        here = n.Ref(INTEGER, index)
        body: list[n.Stmt] = [
            n.Assign(site, (whole(state),), n.ListValue(t, "get", of, (here,))),
            n.Assign(site, (whole(after),), n.Const(t, 0)),
            n.Assign(site, (n.LRef(after, None, n.Offset(a.states), 1),), n.Bits(_FLAG, n.Ref(t, state), n.Offset(a.states))),
        ]
        body += self._moved(a, state, after)
        ends = sum(1 << s for s in a.ends)
        useful = leading_to_an_end(a)
        live = n.Const(t, sum(1 << s for s in useful))
        hit = n.Binary(BIT, "!=", n.Binary(t, "&", n.Ref(t, after), n.Const(t, ends)), n.Const(t, 0))
        dead = n.Binary(BIT, "==", n.Binary(t, "&", n.Ref(t, after), live), n.Const(t, 0))
        gone = n.ListStep(site, "delete", place, (here,))
        keep: list[n.Stmt] = [n.ListStep(site, "set", place, (here, n.Ref(t, after))), self._added(index, n.Const(INTEGER, 1))]
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

    def _moved(self, a: Automaton, state: Signal, after: Signal) -> list[n.Stmt]:
        """A step of the automaton: `after` gets the states that are reached from those in `state`."""
        t = after.type
        assert isinstance(t, Vec)
        by_target: dict[int, n.Expr] = {}
        for p, c, q in a.moves:
            taken = both(n.Bits(_FLAG, n.Ref(t, state), n.Offset(p)), c)
            by_target[q] = taken if q not in by_target else n.Binary(BIT, "||", by_target[q], taken)
        steps: list[n.Stmt] = [
            n.Assign(self.site, (n.LRef(after, None, n.Offset(q), 1),), taken) for q, taken in sorted(by_target.items())
        ]
        for left, at in a.cuts:
            reached = n.Binary(t, "&", n.Ref(t, after), n.Const(t, sum(1 << s for s in at)))
            others = n.Binary(t, "&", n.Ref(t, after), n.Const(t, (1 << t.width) - 1 - sum(1 << s for s in left)))
            cut = n.Assign(self.site, (whole(after),), others)
            steps.append(n.If(self.site, n.Binary(BIT, "!=", reached, n.Const(t, 0)), [cut], []))
        return steps

    def _a_tick_later(self, count: Signal) -> Signal:
        elab = self.elab
        kept = Signal(f"{elab.scope.prefix}later.{len(elab.unit.signals)}", _COUNT, "var", self.tree.pos, "", 31, implicit=True)
        elab.unit.signals.append(kept)
        self.clear.append(n.Assign(self.site, (whole(kept),), n.Const(_COUNT, 0)))
        now = self._counter()
        self.steps += [self._copy(now, kept), self._copy(kept, count)]
        return now

    # ---- sequences ----

    def sequence(self, prop: ast.Prop) -> Automaton:
        made = self._sequence(self.named(prop))
        if made.states > STATE_LIMIT:
            raise self.error(prop.pos, f"the sequence needs more than {STATE_LIMIT} states", "too-large")
        return made

    def _sequence(self, prop: ast.Prop) -> Automaton:
        match prop.op:
            case "bool":
                assert prop.expr is not None
                return letter(self._letter(prop.expr))
            case "delay":
                return self._delay(prop)
            case "repeat":
                low, high = self._bounds(prop)
                return repeated(self.sequence(prop.parts[0]), low, high)
            case "goto" | "nonconsecutive":
                return self._goto(prop)
            case "or":
                return either(self.sequence(prop.parts[0]), self.sequence(prop.parts[1]))
            case "and" | "intersect":
                return product(self.sequence(prop.parts[0]), self.sequence(prop.parts[1]), prop.op == "intersect")
            case "within":  # (1[*0:$] ##1 a ##1 1[*0:$]) intersect b (16.9.10)
                inner = joined(joined(star(letter(TRUE)), self.sequence(prop.parts[0])), star(letter(TRUE)))
                return product(inner, self.sequence(prop.parts[1]), True)
            case "throughout":
                assert prop.expr is not None
                cond = self._letter(prop.expr)
                made = self.sequence(prop.parts[0])
                made.moves = [(p, both(cond, c), q) for p, c, q in made.moves]
                return made
            case "first_match":
                return first(self.sequence(prop.parts[0]))
            case "matched":
                return matched(self.sequence(prop.parts[0]), [t for s in prop.steps for t in self._done(s)])
        raise self.error(prop.pos, "a property can't stand where a sequence is needed (16.9)", "property")

    def _done(self, s: ast.Stmt) -> list[n.Stmt]:
        """What a match does, with sampled values (16.10, 16.11)."""
        steps = self.elab.statement(s)
        for step in steps:
            if isinstance(step, n.Assign):
                step.value = self.elab.sampled(step.value)
            elif isinstance(step, n.SysTask):
                step.args = tuple(self.elab.sampled(a) if a is not None else None for a in step.args)
        return steps

    def _delay(self, prop: ast.Prop) -> Automaton:
        low, high = self._bounds(prop)
        left = self.sequence(prop.parts[0]) if len(prop.parts) > 1 else None
        right = self.sequence(prop.parts[-1])
        if right.cuts and (low != high or (left is not None and not left.cuts and not is_of_one_length(left))):
            raise self.error(
                prop.pos, "a 'first_match' behind what may match at several ticks is not supported (IEEE 1800-2017 16.9.8)"
            )
        wait = letter(TRUE)
        if left is None:  # ##n s waits n ticks first
            gap = repeated(wait, low, high)
            return joined(gap, right)
        if high is None:
            if low == 0:
                return either(fused(left, right), joined(joined(left, star(wait)), right))
            return joined(joined(joined(left, repeated(wait, low - 1, low - 1)), star(wait)), right)
        made: Automaton | None = fused(left, right) if low == 0 else None
        if high >= 1:
            first = max(low, 1)
            far = joined(joined(left, repeated(wait, first - 1, high - 1)), right)
            made = far if made is None else either(made, far)
        assert made is not None
        return made

    def _goto(self, prop: ast.Prop) -> Automaton:
        """b[->n] is (!b[*0:$] ##1 b)[*n]; b[=n] goes on with !b[*0:$] (16.9.2)."""
        inner = self.named(prop.parts[0])
        if inner.op != "bool" or inner.expr is None:
            raise self.error(prop.pos, "what is repeated by [->] or [=] is an expression (16.9.2)", "property")
        cond = self._letter(inner.expr)
        absent = letter(n.Unary(BIT, "!", cond))
        low, high = self._bounds(prop)
        made = repeated(joined(star(absent), letter(cond)), low, high)
        return joined(made, star(absent)) if prop.op == "nonconsecutive" else made

    def _bounds(self, prop: ast.Prop) -> tuple[int, int | None]:
        assert prop.low is not None
        low = self.elab.constant_int(prop.low, "the number of ticks")
        high = self.elab.constant_int(prop.high, "the number of ticks") if prop.high is not None else None
        if low < 0 or (high is not None and high < low) or max(low, high or 0) > STATE_LIMIT:
            raise self.error(prop.pos, f"a range of ticks rises from 0, up to {STATE_LIMIT}", "property")
        return low, high

    def _letter(self, e: ast.Expr) -> n.Expr:
        """Whether a condition holds at this tick: worked out once, over sampled values."""
        elab = self.elab
        value = elab.sampled(elab.truth(self._with_flags(e)))
        if any(r.signal in self.variables for r in walk.reads_of(value)):
            return value  # another in each thread
        kept = elab.local(_FLAG, e.pos)
        self.steps.append(n.If(self.site, value, [self._set(kept, 1)], [self._set(kept, 0)]))
        return n.Ref(_FLAG, kept)

    def _with_flags(self, x: Any) -> Any:
        """An expression with a flag in the place of `s.triggered`: whether a sequence has matched at this tick (16.13.6)."""
        if isinstance(x, ast.Member) and x.name in ("triggered", "matched", "ended"):
            prop = ast.Prop(x.pos, "bool", expr=x.base)
            if self._declared(prop) is not None:
                return self._triggered(self._unwrapped(prop)[0])
        if isinstance(x, ast.Node):
            changed: dict[str, Any] = {name: self._with_flags(getattr(x, name)) for name in x.__struct_fields__}
            return replace(x, **changed)
        if isinstance(x, list | tuple):
            return type(x)(map(self._with_flags, x))
        return x

    def _triggered(self, prop: ast.Prop) -> ast.Expr:
        """Follows a sequence from each tick on, all attempts in one set of states. Gives the name of the flag."""
        elab, pos = self.elab, prop.pos
        if self._has_matched(prop):
            raise self.error(pos, "a sequence with local variables as an event is not supported (IEEE 1800-2017 16.13.6)")
        a = self.sequence(prop)
        t = Vec(max(a.states, 1), False, False)
        name = f"triggered {self.tree.pos} {len(elab.unit.signals)}"
        live = elab.signal(elab.scope, f"live of {name}", Shape(t), [], "var", pos)
        flag = elab.signal(elab.scope, name, Shape(BIT), [], "local", pos)
        live.implicit = flag.implicit = True
        state, after = elab.local(t, pos), elab.local(t, pos)
        begun = n.Binary(t, "|", n.Ref(t, live), n.Const(t, sum(1 << s for s in a.starts)))
        self.steps += [n.Assign(self.site, (whole(state),), begun), self._set(after, 0)]
        self.steps += self._moved(a, state, after)
        reached = n.Binary(t, "&", n.Ref(t, after), n.Const(t, sum(1 << s for s in a.ends)))
        self.steps += [n.Assign(self.site, (whole(flag),), n.Binary(BIT, "!=", reached, n.Const(t, 0))), self._copy(live, after)]
        self.clear.append(self._set(live, 0))
        return ast.Name(pos, name)

    # ---- counting ----

    def _counter(self) -> Signal:
        made = self.elab.local(_COUNT, self.tree.pos)
        self.steps.append(self._set(made, 0))
        return made

    def _set(self, signal: Signal, value: int) -> n.Stmt:
        assert isinstance(signal.type, Vec)
        return n.Assign(self.site, (whole(signal),), n.Const(signal.type, value))

    def _copy(self, to: Signal, source: Signal) -> n.Stmt:
        return n.Assign(self.site, (whole(to),), n.Ref(source.type, source))

    def _added(self, signal: Signal, value: n.Expr) -> n.Stmt:
        return n.Assign(self.site, (whole(signal),), n.Binary(signal.type, "+", n.Ref(signal.type, signal), value))

    def _add(self, signal: Signal, value: n.Expr) -> None:
        self.steps.append(self._added(signal, value))
