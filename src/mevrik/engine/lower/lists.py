"""Queues and dynamic arrays: calls of the kernel's list functions (kernel/list.c)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import List, Text, Type
from mevrik.engine.lower.function import Function, Val

if TYPE_CHECKING:
    from mevrik.engine.lower.module import ModuleLowerer

REDUCTIONS = {"sum": 0, "product": 1, "and": 2, "or": 3, "xor": 4}
ORDERS = {"reverse": 0, "sort": 1, "rsort": 2}


def _form(t: List) -> str:
    """Width and planes of the elements, as arguments."""
    return f"i32 {t.element.width}, i32 {2 if t.element.four else 1}"


def _type_of(place: n.LRef | n.FieldPlace) -> Type:
    return place.type if isinstance(place, n.FieldPlace) else place.signal.type


class ListLowerer:
    module: ModuleLowerer
    f: Function

    def value(self, e: n.Expr) -> Val:
        raise NotImplementedError

    def index64(self, e: n.Expr) -> str:
        """An index as i64; an unknown one is outside of everything."""
        raise NotImplementedError

    def field_address(self, obj: n.Expr, word: int, site: int) -> str:
        raise NotImplementedError

    def slot_of(self, place: n.LRef | n.FieldPlace) -> str:
        if isinstance(place, n.FieldPlace):
            return self.field_address(place.object, place.word, place.site)
        return self.f.storage(place.signal).address

    def _element(self, t: List) -> tuple[str, str]:
        words = max((t.element.width + 63) // 64, 1)
        at = self.f.alloca(16 * words)
        return at, self.f.op(f"getelementptr i8, ptr {at}, i64 {8 * words}")

    def _loaded(self, t: List, at: str) -> Val:
        words = max((t.element.width + 63) // 64, 1)
        return self.f.load_planes(at, t.element.width, 8 * words, 2 if t.element.four else 1)

    def _listvalue(self, e: n.ListValue) -> Val:
        f = self.f
        if e.op == "pop":
            assert isinstance(e.list, (n.LRef, n.FieldPlace))
            t = _type_of(e.list)
            assert isinstance(t, List)
            pv, pu = self._element(t)
            front = self.value(e.args[0]).v
            f.emit(f"call void @k_list_pop(ptr {self.slot_of(e.list)}, i32 {front}, {_form(t)}, ptr {pv}, ptr {pu})")
            return self._loaded(t, pv)
        assert isinstance(e.list, n.Expr) and isinstance(e.list.type, List)
        t = e.list.type
        handle = self.value(e.list).v
        if e.op == "size":
            return Val(f.op(f"call i32 @k_list_size(i64 {handle})"), None, 32)
        if e.op == "clone":
            return Val(f.op(f"call i64 @k_list_clone(i64 {handle})"), None, 64)
        if e.op == "has":
            pv, pu = f.spill(self.value(e.args[0]))
            found = f.op(f"call i32 @k_list_has(i64 {handle}, ptr {pv}, ptr {pu})")
            return Val(f.op(f"trunc i32 {found} to i1"), None, 1)
        if e.op == "equal":
            same = f.op(f"call i32 @k_list_equal(i64 {handle}, i64 {self.value(e.args[0]).v})")
            return Val(f.op(f"trunc i32 {same} to i1"), None, 1)
        pv, pu = self._element(t)
        if e.op == "get":
            f.emit(f"call void @k_list_get(i64 {handle}, i64 {self.index64(e.args[0])}, {_form(t)}, ptr {pv}, ptr {pu})")
        else:
            f.emit(f"call void @k_list_reduce(i64 {handle}, i32 {REDUCTIONS[e.op]}, {_form(t)}, ptr {pv}, ptr {pu})")
        return self._loaded(t, pv)

    def _do_liststep(self, s: n.ListStep) -> None:
        f = self.f
        t = _type_of(s.list)
        assert isinstance(t, List)
        slot = f"ptr {self.slot_of(s.list)}"
        form = _form(t)
        op, args = s.op, s.args
        if op in ("push", "insert", "set"):
            index = "" if op == "push" else f", i64 {self.index64(args[0])}"
            pv, pu = f.spill(self.value(args[-1]))
            last = f", i32 {int(t.queue)}" if op == "set" else ""
            f.emit(f"call void @k_list_{op}({slot}, {form}{index}, ptr {pv}, ptr {pu}{last})")
        elif op == "delete":
            f.emit(f"call void @k_list_delete({slot}, i64 {self.index64(args[0])})")
        elif op == "clear":
            f.emit(f"call void @k_list_clear({slot})")
        elif op == "append":
            handle, first, last = self.value(args[0]).v, self.index64(args[1]), self.index64(args[2])
            f.emit(f"call void @k_list_append({slot}, {form}, i64 {handle}, i64 {first}, i64 {last})")
        elif op == "copy":
            f.emit(f"call void @k_list_copy({slot}, {form}, i64 {self.value(args[0]).v})")
        elif op == "new":
            f.emit(f"call void @k_list_new({slot}, {form}, i64 {self.index64(args[0])}, i64 {self.value(args[1]).v})")
        elif op in ("least", "most"):
            pv, pu = self._element(t)
            source = args[0].type
            assert isinstance(source, List)
            flags = f"i32 {int(source.element.signed)}, i32 {int(isinstance(source.element, Text))}"
            handle = self.value(args[0]).v
            f.emit(f"call void @k_list_extreme(i64 {handle}, i32 {int(op == 'most')}, {flags}, {form}, ptr {pv}, ptr {pu})")
            f.emit(f"call void @k_list_push({slot}, {form}, ptr {pv}, ptr {pu})")
        else:
            flags = f"i32 {int(t.element.signed)}, i32 {int(isinstance(t.element, Text))}"
            f.emit(f"call void @k_list_order({slot}, i32 {ORDERS[op]}, {flags})")
