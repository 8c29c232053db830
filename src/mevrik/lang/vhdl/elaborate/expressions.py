"""Expressions with their types (IEEE 1076-2008 clauses 8 and 9): `types` says what one can be, `value` makes it what is wanted."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.lang.diagnostics import nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.attributes import Attributes
from mevrik.lang.vhdl.elaborate.base import ANY_AGGREGATE, ANY_NULL, AnyText
from mevrik.lang.vhdl.elaborate.calls import BUILTIN, Bound, vector_of
from mevrik.lang.vhdl.elaborate.scope import (
    Alias,
    Component,
    GenericSubprogram,
    Literal,
    Package,
    Quiet,
    TypeName,
    UnitName,
    Wrong,
)


class Expressions(Attributes):
    # ---- what an expression can be ----

    def types(self, e: a.Expr) -> list[t.BaseType]:
        found = self._cache.get(id(e))
        if found is None:
            found = self._types(e)
            self._cache[id(e)] = found
        return found

    def _types(self, e: a.Expr) -> list[t.BaseType]:
        match e:
            case a.Number():
                return [self.std.universal_real.type if isinstance(e.value, float) else self.std.universal_integer.type]
            case a.Name() | a.Select():
                return self._name_types(e)
            case a.Binary(op=op):
                return self.operator_types(op, [e.a, e.b])
            case a.Unary(op=op):
                return self.operator_types(op, [e.a])
            case a.Apply():
                return self._apply_types(e)
            case a.Text(value=value):
                return [AnyText("a string literal", e.pos, frozenset(value))]
            case a.Attr():
                return self.attribute_types(e)
            case a.Aggregate():
                return [ANY_AGGREGATE]
            case a.Qualified(mark=mark):
                return [self.type_mark(mark).type]
            case a.Physical(unit=unit):
                return [self._unit(unit).type.type]
            case a.Null():
                return [ANY_NULL]
            case a.New(value=value):
                target = self.type_mark(value.mark) if isinstance(value, (a.Qualified, a.SubtypeInd)) else self.std.integer
                return self.accesses_to(target.type)
            case a.External(subtype=ind):
                return [self.type_mark(ind.mark).type]
            case a.Open():
                raise Wrong(e.pos, "'open' can't stand here", "open")
            case a.Range() | a.SubtypeInd():
                raise Wrong(e.pos, "a range is no value", "range")
        raise Wrong(e.pos, "a value should stand here", "expression")

    def accesses_to(self, target: t.BaseType) -> list[t.BaseType]:
        raise NotImplementedError

    def _unit(self, name: a.Name) -> UnitName:
        found = self.scope.lookup(name.id)
        if not found or not isinstance(found[0], UnitName):
            known = [n for n, ents in self.std.scope.names.items() if isinstance(ents[0], UnitName)]
            raise Wrong(name.pos, f"'{name.text}' is no unit{nearest(name.id, known)}", "unit")
        return found[0]

    def _entity_types(self, entity: Any) -> list[t.BaseType]:
        match entity:
            case Literal():
                return [entity.type.type]
            case t.Subprogram(function=True):
                assert entity.result is not None
                if all(p.init is not None or p.default is not None for p in entity.params):
                    return [entity.result.type]
                return []
            case t.Object():
                return [entity.subtype.type]
            case Alias():
                return [entity.expr.type.type]
            case UnitName():
                return [entity.type.type]
        return []

    def _name_types(self, e: a.Name | a.Select) -> list[t.BaseType]:
        found = self.denote(e)
        if found is not None:
            kinds: list[t.BaseType] = []
            for entity in found:
                for kind in self._entity_types(entity):
                    if kind not in kinds:
                        kinds.append(kind)
            if not kinds:
                raise Wrong(e.pos, self._no_value(found[0], e), "no-value")
            return kinds
        assert isinstance(e, a.Select)
        method = self._method(e)
        if method is not None:
            return [s.result.type for s in method[1] if s.result is not None]
        return [self._selected(e).type.type]

    def _no_value(self, entity: Any, e: a.Name | a.Select) -> str:
        name = e.text or e.id
        match entity:
            case TypeName():
                return f"'{name}' is a type; a value should stand here"
            case t.Subprogram(function=False):
                return f"'{name}' is a procedure: it has no value"
            case t.Subprogram():
                return f"'{name}' needs arguments: {entity.profile()}"
            case Package():
                return f"'{name}' is a package; a value should stand here"
            case Component():
                return f"'{name}' is a component; a value should stand here"
            case GenericSubprogram():
                return f"'{name}' is a subprogram with generics; declare an instance of it first"
        return f"'{name}' is no value"

    def _method(self, e: a.Expr) -> tuple[t.Expr, list[t.Subprogram]] | None:
        """object.method of a protected type."""
        if not isinstance(e, a.Select) or e.id == "all":
            return None
        found = self.denote(e.prefix) if isinstance(e.prefix, (a.Name, a.Select)) else None
        if found is not None and not isinstance(found[0], (t.Object, Alias)):
            return None
        if found is None and isinstance(e.prefix, (a.Name, a.Select)) and self._method(e.prefix) is not None:
            return None
        prefix = self.object_of(found[0], e.pos) if found is not None else self.value(e.prefix, None)
        if isinstance(prefix.type.type, t.AccessType) and prefix.type.type.target is not None:
            if isinstance(prefix.type.type.target.type, t.ProtectedType):
                prefix = t.Deref(prefix.type.type.target, e.pos, prefix)
        if not isinstance(prefix.type.type, t.ProtectedType):
            return None
        subs = prefix.type.type.scope.direct(e.id)
        if not subs:
            raise Wrong(
                e.pos, f"{prefix.type!r} has no method '{e.text}'{nearest(e.id, list(prefix.type.type.scope.names))}", "undeclared"
            )
        return prefix, [s for s in subs if isinstance(s, t.Subprogram)]

    @staticmethod
    def _as_operator(e: a.Apply) -> tuple[str, list[a.Expr]] | None:
        """ "+"(a, b): an operator called as a function."""
        if isinstance(e.prefix, a.Name) and e.prefix.id[0] == '"' and not any(x.choices for x in e.args) and len(e.args) < 3:
            return e.prefix.id.strip('"'), [x.value for x in e.args]
        return None

    def _apply_types(self, e: a.Apply) -> list[t.BaseType]:
        symbol = self._as_operator(e)
        if symbol is not None:
            return self.operator_types(*symbol)
        found = self.denote(e.prefix) if isinstance(e.prefix, (a.Name, a.Select)) else None
        if isinstance(e.prefix, a.Name) and found is None:
            found = self.find(e.prefix.id, e.prefix.pos)
        if found is not None:
            first = found[0]
            if isinstance(first, TypeName):
                return [first.subtype.type]
            if isinstance(first, (t.Subprogram, Literal, GenericSubprogram)):
                return self._call_types(e, found)
            if isinstance(first, (t.Object, Alias)):
                kind = self.object_of(first, e.pos).type
                return [self._indexed_type(kind, e)]
            raise Wrong(e.pos, self._no_value(first, e.prefix), "no-value")  # type: ignore[arg-type]
        if isinstance(e.prefix, a.Select):
            method = self._method(e.prefix)
            if method is not None:
                kinds = [s.result.type for s, _ in self.matching(method[1], e.args, True) if s.result is not None]
                if kinds:
                    return kinds
        kinds = []
        for of in self.types(e.prefix):
            if isinstance(of, (t.ArrayType, t.AccessType)):
                kinds.append(self._indexed_type(t.Subtype(of), e))
        if not kinds:
            raise Wrong(e.pos, "only an array can be indexed, only a function called", "index")
        return kinds

    def _call_types(self, e: a.Apply, found: list[Any]) -> list[t.BaseType]:
        kinds: list[t.BaseType] = []
        for sub, _ in self.matching(found, e.args, True):
            assert sub.result is not None
            if sub.result.type not in kinds:
                kinds.append(sub.result.type)
        name = e.prefix.id if isinstance(e.prefix, (a.Name, a.Select)) else ""
        if not kinds and name in BUILTIN:
            kinds = self.builtin_types(name, e.args)
        if not kinds:
            for sub in found:
                if isinstance(sub, t.Subprogram) and sub.result is not None and self._entity_types(sub):
                    if isinstance(sub.result.type, (t.ArrayType, t.AccessType)):
                        kinds.append(self._indexed_type(sub.result, e))
        if not kinds:
            self.choose(name, found, e.args, None, e.pos, True)
        return kinds

    def _is_range(self, e: a.Expr) -> bool:
        if isinstance(e, (a.Range, a.SubtypeInd)) or (isinstance(e, a.Attr) and e.id in ("range", "reverse_range")):
            return True
        if isinstance(e, (a.Name, a.Select)):
            found = self.denote(e)
            return bool(found) and isinstance(found[0], TypeName)  # type: ignore[index]
        return False

    def _indexed_type(self, subtype: t.Subtype, e: a.Apply) -> t.BaseType:
        kind = subtype.type
        while isinstance(kind, t.AccessType) and kind.target is not None:
            subtype = kind.target
            kind = subtype.type
        if not isinstance(kind, t.ArrayType):
            name = getattr(e.prefix, "text", "") or "this"
            raise Wrong(e.pos, f"'{name}' is of type {subtype!r}, which is no array: it can't be indexed or called", "index")
        if len(e.args) == 1 and self._is_range(e.args[0].value):
            return kind
        return kind.element.type

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
                if isinstance(value, t.Const):
                    return t.Const(subtype, e.pos, value.value)
                if subtype.scalar or subtype.bounds is not None:
                    return t.Convert(subtype, e.pos, value)
                return value
            case a.Physical(value=number, unit=name):
                unit = self._unit(name)
                return t.Const(unit.type, e.pos, round(number * unit.factor) if isinstance(number, float) else number * unit.factor)
            case a.Null():
                if want is None:
                    raise Wrong(e.pos, "it is not clear which access type 'null' is of here", "ambiguous")
                return t.Const(want, e.pos, 0)
            case a.New():
                return self._new(e, want)
            case a.External():
                return self.external(e)
        self.types(e)
        raise Wrong(e.pos, "a value should stand here", "expression")

    def external(self, e: a.External) -> t.Expr:
        raise NotImplementedError

    def _pick(self, found: list[Any], want: t.Subtype | None, e: a.Name | a.Select) -> Any:
        good = found
        if len(found) > 1 and want is not None:
            good = [x for x in found if any(self.agrees(k, want.type) for k in self._entity_types(x))]
            if not good:
                kinds = dict.fromkeys(k.name for x in found for k in self._entity_types(x))
                raise Wrong(e.pos, f"{want!r} is needed here; '{e.text or e.id}' is {' or '.join(kinds)}", "type")
        elif len(found) > 1:
            good = [x for x in found if self._entity_types(x)] or found
        if len(good) > 1:
            preferred = [x for x in good if isinstance(x, Literal) and x.type.type is self.std.character.type]
            if len(preferred) == 1 and want is None:
                return preferred[0]
            kinds = dict.fromkeys(k.name for x in good for k in self._entity_types(x))
            raise Wrong(
                e.pos,
                f"'{e.text or e.id}' can be of several types here ({', '.join(kinds)}); qualify it: type'({e.text or e.id})",
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
            raise Wrong(e.pos, f"a value of {value.type!r} can't be converted to {to!r}", "conversion")
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
            raise Wrong(e.pos, f"{prefix.type!r} has {len(kind.indexes)} dimensions, {len(e.args)} indexes are given", "index")
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

    # ---- aggregates (9.3.3) ----

    def aggregate(self, e: a.Aggregate, want: t.Subtype | None) -> t.Expr:
        if want is None:
            raise Wrong(e.pos, "it is not clear of which type this aggregate is; qualify it: type'(...)", "ambiguous")
        if isinstance(want.type, t.RecordType):
            return self._record_aggregate(e, want)
        if isinstance(want.type, t.ArrayType):
            return self._array_aggregate(e, want, 0)
        raise Wrong(e.pos, f"{want!r} is needed here; this is an aggregate", "type")

    def _record_aggregate(self, e: a.Aggregate, want: t.Subtype) -> t.Expr:
        kind = want.type
        assert isinstance(kind, t.RecordType)
        fields = want.field_types()
        values: list[t.Expr | None] = [None] * len(fields)
        for k, item in enumerate(e.items):
            if not item.choices:
                if k >= len(fields):
                    raise Wrong(item.pos, f"{want!r} has {len(fields)} elements; this is one too many", "aggregate")
                chosen = [k]
            elif isinstance(item.choices[0], a.Others):
                chosen = [i for i, v in enumerate(values) if v is None]
                if not chosen:
                    continue
            else:
                chosen = []
                for choice in item.choices:
                    index = kind.index(choice.id) if isinstance(choice, a.Name) else -1
                    if index < 0:
                        name = getattr(choice, "text", "this")
                        hint = nearest(getattr(choice, "id", ""), [f.name for f in kind.fields])
                        raise Wrong(choice.pos, f"{want!r} has no element '{name}'{hint}", "undeclared")
                    chosen.append(index)
            for index in chosen:
                if values[index] is not None:
                    raise Wrong(item.pos, f"element '{kind.fields[index].text}' is given twice", "aggregate")
                values[index] = self.value(item.value, fields[index])
        missing = [kind.fields[i].text for i, v in enumerate(values) if v is None]
        if missing:
            raise Wrong(
                e.pos,
                f"the aggregate gives no value for element{'s' if len(missing) > 1 else ''} {', '.join(missing)} of {want!r}",
                "aggregate",
            )
        shape = want
        if not want.constrained:
            shape = t.Subtype(kind, want.name, fields=[v.type if not f.constrained else f for v, f in zip(values, fields)])  # type: ignore[union-attr]
        return t.Aggregate(shape, e.pos, [([], v) for v in values if v is not None])

    def _array_aggregate(self, e: a.Aggregate, want: t.Subtype, dim: int) -> t.Expr:
        kind = want.type
        assert isinstance(kind, t.ArrayType)
        if len(kind.indexes) > 1:
            return self._matrix(e, want)
        index, element = kind.indexes[0], want.elem
        items: list[tuple[list[t.Expr | t.Bounds | None], t.Expr]] = []
        positional = 0
        others = False
        spread = 0
        lows: list[Any] = []
        highs: list[Any] = []
        known = True
        down = False
        named = False
        for item in e.items:
            if not item.choices:
                value = self._element(item.value, element, kind)
                if value.type.type is kind and element.type is not kind:
                    spread += 1
                    if value.type.bounds is not None and value.type.static:
                        positional += value.type.bounds[0].length
                    else:
                        known = False
                    items.append(([], t.Convert(value.type, value.pos, value)))
                else:
                    positional += 1
                    items.append(([], value))
                continue
            if len(item.choices) == 1 and isinstance(item.choices[0], a.Others):
                others = True
                items.append(([None], self.value(item.value, element)))
                continue
            choices: list[t.Expr | t.Bounds | None] = []
            named = True
            for choice in item.choices:
                if self._is_range(choice):
                    bounds, _ = self.bounds_here(choice, index)
                    choices.append(bounds)
                    known = known and bounds.static
                    if bounds.static:
                        if bounds.low <= bounds.high:
                            lows.append(bounds.low)
                            highs.append(bounds.high)
                        down = bounds.ints[2]
                else:
                    at = self.value(choice, self.plain(index.type))
                    choices.append(at)
                    known = known and isinstance(at, t.Const)
                    if isinstance(at, t.Const):
                        lows.append(at.value)
                        highs.append(at.value)
            value = self._element(item.value, element, kind)
            items.append((choices, value))
        if named and positional:
            raise Wrong(e.pos, "an array aggregate is either positional or named, not both", "aggregate")
        target = want.bounds[0] if want.bounds is not None else None
        if others and target is None:
            raise Wrong(
                e.pos,
                f"'others' needs bounds, but {want!r} is unconstrained here; use an object or subtype with bounds",
                "aggregate",
            )
        if known and target is not None and target.static and not self.dead:
            count = positional if not named else len({i for lo, hi in zip(lows, highs) for i in range(lo, hi + 1)})
            self._count(e, want, target, count, others, named, lows, highs)
        bounds_out: list[t.Bounds] | None = None
        if target is not None and (others or not named):
            bounds_out = [target] if target.static or others else want.bounds
        elif known:
            if named:
                if not lows:
                    rng = target if target is not None else t.Bounds(t.Const(index, e.pos, 1), t.Const(index, e.pos, 0), False)
                else:
                    low, high = t.Const(index, e.pos, min(lows)), t.Const(index, e.pos, max(highs))
                    falls = target.down if target is not None and isinstance(target.down, bool) else False
                    single = len(e.items) == 1 and len(e.items[0].choices) == 1
                    if single and target is None:
                        falls = down
                    rng = t.Bounds(high, low, True) if falls else t.Bounds(low, high, False)
            else:
                start = self.range_of(index, e.pos)
                left = start.ints[0] if start.static else 0
                falls = start.ints[2] if start.static else False
                last = left - positional + 1 if falls else left + positional - 1
                rng = t.Bounds(t.Const(index, e.pos, left), t.Const(index, e.pos, last), falls)
            bounds_out = [rng]
        shape_element = want.element
        if not element.constrained and items:
            shape_element = items[0][1].type
        return t.Aggregate(t.Subtype(kind, want.name, None, bounds_out, shape_element), e.pos, items)

    def _count(
        self,
        e: a.Aggregate,
        want: t.Subtype,
        target: t.Bounds,
        count: int,
        others: bool,
        named: bool,
        lows: list[Any],
        highs: list[Any],
    ) -> None:
        length = target.length
        what = f"{want!r}" if want.name else "the array"
        if count > length or (count < length and not others):
            raise Wrong(e.pos, f"the aggregate has {count} elements, but the length of {what} is {length}", "aggregate-length")
        if others and named and lows and (min(lows) < target.low or max(highs) > target.high):
            bad = min(lows) if min(lows) < target.low else max(highs)
            raise Wrong(
                e.pos,
                f"index {bad} of the aggregate is outside of {what}, which is {target.ints[0]} {'downto' if target.down else 'to'} {target.ints[1]}",
                "index-range",
            )

    def _element(self, e: a.Expr, element: t.Subtype, array: t.ArrayType) -> t.Expr:
        """An element, or (2008) an array of the aggregate's type whose elements stand in line."""
        kinds = self.types(e)
        if any(self.agrees(k, element.type) for k in kinds):
            return self.value(e, element)
        if any(self.agrees(k, array) for k in kinds):
            return self.value(e, self.plain(array))
        return self.value(e, element)

    def _matrix(self, e: a.Aggregate, want: t.Subtype) -> t.Expr:
        """An array of several dimensions: nested aggregates, flattened to one level a dimension."""
        kind = want.type
        assert isinstance(kind, t.ArrayType)
        rest = t.ArrayType(kind.name, kind.pos, kind.indexes[1:], kind.element)
        inner = t.Subtype(rest, kind.name, None, want.bounds[1:] if want.bounds is not None else None, want.element)
        rows = t.ArrayType(kind.name, kind.pos, kind.indexes[:1], inner)
        outer = t.Subtype(rows, kind.name, None, want.bounds[:1] if want.bounds is not None else None, inner)
        made = self._array_aggregate(e, outer, 0)
        assert isinstance(made, t.Aggregate)
        bounds = None
        if made.type.bounds is not None:
            below = next((v.type.bounds for _, v in made.items if v.type.bounds is not None), None)
            if below is not None:
                bounds = [*made.type.bounds, *below]
        made.type = t.Subtype(kind, want.name, None, bounds, want.element)
        return made


__all__ = ["Bound", "Expressions"]
