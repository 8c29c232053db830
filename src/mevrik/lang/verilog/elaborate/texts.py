"""Strings and the methods of enums (IEEE 1800-2017 6.16 and 6.19.5)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.types import BIT, INTEGER, TEXT, Text, Type, Vec
from mevrik.design.unit import Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.context import Abandon, Context
from mevrik.lang.verilog.elaborate.scope import Scope

BYTE = Vec(8, True, False)
# methods of strings: the type of the result, how many arguments
STRING_METHODS: dict[str, tuple[Type, int]] = {
    "len": (INTEGER, 0), "getc": (BYTE, 1), "toupper": (TEXT, 0), "tolower": (TEXT, 0), "compare": (INTEGER, 1), "icompare": (INTEGER, 1),
    "substr": (TEXT, 2), "atoi": (INTEGER, 0), "atohex": (INTEGER, 0), "atooct": (INTEGER, 0), "atobin": (INTEGER, 0),
}  # fmt: skip
ENUM_METHODS = {"first", "last", "next", "prev", "num", "name"}
_RADIX = {"atoi": 10, "atohex": 16, "atooct": 8, "atobin": 2}


class TextElaborator:
    """What an expression that is a string, or a method of a string or an enum, stands for."""

    context: Context
    scope: Scope

    def shape(self, e: ast.Expr) -> Type:
        raise NotImplementedError

    def expr(self, e: ast.Expr) -> n.Expr:
        raise NotImplementedError

    def build(self, e: ast.Expr, t: Type) -> n.Expr:
        raise NotImplementedError

    def constant_int(self, e: ast.Expr, what: str) -> int:
        raise NotImplementedError

    def error(self, pos: int, message: str, code: str) -> Abandon:
        raise NotImplementedError

    def entity_of(self, e: ast.Expr) -> object | None:
        raise NotImplementedError

    def text(self, e: ast.Expr) -> n.Expr:
        """The expression as a string."""
        if isinstance(e, ast.StringLiteral):
            return n.TextConst(TEXT, e.value)
        t = self.shape(e)
        if isinstance(t, Text):
            return self.build(e, TEXT)
        if not isinstance(t, Vec):
            raise self.error(e.pos, "a real number or event is no string; $sformatf makes one", "operand-type")
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

    def method(self, e: ast.Expr) -> tuple[ast.Expr, str, list[ast.Expr | None]] | None:
        """(object, name, arguments) if the expression is a method of a string or an enum variable."""
        args: list[ast.Expr | None] = []
        target = e
        if isinstance(e, ast.Call):
            target, args = e.target, e.args
        if not isinstance(target, ast.Member) or target.name not in STRING_METHODS.keys() | ENUM_METHODS:
            return None
        if self.entity_of(target) is not None:
            return None  # a member or a name of that name
        base = target.base
        if target.name in ENUM_METHODS and self.labels_of(base) is not None:
            return base, target.name, args
        if target.name in STRING_METHODS and not (isinstance(base, ast.Name) and self.entity_of(base) is None):
            try:
                if isinstance(self.shape(base), Text):
                    return base, target.name, args
            except Abandon:
                return None
        return None

    def labels_of(self, e: ast.Expr) -> dict[int, str] | None:
        """The names of an enum variable's values, in the order of their declaration."""
        while isinstance(e, ast.Index):
            e = e.base
        entity = self.entity_of(e)
        return entity.labels if isinstance(entity, Signal) else None

    def shape_of_method(self, e: ast.Expr) -> Type | None:
        found = self.method(e)
        if found is None:
            return None
        base, name, _ = found
        if name in STRING_METHODS and isinstance(self.shape(base), Text):
            return STRING_METHODS[name][0]
        if name == "name":
            return TEXT
        return INTEGER if name == "num" else self.shape(base)

    def build_method(self, e: ast.Expr) -> n.Expr:
        found = self.method(e)
        assert found is not None
        base, name, args = found
        given = [a for a in args if a is not None]
        if name in STRING_METHODS and isinstance(self.shape(base), Text):
            return self._string_method(e, base, name, given)
        return self._enum_method(e, base, name, given)

    def _string_method(self, e: ast.Expr, base: ast.Expr, name: str, args: list[ast.Expr]) -> n.Expr:
        result, wanted = STRING_METHODS[name]
        if len(args) != wanted:
            raise self.error(
                e.pos, f"{name} takes {wanted} argument{'s' if wanted != 1 else ''}, {len(args)} are given (6.16)", "arguments"
            )
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
        return n.SysCall(result, "$text_number", (this, n.Const(INTEGER, _RADIX[name])), e.pos)

    def _enum_method(self, e: ast.Expr, base: ast.Expr, name: str, args: list[ast.Expr]) -> n.Expr:
        labels = self.labels_of(base)
        assert labels is not None
        values = list(labels)
        this = self.expr(base)
        t = n.vec(this)
        if name == "num":
            return n.Const(INTEGER, len(values))
        if name in ("first", "last"):
            return n.Const(t, values[0 if name == "first" else -1])
        step = 0
        if name != "name":
            step = self.constant_int(args[0], f"the distance of {name}") if args else 1
            step = step if name == "next" else -step
        # a value that is none of the names has the empty string and, as its next one, the start value of the type
        result: n.Expr = n.TextConst(TEXT, b"") if name == "name" else n.Const(t, 0)
        for k, value in enumerate(values):
            there: n.Expr
            if name == "name":
                there = n.TextConst(TEXT, labels[value].encode())
            else:
                there = n.Const(t, values[(k + step) % len(values)])
            mine = n.Binary(BIT, "===", this, n.Const(t, value))
            result = n.Choice(TEXT if name == "name" else t, mine, there, result)
        return result
