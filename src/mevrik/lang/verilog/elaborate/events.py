"""Events that are values: in objects and lists, as arguments, assigned and compared (IEEE 1800-2017 15.5.5).

An event that a module declares is a signal, which is fast and has its place in the waves. One that is a value is a handle of the
class `named_event` of the built-in package. Where a signal is used as a value, such an object stands for it.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import EVENT, TIME, Handle, Type
from mevrik.design.unit import Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.classinfo import ClassInfo
from mevrik.lang.verilog.elaborate.scope import Shape

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

CLASS = "named_event"
KEY = f"std.{CLASS}"  # of the class, as its handles name it


def is_event_handle(t: Type) -> bool:
    return isinstance(t, Handle) and t.name == KEY


def event_class(elab: UnitElaborator, pos: int) -> ClassInfo:
    found = elab.package_scope("std", pos).find(CLASS)
    assert found is not None and isinstance(found[0], ClassInfo)
    return found[0]


def new_event(pos: int) -> ast.New:
    return ast.New(pos, ast.Number(pos, None, True, 0, 0), None)


def first_value(shape: Shape, d: ast.Declarator) -> ast.Expr | None:
    """What a variable begins with: what its declaration says; of an array of events each is an event of its own."""
    if d.init is not None or not is_event_handle(shape.type) or not shape.unpacked:
        return d.init
    made: ast.Expr | None = None
    for left, right in reversed(shape.unpacked):
        made = ast.Pattern(d.pos, [(None, made or new_event(d.pos)) for _ in range(abs(left - right) + 1)], False)
    return made


def as_variables(item: ast.EventDecl, lifetime: str = "") -> ast.VarDecl:
    """The declaration of events that are values: each begins as an event of its own."""
    names = [
        ast.Declarator(d.pos, d.name, d.dims, d.init if d.init is not None or d.dims else new_event(d.pos)) for d in item.names
    ]
    return ast.VarDecl(item.pos, ast.DataType(item.pos, "event"), names, lifetime)


def is_merged(elab: UnitElaborator, d: ast.Declarator) -> bool:
    """Whether the text of the module may assign something to an event that it declares (15.5.5.1). One that is taken for such without
    need works too, but has no place in the waves."""
    source = elab.context.diagnostics.sources.owner(d.pos)
    if source is None:
        return False
    text = source.text[elab.module.pos - source.base : elab.module.end - source.base]
    return re.search(rf"(?<![.\w$]){re.escape(d.name)}\s*(\[[^\]]*\]\s*)?=(?!=)", text) is not None


def value_of(elab: UnitElaborator, signal: Signal, pos: int) -> n.Expr:
    """The object that stands for an event of the design. Triggering it triggers the event, and the other way round."""
    from mevrik.lang.verilog.elaborate.decisions import Breaks

    info = event_class(elab, pos)
    made = elab.event_objects.get(signal)
    if made is None:
        outer = elab.scope, elab.breaks, elab.process_name, elab.process_locals
        elab.scope, elab.breaks, elab.process_name, elab.process_locals = elab.root, Breaks(), "initial", []
        name = f"{signal.name}.object"
        made = elab.event_objects[signal] = elab.signal(elab.root, name, Shape(info.type), [], "var", pos)
        variable = ast.Name(pos, name)
        site = elab.context.site(pos, pos, "initial")
        body = elab.statement(ast.Assign(pos, variable, new_event(pos), False))
        number = n.SysCall(info.fields["number"].shape.type, "$event_number", (n.Ref(EVENT, signal),), pos)
        field = info.fields["number"]
        body.append(n.FieldSet(site, n.Ref(info.type, made), field.word, field.shape.type, number))
        elab.start_with(Process("initial", body, 0, elab.root.prefix, locals=elab.process_locals, hidden=True))
        elab.process_locals = []
        count = elab.statement(ast.CallStmt(pos, ast.Call(pos, ast.Member(pos, variable, "count"), [])))
        sense = (n.Sense("any", n.Ref(EVENT, signal)),)
        elab.unit.processes.append(Process("always", count, pos, elab.root.prefix, sense, locals=elab.process_locals, hidden=True))
        elab.scope, elab.breaks, elab.process_name, elab.process_locals = outer
    return n.Ref(info.type, made)


def moment(elab: UnitElaborator) -> n.Expr:
    """The time in ticks of the design, plus one, so that 0 is never."""
    return n.Binary(TIME, "+", n.SysCall(TIME, "$time", (), 0, elab.context.tick_exp), n.Const(TIME, 1))


def trigger(s: ast.Trigger) -> ast.Stmt:
    """`-> e` of an event that is a value; of null it does nothing (15.5.5.2). `->> e` takes the event now and triggers it later."""
    name = "$event"
    event: ast.Expr = ast.Name(s.pos, name) if s.nonblocking else s.event

    def call(method: str) -> ast.Stmt:
        return ast.CallStmt(s.pos, ast.Call(s.pos, ast.Member(s.pos, event, method), []))

    fire = ast.Block(s.pos, "", [], [call("pass"), call("fire")]) if s.nonblocking else call("fire")
    guarded = ast.If(s.pos, ast.Binary(s.pos, "!=", event, ast.Name(s.pos, "null")), fire, None)
    if not s.nonblocking:
        return guarded
    kept = ast.VarDecl(s.pos, ast.DataType(s.pos, "event"), [ast.Declarator(s.pos, name, [], s.event)], "automatic")
    branch = ast.Timed(s.pos, s.control, guarded) if s.control is not None else guarded
    return ast.Block(s.pos, "", [kept], [ast.Block(s.pos, "", [], [branch], "join_none")])
