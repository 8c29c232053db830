"""Value change dumps that a program asks for (IEEE 1364-2005 18.1, 18.2)."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done

Run = Callable[..., Done]


def dumped(simulate: Run, tmp_path: Path, body: str, file: str = "dump.vcd", **more: str) -> str:
    """What stands in the file of a program whose module is `tb`."""
    done = simulate(f"`timescale 1ns/1ns\n{body}", **more)
    assert done.status == 0, done.err
    return (tmp_path / file).read_text()


def variables(text: str) -> dict[str, str]:
    """By the full name of each variable: its type, size and reference, as declared."""
    found: dict[str, str] = {}
    scopes: list[str] = []
    for line in text.splitlines():
        words = line.split()
        if line.startswith("$scope"):
            scopes.append(words[2])
        elif line.startswith("$upscope"):
            scopes.pop()
        elif line.startswith("$var"):
            found[".".join((*scopes, words[4]))] = " ".join((words[1], words[2], *words[4:-1]))
    assert not scopes
    return found


def changes(text: str) -> list[str]:
    """All behind the declarations, with the names of the variables in place of their codes."""
    head, body = text.split("$enddefinitions $end\n")
    names = {line.split()[3]: line.split()[4] for line in head.splitlines() if line.startswith("$var")}
    found: list[str] = []
    for line in body.splitlines():
        if line[0] in "01xz":
            found.append(f"{names[line[1:]]}={line[0]}")
        elif line[0] in "br":
            value, code = line.split()
            found.append(f"{names[code]}={value}")
        else:
            found.append(line)
    return found


TOP = """
module gate(input c);
  reg q = 0;
  always @(posedge c) q = ~q;
endmodule
module chamber(input c);
  wire w = c;
  gate lower(c);
endmodule
module tb;
  reg c = 0;
  always #5 c = ~c;
  chamber left(c);
  gate upper(c);
  initial begin %s end
  initial #%d $finish;
