"""Reading and writing of text (IEEE 1076-2008 16.4), and other names of operators (6.6.3)."""

from __future__ import annotations

from pathlib import Path

from tests.vhdl.rows import Row, Run, bench, check_rows, prints

# each function reads from the text and gives what it read, whether that was good, and what is left
READERS = """
  function left(l : line) return string is
  begin
    if l = null then return "[null]"; end if;
    return "[" & l.all & "]";
  end function;
  impure function int(t : string) return string is
    variable l : line := new string'(t); variable v : integer := -1; variable good : boolean;
  begin
    read(l, v, good); return integer'image(v) & " " & boolean'image(good) & left(l);
  end function;
  impure function rea(t : string) return string is
    variable l : line := new string'(t); variable v : real := -1.0; variable good : boolean;
  begin
    read(l, v, good); return to_string(v, 4) & " " & boolean'image(good) & left(l);
  end function;
  impure function tim(t : string) return string is
    variable l : line := new string'(t); variable v : time := 1 ns; variable good : boolean;
  begin
    read(l, v, good); return to_string(v, ns) & " " & boolean'image(good) & left(l);
  end function;
  impure function boo(t : string) return string is
    variable l : line := new string'(t); variable v, good : boolean := false;
  begin
    read(l, v, good); return boolean'image(v) & " " & boolean'image(good) & left(l);
  end function;
  impure function cha(t : string) return string is
    variable l : line := new string'(t); variable v : character := '-'; variable good : boolean;
  begin
    read(l, v, good); return v & " " & boolean'image(good) & left(l);
  end function;
  impure function str(t : string; n : natural) return string is
    variable l : line := new string'(t); variable v : string(1 to n) := (others => '-'); variable good : boolean;
  begin
    read(l, v, good); return v & " " & boolean'image(good) & left(l);
  end function;
  impure function word(t : string; n : natural) return string is
    variable l : line := new string'(t); variable v : string(1 to n); variable size : natural;
  begin
    sread(l, v, size); return v & "|" & integer'image(size) & left(l);
  end function;
  impure function bits(t : string; n : natural) return string is
    variable l : line := new string'(t); variable v : bit_vector(1 to n) := (others => '0'); variable good : boolean;
  begin
    read(l, v, good); return to_string(v) & " " & boolean'image(good) & left(l);
  end function;
  impure function hex(t : string; n : natural) return string is
    variable l : line := new string'(t); variable v : std_logic_vector(n downto 1) := (others => '-'); variable good : boolean;
  begin
    hread(l, v, good); return to_string(v) & " " & boolean'image(good) & left(l);
  end function;
  impure function oct(t : string; n : natural) return string is
    variable l : line := new string'(t); variable v : std_logic_vector(n downto 1) := (others => '-'); variable good : boolean;
  begin
    oread(l, v, good); return to_string(v) & " " & boolean'image(good) & left(l);
  end function;
  impure function logic(t : string) return string is
    variable l : line := new string'(t); variable v : std_logic := '-'; variable good : boolean;
  begin
    read(l, v, good); return std_logic'image(v) & " " & boolean'image(good) & left(l);
  end function;
  impure function written(n : natural; side1 : side; w : width) return string is
    variable l : line;
  begin
    write(l, n, side1, w); write(l, string'("|")); return l.all;
  end function;
  impure function all_kinds return string is
    variable l : line;
  begin
    write(l, true); write(l, ' '); write(l, 'c'); write(l, bit'('1')); write(l, bit_vector'("0110"), right, 6);
    write(l, 1.5, left, 9, 2); write(l, 2500 ps, right, 8, ns); write(l, string'("z"), right, 3); write(l, -4);
    swrite(l, "s"); hwrite(l, bit_vector'(x"3C")); owrite(l, bit_vector'("101110")); bwrite(l, bit_vector'("10"));
    return l.all;
  end function;
  impure function std_kinds return string is
    variable l : line;
  begin
    write(l, std_logic'('Z')); write(l, std_logic_vector'("1LHX")); hwrite(l, std_logic_vector'("1111ZZZZ10X1")); owrite(l, std_logic_vector'("1010"));
    return l.all;
  end function;
  impure function exponent(v : real; digits : natural) return string is
    variable l : line;
  begin
    write(l, v, right, 0, digits); return l.all;
  end function;
"""

