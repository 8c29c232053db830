"""Pulses of module paths: limits, styles, cancelled ones, and what a delay file says of them (IEEE 1364-2005 14.6, IEEE 1497).

An output changes its delay after the input; the width of a pulse is the time between its two scheduled edges.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Done, mevrik

Run = Callable[..., Done]
BENCH = """`timescale 1ns/1ns
module cell1(output y, input a);
  buf (y, a);
  specify
    %s
  endspecify
endmodule
module tb;
  reg a = 0;
  wire y;
  cell1 u(y, a);
  initial begin #50; forever @(y) $display("%%0t %%b", $time, y); end
  initial begin
    %s
    #100 $finish(0);
  end
endmodule
"""


def rows(simulate: Run, specify: str, stimulus: str) -> list[str]:
    done = simulate(BENCH % (specify, stimulus))
    assert done.status == 0 and "error" not in done.err, done.err
    return done.out.splitlines()


PULSE = "#100 a = 1; #%d a = 0;"


@pytest.mark.parametrize(
    ("specify", "width", "wanted"),
    [
        # the limits are the delay: what is shorter vanishes, what is as long passes
        ("(a => y) = 10;", 9, []),
        ("(a => y) = 10;", 10, ["110 1", "120 0"]),
        # reject below 3, x below 6
        ("(a => y) = 10; specparam PATHPULSE$a$y = (3, 6);", 2, []),
        ("(a => y) = 10; specparam PATHPULSE$a$y = (3, 6);", 3, ["110 x", "113 0"]),
        ("(a => y) = 10; specparam PATHPULSE$a$y = (3, 6);", 5, ["110 x", "115 0"]),
        ("(a => y) = 10; specparam PATHPULSE$a$y = (3, 6);", 6, ["110 1", "116 0"]),
        # one limit is both
        ("(a => y) = 10; specparam PATHPULSE$a$y = 4;", 3, []),
        ("(a => y) = 10; specparam PATHPULSE$a$y = 4;", 4, ["110 1", "114 0"]),
        # for all paths that have none of their own, also when it stands before them
        ("specparam PATHPULSE$ = (0, 5); (a => y) = 10;", 1, ["110 x", "111 0"]),
        ("specparam PATHPULSE$ = (0, 5), PATHPULSE$a$y = (2, 3); (a => y) = 10;", 1, []),
        ("pulsestyle_ondetect y; (a => y) = 10; specparam PATHPULSE$a$y = (3, 6);", 4, ["104 x", "114 0"]),
        ("pulsestyle_onevent y; (a => y) = 10; specparam PATHPULSE$a$y = (3, 6);", 4, ["110 x", "114 0"]),
        # the end of the pulse is scheduled for 106, before its beginning at 110
        ("(a => y) = (10, 4);", 2, []),
        ("noshowcancelled y; (a => y) = (10, 4);", 2, []),
        ("showcancelled y; (a => y) = (10, 4);", 2, ["106 x", "110 0"]),
        ("showcancelled y; pulsestyle_ondetect y; (a => y) = (10, 4);", 2, ["102 x", "110 0"]),
        # scheduled for 110 and 112, and 2 is below the limit of the fall
        ("showcancelled y; (a => y) = (10, 4);", 8, []),
    ],
)
def test_one_pulse(simulate: Run, specify: str, width: int, wanted: list[str]) -> None:
    """It begins at 100 and lasts `width` at the input."""
    assert rows(simulate, specify, PULSE % width) == wanted


def test_the_limit_is_that_of_the_trailing_edge(simulate: Run) -> None:
    """Rise 7, fall 9. A high pulse of 6 is 8 wide at the output (107 to 115), below 9: lost. A low pulse of 6 from 206 on is 4 wide
    there (215 to 219), below 7: lost. One of 9 is 7 wide: 315 to 322."""
    specify = "(a => y) = (7, 9);"
    assert rows(simulate, specify, "#100 a = 1; #6 a = 0;") == []
    assert rows(simulate, specify, "#100 a = 1; #100 a = 0; #6 a = 1;") == ["107 1"]
    assert rows(simulate, specify, "#100 a = 1; #100 a = 0; #9 a = 1;") == ["107 1", "209 0", "216 1"]


def test_several_changes_on_their_way(simulate: Run) -> None:
    """With small limits a path is as good as a transport delay."""
    stimulus = "#100 a = 1; #4 a = 0; #4 a = 1; #4 a = 0; #4 a = 1;"
    specify = "(a => y) = 10; specparam PATHPULSE$a$y = 2;"
    assert rows(simulate, specify, stimulus) == ["110 1", "114 0", "118 1", "122 0", "126 1"]


def test_a_lost_pulse_leaves_the_one_before(simulate: Run) -> None:
    """1 at 110, then a low pulse of 1 is rejected, then 0 at 116."""
    stimulus = "#100 a = 1; #4 a = 0; #1 a = 1; #1 a = 0;"
    assert rows(simulate, "(a => y) = 10; specparam PATHPULSE$a$y = 2;", stimulus) == ["110 1", "116 0"]


def test_first_terminals_stand_for_all_paths_of_a_declaration(simulate: Run) -> None:
    """14.6.1: the limits named by the first input and the first output hold for the others too."""
    done = simulate(
        """`timescale 1ns/1ns
