"""Writing a run record while the simulation runs: the kernel hands over blocks of changes, a thread stores them."""

from __future__ import annotations

import ctypes as c
import json
import sqlite3
import threading
from collections.abc import Iterable
from pathlib import Path

import zstandard

from mevrik.engine.abi import Block
from mevrik.waves.schema import SCHEMA

Form = tuple[int, int, int]  # bytes of a plane, planes, bits
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

    # ---- blocks from the kernel ----

    def follow(self, lib: c.CDLL, forms: dict[int, Form]) -> None:
        """Store what the kernel hands over, in a thread, until the recording is closed. `forms`: by the number of the signal."""

        def work() -> None:
            block, packed, facts = Block(), c.create_string_buffer(1 << 16), (c.c_uint64 * 3)()
            while lib.record_next(c.byref(block)):
                if block.sig == MARK:
                    self.set_meta(until=int(block.rows[0]))
                else:
                    most = block.count * block.row + 64
                    if most > len(packed):
                        packed = c.create_string_buffer(most)
                    size = lib.record_pack(c.byref(block), *forms[block.sig], packed, facts)
                    first, last, unknown = facts
                    row = (block.sig, first, last, block.count, unknown, self.packer.compress(memoryview(packed)[:size]))
                    with self.lock:
                        self.db.execute("INSERT INTO blocks VALUES (?,?,?,?,?,?)", row)
                lib.record_release(c.byref(block))

        self.thread = threading.Thread(target=work, daemon=True)
        self.thread.start()

    def close(self) -> None:
        """Wait for the last blocks, then finish the file."""
        if self.thread is not None:
            self.thread.join()
        with self.lock:
            self.db.commit()
            self.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            self.db.close()
