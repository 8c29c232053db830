"""What a run record says of the design besides its changes: scopes, names, signals, statements, what they read, and what wakes whom."""

from __future__ import annotations

import json
from collections.abc import Iterator

from mevrik.design import nodes as n
from mevrik.design import typed as t
from mevrik.design import walk
from mevrik.design.reads import signals_read, static_part
from mevrik.design.types import EventType, Real, Vec
from mevrik.design.unit import Design, Part, Signal, Unit
from mevrik.engine.layout import Layout, Slot
from mevrik.engine.simulation import Simulation
from mevrik.lang.source import SourceMap
from mevrik.waves.writer import RecordWriter


def write_outline(writer: RecordWriter, sources: SourceMap, simulation: Simulation, recorded: set[int]) -> None:
    """Fill the tables signals, names, scopes, sites, reads and watches for a simulation that has not started."""
    design, layout = simulation.prepared.design, simulation.layout
    writer.fill("signals", (_signal_row(simulation, slot, slot.number in recorded) for slot in layout.slots))
    writer.fill("names", _name_rows(layout, sources))
    writer.fill("scopes", _scope_rows(layout, sources))
    writer.fill("sites", _site_rows(sources, design))
    writer.fill("reads", (row for unit in design.units for row in site_reads(unit)))
    if design.typed is not None:
        writer.fill("reads", typed_reads(design.typed, layout))
        writer.fill("watches", typed_watches(sources, design.typed, layout))
    writer.fill("watches", (row for unit in design.units for row in _watches(sources, unit)))
    writer.set_meta(tick_exp=design.tick_exp, top=design.top.name)


def is_hidden(signal: Signal) -> bool:
    """Whether a signal is one of ours, of which the source knows nothing; a net that was never declared is in the source."""
    return signal.implicit and signal.kind == "var"


def _signal_row(simulation: Simulation, slot: Slot, recorded: bool) -> tuple[object, ...]:
    signal = slot.signal
    kind = "event" if isinstance(signal.type, EventType) else "real" if isinstance(signal.type, Real) else signal.kind
    signed = isinstance(signal.type, Vec) and signal.type.signed
    value = bytes(simulation.memory[slot.offset : slot.offset + slot.bytes * slot.planes])
    labels = json.dumps(signal.labels) if signal.labels else None
    parts = json.dumps(_listed(signal.parts)) if signal.parts else None
    return (
        slot.number, slot.width, slot.bytes, slot.planes, slot.elements, int(signed), kind, signal.right, signal.left, labels, parts,
        value, int(recorded),
    )  # fmt: skip


def _listed(parts: tuple[Part, ...]) -> list[list[object]]:
    return [[p.name, p.low, p.width, int(p.signed), p.right, p.left, p.labels or {}, _listed(p.parts)] for p in parts]


def _name_rows(layout: Layout, sources: SourceMap) -> Iterator[tuple[object, ...]]:
    for instance in layout.instances:
        for signal in instance.unit.signals:
            if is_hidden(signal):
                continue
            place = sources.place(signal.pos)
            path = f"{instance.path}.{signal.name}"
            number = layout.slot(instance, signal).number
            yield path, instance.number, signal.name, number, signal.port, place.file, place.line


def _scope_rows(layout: Layout, sources: SourceMap) -> Iterator[tuple[object, ...]]:
    for i in layout.instances:
        inside, outside = sources.place(i.unit.pos), sources.place(i.pos)
        parent = i.parent.number if i.parent is not None else -1
        yield i.number, i.path, parent, i.unit.key, i.unit.name, inside.file, inside.line, outside.file, outside.line


def _site_rows(sources: SourceMap, design: Design) -> Iterator[tuple[object, ...]]:
    homes: dict[int, tuple[str, str]] = {}
    for unit in design.units:
        for body in [*(p.body for p in unit.processes), *(s.body for s in unit.subprograms)]:
            for s in walk.statements(body):
                homes[s.site] = (unit.key, type(s).__name__)
    if design.typed is not None:
        for process in design.typed.processes:
            for node in _typed_statements(process):
                homes[node.site] = (process.path, type(node).__name__)
    for number, site in enumerate(design.sites):
        place = sources.place(site.pos)
        home, kind = homes.get(number, ("", ""))
        text = _excerpt(sources, site.pos, site.end)
        yield number, place.file, place.line, place.column, text, site.process, home, kind


def _excerpt(sources: SourceMap, start: int, end: int, most: int = 160) -> str:
    """The statement on one line; the text ends where the statement does, or with its line."""
    source = sources.owner(start)
    if source is None:
        return ""
    low = start - source.base
    high = max(end - source.base, low)
    semicolon = source.text.find(";", low)
    line_end = source.text.find("\n", low)
    stop = semicolon + 1 if 0 <= semicolon < low + most * 2 else (line_end if line_end >= 0 else len(source.text))
    text = " ".join(source.text[low : max(stop, high)].split())
    return text if len(text) <= most else text[: most - 1] + "…"


def site_reads(unit: Unit) -> Iterator[tuple[object, ...]]:
    """(site, name of the signal in the unit, role) for each statement that writes; the conditions around it count too."""
    for body in [*(p.body for p in unit.processes), *(s.body for s in unit.subprograms)]:
        yield from _reads_in(body, [])


