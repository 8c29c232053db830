"""Strings and the methods of enums (IEEE 1800-2017 6.16 and 6.19.5)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.types import BIT, INTEGER, REAL, TEXT, Array, EventType, List, Text, Type, Vec
from mevrik.design.unit import Signal
from mevrik.lang.diagnostics import counted
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import Elaborator
from mevrik.lang.verilog.elaborate.scope import Shape

BYTE = Vec(8, True, False)
# methods of strings: the type of the result, how many arguments
STRING_METHODS: dict[str, tuple[Type, int]] = {
    "len": (INTEGER, 0), "getc": (BYTE, 1), "toupper": (TEXT, 0), "tolower": (TEXT, 0), "compare": (INTEGER, 1), "icompare": (INTEGER, 1),
    "substr": (TEXT, 2), "atoi": (INTEGER, 0), "atohex": (INTEGER, 0), "atooct": (INTEGER, 0), "atobin": (INTEGER, 0), "atoreal": (REAL, 0),
}  # fmt: skip
STRING_STEPS = {"putc": 2, "itoa": 1, "hextoa": 1, "octtoa": 1, "bintoa": 1, "realtoa": 1}
ENUM_METHODS = {"first", "last", "next", "prev", "num", "name"}
_RADIX = {"atoi": 10, "atohex": 16, "atooct": 8, "atobin": 2, "itoa": 10, "hextoa": 16, "octtoa": 8, "bintoa": 2}
_METHODS = STRING_METHODS.keys() | ENUM_METHODS
MethodCall = tuple[ast.Expr, str, list[ast.Expr | None]]


def method_parts(e: ast.Expr) -> MethodCall | None:
    """(object, name, arguments) of `object.name(arguments)`, or of `object.name`."""
    if isinstance(e, ast.Call) and isinstance(e.target, ast.Member):
        return e.target.base, e.target.name, e.args
    if isinstance(e, ast.Member):
        return e.base, e.name, []
    return None


class TextElaborator(Elaborator):
    """What an expression that is a string, or a method of a string or an enum, stands for."""

    def value_shape(self, e: ast.Expr) -> Shape | None:
        """The shape of what can have methods; None, without a message, if it has no value."""
        if isinstance(e, ast.Name):
            found = self.scope.find(e.name)
            if found is not None and isinstance(found[0], Signal):
                return self.shape_of_signal(found[0])
        return self.quietly(lambda: self.shape_of(e))

    def text(self, e: ast.Expr, assigned: bool = False) -> n.Expr:
        """The expression as a string. What is assigned to one is a string or made of literals."""
        if isinstance(e, ast.StringLiteral):
            return n.TextConst(TEXT, e.value.replace(b"\0", b""))
        t = self.shape(e)
        if isinstance(t, Text):
            return self.build(e, TEXT)
        if not isinstance(t, Vec) or isinstance(t, List):
            what = "an array" if isinstance(t, (Array, List)) else "an event" if isinstance(t, EventType) else "a real number"
            raise self.error(e.pos, f"{what} is no string; $sformatf makes one", "operand-type")
        if assigned and not _spelled(e):
            raise self.error(
                e.pos,
                f"{self.words(e)} is no string: string'(…) makes one of its bytes, $sformatf writes it (6.16)",
                "operand-type",
            )
        if isinstance(e, ast.Ternary):  # strings of different lengths: no padding with zeros
            return n.Choice(TEXT, self.expr(e.cond), self.text(e.then), self.text(e.other))
        return n.SysCall(TEXT, "$text_from", (self.build(e, t),), e.pos)

    def text_concat(self, parts: list[ast.Expr]) -> n.Expr:
        made = self.text(parts[0])
        for part in parts[1:]:
            made = n.SysCall(TEXT, "$text_join", (made, self.text(part)), part.pos)
        return made

    def text_compare(self, op: str, left: ast.Expr, right: ast.Expr) -> n.Expr:
        a, b = self.text(left), self.text(right)
        if op in ("==", "!=", "===", "!=="):
            return n.Binary(BIT, op[:2], a, b)
        order = n.SysCall(INTEGER, "$text_compare", (a, b, n.Const(INTEGER, 0)), left.pos)
        return n.Binary(BIT, op, order, n.Const(INTEGER, 0))

    # ---- methods ----

    def method(self, e: ast.Expr) -> tuple[ast.Expr, str, list[ast.Expr], Shape] | None:
        """(object, name, arguments, shape of the object) if the expression is a method of a string or an enum variable."""
        found = method_parts(e)
        if found is None or found[1] not in _METHODS:
            return None
        base, name, args = found
        shape = Shape(TEXT) if isinstance(base, ast.StringLiteral) else self.value_shape(base)
        if shape is None or shape.unpacked:
            return None
        if (name in STRING_METHODS and isinstance(shape.type, Text)) or (name in ENUM_METHODS and shape.labels is not None):
            return base, name, [a for a in args if a is not None], shape
        return None

    def shape_of_method(self, e: ast.Expr) -> Shape | None:
        found = self.method(e)
        if found is None:
            return None
        _, name, _, shape = found
        if isinstance(shape.type, Text):
            return Shape(STRING_METHODS[name][0])
        return Shape(TEXT) if name == "name" else Shape(INTEGER) if name == "num" else shape

    def build_method(self, e: ast.Expr) -> n.Expr:
        found = self.method(e)
        assert found is not None
        base, name, args, shape = found
        if isinstance(shape.type, Text):
            return self._string_method(e, base, name, args)
        return self._enum_method(base, name, args, shape)

    def _string_method(self, e: ast.Expr, base: ast.Expr, name: str, args: list[ast.Expr]) -> n.Expr:
        result, wanted = STRING_METHODS[name]
        if len(args) != wanted:
            raise self.error(e.pos, f"{name} takes {counted(wanted, 'argument')}, {len(args)} are given (6.16)", "arguments")
        this = self.text(base)
        if name == "len":
            return n.SysCall(result, "$text_size", (this,), e.pos)
        if name == "getc":
            return n.SysCall(result, "$text_get", (this, self.expr(args[0])), e.pos)
        if name in ("toupper", "tolower"):
            return n.SysCall(result, "$text_case", (this, n.Const(INTEGER, int(name == "toupper"))), e.pos)
        if name in ("compare", "icompare"):
            return n.SysCall(result, "$text_compare", (this, self.text(args[0]), n.Const(INTEGER, int(name == "icompare"))), e.pos)
        if name == "substr":
            return n.SysCall(result, "$text_part", (this, self.expr(args[0]), self.expr(args[1])), e.pos)
        if name == "atoreal":
            return n.SysCall(REAL, "$text_real", (this,), e.pos)
        return n.SysCall(result, "$text_number", (this, n.Const(INTEGER, _RADIX[name])), e.pos)

    def text_step(self, s: ast.Node, call: ast.Call) -> list[n.Stmt] | None:
        """A method that changes its string: putc, itoa and their like (6.16.2, 6.16.11)."""
        parts = method_parts(call)
        if parts is None or parts[1] not in STRING_STEPS:
            return None
        base, name, args = parts[0], parts[1], [a for a in parts[2] if a is not None]
        shape = self.value_shape(base)
        if shape is None or not isinstance(shape.type, Text) or shape.unpacked:
            return None
        if len(args) != STRING_STEPS[name]:
            raise self.error(call.pos, f"{name} takes {STRING_STEPS[name]} arguments, {len(args)} are given (6.16)", "arguments")
        made: n.Expr
        if name == "putc":
            given = (self.text(base), self.expr(args[0]), self.for_target(args[1], BYTE))
            made = n.SysCall(TEXT, "$text_put", given, call.pos)
        elif name == "realtoa":
            made = n.SysCall(TEXT, "$text_of_real", (self.for_target(args[0], REAL),), call.pos)
        else:
            value = self.for_target(args[0], Vec(64, name == "itoa") if name != "itoa" else Vec(32, True))
            made = n.SysCall(TEXT, "$text_of_number", (value, n.Const(INTEGER, _RADIX[name])), call.pos)
        return self.store(self.site(s), base, made)

    def store(self, site: int, target: ast.Expr, value: n.Expr) -> list[n.Stmt]:
        """The statements that write a value, which has the type of the target, wherever the target is."""
        raise NotImplementedError

    def check_enum(self, e: ast.Expr, labels: dict[int, str]) -> None:
        """What an enum takes without a cast: its names and other values of its type (6.19.3)."""
        match e:
            case ast.Ternary(then=then, other=other):
                self.check_enum(then, labels)
                self.check_enum(other, labels)
                return
            case ast.Number(fill=False) | ast.Binary() | ast.Unary() | ast.Concat():
                strange = True
            case ast.Member() if e.name in ENUM_METHODS:
                strange = False
            case ast.Name() | ast.Member() | ast.Index() | ast.PartSelect():
                shape = self.value_shape(e)
                strange = shape is not None and type(shape.type) is Vec and shape.labels != labels and not shape.unpacked
            case _:
                strange = False
        if strange:
            what = self.words(e) if self.words(e) != "this" else "this value"
            values = ", ".join(list(labels.values())[:4]) + (", …" if len(labels) > 4 else "")
            message = f"{what} is no value of the enum ({values}); a cast makes it one: type'(value) (IEEE 1800-2017 6.19.3)"
            self.error(e.pos, message, "enum-value")

    def labels_of(self, e: ast.Expr) -> dict[int, str] | None:
        """The names of an enum's values, in the order of their declaration."""
        shape = self.value_shape(e)
        return shape.labels if shape is not None else None

    def _enum_method(self, base: ast.Expr, name: str, args: list[ast.Expr], shape: Shape) -> n.Expr:
        assert shape.labels is not None
        values = list(shape.labels)
        this = self.expr(base)
        t = n.vec(this)
        if name == "num":
            return n.Const(INTEGER, len(values))
        if name in ("first", "last"):
            return n.Const(t, values[0 if name == "first" else -1])
        step: n.Expr | None = None
        if name != "name" and args and not isinstance(args[0], ast.Number):
            step = self.for_target(args[0], INTEGER)
        count = 0
        if name != "name" and step is None:
            count = self.constant_int(args[0], f"the distance of {name}") if args else 1
            count = count if name == "next" else -count
        # a value that is none of the names has the empty string and, as its next one, the start value of the type
        ones = (1 << t.width) - 1 if t.four else 0
        result: n.Expr = n.TextConst(TEXT, b"") if name == "name" else n.Const(t, ones, ones)
        for k, value in enumerate(values):
            there: n.Expr
            if name == "name":
                there = n.TextConst(TEXT, shape.labels[value].encode())
            elif step is not None:
                there = _stepped(t, values, k, step if name == "next" else n.Unary(INTEGER, "-", step))
            else:
                there = n.Const(t, values[(k + count) % len(values)])
            mine = n.Binary(BIT, "===", this, n.Const(t, value))
            result = n.Choice(TEXT if name == "name" else t, mine, there, result)
        return result


def _stepped(t: Vec, values: list[int], at: int, step: n.Expr) -> n.Expr:
    """The value `step` places behind number `at`, round and round."""
    size = n.Const(INTEGER, len(values))
    moved = n.Binary(INTEGER, "+", step, n.Const(INTEGER, at))
    place = n.Binary(INTEGER, "%", n.Binary(INTEGER, "+", n.Binary(INTEGER, "%", moved, size), size), size)
    result: n.Expr = n.Const(t, values[0])
    for k, value in enumerate(values):
        result = n.Choice(t, n.Binary(BIT, "==", place, n.Const(INTEGER, k)), n.Const(t, value), result)
    return result


def _spelled(e: ast.Expr) -> bool:
    """Whether a vector is one only because it is made of string literals."""
    match e:
        case ast.Concat(parts=parts) | ast.Replicate(parts=parts):
            return all(_spelled(p) for p in parts)
        case ast.Ternary(then=then, other=other):
            return _spelled(then) and _spelled(other)
    return isinstance(e, ast.StringLiteral)
