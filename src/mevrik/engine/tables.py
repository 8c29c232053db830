"""What the kernel reads of signals, what waits for them and their drivers (Sig, Fan and Driver of kernel/kernel.h), packed."""

from __future__ import annotations

import ctypes as c
from mmap import mmap
from struct import Struct
from typing import TYPE_CHECKING

from mevrik.engine import abi
from mevrik.engine.layout import plane_bytes

if TYPE_CHECKING:
    from mevrik.engine.layout import DriverSlot, Layout, Slot

WATCH_FAN = 1  # of a watch byte: processes wait for the signal
_SIG = Struct("<Q10I")
_FAN = Struct("<II")
_DRIVER = Struct("<4I4B3IQ3I4BQ")
_AT_ONCE = (1, 1, 0, 0)  # the planes of a driver of one bit before it has driven: x, and nothing to come


class SignalTables:
    """Also fills the watch bytes and the planes of wide drivers in the memory block. `base` is the address of that block."""

    def __init__(self, layout: Layout, memory: mmap, base: int) -> None:
        self._memory, self._base = memory, base
        self._driver_lines = abi.Lines(_DRIVER.size, sum(len(s.drivers) for s in layout.slots if layout.resolved(s)))
        sigs: list[bytes] = []
        self._fans: list[bytes] = []
        self._drivers: list[bytes] = []
        for slot in layout.slots:
            first = len(self._fans)
            self._fans += [_FAN.pack(proc, edge) for proc, edge in slot.fans]
            if slot.width == 1:
                self._fans += [_FAN.pack(proc, 0) for _, proc in slot.cells]
            fans = len(self._fans) - first
            if fans:
                memory[slot.number] |= WATCH_FAN
            count = len(slot.drivers) if layout.resolved(slot) else 0
            sigs.append(
                _SIG.pack(
                    slot.offset, slot.width, slot.bytes, slot.planes, slot.elements, first, fans, slot.flags, slot.net,
                    len(self._drivers), count,
                )
            )  # fmt: skip
            if count:
                self._pack_drivers(layout, slot, first, fans)
        self.sigs = c.create_string_buffer(b"".join(sigs))
        self.fans = c.create_string_buffer(b"".join(self._fans))
        self._driver_lines.fill(self._drivers)
        self.drivers = self._driver_lines.address

    def _pack_drivers(self, layout: Layout, slot: Slot, first: int, fans: int) -> None:
        alone = layout.alone(slot)
        plain = slot.width == slot.elements == 1 and slot.planes == 2 and slot.offset < 1 << 32 and not slot.forced
        for d in slot.drivers:
            one = d.width == 1
            offset = self._own_planes(len(self._drivers)) if one else d.offset
            if not one:
                self._unknown(d)
            self._drivers.append(
                _DRIVER.pack(
                    slot.number, max(d.low, 0), d.width, 0, *d.strength, d in alone, one and d in alone and plain,
                    plane_bytes(d.width), 0, 0, offset, slot.offset & 0xFFFFFFFF, first, fans, *_AT_ONCE, 0,
                )
            )  # fmt: skip

    def _own_planes(self, number: int) -> int:
        """Where the planes that a driver of one bit has in its record lie, as seen from the memory block."""
        return (self._driver_lines.address + number * _DRIVER.size + abi.Driver.planes.offset - self._base) % (1 << 64)

    def _unknown(self, driver: DriverSlot) -> None:
        each = plane_bytes(driver.width)
        self._memory[driver.offset : driver.offset + 2 * each] = ((1 << driver.width) - 1).to_bytes(each, "little") * 2

    def join(self, number: int, joint: int) -> None:
        """Note what brings the driver to the other side of a port between the languages."""
        abi.Driver.from_address(self.drivers + number * _DRIVER.size).joint = joint
