"""Common misuses, each forbidden by the clause that stands beside it (IEEE 1076-2008). Written down before anything was run: where the error has
to be (the line marked with `>>`), and what a user has to read there: the name that is wrong, what it is instead, what would do."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse

CONTEXT = "library ieee;\nuse ieee.std_logic_1164.all;\nuse ieee.numeric_std.all;\n"
SUB = (
    'entity sub is generic (w : natural := 3); port (a : in bit; b : out bit; v : in bit_vector := "00"); end;\n'
    "architecture x of sub is begin b <= a; end;\n"
)
RECORD = "type r is record speed, b : integer; end record; signal s : r; signal n : integer;"
TABLE = "type t2 is array (0 to 1, 0 to 1) of integer; signal n : integer; signal m : t2;"

# clause; units in front; declarations; concurrent statements; words of the message
ROWS: list[tuple[str, str, str, str, tuple[str, ...]]] = [
    ("6.5.7", SUB, "signal p, q : bit; signal z : bit_vector(1 downto 0);", ">>u : entity work.sub port map (p, q, z, p);", ("sub", "3 ports", "one too many")),
    ("6.5.7", SUB, "signal p, q : bit;", ">>u : entity work.sub port map (a => p, b => q, a => p);", ("'a'", "twice")),
    ("6.5.6.3", SUB, "signal p, q : bit;", ">>u : entity work.sub port map (a => p, b => not q);", ("'b'", "out", "signal", "expression")),
    ("6.5.6.3", "entity s2 is port (v : in bit_vector); end; architecture x of s2 is begin end;\n", "", ">>u : entity work.s2 port map (v => open);", ("'v'", "'s2'", "no default")),
    ("6.5.7", SUB, "signal p, q : bit;", ">>u : entity work.sub generic map (1, 2) port map (p, q);", ("sub", "1 generic;", "one too many")),
    ("6.5.7", SUB, "signal p, q : bit;", ">>u : entity work.sub generic map (w => 1, w => 2) port map (p, q);", ("'w'", "twice")),
    ("6.5.7", SUB, "signal p, q : bit;", ">>u : entity work.sub generic map (width => 1) port map (p, q);", ("'width'", "no generic", "are w")),
    ("11.7", SUB, "signal p, q : bit;", ">>u : sub port map (p, q);", ("'sub'", "entity", "component", "entity work.sub")),
    ("11.7", SUB, "signal p, q : bit;", ">>u : entity work.suv port map (p, q);", ("'suv'", "did you mean 'sub'?")),
    ("11.7", "", "signal p : bit;", ">>u : p port map (p);", ("'p'", "no component")),
    ("11.7", SUB, "signal p, q : bit;", ">>u : entity work.sub(y) port map (p, q);", ("'sub'", "no architecture 'y'")),
    ("9.1", "", "signal n : integer;", ">>n <= integer;", ("'integer'", "a type", "value")),
    ("9.1", "", "procedure p is begin end; signal n : integer;", ">>n <= p;", ("'p'", "procedure", "no value")),
    ("9.3.4", "", "function f(x : integer) return integer is begin return x; end; signal n : integer;", ">>n <= f;", ("'f'", "arguments", "integer")),
    ("9.1", "", "signal n : integer;", ">>n <= ieee.numeric_std;", ("'numeric_std'", "package", "value")),
    ("8.4", "", "signal n, m : integer;", ">>n <= m(3);", ("'m'", "integer", "no array")),
    ("8.4", "", TABLE, ">>n <= m(1);", ("t2", "2 dimensions", "one")),
    ("8.5", "", TABLE, ">>n <= m(0 to 1);", ("one dimension", "slice", "t2")),
    ("8.4", "", "signal v : bit_vector(3 downto 0); signal b : bit;", ">>b <= v(a => 1);", ("index", "'=>'")),
    ("8.3", "", RECORD, ">>n <= s.sped;", ("'sped'", "did you mean 'speed'?")),
    ("8.3", "", "signal s : integer; signal n : integer;", ">>n <= s.c;", ("record", "integer")),
    ("9.3.3.2", "", RECORD, ">>s <= (speed => 1);", ("no value", "b of r")),
    ("9.3.3.2", "", RECORD, ">>s <= (speed => 1, speed => 2, b => 3);", ("'speed'", "twice")),
    ("9.3.3.2", "", RECORD, ">>s <= (1, 2, 3);", ("2 elements", "one too many")),
    ("9.3.3.2", "", RECORD, ">>s <= (sped => 1, b => 2);", ("'sped'", "did you mean 'speed'?")),
    ("9.3.3.1", "", "signal n : integer;", ">>n <= (1, 2);", ("integer", "aggregate")),
    ("9.3.3.3", "", "signal v : bit_vector(0 to 2);", ">>v <= ('1', 1 => '0', 2 => '1');", ("positional", "named", "not both")),
    ("9.3.3.3", "", "signal v : bit_vector(0 to 2);", ">>v <= (5 => '1', others => '0');", ("5", "outside", "0 to 2")),
    ("9.3.2", "", "", ">>process begin report integer'image(null); wait; end process;", ("'null'", "access", "integer")),
    ("9.3.2", "", "signal b : bit;", ">>b <= '1' after 3 nsec;", ("'nsec'", "unit", "did you mean 'ns'?")),
    ("9.3.6", "", "signal n : integer;", ">>n <= integer(1, 2);", ("conversion", "integer", "one value")),
    ("9.3.6", "", "signal v : unsigned(3 downto 0);", '>>v <= unsigned("0101");', ("clear", "unsigned'(")),
    ("10.5.2", "", "signal n : integer;", ">>n <= open;", ("'open'",)),
    ("6.3", "", ">>signal n : integer(3 downto 0);", "", ("integer", "no array", "'range'")),
    ("6.3", "", ">>subtype b4 is bit_vector(3 downto 0); signal n : b4(1 downto 0);", "", ("b4", "bounds already")),
    ("6.3", "", ">>signal n : bit_vector(3 downto 0, 1 downto 0);", "", ("bit_vector", "1 dimension,", "2")),
    ("5.2.1", "", ">>signal n : bit_vector(3 downto '0');", "", ("natural", "'0'")),
    ("6.3", "", ">>signal n : bit_vector(3);", "", ("range", "downto")),
    ("4.2", "", ">>function f(x : integer) return integer is begin return x; end; function f(y : integer) return integer is begin return y; end;", "", ("'f'", "twice")),
    ("4.10", "package pk is function f(x : integer) return integer; end;\n>>package body pk is function f(y : integer) return integer is begin return y; end; end;\n", "", "", ("'y'", "'x'", "declaration")),
    ("4.10", "package pk is procedure f(x : in integer); end;\n>>package body pk is procedure f(x : inout integer) is begin end; end;\n", "", "", ("'x'", "'inout'", "'in'")),
    ("4.4", "", ">>function g is new nothing generic map (integer);", "", ("'nothing'", "not declared")),
    ("6.5.3", "", ">>function s generic (type item) parameter (a : item) return item is begin return a; end function; function g is new s;", "", ("'item'", "needs a type")),
    ("5.6.3", "", ">>type p is protected body end protected body;", "", ("no protected type", "'p'", "body")),
    ("5.2.4", "", ">>type w is range 0 to 10 units a; b = 3 c; end units;", "", ("unit", "before")),
    ("5.2.2.1", "", ">>type e is (one, two, one);", "", ("one", "e", "already")),
    ("10.8", "", "signal s : boolean; signal n : integer;", ">>process(s) begin case s is when true => n <= 1; end case; end process;", ("false", "when others")),
    ("10.9", "", "signal s : boolean; signal n : integer;", ">>process(s) begin case s is when true => n <= 1; when true => n <= 2; when false => null; end case; end process;", ("true", "twice")),
    ("10.12", "", "", ">>process begin exit; wait; end process;", ("'exit'", "loop")),
    ("10.13", "", "", ">>process begin return 3; end process;", ("'return'", "function", "procedure")),
    ("6.4.2.2", "", "constant c : integer := 1;", ">>process begin c := 2; wait; end process;", ("'c'", "constant")),
    ("10.6.1", "", "signal s : bit;", ">>process begin s := '1'; wait; end process;", ("'s'", "signal", "'<='")),
    ("10.5.1", "", "", ">>process variable v : bit; begin v <= '1'; wait; end process;", ("'v'", "variable", "':='")),
    ("10.10", "", "", ">>process begin for k in 0 to 3 loop k := 2; end loop; wait; end process;", ("'k'", "loop")),
    ("10.2", "", ">>function f return integer is begin wait; return 1; end;", "", ("function", "wait")),
    ("11.3", "", "signal s : bit;", ">>process(s) begin wait; end process;", ("sensitivity list", "wait")),
    ("16.2", "", "signal s : bit; signal n : integer;", ">>n <= s'length;", ("'length", "array")),
    ("10.5.2", "", "signal v : std_logic_vector(7 downto 0);", '>>v <= "0101";', ("4", "8", "length")),
    ("9.2.7", "", "signal v : std_logic_vector(7 downto 0);", ">>v <= v + 1;", ("'+'", "std_logic_vector", "unsigned")),
    ("10.6.1", "", "signal a, b : std_logic;", ">>process(a) begin b = a; end process;", ("'='", "':='", "'<='")),
    ("10.8", "", "signal a, b : std_logic;", ">>process(a) begin if a = '1' then b <= a; else if a = '0' then b <= '0'; end if; end process;", ("'end if;'", "'elsif'")),
    ("9.3.2", "", "signal a : std_logic;", ">>a <= '2';", ("'2'", "std_logic")),
    ("9.3.2", "", "signal a : std_logic;", '>>a <= "1";', ("std_logic", "string literal")),
    ("9.3.2", "", "signal a : std_logic_vector(1 downto 0);", ">>a <= '1';", ("std_logic_vector", "'1'")),
    ("11.6", "", "signal a, b : bit;", ">>with b select a <= '1' when '0';", ("'1'", "others")),
    ("9.3.2", "", "signal a : boolean;", '>>a <= ("up" < "to") and true;', ("string literal", "qualify")),
    ("10.5.2", "", "signal v : bit_vector(3 downto 0); signal w : bit_vector(1 downto 0);", ">>v <= w when 1 < 2 else v;", ("2", "4", "length")),
]  # fmt: skip


@pytest.mark.parametrize(
    ("clause", "units", "declarations", "statements", "words"), ROWS, ids=[f"{row[0]} {' '.join(row[4])}" for row in ROWS]
)
def test_misuse(clause: str, units: str, declarations: str, statements: str, words: tuple[str, ...], tmp_path: Path) -> None:
    marked = f"{CONTEXT}{units}{CONTEXT}entity t is end;\narchitecture a of t is\n{declarations}\nbegin\n{statements}\nend;\n"
    line = marked[: marked.index(">>")].count("\n") + 1
    path = tmp_path / "t.vhd"
    path.write_text(marked.replace(">>", ""))
    analysis = analyse([path])
    assert analysis.elaborate("t") is None, clause
    errors = [d for d in analysis.diagnostics.sorted() if d.severity == "error"]
    assert [d.render().split(":")[1] for d in errors] == [str(line)], [d.render() for d in errors]
    missing = [word for word in words if word not in errors[0].message]
    assert not missing, f"{errors[0].message!r} lacks {missing} ({clause})"


def test_formals_that_stand_on_the_wrong_side(tmp_path: Path) -> None:
    """6.5.7: the formal stands left of `=>`; each of the two names is told with the way it should be."""
    path = tmp_path / "t.vhd"
    path.write_text(
        f"{SUB}entity t is end;\narchitecture a of t is\nsignal p, q : bit;\nbegin\nu : entity work.sub port map (p => a, q => b);\nend;\n"
    )
    analysis = analyse([path])
    assert analysis.elaborate("t") is None
    said = [d.message for d in analysis.diagnostics.sorted() if d.severity == "error"]
    assert ["a => p" in said[0], "b => q" in said[1]] == [True, True] and len(said) == 2
