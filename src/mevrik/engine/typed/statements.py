"""Sequential statements and calls (IEEE 1076-2008 clauses 4 and 10)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.typed.calls import Calls
from mevrik.engine.typed.function import Place, is_composite, is_real, register
from mevrik.engine.typed.places import open_inside

_SWITCH_MOST = 4096


class Statements(Calls):
    def run(self, body: list[t.Stmt]) -> None:
        for s in body:
            if self.f.terminated:
                return
            self.statement(s)

    def statement(self, s: t.Stmt) -> None:
        """One statement; what it took of the arena is free again behind it."""
        f = self.f
        if s.site:
            f.site = s.site
        outer, f.allocated = f.allocated, False
        at = len(f.lines)
        self._statement(s)
        if f.allocated and not isinstance(s, (t.Declare, t.If, t.Case, t.Loop, t.Nest)):
            f.count += 1
            keep = f"%keep{f.count}"
            top = f"%top{f.count}"
            f.lines[at:at] = [f"  {top} = getelementptr i8, ptr %m, i64 {self.module.base + 16}", f"  {keep} = load ptr, ptr {top}"]
            f.emit(f"store ptr {keep}, ptr {top}")
            f.allocated = outer
        else:
            f.allocated = f.allocated or outer

    def _statement(self, s: t.Stmt) -> None:
        match s:
            case t.Assign():
                self._assign(s.target, s.value)
            case t.SignalAssign():
                self._signal_assign(s)
            case t.Declare(object=o):
                self.declare(o)
            case t.If():
                self._if(s)
            case t.Case():
                self._case(s)
            case t.Loop():
                self._loop(s)
            case t.Leave(loop=loop, again=again):
                again_label, exit_label = self.f.loops[loop]
                self.f.jump(again_label if again else exit_label)
            case t.Return(value=value):
                self._return(value)
            case t.Wait():
                self._wait(s)
            case t.Assert():
                self._assert(s)
            case t.CallStmt(call=call):
                self.call(call)
            case t.Nest(body=body):
                self.run(body)
            case _:
                raise AssertionError(s)

    # ---- declarations ----

    def declare(self, o: t.Object) -> None:
        f = self.f
        if o.kind == "file":
            self._file(o)
            return
        s = o.subtype
        if not o.name and o.kind == "constant" and o.owner is None:  # a bound in a statement of a process
            assert o.init is not None
            f.known[o] = self.scalar(o.init)
            return
        if o.owner is not None and isinstance(o.owner, t.Subprogram):
            if o.kind == "constant" and not is_composite(s):
                assert o.init is not None
                f.known[o] = self.check(self.scalar(o.init), o.init, s)
                return
            f.places[o] = self._local(o)
            if o.init is not None and not s.constrained:
                return
        p = self.object(o)
        if o.init is not None:
            self.put(o.init, p)
        elif o.kind == "variable":
            self.default(p)

    def _local(self, o: t.Object) -> Place:
        """Storage of a variable of a subprogram."""
        f = self.f
        s = o.subtype
        if not is_composite(s):
            if isinstance(s.type, t.ProtectedType):
                return Place(f.alloca(f"[{max(t.size_of(s), 1)} x i8], align 8"), s)
            return Place(f.alloca({"double": "double", "i64": "i64"}[register(s)]), s)
        if o.init is not None and not s.constrained:
            found = self.composite(o.init)
            size = self.size(found)
            ptr = f.arena(size)
            f.copy(ptr, found.ptr, size)
            shape = t.Subtype(s.type, s.name, None, None, found.subtype.element or s.element, found.subtype.fields)
            return Place(ptr, shape if isinstance(s.type, t.ArrayType) else found.subtype, found.bounds)
        bounds = self.ranges(s)
        if s.static and t.size_of(s) <= 256:
            return Place(f.alloca(f"[{max(t.size_of(s), 1)} x i8], align 8"), s, bounds)
        place = Place("", s, bounds)
        place.ptr = f.arena(self.size(place))
        return place

    def _file(self, o: t.Object) -> None:
        f = self.f
        if isinstance(o.owner, t.Subprogram):
            f.places[o] = Place(f.alloca("i64"), o.subtype)
        cell = self.object(o).ptr
        f.emit(f"store i64 0, ptr {cell}")
        if o.init is not None:
            p = self.composite(o.init)
            r = self.bounds_of(p)[0]
            mode = self.scalar(o.default) if o.default is not None else "0"
            f.emit(
                f"call void @file_open(ptr {cell}, ptr {p.ptr}, i64 {r.left}, i64 {r.right}, i64 {r.down}, i64 {mode}, i32 {f.site})"
            )

    # ---- control ----

    def _if(self, s: t.If) -> None:
        f = self.f
        if isinstance(s.cond, t.Const):
            self.run(s.then if s.cond.value else s.other)
            return
        cond = self._condition(s.cond)
        yes, no, done = f.label("then"), f.label("else"), f.label("end")
        f.branch(cond, yes, no if s.other else done)
        f.start(yes)
        self.run(s.then)
        f.jump(done)
        if s.other:
            f.start(no)
            self.run(s.other)
        f.start(done)

    def _condition(self, e: t.Expr) -> str:
        """A condition, with what it took of the arena given back."""
        f = self.f
        outer, f.allocated = f.allocated, False
        at = len(f.lines)
        cond = self.bit(e)
        if f.allocated:
            f.count += 1
            keep, top = f"%keep{f.count}", f"%top{f.count}"
            f.lines[at:at] = [f"  {top} = getelementptr i8, ptr %m, i64 {self.module.base + 16}", f"  {keep} = load ptr, ptr {top}"]
            f.emit(f"store ptr {keep}, ptr {top}")
        f.allocated = outer
        return cond

    def _case(self, s: t.Case) -> None:
        f = self.f
        labels = [f.label("arm") for _ in s.arms]
        done, other = f.label("end"), f.label("other")
        fallback = other
        for label, (choices, _) in zip(labels, s.arms, strict=True):
            if not choices:
                fallback = label
        if is_composite(s.subject.type):
            self._case_of_arrays(s, labels, fallback)
        elif s.matching and len(getattr(s.subject.type.type, "literals", ())) == 9:
            value = self.scalar(s.subject)
            for label, (choices, _) in zip(labels, s.arms, strict=True):
                for c in choices:
                    assert isinstance(c, t.Expr)
                    m = f.op(f"call i64 @x_match1(i64 {value}, i64 {self.scalar(c)})")
                    following = f.label("next")
                    f.branch(f.op(f"icmp eq i64 {m}, 3"), label, following)
                    f.start(following)
            f.jump(fallback)
        else:
            self._case_of_scalars(s, labels, fallback)
        for label, (_, body) in zip(labels, s.arms, strict=True):
            f.lines.append(f"{label}:")
            f.terminated = False
            self.run(body)
            f.jump(done)
        if fallback == other:
            f.lines.append(f"{other}:")
            f.terminated = False
            f.emit(f"call void @v_no_choice(i32 {s.site})")
            f.emit("unreachable")
            f.terminated = True
        f.lines.append(f"{done}:")
        f.terminated = False

    def _case_of_scalars(self, s: t.Case, labels: list[str], fallback: str) -> None:
        f = self.f
        value = self.scalar(s.subject)
        table: list[str] = []
        rest: list[tuple[t.Bounds, str]] = []
        for label, (choices, _) in zip(labels, s.arms, strict=True):
            for c in choices:
                if isinstance(c, t.Bounds):
                    if c.static and c.high - c.low < _SWITCH_MOST:
                        table += [f"i64 {v}, label %{label}" for v in range(c.low, c.high + 1)]
                    else:
                        rest.append((c, label))
                else:
                    assert isinstance(c, t.Const), "a choice has to be static"
                    table.append(f"i64 {c.value}, label %{label}")
        for c, label in rest:
            r = self.range(c)
            low, high = f.low_high(r)
            hit = f.op(f"and i1 {f.op(f'icmp sge i64 {value}, {low}')}, {f.op(f'icmp sle i64 {value}, {high}')}")
            following = f.label("next")
            f.branch(hit, label, following)
            f.start(following)
        f.emit(f"switch i64 {value}, label %{fallback} [ {' '.join(table)} ]")
        f.terminated = True

    def _case_of_arrays(self, s: t.Case, labels: list[str], fallback: str) -> None:
        f = self.f
        p = self.composite(s.subject)
        n = f.count_of(self.bounds_of(p))
        step = self.element_size(p.subtype)
        for label, (choices, _) in zip(labels, s.arms, strict=True):
            for c in choices:
                assert isinstance(c, t.Expr)
                q = self.composite(c)
                m = f.count_of(self.bounds_of(q))
                following, check = f.label("next"), f.label("check")
                if not (isinstance(n, int) and n == m):
                    f.branch(f.op(f"icmp eq i64 {n}, {m}"), check, following)
                    f.start(check)
                if s.matching:
                    hit = f.op(f"icmp ne i32 {f.op(f'call i32 @v_choice(ptr {p.ptr}, ptr {q.ptr}, i64 {n})')}, 0")
                else:
                    hit = f.op(f"icmp eq i32 {f.op(f'call i32 @memcmp(ptr {p.ptr}, ptr {q.ptr}, i64 {f.mul(n, step)})')}, 0")
                f.branch(hit, label, following)
                f.start(following)
        f.jump(fallback)

    def _loop(self, s: t.Loop) -> None:
        f = self.f
        test, body, again, done = f.label("test"), f.label("body"), f.label("again"), f.label("done")
        f.loops[s] = (again, done)
        if s.variable is None:
            f.start(test)
            if s.cond is not None:
                f.branch(self._condition(s.cond), body, done)
            f.start(body)
            self.run(s.body)
            f.start(again)
            self._tick(s)
            f.jump(test)
            f.lines.append(f"{done}:")
            f.terminated = False
            return
        assert s.bounds is not None
        r = self.range(s.bounds)
        n = f.length(r)
        if n == 0:
            f.start(done)
            return
        variable = f.alloca("i64")
        left = f.alloca("i64")
        f.places[s.variable] = Place(variable, _wide(s.variable.subtype))
        f.emit(f"store i64 {r.left}, ptr {variable}")
        f.emit(f"store i64 {n}, ptr {left}")
        f.start(test)
        have = f.op(f"load i64, ptr {left}")
        f.branch(f.op(f"icmp sgt i64 {have}, 0"), body, done)
        f.start(body)
        s_known = f.op(f"load i64, ptr {variable}")
        f.known[s.variable] = s_known
        self.run(s.body)
        f.start(again)
        f.emit(f"store i64 {f.op(f'sub i64 {have}, 1')}, ptr {left}")
        step = f.select(r.down, -1, 1)
        f.emit(f"store i64 {f.op(f'add i64 {s_known}, {step}')}, ptr {variable}")
        f.jump(test)
        f.lines.append(f"{done}:")
        f.terminated = False

    def _tick(self, s: t.Loop) -> None:
        """Now and then an endless loop looks whether it should stop."""
        f = self.f
        counter = f.alloca("i32")
        f.entry.append(f"  store i32 0, ptr {counter}")
        n = f.op(f"add i32 {f.op(f'load i32, ptr {counter}')}, 1")
        f.emit(f"store i32 {n}, ptr {counter}")
        call, go = f.label("look"), f.label("go")
        f.branch(f.op(f"icmp eq i32 {f.op(f'and i32 {n}, 4095')}, 0"), call, go)
        f.start(call)
        f.emit(f"call void @k_loop(i32 {s.site})")
        f.start(go)

    def _return(self, value: t.Expr | None) -> None:
        f = self.f
        sub = f.sub
        assert sub is not None
        if value is None:
            self._leave()
            f.ret("void")
            return
        assert sub.result is not None
        if not is_composite(sub.result):
            result = self.checked(value, sub.result)
            self._leave()
            f.ret(f"{register(sub.result)} {result}")
            return
        found = self.fitting(value, sub.result)
        if sub.result.bounds is not None and isinstance(sub.result.type, t.ArrayType):
            found = Place(found.ptr, found.subtype, self.ranges(sub.result))
        size = self.size(found)
        ptr = f.op(f"call ptr @v_give(ptr %mark, ptr {found.ptr}, i64 {size})")
        f.emit(f"store ptr {ptr}, ptr %ret")
        at = 8
        for r in found.bounds or ():
            for x in (r.left, r.right, r.down):
                f.emit(f"store i64 {x}, ptr {f.gep('%ret', at)}")
                at += 8
        if open_inside(sub.result):
            for r in self.inner_ranges(found.subtype):
                for x in (r.left, r.right, r.down):
                    f.emit(f"store i64 {x}, ptr {f.gep('%ret', at)}")
                    at += 8
        self._less_deep()
        f.ret("void")

    def _leave(self) -> None:
        self.f.emit(f"store ptr %mark, ptr {self.f.gep('%m', self.module.base + 16)}")
        self._less_deep()

    def _less_deep(self) -> None:
        f = self.f
        if f.sub is not None and self.module.recursive(f.sub):
            at = f.gep("%m", self.module.base + 32)
            deep = f.op(f"load i64, ptr {at}")
            f.emit(f"store i64 {f.op(f'sub i64 {deep}, 1')}, ptr {at}")

    def finish(self) -> None:
        """The end of a body."""
        f = self.f
        if f.terminated:
            return
        if f.sub is None:
            f.ret("i32 0")
        elif f.sub.function:
            f.emit(f"call void @v_no_return(i32 {f.site})")
            f.emit("unreachable")
            f.terminated = True
        else:
            self._leave()
            f.ret("void")

    # ---- waiting (10.2) ----

    def _wait(self, s: t.Wait) -> None:
        f = self.f
        if s.time is not None and not s.on and s.until is None:
            ticks = self.scalar(s.time)
            self._timeout(ticks)
            f.emit("call i32 @v_suspend()")
            return
        if not s.on and s.time is None:
            # nothing can wake it any more
            forever = f.label("ever")
            f.start(forever)
            f.emit("call i32 @v_suspend()")
            f.jump(forever)
            f.lines.append(f"{f.label('dead')}:")
            f.terminated = False
            return
        deadline = ""
        if s.time is not None:
            ticks = self.scalar(s.time)
            bad = f.op(f"icmp slt i64 {ticks}, 0")
            f.fail_if(
                bad,
                f"call void @v_range(i32 {f.site}, i64 {ticks}, i64 0, i64 {(1 << 63) - 1}, ptr {self.module.string('delay_length')})",
            )
            now = f.op(f"load i64, ptr {f.gep('%m', self.module.base + 8)}")
            deadline = f.op(f"add i64 {now}, {ticks}")
        again, done = f.label("wait"), f.label("go")
        f.start(again)
        for e in s.on:
            p = self.place(e)
            assert p.signal is not None
            size = f.op(f"trunc i64 {self.size(p)} to i32") if isinstance(self.size(p), str) else self.size(p)
            at = f.op(f"trunc i64 {p.signal.at} to i32") if isinstance(p.signal.at, str) else p.signal.at
            f.emit(f"call void @v_wait(i32 {self._number(p.signal)}, i32 {at}, i32 {size})")
        if deadline:
            now = f.op(f"load i64, ptr {f.gep('%m', self.module.base + 8)}")
            self._sleep_until(deadline, f.op(f"icmp eq i64 {deadline}, {now}"))
        why = f.op("call i32 @v_suspend()")
        if deadline:
            following = f.label("woken")
            f.branch(f.op(f"icmp eq i32 {why}, 0"), done, following)
            f.start(following)
        if s.until is not None:
            f.branch(self._condition(s.until), done, again)
        f.start(done)

    def _sleep_until(self, deadline: str, at_once: str) -> None:
        """Wake at a moment; in the next cycle if that moment is now."""
        f = self.f
        zero, later, join = f.label("zero"), f.label("later"), f.label("sleep")
        f.branch(at_once, zero, later)
        f.start(zero)
        f.emit("call void @v_zero()")
        f.jump(join)
        f.start(later)
        f.emit(f"call void @v_until(i64 {deadline})")
        f.start(join)

    def _timeout(self, ticks: str) -> None:
        f = self.f
        now = f.op(f"load i64, ptr {f.gep('%m', self.module.base + 8)}")
        if ticks == "0":
            f.emit("call void @v_zero()")
            return
        if ticks.startswith("%"):
            bad = f.op(f"icmp slt i64 {ticks}, 0")
            f.fail_if(
                bad,
                f"call void @v_range(i32 {f.site}, i64 {ticks}, i64 0, i64 {(1 << 63) - 1}, ptr {self.module.string('delay_length')})",
            )
            self._sleep_until(f.op(f"add i64 {now}, {ticks}"), f.op(f"icmp eq i64 {ticks}, 0"))
            return
        f.emit(f"call void @v_until(i64 {f.op(f'add i64 {now}, {ticks}')})")

    def _assert(self, s: t.Assert) -> None:
        f = self.f
        done = f.label("end")
        if s.cond is not None:
            bad = f.label("failed")
            f.branch(self._condition(s.cond), done, bad)
            f.start(bad)
        severity = self.scalar(s.severity) if s.severity is not None else "2" if s.cond is not None else "0"
        level = f.op(f"trunc i64 {severity} to i32") if severity.startswith("%") else severity
        if s.report is not None:
            p = self.composite(s.report)
            f.emit(
                f"call void @v_report(i32 {level}, i32 {f.site}, ptr {p.ptr}, i64 {f.length(self.bounds_of(p)[0])}, i32 {int(s.cond is not None)})"
            )
        else:
            f.emit(f"call void @v_report(i32 {level}, i32 {f.site}, ptr null, i64 -1, i32 1)")
        f.start(done)


def _wide(s: t.Subtype) -> t.Subtype:
    """A loop variable lies in eight bytes."""
    return s


__all__ = ["Statements", "is_real"]
