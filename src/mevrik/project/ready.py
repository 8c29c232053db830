"""What the server of jobs has done before the first job: the imports of both languages and of the engine, and a small design of each
taken as far as its code, so that what is made at the first use is there. Every job is a fork of it."""

from __future__ import annotations

import gc
from importlib import import_module
from pathlib import Path

from mevrik.engine.compile import NativeCode, compile_text
from mevrik.engine.simulation import prepare
from mevrik.lang.analysis import analyse

NEEDED = (
    "mevrik.project.examine",
    "mevrik.lang.mixed",
    "mevrik.engine.outline",
    "mevrik.waves.writer",
    "numpy.ma",  # numpy imports it at some first use
)
_TINY = {
    "tiny.sv": "module tiny(input clk, output logic [3:0] q); always_ff @(posedge clk) q <= q + 4'd1; endmodule",
    "tiny.vhd": """library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
entity tiny is port (clk : in std_logic; q : out unsigned(3 downto 0) := "0000"); end;
architecture a of tiny is begin process (clk) begin if rising_edge(clk) then q <= q + 1; end if; end process; end;""",
}


def _try_out() -> None:
    for name in _TINY:
        analysis = analyse([Path(name)], reader=lambda path: _TINY[path.name])
        design = analysis.elaborate("tiny")
        assert design is not None, [d.headline() for d in analysis.diagnostics.items]
        made = prepare(design)
        for text in (made.code.text, *([made.typed.text] if made.typed is not None else [])):
            NativeCode(compile_text(text, 0, store=False))


for needed in NEEDED:
    import_module(needed)
_try_out()
gc.collect()
gc.freeze()  # what is here lives as long as the server: no job shall look through it, or copy its pages
