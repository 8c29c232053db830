"""Calls of functions, system functions and methods; casts (IEEE 1364-2005 10.4 and 17, IEEE 1800-2017 6.24, 13, 20)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.evaluate import MATH
from mevrik.design.types import BIT, INTEGER, REAL, TEXT, Array, Link, List, Real, Text, Type, Vec, width_of
from mevrik.design.unit import Signal, Subprogram
from mevrik.lang.diagnostics import counted, nearest, offered
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.classinfo import Variants
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.events import moment
from mevrik.lang.verilog.elaborate.folding import fold_if_constant, fold_resize
from mevrik.lang.verilog.elaborate.formats import check_formats
from mevrik.lang.verilog.elaborate.lists import LIST_STEPS, LIST_VALUES, ORDERS, falls
from mevrik.lang.verilog.elaborate.randomize import STD_RANDOMIZE, UNSUPPORTED, draw_variables
from mevrik.lang.verilog.elaborate.scope import LetName, Shape, SubDecl
from mevrik.lang.verilog.elaborate.selections import SelectionElaborator
from mevrik.lang.verilog.elaborate.substitute import substituted
from mevrik.lang.verilog.elaborate.texts import STRING_METHODS
from mevrik.lang.verilog.elaborate.typewords import type_words

_UNSIGNED = Vec(32, False, False)
_FLAG = Vec(1, False, False)

# Types of system functions; None: as the argument.
SYSTEM_TYPES: dict[str, Type | None] = {
    "$time": Vec(64), "$stime": Vec(32), "$realtime": REAL, "$random": INTEGER, "$urandom": _UNSIGNED,
    "$urandom_range": _UNSIGNED, "$signed": None, "$unsigned": None, "$clog2": INTEGER, "$bits": INTEGER,
    "$countones": Vec(32, True, False), "$onehot": _FLAG, "$onehot0": _FLAG, "$countbits": Vec(32, True, False),
    "$isunknown": _FLAG, "$rtoi": INTEGER, "$itor": REAL, "$realtobits": Vec(64), "$bitstoreal": REAL,
    "$test$plusargs": INTEGER, "$value$plusargs": INTEGER, "$fopen": INTEGER, "$feof": INTEGER, "$fgetc": INTEGER,
    "$ungetc": INTEGER, "$fgets": INTEGER, "$fscanf": INTEGER, "$sscanf": INTEGER, "$fread": INTEGER, "$fseek": INTEGER,
    "$ftell": INTEGER, "$rewind": INTEGER, "$ferror": INTEGER, "$q_full": INTEGER, "$sformatf": TEXT, "$typename": TEXT, "$isunbounded": _FLAG,
    "$dist_uniform": INTEGER, "$dist_normal": INTEGER, "$dist_exponential": INTEGER, "$dist_poisson": INTEGER,
    "$dist_chi_square": INTEGER, "$dist_t": INTEGER, "$dist_erlang": INTEGER, "$dimensions": INTEGER, "$unpacked_dimensions": INTEGER,
    "$size": INTEGER, "$left": INTEGER, "$right": INTEGER, "$high": INTEGER, "$low": INTEGER, "$increment": INTEGER, "$cast": INTEGER,
    "$sampled": None, "$past": None, "$rose": BIT, "$fell": BIT, "$stable": BIT, "$changed": BIT,
    "$event_number": INTEGER, "$event_happened": _FLAG, "$moment": Vec(64), "$seed_of": INTEGER, "$draw_of": _UNSIGNED, "$draw_range_of": _UNSIGNED,
    "$state_of": TEXT, "$restore_of": INTEGER, "$process_self": INTEGER, "$process_status": INTEGER,
    "$shortrealtobits": Vec(32), "$bitstoshortreal": REAL,
    **dict.fromkeys(MATH, REAL),
}  # fmt: skip
SAMPLED = {"$sampled", "$past", "$rose", "$fell", "$stable", "$changed"}
_QUERIES = {"$size", "$left", "$right", "$high", "$low", "$increment", "$dimensions", "$unpacked_dimensions"}
DISTRIBUTIONS = {
    "$dist_uniform": 2, "$dist_normal": 2, "$dist_exponential": 1, "$dist_poisson": 1, "$dist_chi_square": 1, "$dist_t": 1, "$dist_erlang": 2,
}  # fmt: skip


class CallElaborator(SelectionElaborator):
    # ---- which subprogram, and what its ports take ----

    def argument(self, e: ast.Call, index: int) -> ast.Expr:
        arg = e.args[index] if index < len(e.args) else None
        if arg is None:
            name = e.target.name if isinstance(e.target, ast.Name) else "the function"
            raise self.error(e.pos, f"{name} needs {counted(index + 1, 'argument')}", "arguments")
        return arg

    def link_call(self, e: ast.Call) -> tuple[n.Expr, SubDecl] | None:
        """The virtual interface and the subprogram of a call through it; None for other calls."""
        target = e.target
        if not isinstance(target, ast.Member):
            return None
        shape = self.value_shape(target.base)
        if shape is None or not isinstance(shape.type, Link) or shape.unpacked:
            return None
        link = self.build(target.base, shape.type)
        found = self.through_link(link, target.name, target.pos)
        return (link, found) if isinstance(found, SubDecl) else None

    def called(self, e: ast.Call) -> SubDecl:
        """The function or task that is called, its head elaborated."""
        through = self.link_call(e)
        if through is not None:
            return through[1]
        scope = self.scope.of_call(e.target.name) if isinstance(e.target, ast.Name) else self.scope
        entity, rest = self.resolve(e.target, scope)
        if not isinstance(entity, SubDecl) or rest:
            name = e.target.name if isinstance(e.target, (ast.Name, ast.Member)) else "this"
            if name in UNSUPPORTED:
                raise self.error(e.pos, f"{name} is not supported yet (IEEE 1800-2017 {UNSUPPORTED[name]})", "unsupported")
            hint = self._method_hint(e.target) if isinstance(e.target, ast.Member) else ""
            raise self.error(e.pos, f"'{name}' is no function or task, so it can't be called{hint}", "not-callable")
        self.subprogram(entity)
        return entity

    def check_references(self, decl: SubDecl, e: ast.Call) -> None:
        """What is handed on by reference has the type of the argument: nothing converts it (13.5.2)."""
        ports = decl.tree.ports
        if not any(p.by_reference for p in ports):
            return
        offset = len(decl.sub.ports) - len(ports)
        for port, shape, arg in zip(ports, decl.shapes[offset:], self.arguments(decl.sub, e)[offset:], strict=True):
            given = self.quietly(lambda arg=arg: self.shape_of(arg)) if port.by_reference and arg is not None else None  # type: ignore[misc]
            if given is None or arg is None:
                continue
            a, b = given.whole, shape.whole
            plain = all(isinstance(t, (Real, Text)) or type(t) is Vec for t in (a, b))
            if plain and a != b:
                what = f"of type '{type_words(given)}'" if isinstance(arg, (ast.Name, ast.Member, ast.Index)) else "no variable"
                message = (
                    f"the argument '{port.name}' is a reference to a variable of type '{type_words(shape)}', and this is {what}: "
                    "nothing is converted on the way (13.5.2)"
                )
                raise self.error(arg.pos, message, "ref-type")

    def _method_hint(self, target: ast.Member) -> str:
        """The methods of what a call is made on, if they are those of a list or a string."""
        shape = self.value_shape(target.base)
        if shape is not None and isinstance(shape.whole, (List, Array)):
            if isinstance(shape.whole, Array) and target.name in LIST_STEPS - ORDERS:
                return f": {self.words(target.base)} is an array of fixed size, not a queue or a dynamic array (7.10)"
            known = sorted(LIST_STEPS | LIST_VALUES)
            return offered(target.name, [x for x in known if x.startswith(target.name)] or known)
        if shape is not None and isinstance(shape.type, Text):
            return nearest(target.name, STRING_METHODS)
        return ""

    def arguments(self, sub: Subprogram, e: ast.Call) -> list[ast.Expr | None]:
        """The arguments in the order of the ports, those given by name put in their places (IEEE 1800-2017 13.5.4)."""
        hidden = int(bool(sub.ports) and sub.ports[0].name.endswith(".this"))
        count = len(sub.ports) - hidden
        if len(e.args) > count:
            message = f"'{sub.name}' takes {counted(count, 'argument')}, {len(e.args)} are given"
            raise self.error_of(f"{sub.name}()", e.pos, message, "arguments")
        found: list[ast.Expr | None] = [None] * len(sub.ports)
        places = {p.name.rpartition(".")[2]: k for k, p in enumerate(sub.ports)}
        for index, arg in enumerate(e.args):
            if not isinstance(arg, ast.NamedArg):
                found[index + hidden] = arg
                continue
            if arg.name not in places:
                raise self.error(arg.pos, f"'{sub.name}' has no argument '{arg.name}'{nearest(arg.name, places)}", "arguments")
            found[places[arg.name]] = arg.value
        return found

    def shape_of_call(self, e: ast.Call) -> Shape:
        e = self.draw_of(e)
        if isinstance(e.target, ast.Name) and e.target.name == STD_RANDOMIZE:
            return Shape(INTEGER)
        method = self.shape_of_method(e) or self.shape_of_list_method(e)
        if method is not None:
            return method
        if isinstance(e.target, ast.Name) and e.target.name.startswith("$"):
            return Shape(self._system_type(e, e.target.name))
        own = self.method_of(e)
        if own is not None:
            decl = own[1].decl
            own[1].info.home.subprogram(decl)
        else:
            decl = self.called(e)
        if decl.sub.type is None or decl.shape is None:
            what = "has no value" if own is not None or not decl.tree.is_task else "is a task; only a function has a value"
            raise self.error(e.pos, f"'{decl.sub.name}' {what}", "task-value")
        return decl.shape

    def callee(self, e: ast.Call) -> tuple[SubDecl, tuple[n.Expr, ...], Variants | None]:
        """What a call calls, the object it is called on, and the methods that stand in for it in classes below."""
        own = self.method_of(e)
        if own is None:
            return self.called(e), (), None
        base, method, by_class = own
        method.info.home.subprogram(method.decl)
        obj = self.object_for(base, method, e.pos)
        return method.decl, obj, self.variants(method) if by_class and obj else None

    def build_call(self, e: ast.Call) -> n.Expr:
        e = self.draw_of(e)
        if isinstance(e.target, ast.Name) and e.target.name == STD_RANDOMIZE:
            return draw_variables(self.itself, e)
        if self.method(e) is not None:
            return self.build_method(e)
        if self.shape_of_list_method(e) is not None:
            return self.build_list_method(e)
        if isinstance(e.target, ast.Name) and e.target.name.startswith("$"):
            return self._system_call(e, e.target.name)
        decl, obj, variants = self.callee(e)
        self.check_references(decl, e)
        through = self.link_call(e)
        sub = decl.sub
        t = self.shape_of_call(e).whole
        before, places, after = self.output_places(sub, e)
        values = self.method_arguments(decl, e, obj)
        call = n.Call(
            t,
            sub,
            (*obj, *values),
            e.pos,
            [] if variants is None else variants,
            places,
            through[0] if through is not None else None,
        )
        if not after and not before:
            return call
        result = self.local(t, e.pos)  # what a function gives back to a place in an object or list goes there afterwards
        keep = n.Assign(self.site(e), (whole(result),), call)
        return n.Effect(t, [*before, keep, *after], n.Ref(t, result))

    def output_places(
        self, sub: Subprogram, e: ast.Call
    ) -> tuple[list[n.Stmt], tuple[tuple[n.LRef, ...] | None, ...], list[n.Stmt]]:
        """Where a call puts its output arguments; and the statements before and after it for those that need them."""
        if all(d == "input" for d in sub.directions):
            return [], (), []
        found: list[tuple[n.LRef, ...] | None] = []
        after: list[n.Stmt] = []
        for port, direction, arg in zip(sub.ports, sub.directions, self.arguments(sub, e)):
            if direction == "input" or arg is None:
                found.append(None)
                continue
            found.append(self.output_place(port, arg, self.site(e), after))
        return [], tuple(found), after

    def output_place(self, port: Signal, arg: ast.Expr, site: int, after: list[n.Stmt]) -> tuple[n.LRef, ...]:
        """The place for what comes back from a port; one that lies in an object or list, or is an array, gets it from `after`."""
        if not isinstance(arg, ast.Concat):
            s = self.selected(arg)
            if (
                s.signal is None
                or s.dims
                or s.character is not None
                or isinstance(port.type, List)
                or (s.bits is not None and type(s.type) is not Vec)
            ):
                t: Type = Array(port.type, port.dims) if port.dims else port.type
                aside = self.local(port.type, arg.pos)
                aside.dims = port.dims
                value: n.Expr = n.Ref(t, aside)
                if s.dims and isinstance(port.type, List):
                    value = n.ListArray(Array(s.type, s.dims), value, falls(s.dims))
                elif not s.dims and type(s.type) is Vec:
                    value = self.converted(value, s.type)
                after += self.store(site, arg, value)
                return (n.LRef(aside, None, None, width_of(port.type)),)
        return self.place(arg)

    def converted(self, value: n.Expr, t: Vec) -> n.Expr:
        """A value as an assignment to a vector takes it."""
        if isinstance(value.type, Real):
            return n.ToVec(t, value)
        own = n.vec(value)
        return fold_resize(fold_resize(value, Vec(t.width, own.signed, t.four)), t)

    # ---- system functions ----

    def _system_type(self, e: ast.Call, name: str) -> Type:
        if name not in SYSTEM_TYPES:
            assert isinstance(e.target, ast.Name)
            raise self.unknown_system(e.target)
        t = SYSTEM_TYPES[name]
        if t is None:
            if name in SAMPLED:
                return self.shape(self.argument(e, 0))
            arg = self.vector_type(self.shape(self.argument(e, 0)), e)
            return Vec(arg.width, name == "$signed", arg.four)
        return t

    def vector_type(self, t: Type, e: ast.Expr) -> Vec:
        if isinstance(t, Text):
            raise self.error(
                e.pos,
                f"{self.words(e)} is a string; this takes numbers, and a cast makes one of its characters (6.16)",
                "operand-type",
            )
        if isinstance(t, Vec) and not isinstance(t, List):
            return t
        if isinstance(t, (Array, List)):
            name = self.words(e)
            message = f"{name} is an array: select one element to use its value"
            raise self.error(e.pos, message, "array-value")
        what = "a real number" if isinstance(t, Real) else "an event"
        raise self.error(e.pos, f"this operator can't take {what}; it works on bits", "operand-type")

    def unknown_system(self, target: ast.Name) -> Abandon:
        hint = nearest(target.name, SYSTEM_TYPES)
        return self.error(target.pos, f"the system function {target.name} is not supported{hint}", "unsupported")

    def _system_call(self, e: ast.Call, name: str) -> n.Expr:
        t = self._system_type(e, name)
        if name == "$sformatf":
            return self.formatted(e.args, e.pos)
        if name in SAMPLED:
            return self.sampled_call(e, name)
        if name == "$bits":
            return self._bits(e)
        if name in _QUERIES:
            return self._array_query(e, name)
        if name == "$typename":
            return n.TextConst(TEXT, type_words(self._shape_or_type(self.argument(e, 0))).encode())
        if name == "$moment":
            return moment(self.itself)
        if name == "$isunbounded":
            return n.Const(_FLAG, 0)
        if name == "$cast":
            return self.cast_call(e)
        if name in ("$signed", "$unsigned"):
            arg_type = self.vector_type(self.shape(self.argument(e, 0)), e)
            value = self.build(self.argument(e, 0), arg_type)
            return fold_resize(value, Vec(arg_type.width, name == "$signed", arg_type.four))
        if name in ("$fscanf", "$sscanf", "$fgets", "$fread", "$value$plusargs", "$ferror"):
            return self._reading_call(e, name)
        if name == "$q_full":
            return self._full_queue(e)
        if (name == "$random" and e.args) or name in DISTRIBUTIONS:
            seed = self.place(self.argument(e, 0))
            numbers = tuple(self.for_target(self.argument(e, k + 1), INTEGER) for k in range(DISTRIBUTIONS.get(name, 0)))
            return n.SysCall(INTEGER, name, (*seed, *numbers), e.pos)
        if name in MATH or name in ("$rtoi", "$realtobits", "$shortrealtobits"):
            reals = tuple(self.for_target(a, REAL) for a in e.args if a is not None)
            if not reals:
                self.argument(e, 0)
            if name == "$shortrealtobits":
                return n.SysCall(t, name, reals, e.pos)
            return fold_if_constant(n.SysCall(t, name, reals, e.pos))
        if name == "$countbits":
            value = self.expr(self.argument(e, 0))
            chosen = tuple(self.for_target(a, BIT) for a in e.args[1:] if a is not None)
            return n.SysCall(t, name, (value, *chosen), e.pos)
        args = tuple(self.expr(a) for a in e.args if a is not None)
        if name == "$itor":
            return self.to_real(args[0]) if args else n.RealConst(REAL, 0.0)
        if name in ("$clog2", "$countones", "$onehot", "$onehot0", "$isunknown", "$bitstoreal", "$bitstoshortreal") and not args:
            self.argument(e, 0)
        note = self.time_unit() if name in ("$time", "$stime", "$realtime") else 0
        call = n.SysCall(t, name, args, e.pos, note)
        return fold_if_constant(call) if args and name in ("$clog2", "$countones", "$onehot", "$onehot0") else call

    def to_real(self, e: n.Expr) -> n.Expr:
        raise NotImplementedError

    def sampled_call(self, e: ast.Call, name: str) -> n.Expr:
        raise NotImplementedError

    def let_value(self, e: ast.Expr) -> ast.Expr | None:
        """What a let stands for, with its arguments put in; None if the expression names none (11.12)."""
        target = e.target if isinstance(e, ast.Call) else e
        if not isinstance(target, ast.Name):
            return None
        found = self.scope.find(target.name)
        if found is None or not isinstance(found[0], LetName):
            return None
        tree = found[0].tree
        return substituted(self, tree.value, tree.name, tree.ports, e.args if isinstance(e, ast.Call) else [], e.pos)

    def formatted(self, args: list[ast.Expr | None], pos: int, radix: str = "", first_is_format: bool = True) -> n.Expr:
        """The text that a format and its arguments make (21.3.3). `radix` (b, o, h) is that of values without a conversion."""
        check_formats(args, self.context.diagnostics, first_is_format)
        space = n.Const(Vec(8), 32, 0, True)  # an argument that is left out is a space (17.1.1)
        built = [space if a is None else a for a in self.print_arguments(args)]
        first = built[0] if built and first_is_format else None
        if first is not None and not isinstance(first.type, (Text, Real)) and not (isinstance(first, n.Const) and first.text):
            built[0] = n.SysCall(TEXT, "$text_from", (first,), pos)  # a variable that holds the format
        name = f"$text_{'format' if first_is_format else 'print'}{radix}"
        return n.SysCall(TEXT, name, tuple(built), pos, self.time_unit(), self.scope.prefix)

    def print_arguments(self, args: list[ast.Expr | None]) -> list[n.Expr | None]:
        raise NotImplementedError

    def _reading_call(self, e: ast.Call, name: str) -> n.Expr:
        """Functions that write what they read into their arguments; those that are no plain variables get it by way of hidden ones."""
        steps: list[n.Stmt] = []
        args: list[n.Expr | n.LRef] = []

        def target(arg: ast.Expr) -> None:
            s = self.selected(arg)
            if s.dims and s.signal is not None and name == "$fread":
                args.append(n.LRef(s.signal, None, None, s.width))
                return
            hidden = Signal(f"{self.scope.prefix}{name[1:]}.{len(self.unit.signals)}", s.type, "var", arg.pos, implicit=True)
            hidden.left = width_of(s.type) - 1
            self.unit.signals.append(hidden)
            old = n.Assign(self.site(e), (whole(hidden),), self.read_selected(s))
            steps.append(old)
            args.append(whole(hidden))
            after.extend(self.store(self.site(e), arg, n.Ref(hidden.type, hidden)))

        after: list[n.Stmt] = []
        if name in ("$fgets", "$fread"):
            target(self.argument(e, 0))
            args += [self.for_target(self.argument(e, k), INTEGER) for k in range(1, len(e.args)) if e.args[k] is not None]
            if len(args) < 2:
                self.argument(e, 1)
        elif name in ("$fscanf", "$sscanf", "$value$plusargs"):
            first = self.argument(e, 0)
            args.append(self.for_target(first, INTEGER) if name == "$fscanf" else self.expr(first))
            if name == "$value$plusargs":
                self.argument(e, 1)
            else:
                args.append(self.expr(self.argument(e, 1)))
            for arg in e.args[1 if name == "$value$plusargs" else 2 :]:
                if arg is not None:
                    target(arg)
        else:
            args.append(self.for_target(self.argument(e, 0), INTEGER))
            target(self.argument(e, 1))
        result = self.local(INTEGER, e.pos)
        call = n.SysCall(INTEGER, name, tuple(args), e.pos)
        keep = n.Assign(self.site(e), (whole(result),), call)
        return n.Effect(INTEGER, [*steps, keep, *after], n.Ref(INTEGER, result))

    def store_number(self, site: int, target: ast.Expr, value: n.Expr) -> list[n.Stmt]:
        """The statements that write a number into a target of whatever width, or a real one."""
        t = self.shape(target)
        fitted = self.to_real(value) if isinstance(t, Real) else fold_resize(value, self.vector_type(t, target))
        return self.store(site, target, fitted)

    def _full_queue(self, e: ast.Call) -> n.Expr:
        """$q_full(queue, status): 1 where the queue takes no more jobs (IEEE 1364-2005 17.6.4)."""
        queue = self.local(Vec(64, True, False), e.pos)
        number = n.Ref(queue.type, queue)
        keep = n.Assign(self.site(e), (whole(queue),), self.for_target(self.argument(e, 0), queue.type))
        status = self.store_number(self.site(e), self.argument(e, 1), n.SysCall(INTEGER, "q_known", (number,), e.pos))
        return n.Effect(INTEGER, [keep, *status], n.SysCall(INTEGER, "q_full", (number,), e.pos))

    def _shape_or_type(self, arg: ast.Expr) -> Shape:
        return self.type_meant(arg) or self.shape_of(arg)

    def _bits(self, e: ast.Call) -> n.Expr:
        """The bits of a type or value; of what varies in size, as it is now (20.6.2)."""
        arg = self.argument(e, 0)
        t = self._shape_or_type(arg).type
        if isinstance(t, List) and not isinstance(arg, ast.TypeExpr):
            each, count = width_of(t.element), self._list_query("$size", self.build(arg, t))
        elif isinstance(t, Text) and not isinstance(arg, ast.TypeExpr):
            length = ast.Call(e.pos, ast.Member(e.pos, arg, "len"), [])
            each, count = 8, self.build(length, INTEGER)
        else:
            return n.Const(INTEGER, self._bits_of(arg))
        return n.Binary(INTEGER, "*", count, n.Const(INTEGER, each))

    def _bits_of(self, arg: ast.Expr) -> int:
        shape = self._shape_or_type(arg)
        t = shape.whole
        if isinstance(t, Array):
            return t.count * width_of(t.element)
        return 64 if isinstance(t, Real) else self.vector_type(t, arg).width

    def _array_query(self, e: ast.Call, name: str) -> n.Expr:
        arg = self.argument(e, 0)
        shape = self._shape_or_type(arg)
        dims = list(shape.unpacked)
        inner = shape
        while inner.inner is not None and not isinstance(inner.type, List):
            inner = inner.inner
        if isinstance(shape.type, List):
            which = self.constant_int(self.argument(e, 1), "the dimension") if len(e.args) > 1 else 1
            if which == len(dims) + 1 and name not in ("$dimensions", "$unpacked_dimensions"):
                return self._list_query(name, self.build(arg, shape.type))
        if name == "$unpacked_dimensions":
            return n.Const(INTEGER, len(dims) + int(isinstance(shape.type, List)))
        dims += shape.packed
        if name == "$dimensions":
            return n.Const(INTEGER, len(dims) + int(isinstance(shape.type, (List, Text))))
        if not dims:
            return n.Const(INTEGER, 1 if name in ("$size", "$increment") else 0)
        which = self.constant_int(self.argument(e, 1), "the dimension") - 1 if len(e.args) > 1 else 0
        if not 0 <= which < len(dims):
            return n.Const(INTEGER, (1 << 32) - 1, (1 << 32) - 1)
        left, right = dims[which]
        value = {
            "$size": abs(left - right) + 1,
            "$left": left,
            "$right": right,
            "$high": max(left, right),
            "$low": min(left, right),
            "$increment": 1 if left >= right else -1,
        }[name]
        return n.Const(INTEGER, value & 0xFFFFFFFF)

    def _list_query(self, name: str, of: n.Expr) -> n.Expr:
        size = n.ListValue(INTEGER, "size", of, ())
        if name == "$size":
            return size
        if name in ("$right", "$high"):
            return n.Binary(INTEGER, "-", size, n.Const(INTEGER, 1))
        return n.Const(INTEGER, 0xFFFFFFFF if name == "$increment" else 0)

    # ---- casts ----

    def cast_call(self, e: ast.Call) -> n.Expr:
        raise NotImplementedError


def span(left: int, right: int) -> range:
    """The indexes of a range from its left to its right bound."""
    return range(left, right + 1) if right >= left else range(left, right - 1, -1)


def number(pos: int, value: int) -> ast.Expr:
    """A whole number as a syntax tree."""
    made = ast.Number(pos, None, True, abs(value), 0)
    return ast.Unary(pos, "-", made) if value < 0 else made
