"""What all parts of the elaborator share: where it is, how it complains, constants."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from mevrik.design import typed as t
from mevrik.design.reads import base_of, signals_read
from mevrik.design.record import Value, field
from mevrik.design.unit import Site
from mevrik.lang.diagnostics import Diagnostics, nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.scope import Alias, Broken, Label, Package, Quiet, Scope, TypeName, Wrong
from mevrik.lang.vhdl.elaborate.standard import Standard

Evaluate = Callable[["list[t.Object]", t.Expr], Any]  # constants in order of declaration, an expression → its value


class Shared(Value):
    """One elaboration: its messages, sites, static objects in order, signals, processes."""

    diagnostics: Diagnostics
    std: Standard
    evaluate: Evaluate
    sites: list[Site] = field(default_factory=lambda: [Site(0, 0, "")])
    constants: list[t.Object] = field(default_factory=list)
    roots: list[t.RootSignal] = field(default_factory=list)
    processes: list[t.Process] = field(default_factory=list)
    repeated: int = 0  # how often a mistake was met that was told already
    size: int = 0

    def allocate(self, size: int) -> int:
        at = t.aligned(self.size, size)
        self.size = at + size
        return at


ANY_AGGREGATE = t.BaseType("an aggregate")
OF_A_TYPE = ("type", "no-operator", "no-overload")
# mistakes in how something is declared, or that it is not, which show wherever it is used
OF_A_NAME = ("undeclared", "mode-in", "read-only", "assignment", "port")
ANY_NULL = t.BaseType("null")


class AnyText(t.BaseType):
    """The type of a string literal before the context gives it one."""

    chars: frozenset[str] = frozenset()


class Base:
    lazy = False  # bodies of subprograms are analysed when they are called: for the packages that come with us

    def __init__(self, shared: Shared, scope: Scope) -> None:
        self.shared = shared
        self.std = shared.std
        self.diagnostics = shared.diagnostics
        self.scope = scope
        self.sub: t.Subprogram | None = None
        self.process: t.Process | None = None
        self.running = False  # among the statements of a process, where bounds may be what the run makes them
        self.started: list[t.Object] = []  # constants and variables of the process so far
        self.protected: t.ProtectedType | None = None
        self.out: list[t.Stmt] = []  # where declarations that expressions need go
        self.loops: list[tuple[str, t.Loop]] = []
        self.path = ""
        self._cache: dict[int, list[t.BaseType]] = {}
        self.site_now = 0
        self.dead = 0  # inside of branches that can't be reached: what would fail there is no mistake

    # ---- where we are ----

    @contextmanager
    def inside(self, scope: Scope, **changes: Any) -> Iterator[Scope]:
        """Work in another region, with some of sub, process, protected, out, loops, path changed."""
        kept = {name: getattr(self, name) for name in changes}
        outer, cache = self.scope, self._cache
        self.scope, self._cache = scope, {}
        for name, value in changes.items():
            setattr(self, name, value)
        try:
            yield scope
        finally:
            self.scope, self._cache = outer, cache
            for name, value in kept.items():
                setattr(self, name, value)

    def mark(self) -> tuple[int, int]:
        """A point that `failed_since` takes."""
        return self.diagnostics.mark(), self.shared.repeated

    def failed_since(self, mark: tuple[int, int]) -> bool:
        """Whether there was a mistake since a mark, told or known from before."""
        return self.diagnostics.failed_since(mark[0]) or self.shared.repeated > mark[1]

    @contextmanager
    def unreached(self, sure: bool) -> Iterator[None]:
        """A branch that the run surely never takes: what would only fail in the run is no mistake there."""
        self.dead += sure
        try:
            yield
        finally:
            self.dead -= sure

    @contextmanager
    def careful(self) -> Iterator[None]:
        """A place where analysis goes on after a mistake."""
        try:
            yield
        except Wrong as wrong:
            if wrong.code in OF_A_TYPE and self.scope.in_doubt:
                return  # what a use clause should have brought would perhaps fit
            once, mark = "", self.diagnostics.mark()
            if wrong.code in OF_A_NAME:  # what a declaration is the cause of is told once in a file
                _, clause, missing = wrong.message.partition(": add '")  # one clause brings all names of a package
                once = f"{self.diagnostics.sources.place(wrong.pos).file}: {missing if clause else wrong.message}"
            self.diagnostics.error(wrong.pos, wrong.message, wrong.code, once=once)
            self.shared.repeated += self.diagnostics.mark() == mark
        except Quiet:
            pass
        except RecursionError:
            self.diagnostics.error(1, "an expression or a declaration is nested too deeply", "too-deep")
        except (AssertionError, AttributeError, IndexError, KeyError, TypeError, ValueError):
            if not self.diagnostics.failed:  # else it is a consequence of what was said
                raise

    def site(self, node: a.Node, end: int = 0) -> int:
        """The number of a statement."""
        self.shared.sites.append(Site(node.pos, end or getattr(node, "end", 0) or node.pos, self.path))
        self.site_now = len(self.shared.sites) - 1
        return self.site_now

    # ---- names ----

    def find(self, name: str, pos: int, text: str = "") -> list[Any]:
        """What a simple name denotes. Raises Wrong if nothing."""
        found = self.scope.lookup(name)
        if not found and self.scope.in_doubt:
            raise Quiet
        if not found:
            raise Wrong(pos, f"'{text or name}' is not declared{self._hint(name, text)}", "undeclared")
        if isinstance(found[0], Broken):
            raise Quiet
        if len(found) > 1 and not all(type(x) in (t.Subprogram,) or hasattr(x, "value") for x in found):
            raise Wrong(
                pos,
                f"'{text or name}' is made visible by several use clauses with different meanings; write it with the name of its package",
                "ambiguous",
            )
        return found

    def _hint(self, name: str, text: str = "") -> str:
        if name == "ieee":
            return ": add 'library ieee;' before it"
        where = self.where_declared(name)
        if where:
            return f"; it is declared in {where[0]}: add '{where[1]}' before this design unit"
        known = self.scope.known()
        hint = nearest(name, list(known))
        if hint:
            meant = hint.split("'")[1]
            return f"; did you mean '{known.get(meant, meant)}'?"
        return ""

    def where_declared(self, name: str) -> tuple[str, str] | None:
        """The package that declares a name that isn't visible, and the clause that makes it so."""
        return None

    # ---- types ----

    def as_type(self, e: a.Expr) -> TypeName | None:
        """The type that a name stands for, if it does."""
        raise NotImplementedError

    def denote(self, e: a.Expr) -> list[Any] | None:
        """What a simple or selected name denotes, or None if it is a value built from one."""
        if isinstance(e, a.Name):
            return self.find(e.id, e.pos, e.text)
        if isinstance(e, a.Select) and e.id != "all":
            if not isinstance(e.prefix, (a.Name, a.Select)):
                return None
            prefix = self.denote(e.prefix)
            if prefix is None:
                return None
            return self.within(prefix[0], e)
        return None

    def within(self, entity: Any, e: a.Select) -> list[Any] | None:
        """What a name means inside of a package, library or labelled region; None if the prefix is an object."""
        region: Scope | None = None
        what = ""
        if isinstance(entity, Package):
            if entity.generic is not None:
                raise Wrong(
                    e.pos,
                    f"'{entity.name}' is a package with generics; declare an instance of it with 'package ... is new {entity.name}'",
                    "generic-package",
                )
            region, what = entity.scope, f"package '{entity.name}'"
        elif isinstance(entity, t.Subprogram):
            scope: Scope | None = self.scope
            while scope is not None and scope.label != entity.name:
                scope = scope.parent
            if scope is None:
                return None
            region, what = scope, f"'{entity.name}'"
        else:
            region = getattr(entity, "scope", None)
            if not isinstance(region, Scope) or isinstance(entity, (Alias, t.Object)):
                return self.within_library(entity, e)
            what = f"'{getattr(entity, 'name', '')}'"
        found = region.direct(e.id)
        if not found and isinstance(entity, Label) and entity.kind in ("entity", "architecture"):
            other = region.parent if entity.kind == "architecture" else entity.body  # they are one region (12.1)
            found = other.direct(e.id) if other is not None else []
        if not found:
            names = [n for n in region.names if isinstance(n, str)]
            raise Wrong(e.pos, f"{what} declares no '{e.text or e.id}'{nearest(e.id, names)}", "undeclared")
        if isinstance(found[0], Broken):
            raise Quiet
        return found

    def within_library(self, entity: Any, e: a.Select) -> list[Any] | None:
        return None

    # ---- constants ----

    def constant(self, e: t.Expr) -> Any:
        """The value of a scalar expression that has to be known before the run."""
        if isinstance(e, t.Const):
            return e.value
        read = next(signals_read(e), None)
        if read is not None:
            read = base_of(read)
            name = (read.object.text or read.object.name) if isinstance(read, t.Ref) else "this"
            message = (
                f"'{name}' is a signal, whose value only the run gives: this has to be known before, of constants and generics"
            )
            raise Wrong(e.pos or read.pos, message, "not-static")
        return self.shared.evaluate([*self.shared.constants, *self.started], e)

    def known(self, e: t.Expr) -> t.Expr:
        """The expression as a constant, where nothing runs yet: outside of subprograms."""
        if isinstance(e, t.Const) or self.sub is not None:
            return e
        return t.Const(e.type, e.pos, self.constant(e))
