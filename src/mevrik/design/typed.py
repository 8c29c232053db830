"""The typed half of the design: what VHDL (IEEE 1076-2008) elaborates to.

Values of these types lie in memory as bytes: an enumeration takes one byte (or four), integers four or eight, reals and physical
values eight, pointers and files eight; arrays and records lie in one piece. Everything that can be known before the run is: the bounds
of objects outside of subprograms, the places of signals, the drivers of each process.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache
from math import prod
from typing import Any

from mevrik.design.record import Identity, field

# ---- types (clause 5) ----


class Node(Identity):
    """What expressions and statements are made of."""


class BaseType(Identity):
    name: str
    pos: int = 0

    def __repr__(self) -> str:
        return self.name.removeprefix("unresolved_")  # the name that everybody uses


class Enum(BaseType):
    literals: list[str] = field(default_factory=list)

    @property
    def low(self) -> int:
        return 0

    @property
    def high(self) -> int:
        return len(self.literals) - 1


class Integer(BaseType):
    low: int = -(1 << 31)
    high: int = (1 << 31) - 1
    universal: bool = False


class Floating(BaseType):
    low: float = -1.7976931348623157e308
    high: float = 1.7976931348623157e308
    universal: bool = False


class Physical(BaseType):
    units: dict[str, int] = field(default_factory=dict)  # in the primary unit
    low: int = -(1 << 63) + 1
    high: int = (1 << 63) - 1


class ArrayType(BaseType):
    indexes: list[Subtype] = field(default_factory=list)
    element: Subtype = None  # type: ignore[assignment]


class RecordType(BaseType):
    fields: list[Field] = field(default_factory=list)
    layout: dict[Any, Any] = field(default_factory=dict)

    def index(self, name: str) -> int:
        for k, f in enumerate(self.fields):
            if f.name == name:
                return k
        return -1


class Field(Identity):
    name: str
    text: str
    subtype: Subtype


class AccessType(BaseType):
    target: Subtype | None = None


class FileType(BaseType):
    element: Subtype = None  # type: ignore[assignment]


class ProtectedType(BaseType):
    """The variables of its body lie in a record of their own; methods get its address."""

    scope: Any = None
    body: Any = None
    variables: list[Object] = field(default_factory=list)
    size: int = 0
    init: list[Stmt] = field(default_factory=list)


class Bounds(Node):
    """A range; each end is an expression: a Const wherever it is known."""

    left: Expr
    right: Expr
    down: bool | Expr

    @property
    def static(self) -> bool:
        return isinstance(self.left, Const) and isinstance(self.right, Const) and isinstance(self.down, bool)

    @property
    def ints(self) -> tuple[int, int, bool]:
        assert isinstance(self.left, Const) and isinstance(self.right, Const) and isinstance(self.down, bool)
        return int(self.left.value), int(self.right.value), self.down

    @property
    def length(self) -> int:
        left, right, down = self.ints
        return max(left - right + 1 if down else right - left + 1, 0)

    @property
    def low(self) -> Any:
        assert isinstance(self.left, Const) and isinstance(self.right, Const)
        return self.right.value if self.down else self.left.value

    @property
    def high(self) -> Any:
        assert isinstance(self.left, Const) and isinstance(self.right, Const)
        return self.left.value if self.down else self.right.value


class Subtype(Identity):
    """A type with its constraint: `range` of a scalar, `bounds` of an array (None: unconstrained), `element` and `fields` where
    those are more constrained than the type says."""

    type: BaseType
    name: str = ""
    range: Bounds | None = None
    bounds: list[Bounds] | None = None
    element: Subtype | None = None
    fields: list[Subtype] | None = None
    resolution: Subprogram | None = None

    def __repr__(self) -> str:
        return (self.name or self.type.name).removeprefix("unresolved_")

    @property
    def elem(self) -> Subtype:
        assert isinstance(self.type, ArrayType)
        return self.element or self.type.element

    def field_types(self) -> list[Subtype]:
        assert isinstance(self.type, RecordType)
        return self.fields or [f.subtype for f in self.type.fields]

    @property
    def scalar(self) -> bool:
        return isinstance(self.type, (Enum, Integer, Floating, Physical))

    @property
    def discrete(self) -> bool:
        return isinstance(self.type, (Enum, Integer))

    @property
    def constrained(self) -> bool:
        """Whether the size is fixed by the subtype (not by the value)."""
        if isinstance(self.type, ArrayType):
            return self.bounds is not None and self.elem.constrained
        if isinstance(self.type, RecordType):
            return all(f.constrained for f in self.field_types())
        return True

    @property
    def static(self) -> bool:
        """Whether the size is known before the run."""
        if isinstance(self.type, ArrayType):
            return self.bounds is not None and all(b.static for b in self.bounds) and self.elem.static
        if isinstance(self.type, RecordType):
            return all(f.static for f in self.field_types())
        return True


def size_of(s: Subtype) -> int:
    """Bytes that a value takes; the subtype has to be static."""
    t = s.type
    if isinstance(t, Enum):
        return 1 if len(t.literals) <= 256 else 4
    if isinstance(t, Integer):
        return 4 if t.low >= -(1 << 31) and t.high < 1 << 31 else 8
    if isinstance(t, ArrayType):
        assert s.bounds is not None
        count = 1
        for b in s.bounds:
            count *= b.length
        return count * size_of(s.elem)
    if isinstance(t, RecordType):
        return record_layout(s)[1]
    if isinstance(t, ProtectedType):
        return t.size
    return 8


def scalars_of(s: Subtype) -> int:
    """How many scalar elements a value has, in all; the subtype has to be static."""
    if isinstance(s.type, ArrayType):
        assert s.bounds is not None
        return prod(b.length for b in s.bounds) * scalars_of(s.elem)
    return sum(scalars_of(f) for f in s.field_types()) if isinstance(s.type, RecordType) else 1


def align_of(s: Subtype) -> int:
    t = s.type
    if isinstance(t, ArrayType):
        return align_of(s.elem)
    if isinstance(t, RecordType):
        return max((align_of(f) for f in s.field_types()), default=1)
    if isinstance(t, ProtectedType):
        return 8
    return size_of(s)


def aligned(at: int, size: int) -> int:
    """The first place from `at` on for an object of so many bytes: none of the words in which it is read and written (up to 32 bytes)
    lies across two lines of the cache."""
    to = 32 if size > 16 else 16 if size > 8 else 8
    return (at + to - 1) // to * to


def inner_arrays(s: Subtype) -> Iterator[Subtype]:
    """The arrays inside of a composite subtype, elements and fields, as they follow each other."""
    parts = [s.elem] if isinstance(s.type, ArrayType) else s.field_types() if isinstance(s.type, RecordType) else []
    for part in parts:
        if isinstance(part.type, ArrayType):
            yield part
        yield from inner_arrays(part)


def record_layout(s: Subtype) -> tuple[list[int], int]:
    """Offsets of the fields, and the size."""
    offsets, size, _ = _record_shape(s)
    return offsets, size


@lru_cache(maxsize=1 << 14)  # asked for at each name of a field; a record whose size can be asked for does not change any more
def _record_shape(s: Subtype) -> tuple[list[int], int, int]:
    """Offsets of the fields, the size and the alignment."""
    at = 0
    whole = 1
    offsets: list[int] = []
    for f in s.field_types():
        align = align_of(f)
        whole = max(whole, align)
        at = (at + align - 1) // align * align
        offsets.append(at)
        at += size_of(f)
    return offsets, (at + whole - 1) // whole * whole, whole


# ---- objects and subprograms ----


class Object(Identity):
    """kind: constant, variable, signal, file, loop (the variable of a for), param. `value` is that of a scalar constant that is
    known, `data` the bytes of a known composite one."""

    name: str
    kind: str
    subtype: Subtype
    pos: int
    text: str = ""
    mode: str = ""  # of a parameter or port
    cls: str = ""  # of a parameter: constant, variable, signal, file
    value: Any = None
    init: Expr | None = None
    owner: Any = None  # the subprogram whose variable it is; None: static
    place: int = -1  # offset in the memory of a static object
    signal: SignalPart | None = None
    self_of: ProtectedType | None = None  # a variable of a protected type
    bus: str = ""
    shared: bool = False
    attributes: dict[str, Expr] | None = None
    default: Expr | None = None
    element_of: Any = None
    index: int = -1
    implicit: Any = None  # of S'delayed and its kind
    default_pos: int = 0
    site: int = 0  # of the declaration of one that is static


IMPLICIT = ("transaction", "quiet", "delayed", "stable")  # the kinds of signals that come with another one (16.2.4)


class RootSignal(Identity):
    """A signal with storage of its own; ports are parts of it. `unresolved` drivers that overlap are an error."""

    name: str
    subtype: Subtype
    pos: int
    number: int = -1
    offset: int = 0
    size: int = 0
    path: str = ""
    drivers: list[Driver] = field(default_factory=list)
    init: Expr | None = None
    bus: str = ""
    observed: bool = False  # an attribute, or a subprogram that gets it as a signal, asks for more than its value
    wants_parts: bool = False  # an attribute asks when one of its scalars changed, or was active
    links: list[Any] = field(default_factory=list)
    kind: str = ""  # "", delayed, stable, quiet, transaction, guard
    site: int = 0  # of its declaration, where that has an initial value


class SignalPart(Identity):
    """Where a signal or port lies: bytes from `at` on of a root signal."""

    root: RootSignal
    at: int = 0


class Driver(Identity):
    """What one process contributes to a signal: the byte ranges that it drives."""

    root: RootSignal
    process: Process
    number: int = -1
    ranges: list[tuple[int, int]] = field(default_factory=list)
    inits: list[tuple[int, int, Any]] = field(default_factory=list)  # (at, size, object whose default it is)
    pos: int = 0


class Subprogram(Identity):
    """`intrinsic`: the name of the kernel's function. The body is analysed when it is first asked for."""

    name: str
    function: bool
    params: list[Object]
    result: Subtype | None
    pos: int
    text: str = ""
    impure: bool = False
    intrinsic: str = ""
    ours: bool = False  # of a package that comes with us: what it says belongs to the statement that called it
    decls: list[Stmt] = field(default_factory=list)
    body: list[Stmt] | None = None
    analyse: Any = None  # makes `decls` and `body`
    enclosing: Subprogram | None = None
    method_of: ProtectedType | None = None
    region: Any = None
    process: Process | None = None  # in whose declarations it stands
    implicit: bool = False
    generic: Any = None
    has_nested: bool = False
    suspends: bool = False
    variables: list[Object] = field(default_factory=list)
    alias_of: Any = None
    end: int = 0
    attributes: dict[str, Expr] | None = None  # of the user's (7.2)

    def profile(self) -> str:
        """As a message shows it: name [types] return type."""
        types = ", ".join(repr(p.subtype) for p in self.params)
        result = f" return {self.result!r}" if self.result is not None else ""
        return f"{self.text or self.name}({types}){result}"


