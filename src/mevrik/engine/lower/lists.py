"""Queues, dynamic and associative arrays: calls of the kernel's list functions (kernel/list.c)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import Array, Bag, List, Real, Text, Type, Vec, width_of
from mevrik.design.unit import Signal
from mevrik.engine.lower.function import Function, Val, layout_of

if TYPE_CHECKING:
    from mevrik.engine.lower.module import ModuleLowerer

_PICKS = {"min": 0, "max": 1, "unique": 2, "unique_index": 3}
_MOVES = {"first": 0, "last": 1, "next": 2, "prev": 3}
_KEYED = {"exists", "first", "last", "next", "prev"}


def _order(t: Type) -> int:
    """How values of a type are ordered: unsigned, signed, as texts, as reals."""
    if isinstance(t, Real):
        return 3
    return 2 if isinstance(t, Text) else int(isinstance(t, Vec) and t.signed)


def _key_kind(t: List) -> int:
    assert t.key is not None
    return 3 if isinstance(t.key, Text) else 1 if t.key.signed else 2


def list_type_of(place: n.Expr | n.ListPlace) -> List:
    t = place.signal.type if isinstance(place, n.LRef) else place.type
    assert isinstance(t, List)
    return t


class ListLowerer:
    module: ModuleLowerer
    f: Function

    def value(self, e: n.Expr) -> Val:
        raise NotImplementedError

    def evaluate(self, e: n.Expr) -> Val | str:
        """Planes of a vector, or a double."""
        raise NotImplementedError

    def index64(self, e: n.Expr) -> str:
        """An index as i64; an unknown one is outside of everything."""
        raise NotImplementedError

    def known(self, a: Val) -> Val:
        raise NotImplementedError

    def resized(self, a: Val, width: int, signed: bool) -> Val:
        raise NotImplementedError

    def holds(self, e: n.Expr) -> str:
        raise NotImplementedError

    def field_address(self, obj: n.Expr, word: int, site: int) -> str:
        raise NotImplementedError

    def field_element(self, place: n.FieldPlace | n.FieldValue) -> tuple[str, str | None]:
        raise NotImplementedError

    def element_address(self, signal: Signal, element: n.Offset) -> tuple[str, str | None]:
        raise NotImplementedError

    def array(self, e: n.Expr) -> tuple[str, int, int]:
        raise NotImplementedError

    def write(self, target: tuple[n.LRef, ...], value: Val | str, site: int) -> None:
        raise NotImplementedError

    # ---- places ----

    def form(self, t: List) -> str:
        """Width and planes of the elements, as arguments; above the planes stands what they hold of lists, as kernel/list.c has it."""
        planes = layout_of(t.element)[1]
        if isinstance(t.element, List):
            planes |= 1 << 2
        elif isinstance(t.element, Bag):
            planes |= self.module.bag(t.element) + 2 << 2
        return f"i32 {width_of(t.element)}, i32 {planes}"

    def slot_of(self, place: n.ListPlace) -> str:
        """The address of the number of a list."""
        f = self.f
        match place:
            case n.FieldPlace():
                return self.field_element(place)[0]
            case n.ElementPlace():
                return self._slot_of_element(place)
            case n.MemberPlace():
                return f.op(f"getelementptr i8, ptr {self.slot_of(place.place)}, i64 {place.bits // 8}")
            case n.LRef(signal=signal, element=element):
                return f.storage(signal).address if element is None else self.element_address(signal, element)[0]

    def _slot_of_element(self, place: n.ElementPlace) -> str:
        f = self.f
        outer = place.list
        t = list_type_of(outer)
        slot = self.slot_of(outer)
        if t.key is not None:
            return f.op(f"call ptr @k_map_slot(ptr {slot}, {self.form(t)}, i64 {self._key(t, place.index)}, i32 {_key_kind(t)})")
        return f.op(f"call ptr @k_list_slot(ptr {slot}, {self.form(t)}, i64 {self.index64(place.index)})")

    def _key(self, t: List, e: n.Expr) -> str:
        assert t.key is not None
        return self.resized(self.known(self.value(e)), 64, t.key.signed).v

    # ---- elements ----

    def _element(self, t: List) -> tuple[str, str]:
        words = max((width_of(t.element) + 63) // 64, 1)
        at = self.f.alloca(16 * words)
        return at, self.f.op(f"getelementptr i8, ptr {at}, i64 {8 * words}")

    def _loaded(self, t: Type, at: str) -> Val | str:
        if isinstance(t, Real):
            return self.f.op(f"load double, ptr {at}")
        assert isinstance(t, Vec)
        words = max((t.width + 63) // 64, 1)
        return self.f.load_planes(at, t.width, 8 * words, 2 if t.four else 1)

    def spilled(self, value: Val | str) -> tuple[str, str]:
        """A value as the kernel takes it: pointers to its planes."""
        f = self.f
        if isinstance(value, str):
            return f.spill(Val(f.op(f"bitcast double {value} to i64"), None, 64))
        return f.spill(value)

    def _listvalue(self, e: n.ListValue) -> Val:
        found = self.list_value(e)
        assert isinstance(found, Val)
        return found

    def list_value(self, e: n.ListValue) -> Val | str:
        f = self.f
        if e.op == "pop":
            assert not isinstance(e.list, n.Expr)
            t = list_type_of(e.list)
            pv, pu = self._element(t)
            front = self.value(e.args[0]).v
            f.emit(f"call void @k_list_pop(ptr {self.slot_of(e.list)}, i32 {front}, {self.form(t)}, ptr {pv}, ptr {pu})")
            return self._loaded(t.element, pv)
        assert isinstance(e.list, n.Expr)
        t = list_type_of(e.list)
        handle = self.value(e.list).v
        if e.op == "size":
            return Val(f.op(f"call i32 @k_list_size(i64 {handle})"), None, 32)
        if e.op == "clone":
            return Val(f.op(f"call i64 @k_list_clone(i64 {handle})"), None, 64)
        if e.op == "has":
            pv, pu = self.spilled(self.evaluate(e.args[0]))
            found = f.op(f"call i32 @k_list_has(i64 {handle}, ptr {pv}, ptr {pu})")
            return Val(f.op(f"trunc i32 {found} to i1"), None, 1)
        if e.op == "equal":
            same = f.op(f"call i32 @k_list_equal(i64 {handle}, i64 {self.value(e.args[0]).v})")
            return Val(f.op(f"trunc i32 {same} to i1"), None, 1)
        if e.op == "slice":
            first, last = self.index64(e.args[0]), self.index64(e.args[1])
            return Val(f.op(f"call i64 @k_list_slice(i64 {handle}, {self.form(t)}, i64 {first}, i64 {last})"), None, 64)
        if e.op in _KEYED:
            return self._keyed(e, t, handle)
        pv, pu = self._element(t)
        if t.key is not None:
            key = self._key(t, e.args[0])
            f.emit(f"call void @k_map_get(i64 {handle}, i64 {key}, i32 {_key_kind(t)}, {self.form(t)}, ptr {pv}, ptr {pu})")
        else:
            f.emit(f"call void @k_list_get(i64 {handle}, i64 {self.index64(e.args[0])}, {self.form(t)}, ptr {pv}, ptr {pu})")
        return self._loaded(t.element, pv)

    def _keyed(self, e: n.ListValue, t: List, handle: str) -> Val:
        f = self.f
        assert t.key is not None
        key, kind = self._key(t, e.args[0]), _key_kind(t)
        if e.op == "exists":
            return Val(f.op(f"call i32 @k_map_exists(i64 {handle}, i64 {key}, i32 {kind})"), None, 32)
        out = f.alloca(8)
        moved = f.op(f"call i32 @k_map_move(i64 {handle}, i32 {_MOVES[e.op]}, i64 {key}, i32 {kind}, ptr {out})")
        reached, on = f.label("reached"), f.label("on")
        f.branch(f.op(f"icmp ne i32 {moved}, 0"), reached, on)
        f.start(reached)
        at = f.op(f"load i64, ptr {out}")
        self.write(e.out, self.resized(Val(at, None, 64), sum(p.width for p in e.out), False), 0)
        f.start(on)
        return Val(moved, None, 32)

    def _arraylist(self, e: n.ArrayList) -> Val:
        t, array = e.type, e.array.type
        assert isinstance(t, List) and isinstance(array, Array)
        at, size, planes = self.array(e.array)
        made = self.f.op(f"call i64 @k_list_of(ptr {at}, i32 {size}, i32 {planes}, i64 {array.count}, {self.form(t)})")
        return Val(self._turned(made, array, t) if e.turned else made, None, 64)

    def _turned(self, handle: str, array: Array, t: List) -> str:
        return self.f.op(f"call i64 @k_list_turned(i64 {handle}, i64 {array.count}, {self.form(t)})")

    def list_array(self, e: n.ListArray) -> tuple[str, int, int]:
        """The elements of a list as an array in memory."""
        array = e.type
        assert isinstance(array, Array)
        t = list_type_of(e.list)
        handle = str(self.value(e.list).v)
        if e.turned:
            handle = self._turned(handle, array, t)
        at = self.f.op(f"call ptr @k_list_data(i64 {handle}, i64 {array.count}, {self.form(t)})")
        size, planes, _ = layout_of(t.element)
        return at, size, planes

    # ---- loops ----

    def _listloop(self, e: n.ListLoop) -> Val:
        found = self.list_loop(e)
        assert isinstance(found, Val)
        return found

    def list_loop(self, e: n.ListLoop) -> Val | str:
        from mevrik.engine.lower.loops import LoopLowerer

        return LoopLowerer(self, e).run()  # type: ignore[arg-type]

    def handle_of_temporary(self, t: List) -> str:
        return self.f.op(f"call i64 @k_list_temporary({self.form(t)})")

    # ---- streams ----

    def stream_call(self, e: n.SysCall, args: list[n.Expr]) -> Val:
        """Dynamic streams, as lang/verilog/elaborate/streams.py makes them."""
        f = self.f
        if e.name == "$stream":
            values = [(self.value(a), isinstance(a.type, List)) for a in args]
            made = f.op("call i64 @k_stream()")
            for value, listed in values:
                if listed:
                    f.emit(f"call void @k_stream_list(i64 {made}, i64 {value.v})")
                else:
                    pv, pu = f.spill(value)
                    f.emit(f"call void @k_stream_value(i64 {made}, i32 {value.w}, ptr {pv}, ptr {pu})")
            return Val(made, None, 64)
        source = self.value(args[0]).v
        if e.name in ("$stream_turn", "$stream_back"):
            back = int(e.name == "$stream_back")
            return Val(f.op(f"call i64 @k_stream_turn(i64 {source}, i32 {e.note}, i32 {back})"), None, 64)
        if e.name == "$stream_size":
            return Val(f.op(f"zext i32 {f.op(f'call i32 @k_stream_size(i64 {source})')} to i64"), None, 64)
        start = self.known(self.resized(self.value(args[1]), 64, False)).v
        last = self.known(self.resized(self.value(args[2]), 64, False)).v
        if e.name == "$stream_elements":
            t = e.type
            assert isinstance(t, List)
            return Val(f.op(f"call i64 @k_stream_elements(i64 {source}, i64 {start}, i64 {last}, {self.form(t)})"), None, 64)
        w = n.vec(e).width
        words = max((w + 63) // 64, 1)
        at = f.alloca(16 * words)
        up = f.op(f"getelementptr i8, ptr {at}, i64 {8 * words}")
        whole = f.op(f"trunc i64 {last} to i32")
        f.emit(f"call void @k_stream_into(i64 {source}, i32 {e.note}, i64 {start}, i32 {w}, i32 {whole}, ptr {at}, ptr {up})")
        return f.load_planes(at, w, 8 * words, 2)

    # ---- steps ----

    def _do_liststep(self, s: n.ListStep) -> None:
        f = self.f
        t = list_type_of(s.list)
        op, args = s.op, s.args
        slot = f"ptr {self.slot_of(s.list)}"
        form = self.form(t)
        if op in ("push", "insert", "set", "default"):
            pv, pu = self.spilled(self.evaluate(args[-1]))
            if op == "default":
                f.emit(f"call void @k_map_default({slot}, {form}, ptr {pv}, ptr {pu})")
            elif t.key is not None:
                f.emit(f"call void @k_map_set({slot}, {form}, i64 {self._key(t, args[0])}, i32 {_key_kind(t)}, ptr {pv}, ptr {pu})")
            else:
                index = "" if op == "push" else f", i64 {self.index64(args[0])}"
                last = f", i32 {int(t.queue)}" if op == "set" else ""
                f.emit(f"call void @k_list_{op}({slot}, {form}{index}, ptr {pv}, ptr {pu}{last})")
        elif op == "delete" and t.key is not None:
            f.emit(f"call void @k_map_delete({slot}, i64 {self._key(t, args[0])}, i32 {_key_kind(t)})")
        elif op == "delete":
            f.emit(f"call void @k_list_delete({slot}, i64 {self.index64(args[0])})")
        elif op == "append":
            handle, first, last = self.value(args[0]).v, self.index64(args[1]), self.index64(args[2])
            f.emit(f"call void @k_list_append({slot}, {form}, i64 {handle}, i64 {first}, i64 {last})")
        elif op == "copy":
            f.emit(f"call void @k_list_copy({slot}, {form}, i64 {self.value(args[0]).v})")
        elif op == "take":
            f.emit(f"call void @k_list_take({slot}, i64 {self.value(args[0]).v})")
        elif op == "new":
            f.emit(f"call void @k_list_new({slot}, {form}, i64 {self.index64(args[0])}, i64 {self.value(args[1]).v})")
        elif op == "order":
            by = args[0].type
            assert isinstance(by, List)
            down = self.value(args[1]).v
            f.emit(f"call void @k_list_order({slot}, i64 {self.value(args[0]).v}, i32 {down}, i32 {_order(by.element)})")
        else:
            f.emit(f"call void @k_list_{op}({slot})")
        if t.most and op in ("push", "insert", "set", "append", "copy", "take"):
            handle = f.op(f"load i64, {slot}")
            f.emit(f"call void @k_list_bound(i64 {handle}, i32 {t.most})")


__all__ = ["_PICKS", "ListLowerer", "_order", "list_type_of"]
