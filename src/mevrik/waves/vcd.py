"""VCD out (IEEE 1364-2005 clause 18.2)."""

from __future__ import annotations

import heapq
import os
from collections.abc import Iterator
from pathlib import Path
from typing import TextIO

from mevrik.waves.record import NameInfo, RunRecord, ScopeInfo, Trace

_UNITS = {0: "s", -3: "ms", -6: "us", -9: "ns", -12: "ps", -15: "fs"}


def code(number: int) -> str:
    """An identifier code of printable characters, '!' to '~' (18.2.1)."""
    out = ""
    number += 1
    while number:
        number, digit = divmod(number - 1, 94)
        out += chr(33 + digit)
    return out


def timescale(exponent: int) -> str:
    base = exponent // 3 * 3
    return f"{10 ** (exponent - base)} {_UNITS[base]}"


def _changes(trace: Trace, mark: str, order: int) -> Iterator[tuple[int, int, str]]:
    """(time, order, line) for what is left at the end of each moment."""
    width = trace.info.width
    for index in trace.settled:
        i = int(index)
        if trace.info.kind == "real":
            text = f"r{trace.real(i)!r} {mark}\n"
        else:
            bits = trace.logic(i).bits()
            text = f"{bits}{mark}\n" if width == 1 else f"b{_shorten(bits)} {mark}\n"
        yield int(trace.times[i]), order, text


def _shorten(bits: str) -> str:
    """Left-hand digits that the reader adds again are left out (18.2.1, table 18-4)."""
    first = bits[0]
    if first == "1":
        return bits
    rest = bits.lstrip(first)
    if first == "0":
        return rest if rest and rest[0] in "1" else "0" + rest
    return first + rest


def write_vcd(record: RunRecord, path: Path) -> None:
    """Everything recorded so far, glitches inside a moment left out. Atomic. Raises OSError."""
    temporary = path.with_name(path.name + ".part")
    with temporary.open("w") as out:
        _write(record, out)
    os.replace(temporary, path)


def _write(record: RunRecord, out: TextIO) -> None:
    out.write(f"$version\n  Mevrik\n$end\n$timescale\n  {timescale(record.tick_exp)}\n$end\n")
    used = sorted({s.number for s in record.signals.values() if s.recorded and s.kind != "event"})
    codes = {number: code(index) for index, number in enumerate(used)}
    children: dict[int, list[ScopeInfo]] = {}
    for scope in record.scopes.values():
        children.setdefault(scope.parent, []).append(scope)
    names: dict[int, list[NameInfo]] = {}
    for name in record.names.values():
        names.setdefault(name.scope, []).append(name)

    def put(scope: ScopeInfo) -> None:
        out.write(f"$scope module {scope.path.rsplit('.', 1)[-1]} $end\n")
        for name in names.get(scope.number, []):
            if name.signal in codes:
                info = record.signals[name.signal]
                kind = "real" if info.kind == "real" else "wire" if info.kind == "net" else "reg"
                bounds = f" [{info.msb}:{info.lsb}]" if info.width > 1 and info.kind != "real" else ""
                out.write(f"$var {kind} {info.width} {codes[name.signal]} {name.name}{bounds} $end\n")
        for child in children.get(scope.number, []):
            put(child)
        out.write("$upscope $end\n")

    for top in children.get(-1, []):
        put(top)
    out.write("$enddefinitions $end\n")
    streams = [_changes(record.trace(number), codes[number], order) for order, number in enumerate(used)]
    now = -1
    for time, _, text in heapq.merge(*streams):
        if time != now:
            if now == 0:
                out.write("$end\n")
            out.write(f"#{time}\n")
            if time == 0:
                out.write("$dumpvars\n")
            now = time
        out.write(text)
    if now == 0:
        out.write("$end\n")
    if record.end > max(now, 0):
        out.write(f"#{record.end}\n")