# ---- expressions; each has the subtype of its value ----


class Expr(Node):
    type: Subtype
    pos: int


class Const(Expr):
    """A scalar: an int (the position of an enumeration value) or a float."""

    value: Any


class Data(Expr):
    """A string literal: the positions of its characters."""

    values: bytes


class Ref(Expr):
    object: Object


class Index(Expr):
    a: Expr
    indexes: list[Expr]


class Slice(Expr):
    a: Expr
    bounds: Bounds


class FieldOf(Expr):
    a: Expr
    index: int


class Deref(Expr):
    a: Expr


class Call(Expr):
    """Arguments by parameter; `target` is the object of a protected type whose method it is."""

    sub: Subprogram
    args: list[Expr]
    target: Expr | None = None


class Op(Expr):
    """A predefined operator; logical ones work on scalars and arrays."""

    op: str
    args: list[Expr]


class Convert(Expr):
    """A type conversion; closely related arrays keep their elements. `alias`: the same object under other bounds."""

    a: Expr
    alias: bool = False


class Aggregate(Expr):
    """Of an array: `items` are (choices, value), a choice is an Expr, Bounds or None for others; positional ones have no choices.
    Of a record: by field. `bounds` is None when they come from the target."""

    items: list[tuple[list[Expr | Bounds | None], Expr]]


