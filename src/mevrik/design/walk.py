"""Walks over expressions and statements: what they read, what they write, whether they suspend."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.unit import Signal, Subprogram

Part = n.Expr | n.LRef


def offsets(offset: n.Offset | None) -> list[n.Expr]:
    return [term.index for term in offset.terms] if offset is not None else []


def _of_ref(e: n.Ref) -> list[Part]:
    found: list[Part] = [*offsets(e.element)]
    if e.signal.via is not None:
        found.append(e.signal.via)
    return found


def _of_call(e: n.Call) -> list[Part]:
    found: list[Part] = [*e.args]
    if e.via is not None:
        found.append(e.via)
    for places in e.copy_back:
        found += places or ()
    return found


def _of_field(e: n.FieldValue) -> list[Part]:
    return [e.object, *offsets(e.element)]


def _of_effect(e: n.Effect) -> list[Part]:
    return [*(x for s in statements(e.body) for x in own_expressions(s)), e.a]


# By class, what its objects are made of: a table is much quicker than asking for one class after the other.
_CHILDREN: dict[type, Callable[[Any], Sequence[Part]]] = {
    n.Ref: _of_ref,
    n.Bits: lambda e: [e.base, *offsets(e.offset)],
    **dict.fromkeys((n.Unary, n.Repeat, n.Resize, n.ToReal, n.ToVec, n.Fresh), lambda e: (e.a,)),
    n.Binary: lambda e: (e.a, e.b),
    n.Choice: lambda e: (e.cond, e.a, e.b),
    n.Concat: lambda e: e.parts,
    n.Call: _of_call,
    n.SysCall: lambda e: e.args,
    n.FieldValue: _of_field,
    n.Present: lambda e: (e.object,),
    n.ClassNumber: lambda e: (e.object,),
    n.Item: lambda e: [e.array, *offsets(e.element)],
    n.ListArray: lambda e: (e.list,),
    n.ArrayList: lambda e: (e.array,),
    n.ArrayConst: lambda e: e.items,
    n.Effect: _of_effect,
    n.ListLoop: lambda e: (e.list, e.body),
    n.NewObject: lambda e: (e.source,) if e.source is not None else (),
    n.ListValue: lambda e: [*in_place(e.list), *e.args, *e.out],
    n.Lookup: lambda e: [x for x in (e.now, e.before, e.state) if x is not None],
    n.LRef: lambda e: [*offsets(e.element), *offsets(e.bits)],
}


def children(e: Part) -> Sequence[Part]:
    """The expressions, and places of results, right below one."""
    below = _CHILDREN.get(type(e))
    return below(e) if below is not None else ()


def in_place(place: n.Expr | n.ListPlace) -> Iterator[Part]:
    """What a list, or a place that is one, is made of."""
    match place:
        case n.FieldPlace():
            yield place.object
            yield from offsets(place.element)
        case n.ElementPlace():
            yield from in_place(place.list)
            yield place.index
        case n.MemberPlace():
            yield from in_place(place.place)
        case _:
            yield place


def expressions(e: Part) -> Iterator[Part]:
    """The expression and all below it."""
    stack = [e]
    while stack:
        here = stack.pop()
        yield here
        below = _CHILDREN.get(type(here))
        if below is not None:
            stack.extend(reversed(below(here)))


def _placed(targets: Iterable[n.LRef]) -> list[n.Expr]:
    return [x for part in targets for x in (*offsets(part.element), *offsets(part.bits))]


def _of_assign(s: n.Assign | n.Schedule) -> list[n.Expr]:
    found = [s.value, *_placed(s.target)]
    if s.delay is not None:
        found.append(s.delay)
    if isinstance(s, n.Assign):
        if s.repeat is not None:
            found.append(s.repeat)
        found += [event.expr for event in s.events]
    return found


def _of_wait(s: n.WaitEvent) -> list[n.Expr]:
    return [x for event in s.events for x in (event.expr, event.guard) if x is not None]


def _of_task(s: n.CallTask) -> list[n.Expr]:
    return [*(a for a in s.args if isinstance(a, n.Expr)), *(x for places in s.copy_back for x in _placed(places or ()))]


def _of_array_assign(s: n.AssignArray) -> list[n.Expr]:
    found = [x for x in in_place(s.target) if isinstance(x, n.Expr)]
    if isinstance(s.target, n.LRef):
        found += offsets(s.target.element)
    return [*found, s.value]


_OWN: dict[type, Callable[[Any], Sequence[n.Expr]]] = {
    n.Assign: _of_assign,
    n.Schedule: _of_assign,
    n.If: lambda s: (s.cond,),
    n.Case: lambda s: [s.subject, *(x for labels, _ in s.arms for x in labels)],
    n.Loop: lambda s: (s.cond,) if s.cond is not None else (),
    n.RepeatLoop: lambda s: (s.count,),
    n.Delay: lambda s: (s.ticks,),
    n.WaitEvent: _of_wait,
    n.WaitUntil: lambda s: (s.cond,),
    n.CallTask: _of_task,
    n.SysTask: lambda s: [a for a in s.args if a is not None],
    n.ProcessAwait: lambda s: (s.number,),
    n.Fork: lambda s: [value for _, value in s.own],
    n.FieldSet: lambda s: [s.object, s.value, *offsets(s.element)],
    n.AssignArray: _of_array_assign,
    n.ListStep: lambda s: [*(x for x in in_place(s.list) if isinstance(x, n.Expr)), *s.args],
    n.Force: lambda s: (s.value,) if s.value is not None else (),
    n.Drive: lambda s: [s.value, *s.delays, *((s.pulse.reject, s.pulse.error) if s.pulse is not None else ()), *_placed(s.target)],
}


def own_expressions(s: n.Stmt) -> Sequence[n.Expr]:
    """The expressions that a statement itself evaluates, nested statements left out."""
    own = _OWN.get(type(s))
    return own(s) if own is not None else ()


_NESTED: dict[type, Callable[[Any], Sequence[list[n.Stmt]]]] = {
    n.If: lambda s: (s.then, s.other),
    n.Case: lambda s: [body for _, body in s.arms],
    n.Loop: lambda s: (s.body, s.step),
    n.RepeatLoop: lambda s: (s.body,),
    n.Block: lambda s: (s.body,),
    n.Fork: lambda s: (s.branches,),
}


def nested(s: n.Stmt) -> Sequence[list[n.Stmt]]:
    """The lists of statements inside of one."""
    inside = _NESTED.get(type(s))
    return inside(s) if inside is not None else ()


def statements(body: Iterable[n.Stmt]) -> Iterator[n.Stmt]:
    """All statements, those inside of others behind them."""
    for s in body:
        yield s
        inside = _NESTED.get(type(s))
        if inside is not None:
            for inner in inside(s):
                yield from statements(inner)


def targets(s: n.Stmt) -> Iterator[n.LRef]:
    match s:
        case n.Assign() | n.Schedule() | n.Drive() | n.Force():
            yield from s.target
        case n.ListStep() | n.AssignArray():
            place: n.ListPlace = s.list if isinstance(s, n.ListStep) else s.target
            while isinstance(place, (n.ElementPlace, n.MemberPlace)):
                place = place.list if isinstance(place, n.ElementPlace) else place.place
            if isinstance(place, n.LRef):
                yield place
        case n.CallTask():
            for places in s.copy_back:
                yield from places or ()
        case n.SysTask():
            for a in s.args:
                if isinstance(a, n.SysCall) and a.name == "target":
                    yield from (x for x in a.args if isinstance(x, n.LRef))


def reads_of(e: n.Expr | n.LRef, into_calls: bool = False, seen: set[Subprogram] | None = None) -> Iterator[n.Ref]:
    """Every read of a signal in an expression; with `into_calls` also in the functions it calls."""
    for x in expressions(e):
        if isinstance(x, n.Ref):
            yield x
        elif isinstance(x, n.Call) and into_calls:
            seen = set() if seen is None else seen
            if x.function not in seen:
                seen.add(x.function)
                yield from reads(x.function.body, True, seen)


def reads(body: Iterable[n.Stmt], into_calls: bool = False, seen: set[Subprogram] | None = None) -> Iterator[n.Ref]:
    for s in statements(body):
        for e in own_expressions(s):
            yield from reads_of(e, into_calls, seen)
        if isinstance(s, n.CallTask) and into_calls:
            seen = set() if seen is None else seen
            if s.task not in seen:
                seen.add(s.task)
                yield from reads(s.task.body, True, seen)


def writes(body: Iterable[n.Stmt]) -> Iterator[n.LRef]:
    for s in statements(body):
        yield from targets(s)


def waits(s: n.Stmt) -> bool:
    """Whether a statement itself can wait."""
    if isinstance(s, (n.Delay, n.WaitEvent, n.WaitUntil, n.Fork, n.WaitFork, n.ProcessAwait)):
        return True
    return (isinstance(s, n.Assign) and (s.delay is not None or bool(s.events))) or (isinstance(s, n.CallTask) and s.task.suspends)


def first_wait(body: Iterable[n.Stmt]) -> n.Stmt | None:
    """The first statement that can hold up whoever runs the statements: not the branches of a fork that nothing waits for."""
    for s in body:
        if isinstance(s, n.Fork) and s.join == "join_none":
            continue
        if waits(s):
            return s
        for inner in nested(s):
            found = first_wait(inner)
            if found is not None:
                return found
    return None


def suspends(body: Iterable[n.Stmt]) -> bool:
    """Whether the statements can wait."""
    return any(waits(s) for s in statements(body))


def owner(signal: Signal) -> Signal:
    """The signal itself, or what a stand-in stands for."""
    return signal.target if signal.target is not None else signal


def with_refs(e: n.Expr, change: Callable[[n.Ref], n.Expr]) -> n.Expr:
    """The expression with each read of a signal as `change` has it."""
    if isinstance(e, n.Ref):
        made = change(e)
        if made is not e:
            return made

    def renewed(x: object) -> object:
        if isinstance(x, n.Expr):
            return with_refs(x, change)
        if isinstance(x, n.Offset):
            return n.Offset(x.const, tuple(replace(t, index=with_refs(t.index, change)) for t in x.terms))
        if isinstance(x, tuple):
            return tuple(renewed(y) for y in x)
        return x

    changed: dict[str, Any] = {name: renewed(getattr(e, name)) for name in e.__struct_fields__ if name != "type"}
    return replace(e, **changed)
