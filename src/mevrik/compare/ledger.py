"""The ledger between two accounts: every compared point is counted, every difference is an entry."""

from __future__ import annotations

from dataclasses import dataclass, field

EXPECTED, BEHAVIOURAL, SYNTHESISED, MEASURED = "Expected", "Behavioural", "Post-synthesis", "Measured"
ACCOUNTS = (EXPECTED, BEHAVIOURAL, SYNTHESISED, MEASURED)
ENTRY_LIMIT = 100_000  # entries kept; points are counted all the same


@dataclass(frozen=True, slots=True)
class Entry:
    """One difference, or one point that can't be compared because a side is unknown.

    `start` to `end` in ticks is the stretch it holds for, `at` the moment from which on the value that was compared stands; `row` the row of the table (from
    0), -1 without one; `points` how many compared points it stands for.
    """

    kind: str  # "differs" or "unknown"
    signal: str
    path: str
    start: int
    end: int
    at: int
    left: str
    right: str
    row: int = -1
    points: int = 1


@dataclass(slots=True)
class Ledger:
    """Points compared between `left` and `right` for one subject."""

    subject: str
    left: str
    right: str
    agreeing: int = 0
    differing: int = 0
    unknown: int = 0
    entries: list[Entry] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    by_signal: dict[str, list[int]] = field(default_factory=dict)  # agreeing, differing, unknown

    @property
    def checked(self) -> int:
        return self.agreeing + self.differing + self.unknown

    @property
    def state(self) -> str:
        """ "agree", "differ", "unknown" (nothing differs, but not everything can be compared) or "empty"."""
        if self.differing:
            return "differ"
        if self.unknown:
            return "unknown"
        return "agree" if self.agreeing else "empty"

    @property
    def first(self) -> Entry | None:
        return min((e for e in self.entries if e.kind == "differs"), key=lambda e: e.start, default=None)

    def count(self, signal: str, agreeing: int, differing: int, unknown: int) -> None:
        self.agreeing += agreeing
        self.differing += differing
        self.unknown += unknown
        old = self.by_signal.setdefault(signal, [0, 0, 0])
        for k, more in enumerate((agreeing, differing, unknown)):
            old[k] += more

    def add(self, entry: Entry) -> None:
        if len(self.entries) < ENTRY_LIMIT:
            self.entries.append(entry)
        elif len(self.entries) == ENTRY_LIMIT and not any("only the first" in note for note in self.notes):
            self.notes.append(f"only the first {ENTRY_LIMIT} entries are listed; all points are counted")

    def finish(self) -> Ledger:
        self.entries.sort(key=lambda e: (e.start, e.signal))
        return self

    def summary(self) -> str:
        """One line, such as `64 points: 61 agree, 3 differ`."""
        if not self.checked:
            return "nothing compared"
        parts = [f"{self.agreeing} agree"]
        if self.differing:
            parts.append(f"{self.differing} differ")
        if self.unknown:
            parts.append(f"{self.unknown} not comparable")
        return f"{self.checked} points: {', '.join(parts)}"
