"""Value change dumps that a program asks for: which signals, under which names (IEEE 1364-2005 18.1 and 18.2)."""

from __future__ import annotations

import ctypes as c
from typing import TYPE_CHECKING

from mevrik.design.types import EventType, List, Real, Text
from mevrik.design.unit import Signal
from mevrik.engine import abi
from mevrik.engine.layout import Instance, Slot
from mevrik.engine.outline import is_hidden
from mevrik.waves.vcd import code, timescale

if TYPE_CHECKING:
    from mevrik.engine.simulation import Simulation

_ASKED = 5  # dump.c opens the file when the moment ends


class Dump:
    """Hears $dumpfile and $dumpvars, and opens the file when the moment has ended."""

    def __init__(self, simulation: Simulation) -> None:
        self.simulation = simulation
        self.path = "dump.vcd"
        self.chosen: list[tuple[Instance, Signal]] = []
        self.opened = False
        self._sink = abi.DUMP_SINK(self._hear)
        simulation.lib.k_dump_sink(self._sink)

    def _hear(self, instance: int, request: bytes) -> None:
        word, *rest = request.decode("utf-8", "replace").split("\n")
        if word == "file":
            self.path = rest[0]
        elif word == "open":
            self._open()
        elif not self.opened:
            self._choose(self.simulation.layout.instances[instance], int(rest[0]), rest[1:])
            self.simulation.lib.k_dump_switch(_ASKED)

    def _choose(self, here: Instance, levels: int, paths: list[str]) -> None:
        if not paths:
            top = here
            while top.parent is not None:
                top = top.parent
            self._scope(top, "", levels or 1 << 30)
        for path in paths:
            *steps, last = path.split("|")
            at = self.simulation.layout.walk(here, tuple(steps))
            if last == "^":
                self._scope(at.parent or at, "", levels or 1 << 30)
            elif last in at.children:
                self._scope(at.children[last], "", levels or 1 << 30)
            else:
                own = [s for s in at.unit.signals if s.name == last]
                self.chosen += [(at, s) for s in own]
                if not own:
                    self._scope(at, last + "." if last else "", levels or 1 << 30)

    def _scope(self, instance: Instance, prefix: str, levels: int) -> None:
        for signal in instance.unit.signals:
            if signal.name.startswith(prefix) and signal.name[len(prefix) :].count(".") < levels and not is_hidden(signal):
                self.chosen.append((instance, signal))
        if levels > 1:
            for name, child in instance.children.items():
                if name.startswith(prefix):
                    self._scope(child, "", levels - 1)

    def _open(self) -> None:
        self.opened = True
        layout = self.simulation.layout
        by_instance: dict[Instance, list[Signal]] = {}
        slots: dict[int, Slot] = {}
        for instance, signal in self.chosen:
            slot = layout.slot(instance, signal)
            if signal.leaf is not None:  # inside of an entity: its nine values are in the record alone
                continue
            if signal.dims or isinstance(signal.type, (EventType, Text, List)) or signal in by_instance.get(instance, []):
                continue
            by_instance.setdefault(instance, []).append(signal)
            slots[slot.number] = slot
        codes = {number: code(k) for k, number in enumerate(slots)}
        header = _header(self.simulation, by_instance, codes)
        count = len(slots)
        sigs = (c.c_uint32 * max(count, 1))(*slots)
        real = (c.c_uint8 * max(count, 1))(*[isinstance(s.signal.type, Real) for s in slots.values()])
        texts = b"".join(text.encode().ljust(8, b"\0") for text in codes.values())
        self.simulation.lib.k_dump_open(self.path.encode(), header.encode(), sigs, real, texts, count)


def _header(simulation: Simulation, by_instance: dict[Instance, list[Signal]], codes: dict[int, str]) -> str:
    lines = ["$version", "  Mevrik", "$end", "$timescale", f"  {timescale(simulation.prepared.design.tick_exp)}", "$end"]
    needed: set[Instance] = set()
    for instance in by_instance:
        up: Instance | None = instance
        while up is not None:
            needed.add(up)
            up = up.parent

    def put(name: str, instance: Instance) -> None:
        *around, own = name.split(".")  # blocks of a generate construct
        lines.extend(f"$scope begin {block} $end" for block in around)
        lines.append(f"$scope module {own} $end")
        blocks: dict[str, list[Signal]] = {}
        for signal in by_instance.get(instance, []):
            blocks.setdefault(signal.name.rpartition(".")[0], []).append(signal)
        for block, signals in blocks.items():
            inner = block.split(".") if block else []
            lines.extend(f"$scope begin {name} $end" for name in inner)
            lines.extend(_variable(simulation, instance, s, codes) for s in signals)
            lines.extend("$upscope $end" for _ in inner)
        for child_name, child in instance.children.items():
            if child in needed:
                put(child_name, child)
        lines.extend("$upscope $end" for _ in (own, *around))

    for name, root in simulation.layout.roots.items():
        if root in needed:
            put(name, root)
    lines.append("$enddefinitions $end")
    return "\n".join(lines) + "\n"


def _variable(simulation: Simulation, instance: Instance, signal: Signal, codes: dict[int, str]) -> str:
    slot = simulation.layout.slot(instance, signal)
    kind = "real" if isinstance(signal.type, Real) else signal.net or "wire" if signal.kind == "net" else "reg"
    bounds = f" [{signal.left}:{signal.right}]" if signal.ranged and kind != "real" else ""
    return f"$var {kind} {slot.width} {codes[slot.number]} {signal.name.rpartition('.')[2]}{bounds} $end"