endmodule"""


def test_without_arguments_everything_is_dumped(simulate: Run, tmp_path: Path) -> None:
    """18.1.2: all variables of the design, in dump.vcd (18.1.1)."""
    found = variables(dumped(simulate, tmp_path, TOP % ("$dumpvars;", 12)))
    assert list(found) == ["tb.c", "tb.left.c", "tb.left.w", "tb.left.lower.c", "tb.left.lower.q", "tb.upper.c", "tb.upper.q"]
    assert found["tb.c"] == "reg 1 c" and found["tb.left.w"] == "wire 1 w"


def test_levels(simulate: Run, tmp_path: Path) -> None:
    """18.1.2: 1 is the module alone, 2 also what it instantiates, 0 all below."""
    for asked, names in (
        ("1, tb", ["tb.c"]),
        ("2, tb", ["tb.c", "tb.left.c", "tb.left.w", "tb.upper.c", "tb.upper.q"]),
        ("1, left", ["tb.left.c", "tb.left.w"]),
        ("0, left", ["tb.left.c", "tb.left.w", "tb.left.lower.c", "tb.left.lower.q"]),
        ("0, left.lower", ["tb.left.lower.c", "tb.left.lower.q"]),
        ("0, tb.left.lower.q, upper.q", ["tb.left.lower.q", "tb.upper.q"]),
        ("3, upper, tb.c", ["tb.c", "tb.upper.c", "tb.upper.q"]),
    ):
        text = dumped(simulate, tmp_path, TOP % (f'$dumpfile("lock.vcd"); $dumpvars({asked});', 12), "lock.vcd")
        assert list(variables(text)) == names, asked


def test_what_changes_and_when(simulate: Run, tmp_path: Path) -> None:
    """18.2.1: the values at the end of the moment of $dumpvars, then each moment that changes something; the file is complete at its end."""
    text = dumped(simulate, tmp_path, TOP % ("#3 $dumpvars(1, upper);", 16))
    assert text.split("$timescale")[1].split("$end")[0].split() == ["1", "ns"]
    assert changes(text) == ["#3", "$dumpvars", "c=0", "q=0", "$end", "#5", "c=1", "q=1", "#10", "c=0", "#15", "c=1", "q=0", "#16"]


def test_off_on_and_all(simulate: Run, tmp_path: Path) -> None:
    """18.1.3, 18.1.4: while it is off nothing is written; at its beginning everything is x, at its end everything as it is."""
    text = dumped(simulate, tmp_path, TOP % ("$dumpvars(1, tb); #7 $dumpoff; #10 $dumpon; #1 $dumpall;", 22))
    assert changes(text) == [
        "#0", "$dumpvars", "c=0", "$end", "#5", "c=1", "#7", "$dumpoff", "c=x", "$end",
        "#17", "$dumpon", "c=1", "$end", "#18", "$dumpall", "c=1", "$end", "#20", "c=0", "#22",
    ]  # fmt: skip


def test_forms_of_values(simulate: Run, tmp_path: Path) -> None:
    """Table 18-3, table 18-4: vectors lose what the reader adds again on the left: zeros before 0 or 1, x before x, z before z."""
    body = """module tb;
      reg [7:0] v; reg [0:3] up; real r; integer i; time t; reg signed [3:0] s; wire [1:0] w = v[1:0]; supply1 one; event e;
      parameter P = 3;
      initial begin
        v = 8'b0000_0110; up = 4'b1xxx; r = 0.1; i = -1; t = 5; s = -8;
        $dumpvars;
        #1 v = 8'bxxxx_xx10; #1 v = 8'b0000_xxxx; #1 v = 8'bzzzz_zzzz; #1 v = 8'b0zzz_zzz1; #1 v = 0; #1 v = 8'b1111_0000; #1 v = 8'bx000_0001;
        #1 r = 1.0e100; #1 r = -2; #1 v = 8'bxxxx_xxxx;
      end
    endmodule"""
    text = dumped(simulate, tmp_path, body)
    declared = variables(text)
    assert declared.pop("tb.i").split()[:3] in (["integer", "32", "i"], ["reg", "32", "i"])  # 18.2.3, $var: it has both types
    assert declared.pop("tb.t").split()[:3] in (["time", "64", "t"], ["reg", "64", "t"])
    assert declared == {
        "tb.v": "reg 8 v [7:0]", "tb.up": "reg 4 up [0:3]", "tb.r": "real 64 r",
        "tb.s": "reg 4 s [3:0]", "tb.w": "wire 2 w [1:0]", "tb.one": "supply1 1 one",
    }  # fmt: skip
    found = changes(text)
    assert found[:11] == [
        "#0", "$dumpvars", "v=b110", "up=b1xxx", "r=r0.1", f"i=b{'1' * 32}", "t=b101", "s=b1000", "w=b10", "one=1", "$end",
    ]  # fmt: skip
    assert [x for x in found[11:] if x.startswith(("v=", "r="))] == [
        "v=bx10", "v=b0xxxx", "v=bz", "v=b0zzzzzz1", "v=b0", "v=b11110000", "v=bx0000001", "r=r1e+100", "r=r-2", "v=bx",
    ]  # fmt: skip


def test_scopes_of_blocks(simulate: Run, tmp_path: Path) -> None:
    """18.2.3, $scope: named blocks and the blocks of generate constructs are scopes of their own."""
    body = """module leaf(input i); reg q = 1; endmodule
    module tb;
      genvar k;
      generate for (k = 0; k < 2; k = k + 1) begin : g wire x = k; leaf l(x); end endgenerate
      initial begin : outer reg a; a = 1; begin : inner reg b; b = 0; $dumpvars; end end
    endmodule"""
    text = dumped(simulate, tmp_path, body)
    assert set(variables(text)) == {
        "tb.g[0].x", "tb.g[0].l.i", "tb.g[0].l.q", "tb.g[1].x", "tb.g[1].l.i", "tb.g[1].l.q", "tb.outer.a", "tb.outer.inner.b",
    }  # fmt: skip
    assert text.count("$scope module l $end") == 2 and text.count("$scope begin g[1] $end") >= 1


def test_a_limit(simulate: Run, tmp_path: Path) -> None:
    """18.1.5: when the file is that large, dumping stops, and a comment says so."""
    text = dumped(simulate, tmp_path, TOP % ("$dumplimit(600); $dumpvars;", 100_000))
    assert 600 < len(text) < 800
    assert text.rstrip().endswith("$comment the limit of the file is reached $end")


def test_a_file_outside_of_the_folder(simulate: Run, tmp_path: Path) -> None:
    outside = tmp_path.parent / f"{tmp_path.name}.vcd"
    done = simulate(TOP % (f'$dumpfile("{outside}"); $dumpvars;', 12))
    assert "the file lies outside the project folder; --allow-files permits it" in done.err
    assert not outside.exists()
    assert simulate(TOP % (f'$dumpfile("{outside}"); $dumpvars;', 12), "--allow-files").status == 0
    assert "$enddefinitions" in outside.read_text()


def test_a_file_that_is_read_while_it_is_written(simulate: Run, tmp_path: Path) -> None:
    """18.1.6: $dumpflush brings all that was dumped into the file."""
    body = """module tb;
      reg [7:0] v = 1; integer f, n; reg [8*100:1] line;
      initial begin
        $dumpvars; #1 v = 2; #1 $dumpflush;
        f = $fopen("dump.vcd", "r"); n = 0;
        while (!$feof(f)) begin n = n + ($fgets(line, f) != 0); end
        $display("%0d lines", n);
      end
    endmodule"""
    done = simulate(body)
    read = int(done.out.split()[0])
    lines = (tmp_path / "dump.vcd").read_text().splitlines()
    assert lines[read - 1].startswith("b10 ") and lines[read - 2] == "#1"
