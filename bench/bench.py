"""Speed, beside hand-written C compiled in the same run. Prints figures and ratios; nothing is asserted."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

HERE = Path(__file__).parent
CLOCKS = 36_000_000
REPEATS = 3


def best(act: Callable[[], float], repeats: int = REPEATS) -> float:
    """The least of several measurements in seconds: what is left when nothing else disturbs."""
    return min(act() for _ in range(repeats))


def compiled(source: str, folder: Path) -> Path:
    target = folder / source.removesuffix(".c")
    subprocess.run(["gcc", "-O2", "-o", target, HERE / source], check=True)
    return target


def process_time(*command: object) -> float:
    start = time.perf_counter()
    subprocess.run([str(c) for c in command], check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


def line(what: str, seconds: float, other: float | None = None, note: str = "") -> None:
    ratio = f"  {seconds / other:5.2f} x" if other else " " * 9
    print(f"  {what:<52}{seconds:9.3f} s{ratio}  {note}".rstrip(), flush=True)


def counters(folder: Path) -> None:
    """The counter pair of bench/counters.v for 36 million clocks."""
    print(f"Two 24-bit counters, {CLOCKS:,} clocks, nothing recorded but the outputs")
    plain, events = compiled("counters_plain.c", folder), compiled("counters_events.c", folder)
    lower = best(lambda: process_time(plain, CLOCKS))
    yardstick = best(lambda: process_time(events, CLOCKS))
    line("(a) C, two-state, no events", lower)
    line("(b) C, event-driven, four-state, delta-accurate", yardstick)
    command = [sys.executable, "-m", "mevrik", "run", HERE / "counters.v", "-D", f"CLOCKS={CLOCKS}"]
    process_time(*command)  # fills the code cache
    ours = best(lambda: process_time(*command))
    line("mevrik run, whole process", ours, yardstick, f"of (b); {CLOCKS / ours / 1e6:.1f} million clocks a second")


def verdict(folder: Path) -> None:
    """From saving a source in the editor to new waves and a new verdict."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ["XDG_CONFIG_HOME"] = str(folder)
    from PySide6.QtTest import QTest

    from mevrik.demo import fresh_copy
    from mevrik.desktop.app import application
    from mevrik.desktop.desks.sources import SourcesDesk
    from mevrik.desktop.session import Session
    from mevrik.desktop.shell import Shell
    from mevrik.engine.job import warm_up

    warm_up()
    application()
    session = Session()
    shell = Shell(session)
    shell.resize(1280, 800)
    shell.show()
    shell.open(fresh_copy(folder / "demo"))

    def settle() -> None:
        while session.busy:
            QTest.qWait(2)

    settle()
    session.choose("gate_interlock_flawed")
    desk = shell.desks["Sources"]
    assert isinstance(desk, SourcesDesk)
    wholes: list[float] = []
    splits: list[dict[str, float]] = []
    for number in range(5):
        editor = desk.editors.get(session.subject.sources[0]) if session.subject else None
        if editor is None and session.subject is not None:
            desk.open(session.subject.sources[0])
            editor = desk.current
        assert editor is not None
        editor.appendPlainText(f"// {number}")
        start = time.perf_counter()
        desk.save()
        while "gate_interlock_flawed" in session.progress:
            QTest.qWait(1)
        answered = time.perf_counter()
        shell.repaint()
        shell.grab()
        done = time.perf_counter()
        wholes.append(done - start)
        found = session.current
        assert found is not None
        splits.append({**found.timings, "paint": done - answered, "whole": done - start})
        settle()
    print("From saving a source to new waves and a new verdict (demo, median of 5)")
    for name in ("parse", "elaborate", "expect", "drive", "compile", "run", "store", "compare", "paint"):
        line(name, statistics.median(s.get(name, 0.0) for s in splits))
    line("everything, process start included", statistics.median(wholes))
    shell.close()


def analysis(folder: Path) -> None:
    """Parsing and elaborating many modules."""
    from mevrik.lang.analysis import analyse

    text = (HERE.parent / "src/mevrik/demo/tarnwick_lock/paddle_pwm.v").read_text()
    count = 300
    modules = [text.replace("module paddle_pwm", f"module paddle_{k}") for k in range(count)]
    path = folder / "many.v"
    path.write_text("\n".join(modules))
    lines = len(path.read_text().splitlines())
    start = time.perf_counter()
    found = analyse([path])
    parsed = time.perf_counter()
    for k in range(count):
        found.elaborate(f"paddle_{k}")
    done = time.perf_counter()
    print(f"Analysis of {lines:,} lines")
    line("parse", parsed - start, note=f"{lines / (parsed - start):,.0f} lines a second")
    line("elaborate", done - parsed, note=f"{lines / (done - parsed):,.0f} lines a second")


def main() -> int:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        counters(folder)
        analysis(folder)
        verdict(folder)
    return 0


if __name__ == "__main__":
    sys.exit(main())
