"""What is said of common misuses: the words that a user needs, in one error (two where two names are wrong)."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse

CONTEXT = "library ieee;\nuse ieee.std_logic_1164.all;\nuse ieee.numeric_std.all;\n"
SUB = (
    'entity sub is generic (w : natural := 3); port (a : in bit; b : out bit; v : in bit_vector := "00"); end;\n'
    "architecture x of sub is begin b <= a; end;\n"
)

ROWS: list[tuple[str, str, str, str]] = [  # units in front, declarations, concurrent statements; what is said
    (SUB, 'signal p, q : bit; signal z : bit_vector(1 downto 0);', 'u : entity work.sub port map (p, q, z, p);', "entity 'sub' has 3 ports; this is one too many"),
    (SUB, 'signal p, q : bit;', 'u : entity work.sub port map (a => p, b => q, a => p);', "port 'a' is connected twice"),
    (SUB, 'signal p, q : bit;', 'u : entity work.sub port map (p => a, q => b);', "entity 'sub' has no port 'p' (the formal of this association); the formal port stands left"),
    (SUB, 'signal p, q : bit;', 'u : entity work.sub port map (a => p, b => not q);', "port 'b' is of mode out: it needs a signal, not an expression"),
    ('entity s2 is port (v : in bit_vector); end; architecture x of s2 is begin end;\n', '', 'u : entity work.s2 port map (v => open);', "the input 'v' of entity 's2' is connected to nothing and has no default"),
    (SUB, 'signal p, q : bit;', 'u : entity work.sub generic map (1, 2) port map (p, q);', "entity 'sub' has 1 generics; this is one too many"),
    (SUB, 'signal p, q : bit;', 'u : entity work.sub generic map (w => 1, w => 2) port map (p, q);', "generic 'w' is given twice"),
    (SUB, 'signal p, q : bit;', 'u : entity work.sub generic map (width => 1) port map (p, q);', "entity 'sub' has no generic 'width'; its generics are w"),
    (SUB, 'signal p, q : bit;', 'u : sub port map (p, q);', "'sub' is an entity, and no component of that name is declared: write 'entity work.sub'"),
    ('', '', 'u : entity work.suv port map (p, q);', "there is no design unit 'suv' in the files"),
    ('', 'signal p : bit;', 'u : p port map (p);', "'p' is no component"),
    (SUB, 'signal p, q : bit;', 'u : entity work.sub(y) port map (p, q);', "entity 'sub' has no architecture 'y'"),
    ('', 'signal n : integer;', 'n <= integer;', "'integer' is a type; a value should stand here"),
    ('', 'procedure p is begin end; signal n : integer;', 'n <= p;', "'p' is a procedure: it has no value"),
    ('', 'function f(x : integer) return integer is begin return x; end; signal n : integer;', 'n <= f;', "'f' needs arguments: f(integer) return integer"),
    ('', 'signal n : integer;', 'n <= ieee.numeric_std;', "'numeric_std' is a package; a value should stand here"),
    ('', 'signal n, m : integer;', 'n <= m(3);', "'m' is of type integer, which is no array: it can't be indexed or called"),
    ('', 'type t2 is array (0 to 1, 0 to 1) of integer; signal n : integer; signal m : t2;', 'n <= m(1);', 't2 has 2 dimensions, one index is given'),
    ('', 'type t2 is array (0 to 1, 0 to 1) of integer; signal m : t2; signal n : integer;', 'n <= m(0 to 1);', 'only an array of one dimension has slices; t2 has 2'),
    ('', 'signal v : bit_vector(3 downto 0); signal b : bit;', 'b <= v(a => 1);', "an index has no '=>'"),
    ('', 'type r is record a, b : integer; end record; signal s : r; signal n : integer;', 'n <= s.c;', "r has no element 'c'"),
    ('', 'signal s : integer; signal n : integer;', 'n <= s.c;', "'.c' needs a record; this is integer"),
    ('', 'type r is record a, b : integer; end record; signal s : r;', 's <= (a => 1);', 'the aggregate gives no value for element b of r'),
    ('', 'type r is record a, b : integer; end record; signal s : r;', 's <= (a => 1, a => 2, b => 3);', "element 'a' is given twice"),
    ('', 'type r is record a, b : integer; end record; signal s : r;', 's <= (1, 2, 3);', 'r has 2 elements; this is one too many'),
    ('', 'type r is record aa, b : integer; end record; signal s : r;', 's <= (ab => 1, b => 2);', "r has no element 'ab'; did you mean 'b'?"),
    ('', 'signal n : integer;', 'n <= (1, 2);', 'integer is needed here; this is an aggregate'),
    ('', 'signal v : bit_vector(0 to 2);', "v <= ('1', 1 => '0', 2 => '1');", 'an array aggregate is either positional or named, not both'),
    ('', 'signal v : bit_vector(0 to 2);', "v <= (5 => '1', others => '0');", 'index 5 of the aggregate is outside of bit_vector, which is 0 to 2'),
    ('', '', "process begin report integer'image(null); wait; end process;", "'null' is an access value, but integer is needed here"),
    ('', 'signal b : bit;', "b <= '1' after 3 nsec;", "'nsec' is no unit; did you mean 'sec'?"),
    ('', 'signal n : integer;', 'n <= integer(1, 2);', 'a conversion to integer takes one value'),
    ('', 'signal v : unsigned(3 downto 0);', 'v <= unsigned("0101");', "the type of what is converted has to be clear; write unsigned'(...) to say of which type"),
    ('', 'signal n : integer;', 'n <= 1 to 3;', "';' expected after the assignment, found 'to'"),
    ('', 'signal n : integer;', 'n <= open;', "'open' can't stand here"),
    ('', 'signal n : integer(3 downto 0);', '', "integer is no array; a scalar is constrained with 'range'"),
    ('', 'subtype b4 is bit_vector(3 downto 0); signal n : b4(1 downto 0);', '', 'b4 has its bounds already'),
    ('', 'signal n : bit_vector(3 downto 0, 1 downto 0);', '', 'bit_vector has 1 dimensions, 2 are given'),
    ('', "signal n : bit_vector(3 downto '0');", '', "natural is needed here; '0' is std_ulogic or bit or character"),
    ('', 'signal n : bit_vector(3);', '', "a range such as '7 downto 0', or a type with one, should stand here"),
    ('', 'function f(x : integer) return integer is begin return x; end; function f(y : integer) return integer is begin return y; end;', '', "'f' with these parameters is declared twice"),
    ('package pk is function f(x : integer) return integer; end; package body pk is function f(y : integer) return integer is begin return y; end; end;\n', '', '', "the parameter 'y' is named 'x'"),
    ('package pk is procedure f(x : in integer); end; package body pk is procedure f(x : inout integer) is begin end; end;\n', '', '', "the parameter 'x' has the mode 'inout' here, but 'in'"),
    ('', 'function g is new nothing generic map (integer);', '', "'nothing' is not declared"),
    ('', 'function s generic (type item) parameter (a : item) return item is begin return a; end function; function g is new s;', '', "the generic type 'item' of s needs a type"),
    ('', 'type p is protected body end protected body;', '', "there is no protected type 'p' that this could be the body of"),
    ('', 'type p is protected procedure x; end protected; shared variable v : p;', '', "the protected type 'p' has no body yet; its body has to come before this variable"),
    ('', 'type w is range 0 to 10 units a; b = 3 c; end units;', '', 'a unit is a multiple of one declared before it'),
    ('', 'type e is (one, two, one);', '', 'one is a value of e already (5.2.2.1)'),
    ('', 'type e is (one, two, three); signal s : e; signal n : integer;', 'process(s) begin case s is when one => n <= 1; when two => n <= 2; end case; end process;', "the choices leave out three; add them or 'when others'"),
    ('', 'type e is (one, two); signal s : e; signal n : integer;', 'process(s) begin case s is when one => n <= 1; when one => n <= 2; when two => null; end case; end process;', 'one is chosen twice'),
    ('', '', 'process begin exit; wait; end process;', "'exit' stands in no loop"),
    ('', '', 'process begin return 3; end process;', "'return' stands only in a function or procedure"),
    ('', 'constant c : integer := 1;', 'process begin c := 2; wait; end process;', "'c' is a constant: it can't be changed"),
    ('', 'signal s : bit;', "process begin s := '1'; wait; end process;", "'s' is a signal: it is assigned with '<=', not ':='"),
    ('', '', "process variable v : bit; begin v <= '1'; wait; end process;", "'v' is a variable: it is assigned with ':=', not '<='"),
    ('', '', 'process begin for k in 0 to 3 loop k := 2; end loop; wait; end process;', "'k' is the variable of a loop: it can't be changed"),
    ('', 'function f return integer is begin wait; return 1; end;', '', "a function can't wait"),
    ('', 'signal s : bit;', 'process(s) begin wait; end process;', "a process with a sensitivity list can't contain a wait statement"),
    ('', 'signal s : bit; signal n : integer;', "n <= s'length;", "'length needs an array, or a type with a range (16.2)"),
    ('', 'signal v : std_logic_vector(7 downto 0);', 'v <= "0101";', 'the value has 4 elements, but the length of std_logic_vector is 8 here'),
    ('', 'signal v : std_logic_vector(7 downto 0);', 'v <= v + 1;', "no '+' takes std_logic_vector and an integer literal; convert the vector with"),
    ('', 'signal a, b : std_logic;', 'process(a) begin b = a; end process;', "'=' compares; a variable is assigned with ':=', a signal with '<='"),
    ('', 'signal a, b : std_logic;', "process(a) begin if a = '1' then b <= a; else if a = '0' then b <= '0'; end if; end process;", "'end if;' expected for the 'if' of line 11, found 'end process'; 'else if' begins an 'if'"),
    ('', 'signal a : std_logic;', "a <= '2';", "'2' is no value of std_logic"),
    ('', 'signal a : std_logic;', 'a <= "1";', 'std_logic is needed here; this is a string literal'),
    ('', 'signal a : std_logic_vector(1 downto 0);', "a <= '1';", "std_logic_vector is needed here; '1' is std_ulogic or bit or character"),
    ('', 'signal a, b : std_logic;', "with b select a <= '1' when '0', '0' when '1';", "the choices leave out 'U', 'X', 'Z', 'W', ...; add them or 'when others'"),
]  # fmt: skip


@pytest.mark.parametrize(("units", "declarations", "statements", "said"), ROWS, ids=[row[3][:40] for row in ROWS])
def test_misuse(units: str, declarations: str, statements: str, said: str, tmp_path: Path) -> None:
    path = tmp_path / "t.vhd"
    path.write_text(
        f"{CONTEXT}{units}{CONTEXT}entity t is end;\narchitecture a of t is\n{declarations}\nbegin\n{statements}\nend;\n"
    )
    analysis = analyse([path])
    assert analysis.elaborate("t") is None
    errors = [d.message for d in analysis.diagnostics.sorted() if d.severity == "error"]
    assert said in errors[0]
    assert len(errors) == (2 if "formal port stands left" in said else 1), errors
