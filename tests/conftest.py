"""Shared by all tests: Qt without a display, settings and caches in a scratch folder."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
DEMO = Path(__file__).parent.parent / "src" / "mevrik" / "demo" / "tarnwick_lock"


@pytest.fixture(autouse=True, scope="session")
def _scratch(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    folder = tmp_path_factory.mktemp("home")
    kept = {k: os.environ.get(k) for k in ("XDG_CONFIG_HOME",)}
    os.environ["XDG_CONFIG_HOME"] = str(folder)
    yield
    for key, value in kept.items():
        if value is None:
            os.environ.pop(key, None)
        else:
            os.environ[key] = value


@pytest.fixture
def demo(tmp_path: Path) -> Path:
    """A fresh copy of the demo project."""
    from mevrik.demo import fresh_copy

    return fresh_copy(tmp_path / "tarnwick_lock")


class Done:
    """What a command printed, and its exit status."""

    def __init__(self, result: subprocess.CompletedProcess[str]) -> None:
        self.out, self.err, self.status = result.stdout, result.stderr, result.returncode


def mevrik(*args: object, cwd: Path | None = None, **env: str) -> Done:
    """Call the command line in a process of its own."""
    command = [sys.executable, "-m", "mevrik", *map(str, args)]
    result = subprocess.run(command, capture_output=True, text=True, cwd=cwd, timeout=120, env={**os.environ, **env})
    return Done(result)


@pytest.fixture
def simulate(tmp_path: Path) -> Callable[..., Done]:
    """Run Verilog text with `mevrik run`."""

    def run(text: str, *args: object, suffix: str = ".v") -> Done:
        path = tmp_path / f"program{suffix}"
        path.write_text(text)
        return mevrik("run", path, *args, cwd=tmp_path)

    return run
