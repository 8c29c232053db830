"""Control flow as IR (IEEE 1364-2005 9.4 to 9.6, 9.8); the top of the chain that lowers statements."""

from __future__ import annotations

from collections.abc import Iterator

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import EventType
from mevrik.design.unit import Signal
from mevrik.engine.layout import Instance, Layout
from mevrik.engine.lower.function import Val
from mevrik.engine.lower.tasks import TaskLowerer
from mevrik.engine.lower.waits import simple_sense

# What the kernel is told of a block that is disabled: its function, the states inside, the one behind it, its fork statements.
DISABLED = ("fn", "low", "high", "state", "forks", "end")


class StatementLowerer(TaskLowerer):
    # ---- control flow ----

    def _do_if(self, s: n.If) -> None:
        f = self.f
        then, other, done = f.label("then"), f.label("else"), f.label("endif")
        f.branch(self.holds(s.cond), then, other if s.other else done)
        f.start(then)
        self.run(s.then)
        if not f.terminated:
            f.jump(done)
        if s.other:
            f.start(other)
            self.run(s.other)
            if not f.terminated:
                f.jump(done)
        f.start(done)

    def _do_case(self, s: n.Case) -> None:
        f = self.f
        subject = self.value(s.subject)
        w = subject.w
        done = f.label("endcase")
        bodies: list[tuple[str, list[n.Stmt]]] = []
        default = done
        tests: list[tuple[n.Expr, str]] = []
        for labels, body in s.arms:
            at = f.label("arm")
            bodies.append((at, body))
            if not labels:
                default = at
            tests.extend((label, at) for label in labels)
        plain = all(isinstance(label, n.Const) and not label.unk for label, _ in tests)
        if plain and tests and w <= 64 and (s.kind == "case" or subject.u is None):
            if subject.u is not None:
                clean = f.label("clean")
                some = f.op(f"icmp ne i{w} {subject.u}, 0")
                f.branch(some, default, clean)
                f.start(clean)
            seen: dict[int, str] = {}
            for label, at in tests:
                assert isinstance(label, n.Const)
                seen.setdefault(label.val, at)
            cases = " ".join(f"i{w} {value}, label %{at}" for value, at in seen.items())
            f.emit(f"switch i{w} {subject.v}, label %{default} [{cases}]")
            f.terminated = True
        else:
            for label, at in tests:
                following = f.label("test")
                f.branch(self._case_test(s.kind, subject, self.value(label)), at, following)
                f.start(following)
            f.jump(default)
        for at, body in bodies:
            f.start(at)
            self.run(body)
            if not f.terminated:
                f.jump(done)
        f.start(done)

    def _case_test(self, kind: str, a: Val, b: Val) -> str:
        f = self.f
        w = a.w
        d = f.op(f"xor i{w} {a.v}, {b.v}")
        if a.u is not None or b.u is not None:
            du = f.op(f"xor i{w} {a.u or '0'}, {b.u or '0'}")
            d = f.op(f"or i{w} {d}, {du}")
        ignore: list[str] = []
        for x in (a, b):
            if x.u is None:
                continue
            if kind == "casez":  # z is (0,1)
                not_v = f.op(f"xor i{w} {x.v}, -1")
                ignore.append(f.op(f"and i{w} {x.u}, {not_v}"))
            elif kind == "casex" or (kind == "inside" and x is b):
                ignore.append(x.u)
        for plane in ignore:
            keep = f.op(f"xor i{w} {plane}, -1")
            d = f.op(f"and i{w} {d}, {keep}")
        return f.op(f"icmp eq i{w} {d}, 0")

    def _spin(self) -> None:
        """On a loop's way back: every 4096 rounds the kernel looks whether the loop never ends."""
        f = self.f
        c = f.op("load i32, ptr @spin")
        more = f.op(f"add i32 {c}, 1")
        f.emit(f"store i32 {more}, ptr @spin")
        low = f.op(f"and i32 {more}, 4095")
        due = f.op(f"icmp eq i32 {low}, 0")
        call, on = f.label("spin"), f.label("on")
        f.branch(due, call, on)
        f.start(call)
        f.emit(f"call void @k_loop(i32 {self.site})")
        f.jump(on)
        f.start(on)

    def _do_loop(self, s: n.Loop) -> None:
        f = self.f
        top, body, done = f.label("loop"), f.label("body"), f.label("endloop")
        if s.test_last:
            f.jump(body)
        f.start(top)
        if s.cond is not None:
            f.branch(self.holds(s.cond), body, done)
        else:
            f.jump(body)
        f.start(body)
        self.run(s.body)
        self.run(s.step)
        if not f.terminated:
            self.site = s.site
            self._spin()
            f.jump(top)
        f.start(done)
        if s.cond is None and not any(isinstance(x, n.Leave) for x in walk.statements(s.body)):
            f.emit("unreachable") if not f.framed and f.is_process is False else f.ret("i32 2" if f.is_process else "void")
            f.terminated = True

    def _do_repeatloop(self, s: n.RepeatLoop) -> None:
        f = self.f
        count = self._count(s.count)
        top, body, done = f.label("repeat"), f.label("body"), f.label("endrepeat")
        if f.framed:
            counter = f.reserve(8)
            self._store_counter(counter, count)
            f.start(top)
            self._counting(counter, body, done)
        else:
            p = f.alloca(8)
            f.emit(f"store i64 {count}, ptr {p}")
            f.start(top)
            c = f.op(f"load i64, ptr {p}")
            more = f.op(f"icmp ne i64 {c}, 0")
            less = f.op(f"sub i64 {c}, 1")
            f.emit(f"store i64 {less}, ptr {p}")
            f.branch(more, body, done)
        f.start(body)
        self.run(s.body)
        if not f.terminated:
            self.site = s.site
            self._spin()
            f.jump(top)
        f.start(done)

    def _do_block(self, s: n.Block) -> None:
        f = self.f
        done = f.label("leave")
        self.module.exits[id(s)] = done
        first, forks = len(f.states), f.forks
        self.run(s.body)
        if s.is_remote:
            # a disable from another process makes the frame go on behind the block
            if not f.terminated:
                f.jump(done)
            f.states.append(done)
            leave = len(f.states)
            self.module.remote_blocks[id(s)] = (f, first + 1, leave, leave, forks + 1, f.forks + 1)
        if s.is_remote or not f.terminated or self.module.left.pop(id(s), False):
            f.start(done)

    def _do_leave(self, s: n.Leave) -> None:
        self.module.left[id(s.block)] = True
        self.f.jump(self.module.exits[id(s.block)])

    def _do_disableblock(self, s: n.DisableBlock) -> None:
        f = self.f
        if s.inside and not f.framed:
            return  # nobody waits in it
        if s.path or (s.block.kin is not None and len(s.block.kin.members) > 1):
            self._disable_afar(s)
        else:
            self._after_disable(self._disable(f.inst(), s.block))

    def _disable(self, inst: str, target: n.Block) -> str:
        """The kernel says what became of the process that disables: 1 it ended with the block, 2 it goes on behind the block."""
        number = len(self.module.disables)
        self.module.disables.append(target)
        block = ", ".join(f"i32 @@{part}{number}@@" for part in DISABLED)
        return self.f.op(f"call i32 @k_disable(ptr {inst}, {block})")

    def _after_disable(self, became: str) -> None:
        f = self.f
        if f.framed:
            gone, on = f.label("gone"), f.label("on")
            f.branch(f.op(f"icmp ne i32 {became}, 0"), gone, on)
            f.start(gone)
            f.ret(f"i32 {f.op(f'sub i32 {became}, 1')}")
            f.lines.append(f"{on}:")
            f.terminated = False

    def _disable_afar(self, s: n.DisableBlock) -> None:
        """The block is in another instance, or is a task that other instances have copies of: which depends on the instance that this
        code runs for."""
        f = self.f
        layout = self.module.layout
        kin = s.block.kin
        own = (
            next((path for unit, path, sub in kin.members if unit is f.unit and s.block in sub.body), ()) if kin is not None else ()
        )
        for instance in layout.by_unit[f.unit]:
            target = layout.walk(instance, s.path or own)
            skip = ""
            if layout.shared(f.unit):
                here, skip = f.label("here"), f.label("next")
                mine = f.op(f"icmp eq i32 {self.module.instance_number(f)}, {instance.number}")
                f.branch(mine, here, skip)
                f.start(here)
            became = "0"
            for place, block in self._blocks_of(s.block, target):
                more = self._disable(f.op(f"getelementptr i8, ptr %m, i64 {place.table}"), block)
                became = f.op(f"select i1 {f.op(f'icmp ne i32 {more}, 0')}, i32 {more}, i32 {became}")
            self._after_disable(became)
            if skip:
                f.start(skip)

    def _blocks_of(self, block: n.Block, target: Instance) -> Iterator[tuple[Instance, n.Block]]:
        """A block in the instance `target`; of a task its copies for calls from elsewhere too, each with the instance it runs in."""
        layout = self.module.layout
        if block.kin is None or not block.kin.members:
            yield target, block
            return
        for unit, path, sub in block.kin.members:
            body = sub.body[0] if sub.body else None
            if isinstance(body, n.Block):
                for instance in layout.by_unit.get(unit, ()):
                    if _leads_to(layout, instance, path, target):
                        yield instance, body


def _leads_to(layout: Layout, instance: Instance, path: tuple[str, ...], target: Instance) -> bool:
    try:
        return layout.walk(instance, path) is target
    except KeyError:
        return False


def static_sense(sense: n.Sense) -> bool:
    """One whose signal is known before the run."""
    return simple_sense(sense) and isinstance(sense.expr, n.Ref) and sense.expr.signal.via is None


def is_event(signal: Signal) -> bool:
    return isinstance(signal.type, EventType)
