"""What a signal takes from its driver in a function for an edge (IEEE 1076-2008 14.7.3), and whom that wakes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import typed as t
from mevrik.design.reads import is_signal
from mevrik.design.record import Identity
from mevrik.engine.typed.bits import word_type
from mevrik.engine.typed.fanout import Woken
from mevrik.engine.typed.function import MOST_IN_WORDS, Function, Held, Word
from mevrik.engine.typed.places import DRIVER_BYTES, DRIVER_QUEUED, SIG_BYTES

if TYPE_CHECKING:
    from mevrik.engine.layout import Layout
    from mevrik.engine.typed.module import Module
    from mevrik.engine.typed.running import TypedCode

CYCLE, NOW = 0, 8  # of VState in kernel/typed.h
EVENT_CYCLE, _ACTIVE_CYCLE, _FLAGS, _EVENT_TIME, _ACTIVE_TIME, _LOW = 0, 8, 36, 48, 56, 80  # of VSig
_WATCHED, _BESIDE = 64, 4096  # in VSig.flags


class Follower(Identity):
    """A process that what was assigned can wake: it runs in the function too, if its mark is set."""

    process: t.Process
    mark: str


class Updates:
    def __init__(self, code: TypedCode, module: Module, layout: Layout) -> None:
        self.code, self.module, self.layout = code, module, layout
        self.f = Function(module, None, None)
        self.numbers = {p: len(layout.processes) + k for k, p in enumerate(code.model.processes)}

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

    def _note(self, d: t.Driver) -> Held:
        """Where a driver notes what it is given in the function."""
        counts = self.module.number_of(d.root) and any(_is_sum(s, d.root) for p in d.process.body for s in t.nodes(p))
        return Held(self._flag(), self.f.alloca("i32"), self.f.alloca("i64") if counts else "")

    def _counter(self) -> str:
        at = self.f.alloca("i32")
        self.f.entry.append(f"  store i32 0, ptr {at}")
        return at

    def _is_set(self, flag: str) -> str:
        return self.f.op(f"icmp ne i8 {self.f.op(f'load i8, ptr {flag}')}, 0")

    def _disturb(self) -> None:
        """The kernel may have something to do from here on."""
        self.f.emit("store i32 3, ptr %disturbed")

    # ---- updates ----

    def _take(self, d: t.Driver, followers: dict[t.Process, Follower]) -> None:
        """The kernel updates the signal of a driver that it has marked; an event marks what it wakes."""
        f, root = self.f, d.root
        take, on = f.label("take"), f.label("on")
        f.branch(f.op(f"icmp ne i32 {f.op(f'load i32, ptr {self._driver(d, DRIVER_QUEUED)}')}, 0"), take, on)
        f.start(take)
        self._disturb()
        self._wake_if(f.op(f"call i32 @v_take(i32 {d.number})"), root, followers, on)
        f.start(on)

    def _update(self, d: t.Driver, held: Held, followers: dict[t.Process, Follower]) -> None:
        """A marked signal takes the value of its one driver; an event marks what it wakes."""
        f, root = self.f, d.root
        set_, change, fast, on = (f.label(x) for x in ("set", "change", "fast", "on"))
        times = self._times(root)
        f.branch(self._is_set(held.mark), set_, on)
        f.start(set_)
        f.emit(f"store i8 0, ptr {held.mark}")
        for value, places in times:
            f.emit(f"store i64 {value}, ptr {self._sig(root, places[0])}")
        image = f.gep("%m", self.code.images[d.number])
        parts = any(w.size < root.size for w in self.code.fans.get(root.number, ()))
        if held.number and not parts:
            self._compare_numbers(root, held, change, on)
        small = root.size <= MOST_IN_WORDS
        new, old = (f.load_words(at, root.size) if small else [] for at in (image, self._value(root)))
        changes = self._changes(new, old)
        f.branch(self._differ(changes, 0, root.size) if small else self._unlike(d, 0, root.size), change, on)
        f.start(change)
        flags = f.op(f"load i32, ptr {self._sig(root, _FLAGS)}")
        self._special(d, held, flags, followers, (fast, on))
        f.start(fast)
        touched = {
            w: self._differ(changes, w.at, w.at + w.size) if small else self._unlike(d, w.at, w.size)
            for w in self.code.fans.get(root.number, ())
            if w.size < root.size
        }
        if times:
            self._put(old, held, self._value(root), self._before(root), root.size)
            for value, places in times:
                f.emit(f"store i64 {value}, ptr {self._sig(root, places[1])}")
            f.emit(f"store i64 {root.size << 32}, ptr {self._sig(root, _LOW)}")
        self._put(new, held, image, self._value(root), root.size)
        if self.module.number_of(root):
            number = f.op(f"load i64, ptr {held.number}") if held.number else "-1"
            f.emit(f"store i64 {number}, ptr {self._number(root)}")
        if root.number not in self.code.whole_nine:
            tell, told = f.label("tell"), f.label("told")
            f.branch(self._has(flags, _WATCHED), tell, told)
            f.start(tell)
            f.aside("v_recorded", f"i32 {root.number}, i32 {f.op(f'load i32, ptr {held.site}')}")
            f.start(told)
        self._wake_all(root, followers, touched)
        f.start(on)

    def _times(self, root: t.RootSignal) -> list[tuple[str, tuple[int, int]]]:
        """What attributes ask for, and what is recorded by parts: a number, and where it is kept of the last time when a signal was
        active, and of its last event."""
        f = self.f
        if not root.observed and root.number in self.code.whole_nine:
            return []
        cycle, now = (f.op(f"load i64, ptr {self._state(at)}") for at in (CYCLE, NOW))
        return [(cycle, (_ACTIVE_CYCLE, EVENT_CYCLE)), (now, (_ACTIVE_TIME, _EVENT_TIME))]

    def _special(
        self, d: t.Driver, held: Held, flags: str, followers: dict[t.Process, Follower], ways: tuple[str, str]
    ) -> None:  # fmt: skip
        """A signal that is recorded whole is told of and goes the first way; to one that is forced or waited for the kernel gives its
        value, and whom this wakes is woken on the second."""
        f, root = self.f, d.root
        fast, on = ways
        special = f.label("special")
        whole = self.code.whole_nine.get(root.number)
        f.branch(self._has(flags, _BESIDE if whole is None else _BESIDE | _WATCHED), special, fast, rare=special)
        f.start(special)
        site = f.op(f"load i32, ptr {held.site}")
        if whole is not None:
            tell, slow = f.label("tell"), f.label("slow")
            f.branch(self._has(flags, _BESIDE), slow, tell, rare=slow)
            f.start(tell)
            image = f.gep("%m", self.code.images[d.number])
            f.aside("v_record_nine", f"i32 {whole}, i32 {site}, ptr {image}, i32 {root.size}")
            f.jump(fast)
            f.start(slow)
        self._disturb()
        self._wake_if(f.aside("v_follow", f"i32 {d.number}, i32 {site}"), root, followers, on)

    def _put(self, words: list[Word], held: Held, source: str, to: str, size: int) -> None:
        """From registers, if the bytes have been loaded on all ways that lead here."""
        if held.number or not words:
            self.f.copy(to, source, size)
        else:
            self.f.store_words(words, to)

    def _compare_numbers(self, root: t.RootSignal, held: Held, change: str, on: str) -> None:
        """Where it is known which numbers a signal holds and is given, they tell whether it changes; else goes on."""
        f = self.f
        counted, bytewise = f.label("counted"), f.label("bytewise")
        new, old = f.op(f"load i64, ptr {held.number}"), f.op(f"load i64, ptr {self._number(root)}")
        f.branch(f.op(f"icmp sge i64 {f.op(f'or i64 {new}, {old}')}, 0"), counted, bytewise, rare=bytewise)
        f.start(counted)
        f.branch(f.op(f"icmp ne i64 {new}, {old}"), change, on)
        f.start(bytewise)

    def _number(self, root: t.RootSignal) -> str:
        return self.f.gep("%m", self.module.number_of(root))

    def _has(self, flags: str, wanted: int) -> str:
        return self.f.op(f"icmp ne i32 {self.f.op(f'and i32 {flags}, {wanted}')}, 0")

    def _wake_if(self, changed: str, root: t.RootSignal, followers: dict[t.Process, Follower], on: str) -> None:
        """The kernel has given a signal its value and says whether that is an event; then goes on."""
        f, woken = self.f, self.f.label("woken")
        f.branch(f.op(f"icmp ne i32 {changed}, 0"), woken, on)
        f.start(woken)
        self._wake_all(root, followers)
        f.jump(on)

    def _wake_all(self, root: t.RootSignal, followers: dict[t.Process, Follower], touched: dict[Woken, str] | None = None) -> None:
        """An event of a signal wakes processes; which parts it touches the kernel knows, if not the caller."""
        f = self.f
        for w in self.code.fans.get(root.number, ()):
            cond = "true"
            if w.size < root.size and touched is not None:
                cond = touched[w]
            elif w.size < root.size:
                cond = f.op(f"icmp ne i32 {f.op(f'call i32 @v_event(i32 {root.number}, i64 {w.at}, i64 {w.size})')}, 0")
            self._wake(w, root, cond, followers.get(w.process))

    def _unlike(self, d: t.Driver, at: int, size: int) -> str:
        """Whether bytes of a large signal are other ones than its driver wants."""
        f = self.f
        image, value = f.gep("%m", self.code.images[d.number] + at), f.gep(self._value(d.root), at)
        return f.op(f"icmp ne i32 {f.op(f'call i32 @memcmp(ptr {image}, ptr {value}, i64 {size})')}, 0")

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
            self._disturb()
            f.emit(f"call void @v_wake(i32 {self.numbers[w.process]})")
        else:
            f.emit(f"store i8 1, ptr {follower.mark}")
        if on:
            f.start(on)


def _is_sum(s: object, root: t.RootSignal) -> bool:
    """Whether a signal is given a sum as a whole, of which the number is known."""
    if not isinstance(s, t.SignalAssign) or len(s.waves) != 1 or not is_signal(s.target, root):
        return False
    value = s.waves[0].value
    return isinstance(value, t.Call) and value.sub.name in ('"+"', '"-"')
