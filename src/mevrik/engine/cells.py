"""The gates that the kernel evaluates by itself (kernel/cell.c): their tables, packed."""

from __future__ import annotations

import ctypes as c
from struct import Struct
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.engine import abi

if TYPE_CHECKING:
    from mevrik.design.unit import Cell, Process
    from mevrik.engine.layout import DriverSlot, Instance, Layout

KINDS = {k: i for i, k in enumerate("and nand or nor xor xnor buf not bufif0 bufif1 notif0 notif1 nmos pmos".split())}
_INPUT = Struct("<IBBBx")  # byte of the value plane, shift in it, bytes to the unknown plane, whether there is none
_HEAD = Struct("<IIIBBBxIIII")  # driver, site, first input in the table of many, kind, count, delayed; ticks to 0, 1, z, x
CELL_BYTES = 64
INSIDE = 4  # inputs that stand in the cell itself


class CellTables:
    """The cells of a design, numbered in a row as its processes are; it keeps the memory that the kernel reads."""

    def __init__(self, layout: Layout, cells: list[tuple[Instance, Process]], drivers: list[DriverSlot]) -> None:
        driver_of = {(d.instance.number, d.process): d.number for d in drivers}
        rows: list[bytes] = []
        many: list[bytes] = []
        for instance, process in cells:
            drive = process.body[0]
            assert isinstance(drive, n.Drive) and process.cell is not None
            inputs = _inputs(layout, instance, process.cell)
            first = len(many)
            if len(inputs) > INSIDE:
                many += inputs
                inputs = []
            head = _HEAD.pack(
                driver_of[instance.number, process], drive.site, first,
                KINDS[process.cell.kind], len(process.cell.inputs), bool(drive.delays), *_ticks(drive),
            )  # fmt: skip
            rows.append(b"".join((head, *inputs)).ljust(CELL_BYTES, b"\0"))
        self._lines = abi.Lines(CELL_BYTES, len(rows))
        self._lines.fill(rows)
        self.cells = self._lines.address
        self.more = c.create_string_buffer(b"".join(many))


def _inputs(layout: Layout, instance: Instance, cell: Cell) -> list[bytes]:
    found: list[bytes] = []
    for signal, bit in cell.inputs:
        if signal is None:
            found.append(_INPUT.pack(layout.levels + 2 * bit, 0, 1, 0))
            continue
        slot = layout.slot(instance, signal)
        two = slot.planes == 1
        found.append(_INPUT.pack(slot.offset + bit // 8, bit % 8, 0 if two else slot.bytes, two))
    return found


def _ticks(drive: n.Drive) -> tuple[int, int, int, int]:
    """To 0, 1, z and x (IEEE 1364-2005 7.14): to x the least of all."""
    delays = [d.val for d in drive.delays if isinstance(d, n.Const)]
    rise = delays[0] if delays else 0
    fall = delays[1] if len(delays) > 1 else rise
    off = delays[2] if len(delays) > 2 else min(rise, fall)
    return fall, rise, off, min(rise, fall, off)


class BitFans:
    """Which gates wait for which bit of a vector."""

    def __init__(self, layout: Layout) -> None:
        fans = [(s.number, bit, proc) for s in layout.slots if s.width > 1 for bit, proc in sorted(s.cells)]
        self.count = len(fans)
        self.table = (abi.BitFan * max(len(fans), 1))(*[abi.BitFan(*f) for f in fans])
