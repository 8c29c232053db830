"""What the parts of trees are: there are many kinds of them, and in a large design many of each. Structs of msgspec cost a tenth of a
dataclass for each class, which a program that starts anew for each run feels, and half of it for each object."""

from __future__ import annotations

import dataclasses
from typing import Any, TypeVar

import msgspec
from msgspec import field

__all__ = ["Frozen", "Identity", "Value", "field", "replace"]

T = TypeVar("T")


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
    """A copy of a struct, or of a dataclass, with other values in some fields."""
    if isinstance(x, msgspec.Struct):
        return msgspec.structs.replace(x, **changes)
    return dataclasses.replace(x, **changes)  # type: ignore[type-var]
