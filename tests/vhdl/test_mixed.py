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