class BoundOf(Expr):
    """left, right, low, high, length or ascending of an array value or object; `inside` times 'element of it (16.2.2)."""

    a: Expr
    which: str
    dim: int
    inside: int = 0


class ScalarAttr(Expr):
    """pos, val, succ, pred, leftof, rightof, image, value of a scalar type."""

    which: str
    of: Subtype
    a: Expr


class SignalAttr(Expr):
    """event, active, last_event, last_active, last_value, driving, driving_value."""

    which: str
    a: Expr


class New(Expr):
    of: Subtype
    init: Expr | None


class OpenFile(Expr):
    """The absent actual of a parameter."""


# ---- statements; `site` as in the rest of the design ----


class Stmt(Node):
    site: int


class Declare(Stmt):
    """A constant, variable or file comes into being."""

    object: Object


class Assign(Stmt):
    target: Expr
    value: Expr


class Wave(Node):
    value: Expr | None
    after: Expr | None


class SignalAssign(Stmt):
    """delay: transport, inertial, force or release."""

    target: Expr
    delay: str
    reject: Expr | None
    waves: list[Wave]
    guard: Object | None = None


class If(Stmt):
    cond: Expr
    then: list[Stmt]
    other: list[Stmt]


class Case(Stmt):
    """Arms are (choices, body); a choice is an Expr or Bounds, none for others. `matching`: 10.9, case?."""

    subject: Expr
    matching: bool
    arms: list[tuple[list[Expr | Bounds], list[Stmt]]]


class Loop(Stmt):
    """`variable` with `bounds`, or `cond`, or endless."""

    cond: Expr | None
    variable: Object | None
    bounds: Bounds | None
    body: list[Stmt]


