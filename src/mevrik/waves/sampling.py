"""Values at chosen moments."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from mevrik.waves.record import U64, Trace

Values = NDArray[np.object_] | NDArray[np.int64] | U64


def entries_at(trace: Trace, times: U64) -> NDArray[np.int64]:
    """The entry of the trace that holds at the end of each moment."""
    return np.maximum(np.searchsorted(trace.times, times, side="right") - 1, 0)


def sample(trace: Trace, times: U64) -> tuple[Values, Values]:
    """Both planes at the end of each moment: numbers of 64 bits, or Python integers for wider signals."""
    at = entries_at(trace, times)
    if trace.info.size <= 8:
        return trace.plane(0)[at], trace.plane(1)[at]
    val = np.empty(len(at), object)
    unk = np.empty(len(at), object)
    for k, index in enumerate(at):
        value = trace.logic(int(index))
        val[k], unk[k] = value.val, value.unk
    return val, unk


def settled_moments(inputs: Sequence[Trace], end: int) -> tuple[U64, U64]:
    """(start, sample) of each stretch in which no input changes: the sample is the last moment before the next change,
    when everything behind the inputs has had all the time there is to settle."""
    if not inputs:
        return np.zeros(1, np.uint64), np.array([end], np.uint64)
    starts = np.unique(np.concatenate([t.times for t in inputs]))
    starts = starts[starts <= np.uint64(max(end, 0))]
    samples = np.append(starts[1:] - np.uint64(1), np.uint64(end))
    return starts, samples
