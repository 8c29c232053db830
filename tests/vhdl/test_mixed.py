"""Both languages in one design, and the findings about deltas."""

from __future__ import annotations

from pathlib import Path

from mevrik.design.ports import ports_of
from mevrik.explain.ladder import busiest_moment, ladder
from mevrik.explain.origin import origin
from mevrik.explain.why import why
from mevrik.lang.analysis import analyse
from mevrik.waves.record import RunRecord
from tests.conftest import DEMO, mevrik
from tests.vhdl.rows import notes

COUNTER = """library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
entity cnt is
  generic (WIDTH : positive := 8);
  port (clk, rst : in std_logic; q : out std_logic_vector(WIDTH - 1 downto 0));
end;
architecture rtl of cnt is
  signal n : unsigned(WIDTH - 1 downto 0);
begin
  process (clk)
  begin
    if rising_edge(clk) then
      if rst = '1' then n <= (others => '0'); elsif rst = '0' then n <= n + 1; else n <= (others => 'X'); end if;
    end if;
  end process;
  q <= std_logic_vector(n);
end;
"""


def test_entities_in_a_module(tmp_path: Path) -> None:
    """Generics by parameters, values both ways, unknowns kept."""
    (tmp_path / "cnt.vhd").write_text(COUNTER)
    (tmp_path / "tb.v").write_text("""`timescale 1ns/1ns
module tb;
  reg clk = 0, rst = 1;
  wire [3:0] q4;  wire [7:0] q8;
  cnt #(.WIDTH(4)) a (.clk(clk), .rst(rst), .q(q4));
  cnt b (.clk(clk), .rst(rst), .q(q8));
  always #5 clk = ~clk;
  initial begin
    #1 $display("%b", q4);
    #11 rst = 0;
    #200 $display("%0d %0d %0t", q4, q8, $time);
    rst = 1'bx;
    #10 $display("%b", q4);
    $finish;
  end
endmodule
""")
    done = mevrik("run", tmp_path / "tb.v", tmp_path / "cnt.vhd", "--top", "tb")
    # rising edges at 15, 25, ... 205: 20 of them
    assert done.out == "xxxx\n4 20 212\nxxxx\n", done.err


def test_a_module_without_a_component(tmp_path: Path) -> None:
    """`entity work.name` finds a module; generics are its parameters, the widths of its ports follow them."""
    (tmp_path / "stepper.v").write_text("""module Stepper #(parameter WIDTH = 4, STEP = -1, localparam TOP = WIDTH - 1)
  (input clk, rst, output reg [TOP:0] q, output last);
  assign last = &q;
  always @(posedge clk) if (rst) q <= 0; else q <= q + STEP;
endmodule
""")
    bench = """library ieee; use ieee.std_logic_1164.all;
entity tb is end;
architecture t of tb is
  signal clk : std_logic := '0'; signal rst : std_logic := '1'; signal q : std_logic_vector(5 downto 0); signal l, m : std_ulogic;
begin
  clk <= not clk after 5 ns;
  a : entity work.stepper generic map (WIDTH => 6, step => 3) port map (clk => clk, rst => rst, q => q, last => l);
  b : entity work.Stepper port map (clk, rst, open, m);
  process begin
    wait for 12 ns; rst <= '0'; wait for 10 ns;
    report to_string(q) & to_string(l) & to_string(m);
    wait for 10 ns;
    report to_string(q) & to_string(l) & to_string(m);
    std.env.finish;
  end process;
end;
"""
    (tmp_path / "tb.vhd").write_text(bench)
    done = mevrik("run", tmp_path, "--top", "tb")
    # edges at 15 and 25 ns: q is 3, then 6; the other counts 0, 15, 14
    assert notes(done.err) == ["00001101", "00011000"]
    for wrong, said in (("WIDTH =>", "module 'Stepper' has no generic 'WIDTHS'; did you mean 'WIDTH'?"),
                        ("q => q", "module 'Stepper' has no port 'qs'"), ("WIDTH => 6", "the value has 6 elements")):  # fmt: skip
        mark = {"WIDTH =>": "WIDTHS =>", "q => q": "qs => q", "WIDTH => 6": "WIDTH => 7"}[wrong]
        (tmp_path / "tb.vhd").write_text(bench.replace(wrong, mark))
        done = mevrik("run", tmp_path, "--top", "tb")
        assert done.status == 2
        assert said in done.err
        assert done.err.count("error:") == 1


