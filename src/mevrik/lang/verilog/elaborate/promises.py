"""What a class owes to those that it extends and implements (IEEE 1800-2017 8.20, 8.21, 8.26)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.scope import Shape, SubDecl, matching
from mevrik.lang.verilog.elaborate.typewords import type_words

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.classinfo import ClassInfo, Method
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


def check_promises(elab: UnitElaborator, info: ClassInfo, base: ClassInfo | None, interfaces: list[ClassInfo]) -> None:
    """Its overrides fit, and a class of which objects are made has all methods that are only announced above."""
    tree = info.tree
    if base is not None:
        for name, method in info.methods.items():
            above = base.find_method(name)
            virtual = any(c.methods[name].virtual for c in base.line() if name in c.methods)
            if above is not None and virtual and name != "randomize":
                _check_override(elab, method.decl.tree, above)
    if base is not None and not tree.abstract:
        for name in {name for c in info.line() for name in c.methods}:
            here = info.find_method(name)
            if here is not None and here.pure and not here.info.tree.interface:
                message = f"the class '{tree.name}' lacks the method '{name}', which '{here.info.tree.name}' leaves to it (8.21)"
                elab.error(tree.pos, message, "class")
    if interfaces and not tree.abstract:
        for name, method in ((name, m) for c in info.line() if c.tree.interface for name, m in c.methods.items() if name != "new"):
            here = info.find_method(name)
            if here is None or here.info.tree.interface:
                message = f"the class '{tree.name}' lacks the method '{name}' of '{method.info.tree.name}' (8.26)"
                elab.error(tree.pos, message, "class")


def check_override_types(elab: UnitElaborator, entity: SubDecl, owner: ClassInfo) -> None:
    """The arguments of what overrides a virtual method have the types of its own, and so has the result, which may also be of a
    class derived from the one above (8.20)."""
    name = entity.tree.name
    above = owner.base.find_method(name) if owner.base is not None and name not in ("new", "randomize") else None
    if above is None or not above.virtual or above.decl.owner is None:
        return
    above.info.home.sub_head(above.decl)
    theirs = above.decl
    pairs = zip(entity.shapes, theirs.shapes, strict=False)
    wrong = next((k for k, (a, b) in enumerate(pairs) if k and not matching(a, b)), None)
    if wrong is not None:
        port, shape = entity.tree.ports[wrong - 1], theirs.shapes[wrong]
        message = f"the argument '{port.name}' has the type {type_words(shape)} in '{above.info.tree.name}', whose method it overrides (8.20)"
        elab.context.diagnostics.error(port.pos, message, "override")
    elif not _result_fits(elab, entity.shape, theirs.shape):
        wanted = type_words(theirs.shape) if theirs.shape is not None else "void"
        message = f"the result of '{name}' has the type {wanted} in '{above.info.tree.name}', whose method it overrides (8.20)"
        elab.context.diagnostics.error(entity.tree.pos, message, "override")


def _result_fits(elab: UnitElaborator, mine: Shape | None, theirs: Shape | None) -> bool:
    if mine is None or theirs is None:
        return mine is theirs
    info, base = elab.class_of_type(mine.type), elab.class_of_type(theirs.type)
    return matching(mine, theirs) or (info is not None and base is not None and any(c is base for c in info.line()))


def _check_override(elab: UnitElaborator, tree: ast.Function, above: Method) -> None:
    """What overrides a virtual method has its arguments, by number, names and directions (8.20)."""
    theirs = above.decl.tree
    mine, other = ([(p.name, p.direction) for p in t.ports] for t in (tree, theirs))
    if tree.is_task != theirs.is_task:
        what = f"is a {'task' if theirs.is_task else 'function'}"
    elif mine != other:
        what = "has the arguments (" + ", ".join(f"{direction} {name}" for name, direction in other) + ")"
    else:
        return
    message = f"'{tree.name}' overrides the virtual method of '{above.info.tree.name}', which {what} (8.20)"
    elab.context.diagnostics.error(tree.pos, message, "override")
