"""Names and what they stand for."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import Frozen, Identity, Value, field
from mevrik.design.types import Array, List, Type, Vec
from mevrik.design.unit import Signal, Subprogram, Unit
from mevrik.lang.verilog import ast

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.classinfo import ClassInfo
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


class Param(Identity):
    """A parameter, genvar or enum value: a constant."""

    name: str
    value: n.Expr
    pos: int
    packed: tuple[tuple[int, int], ...] = ()
    shape: Shape | None = None


class Override(Identity):
    """The value that a defparam gives to a parameter (IEEE 1364-2005 12.2.1)."""

    pos: int
    value: n.Expr
    used: bool = False


class Overrides:
    """What defparams set in and below a module, by the first step of their paths: a netlist may have one for each instance."""

    def __init__(self) -> None:
        self._by_step: dict[str, dict[tuple[str, ...], Override]] = {}

    def put(self, path: tuple[str, ...], override: Override) -> None:
        """What stands last in the text counts, be it here or in a module above."""
        known = self._by_step.setdefault(path[0], {})
        if path not in known or known[path].pos <= override.pos:
            known[path] = override

    def of_parameter(self, name: str) -> Override | None:
        return self._by_step.get(name, {}).get((name,))

    def below(self, steps: tuple[str, ...]) -> Overrides:
        """Those for the instance at this path, which are then in use."""
        found = Overrides()
        for path, override in self._by_step.get(steps[0], {}).items():
            if path[: len(steps)] == steps and len(path) > len(steps):
                found.put(path[len(steps) :], Override(override.pos, override.value))
                override.used = True
        return found

    def items(self) -> list[tuple[tuple[str, ...], Override]]:
        return [pair for known in self._by_step.values() for pair in known.items()]


class TypeName(Identity):
    name: str
    shape: Shape


class SubDecl(Identity):
    """A function or task; its body is elaborated at the first call."""

    tree: ast.Function
    scope: Scope
    sub: Subprogram
    done: bool = False
    broken: bool = False  # its head has a mistake
    owner: ClassInfo | None = None  # the class of a method that has an object
    shape: Shape | None = None  # of its result
    shapes: list[Shape] = field(default_factory=list)  # of its ports
    kin: n.Kin = field(default_factory=n.Kin)

    def add_kin(self, unit: Unit, path: tuple[str, ...], copy: SubDecl) -> None:
        """A copy of it in a unit from which this path leads to its instance."""
        if not self.kin.members:
            self.kin.members.append((self.sub.unit, (), self.sub))
        self.kin.members.append((unit, path, copy.sub))
        copy.kin = self.kin


class InstanceName(Identity):
    name: str
    unit: Unit
    elaborator: UnitElaborator


class UnitRoot(Frozen, frozen=True):
    """A module above, by the way to it."""

    path: tuple[str, ...]


class BlockName(Identity):
    """A named block or task that `disable` can name."""

    block: n.Block
    scope: Scope | None
    announced: bool = False  # its statements are not elaborated yet
    leaves_branches: bool = False  # a fork in it does not wait for all of its branches


class EventArray(Identity):
    """An array of named events: each index has an event, or an array of them."""

    left: int
    right: int
    items: dict[int, Signal | EventArray]

    @property
    def ranges(self) -> tuple[tuple[int, int], ...]:
        inner = next(iter(self.items.values()))
        return ((self.left, self.right), *(inner.ranges if isinstance(inner, EventArray) else ()))


class LetName(Identity):
    tree: ast.LetDecl


class PropertyName(Identity):
    """A named property or sequence; the event of its matches, once something waits for it."""

    tree: ast.PropertyDecl
    event: Signal | None = None


class InterfacePort(Identity):
    """A port that is an interface: the way to the instance that is connected, and by which view (IEEE 1800-2017 25.3, 25.5)."""

    path: tuple[str, ...]
    home: UnitElaborator
    modport: str = ""


class RemoteBlock(Identity):
    """A named block or task of another instance, by the way to it."""

    block: n.Block
    path: tuple[str, ...]


class Field(Value):
    name: str
    low: int
    type: Type
    shape: Shape
    default: n.Expr | None = None  # the constant that its declaration gives


class Shape(Value):
    """A data type as resolved: the type of the value, its packed ranges, the members of a structure, the ranges of a fixed array
    and, of a list, what its elements are. `loose`: a structure that is not packed; `tagged`: an enum by its name."""

    type: Type
    packed: tuple[tuple[int, int], ...] = ()
    labels: dict[int, str] | None = None
    fields: dict[str, Field] = field(default_factory=dict)
    unpacked: tuple[tuple[int, int], ...] = ()
    inner: Shape | None = None
    keys: Shape | None = None  # of the indexes of an associative array
    loose: bool = False
    union: bool = False
    spread: Shape | None = None  # of a fixed array held as one vector: what it was
    initial: n.Expr | None = None  # of a structure whose members don't all start as x
    named: str = ""  # where an enum, structure or union was declared

    @property
    def whole(self) -> Type:
        """The type of a value of this shape."""
        return Array(self.type, self.unpacked) if self.unpacked else self.type


def _ranges(shape: Shape) -> tuple[tuple[int, int], ...]:
    """The packed ranges; `byte` has none, and matches `bit signed [7:0]`."""
    usual = isinstance(shape.type, Vec) and shape.packed == ((shape.type.width - 1, 0),) and shape.type.width > 1
    return () if usual else shape.packed


def matching(a: Shape, b: Shape) -> bool:
    """Whether two types match (6.22.1): vectors by what they are, enumerations and structures by their declaration alone."""
    if a.whole != b.whole or _ranges(a) != _ranges(b) or a.labels is not b.labels:
        return False
    if (a.fields or b.fields) and a.fields is not b.fields:
        return False
    return a.inner is b.inner or (a.inner is not None and b.inner is not None and matching(a.inner, b.inner))


def type_key(shape: Shape) -> tuple[object, ...]:
    """Equal for types that match (6.22.1), as long as the shapes live."""
    return (
        shape.whole,
        _ranges(shape),
        shape.labels is not None and id(shape.labels),
        bool(shape.fields) and id(shape.fields),
        shape.inner is not None and type_key(shape.inner),
        shape.keys is not None and type_key(shape.keys),
    )


def lists_in(shape: Shape) -> tuple[int, ...]:
    """Where in a structure its lists lie, as bits from its right end."""
    found: list[int] = []
    for f in shape.fields.values():
        if isinstance(f.shape.type, List):
            found.append(f.low)
        elif f.shape.fields:
            found += [f.low + low for low in lists_in(f.shape)]
    return tuple(found)


class Bound(n.Expr):
    """What a bind puts into an instance, under the name of no parameter: it is handed down like what a defparam sets."""

    tree: ast.Bind


class TypeValue(n.Expr):
    """The value of a type parameter."""

    shape: Shape


class PatternValue(n.Expr):
    """A pattern given to a parameter, in the names of the place where it stands."""

    tree: ast.Expr
    home: UnitElaborator
    scope: str  # in a loop the names may stand for other values each time


def start_value(shape: Shape) -> n.Const | None:
    """What a variable of this shape, or each of its elements, holds before its first assignment; None: 0."""
    if isinstance(shape.initial, n.Const):
        return shape.initial
    t = shape.type
    if not isinstance(t, Vec) or not t.four:
        return None
    ones = (1 << t.width) - 1
    return n.Const(t, ones, ones)


def from_left(value: n.ArrayConst) -> list[n.Expr]:
    """The elements of a constant array, the leftmost first: they are kept by ascending index, and one stands for all that are alike."""
    kind = value.type
    assert isinstance(kind, Array)
    if len(value.items) == 1:
        return [value.items[0]] * kind.count
    return [value.items[k] for k in order_of([(left > right, abs(left - right) + 1) for left, right in kind.dims])]


def order_of(dims: list[tuple[bool, int]]) -> list[int]:
    """The numbers of the elements of an array whose dimensions, some of them turned, have these sizes."""
    order = [0]
    for turned, size in dims:
        steps = range(size - 1, -1, -1) if turned else range(size)
        order = [base * size + k for base in order for k in steps]
    return order


Entity = "Signal | Param | TypeName | SubDecl | InstanceName | BlockName | Scope"


class Ambiguous(Value):
    """A name that several packages make visible, each with a meaning of its own (IEEE 1800-2017 26.3)."""

    name: str
    packages: list[str]

    @property
    def message(self) -> str:
        names = " and ".join(f"'{p}'" for p in self.packages)
        return f"'{self.name}' comes from the packages {names}: write {self.packages[0]}::{self.name}, or import the one by name (26.3)"


class Scope(Identity):
    """A module, generate block, named block or subprogram. `prefix` is its path inside the unit, with a dot at the end."""

    name: str
    prefix: str
    parent: Scope | None
    kind: str = "module"
    names: dict[str, object] = field(default_factory=dict)
    positions: dict[str, int] = field(default_factory=dict)
    sub: Subprogram | None = None
    wild: list[Scope] = field(default_factory=list)  # packages of which all is visible (IEEE 1800-2017 26.3)
    constructs: int = 0  # generate constructs so far
    nameless: int = 0  # types without a name so far
    lost: set[str] = field(default_factory=set)  # names whose declarations have mistakes; "*": any name may be one
    outside: Callable[[str], object | None] | None = None  # of the outermost scope: names that stand outside the module

    def of_call(self, name: str) -> Scope:
        """Where a call of `name` is looked up: inside a function its name is its result, but called it is the function itself
        (IEEE 1364-2005 10.4.2)."""
        scope: Scope | None = self
        while scope is not None and not (scope.kind == "sub" and scope.name == name):
            scope = scope.parent
        return scope.parent if scope is not None and scope.parent is not None else self

    def own(self, name: str) -> tuple[object, Scope] | None:
        """What is declared here, or made visible from packages or inherited; nothing from around."""
        entity = self.names.get(name)
        if entity is not None:
            return entity, self
        if not self.wild:
            return None
        known: dict[int, Scope] = {}  # the packages that have one, by what they have
        for package in self.wild:
            inside = package.declared(name)
            if inside is not None:
                known.setdefault(id(inside), package)
        if len(known) > 1:
            return Ambiguous(name, [package.name for package in known.values()]), self
        return next(iter(known.values())).own(name) if known else None

    def declared(self, name: str) -> object | None:
        """What `own` stands for, the same thing from wherever it is seen."""
        entity = self.names.get(name)
        for package in self.wild if entity is None else ():
            entity = entity or package.declared(name)
        return entity

    def find(self, name: str) -> tuple[object, Scope] | None:
        """What a name stands for here: something of this scope, or of one around it."""
        found = self.own(name)
        if found is not None:
            return found
        if self.parent is not None:
            return self.parent.find(name)
        entity = self.outside(name) if self.outside is not None else None
        return (entity, self) if entity is not None else None

    def loses(self, name: str, where: Scope | None = None) -> bool:
        """Whether a name that stands for nothing here, or only for something in a scope around (`where`), is the consequence of a mistake
        that was told."""
        lost = {name, "*"} if where is None else {name}
        scope: Scope | None = self
        while scope is not None and scope is not where and not lost & scope.lost:
            scope = scope.parent
        return scope is not None and scope is not where

    def visible(self) -> list[str]:
        found: list[str] = []
        scope: Scope | None = self
        while scope is not None:
            found.extend(scope.names)
            scope = scope.parent
        return found


class RemoteScope(Scope):
    """A scope of another instance as seen from here: what is found in it is translated by `elab.from_afar`."""

    inner: Scope | None = None
    path: tuple[str, ...] = ()
    home: UnitElaborator | None = None
    elab: UnitElaborator | None = None

    def own(self, name: str) -> tuple[object, Scope] | None:
        return self._translated(self.inner.own(name) if self.inner is not None else None)

    def declared(self, name: str) -> object | None:
        return self.inner.declared(name) if self.inner is not None else None

    def find(self, name: str) -> tuple[object, Scope] | None:
        return self._translated(self.inner.find(name) if self.inner is not None and "::" not in name else None)

    def _translated(self, found: tuple[object, Scope] | None) -> tuple[object, Scope] | None:
        assert self.inner is not None and self.elab is not None and self.home is not None
        return None if found is None else (self.elab.from_afar(found[0], self.path, self.home, self.inner), self)

    def visible(self) -> list[str]:
        return self.inner.visible() if self.inner is not None else []
