"""A project: a folder of HDL, and what is said about each module in it.

`mevrik.toml` names the subjects; without one they are found: every module that nothing instantiates, its testbench, its table
and its capture by file name. Whatever is found can be overridden by writing it down.
"""

from __future__ import annotations

import hashlib
import os
import tomllib
from dataclasses import dataclass, field
from pathlib import Path

from mevrik.expect.table import Problem
from mevrik.lab.capture import is_time_heading
from mevrik.lang.analysis import SOURCE_SUFFIXES, Analysis, analyse
from mevrik.lang.diagnostics import nearest
from mevrik.lang.source import SourceError, read_text
from mevrik.project.discover import csv_files, hdl_files

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
        return _from_toml(folder, file)
    return _found(folder)


# ---- mevrik.toml ----

_KEYS = {
    "name", "module", "sources", "testbench", "table", "expressions", "plan", "capture", "map", "parameters", "for", "tolerance",
}  # fmt: skip


def _from_toml(folder: Path, file: Path) -> Project:
    name = str(file)
    try:
        data = tomllib.loads(read_text(file))
    except SourceError as error:
        return Project(folder, folder.name, [], [Problem(name, 1, error.message)])
    except tomllib.TOMLDecodeError as error:
        return Project(folder, folder.name, [], [Problem(name, 1, f"this is no TOML: {error}")])
    project = Project(folder, str(data.get("name", folder.name)), [])
    for number, entry in enumerate(data.get("subject", []), 1):
        problem = _read_subject(project, entry, number)
        if problem:
            project.problems.append(Problem(name, _subject_line(file, number), problem))
    if not project.subjects and not project.problems:
        project.problems.append(Problem(name, 1, "no [[subject]] is named; without this file they are found by themselves"))
    return project


def _subject_line(file: Path, number: int) -> int:
    lines = [k for k, text in enumerate(read_text(file).splitlines(), 1) if text.strip() == "[[subject]]"]
    return lines[number - 1] if number <= len(lines) else 1


def _read_subject(project: Project, entry: dict[str, object], number: int) -> str:
    """Add a subject; gives what is wrong with it."""
    for key in entry:
        if key not in _KEYS:
            return f"subject {number}: '{key}' is no key{nearest(key, _KEYS)}"
    module = str(entry.get("module", ""))
    if not module:
        return f"subject {number}: it needs a module"
    name = str(entry.get("name", module))
    if project.subject(name) is not None:
        return f"subject {number}: there is already one called '{name}'"

    def path(key: str) -> Path | None:
        return project.folder / str(entry[key]) if key in entry else None

    listed = entry.get("sources")
    sources = tuple(project.folder / str(s) for s in listed) if isinstance(listed, list) else tuple(hdl_files(project.folder))
    expressions = entry.get("expressions", {})
    parameters = entry.get("parameters", {})
    if not isinstance(expressions, dict) or not isinstance(parameters, dict):
        return f"subject {number}: expressions and parameters are tables of names and values"
    try:
        values = tuple((k, int(str(v), 0)) for k, v in parameters.items())
    except ValueError as error:
        return f"subject {number}: a parameter must be a whole number ({error})"
    project.subjects.append(
        Subject(
            name, module, sources, str(entry.get("testbench", "")), path("table"), tuple((k, str(v)) for k, v in expressions.items()),
            path("plan"), path("capture"), path("map"), values, str(entry.get("for", "")), str(entry.get("tolerance", "")),
        )
    )  # fmt: skip
    return ""


# ---- found by themselves ----


def _found(folder: Path) -> Project:
    files = hdl_files(folder)
    project = Project(folder, folder.resolve().name, [])
    if not files:
        kinds = " and ".join(SOURCE_SUFFIXES)
        project.problems.append(Problem(str(folder), 1, f"there is no HDL file here; Mevrik reads {kinds} files", "note"))
        return project
    analysis = analyse(files)
    where: dict[str, Path] = {}
    helpers: list[Path] = []  # packages and the like: all subjects get them
    for file in files:
        alone = analyse([file])
        names = alone.unit_names()
        for name in names:
            where.setdefault(name, file)
        if not names or alone.shared:
            helpers.append(file)
    for name in (*analysis.bound_to(), *sorted(analysis.library.beside())):
        if name in where and where[name] not in helpers:
            helpers.append(where[name])
    tables, captures = _csv_kinds(folder)
    for name in analysis.tops():
        if analysis.has_ports(name):
            _add_found(project, analysis, where, helpers, name, "")
        else:
            used = [x for x in analysis.instantiated_by(name) if not analysis.is_interface(x)]
            _add_found(project, analysis, where, helpers, used[0] if used else name, name)
    for name in analysis.unit_names():  # what has files of its own is a subject, though it is a part of something larger
        own = [x for x in (*tables, *captures) if x.stem == name]
        if (
            analysis.has_ports(name)
            and (own or _plan_of(folder, name) is not None)
            and all(s.module != name for s in project.subjects)
        ):
            _add_found(project, analysis, where, helpers, name, "")
    if not project.subjects:
        for name in analysis.unit_names():
            _add_found(project, analysis, where, helpers, name, "")
    for k, subject in enumerate(project.subjects):
        project.subjects[k] = Subject(
            subject.name, subject.module, subject.sources, subject.testbench, _best(subject.module, tables), (),
            _plan_of(folder, subject.module), _best(subject.module, captures),
        )  # fmt: skip
    return project


def _add_found(
    project: Project, analysis: Analysis, where: dict[str, Path], helpers: list[Path], module: str, testbench: str
) -> None:
    needed = _closure(analysis, testbench or module)
    sources = tuple(dict.fromkeys([*helpers, *(where[m] for m in needed if m in where)])) or tuple(dict.fromkeys(where.values()))
    name = module if project.subject(module) is None else testbench or module
    if project.subject(name) is None:
        project.subjects.append(Subject(name, module, sources, testbench))


def _closure(analysis: Analysis, top: str) -> list[str]:
    found: list[str] = []
    stack = [top]
    while stack:
        name = stack.pop()
        if name not in found:
            found.append(name)
            stack += sorted(analysis.instantiated_by(name))
    return found


def _csv_kinds(folder: Path) -> tuple[list[Path], list[Path]]:
    """(tables, captures), told apart by the heading of the first column."""
    tables: list[Path] = []
    captures: list[Path] = []
    for path in csv_files(folder):
        try:
            with path.open(encoding="utf-8", errors="replace") as file:
                head = file.readline(4096).split(",")[0].strip().strip('"')
        except OSError:
            continue
        (captures if is_time_heading(head) else tables).append(path)
    return tables, captures


def _best(module: str, paths: list[Path]) -> Path | None:
    """The file named after the module: exactly, or beginning with its name and a sign that is no letter."""
    for path in paths:
        if path.stem == module:
            return path
    for path in paths:
        rest = path.stem.removeprefix(module)
        if rest != path.stem and rest and rest[0] in ".-_ ":
            return path
    return None


def _plan_of(folder: Path, module: str) -> Path | None:
    path = folder / f"{module}.plan.toml"
    return path if path.is_file() else None
