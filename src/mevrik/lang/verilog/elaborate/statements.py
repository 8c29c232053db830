"""Procedural statements (IEEE 1364-2005 clauses 9 and 10)."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.evaluate import initial
from mevrik.design.types import BIT, INTEGER, TEXT, EventType, List, Real, Text, Type, Vec
from mevrik.design.unit import Process, Signal, Subprogram, Unit
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.expressions import NULL, ExpressionElaborator
from mevrik.lang.verilog.elaborate.scope import BlockName, Field, RemoteBlock, Scope, SubDecl

DISPLAY = {f"{a}{b}" for a in ("$display", "$write", "$strobe", "$monitor") for b in ("", "b", "o", "h")}
FILE_DISPLAY = {f"{a}{b}" for a in ("$fdisplay", "$fwrite", "$fstrobe", "$fmonitor") for b in ("", "b", "o", "h")}
TASKS = {
    *DISPLAY, *FILE_DISPLAY, "$finish", "$stop", "$fatal", "$error", "$warning", "$info", "$monitoron", "$monitoroff",
    "$readmemh", "$readmemb", "$timeformat", "$printtimescale", "$fclose", "$fflush", "$dumpfile", "$dumpvars", "$dumpon",
    "$dumpoff", "$dumpall", "$dumpflush", "$dumplimit",
}  # fmt: skip


@dataclass(slots=True)
class Breaks:
    """The blocks that break, continue and return leave."""

    loop: n.Block | None = None
    step: n.Block | None = None
    body: n.Block | None = None
    sub: Subprogram | None = None
    open: list[n.Block] = field(default_factory=list)


class StatementElaborator(ExpressionElaborator):
    unit: Unit
    breaks: Breaks
    process_name: str
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

    def site(self, s: ast.Node, end: int = 0) -> int:
        return self.context.site(s.pos, getattr(s, "end", 0) or end or s.pos, self.process_name)

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
            case ast.If(cond=ast.Call(target=ast.Name(name="$cast")) as call, then=then, other=other):
                return self.dynamic_cast(s, call, self.body(then), self.body(other))
            case ast.If(cond=ast.Unary(op="!", operand=ast.Call(target=ast.Name(name="$cast")) as call), then=then, other=other):
                return self.dynamic_cast(s, call, self.body(other), self.body(then))
            case ast.If(cond=cond, then=then, other=other):
                site = self.site(cond)
                return [n.If(site, self.truth(cond), self.body(then), self.body(other))]
            case ast.Case():
                return self._case(s)
            case ast.Foreach():
                return self._foreach(s)
            case ast.For() | ast.While() | ast.Forever() | ast.Repeat():
                return self._loop(s)
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
            case ast.Assert(cond=cond, then=then, other=other):
                failed = self.body(other)
                if other is None:
                    text = n.Const(Vec(8 * 16), int.from_bytes(b"assertion failed", "big"), 0, True)
                    failed = [n.SysTask(self.site(s), "$error", (text,), self.scope.prefix)]
                return [n.If(self.site(s), self.truth(cond), self.body(then), failed)]
            case ast.Null():
                return []
        raise self.error(s.pos, "this statement is not supported yet", "unsupported")

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
        """Nested loops over the dimensions that have a name, in the order of their ranges."""
        signal = self.list_of(s.array)
        pos, name = s.names[0]
        if signal is not None and len(s.names) == 1 and name is not None:
            index = ast.Name(pos, name)
            declared = ast.VarDecl(pos, ast.DataType(pos, "int"), [ast.Declarator(pos, name)], "automatic")
            test = ast.Binary(pos, "<", index, ast.Call(pos, ast.Member(pos, s.array, "size"), []))
            step = ast.Assign(pos, index, ast.Number(pos, None, True, 1, 0), False, "+")
            return self.statement(ast.For(s.pos, [declared], [ast.Assign(pos, index, _whole(pos, 0), False)], test, [step], s.body))
        found = self.selected(s.array)
        dims = found.dims + found.packed
        if len(s.names) > len(dims):
            raise self.error(s.pos, f"{self.words(s.array)} has {len(dims)} dimensions, {len(s.names)} are named", "select")
        body = s.body
        for (pos, name), (left, right) in reversed(list(zip(s.names, dims))):
            if name is None:
                continue
            up = right >= left
            index = ast.Name(pos, name)
            declared = ast.VarDecl(pos, ast.DataType(pos, "int"), [ast.Declarator(pos, name)], "automatic")
            start = ast.Assign(pos, index, _whole(pos, left), False)
            test = ast.Binary(pos, "<=" if up else ">=", index, _whole(pos, right))
            step = ast.Assign(pos, index, ast.Number(pos, None, True, 1, 0), False, "+" if up else "-")
            body = ast.For(s.pos, [declared], [start], test, [step], body)
        return self.statement(body)

    def _whole_array(self, s: ast.Assign) -> list[n.Stmt] | None:
        """An assignment to an unpacked array, element by element; None if the target is no array."""
        if not isinstance(s.target, (ast.Name, ast.Member, ast.Index)):
            return None
        try:
            found = self.selected(s.target)
        except Abandon:
            return None  # told again, and with its words, by the caller
        value = s.value
        if not found.dims:
            if isinstance(value, ast.Pattern):
                places = self.place(s.target)
                built = self.pattern_value(value, found.fields, found.packed, places)
                made = n.Schedule if s.nonblocking else n.Assign
                return [made(self.site(s), places, built)]
            return None
        left, right = found.dims[0]
        indexes = list(range(left, right + 1) if right >= left else range(left, right - 1, -1))
        if isinstance(value, ast.Pattern):
            values = self._spread(value, indexes)
        elif isinstance(value, (ast.Name, ast.Member, ast.Index)):
            other = self.selected(value)
            if not other.dims or abs(other.dims[0][0] - other.dims[0][1]) != abs(left - right):
                raise self.error(s.pos, f"{self.words(value)} is no array of {len(indexes)} elements", "array-assign")
            low, high = other.dims[0]
            step = 1 if high >= low else -1
            values = [ast.Index(value.pos, value, _whole(value.pos, low + step * k)) for k in range(len(indexes))]
        else:
            raise self.error(s.pos, f"{self.words(s.target)} is an array: assign another array or a pattern '{{…}}", "array-assign")
        body: list[n.Stmt] = []
        for index, part in zip(indexes, values):
            target = ast.Index(s.target.pos, s.target, _whole(s.pos, index))
            body += self.statement(ast.Assign(s.pos, target, part, s.nonblocking, "", s.control))
        return body

    def _spread(self, p: ast.Pattern, indexes: list[int]) -> list[ast.Expr]:
        """The value of a pattern for each index."""
        if p.keyed:
            by_index = {self.constant_int(k, "an index"): v for k, v in p.parts if k is not None}
            default = next((v for k, v in p.parts if k is None), None)
            found = [by_index.get(i, default) for i in indexes]
            if any(v is None for v in found):
                raise self.error(p.pos, "the pattern leaves out elements and has no default", "pattern")
            return [v for v in found if v is not None]
        given = [v for _, v in p.parts] * (self.constant_int(p.count, "the count of a pattern") if p.count is not None else 1)
        if len(given) != len(indexes):
            raise self.error(p.pos, f"the pattern has {len(given)} values, {len(indexes)} are needed (10.9.1)", "pattern")
        return given

    def pattern_value(
        self, p: ast.Pattern, fields: dict[str, Field], packed: tuple[tuple[int, int], ...], places: tuple[n.LRef, ...]
    ) -> n.Expr:
        """A pattern for a packed structure or packed array (10.9.2)."""
        width = sum(q.width for q in places)
        parts: list[n.Expr] = []
        if fields:
            ordered = sorted(fields.values(), key=lambda f: -f.low)
            if p.keyed:
                given = {k.name: v for k, v in p.parts if isinstance(k, ast.Name)}
                default = next((v for k, v in p.parts if k is None), None)
                values = [given.get(f.name, default) for f in ordered]
                for name in given:
                    if name not in fields:
                        raise self.error(p.pos, f"the structure has no member '{name}'{nearest(name, fields)}", "unknown-name")
            else:
                values = [v for _, v in p.parts]
            if len(values) != len(ordered) or any(v is None for v in values):
                raise self.error(p.pos, f"the pattern has {len(p.parts)} values, the structure {len(ordered)} members", "pattern")
            for f, v in zip(ordered, values):
                assert v is not None
                parts.append(self._field_value(f, v, places))
        else:
            left, right = packed[0] if packed else (0, 0)
            count = abs(left - right) + 1
            indexes = list(range(left, right + 1) if right >= left else range(left, right - 1, -1))
            parts = [self.for_target(v, Vec(width // count)) for v in self._spread(p, indexes)]
        return n.Concat(Vec(width), tuple(parts))

    def _field_value(self, f: Field, v: ast.Expr, places: tuple[n.LRef, ...]) -> n.Expr:
        assert isinstance(f.type, Vec)
        if isinstance(v, ast.Pattern):
            inner = (n.LRef(places[0].signal, None, None, f.type.width),)
            return self.pattern_value(v, f.shape.fields, f.shape.packed, inner)
        return self.for_target(v, f.type)

    def _assign(self, s: ast.Assign) -> list[n.Stmt]:
        if isinstance(s.value, ast.Call) and isinstance(s.value.target, ast.Name) and s.value.target.name == "$cast":
            done = ast.Assign(s.pos, s.target, _whole(s.pos, 1), False)
            failed = ast.Assign(s.pos, s.target, _whole(s.pos, 0), False)
            return self.dynamic_cast(s, s.value, self.statement(done), self.statement(failed))
        character = self._character_assign(s)
        if character is not None:
            return character
        property_ = self.field_assign(s)
        if property_ is not None:
            return property_
        static = self.static_of(s.target)
        if static is not None and not s.nonblocking:
            value = ast.Binary(s.pos, s.op, s.target, s.value) if s.op else s.value
            width = static.type.width if isinstance(static.type, Vec) else 64
            return [n.Assign(self.site(s), (n.LRef(static, None, None, width),), self.for_target(value, static.type))]
        listed = self.list_assign(s)
        if listed is not None:
            return listed
        whole = self._whole_array(s) if not s.op else None
        if whole is not None:
            return whole
        site = self.site(s)
        places = self.place(s.target)
        self.check_procedural(s.target, places)
        target = self.place_type(places)
        value = s.value
        if s.op:
            value = ast.Binary(s.pos, s.op, s.target, s.value)
        built = self.for_target(value, target)
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

    def _intra_control(self, control: ast.TimingControl | None) -> tuple[n.Expr | None, tuple[n.Sense, ...], n.Expr | None]:
        """The delay, or the events and how often they are waited for, that stand inside an assignment."""
        if control is None:
            return None, (), None
        if control.kind == "delay":
            assert control.delay is not None
            return self.ticks(control.delay), (), None
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

    def _character_assign(self, s: ast.Assign) -> list[n.Stmt] | None:
        """`text[i] = c` puts a character into a string (6.16.2); None if the target is something else."""
        if not isinstance(s.target, ast.Index) or self.text_base(s.target) is None or s.op:
            return None
        base = s.target.base
        (place,) = self.place(base)
        value = n.SysCall(TEXT, "$text_put", (self.text(base), self.expr(s.target.index), self.for_target(s.value, Vec(8))), s.pos)
        return [n.Assign(self.site(s), (place,), value)]

    def dynamic_cast(self, s: ast.Node, call: ast.Call, done: list[n.Stmt], failed: list[n.Stmt]) -> list[n.Stmt]:
        """$cast(target, value): assigns if the value is one that the target's enum names (IEEE 1800-2017 6.24.2)."""
        target, value = self.argument(call, 0), self.argument(call, 1)
        goal = self.handle_class(target)
        if goal is not None:
            handle = self.expr(value)
            kind = n.ClassNumber(Vec(32, False, False), handle, self.site(s))
            known: n.Expr = n.Binary(BIT, "==", handle, n.Const(NULL, 0))
            for number in self.kinds_of(goal):
                known = n.Binary(BIT, "||", known, n.Binary(BIT, "==", kind, n.Const(Vec(32, False, False), number)))
            property_ = self.field_of(target)
            give: n.Stmt
            if property_ is not None:
                obj = self.this_value(s.pos) if property_[0] is None else self.expr(property_[0])
                give = n.FieldSet(self.site(s), obj, property_[1].word, property_[1].shape.type, handle)
            else:
                give = n.Assign(self.site(s), self.place(target), handle)
            return [n.If(self.site(s), known, [give, *done], failed)]
        labels = self.labels_of(target)
        assign = self.statement(ast.Assign(s.pos, target, value, False))
        if labels is None:
            return [*assign, *done]
        built = self.expr(value)
        fits: n.Expr = n.Const(BIT, 0)
        wide = Vec(max(n.vec(built).width, 64), n.vec(built).signed)
        for label in labels:
            hit = n.Binary(BIT, "===", n.Resize(wide, built), n.Const(wide, label))
            fits = n.Binary(BIT, "||", fits, hit)
        return [n.If(self.site(s), fits, [*assign, *done], failed)]

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
            senses.append(n.Sense(event.edge or "any", built))
        return tuple(senses)

    def _case_as_ifs(self, s: ast.Case) -> list[n.Stmt]:
        """A case over strings or with ranges as a chain of conditions, tried in their order (12.5.4)."""
        chosen: ast.Stmt | None = next((body for labels, body in s.arms if not labels), None)
        for labels, body in reversed(s.arms):
            if labels:
                if s.kind == "inside":
                    test: ast.Expr = ast.Binary(s.pos, "inside", s.subject, ast.Concat(s.pos, labels))
                else:
                    test = ast.Binary(s.pos, "==", s.subject, labels[0])
                    for label in labels[1:]:
                        test = ast.Binary(s.pos, "||", test, ast.Binary(s.pos, "==", s.subject, label))
                chosen = ast.If(s.pos, test, body, chosen)
        return self.body(chosen)

    def _case(self, s: ast.Case) -> list[n.Stmt]:
        """All labels and the subject take the width of the widest of them (9.5)."""
        if isinstance(self.shape(s.subject), Text) or any(isinstance(x, ast.MinTypMax) for labels, _ in s.arms for x in labels):
            return self._case_as_ifs(s)
        trees = [s.subject]
        for labels, _ in s.arms:
            for label in labels:
                trees.extend([label.low, label.high] if isinstance(label, ast.MinTypMax) else [label])
        types = [self.shape(t) for t in trees]
        site = self.site(s.subject)
        common: Type
        if any(isinstance(t, Real) for t in types):
            raise self.error(s.pos, "a case over real numbers is not supported yet", "unsupported")
        vectors = [t for t in types if isinstance(t, Vec)]
        common = Vec(max(t.width for t in vectors), all(t.signed for t in vectors))
        subject = self.build(s.subject, common)
        arms: list[tuple[list[n.Expr], list[n.Stmt]]] = []
        for labels, body in s.arms:
            built: list[n.Expr] = []
            for label in labels:
                built.append(self.build(label, common))
            arms.append((built, self.body(body)))
        return [n.Case(site, s.kind, subject, arms)]

    def _loop(self, s: ast.For | ast.While | ast.Forever | ast.Repeat) -> list[n.Stmt]:
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
                place = n.LRef(sub.result, None, None, sub.result.type.width if isinstance(sub.result.type, Vec) else 64)
                found.append(n.Assign(site, (place,), self.for_target(s.value, sub.type)))
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
        if not isinstance(call, ast.Call):
            raise self.error(s.pos, "this is no call of a task", "not-callable")
        if isinstance(call.target, ast.Name) and call.target.name.startswith("$"):
            return self._system_task(s, call, call.target.name)
        step = self.list_step(s, call)
        if step is not None:
            return step
        if self.shape_of_list_method(call) is not None:  # a value that nobody takes, such as pop_front();
            built = self.build_list_method(call)
            sink = Signal("", built.type, "local", s.pos)
            self.add_local(sink)
            return [n.Assign(self.site(s), (n.LRef(sink, None, None, n.vec(built).width),), built)]
        own = self.method_of(call)
        obj: tuple[n.Expr, ...] = ()
        variants: tuple[tuple[int, Subprogram], ...] = ()
        if own is not None:
            base, method, by_class = own
            sub = method.info.home.subprogram(method.decl)
            obj = self.object_for(base, method, call.pos)
            variants = self.variants(method) if by_class and obj else ()
        else:
            sub = self.called(call)
        args = self.arguments(sub, call)
        before: list[n.Stmt] = []
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
                if value is None and direction != "output":
                    raise self.error(call.pos, f"'{sub.name}' needs a value for its argument '{port.name}'", "arguments")
            else:
                if isinstance(port.type, List) and self.list_of(arg) is None:
                    aside = Signal(f"{sub.name}.argument", port.type, "var", 0, left=63, implicit=True)
                    self.unit.signals.append(aside)
                    if isinstance(arg, (ast.Pattern, ast.Concat)):
                        before += self.fill_list(self.site(s), aside, arg)
                    else:
                        elements = self.elements_of(arg)
                        before += self.fill_list(self.site(s), aside, ast.Pattern(arg.pos, [(None, x) for x in elements], False))
                        if direction != "input":
                            after += self.take_elements(self.site(s), aside, elements)
                            places = (n.LRef(aside, None, None, 64),)
                    value = n.ListValue(port.type, "clone", self.list_ref(aside), ())
                elif direction in ("input", "inout"):
                    value = self.for_target(arg, port.type)
                if direction in ("output", "inout") and places is None:
                    places = self.place(arg)
                    self.check_procedural(arg, places)
            values.append(value)
            back.append(places)
        site = self.site(s)
        plain: list[n.Stmt] = [n.CallTask(site, sub, tuple(values), tuple(back))]
        for number, other in variants:  # a virtual method: the class of the object decides
            mine = n.Binary(BIT, "==", n.ClassNumber(Vec(32, False, False), obj[0], site), n.Const(Vec(32, False, False), number))
            plain = [n.If(site, mine, [n.CallTask(site, other, tuple(values), tuple(back))], plain)]
        return [*before, *plain, *after]

    def elements_of(self, arg: ast.Expr) -> list[ast.Expr]:
        """The elements of a fixed array of one dimension, in the order of its range."""
        found = self.selected(arg)
        if len(found.dims) != 1:
            raise self.error(arg.pos, f"{self.words(arg)} is no array of one dimension", "operand-type")
        left, right = found.dims[0]
        indexes = range(left, right + 1) if right >= left else range(left, right - 1, -1)
        return [ast.Index(arg.pos, arg, _whole(arg.pos, k)) for k in indexes]

    def take_elements(self, site: int, source: Signal, elements: list[ast.Expr]) -> list[n.Stmt]:
        """The elements of a list written to places."""
        assert isinstance(source.type, List)
        found: list[n.Stmt] = []
        for k, element in enumerate(elements):
            value = n.ListValue(source.type.element, "get", self.list_ref(source), (n.Const(INTEGER, k),))
            found.append(n.Assign(site, self.place(element), value))
        return found

    def _system_task(self, s: ast.CallStmt, call: ast.Call, name: str) -> list[n.Stmt]:
        if name == "$cast":
            text = n.Const(Vec(8 * 11), int.from_bytes(b"cast failed", "big"), 0, True)
            return self.dynamic_cast(s, call, [], [n.SysTask(self.site(s), "$error", (text,), self.scope.prefix)])
        if name not in TASKS:
            from mevrik.lang.verilog.elaborate.expressions import SYSTEM_TYPES

            if name in SYSTEM_TYPES:
                value = self.expr(call)
                sink = Signal("", value.type, "local", s.pos)
                self.add_local(sink)
                width = value.type.width if isinstance(value.type, Vec) else 64
                return [n.Assign(self.site(s), (n.LRef(sink, None, None, width),), value)]
            hint = nearest(name, TASKS)
            raise self.error(call.pos, f"the system task {name} is not supported{hint}", "unsupported")
        site = self.site(s)
        if name in ("$readmemh", "$readmemb"):
            return [self._readmem(call, name, site)]
        args: list[n.Expr | None] = []
        if name == "$dumpvars":
            return [n.SysTask(site, name, (), self.scope.prefix)]
        if name == "$printtimescale":
            return [n.SysTask(site, name, (), self.scope.prefix)]
        for arg in call.args:
            args.append(None if arg is None else self.expr(arg))
        return [n.SysTask(site, name, tuple(args), self.scope.prefix)]

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


def _whole(pos: int, value: int) -> ast.Expr:
    """A whole number as a syntax tree."""
    number = ast.Number(pos, None, True, abs(value), 0)
    return ast.Unary(pos, "-", number) if value < 0 else number


__all__ = ["Breaks", "StatementElaborator", "initial", "sensitivity"]