def test_inout_ports_of_modules(tmp_path: Path) -> None:
    """Each side resolves its own drivers and what the other's make; a weak level of VHDL is a pull in Verilog."""
    (tmp_path / "slave.v").write_text("""module slave(inout sda, inout [3:0] dq, input oe, input [3:0] v, output seen);
  assign sda = oe ? 1'b0 : 1'bz;
  assign dq = oe ? v : 4'bz;
  assign seen = sda;
endmodule
""")
    (tmp_path / "tb.vhd").write_text("""library ieee; use ieee.std_logic_1164.all;
entity tb is end;
architecture t of tb is
  component slave is
    port (sda : inout std_logic; dq : inout std_logic_vector(3 downto 0); oe : in std_logic; v : in std_logic_vector(3 downto 0);
          seen : out std_logic);
  end component;
  signal sda, oe, oe2, seen, seen2 : std_logic := '0'; signal dq, v : std_logic_vector(3 downto 0) := "ZZZZ";
  procedure say is begin report to_string(sda) & to_string(seen) & to_string(seen2) & to_string(dq); end;
begin
  sda <= 'H'; v <= "1010";
  a : slave port map (sda, dq, oe, v, seen);
  b : entity work.slave port map (sda, dq, oe2, "0011", seen2);
  process begin
    sda <= 'Z'; dq <= "ZZZZ"; oe <= '0'; oe2 <= '0'; wait for 1 ns; say;
    oe <= '1'; wait for 1 ns; say;
    oe2 <= '1'; wait for 1 ns; say;
    oe <= '0'; wait for 1 ns; say;
    oe2 <= '0'; dq <= "01LH"; wait for 1 ns; say;
    oe <= '1'; wait for 1 ns; say;
    oe <= '0'; dq <= "ZZZZ"; sda <= '0'; wait for 1 ns; say;
    sda <= 'Z'; wait for 1 ns; say;
    std.env.finish;
  end process;
end;
""")
    done = mevrik("run", tmp_path, "--top", "tb")
    # what a module drives is strong: 1 over L and 0 over H, X where it meets the other strong level
    assert notes(done.err) == ["H11ZZZZ", "0001010", "000X01X", "0000011", "H1101LH", "000XX10", "000ZZZZ", "H11ZZZZ"]


def test_inout_ports_of_entities(tmp_path: Path) -> None:
    """The same the other way round, with parts of a bus connected to two entities."""
    (tmp_path / "dev.vhd").write_text("""library ieee; use ieee.std_logic_1164.all;
entity dev is port (sda : inout std_logic; dq : inout std_logic_vector(3 downto 0); oe : in std_logic; seen : out std_logic); end;
architecture rtl of dev is begin
  sda <= '0' when oe = '1' else 'Z';
  dq <= "1010" when oe = '1' else (others => 'Z');
  dq <= (others => 'H');
  seen <= dq(0);
end;
""")
    (tmp_path / "tb.v").write_text("""`timescale 1ns/1ns
module tb;
  wire sda; wire [7:0] dq; reg oe = 0, oe2 = 0, d = 0; reg [7:0] w = 8'h5c; wire s1, s2;
  pullup(sda);
  assign dq = d ? w : 8'bz;
  dev a(.sda(sda), .dq(dq[3:0]), .oe(oe), .seen(s1));
  dev b(.sda(sda), .dq(dq[7:4]), .oe(oe2), .seen(s2));
  initial begin
    #1 $display("%b %b %b%b", sda, dq, s1, s2);
    oe = 1; #1 $display("%b %b %b%b", sda, dq, s1, s2);
    oe2 = 1; d = 1; #1 $display("%b %b %b%b", sda, dq, s1, s2);
    oe = 0; oe2 = 0; #1 $display("%b %b %b%b %v", sda, dq, s1, s2, dq[0]);
    d = 0; #1 $display("%b %b %b%b %v", sda, dq, s1, s2, dq[0]);
    $finish;
  end
endmodule
""")
    done = mevrik("run", tmp_path, "--top", "tb", "--record-file", tmp_path / "r.run")
    assert done.out.splitlines() == ["1 11111111 11", "0 11111010 01", "0 xxxx1xx0 0x", "1 01011100 01 St0", "1 11111111 11 Pu1"]
    assert done.err == ""
    record = RunRecord(tmp_path / "r.run")
    assert not [name for name in record.names if "strong" in name or "weak" in name]
    record.close()


