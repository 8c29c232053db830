"""Aggregates (IEEE 1076-2008 9.3.3); the top of the chain that makes code of typed expressions."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.layout import Unsupported
from mevrik.engine.typed.function import Operand, Place, Range, is_composite, storage
from mevrik.engine.typed.operators import Operators


class Expressions(Operators):
    # ---- aggregates ----

    def constant_bytes(self, e: t.Expr, to: t.Subtype) -> bytes | None:
        """The bytes of a value that is known, for a place of the subtype."""
        import struct

        if isinstance(e, t.Const) and not is_composite(to):
            if to.range is not None and to.range.static and not to.range.low <= e.value <= to.range.high:
                return None
            kind = storage(to)
            if kind == "double":
                return struct.pack("<d", e.value)
            size = {"i8": 1, "i32": 4, "i64": 8}[kind]
            return (int(e.value) & ((1 << 8 * size) - 1)).to_bytes(size, "little")
        if isinstance(e, t.Data):
            if to.static and isinstance(to.type, t.ArrayType) and to.bounds is not None and to.bounds[0].length != len(e.values):
                return None
            return e.values
        if isinstance(e, t.Ref) and e.object.value is not None and e.object.subtype.scalar:
            return self.constant_bytes(t.Const(e.object.subtype, e.pos, e.object.value), to)
        if isinstance(e, t.Aggregate) and e.type.static and isinstance(e.type.type, (t.ArrayType, t.RecordType)):
            return self._aggregate_bytes(e)
        return None

    def _aggregate_bytes(self, e: t.Aggregate) -> bytes | None:
        if isinstance(e.type.type, t.RecordType):
            offsets, size = t.record_layout(e.type)
            out = bytearray(size)
            for (_, v), offset, of in zip(e.items, offsets, e.type.field_types(), strict=True):
                data = self.constant_bytes(v, of)
                if data is None:
                    return None
                out[offset : offset + len(data)] = data
            return bytes(out)
        assert isinstance(e.type.type, t.ArrayType) and e.type.bounds is not None
        bounds = e.type.bounds[0]
        n = bounds.length
        step = t.size_of(e.type) // n if n else 0
        if n * step > 1 << 16:
            return None
        of = self._row(e.type)
        parts: list[bytes | None] = [None] * n
        left, _, down = bounds.ints
        at = 0
        rest: bytes | None = None
        for choices, v in e.items:
            if v.type.type is e.type.type and of.type is not v.type.type:
                return None
            data = self.constant_bytes(v, of)
            if data is None or len(data) != step:
                return None
            if not choices:
                if at >= n:
                    return None
                parts[at] = data
                at += 1
            for c in choices:
                if c is None:
                    rest = data
                elif isinstance(c, t.Bounds):
                    if not c.static:
                        return None
                    for i in range(c.low, c.high + 1):
                        k = left - i if down else i - left
                        if not 0 <= k < n:
                            return None
                        parts[k] = data
                elif isinstance(c, t.Const):
                    k = left - c.value if down else c.value - left
                    if not 0 <= k < n:
                        return None
                    parts[k] = data
                else:
                    return None
        if any(p is None for p in parts):
            if rest is None:
                return None
            parts = [rest if p is None else p for p in parts]
        return b"".join(p for p in parts if p is not None)

    @staticmethod
    def _row(s: t.Subtype) -> t.Subtype:
        """The element of the outermost dimension."""
        assert isinstance(s.type, t.ArrayType)
        if len(s.type.indexes) == 1:
            return s.elem
        rest = t.ArrayType(s.type.name, s.type.pos, s.type.indexes[1:], s.type.element)
        return t.Subtype(rest, s.name, None, s.bounds[1:] if s.bounds is not None else None, s.element)

    def _aggregate(self, e: t.Aggregate) -> Place:
        f = self.f
        known = self._aggregate_bytes(e) if e.type.static else None
        if known is not None:
            return Place(self.module.data(known), e.type, self.ranges(e.type))
        if isinstance(e.type.type, t.RecordType):
            shape = e.type if e.type.constrained else self._record_shape_of(e)
            offsets, size = self.layout(shape)
            out = f.arena(size)
            for (_, v), offset, of in zip(e.items, offsets, shape.field_types(), strict=True):
                self.put(v, Place(f.gep(out, offset), of, self.ranges(of)))
            return Place(out, shape)
        assert isinstance(e.type.type, t.ArrayType)
        bounds = self.ranges(e.type)
        if bounds is None:
            bounds = self._found_bounds(e)
        row = self._row(e.type)
        of_row: list[Range] | None
        if row.static or len(e.type.type.indexes) == 1 or not e.type.elem.static:
            row = row if row.constrained else self._row_shape(e)
            step: Operand = self.bytes_of(row)
            of_row = self.ranges(row)
        else:  # a row of several dimensions, as long as the run tells
            of_row = bounds[1:]
            step = f.mul(f.count_of(of_row), self.bytes_of(e.type.elem))
        n = f.count_of(bounds[:1])
        out = f.arena(f.mul(n, step))
        r = bounds[0]
        at: Operand = 0
        for choices, v in e.items:
            if choices == [None]:
                self._fill(out, n, step, v, row, of_row)
        for choices, v in e.items:
            if not choices:
                if v.type.type is e.type.type and row.type is not v.type.type:
                    p = self.composite(v)
                    m = f.mul(f.length(self.bounds_of(p)[0]), step)
                    f.copy(f.gep(out, f.mul(at, step)), p.ptr, m)
                    at = f.add(at, f.length(self.bounds_of(p)[0]))
                else:
                    self.put(v, Place(f.gep(out, f.mul(at, step)), row, of_row))
                    at = f.add(at, 1)
                continue
            for c in choices:
                if c is None:
                    continue
                if isinstance(c, t.Bounds):
                    made_so = len(e.items) == 1 and (e.type.bounds is None or e.type.bounds[0] is c)
                    s = r if made_so else self.range(c)  # what it was made by is evaluated once
                    first = f.select(
                        r.down, f.sub_(r.left, f.select(s.down, s.left, s.right)), f.sub_(f.select(s.down, s.right, s.left), r.left)
                    )
                    m = f.length(s)
                    if v.type.type is e.type.type and row.type is not v.type.type:
                        p = self.composite(v)
                        f.copy(f.gep(out, f.mul(first, step)), p.ptr, f.mul(m, step))
                    else:
                        self._fill(f.gep(out, f.mul(first, step)), m, step, v, row, of_row)
                else:
                    i = self.bound(c)
                    self.inside(i, r, e, None)
                    k = f.select(r.down, f.sub_(r.left, i), f.sub_(i, r.left))
                    self.put(v, Place(f.gep(out, f.mul(k, step)), row, of_row))
        if at != 0:
            self.same_length(at, n) if not any(c == [None] for c, _ in e.items) else None
        element = e.type.element if e.type.elem.static or len(e.type.type.indexes) > 1 else row
        return Place(out, t.Subtype(e.type.type, e.type.name, None, None, element), bounds)

    def _row_shape(self, e: t.Aggregate) -> t.Subtype:
        """What the elements of an aggregate are, if only they say."""
        for _, v in e.items:
            if v.type.constrained:
                return v.type
        return self._shape_of_value(e.items[0][1])

    def _record_shape_of(self, e: t.Aggregate) -> t.Subtype:
        """What the fields of an aggregate are, where the type leaves that open."""
        pairs = zip(e.items, e.type.field_types(), strict=True)
        fields = [of if of.constrained else v.type if v.type.constrained else self._shape_of_value(v) for (_, v), of in pairs]
        return t.Subtype(e.type.type, e.type.name, None, None, None, fields)

    def _shape_of_value(self, v: t.Expr) -> t.Subtype:
        """Asks the value itself: it is computed for that, and again for its place."""
        if any(isinstance(x, t.New) or (isinstance(x, t.Call) and x.sub.impure) for x in t.nodes(v)):
            raise Unsupported("an aggregate whose size only an impure function or an allocation gives is not supported")
        return self.whole_shape(self.composite(v))

    def _found_bounds(self, e: t.Aggregate) -> list[Range]:
        """Bounds that only the choices or the number of elements give."""
        f = self.f
        kind = e.type.type
        assert isinstance(kind, t.ArrayType)
        index = kind.indexes[0]
        ranges = [c for choices, _ in e.items for c in choices]
        rest: list[Range] = []
        if len(kind.indexes) > 1:
            inner = next((v for _, v in e.items), None)
            rest = (self.ranges(inner.type) or []) if inner is not None else []
        if ranges:
            lows: list[Operand] = []
            highs: list[Operand] = []
            down: Operand = 0
            for c in ranges:
                if isinstance(c, t.Bounds):
                    s = self.range(c)
                    low, high = f.low_high(s)
                    down = s.down
                    lows.append(low)
                    highs.append(high)
                elif c is not None:
                    v = self.bound(c)
                    lows.append(v)
                    highs.append(v)
            low, high = lows[0], highs[0]
            for x in lows[1:]:
                low = f.op(f"call i64 @llvm.smin.i64(i64 {low}, i64 {x})")
            for x in highs[1:]:
                high = f.op(f"call i64 @llvm.smax.i64(i64 {high}, i64 {x})")
            single = len(ranges) == 1
            return [Range(f.select(down, high, low), f.select(down, low, high), down) if single else Range(low, high, 0), *rest]
        n: Operand = 0
        for _, item in e.items:
            if item.type.type is kind and kind.element.type is not kind:
                n = f.add(n, f.length(self.bounds_of(self.composite(item))[0]))
            else:
                n = f.add(n, 1)
        start = index.range.ints[0] if index.range is not None and index.range.static else 0
        return [Range(start, f.add(start - 1, n), 0), *rest]

    def _fill(self, out: str, n: Operand, step: Operand, v: t.Expr, row: t.Subtype, of_row: list[Range] | None) -> None:
        """The same value in `n` places."""
        f = self.f
        if n == 0:
            return
        if not is_composite(row) and step == 1:
            f.fill(out, self._operand(self.checked(v, row)), n)
            return
        if n == 1:
            self.put(v, Place(out, row, of_row))
            return
        with f.counted(n) as at:
            self.put(v, Place(f.gep(out, f.op(f"mul i64 {at}, {step}")), row, of_row))

    @staticmethod
    def _operand(value: str) -> Operand:
        return value if value.startswith("%") else int(value)
