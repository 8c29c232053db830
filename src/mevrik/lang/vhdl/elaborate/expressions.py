"""Expressions with their types (IEEE 1076-2008 clauses 8 and 9): `types` says what one can be, `value` makes it what is wanted."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.lang.diagnostics import counted, nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.aggregates import Aggregates
from mevrik.lang.vhdl.elaborate.base import AnyText
from mevrik.lang.vhdl.elaborate.calls import BUILTIN, Bound, vector_of
from mevrik.lang.vhdl.elaborate.scope import (
    Alias,
    GenericSubprogram,
    Literal,
    Quiet,
    TypeName,
    UnitName,
    Wrong,
)


class Expressions(Aggregates):
    # ---- the value ----

    def value(self, e: a.Expr, want: t.Subtype | None) -> t.Expr:
        """The expression as a value of the wanted type (None: whatever it is, if that is clear)."""
        result = self._value(e, want)
        if want is not None and result.type.type is not want.type:
            if not self.agrees(result.type.type, want.type):
                if isinstance(e, a.Name) and e.id[0] == "'":
                    raise Wrong(e.pos, f"{e.text} is no value of {want!r}", "literal")
                raise Wrong(e.pos, f"{want!r} is needed here; this is {self._typed(result, e)}", "type")
            if isinstance(result, t.Const):
                self._check_literal(result, want, e.pos)
                return t.Const(self.plain(want.type), result.pos, result.value)
            result.type = self.plain(want.type)
        return result

    def _typed(self, value: t.Expr, e: a.Expr) -> str:
        kind = value.type.type
        if isinstance(kind, (t.Integer, t.Floating)) and kind.universal:
            return "an integer literal" if isinstance(kind, t.Integer) else "a real literal"
        return f"{value.type!r}"

    def _check_literal(self, c: t.Const, want: t.Subtype, pos: int) -> None:
        kind = want.type
        if isinstance(kind, t.Integer) and not kind.universal and not kind.low <= c.value <= kind.high:
            raise Wrong(pos, f"{c.value} is outside of {kind.name}, which goes from {kind.low} to {kind.high}", "range")

    def _value(self, e: a.Expr, want: t.Subtype | None) -> t.Expr:
        match e:
            case a.Number(value=number):
                if isinstance(number, float):
                    return t.Const(self.std.universal_real, e.pos, number)
                return t.Const(self.std.universal_integer, e.pos, number)
            case a.Name() | a.Select():
                return self._name(e, want)
            case a.Binary(op=op):
                return self.operator(op, [e.a, e.b], want, e.pos)
            case a.Unary(op=op):
                return self.operator(op, [e.a], want, e.pos)
            case a.Apply():
                return self._apply(e, want)
            case a.Text():
                return self._text(e, want)
            case a.Attr():
                return self.attribute(e, want)
            case a.Aggregate():
                return self.aggregate(e, want)
            case a.Qualified(mark=mark, value=inner):
                subtype = self.type_mark(mark)
                value = self.value(inner, subtype)
                self.check_value(value, subtype, inner.pos)
                if isinstance(value, t.Const):
                    return t.Const(subtype, e.pos, value.value)
                if subtype.scalar or subtype.bounds is not None:
                    return t.Convert(subtype, e.pos, value)
                return value
            case a.Physical(value=number, unit=name):
                unit = self._unit(name)
                total = round(number * unit.factor) if isinstance(number, float) else number * unit.factor
                if not -(1 << 63) <= total < 1 << 63:
                    message = (
                        f"this is more than a value of {unit.type!r} can be, which has 64 bits; in its smallest unit it is {total}"
                    )
                    raise Wrong(e.pos, message, "range")
                return t.Const(unit.type, e.pos, total)
            case a.Null():
                if want is None:
                    raise Wrong(e.pos, "it is not clear which access type 'null' is of here", "ambiguous")
                if not isinstance(want.type, t.AccessType):
                    raise Wrong(e.pos, f"'null' is an access value, but {want!r} is needed here", "type")
                return t.Const(want, e.pos, 0)
            case a.New():
                return self._new(e, want)
            case a.External():
                return self.external(e)
        self.types(e)
        raise Wrong(e.pos, "a value should stand here", "expression")

    def check_value(self, value: t.Expr, subtype: t.Subtype, pos: int) -> None:
        raise NotImplementedError

    def external(self, e: a.External) -> t.Expr:
        raise NotImplementedError

    def _pick(self, found: list[Any], want: t.Subtype | None, e: a.Name | a.Select) -> Any:
        good = found
        if len(found) > 1 and want is not None:
            good = [x for x in found if any(self.agrees(k, want.type) for k in self._entity_types(x))]
            if not good:
                kinds = dict.fromkeys(k.name for x in found for k in self._entity_types(x))
                raise Wrong(e.pos, f"{want!r} is needed here; {_quoted(e)} is {' or '.join(kinds)}", "type")
        elif len(found) > 1:
            good = [x for x in found if self._entity_types(x)] or found
        if len(good) > 1:
            preferred = [x for x in good if isinstance(x, Literal) and x.type.type is self.std.character.type]
            if len(preferred) == 1 and want is None:
                return preferred[0]
            kinds = dict.fromkeys(k.name for x in good for k in self._entity_types(x))
            raise Wrong(
                e.pos,
                f"{_quoted(e)} can be of several types here ({', '.join(kinds)}); qualify it: type'({e.text or e.id})",
                "ambiguous",
            )
        return good[0]

    def _name(self, e: a.Name | a.Select, want: t.Subtype | None) -> t.Expr:
        found = self.denote(e)
        if found is None:
            assert isinstance(e, a.Select)
            method = self._method(e)
            if method is not None:
                sub, bound = self.choose(e.text or e.id, method[1], [], want, e.pos, True)
                return self.call(sub, bound, e.pos, method[0])
            return self._selected(e)
        entity = self._pick(found, want, e)
        match entity:
            case t.Object() | Alias():
                return self.object_of(entity, e.pos)
            case Literal():
                return t.Const(entity.type, e.pos, entity.value)
            case UnitName():
                return t.Const(entity.type, e.pos, entity.factor)
            case t.Subprogram(function=True):
                plain = self.bind(entity.params, [])
                if plain is not None:
                    return self.call(entity, plain, e.pos)
        raise Wrong(e.pos, self._no_value(entity, e), "no-value")

    def _selected(self, e: a.Select) -> t.Expr:
        """An element of a record, or what an access value points to."""
        prefix = self.value(e.prefix, None)
        kind = prefix.type.type
        if e.id == "all":
            if not isinstance(kind, t.AccessType) or kind.target is None:
                raise Wrong(e.pos, f"'.all' needs an access value; this is {prefix.type!r}", "access")
            return t.Deref(kind.target, e.pos, prefix)
        while isinstance(kind, t.AccessType) and kind.target is not None:
            prefix = t.Deref(kind.target, e.pos, prefix)
            kind = prefix.type.type
        if not isinstance(kind, t.RecordType):
            raise Wrong(e.pos, f"'.{e.text}' needs a record; this is {prefix.type!r}", "record")
        index = kind.index(e.id)
        if index < 0:
            names = {f.name: f.text for f in kind.fields}
            hint = nearest(e.id, list(names))
            raise Wrong(e.pos, f"{prefix.type!r} has no element '{e.text}'{hint}", "undeclared")
        return t.FieldOf(prefix.type.field_types()[index], e.pos, prefix, index)

    def _apply(self, e: a.Apply, want: t.Subtype | None) -> t.Expr:
        symbol = self._as_operator(e)
        if symbol is not None:
            return self.operator(*symbol, want, e.pos)
        found = self.denote(e.prefix) if isinstance(e.prefix, (a.Name, a.Select)) else None
        if found is not None:
            first = found[0]
            if isinstance(first, TypeName):
                return self._conversion(first.subtype, e)
            if isinstance(first, (t.Subprogram, Literal, GenericSubprogram)):
                return self._function_call(e, found, want)
            if isinstance(first, (t.Object, Alias)):
                return self.index(self.object_of(first, e.prefix.pos), e)
            raise Wrong(e.pos, self._no_value(first, e.prefix), "no-value")  # type: ignore[arg-type]
        if isinstance(e.prefix, a.Select):
            method = self._method(e.prefix)
            if method is not None:
                if self.matching(method[1], e.args, True):
                    sub, bound = self.choose(e.prefix.text, method[1], e.args, want, e.pos, True)
                    return self.call(sub, bound, e.pos, method[0])
        return self.index(self.value(e.prefix, None), e)

    def _function_call(self, e: a.Apply, found: list[Any], want: t.Subtype | None) -> t.Expr:
        assert isinstance(e.prefix, (a.Name, a.Select))
        name = e.prefix.text or e.prefix.id
        fitting = self.matching(found, e.args, True)
        if want is not None:
            fitting = [f for f in fitting if f[0].result is not None and self.agrees(f[0].result.type, want.type)]
        if not fitting:
            if e.prefix.id in BUILTIN:
                built = self.builtin_call(e.prefix.id, e.args, want, e.pos)
                if built is not None:
                    return built
            for sub in found:
                if (
                    isinstance(sub, t.Subprogram)
                    and sub.result is not None
                    and isinstance(sub.result.type, (t.ArrayType, t.AccessType))
                ):
                    none = self.bind(sub.params, [])
                    if none is not None and not self.matching([sub], e.args, True):
                        return self.index(self.call(sub, none, e.pos), e)
        sub, bound = self.choose(name, found, e.args, want, e.pos, True)
        return self.call(sub, bound, e.pos)

    def _conversion(self, to: t.Subtype, e: a.Apply) -> t.Expr:
        """9.3.6: between numbers, closely related arrays, or to the same type."""
        if len(e.args) != 1 or e.args[0].choices or self._is_range(e.args[0].value):
            raise Wrong(e.pos, f"a conversion to {to!r} takes one value", "conversion")
        inner = e.args[0].value
        kinds = self.types(inner)
        if isinstance(inner, (a.Text, a.Aggregate, a.Null, a.New)):
            raise Wrong(
                inner.pos,
                f"the type of what is converted has to be clear; write {to!r}'(...) to say of which type a literal is",
                "conversion",
            )
        if not kinds:
            self.value(inner, None)  # says what is wrong with it
            raise Quiet
        if len(kinds) > 1:
            fitting = [k for k in kinds if self._convertible(k, to.type)]
            numbers = [k for k in fitting if k in (self.std.integer.type, self.std.real.type)]
            kinds = numbers[:1] or fitting[:1] or kinds[:1]
        value = self.value(inner, self.plain(kinds[0]) if not getattr(kinds[0], "universal", False) else None)
        if not self._convertible(value.type.type, to.type):
            raise Wrong(
                e.pos, f"{self._typed(value, inner)} can't be converted to {to!r}{_conversion_advice(value.type, to)}", "conversion"
            )
        if isinstance(value, t.Const) and to.scalar:
            number = value.value
            if isinstance(to.type, t.Integer) and isinstance(number, float):
                number = int(number + 0.5) if number >= 0 else -int(-number + 0.5)
            elif isinstance(to.type, t.Floating):
                number = float(number)
            bounds = self.range_of(to, e.pos)
            if not bounds.static or bounds.low <= number <= bounds.high:
                return t.Const(to, e.pos, number)
        subtype = to
        if isinstance(to.type, t.ArrayType) and to.bounds is None and value.type.bounds is not None:
            same_index = all(
                x.type is y.type or (isinstance(x.type, t.Integer) and isinstance(y.type, t.Integer))
                for x, y in zip(to.type.indexes, value.type.type.indexes, strict=True)  # type: ignore[attr-defined]
            )
            element = to.element if to.element is not None or not isinstance(to.elem.type, t.ArrayType) else value.type.elem
            if same_index:
                subtype = t.Subtype(to.type, to.name, None, value.type.bounds, element)
        return t.Convert(subtype, e.pos, value)

    def _convertible(self, x: t.BaseType, y: t.BaseType) -> bool:
        if x is y:
            return True
        number = (t.Integer, t.Floating)
        if isinstance(x, number) and isinstance(y, number):
            return True
        if isinstance(x, t.ArrayType) and isinstance(y, t.ArrayType):
            if len(x.indexes) != len(y.indexes):
                return False
            return x.element.type is y.element.type or self._convertible(x.element.type, y.element.type)
        return False

    def index(self, prefix: t.Expr, e: a.Apply) -> t.Expr:
        """prefix(index, ...) or prefix(range)."""
        kind = prefix.type.type
        while isinstance(kind, t.AccessType) and kind.target is not None:
            prefix = t.Deref(kind.target, e.pos, prefix)
            kind = prefix.type.type
        if not isinstance(kind, t.ArrayType):
            name = getattr(e.prefix, "text", "") or "this"
            raise Wrong(e.pos, f"'{name}' is of type {prefix.type!r}, which is no array: it can't be indexed or called", "index")
        if any(x.choices for x in e.args):
            raise Wrong(e.pos, "an index has no '=>'", "index")
        if len(e.args) == 1 and self._is_range(e.args[0].value):
            if len(kind.indexes) != 1:
                raise Wrong(e.pos, f"only an array of one dimension has slices; {prefix.type!r} has {len(kind.indexes)}", "slice")
            bounds, _ = self.bounds_here(e.args[0].value, kind.indexes[0])
            self._check_slice(prefix, bounds, e)
            return t.Slice(t.Subtype(kind, prefix.type.name, None, [bounds], prefix.type.element), e.pos, prefix, bounds)
        if len(e.args) != len(kind.indexes):
            given = f"{len(e.args)} indexes are" if len(e.args) > 1 else "one index is"
            raise Wrong(e.pos, f"{prefix.type!r} has {counted(len(kind.indexes), 'dimension')}, {given} given", "index")
        indexes = [self.value(x.value, self.plain(i.type)) for x, i in zip(e.args, kind.indexes, strict=True)]
        for k, i in enumerate(indexes):
            self._check_index(prefix, k, i, e)
        return t.Index(prefix.type.elem, e.pos, prefix, indexes)

    def bounds_here(self, e: a.Expr, want: t.Subtype) -> tuple[t.Bounds, t.Subtype]:
        """The range of a slice, evaluated where it stands."""
        if isinstance(e, a.Range):
            left = self.value(e.left, self.plain(want.type))
            right = self.value(e.right, self.plain(want.type))
            return t.Bounds(left, right, e.down), want
        return self.bounds(e, want)

    def _check_index(self, prefix: t.Expr, dim: int, index: t.Expr, e: a.Apply) -> None:
        bounds = prefix.type.bounds
        if bounds is None or not bounds[dim].static or not isinstance(index, t.Const):
            return
        low, high = bounds[dim].low, bounds[dim].high
        if not low <= index.value <= high and not self.dead:
            name = getattr(e.prefix, "text", "") or "the array"
            left, right, down = bounds[dim].ints
            raise Wrong(
                e.args[dim].value.pos,
                f"index {index.value} is outside of '{name}', which is {left} {'downto' if down else 'to'} {right}",
                "index-range",
            )

    def _check_slice(self, prefix: t.Expr, bounds: t.Bounds, e: a.Apply) -> None:
        of = prefix.type.bounds
        if of is None or not of[0].static or not bounds.static or self.dead:
            return
        left, right, down = of[0].ints
        name = getattr(e.prefix, "text", "") or "the array"
        word, own = ("downto", "to") if down else ("to", "downto")
        low, high, sliced_down = bounds.low, bounds.high, bounds.ints[2]
        if low <= high and sliced_down != down:
            raise Wrong(
                e.args[0].value.pos,
                f"'{name}' is {left} {word} {right}: a slice of it is written with '{word}', not '{own}'",
                "slice-direction",
            )
        if low <= high and (low < of[0].low or high > of[0].high):
            raise Wrong(
                e.args[0].value.pos,
                f"the slice {bounds.ints[0]} {word} {bounds.ints[1]} is outside of '{name}', which is {left} {word} {right}",
                "index-range",
            )

    # ---- literals ----

    def _text(self, e: a.Text, want: t.Subtype | None) -> t.Expr:
        if want is None:
            want = self._only_text(e)
        element = vector_of(want.type)
        if not isinstance(element, t.Enum):
            raise Wrong(e.pos, f"{want!r} is needed here; this is a string literal", "type")
        values = []
        for at, char in enumerate(e.value):
            literal = f"'{char}'"
            if literal not in element.literals:
                raise Wrong(e.pos + 1 + at, f"{literal} is no value of {element.name}", "literal")
            values.append(element.literals.index(literal))
        assert isinstance(want.type, t.ArrayType)
        index = want.type.indexes[0]
        subtype = t.Subtype(want.type, want.name, None, [self._literal_bounds(index, len(values), want, e.pos)], want.element)
        return t.Data(subtype, e.pos, bytes(values))

    def _only_text(self, e: a.Text) -> t.Subtype:
        chars = frozenset(e.value)
        kinds = [k for k in self.vectors_in_view() if isinstance(vector_of(k), t.Enum) and self.agrees(AnyText("", 0, chars), k)]
        if len(kinds) == 1:
            return self.plain(kinds[0])
        if any(k is self.std.string.type for k in kinds):
            return self.std.string
        raise Wrong(e.pos, 'it is not clear of which type this string literal is; qualify it: type\'("...")', "ambiguous")

    def _literal_bounds(self, index: t.Subtype, length: int, want: t.Subtype, pos: int) -> t.Bounds:
        """9.3.2, 9.3.3.3: the bounds of the wanted subtype, else from the left end of the index upwards."""
        if want.bounds is not None and want.bounds[0].static:
            left, _, down = want.bounds[0].ints
            if want.bounds[0].length == length:
                return want.bounds[0]
        else:
            left, down = self.range_of(index, pos).ints[0] if self.range_of(index, pos).static else 0, False
        right = left - length + 1 if down else left + length - 1
        return t.Bounds(t.Const(index, pos, left), t.Const(index, pos, right), down)

    def _new(self, e: a.New, want: t.Subtype | None) -> t.Expr:
        if isinstance(e.value, a.Qualified):
            of = self.type_mark(e.value.mark)
            init: t.Expr | None = self.value(e.value.value, of)
        else:
            assert isinstance(e.value, a.SubtypeInd)
            of, init = self.subtype(e.value), None
            if not of.constrained:
                raise Wrong(e.pos, f"{of!r} is unconstrained: the new object needs bounds or a value", "constraint")
        kinds = self.accesses_to(of.type) if want is None else [want.type]
        if not kinds or not isinstance(kinds[0], t.AccessType):
            raise Wrong(
                e.pos,
                f"no access type for {of!r} is visible"
                if want is None
                else f"{want!r} is needed here; 'new' gives an access value",
                "access",
            )
        target = kinds[0].target
        if target is None or target.type is not of.type:
            raise Wrong(e.pos, f"{kinds[0].name} points to {target!r}, not to {of!r}", "type")
        return t.New(want if want is not None else self.plain(kinds[0]), e.pos, of, init)


__all__ = ["Bound", "Expressions"]


def _conversion_advice(value: t.Subtype, to: t.Subtype) -> str:
    """Which function does what the conversion was meant to."""
    number, vector = to.type.name.lower(), value.type.name.lower()
    if isinstance(value.type, t.Integer) and number.removeprefix("unresolved_") in ("unsigned", "signed"):
        return f"; to_{number.removeprefix('unresolved_')}(number, length) does it"
    if isinstance(value.type, t.Integer) and number in ("std_logic_vector", "std_ulogic_vector"):
        return f"; {number}(to_unsigned(number, length)) does it"
    if isinstance(to.type, t.Integer) and vector.removeprefix("unresolved_") in ("unsigned", "signed"):
        return "; to_integer(...) does it"
    if isinstance(to.type, t.Integer) and vector in ("std_logic_vector", "std_ulogic_vector"):
        return "; to_integer(unsigned(...)) does it"
    return ""


def _quoted(e: a.Name | a.Select) -> str:
    """A name as messages show it; a character literal has its quotes."""
    name = e.text or e.id
    return name if name.startswith("'") else f"'{name}'"
