"""A whole design from VHDL: the choice of the top, then everything below it; and what no top reaches is looked at too."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from mevrik.design import typed as t
from mevrik.design.unit import Design, Site
from mevrik.lang.diagnostics import Diagnostics, nearest
from mevrik.lang.source import SourceMap
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.design import Elaborator
from mevrik.lang.vhdl.elaborate.instances import bare_instance
from mevrik.lang.vhdl.elaborate.library import Library
from mevrik.lang.vhdl.elaborate.outline import design_of
from mevrik.lang.vhdl.elaborate.scope import Quiet, Wrong


def _instances(body: list[a.Concurrent], found: set[str]) -> None:
    for s in body:
        s = bare_instance(s) or s
        if isinstance(s, a.Instance):
            unit = s.unit
            if isinstance(unit, (a.Name, a.Select)):
                found.add(unit.id)
        elif isinstance(s, a.Generate):
            for branch in s.branches:
                _instances(branch.body, found)
        elif isinstance(s, a.Block):
            _instances(s.body, found)


def vhdl_tops(library: Library) -> list[str]:
    """Entities that nothing instantiates."""
    used = instantiated_entities(library)
    return [name for name in library.entities if name not in used]


def entities_in(library: Library, entity: str) -> set[str]:
    """What the architectures of an entity instantiate, by name."""
    used: set[str] = set()
    for x in library.architectures.get(entity, ()):
        _instances(x.body, used)
        for d in x.decls:
            if isinstance(d, a.ConfigSpec) and d.binding is not None and isinstance(d.binding.unit, (a.Name, a.Select)):
                used.add(d.binding.unit.id)
    return used


def instantiated_entities(library: Library) -> set[str]:
    """What the architectures instantiate, by name."""
    used: set[str] = set()
    for name in library.architectures:
        used |= entities_in(library, name)
    for config in library.configurations.values():
        _configured(config.block, used)
    return used


def _configured(block: a.BlockConfig, used: set[str]) -> None:
    for item in block.items:
        if isinstance(item, a.ConfigSpec):
            if item.binding is not None and isinstance(item.binding.unit, (a.Name, a.Select)):
                used.add(item.binding.unit.id)
            if item.inner is not None:
                _configured(item.inner, used)
        elif isinstance(item, a.BlockConfig):
            _configured(item, used)


def _choose(library: Library, diagnostics: Diagnostics) -> str | None:
    tops = vhdl_tops(library)
    if not tops:
        if library.entities:
            first = next(iter(library.entities.values()))
            diagnostics.error(first.pos, "every entity is instantiated by another, so there is no top; --top names one", "no-top")
        return None
    benches = [x for x in tops if not library.entities[x].ports]
    choices = benches or tops
    if len(choices) > 1:
        names = ", ".join(f"'{library.entities[x].text}'" for x in choices)
        diagnostics.error(
            library.entities[choices[0]].pos, f"several entities could be the top: {names}; --top names one", "several-tops"
        )
        return None
    return choices[0]


def elaborator_of(
    library: Library, sources: SourceMap, diagnostics: Diagnostics, sites: list[Site] | None = None, verilog: Any = None
) -> Elaborator:
    """An elaborator that evaluates what it has to know by running it. `verilog` has the modules (lang/mixed.py)."""
    from mevrik.engine.layout import Unsupported
    from mevrik.engine.typed.evaluate import Failed, Unsound, evaluate

    made: list[Elaborator] = []

    def value(constants: list[t.Object], e: t.Expr) -> Any:
        try:
            return evaluate(made[0].std, made[0].shared.size, constants, e, lambda: not diagnostics.failed)
        except Unsound:
            raise Quiet from None
        except Failed as failed:
            raise Wrong(e.pos, str(failed), "evaluation") from None
        except Unsupported as missing:
            raise Wrong(e.pos, str(missing), "unsupported") from None

    elaborator = Elaborator(library, sources, diagnostics, value)
    if sites is not None:
        elaborator.shared.sites = sites
    elaborator.verilog = verilog
    if verilog is not None:
        verilog.attach(elaborator)
    made.append(elaborator)
    return elaborator


def elaborate_vhdl(
    library: Library,
    sources: SourceMap,
    diagnostics: Diagnostics,
    top: str | None,
    parameters: Mapping[str, int | str] | None,
    sites: list[Site] | None = None,
    verilog: Any = None,
) -> Design | None:
    """The design below `top`; None after errors."""
    for body in (b for bodies in library.architectures.values() for b in bodies if b.entity not in library.entities):
        hint = nearest(body.entity, list(library.entities))
        message = f"architecture '{body.text}' is of an entity '{body.entity}' that is not in these files{hint}"
        diagnostics.error(body.pos, message, "unknown-entity")
    for config in library.configurations.values():
        word = config.entity.id if isinstance(config.entity, (a.Name, a.Select)) else ""
        if word and word not in library.entities:
            hint = nearest(word, list(library.entities))
            message = f"configuration '{config.text}' is of an entity '{word}' that is not in these files{hint}"
            diagnostics.error(config.entity.pos, message, "unknown-entity")
    if diagnostics.failed:
        return None
    name = top.lower() if top is not None else _choose(library, diagnostics)
    if not library.entities and not library.configurations:
        elaborator_of(library, sources, diagnostics).rest()
        if not diagnostics.failed:
            pos = next((u.pos for u in (*library.packages.values(), *library.bodies.values())), 0)
            diagnostics.error(pos, "there is no entity in these files, so there is nothing to start from", "no-top")
        return None
    if name is None:
        return None
    if name not in library.entities and name not in library.configurations:
        known = [e.text for e in library.entities.values()]
        pos = next((e.pos for e in library.entities.values()), 0)
        diagnostics.error(pos, f"there is no entity '{top}' to be the top{nearest(top or name, known)}", "unknown-entity")
        return None
    elaborator = elaborator_of(library, sources, diagnostics, sites, verilog)
    try:
        elaborator.top(name, parameters)
        if not diagnostics.failed:
            elaborator.check_drivers()
        if not diagnostics.failed:
            elaborator.rest()
    except RecursionError:
        diagnostics.error(1, "an expression or a hierarchy is nested too deeply", "too-deep")
    if diagnostics.failed:
        return None
    design = design_of(elaborator.model(), elaborator.shared.sites)
    design.texts = tuple(verilog.texts) if verilog is not None else ()
    design.units += elaborator.other_units
    return design