def _reads_in(body: list[n.Stmt], around: list[n.Expr]) -> Iterator[tuple[object, ...]]:
    for s in body:
        if any(True for _ in walk.targets(s)):
            for role, expressions in (("value", list(walk.own_expressions(s))), ("condition", around)):
                for e in expressions:
                    for ref in walk.reads_of(e, into_calls=True):
                        yield s.site, _local_name(ref.signal), role
        inner = [*around]
        match s:
            case n.If(cond=cond):
                inner.append(cond)
            case n.Case(subject=subject):
                inner.append(subject)
            case n.Loop(cond=condition) if condition is not None:
                inner.append(condition)
        for nested in walk.nested(s):
            yield from _reads_in(nested, inner)


def _watches(sources: SourceMap, unit: Unit) -> Iterator[tuple[object, ...]]:
    """What the processes of a unit wait for that do nothing else. Gates are left out: they are many, and what wakes them is what they read."""
    for process in unit.processes:
        if process.hidden or process.cell is not None or process.kind == "link":
            continue
        for sense in process.sense or ():
            e, low = sense.expr, 0
            width = e.type.width if isinstance(e.type, Vec) else 1
            if isinstance(e, n.Bits):
                if e.offset.terms:
                    continue
                low = e.offset.const
                e = e.base
            if isinstance(e, n.Ref) and e.element is None and sense.guard is None:
                yield unit.key, _local_name(e.signal), sense.edge, low, width, *_line(sources, process.pos)


def _line(sources: SourceMap, pos: int) -> tuple[str, int, str]:
    """Where a position is: the file, the line and its text."""
    place, source = sources.place(pos), sources.owner(pos)
    if source is None:
        return place.file, place.line, ""
    start = pos - source.base - place.column + 1
    end = source.text.find("\n", start)
    return place.file, place.line, " ".join(source.text[start : end if end >= 0 else None].split("//")[0].split("--")[0].split())


class _Shown:
    """The recorded signals of what was written in VHDL, by the bytes they show."""

    def __init__(self, layout: Layout) -> None:
        self._at: dict[int, list[tuple[int, int, str, int]]] = {}
        for instance in layout.instances:
            for signal in instance.unit.signals:
                if signal.leaf is not None:
                    root, at, size, _, _ = signal.leaf
                    width = layout.slot(instance, signal).width
                    self._at.setdefault(root, []).append((at, size, f"{instance.path}.{signal.name}", width))

    def of(self, e: t.Expr, home: str) -> Iterator[tuple[str, int, int]]:
        """(path, lowest bit, width) of what a name stands for, as its own scope has it; a signal that has not a byte for each bit as a whole."""
        part = static_part(e)
        if part is None:
            return
        first, end = part[1], part[1] + part[2]
        here = [x for x in self._at.get(part[0].root.number, ()) if x[0] < end and first < x[0] + x[1]]
        own = [x for x in here if x[2].rsplit(".", 1)[0] == home] or here[:1]
        for at, size, path, width in own[:8]:
            low, high = (at + size - min(end, at + size), at + size - max(first, at)) if width == size else (0, width)
            yield path, low, high - low


def typed_watches(sources: SourceMap, model: t.Model, layout: Layout) -> Iterator[tuple[object, ...]]:
    """The same for what was written in VHDL."""
    shown = _Shown(layout)
    for process in model.processes:
        if process.sensitivity is None or process.kind == "link":
            continue
        for e in process.sensitivity:
            for path, low, width in shown.of(e, process.path):
                yield "", f"/{path}", "any", low, width, *_line(sources, process.pos)


def _typed_statements(process: t.Process) -> Iterator[t.Stmt]:
    for s in process.body:
        for x in t.nodes(s):
            if isinstance(x, t.Stmt):
                yield x


def typed_reads(model: t.Model, layout: Layout) -> Iterator[tuple[object, ...]]:
    """The same for what was written in VHDL; a name with a leading "/" is a full path."""
    shown = _Shown(layout)

    def of(body: list[t.Stmt], around: list[t.Expr], home: str) -> Iterator[tuple[object, ...]]:
        for s in body:
            if isinstance(s, (t.SignalAssign, t.Assign, t.CallStmt)):
                for role, found in (("value", list(signals_read(s))), ("condition", [x for e in around for x in signals_read(e)])):
                    for e in found:
                        for path, _, _ in shown.of(e, home):
                            yield s.site, f"/{path}", role
            if isinstance(s, t.If):
                yield from of([*s.then, *s.other], [*around, s.cond], home)
            elif isinstance(s, t.Case):
                for _, arm in s.arms:
                    yield from of(arm, [*around, s.subject], home)
            elif isinstance(s, t.Loop):
                yield from of(s.body, around, home)

    for process in model.processes:
        yield from of(process.body, [], process.path)


def _local_name(signal: Signal) -> str:
    """A name that can be looked up from the instance: stand-ins by their path, with '^' for each level up."""
    if signal.target is None:
        return signal.name
    return ".".join((*signal.path, signal.target.name))
