"""Files that people write beside their HDL, mutated: whatever they say, it is taken or refused with a line."""

from __future__ import annotations

import os
import random
import re
from collections.abc import Callable
from pathlib import Path

import pytest

from mevrik.design.ports import PortInfo
from mevrik.expect.coverage import coverage
from mevrik.expect.table import Problem, TableError, bind, read_table_text
from mevrik.lab.capture import CaptureError, match_channels, read_capture, read_map
from mevrik.project.load import load_project
from mevrik.stimulus.bench import write_bench
from mevrik.stimulus.plan import PlanError, automatic_plan
from mevrik.stimulus.plan_file import load_plan
from tests.conftest import DEMO

ROUNDS = int(os.environ.get("MEVRIK_FUZZ_ROUNDS", "12")) * 10
SEEDS = range(int(os.environ.get("MEVRIK_FUZZ_SEEDS", "12")) // 3)
_WORD = re.compile(r"\s+|\w+|[^\w\s]")
STRAY = [
    "-1", "1e999", "nan", "inf", "[", "]", "{", "}", "=", '"', "'", ",", "\n", "0x", "99999999999999999999999999", "true", "1979-05-27", "ü", "²", "\0", "3.5",
    "[[subject]]", "[a.b]", "{ a = 1 }", "[]", '""', "  ", "subject", "[1:0]", "a[", "[9999999999999:0]", "time_ns", "1e30s", "-",
]  # fmt: skip

LAMP = [PortInfo(x, "input", 1, 0, 0) for x in ("clk", "reset", "freed")]
LAMP += [PortInfo("clocks", "input", 4, 3, 0), PortInfo("n", "input", 4, 3, 0), PortInfo("lamp", "output", 1, 0, 0)]
GATE = [PortInfo(x, "input", 1, 0, 0) for x in ("level_low", "level_high", "lower_shut")] + [PortInfo("free", "output", 1, 0, 0)]


def _plan(path: Path) -> list[Problem]:
    try:
        write_bench("lamp", LAMP, load_plan(path, LAMP))
    except PlanError as error:
        return error.problems
    return []


def _table(path: Path) -> list[Problem]:
    try:
        table = bind(read_table_text(path), GATE)
        coverage(table)
        automatic_plan(GATE, table)
    except TableError as error:
        return error.problems
    return []


def _capture(path: Path) -> list[Problem]:
    try:
        capture = read_capture(path)
        match_channels(capture, ["paddle"], {})
        assert capture.period >= 0
    except CaptureError as error:
        return error.problems
    return []


def _map(path: Path) -> list[Problem]:
    try:
        read_map(path)
    except CaptureError as error:
        return error.problems
    return []


KINDS: list[tuple[str, str, Callable[[Path], list[Problem]]]] = [
    ("mevrik.toml", (DEMO / "mevrik.toml").read_text() + "parameters = { W = 4 }\n", lambda path: load_project(path.parent).problems),
    ("lamp.plan.toml", (DEMO / "lamp_timer.plan.toml").read_text() + '[lane.n]\npatterns = [{ kind = "sweep", to = 3, every = "4ns" }]\n', _plan),
    ("gate.csv", "level_low,level_high,lower_shut,free\n0,-,1,x\n1,0,0,0b1\n0x1,1,1,z\n", _table),
    ("paddle.capture.csv", "".join((DEMO / "paddle_pwm.capture.csv").read_text().splitlines(True)[:12]), _capture),
    ("paddle.map.csv", "channel,port\nD0,clk\nD1,paddle\n", _map),
]  # fmt: skip


@pytest.mark.parametrize("name, text, read", KINDS, ids=[k[0] for k in KINDS])
def test_as_they_are_they_can_be_read(tmp_path: Path, name: str, text: str, read: Callable[[Path], list[Problem]]) -> None:
    path = tmp_path / name
    path.write_text(text)
    assert read(path) == []


@pytest.mark.parametrize("name, text, read", KINDS, ids=[k[0] for k in KINDS])
@pytest.mark.parametrize("seed", SEEDS)
def test_nothing_is_raised(tmp_path: Path, name: str, text: str, read: Callable[[Path], list[Problem]], seed: int) -> None:
    source = random.Random(seed)
    path = tmp_path / name
    refused = 0
    for _ in range(ROUNDS):
        words = _WORD.findall(text)
        for _ in range(source.randint(1, 5)):
            at = source.randrange(len(words))
            words[at] = source.choice(["", source.choice(STRAY), source.choice(words), words[at] + source.choice(STRAY)])
        mutant = "".join(words)
        path.write_text(mutant)
        told = read(path)
        refused += bool(told)
        for problem in told:
            assert 1 <= problem.line <= mutant.count("\n") + 2 and problem.text, (problem, mutant)
    assert refused  # else nothing is looked at
