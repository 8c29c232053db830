"""Procedural statements (IEEE 1364-2005 clauses 9 and 10)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.evaluate import initial
from mevrik.design.record import replace
from mevrik.design.types import List, Text, Vec
from mevrik.design.unit import Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.calls import number
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.decisions import Breaks
from mevrik.lang.verilog.elaborate.events import event_class, is_event_handle
from mevrik.lang.verilog.elaborate.scope import BlockName, RemoteBlock, Scope, Shape, SubDecl
from mevrik.lang.verilog.elaborate.selections import Selected
from mevrik.lang.verilog.elaborate.tasks import TaskElaborator


class StatementElaborator(TaskElaborator):
    deferred: list[tuple[Scope, ast.Item]]
    _procedures_announced: int  # of `deferred`, those whose named blocks are known

    def declare_items(self, items: list[ast.Item], scope: Scope, automatic: bool) -> list[n.Stmt]:
        raise NotImplementedError

    def declare_early(self, items: list[ast.Item], scope: Scope) -> None:
        raise NotImplementedError

    def remote_block_of(self, entity: SubDecl) -> RemoteBlock | None:
        raise NotImplementedError

    def open_scope(self, name: str, kind: str) -> Scope:
        raise NotImplementedError

    def body(self, s: ast.Stmt | None) -> list[n.Stmt]:
        """A statement as a list; one that has an error is left out."""
        if s is None or isinstance(s, ast.Null):
            return []
        try:
            return self.statement(s)
        except Abandon:
            self.context.abandoned += 1
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
            case ast.Assert(kind="expect"):
                return self.expectation(s)
            case ast.Assert(prop=prop) if prop is not None:
                return self.concurrent_assertion(s, True)
            case ast.Assert():
                return self.assert_statement(s)
            case ast.Null():
                return []
        raise self.error(s.pos, "this statement is not supported yet", "unsupported")

    def expectation(self, tree: ast.Assert) -> list[n.Stmt]:
        raise NotImplementedError

    def concurrent_assertion(self, tree: ast.Assert, in_procedure: bool) -> list[n.Stmt]:
        raise NotImplementedError

    def _cycles(self, s: ast.Node, count: ast.Expr) -> list[n.Stmt]:
        """`##n`: that many events of the default clocking."""
        event = self.clock_event(s.pos)
        wait = n.WaitEvent(self.site(s), (n.Sense("any", n.Ref(event.type, event)),))
        return [n.RepeatLoop(self.site(s), self.expr(count), [wait])]

    def _block(self, s: ast.Block) -> list[n.Stmt]:
        if s.fork and s.decls and len(s.body) > 1 and not s.label:
            return self._block(_with_shared(s))
        outer = self.scope
        made = n.Block(self.site(s), [], s.label)
        if s.label:
            found = self.declare_block(s, outer)
            assert found.scope is not None
            made, self.scope = found.block, found.scope
            made.site = self.site(s)
        elif s.decls:
            self.scope = self.open_scope("", "block")
        self.breaks.open.append(made)
        try:
            inits = self.declare_items(s.decls, self.scope, False) if s.decls else []
            if s.fork:
                branches: list[n.Stmt] = []
                outside, self.breaks.open = self.breaks.open, []  # a branch is a process of its own: it can't just leave
                try:
                    for inner in s.body:
                        branches.append(n.Block(self.site(inner), self.body(inner)))
                finally:
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

    def declare_block(self, s: ast.Block, outer: Scope) -> BlockName:
        """The named block, which may be announced already."""
        old = outer.names.get(s.label)
        if isinstance(old, BlockName) and old.announced and outer.positions.get(s.label) == s.pos:
            old.announced = False
            return old
        if old is not None and not (isinstance(old, BlockName) and outer.positions.get(s.label) == s.pos):
            line = self.context.diagnostics.sources.place(outer.positions.get(s.label, 0)).line
            self.context.diagnostics.error(s.pos, f"'{s.label}' is already declared in line {line}", "declared-twice")
        kept, self.scope = self.scope, outer
        made = BlockName(n.Block(0, [], s.label), self.open_scope(s.label, "block"), leaves_branches=_leaves_branches(s.body))
        self.scope = kept
        outer.names[s.label] = made
        outer.positions[s.label] = s.pos
        return made

    def announce_blocks(self) -> bool:
        """Make the named blocks known, and the variables in them, of the procedures that are not elaborated yet: a disable may name one
        further down, another module one in here (12.5). False if that was done before."""
        known, self._procedures_announced = self._procedures_announced, len(self.deferred)
        for scope, item in self.deferred[known:]:
            if isinstance(item, ast.Always):
                self._announce_in(item.body, scope)
        return known < len(self.deferred)

    def _announce_in(self, tree: object, scope: Scope) -> None:
        if isinstance(tree, ast.Block) and tree.label:
            if tree.label not in scope.names:
                announced = self.declare_block(tree, scope)
                announced.announced = True
                if announced.scope is not None:
                    self.declare_early(tree.decls, announced.scope)
            found = scope.names[tree.label]
            if not isinstance(found, BlockName) or found.scope is None:
                return
            scope = found.scope
        if isinstance(tree, ast.Stmt):
            for name in tree.__struct_fields__:
                self._announce_in(getattr(tree, name), scope)
        elif isinstance(tree, (list, tuple)):
            for part in tree:
                self._announce_in(part, scope)

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
                return self._each_key(s, array, t, shape.keys, rest, at)
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

    def _each_key(self, s: ast.Foreach, array: ast.Expr, t: List, keys: Shape | None, rest: Shape, at: int) -> ast.Stmt:
        """The keys of an associative array, in their order."""
        pos, name = s.names[at]
        if name is None:
            raise self.error(s.pos, "the index of an associative array needs a name here", "select")
        assert t.key is not None
        index = ast.Name(pos, name)
        body = self._each(s, ast.Index(pos, array, index), rest, at + 1)
        kind = ast.DataType(pos, "known", known=keys or Shape(t.key, ((t.key.width - 1, 0),)))
        declared = ast.VarDecl(pos, kind, [ast.Declarator(pos, name)], "automatic")

        def move(how: str) -> ast.Expr:
            call = ast.Call(pos, ast.Member(pos, array, how), [index])
            return ast.Binary(pos, "!=", call, number(pos, 0))

        loop = ast.While(s.pos, move("next"), body, test_last=True)
        return ast.Block(s.pos, "", [declared], [ast.If(s.pos, move("first"), loop, None)])

    def _control(self, control: ast.TimingControl, body: list[n.Stmt]) -> n.Stmt:
        site = self.context.site(control.pos, control.pos + 1, self.process_name)
        if control.kind == "delay":
            assert control.delay is not None
            return n.Delay(site, self.ticks(control.delay))
        if control.kind == "star":
            return n.WaitEvent(site, sensitivity(body))
        choices = self.event_choices(control.events[0].expr) if len(control.events) == 1 else []
        if choices:  # the index is taken when the wait begins
            waits = [
                n.WaitEvent(site, self.events(replace(control, events=[replace(control.events[0], expr=e)]))) for _, e in choices
            ]
            (made,) = self._by_index(choices, [[w] for w in waits], site)
            return made
        held: list[n.Stmt] = []
        senses = [sense for event in control.events for sense in self._senses(control, event, held)]
        wait = n.WaitEvent(site, tuple(senses))
        return n.Block(site, [*held, wait]) if held else wait

    def _senses(self, control: ast.TimingControl, event: ast.EventExpr, held: list[n.Stmt]) -> tuple[n.Sense, ...]:
        """What an event waits for. Which event a variable holds is a matter of the moment at which the wait begins: `held` keeps it
        (15.5.5.1)."""
        kind = self.shape(event.expr) if self.module.sv else None
        if kind is None or not is_event_handle(kind):
            return self.events(replace(control, events=[event]))
        kept, site = self.local(kind, event.pos), self.site(event)
        held.append(n.Assign(site, (whole(kept),), self.read(event.expr)))
        times = event_class(self.itself, event.pos).fields["times"]
        value = n.FieldValue(times.shape.type, n.Ref(kind, kept), times.word, site)
        return (n.Sense("any", value, self.truth(event.guard) if event.guard is not None else None),)

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
            if block is None:
                raise self.error(s.pos, "'return' stands outside a function or task", "jump")
            found: list[n.Stmt] = []
            if s.value is None and sub is not None and sub.type is not None and sub.name != "new":
                raise self.error(s.pos, f"'{sub.name}' has a result: 'return' gives it, as in return value; (12.8)", "jump")
            if s.value is not None:
                if sub is None or sub.result is None or sub.type is None:
                    raise self.error(s.pos, f"'{sub.name if sub is not None else block.name}' has no result to return", "jump")
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
        first = target
        while isinstance(first, (ast.Member, ast.Index)):
            first = first.base
        if isinstance(first, ast.Name) and self.scope.find(first.name) is None:
            self.announce_blocks()
        entity, _ = self.resolve(target, self.scope)
        site = self.site(s)
        if isinstance(entity, SubDecl):
            entity.kin.disabled = True
            if self.breaks.sub is entity.sub and self.breaks.body is not None:
                return self._end_from_inside(site, self.breaks.body, True)
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
            return self._end_from_inside(site, entity.block, entity.leaves_branches)
        entity.block.remote = True
        return [n.DisableBlock(site, (), entity.block)]

    def _end_from_inside(self, site: int, block: n.Block, leaves_branches: bool) -> list[n.Stmt]:
        """It ends for all who are in it: other activations of a task, branches that nothing waits for (1364-2005 clause 11)."""
        sub = self.breaks.sub
        if not leaves_branches and (sub is None or not sub.is_task):
            return [n.Leave(site, block)]
        block.remote = True
        return [n.DisableBlock(site, (), block, True), n.Leave(site, block)]


def _leaves_branches(tree: object) -> bool:
    """Whether a fork in it goes on before all of its branches have ended."""
    return any(isinstance(x, ast.Block) and x.fork in ("join_any", "join_none") for x in ast.within(tree))


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


__all__ = ["Breaks", "StatementElaborator", "initial", "sensitivity"]


def _with_shared(s: ast.Block) -> ast.Block:
    """A fork whose branches share the variables that it declares (9.3.2): they belong to a block around it or, where the fork is not waited
    for to its end, to a process around it, which gets their start values when the fork begins."""
    inner = ast.Block(s.pos, "", [], s.body, "join" if s.fork == "join_none" else s.fork)
    around = ast.Block(s.pos, "", s.decls, [inner], {"join": "", "join_any": "join", "join_none": "join_none"}[s.fork])
    inner.end = around.end = s.end
    return around
