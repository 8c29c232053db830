"""Instances: parameters handed down, ports connected (IEEE 1364-2005 12.1 to 12.3)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.evaluate import Evaluator
from mevrik.design.record import Frozen, replace
from mevrik.design.types import BIT, Array, Vec
from mevrik.design.unit import InstanceDecl, Process, Signal, Switch
from mevrik.lang.diagnostics import counted, nearest, offered
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.base import place_bit
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.delayspots import delayed_port, is_cell, load_of_net
from mevrik.lang.verilog.elaborate.openports import pull_open, tell_open
from mevrik.lang.verilog.elaborate.patterns import element_of, holds_pattern
from mevrik.lang.verilog.elaborate.primitives import primitive
from mevrik.lang.verilog.elaborate.scope import Bound, InstanceName, InterfacePort, Overrides, PatternValue, Scope, TypeValue
from mevrik.lang.verilog.elaborate.selections import Selected
from mevrik.lang.verilog.elaborate.unit import UnitElaborator

DEPTH_LIMIT = 200


class Placed(Frozen, frozen=True):
    """An instance that has its name and its unit; `index` and `count` tell its place in an array of instances."""

    scope: Scope
    item: ast.Instance
    path: str
    made: UnitElaborator
    interfaces: dict[str, list[InterfacePort]]
    index: int | None
    count: int


def place_instances(elab: UnitElaborator, item: ast.Instance) -> list[Placed]:
    """Give an instance, or an array of them, its name, so that others can refer to what is inside."""
    module = elab.context.modules.get(item.module)
    if module is None and elab.context.foreign is not None:
        found_there = elab.context.foreign.module_for(elab, item)
        if found_there is not None:
            module, item = found_there
    if module is None:
        if item.module in elab.context.primitives:
            primitive(elab, item, elab.context.primitives[item.module])
            return []
        hint = nearest(item.module, elab.context.modules)
        raise elab.error(item.pos, f"there is no module '{item.module}' for the instance '{item.name}'{hint}", "unknown-module")
    if not item.name:
        raise elab.error(item.pos, f"the instance of '{item.module}' needs a name", "syntax")
    given = given_parameters(elab, item, module)
    if not item.dims:
        return [_place(elab, item, module, item.name, given, None, 1)]
    left, right = elab.range(item.dims[0])
    step = 1 if right >= left else -1
    count = abs(left - right) + 1
    array: dict[int, object] = {}
    elab.declare(elab.scope, item.name, array, item.pos)
    found: list[Placed] = []
    for place, index in enumerate(range(left, right + step, step)):
        name = f"{item.name}[{index}]"
        found.append(_place(elab, item, module, name, given, count - 1 - place, count))
        array[index] = elab.scope.names.pop(name)
    return found


def finish_nests(elab: UnitElaborator, placed: list[Placed]) -> None:
    """Elaborate what is inside of interfaces that have interfaces in them: others may be connected to those."""
    for p in placed:
        if any(p.made.is_interface_instance(item) for _, item in p.made.deferred):
            _finish(elab, p)


def _finish(elab: UnitElaborator, p: Placed) -> None:
    if not p.made.finished:
        p.made.finished = True
        elab.context.depth += 1
        p.made.finish()
        elab.context.depth -= 1


def finish_instances(elab: UnitElaborator, placed: list[Placed]) -> None:
    """Elaborate what is inside the instances, then connect their ports."""
    for p in placed:
        _finish(elab, p)
    for p in placed:
        elab.scope = p.scope
        item = p.item
        if p.interfaces:
            item = replace(item, ports=_plain_connections(item, p.made.module, p.interfaces))
        _connect(elab, item, p.path, p.made, p.index, p.count)


def given_parameters(elab: UnitElaborator, item: ast.Instance, module: ast.Module) -> dict[str, n.Expr]:
    header = [p for p in module.params if not p.local]
    body = [i for i in module.items if isinstance(i, ast.ParamDecl) and not i.local] if not module.params else []
    names = [d.name for p in header + body for d in p.names]
    types = {d.name for p in header + body if p.is_type for d in p.names}
    given: dict[str, n.Expr] = {}
    for index, c in enumerate(item.params):
        if c.expr is None:
            continue
        if c.name is None:
            if index >= len(names):
                raise elab.error(
                    c.pos, f"'{item.module}' has {len(names)} parameters; this is value number {index + 1}", "parameter"
                )
            name = names[index]
        else:
            name = c.name
            if name not in names:
                fixed = {
                    d.name for p in (*module.params, *module.items) if isinstance(p, ast.ParamDecl) and p.local for d in p.names
                }
                if name in fixed:
                    message = f"'{name}' is a localparam of '{item.module}': nothing outside can change it (6.20.4)"
                    raise elab.error(c.pos, message, "parameter")
                hint = offered(name, names)
                raise elab.error(c.pos, f"'{item.module}' has no parameter '{name}'{hint}", "unknown-parameter")
        if name in types:
            given[name] = _type_value(elab, c, name)
        else:
            given[name] = parameter_value(elab, c.expr, f"the parameter '{name}'")
    return given


def parameter_value(elab: UnitElaborator, e: ast.Expr, what: str) -> n.Expr:
    """A value for a parameter: a constant, or a pattern that only the parameter's own type gives a meaning."""
    if isinstance(e, ast.Ternary) and holds_pattern(e):
        return parameter_value(elab, e.then if Evaluator().truth(elab.constant(e.cond, what)) else e.other, what)
    if isinstance(e, (ast.Pattern, ast.New)):
        return PatternValue(BIT, e, elab, elab.scope.prefix)
    return elab.constant(e, what)