module pick(output q, input clr, pre, d);
  assign q = pre | (d & ~clr);
  specify
    (d => q) = 10;
    (clr, pre *> q) = 4;
    specparam PATHPULSE$clr$q = (0, 4), PATHPULSE$ = 3;
  endspecify
endmodule
module tb;
  reg clr = 0, pre = 0, d = 0;
  wire q;
  pick u(q, clr, pre, d);
  initial begin #50; forever @(q) $display("%0t %b", $time, q); end
  initial begin #100 pre = 1; #2 pre = 0; #98 d = 1; #2 d = 0; #98 d = 1; #3 d = 0; #50 $finish(0); end
endmodule
"""
    )
    assert done.out.splitlines() == ["104 x", "106 0", "310 1", "313 0"]


@pytest.mark.parametrize(
    ("specify", "word"),
    [
        ("(a => y) = 10; specparam PATHPULSE$a$y = (6, 3);", "error limit"),
        ("(a => y) = 10; pulsestyle_ondetect y;", "before the paths"),
        ("(a => y) = 10; showcancelled a;", "output"),
        ("(a => y) = 10; specparam PATHPULSE$b$y = 3;", "no module path"),
        ("(a => y) = 10; specparam PATHPULSE$a$y = (1, a);", "constant"),
    ],
)
def test_mistakes(simulate: Run, specify: str, word: str) -> None:
    assert word in simulate(BENCH % (specify, "#100 a = 1;")).err


def test_bits_as_terminals(simulate: Run) -> None:
    """14.2: a path may lead from and to a bit or a part of a port. A style of the whole output leaves bits without a path alone: y[3]
    follows at once; y[0] is x from 102 on, as its pulse is cancelled, and 0 at 110; y[2:1] take 5."""
    done = simulate(
        """`timescale 1ns/1ns
module c(output [3:0] y, input [2:0] a);
  buf (y[0], a[0]), (y[1], a[1]), (y[2], a[2]), (y[3], a[0]);
  specify
    showcancelled y; pulsestyle_ondetect y;
    (a[0] => y[0]) = (10, 4);
    (a[2:1] => y[2:1]) = 5;
  endspecify
endmodule
module tb;
  reg [2:0] a = 0; wire [3:0] y;
  c u(y, a);
  initial begin #50; forever @(y) $display("%0t %b", $time, y); end
  initial begin #100 a[0] = 1; #2 a[0] = 0; #98 a[2:1] = 2'b11; #50 $finish(0); end
endmodule
"""
    )
    assert done.out.splitlines() == ["100 1000", "102 000x", "110 0000", "205 0110"], done.out + done.err


# ---- from a file ----

FILED = BENCH.replace("reg a = 0;", 'reg a = 0;\n  initial $sdf_annotate("pulses.sdf");')


def filed(tmp_path: Path, bench: str, delays: str) -> tuple[list[str], str]:
    (tmp_path / "tb.v").write_text(bench)
    text = f'(DELAYFILE (SDFVERSION "4.0") (TIMESCALE 1ns) (CELL (CELLTYPE "cell1") (INSTANCE u) (DELAY {delays})))'
    (tmp_path / "pulses.sdf").write_text(text)
    done = mevrik("run", "tb.v", "--top", "tb", cwd=tmp_path)
    assert done.status == 0, done.err
    return done.out.splitlines(), done.err


@pytest.mark.parametrize(
    ("delays", "width", "wanted"),
    [
        ("(PATHPULSE a y (3) (6))", 2, []),
        ("(PATHPULSE a y (3) (6))", 4, ["110 x", "114 0"]),
        ("(PATHPULSE (4))", 4, ["110 1", "114 0"]),
        ("(ABSOLUTE (IOPATH a y (20))) (PATHPULSEPERCENT a y (25) (50))", 4, []),  # limits of 5 and 10
        ("(ABSOLUTE (IOPATH a y (20))) (PATHPULSEPERCENT a y (25) (50))", 5, ["120 x", "125 0"]),
        ("(ABSOLUTE (IOPATH a y (20))) (PATHPULSEPERCENT a y (25) (50))", 10, ["120 1", "130 0"]),
        ("(ABSOLUTE (IOPATH a y ((8) (2) (5))))", 3, ["108 x", "111 0"]),
        ("(ABSOLUTE (IOPATH a y ((8) (2))))", 3, ["108 1", "111 0"]),
        # each change has its own limits: those of the fall, the trailing edge, count
        ("(ABSOLUTE (IOPATH a y ((8) (7) (8)) ((8) (2) (3))))", 3, ["108 1", "111 0"]),
    ],
)
def test_limits_from_a_file(tmp_path: Path, delays: str, width: int, wanted: list[str]) -> None:
    out, err = filed(tmp_path, FILED % ("(a => y) = 10;", PULSE % width), delays)
    assert out == wanted and "warning" not in err


def test_delays_of_a_primitive(tmp_path: Path) -> None:
    """16.2.1: without paths, DEVICE goes to the primitive that drives the output. Rise 3, fall 5."""
    bench = FILED.replace("specify\n    %s\n  endspecify", "") % "#100 a = 1; #50 a = 0;"
    for device in ("(DEVICE (3) (5))", "(DEVICE y (3) (5))"):
        assert filed(tmp_path, bench, f"(ABSOLUTE {device})")[0] == ["103 1", "155 0"]
    assert "DEVICE z finds no target" in filed(tmp_path, bench, "(ABSOLUTE (DEVICE z (3)))")[1]


def test_delays_of_a_net(tmp_path: Path) -> None:
    """All loads of the net get the delay; it may be named by the output that drives it: 10 + 2 + 10."""
    bench = """`timescale 1ns/1ns
module cell1(output y, input a); buf (y, a); specify (a => y) = 10; endspecify endmodule
module pair(output y, z, input a); wire m; cell1 c(m, a), d(y, m), e(z, m); endmodule
module tb; reg a = 0; wire y, z; pair p(y, z, a);
  initial $sdf_annotate("nets.sdf");
  initial begin #60; forever @(y or z) $strobe("%0t %b%b", $time, y, z); end
  initial begin #100 a = 1; #100 $finish(0); end
endmodule
"""
    (tmp_path / "tb.v").write_text(bench)
    for net in ("m", "c.y"):
        text = f'(DELAYFILE (TIMESCALE 1ns) (CELL (CELLTYPE "pair") (INSTANCE p) (DELAY (ABSOLUTE (NETDELAY {net} (2))))))'
        (tmp_path / "nets.sdf").write_text(text)
        done = mevrik("run", "tb.v", "--top", "tb", cwd=tmp_path)
        assert done.out.splitlines() == ["122 11"], done.err
        assert "warning" not in done.err