def test_layers_of_both_languages(tmp_path: Path) -> None:
    """VHDL, Verilog, VHDL and Verilog again, twice, with generics handed down through all of them."""
    (
        tmp_path / "outer.v"
    ).write_text("""module outer #(parameter STEP = 1) (input clk, input [3:0] d, inout [3:0] pad, output [3:0] q);
  wire [3:0] inner_q;
  Middle #(.step(STEP), .NAME("mid")) m(.CLK(clk), .d(d), .pad(pad), .q(inner_q));
  assign q = ~inner_q;
endmodule
module leaf #(parameter ADD = 0, parameter TITLE = "") (input [3:0] a, output [3:0] b);
  assign b = a + ADD;
  initial #1 $display("%m %0s %0d", TITLE, ADD);
endmodule
""")
    (tmp_path / "middle.vhd").write_text("""library ieee; use ieee.std_logic_1164.all;
entity middle is
  generic (step : integer := 5; name : string := "x"; on_start : boolean := true);
  port (clk : in std_logic; d : in std_logic_vector(3 downto 0); pad : inout std_logic_vector(3 downto 0);
        q : out std_logic_vector(3 downto 0));
end;
architecture rtl of middle is
  component leaf is
    generic (add : integer; title : string);
    port (a : in std_logic_vector(3 downto 0); b : out std_logic_vector(3 downto 0));
  end component;
  signal s : std_logic_vector(3 downto 0);
begin
  l : leaf generic map (add => step, title => name) port map (a => d, b => s);
  q <= s when rising_edge(clk);
  pad <= s when clk = '1' else "ZZZZ";
end;
""")
    (tmp_path / "tb.vhd").write_text("""library ieee; use ieee.std_logic_1164.all;
entity tb is end;
architecture t of tb is
  signal clk : std_logic := '0'; signal d : std_logic_vector(3 downto 0) := "0010"; signal p, q, r : std_logic_vector(3 downto 0);
begin
  p <= "HHHH";
  one : entity work.outer generic map (STEP => 2) port map (clk, d, p, q);
  two : entity work.outer generic map (STEP => 3) port map ('0', d, open, r);
  process begin
    wait for 5 ns; report to_string(p) & to_string(q) & to_string(r);
    clk <= '1'; wait for 5 ns; report to_string(p) & to_string(q) & to_string(r);
    std.env.finish;
  end process;
end;
""")
    done = mevrik("run", tmp_path, "--top", "tb")
    assert sorted(done.out.splitlines()) == ["tb.one.m.rtl.l mid 2", "tb.two.m.rtl.l mid 3"]
    # before any edge q of the entity is U, which is x in Verilog and X when it comes back; then 2 + 2 = 4, and its complement is 11
    assert notes(done.err) == ["HHHHXXXXXXXX", "01001011XXXX"]


