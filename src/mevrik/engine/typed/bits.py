"""Vectors of nine values and the numbers that they hold: functions of LLVM IR that are put in line.

A value is a byte, the leftmost first (U X 0 1 Z W L H - are 0 to 8): bit 0 tells '1' from '0' and bit 1 is set in what is known. Bytes are
read and written in the words of `words`, as they are wherever vectors are copied or compared: a word that is loaded is then one
that was stored, which the compiler sees, and which the processor passes on without a detour by the cache.
"""

from __future__ import annotations

from collections.abc import Iterator

MOST = 62  # bits of a number
EACH = 0x0101010101010101
GATHER = 0x8040201008040201  # times the lowest bits of eight bytes: they stand in the highest byte, that of the first byte highest
SPREAD = 0x0102040810204080
_FIRST = 0x7F * EACH
PACKED, ASKED = "{ i64, i1, i1 }", "{ i64, i1, i64 }"


def words(size: int) -> Iterator[tuple[int, int]]:
    """(where it begins, its bytes) of the words in which so many bytes are read and written."""
    at = 0
    for n in (32, 16, 8, 4, 2, 1):
        while size - at >= n:
            yield at, n
            at += n


def word_type(n: int) -> str:
    return f"<{n} x i8>" if n > 8 else f"i{8 * n}"


class _Lines:
    """The body of a function."""

    def __init__(self) -> None:
        self.lines: list[str] = []

    def op(self, text: str) -> str:
        name = f"%t{len(self.lines)}"
        self.lines.append(f"  {name} = {text}")
        return name

    def emit(self, text: str) -> None:
        self.lines.append("  " + text)

    def at(self, offset: int) -> str:
        return self.op(f"getelementptr i8, ptr %p, i64 {offset}") if offset else "%p"

    def either(self, x: str, y: str) -> str:
        return y if x == "0" else x if y == "0" else self.op(f"or i64 {x}, {y}")

    def both(self, x: str, y: str) -> str:
        return y if x == "true" else self.op(f"and i1 {x}, {y}")

    def shifted(self, how: str, x: str, by: int) -> str:
        return self.op(f"{how} i64 {x}, {by}") if by else x


def _splat(n: int, value: int) -> str:
    return "<" + ", ".join([f"i8 {value}"] * n) + ">"


def _backwards(n: int) -> str:
    return f"<{n} x i32> <" + ", ".join(f"i32 {n - 1 - k}" for k in range(n)) + ">"


def pack_function(name: str, n: int) -> str:
    """{ the number in `n` bytes, whether all are known, whether all are '0' or '1' }; up to 64."""
    f = _Lines()
    value, known, plain = "0", "true", "true"
    tail = n & ~7
    for at, size in words(tail):
        word = f.op(f"load {word_type(size)}, ptr {f.at(at)}, align 1")
        if size == 8:
            bits, good, strong = _gathered(f, word, 8)
        else:
            back = f.op(f"shufflevector <{size} x i8> {word}, <{size} x i8> poison, {_backwards(size)}")
            number = f.op(f"bitcast <{size} x i1> {f.op(f'trunc <{size} x i8> {back} to <{size} x i1>')} to i{size}")
            bits = f.op(f"zext i{size} {number} to i64")
            seconds = f.op(f"and <{size} x i8> {word}, {_splat(size, 2)}")
            marks = f.op(f"icmp ne <{size} x i8> {seconds}, zeroinitializer")
            good = f.op(f"icmp eq i{size} {f.op(f'bitcast <{size} x i1> {marks} to i{size}')}, -1")
            levels = f.op(f"icmp eq <{size} x i8> {f.op(f'and <{size} x i8> {word}, {_splat(size, 6)}')}, {_splat(size, 2)}")
            strong = f.op(f"icmp eq i{size} {f.op(f'bitcast <{size} x i1> {levels} to i{size}')}, -1")
        value = f.either(value, f.shifted("shl", bits, n - at - size))
        known, plain = f.both(known, good), f.both(plain, strong)
    if n > tail:
        word = "0"
        for at, size in words(n - tail):
            part = f.op(f"load i{8 * size}, ptr {f.at(tail + at)}, align 1")
            word = f.either(word, f.shifted("shl", f.op(f"zext i{8 * size} {part} to i64"), 8 * at))
        bits, good, strong = _gathered(f, word, n - tail)
        value, known, plain = f.either(value, bits), f.both(known, good), f.both(plain, strong)
    first = f.op(f"insertvalue {PACKED} poison, i64 {value}, 0")
    second = f.op(f"insertvalue {PACKED} {first}, i1 {known}, 1")
    f.emit(f"ret {PACKED} {f.op(f'insertvalue {PACKED} {second}, i1 {plain}, 2')}")
    return f"define internal {PACKED} @{name}(ptr %p) alwaysinline {{\n" + "\n".join(f.lines) + "\n}\n"


