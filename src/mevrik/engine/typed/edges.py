"""One function for all that an event of a clock wakes, and for what follows from it in the next deltas.

The processes of one delta may run in any order, and no signal changes while they do (IEEE 1076-2008 14.7.5.3). So they run one behind
the other; what they assign after no time lies in the images of their drivers, a mark says that there is something new. Then the next
cycle: each marked signal takes its new value (14.7.3.4), and what this wakes runs in the function too. As soon as something else has to run
in a delta, the function hands what is marked over to the kernel and gives 1.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from mevrik.design import typed as t
from mevrik.design.reads import is_inverse, is_signal
from mevrik.design.record import Identity
from mevrik.engine.typed.assignments import is_plain
from mevrik.engine.typed.bits import word_type
from mevrik.engine.typed.fanout import Woken
from mevrik.engine.typed.function import Function, Word
from mevrik.engine.typed.places import DRIVER_BYTES, DRIVER_QUEUED, DRIVER_SITE, SIG_BYTES
from mevrik.engine.typed.statements import Statements

if TYPE_CHECKING:
    from mevrik.engine.layout import Layout
    from mevrik.engine.typed.module import Module
    from mevrik.engine.typed.running import TypedCode

MOST_PROCESSES, MOST_NODES, MOST_DELTAS, MOST_BYTES = 256, 6000, 100, 64
FEW_DELTAS, FEW_NODES = 4, 400  # up to which they stand one behind the other, not in a loop
_CYCLE, _NOW, _TOP, _WAITING = 0, 8, 16, 48  # of VState in kernel/typed.h
_EVENT_CYCLE, _ACTIVE_CYCLE, _FLAGS, _EVENT_TIME, _ACTIVE_TIME, _LOW, _FORCE, _WAITS = 0, 8, 36, 48, 56, 80, 104, 112  # of VSig
_WATCHED = 64  # in VSig.flags
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
        return 0 < root.size <= MOST_BYTES and self.known(root)

    def known(self, root: t.RootSignal) -> bool:
        """Whether nothing goes along with a change of it."""
        if root.kind or root.bus or root.wants_parts or root in self.others or len(root.drivers) != 1 or not root.size:
            return False
        if self.code.resolved[root.number]:
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


class Follower(Identity):
    """A process that what was assigned can wake: it runs in the function too, if its mark is set."""

    process: t.Process
    mark: str


class EdgeFunction:
    def __init__(self, code: TypedCode, module: Module, layout: Layout, simple: Simple) -> None:
        self.code, self.module, self.layout, self.simple = code, module, layout, simple
        self.f = Function(module, None, None)
        self.low = Statements(self.f)
        self.numbers = {p: len(layout.processes) + k for k, p in enumerate(code.model.processes)}

    def lower(self, name: str, root: t.RootSignal, rising: int, members: list[t.Process]) -> None:
        f = self.f
        f.emit(f"%mark = load ptr, ptr {f.gep('%m', self.module.base + _TOP)}")
        self._known(root, rising)
        stages = self._stages(members)
        if stages is None:
            self._looped(members)
        else:
            self._straight(members, stages)
        self._end()
        self.module.parts.append(f.text(f"define i32 @{name}(ptr %m, ptr %delta)"))

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
        f.emit(f"store i8 {levels[rising]}, ptr {self._value(root)}")
        f.emit(f"store i8 {levels[1 - rising]}, ptr {self._before(root)}")
        f.emit(f"store i64 {f.op(f'load i64, ptr {self._state(_CYCLE)}')}, ptr {self._sig(root, _EVENT_CYCLE)}")

    # ---- places ----

    def _sig(self, root: t.RootSignal, offset: int) -> str:
        return self.f.gep("%m", self.code.signals + root.number * SIG_BYTES + offset)

    def _value(self, root: t.RootSignal) -> str:
        return self.f.static(root.offset)

    def _before(self, root: t.RootSignal) -> str:
        return self.f.gep("%m", self.code.befores[root.number])

    def _state(self, offset: int) -> str:
        return self.f.gep("%m", self.code.base + offset)

    def _driver(self, d: t.Driver, offset: int = 0) -> str:
        return self.f.gep("%m", self.code.drivers + d.number * DRIVER_BYTES + offset)

    def _flag(self) -> str:
        """A byte that is 0 when the function begins."""
        at = self.f.alloca("i8")
        self.f.entry.append(f"  store i8 0, ptr {at}")
        return at

    def _counter(self) -> str:
        at = self.f.alloca("i32")
        self.f.entry.append(f"  store i32 0, ptr {at}")
        return at

    def _is_set(self, flag: str) -> str:
        return self.f.op(f"icmp ne i8 {self.f.op(f'load i8, ptr {flag}')}, 0")

    # ---- processes ----

    def _hold(self, processes: Sequence[t.Process]) -> tuple[dict[t.Driver, str], list[t.Driver]]:
        """The drivers that these only mark, with their marks, and those that the kernel marks for them."""
        held = {d: self._flag() for p in dict.fromkeys(processes) for d in self.simple.held(p)}
        self.f.held = {d.root: flag for d, flag in held.items()}
        return held, list(dict.fromkeys(d for p in processes for d in self.simple.taken(p)))

    def _process(self, p: t.Process) -> None:
        f = self.f
        f.process, f.places, f.known, f.loops, f.site = p, {}, {}, {}, p.site
        end, at = f.label("end"), len(f.lines)
        self.low.run(p.body)
        f.start(end)
        if any("call" in line for line in f.lines[at:]):  # it may have taken temporary storage
            f.emit(f"store ptr %mark, ptr {self._state(_TOP)}")

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
            f.emit(f"store i8 1, ptr {self._armed(x.process)}")
            f.start(on)

    def _armed(self, p: t.Process) -> str:
        return self.f.gep("%m", self.layout.armed + self.numbers[p])

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

    def _end(self) -> None:
        self.f.ret(f"i32 {self.f.op(f'zext i1 {self._busy()} to i32')}")

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
        self, held: dict[t.Driver, str], taken: list[t.Driver], followers: dict[t.Process, Follower], rounds: str = ""
    ) -> None:
        """All processes of this delta have run. The next cycle: signals take their values, events mark what they wake."""
        self._end_delta(held, taken, rounds)
        for d, mark in held.items():
            self._update(d, mark, followers)
        for d in taken:
            self._take(d, followers)

    def _end_delta(self, held: dict[t.Driver, str], taken: list[t.Driver], rounds: str) -> None:
        """If the kernel has something else to do, it gets what is marked."""
        f = self.f
        hand, quiet, on = f.label("hand"), f.label("quiet"), f.label("on")
        queued = self._queued()
        if rounds:
            round_ = f.op(f"load i32, ptr {rounds}")
            f.emit(f"store i32 {f.op(f'add i32 {round_}, 1')}, ptr {rounds}")
            queued = f.op(f"or i1 {queued}, {f.op(f'icmp uge i32 {round_}, {MOST_DELTAS}')}")
        f.branch(queued, hand, quiet)
        f.start(quiet)
        waiting = f.op(f"icmp ne i64 {f.op(f'load i64, ptr {self._state(_WAITING)}')}, 0")
        if taken:
            theirs = f.label("theirs")
            f.branch(waiting, theirs, on)
            f.start(theirs)
            waiting = f.op(f"icmp eq i32 {f.op(f'call i32 @v_only(i32 {self._to_take(taken)})')}, 0")
        f.branch(waiting, hand, on)
        f.start(hand)
        for d, flag in held.items():
            give, go = f.label("give"), f.label("go")
            f.branch(self._is_set(flag), give, go)
            f.start(give)
            site = f.op(f"load i32, ptr {self._driver(d, DRIVER_SITE)}")
            f.emit(f"call void @v_mark(ptr {self._driver(d)}, i64 0, i64 {d.root.size}, i32 {site})")
            f.start(go)
        self._count_if_last()
        f.ret("i32 1")
        f.start(on)
        self._count_delta()
        cycle = f.op(f"add i64 {f.op(f'load i64, ptr {self._state(_CYCLE)}')}, 1")
        f.emit(f"store i64 {cycle}, ptr {self._state(_CYCLE)}")

    def _take(self, d: t.Driver, followers: dict[t.Process, Follower]) -> None:
        """The kernel updates the signal of a driver that it has marked; an event marks what it wakes."""
        f, root = self.f, d.root
        take, woken, on = f.label("take"), f.label("woken"), f.label("on")
        f.branch(f.op(f"icmp ne i32 {f.op(f'load i32, ptr {self._driver(d, DRIVER_QUEUED)}')}, 0"), take, on)
        f.start(take)
        f.branch(f.op(f"icmp ne i32 {f.op(f'call i32 @v_take(i32 {d.number})')}, 0"), woken, on)
        f.start(woken)
        for w in self.code.fans.get(root.number, ()):
            cond = "true"
            if w.size < root.size:
                cond = f.op(f"icmp ne i32 {f.op(f'call i32 @v_event(i32 {root.number}, i64 {w.at}, i64 {w.size})')}, 0")
            self._wake(w, root, cond, followers.get(w.process))
        f.start(on)

    def _update(self, d: t.Driver, mark: str, followers: dict[t.Process, Follower]) -> None:
        """A marked signal takes the value of its one driver; an event marks what it wakes."""
        f, root = self.f, d.root
        kept = root.observed or root.number not in self.code.whole_nine  # what attributes ask for, and what is recorded by parts
        set_, change, slow, fast, on = (f.label(x) for x in ("set", "change", "slow", "fast", "on"))
        cycle = f.op(f"load i64, ptr {self._state(_CYCLE)}")
        now = f.op(f"load i64, ptr {self._state(_NOW)}")
        f.branch(self._is_set(mark), set_, on)
        f.start(set_)
        f.emit(f"store i8 0, ptr {mark}")
        if kept:
            f.emit(f"store i64 {cycle}, ptr {self._sig(root, _ACTIVE_CYCLE)}")
            f.emit(f"store i64 {now}, ptr {self._sig(root, _ACTIVE_TIME)}")
        new = f.load_words(f.gep("%m", self.code.images[d.number]), root.size)
        old = f.load_words(self._value(root), root.size)
        changes = self._changes(new, old)
        f.branch(self._differ(changes, 0, root.size), change, on)
        f.start(change)
        other = [f.op(f"load i64, ptr {self._sig(root, k)}") for k in (_FORCE, _WAITS)]
        f.branch(f.op(f"icmp ne i64 {f.op(f'or i64 {other[0]}, {other[1]}')}, 0"), slow, fast)
        f.start(slow)
        f.emit(f"call void @v_follow(i32 {d.number})")
        f.jump(on)
        f.start(fast)
        f.store_words(new, self._value(root))
        if kept:
            f.store_words(old, self._before(root))
            f.emit(f"store i64 {cycle}, ptr {self._sig(root, _EVENT_CYCLE)}")
            f.emit(f"store i64 {now}, ptr {self._sig(root, _EVENT_TIME)}")
            f.emit(f"store i64 {root.size << 32}, ptr {self._sig(root, _LOW)}")
        self._record(d)
        for w in self.code.fans.get(root.number, ()):
            cond = self._differ(changes, w.at, w.at + w.size) if w.size < root.size else "true"
            self._wake(w, root, cond, followers.get(w.process))
        f.start(on)

    def _record(self, d: t.Driver) -> None:
        f = self.f
        flags = f.op(f"load i32, ptr {self._sig(d.root, _FLAGS)}")
        tell, on = f.label("tell"), f.label("on")
        f.branch(f.op(f"icmp ne i32 {f.op(f'and i32 {flags}, {_WATCHED}')}, 0"), tell, on)
        f.start(tell)
        site = f.op(f"load i32, ptr {self._driver(d, DRIVER_SITE)}")
        if (whole := self.code.whole_nine.get(d.root.number)) is not None:
            f.emit(f"call void @v_record_nine(i32 {whole}, i32 {site}, ptr {self._value(d.root)}, i32 {d.root.size})")
        else:
            f.emit(f"call void @v_recorded(i32 {d.root.number}, i32 {site})")
        f.start(on)

    def _changes(self, new: list[Word], old: list[Word]) -> list[Word]:
        """What is not 0 where the bytes differ: the bytes of a word, or a bit for each byte of a long one."""
        f = self.f
        found: list[Word] = []
        for (at, n, x), (_, _, y) in zip(new, old, strict=True):
            kind = word_type(n)
            if n > 8:
                changed = f.op(f"bitcast <{n} x i1> {f.op(f'icmp ne {kind} {x}, {y}')} to i{n}")
            else:
                changed = f.op(f"xor {kind} {x}, {y}")
            found.append((at, n, changed))
        return found

    def _differ(self, changes: list[Word], low: int, high: int) -> str:
        """Whether the bytes [low, high) differ."""
        f = self.f
        found = ""
        for at, n, changed in changes:
            start, end = max(low, at), min(high, at + n)
            if start >= end:
                continue
            each = 1 if n > 8 else 8
            if end - start < n:
                changed = f.op(f"and i{each * n} {changed}, {(1 << each * (end - at)) - (1 << each * (start - at))}")
            one = f.op(f"icmp ne i{each * n} {changed}, 0")
            found = f.op(f"or i1 {found}, {one}") if found else one
        return found or "false"

    def _wake(self, w: Woken, root: t.RootSignal, cond: str, follower: Follower | None) -> None:
        """Wakes a process of the signal whose event it is, if its part has changed (`cond`) and to the level that it waits for."""
        f = self.f
        on = ""
        if cond != "true" or w.link > 1:
            go, on = f.label("wake"), f.label("on")
            if w.link > 1:
                byte = f.op(f"load i8, ptr {f.gep(self._value(root), w.at)}")
                masked = f.op(f"and i8 {byte}, {w.link >> 16}")
                cond = f.op(f"and i1 {cond}, {f.op(f'icmp eq i8 {masked}, {w.link >> 8 & 255}')}")
            f.branch(cond, go, on)
            f.start(go)
        if follower is None:
            f.emit(f"call void @v_wake(i32 {self.numbers[w.process]})")
        else:
            f.emit(f"store i8 0, ptr {self._armed(w.process)}")
            f.emit(f"store i8 1, ptr {follower.mark}")
        if on:
            f.start(on)
