"""Functions, tasks and methods (IEEE 1364-2005 clause 10, IEEE 1800-2017 clause 13)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.unit import Subprogram
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.constructor import constructor_start, is_super_new
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.decisions import Breaks
from mevrik.lang.verilog.elaborate.generate import GenerateElaborator
from mevrik.lang.verilog.elaborate.promises import check_override_types
from mevrik.lang.verilog.elaborate.references import inlined, referring
from mevrik.lang.verilog.elaborate.scope import RemoteScope, Scope, Shape, SubDecl
from mevrik.lang.verilog.elaborate.statements import give_branches_their_variables


class SubprogramElaborator(GenerateElaborator):
    scale: ast.Timescale
    _sub_scopes: dict[SubDecl, Scope]
    referring_forms: dict[tuple[SubDecl, str], SubDecl]
    inlining: list[SubDecl]  # the tasks that are being made blocks of their callers

    @property
    def sub_scopes(self) -> dict[SubDecl, Scope]:
        return self._sub_scopes

    def _subprogram(self, tree: ast.Function, scope: Scope) -> None:
        sub = Subprogram(tree.name, None, tree.pos, tree.automatic, tree.is_task, self.unit, path=scope.prefix + tree.name)
        entity = SubDecl(tree, scope, sub)
        self.declare(scope, tree.name, entity, tree.pos)
        self.subs.append(entity)

    def subprogram(self, entity: SubDecl) -> Subprogram:
        self.sub_head(entity)
        self._sub_body(entity)
        return entity.sub

    def sub_head(self, entity: SubDecl) -> None:
        if entity in self._sub_scopes:
            if entity.broken:
                raise Abandon
            return
        tree, sub = entity.tree, entity.sub
        outer = self.scope
        saved = self.breaks
        scope = Scope(tree.name, f"{entity.scope.prefix}{tree.name}.", entity.scope, "sub", sub=sub)
        self._sub_scopes[entity] = scope
        self.scope = entity.scope
        self.breaks = Breaks(sub=sub)
        kind = "local" if tree.automatic else "var"
        try:
            if entity.owner is not None:
                self.scope = scope
                sub.ports.append(self.signal(scope, "this", Shape(entity.owner.type), [], kind, tree.pos))
                sub.directions.append("input")
                sub.defaults.append(None)
                entity.shapes.append(Shape(entity.owner.type))
                self.scope = entity.scope
            if tree.type is not None and tree.type.keyword != "void":
                shape = self.resolve_type(tree.type)
                sub.type = shape.whole
                entity.shape = shape
                self.scope = scope
                sub.result = self.signal(scope, tree.name, shape, [], kind, tree.pos)
            self.scope = scope
            for port in tree.ports:
                if port.type.keyword == "event":  # it is a handle: what matters is which event it is (15.5.5)
                    port.direction, port.by_reference = "input", False
                made = self.signal(scope, port.name, self.resolve_type(port.type), port.dims, kind, port.pos)
                shape = self.shape_of_signal(made)
                default = self._default(port.init, shape, scope, entity) if port.init is not None else None
                sub.ports.append(made)
                sub.directions.append(port.direction)
                sub.defaults.append(default)
                entity.shapes.append(shape)
        except Abandon:
            entity.broken = True
            raise
        finally:
            self.scope = outer
            self.breaks = saved

    def _default(self, e: ast.Expr, shape: Shape, inside: Scope, entity: SubDecl) -> n.Expr:
        """A default is worked out where the subprogram stands, so the other arguments are not known to it (IEEE 1800-2017 13.5.3)."""
        around = Scope(inside.name, inside.prefix, entity.scope, "sub", sub=entity.sub)
        if "this" in inside.names:
            around.names["this"] = inside.names["this"]
        for name in ast.within(e):
            if isinstance(name, ast.Name) and name.name in inside.names and around.find(name.name) is None:
                message = f"a default can't use '{name.name}', another argument: it is worked out where '{inside.name}' is declared (13.5.3)"
                raise self.error(name.pos, message, "arguments")
        self.scope = around
        try:
            return self.for_target(e, shape.whole, shape)
        finally:
            self.scope = inside

    def referring(self, decl: SubDecl, call: ast.Call) -> tuple[SubDecl, ast.Call]:
        return referring(self, decl, call)

    def inlined(self, s: ast.Node, decl: SubDecl, call: ast.Call) -> list[n.Stmt] | None:
        return inlined(self, s, decl, call)

    def _sub_body(self, entity: SubDecl) -> None:
        self.sub_head(entity)
        if entity.done:
            return
        entity.done = True
        tree, sub = entity.tree, entity.sub
        sub.suspends = tree.is_task  # for tasks that call each other, until it is known
        if entity.owner is not None:
            check_override_types(self.itself, entity, entity.owner)
        elif not tree.automatic and any(p.by_reference for p in tree.ports):
            message = (
                f"'{tree.name}' keeps its variables between calls, so it can't have 'ref' arguments: declare it automatic (13.5.2)"
            )
            self.context.diagnostics.error(tree.pos, message, "ref-static")
        saved = self.scope, self.breaks, self.process_name
        own_scale = self.scale
        if isinstance(entity.scope, RemoteScope) and entity.scope.home is not None:
            self.scale = entity.scope.home.scale  # its delays are in the units of its own module
        self.scope = self._sub_scopes[entity]
        block = n.Block(0, [], tree.name, kin=entity.kin)
        self.breaks = Breaks(sub=sub, body=block, open=[block])
        self.process_name = ("task " if tree.is_task else "function ") + sub.path
        try:
            block.body = self.declare_items(tree.decls, self.scope, tree.automatic)
            if entity.owner is not None and tree.name == "new":
                block.body += constructor_start(self.itself, entity.owner, tree)
                if sub.result is None:
                    raise self.error(tree.pos, "a constructor is written 'function new', without a type (8.7)", "class")
                give = n.Assign(0, (whole(sub.result),), self.this_value(tree.pos))
                block.body.append(give)
            statements = tree.body.body if isinstance(tree.body, ast.Block) else []
            if entity.owner is not None and tree.name == "new" and statements and is_super_new(statements[0]):
                statements = statements[1:]  # it ran before the start values
            for inner in statements:
                block.body.extend(self.body(inner))
            sub.body = [block]
            give_branches_their_variables(sub.body)
            above = "^" * entity.scope.path.count("^") if isinstance(entity.scope, RemoteScope) else ""
            for s in walk.statements(sub.body) if above or self.scale is not own_scale else ():
                if isinstance(s, n.SysTask):
                    s.unit = self.scale.unit
                    s.scope = above + s.scope
            if tree.is_task:
                sub.suspends = entity.owner is not None and entity.owner.is_virtual(tree.name)  # one below may wait
                sub.suspends = sub.suspends or walk.suspends(sub.body)  # that it calls itself is no reason
            else:
                self._no_waiting(tree, sub)
            self.unit.subprograms.append(sub)
        finally:
            self.scope, self.breaks, self.process_name = saved
            self.scale = own_scale

    def _no_waiting(self, tree: ast.Function, sub: Subprogram) -> None:
        """A function takes no time (10.4.4); what it forks with join_none runs beside it (IEEE 1800-2017 13.4.4)."""
        wait = walk.first_wait(sub.body)
        if wait is not None:
            self.context.diagnostics.error(
                self.context.sites[wait.site].pos or tree.pos,
                f"the function '{tree.name}' waits here for time or events; only a task may (10.4.4)",
                "function-waits",
            )
        for s in walk.statements(sub.body) if not self.module.sv else ():
            if isinstance(s, n.Schedule):
                self.context.diagnostics.error(
                    self.context.sites[s.site].pos or tree.pos,
                    f"the function '{tree.name}' assigns with '<=' here, which takes effect after it ended: use '=' (10.4.4)",
                    "function-nonblocking",
                )
