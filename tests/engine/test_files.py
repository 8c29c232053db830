"""Files and texts: IEEE 1364-2005 clause 17.2, by programs that write, read back and print."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik
from tests.rows import check_rows

Run = Callable[..., Done]


def test_texts_made_by_formats(simulate: Run) -> None:
    """17.2.3: $swrite takes formats anywhere among its arguments, $sformat only as its second one, which may be a variable."""
    around = "reg [8*12:1] s; reg [8*8:1] f; reg [8*3:1] narrow;"
    rows = [
        ("$sformat", '$sformat(s, "%0d-%h", 5, 8\'hab); $display("%0s", s);', "5-ab"),
        ("$swrite", '$swrite(s, "v=%0d", 3, "!"); $display("%0s", s);', "v=3!"),
        ("17.1.1: a default width", '$swrite(s, 8\'d3, 8\'d200); $display("%0s", s);', "  3200"),
        ("an argument left out is a space", '$swrite(s, "a",, "b"); $display("%0s", s);', "a b"),
        ("$swriteh", '$swriteh(s, 12\'habc); $display("%0s", s);', "abc"),
        ("$swriteb", '$swriteb(s, 4\'b10x1); $display("%0s", s);', "10x1"),
        ("$swriteo", '$swriteo(s, 6\'o17); $display("%0s", s);', "17"),
        ("a format in a variable", 'f = "<%0d>"; $sformat(s, f, 7); $display("%0s", s);', "<7>"),
        ("what is too long loses its beginning", '$sformat(narrow, "%0d", 12345); $display("%0s", narrow);', "345"),
        ("what is short gets zeros before it", '$sformat(narrow, "%0d", 7); $display("%h", narrow);', "000037"),
        ("%m in a text", '$sformat(s, "%m"); $display("%0s", s);', "tb.row10"),
    ]  # fmt: skip
    check_rows(simulate, rows, around, suffix=".v")


def test_reading(simulate: Run, tmp_path: Path) -> None:
    """17.2.4: by lines, characters, formats and bytes."""
    (tmp_path / "in.txt").write_bytes(b"12 ab 1010 3.5 hello\n77\n")
    around = "integer f, c, i; reg [8*20:1] s; reg [31:0] v; reg [7:0] m[0:7]; real x; initial f = 0;"
    opened = 'f = $fopen("in.txt", "r");'
    rows = [
        ("17.2.4.3", f'{opened} c = $fscanf(f, "%d %h %b %f %s", i, v, m[0], x, s); $display("%0d %0d %h %b %g %0s", c, i, v, m[0], x, s);',
         "5 12 000000ab 00001010 3.5 hello"),
        ("17.2.4.1", 'c = $fgetc(f); $display("%0d", c);', "10"),
        ("17.2.4.1", 'c = $ungetc("Z", f); c = $fgetc(f); $display("%c", c);', "Z"),
        ("17.2.4.2", 'c = $fgets(s, f); $display("%0d %h", c, s[24:1]);', "3 37370a"),
        ("17.2.4.1", 'c = $fgetc(f); $display("%0d %0d", c, $feof(f) != 0);', "-1 1"),
        ("17.2.5", '$display("%0d", $ftell(f));', "24"),
        ("17.2.5", 'c = $fseek(f, 3, 0); i = $fgetc(f); $display("%0d %c", c, i);', "0 a"),
        ("17.2.5", 'c = $fseek(f, -3, 2); i = $fgetc(f); $display("%c", i);', "7"),
        ("17.2.4.4", 'c = $rewind(f); c = $fread(v, f); $display("%0d %h", c, v);', "4 31322061"),
        ("17.2.4.4", 'c = $rewind(f); c = $fread(m, f, 2, 3); $display("%0d %h %h %h", c, m[2], m[3], m[4]);', "3 31 32 20"),
        ("17.2.1", '$fclose(f); f = $fopen("missing.txt", "r"); $display("%0d", f);', "0"),
        ("17.2.7", 'c = $ferror(f, s); $display("%0d", c != 0);', "1"),
        ("17.2.4.3", 'c = $sscanf("x=0x1f,y=-7", "x=0x%h,y=%d", v, i); $display("%0d %h %0d", c, v, i);', "2 0000001f -7"),
        ("17.2.4.3", 'c = $sscanf("abc", "%d", i); $display("%0d", c);', "0"),
        ("17.2.4.3", 'c = $sscanf("", "%d", i); $display("%0d", c);', "-1"),
        ("17.2.4.3: a field width", 'c = $sscanf("12ab", "%1d%s", i, s); $display("%0d %0d %0s", c, i, s);', "2 1 2ab"),
        ("17.2.4.3: %*", 'c = $sscanf("10 20", "%*d %d", i); $display("%0d %0d", c, i);', "1 20"),
        ("17.2.4.3: unknown bits", 'c = $sscanf("1x0z", "%b", v); $display("%b", v[3:0]);', "1x0z"),
    ]  # fmt: skip
    check_rows(simulate, rows, around, suffix=".v")


def test_channels(simulate: Run, tmp_path: Path) -> None:
    """17.2.1: bit 0 is the standard output, the first file gets bit 1; one print goes to all that are set, also to both."""
    text = """module tb; integer a, b; initial begin a = $fopen("a.txt"); b = $fopen("b.txt"); $display("%0d %0d", a, b);
      $fdisplay(a | b | 1, "all"); $fwrite(b, "%0d", 5); $fclose(a); a = $fopen("c.txt"); $display("%0d", a); end endmodule"""
    assert simulate(text).out.splitlines() == ["2 4", "all", "2"]
    assert (tmp_path / "a.txt").read_text() == "all\n"
    assert (tmp_path / "b.txt").read_text() == "all\n5"


def test_strobes_and_appending(simulate: Run, tmp_path: Path) -> None:
    """17.2.2: $fstrobe writes at the end of the moment; mode "a" goes on behind what is there."""
    (tmp_path / "log.txt").write_text("old\n")
    text = """module tb; integer f, v; initial begin f = $fopen("log.txt", "a"); v = 1; $fstrobe(f, "v %0d", v); v = 2;
      #1 $fdisplayh(f, 8'd255); $fflush(f); end endmodule"""
    assert simulate(text).status == 0
    assert (tmp_path / "log.txt").read_text() == "old\nv 2\nff\n"


