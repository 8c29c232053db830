"""Clocking blocks (IEEE 1800-2017 clause 14): inputs sampled at the clocking event, outputs driven after it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import Identity, Value, field, replace
from mevrik.design.types import EVENT, TIME, EventType, Type, Vec, width_of
from mevrik.design.unit import Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.scope import Scope

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

_MOMENT = Vec(64, False, False)
_FLAG = Vec(1, False, False)


class ClockVar(Value):
    """A signal of a clocking block. `sample` holds the value of an input; `target` is what an output drives, by way of `next`, of which
    only the bits in `mask` count unless that is 0."""

    name: str
    sample: Signal | None = None
    target: tuple[n.LRef, ...] = ()
    next: Signal | None = None
    pending: Signal | None = None
    mask: Signal | None = None
    moment: Signal | None = None  # of the last drive, plus one
    skew: n.Expr | None = None
    type: Type = _FLAG
    known: bool = True  # whether it was declared where the clocking block stands


class ClockingName(Identity):
    """A clocking block: `event` happens when its inputs have been sampled."""

    tree: ast.Clocking
    scope: Scope
    event: Signal
    clock: tuple[n.Sense, ...] = ()
    signals: dict[str, ClockVar] = field(default_factory=dict)


def moved(clocking: ClockingName, move: Callable[[Signal], Signal]) -> ClockingName:
    """The same clocking block over other signals: seen from outside of its unit, or through a virtual interface."""
    signals = {
        name: replace(
            var,
            sample=var.sample and move(var.sample),
            next=var.next and move(var.next),
            pending=var.pending and move(var.pending),
            mask=var.mask and move(var.mask),
        )
        for name, var in clocking.signals.items()
    }
    return replace(clocking, event=move(clocking.event), signals=signals)


def declare_clocking(elab: UnitElaborator, tree: ast.Clocking, scope: Scope) -> None:
    name = tree.name or f"clocking.{tree.pos}"
    event = Signal(f"{scope.prefix}{name}.event", EVENT, "var", tree.pos, implicit=True)
    elab.unit.signals.append(event)
    made = ClockingName(tree, scope, event)
    elab.declare(scope, name, made, tree.pos)
    elab.clockings.append(made)
    if tree.default:
        elab.default_clocking = made
    for direction, signal, expr, _ in tree.signals:
        var = made.signals.setdefault(signal, ClockVar(signal))
        meant = expr if expr is not None else ast.Name(tree.pos, signal)
        t = elab.quietly(lambda e=meant: elab.shape(e))  # type: ignore[misc]
        var.type, var.known = (t, True) if t is not None else (_FLAG, False)
        if direction in ("input", "inout"):
            var.sample = _hidden(elab, f"{scope.prefix}{name}.{signal}", var.type, tree.pos)
        if direction in ("output", "inout"):
            var.next = _hidden(elab, f"{scope.prefix}{name}.{signal}.next", var.type, tree.pos)
            var.pending = _hidden(elab, f"{scope.prefix}{name}.{signal}.pending", _FLAG, tree.pos)
            source = elab.quietly(lambda e=meant: elab.shape_of(e))  # type: ignore[misc]
            if source is not None and isinstance(var.type, Vec) and width_of(var.type) > 1:
                elab.shapes[var.next] = source
                var.moment = _hidden(elab, f"{scope.prefix}{name}.{signal}.moment", _MOMENT, tree.pos)
                var.mask = _hidden(elab, f"{scope.prefix}{name}.{signal}.mask", Vec(width_of(var.type), False, False), tree.pos)


def _hidden(elab: UnitElaborator, name: str, t: Type, pos: int) -> Signal:
    made = Signal(name, t, "var", pos, "", width_of(t) - 1, implicit=True)
    if isinstance(t, Vec):
        made.packed = ((t.width - 1, 0),)
    elab.unit.signals.append(made)
    return made


def finish_clocking(elab: UnitElaborator, made: ClockingName) -> None:
    """The processes that sample and drive at the clocking event."""
    tree = made.tree
    elab.scope = made.scope
    elab.process_name = f"clocking {tree.name}".strip()
    site = elab.context.site(tree.pos, tree.pos + 8, elab.process_name)
    made.clock = elab.events(tree.event)
    prefix = made.scope.prefix
    happened = n.SysCall(_FLAG, "$triggered", (n.Ref(EVENT, made.event),), 0)
    sampling: list[n.Stmt] = []
    late: list[n.Stmt] = []
    for direction, name, expr, skew in tree.signals:
        var = made.signals[name]
        source = expr if expr is not None else ast.Name(tree.pos, name)
        if not var.known:
            elab.shape(source)
            message = f"{elab.words(source)} has to be declared before the clocking block that samples or drives it (14.3)"
            raise elab.error(source.pos, message, "undeclared")
        if direction in ("input", "inout") and var.sample is not None:
            value = elab.for_target(source, var.type)
            own = skew or tree.skews.get("input")
            ticks = elab.ticks(own.delay) if own is not None and own.delay is not None else None
            if own is not None and _is_other_edge(made, own):
                before = _at_edge(elab, made, own, elab.sampled(value), site)
                sampling.append(n.Assign(site, (whole(var.sample),), before))
            elif ticks is None:
                sampling.append(n.Assign(site, (whole(var.sample),), elab.sampled(value)))
            elif isinstance(ticks, n.Const) and ticks.val == 0:
                late.append(n.Assign(site, (whole(var.sample),), value))
            else:
                late.append(n.Assign(site, (whole(var.sample),), _delayed(elab, value, ticks, site, tree.pos)))
        if direction in ("output", "inout") and var.next is not None and var.pending is not None:
            var.target = elab.place(source)
            own = skew if direction == "output" else None
            own = own or tree.skews.get("output")
            var.skew = elab.ticks(own.delay) if own is not None and own.delay is not None else None
            drive: list[n.Stmt] = [
                n.Assign(site, (whole(var.pending),), n.Const(_FLAG, 0)),
                *(_merged(elab, var, source, site) if var.mask is not None else ()),
                *_driven(elab, made, var, own, site),
            ]
            pending = n.Ref(_FLAG, var.pending)
            sampling.append(n.If(site, pending, drive, []))
            asked = n.If(site, n.Binary(_FLAG, "&&", pending, happened), drive, [])
            sense = (n.Sense("any", pending),)
            elab.unit.processes.append(Process("always", [asked], tree.pos, prefix, sense, hidden=True, region="reactive"))
    if sampling:
        elab.unit.processes.append(Process("always", sampling, tree.pos, prefix, made.clock, hidden=True))
    late.append(n.Trigger(site, made.event))
    elab.unit.processes.append(Process("always", late, tree.pos, prefix, made.clock, hidden=True, region="reactive"))


def _is_other_edge(made: ClockingName, skew: ast.Skew) -> bool:
    return bool(skew.edge) and [s.edge for s in made.clock] != [skew.edge]


def _edge_of(elab: UnitElaborator, made: ClockingName, skew: ast.Skew) -> tuple[n.Sense, ...]:
    """The edge of the clock that a skew names (14.4)."""
    if len(made.clock) != 1 or isinstance(made.clock[0].expr.type, EventType):
        raise elab.error(skew.pos, "an edge as a skew needs a clocking event of one signal (14.4)", "clocking")
    return (n.Sense(skew.edge, made.clock[0].expr),)


def _at_edge(elab: UnitElaborator, made: ClockingName, skew: ast.Skew, value: n.Expr, site: int) -> n.Expr:
    """What a value was at the last such edge."""
    kept = _hidden(elab, f"{elab.scope.prefix}edge.{len(elab.unit.signals)}", value.type, skew.pos)
    take = n.Assign(site, (whole(kept),), value)
    elab.unit.processes.append(Process("always", [take], skew.pos, elab.scope.prefix, _edge_of(elab, made, skew), hidden=True))
    return n.Ref(value.type, kept)


def _driven(elab: UnitElaborator, made: ClockingName, var: ClockVar, skew: ast.Skew | None, site: int) -> list[n.Stmt]:
    """Drives an output after its skew: at once, or at the next edge that this names."""
    assert var.next is not None
    if skew is None or not _is_other_edge(made, skew):
        return driving(elab, var, n.Ref(var.type, var.next), site)
    prefix = f"{elab.scope.prefix}edge.{len(elab.unit.signals)}"
    value, waits = _hidden(elab, prefix, var.type, skew.pos), _hidden(elab, f"{prefix}.waits", _FLAG, skew.pos)
    drive = [n.Assign(site, (whole(waits),), n.Const(_FLAG, 0)), *driving(elab, var, n.Ref(var.type, value), site)]
    at_edge = n.If(site, n.Ref(_FLAG, waits), drive, [])
    elab.unit.processes.append(Process("always", [at_edge], skew.pos, elab.scope.prefix, _edge_of(elab, made, skew), hidden=True))
    return [n.Assign(site, (whole(value),), n.Ref(var.type, var.next)), n.Assign(site, (whole(waits),), n.Const(_FLAG, 1))]


def driving(elab: UnitElaborator, var: ClockVar, value: n.Expr, site: int) -> list[n.Stmt]:
    """Drive an output: a net by a hidden variable of the clocking block, a variable by assignment (14.16.2)."""
    first = var.target[0].signal
    owner = first.target or first
    if owner.kind == "net":
        driver = elab.clock_drivers.get(owner)
        if driver is None:
            driver = _hidden(elab, f"{owner.name}.clocked", var.type, owner.pos)
            ones = (1 << width_of(var.type)) - 1
            driver.init = n.Const(var.type, 0, ones)  # z: it drives nothing yet
            elab.clock_drivers[owner] = driver
            elab.drive(site, owner.pos, var.target, n.Ref(var.type, driver))
        return [n.Schedule(site, (whole(driver),), value, var.skew)]
    return [n.Schedule(site, var.target, value, var.skew)]


def _merged(elab: UnitElaborator, var: ClockVar, source: ast.Expr, site: int) -> list[n.Stmt]:
    """Where only bits of an output were given, the others keep what the signal has now, or gets by another drive of this moment."""
    assert var.mask is not None
    assert var.moment is not None
    assert var.next is not None
    mask, given = n.Ref(var.mask.type, var.mask), n.Ref(var.type, var.next)
    chosen = n.Resize(var.type, mask)
    kept = n.Binary(var.type, "&", elab.for_target(source, var.type), n.Unary(var.type, "~", chosen))
    both = n.Binary(var.type, "|", kept, n.Binary(var.type, "&", given, chosen))
    now = n.Binary(TIME, "+", n.SysCall(TIME, "$time", (), 0, elab.context.tick_exp), n.Const(TIME, 1))
    first = n.Binary(_FLAG, "!=", n.Ref(_MOMENT, var.moment), now)
    steps: list[n.Stmt] = [
        n.If(site, first, [n.Assign(site, (whole(var.next),), both)], []),
        n.Assign(site, (whole(var.mask),), n.Const(var.mask.type, 0)),
    ]
    return [
        n.If(site, n.Binary(_FLAG, "!=", mask, n.Const(var.mask.type, 0)), steps, []),
        n.Assign(site, (whole(var.moment),), now),
    ]


def _delayed(elab: UnitElaborator, value: n.Expr, ticks: n.Expr, site: int, pos: int) -> n.Expr:
    """The value some time ago: a hidden variable that follows it at that distance."""
    kept = _hidden(elab, f"{elab.scope.prefix}ago.{len(elab.unit.signals)}", value.type, pos)
    follow = n.Schedule(site, (whole(kept),), value, ticks)
    sense = elab.sense_of(value)
    elab.unit.processes.append(Process("always_comb", [follow], pos, elab.scope.prefix, sense, hidden=True))
    return n.Ref(value.type, kept)


def clocking_drive(var: ClockVar, value: n.Expr, site: int, places: tuple[n.LRef, ...] = ()) -> list[n.Stmt]:
    """`block.signal <= value;`: at once if the clocking event happened in this moment, else at the next one (14.16). `places`: the
    bits of `next` that are given, if it is not all of it."""
    assert var.next is not None and var.pending is not None
    asked = n.Assign(site, (whole(var.pending),), n.Const(_FLAG, 1))
    pending = n.Ref(_FLAG, var.pending)
    if not places:
        unmask = [n.Assign(site, (whole(var.mask),), n.Const(var.mask.type, 0))] if var.mask is not None else []
        return [*unmask, n.Assign(site, (whole(var.next),), value), asked]
    assert var.mask is not None
    width = sum(p.width for p in places)
    masked = tuple(replace(p, signal=var.mask) for p in places)
    ones = n.Const(Vec(width, False, False), (1 << width) - 1)
    partly = n.Binary(_FLAG, "!=", n.Ref(var.mask.type, var.mask), n.Const(var.mask.type, 0))
    more = n.Binary(_FLAG, "||", n.Unary(_FLAG, "!", pending), partly)  # a whole value that waits already stays whole
    return [n.If(site, more, [n.Assign(site, masked, ones)], []), n.Assign(site, places, value), asked]
