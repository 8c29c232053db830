"""Where everything lies: the instance tree flattened, joined signals merged, storage and drivers numbered.

All state is in one memory block. Every signal has a number and a place in it; an instance has a table that maps the numbers
its unit uses to those of the design, so that instances of one unit can share code.
"""

from __future__ import annotations

from itertools import pairwise

from mevrik.design import nodes as n
from mevrik.design.record import Identity, field
from mevrik.design.types import EventType, Nine, Real, Text, Vec
from mevrik.design.unit import CELL_WIDTH, Design, Process, Signal, Switch, Unit

NET_CODES = {"wand": 1, "triand": 1, "wor": 2, "trior": 2, "tri0": 3, "tri1": 4, "trireg": 5}
FLAG_NET, FLAG_EVENT, FLAG_REAL, FLAG_FORCIBLE, FLAG_TEXT = 1, 2, 4, 8, 32
FRAME_HEADER = 56
SCHEDULER_BYTES = 288  # the structure Scheduler of kernel.h
QUEUE_SPARE = 1 << 15  # branches of forks that may stand in the queue beside the processes


MEMORY_LIMIT = 8 << 30
LEVELS = bytes((0, 0, 1, 0, 0, 1, 1, 1))  # value and unknown of 0, 1, z, x


class LayoutError(Exception):
    """The instances don't fit together, or need too much storage; the message says where. `place`: FILE:LINE:COLUMN, if there is one."""

    place = ""


class Unsupported(Exception):
    """Something that is not there yet; the message says what, `site` which statement asks for it."""

    site = 0


class Instance(Identity):
    number: int
    path: str
    unit: Unit
    parent: Instance | None
    pos: int
    children: dict[str, Instance] = field(default_factory=dict)
    table: int = 0  # offset of its table


class Slot(Identity):
    """One signal of the running design; `names` are all (instance, signal) that were merged into it."""

    number: int
    signal: Signal
    names: list[tuple[Instance, Signal]]
    width: int
    bytes: int
    planes: int
    elements: int
    flags: int
    net: int
    is_variable: bool
    offset: int = 0
    drivers: list[DriverSlot] = field(default_factory=list)
    fans: list[tuple[int, int]] = field(default_factory=list)
    cells: list[tuple[int, int]] = field(default_factory=list)  # (bit, process) of the gates that read it
    forced: bool = False
    switched: bool = False  # a bidirectional switch is at it


class DriverSlot(Identity):
    instance: Instance
    process: Process
    part: int
    low: int
    width: int
    strength: tuple[int, int]
    delayed: bool
    number: int = -1
    offset: int = 0
    bytes: int = 8


def plane_bytes(width: int) -> int:
    for size in (1, 2, 4, 8):
        if width <= 8 * size:
            return size
    return (width + 63) // 64 * 8


def planes_of(signal: Signal) -> int:
    if isinstance(signal.type, Nine):
        return 4
    return 2 if isinstance(signal.type, Vec) and signal.type.four else 1


