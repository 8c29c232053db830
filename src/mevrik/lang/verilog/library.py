"""The modules, primitives and packages of all files. It loads nothing that reads Verilog: a design without any has an empty one."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design.record import Value, field, replace
from mevrik.lang.diagnostics import Diagnostics

if TYPE_CHECKING:
    from mevrik.lang.verilog import ast

UNIT_SCOPE = "$unit"


class Library(Value):
    """All modules and primitives of the files given, by name."""

    modules: dict[str, ast.Module] = field(default_factory=dict)
    primitives: dict[str, ast.Primitive] = field(default_factory=dict)
    packages: dict[str, ast.Module] = field(default_factory=dict)
    binds: list[tuple[ast.Bind, bool]] = field(default_factory=list)  # with whether it stands in a module
    instance_binds: list[ast.Bind] = field(default_factory=list)
    delay_files: set[str] = field(default_factory=set)
    _places: dict[tuple[str, int, int], int] = field(default_factory=dict)  # where units and outer items stand
    setters: dict[str, list[str]] = field(default_factory=dict)  # by the name that defparams begin with, the modules they stand in

    def add(self, unit: ast.SourceUnit, diagnostics: Diagnostics) -> None:
        from mevrik.lang.verilog import ast

        unit.modules = [m for m in unit.modules if self._is_new(m.pos, diagnostics)]
        unit.packages = [p for p in unit.packages if self._is_new(p.pos, diagnostics)]
        unit.primitives = [p for p in unit.primitives if self._is_new(p.pos, diagnostics)]
        unit.items = [i for i in unit.items if self._is_new(i.pos, diagnostics)]
        for module in unit.modules:
            self._check(module, diagnostics)
            self.modules[module.name] = module
            for root in defparam_roots(module.items):
                self.setters.setdefault(root, []).append(module.name)
        self.delay_files |= set(unit.annotated)
        self.binds += [(b, False) for b in unit.binds]
        self.binds += [(i, True) for m in unit.modules for i in m.items if isinstance(i, ast.Bind)]
        for package in unit.packages:
            old = self.packages.get(package.name)
            if old is not None:
                line = diagnostics.sources.place(old.pos).line
                diagnostics.error(package.pos, f"the package '{package.name}' is already declared in line {line}", "declared-twice")
            self.packages[package.name] = package
        if unit.items:  # what stands outside all modules is visible everywhere (IEEE 1800-2017 3.12.1)
            outside = self.packages.setdefault(UNIT_SCOPE, ast.Module(unit.items[0].pos, UNIT_SCOPE, [], [], True, [], sv=True))
            outside.items.extend(unit.items)
        for primitive in unit.primitives:
            self._check(primitive, diagnostics)
            self.primitives[primitive.name] = primitive

    def _is_new(self, pos: int, diagnostics: Diagnostics) -> bool:
        """False for what stands in a file that several others include, from the second time on."""
        place = diagnostics.sources.place(pos)
        return self._places.setdefault((place.file, place.line, place.column), pos) == pos

    def _check(self, unit: ast.Module | ast.Primitive, diagnostics: Diagnostics) -> None:
        old = self.modules.get(unit.name) or self.primitives.get(unit.name)
        if old is not None:
            place = diagnostics.sources.place(old.pos)
            diagnostics.error(unit.pos, f"'{unit.name}' is already declared in {place.file}, line {place.line}", "declared-twice")

    def apply_binds(self) -> None:
        """Put what is bound to modules into them (IEEE 1800-2017 23.11); what is bound to single instances is found at these."""
        for bind, inside in self.binds:
            module = self.modules.get(bind.target[0])
            if module is not None and len(bind.target) == 1 and not bind.instances:
                self.modules[bind.target[0]] = replace(module, items=[*module.items, *bind.items])
            elif not inside:  # in a module, the paths begin there, and it sees to them
                self.instance_binds.append(bind)
        self.binds = []

    def instantiated(self) -> set[str]:
        found: set[str] = set()
        for module in self.modules.values():
            found |= instances_in(module.items)
        for bind in (*(b for b, _ in self.binds), *self.instance_binds):
            found |= instances_in(bind.items)
        return found

    def tops(self) -> list[str]:
        """What could be the top: modules that nothing instantiates; unused cells of a library and modules that are only named in
        paths come into question where there is nothing else."""
        used = self.instantiated()
        found = [name for name, module in self.modules.items() if name not in used and not module.interface]
        if len(found) < 2:
            return found
        beside = self.beside()
        return [name for name in found if not self.modules[name].cell and name not in beside] or found

    def beside(self) -> set[str]:
        """Modules without ports and instances that others name in paths, for what they hold belongs to all, as a global reset; and those
        whose defparams set what others are made of."""
        used = self.instantiated()
        candidates = {name for name, m in self.modules.items() if name not in used and not m.ports and not instances_in(m.items)}
        if not candidates:
            return candidates
        found: set[str] = set()
        for name, module in self.modules.items():
            others = candidates - {name}
            if others:
                found |= first_steps(module.items) & others
        setting = {name for root, names in self.setters.items() if root in self.modules for name in names if name != root}
        return found | candidates & setting


def defparam_roots(items: list[ast.Item]) -> set[str]:
    """The names that the defparams of a module begin with."""
    from mevrik.lang.verilog import ast

    found = set()
    for item in items:
        if isinstance(item, ast.Defparam):
            e = item.target
            while isinstance(e, (ast.Member, ast.Index)):
                e = e.base
            if isinstance(e, ast.Name):
                found.add(e.name)
    return found


def first_steps(tree: object) -> set[str]:
    """The names that paths and selections of members begin with."""
    from mevrik.lang.verilog import ast

    members = (x for x in ast.within(tree) if isinstance(x, ast.Member))
    return {x.base.name for x in members if isinstance(x.base, ast.Name)}


def instances_in(items: list[ast.Item]) -> set[str]:
    """The names of what the items of a module instantiate."""
    from mevrik.lang.verilog import ast

    found: set[str] = set()
    for item in items:
        match item:
            case ast.Instance(module=module):
                found.add(module)
            case ast.GenBlock(items=inner):
                found |= instances_in(inner)
            case ast.GenFor(body=body):
                found |= instances_in(body.items)
            case ast.GenIf(then=then, other=other):
                for block in (then, other):
                    if block is not None:
                        found |= instances_in(block.items)
            case ast.GenCase(arms=arms):
                for _, block in arms:
                    if block is not None:
                        found |= instances_in(block.items)
    return found
