"""Sequential statements (IEEE 1076-2008 clause 10)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.design.reads import base_of, signals_read, static_part, unique
from mevrik.lang.diagnostics import nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.choices import Choices, never_chosen
from mevrik.lang.vhdl.elaborate.scope import Alias, Label, Quiet, Scope, TypeName, Wrong


class Statements(Choices):
    def statements(self, body: list[a.Stmt]) -> list[t.Stmt]:
        found: list[t.Stmt] = []
        for s in body:
            with self.careful():
                outer, self.out = self.out, []
                try:
                    self._cache.clear()
                    self.site_now = 0
                    made = self.statement(s)
                finally:
                    hidden, self.out = self.out, outer
                found += hidden
                found += made
        return found

    def statement(self, s: a.Stmt) -> list[t.Stmt]:
        site = self.site(s)
        match s:
            case a.Assign():
                return self._assign(s, site)
            case a.SignalAssign():
                return self._signal_assign(s, site)
            case a.SelectedAssign():
                return self._selected_assign(s, site)
            case a.If(arms=arms):
                return self._if(arms, site, s)
            case a.Case():
                return [self._case(s, site)]
            case a.Loop():
                return self._loop(s, site)
            case a.Leave():
                return self._leave(s, site)
            case a.Return(value=value):
                return [self._return(value, s, site)]
            case a.Wait():
                return [self._wait(s, site)]
            case a.Assert():
                return [self._assert(s, site)]
            case a.Call(name=name):
                return [self._procedure_call(name, s, site)]
            case a.Release(target=target):
                place = self.target(target, "force")
                return [t.SignalAssign(site, place, "release", None, [])]
            case a.NullStmt():
                return []
        raise AssertionError(s)

    def condition(self, e: a.Expr) -> t.Expr:
        """A boolean, or what '??' makes one (9.2.9)."""
        boolean = self.std.boolean
        kinds = self.types(e)
        if any(k is boolean.type for k in kinds):
            return self.value(e, boolean)
        logic = [k for k in kinds if k is self.std.bit.type or self.is_nine(k)]
        if len(logic) >= 1:
            best = next((k for k in logic if self.is_nine(k)), logic[0])
            return self.apply("??", [self.value(e, self.plain(best))], boolean, e.pos)
        value = self.value(e, None)
        raise Wrong(e.pos, f"a condition is a boolean; this is {self._typed(value, e)}", "condition")

    # ---- targets ----

    def target(self, e: a.Expr, kind: str, value: a.Expr | None = None) -> t.Expr:
        """What an assignment writes; kind: variable, signal or force (of a signal)."""
        if isinstance(e, a.Aggregate):
            return self._aggregate_target(e, kind, value)
        if isinstance(e, a.Name):
            found = self.find(e.id, e.pos, e.text)
            if not isinstance(found[0], (t.Object, Alias)):
                what = self._no_value(found[0], e) if not isinstance(found[0], TypeName) else f"'{e.text}' is a type"
                raise Wrong(e.pos, f"{what}: it can't be assigned", "target")
            place = self._place(found[0], e.pos)
        elif isinstance(e, a.Apply) and isinstance(e.prefix, a.Name):
            found = self.find(e.prefix.id, e.prefix.pos, e.prefix.text)
            if not isinstance(found[0], (t.Object, Alias)):
                raise Wrong(e.pos, f"'{e.prefix.text}' is no object: it can't be assigned", "target")
            place = self.index(self._place(found[0], e.pos), e)
        else:
            place = self.value(e, None)
        self.check_target(place, kind, e.pos)
        return place

    def _place(self, entity: t.Object | Alias, pos: int) -> t.Expr:
        if isinstance(entity, Alias):
            return entity.expr
        return t.Ref(entity.subtype, pos, entity)

    def check_target(self, place: t.Expr, kind: str, pos: int) -> None:
        inner = base_of(place)
        if isinstance(inner, t.Deref):
            if kind == "signal":
                raise Wrong(pos, "what an access value points to is a variable: it is assigned with ':='", "assignment")
            return
        if not isinstance(inner, t.Ref):
            raise Wrong(pos, "only a variable or signal can be assigned", "target")
        o = inner.object
        own = o.cls if o.kind == "param" else o.kind
        name = o.text or o.name
        if own == "constant" or o.kind == "loop":
            self.check_writable(o, pos)
        if kind == "force":  # no driver, and an input port may be forced as well (10.5.2.1)
            if own != "signal":
                raise Wrong(pos, f"'{name}' is no signal: only a signal can be forced", "assignment")
            return
        if kind == "signal" and own == "variable":
            raise Wrong(pos, f"'{name}' is a variable: it is assigned with ':=', not '<='", "assignment")
        if kind == "variable" and own == "signal":
            raise Wrong(pos, f"'{name}' is a signal: it is assigned with '<=', not ':='", "assignment")
        if own == "file":
            raise Wrong(pos, f"'{name}' is a file: it can't be assigned", "target")
        self.check_writable(o, pos)
        if kind == "signal":
            self.drive(place, pos)

    def _aggregate_target(self, e: a.Aggregate, kind: str, value: a.Expr | None) -> t.Expr:
        if value is None:
            raise Wrong(e.pos, "an aggregate as a target needs a value whose type is clear", "target")
        kinds = [k for k in self.types(value) if isinstance(k, (t.ArrayType, t.RecordType))]
        if len(kinds) != 1:
            raise Wrong(e.pos, "the value assigned to this aggregate is of no clear type; qualify it: type'(...)", "ambiguous")
        want = self.plain(kinds[0])
        items: list[tuple[list[t.Expr | t.Bounds | None], t.Expr]] = []
        if isinstance(want.type, t.RecordType):
            whole = self.aggregate(e, want)
            assert isinstance(whole, t.Aggregate)
            items = whole.items
        else:
            assert isinstance(want.type, t.ArrayType)
            for item in e.items:
                choices: list[t.Expr | t.Bounds | None] = []
                for c in item.choices:
                    choices.append(
                        self.bounds(c, want.type.indexes[0])[0]
                        if self._is_range(c)
                        else self.known(self.value(c, want.type.indexes[0]))
                    )
                items.append((choices, self.target(item.value, kind)))
        for k, (_, place) in enumerate(items):
            self.check_target(place, kind, place.pos)
            if any(_overlap(place, other) for _, other in items[:k]):
                raise Wrong(
                    place.pos,
                    "this target stands in the aggregate twice: which value it would get is not defined (10.6.2)",
                    "target",
                )
        return t.Aggregate(want, e.pos, items)

    def drive(self, target: t.Expr, pos: int) -> None:
        """Note that the process drives this part of a signal."""
        part = static_part(target)
        if part is None or self.process is None:
            if part is not None and self.process is None and self.sub is not None:
                inner = base_of(target)
                name = inner.object.text if isinstance(inner, t.Ref) else "the signal"
                raise Wrong(
                    pos,
                    f"'{name}' can't be assigned here: the subprogram stands outside of a process; make the signal a parameter",
                    "driver",
                )
            return
        signal, at, size = part
        root = signal.root
        driver = self.process.drivers.get(root)
        if driver is None:
            driver = t.Driver(root, self.process, pos=pos)
            self.process.drivers[root] = driver
            root.drivers.append(driver)
        if (at, size) not in driver.ranges:
            driver.ranges.append((at, size))
        base = base_of(target)
        if isinstance(base, t.Ref) and base.object.signal is not None:
            o = base.object
            entry = (o.signal.at, t.size_of(o.subtype), o)  # type: ignore[union-attr]
            if all(x[2] is not o for x in driver.inits):
                driver.inits.append(entry)

    # ---- assignments ----

    def _assign(self, s: a.Assign, site: int) -> list[t.Stmt]:
        place = self.target(s.target, "variable", s.alternatives[0][0])
        return self._choose([(lambda v=v: [t.Assign(site, place, self.assigned(v, place))], c) for v, c in s.alternatives], site)

    def _choose(self, alternatives: list[tuple[object, a.Expr | None]], site: int) -> list[t.Stmt]:
        """value when condition else ...: as an if (10.5.3, 10.6.3)."""
        make, cond = alternatives[0]
        if cond is None:
            return make()  # type: ignore[operator,no-any-return]
        test = self.condition(cond)
        known = bool(test.value) if isinstance(test, t.Const) else None
        with self.unreached(known is False):
            then = make()  # type: ignore[operator]
        with self.unreached(known is True):
            other = self._choose(alternatives[1:], site) if len(alternatives) > 1 else []
        return [t.If(site, test, then, other)]

    def assigned(self, e: a.Expr, place: t.Expr) -> t.Expr:
        """A value for a place, with what is known to fail said at once."""
        value = self.value(e, place.type)
        if not isinstance(place, t.Aggregate):
            self.check_value(value, place.type, e.pos)
        return value

    def _waves(self, waves: list[a.Wave] | None, place: t.Expr) -> list[t.Wave]:
        found: list[t.Wave] = []
        for w in waves or ():
            value = self.assigned(w.value, place) if w.value is not None else None
            after = self.value(w.after, self.std.time) if w.after is not None else None
            if isinstance(after, t.Const) and after.value < 0:
                raise Wrong(w.pos, "a delay can't be negative", "delay")
            before = found[-1].after if found else None
            if isinstance(after, t.Const) and isinstance(before, t.Const) and after.value <= before.value:
                raise Wrong(w.pos, "the delays of a waveform grow from element to element (10.5.2.2)", "delay")
            found.append(t.Wave(value, after))
        return found

    def _signal_assign(self, s: a.SignalAssign, site: int) -> list[t.Stmt]:
        first = s.alternatives[0][0]
        kind = "force" if s.delay == "force" else "signal"
        place = self.target(s.target, kind, first[0].value if first else None)
        reject = self.value(s.reject, self.std.time) if s.reject is not None else None
        guard = self._guard(s) if s.guarded else None

        def one(waves: list[a.Wave] | None) -> list[t.Stmt]:
            if waves is None:
                return []
            return [t.SignalAssign(site, place, s.delay, reject, self._waves(waves, place), guard)]

        made = self._choose([(lambda w=w: one(w), c) for w, c in s.alternatives], site)
        return self._guarded(made, place, guard, site)

    def _guard(self, s: a.SignalAssign | a.SelectedAssign) -> t.Object:
        scope: Scope | None = self.scope
        while scope is not None:
            if scope.guard is not None:
                return scope.guard
            scope = scope.parent
        raise Wrong(s.pos, "'guarded' stands only in a block with a guard condition: block (condition)", "guard")

    def _guarded(self, made: list[t.Stmt], place: t.Expr, guard: t.Object | None, site: int) -> list[t.Stmt]:
        """11.6: while the guard is false the assignment does nothing, or disconnects a guarded signal."""
        if guard is None:
            return made
        inner = base_of(place)
        off: list[t.Stmt] = []
        if isinstance(inner, t.Ref) and inner.object.bus:
            off = [t.SignalAssign(site, place, "inertial", None, [t.Wave(None, inner.object.default)])]
        return [t.If(site, t.Ref(guard.subtype, place.pos, guard), made, off)]

    def _selected_assign(self, s: a.SelectedAssign, site: int) -> list[t.Stmt]:
        first = s.alternatives[0][0]
        place = self.target(
            s.target, "variable" if s.variable else "force" if s.delay == "force" else "signal", first[0].value if first else None
        )
        reject = self.value(s.reject, self.std.time) if s.reject is not None else None
        guard = self._guard(s) if s.guarded else None
        subject = self.subject(s.subject)
        arms: list[tuple[list[t.Expr | t.Bounds], list[t.Stmt]]] = []
        for waves, choices in s.alternatives:
            made: list[t.Stmt] = []
            found = self.choices(choices, subject)
            with self.unreached(never_chosen(subject, found, [c for c, _ in arms])):
                if s.variable:
                    assert waves and waves[0].value is not None
                    made = [t.Assign(site, place, self.value(waves[0].value, place.type))]
                elif waves is not None:
                    made = [t.SignalAssign(site, place, s.delay, reject, self._waves(waves, place), guard)]
            arms.append((found, made))
        self.check_choices(subject, arms, s.matching, s.pos, [c for _, c in s.alternatives])
        return self._guarded([t.Case(site, subject, s.matching, arms)], place, guard, site)

    # ---- control ----

    def _if(self, arms: list[tuple[a.Expr | None, list[a.Stmt]]], site: int, s: a.Stmt) -> list[t.Stmt]:
        cond, body = arms[0]
        if cond is None:
            return self.statements(body)
        test: t.Expr = t.Const(self.std.boolean, s.pos, 1)
        with self.careful():
            test = self.condition(cond)
        known = bool(test.value) if isinstance(test, t.Const) else None
        hidden, self.out = self.out, []
        with self.unreached(known is False):
            then = self.statements(body)
        self.out = hidden
        with self.unreached(known is True):
            other = self._further(arms[1:], s)
        return [t.If(site, test, then, other)]

    def _further(self, arms: list[tuple[a.Expr | None, list[a.Stmt]]], s: a.Stmt) -> list[t.Stmt]:
        """The other arms of an if."""
        if not arms:
            return []
        cond, body = arms[0]
        if cond is None:
            return self.statements(body)
        outer, self.out = self.out, []
        more = self._if(arms, self.site(cond, s.end), s)
        made = [*self.out, *more]
        self.out = outer
        return made

    def _case(self, s: a.Case, site: int) -> t.Stmt:
        subject = self.subject(s.subject)
        arms: list[tuple[list[t.Expr | t.Bounds], list[t.Stmt]]] = []
        broken = False
        for choices, body, _ in s.arms:
            found: list[t.Expr | t.Bounds] = []
            mark = self.mark()
            with self.careful():
                found = self.choices(choices, subject)
            broken = broken or self.failed_since(mark)
            hidden, self.out = self.out, []
            with self.unreached(never_chosen(subject, found, [c for c, _ in arms])):
                arms.append((found, self.statements(body)))
            self.out = hidden
        if not broken:
            self.check_choices(subject, arms, s.matching, s.pos, [c for c, _, _ in s.arms])
        return t.Case(site, subject, s.matching, arms)

    def _loop(self, s: a.Loop, site: int) -> list[t.Stmt]:
        loop = t.Loop(site, None, None, None, [])
        scope = Scope(self.scope, s.label)
        if s.label:
            scope.open(self.scope, s.label.lower())
        if s.cond is not None:
            loop.cond = self.condition(s.cond)
        if s.range is not None:
            bounds, of = self.bounds(s.range, None) if self.sub is not None else self._loop_bounds(s.range)
            if isinstance(of.type, t.Integer) and of.type.universal:
                of = self.std.integer
            if not of.discrete:
                raise Wrong(s.range.pos, f"a loop runs over discrete values; this is {of!r}", "loop")
            variable = t.Object(
                s.name,
                "loop",
                t.Subtype(of.type, of.name, bounds if bounds.static else None),
                s.pos,
                s.text,
                owner=self.sub or self.process,
            )
            loop.variable, loop.bounds = variable, bounds
            scope.declare(s.name, variable, s.pos, s.text)
        self.loops.append((s.label, loop))
        with self.inside(scope):
            hidden, self.out = self.out, []
            loop.body = self.statements(s.body)
            self.out = hidden
        self.loops.pop()
        return [loop]

    def _loop_bounds(self, e: a.Expr) -> tuple[t.Bounds, t.Subtype]:
        """In a process the bounds of a loop may depend on what runs."""
        if isinstance(e, a.Range):
            wanted = self._range_type(e)
            left = self.value(e.left, self.plain(wanted.type))
            right = self.value(e.right, self.plain(wanted.type))
            found = t.Bounds(left, right, e.down)
            self._turned(e, found)
            return found, self.plain(wanted.type)
        if isinstance(e, a.SubtypeInd) and isinstance(e.constraint, a.Range):
            mark = self.type_mark(e.mark)
            left = self.value(e.constraint.left, self.plain(mark.type))
            right = self.value(e.constraint.right, self.plain(mark.type))
            return t.Bounds(left, right, e.constraint.down), self.plain(mark.type)
        if isinstance(e, a.Attr) and e.id in ("range", "reverse_range") and self.as_type(e.prefix) is None:
            value = self._prefix(e)
            if value.type.bounds is None and isinstance(value.type.type, t.ArrayType):
                dim = self._dimension(e, value.type)
                index = value.type.type.indexes[dim]
                left = self.bound_of(value, "left", dim, e.pos)
                right = self.bound_of(value, "right", dim, e.pos)
                up = self.bound_of(value, "ascending", dim, e.pos)
                fall: bool | t.Expr = t.Op(self.std.boolean, e.pos, "not", [up])
                if e.id == "reverse_range":
                    left, right, fall = right, left, up
                return t.Bounds(left, right, fall), self.plain(index.type)
        return self.bounds(e, None)

    def _leave(self, s: a.Leave, site: int) -> list[t.Stmt]:
        loop: t.Loop | None = None
        for label, candidate in reversed(self.loops):
            if not s.loop or label == s.loop:
                loop = candidate
                break
        if loop is None:
            what = f"there is no loop '{s.loop}' around this {s.kind}" if s.loop else f"'{s.kind}' stands in no loop"
            raise Wrong(s.pos, what, "loop")
        leave = t.Leave(site, loop, s.kind == "next")
        if s.cond is None:
            return [leave]
        return [t.If(site, self.condition(s.cond), [leave], [])]

    def _return(self, value: a.Expr | None, s: a.Stmt, site: int) -> t.Stmt:
        if self.sub is None:
            raise Wrong(s.pos, "'return' stands only in a function or procedure", "return")
        if self.sub.function:
            if value is None:
                raise Wrong(s.pos, f"the function '{self.sub.text}' has to return a value", "return")
            assert self.sub.result is not None
            return t.Return(site, self.value(value, self.sub.result))
        if value is not None:
            raise Wrong(value.pos, f"'{self.sub.text}' is a procedure: it returns no value", "return")
        return t.Return(site, None)

    def _wait(self, s: a.Wait, site: int) -> t.Stmt:
        if self.sub is not None and self.sub.function:
            raise Wrong(s.pos, "a function can't wait", "wait")
        if self.process is not None and self.process.sensitivity is not None:
            raise Wrong(s.pos, "a process with a sensitivity list can't contain a wait statement", "wait")
        if self.sub is not None:
            self.sub.suspends = True
        on: list[t.Expr] = []
        for e in s.on:
            value = self.value(e, None)
            inner = base_of(value)
            if not (isinstance(inner, t.Ref) and (inner.object.kind == "signal" or inner.object.cls == "signal")):
                raise Wrong(e.pos, "wait on needs signals", "wait")
            on.append(value)
        until = self.condition(s.until) if s.until is not None else None
        time = self.value(s.time, self.std.time) if s.time is not None else None
        if isinstance(time, t.Const) and time.value < 0:
            raise Wrong(time.pos, "a time to wait for can't be negative (10.2)", "delay")
        if until is not None and not s.on:
            on = unique(signals_read(until)) + self._signal_params(until)
        return t.Wait(site, on, until, time)

    @staticmethod
    def _signal_params(e: t.Expr) -> list[t.Expr]:
        found: dict[int, t.Expr] = {}
        for x in t.nodes(e):
            if isinstance(x, t.Ref) and x.object.cls == "signal" and x.object.kind == "param":
                found[id(x.object)] = x
        return list(found.values())

    def _assert(self, s: a.Assert, site: int) -> t.Stmt:
        cond = self.condition(s.cond) if s.cond is not None else None
        report = self.value(s.report, self.std.string) if s.report is not None else None
        severity = self.value(s.severity, self.std.severity) if s.severity is not None else None
        return t.Assert(site, cond, report, severity)

    def _procedure_call(self, name: a.Expr, s: a.Stmt, site: int) -> t.Stmt:
        args: list[a.Assoc] = []
        prefix = name
        if isinstance(name, a.Apply):
            prefix, args = name.prefix, name.args
        target: t.Expr | None = None
        found = self.denote(prefix) if isinstance(prefix, (a.Name, a.Select)) else None
        if found is None and isinstance(prefix, a.Select):
            method = self._method(prefix)
            if method is None:
                raise Wrong(name.pos, "a procedure should be called here", "call")
            target, found = method[0], list(method[1])
        if not found:
            raise Wrong(name.pos, "a procedure should be called here", "call")
        assert isinstance(prefix, (a.Name, a.Select))
        if isinstance(found[0], (t.Object, Alias, TypeName)):
            raise Wrong(name.pos, f"'{prefix.text or prefix.id}' is no procedure; is ':=' or '<=' missing?", "call")
        if isinstance(found[0], Label):
            raise Wrong(name.pos, f"'{prefix.text}' is a label, no procedure", "call")
        sub, bound = self.choose(prefix.text or prefix.id, found, args, None, name.pos, False)
        call = self.call(sub, bound, name.pos, target)
        if self.sub is not None and sub.suspends:
            self.sub.suspends = True
        return t.CallStmt(site, call)


__all__ = ["Quiet", "Statements", "nearest"]


def _overlap(one: t.Expr, other: t.Expr) -> bool:
    """Whether two targets are known to share something."""
    x, y = static_part(one), static_part(other)
    if x is not None and y is not None:
        return x[0].root is y[0].root and x[1] < y[1] + y[2] and y[1] < x[1] + x[2]
    return isinstance(one, t.Ref) and isinstance(other, t.Ref) and one.object is other.object
