"""Extended value change dumps that a program asks for: which ports, and what drives each of their bits (IEEE 1364-2005 18.3, 18.4)."""

from __future__ import annotations

import ctypes as c
from collections.abc import Iterator
from typing import TYPE_CHECKING

from mevrik.design.types import Vec
from mevrik.design.unit import Process, Signal
from mevrik.engine import abi
from mevrik.engine.layout import Instance, Slot
from mevrik.waves.vcd import timescale

if TYPE_CHECKING:
    from mevrik.engine.simulation import Simulation

_STRONG = 6
_DRIVER, _SIGNAL = 0, 1  # of Source in dump_ports.c
Bit = tuple[Slot, int]
Source = tuple[int, int, int, int]


class PortDumps:
    """Hears $dumpports, and opens the files when the moment has ended."""

    def __init__(self, simulation: Simulation) -> None:
        self.simulation, self.layout = simulation, simulation.layout
        self.chosen: dict[str, list[Instance]] = {}
        self.wires: dict[Bit, list[Bit]] = {}
        for a, a_bit, b, b_bit, _, _, switch in self.layout.switches:
            if switch.wire:
                self.wires.setdefault((a, a_bit), []).append((b, b_bit))
                self.wires.setdefault((b, b_bit), []).append((a, a_bit))
        self._sink = abi.DUMP_SINK(self._hear)
        simulation.lib.k_ports_sink(self._sink)

    def _hear(self, instance: int, request: bytes) -> None:
        if not request:
            for file, chosen in self.chosen.items():
                self._open(file, chosen)
            return
        file, *paths = request.decode("utf-8", "replace").split("\n")
        here = self.layout.instances[instance]
        self.chosen[file] = [self.layout.walk(here, tuple(s for s in path.split("|") if s)) for path in paths]

    def _open(self, file: str, chosen: list[Instance]) -> None:
        header = ["$version", "  Mevrik", "$end", "$timescale", f"  {timescale(self.simulation.prepared.design.tick_exp)}", "$end"]
        rows: list[int] = []
        ports = bits = sources = 0
        for instance in dict.fromkeys(chosen):
            header.append(f"$scope module {instance.path} $end")
            for port in instance.unit.ports:
                if not isinstance(port.type, Vec) or port.dims:
                    continue
                slot = self.layout.slot(instance, port)
                size = f"[{port.left}:{port.right}]" if port.ranged else "1"
                header.append(f"$var port {size} <{ports} {port.name} $end")
                rows += [slot.width, ord({"input": "i", "output": "o"}.get(port.port, "b"))]
                for bit in reversed(range(slot.width)):
                    inside, outside = self._sources(instance, port, slot, bit)
                    rows += [slot.number, bit, len(inside), len(outside), *(x for source in (*inside, *outside) for x in source)]
                    sources += len(inside) + len(outside)
                ports, bits = ports + 1, bits + slot.width
            header.append("$upscope $end")
        header.append("$enddefinitions $end\n")
        table = (c.c_uint32 * (len(rows) + 1))(*rows)
        self.simulation.lib.k_ports_open(file.encode(), "\n".join(header).encode(), table, ports, bits, sources)

    def _sources(self, instance: Instance, port: Signal, slot: Slot, bit: int) -> tuple[list[Source], list[Source]]:
        """What drives a bit of a port inside of its module and outside."""
        inside: list[Source] = []
        outside: list[Source] = []
        for at, low in self._joined((slot, bit)):
            for where, source in self._drivers(at, low):
                (inside if _below(where, instance) else outside).append(source)
        for at, link in self._beyond(instance, port, slot):
            outside += [source for where, source in self._drivers(at, bit, link) if not _below(where, instance)]
        return inside, outside

    def _joined(self, start: Bit) -> list[Bit]:
        found = [start]
        for bit in found:
            found += [other for other in self.wires.get(bit, ()) if other not in found]
        return found

    def _drivers(self, slot: Slot, bit: int, but: Process | None = None) -> Iterator[tuple[Instance, Source]]:
        """Where each thing stands that drives a bit, with what it is."""
        if slot.is_variable and not slot.drivers:
            holder = next(i for i, s in slot.names if s.kind == "var")
            yield holder, (_SIGNAL, slot.number, bit, _STRONG)
        for d in slot.drivers:
            if d.process is but or (d.low >= 0 and not d.low <= bit < d.low + d.width):
                continue
            if d.number < 0 or d.low < 0:
                yield d.instance, (_SIGNAL, slot.number, bit, max(d.strength))
            else:
                yield d.instance, (_DRIVER, d.number, bit - d.low, 0)

    def _beyond(self, instance: Instance, port: Signal, slot: Slot) -> Iterator[tuple[Slot, Process]]:
        """The nets outside to which an output that is a variable is passed on, and what does that."""
        for around, process in self.layout.active:
            if process.kind == "link" and around is instance.parent and process.link is not None:
                ends = [self.layout.slot(around, s) for s in process.link]
                if slot in ends and port.port != "input":
                    yield from ((e, process) for e in ends if e is not slot)


def _below(here: Instance | None, top: Instance) -> bool:
    while here is not None and here is not top:
        here = here.parent
    return here is top
