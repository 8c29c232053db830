"""The files of a folder, by their suffix."""

from __future__ import annotations

from pathlib import Path

from mevrik.lang.analysis import SOURCE_SUFFIXES
from mevrik.project.project import FILE

SKIPPED = {".mevrik", ".git", ".venv", "__pycache__", "node_modules"}
FILE_LIMIT = 5000


def _walk(folder: Path) -> list[Path]:
    found: list[Path] = []
    stack = [folder]
    while stack and len(found) < FILE_LIMIT:
        here = stack.pop()
        try:
            entries = sorted(here.iterdir())
        except OSError:
            continue
        for entry in entries:
            if entry.is_dir():
                if entry.name not in SKIPPED and not entry.name.startswith("."):
                    stack.append(entry)
            elif entry.is_file():
                found.append(entry)
    return sorted(found)


def hdl_files(folder: Path) -> list[Path]:
    """All HDL source files below a folder."""
    return [p for p in _walk(folder) if p.suffix.lower() in SOURCE_SUFFIXES]


def csv_files(folder: Path) -> list[Path]:
    """All tables and captures below a folder."""
    return [p for p in _walk(folder) if p.suffix.lower() == ".csv"]


def files_of_interest(folder: Path) -> frozenset[tuple[Path, int]]:
    """What decides which subjects there are: sources, tables, captures and plans by their names, settings also by their time (ns)."""
    kinds = (*SOURCE_SUFFIXES, ".csv", ".vcd", ".toml")
    return frozenset((p, p.stat().st_mtime_ns if p.name == FILE else 0) for p in _walk(folder) if p.suffix.lower() in kinds)
