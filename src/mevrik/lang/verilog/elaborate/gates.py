"""Gate primitives as drivers (IEEE 1364-2005 clause 7)."""

from __future__ import annotations

from itertools import pairwise

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import BIT, Vec
from mevrik.design.unit import CELL_INPUTS, CELL_TICKS, CELL_WIDTH, Cell, Signal, Switch
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.base import place_bit, whole
from mevrik.lang.verilog.elaborate.delayspots import device_delays
from mevrik.lang.verilog.elaborate.unit import UnitElaborator

_MANY_INPUTS = {
    "and": ("&", False),
    "nand": ("&", True),
    "or": ("|", False),
    "nor": ("|", True),
    "xor": ("^", False),
    "xnor": ("^", True),
}
_ENABLED = {"bufif0": (False, False), "bufif1": (True, False), "notif0": (False, True), "notif1": (True, True)}
_SWITCHES = {"nmos": True, "rnmos": True, "pmos": False, "rpmos": False}
CELLS = {*_MANY_INPUTS, *_ENABLED, *_SWITCHES, "buf", "not"}
_X = n.Const(BIT, 1, 1)
_Z = n.Const(BIT, 0, 1)


def gate(elab: UnitElaborator, item: ast.Gate) -> None:
    """One driver for each output; an array of gates takes its terminals bit by bit (7.1.6)."""
    elab.process_name = f"{item.kind} {item.name}".strip()
    count = 1
    if item.dims:
        left, right = elab.range(item.dims[0])
        count = abs(left - right) + 1
    kind = item.kind
    ports = item.ports
    if kind.startswith(("tran", "rtran")):
        _switch(elab, item, count)
        return
    if kind in ("cmos", "rcmos"):  # an nmos and a pmos side by side (7.7)
        if len(ports) != 4:
            raise elab.error(
                item.pos, f"a {kind} switch has four terminals: output, data, n-control and p-control", "gate-terminals"
            )
        prefix = kind.removesuffix("cmos")
        for half, control in (("nmos", ports[2]), ("pmos", ports[3])):
            gate(elab, replace(item, kind=prefix + half, ports=[ports[0], ports[1], control]))
        return
    if kind in ("pullup", "pulldown"):
        outputs, inputs = ports, []
    elif kind in ("buf", "not"):
        outputs, inputs = ports[:-1], ports[-1:]
    else:
        outputs, inputs = ports[:1], ports[1:]
    wanted = {"buf": 1, "not": 1, "pullup": 0, "pulldown": 0}.get(kind, 2 if kind in _ENABLED or kind in _SWITCHES else 1)
    if len(inputs) < wanted or not outputs:
        raise elab.error(item.pos, f"a {kind} gate needs an output and at least {wanted} inputs", "gate-terminals")
    values = [_input(elab, i) for i in inputs]
    strength = item.strength
    if kind in ("rnmos", "rpmos") and strength is None:
        strength = ("pull0", "pull1")  # a strong level comes out as pull (table 7-8)
    if kind in ("pullup", "pulldown") and strength is None:
        strength = ("pull0", "pull1")
    if kind in _SWITCHES and item.delay is None and _one_way(elab, item, values[1], count):
        return
    for output in outputs:
        places = elab.place(output)
        width = sum(p.width for p in places)
        for index in range(count):
            bits = [_bit(v, index, count) for v in values]
            value = _function(kind, bits)
            site = elab.context.site(item.pos, item.pos + len(item.name or item.kind), elab.process_name)
            target = places
            if width != 1 or count > 1:
                target = place_bit(elab, places, index if width > 1 else 0, item.pos)
            process = elab.drive(site, item.pos, target, value, item.delay, strength, woken=False)
            drive = process.body[0]
            assert isinstance(drive, n.Drive)
            if "DEVICE" in elab.context.delay_words:
                device_delays(elab, drive)
            if kind in CELLS and all(isinstance(d, n.Const) and d.val <= CELL_TICKS for d in drive.delays):
                process.cell = _cell(kind.removeprefix("r"), bits)
            if process.cell is None:
                process.sense = sensitivity(process.body, into_calls=True)


def _input(elab: UnitElaborator, e: ast.Expr) -> n.Expr:
    plain = elab.plain_vector(e) if isinstance(e, ast.Name) else None
    if plain is not None:  # by far the most
        return n.Ref(plain.type, plain)
    elab.vector_type(elab.shape(e), e)  # says what can be none
    return elab.expr(e)


