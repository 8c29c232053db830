"""All generated code of the typed half: one function a process, a subprogram, a conversion in a port map; and how it all starts."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any

from mevrik.design import typed as t
from mevrik.engine.layout import Unsupported
from mevrik.engine.typed.bits import MOST
from mevrik.engine.typed.calls import is_register
from mevrik.engine.typed.function import Function, Part, Place, Range, is_composite, register
from mevrik.engine.typed.kernel import BUILT_IN, KERNEL
from mevrik.engine.typed.places import DRIVER_BYTES, inner_dims, open_inside
from mevrik.engine.typed.statements import Statements
from mevrik.engine.typed.values import default_bytes

DEEPEST = 20000  # calls

_WEIGHTS = '!0 = !{!"branch_weights", i32 1, i32 2000}\n!1 = !{!"branch_weights", i32 2000, i32 1}\n'  # of Function.branch
_WRITTEN = [chr(b) if 32 <= b < 127 and b not in (34, 92) else f"\\{b:02X}" for b in range(256)]  # bytes in the text of a constant


class Module:
    """`base`: where the typed storage begins in the memory block; `signals`, `drivers`: where the kernel's tables of them lie; `images`:
    where each driver keeps the value that it wants; `befores`: where each signal keeps the one before its last event; `numbers`: where
    it is noted which number it holds."""

    def __init__(
        self,
        std: Any,
        base: int,
        signals: int = 0,
        drivers: int = 0,
        images: Sequence[int] = (),
        befores: Sequence[int] = (),
        numbers: int = 0,
    ) -> None:
        self.std = std
        self.images, self.befores, self.numbers = images, befores, numbers
        self.base, self.signals, self.drivers = base, signals, drivers
        self.parts: list[str] = []
        self.externals: dict[str, str] = dict(BUILT_IN)
        self.entries: list[str] = []
        self.resolvers = 0
        self.helpers: dict[str, str] = {}
        self._data: dict[bytes, str] = {}
        self._subs: dict[tuple[t.Subprogram, Any], str] = {}
        self._waiting: list[tuple[t.Subprogram, dict[int, t.Subtype], str]] = []
        self._tables: dict[Any, tuple[str, str]] = {}
        self._captured: dict[t.Subprogram, list[t.Object]] = {}
        self._recursive: dict[t.Subprogram, bool] = {}
        self.string_type: t.Subtype = std.string

    # ---- data ----

    def data(self, content: bytes) -> str:
        name = self._data.get(content)
        if name is None:
            name = f"@d{len(self._data)}"
            self._data[content] = name
            text = "".join(map(_WRITTEN.__getitem__, content))
            self.parts.append(f'{name} = private constant [{len(content)} x i8] c"{text}", align 8\n')
        return name

    def string(self, words: str) -> str:
        return self.data(words.encode("latin-1", "replace") + b"\0")

    def names(self, kind: t.Enum, bare: bool = False) -> tuple[str, str]:
        """The literals of an enumeration: a table of offsets and the text. `bare`: without apostrophes."""
        key = (id(kind), bare)
        found = self._tables.get(key)
        if found is None:
            words = [x.lower() if x[0] not in "'\\" else x[1:-1] if bare and x[0] == "'" else x for x in kind.literals]
            text = "".join(words).encode("latin-1")
            offsets = [0]
            for w in words:
                offsets.append(offsets[-1] + len(w))
            found = (self.data(b"".join(o.to_bytes(4, "little") for o in offsets)), self.data(text + b"\0"))
            self._tables[key] = found
        return found

    def units(self, kind: t.Physical) -> tuple[str, str]:
        """The names of units as an array of pointers, and their factors."""
        key = (id(kind), "units")
        found = self._tables.get(key)
        if found is None:
            pointers = ", ".join(f"ptr {self.string(u)}" for u in kind.units)
            name = f"@u{len(self._tables)}"
            self.parts.append(f"{name} = private constant [{len(kind.units)} x ptr] [{pointers}]\n")
            found = (name, self.data(b"".join(v.to_bytes(8, "little") for v in kind.units.values())))
            self._tables[key] = found
        return found

    # ---- subprograms ----

    def uses(self, sub: t.Subprogram) -> None:
        """A function of the kernel."""
        if sub.intrinsic not in self.externals:
            self.externals[sub.intrinsic] = f"{self._result(sub)} ({', '.join(w for w, _ in self._words(sub))})"

    @staticmethod
    def _result(sub: t.Subprogram) -> str:
        return register(sub.result) if sub.result is not None and not is_composite(sub.result) else "void"

    def _words(self, sub: t.Subprogram) -> list[tuple[str, str]]:
        """(type, name) of each LLVM parameter that the parameters of a subprogram take."""
        words: list[tuple[str, str]] = []
        if sub.result is not None and is_composite(sub.result):
            words.append(("ptr", "%ret"))
        for k, p in enumerate(sub.params):
            words += self._object_words(p, f"%p{k}", is_register(p))
        return words

    @staticmethod
    def _object_words(o: t.Object, name: str, in_register: bool) -> list[tuple[str, str]]:
        if in_register:
            return [(register(o.subtype), name)]
        words = [("ptr", name)]
        if o.cls == "signal":
            words += [("i64", f"{name}n"), ("i64", f"{name}a"), ("ptr", f"{name}d")]
        if isinstance(o.subtype.type, t.ArrayType) and (o.kind == "param" or o.subtype.type is not None):
            for i in range(len(o.subtype.type.indexes)):
                words += [("i64", f"{name}l{i}"), ("i64", f"{name}r{i}"), ("i64", f"{name}x{i}")]
        return words

    @staticmethod
    def _object_place(o: t.Object, name: str) -> Place:
        bounds = None
        if isinstance(o.subtype.type, t.ArrayType):
            bounds = [Range(f"{name}l{i}", f"{name}r{i}", f"{name}x{i}") for i in range(len(o.subtype.type.indexes))]
            if o.subtype.bounds is not None and o.subtype.static:
                bounds = [Range(int(b.ints[0]), int(b.ints[1]), int(b.ints[2])) for b in o.subtype.bounds]
        part = Part(f"{name}n", f"{name}a", f"{name}d") if o.cls == "signal" else None
        return Place(name, o.subtype, bounds, part)

    def subprogram(self, sub: t.Subprogram, shapes: dict[int, t.Subtype] | None = None) -> str:
        """The name of its function, which is made when all that was asked for before is. `shapes`: for parameters whose elements have
        no fixed size, by index, what they are in this call: each kind gets a function of its own."""
        shapes = shapes or {}
        key = (sub, tuple((k, shape_key(s)) for k, s in sorted(shapes.items())))
        name = self._subs.get(key)
        if name is None:
            if sub.analyse is not None:
                sub.analyse()
            if sub.body is None:
                raise Unsupported(
                    f"'{sub.text or sub.name}' is called before its body: the body has to stand above what calls it while it is elaborated (14.4.2)"
                )
            name = f"s{len(self._subs)}"
            self._subs[key] = name
            self._waiting.append((sub, shapes, name))
        return name

    def lower_subprograms(self) -> None:
        while self._waiting:
            self._lower(*self._waiting.pop())

    def _lower(self, sub: t.Subprogram, shapes: dict[int, t.Subtype], name: str) -> None:
        f = Function(self, sub, None)
        low = Statements(f)
        head = ["ptr %m"]
        if sub.method_of is not None:
            head.append("ptr %self")
            f.self_ptr = "%self"
        words = self._words(sub)
        for k, p in enumerate(sub.params):
            if is_register(p):
                f.known[p] = f"%p{k}"
            else:
                f.places[p] = self._object_place(p, f"%p{k}")
                if k in shapes:
                    f.places[p].subtype = shapes[k]
        for k, o in enumerate(self.captured(sub)):
            words += self._object_words(o, f"%c{k}", is_register(o))
            if is_register(o):
                f.known[o] = f"%c{k}"
            else:
                f.places[o] = self._object_place(o, f"%c{k}")
        for k, shape in shapes.items():
            if open_inside(shape):  # what the caller knows of it comes as arguments
                names = [f"%h{k}x{i}" for i in range(3 * inner_dims(shape))]
                words += [("i64", x) for x in names]
                ranges = [Range(*names[i : i + 3]) for i in range(0, len(names), 3)]
                f.places[sub.params[k]].subtype = low.shaped(sub.params[k].subtype, ranges)
        f.emit(f"%mark = load ptr, ptr {f.gep('%m', self.base + 16)}")
        if self.recursive(sub):
            at = f.gep("%m", self.base + 32)
            deep = f.op(f"add i64 {f.op(f'load i64, ptr {at}')}, 1")
            f.emit(f"store i64 {deep}, ptr {at}")
            f.fail_if(f.op(f"icmp sgt i64 {deep}, {DEEPEST}"), f"call void @v_deep(i32 {_first_site(sub)})")
        for p in sub.params:
            if (
                p.cls == "variable"
                and p.mode == "out"
                and not isinstance(p.subtype.type, (t.ProtectedType, t.FileType))
                and not sub.intrinsic
            ):
                if isinstance(p.subtype.type, t.AccessType):
                    low.default(f.places[p])
        assert sub.body is not None
        with placed(f):
            low.run(sub.decls)
            low.run(sub.body)
            low.finish()
        params = ", ".join([*head, *(f"{w} {n}" for w, n in words)])
        self.parts.append(f.text(f"define internal {self._result(sub)} @{name}({params})"))

    def captured(self, sub: t.Subprogram) -> list[t.Object]:
        """The objects of enclosing subprograms that it, or one it calls, uses."""
        if sub.enclosing is None:
            return []
        found = self._captured.get(sub)
        if found is None:
            seen: set[t.Subprogram] = set()
            objects: dict[t.Object, None] = {}
            self._collect(sub, seen, objects)
            found = [o for o in objects if o.owner is not sub and _encloses(o.owner, sub)]
            self._captured[sub] = found
        return found

    def _collect(self, sub: t.Subprogram, seen: set[t.Subprogram], objects: dict[t.Object, None]) -> None:
        if sub in seen:
            return
        seen.add(sub)
        if sub.analyse is not None:
            sub.analyse()
        for s in (*sub.decls, *(sub.body or ())):
            for x in walk(s):
                if isinstance(x, t.Ref) and isinstance(x.object.owner, t.Subprogram):
                    objects[x.object] = None
                elif isinstance(x, t.Call) and x.sub.enclosing is not None:
                    self._collect(x.sub, seen, objects)

    def recursive(self, sub: t.Subprogram) -> bool:
        found = self._recursive.get(sub)
        if found is None:
            found = _reaches(sub, sub, set())
            self._recursive[sub] = found
        return found

    # ---- processes ----

    def process(self, p: t.Process) -> int:
        """The number of the function of a process."""
        f = Function(self, None, p)
        low = Statements(f)
        f.site = p.site
        top = f.gep("%m", self.base + 16)
        f.emit(f"%mark = load ptr, ptr {top}")
        with placed(f):
            low.run(p.body)
        if not f.terminated:
            f.emit(f"store ptr %mark, ptr {f.gep('%m', self.base + 16)}")
        low.finish()
        name = f"proc{len(self.entries)}"
        self.parts.append(f.text(f"define i32 @{name}(ptr %m, ptr %frame)"))
        self.entries.append(name)
        return len(self.entries) - 1

    def resolution(self, sub: t.Subprogram, subtype: t.Subtype) -> str:
        """A function that resolves `n` values in line into one: (memory, values, n, result)."""
        f = Function(self, None, None)
        param = sub.params[0].subtype
        vec = f.alloca("[4 x i64]")
        name = self.subprogram(sub)
        last = f.op("sub i64 %n, 1")
        args = f"ptr %values, i64 0, i64 {last}, i64 0"
        assert isinstance(param.type, t.ArrayType)
        left = param.type.indexes[0]
        if isinstance(left.type, t.Integer):
            start = left.range.ints[0] if left.range is not None and left.range.static else 0
            args = f"ptr %values, i64 {start}, i64 {f.op(f'add i64 {last}, {start}')}, i64 0"
        if is_composite(subtype):
            f.emit(f"call void @{name}(ptr %m, ptr {vec}, {args})")
            f.copy("%out", f.op(f"load ptr, ptr {vec}"), t.size_of(subtype))
        else:
            value = f.op(f"call {register(subtype)} @{name}(ptr %m, {args})")
            f.store(value, "%out", subtype)
        f.ret("void")
        self.resolvers += 1
        entry = f"resolve{self.resolvers}"
        self.parts.append(f.text(f"define void @{entry}(ptr %m, ptr %values, i64 %n, ptr %out)"))
        return entry

    def start(self, model: t.Model) -> str:
        """The function that gives all static objects, signals and drivers their first values and elaborates the processes."""
        calls: list[str] = []

        def part(fill: Any) -> None:
            f = Function(self, None, None)
            low = Statements(f)
            fill(f, low)
            f.ret("void")
            name = f"start{len(calls)}"
            calls.append(name)
            self.parts.append(f.text(f"define internal void @{name}(ptr %m)"))

        def constants(f: Function, low: Statements) -> None:
            for o in model.constants:
                low.statement(t.Declare(o.site, o))

        def signals(f: Function, low: Statements) -> None:
            for root in model.roots:
                place = Place(f.static(root.offset), root.subtype, low.ranges(root.subtype))
                if root.init is not None:
                    f.site = root.site
                    low.put(root.init, place)
                else:
                    known = default_bytes(root.subtype)
                    if known is not None and not any(known):
                        continue
                    low.default(place)

        def drivers(f: Function, low: Statements) -> None:
            for root in model.roots:
                for d in root.drivers if root.kind in t.IMPLICIT else ():
                    image = f.op(f"load ptr, ptr {f.gep('%m', self.drivers + d.number * DRIVER_BYTES)}")
                    f.copy(image, f.static(root.offset), root.size)
            for process in model.processes:
                for d in process.drivers.values():
                    image = f.op(f"load ptr, ptr {f.gep('%m', self.drivers + d.number * DRIVER_BYTES)}")
                    f.copy(image, f.static(d.root.offset), d.root.size)
                    for at, _size, o in d.inits:
                        if o.mode not in ("out", "inout", "buffer"):
                            continue
                        to = Place(f.gep(image, at), o.subtype, low.ranges(o.subtype))
                        if o.init is not None:
                            low.put(o.init, to)
                        else:
                            low.default(to)

        part(constants)
        part(signals)
        part(drivers)
        for process in model.processes:
            if process.decls:
                f = Function(self, None, process)
                low = Statements(f)
                f.site = process.site
                with placed(f):
                    low.run(process.decls)
                f.ret("void")
                name = f"start{len(calls)}"
                calls.append(name)
                self.parts.append(f.text(f"define internal void @{name}(ptr %m)"))
        body = "".join(f"  call void @{c}(ptr %m)\n" for c in calls)
        self.parts.append(f"define void @start(ptr %m) {{\n{body}  ret void\n}}\n")
        return "start"

    def number_of(self, root: t.RootSignal | None) -> int:
        """Where it is noted which number a signal of nine values holds; 0 if it can't hold one."""
        if root is None or not self.numbers or not is_vector(root):
            return 0
        return self.numbers + 8 * root.number

    def text(self) -> str:
        self.lower_subprograms()
        declares = []
        for name, kind in self.externals.items():
            result, _, rest = kind.partition(" ")
            declares.append(f"declare {result} @{name}{rest}")
        return KERNEL + "\n".join(declares) + "\n" + "".join(self.helpers.values()) + "".join(self.parts) + _WEIGHTS


