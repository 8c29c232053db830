"""Where an unknown value comes from: the why trail followed back through what was unknown, to the statement that began it or to the
signal that was never given a value."""

from __future__ import annotations

from dataclasses import dataclass

from mevrik.design.values import Logic
from mevrik.explain.why import Why, why
from mevrik.waves.record import RunRecord

_LONGEST = 200


@dataclass(frozen=True, slots=True)
class Origin:
    """`steps`: (path, since) from the value that was asked for to the one it began with; `reason` in words."""

    steps: tuple[tuple[str, int], ...]
    last: Why
    reason: str


def _unknown(value: Logic | float | None) -> bool:
    return isinstance(value, Logic) and value.unk != 0


def origin(record: RunRecord, path: str, moment: int) -> Origin | None:
    """The origin of the unknown bits of a signal at a moment; None if it is known."""
    reason = why(record, path, moment)
    if not _unknown(reason.value):
        return None
    steps = [(path, reason.since)]
    seen = {(path, reason.since)}
    while reason.site is not None and len(steps) < _LONGEST:
        step = None
        for cause in sorted(reason.causes, key=lambda c: c.role == "condition"):
            if _unknown(cause.value) and (cause.path, cause.changed) not in seen:
                step = cause
                break
        if step is None:
            break
        steps.append((step.path, step.changed))
        seen.add((step.path, step.changed))
        reason = why(record, step.path, step.changed)
    return Origin(tuple(steps), reason, _words(record, reason))


def _words(record: RunRecord, reason: Why) -> str:
    name = reason.path.rsplit(".", 1)[-1]
    shown = reason.value.nine if isinstance(reason.value, Logic) else ""
    if reason.site is None:
        what = "'U'" if set(shown) == {"U"} else "unknown"
        port = record.name(reason.path).port
        if port == "input":
            return f"{name} is an input that nothing drives: it has been {what} since the start"
        return f"{name} has been {what} since the start: no initial value, and no reset or assignment reached it"
    itself = any(
        c.name.rsplit(".", 1)[-1] == name or record.names[c.path].signal == record.name(reason.path).signal for c in reason.causes
    )
    if itself:
        return f"{name} depends on itself and was unknown before: it was read before it was given a value"
    return (
        f"the statement made {name} unknown though all that it read was known: several drivers disagree, an index is out of range, "
        "or it assigns an unknown"
    )
