"""Random expressions of numeric_std beside whole numbers of Python: widths, signs, wrap-around, and what happens at the ends."""

from __future__ import annotations

import random
from collections.abc import Callable

import pytest

from tests.vhdl.rows import Run, bench, prints

WIDTHS = [1, 2, 3, 4, 5, 7, 8, 8, 9, 12, 16, 31, 32, 33, 40, 64, 65, 70]
DECLARATIONS = """
  function pick(c : boolean; v : unsigned) return unsigned is begin if c then return v; end if; return "0101"; end;
  function pick(c : boolean; v : signed) return signed is begin if c then return v; end if; return "0101"; end;
"""


class Number:
    """The bits of a vector; `n` is what they mean."""

    def __init__(self, bits: int, width: int, signed: bool) -> None:
        self.width, self.signed = width, signed
        self.bits = bits & ((1 << width) - 1)

    @property
    def n(self) -> int:
        return self.bits - (1 << self.width) if self.signed and self.bits >> (self.width - 1) else self.bits

    @property
    def text(self) -> str:
        return f"{self.bits:0{self.width}b}"


Made = tuple[str, Number]


def quotient(a: int, b: int) -> int:
    """Towards zero, as "/" has it (9.2.7)."""
    found = abs(a) // abs(b)
    return found if (a < 0) == (b < 0) else -found


def turned(bits: int, by: int, width: int) -> int:
    by %= width
    return bits << by | bits >> (width - by) if by else bits


