"""Expressions as IR: every operator on two planes (IEEE 1364-2005 clause 5)."""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.evaluate import MATH
from mevrik.design.types import Real, Text, Vec
from mevrik.design.unit import Signal
from mevrik.engine.lower.function import Function, Val
from mevrik.engine.lower.lists import ListLowerer

if TYPE_CHECKING:
    from mevrik.engine.lower.module import ModuleLowerer

_COMPARE = {"<": "lt", "<=": "le", ">": "gt", ">=": "ge"}
_REAL_COMPARE = {"<": "olt", "<=": "ole", ">": "ogt", ">=": "oge", "==": "oeq", "!=": "une", "===": "oeq", "!==": "une"}
_REAL_OPS = {"+": "fadd", "-": "fsub", "*": "fmul", "/": "fdiv"}
_MATH_NUMBERS = {name: number for number, name in enumerate(MATH)}


def ones(width: int) -> str:
    return "-1" if width else "0"


# string operations of the kernel: the type of the result and of the arguments
TEXT_CALLS: dict[str, tuple[str, tuple[str, ...]]] = {
    "join": ("i64", ("i64", "i64")),
    "repeat": ("i64", ("i64", "i32")),
    "compare": ("i64", ("i64", "i64", "i32")),
    "size": ("i32", ("i64",)),
    "get": ("i32", ("i64", "i64")),
    "put": ("i64", ("i64", "i64", "i32")),
    "part": ("i64", ("i64", "i64", "i64")),
    "case": ("i64", ("i64", "i32")),
    "number": ("i64", ("i64", "i32")),
    "of_number": ("i64", ("i64", "i32")),
}


