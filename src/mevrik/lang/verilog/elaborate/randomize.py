"""What randomize() of an object does (IEEE 1800-2017 18.4, 18.6), written as a method of its class: a value of its own for each random
property. Constraints are not supported; where there are none, every value is as likely as any other (18.3)."""

from __future__ import annotations

from collections.abc import Sequence
from copy import deepcopy
from typing import TYPE_CHECKING, cast

from mevrik.design import nodes as n
from mevrik.design.record import Frozen, replace
from mevrik.design.types import INTEGER, Handle, List, Real, Text, Vec
from mevrik.lang.verilog import ast

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.classinfo import ClassField, ClassInfo
    from mevrik.lang.verilog.elaborate.scope import Shape
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

MOST_CYCLIC = 16  # bits of a randc property: its values not yet taken lie in a list (18.4.2)
UNSUPPORTED = {"rand_mode": "18.8", "constraint_mode": "18.9"}
SOURCE_METHODS = ("srandom", "get_randstate", "set_randstate")
STD_RANDOMIZE = "std::randomize"
HOOKS = ("pre_randomize", "post_randomize")


class _Variable(Frozen, frozen=True):
    """What gets a value and is no property."""

    name: str
    pos: int


def is_randomized(info: ClassInfo) -> bool:
    """Whether a class has something of its own to say about randomize()."""
    return any(f.random for f in info.fields.values()) or any(name in info.methods for name in HOOKS)


def left_list(f: ClassField) -> str:
    """The hidden property with the values that a cyclic one has still to take."""
    return f"{f.name} left"


def left_declaration(f: ClassField) -> ast.VarDecl:
    open_end = ast.Range(f.pos, ast.Name(f.pos, "$"), None)
    return ast.VarDecl(f.pos, ast.DataType(f.pos, "int"), [ast.Declarator(f.pos, left_list(f), [open_end])])


def randomize_method(elab: UnitElaborator, info: ClassInfo, only: Sequence[str] | None = None) -> ast.Function:
    """`only`: the properties that get a value, random or not by their declaration (18.11)."""
    pos = info.tree.pos
    body: list[ast.Stmt] = []
    for hook in HOOKS:
        if hook == "post_randomize":
            for c in reversed([c for c in info.line() if not c.tree.interface]):
                for f in c.fields.values():
                    if f.random if only is None else f.name in only:
                        body.append(_value(elab, f))
        if info.find_method(hook) is not None:
            body.append(ast.CallStmt(pos, ast.Call(pos, ast.Member(pos, ast.Name(pos, "this"), hook), [])))
    body.append(ast.Jump(pos, "return", _number(pos, 1)))
    name = "randomize" if only is None else f"randomize {', '.join(only)}"
    return ast.Function(pos, name, ast.DataType(pos, "int"), [], [], ast.Block(pos, "", [], body), True, False)


def provided_method(elab: UnitElaborator, info: ClassInfo, name: str) -> ast.Function | None:
    """A method that every class has and nothing has asked for before: randomize(), or one for the object's source of random numbers."""
    if name == "randomize":
        return randomize_method(elab, info)
    if name not in SOURCE_METHODS:
        return None
    found = elab.package_scope("std", info.tree.pos).find("drawing")
    assert found is not None
    items = (member.item for member in cast("ClassInfo", found[0]).tree.items)
    return deepcopy(next(f for f in items if isinstance(f, ast.Function) and f.name == name))


def draw_variables(elab: UnitElaborator, call: ast.Call) -> n.Expr:
    """`std::randomize(a, b)`: a value for each variable; 1, for there is nothing that could fail (18.12)."""
    steps: list[n.Stmt] = []
    for arg in call.args:
        if arg is None:
            continue
        shape = elab.shape_of(arg)
        if shape.unpacked:
            elab.error(arg.pos, "std::randomize of an array is not supported (IEEE 1800-2017 18.12)", "unsupported")
            continue
        steps += elab.statement(_draw(elab, _Variable("this variable", arg.pos), arg, shape))
    return n.Effect(INTEGER, steps, n.Const(INTEGER, 1))


def _number(pos: int, value: int) -> ast.Number:
    return ast.Number(pos, None, True, value, 0)


def _value(elab: UnitElaborator, f: ClassField) -> ast.Stmt:
    """Gives a property its random value, or each of its elements one."""
    target: ast.Expr = ast.Member(f.pos, ast.Name(f.pos, "this"), f.name)
    whole = target
    shape = f.shape
    names: list[tuple[int, str | None]] = []
    for k in range(len(shape.unpacked)):
        names.append((f.pos, f"{f.name} index {k}"))
    if isinstance(shape.type, List):
        names.append((f.pos, f"{f.name} index"))
        assert shape.inner is not None
        shape = shape.inner
    shape = replace(shape, unpacked=())
    for _, name in names:
        target = ast.Index(f.pos, target, ast.Name(f.pos, name or ""))
    if f.random == "randc" and not names:
        made = _cyclic(elab, f, target)
    else:
        made = _draw(elab, f, target, shape)
    return ast.Foreach(f.pos, whole, names, made) if names else made


