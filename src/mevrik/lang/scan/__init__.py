"""Where the tokens of a text are: the compiled scanners of the languages, and what they need to know of each."""

from __future__ import annotations

import ctypes as c
from array import array
from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path
from sys import intern

# why a scan stopped
END, DIRECTIVE, BAD, OPEN = range(4)
# what a token is
IDENTIFIER, ESCAPED, NUMBER, TIME, STRING, SYSTEM, OPERATOR, CHARACTER, BASED, BITS = range(4, 14)


class _Scan(c.Structure):
    """`Scan` of scan.h."""

    _fields_ = (
        ("text", c.c_char_p),
        ("size", c.c_int32),
        ("at", c.c_int32),
        ("operators", c.c_char_p),
        ("words", c.c_char_p),
        ("extended", c.c_int32),
        ("quiet", c.c_int32),
        ("count", c.c_int32),
        ("end", c.c_int32),
        ("codes", c.c_void_p),
        ("starts", c.c_void_p),
        ("ends", c.c_void_p),
    )


@lru_cache(maxsize=1)
def _library() -> c.CDLL:
    found = sorted(Path(__file__).parent.parent.glob("_scan*.so"))
    if not found:
        raise RuntimeError("the scanners are not built; run 'make demo' or 'pip install -e .' in the project folder")
    lib = c.CDLL(str(found[0]))
    for name in ("scan_verilog", "scan_vhdl"):
        getattr(lib, name).argtypes = [c.POINTER(_Scan)]
    return lib


def _listed(words: Iterable[str]) -> bytes:
    """`words` as C takes them, the longer ones first."""
    return b"".join(word.encode() + b"\0" for word in sorted(words, key=len, reverse=True)) + b"\0"


class Notation:
    """What tokens look like in one version of a language: its operators and marks, and, in VHDL, the words that end no name."""

    def __init__(self, language: str, operators: Iterable[str], words: Iterable[str] = (), *, extended: bool = False) -> None:
        self.language, self.extended = language, extended
        self.operators, self.words = _listed(operators), _listed(words)


class Scanner:
    """One text and where in it the scan is. After `run`, `texts` and `codes` are what was found, `starts` where, as positions in
    the text; `end` is the end of what the scan stopped at."""

    def __init__(self, text: str, notation: Notation) -> None:
        self.text = text
        self.codes: list[int] = []
        self.starts: list[int] = []
        self.texts: list[str] = []
        data = text.encode("utf-32-le", "surrogatepass")
        rooms = [array("i", bytes(4 * len(text))) for _ in range(3)]
        self._rooms = rooms
        places = [room.buffer_info()[0] for room in rooms]
        self._scan = _Scan(data, len(text), 0, notation.operators, notation.words, notation.extended, False, 0, 0, *places)
        self._by = c.byref(self._scan)
        self._run = getattr(_library(), f"scan_{notation.language}")

    @property
    def end(self) -> int:
        return int(self._scan.end)

    def run(self, at: int, quiet: bool = False) -> tuple[int, int]:
        """Go on at `at`, if `quiet` to the next directive without tokens. Returns why the scan stopped and where."""
        scan = self._scan
        scan.at, scan.quiet, scan.count = at, quiet, 0
        why = self._run(self._by)
        codes, starts, ends = (room[: scan.count].tolist() for room in self._rooms)
        self.codes, self.starts = codes, starts
        text = self.text
        self.texts = [intern(text[start:end]) for start, end in zip(starts, ends, strict=True)]  # most occur many times
        return why, int(scan.at)
