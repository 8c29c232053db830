"""Better code for the next run: a run that ended before its better code was made leaves it to a process of its own, which has the
lowest priority and outlives it. One works at a time; whatever goes wrong with it is silent, for it only saves time."""

from __future__ import annotations

import fcntl
import os
import subprocess
import sys
from pathlib import Path

from mevrik import kept
from mevrik.engine.compile import CodeError, code_file, compile_text


def leave(texts: list[str]) -> None:
    """Have the best code for these IR texts made and kept."""
    paths: list[str] = []
    try:
        for text in texts:
            path = code_file(text, 2).with_suffix(f".{os.getpid()}.ll")
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text)
            paths.append(str(path))
        nothing = subprocess.DEVNULL
        command = [sys.executable, "-m", __name__, *paths]
        subprocess.Popen(command, stdin=nothing, stdout=nothing, stderr=nothing, start_new_session=True)
    except OSError:
        _remove(paths)


def _remove(paths: list[str]) -> None:
    for path in paths:
        Path(path).unlink(missing_ok=True)


def main(paths: list[str]) -> None:
    try:
        with open(kept.folder("code") / "afterwards.lock", "w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            for path in paths:
                compile_text(Path(path).read_text(), 2)
    except (OSError, CodeError):
        pass  # another one is at work, or there is no room
    finally:
        _remove(paths)


if __name__ == "__main__":
    os.nice(19)
    main(sys.argv[1:])