class Leave(Stmt):
    loop: Loop
    again: bool  # next


class Return(Stmt):
    value: Expr | None


class Wait(Stmt):
    """`on`: signals; None for a wait for ever without time."""

    on: list[Expr]
    until: Expr | None
    time: Expr | None


class Assert(Stmt):
    cond: Expr | None
    report: Expr | None
    severity: Expr | None


class CallStmt(Stmt):
    call: Call


class Nest(Stmt):
    """Statements after which temporary things are given back, as of a block."""

    body: list[Stmt]


class Process(Identity):
    """`sensitivity`: signals whose events run it from its begin to its end; None: it waits by itself. A link copies in the moment of
    an update (a conversion in a port map)."""

    name: str
    path: str
    pos: int
    site: int
    decls: list[Stmt] = field(default_factory=list)
    body: list[Stmt] = field(default_factory=list)
    sensitivity: list[Expr] | None = None
    postponed: bool = False
    drivers: dict[RootSignal, Driver] = field(default_factory=dict)
    number: int = -1
    kind: str = "process"  # process, link
    reads: list[Any] = field(default_factory=list)
    scope: Any = None
    edges: list[tuple[int, int]] | None = None  # what design/ports.py found in its body


def is_nine(s: Subtype) -> bool:
    """Whether it is std_ulogic, or an array of it."""
    kind = s.type
    while isinstance(kind, ArrayType):
        kind = kind.element.type
    return isinstance(kind, Enum) and len(kind.literals) == 9


# ---- walking ----

_BELOW: dict[type, tuple[tuple[str, ...], tuple[str, ...]]] = {}
_ELSEWHERE = {"object", "sub", "loop", "of", "value_of", "again"}  # what is referred to, and stands in another place


def _below(kind: type[Identity]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The fields of a class that hold one expression or statement, and those that hold several."""
    one: list[str] = []
    many: list[str] = []
    written = {name: text for c in reversed(kind.__mro__) for name, text in c.__dict__.get("__annotations__", {}).items()}  # noqa: RUF063
    for name in kind.__struct_fields__:
        if name in _ELSEWHERE or not re.search(r"\b(Expr|Call|Stmt|Bounds|Wave|Any)\b", written[name]):
            continue
        (many if re.search(r"\b(list|tuple|Any)\b", written[name]) else one).append(name)
    _BELOW[kind] = tuple(one), tuple(many)
    return _BELOW[kind]


def children(node: Any) -> list[Any]:
    """The expressions, statements, bounds and waves right below one."""
    found: list[Any] = []
    kind = type(node)
    one, many = _BELOW.get(kind) or _below(kind)
    for name in one:
        value = getattr(node, name)
        if isinstance(value, Node):
            found.append(value)
    for name in many:
        value = getattr(node, name)
        if value:
            _members(value if isinstance(value, (list, tuple)) else (value,), found)
    return found


def _members(value: Any, found: list[Any]) -> None:
    for x in value:
        if isinstance(x, Node):
            found.append(x)
        elif isinstance(x, (list, tuple)):
            _members(x, found)


def nodes(node: Any) -> Iterator[Any]:
    """A node and all below it."""
    stack = [node]
    while stack:
        here = stack.pop()
        yield here
        below = children(here)
        if below:
            below.reverse()
            stack += below


# ---- the whole ----


class Instance(Identity):
    """A region of the hierarchy: an instance of a unit, a block, a branch of a generate. `ports` and `signals` are Objects."""

    name: str
    path: str
    unit: str
    pos: int
    inside: int
    parent: Instance | None = None
    ports: list[Object] = field(default_factory=list)
    signals: list[Object] = field(default_factory=list)
    children: list[Instance] = field(default_factory=list)
    scope: Any = None
    kind: str = "entity"
    unit_of: Any = None  # the unit of a module of the other language


class Bridge(Identity):
    """A port between the languages: `in` to the typed signal from the signal `name` of the instance at `path`, or `out` of it. An inout port
    has three, `net` into it and `strong` and `weak` out of it (kernel/bridge.c). `form` and `count` are those of what is shown of a signal
    (lang/vhdl/elaborate/outline.py)."""

    way: str
    path: str
    name: str
    root: RootSignal
    at: int
    size: int
    form: int
    count: int
    driver: Driver | None = None

    @property
    def into(self) -> bool:
        return self.way in ("in", "net")


class Model(Identity):
    """What VHDL elaborates to: static objects in the order in which they get their values, signals, processes, the hierarchy.
    `size`: bytes of static storage."""

    constants: list[Object]
    roots: list[RootSignal]
    processes: list[Process]
    tops: list[Instance]
    size: int
    types: dict[str, Any] = field(default_factory=dict)
    bridges: list[Bridge] = field(default_factory=list)