def test_memories(simulate: Run, tmp_path: Path) -> None:
    """17.2.9: addresses, comments, unknown digits, a start and an end; what is not named keeps its value."""
    (tmp_path / "m.hex").write_text("// head\n0a @3 1f /* gap */ 2x\n@6\n7 8_8")
    (tmp_path / "m.bin").write_text("1 10\n11")
    text = """module tb; reg [7:0] m[0:7]; integer k; initial begin
      $readmemh("m.hex", m); for (k = 0; k < 8; k = k + 1) $write("%h ", m[k]); $display;
      $readmemb("m.bin", m, 5, 3); $display("%h %h %h", m[5], m[4], m[3]);
      $writememh("out.hex", m, 3, 4); m[3] = 0; m[4] = 0; $readmemh("out.hex", m, 3); $display("%h %h", m[3], m[4]); end endmodule"""
    assert simulate(text).out.splitlines() == ["0a xx xx 1f 2x xx 07 88 ", "01 02 03", "03 02"]


def test_reading_writes_its_arguments(simulate: Run) -> None:
    """A variable that only $sscanf writes is not reported as never assigned."""
    done = simulate('module tb; integer c, i; initial begin c = $sscanf("5", "%d", i); $display("%0d", i); end endmodule')
    assert (done.out, done.err) == ("5\n", "")


def test_memories_of_every_kind(tmp_path: Path) -> None:
    """IEEE 1800-2017 21.4.3: words of several dimensions lie side by side, the lowest address first; an automatic array, a row of a
    matrix and a property are memories as well."""
    (tmp_path / "m.hex").write_text("1 2\n3 4\n")
    (tmp_path / "g.hex").write_text("1 2 3 @1 4 5 6\n")
    (tmp_path / "t.sv").write_text("""
    module tb;
      logic [7:0] g[2][0:2];
      logic [7:0] rows[0:1][3:0];
      class keeper;
        bit [15:0] mem[4];
        function void load(string f); $readmemh(f, mem); endfunction
      endclass
      task automatic t;
        logic [7:0] m[0:3];
        $readmemh("m.hex", m);
        $display("%p", m);
        m[1] = 8'hab;
        $writememh("o.hex", m);
      endtask
      keeper k = new;
      initial begin
        t();
        $readmemh("g.hex", g); $display("%p", g);
        $readmemh("m.hex", rows[1]); $display("%p", rows);
        $writememh("p.hex", g, 1);
        k.load("m.hex"); $display("%p", k.mem);
      end
    endmodule""")
    done = mevrik("run", "t.sv", cwd=tmp_path)
    assert done.err == ""
    assert done.out.splitlines() == [
        "'{1, 2, 3, 4}",
        "'{'{1, 2, 3}, '{4, 5, 6}}",
        "'{'{x, x, x, x}, '{4, 3, 2, 1}}",
        "'{1, 2, 3, 4}",
    ]
    assert (tmp_path / "o.hex").read_text() == "01\nab\n03\n04\n"
    assert (tmp_path / "p.hex").read_text() == "@1\n04\n05\n06\n"
