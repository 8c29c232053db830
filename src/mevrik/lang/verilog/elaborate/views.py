"""What modports call expressions of their interface (IEEE 1800-2017 25.5.4)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.scope import Shape

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


def unrolled(e: ast.Expr) -> tuple[str, list[ast.Expr]]:
    """The name that an expression begins with, and the selections behind it; "" if it is more than parts of one thing."""
    steps: list[ast.Expr] = []
    while isinstance(e, (ast.Member, ast.Index, ast.PartSelect)):
        steps.insert(0, e)
        e = e.base
    return (e.name if isinstance(e, ast.Name) else ""), steps


def complete_views(elab: UnitElaborator) -> None:
    """Give what an input or output calls an expression that is more than a part of a signal a signal of its own, from or to which the
    expression is assigned."""
    for item in elab.module.items:
        if isinstance(item, ast.Modport):
            for name, e in item.views.items():
                if not unrolled(e)[0] and item.ways[name] in ("input", "output"):
                    elab.guard(lambda item=item, name=name, e=e: _own_signal(elab, item, name, e))  # type: ignore[misc]


def _own_signal(elab: UnitElaborator, item: ast.Modport, name: str, e: ast.Expr) -> None:
    own = f"{item.name}.{name}"
    elab.scope = elab.root
    reads = item.ways[name] == "input"
    shape = Shape(elab.vector_type(elab.shape(e), e))
    elab.signal(elab.root, own, shape, [], "net" if reads else "var", e.pos, "wire" if reads else "").implicit = True
    here = ast.Name(e.pos, own)
    elab.deferred.append((elab.root, ast.ContinuousAssign(e.pos, *((here, e) if reads else (e, here)))))
    elab.views[item.name] = {**elab.views[item.name], name: here}
