"""Arithmetic of ieee.numeric_std in line, where the lengths are known and fit a machine word (IEEE 1076-2008 16.8).

What it does is what the package says; the package itself (in VHDL, over the kernel) does the rest.
"""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.engine.typed.bits import ASKED, FUNCTIONS, MOST, PACKED
from mevrik.engine.typed.expressions import Expressions
from mevrik.engine.typed.function import Place, Range

COMPARE = {"=": "eq", "/=": "ne", "<": "slt", "<=": "sle", ">": "sgt", ">=": "sge"}
VECTORS = ("unresolved_unsigned", "unresolved_signed")


_NOT = (0, 1, 3, 2, 1, 1, 3, 2, 1)  # of U X 0 1 Z W L H -


def _tables() -> dict[str, bytes]:
    """The tables of std_logic_1164: U wins over X, a known value that decides wins over all."""
    strong = (0, 1, 2, 3, 1, 1, 2, 3, 1)

    def conjunction(x: int, y: int) -> int:
        a, b = strong[x], strong[y]
        if 2 in (a, b):
            return 2
        return 0 if 0 in (a, b) else 1 if 1 in (a, b) else 3

    def exclusive(x: int, y: int) -> int:
        a, b = strong[x], strong[y]
        return 0 if 0 in (a, b) else 1 if 1 in (a, b) else 2 + (a ^ b)

    pairs = [(x, y) for x in range(9) for y in range(9)]
    both = [conjunction(x, y) for x, y in pairs]
    either = [_NOT[conjunction(_NOT[x], _NOT[y])] for x, y in pairs]
    differ = [exclusive(x, y) for x, y in pairs]
    found = {"and": both, "or": either, "xor": differ}
    found |= {"nand": [_NOT[v] for v in both], "nor": [_NOT[v] for v in either], "xnor": [_NOT[v] for v in differ]}
    return {name: bytes(values) for name, values in found.items()}


_LOGIC = _tables()


def static_length(e: t.Expr) -> int | None:
    """The number of elements of a vector, where it is known."""
    if e.type.bounds is not None and e.type.static:
        return e.type.bounds[0].length
    if isinstance(e, t.Convert) and e.type.bounds is None:
        return static_length(e.a)
    if isinstance(e, t.Call) and _of_package(e.sub):
        name = e.sub.name.strip('"')
        if name in ("+", "-"):
            found = [static_length(x) for x in e.args if x.type.type.name in VECTORS]
            return max(n for n in found if n is not None) if found and None not in found else None
        if name in ("to_unsigned", "to_signed", "resize") and isinstance(e.args[1], t.Const):
            return int(e.args[1].value)
    return None


def _of_package(sub: t.Subprogram) -> bool:
    return sub.region is not None and sub.region.label == "package numeric_std"


