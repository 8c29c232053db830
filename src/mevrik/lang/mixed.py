"""Designs in both languages: either instantiates the other, the other one's units found by name. docs/languages.md has the table.

An entity that a module instantiates appears to the Verilog elaborator as a module with the same ports and nothing in it (`shells.py`);
a module that an architecture instantiates is elaborated as a unit of its own. What is connected is joined by bridges, which the kernel
carries over: into VHDL with the next update of signals, out of it with the update itself.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from mevrik.design.record import replace
from mevrik.design.types import Vec
from mevrik.design.unit import Design, InstanceDecl, Site, Unit
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.shells import Shells, joint_text, module_of
from mevrik.lang.source import SourceMap
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate import elaborate
from mevrik.lang.verilog.library import Library
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.library import Library as VhdlLibrary
from mevrik.lang.vhdl.elaborate.outline import place_embedded
from mevrik.lang.vhdl.elaborate.scope import Quiet
from mevrik.lang.vhdl.elaborate.whole import elaborator_of

Parameter = int | float | bytes
FINEST = -15  # the tick of VHDL: a femtosecond


def _instances(decl: InstanceDecl, path: str) -> Iterator[tuple[str, InstanceDecl]]:
    yield path, decl
    for child in decl.unit.instances:
        yield from _instances(child, f"{path}.{child.name}")


def elaborate_mixed_from_verilog(
    library: Library,
    units: VhdlLibrary,
    sources: SourceMap,
    diagnostics: Diagnostics,
    top: str,
    parameters: Mapping[str, int | str] | None,
) -> Design | None:
    """A design whose top is a module and that instantiates entities."""
    if not any(x.lower() in units.entities for x in library.instantiated() - library.modules.keys()):
        return elaborate(library, diagnostics, top, parameters)
    sites = [Site(0, 0, "")]
    modules = Modules(library, units, diagnostics, sites)
    elaborator = elaborator_of(units, sources, diagnostics, sites, modules)
    design = elaborate(library, diagnostics, top, parameters, sites, FINEST, modules.shells, modules.texts)
    if design is None:
        return None
    for decl in design.tops:
        modules.embed_below(elaborator, decl.name, decl.unit)
    elaborator.finish()
    elaborator.check_drivers()
    if diagnostics.failed:
        return None
    design.typed = elaborator.model()
    design.texts = tuple(modules.texts)
    design.units += elaborator.other_units
    place_embedded(design, design.typed)
    return design


def _embed(elaborator: Any, unit: a.Entity, generics: list[a.Assoc], path: str, shell: Unit) -> None:
    """An entity behind a shell, and the bridges of its ports."""
    _hide_joints(shell)
    choices = elaborator.library_units.architectures.get(unit.id, [])
    label = choices[-1].text if choices else unit.text
    with elaborator.careful(), elaborator.inside(elaborator.logic_view(unit.pos), path=path, instance=None):
        here = elaborator.entity(unit, "", generics, None, label, unit.pos, None, None)
        for o in here.ports:
            signal = next((s for s in shell.ports if s.name.lower() == o.name), None)
            if signal is not None:
                elaborator.bridge(o, path, signal.name, "out" if o.mode == "buffer" else o.mode)


def _with_joints(module: ast.Module, unit: Unit, diagnostics: Diagnostics) -> ast.Module:
    """A module whose inout ports are also driven from the other language."""
    text = f"module {module.name};\n"
    for port in unit.ports:
        if port.port == "inout":
            text += joint_text(
                port.name, f"[{port.type.width - 1}:0]" if isinstance(port.type, Vec) and port.type.width > 1 else ""
            )
    return replace(module, items=[*module.items, *module_of(text + "endmodule\n", module.name, diagnostics).items])


def _hide_joints(unit: Unit) -> None:
    ours = {f"{port.name}.{part}" for port in unit.ports if port.port == "inout" for part in ("strong", "weak")}
    for signal in unit.signals:
        signal.implicit = signal.implicit or signal.name in ours


class Modules:
    """The modules of a design, for the elaborator of VHDL, which is attached when it is there."""

    def __init__(self, library: Library, units: VhdlLibrary, diagnostics: Diagnostics, sites: list[Site]) -> None:
        self.library, self.units, self.diagnostics, self.sites = library, units, diagnostics, sites
        self.texts: dict[bytes, int] = {}  # what stands in start values, all modules together
        self.shells: Shells | None = None
        self._made: dict[tuple[str, tuple[tuple[str, Parameter], ...]], tuple[Unit, list[Unit], str] | None] = {}

    def attach(self, elaborator: Any) -> None:
        self.shells = Shells(self.units, elaborator, self.diagnostics)

    def find(self, name: str, parameters: dict[str, Parameter]) -> tuple[Unit, list[Unit], str] | None:
        """A module as a unit: itself, all units below it, its name as written; None if there is none. Raises Quiet for one with
        mistakes, which have been said."""
        library = self.library
        written = next((m for m in library.modules if m.lower() == name.lower()), None)
        if written is None:
            return None
        module = library.modules[written]
        spelled = {d.name.lower(): d.name for p in module.params for d in p.names}
        given = {spelled.get(k.lower(), k): v for k, v in parameters.items()}
        key = (written, tuple(sorted(given.items())))
        if key not in self._made:
            alone = Diagnostics(self.diagnostics.sources)  # what went wrong elsewhere is no reason to stop here
            design = elaborate(library, alone, written, given, self.sites, FINEST, self.shells, self.texts)
            if design is not None and any(p.port == "inout" for p in design.top.unit.ports):
                library.modules[written] = _with_joints(module, design.top.unit, alone)
                try:
                    design = elaborate(library, alone, written, given, self.sites, FINEST, self.shells, self.texts)
                finally:
                    library.modules[written] = module
            if design is not None:
                _hide_joints(design.top.unit)
            self.diagnostics.take(alone)
            self._made[key] = (design.top.unit, design.units, written) if design is not None else None
        found = self._made[key]
        if found is None:
            raise Quiet
        return found

    def embed_below(self, elaborator: Any, path: str, unit: Unit) -> None:
        """The entities that a module and those below it instantiate."""
        assert self.shells is not None
        for where, here in _instances(InstanceDecl(path, unit, unit.pos), path):
            if here.unit.key in self.shells.made:
                _embed(elaborator, *self.shells.made[here.unit.key], where, here.unit)
