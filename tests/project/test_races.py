"""Other legal orders of simultaneous events, and random starts (IEEE 1364-2005 11.4.2, 11.5, 4.2.2)."""

from __future__ import annotations

from pathlib import Path

from tests.conftest import mevrik

RACE = """module pair(input clk, output reg a, output reg b);
  initial begin a = 0; b = 1; end
  always @(posedge clk) a = b;
  always @(posedge clk) b = a;
endmodule
"""
CLEAN = RACE.replace("a = b", "a <= b").replace("b = a;", "b <= a;")


def test_a_race_is_shown_with_both_statements(tmp_path: Path) -> None:
    """11.5: which of two processes reads first is open: both end with the value of the one that was written first."""
    (tmp_path / "pair.v").write_text(RACE)
    done = mevrik("check", tmp_path, "--orders", 6)
    assert done.status == 1
    assert "race at" in done.out and "depends on the order of events" in done.out
    assert "pair.v:3" in done.out or "pair.v:4" in done.out


def test_nonblocking_assignments_have_no_race(tmp_path: Path) -> None:
    """9.2.2: both read before either is written, in every order."""
    (tmp_path / "pair.v").write_text(CLEAN)
    done = mevrik("check", tmp_path, "--orders", 4)
    assert "the same in 4 other orders" in done.out and "race" not in done.out


def test_a_shuffled_order_is_one_of_the_legal_ones(tmp_path: Path) -> None:
    """11.4.1: statements of one process keep their order, those of two may mix; a seed gives its order again."""
    path = tmp_path / "two.v"
    path.write_text("module tb; initial begin $display(1); $display(2); end initial $display(3); initial $display(4); endmodule")
    seen = set()
    for seed in range(1, 9):
        words = tuple(mevrik("run", path, "--order", "shuffle", "--seed", seed).out.split())
        assert sorted(words) == ["1", "2", "3", "4"] and words.index("1") + 1 == words.index("2")
        seen.add(words)
    assert len(seen) > 1
    again = [mevrik("run", path, "--order", "shuffle", "--seed", 3).out for _ in range(2)]
    assert again[0] == again[1]
    assert mevrik("run", path).out.split() == ["1", "2", "3", "4"]


def test_a_random_start(tmp_path: Path) -> None:
    """Variables begin with known values that the seed gives; those with a start value, and nets, keep theirs."""
    path = tmp_path / "start.v"
    path.write_text(
        'module tb; reg [63:0] v; reg [3:0] s = 5; wire w; integer m [0:1]; initial $display("%b %0d %b %b", ^v, s, w, ^m[1]); endmodule'
    )
    plain = mevrik("run", path).out.split()
    assert plain == ["x", "5", "z", "x"]
    first, other = (mevrik("run", path, "--start", "random", "--seed", seed).out.split() for seed in (1, 2))
    assert first[0] in "01" and first[1:3] == ["5", "z"] and first[3] in "01" and other[1] == "5"
