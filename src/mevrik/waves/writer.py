"""Writing a run record while the simulation runs: the kernel hands over blocks of changes, a thread stores them."""

from __future__ import annotations

import ctypes as c
import json
import sqlite3
import threading
from collections.abc import Iterable
from pathlib import Path

import numpy as np
import zstandard

from mevrik.engine.abi import Block
from mevrik.waves.schema import SCHEMA

MARK = 0xFFFFFFFF  # a block with this signal number only says up to which time all is handed over


class RecordWriter:
    """One run record in the making. Rows are committed at each mark of the kernel, so a dead worker loses little."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        for old in (path, path.with_name(path.name + "-wal"), path.with_name(path.name + "-shm")):
            old.unlink(missing_ok=True)
        self.path = path
        self.db = sqlite3.connect(path, check_same_thread=False)
        self.db.executescript("PRAGMA journal_mode=WAL; PRAGMA synchronous=OFF;" + SCHEMA)
        self.lock = threading.Lock()
        self.packer = zstandard.ZstdCompressor(level=1)
        self.thread: threading.Thread | None = None

    def set_meta(self, **values: object) -> None:
        with self.lock:
            rows = [(k, json.dumps(v)) for k, v in values.items()]
            self.db.executemany("INSERT OR REPLACE INTO meta VALUES (?, ?)", rows)
            self.db.commit()

    def fill(self, table: str, rows: Iterable[tuple[object, ...]]) -> None:
        """Insert whole rows into one of the tables of the schema."""
        listed = list(rows)
        if listed:
            marks = ",".join("?" * len(listed[0]))
            with self.lock:
                self.db.executemany(f"INSERT OR IGNORE INTO {table} VALUES ({marks})", listed)

    def message(self, severity: str, time: int, file: str, line: int, text: str) -> None:
        with self.lock:
            self.db.execute("INSERT INTO messages VALUES (?,?,?,?,?)", (severity, time, file, line, text))

    def store(
        self, signal: int, times: np.ndarray, deltas: np.ndarray, sites: np.ndarray, values: np.ndarray, unknown: bool
    ) -> None:
        steps = np.diff(times, prepend=times[:1])
        packed = steps.tobytes() + deltas.tobytes() + sites.tobytes() + values.tobytes()
        row = (signal, int(times[0]), int(times[-1]), len(times), int(unknown), self.packer.compress(packed))
        with self.lock:
            self.db.execute("INSERT INTO blocks VALUES (?,?,?,?,?,?)", row)

    # ---- blocks from the kernel ----

    def follow(self, lib: c.CDLL, planes: dict[int, int], widths: dict[int, int]) -> None:
        """Store what the kernel hands over, in a thread, until the recording is closed."""

        def work() -> None:
            block = Block()
            while lib.record_next(c.byref(block)):
                if block.sig == MARK:
                    self.set_meta(until=int(block.times[0]))
                else:
                    self._take(block, planes[block.sig], widths[block.sig])
                lib.record_release(c.byref(block))

        self.thread = threading.Thread(target=work, daemon=True)
        self.thread.start()

    def _take(self, block: Block, planes: int, width: int) -> None:
        count, size = block.count, block.value_bytes
        times = np.ctypeslib.as_array(block.times, (count,))
        deltas = np.ctypeslib.as_array(block.deltas, (count,))
        sites = np.ctypeslib.as_array(block.sites, (count,))
        values = np.ctypeslib.as_array(block.values, (count, size))
        if planes == 4:  # a value that is known has its bit in the second plane
            known = values[:, size // 4 : size // 2]
            full = np.frombuffer(((1 << width) - 1).to_bytes(size // 4, "little"), np.uint8)
            unknown = bool((known != full).any())
        else:
            unknown = planes > 1 and bool(values[:, size // 2 :].any())
        self.store(block.sig, times, deltas, sites, values, unknown)

    def close(self) -> None:
        """Wait for the last blocks, then finish the file."""
        if self.thread is not None:
            self.thread.join()
        with self.lock:
            self.db.commit()
            self.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            self.db.close()
