"""From files to libraries of design units, in any order. What reads a language is only imported where there is some of it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from mevrik.design.record import Value, field
from mevrik.design.unit import Design, Site
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.findings import look
from mevrik.lang.source import SourceError, SourceMap, read_text
from mevrik.lang.verilog.library import Library, instances_in

if TYPE_CHECKING:
    from mevrik.lang.verilog.read import Reader
    from mevrik.lang.vhdl.elaborate.library import Library as VhdlLibrary

VERILOG = {".v": False, ".vh": False, ".sv": True, ".svh": True}
SOURCE_SUFFIXES = (".v", ".sv", ".vhd", ".vhdl")
VHDL = (".vhd", ".vhdl")
_INCLUDE = re.compile(r'`include[ \t]*"([^"\n]+)"')


class Options(Value):
    """How to read sources: folders for `include, macros, and overriding text for files that are open in an editor."""

    include_dirs: list[Path] = field(default_factory=list)
    defines: dict[str, str] = field(default_factory=dict)
    standard: str = ""  # "1364-2005" or "1800-2017" for every file; "" decides by the suffix


class Analysis(Value):
    """What the files hold. `library` has all modules even after errors in some of them."""

    sources: SourceMap
    diagnostics: Diagnostics
    library: Library
    files: list[Path]
    included: list[Path] = field(default_factory=list)
    units: VhdlLibrary | None = None  # what is written in VHDL

    def tops(self) -> list[str]:
        """What could be the top: what nothing instantiates, those that look like testbenches first."""
        if self.units is None:
            return self.library.tops()
        from mevrik.lang.vhdl.elaborate.whole import instantiated_entities, vhdl_tops

        modules = {name.lower() for name in self.library.instantiated()}
        entities = instantiated_entities(self.units)
        return [
            *(x for x in self.library.tops() if x.lower() not in entities),
            *(self.units.entities[x].text for x in vhdl_tops(self.units) if x not in modules),
        ]

    def unit_names(self) -> list[str]:
        """Modules and entities, as written."""
        entities = self.units.entities.values() if self.units is not None else ()
        return [*self.library.modules, *(e.text for e in entities)]

    @property
    def shared(self) -> bool:
        """Whether there is something in it that others see without an instance: packages, outer declarations, bindings."""
        return bool(self.library.packages or self.library.binds)

    def bound_to(self) -> list[str]:
        """The modules that something is bound to."""
        return [bind.target[0] for bind, _ in self.library.binds if len(bind.target) == 1]

    def is_interface(self, name: str) -> bool:
        module = self.library.modules.get(name)
        return module is not None and module.interface

    def needs_interfaces(self, name: str) -> bool:
        """Whether a module has interfaces among its ports, so that it can't stand alone."""
        module = self.library.modules.get(name)
        types = (getattr(p, "type", None) for p in module.ports) if module is not None else ()
        return any(t is not None and (t.keyword == "interface" or self.is_interface(t.name)) for t in types)

    def has(self, name: str) -> bool:
        """Whether there is a module or an entity of that name."""
        return name in self.library.modules or (self.units is not None and name.lower() in self.units.entities)

    def has_ports(self, name: str) -> bool:
        """Whether a module or entity has ports."""
        if name in self.library.modules:
            return bool(self.library.modules[name].ports)
        entity = self.units.entities.get(name.lower()) if self.units is not None else None
        return entity is not None and bool(entity.ports)

    def instantiated_by(self, name: str) -> list[str]:
        """The modules and entities that one instantiates, in the order of their declaration."""
        used: set[str] = set()
        if name in self.library.modules:
            used = {x.lower() for x in instances_in(self.library.modules[name].items)}
        elif self.units is not None:
            from mevrik.lang.vhdl.elaborate.whole import entities_in

            used = entities_in(self.units, name.lower())
        return [x for x in self.unit_names() if x.lower() in used]

    def elaborate(self, top: str | None = None, parameters: Mapping[str, int | str] | None = None) -> Design | None:
        """The design below `top`; None after errors, which are in `diagnostics`."""
        if self.diagnostics.failed:
            return None
        if self.units is not None and not self.units.empty:
            return self._elaborate_mixed(self.units, top, parameters)
        from mevrik.lang.verilog.elaborate import elaborate

        design = elaborate(self.library, self.diagnostics, top, parameters)
        if design is not None:
            look(design, self.diagnostics)
        return None if self.diagnostics.failed else design

    def _elaborate_mixed(self, units: VhdlLibrary, top: str | None, parameters: Mapping[str, int | str] | None) -> Design | None:
        """VHDL, alone or with Verilog."""
        from mevrik.lang.vhdl.elaborate.whole import elaborate_vhdl

        if top is None and self.library.modules:
            tops = self.tops()
            benches = [x for x in tops if not self.has_ports(x)]
            choices = benches or tops
            if len(choices) > 1:
                names = ", ".join(f"'{c}'" for c in choices)
                self.diagnostics.error(0, f"several units could be the top: {names}; --top names one", "several-tops")
                return None
            top = choices[0] if choices else None
        if top is not None and top in self.library.modules:
            from mevrik.lang.mixed import elaborate_mixed_from_verilog

            design = elaborate_mixed_from_verilog(self.library, units, self.sources, self.diagnostics, top, parameters)
            if design is not None:
                look(design, self.diagnostics)
            return None if self.diagnostics.failed else design
        sites = [Site(0, 0, "")]
        verilog = None
        if self.library.modules:
            from mevrik.lang.mixed import Modules

            verilog = Modules(self.library, units, self.diagnostics, sites)
        design = elaborate_vhdl(units, self.sources, self.diagnostics, top, parameters, sites, verilog)
        if design is not None:
            look(design, self.diagnostics)
        return None if self.diagnostics.failed else design


def analyse(files: Iterable[Path], options: Options | None = None, reader: Callable[[Path], str] = read_text) -> Analysis:
    """Read and parse `files`. A file that can't be read is an error diagnostic like any other; nothing is raised."""
    options = options or Options()
    sources = SourceMap()
    diagnostics = Diagnostics(sources)
    library = Library()
    paths = list(files)
    units = _vhdl_library() if any(p.suffix.lower() in VHDL for p in paths) else None
    verilog: Reader | None = None
    texts: dict[Path, str] = {}
    fragments = _included_by_others(paths, options, reader, texts)
    queue, later = list(paths), set[Path]()
    for path in queue:
        try:
            text = texts[path] if path in texts else reader(path)
        except SourceError as error:
            blank = sources.add(error.file, "")
            diagnostics.error(blank.base, error.message, "file")
            continue
        sources.align()
        source = sources.add(str(path), text)
        if units is not None and path.suffix.lower() in VHDL:
            try:
                units.read(source, diagnostics)
            except RecursionError:
                diagnostics.error(source.base, "an expression or a block in this file is nested too deeply", "too-deep")
            continue
        sv = VERILOG.get(path.suffix.lower())
        if options.standard:
            sv = options.standard.startswith("1800")
        if sv is None:
            kinds = ", ".join(SOURCE_SUFFIXES)
            diagnostics.error(source.base, f"the suffix '{path.suffix}' names no language; sources end in {kinds}", "file")
            continue
        if verilog is None:
            verilog = _verilog_reader(library, sources, diagnostics, options, reader)
        if path in later and path.resolve() in {p.resolve() for p in verilog.included}:
            continue
        if path in fragments and path not in later and verilog.is_fragment(source, sv):
            later.add(path)  # read by itself only if nobody came to include it
            queue.append(path)
            continue
        try:
            verilog.read(source, sv)
        except RecursionError:
            diagnostics.error(source.base, "an expression or a block in this file is nested too deeply", "too-deep")
    if verilog is not None:
        verilog.add_built_in()
    return Analysis(sources, diagnostics, library, paths, verilog.included if verilog is not None else [], units)


def _included_by_others(paths: list[Path], options: Options, reader: Callable[[Path], str], texts: dict[Path, str]) -> set[Path]:
    """Those of the files that others of them name in an `include; their texts are kept in `texts`."""
    verilog = [p for p in paths if p.suffix.lower() in VERILOG]
    by_real = {p.resolve(): p for p in verilog} if len(verilog) > 1 else {}
    found: set[Path] = set()
    for path in verilog if by_real else ():
        try:
            texts[path] = reader(path)
        except SourceError:
            continue
        for name in _INCLUDE.findall(texts[path]) if "`include" in texts[path] else ():
            for folder in (path.parent, *options.include_dirs):
                there = (folder / name).resolve()
                if there in by_real and by_real[there] != path:
                    found.add(by_real[there])
                    break
    return found


def _verilog_reader(
    library: Library, sources: SourceMap, diagnostics: Diagnostics, options: Options, reader: Callable[[Path], str]
) -> Reader:
    from mevrik.lang.verilog.read import Reader

    return Reader(library, sources, diagnostics, options.include_dirs, options.defines, reader)


def _vhdl_library() -> VhdlLibrary:
    from mevrik.lang.vhdl.elaborate.library import Library

    return Library()
