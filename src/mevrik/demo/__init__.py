"""The demo project: the lock at Tarnwick."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

SOURCE = Path(__file__).parent / "tarnwick_lock"


def fresh_copy(target: Path | None = None) -> Path:
    """Copy the demo project to `target`, by default a folder in the user's cache that is replaced each time."""
    if target is None:
        base = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
        target = base / "mevrik" / "demo" / "tarnwick_lock"
    shutil.rmtree(target, ignore_errors=True)
    shutil.copytree(SOURCE, target)
    for path in [target, *target.rglob("*")]:
        path.chmod(path.stat().st_mode | 0o200)
    return target
