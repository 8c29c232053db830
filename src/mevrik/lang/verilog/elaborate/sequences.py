"""The sequences of an assertion (IEEE 1800-2017 16.7 to 16.10): what their names stand for, and the automata that they become."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import replace
from mevrik.design.types import BIT, List, Text, Vec
from mevrik.design.unit import Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.automata import (
    TRUE,
    Automaton,
    any_of,
    both,
    compact,
    either,
    first,
    fused,
    is_of_one_length,
    joined,
    letter,
    matched,
    product,
    repeated,
    star,
)
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.scope import PropertyName, Shape
from mevrik.lang.verilog.elaborate.substitute import renewed, substituted

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

STATE_LIMIT = 1 << 10
FLAG = Vec(1, False, False)
COUNT = Vec(32, False, False)


class SequenceElaborator:
    """`steps` are done at each tick of the clock; `clear` when what is under way is dropped."""

    def __init__(self, elab: UnitElaborator, tree: ast.Assert) -> None:
        self.elab, self.tree = elab, tree
        self.site = elab.context.site(tree.pos, tree.end or tree.pos, f"{tree.kind} {tree.label}".strip())
        self.steps: list[n.Stmt] = []
        self.clear: list[n.Stmt] = []
        self.variables: dict[Signal, n.Expr | None] = {}  # the local variables of sequences, with what they begin with

    def error(self, pos: int, message: str, code: str = "unsupported") -> Exception:
        return self.elab.error(pos, message, code)

    # ---- names ----

    def unwrapped(self, prop: ast.Prop) -> tuple[ast.Prop, tuple[n.Sense, ...] | None, ast.Expr | None]:
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

    def has_matched(self, prop: ast.Prop, around: tuple[ast.PropertyDecl, ...] = ()) -> bool:
        """Whether something is done at matches: then each way of an attempt is followed by itself."""
        tree = self._declared(prop)
        if tree is not None:
            if tree in around:
                raise self.error(
                    prop.pos, f"'{tree.name}' names itself: recursive properties are not supported (IEEE 1800-2017 16.12.17)"
                )
            return self.has_matched(tree.body, (*around, tree)) or bool(tree.locals)
        found = [self.has_matched(p, around) for p in prop.parts]
        return prop.op == "matched" or any(found)

    # ---- sequences ----

    def sequence(self, prop: ast.Prop) -> Automaton:
        made = compact(self._sequence(self.named(prop)))
        if made.states > STATE_LIMIT:
            raise self.error(prop.pos, f"the sequence needs more than {STATE_LIMIT} states", "too-large")
        return made

    def _sequence(self, prop: ast.Prop) -> Automaton:
        match prop.op:
            case "bool":
                assert prop.expr is not None
                return letter(self.letter(prop.expr))
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
                cond = self.letter(prop.expr)
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
        cond = self.letter(inner.expr)
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

    def letter(self, e: ast.Expr) -> n.Expr:
        """Whether a condition holds at this tick: worked out once, over sampled values."""
        elab = self.elab
        value = elab.sampled(elab.truth(self._with_flags(e)))
        read = [r.signal for r in walk.reads_of(value)]
        strange = next((s for s in read if s.kind == "local" and s not in self.variables and s not in elab.process_locals), None)
        if strange is not None:
            words = f"the automatic variable '{strange.name.rpartition('.')[2]}' in a concurrent assertion is not supported"
            raise self.error(e.pos, f"{words} (IEEE 1800-2017 16.14.6.1): give it a static one, or write a generate loop")
        if any(s in self.variables for s in read):
            return value  # another in each thread
        kept = elab.local(FLAG, e.pos)
        self.steps.append(n.If(self.site, value, [self.put(kept, 1)], [self.put(kept, 0)]))
        return n.Ref(FLAG, kept)

    def _with_flags(self, x: Any) -> Any:
        """An expression with a flag in the place of `s.triggered`: whether a sequence has matched at this tick (16.13.6)."""
        if isinstance(x, ast.Member) and x.name in ("triggered", "matched", "ended"):
            prop = ast.Prop(x.pos, "bool", expr=x.base)
            if self._declared(prop) is not None:
                return self._triggered(self.unwrapped(prop)[0])
        if isinstance(x, ast.Node):
            changed: dict[str, Any] = {name: self._with_flags(getattr(x, name)) for name in x.__struct_fields__}
            return replace(x, **changed)
        if isinstance(x, list | tuple):
            return type(x)(map(self._with_flags, x))
        return x

    def _triggered(self, prop: ast.Prop) -> ast.Expr:
        """Follows a sequence from each tick on, all attempts in one set of states. Gives the name of the flag."""
        elab, pos = self.elab, prop.pos
        if self.has_matched(prop):
            raise self.error(pos, "a sequence with local variables as an event is not supported (IEEE 1800-2017 16.13.6)")
        a = self.sequence(prop)
        t = Vec(max(a.states, 1), False, False)
        name = f"triggered {self.tree.pos} {len(elab.unit.signals)}"
        live = elab.signal(elab.scope, f"live of {name}", Shape(t), [], "var", pos)
        flag = elab.signal(elab.scope, name, Shape(BIT), [], "local", pos)
        live.implicit = flag.implicit = True
        state, after = elab.local(t, pos), elab.local(t, pos)
        begun = n.Binary(t, "|", n.Ref(t, live), n.Const(t, sum(1 << s for s in a.starts)))
        self.steps += [n.Assign(self.site, (whole(state),), begun), self.put(after, 0)]
        self.steps += self.moved(a, state, after)
        reached = n.Binary(t, "&", n.Ref(t, after), n.Const(t, sum(1 << s for s in a.ends)))
        self.steps += [n.Assign(self.site, (whole(flag),), n.Binary(BIT, "!=", reached, n.Const(t, 0))), self.copied(live, after)]
        self.clear.append(self.put(live, 0))
        return ast.Name(pos, name)

    def moved(self, a: Automaton, state: Signal, after: Signal) -> list[n.Stmt]:
        """A step of the automaton: `after` gets the states that are reached from those in `state`."""
        t = after.type
        assert isinstance(t, Vec)
        by_target: dict[int, list[n.Expr]] = {}
        for p, c, q in a.moves:
            by_target.setdefault(q, []).append(both(n.Bits(FLAG, n.Ref(t, state), n.Offset(p)), c))
        steps: list[n.Stmt] = [
            n.Assign(self.site, (n.LRef(after, None, n.Offset(q), 1),), any_of(taken)) for q, taken in sorted(by_target.items())
        ]
        for left, at in a.cuts:
            reached = n.Binary(t, "&", n.Ref(t, after), n.Const(t, sum(1 << s for s in at)))
            others = n.Binary(t, "&", n.Ref(t, after), n.Const(t, (1 << t.width) - 1 - sum(1 << s for s in left)))
            cut = n.Assign(self.site, (whole(after),), others)
            steps.append(n.If(self.site, n.Binary(BIT, "!=", reached, n.Const(t, 0)), [cut], []))
        return steps

    # ---- counting ----

    def counter(self) -> Signal:
        made = self.elab.local(COUNT, self.tree.pos)
        self.steps.append(self.put(made, 0))
        return made

    def put(self, signal: Signal, value: int) -> n.Stmt:
        assert isinstance(signal.type, Vec)
        return n.Assign(self.site, (whole(signal),), n.Const(signal.type, value))

    def copied(self, to: Signal, source: Signal) -> n.Stmt:
        return n.Assign(self.site, (whole(to),), n.Ref(source.type, source))

    def added(self, signal: Signal, value: n.Expr) -> n.Stmt:
        return n.Assign(self.site, (whole(signal),), n.Binary(signal.type, "+", n.Ref(signal.type, signal), value))

    def add(self, signal: Signal, value: n.Expr) -> None:
        self.steps.append(self.added(signal, value))
