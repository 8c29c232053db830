"""Sequential statements and calls (IEEE 1076-2008 clauses 4 and 10)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.layout import Unsupported
from mevrik.engine.typed.function import Operand, Part, Place, Range, is_composite, is_real, register
from mevrik.engine.typed.numeric import Numeric, static_length
from mevrik.engine.typed.places import CALLER

_SWITCH_MOST = 4096


class Statements(Numeric):
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

    # ---- assignments ----

    def _assign(self, target: t.Expr, value: t.Expr) -> None:
        f = self.f
        if isinstance(target, t.Aggregate):
            made = self.composite(value)
            size = self.size(made)
            copy = f.arena(size)
            f.copy(copy, made.ptr, size)
            for place, source in self._spread(target, Place(copy, made.subtype, made.bounds)):
                self._move(self.place(place), source)
            return
        if isinstance(target, t.Convert):
            self.put(value, self.converted(self.place(target.a), target.type))
            return
        if is_composite(target.type):
            found = self.composite(value)
            p = self.place(target)
            self._move(p, found)
            return
        result = self.scalar(value)
        p = self.place(target)
        f.store(self.check(result, value, p.subtype), p.ptr, p.subtype)

    def _move(self, p: Place, source: Place) -> None:
        f = self.f
        if not is_composite(p.subtype):
            f.store(self.check(f.load(source.ptr, source.subtype), None, p.subtype), p.ptr, p.subtype)
            return
        if isinstance(p.subtype.type, t.ArrayType):
            for have, need in zip(self.bounds_of(source), self.bounds_of(p), strict=True):
                self.same_length(f.length(have), f.length(need))
        f.copy(p.ptr, source.ptr, self.size(p))

    def _spread(self, target: t.Aggregate, source: Place) -> list[tuple[t.Expr, Place]]:
        """The parts of an aggregate as a target, with the parts of the value."""
        f = self.f
        s = source.subtype
        found: list[tuple[t.Expr, Place]] = []
        if isinstance(s.type, t.RecordType):
            offsets, _ = t.record_layout(s)
            for (_, place), offset, of in zip(target.items, offsets, s.field_types(), strict=True):
                found.append((place, Place(f.gep(source.ptr, offset), of, self.ranges(of))))
            return found
        step = self.element_size(s)
        at: Operand = 0
        bounds = self.bounds_of(source)[0]
        for choices, place in target.items:
            if choices and isinstance(choices[0], t.Expr):
                i = self.bound(choices[0])
                at = f.select(bounds.down, f.sub_(bounds.left, i), f.sub_(i, bounds.left))
            elif choices and isinstance(choices[0], t.Bounds):
                r = self.range(choices[0])
                at = f.select(bounds.down, f.sub_(bounds.left, r.left), f.sub_(r.left, bounds.left))
            ptr = f.gep(source.ptr, f.mul(at, step))
            if place.type.type is s.type and s.elem.type is not s.type:
                r = self.bounds_of(self.place(place))[0]
                found.append((place, Place(ptr, self.plain(s), [r])))
                at = f.add(at, f.length(r))
            else:
                found.append((place, Place(ptr, s.elem, self.ranges(s.elem))))
                at = f.add(at, 1)
        if not any(c for c, _ in target.items):
            self.same_length(f.length(bounds), at)
        return found

    def _signal_assign(self, s: t.SignalAssign) -> None:
        if isinstance(s.target, t.Aggregate):
            assert s.waves[0].value is not None
            made = self.composite(s.waves[0].value)
            for place, part in self._spread(s.target, made):
                self._drive(s, self.place(place), place, part, s.waves[0], True)
            return
        p = self.place(s.target)
        assert p.signal is not None
        if s.delay in ("force", "release"):
            self._force(s, p)
            return
        if self._sum_straight(s, p):
            return
        first = True
        for w in s.waves:
            source: Place | str | None = None
            if w.value is not None:
                if is_composite(p.subtype):
                    source = self.composite(w.value)
                else:
                    source = self.check(self.scalar(w.value), w.value, p.subtype)
            self._drive(s, p, s.target, source, w, first)
            first = False

    def _sum_straight(self, s: t.SignalAssign, p: Place) -> bool:
        """q <= q + 1: the sum is written where the driver wants it."""
        f = self.f
        w = s.waves[0]
        if len(s.waves) != 1 or w.after is not None or not isinstance(w.value, t.Call) or not p.subtype.static:
            return False
        n = static_length(w.value)
        if n is None or not is_composite(p.subtype) or n != t.size_of(p.subtype) or w.value.sub.name not in ('"+"', '"-"'):
            return False
        assert p.signal is not None
        driver = self.driver(p.signal, s.target)
        image = f.op(f"load ptr, ptr {driver}")
        made = self.numeric(w.value, f.gep(image, p.signal.at))
        if made is None:
            return False
        f.emit(f"call void @v_mark(ptr {driver}, i64 {p.signal.at}, i64 {f.add(p.signal.at, n)}, i32 {f.site})")
        return True

    def _force(self, s: t.SignalAssign, p: Place) -> None:
        f = self.f
        assert p.signal is not None
        number, at, size = self._number(p.signal), p.signal.at, self.size(p)
        if s.delay == "release":
            f.emit(f"call void @v_release(i32 {number}, i64 {at}, i64 {size}, i32 {f.site})")
            return
        slot = f.arena(size)
        assert s.waves[0].value is not None
        self.put(s.waves[0].value, Place(slot, p.subtype, p.bounds))
        f.emit(f"call void @v_force(i32 {number}, i64 {at}, ptr {slot}, i64 {size}, i32 {f.site})")

    def _number(self, part: Part) -> str:
        return self.f.op(f"trunc i64 {part.number} to i32") if isinstance(part.number, str) else str(part.number)

    def _drive(self, s: t.SignalAssign, p: Place, target: t.Expr, source: Place | str | None, w: t.Wave, first: bool) -> None:
        """One element of a waveform (10.5.2)."""
        f = self.f
        part = p.signal
        assert part is not None
        driver = self.driver(part, target)
        size = self.size(p)
        if isinstance(source, Place) and not is_composite(p.subtype):
            source = self.check(f.load(source.ptr, source.subtype), None, p.subtype)
        if isinstance(source, Place) and isinstance(p.subtype.type, t.ArrayType):
            for have, need in zip(self.bounds_of(source), self.bounds_of(p), strict=True):
                self.same_length(f.length(have), f.length(need))
        plain = w.after is None or (isinstance(w.after, t.Const) and w.after.value == 0)
        if plain and first and len(s.waves) == 1 and source is not None:
            if isinstance(source, str):
                image = f.op(f"load ptr, ptr {driver}")
                f.store(source, f.gep(image, part.at), p.subtype)
                f.emit(f"call void @v_mark(ptr {driver}, i64 {part.at}, i64 {f.add(part.at, size)}, i32 {f.site})")
            else:
                f.emit(f"call void @v_assign(ptr {driver}, i64 {part.at}, ptr {source.ptr}, i64 {size}, i32 {f.site})")
            return
        ticks = self.scalar(w.after) if w.after is not None else "0"
        reject = ticks
        if s.reject is not None:
            reject = self.scalar(s.reject)
        mode = int(s.delay == "transport")
        if isinstance(source, str):
            slot = f.alloca("i64")
            f.store(source, slot, p.subtype)
            source = Place(slot, p.subtype)
        for offset, step, count in runs(p.subtype, size):
            ptr = f.gep(source.ptr, offset) if source is not None else "null"
            f.emit(
                f"call void @v_wave(ptr {driver}, i64 {f.add(part.at, offset)}, i64 {step}, i64 {count}, ptr {ptr}, i64 {ticks}, "
                f"i64 {reject}, i32 {mode}, i32 {int(first)}, i32 {f.site})"
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

    # ---- calls ----

    def call(self, e: t.Call) -> Place | str:
        f = self.f
        sub = e.sub
        if sub.alias_of is not None:
            sub = sub.alias_of
        if sub.intrinsic and not sub.intrinsic.startswith("x_"):
            return self._special(e, sub)
        if (
            sub.name in ("rising_edge", "falling_edge")
            and sub.region is not None
            and sub.params[0].subtype.type.name == "std_ulogic"
        ):
            return self.edge(e.args[0], sub.name == "rising_edge", True)
        quick = self.numeric(e)
        if quick is None:
            quick = self.nine_logic(e)
        if quick is not None:
            return quick
        args: list[str] = []
        after: list[tuple[Place, t.Subtype]] = []
        if not sub.intrinsic:
            args.append("ptr %m")
            if sub.method_of is not None:
                args.append(f"ptr {self._self_of(e)}")
        result = sub.result if sub.function else None
        vec = ""
        if result is not None and is_composite(result):
            dims = len(result.type.indexes) if isinstance(result.type, t.ArrayType) else 0
            vec = f.alloca(f"[{1 + 3 * dims} x i64]")
            args.append(f"ptr {vec}")
            f.allocated = True
        shapes: dict[int, t.Subtype] = {}
        for k, (p, x) in enumerate(zip(sub.params, e.args, strict=True)):
            args += self._argument(p, x, after)
            if is_composite(p.subtype) and _open_inside(p.subtype):
                shapes[k] = self._shape_of(p, x)
        if sub.intrinsic:
            name = sub.intrinsic
            self.module.uses(sub)
        else:
            name = self.module.subprogram(sub, shapes)
            if sub.ours and f.site and not (f.sub is not None and f.sub.ours):
                f.emit(f"store i64 {f.site}, ptr {f.gep('%m', self.module.base + CALLER)}")
            for o in self.module.captured(sub):
                args += self._capture(o)
        text = ", ".join(args)
        if result is None:
            f.emit(f"call void @{name}({text})")
            for place, of in after:
                if of.range is not None:
                    self.check(f.load(place.ptr, place.subtype), None, of)
            return "0"
        if vec:
            f.emit(f"call void @{name}({text})")
            if not isinstance(result.type, t.ArrayType):
                return Place(f.op(f"load ptr, ptr {vec}"), result)
            ptr = f.op(f"load ptr, ptr {vec}")
            bounds: list[Range] = []
            for k in range(len(result.type.indexes)):
                values = [f.op(f"load i64, ptr {f.gep(vec, 8 + 24 * k + 8 * i)}") for i in range(3)]
                bounds.append(Range(*values))
            if result.bounds is not None and result.static:
                bounds = self.ranges(result) or bounds
            shape = self.plain(result) if result.bounds is None else result
            if not shape.elem.static:
                alike = [x.elem for x in (e.type, *shapes.values()) if x.type is result.type and x.elem.static]
                if alike:
                    shape = t.Subtype(result.type, result.name, None, None, alike[0])
            return Place(ptr, shape, bounds)
        return f.op(f"call {register(result)} @{name}({text})")

    def _shape_of(self, p: t.Object, x: t.Expr) -> t.Subtype:
        """The subtype of a parameter with what only the actual says of its elements."""
        if isinstance(x, (t.Ref, t.Index, t.Slice, t.FieldOf, t.Deref)):
            actual = self.place(x).subtype
        else:
            actual = x.type if not _open_inside(x.type) else self.composite(x).subtype
        if isinstance(p.subtype.type, t.ArrayType):
            return t.Subtype(p.subtype.type, p.subtype.name, None, None, actual.elem)
        return actual

    def _self_of(self, e: t.Call) -> str:
        if e.target is None:
            return self.f.self_ptr
        return self.place(e.target).ptr

    def _argument(self, p: t.Object, x: t.Expr, after: list[tuple[Place, t.Subtype]]) -> list[str]:
        f = self.f
        if p.cls == "file":
            return [f"ptr {self.place(x).ptr}"]
        if isinstance(x, t.OpenFile):
            raise Unsupported("a parameter without a value is not supported here")
        composite = is_composite(p.subtype)
        if p.cls == "signal":
            place = self.place(x)
            part = place.signal
            assert part is not None
            driver = self.driver(part, x) if p.mode != "in" else "null"
            words = [f"ptr {place.ptr}", f"i64 {part.number}", f"i64 {part.at}", f"ptr {driver}"]
            return words + (self._bounds(place, p) if composite else [])
        if composite:
            place = self.place(x) if p.cls == "variable" else self.composite(x)
            if p.subtype.bounds is not None:
                want = self._formal_bounds(p)
                if want is not None:
                    for have, need in zip(self.bounds_of(place), want, strict=True):
                        self.same_length(f.length(have), f.length(need))
                    place = Place(place.ptr, place.subtype, want)
            return [f"ptr {place.ptr}", *self._bounds(place, p)]
        if p.cls == "variable" and (p.mode != "in" or isinstance(p.subtype.type, (t.AccessType, t.ProtectedType))):
            if isinstance(x, (t.Ref, t.Index, t.Slice, t.FieldOf, t.Deref)):
                place = self.place(x)
                if p.mode == "inout" and p.subtype.range is not None and not isinstance(p.subtype.type, t.ProtectedType):
                    self.check(f.load(place.ptr, place.subtype), x, p.subtype)
                if p.mode != "in":
                    after.append((place, x.type))
                return [f"ptr {place.ptr}"]
        if p.cls == "variable":
            slot = f.alloca(register(p.subtype))
            f.store(self.checked(x, p.subtype), slot, p.subtype)
            return [f"ptr {slot}"]
        return [f"{register(p.subtype)} {self.checked(x, p.subtype)}"]

    def _formal_bounds(self, p: t.Object) -> list[Range] | None:
        assert p.subtype.bounds is not None
        if all(b.static for b in p.subtype.bounds):
            return self.ranges(p.subtype)
        return None

    def _bounds(self, place: Place, p: t.Object) -> list[str]:
        if not isinstance(p.subtype.type, t.ArrayType):
            return []
        found: list[str] = []
        for r in self.bounds_of(place):
            found += [f"i64 {r.left}", f"i64 {r.right}", f"i64 {r.down}"]
        return found

    def _capture(self, o: t.Object) -> list[str]:
        """An object of an enclosing subprogram, handed on."""
        f = self.f
        known = f.known.get(o)
        if is_register(o):
            assert known is not None, o.name
            return [f"{register(o.subtype)} {known}"]
        place = self.object(o)
        words = [f"ptr {place.ptr}"]
        if place.signal is not None:
            words += [f"i64 {place.signal.number}", f"i64 {place.signal.at}", f"ptr {place.signal.driver or 'null'}"]
        for r in place.bounds or self.ranges(o.subtype) or ():
            words += [f"i64 {r.left}", f"i64 {r.right}", f"i64 {r.down}"]
        return words

    def _special(self, e: t.Call, sub: t.Subprogram) -> Place | str:
        """What the kernel does with the site of the call."""
        f = self.f
        name = sub.intrinsic
        if name == "now":
            return f.op(f"load i64, ptr {f.gep('%m', self.module.base + 8)}")
        if name == "deallocate":
            cell = self.place(e.args[0]).ptr
            f.emit(f"call void @v_free(ptr {f.op(f'load ptr, ptr {cell}')})")
            f.emit(f"store i64 0, ptr {cell}")
            return "0"
        if name in ("file_open", "file_open_status"):
            args = list(e.args)
            head: list[str] = []
            if name == "file_open_status":
                head = [f"ptr {self.place(args.pop(0)).ptr}"]
            cell = self.place(args[0]).ptr
            p = self.composite(args[1])
            r = self.bounds_of(p)[0]
            words = [
                *head,
                f"ptr {cell}",
                f"ptr {p.ptr}",
                f"i64 {r.left}",
                f"i64 {r.right}",
                f"i64 {r.down}",
                f"i64 {self.scalar(args[2])}",
                f"i32 {f.site}",
            ]
            f.emit(f"call void @{name}({', '.join(words)})")
            return "0"
        cell = self.place(e.args[0]).ptr
        if name in ("file_close", "file_flush"):
            f.emit(f"call void @{name}(ptr {cell}, i32 {f.site})")
            return "0"
        if name == "endfile":
            return f.op(f"call i64 @endfile(ptr {cell}, i32 {f.site})")
        if name == "file_read":
            p = self.place(e.args[1])
            f.emit(f"call void @file_read(ptr {cell}, ptr {p.ptr}, i64 {self.size(p)}, i32 {f.site})")
            return "0"
        if name == "file_write":
            if is_composite(e.args[1].type):
                p = self.composite(e.args[1])
                if isinstance(p.subtype.type, t.ArrayType) and sub.params[1].subtype.bounds is None:
                    n = f.count_of(self.bounds_of(p))
                    if p.subtype.elem.type is self.module.std.character.type:  # text is written as it is
                        f.emit(f"call void @file_write(ptr {cell}, ptr {p.ptr}, i64 {n}, i32 {f.site})")
                        return "0"
                    f.emit(
                        f"call void @file_write_array(ptr {cell}, ptr {p.ptr}, i64 {n}, i64 {self.element_size(p.subtype)}, i32 {f.site})"
                    )
                    return "0"
            else:
                slot = f.alloca(register(e.args[1].type))
                of = sub.params[1].subtype
                f.store(self.checked(e.args[1], of), slot, of)
                p = Place(slot, of)
            f.emit(f"call void @file_write(ptr {cell}, ptr {p.ptr}, i64 {self.size(p)}, i32 {f.site})")
            return "0"
        if name == "file_read_array":
            p = self.place(e.args[1])
            n = f.count_of(self.bounds_of(p))
            have = f.op(
                f"call i64 @file_read_array(ptr {cell}, ptr {p.ptr}, i64 {n}, i64 {self.element_size(p.subtype)}, i32 {f.site})"
            )
            q = self.place(e.args[2])
            f.store(have, q.ptr, q.subtype)
            return "0"
        raise Unsupported(f"'{sub.name}' is not supported here")


def _open_inside(s: t.Subtype) -> bool:
    """Whether the size of an element, or of the record, is left open."""
    if isinstance(s.type, t.ArrayType):
        return not s.elem.static
    return isinstance(s.type, t.RecordType) and not s.static


def is_register(o: t.Object) -> bool:
    """Whether an object of a subprogram is a value in a register."""
    if is_composite(o.subtype):
        return False
    if o.kind == "param":
        return o.cls == "constant"
    return o.kind in ("constant", "loop")


def _wide(s: t.Subtype) -> t.Subtype:
    """A loop variable lies in eight bytes."""
    return s


def runs(s: t.Subtype, size: Operand) -> list[tuple[int, int, Operand]]:
    """The scalars of a type: (offset, size of one, how many)."""
    kind = s.type
    if isinstance(kind, t.ArrayType):
        if isinstance(size, str):
            return [(0, 1, size)]
        inner = runs(s.elem, t.size_of(s.elem))
        step = t.size_of(s.elem)
        if len(inner) == 1 and inner[0][0] == 0 and isinstance(inner[0][2], int):
            return [(0, inner[0][1], size // inner[0][1] if inner[0][1] else 0)]
        return [(offset + k * step, one, n) for k in range(size // step if step else 0) for offset, one, n in inner]
    if isinstance(kind, t.RecordType):
        offsets, _ = t.record_layout(s)
        return [
            (o + offset, one, n) for offset, f in zip(offsets, s.field_types(), strict=True) for o, one, n in runs(f, t.size_of(f))
        ]
    one = t.size_of(t.Subtype(kind))
    return [(0, one, 1)]


__all__ = ["Statements", "is_real", "is_register"]
