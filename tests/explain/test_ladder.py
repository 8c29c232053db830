"""What an event wakes (IEEE 1364-2005 9.7.2, table 9-1)."""

from __future__ import annotations

import pytest

from mevrik.explain.ladder import ladder
from mevrik.waves.record import RunRecord
from tests.conftest import mevrik

SOURCE = """`timescale 1ns/1ns
module sill;
  reg a = 0;
  reg [3:0] level = 0;
  wire [3:0] copy;
  reg up, down, both, third;
  always @(posedge a) up = a;
  always @(negedge a) down = a;
  always @(a) both = a;
  always @(posedge level[2]) third = 1;
  assign copy = level;
  always begin @(a); @(a); end
  initial begin
    #1 a = 1; #1 a = 1'bx; #1 a = 1'bz; #1 a = 0; #1 a = 1'bz; #1 a = 1;
    #1 level = 4'b0011; #1 level = 4'b01xx; #1 level = 4'b1111;
    #1 $finish;
  end
endmodule
"""


@pytest.fixture(scope="module")
def record(tmp_path_factory: pytest.TempPathFactory) -> RunRecord:
    folder = tmp_path_factory.mktemp("sill")
    (folder / "sill.v").write_text(SOURCE)
    assert mevrik("run", folder / "sill.v", "--record-file", folder / "r.run").status == 0
    return RunRecord(folder / "r.run")


@pytest.mark.parametrize(
    "moment, path, lines",
    [
        (1, "a", [7, 9]),  # 0 to 1
        (2, "a", [8, 9]),  # 1 to x
        (3, "a", [9]),  # x to z is neither edge
        (4, "a", [8, 9]),  # z to 0
        (5, "a", [7, 9]),  # 0 to z
        (6, "a", [7, 9]),  # z to 1
        (7, "level", [11]),  # the third bit did not change
        (8, "level", [10, 11]),
        (9, "level", [11]),  # it was 1 before
    ],
)
def test_who_is_woken(record: RunRecord, moment: int, path: str, lines: list[int]) -> None:
    """The process of line 12 waits at two places: what it does is not known from the event alone."""
    rungs = [r for r in ladder(record, moment * 10 ** (-9 - record.tick_exp)) if r.path == f"sill.{path}"]
    assert [[w.line for w in r.wakes] for r in rungs] == [lines]
