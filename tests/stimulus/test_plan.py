"""Drive plans: words, TOML, the testbench made from them."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.design.ports import PortInfo
from mevrik.stimulus.bench import write_bench
from mevrik.stimulus.plan import Clock, Hold, Plan, PlanError, Sweep, load_plan, save_plan
from mevrik.stimulus.words import WordsError, from_words, to_words
from tests.conftest import mevrik

PORTS = [PortInfo("clk", "input", 1, 0, 0), PortInfo("n", "input", 4, 3, 0), PortInfo("y", "output", 4, 3, 0)]


@pytest.mark.parametrize(
    "text, width, patterns",
    [
        ("hold 1", 1, [Hold(1)]), ("hold 0 for 25ns, hold 0xF", 4, [Hold(0, "25ns"), Hold(15)]), ("clock 10ns high 25%", 1, [Clock("10ns", 0.25)]),
        ("sweep 0 to 15 every 10 ns", 4, [Sweep(0, 15, "10ns")]), ("hold 1 for 5ns, clock 8ns high 50% from 3ns", 1, [Hold(1, "5ns"), Clock("8ns", 0.5, "3ns")]),
    ],
)  # fmt: skip
def test_words(text: str, width: int, patterns: list[object]) -> None:
    made = from_words(text, width)
    assert made == patterns
    assert from_words(to_words(made), width) == made


@pytest.mark.parametrize(
    "text", ["", "hold", "hold 2", "clock 10", "clock 10ns high 120%", "hold 1, hold 0", "sweep 0 to 9", "wave 3", "hold 0 for 0ns"]
)
def test_wrong_words(text: str) -> None:
    with pytest.raises(WordsError):
        from_words(text, 1)


def test_toml_and_back(tmp_path: Path) -> None:
    plan = Plan({"clk": [Clock("10ns")], "n": [Hold(3, "40ns"), Sweep(0, 7, "20ns")]}, length="200ns")
    save_plan(plan, tmp_path / "p.toml")
    assert load_plan(tmp_path / "p.toml", PORTS).lanes == plan.lanes


@pytest.mark.parametrize(
    "text, word",
    [
        ("lane = ", "no TOML"), ('[lane.clc]\npatterns = [{kind = "hold", value = 1}]', "did you mean 'clk'"),
        ('[lane.clk]\npatterns = [{kind = "wobble"}]', "no kind"), ('[lane.clk]\npatterns = [{kind = "clock"}]', "missing"), ("", "no lanes"),
        ('[lane.clk]\npatterns = [{kind = "clock", period = "10"}]', "no time"),
    ],
)  # fmt: skip
def test_wrong_plans(tmp_path: Path, text: str, word: str) -> None:
    (tmp_path / "p.toml").write_text(text)
    with pytest.raises(PlanError, match=word):
        load_plan(tmp_path / "p.toml", PORTS)


def test_the_testbench_does_what_the_plan_says(tmp_path: Path) -> None:
    plan = Plan({"clk": [Clock("10ns", 0.3)], "n": [Hold(9, "12ns"), Sweep(2, 1, "5ns")]}, length="30ns")
    bench = write_bench("m", PORTS, plan)
    watch = '\nmodule m(input clk, input [3:0] n, output [3:0] y); assign y = n; always @(clk, n) $display("%0t %b %0d", $time, clk, n); endmodule\n'
    (tmp_path / "b.v").write_text(bench + watch)
    done = mevrik("run", tmp_path / "b.v")
    seen = [tuple(int(x) for x in line.split()) for line in done.out.splitlines() if "x" not in line]
    rises = [t for (t, c, _), (_, before, _) in zip(seen[1:], seen) if c == 1 and before == 0]
    assert rises == [7000, 17000, 27000]
    at = {t: n for t, _, n in seen}
    assert (at[7000], at[12000], at[17000], at[22000]) == (9, 2, 1, 2)
