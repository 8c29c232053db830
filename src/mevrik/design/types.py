"""Types of the elaborated design."""

from __future__ import annotations

import math

from mevrik.design.record import Frozen


class Vec(Frozen, frozen=True):
    """A vector of `width` bits; `four` is False for two-state types, which never hold x or z."""

    width: int
    signed: bool = False
    four: bool = True


class Nine(Vec, frozen=True):
    """A vector of the nine values of IEEE 1076-2008 16.7 as four planes: the bits of U X 0 1 Z W L H - as the numbers 0 to 8."""


class Text(Vec, frozen=True):
    """A string (IEEE 1800-2017 6.16): stored as the 64-bit number of a text that the kernel keeps; 0 is the empty one."""


class Bag(Vec, frozen=True):
    """A structure (IEEE 1800-2017 7.2) that is more than its bits: at the bytes `lists` the numbers of queues or arrays lie; `begins` are the
    value and unknown bits with which a variable of it begins, where that is not as for a plain vector."""

    lists: tuple[int, ...] = ()
    begins: tuple[int, int] | None = None


class List(Vec, frozen=True):
    """A queue or dynamic array of vectors or strings (IEEE 1800-2017 7.5, 7.10): stored as the number of a list that the kernel
    keeps; each variable has one of its own."""

    element: Type = Vec(1)
    queue: bool = True
    key: Vec | None = None  # of the indexes of an associative array (7.8)
    most: int = 0  # elements that a bounded queue holds at most (7.10.5); 0: no bound


class Handle(Vec, frozen=True):
    """A handle to an object of the class `name` (IEEE 1800-2017 8.4): the object's number, 0 for null."""

    name: str = ""


class Link(Vec, frozen=True):
    """A virtual interface (IEEE 1800-2017 25.9): the number of an instance of the interface `name` (its `Unit.form`), plus one; 0 for
    null."""

    name: str = ""


class Array(Frozen, frozen=True):
    """A whole unpacked array of fixed size (IEEE 1800-2017 7.4): what is assigned, handed over and compared at once."""

    element: Type
    dims: tuple[tuple[int, int], ...]

    @property
    def count(self) -> int:
        return count_of(self.dims)


class Real(Frozen, frozen=True):
    """A double-precision number (IEEE 1364-2005 4.8); `short`: one of single precision (IEEE 1800-2017 6.12)."""

    short: bool = False


class EventType(Frozen, frozen=True):
    """A named event: it carries no value, only the moment (9.7.3)."""


Type = Vec | Real | EventType | Array
BIT = Vec(1)
INTEGER = Vec(32, True)
TIME = Vec(64)
REAL = Real()
SHORT_REAL = Real(True)
TEXT = Text(64, False, False)
EVENT = EventType()


def count_of(dims: tuple[tuple[int, int], ...]) -> int:
    """The number of elements of an array with these ranges."""
    return math.prod(abs(left - right) + 1 for left, right in dims)


def width_of(t: Type) -> int:
    """Bits that a value of the type takes in storage; 64 for a real, 1 for an event."""
    if isinstance(t, Vec):
        return t.width
    return 64 if isinstance(t, Real) else 1
