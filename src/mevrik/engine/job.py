"""Work in a process of its own: a fault, an endless loop or a memory explosion ends the job, never the caller.

The child is a fork of this process (the command line) or of a server that has all imports done (the desktop, whose own
process has threads and a window). The function to run gets a `Channel`; what it sends arrives as events at the caller.
"""

from __future__ import annotations

import gc
import os
import pickle
import select
import signal
import struct
import sys
import threading
import traceback
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Protocol

from mevrik.design.record import Frozen

if TYPE_CHECKING:  # at a start of the command line its import would take longer than the fork
    from multiprocessing.context import ForkServerProcess

COLLECT_AFTER = 200_000  # objects
RECURSION = 20_000  # deep expressions recurse; the stack below is sized for it
STACK = 512 << 20


class Died(Frozen, frozen=True):
    """The last event of a job that did not come to its end by itself: why."""

    reason: str


class Wire(Protocol):
    """One end of a connection between two processes. `recv` raises EOFError when the other end is closed."""

    def send(self, event: object, /) -> None: ...
    def recv(self) -> object: ...
    def poll(self) -> bool: ...
    def close(self) -> None: ...
    def fileno(self) -> int: ...


class _Pipes:
    """The wire between a process and its fork: a pipe for each direction; before each event, in eight bytes, its size."""

    def __init__(self, reading: int, writing: int) -> None:
        self._reading, self._writing = reading, writing

    def send(self, event: object) -> None:
        data = pickle.dumps(event, 5)
        left = memoryview(struct.pack("<Q", len(data)) + data)
        while left:
            left = left[os.write(self._writing, left) :]

    def recv(self) -> object:
        (size,) = struct.unpack("<Q", self._read(8))
        return pickle.loads(self._read(size))

    def _read(self, size: int) -> bytes:
        found = bytearray()
        while len(found) < size:
            piece = os.read(self._reading, min(size - len(found), 1 << 20))
            if not piece:
                raise EOFError
            found += piece
        return bytes(found)

    def poll(self) -> bool:
        return bool(select.select([self._reading], [], [], 0)[0])

    def fileno(self) -> int:
        return self._reading

    def close(self) -> None:
        os.close(self._reading)
        os.close(self._writing)


class _Fork:
    """A fork of this process that does a job."""

    def __init__(self, function: Callable[..., None], args: tuple[object, ...]) -> None:
        (here_in, there_out), (there_in, here_out) = os.pipe(), os.pipe()
        sys.stdout.flush()
        sys.stderr.flush()
        self.pid = os.fork()
        if not self.pid:
            os.close(here_in)
            os.close(here_out)
            try:
                _child(_Pipes(there_in, there_out), function, args)
            finally:
                os._exit(1)
        os.close(there_in)
        os.close(there_out)
        self.wire = _Pipes(here_in, here_out)
        self.exitcode: int | None = None

    def join(self) -> None:
        if self.exitcode is None:
            self.exitcode = os.waitstatus_to_exitcode(os.waitpid(self.pid, 0)[1])

    def kill(self) -> None:
        if self.exitcode is None:
            os.kill(self.pid, signal.SIGKILL)


class Channel:
    """The child's side: sends events, hears commands."""

    def __init__(self, connection: Wire) -> None:
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


def _child(connection: Wire, function: Callable[..., None], args: tuple[object, ...]) -> None:
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
        self.connection: Wire  # for waiting on several jobs, or from an event loop (`fileno`)
        self._process: _Fork | ForkServerProcess
        if context == "fork":
            fork = _Fork(function, args)
            self._process, self.connection = fork, fork.wire
        else:
            import multiprocessing as mp

            server = mp.get_context("forkserver")
            self.connection, theirs = server.Pipe()
            self._process = server.Process(target=_child, args=(theirs, function, args), daemon=True)
            self._process.start()
            theirs.close()
        self.ended = False

    @property
    def pid(self) -> int:
        return self._process.pid or 0

    def send(self, command: object) -> None:
        try:
            self.connection.send(command)
        except (BrokenPipeError, OSError):
            pass

    def events(self) -> Iterator[object]:
        while (event := self._next()) is not None:
            yield event

    def poll(self) -> Iterator[object]:
        """The events that are there now."""
        while not self.ended and self.connection.poll():
            event = self._next()
            if event is None:
                return
            yield event

    def _next(self) -> object | None:
        if self.ended:
            return None
        try:
            event: object = self.connection.recv()
            return event
        except (EOFError, OSError):
            self.ended = True
        self._process.join()
        code = self._process.exitcode or 0
        self.connection.close()
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
    import multiprocessing as mp
    from multiprocessing import forkserver

    ctx = mp.get_context("forkserver")
    ctx.set_forkserver_preload(["mevrik.project.ready"])
    forkserver.ensure_running()
