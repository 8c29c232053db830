"""Extended value change dumps of ports (IEEE 1364-2005 18.3, 18.4)."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done

Run = Callable[..., Done]

GATE = """`timescale 1ns/1ns
module gate(input clk, input [1:0] level, output reg open, output [1:0] lamp, inout bus, input en, inout weak, output nobody, inout [1:0] part);
  assign lamp = ~level;
  assign bus = en ? open : 1'bz;
  assign (weak1, weak0) weak = 1'b1;
  assign part = en ? 2'b10 : 2'bzz;
  always @(posedge clk) open <= level[0];
endmodule
module tb;
  reg clk = 0; reg [1:0] level = 2'b01; reg en = 0, drive = 0, what = 1;
  wire open, bus, weak, nobody; wire [1:0] lamp; wire [3:0] wide;
  assign bus = drive ? what : 1'bz;
  assign weak = drive ? 1'b0 : 1'bz;
  assign wide[2] = drive ? what : 1'bz;
  gate g(clk, level, open, lamp, bus, en, weak, nobody, wide[2:1]);
"""


def test_what_drives_a_port_and_how_strongly(simulate: Run, tmp_path: Path) -> None:
    """Letters of table 18-6 by who drives and to what; a strength of each level. Of two that drive, the one in the strong range counts and
    is written small; where both are in it, or none, no side does: 0 and 1 if they agree, A to c by their levels (input, output) if not."""
    done = simulate(
        GATE
        + """initial begin
          $dumpports(g, "g.vcd");
          #10 clk = 1;             // open follows with the nonblocking assignment of the same moment
          #10 en = 1;              // the gate drives bus and part too
          #10 drive = 1;           // both sides say 1 on bus; the gate's weak 1 loses against a strong 0; part[1] has 1 from both
          #10 what = 0;            // 0 from outside, 1 from inside: A
          #10 en = 0;              // only the outside is left
          #10 level = 2'bx1; $dumpportsall;
          #10 $finish;
        end
        endmodule"""
    )
    assert done.status == 0, done.err
    head, body = (tmp_path / "g.vcd").read_text().split("$enddefinitions $end\n")
    assert head.splitlines()[6:] == [
        "$scope module tb.g $end",
        "$var port 1 <0 clk $end",
        "$var port [1:0] <1 level $end",
        "$var port 1 <2 open $end",
        "$var port [1:0] <3 lamp $end",
        "$var port 1 <4 bus $end",
        "$var port 1 <5 en $end",
        "$var port 1 <6 weak $end",
        "$var port 1 <7 nobody $end",
        "$var port [1:0] <8 part $end",
        "$upscope $end",
    ]
    first = [
        "pD 6 0 <0",
        "pDU 60 06 <1",
        "pX 6 6 <2",
        "pHL 06 60 <3",
        "pf 0 0 <4",
        "pD 6 0 <5",
        "pH 0 3 <6",
        "pT 0 0 <7",
        "pfF 00 00 <8",
    ]
    every = [
        "pU 0 6 <0",
        "pNU 60 66 <1",
        "pH 0 6 <2",
        "pXL 66 60 <3",
        "pD 6 0 <4",
        "pD 6 0 <5",
        "pd 6 0 <6",
        "pT 0 0 <7",
        "pDF 60 00 <8",
    ]
    assert body.splitlines() == [
        "#0", "$dumpports", *first, "$end",
        "#10", "pU 0 6 <0", "pH 0 6 <2",
        "#20", "pH 0 6 <4", "pU 0 6 <5", "pHL 06 60 <8",
        "#30", "p1 0 6 <4", "pd 6 0 <6", "p1L 06 60 <8",
        "#40", "pA 6 6 <4", "pAL 66 60 <8",
        "#50", "pD 6 0 <4", "pD 6 0 <5", "pDF 60 00 <8",
        "#60", "$dumpportsall", *every, "$end",
        "$vcdclose #70 $end",
    ]  # fmt: skip


def test_files_are_switched_by_name(simulate: Run, tmp_path: Path) -> None:
    """18.3.2 to 18.3.5: a task that names a file is for that one, without a name for all; what is off is unknown. Without arguments
    $dumpports is for the module that it stands in."""
    done = simulate(
        """`timescale 1ns/1ns
        module lamp(input a, output b);
          reg [8*9:1] name = "lamp.vcd";
          assign b = a;
          initial begin $dumpports(lamp, name); #5 $dumpportsflush(name); end
        endmodule
        module tb(output o);
          reg a = 0;
          lamp l(a, o);
          initial begin
            $dumpports;
            #10 $dumpportsoff("lamp.vcd"); #5 a = 1; #5 $dumpportson; $dumpportslimit(10, "dumpports.vcd");
            #5 a = 0;
            #5 a = 1;
            #5 $finish;
          end
        endmodule"""
    )
    assert done.status == 0, done.err
    lamp = (tmp_path / "lamp.vcd").read_text().split("$enddefinitions $end\n")[1].splitlines()
    assert lamp == [
        "#0", "$dumpports", "pD 6 0 <0", "pL 6 0 <1", "$end",
        "#10", "$dumpportsoff", "pN 6 6 <0", "pX 6 6 <1", "$end",
        "#20", "$dumpportson", "pU 0 6 <0", "pH 0 6 <1", "$end",
        "#25", "pD 6 0 <0", "pL 6 0 <1",
        "#30", "pU 0 6 <0", "pH 0 6 <1",
        "$vcdclose #35 $end",
    ]  # fmt: skip
    top = (tmp_path / "dumpports.vcd").read_text()
    assert "$scope module tb $end\n$var port 1 <0 o $end\n$upscope" in top
    assert top.split("$enddefinitions $end\n")[1].splitlines() == [
        "#0", "$dumpports", "pL 6 0 <0", "$end", "#15", "pH 0 6 <0", "$comment the limit of the file is reached $end", "$vcdclose #20 $end",
    ]  # fmt: skip


def test_mistakes(simulate: Run) -> None:
    done = simulate(
        'module tb(input i); initial begin $dumpports(tb, "a"); $dumpports(tb, "a"); #1 $dumpports(tb, "b"); end endmodule'
    )
    assert "$dumpports: another call has named this file already (18.3.1)" in done.err
    assert "$dumpports: all calls have to be at the same time; this one comes later and does nothing (18.3.1)" in done.err
    done = simulate('module tb(input i); initial $dumpports("a", tb); endmodule')
    assert done.status != 0 and "$dumpports takes modules and then one file (18.3.1)" in done.err
    done = simulate('module tb; initial begin $dumpports(tb, "../a"); #5 ; end endmodule')
    assert done.err.count("$dumpports: the file lies outside the project folder") == 1
