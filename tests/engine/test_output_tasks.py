"""The families of $display, $write, $strobe and $monitor with their radixes and files, and what is read back (IEEE 1364-2005 17.1, 17.2)."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Done
from tests.rows import Row, check_rows

RADIX = {"": " 42", "b": "00101010", "o": "052", "h": "2a"}  # of an 8-bit 42, each with the width of its greatest value (17.1.1.3)


@pytest.mark.parametrize("letter", list(RADIX))
def test_default_radix_of_each_family(letter: str, simulate: Callable[..., Done], tmp_path: Path) -> None:
    """17.1.1, 17.1.3, 17.2.2: the letter at the end of the name is the radix of arguments without a format."""
    want = RADIX[letter]
    text = f"""module tb;
      reg [7:0] v; integer f;
      initial begin
        v = 42;
        $display{letter}(v); $write{letter}(v, "\\n"); $strobe{letter}(v);
        f = $fopen("out.txt"); $fdisplay{letter}(f, v); $fwrite{letter}(f, v, "|"); $fstrobe{letter}(f, v); $fmonitor{letter}(f, "m", v);
        #1 v = 42; #1 $fclose(f);
      end
      initial begin $monitor{letter}("m", v); end
    endmodule"""
    done = simulate(text)
    assert done.out.splitlines() == [want, want, want, f"m{want}"], done.err
    assert (tmp_path / "out.txt").read_text() == f"{want}\n{want}|{want}\nm{want}\n"


def test_where_channels_lead(simulate: Callable[..., Done], tmp_path: Path) -> None:
    """17.2.1: the bits of a multichannel descriptor are files, bit 0 is the standard output; a descriptor of $fopen with a mode has
    the highest bit."""
    text = """module tb;
      integer a, b, c;
      initial begin
        a = $fopen("a.txt"); b = $fopen("b.txt"); c = $fopen("c.txt", "w");
        $fdisplay(a | b | 1, "three"); $fdisplay(b, "one"); $fdisplay(c, "own");
        $display("%b %b %b", a, b, c[31]);
        $fclose(a); $fclose(b); $fclose(c);
        $fdisplay(32'h8000_0001, "standard output");
      end
    endmodule"""
    done = simulate(text)
    assert done.out.splitlines() == ["three", f"{2:032b} {4:032b} 1", "standard output"], done.err
    assert [(tmp_path / f"{n}.txt").read_text() for n in "abc"] == ["three\n", "three\none\n", "own\n"]


def test_monitor(simulate: Callable[..., Done]) -> None:
    """17.1.3: at the end of each moment in which an argument other than the time changed; the last $monitor counts; off and on."""
    text = """module tb;
      reg a = 0, b = 0;
      initial begin
        $monitor("first %b", a);
        $monitor("%0t %b %b", $time, a, b);
        #1 a = 1; b = 1; a = 0; a = 1;
        #1 a = 1;
        #1 $monitoroff; a = 0;
        #1 b = 0;
        #1 $monitoron;
        #1 b = 1; b = 0;
        #1 b = 1;
      end
    endmodule"""
    assert simulate(text).out.splitlines() == ["0 0 0", "1 1 1", "5 0 0", "7 0 1"]


def test_strobe_at_the_end_of_the_moment(simulate: Callable[..., Done]) -> None:
    """17.1.2: after all that happens at that time, in the order in which it was asked for."""
    text = """module tb;
      reg [3:0] a = 1;
      initial begin $strobe("strobe %0d", a); $display("display %0d", a); a <= 2; #0 a = a + 2; $strobe("again %0d", a); end
    endmodule"""
    assert simulate(text).out.splitlines() == ["display 1", "strobe 2", "again 2"]


ROWS: list[Row] = [
    ("17.1.1.3: decimal is as wide as the greatest value", '$display("[%d][%d]", w, s);', "[   42][    -3]"),
    ("17.1.1.3: 0 is as wide as needed", '$display("[%0d][%0h][%0b][%0o]", w, w, w, w);', "[42][2a][101010][52]"),
    ("17.1.1.4: unknown as a whole, in part", '$display("%d %d %d %d", 4\'bxxxx, 4\'bzzzz, 4\'b1x00, 4\'b1z00);', " x  z  X  Z"),
    ("17.1.1.4: a digit of hexadecimal, octal", '$display("%h %h %h %o %o", 8\'b0000xxxx, 8\'b000x0001, 8\'b000z0001, 6\'bzzz00x, 6\'bx00zzz);', "0x X1 Z1 zX Xz"),
    ("17.1.1.2: %c, %s and %%", '$display("%c%c|%s|%%", 8\'h41, 16\'h4142, "text");', "AB|text|%"),
    ("17.1.1.2: letters of either case", '$display("%B %O %H %D %C %S", 4\'d9, 4\'d9, 4\'d9, 4\'d9, 8\'d65, "s");', "1001 11 9  9 A s"),
    ("17.1.1: strings in between and empty arguments", '$display("a", , "b", 8\'d5, "c");', "a b  5c"),
    ("17.1.1.2: escapes", '$display("a\\tb\\\\c\\"d\\101");', 'a\tb\\c"dA'),
    ("17.1.1.8: a vector as a string loses its leading zeros with %0s", '$display("[%s][%0s]", long, long);', "[    hi][hi]"),
    ("17.1.1.2: %m", '$display("%m");', "tb.row9"),
    ("17.1.1.2: %t goes by $timeformat", '$timeformat(-9, 2, " ns", 12); $display("[%t]", 5); $timeformat(-9, 0, "", 20);', "[     5.00 ns]"),
    ("17.1.1.2: %u and %z are binary", 'f = $fopen("raw", "wb"); $fwrite(f, "%u", 32\'h64636261); $fclose(f); f = $fopen("raw", "r"); n = $fgets(line, f); $fclose(f); $display("%0d %0s", n, line);', "4 abcd"),
    ("17.2.3: $sformat and $swrite", '$swrite(line, "%0d", 7, "-", 3\'d5); $sformat(other, "%s%0d", "n", 12); $display("%0s %0s", line, other);', "7-5 n12"),
    ("17.2.4.1: characters and back", 'put("xyz"); n = $fgetc(f); m = $ungetc("Q", f); $write("%c%0d ", n, m); n = $fgetc(f); m = $fgetc(f); $display("%c%c", n, m); $fclose(f);', "x0 Qy"),
    ("17.2.4.1: the end is -1", 'put(""); n = $fgetc(f); $display("%0d %0d", n, $feof(f) != 0); $fclose(f);', "-1 1"),
    ("17.2.4.3: $fscanf stops where it does not fit", 'put("12 ab 7f rest"); n = $fscanf(f, "%d %s %h %d", i, line, j, k); $display("%0d %0d %0s %h", n, i, line, j); $fclose(f);', "3 12 ab 0000007f"),
    ("17.2.4.3: $sscanf: widths, skipped ones, literal text", 'n = $sscanf("v=12345,x", "v=%2d%*1d%d,%c", i, j, c); $display("%0d %0d %0d %c", n, i, j, c);', "3 12 45 x"),
    ("17.2.4.3: binary, octal, unknown digits", 'n = $sscanf("10x1 17 z", "%b %o %b", w, i, v); $display("%0d %b %0d %b", n, w[3:0], i, v);', "3 10x1 15 0000000z"),
    ("17.2.4.3: reals", 'n = $sscanf("2.5e1", "%f", r); $display("%0d %g", n, r);', "1 25"),
    ("17.2.8: the end is known when reading has met it", 'put("ab"); n = $fgetc(f); n = $fgetc(f); m = $feof(f) != 0; n = $fgetc(f); $display("%0d %0d %0d", m, n, $feof(f) != 0); $fclose(f);', "0 -1 1"),
    ("17.2.5: where one is", 'put("abcdef"); n = $fseek(f, 2, 0); m = $ftell(f); c = $fgetc(f); $write("%0d %0d %c", n, m, c); n = $fseek(f, -1, 2); c = $fgetc(f); $write("%c", c); n = $rewind(f); c = $fgetc(f); $display("%c", c); $fclose(f);', "0 2 cfa"),
    ("17.2.7: what went wrong", 'f = $fopen("there/is/none", "r"); n = $ferror(f, line); $display("%0d %0d", f, n != 0); ', "0 1"),
    ("17.2.4.4: $fread, big end first", 'put("ABCD"); n = $fread(word, f); $display("%0d %h", n, word); $fclose(f);', "4 41424344"),
    ("17.2.4.4: into a memory from an index on", 'put("ABCD"); n = $fread(mem, f, 1, 2); $display("%0d %h %h %h", n, mem[0], mem[1], mem[2]); $fclose(f);', "2 00 41 42"),
]  # fmt: skip

AROUND = """reg [15:0] w = 42; reg signed [14:0] s = -3; reg [47:0] long = "hi"; reg [7:0] v, c; reg [31:0] word; reg [7:0] mem [0:3];
integer f, n, m, i, j, k; real r; reg [8*60:1] line, other;
initial begin mem[0] = 0; mem[3] = 0; end
task put(input [8*40:1] text); begin f = $fopen("put", "w"); $fwrite(f, "%0s", text); $fclose(f); f = $fopen("put", "r"); end endtask"""


def test_rows(simulate: Callable[..., Done]) -> None:
    check_rows(simulate, ROWS, AROUND, suffix=".v")