class ExpressionLowerer(ListLowerer):
    """Lowers expressions into `f`. Names and literals of LLVM values are strings."""

    def __init__(self, module: ModuleLowerer, f: Function) -> None:
        self.module = module
        self.f = f

    def value(self, e: n.Expr) -> Val:
        if isinstance(e.type, Real):
            raise AssertionError("a real value where a vector is needed")
        method = getattr(self, "_" + type(e).__name__.lower())
        result: Val = method(e)
        return result

    def real(self, e: n.Expr) -> str:
        """A double."""
        f = self.f
        match e:
            case n.RealConst(value=value):
                return "0x" + struct.pack(">d", value).hex().upper()
            case n.ToReal(a=a):
                x = self.value(a)
                pv, pu = f.spill(x)
                signed = int(n.vec(a).signed)
                return f.op(f"call double @k_to_real(ptr {pv}, ptr {pu}, i32 {x.w}, i32 {signed})")
            case n.Ref(signal=signal, element=element):
                return self._load_real(signal, element)
            case n.FieldValue(object=obj, word=word, site=site):
                return f.op(f"load double, ptr {self.field_address(obj, word, site)}")
            case n.Unary(op=op, a=a):
                x_ = self.real(a)
                return f.op(f"fneg double {x_}") if op == "-" else x_
            case n.Binary(op=op, a=a, b=b):
                x1, x2 = self.real(a), self.real(b)
                if op == "**":
                    return f.op(f"call double @k_real_power(double {x1}, double {x2})")
                return f.op(f"{_REAL_OPS[op]} double {x1}, {x2}")
            case n.Choice(cond=cond, a=a, b=b):
                t, unsure = self.truth(cond)
                x1, x2 = self.real(a), self.real(b)
                chosen = f.op(f"select i1 {t}, double {x1}, double {x2}")
                return f.op(f"select i1 {unsure}, double 0.0, double {chosen}") if unsure else chosen
            case n.Call():
                return self.call(e)[0]
            case n.SysCall(name=name, args=args):
                return self._real_system(e, name, args)
        raise AssertionError(f"no real value: {type(e).__name__}")

    def _load_real(self, signal: Signal, element: n.Offset | None) -> str:
        f = self.f
        if element is None:
            return f.op(f"load double, ptr {f.storage(signal).address}")
        at, ok = self.element_address(signal, element)
        x = f.op(f"load double, ptr {at}")
        return f.op(f"select i1 {ok}, double {x}, double 0.0") if ok else x

    def _real_system(self, e: n.SysCall, name: str, args: tuple[n.Expr | n.LRef, ...]) -> str:
        f = self.f
        if name == "$realtime":
            factor = 10.0 ** (e.note - self.module.design.tick_exp)
            return f.op(f"call double @k_realtime(double {_double(factor)})")
        if name == "$bitstoreal":
            assert isinstance(args[0], n.Expr)
            x = self.known(self.resized(self.value(args[0]), 64, False))
            return f.op(f"bitcast i64 {x.v} to double")
        reals = [self.real(a) for a in args if isinstance(a, n.Expr)]
        reals += ["0.0"] * (2 - len(reals))
        return f.op(f"call double @k_math(i32 {_MATH_NUMBERS[name]}, double {reals[0]}, double {reals[1]})")

    # ---- small helpers ----

    def index64(self, e: n.Expr) -> str:
        a = self.value(e)
        bad = self.any_unknown(a)
        wide = self.resized(Val(a.v, None, a.w), 64, n.vec(e).signed).v
        return self.f.op(f"select i1 {bad}, i64 -1, i64 {wide}") if bad else wide

    def known(self, a: Val) -> Val:
        """Unknown bits as 0."""
        if a.u is None:
            return a
        keep = self.f.op(f"xor i{a.w} {a.u}, -1")
        return Val(self.f.op(f"and i{a.w} {a.v}, {keep}"), None, a.w)

    def any_unknown(self, *values: Val) -> str | None:
        """An i1 that holds when any bit is unknown."""
        planes = [x.u for x in values if x.u is not None]
        if not planes:
            return None
        f = self.f
        result = None
        for x in values:
            if x.u is not None:
                bit = f.op(f"icmp ne i{x.w} {x.u}, 0")
                result = bit if result is None else f.op(f"or i1 {result}, {bit}")
        return result

    def or_unknown(self, r: str, width: int, bad: str | None) -> Val:
        """`r`, or all x where `bad` holds."""
        if bad is None:
            return Val(r, None, width)
        f = self.f
        mask = f.op(f"sext i1 {bad} to i{width}") if width > 1 else bad
        return Val(f.op(f"or i{width} {r}, {mask}"), mask, width)

    def truth(self, e: n.Expr) -> tuple[str, str | None]:
        """(known true, unknown) as i1."""
        f = self.f
        if isinstance(e.type, Real):
            return f.op(f"fcmp une double {self.real(e)}, 0.0"), None
        return self.truth_of(self.value(e))

    def truth_of(self, a: Val) -> tuple[str, str | None]:
        f = self.f
        if a.u is None:
            return (a.v if a.w == 1 else f.op(f"icmp ne i{a.w} {a.v}, 0")), None
        known = self.known(a)
        t = known.v if a.w == 1 else f.op(f"icmp ne i{a.w} {known.v}, 0")
        some = a.u if a.w == 1 else f.op(f"icmp ne i{a.w} {a.u}, 0")
        not_t = f.op(f"xor i1 {t}, true")
        return t, f.op(f"and i1 {some}, {not_t}")

    def holds(self, e: n.Expr) -> str:
        return self.truth(e)[0]

    def from_truth(self, t: str, x: str | None) -> Val:
        if x is None:
            return Val(t, None, 1)
        return Val(self.f.op(f"or i1 {t}, {x}"), x, 1)

    def resized(self, a: Val, width: int, signed: bool) -> Val:
        if a.w == width:
            return a
        f = self.f
        if a.w == 0:
            return Val("0", None, width)
        how = "trunc" if width < a.w else "sext" if signed else "zext"

        def convert(x: str) -> str:
            if not x.startswith("%"):
                return _literal(int(x), a.w, width, signed)
            return f.op(f"{how} i{a.w} {x} to i{width}")

        return Val(convert(a.v), None if a.u is None else convert(a.u), width)

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

    # ---- operands ----

    def _const(self, e: n.Const) -> Val:
        w = n.vec(e).width
        return Val(_signed_text(e.val, w), _signed_text(e.unk, w) if e.unk else None, w)

    def _ref(self, e: n.Ref) -> Val:
        f = self.f
        width = n.vec(e).width
        if e.element is None:
            s = f.storage(e.signal)
            return f.load_planes(s.address, width, s.bytes, s.planes)
        at, ok = self.element_address(e.signal, e.element)
        s = f.storage(e.signal)
        value = f.load_planes(at, width, s.bytes, s.planes)
        if ok is None:
            return value
        if s.planes < 2:
            return Val(f.op(f"select i1 {ok}, i{width} {value.v}, i{width} 0"), None, width)
        v = f.op(f"select i1 {ok}, i{width} {value.v}, i{width} -1")
        u = f.op(f"select i1 {ok}, i{width} {value.u}, i{width} -1")
        return Val(v, u, width)

    def _bits(self, e: n.Bits) -> Val:
        f = self.f
        base = self.value(e.base)
        width = n.vec(e).width
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
                return _signed_text((int(x) & ((1 << a.w) - 1)) >> at, width)
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
            return f.op(f"or i{total} {z}, {_signed_text(x_ones, total)}")

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

    # ---- operators ----

    def _unary(self, e: n.Unary) -> Val:
        f = self.f
        op = e.op
        if op == "!":
            t, x = self.truth(e.a)
            if x is None:
                return Val(f.op(f"xor i1 {t}, true"), None, 1)
            return Val(f.op(f"xor i1 {t}, true"), x, 1)  # unknown: t is 0, so the value bit is 1
        a = self.value(e.a)
        w = a.w
        if op == "~":
            v = f.op(f"xor i{w} {a.v}, -1")
            return Val(v, None, w) if a.u is None else Val(f.op(f"or i{w} {v}, {a.u}"), a.u, w)
        if op in ("+", "-"):
            r = f.op(f"sub i{w} 0, {a.v}") if op == "-" else f.op(f"add i{w} 0, {a.v}")
            return self.or_unknown(r, w, self.any_unknown(a))
        return self._reduction(op, a)

    def _reduction(self, op: str, a: Val) -> Val:
        f = self.f
        w = a.w
        base = "^" if op in ("^", "~^", "^~") else op[-1]
        if base == "&":
            high = a.v if a.u is None else f.op(f"or i{w} {a.v}, {a.u}")
            t = f.op(f"icmp eq i{w} {high}, -1")  # no known 0
            if a.u is None:
                result = Val(t, None, 1)
            else:
                some = f.op(f"icmp ne i{w} {a.u}, 0")
                result = Val(t, f.op(f"and i1 {some}, {t}"), 1)
        elif base == "|":
            t, x = self.truth_of(a)
            result = self.from_truth(t, x)
        else:
            parity = self._parity(a.v, w)
            result = self.or_unknown(parity, 1, self.any_unknown(a))
        if len(op) == 2:
            v = f.op(f"xor i1 {result.v}, true")
            return Val(v if result.u is None else f.op(f"or i1 {v}, {result.u}"), result.u, 1)
        return result

    def _parity(self, v: str, w: int) -> str:
        f = self.f
        if w == 1:
            return v
        self.module.intrinsics.add(f"declare i{w} @llvm.ctpop.i{w}(i{w})")
        count = f.op(f"call i{w} @llvm.ctpop.i{w}(i{w} {v})")
        return f.op(f"trunc i{w} {count} to i1")

    def _binary(self, e: n.Binary) -> Val:
        f = self.f
        op = e.op
        if op in ("&&", "||"):
            return self._logical(op, e.a, e.b)
        if isinstance(e.a.type, Real):
            x, y = self.real(e.a), self.real(e.b)
            return Val(f.op(f"fcmp {_REAL_COMPARE[op]} double {x}, {y}"), None, 1)
        a, b = self.value(e.a), self.value(e.b)
        signed = n.vec(e.a).signed and n.vec(e.b).signed
        w = a.w
        if op in ("&", "|", "^", "^~", "~^"):
            return self._bitwise(op, a, b)
        if op in ("==", "!=", "===", "!==", "==?", "!=?"):
            return self._equality(op, a, b)
        if op in _COMPARE:
            r = f.op(f"icmp {'s' if signed else 'u'}{_COMPARE[op]} i{w} {a.v}, {b.v}")
            bad = self.any_unknown(a, b)
            return self.or_unknown(r, 1, bad)
        if op in ("<<", "<<<", ">>", ">>>"):
            return self._shift(op, a, b, n.vec(e).signed)
        bad = self.any_unknown(a, b)
        if op in ("+", "-"):
            r = f.op(f"{'add' if op == '+' else 'sub'} i{w} {a.v}, {b.v}")
            return self.or_unknown(r, w, bad)
        if op == "*":
            return self.or_unknown(self._multiply(a, b), w, bad)
        if op in ("/", "%"):
            return self._divide(op, a, b, signed, bad)
        if op == "**":
            return self._power(a, b, n.vec(e.a).signed, n.vec(e.b).signed, bad)
        raise AssertionError(op)

    def _logical(self, op: str, left: n.Expr, right: n.Expr) -> Val:
        f = self.f
        if any(isinstance(x, n.Call) for x in walk.expressions(right)):
            return self._short_circuit(op, left, right)
        t1, x1 = self.truth(left)
        t2, x2 = self.truth(right)
        return self._combine(op, t1, x1, t2, x2, f)

    def _combine(self, op: str, t1: str, x1: str | None, t2: str, x2: str | None, f: Function) -> Val:
        if op == "||":
            t = f.op(f"or i1 {t1}, {t2}")
            if x1 is None and x2 is None:
                return Val(t, None, 1)
            some = f.op(f"or i1 {x1 or 'false'}, {x2 or 'false'}")
            not_t = f.op(f"xor i1 {t}, true")
            return self.from_truth(t, f.op(f"and i1 {some}, {not_t}"))
        t = f.op(f"and i1 {t1}, {t2}")
        if x1 is None and x2 is None:
            return Val(t, None, 1)
        # unknown unless one side is a known 0
        m1 = f.op(f"or i1 {t1}, {x1}") if x1 else t1
        m2 = f.op(f"or i1 {t2}, {x2}") if x2 else t2
        may = f.op(f"and i1 {m1}, {m2}")
        not_t = f.op(f"xor i1 {t}, true")
        return self.from_truth(t, f.op(f"and i1 {may}, {not_t}"))

    def _short_circuit(self, op: str, left: n.Expr, right: n.Expr) -> Val:
        """The right side is only evaluated when it matters (IEEE 1800-2017 11.3.5)."""
        f = self.f
        at = f.alloca(2)
        t1, x1 = self.truth(left)
        settled = t1
        if op == "&&":
            may = f.op(f"or i1 {t1}, {x1}") if x1 else t1
            settled = f.op(f"xor i1 {may}, true")
        self._store_bit_pair(at, Val("1" if op == "||" else "0", "0", 1))
        more, done = f.label("more"), f.label("done")
        f.branch(settled, done, more)
        f.start(more)
        t2, x2 = self.truth(right)
        self._store_bit_pair(at, self._combine(op, t1, x1, t2, x2, f))
        f.jump(done)
        f.start(done)
        return f.load_planes(at, 1, 1, 2)

    def _store_bit_pair(self, at: str, value: Val) -> None:
        self.f.store_planes(at, value, 1, 2)

    def _bitwise(self, op: str, a: Val, b: Val) -> Val:
        f = self.f
        w = a.w
        if a.u is None and b.u is None:
            word = {"&": "and", "|": "or"}.get(op, "xor")
            r = f.op(f"{word} i{w} {a.v}, {b.v}")
            if op in ("^~", "~^"):
                r = f.op(f"xor i{w} {r}, -1")
            return Val(r, None, w)
        u = a.u if b.u is None else b.u if a.u is None else f.op(f"or i{w} {a.u}, {b.u}")
        assert u is not None
        if op == "&":
            av = a.v if a.u is None else f.op(f"or i{w} {a.v}, {a.u}")
            bv = b.v if b.u is None else f.op(f"or i{w} {b.v}, {b.u}")
            v = f.op(f"and i{w} {av}, {bv}")
            return Val(v, f.op(f"and i{w} {u}, {v}"), w)
        if op == "|":
            known = f.op(f"or i{w} {self.known(a).v}, {self.known(b).v}")
            not_one = f.op(f"xor i{w} {known}, -1")
            unk = f.op(f"and i{w} {u}, {not_one}")
            return Val(f.op(f"or i{w} {known}, {unk}"), unk, w)
        r = f.op(f"xor i{w} {a.v}, {b.v}")
        if op != "^":
            r = f.op(f"xor i{w} {r}, -1")
        return Val(f.op(f"or i{w} {r}, {u}"), u, w)

    def _equality(self, op: str, a: Val, b: Val) -> Val:
        f = self.f
        w = a.w
        if op in ("===", "!=="):
            d = f.op(f"xor i{w} {a.v}, {b.v}")
            if a.u is not None or b.u is not None:
                du = f.op(f"xor i{w} {a.u or '0'}, {b.u or '0'}")
                d = f.op(f"or i{w} {d}, {du}")
            return Val(f.op(f"icmp {'eq' if op == '===' else 'ne'} i{w} {d}, 0"), None, 1)
        if a.u is None and b.u is None:
            return Val(f.op(f"icmp {'eq' if op in ('==', '==?') else 'ne'} i{w} {a.v}, {b.v}"), None, 1)
        d = f.op(f"xor i{w} {a.v}, {b.v}")
        wild = op in ("==?", "!=?")
        u = a.u if b.u is None else b.u if a.u is None else f.op(f"or i{w} {a.u}, {b.u}")
        keep = f.op(f"xor i{w} {u}, -1")
        d = f.op(f"and i{w} {d}, {keep}")
        differ = f.op(f"icmp ne i{w} {d}, 0")
        if wild:
            if a.u is None:
                return Val(f.op(f"xor i1 {differ}, true") if op == "==?" else differ, None, 1)
            left = a.u
            if b.u is not None:
                care = f.op(f"xor i{w} {b.u}, -1")
                left = f.op(f"and i{w} {a.u}, {care}")
            some = f.op(f"icmp ne i{w} {left}, 0")
        else:
            some = f.op(f"icmp ne i{w} {u}, 0")
        same = f.op(f"xor i1 {differ}, true")
        unknown = f.op(f"and i1 {some}, {same}")
        if op in ("==", "==?"):
            return Val(same, unknown, 1)
        return Val(f.op(f"or i1 {differ}, {unknown}"), unknown, 1)

    def _shift(self, op: str, a: Val, b: Val, signed: bool) -> Val:
        f = self.f
        w = a.w
        bad = self.any_unknown(b)
        arithmetic = op == ">>>" and signed
        if b.v.isdigit() and b.u is None:
            count = int(b.v)
            return self._shift_const(op, a, count, arithmetic)
        wide = max(w, b.w)
        amount = self.resized(Val(b.v, None, b.w), wide, False).v
        top = w - 1 if arithmetic else 0
        over = f.op(f"icmp uge i{wide} {amount}, {w}") if wide > 1 or w <= 1 else "false"
        amount = f.op(f"select i1 {over}, i{wide} {top}, i{wide} {amount}")
        if wide != w:
            amount = f.op(f"trunc i{wide} {amount} to i{w}")
        word = "shl" if op in ("<<", "<<<") else "ashr" if arithmetic else "lshr"

        def move(x: str) -> str:
            r = f.op(f"{word} i{w} {x}, {amount}")
            return r if arithmetic else f.op(f"select i1 {over}, i{w} 0, i{w} {r}")

        v = move(a.v)
        u = None if a.u is None else move(a.u)
        if bad is None:
            return Val(v, u, w)
        mask = f.op(f"sext i1 {bad} to i{w}") if w > 1 else bad
        return Val(f.op(f"or i{w} {v}, {mask}"), mask if u is None else f.op(f"or i{w} {u}, {mask}"), w)

    def _shift_const(self, op: str, a: Val, count: int, arithmetic: bool) -> Val:
        f = self.f
        w = a.w
        if count >= w:
            if not arithmetic:
                return Val("0", None, w)
            count = w - 1
        word = "shl" if op in ("<<", "<<<") else "ashr" if arithmetic else "lshr"
        if count == 0:
            return a
        v = f.op(f"{word} i{w} {a.v}, {count}")
        return Val(v, None if a.u is None else f.op(f"{word} i{w} {a.u}, {count}"), w)

    def _multiply(self, a: Val, b: Val) -> str:
        f = self.f
        if a.w <= 128:
            return f.op(f"mul i{a.w} {a.v}, {b.v}")
        return self._wide_call("k_multiply", a, b, "")

    def _wide_call(self, name: str, a: Val, b: Val, more: str, signed: bool = False) -> str:
        """Call the kernel on whole words; operands are extended to them."""
        f = self.f
        words = (a.w + 63) // 64
        full = 64 * words
        x = self.resized(Val(a.v, None, a.w), full, signed)
        y = self.resized(Val(b.v, None, b.w), full, signed)
        px, py, po = f.alloca(8 * words), f.alloca(8 * words), f.alloca(8 * words)
        f.emit(f"store i{full} {x.v}, ptr {px}")
        f.emit(f"store i{full} {y.v}, ptr {py}")
        f.emit(f"call void @{name}(ptr {po}, ptr {px}, ptr {py}, i32 {words}{more})")
        r = f.op(f"load i{full}, ptr {po}")
        return f.op(f"trunc i{full} {r} to i{a.w}") if full != a.w else r

    def _divide(self, op: str, a: Val, b: Val, signed: bool, bad: str | None) -> Val:
        f = self.f
        w = a.w
        zero = f.op(f"icmp eq i{w} {b.v}, 0")
        bad = zero if bad is None else f.op(f"or i1 {bad}, {zero}")
        divisor = f.op(f"select i1 {bad}, i{w} 1, i{w} {b.v}")
        rest = op == "%"
        if w > 64:
            r = self._wide_call(
                "k_divide", Val(a.v, None, w), Val(divisor, None, w), f", i32 {int(signed)}, i32 {int(rest)}", signed
            )
        elif signed and w > 1:
            # the most negative number by -1 overflows: it is done as a negation
            minus = f.op(f"icmp eq i{w} {divisor}, -1")
            safe = f.op(f"select i1 {minus}, i{w} 1, i{w} {divisor}")
            r = f.op(f"{'srem' if rest else 'sdiv'} i{w} {a.v}, {safe}")
            if not rest:
                negated = f.op(f"sub i{w} 0, {a.v}")
                r = f.op(f"select i1 {minus}, i{w} {negated}, i{w} {r}")
        else:
            r = f.op(f"{'urem' if rest else 'udiv'} i{w} {a.v}, {divisor}")
        return self.or_unknown(r, w, bad)

    def _power(self, a: Val, b: Val, a_signed: bool, b_signed: bool, bad: str | None) -> Val:
        f = self.f
        wa, wb = (a.w + 63) // 64, (b.w + 63) // 64
        x = self.resized(Val(a.v, None, a.w), 64 * wa, a_signed)
        y = self.resized(Val(b.v, None, b.w), 64 * wb, b_signed)
        px, py, po = f.alloca(8 * wa), f.alloca(8 * wb), f.alloca(8 * wa)
        f.emit(f"store i{64 * wa} {x.v}, ptr {px}")
        f.emit(f"store i{64 * wb} {y.v}, ptr {py}")
        f.emit(f"store i{64 * wa} 0, ptr {po}")
        is_x = f.op(
            f"call i32 @k_power(ptr {po}, ptr {px}, i32 {wa}, ptr {py}, i32 {wb}, i32 {int(a_signed)}, i32 {int(b_signed)})"
        )
        wrong = f.op(f"icmp ne i32 {is_x}, 0")
        bad = wrong if bad is None else f.op(f"or i1 {bad}, {wrong}")
        r = f.op(f"load i{64 * wa}, ptr {po}")
        if 64 * wa != a.w:
            r = f.op(f"trunc i{64 * wa} {r} to i{a.w}")
        return self.or_unknown(r, a.w, bad)

    def _choice(self, e: n.Choice) -> Val:
        f = self.f
        w = n.vec(e).width
        if any(isinstance(x, n.Call) for side in (e.a, e.b) for x in walk.expressions(side)):
            return self._choice_by_branch(e, w)
        t, x = self.truth(e.cond)
        return self._pick(t, x, self.value(e.a), self.value(e.b), w, f)

    def _pick(self, t: str, x: str | None, a: Val, b: Val, w: int, f: Function) -> Val:
        v = f.op(f"select i1 {t}, i{w} {a.v}, i{w} {b.v}")
        u: str | None = None
        if a.u is not None or b.u is not None:
            u = f.op(f"select i1 {t}, i{w} {a.u or '0'}, i{w} {b.u or '0'}")
        if x is None:
            return Val(v, u, w)
        merged = f.op(f"xor i{w} {a.v}, {b.v}")
        for plane in (a.u, b.u):
            if plane is not None:
                merged = f.op(f"or i{w} {merged}, {plane}")
        both = f.op(f"or i{w} {a.v}, {merged}")
        v = f.op(f"select i1 {x}, i{w} {both}, i{w} {v}")
        return Val(v, f.op(f"select i1 {x}, i{w} {merged}, i{w} {u or '0'}"), w)

    def _choice_by_branch(self, e: n.Choice, w: int) -> Val:
        """Only the chosen side is evaluated, both when the condition is unknown: the sides call functions."""
        f = self.f
        size = max((w + 63) // 64, 1) * 8
        at_a, at_b = f.alloca(2 * size), f.alloca(2 * size)
        zero = Val("0", "0", w)
        f.store_planes(at_a, zero, size, 2)
        f.store_planes(at_b, zero, size, 2)
        t, x = self.truth(e.cond)
        do_a = f.op(f"or i1 {t}, {x}") if x else t
        first, second, other, done = f.label("yes"), f.label("then"), f.label("no"), f.label("done")
        f.branch(do_a, first, second)
        f.start(first)
        f.store_planes(at_a, self.value(e.a), size, 2)
        f.jump(second)
        f.start(second)
        f.branch(t, done, other)
        f.start(other)
        f.store_planes(at_b, self.value(e.b), size, 2)
        f.jump(done)
        f.start(done)
        return self._pick(t, x, f.load_planes(at_a, w, size, 2), f.load_planes(at_b, w, size, 2), w, f)

    def _concat(self, e: n.Concat) -> Val:
        return self.concat([self.value(p) for p in e.parts if n.vec(p).width])

    def concat(self, parts: list[Val]) -> Val:
        f = self.f
        if not parts:
            return Val("0", None, 0)
        if len(parts) == 1:
            return parts[0]
        total = sum(p.w for p in parts)

        def join(planes: list[tuple[str, int]]) -> str:
            result, low, constant = "", total, 0
            for name, width in planes:
                low -= width
                if not name.startswith("%"):
                    constant |= (int(name) & ((1 << width) - 1)) << low
                    continue
                x = f.widen(name, width, total)
                if low:
                    x = f.op(f"shl i{total} {x}, {low}")
                result = x if not result else f.op(f"or i{total} {result}, {x}")
            if constant:
                text = _signed_text(constant, total)
                return f.op(f"or i{total} {result}, {text}") if result else text
            return result or "0"

        v = join([(p.v, p.w) for p in parts])
        u = join([(p.u or "0", p.w) for p in parts]) if any(p.u is not None for p in parts) else None
        return Val(v, u, total)

    def _repeat(self, e: n.Repeat) -> Val:
        a = self.value(e.a)
        if e.count == 0 or a.w == 0:
            return Val("0", None, 0)
        if a.w == 1 and e.count > 1:
            f = self.f
            w = e.count
            v = f.op(f"sext i1 {a.v} to i{w}") if a.v.startswith("%") else ("-1" if a.v not in ("0", "false") else "0")
            u = None if a.u is None else (f.op(f"sext i1 {a.u} to i{w}") if a.u.startswith("%") else ("-1" if a.u != "0" else "0"))
            return Val(v, u, w)
        return self.concat([a] * e.count)

    def _resize(self, e: n.Resize) -> Val:
        t = n.vec(e)
        a = self.resized(self.value(e.a), t.width, t.signed)
        return a if t.four else self.known(a)

    def _tovec(self, e: n.ToVec) -> Val:
        f = self.f
        w = n.vec(e).width
        words = (w + 63) // 64
        at = f.alloca(8 * words)
        f.emit(f"call void @k_from_real(ptr {at}, double {self.real(e.a)}, i32 {words})")
        return f.load_planes(at, w, 8 * words, 1)

    # ---- calls ----

    def _call(self, e: n.Call) -> Val:
        v, u = self.call(e)
        return Val(v, u, n.vec(e).width)

    def _textconst(self, e: n.TextConst) -> Val:
        if not e.value:
            return Val("0", None, 64)
        return Val(self.f.op(f"call i64 @k_text(ptr {self.module.data(e.value)}, i32 {len(e.value)})"), None, 64)

    def _text_call(self, e: n.SysCall, args: list[n.Expr]) -> Val:
        """The string operations: "$text_NAME" calls k_text_NAME with what text_calls.py says of its arguments."""
        f = self.f
        name = e.name.removeprefix("$text_")
        w = n.vec(e).width
        if name == "from":
            value = self.value(args[0])
            pv, pu = f.spill(value)
            return Val(f.op(f"call i64 @k_text_from(ptr {pv}, ptr {pu}, i32 {value.w})"), None, 64)
        if name == "into":
            words = max((w + 63) // 64, 1)
            at = f.alloca(8 * words)
            f.emit(f"call void @k_text_into(i64 {self.value(args[0]).v}, ptr {at}, i32 {w})")
            return f.load_planes(at, w, 8 * words, 1)
        if name == "format":
            array = self.arg_array(list(args), first_is_format=True)
            inst, scope = self.module.instance_number(f), self.module.text(e.scope)
            return Val(
                f.op(f"call i64 @k_text_format(i32 {inst}, ptr {scope}, i32 {e.note}, ptr {array}, i32 {len(args)})"), None, 64
            )
        result, kinds = TEXT_CALLS[name]
        given: list[str] = []
        for kind, arg in zip(kinds, args):
            value = self.known(self.value(arg))
            width = int(kind.removeprefix("i"))
            given.append(f"{kind} {self.resized(value, width, n.vec(arg).signed).v}")
        out = f.op(f"call {result} @k_text_{name}({', '.join(given)})")
        return self.resized(Val(out, None, int(result.removeprefix("i"))), w, True)

    def _lookup(self, e: n.Lookup) -> Val:
        f = self.f
        width = n.vec(e.now).width
        planes: list[str] = []
        for part in (e.now, e.before):
            value = self.value(part) if part is not None else Val("0", "0", width)
            planes += [f.widen(value.v, width, 64), f.widen(value.u or "0", width, 64)]
        state = self.value(e.state) if e.state is not None else Val("0", "0", 1)
        sv, su = f.widen(state.v, 1, 32), f.widen(state.u or "0", 1, 32)
        rows = self.module.data(e.rows)
        count = len(e.rows) // (2 * width + 2)
        words = ", ".join(f"i64 {p}" for p in planes)
        code = f.op(
            f"call i32 @k_lookup(ptr {rows}, i32 {count}, i32 {width}, i32 {int(e.state is not None)}, {words}, i32 {sv}, i32 {su})"
        )
        v = f.op(f"trunc i32 {code} to i1")
        shifted = f.op(f"lshr i32 {code}, 1")
        return Val(v, f.op(f"trunc i32 {shifted} to i1"), 1)

    def _newobject(self, e: n.NewObject) -> Val:
        f = self.f
        if e.source is not None:
            return Val(f.op(f"call i64 @k_new_copy(i64 {self.value(e.source).v}, i32 {e.site})"), None, 64)
        return Val(f.op(f"call i64 @k_new(i32 {e.number}, i32 {e.words})"), None, 64)

    def _classnumber(self, e: n.ClassNumber) -> Val:
        return Val(self.f.op(f"call i32 @k_class(i64 {self.value(e.object).v}, i32 {e.site})"), None, 32)

    def field_address(self, obj: n.Expr, word: int, site: int) -> str:
        f = self.f
        data = f.op(f"call ptr @k_object(i64 {self.value(obj).v}, i32 {site})")
        return f.op(f"getelementptr i8, ptr {data}, i64 {8 * word}")

    def _fieldvalue(self, e: n.FieldValue) -> Val:
        t = n.vec(e)
        at = self.field_address(e.object, e.word, e.site)
        return self.f.load_planes(at, t.width, 8 * ((t.width + 63) // 64), 2 if t.four else 1)

    def _dispatch(self, e: n.Call, args: list[str], result: str) -> None:
        """The method that the class of the object chooses."""
        f = self.f
        obj = f.op(f"load i64, ptr {args[0]}")
        number = f.op(f"call i32 @k_class(i64 {obj}, i32 0)")
        extra = "".join(f", ptr {a}" for a in args)
        done = f.label("called")
        for wanted, sub in (*e.variants, (None, e.function)):
            name = self.module.subprogram(sub)
            if wanted is not None:
                mine, on = f.label("mine"), f.label("other")
                f.branch(f.op(f"icmp eq i32 {number}, {wanted}"), mine, on)
                f.start(mine)
            f.emit(f"call void @{name}(ptr %m, ptr {f.inst()}, ptr {result}{extra})")
            f.jump(done)
            if wanted is not None:
                f.lines.append(f"{on}:")
                f.terminated = False
        f.lines.append(f"{done}:")
        f.terminated = False

    def call(self, e: n.Call) -> tuple[str, str | None]:
        """A function call; the result comes back through memory."""
        f = self.f
        name = self.module.subprogram(e.function)
        args: list[str] = []
        for port, arg in zip(e.function.ports, e.args, strict=True):
            args.append(self.argument(port, arg))
        assert e.type is not None
        w = n.vec(e).width if isinstance(e.type, Vec) else 64
        size = max((w + 63) // 64, 1) * 8
        result = f.alloca(2 * size)
        extra = "".join(f", ptr {a}" for a in args)
        if e.variants:
            self._dispatch(e, args, result)
        else:
            f.emit(f"call void @{name}(ptr %m, ptr {f.inst()}, ptr {result}{extra})")
        for at, port, places in zip(args, e.function.ports, e.copy_back):
            if places is not None:
                self.take_output(at, port, places)
        if isinstance(e.type, Real):
            return f.op(f"load double, ptr {result}"), None
        value = f.load_planes(result, w, size, 2 if n.vec(e).four else 1)
        return value.v, value.u

    def take_output(self, at: str, port: Signal, places: tuple[n.LRef, ...]) -> None:
        """Write what a function left in an output argument to its place."""
        raise NotImplementedError

    def argument(self, port: Signal, arg: n.Expr) -> str:
        """The value of an argument in memory: planes of whole words."""
        f = self.f
        if isinstance(port.type, Real):
            at = f.alloca(8)
            f.emit(f"store double {self.real(arg)}, ptr {at}")
            return at
        value = self.value(arg)
        return f.spill(value)[0]

    def _syscall(self, e: n.SysCall) -> Val:
        f = self.f
        name = e.name
        w = n.vec(e).width
        args = [a for a in e.args if isinstance(a, n.Expr)]
        if name.startswith("$text_"):
            return self._text_call(e, args)
        if name in ("$time", "$stime"):
            factor = 10 ** (e.note - self.module.design.tick_exp)
            t = f.op(f"call i64 @k_time(i64 {factor})")
            return self.resized(Val(t, None, 64), w, False)
        if name == "$random":
            seed = "null"
            place = next((a for a in e.args if isinstance(a, n.LRef)), None)
            if place is not None:
                seed = f.storage(place.signal).address
            return Val(f.op(f"call i32 @k_random(ptr {seed})"), None, 32)
        if name == "$urandom":
            return Val(f.op("call i32 @k_urandom()"), None, 32)
        if name == "$urandom_range":
            bounds = [self.known(self.resized(self.value(a), 32, False)).v for a in args] + ["0"]
            return Val(f.op(f"call i32 @k_urandom_range(i32 {bounds[0]}, i32 {bounds[1]})"), None, 32)
        if name == "$clog2":
            a = self.value(args[0])
            less = f.op(f"sub i{a.w} {a.v}, 1")
            self.module.intrinsics.add(f"declare i{a.w} @llvm.ctlz.i{a.w}(i{a.w}, i1)")
            lead = f.op(f"call i{a.w} @llvm.ctlz.i{a.w}(i{a.w} {less}, i1 false)")
            bits = f.op(f"sub i{a.w} {_signed_text(a.w, a.w)}, {lead}")
            zero = f.op(f"icmp eq i{a.w} {a.v}, 0")
            bits = f.op(f"select i1 {zero}, i{a.w} 0, i{a.w} {bits}")
            r = self.resized(Val(bits, None, a.w), w, False)
            return self.or_unknown(r.v, w, self.any_unknown(a))
        if name == "$countones":
            a = self.resized(self.known(self.value(args[0])), max(w, n.vec(args[0]).width), False)
            self.module.intrinsics.add(f"declare i{a.w} @llvm.ctpop.i{a.w}(i{a.w})")
            count = f.op(f"call i{a.w} @llvm.ctpop.i{a.w}(i{a.w} {a.v})")
            return self.resized(Val(count, None, a.w), w, False)
        if name in ("$onehot", "$onehot0"):
            a = self.known(self.value(args[0]))
            less = f.op(f"sub i{a.w} {a.v}, 1")
            both = f.op(f"and i{a.w} {a.v}, {less}")
            one = f.op(f"icmp eq i{a.w} {both}, 0")
            if name == "$onehot":
                some = f.op(f"icmp ne i{a.w} {a.v}, 0")
                one = f.op(f"and i1 {one}, {some}")
            return Val(one, None, 1)
        if name == "$isunknown":
            bad = self.any_unknown(self.value(args[0]))
            return Val(bad or "false", None, 1)
        if name == "$rtoi":
            x = f.op(f"fptosi double {self.real(args[0])} to i64")
            return self.resized(Val(x, None, 64), w, True)
        if name == "$realtobits":
            return Val(f.op(f"bitcast double {self.real(args[0])} to i64"), None, 64)
        if name == "$test$plusargs":
            return Val(f.op(f"call i32 @k_test_plus(ptr {self.arg_array(args)})"), None, 32)
        if name == "$value$plusargs":
            place = next(a for a in e.args if isinstance(a, n.LRef))
            number = f.storage(place.signal).number or "0"
            return Val(f.op(f"call i32 @k_value_plus(ptr {self.arg_array(args)}, i32 {number}, i32 0)"), None, 32)
        if name == "$fopen":
            return Val(f.op(f"call i32 @k_fopen(ptr {self.arg_array(args)}, i32 {len(args)}, i32 0)"), None, 32)
        if name in ("$feof", "$fgetc"):
            file = self.known(self.resized(self.value(args[0]), 32, False))
            return Val(f.op(f"call i32 @k_{name[1:]}(i32 {file.v})"), None, 32)
        raise AssertionError(name)

    # ---- arguments of system tasks ----

    def arg_array(self, args: list[n.Expr | None] | list[n.Expr], first_is_format: bool = False) -> str:
        """An array of Arg as kernel.h declares it: 32 bytes each."""
        f = self.f
        at = f.alloca(32 * max(len(args), 1))
        for index, arg in enumerate(args):
            kind, width, pv, pu, sig, bit = 0, 0, "null", "null", "-1", 0
            if arg is not None and isinstance(arg.type, Text):
                p = f.op(f"getelementptr i8, ptr {at}, i64 {32 * index}")
                is_format = int(first_is_format and index == 0)
                f.emit(f"call void @k_text_arg(i64 {self.value(arg).v}, ptr {p}, i32 {is_format})")
                continue
            if arg is not None and isinstance(arg.type, Real):
                kind, width = 2, 64
                pv = f.alloca(8)
                f.emit(f"store double {self.real(arg)}, ptr {pv}")
            elif arg is not None:
                t = n.vec(arg)
                kind = 3 if isinstance(arg, n.Const) and arg.text else 1
                kind |= 256 if t.signed else 0
                width = t.width
                pv, pu = f.spill(self.value(arg))
                plain = arg.base if isinstance(arg, n.Bits) and not arg.offset.terms else arg
                if isinstance(plain, n.Ref) and plain.element is None:
                    number = f.storage(plain.signal).number
                    if number:
                        sig = number
                        bit = arg.offset.const if isinstance(arg, n.Bits) else 0
            if isinstance(arg, n.SysCall) and arg.name in ("$time", "$stime", "$realtime"):
                kind |= 512
            for offset, kind_of, value in (
                (0, "i32", str(kind)), (4, "i32", str(width)), (8, "ptr", pv), (16, "ptr", pu), (24, "i32", sig), (28, "i32", str(bit)),
            ):  # fmt: skip
                p = f.op(f"getelementptr i8, ptr {at}, i64 {32 * index + offset}")
                f.emit(f"store {kind_of} {value}, ptr {p}")
        return at


def _double(x: float) -> str:
    return "0x" + struct.pack(">d", x).hex().upper()


def _signed_text(value: int, width: int) -> str:
    """A literal that LLVM accepts for the width: i1 takes 0 and 1, others signed or unsigned numbers."""
    if width == 0:
        return "0"
    return str(value & ((1 << width) - 1))


def _literal(value: int, own: int, width: int, signed: bool) -> str:
    value &= (1 << own) - 1
    if signed and own and value >> (own - 1) & 1:
        value |= ((1 << width) - 1) & ~((1 << own) - 1)
    return _signed_text(value, width)