def _cell(kind: str, bits: list[n.Expr]) -> Cell | None:
    """The gate as the kernel evaluates it, if its inputs are single bits of signals or constants."""
    inputs: list[tuple[Signal | None, int]] = []
    for e in bits:
        match e:
            case n.Const(val=val, unk=unk):
                inputs.append((None, val & 1 | (unk & 1) << 1))
                continue
            case n.Ref(signal=signal, element=None):
                bit = 0
            case n.Bits(base=n.Ref(signal=signal, element=None), offset=n.Offset(const=bit, terms=())):
                pass
            case _:
                return None
        if signal.via is not None or not isinstance(signal.type, Vec) or not 0 <= bit < signal.type.width <= CELL_WIDTH:
            return None
        inputs.append((signal, bit))
    return Cell(kind, tuple(inputs)) if len(inputs) <= CELL_INPUTS else None


def _switch(elab: UnitElaborator, item: ast.Gate, count: int) -> None:
    """tran, tranif0, tranif1 and the resistive ones: the nets at both ends become one while the switch is closed (7.6)."""
    kind = item.kind.removeprefix("r")
    wanted = 2 if kind == "tran" else 3
    if len(item.ports) != wanted:
        raise elab.error(item.pos, f"a {item.kind} switch has {wanted} terminals, {len(item.ports)} are given", "gate-terminals")
    ends = [elab.place(p) for p in item.ports[:2]]
    for places, port in zip(ends, item.ports):
        if any((p.signal.target or p.signal).kind != "net" for p in places):
            raise elab.error(port.pos, f"a {item.kind} switch joins nets (7.6)", "gate-terminals")
    control = None
    if wanted == 3:
        control = _control(elab, item.ports[2])
    for index in range(count):
        joined = (place_bit(elab, places, index if sum(p.width for p in places) > 1 else 0, item.pos)[0] for places in ends)
        a, b = (_before_its_delay(elab, p) for p in joined)
        active = 0 if kind.endswith("0") else 1
        elab.unit.switches.append(Switch(a, b, control and _bit_of(control, index), active, item.kind.startswith("r"), item.pos))


def alias(elab: UnitElaborator, item: ast.NetAlias) -> None:
    """Several names of the same nets: each bit is joined with that of the next name (IEEE 1800-2017 10.11)."""
    sides = [elab.place(e) for e in item.nets]
    for e, places in zip(item.nets, sides, strict=True):
        for p in places:
            target = p.signal.target or p.signal
            if target.kind != "net":
                raise elab.error(e.pos, f"'{target.name}' is a variable: an alias is one of nets (IEEE 1800-2017 10.11)", "alias")
    widths = [sum(p.width for p in places) for places in sides]
    for e, width in zip(item.nets, widths, strict=True):
        if width != widths[0]:
            message = f"the nets of an alias are as wide as each other: {widths[0]} and {width} bits here (IEEE 1800-2017 10.11)"
            raise elab.error(e.pos, message, "alias")
    for one, other in pairwise(sides):
        for bit in range(widths[0]):
            ends = place_bit(elab, one, bit, item.pos)[0], place_bit(elab, other, bit, item.pos)[0]
            if ends[0] == ends[1]:
                raise elab.error(item.pos, "an alias does not join a net with itself (IEEE 1800-2017 10.11)", "alias")
            elab.unit.switches.append(Switch(*ends, None, 1, False, item.pos, wire=True))


def _control(elab: UnitElaborator, e: ast.Expr) -> n.LRef:
    """What opens and closes a switch: a signal or a fixed bit of one; for anything else a net that has its value."""
    found = elab.selected(e) if isinstance(e, (ast.Name, ast.Member, ast.Index, ast.PartSelect)) else None
    if found is not None and found.signal is not None and found.element is None and not (found.bits and found.bits.terms):
        return n.LRef(found.signal, None, found.bits, found.width)
    value = elab.expr(e)
    width = n.vec(value).width
    net = Signal(f"{elab.scope.prefix}control.{e.pos}", Vec(width), "net", e.pos, "wire", width - 1, implicit=True)
    elab.unit.signals.append(net)
    elab.drive(elab.context.site(e.pos, e.pos + 1, elab.process_name), e.pos, (whole(net),), value)
    return whole(net)


