"""The run record and VCD, against a run whose changes are known."""

from __future__ import annotations

import os
import re
import sqlite3
import time
from pathlib import Path

import pytest

from mevrik.engine.job import Channel, Job
from mevrik.engine.run import Run, RunOptions
from mevrik.lang.analysis import analyse
from mevrik.waves.record import RecordError, RunRecord
from mevrik.waves.sampling import settled_moments
from mevrik.waves.vcd import write_vcd

TEXT = """`timescale 1ns/1ns
module tb;
  reg a;
  reg [11:0] bus;
  reg [99:0] wide;
  real level;
  initial begin
    a = 0; bus = 12'hABC; wide = 100'd1 << 99; level = 0.5;
    #10 a = 1;
    #5 a = 1'bz; bus = 12'b0000_xxxx_1111;
    #5 a = 0; level = 1.25;
    #7 $finish;
  end
endmodule
"""


def record_of(text: str, folder: Path, name: str = "a", suffix: str = ".v") -> RunRecord:
    source, target = folder / f"{name}{suffix}", folder / f"{name}.run"
    source.write_text(text)

    def work(channel: Channel) -> None:
        analysis = analyse([source])
        design = analysis.elaborate("tb")
        assert design is not None
        run = Run(design, analysis.sources, RunOptions(record="all", record_path=target), lambda m: None)
        channel.send(run.finish(run.go()).ended)

    assert list(Job(work).events()) == ["finish"]
    return RunRecord(target)


@pytest.fixture(scope="module")
def record(tmp_path_factory: pytest.TempPathFactory) -> RunRecord:
    return record_of(TEXT, tmp_path_factory.mktemp("record"))


def test_changes_in_order(record: RunRecord) -> None:
    trace = record.trace("tb.a")
    assert [(int(t), trace.logic(i).bits()) for i, t in enumerate(trace.times)] == [
        (0, "x"),
        (0, "0"),
        (10, "1"),
        (15, "z"),
        (20, "0"),
    ]
    assert record.end == 27 and record.finished and record.tick_exp == -9


def test_values_at_moments(record: RunRecord) -> None:
    assert record.trace("tb.a").at(12).bits() == "1"
    assert record.trace("tb.bus").at(3).val == 0xABC
    assert record.trace("tb.bus").at(16).bits() == "0000xxxx1111"
    assert record.trace("tb.wide").at(5).val == 1 << 99
    level = record.trace("tb.level")
    assert level.real(level.index_at(26)) == 1.25


def test_site_is_the_statement_that_wrote(record: RunRecord) -> None:
    trace = record.trace("tb.a")
    site = record.site(int(trace.sites[trace.index_at(12)]))
    assert site is not None and (site.line, site.text) == (9, "a = 1;")


def test_part_of_a_trace_holds_the_value_before_it(record: RunRecord) -> None:
    trace = record.trace("tb.a", 12, 14)
    assert trace.at(12).bits() == "1"


def test_unknown_name_suggests(record: RunRecord) -> None:
    with pytest.raises(RecordError, match=r"did you mean 'tb\.bus'"):
        record.trace("tb.bus_")


def test_no_record(tmp_path: Path) -> None:
    with pytest.raises(RecordError, match="no such run record"):
        RunRecord(tmp_path / "none.run")
    (tmp_path / "bad.run").write_bytes(b"not a database at all" * 50)
    with pytest.raises(RecordError, match="is no run record"):
        RunRecord(tmp_path / "bad.run")


def test_vcd(record: RunRecord, tmp_path: Path) -> None:
    """IEEE 1364-2005 18.2: identifier codes, shortened vectors, one moment after the other."""
    path = tmp_path / "out.vcd"
    write_vcd(record, path)
    text = path.read_text()
    head, body = text.split("$enddefinitions $end\n")
    code = {line.split()[4]: line.split()[3] for line in head.splitlines() if line.startswith("$var")}
    assert "$scope module tb $end" in head and "1 ns" in head
    moments = {int(part.split("\n")[0]): part.split("\n")[1:] for part in re.split(r"^#", body, flags=re.M)[1:]}
    assert sorted(moments) == [0, 10, 15, 20, 27]
    assert f"0{code['a']}" in moments[0] and f"1{code['a']}" in moments[10] and f"z{code['a']}" in moments[15]
    assert f"b101010111100 {code['bus']}" in moments[0]
    assert f"b0xxxx1111 {code['bus']}" in moments[15]
    assert f"r1.25 {code['level']}" in moments[20]


