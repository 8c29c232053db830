"""Who may write a variable (IEEE 1800-2017 6.5, 9.2.2, 10.3.2): one continuous assignment and nothing beside it, or procedures; and what
always_comb, always_latch and always_ff write, nothing else. These are errors."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.record import Frozen
from mevrik.design.types import width_of
from mevrik.design.unit import Process, Signal, Unit
from mevrik.lang.findings.base import Looker, allowed


class _Writer(Frozen, frozen=True):
    """A process that writes the bits from `low` up to `high`; the elements of an array are counted as one long vector."""

    process: Process
    low: int
    high: int
    site: int

    @property
    def continuous(self) -> bool:
        return self.process.kind in ("assign", "link")


class VariableFindings(Looker):
    def look(self, unit: Unit) -> None:
        writers: dict[Signal, list[_Writer]] = {}
        own = set(unit.signals)
        for process in unit.processes:
            if process.hidden or process.kind == "join":
                continue
            for s in self.bodies.of(process).statements:
                if not isinstance(s, (n.Assign, n.Schedule, n.Drive)):
                    continue
                for place in s.target:
                    signal = place.signal
                    if signal in own and signal.kind == "var" and not signal.implicit and signal.via is None:
                        site = 0 if isinstance(s, n.Drive) and process.kind == "link" else s.site
                        writers.setdefault(signal, []).append(_Writer(process, *_extent(signal, place), site))
        for signal, found in writers.items():
            if any(w.continuous or w.process.strict for w in found):
                self._judge(signal, found)

    def _pos(self, writer: _Writer) -> int:
        return self.pos(writer.site) or writer.process.pos

    def _judge(self, signal: Signal, writers: list[_Writer]) -> None:
        """Report the first pair of writers that may not both be."""
        for k, later in enumerate(writers):
            for earlier in writers[:k]:
                if earlier.process is later.process or earlier.low >= later.high or later.low >= earlier.high:
                    continue
                at = self._pos(later)
                message = _quarrel(signal.name, earlier, later, self.line(self._pos(earlier)), self.line(at))
                if message and not allowed(self.diagnostics.sources.place(at), "variable-writers"):
                    self.diagnostics.error(at, message, "variable-writers")
                    return


def _quarrel(name: str, a: _Writer, b: _Writer, line_a: int, line_b: int) -> str:
    """What is wrong with both writing the same bits; "" if nothing is. The message stands at `b`."""
    if a.continuous and b.continuous:
        return f"'{name}' has a continuous driver already, in line {line_a}: a variable takes only one (IEEE 1800-2017 10.3.2)"
    if a.continuous or b.continuous:
        kind, line = ("continuous assignment", line_a) if a.continuous else ("procedure", line_a)
        what = "a procedure" if a.continuous else "a continuous assignment"
        return f"'{name}' is also written by the {kind} of line {line}: {what} can't write it as well (IEEE 1800-2017 6.5)"
    if a.process.strict:
        return f"'{name}' is written by the {a.process.strict} of line {line_a}: nothing else may write it (IEEE 1800-2017 9.2.2)"
    if b.process.strict:
        return f"'{name}' is also written in line {line_a}: nothing else may write what {b.process.strict} writes (IEEE 1800-2017 9.2.2)"
    return ""


def _extent(signal: Signal, place: n.LRef) -> tuple[int, int]:
    """The bits that a place stands for; all of the signal if they are only known while the design runs."""
    width = width_of(signal.type)
    everything = 0, width * signal.elements
    if place.element is None:
        if signal.elements > 1:
            return everything
        low = 0
    elif place.element.terms:
        return everything
    else:
        low = place.element.const * width
    if place.bits is None:
        return low, low + (place.width if place.element is not None else width)
    if place.bits.terms:
        return low, low + width
    return low + place.bits.const, low + place.bits.const + place.width
