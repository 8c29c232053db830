"""One function for all that an event of a clock wakes, and for what follows from it in the next deltas.

The processes of one delta may run in any order, and no signal changes while they do (IEEE 1076-2008 14.7.5.3). So they run one behind
the other; what they assign after no time lies in the images of their drivers, a mark says that there is something new. Then the next
cycle: each marked signal takes its new value (14.7.3.4), and what this wakes runs in the function too. As soon as something else has to run
in a delta, the function hands what is marked over to the kernel and gives 1. It gives 0 if neither it nor the caller has had the kernel do
anything, so that nothing can wait there, and 2 if nothing does though. Before it gives 0 it goes on with the next edge of its kind as long
as nothing else happens.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from mevrik.design import typed as t
from mevrik.design.reads import is_inverse, is_signal
from mevrik.engine.abi import KernelState
from mevrik.engine.period import PARAMETERS, next_edge
from mevrik.engine.typed.assignments import is_plain
from mevrik.engine.typed.fanout import Woken
from mevrik.engine.typed.function import Held
from mevrik.engine.typed.kernel import FRUGAL, IDLE
from mevrik.engine.typed.places import DRIVER_QUEUED
from mevrik.engine.typed.statements import Statements
from mevrik.engine.typed.updates import CYCLE, EVENT_CYCLE, NOW, Follower, Updates

if TYPE_CHECKING:
    from mevrik.engine.layout import Layout
    from mevrik.engine.typed.module import Module
    from mevrik.engine.typed.running import TypedCode

MOST_PROCESSES, MOST_NODES, MOST_DELTAS, MOST_BYTES = 256, 6000, 100, 512
FEW_DELTAS, FEW_NODES = 4, 400  # up to which they stand one behind the other, not in a loop
_TOP, _WAITING = 16, 48  # of VState in kernel/typed.h
_TAIL = 8  # of Scheduler in kernel/kernel.h


def edge_functions(code: TypedCode, module: Module, layout: Layout) -> dict[tuple[int, int], str]:
    """(number of a clock, 1 for its rising edge or 0) → the name of the function for that edge. A clock is a signal of two levels that
    some process waits for an edge of."""
    simple = Simple(code)
    found: dict[tuple[int, int], str] = {}
    for root in code.model.roots:
        levels = _levels(root)
        woken = code.fans.get(root.number, [])
        if levels is None or not simple.signal(root) or len(woken) > MOST_PROCESSES or not any(w.link > 1 for w in woken):
            continue
        if sum(simple.nodes(w.process) for w in woken) > MOST_NODES:
            continue
        for rising in (1, 0):
            mine = [w.process for w in woken if _fits(w, levels[rising]) and inverted_after(w.process, root) is None]
            if mine:
                name = f"edge{root.number}_{rising}"
                EdgeFunction(code, module, layout, simple).lower(name, root, rising, mine)
                found[root.number, rising] = name
    return found


def clock_ticks(code: TypedCode, root: t.RootSignal) -> int | None:
    """Half the period of a clock that inverts itself and has functions for its edges."""
    if not any((root.number, rising) in code.edges for rising in (0, 1)):
        return None
    ticks = [inverted_after(w.process, root) for w in code.fans[root.number]]
    return next((x for x in ticks if x is not None), None)


def _levels(root: t.RootSignal) -> tuple[int, int] | None:
    """The bytes for low and high of a signal that can be a clock."""
    kind = root.subtype.type
    if not isinstance(kind, t.Enum) or len(kind.literals) not in (2, 9):
        return None
    return (2, 3) if len(kind.literals) == 9 else (0, 1)


def _fits(w: Woken, value: int) -> bool:
    """Whether a process is woken when its part of a signal became this byte."""
    return not w.link or value & w.link >> 16 == w.link >> 8 & 255


def inverted_after(p: t.Process, root: t.RootSignal) -> int | None:
    """The ticks of a process that is `clk <= not clk after T`."""
    if p.sensitivity is None or len(p.body) != 1 or len(p.sensitivity) != 1 or p.postponed:
        return None
    s = p.body[0]
    if not isinstance(s, t.SignalAssign) or len(s.waves) != 1 or s.delay != "inertial" or s.reject is not None:
        return None
    after, value = s.waves[0].after, s.waves[0].value
    if not isinstance(after, t.Const) or after.value <= 0 or not is_signal(s.target, root):
        return None
    return int(after.value) if value is not None and is_inverse(value, root) else None


class Simple:
    """Of which signals and processes nothing has to be known but their values and events."""

    def __init__(self, code: TypedCode) -> None:
        self.code = code
        model = code.model
        self.others = {b.root for b in model.bridges} | {root.links[0] for root in model.roots if root.kind and root.links}
        self._nodes: dict[t.Process, int] = {}
        self._plain: dict[t.Process, bool] = {}

    def signal(self, root: t.RootSignal) -> bool:
        return 0 < root.size <= MOST_BYTES and len(root.drivers) == 1 and self.known(root)

    def known(self, root: t.RootSignal) -> bool:
        """Whether nothing goes along with a change of it."""
        if root.kind or root.bus or root.wants_parts or root in self.others or not root.drivers or not root.size:
            return False
        if self.code.resolved[root.number] or any(d.process.kind == "link" for d in root.drivers):
            return False
        return not any(w.link == 1 or w.process.postponed for w in self.code.fans.get(root.number, ()))

    def held(self, p: t.Process) -> list[t.Driver]:
        """The drivers of a process that are only ever given a value after no time, and whose signals are simple."""
        if p not in self._plain:
            self._plain[p] = all(_plain(x) for s in p.body for x in t.nodes(s))
        return [d for d in p.drivers.values() if self.signal(d.root)] if self._plain[p] else []

    def taken(self, p: t.Process) -> list[t.Driver]:
        """The drivers of a process that the kernel marks, and whose signals are known."""
        held = self.held(p)
        return [d for d in p.drivers.values() if d not in held and self.known(d.root)]

    def nodes(self, p: t.Process) -> int:
        if p not in self._nodes:
            self._nodes[p] = sum(1 for s in p.body for _ in t.nodes(s))
        return self._nodes[p]


def _plain(x: object) -> bool:
    if isinstance(x, t.SignalAssign):
        return is_plain(x)
    return not (isinstance(x, t.Call) and any(p.cls == "signal" and p.mode != "in" for p in x.sub.params))


class EdgeFunction(Updates):
    def __init__(self, code: TypedCode, module: Module, layout: Layout, simple: Simple) -> None:
        super().__init__(code, module, layout)
        self.simple, self.low = simple, Statements(self.f)
        self.fresh = True  # no delta has ended yet

    def lower(self, name: str, root: t.RootSignal, rising: int, members: list[t.Process]) -> None:
        f = self.f
        f.emit(f"%mark = load ptr, ptr {f.gep('%m', self.module.base + _TOP)}")
        f.entry.append("  %disturbed = alloca i32\n  store i32 %before, ptr %disturbed")
        f.entry.append(f"  %delta = getelementptr i8, ptr %k, i64 {KernelState.delta.offset}")
        self._known(root, rising)
        stages = self._stages(members)
        if stages is None:
            self._looped(members)
        else:
            self._straight(members, stages)
        self._end(root)
        self.module.parts.append(f.text(f"define i32 @{name}(ptr %m, ptr %k, i32 %before, {PARAMETERS})"))

    def _straight(self, members: list[t.Process], stages: list[list[t.Process]]) -> None:
        """A few deltas, one behind the other: the compiler sees what was written last."""
        f, none = self.f, self.f.label("none")
        held, taken = self._hold(members)
        for p in members:
            self._process(p)
        for stage in [*stages, []]:
            if not held and not taken:
                self._count_if_last()
                break
            followers = {p: Follower(p, self._flag()) for p in stage}
            self._cycle(held, taken, followers)
            if stage:
                held, taken = self._hold(stage)
                self._run(followers, none)
        f.jump(none)
        f.start(none)

    def _looped(self, members: list[t.Process]) -> None:
        """As many deltas as it takes."""
        f = self.f
        followers = {p: Follower(p, self._flag()) for p in self._reached(members)}
        held, taken = self._hold([*members, *followers])
        for p in members:
            self._process(p)
        self.fresh = False
        rounds, again, none = self._counter(), f.label("again"), f.label("none")
        f.jump(again)
        f.start(again)
        self._cycle(held, taken, followers, rounds)
        self._run(followers, none)
        f.jump(again)
        f.start(none)

    def _known(self, root: t.RootSignal, rising: int) -> None:
        """What the kernel has made true before the call, said once more where the compiler sees it."""
        f = self.f
        levels = _levels(root)
        assert levels is not None
        for place, level in ((self._value(root), levels[rising]), (self._before(root), levels[1 - rising])):
            self._assume(f"icmp eq i8 {f.op(f'load i8, ptr {place}')}, {level}")
        event, cycle = (f.op(f"load i64, ptr {x}") for x in (self._sig(root, EVENT_CYCLE), self._state(CYCLE)))
        self._assume(f"icmp eq i64 {event}, {cycle}")

    def _assume(self, condition: str) -> None:
        self.f.emit(f"call void @llvm.assume(i1 {self.f.op(condition)})")

    # ---- processes ----

    def _hold(self, processes: Sequence[t.Process]) -> tuple[dict[t.Driver, Held], list[t.Driver]]:
        """The drivers that these only mark, with their marks, and those that the kernel marks for them."""
        held = {d: self._note(d) for p in dict.fromkeys(processes) for d in self.simple.held(p)}
        self.f.held = {d.root: note for d, note in held.items()}
        return held, list(dict.fromkeys(d for p in processes for d in self.simple.taken(p)))

    def _process(self, p: t.Process) -> None:
        f = self.f
        f.process, f.places, f.known, f.loops, f.site = p, {}, {}, {}, p.site
        end, at = f.label("end"), len(f.lines)
        self.low.run(p.body)
        f.start(end)
        called = {line.partition("@")[2].removeprefix("aside_") for line in f.lines[at:] if " call " in line}
        if not all(name.startswith(FRUGAL) for name in called):
            f.emit(f"store ptr %mark, ptr {self._state(_TOP)}")
        if not all(name.startswith(IDLE) for name in called):
            self._disturb()

    def _woken(self, processes: Sequence[t.Process]) -> list[t.Process]:
        """Those that what these assign can wake."""
        drivers = (d for p in processes for d in (*self.simple.held(p), *self.simple.taken(p)))
        return list(dict.fromkeys(w.process for d in drivers for w in self.code.fans.get(d.root.number, ())))

    def _stages(self, members: list[t.Process]) -> list[list[t.Process]] | None:
        """The processes that can run in each delta after the first, if these are few."""
        found: list[list[t.Process]] = []
        stage, budget = members, FEW_NODES
        while stage := self._woken(stage):
            budget -= sum(self.simple.nodes(p) for p in stage)
            if len(found) == FEW_DELTAS or budget < 0:
                return None
            found.append(stage)
        return found

    def _reached(self, members: list[t.Process]) -> list[t.Process]:
        """The processes that what these assign can wake, and what those assign, and so on."""
        found: dict[t.Process, None] = {}
        todo, budget = list(members), MOST_NODES
        for p in todo:
            for woken in self._woken([p]):
                if woken not in found and len(found) < MOST_PROCESSES and self.simple.nodes(woken) <= budget:
                    budget -= self.simple.nodes(woken)
                    found[woken] = None
                    todo.append(woken)
        return list(found)

    def _run(self, followers: dict[t.Process, Follower], none: str) -> None:
        """The processes that are marked; goes to `none` if none is."""
        f = self.f
        some = f.label("some")
        any_marked = "false"
        for x in followers.values():
            any_marked = f.op(f"or i1 {any_marked}, {self._is_set(x.mark)}")
        f.branch(any_marked, some, none)
        f.start(some)
        for x in followers.values():
            go, on = f.label("go"), f.label("on")
            f.branch(self._is_set(x.mark), go, on)
            f.start(go)
            f.emit(f"store i8 0, ptr {x.mark}")
            self._process(x.process)
            f.start(on)

    # ---- deltas ----

    def _queued(self) -> str:
        """Whether processes wait in the kernel's queue."""
        f = self.f
        head, tail = (f.op(f"load i64, ptr {f.gep('%m', self.layout.scheduler + k)}") for k in (0, _TAIL))
        return f.op(f"icmp ne i64 {head}, {tail}")

    def _busy(self) -> str:
        """Whether the kernel has something to do in this delta."""
        f = self.f
        waiting = f.op(f"load i64, ptr {self._state(_WAITING)}")
        return f.op(f"or i1 {self._queued()}, {f.op(f'icmp ne i64 {waiting}, 0')}")

    def _to_take(self, taken: list[t.Driver]) -> str:
        """How many of these drivers the kernel has marked."""
        f = self.f
        count: str = "0"
        for d in taken:
            count = f.op(f"add i32 {count}, {f.op(f'load i32, ptr {self._driver(d, DRIVER_QUEUED)}')}")
        return count

    def _end(self, root: t.RootSignal) -> None:
        f = self.f
        ask, quiet = f.label("ask"), f.label("quiet")
        f.branch(f.op(f"icmp ne i32 {f.op('load i32, ptr %disturbed')}, 0"), ask, quiet, rare=ask)
        f.start(ask)
        f.ret(f"i32 {f.op(f'select i1 {self._busy()}, i32 1, i32 2')}")
        f.start(quiet)
        self._go_on(root)
        f.ret("i32 0")

    def _go_on(self, root: t.RootSignal) -> None:
        """To the next edge of this kind, in a cycle of its own."""
        f = self.f
        now, cycle, event = self._state(NOW), self._state(CYCLE), self._sig(root, EVENT_CYCLE)
        also = f"""  store i64 %p.then, ptr {now}
  %p.passed = load i64, ptr {cycle}
  %p.cycle = add i64 %p.passed, 2
  store i64 %p.cycle, ptr {cycle}
  store i64 %p.cycle, ptr {event}
"""
        f.lines.append(next_edge("begin", "done", also))
        f.terminated = True
        f.start("done")

    def _is_disturbed(self) -> str:
        now = self.f.op(f"and i32 {self.f.op('load i32, ptr %disturbed')}, 1")
        return self.f.op(f"icmp ne i32 {now}, 0")

    def _count_delta(self) -> None:
        f = self.f
        delta = f.op("load i64, ptr %delta")
        f.emit(f"store i64 {f.op(f'add i64 {delta}, 1')}, ptr %delta")

    def _count_if_last(self) -> None:
        """The kernel counts this delta if processes of it are still to run."""
        last, on = self.f.label("last"), self.f.label("on")
        self.f.branch(self._queued(), on, last)
        self.f.start(last)
        self._count_delta()
        self.f.start(on)

    def _cycle(
        self, held: dict[t.Driver, Held], taken: list[t.Driver], followers: dict[t.Process, Follower], rounds: str = ""
    ) -> None:
        """All processes of this delta have run. The next cycle: signals take their values, events mark what they wake."""
        self._end_delta(held, taken, rounds)
        for d, note in held.items():
            self._update(d, note, followers)
        for d in taken:
            self._take(d, followers)

    def _end_delta(self, held: dict[t.Driver, Held], taken: list[t.Driver], rounds: str) -> None:
        """If the kernel has something else to do, it gets what is marked."""
        f = self.f
        hand, ask, quiet, asked, calm, on = (f.label(x) for x in ("hand", "ask", "quiet", "asked", "calm", "on"))
        if rounds:
            round_, few = f.op(f"load i32, ptr {rounds}"), f.label("few")
            f.emit(f"store i32 {f.op(f'add i32 {round_}, 1')}, ptr {rounds}")
            f.branch(f.op(f"icmp uge i32 {round_}, {MOST_DELTAS}"), hand, few, rare=hand)
            f.start(few)
        f.branch(self._is_disturbed(), ask, calm, rare=ask)
        f.start(calm)
        if self.fresh:  # it can't be 2
            f.emit("store i32 0, ptr %disturbed")
        self.fresh = False
        f.jump(on)
        f.start(ask)
        f.branch(self._queued(), hand, quiet)
        f.start(quiet)
        waiting = f.op(f"icmp ne i64 {f.op(f'load i64, ptr {self._state(_WAITING)}')}, 0")
        if taken:
            theirs = f.label("theirs")
            f.branch(waiting, theirs, asked)
            f.start(theirs)
            waiting = f.op(f"icmp eq i32 {f.op(f'call i32 @v_only(i32 {self._to_take(taken)})')}, 0")
        f.branch(waiting, hand, asked)
        f.start(asked)
        f.emit("store i32 2, ptr %disturbed")
        f.jump(on)
        f.start(hand)
        for d, note in held.items():
            give, go = f.label("give"), f.label("go")
            f.branch(self._is_set(note.mark), give, go)
            f.start(give)
            site = f.op(f"load i32, ptr {note.site}")
            f.aside("v_mark", f"ptr {self._driver(d)}, i64 0, i64 {d.root.size}, i32 {site}")
            f.start(go)
        self._count_if_last()
        f.ret("i32 1")
        f.start(on)
        self._count_delta()
        cycle = f.op(f"add i64 {f.op(f'load i64, ptr {self._state(CYCLE)}')}, 1")
        f.emit(f"store i64 {cycle}, ptr {self._state(CYCLE)}")
