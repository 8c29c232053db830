"""`mevrik check`: every subject of a project examined, the ledgers printed, reports written."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from xml.etree import ElementTree

from mevrik.compare.align import against_capture
from mevrik.compare.ledger import Entry, Ledger
from mevrik.design.time import TimeError, parse_seconds, show_time
from mevrik.engine.job import Died, Job
from mevrik.expect.table import Problem, write_atomically
from mevrik.lab.capture import CaptureError, match_channels, read_capture, read_map
from mevrik.lang.diagnostics import nearest
from mevrik.project.examine import Findings, examine
from mevrik.project.load import load_project
from mevrik.project.project import Project, ProjectError
from mevrik.project.races import Race, find_races
from mevrik.waves.record import RecordError, RunRecord

SHOWN_ENTRIES = 20


def examine_all(project: Project) -> Iterator[Findings]:
    """Examine the subjects one after the other, each in a process of its own."""
    for subject in project.subjects:
        job = Job(examine, subject, project.record_path(subject), project.folder)
        result: Findings | None = None
        for event in job.events():
            if isinstance(event, Findings):
                result = event
            elif isinstance(event, Died):
                result = Findings(subject.name, subject.module)
                result.problems.append(
                    Problem(
                        str(subject.sources[0] if subject.sources else project.folder), 1, f"the examination died: {event.reason}"
                    )
                )
        yield result or Findings(subject.name, subject.module)


def check_command(folder: Path, json_file: str | None, junit_file: str | None, orders: int = 0) -> int:
    """Print every ledger, and the races that `orders` other orders of events show; 0 if all agree, 1 if something differs or stays
    unknown, 2 for input that can't be used."""
    try:
        project = load_project(folder)
    except ProjectError as error:
        print(f"mevrik: {error}", file=sys.stderr)
        return 2
    for problem in project.problems:
        print(problem, file=sys.stderr)
    if not project.subjects:
        return 2
    results: list[Findings] = []
    races = 0
    for findings in examine_all(project):
        results.append(findings)
        _print(findings)
        if orders:
            subject = next(s for s in project.subjects if s.name == findings.subject)
            races += _print_races(findings, find_races(project, subject, findings, orders), orders)
    compared = [ledger for f in results for ledger in f.ledgers if ledger.checked]
    agree = sum(ledger.state == "agree" for ledger in compared)
    print(f"{len(compared)} comparison{'s' if len(compared) != 1 else ''}: {agree} agree, {len(compared) - agree} do not")
    try:
        if json_file:
            write_atomically(Path(json_file), json.dumps([_as_dict(f) for f in results], indent=1) + "\n")
        if junit_file:
            write_atomically(Path(junit_file), _junit(results))
    except OSError as error:
        print(f"mevrik: the report can't be written: {error}", file=sys.stderr)
        return 2
    if any(f.failed for f in results) or any(p.severity == "error" for p in project.problems):
        return 2 if any(d.severity == "error" for f in results for d in f.diagnostics) or any(f.problems for f in results) else 1
    return 0 if agree == len(compared) and compared and not races else 1


def _print_races(f: Findings, races: list[Race], orders: int) -> int:
    tick = RunRecord(f.record).tick_exp if f.record is not None and f.record.is_file() else -9
    if f.record is not None and not f.failed and not races:
        print(f"{f.subject}: the same in {orders} other orders of simultaneous events")
    for race in races[:SHOWN_ENTRIES]:
        print(
            f"{f.subject}: race at {show_time(race.time, tick)}: {race.signal} depends on the order of events (order {race.order})"
        )
        for words, account in (("as written", race.first), ("otherwise", race.other)):
            where = f", by {account.file}:{account.line}: {account.text}" if account.file else ""
            print(f"  {words} it is {account.value}{where}")
    return len(races)


def compare_command(record_path: Path, capture_path: Path, map_path: Path | None, scope: str | None, tolerance: str | None) -> int:
    """Print the ledger between a run and a capture; 0 if they agree, 1 if not, 2 for input that can't be used."""
    try:
        record = RunRecord(record_path)
        path = scope or next(iter(record.scopes.values())).path
        chosen = next((s for s in record.scopes.values() if s.path == path), None)
        if chosen is None:
            raise RecordError(f"the run has no instance '{path}'{nearest(path, [s.path for s in record.scopes.values()])}")
        capture = read_capture(capture_path)
        mapping = read_map(map_path) if map_path else {}
        matched, notes = match_channels(capture, [n.name for n in record.in_scope(chosen.number)], mapping)
        near = float(parse_seconds(tolerance)) if tolerance else 0.0
    except (RecordError, CaptureError, TimeError) as error:
        print(f"mevrik: {error}", file=sys.stderr)
        return 2
    ledger, alignment = against_capture(path, record, path, capture, matched, notes, near)
    _print_ledger(path, ledger, record.tick_exp)
    print(f"  offset {show_time(alignment.offset, record.tick_exp, 3)}")
    return 0 if ledger.state == "agree" else 1


