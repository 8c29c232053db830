"""Which pulses pass a module path: PATHPULSE$, pulse styles, cancelled pulses (IEEE 1364-2005 14.6)."""

from __future__ import annotations

from collections.abc import Callable

from mevrik.design import nodes as n
from mevrik.design.record import Identity, field
from mevrik.design.types import TIME
from mevrik.design.unit import Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.unit import UnitElaborator

AS_DELAY = n.Const(TIME, (1 << 64) - 1)  # the limit is the delay of the path
ON_DETECT, SHOW_CANCELLED = 1, 2
Limits = tuple[
    list[n.Expr], list[n.Expr]
]  # for the twelve transitions: a shorter pulse than the first vanishes, than the second is x


class PulseElaborator(Identity):
    """The limits and styles that a module gives its paths."""

    elab: UnitElaborator
    bits: Callable[[ast.Expr, tuple[str, ...]], list[tuple[Signal, int]]]
    by_path: dict[tuple[str, str], tuple[ast.PulseLimit, Limits]] = field(default_factory=dict)
    of_all: Limits | None = None
    styles: dict[tuple[Signal, int], int] = field(default_factory=dict)
    used: set[tuple[str, str]] = field(default_factory=set)

    def limit(self, tree: ast.PulseLimit) -> None:
        elab = self.elab
        limits = elab.ticks(tree.reject), elab.ticks(tree.error)
        for tree_of, made in zip((tree.reject, tree.error), limits, strict=True):
            if not isinstance(made, n.Const):
                raise elab.error(tree_of.pos, "the limit of a pulse is a constant (IEEE 1364-2005 14.6.1)", "specify")
        reject, error = limits
        assert isinstance(reject, n.Const) and isinstance(error, n.Const)
        if error.val < reject.val:
            message = "the error limit of a pulse is not below its reject limit (IEEE 1364-2005 14.6.1)"
            raise elab.error(tree.error.pos, message, "specify")
        if tree.source:
            self.by_path[tree.source, tree.target] = tree, ([reject] * 12, [error] * 12)
        else:
            self.of_all = [reject] * 12, [error] * 12

    def style(self, tree: ast.PulseStyle, with_paths: set[tuple[Signal, int]]) -> None:
        for output in tree.outputs:
            for bit in self.bits(output, ("output", "inout")):
                if bit in with_paths:
                    message = f"{tree.kind} stands before the paths of its outputs (IEEE 1364-2005 14.6.4)"
                    raise self.elab.error(output.pos, message, "specify")
                style = self.styles.get(bit, 0)
                if tree.kind.startswith("pulsestyle"):
                    style = style & ~ON_DETECT | (ON_DETECT if tree.kind == "pulsestyle_ondetect" else 0)
                else:
                    style = style & ~SHOW_CANCELLED | (SHOW_CANCELLED if tree.kind == "showcancelled" else 0)
                self.styles[bit] = style

    def of(self, source: str, target: str) -> Limits | None:
        """The limits of the paths of one declaration, by its first terminals."""
        found = self.by_path.get((source, target))
        if found is None:
            return self.of_all
        self.used.add((source, target))
        return found[1]

    def unused(self) -> None:
        """Limits for paths that the module does not have."""
        for names, (tree, _) in self.by_path.items():
            if names not in self.used:
                message = f"there is no module path whose first terminals are '{names[0]}' and '{names[1]}', so these limits limit nothing (14.6.1)"
                self.elab.context.diagnostics.warning(tree.pos, message, "specify")
