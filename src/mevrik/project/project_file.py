"""`mevrik.toml`: the subjects of a project, read with every mistake named at its subject, and changed with all else kept as it is written."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

from mevrik.design.time import parse_seconds
from mevrik.expect.table import Problem, write_atomically
from mevrik.lang.diagnostics import nearest
from mevrik.project.files import hdl_files
from mevrik.project.project import FILE, Project, Subject
from mevrik.toml_file import TomlError, read_toml

_TEXTS = ("name", "module", "testbench", "table", "plan", "capture", "map", "for", "tolerance")
_KEYS = (*_TEXTS, "sources", "expressions", "parameters")
_FILES = {"table": "table", "plan": "plan", "capture": "capture", "channel_map": "map"}  # attribute: key


def read_project(folder: Path, file: Path) -> Project:
    """The project that a file describes; its `problems` say what of it can't be."""
    name = str(file)
    project = Project(folder, folder.name, [])
    try:
        text, data = read_toml(file)
    except TomlError as error:
        project.problems.append(error.problem)
        return project
    lines = [k for k, line in enumerate(text.splitlines(), 1) if line.replace(" ", "").startswith("[[subject]]")]
    entries = data.get("subject", [])
    if not isinstance(entries, list) or not all(isinstance(e, dict) for e in entries):
        entries = []
        project.problems.append(Problem(name, 1, "subject: a subject begins with [[subject]]"))
    for key in data:
        if key not in ("name", "subject"):
            project.problems.append(Problem(name, 1, f"'{key}' is no key{nearest(key, ('name', 'subject', *_KEYS))}"))
    project.name = str(data.get("name", folder.name))
    for number, entry in enumerate(entries, 1):
        line = lines[number - 1] if number <= len(lines) else 1
        try:
            subject = _subject(folder, entry, line)
            if project.subject(subject.name) is not None:
                raise ValueError(f"there is already one called '{subject.name}'")
            project.subjects.append(subject)
        except ValueError as error:
            project.problems.append(Problem(name, line, f"subject {number}: {error}"))
    if not project.subjects and not project.problems:
        project.problems.append(Problem(name, 1, "no [[subject]] is named; without this file they are found by themselves"))
    return project


def _subject(folder: Path, entry: dict[str, object], line: int) -> Subject:
    """Raises ValueError for what a subject can't be."""
    for key, value in entry.items():
        if key not in _KEYS:
            raise ValueError(f"'{key}' is no key{nearest(key, _KEYS)}")
        if key in _TEXTS and not isinstance(value, str):
            raise ValueError(f"{key} is a text in quotes, not {value!r}")
    text = {key: str(entry.get(key, "")) for key in _TEXTS}
    if not text["module"]:
        raise ValueError("it needs a module")
    for key in ("for", "tolerance"):
        if text[key]:
            try:
                parse_seconds(text[key])
            except ValueError as error:
                raise ValueError(f"{key}: {error}") from None
    files = {name: folder / text[key] if text[key] else None for name, key in _FILES.items()}
    sources = _sources(folder, entry["sources"]) if "sources" in entry else tuple(hdl_files(folder))
    return Subject(
        text["name"] or text["module"], text["module"], sources, text["testbench"], expressions=_expressions(entry.get("expressions", {})),
        parameters=_parameters(entry.get("parameters", {})), limit=text["for"], tolerance=text["tolerance"], line=line, **files,
    )  # fmt: skip


def _sources(folder: Path, value: object) -> tuple[Path, ...]:
    if not isinstance(value, list) or not value or not all(isinstance(s, str) for s in value):
        raise ValueError(f'sources is a list of files, such as ["lock.v"], not {value!r}')
    return tuple(folder / s for s in value)


def _expressions(value: object) -> tuple[tuple[str, str], ...]:
    if not isinstance(value, dict) or not all(isinstance(v, str) for v in value.values()):
        raise ValueError('expressions are texts in quotes, one a port, such as alarm = "a & b"')
    return tuple(value.items())


def _parameters(value: object) -> tuple[tuple[str, int], ...]:
    if not isinstance(value, dict):
        raise ValueError("parameters are names with whole numbers, such as { WIDTH = 4 }")
    try:
        return tuple((k, int(str(v), 0)) for k, v in value.items())
    except ValueError:
        raise ValueError("a parameter is a whole number") from None


def set_file(project: Project, subject: Subject, name: str, path: Path) -> None:
    """Give a subject its "table", "plan", "capture" or "channel_map". What else the file says stays as it is written. Atomic. Raises OSError, and
    TomlError for a file there that is no TOML."""
    import tomlkit

    file = project.folder / FILE
    changed = replace(subject, **{name: path})  # type: ignore[arg-type]
    subjects = [changed if s.name == subject.name else s for s in project.subjects]
    if file.is_file():
        document = tomlkit.parse(read_toml(file)[0])
        for entry in document.get("subject", []):
            if entry.get("name", entry.get("module")) == subject.name:
                entry[_FILES[name]] = os.path.relpath(path, project.folder)
        text = tomlkit.dumps(document)
    else:
        text = tomlkit.dumps({"name": project.name, "subject": [_entry(project.folder, s) for s in subjects]})
    write_atomically(file, text)
    project.subjects = subjects


def _entry(folder: Path, s: Subject) -> dict[str, object]:
    """A subject that was found, as the file names it."""
    entry: dict[str, object] = {"module": s.module}
    if s.name != s.module:
        entry["name"] = s.name
    entry["sources"] = [os.path.relpath(p, folder) for p in s.sources]
    if s.testbench:
        entry["testbench"] = s.testbench
    for name, key in _FILES.items():
        path: Path | None = getattr(s, name)
        if path is not None:
            entry[key] = os.path.relpath(path, folder)
    return entry
