"""The hierarchy: entities, architectures, instances, blocks, generates, processes (IEEE 1076-2008 clauses 3, 11 and 14)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from mevrik.design import typed as t
from mevrik.design.reads import static_part
from mevrik.lang.diagnostics import Diagnostics, nearest
from mevrik.lang.source import SourceMap
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.base import Evaluate, Shared
from mevrik.lang.vhdl.elaborate.concurrents import Concurrents
from mevrik.lang.vhdl.elaborate.library import ADVICE, LATER, OURS, Library
from mevrik.lang.vhdl.elaborate.ours import OurPackage
from mevrik.lang.vhdl.elaborate.scope import (
    Alias,
    Label,
    LibraryName,
    Package,
    Quiet,
    Scope,
    TypeName,
    Wrong,
)
from mevrik.lang.vhdl.elaborate.standard import Standard
from mevrik.lang.vhdl.parser import parse_expression
from mevrik.lang.vhdl.tokens import tokenize

_DEEPEST = 200


class Elaborator(Concurrents):
    def __init__(self, library: Library, sources: SourceMap, diagnostics: Diagnostics, evaluate: Evaluate) -> None:
        std = Standard()
        super().__init__(Shared(diagnostics, std, evaluate), std.scope)
        self.library_units = library
        self.sources = sources
        self.root = Scope(None, "")
        self.root.whole.append(std.scope)
        self.root.names["std"] = [LibraryName("std")]
        self.root.names["work"] = [LibraryName("work")]
        self.packages: dict[tuple[str, str], Package | None] = {("std", "standard"): Package("standard", std.scope, "std")}
        self.instance = None
        self.later = []
        self.tops: list[t.Instance] = []
        self.depth = 0
        self.place = 0
        self._more = self._standard_more()
        self._words: dict[str, tuple[str, str]] | None = None
        self.verilog = None
        self.other_units = []
        self.bridges = []

    def _standard_more(self) -> Scope:
        """The functions of std.standard that are written in VHDL."""
        ours = self.library_units.standard("standard_more", self.sources)
        scope = Scope(self.root, "package standard_more")
        self._declare_later(ours, scope, {"lazy": True})
        with self.inside(scope, lazy=True):
            self.declare_all(ours.decl.decls)
        self.root.whole.append(scope)
        return scope

    def _declare_later(self, ours: OurPackage, scope: Scope, changes: dict[str, Any]) -> None:
        """Subprograms of one of our packages are declared when their name is first looked up."""

        def declare(name: str) -> None:
            decls, bodies = ours.take(name)
            with self.inside(scope, **{**changes, "out": []}):
                self.declare_all(decls)
                self.declare_all(bodies)

        for name in ours.named:
            scope.pending[name] = partial(declare, name)

    # ---- libraries and packages ----

    def library(self, d: a.LibraryClause) -> None:
        for name, _ in d.names:
            there = self.scope.names.setdefault(name, [])
            if not there:
                there.append(LibraryName("work" if name not in OURS else name))

    def context(self, d: a.ContextRef) -> None:
        for name in d.names:
            if not isinstance(name, a.Select):
                raise Wrong(name.pos, "a context is named with its library: work.name", "context")
            owner = name.prefix.id if isinstance(name.prefix, a.Name) else ""
            if owner == "ieee":
                wanted = {"ieee_std_context": ("std_logic_1164", "numeric_std"), "ieee_bit_context": ("numeric_bit",)}.get(name.id)
                if wanted is None:
                    raise Wrong(name.pos, f"ieee has no context '{name.text}'", "undeclared")
                self.scope.names.setdefault("ieee", [LibraryName("ieee")])
                for package in wanted:
                    found = self.package("ieee", package, name.pos)
                    self.scope.whole.append(found.scope)
                continue
            unit = self.library_units.contexts.get(name.id)
            if unit is None:
                raise Wrong(
                    name.pos, f"there is no context '{name.text}'{nearest(name.id, self.library_units.contexts)}", "undeclared"
                )
            for item in unit.context:
                self.declaration(item)

    def within_library(self, entity: Any, e: a.Select) -> list[Any] | None:
        if isinstance(entity, Label) and entity.scope is not None:
            return entity.scope.direct(e.id) or None
        if not isinstance(entity, LibraryName):
            return None
        if entity.name in OURS:
            return [self.package(entity.name, e.id, e.pos)]
        units = self.library_units
        if e.id in units.packages:
            return [self.package("work", e.id, e.pos)]
        unit = units.primary(e.id)
        if unit is not None:
            return [unit]
        known = [*units.entities, *units.packages, *units.configurations]
        spelled = {**{k: v.text for k, v in units.entities.items()}, **{k: v.text for k, v in units.packages.items()}}
        hint = nearest(e.id, known)
        if hint:
            meant = hint.split("'")[1]
            hint = f"; did you mean '{spelled.get(meant, meant)}'?"
        raise Wrong(e.pos, f"there is no design unit '{e.text}' in the files{hint}", "undeclared")

    def use_library(self, entity: Any, e: a.Select) -> None:
        if isinstance(entity, LibraryName):
            if entity.name == "work":
                for name in self.library_units.packages:
                    self.scope.single.setdefault(name, []).append(self.package("work", name, e.pos))
            return
        super().use_library(entity, e)

    def package(self, library: str, name: str, pos: int) -> Package:
        key = (library, name)
        if key in self.packages:
            found = self.packages[key]
            if found is None:
                raise Wrong(pos, f"package '{name}' uses itself", "circular")
            return found
        if library in OURS:
            if name in LATER:
                raise Wrong(pos, f"the package {library}.{name} is not supported yet", "unsupported")
            if name not in OURS[library]:
                raise Wrong(pos, f"library {library} has no package '{name}'{nearest(name, OURS[library])}", "undeclared")
            ours = self.library_units.standard(name, self.sources)
            decl: Any = ours.decl
            body = ours.body
            lazy = True
        else:
            ours = None
            decl, body = self.library_units.packages[name], self.library_units.bodies.get(name)
            lazy = False
        self.packages[key] = None
        context = Scope(self.root, "")
        changes: dict[str, Any] = {
            "lazy": lazy, "sub": None, "process": None, "protected": None, "out": [], "loops": [], "path": name, "instance": None,
        }  # fmt: skip
        with self.inside(context, **changes):
            self.declare_all(decl.context)
            if isinstance(decl, a.PackageInst):
                package = self.instance_of(decl, library)
            else:
                later = partial(self._declare_later, ours, changes=changes) if ours is not None else None
                package = self.package_of(decl, context, library, later)
            self.packages[key] = package
            if body is not None:
                if package.generic is not None:
                    package.generic = (package.generic[0], body, package.generic[2])
                    self.declare_all(body.context)
                else:
                    inner = Scope(context, "")
                    self.scope = inner
                    self.declare_all(body.context)
                    package.scope.parent = inner
                    with self.inside(package.scope):
                        self.declare_all(body.decls)
        if ours is None:
            self.complete(package)
        return package

    def used(self, package: Package, pos: int) -> None:
        advice = ADVICE.get(package.name)
        if advice and package.library == "ieee" and not self.lazy:
            self.diagnostics.warning(pos, f"package {package.name}: {advice}", "nonstandard-package")

    def where_declared(self, name: str) -> tuple[str, str] | None:
        if self._words is None:
            self._words = {}
            for library, packages in OURS.items():
                for package in packages:
                    if package in ADVICE or package in (
                        "std_logic_misc",
                        "numeric_bit",
                        "numeric_std_unsigned",
                        "numeric_bit_unsigned",
                    ):
                        continue
                    ours = self.library_units.standard(package, self.sources)
                    clause = f"library {library}; use {library}.{package}.all;" if library != "std" else f"use std.{package}.all;"
                    for word in (*(w for d in ours.decl.decls for w in _declares(d)), *ours.named):
                        self._words.setdefault(word, (f"{library}.{package}", clause))
            for word, unit in self.library_units.packages.items():
                if isinstance(unit, a.PackageDecl):
                    for d in unit.decls:
                        for declared in _declares(d):
                            self._words.setdefault(declared, (f"work.{word}", f"use work.{word}.all;"))
        found = self._words.get(name)
        return found

    # ---- entities and architectures ----

    def top(self, name: str, generics: Mapping[str, int | str] | None = None) -> None:
        """Elaborate from an entity or configuration. A text among the generics is a string's content, or an expression."""
        config = self.library_units.configurations.get(name)
        arch = ""
        block: a.BlockConfig | None = None
        if config is not None:
            entity_name = config.entity.id if isinstance(config.entity, (a.Name, a.Select)) else ""
            block, arch = config.block, config.block.id
            name = entity_name
        entity = self.library_units.entities[name]
        given = [
            a.Assoc(entity.pos, [a.Name(entity.pos, k.lower(), k)], self._given(entity, k, v)) for k, v in (generics or {}).items()
        ]
        with self.careful(), self.inside(self.root):
            self.entity(entity, arch, given, None, entity.text, entity.pos, block, None)
        self.finish()

    def _given(self, entity: a.Entity, name: str, value: int | str) -> a.Expr:
        """A generic's value from outside the sources."""
        if isinstance(value, int):
            return a.Number(entity.pos, value) if value >= 0 else a.Unary(entity.pos, "-", a.Number(entity.pos, -value))
        for item in entity.generics:
            if isinstance(item, a.ObjectDecl) and item.subtype is not None and name.lower() in (n[0] for n in item.names):
                mark = item.subtype.mark
                if (mark.id if isinstance(mark, (a.Name, a.Select)) else "") == "string":
                    return a.Text(entity.pos, value)
        tokens = tokenize(self.sources.add(f"the value of generic '{name}'", value), self.diagnostics)
        return parse_expression(tokens, self.diagnostics) or a.Open(entity.pos)

    def finish(self) -> None:
        """The processes, when all instances are known."""
        while self.later:
            work, self.later = self.later, []
            for act in work:
                act()

    def entity(
        self, unit: a.Entity, arch: str, generic_map: list[a.Assoc], port_map: list[a.Assoc] | None, label: str, pos: int,
        block: a.BlockConfig | None, actual_scope: Scope | None,
    ) -> t.Instance:  # fmt: skip
        """Elaborate an instance; maps are looked up where we are. `port_map` None: its ports are left to the outside."""
        choices = self.library_units.architectures.get(unit.id, [])
        body: a.Architecture | None = None
        if arch:
            body = next((x for x in choices if x.id == arch), None)
            if body is None:
                hint = nearest(arch, [x.id for x in choices])
                raise Wrong(pos, f"entity '{unit.text}' has no architecture '{arch}'{hint}", "undeclared")
        elif choices:
            body = choices[-1]
        if body is None:
            raise Wrong(pos, f"entity '{unit.text}' has no architecture", "no-architecture")
        self.depth += 1
        if self.depth > _DEEPEST:
            raise Wrong(pos, f"'{unit.text}' contains itself without end", "too-deep")
        context = Scope(self.root, "")
        path = f"{self.path}.{label}" if self.path else label
        outside = self.scope
        with self.inside(context):
            self.declare_all(unit.context)
            self.declare_all(body.context)
        titles = Scope(context, "")
        scope = Scope(titles, unit.id)
        titles.names[unit.id] = [Label(unit.text, "entity", scope, unit.pos)]
        of = f"{unit.id}({body.id})"
        if self.path:
            scope.open(outside, label.lower(), f"{label.lower()}@{of}")
        else:
            scope.open(None, unit.id, of)
        what = f"entity '{unit.text}'"
        self.bind_generics(unit.generics, generic_map, scope, pos, what)
        here = t.Instance(label, path, unit.text, pos, body.pos, self.instance, scope=scope)
        outer_path = self.path
        self.ports(unit.ports, port_map, scope, here, pos, what, path)
        (self.instance.children if self.instance is not None else self.tops).append(here)
        with self.inside(scope, path=path, instance=here, sub=None, process=None, out=[]):
            self.declare_all(unit.decls)
            inner = Scope(scope, body.id)
            titles.names[unit.id][0].body = inner
            titles.names.setdefault(body.id, [Label(body.text, "architecture", inner, body.pos)])
            here.scope = inner
            with self.inside(inner):
                self.labels(body.body, inner)
                self.declare_all(body.decls)
                self.collect(inner, here)
                self.collect(scope, here)
                self.concurrents(unit.body, None)
                self.concurrents(body.body, block)
        assert self.scope is outside and self.path == outer_path
        self.depth -= 1
        return here

    def interface(self, unit: a.Entity, generic_map: list[a.Assoc]) -> list[tuple[str, str, t.Subtype]]:
        """The ports that an entity has with these generics: name as written, mode, subtype."""
        context = Scope(self.root, "")
        with self.inside(context):
            self.declare_all(unit.context)
        scope = Scope(context, unit.id)
        self.bind_generics(unit.generics, generic_map, scope, unit.pos, f"entity '{unit.text}'")
        with self.inside(scope):
            return [(text, d.mode, self.subtype(d.subtype)) for d in unit.ports if d.subtype is not None for _, text, _ in d.names]

    # ---- implicit signals: S'delayed, 'stable, 'quiet, 'transaction (16.2.4) ----

    def implicit_signal(self, e: t.Expr, which: str, time: t.Expr | None, pos: int) -> t.Expr:
        ticks = self.constant(time) if time is not None else 0
        part = static_part(e)
        if part is None or (self.sub is not None and not self._wholly_static(e)):
            raise Wrong(pos, f"'{which} needs a signal that is known before the run", "attribute")
        signal, at, size = part
        kind = self.std.bit if which == "transaction" else e.type if which == "delayed" else self.std.boolean
        for root in self.shared.roots:
            if root.kind == which and root.links == [signal.root, at, size, ticks]:
                return t.Ref(kind, pos, _object(root, kind, pos))
        root = t.RootSignal(which, kind, pos, len(self.shared.roots), 0, t.size_of(kind), f"{signal.root.path}'{which}", kind=which)
        root.links = [signal.root, at, size, ticks]
        if which == "delayed":
            root.init = t.Ref(e.type, pos, _object(signal.root, e.type, pos, at))
        elif which in ("stable", "quiet"):
            root.init = t.Const(self.std.boolean, pos, 1)
        root.offset = self.shared.allocate(root.size)
        self.shared.roots.append(root)
        return t.Ref(kind, pos, _object(root, kind, pos))

    # ---- external names (8.7) ----

    def external(self, e: a.External) -> t.Expr:
        where: t.Instance | None = self.instance
        steps = list(e.path)
        if steps and steps[0][0] == ".":
            name = steps[1][0]
            where = next((x for x in self.tops if x.name.lower() == name), None)
            if where is None and self.instance is not None:
                top = self.instance
                while top.parent is not None:
                    top = top.parent
                where = top if top.name.lower() == name else None
            if where is None:
                raise Wrong(e.pos, f"there is no top level '{name}'", "external")
            steps = steps[2:]
        elif steps and steps[0][0] == "@":
            package = self.package("work", steps[2][0] if len(steps) > 3 else steps[1][0], e.pos)
            found = package.scope.direct(steps[-1][0])
            if found and isinstance(found[0], t.Object):
                return t.Ref(found[0].subtype, e.pos, found[0])
            raise Wrong(e.pos, f"package '{package.name}' has no object '{steps[-1][0]}'", "external")
        for k, (name, index) in enumerate(steps):
            assert where is not None
            if name == "^":
                where = where.parent
                if where is None:
                    raise Wrong(e.pos, "'^' climbs above the top level", "external")
                continue
            if k == len(steps) - 1:
                scope: Scope | None = where.scope
                found = []
                while scope is not None and not found:
                    found = [x for x in scope.direct(name) if isinstance(x, (t.Object, Alias))]
                    scope = scope.parent if scope.parent is not None and scope.parent.label else None
                if not found:
                    names = [n for n in where.scope.names if isinstance(n, str)]
                    raise Wrong(e.pos, f"'{where.path}' has no object '{name}'{nearest(name, names)}", "external")
                want = self.subtype(e.subtype)
                value = self.object_of(found[0], e.pos)
                if value.type.type is not want.type:
                    raise Wrong(e.pos, f"'{name}' is of type {value.type!r}, not {want!r}", "external")
                return value
            wanted = name
            if index is not None:
                wanted = f"{name}({self.constant(self.value(index, None))})"
            child = next((x for x in where.children if x.name.lower() == wanted), None)
            if child is None:
                if k == 0 and where.parent is not None:
                    child = next((x for x in where.parent.children if x.name.lower() == wanted), None)
                if child is None:
                    raise Wrong(
                        e.pos,
                        f"'{where.path}' has no instance '{wanted}'{nearest(wanted, [x.name for x in where.children])}",
                        "external",
                    )
            where = child
        raise Wrong(e.pos, "an external name ends with the name of an object", "external")

    # ---- checks of the whole ----

    def rest(self) -> None:
        """Packages that the design does not use are looked at too."""
        for name in self.library_units.packages:
            with self.careful():
                self.package("work", name, 0)
        self.finish()

    def check_drivers(self) -> None:
        """6.4.2.3: a signal without a resolution function has one driver for each of its elements."""
        for root in self.shared.roots:
            if len(root.drivers) < 2:
                continue
            for k, one in enumerate(root.drivers):
                for two in root.drivers[k + 1 :]:
                    clash = _overlap(one, two)
                    if clash is not None and not _resolved_at(root.subtype, clash):
                        line = self.sources.place(one.pos).line
                        self.diagnostics.error(
                            two.pos,
                            f"'{root.name}' is driven twice, here and in line {line}, but its type {root.subtype!r} is not resolved: only one process may drive it",
                            "drivers",
                        )
                        break

    def model(self) -> t.Model:
        model = t.Model(self.shared.constants, self.shared.roots, self.shared.processes, self.tops, self.shared.size)
        model.types["std"] = self.std
        model.bridges = self.bridges
        return model


