"""Module paths and timing checks as processes (IEEE 1364-2005 clauses 14 and 15).

An output with paths is split: what drives it drives an inner net, and each bit of the output follows its inner bit with the
delay of the path whose source changed last. Hidden time variables remember when each source changed.
"""

from __future__ import annotations

from itertools import pairwise

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import Identity
from mevrik.design.types import BIT, TIME, Vec
from mevrik.design.unit import DelaySpot, Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.pulses import AS_DELAY, Limits, PulseElaborator
from mevrik.lang.verilog.elaborate.unit import UnitElaborator

_NEVER = (1 << 63) - 1
NO_LIMITS: Limits = ([AS_DELAY] * 12, [AS_DELAY] * 12)


class _Path(Identity):
    """One path to one bit: when its source changed last, its condition, its delays for the twelve transitions."""

    stamp: Signal
    condition: n.Expr | None
    ifnone: bool
    delays: list[n.Expr]
    source: str
    limits: Limits | None = None


class SpecifyElaborator:
    def __init__(self, elab: UnitElaborator) -> None:
        self.elab = elab
        self.paths: dict[tuple[Signal, int], list[_Path]] = {}
        self.stamps: dict[tuple[Signal, int, str], Signal] = {}
        self.late = False  # an output may change later than the input that is the cause
        self.pulses = PulseElaborator(elab, self._bits)

    def items(self, items: list[ast.PulseLimit | ast.PulseStyle | ast.ModulePath]) -> None:
        """The limits of pulses first: they may stand behind the paths."""
        for item in items:
            if isinstance(item, ast.PulseLimit):
                self.elab.guard(lambda item=item: self.pulses.limit(item))  # type: ignore[misc]
        for item in items:
            if isinstance(item, ast.PulseStyle):
                self.elab.guard(lambda item=item: self.pulses.style(item, set(self.paths)))  # type: ignore[misc]
            elif isinstance(item, ast.ModulePath):
                self.elab.guard(lambda item=item: self.path(item))  # type: ignore[misc]
        self.pulses.unused()

    def path(self, tree: ast.ModulePath) -> None:
        elab = self.elab
        delays = [elab.ticks(d) for d in tree.delays]
        twelve, limits = self._variable(tree, _twelve(delays), self.pulses.of(written(tree.sources[0]), written(tree.targets[0])))
        condition = elab.truth(tree.condition) if tree.condition is not None else None
        sources = [bit for s in tree.sources for bit in self._bits(s, ("input", "inout"))]
        targets = [bit for t in tree.targets for bit in self._bits(t, ("output", "inout"))]
        if not tree.full and len(sources) != len(targets):
            message = f"a parallel path joins as many bits as it has: {len(sources)} and {len(targets)} here; '*>' joins all with all (14.2.3)"
            raise elab.error(tree.pos, message, "specify")
        for k, target in enumerate(targets):
            for source in sources if tree.full else [sources[k]]:
                stamp = self._stamp(*source, tree.edge)
                name = f"{source[0].name}[{source[1]}]"
                self.paths.setdefault(target, []).append(_Path(stamp, condition, tree.ifnone, twelve, name, limits))

    def _variable(self, tree: ast.ModulePath, twelve: list[n.Expr], limits: Limits | None) -> tuple[list[n.Expr], Limits | None]:
        """The delays, and the limits of pulses, as variables of the instance, if a delay file may change them."""
        elab = self.elab
        if not elab.context.annotated or not all(isinstance(x, n.Const) for x in twelve):
            return twelve, limits
        number = len(elab.unit.delays)
        made = [self.hidden(f"path.{number}.{k}", TIME, x) for k, x in enumerate(twelve) if isinstance(x, n.Const)]
        bounds: list[Signal] = []
        if "PULSE" in elab.context.delay_words:
            given = [x for limit in limits or NO_LIMITS for x in limit]
            bounds = [self.hidden(f"pulse.{number}.{k}", TIME, x) for k, x in enumerate(given) if isinstance(x, n.Const)]
            refs: list[n.Expr] = [n.Ref(TIME, s) for s in bounds]
            limits = refs[:12], refs[12:]
        condition = "ifnone" if tree.ifnone else written(tree.condition) if tree.condition is not None else ""
        for source in tree.sources:
            for target in tree.targets:
                place = written(source), tree.edge, written(target), condition
                elab.unit.delays.append(DelaySpot("path", *place, made, limits=bounds))
        return [n.Ref(TIME, s) for s in made], limits

    def _bits(self, e: ast.Expr, directions: tuple[str, ...]) -> list[tuple[Signal, int]]:
        """The bits of a terminal, the lowest first."""
        elab = self.elab
        found = elab.selected(e)
        if found.signal is None or found.signal.port not in directions or found.signal.dims:
            raise elab.error(
                e.pos, f"a module path goes from an input to an output of the module; this is no {directions[0]}", "specify"
            )
        low = found.bits.const if found.bits is not None else 0
        return [(found.signal, low + k) for k in range(found.width)]

    def _stamp(self, signal: Signal, bit: int, edge: str) -> Signal:
        """The hidden variable that holds when a bit changed last (plus one, so that 0 is never), and the process that sets it. At time 0 a port
        has changed: until then it is x (6.1.2); to which level, and so whether that is an edge, is not known here."""
        key = (signal, bit, edge)
        made = self.stamps.get(key)
        if made is None:
            elab = self.elab
            made = self.hidden(f"{signal.name}.{bit}.{edge or 'change'}", TIME, n.Const(TIME, 0 if edge else 1))
            self.stamps[key] = made
            site = elab.context.site(signal.pos, signal.pos + 1, "specify")
            now = n.Binary(TIME, "+", self.now(), n.Const(TIME, 1))
            put: n.Stmt = n.Assign(site, (n.LRef(made, None, None, 64),), now)
            ref = n.Ref(signal.type, signal)
            if isinstance(signal.type, Vec) and signal.type.width == 1:
                sense = (n.Sense(edge or "any", ref),)
                elab.unit.processes.append(Process("always", [put], signal.pos, elab.scope.prefix, sense, hidden=True))
            else:
                before = self.hidden(f"{signal.name}.{bit}.{edge or 'change'}.before", BIT, None)
                value: n.Expr = n.Bits(BIT, ref, n.Offset(bit))
                old = n.Ref(BIT, before)
                changed: n.Expr = n.Binary(BIT, "!==", value, old)
                if edge:
                    level = n.Const(BIT, int(edge == "posedge"))
                    changed = n.Binary(BIT, "&", changed, n.Binary(BIT, "===", value, level))
                body: list[n.Stmt] = [n.If(site, changed, [put], []), n.Assign(site, (n.LRef(before, None, None, 1),), value)]
                elab.unit.processes.append(
                    Process("always", body, signal.pos, elab.scope.prefix, (n.Sense("any", ref),), hidden=True)
                )
        return made

    def now(self) -> n.Expr:
        """The time in ticks of the design."""
        return n.SysCall(TIME, "$time", (), 0, self.elab.context.tick_exp)

    def hidden(self, name: str, kind: Vec, init: n.Const | None) -> Signal:
        made = Signal(f"{self.elab.scope.prefix}{name}", kind, "var", 0, left=kind.width - 1, implicit=True, init=init)
        self.elab.unit.signals.append(made)
        return made

    # ---- outputs ----

    def finish(self) -> None:
        """Split the outputs that have paths."""
        by_signal: dict[Signal, dict[int, list[_Path]]] = {}
        for (signal, bit), paths in self.paths.items():
            by_signal.setdefault(signal, {})[bit] = paths
        self.late = bool(self.elab.unit.instances) or any(map(_takes_time, self.elab.unit.processes))
        for signal, bits in by_signal.items():
            self._split(signal, bits)

    def _split(self, signal: Signal, bits: dict[int, list[_Path]]) -> None:
        elab = self.elab
        assert isinstance(signal.type, Vec)
        if signal.kind == "net":
            inner = Signal(
                f"{signal.name}.inner", signal.type, "net", signal.pos, signal.net, signal.left, signal.right, implicit=True
            )
            outer = signal
            _retarget(elab, signal, inner)
        else:  # a variable is read undelayed inside; what leaves the module is a net that follows it
            inner = signal
            outer = Signal(signal.name, signal.type, "net", signal.pos, "wire", signal.left, signal.right, port=signal.port)
            outer.ranged, outer.packed = signal.ranged, signal.packed
            elab.unit.ports[elab.unit.ports.index(signal)] = outer
            inner.name, inner.implicit, inner.port = f"{signal.name}.inner", True, ""
        elab.unit.signals.append(inner if inner is not signal else outer)
        read = n.Ref(signal.type, inner)
        site = elab.context.site(signal.pos, signal.pos + len(signal.name), f"path to {signal.name}")
        width = signal.type.width
        for bit in range(width):
            value: n.Expr = read if width == 1 else n.Bits(BIT, read, n.Offset(bit))
            old: n.Expr = n.Ref(signal.type, outer)
            if width > 1:
                old = n.Bits(BIT, old, n.Offset(bit))
            place = n.LRef(outer, None, None if width == 1 else n.Offset(bit), 1)
            paths = bits.get(bit, [])
            style = self.pulses.styles.get((signal, bit), 0)
            limited = bool(paths) and (bool(style) or any(p.limits is not None for p in paths))
            if limited:  # what is scheduled last, not what is there, is what the next change begins from
                last = self.hidden(f"{signal.name}.{bit}.last", BIT, None)
                old = n.Ref(BIT, last)
            now = self.now() if self.late else None
            delay = _choose(paths, old, value, now)[0] if paths else n.Const(TIME, 0)
            body: list[n.Stmt] = [n.Drive(site, (place,), value, (delay,))]
            if limited:
                reject, error = (
                    _choose(paths, old, value, now, [_transition((p.limits or NO_LIMITS)[k], old, value) for p in paths])[1]
                    for k in (0, 1)
                )
                body[0] = n.Drive(site, (place,), value, (delay,), pulse=n.PulseLimits(reject, error, style))
                body.append(n.Assign(site, (n.LRef(last, None, None, 1),), value))
            sense = (n.Sense("any", n.Ref(signal.type, inner)),)
            elab.unit.processes.append(Process("assign", body, signal.pos, elab.scope.prefix, sense, hidden=True))


