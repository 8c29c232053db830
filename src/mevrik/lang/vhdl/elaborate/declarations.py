"""Declarations (IEEE 1076-2008 clauses 4 to 7)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from mevrik.design import typed as t
from mevrik.design.reads import base_of, static_part
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.promises import check_complete
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
    Wrong,
)
from mevrik.lang.vhdl.elaborate.subprograms import Subprograms


class Declarations(Subprograms):
    def declare_all(self, decls: list[a.Decl]) -> list[t.Stmt]:
        """Declare everything; gives the statements that bring the objects into being, in order."""
        made: list[t.Stmt] = []
        for d in decls:
            outer, self.out = self.out, []
            self._cache.clear()
            mark = self.mark()
            whole = False  # stays so too where a declaration is given up quietly, for it needs a broken one
            try:
                with self.careful():
                    self.declaration(d)
                    whole = True
            finally:
                made += self.out
                self.out = outer
            given_up = isinstance(d, a.ObjectDecl) and any(name[0] not in self.scope.names for name in d.names)
            if not whole or given_up or self.failed_since(mark):
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
        """Where bodies belong, a subprogram or a package that needs one and has none is a mistake."""
        if self.lazy or self.scope.label.startswith("package "):
            return  # a package is complete after its body
        awaited = (d for d in decls if isinstance(d, a.SubprogramDecl) or (isinstance(d, a.TypeDecl) and d.definition is None))
        if any(awaited) and not self.diagnostics.failed:
            check_complete(self.scope, self.diagnostics)
        for d in decls:
            if isinstance(d, a.PackageDecl):
                found = self.scope.direct(d.id)
                if found and isinstance(found[0], Package):
                    self.complete(found[0])

    def complete(self, package: Package) -> None:
        """Its body was read, if it has one."""
        if package.generic is None and not self.diagnostics.failed:
            check_complete(package.scope, self.diagnostics, f" of package '{package.name}'")

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
                self._disconnect(d)
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
        if isinstance(init, t.Const) and kind == "constant":
            o.value = init.value
        if self.sub is None:
            if self.protected is not None:
                o.self_of = self.protected
                o.place = self._in_protected(self.protected, subtype)
                self.protected.variables.append(o)
            elif o.place < 0 and not (kind == "constant" and subtype.scalar and o.value is not None):
                if subtype.static:
                    o.place = self.shared.allocate(t.size_of(subtype))
            if self.process is None and self.protected is None:
                if o.value is None and (init is not None or kind == "variable") and o not in self.shared.constants:
                    o.site = self.site(d)
                    self.shared.constants.append(o)
            else:
                self.out.append(t.Declare(self.site(d), o))
                if self.protected is None:
                    self.started.append(o)
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
        root.site = self.site(a.Node(o.pos)) if o.init is not None else 0
        root.offset = self.shared.allocate(root.size)
        self.shared.roots.append(root)
        return root

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
        if not self.lazy:
            self.complete(package)
        return package

    # ---- aliases and attributes ----

    def _alias(self, d: a.AliasDecl) -> None:
        name = d.name
        if (
            isinstance(name, a.Name)
            and name.id.startswith('"')
            and d.signature is not None
            and not self._declared(name.id, d.signature)
        ):
            self._alias_predefined(d, name.id.strip('"'), d.signature)
            return
        found = self.denote(name) if isinstance(name, (a.Name, a.Select)) else None
        if found is not None and not isinstance(found[0], (t.Object, Alias)):
            chosen = found
            if d.signature is not None:
                chosen = self.with_signature(found, d.signature)
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
        inner = base_of(value)
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

    def _declared(self, operator: str, signature: a.Signature) -> bool:
        return bool(self.with_signature(self.scope.lookup(operator), signature))

    def _alias_predefined(self, d: a.AliasDecl, operator: str, signature: a.Signature) -> None:
        """Another name of an operator that comes with its types (9.2) is a function that applies it."""
        if not 1 <= len(signature.params) <= 2 or signature.result is None:
            raise Wrong(d.pos, "nothing of this name has that signature", "alias")
        pos, operands = d.pos, [a.Name(d.pos, x, x) for x in ("l", "r")[: len(signature.params)]]
        params: list[a.Decl] = [
            a.ObjectDecl(pos, "constant", [(x.id, x.text, pos)], a.SubtypeInd(pos, mark), None, "in")
            for x, mark in zip(operands, signature.params, strict=False)
        ]
        value = a.Binary(pos, operator, *operands) if len(operands) == 2 else a.Unary(pos, operator, operands[0])
        spec = a.SubprogramSpec(pos, d.id, d.text, True, False, params, signature.result)
        self._subprogram(spec, a.SubprogramBody(pos, spec, [], [a.Return(pos, pos, "", value)]))

    def _alias_literals(self, subtype: t.Subtype) -> None:
        kind = subtype.type
        assert isinstance(kind, t.Enum)
        for value, name in enumerate(kind.literals):
            low = name if name[0] == "'" else name.lower()
            there = self.scope.names.setdefault(low, [])
            if not any(isinstance(x, Literal) and x.type.type is kind for x in there):
                there.append(Literal(subtype, value, name))

    def _disconnect(self, d: a.DisconnectSpec) -> None:
        """7.4: when the drivers of guarded signals let go."""
        after = self.known(self.value(d.after, self.std.time))
        for e in d.names:
            word = e.id if isinstance(e, a.Name) else ""
            for o in self.scope.direct(word):
                if isinstance(o, t.Object) and o.kind == "signal":
                    if not o.bus:
                        message = f"'{o.text}' is no guarded signal, which is declared as 'signal {o.text} : ... bus' or '... register' (7.4)"
                        raise Wrong(e.pos, message, "guard")
                    o.default = after

    def _attribute_spec(self, d: a.AttrSpec) -> None:
        found = self.scope.lookup(d.id)
        if not found or not isinstance(found[0], Attribute):
            raise Wrong(d.pos, f"there is no attribute '{d.id}'", "attribute")
        value = self.value(d.value, found[0].subtype)
        self.check_value(value, found[0].subtype, d.value.pos)
        for name, signature in d.entities:
            if name not in ("all", "others"):
                self._check_class(d, name)
            for named in [name] if name not in ("all", "others") else self._of_class(d.kind):
                key = ("attribute", d.id, named)
                if name == "others" and key in self.scope.names:  # type: ignore[comparison-overlap]
                    continue
                found_here = self.scope.direct(named)
                for x in self.with_signature(found_here, signature) if signature is not None else found_here:
                    if isinstance(x, (t.Object, TypeName, t.Subprogram, Literal)):
                        x.attributes = {**(x.attributes or {}), d.id: value}
                self.scope.names[key] = [value]  # type: ignore[index]

    def _check_class(self, d: a.AttrSpec, name: str) -> None:
        """7.2: what gets an attribute is declared, and of the class that the specification says."""
        there = self.scope.lookup(name)
        if d.kind not in _CLASSES or any(isinstance(x, Broken) or _is_of_class(x, d.kind) for x in there):
            return
        if self.scope.in_doubt:
            raise Quiet
        if not there:
            raise Wrong(d.pos, f"there is no {d.kind} '{name}' here{self._hint(name)}", "undeclared")
        raise Wrong(d.pos, f"'{name}' is no {d.kind}: the class between ':' and 'is' has to be what it is (7.2)", "attribute")

    def _of_class(self, kind: str) -> list[str]:
        """The names that this region has declared so far of things of a class (7.2: what `all` and `others` stand for)."""
        names = self.scope.names.items()
        return [name for name, there in names if isinstance(name, str) and any(_is_of_class(x, kind) for x in there)]


_CLASSES = frozenset("signal constant variable file type subtype function procedure literal component".split())


def _is_of_class(x: Any, kind: str) -> bool:
    match x:
        case t.Object():
            return kind in (x.kind, x.cls)
        case Alias():
            inner = x.expr
            while isinstance(inner, (t.Index, t.Slice, t.FieldOf, t.Convert)):
                inner = inner.a
            return not isinstance(inner, t.Ref) or _is_of_class(inner.object, kind)
        case TypeName():
            return kind in ("type", "subtype")
        case t.Subprogram() | GenericSubprogram():
            return kind in ("function", "procedure") and (isinstance(x, GenericSubprogram) or x.function == (kind == "function"))
        case Literal():
            return kind == "literal"
        case Component():
            return kind == "component"
    return False


def _is_signal(e: t.Expr) -> bool:
    return isinstance(e, t.Ref) and (e.object.kind == "signal" or e.object.cls == "signal")


def _rebound(value: t.Expr, subtype: t.Subtype) -> t.Expr:
    """The same part of a signal under other bounds."""
    if isinstance(value, t.Ref) and value.object.signal is not None:
        o = value.object
        copy = t.Object(o.name, o.kind, subtype, o.pos, o.text, o.mode, o.cls, signal=o.signal, owner=o.owner, bus=o.bus)
        return t.Ref(subtype, value.pos, copy)
    part = static_part(value)
    if part is None:
        return t.Convert(subtype, value.pos, value, True)
    inner = base_of(value)
    assert isinstance(inner, t.Ref)
    o = inner.object
    part_object = t.Object(
        o.name, o.kind, subtype, o.pos, o.text, o.mode, o.cls, signal=t.SignalPart(part[0].root, part[1]), owner=o.owner, bus=o.bus
    )
    return t.Ref(subtype, value.pos, part_object)


__all__ = ["Declarations", "Label", "Quiet"]
