"""Random expressions against a model of IEEE 1364-2005 clauses 5.1, 5.4 and 5.5: sizes and signs go down from the context, values come up."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, field

import pytest

from tests.conftest import Done

Run = Callable[..., Done]
VARIABLES = {"a": (4, False), "b": (8, True), "c": (13, False), "d": (32, True), "e": (1, False), "f": (65, True), "g": (40, False)}


def ones(width: int) -> int:
    return (1 << width) - 1


def as_number(value: int, width: int, signed: bool) -> int:
    return value - (1 << width) if signed and value >> (width - 1) & 1 else value


@dataclass
class E:
    """An expression: its text, its own size and sign, and its operands."""

    op: str
    text: str
    width: int
    signed: bool
    parts: list[E] = field(default_factory=list)
    value: int = 0  # of a leaf
    low: int = 0

    def at(self, width: int, signed: bool) -> int:
        """The value in a context of this size and sign, as bits."""
        p = self.parts
        match self.op:
            case "leaf":
                number = as_number(self.value, self.width, signed and self.signed)
                return number & ones(width)
            case "+" | "-" | "*" | "&" | "|" | "^" | "/" | "%":
                x, y = p[0].at(width, signed), p[1].at(width, signed)
                a, b = as_number(x, width, signed), as_number(y, width, signed)
                if self.op in ("/", "%"):
                    if b == 0:
                        raise ZeroDivisionError
                    q = abs(a) // abs(b) * (1 if (a < 0) == (b < 0) else -1)
                    return (q if self.op == "/" else a - q * b) & ones(width)
                return {"+": a + b, "-": a - b, "*": a * b, "&": x & y, "|": x | y, "^": x ^ y}[self.op] & ones(width)
            case "~" | "neg":
                x = p[0].at(width, signed)
                return (~x if self.op == "~" else -x) & ones(width)
            case "<<" | ">>" | ">>>" | "<<<":
                x, n = p[0].at(width, signed), p[1].alone()
                if self.op in ("<<", "<<<"):
                    return x << n & ones(width) if n < width else 0
                if self.op == ">>>" and signed:
                    return as_number(x, width, True) >> min(n, width) & ones(width)
                return x >> n
            case "?:":
                return (p[1] if p[0].alone() else p[2]).at(width, signed)
        return self.extended(width, signed)

    def alone(self) -> int:
        return self.at(self.width, self.signed)

    def extended(self, width: int, signed: bool) -> int:
        """What is self-determined, extended like an operand."""
        return as_number(self._own(), self.width, signed and self.signed) & ones(width)

    def _own(self) -> int:
        p = self.parts
        match self.op:
            case "<" | "<=" | ">" | ">=" | "==" | "!=":
                wide, signed = max(p[0].width, p[1].width), p[0].signed and p[1].signed
                a, b = (as_number(x.at(wide, signed), wide, signed) for x in p)
                return int({"<": a < b, "<=": a <= b, ">": a > b, ">=": a >= b, "==": a == b, "!=": a != b}[self.op])
            case "&&":
                return int(p[0].alone() != 0 and p[1].alone() != 0)
            case "||":
                return int(p[0].alone() != 0 or p[1].alone() != 0)
            case "!":
                return int(p[0].alone() == 0)
            case "red&":
                return int(p[0].alone() == ones(p[0].width))
            case "red|":
                return int(p[0].alone() != 0)
            case "red^":
                return p[0].alone().bit_count() & 1
            case "{}":
                value = 0
                for x in p:
                    value = value << x.width | x.alone()
                return value
            case "cast":
                return p[0].alone()
            case "part":
                return p[0].value >> self.low & ones(self.width)
        raise AssertionError(self.op)


def leaf(pick: random.Random, values: dict[str, int]) -> E:
    if pick.random() < 0.75:
        name = pick.choice(list(VARIABLES))
        width, signed = VARIABLES[name]
        whole = E("leaf", name, width, signed, value=values[name])
        if width > 1 and pick.random() < 0.25:
            low = pick.randrange(width)
            size = pick.randint(1, width - low)
            return E("part", f"{name}[{low + size - 1}:{low}]", size, False, [whole], low=low)
        return whole
    width = pick.choice((1, 3, 8, 16, 33))
    signed = pick.random() < 0.5
    value = pick.getrandbits(width)
    return E("leaf", f"{width}'{'s' if signed else ''}h{value:x}", width, signed, value=value)


def grown(pick: random.Random, values: dict[str, int], depth: int) -> E:
    if depth == 0 or pick.random() < 0.15:
        return leaf(pick, values)

    def sub() -> E:
        return grown(pick, values, depth - 1)

    kind = pick.choice(("two", "two", "two", "shift", "compare", "one", "reduce", "choice", "concat", "logic", "cast"))
    if kind == "two":
        op, x, y = pick.choice("+-*&|^/%"), sub(), sub()
        return E(op, f"({x.text} {op} {y.text})", max(x.width, y.width), x.signed and y.signed, [x, y])
    if kind == "shift":
        op, x, y = pick.choice(("<<", ">>", ">>>", "<<<")), sub(), leaf(pick, {k: v & 63 for k, v in values.items()})
        y = E("leaf", f"6'd{pick.randrange(40)}", 6, False, value=0)
        y.value = int(y.text[3:])
        return E(op, f"({x.text} {op} {y.text})", x.width, x.signed, [x, y])
    if kind == "compare":
        op, x, y = pick.choice(("<", "<=", ">", ">=", "==", "!=")), sub(), sub()
        return E(op, f"({x.text} {op} {y.text})", 1, False, [x, y])
    if kind == "one":
        op, x = pick.choice(("~", "-")), sub()
        return E("neg" if op == "-" else op, f"({op}{x.text})", x.width, x.signed, [x])
    if kind == "reduce":
        op, x = pick.choice("&|^"), sub()
        return E(f"red{op}", f"({op}{x.text})", 1, False, [x])
    if kind == "choice":
        c, x, y = sub(), sub(), sub()
        return E("?:", f"({c.text} ? {x.text} : {y.text})", max(x.width, y.width), x.signed and y.signed, [c, x, y])
    if kind == "concat":
        parts = [sub() for _ in range(pick.randint(1, 3))]
        return E("{}", "{" + ", ".join(x.text for x in parts) + "}", sum(x.width for x in parts), False, parts)
    if kind == "logic":
        op, x, y = pick.choice(("&&", "||", "!")), sub(), sub()
        if op == "!":
            return E("!", f"(!{x.text})", 1, False, [x])
        return E(op, f"({x.text} {op} {y.text})", 1, False, [x, y])
    x = sub()
    signed = pick.random() < 0.5
    return E("cast", f"${'signed' if signed else 'unsigned'}({x.text})", x.width, signed, [x])


@pytest.mark.parametrize("seed", range(6))
def test_random_expressions(seed: int, simulate: Run) -> None:
    pick = random.Random(seed)
    values = {name: pick.getrandbits(width) for name, (width, _) in VARIABLES.items()}
    lines, wanted, texts = [], [], []
    while len(wanted) < 150:
        e = grown(pick, values, pick.randint(1, 4))
        target = pick.choice((1, 7, 16, 32, 64, 90))
        if e.width > 700:
            continue
        try:
            value = e.at(max(e.width, target), e.signed) & ones(target)
        except ZeroDivisionError:
            continue
        texts.append(f"t{target} = {e.text}")
        lines.append(f'    t{target} = {e.text}; $display("%h", t{target});')
        wanted.append(format(value, f"0{(target + 3) // 4}x"))
    declared = " ".join(f"reg {'signed ' if s else ''}[{w - 1}:0] {n};" for n, (w, s) in VARIABLES.items())
    targets = " ".join(f"reg [{t - 1}:0] t{t};" for t in (1, 7, 16, 32, 64, 90))
    start = " ".join(f"{n} = {w}'h{values[n]:x};" for n, (w, _) in VARIABLES.items())
    done = simulate(
        f"module tb;\n{declared}\n{targets}\n  initial begin\n    {start}\n" + "\n".join(lines) + "\n  end\nendmodule\n"
    )
    assert done.status == 0, done.err[:2000]
    found = done.out.split()
    wrong = [(t, w, g) for t, w, g in zip(texts, wanted, found, strict=True) if w != g]
    assert not wrong, f"{len(wrong)}: {wrong[:3]} with {values}"
