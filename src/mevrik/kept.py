"""What is kept in the user's cache between runs: it only saves time, so whatever goes wrong with it is silent."""

from __future__ import annotations

import os
import threading
from pathlib import Path

EACH = 32
_count = 0  # of what this process has kept


def folder(kind: str) -> Path:
    """Where things of a kind are: "code", "packages", "trees"."""
    base = os.environ.get("XDG_CACHE_HOME") or os.path.join(os.path.expanduser("~"), ".cache")
    return Path(base) / "mevrik" / kind


def load(path: Path) -> bytes | None:
    try:
        return path.read_bytes()
    except OSError:
        return None


def keep(path: Path, data: bytes, most: int) -> None:
    """Atomic. Of the folder's files about `most` stay, the newest; that is looked after now and then."""
    global _count
    _count += 1
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        temporary = path.with_suffix(f".{os.getpid()}.{threading.get_ident()}")
        temporary.write_bytes(data)
        os.replace(temporary, path)
        if _count % EACH == 1:
            _trim(path.parent, most)
    except OSError:
        pass


def _trim(where: Path, most: int) -> None:
    with os.scandir(where) as entries:
        files = [(entry.name, entry) for entry in entries]
    if len(files) > most * 2:
        by_age = sorted((entry.stat().st_mtime, name) for name, entry in files)
        for _, name in by_age[: len(files) - most]:
            (where / name).unlink(missing_ok=True)
