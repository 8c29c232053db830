"""Concurrent statements: processes, generates, blocks (IEEE 1076-2008 11)."""

from __future__ import annotations

from collections.abc import Callable

from mevrik.design import typed as t
from mevrik.design.reads import base_of, signals_read, static_part, unique
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.instances import Instances, bare_instance
from mevrik.lang.vhdl.elaborate.scope import (
    Component,
    Label,
    Quiet,
    Scope,
    Wrong,
)


class Concurrents(Instances):
    later: list[Callable[[], None]]  # processes are analysed when all their region declares is known

    # ---- concurrent statements ----

    def concurrents(self, body: list[a.Concurrent], block: a.BlockConfig | None) -> None:
        for s in body:
            self._cache.clear()
            with self.careful():
                instance = bare_instance(s)
                if instance is not None and self._is_unit(instance.unit):
                    s = instance
                match s:
                    case a.Process():
                        self._defer(s)
                    case a.Instance():
                        self._instance(s, block)
                    case a.Block():
                        self._block(s, block)
                    case a.Generate():
                        self._generate(s, block)

    def _is_unit(self, name: a.Expr) -> bool:
        try:
            found = self.denote(name) or [None]
        except (Wrong, Quiet):
            return False  # the call tells what is wrong
        return isinstance(found[0], Component | a.Entity)

    def _defer(self, s: a.Process) -> None:
        scope, path, here = self.scope, self.path, self.instance
        process = t.Process(s.label or f"_{self.sources.place(s.pos).line}", path, s.pos, 0, postponed=s.postponed)
        self.shared.processes.append(process)

        def act() -> None:
            with self.careful(), self.inside(scope, path=path, instance=here, sub=None, process=None, out=[], loops=[]):
                self._process(s, process)

        self.later.append(act)

    def _process(self, s: a.Process, process: t.Process) -> None:
        scope = Scope(self.scope, s.label.lower())
        scope.open(self.scope, s.label.lower())
        process.scope = scope
        process.site = self.site(s)
        path = self.path
        with self.inside(scope, process=process, out=[], path=path, started=[]):
            if s.sensitivity is not None:
                process.sensitivity = []
                for e in s.sensitivity:
                    value = self.value(e, None)
                    inner = base_of(value)
                    if not (isinstance(inner, t.Ref) and inner.object.kind == "signal"):
                        name = getattr(e, "text", "this")
                        raise Wrong(e.pos, f"'{name}' is no signal: only signals wake a process", "sensitivity")
                    if inner.object.signal is None and static_part(value) is None:
                        raise Quiet  # a port whose connection is wrong
                    if static_part(value) is None or not self._wholly_static(value):
                        raise Wrong(e.pos, "a name in a sensitivity list has to be known before the run", "sensitivity")
                    process.sensitivity.append(value)
            process.decls = self.declare_all(s.decls)
            mark = self.mark()
            with self.inside(self.scope, running=True):
                process.body = self.statements(s.body)
            process.decls += self.out
            if s.all:
                seen: set[t.Subprogram] = set()
                process.sensitivity = unique(x for item in process.body for x in signals_read(item, seen))
            elif s.implied:
                self._implied(process, s)
            elif s.sensitivity is None and not _waits(process.body) and not self.failed_since(mark):
                name = f"process '{s.label}'" if s.label else "this process"
                self.diagnostics.warning(
                    s.pos,
                    f"{name} has no sensitivity list and never waits: it runs for ever while time stands still",
                    "never-waits",
                )

    def _implied(self, process: t.Process, s: a.Process) -> None:
        """11.3 to 11.6: a concurrent statement waits for what it reads."""
        found: list[t.Expr] = []
        for item in process.body:
            if isinstance(item, t.CallStmt):
                for p, x in zip(item.call.sub.params, item.call.args, strict=True):
                    if p.mode != "out":
                        found += signals_read(x)
            else:
                found += signals_read(item)
        on = unique(iter(found))
        call = process.body[0] if process.body and isinstance(process.body[0], t.CallStmt) else None
        if call is not None and call.call.sub.suspends:
            process.body.append(t.Wait(process.site, on, None, None))
        else:
            process.sensitivity = on

    def _generate(self, s: a.Generate, block: a.BlockConfig | None) -> None:
        if s.kind == "for":
            assert s.subject is not None
            bounds, of = self.bounds(s.subject, None)
            left, right, down = bounds.ints
            if isinstance(of.type, t.Integer) and of.type.universal:
                of = self.std.integer
            for k in range(left, right - 1, -1) if down else range(left, right + 1):
                index = t.Object(s.name, "constant", of, s.pos, s.text, value=k)
                shown = of.type.literals[k] if isinstance(of.type, t.Enum) else str(k)
                self._branch(s, s.branches[0], f"{s.label}({shown})", index, self._inner(block, s.label, k))
            return
        if s.kind == "if":
            for branch in s.branches:
                if branch.cond is None or self.constant(self.condition(branch.cond)):
                    self._branch(s, branch, s.label, None, self._inner(block, branch.label or s.label, None))
                    return
            return
        assert s.subject is not None
        subject = self.subject(s.subject)
        kind = subject.type.type
        number = self.constant(subject) if subject.type.scalar else None
        for branch in s.branches:
            for choice in branch.choices:
                hit = isinstance(choice, a.Others)
                if not hit and self._is_range(choice):
                    chosen, _ = self.bounds(choice, subject.type)
                    hit = chosen.low <= number <= chosen.high
                elif not hit:
                    value = self.value(choice, subject.type)
                    if number is not None:
                        hit = self.constant(value) == number
                    else:
                        assert isinstance(kind, t.ArrayType)
                        hit = bool(self.constant(self.apply("=", [subject, value], self.std.boolean, choice.pos)))
                if hit:
                    self._branch(s, branch, s.label, None, self._inner(block, branch.label or s.label, None))
                    return

    def _inner(self, block: a.BlockConfig | None, label: str, index: int | None) -> a.BlockConfig | None:
        """The part of a configuration for a block or generate."""
        for item in block.items if block is not None else ():
            if isinstance(item, a.BlockConfig) and item.id == label.lower():
                if item.index is None or index is None:
                    return item
                with self.careful():
                    if isinstance(item.index, a.Range):
                        bounds, _ = self.bounds(item.index, None)
                        if bounds.low <= index <= bounds.high:
                            return item
                    elif self.constant(self.value(item.index, self.std.integer)) == index:
                        return item
        return block if block is not None and not any(isinstance(x, a.BlockConfig) for x in block.items) else None

    def _branch(self, s: a.Generate, branch: a.Branch, name: str, index: t.Object | None, block: a.BlockConfig | None) -> None:
        scope = Scope(self.scope, s.label.lower())
        scope.open(self.scope, name.lower())
        path = f"{self.path}.{name}"
        here = t.Instance(name, path, "", s.pos, branch.pos, self.instance, scope=scope, kind="generate")
        assert self.instance is not None
        self.instance.children.append(here)
        if index is not None:
            scope.declare(index.name, index, s.pos, index.text)
        with self.inside(scope, path=path, instance=here):
            self.labels(branch.body, scope)
            self.declare_all(branch.decls)
            self.collect(scope, here)
            self.concurrents(branch.body, block)

    def _block(self, s: a.Block, block: a.BlockConfig | None) -> None:
        scope = Scope(self.scope, s.label.lower())
        scope.open(self.scope, s.label.lower())
        path = f"{self.path}.{s.label}"
        here = t.Instance(s.label, path, "", s.pos, s.pos, self.instance, scope=scope, kind="block")
        label = self.scope.direct(s.label.lower())
        if label and isinstance(label[0], Label):
            label[0].scope = scope
        assert self.instance is not None
        self.instance.children.append(here)
        if s.generics:
            self.bind_generics(s.generics, s.generic_map, scope, s.pos, f"block '{s.label}'")
        if s.ports:
            self.ports(s.ports, s.port_map, scope, here, s.pos, f"block '{s.label}'", path)
        with self.inside(scope, path=path, instance=here):
            if s.guard is not None:
                guard = t.Object("guard", "signal", self.std.boolean, s.pos, "guard")
                guard.signal = t.SignalPart(self.root_signal(guard))
                scope.declare("guard", guard, s.pos)
                scope.guard = guard
                condition = self.condition(s.guard)
                self._link(t.Ref(guard.subtype, s.pos, guard), condition, unique(signals_read(condition)), s.pos, "link", path)
            self.labels(s.body, scope)
            self.declare_all(s.decls)
            self.collect(scope, here)
            self.concurrents(s.body, self._inner(block, s.label, None))

    def labels(self, body: list[a.Concurrent], scope: Scope) -> None:
        for s in body:
            if s.label:
                with self.careful():
                    scope.declare(s.label.lower(), Label(s.label, type(s).__name__.lower(), None, s.pos, s), s.pos, s.label)

    @staticmethod
    def collect(scope: Scope, here: t.Instance) -> None:
        for entities in scope.names.values():
            for x in entities:
                if isinstance(x, t.Object) and x.kind == "signal" and not x.mode and x not in here.signals:
                    here.signals.append(x)


def _waits(body: list[t.Stmt]) -> bool:
    return any(isinstance(x, t.Wait) or (isinstance(x, t.Call) and x.sub.suspends) for s in body for x in t.nodes(s))
