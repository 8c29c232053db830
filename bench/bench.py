"""Speed, beside hand-written C compiled in the same run. Prints figures and ratios; nothing is asserted."""

from __future__ import annotations

import fcntl
import gc
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from importlib import import_module
from pathlib import Path

from mevrik import kept

HERE = Path(__file__).parent
CLOCKS = 36_000_000
TURNS = 5


def least(acts: dict[str, Callable[[], float]], turns: int = TURNS) -> dict[str, float]:
    """The least of several measurements of each in seconds: what is left when nothing else disturbs. They take turns, so that what is
    compared has seen the same machine."""
    seen = [{what: act() for what, act in acts.items()} for _ in range(turns)]
    return {what: min(s[what] for s in seen) for what in acts}


def compiled(source: str, folder: Path) -> Path:
    target = folder / source.removesuffix(".c")
    subprocess.run(["gcc", "-O2", "-o", target, HERE / source], check=True)
    return target


def process_time(*command: object) -> float:
    start = time.perf_counter()
    subprocess.run([str(c) for c in command], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - start


def warm(*command: object) -> None:
    """Run once, and wait until the better code that this leaves to be made is kept."""
    process_time(*command)
    time.sleep(0.5)
    lock = kept.folder("code") / "afterwards.lock"
    if lock.exists():
        with open(lock) as held:
            fcntl.flock(held, fcntl.LOCK_EX)


def line(what: str, seconds: float, other: float | None = None, note: str = "") -> None:
    ratio = f"  {seconds / other:5.2f} x" if other else " " * 9
    print(f"  {what:<52}{seconds:9.3f} s{ratio}  {note}".rstrip(), flush=True)


def counters(folder: Path) -> None:
    """The counter pair of bench/counters.v for 36 million clocks."""
    print(f"Two 24-bit counters, {CLOCKS:,} clocks, nothing recorded but the outputs")
    plain, events = compiled("counters_plain.c", folder), compiled("counters_events.c", folder)
    run = [sys.executable, "-m", "mevrik", "run"]
    verilog = [*run, HERE / "counters.v", "-D", f"CLOCKS={CLOCKS}"]
    vhdl = [*run, HERE / "counters.vhd", "--param", f"CLOCKS={CLOCKS}"]
    warm(*verilog)
    warm(*vhdl)
    times = least(
        {
            "(a)": lambda: process_time(plain, CLOCKS),
            "(b)": lambda: process_time(events, CLOCKS),
            "verilog": lambda: process_time(*verilog),
            "vhdl": lambda: process_time(*vhdl),
        }
    )
    yardstick, ours, theirs = times["(b)"], times["verilog"], times["vhdl"]
    line("(a) C, two-state, no events", times["(a)"])
    line("(b) C, event-driven, four-state, delta-accurate", yardstick)
    line("mevrik run, whole process", ours, yardstick, f"of (b); {CLOCKS / ours / 1e6:.1f} million clocks a second")
    line("the same in VHDL, nine-valued", theirs, yardstick, f"of (b); {CLOCKS / theirs / 1e6:.1f} million clocks a second")


def processor(folder: Path) -> None:
    """The 32-bit pipelined processor of bench/processor.v, the same in VHDL, and a core of many records and ports."""
    clocks = 1_000_000
    run, kept = [sys.executable, "-m", "mevrik", "run"], ["--record-file", folder / "processor.run", "--record"]
    verilog = [*run, HERE / "processor.v", "-D", f"CLOCKS={clocks}", *kept]
    vhdl = [*run, HERE / "processor.vhd", "--param", f"CLOCKS={clocks}", *kept]
    core = HERE / "processor"
    records = [*run, *(core / f"{n}.vhd" for n in ("types", "core", "memory", "assembler", "bench")), "--top", "processor_bench",
               "--param", f"clocks={clocks}", "--param", f"program={core / 'sum.asm'}", "--allow-files", *kept]  # fmt: skip
    print(f"A 32-bit processor with five stages, {clocks:,} clocks, ports recorded")
    runs: dict[str, list[object]] = {
        "mevrik run, whole process": [*verilog, "ports"],
        "the same, nothing recorded": [*verilog, "none"],
        "the same, everything recorded": [*verilog, "all"],
        "the same processor in VHDL, ports recorded": [*vhdl, "ports"],
        "the same instructions, a VHDL core of many records": [*records, "ports"],
    }
    for command in runs.values():
        warm(*command)
    times = least({what: lambda command=command: process_time(*command) for what, command in runs.items()})  # type: ignore[misc]
    for what, seconds in times.items():
        line(what, seconds, next(iter(times.values())), f"{clocks / seconds:,.0f} clocks a second")


def netlist(chains: int, length: int) -> str:
    """Chains of gates with delays behind one signal."""
    lines = ["`timescale 1ns/1ns", "module gates_bench;", "reg a = 0;"]
    for c in range(chains):
        lines.append(f"wire {', '.join(f'w{c}_{k}' for k in range(1, length + 1))};")
        for k in range(length):
            before = f"w{c}_{k}" if k else "a"
            lines.append(f"not #(2,1) (w{c}_{k + 1}, {before});" if k % 2 else f"nand #(1,2) (w{c}_{k + 1}, {before}, 1'b1);")
    lines += ["integer n;", "initial begin for (n = 0; n < `ROUNDS; n = n + 1) #1000 a = ~a;"]
    lines += [f'#1000 $display("%b", w0_{length}); $finish; end', "endmodule"]
    return "\n".join(lines)


def gates(folder: Path) -> None:
    """50,000 gates with delays: the difference of a long and a short run is the run alone."""
    chains, length, few, many = 250, 200, 20, 1020
    source = folder / "gates.v"
    source.write_text(netlist(chains, length))
    events = compiled("gates_events.c", folder)
    evaluations = chains * length * (many - few)

    run = [sys.executable, "-m", "mevrik", "run", source, "--record", "none", "-D"]
    times = least(
        {
            "C, few": lambda: process_time(events, few),
            "C, many": lambda: process_time(events, many),
            "few": lambda: process_time(*run, f"ROUNDS={few}"),
            "many": lambda: process_time(*run, f"ROUNDS={many}"),
        },
        3,
    )
    yardstick, short = times["C, many"] - times["C, few"], times["few"]
    ours = times["many"] - short
    print(f"{chains * length:,} gates with delays, {evaluations:,} evaluations")
    line("C, event-driven, written for this netlist", yardstick, note=f"{evaluations / yardstick / 1e6:.1f} million a second")
    line("mevrik, the run alone", ours, yardstick, f"{evaluations / ours / 1e6:.1f} million evaluations a second")
    line(f"mevrik run, whole process, {few} changes", short)


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
    """Parsing and elaborating many modules, and parsing them again from the trees that were kept."""
    os.environ["XDG_CACHE_HOME"] = str(folder / "cache")  # with nothing in it
    from mevrik.lang.analysis import analyse

    text = (HERE.parent / "src/mevrik/demo/tarnwick_lock/paddle_pwm.v").read_text()
    count = 300
    modules = [text.replace("module paddle_pwm", f"module paddle_{k}") for k in range(count)]
    path = folder / "many.v"
    path.write_text("\n".join(modules))
    lines = len(path.read_text().splitlines())
    for used in ("read", "elaborate"):  # what the first use imports is part of a start
        import_module(f"mevrik.lang.verilog.{used}")
    gc.disable()  # as in the command line
    start = time.perf_counter()
    found = analyse([path])
    parsed = time.perf_counter()
    for k in range(count):
        found.elaborate(f"paddle_{k}")
    done = time.perf_counter()
    analyse([path])
    again = time.perf_counter() - done
    print(f"Analysis of {lines:,} lines")
    line("parse", parsed - start, note=f"{lines / (parsed - start):,.0f} lines a second")
    line("the same, unchanged", again, note=f"{lines / again:,.0f} lines a second")
    gc.enable()
    line("elaborate", done - parsed, note=f"{lines / (done - parsed):,.0f} lines a second")


def main() -> int:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        counters(folder)
        processor(folder)
        gates(folder)
        verdict(folder)
        analysis(folder)
    return 0


if __name__ == "__main__":
    sys.exit(main())
