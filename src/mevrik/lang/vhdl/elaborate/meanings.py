"""Which types an expression can have, by what its names may mean (IEEE 1076-2008 9, 12.5)."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.lang.diagnostics import nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.attributes import Attributes
from mevrik.lang.vhdl.elaborate.base import ANY_AGGREGATE, ANY_NULL, AnyText
from mevrik.lang.vhdl.elaborate.calls import BUILTIN
from mevrik.lang.vhdl.elaborate.scope import (
    Alias,
    Component,
    GenericSubprogram,
    Literal,
    Package,
    TypeName,
    UnitName,
    Wrong,
)


class Meanings(Attributes):
    def _selected(self, e: a.Select) -> t.Expr:
        raise NotImplementedError

    def value(self, e: a.Expr, want: t.Subtype | None) -> t.Expr:
        raise NotImplementedError

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
            short = f"{name.id[:1]}s" if name.id.rstrip("s").endswith(("sec", "second")) else ""  # nsec: ns is meant
            hint = f"; did you mean '{short}'?" if short in known else nearest(name.id, known)
            raise Wrong(name.pos, f"'{name.text}' is no unit{hint}", "unit")
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
