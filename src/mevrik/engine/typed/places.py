"""Where objects and parts of them lie."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.design.reads import base_of
from mevrik.engine.layout import Unsupported
from mevrik.engine.typed.function import Function, Operand, Part, Place, Range, is_composite, register

SIG_BYTES, DRIVER_BYTES = 128, 104  # the structures VSig and VDriver of kernel/typed.h
DRIVER_QUEUED = 20  # of VDriver
_INDEX = t.Subtype(t.Integer("integer"))
CALLER = 40  # VState.caller, from the start of the typed part
RANGE = 24  # bytes of the bounds of a dimension in memory: left, right, direction


class Places:
    def __init__(self, f: Function) -> None:
        self.f = f
        self.module = f.module

    def value(self, e: t.Expr) -> Place | str:
        raise NotImplementedError

    def scalar(self, e: t.Expr) -> str:
        raise NotImplementedError

    # ---- bounds ----

    def bound(self, e: t.Expr) -> Operand:
        if isinstance(e, t.Const):
            return int(e.value)
        return self.scalar(e)

    def range(self, b: t.Bounds) -> Range:
        down: Operand = int(b.down) if isinstance(b.down, bool) else self.scalar(b.down)
        return Range(self.bound(b.left), self.bound(b.right), down)

    def ranges(self, s: t.Subtype) -> list[Range] | None:
        if not isinstance(s.type, t.ArrayType) or s.bounds is None:
            return None
        return [self.range(b) for b in s.bounds]

    def element_size(self, s: t.Subtype) -> Operand:
        return self.bytes_of(s.elem)

    def bytes_of(self, s: t.Subtype) -> Operand:
        """What a value takes; where its subtype leaves that to the run, as the bounds are there."""
        if s.static:
            return t.size_of(s)
        if isinstance(s.type, t.RecordType):
            return self.layout(s)[1]
        bounds = self.ranges(s)
        if bounds is None:
            raise Unsupported("an array whose elements have no known size is not supported here")
        return self.f.mul(self.f.count_of(bounds), self.bytes_of(s.elem))

    def layout(self, s: t.Subtype) -> tuple[list[Operand], Operand]:
        """Offsets of the fields of a record, and its size (`typed.record_layout`)."""
        if s.static:
            offsets, size = t.record_layout(s)
            return list(offsets), size
        found: list[Operand] = []
        at: Operand = 0
        for of in s.field_types():
            at = self._aligned(at, t.align_of(of))
            found.append(at)
            at = self.f.add(at, self.bytes_of(of))
        return found, self._aligned(at, t.align_of(s))

    def _aligned(self, at: Operand, to: int) -> Operand:
        if isinstance(at, int):
            return (at + to - 1) // to * to
        return at if to == 1 else self.f.op(f"and i64 {self.f.add(at, to - 1)}, {-to}")

    def size(self, place: Place) -> Operand:
        """Bytes of a value."""
        s = place.subtype
        if isinstance(s.type, t.ArrayType):
            if place.bounds is None:
                if s.static:
                    return t.size_of(s)
                place.bounds = self.ranges(s)
            assert place.bounds is not None
            return self.f.mul(self.f.count_of(place.bounds), self.element_size(s))
        return self.bytes_of(s)

    # ---- shapes that only the run knows ----

    def inner_ranges(self, s: t.Subtype) -> list[Range]:
        """The bounds of all arrays inside of a value."""
        found: list[Range] = []
        for inner in t.inner_arrays(s):
            ranges = self.ranges(inner)
            if ranges is None:
                raise Unsupported("a value whose parts have no known size is not supported here")
            found += ranges
        return found

    def shaped(self, s: t.Subtype, ranges: list[Range]) -> t.Subtype:
        """A subtype with these bounds inside, in the order of `inner_ranges`."""
        rest = iter(ranges)

        def inside(of: t.Subtype) -> t.Subtype:
            if isinstance(of.type, t.ArrayType):
                bounds = [self._kept(next(rest)) for _ in of.type.indexes]
                return t.Subtype(of.type, of.name, None, bounds, inside(of.elem))
            return record(of) if isinstance(of.type, t.RecordType) else of

        def record(of: t.Subtype) -> t.Subtype:
            return t.Subtype(of.type, of.name, None, None, None, [inside(f) for f in of.field_types()])

        if isinstance(s.type, t.ArrayType):
            return t.Subtype(s.type, s.name, None, s.bounds, inside(s.elem))
        return record(s)

    def _kept(self, r: Range) -> t.Bounds:
        """Bounds that are in registers already."""

        def kept(x: Operand) -> t.Expr:
            if isinstance(x, int):
                return t.Const(_INDEX, 0, x)
            hidden = t.Object("", "constant", _INDEX, 0, owner=self.f.sub)
            self.f.known[hidden] = x
            return t.Ref(_INDEX, 0, hidden)

        return t.Bounds(kept(r.left), kept(r.right), bool(r.down) if isinstance(r.down, int) else kept(r.down))

    def whole_shape(self, p: Place) -> t.Subtype:
        """The subtype of a value with its own bounds."""
        s = p.subtype
        if s.static or not isinstance(s.type, t.ArrayType):
            return s
        return t.Subtype(s.type, s.name, None, [self._kept(r) for r in self.bounds_of(p)], s.element)

    def same_inside(self, have: t.Subtype, want: t.Subtype) -> None:
        """The parts of a value are as long as those of the place it goes to."""
        if have is want:
            return
        if any(part.bounds is None for s in (have, want) for part in t.inner_arrays(s)):
            return  # one takes the shape of the other
        for a, b in zip(self.inner_ranges(have), self.inner_ranges(want), strict=True):
            self.same_length(self.f.length(a), self.f.length(b))

    # ---- objects ----

    def object(self, o: t.Object) -> Place:
        f = self.f
        found = f.places.get(o)
        if found is not None:
            return found
        if o.signal is not None:
            root = o.signal.root
            return Place(
                f.static(root.offset + o.signal.at), o.subtype, self.ranges(o.subtype), Part(root.number, o.signal.at, "", root)
            )
        if o.self_of is not None:
            return Place(f.gep(f.self_ptr, o.place), o.subtype, self.ranges(o.subtype))
        if o.place >= 0:
            return Place(f.static(o.place), o.subtype, self.ranges(o.subtype))
        if o.value is not None:
            slot = f.alloca(register(o.subtype))
            f.store(o.value, slot, o.subtype)
            return Place(slot, o.subtype)
        raise Unsupported(f"'{o.text or o.name}' can't be reached from here")

    def place(self, e: t.Expr) -> Place:
        """The memory of a name; of another composite value, where it was put."""
        f = self.f
        match e:
            case t.Ref(object=o):
                return self.object(o)
            case t.Index(a=a, indexes=indexes):
                return self._index(self.place(a), indexes, e)
            case t.Slice(a=a):
                return self._slice(self.place(a), e)
            case t.FieldOf(a=a, index=index):
                base = self.place(a)
                subtype = base.subtype
                offsets, _ = self.layout(subtype)
                of = subtype.field_types()[index]
                return Place(f.gep(base.ptr, offsets[index]), of, self.ranges(of), self._moved(base.signal, offsets[index]))
            case t.Deref(a=a):
                ptr = self.access(a)
                return self.pointed(ptr, e.type)
            case t.Convert(a=a) if is_composite(e.type):
                return self.converted(self.place(a), e.type)
        found = self.value(e)
        if isinstance(found, str):
            slot = f.alloca(register(e.type))
            f.store(found, slot, e.type)
            return Place(slot, e.type)
        return found

    def converted(self, base: Place, to: t.Subtype) -> Place:
        """The same elements under other bounds."""
        f = self.f
        if not isinstance(to.type, t.ArrayType):
            return Place(base.ptr, to if to.static else base.subtype, None, base.signal)
        assert base.bounds is not None
        want = self.ranges(to)
        if want is None:
            return Place(base.ptr, self.with_shape(to, base.subtype), base.bounds, base.signal)
        for have, need in zip(base.bounds, want, strict=True):
            self.same_length(f.length(have), f.length(need))
        return Place(base.ptr, self.with_shape(to, base.subtype), want, base.signal)

    @staticmethod
    def with_shape(to: t.Subtype, base: t.Subtype) -> t.Subtype:
        """The element sizes of the value, if the type leaves them open."""
        if isinstance(to.type, t.ArrayType) and not to.elem.constrained and isinstance(base.type, t.ArrayType):
            return t.Subtype(to.type, to.name, None, to.bounds, base.elem)
        return to

    def same_length(self, have: Operand, want: Operand) -> None:
        f = self.f
        if isinstance(have, int) and isinstance(want, int) and have == want:
            return
        differs = f.op(f"icmp ne i64 {have}, {want}")
        f.fail_if(differs, f"call void @v_length(i32 {f.site}, i64 {have}, i64 {want})")

    def access(self, e: t.Expr) -> str:
        """A pointer that isn't null."""
        f = self.f
        value = self.scalar(e)
        none = f.op(f"icmp eq i64 {value}, 0")
        f.fail_if(none, f"call void @v_null(i32 {f.site})")
        return f.op(f"inttoptr i64 {value} to ptr")

    def pointed(self, ptr: str, target: t.Subtype) -> Place:
        """What an access value designates; bounds that its type leaves open stand before it."""
        kind = target.type
        own = len(kind.indexes) if isinstance(kind, t.ArrayType) and target.bounds is None else 0
        inside = inner_dims(target) if open_inside(target) else 0
        bounds = self.carried(ptr, 0, own) if own else self.ranges(target)
        shape = self.shaped(target, self.carried(ptr, own, inside)) if open_inside(target) else target
        return Place(self.f.gep(ptr, RANGE * (own + inside)) if own + inside else ptr, shape, bounds)

    def carried(self, ptr: str, skip: int, count: int) -> list[Range]:
        """Bounds of so many dimensions, left, right and direction, that stand in memory behind those of others."""
        f = self.f
        starts = range(RANGE * skip, RANGE * (skip + count), RANGE)
        return [Range(*(f.op(f"load i64, ptr {f.gep(ptr, at + 8 * k)}") for k in range(3))) for at in starts]

    def _moved(self, part: Part | None, by: Operand) -> Part | None:
        if part is None:
            return None
        return Part(part.number, self.f.add(part.at, by), part.driver, part.root)

    def bounds_of(self, base: Place) -> list[Range]:
        if base.bounds is None:
            base.bounds = self.ranges(base.subtype)
        assert base.bounds is not None
        return base.bounds

    def _index(self, base: Place, indexes: list[t.Expr], e: t.Index) -> Place:
        f = self.f
        at: Operand = 0
        bounds = self.bounds_of(base)
        for r, index in zip(bounds, indexes, strict=True):
            value = self.bound(index)
            self.inside(value, r, e, index)
            step = f.select(r.down, f.sub_(r.left, value), f.sub_(value, r.left))
            at = f.add(f.mul(at, f.length(r)) if at != 0 else 0, step)
        of = base.subtype.elem
        offset = f.mul(at, self.element_size(base.subtype))
        return Place(f.gep(base.ptr, offset), of, self.ranges(of), self._moved(base.signal, offset))

    def inside(self, value: Operand, r: Range, e: t.Expr, index: t.Expr | None) -> None:
        """Check an index (8.4)."""
        f = self.f
        if isinstance(value, int) and isinstance(r.left, int) and isinstance(r.right, int) and isinstance(r.down, int):
            if min(r.left, r.right) <= value <= max(r.left, r.right):
                return
        elif index is not None and self.surely(index, r):
            return
        low, high = f.low_high(r)
        below = f.op(f"icmp slt i64 {value}, {low}")
        above = f.op(f"icmp sgt i64 {value}, {high}")
        outside = f.op(f"or i1 {below}, {above}")
        name = self.module.string(name_of(e))
        f.fail_if(outside, f"call void @v_bounds(i32 {f.site}, i64 {value}, i64 {r.left}, i64 {r.right}, i64 {r.down}, ptr {name})")

    @staticmethod
    def surely(index: t.Expr, r: Range) -> bool:
        """Whether the subtype of an index keeps it inside."""
        s = index.type
        if s.range is None or not s.range.static or not (isinstance(r.left, int) and isinstance(r.right, int)):
            return False
        low, high = min(r.left, r.right), max(r.left, r.right)
        return bool(low <= s.range.low and s.range.high <= high and isinstance(index, t.Ref) and index.object.kind == "loop")

    def _slice(self, base: Place, e: t.Slice) -> Place:
        f = self.f
        r = self.range(e.bounds)
        outer = self.bounds_of(base)[0]
        n = f.length(r)
        if isinstance(r.down, str) or isinstance(outer.down, str) or r.down != outer.down:
            turned = f.op(f"icmp ne i64 {r.down}, {outer.down}")
            some = f.op(f"icmp sgt i64 {n}, 0")
            f.fail_if(f.op(f"and i1 {turned}, {some}"), f"call void @v_direction(i32 {f.site})")
        if not (isinstance(n, int) and n == 0):
            if isinstance(n, str):
                # an empty slice may have any bounds
                low, high = f.low_high(outer)
                mine = f.low_high(r)
                some = f.op(f"icmp sgt i64 {n}, 0")
                below = f.op(f"icmp slt i64 {mine[0]}, {low}")
                above = f.op(f"icmp sgt i64 {mine[1]}, {high}")
                bad = f.op(f"and i1 {some}, {f.op(f'or i1 {below}, {above}')}")
                which = f.op(f"select i1 {below}, i64 {mine[0]}, i64 {mine[1]}")
                name = self.module.string(name_of(e))
                f.fail_if(
                    bad,
                    f"call void @v_bounds(i32 {f.site}, i64 {which}, i64 {outer.left}, i64 {outer.right}, i64 {outer.down}, ptr {name})",
                )
            else:
                self.inside(r.left, outer, e, None)
                self.inside(r.right, outer, e, None)
        step = f.select(outer.down, f.sub_(outer.left, r.left), f.sub_(r.left, outer.left))
        offset = f.mul(step, self.element_size(base.subtype))
        subtype = t.Subtype(base.subtype.type, base.subtype.name, None, None, base.subtype.element)
        return Place(f.gep(base.ptr, offset), subtype, [r], self._moved(base.signal, offset))

    # ---- signals ----

    def signal_record(self, part: Part) -> str:
        return self.f.gep("%m", self.f.add(self.module.signals, self.f.mul(part.number, SIG_BYTES)))

    def driver(self, part: Part, target: t.Expr) -> str:
        """A pointer to the driver through which a signal is assigned."""
        if part.driver:
            return part.driver
        process = self.f.process
        if process is None and self.f.sub is not None:
            process = self.f.sub.process
        assert part.root is not None
        if process is None or part.root not in process.drivers:
            raise Unsupported(f"'{part.root.name}' has no driver here")
        return self.f.gep("%m", self.module.drivers + process.drivers[part.root].number * DRIVER_BYTES)

    def before(self, part: Part) -> str:
        """Where a signal keeps the bytes that it had before its last event."""
        if part.root is not None and not part.driver:
            return self.f.gep("%m", self.module.befores[part.root.number])
        return self.f.op(f"load ptr, ptr {self.f.gep(self.signal_record(part), 24)}")

    def image_of(self, part: Part, target: t.Expr) -> str:
        """Where the bytes lie that the driver wants the signal to have."""
        driver = self.driver(part, target)
        if part.driver or part.root is None:
            return self.f.op(f"load ptr, ptr {driver}")
        process = self.f.process or (self.f.sub.process if self.f.sub is not None else None)
        assert process is not None
        return self.f.gep("%m", self.module.images[process.drivers[part.root].number])


def name_of(e: t.Expr) -> str:
    """What a message calls a name."""
    inner = base_of(e)
    return (inner.object.text or inner.object.name) if isinstance(inner, t.Ref) else ""


def inner_dims(s: t.Subtype) -> int:
    """How many dimensions the arrays inside of a value have, where its subtype leaves some of their bounds open."""
    return sum(len(a.type.indexes) for a in t.inner_arrays(s) if isinstance(a.type, t.ArrayType)) if open_inside(s) else 0


def open_inside(s: t.Subtype) -> bool:
    """Whether the size of an element, or of the record, is left open."""
    if isinstance(s.type, t.ArrayType):
        return not s.elem.static
    return isinstance(s.type, t.RecordType) and not s.static
