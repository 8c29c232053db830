"""Which processes the events of a signal wake."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.design.reads import static_part
from mevrik.design.record import Frozen


class Woken(Frozen, frozen=True):
    """A process that an event in the bytes [at, at + size) of a signal wakes; `link` as VFan of kernel/typed.h takes it."""

    process: t.Process
    at: int
    size: int
    link: int


def fan_out(model: t.Model) -> dict[int, list[Woken]]:
    """By the number of the signal: what its events wake, in the order of the processes."""
    found: dict[int, list[Woken]] = {}
    for p in model.processes:
        for e in p.sensitivity or ():
            part = static_part(e)
            if part is None:
                continue
            row = Woken(p, part[1], part[2], 1 if p.kind == "link" else edge_of(p, e))
            rows = found.setdefault(part[0].root.number, [])
            if row not in rows:
                rows.append(row)
    return found


def edge_of(p: t.Process, e: t.Expr) -> int:
    """For a process that does something only at one edge of this signal: which one, as VFan of kernel/typed.h takes it; else 0. An
    asynchronous reset before it may set constants: that another edge does it once more changes nothing."""
    if len(p.body) != 1 or not isinstance(p.body[0], t.If) or p.postponed or not isinstance(e, t.Ref):
        return 0
    first = p.body[0]
    while not _is_edge(first.cond, e):
        plain = all(isinstance(s, t.SignalAssign) and _constant(s) for s in first.then)
        if not plain or len(first.other) != 1 or not isinstance(first.other[0], t.If):
            return 0
        first = first.other[0]
    if first.other:
        return 0
    call = first.cond if isinstance(first.cond, t.Call) else None
    if call is None:
        return 0
    nine = len(getattr(e.type.type, "literals", ())) == 9
    rising = call.sub.name == "rising_edge"
    want = (3 if rising else 2) if nine else int(rising)
    return 2 | want << 8 | (11 if nine else 255) << 16


def _is_edge(cond: t.Expr, e: t.Ref) -> bool:
    return (
        isinstance(cond, t.Call)
        and cond.sub.name in ("rising_edge", "falling_edge")
        and isinstance(cond.args[0], t.Ref)
        and cond.args[0].object.signal is not None
        and e.object.signal is not None
        and cond.args[0].object.signal.root is e.object.signal.root
    )


def _constant(s: t.SignalAssign) -> bool:
    return (
        len(s.waves) == 1
        and s.waves[0].after is None
        and s.waves[0].value is not None
        and not any(
            isinstance(x, (t.Call, t.Ref)) and not (isinstance(x, t.Ref) and x.object.kind == "constant")
            for x in t.nodes(s.waves[0].value)
        )
    )