def is_vector(root: t.RootSignal) -> bool:
    """Whether a signal is one vector of nine values that can be taken as a number."""
    kind = root.subtype.type
    return isinstance(kind, t.ArrayType) and kind.element.scalar and t.is_nine(root.subtype) and 0 < root.size <= MOST


@contextmanager
def placed(f: Function) -> Iterator[None]:
    """What is not supported is said with its statement."""
    try:
        yield
    except Unsupported as missing:
        missing.site = missing.site or f.site
        raise


def shape_key(s: t.Subtype) -> Any:
    """What makes two subtypes of a type the same in memory."""
    if isinstance(s.type, t.ArrayType):
        bounds = tuple(b.ints for b in s.bounds) if s.bounds is not None and all(b.static for b in s.bounds) else None
        return bounds, shape_key(s.elem)
    if isinstance(s.type, t.RecordType):
        return tuple(shape_key(f) for f in s.field_types())
    return None


def walk(node: Any) -> Any:
    """All expressions and statements below a node, and those in the bounds of what is declared."""
    yield node
    if isinstance(node, t.Declare):
        if node.object.init is not None:
            yield from walk(node.object.init)
        yield from _subtype(node.object.subtype)
        return
    if isinstance(node, t.Ref):
        if isinstance(node.object.owner, t.Subprogram):
            yield from _subtype(node.type)
        return
    for child in t.children(node):
        yield from walk(child)
    of = getattr(node, "of", None)
    if isinstance(of, t.Subtype):
        yield from _subtype(of)


def _subtype(s: t.Subtype) -> Any:
    for b in (*(s.bounds or ()), *((s.range,) if s.range is not None else ())):
        if not b.static:
            yield from walk(b)
            if isinstance(b.down, t.Expr):
                yield from walk(b.down)
    if s.element is not None:
        yield from _subtype(s.element)


def _encloses(outer: Any, sub: t.Subprogram) -> bool:
    here = sub.enclosing
    while here is not None:
        if here is outer:
            return True
        here = here.enclosing
    return False


def _first_site(sub: t.Subprogram) -> int:
    return next((s.site for s in sub.body or () if s.site), 0)


def _reaches(sub: t.Subprogram, wanted: t.Subprogram, seen: set[t.Subprogram]) -> bool:
    for s in (*sub.decls, *(sub.body or ())):
        for x in walk(s):
            if isinstance(x, t.Call) and not x.sub.intrinsic:
                if x.sub is wanted:
                    return True
                if x.sub not in seen:
                    seen.add(x.sub)
                    if x.sub.analyse is not None:
                        x.sub.analyse()
                    if _reaches(x.sub, wanted, seen):
                        return True
    return False
