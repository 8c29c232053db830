"""Casts, of values and of handles (IEEE 1800-2017 6.24, 8.16)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import BIT, INTEGER, REAL, SHORT_REAL, TEXT, Array, Handle, List, Real, Text, Type, Vec
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.calls import CallElaborator, number, span
from mevrik.lang.verilog.elaborate.folding import fold_resize
from mevrik.lang.verilog.elaborate.lists import same_elements
from mevrik.lang.verilog.elaborate.scope import Shape
from mevrik.lang.verilog.elaborate.streams import is_dynamic
from mevrik.lang.verilog.elaborate.typewords import CASTS

_UNSIGNED = Vec(32, False, False)


class CastElaborator(CallElaborator):
    def shape_of_cast(self, e: ast.Cast) -> Shape:
        target = e.target
        if isinstance(target, ast.Name):
            if target.name in CASTS:
                return Shape(CASTS[target.name], ((CASTS[target.name].width - 1, 0),))
            if target.name in ("real", "shortreal", "realtime"):
                return Shape(SHORT_REAL if target.name == "shortreal" else REAL)
            if target.name == "string":
                return Shape(TEXT)
            if target.name in ("signed", "unsigned"):
                t = self.vector_type(self.shape(e.operand), e)
                return Shape(Vec(t.width, target.name == "signed", t.four))
            if target.name == "const":
                return self.shape_of(e.operand)
        if isinstance(target, ast.DataType):
            return self.resolve_type(target)
        meant = self.type_meant(target)
        if meant is not None:
            return meant
        if isinstance(e.operand, ast.New):
            message = f"{self.words(target)} names no class here; one with parameters is written with them: name #(…)::new (8.25.1)"
            raise self.error(e.pos, message, "operand-type")
        own = self.shape(e.operand)
        t = Vec(8, False, False) if isinstance(own, Text) else self.vector_type(own, e.operand)
        return Shape(Vec(self.constant_int(target, "the size of a cast"), t.signed, t.four))

    def build_cast(self, e: ast.Cast) -> n.Expr:
        shape = self.shape_of_cast(e)
        t = shape.whole
        if isinstance(e.operand, (ast.Pattern, ast.New)):
            return self.for_target(e.operand, t, shape)
        if self._goes_by_bits(e.operand, t):
            return self.for_target(self._bit_stream(e, t), t, shape)
        if isinstance(t, (List, Array)):
            return self.for_target(e.operand, t, shape)
        if isinstance(t, Real) or isinstance(e.operand, ast.Stream):
            return self.for_target(e.operand, t)
        if isinstance(t, Text):
            return self.text(e.operand)
        assert isinstance(t, Vec)
        own = self.shape(e.operand)
        if isinstance(own, Real):
            return n.ToVec(t, self.for_target(e.operand, REAL))
        if isinstance(own, Text):
            return n.SysCall(t, "$text_into", (self.build(e.operand, TEXT),), e.pos)
        if isinstance(own, Array):  # its bits, the leftmost element highest (6.24.3)
            return fold_resize(self.as_bits(e.operand), t)
        source = self.vector_type(own, e)
        value = self.build(e.operand, Vec(max(source.width, t.width), source.signed, source.four))
        made = fold_resize(fold_resize(value, Vec(t.width, source.signed, t.four)), t)
        for part in (made, getattr(made, "a", None)):
            if isinstance(part, n.Resize):
                part.meant = True
        return made

    def _goes_by_bits(self, operand: ast.Expr, t: Type) -> bool:
        """Whether a cast is one of all bits in a row (6.24.3): from or to an array that is not of the same elements."""
        if isinstance(operand, (ast.Stream, ast.Concat)):
            return False
        own = self.shape_of(operand)
        listed = isinstance(own.type, List) and not own.unpacked
        if isinstance(t, List) and t.key is None:
            return not (listed or own.unpacked) or not same_elements(
                own.type.element if isinstance(own.type, List) else own.type, t.element
            )
        if isinstance(t, Array):
            return not listed and (not own.unpacked or not same_elements(own.type, t.element))
        return listed and isinstance(t, Vec) and not isinstance(t, (Text, Handle))

    def _bit_stream(self, e: ast.Cast, t: Type) -> ast.Stream:
        made = ast.Stream(e.pos, False, None, [e.operand])
        if isinstance(t, Array) and isinstance(t.element, Vec) and not is_dynamic(self.itself, made):
            have, room = n.vec(self.expr(made)).width, t.element.width * t.count
            if have != room:
                raise self.error(
                    e.pos, f"what is cast has {have} bits, its new type {room}: they must be as many (6.24.3)", "cast-width"
                )
        return made

    def as_bits(self, e: ast.Expr) -> n.Expr:
        """A value as a stream of bits: of an array the leftmost element highest (11.4.14.1)."""
        shape = self.shape_of(e)
        if not shape.unpacked:
            made = self.expr(e)
            return n.SysCall(Vec(64), "$realtobits", (made,), e.pos) if isinstance(made.type, Real) else made
        left, right = shape.unpacked[0]
        parts = [self.as_bits(ast.Index(e.pos, e, number(e.pos, k))) for k in span(left, right)]
        return n.Concat(Vec(sum(n.vec(p).width for p in parts)), tuple(parts))

    def cast_call(self, e: ast.Call) -> n.Expr:
        """$cast as a function: 1 if the value was assigned (6.24.2)."""
        done = self.local(INTEGER, e.pos)
        site = self.site(e)
        yes = n.Assign(site, (whole(done),), n.Const(INTEGER, 1))
        no = n.Assign(site, (whole(done),), n.Const(INTEGER, 0))
        return n.Effect(INTEGER, self.dynamic_cast(e, e, [yes], [no]), n.Ref(INTEGER, done))

    def dynamic_cast(self, s: ast.Node, call: ast.Call, done: list[n.Stmt], failed: list[n.Stmt]) -> list[n.Stmt]:
        """$cast(target, value): assigns if the value is one that the target's enum or class can hold (6.24.2, 8.16)."""
        target, value = self.argument(call, 0), self.argument(call, 1)
        goal = self.handle_class(target)
        site = self.site(s)
        if goal is not None:
            handle = self.expr(value)
            if not isinstance(handle.type, Handle):
                raise self.error(value.pos, "an object is needed here", "operand-type")
            kind = n.ClassNumber(_UNSIGNED, handle, site)
            known: n.Expr = n.Binary(BIT, "==", handle, n.Const(handle.type, 0))
            for class_number in self.kinds_of(goal):
                known = n.Binary(BIT, "||", known, n.Binary(BIT, "==", kind, n.Const(_UNSIGNED, class_number)))
            return [n.If(site, known, [*self.store(site, target, handle), *done], failed)]
        labels = self.labels_of(target)
        shape = self.shape_of(target)
        assign = self.store(site, target, self.for_target(value, shape.whole, replace(shape, labels=None)))
        if labels is None:
            return [*assign, *done]
        built = self.expr(value)
        fits: n.Expr = n.Const(BIT, 0)
        wide = Vec(max(n.vec(built).width, 64), n.vec(built).signed)
        t = shape.type
        assert isinstance(t, Vec)
        for label in labels:
            as_wide = fold_resize(n.Const(t, label), Vec(wide.width, t.signed))
            fits = n.Binary(BIT, "||", fits, n.Binary(BIT, "===", n.Resize(wide, built), fold_resize(as_wide, wide)))
        return [n.If(site, fits, [*assign, *done], failed)]
