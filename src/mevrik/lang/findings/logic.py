"""Processes of VHDL that describe logic: what they read without waiting for it, what some path through them leaves as it was, and
what two of them drive at once."""

from __future__ import annotations

from collections.abc import Iterator

from mevrik.design import typed as t
from mevrik.design.ports import edges_of, process_edges
from mevrik.design.reads import is_inverse, is_signal, signal_of, signals_read, static_part
from mevrik.lang.findings.base import Allowing

_WEAK = frozenset((4, 6, 7))  # 'Z', 'L' and 'H' of std_ulogic: with them several drivers share a signal on purpose


def _roots(reads: Iterator[t.Expr]) -> dict[t.RootSignal, None]:
    """Whose parts these are, in their order."""
    found: dict[t.RootSignal, None] = {}
    for e in reads:
        part = static_part(e)
        if part is not None:
            found.setdefault(part[0].root)
    return found


def _has_edge(e: t.Expr) -> bool:
    return any(True for _ in edges_of([t.If(0, e, [], [])])) or any(isinstance(x, t.SignalAttr) for x in t.nodes(e))


def _read_outside_edges(body: list[t.Stmt], inside: set[t.Subprogram]) -> Iterator[t.Expr]:
    """What is read at any time, not only at a clock's edge: an asynchronous reset, the inputs of combinational logic."""
    for s in body:
        if isinstance(s, t.If):
            if not _has_edge(s.cond):
                yield from signals_read(s.cond, inside)
                yield from _read_outside_edges(s.then, inside)
            yield from _read_outside_edges(s.other, inside)
        else:
            yield from signals_read(s, inside)


def incomplete_sensitivity(model: t.Model, said: Allowing) -> None:
    """A signal that is read but not waited for: simulation keeps an old result where hardware follows the signal (11.3)."""
    for process in model.processes:
        if process.sensitivity is None or process.kind != "process" or not process.drivers:
            continue
        waited = _roots(iter(process.sensitivity))
        missing: dict[t.RootSignal, str] = {}
        for e in _read_outside_edges(process.body, set()):
            base = _base(e)
            for root in _roots(iter([e])):
                if root not in waited and root not in process.drivers and isinstance(base, t.Ref):
                    if root.drivers or base.object.mode:  # else nothing ever changes it
                        missing.setdefault(root, base.object.text or base.object.name)
        if missing:
            names = ", ".join(f"'{name}'" for name in missing.values())
            verb = "is" if len(missing) == 1 else "are"
            said.warning(
                process.pos,
                f"{names} {verb} read here but missing from the sensitivity list: hardware follows, the simulation keeps the old result; "
                "write process (all) instead",
                "sensitivity",
            )


def _always_assigned(body: list[t.Stmt]) -> set[t.RootSignal]:
    found: set[t.RootSignal] = set()
    for s in body:
        match s:
            case t.SignalAssign(target=target):
                part = static_part(target)
                if part is not None:
                    found.add(part[0].root)
                else:  # an element whose index is not known: it is taken for the whole
                    found |= set(_roots(iter([_base(target)])))
            case t.If(then=then, other=other):
                found |= _always_assigned(then) & _always_assigned(other)
            case t.Case(arms=arms):
                found |= set.intersection(*(_always_assigned(arm) for _, arm in arms)) if arms else set()
            case t.Loop(body=inner, variable=variable) if variable is not None:
                found |= _always_assigned(inner)
            case t.Nest(body=inner):
                found |= _always_assigned(inner)
            case t.CallStmt(call=call):
                for p, x in zip(call.sub.params, call.args, strict=True):
                    if p.cls == "signal" and p.mode == "out":
                        found |= set(_roots(iter([x])))
    return found


def _base(e: t.Expr) -> t.Expr:
    while isinstance(e, (t.Index, t.Slice, t.FieldOf)):
        e = e.a
    return e


def _assigned_at_once(body: list[t.Stmt]) -> Iterator[t.SignalAssign]:
    for s in body:
        for x in t.nodes(s):
            if isinstance(x, t.SignalAssign) and x.delay == "inertial" and not any(w.after is not None for w in x.waves):
                yield x


def latches(model: t.Model, said: Allowing) -> None:
    """A signal that some path through a combinational process leaves as it was."""
    for process in model.processes:
        if process.sensitivity is None or process.kind != "process" or process_edges(process):
            continue
        if any(isinstance(x, t.SignalAttr) for s in process.body for x in t.nodes(s)):
            continue
        always = _always_assigned(process.body)
        told: set[t.RootSignal] = set()
        for s in _assigned_at_once(process.body):
            part = static_part(s.target)
            if part is None or not isinstance(s.target, t.Ref) or part[0].root in always or part[0].root in told:
                continue
            root = part[0].root
            if any(root in _roots(signals_read(w.value)) for w in s.waves if w.value is not None):
                continue  # it counts
            told.add(root)
            said.at_site(
                s.site,
                f"'{root.name}' keeps its value on some path through this process: hardware gets a latch; assign it on every "
                "path, or give it a value first",
                "latch",
            )


