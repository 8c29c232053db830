"""Calls of subprograms and what they hand over (IEEE 1076-2008 9.3.4, 10.7); calls of the kernel."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.layout import Unsupported
from mevrik.engine.typed.assignments import Assignments
from mevrik.engine.typed.function import Place, Range, is_composite, register
from mevrik.engine.typed.places import CALLER, inner_dims, open_inside


class Calls(Assignments):
    # ---- calls ----

    def call(self, e: t.Call) -> Place | str:
        f = self.f
        sub = e.sub
        if sub.alias_of is not None:
            sub = sub.alias_of
        if sub.intrinsic and not sub.intrinsic.startswith("x_"):
            return self._special(e, sub)
        if (
            sub.name in ("rising_edge", "falling_edge")
            and sub.region is not None
            and sub.params[0].subtype.type.name == "std_ulogic"
        ):
            return self.edge(e.args[0], sub.name == "rising_edge", True)
        quick = self.numeric(e)
        if quick is None:
            quick = self.nine_logic(e)
        if quick is not None:
            return quick
        args: list[str] = []
        after: list[tuple[Place, t.Subtype]] = []
        if not sub.intrinsic:
            args.append("ptr %m")
            if sub.method_of is not None:
                args.append(f"ptr {self._self_of(e)}")
        result = sub.result if sub.function else None
        vec = ""
        if result is not None and is_composite(result):
            dims = len(result.type.indexes) if isinstance(result.type, t.ArrayType) else 0
            vec = f.alloca(f"[{1 + 3 * (dims + inner_dims(result))} x i64]")
            args.append(f"ptr {vec}")
            f.allocated = True
        shapes: dict[int, t.Subtype] = {}
        for k, (p, x) in enumerate(zip(sub.params, e.args, strict=True)):
            args += self._argument(p, x, after)
            if is_composite(p.subtype) and open_inside(p.subtype):
                shapes[k] = self._shape_of(p, x)
        if sub.intrinsic:
            name = sub.intrinsic
            self.module.uses(sub)
        else:
            name = self.module.subprogram(sub, shapes)
            if sub.ours and f.site and not (f.sub is not None and f.sub.ours):
                f.emit(f"store i64 {f.site}, ptr {f.gep('%m', self.module.base + CALLER)}")
            for o in self.module.captured(sub):
                args += self._capture(o)
            for shape in shapes.values():
                if open_inside(shape):
                    args += [f"i64 {x}" for r in self.inner_ranges(shape) for x in (r.left, r.right, r.down)]
        text = ", ".join(args)
        if result is None:
            f.emit(f"call void @{name}({text})")
            for place, of in after:
                if of.range is not None:
                    self.check(f.load(place.ptr, place.subtype), None, of)
            return "0"
        if vec:
            f.emit(f"call void @{name}({text})")
            return self._composite_result(e, result, vec, shapes)
        return f.op(f"call {register(result)} @{name}({text})")

    def _composite_result(self, e: t.Call, result: t.Subtype, vec: str, shapes: dict[int, t.Subtype]) -> Place:
        """What a function left in `vec`: where the value lies, its bounds, and the bounds inside of it where the type leaves them open."""
        ptr = self.f.op(f"load ptr, ptr {vec}")
        behind = self.f.gep(vec, 8)
        own = len(result.type.indexes) if isinstance(result.type, t.ArrayType) else 0
        bounds = self.carried(behind, 0, own) if own else None
        if bounds is not None and result.bounds is not None and result.static:
            bounds = self.ranges(result) or bounds
        shape = self.plain(result) if result.bounds is None and bounds is not None else result
        if not open_inside(shape):
            return Place(ptr, shape, bounds)
        if e.type.static and e.type.type is result.type:
            return Place(ptr, e.type, bounds)
        if isinstance(result.type, t.ArrayType):
            alike = [x.elem for x in (e.type, *shapes.values()) if x.type is result.type and x.elem.static]
            if alike:
                return Place(ptr, t.Subtype(result.type, result.name, None, None, alike[0]), bounds)
        return Place(ptr, self.shaped(shape, self.carried(behind, own, inner_dims(shape))), bounds)

    def _shape_of(self, p: t.Object, x: t.Expr) -> t.Subtype:
        """The subtype of a parameter with what only the actual says of its elements."""
        if isinstance(x, (t.Ref, t.Index, t.Slice, t.FieldOf, t.Deref)):
            actual = self.place(x).subtype
        else:
            actual = x.type if not open_inside(x.type) else self.composite(x).subtype
        if isinstance(p.subtype.type, t.ArrayType):
            return t.Subtype(p.subtype.type, p.subtype.name, None, None, actual.elem)
        return actual

    def _self_of(self, e: t.Call) -> str:
        if e.target is None:
            return self.f.self_ptr
        return self.place(e.target).ptr

    def _argument(self, p: t.Object, x: t.Expr, after: list[tuple[Place, t.Subtype]]) -> list[str]:
        f = self.f
        if p.cls == "file":
            return [f"ptr {self.place(x).ptr}"]
        if isinstance(x, t.OpenFile):
            raise Unsupported("a parameter without a value is not supported here")
        composite = is_composite(p.subtype)
        if p.cls == "signal":
            place = self.place(x)
            part = place.signal
            assert part is not None
            driver = self.driver(part, x) if p.mode != "in" else "null"
            words = [f"ptr {place.ptr}", f"i64 {part.number}", f"i64 {part.at}", f"ptr {driver}"]
            return words + (self._bounds(place, p) if composite else [])
        if composite:
            place = self.place(x) if p.cls == "variable" else self.composite(x)
            if p.subtype.bounds is not None:
                want = self._formal_bounds(p)
                if want is not None:
                    for have, need in zip(self.bounds_of(place), want, strict=True):
                        self.same_length(f.length(have), f.length(need))
                    place = Place(place.ptr, place.subtype, want)
            return [f"ptr {place.ptr}", *self._bounds(place, p)]
        if p.cls == "variable" and (p.mode != "in" or isinstance(p.subtype.type, (t.AccessType, t.ProtectedType))):
            if isinstance(x, (t.Ref, t.Index, t.Slice, t.FieldOf, t.Deref)):
                place = self.place(x)
                if p.mode == "inout" and p.subtype.range is not None and not isinstance(p.subtype.type, t.ProtectedType):
                    self.check(f.load(place.ptr, place.subtype), x, p.subtype)
                if p.mode != "in":
                    after.append((place, x.type))
                return [f"ptr {place.ptr}"]
        if p.cls == "variable":
            slot = f.alloca(register(p.subtype))
            f.store(self.checked(x, p.subtype), slot, p.subtype)
            return [f"ptr {slot}"]
        return [f"{register(p.subtype)} {self.checked(x, p.subtype)}"]

    def _formal_bounds(self, p: t.Object) -> list[Range] | None:
        assert p.subtype.bounds is not None
        if all(b.static for b in p.subtype.bounds):
            return self.ranges(p.subtype)
        return None

    def _bounds(self, place: Place, p: t.Object) -> list[str]:
        if not isinstance(p.subtype.type, t.ArrayType):
            return []
        found: list[str] = []
        for r in self.bounds_of(place):
            found += [f"i64 {r.left}", f"i64 {r.right}", f"i64 {r.down}"]
        return found

    def _capture(self, o: t.Object) -> list[str]:
        """An object of an enclosing subprogram, handed on."""
        f = self.f
        known = f.known.get(o)
        if is_register(o):
            assert known is not None, o.name
            return [f"{register(o.subtype)} {known}"]
        place = self.object(o)
        words = [f"ptr {place.ptr}"]
        if place.signal is not None:
            words += [f"i64 {place.signal.number}", f"i64 {place.signal.at}", f"ptr {place.signal.driver or 'null'}"]
        for r in place.bounds or self.ranges(o.subtype) or ():
            words += [f"i64 {r.left}", f"i64 {r.right}", f"i64 {r.down}"]
        return words

    def _special(self, e: t.Call, sub: t.Subprogram) -> Place | str:
        """What the kernel does with the site of the call."""
        f = self.f
        name = sub.intrinsic
        if name == "now":
            return f.op(f"load i64, ptr {f.gep('%m', self.module.base + 8)}")
        if name == "deallocate":
            cell = self.place(e.args[0]).ptr
            f.emit(f"call void @v_free(ptr {f.op(f'load ptr, ptr {cell}')})")
            f.emit(f"store i64 0, ptr {cell}")
            return "0"
        if name in ("file_open", "file_open_status"):
            args = list(e.args)
            head: list[str] = []
            if name == "file_open_status":
                head = [f"ptr {self.place(args.pop(0)).ptr}"]
            cell = self.place(args[0]).ptr
            p = self.composite(args[1])
            r = self.bounds_of(p)[0]
            words = [
                *head,
                f"ptr {cell}",
                f"ptr {p.ptr}",
                f"i64 {r.left}",
                f"i64 {r.right}",
                f"i64 {r.down}",
                f"i64 {self.scalar(args[2])}",
                f"i32 {f.site}",
            ]
            f.emit(f"call void @{name}({', '.join(words)})")
            return "0"
        cell = self.place(e.args[0]).ptr
        if name in ("file_close", "file_flush"):
            f.emit(f"call void @{name}(ptr {cell}, i32 {f.site})")
            return "0"
        if name == "endfile":
            return f.op(f"call i64 @endfile(ptr {cell}, i32 {f.site})")
        if name == "file_read":
            p = self.place(e.args[1])
            f.emit(f"call void @file_read(ptr {cell}, ptr {p.ptr}, i64 {self.size(p)}, i32 {f.site})")
            return "0"
        if name == "file_write_text":
            p = self.composite(e.args[1])
            f.emit(f"call void @file_write(ptr {cell}, ptr {p.ptr}, i64 {f.count_of(self.bounds_of(p))}, i32 {f.site})")
            return "0"
        if name == "file_write":
            if is_composite(e.args[1].type):
                p = self.composite(e.args[1])
                if isinstance(p.subtype.type, t.ArrayType) and sub.params[1].subtype.bounds is None:
                    n = f.count_of(self.bounds_of(p))
                    f.emit(
                        f"call void @file_write_array(ptr {cell}, ptr {p.ptr}, i64 {n}, i64 {self.element_size(p.subtype)}, i32 {f.site})"
                    )
                    return "0"
            else:
                slot = f.alloca(register(e.args[1].type))
                of = sub.params[1].subtype
                f.store(self.checked(e.args[1], of), slot, of)
                p = Place(slot, of)
            f.emit(f"call void @file_write(ptr {cell}, ptr {p.ptr}, i64 {self.size(p)}, i32 {f.site})")
            return "0"
        if name == "file_read_array":
            p = self.place(e.args[1])
            n = f.count_of(self.bounds_of(p))
            have = f.op(
                f"call i64 @file_read_array(ptr {cell}, ptr {p.ptr}, i64 {n}, i64 {self.element_size(p.subtype)}, i32 {f.site})"
            )
            q = self.place(e.args[2])
            f.store(have, q.ptr, q.subtype)
            return "0"
        raise Unsupported(f"'{sub.name}' is not supported here")


def is_register(o: t.Object) -> bool:
    """Whether an object of a subprogram is a value in a register."""
    if is_composite(o.subtype):
        return False
    if o.kind == "param":
        return o.cls == "constant"
    return o.kind in ("constant", "loop")
