"""Syntax trees of files, kept between runs by the content of the file and of all that had a part in reading it.

Only what was read without a message is kept: messages belong to the run that gives them.
"""

from __future__ import annotations

import hashlib
import pickle
import sys
from functools import cache
from pathlib import Path

from mevrik import kept

LEAST = 500  # characters; a shorter file is read as fast
MOST = 1500  # files in the cache
_BROKEN = (pickle.UnpicklingError, EOFError, AttributeError, ImportError, IndexError, TypeError, ValueError)


@cache
def _readers(package: str) -> bytes:
    """What makes trees of text: the scanners and the modules of a language's reader."""
    lang = Path(__file__).parent
    here = lang / package
    scanners = [p for p in (lang / "scan").iterdir() if p.is_file()]
    files = [Path(__file__), *sorted(scanners), *sorted(here.glob("*.py")), *sorted((here / "parser").glob("*.py"))]
    return hashlib.sha256(b"".join(p.read_bytes() for p in files) + sys.version.encode()).digest()


def key(package: str, *parts: object) -> str:
    """The name under which a tree is kept. `package` is the folder of the language, `parts` all that the tree depends on."""
    return hashlib.sha256(_readers(package) + repr(parts).encode("utf-8", "surrogateescape")).hexdigest()[:40]


def load(name: str) -> object | None:
    data = kept.load(kept.folder("trees") / name)
    if data is None:
        return None
    try:
        return pickle.loads(data)  # type: ignore[no-any-return]
    except _BROKEN:
        return None


def keep(name: str, tree: object) -> None:
    try:
        data = pickle.dumps(tree, 5)
    except RecursionError:
        return
    kept.keep(kept.folder("trees") / name, data, MOST)
