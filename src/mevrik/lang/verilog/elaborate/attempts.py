"""Where concurrent assertions stand, and what waits for sequences (IEEE 1800-2017 16.13.6, 16.14.6)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import EVENT, INTEGER, Vec
from mevrik.design.unit import Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assertions import AssertionElaborator
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.decisions import Breaks
from mevrik.lang.verilog.elaborate.scope import PropertyName, Shape

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


def begin_attempts(elab: UnitElaborator, tree: ast.Assert, in_procedure: bool) -> list[n.Stmt]:
    """A concurrent assertion. Gives what notes that a procedure has come by: at the next tick an attempt begins for each time (16.14.6);
    of `expect` one alone, and not at a tick of the same moment (16.17)."""
    reached: Signal | None = None
    if in_procedure:
        name = f"{elab.scope.prefix}reached.{len(elab.unit.signals)}"
        reached = Signal(name, INTEGER, "var", tree.pos, "", 31, init=n.Const(INTEGER, 0), implicit=True)
        elab.unit.signals.append(reached)
    saved, elab.process_locals = elab.process_locals, []
    breaks, elab.breaks = elab.breaks, Breaks()
    try:
        AssertionElaborator(elab, tree, reached).run()
    finally:
        elab.process_locals, elab.breaks = saved, breaks
    if reached is None:
        return []
    once_more = n.Binary(INTEGER, "+", n.Ref(INTEGER, reached), n.Const(INTEGER, 1))
    return [n.Assign(elab.site(tree), (whole(reached),), once_more)]


def event_of_matches(elab: UnitElaborator, named: PropertyName) -> Signal:
    """What happens at each match of a sequence (9.4.2.4, 16.13.6)."""
    if named.event is None:
        pos, name = named.tree.pos, f"matches of {named.tree.name}"
        made = named.event = elab.signal(elab.root, name, Shape(EVENT), [], "var", pos)
        made.implicit = True
        prop = ast.Prop(pos, "every", [ast.Prop(pos, "bool", expr=ast.Name(pos, named.tree.name))])
        then = ast.Trigger(pos, ast.Name(pos, name))
        kept = elab.clock, elab.scope
        elab.clock, elab.scope = None, elab.root
        begin_attempts(elab, ast.Assert(pos, "cover", ast.Number(pos, None, True, 1, 0), then, None, prop=prop), False)
        elab.clock, elab.scope = kept
    return named.event


def wait_for_outcome(elab: UnitElaborator, tree: ast.Assert) -> list[n.Stmt]:
    """`expect`: the procedure waits until one attempt, begun at the next tick, succeeds or fails (16.17)."""
    pos, name = tree.pos, f"{tree.pos} {len(elab.unit.signals)}"
    succeeded, over = ast.Name(pos, f"succeeded {name}"), ast.Name(pos, f"over {name}")
    for made in (
        elab.signal(elab.scope, succeeded.name, Shape(Vec(1, False, False)), [], "var", pos),
        elab.signal(elab.scope, over.name, Shape(EVENT), [], "var", pos),
    ):
        made.implicit = True

    def outcome(value: int) -> ast.Stmt:
        return ast.Block(
            pos, "", [], [ast.Assign(pos, succeeded, ast.Number(pos, 1, False, value, 0), False), ast.Trigger(pos, over)]
        )

    begun = begin_attempts(elab, replace(tree, then=outcome(1), other=outcome(0)), True)
    wait = ast.Timed(pos, ast.TimingControl(pos, "event", events=[ast.EventExpr(pos, "", over)]), ast.Null(pos))
    text = ast.CallStmt(pos, ast.Call(pos, ast.Name(pos, "$error"), [ast.StringLiteral(pos, b"expect failed")]))
    then = ast.If(pos, succeeded, tree.then or ast.Null(pos), tree.other or text)
    return [*begun, *elab.statement(wait), *elab.statement(then)]
