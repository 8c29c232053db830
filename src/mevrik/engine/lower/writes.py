"""Writes of variables, nets and arrays as IR: at once, without blocking, continuous, forced (IEEE 1364-2005 6, 9.2, 9.3)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import Array, Bag, Real, Vec
from mevrik.engine.layout import plane_bytes
from mevrik.engine.lower.function import Val, layout_of
from mevrik.engine.lower.waits import WaitLowerer


class WriteLowerer(WaitLowerer):
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
        self._own_lists(s.type, to, 8 * ((width + 63) // 64) * planes_to)
        if skip:
            f.start(skip)

    def _own_lists(self, t: Array, at: str, stride: int) -> None:
        """The structures in an array that was copied get lists of their own."""
        if isinstance(t.element, Bag):
            self.f.emit(f"call void @k_own_lists(ptr {at}, i32 {stride}, i64 {t.count}, i32 {self.module.bag(t.element)})")

    def _write_array(self, target: n.LRef, t: Array, at: str, size: int, planes: int, site: int) -> None:
        f = self.f
        start, ok = self.offset(target.element) if target.element is not None else ("0", None)
        skip = self._guard(ok)
        s = f.storage(target.signal)
        if s.number:
            f.emit(
                f"call void @k_array_write(i32 {s.number}, i32 {site}, i64 {start}, i64 {t.count}, ptr {at}, i32 {size}, i32 {planes})"
            )
        to = f.op(f"getelementptr i8, ptr {s.address}, i64 {f.op(f'mul i64 {start}, {s.bytes * s.planes}')}")
        if not s.number:
            f.emit(
                f"call void @k_array_copy(ptr {to}, i32 {s.bytes}, i32 {s.planes}, ptr {at}, i32 {size}, i32 {planes}, i64 {t.count})"
            )
        self._own_lists(t, to, s.bytes * s.planes)
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
            if s.pulse is not None:
                reject, error = self._ticks(s.pulse.reject), self._ticks(s.pulse.error)
                f.emit(
                    f"call void @k_drive_pulse(i32 {driver}, i32 {s.site}, ptr {pv}, ptr {pu}, i64 {delays[0]}, i64 {reject}, i64 {error}, i32 {s.pulse.style})"
                )
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
