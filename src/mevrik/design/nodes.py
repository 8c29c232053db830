"""Expressions and statements of the elaborated design.

Sizes and signs are settled: every operator's operands have the width and sign that the standard gives them
(IEEE 1364-2005 5.4 and 5.5), so a reader never needs the context of an expression.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design.record import Identity, Value, field
from mevrik.design.types import Array, Type, Vec

if TYPE_CHECKING:
    from mevrik.design.unit import Signal, Subprogram, Unit

# ---- expressions -------------------------------------------------------------------------------


class Expr(Value):
    type: Type


class Const(Expr):
    val: int
    unk: int = 0
    text: bool = False  # written as a string literal


class RealConst(Expr):
    value: float


class Term(Value):
    """`scale * index` of an offset; an index unknown or outside [low, high] puts the whole access out of range."""

    index: Expr
    scale: int
    low: int
    high: int


class Offset(Value):
    """A position in bits (or in elements of an array): a constant and index terms."""

    const: int
    terms: tuple[Term, ...] = ()


class Ref(Expr):
    """The value of a signal, or of one element of an array signal; of type Array: all elements from `element` on."""

    signal: Signal
    element: Offset | None = None


class Bits(Expr):
    """`width` bits of a vector from an offset on; bits outside are x (5.2.1)."""

    base: Expr
    offset: Offset


class Unary(Expr):
    """op: + - ~ ! and the reductions & ~& | ~| ^ ~^."""

    op: str
    a: Expr


class Binary(Expr):
    """op as in the language; a shift's right operand has its own width and is unsigned."""

    op: str
    a: Expr
    b: Expr


class Choice(Expr):
    """`cond ? a : b`; an unknown condition merges the two (5.1.13)."""

    cond: Expr
    a: Expr
    b: Expr


class Concat(Expr):
    """Parts with the highest bits first."""

    parts: tuple[Expr, ...]


class Repeat(Expr):
    count: int
    a: Expr


class Resize(Expr):
    """Truncated, or extended with the sign bit if the new type is signed, else with zeros (5.5.2). `meant`: by a cast."""

    a: Expr
    meant: bool = False


class ToReal(Expr):
    """A whole number as a real one, or either rounded to single precision if the type is `short`."""

    a: Expr


class ToVec(Expr):
    """A real rounded to the nearest integer, halves away from zero (4.8.2)."""

    a: Expr


class Call(Expr):
    """`variants` of a virtual method: (number of a class, what that class makes of it); the first argument is the object."""

    function: Subprogram
    args: tuple[Expr, ...]
    pos: int = 0
    variants: list[tuple[int, Subprogram]] = field(default_factory=list)
    copy_back: tuple[tuple[LRef, ...] | None, ...] = ()  # where output arguments go, one entry an argument
    via: Expr | None = None  # the virtual interface whose function it is


class NewObject(Expr):
    """A new object of `words` words of storage, or a copy of another, for which `lists` says by the number of its class at which bytes
    it has lists."""

    number: int
    words: int
    source: Expr | None
    site: int
    lists: tuple[tuple[int, int], ...] = ()


class FieldValue(Expr):
    """A property of an object, from a word of its storage on; `element` of one that is an array."""

    object: Expr
    word: int
    site: int
    element: Offset | None = None


class FieldPlace(Value):
    """A property as a place to write to."""

    object: Expr
    word: int
    type: Type
    site: int
    element: Offset | None = None


class ElementPlace(Value):
    """An element of a list as a place to write to; `index` is a key in an associative array."""

    list: ListPlace
    index: Expr
    type: Type


class MemberPlace(Value):
    """A list inside of a structure that is kept at a place, from a bit of it on."""

    place: ListPlace
    bits: int
    type: Type


class ArrayConst(Expr):
    """An array made of its elements by ascending index, or of one for all of them."""

    items: tuple[Expr, ...]


class Item(Expr):
    """An element of a value of type Array."""

    array: Expr
    element: Offset


