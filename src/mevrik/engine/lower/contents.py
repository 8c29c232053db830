"""Waits for what is no signal: the properties of objects, the elements of queues and arrays, automatic variables that branches of a fork
share (IEEE 1800-2017 9.4.2, 9.4.3). They have no place in the kernel's tables; whoever waits for any of them looks again at each change.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import Value, field
from mevrik.design.unit import Signal, Subprogram, Unit

_CONTENTS = (n.FieldValue, n.ListValue, n.ListLoop, n.ListArray)


class Waited(Value):
    """What some process of the design waits for: whether for contents at all, and which automatic variables."""

    contents: bool = False
    variables: set[Signal] = field(default_factory=set)

    def __bool__(self) -> bool:
        return self.contents or bool(self.variables)


def waited_in(units: Iterable[Unit]) -> Waited:
    found = Waited()
    for unit in units:
        for body in (*(p.body for p in unit.processes), *(s.body for s in unit.subprograms)):
            for s in walk.statements(body):
                for e in _conditions(s):
                    found.contents |= _reads_contents(e)
                    found.variables |= {r.signal for r in walk.reads_of(e) if r.signal.kind == "local"}
    return found


def _conditions(s: n.Stmt) -> Iterator[n.Expr]:
    if isinstance(s, n.WaitUntil):
        yield s.cond
    elif isinstance(s, (n.WaitEvent, n.Assign)):
        yield from (e.expr for e in s.events)


def _reads_contents(e: n.Expr, seen: set[Subprogram] | None = None) -> bool:
    seen = set() if seen is None else seen
    for x in walk.expressions(e):
        if isinstance(x, _CONTENTS):
            return True
        if isinstance(x, n.Call):
            for sub in (x.function, *(other for _, other in x.variants)):
                if sub in seen:
                    continue
                seen.add(sub)
                for s in walk.statements(sub.body):
                    if any(_reads_contents(own, seen) for own in walk.own_expressions(s)):
                        return True
    return False


def waits_for_contents(e: n.Expr) -> bool:
    """Whether a condition has to be looked at again when contents or an automatic variable change."""
    return any(r.signal.kind == "local" for r in walk.reads_of(e)) or _reads_contents(e)


def changes(s: n.Stmt, waited: Waited) -> bool:
    """Whether a statement may change what is waited for."""
    if waited.contents:
        if isinstance(s, (n.ListStep, n.FieldSet)) or (isinstance(s, n.AssignArray) and not isinstance(s.target, n.LRef)):
            return True
        if any(isinstance(x, n.ListValue) and x.op == "pop" for e in walk.own_expressions(s) for x in walk.expressions(e)):
            return True
    return any(place.signal in waited.variables for place in walk.targets(s))
