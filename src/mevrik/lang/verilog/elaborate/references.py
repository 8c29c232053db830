"""Arguments by reference of tasks (IEEE 1800-2017 13.5.2): a form of the task over the very things that a call gives, so that it waits
for them and others see what it writes at once. A task that waits and gets a local variable of its caller becomes a block of the caller.

What an argument selects by is taken at the call: indexes and objects become arguments of their own."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import Value, field, replace
from mevrik.design.types import Handle, Vec
from mevrik.design.unit import Signal, Subprogram
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.scope import RemoteScope, Scope, Shape, SubDecl
from mevrik.lang.verilog.elaborate.selections import Selected
from mevrik.lang.verilog.elaborate.substitute import renewed

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.subprograms import SubprogramElaborator


class _Form(Value):
    """What the arguments have become: names for whole signals, arguments that take the place of indexes and objects."""

    elab: SubprogramElaborator
    signals: dict[str, Signal] = field(default_factory=dict)
    ports: list[ast.Port] = field(default_factory=list)
    args: list[ast.Expr | None] = field(default_factory=list)
    words: list[str] = field(default_factory=list)  # tells this form from others of the task

    def of(self, e: ast.Expr) -> ast.Expr | None:
        """An argument in the names of the new form; None if it has to be copied."""
        found = self.elab.quietly(lambda: self.elab.selected(e))
        signal = found.signal if found is not None else None
        if found is not None and signal is not None and found.element is None and found.bits is None and found.character is None:
            if signal.kind == "local" or signal.via is not None or isinstance(signal.type, Handle):
                return None
            name = f"ref {len(self.signals)} {signal.name}"
            self.signals[name] = signal
            self.words.append(f"signal {id(signal)}")
            return ast.Name(e.pos, name)
        match e:
            case ast.Index(base=base, index=index):
                inner = self.of(base)
                held = self.elab.quietly(lambda: self.elab.shape_of(base))
                keys = held.keys if held is not None and not held.unpacked else None
                return ast.Index(e.pos, inner, self._captured(index, keys)) if inner is not None else None
            case ast.Member(base=base, name=name):
                holder = self.elab.quietly(lambda: self.elab.shape_of(base))
                if holder is not None and isinstance(holder.type, Handle) and not holder.unpacked:
                    self.words.append(f".{name}")
                    return ast.Member(e.pos, self._captured(base, holder), name)
                inner = self.of(base)
                self.words.append(f".{name}")
                return ast.Member(e.pos, inner, name) if inner is not None else None
        return None

    def _captured(self, e: ast.Expr, shape: Shape | None = None) -> ast.Expr:
        if isinstance(e, ast.Number):
            self.words.append(f"{e.val}")
            return e
        shape = shape or self.elab.quietly(lambda: self.elab.shape_of(e)) or Shape(Vec(32, True, False))
        name = f"ref by {len(self.ports)}"
        self.words.append(f"{name} {shape.type}")
        self.ports.append(ast.Port(e.pos, "input", "", ast.DataType(e.pos, "known", name=name, known=shape), name, []))
        self.args.append(e)
        return ast.Name(e.pos, name)


def referring(elab: SubprogramElaborator, decl: SubDecl, call: ast.Call) -> tuple[SubDecl, ast.Call]:
    """The form of a task for a call, and the call of it. What no form can be made of is copied in and out."""
    tree = decl.tree
    offset = len(decl.sub.ports) - len(tree.ports)
    if not tree.is_task or not any(p.by_reference for p in tree.ports):
        return decl, call
    scope = _scope_of(elab, decl)
    if scope is None:
        return decl, call
    form = _Form(elab)
    given: dict[str, ast.Expr] = {}
    kept: list[tuple[ast.Port, ast.Expr | None]] = []
    for port, made, arg in zip(tree.ports, decl.sub.ports[offset:], elab.arguments(decl.sub, call)[offset:], strict=True):
        meant = None
        shape = elab.quietly(lambda arg=arg: elab.shape_of(arg)) if port.by_reference and arg is not None else None  # type: ignore[misc]
        if (
            shape is not None
            and arg is not None
            and shape.type == made.type
            and _dimensions(shape) == _dimensions(elab.shape_of_signal(made))
        ):
            attempt = _Form(elab, dict(form.signals), list(form.ports), list(form.args), list(form.words))
            meant = attempt.of(arg)
            if meant is not None:
                form = attempt
                given[port.name] = meant
                form.words.append(f"for {port.name}")
        if meant is None:
            kept.append((port, arg))
    if not given:
        return decl, call
    key = (decl, " ".join(form.words))
    if key not in elab.referring_forms:
        body, decls = renewed(tree.body, given), renewed(tree.decls, given)
        own_tree = replace(tree, ports=[*(p for p, _ in kept), *form.ports], body=body, decls=decls)
        sub = Subprogram(tree.name, None, tree.pos, tree.automatic, True, elab.unit, path=decl.sub.path)
        own = elab.referring_forms[key] = SubDecl(own_tree, scope, sub, owner=decl.owner)
        elab.sub_head(own)
        elab.sub_scopes[own].names.update(form.signals)
        elab.subprogram(own)
    return elab.referring_forms[key], replace(call, args=[*(a for _, a in kept), *form.args])


def inlined(elab: SubprogramElaborator, s: ast.Node, decl: SubDecl, call: ast.Call) -> list[n.Stmt] | None:
    """The statements of a task as a block of its caller, where a local variable of that is handed on by reference and others may see it
    while the task waits; None where there is no need, or where the task calls itself or keeps variables."""
    tree = decl.tree
    if not (tree.is_task and tree.automatic and decl.owner is None and any(p.by_reference for p in tree.ports)):
        return None
    around = _scope_of(elab, decl)
    args = elab.arguments(decl.sub, call)
    handed = [_handed_on(elab, p, made, arg) for p, made, arg in zip(tree.ports, decl.sub.ports, args, strict=True)]
    if around is None or decl in elab.inlining or not decl.sub.suspends or not any(h and h.kind == "local" for h in handed):
        return None
    if any(isinstance(x, ast.VarDecl) and x.lifetime == "static" for x in tree.decls):
        return None
    site, block = elab.site(s), n.Block(elab.site(s), [], tree.name)
    scope = Scope(tree.name, f"{decl.scope.prefix}{tree.name}.", around, "block", sub=elab.breaks.sub)
    before: list[n.Stmt] = []
    after: list[n.Stmt] = []
    outer, breaks = elab.scope, elab.breaks
    for port, shape, default, arg, given in zip(tree.ports, decl.shapes, decl.sub.defaults, args, handed, strict=True):
        if given is not None:
            scope.names[port.name] = given
            continue
        elab.scope = around
        made = elab.signal(scope, port.name, elab.resolve_type(port.type), port.dims, "local", port.pos)
        elab.scope = outer
        if port.direction != "output":
            value = elab.for_target(arg, shape.whole, shape) if arg is not None else default
            assert value is not None
            before += elab.store_selected(site, Selected(shape, made.type, made), value, arg or ast.Name(port.pos, port.name))
        if port.direction != "input" and arg is not None:
            after += elab.store(site, arg, n.Ref(shape.whole, made))
    elab.inlining.append(decl)
    elab.scope = scope
    elab.breaks = replace(breaks, loop=None, step=None, body=block, open=[*breaks.open, block])
    try:
        block.body += elab.declare_items(tree.decls, scope, True)
        for inner in tree.body.body if isinstance(tree.body, ast.Block) else []:
            block.body += elab.body(inner)
    finally:
        elab.scope, elab.breaks = outer, breaks
        elab.inlining.pop()
    return [*before, block, *after]


def _handed_on(elab: SubprogramElaborator, port: ast.Port, made: Signal, arg: ast.Expr | None) -> Signal | None:
    """The variable that an argument by reference is, if it is a whole one of the same type."""
    found = elab.quietly(lambda: elab.selected(arg)) if port.by_reference and arg is not None else None
    if found is None or found.signal is None or found.element is not None or found.bits is not None or found.character is not None:
        return None
    same = found.signal.type == made.type and _dimensions(elab.shape_of_signal(found.signal)) == _dimensions(
        elab.shape_of_signal(made)
    )
    return found.signal if same and found.signal.via is None else None


def _scope_of(elab: SubprogramElaborator, decl: SubDecl) -> Scope | None:
    """Where the body of a form finds its names; a task of a package is taken into the unit that calls it. None for one of another
    instance."""
    if decl.sub.unit is elab.unit:
        return decl.scope
    for name, home in elab.context.package_units.items():
        if home.unit is decl.sub.unit:
            return RemoteScope(
                decl.scope.name, decl.scope.prefix, None, inner=decl.scope, path=("/" + name,), home=home, elab=elab.itself
            )
    return None


def _dimensions(shape: Shape) -> list[int]:
    return [abs(left - right) for left, right in shape.unpacked]
