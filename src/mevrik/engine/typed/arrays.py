"""Operators that give arrays: logic, shifts, concatenation; conversions of arrays (IEEE 1076-2008 9.2, 9.3.6)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.typed.attributes import Attributes
from mevrik.engine.typed.function import Operand, Place, Range, is_composite, is_real, real

LOGIC = ("and", "or", "nand", "nor", "xor", "xnor")
SHIFTS = {"sll": 0, "srl": 1, "sra": 2, "rol": 3, "ror": 4, "sla": 5}


class Arrays(Attributes):
    # ---- arrays ----

    def _array_logic(self, e: t.Op) -> Place:
        f = self.f
        a, b = e.args
        code = LOGIC.index(e.op)
        code = ("and", "or", "nand", "nor", "xor", "xnor").index(e.op)
        vec = f.alloca("[4 x i64]")
        f.allocated = True
        if is_composite(a.type) and is_composite(b.type):
            x, y = self.composite(a), self.composite(b)
            r, s = self.bounds_of(x)[0], self.bounds_of(y)[0]
            self.same_length(f.length(r), f.length(s))
            f.emit(
                f"call void @x_logic(ptr {vec}, ptr {x.ptr}, i64 {r.left}, i64 {r.right}, i64 {r.down}, "
                f"ptr {y.ptr}, i64 {s.left}, i64 {s.right}, i64 {s.down}, i64 {code}, i64 0)"
            )
        else:
            array, one = (a, b) if is_composite(a.type) else (b, a)
            x = self.composite(array)
            r = self.bounds_of(x)[0]
            f.emit(
                f"call void @x_logic_with(ptr {vec}, ptr {x.ptr}, i64 {r.left}, i64 {r.right}, i64 {r.down}, i64 {self.scalar(one)}, i64 {code}, i64 0)"
            )
        return Place(f.op(f"load ptr, ptr {vec}"), self.plain(e.type), [r])

    def _shift(self, e: t.Op) -> Place:
        f = self.f
        base = self.composite(e.args[0])
        r = self.bounds_of(base)[0]
        vec = f.alloca("[4 x i64]")
        f.allocated = True
        f.emit(
            f"call void @v_shift(ptr {vec}, ptr {base.ptr}, i64 {r.left}, i64 {r.right}, i64 {r.down}, "
            f"i64 {self.scalar(e.args[1])}, i64 {SHIFTS[e.op]})"
        )
        return Place(f.op(f"load ptr, ptr {vec}"), self.plain(e.type), [r])

    def _pieces(self, e: t.Expr, kind: t.BaseType) -> list[t.Expr]:
        """The operands of a chain of concatenations."""
        if isinstance(e, t.Op) and e.op == "&" and e.type.type is kind:
            return [x for a in e.args for x in self._pieces(a, kind)]
        return [e]

    def _concat(self, e: t.Op) -> Place:
        """9.2.5."""
        f = self.f
        kind = e.type.type
        assert isinstance(kind, t.ArrayType)
        pieces: list[tuple[Place | str, t.Expr, bool]] = []
        total: Operand = 0
        for x in self._pieces(e, kind):
            whole = x.type.type is kind
            if whole:
                p = self.composite(x)
                total = f.add(total, f.length(self.bounds_of(p)[0]))
                pieces.append((p, x, True))
            else:
                v = self.value(x)
                total = f.add(total, 1)
                pieces.append((v, x, False))
        elem = e.type.elem
        if not elem.static:
            elem = next((p.subtype.elem if w else self.whole_shape(p) for p, _, w in pieces if isinstance(p, Place)), elem)
        size = self.bytes_of(elem)
        for piece, _, whole in pieces:
            if whole and isinstance(piece, Place) and not elem.scalar:
                self.same_inside(t.Subtype(kind, "", None, None, piece.subtype.elem), t.Subtype(kind, "", None, None, elem))
        out = f.arena(f.mul(total, size))
        at: Operand = 0
        for piece, x, whole in pieces:
            if whole:
                assert isinstance(piece, Place)
                n = f.mul(f.length(self.bounds_of(piece)[0]), size)
                f.copy(f.gep(out, at), piece.ptr, n)
                at = f.add(at, n)
            else:
                if isinstance(piece, Place):
                    if piece.bounds is not None:
                        for have, need in zip(piece.bounds, self.ranges(elem) or [], strict=True):
                            self.same_length(f.length(have), f.length(need))
                    f.copy(f.gep(out, at), piece.ptr, size)
                else:
                    f.store(self.check(piece, x, elem), f.gep(out, at), elem)
                at = f.add(at, size)
        result = self._concat_bounds(e, pieces, total)
        return Place(out, t.Subtype(kind, e.type.name, None, None, elem if kind.element is not elem else None), [result])

    def _concat_bounds(self, e: t.Op, pieces: list[tuple[Place | str, t.Expr, bool]], total: Operand) -> Range:
        f = self.f
        if e.type.bounds is not None and e.type.bounds[0].static:
            return self.range(e.type.bounds[0])
        kind = e.type.type
        assert isinstance(kind, t.ArrayType)
        index = kind.indexes[0]
        left: Operand = 0
        down: Operand = 0
        if index.range is not None:
            r = self.range(index.range)
            left, down = r.left, r.down
        elif isinstance(index.type, t.Integer):
            left = index.type.low
        falling = f.add(f.sub_(left, total), 1)
        rising = f.sub_(f.add(left, total), 1)
        result = Range(left, f.select(down, falling, rising), down)
        last, _, whole = pieces[-1]
        if not whole or (isinstance(total, int) and total > 0):
            return result
        # two empty arrays give the right one
        assert isinstance(last, Place)
        s = self.bounds_of(last)[0]
        none = f.op(f"icmp eq i64 {total}, 0")
        picks = [
            f.op(f"select i1 {none}, i64 {y}, i64 {x}")
            for x, y in ((result.left, s.left), (result.right, s.right), (result.down, s.down))
        ]
        return Range(*picks)

    def _convert(self, e: t.Convert) -> Place | str:
        f = self.f
        if is_composite(e.type):
            return self.converted(self.composite(e.a), e.type)
        value = self.scalar(e.a)
        if is_real(e.type) and not is_real(e.a.type):
            value = real(float(value)) if not value.startswith("%") else f.op(f"sitofp i64 {value} to double")
        elif not is_real(e.type) and is_real(e.a.type):
            value = f.op(f"fptosi double {f.op(f'call double @llvm.round.f64(double {value})')} to i64")
            return self.check(self._in_type(value, e.type), None, e.type)
        return self.check(value, None if e.a.type.type is not e.type.type else e.a, e.type)
