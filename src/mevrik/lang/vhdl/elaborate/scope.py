"""Declarative regions and what names in them denote (IEEE 1076-2008 clause 12)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from mevrik.design import typed as t
from mevrik.design.record import Identity, field
from mevrik.lang.vhdl import ast as a


class Wrong(Exception):
    """A mistake in the source; it is reported where the analysis can go on."""

    def __init__(self, pos: int, message: str, code: str) -> None:
        super().__init__(message)
        self.pos, self.message, self.code = pos, message, code


class Quiet(Exception):
    """A consequence of a mistake that was reported already."""


class TypeName(Identity):
    subtype: t.Subtype
    pos: int = 0
    complete: bool = True
    name: str = ""
    attributes: dict[str, t.Expr] | None = None


class Literal(Identity):
    """An enumeration literal."""

    type: t.Subtype
    value: int
    name: str
    pos: int = 0
    attributes: dict[str, t.Expr] | None = None


class UnitName(Identity):
    """A unit of a physical type."""

    type: t.Subtype
    factor: int


class Package(Identity):
    name: str
    scope: Scope
    library: str = ""
    generic: Any = None  # the tree of an uninstantiated package
    pos: int = 0


class LibraryName(Identity):
    name: str


class Component(Identity):
    name: str
    tree: a.ComponentDecl
    scope: Scope


class Alias(Identity):
    """An alias of an object: what it stands for, under another subtype."""

    expr: t.Expr
    pos: int


class Attribute(Identity):
    name: str
    subtype: t.Subtype


class GenericSubprogram(Identity):
    """An uninstantiated subprogram."""

    tree: Any
    scope: Scope
    name: str
    pos: int = 0


class Label(Identity):
    name: str
    kind: str
    scope: Scope | None = None
    pos: int = 0
    node: Any = None
    body: Scope | None = None  # of an entity: its architecture


class Broken(Identity):
    """Its declaration was wrong, which was reported."""

    name: str


OVERLOADABLE = (Literal, t.Subprogram)


class Scope(Identity):
    parent: Scope | None
    label: str = ""
    names: dict[str, list[Any]] = field(default_factory=dict)
    spelling: dict[str, str] = field(default_factory=dict)
    whole: list[Scope] = field(default_factory=list)  # use P.all
    single: dict[str, list[Any]] = field(default_factory=dict)  # use P.name
    specs: list[a.ConfigSpec] = field(default_factory=list)
    guard: t.Object | None = None
    incomplete: bool = False  # a use clause here was wrong: any name may be one that it should have made visible
    paths: tuple[str, str] | None = None  # S'path_name and S'instance_name of what is declared here, up to its own name
    pending: dict[str, Callable[[], None]] = field(default_factory=dict)  # names whose declarations wait until they are looked up
    _kept: dict[str, list[Any]] = field(default_factory=dict)
    _size: int = -1

    def declare(self, name: str, entity: Any, pos: int, text: str = "") -> None:
        """Raises Wrong if the name means something else already and can't be overloaded."""
        there = self.names.setdefault(name, [])
        if there and not isinstance(there[0], Broken):
            if not isinstance(entity, OVERLOADABLE) or not all(isinstance(x, (OVERLOADABLE, GenericSubprogram)) for x in there):
                raise Wrong(pos, f"'{text or name}' is declared twice in this region", "declared-twice")
        there.append(entity)
        if text:
            self.spelling[name] = text

    def open(self, outer: Scope | None, element: str, instance: str = "") -> None:
        """The region is this element of the paths (16.2.5), below those of `outer`."""
        above = outer.paths_to if outer is not None else (":", ":")
        self.paths = (f"{above[0]}{element}:", f"{above[1]}{instance or element}:")

    @property
    def paths_to(self) -> tuple[str, str]:
        """The paths of the nearest region that is an element of them."""
        region: Scope | None = self
        while region is not None and region.paths is None:
            region = region.parent
        return region.paths if region is not None and region.paths is not None else (":", ":")

    @property
    def in_doubt(self) -> bool:
        return self.incomplete or (self.parent is not None and self.parent.in_doubt)

    def direct(self, name: str) -> list[Any]:
        if name in self.pending:
            self.pending.pop(name)()
        return self.names.get(name, [])

    def lookup(self, name: str) -> list[Any]:
        """What is visible under a name: the innermost declaration, or all that overload it (12.3, 12.4)."""
        found: list[Any] = []
        scope: Scope | None = self
        while scope is not None:
            here = scope.names.get(name) if not scope.pending else scope.direct(name)
            if here:
                if not isinstance(here[0], OVERLOADABLE):
                    return found or here
                _merge(found, here)
            scope = scope.parent
        lists = []
        scope = self
        while scope is not None:
            if scope.whole or scope.single:
                here = scope.used(name)
                if here:
                    lists.append(here)
            scope = scope.parent
        if not lists:
            return found
        if len(lists) == 1:
            used = lists[0]
        else:
            used = []
            for here in lists:
                used += [entity for entity in here if entity not in used]
        if found:
            _merge(found, [u for u in used if isinstance(u, OVERLOADABLE)])
            return found
        if isinstance(used[0], OVERLOADABLE) and len(lists) == 1:
            return used
        overloadable = [u for u in used if isinstance(u, OVERLOADABLE)]
        if overloadable:
            result: list[Any] = []
            _merge(result, overloadable)
            return result
        if len(used) == 1:
            return used
        one = _same(used)
        return [one] if one is not None else used

    def used(self, name: str) -> list[Any]:
        """What the use clauses of this region make visible under a name; kept, since packages are complete when they are used."""
        size = len(self.whole) + sum(len(x) for x in self.single.values())
        if size != self._size:
            self._size = size
            self._kept = {}
        found = self._kept.get(name)
        if found is None:
            listed: list[Any] = []
            for entity in self.single.get(name, ()):
                if entity not in listed:
                    listed.append(entity)
            for package in self.whole:
                for entity in package.direct(name):
                    if entity not in listed:
                        listed.append(entity)
            overloadable = [x for x in listed if isinstance(x, OVERLOADABLE)]
            if overloadable:
                found = []
                _merge(found, overloadable)
            else:
                found = listed
            self._kept[name] = found
        return found

    def known(self) -> dict[str, str]:
        """All visible names, for suggestions: as looked up → as written."""
        found: dict[str, str] = {}
        scope: Scope | None = self
        while scope is not None:
            for region in (scope, *scope.whole):
                for name in (*region.names, *region.pending):
                    if not isinstance(name, str) or name.startswith("x_") or name in CONTROL_CHARACTERS:  # x_: the kernel's own
                        continue
                    found.setdefault(name, region.spelling.get(name, name))
            scope = scope.parent
        return found