def _type_value(elab: UnitElaborator, c: ast.Connection, name: str) -> n.Expr:
    shape = elab.type_meant(c.expr) if c.expr is not None else None
    if shape is not None:
        return TypeValue(BIT, shape)
    raise elab.error(c.pos, f"the parameter '{name}' takes a type", "parameter")


def _place(
    elab: UnitElaborator, item: ast.Instance, module: ast.Module, name: str, given: dict[str, n.Expr], index: int | None, count: int
) -> Placed:
    path = elab.scope.prefix + name
    steps = tuple(path.split("."))
    inner = elab.defparams.below(steps)
    interfaces = _interfaces(elab, item, module, None if index is None else (count - 1 - index, count))
    key = unit_key(module.name, given, inner)
    if interfaces:
        key += "".join(f"|{port}={'.'.join(b.path)}:{b.home.unit.key}" for port, bound in sorted(interfaces.items()) for b in bound)
    context = elab.context
    above: UnitElaborator | None = elab
    while above is not None and above.unit.key != key:
        above = above.parent
    if above is not None or context.depth > DEPTH_LIMIT:
        raise elab.error(item.pos, f"'{item.module}' contains itself: the hierarchy never ends", "endless-hierarchy")
    made = context.units.get(key)
    if made is None:
        made = UnitElaborator(context, module, key, given, inner, elab, elab.scope, interfaces)
        context.units[key] = made
        made.declare_all()
        if module.interface and not interfaces and not inner.items():  # one unit for what a virtual interface takes as one
            made = context.units[key] = context.forms.setdefault(made.unit.form, made)
    elab.unit.instances.append(InstanceDecl(path, made.unit, item.pos))
    elab.declare(elab.scope, name, InstanceName(path, made.unit, made), item.pos)
    return Placed(elab.scope, item, path, made, interfaces, index, count)


