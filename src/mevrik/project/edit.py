"""Changing what a project says of its subjects: `mevrik.toml` is written, everything found before kept."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

import tomli_w

from mevrik.expect.table import write_atomically
from mevrik.project.project import FILE, Project, Subject


def set_file(project: Project, subject: Subject, key: str, path: Path) -> None:
    """Give a subject its "table", "plan", "capture" or "channel_map". Raises OSError."""
    changed = replace(subject, **{key: path})  # type: ignore[arg-type]
    project.subjects = [changed if s.name == subject.name else s for s in project.subjects]
    save_project(project)


def save_project(project: Project) -> None:
    """Write `mevrik.toml`. Atomic. Raises OSError."""
    data: dict[str, object] = {"name": project.name, "subject": [_entry(project.folder, s) for s in project.subjects]}
    write_atomically(project.folder / FILE, tomli_w.dumps(data))


def _entry(folder: Path, s: Subject) -> dict[str, object]:
    def local(path: Path) -> str:
        return os.path.relpath(path, folder)

    entry: dict[str, object] = {"module": s.module}
    if s.name != s.module:
        entry["name"] = s.name
    entry["sources"] = [local(p) for p in s.sources]
    for key, value in (("testbench", s.testbench), ("for", s.limit), ("tolerance", s.tolerance)):
        if value:
            entry[key] = value
    for key, path in (("table", s.table), ("plan", s.plan), ("capture", s.capture), ("map", s.channel_map)):
        if path is not None:
            entry[key] = local(path)
    if s.expressions:
        entry["expressions"] = dict(s.expressions)
    if s.parameters:
        entry["parameters"] = dict(s.parameters)
    return entry
