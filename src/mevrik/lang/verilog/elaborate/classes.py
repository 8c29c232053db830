"""Classes (IEEE 1800-2017 clause 8): objects behind handles, methods, inheritance, virtual dispatch."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import Identity, field, replace
from mevrik.design.types import BIT, Handle, List, Real, Type, Vec, count_of
from mevrik.design.unit import Signal, Subprogram
from mevrik.lang.diagnostics import nearest, offered
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.lists import ListElaborator
from mevrik.lang.verilog.elaborate.promises import check_promises
from mevrik.lang.verilog.elaborate.randomize import UNSUPPORTED, is_randomized, left_declaration, randomize_method
from mevrik.lang.verilog.elaborate.scope import PatternValue, RemoteScope, Scope, Shape, SubDecl, TypeName, lists_in

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.context import Context
    from mevrik.lang.verilog.elaborate.decisions import Breaks
    from mevrik.lang.verilog.elaborate.unit import UnitElaborator


Variants = list[tuple[int, Subprogram]]


class ClassField(Identity):
    """A property: where it lies in the object (in words; the unknown plane follows the value plane)."""

    name: str
    word: int
    shape: Shape
    init: ast.Expr | None
    pos: int
    random: str = ""  # rand, randc
    fixed: bool = False  # const: set once, by its start value or the constructor (8.19)


class Method(Identity):
    decl: SubDecl
    info: ClassInfo
    virtual: bool
    static: bool
    pure: bool = False


class ClassInfo(Identity):
    key: str
    number: int
    tree: ast.ClassDecl
    scope: Scope
    home: UnitElaborator
    outer: Scope
    base: ClassInfo | None = None
    interfaces: list[ClassInfo] = field(default_factory=list)
    complete: bool = False  # it is announced first
    words: int = 0
    fields: dict[str, ClassField] = field(default_factory=dict)
    methods: dict[str, Method] = field(default_factory=dict)
    hidden: dict[str, str] = field(default_factory=dict)  # members that are local or protected (8.18)
    template: ClassTemplate | None = None  # what it was made of

    @property
    def type(self) -> Handle:
        return Handle(64, False, False, self.key)

    def is_virtual(self, name: str) -> bool:
        """Whether the method of that name is, here or in what the class extends (8.20)."""
        return any(c.methods[name].virtual for c in self.line() if name in c.methods)

    def line(self) -> Iterator[ClassInfo]:
        """The class and what it extends, then the interface classes that these implement (8.26)."""
        here: ClassInfo | None = self
        promised: list[ClassInfo] = []
        while here is not None:
            yield here
            promised += here.interfaces
            here = here.base
        for interface in promised:
            yield from interface.line()

    def find_field(self, name: str) -> ClassField | None:
        return next((c.fields[name] for c in self.line() if name in c.fields), None)

    def find_method(self, name: str) -> Method | None:
        return next((c.methods[name] for c in self.line() if name in c.methods), None)

    def find_static(self, name: str) -> object | None:
        return next((c.scope.names[name] for c in self.line() if name in c.scope.names), None)


class ClassTemplate(Identity):
    """A class with parameters; each set of values makes a class of its own (8.25)."""

    tree: ast.ClassDecl
    scope: Scope
    home: UnitElaborator
    made: dict[str, ClassInfo] = field(default_factory=dict)


def specialised(
    elab: UnitElaborator, template: ClassTemplate, given: list[tuple[str | None, ast.DataType | ast.Expr]], pos: int
) -> ClassInfo:
    """The class for these parameters. Types and values are those of the place where it is used."""
    tree = template.tree
    by_name: dict[str, ast.DataType | ast.Expr] = {}
    for index, (name, argument) in enumerate(given):
        if index >= len(tree.params):
            raise elab.error(pos, f"the class '{tree.name}' has {len(tree.params)} parameters, {len(given)} are given", "parameter")
        by_name[name or tree.params[index].name] = argument
    home = template.home
    bound = Scope(tree.name, template.scope.prefix, template.scope, "class")
    words: list[str] = []
    for p in tree.params:
        value: ast.DataType | ast.Expr | None = by_name.get(p.name)
        if p.value is None:
            kind = value if isinstance(value, ast.DataType) else None
            if isinstance(value, ast.Name):
                kind = ast.DataType(value.pos, "name", name=value.name)
            if kind is not None:
                shape = elab.resolve_type(kind)
            elif p.default_type is not None:
                kept, home.scope = home.scope, bound  # it may name a parameter before it
                shape = home.resolve_type(p.default_type)
                home.scope = kept
            else:
                raise elab.error(pos, f"the class '{tree.name}' needs a type for '{p.name}'", "parameter")
            bound.names[p.name] = TypeName(p.name, shape)
            words.append(str(shape.type))
        else:
            declared = p.value.names[0]
            source = value if value is not None and not isinstance(value, ast.DataType) else None
            if source is None and declared.init is None:
                raise elab.error(pos, f"the class '{tree.name}' needs a value for '{p.name}'", "parameter")
            what = f"the parameter '{p.name}'"
            given_value: n.Expr | None = None
            if isinstance(source, ast.Pattern):
                given_value = PatternValue(BIT, source, elab, elab.scope.prefix)
            elif source is not None:
                given_value = elab.constant(source, what)
            kept, home.scope = home.scope, bound
            param = bound.names[p.name] = home.parameter(p.value, declared, given_value)
            home.scope = kept
            words.append(_constant_words(param.value))
    key = ",".join(words)
    found = template.made.get(key)
    if found is None:
        kept = home.scope
        count = len(template.made) + 1
        plain = replace(tree, items=copy.deepcopy(tree.items), params=[])
        found = template.made[key] = announce_class(home, plain, bound, f"#{count}")  # it may have handles to itself
        found.scope.names.update(bound.names)  # its parameters are members too (8.25)
        found.template = template
        bound.names[tree.name] = found  # inside, the name alone is the class with these parameters (8.25)
        complete_class(found)
        home.scope = kept
    return found


def _constant_words(e: n.Expr) -> str:
    """Tells values of a parameter apart."""
    match e:
        case n.Const(val=val, unk=unk):
            return f"{e.type}:{val}:{unk}"
        case n.RealConst(value=value) | n.TextConst(value=value):
            return f"{value!r}"
    return str(id(e))


def fill_variants(context: Context) -> None:
    """What the classes of the design make of the virtual methods that are called. A method may call others, and name new classes."""
    done = context.compared
    while True:
        missing = [
            (method, found, info)
            for method, found in list(context.variants.items())
            for info in list(context.classes.values())
            if (method, info.number) not in done and method.info in info.line()
        ]
        if not missing:
            break
        for method, found, info in missing:
            done.add((method, info.number))
            own = info.find_method(method.decl.tree.name)
            if own is not None and own is not method:
                found.append((info.number, own.info.home.subprogram(own.decl)))


def list_places(info: ClassInfo) -> Iterator[int]:
    """The bytes at which an object keeps its queues and arrays: a copy of it has copies of them (8.12)."""
    complete_class(info)
    for c in info.line():
        for f in c.fields.values():
            lows = (0,) if isinstance(f.shape.type, List) else lists_in(f.shape)
            for k in range(count_of(f.shape.unpacked) if lows else 0):
                yield from (8 * (f.word + k * field_words(f.shape.type)) + low // 8 for low in lows)


def field_words(t: Type) -> int:
    if isinstance(t, Real):
        return 1
    assert isinstance(t, Vec)
    return (t.width + 63) // 64 * (2 if t.four else 1)


class ClassElaborator(ListElaborator):
    breaks: Breaks

    def arguments(self, sub: Subprogram, e: ast.Call) -> list[ast.Expr | None]:
        raise NotImplementedError

    # ---- what a handle points to ----

    def class_of_type(self, t: Type) -> ClassInfo | None:
        info = self.context.classes.get(t.name) if isinstance(t, Handle) else None
        if info is not None:
            complete_class(info)
        return info

    def class_named(self, name: str) -> ClassInfo | None:
        """The class that a name stands for, also by way of a typedef or a type parameter."""
        found = self.scope.find(name)
        entity = found[0] if found is not None else None
        if isinstance(entity, TypeName):
            return self.class_of_type(entity.shape.type)
        if isinstance(entity, ClassTemplate):
            return specialised(self.itself, entity, [], 0)
        if entity is None and "::" in name:  # a type that a class declares
            owner, _, inner = name.rpartition("::")
            info = self.class_named(owner)
            shape = self.type_in(info, inner) if info is not None else None
            return self.class_of_type(shape.type) if shape is not None else None
        return entity if isinstance(entity, ClassInfo) else None

    def type_in(self, info: ClassInfo, name: str) -> Shape | None:
        """A type that is declared in a class."""
        raise NotImplementedError

    def this_class(self) -> ClassInfo | None:
        found = self.scope.find("this")
        return self.class_of_type(found[0].type) if found is not None and isinstance(found[0], Signal) else None

    def this_value(self, pos: int) -> n.Expr:
        found = self.scope.find("this")
        if found is None or not isinstance(found[0], Signal):
            raise self.error(pos, "there is no object here: this is no method, or a static one (8.10)", "class")
        return n.Ref(found[0].type, found[0])

    def handle_class(self, e: ast.Expr) -> ClassInfo | None:
        """The class of an expression that is a handle; None, without a message, for anything else."""
        if isinstance(e, ast.Name) and e.name == "this":
            return self.this_class()
        if isinstance(e, ast.Name) and e.name == "super":
            info = self.this_class()
            return info.base if info is not None else None
        shape = self.value_shape(e)
        return self.class_of_type(shape.type) if shape is not None and not shape.unpacked else None

    def static_member(self, info: ClassInfo, name: str, pos: int) -> object:
        """A static property or a constant of a class."""
        made = info.find_static(name)
        self.check_access(info, name, pos)
        if isinstance(made, Signal):
            return made if info.home is self else self.from_package(made, info.home)
        if made is None:
            known = [x for c in info.line() for x in (*c.methods, *c.fields, *c.scope.names) if x != "new"]
            raise self.error(pos, f"the class '{info.tree.name}' has no member '{name}'{offered(name, known)}", "unknown-name")
        return made

    def check_access(self, info: ClassInfo, name: str, pos: int) -> None:
        """Local members are for the class itself, protected ones also for what extends it (8.18)."""
        owner = next((c for c in info.line() if name in c.fields or name in c.methods or name in c.scope.names), None)
        access = owner.hidden.get(name) if owner is not None else None
        if owner is None or access is None:
            return
        around: list[Scope] = []
        scope: Scope | None = self.scope
        while scope is not None:
            if scope.kind == "sub" and scope.name.partition(" ")[0] == "randomize":  # it sets members of all classes in the line
                return
            around.append(scope)
            if isinstance(scope, RemoteScope) and scope.inner is not None:  # a method of a package, taken from there
                scope = scope.inner
                continue
            scope = scope.parent
        inside = [c for c in self.context.classes.values() if c.scope in around]
        if not any(c is owner or (access == "protected" and owner in c.line()) for c in inside):
            whose = "its own methods" if access == "local" else "its own methods and those of classes that extend it"
            message = f"'{name}' is {access} in the class '{owner.tree.name}': only {whose} may use it (8.18)"
            raise self.error(pos, message, "class-access")

    def check_field(self, target: ast.Expr) -> None:
        """A constant property is not assigned but by the constructor of its class (8.19)."""
        found: object = None
        if isinstance(target, ast.Member):
            info = self.handle_class(target.base)
            found = info.find_field(target.name) if info is not None else None
        elif isinstance(target, ast.Name):
            entry = self.scope.find(target.name)
            found = entry[0] if entry is not None else None
        if isinstance(found, ClassField) and found.fixed and not (self.breaks.sub is not None and self.breaks.sub.name == "new"):
            raise self.error(
                target.pos,
                f"'{found.name}' is a constant of its object: only the constructor gives it a value (8.19)",
                "assign-constant",
            )

    def kinds_of(self, info: ClassInfo) -> list[int]:
        """The numbers of a class and of all that extend it."""
        return [c.number for c in self.context.classes.values() if info in c.line()]

    # ---- methods ----

    def method_of(self, e: ast.Expr) -> tuple[ast.Expr | None, Method, bool] | None:
        """(the object, None for this; the method; whether the object's own class decides) for a call of a method."""
        target = e.target if isinstance(e, ast.Call) else e
        if isinstance(target, ast.Name):
            if "::" in target.name:
                owner, _, name = target.name.rpartition("::")
                info = self.class_named(owner)
                made = info.find_method(name) if info is not None else None
                return (None, made, False) if made is not None else None
            scope = self.scope.of_call(target.name) if isinstance(e, ast.Call) else self.scope
            found = scope.find(target.name)
            if found is None or not isinstance(found[0], Method):
                return None
            self.check_access(found[0].info, target.name, target.pos)
            return None, found[0], True
        if not isinstance(target, ast.Member):
            return None
        if isinstance(target.base, ast.TypeExpr):
            info = self.class_of_type(self.resolve_type(target.base.type).type)
            made = info.find_method(target.name) if info is not None else None
            return (None, made, False) if made is not None else None
        if isinstance(target.base, ast.Name) and target.base.name == "super":
            info = self.this_class()
            made = info.base.find_method(target.name) if info is not None and info.base is not None else None
            return (None, made, False) if made is not None else None
        info = self.handle_class(target.base)
        if info is None:
            return None
        made = info.find_method(target.name)
        if made is None and target.name == "randomize":  # of a class that has nothing random itself: one that extends it may
            home = info.home
            _method(home, info, randomize_method(home, info), True, False)
            made = info.methods["randomize"]
        if made is None and target.name in UNSUPPORTED:
            message = f"{target.name} is not supported yet (IEEE 1800-2017 {UNSUPPORTED[target.name]})"
            raise self.error(target.pos, message, "unsupported")
        if made is None:
            if info.find_field(target.name) is not None or info.find_static(target.name) is not None:
                return None
            known = [x for c in info.line() for x in (*c.methods, *c.fields) if x != "new"]
            raise self.error(
                target.pos,
                f"the class '{info.tree.name}' has no member '{target.name}'{offered(target.name, known)}",
                "unknown-name",
            )
        self.check_access(info, target.name, target.pos)
        return target.base, made, True

    def draw_of(self, e: ast.Call) -> ast.Call:
        """A call of randomize() with properties as arguments, as one of a method that gives values to these alone (18.11)."""
        target = e.target
        if not e.args or not isinstance(target, ast.Member) or target.name != "randomize":
            return e
        info = self.handle_class(target.base)
        if info is None:
            return e
        names: list[str] = []
        for arg in e.args:
            name = arg.name if isinstance(arg, ast.Name) else ""
            if name != "null" and info.find_field(name) is None:
                raise self.error(
                    e.pos, f"the class '{info.tree.name}' has no property '{name}' to randomize (18.11)", "unknown-name"
                )
            names += [name] if name != "null" else []
        home, made = info.home, f"randomize {', '.join(names)}"
        if info.find_method(made) is None:
            _method(home, info, randomize_method(home, info, names), False, False)
        return ast.Call(e.pos, ast.Member(target.pos, target.base, made), [])

    def variants(self, method: Method) -> Variants | None:
        """(number of a class, what it makes of a virtual method), for the classes that override it; None for a method that is not
        virtual. Which classes there are is only known when all is elaborated: the list is filled then."""
        if not method.info.is_virtual(method.decl.tree.name):
            return None
        return self.context.variants.setdefault(method, [])

    def object_for(self, base: ast.Expr | None, method: Method, pos: int) -> tuple[n.Expr, ...]:
        if method.static:
            return ()
        return (self.this_value(pos) if base is None else self.expr(base),)

    def new_object(self, e: ast.New, target: Type) -> n.Expr:
        """`new(arguments)` for a target of a class type (8.7)."""
        info = self.class_of_type(target)
        if info is None:
            raise self.error(e.pos, "'new' makes an object for a variable of a class, or new[n] a dynamic array", "operand-type")
        if info.tree.abstract:
            raise self.error(e.pos, f"the class '{info.tree.name}' is virtual: only what extends it can be made (8.21)", "class")
        if e.source is not None and e.copy:
            lists = tuple((c.number, at) for c in self.context.classes.values() if info in c.line() for at in list_places(c))
            return n.NewObject(info.type, info.number, 0, self.expr(e.source), self.site(e), lists)
        method = info.find_method("new")
        if method is None:
            raise Abandon  # the class has an error, which was told
        self.check_access(info, "new", e.pos)
        sub = method.info.home.subprogram(method.decl)
        call = ast.Call(e.pos, ast.Name(e.pos, "new"), e.args)
        values = self.method_arguments(method.decl, call, 1)
        made = n.NewObject(info.type, info.number, info.words, None, self.site(e))
        return n.Call(info.type, sub, (made, *values), e.pos)

    def method_arguments(self, decl: SubDecl, call: ast.Call, skip: int) -> list[n.Expr]:
        """The values for the ports behind `this`."""
        sub = decl.sub
        values: list[n.Expr] = []
        for index, arg in enumerate(self.arguments(sub, call)):
            if index < skip:
                continue
            port, default = sub.ports[index], sub.defaults[index]
            if arg is not None:
                values.append(self.argument_value(decl, index, arg))
            elif default is not None:
                values.append(default)
            else:
                raise self.error(
                    call.pos, f"'{sub.name}' needs a value for its argument '{port.name.rpartition('.')[2]}'", "arguments"
                )
        return values

    def argument_value(self, decl: SubDecl, index: int, arg: ast.Expr) -> n.Expr:
        """What an argument hands over to its port."""
        shape = decl.shapes[index]
        return self.for_target(arg, shape.whole, shape)


def announce_class(elab: UnitElaborator, tree: ast.ClassDecl, scope: Scope, mark: str = "") -> ClassInfo:
    """Put a class into its scope by its name alone, so that handles to it can be declared before it (6.18, 8.27). `mark` tells the
    classes apart that are made of one with parameters."""
    inside = Scope(tree.name, f"{scope.prefix}{tree.name}{mark}.", scope, "class")
    key = f"{elab.unit.key}.{scope.prefix}{tree.name}{mark}"
    info = ClassInfo(key, len(elab.context.classes) + 1, tree, inside, elab, scope)
    elab.context.classes[key] = info
    if not mark:
        elab.declare(scope, tree.name, info, tree.pos)
    return info


def complete_class(info: ClassInfo) -> None:
    """Lay the properties out behind those of its base and make the methods ready to be elaborated at their first use."""
    if info.complete:
        return
    info.complete = True
    elab, tree, inside, scope = info.home, info.tree, info.scope, info.outer
    kept, elab.scope = elab.scope, scope
    try:
        _fill(elab, info, tree, inside, scope)
    finally:
        elab.scope = kept


def _fill(elab: UnitElaborator, info: ClassInfo, tree: ast.ClassDecl, inside: Scope, scope: Scope) -> None:
    base = info.base = _class_meant(elab, tree, tree.base, scope) if tree.base is not None else None
    interfaces = info.interfaces = [_class_meant(elab, tree, given, scope) for given in tree.interfaces]
    for given, made in zip(tree.interfaces, interfaces):
        if not made.tree.interface:
            raise elab.error(given.pos, f"'{made.tree.name}' is no interface class: extend it instead (8.26)", "class")
    for above in (*([base] if base is not None else []), *interfaces):
        if info in above.line():
            base = info.base = None
            info.interfaces = []
            elab.error(tree.pos, f"the class '{tree.name}' extends itself by way of '{above.tree.name}'", "class")
            break
    if base is not None:
        inside.wild.append(base.scope)  # what it inherits comes before what stands around it
    if tree.interface:
        inside.wild += [i.scope for i in interfaces]
    info.words = base.words if base is not None else 0
    for item in tree.items:
        elab.scope = inside
        try:
            _member(elab, info, item)
        except Abandon:
            pass
    elab.scope = scope
    if is_randomized(info):
        _method(elab, info, randomize_method(elab, info), True, False)
    if "new" not in info.methods:
        own = ast.Function(
            tree.pos, "new", ast.DataType(tree.pos, "name", name=tree.name), [], [], ast.Block(tree.pos, "", [], []), True, False
        )
        _method(elab, info, own, False, False)
    check_promises(elab, info, base, interfaces)


def _class_meant(elab: UnitElaborator, tree: ast.ClassDecl, given: ast.DataType, scope: Scope) -> ClassInfo:
    """The class that stands behind `extends` or `implements`."""
    found = scope.find(given.name)
    of_class = found is None and "::" in given.name and given.name.partition("::")[0] not in elab.context.packages
    if given.within is not None or of_class or (found is not None and isinstance(found[0], TypeName)):
        around, elab.scope = elab.scope, scope  # a typedef, or a type parameter
        meant = elab.class_of_type(elab.resolve_type(given).type)
        elab.scope = around
        if meant is None:
            raise elab.error(tree.pos, f"'{given.name}' is no class, so '{tree.name}' can't extend it (8.13)", "class")
        return meant
    if found is None or not isinstance(found[0], (ClassInfo, ClassTemplate)):
        raise elab.error(
            tree.pos, f"there is no class '{given.name}' to extend{nearest(given.name, scope.visible())}", "unknown-name"
        )
    made = found[0] if isinstance(found[0], ClassInfo) else specialised(elab, found[0], given.args, tree.pos)
    complete_class(made)
    return made


def _member(elab: UnitElaborator, info: ClassInfo, item: ast.ClassItem) -> None:
    inner = item.item
    if isinstance(inner, ast.EventDecl) and not item.static:
        from mevrik.lang.verilog.elaborate.events import as_variables

        inner = as_variables(inner)
    if item.access:
        names = (
            [d.name for d in inner.names]
            if isinstance(inner, ast.VarDecl)
            else [inner.name]
            if isinstance(inner, ast.Function)
            else []
        )
        info.hidden.update(dict.fromkeys(names, item.access))
    if isinstance(inner, ast.VarDecl) and not item.static:
        for d in inner.names:
            shape = elab.shape_with_dims(elab.resolve_type(inner.type), d.dims)
            made = ClassField(d.name, info.words, shape, d.init, d.pos, item.random, inner.constant)
            info.words += field_words(shape.type) * count_of(shape.unpacked)
            info.fields[d.name] = made
            elab.declare(info.scope, d.name, made, d.pos)
            if item.random == "randc":
                _member(elab, info, ast.ClassItem(d.pos, left_declaration(made), False, False))
    elif isinstance(inner, ast.Function):
        _method(elab, info, inner, item.virtual, item.static)
        info.methods[inner.name].pure = item.pure
    else:
        elab._declare_one(inner, info.scope)


def _method(elab: UnitElaborator, info: ClassInfo, tree: ast.Function, virtual: bool, static: bool) -> None:
    tree.automatic = True
    sub = Subprogram(tree.name, None, tree.pos, True, tree.is_task, elab.unit, path=info.scope.prefix + tree.name)
    decl = SubDecl(tree, info.scope, sub, owner=None if static else info)
    method = Method(decl, info, virtual, static)
    info.methods[tree.name] = method
    elab.declare(info.scope, tree.name, method, tree.pos)
    elab.subs.append(decl)
