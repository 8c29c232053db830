"""Walks over expressions and statements: what they read, what they write, whether they suspend."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mevrik.design import nodes as n
from mevrik.design.unit import Signal, Subprogram


def offsets(offset: n.Offset | None) -> Iterator[n.Expr]:
    if offset is not None:
        for term in offset.terms:
            yield term.index


def children(e: n.Expr | n.LRef) -> Iterator[n.Expr | n.LRef]:
    match e:
        case n.Const():
            pass
        case n.Ref():
            yield from offsets(e.element)
            if e.signal.via is not None:
                yield e.signal.via
        case n.Bits():
            yield e.base
            yield from offsets(e.offset)
        case n.Unary() | n.Repeat() | n.Resize() | n.ToReal() | n.ToVec() | n.Fresh():
            yield e.a
        case n.Binary():
            yield e.a
            yield e.b
        case n.Choice():
            yield e.cond
            yield e.a
            yield e.b
        case n.Concat():
            yield from e.parts
        case n.Call():
            yield from e.args
            if e.via is not None:
                yield e.via
            for places in e.copy_back:
                yield from places or ()
        case n.SysCall():
            yield from e.args
        case n.FieldValue() | n.ClassNumber():
            yield e.object
            yield from offsets(e.element) if isinstance(e, n.FieldValue) else ()
        case n.Item():
            yield e.array
            yield from offsets(e.element)
        case n.ListArray():
            yield e.list
        case n.ArrayList():
            yield e.array
        case n.ArrayConst():
            yield from e.items
        case n.Effect():
            for s in statements(e.body):
                yield from own_expressions(s)
            yield e.a
        case n.ListLoop():
            yield e.list
            yield e.body
        case n.NewObject():
            if e.source is not None:
                yield e.source
        case n.ListValue():
            yield from in_place(e.list)
            yield from e.args
            yield from e.out
        case n.Lookup():
            yield from (x for x in (e.now, e.before, e.state) if x is not None)
        case n.LRef():
            yield from offsets(e.element)
            yield from offsets(e.bits)


def in_place(place: n.Expr | n.ListPlace) -> Iterator[n.Expr | n.LRef]:
    """What a list, or a place that is one, is made of."""
    match place:
        case n.FieldPlace():
            yield place.object
            yield from offsets(place.element)
        case n.ElementPlace():
            yield from in_place(place.list)
            yield place.index
        case _:
            yield place


def expressions(e: n.Expr | n.LRef) -> Iterator[n.Expr | n.LRef]:
    """The expression and all below it."""
    yield e
    for child in children(e):
        yield from expressions(child)


def own_expressions(s: n.Stmt) -> Iterator[n.Expr]:
    """The expressions that a statement itself evaluates, nested statements left out."""
    match s:
        case n.Assign() | n.Schedule():
            yield s.value
            for part in s.target:
                yield from offsets(part.element)
                yield from offsets(part.bits)
            if s.delay is not None:
                yield s.delay
            if isinstance(s, n.Assign):
                if s.repeat is not None:
                    yield s.repeat
                for event in s.events:
                    yield event.expr
        case n.If():
            yield s.cond
        case n.Case():
            yield s.subject
            for labels, _ in s.arms:
                yield from labels
        case n.Loop():
            if s.cond is not None:
                yield s.cond
        case n.RepeatLoop():
            yield s.count
        case n.Delay():
            yield s.ticks
        case n.WaitEvent():
            for event in s.events:
                yield event.expr
                if event.guard is not None:
                    yield event.guard
        case n.WaitUntil():
            yield s.cond
        case n.CallTask():
            for arg in s.args:
                if isinstance(arg, n.Expr):
                    yield arg
            for places in s.copy_back:
                for part in places or ():
                    yield from offsets(part.element)
                    yield from offsets(part.bits)
        case n.SysTask():
            yield from (a for a in s.args if a is not None)
        case n.ProcessAwait():
            yield s.number
        case n.Fork():
            yield from (value for _, value in s.own)
        case n.FieldSet():
            yield s.object
            yield s.value
            yield from offsets(s.element)
        case n.AssignArray():
            yield from (x for x in in_place(s.target) if isinstance(x, n.Expr))
            if isinstance(s.target, n.LRef):
                yield from offsets(s.target.element)
            yield s.value
        case n.ListStep():
            yield from (x for x in in_place(s.list) if isinstance(x, n.Expr))
            yield from s.args
        case n.Force():
            if s.value is not None:
                yield s.value
        case n.Drive():
            yield s.value
            yield from s.delays
            for part in s.target:
                yield from offsets(part.element)
                yield from offsets(part.bits)


def nested(s: n.Stmt) -> Iterator[list[n.Stmt]]:
    match s:
        case n.If():
            yield s.then
            yield s.other
        case n.Case():
            for _, body in s.arms:
                yield body
        case n.Loop():
            yield s.body
            yield s.step
        case n.RepeatLoop() | n.Block():
            yield s.body
        case n.Fork():
            yield s.branches


def statements(body: Iterable[n.Stmt]) -> Iterator[n.Stmt]:
    for s in body:
        yield s
        for inner in nested(s):
            yield from statements(inner)


def targets(s: n.Stmt) -> Iterator[n.LRef]:
    match s:
        case n.Assign() | n.Schedule() | n.Drive() | n.Force():
            yield from s.target
        case n.ListStep() | n.AssignArray():
            place: n.ListPlace = s.list if isinstance(s, n.ListStep) else s.target
            while isinstance(place, n.ElementPlace):
                place = place.list
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


def suspends(body: Iterable[n.Stmt]) -> bool:
    """Whether the statements can wait."""
    return any(waits(s) for s in statements(body))


def owner(signal: Signal) -> Signal:
    """The signal itself, or what a stand-in stands for."""
    return signal.target if signal.target is not None else signal
