"""The functions for the edges of clocks in VHDL do exactly what the scheduler does: the same changes at the same times, in the same
deltas, by the same statements (IEEE 1076-2008 14.7.5)."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from mevrik.engine.typed import edges
from tests.engine.both_ways import runs

CLOCK = "signal clk : std_logic := '0';", "clk <= not clk after 5 ns;"
MADE = "signal clk : std_logic := '0';", "make : process begin clk <= '0'; wait for 5 ns; clk <= '1'; wait for 5 ns; end process;"
HEAD = "library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;\n"


def rising(body: str, clock: str = "clk", edge: str = "rising_edge") -> str:
    return f"process ({clock}) begin if {edge}({clock}) then {body} end if; end process;\n"


DESIGNS = {
    "counters": (
        "signal rst : std_logic := '1'; signal fast, slow : unsigned(23 downto 0) := (others => '0'); signal carry : std_logic;",
        "rst <= '0' after 12 ns; carry <= '1' when fast(2 downto 0) = 7 else '0';\n"
        + rising("if rst = '1' then fast <= (others => '0'); else fast <= fast + 1; end if;")
        + rising("if rst = '1' then slow <= (others => '0'); elsif carry = '1' then slow <= slow + 1; end if;"),
    ),
    "both edges, a chain behind": (
        "signal a, b, s, t : unsigned(7 downto 0) := x\"00\"; signal u : unsigned(7 downto 0);",
        "s <= a + b; t <= s xor x\"55\"; process (all) begin u <= t + a; end process;\n"
        + rising("a <= a + 3;") + rising("b <= u;", edge="falling_edge"),
    ),
    "nothing known at first": ("signal a : unsigned(3 downto 0); signal r : std_logic; signal x : std_logic_vector(2 downto 0);",
        "r <= '1' after 33 ns, '0' after 53 ns; x <= (r & a(1) & 'Z') and \"1H1\";\n"
        + rising("if r = '1' then a <= x\"1\"; else a <= a + 1; end if;")),
    "an asynchronous reset": ("signal rst_n : std_logic := '1'; signal c : unsigned(3 downto 0) := x\"0\";",
        """rst_n <= '0' after 22 ns, '1' after 42 ns;
        process (clk, rst_n) begin if rst_n = '0' then c <= x"0"; elsif rising_edge(clk) then c <= c + 1; end if; end process;"""),
    "parts of signals": ("signal w : std_logic_vector(15 downto 0) := x\"0000\"; signal lo, hi : std_logic; signal at : natural range 0 to 3 := 0;",
        """process (w(0)) begin lo <= w(0); end process; process (w(15 downto 12)) begin hi <= w(15); end process;\n"""
        + rising("at <= (at + 1) mod 4; w(at * 4 + 3 downto at * 4) <= std_logic_vector(unsigned(w(3 downto 0)) + 1); w(15) <= not w(15);")),
    "a memory": ("type words is array (0 to 15) of unsigned(7 downto 0); signal m : words; signal n : unsigned(3 downto 0) := x\"0\"; signal o : unsigned(7 downto 0);",
        "o <= m(to_integer(n));\n" + rising("n <= n + 1; m(to_integer(n)) <= n & n; if n = 7 then m(3) <= x\"aa\"; end if;")),
    "records": ("type pair is record a, b : unsigned(7 downto 0); v : boolean; end record; signal p, q : pair := (x\"00\", x\"01\", false);",
        rising("p.a <= p.b; p.b <= q.a + 1; p.v <= not p.v;") + rising("q <= p; if p.v then q.a <= p.a + p.b; end if;")),
    "variables and loops": ("signal p : std_logic; signal d : unsigned(7 downto 0) := x\"01\";",
        "process (clk) variable v : unsigned(7 downto 0) := x\"10\"; variable x : std_logic; begin if rising_edge(clk) then "
        "x := '0'; for i in d'range loop x := x xor d(i); end loop; p <= x; v := v + d; d <= v; v(0) := not v(0); end if; end process;"),
    "a derived clock": ("signal en : std_logic := '1'; signal gated : std_logic; signal n, m : unsigned(3 downto 0) := x\"0\";",
        "gated <= clk and en;\n" + rising("n <= n + 1;", "gated") + rising("m <= n; en <= not n(1);")),
    "a copied clock": ("signal copy : std_logic; signal a, b : unsigned(3 downto 0) := x\"0\";",
        "copy <= clk;\n" + rising("a <= a + 1;") + rising("b <= a;", "copy")),
    "a divided clock": ("signal half : std_logic := '0'; signal n : unsigned(3 downto 0) := x\"0\";",
        rising("half <= not half;") + rising("n <= n + 1;", "half")),
    "a process that waits beside it": ("signal n : unsigned(3 downto 0) := x\"0\"; signal go : std_logic := '0';",
        rising("if go = '1' then n <= n + 1; end if;")
        + "process begin wait until rising_edge(clk); wait until rising_edge(clk); go <= '1'; wait until n = 2; go <= '0'; wait until falling_edge(clk); end process;"),
    "delays": ("signal a, b, c : std_logic := '0';", rising("a <= not a after 2 ns; b <= a; c <= transport b after 7 ns;")),
    "procedures drive": ("signal a, b : std_logic := '0'; procedure flip(signal s : inout std_logic) is begin s <= not s; end procedure;",
        rising("flip(a); b <= a;")),
    "two drivers": ("signal a, b : std_logic := '0'; signal y : std_logic;",
        rising("a <= not a; y <= a;") + rising("b <= a; y <= b;")),
    "forced": ("signal a, b : unsigned(3 downto 0) := x\"0\";",
        rising("a <= a + 1;") + rising("b <= a;")
        + "process begin wait for 42 ns; a <= force x\"c\"; wait for 30 ns; a <= release; wait; end process;"),
    "attributes": ("signal a : unsigned(3 downto 0) := x\"0\"; signal e, l, s : boolean; signal t : time; signal w : unsigned(3 downto 0);",
        rising("a <= a + 1 when a'event or a(0) = '1' else a + 3;")
        + "process (a) begin e <= a'event; w <= a'last_value; t <= a'last_event; end process; s <= a'stable(7 ns); l <= a'delayed(3 ns) = a;"),
    "attributes in subprograms, by aliases and external names": (
        "signal a, c, f : unsigned(4 downto 0) := 5x\"0\"; signal b : std_logic := '0'; signal d, n : natural := 0; signal e, u, v : boolean;"
        "alias other : unsigned(4 downto 0) is c; impure function of_a return boolean is begin return a'event; end function;"
        "procedure look(signal s : in std_logic; signal new_one : out boolean) is begin new_one <= s'event; end procedure;",
        rising("a <= a + 1; if a(1) = '1' then c <= c + 3; b <= not b; end if; if a(2) = '1' then f <= f + 1; end if;")
        + "process (a, b) begin u <= of_a; v <= other'event; end process; process (a, b) begin look(b, e); end process;"
        + "process (b) begin if rising_edge(b) then n <= n + 1; end if; end process;"
        + "process (c) begin if << signal .tb.f : unsigned(4 downto 0) >>'event then d <= d + 1; end if; end process;"),
    "resolved once driven": ("signal a : std_logic_vector(3 downto 0) := \"0000\"; signal b : std_logic_vector(3 downto 0);",
        "b <= a after 0 ns;\n" + rising("a(0) <= not a(0);") + rising("a(3 downto 1) <= a(2 downto 0);")),
    "assertions": ("signal a : unsigned(3 downto 0) := x\"0\";",
        rising("a <= a + 1; assert a /= 5 report \"five\" severity note; assert a /= 12 report \"twelve\" severity failure;")),
    "parts with drivers of their own": ("signal w : std_logic_vector(31 downto 0) := (others => '0'); signal n : unsigned(3 downto 0) := x\"0\";"
        "signal lo, hi, all_of : natural := 0; type lanes is array (0 to 3) of std_logic_vector(79 downto 0); signal m : lanes := (others => (others => '0'));",
        "each : for k in 0 to 3 generate process (clk) begin if rising_edge(clk) then if n(k) = '1' then "
        "w(8 * k + 7 downto 8 * k) <= std_logic_vector(unsigned(w(8 * k + 7 downto 8 * k)) + 1); m(k) <= m(k)(70 downto 0) & std_logic_vector(n) & \"01101\"; "
        "end if; end if; end process; end generate;\n" + rising("n <= n + 5;")
        + "process (w(7 downto 0)) begin lo <= lo + 1; end process; process (w(31 downto 24)) begin hi <= hi + 1; end process; process (w, m(2)) begin all_of <= all_of + 1; end process;"),
    "a large record": ("type state is record pc, ir : unsigned(31 downto 0); regs : std_logic_vector(99 downto 0); run : boolean; n : natural; end record;"
        "constant START : state := (x\"00000010\", x\"00000000\", (others => 'U'), false, 0); signal r, rin : state := START; signal y : unsigned(31 downto 0); signal seen : natural := 0;",
        "process (r) variable v : state; begin v := r; v.pc := r.pc + 4; v.n := r.n + 1; if r.run then v.ir := v.ir xor r.pc; v.regs := r.regs(98 downto 0) & r.pc(2); end if; "
        "v.run := r.n mod 3 = 1; rin <= v; y <= v.ir; end process;\n" + rising("r <= rin;")
        + "process (r.regs, r.run) begin seen <= seen + 1; end process;"),
    "numbers with weak and unknown values": ("signal a, b : unsigned(3 downto 0) := x\"0\"; signal c, d : std_logic_vector(3 downto 0); signal n : natural := 0;",
        rising("a <= a + 1; if a = 5 then b <= \"0H1L\"; elsif a = 7 then b <= \"0X10\"; elsif b(2) = 'X' then b <= x\"6\"; else b <= b + 2; end if; "
               "c <= std_logic_vector(b); d <= std_logic_vector(unsigned(c) + 1);")
        + "process (b) begin n <= n + 1; end process;"),
    "an event for one of two, and one who waits": ("signal a, b : unsigned(2 downto 0) := 3x\"0\"; signal n, m : natural := 0;",
        rising("a <= a + 1; b <= b + 3;") + "process (a, b) variable k : natural := 0; begin k := k + 1; n <= k; end process;"
        + "process begin wait on a; m <= m + 1; wait for 17 ns; end process;"),
    "another moment of the same time": ("signal a, d : std_logic := '0';",
        "d <= '1' after 15 ns, '0' after 25 ns, '1' after 40 ns;\n" + rising("a <= d;")),
    "two clocks": ("signal c2 : bit := '0'; signal a, b, s1, s2 : unsigned(3 downto 0) := x\"0\";",
        "c2 <= not c2 after 7 ns;\n" + rising("a <= a + 1;") + rising("s1 <= a; s2 <= s1; b <= s2 + 1;", "c2")),
    "postponed": ("signal a, b : unsigned(3 downto 0) := x\"0\"; signal n : natural := 0;",
        rising("a <= a + 1;") + "b <= a; process (b) begin n <= n + 1; end process; postponed process (a) begin assert a = b; end process;"),
    "a large memory": ("type words is array (0 to 63) of unsigned(7 downto 0); signal m : words := (others => x\"00\"); signal n : unsigned(5 downto 0) := 6x\"0\"; signal o, p : unsigned(7 downto 0);",
        "o <= m(to_integer(n)); p <= o + m(5);\n" + rising("n <= n + 7; m(to_integer(n)) <= p + 1; if n = 7 then m <= (others => n & \"11\"); end if;")),
    "large records": ("type big is record a, b : unsigned(39 downto 0); v : boolean; end record; signal p, q, r : big := (40x\"0\", 40x\"1\", false); signal n : unsigned(39 downto 0);",
        "q <= (p.a + 1, p.b xor p.a, not p.v); process (r.b) begin n <= r.b + 1; end process;\n" + rising("p <= q; r.b <= p.a; r.v <= not r.v;")),
    "a chain of large signals": ("signal a, b, c, d : unsigned(79 downto 0) := 80x\"5\"; signal s : std_logic;",
        "b <= a + 1; c <= b xor a; d <= c + b; s <= d(3) xor c(7);\n" + rising("a <= a + d; if s = '1' then a(70) <= '0'; end if;")),
    "a latch of zero delay that settles": ("signal a : unsigned(3 downto 0) := x\"0\"; signal b : unsigned(7 downto 0) := x\"00\";",
        "b <= b + 1 when b /= a & x\"0\" else b;\n" + rising("a <= a + 1;")),
    "a long chain": ("type chain is array (0 to 9) of unsigned(3 downto 0); signal a : unsigned(3 downto 0) := x\"0\"; signal c0, c1, c2, c3, c4, c5, c6 : unsigned(3 downto 0);",
        "c0 <= a + 1; c1 <= c0 + 1; c2 <= c1 + 1; c3 <= c2 xor c0; c4 <= c3 + c1; c5 <= c4; c6 <= c5 + a;\n" + rising("a <= c6;")),
}  # fmt: skip


def design(declarations: str, body: str, clock: tuple[str, str] = CLOCK) -> str:
    return f"{HEAD}entity tb is end entity;\narchitecture t of tb is\n{clock[0]}\n{declarations}\nbegin\n{clock[1]}\n{body}\nend architecture;\n"


@pytest.fixture(params=(True, False), ids=("straight", "looped"))
def form(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """The deltas of a few processes stand one behind the other, those of many are a loop: here both with few."""
    if not request.param:
        monkeypatch.setattr(edges, "FEW_NODES", -1)


@pytest.mark.parametrize(
    ("clock", "but"), ((CLOCK, ()), (CLOCK, ("clk", "c2")), (MADE, ())), ids=("inverted", "not recorded", "made")
)
@pytest.mark.parametrize("name", DESIGNS)
@pytest.mark.usefixtures("form")
def test_the_same_as_through_the_queue(name: str, clock: tuple[str, str], but: tuple[str, ...], tmp_path: Path) -> None:
    with_edges, without = runs(design(*DESIGNS[name], clock), tmp_path, ".vhd", but)
    assert with_edges[0]
    assert with_edges[1:] == without[1:]
    assert with_edges[2]


def random_design(seed: int) -> str:
    """Registers of random width behind random expressions of one another, some through signals between, some only in some cycles."""
    pick = random.Random(seed)
    count = pick.randint(2, 6)
    widths = [pick.choice((1, 3, 5, 8, 12, 16, 24, 31, 33, 40, 62, 70)) for _ in range(count)]
    declarations, body = [], []
    for k, w in enumerate(widths):
        start = pick.choice(("", " := (others => '0')", " := (others => '1')"))
        declarations.append(f"signal r{k} : unsigned({w - 1} downto 0){start}; signal w{k} : unsigned({w - 1} downto 0);")
        declarations.append(f"signal s{k} : std_logic_vector({w - 1} downto 0) := (others => 'L'); signal e{k} : bit;")
        body.append(f"w{k} <= r{k} xor resize({pick.choice(('r0', 'r1'))}, {w});")

    def bit() -> str:
        return f"{pick.choice('rw')}{pick.randrange(count)}(0)"

    def word(w: int) -> str:
        return pick.choice(
            (f"resize(r{pick.randrange(count)}, {w})", f"resize(w{pick.randrange(count)}, {w})", f"to_unsigned(1, {w})")
        )

    for k, w in enumerate(widths):
        statement = f"r{k} <= {word(w)} {pick.choice(('+', '-', 'and', 'or', 'xor'))} {word(w)};"
        if pick.random() < 0.5:
            statement = f"r{k} <= r{k} {pick.choice('+-')} 1;"
        if pick.random() < 0.3:
            statement += f" s{k} <= std_logic_vector(r{k}); if unsigned(s{k}) > r{k} then e{k} <= not e{k}; end if;"
        if pick.random() < 0.4:
            statement = f"if {bit()} = '{pick.choice('01')}' then {statement} end if;"
        if pick.random() < 0.3:
            statement += f" r{k}(0) <= {bit()};"
        body.append(rising(statement, edge=pick.choice(("rising_edge", "rising_edge", "falling_edge"))))
    if pick.random() < 0.3:
        beside = (
            f"wait until r0(0) = '1' for 20 ns; r1 <= force ({widths[1] - 1} downto 0 => '1'); wait for 17 ns; r1 <= release; wait;"
        )
        body.append(f"process begin {beside} end process;")
    return design("\n".join(declarations), "\n".join(body), pick.choice((CLOCK, MADE)))


@pytest.mark.parametrize("seed", range(12))
@pytest.mark.usefixtures("form")
def test_random_registers(seed: int, tmp_path: Path) -> None:
    with_edges, without = runs(random_design(seed), tmp_path, ".vhd", ("clk",) if seed % 2 else ())
    assert with_edges[1:] == without[1:], random_design(seed)
