"""The typed half of a running simulation: its part of the memory block, the kernel's tables, the start of its processes."""

from __future__ import annotations

import ctypes as c
import struct
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from mevrik.design import nodes as n
from mevrik.design import typed as t
from mevrik.engine.compile import NativeCode
from mevrik.engine.typed.edges import clock_ticks, edge_functions
from mevrik.engine.typed.fanout import fan_out
from mevrik.engine.typed.module import Module
from mevrik.engine.typed.places import CALLER, DRIVER_BYTES, SIG_BYTES

if TYPE_CHECKING:
    from mevrik.engine.layout import Layout, Slot

STACKED, REACTIVE = 2048, 32  # of kernel/kernel.h
RESOLVED, WHOLE, REGISTER, BUS, USER, WATCHED, BRIDGED, ALONG, EDGES, NINE, JOINED = 1, 2, 4, 8, 32, 64, 128, 256, 512, 1024, 2048
LEAF_NINE = 0  # of VLeaf.form
WAYS = ("out", "in", "net", "strong", "weak")  # of kernel/bridge.c


class TypedCode:
    """The places of everything and the code; made once for a design."""

    def __init__(self, model: t.Model, layout: Layout, std: Any) -> None:
        self.model = model
        self.base = (layout.size + 63) // 64 * 64
        at = self.base + 64 + model.size
        self.signals = (at + 63) // 64 * 64
        self._implicit_drivers()
        self.driver_list: list[t.Driver] = []
        for root in model.roots:
            for d in root.drivers:
                d.number = len(self.driver_list)
                self.driver_list.append(d)
        self.drivers = self.signals + len(model.roots) * SIG_BYTES
        at = self.drivers + (len(self.driver_list) + 1) * DRIVER_BYTES
        self.images: list[int] = []
        self.resolved: list[bool] = [self._needs_resolution(root) for root in model.roots]
        self.nows: dict[int, int] = {}
        self.masks: dict[int, int] = {}
        self.befores: list[int] = []
        for root in model.roots:
            at = t.aligned(at, root.size)
            self.befores.append(at)
            at += root.size
        for d in self.driver_list:
            at = t.aligned(at, d.root.size)
            self.images.append(at)
            at += d.root.size
            if self.resolved[d.root.number]:
                self.nows[d.number] = at = t.aligned(at, d.root.size)
                at += d.root.size
            if len(d.root.drivers) > 1:
                self.masks[d.number] = at = t.aligned(at, d.root.size)
                at += d.root.size
        self.numbers = t.aligned(at, 8)
        at = self.numbers + 8 * len(model.roots)
        self.frames = (at + 63) // 64 * 64
        self.size = self.frames + 48 * (len(model.processes) + 1)
        self.fans = fan_out(model)
        module = Module(std, self.base, self.signals, self.drivers, self.images, self.befores, self.numbers)
        self.module = module
        self.entry = {p: module.process(p) for p in model.processes}
        module.lower_subprograms()  # all is analysed now: which signals are observed is known
        self.leaves = _leaves(layout)
        self.whole_nine = _whole_nine(model.roots, self.leaves)
        self.edges = edge_functions(self, module, layout)
        self.resolutions = self._resolutions(module)
        module.start(model)
        self.text = module.text()
        self.entries = module.entries

    def _implicit_drivers(self) -> None:
        """S'delayed and its kind are driven by the kernel itself."""
        for root in self.model.roots:
            if root.kind in t.IMPLICIT and not root.drivers:
                owner = t.Process("", "", 0, 0)
                root.drivers.append(t.Driver(root, owner, ranges=[(0, root.size)]))

    @staticmethod
    def _needs_resolution(root: t.RootSignal) -> bool:
        if not root.drivers:
            return False
        found: list[tuple[int, t.Subtype]] = []
        _resolved_parts(root.subtype, 0, found)
        if any(s.resolution is not None and s.resolution.name != "resolved" for _, s in found) or root.bus:
            return True
        seen: list[tuple[int, int]] = []
        for d in root.drivers:
            for at, size in d.ranges:
                if any(at < b + n and b < at + size for b, n in seen):
                    return True
            seen += d.ranges
        return False

    def _resolutions(self, module: Module) -> list[tuple[int, int, int, str]]:
        rows: list[tuple[int, int, int, str]] = []
        made: dict[tuple[Any, int], str] = {}
        for root, needed in zip(self.model.roots, self.resolved, strict=True):
            if not needed:
                continue
            parts: list[tuple[int, t.Subtype]] = []
            _resolved_parts(root.subtype, 0, parts)
            for at, s in parts:
                sub = s.resolution
                if sub is None or (sub.name == "resolved" and t.size_of(s) == 1):
                    continue
                key = (sub, t.size_of(s))
                if key not in made:
                    made[key] = module.resolution(sub, s)
                rows.append((root.number, at, t.size_of(s), made[key]))
        return rows


