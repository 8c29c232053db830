"""Reading a run record: signals, scopes, traces, sites. Safe while another process still writes it."""

from __future__ import annotations

import json
import sqlite3
from bisect import bisect_right
from collections import OrderedDict
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
import zstandard
from numpy.typing import NDArray

from mevrik.design.values import Logic
from mevrik.waves.schema import VERSION

U64 = NDArray[np.uint64]
_BLOCKS_KEPT = 256


class RecordError(Exception):
    """A file that is no run record, or a name that is not in it."""


@dataclass(frozen=True, slots=True)
class PartInfo:
    """A member of a structure or an element of an array: `width` bits of the signal from bit `low` on."""

    name: str
    low: int
    width: int
    signed: bool
    lsb: int
    msb: int
    labels: dict[int, str]
    parts: tuple[PartInfo, ...]


@dataclass(frozen=True, slots=True)
class SignalInfo:
    """One recorded signal. `kind`: net, var, real, event. `msb`/`lsb` are the declared range, `size` the bytes of one plane, `parts`
    what a structure or an array of vectors is made of."""

    number: int
    width: int
    size: int
    planes: int
    elements: int
    signed: bool
    kind: str
    lsb: int
    msb: int
    labels: dict[int, str]
    initial: bytes
    recorded: bool
    parts: tuple[PartInfo, ...] = ()

    def part(self, way: tuple[int, ...]) -> tuple[SignalInfo, int]:
        """A part as if it were a signal, and its lowest bit; `way` leads to it, an index into `parts` after the other."""
        info, low = self, 0
        for k in way:
            p = info.parts[k]
            low += p.low
            info = replace(info, width=p.width, signed=p.signed, lsb=p.lsb, msb=p.msb, labels=p.labels, parts=p.parts)
        return info, low


@dataclass(frozen=True, slots=True)
class NameInfo:
    """A name of a signal in a scope: a signal that passes through ports has several."""

    path: str
    scope: int
    name: str
    signal: int
    port: str
    file: str
    line: int


@dataclass(frozen=True, slots=True)
class ScopeInfo:
    """An instance: the module and unit it is of, where that is declared and where it is instantiated."""

    number: int
    path: str
    parent: int
    unit: str
    module: str
    file: str
    line: int
    from_file: str
    from_line: int


@dataclass(frozen=True, slots=True)
class SiteInfo:
    """A statement: where it stands, its text, and the module it belongs to."""

    number: int
    file: str
    line: int
    column: int
    text: str
    process: str
    unit: str
    kind: str


@dataclass(frozen=True, slots=True)
class Watch:
    """A process that an event of some bits of a signal wakes wherever it is: `edge` is any, posedge, negedge or edge. `text` is the line
    on which the process begins."""

    unit: str
    name: str
    edge: str
    low: int
    width: int
    file: str
    line: int
    text: str


@dataclass(frozen=True, slots=True)
class BlockInfo:
    """A stretch of changes of one signal that has not been unpacked."""

    row: int
    first: int
    last: int
    count: int
    unknown: bool


NINE_CODES = np.array([4, 3, 0, 1, 2, 5, 6, 7, 8, 3, 3, 3, 3, 3, 3, 3], np.uint8)  # of U X 0 1 Z W L H -


