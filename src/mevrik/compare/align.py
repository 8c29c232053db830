"""Behavioural against Measured: find the time offset that agrees best, then compare sample by sample."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mevrik.compare.ledger import BEHAVIOURAL, MEASURED, Entry, Ledger
from mevrik.design.time import show_time
from mevrik.design.values import Logic
from mevrik.lab.capture import Capture
from mevrik.waves.record import RunRecord, Trace

F64 = NDArray[np.float64]
_CANDIDATES = 3000  # offsets tried
_TRIAL_SAMPLES = 4000  # samples used for trying
_LEAST_OVERLAP = 0.5  # of the samples must lie inside the run


@dataclass(frozen=True, slots=True)
class Alignment:
    """`offset` in ticks is added to a sample's time to find the moment of the run; `share` of the points agree there."""

    offset: float
    share: float
    overlap: float


@dataclass(slots=True)
class _Pair:
    channel: str
    port: str
    trace: Trace
    times: F64  # of the run's values, in ticks, one a settled entry
    val: NDArray[np.uint64]
    unk: NDArray[np.uint64]
    samples: NDArray[np.uint64]


def _pairs(record: RunRecord, scope: str, capture: Capture, matched: dict[str, str]) -> list[_Pair]:
    found: list[_Pair] = []
    for channel, port in matched.items():
        trace = record.trace(f"{scope}.{port}")
        if trace.info.size > 8:
            continue
        keep = trace.settled
        found.append(
            _Pair(
                channel,
                port,
                trace,
                trace.times[keep].astype(float),
                trace.plane(0)[keep],
                trace.plane(1)[keep],
                capture.values[channel],
            )
        )
    return found


def _at(times: F64, moments: F64) -> NDArray[np.int64]:
    return np.maximum(np.searchsorted(times, moments, side="right") - 1, 0)


def _edges(values: NDArray[np.uint64]) -> NDArray[np.int64]:
    return np.flatnonzero(values[1:] != values[:-1]) + 1


def _score(pairs: list[_Pair], stamps: F64, chosen: NDArray[np.int64], offset: float, end: float) -> tuple[float, float]:
    moments = stamps[chosen] + offset
    inside = (moments >= 0) & (moments <= end)
    overlap = float(inside.mean())
    if overlap < _LEAST_OVERLAP:
        return 0.0, overlap
    agree = total = 0
    for p in pairs:
        at = _at(p.times, moments[inside])
        equal = (p.val[at] == p.samples[chosen][inside]) & (p.unk[at] == 0)
        agree += int(equal.sum())
        total += len(equal)
    return agree / total if total else 0.0, overlap


def align(record: RunRecord, scope: str, capture: Capture, matched: dict[str, str]) -> Alignment:
    """The offset that agrees best: every distance between an edge of the run and an edge of the capture is a candidate;
    ties go to the larger overlap, then to the smaller offset."""
    pairs = _pairs(record, scope, capture, matched)
    tick = 10.0**record.tick_exp
    stamps = capture.times / tick
    end = float(record.end)
    half = capture.period / tick / 2
    candidates: list[F64] = [np.array([-stamps[0], 0.0])]
    busiest = sorted(pairs, key=lambda p: -min(len(p.times), len(_edges(p.samples))))
    for p in [b for b in busiest if len(b.times) > 1 and len(_edges(b.samples))][:3]:
        seen = stamps[_edges(p.samples)] - half  # the edge lies between two samples
        first, last = seen[:6], seen[-2:]
        for anchor in (*first, *last):
            candidates.append(p.times[1:] - anchor)
    every = np.unique(np.round(np.concatenate(candidates), 3))
    if len(every) > _CANDIDATES:
        every = every[np.linspace(0, len(every) - 1, _CANDIDATES).astype(int)]
    chosen = np.unique(np.linspace(0, len(stamps) - 1, min(len(stamps), _TRIAL_SAMPLES)).astype(np.int64))
    best = Alignment(0.0, -1.0, 0.0)
    for offset in every.tolist():
        share, overlap = _score(pairs, stamps, chosen, offset, end)
        if (round(share, 6), round(overlap, 3), -abs(offset)) > (round(best.share, 6), round(best.overlap, 3), -abs(best.offset)):
            best = Alignment(offset, share, overlap)
    return best


def against_capture(
    subject: str, record: RunRecord, scope: str, capture: Capture, matched: dict[str, str], notes: list[str], tolerance: float = 0.0
) -> tuple[Ledger, Alignment]:
    """Compare all samples at the best offset. Samples nearer to an edge of the run than the tolerance (in seconds; at least one
    sample period) are left out; neighbouring samples that differ make one entry."""
    ledger = Ledger(subject, BEHAVIOURAL, MEASURED, notes=list(notes))
    if not matched:
        ledger.notes.append("no channel of the capture fits a port, so nothing is compared")
        return ledger, Alignment(0.0, 0.0, 0.0)
    found = align(record, scope, capture, matched)
    tick = 10.0**record.tick_exp
    moments = capture.times / tick + found.offset
    inside = (moments >= 0) & (moments <= float(record.end))
    if found.share <= 0:
        ledger.notes.append("the capture agrees with the run at no time offset")
    near = max(tolerance, capture.period) / tick
    excluded = 0
    for p in _pairs(record, scope, capture, matched):
        at = _at(p.times, moments)
        since = moments - p.times[at]
        following = np.append(p.times[1:], np.inf)[at] - moments
        close = ((since < near) & (at > 0)) | (following < near)
        use = inside & ~close
        excluded += int((inside & close).sum())
        unknown = use & (p.unk[at] != 0)
        differs = use & (p.unk[at] == 0) & (p.val[at] != p.samples)
        agrees = use & ~unknown & ~differs
        ledger.count(p.port, int(agrees.sum()), int(differs.sum()), int(unknown.sum()))
        for kind, flags in (("differs", differs), ("unknown", unknown)):
            _stretches(ledger, kind, p, flags, use, moments, at, f"{scope}.{p.port}")
    outside = int((~inside).sum())
    if outside:
        ledger.notes.append(f"{outside} of {len(moments)} samples lie outside the run and are not compared")
    if excluded:
        ledger.notes.append(f"{excluded} points nearer than {show_time(near, record.tick_exp, 3)} to an edge are not compared")
    return ledger.finish(), found


def _stretches(
    ledger: Ledger,
    kind: str,
    p: _Pair,
    flags: NDArray[np.bool_],
    used: NDArray[np.bool_],
    moments: F64,
    at: NDArray[np.int64],
    path: str,
) -> None:
    """One entry for each run of flagged samples with the same two values; samples left out near edges don't part a stretch
    unless the values change across them."""
    where = np.flatnonzero(flags)
    if not len(where):
        return
    order = np.cumsum(used)
    same = (
        (np.diff(order[where]) == 1)
        & (p.val[at][where][1:] == p.val[at][where][:-1])
        & (p.samples[where][1:] == p.samples[where][:-1])
    )
    first = np.flatnonzero(np.append(True, ~same))
    last = np.append(first[1:] - 1, len(where) - 1)
    width = p.trace.info.width
    for a, b in zip(first.tolist(), last.tolist()):
        i, j = int(where[a]), int(where[b])
        left = Logic(width, int(p.val[at[i]]), int(p.unk[at[i]]))
        right = Logic(width, int(p.samples[i]))
        start, end = int(moments[i]), int(moments[j])
        ledger.add(Entry(kind, p.port, path, start, end, start, left.bits(), right.bits(), points=b - a + 1))
