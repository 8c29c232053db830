"""Statements as IR: writes, control flow, waits (IEEE 1364-2005 clauses 6 and 9)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import Array, EventType, Real, Vec, width_of
from mevrik.design.unit import Signal, Subprogram
from mevrik.engine.layout import plane_bytes
from mevrik.engine.lower.expressions import ExpressionLowerer
from mevrik.engine.lower.function import Val, layout_of

EDGES = {"any": 0, "posedge": 1, "negedge": 2, "edge": 3}
_RADIX = {"b": 2, "o": 8, "h": 16}
_SEVERITY = {"$info": 1, "$warning": 2, "$error": 3, "$fatal": 4}
_FINISH, _STOP = 1, 2


def simple_sense(sense: n.Sense) -> bool:
    """A whole signal that the kernel can watch for this edge by itself."""
    e = sense.expr
    return (
        sense.guard is None
        and isinstance(e, n.Ref)
        and e.element is None
        and e.signal.kind != "local"
        and (sense.edge == "any" or isinstance(e.type, Vec))
    )


def static_sense(sense: n.Sense) -> bool:
    """One whose signal is known before the run."""
    return simple_sense(sense) and isinstance(sense.expr, n.Ref) and sense.expr.signal.via is None


class StatementLowerer(ExpressionLowerer):
    site: int = 0

    def run(self, body: list[n.Stmt]) -> None:
        for s in body:
            if self.f.terminated:
                return  # nothing can reach the rest
            self.site = s.site
            method = getattr(self, "_do_" + type(s).__name__.lower())
            method(s)

    # ---- writes ----

    def write(self, target: tuple[n.LRef, ...], value: Val | str, site: int) -> None:
        """Store a value (a double for a real target) into the parts of a target."""
        if isinstance(value, str):
            self._write_real(target[0], value, site)
            return
        low = value.w
        for part in target:
            low -= part.width
            self._write_part(part, self.slice(value, low, part.width) if part.width != value.w else value, site)

    def _write_real(self, part: n.LRef, value: str, site: int) -> None:
        f = self.f
        signal = part.signal
        bits = f.op(f"bitcast double {value} to i64")
        skip = ""
        if part.element is not None:
            at, ok = self.element_address(signal, part.element)
            if ok is not None:
                skip = f.label("skip")
                inside = f.label("inside")
                f.branch(ok, inside, skip)
                f.start(inside)
            number = f.storage(signal).number
        else:
            s = f.storage(signal)
            at, number = s.address, s.number
        if number:
            f.emit(f"call void @{self.module.writer(number, 64, 1)}(ptr %m, ptr {at}, i64 {bits}, i32 {number}, i32 {site})")
        else:
            f.emit(f"store i64 {bits}, ptr {at}")
        if skip:
            f.start(skip)

    def _write_part(self, part: n.LRef, value: Val, site: int) -> None:
        f = self.f
        signal = part.signal
        if isinstance(signal.type, Real):
            return
        assert isinstance(signal.type, Vec)
        width = signal.type.width
        if not signal.type.four:
            value = self.known(value)
        wide = plane_bytes(width) > 8
        forced = walk.owner(signal).forced or self.module.forced(f.unit, signal)
        dynamic = part.bits is not None and bool(part.bits.terms)
        if signal.kind != "local" and (forced or (wide and part.bits is not None) or (dynamic and width <= 64) or wide):
            self._write_through_kernel(part, value, site)
            return
        skip = ""
        s = f.storage(signal)
        address = s.address
        if part.element is not None:
            address, ok = self.element_address(signal, part.element)
            s = f.storage(signal)
            if ok is not None:
                skip, inside = f.label("skip"), f.label("inside")
                f.branch(ok, inside, skip)
                f.start(inside)
        if part.bits is not None:
            old = f.load_planes(address, width, s.bytes, s.planes)
            merged = self._merge(old, value, part.bits)
            value = merged
        stored = 8 * s.bytes
        v = f.widen(value.v, width, stored)
        if not s.number:
            f.store_planes(address, value, s.bytes, s.planes)
        elif s.planes == 2:
            u = f.widen(value.u or "0", width, stored)
            f.emit(
                f"call void @{self.module.writer(s.number, stored, 2)}(ptr %m, ptr {address}, i{stored} {v}, i{stored} {u}, i32 {s.number}, i32 {site})"
            )
        else:
            f.emit(
                f"call void @{self.module.writer(s.number, stored, 1)}(ptr %m, ptr {address}, i{stored} {v}, i32 {s.number}, i32 {site})"
            )
        if skip:
            f.start(skip)

    def _merge(self, old: Val, piece: Val, at: n.Offset) -> Val:
        """`old` with `piece` at an offset; what lies outside is lost."""
        f = self.f
        w = old.w
        if not at.terms and at.const >= 0 and at.const + piece.w <= w:
            if piece.w == w:
                return piece
            mask = ((1 << piece.w) - 1) << at.const
            keep = str(((1 << w) - 1) & ~mask)

            def insert(plane: str, new: str) -> str:
                x = f.widen(new, piece.w, w)
                if at.const and x.startswith("%"):
                    x = f.op(f"shl i{w} {x}, {at.const}")
                elif at.const:
                    x = str(int(x) << at.const)
                cleared = f.op(f"and i{w} {plane}, {keep}")
                return f.op(f"or i{w} {cleared}, {x}")

            v = insert(old.v, piece.v)
            if old.u is None and piece.u is None:
                return Val(v, None, w)
            return Val(v, insert(old.u or "0", piece.u or "0"), w)
        # anywhere: inside a frame that catches what falls outside
        total = w + 2 * piece.w
        offset, ok = self.offset(at)
        shifted = f.op(f"add i64 {offset}, {piece.w}")
        inside = f.op(f"icmp ult i64 {shifted}, {w + piece.w}")
        if ok is not None:
            inside = f.op(f"and i1 {inside}, {ok}")
        shifted = f.op(f"select i1 {inside}, i64 {shifted}, i64 0")
        if total < 64:
            shifted = f.op(f"trunc i64 {shifted} to i{total}")
        elif total > 64:
            shifted = f.op(f"zext i64 {shifted} to i{total}")
        mask_v = f.op(f"shl i{total} {(1 << piece.w) - 1}, {shifted}")
        planes: list[str | None] = []
        for plane, new in ((old.v, piece.v), (old.u, piece.u)):
            if plane is None:
                planes.append(None)
                continue
            wide = f.op(f"shl i{total} {f.widen(new or '0', piece.w, total)}, {shifted}")
            cut = f.op(f"lshr i{total} {wide}, {piece.w}")
            cut = f.op(f"trunc i{total} {cut} to i{w}")
            m = f.op(f"lshr i{total} {mask_v}, {piece.w}")
            m = f.op(f"trunc i{total} {m} to i{w}")
            keep_v = f.op(f"xor i{w} {m}, -1")
            cleared = f.op(f"and i{w} {plane}, {keep_v}")
            merged = f.op(f"or i{w} {cleared}, {cut}")
            planes.append(f.op(f"select i1 {inside}, i{w} {merged}, i{w} {plane}"))
        assert planes[0] is not None
        return Val(planes[0], planes[1], w)

    def _place(self, part: n.LRef) -> tuple[str, str, str, str | None]:
        """Number of the signal, element, lowest bit, and an i1: every index is usable."""
        f = self.f
        number = f.storage(part.signal).number
        element, low = "0", "0"
        ok: str | None = None
        if part.element is not None:
            element, ok = self.offset(part.element)
            if element.startswith("%"):
                element = f.op(f"trunc i64 {element} to i32")
        if part.bits is not None:
            low, usable = self.offset(part.bits)
            if usable is not None:
                ok = usable if ok is None else f.op(f"and i1 {ok}, {usable}")
        return number, element, low, ok

    def _write_through_kernel(self, part: n.LRef, value: Val, site: int) -> None:
        f = self.f
        number, element, low, ok = self._place(part)
        skip = self._guard(ok)
        pv, pu = f.spill(value)
        f.emit(f"call void @k_write(i32 {number}, i32 {site}, i32 {element}, i64 {low}, i32 {value.w}, ptr {pv}, ptr {pu})")
        if skip:
            f.start(skip)

    def _guard(self, ok: str | None) -> str:
        """Go on only where `ok` holds; gives the label behind."""
        if ok is None:
            return ""
        f = self.f
        inside, skip = f.label("inside"), f.label("skip")
        f.branch(ok, inside, skip)
        f.start(inside)
        return skip

    def _do_assign(self, s: n.Assign) -> None:
        if s.delay is None and not s.events:
            self.write(s.target, self.evaluate(s.value), s.site)
            return
        # a = #d b: the value is taken now and kept in the frame over the wait (9.7.7)
        f = self.f
        value = self.evaluate(s.value)
        size = 8 if isinstance(value, str) else max((value.w + 63) // 64, 1) * 8
        at = f.reserve(2 * size)
        p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        if isinstance(value, str):
            f.emit(f"store double {value}, ptr {p}")
        else:
            f.store_planes(p, value, size, 2)
        if s.delay is not None:
            self._delay(s.delay)
        else:
            self._repeated_wait(s.events, s.repeat)
        p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        kept = f.op(f"load double, ptr {p}") if isinstance(value, str) else f.load_planes(p, value.w, size, 2)
        self.write(s.target, kept, s.site)

    def _repeated_wait(self, events: tuple[n.Sense, ...], repeat: n.Expr | None) -> None:
        if repeat is None:
            self._wait(events)
            return
        f = self.f
        counter = f.reserve(8)
        self._store_counter(counter, self._count(repeat))
        top, body, done = f.label("again"), f.label("body"), f.label("done")
        f.start(top)
        self._counting(counter, body, done)
        f.start(body)
        self._wait(events)
        f.jump(top)
        f.start(done)

    def _count(self, e: n.Expr) -> str:
        """A repeat count as i64; unknown or negative counts as 0 (9.6)."""
        f = self.f
        t = n.vec(e)
        a = self.value(e)
        bad = self.any_unknown(a)
        c = self.resized(Val(a.v, None, a.w), 64, t.signed).v
        if t.signed:
            negative = f.op(f"icmp slt i64 {c}, 0")
            c = f.op(f"select i1 {negative}, i64 0, i64 {c}")
        return f.op(f"select i1 {bad}, i64 0, i64 {c}") if bad else c

    def _store_counter(self, at: int, value: str) -> None:
        p = self.f.op(f"getelementptr i8, ptr %f, i64 {at}")
        self.f.emit(f"store i64 {value}, ptr {p}")

    def _counting(self, at: int, body: str, done: str) -> None:
        f = self.f
        p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        c = f.op(f"load i64, ptr {p}")
        more = f.op(f"icmp ne i64 {c}, 0")
        less = f.op(f"sub i64 {c}, 1")
        f.emit(f"store i64 {less}, ptr {p}")
        f.branch(more, body, done)

    def _do_schedule(self, s: n.Schedule) -> None:
        f = self.f
        value = self.evaluate(s.value)
        ticks = self._ticks(s.delay) if s.delay is not None else "0"
        if isinstance(value, str):
            bits = f.op(f"bitcast double {value} to i64")
            value = Val(bits, None, 64)
        low = value.w
        for part in s.target:
            low -= part.width
            self._schedule_part(part, self.slice(value, low, part.width), s.site, ticks)

    def _schedule_part(self, part: n.LRef, value: Val, site: int, ticks: str) -> None:
        f = self.f
        if part.element is None and part.bits is None and part.width <= 64 and ticks == "0":
            v, u = f.widen(value.v, value.w, 64), f.widen(value.u or "0", value.w, 64)
            number = f.storage(part.signal).number
            f.emit(f"call void @k_schedule64(i32 {number}, i32 {site}, i32 {part.width}, i64 {v}, i64 {u})")
            return
        number, element, low, ok = self._place(part)
        skip = self._guard(ok)
        pv, pu = f.spill(value)
        f.emit(
            f"call void @k_schedule(i32 {number}, i32 {site}, i32 {element}, i64 {low}, i32 {value.w}, ptr {pv}, ptr {pu}, i64 {ticks})"
        )
        if skip:
            f.start(skip)

    def _do_waitfork(self, s: n.WaitFork) -> None:
        f = self.f
        must, on = f.label("must"), f.label("on")
        f.branch(f.op(f"icmp ne i32 {f.op('call i32 @k_wait_fork()')}, 0"), must, on)
        f.start(must)
        f.wait_here()
        f.start(on)

    def _do_processawait(self, s: n.ProcessAwait) -> None:
        f = self.f
        must, on = f.label("must"), f.label("on")
        number = self.known(self.resized(self.value(s.number), 32, False)).v
        f.branch(f.op(f"icmp ne i32 {f.op(f'call i32 @k_process_await(i32 {number})')}, 0"), must, on)
        f.start(must)
        f.wait_here()
        f.start(on)

    def _do_disablefork(self, s: n.DisableFork) -> None:
        self.f.emit("call void @k_disable_fork()")

    def _do_fieldset(self, s: n.FieldSet) -> None:
        f = self.f
        value = self.evaluate(s.value)
        at, ok = self.field_element(n.FieldPlace(s.object, s.word, s.type, s.site, s.element))
        skip = self._guard(ok)
        if isinstance(value, str):
            f.emit(f"store double {value}, ptr {at}")
        else:
            assert isinstance(s.type, Vec)
            clean = value if s.type.four else self.known(value)
            f.store_planes(at, clean, 8 * ((s.type.width + 63) // 64), 2 if s.type.four else 1)
        if skip:
            f.start(skip)

    def _do_assignarray(self, s: n.AssignArray) -> None:
        at, size, planes = self.array(s.value)
        if isinstance(s.target, n.LRef):
            self._write_array(s.target, s.type, at, size, planes, s.site)
            return
        f = self.f
        to, ok = self.field_element(s.target)
        _, planes_to, width = layout_of(s.type.element)
        skip = self._guard(ok)
        to_form = f"ptr {to}, i32 {8 * ((width + 63) // 64)}, i32 {planes_to}"
        f.emit(f"call void @k_array_copy({to_form}, ptr {at}, i32 {size}, i32 {planes}, i64 {s.type.count})")
        if skip:
            f.start(skip)

    def _write_array(self, target: n.LRef, t: Array, at: str, size: int, planes: int, site: int) -> None:
        f = self.f
        start, ok = self.offset(target.element) if target.element is not None else ("0", None)
        skip = self._guard(ok)
        s = f.storage(target.signal)
        if s.number:
            f.emit(
                f"call void @k_array_write(i32 {s.number}, i32 {site}, i64 {start}, i64 {t.count}, ptr {at}, i32 {size}, i32 {planes})"
            )
        else:
            to = f.op(f"getelementptr i8, ptr {s.address}, i64 {f.op(f'mul i64 {start}, {s.bytes * s.planes}')}")
            f.emit(
                f"call void @k_array_copy(ptr {to}, i32 {s.bytes}, i32 {s.planes}, ptr {at}, i32 {size}, i32 {planes}, i64 {t.count})"
            )
        if skip:
            f.start(skip)

    def _do_drive(self, s: n.Drive) -> None:
        f = self.f
        process = self.module.process
        assert process is not None
        value = self.evaluate(s.value)
        if isinstance(value, str):
            self.write(s.target, value, s.site)
            return
        delays = [self._ticks(d) for d in s.delays]
        low = value.w
        for index, part in enumerate(s.target):
            low -= part.width
            piece = self.slice(value, low, part.width) if part.width != value.w else value
            if (process, index) not in self.module.layout.indirect:
                self._write_part(part, piece, s.site)
                continue
            pv, pu = f.spill(piece)
            driver = self.module.driver(f, process, index)
            if not delays:
                f.emit(f"call void @k_drive(i32 {driver}, i32 {s.site}, ptr {pv}, ptr {pu})")
                continue
            rise = delays[0]
            fall = delays[1] if len(delays) > 1 else rise
            if len(delays) > 2:
                off = delays[2]
            elif len(delays) == 2:
                less = f.op(f"icmp ult i64 {rise}, {fall}")
                off = f.op(f"select i1 {less}, i64 {rise}, i64 {fall}")
            else:
                off = rise
            f.emit(f"call void @k_drive_after(i32 {driver}, i32 {s.site}, ptr {pv}, ptr {pu}, i64 {rise}, i64 {fall}, i64 {off})")

    def _do_force(self, s: n.Force) -> None:
        f = self.f
        kind = 0 if s.kind in ("force", "release") else 1
        if s.value is not None:
            value = self.value(s.value)
            low = value.w
            for part in s.target:
                low -= part.width
                number, _, at, ok = self._place(part)
                skip = self._guard(ok)
                pv, pu = f.spill(self.slice(value, low, part.width))
                f.emit(f"call void @k_hold(i32 {number}, i32 {s.site}, i64 {at}, i32 {part.width}, ptr {pv}, ptr {pu}, i32 {kind})")
                if skip:
                    f.start(skip)
            return
        for part in s.target:
            number, _, at, ok = self._place(part)
            skip = self._guard(ok)
            f.emit(f"call void @k_release(i32 {number}, i32 {s.site}, i64 {at}, i32 {part.width}, i32 {kind})")
            if skip:
                f.start(skip)

    # ---- control flow ----

    def _do_if(self, s: n.If) -> None:
        f = self.f
        then, other, done = f.label("then"), f.label("else"), f.label("endif")
        f.branch(self.holds(s.cond), then, other if s.other else done)
        f.start(then)
        self.run(s.then)
        if not f.terminated:
            f.jump(done)
        if s.other:
            f.start(other)
            self.run(s.other)
            if not f.terminated:
                f.jump(done)
        f.start(done)

    def _do_case(self, s: n.Case) -> None:
        f = self.f
        subject = self.value(s.subject)
        w = subject.w
        done = f.label("endcase")
        bodies: list[tuple[str, list[n.Stmt]]] = []
        default = done
        tests: list[tuple[n.Expr, str]] = []
        for labels, body in s.arms:
            at = f.label("arm")
            bodies.append((at, body))
            if not labels:
                default = at
            tests.extend((label, at) for label in labels)
        plain = all(isinstance(label, n.Const) and not label.unk for label, _ in tests)
        if plain and tests and w <= 64 and (s.kind == "case" or subject.u is None):
            if subject.u is not None:
                clean = f.label("clean")
                some = f.op(f"icmp ne i{w} {subject.u}, 0")
                f.branch(some, default, clean)
                f.start(clean)
            seen: dict[int, str] = {}
            for label, at in tests:
                assert isinstance(label, n.Const)
                seen.setdefault(label.val, at)
            cases = " ".join(f"i{w} {value}, label %{at}" for value, at in seen.items())
            f.emit(f"switch i{w} {subject.v}, label %{default} [{cases}]")
            f.terminated = True
        else:
            for label, at in tests:
                following = f.label("test")
                f.branch(self._case_test(s.kind, subject, self.value(label)), at, following)
                f.start(following)
            f.jump(default)
        for at, body in bodies:
            f.start(at)
            self.run(body)
            if not f.terminated:
                f.jump(done)
        f.start(done)

    def _case_test(self, kind: str, a: Val, b: Val) -> str:
        f = self.f
        w = a.w
        d = f.op(f"xor i{w} {a.v}, {b.v}")
        if a.u is not None or b.u is not None:
            du = f.op(f"xor i{w} {a.u or '0'}, {b.u or '0'}")
            d = f.op(f"or i{w} {d}, {du}")
        ignore: list[str] = []
        for x in (a, b):
            if x.u is None:
                continue
            if kind == "casez":  # z is (0,1)
                not_v = f.op(f"xor i{w} {x.v}, -1")
                ignore.append(f.op(f"and i{w} {x.u}, {not_v}"))
            elif kind == "casex" or (kind == "inside" and x is b):
                ignore.append(x.u)
        for plane in ignore:
            keep = f.op(f"xor i{w} {plane}, -1")
            d = f.op(f"and i{w} {d}, {keep}")
        return f.op(f"icmp eq i{w} {d}, 0")

    def _spin(self) -> None:
        """On a loop's way back: every 4096 rounds the kernel looks whether the loop never ends."""
        f = self.f
        c = f.op("load i32, ptr @spin")
        more = f.op(f"add i32 {c}, 1")
        f.emit(f"store i32 {more}, ptr @spin")
        low = f.op(f"and i32 {more}, 4095")
        due = f.op(f"icmp eq i32 {low}, 0")
        call, on = f.label("spin"), f.label("on")
        f.branch(due, call, on)
        f.start(call)
        f.emit(f"call void @k_loop(i32 {self.site})")
        f.jump(on)
        f.start(on)

    def _do_loop(self, s: n.Loop) -> None:
        f = self.f
        top, body, done = f.label("loop"), f.label("body"), f.label("endloop")
        if s.test_last:
            f.jump(body)
        f.start(top)
        if s.cond is not None:
            f.branch(self.holds(s.cond), body, done)
        else:
            f.jump(body)
        f.start(body)
        self.run(s.body)
        self.run(s.step)
        if not f.terminated:
            self.site = s.site
            self._spin()
            f.jump(top)
        f.start(done)
        if s.cond is None and not any(isinstance(x, n.Leave) for x in walk.statements(s.body)):
            f.emit("unreachable") if not f.framed and f.is_process is False else f.ret("i32 2" if f.is_process else "void")
            f.terminated = True

    def _do_repeatloop(self, s: n.RepeatLoop) -> None:
        f = self.f
        count = self._count(s.count)
        top, body, done = f.label("repeat"), f.label("body"), f.label("endrepeat")
        if f.framed:
            counter = f.reserve(8)
            self._store_counter(counter, count)
            f.start(top)
            self._counting(counter, body, done)
        else:
            p = f.alloca(8)
            f.emit(f"store i64 {count}, ptr {p}")
            f.start(top)
            c = f.op(f"load i64, ptr {p}")
            more = f.op(f"icmp ne i64 {c}, 0")
            less = f.op(f"sub i64 {c}, 1")
            f.emit(f"store i64 {less}, ptr {p}")
            f.branch(more, body, done)
        f.start(body)
        self.run(s.body)
        if not f.terminated:
            self.site = s.site
            self._spin()
            f.jump(top)
        f.start(done)

    def _do_block(self, s: n.Block) -> None:
        f = self.f
        done = f.label("leave")
        self.module.exits[id(s)] = done
        first = len(f.states)
        self.run(s.body)
        if s.remote:
            # a disable from another process makes the frame go on behind the block
            if not f.terminated:
                f.jump(done)
            f.states.append(done)
            self.module.remote_blocks[id(s)] = (f, first + 1, len(f.states), len(f.states))
        if s.remote or not f.terminated or self.module.left.pop(id(s), False):
            f.start(done)

    def _do_leave(self, s: n.Leave) -> None:
        self.module.left[id(s.block)] = True
        self.f.jump(self.module.exits[id(s.block)])

    def _do_disableblock(self, s: n.DisableBlock) -> None:
        f = self.f
        number = len(self.module.disables)
        self.module.disables.append(s.block)
        if s.path:
            self._disable_afar(s, number)
            return
        self._disable_call(f.inst(), number)

    def _disable_call(self, inst: str, number: int) -> None:
        """The kernel says what became of the process that disables: 1 it ended with the block, 2 it goes on behind the block."""
        f = self.f
        became = f.op(
            f"call i32 @k_disable(i32 @@fn{number}@@, ptr {inst}, i32 @@low{number}@@, i32 @@high{number}@@, i32 @@state{number}@@)"
        )
        if f.framed:
            gone, on = f.label("gone"), f.label("on")
            f.branch(f.op(f"icmp ne i32 {became}, 0"), gone, on)
            f.start(gone)
            f.ret(f"i32 {f.op(f'sub i32 {became}, 1')}")
            f.lines.append(f"{on}:")
            f.terminated = False

    def _disable_afar(self, s: n.DisableBlock, number: int) -> None:
        """The block is in another instance: which one depends on the instance that this code runs for."""
        f = self.f
        layout = self.module.layout
        for instance in layout.by_unit[f.unit]:
            target = layout.walk(instance, s.path)
            skip = ""
            if layout.shared(f.unit):
                here, skip = f.label("here"), f.label("next")
                mine = f.op(f"icmp eq i32 {self.module.instance_number(f)}, {instance.number}")
                f.branch(mine, here, skip)
                f.start(here)
            table = f.op(f"getelementptr i8, ptr %m, i64 {target.table}")
            self._disable_call(table, number)
            if skip:
                f.start(skip)

    # ---- waits ----

    def _ticks(self, e: n.Expr) -> str:
        """A delay as i64; an unknown one counts as 0 (9.7.1)."""
        a = self.value(e)
        bad = self.any_unknown(a)
        t = self.resized(Val(a.v, None, a.w), 64, False).v
        return self.f.op(f"select i1 {bad}, i64 0, i64 {t}") if bad else t

    def _delay(self, e: n.Expr) -> None:
        self.f.emit(f"call void @k_delay(i64 {self._ticks(e)})")
        self.f.wait_here()

    def _do_delay(self, s: n.Delay) -> None:
        self._delay(s.ticks)

    def _do_waitevent(self, s: n.WaitEvent) -> None:
        self._wait(s.events)

    def _wait(self, events: tuple[n.Sense, ...]) -> None:
        f = self.f
        if not events:
            f.wait_here()
            return
        complex_ = [e for e in events if not simple_sense(e)]
        if not complex_:
            for e in events:
                self._watch(e.expr, EDGES[e.edge], 0)
            f.wait_here()
            return
        # expressions: remember their values, wake on any change of what they read, and compare
        saved: list[int] = []
        for e in complex_:
            saved.append(self._remember(e.expr, None))
        again, done = f.label("again"), f.label("happened")
        f.start(again)
        for e in events:
            if simple_sense(e):
                self._watch(e.expr, EDGES[e.edge], 0)
        for e in complex_:
            for ref in walk.reads_of(e.expr, True):
                if ref.signal.kind != "local":
                    self._watch(ref, 0, 1)
        f.wait_here()
        reason = f.op("call i32 @k_reason()")
        check = f.label("check")
        f.branch(f.op(f"icmp eq i32 {reason}, 0"), done, check)
        f.start(check)
        hit: str | None = None
        for e, at in zip(complex_, saved, strict=True):
            bit = self._edge_since(e, at)
            if e.guard is not None:
                bit = f.op(f"and i1 {bit}, {self.holds(e.guard)}")
            hit = bit if hit is None else f.op(f"or i1 {hit}, {bit}")
        assert hit is not None
        f.branch(hit, done, again)
        f.start(done)

    def _watch(self, e: n.Expr, edge: int, tag: int) -> None:
        assert isinstance(e, n.Ref)
        number = self.f.storage(e.signal).number
        self.f.emit(f"call void @k_wait(i32 {number}, i32 {edge}, i32 {tag})")

    def _remember(self, e: n.Expr, at: int | None) -> int:
        f = self.f
        if isinstance(e.type, Real):
            at = f.reserve(8) if at is None else at
            p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
            f.emit(f"store double {self.real(e)}, ptr {p}")
            return at
        value = self.value(e)
        size = (value.w + 63) // 64 * 8
        at = f.reserve(2 * size) if at is None else at
        p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        f.store_planes(p, value, size, 2)
        return at

    def _edge_since(self, e: n.Sense, at: int) -> str:
        f = self.f
        p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        if isinstance(e.expr.type, Real):
            old_r = f.op(f"load double, ptr {p}")
            now_r = self.real(e.expr)
            f.emit(f"store double {now_r}, ptr {p}")
            return f.op(f"fcmp une double {old_r}, {now_r}")
        now = self.value(e.expr)
        size = (now.w + 63) // 64 * 8
        old = f.load_planes(p, now.w, size, 2)
        p2 = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        f.store_planes(p2, now, size, 2)
        w = now.w
        dv = f.op(f"xor i{w} {old.v}, {now.v}")
        du = f.op(f"xor i{w} {old.u}, {now.u or '0'}")
        if e.edge == "any":
            d = f.op(f"or i{w} {dv}, {du}")
            return f.op(f"icmp ne i{w} {d}, 0")
        was, is_ = self._code(old), self._code(now)
        both = f.op(f"shl i32 {was}, 2")
        key = f.op(f"or i32 {both}, {is_}")
        # bit k of the mask: codes was*4+is that are this edge (9.7.2)
        pos, neg = 0, 0
        for a in range(4):
            for b in range(4):
                if a != b and (a == 0 or b == 1) and a != 1:
                    pos |= 1 << (4 * a + b)
                if a != b and (a == 1 or b == 0) and a != 0:
                    neg |= 1 << (4 * a + b)
        mask = {"posedge": pos, "negedge": neg, "edge": pos | neg}[e.edge]
        shifted = f.op(f"lshr i32 {mask}, {key}")
        return f.op(f"trunc i32 {shifted} to i1")

    def _code(self, a: Val) -> str:
        """Bit 0 as a code: 0, 1, z 2, x 3."""
        f = self.f
        low = self.slice(a, 0, 1)
        v = f.widen(low.v, 1, 32)
        u = f.widen(low.u or "0", 1, 32)
        up = f.op(f"shl i32 {u}, 1")
        return f.op(f"or i32 {v}, {up}")

    def _do_waituntil(self, s: n.WaitUntil) -> None:
        f = self.f
        test, sleep, done = f.label("test"), f.label("sleep"), f.label("done")
        f.start(test)
        f.branch(self.holds(s.cond), done, sleep)
        f.start(sleep)
        for ref in walk.reads_of(s.cond, True):
            if ref.signal.kind != "local":
                self._watch(ref, 0, 0)
        f.wait_here()
        f.jump(test)
        f.start(done)

    def _do_trigger(self, s: n.Trigger) -> None:
        number = self.f.storage(s.event).number
        self.f.emit(f"call void @k_trigger(i32 {number}, i32 {s.site})")

    def _do_fork(self, s: n.Fork) -> None:
        f = self.f
        join = {"join": 0, "join_any": 1, "join_none": 2}[s.join]
        if not s.branches:
            return
        own = [(signal, self.evaluate(value)) for signal, value in s.own]
        for branch in s.branches:
            number, size, made = self.module.branch(f, branch, [signal for signal, _ in own])
            child = f.op(f"call ptr @k_fork(i32 {number}, i32 {size}, ptr %f, i32 {join})")
            for signal, value in own:
                self._store_in_frame(child, made.offsets[signal], signal, value)
        if join != 2:
            f.wait_here()

    # ---- tasks ----

    def _do_calltask(self, s: n.CallTask) -> None:
        f = self.f
        task = s.task
        if not task.suspends:
            self._call_plain(s)
            return
        table = ""
        if s.via is not None:
            task, table = self.linked(s.via, task)
        number, size = self.module.task_frame(task)
        values: list[tuple[Signal, Val | str]] = []
        arrays: list[tuple[Signal, tuple[str, int, int]]] = []
        for port, arg in zip(task.ports, s.args, strict=True):
            if isinstance(arg, n.Expr) and port.dims:
                arrays.append((port, self.array(arg)))
            elif isinstance(arg, n.Expr):
                values.append((port, self.evaluate(arg)))
        child = f.op(f"call ptr @k_call(i32 {number}, i32 {size}, ptr %f)")
        if table:
            f.emit(f"store ptr {table}, ptr {f.op(f'getelementptr i8, ptr {child}, i64 16')}")
        slot = f.reserve(8)
        p = f.op(f"getelementptr i8, ptr %f, i64 {slot}")
        f.emit(f"store ptr {child}, ptr {p}")
        for port, value in values:
            if port.kind == "local":
                self._store_in_frame(child, self.module.task_offset(task, port), port, value)
            else:
                self.write((n.LRef(port, None, None, width_of(port.type)),), value, s.site)
        for port, (array_at, bytes_, planes) in arrays:
            self._hand_over(child, task, port, array_at, bytes_, planes, s.site)
        f.wait_here(1)
        p = f.op(f"getelementptr i8, ptr %f, i64 {slot}")
        child = f.op(f"load ptr, ptr {p}")
        for port, places in zip(task.ports, s.copy_back, strict=True):
            if places is None:
                continue
            if port.dims:
                self._take_array(child, task, port, places[0], s.site)
                continue
            if port.kind == "local":
                at = f.op(f"getelementptr i8, ptr {child}, i64 {self.module.task_offset(task, port)}")
                result = self._load_at(at, port)
            else:
                result = self.evaluate(n.Ref(port.type, port))
            self.write(places, self._fit(result, port, places), s.site)
        f.emit(f"call void @k_free(ptr {child})")

    def _hand_over(self, child: str, task: Subprogram, port: Signal, at: str, size: int, planes: int, site: int) -> None:
        """An array as an argument of a task that waits."""
        f = self.f
        array = Array(port.type, port.dims)
        if port.kind != "local":
            self._write_array(n.LRef(port, None, None, width_of(port.type)), array, at, size, planes, site)
            return
        to_size, to_planes, _ = layout_of(port.type)
        to = f.op(f"getelementptr i8, ptr {child}, i64 {self.module.task_offset(task, port)}")
        f.emit(
            f"call void @k_array_copy(ptr {to}, i32 {to_size}, i32 {to_planes}, ptr {at}, i32 {size}, i32 {planes}, i64 {array.count})"
        )

    def _take_array(self, child: str, task: Subprogram, port: Signal, place: n.LRef, site: int) -> None:
        f = self.f
        array = Array(port.type, port.dims)
        size, planes, _ = layout_of(port.type)
        if port.kind == "local":
            at = f.op(f"getelementptr i8, ptr {child}, i64 {self.module.task_offset(task, port)}")
        else:
            at, size, planes = self.array(n.Ref(array, port))
        self._write_array(place, array, at, size, planes, site)

    def _load_at(self, at: str, port: Signal) -> Val | str:
        f = self.f
        if isinstance(port.type, Real):
            return f.op(f"load double, ptr {at}")
        assert isinstance(port.type, Vec)
        return f.load_planes(at, port.type.width, plane_bytes(port.type.width), 2 if port.type.four else 1)

    def _fit(self, value: Val | str, port: Signal, places: tuple[n.LRef, ...]) -> Val | str:
        """A result as an assignment to the actual makes it."""
        real_target = isinstance(places[0].signal.type, Real)
        f = self.f
        if isinstance(value, str):
            if real_target:
                return value
            total = sum(p.width for p in places)
            words = (total + 63) // 64
            at = f.alloca(8 * words)
            f.emit(f"call void @k_from_real(ptr {at}, double {value}, i32 {words})")
            return f.load_planes(at, total, 8 * words, 1)
        assert isinstance(port.type, Vec)
        if real_target:
            pv, pu = f.spill(value)
            return f.op(f"call double @k_to_real(ptr {pv}, ptr {pu}, i32 {value.w}, i32 {int(port.type.signed)})")
        return self.resized(value, sum(p.width for p in places), port.type.signed)

    def _store_in_frame(self, frame: str, offset: int, port: Signal, value: Val | str) -> None:
        f = self.f
        at = f.op(f"getelementptr i8, ptr {frame}, i64 {offset}")
        if isinstance(value, str):
            f.emit(f"store double {value}, ptr {at}")
            return
        assert isinstance(port.type, Vec)
        f.store_planes(at, value, plane_bytes(port.type.width), 2 if port.type.four else 1)

    def _call_plain(self, s: n.CallTask) -> None:
        f = self.f
        task, inst = (s.task, f.inst()) if s.via is None else self.linked(s.via, s.task)
        name = self.module.subprogram(task)
        args: list[str] = []
        outs: list[tuple[str, Signal, tuple[n.LRef, ...]]] = []
        for port, arg, places in zip(task.ports, s.args, s.copy_back, strict=True):
            at = self.argument(port, arg) if isinstance(arg, n.Expr) else "null"
            if places is not None:
                if at == "null":
                    size, planes, width = layout_of(port.type)
                    at = f.alloca(size * planes * port.elements if port.dims else 16 * max((width + 63) // 64, 1))
                outs.append((at, port, places))
            args.append(at)
        extra = "".join(f", ptr {a}" for a in args)
        f.emit(f"call void @{name}(ptr %m, ptr {inst}, ptr null{extra})")
        self.site = s.site
        for at, port, places in outs:
            self.take_output(at, port, places)

    def take_output(self, at: str, port: Signal, places: tuple[n.LRef, ...]) -> None:
        f = self.f
        if port.dims:
            size, planes, _ = layout_of(port.type)
            self._write_array(places[0], Array(port.type, port.dims), at, size, planes, self.site)
            return
        value: Val | str
        if isinstance(port.type, Real):
            value = f.op(f"load double, ptr {at}")
        else:
            assert isinstance(port.type, Vec)
            size = max((port.type.width + 63) // 64, 1) * 8
            value = f.load_planes(at, port.type.width, size, 2 if port.type.four else 1)
        self.write(places, self._fit(value, port, places), self.site)

    # ---- system tasks ----

    def _do_systask(self, s: n.SysTask) -> None:
        name = s.name
        if name in ("$finish", "$stop"):
            self.f.emit(f"call void @k_finish(i32 {_FINISH if name == '$finish' else _STOP}, i32 {s.site})")
            self.f.emit("unreachable")
            self.f.terminated = True
            return
        base = name.rstrip("boh") if name[1:].rstrip("boh") in (
            "display", "write", "strobe", "monitor", "fdisplay", "fwrite", "fstrobe", "fmonitor",
        ) else name  # fmt: skip
        handler = getattr(self, "_sys_" + base[1:], None)
        if handler is not None:
            handler(s)
            return
        if base in ("$display", "$write", "$fdisplay", "$fwrite", *_SEVERITY):
            self._print(s)
        elif base in ("$strobe", "$monitor", "$fstrobe", "$fmonitor"):
            number = self.module.closure(self.f, s)
            self.f.emit(f"call void @k_{base.lstrip('$f') if base != '$fstrobe' else 'strobe'}(i32 {number}, ptr %f)")

    def _print(self, s: n.SysTask) -> None:
        f = self.f
        name = s.name
        radix = _RADIX.get(name[-1], 10) if name[-1] in "boh" and name not in ("$stop", "$info") else 10
        args = list(s.args)
        file = "1"
        if name.startswith("$f") and not name.startswith("$fatal"):
            first = args.pop(0) if args else None
            file = self.known(self.resized(self.value(first), 32, False)).v if first is not None else "0"
        how = 1 if "display" in name or "strobe" in name or "monitor" in name else 0
        severity = _SEVERITY.get(name, 0)
        if severity == 4 and args and isinstance(args[0], n.Const) and not args[0].text:
            args.pop(0)
        how |= severity << 4
        array = self.arg_array(args)
        inst = self.module.instance_number(f)
        scope = self.module.text(s.scope)
        unit = f.unit.unit_exp if s.unit is None else s.unit
        f.emit(
            f"call void @k_print(i32 {how}, i32 {radix}, i32 {file}, i32 {inst}, ptr {scope}, i32 {unit}, i32 {s.site}, "
            f"ptr {array}, i32 {len(args)})"
        )
        if severity == 4:
            f.emit(f"call void @k_finish(i32 {_FINISH}, i32 {s.site})")
            f.emit("unreachable")
            f.terminated = True

    def _sys_process_suspend(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_process_suspend(i32 {self._file(s)})")

    def _sys_process_resume(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_process_resume(i32 {self._file(s)})")

    def _sys_monitoron(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_monitor_switch(i32 1)")

    def _sys_monitoroff(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_monitor_switch(i32 0)")

    def _sys_timeformat(self, s: n.SysTask) -> None:
        args = [a for a in s.args if a is not None]
        self.f.emit(f"call void @k_time_format_args(ptr {self.arg_array(args)}, i32 {len(args)})")

    def _sys_printtimescale(self, s: n.SysTask) -> None:
        unit = f.unit if (f := self.f) else None
        assert unit is not None
        text = f"Time scale of (%m) is {power_of_ten(unit.unit_exp)} / {power_of_ten(unit.precision_exp)}".encode()
        const = n.Const(Vec(8 * len(text)), int.from_bytes(text, "big"), 0, True)
        self._print(n.SysTask(s.site, "$display", (const,), s.scope))

    def _file(self, s: n.SysTask) -> str:
        if not s.args or s.args[0] is None:
            return "0"
        return self.known(self.resized(self.value(s.args[0]), 32, False)).v

    def _sys_fclose(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_fclose(i32 {self._file(s)})")

    def _sys_fflush(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_fflush(i32 {self._file(s)})")

    def _sys_dumpfile(self, s: n.SysTask) -> None:
        self.f.emit(f"call void @k_dump_name(i32 {self.module.instance_number(self.f)}, ptr {self.arg_array(list(s.args))})")

    def _sys_dumpvars(self, s: n.SysTask) -> None:
        (request,) = s.args
        assert isinstance(request, n.TextConst)
        data = self.module.data(request.value + b"\0")
        self.f.emit(f"call void @k_dump_request(i32 {self.module.instance_number(self.f)}, ptr {data})")

    def _sys_dumpoff(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_dump_switch(i32 2)")

    def _sys_dumpon(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_dump_switch(i32 3)")

    def _sys_dumpall(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_dump_switch(i32 4)")

    def _sys_dumplimit(self, s: n.SysTask) -> None:
        if s.args and s.args[0] is not None:
            self.f.emit(f"call void @k_dump_limit(i64 {self.index64(s.args[0])})")

    def _sys_dumpflush(self, s: n.SysTask) -> None:
        self.f.emit("call void @k_dump_flush()")

    def _sys_memory(self, s: n.SysTask, function: str, bits: int) -> None:
        f = self.f
        place = s.args[1]
        assert isinstance(place, n.SysCall) and isinstance(place.args[0], n.LRef)
        signal = place.args[0].signal
        rest: list[n.Expr | None] = [s.args[0], *s.args[2:]]
        left, right = signal.dims[0]
        number = f.storage(signal).number
        array = self.arg_array(rest)
        f.emit(
            f"call void @{function}(i32 {number}, i32 {s.site}, i32 {bits}, ptr {array}, i32 {len(rest)}, i64 {left}, i64 {right})"
        )

    def _sys_readmemh(self, s: n.SysTask) -> None:
        self._sys_memory(s, "k_readmem", 4)

    def _sys_readmemb(self, s: n.SysTask) -> None:
        self._sys_memory(s, "k_readmem", 1)

    def _sys_writememh(self, s: n.SysTask) -> None:
        self._sys_memory(s, "k_writemem", 4)

    def _sys_writememb(self, s: n.SysTask) -> None:
        self._sys_memory(s, "k_writemem", 1)


def power_of_ten(exponent: int) -> str:
    """A time as the standards write it: -9 is "1ns", -8 "10ns"."""
    for name, base in (("s", 0), ("ms", -3), ("us", -6), ("ns", -9), ("ps", -12), ("fs", -15)):
        if exponent >= base:
            return f"{10 ** (exponent - base)}{name}"
    return f"1e{exponent}s"


def is_event(signal: Signal) -> bool:
    return isinstance(signal.type, EventType)
