"""Constants: what an operator over constants makes, and a value as a constant expression."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.evaluate import Evaluator, NotConstant, Value
from mevrik.design.record import replace
from mevrik.design.types import REAL, Array, Text, Type, Vec
from mevrik.design.values import Logic


def int_of(c: n.Const) -> int:
    """The number that a constant stands for, by its sign."""
    t = n.vec(c)
    return Logic(t.width, c.val).signed_value() if t.signed else c.val


def as_const(value: Value, t: Type) -> n.Expr:
    if isinstance(value, float):
        return n.RealConst(REAL, value)
    if isinstance(value, list):
        assert isinstance(t, Array)
        return n.ArrayConst(t, tuple(as_const(v, t.element) for v in value))
    if isinstance(value, bytes):
        return n.TextConst(t, value)
    assert isinstance(t, Vec)
    return n.Const(t if value.width == t.width else Vec(value.width, t.signed, t.four), value.val, value.unk)


def is_small(e: n.Const) -> bool:
    """Whether all extensions of a constant are the same: it is known and not negative."""
    t = n.vec(e)
    return not e.unk and not (t.signed and e.val >> (t.width - 1))


def fold(e: n.Expr) -> n.Expr:
    try:
        return as_const(Evaluator().value(e), e.type)
    except NotConstant:
        return e


def constant_parts(e: n.Expr) -> n.Expr:
    """The constant that an expression is. A structure with strings in it stays the concatenation of its members, each a constant."""
    match e:
        case n.Const() | n.RealConst() | n.TextConst() | n.ArrayConst():
            return e
        case n.Concat(parts=parts) if not isinstance(e.type, Text) and holds_text(e):
            return replace(e, parts=tuple(constant_parts(p) for p in parts))
        case n.Choice(cond=cond, a=a, b=b) if holds_text(e):
            return constant_parts(a if Evaluator().truth(cond) else b)
        case n.Resize(a=a) if isinstance(a, n.TextConst) or holds_text(a):
            return constant_parts(a)
        case n.Bits(base=base, offset=offset) if isinstance(base, n.Concat) and holds_text(base) and not offset.terms:
            return constant_parts(part_at(base, offset.const, n.vec(e).width) or as_const(Evaluator().value(e), e.type))
    return as_const(Evaluator().value(e), e.type)


def holds_text(e: n.Expr) -> bool:
    """Whether a structure is made here of members of which one is a string."""
    match e:
        case n.Concat(parts=parts):
            return any(isinstance(p.type, Text) or holds_text(p) for p in parts)
        case n.Choice(a=a, b=b):
            return holds_text(a) or holds_text(b)
    return False


def part_at(e: n.Concat, low: int, width: int) -> n.Expr | None:
    """What lies at these bits, counted from the lowest, of one member; None if they are of several."""
    for part in reversed(e.parts):
        size = n.vec(part).width
        if low < size:
            if low == 0 and width == size:
                return part
            if isinstance(part, n.Concat):
                return part_at(part, low, width)
            return fold_if_constant(n.Bits(Vec(width), part, n.Offset(low))) if low + width <= size else None
        low -= size
    return None


def fold_if_constant(e: n.Expr) -> n.Expr:
    """The constant that an operator over constants makes."""
    match e:
        case n.Unary(a=a) | n.ToReal(a=a):
            ok = isinstance(a, (n.Const, n.RealConst))
        case n.Binary(a=a, b=b):
            ok = isinstance(a, (n.Const, n.RealConst)) and isinstance(b, (n.Const, n.RealConst))
        case n.Bits(base=base, offset=offset):
            ok = isinstance(base, n.Const) and not offset.terms
        case n.SysCall(args=args):
            ok = all(isinstance(a, (n.Const, n.RealConst)) for a in args)
        case _:
            ok = False
    return fold(e) if ok else e


def fold_resize(e: n.Expr, t: Vec) -> n.Expr:
    own = n.vec(e)
    if own.width == t.width and own.signed == t.signed and (own.four == t.four or t.four):
        return e
    made = n.Resize(t, e)
    if isinstance(e, n.Const):
        if is_small(e) and t.width >= own.width and not e.text:
            return n.Const(t, e.val)
        text = e.text and t.width >= own.width
        folded = fold(made)
        if text and isinstance(folded, n.Const):
            folded.text = t.width == own.width
        return folded
    return made
