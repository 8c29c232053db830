"""Delays, events and other waits as IR (IEEE 1364-2005 9.7, IEEE 1800-2017 9.4, 9.6)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import EventType, Real, Vec
from mevrik.design.unit import Signal
from mevrik.engine.layout import plane_bytes
from mevrik.engine.lower.contents import changes, waits_for_contents
from mevrik.engine.lower.expressions import ExpressionLowerer
from mevrik.engine.lower.function import Val

EDGES = {"any": 0, "posedge": 1, "negedge": 2, "edge": 3}

CONDITION = 2  # TAG_CONDITION of kernel/kernel.h


class WaitLowerer(ExpressionLowerer):
    site: int = 0

    def run(self, body: list[n.Stmt]) -> None:
        for s in body:
            if self.f.terminated:
                return  # nothing can reach the rest
            self.site = s.site
            method = getattr(self, "_do_" + type(s).__name__.lower())
            method(s)
            if self.module.waited and changes(s, self.module.waited):
                self.f.emit("call void @k_contents_changed()")

    # ---- waits ----

    def _ticks(self, e: n.Expr) -> str:
        """A delay as i64; an unknown one counts as 0 (9.7.1)."""
        a = self.value(e)
        bad = self.any_unknown(a)
        t = self.resized(Val(a.v, None, a.w), 64, False).v
        return self.f.op(f"select i1 {bad}, i64 0, i64 {t}") if bad else t

    def _delay(self, e: n.Expr) -> None:
        self.f.emit(f"call void @k_delay(i64 {self._ticks(e)})")
        self.f.wait_here()

    def _do_delay(self, s: n.Delay) -> None:
        self._delay(s.ticks)

    def _do_waitevent(self, s: n.WaitEvent) -> None:
        self._wait(s.events)

    def _wait(self, events: tuple[n.Sense, ...]) -> None:
        f = self.f
        if not events:
            f.wait_here()
            return
        complex_ = [e for e in events if not simple_sense(e)]
        if not complex_:
            for e in events:
                self._watch(e.expr, EDGES[e.edge], 0)
            f.wait_here()
            return
        # expressions: remember their values, wake on any change of what they read, and compare
        saved = [None if isinstance(e.expr.type, EventType) else self._remember(e.expr, None) for e in complex_]
        again, done = f.label("again"), f.label("happened")
        f.start(again)
        for e in events:
            if simple_sense(e):
                self._watch(e.expr, EDGES[e.edge], 0)
        for k, e in enumerate(complex_):
            if isinstance(e.expr.type, EventType):  # with a guard
                self._watch(e.expr, EDGES[e.edge], 2 + k)
            else:
                self._watch_all(e.expr, 1)
        f.wait_here()
        reason = f.op("call i32 @k_reason()")
        check = f.label("check")
        f.branch(f.op(f"icmp eq i32 {reason}, 0"), done, check)
        f.start(check)
        hit: str | None = None
        for k, (e, at) in enumerate(zip(complex_, saved, strict=True)):
            bit = self._edge_since(e, at) if at is not None else f.op(f"icmp eq i32 {reason}, {2 + k}")
            if e.guard is not None:
                bit = f.op(f"and i1 {bit}, {self.holds(e.guard)}")
            hit = bit if hit is None else f.op(f"or i1 {hit}, {bit}")
        assert hit is not None
        f.branch(hit, done, again)
        f.start(done)

    def _watch_all(self, e: n.Expr, tag: int) -> None:
        """Wake at any change of what an expression reads."""
        for ref in walk.reads_of(e, True):
            if ref.signal.kind != "local":
                self._watch(ref, 0, tag)
        if waits_for_contents(e):
            self.f.emit(f"call void @k_wait_contents(i32 {tag})")

    def _watch(self, e: n.Expr, edge: int, tag: int) -> None:
        assert isinstance(e, n.Ref)
        number = self.f.storage(e.signal).number
        self.f.emit(f"call void @k_wait(i32 {number}, i32 {edge}, i32 {tag})")

    def _remember(self, e: n.Expr, at: int | None) -> int:
        f = self.f
        if isinstance(e.type, Real):
            at = f.reserve(8) if at is None else at
            p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
            f.emit(f"store double {self.real(e)}, ptr {p}")
            return at
        value = self.value(e)
        size = (value.w + 63) // 64 * 8
        at = f.reserve(2 * size) if at is None else at
        p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        f.store_planes(p, value, size, 2)
        return at

    def _edge_since(self, e: n.Sense, at: int) -> str:
        f = self.f
        p = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        if isinstance(e.expr.type, Real):
            old_r = f.op(f"load double, ptr {p}")
            now_r = self.real(e.expr)
            f.emit(f"store double {now_r}, ptr {p}")
            return f.op(f"fcmp une double {old_r}, {now_r}")
        now = self.value(e.expr)
        size = (now.w + 63) // 64 * 8
        old = f.load_planes(p, now.w, size, 2)
        p2 = f.op(f"getelementptr i8, ptr %f, i64 {at}")
        f.store_planes(p2, now, size, 2)
        w = now.w
        dv = f.op(f"xor i{w} {old.v}, {now.v}")
        du = f.op(f"xor i{w} {old.u}, {now.u or '0'}")
        if e.edge == "any":
            d = f.op(f"or i{w} {dv}, {du}")
            return f.op(f"icmp ne i{w} {d}, 0")
        was, is_ = self._code(old), self._code(now)
        both = f.op(f"shl i32 {was}, 2")
        key = f.op(f"or i32 {both}, {is_}")
        # bit k of the mask: codes was*4+is that are this edge (9.7.2)
        pos, neg = 0, 0
        for a in range(4):
            for b in range(4):
                if a != b and (a == 0 or b == 1) and a != 1:
                    pos |= 1 << (4 * a + b)
                if a != b and (a == 1 or b == 0) and a != 0:
                    neg |= 1 << (4 * a + b)
        mask = {"posedge": pos, "negedge": neg, "edge": pos | neg}[e.edge]
        shifted = f.op(f"lshr i32 {mask}, {key}")
        return f.op(f"trunc i32 {shifted} to i1")

    def _code(self, a: Val) -> str:
        """Bit 0 as a code: 0, 1, z 2, x 3."""
        f = self.f
        low = self.slice(a, 0, 1)
        v = f.widen(low.v, 1, 32)
        u = f.widen(low.u or "0", 1, 32)
        up = f.op(f"shl i32 {u}, 1")
        return f.op(f"or i32 {v}, {up}")

    def _do_waituntil(self, s: n.WaitUntil) -> None:
        f = self.f
        test, sleep, done = f.label("test"), f.label("sleep"), f.label("done")
        f.start(test)
        f.branch(self.holds(s.cond), done, sleep)
        f.start(sleep)
        self._watch_all(s.cond, CONDITION)
        f.wait_here()
        f.jump(test)
        f.start(done)

    def _do_trigger(self, s: n.Trigger) -> None:
        number = self.f.storage(s.event).number
        self.f.emit(f"call void @k_trigger(i32 {number}, i32 {s.site})")

    def _do_fork(self, s: n.Fork) -> None:
        f = self.f
        join = {"join": 0, "join_any": 1, "join_none": 2}[s.join]
        if not s.branches:
            return
        own = [(signal, self.evaluate(value)) for signal, value in s.own]
        f.forks += 1
        for branch in s.branches:
            number, size, made = self.module.branch(f, branch, [signal for signal, _ in own])
            child = f.op(f"call ptr @k_fork(i32 {number}, i32 {size}, ptr %f, i32 {join}, i32 {f.forks})")
            for signal, value in own:
                self._store_in_frame(child, made.offsets[signal], signal, value)
        if join != 2:
            f.wait_here()

    def _do_waitfork(self, s: n.WaitFork) -> None:
        f = self.f
        must, on = f.label("must"), f.label("on")
        f.branch(f.op(f"icmp ne i32 {f.op('call i32 @k_wait_fork()')}, 0"), must, on)
        f.start(must)
        f.wait_here()
        f.start(on)

    def _do_processawait(self, s: n.ProcessAwait) -> None:
        f = self.f
        must, on = f.label("must"), f.label("on")
        number = self.known(self.resized(self.value(s.number), 32, False)).v
        f.branch(f.op(f"icmp ne i32 {f.op(f'call i32 @k_process_await(i32 {number})')}, 0"), must, on)
        f.start(must)
        f.wait_here()
        f.start(on)

    def _do_disablefork(self, s: n.DisableFork) -> None:
        self.f.emit("call void @k_disable_fork()")

    def _store_in_frame(self, frame: str, offset: int, port: Signal, value: Val | str) -> None:
        f = self.f
        at = f.op(f"getelementptr i8, ptr {frame}, i64 {offset}")
        if isinstance(value, str):
            f.emit(f"store double {value}, ptr {at}")
            return
        assert isinstance(port.type, Vec)
        f.store_planes(at, value, plane_bytes(port.type.width), 2 if port.type.four else 1)


def simple_sense(sense: n.Sense) -> bool:
    """A whole signal that the kernel can watch for this edge by itself."""
    e = sense.expr
    return (
        sense.guard is None
        and isinstance(e, n.Ref)
        and e.element is None
        and e.signal.kind != "local"
        and (sense.edge == "any" or isinstance(e.type, Vec))
    )