def _takes_time(process: Process) -> bool:
    """Whether a process has delays of its own."""
    return any(
        isinstance(s, n.Delay) or bool(getattr(s, "delay", None)) or (isinstance(s, n.Drive) and bool(s.delays))
        for s in walk.statements(process.body)
    )


def written(e: ast.Expr) -> str:
    """An expression as a delay file writes it: without blanks and parentheses, numbers by value."""
    match e:
        case ast.Name(name=name):
            return name
        case ast.Number(val=val):
            return str(val)
        case ast.Index(base=base, index=index):
            return f"{written(base)}[{written(index)}]"
        case ast.PartSelect(base=base, left=left, right=right):
            return f"{written(base)}[{written(left)}:{written(right)}]"
        case ast.Unary(op=op, operand=operand):
            return op + written(operand)
        case ast.Binary(op=op, left=left, right=right):
            return written(left) + op + written(right)
    return ""


def _retarget(elab: UnitElaborator, signal: Signal, inner: Signal) -> None:
    """Have everything that drives a net drive another one."""
    for process in elab.unit.processes:
        for s in process.body:
            if isinstance(s, n.Drive) and any(p.signal is signal for p in s.target):
                s.target = tuple(n.LRef(inner, p.element, p.bits, p.width) if p.signal is signal else p for p in s.target)
        if process.link is not None and signal in process.link:
            a, b = process.link
            process.link = (inner if a is signal else a, inner if b is signal else b)