def _shares(process: t.Process, seen: set[t.Process]) -> bool:
    """Whether a process lets others drive, by weak values or by none, or hands on what one that does so makes."""
    if process in seen:
        return False
    seen.add(process)
    return any(_lets_others(x, seen) for x in _statements(process.body, set()))


def _statements(body: list[t.Stmt], seen: set[t.Subprogram]) -> Iterator[t.Node]:
    """All that is in statements, and in the subprograms that they call."""
    for s in body:
        for x in t.nodes(s):
            yield x
            if isinstance(x, t.Call) and x.sub not in seen and x.sub.body is not None and not x.sub.ours:
                seen.add(x.sub)
                yield from _statements([*x.sub.decls, *x.sub.body], seen)


def _lets_others(x: t.Node, seen: set[t.Process]) -> bool:
    if isinstance(x, t.SignalAssign):
        return x.guard is not None or x.delay in ("force", "release") or any(_hands_on_shared(w, seen) for w in x.waves)
    if isinstance(x, t.Const):
        return x.value in _WEAK and t.is_nine(x.type)
    return isinstance(x, t.Data) and t.is_nine(x.type) and bool(_WEAK & set(x.values))


def _hands_on_shared(wave: t.Wave, seen: set[t.Process]) -> bool:
    part = static_part(wave.value) if isinstance(wave.value, (t.Ref, t.Index, t.Slice, t.FieldOf)) else None
    return part is not None and any(_shares(d.process, seen) for d in part[0].root.drivers)


def driven_twice(model: t.Model, said: Allowing) -> None:
    """Two processes that both drive strongly what is resolved: legal, and 'X' wherever they disagree."""
    for root in model.roots:
        if len(root.drivers) < 2 or not t.is_nine(root.subtype) or not _by_the_table(root.subtype):
            continue
        strong = [d for d in root.drivers if d.process.kind == "process" and not _shares(d.process, set())]
        for k, later in enumerate(strong):
            first = next((d for d in strong[:k] if _overlap(d, later)), None)
            if first is not None:
                line = said.sources.place(first.pos).line
                said.warning(
                    later.pos,
                    f"'{root.name}' is driven here and in line {line}: where they disagree it becomes 'X'; let one process drive it, "
                    "or release it with 'Z'",
                    "drivers",
                )
                break


def _by_the_table(s: t.Subtype) -> bool:
    """Whether drivers are resolved as std_logic_1164 does it, and not by a function of one's own."""
    own = s.resolution is not None and s.resolution.name != "resolved"
    return not own and (not isinstance(s.type, t.ArrayType) or _by_the_table(s.elem))


def _overlap(x: t.Driver, y: t.Driver) -> bool:
    return any(a < c + d and c < a + b for a, b in x.ranges for c, d in y.ranges)


def never_starts(model: t.Model, said: Allowing) -> None:
    """`clk <= not clk after 5 ns` of a signal without a first value: it is 'U', and so is its inverse (16.7)."""
    driven: dict[t.Process, dict[t.RootSignal, bool]] = {}  # whether all that each is given is its inverse
    for root in model.roots:
        kind = root.subtype.type
        if root.init is None and len(root.drivers) == 1 and isinstance(kind, t.Enum) and len(kind.literals) == 9:
            driven.setdefault(root.drivers[0].process, {})[root] = True
    for process, roots in driven.items():
        parts = [x for statement in process.body for x in t.nodes(statement)]
        if any(isinstance(x, t.Call) and any(p.cls == "signal" and p.mode != "in" for p in x.sub.params) for x in parts):
            continue  # a procedure gives them values too
        given: set[t.RootSignal] = set()
        for s in (x for x in parts if isinstance(x, t.SignalAssign)):
            target = signal_of(s.target)
            if target is not None and target in roots:
                given.add(target)
                inverts = is_signal(s.target, target) and all(w.value is not None and is_inverse(w.value, target) for w in s.waves)
                roots[target] = roots[target] and inverts
        for root, only in roots.items():
            if only and root in given:
                message = f"'{root.name}' is 'U' at first, and inverting it leaves it 'U': give it a first value, as in := '0'"
                said.warning(root.pos, message, "never-starts")