def _before_its_delay(elab: UnitElaborator, place: n.LRef) -> n.LRef:
    """What a switch is at: of a net with a delay of its own the one that is driven."""
    return n.LRef(elab.delayed_nets.get(place.signal, place.signal), place.element, place.bits, place.width)


def _bit_of(place: n.LRef, index: int) -> n.LRef:
    """The bit that a gate of an array gets: its own of a vector, the same one for all of a scalar (7.1.6)."""
    if place.width == 1:
        return place
    return n.LRef(place.signal, None, n.Offset((place.bits.const if place.bits else 0) + index), 1)


def _one_way(elab: UnitElaborator, item: ast.Gate, control_value: n.Expr, count: int) -> bool:
    """A MOS switch without delays passes the strength of its data on (7.12), so it becomes a connection and no driver. False if its
    data or control is no fixed bit of a signal: then it drives with strong levels."""
    active = int(_SWITCHES[item.kind])
    always = control_value == n.Const(BIT, active)
    data = _fixed_bits(elab, item.ports[1])
    control = None if always else _fixed_bits(elab, item.ports[2])
    places = elab.place(item.ports[0])
    if data is None or (control is None and not always) or any((p.signal.target or p.signal).kind != "net" for p in places):
        return False
    width = sum(p.width for p in places)
    for index in range(count):
        out = place_bit(elab, places, index if width > 1 else 0, item.pos)[0]
        closes = control and _bit_of(control, index)
        elab.unit.switches.append(
            Switch(
                _before_its_delay(elab, out),
                _bit_of(data, index),
                closes,
                active,
                item.kind.startswith("r"),
                item.pos,
                one_way=True,
            )
        )
    return True


def _fixed_bits(elab: UnitElaborator, port: ast.Expr) -> n.LRef | None:
    """The signal, or the bits of it, that an expression is; None if it is anything else."""
    if not isinstance(port, (ast.Name, ast.Index, ast.PartSelect)):
        return None
    found = elab.quietly(lambda: elab.selected(port))
    if found is None or found.signal is None or found.element is not None or (found.bits is not None and found.bits.terms):
        return None
    if not isinstance(found.signal.type, Vec) or found.signal.via is not None:
        return None
    return n.LRef(found.signal, None, found.bits, found.width)


def _bit(value: n.Expr, index: int, count: int) -> n.Expr:
    width = n.vec(value).width
    if width == 1:
        return value
    at = index if count > 1 else 0
    return n.Bits(BIT, value, n.Offset(at))


def _function(kind: str, a: list[n.Expr]) -> n.Expr:
    if kind in _MANY_INPUTS:
        op, negated = _MANY_INPUTS[kind]
        value = a[0]
        for other in a[1:]:
            value = n.Binary(BIT, op, value, other)
        return n.Unary(BIT, "~", value) if negated else (value if len(a) > 1 else _strong(value))
    if kind in ("buf", "not"):
        return n.Unary(BIT, "~", a[0]) if kind == "not" else _strong(a[0])
    if kind in _ENABLED:
        active, inverted = _ENABLED[kind]
        data = n.Unary(BIT, "~", a[0]) if inverted else _strong(a[0])
        return _gated(a[1], active, data)
    if kind in _SWITCHES:
        return _gated(a[1], _SWITCHES[kind], a[0])
    return n.Const(BIT, 1 if kind == "pullup" else 0)


def _strong(a: n.Expr) -> n.Expr:
    """z at an input counts as x (7.2)."""
    return n.Unary(BIT, "~", n.Unary(BIT, "~", a))


def _gated(control: n.Expr, active: bool, data: n.Expr) -> n.Expr:
    """Data while enabled, z while not, x when the control is unknown and there is data (tables 7-5, 7-6; `cell.c` also knows L and H)."""
    on = n.Binary(BIT, "===", control, n.Const(BIT, int(active)))
    off = n.Binary(BIT, "===", control, n.Const(BIT, int(not active)))
    nothing = n.Binary(BIT, "===", data, _Z)
    return n.Choice(BIT, on, data, n.Choice(BIT, off, _Z, n.Choice(BIT, nothing, _Z, _X)))
