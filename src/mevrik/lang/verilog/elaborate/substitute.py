"""What a let, a named property or sequence becomes with its arguments put in their places (IEEE 1800-2017 11.12, 16.8)."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, TypeVar

from mevrik.design.record import replace
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.base import Elaborator

N = TypeVar("N", bound=ast.Node)


def substituted(
    elab: Elaborator, tree: N, name: str, ports: list[tuple[str, ast.Expr | None]], args: list[ast.Expr | None], pos: int
) -> N:
    """The tree with the formal arguments replaced by the actual ones."""
    names = [p for p, _ in ports]
    given: dict[str, ast.Expr] = {p: d for p, d in ports if d is not None}
    if len(args) > len(ports):
        raise elab.error(pos, f"'{name}' takes {len(ports)} arguments, {len(args)} are given", "arguments")
    for place, arg in enumerate(args):
        if isinstance(arg, ast.NamedArg):
            if arg.name not in names:
                raise elab.error(arg.pos, f"'{name}' has no argument '{arg.name}'{nearest(arg.name, names)}", "arguments")
            if arg.value is not None:
                given[arg.name] = arg.value
        elif arg is not None:
            given[names[place]] = arg
    for p in names:
        if p not in given:
            raise elab.error(pos, f"'{name}' needs a value for its argument '{p}'", "arguments")
    made = renewed(tree, given)
    assert isinstance(made, type(tree))
    return made


def renewed(x: Any, given: dict[str, ast.Expr]) -> Any:
    """A tree with other expressions in the place of names."""
    if isinstance(x, ast.Name) and x.name in given:
        return given[x.name]
    if isinstance(x, ast.Node):
        changed: dict[str, Any] = {name: renewed(getattr(x, name), given) for name in x.__struct_fields__}
        return replace(x, **changed)
    if isinstance(x, list):
        return [renewed(y, given) for y in x]
    if isinstance(x, tuple):
        return tuple(renewed(y, given) for y in x)
    return x
