"""A loop that ends is no endless one, however often its process runs; one that never ends is stopped (our own limit of iterations)."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.engine.job import Channel, Job
from mevrik.engine.run import Run, RunOptions
from mevrik.lang.analysis import analyse

VERILOG = """module tb; reg clk = 0; always #5 clk = ~clk; integer i; reg [31:0] s = 0, o = 0;
always @(posedge clk) begin for (i = 0; i < 5000; i = i + 1) s = s ^ (i + s); o <= s; end endmodule"""
VHDL = """entity tb is end entity;
architecture t of tb is
  signal clk : bit := '0'; signal o : integer := 0;
begin
  clk <= not clk after 5 ns;
  process (clk) variable s : integer := 0; begin
    if rising_edge(clk) then s := 0; for i in 1 to 5000 loop s := s + i; end loop; o <= s; end if;
  end process;
end architecture;"""
ENDLESS = "module tb; reg a = 0; initial #5 while (1) a = ~a; endmodule"


def ended(text: str, suffix: str, folder: Path) -> str:
    """How a run of 200 moments of 5 units ends if 64 Ki iterations without a wait are too many."""
    source = folder / f"design{suffix}"
    source.write_text(text)

    def work(channel: Channel) -> None:
        analysis = analyse([source])
        design = analysis.elaborate("tb")
        assert design is not None, analysis.diagnostics.items
        unit = 10 ** (-9 - design.tick_exp) if suffix == ".vhd" else 1
        run = Run(design, analysis.sources, RunOptions(limit=1000 * unit), lambda m: None)
        run.simulation.kernel.loop_limit = 1 << 16
        channel.send(run.finish(run.go()).ended)

    return str(next(iter(Job(work).events())))


@pytest.mark.parametrize(("text", "suffix"), [(VERILOG, ".v"), (VHDL, ".vhd")])
def test_a_loop_at_each_edge_ends(text: str, suffix: str, tmp_path: Path) -> None:
    assert ended(text, suffix, tmp_path) == "limit"


def test_an_endless_loop_is_stopped(tmp_path: Path) -> None:
    assert ended(ENDLESS, ".v", tmp_path) == "error"
