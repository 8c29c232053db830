"""Data types resolved, and signals made of them (IEEE 1364-2005 clause 4, IEEE 1800-2017 clauses 6 and 7)."""

from __future__ import annotations

import math
from collections.abc import Sequence

from mevrik.design import nodes as n
from mevrik.design.record import replace
from mevrik.design.types import (
    REAL,
    SHORT_REAL,
    TEXT,
    TIME,
    Array,
    Bag,
    EventType,
    Handle,
    Link,
    List,
    Text,
    Type,
    Vec,
    width_of,
)
from mevrik.design.unit import Signal
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.classinfo import ClassInfo, ClassTemplate, complete_class, specialised
from mevrik.lang.verilog.elaborate.defaults import begins, member_default
from mevrik.lang.verilog.elaborate.events import event_class
from mevrik.lang.verilog.elaborate.folding import fold_resize
from mevrik.lang.verilog.elaborate.lists import packed_up
from mevrik.lang.verilog.elaborate.names import NameElaborator
from mevrik.lang.verilog.elaborate.parts import parts_of
from mevrik.lang.verilog.elaborate.scope import Ambiguous, Field, Param, Scope, Shape, TypeName, lists_in
from mevrik.lang.verilog.elaborate.typewords import CASTS

WIDTH_LIMIT = 1 << 20
WORD = 64
ARRAY_LIMIT = 1 << 28
_WORDS: dict[str, Type] = {**CASTS, "real": REAL, "realtime": REAL, "shortreal": SHORT_REAL, "time": TIME}


