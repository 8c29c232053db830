"""$random and the $dist_ functions beside the algorithm that the standard publishes (IEEE 1364-2005 17.9), written down here a second time."""

from __future__ import annotations

import math
import struct
from collections.abc import Callable

import pytest

from tests.conftest import Done

SEEDS = (0, 1, 42, -7, 123456789)
MOST, LEAST = (1 << 31) - 1, -(1 << 31)


class Source:
    """17.9.3: a seed of 32 bits and what is drawn from it."""

    def __init__(self, seed: int) -> None:
        self.seed = seed & 0xFFFFFFFF

    def uniform(self, start: int, end: int) -> float:
        if self.seed == 0:
            self.seed = 259341593
        a, b = (0.0, 2147483647.0) if start >= end else (float(start), float(end))
        self.seed = (69069 * self.seed + 1) & 0xFFFFFFFF
        (c,) = struct.unpack("<f", struct.pack("<I", self.seed >> 9 | 0x3F800000))
        c = c + c * 0.00000011920928955078125
        return (b - a) * (c - 1.0) + a

    def normal(self, mean: int, deviation: int) -> float:
        s = 1.0
        while s >= 1.0 or s == 0.0:
            v1, v2 = self.uniform(-1, 1), self.uniform(-1, 1)
            s = v1 * v1 + v2 * v2
        return v1 * math.sqrt(-2.0 * math.log(s) / s) * deviation + mean

    def exponential(self, mean: int) -> float:
        n = self.uniform(0, 1)
        return -math.log(n) * mean if n != 0 else n

    def poisson(self, mean: int) -> int:
        n, p, q = 0, math.exp(-float(mean)), self.uniform(0, 1)
        while p < q:
            n += 1
            q = self.uniform(0, 1) * q
        return n

    def chi_square(self, freedom: int) -> float:
        x = self.normal(0, 1) ** 2 if freedom % 2 else 0.0
        for _ in range(2, freedom + 1, 2):
            x += 2 * self.exponential(1)
        return x

    def t(self, freedom: int) -> float:
        root = math.sqrt(self.chi_square(freedom) / freedom)
        return self.normal(0, 1) / root

    def erlang(self, k: int, mean: int) -> float:
        x = 1.0
        for _ in range(k):
            x *= self.uniform(0, 1)
        return -float(mean) * math.log(x) / k

    def whole(self, start: int, end: int) -> int:
        if start >= end:
            return start
        if end != MOST:
            r = self.uniform(start, end + 1)
            return min(max(int(r) if r >= 0 else int(r - 1), start), end)
        if start != LEAST:
            r = self.uniform(start - 1, end) + 1.0
            return min(max(int(r) if r >= 0 else int(r - 1), start), end)
        r = (self.uniform(start, end) + 2147483648.0) / 4294967295.0
        r = r * 4294967296.0 - 2147483648.0
        return int(r) if r >= 0 else int(r - 1)


def nearest(r: float) -> int:
    return int(r + 0.5) if r >= 0 else -int(-r + 0.5)


def drawn(simulate: Callable[..., Done], call: str, seed: int, count: int) -> list[int]:
    text = f"""module tb;
      integer seed, k;
      initial begin seed = {seed}; for (k = 0; k < {count}; k = k + 1) $display("%0d", {call}); $display("%0d", seed); end
    endmodule"""
    done = simulate(text)
    assert done.status == 0, done.err
    return [int(line) for line in done.out.split()]


@pytest.mark.parametrize(
    ("call", "draw"),
    [
        ("$random(seed)", lambda s: s.whole(LEAST, MOST)),
        ("$dist_uniform(seed, -3, 12)", lambda s: s.whole(-3, 12)),
        ("$dist_uniform(seed, 5, 2147483647)", lambda s: s.whole(5, MOST)),
        ("$dist_uniform(seed, 9, 9)", lambda s: s.whole(9, 9)),
        ("$dist_normal(seed, 100, 15)", lambda s: nearest(s.normal(100, 15))),
        ("$dist_normal(seed, -3, 2)", lambda s: nearest(s.normal(-3, 2))),
        ("$dist_exponential(seed, 40)", lambda s: nearest(s.exponential(40))),
        ("$dist_poisson(seed, 6)", lambda s: s.poisson(6)),
        ("$dist_chi_square(seed, 5)", lambda s: nearest(s.chi_square(5))),
        ("$dist_chi_square(seed, 4)", lambda s: nearest(s.chi_square(4))),
        ("$dist_t(seed, 3)", lambda s: nearest(s.t(3))),
        ("$dist_erlang(seed, 3, 60)", lambda s: nearest(s.erlang(3, 60))),
    ],
)
def test_beside_the_published_algorithm(call: str, draw: Callable[[Source], int], simulate: Callable[..., Done]) -> None:
    for seed in SEEDS:
        source = Source(seed)
        wanted = [draw(source) for _ in range(50)]
        left = source.seed if source.seed < 1 << 31 else source.seed - (1 << 32)
        assert drawn(simulate, call, seed, 50) == [*wanted, left], (call, seed)


def test_random_without_a_seed(simulate: Callable[..., Done]) -> None:
    """17.9.1: the sequence of the seed 0, the same in each run."""
    source = Source(0)
    wanted = [source.whole(LEAST, MOST) for _ in range(5)]
    text = 'module tb; initial repeat (5) $display("%0d", $random); endmodule'
    assert [int(x) for x in simulate(text).out.split()] == wanted


def test_parts_of_random(simulate: Callable[..., Done]) -> None:
    """17.9.1: a signed number of 32 bits: its remainder has its sign, in a concatenation it has none."""
    source = Source(0)
    wanted: list[int] = []
    for _ in range(20):
        one, other = source.whole(LEAST, MOST), source.whole(LEAST, MOST)
        wanted += [int(math.fmod(one, 60)), (other & 0xFFFFFFFF) % 60]
    text = 'module tb; integer k; initial for (k = 0; k < 20; k = k + 1) begin $display("%0d", $random % 60); $display("%0d", {$random} % 60); end endmodule'
    assert [int(x) for x in simulate(text).out.split()] == wanted


def test_wrong_parameters(simulate: Callable[..., Done]) -> None:
    """17.9.2: mean, degree of freedom and k have to be positive."""
    for call in ("$dist_exponential(seed, 0)", "$dist_poisson(seed, -1)", "$dist_chi_square(seed, 0)", "$dist_t(seed, 0)"):
        assert drawn(simulate, call, 3, 1)[0] == 0
