"""A run that takes ever more memory is stopped before the machine suffers."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable

SHARE = 0.6  # of the machine's memory that one run may hold
_INTERVAL = 0.25  # seconds


def held() -> int:
    """Bytes that this process has in memory."""
    with open("/proc/self/statm") as statm:
        return int(statm.read().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def available() -> int:
    """Bytes that the machine has, or the group of processes that this one is in may hold."""
    machine = os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")
    try:
        with open("/sys/fs/cgroup/memory.max") as group:
            return min(machine, int(group.read()))
    except (OSError, ValueError):  # no such group, or one without a limit
        return machine


class MemoryWatch:
    """Looks now and then while a run goes on; `tell` hears once, with the limit in GiB, that it is passed."""

    def __init__(self, tell: Callable[[int], None]) -> None:
        self._tell = tell
        self._limit = int(SHARE * available())
        self._over = threading.Event()

    def __enter__(self) -> None:
        threading.Thread(target=self._look, daemon=True).start()

    def __exit__(self, *_: object) -> None:
        self._over.set()

    def _look(self) -> None:
        while not self._over.wait(_INTERVAL):
            if held() > self._limit:
                self._tell(max(self._limit >> 30, 1))
                return
