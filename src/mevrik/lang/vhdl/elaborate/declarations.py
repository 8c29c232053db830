"""Declarations (IEEE 1076-2008 clauses 4 to 7)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from mevrik.design import typed as t
from mevrik.design.reads import static_part
from mevrik.lang.diagnostics import nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.scope import (
    Alias,
    Attribute,
    Broken,
    Component,
    GenericSubprogram,
    Label,
    Literal,
    Package,
    Quiet,
    Scope,
    TypeName,
    UnitName,
    Wrong,
    signature,
)
from mevrik.lang.vhdl.elaborate.statements import Statements


class Declarations(Statements):
    lazy = False  # bodies of subprograms are analysed when they are called: for the packages that come with us

    def declare_all(self, decls: list[a.Decl]) -> list[t.Stmt]:
        """Declare everything; gives the statements that bring the objects into being, in order."""
        made: list[t.Stmt] = []
        for d in decls:
            outer, self.out = self.out, []
            self._cache.clear()
            mark = self.diagnostics.mark()
            whole = False  # stays so too where a declaration is given up quietly, for it needs a broken one
            try:
                with self.careful():
                    self.declaration(d)
                    whole = True
            finally:
                made += self.out
                self.out = outer
            if not whole or self.diagnostics.failed_since(mark):
                self._break(d)
        self._check_bodies(decls)
        return made

    def _break(self, d: a.Decl) -> None:
        """What a wrong declaration should have declared is known as broken, so that its uses are not reported too."""
        names: list[str] = []
        if isinstance(d, a.UseClause):
            self.scope.incomplete = True
        if isinstance(d, a.ObjectDecl):
            names = [n[0] for n in d.names]
        elif isinstance(
            d, (a.TypeDecl, a.SubtypeDecl, a.AliasDecl, a.ComponentDecl, a.SubprogramInst, a.PackageInst, a.PackageDecl)
        ):
            names = [d.id]
        elif isinstance(d, (a.SubprogramDecl, a.SubprogramBody)):
            names = [d.spec.id]
        for name in names:
            there = self.scope.names.setdefault(name, [])
            if not there:
                there.append(Broken(name))

    def _check_bodies(self, decls: list[a.Decl]) -> None:
        """Where bodies belong, a subprogram or protected type without one is a mistake."""
        if self.lazy or not any(isinstance(d, (a.SubprogramBody, a.ObjectDecl, a.SubprogramDecl)) for d in decls):
            return

    def declaration(self, d: a.Decl) -> None:
        match d:
            case a.ObjectDecl():
                self._objects(d)
            case a.TypeDecl():
                self._type(d)
            case a.SubtypeDecl():
                subtype = self.subtype(d.indication)
                named = t.Subtype(
                    subtype.type, d.text, subtype.range, subtype.bounds, subtype.element, subtype.fields, subtype.resolution
                )
                self.scope.declare(d.id, TypeName(named, d.pos, True, d.text), d.pos, d.text)
            case a.SubprogramDecl(spec=spec):
                self._subprogram(spec, None)
            case a.SubprogramBody(spec=spec):
                self._subprogram(spec, d)
            case a.SubprogramInst():
                self._subprogram_instance(d)
            case a.AliasDecl():
                self._alias(d)
            case a.AttrDecl():
                self.scope.declare(d.id, Attribute(d.id, self.type_mark(d.mark)), d.pos)
            case a.AttrSpec():
                self._attribute_spec(d)
            case a.ComponentDecl():
                scope = Scope(self.scope, d.id)
                self.scope.declare(d.id, Component(d.text, d, scope), d.pos, d.text)
            case a.UseClause():
                self.use(d.names)
            case a.LibraryClause():
                self.library(d)
            case a.ContextRef():
                self.context(d)
            case a.PackageDecl():
                self._package(d)
            case a.PackageBody():
                self._package_body(d)
            case a.PackageInst():
                self._package_instance(d)
            case a.ConfigSpec():
                self.scope.specs.append(d)
            case a.DisconnectSpec():
                after = self.known(self.value(d.after, self.std.time))
                for e in d.names:
                    word = e.id if isinstance(e, a.Name) else ""
                    for o in self.scope.direct(word):
                        if isinstance(o, t.Object) and o.kind == "signal":
                            o.default = after
            case a.TypeGeneric() | a.SubprogramGeneric() | a.PackageGeneric():
                raise Wrong(d.pos, "this generic was given no value", "generic")

    # ---- visibility ----

    def use(self, names: list[a.Expr]) -> None:
        """6.9.2 use clauses."""
        for name in names:
            with self.careful():
                if not isinstance(name, a.Select):
                    found = self.denote(name)
                    raise Wrong(name.pos, "a use clause names what it makes visible: package.name or package.all", "use")
                if name.id == "all":
                    found = self.denote(name.prefix)
                    package = found[0] if found else None
                    if isinstance(package, Package):
                        if package.generic is not None:
                            raise Wrong(
                                name.pos,
                                f"'{package.name}' is a package with generics; declare an instance of it first",
                                "generic-package",
                            )
                        self.used(package, name.pos)
                        if package.scope not in self.scope.whole:
                            self.scope.whole.append(package.scope)
                    else:
                        self.use_library(package, name)
                else:
                    found = self.denote(name)
                    if found:
                        owner = self.denote(name.prefix)
                        if owner and isinstance(owner[0], Package):
                            self.used(owner[0], name.pos)
                        entities = self.scope.single.setdefault(name.id, [])
                        entities += [f for f in found if f not in entities]
                        if (
                            isinstance(found[0], TypeName)
                            and isinstance(found[0].subtype.type, t.Enum)
                            and owner
                            and isinstance(owner[0], Package)
                        ):
                            pass

    def used(self, package: Package, pos: int) -> None:
        """A package of ours is used: some are worth a word."""

    def use_library(self, entity: Any, e: a.Select) -> None:
        raise Wrong(e.pos, "only a package can be used", "use")

    def library(self, d: a.LibraryClause) -> None:
        raise NotImplementedError

    def context(self, d: a.ContextRef) -> None:
        raise NotImplementedError

    # ---- objects ----

    def _objects(self, d: a.ObjectDecl) -> None:
        assert d.subtype is not None
        if d.kind == "signal":
            self._signals(d)
            return
        if d.kind == "file":
            self._files(d)
            return
        if d.kind == "variable" and self.sub is None and self.process is None and self.protected is None:
            raise Wrong(d.pos, "a variable outside of a process or subprogram has to be shared: 'shared variable'", "variable")
        subtype = self.subtype(d.subtype)
        for name, text, pos in d.names:
            with self.careful():
                self._object(d, name, text, pos, subtype)

    def _object(self, d: a.ObjectDecl, name: str, text: str, pos: int, subtype: t.Subtype) -> None:
        kind = "variable" if d.kind in ("variable", "shared") else "constant"
        there = self.scope.direct(name)
        deferred = None
        if (
            kind == "constant"
            and there
            and isinstance(there[0], t.Object)
            and there[0].kind == "constant"
            and there[0].init is None
        ):
            deferred = there[0]
        init: t.Expr | None = None
        if d.init is not None:
            init = self.value(d.init, subtype)
            self.check_value(init, subtype, d.init.pos)
        elif kind == "constant" and (
            self.process is not None or self.sub is not None or not self.scope.label.startswith("package ")
        ):
            raise Wrong(pos, f"the constant '{text}' has no value; add ':= value'", "constant")
        if isinstance(subtype.type, t.ProtectedType) and kind == "variable":
            self.complete_protected(subtype.type, pos)
        if not subtype.constrained and isinstance(subtype.type, (t.ArrayType, t.RecordType)):
            if init is None:
                if kind == "variable":
                    raise Wrong(pos, f"'{text}' needs bounds: {subtype!r} is unconstrained", "unconstrained")
            else:
                subtype = self.shape_of(init, subtype)
        o = deferred if deferred is not None else t.Object(name, kind, subtype, pos, text)
        o.subtype = subtype
        o.init = init
        o.owner = self.sub
        o.shared = d.kind == "shared"
        if self.sub is None:
            if isinstance(init, t.Const) and kind == "constant":
                o.value = init.value
            if self.protected is not None:
                o.self_of = self.protected
                o.place = self._in_protected(self.protected, subtype)
                self.protected.variables.append(o)
            elif o.place < 0 and not (kind == "constant" and subtype.scalar and o.value is not None):
                if subtype.static:
                    o.place = self.shared.allocate(t.size_of(subtype))
            if self.process is None and self.protected is None:
                if o.value is None and (init is not None or kind == "variable") and o not in self.shared.constants:
                    self.shared.constants.append(o)
            else:
                self.out.append(t.Declare(self.site(d), o))
        else:
            self.sub.variables.append(o)
            self.out.append(t.Declare(self.site(d), o))
        if deferred is None:
            self.scope.declare(name, o, pos, text)

    @staticmethod
    def _in_protected(owner: t.ProtectedType, subtype: t.Subtype) -> int:
        at = (owner.size + 7) // 8 * 8
        owner.size = at + t.size_of(subtype)
        return at

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

    def _files(self, d: a.ObjectDecl) -> None:
        assert d.subtype is not None
        subtype = self.subtype(d.subtype)
        if not isinstance(subtype.type, t.FileType):
            raise Wrong(d.subtype.pos, f"{subtype!r} is no file type", "file")
        init = self.value(d.init, self.std.string) if d.init is not None else None
        mode = self.value(d.open_kind, self.std.file_open_kind) if d.open_kind is not None else None
        if mode is None and d.mode == "out":
            mode = t.Const(self.std.file_open_kind, d.pos, 1)
        for name, text, pos in d.names:
            o = t.Object(name, "file", subtype, pos, text, init=init, owner=self.sub, default=mode)
            if self.sub is None:
                o.place = self.shared.allocate(8)
                if self.process is None and self.protected is None:
                    self.shared.constants.append(o)
                else:
                    self.out.append(t.Declare(self.site(d), o))
            else:
                self.out.append(t.Declare(self.site(d), o))
            self.scope.declare(name, o, pos, text)

    def _signals(self, d: a.ObjectDecl) -> None:
        if self.process is not None or self.sub is not None:
            raise Wrong(d.pos, "a signal is declared in an architecture, block or package, not here", "signal")
        assert d.subtype is not None
        subtype = self.subtype(d.subtype)
        for name, text, pos in d.names:
            with self.careful():
                init: t.Expr | None = None
                shape = subtype
                if d.init is not None:
                    init = self.value(d.init, subtype)
                    self.check_value(init, subtype, d.init.pos)
                if not subtype.constrained:
                    if init is None:
                        raise Wrong(pos, f"'{text}' needs bounds: {subtype!r} is unconstrained", "unconstrained")
                    shape = self.shape_of(init, subtype)
                self._check_signal_type(shape, pos, text)
                o = t.Object(name, "signal", shape, pos, text, init=init, bus=d.bus)
                o.signal = t.SignalPart(self.root_signal(o))
                o.signal.root.bus = d.bus
                self.scope.declare(name, o, pos, text)

    def _check_signal_type(self, subtype: t.Subtype, pos: int, text: str) -> None:
        kind = subtype.type
        if isinstance(kind, (t.AccessType, t.FileType, t.ProtectedType)):
            raise Wrong(pos, f"'{text}' can't be a signal: {subtype!r} is no type for signals", "signal")
        if isinstance(kind, t.ArrayType):
            self._check_signal_type(subtype.elem, pos, text)
        if isinstance(kind, t.RecordType):
            for f in subtype.field_types():
                self._check_signal_type(f, pos, text)

    def root_signal(self, o: t.Object) -> t.RootSignal:
        """Storage for a signal."""
        root = t.RootSignal(
            o.name, o.subtype, o.pos, len(self.shared.roots), 0, t.size_of(o.subtype), f"{self.path}.{o.text or o.name}"
        )
        root.init = o.init
        root.offset = self.shared.allocate(root.size, 8)
        self.shared.roots.append(root)
        return root

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
                    fields.append(t.Field(low, text, self.subtype(ind)))
                return t.Subtype(t.RecordType(name, pos, fields), name)
            case a.AccessDef(subtype=ind):
                target = self.subtype(ind)
                return t.Subtype(t.AccessType(name, pos, target), name)
            case a.FileDef(mark=mark):
                return t.Subtype(t.FileType(name, pos, self.type_mark(mark)), name)
            case a.ProtectedDef(decls=decls):
                return self._protected(d, decls)
        raise AssertionError(d)

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
        left = self.constant(self.value(definition.range.left, self.std.universal_integer))
        right = self.constant(self.value(definition.range.right, self.std.universal_integer))
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
        element = self.subtype(definition.element)
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
            declare("write", [param("f", subtype, "file"), param("value", element, "constant")], None, "file_write")

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

    def complete_protected(self, kind: t.ProtectedType, pos: int) -> None:
        if kind.body is None:
            raise Wrong(
                pos, f"the protected type '{kind.name}' has no body yet; its body has to come before this variable", "protected"
            )

    # ---- subprograms ----

    def parameters(self, items: list[a.Decl], scope: Scope, function: bool) -> list[t.Object]:
        found: list[t.Object] = []
        for d in items:
            if not isinstance(d, a.ObjectDecl):
                raise Wrong(d.pos, "a parameter is a constant, variable, signal or file", "parameter")
            assert d.subtype is not None
            subtype = self.subtype(d.subtype)
            kind = d.kind
            if isinstance(subtype.type, t.FileType):
                kind = "file"
            init = self.value(d.init, subtype) if d.init is not None else None
            if function and d.mode != "in" and not self.lazy:
                raise Wrong(d.pos, "the parameters of a function are of mode in", "parameter")
            for name, text, pos in d.names:
                o = t.Object(name, "param", subtype, pos, text, d.mode, kind, init=init)
                scope.declare(name, o, pos, text)
                found.append(o)
        return found

    def _subprogram(self, spec: a.SubprogramSpec, body: a.SubprogramBody | None) -> None:
        if spec.generics:
            there = self.scope.direct(spec.id)
            known = next((x for x in there if isinstance(x, GenericSubprogram)), None)
            if known is not None:
                known.tree = body or known.tree
            else:
                self.scope.declare(
                    spec.id,
                    GenericSubprogram(body or a.SubprogramDecl(spec.pos, spec), self.scope, spec.text, spec.pos),
                    spec.pos,
                    spec.text,
                )
            return
        self._declare_subprogram(spec, body, self.scope)

    def _declare_subprogram(
        self, spec: a.SubprogramSpec, body: a.SubprogramBody | None, region: Scope, name: str = "", text: str = ""
    ) -> t.Subprogram:
        scope = Scope(self.scope, spec.id)
        hidden, self.out = self.out, []
        params = self.parameters(spec.params, scope, spec.function)
        result = self.type_mark(spec.result) if spec.result is not None else None
        scope.open(self.scope, spec.id + signature(params, result))
        self.out = hidden
        name, text = name or spec.id, text or spec.text.strip('"')
        sub: t.Subprogram | None = None
        for x in region.direct(name):
            if isinstance(x, t.Subprogram) and self._same_profile(x, params, result):
                if x.analyse is not None or x.body is not None or (body is None and not x.implicit) or x.alias_of is not None:
                    raise Wrong(spec.pos, f"'{text}' with these parameters is declared twice", "declared-twice")
                if x.implicit:
                    region.names[name].remove(x)
                    break
                sub = x
                break
        if sub is None:
            sub = t.Subprogram(name, spec.function, params, result, spec.pos, text, spec.impure)
            sub.enclosing = self.sub
            sub.process = self.process
            sub.method_of = self.protected
            sub.region = self.scope
            sub.ours = self.lazy
            region.declare(name, sub, spec.pos, text)
        else:
            for p, q in zip(params, sub.params, strict=True):
                p.init = p.init or q.init
            sub.params = params
        if self.sub is not None:
            self.sub.has_nested = True
        for p in params:
            p.owner = sub
        if body is None:
            if text.startswith("x_") and self.lazy:
                sub.intrinsic = text
            return sub
        if self.lazy:
            sub.analyse = self._later(sub, body, scope)
        else:
            sub.end = body.pos
            self.analyse_body(sub, body, scope)
        return sub

    def _later(self, sub: t.Subprogram, body: a.SubprogramBody, scope: Scope) -> Any:
        path = self.path

        def run() -> None:
            sub.analyse = None
            with self.inside(scope, sub=sub, out=[], loops=[], path=path, process=None, protected=sub.method_of, lazy=True):
                self.analyse_body(sub, body, scope)

        return run

    def analyse_body(self, sub: t.Subprogram, body: a.SubprogramBody, scope: Scope) -> None:
        sub.body = []
        sub.end = body.pos
        with self.inside(scope, sub=sub, out=[], loops=[]):
            sub.decls = self.declare_all(body.decls)
            made = self.statements(body.body)
            sub.decls += self.out
            sub.body = made

    @staticmethod
    def _same_profile(x: t.Subprogram, params: list[t.Object], result: t.Subtype | None) -> bool:
        if len(x.params) != len(params) or (x.result is None) != (result is None):
            return False
        if result is not None and x.result is not None and result.type is not x.result.type:
            return False
        return all(p.subtype.type is q.subtype.type for p, q in zip(x.params, params, strict=True))

    def _subprogram_instance(self, d: a.SubprogramInst) -> None:
        found = self.denote(d.name)
        generic = next((x for x in found or () if isinstance(x, GenericSubprogram)), None)
        if generic is None:
            raise Wrong(d.pos, "only a subprogram with generics has instances", "generic")
        tree = generic.tree
        spec = tree.spec
        if not isinstance(tree, a.SubprogramBody):
            raise Wrong(d.pos, f"'{generic.name}' has no body before this instance", "generic")
        scope = Scope(generic.scope, spec.id)
        self.bind_generics(spec.generics, d.generic_map, scope, d.pos, generic.name)
        home = self.scope
        with self.inside(scope):
            self._declare_subprogram(spec, tree, home, d.id, d.text)

    # ---- generics (6.5.6) ----

    def bind_generics(
        self, generics: list[a.Decl], given: list[a.Assoc], scope: Scope, pos: int, what: str, outer: Scope | None = None
    ) -> dict[str, Any]:
        """Declare generics in `scope` with their values; actuals are looked up where we are. Gives the values that identify them."""
        here = self.scope
        flat: list[tuple[str, str, int, a.Decl]] = []
        for d in generics:
            if isinstance(d, a.ObjectDecl):
                flat += [(n, text, at, d) for n, text, at in d.names]
            elif isinstance(d, a.SubprogramGeneric):
                flat.append((d.spec.id, d.spec.text, d.pos, d))
            elif isinstance(d, (a.TypeGeneric, a.PackageGeneric)):
                flat.append((d.id, d.text, d.pos, d))
        actuals: dict[str, a.Expr] = {}
        names = [f[0] for f in flat]
        for k, item in enumerate(given):
            if isinstance(item.value, (a.Box,)):
                continue
            if item.choices:
                formal = item.choices[0]
                name = formal.id if isinstance(formal, a.Name) else formal.value.lower() if isinstance(formal, a.Text) else ""
                if name not in names and f'"{name}"' in names:
                    name = f'"{name}"'
                if name not in names:
                    spelled = getattr(formal, "text", name)
                    known = {f[0]: f[1] for f in flat}
                    hint = nearest(name, names)
                    if hint:
                        hint = f"; did you mean '{known[hint.split(chr(39))[1]]}'?"
                    elif flat:
                        hint = f"; its generics are {', '.join(f[1] for f in flat)}"
                    raise Wrong(formal.pos, f"{what} has no generic '{spelled}'{hint}", "generic")
            else:
                if k >= len(flat):
                    raise Wrong(item.pos, f"{what} has {len(flat)} generics; this is one too many", "generic")
                name = names[k]
            if name in actuals:
                raise Wrong(item.pos, f"generic '{name}' is given twice", "generic")
            if not isinstance(item.value, a.Open):
                actuals[name] = item.value
        found: dict[str, Any] = {}
        for name, text, at, d in flat:
            actual = actuals.get(name)
            if isinstance(d, a.TypeGeneric):
                if actual is None:
                    raise Wrong(pos, f"the generic type '{text}' of {what} needs a type", "generic")
                subtype = self.subtype(actual) if isinstance(actual, a.SubtypeInd) else self._actual_type(actual)
                scope.declare(name, TypeName(subtype, at, True, text), at, text)
                found[name] = subtype
            elif isinstance(d, a.SubprogramGeneric):
                with self.inside(scope):
                    holder = Scope(scope, "")
                    params = self.parameters(d.spec.params, holder, d.spec.function)
                    result = self.type_mark(d.spec.result) if d.spec.result is not None else None
                chosen = self._actual_subprogram(d, actual, params, result, pos, what)
                scope.names.setdefault(name, []).append(chosen)
                found[name] = chosen
            elif isinstance(d, a.PackageGeneric):
                if actual is None:
                    raise Wrong(pos, f"the generic package '{text}' of {what} needs an instance", "generic")
                package = (self.denote(actual) or [None])[0]
                if not isinstance(package, Package):
                    raise Wrong(actual.pos, "an instance of a package should stand here", "generic")
                scope.declare(name, package, at, text)
                found[name] = package
            else:
                assert isinstance(d, a.ObjectDecl) and d.subtype is not None
                with self.inside(scope):
                    subtype = self.subtype(d.subtype)
                if actual is not None:
                    value = self.value(actual, subtype)
                    where = actual.pos
                elif d.init is not None:
                    with self.inside(scope):
                        value = self.value(d.init, subtype)
                    where = pos
                else:
                    raise Wrong(pos, f"the generic '{text}' of {what} has no default: it needs a value", "generic")
                self.check_value(value, subtype, where)
                o = self.generic_constant(name, text, at, subtype, value, where)
                scope.declare(name, o, at, text)
                found[name] = o
        assert self.scope is here
        return found

    def generic_constant(self, name: str, text: str, pos: int, subtype: t.Subtype, value: t.Expr, where: int) -> t.Object:
        o = t.Object(name, "constant", subtype, pos, text)
        if subtype.scalar and self.sub is None:
            number = self.constant(value)
            self.check_value(t.Const(subtype, where, number), subtype, where)
            o.value = number
            return o
        o.subtype = self.shape_of(value, subtype) if not subtype.constrained else subtype
        o.init = value
        o.owner = self.sub
        if self.sub is None:
            o.place = self.shared.allocate(t.size_of(o.subtype))
            self.shared.constants.append(o)
        else:
            self.out.append(t.Declare(self.site_now, o))
        return o

    def _actual_type(self, e: a.Expr) -> t.Subtype:
        if isinstance(e, a.Apply):
            return self.subtype(a.SubtypeInd(e.pos, e.prefix, None, e.args))
        return self.type_mark(e)

    def _actual_subprogram(
        self, d: a.SubprogramGeneric, actual: a.Expr | None, params: list[t.Object], result: t.Subtype | None, pos: int, what: str
    ) -> t.Subprogram:
        name = actual
        if name is None:
            if d.default is None:
                raise Wrong(pos, f"the generic subprogram '{d.spec.text}' of {what} needs a subprogram", "generic")
            name = a.Name(pos, d.spec.id, d.spec.text) if isinstance(d.default, a.Box) else d.default
        if isinstance(name, a.Text):
            name = a.Name(name.pos, f'"{name.value.lower()}"', name.value)
        found = self.scope.lookup(name.id) if isinstance(name, a.Name) else self.denote(name)
        for x in found or ():
            if isinstance(x, t.Subprogram) and self._same_profile(x, params, result):
                return x
        made = self._operator_subprogram(name, params, result)
        if made is not None:
            return made
        shown = getattr(name, "text", "") or "this"
        types = ", ".join(repr(p.subtype) for p in params)
        raise Wrong(
            name.pos if actual is not None else pos,
            f"no subprogram '{shown}' has the parameters ({types}) that the generic '{d.spec.text}' needs",
            "generic",
        )

    def _operator_subprogram(self, name: a.Expr, params: list[t.Object], result: t.Subtype | None) -> t.Subprogram | None:
        """A function made of a predefined operator."""
        if not isinstance(name, a.Name) or result is None:
            return None
        op = name.id.strip('"')
        own = [t.Object(p.name, "param", p.subtype, p.pos, p.text, "in", "constant") for p in params]
        refs: list[t.Expr] = [t.Ref(p.subtype, p.pos, p) for p in own]
        kinds = [p.subtype.type for p in own]
        rows: list[t.BaseType] = []
        if len(kinds) == 2:
            rows = [r for _, r in self._binary(op, kinds[0], kinds[1])]
            if op == "&":
                rows = [r for _, r in self._concatenations([kinds[0]], [kinds[1]])]
        elif len(kinds) == 1:
            rows = list(self._unary(op, kinds[0]))
        if op in ("minimum", "maximum") and len(kinds) == 2:
            rows = [kinds[0]]
        if op == "to_string" and len(kinds) == 1:
            rows = [self.std.string.type]
        if result.type not in rows:
            return None
        sub = t.Subprogram(op, True, own, result, name.pos, op)
        for p in own:
            p.owner = sub
        sub.body = [t.Return(0, t.Op(self.plain(result.type), name.pos, op, refs))]
        return sub

    # ---- packages inside of other regions ----

    def _package(self, d: a.PackageDecl) -> None:
        package = self.package_of(d, self.scope)
        self.scope.declare(d.id, package, d.pos, d.text)

    def package_of(
        self, d: a.PackageDecl, parent: Scope, library: str = "", more: Callable[[Scope], None] | None = None
    ) -> Package:
        """`more` is told of the new region before anything is declared in it."""
        scope = Scope(parent, f"package {d.id}")
        scope.open(parent, f"{library}:{d.id}" if library else d.id)
        package = Package(d.text, scope, library, None, d.pos)
        if d.generics and not d.generic_map:
            package.generic = (d, None, parent)
            return package
        if d.generics:
            self.bind_generics(d.generics, d.generic_map, scope, d.pos, f"package {d.text}")
        path = f"{self.path}.{d.text}" if self.path else d.text
        if more is not None:
            more(scope)
        with self.inside(scope, path=path):
            self.out += self.declare_all(d.decls)
        return package

    def _package_body(self, d: a.PackageBody) -> None:
        found = self.scope.direct(d.id)
        if not found or not isinstance(found[0], Package):
            raise Wrong(d.pos, f"there is no package '{d.text}' here that this could be the body of", "package")
        package = found[0]
        if package.generic is not None:
            package.generic = (package.generic[0], d, package.generic[2])
            return
        with self.inside(package.scope):
            self.out += self.declare_all(d.decls)

    def _package_instance(self, d: a.PackageInst) -> None:
        self.scope.declare(d.id, self.instance_of(d), d.pos, d.text)

    def instance_of(self, d: a.PackageInst, library: str = "") -> Package:
        """A new package from one with generics (4.9)."""
        found = self.denote(d.name)
        generic = found[0] if found else None
        if not isinstance(generic, Package) or generic.generic is None:
            raise Wrong(d.pos, "only a package with generics has instances", "generic")
        tree, body, parent = generic.generic
        scope = Scope(parent, f"package {d.id}")
        scope.open(None if library else self.scope, f"{library}:{d.id}" if library else d.id)
        self.bind_generics(tree.generics, d.generic_map, scope, d.pos, f"package {tree.text}")
        package = Package(d.text, scope, "", None, d.pos)
        scope.names.setdefault(tree.id, [package])
        with self.inside(scope):
            self.out += self.declare_all(tree.decls)
            if body is not None:
                self.out += self.declare_all(body.decls)
        return package

    # ---- aliases and attributes ----

    def _alias(self, d: a.AliasDecl) -> None:
        name = d.name
        found = self.denote(name) if isinstance(name, (a.Name, a.Select)) else None
        if found is not None and not isinstance(found[0], (t.Object, Alias)):
            chosen = found
            if d.signature is not None:
                params = [self.type_mark(p).type for p in d.signature.params]
                result = self.type_mark(d.signature.result).type if d.signature.result is not None else None
                chosen = [x for x in found if self._has_signature(x, params, result)]
                if not chosen:
                    raise Wrong(d.pos, "nothing of this name has that signature", "alias")
            for x in chosen:
                there = self.scope.names.setdefault(d.id, [])
                if x not in there:
                    there.append(x)
            if isinstance(chosen[0], TypeName) and isinstance(chosen[0].subtype.type, t.Enum):
                self._alias_literals(chosen[0].subtype)
            return
        value = self.value(name, None)
        inner: t.Expr = value
        while isinstance(inner, (t.Index, t.Slice, t.FieldOf)):
            inner = inner.a
        if not isinstance(inner, (t.Ref, t.Deref, t.Const)):
            raise Wrong(d.pos, "an alias names an object, type or subprogram", "alias")
        if d.subtype is not None:
            subtype = self.subtype(d.subtype)
            if subtype.type is not value.type.type:
                raise Wrong(d.pos, f"the alias is {subtype!r}, what it stands for is {value.type!r}", "alias")
            if isinstance(subtype.type, t.ArrayType) and subtype.bounds is not None:
                self.check_value(value, subtype, d.pos)
                value = t.Convert(subtype, d.pos, value, True) if not _is_signal(inner) else _rebound(value, subtype)
        self.scope.declare(d.id, Alias(value, d.pos), d.pos, d.text)

    def _alias_literals(self, subtype: t.Subtype) -> None:
        kind = subtype.type
        assert isinstance(kind, t.Enum)
        for value, name in enumerate(kind.literals):
            low = name if name[0] == "'" else name.lower()
            there = self.scope.names.setdefault(low, [])
            if not any(isinstance(x, Literal) and x.type.type is kind for x in there):
                there.append(Literal(subtype, value, name))

    def _has_signature(self, x: Any, params: list[t.BaseType], result: t.BaseType | None) -> bool:
        if isinstance(x, Literal):
            return not params and x.type.type is result
        return (
            isinstance(x, t.Subprogram)
            and [p.subtype.type for p in x.params] == params
            and (x.result.type if x.result is not None else None) is result
        )

    def _attribute_spec(self, d: a.AttrSpec) -> None:
        found = self.scope.lookup(d.id)
        if not found or not isinstance(found[0], Attribute):
            raise Wrong(d.pos, f"there is no attribute '{d.id}'", "attribute")
        value = self.value(d.value, found[0].subtype)
        self.check_value(value, found[0].subtype, d.value.pos)
        for name, _ in d.entities:
            for x in self.scope.direct(name):
                if isinstance(x, (t.Object, TypeName)):
                    x.attributes = {**(x.attributes or {}), d.id: value}
            self.scope.names[("attribute", d.id, name)] = [value]  # type: ignore[index]


def _is_signal(e: t.Expr) -> bool:
    return isinstance(e, t.Ref) and (e.object.kind == "signal" or e.object.cls == "signal")


def _rebound(value: t.Expr, subtype: t.Subtype) -> t.Expr:
    """The same part of a signal under other bounds."""
    if isinstance(value, t.Ref):
        o = value.object
        copy = t.Object(o.name, o.kind, subtype, o.pos, o.text, o.mode, o.cls, signal=o.signal, owner=o.owner, bus=o.bus)
        return t.Ref(subtype, value.pos, copy)
    part = static_part(value)
    if part is None:
        return t.Convert(subtype, value.pos, value, True)
    inner = value
    while isinstance(inner, (t.Index, t.Slice, t.FieldOf)):
        inner = inner.a
    assert isinstance(inner, t.Ref)
    o = inner.object
    part_object = t.Object(
        o.name, o.kind, subtype, o.pos, o.text, o.mode, o.cls, signal=t.SignalPart(part[0].root, part[1]), owner=o.owner, bus=o.bus
    )
    return t.Ref(subtype, value.pos, part_object)


__all__ = ["Declarations", "Label", "Quiet"]
