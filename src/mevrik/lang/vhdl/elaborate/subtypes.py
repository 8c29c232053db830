"""Ranges, constraints and subtype indications (IEEE 1076-2008 5.2, 5.3.2.2, 6.3)."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.lang.diagnostics import counted
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.base import Base
from mevrik.lang.vhdl.elaborate.scope import Alias, Literal, TypeName, Wrong


class Subtypes(Base):
    def value(self, e: a.Expr, want: t.Subtype | None) -> t.Expr:
        raise NotImplementedError

    def types(self, e: a.Expr) -> list[t.BaseType]:
        raise NotImplementedError

    def attribute_range(self, e: a.Attr) -> tuple[t.Bounds, t.Subtype] | None:
        raise NotImplementedError

    # ---- types by name ----

    def as_type(self, e: a.Expr) -> TypeName | None:
        if isinstance(e, (a.Name, a.Select)):
            found = self.denote(e)
            return found[0] if found and isinstance(found[0], TypeName) else None
        if isinstance(e, a.Attr):
            if e.id == "base":
                inner = self.as_type(e.prefix)
                return TypeName(t.Subtype(inner.subtype.type, inner.subtype.type.name)) if inner is not None else None
            if e.id == "subtype":
                of = self.as_type(e.prefix)
                return of if of is not None else TypeName(self._of_object(e))
            if e.id == "element":
                outer = self.as_type(e.prefix)
                subtype = outer.subtype if outer is not None else self._of_object(e)
                if not isinstance(subtype.type, t.ArrayType):
                    raise Wrong(e.pos, f"'element needs an array; {subtype!r} is none", "attribute")
                return TypeName(subtype.elem)
        return None

    def _of_object(self, e: a.Attr) -> t.Subtype:
        """What an object is, with the bounds that it has where its type leaves them open (16.2.2)."""
        value = self.value(e.prefix, None)
        if value.type.constrained or isinstance(value, t.Call):
            return value.type
        return self.object_subtype(value, value.type, e.pos)

    def object_subtype(self, value: t.Expr, subtype: t.Subtype, pos: int, inside: int = 0) -> t.Subtype:
        raise NotImplementedError

    def type_mark(self, e: a.Expr) -> t.Subtype:
        found = self.as_type(e)
        if found is None:
            name = getattr(e, "text", "") or getattr(e, "id", "this")
            raise Wrong(e.pos, f"'{name}' is no type", "not-a-type")
        return found.subtype

    def subtype(self, e: a.SubtypeInd) -> t.Subtype:
        """The subtype that an indication describes; outside of subprograms all its bounds are known."""
        base = self.type_mark(e.mark)
        found = base
        if e.constraint is not None:
            if isinstance(e.constraint, list):
                found = self._composite(base, e.constraint, e.more, e.pos)
            else:
                if not base.scalar:
                    raise Wrong(
                        e.pos, f"a range constrains a scalar; {base!r} is none: its bounds are given in parentheses", "constraint"
                    )
                bounds, _ = self.bounds(e.constraint, base)
                self._inside(bounds, base, e.pos)
                found = t.Subtype(base.type, base.name, bounds, resolution=base.resolution)
        if e.resolution is not None:
            found = self._resolved(found, e.resolution)
        return found

    def _resolved(self, subtype: t.Subtype, e: a.Expr) -> t.Subtype:
        if isinstance(e, a.Aggregate) or not isinstance(e, (a.Name, a.Select)):
            inner = e.items[0].value if isinstance(e, a.Aggregate) else e
            if isinstance(subtype.type, t.ArrayType):
                return t.Subtype(subtype.type, subtype.name, None, subtype.bounds, self._resolved(subtype.elem, inner))
            return subtype
        found = self.denote(e)
        if isinstance(subtype.type, t.ArrayType) and found:
            elem = subtype.elem.type
            if any(isinstance(f, t.Subprogram) and f.result is not None and f.result.type is elem for f in found) and not any(
                isinstance(f, t.Subprogram) and f.result is not None and f.result.type is subtype.type for f in found
            ):
                return t.Subtype(subtype.type, subtype.name, None, subtype.bounds, self._resolved(subtype.elem, e))
        for f in found or ():
            if (
                isinstance(f, t.Subprogram)
                and f.function
                and len(f.params) == 1
                and f.result is not None
                and f.result.type is subtype.type
                and _takes_many(f.params[0], subtype)
            ):
                return t.Subtype(subtype.type, subtype.name, subtype.range, subtype.bounds, subtype.element, subtype.fields, f)
        raise Wrong(
            e.pos,
            f"no function of this name resolves {subtype!r}: it takes one array of it, without bounds, and returns one value (4.6)",
            "resolution",
        )

    def _inside(self, bounds: t.Bounds, base: t.Subtype, pos: int) -> None:
        """A known range has to lie in that of its base (5.2.1)."""
        if not bounds.static or base.range is None or not base.range.static:
            return
        if bounds.low <= bounds.high and (bounds.low < base.range.low or bounds.high > base.range.high):
            word = "downto" if bounds.down else "to"
            raise Wrong(
                pos,
                f"the range {bounds.ints[0]} {word} {bounds.ints[1]} leaves {base!r}, which is {base.range.low} to {base.range.high}",
                "range",
            )

    def _composite(self, base: t.Subtype, items: list[a.Assoc], more: list[list[a.Assoc]], pos: int) -> t.Subtype:
        if isinstance(base.type, t.AccessType) and base.type.target is not None:
            target = self._composite(base.type.target, items, more, pos)
            return t.Subtype(t.AccessType(base.type.name, base.type.pos, target), base.name)
        if isinstance(base.type, t.RecordType):
            fields = list(base.field_types())
            for item in items:
                if not item.choices or not isinstance(item.choices[0], a.Name) or not isinstance(item.value, a.SubtypeInd):
                    raise Wrong(item.pos, "the constraint of a record names its elements: element(range)", "constraint")
                index = base.type.index(item.choices[0].id)
                if index < 0:
                    raise Wrong(item.pos, f"{base!r} has no element '{item.choices[0].text}'", "undeclared")
                inner = item.value
                assert isinstance(inner.constraint, list)
                fields[index] = self._composite(fields[index], inner.constraint, inner.more, item.pos)
            return t.Subtype(base.type, base.name, fields=fields)
        if not isinstance(base.type, t.ArrayType):
            raise Wrong(pos, f"{base!r} is no array; a scalar is constrained with 'range'", "constraint")
        element = base.elem
        if more:
            element = self._composite(element, more[0], more[1:], pos)
        if len(items) == 1 and isinstance(items[0].value, a.Open):
            return t.Subtype(base.type, base.name, None, base.bounds, element, resolution=base.resolution)
        if base.bounds is not None:
            raise Wrong(pos, f"{base!r} has its bounds already", "constraint")
        if len(items) != len(base.type.indexes):
            raise Wrong(
                pos,
                f"{base!r} has {counted(len(base.type.indexes), 'dimension')}, {len(items)} {'is' if len(items) == 1 else 'are'} given",
                "constraint",
            )
        bounds = []
        for item, of in zip(items, base.type.indexes, strict=True):
            found, _ = self.bounds(item.value, of)
            if found.static and of.range is not None and of.range.static and found.low <= found.high:
                if found.low < of.range.low or found.high > of.range.high:
                    raise Wrong(
                        item.pos,
                        f"the bounds {found.ints[0]} and {found.ints[1]} are outside of {of!r}, the index of {base!r}",
                        "range",
                    )
            self._turned(item.value, found)
            bounds.append(found)
        return t.Subtype(base.type, base.name, None, bounds, element, resolution=base.resolution)

    def _turned(self, e: a.Expr, bounds: t.Bounds) -> None:
        """A range written with numbers that has no elements, and isn't the usual way to write that, was meant the other way round."""
        if not isinstance(e, a.Range) or not isinstance(e.left, a.Number) or not isinstance(e.right, a.Number) or not bounds.static:
            return
        if bounds.low - bounds.high >= 2:
            left, right = bounds.ints[:2]
            word, other = ("downto", "to") if bounds.down else ("to", "downto")
            message = f"the range {left} {word} {right} has no elements: '{left} {other} {right}' has"
            self.diagnostics.warning(e.pos, message, "null-range")

    # ---- ranges ----

    def bounds(self, e: a.Expr, want: t.Subtype | None) -> tuple[t.Bounds, t.Subtype]:
        """A range or discrete subtype, and the subtype of what it ranges over."""
        if isinstance(e, a.Range):
            wanted = want if want is not None else self._range_type(e)
            left = self.fixed(self.value(e.left, t.Subtype(wanted.type, wanted.name)))
            right = self.fixed(self.value(e.right, t.Subtype(wanted.type, wanted.name)))
            return t.Bounds(left, right, e.down), t.Subtype(wanted.type, wanted.name or wanted.type.name, None)
        if isinstance(e, a.Attr) and e.id in ("range", "reverse_range"):
            found = self.attribute_range(e)
            if found is not None:
                return found
        if isinstance(e, a.SubtypeInd):
            subtype = self.subtype(e)
            return self.range_of(subtype, e.pos), subtype
        named = self.as_type(e)
        if named is not None:
            return self.range_of(named.subtype, e.pos), named.subtype
        raise Wrong(e.pos, "a range such as '7 downto 0', or a type with one, should stand here", "range")

    def _range_type(self, e: a.Range) -> t.Subtype:
        left, right = self.types(e.left), self.types(e.right)
        both = [x for x in left for y in right if x is y or self._universal(y, x)]
        both += [y for y in right for x in left if self._universal(x, y)]
        kinds = {id(x): x for x in both if isinstance(x, (t.Integer, t.Enum, t.Floating, t.Physical))}
        real = [x for x in kinds.values() if not getattr(x, "universal", False)]
        if len(real) > 1:
            real = (
                [x for x in real if x is self.std.integer.type or isinstance(x, t.Integer)]
                or [x for x in real if x is self.std.character.type]
                or real
            )
        if real:
            return t.Subtype(real[0], real[0].name)
        if any(isinstance(x, t.Floating) for x in kinds.values()):
            return self.std.real
        if not kinds:
            raise Wrong(e.pos, "the two ends of this range are of different types", "type")
        return self.std.integer

    @staticmethod
    def _universal(x: t.BaseType, y: t.BaseType) -> bool:
        return (isinstance(x, t.Integer) and x.universal and isinstance(y, t.Integer)) or (
            isinstance(x, t.Floating) and x.universal and isinstance(y, t.Floating)
        )

    def range_of(self, subtype: t.Subtype, pos: int) -> t.Bounds:
        """The range of a scalar subtype."""
        if subtype.range is not None:
            return subtype.range
        kind = subtype.type
        if isinstance(kind, (t.Enum, t.Integer, t.Floating, t.Physical)):
            return t.Bounds(t.Const(subtype, pos, kind.low), t.Const(subtype, pos, kind.high), False)
        raise Wrong(pos, f"{subtype!r} is no scalar type: it has no range", "type")

    def fixed(self, e: t.Expr) -> t.Expr:
        """A bound: known outside of subprograms, and inside, and in the statements of a process, evaluated once, where it stands."""
        if isinstance(e, t.Const):
            return e
        if self.sub is None and not self.running:
            return self.known(e)
        if isinstance(e, t.Ref) and e.object.kind in ("constant", "loop"):
            return e
        hidden = t.Object("", "constant", t.Subtype(e.type.type, e.type.name), e.pos, init=e, owner=self.sub)
        self.out.append(t.Declare(self.site_now, hidden))
        return t.Ref(e.type, e.pos, hidden)

    def object_of(self, entity: Any, pos: int) -> t.Expr:
        """A named object as an expression."""
        if isinstance(entity, Alias):
            return entity.expr
        assert isinstance(entity, t.Object)
        if entity.value is not None and entity.subtype.scalar:
            return t.Const(entity.subtype, pos, entity.value)
        return t.Ref(entity.subtype, pos, entity)

    def with_signature(self, found: list[Any], signature: a.Signature) -> list[Any]:
        params = [self.type_mark(p).type for p in signature.params]
        result = self.type_mark(signature.result).type if signature.result is not None else None
        return [x for x in found if self._has_signature(x, params, result)]

    def _has_signature(self, x: Any, params: list[t.BaseType], result: t.BaseType | None) -> bool:
        if isinstance(x, Literal):
            return not params and x.type.type is result
        return (
            isinstance(x, t.Subprogram)
            and [p.subtype.type for p in x.params] == params
            and (x.result.type if x.result is not None else None) is result
        )


def _takes_many(p: t.Object, subtype: t.Subtype) -> bool:
    """Whether the parameter of a resolution function takes the values of all drivers (4.6)."""
    kind = p.subtype.type
    many = isinstance(kind, t.ArrayType) and len(kind.indexes) == 1 and kind.element.type is subtype.type
    return many and p.subtype.bounds is None and p.cls in ("", "constant")
