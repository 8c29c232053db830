"""What the parts of the elaborator ask of each other."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeVar

from mevrik.design import nodes as n
from mevrik.design.types import Type, Vec, width_of
from mevrik.design.unit import Signal, Subprogram, Unit
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.context import Abandon, Context
from mevrik.lang.verilog.elaborate.scope import Scope, Shape, SubDecl

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.clocking import ClockingName
    from mevrik.lang.verilog.elaborate.selections import Selected
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator

T = TypeVar("T")


class Elaborator:
    """The state that is shared, and the operations that another part provides."""

    context: Context
    scope: Scope
    unit: Unit

    def error(self, pos: int, message: str, code: str) -> Abandon:
        self.context.diagnostics.error(pos, message, code)
        return Abandon()

    def error_of(self, name: str, pos: int, message: str, code: str, everywhere: bool = False) -> Abandon:
        """An error whose cause is how a name is declared, or that it isn't: it is told once in a module, or at all, where it shows
        first."""
        if not self.context.diagnostics.told(code, f".{name}"):
            self.context.diagnostics.error(pos, message, code, once=f"{'' if everywhere else self.itself.module.name}.{name}")
        return Abandon()

    def quietly(self, act: Callable[[], T]) -> T | None:
        """What `act` gives; None, and no message, where it finds an error."""
        diagnostics = self.context.diagnostics
        mark = diagnostics.mark()
        try:
            return act()
        except Abandon:
            return None
        finally:
            diagnostics.forget(mark)

    def undeclared(self, pos: int, name: str, message: str, scope: Scope | None = None, everywhere: bool = False) -> Abandon:
        """Report a name that stands for nothing, unless that is the consequence of another mistake. It is told once in a module."""
        if (scope or self.scope).loses(name.partition("::")[0]):
            return Abandon()
        return self.error_of(name, pos, message, "unknown-name", everywhere)

    def made_a_net(self, signal: Signal) -> str:
        """Why there is a net that nobody declared (4.5)."""
        line = self.context.diagnostics.sources.place(signal.pos).line
        return f"its use in line {line} made it a net of one bit"

    def guard_declaration(self, item: ast.Item, scope: Scope, act: Callable[[], object]) -> None:
        """As `guard`; what was to be declared is known to be lost."""
        try:
            act()
        except Abandon:
            scope.lost.update(ast.declared_names(item))

    def guard(self, act: Callable[[], object]) -> None:
        """Do something that is given up at its first error, which was told."""
        try:
            act()
        except Abandon:
            pass

    @property
    def itself(self) -> UnitElaborator:
        """This object, as what it is in the end."""
        raise NotImplementedError

    # names and types

    def plain_vector(self, e: ast.Name) -> Signal | None:
        """The vector or scalar that a name stands for, if it is no more than that."""
        found = self.scope.find(e.name)
        entity = found[0] if found is not None else None
        return entity if isinstance(entity, Signal) and type(entity.type) is Vec and not entity.dims else None

    def declare(self, scope: Scope, name: str, entity: object, pos: int) -> None:
        raise NotImplementedError

    def resolve(self, tree: ast.Expr, scope: Scope) -> tuple[object, list[ast.Expr]]:
        raise NotImplementedError

    def resolve_type(self, tree: ast.DataType) -> Shape:
        raise NotImplementedError

    def subprogram(self, entity: SubDecl) -> Subprogram:
        raise NotImplementedError

    def shape_of_signal(self, signal: Signal) -> Shape:
        raise NotImplementedError

    def prototype(self, tree: ast.DataType) -> UnitElaborator:
        raise NotImplementedError

    def through_link(self, link: n.Expr, name: str, pos: int) -> object:
        raise NotImplementedError

    def clock_sample(self, clocking: ClockingName, step: ast.Member) -> Signal:
        """The sampled value of a signal of a clocking block."""
        raise NotImplementedError

    def link_to(self, e: ast.Expr) -> n.Expr | None:
        raise NotImplementedError

    def from_package(self, signal: Signal, home: UnitElaborator) -> Signal:
        raise NotImplementedError

    def time_unit(self) -> int:
        raise NotImplementedError

    def add_local(self, signal: Signal) -> None:
        raise NotImplementedError

    def site(self, s: ast.Node, end: int = 0) -> int:
        raise NotImplementedError

    # expressions

    def shape(self, e: ast.Expr) -> Type:
        raise NotImplementedError

    def truth(self, e: ast.Expr) -> n.Expr:
        raise NotImplementedError

    def shape_of(self, e: ast.Expr) -> Shape:
        raise NotImplementedError

    def expr(self, e: ast.Expr) -> n.Expr:
        raise NotImplementedError

    def build(self, e: ast.Expr, t: Type) -> n.Expr:
        raise NotImplementedError

    def for_target(self, e: ast.Expr, target: Type, shape: Shape | None = None) -> n.Expr:
        raise NotImplementedError

    def compare(self, op: str, left: ast.Expr, right: ast.Expr) -> n.Expr:
        raise NotImplementedError

    def constant(self, e: ast.Expr, what: str) -> n.Expr:
        raise NotImplementedError

    def constant_int(self, e: ast.Expr, what: str) -> int:
        raise NotImplementedError

    def selected(self, e: ast.Expr) -> Selected:
        raise NotImplementedError

    def list_place(self, s: Selected) -> n.ListPlace | None:
        raise NotImplementedError

    def read_selected(self, s: Selected) -> n.Expr:
        raise NotImplementedError

    def place(self, e: ast.Expr) -> tuple[n.LRef, ...]:
        raise NotImplementedError

    def read(self, e: ast.Expr) -> n.Expr:
        raise NotImplementedError

    def words(self, e: ast.Expr) -> str:
        """An expression as a message names it."""
        match e:
            case ast.Name(name=name):
                return f"'{name.rpartition(' ')[2]}'"  # one of ours has words of its own before that of the source
            case ast.Member(base=base, name=name):
                inner = self.words(base)
                return f"{inner[:-1]}.{name}'" if inner.startswith("'") else f"'{name}'"
            case ast.Index(base=base) | ast.PartSelect(base=base):
                return self.words(base)
        return "this"

    # statements

    def signal(self, scope: Scope, name: str, shape: Shape, dims: list[ast.Range], kind: str, pos: int, net: str = "") -> Signal:
        raise NotImplementedError

    def statement(self, s: ast.Stmt) -> list[n.Stmt]:
        raise NotImplementedError

    def local(self, t: Type, pos: int, name: str = "") -> Signal:
        """A hidden variable in the frame of the process or subprogram."""
        made = Signal(name, t, "local", pos, implicit=True)
        self.add_local(made)
        return made


def place_bit(elab: Elaborator, places: tuple[n.LRef, ...], index: int, pos: int) -> tuple[n.LRef, ...]:
    low = 0
    for p in reversed(places):
        if low <= index < low + p.width:
            old = p.bits or n.Offset(0)
            return (n.LRef(p.signal, p.element, n.Offset(old.const + index - low, old.terms), 1),)
        low += p.width
    raise elab.error(pos, "the output of the gates is too narrow for their number", "gate-terminals")


def whole(signal: Signal) -> n.LRef:
    """All of a variable as a place to write to."""
    return n.LRef(signal, None, None, width_of(signal.type))
