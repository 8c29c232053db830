"""Streams with queues and dynamic arrays in them, whose length is known only when they are made (IEEE 1800-2017 11.4.14)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import List, Vec
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.folding import fold, fold_if_constant

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.expressions import ExpressionElaborator

STREAM = List(64, False, False, Vec(1), True)


def is_dynamic(elab: ExpressionElaborator, e: ast.Expr) -> bool:
    """Whether a stream has a part without a fixed length."""
    return isinstance(e, ast.Stream) and any(
        is_dynamic(elab, p) if isinstance(p, ast.Stream) else isinstance(elab.shape_of(p).type, List) for p in e.parts
    )


def stream(elab: ExpressionElaborator, e: ast.Stream) -> n.Expr:
    """All its parts, in their order or turned."""
    parts: list[n.Expr] = []
    for p in e.parts:
        if is_dynamic(elab, p):
            assert isinstance(p, ast.Stream)
            parts.append(stream(elab, p))
            continue
        shape = elab.shape_of(p)
        if isinstance(shape.type, List) and not shape.unpacked:
            parts.append(elab.list_source(p)[0])
        else:
            parts.append(elab.as_bits(p))
    made: n.Expr = n.SysCall(STREAM, "$stream", tuple(parts), e.pos)
    return turned(elab, e, made, False)


def turned(elab: ExpressionElaborator, e: ast.Stream, made: n.Expr, back: bool) -> n.Expr:
    if not e.left:
        return made
    return n.SysCall(STREAM, "$stream_back" if back else "$stream_turn", (made,), e.pos, elab.slice_of(e))


def bits_of(made: n.Expr, t: Vec, pos: int, site: int = 0) -> n.Expr:
    """A stream as a value that it fills from the left; it must not be longer."""
    return n.SysCall(Vec(t.width, False, True), "$stream_into", (made, n.Const(Vec(64), 0), n.Const(Vec(1), 1)), pos, site)


def piece_of(made: n.Expr, start: n.Expr, width: int, pos: int) -> n.Expr:
    """So many bits of a stream from one on."""
    return n.SysCall(Vec(width), "$stream_into", (made, start, n.Const(Vec(1), 0)), pos)


def elements_of(made: n.Expr, t: List, start: int, keep: int, pos: int) -> n.Expr:
    """A stream, but for its first and last bits, as a list of elements."""
    return n.SysCall(t, "$stream_elements", (made, n.Const(Vec(64), start), n.Const(Vec(64), keep)), pos)


def size_of(made: n.Expr, pos: int) -> n.Expr:
    return n.SysCall(Vec(64), "$stream_size", (made,), pos)


def streams(elab: ExpressionElaborator, e: ast.Expr) -> n.Expr:
    """What a dynamic stream is unpacked from: another one, or any value as one."""
    if isinstance(e, ast.Stream) and is_dynamic(elab, e):
        return stream(elab, e)
    shape = elab.shape_of(e) if not isinstance(e, ast.Stream) else None
    if shape is not None and isinstance(shape.type, List) and not shape.unpacked:
        return n.SysCall(STREAM, "$stream", (elab.list_source(e)[0],), e.pos)
    made = elab.stream(e) if isinstance(e, ast.Stream) else elab.as_bits(e)
    return n.SysCall(STREAM, "$stream", (made,), e.pos)


def reversed_slices(e: n.Expr, size: int, unpack: bool = False) -> n.Expr:
    """The slices of a value, counted from its right end, in reversed order; `unpack` turns a value so made back."""
    width = n.vec(e).width
    lows = list(range(0, width, size))
    parts: list[n.Expr] = []
    if unpack:
        ends = range(width, 0, -size)
        parts = [_piece(e, max(end - size, 0), min(size, end)) for end in reversed(ends)]
    else:
        parts = [_piece(e, low, min(size, width - low)) for low in lows]
    made = n.Concat(Vec(width), tuple(parts))
    return fold(made) if isinstance(e, n.Const) else made


def _piece(e: n.Expr, low: int, width: int) -> n.Expr:
    return fold_if_constant(n.Bits(Vec(width), e, n.Offset(low)))
