"""Instances of entities, components and of modules of the other language (IEEE 1076-2008 7.3, 11.7)."""

from __future__ import annotations

from typing import Any

from mevrik.design import nodes as n
from mevrik.design import typed as t
from mevrik.design.types import Vec
from mevrik.lang.diagnostics import nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.library import Library
from mevrik.lang.vhdl.elaborate.outline import shown_of
from mevrik.lang.vhdl.elaborate.ports import Ports
from mevrik.lang.vhdl.elaborate.scope import (
    Component,
    Package,
    Scope,
    Wrong,
)


def bare_instance(s: a.Concurrent) -> a.Instance | None:
    """`label : name;` as an instance without maps (11.7.1). It is written like a call; only what the name means tells which it is."""
    if not isinstance(s, a.Process) or not s.implied or not s.label or s.postponed:
        return None
    call = s.body[0]
    if not isinstance(call, a.Call) or not isinstance(call.name, a.Name | a.Select):
        return None
    return a.Instance(s.pos, s.end, s.label, "component", call.name, "", [], [])


def whole(value: n.Const) -> int:
    """A constant of the other language as a number."""
    kind = value.type
    return (
        value.val - (1 << kind.width) if isinstance(kind, Vec) and kind.signed and value.val >> (kind.width - 1) & 1 else value.val
    )


_LEVELS = {2: 0, 3: 1, 6: 0, 7: 1}  # of std_ulogic


def parameter_of(o: t.Object) -> int | float | bytes | None:
    """The value of a generic as that of a parameter; None if there is none."""
    kind = o.subtype.type
    if isinstance(kind, t.ArrayType):
        value = o.init
        while isinstance(value, (t.Ref, t.Convert)):  # a generic handed down
            value = value.object.init if isinstance(value, t.Ref) else value.a
        if not isinstance(value, t.Data) or len(kind.indexes) != 1:
            return None
        data, element = value.values, kind.element.type
        if element.name == "character":
            return data
        if not t.is_nine(o.subtype) and element.name != "bit":
            return None
        bits = [_LEVELS.get(x) if element.name != "bit" else x for x in data]
        return None if None in bits else int("0" + "".join(map(str, bits)), 2)
    if t.is_nine(o.subtype):
        return _LEVELS.get(o.value)
    return o.value if isinstance(o.value, (int, float)) else None


def number(value: n.Const, pos: int) -> a.Expr:
    x = whole(value)
    return a.Number(pos, x) if x >= 0 else a.Unary(pos, "-", a.Number(pos, -x))


