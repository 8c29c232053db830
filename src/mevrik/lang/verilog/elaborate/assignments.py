"""Procedural assignments and triggers, procedural continuous ones (IEEE 1364-2005 9.2, 9.3, 9.7)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import replace
from mevrik.design.types import BIT, Array, EventType, List, Real, Type, Vec
from mevrik.design.unit import Process, Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate import streams
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.calls import number, span
from mevrik.lang.verilog.elaborate.decisions import DecisionElaborator
from mevrik.lang.verilog.elaborate.events import is_event_handle, trigger
from mevrik.lang.verilog.elaborate.folding import fold_resize
from mevrik.lang.verilog.elaborate.patterns import SPREAD_LIMIT, element_of
from mevrik.lang.verilog.elaborate.scope import EventArray, InterfacePort, Shape
from mevrik.lang.verilog.elaborate.selections import Selected
from mevrik.lang.verilog.elaborate.streams import reversed_slices

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.clocking import ClockingName, ClockVar


KEPT_ELSEWHERE = "what lies in an object, a list or a string is assigned with a plain '=' (6.21)"


def _parts(target: ast.Concat) -> Iterator[ast.Expr]:
    """What a concatenation is made of, that inside of others too."""
    for part in target.parts:
        if isinstance(part, ast.Concat):
            yield from _parts(part)
        else:
            yield part


class AssignmentElaborator(DecisionElaborator):
    process_locals: list[Signal]
    holders: dict[tuple[Signal, bool], Signal]
    hold_count: int = 0

    def ticks(self, e: ast.Expr) -> n.Expr:
        raise NotImplementedError

    def clock_target(self, e: ast.Expr) -> tuple[ClockingName, ClockVar, list[ast.Expr]] | None:
        """The signal of a clocking block that a target is, or is selected from; None, without a message, for anything else."""
        raise NotImplementedError

    def clock_event(self, pos: int) -> Signal:
        """The event of the default clocking."""
        raise NotImplementedError

    def drive_clock_variable(self, s: ast.Assign, clocking: ClockingName, var: ClockVar, steps: list[ast.Expr]) -> list[n.Stmt]:
        raise NotImplementedError

    def event_signal(self, e: ast.Expr) -> Signal:
        s = self.selected(e)
        if s.signal is None or not isinstance(s.signal.type, EventType):
            raise self.error(e.pos, f"{self.words(e)} is no event", "operand-type")
        return s.signal

    def event_choices(self, e: ast.Expr) -> list[tuple[n.Expr, ast.Expr]]:
        """For an element of an array of events whose index is only known in the run: what holds for each element, and its name."""
        if not isinstance(e, ast.Index) or not isinstance(e.base, ast.Name):
            return []
        found = self.scope.find(e.base.name)
        array = found[0] if found is not None else None
        if not isinstance(array, EventArray) or self.quietly(lambda: self.constant_int(e.index, "")) is not None:
            return []
        index = self.expr(e.index)
        wide = Vec(max(n.vec(index).width, 32), True)
        return [
            (
                n.Binary(BIT, "==", n.Resize(wide, index), n.Const(wide, k & (1 << wide.width) - 1)),
                ast.Index(e.pos, e.base, number(e.pos, k)),
            )
            for k in array.items
        ]

    def _by_index(self, choices: list[tuple[n.Expr, ast.Expr]], bodies: list[list[n.Stmt]], site: int) -> list[n.Stmt]:
        made: list[n.Stmt] = []
        for (holds, _), body in zip(reversed(choices), reversed(bodies)):
            made = [n.If(site, holds, body, made)]
        return made

    def events(self, control: ast.TimingControl) -> tuple[n.Sense, ...]:
        senses: list[n.Sense] = []
        for event in control.events:
            if isinstance(event.expr, ast.EventArg):  # given to a property as its clock (16.8)
                senses += self.events(event.expr.control)
                continue
            t = self.shape(event.expr)
            if is_event_handle(t):
                event = ast.EventExpr(event.pos, event.edge, ast.Member(event.expr.pos, event.expr, "times"), event.guard)
                t = self.shape(event.expr)
            if isinstance(t, EventType) or self.shape_of(event.expr).unpacked:
                self.event_signal(event.expr)  # an array of them is none
            built = self.read(event.expr) if isinstance(t, EventType) else self.build(event.expr, t)
            if event.edge and isinstance(t, Real):
                raise self.error(event.pos, f"{self.words(event.expr)} is a real number, which has no edges (6.12)", "operand-type")
            if isinstance(built, n.Const):
                raise self.error(event.pos, "this event can never happen: its expression is constant", "constant-event")
            guard = self.truth(event.guard) if event.guard is not None else None
            senses.append(n.Sense(event.edge or "any", built, guard))
        return tuple(senses)

    def add_local(self, signal: Signal) -> None:
        if self.breaks.sub is not None:
            self.breaks.sub.locals.append(signal)
        else:
            self.process_locals.append(signal)

    def _assign(self, s: ast.Assign) -> list[n.Stmt]:
        if isinstance(s.target, ast.Stream):
            return self._unpack(s, s.target)
        if isinstance(s.target, ast.Pattern):
            return self._take_apart(s, s.target)
        clocked = self.clock_target(s.target)
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
        elif any(self._lies_elsewhere(part) for part in _parts(s.target)):
            return self._assign_parts(s, list(_parts(s.target)))
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

    def _lies_elsewhere(self, part: ast.Expr) -> bool:
        """Whether a target lies in an object, a list or a string."""
        found = self.selected(part)
        return found.keeper is not None or found.character is not None

    def _assign_parts(self, s: ast.Assign, parts: list[ast.Expr]) -> list[n.Stmt]:
        """`{a[i], o.b} = value;` part by part, when the value is there."""
        if s.nonblocking or s.control is not None:
            raise self.error(s.pos, KEPT_ELSEWHERE, "operand-type")
        widths = [self.vector_type(self.shape(part), part).width for part in parts]
        total = Vec(sum(widths))
        value = ast.Binary(s.pos, s.op, s.target, s.value) if s.op else s.value
        site, kept = self.site(s), self.local(total, s.pos)
        steps: list[n.Stmt] = [n.Assign(site, (whole(kept),), self.for_target(value, total, Shape(total)))]
        low = total.width
        for part, width in zip(parts, widths, strict=True):
            low -= width
            steps += self._unpack_into(site, part, n.Ref(total, kept), low)
        return steps

    def _assign_whole(self, s: ast.Assign, found: Selected) -> list[n.Stmt]:
        """An assignment to an array, a list, a property, an element of a list, a character of a string."""
        site = self.site(s)
        shape = found.shape
        if found.signal is not None and found.dims and s.nonblocking and found.signal.kind != "local":
            return self._schedule_array(s, found, site)
        if s.nonblocking or s.control is not None:
            raise self.error(s.pos, KEPT_ELSEWHERE, "operand-type")
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

    def _take_apart(self, s: ast.Assign, target: ast.Pattern) -> list[n.Stmt]:
        """`'{a, b} = value;`: a structure or an array is given to several variables (IEEE 1800-2017 10.9)."""
        shape = self.shape_of(s.value)
        left, right = shape.unpacked[0] if shape.unpacked else (0, 0)
        names = [] if shape.unpacked else list(shape.fields)
        given = [v for _, v in target.parts]
        if target.keyed:
            by_name = {k.name: v for k, v in target.parts if isinstance(k, ast.Name)}
            given = [by_name[name] for name in names if name in by_name]
        if not (names or shape.unpacked) or len(given) != (len(names) if names else abs(left - right) + 1):
            raise self.error(s.pos, "the pattern on the left has not as many parts as the value (10.9)", "pattern")
        held = ast.Name(s.pos, "taken apart")
        decl = ast.VarDecl(s.pos, ast.DataType(s.pos, "known", known=shape), [ast.Declarator(s.pos, held.name)], "automatic")
        parts: list[ast.Expr] = [ast.Member(s.pos, held, name) for name in names]
        parts = parts or [ast.Index(s.pos, held, number(s.pos, k)) for k in span(left, right)]
        body: list[ast.Stmt] = [ast.Assign(s.pos, held, s.value, False)]
        body += [ast.Assign(s.pos, to, part, s.nonblocking) for to, part in zip(given, parts, strict=True)]
        return self.statement(ast.Block(s.pos, "", [decl], body))

    def _unpack(self, s: ast.Assign, target: ast.Stream) -> list[n.Stmt]:
        """`{<<8{a, b}} = value;` (IEEE 1800-2017 11.4.14.3)."""
        if streams.is_dynamic(self.itself, target) or streams.is_dynamic(self.itself, s.value):
            return self._unpack_dynamic(s, target)
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

    def _unpack_dynamic(self, s: ast.Assign, target: ast.Stream) -> list[n.Stmt]:
        """The same where a length is known only then: the first part without a fixed length takes all that those of fixed length leave, any
        other one nothing (11.4.14.4)."""
        kept = self.local(streams.STREAM, s.pos)
        site = self.site(s)
        whole_stream = streams.turned(self.itself, target, streams.streams(self.itself, s.value), True)
        steps: list[n.Stmt] = [n.ListStep(site, "copy", n.LRef(kept, None, None, 64), (whole_stream,))]
        source = n.Ref(streams.STREAM, kept)
        shapes = [self.shape_of(p) for p in target.parts]
        widths = [
            0 if isinstance(h.type, List) else n.vec(self.as_bits(p)).width for p, h in zip(target.parts, shapes, strict=True)
        ]
        behind, greedy = sum(widths), False
        start = 0
        for part, shape, width in zip(target.parts, shapes, widths, strict=True):
            behind -= width
            if isinstance(shape.type, List):
                found = self.selected(part)
                place = self.list_place(found)
                if place is None:
                    raise self.error(part.pos, f"{self.words(part)} can't be assigned", "operand-type")
                value = streams.elements_of(source, shape.type, start, behind, part.pos)
                steps.append(n.ListStep(site, "clear", place, ()) if greedy else n.ListStep(site, "copy", place, (value,)))
                greedy = True
                continue
            at: n.Expr = n.Const(Vec(64), start)
            if greedy:  # counted from the right end
                rest = n.Const(Vec(64), width + behind)
                at = n.Binary(Vec(64), "-", streams.size_of(source, part.pos), rest)
            aside = self.local(Vec(width), part.pos)
            steps.append(n.Assign(site, (whole(aside),), streams.piece_of(source, at, width, part.pos)))
            steps += self._unpack_into(site, part, n.Ref(aside.type, aside), 0)
            start += width
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
        choices = self.event_choices(s.event)
        if choices:
            return self._by_index(choices, [self._trigger(replace(s, event=e)) for _, e in choices], self.site(s))
        if is_event_handle(self.shape(s.event)):
            return self.statement(trigger(s))
        event, site = self.event_signal(s.event), self.site(s)
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
        self.check_modport(tree)
        for p in places:
            signal = walk.owner(p.signal)
            if signal.fixed:
                raise self.error_of(
                    signal.name,
                    tree.pos,
                    f"{self.words(tree)} is a constant: 'const' lets nothing change it (6.20.6)",
                    "assign-constant",
                )
            if signal.kind == "net":
                what = f"the {signal.port} port" if signal.port else "the net"
                message = (
                    f"{what} '{signal.name}' is a wire; an always or initial block can only assign a variable: declare it as reg"
                )
                if signal.implicit:
                    message = f"'{signal.name}' is not declared: {self.made_a_net(signal)}; declare it as reg, to assign it here"
                raise self.error_of(signal.name, tree.pos, message, "unknown-name" if signal.implicit else "assign-net")

    def check_modport(self, tree: ast.Expr) -> None:
        """What is reached through a port with a modport is written only where that says so (25.5)."""
        while isinstance(tree, (ast.Member, ast.Index, ast.PartSelect)):
            port = self.scope.find(tree.base.name) if isinstance(tree, ast.Member) and isinstance(tree.base, ast.Name) else None
            if isinstance(tree, ast.Member) and port is not None and isinstance(port[0], InterfacePort):
                allowed = port[0].home.modports.get(port[0].modport, {})
                way = allowed.get(tree.name, "") if allowed else "inout"
                if way in ("input", ""):
                    what = "is an input of" if way else "is not in"
                    raise self.error_of(
                        f"{port[0].modport}.{tree.name}",
                        tree.pos,
                        f"'{tree.name}' {what} the modport '{port[0].modport}': it can't be assigned here (25.5)",
                        "modport",
                    )
                return
            tree = tree.base

    def _hold(self, s: ast.ProcAssign, kind: str, target: ast.Expr, value: ast.Expr | None) -> list[n.Stmt]:
        """assign, deassign, force, release (9.3). The value is continuous: a process repeats the hold when an operand
        changes, as long as a hidden variable says that this statement is the one that holds the target."""
        places = self.place(target)
        for p in places:
            walk.owner(p.signal).forced = True
        site = self.site(s)
        keys = [(p.signal, kind in ("force", "release")) for p in places]
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


def sensitivity(body: list[n.Stmt], into_calls: bool = False) -> tuple[n.Sense, ...]:
    """What `@*` waits for: every signal that the statements read (9.7.5)."""
    found: dict[Signal, n.Sense] = {}
    for ref in walk.reads(body, into_calls):
        if ref.signal.kind != "local" and ref.signal not in found:
            found[ref.signal] = n.Sense("any", n.Ref(ref.signal.type, ref.signal))
    return tuple(found.values())
