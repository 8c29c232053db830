"""Work in a process of its own: a fault, an endless loop or a memory explosion ends the job, never the caller.

The child is a fork of this process (the command line) or of a server that has all imports done (the desktop, whose own
process has threads and a window). The function to run gets a `Channel`; what it sends arrives as events at the caller.
"""

from __future__ import annotations

import gc
import multiprocessing as mp
import os
import signal
import sys
import threading
import traceback
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from multiprocessing.connection import Connection

COLLECT_AFTER = 200_000  # objects
RECURSION = 20_000  # deep expressions recurse; the stack below is sized for it
STACK = 512 << 20


@dataclass(frozen=True, slots=True)
class Died:
    """The last event of a job that did not come to its end by itself: why."""

    reason: str


class Channel:
    """The child's side: sends events, hears commands."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._lock = threading.Lock()
        self._hearers: list[Callable[[object], None]] = []
        threading.Thread(target=self._listen, daemon=True).start()

    def send(self, event: object) -> None:
        with self._lock:
            try:
                self._connection.send(event)
            except (BrokenPipeError, OSError):
                os._exit(3)  # nobody is left to hear the result

    def on_command(self, hearer: Callable[[object], None]) -> None:
        self._hearers.append(hearer)

    def _listen(self) -> None:
        while True:
            try:
                command = self._connection.recv()
            except (EOFError, OSError):
                os._exit(3)
            for hearer in self._hearers:
                hearer(command)


def _child(connection: Connection, function: Callable[..., None], args: tuple[object, ...]) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    sys.setrecursionlimit(RECURSION)
    threading.stack_size(STACK)
    gc.set_threshold(
        COLLECT_AFTER, 50, 100
    )  # trees of a large design live to the end: looking through them again and again is lost time
    channel = Channel(connection)

    def work() -> None:
        try:
            function(channel, *args)
        except MemoryError:
            channel.send(Died("it needed more memory than there is"))
        except Exception:
            channel.send(Died("a fault of Mevrik's own; please report it:\n" + traceback.format_exc()))

    thread = threading.Thread(target=work)
    thread.start()
    thread.join()
    connection.close()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(0)


class Job:
    """A running job. Iterate over `events` (blocking), or `poll` now and then; `None` is never an event."""

    def __init__(self, function: Callable[..., None], *args: object, context: str = "fork") -> None:
        ctx = mp.get_context(context)
        self._connection, theirs = ctx.Pipe()
        self._process = ctx.Process(target=_child, args=(theirs, function, args), daemon=True)  # type: ignore[attr-defined]
        self._process.start()
        theirs.close()
        self.ended = False

    @property
    def connection(self) -> Connection:
        """For waiting on several jobs, or from an event loop (`fileno`)."""
        return self._connection

    @property
    def pid(self) -> int:
        return self._process.pid or 0

    def send(self, command: object) -> None:
        try:
            self._connection.send(command)
        except (BrokenPipeError, OSError):
            pass

    def events(self) -> Iterator[object]:
        while (event := self._next()) is not None:
            yield event

    def poll(self) -> Iterator[object]:
        """The events that are there now."""
        while not self.ended and self._connection.poll():
            event = self._next()
            if event is None:
                return
            yield event

    def _next(self) -> object | None:
        if self.ended:
            return None
        try:
            event: object = self._connection.recv()
            return event
        except (EOFError, OSError):
            self.ended = True
        self._process.join()
        code = self._process.exitcode or 0
        self._connection.close()
        if code == 0:
            return None
        if code < 0:
            name = signal.Signals(-code).name
            return Died(f"its process was ended by {name}")
        return Died(f"its process ended with status {code}")

    def kill(self) -> None:
        """End it at once; what it had flushed to its record stays."""
        self._process.kill()
        self._process.join()
        self.ended = True


def warm_up() -> None:
    """Start the server that the desktop's jobs are forked from, with the imports done."""
    ctx = mp.get_context("forkserver")
    ctx.set_forkserver_preload(["mevrik.project.examine"])
    from multiprocessing import forkserver

    forkserver.ensure_running()
