"""What a structure holds before its first assignment: the defaults that its members declare, else what their types begin with
(IEEE 1800-2017 7.2.2)."""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import Array, Real, Vec
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.scope import Field, Shape, from_left, start_value

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.types import TypeElaborator


def member_default(elab: TypeElaborator, shape: Shape, d: ast.Declarator, structure: ast.DataType) -> n.Expr | None:
    """The constant that a member declares as its default."""
    if d.init is None:
        return None
    if structure.packed or structure.keyword == "union":
        message = f"'{d.name}' can't have a default: only members of unpacked structures can (7.2.2)"
        raise elab.error(d.init.pos, message, "struct-member")
    what = f"the default of '{d.name}'"
    meant = shape.spread or shape
    built = elab.for_target(d.init, meant.whole, meant)
    return elab.constant_of(built, d.init.pos, what)


def _bits(elab: TypeElaborator, value: n.Expr | None, f: Field) -> tuple[int, int]:
    """A default as the bits of its member, value and unknown. The leftmost element of an array is highest."""
    match value:
        case n.Const(val=val, unk=unk):
            return val, unk
        case n.TextConst(value=text):
            return elab.context.text(text), 0
        case n.RealConst(value=real):
            return int.from_bytes(struct.pack("<d", real), "little"), 0
        case n.ArrayConst(type=Array() as kind):
            width = kind.element.width if isinstance(kind.element, Vec) else 64
            val = unk = 0
            for item in from_left(value):
                one = _bits(elab, item, f)
                val, unk = val << width | one[0], unk << width | one[1]
            return val, unk
    start = start_value(f.shape)
    return (start.val, start.unk) if start is not None else (0, 0)


def begins(elab: TypeElaborator, shape: Shape) -> None:
    """Note in the shape of an unpacked structure with what a variable of it begins, where that is not as for a plain vector."""
    t = shape.type
    assert isinstance(t, Vec)
    fields = shape.fields.values()
    plain = not any(isinstance(f.type, Real) or f.default is not None for f in fields)
    val = unk = 0
    for f in fields:
        own_four = isinstance(f.type, Vec) and f.type.four
        plain = plain and own_four == t.four and f.shape.initial is None
        bits = _bits(elab, f.default, f)
        val |= bits[0] << f.low
        unk |= bits[1] << f.low
    shape.initial = None if plain else n.Const(t, val, unk)


def repeated(shape: Shape, count: int) -> n.Const | None:
    """The start of an array that is held as one vector."""
    one = start_value(shape)
    if one is None or shape.initial is None:
        return None
    width = n.vec(one).width
    val = unk = 0
    for _ in range(count):
        val, unk = val << width | one.val, unk << width | one.unk
    return n.Const(Vec(width * count, False, n.vec(one).four), val, unk)


def literal(value: n.Expr, shape: Shape, pos: int) -> ast.Expr:
    """A constant as it could be written, of the type that it is meant for."""
    match value:
        case n.TextConst(value=text):
            return ast.StringLiteral(pos, text)
        case n.RealConst(value=real):
            return ast.RealNumber(pos, real)
        case n.ArrayConst(type=Array() as kind):
            parts = [literal(item, shape, pos) for item in from_left(value)]
            for left, right in reversed(kind.dims):
                size = abs(left - right) + 1
                parts = [ast.Pattern(pos, [(None, p) for p in parts[k : k + size]], False) for k in range(0, len(parts), size)]
            return parts[0]
    assert isinstance(value, n.Const)
    one = replace(shape, unpacked=())
    return ast.Cast(pos, ast.DataType(pos, "known", known=one), ast.Number(pos, n.vec(value).width, False, value.val, value.unk))