def _twelve(delays: list[n.Expr]) -> list[n.Expr]:
    """Delays of 01, 10, 0z, z1, 1z, z0, 0x, x1, 1x, x0, xz, zx (14.3.1, table 14-2 and 14.3.2)."""
    if len(delays) == 12:
        return delays
    if len(delays) == 1:
        six = delays * 6
    elif len(delays) == 2:
        rise, fall = delays
        six = [rise, fall, rise, rise, fall, fall]
    elif len(delays) == 3:
        rise, fall, off = delays
        six = [rise, fall, off, rise, off, fall]
    else:
        six = delays[:6]
    t01, t10, t0z, tz1, t1z, tz0 = six
    return [
        *six, _least(t01, t0z), _most(t01, tz1), _least(t10, t1z), _most(t10, tz0), _most(t0z, t1z), _least(tz0, tz1),
    ]  # fmt: skip


def _least(a: n.Expr, b: n.Expr) -> n.Expr:
    if isinstance(a, n.Const) and isinstance(b, n.Const):
        return a if a.val <= b.val else b
    return n.Choice(TIME, n.Binary(BIT, "<", a, b), a, b)


def _most(a: n.Expr, b: n.Expr) -> n.Expr:
    if isinstance(a, n.Const) and isinstance(b, n.Const):
        return a if a.val >= b.val else b
    return n.Choice(TIME, n.Binary(BIT, "<", a, b), b, a)