def test_generics_and_parameters(tmp_path: Path) -> None:
    """Numbers, truth values, texts, reals, bits and vectors both ways; widths that functions compute; names in any case."""
    (
        tmp_path / "dev.vhd"
    ).write_text("""package sizes is constant W : natural := 6; function bits_of(n : positive) return natural; end;
package body sizes is
  function bits_of(n : positive) return natural is variable r : natural := 0;
  begin while 2**r < n loop r := r + 1; end loop; return r; end;
end;
library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use work.sizes.all;
entity dev is
  generic (depth : positive := 12; sim : boolean := false; name : string := "dev"; init : std_logic_vector(3 downto 0) := "1010";
           period : time := 10 ns; gain : real := 1.5; lim : natural range 0 to W := W; pol : std_logic := '1');
  port (clk : in std_logic; a : in std_logic_vector(bits_of(depth) - 1 downto 0); q : out unsigned(W - 1 downto 0);
        n : out integer range 0 to 31; e : out boolean);
end;
architecture rtl of dev is
  component show is
    generic (w : integer := 8; name : string := "dflt"; g : real := 2.0; init : std_logic_vector(3 downto 0) := "0110"; b : boolean := true);
    port (d : in std_logic_vector(w - 1 downto 0));
  end component;
begin
  q <= resize(unsigned(a), W) + unsigned(init);
  n <= depth;
  e <= sim and pol = '1';
  s : show generic map (w => 4, name => name, g => gain, b => sim) port map (init);
end;
""")
    (
        tmp_path / "tb.v"
    ).write_text("""module show #(parameter W = 4, NAME = "none", parameter real G = 1.0, parameter [3:0] INIT = 0, parameter B = 0) (input [W-1:0] d);
  initial #1 $display("%0d %0s %0.2f %b %0d %h", W, NAME, G, INIT, B, d);
endmodule
module tb;
  reg clk = 0; reg [3:0] a = 3; reg [4:0] a2 = 7; wire [5:0] q, q2; wire [31:0] n, n2; wire e, e2;
  dev u(.clk(clk), .A(a), .q(q), .n(n), .e(e));
  dev #(.DEPTH(20), .sim(1), .name("second"), .init(4'b0001), .gain(2.5), .pol(1'b1)) v(clk, a2, q2, n2, e2);
  initial begin #2 $display("%0d %0d %b  %0d %0d %b", q, n, e, q2, n2, e2); $finish; end
endmodule
""")
    done = mevrik("run", tmp_path, "--top", "tb")
    assert done.err == ""
    assert done.out.splitlines() == ["4 dev 1.50 0110 0 a", "4 second 2.50 0110 1 1", "13 12 0  8 20 1"]
    bench = (tmp_path / "tb.v").read_text()
    for right, wrong, said in (
        (".sim(1)", ".simm(1)", "entity 'dev' has no generic 'simm'; did you mean 'sim'?"),
        (".sim(1)", ".period(3)", "generic 'period' of type time can't get this value from a module"),
        ("reg [4:0] a2", "reg [3:0] a2", "the port 'a' has 5 bits, 4 are connected"),
    ):
        (tmp_path / "tb.v").write_text(bench.replace(right, wrong))
        assert said in mevrik("run", tmp_path, "--top", "tb").err


def test_a_module_in_an_architecture(tmp_path: Path) -> None:
    (tmp_path / "par.v").write_text(
        "module par #(parameter INVERT = 0) (input [3:0] d, output odd); assign odd = ^d ^ INVERT; endmodule\n"
    )
    (tmp_path / "tb.vhd").write_text("""library ieee; use ieee.std_logic_1164.all; use std.textio.all;
entity tb is end;
architecture sim of tb is
  component par is
    generic (INVERT : integer := 0);
    port (d : in std_logic_vector(3 downto 0); odd : out std_logic);
  end component;
  signal d : std_logic_vector(3 downto 0) := "0001";
  signal a, b : std_logic;
begin
  plain : par port map (d, a);
  turned : par generic map (1) port map (d, b);
  process
    variable l : line;
  begin
    for i in 1 to 3 loop
      wait for 1 ns;
      write(l, a); write(l, b); writeline(output, l);
      d <= "0011" when i = 1 else "0Z11";
    end loop;
    wait;
  end process;
end;
""")
    done = mevrik("run", tmp_path / "par.v", tmp_path / "tb.vhd")
    assert done.out == "10\n01\nXX\n", done.err


def test_clocks_are_found_through_both_languages() -> None:
    files = [DEMO / f for f in ("lock_top.v", "gate_interlock.v", "paddle_pwm.v", "level_encoder.vhd", "gate_position.vhd")]
    design = analyse(files).elaborate("lock_top")
    assert design is not None
    roles = {p.name: p.role for p in ports_of(design)}
    assert roles["clk"] == "clock" and roles["rst_n"] == "reset" and roles["ask_n"] == ""


def test_a_clock_that_comes_a_delta_late() -> None:
    analysis = analyse([DEMO / "gate_position_copied.vhd"])
    analysis.elaborate("gate_position_copied")
    (found,) = analysis.diagnostics.items
    assert found.code == "clock-skew" and found.place.text.strip() == "clk_board <= clk;"
    assert "1 delta later" in found.message and "'caught'" in found.message


def test_data_that_comes_later_still_is_no_skew(tmp_path: Path) -> None:
    text = (
        (DEMO / "gate_position_copied.vhd")
        .read_text()
        .replace("signal caught ", "signal caught, slow, slower ")
        .replace("clk_board <= clk;", "clk_board <= clk;\n  slow <= caught;\n  slower <= slow;")
        .replace("second <= caught;", "second <= slower;")
    )
    path = tmp_path / "x.vhd"
    path.write_text(text)
    analysis = analyse([path])
    assert analysis.elaborate("gate_position_copied") is not None
    assert not analysis.diagnostics.items