def _overlap(one: t.Driver, two: t.Driver) -> int | None:
    for x, n in one.ranges:
        for y, m in two.ranges:
            if x < y + m and y < x + n:
                return max(x, y)
    return None


def _resolved_at(s: t.Subtype, at: int) -> bool:
    """Whether the element at a byte is resolved."""
    if s.resolution is not None:
        return True
    if isinstance(s.type, t.ArrayType):
        size = t.size_of(s.elem)
        return _resolved_at(s.elem, at % size if size else 0)
    if isinstance(s.type, t.RecordType):
        offsets, _ = t.record_layout(s)
        for offset, f in reversed(list(zip(offsets, s.field_types(), strict=True))):
            if at >= offset:
                return _resolved_at(f, at - offset)
    return False


def _object(root: t.RootSignal, subtype: t.Subtype, pos: int, at: int = 0) -> t.Object:
    return t.Object(root.name, "signal", subtype, pos, root.name, "", signal=t.SignalPart(root, at))


def _declares(d: a.Decl) -> list[str]:
    if isinstance(d, (a.TypeDecl, a.SubtypeDecl, a.ComponentDecl)):
        return [d.id]
    if isinstance(d, a.SubprogramDecl):
        return [d.spec.id] if d.spec.id[0] != '"' and not d.spec.id.startswith("x_") else []
    if isinstance(d, a.ObjectDecl):
        return [n[0] for n in d.names]
    return []


__all__ = ["Elaborator", "Quiet", "TypeName"]