@dataclass
class Trace:
    """Changes of one signal in time order; entry 0 is the value at the start. Values as raw plane bytes a row."""

    info: SignalInfo
    times: U64
    deltas: NDArray[np.uint32]
    sites: NDArray[np.uint32]
    values: NDArray[np.uint8]

    def __len__(self) -> int:
        return len(self.times)

    def logic(self, index: int) -> Logic:
        row = self.values[index].tobytes()
        size = self.info.size
        if self.info.planes == 4:
            return Logic.of_nine(self.info.width, [int.from_bytes(row[k * size : (k + 1) * size], "little") for k in range(4)])
        unk = int.from_bytes(row[size:], "little") if self.info.planes > 1 else 0
        return Logic(self.info.width, int.from_bytes(row[:size], "little"), unk)

    def real(self, index: int) -> float:
        return float(self.values[index][:8].copy().view(np.float64)[0])

    def index_at(self, time: int) -> int:
        """The entry that holds at the end of the moment `time`."""
        return int(np.searchsorted(self.times, np.uint64(time), side="right")) - 1

    def at(self, time: int) -> Logic:
        return self.logic(max(self.index_at(time), 0))

    @cached_property
    def settled(self) -> NDArray[np.int64]:
        """The entries that are the last of their moment: what is left when glitches inside a moment are dropped."""
        if not len(self.times):
            return np.zeros(0, np.int64)
        last = np.append(self.times[1:] != self.times[:-1], True)
        return np.flatnonzero(last)

    def plane(self, which: int) -> U64:
        """Plane 0 (value) or 1 (unknown) of signals up to 64 bits, as one number an entry; nine values as four (`Logic.of_nine`)."""
        if self.info.size > 8:
            raise ValueError(f"the signal is {self.info.width} bits wide")
        if self.info.planes == 4:
            p0, p1, p2, p3 = (self.stored_plane(k) for k in range(4))
            unknown = ~p1 & np.uint64((1 << self.info.width) - 1)
            return unknown if which else (p0 & p1) | (unknown & ~(p2 & ~p0 & ~p3))
        if which and self.info.planes < 2:
            return np.zeros(len(self.times), np.uint64)
        return self.stored_plane(which)

    def stored_plane(self, which: int) -> U64:
        """A plane as it is stored, of signals up to 64 bits."""
        size = self.info.size
        part = np.ascontiguousarray(self.values[:, size * which : size * (which + 1)])
        return part.view(f"<u{size}").reshape(-1).astype(np.uint64)

    def changes_within(self, low: int, width: int, entries: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Which of the entries leave some of the bits from `low` on other than the one before."""
        size = self.info.size
        first, last = low // 8, (low + width + 7) // 8
        changed = np.zeros(len(entries), bool)
        changed[:1] = True
        for k in range(self.info.planes):
            held = self.values[entries, k * size + first : k * size + last]
            bits = np.unpackbits(held, axis=1, bitorder="little")[:, low - 8 * first : low - 8 * first + width]
            changed[1:] |= (bits[1:] != bits[:-1]).any(axis=1)
        return changed

    def bit_codes(self, bit: int, entries: NDArray[np.int64]) -> NDArray[np.uint8]:
        """What one bit is: 0, 1, 2 for z, 3 for x; of the nine values also 4 to 8 for U W L H -."""
        size = self.info.size
        planes = [(self.values[entries, k * size + bit // 8] >> (bit % 8)) & 1 for k in range(self.info.planes)]
        if self.info.planes < 4:
            codes = planes[0] + 2 * planes[1] if self.info.planes > 1 else planes[0]
        else:
            codes = NINE_CODES[planes[0] + 2 * planes[1] + 4 * planes[2] + 8 * planes[3]]
        return np.asarray(codes, np.uint8)


def columns(
    raw: bytes, first: int, count: int, info: SignalInfo
) -> tuple[U64, NDArray[np.uint32], NDArray[np.uint32], NDArray[np.uint8]]:
    """Times, deltas, sites and values of a block, from the bytes that waves/schema.py describes."""
    at = 8
    numbers: list[NDArray[Any]] = []
    for width, kind in zip(raw[:3], (np.uint64, np.uint32, np.uint32), strict=True):
        if width:
            numbers.append(np.frombuffer(raw, f"<u{width}", count, at).astype(kind))
            at += width * count
        else:
            numbers.append(np.full(count, int.from_bytes(raw[at : at + 8], "little"), kind))
            at += 8
    steps, deltas, sites = numbers
    steps[0] = first
    values = np.zeros((count, info.size * info.planes), np.uint8)
    for plane in range(info.planes):
        part = values[:, plane * info.size : (plane + 1) * info.size]
        if raw[4 + plane] == 1:
            part[:] = np.frombuffer(((1 << info.width) - 1).to_bytes(info.size, "little"), np.uint8)
        elif raw[4 + plane] == 2:
            part[:] = np.frombuffer(raw, np.uint8, count * info.size, at).reshape(count, info.size)
            at += count * info.size
    return np.cumsum(steps, dtype=np.uint64), deltas, sites, values


def _signal(row: tuple[Any, ...]) -> SignalInfo:
    number, width, size, planes, elements, signed, kind, lsb, msb, labels, parts, initial, recorded = row
    named, inside = _labels(json.loads(labels or "{}")), _parts(json.loads(parts or "[]"))
    return SignalInfo(number, width, size, planes, elements, bool(signed), kind, lsb, msb, named, initial, bool(recorded), inside)


def _labels(given: dict[str, str]) -> dict[int, str]:
    return {int(k): v for k, v in given.items()}


def _parts(given: list[Any]) -> tuple[PartInfo, ...]:
    return tuple(
        PartInfo(name, low, width, bool(signed), lsb, msb, _labels(labels), _parts(parts))
        for name, low, width, signed, lsb, msb, labels, parts in given
    )


class RunRecord:
    """An open run record."""

    def __init__(self, path: Path) -> None:
        if not path.is_file():
            raise RecordError(f"{path}: there is no such run record; run the design first")
        self.path = path
        try:
            self.db = sqlite3.connect(f"file:{path}?mode=ro", uri=True, check_same_thread=False)
            if self.db.execute("PRAGMA user_version").fetchone()[0] != VERSION:
                raise RecordError(f"{path}: was written by another version of Mevrik; run the design again")
            self._read_tables()
        except sqlite3.DatabaseError as error:
            raise RecordError(f"{path}: is no run record ({error})") from None
        self._unpacker = zstandard.ZstdDecompressor()
        self._cache: OrderedDict[int, tuple[U64, NDArray[np.uint32], NDArray[np.uint32], NDArray[np.uint8]]] = OrderedDict()

    def _read_tables(self) -> None:
        db = self.db
        self.signals = {r[0]: _signal(r) for r in db.execute("SELECT * FROM signals")}
        self.names = {r[0]: NameInfo(*r) for r in db.execute("SELECT * FROM names ORDER BY rowid")}
        self.scopes = {r[0]: ScopeInfo(*r) for r in db.execute("SELECT * FROM scopes ORDER BY id")}

    def close(self) -> None:
        self.db.close()

    # ---- facts ----

    def meta(self, key: str, default: object = None) -> object:
        row = self.db.execute("SELECT value FROM meta WHERE key = ?", (key,)).fetchone()
        return json.loads(row[0]) if row else default

    @property
    def tick_exp(self) -> int:
        return int(str(self.meta("tick_exp", -9)))

    @property
    def end(self) -> int:
        """The last moment of the run in ticks; while it runs, the moment up to which all is stored."""
        return int(str(self.meta("end", self.meta("until", 0))))

    @property
    def finished(self) -> bool:
        return self.meta("ended") is not None

    def messages(self) -> list[tuple[str, int, str, int, str]]:
        return list(self.db.execute("SELECT * FROM messages"))

    def site(self, number: int) -> SiteInfo | None:
        row = self.db.execute("SELECT * FROM sites WHERE id = ?", (number,)).fetchone()
        return SiteInfo(*row) if row else None

    def reads(self, site: int) -> list[tuple[str, str]]:
        """(name in the unit, role) of what a statement reads; role: value, index or condition."""
        return list(self.db.execute("SELECT DISTINCT name, role FROM reads WHERE site = ?", (site,)))

    def watches(self, signal: int) -> list[Watch]:
        """The processes that wait for a signal and for nothing else, once for each instance."""
        found: list[Watch] = []
        for name in self.names_of(signal):
            unit = self.scopes[name.scope].unit
            rows = self.db.execute(
                "SELECT * FROM watches WHERE (name = ? AND unit = ?) OR name = ?", (name.name, unit, f"/{name.path}")
            )
            found += (Watch(*row) for row in rows)
        return found

    def name(self, path: str) -> NameInfo:
        found = self.names.get(path)
        if found is None:
            from mevrik.lang.diagnostics import nearest

            raise RecordError(f"the run has no signal '{path}'{nearest(path, self.names)}")
        return found

    def info(self, path: str) -> SignalInfo:
        return self.signals[self.name(path).signal]

    def in_scope(self, scope: int) -> list[NameInfo]:
        return [n for n in self.names.values() if n.scope == scope]

    def scope_of_module(self, module: str) -> ScopeInfo | None:
        """The first instance of a module, the outermost first."""
        return next((s for s in self.scopes.values() if s.module == module), None)

    def names_of(self, signal: int) -> list[NameInfo]:
        return [n for n in self.names.values() if n.signal == signal]

    # ---- changes ----

    def blocks(self, signal: int) -> list[BlockInfo]:
        rows = self.db.execute(
            "SELECT rowid, first, last, count, unknown FROM blocks WHERE signal = ? ORDER BY first, rowid", (signal,)
        )
        return [BlockInfo(r[0], r[1], r[2], r[3], bool(r[4])) for r in rows]

    def _unpack(
        self, row: int, count: int, info: SignalInfo
    ) -> tuple[U64, NDArray[np.uint32], NDArray[np.uint32], NDArray[np.uint8]]:
        found = self._cache.get(row)
        if found is not None:
            self._cache.move_to_end(row)
            return found
        first, data = self.db.execute("SELECT first, data FROM blocks WHERE rowid = ?", (row,)).fetchone()
        found = columns(self._unpacker.decompress(data), first, count, info)
        self._cache[row] = found
        if len(self._cache) > _BLOCKS_KEPT:
            self._cache.popitem(last=False)
        return found

    def trace(self, path: str | int, start: int | None = None, end: int | None = None) -> Trace:
        """The changes of a signal, or those of the blocks that touch [start, end] ticks. Raises RecordError."""
        number = path if isinstance(path, int) else self.name(path).signal
        info = self.signals[number]
        blocks = self.blocks(number)
        before: BlockInfo | None = None
        if start is not None or end is not None:
            low = 0 if start is None else max(bisect_right([b.first for b in blocks], start) - 1, 0)
            high = len(blocks) if end is None else bisect_right([b.first for b in blocks], end)
            before = blocks[low - 1] if low else None
            blocks = blocks[low:high]
        parts = [self._unpack(b.row, b.count, info) for b in blocks]
        if before is not None:
            edge = self._unpack(before.row, before.count, info)
            parts.insert(0, (edge[0][-1:], edge[1][-1:], edge[2][-1:], edge[3][-1:]))
        else:
            start_value = np.frombuffer(info.initial, np.uint8).reshape(1, info.size * info.planes)
            parts.insert(0, (np.zeros(1, np.uint64), np.zeros(1, np.uint32), np.zeros(1, np.uint32), start_value))
        t, d, s, v = (np.concatenate([p[k] for p in parts]) for k in range(4))
        return Trace(info, t, d, s, v)
