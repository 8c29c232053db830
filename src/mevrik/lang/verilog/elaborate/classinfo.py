"""What classes are and how they come to be: announced by name, laid out, made of those with parameters (IEEE 1800-2017 clause 8)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design.record import Identity, field, replace
from mevrik.design.types import BIT, Handle, List, Real, Type, Vec, count_of
from mevrik.design.unit import Subprogram
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.promises import check_promises
from mevrik.lang.verilog.elaborate.randomize import is_randomized, left_declaration, randomize_method
from mevrik.lang.verilog.elaborate.scope import PatternValue, Scope, Shape, SubDecl, TypeName, lists_in, type_key

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.context import Context
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
            words.append(str(type_key(shape)))
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
        from copy import deepcopy

        count = len(template.made) + 1
        plain = replace(tree, items=deepcopy(tree.items), params=[])
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
    base: ClassInfo | None = None
    if tree.base is not None:
        try:
            base = info.base = _class_meant(elab, tree, tree.base, scope)
        except Abandon:
            inside.lost.add("*")  # any name may be inherited
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
        if isinstance(item.item, ast.ClassDecl):
            elab.announce(item.item, inside)
    for item in tree.items:
        elab.scope = inside
        elab.guard_declaration(item.item, inside, lambda item=item: _member(elab, info, item))  # type: ignore[misc]
    elab.scope = scope
    if is_randomized(info):
        add_method(elab, info, randomize_method(elab, info), True, False)
    if "new" not in info.methods:
        own = ast.Function(
            tree.pos, "new", ast.DataType(tree.pos, "name", name=tree.name), [], [], ast.Block(tree.pos, "", [], []), True, False
        )
        add_method(elab, info, own, False, False)
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
        message = f"there is no class '{given.name}' to extend{nearest(given.name, scope.visible())}"
        raise elab.undeclared(tree.pos, given.name, message, scope)
    made = found[0] if isinstance(found[0], ClassInfo) else specialised(elab, found[0], given.args, tree.pos)
    complete_class(made)
    return made


def _member(elab: UnitElaborator, info: ClassInfo, item: ast.ClassItem) -> None:
    from mevrik.lang.verilog.elaborate.events import as_variables, first_value

    inner = item.item
    if isinstance(inner, ast.EventDecl) and not item.static:
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
            init = first_value(shape, d)
            made = ClassField(d.name, info.words, shape, init, d.pos, item.random, inner.constant)
            info.words += field_words(shape.type) * count_of(shape.unpacked)
            info.fields[d.name] = made
            elab.declare(info.scope, d.name, made, d.pos)
            if item.random == "randc":
                _member(elab, info, ast.ClassItem(d.pos, left_declaration(made), False, False))
    elif isinstance(inner, ast.Function):
        add_method(elab, info, inner, item.virtual, item.static)
        info.methods[inner.name].pure = item.pure
    else:
        elab._declare_one(inner, info.scope)


def add_method(elab: UnitElaborator, info: ClassInfo, tree: ast.Function, virtual: bool, static: bool) -> None:
    tree.automatic = True
    sub = Subprogram(tree.name, None, tree.pos, True, tree.is_task, elab.unit, path=info.scope.prefix + tree.name)
    decl = SubDecl(tree, info.scope, sub, owner=None if static else info)
    method = Method(decl, info, virtual, static)
    info.methods[tree.name] = method
    elab.declare(info.scope, tree.name, method, tree.pos)
    elab.subs.append(decl)
