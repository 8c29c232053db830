"""Clocks that arrive in different deltas (VHDL): registers of one clock that exchange data while one of them sees the clock later,
because its clock went through an assignment. In hardware both see it at once; in a simulation the later one takes the new data.
"""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.design.ports import process_edges
from mevrik.design.reads import signals_read, static_part
from mevrik.design.record import Frozen
from mevrik.lang.findings.base import Allowing


class _Copy(Frozen, frozen=True):
    """A signal that only follows another one: each step takes a delta."""

    source: t.RootSignal
    process: t.Process


class _Register(Frozen, frozen=True):
    process: t.Process
    clock: t.RootSignal
    origin: t.RootSignal
    depth: int


def _copies(model: t.Model) -> dict[t.RootSignal, _Copy]:
    found: dict[t.RootSignal, _Copy] = {}
    for process in model.processes:
        match process.body:
            case [t.SignalAssign(target=t.Ref(object=target), waves=[t.Wave(value=value, after=after)])]:
                inner = value.a if isinstance(value, t.Convert) else value
                late = (isinstance(after, t.Const) and after.value) or (after is not None and not isinstance(after, t.Const))
                if isinstance(inner, t.Ref) and inner.object.signal is not None and target.signal is not None and not late:
                    if len(target.signal.root.drivers) == 1 and process.kind != "link":
                        found[target.signal.root] = _Copy(inner.object.signal.root, process)
    return found


def clocks_skewed_by_deltas(model: t.Model, diagnostics: Allowing) -> None:
    """A warning for each pair, at the assignment that delays the clock."""
    copies = _copies(model)

    def origin(root: t.RootSignal) -> tuple[t.RootSignal, int, list[t.Process]]:
        depth = 0
        through: list[t.Process] = []
        seen = {root}
        while root in copies:
            step = copies[root]
            if step.source in seen:
                break
            through.append(step.process)
            root = step.source
            seen.add(root)
            depth += 1
        return root, depth, through

    registers: list[_Register] = []
    for process in model.processes:
        for number, _ in process_edges(process):
            clock = model.roots[number]
            first, depth, _ = origin(clock)
            registers.append(_Register(process, clock, first, depth))
    if len({r.depth for r in registers}) < 2:
        return
    read: dict[t.Process, set[t.RootSignal]] = {}
    for r in registers:
        roots: set[t.RootSignal] = set()
        for s in r.process.body:
            for e in signals_read(s):
                part = static_part(e)
                if part is not None:
                    roots.add(part[0].root)
        read[r.process] = roots
    said: set[tuple[int, int]] = set()
    for late in registers:
        if not late.depth:
            continue
        for early in registers:
            if early.origin is not late.origin or early.depth >= late.depth or early.process is late.process:
                continue
            for data in read[late.process]:
                first, steps, _ = origin(data)
                giver = next((d for d in (data, first) if early.process in {x.process for x in d.drivers}), None)
                if giver is None or early.depth + 1 + (steps if giver is first else 0) > late.depth:
                    continue
                _, _, through = origin(late.clock)
                delaying = through[0]
                key = (delaying.pos, early.process.pos)
                if key in said:
                    continue
                said.add(key)
                taker = diagnostics.sources.place(late.process.pos)
                source = diagnostics.sources.place(early.process.pos)
                plural = "s" if late.depth - early.depth > 1 else ""
                diagnostics.warning(
                    delaying.pos,
                    f"clock skewed by deltas: this assignment makes '{late.clock.name}' follow '{late.origin.name}' "
                    f"{late.depth - early.depth} delta{plural} later; the register of line {taker.line} takes '{giver.name}' from the one of "
                    f"line {source.line}, which has changed by then: in hardware it gets the old value",
                    "clock-skew",
                )


def never_reset(model: t.Model, diagnostics: Allowing) -> None:
    """A register without initial value and without reset that keeps what it was never given."""
    for process in model.processes:
        clocks = {number for number, _ in process_edges(process)}
        if not clocks:
            continue
        for root, driver in process.drivers.items():
            if root.init is not None or any(o.init is not None for _, _, o in driver.inits) or not t.is_nine(root.subtype):
                continue
            if _only_from_itself(process, root):
                diagnostics.warning(
                    driver.pos,
                    f"'{root.name}' is never reset and has no initial value: it starts as 'U', and what it becomes depends on itself, so it stays unknown",
                    "never-reset",
                )


def _only_from_itself(process: t.Process, root: t.RootSignal) -> bool:
    """Whether every assignment to a signal reads the signal itself."""
    found = False
    for s in process.body:
        for x in _assignments(s):
            part = static_part(x.target)
            if part is None or part[0].root is not root:
                continue
            found = True
            reads = set()
            for w in x.waves:
                for e in signals_read(w.value) if w.value is not None else ():
                    other = static_part(e)
                    if other is not None:
                        reads.add(other[0].root)
            if root not in reads:
                return False
    return found


def _assignments(s: t.Stmt) -> list[t.SignalAssign]:
    match s:
        case t.SignalAssign():
            return [s]
        case t.If():
            return [x for b in (*s.then, *s.other) for x in _assignments(b)]
        case t.Case():
            return [x for _, arm in s.arms for b in arm for x in _assignments(b)]
        case t.Loop():
            return [x for b in s.body for x in _assignments(b)]
    return []
