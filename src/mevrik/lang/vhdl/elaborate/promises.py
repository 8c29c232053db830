"""What declarations promise and the rest has to keep: bodies, values that come later, purity (IEEE 1076-2008 4.2, 4.3, 6.4.2.2)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from mevrik.design import typed as t
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.vhdl.elaborate.scope import Scope, TypeName


def without_body(x: Any) -> bool:
    """Whether it is a subprogram that was declared and has no body (4.2)."""
    return (
        isinstance(x, t.Subprogram)
        and bool(x.pos)
        and not x.implicit
        and not x.intrinsic
        and x.body is None
        and x.analyse is None
        and x.alias_of is None
    )


def check_complete(region: Scope, diagnostics: Diagnostics, of: str = "") -> None:
    """The subprograms that lack their bodies in a region that is complete, and the deferred constants that lack their values.
    `of`: the package whose region it is, as a message names it."""
    for entities in region.names.values():
        for x in entities:
            if without_body(x) and x.region is region:
                what = "function" if x.function else "procedure"
                diagnostics.error(x.pos, f"the {what} '{x.text}'{of} has no body", "no-body")
            elif isinstance(x, TypeName) and not x.complete:
                diagnostics.error(x.pos, f"the type '{x.name}'{of} is never defined: 'type {x.name} is ...' (5.4.2)", "incomplete")
            elif isinstance(x, t.Object) and x.kind == "constant" and x.init is None and x.value is None:
                message = f"the constant '{x.text}'{of} has no value: the body of the package gives it one, ':= value' (6.4.2.2)"
                diagnostics.error(x.pos, message, "deferred")


def check_pure(sub: t.Subprogram, diagnostics: Diagnostics) -> None:
    """What a pure function, or a subprogram in its declarations, uses that may be different at each call (4.3): signals and variables
    declared outside of it, and impure functions. Lengths and ranges of those are no uses of their values."""
    inside = {sub}
    pure = sub if sub.function and not sub.impure else None
    outer = sub.enclosing
    while outer is not None and pure is None:
        inside.add(outer)
        if outer.function and not outer.impure:
            pure = outer
        outer = outer.enclosing
    if pure is None:
        return
    inside.add(pure)
    advice = f"write 'impure function {pure.text}', or give it a parameter (4.3)"
    told: set[Any] = set()
    for node, pos in _uses(sub):
        if isinstance(node, t.Call):
            if (
                node.sub.function
                and node.sub.impure
                and not node.sub.implicit
                and node.sub not in told
                and not _within(node.sub, pure)
            ):
                told.add(node.sub)
                message = f"the pure function '{pure.text}' calls '{node.sub.text}', which is impure: {advice}"
                diagnostics.warning(pos, message, "impure")
            continue
        o = node.object
        if o.kind in ("signal", "variable") and o not in told and o.owner not in inside:
            told.add(o)
            name = f"the {o.kind} '{o.text or o.name}'"
            message = f"the pure function '{pure.text}' uses {name}, which is declared outside of it: {advice}"
            diagnostics.error(pos, message, "impure")


def _within(sub: t.Subprogram, outer: t.Subprogram) -> bool:
    here: t.Subprogram | None = sub
    while here is not None and here is not outer:
        here = here.enclosing
    return here is outer


def _uses(sub: t.Subprogram) -> Iterator[tuple[Any, int]]:
    """The objects that are read or written and the calls, with their positions."""
    stack: list[tuple[Any, int]] = [(s, sub.pos) for s in (*sub.decls, *(sub.body or ()))]
    stack.reverse()
    while stack:
        node, pos = stack.pop()
        pos = getattr(node, "pos", 0) or pos
        if isinstance(node, t.BoundOf):
            continue
        if isinstance(node, t.Declare):
            if node.object.init is not None:
                stack.append((node.object.init, pos))
            continue
        if isinstance(node, (t.Ref, t.Call)):
            yield node, pos
        stack += [(child, pos) for child in reversed(t.children(node))]
