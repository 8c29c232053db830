"""A design run with the functions that do all that an edge of a clock wakes, and once more through the queue of the scheduler."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from mevrik.engine.job import Channel, Job
from mevrik.engine.run import Run, RunOptions
from mevrik.engine.simulation import Simulation
from mevrik.lang.analysis import analyse
from mevrik.waves.record import RunRecord


def runs(text: str, folder: Path, suffix: str = ".v", but: tuple[str, ...] = ()) -> list[tuple[object, ...]]:
    """What is recorded and printed with the functions, and without them: which edges have one, how the run ended, all changes `but` those
    of the signals of these names: where a clock is not recorded, its function goes on from edge to edge by itself."""
    source = folder / f"design{suffix}"
    source.write_text(text)
    found: list[tuple[object, ...]] = []
    for through_queue in (False, True):
        target = folder / f"{through_queue}.run"

        def work(channel: Channel, through_queue: bool = through_queue, target: Path = target) -> None:
            analysis = analyse([source])
            design = analysis.elaborate("tb")
            assert design is not None, analysis.diagnostics.items
            _leave_out(but)
            limit = 200 * 10 ** (-9 - design.tick_exp) if suffix == ".vhd" else 200
            run = Run(design, analysis.sources, RunOptions(limit=limit, record="all", record_path=target), lambda m: None)
            typed = run.prepared.typed
            channel.send(sorted(run.prepared.code.edges if typed is None else typed.edges))
            if through_queue:
                run.simulation.kernel.edges = run.simulation.kernel.typed_edges = None
            channel.send(run.finish(run.go()).ended)

        edges, ended = list(Job(work).events())
        record = RunRecord(target)
        changes = []
        for number in sorted(record.signals):
            trace = record.trace(number)
            changes.append([trace.times.tolist(), trace.deltas.tolist(), trace.sites.tolist(), trace.values.tolist()])
        record.close()
        found.append((edges, ended, changes))
    return found


def _leave_out(names: tuple[str, ...]) -> None:
    """Have signals of these names not recorded in this process, which is of one run alone."""
    keep = Simulation.record

    def record(simulation: Simulation, numbers: Iterable[int]) -> None:
        slots = {s.number: s for s in simulation.layout.slots}
        keep(simulation, [k for k in numbers if slots[k].names[0][1].name not in names])

    Simulation.record = record  # type: ignore[method-assign]
