"""A running simulation: memory laid out, code loaded, processes started, time advanced.

One simulation a process: the kernel's state is global, which keeps generated code short. `engine/job.py` gives every run a
process of its own.
"""

from __future__ import annotations

import ctypes as c
import mmap
import threading
import time
from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import Frozen
from mevrik.design.types import Real, Vec
from mevrik.design.unit import Design, Process, Signal
from mevrik.design.values import Logic
from mevrik.engine import abi
from mevrik.engine.compile import NativeCode, cached, compile_text
from mevrik.engine.layout import LEVELS, Instance, Layout, Slot
from mevrik.engine.lower.module import Code, ModuleLowerer, clock_of
from mevrik.engine.memory import MemoryWatch
from mevrik.engine.tables import SignalTables

WATCH_RECORD, WATCH_SWITCH = 2, 8  # of a watch byte
HANDLE_WIDTH = 64  # bits of what stands for an object, a list or a text
if TYPE_CHECKING:
    from random import Random

    from mevrik.engine.typed.running import TypedCode, TypedRun

REGIONS = {"": 0, "reactive": 32, "program": 32 | 64, "start": 0}  # as k_process of kernel/scheduler.c takes them
FOREVER = (1 << 64) - 1
_COMPUTES = (n.Assign, n.AssignArray, n.If, n.Case, n.Block, n.Loop, n.RepeatLoop, n.Leave)
PATIENCE = 0.6  # seconds from the start of a run until better code is made for it
WORTH = 0.15  # seconds that a run spends on quick code at least for better code to pay next time
Message = Callable[[str, int, int, str], None]  # severity, site, time in ticks, text


class Prepared(Frozen, frozen=True):
    """A design ready to run: everything that doesn't depend on one run."""

    design: Design
    layout: Layout
    code: Code
    typed: TypedCode | None = None


def prepare(design: Design) -> Prepared:
    """Lay out and lower a design."""
    layout = Layout(design)
    driver_number = 0
    for slot in layout.slots:
        if layout.resolved(slot):
            for d in slot.drivers:
                d.number = driver_number
                driver_number += 1
    typed: TypedCode | None = None
    if design.typed is not None:
        from mevrik.engine.typed.running import TypedCode  # only here: what has no VHDL should not wait for it

        typed = TypedCode(design.typed, layout, design.typed.types["std"])
    return Prepared(design, layout, ModuleLowerer(design, layout).lower(), typed)


