"""The elaborated design: units (a module with its parameters fixed), signals, processes, the instance tree."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design.nodes import Expr, LRef, Sense, Stmt
from mevrik.design.record import Frozen, Identity, field
from mevrik.design.types import EventType, Real, Type, Vec

if TYPE_CHECKING:
    from mevrik.design.typed import Model


class Part(Frozen, frozen=True):
    """A member of a packed structure, or an element of a packed array, inside of a vector: `width` bits from bit `low` on; `left` and
    `right` are its own range, `parts` what it is made of itself."""

    name: str
    low: int
    width: int
    signed: bool
    left: int
    right: int
    labels: dict[int, str] | None
    parts: tuple[Part, ...]


class Signal(Identity):
    """A net, variable, parameter copy or event of a unit, or the stand-in for a signal of another instance.

    `left`/`right` is the declared range of a vector, `dims` the ranges of an array's dimensions. A stand-in has
    `path` (the instances to go through, from the owner unit; a leading "^n" climbs n levels) and `target`.
    """

    name: str
    type: Type
    kind: str  # "net", "var", "local" (in the frame of a call)
    pos: int
    net: str = ""
    left: int = 0
    right: int = 0
    dims: tuple[tuple[int, int], ...] = ()
    port: str = ""
    init: Expr | None = None
    path: tuple[str, ...] = ()
    target: Signal | None = None
    ranged: bool = False
    fixed: bool = False  # a constant that only its initial value gives a value
    forced: bool = False
    number: int = -1
    packed: tuple[tuple[int, int], ...] = ()
    labels: dict[int, str] | None = None  # names of the values of an enum
    parts: tuple[Part, ...] = ()
    implicit: bool = False
    charge: int = 2  # strength of what a trireg keeps: small 1, medium 2, large 4 (IEEE 1364-2005 4.4.1)
    decay: Expr | None = None  # after so many ticks it is lost (4.4.2)
    via: Expr | None = None  # the virtual interface by which the instance that `target` is in is found
    sample_of: Signal | None = None  # it keeps what that one held before the present moment
    leaf: tuple[int, int, int, int, int] | None = None  # what it shows of a typed signal: root, byte, size, form, count

    @property
    def is_array(self) -> bool:
        return bool(self.dims)

    @property
    def elements(self) -> int:
        count = 1
        for left, right in self.dims:
            count *= abs(left - right) + 1
        return count


class Subprogram(Identity):
    """A function or task. Static ones keep their variables in the unit, automatic ones in a frame."""

    name: str
    type: Type | None
    pos: int
    automatic: bool
    is_task: bool
    unit: Unit
    result: Signal | None = None
    ports: list[Signal] = field(default_factory=list)
    directions: list[str] = field(default_factory=list)
    locals: list[Signal] = field(default_factory=list)
    body: list[Stmt] = field(default_factory=list)
    suspends: bool = False
    number: int = -1
    defaults: list[Expr | None] = field(default_factory=list)
    path: str = ""


# What a cell can hold (engine/cells.py): bits of a signal that it reads from, inputs, the ticks of a delay.
CELL_WIDTH, CELL_INPUTS, CELL_TICKS = 8 * 255, 255, (1 << 32) - 1


class Cell(Frozen, frozen=True):
    """A gate of one output bit, that the kernel evaluates by itself: its kind and, for each input, a signal and its bit, or None and
    a constant (0, 1, 2 for z, 3 for x)."""

    kind: str
    inputs: tuple[tuple[Signal | None, int], ...]


class Process(Identity):
    """kind: initial, final, always, always_comb (also runs at the start), assign (a Drive), link (a Drive that two joined
    signals make superfluous). `explicit`: its sensitivity list was written out; `latch`: meant to hold values; `hidden`: not in the source.

    `sense` is set when the process does nothing but wait for these events and run to its end each time.
    """

    kind: str
    body: list[Stmt]
    pos: int
    scope: str
    sense: tuple[Sense, ...] | None = None
    link: tuple[Signal, Signal] | None = None
    number: int = -1
    locals: list[Signal] = field(default_factory=list)
    explicit: bool = False
    latch: bool = False
    hidden: bool = False
    strict: str = ""  # always_comb, always_ff, always_latch: nothing else may write what it writes (IEEE 1800-2017 9.2.2)
    cell: Cell | None = None  # the process is this gate
    region: str = ""  # "reactive", "program" for the procedures of one (IEEE 1800-2017 4.4.2), "start" before all others


class Switch(Identity):
    """A switch between two bits of nets (IEEE 1364-2005 7.6), or from `b` to `a` only (7.5), where `b` may be a variable. `control` is
    a bit of a signal that closes it at the level `active`; None: always closed. `resistive` ones weaken what passes."""

    a: LRef
    b: LRef
    control: LRef | None
    active: int
    resistive: bool
    pos: int
    one_way: bool = False
    wire: bool = False  # a connection, which reduces nothing


class InstanceDecl(Identity):
    name: str
    unit: Unit
    pos: int


class DelaySpot(Identity):
    """Where a delay file can put values. kind: path (source, edge, target, condition as written; twelve delays), port or device (target;
    rise, fall, turn-off), check (`name`, first port and edge, second port and, as `condition`, its edge; its limits), or net: the name
    of what is connected to the port `target`, an input or output by `condition`, of the instance `name`."""

    kind: str
    source: str
    edge: str
    target: str
    condition: str
    signals: list[Signal]
    name: str = ""
    limits: list[Signal] = field(default_factory=list)  # of a path: twelve below which a pulse vanishes, twelve below which it is x


class Annotation(Frozen, frozen=True):
    """A $sdf_annotate: the file, the instance by the way from the calling unit, which of the three values, their factors."""

    unit: Unit
    path: tuple[str, ...]
    file: str
    choice: int
    factors: tuple[float, float, float]


class Unit(Identity):
    """A module with its parameters fixed; all instances that agree in them share one unit."""

    name: str
    key: str
    pos: int
    end: int
    signals: list[Signal] = field(default_factory=list)
    standins: list[Signal] = field(default_factory=list)
    processes: list[Process] = field(default_factory=list)
    instances: list[InstanceDecl] = field(default_factory=list)
    subprograms: list[Subprogram] = field(default_factory=list)
    ports: list[Signal] = field(default_factory=list)
    parameters: dict[str, Expr] = field(default_factory=dict)
    switches: list[Switch] = field(default_factory=list)
    delays: list[DelaySpot] = field(default_factory=list)
    unit_exp: int = -9
    precision_exp: int = -9
    form: str = ""  # of an interface, how virtual ones name it: with the values of its parameters


class Site(Frozen, frozen=True):
    """What a site number stands for: a stretch of source text."""

    pos: int
    end: int
    process: str


class Design(Identity):
    """The whole: what stands at the top, all units, sites, and the tick (a power of ten in seconds). `tops` are packages, then other
    modules that are named but instantiated by nobody, then the top."""

    tops: list[InstanceDecl]
    units: list[Unit]
    sites: list[Site]
    tick_exp: int
    annotations: list[Annotation] = field(default_factory=list)
    typed: Model | None = None  # what was written in VHDL
    texts: tuple[bytes, ...] = ()  # what stands in start values by its number, from 1 on
    inside: dict[str, list[InstanceDecl]] = field(default_factory=dict)  # by path: what stands in an instance of a typed unit

    @property
    def top(self) -> InstanceDecl:
        return self.tops[-1]


__all__ = [
    "Design",
    "EventType",
    "InstanceDecl",
    "LRef",
    "Process",
    "Real",
    "Signal",
    "Site",
    "Subprogram",
    "Unit",
    "Vec",
]