def test_many_changes_come_in_blocks(tmp_path: Path) -> None:
    text = "module tb; reg c = 0; reg [15:0] n = 0; always #1 begin c = ~c; n = n + 3; end initial #20000 $finish; endmodule"
    record = record_of(text, tmp_path)
    number = record.name("tb.n").signal
    blocks = record.blocks(number)
    assert len(blocks) > 2 and sum(b.count for b in blocks) == 19999
    assert record.trace("tb.n").at(12345).val == 12345 * 3 % 65536
    assert len(record.trace("tb.n", 12000, 12010)) < 9000


def test_record_can_be_read_while_it_is_written(tmp_path: Path) -> None:
    source, target = tmp_path / "a.v", tmp_path / "a.run"
    source.write_text("module tb; reg c = 0; always #1 c = ~c; endmodule")

    def work(channel: Channel) -> None:
        analysis = analyse([source])
        design = analysis.elaborate("tb")
        assert design is not None
        run = Run(design, analysis.sources, RunOptions(record="all", record_path=target), lambda m: None)
        run.go(5000)
        while RunRecord(target).end < 5000:
            time.sleep(0.01)
        channel.send("half way")
        run.go(9000)
        time.sleep(60)

    job = Job(work)
    events = job.events()
    assert next(events) == "half way"
    assert not RunRecord(target).finished
    os.kill(job.pid, 9)
    assert "SIGKILL" in str(next(events))
    after = RunRecord(target)
    assert after.trace("tb.c").at(4001).val == 1, "what was stored before the worker died is still there"
    assert sqlite3.connect(target).execute("PRAGMA integrity_check").fetchone() == ("ok",)


def test_settled_moments(tmp_path: Path) -> None:
    record = record_of("module tb; reg a = 0, b = 0; initial begin #10 a = 1; #5 b = 1; #5 $finish; end endmodule", tmp_path)
    starts, samples = settled_moments([record.trace("tb.a"), record.trace("tb.b")], record.end)
    assert starts.tolist() == [0, 10, 15] and samples.tolist() == [9, 14, 20]


def test_columns_as_narrow_as_their_numbers(tmp_path: Path) -> None:
    """A block keeps one number for a column that never changes, else one, two, four or eight bytes each, and no plane that is all 0 or 1.
    Whatever it keeps, the changes are these: worked out by the same steps in Python."""
    text = """`timescale 1ns/1ns
    module tb;
      reg clk = 0; reg [69:0] wide = 0; reg [7:0] tri8 = 8'bz; reg signed [15:0] zigzag; integer k; real r; reg many = 0; reg ones = 1'bx;
      initial begin
        for (k = 0; k < 9000; k = k + 1) begin
          #5 clk = ~clk; wide = wide * 3 + k; if (k % 100 == 7) tri8 = k % 200 == 7 ? 8'b1x0z_zx01 : k; r = k / 4.0;
          if (k % 1000 == 0) begin #300 zigzag = -k; #70000 zigzag = k; #5000000000 many = ~many; repeat (300) #0 many = ~many; end
        end
        ones = 1; #1 $finish;
      end
    endmodule"""
    now, wide, found = 0, 0, {"clk": [(0, 0)], "wide": [(0, 0)], "zigzag": [(0, "x" * 16)], "many": [(0, 0)], "r": [(0, 0.0)]}
    for k in range(9000):
        now += 5
        found["clk"].append((now, 1 - k % 2))
        wide = (wide * 3 + k) % (1 << 70)
        if wide != found["wide"][-1][1]:
            found["wide"].append((now, wide))
        if k:
            found["r"].append((now, k / 4))
        if k % 1000 == 0:
            for step, name, value in ((300, "zigzag", -k), (70000, "zigzag", k)):
                now += step
                if k or step == 300:
                    found[name].append((now, value))
            now += 5_000_000_000
            found["many"] += [(now, found["many"][-1][1] ^ 1 ^ (j % 2)) for j in range(301)]
    record = record_of(text, tmp_path)
    times = {name: record.trace(f"tb.{name}") for name in found}
    assert list(zip(times["clk"].times.tolist(), times["clk"].plane(0).tolist(), strict=True)) == found["clk"]
    assert [(int(t), times["wide"].logic(i).val) for i, t in enumerate(times["wide"].times)] == found["wide"]
    assert [(int(t), times["r"].real(i)) for i, t in enumerate(times["r"].times)] == found["r"]
    many = times["many"]
    assert list(zip(many.times.tolist(), many.plane(0).tolist(), strict=True)) == found["many"]
    assert many.deltas.max() >= 300
    zigzag = times["zigzag"]
    signed = [zigzag.logic(i) for i in range(1, len(zigzag))]
    assert [(int(t), x.val - (1 << 16) * (x.val >> 15)) for t, x in zip(zigzag.times[1:], signed, strict=True)] == found["zigzag"][
        1:
    ]
    tri = record.trace("tb.tri8")
    assert {tri.logic(i).bits() for i in range(0, len(tri))} >= {"zzzzzzzz", "1x0zzx01", "01101011"}  # 107 of k = 107
    assert [x.logic(1).bits() for x in (record.trace("tb.ones"),)] == ["1"]
    record.close()


