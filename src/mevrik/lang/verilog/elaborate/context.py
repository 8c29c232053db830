"""What all parts of the elaboration share: diagnostics, sites, the library of modules."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING, Protocol

from mevrik.design.record import Identity, field
from mevrik.design.unit import Annotation, Site, Subprogram, Unit
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.verilog import ast

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.classinfo import ClassInfo, Method
    from mevrik.lang.verilog.elaborate.defparams import Upward
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

DEFAULT_SCALE = ast.Timescale(-9, -9)


class Abandon(Exception):
    """Thrown after an error was reported; caught by the item or statement that is given up."""


class Foreign(Protocol):
    """The units of another language, as modules."""

    def module_for(self, elab: UnitElaborator, item: ast.Instance) -> tuple[ast.Module, ast.Instance] | None:
        """A module for an instance and the instance as that module understands it; None if there is no such unit."""


class Context(Identity, dict=True):  # for what is computed once
    diagnostics: Diagnostics
    modules: dict[str, ast.Module]
    primitives: dict[str, ast.Primitive]
    tick_exp: int
    sites: list[Site] = field(default_factory=lambda: [Site(0, 0, "")])
    units: dict[str, UnitElaborator] = field(default_factory=dict)
    order: list[Unit] = field(default_factory=list)
    depth: int = 0
    abandoned: int = 0  # statements that were left out for a mistake in them, or a consequence of one
    packages: dict[str, ast.Module] = field(default_factory=dict)
    classes: dict[str, ClassInfo] = field(default_factory=dict)
    annotated: bool = False  # some delay file is annotated, so delays are variables
    delay_words: frozenset[str] = frozenset()  # of PULSE, DEVICE, NETDELAY: those that the delay files have
    annotations: list[Annotation] = field(default_factory=list)
    prototypes: dict[str, UnitElaborator] = field(default_factory=dict)  # of interfaces that virtual ones stand for
    forms: dict[str, UnitElaborator] = field(default_factory=dict)  # of interfaces, by the values of their parameters
    package_units: dict[str, UnitElaborator] = field(default_factory=dict)
    tops: dict[str, UnitElaborator] = field(default_factory=dict)  # the top, and modules that nothing instantiates but a path names
    instantiated: Callable[[], set[str]] = set  # the modules that some module instantiates: a walk through all of them
    foreign: Foreign | None = None  # where units of another language are found
    variants: dict[Method, list[tuple[int, Subprogram]]] = field(default_factory=dict)  # of the virtual methods that are called
    compared: set[tuple[Method, int]] = field(default_factory=set)  # with these classes
    virtual_tasks: list[Callable[[], None]] = field(default_factory=list)  # the calls of such tasks, to be completed
    upward: Upward | None = None  # the defparams that lead out of their module
    texts: dict[bytes, int] = field(default_factory=dict)
    late: list[UnitElaborator] = field(default_factory=list)  # static properties were declared in them when they were done

    @cached_property
    def assertions_switched(self) -> bool:
        """Whether some text may switch assertions off (IEEE 1800-2017 20.12)."""
        return any("$assert" in source.text for source in self.diagnostics.sources.texts)

    def may_be_interface(self, name: str) -> bool:
        """Whether a unit is an interface, or would be one if it were there."""
        module = self.modules.get(name)
        return module.interface if module is not None else self.foreign is None and name not in self.primitives

    def text(self, value: bytes) -> int:
        """The number that stands for a text in what is there before the first statement (Design.texts)."""
        if value and value not in self.texts:
            self.texts[value] = len(self.texts) + 1
        return self.texts[value] if value else 0

    def site(self, pos: int, end: int, process: str) -> int:
        self.sites.append(Site(pos, end, process))
        return len(self.sites) - 1
