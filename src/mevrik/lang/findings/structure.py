"""Findings about what drives what: nets that nothing drives or several do, registers that never get a value, loops without a register."""

from __future__ import annotations

from collections.abc import Iterator

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import EventType, Handle, Link, List, Text, Vec
from mevrik.design.unit import Design, Signal, Unit
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.findings.base import Looker
from mevrik.lang.findings.bodies import Bodies, Body
from mevrik.lang.findings.flow import Flow


class StructureFindings(Looker):
    def __init__(self, design: Design, diagnostics: Diagnostics, bodies: Bodies) -> None:
        super().__init__(design, diagnostics, bodies)
        # what is reached from other units: by a hierarchical name, through a port, by a virtual interface
        self.from_afar = {s.target for u in design.units for s in u.standins if s.target is not None}
        self.linked = any(r.signal.via is not None for u in design.units for b in bodies.of_unit(u) for r in b.reads)

    def look(self, unit: Unit) -> None:
        written = {walk.owner(p.signal) for p in self._all_writes(unit)}
        read = {walk.owner(r.signal): None for r in self._all_reads(unit)}
        for signal in unit.signals:
            if not signal.implicit and not signal.forced and signal.pos and not self.linked:
                self._never_driven(unit, signal, signal in written, signal in read)
        self._never_started(unit)
        self._several_drivers(unit)
        self._driven_inputs(unit)
        self._never_known(unit)
        self._loops(unit)

    def _never_driven(self, unit: Unit, signal: Signal, written: bool, read: bool) -> None:
        if (
            written
            or signal.leaf is not None
            or isinstance(signal.type, (EventType, Text, List, Handle, Link))
            or (signal in self.from_afar and not signal.port)
        ):
            return
        if signal.port == "output" and signal.init is None:
            if signal in self.from_afar or unit is not self.design.units[-1]:
                self.warn(signal.pos, f"nothing drives the output '{signal.name}' of '{unit.name}'", "undriven")
        elif (
            not signal.port and read and signal.init is None and signal.net not in ("supply0", "supply1", "tri0", "tri1", "trireg")
        ):
            four = isinstance(signal.type, Vec) and signal.type.four
            if signal.kind == "net":
                self.warn(signal.pos, f"nothing drives '{signal.name}': it is read as z", "undriven")
            elif four:
                self.warn(signal.pos, f"'{signal.name}' is read but never assigned: it stays x", "undriven")

    def _never_started(self, unit: Unit) -> None:
        """`always #5 clk = ~clk;` of a variable that nobody gives a first value: the inverse of x is x."""
        values: dict[Signal, list[n.Expr | None]] = {}
        for body in self.bodies.of_unit(unit):
            for s in body.statements:
                value = s.value if isinstance(s, (n.Assign, n.Schedule)) and len(s.target) == 1 else None
                for place in walk.targets(s):
                    values.setdefault(place.signal, []).append(value)
        own = set(unit.signals)
        for signal, given in values.items():
            if not all(_inverts(v, signal) for v in given) or signal not in own or signal.kind != "var" or signal.init is not None:
                continue
            if (
                not (isinstance(signal.type, Vec) and signal.type.four)
                or signal.implicit
                or signal.forced
                or signal in self.from_afar
            ):
                continue
            message = f"'{signal.name}' is x at first, and inverting it leaves it x: give it a first value, as in {signal.name} = 0"
            self.warn(signal.pos, message, "never-starts")

    def _driven_inputs(self, unit: Unit) -> None:
        """An input that the module itself drives (IEEE 1364-2005 12.3.9.2); what a port is only a name for gets its value from that."""
        ports = set(unit.ports)
        for process in unit.processes:
            drive = process.body[0] if process.kind == "assign" and not process.hidden and process.body else None
            for place in drive.target if isinstance(drive, n.Drive) else ():
                if place.signal.port == "input" and place.signal in ports:
                    message = f"'{place.signal.name}' is an input, but driven here from inside as well: what comes from outside is disturbed"
                    self.warn(self.pos(drive.site), message, "driven-input")  # type: ignore[union-attr]

    def _several_drivers(self, unit: Unit) -> None:
        """Two continuous drivers of a plain net that never let go of it."""
        first: dict[tuple[Signal, int], int] = {}
        for process in unit.processes:
            drive = process.body[0] if process.kind in ("assign", "link") and process.body else None
            if process.hidden or not isinstance(drive, n.Drive) or drive.strength != (6, 6):
                continue
            if process.cell.kind not in _NEVER_Z if process.cell is not None else _may_be_z(drive.value):
                continue
            for place in drive.target:
                signal = walk.owner(place.signal)
                if (
                    signal.kind != "net"
                    or signal.net not in ("wire", "tri", "")
                    or place.element is not None
                    or signal in self.from_afar
                ):
                    continue
                low = place.bits.const if place.bits is not None else 0
                if place.bits is not None and place.bits.terms:
                    continue
                for bit in range(low, low + min(place.width, 1 << 12)):
                    old = first.setdefault((signal, bit), drive.site)
                    if old != drive.site:
                        line = self.line(self.pos(old))
                        message = f"'{signal.name}' has a second driver here, beside that of line {line}: where they differ it is x"
                        self.warn(self.pos(drive.site), message, "several-drivers")
                        break

    def _never_known(self, unit: Unit) -> None:
        """A register each of whose assignments reads the register itself: without a start value it stays unknown for ever."""
        values: dict[Signal, list[tuple[n.Stmt, n.Expr]]] = {}
        others: set[Signal] = set()
        for process in unit.processes:
            if process.cell is not None:
                others |= {walk.owner(place.signal) for place in self.bodies.of(process).writes}
                continue
            for s in self.bodies.of(process).statements:
                for place in walk.targets(s):
                    signal = walk.owner(place.signal)
                    if (
                        self.bodies.of(process).clocked
                        and isinstance(s, (n.Assign, n.Schedule))
                        and place.bits is None
                        and place.element is None
                    ):
                        values.setdefault(signal, []).append((s, s.value))
                    else:
                        others.add(signal)
        for sub in unit.subprograms:
            others |= {walk.owner(p.signal) for p in self.bodies.of(sub).writes}
        for signal, given in values.items():
            four = isinstance(signal.type, Vec) and signal.type.four
            if (
                signal in others
                or signal.init is not None
                or signal.forced
                or not four
                or (signal in self.from_afar and not signal.port)
            ):
                continue
            if all(any(walk.owner(r.signal) is signal for r in walk.reads_of(v)) and not _forgets(v, signal) for _, v in given):
                message = f"'{signal.name}' has no reset and no start value, and each new value is made of the old one: it stays x"
                self.warn(self.pos(given[0][0].site), message, "never-known")

    def _loops(self, unit: Unit) -> None:
        """A signal that depends on itself through continuous assignments and combinational processes without a delay."""
        follows: dict[Signal, dict[Signal, int]] = {}
        for process in unit.processes:
            if process.hidden or not (process.kind == "assign" or self.bodies.of(process).combinational):
                continue
            if any(isinstance(s, n.Drive) and s.delays for s in process.body):
                continue
            flow = Flow(process, self.bodies)
            for target, sources in flow.sources.items():
                if target.kind == "local" or target.implicit or target in flow.partly:
                    continue
                if process.kind != "assign":  # that it reads what it keeps is said of it as a latch
                    sources = sources - {target}
                for source in sources:
                    follows.setdefault(source, {})[target] = flow.sites[target]
        for ring in _rings(follows):
            names = " → ".join(f"'{s.name}'" for s in (*ring, ring[0]))
            self.warn(
                self.pos(follows[ring[-1]][ring[0]]),
                f"a loop without a register or a delay: {names}; it may never settle",
                "comb-loop",
            )

    # ---- all that a unit writes and reads ----

    def _all_writes(self, unit: Unit) -> Iterator[n.LRef]:
        for process in unit.processes:
            body = self.bodies.of(process)
            yield from body.writes if process.cell is not None else _writes(body)
            if process.link is not None:
                yield from (n.LRef(s, None, None, 1) for s in process.link)
        for sub in unit.subprograms:
            yield from _writes(self.bodies.of(sub))
            yield from (n.LRef(p, None, None, 1) for p in (*sub.ports, *([sub.result] if sub.result else [])))
        for w in unit.switches:
            yield w.a
            if not w.one_way:
                yield w.b

    def _all_reads(self, unit: Unit) -> Iterator[n.Ref]:
        for body in self.bodies.of_unit(unit):
            yield from body.reads
        for w in unit.switches:
            yield from (n.Ref(p.signal.type, p.signal) for p in (w.b if w.one_way else None, w.control) if p is not None)