def _is(e: n.Expr, val: int, unk: int) -> n.Expr:
    return n.Binary(BIT, "===", e, n.Const(BIT, val, unk))


def _transition(delays: list[n.Expr], old: n.Expr, new: n.Expr) -> n.Expr:
    """The delay for the change that is about to happen."""
    if all(isinstance(a, n.Const) and isinstance(b, n.Const) and a.val == b.val for a, b in pairwise(delays)):
        return delays[0]
    t01, t10, t0z, tz1, t1z, tz0, t0x, tx1, t1x, tx0, txz, tzx = delays

    def by_old(on0: n.Expr, on1: n.Expr, onz: n.Expr, onx: n.Expr) -> n.Expr:
        return n.Choice(TIME, _is(old, 0, 0), on0, n.Choice(TIME, _is(old, 1, 0), on1, n.Choice(TIME, _is(old, 0, 1), onz, onx)))

    zero = n.Const(TIME, 0)
    to1, to0 = by_old(t01, zero, tz1, tx1), by_old(zero, t10, tz0, tx0)
    toz, tox = by_old(t0z, t1z, zero, txz), by_old(t0x, t1x, tzx, zero)
    return n.Choice(TIME, _is(new, 1, 0), to1, n.Choice(TIME, _is(new, 0, 0), to0, n.Choice(TIME, _is(new, 0, 1), toz, tox)))


def _choose(
    paths: list[_Path], old: n.Expr, new: n.Expr, now: n.Expr | None, limits: list[n.Expr] | None = None
) -> tuple[n.Expr, n.Expr]:
    """Among the paths whose condition holds, those whose source changed last; of these the shortest (14.3.3), and its limit, if
    `limits` has one for each path. None: no delay. With `now`, what has passed since the source changed is a part of the delay, so
    that of the delay of the path and those inside the module the larger counts (14.4)."""
    stamped: list[tuple[n.Expr, n.Expr]] = []
    for p in paths:
        stamp: n.Expr = n.Ref(TIME, p.stamp)
        condition = p.condition
        if p.ifnone:
            others = [q.condition for q in paths if q.condition is not None and q.source == p.source]
            for other in others:
                no = n.Unary(BIT, "!", other)
                condition = no if condition is None else n.Binary(BIT, "&&", condition, no)
        if condition is not None:
            stamp = n.Choice(TIME, n.Binary(BIT, "===", condition, n.Const(BIT, 1)), stamp, n.Const(TIME, 0))
        stamped.append((stamp, _transition(p.delays, old, new)))
    latest = stamped[0][0]
    for stamp, _ in stamped[1:]:
        latest = _most(latest, stamp)
    limit: n.Expr = limits[0] if limits else AS_DELAY
    if len(stamped) == 1 and paths[0].condition is None:
        return (stamped[0][1] if now is None else _rest(stamped[0][1], latest, now)), limit
    best: n.Expr = n.Const(TIME, _NEVER)
    for k, (stamp, delay) in enumerate(stamped):
        mine = n.Choice(TIME, n.Binary(BIT, "==", stamp, latest), delay, n.Const(TIME, _NEVER))
        if limits:
            limit = n.Choice(TIME, n.Binary(BIT, "<", mine, best), limits[k], limit)
        best = _least(best, mine)
    if now is not None:
        best = _rest(best, latest, now)
    return n.Choice(TIME, n.Binary(BIT, "==", latest, n.Const(TIME, 0)), n.Const(TIME, 0), best), limit


def _rest(delay: n.Expr, stamp: n.Expr, now: n.Expr) -> n.Expr:
    """What is left of a delay that began with the stamp; all of it if nothing has changed yet."""
    passed: n.Expr = n.Binary(TIME, "-", n.Binary(TIME, "+", now, n.Const(TIME, 1)), stamp)
    passed = n.Choice(TIME, n.Binary(BIT, "==", stamp, n.Const(TIME, 0)), n.Const(TIME, 0), passed)
    return n.Choice(TIME, n.Binary(BIT, ">", delay, passed), n.Binary(TIME, "-", delay, passed), n.Const(TIME, 0))
