"""What the standard forbids, clause by clause: one error, at its line (marked with `>>`), and nothing else (IEEE 1076-2008)."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse
from tests.vhdl.test_mistakes import HEAD

ROWS = [  # (clause, design units behind the context clause, code)
    ("10.2", "entity e is end;\narchitecture a of e is\nsignal s : bit;\nbegin\n>>process(s) begin wait for 1 ns; end process;\nend;", "wait"),
    ("11.3", "entity e is end;\narchitecture a of e is\nbegin\nprocess\n>>signal s : bit;\nbegin wait; end process;\nend;", "signal"),
    ("4.7", ">>package p is variable v : integer; end;\nentity e is end; architecture a of e is begin end;", "variable"),
    ("7.3.2", "entity c is port (b : in bit); end; architecture x of c is begin end;\n>>entity e is end; architecture a of e is component c port (a : in bit); end component; signal s : bit; begin u : c port map (s); end;", "port"),
    ("6.5.6.3", "entity c is port (b : inout bit); end; architecture x of c is begin end;\n>>entity e is port (q : in bit); end; architecture a of e is begin u : entity work.c port map (q); end;", "mode-in"),
    ("6.5.2", "entity e is port (a1 : in bit); end;\narchitecture a of e is\nbegin\n>>a1 <= '1';\nend;", "mode-in"),
    ("10.5.2", "entity e is end;\narchitecture a of e is\nsignal a1 : bit_vector(3 downto 0); signal b : bit_vector(4 downto 0);\nbegin\n>>a1 <= b;\nend;", "length"),
    ("8.5", "entity e is end;\narchitecture a of e is\nsignal a1 : bit_vector(3 downto 0); signal b : bit_vector(1 downto 0);\nbegin\n>>b <= a1(0 to 1);\nend;", "slice-direction"),
    ("8.5", "entity e is end;\narchitecture a of e is\nsignal a1 : bit_vector(3 downto 0); signal b : bit_vector(1 downto 0);\nbegin\n>>b <= a1(5 downto 4);\nend;", "index-range"),
    ("8.4", "entity e is end;\narchitecture a of e is\nsignal a1 : bit_vector(3 downto 0); signal b : bit;\nbegin\n>>b <= a1(4);\nend;", "index-range"),
    ("10.9", "entity e is end;\narchitecture a of e is\ntype t is (x,y,z); signal s : t;\nbegin\n>>process(s) begin case s is when x => null; when y => null; end case; end process;\nend;", "case-missing"),
    ("10.9", "entity e is end;\narchitecture a of e is\nsignal s : integer;\nbegin\n>>process(s) begin case s is when others => null; when 1 => null; end case; end process;\nend;", "case-others"),
    ("11.9", "entity e is end;\narchitecture a of e is\nsignal s : boolean;\nbegin\n>>g : if s generate begin end generate;\nend;", "not-static"),
    ("11.9", "entity e is end;\narchitecture a of e is\nsignal s : integer;\nbegin\n>>g : for i in 0 to s generate begin end generate;\nend;", "not-static"),
    ("11.9", "entity e is end;\narchitecture a of e is\nbegin\n>>for i in 0 to 1 generate begin end generate;\nend;", "label"),
    ("12.4", ">>use work.pp.all;\nentity e is end; architecture a of e is begin end;", "undeclared"),
    ("12.4", "package pk is constant k : integer := 1; end;\n>>use work.pk.kk;\nentity e is end; architecture a of e is begin end;", "undeclared"),
    ("13.2", ">>library abc; use abc.p.all;\nentity e is end; architecture a of e is begin end;", "undeclared"),
    ("7.2", "entity e is end;\narchitecture a of e is\n>>signal s : bit; attribute keep of s : signal is true;\nbegin\nend;", "attribute"),
    ("7.2", "entity e is end;\narchitecture a of e is\n>>attribute keep : boolean; signal s : bit; attribute keep of s : signal is 3;\nbegin\nend;", "type"),
    ("6.6.2", "entity e is end;\narchitecture a of e is\n>>signal s : bit_vector(3 downto 0); alias q : bit_vector(7 downto 0) is s;\nbegin\nend;", "length"),
    ("6.3", "entity e is end;\narchitecture a of e is\n>>subtype t is natural range -1 to 4;\nbegin\nend;", "range"),
    ("6.4.2.2", "entity e is end;\narchitecture a of e is\n>>subtype t is integer range 4 to 1; constant c : t := 2;\nbegin\nend;", "range"),
    ("6.4.2.2", "entity e is end;\narchitecture a of e is\n>>constant c : natural := -1;\nbegin\nend;", "range"),
    ("5.2.4", "entity e is end;\narchitecture a of e is\n>>type t is range 0 to 100 units u; ku = 10 u; ku = 20 u; end units;\nbegin\nend;", "declared-twice"),
    ("5.3.3", "entity e is end;\narchitecture a of e is\n>>type t is record a, b, a : bit; end record;\nbegin\nend;", "declared-twice"),
    ("5.3.2", "entity e is end;\narchitecture a of e is\n>>type t is array (0.0 to 1.0) of bit;\nbegin\nend;", "array"),
    ("6.4.2.3", "entity e is end;\narchitecture a of e is\n>>type t is access bit; signal s : t;\nbegin\nend;", "signal"),
    ("4.2.1", "entity e is end;\narchitecture a of e is\n>>function p(x : out integer) return bit is begin return '1'; end;\nbegin\nend;", "parameter"),
    ("10.13", "entity e is end;\narchitecture a of e is\n>>procedure p is begin return 3; end;\nbegin\nend;", "return"),
    ("10.13", "entity e is end;\narchitecture a of e is\n>>function p return integer is begin return; end;\nbegin\nend;", "return"),
    ("10.13", "entity e is end;\narchitecture a of e is\n>>function p return integer is begin return '1'; end;\nbegin\nend;", "type"),
    ("9.3.4", "entity e is end;\narchitecture a of e is\nprocedure p(x, y : integer) is begin end;\nbegin\nprocess\nbegin\n>>p(1);\nwait;\nend process;\nend;", "no-overload"),
    ("9.3.4", "entity e is end;\narchitecture a of e is\nprocedure p(x, y : integer) is begin end;\nbegin\nprocess\nbegin\n>>p(1, z => 2);\nwait;\nend process;\nend;", "no-overload"),
    ("9.3.4", "entity e is end;\narchitecture a of e is\nprocedure p(x, y : integer) is begin end;\nbegin\nprocess\nbegin\n>>p(1, x => 2);\nwait;\nend process;\nend;", "no-overload"),
    ("12.5", "entity e is end;\narchitecture a of e is\nfunction f(x : integer) return bit is begin return '1'; end; function f(x : integer) return boolean is begin return true; end;\nbegin\n>>process begin if f(1) = f(1) then null; end if; wait; end process;\nend;", "ambiguous"),
    ("12.5", "entity e is end;\narchitecture a of e is\ntype t1 is (a1,b1); type t2 is (a1,c1);\nbegin\n>>process begin report boolean'image(a1 = a1); wait; end process;\nend;", "ambiguous"),
    ("10.3", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>assert 1;\nwait;\nend process;\nend;", "condition"),
    ("10.4", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>report 1;\nwait;\nend process;\nend;", "type"),
    ("10.4", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>report \"a\" severity bad;\nwait;\nend process;\nend;", "undeclared"),
    ("10.2", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nvariable v : bit;\nbegin\n>>wait on v;\nwait;\nend process;\nend;", "wait"),
    ("10.2", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>wait for 3;\nwait;\nend process;\nend;", "type"),
    ("10.2", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>wait for '1';\nwait;\nend process;\nend;", "type"),
    ("10.10", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>while 1 loop null; end loop;\nwait;\nend process;\nend;", "condition"),
    ("10.12", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>loop exit when 1; end loop;\nwait;\nend process;\nend;", "condition"),
    ("10.12", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>l: loop exit m; end loop;\nwait;\nend process;\nend;", "loop"),
    ("10.10", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>l: loop exit; end loop k;\nwait;\nend process;\nend;", "end-name"),
    ("11.3", "entity e is end;\narchitecture a of e is\nbegin\n>>p : process begin wait; end process q;\nend;", "end-name"),
    ("3.3", ">>entity e is end; architecture a of e is begin end architecture b;", "end-name"),
    ("10.9", "entity e is end;\narchitecture a of e is\nsignal s : bit_vector(1 downto 0); signal q : bit;\nbegin\n>>with s select q <= '1' when \"00\", '0' when \"01\";\nend;", "case-missing"),
    ("6.5.2", "entity e is port (a1 : in bit); end;\narchitecture a of e is\nalias z : bit is a1;\nbegin\n>>z <= '1';\nend;", "mode-in"),
    ("10.5.2", "entity e is end;\narchitecture a of e is\nsignal s : bit_vector(3 downto 0);\nbegin\n>>s <= x\"1F\";\nend;", "length"),
    ("15.8", "entity e is end;\narchitecture a of e is\nsignal s : bit_vector(7 downto 0);\nbegin\n>>s <= x\"1G\";\nend;", "literal"),
    ("16.7", "entity e is end;\narchitecture a of e is\nsignal s : std_logic;\nbegin\n>>s <= 'Q';\nend;", "literal"),
    ("15.4.2", "entity e is end;\narchitecture a of e is\n>>signal _a : bit;\nbegin\nend;", "syntax"),
    ("15.5.2", "entity e is end;\narchitecture a of e is\n>>constant c : integer := 12e-1;\nbegin\nend;", "syntax"),
    ("5.2.3", "entity e is end;\narchitecture a of e is\n>>constant c : integer := 3000000000;\nbegin\nend;", "range"),
    ("9.2.7", "entity e is end;\narchitecture a of e is\n>>constant c : integer := 3 ns / 2;\nbegin\nend;", "no-operator"),
    ("9.2.7", "entity e is end;\narchitecture a of e is\n>>constant c : real := 3.0 mod 2.0;\nbegin\nend;", "no-operator"),
    ("9.2.4", "entity e is end;\narchitecture a of e is\n>>constant c : bit_vector(3 downto 0) := \"0001\" sll 1.0;\nbegin\nend;", "no-operator"),
    ("9.1", "entity e is end;\narchitecture a of e is\nsignal x,y,z,q : bit;\nbegin\n>>q <= x and y or z;\nend;", "syntax"),
    ("9.1", "entity e is end;\narchitecture a of e is\nsignal x,y,z,q : bit;\nbegin\n>>q <= x nand y nand z;\nend;", "syntax"),
    ("9.1", "entity e is end;\narchitecture a of e is\nsignal q : boolean; signal x,y,z : integer;\nbegin\n>>q <= x < y < z;\nend;", "syntax"),
    ("9.1", "entity e is end;\narchitecture a of e is\n>>constant c : integer := 3 * -2;\nbegin\nend;", "syntax"),
    ("9.1", "entity e is end;\narchitecture a of e is\n>>constant c : integer := abs -2;\nbegin\nend;", "syntax"),
    ("11.7", "entity e is end;\narchitecture a of e is\nbegin\n>>u : entity work.nope;\nend;", "undeclared"),
    ("7.3.2", "entity c is end; architecture x of c is begin end;\n>>entity e is end; architecture a of e is begin u : entity work.c(y); end;", "undeclared"),
    ("6.5.6.2", "entity c is generic (n : integer := 1); end; architecture x of c is begin end;\n>>entity e is end; architecture a of e is begin u : entity work.c generic map (m => 2); end;", "generic"),
    ("6.5.6.2", "entity c is generic (n : integer := 1); end; architecture x of c is begin end;\n>>entity e is end; architecture a of e is begin u : entity work.c generic map (n => '1'); end;", "type"),
    ("6.5.6.2", "entity c is generic (n : positive := 1); end; architecture x of c is begin end;\n>>entity e is end; architecture a of e is begin u : entity work.c generic map (n => 0); end;", "range"),
    ("6.5.6.3", "entity c is port (n : in integer); end; architecture x of c is begin end;\n>>entity e is end; architecture a of e is signal s : bit; begin u : entity work.c port map (n => s); end;", "type"),
    ("6.5.6.3", "entity c is port (n : in bit_vector(3 downto 0)); end; architecture x of c is begin end;\n>>entity e is end; architecture a of e is signal s : bit_vector(4 downto 0); begin u : entity work.c port map (n => s); end;", "length"),
    ("6.5.6.3", "entity c is port (n : in bit); end; architecture x of c is begin end;\n>>entity e is end; architecture a of e is begin u : entity work.c port map (n => open); end;", "unconnected"),
    ("10.5.2", "entity e is end;\narchitecture a of e is\nsignal s : bit;\nbegin\n>>s <= guarded '1';\nend;", "guard"),
    ("8.3", "entity e is end;\narchitecture a of e is\ntype p is protected procedure x; end protected; type p is protected body procedure x is begin end; end protected body; shared variable v : p;\nbegin\nprocess\nbegin\n>>v.y;\nwait;\nend process;\nend;", "undeclared"),
    ("9.3.7", "entity e is end;\narchitecture a of e is\nsignal s : bit;\nbegin\nprocess\ntype pt is access bit; variable p : pt;\nbegin\n>>p := new s;\nwait;\nend process;\nend;", "not-a-type"),
    ("5.4.3", "entity e is end;\narchitecture a of e is\nbegin\nprocess\ntype pt is access bit; variable v : bit;\nbegin\n>>deallocate(v);\nwait;\nend process;\nend;", "no-overload"),
    ("8.7", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nbegin\n>>report bit'image(<<signal .e.zz : bit>>);\nwait;\nend process;\nend;", "external"),
    ("8.4", "entity e is end;\narchitecture a of e is\nbegin\nprocess\nvariable v : bit_vector(7 downto 0); variable u : unsigned(2 downto 0);\nbegin\n>>v(u) := '1';\nwait;\nend process;\nend;", "type"),
    ("12.5", "entity e is end;\narchitecture a of e is\nsignal i : integer; signal v : std_logic_vector(3 downto 0);\nbegin\n>>i <= to_integer(v);\nend;", "no-overload"),
    ("12.5", "entity e is end;\narchitecture a of e is\nsignal s : std_logic; signal i : integer;\nbegin\n>>s <= (i = 3);\nend;", "no-operator"),
    ("9.2.5", "entity e is end;\narchitecture a of e is\nsignal v : std_logic_vector(3 downto 0);\nbegin\n>>v <= \"00\" & 3;\nend;", "no-operator"),
]  # fmt: skip


@pytest.mark.parametrize(("clause", "text", "code"), ROWS, ids=[f"{clause}-{k}" for k, (clause, _, _) in enumerate(ROWS)])
def test_is_told(clause: str, text: str, code: str, tmp_path: Path) -> None:
    text = HEAD + text
    wanted = [(k, code) for k, line in enumerate(text.splitlines(), 1) if line.startswith(">>")]
    path = tmp_path / "e.vhd"
    path.write_text(re.sub("^>>", "", text, flags=re.MULTILINE))
    analysis = analyse([path])
    if not analysis.diagnostics.failed:
        analysis.elaborate("e")
    found = [(d.place.line, d.code) for d in analysis.diagnostics.sorted() if d.severity == "error"]
    assert found == wanted, [d.headline() for d in analysis.diagnostics.sorted()]
