"""Parameters, nets, variables and their start values (IEEE 1364-2005 clauses 4 and 12.2)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import BIT, EVENT, TEXT, Array, List, Real, Text, Type, Vec
from mevrik.design.unit import Process, Signal
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.assignments import sensitivity
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.calls import span
from mevrik.lang.verilog.elaborate.classinfo import ClassInfo, ClassTemplate, announce_class, complete_class
from mevrik.lang.verilog.elaborate.clocking import ClockingName, declare_clocking
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.events import as_variables, first_value, is_merged
from mevrik.lang.verilog.elaborate.folding import fold_resize
from mevrik.lang.verilog.elaborate.lists import is_open, sized
from mevrik.lang.verilog.elaborate.ports import PortElaborator
from mevrik.lang.verilog.elaborate.scope import (
    Bound,
    EventArray,
    LetName,
    Override,
    Overrides,
    Param,
    PatternValue,
    PropertyName,
    Scope,
    Shape,
    SubDecl,
    TypeName,
    TypeValue,
    start_value,
)


class DeclarationElaborator(PortElaborator):
    given: dict[str, n.Expr]
    defparams: Overrides
    started: bool
    starts: int
    modports: dict[str, dict[str, str]]  # of an interface
    views: dict[str, dict[str, ast.Expr]]  # what its modports call parts of it
    deferred: list[tuple[Scope, ast.Item]]
    coming: set[str]
    _announced: set[ast.ClassDecl | ast.Function]
    early: set[ast.Item]  # declared before their block is elaborated
    subs: list[SubDecl]
    delayed_nets: dict[Signal, Signal]  # a net with a delay of its own, and what stands before it
    clockings: list[ClockingName]
    default_clocking: ClockingName | None
    default_disable: ast.Expr | None
    clock_drivers: dict[Signal, Signal]  # of nets that clocking blocks drive

    def _subprogram(self, tree: ast.Function, scope: Scope) -> None:
        raise NotImplementedError

    def _generate(self, item: ast.Item, scope: Scope) -> None:
        raise NotImplementedError

    def _header(self) -> None:
        first = self.module.ports[0].pos if self.module.ports else 0
        for item in self.module.items:
            if isinstance(item, ast.Import) and item.pos < first:  # `module m import p::*; (…)`: the ports may use it
                self.guard_declaration(item, self.root, lambda item=item: self._import(item, self.root))  # type: ignore[misc]
        self._announce_subprograms(self.module.items, self.root)
        for decl in self.module.params:
            self.guard_declaration(decl, self.root, lambda decl=decl: self._parameter(decl, self.root, True))  # type: ignore[misc]
        body_params = {d.name for i in self.module.items if isinstance(i, ast.ParamDecl) and not i.local for d in i.names} | {
            d.name for i in self.module.params for d in i.names
        }
        for name in self.given:
            if name not in body_params:
                pass  # reported at the instance, where it stands
        if self.module.ansi:
            for port in self.module.ports:
                if isinstance(port, ast.Port):
                    self.guard_declaration(port, self.root, lambda port=port: self._port(port))  # type: ignore[misc]

    def _declare(self, items: list[ast.Item], scope: Scope) -> None:
        self.coming |= {i.name for i in items if isinstance(i, ast.Instance) and self.context.may_be_interface(i.module)}
        self._announce_subprograms(items, scope)
        for item in items:
            if isinstance(item, ast.ClassDecl):
                self.announce(item, scope)
        for item in items:
            self.scope = scope
            self.guard_declaration(item, scope, lambda item=item: self._declare_one(item, scope))  # type: ignore[misc]
        self.scope = scope

    def _announce_subprograms(self, items: list[ast.Item], scope: Scope) -> None:
        """Functions and tasks may be called above their declaration, also in a constant expression (10.4.5, 12.6)."""
        for item in items:
            if isinstance(item, ast.Function) and item not in self._announced:
                self._announced.add(item)
                self.guard_declaration(item, scope, lambda item=item: self._subprogram(item, scope))  # type: ignore[misc]

    def announce(self, item: ast.ClassDecl, scope: Scope) -> None:
        """A class, or one with parameters, is known by its name; a second one of that name is reported once."""
        if item in self._announced:
            return
        self._announced.add(item)
        try:
            if item.params:
                self.declare(scope, item.name, ClassTemplate(item, scope, self.itself), item.pos)
            else:
                announce_class(self.itself, item, scope)
        except Abandon:
            pass

    def _declare_one(self, item: ast.Item, scope: Scope) -> None:
        match item:  # what there may be very many of comes first
            case ast.Gate(ports=ports) | ast.NetAlias(nets=ports):
                for p in ports:
                    self._implicit_net(p, scope)
                self.deferred.append((scope, item))
            case ast.Instance():
                self._implicit_in_ports(item, scope)
                self.deferred.append((scope, item))
            case ast.NetDecl():
                self._nets(item, scope)
            case ast.ContinuousAssign(target=target):
                self._implicit_net(target, scope)
                self.deferred.append((scope, item))
            case ast.VarDecl() | ast.EventDecl() | ast.TypedefDecl():
                self._variables(item, scope)
            case ast.ParamDecl():
                self._parameter(item, scope, False)
            case ast.Port():
                self._port(item)
            case ast.Import():
                if not self.module.ports or item.pos > self.module.ports[0].pos:
                    self._import(item, scope)
            case ast.GenvarDecl(names=names):
                for d in names:
                    self.declare(scope, d.name, "genvar", d.pos)
            case ast.LetDecl():
                self.declare(scope, item.name, LetName(item), item.pos)
            case ast.PropertyDecl():
                self.declare(scope, item.name, PropertyName(item), item.pos)
            case ast.Modport(name=name, ways=ways, views=views):
                self.modports[name], self.views[name] = ways, views
            case ast.Clocking():
                declare_clocking(self.itself, item, scope)
            case ast.DefaultClocking():
                self._default_clocking(item, scope)
            case ast.DefaultDisable(cond=cond):
                self.default_disable = cond
            case ast.Bind():
                if len(item.target) > 1 or item.instances or item.target[0] not in self.context.modules:
                    self.bind_to_instances(item, item.instances or [item.target], scope.prefix)
            case ast.ClassDecl():
                self.announce(item, scope)
                made = scope.names.get(item.name)
                if isinstance(made, ClassInfo) and made.tree is item:
                    complete_class(made)
            case ast.Function():
                pass  # announced
            case ast.Defparam():
                self._defparam(item, scope)
            case ast.GenFor() | ast.GenIf() | ast.GenCase() | ast.GenBlock():
                self._generate(item, scope)
            case _:
                self.deferred.append((scope, item))

    def _default_clocking(self, item: ast.DefaultClocking, scope: Scope) -> None:
        found = scope.find(item.name)
        if found is None or not isinstance(found[0], ClockingName):
            raise self.error(
                item.pos, f"there is no clocking block '{item.name}'{nearest(item.name, scope.visible())}", "unknown-name"
            )
        self.default_clocking = found[0]

    def _implicit_in_ports(self, item: ast.Instance, scope: Scope) -> None:
        module = self.context.modules.get(item.module)
        ports = [p for p in module.ports if isinstance(p, ast.Port)] if module is not None else []
        interfaces = {p.name for p in ports if p.direction == "interface" or self._is_interface(p.type.name)}
        for k, c in enumerate(item.ports):
            port = c.name or (ports[k].name if k < len(ports) else "")
            if c.expr is not None and not c.short and port not in interfaces:
                self._implicit_net(c.expr, scope)

    def _is_interface(self, name: str) -> bool:
        module = self.context.modules.get(name)
        return module is not None and module.interface

    def _implicit_net(self, e: ast.Expr, scope: Scope) -> None:
        """An undeclared name used as a terminal is a net of one bit (4.5)."""
        if isinstance(e, ast.Concat):
            for part in e.parts:
                self._implicit_net(part, scope)
        if not isinstance(e, ast.Name) or e.name in self.coming or scope.find(e.name) is not None or e.name.startswith("$"):
            return
        if self.module.default_nettype == "none":
            hint = nearest(e.name, scope.visible())
            raise self.undeclared(e.pos, e.name, f"'{e.name}' is not declared{hint} (`default_nettype is none)", scope)
        if scope.loses(e.name) or any(isinstance(p, ast.PortRef) and p.name == e.name for p in self.module.ports):
            return
        made = self.signal(scope, e.name, Shape(Vec(1)), [], "net", e.pos, self.module.default_nettype)
        made.implicit = True
        hint = nearest(e.name, [name for name, x in scope.names.items() if x is not made])
        self.context.diagnostics.warning(e.pos, f"'{e.name}' is not declared: it becomes a net of one bit{hint}", "implicit-net")

    def _parameter(self, decl: ast.ParamDecl, scope: Scope, header: bool) -> None:
        for d in decl.names:
            given = None
            if not decl.local and scope is self.root:
                given = self.given.get(d.name)
                override = self.defparams.of_parameter(d.name)
                if override is not None:
                    override.used = True
                    given = override.value
            if decl.is_type:
                self._type_parameter(d, scope, given)
                continue
            try:
                made = self.parameter(decl, d, given)
            except Abandon:  # what uses it is no second mistake
                self.declare(scope, d.name, Param(d.name, n.Const(Vec(32, True), 1), d.pos), d.pos)
                raise
            self.declare(scope, d.name, made, d.pos)
            self.unit.parameters[scope.prefix + d.name] = made.value

    def parameter(self, decl: ast.ParamDecl, d: ast.Declarator, given: n.Expr | None) -> Param:
        """One with the value `given`, else its own; of the type that is declared, else of that of the value (6.20.2)."""
        if d.init is None and given is None:
            raise self.error(d.pos, f"the parameter '{d.name}' needs a value", "parameter")
        explicit = bool(decl.type.keyword or decl.type.dims or decl.type.signed is not None or d.dims)
        shape = self.shape_with_dims(self.resolve_type(decl.type), sized(d)) if explicit else None
        what = f"the parameter '{d.name}'"
        if shape is not None and not (decl.type.signed is not None and not decl.type.dims and not decl.type.keyword):
            if isinstance(given, PatternValue):
                value = given.home.constant_of(given.home.for_target(given.tree, shape.whole, shape), given.tree.pos, what)
            elif given is not None:
                value = self._convert(given, shape.whole)
            else:
                assert d.init is not None
                value = self.constant_of(self.for_target(d.init, shape.whole, shape), d.init.pos, what)
            value = self._convert(value, shape.whole)
        else:
            assert given is not None or d.init is not None
            value = given if given is not None else self.constant(d.init, what)  # type: ignore[arg-type]
            if decl.type.signed is not None and isinstance(value, n.Const):
                value = n.Const(Vec(n.vec(value).width, decl.type.signed), value.val, value.unk)
        return Param(d.name, value, d.pos, shape.packed if shape is not None else (), shape)

    def _type_parameter(self, d: ast.Declarator, scope: Scope, given: n.Expr | None) -> None:
        """`parameter type T = int` (IEEE 1800-2017 6.20.3)."""
        if isinstance(given, TypeValue):
            shape = given.shape
        elif isinstance(d.init, ast.TypeExpr):
            shape = self.resolve_type(d.init.type)
        else:
            raise self.error(d.pos, f"the parameter '{d.name}' needs a type", "parameter")
        self.declare(scope, d.name, TypeName(d.name, shape), d.pos)

    def _convert(self, value: n.Expr, t: Type) -> n.Expr:
        if isinstance(t, Real):
            return self.constant_of(self.to_real(value), 0, "a parameter")
        if isinstance(t, Text) and isinstance(value, n.Const):  # a literal: its characters, without zeros (6.16)
            size = (n.vec(value).width + 7) // 8
            return n.TextConst(TEXT, (value.val & ~value.unk).to_bytes(size, "big").replace(b"\0", b""))
        if isinstance(value, n.RealConst):
            return self.constant_of(n.ToVec(t, value), 0, "a parameter")
        if not isinstance(t, Vec) or type(t) is not Vec or not isinstance(value, n.Const):
            return value
        own = n.vec(value)
        wide = fold_resize(value, Vec(t.width, own.signed, t.four))
        return fold_resize(wide, t)

    def _defparam(self, item: ast.Defparam, scope: Scope) -> None:
        """The path of a defparam starts in its scope, or with the name of the module itself (12.6); out of a generate block it may
        not lead (12.2.1)."""
        path: list[str] = []
        e = item.target
        while isinstance(e, (ast.Member, ast.Index)):
            if isinstance(e, ast.Index):
                path.insert(0, f"[{self.constant_int(e.index, 'an index')}]")
            else:
                path.insert(0, e.name)
            e = e.base
        assert isinstance(e, ast.Name)
        joined: list[str] = [e.name]
        for p in path:
            if p.startswith("["):
                joined[-1] += p
            else:
                joined.append(p)
        if joined[0] == self.module.name and len(joined) > 2:
            joined = joined[1:]
        else:
            joined = [*scope.prefix.split(".")[:-1], *joined]
        value = self.constant(item.value, "the value of a defparam")
        self.defparams.put(tuple(joined), Override(item.pos, value))

    def bind_to_instances(self, item: ast.Bind, paths: list[list[str]], prefix: str = "") -> None:
        """IEEE 1800-2017 23.11: into single instances, whose paths begin here or at the top."""
        for path in paths:
            start = path[1:] if path[0] == self.module.name and len(path) > 1 else [*prefix.split(".")[:-1], *path]
            self.defparams.put((*start, f"bind at {item.pos}"), Override(item.pos, Bound(BIT, item)))

    def _nets(self, item: ast.NetDecl, scope: Scope) -> None:
        shape = self.resolve_type(item.type)
        for d in item.names:
            old = scope.names.get(d.name)
            if (
                isinstance(old, Signal)
                and old.port
                and not d.dims
                and scope is self.root
                and old.kind == "net"
                and not self.module.ansi
            ):
                old.net = item.kind
                made = old
            else:
                made = self.signal(scope, d.name, shape, d.dims, "net", d.pos, item.kind)
            if item.kind == "trireg":
                self._charge(made, item, scope)
            elif item.delay is not None and d.init is None:
                self._net_delay(made, item.delay, scope)
            if item.kind in ("supply0", "supply1"):
                width = shape.type.width if isinstance(shape.type, Vec) else 1
                bits = (1 << width) - 1 if item.kind == "supply1" else 0
                drive = n.Drive(
                    self.context.site(d.pos, d.pos + len(d.name), "assign"), (n.LRef(made, None, None, width),),
                    n.Const(Vec(width), bits), (), (7, 7),
                )  # fmt: skip
                self.unit.processes.append(Process("assign", [drive], d.pos, scope.prefix, ()))
            if d.init is not None:
                own = item.delay if item.kind != "trireg" else None  # a delay of the net
                assign = ast.ContinuousAssign(d.pos, ast.Name(d.pos, d.name), d.init, own, item.strength)
                self.deferred.append((scope, assign))

    def _charge(self, made: Signal, item: ast.NetDecl, scope: Scope) -> None:
        """Strength and decay of a charge; the decay is the third delay (IEEE 1364-2005 4.4). The others are those of the net: then a hidden one
        before it holds the charge, and loses it so much earlier that what is seen becomes x at its time."""
        made.charge = {"small": 1, "large": 4}.get(item.strength[0] if item.strength is not None else "", 2)
        values = item.delay.values if item.delay is not None else []
        decay = self.ticks(values[2]) if len(values) > 2 else None
        ticks = [self.ticks(x) for x in values[:2]]
        if item.delay is not None and not all(isinstance(t, n.Const) and t.val == 0 for t in ticks):
            self._net_delay(made, ast.Delay(item.pos, values[:2]), scope)
            inner = self.delayed_nets[made]
            inner.charge, made.net = made.charge, "wire"
            least = min((t.val for t in ticks if isinstance(t, n.Const)), default=0)
            inner.decay = n.Const(decay.type, max(decay.val - least, 1)) if isinstance(decay, n.Const) else decay
        else:
            made.decay = decay

    def _net_delay(self, made: Signal, delay: ast.Delay, scope: Scope) -> None:
        """`wire #5 w;`: what drives the net reaches it later (6.1.3). The drivers go to a hidden net before it."""
        driven = Signal(
            f"{made.name}.driven", made.type, "net", made.pos, made.net, made.left, made.right, made.dims, ranged=made.ranged
        )
        driven.packed, driven.implicit = made.packed, True
        self.shapes[driven] = self.shape_of_signal(made)
        self.unit.signals.append(driven)
        self.delayed_nets[made] = driven
        width = made.type.width if isinstance(made.type, Vec) else 64
        site = self.context.site(made.pos, made.pos + len(made.name), "assign")
        drive = n.Drive(
            site, (n.LRef(made, None, None, width),), n.Ref(made.type, driven), tuple(self.ticks(x) for x in delay.values)
        )
        self.unit.processes.append(Process("assign", [drive], made.pos, scope.prefix, sensitivity([drive])))

    def _events(self, scope: Scope, name: str, dims: list[tuple[int, int]], pos: int) -> Signal | EventArray:
        """An event for each element of an array."""
        if not dims:
            return self.signal(scope, name, Shape(EVENT), [], "var", pos)
        left, right = dims[0]
        return EventArray(left, right, {k: self._events(scope, f"{name}[{k}]", dims[1:], pos) for k in span(left, right)})

    def _variables(self, item: ast.Item, scope: Scope) -> None:
        if isinstance(item, ast.TypedefDecl) and not item.name:
            return
        if isinstance(item, ast.TypedefDecl):
            shape = self.shape_with_dims(self.resolve_type(item.type), item.dims)
            if item.type.keyword in ("enum", "struct", "union"):
                shape.named = self.declared_name(item.name)
                self.scope.nameless -= 1
            self.declare(scope, item.name, TypeName(item.name, shape), item.pos)
            return
        if isinstance(item, ast.EventDecl):
            for d in item.names:
                if self.module.sv and (
                    d.init is not None or any(r.key is not None or is_open(r) for r in d.dims) or is_merged(self.itself, d)
                ):
                    self._variables(as_variables(ast.EventDecl(item.pos, [d])), scope)
                elif d.dims:
                    self.declare(scope, d.name, self._events(scope, d.name, [self.range(r) for r in d.dims], d.pos), d.pos)
                else:
                    self.signal(scope, d.name, Shape(EVENT), [], "var", d.pos)
            return
        assert isinstance(item, ast.VarDecl)
        shape = self.resolve_type(item.type)
        for d in item.names:
            old = scope.names.get(d.name)
            if isinstance(old, Signal) and old.port and old.kind == "net" and scope is self.root and not self.module.ansi:
                if old.port == "input" and self.module.sv and not item.constant and d.init is None:
                    pass  # it stays what its port drives, of this type
                elif old.port != "output":
                    raise self.error(d.pos, f"the {old.port} port '{d.name}' can't be a variable", "port-variable")
                if old.port == "output":
                    old.kind, old.net = "var", ""
                if isinstance(old.type, Vec) and isinstance(shape.type, Vec):
                    if shape.packed and not old.packed:
                        old.type, old.packed, old.ranged = shape.type, shape.packed, True
                        old.left, old.right = shape.packed[0]
                    elif shape.type.signed:
                        old.type = Vec(old.type.width, True, old.type.four)
                made = old
            elif isinstance(old, Signal) and old.port and old.kind == "net" and scope is self.root and self.module.ansi:
                old.kind, old.net = "var", ""  # it is meant to be assigned
                message = f"'{d.name}' is declared in the port list already: write '{old.port} reg {d.name}' there and nothing here"
                self.context.diagnostics.error(d.pos, f"{message} (12.3.4)", "declared-twice")
                continue
            else:
                made = self.signal(scope, d.name, shape, d.dims, "var", d.pos)
            made.fixed = item.constant
            init = first_value(self.shape_of_signal(made), d)
            if init is not None:
                self.inits.append((scope, made, init))
                if self.started:
                    self.context.late.append(self.itself)

    def declare_items(self, items: list[ast.Item], scope: Scope, automatic: bool) -> list[n.Stmt]:
        """Declarations in a block or subprogram; gives the assignments that set automatic variables."""
        inits: list[n.Stmt] = []
        sub = self.breaks.sub
        for item in items:
            if isinstance(item, ast.EventDecl) and self.module.sv and (automatic or (sub is not None and sub.automatic)):
                item = as_variables(item)
            if not isinstance(item, ast.VarDecl):
                self.guard_declaration(item, scope, lambda item=item: self._declare_one(item, scope))  # type: ignore[misc]
                continue
            inherited = automatic or (sub is not None and sub.automatic)
            local = item.lifetime == "automatic" or (inherited and item.lifetime != "static")
            if not local:
                if not item.lifetime and not item.constant:
                    self._tell_of_one_start(item)
                if item in self.early:
                    continue
                self.guard_declaration(item, scope, lambda item=item: self._variables(item, scope))  # type: ignore[misc]
                continue
            shape = self.resolve_type(item.type)
            for d in item.names:
                made = self.signal(scope, d.name, shape, d.dims, "local", d.pos)
                inits += self.local_start(made, d)
        return inits

    def declare_early(self, items: list[ast.Item], scope: Scope) -> None:
        """The static variables of a named block that others ask for before its statements are elaborated."""
        kept, self.scope = self.scope, scope
        for item in items:
            if isinstance(item, ast.VarDecl) and item.lifetime != "automatic" and not (self.module.sv and item.constant):
                self.early.add(item)
                self.guard_declaration(item, scope, lambda item=item: self._variables(item, scope))  # type: ignore[misc]
        self.scope = kept

    def _tell_of_one_start(self, item: ast.VarDecl) -> None:
        """A static variable in a procedure whose initial value looks as if it were given at each entry (IEEE 1800-2017 6.21). Where the
        block is entered once only, a literal is the same either way."""
        once = self.process_name == "initial" and self.breaks.sub is None and self.breaks.loop is None
        for d in item.names:
            if d.init is not None and not (once and _is_literal(d.init)):
                self.context.diagnostics.warning(
                    d.pos,
                    f"'{d.name}' gets its initial value once, before time 0, not each time its block is entered: "
                    "write 'automatic' before its type, or 'static' if that is meant (6.21)",
                    "starts-once",
                )

    def local_start(self, made: Signal, d: ast.Declarator) -> list[n.Stmt]:
        """What gives an automatic variable its value each time its block is entered."""
        site = self.context.site(d.pos, d.pos + len(d.name), self.process_name)
        shape = self.shape_of_signal(made)
        init = first_value(shape, d)
        if init is not None and (made.dims or isinstance(made.type, List)):
            return self.statement(ast.Assign(d.pos, ast.Name(d.pos, d.name), init, False))
        if init is not None:
            return [n.Assign(site, (whole(made),), self.for_target(init, made.type, shape))]
        if isinstance(made.type, List) and not made.dims:
            return [n.ListStep(site, "clear", whole(made), ())]
        start: n.Expr | None = start_value(shape)
        if start is None:
            if not isinstance(made.type, (Vec, Real)) or isinstance(made.type, List):
                return []
            start = n.Const(made.type, 0) if isinstance(made.type, Vec) else n.RealConst(made.type, 0.0)
        if not made.dims:
            return [n.Assign(site, (whole(made),), start)]
        array = Array(made.type, made.dims)
        return [n.AssignArray(site, whole(made), array, n.ArrayConst(array, (start,)))]

    def initial_values(self) -> None:
        """`reg a = 1;` sets the variable before any process runs (1800-2017 6.8; a legal order of 1364-2005 6.2.1), one after the other
        as they are declared. Those of classes that are made of a parameterised one later come when all else is done."""
        self.started = True
        inits, self.inits = self.inits, []
        for scope, signal, tree in inits:
            self.scope = scope
            self.process_name = "initial"
            self.process_locals = []
            if signal.dims or isinstance(signal.type, List):
                name = ast.Name(signal.pos, signal.name.removeprefix(scope.prefix))
                fixed, signal.fixed = signal.fixed, False
                try:
                    body = self.statement(ast.Assign(tree.pos, name, tree, False))
                except Abandon:
                    continue
                finally:
                    signal.fixed = fixed
                self._lives_long_enough(body, signal, tree)
                self.start_with(Process("initial", body, 0, scope.prefix, locals=self.process_locals, hidden=True))
                continue
            try:
                value = self.for_target(tree, signal.type, self.shape_of_signal(signal))
            except Abandon:
                continue
            if isinstance(value, (n.Const, n.RealConst)):
                signal.init = value
            else:
                site = self.context.site(signal.pos, tree.pos, "initial")
                assign = n.Assign(site, (whole(signal),), value)
                self._lives_long_enough([assign], signal, tree)
                self.start_with(Process("initial", [assign], 0, scope.prefix, locals=self.process_locals))

    def _lives_long_enough(self, body: list[n.Stmt], signal: Signal, tree: ast.Expr) -> None:
        """A variable that is there before time 0 can't begin with one that is there only while its block runs (6.21)."""
        for ref in walk.reads(body):
            if ref.signal.kind == "local" and not ref.signal.implicit and ref.signal not in self.process_locals:
                short, name = signal.name.rpartition(".")[2], ref.signal.name.rpartition(".")[2]
                message = (
                    f"'{short}' gets its value before time 0, when there is no '{name}': write 'automatic' before its type (6.21)"
                )
                self.context.diagnostics.error(tree.pos, message, "starts-once")
                return

    def start_with(self, process: Process) -> None:
        process.region = "start"
        self.unit.processes.insert(self.starts, process)
        self.starts += 1


def _is_literal(e: ast.Expr) -> bool:
    match e:
        case ast.Number() | ast.RealNumber() | ast.StringLiteral() | ast.TimeLiteral():
            return True
        case ast.Unary(operand=operand):
            return _is_literal(operand)
        case ast.Concat(parts=parts):
            return all(_is_literal(p) for p in parts)
        case ast.Pattern(parts=pairs):
            return all(_is_literal(value) for _, value in pairs)
    return False
