"""Expressions: scalars in registers, composite values in memory (IEEE 1076-2008 clauses 9 and 16.2)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.layout import Unsupported
from mevrik.engine.typed.function import Operand, Place, Range, is_composite, is_real, real, register, storage
from mevrik.engine.typed.places import Places

INT_COMPARE = {"=": "eq", "/=": "ne", "<": "slt", "<=": "sle", ">": "sgt", ">=": "sge"}
REAL_COMPARE = {"=": "oeq", "/=": "une", "<": "olt", "<=": "ole", ">": "ogt", ">=": "oge"}
LOGIC = ("and", "or", "nand", "nor", "xor", "xnor")
SHIFTS = {"sll": 0, "srl": 1, "sra": 2, "rol": 3, "ror": 4, "sla": 5}


class Expressions(Places):
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
            size: Operand = f.mul(f.count_of(want), self.element_size(to.subtype if to.subtype.elem.static else found.subtype))
        else:
            size = self.size(to)
        f.copy(to.ptr, found.ptr, size)

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
            return f.op(f"fptosi double {f.op(('fmul' if op == '*' else 'fdiv') + f' double {x}, {y}')} to i64")
        x, y = self.scalar(a), self.scalar(b)
        if op in ("+", "-", "*"):
            name = {"+": "add", "-": "sub", "*": "mul"}[op]
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
            offsets, _ = t.record_layout(x.subtype)
            result = "true"
            for offset, of in zip(offsets, x.subtype.field_types(), strict=True):
                one = Place(f.gep(x.ptr, offset), of, self.ranges(of))
                two = Place(f.gep(y.ptr, offset), of, self.ranges(of))
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
        size = f.mul(f.count_of(self.bounds_of(x)), self.element_size(x.subtype if x.subtype.elem.static else y.subtype))
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

    @staticmethod
    def plain(s: t.Subtype) -> t.Subtype:
        return t.Subtype(s.type, s.name, None, None, s.element)

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
        best, k = f.alloca(reg), f.alloca("i64")
        f.emit(f"store {reg} {start}, ptr {best}")
        f.emit(f"store i64 0, ptr {k}")
        test, body, done = f.label("test"), f.label("body"), f.label("done")
        f.start(test)
        at = f.op(f"load i64, ptr {k}")
        f.branch(f.op(f"icmp slt i64 {at}, {n}"), body, done)
        f.start(body)
        v = f.load(f.gep(base.ptr, f.op(f"mul i64 {at}, {size}")), elem)
        have = f.op(f"load {reg}, ptr {best}")
        if reg == "double":
            first = f.op(f"fcmp {'olt' if smallest else 'ogt'} double {v}, {have}")
        else:
            first = f.op(f"icmp {'slt' if smallest else 'sgt'} i64 {v}, {have}")
        f.emit(f"store {reg} {f.op(f'select i1 {first}, {reg} {v}, {reg} {have}')}, ptr {best}")
        f.emit(f"store i64 {f.op(f'add i64 {at}, 1')}, ptr {k}")
        f.jump(test)
        f.start(done)
        return f.op(f"load {reg}, ptr {best}")

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
        size = 0
        for x in self._pieces(e, kind):
            whole = x.type.type is kind
            if whole:
                p = self.composite(x)
                total = f.add(total, f.length(self.bounds_of(p)[0]))
                size = size or self.element_size(p.subtype)
                pieces.append((p, x, True))
            else:
                v = self.value(x)
                total = f.add(total, 1)
                if isinstance(v, Place):
                    size = size or t.size_of(x.type) if x.type.static else size
                pieces.append((v, x, False))
        elem = e.type.elem
        if not elem.static:
            elem = next((p.subtype.elem if w else x.type for p, x, w in pieces if isinstance(p, Place)), elem)
        size = t.size_of(elem)
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
                    if piece.bounds is not None and elem.static:
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
            offsets, size = t.record_layout(e.type)
            out = f.arena(size)
            for (_, v), offset, of in zip(e.items, offsets, e.type.field_types(), strict=True):
                self.put(v, Place(f.gep(out, offset), of, self.ranges(of)))
            return Place(out, e.type)
        assert isinstance(e.type.type, t.ArrayType)
        bounds = self.ranges(e.type)
        if bounds is None:
            bounds = self._found_bounds(e)
        row = self._row(e.type)
        if not row.static:
            row = self._row_shape(e, row)
        step = t.size_of(row)
        n = f.count_of(bounds[:1])
        out = f.arena(f.mul(n, step))
        r = bounds[0]
        at: Operand = 0
        for choices, v in e.items:
            if choices == [None]:
                self._fill(out, n, step, v, row)
        for choices, v in e.items:
            if not choices:
                if v.type.type is e.type.type and row.type is not v.type.type:
                    p = self.composite(v)
                    m = f.mul(f.length(self.bounds_of(p)[0]), step)
                    f.copy(f.gep(out, f.mul(at, step)), p.ptr, m)
                    at = f.add(at, f.length(self.bounds_of(p)[0]))
                else:
                    self.put(v, Place(f.gep(out, f.mul(at, step)), row, self.ranges(row)))
                    at = f.add(at, 1)
                continue
            for c in choices:
                if c is None:
                    continue
                if isinstance(c, t.Bounds):
                    s = self.range(c)
                    first = f.select(
                        r.down, f.sub_(r.left, f.select(s.down, s.left, s.right)), f.sub_(f.select(s.down, s.right, s.left), r.left)
                    )
                    m = f.length(s)
                    if v.type.type is e.type.type and row.type is not v.type.type:
                        p = self.composite(v)
                        f.copy(f.gep(out, f.mul(first, step)), p.ptr, f.mul(m, step))
                    else:
                        self._fill(f.gep(out, f.mul(first, step)), m, step, v, row)
                else:
                    i = self.bound(c)
                    self.inside(i, r, e, None)
                    k = f.select(r.down, f.sub_(r.left, i), f.sub_(i, r.left))
                    self.put(v, Place(f.gep(out, f.mul(k, step)), row, self.ranges(row)))
        if at != 0:
            self.same_length(at, n) if not any(c == [None] for c, _ in e.items) else None
        element = e.type.element if e.type.elem.static or len(e.type.type.indexes) > 1 else row
        return Place(out, t.Subtype(e.type.type, e.type.name, None, None, element), bounds)

    def _row_shape(self, e: t.Aggregate, row: t.Subtype) -> t.Subtype:
        for _, v in e.items:
            if v.type.static:
                return v.type
        raise Unsupported("an aggregate of values whose length is known only while the design runs is not supported")

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

    def _fill(self, out: str, n: Operand, step: int, v: t.Expr, row: t.Subtype) -> None:
        """The same value in `n` places."""
        f = self.f
        if n == 0:
            return
        if not is_composite(row) and step == 1:
            f.fill(out, self._operand(self.checked(v, row)), n)
            return
        if n == 1:
            self.put(v, Place(out, row, self.ranges(row)))
            return
        k = f.alloca("i64")
        f.emit(f"store i64 0, ptr {k}")
        test, body, done = f.label("test"), f.label("body"), f.label("done")
        f.start(test)
        at = f.op(f"load i64, ptr {k}")
        f.branch(f.op(f"icmp slt i64 {at}, {n}"), body, done)
        f.start(body)
        self.put(v, Place(f.gep(out, f.op(f"mul i64 {at}, {step}")), row, self.ranges(row)))
        f.emit(f"store i64 {f.op(f'add i64 {at}, 1')}, ptr {k}")
        f.jump(test)
        f.start(done)

    @staticmethod
    def _operand(value: str) -> Operand:
        return value if value.startswith("%") else int(value)

    # ---- attributes ----

    def _bound_of(self, e: t.BoundOf) -> str:
        f = self.f
        if isinstance(e.a, t.Ref) and not e.a.object.name and e.a.object.place < 0 and e.a.object not in f.places:
            bounds = self.ranges(e.a.type)
        else:
            p = self.place(e.a)
            of = p.subtype
            for _ in range(e.inside):
                of = of.elem
            bounds = self.ranges(of) if e.inside else self.bounds_of(p)
        assert bounds is not None
        r = bounds[e.dim]
        match e.which:
            case "left":
                return str(r.left)
            case "right":
                return str(r.right)
            case "length":
                return str(f.length(r))
            case "ascending":
                return str(f.sub_(1, r.down))
        low, high = f.low_high(r)
        return str(low if e.which == "low" else high)

    def image(self, value: str, of: t.Subtype, to_string: bool = False) -> Place:
        f = self.f
        vec = f.alloca("[4 x i64]")
        f.allocated = True
        kind = of.type
        if isinstance(kind, t.Enum):
            table, names = self.module.names(kind, to_string)
            f.emit(f"call void @v_image_enum(ptr {vec}, ptr {table}, ptr {names}, i64 {value})")
        elif isinstance(kind, t.Integer):
            f.emit(f"call void @v_image_integer(ptr {vec}, i64 {value})")
        elif isinstance(kind, t.Floating):
            f.emit(f"call void @x_real_image(ptr {vec}, double {value}, i64 0)")
        else:
            assert isinstance(kind, t.Physical)
            unit = next(iter(kind.units))
            f.emit(f"call void @v_image_physical(ptr {vec}, i64 {value}, ptr {self.module.string(unit)})")
        return self.unpacked(vec, self.module.string_type)

    def unpacked(self, vec: str, subtype: t.Subtype) -> Place:
        """A result that was given as pointer and bounds."""
        f = self.f
        ptr = f.op(f"load ptr, ptr {vec}")
        values = [f.op(f"load i64, ptr {f.gep(vec, 8 * k)}") for k in (1, 2, 3)]
        return Place(ptr, self.plain(subtype), [Range(*values)])

    def _to_string(self, e: t.Op, a: t.Expr) -> Place:
        f = self.f
        if not is_composite(a.type):
            return self.image(self.scalar(a), a.type, True)
        p = self.composite(a)
        kind = p.subtype.elem.type
        assert isinstance(kind, t.Enum)
        if len(kind.literals) > 128:
            return Place(p.ptr, self.plain(e.type), [Range(1, f.length(self.bounds_of(p)[0]), 0)])
        table, names = self.module.names(kind)
        vec = f.alloca("[4 x i64]")
        f.allocated = True
        f.emit(f"call void @v_to_string(ptr {vec}, ptr {p.ptr}, i64 {f.length(self.bounds_of(p)[0])}, ptr {table}, ptr {names})")
        return self.unpacked(vec, e.type)

    def _scalar_attribute(self, e: t.ScalarAttr) -> Place | str:
        f = self.f
        which, of = e.which, e.of
        if which == "image":
            return self.image(self.scalar(e.a), of)
        if which == "value":
            p = self.composite(e.a)
            r = self.bounds_of(p)[0]
            args = f"ptr {p.ptr}, i64 {r.left}, i64 {r.right}, i64 {r.down}"
            kind = of.type
            if isinstance(kind, t.Enum):
                table, names = self.module.names(kind)
                value = f.op(f"call i64 @v_value_enum({args}, ptr {table}, ptr {names}, i64 {len(kind.literals)}, i32 {f.site})")
            elif isinstance(kind, t.Floating):
                value = f.op(f"call double @v_value_real({args}, i32 {f.site})")
            elif isinstance(kind, t.Physical):
                table, names = self.module.units(kind)
                value = f.op(f"call i64 @v_value_physical({args}, ptr {table}, ptr {names}, i64 {len(kind.units)}, i32 {f.site})")
            else:
                value = f.op(f"call i64 @v_value_integer({args}, i32 {f.site})")
            return self.check(value, None, of)
        value = self.scalar(e.a)
        if which in ("pos", "val"):
            if which == "val" and isinstance(of.type, t.Enum):
                outside = f.op(f"icmp ugt i64 {value}, {of.type.high}")
                name = self.module.string(repr(of))
                f.fail_if(outside, f"call void @v_range(i32 {f.site}, i64 {value}, i64 0, i64 {of.type.high}, ptr {name})")
            return value
        down = of.range is not None and of.range.down is True
        forward = which == "succ" or which == ("leftof" if down else "rightof")
        moved = f.op(f"{'add' if forward else 'sub'} i64 {value}, 1")
        base = of.type
        assert isinstance(base, (t.Enum, t.Integer, t.Physical))
        low: Operand = base.low
        high: Operand = base.high
        if of.range is not None and of.range.static and which in ("leftof", "rightof", "succ", "pred"):
            low, high = of.range.low, of.range.high
        below = f.op(f"icmp slt i64 {moved}, {low}")
        above = f.op(f"icmp sgt i64 {moved}, {high}")
        name = self.module.string(repr(of))
        f.fail_if(
            f.op(f"or i1 {below}, {above}"), f"call void @v_range(i32 {f.site}, i64 {moved}, i64 {low}, i64 {high}, ptr {name})"
        )
        return moved

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

    def edge(self, e: t.Expr, rising: bool, nine: bool) -> str:
        """rising_edge and falling_edge: an event from one known level to the other."""
        f = self.f
        p = self.place(e)
        assert p.signal is not None
        hit, check, done = self.event(p), f.label("edge"), f.label("done")
        slot = f.alloca("i1")
        f.emit(f"store i1 false, ptr {slot}")
        f.branch(hit, check, done)
        f.start(check)
        now = f.op(f"load i8, ptr {p.ptr}")
        before = f.op(f"load ptr, ptr {f.gep(self.signal_record(p.signal), 24)}")
        was = f.op(f"load i8, ptr {f.gep(before, p.signal.at)}")
        high = 3 if nine else 1
        low = 2 if nine else 0
        if nine:  # weak levels count as strong ones
            now, was = (f.op(f"and i8 {x}, 11") for x in (now, was))
        first, second = (high, low) if rising else (low, high)
        good = f.op(f"and i1 {f.op(f'icmp eq i8 {now}, {first}')}, {f.op(f'icmp eq i8 {was}, {second}')}")
        f.emit(f"store i1 {good}, ptr {slot}")
        f.start(done)
        return self.from_bit(f.op(f"load i1, ptr {slot}"))

    def _signal_attribute(self, e: t.SignalAttr) -> Place | str:
        f = self.f
        p = self.place(e.a)
        part = p.signal
        assert part is not None
        number = f.op(f"trunc i64 {part.number} to i32") if isinstance(part.number, str) else str(part.number)
        match e.which:
            case "event":
                return self.from_bit(self.event(p))
            case "active":
                hit = f.op(f"call i32 @v_active(i32 {number}, i64 {part.at}, i64 {self.size(p)})")
                return self.from_bit(f.op(f"icmp ne i32 {hit}, 0"))
            case "last_event" | "last_active":
                active = int(e.which == "last_active")
                return f.op(f"call i64 @v_since(i32 {number}, i64 {part.at}, i64 {self.size(p)}, i32 {active})")
            case "last_value":
                ptr = f.op(f"call ptr @v_last(i32 {number}, i64 {part.at})")
                return self._read(ptr, p)
            case "driving":
                return "1"
            case "driving_value":
                image = f.op(f"load ptr, ptr {self.driver(part, e.a)}")
                return self._read(f.gep(image, part.at), p)
        raise AssertionError(e.which)

    def _read(self, ptr: str, like: Place) -> Place | str:
        if is_composite(like.subtype):
            return Place(ptr, like.subtype, like.bounds)
        return self.f.load(ptr, like.subtype)

    def default(self, p: Place) -> None:
        """The default initial value (6.4.2.2, 6.4.2.4): the leftmost one of each scalar, null."""
        f = self.f
        s = p.subtype
        kind = s.type
        if isinstance(kind, t.RecordType):
            offsets, _ = t.record_layout(s)
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
            k = f.alloca("i64")
            f.emit(f"store i64 0, ptr {k}")
            test, body, done = f.label("test"), f.label("body"), f.label("done")
            f.start(test)
            at = f.op(f"load i64, ptr {k}")
            f.branch(f.op(f"icmp slt i64 {at}, {n}"), body, done)
            f.start(body)
            self.default(Place(f.gep(p.ptr, f.op(f"mul i64 {at}, {step}")), s.elem, self.ranges(s.elem)))
            f.emit(f"store i64 {f.op(f'add i64 {at}, 1')}, ptr {k}")
            f.jump(test)
            f.start(done)
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
            if isinstance(of.type, t.ArrayType) and self._open_access(e):
                p = self.composite(e.init)
                bounds = self.bounds_of(p)
                size = f.mul(f.count_of(bounds), self.element_size(p.subtype))
                ptr = self._with_header(bounds, size)
                f.copy(f.gep(ptr, 24 * len(bounds)), p.ptr, size)
                return f.op(f"ptrtoint ptr {ptr} to i64")
            shape = of if of.static else e.init.type
            ptr = f.op(f"call ptr @v_new(i64 {t.size_of(shape)})")
            self.put(e.init, Place(ptr, shape, self.ranges(shape)))
            return f.op(f"ptrtoint ptr {ptr} to i64")
        if isinstance(of.type, t.ArrayType) and self._open_access(e):
            bounds = self.ranges(of) or []
            size = f.mul(f.count_of(bounds), self.element_size(of))
            ptr = self._with_header(bounds, size)
            self.default(Place(f.gep(ptr, 24 * len(bounds)), of, bounds))
        else:
            ptr = f.op(f"call ptr @v_new(i64 {t.size_of(of)})")
            self.default(Place(ptr, of, self.ranges(of)))
        return f.op(f"ptrtoint ptr {ptr} to i64")

    @staticmethod
    def _open_access(e: t.New) -> bool:
        """Whether the access type leaves the bounds open, so that the object carries them."""
        kind = e.type.type
        return isinstance(kind, t.AccessType) and kind.target is not None and kind.target.bounds is None

    def _with_header(self, bounds: list[Range], size: Operand) -> str:
        f = self.f
        ptr = f.op(f"call ptr @v_new(i64 {f.add(size, 24 * len(bounds))})")
        at = 0
        for r in bounds:
            for x in (r.left, r.right, r.down):
                f.emit(f"store i64 {x}, ptr {f.gep(ptr, at)}")
                at += 8
        return ptr


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
