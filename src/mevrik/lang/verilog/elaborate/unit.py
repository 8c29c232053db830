"""One module with its parameters fixed: declarations, generate constructs, instances, processes."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import EVENT, REAL, TEXT, TIME, EventType, List, Real, Text, Type, Vec
from mevrik.design.unit import InstanceDecl, Process, Signal, Subprogram, Unit
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.classes import ClassInfo, ClassTemplate, constructor_start, declare_class, specialised
from mevrik.lang.verilog.elaborate.context import DEFAULT_SCALE, UNIT_SCOPE, Abandon, Context
from mevrik.lang.verilog.elaborate.expressions import CASTS, fold_resize
from mevrik.lang.verilog.elaborate.scope import (
    BlockName,
    Field,
    InstanceName,
    InterfacePort,
    Param,
    RemoteBlock,
    RemoteScope,
    Scope,
    Shape,
    SubDecl,
    TypeName,
)
from mevrik.lang.verilog.elaborate.statements import Breaks, StatementElaborator, give_branches_their_variables, sensitivity

STRENGTH = {
    "supply": 7, "strong": 6, "pull": 5, "large": 4, "weak": 3, "medium": 2, "small": 1, "highz": 0,
}  # fmt: skip
WIDTH_LIMIT = 1 << 20
ARRAY_LIMIT = 1 << 28
GENERATE_LIMIT = 1 << 16
_WORDS: dict[str, Type] = {**CASTS, "real": REAL, "realtime": REAL, "shortreal": REAL, "time": TIME}
_CHECKED = {"": "input"}


class UnitElaborator(StatementElaborator):
    """`given` holds the values of parameters from the instance and `inner` those that a defparam sets below it."""

    def __init__(
        self,
        context: Context,
        module: ast.Module,
        key: str,
        given: dict[str, n.Expr],
        inner: dict[tuple[str, ...], n.Expr],
        parent: UnitElaborator | None,
        parent_scope: Scope | None,
        interfaces: dict[str, InterfacePort] | None = None,
    ) -> None:
        self.interfaces = interfaces or {}
        self.context = context
        self.module = module
        self.given = given
        self.defparams = dict(inner)
        self.parent = parent
        self.parent_scope = parent_scope
        scale = module.timescale or DEFAULT_SCALE
        self.scale = scale
        self.unit = Unit(module.name, key, module.pos, module.end, unit_exp=scale.unit, precision_exp=scale.precision)
        self.root = Scope(module.name, "", None, outside=self._outside_name)
        self.scope = self.root
        self.breaks = Breaks()
        self.process_name = ""
        self.process_locals: list[Signal] = []
        self.shapes: dict[Signal, Shape] = {}
        self.standins: dict[tuple[tuple[str, ...], Signal], Signal] = {}
        self.deferred: list[tuple[Scope, ast.Item]] = []
        self.subs: list[SubDecl] = []
        self.inits: list[tuple[Scope, Signal, ast.Expr]] = []
        self.anonymous = 0
        self.holders = {}
        self._sub_scopes: dict[SubDecl, Scope] = {}
        self.coming: set[str] = set()  # interfaces of this module, which are not nets though not declared yet
        self.list_fields: dict[Signal, n.FieldPlace] = {}
        self.dollar: list[n.Expr] = []
        self.remote_subs: dict[tuple[tuple[str, ...], SubDecl], SubDecl] = {}

    # ---- the whole ----

    def run(self) -> Unit:
        self._header()
        self._guard(lambda: self._declare(self.module.items, self.root))
        self._finish_ports()
        instances = [d for d in self.deferred if isinstance(d[1], ast.Instance)]
        instances.sort(key=lambda d: not self._is_interface_instance(d[1]))  # others may be connected to them
        for scope, item in instances:
            self.scope = scope
            self._guard(lambda item=item: self._instance(item))  # type: ignore[misc]
        for scope, item in self.deferred:
            self.scope = scope
            if not isinstance(item, ast.Instance):
                self._guard(lambda item=item: self._process_item(item))  # type: ignore[misc]
        self.scope = self.root
        for entity in self.subs:
            self._guard(lambda entity=entity: self._sub_body(entity))  # type: ignore[misc]
        self._specify_blocks()
        self._initial_values()
        return self.unit

    def _specify_blocks(self) -> None:
        """Module paths and timing checks, when all that drives the outputs is known."""
        from mevrik.lang.verilog.elaborate.checks import CheckElaborator
        from mevrik.lang.verilog.elaborate.specify import SpecifyElaborator

        items = [item for _, item in self.deferred if isinstance(item, (ast.ModulePath, ast.TimingCheck))]
        if not items:
            return
        specify = SpecifyElaborator(self)
        checks = CheckElaborator(specify)
        for item in items:
            act = (lambda i=item: specify.path(i)) if isinstance(item, ast.ModulePath) else (lambda i=item: checks.check(i))
            self._guard(act)
        specify.finish()

    def _guard(self, act: Callable[[], object]) -> None:
        try:
            act()
        except Abandon:
            pass

    # ---- names ----

    def declare(self, scope: Scope, name: str, entity: object, pos: int) -> None:
        if name in scope.names:
            line = self.context.diagnostics.sources.place(scope.positions.get(name, 0)).line
            raise self.error(pos, f"'{name}' is already declared in line {line}", "declared-twice")
        scope.names[name] = entity
        scope.positions[name] = pos

    def open_scope(self, name: str, kind: str) -> Scope:
        if not name:
            prefix = self.scope.prefix
        else:
            prefix = f"{self.scope.prefix}{name}."
        return Scope(name, prefix, self.scope, kind, sub=self.scope.sub)

    def resolve(self, tree: ast.Expr, scope: Scope) -> tuple[object, list[ast.Expr]]:
        """What a possibly hierarchical name stands for (12.5), and the selections that follow it."""
        steps: list[ast.Expr] = []
        while isinstance(tree, (ast.Member, ast.Index, ast.PartSelect)):
            steps.append(tree)
            tree = tree.base
        steps.reverse()
        if not isinstance(tree, ast.Name):
            raise self.error(tree.pos, "only a name can be selected from", "select")
        found = scope.find(tree.name)
        if found is None:
            if steps and isinstance(steps[0], ast.Member):
                return self._upward(tree, steps)
            raise self.error(tree.pos, f"'{tree.name}' is not declared{nearest(tree.name, scope.visible())}", "unknown-name")
        return self._descend(found[0], tree.name, steps, (), self)

    def _descend(
        self, entity: object, name: str, steps: list[ast.Expr], path: tuple[str, ...], home: UnitElaborator
    ) -> tuple[object, list[ast.Expr]]:
        at = 0
        while at < len(steps):
            step = steps[at]
            if isinstance(entity, InstanceName):
                path = (*path, entity.name)
                home = entity.elaborator
                inside: Scope | None = home.root
            elif isinstance(entity, InterfacePort):
                path, home = (*path, *entity.path), entity.home
                inside = home.root
            elif isinstance(entity, Scope):
                inside = entity
            elif isinstance(entity, BlockName):
                inside = entity.scope
            elif isinstance(entity, SubDecl) and isinstance(step, ast.Member):
                self_sub = entity
                home.subprogram(self_sub)
                inside = home.sub_scopes.get(entity)
            elif isinstance(entity, dict):  # an array of instances or generate blocks
                if not isinstance(step, ast.Index):
                    raise self.error(step.pos, f"'{name}' is an array of blocks: select one, such as {name}[0]", "select")
                index = self.constant_int(step.index, "the index of a block")
                if index not in entity:
                    raise self.error(step.pos, f"'{name}' has no element {index}", "unknown-name")
                entity = entity[index]
                at += 1
                continue
            else:
                break
            if not isinstance(step, ast.Member) or inside is None:
                break
            found = inside.names.get(step.name)
            if found is None:
                hint = nearest(step.name, inside.names)
                raise self.error(step.pos, f"'{name}' has nothing called '{step.name}'{hint}", "unknown-name")
            entity, name = found, step.name
            at += 1
        if path and isinstance(entity, Signal):
            entity = self.stand_in(entity, path, home)
        elif path and isinstance(entity, (SubDecl, BlockName)):
            return self.from_afar(entity, path, home, None), steps[at:]
        return entity, steps[at:]

    def from_afar(self, entity: object, path: tuple[str, ...], home: UnitElaborator, inside: Scope | None) -> object:
        """What an entity of another instance is here: signals have stand-ins, a subprogram is elaborated again over them."""
        if isinstance(entity, Signal):
            return self.stand_in(entity, path, home)
        if isinstance(entity, BlockName):
            entity.block.remote = True
            return RemoteBlock(entity.block, path)
        if not isinstance(entity, SubDecl):
            return entity
        made = self.remote_subs.get((path, entity))
        if made is None:
            tree = entity.tree
            way = ".".join(step for step in path if step != "^")
            prefix = f"{way}.{entity.scope.prefix}" if way else entity.scope.prefix
            scope = RemoteScope(entity.scope.name, prefix, None, inner=entity.scope, path=path, home=home, elab=self)
            sub = Subprogram(tree.name, None, tree.pos, tree.automatic, tree.is_task, self.unit, path=prefix + tree.name)
            made = SubDecl(tree, scope, sub)
            self.remote_subs[path, entity] = made
        return made

    def remote_block_of(self, entity: SubDecl) -> RemoteBlock | None:
        """The body of a task of another instance, for `disable`."""
        for (path, original), made in self.remote_subs.items():
            if made is entity and isinstance(entity.scope, RemoteScope) and entity.scope.home is not None:
                block = entity.scope.home.subprogram(original).body[0]
                assert isinstance(block, n.Block)
                block.remote = True
                return RemoteBlock(block, path)
        return None

    def _upward(self, tree: ast.Name, steps: list[ast.Expr]) -> tuple[object, list[ast.Expr]]:
        """A name not found here: an instance above that has it, or a module above of that name (12.6)."""
        level = 0
        above: UnitElaborator | None = self
        while above is not None:
            level += 1
            if above.module.name == tree.name:
                return self._descend(above.root, tree.name, steps, ("^",) * (level - 1), above)
            outer = above.parent
            if outer is None:
                break
            found = (above.parent_scope or outer.root).find(tree.name)
            if found is not None:
                entity, rest = outer._descend(found[0], tree.name, steps, (), outer)
                if isinstance(entity, Signal):
                    path = ("^",) * level + entity.path
                    return self.stand_in(walk.owner(entity), path, outer), rest
                return entity, rest
            above = outer
        raise self.error(tree.pos, f"'{tree.name}' is not declared{nearest(tree.name, self.scope.visible())}", "unknown-name")

    def stand_in(self, signal: Signal, path: tuple[str, ...], home: UnitElaborator) -> Signal:
        if signal.target is not None:
            path, signal = path + signal.path, signal.target
        made = self.standins.get((path, signal))
        if made is None:
            made = Signal(
                f"{'.'.join(path)}.{signal.name}", signal.type, signal.kind, signal.pos, signal.net, signal.left,
                signal.right, signal.dims, signal.port, None, path, signal, signal.ranged, packed=signal.packed,
            )  # fmt: skip
            self.standins[path, signal] = made
            self.unit.standins.append(made)
            shape = home.shapes.get(signal)
            if shape is not None:
                self.shapes[made] = shape
        return made

    def shape_of_signal(self, signal: Signal) -> Shape:
        return self.shapes.get(signal) or Shape(signal.type, signal.packed)

    # ---- packages (IEEE 1800-2017 clause 26) ----

    def package(self, name: str, pos: int) -> UnitElaborator:
        """The elaborated package, made at its first use."""
        made = self.context.package_units.get(name)
        if made is None:
            tree = self.context.packages.get(name)
            if tree is None:
                hint = nearest(name, self.context.packages)
                raise self.error(pos, f"there is no package '{name}'{hint}", "unknown-package")
            made = UnitElaborator(self.context, tree, name, {}, {}, None, None)
            self.context.package_units[name] = made
            made.run()
            self.context.order.append(made.unit)
        return made

    def package_scope(self, name: str, pos: int) -> Scope:
        home = self.package(name, pos)
        return RemoteScope(name, f"{name}::", None, inner=home.root, path=("/" + name,), home=home, elab=self)

    def from_package(self, signal: Signal, home: UnitElaborator) -> Signal:
        """A variable of a package, such as a static property of a class that is declared there."""
        return self.stand_in(signal, ("/" + home.module.name,), home)

    def _import(self, item: ast.Import, scope: Scope) -> None:
        package = self.package_scope(item.package, item.pos)
        if item.name == "*":
            scope.wild.append(package)
            return
        found = package.find(item.name)
        if found is None:
            hint = nearest(item.name, package.visible())
            raise self.error(item.pos, f"the package '{item.package}' has nothing called '{item.name}'{hint}", "unknown-name")
        scope.names[item.name] = found[0]
        scope.positions[item.name] = item.pos

    def _outside_name(self, name: str) -> object | None:
        """`package::name`, or a name that is declared outside all modules."""
        package, colons, inner = name.rpartition("::")
        if colons:
            if package not in self.context.packages:
                return None
            found = self.package_scope(package, 0).find(inner)
            return found[0] if found is not None else None
        if "std" in self.context.packages and self.module.name != "std":  # the built-in package is visible everywhere (26.7)
            found = self.package_scope("std", 0).find(name)
            if found is not None:
                return found[0]
        if UNIT_SCOPE in self.context.packages and self.module.name != UNIT_SCOPE:
            found = self.package_scope(UNIT_SCOPE, 0).find(name)
            return found[0] if found is not None else None
        return None

    # ---- types ----

    def resolve_type(self, tree: ast.DataType) -> Shape:
        if tree.keyword == "name":
            found = self.scope.find(tree.name)
            if found is not None and isinstance(found[0], ClassTemplate):
                return Shape(specialised(self, found[0], tree.args, tree.pos).type)
            if found is not None and isinstance(found[0], ClassInfo):
                return Shape(found[0].type)
            if found is None or not isinstance(found[0], TypeName):
                raise self.error(tree.pos, f"'{tree.name}' is no type{nearest(tree.name, self.scope.visible())}", "unknown-name")
            return self._more_dims(found[0].shape, tree)
        if tree.keyword == "enum":
            return self._enum(tree)
        if tree.keyword in ("struct", "union"):
            return self._struct(tree)
        if tree.keyword == "string":
            return Shape(TEXT)
        if tree.keyword in ("void", "chandle"):
            raise self.error(tree.pos, f"the type {tree.keyword} is not supported yet (IEEE 1800-2017 clause 6)", "unsupported")
        base = _WORDS.get(tree.keyword, Vec(1))
        if not isinstance(base, Vec):
            return Shape(base)
        signed = base.signed if tree.signed is None else tree.signed
        if tree.keyword in ("integer", "int", "byte", "shortint", "longint", "time"):
            return Shape(Vec(base.width, signed, base.four), ((base.width - 1, 0),))
        dims = tuple(self.range(r) for r in tree.dims)
        width = math.prod(abs(a - b) + 1 for a, b in dims)
        if width > WIDTH_LIMIT:
            raise self.error(tree.pos, f"a vector of {width} bits is more than the {WIDTH_LIMIT} supported", "too-wide")
        return Shape(Vec(width, signed, base.four), dims)

    def _more_dims(self, shape: Shape, tree: ast.DataType) -> Shape:
        if not tree.dims or not isinstance(shape.type, Vec):
            return shape
        dims = tuple(self.range(r) for r in tree.dims)
        width = shape.type.width * math.prod(abs(a - b) + 1 for a, b in dims)
        return Shape(Vec(width, False, shape.type.four), dims + shape.packed)

    def _enum(self, tree: ast.DataType) -> Shape:
        base = self.resolve_type(tree.base) if tree.base is not None else Shape(Vec(32, True, False), ((31, 0),))
        t = base.type
        assert isinstance(t, Vec)
        labels: dict[int, str] = {}
        following = 0
        for item in tree.items:
            if item.value is not None:
                value = self.constant(item.value, "the value of an enum name")
                built = fold_resize(value, t)
            else:
                built = n.Const(t, following & ((1 << t.width) - 1))
            assert isinstance(built, n.Const)
            following = built.val + 1
            labels[built.val] = item.name
            if self.scope.names.get(item.name) is None or self.scope.positions.get(item.name) != item.pos:
                self.declare(self.scope, item.name, Param(item.name, built, item.pos), item.pos)
        shape = Shape(t, base.packed, labels)
        return self._more_dims(shape, tree) if tree.dims else shape

    def _struct(self, tree: ast.DataType) -> Shape:
        fields: dict[str, Field] = {}
        parts = [(self.resolve_type(t), d) for t, d in tree.members]
        widths = [s.type.width for s, _ in parts if isinstance(s.type, Vec)]
        union = tree.keyword == "union"
        total = max(widths, default=0) if union else sum(widths)
        low = total
        for shape, declared in parts:
            if not isinstance(shape.type, Vec) or isinstance(shape.type, (Text, List)) or declared.dims:
                message = "a structure holds only vectors for now; strings, reals and arrays in it are not supported yet (7.2)"
                raise self.error(declared.pos, message, "unsupported")
            if union and shape.type.width != total:
                message = (
                    f"the members of a packed union have one width: '{declared.name}' has {shape.type.width} bits, not {total}"
                )
                raise self.error(declared.pos, message + " (7.3.1)", "union-width")
            low -= 0 if union else shape.type.width
            fields[declared.name] = Field(declared.name, 0 if union else low, shape.type, shape)
        shape = Shape(Vec(total, bool(tree.signed)), ((total - 1, 0),), None, fields)
        return self._more_dims(shape, tree) if tree.dims else shape

    def range(self, r: ast.Range) -> tuple[int, int]:
        left = self.constant_int(r.left, "the left bound of a range")
        if r.right is None:
            return 0, left - 1
        return left, self.constant_int(r.right, "the right bound of a range")

    def signal(self, scope: Scope, name: str, shape: Shape, dims: list[ast.Range], kind: str, pos: int, net: str = "") -> Signal:
        shape, dims = self.shape_with_dims(shape, dims)
        ranges = tuple(self.range(r) for r in dims) + shape.unpacked
        left, right = shape.packed[0] if shape.packed else (0, 0)
        if len(shape.packed) > 1 and isinstance(shape.type, Vec):
            left, right = shape.type.width - 1, 0
        made = Signal(
            scope.prefix + name, shape.type, kind, pos, net, left, right, ranges, ranged=bool(shape.packed),
            packed=shape.packed, labels=shape.labels,
        )  # fmt: skip
        if made.elements > ARRAY_LIMIT:
            raise self.error(pos, f"'{name}' has {made.elements} elements; at most {ARRAY_LIMIT} are supported", "too-large")
        self.declare(scope, name, made, pos)
        self.shapes[made] = shape
        if kind == "local":
            self.add_local(made)
        else:
            self.unit.signals.append(made)
        return made

    # ---- header and declarations ----

    def _header(self) -> None:
        first = self.module.ports[0].pos if self.module.ports else 0
        for item in self.module.items:
            if isinstance(item, ast.Import) and item.pos < first:  # `module m import p::*; (…)`: the ports may use it
                self._guard(lambda item=item: self._import(item, self.root))  # type: ignore[misc]
        for decl in self.module.params:
            self._guard(lambda decl=decl: self._parameter(decl, self.root, True))  # type: ignore[misc]
        body_params = {d.name for i in self.module.items if isinstance(i, ast.ParamDecl) and not i.local for d in i.names} | {
            d.name for i in self.module.params for d in i.names
        }
        for name in self.given:
            if name not in body_params:
                pass  # reported at the instance, where it stands
        if self.module.ansi:
            for port in self.module.ports:
                if isinstance(port, ast.Port):
                    self._guard(lambda port=port: self._port(port))  # type: ignore[misc]

    def _port(self, port: ast.Port) -> None:
        if self.is_interface(port):
            bound = self.interfaces.get(port.name)
            if bound is None:
                raise self.error(
                    port.pos, f"the interface port '{port.name}' is not connected to an interface (25.3.2)", "connection"
                )
            self.declare(self.root, port.name, bound, port.pos)
            return
        shape = self.resolve_type(port.type)
        kind = "net"
        net = port.kind if port.kind not in ("", "var") else self.module.default_nettype
        if port.kind == "var" and port.direction == "output":
            kind, net = "var", ""
        elif port.kind == "var":
            net = "wire"
        if not port.ansi:
            old = self.root.names.get(port.name)
            if isinstance(old, Signal):
                if old.port:
                    line = self.context.diagnostics.sources.place(old.pos).line
                    raise self.error(port.pos, f"the port '{port.name}' is already declared in line {line}", "declared-twice")
                old.port = port.direction
                return
        made = self.signal(self.root, port.name, shape, port.dims, kind, port.pos, net)
        made.port = port.direction
        if port.init is not None and kind == "var":
            self.inits.append((self.root, made, port.init))
        if port.ansi:
            self.unit.ports.append(made)

    def _is_interface_instance(self, item: ast.Item) -> bool:
        module = self.context.modules.get(item.module) if isinstance(item, ast.Instance) else None
        return module is not None and module.interface

    def is_interface(self, port: ast.Port) -> bool:
        found = self.context.modules.get(port.type.name) if port.type.keyword == "name" else None
        return found is not None and found.interface

    def _finish_ports(self) -> None:
        if self.module.ansi:
            return
        for ref in self.module.ports:
            if not isinstance(ref, ast.PortRef):
                continue
            if ref.expr is None:
                self.unit.ports.append(Signal(ref.name, Vec(1), "net", ref.pos, "wire", port="inout"))
                continue
            if not isinstance(ref.expr, ast.Name):
                self.context.diagnostics.error(
                    ref.pos, "a port that is a selection or concatenation is not supported yet (12.3.2)", "unsupported"
                )
                continue
            found = self.root.names.get(ref.expr.name)
            if not isinstance(found, Signal) or not found.port:
                declared = [s.name for s in self.unit.signals if s.port]
                hint = nearest(ref.expr.name, declared)
                self.context.diagnostics.error(
                    ref.pos, f"the port '{ref.expr.name}' has no input, output or inout declaration{hint}", "port-undeclared"
                )
                continue
            self.unit.ports.append(found)
        listed = {id(p) for p in self.unit.ports}
        for s in self.unit.signals:
            if s.port and id(s) not in listed:
                self.context.diagnostics.error(
                    s.pos,
                    f"'{s.name}' is declared as {s.port} but is not in the port list of '{self.module.name}'",
                    "port-unlisted",
                )

    def _declare(self, items: list[ast.Item], scope: Scope) -> None:
        self.coming |= {i.name for i in items if self._is_interface_instance(i) and isinstance(i, ast.Instance)}
        for item in items:
            self.scope = scope
            try:
                self._declare_one(item, scope)
            except Abandon:
                pass
        self.scope = scope

    def _declare_one(self, item: ast.Item, scope: Scope) -> None:
        match item:
            case ast.Port():
                self._port(item)
            case ast.ParamDecl():
                self._parameter(item, scope, False)
            case ast.NetDecl():
                self._nets(item, scope)
            case ast.VarDecl() | ast.EventDecl() | ast.TypedefDecl():
                self._variables(item, scope)
            case ast.Import():
                if not self.module.ports or item.pos > self.module.ports[0].pos:
                    self._import(item, scope)
            case ast.GenvarDecl(names=names):
                for d in names:
                    self.declare(scope, d.name, "genvar", d.pos)
            case ast.ClassDecl(params=params) if params:
                self.declare(scope, item.name, ClassTemplate(item, scope, self), item.pos)
            case ast.ClassDecl():
                declare_class(self, item, scope)
            case ast.Function():
                self._subprogram(item, scope)
            case ast.Defparam():
                self._defparam(item)
            case ast.GenFor() | ast.GenIf() | ast.GenCase() | ast.GenBlock():
                self._generate(item, scope)
            case ast.Instance():
                self._implicit_in_ports(item, scope)
                self.deferred.append((scope, item))
            case ast.ContinuousAssign(target=target):
                self._implicit_net(target, scope)
                self.deferred.append((scope, item))
            case ast.Gate(ports=ports):
                for p in ports:
                    self._implicit_net(p, scope)
                self.deferred.append((scope, item))
            case _:
                self.deferred.append((scope, item))

    def _implicit_in_ports(self, item: ast.Instance, scope: Scope) -> None:
        for c in item.ports:
            if c.expr is not None and not c.short:
                self._implicit_net(c.expr, scope)

    def _implicit_net(self, e: ast.Expr, scope: Scope) -> None:
        """An undeclared name used as a terminal is a net of one bit (4.5)."""
        if isinstance(e, ast.Concat):
            for part in e.parts:
                self._implicit_net(part, scope)
        if not isinstance(e, ast.Name) or e.name in self.coming or scope.find(e.name) is not None or e.name.startswith("$"):
            return
        if self.module.default_nettype == "none":
            hint = nearest(e.name, scope.visible())
            raise self.error(e.pos, f"'{e.name}' is not declared{hint} (`default_nettype is none)", "unknown-name")
        made = self.signal(scope, e.name, Shape(Vec(1)), [], "net", e.pos, self.module.default_nettype)
        made.implicit = True
        hint = nearest(e.name, [name for name, x in scope.names.items() if x is not made])
        self.context.diagnostics.warning(e.pos, f"'{e.name}' is not declared: it becomes a net of one bit{hint}", "implicit-net")

    def _parameter(self, decl: ast.ParamDecl, scope: Scope, header: bool) -> None:
        for d in decl.names:
            if d.init is None:
                raise self.error(d.pos, f"the parameter '{d.name}' needs a value", "parameter")
            explicit = bool(decl.type.keyword or decl.type.dims or decl.type.signed is not None)
            shape = self.resolve_type(decl.type) if explicit else None
            given = None
            if not decl.local and scope is self.root:
                given = self.given.get(d.name)
                given = self.defparams.pop((d.name,), given)
            if shape is not None and not (decl.type.signed is not None and not decl.type.dims and not decl.type.keyword):
                if given is not None:
                    value = self._convert(given, shape.type)
                else:
                    value = self.constant_of(self.for_target(d.init, shape.type), d.init.pos, f"the parameter '{d.name}'")
                value = self._convert(value, shape.type)
            else:
                value = given if given is not None else self.constant(d.init, f"the parameter '{d.name}'")
                if decl.type.signed is not None and isinstance(value, n.Const):
                    value = n.Const(Vec(n.vec(value).width, decl.type.signed), value.val, value.unk)
            packed = shape.packed if shape is not None else ()
            self.declare(scope, d.name, Param(d.name, value, d.pos, packed), d.pos)
            self.unit.parameters[scope.prefix + d.name] = value

    def _convert(self, value: n.Expr, t: Type) -> n.Expr:
        if isinstance(t, Real):
            return self.constant_of(self.to_real(value), 0, "a parameter")
        if isinstance(value, n.RealConst):
            return self.constant_of(n.ToVec(t, value), 0, "a parameter")
        assert isinstance(t, Vec)
        own = n.vec(value)
        wide = fold_resize(value, Vec(t.width, own.signed, t.four))
        return fold_resize(wide, t)

    def _defparam(self, item: ast.Defparam) -> None:
        path: list[str] = []
        e = item.target
        while isinstance(e, (ast.Member, ast.Index)):
            if isinstance(e, ast.Index):
                path.insert(0, f"[{self.constant_int(e.index, 'an index')}]")
            else:
                path.insert(0, e.name)
            e = e.base
        assert isinstance(e, ast.Name)
        joined: list[str] = [e.name]
        for p in path:
            if p.startswith("["):
                joined[-1] += p
            else:
                joined.append(p)
        self.defparams[tuple(joined)] = self.constant(item.value, "the value of a defparam")

    def _nets(self, item: ast.NetDecl, scope: Scope) -> None:
        shape = self.resolve_type(item.type)
        for d in item.names:
            old = scope.names.get(d.name)
            if (
                isinstance(old, Signal)
                and old.port
                and not d.dims
                and scope is self.root
                and old.kind == "net"
                and not self.module.ansi
            ):
                old.net = item.kind
                made = old
            else:
                made = self.signal(scope, d.name, shape, d.dims, "net", d.pos, item.kind)
            if item.kind in ("supply0", "supply1"):
                width = shape.type.width if isinstance(shape.type, Vec) else 1
                bits = (1 << width) - 1 if item.kind == "supply1" else 0
                drive = n.Drive(
                    self.context.site(d.pos, d.pos + len(d.name), "assign"), (n.LRef(made, None, None, width),),
                    n.Const(Vec(width), bits), (), (7, 7),
                )  # fmt: skip
                self.unit.processes.append(Process("assign", [drive], d.pos, scope.prefix, ()))
            if d.init is not None:
                assign = ast.ContinuousAssign(d.pos, ast.Name(d.pos, d.name), d.init, item.delay, item.strength)
                self.deferred.append((scope, assign))

    def _variables(self, item: ast.Item, scope: Scope) -> None:
        if isinstance(item, ast.TypedefDecl):
            shape = self.resolve_type(item.type)
            if item.dims:
                shape, left = self.shape_with_dims(shape, item.dims)
                shape = replace(shape, unpacked=tuple(self.range(r) for r in left) + shape.unpacked)
            self.declare(scope, item.name, TypeName(item.name, shape), item.pos)
            return
        if isinstance(item, ast.EventDecl):
            for d in item.names:
                self.signal(scope, d.name, Shape(EVENT), d.dims, "var", d.pos)
            return
        assert isinstance(item, ast.VarDecl)
        shape = self.resolve_type(item.type)
        for d in item.names:
            old = scope.names.get(d.name)
            if isinstance(old, Signal) and old.port and old.kind == "net" and scope is self.root and not self.module.ansi:
                if old.port != "output":
                    raise self.error(d.pos, f"the {old.port} port '{d.name}' can't be a variable", "port-variable")
                old.kind, old.net = "var", ""
                if isinstance(old.type, Vec) and isinstance(shape.type, Vec):
                    if shape.packed and not old.packed:
                        old.type, old.packed, old.ranged = shape.type, shape.packed, True
                        old.left, old.right = shape.packed[0]
                    elif shape.type.signed:
                        old.type = Vec(old.type.width, True, old.type.four)
                made = old
            else:
                made = self.signal(scope, d.name, shape, d.dims, "var", d.pos)
            if d.init is not None:
                self.inits.append((scope, made, d.init))

    def declare_items(self, items: list[ast.Item], scope: Scope, automatic: bool) -> list[n.Stmt]:
        """Declarations in a block or subprogram; gives the assignments that set automatic variables."""
        inits: list[n.Stmt] = []
        sub = self.breaks.sub
        for item in items:
            if not isinstance(item, ast.VarDecl):
                self._guard(lambda item=item: self._declare_one(item, scope))  # type: ignore[misc]
                continue
            local = item.lifetime == "automatic" or automatic or (item.lifetime != "static" and sub is not None and sub.automatic)
            if not local:
                self._guard(lambda item=item: self._variables(item, scope))  # type: ignore[misc]
                continue
            shape = self.resolve_type(item.type)
            for d in item.names:
                made = self.signal(scope, d.name, shape, d.dims, "local", d.pos)
                width = made.type.width if isinstance(made.type, Vec) else 64
                place = n.LRef(made, None, None, width)
                site = self.context.site(d.pos, d.pos + len(d.name), self.process_name)
                if d.init is not None and (isinstance(d.init, ast.Pattern) or made.dims or isinstance(made.type, List)):
                    inits.extend(self.statement(ast.Assign(d.pos, ast.Name(d.pos, d.name), d.init, False)))
                elif d.init is not None:
                    inits.append(n.Assign(site, (place,), self.for_target(d.init, made.type)))
                elif isinstance(made.type, Vec) and not made.dims:
                    ones = (1 << width) - 1 if made.type.four else 0
                    inits.append(n.Assign(site, (place,), n.Const(made.type, ones, ones)))
        return inits

    def _initial_values(self) -> None:
        """`reg a = 1;` sets the variable before any process runs (1800-2017 6.8; a legal order of 1364-2005 6.2.1)."""
        for scope, signal, tree in self.inits:
            self.scope = scope
            self.process_name = "initial"
            if isinstance(tree, ast.Pattern) or signal.dims or isinstance(signal.type, List):
                assign_tree = ast.Assign(tree.pos, ast.Name(signal.pos, signal.name.removeprefix(scope.prefix)), tree, False)
                try:
                    body = self.statement(assign_tree)
                except Abandon:
                    continue
                self.unit.processes.insert(0, Process("initial", body, 0, scope.prefix, hidden=True))
                continue
            try:
                value = self.for_target(tree, signal.type)
            except Abandon:
                continue
            if isinstance(value, (n.Const, n.RealConst)):
                signal.init = value
            else:
                width = signal.type.width if isinstance(signal.type, Vec) else 64
                site = self.context.site(signal.pos, tree.pos, "initial")
                assign = n.Assign(site, (n.LRef(signal, None, None, width),), value)
                self.unit.processes.insert(0, Process("initial", [assign], signal.pos, scope.prefix))

    # ---- generate (clause 12.4) ----

    def _generate(self, item: ast.Item, scope: Scope) -> None:
        if isinstance(item, ast.GenBlock):
            self._generate_block(item, scope, item.label)
        elif isinstance(item, ast.GenIf):
            cond = self.constant(item.cond, "the condition of a generate")
            chosen = item.then if isinstance(cond, n.Const) and cond.val & ~cond.unk else item.other
            if chosen is not None:
                self._conditional_block(chosen, scope)
        elif isinstance(item, ast.GenCase):
            subject = self.constant_int(item.subject, "the expression of a generate case")
            default = None
            for labels, block in item.arms:
                if not labels:
                    default = block
                elif any(self.constant_int(label, "a label of a generate case") == subject for label in labels):
                    default = block
                    break
            if default is not None:
                self._conditional_block(default, scope)
        elif isinstance(item, ast.GenFor):
            self._generate_for(item, scope)

    def _conditional_block(self, block: ast.GenBlock, scope: Scope) -> None:
        direct = not block.label and len(block.items) == 1 and isinstance(block.items[0], (ast.GenIf, ast.GenCase))
        if direct:  # 12.4.3: a directly nested conditional makes no scope of its own
            self._generate(block.items[0], scope)
            return
        self._generate_block(block, scope, block.label)

    def _block_name(self, label: str) -> str:
        if label:
            return label
        self.anonymous += 1
        return f"genblk{self.anonymous}"

    def _generate_block(self, block: ast.GenBlock, scope: Scope, label: str) -> None:
        name = self._block_name(label)
        inner = Scope(name, f"{scope.prefix}{name}.", scope, "generate")
        self.declare(scope, name, inner, block.pos)
        self._declare(block.items, inner)
        self.scope = scope

    def _generate_for(self, item: ast.GenFor, scope: Scope) -> None:
        name = self._block_name(item.body.label)
        value = self.constant_int(item.init, "the start of a generate loop")
        blocks: dict[int, object] = {}
        self.declare(scope, name, blocks, item.body.pos)
        for _ in range(GENERATE_LIMIT):
            head = Scope(name, scope.prefix, scope, "generate")
            genvar = Param(item.var, n.Const(Vec(32, True), value & 0xFFFFFFFF), item.pos)
            head.names[item.var] = genvar
            self.scope = head
            cond = self.constant(item.cond, "the condition of a generate loop")
            if not (isinstance(cond, n.Const) and cond.val & ~cond.unk):
                self.scope = scope
                return
            inner = Scope(f"{name}[{value}]", f"{scope.prefix}{name}[{value}].", scope, "generate")
            inner.names[item.var] = genvar
            blocks[value] = inner
            self._declare(item.body.items, inner)
            self.scope = head
            step = item.step
            assert isinstance(step, ast.Assign)
            tree = ast.Binary(step.pos, step.op, step.target, step.value) if step.op else step.value
            following = self.constant_int(tree, "the step of a generate loop")
            if following == value or following in blocks:
                raise self.error(item.pos, "this generate loop never ends", "generate-endless")
            value = following
        raise self.error(item.pos, f"this generate loop makes more than {GENERATE_LIMIT} blocks", "generate-endless")

    # ---- functions and tasks ----

    @property
    def sub_scopes(self) -> dict[SubDecl, Scope]:
        return self._sub_scopes

    def _subprogram(self, tree: ast.Function, scope: Scope) -> None:
        sub = Subprogram(tree.name, None, tree.pos, tree.automatic, tree.is_task, self.unit, path=scope.prefix + tree.name)
        entity = SubDecl(tree, scope, sub)
        self.declare(scope, tree.name, entity, tree.pos)
        self.subs.append(entity)

    def subprogram(self, entity: SubDecl) -> Subprogram:
        self._sub_head(entity)
        self._sub_body(entity)
        return entity.sub

    def _sub_head(self, entity: SubDecl) -> None:
        if entity in self._sub_scopes:
            return
        tree, sub = entity.tree, entity.sub
        outer = self.scope
        saved = self.breaks
        scope = Scope(tree.name, f"{entity.scope.prefix}{tree.name}.", entity.scope, "sub", sub=sub)
        self._sub_scopes[entity] = scope
        self.scope = entity.scope
        self.breaks = Breaks(sub=sub)
        kind = "local" if tree.automatic else "var"
        try:
            if entity.owner is not None:
                self.scope = scope
                sub.ports.append(self.signal(scope, "this", Shape(entity.owner.type), [], kind, tree.pos))
                sub.directions.append("input")
                sub.defaults.append(None)
                self.scope = entity.scope
            if tree.type is not None and tree.type.keyword != "void":
                shape = self.resolve_type(tree.type)
                sub.type = shape.type
                self.scope = scope
                sub.result = self.signal(scope, tree.name, shape, [], kind, tree.pos)
            self.scope = scope
            for port in tree.ports:
                shape = self.resolve_type(port.type)
                shape, dims = self.array_port(port, shape)
                default = self.for_target(port.init, shape.type) if port.init is not None else None
                sub.ports.append(self.signal(scope, port.name, shape, dims, kind, port.pos))
                sub.directions.append(port.direction)
                sub.defaults.append(default)
        finally:
            self.scope = outer
            self.breaks = saved

    def array_port(self, port: ast.Port, shape: Shape) -> tuple[Shape, list[ast.Range]]:
        """A fixed array as an argument is handed over as a list of its elements (13.5)."""
        shape, dims = self.shape_with_dims(shape, port.dims)
        ranges = tuple(self.range(r) for r in dims) + shape.unpacked
        if not ranges:
            return shape, dims
        left, right = ranges[0]
        if len(ranges) > 1 or left != 0 or right < left or not isinstance(shape.type, Vec):
            message = (
                f"the argument '{port.name}' is an array of a form that is not supported yet: one dimension, counted up from 0, is"
            )
            raise self.error(port.pos, message, "unsupported")
        return Shape(List(64, False, False, shape.type, False), (), shape.labels), []

    def _sub_body(self, entity: SubDecl) -> None:
        self._sub_head(entity)
        if entity.done:
            return
        entity.done = True
        tree, sub = entity.tree, entity.sub
        saved = self.scope, self.breaks, self.process_name
        own_scale = self.scale
        if isinstance(entity.scope, RemoteScope) and entity.scope.home is not None:
            self.scale = entity.scope.home.scale  # its delays are in the units of its own module
        self.scope = self._sub_scopes[entity]
        block = n.Block(0, [], tree.name)
        self.breaks = Breaks(sub=sub, body=block, open=[block])
        self.process_name = ("task " if tree.is_task else "function ") + sub.path
        try:
            inits = self.declare_items(tree.decls, self.scope, tree.automatic)
            block.body = inits
            if entity.owner is not None and tree.name == "new":
                block.body += constructor_start(self, entity.owner, tree)
                assert sub.result is not None
                give = n.Assign(0, (n.LRef(sub.result, None, None, 64),), self.this_value(tree.pos))
                block.body.append(give)
            for inner in tree.body.body if isinstance(tree.body, ast.Block) else []:
                block.body.extend(self.body(inner))
            sub.body = [block]
            give_branches_their_variables(sub.body)
            if self.scale is not own_scale:
                for s in walk.statements(sub.body):
                    if isinstance(s, n.SysTask):
                        s.unit = self.scale.unit
            sub.suspends = walk.suspends(sub.body)
            if sub.suspends and not tree.is_task:
                self.context.diagnostics.error(
                    tree.pos, f"the function '{tree.name}' waits for time or events; only a task may (10.4.4)", "function-waits"
                )
            self.unit.subprograms.append(sub)
        finally:
            self.scope, self.breaks, self.process_name = saved
            self.scale = own_scale

    # ---- instances ----

    def _instance(self, item: ast.Instance) -> None:
        from mevrik.lang.verilog.elaborate.instances import instantiate

        instantiate(self, item)

    # ---- processes ----

    def time_unit(self) -> int:
        return self.scale.unit

    def ticks(self, e: ast.Expr) -> n.Expr:
        """A delay in ticks of the design, rounded to the module's precision (19.8, 9.7.1)."""
        built = self.expr(e)
        to_precision = 10 ** (self.scale.unit - self.scale.precision)
        to_tick = 10 ** (self.scale.precision - self.context.tick_exp)
        if isinstance(built.type, Real):
            scaled = n.Binary(REAL, "*", built, n.RealConst(REAL, float(to_precision)))
            ticks: n.Expr = n.ToVec(TIME, scaled)
            factor = to_tick
        else:
            ticks = fold_resize(built, Vec(64, n.vec(built).signed)) if n.vec(built).width <= 64 else built
            ticks = fold_resize(ticks, Vec(64, n.vec(ticks).signed))
            factor = to_precision * to_tick
        if factor != 1:
            ticks = n.Binary(Vec(64), "*", ticks, n.Const(Vec(64), factor))
        return self.constant_of(ticks, e.pos, "") if _is_const(ticks) else ticks

    def _process_item(self, item: ast.Item) -> None:
        self.process_locals = []
        if isinstance(item, ast.ContinuousAssign):
            self._continuous(item)
        elif isinstance(item, ast.Always):
            self._always(item)
        elif isinstance(item, ast.Gate):
            from mevrik.lang.verilog.elaborate.gates import gate

            gate(self, item)

    def _continuous(self, item: ast.ContinuousAssign) -> None:
        self.process_name = "assign"
        places = self.place(item.target)
        for p in places:
            signal = walk.owner(p.signal)
            if signal.kind != "net" and not self.module.sv:
                raise self.error(
                    item.target.pos, f"'{signal.name}' is a variable; 'assign' drives nets: declare it as wire", "assign-variable"
                )
        value = self.for_target(item.value, self.place_type(places))
        site = self.context.site(item.pos, self._end(item.value), "assign")
        self.drive(site, item.pos, places, value, item.delay, item.strength)

    def _end(self, e: ast.Node) -> int:
        source = self.context.diagnostics.sources.owner(e.pos)
        if source is None:
            return e.pos
        stop = source.text.find(";", e.pos - source.base)
        return source.base + stop if stop >= 0 else e.pos

    def drive(
        self,
        site: int,
        pos: int,
        places: tuple[n.LRef, ...],
        value: n.Expr,
        delay: ast.Delay | None = None,
        strength: tuple[str, str] | None = None,
    ) -> None:
        delays = tuple(self.ticks(d) for d in delay.values) if delay is not None else ()
        drive = n.Drive(site, places, value, delays, self.strengths(strength))
        sense = sensitivity([drive], into_calls=True)
        self.unit.processes.append(Process("assign", [drive], pos, self.scope.prefix, sense))

    def strengths(self, pair: tuple[str, str] | None) -> tuple[int, int]:
        low, high = 6, 6
        for word in pair or ():
            if word.endswith("0"):
                low = STRENGTH[word[:-1]]
            elif word.endswith("1"):
                high = STRENGTH[word[:-1]]
        return low, high

    def _always(self, item: ast.Always) -> None:
        kind = "always" if item.kind.startswith("always") else item.kind
        self.process_name = item.kind
        self.breaks = Breaks()
        self.process_locals = []
        tree = item.body
        body = self.body(tree)
        give_branches_their_variables(body)
        scope = self.scope.prefix
        sense: tuple[n.Sense, ...] | None = None
        if item.kind in ("always_comb", "always_latch"):
            written = {walk.owner(p.signal) for p in walk.writes(body)}
            sense = tuple(
                s for s in sensitivity(body, True) if isinstance(s.expr, n.Ref) and walk.owner(s.expr.signal) not in written
            )
            kind = "always_comb"
        elif kind == "final" and walk.suspends(body):
            raise self.error(
                item.pos, "a 'final' procedure runs when time has ended: it can't wait (IEEE 1800-2017 9.2.3)", "final-waits"
            )
        elif kind == "always":
            if not walk.suspends(body):
                self.context.diagnostics.error(
                    item.pos, f"this '{item.kind}' has no delay or event control: it would run for ever at time 0", "endless-always"
                )
                return
            if isinstance(body[0], n.WaitEvent) and not walk.suspends(body[1:]):
                sense = body[0].events
                body = body[1:]
                if not sense:
                    self.context.diagnostics.warning(
                        item.pos, "this '@*' waits for nothing: the block reads no signal", "never-runs"
                    )
        explicit = isinstance(tree, ast.Timed) and tree.control.kind == "event"
        latch = item.kind == "always_latch"
        made = Process(kind, body, item.pos, scope, sense, locals=self.process_locals, explicit=explicit, latch=latch)
        self.unit.processes.append(made)


def _is_const(e: n.Expr) -> bool:
    match e:
        case n.Const() | n.RealConst():
            return True
        case n.Binary(a=a, b=b):
            return _is_const(a) and _is_const(b)
        case n.ToVec(a=a) | n.ToReal(a=a) | n.Resize(a=a):
            return _is_const(a)
    return False


__all__ = ["EventType", "InstanceDecl", "UnitElaborator"]
