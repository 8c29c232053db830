"""Operators as IR, on two planes (IEEE 1364-2005 5.1)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import Real
from mevrik.engine.lower.function import Function, Val
from mevrik.engine.lower.lists import ListLowerer

_COMPARE = {"<": "lt", "<=": "le", ">": "gt", ">=": "ge"}
_REAL_COMPARE = {"<": "olt", "<=": "ole", ">": "ogt", ">=": "oge", "==": "oeq", "!=": "une", "===": "oeq", "!==": "une"}


class OperatorLowerer(ListLowerer):
    def real(self, e: n.Expr) -> str:
        raise NotImplementedError

    # ---- small helpers ----

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
                return literal(int(x), a.w, width, signed)
            return f.op(f"{how} i{a.w} {x} to i{width}")

        return Val(convert(a.v), None if a.u is None else convert(a.u), width)

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
        if op in ("+", "-", "*"):
            return self._sum(op, a, b)
        bad = self.any_unknown(a, b)
        if op in ("/", "%"):
            return self._divide(op, a, b, signed, bad)
        if op == "**":
            return self._power(a, b, n.vec(e.a).signed, n.vec(e.b).signed, bad)
        raise AssertionError(op)

    def _sum(self, op: str, a: Val, b: Val) -> Val:
        f, w = self.f, a.w
        if op == "*":
            return self.or_unknown(self._multiply(a, b), w, self.any_unknown(a, b))
        return self.or_unknown(f.op(f"{'add' if op == '+' else 'sub'} i{w} {a.v}, {b.v}"), w, self.any_unknown(a, b))

    def combined(self, op: str, a: Val, b: Val) -> Val:
        """One of + * & | ^ of two values of one width."""
        return self._sum(op, a, b) if op in "+*" else self._bitwise(op, a, b)

    def _logical(self, op: str, left: n.Expr, right: n.Expr) -> Val:
        f = self.f
        if has_effects(right):
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
        if has_effects(e.a) or has_effects(e.b):
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
                text = signed_text(constant, total)
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


def has_effects(e: n.Expr) -> bool:
    """Whether evaluating the expression may do more than give a value, or need a loop."""
    return any(isinstance(x, (n.Call, n.Effect, n.ListLoop, n.ListValue, n.FieldValue)) for x in walk.expressions(e))


def signed_text(value: int, width: int) -> str:
    """A literal that LLVM accepts for the width: i1 takes 0 and 1, others signed or unsigned numbers."""
    if width == 0:
        return "0"
    return str(value & ((1 << width) - 1))


def literal(value: int, own: int, width: int, signed: bool) -> str:
    value &= (1 << own) - 1
    if signed and own and value >> (own - 1) & 1:
        value |= ((1 << width) - 1) & ~((1 << own) - 1)
    return signed_text(value, width)