class ListArray(Expr):
    """The elements of a list as a value of type Array; those that the list lacks have the value of nothing. `turned`: the first one has the
    highest index (IEEE 1800-2017 7.6: the leftmost elements correspond)."""

    list: Expr
    turned: bool = False


class ArrayList(Expr):
    """The elements of a value of type Array as a list that lives for a short while; `turned`: that of the highest index first."""

    array: Expr
    turned: bool = False


class Fresh(Expr):
    """A structure whose lists, at these bits, are copies of their own (7.2.2, 7.10)."""

    a: Expr
    lists: tuple[int, ...]


class Effect(Expr):
    """Statements that run, then a value."""

    body: list[Stmt]
    a: Expr


class InstanceLink(Expr):
    """An instance of an interface as the value of a virtual one, by the way to it."""

    path: tuple[str, ...]


class Present(Expr):
    """A handle that has to lead to an object: a null one stops the run at this place."""

    object: Expr
    site: int


class ClassNumber(Expr):
    """The number of the class of an object."""

    object: Expr
    site: int


class SysCall(Expr):
    name: str
    args: tuple[Expr | LRef, ...]
    pos: int = 0
    note: int = 0  # a number that goes with the call, such as the time unit for $time
    scope: str = ""


class TextConst(Expr):
    value: bytes


class ListValue(Expr):
    """op: get(index), size, pop(front), clone, has(value), equal(list), slice(first, last); of associative arrays exists(key) and
    first, last, next(key), prev(key), which put the key that they find to `out`."""

    op: str
    list: Expr | ListPlace
    args: tuple[Expr, ...]
    out: tuple[LRef, ...] = ()


class ListLoop(Expr):
    """A method that goes through a list with `item` and `index` set (7.12). op: the reductions sum, product, and, or, xor of
    `body`; find, find_index and their _first and _last forms; unique, unique_index, min, max by `body`; all but the
    reductions give a list that lives for a short while."""

    op: str
    list: Expr
    item: Signal
    index: Signal
    body: Expr


class Lookup(Expr):
    """The output of a user-defined primitive for its inputs; sequential ones also look at the inputs before and the state."""

    rows: bytes
    now: Expr
    before: Expr | None
    state: Expr | None


class LRef(Value):
    """A place to write to: a signal, one of its elements, a range of bits of either."""

    signal: Signal
    element: Offset | None
    bits: Offset | None
    width: int


# ---- statements --------------------------------------------------------------------------------


class Stmt(Value):
    """`site` numbers the statement in the whole design; see `unit.Site`."""

    site: int


class Sense(Value):
    """One event: a change ("any"), "posedge", "negedge" or "edge" of an expression, if `guard` holds then."""

    edge: str
    expr: Expr
    guard: Expr | None = None


class Assign(Stmt):
    """Blocking; the parts of the target have the highest bits first and the value has their total width."""

    target: tuple[LRef, ...]
    value: Expr
    delay: Expr | None = None
    events: tuple[Sense, ...] = ()
    repeat: Expr | None = None


class Schedule(Stmt):
    """Nonblocking assignment, at once or after a delay."""

    target: tuple[LRef, ...]
    value: Expr
    delay: Expr | None = None


class If(Stmt):
    cond: Expr
    then: list[Stmt]
    other: list[Stmt]


class Case(Stmt):
    """kind: case, casez, casex, inside; labels and subject share one type. An arm without labels is the default."""

    kind: str
    subject: Expr
    arms: list[tuple[list[Expr], list[Stmt]]]


class Loop(Stmt):
    """Runs body, then step, while cond holds (None: for ever)."""

    cond: Expr | None
    body: list[Stmt]
    step: list[Stmt]
    test_last: bool = False


class RepeatLoop(Stmt):
    count: Expr
    body: list[Stmt]