class Instances(Ports):
    library_units: Library
    verilog: Any  # the modules (lang/mixed.py), or None
    other_units: list[Any]
    bridges: list[t.Bridge]

    def entity(
        self, unit: a.Entity, arch: str, generic_map: list[a.Assoc], port_map: list[a.Assoc] | None, label: str, pos: int,
        block: a.BlockConfig | None, actual_scope: Scope | None,
    ) -> t.Instance:  # fmt: skip
        raise NotImplementedError

    def package(self, library: str, name: str, pos: int) -> Package:
        raise NotImplementedError

    # ---- instances ----

    def _instance(self, s: a.Instance, block: a.BlockConfig | None) -> None:
        inner = self._inner_config(block, s)
        if s.kind == "entity":
            component = self._component_of_module(s)
            if component is not None:
                self._component(s, component, None, f"module '{component.name}'")
                return
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
        if not isinstance(component, Component):
            name = getattr(s.unit, "text", "this")
            if isinstance(component, a.Entity) or getattr(s.unit, "id", "") in self.library_units.entities:
                message = f"'{name}' is an entity, and no component of that name is declared: write 'entity work.{name}'"
                raise Wrong(s.unit.pos, message, "instance")
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

    def _component(self, s: a.Instance, component: Component, spec: a.ConfigSpec | None, what: str = "") -> None:
        """A component, and the entity that it is bound to (7.3)."""
        tree = component.tree
        scope = Scope(component.scope.parent, "")
        scope.paths = self.scope.paths_to  # the path goes by the instance, not by the component's declaration
        what = what or f"component '{component.name}'"
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
        generics = self._values(component.tree.generics, scope)
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

    # ---- modules of the other language ----

    def bridge(self, o: t.Object, path: str, name: str, mode: str) -> None:
        """Join a port with a signal of an instance of the other language; `mode` says which way it is for the typed signal."""
        assert o.signal is not None
        shown = shown_of(o)
        if len(shown) != 1 or shown[0].leaf is None:
            raise Wrong(o.pos, f"port '{o.text}' of type {o.subtype!r} can't be connected to the other language", "mixed")
        _, at, size, form, count = shown[0].leaf
        both = mode == "inout"
        if both and not (form == 0 and t.is_nine(o.subtype)):
            raise Wrong(o.pos, f"port '{o.text}' of type {o.subtype!r} can't be an inout between the languages", "mixed")
        made = t.Bridge("net" if both else mode, path, name, o.signal.root, at, size, form, count)
        if made.into:
            owner = t.Process(f"_{name}", path, o.pos, self.site(a.Node(o.pos)), kind="bridge")
            made.driver = t.Driver(o.signal.root, owner, ranges=[(at, size)], pos=o.pos)
            o.signal.root.drivers.append(made.driver)
        self.bridges.append(made)
        for part in ("strong", "weak") if both else ():
            self.bridges.append(t.Bridge(part, path, f"{name}.{part}", o.signal.root, at, size, form, count, made.driver))

    def logic_view(self, pos: int) -> Scope:
        """A region that sees what values of the other language are made of."""
        return Scope(None, "", whole=[self.std.scope, self.package("ieee", "std_logic_1164", pos).scope])

    def _component_of_module(self, s: a.Instance) -> Component | None:
        """For `entity work.name` where the library has a Verilog module of that name, and no entity: what a component for it would be."""
        name = getattr(s.unit, "id", "")
        if self.verilog is None or name in self.library_units.entities:
            return None
        if isinstance(s.unit, a.Select) and getattr(s.unit.prefix, "id", "") != "work":
            return None
        found = self.verilog.find(name, {})
        if found is None:
            return None
        pos, text = s.unit.pos, found[2]
        view = self.logic_view(pos)

        def decl(kind: str, text: str, mark: str, constraint: Any, init: a.Expr | None, mode: str) -> a.ObjectDecl:
            subtype = a.SubtypeInd(pos, a.Name(pos, mark, mark), None, constraint)
            return a.ObjectDecl(pos, kind, [(text.lower(), text, pos)], subtype, init, mode)

        generics: list[Any] = [
            decl("constant", parameter, "integer", None, number(value, pos), "in")
            for parameter, value in found[0].parameters.items()
            if isinstance(value, n.Const) and -(1 << 31) <= whole(value) < 1 << 31
        ]
        scope = Scope(view, "")
        self.bind_generics(generics, s.generic_map, scope, s.pos, f"module '{text}'")
        found = self.verilog.find(name, self._values(generics, scope))
        ports = []
        for port in found[0].ports:
            width = getattr(port.type, "width", 1)
            bounds = [a.Assoc(pos, [], a.Range(pos, a.Number(pos, width - 1), True, a.Number(pos, 0)))]
            mode = {"input": "in", "output": "out"}.get(port.port, port.port)
            mark, constraint = ("std_logic", None) if width == 1 else ("std_logic_vector", bounds)
            ports.append(decl("signal", port.name, mark, constraint, None, mode))
        return Component(text, a.ComponentDecl(pos, name, text, generics, ports), Scope(view, ""))

    @staticmethod
    def _values(generics: Any, scope: Scope) -> dict[str, int | float | bytes]:
        """The generics that a parameter can take, by their names as written."""
        named = [name for d in generics if isinstance(d, a.ObjectDecl) for name, _, _ in d.names]
        objects = [x for name in named for x in scope.direct(name) if isinstance(x, t.Object)]
        found: dict[str, int | float | bytes] = {}
        for x in objects:
            value = parameter_of(x)
            if value is None:
                message = f"generic '{x.text}' of {x.subtype!r} can't be given to a module with this value (docs/languages.md)"
                raise Wrong(x.pos, message, "mixed")
            found[x.text] = value
        return found

    def module_instance(self, s: a.Instance, name: str, local: t.Instance, generics: dict[str, int | float | bytes]) -> bool:
        """An instance of a Verilog module; False if there is none of that name."""
        found = self.verilog.find(name, generics) if self.verilog is not None else None
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
            width = getattr(port.type, "width", 1)
            shown = shown_of(o)
            leaf = shown[0].leaf if len(shown) == 1 else None
            have = leaf[4] if leaf is not None and leaf[3] != 2 else 32
            if leaf is not None and width != have:
                raise Wrong(
                    s.pos, f"port '{port.name}' of module '{written}' has {width} bits, what is connected has {have}", "width"
                )
            self.bridge(o, path, port.name, {"output": "in", "input": "out"}.get(port.port, "inout"))
        self.verilog.embed_below(self, path, unit)
        return True
