"""Hierarchical names, names upwards, stand-ins for what lies in other instances, packages (IEEE 1364-2005 12.5 and 12.6)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import Link
from mevrik.design.unit import Signal, Subprogram
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.clocking import ClockingName, moved
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.sampling import SamplingElaborator
from mevrik.lang.verilog.elaborate.scope import (
    Ambiguous,
    BlockName,
    InstanceName,
    InterfacePort,
    Overrides,
    RemoteBlock,
    RemoteScope,
    Scope,
    Shape,
    SubDecl,
    UnitRoot,
)
from mevrik.lang.verilog.elaborate.views import unrolled
from mevrik.lang.verilog.library import UNIT_SCOPE

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


class NameElaborator(SamplingElaborator):
    module: ast.Module
    root: Scope
    parent: UnitElaborator | None
    parent_scope: Scope | None
    standins: dict[tuple[tuple[str, ...], Signal], Signal]
    remote_subs: dict[tuple[tuple[str, ...], SubDecl], SubDecl]

    def declare(self, scope: Scope, name: str, entity: object, pos: int) -> None:
        if name in scope.names:
            first, second = sorted((pos, scope.positions.get(name, 0)))  # a subprogram is announced before what stands above it
            line = self.context.diagnostics.sources.place(first).line
            again = f"line {self.context.diagnostics.sources.place(second).line} after {line}"  # with all that it declares
            raise self.error_of(again, second, f"'{name}' is already declared in line {line}", "declared-twice")
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
        if (found is None or found[1] is not scope) and scope.loses(tree.name, found[1] if found is not None else None):
            raise Abandon
        if found is None:
            if any(isinstance(step, ast.Member) for step in steps):
                ahead = self.find_or_announce(tree.name, scope)  # a block further down
                return self._descend(ahead, tree.name, steps, (), self.itself) if ahead else self._upward(tree, steps)
            above = self._above(tree.name)
            if above is not None:
                return above
            raise self.undeclared(tree.pos, tree.name, f"'{tree.name}' is not declared{self._meant(tree.name, scope)}")
        if isinstance(found[0], Ambiguous):
            raise self.error(tree.pos, found[0].message, "ambiguous")
        return self._descend(found[0], tree.name, steps, (), self.itself)

    def _meant(self, name: str, scope: Scope) -> str:
        """A name nearby, of those that are visible or of the package that is named."""
        package, colons, inner = name.rpartition("::")
        if not colons or package not in self.context.packages:
            return nearest(name, scope.visible())
        return nearest(inner, self.package_scope(package, 0).visible())

    def entity_of(self, e: ast.Expr) -> object | None:
        """What a name stands for; None, without a message, if nothing."""
        if not isinstance(e, (ast.Name, ast.Member, ast.Index)):
            return None
        found = self.quietly(lambda: self.resolve(e, self.scope))
        return found[0] if found is not None and not found[1] else None

    def hierarchical_path(self, e: ast.Expr) -> str:
        """Where a scope or signal is: "/path" from the top, else from the instance that this unit is."""
        entity, rest = self.resolve_scope(e)
        if rest:
            raise self.error(e.pos, f"{self.words(e)} is no scope or signal (18.1.2)", "operand-type")
        match entity:
            case Signal(path=path, target=target) if target is not None:
                return "|".join((*path, target.name))
            case Signal(name=name):
                return name
            case InstanceName(name=name):
                return name
            case InterfacePort(path=path):
                return "|".join(path)
            case UnitRoot(path=path):
                return "|".join(path)
            case Scope(prefix=prefix):
                return prefix.rstrip(".")
            case BlockName(scope=scope) if scope is not None:
                return scope.prefix.rstrip(".")
        raise self.error(e.pos, f"{self.words(e)} is no scope or signal (18.1.2)", "operand-type")

    def resolve_scope(self, e: ast.Expr) -> tuple[object, list[ast.Expr]]:
        """As `resolve`, for what may be the name of a module above."""
        if isinstance(e, ast.Name) and self.scope.find(e.name) is None:
            above: UnitElaborator | None = self.itself
            path: tuple[str, ...] = ()
            while above is not None:
                if above.module.name == e.name:
                    return UnitRoot(path), []
                above, path = above.parent, (*path, "^")
        return self.resolve(e, self.scope)

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
            elif isinstance(entity, ClockingName) and isinstance(step, ast.Member):
                entity, name = self.clock_sample(entity, step), step.name
                at += 1
                continue
            elif isinstance(entity, dict):  # an array of instances or generate blocks
                if not isinstance(step, ast.Index):
                    raise self.error(step.pos, f"'{name}' is an array of blocks: select one, such as {name}[0]", "select")
                index = self.constant_int(step.index, "the index of a block")
                if index not in entity and self.root.loses(name):
                    raise Abandon
                if index not in entity:
                    raise self.error(step.pos, f"'{name}' has no element {index}", "unknown-name")
                entity = entity[index]
                at += 1
                continue
            else:
                break
            if not isinstance(step, ast.Member) or inside is None:
                break
            view = home.views.get(entity.modport, {}).get(step.name) if isinstance(entity, InterfacePort) else None
            if view is not None:  # what the modport calls so (IEEE 1800-2017 25.5.4)
                base, selected = unrolled(view)
                if not base:
                    message = f"'{step.name}' stands for an expression that goes both ways but is no part of a signal: not supported (25.5.4)"
                    raise self.error(step.pos, message, "unsupported")
                steps = [ast.Member(step.pos, step.base, base), *selected, *steps[at + 1 :]]
                at, step = 0, steps[0]
                assert isinstance(step, ast.Member)
            found = inside.names.get(step.name)
            listed = home.modports.get(entity.modport) if isinstance(entity, InterfacePort) and view is None else None
            if listed and step.name not in listed and isinstance(found, Signal) and isinstance(entity, InterfacePort):
                message = (
                    f"'{step.name}' is not in the modport '{entity.modport}' of '{home.module.name}': it can't be used here (25.5)"
                )
                raise self.error_of(f"{entity.modport}.{step.name}", step.pos, message, "modport")
            if found is None and home.announce_blocks():
                found = inside.names.get(step.name)
            if found is None and inside.loses(step.name):
                raise Abandon
            if found is None:
                raise home.error_of(step.name, step.pos, _not_there(name, step.name, inside, home), "unknown-name")
            entity, name = found, step.name
            at += 1
        if path and isinstance(entity, Signal):
            entity = self.stand_in(entity, path, home)
        elif path and isinstance(entity, ClockingName):
            return moved(entity, lambda signal: self.stand_in(signal, path, home)), steps[at:]
        elif path and isinstance(entity, (SubDecl, BlockName)):
            return self.from_afar(entity, path, home, None), steps[at:]
        elif path and isinstance(entity, (InstanceName, dict)):
            entity = _inside(entity, path)
        return entity, steps[at:]

    def clock_sample(self, clocking: ClockingName, step: ast.Member) -> Signal:
        var = clocking.signals.get(step.name)
        if var is None or var.sample is None:
            what = "is an output, which can't be read" if var is not None else "is none of its signals"
            message = f"'{step.name}' of the clocking block '{clocking.tree.name}' {what} (14.3)"
            raise self.error(step.pos, message, "unknown-name")
        return var.sample

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
            if path[0][1:] in self.context.package_units:
                prefix = f"{path[0]}::{entity.scope.prefix}"
            scope = RemoteScope(entity.scope.name, prefix, None, inner=entity.scope, path=path, home=home, elab=self.itself)
            sub = Subprogram(tree.name, None, tree.pos, tree.automatic, tree.is_task, self.unit, path=prefix + tree.name)
            made = SubDecl(tree, scope, sub)
            self.remote_subs[path, entity] = made
            entity.add_kin(self.unit, path, made)
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
        above: UnitElaborator | None = self.itself
        if tree.name == "$root":
            return self._from_root(tree, steps)
        info = self.itself.this_class() if tree.name == "super" else None
        if info is not None and info.base is not None and isinstance(steps[0], ast.Member):
            raise self.itself.no_member(info.base, steps[0].name, steps[0].pos, [])
        while above is not None:
            level += 1
            if above.module.name == tree.name:
                return self._descend(above.root, tree.name, steps, ("^",) * (level - 1), above)
            outer = above.parent
            if outer is None:
                break
            found = outer.find_or_announce(tree.name, above.parent_scope or outer.root)
            if found is not None and (isinstance(steps[0], ast.Member) or isinstance(found, dict)):
                return self._descend(found, tree.name, steps, ("^",) * level, outer)
            above = outer
        other = self._named_top(tree.name)
        if other is not None:
            return self._descend(other.root, tree.name, steps, (f"/{tree.name}",), other)
        raise self.undeclared(tree.pos, tree.name, f"'{tree.name}' is not declared{nearest(tree.name, self.scope.visible())}")

    def _above(self, name: str) -> tuple[object, list[ast.Expr]] | None:
        """A task, function or named block of a module above: for those the search goes on beyond the module (12.7)."""
        level, here = 0, self.itself
        while here.parent is not None:
            level, outer = level + 1, here.parent
            found = outer.find_or_announce(name, here.parent_scope or outer.root)
            if isinstance(found, (SubDecl, BlockName)):
                return self._descend(found, name, [], ("^",) * level, outer)
            here = outer
        return None

    def find_or_announce(self, name: str, scope: Scope) -> object | None:
        """What a name stands for in a scope of this module; a named block may stand in a procedure that is not elaborated yet."""
        found = scope.find(name)
        if found is None and self.announce_blocks():
            found = scope.find(name)
        return found[0] if found is not None else None

    def _named_top(self, name: str) -> UnitElaborator | None:
        """A module that nothing instantiates is at the top too (1364-2005 12.1.1): it is there as soon as it is named."""
        context = self.context
        made = context.tops.get(name)
        module = context.modules.get(name) if made is None else None
        if module is not None and not module.interface and name not in context.instantiated():
            from mevrik.lang.verilog.elaborate.unit import UnitElaborator

            made = context.tops[name] = UnitElaborator(context, module, name, {}, Overrides(), None, None)
            made.declare_all()
        return made

    def _from_root(self, tree: ast.Name, steps: list[ast.Expr]) -> tuple[object, list[ast.Expr]]:
        """A path that begins at the top of the hierarchy (IEEE 1800-2017 23.3.1)."""
        path: tuple[str, ...] = ()
        top = self.itself
        while top.parent is not None:
            path, top = (*path, "^"), top.parent
        first = steps[0]
        assert isinstance(first, ast.Member)
        other = self._named_top(first.name) if first.name != top.module.name else None
        if other is not None:
            return self._descend(other.root, first.name, steps[1:], (f"/{first.name}",), other)
        if first.name != top.module.name:
            raise self.error(first.pos, f"the top is '{top.module.name}', there is no '{first.name}'", "unknown-name")
        return self._descend(top.root, first.name, steps[1:], path, top)

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

    # ---- virtual interfaces (IEEE 1800-2017 25.9) ----

    def prototype(self, tree: ast.DataType) -> UnitElaborator:
        """The interface with the parameters that a virtual one names, elaborated for what can be named in it."""
        from mevrik.lang.verilog.elaborate.instances import given_parameters, unit_key
        from mevrik.lang.verilog.elaborate.unit import UnitElaborator

        module = self.context.modules.get(tree.name)
        if module is None or not module.interface:
            known = [m.name for m in self.context.modules.values() if m.interface]
            raise self.error(tree.pos, f"there is no interface '{tree.name}'{nearest(tree.name, known)}", "unknown-name")
        values = [
            ast.Connection(value.pos, name, ast.TypeExpr(value.pos, value) if isinstance(value, ast.DataType) else value)
            for name, value in tree.args
        ]
        given = given_parameters(self.itself, ast.Instance(tree.pos, tree.name, "", values, [], []), module)
        key = f"virtual {unit_key(tree.name, given, Overrides())}"
        made = self.context.prototypes.get(key)
        if made is None:
            made = UnitElaborator(self.context, module, key, given, Overrides(), None, None)
            self.context.prototypes[key] = made
            made.declare_all()
            self.context.prototypes[made.unit.form] = made
        return made

    def through_link(self, link: n.Expr, name: str, pos: int) -> object:
        """What a virtual interface has by that name: a signal, or a subprogram."""
        t = link.type
        assert isinstance(t, Link)
        home = self.context.prototypes[t.name]
        found = home.root.names.get(name)

        def linked(signal: Signal) -> Signal:
            made = replace(signal, target=signal, via=link, number=-1, sample_of=None)
            self.shapes[made] = home.shape_of_signal(signal)
            return made

        if isinstance(found, ClockingName):
            return moved(found, linked)
        if isinstance(found, Signal):
            return linked(found)
        if isinstance(found, SubDecl):
            home.subprogram(found)
            return found
        hint = nearest(name, home.root.names)
        raise self.error(pos, f"the interface '{t.name}' has nothing called '{name}'{hint}", "unknown-name")

    def link_type(self, home: UnitElaborator) -> Link:
        """What an instance of an interface is as a value."""
        self.context.prototypes.setdefault(home.unit.form, home)
        return Link(64, False, False, home.unit.form)

    def link_to(self, e: ast.Expr) -> n.Expr | None:
        """An instance of an interface as a value; None if the expression names none."""
        if isinstance(e, ast.Member):  # bus.modport
            outer = self.entity_of(e.base)
            if isinstance(outer, InstanceName) and outer.elaborator.module.interface and e.name not in outer.elaborator.root.names:
                e = e.base
        entity = self.entity_of(e)
        if isinstance(entity, InstanceName) and entity.elaborator.module.interface:
            return n.InstanceLink(self.link_type(entity.elaborator), (entity.name,))
        if isinstance(entity, InterfacePort):
            return n.InstanceLink(self.link_type(entity.home), entity.path)
        return None

    # ---- packages (IEEE 1800-2017 clause 26) ----

    def package(self, name: str, pos: int) -> UnitElaborator:
        """The elaborated package, made at its first use."""
        made = self.context.package_units.get(name)
        if made is None:
            tree = self.context.packages.get(name)
            if tree is None:
                hint = nearest(name, self.context.packages)
                self.root.lost.add(name)
                raise self.error(pos, f"there is no package '{name}'{hint}", "unknown-package")
            from mevrik.lang.verilog.elaborate.unit import UnitElaborator

            made = UnitElaborator(self.context, tree, name, {}, Overrides(), None, None)
            self.context.package_units[name] = made
            made.run()
        return made

    def package_scope(self, name: str, pos: int) -> Scope:
        home = self.package(name, pos)
        return RemoteScope(name, f"{name}::", None, inner=home.root, path=("/" + name,), home=home, elab=self.itself)

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
            scope.lost.update(hint.split("'")[1:2])  # what was meant is used somewhere
            message = f"the package '{item.package}' has nothing called '{item.name}'{hint}"
            raise self.error_of(item.name, item.pos, message, "unknown-name", everywhere=True)
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
        if self.module.name == "std":
            return None
        if "std" in self.context.packages:  # the built-in package is visible everywhere (26.7)
            found = self.package_scope("std", 0).find(name)
            if found is not None:
                return found[0]
        if UNIT_SCOPE in self.context.packages and self.module.name != UNIT_SCOPE:
            found = self.package_scope(UNIT_SCOPE, 0).find(name)
            return found[0] if found is not None else None
        return None


def _inside(entity: object, path: tuple[str, ...]) -> object:
    """An instance, or an array of them, inside of another one."""
    if isinstance(entity, dict):
        return {k: _inside(each, path) for k, each in entity.items()}
    if isinstance(entity, InstanceName) and entity.elaborator.module.interface:
        return InterfacePort((*path, entity.name), entity.elaborator)
    if isinstance(entity, InstanceName):
        return InstanceName("|".join((*path, entity.name)), entity.unit, entity.elaborator)
    return entity


def _not_there(of: str, name: str, inside: Scope, home: UnitElaborator) -> str:
    message = f"'{of}' has nothing called '{name}'{nearest(name, inside.names)}"
    if home.context.diagnostics.sources.place(home.module.pos).file.endswith((".vhd", ".vhdl")):
        message += f"; of the VHDL entity '{home.module.name}' a module sees the ports only (docs/languages.md)"
    return message
