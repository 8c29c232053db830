"""One function of generated code: its text, its labels, the addresses of what it uses."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import Frozen, Identity, field
from mevrik.design.types import List, Real, Type, Vec
from mevrik.design.unit import Signal, Unit
from mevrik.engine.layout import FRAME_HEADER, Instance, Slot, plane_bytes, planes_of

if TYPE_CHECKING:
    from mevrik.engine.lower.module import ModuleLowerer


class Val(Frozen, frozen=True):
    """A vector in flight: names or literals of the two planes; `u` is None when nothing can be unknown."""

    v: str
    u: str | None
    w: int


class Storage(Frozen, frozen=True):
    """Where a signal's planes lie: an address (a pointer to element 0), and its slot unless it is local."""

    address: str
    signal: Signal
    bytes: int
    planes: int
    number: str  # the signal's number in the design, "" for locals


class Function(Identity):
    """`framed` functions keep their locals in a frame that outlives a wait; others keep them on the stack."""

    module: ModuleLowerer
    unit: Unit
    framed: bool
    parent: Function | None = None
    lines: list[str] = field(default_factory=list)
    allocas: list[str] = field(default_factory=list)
    counter: int = 0
    frame_size: int = FRAME_HEADER
    forks: int = 0  # fork statements so far
    offsets: dict[Signal, int] = field(default_factory=dict)
    stack: dict[Signal, str] = field(default_factory=dict)
    states: list[str] = field(default_factory=list)
    storage_via: Callable[[Signal], Storage] | None = None  # for signals of virtual interfaces
    lists: list[str] = field(default_factory=list)  # variables on the stack that hold a list
    is_process: bool = True  # has a frame argument %f; otherwise %inst is an argument
    terminated: bool = False
    instance: Instance | None = None  # the only instance that the function is for, where the unit has several

    # ---- text ----

    def name(self) -> str:
        self.counter += 1
        return f"%t{self.counter}"

    def emit(self, text: str) -> None:
        if not self.terminated:
            self.lines.append("  " + text)

    def op(self, text: str) -> str:
        result = self.name()
        if not self.terminated:
            self.lines.append(f"  {result} = {text}")
        return result

    def label(self, hint: str) -> str:
        self.counter += 1
        return f"{hint}{self.counter}"

    def start(self, label: str) -> None:
        if not self.terminated:
            self.lines.append(f"  br label %{label}")
        self.lines.append(f"{label}:")
        self.terminated = False

    def jump(self, label: str) -> None:
        self.emit(f"br label %{label}")
        self.terminated = True

    def branch(self, cond: str, yes: str, no: str) -> None:
        self.emit(f"br i1 {cond}, label %{yes}, label %{no}")
        self.terminated = True

    def ret(self, text: str) -> None:
        self.emit(f"ret {text}")
        self.terminated = True

    def alloca(self, size: int) -> str:
        self.counter += 1
        result = f"%a{self.counter}"
        self.allocas.append(f"  {result} = alloca [{max(size, 1)} x i8], align 8")
        return result

    # ---- addresses ----

    def inst(self) -> str:
        """The instance table of this activation."""
        if self.instance is not None:
            return self.op(f"getelementptr i8, ptr %m, i64 {self.instance.table}")
        if not self.is_process:
            return "%inst"
        at = self.op("getelementptr i8, ptr %f, i64 16")
        return self.op(f"load ptr, ptr {at}")

    def fixed(self) -> Instance | None:
        """The instance, if it is known before the run."""
        return self.instance or (None if self.module.layout.shared(self.unit) else self.module.single(self.unit))

    def table(self, offset: int) -> str:
        at = self.op(f"getelementptr i8, ptr {self.inst()}, i64 {offset}")
        return self.op(f"load i32, ptr {at}, !invariant.load !0")

    def storage(self, signal: Signal) -> Storage:
        if signal.via is not None:
            assert self.storage_via is not None
            return self.storage_via(signal)
        if signal.kind == "local" and signal.target is None:
            return Storage(self.local(signal), signal, plane_bytes(_width(signal)), planes_of(signal), "")
        module = self.module
        instance = self.fixed()
        if instance is not None:
            slot: Slot = module.layout.slot(instance, signal)
            address = self.op(f"getelementptr i8, ptr %m, i64 {slot.offset}")
            return Storage(address, signal, slot.bytes, slot.planes, str(slot.number))
        offset = self.table(8 + 8 * signal.number)
        number = self.table(12 + 8 * signal.number)
        wide = self.op(f"zext i32 {offset} to i64")
        address = self.op(f"getelementptr i8, ptr %m, i64 {wide}")
        return Storage(address, signal, plane_bytes(_width(signal)), planes_of(signal), number)

    def local(self, signal: Signal) -> str:
        if signal in self.stack:
            return self.stack[signal]
        owner: Function | None = self
        frame = "%f"
        while owner is not None:
            if signal in owner.offsets:
                return self.op(f"getelementptr i8, ptr {frame}, i64 {owner.offsets[signal]}")
            owner = owner.parent
            if owner is not None:
                link = self.op(f"getelementptr i8, ptr {frame}, i64 24")
                frame = self.op(f"load ptr, ptr {link}")
        size = plane_bytes(_width(signal)) * planes_of(signal) * signal.elements
        if self.framed:
            self.offsets[signal] = self.reserve(size)
            return self.op(f"getelementptr i8, ptr %f, i64 {self.offsets[signal]}")
        self.stack[signal] = self.alloca(size)
        if isinstance(signal.type, List):
            self.lists.append(self.stack[signal])
            self.allocas.append(f"  call void @llvm.memset.p0.i64(ptr {self.stack[signal]}, i8 0, i64 {size}, i1 false)")
        return self.stack[signal]

    def free_lists(self, kept: set[str]) -> None:
        """Give back the lists of the variables that end with the function."""
        for at in self.lists:
            if at not in kept:
                self.emit(f"call void @k_list_free(i64 {self.op(f'load i64, ptr {at}')})")

    def reserve(self, size: int) -> int:
        """Bytes in the frame."""
        at = self.frame_size
        self.frame_size += (size + 7) // 8 * 8
        return at

    # ---- planes in memory ----

    def load_planes(self, address: str, width: int, bytes_: int, planes: int) -> Val:
        stored = 8 * bytes_
        v = self.op(f"load i{stored}, ptr {address}")
        if stored != width:
            v = self.op(f"trunc i{stored} {v} to i{width}")
        if planes < 2:
            return Val(v, None, width)
        up = self.op(f"getelementptr i8, ptr {address}, i64 {bytes_}")
        u = self.op(f"load i{stored}, ptr {up}")
        if stored != width:
            u = self.op(f"trunc i{stored} {u} to i{width}")
        return Val(v, u, width)

    def store_planes(self, address: str, value: Val, bytes_: int, planes: int) -> None:
        v = self.widen(value.v, value.w, 8 * bytes_)
        self.emit(f"store i{8 * bytes_} {v}, ptr {address}")
        if planes > 1:
            u = self.widen(value.u or "0", value.w, 8 * bytes_)
            up = self.op(f"getelementptr i8, ptr {address}, i64 {bytes_}")
            self.emit(f"store i{8 * bytes_} {u}, ptr {up}")

    def widen(self, name: str, width: int, to: int) -> str:
        if width == to or name == "0":
            return name
        if not name.startswith("%"):
            return str(int(name) & ((1 << width) - 1))
        return self.op(f"zext i{width} {name} to i{to}")

    def spill(self, value: Val) -> tuple[str, str]:
        """The planes as arrays of 64-bit words, for the kernel."""
        words = max((value.w + 63) // 64, 1)
        at = self.alloca(16 * words)
        self.store_planes(at, value, 8 * words, 2)
        return at, self.op(f"getelementptr i8, ptr {at}, i64 {8 * words}")

    def text(self, head: str) -> str:
        """The finished function; a framed one begins by going on where it waited."""
        body = ["entry:", *self.allocas]
        if self.framed:
            body.append("  %state.at = getelementptr i8, ptr %f, i64 4")
            body.append("  %state = load i32, ptr %state.at")
            cases = " ".join(f"i32 {k + 1}, label %{label}" for k, label in enumerate(self.states))
            body.append(f"  switch i32 %state, label %begin [{cases}]")
        else:
            body.append("  br label %begin")
        body.append("begin:")
        return "\n".join([head + " {", *body, *self.lines, "}\n"])

    def set_state(self, state: int) -> None:
        at = self.op("getelementptr i8, ptr %f, i64 4")
        self.emit(f"store i32 {state}, ptr {at}")

    def wait_here(self, code: int = 0) -> None:
        """Give control back; the next activation goes on behind this."""
        label = self.label("resume")
        self.states.append(label)
        self.set_state(len(self.states))
        self.ret(f"i32 {code}")
        self.lines.append(f"{label}:")
        self.terminated = False


def layout_of(t: Type) -> tuple[int, int, int]:
    """Bytes of a plane, planes and width of an element of an array."""
    if isinstance(t, Vec):
        return plane_bytes(t.width), 2 if t.four else 1, t.width
    return 8, 1, 64


def _width(signal: Signal) -> int:
    if isinstance(signal.type, Vec):
        return signal.type.width
    return 64 if isinstance(signal.type, Real) else 1


def is_real(e: n.Expr) -> bool:
    return isinstance(e.type, Real)