def _interfaces(
    elab: UnitElaborator, item: ast.Instance, module: ast.Module, place: tuple[int, int] | None
) -> dict[str, list[InterfacePort]]:
    """The interface that each interface port of the module is connected to, seen from inside the new instance; of a port that
    is an array, all from left to right. An array of instances, of which this one is at `place` of how many, shares an array of that size out (23.3.3.5)."""
    wanted = [p for p in module.ports if isinstance(p, ast.Port) and elab.is_interface(p)]
    found: dict[str, list[InterfacePort]] = {}
    by_name = any(c.name is not None or c.wild for c in item.ports)
    for port in wanted:
        if by_name:
            expr = next((c.expr for c in item.ports if c.name == port.name), None)
            if expr is None and any(c.wild for c in item.ports):
                expr = ast.Name(item.pos, port.name)
        else:
            order = module.ports.index(port)
            expr = item.ports[order].expr if order < len(item.ports) else None
        if expr is None:
            message = f"the interface port '{port.name}' of '{item.name}' is not connected to an interface (25.3.2)"
            elab.context.diagnostics.error(item.pos, message, "connection")
            continue
        view = port.modport
        while isinstance(expr, ast.Member) and isinstance(elab.entity_of(expr.base), (InstanceName, InterfacePort)):
            view = view or expr.name
            expr = expr.base  # bus.modport
        entity = elab.entity_of(expr)
        given = list(entity.values()) if isinstance(entity, dict) else [entity]
        if isinstance(entity, dict) and not port.dims and place is not None and place[1] == len(given):
            entity = given[place[0]]
            given = [entity]
        inside = [_from_inside(each, port.type.name) for each in given]
        bound = [each for each in inside if each is not None]
        if len(bound) != len(inside) or isinstance(entity, dict) != bool(port.dims):
            needed = "an array of instances" if port.dims else "an instance"
            of = f"the interface '{port.type.name}'" if port.type.name else "an interface"
            message = f"the port '{port.name}' of '{item.module}' needs {needed} of {of}"
            if isinstance(entity, Signal) and entity.implicit and entity.kind == "net":
                raise elab.error_of(entity.name, expr.pos, f"'{entity.name}' is not declared: {message}", "unknown-name")
            if entity is None and isinstance(expr, ast.Name):
                raise elab.undeclared(expr.pos, expr.name, f"'{expr.name}' is not declared: {message}")
            raise elab.error(expr.pos, message, "connection")
        for each in bound:
            _check_modports(elab, each.home)
            if view and view not in each.home.modports:
                hint = offered(view, each.home.modports)
                raise elab.error(port.pos, f"the interface '{port.type.name}' has no modport '{view}'{hint} (25.5)", "unknown-name")
            each.modport = view
        found[port.name] = bound
    return found


def _check_modports(elab: UnitElaborator, home: UnitElaborator) -> None:
    """All that a modport names has to be there."""
    for item in home.module.items:
        if isinstance(item, ast.Modport):
            for name in [x for x in item.ways if x not in home.root.names and x not in item.views]:
                del item.ways[name]
                hint = nearest(name, home.root.names)
                message = f"the modport '{item.name}' names '{name}', which the interface '{home.module.name}' does not have{hint}"
                elab.context.diagnostics.error(item.pos, message, "unknown-name")


def _from_inside(entity: object, interface: str) -> InterfacePort | None:
    """An instance of that interface, or of any where no name is given, as a new instance beside it sees it."""
    if isinstance(entity, InstanceName) and _is_of(entity.elaborator, interface):
        return InterfacePort(("^", entity.name), entity.elaborator)
    if isinstance(entity, InterfacePort) and _is_of(entity.home, interface):
        return InterfacePort(("^", *entity.path), entity.home)
    return None


def _is_of(home: UnitElaborator, interface: str) -> bool:
    return home.module.name == interface if interface else home.module.interface


def _plain_connections(item: ast.Instance, module: ast.Module, interfaces: dict[str, list[InterfacePort]]) -> list[ast.Connection]:
    """The connections that are no interfaces."""
    if any(c.name is not None or c.wild for c in item.ports):
        return [c for c in item.ports if c.name not in interfaces]
    names = [p.name for p in module.ports]
    return [c for k, c in enumerate(item.ports) if k >= len(names) or names[k] not in interfaces]


def unit_key(name: str, given: dict[str, n.Expr], inner: Overrides) -> str:
    parts = [f"{k}={value_words(v)}" for k, v in sorted(given.items())]
    parts += [f"{'.'.join(k)}={value_words(v.value)}" for k, v in sorted(inner.items(), key=lambda pair: pair[0])]
    return f"{name}#({','.join(parts)})" if parts else name