# of the type character (IEEE 1076-2008 16.3): nobody means them
CONTROL_CHARACTERS = frozenset(
    """nul soh stx etx eot enq ack bel bs ht lf vt ff cr so si dle dc1 dc2 dc3 dc4 nak syn etb can em sub esc fsp gsp rsp usp del""".split()
)


def _same(used: list[Any]) -> Any:
    """The one type that all of several names stand for."""
    first = used[0]
    if isinstance(first, TypeName) and all(isinstance(x, TypeName) and x.subtype is first.subtype for x in used):
        return first
    if isinstance(first, UnitName) and all(isinstance(x, UnitName) and x.type.type is first.type.type for x in used):
        return first
    return None


def _key(entity: Any) -> Any:
    if isinstance(entity, Literal):
        return ((), id(entity.type.type))
    return tuple(id(p.subtype.type) for p in entity.params), id(entity.result.type) if entity.result is not None else 0


def _merge(found: list[Any], more: list[Any]) -> None:
    """Add what isn't hidden by one with the same profile."""
    keys = {_key(x) for x in found}
    for entity in more:
        if entity in found or isinstance(entity, GenericSubprogram):
            continue
        if _key(entity) not in keys:
            found.append(entity)


def signature(params: list[t.Object], result: t.Subtype | None) -> str:
    """The signature of a subprogram as its paths show it (16.2.5)."""
    returned = [f"return {result.name}"] if result is not None else []
    return f"[{' '.join([','.join(p.subtype.name for p in params), *returned]).strip()}]"
