"""The design units of a set of files, by library (IEEE 1076-2008 clause 13). All files of the user are in one library, which every name
of a library that isn't ours stands for; ours (std, ieee) come as VHDL text that is read when it is used."""

from __future__ import annotations

from typing import Any

from mevrik.design.record import Value, field
from mevrik.lang import trees
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.source import SourceMap, SourceText
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.ours import OurPackage, read
from mevrik.lang.vhdl.parser import parse
from mevrik.lang.vhdl.tokens import tokenize

OURS = {
    "std": ("textio", "env"),
    "ieee": (
        "std_logic_1164", "numeric_std", "numeric_bit", "numeric_std_unsigned", "math_real", "std_logic_arith", "std_logic_unsigned",
        "std_logic_signed", "std_logic_textio", "std_logic_misc", "fixed_float_types", "fixed_pkg",
        "numeric_bit_unsigned",
    ),
}  # fmt: skip
LATER = (
    "float_pkg",
    "math_complex",
    "fixed_generic_pkg",
    "float_generic_pkg",
)
ADVICE = {
    "std_logic_arith": "it is no part of the standard, and its types unsigned and signed are not those of ieee.numeric_std; use ieee.numeric_std",
    "std_logic_unsigned": "it is no part of the standard; use ieee.numeric_std, or ieee.numeric_std_unsigned of 2008",
    "std_logic_signed": "it is no part of the standard; use ieee.numeric_std with type signed",
}


class Library(Value):
    """Units by name; a second one of a name is reported."""

    entities: dict[str, a.Entity] = field(default_factory=dict)
    architectures: dict[str, list[a.Architecture]] = field(default_factory=dict)
    packages: dict[str, a.PackageDecl | a.PackageInst] = field(default_factory=dict)
    bodies: dict[str, a.PackageBody] = field(default_factory=dict)
    configurations: dict[str, a.Configuration] = field(default_factory=dict)
    contexts: dict[str, a.Context] = field(default_factory=dict)
    ours: dict[str, OurPackage] = field(default_factory=dict)

    @property
    def empty(self) -> bool:
        return not (self.entities or self.packages or self.bodies or self.architectures or self.configurations or self.contexts)

    def read(self, source: SourceText, diagnostics: Diagnostics) -> None:
        """Add the units of a text, which are kept for the next time if there is nothing to say about it."""
        place = trees.key("vhdl", source.base, source.text)
        units = trees.load(place) if len(source.text) >= trees.LEAST else None
        if not isinstance(units, list):
            mark = diagnostics.mark()
            units = parse(tokenize(source, diagnostics), diagnostics)
            if len(source.text) >= trees.LEAST and diagnostics.mark() == mark:
                trees.keep(place, units)
        self.add(units, diagnostics)

    def add(self, units: list[a.Unit], diagnostics: Diagnostics) -> None:
        for u in units:
            match u:
                case a.Entity():
                    self._put(self.entities, u, diagnostics)
                case a.Architecture():
                    there = self.architectures.setdefault(u.entity, [])
                    if any(x.id == u.id for x in there):
                        diagnostics.error(u.pos, f"architecture '{u.text}' of '{u.entity}' is declared twice", "declared-twice")
                    else:
                        there.append(u)
                case a.PackageDecl() | a.PackageInst():
                    self._put(self.packages, u, diagnostics)
                case a.PackageBody():
                    self._put(self.bodies, u, diagnostics)
                case a.Configuration():
                    self._put(self.configurations, u, diagnostics)
                case a.Context():
                    self._put(self.contexts, u, diagnostics)

    @staticmethod
    def _put(where: dict[str, Any], unit: a.Unit, diagnostics: Diagnostics) -> None:
        if unit.id in where:
            diagnostics.error(unit.pos, f"'{unit.text}' is declared twice", "declared-twice")
        else:
            where[unit.id] = unit

    def primary(self, name: str) -> a.Unit | None:
        for where in (self.entities, self.packages, self.configurations, self.contexts):
            found = where.get(name)
            if found is not None:
                return found
        return None

    def standard(self, name: str, sources: SourceMap) -> OurPackage:
        """One of our packages."""
        found = self.ours.get(name)
        if found is None:
            found = self.ours[name] = read(name, sources)
        return found