class TypeElaborator(NameElaborator):
    def type_named(self, e: ast.Name) -> Shape | None:
        """The type that a name stands for; None if it stands for something else."""
        found = self.scope.find(e.name)
        if found is not None and isinstance(found[0], TypeName):
            return found[0].shape
        if found is not None and isinstance(found[0], ClassInfo):
            return Shape(found[0].type)
        owner, _, inner = e.name.rpartition("::")
        info = self.class_named(owner) if owner and found is None else None
        return self.type_in(info, inner) if info is not None else None

    def type_in(
        self, info: ClassInfo, name: str, args: Sequence[tuple[str | None, ast.DataType | ast.Expr]] = (), pos: int = 0
    ) -> Shape | None:
        """A type that is declared in a class, or in a class that is (8.23)."""
        complete_class(info)
        outer, colons, rest = name.partition("::")
        if colons:
            shape = self.type_in(info, outer)
            inside = self.class_of_type(shape.type) if shape is not None else None
            return self.type_in(inside, rest, args, pos) if inside is not None else None
        member = info.find_static(name)
        if isinstance(member, TypeName):
            return member.shape
        if isinstance(member, ClassTemplate):
            member = specialised(self.itself, member, list(args), pos)
        return Shape(member.type) if isinstance(member, ClassInfo) else None

    def type_meant(self, e: ast.Expr) -> Shape | None:
        """The type that an expression names: a name, or one in a class with parameters; None if it is something else."""
        if isinstance(e, ast.Name):
            return self.type_named(e)
        if isinstance(e, ast.TypeExpr):
            return self.resolve_type(e.type)
        if isinstance(e, ast.Member) and isinstance(e.base, ast.TypeExpr):
            info = self.class_of_type(self.resolve_type(e.base.type).type)
            return self.type_in(info, e.name) if info is not None else None
        if isinstance(e, (ast.Index, ast.PartSelect)):
            return self._ranged_type(e)
        return None

    def _ranged_type(self, e: ast.Expr) -> Shape | None:
        """`word_t [3:0]` where no name follows, such as in `$bits`: it is read as a selection until the name is found to be a type."""
        ranges: list[ast.Range] = []
        while isinstance(e, (ast.Index, ast.PartSelect)):
            if isinstance(e, ast.Index):
                ranges.append(ast.Range(e.pos, e.index, None))
            elif e.mode == ":":
                ranges.append(ast.Range(e.pos, e.left, e.right))
            else:
                return None
            e = e.base
        shape = self.type_named(e) if isinstance(e, ast.Name) else None
        return self._more_dims(shape, ast.DataType(e.pos, "", dims=ranges[::-1])) if shape is not None else None

    def resolve_type(self, tree: ast.DataType) -> Shape:
        if tree.keyword == "name":
            return self._named_type(tree)
        if tree.keyword == "known":
            assert isinstance(tree.known, Shape)
            return tree.known
        if tree.keyword == "type":
            assert isinstance(tree.known, ast.Expr)
            return self._more_dims(self.shape_of(tree.known), tree)
        if tree.keyword == "enum":
            return self._enum(tree)
        if tree.keyword in ("struct", "union"):
            return self._struct(tree)
        if tree.keyword == "string":
            return Shape(TEXT)
        if tree.keyword == "event":
            return Shape(event_class(self.itself, tree.pos).type)
        if tree.keyword == "virtual":
            return Shape(Link(64, False, False, self.prototype(tree).unit.form))
        if tree.keyword in ("void", "chandle"):
            raise self.error(
                tree.pos, f"the type {tree.keyword} is not supported here yet (IEEE 1800-2017 clause 6)", "unsupported"
            )
        base = _WORDS.get(tree.keyword, Vec(1))
        if not isinstance(base, Vec):
            return Shape(base)
        signed = base.signed if tree.signed is None else tree.signed
        if tree.keyword in ("integer", "int", "byte", "shortint", "longint", "time"):
            return Shape(Vec(base.width, signed, base.four), ((base.width - 1, 0),))
        dims = tuple(self.range(r) for r in tree.dims)
        width = math.prod(abs(a - b) + 1 for a, b in dims)
        if width > WIDTH_LIMIT:
            raise self.error(tree.pos, f"a vector of {width} bits is more than the {WIDTH_LIMIT} supported", "too-wide")
        return Shape(Vec(width, signed, base.four), dims)

    def _named_type(self, tree: ast.DataType) -> Shape:
        if tree.within is not None:
            info = self.class_of_type(self.resolve_type(tree.within).type)
            inside = self.type_in(info, tree.name, tree.args, tree.pos) if info is not None else None
            if inside is None:
                raise self.error(tree.pos, f"the class '{tree.within.name}' has no type '{tree.name}'", "unknown-name")
            return self._more_dims(inside, tree)
        found = self.scope.find(tree.name)
        template = found[0] if found is not None else None
        if isinstance(template, Ambiguous):
            raise self.error(tree.pos, template.message, "ambiguous")
        if isinstance(template, ClassInfo) and tree.args:
            template = template.template
        if isinstance(template, ClassTemplate):
            return Shape(specialised(self.itself, template, tree.args, tree.pos).type)
        if found is not None and isinstance(found[0], ClassInfo):
            return Shape(found[0].type)
        owner, _, inner = tree.name.rpartition("::")
        outer = self.class_named(owner) if owner and found is None else None
        made = self.type_in(outer, inner, tree.args, tree.pos) if outer is not None else None
        if made is not None:
            return self._more_dims(made, tree)
        other = self.context.modules.get(tree.name) if found is None else None
        if other is not None:
            what = "an interface" if other.interface else "a module"
            message = (
                f"'{tree.name}' is {what}, no type: an instance of it needs parentheses behind its name, as in {tree.name} name ()"
            )
            raise self.undeclared(tree.pos, tree.name, message)
        if found is None or not isinstance(found[0], TypeName):
            raise self.undeclared(
                tree.pos, tree.name, f"'{tree.name}' is no type{nearest(tree.name, self.scope.visible())}", everywhere=True
            )
        return self._more_dims(found[0].shape, tree)

    def _more_dims(self, shape: Shape, tree: ast.DataType) -> Shape:
        """A type with packed ranges before its own."""
        if not tree.dims or not isinstance(shape.type, Vec):
            return shape
        dims = tuple(self.range(r) for r in tree.dims)
        width = shape.type.width * math.prod(abs(a - b) + 1 for a, b in dims)
        made = Vec(width, False, shape.type.four)
        if shape.fields or shape.labels:
            return Shape(made, dims, inner=shape)
        return Shape(made, dims + shape.packed, inner=shape.inner)

    def _enum(self, tree: ast.DataType) -> Shape:
        base = self.resolve_type(tree.base) if tree.base is not None else Shape(Vec(32, True, False), ((31, 0),))
        t = base.type
        if type(t) is not Vec:
            raise self.error(tree.pos, "the values of an enum are numbers: its base is an integral type (6.19)", "enum-value")
        labels: dict[int, str] = {}
        following: int | None = 0
        shape = Shape(t, base.packed, labels, named=self._nameless("e"))
        for item in tree.items:
            if item.value is not None:
                value = self.constant(item.value, "the value of an enum name")
                if not isinstance(value, n.Const):
                    raise self.error(item.pos, f"the value of '{item.name}' is no whole number (6.19)", "enum-value")
                built = fold_resize(value, t)
            elif following is None:
                message = f"'{item.name}' follows a name whose value has unknown bits, so it needs a value of its own (6.19)"
                raise self.error(item.pos, message, "enum-value")
            else:
                built = n.Const(t, following & ((1 << t.width) - 1))
            assert isinstance(built, n.Const)
            following = built.val + 1 if not built.unk else None
            if built.val in labels and labels[built.val] != item.name:
                message = f"'{item.name}' has the value of '{labels[built.val]}': the values of an enum differ (6.19)"
                self.context.diagnostics.error(item.pos, message, "enum-value")
            if item.name in labels.values():
                message = f"the enum has a value '{item.name}' already; its names differ (6.19)"
                self.context.diagnostics.error(item.pos, message, "declared-twice")
                continue
            labels[built.val] = item.name
            if self.scope.names.get(item.name) is None or self.scope.positions.get(item.name) != item.pos:
                self.declare(self.scope, item.name, Param(item.name, built, item.pos, shape=shape), item.pos)
        return self._more_dims(shape, tree) if tree.dims else shape

    def declared_name(self, name: str) -> str:
        """The name of a type with where it is declared, as $typename shows it (20.6.1)."""
        place = self.unit.name + ("::" if self.unit.name in self.context.package_units else ".")
        return f"{place}{self.scope.prefix}{name}"

    def _nameless(self, kind: str) -> str:
        self.scope.nameless += 1
        return self.declared_name(f"{kind}${self.scope.nameless}")

    def _struct(self, tree: ast.DataType) -> Shape:
        """A structure or union, laid out in one vector with the first member highest; a member that is a string, a list, a
        real or a handle takes 64 bits, and handles lie at whole words."""
        parts = [(self._member_shape(t, d, tree.packed), d) for t, d in tree.members]
        union = tree.keyword == "union"
        total = _room(parts, union)
        low = total
        fields: dict[str, Field] = {}
        for shape, declared in parts:
            if tree.packed and (not isinstance(shape.type, Vec) or isinstance(shape.type, (Text, List, Handle))):
                raise self.error(
                    declared.pos, f"'{declared.name}' can't be a member of a packed structure (7.2.1)", "struct-member"
                )
            width = width_of(shape.type)
            if union and tree.packed and width != total:
                message = f"the members of a packed union have one width: '{declared.name}' has {width} bits, not {total}"
                raise self.error(declared.pos, message + " (7.3.1)", "union-width")
            if declared.name in fields:
                raise self.error(declared.pos, f"the structure has a member '{declared.name}' already", "declared-twice")
            low -= 0 if union else width
            if _holds_handles(shape):
                low -= low % WORD
            default = member_default(self, shape, declared, tree)
            fields[declared.name] = Field(declared.name, 0 if union else low, shape.type, shape, default)
        four = any(isinstance(s.type, Vec) and s.type.four for s, _ in parts)
        made = Shape(
            Vec(total, bool(tree.signed), four), ((total - 1, 0),), None, fields, loose=not tree.packed, union=union, named=self._nameless(tree.keyword[0])
        )  # fmt: skip
        lists = tuple(low // 8 for low in lists_in(made))
        if not tree.packed and not union:
            begins(self, made)
        if lists or made.initial is not None:
            start = (made.initial.val, made.initial.unk) if isinstance(made.initial, n.Const) else None
            made.type = Bag(total, bool(tree.signed), four, lists, start)
        return self._more_dims(made, tree) if tree.dims else made

    def _member_shape(self, t: ast.DataType, d: ast.Declarator, packed: bool) -> Shape:
        shape = self.shape_with_dims(self.resolve_type(t), d.dims)
        if isinstance(shape.type, EventType):
            raise self.error(d.pos, "an event as a member of a structure is not supported (7.2)", "unsupported")
        if packed and shape.unpacked:
            raise self.error(d.pos, f"'{d.name}' can't be an unpacked array in a packed structure (7.2.1)", "struct-member")
        return packed_up(shape) if shape.unpacked else shape

    def range(self, r: ast.Range) -> tuple[int, int]:
        left = self.constant_int(r.left, "the left bound of a range")
        if r.right is None:
            return 0, left - 1
        return left, self.constant_int(r.right, "the right bound of a range")

    def signal(self, scope: Scope, name: str, shape: Shape, dims: list[ast.Range], kind: str, pos: int, net: str = "") -> Signal:
        shape = self.shape_with_dims(shape, dims)
        left, right = shape.packed[0] if shape.packed else (0, 0)
        if len(shape.packed) > 1 and isinstance(shape.type, Vec):
            left, right = shape.type.width - 1, 0
        made = Signal(
            scope.prefix + name, shape.type, kind, pos, net, left, right, shape.unpacked, ranged=bool(shape.packed),
            packed=shape.packed, labels=shape.labels, parts=parts_of(shape) if shape.fields or len(shape.packed) > 1 else (),
        )  # fmt: skip
        if made.elements > ARRAY_LIMIT:
            raise self.error(pos, f"'{name}' has {made.elements} elements; at most {ARRAY_LIMIT} are supported", "too-large")
        if shape.initial is not None and kind != "net":
            made.init = shape.initial
        self.declare(scope, name, made, pos)
        self.shapes[made] = shape
        if kind == "local":
            self.add_local(made)
        else:
            self.unit.signals.append(made)
        return made


def _holds_handles(shape: Shape) -> bool:
    """Whether a member is, or has in it, what stands for an object, a list or a text."""
    inside = [f.shape for f in shape.fields.values()] + [s for s in (shape.spread, shape.inner) if s is not None]
    return isinstance(shape.type, (Text, List, Handle)) or any(map(_holds_handles, inside))


def _room(parts: list[tuple[Shape, ast.Declarator]], union: bool) -> int:
    """The bits of a structure, with the gaps that put handles at whole words: there the kernel looks for them, and finds lists."""
    handles = any(_holds_handles(s) for s, _ in parts)
    widths = [width_of(s.type) + (WORD - 1 if not union and _holds_handles(s) else 0) for s, _ in parts]
    total = max(widths, default=0) if union else sum(widths)
    return -(-total // WORD) * WORD if handles else total


__all__ = ["Array", "TypeElaborator", "replace"]
