"""The ports of a module as the outside sees them, and which of them are clocks and resets."""

from __future__ import annotations

from collections.abc import Iterator

from mevrik.design import nodes as n
from mevrik.design import typed as t
from mevrik.design import walk
from mevrik.design.record import Frozen
from mevrik.design.types import Vec
from mevrik.design.unit import Design, Signal, Unit


class PortInfo(Frozen, frozen=True):
    """`direction`: input, output, inout. `role`: "clock", "reset" or "" for inputs; `active`: the level that resets, or
    the edge that clocks (1 rising, 0 falling)."""

    name: str
    direction: str
    width: int
    msb: int
    lsb: int
    signed: bool = False
    role: str = ""
    active: int = 1

    @property
    def label(self) -> str:
        return self.name if self.width == 1 else f"{self.name}[{self.msb}:{self.lsb}]"


_RESET_WORDS = ("rst", "reset", "clr", "clear")


def ports_of(design: Design) -> list[PortInfo]:
    """The vector ports of the top unit, roles found from what the processes below wait for and read."""
    unit = design.top.unit
    known = _known_roles(design) if design.typed is not None else {}
    roles = {**_roles(unit, known), **(_typed_roles(unit, design.typed) if design.typed is not None else {})}
    found: list[PortInfo] = []
    for port in unit.ports:
        if not isinstance(port.type, Vec) or port.dims:
            continue
        role, active = roles.get(port, ("", 1)) if port.port == "input" else ("", 1)
        if port.port == "input" and not role and port.type.width == 1 and _named_reset(port.name) and roles:
            role, active = "reset", 0 if _active_low(port.name) else 1
        found.append(PortInfo(port.name, port.port, port.type.width, port.left, port.right, port.type.signed, role, active))
    return found


def _named_reset(name: str) -> bool:
    return any(word in name.lower() for word in _RESET_WORDS)


def _active_low(name: str) -> bool:
    low = name.lower()
    return low.endswith(("_n", "_b", "_l", "n")) and not low.endswith(("_in", "_on"))


def _roles(unit: Unit, seen: dict[Unit, dict[Signal, tuple[str, int]]] | None = None) -> dict[Signal, tuple[str, int]]:
    """Signals of a unit that something in it or below it waits for by edge: a clock, or a reset if it is read as well."""
    seen = {} if seen is None else seen
    if unit in seen:
        return seen[unit]
    found: dict[Signal, tuple[str, int]] = {}
    seen[unit] = found
    for process in unit.processes:
        for s in [*(process.sense or ()), *_awaited(process.body)]:
            if s.edge in ("posedge", "negedge") and isinstance(s.expr, n.Ref) and s.expr.signal.target is None:
                signal = s.expr.signal
                read = any(r.signal is signal for r in walk.reads(process.body))
                rising = int(s.edge == "posedge")
                found.setdefault(signal, ("reset" if read else "clock", rising))
    below = {i.name: i.unit for i in unit.instances}
    for process in unit.processes:
        link = process.link
        if link is not None and len(link[0].path) == 1 and link[0].path[0] in below and link[0].target is not None:
            inner = _roles(below[link[0].path[0]], seen).get(link[0].target)
            if inner is not None and link[1].target is None:
                found.setdefault(link[1], inner)
    return found


def _known_roles(design: Design) -> dict[Unit, dict[Signal, tuple[str, int]]]:
    """The roles of the ports behind which entities stand in a design of modules."""
    assert design.typed is not None
    clocks = typed_clocks(design.typed)
    found: dict[Unit, dict[Signal, tuple[str, int]]] = {}
    for bridge in design.typed.bridges:
        if not bridge.into or bridge.root.number not in clocks:
            continue
        first, *steps = bridge.path.split(".")
        unit = next((x.unit for x in design.tops if x.name == first), None)
        for step in steps:
            unit = next((x.unit for x in unit.instances if x.name == step), None) if unit is not None else None
        port = next((p for p in unit.ports if p.name == bridge.name), None) if unit is not None else None
        if unit is not None and port is not None:
            found.setdefault(unit, {})[port] = ("clock", clocks[bridge.root.number])
    return found


def _typed_roles(unit: Unit, model: t.Model) -> dict[Signal, tuple[str, int]]:
    """Ports whose edges processes written in VHDL look at."""
    found: dict[Signal, tuple[str, int]] = {}
    clocks = typed_clocks(model)
    for port in unit.ports:
        if port.leaf is not None and port.leaf[0] in clocks:
            found[port] = ("clock", clocks[port.leaf[0]])
    return found


def typed_clocks(model: t.Model) -> dict[int, int]:
    """The signals, by number, whose edges are looked at: 1 for the rising one, 0 for the falling one."""
    found: dict[int, int] = {}
    for process in model.processes:
        for number, rising in process_edges(process):
            found.setdefault(number, rising)
    return found


def process_edges(process: t.Process) -> list[tuple[int, int]]:
    """The edges that a process looks at; asked for more than once."""
    if process.edges is None:
        process.edges = list(edges_of(process.body))
    return process.edges


def edges_of(body: list[t.Stmt]) -> Iterator[tuple[int, int]]:
    """(number of the signal, 1 rising or 0 falling) of each rising_edge, falling_edge and S'event and S = '1'."""
    for s in body:
        for x in t.nodes(s):
            name, arg = "", None
            if isinstance(x, t.Call) and x.args:
                name, arg = x.sub.name, x.args[0]
            elif isinstance(x, t.Op) and x.args:
                name, arg = x.op, x.args[0]
            elif isinstance(x, t.SignalAttr) and x.which == "event":
                name, arg = "rising_edge", x.a
            if name in ("rising_edge", "falling_edge") and isinstance(arg, t.Ref) and arg.object.signal is not None:
                yield arg.object.signal.root.number, int(name == "rising_edge")


def _awaited(body: list[n.Stmt]) -> list[n.Sense]:
    return [s for stmt in walk.statements(body) if isinstance(stmt, n.WaitEvent) for s in stmt.events]
