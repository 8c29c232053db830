"""Designs in both languages: either instantiates the other, the other one's units found by name. docs/languages.md has the table.

An entity that a module instantiates appears to the Verilog elaborator as a module with the same ports and nothing in it (a *shell*);
a module that an architecture instantiates is elaborated as a unit of its own. What is connected is joined by bridges, which the kernel
carries over: into VHDL with the next update of signals, out of it with the update itself.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import Vec
from mevrik.design.unit import Design, InstanceDecl, Site, Unit
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.source import SourceMap
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate import elaborate
from mevrik.lang.verilog.library import Library
from mevrik.lang.verilog.parser import parse
from mevrik.lang.verilog.preprocess import Preprocessor
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.instances import number
from mevrik.lang.vhdl.elaborate.library import Library as VhdlLibrary
from mevrik.lang.vhdl.elaborate.outline import unit_of
from mevrik.lang.vhdl.elaborate.scope import Quiet
from mevrik.lang.vhdl.elaborate.whole import elaborator_of

FINEST = -15  # the tick of VHDL: a femtosecond

_SCALARS = {"std_logic", "std_ulogic", "bit", "boolean"}
_VECTORS = {"std_logic_vector", "std_ulogic_vector", "bit_vector", "unsigned", "signed", "u_unsigned", "u_signed"}
_NUMBERS = {"integer", "natural", "positive"}


class _Foreign(Exception):
    """A port that has no counterpart in the other language."""


def _text(e: a.Expr) -> str:
    """A bound or default as Verilog writes it."""
    match e:
        case a.Number(value=value) if isinstance(value, int):
            return str(value)
        case a.Name():
            return e.text
        case a.Binary(op=op) if op in ("+", "-", "*", "/", "**"):
            return f"({_text(e.a)} {op} {_text(e.b)})"
        case a.Unary(op=op) if op in ("+", "-"):
            return f"({op}{_text(e.a)})"
    raise _Foreign("a bound that is more than arithmetic on generics")


def _mark(s: a.SubtypeInd) -> str:
    return s.mark.id if isinstance(s.mark, (a.Name, a.Select)) else ""


_PORTS = {"in": "input wire", "inout": "inout wire"}


def joint_text(name: str, shape: str) -> str:
    """What drives a net for the other side of an inout port: `1` and `0` of VHDL as strong levels, `H` and `L` as a pull."""
    regs = f"reg {shape} \\{name}.strong ; reg {shape} \\{name}.weak ;\n"
    return regs + f"assign \\{name} = \\{name}.strong ; assign (pull1, pull0) \\{name} = \\{name}.weak ;\n"


def shell_text(unit: a.Entity) -> str:
    """An empty module with the ports of an entity. Raises _Foreign."""
    params: list[str] = []
    for d in unit.generics:
        if not isinstance(d, a.ObjectDecl) or d.subtype is None or _mark(d.subtype) not in _NUMBERS:
            raise _Foreign("a generic that is no integer")
        for _, text, _ in d.names:
            params.append(f"parameter {text} = {_text(d.init) if d.init is not None else 0}")
    ports: list[str] = []
    body = ""
    for d in unit.ports:
        assert d.subtype is not None
        mark = _mark(d.subtype)
        if mark in _SCALARS:
            shape = ""
        elif mark in _VECTORS and isinstance(d.subtype.constraint, list) and isinstance(d.subtype.constraint[0].value, a.Range):
            bounds = d.subtype.constraint[0].value
            sign = "signed " if mark == "signed" else ""
            shape = f"{sign}[{_text(bounds.left)}:{_text(bounds.right)}]"
        elif mark in _NUMBERS:
            shape = "signed [31:0]"
        else:
            raise _Foreign(f"a port of type {mark or 'unknown'}")
        if d.mode not in ("in", "out", "buffer", "inout"):
            raise _Foreign(f"a port of mode {d.mode}")
        for _, text, _ in d.names:
            ports.append(f"{_PORTS.get(d.mode, 'output reg')} {shape} {text}")
            body += joint_text(text, shape) if d.mode == "inout" else ""
    header = f" #({', '.join(params)})" if params else ""
    return f"module {unit.text}{header} ({', '.join(ports)});\n{body}endmodule\n"


def add_shells(library: Library, units: VhdlLibrary, sources: SourceMap, used: set[str]) -> dict[str, str]:
    """Make the entities that modules instantiate known to the Verilog library; gives the entity by the name of its shell."""
    shells: dict[str, str] = {}
    for name, unit in units.entities.items():
        if unit.text in library.modules or unit.text not in used:
            continue
        quiet = Diagnostics(sources)
        try:
            text = shell_text(unit)
        except _Foreign:
            continue
        source = sources.add(f"<{unit.text}>", text)
        parsed = parse(Preprocessor(sources, quiet, [], {}).run(source, False), quiet, {})
        for module in parsed.modules:
            module.pos = unit.pos
            library.modules[unit.text] = module
            shells[unit.text] = name
    return shells


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
    shells = add_shells(library, units, sources, library.instantiated())
    sites = [Site(0, 0, "")]
    design = elaborate(library, diagnostics, top, parameters, sites, FINEST if shells else None)
    if design is None or not shells:
        return design
    elaborator = elaborator_of(units, sources, diagnostics, sites, verilog_of(library, diagnostics, sites))
    for decl in design.tops:
        for path, here in _instances(decl, decl.name):
            if here.unit.name in shells:
                _embed(elaborator, units.entities[shells[here.unit.name]], path, here.unit, design)
    elaborator.finish()
    elaborator.check_drivers()
    if diagnostics.failed:
        return None
    model = elaborator.model()
    design.typed = model
    design.units += elaborator.other_units
    for embedded in model.tops:
        parent = embedded.path.rsplit(".", 1)[0]
        design.inside.setdefault(parent, []).append(InstanceDecl(embedded.name, unit_of(embedded, design.units), embedded.pos))
    return design


def _embed(elaborator: Any, unit: a.Entity, path: str, shell: Unit, design: Design) -> None:
    """An entity behind a shell, and the bridges of its ports."""
    generics = [
        a.Assoc(unit.pos, [a.Name(unit.pos, name.lower(), name)], number(value, unit.pos))
        for name, value in shell.parameters.items()
        if isinstance(value, n.Const)
    ]
    _hide_joints(shell)
    choices = elaborator.library_units.architectures.get(unit.id, [])
    label = choices[-1].text if choices else unit.text
    elaborator.path = path
    with elaborator.careful():
        here = elaborator.entity(unit, "", generics, None, label, unit.pos, None, None)
        for o in here.ports:
            signal = next((s for s in shell.ports if s.name.lower() == o.name), None)
            if signal is not None:
                elaborator.bridge(o, path, signal.name, "out" if o.mode == "buffer" else o.mode)
    elaborator.path = ""


def _with_joints(module: ast.Module, unit: Unit, diagnostics: Diagnostics) -> ast.Module:
    """A module whose inout ports are also driven from the other language."""
    text = f"module {module.name};\n"
    for port in unit.ports:
        if port.port == "inout":
            text += joint_text(
                port.name, f"[{port.type.width - 1}:0]" if isinstance(port.type, Vec) and port.type.width > 1 else ""
            )
    source = diagnostics.sources.add(f"<{module.name}>", text + "endmodule\n")
    parsed = parse(Preprocessor(diagnostics.sources, diagnostics, [], {}).run(source, False), diagnostics, {})
    return replace(module, items=[*module.items, *parsed.modules[0].items])


def _hide_joints(unit: Unit) -> None:
    ours = {f"{port.name}.{part}" for port in unit.ports if port.port == "inout" for part in ("strong", "weak")}
    for signal in unit.signals:
        signal.implicit = signal.implicit or signal.name in ours


def verilog_of(library: Library, diagnostics: Diagnostics, sites: list[Site]) -> Any:
    """Gives the elaborator of VHDL a module as a unit: (name, parameters) → (its instance, all units, name as written), None
    if there is none. Raises Quiet for one with mistakes, which have been said."""
    made: dict[tuple[str, tuple[tuple[str, int], ...]], tuple[Unit, list[Unit], str] | None] = {}

    def find(name: str, parameters: dict[str, int]) -> tuple[Unit, list[Unit], str] | None:
        written = next((m for m in library.modules if m.lower() == name.lower()), None)
        if written is None:
            return None
        module = library.modules[written]
        spelled = {d.name.lower(): d.name for p in module.params for d in p.names}
        given = {spelled.get(k.lower(), k): v for k, v in parameters.items()}
        key = (written, tuple(sorted(given.items())))
        if key not in made:
            alone = Diagnostics(diagnostics.sources)  # what went wrong elsewhere is no reason to stop here
            design = elaborate(library, alone, written, given, sites, FINEST)
            if design is not None and any(p.port == "inout" for p in design.tops[-1].unit.ports):
                library.modules[written] = _with_joints(module, design.tops[-1].unit, alone)
                try:
                    design = elaborate(library, alone, written, given, sites, FINEST)
                finally:
                    library.modules[written] = module
            if design is not None:
                _hide_joints(design.tops[-1].unit)
            diagnostics.take(alone)
            made[key] = (design.tops[-1].unit, design.units, written) if design is not None else None
        found = made[key]
        if found is None:
            raise Quiet
        return found

    return find
