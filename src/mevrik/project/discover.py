"""What a folder holds: its HDL files, tables, captures and plans, told apart by suffix and first line; and the subjects that come of it:
every module that nothing instantiates, its testbench, its table, plan and capture by file name."""

from __future__ import annotations

from pathlib import Path

from mevrik.expect.table import Problem
from mevrik.lab.capture import is_time_heading
from mevrik.lang.analysis import SOURCE_SUFFIXES, Analysis, analyse
from mevrik.project.files import csv_files, hdl_files
from mevrik.project.project import Project, Subject


def found_project(folder: Path) -> Project:
    """The subjects of a folder that names none."""
    files = hdl_files(folder)
    project = Project(folder, folder.resolve().name, [])
    if not files:
        kinds = " and ".join(SOURCE_SUFFIXES)
        project.problems.append(Problem(str(folder), 1, f"there is no HDL file here; Mevrik reads {kinds} files", "note"))
        return project
    analysis = analyse(files)
    holders: dict[str, list[Path]] = {}  # of each unit, the files that declare it
    helpers: list[Path] = []  # packages and the like: all subjects get them
    for file in files:
        alone = analyse([file])
        names = alone.unit_names()
        for name in names:
            holders.setdefault(name, []).append(file)
        if not names or alone.shared:
            helpers.append(file)
    where = {name: _chosen(name, found, folder, project) for name, found in holders.items()}
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


def _chosen(name: str, holders: list[Path], folder: Path, project: Project) -> Path:
    """Of several files that declare a unit the one that is named like it, the one least deep down; the others are told of."""
    first, *others = sorted(holders, key=lambda p: (p.stem.lower() != name.lower(), len(p.parts), p))
    for other in others:
        shown = first.relative_to(folder)
        said = f"'{name}' is declared here too; {shown} is used. A mevrik.toml with the sources of each subject chooses otherwise"
        project.problems.append(Problem(str(other), 1, said, "note"))
    return first


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
