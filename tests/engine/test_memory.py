"""A program that takes ever more memory is stopped with a message, and its record up to then is kept."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from mevrik.engine.memory import available
from mevrik.waves.record import RunRecord

LIMITED = "import sys, mevrik.engine.memory as m; m.SHARE = {share}; from mevrik.cli import main; sys.exit(main(sys.argv[1:]))"

PROGRAMS = {
    "objects.sv": """
module tb;
  class gate; int data [256]; endclass
  gate kept [$]; bit clk; int n;
  initial begin
    #5 clk = 1;
    #5 forever begin gate g; g = new; kept.push_back(g); n++; end
  end
endmodule""",
    "strings.sv": """
module tb;
  string s; int n; bit clk;
  always #5 clk = ~clk;
  always @(posedge clk) repeat (1000) begin n++; s = $sformatf("%0d %0d %0d", n, {n, n}, {n, n, n}); end
endmodule""",
    "accesses.vhd": """
entity tb is end;
architecture a of tb is
  type block_t is array (1 to 4000) of integer; type link is access block_t; signal clk : bit := '0';
begin
  process
    variable l : link;
  begin
    clk <= not clk; wait for 5 ns;
    for k in 1 to 50 loop l := new block_t; end loop;
  end process;
end;""",
}


@pytest.mark.parametrize("name", list(PROGRAMS))
def test_growing_without_end(name: str, tmp_path: Path) -> None:
    (tmp_path / name).write_text(PROGRAMS[name])
    share = (300 << 20) / available()
    command = [sys.executable, "-c", LIMITED.format(share=share), "run", name, "--record", "all", "--record-file", "tb.run"]
    done = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, timeout=60)
    assert done.returncode == 1, done.stderr
    assert "the simulation holds more than 1 GiB" in done.stderr
    if name.endswith(".sv"):
        assert done.stderr.startswith(f"{name}:")  # the statement
    record = RunRecord(tmp_path / "tb.run")
    assert len(record.trace("tb.clk")) >= 2