_NEVER_Z = ("and", "nand", "or", "nor", "xor", "xnor", "buf", "not")


def _writes(body: Body) -> Iterator[n.LRef]:
    """What statements write, also through the arguments of functions and the effects inside expressions."""
    yield from body.writes
    for _, parts in body.parts:
        for x in parts:
            if isinstance(x, n.LRef):
                yield x
            elif isinstance(x, n.Effect):
                yield from walk.writes(x.body)


def _may_be_z(e: n.Expr) -> bool:
    return any(isinstance(x, n.Const) and x.unk & ~x.val for x in walk.expressions(e)) or any(
        isinstance(x, (n.Ref, n.Call, n.Lookup)) and not isinstance(e, n.Binary) and _is_plain(e) for x in walk.expressions(e)
    )


def _is_plain(e: n.Expr) -> bool:
    """Just a signal handed on: it may be z itself."""
    while isinstance(e, (n.Resize, n.Bits)):
        e = e.a if isinstance(e, n.Resize) else e.base
    return isinstance(e, (n.Ref, n.Call))


def _forgets(e: n.Expr, signal: Signal) -> bool:
    """Whether an expression can be known though the signal is not: one side of a choice, an & or |, does without it."""
    for x in walk.expressions(e):
        if isinstance(x, n.Choice):
            if any(all(walk.owner(r.signal) is not signal for r in walk.reads_of(side)) for side in (x.a, x.b)):
                return True
        if isinstance(x, n.Binary) and x.op in ("&", "|", "&&", "||", "===", "!=="):
            return True
        if isinstance(x, (n.Call, n.Concat, n.Bits, n.SysCall)):
            return True
    return False


def _rings(follows: dict[Signal, dict[Signal, int]]) -> list[list[Signal]]:
    """One ring through each group of signals that depend on each other."""
    done: set[Signal] = set()
    found: list[list[Signal]] = []
    for start in follows:
        if start in done:
            continue
        path: list[Signal] = []
        on_path: dict[Signal, int] = {}
        stack: list[tuple[Signal, Iterator[Signal]]] = [(start, iter(follows[start]))]
        path.append(start)
        on_path[start] = 0
        while stack:
            here, rest = stack[-1]
            following = next(rest, None)
            if following is None:
                stack.pop()
                path.pop()
                del on_path[here]
                done.add(here)
            elif following in on_path:
                ring = path[on_path[following] :]
                if not any(set(ring) & set(old) for old in found):
                    found.append(ring)
            elif following not in done and following in follows:
                on_path[following] = len(path)
                path.append(following)
                stack.append((following, iter(follows[following])))
    return found


def _inverts(value: n.Expr | None, signal: Signal) -> bool:
    """Whether a value is the inverse of a signal."""
    while isinstance(value, n.Resize):
        value = value.a
    return isinstance(value, n.Unary) and value.op in ("~", "!") and isinstance(value.a, n.Ref) and value.a.signal is signal
