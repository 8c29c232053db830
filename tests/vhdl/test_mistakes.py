"""Mistakes as people make them in VHDL: each is told once, at its line, by what is wrong. `>>` marks the line, the code stands behind."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse
from mevrik.lang.findings import look
from tests.vhdl.rows import Run, notes

HEAD = "library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;\n"
SIGNALS = "signal s, t : std_logic; signal v : std_logic_vector(3 downto 0); signal u : unsigned(3 downto 0); signal i : integer;\n"


def inside(declarations: str, statements: str) -> str:
    return f"entity e is end;\narchitecture a of e is\n{declarations}\nbegin\n{statements}\nend;\n"


def process(statements: str, declarations: str = "") -> str:
    return inside(SIGNALS + declarations, f"process\nbegin\n{statements}\nwait;\nend process;")


MISTAKES = {
    "a signal that is assigned like a variable, twice": (process("if i = 1 then\n>>s := '1';\nelse\ns := '0';\nend if;"), "assignment"),
    "no use of textio": ("entity e is end;\narchitecture a of e is\nbegin\nprocess\n>>variable l : line;\nbegin\nwrite(l, 1);\nwriteline(output, l);\nwait;\nend process;\nend;", "undeclared"),
    "a port that the entity lacks, connected twice": (
        "entity k is port (a : in bit); end;\narchitecture r of k is begin end;\n"
        + inside("signal s : bit;", ">>u : entity work.k port map (a => s, b => s);\nv : entity work.k port map (a => s, b => s);"), "port"),
    "begin twice in a function": (
        inside("function f(k : integer) return integer is\nbegin\n>>begin\nreturn k;\nend function;\nsignal q : integer;", "q <= f(1);"), "syntax"),
    "a negative time to wait for": (process(">>wait for -3 ns;"), "delay"),
    "elseif": (process("if i = 1 then\ns <= '1';\n>>elseif i = 2 then\ncase i is\nwhen 2 => s <= '0';\nwhen others => null;\nend case;\nelse\ns <= 'Z';\nend if;"), "syntax"),
    "a colon behind a choice": (process("case i is\n>>when 1 : s <= '1';\nwhen 2 => if s = '1' then t <= '1'; end if;\nwhen others => null;\nend case;"), "syntax"),
    "arithmetic with a vector in an argument": (process(">>i <= to_integer(v + 1);"), "no-operator"),
    "no type of a port of a component": (
        inside("component k is\nport (\n>>n : in ;\ny : out bit);\nend component;\nsignal a, b : bit;", "u : component k port map (a, b);"), "syntax"),
    "a misspelt begin": (inside("signal s : bit;", "process is\nvariable n : natural;\n>>bein\nn := 1;\ns <= '1';\nif n = 1 then\nwait;\nend if;\nend process;"), "syntax"),
    "a misspelt for": (process(">>fo k in 0 to 3 loop\ni <= k;\nt <= '1';\nend loop;\ns <= '0';"), "syntax"),
    "no in in a loop": (process(">>for k 0 to 3 loop\ni <= k;\nt <= '1';\nend loop;\ns <= '0';"), "syntax"),
    "an end without its word": (process("for k in 0 to 3 loop\ni <= k;\n>>loop;\nt <= '1';\ns <= '0';"), "syntax"),
    "no procedure before its name": (
        inside(">>show(n : in integer; v : in bit) is\nbegin\nreport integer'image(n);\nend procedure;\nsignal q : bit;", "q <= '1';\nprocess begin wait; end process;"), "syntax"),
    "no parenthesis behind parameters": (
        inside(">>function f(v : integer return integer is\nvariable n : integer := 0;\nbegin\nfor k in 0 to v loop\nn := n + k;\nend loop;\nreturn n;\nend function;\n"
               "signal q : integer;", "q <= f(1);"), "syntax"),
    "no parenthesis behind a sensitivity list": (
        inside(SIGNALS, ">>process (s, t\nvariable n : integer;\nbegin\nif s = '1' then\nn := 1;\ni <= n;\nend if;\nend process;\nv <= \"0000\";"), "syntax"),
    "a name used twice that nobody declared": (process(">>i <= coutn;\ni <= coutn + 1;"), "undeclared"),
    "no end before entity": ("entity e is\nport (a : in bit);\n>>entity e;\narchitecture r of e is\nsignal s : bit;\nbegin\ns <= a;\nend architecture r;\n", "syntax"),
    "a use of nothing, and calls of what it should have brought": (
        "library ieee; use ieee.std_logic_1164.all;\n>>use ieee.numeric_std.al;\n" + process("i <= to_integer(unsigned(v));\ni <= to_integer(u + 1);"), "undeclared"),
    "a mistake in a function that a constant needs": (
        inside("function f(k : integer) return string is begin\n>>return \"s\" & bit_vector'image(k); end;\nconstant c : string := f(3);",
               "process begin report c; wait; end process;"), "attribute"),
    "a function that never ends, before the run": (
        inside("function f(k : integer) return integer is begin return f(k + 1); end;\n>>signal v : bit_vector(1 to f(1));", ""), "evaluation"),
    "a value outside of its range, before the run": (
        inside("function f(k : integer) return positive is begin return k - 5; end;\n>>signal v : bit_vector(1 to f(1));", ""), "evaluation"),
    "a keyword as a name": (inside(">>signal bus : bit_vector(3 downto 0); signal b : bit;", "bus <= \"0001\";\nb <= bus(0) and bus(1);"), "syntax"),
    "a number without a unit": (inside("", "process\nbegin\n>>wait for 10;\nend process;"), "type"),
    "an else behind a semicolon": (inside("signal i : integer;", "i <= 1 when true;\n>>else 2;"), "syntax"),
    "the sum of a number and bits": (inside("signal i, k : integer;", ">>i <= k + \"01\";"), "no-operator"),
    "semicolon after last port": ("entity e is\nport (a : in std_logic;\n  b : out std_logic;\n>>);\nend;\narchitecture x of e is begin b <= a; end;", "syntax"),
    "= for <=": (process(">>s = '1';"), "syntax"),
    ":= for signal": (process(">>s := '1';"), "assignment"),
    "<= for variable": (inside("", "process\nvariable x : integer;\nbegin\n>>x <= 1;\nwait;\nend process;"), "assignment"),
    "string for char": (process(">>s <= \"1\";"), "type"),
    "char for vector": (process(">>v <= '1';"), "type"),
    "wrong length": (process(">>v <= \"101\";"), "length"),
    "int to vector": (process(">>v <= 5;"), "type"),
    "vector plus int": (process(">>v <= v + 1;"), "no-operator"),
    "slv to unsigned": (process(">>u <= v;"), "type"),
    "endif": (process("if s = '1' then\nt <= '1';\n>>endif;"), "syntax"),
    "missing when others": (inside("signal v : std_logic_vector(1 downto 0); signal o : std_logic;", "process(v)\nbegin\n>>case v is\nwhen \"00\" => o <= '0';\nwhen \"01\" => o <= '1';\nend case;\nend process;"), "case-missing"),
    "choices of a matching case that overlap": (inside("signal v : std_logic_vector(1 downto 0); signal o : std_logic;", "process(all)\nbegin\ncase? v is\nwhen \"1-\" => o <= '0';\n>>when \"-H\" => o <= '1';\nwhen others => o <= 'Z';\nend case?;\nend process;"), "case-overlap"),
    "a matching case of whole numbers": (inside("signal i : integer; signal o : std_logic;", "process(all)\nbegin\n>>case? i is\nwhen 1 => o <= '0';\nwhen others => o <= 'Z';\nend case?;\nend process;"), "case"),
    "a choice of a matching case too short": (inside("signal v : std_logic_vector(1 downto 0); signal o : std_logic;", "process(all)\nbegin\ncase? v is\n>>when \"-\" => o <= '0';\nwhen others => o <= 'Z';\nend case?;\nend process;"), "case-length"),
    "choices of a matching selection that overlap": (inside("signal v : std_logic_vector(1 downto 0); signal o : std_logic;", "with v select?\no <= '0' when \"0-\",\n>>'1' when \"1-\" | \"00\",\n'Z' when others;"), "case-overlap"),
    "a qualified number outside of its type": (inside("subtype small is integer range 0 to 9; signal i : integer;", ">>i <= small'(10);"), "range"),
    "a qualified text of another length": (inside("subtype nibble is bit_vector(3 downto 0); signal b : bit_vector(1 to 5);", ">>b <= nibble'(\"10101\");"), "length"),
    "a place behind a name": (inside("signal s : boolean; function f(x, y : bit) return boolean is begin return x = y; end;", ">>s <= f(x => '0', '1');"), "positional"),
    "a literal twice": (inside(">>type lamp is (red, green, RED);", ""), "declared-twice"),
    "delays that go back": (inside("signal s : bit;", ">>s <= '1' after 2 ns, '0' after 1 ns;"), "delay"),
    "a pure function that reads a signal": (inside("signal s : integer;\nfunction f return integer is begin\n>>return s + 1; end;", "process begin report integer'image(f); wait; end process;"), "impure"),
    "a procedure of a pure function that writes a variable": (
        inside("", "process\nvariable n : integer := 0;\nfunction f return integer is\nprocedure count is begin\n>>n := n + 1;\nend;\nbegin count; return 1; end;\nbegin wait; end process;"), "impure"),
    "a pure function that calls an impure one": (
        inside("impure function dice return integer is begin return 4; end;\nfunction f return integer is begin\n>>return dice; end;", ""), "impure"),
    "a function without a body": (inside(">>function f return integer;\nconstant c : integer := 3;", ""), "no-body"),
    "a body with other parameters": (inside("procedure p(x : integer) is begin end;\n>>procedure q(x : integer);\nprocedure q(x : real) is begin end;", ""), "no-body"),
    "a package in an architecture without its body": (inside("package p is\n>>function f return integer;\nend package;", ""), "no-body"),
    "a deferred constant that stays without a value": (
        "package p is\n>>constant c : integer;\nend;\npackage body p is end;\nuse work.p.all;\n" + inside("", ""), "deferred"),
    "a resolution function of one value": (
        inside("function r(x : bit) return bit is begin return x; end;\n>>subtype rb is r bit;", ""), "resolution"),
    "the range of a number": (process(">>for k in i'range loop null; end loop;"), "attribute"),
    "a choice that only the run knows": (process("case i is\n>>when k => null;\nwhen others => null;\nend case;", "signal k : integer;"), "not-static"),
    "a choice that depends on a parameter": (
        inside("function f(k : integer) return integer is begin\ncase k is\n>>when k => return 1;\nwhen others => return 2;\nend case;\nend;", ""), "not-static"),
    "a type that is never defined": (inside(">>type cell;\ntype link is access cell;", ""), "incomplete"),
    "files in a record": (inside("type log is file of bit;\n>>type desk is record a : log; end record;", ""), "element"),
    "a default of an output parameter": (inside(">>procedure p(x : out integer := 3) is begin end;", ""), "parameter"),
    "a protected type as a constant": (
        inside("type p is protected end protected; type p is protected body end protected body;\n>>procedure q(x : p) is begin end;", ""), "parameter"),
    "a method without a body": (
        inside("type p is protected\n>>procedure x;\nend protected;\ntype p is protected body end protected body;", ""), "no-body"),
    "a target twice": (inside("signal s : bit;", ">>(s, s) <= bit_vector'(\"10\");"), "target"),
    "a variable as a target twice": (inside("", "process\nvariable v : bit;\nbegin\n>>(v, v) := bit_vector'(\"10\");\nwait;\nend process;"), "target"),
    "two underlines": (inside(">>signal low__gate : bit;", ""), "underline"),
    "an underline at the end": (inside(">>signal gate_ : bit;", ""), "underline"),
    "an underline at the end of a number": (inside(">>constant c : integer := 12_;", ""), "underline"),
    "a number and its unit grown together": (inside(">>constant c : time := 12ns;", ""), "separator"),
    "a part of a port": (
        "entity c is port (n : in bit_vector(1 downto 0)); end;\narchitecture x of c is begin end;\n"
        + inside("signal s : bit;", ">>u : entity work.c port map (n(0) => s);"), "port"),
    "a part of a port left open": (
        "entity c is port (n : out bit_vector(1 downto 0)); end;\narchitecture x of c is begin end;\n"
        + inside("signal s : bit;", ">>u : entity work.c port map (n(0) => s, n(1) => open);"), "port"),
    "a configuration of nothing": (">>configuration c of sluice is for a end for; end;\n" + inside("", ""), "unknown-entity"),
    "an attribute of nothing": (inside("attribute keep : boolean;\n>>attribute keep of sluice : signal is true;", ""), "undeclared"),
    "an attribute of another class": (inside("attribute keep : boolean; signal s : bit;\n>>attribute keep of s : variable is true;", ""), "attribute"),
    "a disconnection of a plain signal": (inside("signal s : bit;\n>>disconnect s : bit after 1 ns;", ""), "guard"),
    "the conjunction of two lengths": (
        inside("signal x : bit_vector(3 downto 0); signal y : bit_vector(4 downto 0); signal z : bit_vector(3 downto 0);", ">>z <= x and y;"), "length"),
    "a number converted to a vector": (inside("signal u : unsigned(3 downto 0);", ">>u <= unsigned(5);"), "conversion"),
    "duplicate choice": (inside("signal v : bit; signal o : std_logic;", "process(v)\nbegin\ncase v is\nwhen '0' => o <= '0';\n>>when '0' => o <= '1';\nwhen others => null;\nend case;\nend process;"), "case-twice"),
    "missing use": ("entity e2 is end;\narchitecture a of e2 is\nsignal x : integer;\nbegin\nprocess\n>>variable l : line;\nbegin\nwait;\nend process;\nend;", "undeclared"),
    "unknown signal": (process(">>ss <= '1';"), "undeclared"),
    "unknown type": (inside(">>signal x : std_logic_vectr(3 downto 0);", ""), "undeclared"),
    "input assigned": ("entity e is port (i : in std_logic); end;\narchitecture a of e is\nbegin\n>>i <= '1';\nend;", "mode-in"),
    "entity missing": (inside("signal s : std_logic;", ">>u : entity work.nothere port map (s);"), "undeclared"),
    "component unbound": (inside("component nowhere port (a : in std_logic); end component; signal s : std_logic;", ">>u : nowhere port map (s);"), "unbound"),
    "wait in sensitivity process": (inside("signal s : std_logic;", "process(s)\nbegin\n>>wait for 1 ns;\nend process;"), "wait"),
    "process without wait": (inside("signal s : std_logic;", ">>process\nbegin\ns <= '1';\nend process;"), "never-waits"),
    "signal in process": (inside("", "process\n>>signal x : integer;\nbegin\nwait;\nend process;"), "signal"),
    "if in architecture": (inside("signal s, t : std_logic;", ">>if s = '1' then t <= '1'; end if;"), "syntax"),
    "variable in architecture": (inside(">>variable x : integer;", ""), "variable"),
    "end process name": (inside("signal s : std_logic;", "p : process\nbegin\nwait;\n>>end process q;"), "end-name"),
    "end entity name": ("entity e is\n>>end entity f;\narchitecture a of e is begin end;", "end-name"),
    "arch of missing entity": (">>architecture a of nothing is begin end;", "unknown-entity"),
    "range int": (inside(">>signal x : integer range 0 to 3 := 5;", ""), "range"),
    "enum literal": (inside("type t is (red, green); signal x : t;", "process\nbegin\n>>x <= blue;\nwait;\nend process;"), "undeclared"),
    "bool to std_logic": (process(">>s <= i = 3;"), "no-operator"),
    "std_logic as condition": (inside("signal n : natural;", "process\nbegin\n>>if n then null; end if;\nwait;\nend process;"), "condition"),
    "function wrong args": (process(">>i <= f(1, 2);", "function f(x : integer) return integer is begin return x; end;"), "no-overload"),
    "function wrong type": (process(">>i <= f('1');", "function f(x : integer) return integer is begin return x; end;"), "no-overload"),
    "proc missing": (process(">>doit(1);"), "undeclared"),
    "downto vs to": (inside(">>signal v : std_logic_vector(0 downto 7) := (others => '0'); constant c : std_logic_vector(3 downto 0) := \"0000\";", ""), "null-range"),
    "slice direction": (process(">>v <= v(0 to 3);"), "slice-direction"),
    "index out": (process(">>s <= v(4);"), "index-range"),
    "aggregate": (inside(">>constant c : std_logic_vector(3 downto 0) := (0 => '1', 1 => '0');", ""), "aggregate-length"),
    "record field": (inside("type r is record a, b : integer; end record; signal x : r;", "process\nbegin\n>>x.c <= 1;\nwait;\nend process;"), "undeclared"),
    "attribute unknown": (process(">>i <= v'size;"), "attribute"),
    "paren": (process(">>s <= (t and '1';"), "syntax"),
    "quotes": (process(">>s <= '1;"), "syntax"),
    "unclosed string": (process(">>report \"hello;"), "syntax"),
    "keyword name": (inside(">>signal in : std_logic;", ""), "syntax"),
    "and or mix": (process(">>s <= t and '1' or '0';"), "syntax"),
    "begin missing": ("entity e is end;\narchitecture a of e is\nsignal s : std_logic;\n>>s <= '1';\nend;", "begin-missing"),
    "end missing": ("entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\nwait;\n>>end;", "end-missing"),
    "after without unit": (process(">>s <= '1' after 10;"), "type"),
    "wait for int": (process(">>wait for 10;"), "type"),
    "two drivers int": (inside("signal i : integer;", "i <= 1;\n>>i <= 2;"), "drivers"),
    "a clock that nobody starts": (inside(">>signal clk : std_logic;\nsignal ok : std_logic := '0';", "clk <= not clk after 5 ns; ok <= not ok after 5 ns;"), "never-starts"),
    "beside one that a procedure starts": (
        inside(">>signal clk : std_logic;\nsignal ok : std_logic; procedure start(signal s : out std_logic) is begin s <= '0'; end;",
               "clk <= not clk after 5 ns; process begin start(ok); wait for 1 ns; loop ok <= not ok; wait for 5 ns; end loop; end process;"), "never-starts"),
    "latch": (inside("signal a, b, q : std_logic;", "process(a, b)\nbegin\n>>if a = '1' then q <= b; end if;\nend process;"), "latch"),
    "body missing": ("package p is\n>>function f return integer;\nend;\nentity e is end;\narchitecture a of e is\nsignal i : integer := work.p.f;\nbegin\n\nend;\n", "no-body"),
    "body different": ("package p is function f(x : integer) return integer; end;\npackage body p is\n>>function f(x : natural) return integer is begin return 1; end;\nend;\nentity e is end;\narchitecture a of e is\n\nbegin\n\nend;\n", "conformance"),
    "duplicate": (inside("signal s : std_logic;\n>>signal s : std_logic;", ""), "declared-twice"),
    "loop var assigned": (process("for k in 0 to 3 loop\n>>k := 1;\nend loop;"), "read-only"),
    "exit outside": (process(">>exit;"), "loop"),
    "return in process": (process(">>return;"), "return"),
    "constant assigned": (inside("constant c : integer := 1;", "process\nbegin\n>>c := 2;\nwait;\nend process;"), "read-only"),
    "unsigned literal": (process(">>u <= 16;"), "type"),
    "to_unsigned": (process(">>v <= to_unsigned(3, 4);"), "type"),
    "rising_edge int": (process(">>if rising_edge(v) then null; end if;"), "no-overload"),
    "wrong library": ("library foo;\n>>use ieee.std_logic_1165.all;\nentity e is end;\narchitecture a of e is begin end;", "undeclared"),
    "an unknown type in a port": ("entity e is\n>>port (a : in std_logik; y : out bit);\nend;\narchitecture x of e is begin y <= '1' when a = '1'; end;", "undeclared"),
    "commas between ports": ("entity e is port (\n>>a : in bit, y : out bit);\nend;\narchitecture x of e is begin y <= a; end;", "syntax"),
    "a mode of another language": ("entity e is port (\n>>y : output bit);\nend;\narchitecture x of e is begin y <= '1'; end;", "syntax"),
    "a range in brackets": ("entity e is port (\n>>y : out bit_vector[3 downto 0]);\nend;\narchitecture x of e is begin end;", "syntax"),
    "= for <= outside of a process": (inside("signal a, y : bit;", ">>y = a;"), "syntax"),
    "no else between two values": (inside("signal a, y : bit;", ">>y <= '1' when a = '1' '0';"), "syntax"),
    "text and a number": (process(">>report \"i = \" & i;"), "no-operator"),
    "a whole number and a real one": (inside(">>constant c : real := 4.0 + 1;", ""), "no-operator"),
    "no loop behind the head of a loop": (process("for k in v'range\n>>s <= v(k);\nend loop;"), "syntax"),
}  # fmt: skip


@pytest.mark.parametrize("what", MISTAKES)
def test_a_mistake(what: str, tmp_path: Path) -> None:
    text, code = MISTAKES[what]
    text = HEAD + text
    wanted = [(k + 1, code) for k, line in enumerate(text.splitlines()) if line.startswith(">>")]
    path = tmp_path / "m.vhd"
    path.write_text(text.replace(">>", ""))
    analysis = analyse([path])
    design = analysis.elaborate()
    if design is not None:
        look(design, analysis.diagnostics)
    found = analysis.diagnostics.sorted()
    assert [(d.place.line, d.code) for d in found] == wanted, [d.headline() for d in found]


def test_names_in_messages(tmp_path: Path) -> None:
    """Types have the names that people write; what nobody can mean is not offered."""
    path = tmp_path / "e.vhd"
    path.write_text(HEAD + inside("signal i : integer;", 'i <= i + "01";\nprocess (clk) begin i <= 2; end process;'))
    analysis = analyse([path])
    analysis.elaborate("e")
    sum_, clock = (d.message for d in analysis.diagnostics.sorted())
    assert "unsigned" in sum_ and "unresolved" not in sum_
    assert clock == "'clk' is not declared"


def test_what_goes_wrong_before_the_run_ends_no_process(simulate: Run) -> None:
    """Constants are computed by compiled code, in which a range or an index may be violated and a function may call itself without end."""
    for function, said in (
        ("return f(k + 1) & 'x';", "calls itself without end"),
        ("variable v : string(1 to 3) := (others => 'a'); begin return v & v(k);", "index 9"),
    ):
        begin = "" if "begin" in function else "begin "
        text = f"""entity tb is end; architecture a of tb is function f(k : integer) return string is {begin}{function} end;
          constant d : string := f(9); begin process begin report d; wait; end process; end;"""
        done = simulate(text, suffix=".vhd")
        assert said in done.err and "program.vhd:2:" in done.err and "SIGSEGV" not in done.err, done.err


def test_a_missing_use_clause_is_told_once(tmp_path: Path) -> None:
    """... not at each name that it would make visible, and what the broken declarations should have declared is no mistake."""
    text = "entity {0} is port (a : in std_logic; b : in std_logic; y : out std_logic); end;\narchitecture r of {0} is\nsignal t : std_logic;\nbegin y <= a; end;\n"
    path = tmp_path / "m.vhd"
    path.write_text(text.format("one") + "entity top is end; architecture r of top is begin u : entity work.one; end;")
    analysis = analyse([path])
    analysis.elaborate("top")
    found = [d.headline() for d in analysis.diagnostics.items]
    assert len(found) == 1 and "use ieee.std_logic_1164.all" in found[0], found


@pytest.mark.parametrize(
    "declaration, line, what",
    [
        ("signal z : integer range 0 to 7 := f(9);", 4, "the value 9 is outside of integer, whose range is 0 to 7"),
        ("constant c : integer := 3 / f(0);", 4, "division by zero"),
        ("constant c : integer range 0 to 3 := f(4);\nsignal s : integer := c;", 4, "outside of integer"),
    ],
)
def test_a_first_value_that_can_not_be(declaration: str, line: int, what: str, simulate: Run) -> None:
    """The run stops with the declaration that asks for it."""
    head = "entity tb is end;\narchitecture r of tb is\nfunction f(x : integer) return integer is begin return x; end;\n"
    done = simulate(f"{head}{declaration}\nbegin\nend;\n", suffix=".vhd")
    assert f":{line}:" in done.err and what in done.err


def test_what_a_pure_function_may_use(simulate: Run) -> None:
    """4.3: constants of outside, its own variables also from its procedures, the lengths of signals, and impure functions within it."""
    text = inside(
        """signal s : bit_vector(6 downto 0); constant k : integer := 2;
        function f(x : integer) return integer is
          variable n : integer := k;
          impure function next_one return integer is begin n := n + 1; return n; end;
          procedure twice is begin n := 2 * n; end;
        begin
          twice; for i in s'range loop n := n + 1; end loop;
          return next_one + x + s'length;
        end;""",
        "process begin report integer'image(f(1)); wait; end process;",
    )
    done = simulate(text, suffix=".vhd")
    assert notes(done.err) == ["20"], done.err