def test_a_register_that_is_never_reset() -> None:
    analysis = analyse([DEMO / "gate_position_unreset.vhd"])
    analysis.elaborate("gate_position_unreset")
    (found,) = analysis.diagnostics.items
    assert found.code == "never-reset" and "'count'" in found.message and found.place.line == 24
    good = analyse([DEMO / "gate_position.vhd"])
    good.elaborate("gate_position")
    assert not good.diagnostics.items


def test_the_ladder_and_why(tmp_path: Path) -> None:
    """One edge of the clock: the copy rises together with the first register, the second register a delta later."""
    path = DEMO / "gate_position_copied.vhd"
    (tmp_path / "tb.vhd").write_text("""library ieee; use ieee.std_logic_1164.all;
entity tb is end;
architecture sim of tb is
  signal clk, rst_n, track, first, second : std_logic := '0';
begin
  dut : entity work.gate_position_copied port map (clk, rst_n, track, first, second);
  rst_n <= '1' after 2 ns;
  track <= '1' after 3 ns;
  clk <= '1' after 10 ns;
end;
""")
    record_file = tmp_path / "r.run"
    done = mevrik("run", path, tmp_path / "tb.vhd", "--record-file", record_file)
    assert done.status == 0, done.err
    record = RunRecord(record_file)
    moment = 10 * 10**6
    steps = [(r.delta, r.path.rsplit(".", 1)[-1], r.after) for r in ladder(record, moment)]
    assert steps == [(0, "clk", "1"), (1, "clk_board", "1"), (1, "caught", "1"), (2, "first", "1"), (2, "second", "1")] or steps == [
        (0, "clk", "1"), (1, "caught", "1"), (1, "clk_board", "1"), (2, "first", "1"), (2, "second", "1"),
    ]  # fmt: skip
    rungs = ladder(record, moment)
    assert {rungs[k].path.rsplit(".", 1)[-1] for k in rungs[0].woke} == {"clk_board", "caught"}
    assert [w.line for w in rungs[0].wakes] == [17, 19]
    assert [w.line for r in rungs if r.path.endswith("clk_board") for w in r.wakes] == [28]
    found = busiest_moment(record, str(path), 17)
    assert found is not None and found[1] == moment
    reason = why(record, "tb.dut.second", moment)
    assert reason.site is not None and reason.site.text == "second <= caught;"
    causes = {c.name: (str(c.value), c.role) for c in reason.causes}
    assert causes["caught"] == ("1", "value") and causes["rst_n"] == ("1", "condition")


def test_where_an_unknown_began(tmp_path: Path) -> None:
    """From an output back to the register that was never reset; from an input that nothing drives."""
    (tmp_path / "tb.vhd").write_text("""library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
entity tb is end;
architecture sim of tb is
  signal clk, a, open_one, sum : std_logic := '0';
  signal never : std_logic;
  signal u : unsigned(3 downto 0);
begin
  clk <= not clk after 5 ns when now < 40 ns;
  dut : entity work.gate_position_unreset port map (clk, '1', '1', u, open);
  sum <= a xor never;
end;
""")
    record_file = tmp_path / "r.run"
    assert mevrik("run", DEMO / "gate_position_unreset.vhd", tmp_path / "tb.vhd", "--record-file", record_file).status == 0
    record = RunRecord(record_file)
    first = origin(record, "tb.sum", 30 * 10**6)
    assert first is not None and first.steps[-1][0] == "tb.never" and "since the start" in first.reason
    second = origin(record, "tb.u", 30 * 10**6)
    assert second is not None and second.steps[-1][0].endswith("count") and second.last.site is None
    assert origin(record, "tb.clk", 30 * 10**6) is None


