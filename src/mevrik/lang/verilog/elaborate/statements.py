"""Procedural statements (IEEE 1364-2005 clauses 9 and 10)."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.evaluate import initial
from mevrik.design.types import BIT, TEXT, Array, EventType, List, Real, Text, Type, Vec
from mevrik.design.unit import Annotation, Process, Signal, Subprogram
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.calls import SYSTEM_TYPES, number, span
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.decisions import Breaks, DecisionElaborator
from mevrik.lang.verilog.elaborate.expressions import reversed_slices
from mevrik.lang.verilog.elaborate.folding import fold_resize
from mevrik.lang.verilog.elaborate.patterns import SPREAD_LIMIT, element_of
from mevrik.lang.verilog.elaborate.scope import BlockName, RemoteBlock, Scope, Shape, SubDecl
from mevrik.lang.verilog.elaborate.selections import Selected

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.clocking import ClockingName, ClockVar

DISPLAY = {f"{a}{b}" for a in ("$display", "$write", "$strobe", "$monitor") for b in ("", "b", "o", "h")}
FILE_DISPLAY = {f"{a}{b}" for a in ("$fdisplay", "$fwrite", "$fstrobe", "$fmonitor") for b in ("", "b", "o", "h")}
TASKS = {
    *DISPLAY, *FILE_DISPLAY, "$finish", "$stop", "$fatal", "$error", "$warning", "$info", "$monitoron", "$monitoroff",
    "$readmemh", "$readmemb", "$writememh", "$writememb", "$timeformat", "$printtimescale", "$fclose", "$fflush", "$dumpfile", "$dumpvars", "$dumpon",
    "$dumpoff", "$dumpall", "$dumpflush", "$dumplimit", "$sdf_annotate", "$sformat", "$swrite", "$swriteb", "$swriteo", "$swriteh",
}  # fmt: skip


class StatementElaborator(DecisionElaborator):
    process_locals: list[Signal]
    holders: dict[tuple[Signal, bool], Signal]
    hold_count: int = 0

    def declare_items(self, items: list[ast.Item], scope: Scope, automatic: bool) -> list[n.Stmt]:
        raise NotImplementedError

    def remote_block_of(self, entity: SubDecl) -> RemoteBlock | None:
        raise NotImplementedError

    def open_scope(self, name: str, kind: str) -> Scope:
        raise NotImplementedError

    def ticks(self, e: ast.Expr) -> n.Expr:
        raise NotImplementedError

    def body(self, s: ast.Stmt | None) -> list[n.Stmt]:
        """A statement as a list; one that has an error is left out."""
        if s is None or isinstance(s, ast.Null):
            return []
        try:
            return self.statement(s)
        except Abandon:
            return []

    def statement(self, s: ast.Stmt) -> list[n.Stmt]:
        match s:
            case ast.Block():
                return self._block(s)
            case ast.Assign():
                return self._assign(s)
            case ast.If():
                return self.if_statement(s)
            case ast.Case():
                return self.case_statement(s)
            case ast.Foreach():
                return self._foreach(s)
            case ast.For() | ast.While() | ast.Forever() | ast.Repeat():
                return self._loop_statement(s)
            case ast.Timed(control=control, body=body):
                inner = self.body(body)
                return [self._control(control, inner), *inner]
            case ast.Wait(cond=cond, body=body):
                return [n.WaitUntil(self.site(s), self.truth(cond)), *self.body(body)]
            case ast.ForkControl(kind=kind):
                return [n.WaitFork(self.site(s)) if kind == "wait" else n.DisableFork(self.site(s))]
            case ast.Trigger():
                return self._trigger(s)
            case ast.CallStmt(call=call):
                return self._call_statement(s, call)
            case ast.Disable(target=target):
                return self._disable(s, target)
            case ast.Jump():
                return self._jump(s)
            case ast.ProcAssign(kind=kind, target=target, value=value):
                return self._hold(s, kind, target, value)
            case ast.Cycles(count=count, body=body):
                return [*self._cycles(s, count), *self.body(body)]
            case ast.Assert(prop=prop) if prop is not None:
                self.concurrent_assertion(s)
                return []
            case ast.Assert():
                return self.assert_statement(s)
            case ast.Null():
                return []
        raise self.error(s.pos, "this statement is not supported yet", "unsupported")

    def concurrent_assertion(self, tree: ast.Assert) -> None:
        raise NotImplementedError

    def clock_variable(self, e: ast.Expr) -> tuple[ClockingName, ClockVar] | None:
        """The signal of a clocking block that an expression names; None, without a message, for anything else."""
        raise NotImplementedError

    def clock_event(self, pos: int) -> Signal:
        """The event of the default clocking."""
        raise NotImplementedError

    def drive_clock_variable(self, s: ast.Assign, clocking: ClockingName, var: ClockVar) -> list[n.Stmt]:
        raise NotImplementedError

    def _cycles(self, s: ast.Node, count: ast.Expr) -> list[n.Stmt]:
        """`##n`: that many events of the default clocking."""
        event = self.clock_event(s.pos)
        wait = n.WaitEvent(self.site(s), (n.Sense("any", n.Ref(event.type, event)),))
        return [n.RepeatLoop(self.site(s), self.expr(count), [wait])]

    def _hold(self, s: ast.ProcAssign, kind: str, target: ast.Expr, value: ast.Expr | None) -> list[n.Stmt]:
        """assign, deassign, force, release (9.3). The value is continuous: a process repeats the hold when an operand
        changes, as long as a hidden variable says that this statement is the one that holds the target."""
        places = self.place(target)
        for p in places:
            walk.owner(p.signal).forced = True
        site = self.site(s)
        keys = [(walk.owner(p.signal), kind in ("force", "release")) for p in places]
        if value is None:
            clear = [self._set_holder(self.holders[k], 0, site) for k in keys if k in self.holders]
            return [*clear, n.Force(site, kind, places, None)]
        hold = n.Force(site, kind, places, self.for_target(value, self.place_type(places)))
        sense = sensitivity([hold])
        marks: list[n.Stmt] = []
        self.hold_count += 1
        for key in keys:
            if key not in self.holders:
                name = f"{self.scope.prefix}{key[0].name}.{'force' if key[1] else 'assign'}"
                holder = Signal(name, Vec(32, False, False), "var", s.pos, implicit=True)
                self.unit.signals.append(holder)
                self.holders[key] = holder
            marks.append(self._set_holder(self.holders[key], self.hold_count, site))
        if sense:
            holder = self.holders[keys[0]]
            mine = n.Binary(BIT, "==", n.Ref(holder.type, holder), n.Const(Vec(32, False, False), self.hold_count))
            self.unit.processes.append(
                Process("always", [n.If(site, mine, [hold], [])], s.pos, self.scope.prefix, sense, hidden=True)
            )
        return [*marks, hold]

    def _set_holder(self, holder: Signal, value: int, site: int) -> n.Stmt:
        return n.Assign(site, (n.LRef(holder, None, None, 32),), n.Const(Vec(32, False, False), value))

    def _event_signal(self, e: ast.Expr) -> Signal:
        s = self.selected(e)
        if s.signal is None or not isinstance(s.signal.type, EventType):
            raise self.error(e.pos, f"{self.words(e)} is no event", "operand-type")
        return s.signal

    def _block(self, s: ast.Block) -> list[n.Stmt]:
        outer = self.scope
        made = n.Block(self.site(s), [], s.label)
        opened = bool(s.label or s.decls)
        if opened:
            scope = self.open_scope(s.label, "block")
            if s.label:
                self.declare_block(s, made, scope, outer)
            self.scope = scope
        self.breaks.open.append(made)
        try:
            inits = self.declare_items(s.decls, self.scope, False) if s.decls else []
            if s.fork:
                branches: list[n.Stmt] = []
                outside, self.breaks.open = self.breaks.open, []  # a branch is a process of its own: it can't just leave
                for inner in s.body:
                    branches.append(n.Block(self.site(inner), self.body(inner)))
                self.breaks.open = outside
                own = [
                    (i.target[0].signal, i.value) for i in inits if isinstance(i, n.Assign) and i.target[0].signal.kind == "local"
                ]
                rest = [i for i in inits if not (isinstance(i, n.Assign) and i.target[0].signal.kind == "local")]
                made.body = [*rest, n.Fork(self.site(s), branches, s.fork, own)]
            else:
                made.body = inits
                for inner in s.body:
                    made.body.extend(self.body(inner))
        finally:
            self.breaks.open.pop()
            self.scope = outer
        return [made] if s.label else made.body

    def declare_block(self, s: ast.Block, made: n.Block, scope: Scope, outer: Scope) -> None:
        old = outer.names.get(s.label)
        if old is not None and not (isinstance(old, BlockName) and outer.positions.get(s.label) == s.pos):
            line = self.context.diagnostics.sources.place(outer.positions.get(s.label, 0)).line
            self.context.diagnostics.error(s.pos, f"'{s.label}' is already declared in line {line}", "declared-twice")
        outer.names[s.label] = BlockName(made, scope)
        outer.positions[s.label] = s.pos

    def _foreach(self, s: ast.Foreach) -> list[n.Stmt]:
        """Nested loops over the dimensions that have a name, from the left to the right (12.7.3)."""
        shape = self.shape_of(s.array)
        return self.statement(self._each(s, s.array, shape, 0))

    def _each(self, s: ast.Foreach, array: ast.Expr, shape: Shape, at: int) -> ast.Stmt:
        """The loop over dimension `at`, around those behind it."""
        if at == len(s.names):
            return s.body
        pos, name = s.names[at]
        index: ast.Expr = ast.Name(pos, name) if name is not None else number(pos, 0)
        one = number(pos, 1)
        t = shape.type
        if shape.unpacked:
            left, right = shape.unpacked[0]
            rest = replace(shape, unpacked=shape.unpacked[1:])
        elif isinstance(t, List):
            rest = shape.inner or Shape(t.element)
            if t.key is not None:
                return self._each_key(s, array, t, rest, at)
            left, right = 0, -1
        elif isinstance(t, Text):
            left, right, rest = 0, -1, Shape(Vec(8))
        elif shape.packed and isinstance(t, Vec):
            left, right = shape.packed[0]
            rest = Shape(Vec(t.width // (abs(left - right) + 1)), shape.packed[1:])
        else:
            raise self.error(s.pos, f"{self.words(s.array)} has {at} dimensions, {len(s.names)} are named", "select")
        if name is None:
            return self._each(s, ast.Index(pos, array, number(pos, left)), rest, at + 1)
        body = self._each(s, ast.Index(pos, array, index), rest, at + 1)
        counted = isinstance(t, (List, Text)) and not shape.unpacked
        up = counted or right >= left
        end = ast.Call(pos, ast.Member(pos, array, "len" if isinstance(t, Text) else "size"), []) if counted else number(pos, right)
        declared = ast.VarDecl(pos, ast.DataType(pos, "int"), [ast.Declarator(pos, name)], "automatic")
        start = ast.Assign(pos, index, number(pos, left), False)
        test = ast.Binary(pos, "<" if counted else "<=" if up else ">=", index, end)
        return ast.For(s.pos, [declared], [start], test, [ast.Assign(pos, index, one, False, "+" if up else "-")], body)

    def _each_key(self, s: ast.Foreach, array: ast.Expr, t: List, rest: Shape, at: int) -> ast.Stmt:
        """The keys of an associative array, in their order."""
        pos, name = s.names[at]
        if name is None:
            raise self.error(s.pos, "the index of an associative array needs a name here", "select")
        assert t.key is not None
        index = ast.Name(pos, name)
        body = self._each(s, ast.Index(pos, array, index), rest, at + 1)
        kind = ast.DataType(pos, "known", known=Shape(t.key, ((t.key.width - 1, 0),)))
        declared = ast.VarDecl(pos, kind, [ast.Declarator(pos, name)], "automatic")

        def move(how: str) -> ast.Expr:
            call = ast.Call(pos, ast.Member(pos, array, how), [index])
            return ast.Binary(pos, "!=", call, number(pos, 0))

        loop = ast.While(s.pos, move("next"), body, test_last=True)
        return ast.Block(s.pos, "", [declared], [ast.If(s.pos, move("first"), loop, None)])

    def _assign(self, s: ast.Assign) -> list[n.Stmt]:
        if isinstance(s.target, ast.Stream):
            return self._unpack(s, s.target)
        clocked = self.clock_variable(s.target) if isinstance(s.target, ast.Member) else None
        if clocked is not None:
            return self.drive_clock_variable(s, *clocked)
        if not isinstance(s.target, ast.Concat):
            found = self.selected(s.target)
            simple = found.signal is not None and not found.dims and found.character is None
            if not simple or (found.bits is not None and isinstance(found.type, Real)) or isinstance(found.type, List):
                return self._assign_whole(s, found)
            places: tuple[n.LRef, ...] = (n.LRef(found.signal, found.element, found.bits, found.width),)  # type: ignore[arg-type]
            if isinstance(found.type, EventType):
                self.place(s.target)  # says why not
            target, shape = found.type, found.shape
        else:
            places = self.place(s.target)
            target = self.place_type(places)
            shape = Shape(target)
        site = self.site(s)
        self.check_procedural(s.target, places)
        value = ast.Binary(s.pos, s.op, s.target, s.value) if s.op else s.value
        built = self.for_target(value, target, shape)
        delay, events, repeat = self._intra_control(s.control)
        if s.nonblocking:
            if any(p.signal.kind == "local" for p in places):
                raise self.error(
                    s.pos, "an automatic variable can't be assigned with '<=' (IEEE 1364-2005 6.3)", "nonblocking-local"
                )
            if events:
                return [self._schedule_at_event(s.pos, site, places, built, target, events, repeat)]
            return [n.Schedule(site, places, built, delay)]
        return [n.Assign(site, places, built, delay, events, repeat)]

    def _assign_whole(self, s: ast.Assign, found: Selected) -> list[n.Stmt]:
        """An assignment to an array, a list, a property, an element of a list, a character of a string."""
        site = self.site(s)
        shape = found.shape
        if found.signal is not None and found.dims and s.nonblocking and found.signal.kind != "local":
            return self._schedule_array(s, found, site)
        if s.nonblocking or s.control is not None:
            raise self.error(
                s.pos, "what lies in an object, a list or a string is assigned with a plain '=' (6.21)", "operand-type"
            )
        value = ast.Binary(s.pos, s.op, s.target, s.value) if s.op else s.value
        if isinstance(shape.type, List) and not shape.unpacked:
            place = self.list_place(found)
            if place is None:
                raise self.error(s.target.pos, f"{self.words(s.target)} can't be assigned", "operand-type")
            return self.fill_list(site, place, shape, value)
        return self.store_selected(site, found, self.for_target(value, shape.whole, shape), s.target)

    def _schedule_array(self, s: ast.Assign, found: Selected, site: int) -> list[n.Stmt]:
        """A nonblocking assignment to an array: one to each of its elements."""
        shape = found.shape
        assert found.signal is not None
        self.check_procedural(s.target, (n.LRef(found.signal, found.element, None, found.width),))
        value = self.for_target(s.value, shape.whole, shape)
        array = shape.whole
        assert isinstance(array, Array)
        if array.count > SPREAD_LIMIT:
            raise self.error(s.pos, f"a nonblocking assignment takes arrays of at most {SPREAD_LIMIT} elements", "unsupported")
        delay, _, _ = self._intra_control(s.control)
        start = found.element or n.Offset(0)
        made: list[n.Stmt] = []
        for k in range(array.count):
            at = n.Offset(start.const + k, start.terms)
            item = element_of(value, k)
            made.append(n.Schedule(site, (n.LRef(found.signal, at, None, found.width),), item, delay))
        return made

    def _unpack(self, s: ast.Assign, target: ast.Stream) -> list[n.Stmt]:
        """`{<<8{a, b}} = value;` (IEEE 1800-2017 11.4.14.3)."""
        widths = [n.vec(self.as_bits(p)).width for p in target.parts]
        total = sum(widths)
        if isinstance(s.value, ast.Stream):
            value = self.stream(s.value)
        else:
            t = self.vector_type(self.shape(s.value), s.value) if not self.shape_of(s.value).unpacked else None
            value = self.as_bits(s.value) if t is None else self.build(s.value, Vec(max(t.width, total), t.signed, t.four))
        width = n.vec(value).width
        if width < total:
            raise self.error(s.pos, f"the stream takes {total} bits, the value has {width}", "stream-width")
        if width > total:  # what is left over at the right end is lost
            value = n.Bits(Vec(total), value, n.Offset(width - total))
        kept = self.local(Vec(total), s.pos)
        site = self.site(s)
        steps: list[n.Stmt] = [n.Assign(site, (whole(kept),), value)]
        made: n.Expr = n.Ref(kept.type, kept)
        if target.left:
            made = reversed_slices(made, self.slice_of(target), unpack=True)
        whole_value = self.local(Vec(total), s.pos)
        steps.append(n.Assign(site, (whole(whole_value),), made))
        low = total
        for part, size in zip(target.parts, widths):
            low -= size
            steps += self._unpack_into(site, part, n.Ref(whole_value.type, whole_value), low)
        return steps

    def _unpack_into(self, site: int, part: ast.Expr, source: n.Expr, low: int) -> list[n.Stmt]:
        shape = self.shape_of(part)
        if not shape.unpacked:
            t = shape.type
            assert isinstance(t, Vec)
            piece = fold_resize(n.Bits(Vec(t.width), source, n.Offset(low)), t)
            return self.store(site, part, piece)
        steps: list[n.Stmt] = []
        left, right = shape.unpacked[0]
        size = 0
        for k in reversed(list(span(left, right))):
            element = ast.Index(part.pos, part, number(part.pos, k))
            steps += self._unpack_into(site, element, source, low + size)
            size += n.vec(self.as_bits(element)).width
        return steps

    def _intra_control(self, control: ast.TimingControl | None) -> tuple[n.Expr | None, tuple[n.Sense, ...], n.Expr | None]:
        """The delay, or the events and how often they are waited for, that stand inside an assignment."""
        if control is None:
            return None, (), None
        if control.kind == "delay":
            assert control.delay is not None
            return self.ticks(control.delay), (), None
        if control.kind == "cycles":
            assert control.delay is not None
            event = self.clock_event(control.pos)
            return None, (n.Sense("any", n.Ref(event.type, event)),), self.expr(control.delay)
        return None, self.events(control), self.expr(control.repeat) if control.repeat is not None else None

    def _trigger(self, s: ast.Trigger) -> list[n.Stmt]:
        """`-> e`, and `->> e` which triggers when nonblocking updates are made (IEEE 1800-2017 15.5.1): it assigns a number, each
        time another one, to a hidden variable whose changes trigger the event."""
        event, site = self._event_signal(s.event), self.site(s)
        if not s.nonblocking:
            return [n.Trigger(site, event)]
        kind = Vec(32, False, False)
        count, update = (
            Signal(f"{self.scope.prefix}{event.name}.{w}", kind, "var", s.pos, implicit=True) for w in ("count", "update")
        )
        self.unit.signals += [count, update]
        sense = (n.Sense("any", n.Ref(kind, update)),)
        self.unit.processes.append(Process("always", [n.Trigger(site, event)], s.pos, self.scope.prefix, sense, hidden=True))
        counted = n.Assign(site, (n.LRef(count, None, None, 32),), n.Binary(kind, "+", n.Ref(kind, count), n.Const(kind, 1)))
        target, value = (n.LRef(update, None, None, 32),), n.Ref(kind, count)
        delay, events, repeat = self._intra_control(s.control)
        if events:
            return [counted, self._schedule_at_event(s.pos, site, target, value, kind, events, repeat)]
        return [counted, n.Schedule(site, target, value, delay)]

    def _schedule_at_event(
        self,
        pos: int,
        site: int,
        places: tuple[n.LRef, ...],
        built: n.Expr,
        target: Type,
        events: tuple[n.Sense, ...],
        repeat: n.Expr | None,
    ) -> n.Stmt:
        """`a <= repeat (n) @(e) b`: value, indexes and count are taken now and the process goes on; a process of its own waits
        for the events and then schedules the update (IEEE 1364-2005 9.7.7)."""
        own: list[tuple[Signal, n.Expr]] = []

        def kept(value: n.Expr, kind: Type) -> n.Ref:
            signal = Signal("", kind, "local", pos, implicit=True)
            self.add_local(signal)
            own.append((signal, value))
            return n.Ref(kind, signal)

        def settled(offset: n.Offset | None) -> n.Offset | None:
            if offset is None or not offset.terms:
                return offset
            return n.Offset(offset.const, tuple(replace(t, index=kept(t.index, t.index.type)) for t in offset.terms))

        later = tuple(replace(p, element=settled(p.element), bits=settled(p.bits)) for p in places)
        value = kept(built, target)
        itself = (n.LRef(value.signal, None, None, sum(p.width for p in places)),)
        count = None if repeat is None else kept(repeat, repeat.type)
        wait = n.Assign(site, itself, value, None, events, count)
        return n.Fork(site, [n.Block(site, [wait, n.Schedule(site, later, value)])], "join_none", own)

    def check_procedural(self, tree: ast.Expr, places: tuple[n.LRef, ...]) -> None:
        for p in places:
            signal = walk.owner(p.signal)
            if signal.kind == "net":
                what = f"the {signal.port} port" if signal.port else "the net"
                raise self.error(
                    tree.pos,
                    f"{what} '{signal.name}' is a wire; an always or initial block can only assign a variable: declare it as reg",
                    "assign-net",
                )

    def _control(self, control: ast.TimingControl, body: list[n.Stmt]) -> n.Stmt:
        site = self.context.site(control.pos, control.pos + 1, self.process_name)
        if control.kind == "delay":
            assert control.delay is not None
            return n.Delay(site, self.ticks(control.delay))
        if control.kind == "star":
            return n.WaitEvent(site, sensitivity(body))
        return n.WaitEvent(site, self.events(control))

    def events(self, control: ast.TimingControl) -> tuple[n.Sense, ...]:
        senses: list[n.Sense] = []
        for event in control.events:
            t = self.shape(event.expr)
            built = self.read(event.expr) if isinstance(t, EventType) else self.build(event.expr, t)
            if isinstance(built, n.Const):
                raise self.error(event.pos, "this event can never happen: its expression is constant", "constant-event")
            guard = self.truth(event.guard) if event.guard is not None else None
            senses.append(n.Sense(event.edge or "any", built, guard))
        return tuple(senses)

    def _loop_statement(self, s: ast.For | ast.While | ast.Forever | ast.Repeat) -> list[n.Stmt]:
        outer_scope = self.scope
        leave, step_block = n.Block(0, []), n.Block(0, [])
        saved = self.breaks.loop, self.breaks.step
        inits: list[n.Stmt] = []
        if isinstance(s, ast.For) and s.decls:
            self.scope = self.open_scope("", "block")
            self.declare_items(s.decls, self.scope, True)
        try:
            if isinstance(s, ast.For):
                for i in s.init:
                    inits.extend(self.statement(i))
            self.breaks.loop, self.breaks.step = leave, step_block
            site = self.site(s)
            made: n.Stmt
            if isinstance(s, ast.Repeat):
                count = self.expr(s.count)
                step_block.body = self.body(s.body)
                made = n.RepeatLoop(site, count, [step_block])
            else:
                cond = self.truth(s.cond) if isinstance(s, (ast.For, ast.While)) and s.cond is not None else None
                step_block.body = self.body(s.body)
                steps: list[n.Stmt] = []
                if isinstance(s, ast.For):
                    for i in s.step:
                        steps.extend(self.statement(i))
                made = n.Loop(site, cond, [step_block], steps, isinstance(s, ast.While) and s.test_last)
            leave.body = [made]
            return [*inits, leave]
        finally:
            self.breaks.loop, self.breaks.step = saved
            self.scope = outer_scope

    def _jump(self, s: ast.Jump) -> list[n.Stmt]:
        site = self.site(s)
        if s.kind == "return":
            sub, block = self.breaks.sub, self.breaks.body
            if sub is None or block is None:
                raise self.error(s.pos, "'return' stands outside a function or task", "jump")
            found: list[n.Stmt] = []
            if s.value is not None:
                if sub.result is None or sub.type is None:
                    raise self.error(s.pos, f"'{sub.name}' has no result to return", "jump")
                shape = self.shape_of_signal(sub.result)
                found += self.store_selected(
                    site, Selected(shape, sub.result.type, sub.result), self.for_target(s.value, shape.whole, shape), s.value
                )
            return [*found, n.Leave(site, block)]
        target = self.breaks.loop if s.kind == "break" else self.breaks.step
        if target is None:
            raise self.error(s.pos, f"'{s.kind}' stands outside a loop", "jump")
        return [n.Leave(site, target)]

    def _disable(self, s: ast.Disable, target: ast.Expr) -> list[n.Stmt]:
        entity, _ = self.resolve(target, self.scope)
        site = self.site(s)
        if isinstance(entity, SubDecl):
            if self.breaks.sub is entity.sub and self.breaks.body is not None:
                return [n.Leave(site, self.breaks.body)]
            afar = self.remote_block_of(entity)
            if afar is not None:
                return [n.DisableBlock(site, afar.path, afar.block)]
            block = self.subprogram(entity).body[0]
            assert isinstance(block, n.Block)
            block.remote = True
            return [n.DisableBlock(site, (), block)]
        if isinstance(entity, RemoteBlock):
            return [n.DisableBlock(site, entity.path, entity.block)]
        if not isinstance(entity, BlockName):
            raise self.error(s.pos, f"{self.words(target)} is no named block or task", "not-a-block")
        if any(b is entity.block for b in self.breaks.open):
            return [n.Leave(site, entity.block)]
        entity.block.remote = True
        return [n.DisableBlock(site, (), entity.block)]

    def _call_statement(self, s: ast.CallStmt, call: ast.Expr) -> list[n.Stmt]:
        if isinstance(call, ast.With):
            step = self.list_step(s, call)
            if step is not None:
                return step
            return self._unused(s, self.expr(call))
        if isinstance(call, (ast.Cast, ast.Increment, ast.AssignExpr)):
            return self._unused(s, self.expr(call))
        if isinstance(call, ast.Member):
            call = ast.Call(call.pos, call, [])
        if not isinstance(call, ast.Call):
            raise self.error(s.pos, "this is no call of a task", "not-callable")
        if isinstance(call.target, ast.Name) and call.target.name.startswith("$"):
            return self._system_task(s, call, call.target.name)
        step = self.list_step(s, call) or self.text_step(s, call)
        if step is not None:
            return step
        if self.shape_of_list_method(call) is not None or self.shape_of_method(call) is not None:
            return self._unused(s, self.build_call(call))  # a value that nobody takes, such as pop_front();
        decl, obj, variants = self.callee(call)
        return self._call_of(s, call, decl if obj else self.referring(decl, call), obj, variants)

    def referring(self, decl: SubDecl, call: ast.Call) -> SubDecl:
        raise NotImplementedError

    def _unused(self, s: ast.Node, value: n.Expr) -> list[n.Stmt]:
        """A value of which only the effect is wanted."""
        sink = self.local(value.type, s.pos)
        return [n.Assign(self.site(s), (whole(sink),), value)]

    def _call_of(
        self, s: ast.Node, call: ast.Call, decl: SubDecl, obj: tuple[n.Expr, ...], variants: tuple[tuple[int, Subprogram], ...]
    ) -> list[n.Stmt]:
        sub = decl.sub
        args = self.arguments(sub, call)
        site = self.site(s)
        after: list[n.Stmt] = []
        values: list[n.Expr | tuple[n.LRef, ...] | None] = []
        back: list[tuple[n.LRef, ...] | None] = []
        for index, (port, direction) in enumerate(zip(sub.ports, sub.directions, strict=True)):
            arg = args[index]
            if obj and index == 0:
                values.append(obj[0])
                back.append(None)
                continue
            value: n.Expr | None = None
            places: tuple[n.LRef, ...] | None = None
            if arg is None:
                value = sub.defaults[index]
                if value is None:
                    raise self.error(
                        call.pos, f"'{sub.name}' needs a value for its argument '{port.name.rpartition('.')[2]}'", "arguments"
                    )
            else:
                if direction in ("input", "inout"):
                    value = self.argument_value(decl, index, arg)
                if direction in ("output", "inout"):
                    places = self.output_place(port, arg, site, after)
                    self.check_procedural(arg, places)
            values.append(value)
            back.append(places)
        through = self.link_call(call)
        plain: list[n.Stmt] = [n.CallTask(site, sub, tuple(values), tuple(back), through[0] if through is not None else None)]
        for class_number, other in variants:  # a virtual method: the class of the object decides
            kind = Vec(32, False, False)
            mine = n.Binary(BIT, "==", n.ClassNumber(kind, obj[0], site), n.Const(kind, class_number))
            plain = [n.If(site, mine, [n.CallTask(site, other, tuple(values), tuple(back))], plain)]
        return [*plain, *after]

    def _system_task(self, s: ast.CallStmt, call: ast.Call, name: str) -> list[n.Stmt]:
        if name == "$cast":
            text = n.Const(Vec(8 * 11), int.from_bytes(b"cast failed", "big"), 0, True)
            return self.dynamic_cast(s, call, [], [n.SysTask(self.site(s), "$error", (text,), self.scope.prefix)])
        if name == "$process_await":
            return [n.ProcessAwait(self.site(s), self.expr(self.argument(call, 0)))]
        if name in ("$process_suspend", "$process_resume"):
            return [n.SysTask(self.site(s), name, (self.expr(self.argument(call, 0)),), self.scope.prefix)]
        if name not in TASKS:
            if name in SYSTEM_TYPES:
                return self._unused(s, self.expr(call))
            hint = nearest(name, TASKS)
            raise self.error(call.pos, f"the system task {name} is not supported{hint}", "unsupported")
        site = self.site(s)
        if name == "$sdf_annotate":
            self._annotation(call)
            return []
        if name.startswith("$dump"):
            return [self._dump(call, name, site)]
        if name in ("$readmemh", "$readmemb", "$writememh", "$writememb"):
            return [self._readmem(call, name, site)]
        if name.startswith(("$sformat", "$swrite")):
            return self._text_task(call, name, site)
        args: list[n.Expr | None] = []
        if name == "$printtimescale":
            return [n.SysTask(site, name, (), self.scope.prefix)]
        if name in DISPLAY | FILE_DISPLAY or name in ("$info", "$warning", "$error", "$fatal"):
            args = self.print_arguments(call.args)
        else:
            args = [None if arg is None else self.expr(arg) for arg in call.args]
        return [n.SysTask(site, name, tuple(args), self.scope.prefix)]

    def _text_task(self, call: ast.Call, name: str, site: int) -> list[n.Stmt]:
        """$swrite and $sformat put what they would print into their first argument (IEEE 1364-2005 17.2.3)."""
        target = self.argument(call, 0)
        shape = self.shape_of(target)
        radix = name.removeprefix("$swrite").removeprefix("$sformat")
        if name == "$sformat":
            self.argument(call, 1)
        made = self.formatted(call.args[1:], call.pos, radix, first_is_format=name == "$sformat")
        if not isinstance(shape.type, Text):
            made = n.SysCall(self.vector_type(shape.type, target), "$text_into", (made,), call.pos)
        return self.store(site, target, made)

    def _annotation(self, call: ast.Call) -> None:
        """$sdf_annotate(file, instance, configuration, log, which, factors, kind of factors): it takes effect before the run."""

        def text(index: int) -> str:
            arg = call.args[index] if index < len(call.args) else None
            return arg.value.decode("utf-8", "replace") if isinstance(arg, ast.StringLiteral) else ""

        if not text(0):
            raise self.error(call.pos, "the file of $sdf_annotate is a string that is known before the run", "sdf")
        path: tuple[str, ...] = ()
        instance = call.args[1] if len(call.args) > 1 else None
        if instance is not None:
            path = tuple(p for p in self.hierarchical_path(instance).split("|") if p)
            if path and path[0] not in ("^",) and not path[0].startswith("/") and len(path) == 1:
                path = (path[0],)
        choice = {"MINIMUM": 0, "MAXIMUM": 2}.get(text(4).upper(), 1)
        parts = (text(5) or "1.0:1.0:1.0").split(":")
        try:
            factors = tuple(float(p) for p in parts)
        except ValueError:
            factors = ()
        if len(factors) != 3:
            raise self.error(call.pos, 'the factors of $sdf_annotate are three numbers, such as "1.0:1.0:1.0"', "sdf")
        kind = text(6).upper()
        choice = {"FROM_MINIMUM": 0, "FROM_TYPICAL": 1, "FROM_MAXIMUM": 2}.get(kind, choice)
        self.context.annotations.append(Annotation(self.unit, path, text(0), choice, (factors[0], factors[1], factors[2])))

    def _dump(self, call: ast.Call, name: str, site: int) -> n.Stmt:
        """The $dump tasks (18.1). What $dumpvars names is handed on as text: "/path" from the top, else from this instance."""
        if name != "$dumpvars":
            args = tuple(self.expr(a) for a in call.args if a is not None)
            return n.SysTask(site, name, args, self.scope.prefix)
        level = self.constant_int(self.argument(call, 0), "the number of levels") if call.args else 0
        lines = ["vars", str(level)]
        for arg in call.args[1:]:
            if arg is not None:
                lines.append(self.hierarchical_path(arg))
        return n.SysTask(site, name, (n.TextConst(TEXT, "\n".join(lines).encode()),), self.scope.prefix)

    def hierarchical_path(self, e: ast.Expr) -> str:
        raise NotImplementedError

    def _readmem(self, call: ast.Call, name: str, site: int) -> n.Stmt:
        file = self.expr(self.argument(call, 0))
        s = self.selected(self.argument(call, 1))
        if s.signal is None or len(s.dims) != 1 or s.element is not None:
            raise self.error(call.pos, f"{name} fills a memory: an array with one dimension", "operand-type")
        place = n.SysCall(BIT, "target", (n.LRef(s.signal, None, None, s.width),), call.pos)
        rest = [self.expr(a) for a in call.args[2:] if a is not None]
        return n.SysTask(site, name, (file, place, *rest), self.scope.prefix)

    def add_local(self, signal: Signal) -> None:
        if self.breaks.sub is not None:
            self.breaks.sub.locals.append(signal)
        else:
            self.process_locals.append(signal)


def give_branches_their_variables(body: list[n.Stmt]) -> None:
    """An automatic variable that is set once, where it is declared, is a new one each time its block is entered; the branches of
    a fork keep the one they began with (IEEE 1800-2017 9.3.2). So they get a copy."""
    forks = [s for s in walk.statements(body) if isinstance(s, n.Fork)]
    if not forks:
        return
    writes: dict[Signal, int] = {}
    for place in walk.writes(body):
        writes[place.signal] = writes.get(place.signal, 0) + 1
    for fork in forks:
        inside = {p.signal for p in walk.writes(fork.branches)} | {signal for signal, _ in fork.own}
        for ref in walk.reads(fork.branches):
            signal = ref.signal
            if signal.kind == "local" and signal not in inside and writes.get(signal) == 1 and not signal.dims:
                inside.add(signal)
                fork.own.append((signal, n.Ref(signal.type, signal)))


def sensitivity(body: list[n.Stmt], into_calls: bool = False) -> tuple[n.Sense, ...]:
    """What `@*` waits for: every signal that the statements read (9.7.5)."""
    found: dict[Signal, n.Sense] = {}
    for ref in walk.reads(body, into_calls):
        if ref.signal.kind != "local" and ref.signal not in found:
            found[ref.signal] = n.Sense("any", n.Ref(ref.signal.type, ref.signal))
    return tuple(found.values())


__all__ = ["Breaks", "StatementElaborator", "initial", "sensitivity"]
