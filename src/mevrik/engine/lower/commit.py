"""Code for what a change of one signal wakes: the static fan-out spelled out, so that nothing is looked up at run time.

A commit function notes the statement, puts the processes that are armed for this edge into the active queue, and calls the
kernel only for a signal that is recorded or waited for. It works on the scheduler's part of the memory block.
"""

from __future__ import annotations

from mevrik.engine.layout import SCHEDULER_BYTES, Layout, Slot
from mevrik.engine.lower.prelude import write_function

MOST_FANS = 16  # signals with more are left to the kernel's loop
INLINE_FANS = 2
_TAIL, _MASK, _RING_AT, _RING = 8, 16, 24, 32
# [was][is] of the lowest bit, coded 0, 1, 2 for z, 3 for x: bit 0 rising, bit 1 falling (IEEE 1364-2005 table 9-1)
EDGE_TABLE = ((0, 1, 1, 1), (2, 0, 2, 2), (2, 1, 0, 0), (2, 1, 0, 0))
assert SCHEDULER_BYTES == _RING + 4 * 64


def _edge_mask(edge: int) -> int:
    return sum(1 << (4 * was + new) for was in range(4) for new in range(4) if EDGE_TABLE[was][new] & edge)


def has_commit(slot: Slot) -> bool:
    return 0 < len(slot.fans) <= MOST_FANS and not slot.cells


def commit_name(slot: Slot) -> str:
    return f"commit{slot.number}"


def commit_function(layout: Layout, slot: Slot) -> str:
    """The text of the commit function of a signal."""
    at = layout.scheduler
    lines = [
        f"  %rp = getelementptr i8, ptr %m, i64 {at + _RING_AT}",
        "  %r = load i64, ptr %rp",
        "  %r1 = add i64 %r, 1",
        "  store i64 %r1, ptr %rp",
        "  %ri = and i64 %r, 63",
        "  %ro = shl i64 %ri, 2",
        f"  %rb = getelementptr i8, ptr %m, i64 {at + _RING}",
        "  %re = getelementptr i8, ptr %rb, i64 %ro",
        "  store i32 %site, ptr %re",
        f"  %tp = getelementptr i8, ptr %m, i64 {at + _TAIL}",
        f"  %kp = getelementptr i8, ptr %m, i64 {at + _MASK}",
        f"  %queue = getelementptr i8, ptr %m, i64 {layout.queue}",
        "  %code0 = shl i32 %was, 2",
        "  %code = or i32 %code0, %is",
    ]
    for edge in sorted({e for _, e in slot.fans if e}):
        lines += [f"  %e{edge}s = lshr i32 {_edge_mask(edge)}, %code", f"  %e{edge} = trunc i32 %e{edge}s to i1"]
    for k, (process, edge) in enumerate(slot.fans):
        lines += [
            f"  %a{k}p = getelementptr i8, ptr %m, i64 {layout.armed + process}",
            f"  %a{k}b = load i8, ptr %a{k}p",
            f"  %a{k} = icmp ne i8 %a{k}b, 0",
        ]
        go = f"%a{k}"
        if edge:
            lines.append(f"  %g{k} = and i1 %a{k}, %e{edge}")
            go = f"%g{k}"
        lines += [
            f"  br i1 {go}, label %wake{k}, label %past{k}",
            f"wake{k}:",
            f"  store i8 0, ptr %a{k}p",
            f"  %t{k} = load i64, ptr %tp",
            f"  %k{k} = load i64, ptr %kp",
            f"  %i{k} = and i64 %t{k}, %k{k}",
            f"  %o{k} = shl i64 %i{k}, 2",
            f"  %q{k} = getelementptr i8, ptr %queue, i64 %o{k}",
            f"  store i32 {process}, ptr %q{k}",
            f"  %n{k} = add i64 %t{k}, 1",
            f"  store i64 %n{k}, ptr %tp",
            f"  br label %past{k}",
            f"past{k}:",
        ]
    lines += [
        f"  %wp = getelementptr i8, ptr %m, i64 {slot.number}",
        "  %w = load i8, ptr %wp",
        "  %w6 = and i8 %w, 254",
        "  %watched = icmp ne i8 %w6, 0",
        "  br i1 %watched, label %tell, label %out",
        "tell:",
        f"  call void @k_watched(i32 {slot.number}, i32 %site, i32 %was, i32 %is)",
        "  br label %out",
        "out:",
        "  ret void",
    ]
    inline = " alwaysinline" if len(slot.fans) <= INLINE_FANS else ""
    head = f"define void @{commit_name(slot)}(ptr %m, i32 %site, i32 %was, i32 %is){inline} {{"
    return "\n".join([head, *lines, "}\n"])


def has_apply(slot: Slot) -> bool:
    return slot.bytes <= 8 and slot.elements == 1 and not slot.forced


def apply_name(slot: Slot) -> str:
    return f"apply{slot.number}"


def apply_function(slot: Slot, writer: str) -> str:
    """A write of the whole signal from two words, for the updates of nonblocking assignments."""
    bits = 8 * slot.bytes

    def narrow(name: str) -> str:
        return f"  %{name}n = trunc i64 %{name} to i{bits}" if bits < 64 else f"  %{name}n = add i64 %{name}, 0"

    lines = [f"  %at = getelementptr i8, ptr %m, i64 {slot.offset}", narrow("v")]
    if slot.planes > 1:
        lines += [narrow("u"), f"  call void @{writer}(ptr %m, ptr %at, i{bits} %vn, i{bits} %un, i32 {slot.number}, i32 %site)"]
    else:  # a two-state signal takes unknown bits as 0
        lines += [
            "  %known = xor i64 %u, -1",
            "  %clean = and i64 %v, %known",
            f"  %cn = trunc i64 %clean to i{bits}" if bits < 64 else "  %cn = add i64 %clean, 0",
            f"  call void @{writer}(ptr %m, ptr %at, i{bits} %cn, i32 {slot.number}, i32 %site)",
        ]
    head = f"define void @{apply_name(slot)}(ptr %m, i64 %v, i64 %u, i32 %site) {{"
    return "\n".join([head, *lines, "  ret void\n}\n"])


def commit_write(slot: Slot, bits: int, planes: int) -> str:
    """A write of the whole signal, held in `bits` bits a plane, that calls its commit function."""
    return write_function(f"ws{slot.number}", bits, planes, f"@{commit_name(slot)}(ptr %m, ")
