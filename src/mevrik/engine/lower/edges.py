"""One function for all that an edge of a clock wakes: its processes run one behind the other, what they assign without blocking stays
in registers until all have run, and is then applied in the order in which it was assigned (IEEE 1364-2005 11.3, 11.4).

It does what the scheduler does with the same processes in its queue, in the same order. As soon as something else has to run first,
it hands what it holds over to the scheduler's list of updates and gives 1. It goes on with the next edge of its kind as long as nothing
else happens.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import Identity, field
from mevrik.design.unit import Process, Subprogram
from mevrik.engine.abi import KernelState
from mevrik.engine.layout import Instance, Slot
from mevrik.engine.lower.commit import has_apply, has_commit
from mevrik.engine.lower.function import Function, Val
from mevrik.engine.lower.statements import StatementLowerer
from mevrik.engine.period import PARAMETERS, next_edge

if TYPE_CHECKING:
    from mevrik.engine.lower.module import ModuleLowerer

MOST_PROCESSES, MOST_UPDATES, MOST_FOLLOWERS = 64, 400, 24
_RISING, _FALLING = 1, 2
_HEAD, _TAIL = 0, 8  # of Scheduler in kernel.h
_PRINTS = {f"${a}{b}" for a in ("display", "write", "fdisplay", "fwrite") for b in ("", "b", "o", "h")} | {"$finish"}
Woken = tuple[int, Instance, Process]


class Held(Identity):
    """A nonblocking assignment that waits in registers: whether it was made, where it goes, and its planes in memory."""

    slot: Slot
    site: int
    width: int
    made: str
    planes: str
    element: str = ""  # memory for the number of the element and for the lowest bit, of those that write a part
    low: str = ""


def edge_functions(module: ModuleLowerer, static: set[Process], clocks: Iterable[Slot]) -> dict[tuple[int, int], str]:
    """(number of a clock, its new value) → the name of the function for that edge: one made here, or one of the kernel."""
    found: dict[tuple[int, int], str] = {}
    for clock in clocks:
        if clock.forced or clock.switched or clock.net or clock.cells or clock.width != 1 or clock.elements != 1:
            continue
        for value, edge in ((1, _RISING), (0, _FALLING)):
            woken = [(number, *module.layout.processes[number]) for number, e in clock.fans if not e or e & edge]
            if not woken:
                found[clock.number, value] = "k_idle_edge"
            elif _fits(module, woken):
                name = f"edge{clock.number}_{value}"
                EdgeFunction(module, woken).lower(name, static)
                found[clock.number, value] = name
    return found


def _fits(module: ModuleLowerer, woken: list[Woken]) -> bool:
    """Whether the processes only compute and assign, and none writes at once what another of them waits for."""
    if len(woken) > MOST_PROCESSES or len({number for number, _, _ in woken}) != len(woken):
        return False
    waited: set[Slot] = set()
    written: set[Slot] = set()
    updates = 0
    for _, instance, process in woken:
        for s in walk.statements(process.body):
            if not _simple(s):
                return False
            updates += isinstance(s, n.Schedule)
        if any(not _computes(sub) for sub in _called(process.body)):
            return False
        for ref in process.sense or ():
            assert isinstance(ref.expr, n.Ref)
            waited.add(module.layout.slot(instance, ref.expr.signal))
        written |= _written(module, instance, process)
    return updates <= MOST_UPDATES and not waited & written


def _simple(s: n.Stmt) -> bool:
    match s:
        case n.Assign() | n.Schedule():
            return s.delay is None and not getattr(s, "events", ()) and all(p.signal.via is None for p in s.target)
        case n.Drive():
            return not s.delays
        case n.Block():
            return not s.remote
        case n.SysTask():
            return s.name in _PRINTS
        case n.If() | n.Case() | n.Loop() | n.RepeatLoop() | n.Leave() | n.AssignArray():
            return True
    return False


def _called(body: list[n.Stmt]) -> Iterator[Subprogram]:
    """The functions that statements call, and those that these call."""
    seen: set[Subprogram] = set()
    waiting = [body]
    while waiting:
        for s in walk.statements(waiting.pop()):
            for e in walk.own_expressions(s):
                for x in walk.expressions(e):
                    if isinstance(x, n.Call):
                        for sub in (x.function, *(other for _, other in x.variants)):
                            if sub not in seen:
                                seen.add(sub)
                                waiting.append(sub.body)
                                yield sub


def _computes(sub: Subprogram) -> bool:
    return all(_simple(s) and not isinstance(s, (n.Schedule, n.SysTask, n.Drive)) for s in walk.statements(sub.body))


def _written(module: ModuleLowerer, instance: Instance, process: Process) -> set[Slot]:
    """What a process writes at once, also by the functions that it calls."""
    found: set[Slot] = set()
    for unit, body in ((instance.unit, process.body), *((s.unit, s.body) for s in _called(process.body))):
        for s in walk.statements(body):
            if isinstance(s, n.Schedule):
                continue
            for place in walk.targets(s):
                if place.signal.kind != "local" and place.signal.via is None:
                    homes = [instance] if unit is instance.unit else module.layout.by_unit.get(unit, [])
                    found.update(module.layout.slot(home, place.signal) for home in homes)
    return found


class Follower(Identity):
    """A process that only computes, woken by what the edge changed: it runs in the function too, if its mark is set."""

    number: int
    instance: Instance
    process: Process
    mark: str
    causes: set[Slot] = field(default_factory=set)


class EdgeLowerer(StatementLowerer):
    """Statements whose nonblocking assignments are held."""

    edge: EdgeFunction
    looping: bool = False

    def _schedule_part(self, part: n.LRef, value: Val, site: int, ticks: str) -> None:
        if self.looping:
            super()._schedule_part(part, value, site, ticks)
            return
        f = self.f
        edge = self.edge
        assert f.instance is not None
        slot = self.module.layout.slot(f.instance, part.signal)
        words = max((value.w + 63) // 64, 1)
        held = Held(slot, site, value.w, edge.flag(), f.alloca(16 * words))
        skip = ""
        if part.element is not None or part.bits is not None:
            _, element, low, ok = self._place(part)
            skip = self._guard(ok)
            held.element, held.low = f.alloca(4), f.alloca(8)
            f.emit(f"store i32 {element}, ptr {held.element}")
            f.emit(f"store i64 {low}, ptr {held.low}")
        f.store_planes(held.planes, value, 8 * words, 2)
        f.emit(f"store i8 1, ptr {held.made}")
        if skip:
            f.start(skip)
        edge.held.append(held)

    def run(self, body: list[n.Stmt]) -> None:
        for s in body:
            if isinstance(s, (n.Loop, n.RepeatLoop)) and any(isinstance(x, n.Schedule) for x in walk.statements([s])):
                self.edge.hand_over(clear=True)  # how many it makes is not known: from here on the scheduler has them
                self.f.emit(f"store i8 1, ptr {self.edge.handed}")
                self.looping = True
                super().run([s])
                self.looping = False
            else:
                super().run([s])


class EdgeFunction:
    def __init__(self, module: ModuleLowerer, woken: list[Woken]) -> None:
        self.module = module
        self.woken = woken
        self.held: list[Held] = []
        self.f = Function(module, woken[0][1].unit, False)
        self.lowerer = EdgeLowerer(module, self.f)
        self.lowerer.edge = self
        self.handed = self.flag()

    def flag(self) -> str:
        """A byte that is 0 when the function begins."""
        at = self.f.alloca(1)
        self.f.allocas.append(f"  store i8 0, ptr {at}")
        return at

    def lower(self, name: str, static: set[Process]) -> None:
        f = self.f
        for _, instance, process in self.woken:
            self._process(self.lowerer, instance, process)
        busy, apply_, done = f.label("busy"), f.label("apply"), f.label("done")
        head = self._scheduler_field(_HEAD)
        tail = self._scheduler_field(_TAIL)
        waiting = f.op(f"icmp ne i64 {head}, {tail}")
        handed = f.op(f"icmp ne i8 {f.op(f'load i8, ptr {self.handed}')}, 0")
        f.branch(f.op(f"or i1 {waiting}, {handed}"), busy, apply_)
        f.start(busy)
        self.hand_over(clear=False)
        f.ret("i32 1")
        f.start(apply_)
        self._next_delta()
        followers = self._followers(static)
        for held in self.held:
            self._apply(held, followers)
        if followers:
            self._run_followers(followers, done)
        f.start(done)
        self._go_on()
        f.ret("i32 0")
        self.module.parts.append(f.text(f"define i32 @{name}(ptr %m, ptr %k, {PARAMETERS})"))

    def _go_on(self) -> None:
        """To the next edge of this kind, unless something was queued or scheduled."""
        f = self.f
        empty, quiet = f.label("empty"), f.label("quiet")
        f.branch(f.op(f"icmp eq i64 {self._scheduler_field(_HEAD)}, {self._scheduler_field(_TAIL)}"), empty, "done")
        f.start(empty)
        at = f.op(f"getelementptr i8, ptr %k, i64 {KernelState.beside.offset}")
        f.branch(f.op(f"icmp eq i32 {f.op(f'load i32, ptr {at}')}, 0"), quiet, "done")
        f.start(quiet)
        f.lines.append(next_edge("begin", "done"))
        f.terminated = True
        f.start("done")
        places = [x for x in f.allocas if " = alloca " in x]
        forgotten = [f"  call void @llvm.lifetime.start.p0(i64 -1, ptr {x.split()[0]})" for x in places]
        zeros = [x for x in f.allocas if x not in places]
        f.lines[:0] = forgotten + zeros  # at each edge anew
        f.allocas = [*places, f"  %delta = getelementptr i8, ptr %k, i64 {KernelState.delta.offset}"]

    def _scheduler_field(self, offset: int) -> str:
        at = self.f.op(f"getelementptr i8, ptr %m, i64 {self.module.layout.scheduler + offset}")
        return self.f.op(f"load i64, ptr {at}")

    def _next_delta(self) -> None:
        f = self.f
        more = f.op(f"add i64 {f.op('load i64, ptr %delta')}, 1")
        f.emit(f"store i64 {more}, ptr %delta")

    def _process(self, lowerer: StatementLowerer, instance: Instance, process: Process) -> None:
        """The statements of one process, with the signals of one instance."""
        f, module = self.f, self.module
        saved = dict(module.exits), dict(module.left), module.process
        f.unit, f.instance, f.stack, f.lists = instance.unit, instance, {}, []
        module.process = process
        end = f.label("end")
        lowerer.run(process.body)
        if not f.terminated:
            f.free_lists(set())
        f.start(end)
        module.exits, module.left, module.process = saved

    # ---- what is held ----

    def hand_over(self, clear: bool) -> None:
        """Give the scheduler what is held so far, in its order."""
        f = self.f
        for held in self.held:
            go, on = f.label("give"), f.label("on")
            f.branch(f.op(f"icmp ne i8 {f.op(f'load i8, ptr {held.made}')}, 0"), go, on)
            f.start(go)
            v, u = self._planes(held)
            number = held.slot.number
            if held.element:
                element, low = f.op(f"load i32, ptr {held.element}"), f.op(f"load i64, ptr {held.low}")
                f.emit(
                    f"call void @k_schedule(i32 {number}, i32 {held.site}, i32 {element}, i64 {low}, i32 {held.width}, ptr {v}, ptr {u}, i64 0)"
                )
            elif held.width > 64:
                f.emit(
                    f"call void @k_schedule(i32 {number}, i32 {held.site}, i32 0, i64 0, i32 {held.width}, ptr {v}, ptr {u}, i64 0)"
                )
            else:
                vw, uw = f.op(f"load i64, ptr {v}"), f.op(f"load i64, ptr {u}")
                f.emit(f"call void @k_schedule64(i32 {number}, i32 {held.site}, i32 {held.width}, i64 {vw}, i64 {uw})")
            if clear:
                f.emit(f"store i8 0, ptr {held.made}")
            f.start(on)

    def _planes(self, held: Held) -> tuple[str, str]:
        words = max((held.width + 63) // 64, 1)
        return held.planes, self.f.op(f"getelementptr i8, ptr {held.planes}, i64 {8 * words}")

    def _apply(self, held: Held, followers: dict[int, Follower]) -> None:
        f, slot = self.f, held.slot
        go, on = f.label("set"), f.label("on")
        f.branch(f.op(f"icmp ne i8 {f.op(f'load i8, ptr {held.made}')}, 0"), go, on)
        f.start(go)
        v, u = self._planes(held)
        if held.element or not has_apply(slot):
            element = f.op(f"load i32, ptr {held.element}") if held.element else "0"
            low = f.op(f"load i64, ptr {held.low}") if held.element else "0"
            f.emit(
                f"call void @k_write(i32 {slot.number}, i32 {held.site}, i32 {element}, i64 {low}, i32 {held.width}, ptr {v}, ptr {u})"
            )
        else:
            self._write(held, v, u, followers)
        f.start(on)

    def _write(self, held: Held, v: str, u: str, followers: dict[int, Follower]) -> None:
        """A whole signal of up to 64 bits; its followers are marked instead of queued."""
        f, slot = self.f, held.slot
        bits = 8 * slot.bytes
        wide_v, wide_u = f.op(f"load i64, ptr {v}"), f.op(f"load i64, ptr {u}")
        if slot.planes == 1:  # a two-state signal takes unknown bits as 0
            wide_v = f.op(f"and i64 {wide_v}, {f.op(f'xor i64 {wide_u}, -1')}")
        nv, nu = (x if bits == 64 else f.op(f"trunc i64 {x} to i{bits}") for x in (wide_v, wide_u))
        at = f.op(f"getelementptr i8, ptr %m, i64 {slot.offset}")
        mine = [x for x in followers.values() if slot in x.causes]
        if not mine:
            planes = f"i{bits} {nv}, i{bits} {nu}" if slot.planes > 1 else f"i{bits} {nv}"
            writer = self.module.writer(str(slot.number), bits, slot.planes)
            f.emit(f"call void @{writer}(ptr %m, ptr {at}, {planes}, i32 {slot.number}, i32 {held.site})")
            return
        old = f.op(f"load i{bits}, ptr {at}")
        differs = f.op(f"xor i{bits} {old}, {nv}")
        up = f.op(f"getelementptr i8, ptr {at}, i64 {slot.bytes}") if slot.planes > 1 else ""
        if up:
            other = f.op(f"load i{bits}, ptr {up}")
            differs = f.op(f"or i{bits} {differs}, {f.op(f'xor i{bits} {other}, {nu}')}")
        change, same = f.label("change"), f.label("same")
        f.branch(f.op(f"icmp ne i{bits} {differs}, 0"), change, same)
        f.start(change)
        f.emit(f"store i{bits} {nv}, ptr {at}")
        if up:
            f.emit(f"store i{bits} {nu}, ptr {up}")
        for follower in mine:
            f.emit(f"store i8 1, ptr {follower.mark}")
            f.emit(f"store i8 0, ptr {self._armed(follower)}")
        self._tell(slot, held.site)
        f.start(same)

    def _tell(self, slot: Slot, site: int) -> None:
        """The kernel has more to do with a change of a signal that is recorded or waited for; none of it needs the edge."""
        f = self.f
        watch = f.op(f"load i8, ptr {f.op(f'getelementptr i8, ptr %m, i64 {slot.number}')}")
        tell, on = f.label("tell"), f.label("on")
        f.branch(f.op(f"icmp ne i8 {f.op(f'and i8 {watch}, 254')}, 0"), tell, on)
        f.start(tell)
        f.emit(f"call void @k_watched(i32 {slot.number}, i32 {site}, i32 0, i32 0)")
        f.start(on)

    def _armed(self, follower: Follower) -> str:
        return self.f.op(f"getelementptr i8, ptr %m, i64 {self.module.layout.armed + follower.number}")

    # ---- what the changes wake ----

    def _followers(self, static: set[Process]) -> dict[int, Follower]:
        """All that the held assignments can wake, if all of it only computes and nothing of it reads what another writes; else
        nothing, and the scheduler runs it."""
        layout = self.module.layout
        found: dict[int, Follower] = {}
        for held in self.held:
            slot = held.slot
            if slot.fans and (held.element or not has_apply(slot) or not has_commit(slot)):
                return {}
            for number, edge in slot.fans:
                instance, process = layout.processes[number]
                if edge or process not in static or not _follows(process):
                    return {}
                if number not in found:
                    found[number] = Follower(number, instance, process, self.flag())
                found[number].causes.add(slot)
        if len(found) > MOST_FOLLOWERS:
            return {}
        reads = {
            k: {layout.slot(x.instance, r.signal) for r in walk.reads(x.process.body) if r.signal.kind != "local"}
            for k, x in found.items()
        }
        writes = {k: _written(self.module, x.instance, x.process) for k, x in found.items()}
        clash = any(reads[a] & writes[b] or writes[a] & writes[b] for a in found for b in found if a != b)
        return {} if clash else found

    def _run_followers(self, followers: dict[int, Follower], done: str) -> None:
        f = self.f
        any_ran = self.flag()
        plain = StatementLowerer(self.module, f)
        for follower in followers.values():
            go, on = f.label("follow"), f.label("on")
            f.branch(f.op(f"icmp ne i8 {f.op(f'load i8, ptr {follower.mark}')}, 0"), go, on)
            f.start(go)
            eager = follower.process.kind in ("assign", "link")
            if eager:  # it sees its own change
                f.emit(f"store i8 1, ptr {self._armed(follower)}")
            self._process(plain, follower.instance, follower.process)
            if not eager:
                f.emit(f"store i8 1, ptr {self._armed(follower)}")
            f.emit(f"store i8 1, ptr {any_ran}")
            f.start(on)
        go = f.label("ran")
        f.branch(f.op(f"icmp ne i8 {f.op(f'load i8, ptr {any_ran}')}, 0"), go, done)
        f.start(go)
        self._next_delta()


def _follows(process: Process) -> bool:
    """Whether a process does nothing but compute and assign at once."""
    if process.kind not in ("assign", "always_comb", "always", "link") or any(True for _ in _called(process.body)):
        return False
    return all(
        _simple(s) and not isinstance(s, (n.Schedule, n.SysTask, n.Loop, n.RepeatLoop)) for s in walk.statements(process.body)
    )