def _resolved_parts(s: t.Subtype, at: int, found: list[tuple[int, t.Subtype]]) -> None:
    """The parts of a type that have a resolution function, with their bytes."""
    if s.resolution is not None:
        found.append((at, s))
        return
    if isinstance(s.type, t.ArrayType):
        inner: list[tuple[int, t.Subtype]] = []
        _resolved_parts(s.elem, 0, inner)
        if not inner:
            return
        if all(x.resolution is not None and x.resolution.name == "resolved" for _, x in inner):
            found += inner[:1]
            return
        step = t.size_of(s.elem)
        count = t.size_of(s) // step if step else 0
        for k in range(count):
            found += [(at + k * step + o, x) for o, x in inner]
    elif isinstance(s.type, t.RecordType):
        offsets, _ = t.record_layout(s)
        for offset, f in zip(offsets, s.field_types(), strict=True):
            _resolved_parts(f, at + offset, found)


def _leaves(layout: Layout) -> dict[int, list[tuple[int, ...]]]:
    """What is recorded of a signal, by its number: rows of VLeaf in kernel/typed.h."""
    found: dict[int, list[tuple[int, ...]]] = {}
    for slot in layout.slots:
        if slot.signal.leaf is not None:
            root, at, size, form, count = slot.signal.leaf
            found.setdefault(root, []).append((root, at, size, slot.number, form, count))
    return found


def _whole_nine(roots: list[t.RootSignal], leaves: dict[int, list[tuple[int, ...]]]) -> dict[int, int]:
    """The signals that are recorded as one vector of nine values, with the number that they have there."""
    found: dict[int, int] = {}
    for root in roots:
        rows = leaves.get(root.number, [])
        if len(rows) == 1 and rows[0][1:3] == (0, root.size) and rows[0][4] == LEAF_NINE:
            found[root.number] = rows[0][3]
    return found


