"""Which signals an expression reads, and what a process drives (IEEE 1076-2008 10.2, 14.7.2)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from mevrik.design import typed as t


def base_of(e: t.Expr) -> t.Expr:
    """What a name is a part of, or an alias for (IEEE 1076-2008 6.6.2)."""
    while isinstance(e, (t.Index, t.Slice, t.FieldOf)) or (isinstance(e, t.Convert) and e.alias):
        e = e.a
    return e


def signal_of(e: t.Expr) -> t.RootSignal | None:
    """The signal of the design that a name is, or is a part of."""
    while isinstance(e, (t.Index, t.Slice, t.FieldOf, t.Convert)):
        e = e.a
    return e.object.signal.root if isinstance(e, t.Ref) and e.object.signal is not None else None


def is_signal(e: t.Expr, root: t.RootSignal) -> bool:
    """Whether an expression is the whole of a name of this signal."""
    return isinstance(e, t.Ref) and e.object.signal is not None and e.object.signal.root is root


def is_inverse(e: t.Expr, root: t.RootSignal) -> bool:
    """Whether an expression is `not` of a signal, by the predefined operator or that of std_logic_1164."""
    if isinstance(e, t.Call):
        package = e.sub.region is not None and e.sub.region.label == "package std_logic_1164"
        return e.sub.name == '"not"' and package and is_signal(e.args[0], root)
    return isinstance(e, t.Op) and e.op == "not" and len(e.args) == 1 and is_signal(e.args[0], root)


def static_part(e: t.Expr) -> tuple[t.SignalPart, int, int] | None:
    """The signal and the bytes (from, size) of the longest static prefix of a name; None if it is no signal of the design."""
    found = _part(e)
    return (found[0], found[1], found[2]) if found is not None else None


def _part(e: t.Expr) -> tuple[t.SignalPart, int, int, bool] | None:
    """... and whether the whole name is static."""
    match e:
        case t.Ref(object=o):
            if o.signal is None:
                return None
            return o.signal, o.signal.at, t.size_of(o.subtype), True
        case t.Index(a=a, indexes=indexes):
            inner = _part(a)
            if inner is None or not inner[3]:
                return inner
            if a.type.bounds is None or not a.type.static or not all(isinstance(i, t.Const) for i in indexes):
                return (*inner[:3], False)
            at = 0
            for b, i in zip(a.type.bounds, indexes, strict=True):
                assert isinstance(i, t.Const)
                if not b.low <= i.value <= b.high:
                    return (*inner[:3], False)
                left, _, down = b.ints
                at = at * b.length + (left - i.value if down else i.value - left)
            size = t.size_of(a.type.elem)
            return inner[0], inner[1] + at * size, size, True
        case t.Slice(a=a, bounds=bounds):
            inner = _part(a)
            if inner is None or not inner[3]:
                return inner
            if a.type.bounds is None or not a.type.static or not bounds.static:
                return (*inner[:3], False)
            left, _, down = a.type.bounds[0].ints
            start = bounds.ints[0]
            offset = left - start if down else start - left
            size = t.size_of(a.type.elem)
            if bounds.length == 0:
                return inner[0], inner[1], 0, True
            return inner[0], inner[1] + offset * size, bounds.length * size, True
        case t.FieldOf(a=a, index=index):
            inner = _part(a)
            if inner is None or not inner[3]:
                return inner
            offsets, _ = t.record_layout(a.type)
            return inner[0], inner[1] + offsets[index], t.size_of(a.type.field_types()[index]), True
    return None


def signals_read(node: Any, into_calls: set[t.Subprogram] | None = None) -> Iterator[t.Expr]:
    """The names of signals that are read, each its longest static prefix; with `into_calls` also in the subprograms called."""
    match node:
        case t.Ref(object=o):
            if o.signal is not None:
                yield node
            return
        case t.Index() | t.Slice() | t.FieldOf():
            part = _part(node)
            if part is not None:
                if part[3]:
                    yield node
                else:
                    yield from signals_read(node.a, into_calls)
                    for x in (
                        node.indexes
                        if isinstance(node, t.Index)
                        else [node.bounds.left, node.bounds.right]
                        if isinstance(node, t.Slice)
                        else []
                    ):
                        yield from signals_read(x, into_calls)
                return
        case t.Assign(target=target, value=value):
            yield from _in_target(target, into_calls)
            yield from signals_read(value, into_calls)
            return
        case t.SignalAssign(target=target):
            yield from _in_target(target, into_calls)
            for w in node.waves:
                for part_of_wave in (w.value, w.after):
                    if part_of_wave is not None:
                        yield from signals_read(part_of_wave, into_calls)
            return
        case t.Call(sub=sub, args=args):
            for p, x in zip(sub.params, args, strict=True):
                if p.cls in ("signal", "variable") and p.mode == "out":
                    yield from _in_target(x, into_calls)
                else:
                    yield from signals_read(x, into_calls)
            if into_calls is not None and sub not in into_calls and sub.body is not None:
                into_calls.add(sub)
                for s in (*sub.decls, *sub.body):
                    yield from signals_read(s, into_calls)
            return
        case t.Declare(object=o):
            if o.init is not None:
                yield from signals_read(o.init, into_calls)
            return
    for child in t.children(node):
        yield from signals_read(child, into_calls)


def _in_target(target: t.Expr, into_calls: set[t.Subprogram] | None) -> Iterator[t.Expr]:
    """What the indexes of a target read."""
    match target:
        case t.Index(a=a, indexes=indexes):
            yield from _in_target(a, into_calls)
            for i in indexes:
                yield from signals_read(i, into_calls)
        case t.Slice(a=a, bounds=bounds):
            yield from _in_target(a, into_calls)
            yield from signals_read(bounds.left, into_calls)
            yield from signals_read(bounds.right, into_calls)
        case t.FieldOf(a=a) | t.Convert(a=a):
            yield from _in_target(a, into_calls)
        case t.Aggregate(items=items):
            for _, value in items:
                yield from _in_target(value, into_calls)
        case t.Deref(a=a):
            yield from signals_read(a, into_calls)


def unique(reads: Iterator[t.Expr]) -> list[t.Expr]:
    """Each part of a signal once."""
    found: dict[tuple[Any, int, int], t.Expr] = {}
    for e in reads:
        part = static_part(e)
        if part is not None:
            found.setdefault((id(part[0].root), part[1], part[2]), e)
    return list(found.values())