class Numeric(Expressions):
    def nine_logic(self, e: t.Call) -> str | None:
        """The operators of std_logic_1164 for single values (16.7), by their tables, and is_x of vectors of known length."""
        sub = e.sub
        if sub.region is None or sub.region.label not in ("package std_logic_1164", "package numeric_std"):
            return None
        name = sub.name.strip('"')
        if name == "is_x" and 0 < (static_length(e.args[0]) or 0) <= MOST:
            _, known = self.pack(self.composite(e.args[0]), static_length(e.args[0]) or 0, False)
            return self.from_bit(self.f.op(f"xor i1 {known}, true"))
        if sub.region.label != "package std_logic_1164" or any(isinstance(x.type.type, t.ArrayType) for x in e.args):
            return None
        if name == "not":
            return self._from_table(bytes(_NOT), self.scalar(e.args[0]))
        if name not in _LOGIC or len(e.args) != 2:
            return None
        x, y = self.scalar(e.args[0]), self.scalar(e.args[1])
        at = self.f.add(self.f.mul(x if x.startswith("%") else int(x), 9), y if y.startswith("%") else int(y))
        return self._from_table(_LOGIC[name], str(at))

    def _from_table(self, table: bytes, at: str) -> str:
        f = self.f
        place = f.op(f"getelementptr i8, ptr {self.module.data(table)}, i64 {at}")
        return f.op(f"zext i8 {f.op(f'load i8, ptr {place}')} to i64")

    def numeric(self, e: t.Call, into: str = "", number: str = "") -> Place | str | None:
        """The value of a call of numeric_std made in line; None if that isn't possible. A sum can go straight `into` a place that
        its operands don't lie in, and as a `number` (-1 if it isn't known) into another."""
        if not _of_package(e.sub) or len(e.args) > 2:
            return None
        name = e.sub.name.strip('"')
        vectors = [x for x in e.args if x.type.type.name in VECTORS]
        signed = (e.sub.params[0].subtype.type.name if vectors else "").removeprefix("unresolved_") == "signed" or any(
            p.subtype.type.name == "unresolved_signed" for p in e.sub.params
        )
        lengths = [static_length(x) for x in vectors]
        if any(n is None or not 0 < n <= MOST for n in lengths):
            return None
        if name in ("+", "-") and len(e.args) == 2:
            return self._sum(e, name, signed, into, number)
        if name in COMPARE and len(e.args) == 2:
            return self._order(e, name, signed)
        if name == "to_integer" and vectors and (lengths[0] or 0) <= 31:
            return self._to_integer(e, signed)
        if name in ("to_unsigned", "to_signed") and isinstance(e.args[1], t.Const) and 0 < e.args[1].value <= 31:
            return self._from_integer(e, int(e.args[1].value), name == "to_signed")
        if name == "resize" and isinstance(e.args[1], t.Const) and e.args[1].value > 0:
            return self._resize(e, int(e.args[1].value), signed)
        return None

    # ---- bytes and bits ----

    def pack(self, place: Place, n: int, signed: bool) -> tuple[str, str]:
        """The number that a vector holds (i64), and whether all its values are known (i1). That of a whole signal is noted for whoever
        asks next."""
        f, cell = self.f, self._noted_at(place, n)
        if cell:
            number, sure, ask, done = f.alloca("i64"), f.alloca("i1"), f.label("ask"), f.label("number")
            noted = f.op(f"load i64, ptr {f.gep('%m', cell)}")
            f.emit(f"store i64 {noted}, ptr {number}")
            f.emit(f"store i1 true, ptr {sure}")
            f.branch(f.op(f"icmp slt i64 {noted}, 0"), ask, done, rare=ask)
            f.start(ask)
            name = self._helper("ask", n)
            asked = f.op(f"call preserve_mostcc {ASKED} @{name}(ptr {place.ptr})")
            for slot, kind, k in ((number, "i64", 0), (sure, "i1", 1), (f.gep("%m", cell), "i64", 2)):
                f.emit(f"store {kind} {f.op(f'extractvalue {ASKED} {asked}, {k}')}, ptr {slot}")
            f.start(done)
            value, known = f.op(f"load i64, ptr {number}"), f.op(f"load i1, ptr {sure}")
        else:
            packed = f.op(f"call {PACKED} @{self._helper('pack', n)}(ptr {place.ptr})")
            value, known = (f.op(f"extractvalue {PACKED} {packed}, {k}") for k in (0, 1))
        if signed:
            shifted = f.op(f"shl i64 {value}, {64 - n}")
            value = f.op(f"ashr i64 {shifted}, {64 - n}")
        return value, known

    def _noted_at(self, place: Place, n: int) -> int:
        """Where it is noted which number a vector is, if it is the whole of a signal; else 0."""
        part = place.signal
        whole = part is not None and part.root is not None and part.at == 0 and part.root.size == n
        return self.module.number_of(part.root) if whole and part is not None else 0

    def _helper(self, what: str, n: int) -> str:
        """The function that packs, unpacks or asks for a number of `n` bits."""
        name = f"{what}{n}"
        if what == "ask":
            self._helper("pack", n)
        if name not in self.module.helpers:
            self.module.helpers[name] = FUNCTIONS[what](name, n)
        return name

    def unpack(self, value: str, ptr: str, n: int) -> None:
        """Write the lowest `n` bits of a number as a vector of '0' and '1'."""
        self.f.emit(f"call void @{self._helper('unpack', n)}(i64 {value}, ptr {ptr})")

    def _operand_bits(self, x: t.Expr, signed: bool) -> tuple[str, str]:
        if x.type.type.name in VECTORS:
            place = self.composite(x)
            n = static_length(x)
            assert n is not None
            return self.pack(place, n, signed)
        return self.scalar(x), "true"

    def _both(self, e: t.Call, signed: bool) -> tuple[str, str, str]:
        x, known_x = self._operand_bits(e.args[0], signed)
        y, known_y = self._operand_bits(e.args[1], signed)
        known = known_x if known_y == "true" else known_y if known_x == "true" else self.f.op(f"and i1 {known_x}, {known_y}")
        return x, y, known

    # ---- the operations ----

    def _sum(self, e: t.Call, op: str, signed: bool, into: str, number: str) -> Place | None:
        f = self.f
        lengths = []
        for x in e.args:
            if x.type.type.name in VECTORS:
                lengths.append(static_length(x) or 0)
            elif not (isinstance(x.type.type, t.Integer) and isinstance(x, t.Const)):
                return None
        n = max(lengths)
        for x in e.args:
            if isinstance(x, t.Const):
                low, high = (-(1 << (n - 1)), (1 << (n - 1)) - 1) if signed else (0, (1 << n) - 1)
                if not low <= x.value <= high:
                    return None  # the package warns
        a, b, known = self._both(e, signed)
        out = into or f.arena(n)
        good, bad, done = f.label("known"), f.label("unknown"), f.label("sum")
        f.branch(known, good, bad, rare=bad)
        f.start(good)
        result = f.op(f"{'add' if op == '+' else 'sub'} i64 {a}, {b}")
        self.unpack(result, out, n)
        if number:
            f.emit(f"store i64 {f.op(f'and i64 {result}, {(1 << n) - 1}')}, ptr {number}")
        f.jump(done)
        f.start(bad)
        f.fill(out, 1, n)
        if number:
            f.emit(f"store i64 -1, ptr {number}")
        f.start(done)
        return Place(out, self.plain(e.sub.result or e.type), [Range(n - 1, 0, 1)])

    def _warn(self, text: str) -> None:
        f = self.f
        f.aside("v_report", f"i32 1, i32 {f.site}, ptr {self.module.data(text.encode())}, i64 {len(text)}, i32 1")

    def _order(self, e: t.Call, op: str, signed: bool) -> str | None:
        f = self.f
        for x in e.args:
            if x.type.type.name not in VECTORS and not isinstance(x.type.type, t.Integer):
                return None
        a, b, known = self._both(e, signed)
        slot = f.alloca("i1")
        f.emit(f"store i1 {str(op == '/=').lower()}, ptr {slot}")
        good, bad, done = f.label("known"), f.label("unknown"), f.label("order")
        f.branch(known, good, bad, rare=bad)
        f.start(good)
        f.emit(f"store i1 {f.op(f'icmp {COMPARE[op]} i64 {a}, {b}')}, ptr {slot}")
        f.jump(done)
        f.start(bad)
        self._warn(f'NUMERIC_STD."{op}": metavalue detected, returning {"TRUE" if op == "/=" else "FALSE"}')
        f.start(done)
        return self.from_bit(f.op(f"load i1, ptr {slot}"))

    def _to_integer(self, e: t.Call, signed: bool) -> str:
        f = self.f
        value, known = self._operand_bits(e.args[0], signed)
        bad, done = f.label("unknown"), f.label("number")
        slot = f.alloca("i64")
        f.emit(f"store i64 {value}, ptr {slot}")
        f.branch(known, done, bad, rare=bad)
        f.start(bad)
        f.emit(f"store i64 0, ptr {slot}")
        self._warn("NUMERIC_STD.TO_INTEGER: metavalue detected, returning 0")
        f.start(done)
        return f.op(f"load i64, ptr {slot}")

    def _from_integer(self, e: t.Call, n: int, signed: bool) -> Place | None:
        f = self.f
        low, high = (-(1 << (n - 1)), (1 << (n - 1)) - 1) if signed else (0, (1 << n) - 1)
        x = e.args[0]
        if isinstance(x, t.Const) and not low <= x.value <= high:
            return None
        value = self.checked(x, e.sub.params[0].subtype)
        out = f.arena(n)
        if not isinstance(x, t.Const):
            moved = f.op(f"sub i64 {value}, {low}")
            lost, done = f.label("lost"), f.label("fits")
            f.branch(f.op(f"icmp ugt i64 {moved}, {high - low}"), lost, done, rare=lost)
            f.start(lost)
            self._warn(f"NUMERIC_STD.TO_{'SIGNED' if signed else 'UNSIGNED'}: vector truncated")
            f.start(done)
        self.unpack(value, out, n)
        return Place(out, self.plain(e.sub.result or e.type), [Range(n - 1, 0, 1)])

    def _resize(self, e: t.Call, size: int, signed: bool) -> Place:
        f = self.f
        place = self.composite(e.args[0])
        n = static_length(e.args[0])
        assert n is not None
        out = f.arena(size)
        if size >= n:
            fill: str | int = 2
            if signed:
                fill = f.op(f"zext i8 {f.op(f'load i8, ptr {place.ptr}')} to i64")
            if size > n:
                f.fill(out, fill, size - n)
            f.copy(f.gep(out, size - n), place.ptr, n)
        else:
            f.copy(out, f.gep(place.ptr, n - size), size)
            if signed:
                f.emit(f"store i8 {f.op(f'load i8, ptr {place.ptr}')}, ptr {out}")
        return Place(out, self.plain(e.sub.result or e.type), [Range(size - 1, 0, 1)])
