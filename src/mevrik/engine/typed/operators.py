"""Operators that give scalars (IEEE 1076-2008 9.2)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.typed.arrays import LOGIC, SHIFTS, Arrays
from mevrik.engine.typed.function import Place, Range, is_composite, is_real, real, register

INT_COMPARE = {"=": "eq", "/=": "ne", "<": "slt", "<=": "sle", ">": "sgt", ">=": "sge"}
REAL_COMPARE = {"=": "oeq", "/=": "une", "<": "olt", "<=": "ole", ">": "ogt", ">=": "oge"}


class Operators(Arrays):
    # ---- operators ----

    def _operator(self, e: t.Op) -> Place | str:
        op, args = e.op, e.args
        first = args[0]
        if len(args) == 1:
            return self._unary(e, op, first)
        second = args[1]
        if op in ("and", "or", "nand", "nor") and not is_composite(e.type):
            return self._short(op, first, second)
        if op == "&":
            return self._concat(e)
        if op in LOGIC and is_composite(e.type):
            return self._array_logic(e)
        if op in SHIFTS:
            return self._shift(e)
        if op in INT_COMPARE:
            return self._compare(op, first, second)
        if op[0] == "?" and len(op) > 1:
            return self._match(op, first, second)
        if op in ("minimum", "maximum"):
            return self._choose_least(e)
        return self._arithmetic(e)

    def _short(self, op: str, a: t.Expr, b: t.Expr) -> str:
        """9.2.2: the right operand is evaluated only where it matters."""
        f = self.f
        left = self.bit(a)
        slot = f.alloca("i1")
        more, done = f.label("more"), f.label("done")
        stops = op in ("or", "nor")
        f.emit(f"store i1 {left}, ptr {slot}")
        f.branch(left, done if stops else more, more if stops else done)
        f.start(more)
        right = self.bit(b)
        f.emit(f"store i1 {right}, ptr {slot}")
        f.start(done)
        bit = f.op(f"load i1, ptr {slot}")
        if op in ("nand", "nor"):
            bit = f.op(f"xor i1 {bit}, true")
        return self.from_bit(bit)

    def _unary(self, e: t.Op, op: str, a: t.Expr) -> Place | str:
        f = self.f
        if op in ("rising_edge", "falling_edge"):
            return self.edge(a, op == "rising_edge", False)
        if op == "to_string":
            return self._to_string(e, a)
        if op in ("minimum", "maximum"):
            return self._least_of(e, a)
        if op == "??":
            value = self.scalar(a)
            if len(getattr(a.type.type, "literals", ())) == 9:
                strong = f.op(f"icmp eq i64 {value}, 3")
                weak = f.op(f"icmp eq i64 {value}, 7")
                return self.from_bit(f.op(f"or i1 {strong}, {weak}"))
            return value
        if is_composite(e.type) and op == "not":
            base = self.composite(a)
            n = self.f.count_of(self.bounds_of(base))
            out = f.arena(n)
            vec = f.alloca("[4 x i64]")
            r = self.bounds_of(base)[0]
            f.emit(f"call void @x_not(ptr {vec}, ptr {base.ptr}, i64 {r.left}, i64 {r.right}, i64 {r.down}, i64 0)")
            f.copy(out, f.op(f"load ptr, ptr {vec}"), n)
            return Place(out, e.type, base.bounds)
        if op in LOGIC:
            base = self.composite(a)
            r = self.bounds_of(base)[0]
            code = ("and", "or", "nand", "nor", "xor", "xnor").index(op)
            return f.op(f"call i64 @x_reduce(ptr {base.ptr}, i64 {r.left}, i64 {r.right}, i64 {r.down}, i64 {code}, i64 0)")
        value = self.scalar(a)
        if op == "not":
            return f.op(f"xor i64 {value}, 1")
        if is_real(e.type):
            if op == "-":
                return f.op(f"fneg double {value}")
            return value if op == "+" else f.op(f"call double @llvm.fabs.f64(double {value})")
        if op == "+":
            return value
        negative = f.op(f"sub i64 0, {value}")
        if op == "abs":
            below = f.op(f"icmp slt i64 {value}, 0")
            negative = f.op(f"select i1 {below}, i64 {negative}, i64 {value}")
        return self._in_type(negative, e.type)

    def _arithmetic(self, e: t.Op) -> str:
        f = self.f
        op, (a, b) = e.op, e.args
        if op in ("xor", "xnor"):
            x, y = self.scalar(a), self.scalar(b)
            value = f.op(f"xor i64 {x}, {y}")
            return value if op == "xor" else f.op(f"xor i64 {value}, 1")
        if is_real(e.type):
            if op == "**":
                return f.op(f"call double @v_power_real(double {self.scalar(a)}, i64 {self.scalar(b)})")
            x, y = self._as_real(a), self._as_real(b)
            name = {"+": "fadd", "-": "fsub", "*": "fmul", "/": "fdiv"}[op]
            if op == "/":
                f.fail_if(f.op(f"fcmp oeq double {y}, 0.0"), f"call void @v_zero_division(i32 {f.site})")
            return f.op(f"{name} double {x}, {y}")
        if is_real(a.type) or is_real(b.type):  # a physical value and a real
            x, y = self._as_real(a), self._as_real(b)
            product = f.op(f"{'fmul' if op == '*' else 'fdiv'} double {x}, {y}")
            size = f.op(f"call double @llvm.fabs.f64(double {product})")
            f.fail_if(f.op(f"fcmp uge double {size}, {real(2.0**63)}"), self._too_much(e.type))
            return f.op(f"fptosi double {product} to i64")
        x, y = self.scalar(a), self.scalar(b)
        if op in ("+", "-", "*"):
            name = {"+": "add", "-": "sub", "*": "mul"}[op]
            if isinstance(e.type.type, t.Physical):  # of 64 bits, as the operands are
                both = f.op(f"call {{ i64, i1 }} @llvm.s{name}.with.overflow.i64(i64 {x}, i64 {y})")
                f.fail_if(f.op(f"extractvalue {{ i64, i1 }} {both}, 1"), self._too_much(e.type))
                return f.op(f"extractvalue {{ i64, i1 }} {both}, 0")
            return self._in_type(f.op(f"{name} i64 {x}, {y}"), e.type)
        if op == "**":
            return self._in_type(f.op(f"call i64 @v_power(i64 {x}, i64 {y}, i32 {f.site})"), e.type)
        if not (isinstance(b, t.Const) and b.value != 0):
            f.fail_if(f.op(f"icmp eq i64 {y}, 0"), f"call void @v_zero_division(i32 {f.site})")
        if op == "/":
            return self._in_type(f.op(f"sdiv i64 {x}, {y}"), e.type)
        rest = f.op(f"srem i64 {x}, {y}")
        if op == "rem":
            return rest
        some = f.op(f"icmp ne i64 {rest}, 0")
        turned = f.op(f"icmp slt i64 {f.op(f'xor i64 {rest}, {y}')}, 0")
        fix = f.op(f"and i1 {some}, {turned}")
        return f.op(f"select i1 {fix}, i64 {f.op(f'add i64 {rest}, {y}')}, i64 {rest}")

    def _too_much(self, s: t.Subtype) -> str:
        """The call for a result that is no value of its type (9.2.1)."""
        return f"call void @v_overflow(i32 {self.f.site}, ptr {self.module.string(s.type.name)})"

    def _as_real(self, e: t.Expr) -> str:
        value = self.scalar(e)
        if is_real(e.type):
            return value
        return real(float(value)) if not value.startswith("%") else self.f.op(f"sitofp i64 {value} to double")

    def _compare(self, op: str, a: t.Expr, b: t.Expr) -> str:
        f = self.f
        if not is_composite(a.type):
            x, y = self.scalar(a), self.scalar(b)
            if is_real(a.type) or is_real(b.type):
                return self.from_bit(f.op(f"fcmp {REAL_COMPARE[op]} double {x}, {y}"))
            return self.from_bit(f.op(f"icmp {INT_COMPARE[op]} i64 {x}, {y}"))
        x_, y_ = self.composite(a), self.composite(b)
        if op in ("=", "/="):
            bit = self.equal(x_, y_)
            return self.from_bit(bit if op == "=" else f.op(f"xor i1 {bit}, true"))
        n, m = f.count_of(self.bounds_of(x_)), f.count_of(self.bounds_of(y_))
        size = self.element_size(x_.subtype)
        order = f.op(f"call i64 @v_compare(ptr {x_.ptr}, i64 {n}, ptr {y_.ptr}, i64 {m}, i64 {size})")
        return self.from_bit(f.op(f"icmp {INT_COMPARE[op]} i64 {order}, 0"))

    def equal(self, x: Place, y: Place) -> str:
        """Whether two composite values are the same (9.2.3), as i1."""
        f = self.f
        if isinstance(x.subtype.type, t.RecordType):
            offsets, _ = self.layout(x.subtype)
            others, _ = self.layout(y.subtype)
            result = "true"
            for offset, other, of, like in zip(offsets, others, x.subtype.field_types(), y.subtype.field_types(), strict=True):
                one = Place(f.gep(x.ptr, offset), of, self.ranges(of))
                two = Place(f.gep(y.ptr, other), like, self.ranges(like))
                if is_composite(of):
                    same = self.equal(one, two)
                elif is_real(of):
                    same = f.op(f"fcmp oeq double {f.load(one.ptr, of)}, {f.load(two.ptr, of)}")
                else:
                    same = f.op(f"icmp eq i64 {f.load(one.ptr, of)}, {f.load(two.ptr, of)}")
                result = same if result == "true" else f.op(f"and i1 {result}, {same}")
            return result
        result = "true"
        for r, s in zip(self.bounds_of(x), self.bounds_of(y), strict=True):
            n, m = f.length(r), f.length(s)
            if isinstance(n, int) and isinstance(m, int) and n == m:
                continue
            same = f.op(f"icmp eq i64 {n}, {m}")
            result = same if result == "true" else f.op(f"and i1 {result}, {same}")
        elem = x.subtype.elem
        if isinstance(elem.type, t.RecordType):
            return self._equal_records(x, y, result)
        size = f.mul(f.count_of(self.bounds_of(x)), self.element_size(x.subtype if x.subtype.elem.constrained else y.subtype))
        if result == "true":
            return f.op(f"icmp eq i32 {f.op(f'call i32 @memcmp(ptr {x.ptr}, ptr {y.ptr}, i64 {size})')}, 0")
        slot = f.alloca("i1")
        f.emit(f"store i1 false, ptr {slot}")
        go, done = f.label("same"), f.label("done")
        f.branch(result, go, done)
        f.start(go)
        same = f.op(f"icmp eq i32 {f.op(f'call i32 @memcmp(ptr {x.ptr}, ptr {y.ptr}, i64 {size})')}, 0")
        f.emit(f"store i1 {same}, ptr {slot}")
        f.start(done)
        return f.op(f"load i1, ptr {slot}")

    def _equal_records(self, x: Place, y: Place, result: str) -> str:
        f = self.f
        elem = x.subtype.elem
        size = self.element_size(x.subtype)
        slot, k = f.alloca("i1"), f.alloca("i64")
        f.emit(f"store i1 {result}, ptr {slot}")
        f.emit(f"store i64 0, ptr {k}")
        n = f.count_of(self.bounds_of(x))
        test, body, done = f.label("test"), f.label("body"), f.label("done")
        f.start(test)
        at = f.op(f"load i64, ptr {k}")
        more = f.op(f"icmp slt i64 {at}, {n}")
        f.branch(f.op(f"and i1 {more}, {f.op(f'load i1, ptr {slot}')}"), body, done)
        f.start(body)
        offset = f.op(f"mul i64 {at}, {size}")
        same = self.equal(Place(f.gep(x.ptr, offset), elem), Place(f.gep(y.ptr, offset), elem))
        f.emit(f"store i1 {same}, ptr {slot}")
        f.emit(f"store i64 {f.op(f'add i64 {at}, 1')}, ptr {k}")
        f.jump(test)
        f.start(done)
        return f.op(f"load i1, ptr {slot}")

    def _match(self, op: str, a: t.Expr, b: t.Expr) -> str:
        """The matching operators (9.2.3) of bits and the nine values."""
        f = self.f
        kind = a.type.type
        nine = len(getattr(kind.element.type if isinstance(kind, t.ArrayType) else kind, "literals", ())) == 9
        if is_composite(a.type):
            x, y = self.composite(a), self.composite(b)
            r, s = self.bounds_of(x)[0], self.bounds_of(y)[0]
            if nine:
                v = f.op(
                    f"call i64 @x_match(ptr {x.ptr}, i64 {r.left}, i64 {r.right}, i64 {r.down}, ptr {y.ptr}, i64 {s.left}, i64 {s.right}, i64 {s.down})"
                )
                return f.op(f"call i64 @x_not1(i64 {v})") if op == "?/=" else v
            bit = self.equal(x, y)
            return self.from_bit(bit if op == "?=" else f.op(f"xor i1 {bit}, true"))
        v, w = self.scalar(a), self.scalar(b)
        if op in ("?=", "?/="):
            if nine:
                m = f.op(f"call i64 @x_match1(i64 {v}, i64 {w})")
                return f.op(f"call i64 @x_not1(i64 {m})") if op == "?/=" else m
            return self.from_bit(f.op(f"icmp {'eq' if op == '?=' else 'ne'} i64 {v}, {w}"))
        if not nine:
            return self.from_bit(f.op(f"icmp {INT_COMPARE[op[1:]]} i64 {v}, {w}"))
        # a ?< b is (not a) and b, with the other orders made of it
        if op in ("?>", "?<="):
            v, w = w, v
        less = f.op(f"call i64 @x_logic1(i64 {f.op(f'call i64 @x_not1(i64 {v})')}, i64 {w}, i64 0)")
        return less if op in ("?<", "?>") else f.op(f"call i64 @x_not1(i64 {less})")

    def _choose_least(self, e: t.Op) -> Place | str:
        f = self.f
        a, b = e.args
        op = "slt" if e.op == "minimum" else "sgt"
        if not is_composite(e.type):
            x, y = self.scalar(a), self.scalar(b)
            if is_real(e.type):
                first = f.op(f"fcmp {'olt' if e.op == 'minimum' else 'ogt'} double {x}, {y}")
                return f.op(f"select i1 {first}, double {x}, double {y}")
            return f.op(f"select i1 {f.op(f'icmp {op} i64 {x}, {y}')}, i64 {x}, i64 {y}")
        p, q = self.composite(a), self.composite(b)
        r, s = self.bounds_of(p)[0], self.bounds_of(q)[0]
        order = f.op(
            f"call i64 @v_compare(ptr {p.ptr}, i64 {f.length(r)}, ptr {q.ptr}, i64 {f.length(s)}, i64 {self.element_size(p.subtype)})"
        )
        first = f.op(f"icmp {op} i64 {order}, 0")
        ptr = f.op(f"select i1 {first}, ptr {p.ptr}, ptr {q.ptr}")
        pick = [f.op(f"select i1 {first}, i64 {x}, i64 {y}") for x, y in ((r.left, s.left), (r.right, s.right), (r.down, s.down))]
        return Place(ptr, self.plain(e.type), [Range(*pick)])

    def _least_of(self, e: t.Op, a: t.Expr) -> str:
        """The smallest or greatest element of an array."""
        f = self.f
        base = self.composite(a)
        elem = base.subtype.elem
        n = f.count_of(self.bounds_of(base))
        size = self.element_size(base.subtype)
        kind = elem.type
        smallest = e.op == "minimum"
        if isinstance(kind, t.Floating):
            start = real(kind.high if smallest else kind.low)
        else:
            start = str(kind.high if smallest else kind.low)  # type: ignore[attr-defined]
        reg = register(elem)
        best = f.alloca(reg)
        f.emit(f"store {reg} {start}, ptr {best}")
        with f.counted(n) as at:
            v = f.load(f.gep(base.ptr, f.op(f"mul i64 {at}, {size}")), elem)
            have = f.op(f"load {reg}, ptr {best}")
            if reg == "double":
                first = f.op(f"fcmp {'olt' if smallest else 'ogt'} double {v}, {have}")
            else:
                first = f.op(f"icmp {'slt' if smallest else 'sgt'} i64 {v}, {have}")
            f.emit(f"store {reg} {f.op(f'select i1 {first}, {reg} {v}, {reg} {have}')}, ptr {best}")
        return f.op(f"load {reg}, ptr {best}")