def value_words(e: n.Expr) -> str:
    """A parameter's value as it stands in the key of a unit."""
    if isinstance(e, TypeValue):
        return str((e.shape.type, e.shape.packed, e.shape.unpacked, sorted(e.shape.fields), e.shape.labels))
    if isinstance(e, Bound):
        return f"{e.tree.pos}"
    if isinstance(e, PatternValue):
        return f"pattern at {e.tree.pos} in {e.home.unit.key}.{e.scope}"
    if isinstance(e, n.TextConst):
        return repr(e.value)
    if isinstance(e, n.ArrayConst):
        return "{" + ",".join(value_words(x) for x in e.items) + "}"
    if isinstance(e, n.RealConst):
        return repr(e.value)
    if isinstance(e, n.Concat):
        return "{" + ",".join(value_words(x) for x in e.parts) + "}"
    assert isinstance(e, n.Const)
    t = n.vec(e)
    return f"{t.width}{'s' if t.signed else ''}'{e.val:x}{f'/{e.unk:x}' if e.unk else ''}"


def _connect(elab: UnitElaborator, item: ast.Instance, path: str, made: UnitElaborator, index: int | None, count: int) -> None:
    ports = made.unit.ports
    by_name = {p.name: p for p in ports}
    pairs: list[tuple[ast.Connection, Signal]] = []
    mark = elab.context.diagnostics.mark()
    if any(c.name is not None or c.wild for c in item.ports):
        seen: set[str] = set()
        for c in item.ports:
            if c.wild:
                continue
            if c.name is None:
                elab.context.diagnostics.error(c.pos, "connections by name and by order can't be mixed (12.3.6)", "connection")
                continue
            port = by_name.get(c.name)
            if port is None and made.root.loses(c.name):
                continue
            if port is None:
                hint = nearest(c.name, by_name)
                elab.context.diagnostics.error(c.pos, f"'{item.module}' has no port '{c.name}'{hint}", "unknown-port")
                continue
            if c.name in seen:
                elab.context.diagnostics.error(c.pos, f"the port '{c.name}' is connected twice", "connection")
                continue
            seen.add(c.name)
            pairs.append((c, port))
        if any(c.wild for c in item.ports):
            for port in ports:
                if port.name in seen:
                    continue
                if elab.scope.find(port.name) is not None:
                    pairs.append((ast.Connection(item.pos, port.name, ast.Name(item.pos, port.name)), port))
                elif port.name not in made.input_defaults and not elab.scope.loses(port.name):
                    message = f"'.*' finds nothing called '{port.name}' for the port of '{item.module}': connect it, or write .{port.name}() (23.3.2.4)"
                    elab.context.diagnostics.error(item.pos, message, "connection")
    else:
        if made.root.lost:
            return  # which port is which nobody knows
        if len(item.ports) > len(ports):
            elab.context.diagnostics.error(
                item.ports[len(ports)].pos,
                f"'{item.module}' has {counted(len(ports), 'port')}; this is connection {len(ports) + 1}",
                "connection",
            )
        pairs = list(zip(item.ports, ports, strict=False))
    named = {c.name for c in item.ports if c.name is not None} | {port.name for _, port in pairs}
    for port in ports[0 if named else len(item.ports) :]:
        default = made.input_defaults.get(port.name)
        if default is not None and port.name not in named:
            pairs.append((ast.Connection(item.pos, port.name, default), port))
    if made.module.pull:
        pull_open(elab, item, path, made, ports, {id(port) for c, port in pairs if c.expr is not None})
    elif not elab.context.diagnostics.failed_since(mark):
        tell_open(elab, item, ports, {id(port) for _, port in pairs})
    for c, port in pairs:
        if c.expr is None:
            continue
        try:
            _connect_port(elab, c, port, path, made, index, count, item)
        except Abandon:
            continue


def _form(signal: Signal) -> tuple[object, ...]:
    """What two variables have in common of which one can stand for the other."""
    return signal.type, [abs(left - right) for left, right in signal.dims]


