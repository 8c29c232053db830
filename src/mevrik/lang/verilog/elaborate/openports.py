"""Ports that an instance leaves open."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import Vec
from mevrik.design.unit import Process, Signal
from mevrik.lang.findings.base import allowed
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


def tell_open(elab: UnitElaborator, item: ast.Instance, ports: list[Signal], named: set[int]) -> None:
    """Ports that the instance leaves out; an empty `.name()` is meant so."""
    diagnostics = elab.context.diagnostics
    for port in ports:
        if id(port) in named or allowed(diagnostics.sources.place(item.pos), "unconnected"):
            continue
        if port.port == "input" and port.init is None:
            diagnostics.warning(item.pos, f"the input '{port.name}' of '{item.name}' is not connected: it is z", "unconnected")
        elif port.port == "output":
            diagnostics.note(item.pos, f"the output '{port.name}' of '{item.name}' is not used", "unconnected")


def pull_open(
    elab: UnitElaborator, item: ast.Instance, path: str, made: UnitElaborator, ports: list[Signal], driven: set[int]
) -> None:
    """Inputs that nothing is connected to where `unconnected_drive holds (IEEE 1364-2005 19.9)."""
    for port in ports:
        if id(port) in driven or port.port != "input" or port.kind != "net":
            continue
        inside = whole(elab.stand_in(port, (path,), made))
        level = n.Const(Vec(inside.width), (1 << inside.width) - 1 if made.module.pull == "pull1" else 0)
        site = elab.context.site(item.pos, item.pos + len(item.name), f"port {item.name}.{port.name}")
        drive = n.Drive(site, (inside,), level, (), (5, 5))
        elab.unit.processes.append(Process("assign", [drive], item.pos, elab.scope.prefix, ()))
