"""Expected against Behavioural: a truth table, or expressions, against what was recorded at the settled moments."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from mevrik.compare.ledger import BEHAVIOURAL, EXPECTED, Entry, Ledger
from mevrik.design.values import Logic
from mevrik.expect.coverage import RowFinder
from mevrik.expect.table import Column, Table
from mevrik.waves.record import U64, RunRecord
from mevrik.waves.sampling import Values, entries_at, sample, settled_moments


def _bits(values: Values, column: Column) -> NDArray[np.object_] | NDArray[np.int64]:
    ones = (1 << column.width) - 1
    if values.dtype == object or column.width > 62:
        return (values.astype(object) >> column.low) & ones
    return ((values >> np.uint64(column.low)) & np.uint64(ones)).astype(np.int64)


def against_table(subject: str, record: RunRecord, scope: str, table: Table, input_names: list[str]) -> Ledger:
    """Each settled moment whose inputs fit a row: the row's outputs against those of the instance `scope`.

    A moment whose inputs are unknown or fit no row is not compared; that is noted. An unknown where the table expects 0 or 1
    is not comparable, never equal.
    """
    ledger = Ledger(subject, EXPECTED, BEHAVIOURAL)
    starts, moments = settled_moments([record.trace(f"{scope}.{name}") for name in input_names], record.end)
    wide = table.input_bits > 62
    packed: NDArray[np.object_] | NDArray[np.int64] = np.zeros(len(moments), object if wide else np.int64)
    known = np.ones(len(moments), bool)
    for k in table.inputs:
        column = table.columns[k]
        val, unk = sample(record.trace(f"{scope}.{column.port.name}"), moments)
        known &= np.asarray(_bits(unk, column) == 0, bool)
        packed = (packed << column.width) | _bits(val, column)
    rows = np.where(known, RowFinder(table).rows(packed), -1)
    ends = np.append(starts[1:], np.uint64(record.end))
    for k in table.outputs:
        _output(ledger, record, scope, table, k, starts, moments, ends, rows)
    left_out = int((rows < 0).sum())
    if left_out:
        unknown = int((~known).sum())
        if left_out - unknown:
            ledger.notes.append(f"{left_out - unknown} settled moments have inputs that no row of the table names")
        if unknown:
            ledger.notes.append(f"{unknown} settled moments have unknown inputs")
    unvisited = len(table.rows) - len(np.unique(rows[rows >= 0]))
    if unvisited:
        ledger.notes.append(f"{unvisited} rows of the table were not reached by the stimulus")
    return ledger.finish()


def _output(
    ledger: Ledger,
    record: RunRecord,
    scope: str,
    table: Table,
    k: int,
    starts: U64,
    moments: U64,
    ends: U64,
    rows: NDArray[np.int32],
) -> None:
    column = table.columns[k]
    path = f"{scope}.{column.port.name}"
    trace = record.trace(path)
    val, unk = sample(trace, moments)
    since = np.maximum(trace.times[entries_at(trace, moments)], starts)
    got_val, got_unk = _bits(val, column), _bits(unk, column)
    kind = object if column.width > 62 else np.int64
    cells = [r[k] for r in table.rows]
    fit = rows >= 0
    at = rows[fit]
    care = np.array([c.care for c in cells], kind)[at]
    want_val = np.array([c.value.val & c.care for c in cells], kind)[at]
    want_unk = np.array([c.value.unk & c.care for c in cells], kind)[at]
    gv, gu = got_val[fit] & care, got_unk[fit] & care
    compared = np.asarray(care != 0, bool)
    equal = np.asarray((gv == want_val) & (gu == want_unk), bool)
    # an unknown bit where a definite one is expected, while no known bit differs
    known_differs = np.asarray(((gv ^ want_val) & care & ~gu & ~want_unk) != 0, bool) | np.asarray((want_unk & ~gu) != 0, bool)
    unknown = ~equal & ~known_differs
    differs = ~equal & known_differs
    ledger.count(column.heading, int((equal & compared).sum()), int((differs & compared).sum()), int((unknown & compared).sum()))
    where = np.flatnonzero(fit)
    for i in np.flatnonzero(~equal & compared):
        sample_at = int(where[i])
        row = int(at[i])
        cell = cells[row]
        right = Logic(column.width, int(got_val[sample_at]), int(got_unk[sample_at]))
        ledger.add(
            Entry(
                "differs" if differs[i] else "unknown", column.heading, path, int(starts[sample_at]), int(ends[sample_at]),
                int(since[sample_at]), cell_text(cell.value, cell.care), right.bits(), row,
            )
        )  # fmt: skip


def cell_text(value: Logic, care: int) -> str:
    """A cell's bits with '-' for those that don't count."""
    return "".join(b if care >> (value.width - 1 - k) & 1 else "-" for k, b in enumerate(value.bits()))


def against_model(subject: str, record: RunRecord, scope: str, model: str, outputs: list[str], input_names: list[str]) -> Ledger:
    """At each settled moment: outputs of the instance `scope` against the same outputs of the instance `model`."""
    ledger = Ledger(subject, EXPECTED, BEHAVIOURAL)
    starts, moments = settled_moments([record.trace(f"{scope}.{name}") for name in input_names], record.end)
    ends = np.append(starts[1:], np.uint64(record.end))
    for name in outputs:
        path = f"{scope}.{name}"
        got, want = record.trace(path), record.trace(f"{model}.{name}")
        gv, gu = sample(got, moments)
        wv, wu = sample(want, moments)
        equal = np.asarray((gv == wv) & (gu == wu), bool)
        sure = np.asarray((wu | gu) == 0, bool)
        known_differs = np.asarray(((gv ^ wv) & ~(gu | wu)) != 0, bool)
        agrees = equal & sure
        unknown = ~agrees & ~known_differs
        ledger.count(name, int(agrees.sum()), int(known_differs.sum()), int(unknown.sum()))
        width = got.info.width
        since = np.maximum(got.times[entries_at(got, moments)], starts)
        for i in np.flatnonzero(~agrees):
            left, right = Logic(width, int(wv[i]), int(wu[i])), Logic(width, int(gv[i]), int(gu[i]))
            kind = "differs" if known_differs[i] else "unknown"
            ledger.add(Entry(kind, name, path, int(starts[i]), int(ends[i]), int(since[i]), left.bits(), right.bits()))
    return ledger.finish()
