"""Queues, dynamic and associative arrays (IEEE 1800-2017 7.5, 7.8, 7.10, 7.12): values, methods, the statements that build them."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import BIT, INTEGER, Array, List, Text, Type, Vec
from mevrik.design.unit import Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate import streams
from mevrik.lang.verilog.elaborate.defaults import repeated
from mevrik.lang.verilog.elaborate.scope import Scope, Shape
from mevrik.lang.verilog.elaborate.texts import TextElaborator, method_parts

REDUCTIONS = {"sum", "product", "and", "or", "xor"}
FINDERS = {"find", "find_first", "find_last"}
INDEX_FINDERS = {"find_index", "find_first_index", "find_last_index", "unique_index"}
EXTREMES = {"min", "max", "unique"}
LOOPS = REDUCTIONS | FINDERS | INDEX_FINDERS | EXTREMES
KEY_METHODS = {"exists", "first", "last", "next", "prev"}
LIST_VALUES = {"size", "num", "pop_front", "pop_back"} | KEY_METHODS | LOOPS
ORDERS = {"reverse", "sort", "rsort", "shuffle"}
LIST_STEPS = {"push_back", "push_front", "insert", "delete"} | ORDERS
_NAMES = LIST_VALUES | LIST_STEPS | {"index"}
WIDE = Vec(64, True, False)


class ListElaborator(TextElaborator):
    dollar: list[n.Expr]  # the lists whose index is being built, for `$`
    shapes: dict[Signal, Shape]
    indexes: dict[Signal, Signal]  # the index that goes with the item of a `with`

    # ---- shapes ----

    def range(self, r: ast.Range) -> tuple[int, int]:
        raise NotImplementedError

    def shape_with_dims(self, shape: Shape, dims: list[ast.Range]) -> Shape:
        """A shape with the unpacked dimensions that a declaration adds to its type."""
        if not dims:
            return shape
        at = next((k for k, r in enumerate(dims) if is_open(r) or self._key_shape(r) is not None), -1)
        if at < 0:
            fixed = tuple(self.range(r) for r in dims)
            return _with(shape, fixed + shape.unpacked)
        inner = self.shape_with_dims(shape, dims[at + 1 :])
        if inner.unpacked:
            inner = packed_up(inner)
        r = dims[at]
        word = r.left.name if isinstance(r.left, ast.Name) else ""
        keys = Shape(Vec(64, False, False)) if word == "*" else self._key_shape(r)
        key = keys.type if keys is not None and isinstance(keys.type, Vec) else None
        most = self.constant_int(r.right, "the bound of a queue") + 1 if r.right is not None and word == "$" else 0
        made = Shape(List(64, False, False, inner.type, word == "$", key, most), inner=inner, keys=keys)
        outer = tuple(self.range(r) for r in dims[:at])
        return _with(made, outer) if outer else made

    def _key_shape(self, r: ast.Range) -> Shape | None:
        """The type of the keys, if a dimension names a type."""
        if r.key is not None:
            shape = self.resolve_type(r.key)
        elif isinstance(r.left, (ast.Name, ast.Member)) and r.right is None:
            named = self.type_meant(r.left)
            if named is None:
                return None
            shape = named
        else:
            return None
        if not isinstance(shape.type, Vec) or isinstance(shape.type, List):
            raise self.error(r.pos, "the index of an associative array is a whole number or a string here (7.8)", "unsupported")
        return shape

    def type_meant(self, e: ast.Expr) -> Shape | None:
        raise NotImplementedError

    # ---- values ----

    def list_ref(self, e: ast.Expr) -> tuple[n.Expr, Shape] | None:
        """The list that an expression names, and its shape; None, without a message, if it names none."""
        if not isinstance(e, (ast.Name, ast.Member, ast.Index, ast.PartSelect, ast.Call)):
            return None
        shape = self.value_shape(e)
        if shape is None or shape.unpacked or not isinstance(shape.type, List):
            return None
        return self.build(e, shape.type), shape

    def list_index(self, of: n.Expr, e: ast.Expr) -> n.Expr:
        """An index, in which `$` is the last element."""
        self.dollar.append(of)
        try:
            built = self.expr(e)
        finally:
            self.dollar.pop()
        if not isinstance(built.type, Vec):
            raise self.error(e.pos, "an index must be a whole number", "operand-type")
        return built

    def key_value(self, of: n.Expr, e: ast.Expr, keys: Shape | None) -> n.Expr:
        """The index into a list: a number, or what an associative array takes."""
        t = of.type
        assert isinstance(t, List)
        return self.for_target(e, t.key, keys) if t.key is not None else self.list_index(of, e)

    def last_index(self, e: ast.Expr) -> n.Expr:
        if not self.dollar:
            raise self.error(e.pos, "'$' stands for the last element only in the index of a queue (7.10)", "select")
        size = n.ListValue(INTEGER, "size", self.dollar[-1], ())
        return n.Binary(INTEGER, "-", size, n.Const(INTEGER, 1))

    def list_source(self, e: ast.Expr, from_left: bool = False) -> tuple[n.Expr, Shape]:
        """A list, or the elements of a fixed array as one: by ascending index, or from the left."""
        shape = self.shape_of(e)
        if not shape.unpacked:
            return self.build(e, shape.type), shape
        if len(shape.unpacked) > 1:
            raise self.error(e.pos, "this method goes through arrays of one dimension (7.12)", "unsupported")
        inner = _with(shape, ())
        t = List(64, False, False, shape.type, False)
        turned = from_left and falls(shape.unpacked)
        return n.ArrayList(t, self.build(e, shape.whole), turned), Shape(t, inner=inner)

    # ---- methods ----

    def list_method(self, e: ast.Expr) -> tuple[ast.Expr, str, list[ast.Expr], ast.Expr | None, Shape] | None:
        """(object, name, arguments, the expression behind `with`, shape of the object) for a method of a list or an array."""
        body: ast.Expr | None = None
        if isinstance(e, ast.With):
            body, e = e.body, e.call
        found = method_parts(e)
        if found is None or found[1] not in _NAMES:
            return None
        base, name, args = found
        shape = self.value_shape(base)
        if shape is None:
            return None
        shape = shape.spread or shape
        if name == "index":
            entity = self.scope.find(base.name) if isinstance(base, ast.Name) else None
            known = entity is not None and isinstance(entity[0], Signal) and entity[0] in self.indexes
            return (base, name, [], None, shape) if known else None
        listed = isinstance(shape.type, List) and not shape.unpacked
        if not listed and not (shape.unpacked and name in LOOPS | ORDERS | {"size"}):
            return None
        return base, name, [a for a in args if a is not None], body, shape

    def shape_of_list_method(self, e: ast.Expr) -> Shape | None:
        found = self.list_method(e)
        if found is None or found[1] in LIST_STEPS:
            return None
        base, name, args, body, shape = found
        if name == "index":
            assert isinstance(base, ast.Name)
            entity = self.scope.find(base.name)
            assert entity is not None and isinstance(entity[0], Signal)
            return Shape(self.indexes[entity[0]].type)
        if name in ("size", "num") or name in KEY_METHODS:
            return Shape(INTEGER)
        inner = _with(shape, ()) if shape.unpacked else shape.inner or Shape(_element(shape))
        if name in ("pop_front", "pop_back"):
            return inner
        if name in REDUCTIONS:
            return inner if body is None else Shape(self._shape_in_loop(base.pos, args, body, shape, inner))
        if name in INDEX_FINDERS:
            key = shape.type.key if isinstance(shape.type, List) and not shape.unpacked else None
            return Shape(List(64, False, False, key or INTEGER, True), inner=Shape(key or INTEGER))
        return Shape(List(64, False, False, inner.type, True), inner=inner)

    def _shape_in_loop(self, pos: int, args: list[ast.Expr], body: ast.Expr, shape: Shape, inner: Shape) -> Type:
        listed = Shape(List(64, False, False, inner.type)) if shape.unpacked else shape
        _, _, scope = self._iterator(pos, args, listed, inner)
        outer, self.scope = self.scope, scope
        try:
            return self.shape(body)
        finally:
            self.scope = outer

    def build_list_method(self, e: ast.Expr) -> n.Expr:
        found = self.list_method(e)
        assert found is not None
        base, name, args, body, shape = found
        if name == "index":
            assert isinstance(base, ast.Name)
            entity = self.scope.find(base.name)
            assert entity is not None and isinstance(entity[0], Signal)
            index = self.indexes[entity[0]]
            return n.Ref(index.type, index)
        if name == "size" and shape.unpacked:
            left, right = shape.unpacked[0]
            return n.Const(INTEGER, abs(left - right) + 1)
        if name in LOOPS:
            return self._loop(e, base, name, args, body)
        of = self.build(base, shape.type)
        if name in ("size", "num"):
            return n.ListValue(INTEGER, "size", of, ())
        if name in ("pop_front", "pop_back"):
            place = self.list_place(self.selected(base))
            if place is None:
                raise self.error(e.pos, f"{name} takes from a queue that is kept in a variable", "operand-type")
            front = n.Const(Vec(32, False, False), int(name == "pop_front"))
            return n.ListValue(_element(shape), "pop", place, (front,))
        key = shape.type.key if isinstance(shape.type, List) else None
        if key is None:
            raise self.error(e.pos, f"{name} is a method of associative arrays (7.9)", "operand-type")
        if len(args) != 1:
            raise self.error(e.pos, f"{name} takes 1 argument, {len(args)} are given (7.9)", "arguments")
        if name == "exists":
            return n.ListValue(INTEGER, "exists", of, (self.for_target(args[0], key, shape.keys),))
        return n.ListValue(INTEGER, name, of, (self.for_target(args[0], key),), self.place(args[0]))

    def _loop(self, e: ast.Expr, base: ast.Expr, name: str, args: list[ast.Expr], body: ast.Expr | None) -> n.Expr:
        """A reduction or locator (7.12.1, 7.12.3)."""
        steps, base = self._aside(base)
        of, shape = self.list_source(base)
        inner = shape.inner or Shape(_element(shape))
        if name in FINDERS | INDEX_FINDERS - {"unique_index"} and body is None:
            raise self.error(e.pos, f"{name} needs a condition: '{name} with (item …)' (7.12.1)", "arguments")
        item, index, scope = self._iterator(e.pos, args, shape, inner)
        outer, self.scope = self.scope, scope
        try:
            value: n.Expr = n.Ref(inner.type, item) if body is None else self.expr(body)
        finally:
            self.scope = outer
        result = self.shape_of_list_method(e)
        assert result is not None
        made = n.ListLoop(result.type, name, of, item, index, value)
        return n.Effect(made.type, steps, made) if steps else made

    def _aside(self, base: ast.Expr) -> tuple[list[n.Stmt], ast.Expr]:
        """An array inside of a structure is held as one vector: it is copied to an array, and that is what a method works on."""
        shape = self.value_shape(base)
        return ([], base) if shape is None or shape.spread is None else self.array_aside(base, shape.spread)

    def array_aside(self, e: ast.Expr, shape: Shape) -> tuple[list[n.Stmt], ast.Name]:
        """Steps that put a value into an array of its own, and the name of that."""
        held = ast.Name(e.pos, f"array {len(self.scope.names)}")
        self.signal(self.scope, held.name, shape, [], "local", e.pos).implicit = True
        return self.statement(ast.Assign(e.pos, held, e, False)), held

    def _iterator(self, pos: int, args: list[ast.Expr], shape: Shape, inner: Shape) -> tuple[Signal, Signal, Scope]:
        """The item and index that the expression behind `with` sees, and its scope."""
        name = args[0].name if args and isinstance(args[0], ast.Name) else "item"
        key = shape.type.key if isinstance(shape.type, List) else None
        item, index = self.local(inner.type, pos, name), self.local(key or INTEGER, pos)
        item.packed = inner.packed
        self.shapes[item] = inner
        self.indexes[item] = index
        scope = Scope("", self.scope.prefix, self.scope, "block", sub=self.scope.sub)
        scope.names[name] = item
        return item, index, scope

    def list_has(self, e: ast.Expr, among: ast.Expr) -> n.Expr | None:
        """`e inside {list}`, also of a fixed array."""
        if not isinstance(among, (ast.Name, ast.Member, ast.Index)):
            return None
        steps, among = self._aside(among)
        shape = self.value_shape(among)
        if shape is None or not (shape.unpacked or isinstance(shape.type, List)):
            return None
        of, listed = self.list_source(among)
        has = n.ListValue(BIT, "has", of, (self.for_target(e, _element(listed)),))
        return n.Effect(BIT, steps, has) if steps else has

    # ---- statements ----

    def list_step(self, s: ast.Node, e: ast.Call | ast.With) -> list[n.Stmt] | None:
        """A method that changes its list, as a statement."""
        found = self.list_method(e)
        if found is None or found[1] not in LIST_STEPS:
            return None
        base, name, args, body, shape = found
        site = self.site(s)
        if name in ORDERS:
            return self._order(site, base, name, args, body, shape)
        place = self.list_place(self.selected(base))
        t = shape.type
        if place is None or not isinstance(t, List):
            raise self.error(e.pos, f"{name} changes a queue or array that is kept in a variable", "operand-type")
        if name != "delete" and not t.queue:
            raise self.error(
                e.pos, f"{name} is a method of queues; a dynamic array takes a new size by new[n] (7.10.2)", "operand-type"
            )
        of, inner = self.build(base, t), shape.inner or Shape(_element(shape))
        wanted = {"push_back": 1, "push_front": 1, "insert": 2}.get(name, 0)
        if len(args) != wanted and not (name == "delete" and len(args) == 1):
            raise self.error(e.pos, f"{name} takes {wanted} arguments, {len(args)} are given (7.10.2)", "arguments")
        if name == "push_back":
            return [n.ListStep(site, "push", place, (self.for_target(args[0], inner.type, inner),))]
        if name == "push_front":
            return [n.ListStep(site, "insert", place, (n.Const(WIDE, 0), self.for_target(args[0], inner.type, inner)))]
        if name == "insert":
            index = self.list_index(of, args[0])
            return [n.ListStep(site, "insert", place, (index, self.for_target(args[1], inner.type, inner)))]
        return [
            n.ListStep(site, "delete", place, (self.key_value(of, args[0], shape.keys),))
            if args
            else n.ListStep(site, "clear", place, ())
        ]

    def _order(
        self, site: int, base: ast.Expr, name: str, args: list[ast.Expr], body: ast.Expr | None, shape: Shape
    ) -> list[n.Stmt]:
        """reverse, sort, rsort, shuffle (7.12.2); a fixed array is ordered in a list aside."""
        steps, held = self._aside(base)
        if steps:
            back = self.statement(ast.Assign(base.pos, base, held, False))
            return [*steps, *self._order(site, held, name, args, body, shape), *back]
        before: list[n.Stmt] = []
        after: list[n.Stmt] = []
        of, listed = self.list_source(base)
        t = listed.type
        assert isinstance(t, List)
        place: n.ListPlace | None
        if shape.unpacked:
            aside = self.local(t, base.pos)
            place = n.LRef(aside, None, None, 64)
            before = [n.ListStep(site, "copy", place, (of,))]
            of = n.Ref(t, aside)
            after = self.store(site, base, n.ListArray(shape.whole, of))
        else:
            place = self.list_place(self.selected(base))
        if place is None:
            raise self.error(base.pos, f"{name} changes a queue or array that is kept in a variable", "operand-type")
        if name in ("reverse", "shuffle"):
            return [*before, n.ListStep(site, name, place, ()), *after]
        inner = listed.inner or Shape(_element(listed))
        item, index, scope = self._iterator(base.pos, args, listed, inner)
        outer, self.scope = self.scope, scope
        try:
            value: n.Expr = n.Ref(inner.type, item) if body is None else self.expr(body)
        finally:
            self.scope = outer
        keys = n.ListLoop(List(64, False, False, value.type, True), "map", of, item, index, value)
        down = n.Const(INTEGER, int(name == "rsort"))
        return [*before, n.ListStep(site, "order", place, (keys, down)), *after]

    def fill_list(self, site: int, place: n.ListPlace, shape: Shape, value: ast.Expr) -> list[n.Stmt]:
        """The steps that give a list its new elements. They are made aside when the value may read the list itself."""
        t = shape.type
        assert isinstance(t, List)
        if isinstance(value, ast.New):
            source: n.Expr = n.Const(WIDE, 0)
            before: list[n.Stmt] = []
            if isinstance(value.source, (ast.Pattern, ast.Concat)):
                made = self.local(t, value.pos)
                before = self.fill_list(site, n.LRef(made, None, None, 64), shape, value.source)
                source = n.Ref(t, made)
            elif value.source is not None:
                source = self.list_source(value.source, True)[0]
            return [*before, n.ListStep(site, "new", place, (self.expr(value.count), source))]
        if not isinstance(value, (ast.Pattern, ast.Concat)):
            of = self._as_list(value, t)
            return [n.ListStep(site, "take" if isinstance(of, (n.Call, n.Effect)) else "copy", place, (of,))]
        aside = self.local(t, value.pos)
        kept = n.LRef(aside, None, None, 64)
        steps: list[n.Stmt] = [n.ListStep(site, "clear", kept, ())]
        steps += self._gather(site, kept, shape, value)
        return [*steps, n.ListStep(site, "copy", place, (n.Ref(t, aside),))]

    def _as_list(self, e: ast.Expr, wanted: List) -> n.Expr:
        """A list of the wanted elements."""
        if isinstance(e, ast.Stream):
            return streams.elements_of(streams.streams(self.itself, e), wanted, 0, 0, e.pos)
        if isinstance(e, ast.Ternary):
            return n.Choice(wanted, self.expr(e.cond), self._as_list(e.then, wanted), self._as_list(e.other, wanted))
        shape = self.shape_of(e)
        if not shape.unpacked and not isinstance(shape.type, List):
            raise self.error(e.pos, "a queue or array of the same elements is needed here", "operand-type")
        of, listed = self.list_source(e, True)
        if not same_elements(_element(listed), wanted.element) or (listed.type.key is None) != (wanted.key is None):  # type: ignore[union-attr]
            raise self.error(e.pos, "a queue or array of the same elements is needed here", "operand-type")
        return of

    def list_value(self, e: ast.Expr, target: List, shape: Shape | None) -> n.Expr:
        """A list as an argument or result: one of its own."""
        if isinstance(e, (ast.Pattern, ast.Concat, ast.New)):
            aside = self.local(target, e.pos)
            place = n.LRef(aside, None, None, 64)
            steps = self.fill_list(self.site(e), place, shape or Shape(target), e)
            return n.Effect(target, steps, n.ListValue(target, "clone", n.Ref(target, aside), ()))
        of = self._as_list(e, target)
        return of if isinstance(of, n.Call) else n.ListValue(target, "clone", of, ())

    def _gather(self, site: int, into: n.LRef, shape: Shape, value: ast.Expr) -> list[n.Stmt]:
        t = shape.type
        assert isinstance(t, List)
        inner = shape.inner or Shape(t.element)
        if isinstance(value, ast.Pattern):
            if value.keyed or t.key is not None:
                return self._keyed(site, into, shape, value)
            times = self.constant_int(value.count, "the count of a pattern") if value.count is not None else 1
            return [
                n.ListStep(site, "push", into, (self.for_target(v, inner.type, inner),))
                for _ in range(times)
                for _, v in value.parts
            ]
        if isinstance(value, ast.Concat):
            return [step for part in value.parts for step in self._gather(site, into, shape, part)]
        found = self.value_shape(value) if not isinstance(value, (ast.Number, ast.StringLiteral)) else None
        if found is not None and (found.unpacked or isinstance(found.type, List)) and not isinstance(inner.type, List):
            of, _ = self.list_source(value, True)
            last = n.Const(WIDE, (1 << 62) - 1)
            return [n.ListStep(site, "append", into, (of, n.Const(WIDE, 0), last))]
        return [n.ListStep(site, "push", into, (self.for_target(value, inner.type, inner),))]

    def _keyed(self, site: int, into: n.LRef, shape: Shape, value: ast.Pattern) -> list[n.Stmt]:
        """`'{key: value, default: value}` (7.9.11)."""
        t = shape.type
        assert isinstance(t, List)
        inner = shape.inner or Shape(t.element)
        if t.key is None:
            raise self.error(value.pos, "keys have a meaning in the pattern of an associative array only (7.9.11)", "pattern")
        steps: list[n.Stmt] = []
        for key, v in value.parts:
            built = self.for_target(v, inner.type, inner)
            if key is None:
                steps.append(n.ListStep(site, "default", into, (built,)))
            else:
                steps.append(n.ListStep(site, "set", into, (self.for_target(key, t.key), built)))
        return steps


def _with(shape: Shape, unpacked: tuple[tuple[int, int], ...]) -> Shape:
    return replace(shape, unpacked=unpacked)


def sized(d: ast.Declarator) -> list[ast.Range]:
    """The dimensions of a parameter: one that is left open is as long as the pattern of its value, for parameters don't grow."""
    if (
        len(d.dims) != 1
        or not is_open(d.dims[0])
        or not isinstance(d.init, ast.Pattern)
        or d.init.keyed
        or d.init.count is not None
    ):
        return d.dims
    return [ast.Range(d.pos, ast.Number(d.pos, None, True, 0, 0), ast.Number(d.pos, None, True, len(d.init.parts) - 1, 0))]


