"""Expressions as IR (IEEE 1364-2005 clause 5): values, reals, calls of functions."""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import REAL, Array, Link, List, Real, Type, width_of
from mevrik.design.unit import Signal, Subprogram
from mevrik.engine.layout import LayoutError
from mevrik.engine.lower.function import Function, Storage, Val, layout_of
from mevrik.engine.lower.system import SystemLowerer

if TYPE_CHECKING:
    from mevrik.engine.lower.module import ModuleLowerer

_REAL_OPS = {"+": "fadd", "-": "fsub", "*": "fmul", "/": "fdiv"}


class ExpressionLowerer(SystemLowerer):
    """Lowers expressions into `f`. Names and literals of LLVM values are strings."""

    def __init__(self, module: ModuleLowerer, f: Function) -> None:
        self.module = module
        self.f = f
        f.storage_via = self.storage_via

    # ---- virtual interfaces ----

    def storage_via(self, signal: Signal) -> Storage:
        """Where a signal of the instance lies that a virtual interface stands for."""
        f = self.f
        assert signal.via is not None and isinstance(signal.via.type, Link)
        link = f.op(f"call i64 @k_link(i64 {self.value(signal.via).v})")
        slots = self.module.layout.slots_by_link(signal.via.type.name, signal)
        where = [(i, f.op(f"getelementptr i8, ptr %m, i64 {s.offset}"), str(s.number)) for i, s in slots]
        if not where:
            return Storage("%m", signal, *layout_of(signal.type)[:2], "0")
        address, number = where[0][1], where[0][2]
        for instance, at, slot_number in where[1:]:
            mine = f.op(f"icmp eq i64 {link}, {instance.number + 1}")
            address = f.op(f"select i1 {mine}, ptr {at}, ptr {address}")
            number = f.op(f"select i1 {mine}, i32 {slot_number}, i32 {number}")
        size, planes, _ = layout_of(signal.type)
        return Storage(address, signal, size, planes, number)

    def linked(self, via: n.Expr, sub: Subprogram) -> tuple[Subprogram, str]:
        """The subprogram of the instance that a virtual interface stands for, and the table of that instance."""
        f = self.f
        assert isinstance(via.type, Link)
        link = f.op(f"call i64 @k_link(i64 {self.value(via).v})")
        found = self.module.layout.instances_of(via.type.name)
        subs = {next((s for s in i.unit.subprograms if s.path == sub.path), None) for i in found}
        if len(subs) != 1 or None in subs:
            raise LayoutError(f"'{sub.name}' is called by way of a virtual interface whose instances have different parameters")
        (real,) = subs
        assert real is not None
        table = f.op(f"getelementptr i8, ptr %m, i64 {found[0].table}")
        for instance in found[1:]:
            mine = f.op(f"icmp eq i64 {link}, {instance.number + 1}")
            other = f.op(f"getelementptr i8, ptr %m, i64 {instance.table}")
            table = f.op(f"select i1 {mine}, ptr {other}, ptr {table}")
        return real, table

    def _instancelink(self, e: n.InstanceLink) -> Val:
        f = self.f
        layout = self.module.layout
        made = ""
        for instance in layout.by_unit[f.unit]:
            number = str(layout.walk(instance, e.path).number + 1)
            if not made:
                made = number
                continue
            mine = f.op(f"icmp eq i32 {self.module.instance_number(f)}, {instance.number}")
            made = f.op(f"select i1 {mine}, i64 {number}, i64 {made}")
        return Val(made, None, 64)

    def run(self, body: list[n.Stmt]) -> None:
        raise NotImplementedError

    def evaluate(self, e: n.Expr) -> Val | str:
        return self.real(e) if isinstance(e.type, Real) else self.value(e)

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
            case n.ToReal(type=Real(short=True), a=a):
                wide = self.real(a if isinstance(a.type, Real) else n.ToReal(REAL, a))
                return f.op(f"fpext float {f.op(f'fptrunc double {wide} to float')} to double")
            case n.ToReal(a=a):
                x = self.value(a)
                pv, pu = f.spill(x)
                signed = int(n.vec(a).signed)
                return f.op(f"call double @k_to_real(ptr {pv}, ptr {pu}, i32 {x.w}, i32 {signed})")
            case n.Ref(signal=signal, element=element):
                return self._load_real(signal, element)
            case n.FieldValue():
                at, ok = self.field_element(e)
                x_ = f.op(f"load double, ptr {at}")
                return f.op(f"select i1 {ok}, double {x_}, double 0.0") if ok else x_
            case n.Item():
                at, ok = self.item_address(e)
                x_ = f.op(f"load double, ptr {at}")
                return f.op(f"select i1 {ok}, double {x_}, double 0.0") if ok else x_
            case n.ListValue():
                found = self.list_value(e)
                assert isinstance(found, str)
                return found
            case n.ListLoop():
                found = self.list_loop(e)
                assert isinstance(found, str)
                return found
            case n.Effect(body=body, a=a):
                self.run(body)
                return self.real(a)
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

    # ---- calls ----

    def _call(self, e: n.Call) -> Val:
        v, u = self.call(e)
        return Val(v, u, n.vec(e).width)

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
            made = f.op(f"call i64 @k_new_copy(i64 {self.value(e.source).v}, i32 {e.site})")
            for number, at in e.lists:
                f.emit(f"call void @k_own_list(i64 {made}, i32 {number}, i32 {at})")
            return Val(made, None, 64)
        return Val(f.op(f"call i64 @k_new(i32 {e.number}, i32 {e.words})"), None, 64)

    def _present(self, e: n.Present) -> Val:
        handle = self.value(e.object)
        self.f.emit(f"call ptr @k_object(i64 {handle.v}, i32 {e.site})")
        return handle

    def _classnumber(self, e: n.ClassNumber) -> Val:
        return Val(self.f.op(f"call i32 @k_class(i64 {self.value(e.object).v}, i32 {e.site})"), None, 32)

    def _effect(self, e: n.Effect) -> Val:
        self.run(e.body)
        return self.value(e.a)

    def _fresh(self, e: n.Fresh) -> Val:
        """A structure whose lists are copied."""
        f = self.f
        a = self.value(e.a)
        w = a.w
        v = a.v
        for low in e.lists:
            old = self.slice(Val(v, None, w), low, 64).v
            copy = f.widen(f.op(f"call i64 @k_list_clone(i64 {old})"), 64, w)
            moved = f.op(f"shl i{w} {copy}, {low}") if low else copy
            kept = f.op(f"and i{w} {v}, {((1 << w) - 1) & ~(((1 << 64) - 1) << low)}")
            v = f.op(f"or i{w} {kept}, {moved}")
        return Val(v, a.u, w)

    def field_address(self, obj: n.Expr, word: int, site: int) -> str:
        f = self.f
        data = f.op(f"call ptr @k_object(i64 {self.value(obj).v}, i32 {site})")
        return f.op(f"getelementptr i8, ptr {data}, i64 {8 * word}")

    def field_element(self, place: n.FieldPlace | n.FieldValue) -> tuple[str, str | None]:
        """The address of a property, or of its element (of element 0 when out of range), and an i1: in range."""
        f = self.f
        at = self.field_address(place.object, place.word, place.site)
        if place.element is None:
            return at, None
        number, ok = self.offset(place.element)
        if ok is not None:
            number = f.op(f"select i1 {ok}, i64 {number}, i64 0")
        t = place.type.element if isinstance(place.type, Array) else place.type
        return f.op(f"getelementptr i8, ptr {at}, i64 {f.op(f'mul i64 {number}, {8 * field_words(t)}')}"), ok

    def _fieldvalue(self, e: n.FieldValue) -> Val:
        t = n.vec(e)
        at, ok = self.field_element(e)
        return self.unless_outside(self.f.load_planes(at, t.width, 8 * ((t.width + 63) // 64), 2 if t.four else 1), ok)

    # ---- whole arrays ----

    def array(self, e: n.Expr) -> tuple[str, int, int]:
        """The elements of a value of type Array: an address, the bytes of a plane and the planes of each."""
        f = self.f
        t = e.type
        assert isinstance(t, Array)
        size, planes, width = layout_of(t.element)
        match e:
            case n.Ref(signal=signal, element=element):
                s = f.storage(signal)
                if element is None:
                    return s.address, s.bytes, s.planes
                return self.element_address(signal, element)[0], s.bytes, s.planes
            case n.FieldValue():
                words = (width + 63) // 64
                return self.field_element(e)[0], 8 * words, planes
            case n.ArrayConst(items=items):
                return self._array_of(t, items), size, planes
            case n.Item():
                at, inner, count = self.array(e.array)
                number, ok = self.offset(e.element)
                number = f.op(f"select i1 {ok}, i64 {number}, i64 0") if ok is not None else number
                return f.op(f"getelementptr i8, ptr {at}, i64 {f.op(f'mul i64 {number}, {inner * count}')}"), inner, count
            case n.Call():
                return self.call(e)[0], size, planes
            case n.Choice(cond=cond, a=a, b=b):
                first, second = self._copied(a), self._copied(b)
                return f.op(f"select i1 {self.holds(cond)}, ptr {first}, ptr {second}"), size, planes
            case n.ListArray():
                return self.list_array(e)
            case n.Effect(body=body, a=a):
                self.run(body)
                return self.array(a)
        raise AssertionError(f"no array: {type(e).__name__}")

    def _array_of(self, t: Array, items: tuple[n.Expr, ...]) -> str:
        f = self.f
        size, planes, _ = layout_of(t.element)
        if all(isinstance(x, n.Const) for x in items):
            parts = b"".join(
                x.val.to_bytes(size, "little") + (x.unk.to_bytes(size, "little") if planes > 1 else b"")
                for x in items
                if isinstance(x, n.Const)
            )
            if len(items) == t.count:
                return self.module.data(parts)
        at = f.alloca(t.count * size * planes)
        if len(items) == 1:
            pv, pu = self.spilled(self.evaluate(items[0]))
            f.emit(f"call void @k_array_fill(ptr {at}, i32 {size}, i32 {planes}, ptr {pv}, ptr {pu}, i64 {t.count})")
            return at
        for k, item in enumerate(items):
            value = self.evaluate(item)
            p = f.op(f"getelementptr i8, ptr {at}, i64 {k * size * planes}")
            if isinstance(value, str):
                f.emit(f"store double {value}, ptr {p}")
            else:
                f.store_planes(p, value if planes > 1 else self.known(value), size, planes)
        return at

    def _copied(self, e: n.Expr) -> str:
        """An array in memory of its own, in the layout of its type."""
        f = self.f
        t = e.type
        assert isinstance(t, Array)
        size, planes, _ = layout_of(t.element)
        at, there, planes_there = self.array(e)
        made = f.alloca(t.count * size * planes)
        f.emit(
            f"call void @k_array_copy(ptr {made}, i32 {size}, i32 {planes}, ptr {at}, i32 {there}, i32 {planes_there}, i64 {t.count})"
        )
        return made

    def item_address(self, e: n.Item) -> tuple[str, str | None]:
        f = self.f
        at, size, planes = self.array(e.array)
        number, ok = self.offset(e.element)
        if ok is not None:
            number = f.op(f"select i1 {ok}, i64 {number}, i64 0")
        return f.op(f"getelementptr i8, ptr {at}, i64 {f.op(f'mul i64 {number}, {size * planes}')}"), ok

    def _item(self, e: n.Item) -> Val:
        t = n.vec(e)
        _, size, planes = self.array_layout(e.array)
        at, ok = self.item_address(e)
        return self.unless_outside(self.f.load_planes(at, t.width, size, planes), ok)

    def array_layout(self, e: n.Expr) -> tuple[str, int, int]:
        """Bytes of a plane and planes, as `array` gives them, without making the value."""
        t = e.type
        assert isinstance(t, Array)
        size, planes, width = layout_of(t.element)
        if isinstance(e, n.FieldValue):
            return "", 8 * ((width + 63) // 64), planes
        if isinstance(e, n.ListArray):
            listed = e.list.type
            return "", *(layout_of(listed.element)[:2] if isinstance(listed, List) else (size, planes))
        if isinstance(e, (n.Item, n.Effect)):
            return self.array_layout(e.array if isinstance(e, n.Item) else e.a)
        if isinstance(e, n.Ref):
            return "", *layout_of(e.signal.type)[:2]
        return "", size, planes

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
        real, inst = (e.function, f.inst()) if e.via is None else self.linked(e.via, e.function)
        name = self.module.subprogram(real)
        args: list[str] = []
        for port, arg in zip(e.function.ports, e.args, strict=True):
            args.append(self.argument(port, arg))
        assert e.type is not None
        w = width_of(e.type)
        size = max((w + 63) // 64, 1) * 8
        if isinstance(e.type, Array):
            element, planes, _ = layout_of(e.type.element)
            size = e.type.count * element * planes
        result = f.alloca(2 * size)
        extra = "".join(f", ptr {a}" for a in args)
        if e.variants:
            self._dispatch(e, args, result)
        else:
            f.emit(f"call void @{name}(ptr %m, ptr {inst}, ptr {result}{extra})")
        for at, port, places in zip(args, e.function.ports, e.copy_back):
            if places is not None:
                self.take_output(at, port, places)
        if isinstance(e.type, Array):
            return result, None
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
        if port.dims:
            return self._copied(arg)
        if isinstance(port.type, Real):
            at = f.alloca(8)
            f.emit(f"store double {self.real(arg)}, ptr {at}")
            return at
        value = self.value(arg)
        return f.spill(value)[0]


def field_words(t: Type) -> int:
    """Words that a property, or each of its elements, takes in an object."""
    return (width_of(t) + 63) // 64 * layout_of(t)[1]
