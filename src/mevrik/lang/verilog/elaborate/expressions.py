"""Expressions: names resolved, sizes and signs settled (IEEE 1364-2005 5.4 and 5.5).

Two steps: `shape` finds the self-determined type of a syntax tree, `build` makes the expression for the type that its
context gives it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from mevrik.design import nodes as n
from mevrik.design.evaluate import MATH, Evaluator, NotConstant
from mevrik.design.types import BIT, INTEGER, REAL, TEXT, EventType, Handle, List, Real, Text, Type, Vec
from mevrik.design.unit import Signal, Subprogram
from mevrik.design.values import Logic
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.classes import ClassElaborator
from mevrik.lang.verilog.elaborate.context import Abandon, Context
from mevrik.lang.verilog.elaborate.scope import BlockName, Field, InstanceName, Param, Scope, Shape, SubDecl, TypeName
from mevrik.lang.verilog.elaborate.texts import BYTE

_CONTEXT = {"+", "-", "*", "/", "%", "&", "|", "^", "^~", "~^"}
_COMPARE = {"==", "!=", "===", "!==", "<", "<=", ">", ">=", "==?", "!=?"}
_SHIFT = {"<<", ">>", "<<<", ">>>"}
_FREE = -(1 << 62)
CASTS: dict[str, Vec] = {
    "int": Vec(32, True, False), "integer": Vec(32, True), "byte": Vec(8, True, False), "shortint": Vec(16, True, False),
    "longint": Vec(64, True, False), "bit": Vec(1, False, False), "logic": Vec(1), "reg": Vec(1), "time": Vec(64),
}  # fmt: skip

# Types of system functions; None: as the argument.
SYSTEM_TYPES: dict[str, Type | None] = {
    "$time": Vec(64), "$stime": Vec(32), "$realtime": REAL, "$random": INTEGER, "$urandom": Vec(32, False, False),
    "$urandom_range": Vec(32, False, False), "$signed": None, "$unsigned": None, "$clog2": INTEGER, "$bits": INTEGER,
    "$countones": Vec(32, True, False), "$onehot": Vec(1, False, False), "$onehot0": Vec(1, False, False),
    "$isunknown": Vec(1, False, False), "$rtoi": INTEGER, "$itor": REAL, "$realtobits": Vec(64), "$bitstoreal": REAL,
    "$test$plusargs": INTEGER, "$value$plusargs": INTEGER, "$fopen": INTEGER, "$feof": INTEGER, "$fgetc": INTEGER,
    "$size": INTEGER, "$left": INTEGER, "$right": INTEGER, "$high": INTEGER, "$low": INTEGER,
    **dict.fromkeys(MATH, REAL),
}  # fmt: skip


NULL = Handle(64, False, False, "")


@dataclass(slots=True)
class Selected:
    """A signal or constant with the selections made so far; what is left to select decides what it stands for."""

    signal: Signal | None
    constant: n.Expr | None
    dims: tuple[tuple[int, int], ...]
    packed: tuple[tuple[int, int], ...]
    element: n.Offset | None
    bits: n.Offset | None
    width: int
    signed: bool
    fields: dict[str, Field] = field(default_factory=dict)
    partial: bool = False  # a part-select: nothing more may follow


class ExpressionElaborator(ClassElaborator):
    context: Context
    scope: Scope

    # What the other parts of the elaborator provide.
    def resolve(self, tree: ast.Expr, scope: Scope) -> tuple[object, list[ast.Expr]]:
        raise NotImplementedError

    def subprogram(self, entity: SubDecl) -> Subprogram:
        raise NotImplementedError

    def shape_of_signal(self, signal: Signal) -> Shape:
        raise NotImplementedError

    def resolve_type(self, tree: ast.DataType) -> Shape:
        raise NotImplementedError

    def error(self, pos: int, message: str, code: str) -> Abandon:
        self.context.diagnostics.error(pos, message, code)
        return Abandon()

    # ---- self-determined types ----

    def shape(self, e: ast.Expr) -> Type:
        match e:
            case ast.Number(width=width, signed=signed):
                return Vec(1 if e.fill else (32 if width is None else width), signed)
            case ast.RealNumber() | ast.TimeLiteral():
                return REAL
            case ast.StringLiteral(value=value):
                return Vec(max(8 * len(value), 8))
            case ast.Name() | ast.Member() | ast.Index() | ast.PartSelect():
                if isinstance(e, ast.Name) and e.name in ("$", "null", "this"):
                    return INTEGER if e.name == "$" else NULL if e.name == "null" else n.vec(self.this_value(e.pos))
                property_ = self.field_of(e)
                if property_ is not None:
                    return property_[1].shape.type
                static = self.static_of(e)
                if static is not None:
                    return static.type
                if self.method_of(e) is not None:
                    return self._shape_of_call(ast.Call(e.pos, e, []))
                method = self.shape_of_method(e) or self.shape_of_list_method(e)
                return method if method is not None else self._shape_of_selection(e)
            case ast.Unary(op=op, operand=operand):
                t = self.shape(operand)
                if op in ("+", "-"):
                    return t
                if op == "~":
                    return self._vec(t, e)
                return BIT
            case ast.Binary(op=op, left=left, right=right):
                if op in _COMPARE or op in ("&&", "||", "inside"):
                    return BIT
                a = self.shape(left)
                if op in _SHIFT:
                    return self._vec(a, e)
                b = self.shape(right)
                if isinstance(a, Real) or isinstance(b, Real):
                    return REAL
                if op == "**":
                    return a
                return _wider(self._vec(a, e), self._vec(b, e))
            case ast.Ternary(then=then, other=other):
                a, b = self.shape(then), self.shape(other)
                if isinstance(a, Text) or isinstance(b, Text):
                    return TEXT
                if isinstance(a, Real) or isinstance(b, Real):
                    return REAL
                return _wider(self._vec(a, e), self._vec(b, e))
            case ast.Concat(parts=parts):
                if any(self._is_text(p) for p in parts):
                    return TEXT
                return Vec(sum(self._part_width(p) for p in parts))
            case ast.Replicate(count=count, parts=parts):
                if any(self._is_text(p) for p in parts):
                    return TEXT
                times = self.constant_int(count, "the count of a replication")
                return Vec(max(times, 0) * sum(self._part_width(p) for p in parts))
            case ast.Call():
                return self._shape_of_call(e)
            case ast.Cast():
                return self._shape_of_cast(e)
            case ast.MinTypMax(typical=typical):
                return self.shape(typical)
        if isinstance(e, ast.Pattern):
            message = (
                "a pattern '{…} fills a variable; as an operand or argument here it is not supported yet (IEEE 1800-2017 10.9)"
            )
            raise self.error(e.pos, message, "unsupported")
        raise self.error(e.pos, "this has no value that could be used here", "no-value")

    def _vec(self, t: Type, e: ast.Expr) -> Vec:
        if isinstance(t, Vec):
            return t
        what = "a real number" if isinstance(t, Real) else "an event"
        raise self.error(e.pos, f"this operator can't take {what}; it works on bits", "operand-type")

    def _part_width(self, part: ast.Expr) -> int:
        if isinstance(part, ast.Number) and part.width is None:
            if part.fill:
                return 1
            self.context.diagnostics.error(
                part.pos, "a number inside a concatenation needs a size, such as 8'd1 (5.1.14)", "unsized-concat"
            )
            return 32
        return self._vec(self.shape(part), part).width

    def _is_text(self, e: ast.Expr) -> bool:
        return not isinstance(e, (ast.Number, ast.StringLiteral)) and isinstance(self.shape(e), Text)

    def entity_of(self, e: ast.Expr) -> object | None:
        """What a name stands for, or a member of something that can be named; None, without a message, if nothing."""
        if isinstance(e, ast.Name):
            found = self.scope.find(e.name)
            return found[0] if found is not None else None
        if not isinstance(e, ast.Member):
            return None
        outer = self.entity_of(e.base)
        if isinstance(outer, Signal):
            fields = self.shape_of_signal(outer).fields
            return fields.get(e.name)
        return outer if outer is not None and not isinstance(outer, Param) else None

    def _shape_of_selection(self, e: ast.Expr) -> Type:
        if isinstance(e, ast.Index) and self.text_base(e) is not None:
            return BYTE
        if isinstance(e, ast.Index):
            signal = self.list_of(e.base)
            if signal is not None and isinstance(signal.type, List):
                return signal.type.element
        signal = self.list_of(e)
        if signal is not None:
            return signal.type
        s = self.selected(e)
        if s.signal is not None and isinstance(s.signal.type, (Text, Handle)) and not s.dims and s.bits is None:
            return s.signal.type
        if s.signal is not None and not isinstance(s.signal.type, Vec) and s.bits is None:
            return s.signal.type
        if s.constant is not None and s.bits is None:
            return s.constant.type
        return self.selected_type(s)

    def selected_type(self, s: Selected) -> Vec:
        four = not (s.signal is not None and isinstance(s.signal.type, Vec) and not s.signal.type.four)
        return Vec(s.width, s.signed, four)

    def _shape_of_cast(self, e: ast.Cast) -> Type:
        target = e.target
        if isinstance(target, ast.Name):
            if target.name in CASTS:
                return CASTS[target.name]
            if target.name == "real":
                return REAL
            if target.name in ("signed", "unsigned"):
                t = self._vec(self.shape(e.operand), e)
                return Vec(t.width, target.name == "signed", t.four)
            found = self.scope.find(target.name)
            if found is not None and isinstance(found[0], TypeName):
                return found[0].shape.type
        if isinstance(target, ast.DataType):
            return self.resolve_type(target).type
        t = self._vec(self.shape(e.operand), e)
        return Vec(self.constant_int(target, "the size of a cast"), t.signed, t.four)

    def text_base(self, e: ast.Index) -> Signal | None:
        """The string that an index selects a character of."""
        depth = 0
        base: ast.Expr = e
        while isinstance(base, ast.Index):
            depth += 1
            base = base.base
        entity = self.entity_of(base) if isinstance(base, (ast.Name, ast.Member)) else None
        return entity if isinstance(entity, Signal) and isinstance(entity.type, Text) and depth > len(entity.dims) else None

    def _shape_of_call(self, e: ast.Call) -> Type:
        method = self.shape_of_method(e) or self.shape_of_list_method(e)
        if method is not None:
            return method
        own = self.method_of(e)
        if own is not None:
            made = own[1].info.home.subprogram(own[1].decl)
            if made.type is None:
                raise self.error(e.pos, f"'{made.name}' has no value", "task-value")
            return made.type
        if isinstance(e.target, ast.Name) and e.target.name == "$sformatf":
            return TEXT
        if isinstance(e.target, ast.Name) and e.target.name.startswith("$"):
            name = e.target.name
            if name not in SYSTEM_TYPES:
                raise self.unknown_system(e.target)
            t = SYSTEM_TYPES[name]
            if t is None:
                arg = self._vec(self.shape(self.argument(e, 0)), e)
                return Vec(arg.width, name == "$signed", arg.four)
            return t
        sub = self.called(e)
        if sub.type is None:
            raise self.error(e.pos, f"'{sub.name}' is a task; only a function has a value", "task-value")
        return sub.type

    def unknown_system(self, target: ast.Name) -> Abandon:
        hint = nearest(target.name, SYSTEM_TYPES)
        return self.error(target.pos, f"the system function {target.name} is not supported{hint}", "unsupported")

    def argument(self, e: ast.Call, index: int) -> ast.Expr:
        arg = e.args[index] if index < len(e.args) else None
        if arg is None:
            name = e.target.name if isinstance(e.target, ast.Name) else "the function"
            raise self.error(e.pos, f"{name} needs {index + 1} argument{'s' if index else ''}", "arguments")
        return arg

    def called(self, e: ast.Call) -> Subprogram:
        scope = self.scope.of_call(e.target.name) if isinstance(e.target, ast.Name) else self.scope
        entity, rest = self.resolve(e.target, scope)
        if not isinstance(entity, SubDecl) or rest:
            name = e.target.name if isinstance(e.target, (ast.Name, ast.Member)) else "this"
            raise self.error(e.pos, f"'{name}' is no function or task, so it can't be called", "not-callable")
        return self.subprogram(entity)

    # ---- building ----

    def expr(self, e: ast.Expr) -> n.Expr:
        """The expression with its self-determined type."""
        return self.build(e, self.shape(e))

    def for_target(self, e: ast.Expr, target: Type) -> n.Expr:
        """The value to assign to something of type `target` (5.4.1, 5.5.3)."""
        if isinstance(e, ast.New):
            return self.new_object(e, target)
        t = self.shape(e)
        if isinstance(target, Handle):
            return self.handle_value(e, target)
        if isinstance(target, List):
            return self.list_clone(e, target) if self.list_of(e) is not None else self.build(e, self.shape(e))
        if isinstance(target, Text):
            return self.text(e)
        if isinstance(t, Text) and isinstance(target, Vec):
            return n.SysCall(target, "$text_into", (self.build(e, TEXT),), e.pos)
        if isinstance(target, Real):
            return self.to_real(self.build(e, t))
        if isinstance(target, EventType):
            raise self.error(e.pos, "an event holds no value; use '->' to trigger it", "operand-type")
        if isinstance(t, Real):
            return n.ToVec(target, self.build(e, t))
        if isinstance(t, EventType):
            raise self.error(e.pos, "an event has no value to assign", "operand-type")
        if isinstance(e, ast.Number) and e.fill:
            return _fill(e, target.width)
        wide = Vec(max(t.width, target.width), t.signed, t.four)
        return fold_resize(self.build(e, wide), Vec(target.width, t.signed, target.four))

    def handle_value(self, e: ast.Expr, target: Handle) -> n.Expr:
        """A handle for a variable of a class: null, or an object of that class or one that extends it (8.15)."""
        t = self.shape(e)
        if not isinstance(t, Handle):
            raise self.error(e.pos, "an object is needed here", "operand-type")
        wanted, given = self.class_of_type(target), self.class_of_type(t)
        if given is not None and wanted is not None and wanted not in given.line():
            message = f"an object of class '{given.tree.name}' is no '{wanted.tree.name}'; $cast tries it (8.16)"
            raise self.error(e.pos, message, "class")
        return self.build(e, t)

    def truth(self, e: ast.Expr) -> n.Expr:
        return self.expr(e)

    def build(self, e: ast.Expr, t: Type) -> n.Expr:
        """The expression in a context of type `t`, which is at least as wide as its own."""
        if isinstance(t, Real):
            return self._build_real(e)
        assert isinstance(t, Vec)
        match e:
            case ast.Number(val=val, unk=unk, width=width):
                if e.fill:
                    return _fill(e, t.width)
                own = Vec(32 if width is None else width, e.signed)
                if width is None and unk >> 31 and t.width > 32:  # 3.5.1: x and z extend an unsized number
                    high = ((1 << t.width) - 1) & ~((1 << 32) - 1)
                    return n.Const(t, val | (high if val >> 31 & 1 else 0), unk | high)
                return self._adapt(self._number(e, own, val, unk), t)
            case ast.StringLiteral(value=value):
                const = n.Const(Vec(max(8 * len(value), 8)), int.from_bytes(value, "big"), 0, True)
                return self._adapt(const, t)
            case ast.Name() | ast.Member() | ast.Index() | ast.PartSelect():
                if isinstance(e, ast.Name) and e.name in ("$", "null", "this"):
                    if e.name == "null":
                        return n.Const(t, 0)
                    return self.this_value(e.pos) if e.name == "this" else self._adapt(self.last_index(e), t)
                held = self.field_value(e)
                if held is not None:
                    return self._adapt(held, t)
                static = self.static_of(e)
                if static is not None:
                    return self._adapt(n.Ref(static.type, static), t)
                if self.method_of(e) is not None:
                    return self._adapt(self._call(ast.Call(e.pos, e, [])), t)
                if self.method(e) is not None:
                    return self._adapt(self.build_method(e), t)
                if self.shape_of_list_method(e) is not None:
                    return self._adapt(self.build_list_method(e), t)
                if isinstance(e, ast.Index):
                    element = self.element_value(e)
                    if element is not None:
                        return self._adapt(element, t)
                if isinstance(e, ast.Index) and self.text_base(e) is not None:
                    get = n.SysCall(BYTE, "$text_get", (self.text(e.base), self.expr(e.index)), e.pos)
                    return self._adapt(get, t)
                return self._adapt(self.read(e), t)
            case ast.Unary():
                return self._unary(e, t)
            case ast.Binary():
                return self._binary(e, t)
            case ast.Ternary(cond=cond, then=then, other=other):
                c = self.truth(cond)
                if isinstance(t, Text):
                    return n.Choice(TEXT, c, self.text(then), self.text(other))
                a, b = self.build_operand(then, t), self.build_operand(other, t)
                if isinstance(c, n.Const) and not c.unk:
                    return a if c.val else b
                return n.Choice(t, c, a, b)
            case ast.Concat(parts=parts) if isinstance(t, Text):
                return self.text_concat(parts)
            case ast.Replicate(count=count, parts=parts) if isinstance(t, Text):
                return n.SysCall(TEXT, "$text_repeat", (self.text_concat(parts), self.expr(count)), e.pos)
            case ast.Concat(parts=parts):
                built = tuple(self._part(p) for p in parts)
                made = n.Concat(Vec(sum(n.vec(p).width for p in built)), built)
                return self._adapt(self._folded(made, built), t)
            case ast.Replicate(count=count, parts=parts):
                times = self.constant_int(count, "the count of a replication")
                if times < 0:
                    raise self.error(e.pos, f"the count of a replication can't be {times}", "replication")
                built = tuple(self._part(p) for p in parts)
                inner: n.Expr = n.Concat(Vec(sum(n.vec(p).width for p in built)), built)
                if len(built) == 1:
                    inner = built[0]
                width = n.vec(inner).width * times
                return self._adapt(self._folded(n.Repeat(Vec(width), times, inner), (inner,)), t)
            case ast.Call():
                return self._adapt(self._call(e), t)
            case ast.Cast():
                return self._adapt(self._cast(e), t)
            case ast.MinTypMax(typical=typical):
                return self.build(typical, t)
        raise self.error(e.pos, "this has no value that could be used here", "no-value")

    def build_operand(self, e: ast.Expr, t: Vec) -> n.Expr:
        own = self.shape(e)
        if isinstance(own, Real):
            return n.ToVec(t, self._build_real(e))
        return self.build(e, t)

    def _number(self, e: ast.Number, own: Vec, val: int, unk: int) -> n.Expr:
        keep = (1 << own.width) - 1
        return n.Const(own, val & keep, unk & keep)

    def _adapt(self, e: n.Expr, t: Vec) -> n.Expr:
        """A simple operand converted to the type of its context (5.5.2)."""
        if isinstance(e.type, Real):
            return n.ToVec(t, e)
        own = n.vec(e)
        if own.width == t.width:
            if own.signed == t.signed:
                return e
            return n.Resize(Vec(t.width, t.signed, own.four), e) if not isinstance(e, n.Const) else fold_resize(e, t)
        return fold_resize(e, Vec(t.width, t.signed, own.four))

    def _part(self, part: ast.Expr) -> n.Expr:
        if isinstance(part, ast.Replicate):
            times = self.constant_int(part.count, "the count of a replication")
            if times == 0:
                return n.Concat(Vec(0), ())
        e = self.expr(part)
        if not isinstance(e.type, Vec):
            raise self.error(part.pos, "a real number or event can't be part of a concatenation", "operand-type")
        return e

    def _folded(self, made: n.Expr, parts: tuple[n.Expr, ...]) -> n.Expr:
        if all(isinstance(p, n.Const) for p in parts):
            return fold(made)
        return made

    def _build_real(self, e: ast.Expr) -> n.Expr:
        t = self.shape(e)
        if not isinstance(t, Real):
            return self.to_real(self.build(e, t))
        match e:
            case ast.RealNumber(value=value):
                return n.RealConst(REAL, value)
            case ast.TimeLiteral(seconds=seconds):
                return n.RealConst(REAL, seconds / 10.0 ** self.time_unit())
            case ast.Name() | ast.Member() | ast.Index():
                return self.read(e)
            case ast.Unary(op=op, operand=operand):
                return fold_if_constant(n.Unary(REAL, op, self._build_real(operand)))
            case ast.Binary(op=op, left=left, right=right):
                if op in ("%", "&", "|", "^", "^~", "~^"):
                    raise self.error(e.pos, f"the operator {op} takes no real numbers (5.1.2)", "operand-type")
                return fold_if_constant(n.Binary(REAL, op, self._build_real(left), self._build_real(right)))
            case ast.Ternary(cond=cond, then=then, other=other):
                return n.Choice(REAL, self.truth(cond), self._build_real(then), self._build_real(other))
            case ast.Call():
                return self._call(e)
            case ast.Cast():
                return self._cast(e)
            case ast.MinTypMax(typical=typical):
                return self._build_real(typical)
        raise self.error(e.pos, "this has no value that could be used here", "no-value")

    def time_unit(self) -> int:
        raise NotImplementedError

    def to_real(self, e: n.Expr) -> n.Expr:
        if isinstance(e.type, Real):
            return e
        return fold_if_constant(n.ToReal(REAL, e))

    def _unary(self, e: ast.Unary, t: Vec) -> n.Expr:
        op = e.op
        if op in ("+", "-", "~"):
            return fold_if_constant(n.Unary(t, op, self.build(e.operand, t)))
        operand = self.expr(e.operand)
        if op != "!" and not isinstance(operand.type, Vec):
            raise self.error(e.pos, f"the operator {op} takes no real numbers (5.1.2)", "operand-type")
        return self._adapt(fold_if_constant(n.Unary(BIT, op, operand)), t)

    def _binary(self, e: ast.Binary, t: Vec) -> n.Expr:
        op = e.op
        if op in _CONTEXT:
            return fold_if_constant(n.Binary(t, op, self.build_operand(e.left, t), self.build_operand(e.right, t)))
        if op in _SHIFT or op == "**":
            return fold_if_constant(n.Binary(t, op, self.build(e.left, t), self.expr(e.right)))
        if op in ("&&", "||"):
            return self._adapt(fold_if_constant(n.Binary(BIT, op, self.truth(e.left), self.truth(e.right))), t)
        if op == "inside":
            return self._adapt(self._inside(e), t)
        return self._adapt(self.compare(op, e.left, e.right), t)

    def compare(self, op: str, left: ast.Expr, right: ast.Expr) -> n.Expr:
        first, second = self.list_of(left), self.list_of(right)
        if first is not None and second is not None and op in ("==", "!=", "===", "!=="):
            same = n.ListValue(BIT, "equal", self.list_ref(first), (self.list_ref(second),))
            return same if op[0] == "=" else n.Unary(BIT, "!", same)
        a, b = self.shape(left), self.shape(right)
        if isinstance(a, Text) or isinstance(b, Text):
            return self.text_compare(op, left, right)
        if isinstance(a, Real) or isinstance(b, Real):
            return fold_if_constant(n.Binary(BIT, op, self._build_real(left), self._build_real(right)))
        common = _wider(self._vec(a, left), self._vec(b, right))
        return fold_if_constant(n.Binary(BIT, op, self.build(left, common), self.build(right, common)))

    def _inside(self, e: ast.Binary) -> n.Expr:
        assert isinstance(e.right, ast.Concat)
        result: n.Expr | None = None
        for part in e.right.parts:
            if isinstance(part, ast.MinTypMax):
                bounds = [
                    self.compare(op, e.left, bound)
                    for op, bound in ((">=", part.low), ("<=", part.high))
                    if not (isinstance(bound, ast.Name) and bound.name == "$")  # no bound at this end
                ]
                hit: n.Expr = n.Const(BIT, 1)
                if bounds:
                    hit = bounds[0] if len(bounds) == 1 else n.Binary(BIT, "&&", *bounds)
            else:
                hit = self.list_has(e.left, part) or self.compare("==?", e.left, part)
            result = hit if result is None else n.Binary(BIT, "||", result, hit)
        assert result is not None
        return result

    # ---- calls and casts ----

    def _call(self, e: ast.Call) -> n.Expr:
        if self.method(e) is not None:
            return self.build_method(e)
        if self.shape_of_list_method(e) is not None:
            return self.build_list_method(e)
        own = self.method_of(e)
        if own is not None:
            base, method, by_class = own
            made = method.info.home.subprogram(method.decl)
            assert made.type is not None
            obj = self.object_for(base, method, e.pos)
            values = self.method_arguments(made, e, len(obj))
            variants = self.variants(method) if by_class and obj else ()
            return n.Call(made.type, made, (*obj, *values), e.pos, variants, self.outputs(made, e))
        if isinstance(e.target, ast.Name) and e.target.name == "$sformatf":
            args = (self.text(self.argument(e, 0)), *(self.expr(a) for a in e.args[1:] if a is not None))
            return n.SysCall(TEXT, "$text_format", args, e.pos, self.time_unit(), self.scope.prefix)
        if isinstance(e.target, ast.Name) and e.target.name.startswith("$"):
            return self._system_call(e, e.target.name)
        sub = self.called(e)
        assert sub.type is not None
        return n.Call(sub.type, sub, tuple(self.bind_arguments(sub, e)), e.pos, (), self.outputs(sub, e))

    def outputs(self, sub: Subprogram, e: ast.Call) -> tuple[tuple[n.LRef, ...] | None, ...]:
        """Where a function puts its output arguments; empty if it has none."""
        if all(d == "input" for d in sub.directions):
            return ()
        found: list[tuple[n.LRef, ...] | None] = []
        for direction, arg in zip(sub.directions, self.arguments(sub, e)):
            found.append(self.place(arg) if direction != "input" and arg is not None else None)
        return tuple(found)

    def arguments(self, sub: Subprogram, e: ast.Call) -> list[ast.Expr | None]:
        """The arguments in the order of the ports, those given by name put in their places (IEEE 1800-2017 13.5.4)."""
        if len(e.args) > len(sub.ports):
            count = len(sub.ports)
            raise self.error(e.pos, f"'{sub.name}' takes {count} arguments, {len(e.args)} are given", "arguments")
        hidden = int(bool(sub.ports) and sub.ports[0].name.endswith(".this"))
        if hidden and len(e.args) > len(sub.ports) - 1:
            raise self.error(e.pos, f"'{sub.name}' takes {len(sub.ports) - 1} arguments, {len(e.args)} are given", "arguments")
        found: list[ast.Expr | None] = [None] * len(sub.ports)
        places = {p.name.rpartition(".")[2]: k for k, p in enumerate(sub.ports)}
        for index, arg in enumerate(e.args):
            if not isinstance(arg, ast.NamedArg):
                found[index + hidden] = arg
                continue
            if arg.name not in places:
                raise self.error(arg.pos, f"'{sub.name}' has no argument '{arg.name}'{nearest(arg.name, places)}", "arguments")
            found[places[arg.name]] = arg.value
        return found

    def bind_arguments(self, sub: Subprogram, e: ast.Call) -> list[n.Expr]:
        values: list[n.Expr] = []
        for index, (port, arg) in enumerate(zip(sub.ports, self.arguments(sub, e))):
            if arg is None:
                default = sub.defaults[index]
                if default is None:
                    raise self.error(e.pos, f"'{sub.name}' needs a value for its argument '{port.name}'", "arguments")
                values.append(default)
            else:
                values.append(self.for_target(arg, port.type))
        return values

    def _system_call(self, e: ast.Call, name: str) -> n.Expr:
        if name not in SYSTEM_TYPES:
            assert isinstance(e.target, ast.Name)
            raise self.unknown_system(e.target)
        t = SYSTEM_TYPES[name]
        if name == "$bits":
            arg = self.argument(e, 0)
            if isinstance(arg, ast.Name):
                if arg.name in CASTS:
                    return n.Const(INTEGER, CASTS[arg.name].width)
                found = self.scope.find(arg.name)
                if found is not None and isinstance(found[0], TypeName):
                    return n.Const(INTEGER, self._vec(found[0].shape.type, e).width)
            if isinstance(arg, (ast.Name, ast.Member, ast.Index)):
                s = self.selected(arg)
                if s.dims:  # all elements of an array
                    return n.Const(INTEGER, s.width * math.prod(abs(a - b) + 1 for a, b in s.dims))
            return n.Const(INTEGER, self._vec(self.shape(arg), e).width)
        if name in ("$size", "$left", "$right", "$high", "$low"):
            return self._array_query(e, name)
        if name in ("$signed", "$unsigned"):
            arg_type = self._vec(self.shape(self.argument(e, 0)), e)
            value = self.build(self.argument(e, 0), arg_type)
            return fold_resize(value, Vec(arg_type.width, name == "$signed", arg_type.four))
        if name == "$value$plusargs":
            text = self.expr(self.argument(e, 0))
            places = self.place(self.argument(e, 1))
            return n.SysCall(INTEGER, name, (text, *places), e.pos)
        if name == "$random" and e.args:
            return n.SysCall(INTEGER, name, tuple(self.place(self.argument(e, 0))), e.pos)
        if name in MATH or name in ("$rtoi", "$realtobits"):
            reals = tuple(self._build_real(a) for a in e.args if a is not None)
            assert t is not None
            return fold_if_constant(n.SysCall(t, name, reals, e.pos))
        args = tuple(self.expr(a) for a in e.args if a is not None)
        assert t is not None
        if name == "$itor":
            return self.to_real(args[0]) if args else n.RealConst(REAL, 0.0)
        note = self.time_unit() if name in ("$time", "$stime", "$realtime") else 0
        call = n.SysCall(t, name, args, e.pos, note)
        return fold_if_constant(call) if args and name in ("$clog2", "$countones", "$onehot", "$onehot0") else call

    def _array_query(self, e: ast.Call, name: str) -> n.Expr:
        s = self.selected(self.argument(e, 0))
        dims = s.dims + s.packed
        if not dims:
            return n.Const(INTEGER, 1 if name == "$size" else 0)
        which = self.constant_int(self.argument(e, 1), "the dimension") - 1 if len(e.args) > 1 else 0
        left, right = dims[min(max(which, 0), len(dims) - 1)]
        value = {
            "$size": abs(left - right) + 1,
            "$left": left,
            "$right": right,
            "$high": max(left, right),
            "$low": min(left, right),
        }[name]
        return n.Const(INTEGER, value & 0xFFFFFFFF)

    def _cast(self, e: ast.Cast) -> n.Expr:
        t = self._shape_of_cast(e)
        if isinstance(t, Real):
            return self._build_real(e.operand)
        assert isinstance(t, Vec)
        own = self.shape(e.operand)
        if isinstance(own, Real):
            return n.ToVec(t, self._build_real(e.operand))
        source = self._vec(own, e)
        value = self.build(e.operand, Vec(max(source.width, t.width), source.signed, source.four))
        return fold_resize(fold_resize(value, Vec(t.width, source.signed, t.four)), t)

    # ---- selections ----

    def read(self, e: ast.Expr) -> n.Expr:
        s = self.selected(e)
        if s.constant is not None:
            if s.bits is None:
                return s.constant
            return fold_if_constant(n.Bits(Vec(s.width), s.constant, s.bits))
        assert s.signal is not None
        if s.dims:
            raise self.error(e.pos, f"'{s.signal.name}' is an array: select one element to use its value", "array-value")
        base = n.Ref(s.signal.type, s.signal, s.element)
        if s.bits is None:
            return base
        return n.Bits(self.selected_type(s), base, s.bits)

    def place(self, e: ast.Expr) -> tuple[n.LRef, ...]:
        """Where an assignment writes to, the highest bits first."""
        if isinstance(e, ast.Concat):
            return tuple(p for part in e.parts for p in self.place(part))
        s = self.selected(e)
        if s.signal is None:
            raise self.error(e.pos, f"{self.words(e)} is a constant; it can't be assigned", "assign-constant")
        if s.dims:
            raise self.error(e.pos, f"'{s.signal.name}' is an array: assign one element at a time", "array-value")
        if s.signal.type and isinstance(s.signal.type, EventType):
            raise self.error(e.pos, f"'{s.signal.name}' is an event; use '->' to trigger it", "operand-type")
        return (n.LRef(s.signal, s.element, s.bits, s.width),)

    def place_type(self, places: tuple[n.LRef, ...]) -> Type:
        if len(places) == 1 and isinstance(places[0].signal.type, (Real, Text, List, Handle)):
            return places[0].signal.type
        four = any(isinstance(p.signal.type, Vec) and p.signal.type.four for p in places)
        return Vec(sum(p.width for p in places), False, four)

    def words(self, e: ast.Expr) -> str:
        match e:
            case ast.Name(name=name):
                return f"'{name}'"
            case ast.Member(base=base, name=name):
                return f"{self.words(base)[:-1]}.{name}'"
            case ast.Index(base=base) | ast.PartSelect(base=base):
                return self.words(base)
        return "this"

    def selected(self, e: ast.Expr) -> Selected:
        entity, steps = self.resolve(e, self.scope)
        if isinstance(entity, Signal):
            t = entity.type
            shape = self.shape_of_signal(entity)
            width = t.width if isinstance(t, Vec) else 64
            signed = isinstance(t, Vec) and t.signed
            s = Selected(entity, None, entity.dims, entity.packed, None, None, width, signed, shape.fields)
        elif isinstance(entity, Param):
            t = entity.value.type
            width = t.width if isinstance(t, Vec) else 64
            packed = entity.packed or (((width - 1, 0),) if isinstance(t, Vec) else ())
            s = Selected(None, entity.value, (), packed, None, None, width, isinstance(t, Vec) and t.signed)
        else:
            raise self.error(e.pos, f"{self.words(e)} is {_kind(entity)}; a signal or constant is needed here", "not-a-value")
        for step in steps:
            self._select(s, step)
        return s

    def _select(self, s: Selected, step: ast.Expr) -> None:
        if isinstance(step, ast.Member):
            member = s.fields.get(step.name)
            if member is None:
                if s.fields:
                    hint = nearest(step.name, s.fields)
                    raise self.error(step.pos, f"the structure has no member '{step.name}'{hint}", "unknown-name")
                raise self.error(step.pos, f"{self.words(step.base)} has no member '{step.name}'", "unknown-name")
            low = (s.bits or n.Offset(0)).const + member.low
            s.bits = n.Offset(low, (s.bits or n.Offset(0)).terms)
            assert isinstance(member.type, Vec)
            s.width, s.signed = member.type.width, member.type.signed
            s.packed, s.fields = member.shape.packed, member.shape.fields
            return
        assert isinstance(step, (ast.Index, ast.PartSelect))
        if s.dims:
            if isinstance(step, ast.PartSelect):
                raise self.error(step.pos, "a range of array elements is not supported yet; use one element", "unsupported")
            self._select_element(s, step)
            return
        if s.partial or not s.packed:
            name = self.words(step.base)
            why = "is a single bit" if not s.partial else "is already a selection of bits"
            if s.signal is not None and isinstance(s.signal.type, Real):
                why = "is a real number"
            raise self.error(step.pos, f"{name} {why}, so nothing can be selected from it", "select")
        left, right = s.packed[0]
        stride = s.width // (abs(left - right) + 1)
        old = s.bits or n.Offset(0)
        s.signed = False
        s.fields = {}
        if isinstance(step, ast.Index):
            extra = self._offset(step, left, right, stride, self.words(step.base))
            s.bits = n.Offset(old.const + extra.const, old.terms + extra.terms)
            s.packed = s.packed[1:]
            s.width = stride
            return
        const, terms, count = self._range(step, left, right, stride)
        s.bits = n.Offset(old.const + const, old.terms + terms)
        s.width = count * stride
        s.partial = len(s.packed) == 1
        s.packed = ((count - 1, 0), *s.packed[1:])
        if len(s.packed) == 1:
            s.partial = True

    def _select_element(self, s: Selected, step: ast.Index) -> None:
        left, right = s.dims[0]
        inner = 1
        for a, b in s.dims[1:]:
            inner *= abs(a - b) + 1
        index = self.expr(step.index)
        low, high = min(left, right), max(left, right)
        old = s.element or n.Offset(0)
        if isinstance(index, n.Const) and not index.unk:
            value = _int(index)
            if not low <= value <= high:
                self._outside(step.index.pos, value, low, high, self.words(step.base))
            s.element = n.Offset(old.const, (*old.terms, n.Term(index, inner, low, high)))
            if low <= value <= high:
                s.element = n.Offset(old.const + (value - low) * inner, old.terms)
        else:
            term = n.Term(self.index_value(index, step), inner, low, high)
            s.element = n.Offset(old.const - low * inner, (*old.terms, term))
        s.dims = s.dims[1:]

    def index_value(self, index: n.Expr, step: ast.Index) -> n.Expr:
        if not isinstance(index.type, Vec):
            raise self.error(step.index.pos, "an index must be a whole number, not a real one", "operand-type")
        return index

    def _outside(self, pos: int, value: int, low: int, high: int, name: str) -> None:
        self.context.diagnostics.warning(
            pos,
            f"the index {value} is outside the range {low} to {high} of {name}: reading gives x, writing is lost",
            "index-range",
        )

    def _offset(self, step: ast.Index, left: int, right: int, stride: int, name: str) -> n.Offset:
        index = self.index_value(self.expr(step.index), step)
        low, high = min(left, right), max(left, right)
        sign = 1 if left >= right else -1
        if isinstance(index, n.Const) and not index.unk:
            value = _int(index)
            if not low <= value <= high:
                self._outside(step.index.pos, value, low, high, name)
                return n.Offset(0, (n.Term(index, stride, low, high),))
            return n.Offset((value - right) * sign * stride)
        return n.Offset(-right * sign * stride, (n.Term(index, sign * stride, low, high),))

    def _range(self, step: ast.PartSelect, left: int, right: int, stride: int) -> tuple[int, tuple[n.Term, ...], int]:
        down = left >= right
        name = self.words(step.base)
        if step.mode == ":":
            a = self.constant_int(step.left, "the left bound of a part-select")
            b = self.constant_int(step.right, "the right bound of a part-select")
            if (a < b) if down else (a > b):
                order = f"[{left}:{right}]"
                raise self.error(step.pos, f"the part-select [{a}:{b}] runs against the range {order} of {name}", "select-order")
            low, high = min(left, right), max(left, right)
            for bound, tree in ((a, step.left), (b, step.right)):
                if not low <= bound <= high:
                    self._outside(tree.pos, bound, low, high, name)
                    break
            return ((b - right) if down else (right - b)) * stride, (), abs(a - b) + 1
        count = self.constant_int(step.right, "the width of a part-select")
        if count <= 0:
            raise self.error(step.right.pos, f"the width of a part-select must be positive, not {count}", "select-order")
        # the lowest selected bit is at `index + shift`, counted along the declared range
        shift = 0
        if down and step.mode == "-:":
            shift = -(count - 1)
        elif not down and step.mode == "+:":
            shift = count - 1
        index = self.expr(step.left)
        sign = 1 if down else -1
        const = (shift - right) * sign * stride
        if isinstance(index, n.Const) and not index.unk:
            value = _int(index)
            low, high = min(left, right), max(left, right)
            ends = (value, value + (count - 1 if step.mode == "+:" else 1 - count))
            for bound in ends:
                if not low <= bound <= high:
                    self._outside(step.left.pos, bound, low, high, name)
                    break
            return const + value * sign * stride, (), count
        if not isinstance(index.type, Vec):
            raise self.error(step.left.pos, "an index must be a whole number, not a real one", "operand-type")
        return const, (n.Term(index, sign * stride, _FREE, -_FREE),), count

    # ---- constants ----

    def constant(self, e: ast.Expr, what: str) -> n.Expr:
        return self.constant_of(self.expr(e), e.pos, what)

    def constant_of(self, built: n.Expr, pos: int, what: str) -> n.Expr:
        if isinstance(built, (n.Const, n.RealConst)):
            return built
        try:
            value = Evaluator().value(built)
        except NotConstant as reason:
            raise self.error(pos, f"{what} must be constant: {reason}", "not-constant") from None
        except RecursionError:
            raise self.error(pos, f"{what} can't be computed: the function calls itself too deeply", "not-constant") from None
        return as_const(value, built.type)

    def constant_int(self, e: ast.Expr, what: str) -> int:
        value = self.constant(e, what)
        if isinstance(value, n.RealConst):
            return round(value.value)
        assert isinstance(value, n.Const)
        if value.unk:
            raise self.error(e.pos, f"{what} is unknown (x or z)", "not-constant")
        return _int(value)


def _kind(entity: object) -> str:
    if isinstance(entity, SubDecl):
        return "a task" if entity.tree.is_task else "a function"
    if isinstance(entity, InstanceName):
        return "an instance"
    if isinstance(entity, (Scope, BlockName)):
        return "a block"
    if isinstance(entity, TypeName):
        return "a type"
    return "something else"


def _wider(a: Vec, b: Vec) -> Vec:
    return Vec(max(a.width, b.width), a.signed and b.signed, a.four or b.four)


def _fill(e: ast.Number, width: int) -> n.Expr:
    ones = (1 << width) - 1
    return n.Const(Vec(width), ones if e.val else 0, ones if e.unk else 0)


def _int(c: n.Const) -> int:
    t = n.vec(c)
    return Logic(t.width, c.val).signed_value() if t.signed else c.val


def as_const(value: Logic | float, t: Type) -> n.Expr:
    if isinstance(value, float):
        return n.RealConst(REAL, value)
    assert isinstance(t, Vec)
    return n.Const(Vec(value.width, t.signed, t.four), value.val, value.unk)


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
        text = e.text and t.width >= own.width
        folded = fold(made)
        if text and isinstance(folded, n.Const):
            folded.text = t.width == own.width
        return folded
    return made