def _draw(elab: UnitElaborator, f: ClassField | _Variable, target: ast.Expr, shape: Shape) -> ast.Stmt:
    pos, t = f.pos, shape.type
    if isinstance(t, Handle):  # the object behind a handle, if there is one (18.4)
        call = ast.CallStmt(pos, ast.Call(pos, ast.Member(pos, target, "randomize"), []), True)
        return ast.If(pos, ast.Binary(pos, "!=", target, ast.Name(pos, "null")), call, None)
    if isinstance(t, (Text, Real)) or not isinstance(t, Vec) or shape.loose or shape.spread is not None:
        elab.error(
            pos, f"'{f.name}' can't be random: a random property is a whole number, an enum or an object (18.4)", "unsupported"
        )
        return ast.Null(pos)
    if shape.labels is not None:
        pick = _pick(f, _number(pos, len(shape.labels) - 1))
        arms: list[tuple[list[ast.Expr], ast.Stmt]] = [
            ([_number(pos, k)], _assign(pos, target, _cast(pos, f, shape, _constant(pos, t.width, v))))
            for k, v in enumerate(shape.labels)
        ]
        return ast.Case(pos, "case", pick, arms)
    return _assign(pos, target, _cast(pos, f, shape, ast.Concat(pos, [_bits(f) for _ in range((t.width + 31) // 32)])))


def _bits(f: ClassField | _Variable) -> ast.Expr:
    """The next 32 random bits: of the object for a property of it, else of the process (18.14)."""
    return _call(f.pos, "$urandom") if isinstance(f, _Variable) else _call(f.pos, "$draw_of", ast.Name(f.pos, "this"))


def _pick(f: ClassField | _Variable, most: ast.Expr) -> ast.Expr:
    """A random number up to `most`, from the same source."""
    if isinstance(f, _Variable):
        return _call(f.pos, "$urandom_range", most)
    return _call(f.pos, "$draw_range_of", ast.Name(f.pos, "this"), most)


def _constant(pos: int, width: int, value: int) -> ast.Number:
    return ast.Number(pos, width, False, value & ((1 << width) - 1), 0)


def _call(pos: int, name: str, *args: ast.Expr) -> ast.Call:
    return ast.Call(pos, ast.Name(pos, name), list(args))


def _cast(pos: int, f: ClassField | _Variable, shape: Shape, value: ast.Expr) -> ast.Expr:
    return ast.Cast(pos, ast.DataType(pos, "known", name=f.name, known=shape), value)


def _assign(pos: int, target: ast.Expr, value: ast.Expr) -> ast.Stmt:
    return ast.Assign(pos, target, value, False)


def _cyclic(elab: UnitElaborator, f: ClassField, target: ast.Expr) -> ast.Stmt:
    """Takes one of the values that are left; when none is, all are there again (18.4.2)."""
    pos, shape = f.pos, f.shape
    t = shape.type
    if not isinstance(t, Vec) or isinstance(t, (Handle, Text)) or (shape.labels is None and t.width > MOST_CYCLIC):
        elab.error(pos, f"'{f.name}' can't be cyclic: a randc property has up to {MOST_CYCLIC} bits (18.4.2)", "unsupported")
        return ast.Null(pos)
    left = ast.Member(pos, ast.Name(pos, "this"), left_list(f))
    size = ast.Call(pos, ast.Member(pos, left, "size"), [])
    push = ast.Member(pos, left, "push_back")
    if shape.labels is not None:
        parts: list[ast.Stmt] = [ast.CallStmt(pos, ast.Call(pos, push, [_number(pos, v)])) for v in shape.labels]
        fill: ast.Stmt = ast.Block(pos, "", [], parts)
    else:
        fill = ast.Repeat(pos, _number(pos, 1 << t.width), ast.CallStmt(pos, ast.Call(pos, push, [size])))
    empty = ast.If(pos, ast.Binary(pos, "==", size, _number(pos, 0)), fill, None)
    at = f"{f.name} at"
    pick = _pick(f, ast.Binary(pos, "-", size, _number(pos, 1)))
    decl = ast.VarDecl(pos, ast.DataType(pos, "int"), [ast.Declarator(pos, at)], "automatic")
    chosen = ast.Index(pos, left, ast.Name(pos, at))
    return ast.Block(
        pos,
        "",
        [decl],
        [
            empty,
            _assign(pos, ast.Name(pos, at), pick),
            _assign(pos, target, _cast(pos, f, shape, chosen)),
            ast.CallStmt(pos, ast.Call(pos, ast.Member(pos, left, "delete"), [ast.Name(pos, at)])),
        ],
    )
