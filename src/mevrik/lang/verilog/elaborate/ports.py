"""The ports of a module (IEEE 1364-2005 12.3, IEEE 1800-2017 23.2.2)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.types import BIT, Vec
from mevrik.design.unit import Process, Signal, Switch
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.base import place_bit, whole
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.defaults import literal
from mevrik.lang.verilog.elaborate.scope import InterfacePort, Scope, Shape
from mevrik.lang.verilog.elaborate.types import TypeElaborator


class PortElaborator(TypeElaborator):
    interfaces: dict[str, list[InterfacePort]]
    inits: list[tuple[Scope, Signal, ast.Expr]]
    inner_ports: set[int]  # signals that ports stand for in part
    input_defaults: dict[str, ast.Expr]  # what an input gets that an instance leaves out

    def _port(self, port: ast.Port) -> None:
        if port.stands_for is not None:
            return  # when all is declared
        if self.is_interface(port):
            bound = self.interfaces.get(port.name)
            if bound is None:
                if self.parent is None:
                    message = f"the interface port '{port.name}' is not connected: a module with one can't be the top (25.3.2)"
                    raise self.error(port.pos, message, "connection")
                raise Abandon  # the instance says so
            self.declare(self.root, port.name, self._interface_array(port, bound) if port.dims else bound[0], port.pos)
            return
        if port.modport:
            raise self.undeclared(port.pos, port.type.name, f"there is no interface '{port.type.name}' for the port '{port.name}'")
        shape = self.resolve_type(port.type)
        kind = "net"
        net = port.kind if port.kind not in ("", "var") else self.module.default_nettype
        if port.by_reference or (port.kind == "var" and port.direction == "output"):
            kind, net = "var", ""
        elif port.kind == "var":
            net = "wire"
        if not port.ansi:
            old = self.root.names.get(port.name)
            if isinstance(old, Signal):
                if old.port:
                    line = self.context.diagnostics.sources.place(old.pos).line
                    raise self.error(port.pos, f"the port '{port.name}' is already declared in line {line}", "declared-twice")
                old.port = port.direction
                return
        made = self.signal(self.root, port.name, shape, port.dims, kind, port.pos, net)
        made.port = "inout" if port.by_reference else port.direction
        if port.init is not None and kind == "var":
            self.inits.append((self.root, made, port.init))
        elif port.init is not None and port.direction == "input":  # for instances that leave it out (23.2.2.4)
            shape = self.shape_of_signal(made)
            value = self.constant_of(self.for_target(port.init, shape.whole, shape), port.init.pos, f"the default of '{port.name}'")
            self.input_defaults[port.name] = literal(value, shape, port.pos)
        if port.ansi:
            self.unit.ports.append(made)

    def is_interface_instance(self, item: ast.Item) -> bool:
        module = self.context.modules.get(item.module) if isinstance(item, ast.Instance) else None
        return module is not None and module.interface

    def _interface_array(self, port: ast.Port, bound: list[InterfacePort]) -> dict[int, InterfacePort]:
        """The elements by the indices of the port: the leftmost ones correspond."""
        left, right = self.range(port.dims[0])
        if len(port.dims) > 1 or abs(left - right) + 1 != len(bound):
            raise self.error(
                port.pos, f"'{port.name}' is connected to {len(bound)} interfaces, which is not its size (25.3.2)", "connection"
            )
        return dict(zip(range(left, right + 1) if left <= right else range(left, right - 1, -1), bound))

    def is_interface(self, port: ast.Port) -> bool:
        found = self.context.modules.get(port.type.name) if port.type.keyword == "name" else None
        return port.type.keyword == "interface" or (found is not None and found.interface)

    def _finish_ports(self) -> None:
        if self.module.ansi:
            self._finish_explicit_ports()
            return
        for ref in self.module.ports:
            if not isinstance(ref, ast.PortRef):
                continue
            if ref.expr is None:
                self.unit.ports.append(Signal(ref.name, Vec(1), "net", ref.pos, "wire", port="inout"))
                continue
            if not isinstance(ref.expr, ast.Name) or ref.name != ref.expr.name:
                self.guard(lambda ref=ref: self._port_by_expression(ref))  # type: ignore[misc]
                continue
            found = self.root.names.get(ref.expr.name)
            if found is None and self.root.loses(ref.expr.name):
                continue
            if found is None:
                self.root.lost.add(ref.expr.name)
            if not isinstance(found, Signal) or not found.port:
                declared = [s.name for s in self.unit.signals if s.port]
                hint = nearest(ref.expr.name, declared)
                self.context.diagnostics.error(
                    ref.pos, f"the port '{ref.expr.name}' has no input, output or inout declaration{hint}", "port-undeclared"
                )
                if found is None:  # so that its uses are not complained of as well
                    found = self.signal(self.root, ref.expr.name, Shape(BIT), [], "net", ref.pos, "wire")
                    found.port = "inout"
                if not isinstance(found, Signal):
                    continue
            self.unit.ports.append(found)
        listed = {id(p) for p in self.unit.ports} | self.inner_ports
        for s in self.unit.signals:
            if s.port and id(s) not in listed:
                self.context.diagnostics.error(
                    s.pos,
                    f"'{s.name}' is declared as {s.port} but is not in the port list of '{self.module.name}'",
                    "port-unlisted",
                )

    def _finish_explicit_ports(self) -> None:
        """The ports that stand for something inside, each at its place among the others."""
        ports = [p for p in self.module.ports if isinstance(p, ast.Port)]
        explicit = [p for p in ports if p.stands_for is not None]
        for p in explicit:
            ref = ast.PortRef(p.pos, p.name, p.stands_for)
            self.guard(lambda ref=ref, p=p: self._port_by_expression(ref, p.direction))  # type: ignore[misc]
        if explicit:
            order = {p.name: k for k, p in enumerate(ports)}
            self.unit.ports.sort(key=lambda s: order.get(s.name, len(order)))

    def _port_by_expression(self, ref: ast.PortRef, given: str = "") -> None:
        """`.name(expression)`: a port that stands for a part or a group of the signals inside (12.3.2)."""
        assert ref.expr is not None
        self.scope = self.root
        places = self.place(ref.expr)
        directions = {given or p.signal.port for p in places}
        self.inner_ports |= {id(p.signal) for p in places}
        if len(directions) != 1 or "" in directions:
            message = f"what the port '{ref.name}' stands for needs one input, output or inout declaration"
            raise self.error(ref.pos, message, "port-undeclared")
        (direction,) = directions
        width = sum(p.width for p in places)
        name = ref.name or f"port {len(self.unit.ports) + 1}"
        outer = Signal(name, Vec(width), "net", ref.pos, "wire", width - 1, 0, (), direction, ranged=width > 1)
        self.unit.signals.append(outer)
        self.unit.ports.append(outer)
        site = self.context.site(ref.pos, ref.pos + 1, f"port {name}")
        if direction == "inout":
            if len(places) == 1 and places[0].bits is None and places[0].element is None:
                self.unit.processes.append(Process("join", [], ref.pos, "", (), (outer, places[0].signal)))
                return
            for bit in range(width):
                port_bit = n.LRef(outer, None, None if width == 1 else n.Offset(bit), 1)
                stands_for = place_bit(self, places, bit, ref.pos)[0]
                self.unit.switches.append(Switch(port_bit, stands_for, None, 1, False, ref.pos, wire=True))
        elif direction == "input":
            drive = n.Drive(site, places, n.Ref(outer.type, outer))
            self.unit.processes.append(Process("assign", [drive], ref.pos, "", sensitivity([drive])))
        else:
            drive = n.Drive(site, (whole(outer),), self.build(ref.expr, Vec(width)))
            self.unit.processes.append(Process("assign", [drive], ref.pos, "", sensitivity([drive])))
