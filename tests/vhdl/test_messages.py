"""What is said about VHDL sources: at the right line, once, with the remedy."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse
from mevrik.lang.diagnostics import Diagnostic
from tests.conftest import mevrik

HEAD = "library ieee;\nuse ieee.std_logic_1164.all;\nuse ieee.numeric_std.all;\n"


def said(tmp_path: Path, text: str) -> list[Diagnostic]:
    path = tmp_path / "x.vhd"
    path.write_text(text)
    analysis = analyse([path])
    if not analysis.diagnostics.failed:
        analysis.elaborate("tb")
    return analysis.diagnostics.sorted()


def in_process(declarations: str, statement: str) -> str:
    return f"{HEAD}entity tb is end;\narchitecture a of tb is\n{declarations}\nbegin\n  process\n  begin\n    {statement}\n    wait;\n  end process;\nend;\n"


ONE_EACH = [
    ("  signal s : integer;", "s := 1;", "'s' is a signal: it is assigned with '<=', not ':='"),
    ("", "x <= '1';", "'x' is not declared"),
    ("  signal count : integer;", "cuont <= 1;", "did you mean 'count'?"),
    ("  signal v : std_logic_vector(3 downto 0);", "v <= v + 1;", "unsigned(...) or signed(...) of ieee.numeric_std"),
    ("  signal v : std_logic_vector(3 downto 0);", 'v <= "00000";', "the value has 5 elements"),
    ("  signal b : boolean;", "b <= 1;", "boolean is needed here; this is an integer literal"),
    ("  constant c : integer := 1;", "c := 2;", "'c' is a constant: it can't be changed"),
    ("  signal u : unsigned(3 downto 0);", "u(4) <= '1';", "index 4 is outside of 'u', which is 3 downto 0"),
    ("  signal u : unsigned(3 downto 0);", 'u(0 to 1) <= "11";', "a slice of it is written with 'downto', not 'to'"),
    ("  type t is (a1, b1, c1);\n  signal s : t;", "case s is when a1 => null; when b1 => null; end case;", "the choices leave out c1"),
    ("  type t is (a1, b1);\n  signal s : t;", "case s is when a1 | a1 => null; when b1 => null; end case;", "a1 is chosen twice"),
    ("  procedure p(n : integer) is begin null; end;", "p(true);", "'n' is of type integer, the argument is boolean"),
    ("", "exit;", "'exit' stands in no loop"),
    ("  signal s : natural range 0 to 7 := 9;", "s <= 1;", "9 is outside of natural, whose range is 0 to 7 here"),
    ("  type r is record height : integer; end record;\n  signal s : r;", "s.hieght <= 1;", "has no element 'hieght'; did you mean 'height'?"),
    ("", "if 1 then null; end if;", "a condition is a boolean"),
    ("  signal s : std_logic;", "s <= '2';", "'2' is no value of std_logic"),
]  # fmt: skip


@pytest.mark.parametrize(("declarations", "statement", "words"), ONE_EACH)
def test_one_mistake_one_message(tmp_path: Path, declarations: str, statement: str, words: str) -> None:
    found = [d for d in said(tmp_path, in_process(declarations, statement)) if d.severity == "error"]
    assert len(found) == 1, [d.headline() for d in found]
    assert words in found[0].message, found[0].message


def test_a_missing_use_clause_is_named(tmp_path: Path) -> None:
    found = said(tmp_path, "entity tb is end;\narchitecture a of tb is\n  signal s : std_logic;\nbegin\nend;\n")
    assert [d.place.line for d in found] == [3]
    assert "add 'library ieee; use ieee.std_logic_1164.all;'" in found[0].message


def test_candidates_and_why_each_does_not_fit(tmp_path: Path) -> None:
    declarations = "  function f(n : integer) return integer is begin return n; end;\n  function f(b : boolean; c : integer) return integer is begin return c; end;\n  signal s : integer;"
    (found,) = said(tmp_path, in_process(declarations, "s <= f(1.5);"))
    assert "f(integer) return integer: 'n' is of type integer, the argument is a real literal" in found.message
    assert "f(boolean, integer) return integer: an argument is missing" in found.message


def test_two_drivers_of_an_unresolved_signal(tmp_path: Path) -> None:
    found = said(tmp_path, "entity tb is end;\narchitecture a of tb is\n  signal s : bit;\nbegin\n  s <= '1';\n  s <= '0';\nend;\n")
    assert [(d.code, d.place.line) for d in found] == [("drivers", 6)]
    assert "line 5" in found[0].message


def test_instances(tmp_path: Path) -> None:
    entity = "entity dev is generic (n : integer); port (clk : in bit; q : out bit); end;\narchitecture a of dev is\nbegin\n  q <= clk;\nend;\n"
    for instance, words in (
        ("u : entity work.dew generic map (1) port map (c, q);", "did you mean 'dev'?"),
        ("u : entity work.dev generic map (m => 1) port map (c, q);", "no generic 'm'"),
        ("u : entity work.dev port map (c, q);", "has no default: it needs a value"),
        ("u : entity work.dev generic map (1) port map (clock => c, q => q);", "no port 'clock'"),
        ("u : entity work.dev generic map (1) port map (q => q);", "the input 'clk' of entity 'dev' is connected to nothing"),
        ("u : entity work.dev generic map (1) port map (c, n);", "port 'q' of entity 'dev' is of type bit"),
    ):
        text = f"{entity}entity tb is end;\narchitecture a of tb is\n  signal c, q : bit;\n  signal n : integer;\nbegin\n  {instance}\nend;\n"
        found = said(tmp_path, text)
        assert len(found) == 1 and words in found[0].message and found[0].place.line == 11, (
            instance,
            [d.headline() for d in found],
        )


def test_what_is_not_supported_is_named(tmp_path: Path) -> None:
    found = said(tmp_path, f"library ieee;\nuse ieee.float_pkg.all;\n{HEAD}entity tb is end;\narchitecture a of tb is begin end;\n")
    assert [d.code for d in found] == ["unsupported"] and "float_pkg" in found[0].message


def test_arithmetic_that_is_no_standard_is_advised_against(tmp_path: Path) -> None:
    text = 'library ieee;\nuse ieee.std_logic_1164.all;\nuse ieee.std_logic_unsigned.all;\nentity tb is end;\narchitecture a of tb is\n  signal v : std_logic_vector(3 downto 0) := x"3";\nbegin\n  v <= v + 1 when v < 5;\nend;\n'
    found = said(tmp_path, text)
    assert [(d.severity, d.code, d.place.line) for d in found] == [("warning", "nonstandard-package", 3)]


def test_any_bytes_give_messages(tmp_path: Path) -> None:
    import random

    rng = random.Random(7)
    source = (Path(__file__).parent / "test_programs.py").read_text()
    for _ in range(25):
        at = rng.randrange(len(source) - 400)
        piece = list(source[at : at + 400])
        for _ in range(12):
            piece[rng.randrange(len(piece))] = chr(rng.choice([10, 32, 34, 39, 40, 41, 59, 60, 61, 97, 200]))
        said(tmp_path, HEAD + "entity tb is end;\narchitecture a of tb is\n" + "".join(piece))


def test_generics_from_the_command_line(tmp_path: Path) -> None:
    """--param gives a top's generic a number, a string's content, or any expression of its type."""
    source = tmp_path / "sluice.vhd"
    source.write_text(
        "entity sluice is\n  generic (name : string; wait_for : time; fine : boolean; level : real; bits : bit_vector(3 downto 0));\n"
        "end entity;\narchitecture sim of sluice is\nbegin\n  process\n  begin\n"
        '    report name & " " & boolean\'image(fine and level = 2.5 and wait_for = 3 us) & " " & to_string(bits);\n    wait;\n'
        "  end process;\nend architecture;\n"
    )
    given = [("name", "Tarnwick gate"), ("wait_for", "3 us"), ("fine", "true"), ("level", "2.5"), ("bits", 'x"a"')]
    done = mevrik("run", source, *(part for k, v in given for part in ("--param", f"{k}={v}")))
    assert done.status == 0 and "Tarnwick gate true 1010" in done.out + done.err
    done = mevrik("run", source, *(part for k, v in given for part in ("--param", f"{k}={v.replace('true', 'tru')}")))
    assert done.status == 2 and "generic 'fine'" in done.err and "did you mean 'true'" in done.err


@pytest.mark.parametrize(
    ("clause", "named"),
    [
        ("library ieee; use ieee.float_pkg.all;", "ieee.float_pkg is not supported yet"),
        ("use work.sizes_of_gates.all;", "there is no design unit 'sizes_of_gates'"),
        ("use ieee.std_logic_1164.all;", "add 'library ieee;'"),
    ],
)
def test_a_wrong_use_clause_is_the_one_mistake(tmp_path: Path, clause: str, named: str) -> None:
    text = f"{clause}\nentity tb is end;\narchitecture a of tb is\n  signal s : depth_type;\nbegin\n  s <= deepest;\nend;\n"
    found = said(tmp_path, text)
    assert [(d.severity, d.place.line) for d in found] == [("error", 1)]
    assert named in found[0].message


def test_what_a_package_says_belongs_to_the_statement_that_called_it(tmp_path: Path) -> None:
    source = tmp_path / "x.vhd"
    source.write_text(
        HEAD + "entity tb is end entity;\narchitecture sim of tb is\n  signal a : unsigned(3 downto 0);\n"
        "  function level(x : unsigned) return integer is\n  begin\n    return to_integer(x);\n  end function;\nbegin\n"
        "  process\n    variable n : integer;\n  begin\n    n := 1;\n    n := level(a);\n    report to_string(to_unsigned(3, 4) / to_unsigned(n, 4));\n"
        "    wait;\n  end process;\nend architecture;\n"
    )
    done = mevrik("run", source)
    assert done.status == 1
    assert f"{source}:9:5: warning: NUMERIC_STD.TO_INTEGER: metavalue detected, returning 0" in done.err
    assert f"{source}:17:5: error: NUMERIC_STD.DIVMOD: DIV, MOD, or REM by zero" in done.err


LOGIC = (
    HEAD + "entity tb is\n  port (clk, rst, d, e : in std_logic; q, r : out std_logic);\nend entity;\n"
    "architecture rtl of tb is\n  signal s : std_logic;\n  impure function shut return std_logic is begin return s; end function;\nbegin\n"
    "%s\nend architecture;\n"
)


@pytest.mark.parametrize(
    ("body", "line", "code", "named"),
    [
        ("  process (d) begin q <= d and e; end process;", 11, "sensitivity", "'e'"),
        ("  process (clk) begin if rst = '1' then q <= '0'; elsif rising_edge(clk) then q <= d; end if; end process;", 11, "sensitivity", "'rst'"),
        ("  s <= d;\n  q <= e and shut;", 12, "sensitivity", "'s'"),
        ("  process (d, e)\n  begin\n    if e = '1' then\n      q <= d;\n    end if;\n  end process;", 14, "latch", "'q'"),
        ("  q <= d;\n  q <= e;", 12, "drivers", "'q'"),
        ("  q <= to_x01(d);\n  q <= to_x01(e);", 12, "drivers", "'q'"),
    ],
)  # fmt: skip
def test_findings_about_logic(tmp_path: Path, body: str, line: int, code: str, named: str) -> None:
    found = [d for d in said(tmp_path, LOGIC % body) if d.code in ("sensitivity", "latch", "drivers")]
    assert [(d.code, d.place.line) for d in found] == [(code, line)]
    assert named in found[0].message


@pytest.mark.parametrize(
    "body",
    [
        "  process (all) begin q <= d and e; end process;",
        "  process (clk, rst) begin if rst = '1' then q <= '0'; elsif rising_edge(clk) then if e = '1' then q <= d; end if; end if; end process;",
        "  process (d, e)\n  begin\n    q <= '0';\n    if e = '1' then\n      q <= d;\n    end if;\n  end process;",
        "  q <= d when e = '1' else 'Z';\n  q <= s when e = '0' else 'Z';",
        "  process (clk) begin report to_string(d); end process;",
        "  s <= '0' when e = '1' else 'Z';\n  q <= s;\n  q <= d when e = '0' else 'Z';\n  r <= s;\n  r <= s;",
        "  q <= 'H';\n  process is\n    procedure let_go is begin q <= 'Z'; wait until clk = '1'; end procedure;\n  begin\n    q <= '0';\n    wait until d = '1';\n    let_go;\n  end process;\n  q <= d when e = '0' else 'Z';",
        "  process (d) begin q <= d and e; end process; -- mevrik: allow sensitivity",
        "  b : block\n    function own(x : std_logic_vector) return std_ulogic is begin return or x; end function;\n    signal z : own std_ulogic;\n"
        "  begin\n    z <= d;\n    z <= e;\n  end block;",
    ],
)  # fmt: skip
def test_no_findings_where_all_is_well(tmp_path: Path, body: str) -> None:
    assert not [d.message for d in said(tmp_path, LOGIC % body) if d.code in ("sensitivity", "latch", "drivers")]


@pytest.mark.parametrize(
    ("body", "line", "named"),
    [
        ("  if d = '1' then\n    q <= d;\n  end if;", 11, "sequential"),
        ("  process (clk)\n  begin\n    if rising_edge(clk)\n      q <= d;\n    end if;\n  end process;", 13, "'then' expected"),
        ("  process (clk)\n  begin\n    if d == '1' then\n      q <= d;\n    end if;\n  end process;", 13, "single '='"),
        ("  process (clk)\n  begin\n    if d != '1' then\n      q <= d;\n    end if;\n  end process;", 13, "'/='"),
        ("  process (clk)\n  begin\n    if d = '1' && e = '1' then\n      q <= d;\n    end if;\n  end process;", 13, "'and'"),
        ("  process (clk)\n  begin\n    if d = '1' then\n      q <= d;\n    endif;\n  end process;", 15, "two words"),
        ("  process (clk)\n  begin\n    q <= d;\n  end;\n  s <= d;", 14, "'end process;'"),
        (
            "  process (clk)\n  begin\n    if d = '1' then\n      q <= d;\n    else if e = '1' then\n      q <= e;\n    end if;\n  end process;",
            18,
            "'elsif' does not",
        ),
        ("  q <= d;\n  signal z : std_logic;", 12, "before the 'begin'"),
    ],
)
def test_one_message_for_one_mistake(tmp_path: Path, body: str, line: int, named: str) -> None:
    found = said(tmp_path, LOGIC % body)
    assert [(d.severity, d.place.line) for d in found] == [("error", line)], [d.headline() for d in found]
    assert named in found[0].message


def test_a_port_of_the_wrong_type_is_the_one_mistake(tmp_path: Path) -> None:
    """What stands inside the instance and waits for the port is no second one."""
    text = """library ieee; use ieee.std_logic_1164.all;
    entity e is port (clk : in std_logic; q : out std_logic); end;
    architecture r of e is begin process (clk) begin if rising_edge(clk) then q <= '1'; end if; end process; end;
    library ieee; use ieee.std_logic_1164.all;
    entity tb is end;
    architecture t of tb is signal c : bit; signal v : std_logic; begin
      u : entity work.e port map (clk => c, q => v); end;"""
    assert [(d.code, d.place.line) for d in said(tmp_path, text) if d.severity == "error"] == [("type", 7)]


def test_a_call_before_the_body(tmp_path: Path) -> None:
    """14.4.2: a constant of a package body that is computed by a function whose body stands below it."""
    text = """package p is function f(x : integer) return integer; constant c : string; end;
    package body p is
      constant c : string := "v" & integer'image(f(7));
      function f(x : integer) return integer is begin return x; end;
    end;
    entity tb is end; architecture a of tb is begin assert false report work.p.c; end;"""
    (found,) = [d for d in said(tmp_path, text) if d.severity == "error"]
    assert (found.place.line, "'f' is called before its body" in found.message) == (3, True)
