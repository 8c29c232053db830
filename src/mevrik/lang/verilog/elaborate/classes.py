"""Classes (IEEE 1800-2017 clause 8): objects behind handles, methods, inheritance, virtual dispatch."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.types import Handle, Type
from mevrik.design.unit import Signal, Subprogram
from mevrik.lang.diagnostics import offered
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.classinfo import (
    ClassField,
    ClassInfo,
    ClassTemplate,
    Method,
    Variants,
    add_method,
    complete_class,
    list_places,
    specialised,
)
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.lists import ListElaborator
from mevrik.lang.verilog.elaborate.randomize import UNSUPPORTED, provided_method, randomize_method
from mevrik.lang.verilog.elaborate.scope import RemoteScope, Scope, Shape, SubDecl, TypeName

if TYPE_CHECKING:
    from mevrik.lang.verilog.elaborate.decisions import Breaks


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
            raise self.no_member(info, name, pos, known)
        return made

    def no_member(self, info: ClassInfo, name: str, pos: int, known: list[str]) -> Abandon:
        if any({name, "*"} & c.scope.lost for c in info.line()):
            return Abandon()
        message = f"the class '{info.tree.name}' has no member '{name}'{offered(name, known)}"
        return self.error_of(f"{info.tree.name}.{name}", pos, message, "unknown-name", everywhere=True)

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
            info = self.this_class()
            if found is None and info is not None and (made := self._provided(info, target.name)) is not None:
                return None, made, True
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
        made = info.find_method(target.name) or self._provided(info, target.name)
        if made is None and target.name in UNSUPPORTED:
            message = f"{target.name} is not supported yet (IEEE 1800-2017 {UNSUPPORTED[target.name]})"
            raise self.error(target.pos, message, "unsupported")
        if made is None:
            if info.find_field(target.name) is not None or info.find_static(target.name) is not None:
                return None
            known = [x for c in info.line() for x in (*c.methods, *c.fields) if x != "new"]
            raise self.no_member(info, target.name, target.pos, known)
        self.check_access(info, target.name, target.pos)
        return target.base, made, True

    def _provided(self, info: ClassInfo, name: str) -> Method | None:
        """Adds what every class has to one that has nothing of its own by that name: of randomize(), one that extends it may."""
        tree = provided_method(info.home, info, name)
        if tree is not None:
            add_method(info.home, info, tree, name == "randomize", False)
        return info.methods.get(name)

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
            add_method(home, info, randomize_method(home, info, names), False, False)
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
        if base is None:
            return (self.this_value(pos),)
        obj = self.expr(base)
        ours = method.info.home.module.name == "std" and self.itself.module.name != "std"
        return (n.Present(obj.type, obj, self.site(base)) if ours else obj,)  # told where it is called

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
        made = n.NewObject(info.type, info.number, info.words, None, self.site(e))
        values = self.method_arguments(method.decl, call, (made,))
        return n.Call(info.type, sub, (made, *values), e.pos)

    def method_arguments(self, decl: SubDecl, call: ast.Call, obj: tuple[n.Expr, ...]) -> list[n.Expr]:
        """The values for the ports behind `this`, which is `obj` if there is one."""
        sub = decl.sub
        values: list[n.Expr] = []
        for index, arg in enumerate(self.arguments(sub, call)):
            if index < len(obj):
                continue
            port, default = sub.ports[index], sub.defaults[index]
            if arg is not None:
                values.append(self.argument_value(decl, index, arg))
            elif default is not None:
                values.append(default_of(sub, default, obj))
            else:
                raise self.error(
                    call.pos, f"'{sub.name}' needs a value for its argument '{port.name.rpartition('.')[2]}'", "arguments"
                )
        return values

    def argument_value(self, decl: SubDecl, index: int, arg: ast.Expr) -> n.Expr:
        """What an argument hands over to its port."""
        shape = decl.shapes[index]
        return self.for_target(arg, shape.whole, shape)


def default_of(sub: Subprogram, default: n.Expr, obj: tuple[n.Expr, ...]) -> n.Expr:
    """The default of an argument in a call on an object, whose members it may name."""
    return walk.with_refs(default, lambda r: obj[0] if r.signal is sub.ports[0] else r) if obj else default
