"""Races: what comes out differently when simultaneous events are taken in another legal order (IEEE 1364-2005 11.4.2, 11.5)."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from mevrik.engine.job import Job
from mevrik.project.examine import Findings, examine
from mevrik.project.project import Project, Subject
from mevrik.waves.record import RunRecord, SiteInfo, Trace


@dataclass(frozen=True, slots=True)
class Account:
    """One order's side of a race: the value from that moment on, and the statement that wrote it."""

    value: str
    file: str
    line: int
    text: str


@dataclass(frozen=True, slots=True)
class Race:
    """A signal that differs from `time` (in ticks) on, between the order of the source and that of seed `order`."""

    signal: str
    time: int
    order: int
    first: Account
    other: Account


def find_races(project: Project, subject: Subject, found: Findings, orders: int) -> list[Race]:
    """Run a subject in `orders` other orders and compare what was recorded; each signal is told once, the earliest first."""
    if found.record is None or found.failed:
        return []
    base = RunRecord(found.record)
    races: dict[str, Race] = {}
    for seed in range(1, orders + 1):
        path = project.record_path(subject).with_suffix(".order")
        _run(subject, path, project.folder, seed)
        if path.is_file():
            for race in compare_records(base, RunRecord(path), seed):
                old = races.get(race.signal)
                if old is None or race.time < old.time:
                    races[race.signal] = race
            path.unlink()
    return sorted(races.values(), key=lambda r: (r.time, r.signal))


def _run(subject: Subject, path: Path, folder: Path, seed: int) -> None:
    path.unlink(missing_ok=True)
    for _ in Job(examine, subject, path, folder, seed).events():
        pass
    for suffix in (".rows", ".out"):
        path.with_suffix(suffix).unlink(missing_ok=True)


def compare_records(base: RunRecord, other: RunRecord, order: int) -> list[Race]:
    """The signals whose settled values differ between two runs of one design. The moment in which a run ends is left out: what
    still happens in it beside a $finish is no one's concern."""
    end = min(base.end, other.end)
    names = {name.signal: name.path for name in reversed(list(base.names.values()))}
    found: list[Race] = []
    for number, info in base.signals.items():
        if not info.recorded or number not in other.signals or number not in names or info.kind == "event":
            continue
        a, b = base.trace(number), other.trace(number)
        at = _first_difference(a, b)
        if at is not None and at < end:
            found.append(Race(names[number], at, order, _account(base, a, at), _account(other, b, at)))
    return found


def _settled(trace: Trace) -> tuple[np.ndarray, np.ndarray]:
    """Times and values left at the end of each moment, repetitions dropped."""
    index = np.asarray(trace.settled, dtype=np.int64)
    times, values = trace.times[index], trace.values[index]
    keep = np.ones(len(index), dtype=bool)
    if len(index) > 1:
        keep[1:] = (values[1:] != values[:-1]).any(axis=1)
    return times[keep], values[keep]


def _first_difference(a: Trace, b: Trace) -> int | None:
    (ta, va), (tb, vb) = _settled(a), _settled(b)
    count = min(len(ta), len(tb))
    same = (ta[:count] == tb[:count]) & (va[:count] == vb[:count]).all(axis=1)
    if same.all():
        if len(ta) == len(tb):
            return None
        longer = ta if len(ta) > len(tb) else tb
        return int(longer[count])
    k = int(np.argmin(same))
    return int(min(ta[k], tb[k]))


def _account(record: RunRecord, trace: Trace, time: int) -> Account:
    index = int(np.searchsorted(trace.times, time, side="right")) - 1
    text = f"{trace.real(index):g}" if trace.info.kind == "real" else trace.logic(index).bits()
    site: SiteInfo | None = record.site(int(trace.sites[index]))
    return Account(text, site.file if site else "", site.line if site else 0, site.text.strip() if site else "")
