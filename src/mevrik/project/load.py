"""Opening a folder: `mevrik.toml` names the subjects; without one they are found. Whatever is found can be overridden by writing it down."""

from __future__ import annotations

import os
from pathlib import Path

from mevrik.project.discover import found_project
from mevrik.project.project import FILE, Project, ProjectError
from mevrik.project.project_file import read_project


def load_project(folder: Path) -> Project:
    """Open a folder. Raises ProjectError if there is none."""
    if not folder.exists():
        raise ProjectError(f"{folder}: there is no such folder")
    if not folder.is_dir():
        raise ProjectError(f"{folder}: is a file; name the folder it lies in")
    if not os.access(folder, os.R_OK | os.X_OK):
        raise ProjectError(f"{folder}: can't be read; check its permissions")
    file = folder / FILE
    if file.is_file():
        return read_project(folder, file)
    return found_project(folder)
