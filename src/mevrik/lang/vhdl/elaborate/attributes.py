"""Attributes (IEEE 1076-2008 16.2)."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.design.reads import base_of, signal_of
from mevrik.lang.diagnostics import counted, nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.calls import Calls
from mevrik.lang.vhdl.elaborate.scope import Label, Package, Scope, TypeName, Wrong, signature

BOUNDS = ("left", "right", "high", "low", "length", "ascending")
SCALAR = ("pos", "val", "succ", "pred", "leftof", "rightof", "image", "value")
SIGNAL_FLAGS = ("event", "active", "driving")
SIGNAL_TIMES = ("last_event", "last_active")
SIGNAL_VALUES = ("last_value", "driving_value")
SIGNAL_SIGNALS = ("delayed", "stable", "quiet", "transaction")
PATHS = ("path_name", "instance_name", "simple_name")
KNOWN = (
    *BOUNDS,
    *SCALAR,
    *SIGNAL_FLAGS,
    *SIGNAL_TIMES,
    *SIGNAL_VALUES,
    *SIGNAL_SIGNALS,
    *PATHS,
    "range",
    "reverse_range",
    "base",
    "subtype",
    "element",
)


class Attributes(Calls):
    def implicit_signal(self, e: t.Expr, which: str, time: t.Expr | None, pos: int) -> t.Expr:
        raise NotImplementedError

    def attribute_types(self, e: a.Attr) -> list[t.BaseType]:
        std = self.std
        name = e.id
        user = self._user(e)
        if user is not None:
            return [user.type.type]
        if name in PATHS:
            return [std.string.type]
        of = self.as_type(e.prefix)
        if of is not None and name in SCALAR:
            kind = of.subtype.type
            match name:
                case "pos":
                    return [std.universal_integer.type]
                case "image":
                    return [std.string.type]
            return [kind]
        if name in BOUNDS:
            if name == "length":
                return [std.universal_integer.type]
            if name == "ascending":
                return [std.boolean.type]
            if of is not None and not isinstance(of.subtype.type, t.ArrayType):
                return [of.subtype.type]
            subtype = of.subtype if of is not None else self._prefix(e).type
            if isinstance(subtype.type, t.ArrayType):
                return [subtype.type.indexes[self._dimension(e, subtype)].type]
            if subtype.scalar:
                return [subtype.type]
        if name in ("image",):
            return [std.string.type]
        if name in SIGNAL_FLAGS or name in ("stable", "quiet"):
            return [std.boolean.type]
        if name in SIGNAL_TIMES:
            return [std.time.type]
        if name == "transaction":
            return [std.bit.type]
        if name in (*SIGNAL_VALUES, "delayed"):
            return [self._prefix(e).type.type]
        raise self._unknown(e)

    def _unknown(self, e: a.Attr) -> Wrong:
        if e.id in ("range", "reverse_range"):
            return Wrong(e.pos, f"'{e.id} is a range: it stands where a range is needed, as in a loop", "attribute")
        if e.id in BOUNDS:
            return Wrong(e.pos, f"'{e.id} needs an array, or a type with a range (16.2)", "attribute")
        if e.id in KNOWN:
            return Wrong(e.pos, f"'{e.id} is an attribute of other things than this (16.2)", "attribute")
        return Wrong(e.pos, f"there is no attribute '{e.id}' of this name{nearest(e.id, KNOWN)}", "attribute")

    def _prefix(self, e: a.Attr) -> t.Expr:
        value = self.value(e.prefix, None)
        while isinstance(value.type.type, t.AccessType) and e.id in (*BOUNDS, "range", "reverse_range"):
            assert value.type.type.target is not None
            value = t.Deref(value.type.type.target, e.pos, value)
        return value

    def _dimension(self, e: a.Attr, subtype: t.Subtype) -> int:
        dim = 1
        if e.arg is not None:
            dim = int(self.constant(self.value(e.arg, self.std.universal_integer)))
        assert isinstance(subtype.type, t.ArrayType)
        if not 1 <= dim <= len(subtype.type.indexes):
            raise Wrong(e.pos, f"{subtype!r} has {counted(len(subtype.type.indexes), 'dimension')}, not {dim}", "attribute")
        return dim - 1

    def _user(self, e: a.Attr) -> t.Expr | None:
        """The value that an attribute specification gave (7.2)."""
        if not isinstance(e.prefix, (a.Name, a.Select)) or e.id in KNOWN:
            return None
        entities = self.denote(e.prefix) or []
        for entity in self.with_signature(entities, e.signature) if e.signature is not None else entities:
            found: dict[str, t.Expr] | None = getattr(entity, "attributes", None)
            if found and e.id in found:
                return found[e.id]
        key = ("attribute", e.id, getattr(e.prefix, "id", ""))
        scope: Any = self.scope
        while scope is not None:
            there = scope.names.get(key)
            if there:
                return there[0]  # type: ignore[no-any-return]
            scope = scope.parent
        return None

    def attribute(self, e: a.Attr, want: t.Subtype | None) -> t.Expr:
        std, name, pos = self.std, e.id, e.pos
        user = self._user(e)
        if user is not None:
            return user
        if name in PATHS:
            return self._path(e)
        if name in BOUNDS:
            opened = self._open_element(e)
            if opened is not None:
                value, subtype, inside = opened
                return self.bound_of(value, name, self._dimension(e, subtype), pos, subtype, inside)
        of = self.as_type(e.prefix)
        if of is not None:
            return self._of_type(e, of)
        if name in BOUNDS:
            value = self._prefix(e)
            if value.type.scalar:
                return self._of_type(e, TypeName(value.type))
            if not isinstance(value.type.type, t.ArrayType):
                raise Wrong(pos, f"'{name} needs an array; this is {value.type!r}", "attribute")
            return self.bound_of(value, name, self._dimension(e, value.type), pos)
        value = self.value(e.prefix, None)
        if name == "image":
            if not value.type.scalar:
                raise Wrong(pos, f"'image needs a scalar; this is {value.type!r}", "attribute")
            return t.ScalarAttr(std.string, pos, "image", value.type, value)
        if name in (*SIGNAL_FLAGS, *SIGNAL_TIMES, *SIGNAL_VALUES, *SIGNAL_SIGNALS):
            self._need_signal(value, e)
            if name in SIGNAL_SIGNALS:
                time = self.value(e.arg, std.time) if e.arg is not None else None
                return self.implicit_signal(value, name, time, pos)
            kind = std.boolean if name in SIGNAL_FLAGS else std.time if name in SIGNAL_TIMES else value.type
            if (root := signal_of(value)) is not None:
                root.observed = True
                root.wants_parts |= name in ("last_value", "last_event", "last_active", "active")
            return t.SignalAttr(kind, pos, name, value)
        raise self._unknown(e)

    def _need_signal(self, value: t.Expr, e: a.Attr) -> None:
        inner = base_of(value)
        if not (isinstance(inner, t.Ref) and (inner.object.kind == "signal" or inner.object.cls == "signal")):
            raise Wrong(e.pos, f"'{e.id} needs a signal", "attribute")

    def _open_element(self, e: a.Attr) -> tuple[t.Expr, t.Subtype, int] | None:
        """x'element of an object whose elements are unconstrained by their type, so that they are what they are in the object."""
        inside = 0
        prefix: a.Expr = e.prefix
        while isinstance(prefix, a.Attr) and prefix.id == "element":
            inside, prefix = inside + 1, prefix.prefix
        if not inside or self.as_type(prefix) is not None:
            return None
        value = self.value(prefix, None)
        subtype = value.type
        for _ in range(inside):
            if not isinstance(subtype.type, t.ArrayType):
                return None
            subtype = subtype.elem
        return (value, subtype, inside) if isinstance(subtype.type, t.ArrayType) and subtype.bounds is None else None

    def bound_of(self, value: t.Expr, which: str, dim: int, pos: int, of: t.Subtype | None = None, inside: int = 0) -> t.Expr:
        subtype = of if of is not None else value.type
        assert isinstance(subtype.type, t.ArrayType)
        index = subtype.type.indexes[dim]
        if which == "length":
            kind = self.std.universal_integer
        elif which == "ascending":
            kind = self.std.boolean
        else:
            kind = t.Subtype(index.type, index.name)
        if subtype.bounds is not None:
            bounds = subtype.bounds[dim]
            if bounds.static:
                left, right, down = bounds.ints
                table = {
                    "left": left, "right": right, "low": bounds.low, "high": bounds.high, "length": bounds.length, "ascending": int(not down),
                }  # fmt: skip
                return t.Const(kind, pos, table[which])
        return t.BoundOf(kind, pos, value, which, dim, inside)

    def _of_type(self, e: a.Attr, of: TypeName) -> t.Expr:
        std, name, pos, subtype = self.std, e.id, e.pos, of.subtype
        kind = subtype.type
        if isinstance(kind, t.ArrayType) and name in BOUNDS:
            if subtype.bounds is None:
                raise Wrong(pos, f"{subtype!r} is unconstrained: it has no '{name}", "attribute")
            dim = self._dimension(e, subtype)
            bounds = subtype.bounds[dim]
            if not bounds.static:
                hidden = t.Object("", "variable", subtype, pos)
                return t.BoundOf(
                    std.universal_integer
                    if name == "length"
                    else std.boolean
                    if name == "ascending"
                    else subtype.type.indexes[dim],  # type: ignore[attr-defined]
                    pos,
                    t.Ref(subtype, pos, hidden),
                    name,
                    dim,
                )
            return self.bound_of(t.Ref(subtype, pos, t.Object("", "variable", subtype, pos)), name, dim, pos)
        if not subtype.scalar:
            raise Wrong(pos, f"'{name} is no attribute of {subtype!r}", "attribute")
        bounds = self.range_of(subtype, pos)
        if name in ("left", "right"):
            return t.Const(subtype, pos, getattr(bounds, name).value) if bounds.static else getattr(bounds, name)
        if name in ("low", "high", "ascending"):
            if bounds.static:
                value = int(not bounds.down) if name == "ascending" else getattr(bounds, name)
                return t.Const(std.boolean if name == "ascending" else subtype, pos, value)
            if name == "ascending":
                return t.Const(std.boolean, pos, int(not bounds.down))
            return bounds.right if (name == "low") == bool(bounds.down) else bounds.left
        if name in SCALAR:
            if e.arg is None:
                raise Wrong(pos, f"'{name} needs a value in parentheses", "attribute")
            if name == "value":
                return t.ScalarAttr(subtype, pos, name, subtype, self.value(e.arg, std.string))
            base = t.Subtype(kind, kind.name)
            if name == "val":
                arg = self.value(e.arg, None) if not self.fits(e.arg, std.integer.type) else self.value(e.arg, std.integer)
                if isinstance(arg, t.Const) and isinstance(kind, (t.Enum, t.Integer)) and not kind.low <= arg.value <= kind.high:
                    raise Wrong(pos, f"{arg.value} is no position of {subtype!r}, which has {kind.low} to {kind.high}", "range")
                if isinstance(arg, t.Const):
                    return t.Const(subtype, pos, arg.value)
                return t.ScalarAttr(subtype, pos, name, subtype, arg)
            arg = self.value(e.arg, base)
            if name == "pos":
                return (
                    t.Const(std.universal_integer, pos, arg.value)
                    if isinstance(arg, t.Const)
                    else t.ScalarAttr(std.universal_integer, pos, name, subtype, arg)
                )
            if name == "image":
                return t.ScalarAttr(std.string, pos, name, subtype, arg)
            return t.ScalarAttr(subtype, pos, name, subtype, arg)
        raise self._unknown(e)

    def attribute_range(self, e: a.Attr) -> tuple[t.Bounds, t.Subtype] | None:
        """A'range and A'reverse_range."""
        opened = self._open_element(e)
        of = self.as_type(e.prefix) if opened is None else None
        if of is not None and of.subtype.scalar:
            bounds = self.range_of(of.subtype, e.pos)
            index = of.subtype
        else:
            inside = 0
            if opened is not None:
                value, subtype, inside = opened
            else:
                value = self._prefix(e) if of is None else t.Ref(of.subtype, e.pos, t.Object("", "variable", of.subtype, e.pos))
                subtype = value.type
            if not isinstance(subtype.type, t.ArrayType):
                raise Wrong(e.pos, f"'{e.id} needs an array; this is {subtype!r}", "attribute")
            dim = self._dimension(e, subtype)
            index = subtype.type.indexes[dim]
            if of is not None and subtype.bounds is None:
                raise Wrong(e.pos, f"{subtype!r} is unconstrained: it has no range", "attribute")
            if subtype.bounds is not None and (subtype.bounds[dim].static or not isinstance(value, t.Call)):
                bounds = subtype.bounds[dim]
                if not bounds.static:
                    bounds = t.Bounds(self.fixed(bounds.left), self.fixed(bounds.right), bounds.down)
            else:
                bounds = self._bounds_of_value(value, dim, e.pos, subtype, inside)
        if e.id == "reverse_range":
            turned: bool | t.Expr = (
                not bounds.down
                if isinstance(bounds.down, bool)
                else self.fixed(t.Op(self.std.boolean, e.pos, "not", [bounds.down]))
            )
            bounds = t.Bounds(bounds.right, bounds.left, turned)
        return bounds, t.Subtype(index.type, index.name)

    def _bounds_of_value(self, value: t.Expr, dim: int, pos: int, subtype: t.Subtype, inside: int) -> t.Bounds:
        """The bounds that an array value has, as they are now."""
        left = self.fixed(self.bound_of(value, "left", dim, pos, subtype, inside))
        right = self.fixed(self.bound_of(value, "right", dim, pos, subtype, inside))
        up = self.bound_of(value, "ascending", dim, pos, subtype, inside)
        if isinstance(up, t.Const):
            return t.Bounds(left, right, not up.value)
        if self.sub is None:
            return t.Bounds(left, right, not self.constant(up))
        return t.Bounds(left, right, self.fixed(t.Op(self.std.boolean, pos, "not", [up])))

    def object_subtype(self, value: t.Expr, subtype: t.Subtype, pos: int, inside: int = 0) -> t.Subtype:
        """The subtype of an object, `inside` so many arrays, with the bounds that its value has where its type leaves them open."""
        kind = subtype.type
        if isinstance(kind, t.ArrayType):
            bounds = subtype.bounds or [self._bounds_of_value(value, k, pos, subtype, inside) for k in range(len(kind.indexes))]
            elem = subtype.elem
            element = subtype.element if elem.constrained else self.object_subtype(value, elem, pos, inside + 1)
            return t.Subtype(kind, subtype.name, None, bounds, element)
        if isinstance(kind, t.RecordType) and not inside and not subtype.constrained:
            fields = [
                f if f.constrained else self.object_subtype(t.FieldOf(f, pos, value, k), f, pos)
                for k, f in enumerate(subtype.field_types())
            ]
            return t.Subtype(kind, subtype.name, None, None, None, fields)
        return subtype

    def _path(self, e: a.Attr) -> t.Expr:
        """16.2.5: the path in lower case, parted by ':'. What is itself a part of paths has no name after its own element."""
        name = getattr(e.prefix, "id", "")
        if e.id == "simple_name":
            return self.text(name, e.pos)
        which = 0 if e.id == "path_name" else 1
        entity = (self.denote(e.prefix) or [None])[0]
        region = entity.scope if isinstance(entity, (Label, Package)) else None
        if region is not None:
            name = ""
        else:
            region = self._region_of(name, entity, e.prefix)
            if isinstance(entity, t.Subprogram):
                name += signature(entity.params, entity.result) + ":"
            elif isinstance(entity, Label):
                name += ":"
        return self.text(region.paths_to[which] + name, e.pos)

    def _region_of(self, name: str, entity: Any, e: a.Expr) -> Scope:
        """The region that declares what a name denotes."""
        if isinstance(e, a.Select):
            holder = (self.denote(e.prefix) or [None])[0]
            if isinstance(holder, (Label, Package)) and holder.scope is not None:
                return holder.scope
        scope: Scope | None = self.scope
        while scope is not None:
            for region in (scope, *scope.whole):
                if entity in region.direct(name):
                    return region
            scope = scope.parent
        return self.scope

    def text(self, words: str, pos: int) -> t.Expr:
        """A string constant."""
        index = self.std.positive
        bounds = t.Bounds(t.Const(index, pos, 1), t.Const(index, pos, len(words)), False)
        subtype = t.Subtype(self.std.string.type, "string", None, [bounds])
        return t.Data(subtype, pos, words.encode("latin-1", "replace"))