def _gathered(f: _Lines, word: str, n: int) -> tuple[str, str, str]:
    """The bits of the first `n` bytes of a word of eight, whose others are 0; whether they are known; whether they are '0' or '1'."""
    lowest = f.op(f"and i64 {word}, {EACH}")
    if n == 1:
        bits = lowest
    else:
        bits = f.op(f"lshr i64 {f.op(f'mul i64 {lowest}, {GATHER - (1 << 64)}')}, {64 - n}")

    def are_two(mask: int) -> str:
        known, seen = (k * EACH & (1 << 8 * n) - 1 for k in (2, mask))
        return f.op(f"icmp eq i64 {f.op(f'and i64 {word}, {seen}')}, {known}")

    return bits, are_two(2), are_two(6)


def ask_function(name: str, n: int) -> str:
    """{ the number in `n` bytes, whether all are known, what is to be noted: the number if all are '0' or '1', else -1 }. It leaves the
    registers as they are: most often the number is there, and nobody asks."""
    return f"""define internal preserve_mostcc {ASKED} @{name}(ptr %p) noinline memory(read) {{
  %all = call {PACKED} @pack{n}(ptr %p)
  %value = extractvalue {PACKED} %all, 0
  %known = extractvalue {PACKED} %all, 1
  %plain = extractvalue {PACKED} %all, 2
  %noted = select i1 %plain, i64 %value, i64 -1
  %first = insertvalue {ASKED} poison, i64 %value, 0
  %both = insertvalue {ASKED} %first, i1 %known, 1
  %three = insertvalue {ASKED} %both, i64 %noted, 2
  ret {ASKED} %three
}}
"""


def unpack_function(name: str, n: int) -> str:
    """Writes the lowest `n` bits of %x at %p; up to 64."""
    f = _Lines()
    tail = n & ~7
    for at, size in words(tail):
        part = f.shifted("lshr", "%x", n - at - size)
        if size == 8:
            word = _spread(f, part)
        else:
            bits = f.op(f"bitcast i{size} {f.op(f'trunc i64 {part} to i{size}')} to <{size} x i1>")
            ones = f.op(f"zext <{size} x i1> {bits} to <{size} x i8>")
            values = f.op(f"or <{size} x i8> {ones}, {_splat(size, 2)}")
            word = f.op(f"shufflevector <{size} x i8> {values}, <{size} x i8> poison, {_backwards(size)}")
        f.emit(f"store {word_type(size)} {word}, ptr {f.at(at)}, align 1")
    if n > tail:
        word = _spread(f, f.shifted("shl", "%x", 8 - (n - tail)))
        for at, size in words(n - tail):
            part = f.op(f"trunc i64 {f.shifted('lshr', word, 8 * at)} to i{8 * size}")
            f.emit(f"store i{8 * size} {part}, ptr {f.at(tail + at)}, align 1")
    return f"define internal void @{name}(i64 %x, ptr %p) alwaysinline {{\n" + "\n".join(f.lines) + "\n  ret void\n}\n"


def _spread(f: _Lines, bits: str) -> str:
    """The lowest eight bits of a number as eight bytes of '0' and '1', the highest bit first."""
    eight = f.op(f"mul i64 {f.op(f'and i64 {bits}, 255')}, {EACH}")
    some = f.op(f"add i64 {f.op(f'and i64 {eight}, {SPREAD}')}, {_FIRST}")
    ones = f.op(f"and i64 {f.op(f'lshr i64 {some}, 7')}, {EACH}")
    return f.op(f"or i64 {ones}, {2 * EACH}")


FUNCTIONS = {"pack": pack_function, "ask": ask_function, "unpack": unpack_function}
