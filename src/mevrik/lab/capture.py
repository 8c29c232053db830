"""Captures from hardware: a CSV with a time column and one column a channel."""

from __future__ import annotations

import csv
import io
import math
import re
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from mevrik.design.time import EXPONENTS
from mevrik.expect.table import Problem
from mevrik.lang.diagnostics import nearest
from mevrik.lang.source import SourceError, read_text

_TIME_HEADING = re.compile(r"\s*time\s*[\[(_ ]?\s*(s|ms|us|µs|ns|ps|fs)?\s*[\])]?\s*$", re.I)
_PROBLEM_LIMIT = 5


class CaptureError(Exception):
    """A capture that can't be used; `problems` say where and why."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(map(str, problems)))
        self.problems = problems


@dataclass(slots=True)
class Capture:
    """Samples of digital channels. `times` in seconds, rising; `values[channel]` numbers, one a sample."""

    path: Path
    times: NDArray[np.float64]
    values: dict[str, NDArray[np.uint64]]

    @property
    def period(self) -> float:
        """The usual distance of two samples in seconds."""
        return float(np.median(np.diff(self.times))) if len(self.times) > 1 else 0.0


def is_time_heading(heading: str) -> bool:
    return _TIME_HEADING.match(heading) is not None


def read_capture(path: Path) -> Capture:
    """Read a capture. The heading of the first column gives the unit: `time_ns`, `time [us]`, `time` (seconds).

    Raises CaptureError naming the lines that are broken, up to five of them.
    """
    name = str(path)
    try:
        text = read_text(path)
    except SourceError as error:
        raise CaptureError([Problem(name, 1, error.message)]) from None
    reader = csv.reader(io.StringIO(text), strict=True)
    header: list[str] = []
    stamps: list[float] = []
    columns: list[list[int]] = []
    problems: list[Problem] = []
    scale = 1.0
    try:
        for cells in reader:
            if not any(c.strip() for c in cells):
                continue
            if not header:
                header = [c.strip() for c in cells]
                match = _TIME_HEADING.match(header[0])
                if match is None:
                    raise CaptureError(
                        [Problem(name, reader.line_num, "the first column must be the time, such as time_ns or 'time [us]'")]
                    )
                scale = float(Decimal(1).scaleb(EXPONENTS[(match[1] or "s").lower()]))
                columns = [[] for _ in header[1:]]
                twice = next((h for k, h in enumerate(header) if h in header[:k]), None)
                if twice is not None:
                    raise CaptureError([Problem(name, reader.line_num, f"two columns are called '{twice}'")])
                if not columns:
                    raise CaptureError([Problem(name, reader.line_num, "there is no channel beside the time column")])
                continue
            trouble = _row(cells, header, stamps, columns, scale)
            if trouble:
                problems.append(Problem(name, reader.line_num, trouble))
                if len(problems) >= _PROBLEM_LIMIT:
                    problems.append(Problem(name, reader.line_num, "and perhaps more: reading stopped here"))
                    break
    except csv.Error as error:
        problems.append(Problem(name, reader.line_num, f"this line can't be read as CSV ({error})"))
    if not header:
        problems.append(Problem(name, 1, "the capture is empty: its first line names the time column and the channels"))
    elif not stamps and not problems:
        problems.append(Problem(name, 2, "the capture has no samples"))
    if problems:
        raise CaptureError(problems)
    values = {h: np.array(c, np.uint64) for h, c in zip(header[1:], columns)}
    return Capture(path, np.array(stamps), values)


def _row(cells: list[str], header: list[str], stamps: list[float], columns: list[list[int]], scale: float) -> str:
    """Take one sample; gives what is wrong with it."""
    if len(cells) != len(header):
        return f"this sample has {len(cells)} cells, the head has {len(header)} columns"
    try:
        time = float(cells[0]) * scale
    except ValueError:
        return f"'{cells[0]}' is no time"
    if not math.isfinite(time):
        return f"'{cells[0]}' is no time"
    if stamps and time <= stamps[-1]:
        return "this sample's time is not after that of the one before"
    taken: list[int] = []
    for heading, cell in zip(header[1:], cells[1:]):
        try:
            taken.append(int(cell.strip(), 0) if cell.strip().startswith("0") and len(cell.strip()) > 1 else int(cell.strip()))
        except ValueError:
            return f"channel '{heading}': '{cell}' is no digital value; write 0 and 1, or a number"
        if taken[-1] < 0:
            return f"channel '{heading}': {cell} is negative"
        if taken[-1] >> 64:
            return f"channel '{heading}': {cell} has more than 64 bits"
    stamps.append(time)
    for column, value in zip(columns, taken):
        column.append(value)
    return ""


def read_map(path: Path) -> dict[str, str]:
    """A CSV of two columns, `channel,port`. Raises CaptureError."""
    try:
        text = read_text(path)
    except SourceError as error:
        raise CaptureError([Problem(str(path), 1, error.message)]) from None
    found: dict[str, str] = {}
    reader = csv.reader(io.StringIO(text), strict=True)
    try:
        for cells in reader:
            cells = [c.strip() for c in cells]
            if not any(cells) or cells == ["channel", "port"]:
                continue
            if len(cells) != 2:
                raise CaptureError([Problem(str(path), reader.line_num, "a line of a map is channel,port")])
            found[cells[0]] = cells[1]
    except csv.Error as error:
        raise CaptureError([Problem(str(path), reader.line_num, f"this line can't be read as CSV ({error})")]) from None
    return found


def match_channels(capture: Capture, ports: list[str], mapping: dict[str, str]) -> tuple[dict[str, str], list[str]]:
    """Channel → port, by the map or by the same name in any letter case; and what found no partner."""
    by_fold = {p.lower(): p for p in ports}
    found: dict[str, str] = {}
    notes: list[str] = []
    for channel in capture.values:
        wanted = mapping.get(channel, channel)
        port = wanted if wanted in ports else by_fold.get(wanted.lower().strip())
        if port is None:
            notes.append(f"channel '{channel}' fits no port{nearest(wanted, ports)}; a map file can name one")
        else:
            found[channel] = port
    return found, notes
