"""The hierarchy: entities, architectures, instances, blocks, generates, processes (IEEE 1076-2008 clauses 3, 11 and 14)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any

from mevrik.design import typed as t
from mevrik.design.reads import signals_read, static_part, unique
from mevrik.lang.diagnostics import Diagnostics, nearest
from mevrik.lang.source import SourceMap
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.base import Evaluate, Shared
from mevrik.lang.vhdl.elaborate.declarations import Declarations
from mevrik.lang.vhdl.elaborate.library import ADVICE, LATER, OURS, Library
from mevrik.lang.vhdl.elaborate.ours import OurPackage
from mevrik.lang.vhdl.elaborate.outline import shown_of
from mevrik.lang.vhdl.elaborate.scope import (
    Alias,
    Component,
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


class Elaborator(Declarations):
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
        self.instance: t.Instance | None = None
        self.later: list[Callable[[], None]] = []
        self.tops: list[t.Instance] = []
        self.depth = 0
        self.place = 0
        self._more = self._standard_more()
        self._words: dict[str, tuple[str, str]] | None = None
        self.verilog: Any = None  # (name, parameters) → (unit, all units, name as written), or None
        self.other_units: list[Any] = []
        self.bridges: list[t.Bridge] = []

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
        if ours is None and package.generic is None:
            self._whole(package)
        return package

    def _whole(self, package: Package) -> None:
        """A declared subprogram or deferred constant needs its body."""
        for entities in package.scope.names.values():
            for x in entities:
                if (
                    isinstance(x, t.Subprogram)
                    and x.pos
                    and not x.implicit
                    and x.body is None
                    and x.analyse is None
                    and not x.intrinsic
                ):
                    if not self.diagnostics.failed:
                        what = "function" if x.function else "procedure"
                        self.diagnostics.error(x.pos, f"the {what} '{x.text}' of package '{package.name}' has no body", "no-body")

    def used(self, package: Package, pos: int) -> None:
        advice = ADVICE.get(package.name)
        if advice and package.library == "ieee" and not self.lazy:
            self.diagnostics.warning(pos, f"package {package.name}: {advice}", "nonstandard-package")

    def where_declared(self, name: str) -> tuple[str, str] | None:
        if self._words is None:
            self._words = {}
            for library, packages in OURS.items():
                for package in packages:
                    if package in ADVICE or package in ("std_logic_misc", "numeric_bit", "numeric_std_unsigned"):
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

    def labels(self, body: list[a.Concurrent], scope: Scope) -> None:
        for s in body:
            if s.label:
                with self.careful():
                    scope.declare(s.label.lower(), Label(s.label, type(s).__name__.lower(), None, s.pos, s), s.pos, s.label)

    @staticmethod
    def collect(scope: Scope, here: t.Instance) -> None:
        for entities in scope.names.values():
            for x in entities:
                if isinstance(x, t.Object) and x.kind == "signal" and not x.mode and x not in here.signals:
                    here.signals.append(x)

    # ---- ports (6.5.6.3, 6.5.7) ----

    def ports(
        self,
        ports: list[a.ObjectDecl],
        port_map: list[a.Assoc] | None,
        scope: Scope,
        here: t.Instance,
        pos: int,
        what: str,
        path: str,
    ) -> None:
        flat = [(name, text, at, d) for d in ports for name, text, at in d.names]
        mark = self.diagnostics.mark()
        whole, parts = self._associate(flat, port_map or [], what)
        wrong = self.diagnostics.failed_since(mark)  # then what is missing is its consequence
        for name, text, at, d in flat:
            with self.careful():
                assert d.subtype is not None
                with self.inside(scope):
                    subtype = self.subtype(d.subtype)
                    init = self.value(d.init, subtype) if d.init is not None else None
                o = t.Object(name, "signal", subtype, at, text, d.mode, init=init, bus=d.bus)
                try:
                    if name in parts:
                        self._port_in_parts(o, parts[name], scope, here, path)
                    else:
                        self._port(o, whole.get(name), here, path, pos, what, port_map is None or wrong)
                finally:
                    scope.declare(name, o, at, text)
                    here.ports.append(o)

    def _associate(
        self, flat: list[tuple[str, str, int, a.ObjectDecl]], port_map: list[a.Assoc], what: str
    ) -> tuple[dict[str, a.Assoc], dict[str, list[a.Assoc]]]:
        names = [f[0] for f in flat]
        spelled = {f[0]: f[1] for f in flat}
        whole: dict[str, a.Assoc] = {}
        parts: dict[str, list[a.Assoc]] = {}
        for k, item in enumerate(port_map):
            with self.careful():
                if not item.choices:
                    if k >= len(flat):
                        raise Wrong(item.pos, f"{what} has {len(flat)} ports; this is one too many", "port")
                    name = names[k]
                else:
                    formal = item.choices[0]
                    base: a.Expr = formal
                    while True:
                        if isinstance(base, a.Apply):
                            inner = base.args[0].value if len(base.args) == 1 else None
                            named = isinstance(base.prefix, (a.Name, a.Select)) and not (
                                isinstance(base.prefix, a.Name) and base.prefix.id in names
                            )
                            if named and isinstance(inner, (a.Name, a.Apply, a.Select)):
                                base = inner  # a conversion of the formal
                                continue
                            base = base.prefix
                        elif isinstance(base, a.Select):
                            base = base.prefix
                        else:
                            break
                    name = base.id if isinstance(base, a.Name) else ""
                    if name not in names:
                        shown = getattr(base, "text", "") or "this"
                        hint = nearest(name, names)
                        if hint:
                            hint = f"; did you mean '{spelled[hint.split(chr(39))[1]]}'?"
                        elif isinstance(item.value, a.Name) and item.value.id in names:
                            hint = f"; the formal port stands left of '=>': {item.value.text} => {shown}"
                        else:
                            hint = f"; its ports are {', '.join(spelled.values())}" if flat else ""
                        raise Wrong(base.pos, f"{what} has no port '{shown}' (the formal of this association){hint}", "port")
                    if not isinstance(formal, a.Name) and self._is_part(formal, name):
                        parts.setdefault(name, []).append(item)
                        continue
                if name in whole or name in parts:
                    raise Wrong(item.pos, f"port '{spelled[name]}' is connected twice", "port")
                whole[name] = item
        return whole, parts

    @staticmethod
    def _is_part(formal: a.Expr, name: str) -> bool:
        """Whether a formal is an element, slice or element of a record of a port, not a conversion of it."""
        base = formal
        while isinstance(base, a.Select):
            base = base.prefix
        if isinstance(base, a.Apply):
            inner: a.Expr = base.prefix
            while isinstance(inner, (a.Select, a.Apply)):
                inner = inner.prefix
            return isinstance(inner, a.Name) and inner.id == name
        return isinstance(base, a.Name) and base.id == name

    def _own(self, o: t.Object, path: str, pos: int) -> None:
        """A port with storage of its own."""
        if not o.subtype.static:
            raise Wrong(pos, f"port '{o.text}' is unconstrained: it needs a connection that gives it bounds", "unconstrained")
        outer, self.path = self.path, path
        o.signal = t.SignalPart(self.root_signal(o))
        self.path = outer

    def _port(self, o: t.Object, item: a.Assoc | None, here: t.Instance, path: str, pos: int, what: str, top: bool) -> None:
        if item is None or isinstance(item.value, a.Open):
            if not top:
                where = item.pos if item is not None else pos
                if o.mode == "in" and o.init is None:
                    raise Wrong(where, f"the input '{o.text}' of {what} is connected to nothing and has no default", "unconnected")
                if not o.subtype.constrained and o.init is None:
                    raise Wrong(where, f"port '{o.text}' is unconstrained: it can't be left open", "unconstrained")
            if not o.subtype.constrained and o.init is not None:
                o.subtype = self.shape_of(o.init, o.subtype)
            self._own(o, path, pos)
            return
        formal = item.choices[0] if item.choices else None
        if isinstance(formal, a.Apply):
            self._converted(o, item, formal, path)
            return
        kinds = self.types(item.value)
        if not any(self.agrees(k, o.subtype.type) for k in kinds):
            raise Wrong(
                item.value.pos,
                f"port '{o.text}' of {what} is of type {o.subtype!r}; what is connected is {self.describe(item.value)}",
                "type",
            )
        actual = self.value(item.value, o.subtype)
        part = static_part(actual)
        inner: t.Expr = actual
        while isinstance(inner, (t.Index, t.Slice, t.FieldOf)):
            inner = inner.a
        is_name = part is not None and isinstance(inner, t.Ref) and self._wholly_static(actual)
        if is_name and part is not None:
            assert isinstance(inner, t.Ref)
            self._direction(o, inner, item, what)
            if not o.subtype.constrained:
                o.subtype = t.Subtype(
                    o.subtype.type, o.subtype.name, None, actual.type.bounds, actual.type.element, actual.type.fields
                )
            else:
                self.check_value(actual, o.subtype, item.value.pos)
            if part[2] != t.size_of(o.subtype):
                raise Wrong(item.value.pos, f"port '{o.text}' and what is connected to it are of different sizes", "length")
            o.signal = t.SignalPart(part[0].root, part[1])
            return
        if o.mode not in ("in",):
            conversion = isinstance(actual, (t.Call, t.Convert))
            if conversion and o.mode != "out":
                raise Wrong(
                    item.value.pos, f"port '{o.text}' of mode {o.mode} can't be connected through a conversion here", "unsupported"
                )
            raise Wrong(item.value.pos, f"port '{o.text}' is of mode {o.mode}: it needs a signal, not an expression", "port")
        if not o.subtype.constrained:
            o.subtype = self.shape_of(actual, o.subtype)
        self.check_value(actual, o.subtype, item.value.pos)
        reads = unique(signals_read(actual))
        self._own(o, path, item.pos)
        assert o.signal is not None
        if not reads:
            o.init = actual
            o.signal.root.init = actual
            return
        conversion = len(reads) == 1 and isinstance(actual, (t.Call, t.Convert)) and static_part(_argument(actual)) is not None
        self._link(t.Ref(o.subtype, item.pos, o), actual, reads, item.pos, "link" if conversion else "process", path)

    def _wholly_static(self, e: t.Expr) -> bool:
        while True:
            match e:
                case t.Index(indexes=indexes):
                    if not all(isinstance(i, t.Const) for i in indexes):
                        return False
                case t.Slice(bounds=bounds):
                    if not bounds.static:
                        if self.sub is None:
                            e.bounds = t.Bounds(self.known(bounds.left), self.known(bounds.right), bounds.down)
                            e.type.bounds = [e.bounds]
                            continue
                        return False
                case t.Ref():
                    return True
                case t.FieldOf():
                    pass
                case _:
                    return False
            e = e.a

    def _direction(self, o: t.Object, actual: t.Ref, item: a.Assoc, what: str) -> None:
        """6.5.6.3: what a port may be connected to, by mode."""
        outer = actual.object.mode
        if o.mode in ("out", "inout", "buffer") and outer == "in":
            raise Wrong(
                item.value.pos,
                f"'{actual.object.text}' is an input here: it can't be driven by port '{o.text}' of {what}",
                "mode-in",
            )

    def _converted(self, o: t.Object, item: a.Assoc, formal: a.Apply, path: str) -> None:
        """conversion(formal) => actual: the output goes through a conversion (6.5.7.1)."""
        if o.mode not in ("out", "buffer"):
            raise Wrong(item.pos, f"a conversion of the formal is for outputs; '{o.text}' is of mode {o.mode}", "port")
        target = self.target(item.value, "signal")
        if not o.subtype.constrained:
            raise Wrong(item.pos, f"port '{o.text}' is unconstrained: its bounds can't come through a conversion", "unconstrained")
        self._own(o, path, item.pos)
        inner = Scope(self.scope, "")
        inner.names[o.name] = [o]
        with self.inside(inner):
            value = self.value(formal, self.plain(target.type.type))
        self._link(target, value, [t.Ref(o.subtype, item.pos, o)], item.pos, "link", self.path)

    def _link(self, target: t.Expr, value: t.Expr, reads: list[t.Expr], pos: int, kind: str, path: str) -> None:
        process = t.Process(
            f"_port_{self.sources.place(pos).line}", path, pos, self.site(a.Node(pos)), sensitivity=reads, kind=kind
        )
        process.body = [t.SignalAssign(process.site, target, "inertial", None, [t.Wave(value, None)])]
        with self.inside(self.scope, process=process):
            self.drive(target, pos)
        self.shared.processes.append(process)

    def _port_in_parts(self, o: t.Object, items: list[a.Assoc], scope: Scope, here: t.Instance, path: str) -> None:
        """Elements and slices of a port connected one by one (6.5.7.1): by copies in the moment of the update."""
        if not o.subtype.static:
            o.subtype = self._bounds_of_parts(o, items)
        self._own(o, path, items[0].pos)
        holder = Scope(self.scope, "")
        holder.names[o.name] = [o]
        for item in items:
            with self.inside(holder):
                formal = self.value(item.choices[0], None)
            if isinstance(item.value, a.Open):
                continue
            if o.mode == "in":
                actual = self.value(item.value, formal.type)
                self.check_value(actual, formal.type, item.value.pos)
                reads = unique(signals_read(actual))
                if not reads:
                    self._link(formal, actual, [], item.pos, "process", path)
                else:
                    self._link(formal, actual, reads, item.pos, "link", path)
            else:
                target = self.target(item.value, "signal")
                if target.type.type is not formal.type.type:
                    raise Wrong(item.value.pos, f"{formal.type!r} is needed here; this is {target.type!r}", "type")
                self._link(target, formal, [formal], item.pos, "link", self.path)

    def _bounds_of_parts(self, o: t.Object, items: list[a.Assoc]) -> t.Subtype:
        """An unconstrained port takes its bounds from the indexes that are connected, a record from what its elements get."""
        kind = o.subtype.type
        if isinstance(kind, t.RecordType):
            return self._record_of_parts(o, kind, items)
        assert isinstance(kind, t.ArrayType)
        low: int | None = None
        high: int | None = None
        down = True
        for item in items:
            formal = item.choices[0]
            if not isinstance(formal, a.Apply) or len(formal.args) != 1:
                raise Wrong(item.pos, f"port '{o.text}' is unconstrained; connect it whole", "unconstrained")
            arg = formal.args[0].value
            if self._is_range(arg):
                bounds, _ = self.bounds(arg, kind.indexes[0])
                values, down = [bounds.low, bounds.high], bounds.ints[2]
            else:
                values = [self.constant(self.value(arg, kind.indexes[0]))]
            low = min([*values, low] if low is not None else values)
            high = max([*values, high] if high is not None else values)
        index = kind.indexes[0]
        a_, b_ = t.Const(index, o.pos, low), t.Const(index, o.pos, high)
        return t.Subtype(
            kind, o.subtype.name, None, [t.Bounds(b_, a_, True) if down else t.Bounds(a_, b_, False)], o.subtype.element
        )

    def _record_of_parts(self, o: t.Object, kind: t.RecordType, items: list[a.Assoc]) -> t.Subtype:
        fields: list[t.Subtype] = []
        for name, of in zip((f.name for f in kind.fields), o.subtype.field_types(), strict=True):
            if not of.static:
                item = next((i for i in items if isinstance(i.choices[0], a.Select) and i.choices[0].id == name), None)
                if item is None or isinstance(item.value, a.Open):
                    raise Wrong(
                        items[0].pos, f"element '{name}' of port '{o.text}' is unconstrained; connect it whole", "unconstrained"
                    )
                of = self.value(item.value, self.plain(of.type)).type
                if not of.static:
                    raise Wrong(item.value.pos, f"the bounds of element '{name}' can't be told from this", "unconstrained")
            fields.append(of)
        return t.Subtype(kind, o.subtype.name, None, None, None, fields)

    # ---- concurrent statements ----

    def concurrents(self, body: list[a.Concurrent], block: a.BlockConfig | None) -> None:
        for s in body:
            self._cache.clear()
            with self.careful():
                match s:
                    case a.Process():
                        self._defer(s)
                    case a.Instance():
                        self._instance(s, block)
                    case a.Block():
                        self._block(s, block)
                    case a.Generate():
                        self._generate(s, block)

    def _defer(self, s: a.Process) -> None:
        scope, path, here = self.scope, self.path, self.instance
        process = t.Process(s.label or f"_{self.sources.place(s.pos).line}", path, s.pos, 0, postponed=s.postponed)
        self.shared.processes.append(process)

        def act() -> None:
            with self.careful(), self.inside(scope, path=path, instance=here, sub=None, process=None, out=[], loops=[]):
                self._process(s, process)

        self.later.append(act)

    def _process(self, s: a.Process, process: t.Process) -> None:
        scope = Scope(self.scope, s.label.lower())
        scope.open(self.scope, s.label.lower())
        process.scope = scope
        process.site = self.site(s)
        path = self.path
        with self.inside(scope, process=process, out=[], path=path):
            if s.sensitivity is not None:
                process.sensitivity = []
                for e in s.sensitivity:
                    value = self.value(e, None)
                    inner = value
                    while isinstance(inner, (t.Index, t.Slice, t.FieldOf)):
                        inner = inner.a
                    if not (isinstance(inner, t.Ref) and inner.object.kind == "signal"):
                        name = getattr(e, "text", "this")
                        raise Wrong(e.pos, f"'{name}' is no signal: only signals wake a process", "sensitivity")
                    if static_part(value) is None or not self._wholly_static(value):
                        raise Wrong(e.pos, "a name in a sensitivity list has to be known before the run", "sensitivity")
                    process.sensitivity.append(value)
            process.decls = self.declare_all(s.decls)
            process.body = self.statements(s.body)
            process.decls += self.out
            if s.all:
                seen: set[t.Subprogram] = set()
                process.sensitivity = unique(x for item in process.body for x in signals_read(item, seen))
            elif s.implied:
                self._implied(process, s)
            elif s.sensitivity is None and not _waits(process.body):
                name = f"process '{s.label}'" if s.label else "this process"
                self.diagnostics.warning(
                    s.pos,
                    f"{name} has no sensitivity list and never waits: it runs for ever while time stands still",
                    "never-waits",
                )

    def _implied(self, process: t.Process, s: a.Process) -> None:
        """11.3 to 11.6: a concurrent statement waits for what it reads."""
        found: list[t.Expr] = []
        for item in process.body:
            if isinstance(item, t.CallStmt):
                for p, x in zip(item.call.sub.params, item.call.args, strict=True):
                    if p.mode != "out":
                        found += signals_read(x)
            else:
                found += signals_read(item)
        on = unique(iter(found))
        call = process.body[0] if process.body and isinstance(process.body[0], t.CallStmt) else None
        if call is not None and call.call.sub.suspends:
            process.body.append(t.Wait(process.site, on, None, None))
        else:
            process.sensitivity = on

    def _generate(self, s: a.Generate, block: a.BlockConfig | None) -> None:
        if s.kind == "for":
            assert s.subject is not None
            bounds, of = self.bounds(s.subject, None)
            left, right, down = bounds.ints
            if isinstance(of.type, t.Integer) and of.type.universal:
                of = self.std.integer
            for k in range(left, right - 1, -1) if down else range(left, right + 1):
                index = t.Object(s.name, "constant", of, s.pos, s.text, value=k)
                shown = of.type.literals[k] if isinstance(of.type, t.Enum) else str(k)
                self._branch(s, s.branches[0], f"{s.label}({shown})", index, self._inner(block, s.label, k))
            return
        if s.kind == "if":
            for branch in s.branches:
                if branch.cond is None or self.constant(self.condition(branch.cond)):
                    self._branch(s, branch, s.label, None, self._inner(block, branch.label or s.label, None))
                    return
            return
        assert s.subject is not None
        subject = self.subject(s.subject)
        kind = subject.type.type
        number = self.constant(subject) if subject.type.scalar else None
        for branch in s.branches:
            for choice in branch.choices:
                hit = isinstance(choice, a.Others)
                if not hit and self._is_range(choice):
                    chosen, _ = self.bounds(choice, subject.type)
                    hit = chosen.low <= number <= chosen.high
                elif not hit:
                    value = self.value(choice, subject.type)
                    if number is not None:
                        hit = self.constant(value) == number
                    else:
                        assert isinstance(kind, t.ArrayType)
                        hit = bool(self.constant(self.apply("=", [subject, value], self.std.boolean, choice.pos)))
                if hit:
                    self._branch(s, branch, s.label, None, self._inner(block, branch.label or s.label, None))
                    return

    def _inner(self, block: a.BlockConfig | None, label: str, index: int | None) -> a.BlockConfig | None:
        """The part of a configuration for a block or generate."""
        for item in block.items if block is not None else ():
            if isinstance(item, a.BlockConfig) and item.id == label.lower():
                if item.index is None or index is None:
                    return item
                with self.careful():
                    if isinstance(item.index, a.Range):
                        bounds, _ = self.bounds(item.index, None)
                        if bounds.low <= index <= bounds.high:
                            return item
                    elif self.constant(self.value(item.index, self.std.integer)) == index:
                        return item
        return block if block is not None and not any(isinstance(x, a.BlockConfig) for x in block.items) else None

    def _branch(self, s: a.Generate, branch: a.Branch, name: str, index: t.Object | None, block: a.BlockConfig | None) -> None:
        scope = Scope(self.scope, s.label.lower())
        scope.open(self.scope, name.lower())
        path = f"{self.path}.{name}"
        here = t.Instance(name, path, "", s.pos, branch.pos, self.instance, scope=scope, kind="generate")
        assert self.instance is not None
        self.instance.children.append(here)
        if index is not None:
            scope.declare(index.name, index, s.pos, index.text)
        with self.inside(scope, path=path, instance=here):
            self.labels(branch.body, scope)
            self.declare_all(branch.decls)
            self.collect(scope, here)
            self.concurrents(branch.body, block)

    def _block(self, s: a.Block, block: a.BlockConfig | None) -> None:
        scope = Scope(self.scope, s.label.lower())
        scope.open(self.scope, s.label.lower())
        path = f"{self.path}.{s.label}"
        here = t.Instance(s.label, path, "", s.pos, s.pos, self.instance, scope=scope, kind="block")
        label = self.scope.direct(s.label.lower())
        if label and isinstance(label[0], Label):
            label[0].scope = scope
        assert self.instance is not None
        self.instance.children.append(here)
        if s.generics:
            self.bind_generics(s.generics, s.generic_map, scope, s.pos, f"block '{s.label}'")
        if s.ports:
            self.ports(s.ports, s.port_map, scope, here, s.pos, f"block '{s.label}'", path)
        with self.inside(scope, path=path, instance=here):
            if s.guard is not None:
                guard = t.Object("guard", "signal", self.std.boolean, s.pos, "guard")
                guard.signal = t.SignalPart(self.root_signal(guard))
                scope.declare("guard", guard, s.pos)
                scope.guard = guard
                condition = self.condition(s.guard)
                self._link(t.Ref(guard.subtype, s.pos, guard), condition, unique(signals_read(condition)), s.pos, "link", path)
            self.labels(s.body, scope)
            self.declare_all(s.decls)
            self.collect(scope, here)
            self.concurrents(s.body, self._inner(block, s.label, None))

    # ---- instances ----

    def _instance(self, s: a.Instance, block: a.BlockConfig | None) -> None:
        inner = self._inner_config(block, s)
        if s.kind == "entity":
            unit = self._entity_of(s.unit)
            self._finish_instance(unit, s.arch, s.generic_map, s.port_map, s, inner.inner if inner is not None else None)
            return
        if s.kind == "configuration":
            found = self.denote(s.unit)
            config = found[0] if found else None
            if not isinstance(config, a.Configuration):
                raise Wrong(s.unit.pos, "a configuration should stand here", "instance")
            unit = self._entity_of(config.entity)
            self._finish_instance(unit, config.block.id, s.generic_map, s.port_map, s, config.block)
            return
        found = self.denote(s.unit)
        component = found[0] if found else None
        if isinstance(component, a.Entity):
            raise Wrong(s.unit.pos, f"'{component.text}' is an entity: write 'entity work.{component.text}'", "instance")
        if not isinstance(component, Component):
            name = getattr(s.unit, "text", "this")
            if isinstance(component, t.Subprogram):
                raise Wrong(s.unit.pos, f"'{name}' is a subprogram, no component", "instance")
            raise Wrong(s.unit.pos, f"'{name}' is no component", "instance")
        self._component(s, component, inner)

    def _entity_of(self, name: a.Expr) -> a.Entity:
        if isinstance(name, a.Name):
            unit: Any = self.library_units.entities.get(name.id)
            if unit is None:
                found = self.scope.lookup(name.id)
                unit = found[0] if found else None
        else:
            found = self.denote(name) or []
            unit = found[0] if found else None
        if isinstance(unit, a.Entity):
            return unit
        if isinstance(name, (a.Name, a.Select)):
            known = {k: v.text for k, v in self.library_units.entities.items()}
            hint = nearest(name.id, known)
            if hint:
                hint = f"; did you mean '{known[hint.split(chr(39))[1]]}'?"
            raise Wrong(name.pos, f"there is no entity '{name.text}'{hint}", "undeclared")
        raise Wrong(name.pos, "an entity should stand here", "instance")

    def _finish_instance(
        self,
        unit: a.Entity,
        arch: str,
        generic_map: list[a.Assoc],
        port_map: list[a.Assoc],
        s: a.Instance,
        block: a.BlockConfig | None,
    ) -> None:
        if block is not None and not arch:
            arch = block.id
        self.entity(unit, arch, generic_map, port_map, s.label, s.pos, block, self.scope)

    def _inner_config(self, block: a.BlockConfig | None, s: a.Instance) -> a.ConfigSpec | None:
        name = getattr(s.unit, "id", "")
        label = s.label.lower()
        specs: list[a.ConfigSpec] = [x for x in (block.items if block is not None else ()) if isinstance(x, a.ConfigSpec)]
        specs += self.scope.specs
        for spec in specs:
            if label in spec.labels and getattr(spec.component, "id", "") == name:
                return spec
        for spec in specs:
            if ("all" in spec.labels or "others" in spec.labels) and getattr(spec.component, "id", "") == name:
                return spec
        return None

    def _component(self, s: a.Instance, component: Component, spec: a.ConfigSpec | None) -> None:
        """A component, and the entity that it is bound to (7.3)."""
        tree = component.tree
        scope = Scope(component.scope.parent, "")
        what = f"component '{component.name}'"
        self.bind_generics(tree.generics, s.generic_map, scope, s.pos, what)
        local = t.Instance(s.label, f"{self.path}.{s.label}", component.name, s.pos, s.pos, self.instance)
        self.ports(tree.ports, s.port_map, scope, local, s.pos, what, f"{self.path}.{s.label}")
        binding = spec.binding if spec is not None else None
        block = spec.inner if spec is not None else None
        arch = ""
        unit: a.Entity | None
        if binding is not None and binding.kind == "open":
            return
        if binding is not None and binding.kind == "configuration":
            found = self.denote(binding.unit) if binding.unit is not None else None
            config = found[0] if found else None
            if not isinstance(config, a.Configuration):
                raise Wrong(binding.pos, "a configuration should stand here", "instance")
            unit, block, arch = self._entity_of(config.entity), config.block, config.block.id
        elif binding is not None and binding.unit is not None:
            unit, arch = self._entity_of(binding.unit), binding.arch
        else:
            unit = self.library_units.entities.get(tree.id)
            if unit is None:
                self.foreign(s, component, local, scope)
                return
        if block is not None and not arch:
            arch = block.id
        generic_map = self._default_map(unit.generics, scope, binding.generic_map if binding is not None else [], s.pos)
        port_map = self._default_map(unit.ports, scope, binding.port_map if binding is not None else [], s.pos)
        for port in local.ports:
            if binding is None and not any(port.name == n for d in unit.ports for n, _, _ in d.names):
                raise Wrong(
                    tree.pos,
                    f"component '{component.name}' has a port '{port.text}', which entity '{unit.text}' does not have",
                    "port",
                )
        with self.inside(scope):
            self.entity(unit, arch, generic_map, port_map, s.label, s.pos, block, scope)

    def foreign(self, s: a.Instance, component: Component, local: t.Instance, scope: Scope) -> None:
        """A component without an entity: a module, or nothing."""
        generics = {
            entity.text: int(entity.value)
            for d in component.tree.generics
            if isinstance(d, a.ObjectDecl)
            for name, _, _ in d.names
            for entity in scope.direct(name)
            if isinstance(entity, t.Object) and isinstance(entity.value, int)
        }
        if self.module_instance(s, component.tree.id, local, generics):
            return
        known = {k: v.text for k, v in self.library_units.entities.items()}
        hint = nearest(component.tree.id, known)
        if hint:
            hint = f"; did you mean '{known[hint.split(chr(39))[1]]}'?"
        self.diagnostics.warning(
            s.pos, f"component '{component.name}' is bound to nothing: there is no entity of that name{hint}", "unbound"
        )

    def _default_map(self, items: Any, scope: Scope, given: list[a.Assoc], pos: int) -> list[a.Assoc]:
        """7.3.3: where the binding says nothing, what has the same name."""
        if given:
            return given
        found: list[a.Assoc] = []
        for d in items:
            names = d.names if isinstance(d, a.ObjectDecl) else [(d.id, d.text, d.pos)] if hasattr(d, "id") else []
            for name, text, at in names:
                if scope.direct(name):
                    found.append(a.Assoc(pos, [a.Name(at, name, text)], a.Name(pos, name, text)))
        return found

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
        root.offset = self.shared.allocate(root.size, 8)
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

    # ---- modules of the other language ----

    def bridge(self, o: t.Object, path: str, name: str, into: bool) -> None:
        """Join a port with a signal of an instance of the other language."""
        assert o.signal is not None
        shown = shown_of(o)
        if len(shown) != 1 or shown[0].leaf is None:
            raise Wrong(o.pos, f"port '{o.text}' of type {o.subtype!r} can't be connected to the other language", "mixed")
        _, at, size, form, count = shown[0].leaf
        made = t.Bridge(into, path, name, o.signal.root, at, size, form, count)
        if into:
            owner = t.Process(f"_{name}", path, o.pos, self.site(a.Node(o.pos)), kind="bridge")
            made.driver = t.Driver(o.signal.root, owner, ranges=[(at, size)], pos=o.pos)
            o.signal.root.drivers.append(made.driver)
        self.bridges.append(made)

    def module_instance(self, s: a.Instance, name: str, local: t.Instance, generics: dict[str, int]) -> bool:
        """An instance of a Verilog module; False if there is none of that name."""
        found = self.verilog(name, generics) if self.verilog is not None else None
        if found is None:
            return False
        unit, units, written = found
        self.other_units += [u for u in units if u not in self.other_units]
        path = f"{self.path}.{s.label}"
        here = t.Instance(s.label, path, written, s.pos, unit.pos, self.instance, kind="module", unit_of=unit)
        assert self.instance is not None
        self.instance.children.append(here)
        ports = {p.name.lower(): p for p in unit.ports}
        for o in local.ports:
            port = ports.pop(o.name, None)
            if port is None:
                raise Wrong(o.pos, f"module '{written}' has no port '{o.text}'{nearest(o.name, list(ports))}", "port")
            if port.port == "inout":
                raise Wrong(
                    o.pos,
                    f"port '{o.text}' of module '{written}' is an inout: those can't be connected between the languages",
                    "unsupported",
                )
            width = getattr(port.type, "width", 1)
            shown = shown_of(o)
            have = shown[0].leaf[4] if len(shown) == 1 and shown[0].leaf is not None and shown[0].leaf[3] != 2 else 32
            if width != have:
                raise Wrong(
                    s.pos, f"port '{port.name}' of module '{written}' has {width} bits, what is connected has {have}", "width"
                )
            self.bridge(o, path, port.name, port.port == "output")
        return True


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


def _waits(body: list[t.Stmt]) -> bool:
    return any(isinstance(x, t.Wait) or (isinstance(x, t.Call) and x.sub.suspends) for s in body for x in t.nodes(s))


def _argument(e: t.Expr) -> t.Expr:
    return e.a if isinstance(e, t.Convert) else e.args[0] if isinstance(e, t.Call) and e.args else e


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
