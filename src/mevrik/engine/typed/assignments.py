"""Assignments of variables and signals, force and release (IEEE 1076-2008 10.5, 10.6)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.typed.function import Held, Operand, Part, Place, is_composite
from mevrik.engine.typed.numeric import Numeric, static_length


class Assignments(Numeric):
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
        self.same_inside(source.subtype, p.subtype)
        f.copy(p.ptr, source.ptr, self.size(p))

    def _spread(self, target: t.Aggregate, source: Place) -> list[tuple[t.Expr, Place]]:
        """The parts of an aggregate as a target, with the parts of the value."""
        f = self.f
        s = source.subtype
        found: list[tuple[t.Expr, Place]] = []
        if isinstance(s.type, t.RecordType):
            offsets, _ = self.layout(s)
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
        part = p.signal
        held = self._held(part)
        number = held.number if held is not None and part.at == 0 and part.root is not None and part.root.size == n else ""
        made = self.numeric(w.value, f.gep(self.image_of(part, s.target), part.at), number)
        if made is None:
            return False
        self._mark(part, s.target, n, bool(number))
        return True

    def _held(self, part: Part) -> Held | None:
        return self.f.held.get(part.root) if part.root is not None and not part.driver else None

    def _mark(self, part: Part, target: t.Expr, size: Operand, counted: bool = False) -> None:
        """What the driver wants has been written, and `counted` which number that is: a transaction after no time (10.5.2)."""
        f = self.f
        held = self._held(part)
        if held is None:
            driver = self.driver(part, target)
            f.emit(f"call void @v_mark(ptr {driver}, i64 {part.at}, i64 {f.add(part.at, size)}, i32 {f.site})")
        else:
            f.emit(f"store i32 {f.site}, ptr {held.site}")
            f.emit(f"store i8 1, ptr {held.mark}")
            if held.number and not counted:
                f.emit(f"store i64 -1, ptr {held.number}")

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
        size = self.size(p)
        if isinstance(source, Place) and not is_composite(p.subtype):
            source = self.check(f.load(source.ptr, source.subtype), None, p.subtype)
        if isinstance(source, Place) and isinstance(p.subtype.type, t.ArrayType):
            for have, need in zip(self.bounds_of(source), self.bounds_of(p), strict=True):
                self.same_length(f.length(have), f.length(need))
        if isinstance(source, Place) and is_composite(p.subtype):
            self.same_inside(source.subtype, p.subtype)
        if is_plain(s):
            if isinstance(source, Place) and part.root not in f.held:
                driver = self.driver(part, target)
                f.emit(f"call void @v_assign(ptr {driver}, i64 {part.at}, ptr {source.ptr}, i64 {size}, i32 {f.site})")
                return
            to = f.gep(self.image_of(part, target), part.at)
            if isinstance(source, Place):
                f.copy(to, source.ptr, size)
            else:
                assert source is not None
                f.store(source, to, p.subtype)
            self._mark(part, target, size)
            return
        driver = self.driver(part, target)
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


def is_plain(s: t.SignalAssign) -> bool:
    """Whether it gives its drivers one value after no time, which cancels all that is to come."""
    if len(s.waves) != 1 or s.waves[0].value is None or s.delay in ("force", "release"):
        return False
    after = s.waves[0].after
    return after is None or (isinstance(after, t.Const) and after.value == 0)


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