WIDTHS = (1, 3, 8, 13, 16, 24, 33, 64, 70)


def test_unknown_values_among_known_ones(tmp_path: Path) -> None:
    """While all values of a block are 0 and 1 it keeps one plane; where others come into it, what was there before stays what it was."""
    lines = [f"reg [{n - 1}:0] v{n} = 0;" for n in WIDTHS]
    step = [f"v{n} = k % 700 == 650 ? {n}'bz : k % 700 == 651 ? {n}'bx : v{n} === {n}'bx ? 1 : v{n} + 1;" for n in WIDTHS]
    record = record_of(
        f"module tb; integer k; {' '.join(lines)} initial begin for (k = 1; k < 3000; k = k + 1) begin #1 {' '.join(step)} end #1 $finish; end endmodule",
        tmp_path,
    )
    for n in WIDTHS:
        expected, value = [], 0
        for k in range(1, 3000):
            if k % 700 in (650, 651):
                expected.append("zx"[k % 700 - 650] * n)
            else:
                value = 1 if k % 700 == 652 else (value + 1) % (1 << n)
                expected.append(f"{value:0{n}b}")
        trace = record.trace(f"tb.v{n}")
        assert [trace.logic(i).bits() for i in range(1, len(trace))] == expected
    record.close()


def test_nine_values_among_known_ones(tmp_path: Path) -> None:
    """The same in VHDL, where the kernel records what a process with waits assigns, and code for the edge of a clock its own."""
    signals = [f"signal {v}{n} : std_logic_vector({n - 1} downto 0) := (others => '0');" for n in WIDTHS for v in "we"]
    step = [
        f"if k mod 700 >= 650 and k mod 700 < 657 then {v}{n} <= ({n - 1} => meta(k mod 700 - 649), others => '1');"
        f" elsif k mod 700 = 657 then {v}{n} <= (others => '0'); else {v}{n} <= std_logic_vector(unsigned({v}{n}) + 1); end if;"
        for n in WIDTHS
        for v in "we"
    ]
    waited, clocked = step[::2], step[1::2]
    record = record_of(
        f"""library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;
        entity tb is end;
        architecture a of tb is
          signal clk : std_logic := '0';
          constant meta : std_logic_vector(1 to 7) := "UXZWLH-";
          {" ".join(signals)}
        begin
          clk <= not clk after 1 ns when now < 5997 ns;
          process begin for k in 1 to 2999 loop wait for 2 ns; {" ".join(waited)} end loop; wait for 2 ns; std.env.finish; end process;
          process (clk) variable k : integer := 0; begin if rising_edge(clk) then k := k + 1; {" ".join(clocked)} end if; end process;
        end;""",
        tmp_path, suffix=".vhd",
    )  # fmt: skip
    for n in WIDTHS:
        expected, value = [], 0
        for k in range(1, 3000):
            at = k % 700 - 650
            value = 0 if at == 7 else (value + 1) % (1 << n)
            expected.append("UXZWLH-"[at] + "1" * (n - 1) if 0 <= at < 7 else f"{value:0{n}b}")
        for v in "we":
            trace = record.trace(f"tb.{v}{n}")
            size = trace.info.size
            planes = [
                [int.from_bytes(row[p * size : (p + 1) * size].tobytes(), "little") for p in range(4)] for row in trace.values[1:]
            ]
            found = [
                "".join("UX01ZWLH-"[sum((x >> b & 1) << p for p, x in enumerate(four))] for b in reversed(range(n)))
                for four in planes
            ]
            assert found == expected, (v, n)
    record.close()


def test_a_record_of_another_version(tmp_path: Path) -> None:
    record = record_of(TEXT, tmp_path)
    record.close()
    with sqlite3.connect(tmp_path / "a.run") as db:
        db.execute("PRAGMA user_version = 1")
    with pytest.raises(RecordError, match="written by another version of Mevrik; run the design again"):
        RunRecord(tmp_path / "a.run")
