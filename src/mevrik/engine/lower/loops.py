"""Methods that go through a list: reductions, locators, keys to sort by (IEEE 1800-2017 7.12)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.types import List, Real, Vec, width_of
from mevrik.engine.lower.function import Val
from mevrik.engine.lower.lists import _PICKS, _order

if TYPE_CHECKING:
    from mevrik.engine.lower.statements import StatementLowerer

_REDUCTIONS = {"sum": "+", "product": "*", "and": "&", "or": "|", "xor": "^"}


class LoopLowerer:
    def __init__(self, lower: StatementLowerer, e: n.ListLoop) -> None:
        self.lower = lower
        self.f = lower.f
        self.e = e
        t = e.list.type
        assert isinstance(t, List)
        self.t = t

    def run(self) -> Val | str:
        op = self.e.op
        self.handle = self.lower.value(self.e.list).v
        if op in _REDUCTIONS:
            return self._reduced(_REDUCTIONS[op])
        if op == "map" or op in _PICKS:
            keys = self._mapped()
            return keys if op == "map" else self._picked(op, keys)
        return self._found(op)

    def _rounds(self, backwards: bool) -> tuple[str, str, str]:
        """Start a loop over the elements: sets item and index; gives the labels of its next round and its end, and the index."""
        f, e, t = self.f, self.e, self.t
        counter = f.alloca(8)
        size32 = f.op(f"call i32 @k_list_size(i64 {self.handle})")
        size = f.op(f"zext i32 {size32} to i64")
        f.emit(f"store i64 0, ptr {counter}")
        top, body, done = f.label("round"), f.label("each"), f.label("past")
        f.start(top)
        k = f.op(f"load i64, ptr {counter}")
        more = f.op(f"icmp ult i64 {k}, {size}")
        f.branch(more, body, done)
        f.start(body)
        f.emit(f"store i64 {f.op(f'add i64 {k}, 1')}, ptr {counter}")
        at = k
        if backwards:
            at = f.op(f"sub i64 {f.op(f'sub i64 {size}, 1')}, {k}")
        words = max((width_of(t.element) + 63) // 64, 1)
        pv = f.alloca(16 * words)
        pu = f.op(f"getelementptr i8, ptr {pv}, i64 {8 * words}")
        f.emit(f"call void @k_list_get(i64 {self.handle}, i64 {at}, {self.lower.form(t)}, ptr {pv}, ptr {pu})")
        self.lower.write((n.LRef(e.item, None, None, width_of(t.element)),), self.lower._loaded(t.element, pv), 0)
        key = f.op(f"call i64 @k_map_key(i64 {self.handle}, i64 {at})") if t.key is not None else at
        assert isinstance(e.index.type, Vec)
        width = e.index.type.width
        self.index = self.lower.resized(Val(key, None, 64), width, False)
        self.lower.write((n.LRef(e.index, None, None, width),), self.index, 0)
        return top, done, at

    def _reduced(self, op: str) -> Val | str:
        f, t = self.f, self.e.body.type
        if isinstance(t, Real):
            total = f.alloca(8)
            f.emit(f"store double {'1.0' if op == '*' else '0.0'}, ptr {total}")
            top, done, _ = self._rounds(False)
            x = self.lower.real(self.e.body)
            old = f.op(f"load double, ptr {total}")
            word = "fmul" if op == "*" else "fadd"
            f.emit(f"store double {f.op(f'{word} double {old}, {x}')}, ptr {total}")
            f.jump(top)
            f.start(done)
            return f.op(f"load double, ptr {total}")
        assert isinstance(t, Vec)
        size = max((t.width + 63) // 64, 1) * 8
        total = f.alloca(2 * size)
        start = {"*": 1, "&": (1 << t.width) - 1}.get(op, 0)
        count = f.op(f"call i32 @k_list_size(i64 {self.handle})")
        if op == "&":  # of nothing: 0
            empty = f.op(f"icmp eq i32 {count}, 0")
            first = f.op(f"select i1 {empty}, i{t.width} 0, i{t.width} -1")
            f.store_planes(total, Val(first, "0", t.width), size, 2)
        else:
            f.store_planes(total, Val(str(start), "0", t.width), size, 2)
        top, done, _ = self._rounds(False)
        each = self.lower.value(self.e.body)
        so_far = f.load_planes(total, t.width, size, 2)
        f.store_planes(total, self.lower.combined(op, so_far, each), size, 2)
        f.jump(top)
        f.start(done)
        made = f.load_planes(total, t.width, size, 2)
        return made if t.four else self.lower.known(made)

    def _mapped(self) -> Val:
        """The value of the body for each element, as a list."""
        f = self.f
        t = List(64, False, False, self.e.body.type)
        slot = f.alloca(8)
        f.emit(f"store i64 {self.lower.handle_of_temporary(t)}, ptr {slot}")
        top, done, _ = self._rounds(False)
        pv, pu = self.lower.spilled(self.lower.evaluate(self.e.body))
        f.emit(f"call void @k_list_push(ptr {slot}, {self.lower.form(t)}, ptr {pv}, ptr {pu})")
        f.jump(top)
        f.start(done)
        return Val(f.op(f"load i64, ptr {slot}"), None, 64)

    def _picked(self, op: str, keys: Val) -> Val:
        result = self.e.type
        assert isinstance(result, List)
        kind = _order(self.e.body.type)
        made = self.f.op(
            f"call i64 @k_list_pick(i64 {self.handle}, i64 {keys.v}, i32 {_PICKS[op]}, i32 {kind}, {self.lower.form(result)})"
        )
        return Val(made, None, 64)

    def _found(self, op: str) -> Val:
        f, result = self.f, self.e.type
        assert isinstance(result, List)
        slot = f.alloca(8)
        f.emit(f"store i64 {self.lower.handle_of_temporary(result)}, ptr {slot}")
        top, done, _ = self._rounds("_last" in op)
        hit = f.label("hit")
        f.branch(self.lower.holds(self.e.body), hit, top)
        f.start(hit)
        if op.endswith("index"):
            chosen: Val | str = self.index
        else:
            chosen = self.lower.evaluate(n.Ref(self.e.item.type, self.e.item))
        pv, pu = self.lower.spilled(chosen)
        f.emit(f"call void @k_list_push(ptr {slot}, {self.lower.form(result)}, ptr {pv}, ptr {pu})")
        f.jump(done if "_first" in op or "_last" in op else top)
        f.start(done)
        return Val(f.op(f"load i64, ptr {slot}"), None, 64)