def is_open(r: ast.Range) -> bool:
    """`[$]`, `[]` or `[*]`."""
    return r.key is None and isinstance(r.left, ast.Name) and r.left.name in ("$", "[]", "*")


def _element(shape: Shape) -> Type:
    return shape.type.element if isinstance(shape.type, List) else shape.type


def same_elements(a: Type, b: Type) -> bool:
    """Whether elements of one type can become elements of the other as they are."""
    if isinstance(a, Vec) and isinstance(b, Vec):
        return a.width == b.width and isinstance(a, Text) == isinstance(b, Text)
    return a == b


def falls(dims: tuple[tuple[int, int], ...] | list[tuple[int, int]]) -> bool:
    """Whether the indexes of a one-dimensional array fall from left to right."""
    return len(dims) == 1 and dims[0][0] > dims[0][1]


def packed_up(shape: Shape) -> Shape:
    """A fixed array as one vector, so that it can be an element of a list or a member of a structure."""
    t = shape.type
    width = t.width if isinstance(t, Vec) else 64
    total = Array(t, shape.unpacked).count * width
    inner = shape if not isinstance(t, Vec) or type(t) is not Vec or t.signed or shape.fields or shape.labels else None
    four = isinstance(t, Vec) and t.four
    one = _with(inner, ()) if inner is not None else None
    packed = shape.unpacked if one is not None else shape.unpacked + shape.packed
    made = Shape(Vec(total, False, four), packed, inner=one, spread=shape)
    made.initial = repeated(shape, Array(t, shape.unpacked).count)
    return made
