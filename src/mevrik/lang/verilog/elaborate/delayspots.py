"""Where a delay file can change delays beside those of module paths: inputs of cells, nets, single primitives (IEEE 1364-2005 16.2)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.types import BIT, TIME
from mevrik.design.unit import DelaySpot, Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.specify import written
from mevrik.lang.verilog.elaborate.unit import UnitElaborator


def is_cell(module: ast.Module) -> bool:
    """A module that a delay file is about."""
    return module.cell or any(isinstance(i, (ast.ModulePath, ast.TimingCheck)) for i in module.items)


def delayed_port(
    elab: UnitElaborator, made: UnitElaborator, port: Signal, inside: Signal, value: n.Expr, site: int, pos: int
) -> None:
    """An input that a delay file can delay: what is connected reaches it after the delays that the instance holds."""
    spot = next((s for s in made.unit.delays if s.kind == "port" and s.target == port.name), None)
    if spot is None:
        signals = [
            Signal(f"{port.name}.{word}", TIME, "var", 0, left=63, implicit=True, init=n.Const(TIME, 0))
            for word in ("rise", "fall", "off")
        ]
        made.unit.signals += signals
        spot = DelaySpot("port", "", "", port.name, "", signals)
        made.unit.delays.append(spot)
    path = inside.path
    delays = tuple(n.Ref(TIME, elab.stand_in(s, path, made)) for s in spot.signals)
    width = n.vec(value).width
    for bit in range(width):
        piece = value if width == 1 else n.Bits(BIT, value, n.Offset(bit))
        place = n.LRef(inside, None, None if width == 1 else n.Offset(bit), 1)
        drive = n.Drive(site, (place,), piece, delays)
        sense = sensitivity([n.Drive(site, (place,), piece)], True)
        elab.unit.processes.append(Process("assign", [drive], pos, elab.scope.prefix, sense))


def load_of_net(elab: UnitElaborator, c: ast.Connection, port: Signal, inside: Signal) -> None:
    """The net at a port of a cell, for a delay file that gives delays to nets."""
    if "NETDELAY" in elab.context.delay_words and c.expr is not None:
        elab.unit.delays.append(DelaySpot("net", written(c.expr), "", port.name, port.port, [], ".".join(inside.path)))


def device_delays(elab: UnitElaborator, drive: n.Drive) -> None:
    """The delays of a primitive that drives an output, as variables that a delay file may change; only a module without paths has its
    DEVICE delays there (IEEE 1364-2005 16.2.1)."""
    owner = drive.target[0].signal
    if owner.port not in ("output", "inout") or any(isinstance(i, ast.ModulePath) for i in elab.module.items):
        return
    if not all(isinstance(d, n.Const) for d in drive.delays):
        return
    rise, fall, off = (x for x in _three([d.val for d in drive.delays if isinstance(d, n.Const)]))
    number = len(elab.unit.delays)
    made = [
        Signal(f"device.{number}.{word}", TIME, "var", 0, left=63, implicit=True, init=n.Const(TIME, ticks))
        for word, ticks in (("rise", rise), ("fall", fall), ("off", off))
    ]
    elab.unit.signals += made
    elab.unit.delays.append(DelaySpot("device", "", "", owner.name, "", made))
    drive.delays = tuple(n.Ref(TIME, s) for s in made)


def _three(delays: list[int]) -> tuple[int, int, int]:
    """Rise, fall and turn-off of one, two or three delays (7.14)."""
    match delays:
        case []:
            return 0, 0, 0
        case [one]:
            return one, one, one
        case [rise, fall]:
            return rise, fall, min(rise, fall)
    return delays[0], delays[1], delays[2]