ROWS: list[Row] = [
    ("16.4 leading blanks go, what follows stays", 'int("  42 rest")', "42 true[ rest]"),
    ("16.4 a tab is a blank", 'int(HT & "-7,")', "-7 true[,]"),
    ("15.5.2 underscores and exponents belong to it", 'int("1_000e1 ")', "10000 true[ ]"),
    ("15.5.2 an integer has no negative exponent", 'int("12e-1")', "12 true[e-1]"),
    ("15.5.3 based literals too", 'int("16#fF# 2#1010_1010#")', "255 true[ 2#1010_1010#]"),
    ("15.5.3 the exponent of a based literal counts in its base", 'int("2#1#e10")', "1024 true[]"),
    ("16.4 what is none is left there", 'int(" x1")', "-1 false[ x1]"),
    ("16.4 nor an empty line", 'int("")', "-1 false[]"),
    ("5.2.3 out of range", 'int("99999999999")', "-1 false[99999999999]"),
    ("16.4 a real has a point", 'rea("3.25e1x")', "32.5000 true[x]"),
    ("15.5.3 a based real", 'rea("2#1.1#e2;")', "6.0000 true[;]"),
    ("16.4 a whole number is no real", 'rea("12")', "-1.0000 false[12]"),
    ("16.4 time with a unit", 'tim("15 ns.")', "15 ns true[.]"),
    ("16.4 time with a point", 'tim("2.5us")', "2500 ns true[]"),
    ("16.4 a time without a unit", 'tim("15 lightyears")', "1 ns false[15 lightyears]"),
    ("16.4 boolean, in any case", 'boo(" TRUE,")', "true true[,]"),
    ("16.4 no boolean", 'boo("tru")', "false false[tru]"),
    ("16.4 a character is the next one, blank or not", 'cha(" a")', "  true[a]"),
    ("16.4 and there has to be one", 'cha("")', "- false[]"),
    ("16.4 a string takes as many as it is long", 'str("abcdef", 4)', "abcd true[ef]"),
    ("16.4 all or none", 'str("ab", 4)', "---- false[ab]"),
    ("16.4 sread: a word, the rest is blanks", 'word("  lock gate", 6)', "lock  |4[ gate]"),
    ("16.4 sread: as far as there is room", 'word("interlock", 5)', "inter|5[lock]"),
    ("16.4 bits", 'bits(" 1_0110", 5)', "10110 true[]"),
    ("16.4 too few bits", 'bits("101", 5)', "00000 false[101]"),
    ("16.4 hexadecimal of logic: digits, X and Z", 'hex(" 3xZ", 12)', "0011XXXXZZZZ true[]"),
    ("16.4 a length that is no multiple of four: the digits in front are 0", 'hex("1f", 5)', "11111 true[]"),
    ("16.4 and nothing is cut off", 'hex("3f", 5)', "----- false[3f]"),
    ("16.4 octal", 'oct("57 ", 6)', "101111 true[ ]"),
    ("16.4 logic", "logic(\" L1\")", "'L' true[1]"),
    ("16.4 no logic", 'logic("q")', "'-' false[q]"),
    ("16.4 justified in a field", 'written(42, right, 5) & written(42, left, 5) & written(12345, right, 3)', "   42|42   |12345|"),
    ("16.4 every kind", "all_kinds", "true c1  01101.50       2.5 ns  z-4s3C5610"),
    ("16.4 logic and its digits", "std_kinds", "Z1LHXFZX12"),
    ("16.4 reals: digits after the point", 'exponent(2.5, 3) & " " & exponent(12.0, 1)', "2.500 12.0"),
]  # fmt: skip


def test_rows(simulate: Run) -> None:
    check_rows(simulate, ROWS, READERS)