def test_nine_values_in_the_record(tmp_path: Path) -> None:
    (tmp_path / "x.vhd").write_text("""library ieee; use ieee.std_logic_1164.all;
entity tb is end;
architecture sim of tb is
  signal s : std_logic_vector(3 downto 0);
begin
  s <= "01XZ" after 1 ns, "LHW-" after 2 ns;
end;
""")
    record_file = tmp_path / "r.run"
    assert mevrik("run", tmp_path / "x.vhd", "--record-file", record_file, "--vcd", tmp_path / "x.vcd").status == 0
    trace = RunRecord(record_file).trace("tb.s")
    assert [trace.logic(k).nine for k in range(3)] == ["UUUU", "01XZ", "LHW-"]
    assert [trace.logic(k).bits() for k in range(3)] == ["xxxx", "01xz", "01xx"]
    assert [(int(v), int(u)) for v, u in zip(trace.plane(0), trace.plane(1))] == [(15, 15), (0b0110, 0b0011), (0b0111, 0b0011)]
    assert "b1xz " in (tmp_path / "x.vcd").read_text() or "b01xz " in (tmp_path / "x.vcd").read_text()


def run_both(tmp_path: Path, vhdl: str, verilog: str, top: str) -> list[str]:
    (tmp_path / "a.vhd").write_text(vhdl)
    (tmp_path / "b.sv").write_text(verilog)
    done = mevrik("run", tmp_path / "a.vhd", tmp_path / "b.sv", "--top", top)
    assert done.status == 0, done.err
    return done.out.splitlines()


def test_every_kind_of_output_of_a_module(tmp_path: Path) -> None:
    """Registers assigned with and without blocking, in part, wires, gates, vectors of more than a word, pulled nets: each change of them
    reaches VHDL. `as` follows first one of its two operands, then the other."""
    verilog = """
    module many (input clk, output reg nb, output reg [3:0] bl, output wire as, output [70:0] wide, output ga, output reg [7:0] part, output tri1 pulled);
      reg [70:0] w; assign as = bl[0] ^ nb; assign wide = w; and #1 (ga, nb, bl[1]);
      initial begin nb = 0; bl = 0; w = 0; part = 0; end
      always @(posedge clk) nb <= ~nb;
      always @(posedge clk) bl = bl + 1;
      always @(negedge clk) begin w <= {w[69:0], 1'b1}; part[3:0] <= bl; part[7] = ~part[7]; end
    endmodule
"""
    vhdl = """
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; use std.textio.all;
    entity tbv is end;
    architecture a of tbv is
      component many port (clk : in std_logic; nb : out std_logic; bl : out std_logic_vector(3 downto 0); as : out std_logic; wide : out std_logic_vector(70 downto 0); ga : out std_logic; part : out std_logic_vector(7 downto 0); pulled : out std_logic); end component;
      signal clk : std_logic := '0'; signal nb, as, ga, pulled : std_logic; signal bl : std_logic_vector(3 downto 0); signal wide : std_logic_vector(70 downto 0); signal part : std_logic_vector(7 downto 0);
      procedure say (s : string) is variable l : line; begin write(l, s); writeline(output, l); end;
    begin
      clk <= not clk after 5 ns when now < 29 ns else clk;
      u : many port map (clk, nb, bl, as, wide, ga, part, pulled);
      p1 : process (nb) begin if now > 0 ns then say("nb " & std_logic'image(nb) & " " & to_string(now, ns)); end if; end process;
      p2 : process (bl) begin if now > 0 ns then say("bl " & to_string(bl)); end if; end process;
      p3 : process (as) begin if now > 0 ns then say("as " & std_logic'image(as)); end if; end process;
      p4 : process (wide) begin if now > 0 ns then say("wide " & to_hstring(wide(7 downto 0))); end if; end process;
      p5 : process (ga) begin if now > 0 ns then say("ga " & std_logic'image(ga) & " " & to_string(now, ns)); end if; end process;
      p6 : process (part) begin if now > 0 ns then say("part " & to_string(part)); end if; end process;
      process begin wait for 40 ns; say(to_string(bl) & to_string(part) & std_logic'image(pulled) & to_hstring(wide)); wait; end process;
    end;
"""
    lines = run_both(tmp_path, vhdl, verilog, "tbv")
    of = {
        name: [x.removeprefix(f"{name} ") for x in lines if x.startswith(f"{name} ")]
        for name in ("nb", "bl", "as", "wide", "ga", "part")
    }
    assert of["nb"] == ["'1' 5 ns", "'0' 15 ns", "'1' 25 ns"]
    assert of["bl"] == ["0001", "0010", "0011"]
    assert of["as"] == ["'1'", "'0'"] * 3
    assert of["wide"] == ["01", "03", "07"]
    assert of["ga"] == ["'0' 1 ns", "'1' 26 ns"]
    assert of["part"][-1] == "10000011" and len(of["part"]) == 6
    assert lines[-1] == "001110000011'1'000000000000000007"