class Kin(Identity):
    """A subprogram and the copies that other units have of it for their calls: of each the unit, the path from there to the instance
    whose subprogram it is, and the copy itself. The first is the original."""

    members: list[tuple[Unit, tuple[str, ...], Subprogram]] = field(default_factory=list)
    disabled: bool = False


class Block(Stmt):
    """A sequence that can be left; `name` is set for blocks that `disable` can name, `kin` for bodies of subprograms."""

    body: list[Stmt]
    name: str = ""
    remote: bool = False  # disabled from another process
    never: bool = False  # the source promises that it is not reached
    kin: Kin | None = None

    @property
    def is_remote(self) -> bool:
        return self.remote or (self.kin is not None and self.kin.disabled)


class Leave(Stmt):
    """Go on behind the end of an enclosing block (break, continue, return, disable from within)."""

    block: Block


class DisableBlock(Stmt):
    """`disable` of a block or task that another process may be in."""

    path: tuple[str, ...]
    block: Block
    inside: bool = False  # from inside of the block, which this process leaves next


class Fork(Stmt):
    """`own`: automatic variables of the fork with their start values; each time they are new, and kept with the branches."""

    branches: list[Stmt]
    join: str
    own: list[tuple[Signal, Expr]] = field(default_factory=list)


class Delay(Stmt):
    """Suspend for a time in ticks of the design's precision."""

    ticks: Expr


class WaitEvent(Stmt):
    events: tuple[Sense, ...]


class WaitUntil(Stmt):
    cond: Expr


class Trigger(Stmt):
    event: Signal


class CallTask(Stmt):
    task: Subprogram
    args: tuple[Expr | tuple[LRef, ...] | None, ...]
    copy_back: tuple[tuple[LRef, ...] | None, ...] = ()
    via: Expr | None = None


class SysTask(Stmt):
    """`unit` is the time unit (a power of ten) of the module it stands in, if that is not the one it runs in."""

    name: str
    args: tuple[Expr | None, ...]
    scope: str = ""
    unit: int | None = None


class Force(Stmt):
    """kind: force, release, assign, deassign."""

    kind: str
    target: tuple[LRef, ...]
    value: Expr | None


class WaitFork(Stmt):
    """Suspend until all branches that this process forked have ended."""


class ProcessAwait(Stmt):
    """Suspend until the process of this number has ended (IEEE 1800-2017 9.7)."""

    number: Expr


class DisableFork(Stmt):
    """End all branches that this process forked."""


class FieldSet(Stmt):
    object: Expr
    word: int
    type: Type
    value: Expr
    element: Offset | None = None


class AssignArray(Stmt):
    """All elements of an array at once; the value has the target's count and width of elements."""

    target: LRef | FieldPlace
    type: Array
    value: Expr


class ListStep(Stmt):
    """op: push, insert, set, delete, clear, append, copy, take, new, default, reverse, shuffle, and order, which sorts by the
    list of keys that it is given; it changes the list."""

    op: str
    list: ListPlace
    args: tuple[Expr, ...]


class PulseLimits(Value):
    """Of a module path: in ticks, below `reject` a pulse vanishes, below `error` it is x; all ones: the delay itself. `style` is a
    sum of 1 (on detection) and 2 (cancelled pulses are shown). IEEE 1364-2005 14.6."""

    reject: Expr
    error: Expr
    style: int = 0


class Drive(Stmt):
    """A continuous driver of nets: value, strengths of 0 and 1, and up to three delays in ticks, or one with the limits of pulses."""

    target: tuple[LRef, ...]
    value: Expr
    delays: tuple[Expr, ...] = ()
    strength: tuple[int, int] = (6, 6)
    driver: int = field(default=-1)
    pulse: PulseLimits | None = None


ListPlace = LRef | FieldPlace | ElementPlace | MemberPlace


def vec(expr: Expr) -> Vec:
    """The vector type of an expression that is known to be no real."""
    assert isinstance(expr.type, Vec)
    return expr.type
