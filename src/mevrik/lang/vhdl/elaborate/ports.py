"""Ports and what is connected to them (IEEE 1076-2008 6.5.6.3, 6.5.7)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.design.reads import base_of, signals_read, static_part, unique
from mevrik.lang.diagnostics import counted, nearest
from mevrik.lang.source import SourceMap
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.declarations import Declarations
from mevrik.lang.vhdl.elaborate.scope import (
    Broken,
    Scope,
    Wrong,
)


class Ports(Declarations):
    sources: SourceMap
    instance: t.Instance | None  # the one that is being elaborated

    # ---- ports (6.5.6.3, 6.5.7) ----

    def ports(
        self,
        ports: list[a.ObjectDecl],
        port_map: list[a.Assoc] | None,
        scope: Scope,
        here: t.Instance,
        pos: int,
        what: str,
        path: str,
    ) -> None:
        flat = [(name, text, at, d) for d in ports for name, text, at in d.names]
        mark = self.mark()
        whole, parts = self._associate(flat, port_map or [], what)
        wrong = self.failed_since(mark)  # then what is missing is its consequence
        for name, text, at, d in flat:
            with self.careful():
                assert d.subtype is not None
                with self.inside(scope):
                    subtype = self.subtype(d.subtype)
                    init = self.value(d.init, subtype) if d.init is not None else None
                o = t.Object(name, "signal", subtype, at, text, d.mode, init=init, bus=d.bus)
                try:
                    if name in parts:
                        self._port_in_parts(o, parts[name], scope, here, path)
                    else:
                        self._port(o, whole.get(name), here, path, pos, what, port_map is None or wrong)
                finally:
                    scope.declare(name, o, at, text)
                    here.ports.append(o)
            if name not in scope.names:
                scope.declare(name, Broken(name), at, text)

    def _associate(
        self, flat: list[tuple[str, str, int, a.ObjectDecl]], port_map: list[a.Assoc], what: str
    ) -> tuple[dict[str, a.Assoc], dict[str, list[a.Assoc]]]:
        names = [f[0] for f in flat]
        spelled = {f[0]: f[1] for f in flat}
        whole: dict[str, a.Assoc] = {}
        parts: dict[str, list[a.Assoc]] = {}
        for k, item in enumerate(port_map):
            with self.careful():
                if not item.choices:
                    if k >= len(flat):
                        raise Wrong(item.pos, f"{what} has {counted(len(flat), 'port')}; this is one too many", "port")
                    name = names[k]
                else:
                    formal = item.choices[0]
                    base: a.Expr = formal
                    while True:
                        if isinstance(base, a.Apply):
                            inner = base.args[0].value if len(base.args) == 1 else None
                            named = isinstance(base.prefix, (a.Name, a.Select)) and not (
                                isinstance(base.prefix, a.Name) and base.prefix.id in names
                            )
                            if named and isinstance(inner, (a.Name, a.Apply, a.Select)):
                                base = inner  # a conversion of the formal
                                continue
                            base = base.prefix
                        elif isinstance(base, a.Select):
                            base = base.prefix
                        else:
                            break
                    name = base.id if isinstance(base, a.Name) else ""
                    if name not in names:
                        shown = getattr(base, "text", "") or "this"
                        hint = nearest(name, names)
                        if hint:
                            hint = f"; did you mean '{spelled[hint.split(chr(39))[1]]}'?"
                        elif isinstance(item.value, a.Name) and item.value.id in names:
                            hint = f"; the formal port stands left of '=>': {item.value.text} => {shown}"
                        else:
                            hint = f"; its ports are {', '.join(spelled.values())}" if flat else ""
                        raise Wrong(base.pos, f"{what} has no port '{shown}' (the formal of this association){hint}", "port")
                    if not isinstance(formal, a.Name) and self._is_part(formal, name):
                        parts.setdefault(name, []).append(item)
                        continue
                if name in whole or name in parts:
                    raise Wrong(item.pos, f"port '{spelled[name]}' is connected twice", "port")
                whole[name] = item
        return whole, parts

    @staticmethod
    def _is_part(formal: a.Expr, name: str) -> bool:
        """Whether a formal is an element, slice or element of a record of a port, not a conversion of it."""
        base = formal
        while isinstance(base, a.Select):
            base = base.prefix
        if isinstance(base, a.Apply):
            inner: a.Expr = base.prefix
            while isinstance(inner, (a.Select, a.Apply)):
                inner = inner.prefix
            return isinstance(inner, a.Name) and inner.id == name
        return isinstance(base, a.Name) and base.id == name

    def _own(self, o: t.Object, path: str, pos: int) -> None:
        """A port with storage of its own."""
        if not o.subtype.static:
            raise Wrong(pos, f"port '{o.text}' is unconstrained: it needs a connection that gives it bounds", "unconstrained")
        outer, self.path = self.path, path
        o.signal = t.SignalPart(self.root_signal(o))
        self.path = outer

    def _port(self, o: t.Object, item: a.Assoc | None, here: t.Instance, path: str, pos: int, what: str, top: bool) -> None:
        if item is None or isinstance(item.value, a.Open):
            if not top:
                where = item.pos if item is not None else pos
                if o.mode == "in" and o.init is None:
                    raise Wrong(where, f"the input '{o.text}' of {what} is connected to nothing and has no default", "unconnected")
                if not o.subtype.constrained and o.init is None:
                    raise Wrong(where, f"port '{o.text}' is unconstrained: it can't be left open", "unconstrained")
            if not o.subtype.constrained and o.init is not None:
                o.subtype = self.shape_of(o.init, o.subtype)
            self._own(o, path, pos)
            return
        formal = item.choices[0] if item.choices else None
        if isinstance(formal, a.Apply):
            self._converted(o, item, formal, path)
            return
        kinds = self.types(item.value)
        if not any(self.agrees(k, o.subtype.type) for k in kinds):
            raise Wrong(
                item.value.pos,
                f"port '{o.text}' of {what} is of type {o.subtype!r}; what is connected is {self.describe(item.value)}",
                "type",
            )
        actual = self.value(item.value, o.subtype)
        part = static_part(actual)
        inner = base_of(actual)
        is_name = part is not None and isinstance(inner, t.Ref) and self._wholly_static(actual)
        if is_name and part is not None:
            assert isinstance(inner, t.Ref)
            self._direction(o, inner, item, what)
            if not o.subtype.constrained:
                o.subtype = t.Subtype(
                    o.subtype.type, o.subtype.name, None, actual.type.bounds, actual.type.element, actual.type.fields
                )
            else:
                self.check_value(actual, o.subtype, item.value.pos)
            if part[2] != t.size_of(o.subtype):
                raise Wrong(item.value.pos, f"port '{o.text}' and what is connected to it are of different sizes", "length")
            o.signal = t.SignalPart(part[0].root, part[1])
            return
        if o.mode not in ("in",):
            conversion = isinstance(actual, (t.Call, t.Convert))
            if conversion and o.mode != "out":
                raise Wrong(
                    item.value.pos, f"port '{o.text}' of mode {o.mode} can't be connected through a conversion here", "unsupported"
                )
            raise Wrong(item.value.pos, f"port '{o.text}' is of mode {o.mode}: it needs a signal, not an expression", "port")
        if not o.subtype.constrained:
            o.subtype = self.shape_of(actual, o.subtype)
        self.check_value(actual, o.subtype, item.value.pos)
        reads = unique(signals_read(actual))
        self._own(o, path, item.pos)
        assert o.signal is not None
        if not reads:
            o.init = actual
            o.signal.root.init = actual
            return
        conversion = len(reads) == 1 and isinstance(actual, (t.Call, t.Convert)) and static_part(_argument(actual)) is not None
        self._link(t.Ref(o.subtype, item.pos, o), actual, reads, item.pos, "link" if conversion else "process", path)

    def _wholly_static(self, e: t.Expr) -> bool:
        while True:
            match e:
                case t.Index(indexes=indexes):
                    if not all(isinstance(i, t.Const) for i in indexes):
                        return False
                case t.Slice(bounds=bounds):
                    if not bounds.static:
                        if self.sub is None:
                            e.bounds = t.Bounds(self.known(bounds.left), self.known(bounds.right), bounds.down)
                            e.type.bounds = [e.bounds]
                            continue
                        return False
                case t.Ref():
                    return True
                case t.FieldOf():
                    pass
                case _:
                    return False
            e = e.a

    def _direction(self, o: t.Object, actual: t.Ref, item: a.Assoc, what: str) -> None:
        """6.5.6.3: what a port may be connected to, by mode."""
        outer = actual.object.mode
        if o.mode in ("out", "inout", "buffer") and outer == "in":
            raise Wrong(
                item.value.pos,
                f"'{actual.object.text}' is an input here: it can't be driven by port '{o.text}' of {what}",
                "mode-in",
            )

    def _converted(self, o: t.Object, item: a.Assoc, formal: a.Apply, path: str) -> None:
        """conversion(formal) => actual: the output goes through a conversion (6.5.7.1)."""
        if o.mode not in ("out", "buffer"):
            raise Wrong(item.pos, f"a conversion of the formal is for outputs; '{o.text}' is of mode {o.mode}", "port")
        target = self.target(item.value, "signal")
        if not o.subtype.constrained:
            raise Wrong(item.pos, f"port '{o.text}' is unconstrained: its bounds can't come through a conversion", "unconstrained")
        self._own(o, path, item.pos)
        inner = Scope(self.scope, "")
        inner.names[o.name] = [o]
        with self.inside(inner):
            value = self.value(formal, self.plain(target.type.type))
        self._link(target, value, [t.Ref(o.subtype, item.pos, o)], item.pos, "link", self.path)

    def _link(self, target: t.Expr, value: t.Expr, reads: list[t.Expr], pos: int, kind: str, path: str) -> None:
        process = t.Process(
            f"_port_{self.sources.place(pos).line}", path, pos, self.site(a.Node(pos)), sensitivity=reads, kind=kind
        )
        process.body = [t.SignalAssign(process.site, target, "inertial", None, [t.Wave(value, None)])]
        with self.inside(self.scope, process=process):
            self.drive(target, pos)
        self.shared.processes.append(process)

    def _port_in_parts(self, o: t.Object, items: list[a.Assoc], scope: Scope, here: t.Instance, path: str) -> None:
        """Elements and slices of a port connected one by one (6.5.7.1): by copies in the moment of the update."""
        if not o.subtype.static:
            o.subtype = self._bounds_of_parts(o, items)
        self._own(o, path, items[0].pos)
        holder = Scope(self.scope, "")
        holder.names[o.name] = [o]
        taken = 0
        for item in items:
            with self.inside(holder):
                formal = self.value(item.choices[0], None)
            taken += t.scalars_of(formal.type) if formal.type.static else 0
            if isinstance(item.value, a.Open):
                raise Wrong(
                    item.value.pos,
                    f"a part of port '{o.text}' can't be open: all of its elements are connected, or none (6.5.6.3)",
                    "port",
                )
            if o.mode == "in":
                actual = self.value(item.value, formal.type)
                self.check_value(actual, formal.type, item.value.pos)
                reads = unique(signals_read(actual))
                if not reads:
                    self._link(formal, actual, [], item.pos, "process", path)
                else:
                    self._link(formal, actual, reads, item.pos, "link", path)
            else:
                target = self.target(item.value, "signal")
                if target.type.type is not formal.type.type:
                    raise Wrong(item.value.pos, f"{formal.type!r} is needed here; this is {target.type!r}", "type")
                self._link(target, formal, [formal], item.pos, "link", self.path)
        if taken < t.scalars_of(o.subtype):
            raise Wrong(
                items[0].pos, f"some elements of port '{o.text}' are connected to nothing: all are, or none (6.5.6.3)", "port"
            )

    def _bounds_of_parts(self, o: t.Object, items: list[a.Assoc]) -> t.Subtype:
        """An unconstrained port takes its bounds from the indexes that are connected, a record from what its elements get."""
        kind = o.subtype.type
        if isinstance(kind, t.RecordType):
            return self._record_of_parts(o, kind, items)
        assert isinstance(kind, t.ArrayType)
        low: int | None = None
        high: int | None = None
        down = True
        for item in items:
            formal = item.choices[0]
            if not isinstance(formal, a.Apply) or len(formal.args) != 1:
                raise Wrong(item.pos, f"port '{o.text}' is unconstrained; connect it whole", "unconstrained")
            arg = formal.args[0].value
            if self._is_range(arg):
                bounds, _ = self.bounds(arg, kind.indexes[0])
                values, down = [bounds.low, bounds.high], bounds.ints[2]
            else:
                values = [self.constant(self.value(arg, kind.indexes[0]))]
            low = min([*values, low] if low is not None else values)
            high = max([*values, high] if high is not None else values)
        index = kind.indexes[0]
        a_, b_ = t.Const(index, o.pos, low), t.Const(index, o.pos, high)
        return t.Subtype(
            kind, o.subtype.name, None, [t.Bounds(b_, a_, True) if down else t.Bounds(a_, b_, False)], o.subtype.element
        )

    def _record_of_parts(self, o: t.Object, kind: t.RecordType, items: list[a.Assoc]) -> t.Subtype:
        fields: list[t.Subtype] = []
        for name, of in zip((f.name for f in kind.fields), o.subtype.field_types(), strict=True):
            if not of.static:
                item = next((i for i in items if isinstance(i.choices[0], a.Select) and i.choices[0].id == name), None)
                if item is None or isinstance(item.value, a.Open):
                    raise Wrong(
                        items[0].pos, f"element '{name}' of port '{o.text}' is unconstrained; connect it whole", "unconstrained"
                    )
                of = self.value(item.value, self.plain(of.type)).type
                if not of.static:
                    raise Wrong(item.value.pos, f"the bounds of element '{name}' can't be told from this", "unconstrained")
            fields.append(of)
        return t.Subtype(kind, o.subtype.name, None, None, None, fields)


def _argument(e: t.Expr) -> t.Expr:
    return e.a if isinstance(e, t.Convert) else e.args[0] if isinstance(e, t.Call) and e.args else e
