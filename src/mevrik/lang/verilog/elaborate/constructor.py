"""What runs when an object is made, before the body of its `new` (IEEE 1800-2017 8.7)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import Array
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.scope import start_value

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.classinfo import ClassInfo
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


def constructor_start(elab: UnitElaborator, info: ClassInfo, tree: ast.Function) -> list[n.Stmt]:
    """What runs before the body of `new`: the base's constructor, unless the body calls it, and the start values (8.7)."""
    found: list[n.Stmt] = []
    body = tree.body.body if isinstance(tree.body, ast.Block) else []
    first = body[0] if body else None
    if info.base is not None and not is_super_new(first):
        base_new = ast.Member(tree.pos, ast.Name(tree.pos, "super"), "new")
        found += elab.statement(ast.CallStmt(tree.pos, ast.Call(tree.pos, base_new, info.tree.base_arguments)))
    elif info.base is not None and first is not None:
        found += elab.statement(first)
    for made in info.fields.values():
        site = elab.context.site(made.pos, made.pos + len(made.name), elab.process_name)
        if made.init is not None:
            target = ast.Member(made.pos, ast.Name(made.pos, "this"), made.name)  # an argument of `new` may have its name
            found += elab.statement(ast.Assign(made.pos, target, made.init, False))
            continue
        value = start_value(made.shape)
        if value is not None and made.shape.unpacked:
            place = n.FieldPlace(elab.this_value(made.pos), made.word, made.shape.type, site)
            array = made.shape.whole
            assert isinstance(array, Array)
            found.append(n.AssignArray(site, place, array, n.ArrayConst(array, (value,))))
        elif value is not None:
            found.append(n.FieldSet(site, elab.this_value(made.pos), made.word, made.shape.type, value))
    return found


def is_super_new(s: ast.Stmt | None) -> bool:
    if not isinstance(s, ast.CallStmt) or not isinstance(s.call, ast.Call):
        return False
    target = s.call.target
    return (
        isinstance(target, ast.Member)
        and target.name == "new"
        and isinstance(target.base, ast.Name)
        and target.base.name == "super"
    )