def _connect_port(
    elab: UnitElaborator,
    c: ast.Connection,
    port: Signal,
    path: str,
    made: UnitElaborator,
    index: int | None,
    count: int,
    item: ast.Instance,
) -> None:
    assert c.expr is not None
    inside = elab.stand_in(port, (path,), made)
    site = elab.context.site(c.pos, c.pos + 1, f"port {item.name}.{port.name}")
    width = port.type.width if isinstance(port.type, Vec) else 64
    whole = n.LRef(inside, None, None, width)
    link: tuple[Signal, Signal] | None = None
    outer = elab.selected(c.expr) if isinstance(c.expr, (ast.Name, ast.Member, ast.Index)) else None
    plain = outer is not None and outer.signal is not None and outer.bits is None and outer.element is None and not outer.dims
    if plain and outer is not None and outer.signal is not None and outer.signal.type == port.type and not port.dims:
        link = (inside, outer.signal)
    elif (
        plain
        and outer is not None
        and outer.signal is not None
        and isinstance(outer.signal.type, Vec)
        and isinstance(port.type, Vec)
    ):
        if outer.signal.type.width == port.type.width and outer.signal.type.four == port.type.four:
            link = (inside, outer.signal)
    if link is not None and link[1] in elab.delayed_nets and port.port == "output":
        link = (inside, elab.delayed_nets[link[1]])
    if port.port == "inout" and port.kind == "var":
        if (
            outer is None
            or outer.signal is None
            or outer.element
            or outer.bits
            or _form(outer.signal) != _form(port)
            or outer.signal.kind != "var"
        ):
            message = f"the port '{port.name}' is a reference: connect a whole variable of the same type"
            raise elab.error(c.expr.pos, f"{message} (23.3.3.2; parts of variables are not supported)", "connection")
        elab.unit.processes.append(Process("join", [], c.pos, elab.scope.prefix, (), (inside, outer.signal)))
        return
    if port.dims:
        _connect_array(elab, c, port, inside, outer, site)
        return
    if port.port == "input":
        plain_value = None if isinstance(c.expr, (ast.Pattern, ast.Stream)) else elab.expr(c.expr)
        value = plain_value if plain_value is not None else elab.for_target(c.expr, port.type, made.shape_of_signal(port))
        own = n.vec(value).width if isinstance(value.type, Vec) else width
        if index is not None and own == width * count and count > 1:
            value = n.Bits(Vec(width), value, n.Offset(index * width))
            link = None
        else:
            _check_width(elab, c, port, own, width, value)
            value = elab.for_target(c.expr, port.type, made.shape_of_signal(port))
        if elab.context.annotated and is_cell(made.module):
            delayed_port(elab, made, port, inside, value, site, c.pos)
            load_of_net(elab, c, port, inside)
            return
        drive = n.Drive(site, (whole,), value)
        elab.unit.processes.append(
            Process("link" if link else "assign", [drive], c.pos, elab.scope.prefix, sensitivity([drive], True), link)
        )
        return
    if port.port == "inout":
        if link is None:
            _join_bits(elab, c, port, inside, index, count)
        else:
            elab.unit.processes.append(Process("join", [], c.pos, elab.scope.prefix, (), link))
        return
    places = elab.place(c.expr)
    for p in places:
        target = p.signal.target or p.signal
        if target.kind != "net" and not elab.module.sv:
            raise elab.error(
                c.pos,
                f"the output '{port.name}' of '{item.name}' must drive a net, but '{target.name}' is a variable: declare it as wire",
                "port-variable",
            )
    places = tuple(replace(p, signal=elab.delayed_nets.get(p.signal, p.signal)) for p in places)
    total = sum(p.width for p in places)
    base: n.Expr = n.Ref(inside.type, inside)
    if index is not None and total == width * count and count > 1:
        places = _narrow(places, index * width, width)
        link = None
    elif total != width:
        _check_width(elab, c, port, total, width, None)
        signed = isinstance(port.type, Vec) and port.type.signed
        base = n.Resize(Vec(total, signed), base)
    load_of_net(elab, c, port, inside)
    drive = n.Drive(site, places, base)
    elab.unit.processes.append(
        Process("link" if link else "assign", [drive], c.pos, elab.scope.prefix, sensitivity([drive], True), link)
    )


