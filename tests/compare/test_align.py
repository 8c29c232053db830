"""Captures: reading, matching, finding the offset, comparing; the run is made by hand."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.compare.align import against_capture, align
from mevrik.lab.capture import CaptureError, match_channels, read_capture, read_map
from mevrik.waves.record import RunRecord
from tests.waves.test_record import record_of

# high from 100 to 130, 200 to 250, 400 to 410 ns; ends at 500 ns
TEXT = """`timescale 1ns/1ns
module tb; reg s = 0; reg never; initial begin
#100 s = 1; #30 s = 0; #70 s = 1; #50 s = 0; #150 s = 1; #10 s = 0; #90 $finish; end endmodule"""
HIGH = ((100, 130), (200, 250), (400, 410))


@pytest.fixture(scope="module")
def record(tmp_path_factory: pytest.TempPathFactory) -> RunRecord:
    return record_of(TEXT, tmp_path_factory.mktemp("align"))


def capture_file(
    folder: Path, start: int, stop: int, step: int, shift: int, wrong: tuple[int, int] = (0, 0), name: str = "s"
) -> Path:
    """What an instrument would see between two moments of the run, its clock `shift` ns late."""
    rows = [f"time_ns,{name}"]
    for t in range(start, stop, step):
        level = any(a <= t < b for a, b in HIGH) ^ (wrong[0] <= t < wrong[1])
        rows.append(f"{t + shift},{int(level)}")
    path = folder / "c.csv"
    path.write_text("\n".join(rows) + "\n")
    return path


@pytest.mark.parametrize("shift", [0, -700, 12345])
def test_offset_is_found(record: RunRecord, tmp_path: Path, shift: int) -> None:
    capture = read_capture(capture_file(tmp_path, 40, 460, 4, shift))
    ledger, found = against_capture("tb", record, "tb", capture, {"s": "s"}, [])
    assert abs(found.offset + shift) <= 4
    assert ledger.state == "agree" and ledger.differing == 0 and ledger.agreeing > 80


def test_one_wrong_stretch_is_one_entry(record: RunRecord, tmp_path: Path) -> None:
    capture = read_capture(capture_file(tmp_path, 0, 480, 2, 50, wrong=(300, 340)))
    ledger, _ = against_capture("tb", record, "tb", capture, {"s": "s"}, [])
    (entry,) = ledger.entries
    assert (entry.left, entry.right, entry.points) == ("0", "1", 20)
    assert abs(entry.start - 300) <= 2 and abs(entry.end - 338) <= 2
    assert ledger.differing == 20


def test_a_slow_instrument_is_no_difference(record: RunRecord, tmp_path: Path) -> None:
    """Samples of 15 ns can't tell where an edge lies to within 15 ns; the 10 ns pulse may be missed."""
    capture = read_capture(capture_file(tmp_path, 0, 390, 15, 0))
    ledger, _ = against_capture("tb", record, "tb", capture, {"s": "s"}, [])
    assert ledger.differing == 0 and any("to an edge" in n for n in ledger.notes)


def test_unknown_is_never_equal(record: RunRecord, tmp_path: Path) -> None:
    capture = read_capture(capture_file(tmp_path, 0, 480, 10, 0, name="never"))
    ledger, _ = against_capture("tb", record, "tb", capture, {"never": "never"}, [])
    assert ledger.state == "unknown" and ledger.agreeing == 0 and ledger.unknown > 40


def test_samples_outside_the_run_are_not_compared(record: RunRecord, tmp_path: Path) -> None:
    capture = read_capture(capture_file(tmp_path, 20, 700, 4, 0))
    ledger, _ = against_capture("tb", record, "tb", capture, {"s": "s"}, [])
    assert ledger.differing == 0 and any("outside the run" in n for n in ledger.notes)
    assert align(record, "tb", capture, {"s": "s"}).overlap < 1


def test_channels_by_name_and_by_map(tmp_path: Path) -> None:
    path = tmp_path / "c.csv"
    path.write_text("time [us],PADDLE,D1\n0,0,1\n1.5,1,0x1\n")
    capture = read_capture(path)
    assert capture.times.tolist() == pytest.approx([0, 1.5e-6])
    assert match_channels(capture, ["paddle", "start"], {})[0] == {"PADDLE": "paddle"}
    (tmp_path / "map.csv").write_text("channel,port\nD1,start\n")
    matched, notes = match_channels(capture, ["paddle", "start"], read_map(tmp_path / "map.csv"))
    assert matched == {"PADDLE": "paddle", "D1": "start"} and notes == []
    assert "fits no port" in match_channels(capture, ["paddle"], {})[1][0]


@pytest.mark.parametrize(
    "text, line, word",
    [
        ("", 1, "empty"), ("a,b\n0,1\n", 1, "first column"), ("time_ns\n0\n", 1, "no channel"), ("time_ns,a\n", 2, "no samples"),
        ("time_ns,a\n0,0\n1\n", 3, "cells"), ("time_ns,a\n0,0\n1,high\n", 3, "no digital value"), ("time_ns,a\n0,0\nx,1\n", 3, "no time"),
        ("time_ns,a\n5,0\n5,1\n", 3, "not after"), ("time_ns,a\n0,0\nnan,1\n", 3, "no time"), ("time_ns,a\n0,0\n1e999,1\n", 3, "no time"),
        ("time_ns,a,a\n0,0,1\n", 1, "two columns are called 'a'"), ("time_ns,a\n0,-1\n", 2, "negative"),
        ("time_ns,a\n0,0x1FFFFFFFFFFFFFFFF\n", 2, "more than 64 bits"), ('time_ns,a\n0,0\n1,"1\n', 3, "as CSV"),
    ],
)  # fmt: skip
def test_broken_captures_name_the_line(tmp_path: Path, text: str, line: int, word: str) -> None:
    path = tmp_path / "c.csv"
    path.write_text(text)
    with pytest.raises(CaptureError) as caught:
        read_capture(path)
    assert caught.value.problems[0].line == line and word in caught.value.problems[0].text
