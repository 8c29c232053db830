"""The delta ladder: one moment of time opened into its deltas. Which signal changed in which, written by which statement, which
processes that woke, and which of the changes of the delta after follow from it (their statements read it)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mevrik.design.values import show
from mevrik.waves.record import RunRecord, SiteInfo, Trace, Watch


@dataclass(frozen=True, slots=True)
class Rung:
    """A change: `woke` are the numbers of the rungs (in the list of the ladder) that follow from it, `wakes` the processes that wait for
    it and for nothing else. A process that waits at several places is not among them; what it then writes is among `woke`."""

    delta: int
    path: str
    before: str
    after: str
    site: SiteInfo | None
    woke: tuple[int, ...] = ()
    wakes: tuple[Watch, ...] = ()


def _text(trace: Trace, index: int) -> str:
    info = trace.info
    if info.kind == "real":
        return f"{trace.real(index):g}"
    value = trace.logic(index)
    if info.labels and not value.unk and value.val in info.labels:
        return info.labels[value.val]
    return show(value, "bin" if info.width <= 8 else "sdec" if info.signed else "hex", info.signed)


def ladder(record: RunRecord, moment: int) -> list[Rung]:
    """The changes of a moment in the order of their deltas, which are counted from 0."""
    touched = [
        r[0] for r in record.db.execute("SELECT DISTINCT signal FROM blocks WHERE first <= ? AND last >= ?", (moment, moment))
    ]
    paths: dict[int, str] = {}
    for name in record.names.values():
        if name.signal not in paths or len(name.path) < len(paths[name.signal]):
            paths[name.signal] = name.path
    found: list[tuple[int, str, str, str, int, tuple[Watch, ...]]] = []
    for number in touched:
        if number not in paths:
            continue
        trace = record.trace(number, moment, moment)
        watches = record.watches(number)
        for index in np.flatnonzero(trace.times == np.uint64(moment)):
            i = int(index)
            if i > 0:
                woken = tuple(dict.fromkeys(w for w in watches if _wakes(w, trace, i)))
                found.append(
                    (int(trace.deltas[i]), paths[number], _text(trace, i - 1), _text(trace, i), int(trace.sites[i]), woken)
                )
    found.sort(key=lambda r: (r[0], r[1]))
    numbered = {delta: k for k, delta in enumerate(sorted({r[0] for r in found}))}
    reads = {site: _read_paths(record, site) for site in {r[4] for r in found}}
    signal_of = {path: record.names[path].signal for path in {r[1] for r in found}}
    rungs: list[Rung] = []
    for delta, path, before, after, site, woken in found:
        woke = tuple(
            k for k, other in enumerate(found) if numbered[other[0]] == numbered[delta] + 1 and signal_of[path] in reads[other[4]]
        )
        rungs.append(Rung(numbered[delta], path, before, after, record.site(site) if site else None, woke, woken))
    return rungs


def _wakes(watch: Watch, trace: Trace, index: int) -> bool:
    """Whether the change to an entry is an event that a process waits for (IEEE 1364-2005 9.7.2, table 9-1)."""
    two = np.array([index - 1, index])
    if watch.edge == "any":
        return trace.info.kind in ("real", "event") or bool(trace.changes_within(watch.low, watch.width, two)[1])
    before, after = trace.bit_codes(watch.low, two).tolist()
    rises = bool(before != after and (before == 0 or after == 1))
    falls = bool(before != after and (before == 1 or after == 0))
    return rises if watch.edge == "posedge" else falls if watch.edge == "negedge" else rises or falls


def _read_paths(record: RunRecord, site: int) -> set[int]:
    """The signals that a statement reads, by number."""
    found: set[int] = set()
    info = record.site(site) if site else None
    if info is None:
        return found
    scopes = [s for s in record.scopes.values() if s.unit == info.unit]
    for name, _ in record.reads(site):
        if name.startswith("/"):
            hit = record.names.get(name[1:])
            if hit is not None:
                found.add(hit.signal)
            continue
        for scope in scopes[:4]:
            hit = record.names.get(f"{scope.path}.{name}")
            if hit is not None:
                found.add(hit.signal)
    return found


def busiest_moment(record: RunRecord, file: str, line: int, most: int = 40) -> tuple[str, int] | None:
    """(signal, moment): a moment at which a statement of this line wrote, the one with the most deltas among the first ones."""
    sites = {r[0] for r in record.db.execute("SELECT id FROM sites WHERE file = ? AND line = ?", (file, line))}
    best: tuple[int, int, str, int] | None = None
    if not sites:
        return None
    for signal in {n.signal: n for n in record.names.values()}.values():
        if not record.signals[signal.signal].recorded:
            continue
        trace = record.trace(signal.signal)
        hits = trace.times[np.isin(trace.sites, list(sites)) & (trace.times > 0)][:most]
        for time in hits.tolist():
            rungs = ladder(record, int(time))
            weight = len({r.delta for r in rungs}) * 1000 + len(rungs)
            if best is None or weight > best[0]:
                best = (weight, int(time), signal.path, int(time))
    return (best[2], best[3]) if best is not None else None