def _join_bits(elab: UnitElaborator, c: ast.Connection, port: Signal, inside: Signal, index: int | None, count: int) -> None:
    """An inout port and a part of a net, or several: each bit is joined as by a transistor that reduces no strength (12.3.8)."""
    assert c.expr is not None
    places = elab.place(c.expr)
    for p in places:
        target = p.signal.target or p.signal
        if target.kind != "net":
            message = f"the inout port '{port.name}' must be connected to a net, '{target.name}' is a variable: declare it as wire"
            raise elab.error(c.pos, message, "port-variable")
    width = port.type.width if isinstance(port.type, Vec) else 64
    total = sum(p.width for p in places)
    if index is not None and total == width * count and count > 1:
        places, total = _narrow(places, index * width, width), width
    elif total != width:
        _check_width(elab, c, port, total, width, None)
    for bit in range(min(total, width)):
        within = n.LRef(inside, None, None if width == 1 else n.Offset(bit), 1)
        elab.unit.switches.append(Switch(within, place_bit(elab, places, bit, c.pos)[0], None, 1, False, c.pos, wire=True))


def _connect_array(
    elab: UnitElaborator, c: ast.Connection, port: Signal, inside: Signal, outer: Selected | None, site: int
) -> None:
    """A port that is an array: one storage with a whole array outside, else each element on its own."""
    assert c.expr is not None
    array = Array(port.type, port.dims)
    counts = [abs(a - b) for a, b in port.dims]
    if (
        outer is not None
        and outer.signal is not None
        and outer.element is None
        and outer.signal.dims == port.dims
        and outer.bits is None
    ):
        elab.unit.processes.append(Process("join", [], c.pos, elab.scope.prefix, (), (inside, outer.signal)))
        return
    if outer is not None and [abs(a - b) for a, b in outer.dims] != counts:
        many = " by ".join(str(k + 1) for k in counts)
        raise elab.error(c.pos, f"the port '{port.name}' is an array of {many} elements; what is connected is not", "connection")
    shape = elab.shape_of_signal(port)
    width = port.type.width if isinstance(port.type, Vec) else 64
    if port.port == "input":
        value = elab.for_target(c.expr, array, shape)
        for k in range(array.count):
            elab.drive(site, c.pos, (n.LRef(inside, n.Offset(k), None, width),), element_of(value, k))
        return
    if outer is None or outer.signal is None or port.port == "inout":
        raise elab.error(c.pos, f"the port '{port.name}' must be connected to an array", "connection")
    start = outer.element or n.Offset(0)
    flipped = (outer.dims[0][0] > outer.dims[0][1]) != (port.dims[0][0] > port.dims[0][1])
    for k in range(array.count):
        at = array.count - 1 - k if flipped else k
        place = n.LRef(outer.signal, n.Offset(start.const + at, start.terms), None, width)
        elab.drive(site, c.pos, (place,), n.Ref(port.type, inside, n.Offset(k)))


def _narrow(places: tuple[n.LRef, ...], low: int, width: int) -> tuple[n.LRef, ...]:
    if len(places) != 1:
        found: list[n.LRef] = []
        base = 0
        for p in reversed(places):
            if base >= low and base + p.width <= low + width:
                found.insert(0, p)
            base += p.width
        return tuple(found)
    p = places[0]
    old = p.bits or n.Offset(0)
    return (n.LRef(p.signal, p.element, n.Offset(old.const + low, old.terms), width),)


def _check_width(elab: UnitElaborator, c: ast.Connection, port: Signal, own: int, width: int, value: n.Expr | None) -> None:
    if own == width or (isinstance(value, n.Const) and (value.val | value.unk) >> width == 0):
        return
    elab.context.diagnostics.warning(
        c.pos, f"the port '{port.name}' has {width} bits, {own} are connected: the upper ones are lost or filled", "port-width"
    )
