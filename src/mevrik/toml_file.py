"""Reading TOML, with a mistake named at its line."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path

from mevrik.expect.table import Problem
from mevrik.lang.source import SourceError, read_text


class TomlError(Exception):
    """A file that is missing or no TOML; `problem` says where and why."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(str(problem))
        self.problem = problem


def read_toml(path: Path) -> tuple[str, dict[str, object]]:
    """The text and what it says. Raises TomlError."""
    try:
        text = read_text(path)
        return text, tomllib.loads(text)
    except SourceError as error:
        raise TomlError(Problem(str(path), 1, error.message)) from None
    except tomllib.TOMLDecodeError as error:
        line = re.search(r"line (\d+)", str(error))  # else it is the end where something is missing
        raise TomlError(Problem(str(path), int(line[1]) if line else len(text.splitlines()), f"this is no TOML: {error}")) from None
