"""Values of typed expressions: which form they take, checks of ranges, putting them into memory (IEEE 1076-2008 5, 9)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.layout import Unsupported
from mevrik.engine.typed.function import Operand, Place, Range, is_composite, is_real, real
from mevrik.engine.typed.places import Places, inner_dims, open_inside


class Values(Places):
    def _operator(self, e: t.Op) -> Place | str:
        raise NotImplementedError

    def _convert(self, e: t.Convert) -> Place | str:
        raise NotImplementedError

    def _aggregate(self, e: t.Aggregate) -> Place:
        raise NotImplementedError

    def _bound_of(self, e: t.BoundOf) -> str:
        raise NotImplementedError

    def _scalar_attribute(self, e: t.ScalarAttr) -> Place | str:
        raise NotImplementedError

    def _signal_attribute(self, e: t.SignalAttr) -> Place | str:
        raise NotImplementedError

    def scalar(self, e: t.Expr) -> str:
        """An i64 or double operand."""
        if isinstance(e, t.Const):
            return real(e.value) if is_real(e.type) else str(int(e.value))
        if isinstance(e, t.Ref):
            o = e.object
            known = self.f.known.get(o)
            if known is not None:
                return known
            if o.value is not None and o.subtype.scalar:
                return real(o.value) if is_real(o.subtype) else str(int(o.value))
        found = self.value(e)
        if isinstance(found, Place):
            return self.f.load(found.ptr, found.subtype)
        return found

    def composite(self, e: t.Expr) -> Place:
        found = self.value(e)
        assert isinstance(found, Place), e
        if found.bounds is None and isinstance(found.subtype.type, t.ArrayType):
            found.bounds = self.ranges(found.subtype)
        return found

    def value(self, e: t.Expr) -> Place | str:
        match e:
            case t.Const():
                return self.scalar(e)
            case t.Ref() | t.Index() | t.Slice() | t.FieldOf() | t.Deref():
                if isinstance(e, t.Ref) and e.object in self.f.known:
                    return self.f.known[e.object]
                place = self.place(e)
                if is_composite(place.subtype):
                    return place
                return self.f.load(place.ptr, place.subtype)
            case t.Data(values=values):
                ptr = self.module.data(values)
                bounds = self.ranges(e.type)
                return Place(ptr, e.type, bounds)
            case t.Call():
                return self.call(e)
            case t.Op():
                return self._operator(e)
            case t.Convert():
                return self._convert(e)
            case t.Aggregate():
                return self._aggregate(e)
            case t.BoundOf():
                return self._bound_of(e)
            case t.ScalarAttr():
                return self._scalar_attribute(e)
            case t.SignalAttr():
                return self._signal_attribute(e)
            case t.New():
                return self._new(e)
        raise Unsupported(f"an expression of this kind ({type(e).__name__}) is not supported here")

    def call(self, e: t.Call) -> Place | str:
        raise NotImplementedError

    def bit(self, e: t.Expr) -> str:
        """A condition as i1."""
        value = self.scalar(e)
        if value in ("0", "1"):
            return "true" if value == "1" else "false"
        return self.f.op(f"icmp ne i64 {value}, 0")

    def from_bit(self, bit: str) -> str:
        return self.f.op(f"zext i1 {bit} to i64")

    # ---- checks ----

    def check(self, value: str, source: t.Expr | None, to: t.Subtype) -> str:
        """The value has to belong to the subtype (5.2.1)."""
        f = self.f
        if to.range is None:
            return value
        low_high = self._limits(to.range)
        if low_high is None:
            return value
        low, high = low_high
        if source is not None and self._fits(source, to):
            return value
        if is_real(to):
            lo = real(low) if isinstance(low, float) else str(low)
            hi = real(high) if isinstance(high, float) else str(high)
            below = f.op(f"fcmp olt double {value}, {lo}")
            above = f.op(f"fcmp ogt double {value}, {hi}")
            fail = f"call void @v_range_real(i32 {f.site}, double {value}, double {lo}, double {hi}, ptr {self.module.string(repr(to))})"
        else:
            below = f.op(f"icmp slt i64 {value}, {low}")
            above = f.op(f"icmp sgt i64 {value}, {high}")
            name = self.module.string(repr(to))
            if isinstance(to.type, t.Enum):
                table, names = self.module.names(to.type)
                fail = f"call void @v_range_enum(i32 {f.site}, i64 {value}, i64 {low}, i64 {high}, ptr {name}, ptr {table}, ptr {names})"
            else:
                fail = f"call void @v_range(i32 {f.site}, i64 {value}, i64 {low}, i64 {high}, ptr {name})"
        f.fail_if(f.op(f"or i1 {below}, {above}"), fail)
        return value

    def _limits(self, b: t.Bounds) -> tuple[Operand | float, Operand | float] | None:
        if b.static:
            assert isinstance(b.left, t.Const)
            return b.low, b.high
        r = self.range(b)
        return self.f.low_high(r)

    @staticmethod
    def _fits(source: t.Expr, to: t.Subtype) -> bool:
        assert to.range is not None
        if not to.range.static:
            return False
        if isinstance(source, t.Const):
            return bool(to.range.low <= source.value <= to.range.high)
        s = source.type
        if s is to and not isinstance(source, (t.Op,)):
            return True
        if s.range is not None and s.range.static and not isinstance(source, t.Op):
            return bool(to.range.low <= s.range.low and s.range.high <= to.range.high)
        kind = s.type
        if isinstance(kind, (t.Enum, t.Integer)) and not getattr(kind, "universal", False):
            return bool(to.range.low <= kind.low and kind.high <= to.range.high)
        return False

    def checked(self, e: t.Expr, to: t.Subtype) -> str:
        return self.check(self.scalar(e), e, to)

    def fitting(self, e: t.Expr, to: t.Subtype) -> Place:
        """A composite value for a place of this subtype: of the same length in each dimension."""
        found = self.composite(e)
        want = self.ranges(to)
        if want is not None and found.bounds is not None:
            for have, need in zip(found.bounds, want, strict=True):
                self.same_length(self.f.length(have), self.f.length(need))
        self.same_inside(found.subtype, to)
        return found

    def put(self, e: t.Expr, to: Place) -> None:
        """Write a value into a place."""
        f = self.f
        if not is_composite(to.subtype):
            f.store(self.checked(e, to.subtype), to.ptr, to.subtype)
            return
        if isinstance(e, t.Aggregate) and isinstance(to.subtype.type, t.RecordType) and e.type.static:
            made = self.composite(e)
            f.copy(to.ptr, made.ptr, t.size_of(to.subtype))
            return
        found = self.composite(e)
        want = to.bounds if to.bounds is not None else self.ranges(to.subtype)
        if want is not None and found.bounds is not None:
            for have, need in zip(found.bounds, want, strict=True):
                self.same_length(f.length(have), f.length(need))
            self.same_inside(found.subtype, to.subtype)
            size: Operand = f.mul(f.count_of(want), self.element_size(to.subtype if to.subtype.elem.constrained else found.subtype))
        else:
            self.same_inside(found.subtype, to.subtype)
            size = self.size(to)
        f.copy(to.ptr, found.ptr, size)

    @staticmethod
    def plain(s: t.Subtype) -> t.Subtype:
        return t.Subtype(s.type, s.name, None, None, s.element)

    def _in_type(self, value: str, of: t.Subtype) -> str:
        """A result has to lie in its type (5.2.3.1)."""
        f = self.f
        kind = of.type
        if isinstance(kind, t.Integer) and not kind.universal and kind.low == -(1 << 31):
            moved = f.op(f"add i64 {value}, 2147483648")
            outside = f.op(f"icmp ugt i64 {moved}, 4294967295")
            name = self.module.string(kind.name)
            f.fail_if(outside, f"call void @v_range(i32 {f.site}, i64 {value}, i64 {kind.low}, i64 {kind.high}, ptr {name})")
        return value

    def event(self, p: Place) -> str:
        """S'event as i1."""
        f = self.f
        part = p.signal
        assert part is not None
        record = self.signal_record(part)
        if part.root is not None and isinstance(part.at, int) and p.subtype.static and t.size_of(p.subtype) == part.root.size:
            cycle = f.op(f"load i64, ptr {record}")
            now = f.op(f"load i64, ptr {f.gep('%m', self.module.base)}")
            return f.op(f"icmp eq i64 {cycle}, {now}")
        number = f.op(f"trunc i64 {part.number} to i32") if isinstance(part.number, str) else str(part.number)
        hit = f.op(f"call i32 @v_event(i32 {number}, i64 {part.at}, i64 {self.size(p)})")
        return f.op(f"icmp ne i32 {hit}, 0")

    def default(self, p: Place) -> None:
        """The default initial value (6.4.2.2, 6.4.2.4): the leftmost one of each scalar, null."""
        f = self.f
        s = p.subtype
        kind = s.type
        if isinstance(kind, t.RecordType):
            offsets, _ = self.layout(s)
            for offset, of in zip(offsets, s.field_types(), strict=True):
                self.default(Place(f.gep(p.ptr, offset), of, self.ranges(of)))
            return
        if isinstance(kind, t.ArrayType):
            size = self.size(p)
            data = default_bytes(s.elem)
            if data is not None and len(set(data)) <= 1:
                f.fill(p.ptr, data[0] if data else 0, size)
                return
            step = self.element_size(s)
            n = f.count_of(self.bounds_of(p))
            with f.counted(n) as at:
                self.default(Place(f.gep(p.ptr, f.op(f"mul i64 {at}, {step}")), s.elem, self.ranges(s.elem)))
            return
        if isinstance(kind, t.ProtectedType):
            self.start_protected(kind, p.ptr)
            return
        f.store(self.leftmost(s), p.ptr, s)

    def start_protected(self, kind: t.ProtectedType, ptr: str) -> None:
        """The variables of a protected object get their first values."""
        outer, self.f.self_ptr = self.f.self_ptr, ptr
        self.run(kind.init)
        self.f.self_ptr = outer

    def run(self, body: list[t.Stmt]) -> None:
        raise NotImplementedError

    def leftmost(self, s: t.Subtype) -> str:
        if s.range is not None:
            if isinstance(s.range.left, t.Const):
                return real(s.range.left.value) if is_real(s) else str(int(s.range.left.value))
            return self.scalar(s.range.left)
        kind = s.type
        if isinstance(kind, t.Floating):
            return real(kind.low)
        if isinstance(kind, (t.Integer, t.Physical)):
            return str(kind.low)
        return "0"

    def _new(self, e: t.New) -> str:
        f = self.f
        of = e.of
        if e.init is not None:
            made = self.composite(e.init) if is_composite(of) and not of.constrained else None
            if made is None:
                place = self._room(e, of, self.ranges(of))
                self.put(e.init, place)
            else:
                place = self._room(e, made.subtype, made.bounds)
                f.copy(place.ptr, made.ptr, self.size(made))
        else:
            place = self._room(e, of, self.ranges(of))
            self.default(place)
        start = f.op(f"ptrtoint ptr {place.ptr} to i64")
        header = self._header(e.type)
        return f.op(f"sub i64 {start}, {24 * header}") if header else start

    @staticmethod
    def _header(s: t.Subtype) -> int:
        """How many ranges an allocated object carries before its value, as its access type leaves them open."""
        kind = s.type
        assert isinstance(kind, t.AccessType) and kind.target is not None
        target = kind.target
        own = len(target.type.indexes) if isinstance(target.type, t.ArrayType) and target.bounds is None else 0
        return own + inner_dims(target)

    def _room(self, e: t.New, s: t.Subtype, bounds: list[Range] | None) -> Place:
        """New memory for a value, behind the ranges that it carries."""
        f = self.f
        size = self.size(Place("", s, bounds))
        count = self._header(e.type)
        ptr = f.op(f"call ptr @v_new(i64 {f.add(size, 24 * count)})")
        target = e.type.type.target  # type: ignore[attr-defined]
        carried = list(bounds or ()) if isinstance(target.type, t.ArrayType) and target.bounds is None else []
        if open_inside(target):
            carried += self.inner_ranges(s)
        for k, r in enumerate(carried):
            for n, x in enumerate((r.left, r.right, r.down)):
                f.emit(f"store i64 {x}, ptr {f.gep(ptr, 24 * k + 8 * n)}")
        return Place(f.gep(ptr, 24 * count) if count else ptr, s, bounds)

    def unpacked(self, vec: str, subtype: t.Subtype) -> Place:
        """A result that was given as pointer and bounds."""
        f = self.f
        ptr = f.op(f"load ptr, ptr {vec}")
        values = [f.op(f"load i64, ptr {f.gep(vec, 8 * k)}") for k in (1, 2, 3)]
        return Place(ptr, self.plain(subtype), [Range(*values)])


def default_bytes(s: t.Subtype) -> bytes | None:
    """The default initial value where it is known."""
    import struct

    kind = s.type
    if isinstance(kind, t.RecordType):
        if not s.static:
            return None
        offsets, size = t.record_layout(s)
        out = bytearray(size)
        for offset, of in zip(offsets, s.field_types(), strict=True):
            part = default_bytes(of)
            if part is None:
                return None
            out[offset : offset + len(part)] = part
        return bytes(out)
    if isinstance(kind, t.ArrayType):
        if not s.static:
            return None
        part = default_bytes(s.elem)
        if part is None:
            return None
        n = t.size_of(s) // len(part) if part else 0
        return part * n
    if isinstance(kind, t.ProtectedType):
        return None
    left: float | int = 0
    if s.range is not None:
        if not isinstance(s.range.left, t.Const):
            return None
        left = s.range.left.value
    elif isinstance(kind, (t.Floating, t.Integer, t.Physical)):
        left = kind.low
    if isinstance(kind, t.Floating):
        return struct.pack("<d", left)
    size = t.size_of(t.Subtype(kind))
    return (int(left) & ((1 << 8 * size) - 1)).to_bytes(size, "little")