def test_files_of_text(simulate: Run, tmp_path: Path) -> None:
    """16.4: written line by line, appended to, read until the end; a line that is written is empty afterwards."""
    body = """
    file f : text; variable l : line; variable status : file_open_status; variable n : integer; variable count : natural := 0;
  begin
    file_open(f, "log.txt", write_mode);
    write(l, string'("one ")); write(l, 1); writeline(f, l);
    say(boolean'image(l = null or l'length = 0));
    writeline(f, l); write(f, "two 2" & LF); flush(f); file_close(f);
    file_open(f, "log.txt", append_mode); write(l, string'("three 3")); writeline(f, l); file_close(f);
    file_open(status, f, "none.txt", read_mode); say(file_open_status'image(status));
    file_open(status, f, "log.txt", read_mode); say(file_open_status'image(status));
    file_open(status, f, "log.txt", read_mode); say(file_open_status'image(status));
    while not endfile(f) loop
      readline(f, l); count := count + 1; say(integer'image(l'length) & ":" & l.all);
    end loop;
    file_close(f); say(integer'image(count));
    tee(output, l); deallocate(l);"""
    wanted = "true\nname_error\nopen_ok\nstatus_error\n5:one 1\n0:\n5:two 2\n7:three 3\n4\nthree 3\nthree 3"  # tee writes to the standard output and to its file
    done = simulate(bench(body), suffix=".vhd")
    assert done.out.splitlines() == wanted.splitlines(), done.err
    assert (tmp_path / "log.txt").read_text() == "one 1\n\ntwo 2\nthree 3\n"


def test_files_of_arrays_give_each_back_with_its_length(simulate: Run) -> None:
    """5.5.2: what was written in one call is read in one, and `length` says how much it was; a text is characters and nothing else."""
    declarations = """
  type names is file of string;
  type masks is file of bit_vector;
  type row is record n : integer; m : bit_vector(3 downto 0); end record;
  type rows is file of row;"""
    body = """    file n : names; file m : masks; file r : rows; file t : text;
    variable s : string(1 to 6) := "......"; variable b : bit_vector(1 to 4); variable x : row; variable long : natural; variable l : line;
  begin
    file_open(n, "names.dat", write_mode); write(n, "sluice"); write(n, ""); write(n, "gate"); file_close(n);
    file_open(n, "names.dat");
    while not endfile(n) loop read(n, s, long); say(integer'image(long) & s(1 to long)); end loop;
    file_open(m, "masks.dat", write_mode); write(m, bit_vector'("101")); file_close(m);
    file_open(m, "masks.dat"); read(m, b, long); say(integer'image(long) & to_string(b(1 to 3)));
    file_open(r, "rows.dat", write_mode); write(r, (7, "0110")); write(r, (-1, "1001")); file_close(r);
    file_open(r, "rows.dat"); read(r, x); read(r, x); say(integer'image(x.n) & to_string(x.m) & boolean'image(endfile(r)));
    file_open(t, "words.txt", write_mode); write(t, "gate" & LF); write(t, "7"); file_close(t);
    file_open(t, "words.txt"); readline(t, l); say(l.all); readline(t, l); say(l.all);"""
    prints(simulate, bench(body, declarations), "6sluice\n0\n4gate\n3101\n-11001true\ngate\n7")


def test_reading_what_is_not_there_stops_the_run(simulate: Run) -> None:
    """16.4: without a parameter for it, a value that can't be read is an error."""
    done = simulate(
        bench('    variable l : line := new string\'("gate"); variable v : integer;\n  begin\n    read(l, v); say("on");'),
        suffix=".vhd",
    )
    assert "error" in done.err and "tb" not in done.out


def test_other_names_of_operators(simulate: Run) -> None:
    """6.6.3: an alias with a signature stands for one operator, be it one that comes with the type; it is a function."""
    declarations = """
  type level is (empty, half, full);
  alias below is "<" [level, level return boolean];
  alias both is "and" [bit, bit return bit];
  alias turned is "not" [bit_vector return bit_vector];
  alias plus is "+" [integer, integer return integer];
  alias joined is "&" [string, string return string];
  alias sum is ieee.numeric_std."+" [unsigned, unsigned return unsigned];
  alias less is ieee.numeric_std."<" [unsigned, natural return boolean];
"""
    body = """  begin
    say(boolean'image(below(empty, full)) & boolean'image(below(full, half)) & to_string(both('1', '1')) & to_string(turned("0110")));
    say(integer'image(plus(2, plus(l => 3, r => 4))) & joined("lock", "gate") & to_string(sum("0101", "0011")) & boolean'image(less("11", 2)));"""
    prints(simulate, bench(body, declarations), "truefalse11001\n9lockgate1000false")


def test_an_alias_of_no_operator(simulate: Run) -> None:
    done = simulate(bench("  begin\n", '  alias odd is "<" [boolean return boolean];'), suffix=".vhd")
    assert done.status == 2 and ":" in done.err
    assert done.err.count("error:") == 1, done.err
