"""One module with its parameters fixed: declarations, generate constructs, instances, processes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import replace
from mevrik.design.types import BIT, REAL, TIME, Array, Real, Vec
from mevrik.design.unit import Process, Signal, Unit
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.attempts import begin_attempts, event_of_matches, wait_for_outcome
from mevrik.lang.verilog.elaborate.clocking import ClockingName, ClockVar, clocking_drive, finish_clocking
from mevrik.lang.verilog.elaborate.context import DEFAULT_SCALE, Context
from mevrik.lang.verilog.elaborate.decisions import Breaks, withdrawn
from mevrik.lang.verilog.elaborate.folding import fold_resize, is_small
from mevrik.lang.verilog.elaborate.patterns import element_of
from mevrik.lang.verilog.elaborate.scope import (
    Bound,
    InterfacePort,
    Overrides,
    PropertyName,
    Scope,
    Shape,
    SubDecl,
    TypeName,
    TypeValue,
)
from mevrik.lang.verilog.elaborate.selections import Selected
from mevrik.lang.verilog.elaborate.statements import give_branches_their_variables
from mevrik.lang.verilog.elaborate.subprograms import SubprogramElaborator
from mevrik.lang.verilog.elaborate.views import complete_views

STRENGTH = {
    "supply": 7, "strong": 6, "pull": 5, "large": 4, "weak": 3, "medium": 2, "small": 1, "highz": 0,
}  # fmt: skip

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.instances import Placed


class UnitElaborator(SubprogramElaborator):
    """`given` holds the values of parameters from the instance and `inner` those that a defparam sets below it."""

    def __init__(
        self,
        context: Context,
        module: ast.Module,
        key: str,
        given: dict[str, n.Expr],
        inner: Overrides,
        parent: UnitElaborator | None,
        parent_scope: Scope | None,
        interfaces: dict[str, list[InterfacePort]] | None = None,
    ) -> None:
        self.interfaces = interfaces or {}
        self.context = context
        self.module = module
        self.given = given
        self.defparams = inner
        if context.upward is not None:
            context.upward.give(key, inner)
        self.parent = parent
        self.parent_scope = parent_scope
        scale = module.timescale or DEFAULT_SCALE
        self.scale = scale
        self.unit = Unit(module.name, key, module.pos, module.end, unit_exp=scale.unit, precision_exp=scale.precision)
        self.root = Scope(module.name, "", None, outside=self._outside_name)
        self.scope = self.root
        self.breaks = Breaks()
        self.process_name = ""
        self.process_locals: list[Signal] = []
        self.shapes: dict[Signal, Shape] = {}
        self.event_objects: dict[Signal, Signal] = {}
        self.standins: dict[tuple[tuple[str, ...], Signal], Signal] = {}
        self.deferred: list[tuple[Scope, ast.Item]] = []
        self.subs: list[SubDecl] = []
        self.inits: list[tuple[Scope, Signal, ast.Expr]] = []
        self.modports = {}
        self.views = {}
        self.started = False  # the initial values have been given
        self.starts = 0  # the processes that give them
        self.anonymous = 0
        self.stars: list[Process] = []
        self._announced: set[ast.ClassDecl | ast.Function] = set()
        self._procedures_announced = 0
        self.early: set[ast.Item] = set()
        self.holders = {}
        self._sub_scopes: dict[SubDecl, Scope] = {}
        self.referring_forms: dict[tuple[SubDecl, str], SubDecl] = {}
        self.inlining: list[SubDecl] = []
        self.coming: set[str] = set()  # interfaces of this module, which are not nets though not declared yet
        self.dollar: list[n.Expr] = []
        self.indexes: dict[Signal, Signal] = {}
        self.inner_ports: set[int] = set()
        self.finished = False
        self.delayed_nets: dict[Signal, Signal] = {}
        self.clock: tuple[n.Sense, ...] | None = None
        self.shadows: dict[Signal, Signal] = {}
        self.histories: list[tuple[Signal, n.Expr]] = []
        self.clockings: list[ClockingName] = []
        self.default_clocking: ClockingName | None = None
        self.default_disable: ast.Expr | None = None
        self.input_defaults: dict[str, ast.Expr] = {}
        self.clock_drivers: dict[Signal, Signal] = {}
        self.remote_subs: dict[tuple[tuple[str, ...], SubDecl], SubDecl] = {}

    # ---- the whole ----

    def run(self) -> Unit:
        self.declare_all()
        return self.finish()

    def declare_all(self) -> None:
        """Everything that has a name, so that others can refer to it."""
        self._header()
        self.guard(lambda: self._declare([*self.module.items, *self._bound_here()], self.root))
        self._finish_ports()
        if self.module.interface:
            complete_views(self.itself)
            self.unit.form = self._form()

    def _form(self) -> str:
        """How virtual interfaces name this one: with the values of its parameters, given or not (IEEE 1800-2017 25.9)."""
        from mevrik.lang.verilog.elaborate.defparams import parameters_of
        from mevrik.lang.verilog.elaborate.instances import value_words

        words = []
        for name in parameters_of(self.module):
            entity, value = self.root.names.get(name), self.unit.parameters.get(name)
            if isinstance(entity, TypeName):
                value = TypeValue(BIT, entity.shape)
            if isinstance(value, n.Const) and not value.unk:
                words.append(f"{name}={value.val}")
            elif value is not None:
                words.append(f"{name}={value_words(value)}")
        return f"{self.module.name} #({', '.join(words)})" if words else self.module.name

    def finish(self) -> Unit:
        """The instances below, then what the names do."""
        from mevrik.lang.verilog.elaborate.defparams import check_used
        from mevrik.lang.verilog.elaborate.instances import finish_instances, finish_nests

        placed: list[Placed] = []
        items = [(scope, d) for scope, d in self.deferred if isinstance(d, ast.Instance)]
        interfaces = [pair for pair in items if self.is_interface_instance(pair[1])]  # others may be connected to them
        self._place(interfaces, placed)
        finish_nests(self, placed)
        self._place([pair for pair in items if not self.is_interface_instance(pair[1])], placed)
        check_used(self)
        finish_instances(self, placed)
        for clocking in self.clockings:
            self.process_locals = []
            self.guard(lambda clocking=clocking: finish_clocking(self, clocking))  # type: ignore[misc]
        for scope, item in self.deferred:
            self.scope = scope
            if not isinstance(item, ast.Instance):
                self.guard(lambda item=item: self._process_item(item))  # type: ignore[misc]
        self.scope = self.root
        for entity in self.subs:
            self.guard(lambda entity=entity: self._sub_body(entity))  # type: ignore[misc]
        self._specify_blocks()
        self.initial_values()
        self._wake_stars()
        self.start_histories()
        self._regions()
        self.context.order.append(self.unit)
        return self.unit

    def _place(self, items: list[tuple[Scope, ast.Instance]], placed: list[Placed]) -> None:
        from mevrik.lang.verilog.elaborate.instances import place_instances

        for scope, item in items:
            self.scope = scope
            self.guard_declaration(item, scope, lambda item=item: placed.extend(place_instances(self, item)))  # type: ignore[misc]

    def _bound_here(self) -> list[ast.Item]:
        found: list[ast.Item] = []
        for path, override in self.defparams.items():
            if len(path) == 1 and isinstance(override.value, Bound):
                override.used = True
                bind = override.value.tree
                if bind.instances and bind.target[-1] != self.module.name:
                    message = f"this is an instance of '{self.module.name}', not of '{bind.target[-1]}' (IEEE 1800-2017 23.11)"
                    self.context.diagnostics.error(bind.pos, message, "bind")
                    continue
                found += bind.items
        return found

    def _specify_blocks(self) -> None:
        """Module paths and timing checks, when all that drives the outputs is known."""
        from mevrik.lang.verilog.elaborate.checks import CheckElaborator
        from mevrik.lang.verilog.elaborate.specify import SpecifyElaborator

        paths = [item for _, item in self.deferred if isinstance(item, (ast.ModulePath, ast.PulseLimit, ast.PulseStyle))]
        timing = [item for _, item in self.deferred if isinstance(item, ast.TimingCheck)]
        if not paths and not timing:
            return
        specify = SpecifyElaborator(self)
        specify.items(paths)
        checks = CheckElaborator(specify)
        for item in timing:
            self.guard(lambda item=item: checks.check(item))  # type: ignore[misc]
        checks.finish()
        specify.finish()

    @property
    def itself(self) -> UnitElaborator:
        return self

    def _regions(self) -> None:
        """The procedures of a program run when the design around it has settled (IEEE 1800-2017 24.3)."""
        if self.module.program:
            for process in self.unit.processes:
                if process.kind == "initial" and not process.hidden and not process.region:
                    process.region = "program"

    def _wake_stars(self) -> None:
        """The start value of a `reg` is an assignment like that of an initial procedure (IEEE 1364-2005 6.2.1): an `@*` that reads it
        and waits already is woken."""
        for process in self.stars:
            read = [walk.owner(s.expr.signal) for s in process.sense or () if isinstance(s.expr, n.Ref)]
            if any(signal.init is not None and not signal.fixed for signal in read):
                process.kind = "always_comb"

    # ---- clocks ----

    @property
    def default_clock(self) -> tuple[n.Sense, ...] | None:
        return self.default_clocking.clock if self.default_clocking is not None else None

    def sense_of(self, e: n.Expr) -> tuple[n.Sense, ...]:
        """Any change of what an expression reads."""
        return sensitivity([n.WaitUntil(0, e)], True)

    def clock_event(self, pos: int) -> Signal:
        if self.default_clocking is None:
            raise self.error(pos, "'##' counts the events of the default clocking; there is none (14.11)", "no-clock")
        return self.default_clocking.event

    def _clock_variable(self, e: ast.Expr) -> tuple[ClockingName, ClockVar] | None:
        if not isinstance(e, ast.Member):
            return None
        if isinstance(e.base, ast.Name):
            local = self.scope.find(e.base.name)
            clocking = local[0] if local is not None else None
        else:
            chosen = self.quietly(lambda: self.selected(e.base))
            clocking = chosen.clocking if chosen is not None else None
        if not isinstance(clocking, ClockingName):
            return None
        var = clocking.signals.get(e.name)
        if var is None or var.next is None:
            raise self.error(e.pos, f"'{e.name}' is no output of the clocking block '{clocking.tree.name}' (14.3)", "unknown-name")
        return clocking, var

    def clock_target(self, e: ast.Expr) -> tuple[ClockingName, ClockVar, list[ast.Expr]] | None:
        """An output of a clocking block as a target, and the selections from it."""
        steps: list[ast.Expr] = []
        while isinstance(e, (ast.Member, ast.Index, ast.PartSelect)):
            found = self._clock_variable(e)
            if found is not None:
                return *found, steps[::-1]
            steps.append(e)
            e = e.base
        return None

    def drive_clock_variable(self, s: ast.Assign, clocking: ClockingName, var: ClockVar, steps: list[ast.Expr]) -> list[n.Stmt]:
        if not s.nonblocking:
            raise self.error(s.pos, "an output of a clocking block is driven with '<=' (14.16)", "clocking")
        site = self.site(s)
        places: tuple[n.LRef, ...] = ()
        if steps:
            assert var.next is not None
            if var.mask is None:
                raise self.error(s.target.pos, f"'{var.name}' has no parts to select", "select")
            name = f"next of {var.next.name.removesuffix('.next')}"
            self.root.names[name] = var.next
            part: ast.Expr = ast.Name(s.target.pos, name)
            for step in steps:
                part = replace(step, base=part)
            places = self.place(part)
        value = self.for_target(s.value, self.selected(part).type if steps else var.type)
        default, self.default_clocking = self.default_clocking, clocking  # `##` counts its own events here (14.16)
        try:
            _, events, repeat = self._intra_control(s.control)
        finally:
            self.default_clocking = default
        if not events:
            return clocking_drive(var, value, site, places)
        kept = self.local(value.type, s.pos)
        wait = n.RepeatLoop(site, repeat or n.Const(Vec(32), 1), [n.WaitEvent(site, events)])
        later = clocking_drive(var, n.Ref(value.type, kept), site, places)
        return [n.Fork(site, [n.Block(site, [wait, *later])], "join_none", [(kept, value)])]

    def concurrent_assertion(self, tree: ast.Assert, in_procedure: bool) -> list[n.Stmt]:
        return begin_attempts(self, tree, in_procedure)

    def expectation(self, tree: ast.Assert) -> list[n.Stmt]:
        return wait_for_outcome(self, tree)

    def sequence_event(self, named: PropertyName) -> Signal:
        return event_of_matches(self, named)

    # ---- processes ----

    def time_unit(self) -> int:
        return self.scale.unit

    def ticks(self, e: ast.Expr) -> n.Expr:
        """A delay in ticks of the design, rounded to the module's precision (19.8, 9.7.1)."""
        to_precision = 10 ** (self.scale.unit - self.scale.precision)
        to_tick = 10 ** (self.scale.precision - self.context.tick_exp)
        if isinstance(e, ast.Number) and e.width is None and not e.unk:  # nearly always
            return n.Const(TIME, e.val * to_precision * to_tick & (1 << 64) - 1)
        built = self.expr(e)
        if not isinstance(built.type, Vec | Real):
            raise self.error(e.pos, f"{self.words(e)} is no number: a delay is one (9.7.1)", "operand-type")
        if isinstance(built.type, Real):
            scaled = n.Binary(REAL, "*", built, n.RealConst(REAL, float(to_precision)))
            ticks: n.Expr = n.ToVec(TIME, scaled)
            factor = to_tick
        elif isinstance(built, n.Const) and is_small(built) and n.vec(built).width <= 64:
            return n.Const(Vec(64), built.val * to_precision * to_tick & (1 << 64) - 1)
        else:
            ticks = fold_resize(built, Vec(64, n.vec(built).signed)) if n.vec(built).width <= 64 else built
            ticks = fold_resize(ticks, Vec(64, n.vec(ticks).signed))
            factor = to_precision * to_tick
        if factor != 1:
            ticks = n.Binary(Vec(64), "*", ticks, n.Const(Vec(64), factor))
        return self.constant_of(ticks, e.pos, "") if _is_const(ticks) else ticks

    def _process_item(self, item: ast.Item) -> None:
        self.process_locals = []
        if isinstance(item, ast.ContinuousAssign):
            self._continuous(item)
        elif isinstance(item, ast.Always):
            self._always(item)
        elif isinstance(item, ast.Gate):
            from mevrik.lang.verilog.elaborate.gates import gate

            gate(self, item)
        elif isinstance(item, ast.NetAlias):
            from mevrik.lang.verilog.elaborate.gates import alias

            alias(self, item)
        elif isinstance(item, ast.ElaborationTask):
            from mevrik.lang.verilog.elaborate.told import tell

            tell(self, item)

    def _continuous(self, item: ast.ContinuousAssign) -> None:
        self.process_name = "assign"
        site = self.context.site(item.pos, self._end(item.value), "assign")
        found = self.selected(item.target) if not isinstance(item.target, (ast.Concat, ast.Stream)) else None
        if found is not None and found.dims and found.signal is not None:
            self._continuous_array(item, found, site)
            return
        for inner in ast.within(item.value) if self.module.sv else ():
            if isinstance(inner, ast.AssignExpr):
                message = "'=' assigns here, which only a statement may do (11.3.6); '==' compares"
                raise self.error(inner.pos, message, "assignment-in-condition")
        places = self.place(item.target)
        self.check_modport(item.target)
        for p in places:
            signal = walk.owner(p.signal)
            if signal.kind != "net" and not self.module.sv:
                message = f"'{signal.name}' is a variable; 'assign' drives nets: declare it as wire"
                raise self.error_of(signal.name, item.target.pos, message, "assign-variable")
        shape = found.shape if found is not None else Shape(self.place_type(places))
        self.drive(site, item.pos, places, self.for_target(item.value, shape.type, shape), item.delay, item.strength)

    def _continuous_array(self, item: ast.ContinuousAssign, found: Selected, site: int) -> None:
        """Each element of an array has a driver of its own (IEEE 1800-2017 10.3)."""
        assert found.signal is not None
        array = found.shape.whole
        assert isinstance(array, Array)
        value = self.for_target(item.value, array, found.shape)
        start = found.element or n.Offset(0)
        for k in range(array.count):
            at = n.Offset(start.const + k, start.terms)
            place = n.LRef(found.signal, at, None, found.width)
            self.drive(site, item.pos, (place,), element_of(value, k), item.delay, item.strength)

    def _end(self, e: ast.Node) -> int:
        source = self.context.diagnostics.sources.owner(e.pos)
        if source is None:
            return e.pos
        stop = source.text.find(";", e.pos - source.base)
        return source.base + stop if stop >= 0 else e.pos

    def drive(
        self,
        site: int,
        pos: int,
        places: tuple[n.LRef, ...],
        value: n.Expr,
        delay: ast.Delay | None = None,
        strength: tuple[str, str] | None = None,
        woken: bool = True,
    ) -> Process:
        """Add a continuous driver. Without `woken` the caller says what it waits for."""
        delays = tuple(self.ticks(d) for d in delay.values) if delay is not None else ()
        if self.delayed_nets:
            places = tuple(replace(p, signal=self.delayed_nets.get(p.signal, p.signal)) for p in places)
        drive = n.Drive(site, places, value, delays, self.strengths(strength))
        sense = sensitivity([drive], into_calls=True) if woken else ()
        made = Process("assign", [drive], pos, self.scope.prefix, sense)
        self.unit.processes.append(made)
        return made

    def strengths(self, pair: tuple[str, str] | None) -> tuple[int, int]:
        low, high = 6, 6
        for word in pair or ():
            if word.endswith("0"):
                low = STRENGTH[word[:-1]]
            elif word.endswith("1"):
                high = STRENGTH[word[:-1]]
        return low, high

    def _clock_of(self, tree: ast.Stmt) -> tuple[n.Sense, ...] | None:
        """The clock that $past and assertions in a procedure count: its one edge that nothing in it tests (16.14.6)."""
        if not isinstance(tree, ast.Timed) or tree.control.kind != "event":
            return None
        edges = [e for e in tree.control.events if e.edge in ("posedge", "negedge")]
        tested = tree.body.body[0] if isinstance(tree.body, ast.Block) and tree.body.body else tree.body
        names = {x.name for x in _names_in(tested.cond)} if isinstance(tested, ast.If) else set()
        clocks = [e for e in edges if not (isinstance(e.expr, ast.Name) and e.expr.name in names)] or edges
        if not clocks:
            return None
        return self.quietly(lambda: self.events(ast.TimingControl(tree.control.pos, "event", events=clocks[:1])))

    def _always(self, item: ast.Always) -> None:
        if item.kind == "assertion":
            if isinstance(item.body, ast.Assert) and item.body.prop is not None:
                self.concurrent_assertion(item.body, False)
            else:
                self.body(item.body)
            return
        kind = "always" if item.kind.startswith("always") else item.kind
        self.process_name = item.kind
        self.breaks = Breaks()
        self.process_locals = []
        tree = item.body
        self.clock = self._clock_of(tree)
        diagnostics = self.context.diagnostics
        abandoned = self.context.abandoned
        body = self.body(tree)
        self.clock = None
        give_branches_their_variables(body)
        scope = self.scope.prefix
        sense: tuple[n.Sense, ...] | None = None
        self._strict_waits(item, body)
        if item.kind in ("always_comb", "always_latch"):
            written = {p.signal for p in walk.writes(body)}
            sense = tuple(s for s in sensitivity(body, True) if isinstance(s.expr, n.Ref) and s.expr.signal not in written)
            kind = "always_comb"
        elif kind == "final" and walk.suspends(body):
            raise self.error(
                item.pos, "a 'final' procedure runs when time has ended: it can't wait (IEEE 1800-2017 9.2.3)", "final-waits"
            )
        elif kind == "always":
            if not walk.suspends(body):
                if self.context.abandoned == abandoned:  # else the control may be there, only wrong
                    why = f"this '{item.kind}' has no delay or event control: it would run for ever at time 0"
                    diagnostics.error(item.pos, why, "endless-always")
                return
            if isinstance(body[0], n.WaitEvent) and not walk.suspends(body[1:]):
                sense = body[0].events
                body = body[1:]
                if not sense:
                    diagnostics.warning(item.pos, "this '@*' waits for nothing: the block reads no signal", "never-runs")
        if sense is not None and self.breaks.reports:  # to run again is to start anew (16.4.2)
            body = [*(withdrawn(flag, 0) for flag in self.breaks.reports), *body]
        explicit = isinstance(tree, ast.Timed) and tree.control.kind == "event"
        latch = item.kind == "always_latch"
        made = Process(kind, body, item.pos, scope, sense, locals=self.process_locals, explicit=explicit, latch=latch)
        if kind == "always" and isinstance(tree, ast.Timed) and tree.control.kind == "star" and not self.module.sv:
            self.stars.append(made)
        made.strict = item.kind if item.kind in ("always_comb", "always_ff", "always_latch") else ""
        self.unit.processes.append(made)

    def _strict_waits(self, item: ast.Always, body: list[n.Stmt]) -> None:
        """always_comb and always_latch wait for what they read by themselves, always_ff for one list of events (9.2.2)."""
        if item.kind not in ("always_comb", "always_latch", "always_ff"):
            return
        inside = body[1:] if item.kind == "always_ff" and body and isinstance(body[0], n.WaitEvent) else body
        found = next((s for s in walk.statements(inside) if walk.waits(s)), None)
        if found is not None:
            rule = "waits for its one event control only" if item.kind == "always_ff" else "waits for what it reads by itself"
            pos = self.context.sites[found.site].pos or item.pos
            self.context.diagnostics.error(pos, f"'{item.kind}' {rule}: nothing in it may wait (9.2.2)", "strict-waits")


def _names_in(e: ast.Expr) -> list[ast.Name]:
    match e:
        case ast.Name():
            return [e]
        case ast.Unary(operand=operand):
            return _names_in(operand)
        case ast.Binary(left=left, right=right):
            return _names_in(left) + _names_in(right)
    return []


def _is_const(e: n.Expr) -> bool:
    match e:
        case n.Const() | n.RealConst():
            return True
        case n.Binary(a=a, b=b):
            return _is_const(a) and _is_const(b)
        case n.ToVec(a=a) | n.ToReal(a=a) | n.Resize(a=a):
            return _is_const(a)
    return False
