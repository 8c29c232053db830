"""Queues and dynamic arrays (IEEE 1800-2017 7.5, 7.10, 7.12): values, methods, and the assignments that build them."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.types import BIT, INTEGER, List, Type, Vec
from mevrik.design.unit import Signal, Unit
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.scope import Shape
from mevrik.lang.verilog.elaborate.texts import TextElaborator

LAST = (1 << 62) - 1
LIST_VALUES = {"size", "pop_front", "pop_back", "sum", "product", "and", "or", "xor"}
LIST_STEPS = {"push_back", "push_front", "insert", "delete", "reverse", "sort", "rsort"}
_WIDE = Vec(64, True, False)


def special_dim(dims: list[ast.Range]) -> str:
    """ "$" for a queue, "[]" for a dynamic array, "" for ranges only."""
    for r in dims:
        if isinstance(r.left, ast.Name) and r.left.name in ("$", "[]"):
            return r.left.name
    return ""


class ListElaborator(TextElaborator):
    unit: Unit
    list_fields: dict[Signal, n.FieldPlace]  # stand-ins for lists that are properties
    dollar: list[n.Expr]  # the lists whose index is being built, for `$`

    def for_target(self, e: ast.Expr, target: Type) -> n.Expr:
        raise NotImplementedError

    def site(self, s: ast.Node, end: int = 0) -> int:
        raise NotImplementedError

    def shape_with_dims(self, shape: Shape, dims: list[ast.Range]) -> tuple[Shape, list[ast.Range]]:
        """A shape that is a list if a dimension says so; and the dimensions that are left."""
        kind = special_dim(dims)
        if not kind:
            return shape, dims
        if len(dims) > 1 or shape.unpacked or isinstance(shape.type, List):
            raise self.error(
                dims[0].pos, "queues and dynamic arrays of arrays are not supported yet (IEEE 1800-2017 7.4)", "unsupported"
            )
        if not isinstance(shape.type, Vec):
            raise self.error(dims[0].pos, "a queue or dynamic array of reals or events is not supported yet", "unsupported")
        return Shape(List(64, False, False, shape.type, kind == "$"), (), shape.labels), []

    # ---- values ----

    def list_of(self, e: ast.Expr) -> Signal | None:
        """The variable, if the expression names a queue or dynamic array."""
        place = self.list_property(e)
        if place is not None:
            made = Signal("", place.type, "field", e.pos)
            self.list_fields[made] = place
            return made
        entity = self.entity_of(e) if isinstance(e, (ast.Name, ast.Member)) else None
        return entity if isinstance(entity, Signal) and isinstance(entity.type, List) else None

    def list_property(self, e: ast.Expr) -> n.FieldPlace | None:
        """The place, if the expression names a property of an object that is a list."""
        raise NotImplementedError

    def list_ref(self, signal: Signal) -> n.Expr:
        place = self.list_fields.get(signal)
        if place is not None:
            return n.FieldValue(place.type, place.object, place.word, place.site)
        return n.Ref(signal.type, signal)

    def list_place(self, signal: Signal) -> n.LRef | n.FieldPlace:
        return self.list_fields.get(signal) or n.LRef(signal, None, None, 64)

    def list_index(self, signal: Signal, e: ast.Expr) -> n.Expr:
        """An index, in which `$` is the last element."""
        self.dollar.append(self.list_ref(signal))
        try:
            built = self.expr(e)
        finally:
            self.dollar.pop()
        if not isinstance(built.type, Vec):
            raise self.error(e.pos, "an index must be a whole number", "operand-type")
        return built

    def last_index(self, e: ast.Expr) -> n.Expr:
        if not self.dollar:
            raise self.error(e.pos, "'$' stands for the last element only in the index of a queue (7.10)", "select")
        size = n.ListValue(INTEGER, "size", self.dollar[-1], ())
        return n.Binary(INTEGER, "-", size, n.Const(INTEGER, 1))

    def element_value(self, e: ast.Index) -> n.Expr | None:
        signal = self.list_of(e.base)
        if signal is None:
            return None
        assert isinstance(signal.type, List)
        return n.ListValue(signal.type.element, "get", self.list_ref(signal), (self.list_index(signal, e.index),))

    def list_method(self, e: ast.Expr) -> tuple[Signal, str, list[ast.Expr]] | None:
        args: list[ast.Expr | None] = []
        target = e
        if isinstance(e, ast.Call):
            target, args = e.target, e.args
        if not isinstance(target, ast.Member) or target.name not in LIST_VALUES | LIST_STEPS | {"min", "max"}:
            return None
        signal = self.list_of(target.base)
        return (signal, target.name, [a for a in args if a is not None]) if signal is not None else None

    def shape_of_list_method(self, e: ast.Expr) -> Type | None:
        found = self.list_method(e)
        if found is None or found[1] in LIST_STEPS:
            return None
        signal, name, _ = found
        assert isinstance(signal.type, List)
        if name in ("min", "max"):
            return List(64, False, False, signal.type.element, True)
        return INTEGER if name == "size" else signal.type.element

    def build_list_method(self, e: ast.Expr) -> n.Expr:
        found = self.list_method(e)
        assert found is not None
        signal, name, _ = found
        assert isinstance(signal.type, List)
        element = signal.type.element
        if name == "size":
            return n.ListValue(INTEGER, "size", self.list_ref(signal), ())
        if name.startswith("pop_"):
            return n.ListValue(element, "pop", self.list_place(signal), (n.Const(Vec(32, False, False), int(name == "pop_front")),))
        if name in ("min", "max"):
            raise self.error(e.pos, f"{name} gives a queue; assign it to one (7.12.1)", "operand-type")
        return n.ListValue(element, name, self.list_ref(signal), ())

    def list_clone(self, e: ast.Expr, target: List) -> n.Expr:
        """A list as an argument: a copy of its own."""
        signal = self.list_of(e)
        if signal is None or not isinstance(signal.type, List) or signal.type.element.width != target.element.width:
            raise self.error(e.pos, "a queue or dynamic array of the same elements is needed here", "operand-type")
        return n.ListValue(target, "clone", self.list_ref(signal), ())

    # ---- statements ----

    def list_step(self, s: ast.Node, e: ast.Call) -> list[n.Stmt] | None:
        """A method that changes its list, as a statement."""
        found = self.list_method(e)
        if found is None or found[1] not in LIST_STEPS:
            return None
        signal, name, args = found
        place, site = self.list_place(signal), self.site(s)
        assert isinstance(signal.type, List)
        wanted = {"push_back": 1, "push_front": 1, "insert": 2}.get(name, 0)
        if len(args) != wanted and not (name == "delete" and len(args) == 1):
            raise self.error(e.pos, f"{name} takes {wanted} arguments, {len(args)} are given (7.10.2)", "arguments")
        zero = n.Const(_WIDE, 0)
        if name == "push_back":
            return [n.ListStep(site, "push", place, (self.for_target(args[0], signal.type.element),))]
        if name == "push_front":
            return [n.ListStep(site, "insert", place, (zero, self.for_target(args[0], signal.type.element)))]
        if name == "insert":
            index = self.list_index(signal, args[0])
            return [n.ListStep(site, "insert", place, (index, self.for_target(args[1], signal.type.element)))]
        if name == "delete":
            if args:
                return [n.ListStep(site, "delete", place, (self.list_index(signal, args[0]),))]
            return [n.ListStep(site, "clear", place, ())]
        return [n.ListStep(site, name, place, ())]

    def list_assign(self, s: ast.Assign) -> list[n.Stmt] | None:
        """An assignment to a list, or to one of its elements; None if the target is neither."""
        if isinstance(s.target, ast.Index):
            signal = self.list_of(s.target.base)
            if signal is None:
                return None
            assert isinstance(signal.type, List)
            value: ast.Expr = ast.Binary(s.pos, s.op, s.target, s.value) if s.op else s.value
            index = self.list_index(signal, s.target.index)
            return [n.ListStep(self.site(s), "set", self.list_place(signal), (index, self.for_target(value, signal.type.element)))]
        signal = self.list_of(s.target)
        if signal is None:
            return None
        if s.nonblocking or s.control is not None or s.op:
            raise self.error(s.pos, "a queue or dynamic array is assigned with a plain '=' (IEEE 1800-2017 6.21)", "operand-type")
        return self.fill_list(self.site(s), signal, s.value)

    def fill_list(self, site: int, signal: Signal, value: ast.Expr) -> list[n.Stmt]:
        """The steps that give a list its new elements. They are made aside when the value may read the list itself."""
        assert isinstance(signal.type, List)
        place = self.list_place(signal)
        other = self.list_of(value)
        if other is not None:
            return [n.ListStep(site, "copy", place, (self.list_ref(other),))]
        if isinstance(value, ast.New):
            source: n.Expr = n.Const(_WIDE, 0)
            if value.source is not None:
                kept = self.list_of(value.source)
                if kept is None:
                    raise self.error(value.source.pos, "new[n](array) copies a dynamic array or queue (7.5.1)", "operand-type")
                source = self.list_ref(kept)
            return [n.ListStep(site, "new", place, (self.expr(value.count), source))]
        aside = Signal(f"{signal.name}.next", signal.type, "var", 0, left=63, implicit=True)
        self.unit.signals.append(aside)
        steps: list[n.Stmt] = [n.ListStep(site, "clear", self.list_place(aside), ())]
        steps += self._gather(site, aside, value)
        return [*steps, n.ListStep(site, "copy", place, (self.list_ref(aside),))]

    def _gather(self, site: int, into: Signal, value: ast.Expr) -> list[n.Stmt]:
        assert isinstance(into.type, List)
        place = self.list_place(into)
        if isinstance(value, ast.Pattern):
            times = self.constant_int(value.count, "the count of a pattern") if value.count is not None else 1
            if value.keyed:
                raise self.error(value.pos, "keys in the pattern of a queue are not supported yet (10.9.1)", "unsupported")
            return [
                n.ListStep(site, "push", place, (self.for_target(v, into.type.element),))
                for _ in range(times)
                for _, v in value.parts
            ]
        if isinstance(value, ast.Concat):
            return [step for part in value.parts for step in self._gather(site, into, part)]
        if isinstance(value, ast.PartSelect) and self.list_of(value.base) is not None and value.mode == ":":
            source = self.list_of(value.base)
            assert source is not None
            first, last = self.list_index(source, value.left), self.list_index(source, value.right)
            return [n.ListStep(site, "append", place, (self.list_ref(source), first, last))]
        source = self.list_of(value)
        if source is not None:
            bounds = (n.Const(_WIDE, 0), n.Const(_WIDE, LAST))
            return [n.ListStep(site, "append", place, (self.list_ref(source), *bounds))]
        found = self.list_method(value)
        if found is not None and found[1] in ("min", "max"):
            return [n.ListStep(site, "least" if found[1] == "min" else "most", place, (self.list_ref(found[0]),))]
        call = value if isinstance(value, ast.Call) else None
        if call is not None:
            try:
                t = self.shape(call)
            except Abandon:
                return []
            if isinstance(t, List):
                bounds = (n.Const(_WIDE, 0), n.Const(_WIDE, LAST))
                return [n.ListStep(site, "append", place, (self.build(call, t), *bounds))]
        return [n.ListStep(site, "push", place, (self.for_target(value, into.type.element),))]

    def list_has(self, e: ast.Expr, among: ast.Expr) -> n.Expr | None:
        """`e inside {list}`."""
        signal = self.list_of(among)
        if signal is None:
            return None
        assert isinstance(signal.type, List)
        return n.ListValue(BIT, "has", self.list_ref(signal), (self.for_target(e, signal.type.element),))