class Simulation:
    def __init__(
        self,
        prepared: Prepared,
        message: Message | None = None,
        optimise: str = "background",
        start: Random | None = None,
        held: dict[int, int] | None = None,
    ) -> None:
        """Loaded, but not started. `optimise`: "background" starts on quick code and swaps, "first" waits for the best code, "never" stays. `start` gives
        the bits of variables that would begin as x."""
        self.start = start
        self.typed: TypedRun | None = None
        self.held = held or {}  # start values by the number of the signal, from delay files
        self.prepared = prepared
        self.layout = prepared.layout
        self.code = prepared.code
        self.lib = abi.library()
        self._quick: list[str] = []  # the texts of which only quick code is there so far
        self._spent = 0.0  # seconds of running
        self._lay_out_memory()
        self._open(message)
        self._load(optimise)

    # ---- memory ----

    def _lay_out_memory(self) -> None:
        layout = self.layout
        typed = self.prepared.typed
        self.own = at = (typed.size + 63) // 64 * 64 if typed is not None else layout.size  # drivers and frames
        self.drivers = [d for slot in layout.slots if layout.resolved(slot) for d in slot.drivers]
        for d in self.drivers:
            d.offset = at
            at += 4 * max(d.bytes, 8)
        self.frames: list[tuple[Instance, Process, int]] = []
        for instance, process in layout.processes:
            self.frames.append((instance, process, at))
            if process.cell is not None:
                continue
            at += (self.code.frame_size[instance.unit, process] + 15) // 8 * 8
        self.size = at + 64
        self.memory = mmap.mmap(-1, self.size)
        self.base = c.addressof(c.c_char.from_buffer(self.memory))
        for slot in layout.slots:
            self._initial(slot)

    def _initial(self, slot: Slot) -> None:
        """Variables start as x (two-state ones as 0), undriven nets as z, driven ones as x until they are driven."""
        width, size = slot.width, slot.bytes
        full = (1 << width) - 1
        val = unk = driven = 0
        if slot.planes == 2:
            if slot.is_variable:
                val = unk = full
            else:
                everything = (1 << width * slot.elements) - 1
                for d in slot.drivers:
                    driven |= everything if d.low < 0 else ((1 << d.width) - 1) << d.low
                val, unk = driven & full, full
                if slot.net == 5:
                    val = full
                elif slot.net in (3, 4):
                    val, unk = (0, 0) if slot.net == 3 else (full, 0)
        init = next((s.init for _, s in slot.names if s.init is not None), None)
        if self.start is not None and slot.is_variable and slot.planes == 2 and init is None and not slot.signal.implicit:
            self._random(slot, self.start)
            return
        if slot.number in self.held:
            init = n.Const(Vec(64), self.held[slot.number])
        if isinstance(init, n.Const):
            val, unk = init.val, init.unk
        if isinstance(init, n.RealConst):
            val = int.from_bytes(bytes(c.c_double(init.value)), "little")
        pattern = val.to_bytes(size, "little") + (unk.to_bytes(size, "little") if slot.planes == 2 else b"")
        self.memory[slot.offset : slot.offset + len(pattern) * slot.elements] = pattern * slot.elements
        if slot.elements > 1 and driven and slot.net not in (3, 4, 5) and init is None:
            for k in range(1, slot.elements):
                at = slot.offset + k * len(pattern)
                self.memory[at : at + size] = (driven >> k * width & full).to_bytes(size, "little")

    def _random(self, slot: Slot, start: Random) -> None:
        """Known random bits in each element."""
        zero = bytes(slot.bytes)
        parts = [start.getrandbits(slot.width).to_bytes(slot.bytes, "little") + zero for _ in range(slot.elements)]
        self.memory[slot.offset : slot.offset + 2 * slot.bytes * slot.elements] = b"".join(parts)

    def _instance_tables(self) -> None:
        for instance in self.layout.instances:
            unit = instance.unit
            words = [instance.number, 0]
            if self.layout.shared(unit):
                for signal in [*unit.signals, *unit.standins]:
                    slot = self.layout.slot(instance, signal)
                    words += [slot.offset, slot.number]
                mine = {(d.process, d.part): d.number for d in self.drivers if d.instance is instance}
                for process in unit.processes:
                    if process.body and isinstance(process.body[0], n.Drive):
                        for part in range(len(process.body[0].target)):
                            if (process, part) in self.layout.indirect:
                                words.append(mine.get((process, part), 0))
            data = b"".join(w.to_bytes(4, "little") for w in words)
            self.memory[instance.table : instance.table + len(data)] = data

    # ---- kernel ----

    def _open(self, message: Message | None) -> None:
        layout = self.layout
        self.memory[layout.levels : layout.levels + len(LEVELS)] = LEVELS
        self._instance_tables()
        self.tables = SignalTables(layout, self.memory, self.base)
        typed = self.prepared.typed
        self.kernel = self.lib.k_open(
            self.base,
            self.base,
            self.tables.sigs,
            len(layout.slots),
            self.tables.fans,
            self.tables.drivers,
            len(self.frames) + (len(typed.model.processes) if typed is not None else 0),
            len(self.code.entries) + (len(typed.entries) if typed is not None else 0),
            self.base + layout.scheduler,
            self.base + layout.armed,
            self.base + layout.queue,
            layout.queue_size,
        ).contents
        for number, text in enumerate(self.prepared.design.texts, 1):
            kept = self.lib.k_text(text, len(text))
            assert kept == number
        self.lib.k_texts_begin()
        rows = [(c.c_uint32 * len(b))(*b) for b in self.code.bags]
        self._bags = (c.c_void_p * (len(rows) + 1))(*[c.addressof(r) for r in rows]), rows
        self.lib.k_bags(self._bags[0])
        self._join_switches()
        names = [i.path.encode() for i in layout.instances]
        self._names = (c.c_char_p * len(names))(*names)
        self.kernel.inst_names = c.cast(self._names, c.c_void_p)
        parents = [(i.parent or i).number for i in layout.instances]
        self._parents = (c.c_uint32 * len(parents))(*parents)
        self.kernel.inst_parents = c.cast(self._parents, c.c_void_p)
        self.kernel.tick_exp = self.prepared.design.tick_exp
        finer = [u.precision_exp for u in self.prepared.design.units if u.precision_exp > self.prepared.design.tick_exp]
        if typed is not None and finer:
            self.kernel.time_unit = min(finer)  # %t of Verilog goes by its own timescales
        if message is not None:

            def sink(severity: bytes, site: int, time: int, text: bytes) -> None:
                assert message is not None
                message(severity.decode(), site, time, text.decode("utf-8", "replace"))

            self._sink = abi.MESSAGE_SINK(sink)
            self.lib.k_message_sink(self._sink)

    def _join_switches(self) -> None:
        """Tell the kernel of the switches and what closes them."""
        joined = self.layout.switches
        self.switches = (abi.Switch * max(len(joined), 1))()
        for k, (a, a_bit, b, b_bit, control, control_bit, w) in enumerate(joined):
            closes = control.number if control is not None else 0xFFFFFFFF
            self.switches[k] = abi.Switch(
                a.number, a_bit, b.number, b_bit, closes, control_bit, w.active, 2 if w.wire else int(w.resistive), int(w.one_way)
            )
            for slot in (control, b if b.is_variable else None):
                if slot is not None:
                    self.memory[slot.number] = self.memory[slot.number] | WATCH_SWITCH
        if joined:
            self.lib.k_switches(self.switches, len(joined))

    def _load(self, optimise: str) -> None:
        typed = self.prepared.typed
        texts = [self.code.text, *([typed.text] if typed is not None else [])]
        found = [cached(text, 2) for text in texts]
        complete = all(found)
        if not complete and optimise == "first":
            found = [compile_text(text, 2) for text in texts]
            complete = True
        self._natives = [
            NativeCode(best if best is not None else compile_text(text, 0)) for text, best in zip(texts, found, strict=True)
        ]
        self._entries = self._table(self._natives)
        self._commits = self._by_signal(self._natives[0], self.code.commits)
        self._applies = self._by_signal(self._natives[0], self.code.applies)
        self.kernel.fns = c.cast(self._entries, c.c_void_p)
        self.kernel.commits = c.cast(self._commits, c.c_void_p)
        self.kernel.applies = c.cast(self._applies, c.c_void_p)
        self._edges = self._by_edge(self._natives[0])
        self.kernel.edges = c.cast(self._edges, c.c_void_p)
        self._typed_edges = self._by_typed_edge(self._natives)
        self.kernel.typed_edges = c.cast(self._typed_edges, c.c_void_p)
        if not complete and optimise == "background":
            self._quick = texts
            threading.Thread(target=self._improve, args=(texts,), daemon=True).start()

    def _table(self, natives: list[NativeCode]) -> c.Array[c.c_void_p]:
        """The functions by number: those of the first half, then those of the typed one."""
        found = [natives[0].address(name) for name in self.code.entries]
        if self.prepared.typed is not None:
            found += [natives[1].address(name) for name in self.prepared.typed.entries]
        return (c.c_void_p * max(len(found), 1))(*found)

    def _by_signal(self, native: NativeCode, names: dict[int, str]) -> c.Array[c.c_void_p]:
        table = (c.c_void_p * max(len(self.layout.slots), 1))()
        for number, name in names.items():
            table[number] = native.address(name)
        return table

    def _by_edge(self, native: NativeCode) -> c.Array[c.c_void_p]:
        table = (c.c_void_p * max(2 * len(self.layout.slots), 1))()
        for (number, value), name in self.code.edges.items():
            in_kernel = name.startswith("k_")
            table[2 * number + value] = c.cast(getattr(self.lib, name), c.c_void_p).value if in_kernel else native.address(name)
        return table

    def _by_typed_edge(self, natives: list[NativeCode]) -> c.Array[c.c_void_p]:
        typed = self.prepared.typed
        table = (c.c_void_p * max(2 * len(typed.model.roots) if typed is not None else 0, 1))()
        if typed is not None:
            for (number, rising), name in typed.edges.items():
                table[2 * number + rising] = natives[1].address(name)
        return table

    def _improve(self, texts: list[str]) -> None:
        """Compile the optimised code and have the kernel take it at a batch boundary: both versions share all state. A run that ends soon
        gets none: compiling takes longer than it."""
        time.sleep(PATIENCE)
        natives = [NativeCode(compile_text(text, 2)) for text in texts]
        self._quick = []
        self._natives += natives
        self._better = self._table(natives)
        self._better_commits = self._by_signal(natives[0], self.code.commits)
        self._better_applies = self._by_signal(natives[0], self.code.applies)
        self.kernel.fns_next = c.cast(self._better, c.c_void_p)
        self.kernel.commits_next = c.cast(self._better_commits, c.c_void_p)
        self.kernel.applies_next = c.cast(self._better_applies, c.c_void_p)
        self._better_edges = self._by_edge(natives[0])
        self.kernel.edges_next = c.cast(self._better_edges, c.c_void_p)
        self._better_typed_edges = self._by_typed_edge(natives)
        self.kernel.typed_edges_next = c.cast(self._better_typed_edges, c.c_void_p)
        self.kernel.swap = 1
        self.kernel.attention = 1

    def _start_samples(self) -> None:
        """Tell the kernel which hidden signals keep the values of others from before each moment."""
        for instance in self.layout.instances:
            for signal in instance.unit.signals:
                if signal.sample_of is not None:
                    source = self.layout.slot(instance, signal.sample_of)
                    self.lib.k_sample(source.number, self.layout.slot(instance, signal).number)

    def _start_decays(self) -> None:
        for slot in self.layout.slots:
            decay = next((s.decay for _, s in slot.names if s.decay is not None), None)
            if isinstance(decay, n.Const) and decay.val:
                self.lib.k_decay(slot.number, decay.val)

    def _start_cells(self) -> None:
        """The gates that the kernel evaluates by itself, and which bits of vectors they wait for."""
        cells = [(i, p) for i, p, _ in self.frames if p.cell is not None]
        if not cells:
            return
        from mevrik.engine.cells import BitFans, CellTables  # only here: few designs have any

        self.cells = CellTables(self.layout, cells, self.drivers)
        self.bit_fans = BitFans(self.layout)
        first = next(k for k, (_, p, _) in enumerate(self.frames) if p.cell is not None)
        self.lib.k_cells(self.cells.cells, self.cells.more, first, len(cells))
        self.lib.k_bit_fans(self.bit_fans.table, self.bit_fans.count)

    def start_processes(self) -> None:
        """Give what has a value before time 0 its value, and make every process ready to begin."""
        if self.prepared.typed is not None:
            from mevrik.engine.typed.running import TypedRun

            self.typed = TypedRun(self.prepared.typed, self.layout, self.memory, self.base, self.lib)
            self.typed.open(len(self.frames))
            for number, joint in self.typed.joints():
                self.tables.join(number, joint)
            self.typed.start(self._natives[1], len(self.code.entries))
        layout = self.layout
        self._start_each(True)
        if any(process.region == "start" for _, process, _ in self.frames):
            self.lib.k_starts()
        self._start_samples()
        self._start_decays()
        self._start_cells()
        self._start_each(False)
        if layout.switches:
            self.lib.k_join_all()

    def _start_each(self, values: bool) -> None:
        """Tell the kernel of the processes: of those that give start values, or of all others."""
        for number, (instance, process, frame) in enumerate(self.frames):
            if process.cell is not None or (process.region == "start") is not values:
                continue
            static = process in self.code.static
            at_once = (
                not static or process.kind in ("assign", "link", "always_comb") or self._hears_of_start_values(instance, process)
            )
            start = 2 if process.kind == "final" else int(at_once)
            entry = self.code.process_entry[instance.unit, process]
            sense = (2 if process.kind in ("assign", "link") else 1) if static else 0
            sense |= REGIONS[process.region]
            self.lib.k_process(number, entry, frame, instance.table, sense, start)
            clock = clock_of(process)
            if clock is not None:
                slot = self.layout.slot(instance, clock.signal)
                if slot.width == 1 and slot.elements == 1 and not slot.forced:
                    self.lib.k_clock(number, slot.number, clock.site, clock.ticks)

    def _hears_of_start_values(self, instance: Instance, process: Process) -> bool:
        """Whether combinational logic waits for an input whose variable outside has a start value: the port is a net, which gets it at time 0
        (IEEE 1364-2005 6.1, 12.3.9.2)."""
        if process.kind != "always" or process.region or not process.sense or any(s.edge != "any" for s in process.sense):
            return False
        inputs = [
            s.expr.signal
            for s in process.sense
            if isinstance(s.expr, n.Ref) and s.expr.signal.port == "input" and s.expr.signal.kind == "net"
        ]
        if not any(s.init is not None and not s.fixed for signal in inputs for _, s in self.layout.slot(instance, signal).names):
            return False
        return all(isinstance(s, _COMPUTES) for s in walk.statements(process.body))

    # ---- use ----

    def run(self, until: int = FOREVER) -> int:
        """Advance to `until` (in ticks) or to the end; gives one of the abi.ENDED_ codes."""
        if self.typed is not None and self.typed.failed:
            return abi.ENDED_ERROR
        began = time.monotonic()
        with MemoryWatch(self._too_heavy):
            ended = int(self.lib.k_run(until))
        self._spent += time.monotonic() - began
        return ended

    def _too_heavy(self, limit: int) -> None:
        self.kernel.heavy = limit
        self.kernel.attention = 1

    def collect(self, after: int) -> None:
        """Give back the objects, lists and texts to which nothing leads, whenever the program has asked for so many bytes. The kernel
        gets the stretches of memory whose words may stand for some: offset and bytes of each (kernel/collect.c)."""
        areas: list[int] = []
        for slot in self.layout.slots:
            if isinstance(slot.signal.type, Vec) and slot.width >= HANDLE_WIDTH:
                areas += [slot.offset, slot.bytes * slot.planes * slot.elements]
        areas += [self.own, self.size - self.own]
        self._areas = (c.c_uint64 * len(areas))(*areas)
        self.lib.k_collect(self._areas, len(areas) // 2, after)

    def leave_code(self) -> None:
        """After the last run: better code is made for the next one if it would have paid."""
        if self._quick and self._spent > WORTH:
            from mevrik.engine.afterwards import leave

            leave(self._quick)

    def record(self, numbers: Iterable[int]) -> None:
        """Have the kernel keep every change of these signals; the blocks are taken with the library's record_next."""
        self.lib.record_open()
        chosen = set(numbers)
        for number in chosen:
            self.memory[number] = self.memory[number] | WATCH_RECORD
        if self.typed is not None:
            self.typed.watch(chosen)

    @property
    def now(self) -> int:
        return int(self.kernel.now)

    def slot(self, path: str) -> Slot:
        """The signal with a full hierarchical name. Raises KeyError."""
        for slot in self.layout.slots:
            for instance, signal in slot.names:
                if f"{instance.path}.{signal.name}" == path:
                    return slot
        raise KeyError(path)

    def peek(self, slot: Slot, element: int = 0) -> Logic:
        at = slot.offset + element * slot.bytes * slot.planes
        val = int.from_bytes(self.memory[at : at + slot.bytes], "little")
        unk = int.from_bytes(self.memory[at + slot.bytes : at + 2 * slot.bytes], "little") if slot.planes == 2 else 0
        return Logic(slot.width, val, unk)

    def poke(self, slot: Slot, value: Logic, element: int = 0) -> None:
        """Set a signal as an assignment would; what it wakes runs with the next `run`."""
        words = (slot.width + 63) // 64
        val = (c.c_uint64 * words)(*[value.val >> (64 * i) & FOREVER for i in range(words)])
        unk = (c.c_uint64 * words)(*[value.unk >> (64 * i) & FOREVER for i in range(words)])
        self.lib.k_poke(slot.number, element, val, unk)

    def request(self, name: str) -> None:
        """Ask the kernel from another thread: "cancel", "pause" or "flush"."""
        setattr(self.kernel, name, 1)
        self.kernel.attention = 1

    def last_sites(self, count: int = 8) -> list[int]:
        """The statements that wrote last, newest first, each once."""
        scheduler = abi.Scheduler.from_address(self.base + self.layout.scheduler)
        at = int(scheduler.ring_at)
        found: list[int] = []
        for k in range(min(at, 64)):
            site = int(scheduler.ring[(at - 1 - k) & 63])
            if site and site not in found:
                found.append(site)
        return found[:count]


def signal_width(signal: Signal) -> int:
    if isinstance(signal.type, Vec):
        return signal.type.width
    return 64 if isinstance(signal.type, Real) else 1