class TypedRun:
    """Fills the memory of a simulation and starts the processes. `failed`: an error in an initial value stopped it."""

    failed = False

    def __init__(self, code: TypedCode, layout: Layout, memory: Any, base: int, lib: c.CDLL) -> None:
        self.code, self.layout, self.memory, self.base, self.lib = code, layout, memory, base, lib
        self.model = code.model
        self.numbers: dict[t.Process, int] = {}

    @property
    def caller(self) -> int:
        """The site of the statement that last called one of our packages."""
        return int(c.c_uint64.from_address(self.base + self.code.base + CALLER).value)

    def open(self, first: int) -> None:
        """The kernel's tables."""
        code, memory, base = self.code, self.memory, self.base
        for k, p in enumerate(self.model.processes):
            self.numbers[p] = first + k
        fans: list[tuple[int, int, int, int]] = []
        leaf_rows: list[tuple[int, ...]] = []
        number = 0
        for root in self.model.roots:
            mine = [(self.numbers[w.process], w.at, w.size, w.link) for w in code.fans.get(root.number, ())]
            shown = code.leaves.get(root.number, [])
            flags = 0
            if code.resolved[root.number]:
                flags |= RESOLVED
            if (len(root.drivers) > 1 and root.observed) or any(d.process.kind == "link" for d in root.drivers) or root.kind:
                flags |= WHOLE
            if root.bus:
                flags |= BUS if root.bus == "bus" else REGISTER
            if any(r[0] == root.number for r in code.resolutions):
                flags |= USER
            if any(r[3] == 1 for r in mine):
                flags |= ALONG
            ways = {b.way for b in self.model.bridges if b.root is root}
            flags |= BRIDGED if "out" in ways else 0
            flags |= JOINED if "net" in ways else 0
            if any((root.number, rising) in code.edges for rising in (0, 1)):
                flags |= NINE if t.is_nine(root.subtype) else 0
                flags |= EDGES if clock_ticks(code, root) is None else 0
            data = struct.pack(
                "<QQQQIIIIQQIIIIIIQQQQ",
                0, 0, base + code.base + 64 + root.offset, base + code.befores[root.number], root.size, flags, len(fans), len(mine),
                0, 0, number, len(root.drivers), len(leaf_rows), len(shown), 0, root.size, 0, 0, 0, 0,
            )  # fmt: skip
            at = code.signals + root.number * SIG_BYTES
            memory[at : at + len(data)] = data
            fans += mine
            leaf_rows += shown
            number += len(root.drivers)
        for d in code.driver_list:
            mask = code.masks.get(d.number, 0)
            if mask:
                for low, size in d.ranges:
                    memory[mask + low : mask + low + size] = b"\1" * size
            now = code.nows.get(d.number, 0)
            data = struct.pack(
                "<QIIIIIIQQQIIQQIIQQ",
                base + code.images[d.number], d.root.number, 0, 0, 0, 0, 0, base + mask if mask else 0, base + now if now else 0, 0, 0,
                d.number, 0, 0, 0, 0, 0, clock_ticks(code, d.root) or 0,
            )  # fmt: skip
            at = code.drivers + d.number * DRIVER_BYTES
            memory[at : at + len(data)] = data
        self.fans = (c.c_uint32 * (4 * len(fans) + 4))(*[x for row in fans for x in row])
        self.leaves = (c.c_uint32 * (6 * len(leaf_rows) + 6))(*[x for row in leaf_rows for x in row])
        self.open_rows = code.resolutions

    def start(self, native: NativeCode, entry_base: int) -> None:
        """First values, then the processes."""
        code, lib, base = self.code, self.lib, self.base

        class Row(c.Structure):
            _fields_ = [("sig", c.c_uint32), ("at", c.c_uint32), ("size", c.c_uint32), ("spare", c.c_uint32), ("fn", c.c_void_p)]

        rows = (Row * (len(code.resolutions) + 1))(
            *[Row(sig, at, size, 0, native.address(name)) for sig, at, size, name in code.resolutions]
        )
        self.rows = rows
        lib.typed_open(
            base + code.base, base + code.signals, len(self.model.roots), base + code.drivers, len(code.driver_list), self.fans, self.leaves,
            rows, len(code.resolutions), base + code.numbers,
        )  # fmt: skip
        self._bridges()
        links = [entry_base + code.entry[p] for p in self.model.processes if p.kind == "link"]
        self.failed = bool(lib.typed_begin(native.address("start"), (c.c_uint32 * (len(links) + 1))(*links), len(links)))
        if self.failed:
            return
        for root in self.model.roots:
            if root.kind in t.IMPLICIT:
                source, at, size, ticks = root.links
                lib.v_implicit(source.number, t.IMPLICIT.index(root.kind), root.drivers[0].number, at, size, ticks)
            if root.wants_parts and root.size and isinstance(root.subtype.type, (t.ArrayType, t.RecordType)):
                starts = list(_scalars(root.subtype, 0))
                lib.v_keep_parts(root.number, (c.c_uint32 * len(starts))(*starts), len(starts))
        lib.typed_show()
        for k, p in enumerate(self.model.processes):
            frame = code.frames + 48 * k
            if p.kind == "link":
                lib.k_process(self.numbers[p], entry_base + code.entry[p], frame, 0, 0, 0)
                continue
            static = p.sensitivity is not None
            sense = 1 if static else STACKED
            if p.postponed:
                sense |= REACTIVE
            lib.k_process(self.numbers[p], entry_base + code.entry[p], frame, 0, sense, 1)

    def _bridges(self) -> None:
        """Tell the kernel of the ports between the languages."""
        rows: list[int] = []
        for b in self.model.bridges:
            slot = self._bridged(b, b.name)
            rows += [
                WAYS.index(b.way), slot.number, b.root.number, b.at, b.size, b.form, b.count, b.driver.number if b.driver is not None else 0,
            ]  # fmt: skip
        self.bridge_rows = (c.c_uint32 * (len(rows) + 8))(*rows)
        self.lib.k_bridges(self.bridge_rows, len(self.model.bridges))

    def _bridged(self, b: t.Bridge, name: str) -> Slot:
        here = next(i for i in self.layout.instances if i.path == b.path)
        return self.layout.slot(here, next(s for s in here.unit.signals if s.name == name))

    def joints(self) -> Iterator[tuple[int, int]]:
        """The drivers of nets that bring what drives the other side of an inout port, with the number of the joint."""
        for b in self.model.bridges:
            if b.way != "net":
                continue
            assert b.driver is not None
            for d in self._bridged(b, b.name).drivers:
                drive = d.process.body[0]
                brought = drive.value.signal.name if isinstance(drive, n.Drive) and isinstance(drive.value, n.Ref) else ""
                if d.instance.path == b.path and brought in (f"{b.name}.strong", f"{b.name}.weak"):
                    yield d.number, b.driver.number + 1

    def watch(self, numbers: set[int]) -> None:
        """Have the changes of these shown signals recorded."""
        for slot in self.layout.slots:
            if slot.number in numbers and slot.signal.leaf is not None:
                at = self.code.signals + slot.signal.leaf[0] * SIG_BYTES + 36
                flags = int.from_bytes(self.memory[at : at + 4], "little") | WATCHED
                self.memory[at : at + 4] = flags.to_bytes(4, "little")


def _scalars(s: t.Subtype, at: int) -> Iterator[int]:
    """Where the scalars of a subtype begin."""
    if isinstance(s.type, t.ArrayType):
        size = t.size_of(s.elem)
        for k in range(t.size_of(s) // size if size else 0):
            yield from _scalars(s.elem, at + k * size)
    elif isinstance(s.type, t.RecordType):
        for offset, of in zip(t.record_layout(s)[0], s.field_types(), strict=True):
            yield from _scalars(of, at + offset)
    else:
        yield at
