"""The probe list: which signals are shown, in which order and radix, and which buses are spread into bits."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from mevrik.design.values import Logic, show
from mevrik.project.examine import Findings
from mevrik.waves.record import RunRecord, SignalInfo, Trace

RADICES = ("bin", "hex", "dec", "sdec", "oct", "text")
RADIX_WORDS = {"bin": "binary", "hex": "hexadecimal", "dec": "decimal", "sdec": "signed decimal", "oct": "octal", "text": "text"}


@dataclass(frozen=True, slots=True)
class Row:
    """One line of the desk: a signal, a part of it (the way leads there through the parts of the signal), one bit of either, or the
    measured channel below it."""

    path: str
    bit: int = -1
    radix: str = ""
    open: bool = False
    measured: bool = False
    way: tuple[int, ...] = ()

    @property
    def depth(self) -> int:
        """How many lines it lies inside of."""
        return len(self.way) + (self.bit >= 0 or self.measured)

    def info(self, record: RunRecord) -> SignalInfo:
        """What the record says of the signal, or of the part as if it were one."""
        return record.info(self.path).part(self.way)[0]

    def opens(self, info: SignalInfo) -> bool:
        """Whether there is something inside of it to be shown."""
        return info.width > 1 and self.bit < 0 and not self.measured and info.kind not in ("real", "event")

    def label(self, whole: SignalInfo) -> str:
        """`whole` is what is known of the signal."""
        info, _ = whole.part(self.way)
        if self.measured:
            return "measured"
        if self.bit >= 0:
            step = 1 if info.msb >= info.lsb else -1
            return f"[{info.lsb + step * self.bit}]"
        name = whole.part(self.way[:-1])[0].parts[self.way[-1]].name if self.way else self.path.rsplit(".", 1)[-1]
        return name if info.width == 1 or info.parts or info.kind in ("real", "event") else f"{name}[{info.msb}:{info.lsb}]"


LEVELS = "01zxUWLH-"  # of a single bit, by its code


@dataclass(slots=True)
class Shape:
    """What is drawn for a row: the times at which stretches begin and the two planes of each stretch.

    `codes` for a single bit: places in LEVELS. For buses the texts are made when needed, from the bits of `trace` from `low` on.
    """

    times: NDArray[np.float64]
    codes: NDArray[np.uint8] | None
    trace: Trace | None
    entries: NDArray[np.int64]
    values: list[Logic] = field(default_factory=list)
    last: float = np.inf  # nothing is known from here on
    low: int = 0

    def _value(self, index: int, width: int) -> Logic:
        if self.trace is None:
            return self.values[index]
        value = self.trace.logic(int(self.entries[index]))
        if width == value.width:
            return value
        mask = (1 << width) - 1
        return Logic(width, value.val >> self.low & mask, value.unk >> self.low & mask)

    def text(self, index: int, row: Row, info: SignalInfo) -> str:
        if self.trace is not None and info.kind == "real":
            return f"{self.trace.real(int(self.entries[index])):g}"
        value = self._value(index, info.width)
        if info.labels and not value.unk and value.val in info.labels:
            return info.labels[value.val]
        return show(value, row.radix or default_radix(info), info.signed)

    def unknown(self, index: int, width: int) -> str:
        """ "x", "z", "u" or "-" if the whole value is that, "some" if a part is, else ""."""
        value = self._value(index, width)
        if not value.unk:
            return ""
        ones = (1 << value.width) - 1
        if value.nine and set(value.nine) in ({"U"}, {"-"}):
            return value.nine[0].lower()
        if value.unk == ones and value.val == 0:
            return "z"
        return "x" if value.unk == ones and value.val == ones else "some"


def default_radix(info: SignalInfo) -> str:
    if info.kind == "real":
        return "real"
    if info.signed:
        return "sdec"
    return "bin" if info.width <= 4 else "hex"


def shape_of(record: RunRecord, row: Row, start: int, end: int) -> Shape:
    """The stretches of a row that touch [start, end] ticks."""
    trace = record.trace(row.path, max(start, 0), max(end, 0))
    settled = trace.settled
    times = trace.times[settled].astype(float)
    info, low = trace.info.part(row.way)
    if info.kind == "event":
        return Shape(trace.times[1:].astype(float), None, None, np.zeros(0, np.int64))
    if info.kind == "real" or (info.width > 1 and row.bit < 0 and not row.way):
        return Shape(times, None, trace, settled)
    if info.width > 1 and row.bit < 0:
        keep = trace.changes_within(low, info.width, settled)
        return Shape(times[keep], None, trace, settled[keep], low=low)
    codes = trace.bit_codes(low + max(row.bit, 0), settled)
    keep = np.append(True, codes[1:] != codes[:-1]) if len(codes) else np.zeros(0, bool)
    return Shape(times[keep], codes[keep], None, settled[keep])


def measured_shape(
    findings: Findings, row: Row, samples: NDArray[np.uint64], stamps: NDArray[np.float64], info: SignalInfo
) -> Shape:
    """A channel of the capture at the offset that was found; `stamps` in ticks of the run."""
    keep = np.append(True, samples[1:] != samples[:-1])
    times = stamps[keep]
    values = samples[keep]
    if info.width == 1:
        return Shape(times, values.astype(np.uint8), None, np.flatnonzero(keep), last=float(stamps[-1]))
    listed = [Logic(info.width, int(v)) for v in values]
    return Shape(times, None, None, np.flatnonzero(keep), listed, last=float(stamps[-1]))


def first_rows(record: RunRecord, findings: Findings) -> list[Row]:
    """The rows to begin with: inputs, outputs, each with its measured channel, then what is inside."""
    scope = next((s for s in record.scopes.values() if s.path == findings.scope), None) or next(iter(record.scopes.values()), None)
    if scope is None:
        return []
    # an entity behind its ports as a module sees them: inside there is more to see
    scope = next((s for s in record.scopes.values() if s.parent == scope.number and s.module == scope.module), scope)
    names = [n for n in record.in_scope(scope.number) if record.signals[n.signal].recorded and not n.name.startswith("_")]
    names = [n for n in names if ".force" not in n.name and ".assign" not in n.name]
    order = {"input": 0, "inout": 1, "output": 2, "": 3}
    names.sort(key=lambda n: order.get(n.port, 3))
    measured = set(findings.matched.values())
    rows: list[Row] = []
    for n in names:
        rows.append(Row(n.path))
        if n.name in measured and n.port:
            rows.append(Row(n.path, measured=True))
    return rows


def toggled(rows: list[Row], index: int, record: RunRecord) -> list[Row]:
    """Spread a signal into its parts, or its bits, or fold it again."""
    row = rows[index]
    info = row.info(record)
    if not row.opens(info):
        return rows
    if row.open:
        return [*rows[:index], replace(row, open=False), *rows[block_end(rows, index) :]]
    if info.parts:
        inside = [Row(row.path, way=(*row.way, k)) for k in range(len(info.parts))]
    else:
        inside = [Row(row.path, bit, way=row.way) for bit in range(info.width - 1, -1, -1)]
    return [*rows[:index], replace(row, open=True), *inside, *rows[index + 1 :]]


def still_there(row: Row, record: RunRecord) -> bool:
    """Whether a row of an earlier run names something of this one."""
    if row.path not in record.names:
        return False
    try:
        return row.bit < row.info(record).width
    except IndexError:
        return False


def block_end(rows: list[Row], index: int) -> int:
    """Where the rows end that lie inside of one."""
    row, end = rows[index], index + 1
    while end < len(rows) and rows[end].path == row.path and rows[end].depth > row.depth and not rows[end].measured:
        end += 1
    return end
