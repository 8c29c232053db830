"""User-defined primitives (IEEE 1364-2005 clause 8): a table, looked up at each change of an input.

A combinational one is a driver whose value is the look-up. A sequential one keeps its inputs as they were and its output in
hidden variables, and looks up when an input changes.
"""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.types import BIT, Vec
from mevrik.design.unit import Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.base import place_bit
from mevrik.lang.verilog.elaborate.unit import UnitElaborator

# levels as a set of bits: 1 for 0, 2 for 1, 4 for x (8.1.4, table 8-1)
_LEVELS = {"0": 1, "1": 2, "x": 4, "?": 7, "b": 3}
# (levels before, levels after) of the edge symbols
_EDGES = {"r": (1, 2), "f": (2, 1), "p": (5, 6), "n": (6, 5), "*": (7, 7)}
_OUTPUTS = {"0": 0, "1": 1, "x": 2, "-": 3}


def primitive(elab: UnitElaborator, item: ast.Instance, tree: ast.Primitive) -> None:
    """An instance, or an array of them, of a user-defined primitive."""
    elab.process_name = f"{tree.name} {item.name}".strip()
    rows = table(elab, tree)
    ports = [c.expr for c in item.ports]
    if len(ports) != 1 + len(tree.inputs) or any(c.name is not None for c in item.ports):
        wanted = 1 + len(tree.inputs)
        message = f"the primitive '{tree.name}' has {wanted} terminals, connected by order; {len(ports)} are given (8.6)"
        raise elab.error(item.pos, message, "gate-terminals")
    count = 1
    if item.dims:
        left, right = elab.range(item.dims[0])
        count = abs(left - right) + 1
    output = ports[0]
    if output is None:
        return
    places = elab.place(output)
    values = [elab.expr(p) if p is not None else n.Const(BIT, 0, 1) for p in ports[1:]]
    delay = ast.Delay(item.pos, [c.expr for c in item.params if c.expr is not None]) if item.params else None
    for index in range(count):
        bits = [_bit(v, index if count > 1 else 0) for v in values]
        now = n.Concat(Vec(len(bits)), tuple(bits))
        target = place_bit(elab, places, index if count > 1 else 0, item.pos)
        site = elab.context.site(item.pos, item.pos + len(item.name or tree.name), elab.process_name)
        value: n.Expr = n.Lookup(BIT, rows, now, None, None)
        if tree.sequential:
            value = _keep(elab, item, tree, index, rows, now, site)
        elab.drive(site, item.pos, target, value, delay, item.strength)


def _bit(value: n.Expr, index: int) -> n.Expr:
    return value if n.vec(value).width == 1 else n.Bits(BIT, value, n.Offset(index))


def _keep(elab: UnitElaborator, item: ast.Instance, tree: ast.Primitive, index: int, rows: bytes, now: n.Expr, site: int) -> n.Expr:
    """The process that looks up on a change; gives the hidden variable that holds the output."""
    width = n.vec(now).width
    elab.anonymous += 1
    name = f"{elab.scope.prefix}{item.name or tree.name}.{elab.anonymous}"
    before = Signal(f"{name}.inputs", Vec(width), "var", item.pos, left=width - 1, implicit=True)
    state = Signal(f"{name}.state", BIT, "var", item.pos, implicit=True)
    if tree.init is not None:
        state.init = n.Const(BIT, 1 if tree.init else 0, 1 if tree.init == 2 else 0)
    elab.unit.signals += [before, state]
    read_before, read_state = n.Ref(before.type, before), n.Ref(BIT, state)
    body: list[n.Stmt] = [
        n.Assign(site, (n.LRef(state, None, None, 1),), n.Lookup(BIT, rows, now, read_before, read_state)),
        n.Assign(site, (n.LRef(before, None, None, width),), now),
    ]
    sense = tuple(s for s in sensitivity(body, True) if isinstance(s.expr, n.Ref) and s.expr.signal not in (before, state))
    elab.unit.processes.append(Process("always_comb", body, item.pos, elab.scope.prefix, sense, hidden=True))
    return read_state


def table(elab: UnitElaborator, tree: ast.Primitive) -> bytes:
    """The rows packed for the kernel: a byte of levels after and one of levels before an input, then levels of the state
    and the output. Levels before are 0 where no edge is asked for."""
    packed = bytearray()
    earlier: list[bytes] = []
    for row in tree.rows:
        start = len(packed)
        if len(row.inputs) != len(tree.inputs):
            message = f"a row of '{tree.name}' has {len(row.inputs)} inputs, the primitive has {len(tree.inputs)}"
            raise elab.error(row.pos, message, "udp-row")
        if (row.state is None) == tree.sequential:
            what = "a current state between the inputs and the output" if tree.sequential else "no current state"
            raise elab.error(row.pos, f"a row of '{tree.name}' needs {what} (8.1.5)", "udp-row")
        edges = 0
        for symbol in row.inputs:
            before, after = _symbol(elab, row, symbol)
            edges += before != 0
            packed += bytes((after, before))
        if edges > 1:
            raise elab.error(row.pos, "a row can ask for an edge of one input only (8.1.5)", "udp-row")
        state = 7 if row.state is None else _LEVELS.get(row.state, 0)
        output = _OUTPUTS.get(row.output)
        if not state or output is None or (output == 3 and not tree.sequential):
            raise elab.error(row.pos, f"'{row.output if state else row.state}' has no meaning here (table 8-1)", "udp-row")
        packed += bytes((state, output))
        made = bytes(packed[start:])
        if any(_contradicts(made, other) for other in earlier):
            message = f"this row of '{tree.name}' gives another output to what an earlier row has as well, which is taken (8.1.4)"
            elab.context.diagnostics.warning(row.pos, message, "udp-row")
        earlier.append(made)
    return bytes(packed)


def _contradicts(one: bytes, other: bytes) -> bool:
    """Whether two rows of a table, as they are packed, have something in common but not the output. Of a row for levels and one
    for an edge the levels decide (8.8)."""
    if one[-1] == other[-1] or not one[-2] & other[-2]:
        return False
    for k in range(0, len(one) - 2, 2):
        after, before = one[k] & other[k], one[k + 1] & other[k + 1]
        if not after or (not one[k + 1]) != (not other[k + 1]):
            return False
        if one[k + 1] and not any(a != b for a in (1, 2, 4) if after & a for b in (1, 2, 4) if before & b):
            return False
    outputs = {one[-1], other[-1]}
    if 3 in outputs:  # '-' leaves the state as it is
        outputs.discard(3)
        return one[-2] & other[-2] != 1 << outputs.pop()
    return True


def _symbol(elab: UnitElaborator, row: ast.UdpRow, symbol: str) -> tuple[int, int]:
    if symbol in _LEVELS:
        return 0, _LEVELS[symbol]
    if symbol in _EDGES:
        return _EDGES[symbol]
    if len(symbol) == 4 and symbol[1] in _LEVELS and symbol[2] in _LEVELS:
        return _LEVELS[symbol[1]], _LEVELS[symbol[2]]
    raise elab.error(row.pos, f"'{symbol}' is no symbol of a table (table 8-1)", "udp-row")
