"""Drive plans: words, TOML, the testbench made from them."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.design.ports import PortInfo
from mevrik.expect.table import bind, read_table_text
from mevrik.stimulus.bench import write_bench
from mevrik.stimulus.plan import RANDOM_ROWS, Clock, Hold, Plan, Sweep, automatic_plan
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
    "text",
    [
        "",
        "hold",
        "hold 2",
        "clock 10",
        "clock 10ns high 120%",
        "hold 1, hold 0",
        "sweep 0 to 9",
        "wave 3",
        "hold 0 for 0ns",
        "hold 1 for 3 weeks",
        "hold 007",
        "clock 1ps",
        "clock 8ns from 2",
        "sweep 0 to 2 every 5ns",
        "hold 0xG",
    ],
)
def test_wrong_words(text: str) -> None:
    with pytest.raises(WordsError):
        from_words(text, 1)


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


def port(name: str, width: int = 1, direction: str = "input", role: str = "", active: int = 1) -> PortInfo:
    return PortInfo(name, direction, width, width - 1, 0, role=role, active=active)


def test_few_inputs_get_every_row() -> None:
    plan = automatic_plan([port("a"), port("b", 2), port("y", 1, "output")], None)
    assert plan.walks_rows and plan.rows is None and plan.note == "all 8 input rows, one each 10ns"


def test_many_inputs_get_the_rows_of_the_table_and_random_ones(tmp_path: Path) -> None:
    """A row packs the first input highest: a is bits 27 to 4, b bits 3 to 0. `-` is tried as all 0 and as all 1."""
    ports = [port("a", 24), port("b", 4), port("y", 1, "output")]
    (tmp_path / "m.csv").write_text("b,a[23:20],y\n3,0xC,1\n-,1,0\n5,-,0\n")
    plan = automatic_plan(ports, bind(read_table_text(tmp_path / "m.csv"), ports))
    assert plan.rows is not None and len(plan.rows) == 6 + RANDOM_ROWS
    # a[19:0] is no column of the table: it fills with the rest of the row
    assert [hex(r) for r in plan.rows[:6]] == ["0xc000003", "0xcfffff3", "0x1000000", "0x1ffffff", "0x5", "0xffffff5"]
    assert all(0 <= r < 1 << 28 for r in plan.rows) and len(set(plan.rows[6:])) > RANDOM_ROWS // 2
    assert plan.note == f"28 input bits are too many for every row: 6 rows from the table and {RANDOM_ROWS} random ones are applied"
    again = automatic_plan(ports, None)
    assert again.rows == plan.rows[6:]  # the same ones at each start


def test_clocks_and_resets_get_lanes() -> None:
    plan = automatic_plan([port("clk", role="clock"), port("rst_n", role="reset", active=0), port("en"), port("d", 3)], None)
    assert plan.lanes == {
        "clk": [Clock("10ns")], "rst_n": [Hold(0, "25ns"), Hold(1)], "en": [Sweep(0, 1, "10ns")], "d": [Sweep(0, 7, "20ns")],
    }  # fmt: skip
    assert plan.length == "2590ns"  # 256 clocks, and 30 ns for the reset


def ran(tmp_path: Path, bench: str, model: str) -> list[str]:
    (tmp_path / "b.v").write_text(bench + model)
    done = mevrik("run", tmp_path / "b.v", cwd=tmp_path)
    assert done.err == ""
    return done.out.splitlines()


def test_rows_are_applied_in_their_order(tmp_path: Path) -> None:
    ports = [port("a"), port("b", 2), port("y", 1, "output")]
    watch = '\nmodule m(input a, input [1:0] b, output y); assign y = a; initial $monitor("%0t %b %0d", $time, a, b); endmodule\n'
    every = ran(tmp_path, write_bench("m", ports, Plan()), watch)
    assert every == [f"{10000 * k} {k >> 2} {k & 3}" for k in range(8)]
    some = ran(tmp_path, write_bench("m", ports, Plan(rows=[5, 2, 7], step="4ns")), watch)
    assert some == ["0 1 1", "4000 0 2", "8000 1 3"]


def test_long_lists_of_rows_are_read_from_a_file(tmp_path: Path) -> None:
    ports = [port("a", 12), port("y", 1, "output")]
    rows = [(k * 37) & 0xFFF for k in range(600)]
    watch = '\nmodule m(input [11:0] a, output y); assign y = a[0]; always @(a) if (a !== 12\'bx) $display("%0t %0d", $time, a); endmodule\n'
    bench = write_bench("m", ports, Plan(rows=rows, step="1ns"), tmp_path / "deep" / "m.rows")
    assert "600" in bench and len(bench) < 1000
    assert ran(tmp_path, bench, watch) == [f"{1000 * k} {row}" for k, row in enumerate(rows)]


def test_parameters_and_a_module_without_inputs(tmp_path: Path) -> None:
    watch = "\nmodule m #(parameter W = 1) (output [3:0] y); assign y = W; initial #1 $display(y); endmodule\n"
    bench = write_bench("m", [port("y", 4, "output")], Plan(), parameters={"W": 9})
    assert ran(tmp_path, bench, watch) == [" 9"]
