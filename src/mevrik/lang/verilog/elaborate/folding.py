"""Constants: what an operator over constants makes, and a value as a constant expression."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.evaluate import Evaluator, NotConstant, Value
from mevrik.design.types import REAL, Array, Type, Vec
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
