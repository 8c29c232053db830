"""Operands as IR: constants, signals, elements of arrays, selections of bits, whole arrays (IEEE 1364-2005 5.2)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.unit import Signal
from mevrik.engine.lower.function import Val
from mevrik.engine.lower.operators import OperatorLowerer, signed_text

_PIECE = 57  # so many bits lie in eight bytes wherever they begin


class OperandLowerer(OperatorLowerer):
    def index64(self, e: n.Expr) -> str:
        a = self.value(e)
        bad = self.any_unknown(a)
        wide = self.resized(Val(a.v, None, a.w), 64, n.vec(e).signed).v
        return self.f.op(f"select i1 {bad}, i64 -1, i64 {wide}") if bad else wide

    def index(self, e: n.Expr) -> tuple[str, str | None]:
        """An index as i64, and an i1 that holds when it is usable (known and not absurdly large)."""
        a = self.value(e)
        f = self.f
        signed = n.vec(e).signed
        bad = self.any_unknown(a)
        if a.w <= 64 and (signed or a.w < 64):
            i = self.resized(Val(a.v, None, a.w), 64, signed).v
        elif a.w == 64:
            i = a.v
            big = f.op(f"icmp slt i64 {i}, 0")
            bad = big if bad is None else f.op(f"or i1 {bad}, {big}")
        else:
            low = f.op(f"trunc i{a.w} {a.v} to i64")
            back = f.op(f"{'sext' if signed else 'zext'} i64 {low} to i{a.w}")
            wrong = f.op(f"icmp ne i{a.w} {back}, {a.v}")
            negative = f.op(f"icmp slt i64 {low}, 0")
            if not signed:
                wrong = f.op(f"or i1 {wrong}, {negative}")
            bad = wrong if bad is None else f.op(f"or i1 {bad}, {wrong}")
            i = low
        return i, (f.op(f"xor i1 {bad}, true") if bad is not None else None)

    def offset(self, offset: n.Offset) -> tuple[str, str | None]:
        """A position as i64 and an i1 that holds when every index is usable and in its bounds."""
        f = self.f
        total = str(offset.const)
        ok: str | None = None
        for term in offset.terms:
            i, usable = self.index(term.index)
            if term.low > -(1 << 61):
                t = n.vec(term.index)
                least = -(1 << (t.width - 1)) if t.signed else 0
                most = (1 << (t.width - (1 if t.signed else 0))) - 1
                if term.low > least or term.high < most:
                    shifted = f.op(f"sub i64 {i}, {term.low}") if term.low else i
                    inside = f.op(f"icmp ule i64 {shifted}, {term.high - term.low}")
                    usable = inside if usable is None else f.op(f"and i1 {usable}, {inside}")
            scaled = f.op(f"mul i64 {i}, {term.scale}") if term.scale != 1 else i
            total = scaled if total == "0" else f.op(f"add i64 {total}, {scaled}")
            if usable is not None:
                ok = usable if ok is None else f.op(f"and i1 {ok}, {usable}")
        return total, ok

    def element_address(self, signal: Signal, element: n.Offset) -> tuple[str, str | None]:
        """The address of an array element (of element 0 when out of range), and an i1: in range."""
        f = self.f
        s = f.storage(signal)
        number, ok = self.offset(element)
        if ok is not None:
            number = f.op(f"select i1 {ok}, i64 {number}, i64 0")
        stride = s.bytes * s.planes
        at = f.op(f"mul i64 {number}, {stride}")
        return f.op(f"getelementptr i8, ptr {s.address}, i64 {at}"), ok

    # ---- values ----

    def _const(self, e: n.Const) -> Val:
        w = n.vec(e).width
        return Val(signed_text(e.val, w), signed_text(e.unk, w) if e.unk else None, w)

    def _ref(self, e: n.Ref) -> Val:
        f = self.f
        width = n.vec(e).width
        if e.element is None:
            s = f.storage(e.signal)
            return f.load_planes(s.address, width, s.bytes, s.planes)
        at, ok = self.element_address(e.signal, e.element)
        s = f.storage(e.signal)
        value = f.load_planes(at, width, s.bytes, s.planes)
        return self.unless_outside(value, ok)

    def unless_outside(self, value: Val, ok: str | None) -> Val:
        """The value where `ok` holds, else what an element that is not there reads as: x, or 0."""
        if ok is None:
            return value
        f, width = self.f, value.w
        if value.u is None:
            return Val(f.op(f"select i1 {ok}, i{width} {value.v}, i{width} 0"), None, width)
        v = f.op(f"select i1 {ok}, i{width} {value.v}, i{width} -1")
        u = f.op(f"select i1 {ok}, i{width} {value.u}, i{width} -1")
        return Val(v, u, width)

    def _bits(self, e: n.Bits) -> Val:
        found = self._selected(e)
        if found.u is None or n.vec(e).four:
            return found
        f = self.f  # of a two-state vector, what lies outside reads as 0 (IEEE 1800-2017 11.5.1)
        known = f.op(f"xor i{found.w} {found.u}, -1")
        return Val(f.op(f"and i{found.w} {found.v}, {known}"), None, found.w)

    def _selected(self, e: n.Bits) -> Val:
        f = self.f
        width = n.vec(e).width
        if isinstance(e.base, n.Ref) and n.vec(e.base).width > 128 and width <= _PIECE:
            piece = self._piece(e, e.base, width)
            if piece is not None:
                return piece
        base = self.value(e.base)
        if not e.offset.terms:
            at = e.offset.const
            if at >= 0 and at + width <= base.w:
                return self.slice(base, at, width)
            return self._slice_beyond(base, str(at), None, width)
        at_, ok = self.offset(e.offset)
        if width == 1 or all(t.low > -(1 << 61) for t in e.offset.terms):
            # every index is inside its own bounds, so the selection is inside the vector
            if ok is not None:
                at_ = f.op(f"select i1 {ok}, i64 {at_}, i64 0")
            if width == 1 and any(t.low <= -(1 << 61) for t in e.offset.terms):
                inside = f.op(f"icmp ult i64 {at_}, {base.w}")
                ok = inside if ok is None else f.op(f"and i1 {ok}, {inside}")
                at_ = f.op(f"select i1 {ok}, i64 {at_}, i64 0")
            amount = self._shift_amount(at_, base.w)
            v = f.op(f"lshr i{base.w} {base.v}, {amount}")
            v = f.op(f"trunc i{base.w} {v} to i{width}") if base.w != width else v
            u: str | None = None
            if base.u is not None:
                u = f.op(f"lshr i{base.w} {base.u}, {amount}")
                u = f.op(f"trunc i{base.w} {u} to i{width}") if base.w != width else u
            if ok is None:
                return Val(v, u, width)
            bad = f.op(f"xor i1 {ok}, true")
            mask = f.op(f"sext i1 {bad} to i{width}") if width > 1 else bad
            v = f.op(f"or i{width} {v}, {mask}")
            return Val(v, mask if u is None else f.op(f"or i{width} {u}, {mask}"), width)
        return self._slice_beyond(base, at_, ok, width)

    def _piece(self, e: n.Bits, of: n.Ref, width: int) -> Val | None:
        """Some bits of a wide signal, of which only the bytes around them are loaded; None if they may reach beyond it."""
        f = self.f
        full = n.vec(of).width
        inside: str | None = None
        s = f.storage(of.signal)
        last = s.bytes - 8  # the last place from which eight bytes can be loaded
        if e.offset.terms:
            if width > 1 and not all(t.low > -(1 << 61) for t in e.offset.terms):
                return None
            at, inside = self.offset(e.offset)
            if any(t.low <= -(1 << 61) for t in e.offset.terms):
                within = f.op(f"icmp ult i64 {at}, {full}")
                inside = within if inside is None else f.op(f"and i1 {inside}, {within}")
            if inside is not None:
                at = f.op(f"select i1 {inside}, i64 {at}, i64 0")
            start = f.op(f"lshr i64 {at}, 3")
            self.module.intrinsics.add("declare i64 @llvm.umin.i64(i64, i64)")
            byte = f.op(f"call i64 @llvm.umin.i64(i64 {start}, i64 {last})")
            bit = f.op(f"sub i64 {at}, {f.op(f'shl i64 {byte}, 3')}")
        elif 0 <= e.offset.const <= full - width:
            start_ = min(e.offset.const // 8, last)
            byte, bit = str(start_), str(e.offset.const - 8 * start_)
        else:
            return None
        address, ok = (s.address, None) if of.element is None else self.element_address(of.signal, of.element)

        def cut(start: str) -> str:
            x = f.op(f"load i64, ptr {f.op(f'getelementptr i8, ptr {start}, i64 {byte}')}, align 1")
            if bit != "0":
                x = f.op(f"lshr i64 {x}, {bit}")
            return x if width == 64 else f.op(f"trunc i64 {x} to i{width}")

        u = cut(f.op(f"getelementptr i8, ptr {address}, i64 {s.bytes}")) if s.planes > 1 else None
        found = Val(cut(address), u, width)
        if inside is not None:
            bad = f.op(f"xor i1 {inside}, true")
            mask = f.op(f"sext i1 {bad} to i{width}") if width > 1 else bad
            v = f.op(f"or i{width} {found.v}, {mask}")
            found = Val(v, mask if found.u is None else f.op(f"or i{width} {found.u}, {mask}"), width)
        return self.unless_outside(found, ok)

    def _shift_amount(self, at: str, width: int) -> str:
        if width == 64:
            return at
        if not at.startswith("%"):
            return at
        return self.f.op(f"{'trunc' if width < 64 else 'zext'} i64 {at} to i{width}")

    def slice(self, a: Val, at: int, width: int) -> Val:
        if at == 0 and width == a.w:
            return a
        f = self.f

        def cut(x: str) -> str:
            if not x.startswith("%"):
                return signed_text((int(x) & ((1 << a.w) - 1)) >> at, width)
            if at:
                x = f.op(f"lshr i{a.w} {x}, {at}")
            return f.op(f"trunc i{a.w} {x} to i{width}") if a.w != width else x

        return Val(cut(a.v), None if a.u is None else cut(a.u), width)

    def _slice_beyond(self, base: Val, at: str, ok: str | None, width: int) -> Val:
        """A selection that may reach beyond the vector, where everything is x: shift inside a frame of x."""
        f = self.f
        total = base.w + 2 * width
        x_ones = ((1 << width) - 1) | ((1 << width) - 1) << (base.w + width)

        def framed(plane: str) -> str:
            z = f.widen(plane, base.w, total) if plane.startswith("%") else str(int(plane) & ((1 << base.w) - 1))
            z = f.op(f"shl i{total} {z}, {width}")
            return f.op(f"or i{total} {z}, {signed_text(x_ones, total)}")

        shifted = f.op(f"add i64 {at}, {width}")
        inside = f.op(f"icmp ult i64 {shifted}, {base.w + width}")
        if ok is not None:
            inside = f.op(f"and i1 {inside}, {ok}")
        shifted = f.op(f"select i1 {inside}, i64 {shifted}, i64 0")
        amount = shifted
        if total > 64:
            amount = f.op(f"zext i64 {shifted} to i{total}")
        elif total < 64:
            amount = f.op(f"trunc i64 {shifted} to i{total}")
        planes = []
        for plane in (base.v, base.u or "0"):
            p = f.op(f"lshr i{total} {framed(plane)}, {amount}")
            p = f.op(f"trunc i{total} {p} to i{width}")
            planes.append(f.op(f"select i1 {inside}, i{width} {p}, i{width} -1"))
        return Val(planes[0], planes[1], width)
