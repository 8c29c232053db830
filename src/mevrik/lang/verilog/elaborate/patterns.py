"""Whole structures and arrays: assignment patterns (IEEE 1800-2017 10.9), copies, and how %p prints them (21.2.1.7)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import INTEGER, TEXT, Array, EventType, Handle, List, Real, Text, Type, Vec, width_of
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate import streams
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.calls import number, span
from mevrik.lang.verilog.elaborate.casts import CastElaborator
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.folding import fold, fold_resize
from mevrik.lang.verilog.elaborate.lists import falls
from mevrik.lang.verilog.elaborate.scope import Field, Shape, TypeName, matching, order_of
from mevrik.lang.verilog.elaborate.selections import Selected

SPREAD_LIMIT = 1 << 14  # elements of an array that are written out one by one
TURNED_LIMIT = 256


class PatternElaborator(CastElaborator):
    # ---- values of structures and packed arrays ----

    def pattern_value(self, p: ast.Pattern, shape: Shape) -> n.Expr:
        """A pattern for a structure or packed array (10.9.2)."""
        t = shape.type
        if not isinstance(t, Vec):
            raise self.error(p.pos, "a pattern '{…} fills a structure or an array", "pattern")
        parts: list[n.Expr] = []
        if shape.fields:
            ordered = sorted(shape.fields.values(), key=lambda f: -f.low)
            at = t.width
            for f, v in zip(ordered, self._field_values(p, ordered)):
                gap = at - f.low - width_of(f.type)
                if gap:
                    parts.append(n.Const(Vec(gap), 0))
                at = f.low
                parts.append(self.bits_for(v, f.shape))
            if at:
                parts.append(n.Const(Vec(at), 0))
        else:
            left, right = shape.packed[0] if shape.packed else (t.width - 1, 0)
            width = t.width // (abs(left - right) + 1)
            others = shape.packed[1:]
            inner = (
                shape.inner
                if shape.inner is not None and not others
                else Shape(Vec(width, False, t.four), others, inner=shape.inner)
            )
            if shape.spread is not None and len(shape.spread.unpacked) > 1:  # its elements are arrays too
                inner = replace(inner, spread=replace(shape.spread, unpacked=shape.spread.unpacked[1:]))
            parts = [self.bits_for(v, inner) for v in self.spread(p, list(span(left, right)), inner)]
        made = n.Concat(t, tuple(parts))
        return fold(made) if all(isinstance(x, n.Const) for x in parts) else made

    def into_structure(self, e: ast.Expr, shape: Shape) -> n.Expr | None:
        """An array as the vector that it is inside of a structure; None for what is no array."""
        own = self.value_shape(e)
        assert shape.spread is not None
        if own is None or own.spread is not None:
            return None
        if not own.unpacked and not isinstance(own.type, List):
            raise self._single(e, shape.spread.unpacked)
        if isinstance(e, (ast.Name, ast.Member, ast.Index)) and own.unpacked:
            self._fits(e, own.unpacked, shape.spread.unpacked)
            return self.pattern_value(_elements(e, own.unpacked), shape)
        steps, held = self.array_aside(e, shape.spread)
        return n.Effect(shape.type, steps, self.pattern_value(_elements(held, shape.spread.unpacked), shape))

    def _rest(self, p: ast.Pattern, shape: Shape) -> ast.Expr | None:
        """What a pattern gives to a member or an element that it does not name: what goes with its type, else the default, if that is
        for a plain vector or the types match, else the same for all inside of it (10.9.1, 10.9.2); None: nothing."""
        typed = [(k, v) for k, v in p.parts if k is not None and self.type_meant(k) is not None]
        for key, v in reversed(typed):
            kind = self.type_meant(key)
            if kind is not None and matching(kind, shape.spread or shape):
                return v
        default = next((v for k, v in p.parts if k is None), None)
        if isinstance(default, ast.Pattern) or not _has_parts(shape) or (default is None and not typed):
            return default
        own = self.value_shape(default) if default is not None else None
        if own is not None and (matching(own, shape) or (own.unpacked and self._is_row(own, shape))):
            return default
        return ast.Pattern(p.pos, [*typed, (None, default)] if default is not None else [*typed], True)

    def _is_row(self, own: Shape, shape: Shape) -> bool:
        """Whether an array can be assigned to one that is a member or an element."""
        dims = shape.spread.unpacked if shape.spread is not None else shape.unpacked
        return [abs(a - b) for a, b in own.unpacked] == [abs(a - b) for a, b in dims]

    def _once(self, p: ast.Pattern, keys: list[str]) -> None:
        """That no member or element is named twice, nor the default (10.9.1, 10.9.2)."""
        keys = keys + ["the default" for k, _ in p.parts if k is None]
        if len(set(keys)) < len(keys):
            twice = next(k for k in keys if keys.count(k) > 1)
            raise self.error(p.pos, f"the pattern gives {twice} more than one value", "pattern")

    def _field_values(self, p: ast.Pattern, ordered: list[Field]) -> list[ast.Expr]:
        if not p.keyed:
            if len(p.parts) != len(ordered):
                raise self.error(p.pos, f"the pattern has {len(p.parts)} values, the structure {len(ordered)} members", "pattern")
            return [v for _, v in p.parts]
        names = [f.name for f in ordered]
        self._once(p, [f"'{k.name}'" for k, _ in p.parts if isinstance(k, ast.Name) and k.name in names])
        given = {k.name: v for k, v in p.parts if isinstance(k, ast.Name)}
        for name in given:
            if name not in names and self.type_meant(ast.Name(p.pos, name)) is None:
                raise self.error(p.pos, f"the structure has no member '{name}'{nearest(name, names)}", "unknown-name")
        found: list[ast.Expr] = []
        for f in ordered:
            value = given.get(f.name) or self._rest(p, f.shape)
            if value is None:
                raise self.error(p.pos, f"the pattern gives no value to the member '{f.name}' and has no default", "pattern")
            found.append(value)
        return found

    def bits_for(self, v: ast.Expr, shape: Shape) -> n.Expr:
        """A value as the bits that it takes in a structure."""
        t = shape.type
        value = self.for_target(v, t, shape)
        if isinstance(t, Real):
            return n.SysCall(Vec(64), "$realtobits", (value,), v.pos)
        return value

    def spread(self, p: ast.Pattern, indexes: list[int], element: Shape) -> list[ast.Expr]:
        """The value of a pattern for each index."""
        if p.keyed:
            keyed = [(self.constant_int(k, "an index"), k, v) for k, v in p.parts if k is not None and self.type_meant(k) is None]
            self._once(p, [f"[{i}]" for i, _, _ in keyed])
            by_index = {i: v for i, _, v in keyed}
            outside = next((k for i, k, _ in keyed if not min(indexes) <= i <= max(indexes)), None)
            if outside is not None:
                where = f"[{indexes[0]}] to [{indexes[-1]}]"
                raise self.error(outside.pos, f"there is no such element: the array has {where} (10.9.1)", "pattern")
            rest = self._rest(p, element)
            found = [by_index.get(i, rest) for i in indexes]
            if any(v is None for v in found):
                raise self.error(p.pos, "the pattern leaves out elements and has no default", "pattern")
            return [v for v in found if v is not None]
        given = [v for _, v in p.parts] * (self.constant_int(p.count, "the count of a pattern") if p.count is not None else 1)
        if len(given) != len(indexes):
            raise self.error(p.pos, f"the pattern has {len(given)} values, {len(indexes)} are needed (10.9.1)", "pattern")
        return given

    # ---- values of arrays ----

    def array_value(self, e: ast.Expr, target: Array, shape: Shape | None) -> n.Expr:
        """A value for a whole array (7.6)."""
        if isinstance(e, ast.Pattern):
            return self._array_pattern(e, target, shape or Shape(target.element, unpacked=target.dims))
        if isinstance(e, ast.Ternary):
            sides = self.array_value(e.then, target, shape), self.array_value(e.other, target, shape)
            return n.Choice(target, self.truth(e.cond), *sides)
        if isinstance(e, ast.Concat):
            return self._array_concatenation(e, target, shape or Shape(target.element, unpacked=target.dims))
        if isinstance(e, ast.Stream):
            return self._array_of_stream(e, target)
        if isinstance(e, ast.Cast) and self.shape_of_cast(e).unpacked:
            return self.build_cast(e)
        own = self.shape_of(e)
        if isinstance(own.type, List) and not own.unpacked:
            return self._from_left(self.build(e, own.type), target, e.pos)
        if own.spread is not None and isinstance(e, (ast.Name, ast.Member, ast.Index)):
            self._fits(e, own.spread.unpacked, target.dims)
            return self._array_pattern(
                _elements(e, own.spread.unpacked), target, shape or Shape(target.element, unpacked=target.dims)
            )
        if not own.unpacked:
            raise self._single(e, target.dims)
        if not _same_storage(own.type, target.element):
            raise self._no_such_array(e, target.dims)
        self._fits(e, own.unpacked, target.dims)
        value = self._array_of(e, own)
        turned = [(a > b) != (c > d) and a != b for (a, b), (c, d) in zip(own.unpacked, target.dims)]
        if any(turned):
            return self._turned(e, value, own, target)
        return replace(value, type=target) if isinstance(value, (n.Ref, n.FieldValue)) else value

    def _array_concatenation(self, e: ast.Concat, target: Array, shape: Shape) -> n.Expr:
        """An array among the parts stands for its elements (10.10)."""
        parts: list[ast.Expr] = []
        for p in e.parts:
            own = self.value_shape(p)
            if own is not None and not own.unpacked and isinstance(own.type, List) and not isinstance(target.element, List):
                if len(target.dims) > 1:
                    raise self._no_such_array(e, target.dims)
                listed = List(64, False, False, target.element, True)
                return self._from_left(self.list_value(e, listed, Shape(listed, inner=replace(shape, unpacked=()))), target, e.pos)
            if own is not None and len(own.unpacked) == len(target.dims):
                left, right = own.unpacked[0]
                parts += [ast.Index(p.pos, p, ast.Number(p.pos, None, True, k, 0)) for k in span(left, right)]
            else:
                parts.append(p)
        return self._array_pattern(ast.Pattern(e.pos, [(None, p) for p in parts], False), target, shape)

    def _array_of_stream(self, e: ast.Stream, target: Array) -> n.Expr:
        """The bits of a stream from the left; a shorter one leaves 0 behind (11.4.14.3)."""
        element = target.element
        if not isinstance(element, Vec) or isinstance(element, (Text, List, Handle)):
            raise self._single(e, target.dims)
        if not streams.is_dynamic(self.itself, e):
            have, room = n.vec(self.expr(e)).width, element.width * target.count
            if have > room:
                raise self.error(e.pos, f"the stream has {have} bits, the array takes {room} (11.4.14.3)", "stream-width")
            if have < room:
                e = ast.Stream(e.pos, False, None, [e, ast.Number(e.pos, room - have, False, 0, 0)])
        listed = List(64, False, False, element, True)
        return self._from_left(streams.elements_of(streams.streams(self.itself, e), listed, 0, 0, e.pos), target, e.pos)

    def _from_left(self, listed: n.Expr, target: Array, pos: int) -> n.Expr:
        """The elements of a list as an array, the leftmost first (7.6)."""
        if len(target.dims) == 1 or all(left <= right for left, right in target.dims):
            return n.ListArray(target, listed, falls(target.dims))
        if target.count > TURNED_LIMIT:
            raise self.error(
                pos, f"an array of several dimensions with falling indexes takes at most {TURNED_LIMIT} elements so", "unsupported"
            )
        rising = Array(target.element, tuple((min(d), max(d)) for d in target.dims))
        value = n.ListArray(rising, listed)
        order = order_of([(left > right, abs(left - right) + 1) for left, right in target.dims])
        return n.ArrayConst(target, tuple(n.Item(target.element, value, n.Offset(k)) for k in order))

    def _fits(self, e: ast.Expr, dims: tuple[tuple[int, int], ...], wanted: tuple[tuple[int, int], ...]) -> None:
        if [abs(a - b) for a, b in dims] != [abs(a - b) for a, b in wanted]:
            raise self._no_such_array(e, wanted)

    def _no_such_array(self, e: ast.Expr, dims: tuple[tuple[int, int], ...]) -> Abandon:
        return self.error(e.pos, f"{self.words(e)} is no array of {_sizes(dims)} such elements", "array-assign")

    def _single(self, e: ast.Expr, dims: tuple[tuple[int, int], ...]) -> Abandon:
        message = f"an array of {_sizes(dims)} elements can't take a single value: assign its elements one by one"
        return self.error(e.pos, message, "array-assign")

    def _array_of(self, e: ast.Expr, own: Shape) -> n.Expr:
        if isinstance(e, ast.Call):
            return self.build_call(e)
        if isinstance(e, ast.Member) and self.method_of(e) is not None:
            return self.build_call(ast.Call(e.pos, e, []))
        return self.read(e)

    def _turned(self, e: ast.Expr, value: n.Expr, own: Shape, target: Array) -> n.Expr:
        """Elements in the order of the target, whose indexes run the other way."""
        if target.count > SPREAD_LIMIT:
            raise self.error(e.pos, "a copy of so large an array whose indexes run the other way is not supported", "unsupported")
        order = order_of([((a > b) != (c > d), abs(a - b) + 1) for (a, b), (c, d) in zip(own.unpacked, target.dims)])
        items = tuple(n.Item(own.type, value, n.Offset(k)) for k in order)
        return n.ArrayConst(target, items)

    def _array_pattern(self, p: ast.Pattern, target: Array, shape: Shape) -> n.Expr:
        only = p.parts[0][1] if p.keyed and len(p.parts) == 1 and p.parts[0][0] is None else None
        if only is not None and not isinstance(only, ast.Pattern) and self._is_single(only):
            one = replace(shape, unpacked=())
            return n.ArrayConst(target, (self.for_target(self._rest(p, one) or only, one.type, one),))
        if target.count > SPREAD_LIMIT:
            raise self.error(p.pos, f"a pattern writes out at most {SPREAD_LIMIT} elements", "unsupported")
        left, right = target.dims[0]
        indexes = list(span(left, right))
        inner = replace(shape, unpacked=target.dims[1:])
        items: list[n.Expr] = []
        for v in self.spread(p, indexes, inner):
            if not inner.unpacked:
                items.append(self.for_target(v, inner.type, inner))
                continue
            row = self.array_value(v, Array(inner.type, inner.unpacked), inner)
            count = Array(inner.type, inner.unpacked).count
            if isinstance(row, n.ArrayConst):
                items += row.items if len(row.items) == count else row.items * count
            else:
                items += [n.Item(inner.type, row, n.Offset(k)) for k in range(count)]
        if left > right:  # kept by ascending index
            size = Array(inner.type, inner.unpacked).count
            rows = [items[k : k + size] for k in range(0, len(items), size)]
            items = [x for row in reversed(rows) for x in row]
        made = n.ArrayConst(target, tuple(items))
        return made

    def _is_single(self, v: ast.Expr) -> bool:
        shape = self.value_shape(v)
        return shape is None or not shape.unpacked

    # ---- writing ----

    def store(self, site: int, target: ast.Expr, value: n.Expr) -> list[n.Stmt]:
        """The statements that write a value, which has the type of the target, wherever the target is."""
        if isinstance(target, ast.Concat):
            places = self.place(target)
            return [n.Assign(site, places, value)]
        return self.store_selected(site, self.selected(target), value, target)

    def store_selected(self, site: int, s: Selected, value: n.Expr, target: ast.Expr) -> list[n.Stmt]:
        if s.character is not None:
            text = replace(s, character=None, value=None, shape=Shape(TEXT))
            put = n.SysCall(TEXT, "$text_put", (self.read_selected(text), s.character, value), target.pos)
            return self.store_selected(site, text, put, target)
        if s.dims:
            return self._store_array(site, s, value, target)
        if isinstance(s.type, List):
            place = self.list_place(s)
            if place is None:
                raise self.error(target.pos, f"{self.words(target)} can't be assigned", "operand-type")
            return [n.ListStep(site, "take" if isinstance(value, (n.Call, n.Effect)) else "copy", place, (value,))]
        if s.bits is not None and isinstance(s.type, Real):
            value = n.SysCall(Vec(64), "$realtobits", (value,), target.pos)
        if s.signal is not None:
            self.check_procedural(target, (n.LRef(s.signal, s.element, s.bits, s.width),))
            return [n.Assign(site, (n.LRef(s.signal, s.element, s.bits, s.width),), value)]
        before: list[n.Stmt] = []
        if s.keeper is None:
            raise self.unassignable(target)
        if s.bits is not None:  # a part of what lies in an object or list: take the whole, change it, put it back
            aside = self.local(s.base, target.pos)
            taken = self.read_selected(replace(s, bits=None, shape=Shape(s.base), partial=False))
            before = [
                n.Assign(site, (whole(aside),), taken),
                n.Assign(site, (n.LRef(aside, None, s.bits, s.width),), value),
            ]
            value = n.Ref(s.base, aside)
        if isinstance(s.keeper, n.FieldPlace):
            self.check_field(target)
            k = s.keeper
            return [*before, n.FieldSet(site, k.object, k.word, k.type, value, s.element)]
        return [*before, n.ListStep(site, "set", s.keeper.list, (s.keeper.index, value))]

    def _store_array(self, site: int, s: Selected, value: n.Expr, target: ast.Expr) -> list[n.Stmt]:
        t = Array(s.type, s.dims)
        if s.signal is not None:
            self.check_procedural(target, (n.LRef(s.signal, s.element, None, s.width),))
            return [n.AssignArray(site, n.LRef(s.signal, s.element, None, s.width), t, value)]
        if isinstance(s.keeper, n.FieldPlace):
            return [n.AssignArray(site, replace(s.keeper, element=s.element), t, value)]
        raise self.unassignable(target)

    def check_procedural(self, tree: ast.Expr, places: tuple[n.LRef, ...]) -> None:
        raise NotImplementedError

    # ---- printing ----

    def print_arguments(self, args: list[ast.Expr | None]) -> list[n.Expr | None]:
        """The arguments of a print; what %p prints is made a text that spells it out."""
        found: list[n.Expr | None] = []
        wanted: list[str] = []
        for arg in args:
            if isinstance(arg, ast.StringLiteral) and not wanted:
                wanted = conversions(arg.value)
                found.append(self.expr(arg))
                continue
            kind = wanted.pop(0) if wanted else ""
            if arg is None:
                found.append(None)
            elif kind == "p":
                found.append(self.spelled(arg))
            elif kind == "s" and not isinstance(arg, ast.StringLiteral) and self._names_a_type(arg) is None:
                found.append(self._plain(arg))
            else:
                found.append(self._plain(arg))
        return found

    def _plain(self, arg: ast.Expr) -> n.Expr:
        built = self.expr(arg)
        if isinstance(built.type, (Array, List, EventType)):
            what = "an event" if isinstance(built.type, EventType) else "an array"
            raise self.error(arg.pos, f"{self.words(arg)} is {what}; only %p prints it as a whole (21.2.1.7)", "operand-type")
        return built

    def _names_a_type(self, arg: ast.Expr) -> TypeName | None:
        found = self.scope.find(arg.name) if isinstance(arg, ast.Name) else None
        return found[0] if found is not None and isinstance(found[0], TypeName) else None

    def spelled(self, arg: ast.Expr) -> n.Expr:
        """A value as an assignment pattern."""
        if isinstance(arg, ast.StringLiteral):
            return self.expr(arg)
        shape = self.shape_of(arg)
        if isinstance(shape.type, EventType):
            raise self.error(arg.pos, f"{self.words(arg)} is an event: it has no value to print", "operand-type")
        plain = not (shape.unpacked or shape.fields or shape.spread) and not isinstance(shape.type, (List, Text))
        if plain and shape.labels is None:
            return self.expr(arg)
        value = self.as_bits(arg) if shape.unpacked else self.build(arg, shape.type)
        return n.SysCall(TEXT, "$text_pattern", (value,), arg.pos, 0, description(shape))


def element_of(value: n.Expr, k: int) -> n.Expr:
    """Element number `k` of a value of type Array."""
    t = value.type
    assert isinstance(t, Array)
    if isinstance(value, n.ArrayConst):
        return value.items[k if len(value.items) > 1 else 0]
    if isinstance(value, n.Ref):
        base = value.element or n.Offset(0)
        return n.Ref(t.element, value.signal, n.Offset(base.const + k, base.terms))
    return n.Item(t.element, value, n.Offset(k))


def conversions(text: bytes) -> list[str]:
    """The letters of a format that take an argument, in their order."""
    found: list[str] = []
    k = 0
    while k < len(text):
        if text[k : k + 1] != b"%":
            k += 1
            continue
        k += 1
        while k < len(text) and chr(text[k]) in "-0123456789.":
            k += 1
        letter = chr(text[k]).lower() if k < len(text) else ""
        k += 1
        if letter and letter not in "%ml":
            found.append(letter)
    return found


def description(shape: Shape) -> str:
    """A shape in the words that kernel/pattern.c reads: i/u WIDTH a number, t a text, r a real, h a handle, e WIDTH;VALUE=NAME;…; an
    enum, s WIDTH(NAME@LOW:…;…) a structure, l(…) a list, m KEY(…) one with keys, p COUNT(…) an array in a vector."""
    text = _described(replace(shape, unpacked=()))
    for left, right in reversed(shape.unpacked):
        text = f"p{abs(left - right) + 1}({text})"
    return text


def _described(shape: Shape) -> str:
    t = shape.type
    if shape.spread is not None:
        return description(shape.spread)
    if isinstance(t, Real):
        return "r"
    if isinstance(t, Text):
        return "t"
    if isinstance(t, List):
        inner = description(shape.inner or Shape(t.element))
        return f"m{_described(shape.keys or Shape(t.key))}({inner})" if t.key is not None else f"l({inner})"
    if isinstance(t, Handle):
        return "h"
    assert isinstance(t, Vec)
    if shape.labels is not None:
        names = ";".join(f"{value}={name}" for value, name in shape.labels.items())
        return f"e{t.width};{names};"
    if shape.fields and (shape.loose or any(f.shape.loose for f in shape.fields.values())) and not shape.union:
        ordered = sorted(shape.fields.values(), key=lambda f: -f.low)
        inside = "".join(f"{f.name}@{f.low}:{description(f.shape)};" for f in ordered)
        return f"s{t.width}({inside})"
    if shape.inner is not None and shape.packed:
        left, right = shape.packed[0]
        return f"p{abs(left - right) + 1}({_described(shape.inner)})"
    return f"{'i' if t.signed else 'u'}{t.width}"


def _same_storage(a: Type, b: Type) -> bool:
    if isinstance(a, Vec) and isinstance(b, Vec):
        return a.width == b.width
    return a == b


__all__ = ["INTEGER", "PatternElaborator", "fold_resize", "holds_pattern", "number"]


def _sizes(dims: tuple[tuple[int, int], ...]) -> str:
    return " by ".join(str(abs(a - b) + 1) for a, b in dims)


def holds_pattern(e: ast.Expr) -> bool:
    return isinstance(e, ast.Pattern) or (isinstance(e, ast.Ternary) and (holds_pattern(e.then) or holds_pattern(e.other)))


def _has_parts(shape: Shape) -> bool:
    """Whether it is an array or a structure, and no plain vector (10.9.1)."""
    if isinstance(shape.type, List) and not shape.unpacked:
        return False
    of_elements = len(shape.packed) > 1 or shape.inner is not None or shape.spread is not None or bool(shape.unpacked)
    return of_elements or (bool(shape.fields) and not shape.union)


def _elements(e: ast.Expr, dims: tuple[tuple[int, int], ...]) -> ast.Pattern:
    """An array inside of a structure, element by element."""
    inside = [ast.Index(e.pos, e, number(e.pos, k)) for k in span(*dims[0])]
    return ast.Pattern(e.pos, [(None, _elements(x, dims[1:]) if len(dims) > 1 else x) for x in inside], False)
