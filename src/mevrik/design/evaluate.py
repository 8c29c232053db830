"""The meaning of expressions and functions over Python integers.

Elaboration uses it for constants, the tables for reference expressions, the explanation to recompute a value, and the tests
as the second opinion on the native code.
"""

from __future__ import annotations

import math
import struct
from collections.abc import Callable
from typing import Any

from mevrik.design import nodes as n
from mevrik.design.types import Array, List, Real, Text, Vec
from mevrik.design.unit import Signal, Subprogram
from mevrik.design.values import Logic

Value = Logic | float | list[Any] | bytes  # of vectors, reals, arrays, strings
Reader = Callable[[Signal, int], Value | None]
_LOOP_LIMIT = 1 << 20
X1 = Logic(1, 1, 1)
ONE = Logic(1, 1)
ZERO = Logic(1, 0)


class NotConstant(Exception):
    """The expression depends on something that is not known here; the message says on what."""


class _Leave(Exception):
    def __init__(self, block: n.Block) -> None:
        self.block = block


def no_signals(signal: Signal, element: int) -> Value | None:
    raise NotConstant(f"'{signal.name}' is no constant")


class Evaluator:
    """`read(signal, element)` gives the value of a signal; None means out of range (x)."""

    def __init__(self, read: Reader = no_signals) -> None:
        self.read = read
        self.frames: list[dict[tuple[Signal, int], Value]] = []
        self.steps = 0

    def logic(self, e: n.Expr) -> Logic:
        value = self.value(e)
        if not isinstance(value, Logic):
            raise NotConstant("a string or an array stands where bits are needed")
        return value

    def real(self, e: n.Expr) -> float:
        value = self.value(e)
        if isinstance(value, float):
            return value
        assert isinstance(value, Logic)
        return to_real(value, n.vec(e).signed)

    def value(self, e: n.Expr) -> Value:
        method = getattr(self, "_" + type(e).__name__.lower())
        result: Value = method(e)
        return result

    def truth(self, e: n.Expr) -> bool | None:
        """True, False, or None when unknown (IEEE 1364-2005 9.4)."""
        value = self.value(e)
        return truth(value) if isinstance(value, Logic) else bool(value)

    def _const(self, e: n.Const) -> Value:
        return Logic(n.vec(e).width, e.val, e.unk)

    def _realconst(self, e: n.RealConst) -> Value:
        return e.value

    def _textconst(self, e: n.TextConst) -> Value:
        return e.value

    def _arrayconst(self, e: n.ArrayConst) -> Value:
        assert isinstance(e.type, Array)
        items = [self.value(x) for x in e.items]
        return items if len(items) == e.type.count else items * e.type.count

    def _item(self, e: n.Item) -> Value:
        array, at = self.value(e.array), self.offset(e.element)
        assert isinstance(array, list)
        if isinstance(e.type, Array):
            return array[at : at + e.type.count] if at is not None else [_nothing(e.type.element)] * e.type.count
        return array[at] if at is not None and 0 <= at < len(array) else _nothing(e.type)

    def _effect(self, e: n.Effect) -> Value:
        self.run(e.body)
        return self.value(e.a)

    def _fresh(self, e: n.Fresh) -> Value:
        return self.value(e.a)

    def _ref(self, e: n.Ref) -> Value:
        if isinstance(e.type, Array):
            start = self.offset(e.element) if e.element is not None else 0
            if start is None:
                return [_nothing(e.type.element)] * e.type.count
            one = [n.Ref(e.type.element, e.signal, n.Offset(start + k)) for k in range(e.type.count)]
            return [self._ref(x) for x in one]
        element = 0
        if e.element is not None:
            found = self.offset(e.element)
            if found is None or not 0 <= found < e.signal.elements:
                return 0.0 if isinstance(e.type, Real) else Logic.unknown(n.vec(e).width)
            element = found
        for frame in reversed(self.frames[-1:]):
            if (e.signal, element) in frame:
                return frame[e.signal, element]
        if e.signal.kind == "local" and self.frames:  # a hidden variable that was not written yet
            return _nothing(e.type)
        value = self.read(e.signal, element)
        return value if value is not None else Logic.unknown(n.vec(e).width)

    def offset(self, offset: n.Offset) -> int | None:
        total = offset.const
        for term in offset.terms:
            index = self.logic(term.index)
            if index.unk:
                return None
            number = index.signed_value() if n.vec(term.index).signed else index.val
            if not term.low <= number <= term.high:
                return None
            total += term.scale * number
        return total

    def _bits(self, e: n.Bits) -> Value:
        base = self.logic(e.base)
        found = select(base, self.offset(e.offset), n.vec(e).width)
        return found if n.vec(e).four else Logic(found.width, found.val & ~found.unk)

    def _unary(self, e: n.Unary) -> Value:
        a = self.value(e.a)
        assert isinstance(a, (Logic, float))
        if isinstance(a, float):
            return (ZERO if a else ONE) if e.op == "!" else (-a if e.op == "-" else a)
        return unary(e.op, a)

    def _binary(self, e: n.Binary) -> Value:
        if e.op in ("&&", "||"):
            a1, b1 = self.truth(e.a), self.truth(e.b)
            if e.op == "&&":
                return ZERO if a1 is False or b1 is False else (X1 if a1 is None or b1 is None else ONE)
            return ONE if a1 or b1 else (X1 if a1 is None or b1 is None else ZERO)
        a, b = self.value(e.a), self.value(e.b)
        if isinstance(a, bytes):
            return ONE if (a == b) == (e.op[0] == "=") else ZERO
        if isinstance(a, float) or isinstance(b, float):
            assert isinstance(a, float) and isinstance(b, float)
            return real_binary(e.op, a, b)
        assert isinstance(a, Logic) and isinstance(b, Logic)
        return binary(e.op, a, b, n.vec(e.a).signed, n.vec(e.b).signed)

    def _choice(self, e: n.Choice) -> Value:
        cond = self.truth(e.cond)
        if cond is not None:
            return self.value(e.a if cond else e.b)
        a, b = self.value(e.a), self.value(e.b)
        if not isinstance(a, Logic) or not isinstance(b, Logic):
            return b if not isinstance(b, float) else 0.0
        return merge(a, b)

    def _concat(self, e: n.Concat) -> Value:
        return concat([self.logic(p) for p in e.parts])

    def _repeat(self, e: n.Repeat) -> Value:
        return concat([self.logic(e.a)] * e.count)

    def _resize(self, e: n.Resize) -> Value:
        t = n.vec(e)
        value = self.logic(e.a).resize(t.width, t.signed)
        return value if t.four else Logic(t.width, value.val & ~value.unk)

    def _toreal(self, e: n.ToReal) -> Value:
        value = self.real(e.a)
        if isinstance(e.type, Real) and e.type.short and math.isfinite(value):
            try:
                return float(struct.unpack("f", struct.pack("f", value))[0])
            except OverflowError:
                return math.copysign(math.inf, value)
        return value

    def _tovec(self, e: n.ToVec) -> Value:
        return from_real(self.real(e.a), n.vec(e).width)

    def _lref(self, e: n.LRef) -> Value:
        raise NotConstant("a place to write to is no value")

    def _syscall(self, e: n.SysCall) -> Value:
        args = [a for a in e.args if isinstance(a, n.Expr)]
        if e.name.startswith("$text_"):
            return self._text_call(e, args)
        if e.name == "$bitstoreal":
            return float(struct.unpack(">d", self.logic(args[0]).val.to_bytes(8, "big"))[0])
        if e.name == "$realtobits":
            return Logic(64, int.from_bytes(struct.pack(">d", self.real(args[0])), "big"))
        width = n.vec(e).width if isinstance(e.type, Vec) else 64
        if e.name == "$clog2":
            a = self.logic(args[0])
            return Logic.unknown(width) if a.unk else Logic(width, max(a.val - 1, 0).bit_length())
        if e.name in ("$signed", "$unsigned"):
            return self.value(args[0])
        if e.name == "$countones":
            a = self.logic(args[0])
            return Logic(width, (a.val & ~a.unk).bit_count())
        if e.name in ("$onehot", "$onehot0"):
            a = self.logic(args[0])
            count = (a.val & ~a.unk).bit_count()
            return ONE if count == 1 or (count == 0 and e.name == "$onehot0") else ZERO
        if e.name == "$isunknown":
            return ONE if self.logic(args[0]).unk else ZERO
        if e.name == "$rtoi":
            return Logic(width, int(self.real(args[0])) & ((1 << width) - 1))
        if e.name == "$itor":
            return self.real(args[0])
        function = MATH.get(e.name)
        if function is not None:
            try:
                return float(function(*[self.real(a) for a in args]))
            except (ValueError, OverflowError, ZeroDivisionError):
                return math.nan
        raise NotConstant(f"{e.name} is no constant function")

    def _text_call(self, e: n.SysCall, args: list[n.Expr]) -> Value:
        """The string operations that a constant expression may use."""
        name = e.name.removeprefix("$text_")
        first = self.value(args[0])
        if name == "from":
            assert isinstance(first, Logic)
            return (first.val & ~first.unk).to_bytes((first.width + 7) // 8, "big").replace(b"\0", b"")
        if not isinstance(first, bytes):
            raise NotConstant("this string operation is no constant function")
        width = n.vec(e).width
        if name == "join":
            second = self.value(args[1])
            assert isinstance(second, bytes)
            return first + second
        if name == "size":
            return Logic(width, len(first))
        if name == "into":
            return Logic(width, int.from_bytes(first, "big") & ((1 << width) - 1))
        if name == "get":
            at = self.logic(args[1])
            return Logic(width, first[at.val] if not at.unk and at.val < len(first) else 0)
        if name == "repeat":
            return first * self.logic(args[1]).val
        if name == "case":
            return first.upper() if self.logic(args[1]).val else first.lower()
        raise NotConstant("this string operation is no constant function")

    # ---- functions (IEEE 1364-2005 10.4.5) ----

    def _call(self, e: n.Call) -> Value:
        return self.call(e.function, [self.value(a) for a in e.args])

    def call(self, function: Subprogram, args: list[Value]) -> Value:
        if len(self.frames) > 400:
            raise NotConstant(f"'{function.name}' calls itself too deeply")
        frame: dict[tuple[Signal, int], Value] = {}
        for local in (*function.locals, *(x for x in (function.result, *function.ports) if x is not None)):
            for element in range(local.elements):
                frame[local, element] = _nothing(local.type)
        for port, value in zip(function.ports, args, strict=True):
            _put(frame, port, 0, value)
        result = function.result
        if result is None:
            raise NotConstant(f"'{function.name}' has no value")
        self.frames.append(frame)
        try:
            self.run(function.body)
        except _Leave:
            pass
        finally:
            self.frames.pop()
        return [frame[result, k] for k in range(result.elements)] if result.dims else frame[result, 0]

    def run(self, body: list[n.Stmt]) -> None:
        for s in body:
            self.steps += 1
            if self.steps > _LOOP_LIMIT:
                raise NotConstant("the evaluation takes too many steps")
            self._step(s)

    def _step(self, s: n.Stmt) -> None:
        match s:
            case n.Assign(target=target, value=value):
                self.store(target, self.value(value))
            case n.AssignArray(target=n.LRef(signal=signal, element=element), value=value):
                start = self.offset(element) if element is not None else 0
                if (signal, 0) not in self.frames[-1]:
                    raise NotConstant(f"the function writes '{signal.name}', which is not its own")
                if start is not None:
                    _put(self.frames[-1], signal, start, self.value(value))
            case n.If(cond=cond, then=then, other=other):
                self.run(then if self.truth(cond) else other)
            case n.Case():
                self.run(self.chosen(s))
            case n.Loop():
                if s.test_last:
                    self.run(s.body)
                while s.cond is None or self.truth(s.cond):
                    self.run(s.body)
                    self.run(s.step)
            case n.RepeatLoop():
                count = self.logic(s.count)
                for _ in range(0 if count.unk else count.val):
                    self.run(s.body)
            case n.Block():
                try:
                    self.run(s.body)
                except _Leave as leave:
                    if leave.block is not s:
                        raise
            case n.Leave():
                raise _Leave(s.block)
            case n.SysTask():
                pass
            case _:
                raise NotConstant("the function does more than compute")

    def chosen(self, s: n.Case) -> list[n.Stmt]:
        subject = self.value(s.subject)
        default: list[n.Stmt] = []
        for labels, body in s.arms:
            if not labels:
                default = body
            for label in labels:
                value = self.value(label)
                if isinstance(subject, Logic) and isinstance(value, Logic):
                    hit = case_match(s.kind, subject, value)
                else:
                    hit = subject == value
                if hit:
                    return body
        return default

    def store(self, target: tuple[n.LRef, ...], value: Value) -> None:
        if not self.frames:
            raise NotConstant("an assignment is no constant expression")
        frame = self.frames[-1]
        first = target[0]
        if (isinstance(first.signal.type, (Real, Text)) and first.bits is None) or not isinstance(value, Logic):
            at = self.offset(first.element) if first.element is not None else 0
            if (first.signal, 0) not in frame and first.signal.kind != "local":
                raise NotConstant(f"the function writes '{first.signal.name}', which is not its own")
            if at is not None:
                _put(frame, first.signal, at, value)
            return
        low = value.width
        for part in target:
            low -= part.width
            piece = select(value, low, part.width)
            element = 0
            if part.element is not None:
                found = self.offset(part.element)
                if found is None or not 0 <= found < part.signal.elements:
                    continue
                element = found
            key = (part.signal, element)
            if key not in frame and part.signal.kind == "local":
                frame[key] = _nothing(part.signal.type)
            if key not in frame:
                raise NotConstant(f"the function writes '{part.signal.name}', which is not its own")
            if part.bits is None:
                frame[key] = piece
                continue
            at = self.offset(part.bits)
            old = frame[key]
            if at is not None and isinstance(old, Logic):
                frame[key] = insert(old, at, piece)


def _nothing(t: object) -> Value:
    """What a variable holds before its first assignment."""
    if isinstance(t, Real):
        return 0.0
    if isinstance(t, Text):
        return b""
    if isinstance(t, List) or not isinstance(t, Vec):
        return []
    return Logic.unknown(t.width) if t.four else Logic(t.width, 0)


def _put(frame: dict[tuple[Signal, int], Value], signal: Signal, start: int, value: Value) -> None:
    """A value, or all elements of an array, into a frame."""
    if isinstance(value, list) and not isinstance(signal.type, List):
        for k, item in enumerate(value):
            frame[signal, start + k] = item
    else:
        frame[signal, start] = value


MATH: dict[str, Callable[..., float]] = {
    "$ln": math.log, "$log10": math.log10, "$exp": math.exp, "$sqrt": math.sqrt, "$pow": math.pow, "$floor": math.floor,
    "$ceil": math.ceil, "$sin": math.sin, "$cos": math.cos, "$tan": math.tan, "$asin": math.asin, "$acos": math.acos,
    "$atan": math.atan, "$atan2": math.atan2, "$hypot": math.hypot, "$sinh": math.sinh, "$cosh": math.cosh,
    "$tanh": math.tanh, "$asinh": math.asinh, "$acosh": math.acosh, "$atanh": math.atanh,
}  # fmt: skip


def initial(signal: Signal) -> Logic:
    """The value of a variable before its first assignment: x, or 0 for two-state types (1800-2017 6.8)."""
    assert isinstance(signal.type, Vec)
    return Logic.unknown(signal.type.width) if signal.type.four else Logic(signal.type.width, 0)


def to_real(value: Logic, signed: bool) -> float:
    """Bits that are x or z count as 0 (4.8.2)."""
    known = Logic(value.width, value.val & ~value.unk)
    return float(known.signed_value() if signed else known.val)


def from_real(value: float, width: int) -> Logic:
    if math.isnan(value) or math.isinf(value):
        return Logic(width, 0)
    rounded = math.floor(abs(value) + 0.5)
    return Logic(width, (-rounded if value < 0 else rounded) & ((1 << width) - 1))


def truth(a: Logic) -> bool | None:
    if a.val & ~a.unk:
        return True
    return None if a.unk else False


def select(base: Logic, at: int | None, width: int) -> Logic:
    ones = (1 << width) - 1
    if at is None:
        return Logic(width, ones, ones)
    val, unk = base.val, base.unk
    # everything beyond either end is x
    if at < 0:
        low = (1 << -at) - 1
        val, unk = (val << -at) | low, (unk << -at) | low
        size = base.width - at
        at = 0
    else:
        size = base.width
    if at + width > size:
        high = ((1 << max(at + width - size, 0)) - 1) << size
        val, unk = val | high, unk | high
    return Logic(width, val >> at & ones, unk >> at & ones)


def insert(old: Logic, at: int, piece: Logic) -> Logic:
    mask = (1 << piece.width) - 1
    val, unk = piece.val, piece.unk
    if at < 0:
        mask, val, unk = mask >> -at, val >> -at, unk >> -at
    else:
        mask, val, unk = mask << at, val << at, unk << at
    mask &= (1 << old.width) - 1
    return Logic(old.width, (old.val & ~mask) | (val & mask), (old.unk & ~mask) | (unk & mask))


def concat(parts: list[Logic]) -> Logic:
    val = unk = width = 0
    for p in parts:
        val = val << p.width | p.val
        unk = unk << p.width | p.unk
        width += p.width
    return Logic(width, val, unk)


def merge(a: Logic, b: Logic) -> Logic:
    """Bits that differ or are unknown become x (5.1.13)."""
    bad = (a.val ^ b.val) | a.unk | b.unk
    return Logic(a.width, a.val | bad, bad)


def case_match(kind: str, subject: Logic, label: Logic) -> bool:
    """casez ignores z, casex z and x, of either side (9.5.1); inside ignores x and z of the label (1800-2017 11.4.13)."""
    care = (1 << subject.width) - 1
    if kind == "casez":
        care &= ~(subject.unk & ~subject.val) & ~(label.unk & ~label.val)
    elif kind == "casex":
        care &= ~subject.unk & ~label.unk
    elif kind == "inside":
        care &= ~label.unk
    return not ((subject.val ^ label.val) | (subject.unk ^ label.unk)) & care


def unary(op: str, a: Logic) -> Logic:
    ones = (1 << a.width) - 1
    if op == "+":
        return Logic.unknown(a.width) if a.unk else a
    if op == "-":
        return Logic.unknown(a.width) if a.unk else Logic(a.width, -a.val & ones)
    if op == "~":
        return Logic(a.width, (~a.val & ones) | a.unk, a.unk)
    if op == "!":
        t = truth(a)
        return X1 if t is None else (ZERO if t else ONE)
    known0 = bool(~a.val & ~a.unk & ones)
    known1 = bool(a.val & ~a.unk)
    base = op[-1] if op not in ("~^", "^~") else "^"
    if base == "&":
        result = ZERO if known0 else (X1 if a.unk else ONE)
    elif base == "|":
        result = ONE if known1 else (X1 if a.unk else ZERO)
    else:
        result = X1 if a.unk else Logic(1, a.val.bit_count() & 1)
    return unary("~", result) if len(op) == 2 else result


def binary(op: str, a: Logic, b: Logic, signed: bool, b_signed: bool) -> Logic:
    """`a` and `b` have one width (shifts and ** aside); `signed` holds when the operation is a signed one."""
    width = a.width
    ones = (1 << width) - 1
    if op == "&":
        zero = (~a.val & ~a.unk) | (~b.val & ~b.unk)
        unk = (a.unk | b.unk) & ~zero & ones
        return Logic(width, (a.val & b.val & ~zero) | unk, unk)
    if op == "|":
        one = (a.val & ~a.unk) | (b.val & ~b.unk)
        unk = (a.unk | b.unk) & ~one
        return Logic(width, one | unk, unk)
    if op in ("^", "^~", "~^"):
        unk = a.unk | b.unk
        val = a.val ^ b.val if op == "^" else ~(a.val ^ b.val) & ones
        return Logic(width, val | unk, unk)
    if op in ("===", "!=="):
        same = a.val == b.val and a.unk == b.unk
        return ONE if same == (op == "===") else ZERO
    if op in ("==?", "!=?"):
        care = ~b.unk & ones
        if (a.val ^ b.val) & care & ~a.unk:
            return ZERO if op == "==?" else ONE
        return X1 if a.unk & care else (ONE if op == "==?" else ZERO)
    if op in ("==", "!="):
        if (a.val ^ b.val) & ~(a.unk | b.unk):
            return ZERO if op == "==" else ONE
        return X1 if a.unk | b.unk else (ONE if op == "==" else ZERO)
    if op in ("<<", "<<<", ">>", ">>>"):
        if b.unk:
            return Logic.unknown(width)
        count = min(b.val, width)
        if op in ("<<", "<<<"):
            return Logic(width, a.val << count & ones, a.unk << count & ones)
        if op == ">>>" and signed:
            wide = a.resize(2 * width, True)
            return Logic(width, wide.val >> count & ones, wide.unk >> count & ones)
        return Logic(width, a.val >> count, a.unk >> count)
    if a.unk | b.unk:
        return X1 if op in ("<", "<=", ">", ">=") else Logic.unknown(width)
    x = a.signed_value() if signed else a.val
    y = b.signed_value() if b_signed and (signed or op == "**") else b.val
    match op:
        case "+":
            return Logic(width, (x + y) & ones)
        case "-":
            return Logic(width, (x - y) & ones)
        case "*":
            return Logic(width, x * y & ones)
        case "/":
            if y == 0:
                return Logic.unknown(width)
            quotient = abs(x) // abs(y)
            return Logic(width, (quotient if (x < 0) == (y < 0) else -quotient) & ones)
        case "%":
            if y == 0:
                return Logic.unknown(width)
            rest = abs(x) % abs(y)
            return Logic(width, (-rest if x < 0 else rest) & ones)
        case "**":
            return power(x, y, width)
        case "<":
            return Logic(1, int(x < y))
        case "<=":
            return Logic(1, int(x <= y))
        case ">":
            return Logic(1, int(x > y))
        case ">=":
            return Logic(1, int(x >= y))
    raise NotConstant(f"the operator {op} is no constant one")


def power(x: int, y: int, width: int) -> Logic:
    """IEEE 1364-2005 table 5-6."""
    ones = (1 << width) - 1
    if y >= 0:
        return Logic(width, pow(x & ones, y, 1 << width) if x >= 0 else (pow(-x, y, 1 << width) * (-1 if y & 1 else 1)) & ones)
    if x == 0:
        return Logic.unknown(width)
    if x == 1:
        return Logic(width, 1)
    if x == -1:
        return Logic(width, (-1 if y & 1 else 1) & ones)
    return Logic(width, 0)


def real_binary(op: str, a: float, b: float) -> Value:
    try:
        match op:
            case "+":
                return a + b
            case "-":
                return a - b
            case "*":
                return a * b
            case "/":
                return a / b
            case "**":
                return math.pow(a, b)
            case "==" | "===":
                return Logic(1, int(a == b))
            case "!=" | "!==":
                return Logic(1, int(a != b))
            case "<":
                return Logic(1, int(a < b))
            case "<=":
                return Logic(1, int(a <= b))
            case ">":
                return Logic(1, int(a > b))
            case ">=":
                return Logic(1, int(a >= b))
    except (ZeroDivisionError, OverflowError, ValueError):
        return math.inf if op == "/" and a > 0 else (-math.inf if op == "/" and a < 0 else math.nan)
    raise NotConstant(f"the operator {op} takes no real numbers")
