"""What the parts of trees are: there are many kinds of them, and in a large design many of each. Structs of msgspec cost a tenth of a
dataclass for each class, which a program that starts anew for each run feels, and half of it for each object."""

from __future__ import annotations

import sys
from typing import Any, TypeVar

# msgspec would take typing_extensions, whose import is a tenth of a start, but gets on with what Python has itself
_hidden = sys.modules.setdefault("typing_extensions", None)  # type: ignore[arg-type]
import msgspec  # noqa: E402
from msgspec import field  # noqa: E402

if _hidden is None:
    del sys.modules["typing_extensions"]

__all__ = ["Frozen", "Identity", "Value", "field", "replace"]

T = TypeVar("T", bound=msgspec.Struct)


class Identity(msgspec.Struct, eq=False):
    """Compared and hashed by identity."""

    def __repr__(self) -> str:
        return f"<{type(self).__name__}>"


class Value(msgspec.Struct):
    """Compared by its fields."""

    def __repr__(self) -> str:
        return f"<{type(self).__name__}>"


class Frozen(msgspec.Struct, frozen=True):
    """Never changed, so it can be hashed by its fields too."""


def replace(x: T, **changes: Any) -> T:
    """A copy of a struct with other values in some fields."""
    return msgspec.structs.replace(x, **changes)
