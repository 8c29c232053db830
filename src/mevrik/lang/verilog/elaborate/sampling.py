"""Sampled values: what signals held before the present moment, and at clock ticks before (IEEE 1800-2017 16.5.1, 16.9.3)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.evaluate import Evaluator, NotConstant, Value, initial
from mevrik.design.record import replace
from mevrik.design.types import BIT, Real, Vec
from mevrik.design.unit import Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.folding import as_const
from mevrik.lang.verilog.elaborate.statements import StatementElaborator

EDGE_FUNCTIONS = {"$rose", "$fell", "$stable", "$changed"}
DEPTH_LIMIT = 1 << 12


class SamplingElaborator(StatementElaborator):
    clock: tuple[n.Sense, ...] | None  # what $past and its like count in the present place
    shadows: dict[Signal, Signal]
    histories: list[tuple[Signal, n.Expr]]  # and what gives them their start values

    def sampled(self, e: n.Expr) -> n.Expr:
        """The value of an expression from before the present moment."""
        return walk.with_refs(e, lambda r: replace(r, signal=self.shadow(r.signal)) if r.signal.kind != "local" else r)

    def shadow(self, signal: Signal) -> Signal:
        """A hidden signal that the kernel keeps at the value from before each moment."""
        if signal.sample_of is not None:
            return signal
        made = self.shadows.get(signal)
        if made is None:
            name = f"{self.scope.prefix}{signal.name}.sampled"
            made = replace(signal, name=name, kind="var", net="", port="", implicit=True, path=(), target=None)
            made.sample_of = signal
            made.number = -1
            self.unit.signals.append(made)
            self.shadows[signal] = made
            self.shapes[made] = self.shape_of_signal(signal)
        return made

    def history(self, e: n.Expr, depth: int, clock: tuple[n.Sense, ...], pos: int) -> n.Expr:
        """The sampled value of an expression `depth` ticks of the clock ago."""
        value: n.Expr = self.sampled(e)
        site = self.context.site(pos, pos + 1, "sampling")
        steps: list[n.Stmt] = []
        kept: n.Expr = value
        for _ in range(depth):
            made = Signal(f"{self.scope.prefix}past.{len(self.unit.signals)}", e.type, "var", pos, implicit=True)
            made.left = e.type.width - 1 if isinstance(e.type, Vec) else 63
            self.unit.signals.append(made)
            self.histories.append((made, e))
            steps.append(n.Schedule(site, (whole(made),), kept))
            kept = n.Ref(e.type, made)
        self.unit.processes.append(Process("always", steps, pos, self.scope.prefix, clock, hidden=True))
        return kept

    def sampled_call(self, e: ast.Call, name: str) -> n.Expr:
        """$sampled, $past, $rose, $fell, $stable, $changed."""
        arg = self.expr(self.argument(e, 0))
        if name == "$sampled":
            return self.sampled(arg)
        clock = self.clock
        at = 3 if name == "$past" else 1
        given = e.args[at] if len(e.args) > at else None
        if isinstance(given, ast.EventArg):
            clock = self.events(given.control)
        if clock is None:
            raise self.error(e.pos, f"{name} counts the ticks of a clock; there is none here (16.9.3)", "no-clock")
        if name == "$past":
            depth = 1
            if len(e.args) > 1 and e.args[1] is not None:
                depth = self.constant_int(e.args[1], "the number of ticks")
            if not 0 < depth <= DEPTH_LIMIT:
                raise self.error(e.pos, f"$past looks back 1 to {DEPTH_LIMIT} ticks, not {depth}", "arguments")
            return self.sampled(self.history(arg, depth, clock, e.pos))  # in any region of a moment what it was before
        now, before = self.sampled(arg), self.sampled(self.history(arg, 1, clock, e.pos))
        if name in ("$stable", "$changed"):
            return n.Binary(BIT, "===" if name == "$stable" else "!==", now, before)
        if isinstance(arg.type, Real):
            raise self.error(e.pos, f"{name} looks at a bit, not at a real number", "operand-type")
        wanted = n.Const(BIT, int(name == "$rose"))
        low = [n.Bits(BIT, x, n.Offset(0)) for x in (now, before)]
        return n.Binary(BIT, "&&", n.Binary(BIT, "===", low[0], wanted), n.Binary(BIT, "!==", low[1], wanted))

    def start_histories(self) -> None:
        """Before the first ticks an expression has the value that the variables' start values give it."""

        def first(signal: Signal, element: int) -> Value | None:
            init = signal.init
            if isinstance(init, n.RealConst):
                return init.value
            if isinstance(init, n.Const):
                return Evaluator().value(init)
            return 0.0 if isinstance(signal.type, Real) else initial(signal)

        for made, e in self.histories:
            try:
                made.init = as_const(Evaluator(first).value(e), e.type)
            except NotConstant:
                continue
