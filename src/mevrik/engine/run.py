"""One run of an elaborated design in this process: recording, messages, the reason why it ended."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import Frozen
from mevrik.design.types import Handle, List, Text
from mevrik.design.unit import Design
from mevrik.engine import abi
from mevrik.engine.layout import LayoutError, Unsupported
from mevrik.engine.simulation import FOREVER, Simulation, prepare
from mevrik.lang.source import Place, SourceMap

if TYPE_CHECKING:
    from mevrik.waves.writer import RecordWriter

ENDED = {
    abi.ENDED_QUIET: "quiet",
    abi.ENDED_FINISH: "finish",
    abi.ENDED_STOP: "stop",
    abi.ENDED_LIMIT: "limit",
    abi.ENDED_ERROR: "error",
    abi.ENDED_CANCEL: "cancelled",
}


class Message(Frozen, frozen=True):
    """What the simulator says while it runs: severity, time in ticks, the place of the statement, text."""

    severity: str
    time: int
    file: str
    line: int
    column: int
    text: str


COLLECT = 64 << 20


class RunOptions(Frozen, frozen=True):
    """`limit` in ticks; `record`: "none", "ports" or "all"; `root`: the folder that $fopen may not leave (None: anywhere);
    `order`: the seed of another legal order of simultaneous events (0: as they come); `start`: "x", or "random" for variables
    that begin with random values instead."""

    limit: int = FOREVER
    record: str = "none"
    record_path: Path | None = None
    plusargs: tuple[str, ...] = ()
    seed: int = 1
    root: Path | None = None
    optimise: str = "background"
    order: int = 0
    start: str = "x"
    metavalues: bool = True  # whether the packages of VHDL warn of unknown operands
    collect: int = COLLECT  # bytes of objects, lists and texts that are asked for before what nothing leads to is looked for


class Outcome(Frozen, frozen=True):
    """How a run ended: quiet, finish, stop, limit, error, cancelled. `status` is the exit status that follows."""

    ended: str
    time: int
    status: int
    text: str = ""
    places: tuple[Place, ...] = ()  # who was at work when it ended


class Run:
    """A simulation and its record. `message` hears what it says."""

    def __init__(self, design: Design, texts: SourceMap, options: RunOptions, message: Callable[[Message], None]) -> None:
        """Lower, load and lay out. Raises LayoutError."""
        self.design, self.options, self.message = design, options, message
        self.sources = texts
        self.writer: RecordWriter | None = None
        self._dump: object = None
        self._port_dumps: object = None
        self._early: list[Message] = []  # said before there was a record
        try:
            prepared = self.prepared = prepare(design)
        except Unsupported as missing:
            error = LayoutError(str(missing))
            place = self.sources.place(self.design.sites[missing.site].pos)
            error.place = f"{place.file}:{place.line}:{place.column}"
            raise error from None
        held: dict[int, int] = {}
        warnings: list[tuple[str, int, str]] = []
        if self.design.annotations:
            from mevrik.engine.annotate import annotate

            held, warnings = annotate(self.design, prepared.layout, self.options.root)
        start = None
        if self.options.start == "random":
            from random import Random

            start = Random(self.options.seed)
        self.simulation = Simulation(prepared, self._say, self.options.optimise, start, held)
        self.simulation.collect(self.options.collect)
        for file, line, text in warnings:
            self.message(Message("warning", 0, file, line, 1, text))
        kernel = self.simulation.kernel
        self._plus = "\n".join(a.removeprefix("+") for a in self.options.plusargs).encode()
        kernel.argv_plus = self._plus
        if self.options.root is not None:
            self._root = os.path.realpath(self.options.root).encode()
            kernel.root = self._root
        self.simulation.lib.k_seed(self.options.seed)
        if self.options.order:
            self.simulation.lib.k_shuffle(self.options.order)
        self.simulation.start_processes()
        self._dumps()
        if self.options.record != "none" and self.options.record_path is not None:
            self._record(self.options.record_path)

    def _dumps(self) -> None:
        wanted = {s.name for s in self._statements() if isinstance(s, n.SysTask) and s.name in ("$dumpvars", "$dumpports")}
        if "$dumpvars" in wanted:
            from mevrik.engine.dump import Dump

            self._dump = Dump(self.simulation)
        if "$dumpports" in wanted:
            from mevrik.engine.dump_ports import PortDumps

            self._port_dumps = PortDumps(self.simulation)

    def _statements(self) -> Iterator[n.Stmt]:
        for unit in self.design.units:
            for body in (*(p.body for p in unit.processes), *(s.body for s in unit.subprograms)):
                yield from walk.statements(body)

    def _record(self, path: Path) -> None:
        # only here: a run that records nothing should not wait for what storing needs
        from mevrik.engine.outline import is_hidden, write_outline
        from mevrik.waves.writer import RecordWriter

        simulation = self.simulation
        chosen = {
            slot.number
            for slot in simulation.layout.slots
            if slot.elements == 1
            and not is_hidden(slot.signal)
            and not isinstance(slot.signal.type, (Text, List, Handle))
            and (self.options.record == "all" or any(s.port or "." not in i.path for i, s in slot.names))
        }
        self.writer = RecordWriter(path)
        write_outline(self.writer, self.sources, simulation, chosen)
        simulation.record(chosen)
        slots = simulation.layout.slots
        for said in self._early:
            self.writer.message(said.severity, said.time, said.file, said.line, said.text)
        self.writer.follow(simulation.lib, {s.number: (s.bytes, s.planes, s.width) for s in slots})

    def _say(self, severity: str, site: int, time: int, text: str) -> None:
        if not self.options.metavalues and severity == "warning" and "metavalue detected" in text:
            return
        place = self._place(site)
        said = Message(severity, time, place.file if place else "", place.line if place else 0, place.column if place else 0, text)
        if self.writer is not None:
            self.writer.message(severity, time, said.file, said.line, text)
        else:
            self._early.append(said)
        self.message(said)

    def _place(self, site: int) -> Place | None:
        """Where a statement stands; one of our packages stands for the statement that called it."""
        if not 0 < site < len(self.design.sites):
            return None
        place = self.sources.place(self.design.sites[site].pos)
        typed = self.simulation.typed
        if place.file.startswith("<") and typed is not None and 0 < typed.caller < len(self.design.sites):
            return self.sources.place(self.design.sites[typed.caller].pos)
        return place

    def go(self, until: int | None = None) -> int:
        """Advance to `until` or the limit; gives an abi.ENDED_ code. A pause or a limit can be followed by another call."""
        return self.simulation.run(self.options.limit if until is None else until)

    def finish(self, code: int) -> Outcome:
        """Close the record and say how it ended."""
        simulation = self.simulation
        kernel = simulation.kernel
        text = bytes(kernel.error).decode("utf-8", "replace")
        failed = code == abi.ENDED_ERROR
        places: list[Place] = []
        if code == abi.ENDED_STOP:
            places = [p for p in [self._place(int(kernel.error_site))] if p is not None]
        if failed:
            sites = [int(kernel.error_site), *simulation.last_sites()]
            places = [p for p in map(self._place, dict.fromkeys(sites)) if p is not None]
        simulation.lib.k_close_files()
        simulation.lib.k_dump_close()
        simulation.lib.k_ports_close()
        simulation.lib.typed_close_files()
        status = 1 if failed or kernel.exit_status else 0
        outcome = Outcome(ENDED.get(code, "pause"), simulation.now, status, text, tuple(places))
        if self.writer is not None:
            simulation.lib.record_close()
            self.writer.set_meta(end=outcome.time, ended=outcome.ended, status=status, error=text, until=outcome.time)
            self.writer.close()
        simulation.leave_code()
        return outcome


__all__ = ["ENDED", "LayoutError", "Message", "Outcome", "Run", "RunOptions"]