def _print(f: Findings) -> None:
    for d in f.diagnostics:
        print(d.render(), file=sys.stderr)
    for m in f.messages:
        print(f"{m.file}:{m.line}:{m.column}: {m.severity}: {m.text}", file=sys.stderr)
    if f.printed:
        print(f.printed, end="", file=sys.stderr)
    for p in f.problems:
        print(p, file=sys.stderr)
    for note in f.notes:
        print(f"{f.subject}: {note}", file=sys.stderr)
    if f.coverage is not None:
        c = f.coverage
        if c.missing:
            print(f"{f.subject}: the table leaves out {c.missing} of {c.total} input rows")
        for x in c.contradictions[:SHOWN_ENTRIES]:
            print(f"{f.subject}: rows {x.other + 1} and {x.row + 1} of the table contradict each other in {', '.join(x.columns)}")
    tick = RunRecord(f.record).tick_exp if f.record is not None and f.record.is_file() else -9
    for ledger in f.ledgers:
        _print_ledger(f.subject, ledger, tick)
    if not f.ledgers and not f.failed:
        print(f"{f.subject}: nothing to compare with; a truth table '{f.module}.csv' would be one")
    sys.stdout.flush()


def _print_ledger(subject: str, ledger: Ledger, tick: int) -> None:
    print(f"{subject}: {ledger.left} and {ledger.right}: {ledger.summary()}")
    for e in ledger.entries[:SHOWN_ENTRIES]:
        print(f"  {entry_text(e, ledger, tick)}")
    if len(ledger.entries) > SHOWN_ENTRIES:
        print(f"  and {len(ledger.entries) - SHOWN_ENTRIES} more")
    for note in ledger.notes:
        print(f"  note: {note}")


def entry_text(e: Entry, ledger: Ledger, tick: int) -> str:
    """One difference on one line."""
    row = f"row {e.row + 1}, " if e.row >= 0 else ""
    when = show_time(e.start, tick) if e.start == e.end else f"{show_time(e.start, tick)} to {show_time(e.end, tick)}"
    verb = "" if e.kind == "differs" else " (not comparable)"
    return f"{row}at {when}: {e.signal}: {ledger.left} {e.left}, {ledger.right} {e.right}{verb}"


def _as_dict(f: Findings) -> dict[str, object]:
    return {
        "subject": f.subject,
        "module": f.module,
        "agrees": f.agrees,
        "ended": f.outcome.ended if f.outcome else None,
        "diagnostics": [d.as_dict() for d in f.diagnostics],
        "problems": [asdict(p) for p in f.problems],
        "notes": f.notes,
        "ledgers": [
            {
                "left": x.left, "right": x.right, "state": x.state, "checked": x.checked, "agreeing": x.agreeing,
                "differing": x.differing, "unknown": x.unknown, "notes": x.notes, "entries": [asdict(e) for e in x.entries],
            }
            for x in f.ledgers
        ],
    }  # fmt: skip


def _junit(results: list[Findings]) -> str:
    root = ElementTree.Element("testsuites", name="mevrik")
    for f in results:
        cases: list[tuple[str, str, str]] = [(f"{x.left} and {x.right}", x.state, x.summary()) for x in f.ledgers]
        trouble = [d.headline() for d in f.diagnostics if d.severity == "error"] + [str(p) for p in f.problems]
        if trouble or not cases:
            cases.append(("examination", "error" if f.failed else "empty", "\n".join(trouble) or "nothing to compare with"))
        bad = [c for c in cases if c[1] in ("differ", "unknown")]
        suite = ElementTree.SubElement(
            root, "testsuite", name=f.subject, tests=str(len(cases)), failures=str(len(bad)), errors=str(sum(c[1] == "error" for c in cases)),
            skipped=str(sum(c[1] == "empty" for c in cases)),
        )  # fmt: skip
        for name, state, text in cases:
            case = ElementTree.SubElement(suite, "testcase", classname=f.subject, name=name)
            tag = {"differ": "failure", "unknown": "failure", "error": "error", "empty": "skipped"}.get(state)
            if tag:
                ElementTree.SubElement(case, tag, message=text.split("\n")[0]).text = text
    return ElementTree.tostring(root, encoding="unicode", xml_declaration=True) + "\n"
