"""Types and what they declare by themselves (IEEE 1076-2008 5, 6.2); protected types."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.promises import check_complete
from mevrik.lang.vhdl.elaborate.scope import (
    Literal,
    Scope,
    TypeName,
    UnitName,
    Wrong,
)
from mevrik.lang.vhdl.elaborate.statements import Statements


class Types(Statements):
    def declare_all(self, decls: list[a.Decl]) -> list[t.Stmt]:
        raise NotImplementedError

    def declaration(self, d: a.Decl) -> None:
        raise NotImplementedError

    # ---- types ----

    def _type(self, d: a.TypeDecl) -> None:
        if d.definition is None:
            # an incomplete type (5.4.2): the definition follows
            holder = t.Subtype(t.BaseType(d.text, d.pos), d.text)
            self.scope.declare(d.id, TypeName(holder, d.pos, False, d.text), d.pos, d.text)
            return
        there = self.scope.direct(d.id)
        incomplete = there[0] if there and isinstance(there[0], TypeName) and not there[0].complete else None
        if isinstance(d.definition, a.ProtectedDef) and d.definition.body:
            self._protected_body(d, d.definition)
            return
        subtype = self._definition(d)
        if incomplete is not None:
            incomplete.subtype.type = subtype.type
            incomplete.subtype.range, incomplete.subtype.bounds = subtype.range, subtype.bounds
            incomplete.complete = True
        else:
            self.scope.declare(d.id, TypeName(subtype, d.pos, True, d.text), d.pos, d.text)
        self._declare_implicit(subtype, d)

    def _definition(self, d: a.TypeDecl) -> t.Subtype:
        name, pos = d.text, d.pos
        match d.definition:
            case a.EnumDef(literals=literals):
                kind = t.Enum(name, pos, [x.id if x.id[0] == "'" else x.text for x in literals])
                subtype = t.Subtype(kind, name)
                for value, x in enumerate(literals):
                    if any(x.id == earlier.id for earlier in literals[:value]):
                        raise Wrong(x.pos, f"{x.text} is a value of {name} already (5.2.2.1)", "declared-twice")
                    self.scope.declare(x.id, Literal(subtype, value, x.text, x.pos), x.pos, x.text)
                return subtype
            case a.RangeDef(range=e):
                return self._numeric(d, e)
            case a.PhysicalDef():
                return self._physical(d, d.definition)
            case a.ArrayDef():
                return self._array_type(d, d.definition)
            case a.RecordDef(fields=items):
                fields: list[t.Field] = []
                for low, text, ind, at in items:
                    if any(f.name == low for f in fields):
                        raise Wrong(at, f"element '{text}' is declared twice", "declared-twice")
                    fields.append(t.Field(low, text, self._element_subtype(ind)))
                return t.Subtype(t.RecordType(name, pos, fields), name)
            case a.AccessDef(subtype=ind):
                target = self.subtype(ind)
                return t.Subtype(t.AccessType(name, pos, target), name)
            case a.FileDef(mark=mark):
                return t.Subtype(t.FileType(name, pos, self.type_mark(mark)), name)
            case a.ProtectedDef(decls=decls):
                return self._protected(d, decls)
        raise AssertionError(d)

    def _element_subtype(self, e: a.SubtypeInd) -> t.Subtype:
        """Of an array or record (5.3.1)."""
        subtype = self.subtype(e)
        if isinstance(subtype.type, (t.FileType, t.ProtectedType)):
            what = "a file" if isinstance(subtype.type, t.FileType) else "of a protected type"
            raise Wrong(e.pos, f"an element can't be {what}; {subtype!r} is one (5.3.1)", "element")
        return subtype

    def _numeric(self, d: a.TypeDecl, e: a.Expr) -> t.Subtype:
        if not isinstance(e, a.Range):
            bounds, of = self.bounds(e, None)
            if isinstance(of.type, t.Integer):
                kind: t.BaseType = t.Integer(d.text, d.pos, bounds.low, bounds.high)
                return t.Subtype(kind, d.text, bounds)
            raise Wrong(e.pos, "a range with two ends should stand here", "range")
        kinds = [*self.types(e.left), *self.types(e.right)]
        if any(isinstance(k, t.Floating) for k in kinds):
            left = self.known(self.value(e.left, self._any_number(e.left)))
            right = self.known(self.value(e.right, self._any_number(e.right)))
            assert isinstance(left, t.Const) and isinstance(right, t.Const)
            real = t.Floating(d.text, d.pos)
            base = t.Subtype(real, d.text)
            bounds = t.Bounds(t.Const(base, e.pos, float(left.value)), t.Const(base, e.pos, float(right.value)), e.down)
            return t.Subtype(real, d.text, bounds)
        left = self.known(self.value(e.left, self._any_number(e.left)))
        right = self.known(self.value(e.right, self._any_number(e.right)))
        assert isinstance(left, t.Const) and isinstance(right, t.Const)
        low, high = (right.value, left.value) if e.down else (left.value, right.value)
        wide = not (low >= -(1 << 31) and high < 1 << 31)
        number = t.Integer(d.text, d.pos, -(1 << 63) if wide else -(1 << 31), (1 << 63) - 1 if wide else (1 << 31) - 1)
        base = t.Subtype(number, d.text)
        bounds = t.Bounds(t.Const(base, e.pos, left.value), t.Const(base, e.pos, right.value), e.down)
        return t.Subtype(number, d.text, bounds)

    def _any_number(self, e: a.Expr) -> t.Subtype | None:
        kinds = self.types(e)
        return self.plain(kinds[0]) if len(kinds) == 1 else self.std.integer

    def _physical(self, d: a.TypeDecl, definition: a.PhysicalDef) -> t.Subtype:
        assert isinstance(definition.range, a.Range)
        units = {definition.primary: 1}
        kind = t.Physical(d.text, d.pos, units)
        left, right = (
            self.constant(self.value(e, self._any_number(e))) for e in (definition.range.left, definition.range.right)
        )  # of any integer types (5.2.4)
        base = t.Subtype(kind, d.text)
        bounds = t.Bounds(t.Const(base, d.pos, left), t.Const(base, d.pos, right), definition.range.down)
        subtype = t.Subtype(kind, d.text, bounds)
        plain = t.Subtype(kind, d.text)
        self.scope.declare(definition.primary, UnitName(plain, 1), d.pos)
        for name, value in definition.secondary:
            factor: Any = 1
            unit = value
            if isinstance(value, a.Physical):
                factor, unit = value.value, value.unit
            if not isinstance(unit, a.Name) or unit.id not in units:
                raise Wrong(value.pos, "a unit is a multiple of one declared before it", "unit")
            units[name] = int(factor * units[unit.id])
            self.scope.declare(name, UnitName(plain, units[name]), d.pos)
        return subtype

    def _array_type(self, d: a.TypeDecl, definition: a.ArrayDef) -> t.Subtype:
        element = self._element_subtype(definition.element)
        indexes: list[t.Subtype] = []
        bounds: list[t.Bounds] = []
        for e in definition.indexes:
            if definition.unbounded:
                if not isinstance(e, a.SubtypeInd) or not isinstance(e.constraint, list):
                    raise Wrong(e.pos, "all indexes of an unconstrained array are written 'type range <>'", "array")
                indexes.append(self.type_mark(e.mark))
            else:
                found, of = self.bounds(e, None)
                indexes.append(of)
                bounds.append(found)
        for index in indexes:
            if not index.discrete:
                raise Wrong(d.pos, f"an array is indexed by a discrete type; {index!r} is none", "array")
        kind = t.ArrayType(d.text, d.pos, indexes, element)
        return t.Subtype(kind, d.text, None, None if definition.unbounded else bounds)

    def _declare_implicit(self, subtype: t.Subtype, d: a.TypeDecl) -> None:
        """The subprograms that come with file and access types (5.4.3, 5.5.2)."""
        kind = subtype.type
        std = self.std

        def param(name: str, of: t.Subtype, cls: str, mode: str = "in", default: t.Expr | None = None) -> t.Object:
            return t.Object(name, "param", of, d.pos, name, mode, cls, default=default)

        def declare(name: str, params: list[t.Object], result: t.Subtype | None = None, intrinsic: str = "") -> None:
            sub = t.Subprogram(name, result is not None, params, result, d.pos, name, True, intrinsic or name, implicit=True)
            self.scope.declare(name, sub, d.pos)

        if isinstance(kind, t.AccessType):
            declare("deallocate", [param("p", subtype, "variable", "inout")])
        if isinstance(kind, t.FileType):
            read = t.Const(std.file_open_kind, d.pos, 0)
            declare(
                "file_open",
                [
                    param("f", subtype, "file"),
                    param("external_name", std.string, "constant"),
                    param("open_kind", std.file_open_kind, "constant", "in", read),
                ],
            )
            declare(
                "file_open",
                [
                    param("status", std.file_open_status, "variable", "out"),
                    param("f", subtype, "file"),
                    param("external_name", std.string, "constant"),
                    param("open_kind", std.file_open_kind, "constant", "in", read),
                ],
                None,
                "file_open_status",
            )
            declare("file_close", [param("f", subtype, "file")])
            declare("flush", [param("f", subtype, "file")], None, "file_flush")
            declare("endfile", [param("f", subtype, "file")], std.boolean)
            element = kind.element
            if isinstance(element.type, t.ArrayType) and element.bounds is None:
                declare(
                    "read",
                    [
                        param("f", subtype, "file"),
                        param("value", element, "variable", "out"),
                        param("length", std.natural, "variable", "out"),
                    ],
                    None,
                    "file_read_array",
                )
            else:
                declare("read", [param("f", subtype, "file"), param("value", element, "variable", "out")], None, "file_read")
            as_it_is = self.lazy and d.id == "text"  # of std.textio: no lengths beside the characters
            how = "file_write_text" if as_it_is else "file_write"
            declare("write", [param("f", subtype, "file"), param("value", element, "constant")], None, how)

    def accesses_to(self, target: t.BaseType) -> list[t.BaseType]:
        found: list[t.BaseType] = []
        scope: Scope | None = self.scope
        while scope is not None:
            for region in (scope, *scope.whole):
                for entities in region.names.values():
                    for x in entities:
                        if isinstance(x, TypeName) and isinstance(x.subtype.type, t.AccessType):
                            kind = x.subtype.type
                            if kind.target is not None and kind.target.type is target and kind not in found:
                                found.append(kind)
            scope = scope.parent
        return found

    _vectors: tuple[Scope, int, list[t.BaseType]] | None = None

    def vectors_in_view(self) -> list[t.BaseType]:
        size = sum(len(region.names) for region in self._regions())
        if self._vectors is not None and self._vectors[0] is self.scope and self._vectors[1] == size:
            return self._vectors[2]
        found: list[t.BaseType] = []
        for region in self._regions():
            for entities in region.names.values():
                x = entities[0] if entities else None
                if isinstance(x, TypeName) and isinstance(x.subtype.type, t.ArrayType) and len(x.subtype.type.indexes) == 1:
                    if x.subtype.type not in found:
                        found.append(x.subtype.type)
        self._vectors = (self.scope, size, found)
        return found

    def _regions(self) -> list[Scope]:
        found: list[Scope] = []
        scope: Scope | None = self.scope
        while scope is not None:
            found.append(scope)
            found += scope.whole
            scope = scope.parent
        return found

    # ---- protected types (5.6) ----

    def _protected(self, d: a.TypeDecl, decls: list[a.Decl]) -> t.Subtype:
        kind = t.ProtectedType(d.text, d.pos)
        kind.scope = Scope(self.scope, d.id)
        subtype = t.Subtype(kind, d.text)
        kind.scope.declare(d.id, TypeName(subtype, d.pos, True, d.text), d.pos)
        with self.inside(kind.scope, protected=kind):
            for item in decls:
                with self.careful():
                    self.declaration(item)
        for entities in kind.scope.names.values():
            for x in entities:
                if isinstance(x, t.Subprogram):
                    x.method_of = kind
        return subtype

    def _protected_body(self, d: a.TypeDecl, definition: a.ProtectedDef) -> None:
        there = self.scope.lookup(d.id)
        if not there or not isinstance(there[0], TypeName) or not isinstance(there[0].subtype.type, t.ProtectedType):
            raise Wrong(d.pos, f"there is no protected type '{d.text}' that this could be the body of", "protected")
        kind = there[0].subtype.type
        kind.body = d
        with self.inside(kind.scope, protected=kind, sub=None, process=None, out=[]):
            kind.init = self.declare_all(definition.decls)
            if not self.diagnostics.failed:
                check_complete(self.scope, self.diagnostics, f" of the protected type '{kind.name}'")

    def complete_protected(self, kind: t.ProtectedType, pos: int) -> None:
        if kind.body is None:
            raise Wrong(
                pos, f"the protected type '{kind.name}' has no body yet; its body has to come before this variable", "protected"
            )

    def check_value(self, value: t.Expr, subtype: t.Subtype, pos: int) -> None:
        """What is known to fail before the run: a length or a range."""
        if self.dead:
            return
        if isinstance(subtype.type, t.ArrayType) and subtype.bounds is not None and value.type.bounds is not None:
            if len(subtype.bounds) == len(value.type.bounds):
                for x, y in zip(subtype.bounds, value.type.bounds, strict=True):
                    if x.static and y.static and x.length != y.length:
                        raise Wrong(
                            pos, f"the value has {y.length} elements, but the length of {subtype!r} is {x.length} here", "length"
                        )
        if isinstance(value, t.Const) and subtype.scalar and subtype.range is not None and subtype.range.static:
            low, high = subtype.range.low, subtype.range.high
            if not low <= value.value <= high:
                shown = value.value
                if isinstance(subtype.type, t.Enum):
                    shown = subtype.type.literals[value.value]
                raise Wrong(pos, f"{shown} is outside of {subtype!r}, whose range is {low} to {high} here", "range")

    def shape_of(self, init: t.Expr, subtype: t.Subtype) -> t.Subtype:
        """The bounds that an unconstrained object takes from its value."""
        kind = subtype.type
        if init.type.static and init.type.constrained:
            return t.Subtype(kind, subtype.name, None, init.type.bounds, init.type.element, init.type.fields, subtype.resolution)
        if self.sub is not None:
            return subtype
        shape = self.shared.evaluate(self.shared.constants, init)
        return self.shaped(subtype, shape)

    def shaped(self, subtype: t.Subtype, shape: Any) -> t.Subtype:
        """A subtype with the bounds that were found by evaluating a value: a list of (left, right, down) for each array level."""
        if not isinstance(subtype.type, t.ArrayType):
            return subtype
        bounds = [
            t.Bounds(t.Const(i, 0, left), t.Const(i, 0, right), bool(down))
            for (left, right, down), i in zip(shape, subtype.type.indexes, strict=True)
        ]
        return t.Subtype(subtype.type, subtype.name, None, bounds, subtype.element)
