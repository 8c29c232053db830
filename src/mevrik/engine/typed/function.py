"""One function of generated code: its text, temporary names, branches, and where the things it uses lie."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

from mevrik.design import typed as t
from mevrik.design.record import Value
from mevrik.engine.typed.bits import word_type, words
from mevrik.engine.typed.kernel import aside_function

if TYPE_CHECKING:
    from mevrik.engine.typed.module import Module

MOST_IN_WORDS = 64  # bytes that are copied word by word
Word = tuple[int, int, str]  # at which byte it begins, its bytes, its value
Operand = str | int  # a register or a constant


class Range(Value):
    """Bounds of one dimension: operands of type i64; `down` is 0 or 1."""

    left: Operand
    right: Operand
    down: Operand


class Part(Value):
    """Which signal a place belongs to: its number, the byte in it, its driver (a pointer) where that is a parameter."""

    number: Operand
    at: Operand
    driver: str = ""
    root: t.RootSignal | None = None


class Place(Value):
    """A value in memory: `bounds` of an array."""

    ptr: str
    subtype: t.Subtype
    bounds: list[Range] | None = None
    signal: Part | None = None


class Held(Value):
    """Where a driver notes that it was given a value, by which statement, and which `number` that is (i64, -1 if it isn't known; "" if
    its signal keeps none)."""

    mark: str
    site: str
    number: str


class Function:
    def __init__(self, module: Module, sub: t.Subprogram | None, process: t.Process | None) -> None:
        self.module = module
        self.sub = sub
        self.process = process
        self.entry: list[str] = []
        self.lines: list[str] = []
        self.count = 0
        self.terminated = False
        self.places: dict[t.Object, Place] = {}
        self.known: dict[t.Object, str] = {}  # scalars in registers: parameters and hidden constants
        self.site = 0
        self.allocated = False
        self.block = "begin"
        self.loops: dict[t.Loop, tuple[str, str]] = {}  # labels for next and exit
        self.self_ptr = ""
        self.held: dict[t.RootSignal | None, Held] = {}  # of signals whose drivers only note that they were given a value

    # ---- text ----

    def emit(self, line: str) -> None:
        if not self.terminated:
            self.lines.append("  " + line)

    def tmp(self) -> str:
        self.count += 1
        return f"%t{self.count}"

    def op(self, text: str) -> str:
        name = self.tmp()
        self.emit(f"{name} = {text}")
        return name

    def label(self, what: str) -> str:
        self.count += 1
        return f"{what}{self.count}"

    def start(self, label: str) -> None:
        """Begin a block; falls into it if the last one didn't end."""
        self.jump(label)
        self.lines.append(f"{label}:")
        self.terminated = False
        self.block = label

    def jump(self, label: str) -> None:
        if not self.terminated:
            self.emit(f"br label %{label}")
            self.terminated = True

    def branch(self, cond: str, yes: str, no: str, rare: str = "") -> None:
        """`rare`: which of them is seldom gone to; it is laid aside, and the usual way is straight."""
        weight = f", !prof !{int(rare == no)}" if rare else ""
        self.emit(f"br i1 {cond}, label %{yes}, label %{no}{weight}")
        self.terminated = True

    def ret(self, what: str) -> None:
        self.emit(f"ret {what}")
        self.terminated = True

    def alloca(self, kind: str) -> str:
        name = self.tmp()
        self.entry.append(f"  {name} = alloca {kind}")
        return name

    def text(self, head: str) -> str:
        body = "\n".join(self.lines)
        first = "\n".join(self.entry)
        return f"{head} {{\nentry:\n{first}\n  br label %begin\nbegin:\n{body}\n}}\n"

    # ---- numbers ----

    def add(self, x: Operand, y: Operand) -> Operand:
        if isinstance(x, int) and isinstance(y, int):
            return x + y
        if x == 0:
            return y
        if y == 0:
            return x
        return self.op(f"add i64 {x}, {y}")

    def sub_(self, x: Operand, y: Operand) -> Operand:
        if isinstance(x, int) and isinstance(y, int):
            return x - y
        if y == 0:
            return x
        return self.op(f"sub i64 {x}, {y}")

    def mul(self, x: Operand, y: Operand) -> Operand:
        if isinstance(x, int) and isinstance(y, int):
            return x * y
        if x == 1:
            return y
        if y == 1:
            return x
        return self.op(f"mul i64 {x}, {y}")

    def select(self, cond: Operand, x: Operand, y: Operand) -> Operand:
        """`cond` is an i64 of 0 or 1."""
        if isinstance(cond, int):
            return x if cond else y
        if x == y:
            return x
        bit = self.op(f"icmp ne i64 {cond}, 0")
        return self.op(f"select i1 {bit}, i64 {x}, i64 {y}")

    def length(self, r: Range) -> Operand:
        if isinstance(r.left, int) and isinstance(r.right, int) and isinstance(r.down, int):
            return max(r.left - r.right + 1 if r.down else r.right - r.left + 1, 0)
        high = self.select(r.down, r.left, r.right)
        low = self.select(r.down, r.right, r.left)
        n = self.add(self.sub_(high, low), 1)
        if isinstance(n, int):
            return max(n, 0)
        none = self.op(f"icmp slt i64 {n}, 0")
        return self.op(f"select i1 {none}, i64 0, i64 {n}")

    def low_high(self, r: Range) -> tuple[Operand, Operand]:
        return self.select(r.down, r.right, r.left), self.select(r.down, r.left, r.right)

    def count_of(self, bounds: list[Range]) -> Operand:
        n: Operand = 1
        for r in bounds:
            n = self.mul(n, self.length(r))
        return n

    @contextmanager
    def counted(self, n: Operand) -> Iterator[str]:
        """What is emitted inside runs for each number from 0 up to `n`, which it gets."""
        k = self.alloca("i64")
        self.emit(f"store i64 0, ptr {k}")
        test, body, done = self.label("test"), self.label("body"), self.label("done")
        self.start(test)
        at = self.op(f"load i64, ptr {k}")
        self.branch(self.op(f"icmp slt i64 {at}, {n}"), body, done)
        self.start(body)
        yield at
        self.emit(f"store i64 {self.op(f'add i64 {at}, 1')}, ptr {k}")
        self.jump(test)
        self.start(done)

    # ---- memory ----

    def gep(self, ptr: str, offset: Operand) -> str:
        return ptr if offset == 0 else self.op(f"getelementptr i8, ptr {ptr}, i64 {offset}")

    def static(self, offset: int) -> str:
        """A place in the static storage."""
        return self.gep("%m", self.module.base + 64 + offset)

    def load_words(self, at: str, size: int) -> list[Word]:
        """Bytes in words that are written and read alike, so that the compiler sees what was written last."""
        return [(k, n, self.op(f"load {word_type(n)}, ptr {self.gep(at, k)}, align 1")) for k, n in words(size)]

    def store_words(self, values: list[Word], to: str) -> None:
        for at, n, word in values:
            self.emit(f"store {word_type(n)} {word}, ptr {self.gep(to, at)}, align 1")

    def copy(self, to: str, source: str, size: Operand) -> None:
        """In words, where these are few: then the compiler sees what was stored."""
        if isinstance(size, int) and size <= MOST_IN_WORDS and sum(1 for _ in words(size)) <= 3:
            self.store_words(self.load_words(source, size), to)
            return
        self.emit(f"call void @llvm.memmove.p0.p0.i64(ptr {to}, ptr {source}, i64 {size}, i1 false)")

    def fill(self, to: str, byte: Operand, size: Operand) -> None:
        value = self.op(f"trunc i64 {byte} to i8") if isinstance(byte, str) else str(byte)
        self.emit(f"call void @llvm.memset.p0.i64(ptr {to}, i8 {value}, i64 {size}, i1 false)")

    def arena(self, size: Operand) -> str:
        """Temporary storage, given back at the end of the statement."""
        self.allocated = True
        return self.op(f"call ptr @v_arena(i64 {size})")

    def load(self, ptr: str, subtype: t.Subtype) -> str:
        """A scalar as i64 or double."""
        kind = storage(subtype)
        value = self.op(f"load {kind}, ptr {ptr}")
        return self.widen(value, subtype)

    def widen(self, value: str, subtype: t.Subtype) -> str:
        kind = storage(subtype)
        if kind in ("i64", "double"):
            return value
        return self.op(f"{'zext' if kind == 'i8' or isinstance(subtype.type, t.Enum) else 'sext'} {kind} {value} to i64")

    def narrow(self, value: Operand, subtype: t.Subtype) -> str:
        kind = storage(subtype)
        if kind in ("i64", "double"):
            return str(value)
        if isinstance(value, int) or not value.startswith("%"):
            return str(int(value))
        return self.op(f"trunc i64 {value} to {kind}")

    def store(self, value: Operand, ptr: str, subtype: t.Subtype) -> None:
        narrow = self.narrow(value, subtype)
        self.emit(f"store {storage(subtype)} {narrow}, ptr {ptr}")

    # ---- calls ----

    def aside(self, name: str, arguments: str) -> str:
        """A call of the kernel that is seldom come to."""
        result, text = aside_function(name)
        self.module.helpers.setdefault(f"aside_{name}", text)
        call = f"call preserve_mostcc {result} @aside_{name}({arguments})"
        if result != "void":
            return self.op(call)
        self.emit(call)
        return ""

    # ---- failures ----

    def fail_if(self, cond: str, call: str) -> None:
        """Stop the run if a bit is set."""
        bad, good = self.label("bad"), self.label("good")
        self.branch(cond, bad, good, rare=bad)
        self.start(bad)
        self.emit(call)
        self.emit("unreachable")
        self.terminated = True
        self.start(good)


def storage(subtype: t.Subtype) -> str:
    """The type in which a scalar lies in memory."""
    kind = subtype.type
    if isinstance(kind, t.Floating):
        return "double"
    return {1: "i8", 4: "i32", 8: "i64"}[t.size_of(t.Subtype(kind))]


def is_real(subtype: t.Subtype) -> bool:
    return isinstance(subtype.type, t.Floating)


def register(subtype: t.Subtype) -> str:
    return "double" if is_real(subtype) else "i64"


def is_composite(subtype: t.Subtype) -> bool:
    return isinstance(subtype.type, (t.ArrayType, t.RecordType))


def real(value: float) -> str:
    """A double as LLVM writes it exactly."""
    import struct

    return "0x" + struct.pack(">d", float(value)).hex().upper()
