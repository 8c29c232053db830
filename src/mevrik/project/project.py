"""A project: a folder of HDL, and what is said about each module in it."""

from __future__ import annotations

import hashlib
import os
from dataclasses import dataclass, field
from pathlib import Path

from mevrik.expect.table import Problem

FILE = "mevrik.toml"


@dataclass(frozen=True, slots=True)
class Subject:
    """One module with everything that is said about it. `module` is what is compared, `testbench` what drives it."""

    name: str
    module: str
    sources: tuple[Path, ...]
    testbench: str = ""
    table: Path | None = None
    expressions: tuple[tuple[str, str], ...] = ()
    plan: Path | None = None
    capture: Path | None = None
    channel_map: Path | None = None
    parameters: tuple[tuple[str, int], ...] = ()
    limit: str = ""
    tolerance: str = ""
    line: int = 1  # where mevrik.toml names it


@dataclass(slots=True)
class Project:
    """`problems` are about the project itself; what is wrong with a source or a table is told by its check."""

    folder: Path
    name: str
    subjects: list[Subject]
    problems: list[Problem] = field(default_factory=list)

    @property
    def cache(self) -> Path:
        return cache_folder(self.folder)

    def subject(self, name: str) -> Subject | None:
        return next((s for s in self.subjects if s.name == name), None)

    def record_path(self, subject: Subject) -> Path:
        safe = "".join(c if c.isalnum() or c in "_-" else "_" for c in subject.name)
        return self.cache / "runs" / f"{safe}.run"


def cache_folder(folder: Path) -> Path:
    """Where run records go: `.mevrik` in the project, or the user's cache when the project can't be written."""
    if os.access(folder, os.W_OK):
        return folder / ".mevrik"
    base = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    return base / "mevrik" / hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:16]


class ProjectError(Exception):
    """A folder that can't be opened as a project; the message says why and what to do."""