class Expressions:
    def __init__(self, seed: int) -> None:
        self.pick = random.Random(seed)

    def literal(self, signed: bool, width: int = 0) -> Made:
        width = width or self.pick.choice(WIDTHS)
        bits = self.pick.choice([0, 1, (1 << width) - 1, 1 << (width - 1), self.pick.randrange(1 << width)])
        made = Number(bits, width, signed)
        return f'{"signed" if signed else "unsigned"}\'("{made.text}")', made

    def make(self, depth: int, signed: bool) -> Made:
        if depth == 0 or self.pick.random() < 0.15:
            return self.literal(signed)
        kinds: list[Callable[[int, bool], Made]] = [
            self.sum, self.sum, self.product, self.division, self.by_integer, self.shift, self.resized, self.logic, self.unary,
            self.joined, self.extreme, self.retyped, self.through_integer, self.chosen, self.reduced,
        ]  # fmt: skip
        return self.pick.choice(kinds)(depth - 1, signed)

    def sum(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, signed)
        if self.pick.random() < 0.3:
            k = self.pick.randrange(-50 if signed else 0, 50)
            form, value = self.pick.choice(
                [(f"({at} + ({k}))", a.n + k), (f"({at} - ({k}))", a.n - k), (f"(({k}) - {at})", k - a.n)]
            )
            return form, Number(value, a.width, signed)
        bt, b = self.make(depth, signed)
        op = self.pick.choice("+-")
        return f"({at} {op} {bt})", Number(a.n + b.n if op == "+" else a.n - b.n, max(a.width, b.width), signed)

    def product(self, depth: int, signed: bool) -> Made:
        (at, a), (bt, b) = self.make(depth, signed), self.make(depth, signed)
        if a.width + b.width > 160:
            return at, a
        return f"({at} * {bt})", Number(a.n * b.n, a.width + b.width, signed)

    def division(self, depth: int, signed: bool) -> Made:
        (at, a), (bt, b) = self.make(depth, signed), self.make(depth, signed)
        if b.n == 0:
            return at, a
        return self.pick.choice([
            (f"({at} / {bt})", Number(quotient(a.n, b.n), a.width, signed)),
            (f"({at} mod {bt})", Number(a.n % b.n, b.width, signed)),
            (f"({at} rem {bt})", Number(a.n - b.n * quotient(a.n, b.n), b.width, signed)),
        ])  # fmt: skip

    def by_integer(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, signed)
        k = self.pick.randrange(1, 20)
        if k.bit_length() + signed > a.width:
            return at, a
        op = self.pick.choice(["/", "mod", "rem"])
        value = {"/": quotient(a.n, k), "mod": a.n % k, "rem": a.n - k * quotient(a.n, k)}[op]
        return f"({at} {op} {k})", Number(value, a.width, signed)

    def shift(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, signed)
        k, w = self.pick.randrange(a.width + 2), a.width
        form, bits = self.pick.choice([
            (f"shift_left({at}, {k})", a.bits << k), (f"shift_right({at}, {k})", a.n >> k), (f"({at} sll {k})", a.bits << k),
            (f"({at} srl {k})", a.bits >> k), (f"rotate_left({at}, {k})", turned(a.bits, k, w)), (f"({at} ror {k})", turned(a.bits, -k, w)),
        ])  # fmt: skip
        return form, Number(bits, w, signed)

    def resized(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, signed)
        width = self.pick.randrange(1, 80)
        bits = a.n
        if signed and width < a.width:  # the sign stays
            bits = a.bits >> (a.width - 1) << (width - 1) | a.bits & ((1 << (width - 1)) - 1)
        return f"resize({at}, {width})", Number(bits, width, signed)

    def logic(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, signed)
        bt, b = self.literal(signed, a.width)
        x, y = a.bits, b.bits
        ops = {"and": x & y, "or": x | y, "xor": x ^ y, "nand": ~(x & y), "nor": ~(x | y), "xnor": ~(x ^ y)}
        op = self.pick.choice(list(ops))
        return f"({at} {op} {bt})", Number(ops[op], a.width, signed)

    def unary(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, signed)
        forms = [(f"(not {at})", ~a.bits)] + ([(f"(-{at})", -a.n), (f"(abs {at})", abs(a.n))] if signed else [])
        form, bits = self.pick.choice(forms)
        return form, Number(bits, a.width, signed)

    def joined(self, depth: int, signed: bool) -> Made:
        (at, a), (bt, b) = self.make(depth, signed), self.make(depth, signed)
        if a.width + b.width > 150:
            return at, a
        return f"({at} & {bt})", Number(a.bits << b.width | b.bits, a.width + b.width, signed)

    def extreme(self, depth: int, signed: bool) -> Made:
        (at, a), (bt, b) = self.make(depth, signed), self.make(depth, signed)
        name, of = self.pick.choice([("minimum", min), ("maximum", max)])
        return f"{name}({at}, {bt})", Number(of(a.n, b.n), max(a.width, b.width), signed)

    def retyped(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, not signed)
        return f"{'signed' if signed else 'unsigned'}({at})", Number(a.bits, a.width, signed)

    def through_integer(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, signed)
        if not -(2**31) < a.n < 2**31:
            return at, a
        width = self.pick.randrange(33, 50)
        return f"to_{'signed' if signed else 'unsigned'}(to_integer({at}), {width})", Number(a.n, width, signed)

    def chosen(self, depth: int, signed: bool) -> Made:
        (at, a), (bt, b) = self.make(depth, signed), self.make(depth, signed)
        tests = {"=": a.n == b.n, "/=": a.n != b.n, "<": a.n < b.n, "<=": a.n <= b.n, ">": a.n > b.n, ">=": a.n >= b.n}
        op = self.pick.choice(list(tests))
        return f"pick({at} {op} {bt}, {at})", a if tests[op] else Number(5, 4, signed)

    def reduced(self, depth: int, signed: bool) -> Made:
        at, a = self.make(depth, signed)
        ops = {"and": a.bits == (1 << a.width) - 1, "or": a.bits != 0, "xor": a.bits.bit_count() % 2}
        op = self.pick.choice(list(ops))
        return f'({"signed" if signed else "unsigned"}\'("0101") & ({op} {at}))', Number(10 | int(ops[op]), 5, signed)


@pytest.mark.parametrize("seed", range(4))
def test_random_expressions(simulate: Run, seed: int) -> None:
    made = Expressions(seed)
    rows = [made.make(4, made.pick.random() < 0.5) for _ in range(80)]
    rows = [row for row in rows if len(row[0]) < 1500]
    body = "  begin\n" + "\n".join(f"    say(to_string(std_logic_vector({text})));" for text, _ in rows)
    prints(simulate, bench(body, DECLARATIONS), "\n".join(number.text for _, number in rows), "--no-metavalue-warnings")
