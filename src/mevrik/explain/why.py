"""Why a signal has its value: the statement that wrote it last, and what that statement read when it did."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mevrik.design.values import Logic
from mevrik.waves.record import NameInfo, RunRecord, ScopeInfo, SiteInfo, Trace


@dataclass(frozen=True, slots=True)
class Cause:
    """A signal that the statement read: its value just before the write. `role`: value, or condition around it."""

    path: str
    name: str
    role: str
    value: Logic | float
    changed: int  # when it took that value, in ticks


@dataclass(frozen=True, slots=True)
class Why:
    """`site` is None while the signal still has the value it started with."""

    path: str
    value: Logic | float
    since: int
    before: Logic | float | None
    site: SiteInfo | None
    causes: tuple[Cause, ...]


def why(record: RunRecord, path: str, moment: int) -> Why:
    """Explain the value that a signal has at the end of the moment. Raises RecordError for an unknown path."""
    trace = record.trace(path, moment, moment)
    index = trace.index_at(moment)
    number = int(trace.sites[index])
    since = int(trace.times[index])
    before = value_of(trace, index - 1) if index > 0 else None
    site = record.site(number) if number else None
    causes: list[Cause] = []
    if site is not None:
        home = _home(record, path, site)
        delta = int(trace.deltas[index])
        seen: set[str] = set()
        for name, role in sorted(record.reads(number), key=lambda r: r[1] != "condition"):
            found = _resolve(record, home, name)
            if found is None or found.path in seen or record.signals[found.signal].elements > 1:
                continue
            seen.add(found.path)
            at = record.trace(found.path, since, since)
            k = _entry_before(at, since, delta)
            causes.append(Cause(found.path, _plain(name), role, value_of(at, k), int(at.times[k])))
    return Why(path, value_of(trace, index), since, before, site, tuple(causes))


def _plain(name: str) -> str:
    """The name as its statement writes it: one with its whole path (which VHDL scopes need to be found) shows its last part."""
    return name.rsplit(".", 1)[-1] if name.startswith("/") else name


def value_of(trace: Trace, index: int) -> Logic | float:
    return trace.real(index) if trace.info.kind == "real" else trace.logic(index)


def _entry_before(trace: Trace, time: int, delta: int) -> int:
    """The entry that held when a statement ran in this delta of the moment: changes of the same delta came after it, unless
    the signal has no earlier entry in this moment than the one that woke the statement."""
    before = (trace.times < np.uint64(time)) | ((trace.times == np.uint64(time)) & (trace.deltas < np.uint32(delta)))
    return max(int(np.flatnonzero(before)[-1]) if before.any() else 0, 0)


def _home(record: RunRecord, path: str, site: SiteInfo) -> ScopeInfo | None:
    """The instance whose statement wrote the signal: one that knows the signal and is of the statement's unit, else the nearest
    instance of that unit."""
    names = record.names_of(record.name(path).signal)
    for name in names:
        scope = record.scopes[name.scope]
        if scope.unit == site.unit:
            return scope
    return next((s for s in record.scopes.values() if s.unit == site.unit), None)


def _resolve(record: RunRecord, home: ScopeInfo | None, name: str) -> NameInfo | None:
    """A name as the statement's unit writes it; a leading "^" climbs to the instance above."""
    if name.startswith("/"):
        return record.names.get(name[1:])
    if home is None:
        return None
    here: ScopeInfo | None = home
    steps = name.split(".")
    while steps and steps[0] == "^" and here is not None:
        here = record.scopes.get(here.parent)
        steps.pop(0)
    return record.names.get(f"{here.path}.{'.'.join(steps)}") if here else None
