"""What Qt calls must not raise: an exception that leaves an event handler ends the whole program. A fault of our own is printed, and the
window goes on without what was to be done."""

from __future__ import annotations

import functools
import sys
import traceback
from collections.abc import Callable
from typing import TypeVar

Widget = TypeVar("Widget")
Event = TypeVar("Event")


def guarded(handler: Callable[[Widget, Event], None]) -> Callable[[Widget, Event], None]:
    """An event handler whose faults are printed."""

    @functools.wraps(handler)
    def safe(self: Widget, event: Event) -> None:
        try:
            handler(self, event)
        except Exception:
            print(f"mevrik: a fault of Mevrik's own; please report it:\n{traceback.format_exc()}", file=sys.stderr, flush=True)

    return safe
