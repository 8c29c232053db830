"""Attributes of types, arrays and signals (IEEE 1076-2008 16.2)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.typed.function import Operand, Place, Range, is_composite
from mevrik.engine.typed.values import Values


class Attributes(Values):
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
        before = self.before(p.signal)
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
                on = f.op(f"call i32 @v_driving(ptr {self.driver(part, e.a)})")
                return self.from_bit(f.op(f"icmp ne i32 {on}, 0"))
            case "driving_value":
                image = f.op(f"call ptr @v_driving_value(ptr {self.driver(part, e.a)}, i32 {f.site})")
                return self._read(f.gep(image, part.at), p)
        raise AssertionError(e.which)

    def _read(self, ptr: str, like: Place) -> Place | str:
        if is_composite(like.subtype):
            return Place(ptr, like.subtype, like.bounds)
        return self.f.load(ptr, like.subtype)
