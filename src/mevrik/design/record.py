"""Dataclasses with slots, made for being many: a program that starts anew for each run feels what each class costs.

Without a text of its own a dataclass computes one from its signature, and it compiles every method that is asked for. So a class
gets its name for a text, and only the methods that are used.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TypeVar, dataclass_transform

T = TypeVar("T")


def _named(cls: type[T]) -> type[T]:
    cls.__doc__ = cls.__doc__ or cls.__name__
    return cls


@dataclass_transform(eq_default=False, field_specifiers=(field,))
def node(cls: type[T]) -> type[T]:
    """Compared by identity, printed by its class: parts of trees."""
    return dataclass(slots=True, eq=False, repr=False)(_named(cls))


@dataclass_transform(field_specifiers=(field,))
def value(cls: type[T]) -> type[T]:
    """Compared by its fields."""
    return dataclass(slots=True, repr=False)(_named(cls))