class Layout:
    def __init__(self, design: Design) -> None:
        self.design = design
        self.instances: list[Instance] = []
        self.slots: list[Slot] = []
        self.indirect: set[tuple[Process, int]] = set()  # (process, part) that must go through a driver
        self._slot_of: dict[tuple[int, Signal], Slot] = {}
        self._merged: dict[tuple[int, Signal], tuple[int, Signal]] = {}
        self.roots = {top.name: self._walk(top.name, top.unit, None, top.pos) for top in design.tops}
        self.by_unit: dict[Unit, list[Instance]] = {}
        for instance in self.instances:
            self.by_unit.setdefault(instance.unit, []).append(instance)
        self._number_units()
        self._merge()
        self._make_slots()
        self._collect_switches()
        self._collect_drivers()
        self.processes = self._ordered()
        self._place()

    def _place(self) -> None:
        """The watch bytes, the values of constant inputs of gates, the signals, the tables of the instances. Small signals come first, so
        that they lie together."""
        self.levels = (len(self.slots) + 63) // 64 * 64
        at = self.levels + len(LEVELS)
        for slot in sorted(self.slots, key=lambda s: s.elements > 1 or s.width > CELL_WIDTH):
            slot.offset = at
            at += (slot.bytes * slot.planes * slot.elements + 7) // 8 * 8
        if at > MEMORY_LIMIT:
            largest = max(self.slots, key=lambda s: s.bytes * s.planes * s.elements)
            name = f"{largest.names[0][0].path}.{largest.names[0][1].name}"
            size = largest.bytes * largest.planes * largest.elements >> 20
            raise LayoutError(f"'{name}' needs {size} MiB; a design may hold {MEMORY_LIMIT >> 30} GiB at most")
        for instance in self.instances:
            instance.table = at
            unit = instance.unit
            parts = sum(len(p.body[0].target) for p in unit.processes if p.body and isinstance(p.body[0], n.Drive))
            at += (8 + 8 * (len(unit.signals) + len(unit.standins)) + 4 * parts + 63) // 64 * 64
        at = (at + 63) // 64 * 64
        self.scheduler = at
        self.armed = at + SCHEDULER_BYTES
        count = len(self.processes) + (len(self.design.typed.processes) if self.design.typed is not None else 0)
        self.queue = (self.armed + count + 63) // 64 * 64
        self.queue_size = 1 << (count + QUEUE_SPARE).bit_length()
        self.size = self.queue + 4 * self.queue_size

    def shared(self, unit: Unit) -> bool:
        return len(self.by_unit[unit]) > 1

    def _walk(self, path: str, unit: Unit, parent: Instance | None, pos: int) -> Instance:
        instance = Instance(len(self.instances), path, unit, parent, pos)
        self.instances.append(instance)
        for child in (*unit.instances, *self.design.inside.get(path, ())):
            instance.children[child.name] = self._walk(f"{path}.{child.name}", child.unit, instance, child.pos)
        return instance

    def _number_units(self) -> None:
        for unit in self.by_unit:
            for number, signal in enumerate([*unit.signals, *unit.standins]):
                signal.number = number

    # ---- what a signal of a unit is in an instance ----

    def key(self, instance: Instance, signal: Signal) -> tuple[int, Signal]:
        if signal.target is None:
            return instance.number, signal
        try:
            here = self.walk(instance, signal.path)
        except KeyError:
            raise LayoutError(f"{instance.path} refers to '{signal.name}', which does not exist in this instance") from None
        target = signal.target
        if target not in here.unit.signals:
            found = next((s for s in here.unit.signals if s.name == target.name), None)
            if found is None or found.type != target.type:
                raise LayoutError(f"{instance.path} refers to '{signal.name}', which differs between instances")
            target = found
        return here.number, target

    def walk(self, instance: Instance, path: tuple[str, ...]) -> Instance:
        """The instance at the end of a path; "^" is a level up, "/name" an outermost one. Raises KeyError."""
        here = instance
        for step in path:
            if step.startswith("/"):
                here = self.roots[step[1:]]
            elif step == "^":
                if here.parent is None:
                    raise KeyError(step)
                here = here.parent
            else:
                here = here.children[step]
        return here

    def _root(self, key: tuple[int, Signal]) -> tuple[int, Signal]:
        while key in self._merged:
            key = self._merged[key]
        return key

    def slot(self, instance: Instance, signal: Signal) -> Slot:
        return self._slot_of[self._root(self.key(instance, signal))]

    def instances_of(self, form: str) -> list[Instance]:
        """The instances of an interface with these parameters."""
        return [i for i in self.instances if i.unit.form == form]

    def slots_by_link(self, name: str, signal: Signal) -> list[tuple[Instance, Slot]]:
        """A signal in each instance of an interface."""
        assert signal.target is not None
        wanted = signal.target.name
        found: list[tuple[Instance, Slot]] = []
        for instance in self.instances_of(name):
            own = next((s for s in instance.unit.signals if s.name == wanted), None)
            if own is None or own.type != signal.type:
                raise LayoutError(f"'{wanted}' of {instance.path} is used by way of a virtual interface, but is another type there")
            found.append((instance, self.slot(instance, own)))
        return found

    # ---- merging ----

    def _merge(self) -> None:
        driven: set[tuple[int, Signal]] = set()
        links: list[tuple[Instance, Process]] = []
        leaves: dict[tuple[int, ...], tuple[int, Signal]] = {}
        for instance in self.instances:
            for signal in instance.unit.signals:
                if signal.leaf is not None:
                    first = leaves.setdefault(signal.leaf, (instance.number, signal))
                    if first != (instance.number, signal):
                        self._merged[instance.number, signal] = first
        self.active: list[tuple[Instance, Process]] = []
        for instance in self.instances:
            for process in instance.unit.processes:
                if process.kind in ("link", "join"):
                    links.append((instance, process))
                    continue
                self.active.append((instance, process))
                if process.kind == "assign":
                    for part in _drive(process).target:
                        driven.add(self.key(instance, part.signal))
        variable: dict[tuple[int, Signal], bool] = {}

        def is_variable(key: tuple[int, Signal]) -> bool:
            return variable.get(key, key[1].kind == "var")

        for instance, process in links:
            assert process.link is not None
            a = self._root(self.key(instance, process.link[0]))
            b = self._root(self.key(instance, process.link[1]))
            if a == b:
                continue
            any_variable = is_variable(a) or is_variable(b)
            both = is_variable(a) and is_variable(b)
            if process.kind == "link" and (both or (any_variable and (a in driven or b in driven))):
                self.active.append((instance, process))
                driven.add(self._root(self.key(instance, _drive(process).target[0].signal)))
                continue
            keep, gone = (b, a) if not is_variable(a) or is_variable(b) else (a, b)
            self._merged[gone] = keep
            if gone in driven:
                driven.add(keep)
            variable[keep] = any_variable

    def _make_slots(self) -> None:
        groups: dict[tuple[int, Signal], list[tuple[Instance, Signal]]] = {}
        for instance in self.instances:
            for signal in instance.unit.signals:
                key = (instance.number, signal)
                groups.setdefault(self._root(key), []).append((instance, signal))
        for root, names in groups.items():
            signal = root[1]
            width = signal.type.width if isinstance(signal.type, Vec) else 64 if isinstance(signal.type, Real) else 1
            net = max((NET_CODES.get(s.net, 0) for _, s in names), default=0)
            is_variable = any(s.kind == "var" for _, s in names)
            flags = 0 if is_variable else FLAG_NET
            if isinstance(signal.type, EventType):
                flags |= FLAG_EVENT
            if isinstance(signal.type, Real):
                flags |= FLAG_REAL
            if isinstance(signal.type, Text):
                flags |= FLAG_TEXT
            if net == 5:
                flags |= max((s.charge for _, s in names if s.net == "trireg"), default=2) << 8
            forced = any(s.forced for _, s in names)
            if forced:
                flags |= FLAG_FORCIBLE
            names.sort(key=lambda item: (item[0].path.count("."), item[0].number))
            slot = Slot(
                len(self.slots), signal, names, width, plane_bytes(width), planes_of(signal), signal.elements, flags, net, is_variable,
                forced=forced,
            )  # fmt: skip
            self.slots.append(slot)
            self._slot_of[root] = slot

    def _ordered(self) -> list[tuple[Instance, Process]]:
        """The processes by number: declaration initialisers first, then gates, other drivers, and the rest in the order of the source."""
        rank = {"assign": 2, "link": 2, "always_comb": 3}

        def key(item: tuple[Instance, Process]) -> int:
            process = item[1]
            if process.kind == "initial" and process.body and isinstance(process.body[0], n.Assign) and process.pos == 0:
                return 0
            return 1 if process.cell is not None else rank.get(process.kind, 4)

        return sorted(self.active, key=key)

    def set_fans(self, static: set[Process], edges: dict[str, int]) -> None:
        """Fill the fan-out of each signal: (process number, edge) of the static processes that wait for it."""
        for slot in self.slots:
            slot.fans = []
            slot.cells = []
        for number, (instance, process) in enumerate(self.processes):
            if process.cell is not None:
                for signal, bit in process.cell.inputs:
                    if signal is not None:
                        self.slot(instance, signal).cells.append((bit, number))
                continue
            for sense in process.sense or () if process in static else ():
                assert isinstance(sense.expr, n.Ref)
                entry = (number, edges[sense.edge])
                fans = self.slot(instance, sense.expr.signal).fans
                if entry not in fans[-8:]:
                    fans.append(entry)

    # ---- drivers ----

    def _collect_drivers(self) -> None:
        for instance, process in self.active:
            if process.kind not in ("assign", "link"):
                continue
            drive = _drive(process)
            for index, part in enumerate(drive.target):
                slot = self.slot(instance, part.signal)
                low = part.bits.const if part.bits is not None else 0
                if part.element is not None:  # the elements of an array are counted as one long vector
                    low += part.element.const * slot.width
                if any(at is not None and at.terms for at in (part.bits, part.element)):
                    low = -1
                driver = DriverSlot(
                    instance, process, index, low, part.width, drive.strength, bool(drive.delays), bytes=plane_bytes(part.width)
                )
                slot.drivers.append(driver)
        for slot in self.slots:
            if slot.drivers and self._needs_resolution(slot):
                for d in slot.drivers:
                    self.indirect.add((d.process, d.part))
        changed = True
        while changed:  # one driver of a net through the resolution: all of that net
            changed = False
            for slot in self.slots:
                if any((d.process, d.part) in self.indirect for d in slot.drivers):
                    for d in slot.drivers:
                        if (d.process, d.part) not in self.indirect:
                            self.indirect.add((d.process, d.part))
                            changed = True
        self._resolved = {s for s in self.slots if any((d.process, d.part) in self.indirect for d in s.drivers)}

    def _collect_switches(self) -> None:
        """All switches with the signals they join, and the groups of signals that they can make one."""
        self.switches: list[tuple[Slot, int, Slot, int, Slot | None, int, Switch]] = []
        for instance in self.instances:
            for w in instance.unit.switches:
                a, b = self.slot(instance, w.a.signal), self.slot(instance, w.b.signal)
                control = self.slot(instance, w.control.signal) if w.control is not None else None
                low = [p.bits.const if p is not None and p.bits is not None else 0 for p in (w.a, w.b, w.control)]
                self.switches.append((a, low[0], b, low[1], control, low[2], w))
                a.switched = True
                b.switched = b.switched or not b.is_variable

    @staticmethod
    def _needs_resolution(slot: Slot) -> bool:
        if any(d.process.cell is not None for d in slot.drivers):
            return True
        if slot.switched or slot.net or slot.forced or any(d.delayed or d.strength != (6, 6) for d in slot.drivers):
            return True
        if slot.is_variable and not slot.elements > 1 and len(slot.drivers) == 1:
            return False
        ranges = sorted((d.low, d.low + d.width) for d in slot.drivers)
        if any(low < 0 for low, _ in ranges):
            return len(ranges) > 1
        return any(a[1] > b[0] for a, b in pairwise(ranges))

    @staticmethod
    def alone(slot: Slot) -> set[DriverSlot]:
        """The drivers of a plain net whose bits nothing else drives: what they drive is what the net holds."""
        if slot.switched or slot.net or slot.forced:
            return set()
        if len(slot.drivers) == 1:  # nearly always
            return {d for d in slot.drivers if d.low >= 0 and d.strength == (6, 6)}
        ranges = sorted(((d.low, d.low + d.width, d) for d in slot.drivers), key=lambda r: r[:2])
        if any(low < 0 for low, _, _ in ranges):
            return set()
        found: set[DriverSlot] = set()
        for k, (low, high, d) in enumerate(ranges):
            before = max((r[1] for r in ranges[:k][-64:]), default=0)
            after = ranges[k + 1][0] if k + 1 < len(ranges) else high
            if before <= low and after >= high and d.strength == (6, 6):
                found.add(d)
        return found

    def resolved(self, slot: Slot) -> bool:
        """Whether the drivers of a signal are looked at together when one of them changes."""
        return slot in self._resolved


def _drive(process: Process) -> n.Drive:
    drive = process.body[0]
    assert isinstance(drive, n.Drive)
    return drive