def test_a_module_in_an_entity_in_a_module(tmp_path: Path) -> None:
    """The accumulator starts at 2 and adds 5 at each clock, modulo 16; its lowest bit goes through a shift register of the inner module."""
    verilog = """
    module vshift #(parameter N = 4) (input clk, si, output so, output reg [N-1:0] taps); assign so = taps[N-1]; initial taps = '0; always @(posedge clk) taps <= {taps[N-2:0], si}; endmodule
    module tb; logic clk = 0, rst = 1; logic [3:0] d = 0; wire [3:0] q; wire over; wire signed [31:0] n; always #5 clk = ~clk;
      accum #(.width(4), .start(2)) u(.clk, .rst, .d, .q, .over, .n);
      initial begin @(negedge clk) rst = 0; d = 5; repeat (4) @(negedge clk) $display("%0t q=%0d over=%b n=%0d so=%b", $time, q, over, n, n[0]); d = 4'bx1; @(negedge clk) $display("%b %b", q, over); $finish(0); end
    endmodule
"""
    vhdl = """
    library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
    entity accum is generic (width : positive := 8; start : integer := 0); port (clk, rst : in std_logic; d : in std_logic_vector(width - 1 downto 0); q : out unsigned(width - 1 downto 0); over : out boolean; n : out integer); end;
    architecture rtl of accum is
      component vshift generic (N : integer := 4); port (clk : in std_logic; si : in std_logic; so : out std_logic; taps : out std_logic_vector(N - 1 downto 0)); end component;
      signal acc : unsigned(width downto 0) := to_unsigned(start, width + 1); signal so : std_logic; signal taps : std_logic_vector(2 downto 0); signal count : integer := 0;
    begin
      process (clk) begin if rising_edge(clk) then if rst = '1' then acc <= to_unsigned(start, width + 1); count <= 0; else acc <= ('0' & acc(width - 1 downto 0)) + unsigned(d); count <= count + 1; end if; end if; end process;
      q <= acc(width - 1 downto 0); over <= acc(width) = '1'; n <= count;
      sh : vshift generic map (N => 3) port map (clk => clk, si => acc(0), so => so, taps => taps);
      process (taps) begin report "taps " & to_string(taps); end process;
    end;
"""
    lines = run_both(tmp_path, vhdl, verilog, "tb")
    assert lines == [
        "20 q=7 over=0 n=1 so=1",
        "30 q=12 over=0 n=2 so=0",
        "40 q=1 over=1 n=3 so=1",
        "50 q=6 over=0 n=4 so=0",
        "xxxx 0",
    ]
    done = mevrik("run", tmp_path / "a.vhd", tmp_path / "b.sv", "--top", "tb")
    assert [x.partition("taps ")[2][:3] for x in done.err.splitlines() if "taps" in x] == ["XXX", "000", "001", "010", "101", "010"]


def test_a_dump_has_entities_by_their_ports(tmp_path: Path) -> None:
    """1364-2005 18.1.2: $dumpvars is of the variables and nets of modules; what is inside of an entity has no four-state value to dump."""
    (tmp_path / "tb.v").write_text(
        "`timescale 1ns/1ns\nmodule tb; reg clk = 0; wire [3:0] q; counter u (.clk(clk), .q(q));"
        " initial begin $dumpvars; repeat (3) #5 clk = ~clk; #1 $finish; end endmodule"
    )
    (tmp_path / "counter.vhd").write_text(
        "library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;\n"
        "entity counter is port (clk : in std_logic; q : out std_logic_vector(3 downto 0)); end entity;\n"
        'architecture a of counter is signal n : unsigned(3 downto 0) := "0000"; begin\n'
        "process (clk) begin if rising_edge(clk) then n <= n + 1; end if; end process; q <= std_logic_vector(n); end architecture;\n"
    )
    done = mevrik("run", "tb.v", "counter.vhd", "--top", "tb", cwd=tmp_path)
    assert done.status == 0, done.err
    head, body = (tmp_path / "dump.vcd").read_text().split("$enddefinitions $end\n")
    assert [line.split()[4] for line in head.splitlines() if line.startswith("$var")] == ["clk", "q", "clk", "q"]
    assert [line.split()[0] for line in body.splitlines() if line.startswith("b")] == ["b0", "b1", "b10"]
