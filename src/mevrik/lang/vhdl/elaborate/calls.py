"""Overload resolution: which subprogram a call means (IEEE 1076-2008 12.5), and the predefined operators (9.2)."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.design.reads import signal_of
from mevrik.lang.diagnostics import counted
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.base import ANY_AGGREGATE, ANY_NULL, AnyText
from mevrik.lang.vhdl.elaborate.fold import fold
from mevrik.lang.vhdl.elaborate.scope import GenericSubprogram, Literal, Quiet, Wrong
from mevrik.lang.vhdl.elaborate.subtypes import Subtypes

LOGICAL = ("and", "or", "nand", "nor", "xor", "xnor")
COMPARE = ("=", "/=", "<", "<=", ">", ">=")
MATCH = ("?=", "?/=", "?<", "?<=", "?>", "?>=")
SHIFTS = ("sll", "srl", "sla", "sra", "rol", "ror")
BUILTIN = ("minimum", "maximum", "to_string", "rising_edge", "falling_edge")

Bound = list["a.Expr | None"]
_NO_VALUES = (a.Open, a.Range, a.SubtypeInd, a.Box)


def is_char_enum(kind: t.BaseType) -> bool:
    return isinstance(kind, t.Enum) and any(x[0] == "'" for x in kind.literals)


def vector_of(kind: t.BaseType) -> t.BaseType | None:
    """The element type of a one-dimensional array."""
    return kind.element.type if isinstance(kind, t.ArrayType) and len(kind.indexes) == 1 else None


def _becomes_others(kind: t.BaseType) -> bool:
    """Whether a value of this type can stand where another type is wanted (see `agrees`)."""
    if isinstance(kind, (t.Integer, t.Floating)):
        return kind.universal
    return isinstance(kind, AnyText) or kind is ANY_AGGREGATE or kind is ANY_NULL


class Calls(Subtypes):
    # ---- types and their agreement ----

    def agrees(self, kind: t.BaseType, want: t.BaseType) -> bool:
        """Whether a value of a type can stand where another is wanted: the same, or one that converts implicitly (9.3.6)."""
        if kind is want:
            return True
        if isinstance(kind, (t.Integer, t.Floating)):
            return self._universal(kind, want)
        if isinstance(kind, AnyText):
            element = vector_of(want)
            return isinstance(element, t.Enum) and kind.chars <= _chars(element)
        if kind is ANY_AGGREGATE:
            return isinstance(want, (t.ArrayType, t.RecordType))
        if kind is ANY_NULL:
            return isinstance(want, t.AccessType)
        return False

    def fits(self, e: a.Expr, want: t.BaseType) -> bool:
        return any(self.agrees(kind, want) for kind in self.types(e))

    def is_logic(self, kind: t.BaseType | None) -> bool:
        """bit, boolean or the nine values."""
        return kind is self.std.bit.type or kind is self.std.boolean.type

    @staticmethod
    def is_nine(kind: t.BaseType | None) -> bool:
        return isinstance(kind, t.Enum) and kind.name == "std_ulogic" and len(kind.literals) == 9

    # ---- calls ----

    def bind(self, params: list[t.Object], args: list[a.Assoc]) -> Bound | None:
        """The actual for each parameter (None: its default), or None if they can't be associated."""
        if not any(arg.choices for arg in args):  # most often
            if len(args) > len(params):
                return None
            bound: Bound = [None if isinstance(arg.value, a.Open) else arg.value for arg in args]
            bound += [None] * (len(params) - len(args))
            for p, b in zip(params, bound, strict=True):
                if b is None and p.init is None and p.default is None:
                    return None
            return bound
        bound = [None] * len(params)
        named = False
        for k, arg in enumerate(args):
            if arg.choices:
                named = True
                if len(arg.choices) != 1 or not isinstance(arg.choices[0], a.Name):
                    return None
                index = next((i for i, p in enumerate(params) if p.name == arg.choices[0].id), -1)
                if index < 0 or bound[index] is not None:
                    return None
            else:
                if named or k >= len(params):
                    return None
                index = k
            if not isinstance(arg.value, a.Open):
                bound[index] = arg.value
        for p, b in zip(params, bound, strict=True):
            if b is None and p.init is None and p.default is None:
                return None
        return bound

    def matching(self, candidates: list[Any], args: list[a.Assoc], function: bool) -> list[tuple[t.Subprogram, Bound]]:
        found: list[tuple[t.Subprogram, Bound]] = []
        count = len(args)
        if count and all(not arg.choices and not isinstance(arg.value, _NO_VALUES) for arg in args):
            return self._matching_in_order(candidates, [arg.value for arg in args], function)
        for sub in candidates:
            if not isinstance(sub, t.Subprogram) or sub.function != function or count > len(sub.params):
                continue
            bound = self.bind(sub.params, args)
            if bound is None:
                continue
            for b, p in zip(bound, sub.params, strict=True):
                if b is not None and not self._fits_param(b, p):
                    break
            else:
                found.append((sub, bound))
        return found

    def _matching_in_order(self, candidates: list[Any], values: list[a.Expr], function: bool) -> list[tuple[t.Subprogram, Bound]]:
        """The same for plain values one behind the other: the kinds of each are asked for once."""
        found: list[tuple[t.Subprogram, Bound]] = []
        count = len(values)
        kinds: list[tuple[list[t.BaseType], list[t.BaseType]]] = []  # of each value, and those of them that others are made of
        for sub in candidates:
            if not isinstance(sub, t.Subprogram) or sub.function != function or count > len(sub.params):
                continue
            params = sub.params
            if not kinds:
                kinds = [(mine, [k for k in mine if _becomes_others(k)]) for mine in (list(self.types(e)) for e in values)]
            for p, (mine, loose) in zip(params, kinds):
                want = p.subtype.type
                if want not in mine and not (loose and any(self.agrees(kind, want) for kind in loose)):
                    break
            else:
                if all(p.init is not None or p.default is not None for p in params[count:]):
                    found.append((sub, [*values, *[None] * (len(params) - count)]))
        return found

    def _fits_param(self, e: a.Expr, p: t.Object) -> bool:
        if isinstance(e, _NO_VALUES):
            return False
        kinds = self.types(e)
        want = p.subtype.type
        if want in kinds:
            return True
        return any(self.agrees(kind, want) for kind in kinds)

    def choose(
        self, name: str, candidates: list[Any], args: list[a.Assoc], want: t.Subtype | None, pos: int, function: bool
    ) -> tuple[t.Subprogram, Bound]:
        """The one subprogram that a call can mean. Raises Wrong with the reasons if there is none or more than one."""
        found = self.matching(candidates, args, function)
        if function and want is not None:
            right = [f for f in found if f[0].result is not None and self.agrees(f[0].result.type, want.type)]
            if found and not right:
                given = " or ".join(dict.fromkeys(repr(f[0].result) for f in found))
                raise Wrong(pos, f"'{name}' gives {given}, but {want!r} is needed here", "type")
            found = right
        if len(found) > 1:
            found = self._best(found)
        if len(found) == 1:
            return found[0]
        if found:
            several = "; ".join(f[0].profile() for f in found[:4])
            raise Wrong(
                pos,
                f"this call of '{name}' can mean several things: {several}; qualify an argument with its type: type'(value)",
                "ambiguous",
            )
        if self.scope.in_doubt:
            raise Quiet
        for arg in args:
            if arg.value is not None and not isinstance(arg.value, _NO_VALUES) and not self.types(arg.value):
                self.value(arg.value, None)  # what has no type is the mistake
        raise Wrong(pos, self._why_none(name, candidates, args, function), "no-overload")

    def _best(self, found: list[tuple[t.Subprogram, Bound]]) -> list[tuple[t.Subprogram, Bound]]:
        """Fewer defaults and implicit conversions win where a literal fits several."""
        own = [f for f in found if not f[0].implicit]
        if len(own) == 1:
            return own
        return found

    def _why_none(self, name: str, candidates: list[Any], args: list[a.Assoc], function: bool) -> str:
        subs = [c for c in candidates if isinstance(c, t.Subprogram)]
        right = [c for c in subs if c.function == function]
        if not right:
            if any(isinstance(c, GenericSubprogram) for c in candidates):
                return f"'{name}' is a subprogram with generics; declare an instance of it with 'is new {name} generic map (...)'"
            return f"'{name}' is a {'procedure' if function else 'function'}, not a {'function' if function else 'procedure'}"
        right = [c for c in right if c.intrinsic not in BUILTIN] or right  # of the predefined ones no profile says what they take
        reasons = [f"{c.profile()}: {self._reason(c, args)}" for c in right[:4]]
        if len(right) == 1:
            return f"this call does not fit {reasons[0]}"
        more = f"; and {len(right) - 4} more" if len(right) > 4 else ""
        return f"no '{name}' fits these arguments; {'; '.join(reasons)}{more}"

    def _reason(self, sub: t.Subprogram, args: list[a.Assoc]) -> str:
        names = [p.name for p in sub.params]
        for k, arg in enumerate(args):
            if arg.choices and isinstance(arg.choices[0], a.Name):
                if arg.choices[0].id not in names:
                    return f"it has no parameter '{arg.choices[0].text or arg.choices[0].id}'"
            elif k >= len(sub.params):
                return f"it takes {counted(len(sub.params), 'argument')}, not {len(args)}"
        bound = self.bind(sub.params, args)
        if bound is None:
            missing = [p.text or p.name for p in sub.params if p.init is None and p.default is None]
            return f"an argument is missing or given twice (it needs {', '.join(missing)})"
        for b, p in zip(bound, sub.params, strict=True):
            if b is not None and not self._fits_param(b, p):
                return f"'{p.text or p.name}' is of type {p.subtype!r}, the argument is {self.describe(b)}"
        return "its result is of another type"

    def describe(self, e: a.Expr) -> str:
        """The type of an expression in words."""
        if isinstance(e, (a.Range, a.SubtypeInd)):
            return "a range"
        kinds = self.types(e)
        if not kinds:
            return "of no type"
        named = self.denote(e) if isinstance(e, a.Name) else None
        if named and isinstance(named[0], t.Object) and named[0].subtype.name:
            return named[0].subtype.name  # as written, not as its base type is called
        words = []
        for kind in kinds[:3]:
            if isinstance(kind, AnyText):
                words.append("a string literal")
            elif isinstance(kind, t.Integer) and kind.universal:
                words.append("an integer literal")
            elif isinstance(kind, t.Floating) and kind.universal:
                words.append("a real literal")
            else:
                words.append(kind.name.removeprefix("unresolved_"))
        return " or ".join(dict.fromkeys(words))

    def call(self, sub: t.Subprogram, bound: Bound, pos: int, target: t.Expr | None = None) -> t.Call:
        """A call with its arguments analysed."""
        args: list[t.Expr] = []
        for b, p in zip(bound, sub.params, strict=True):
            if b is None:
                default = p.default if p.default is not None else p.init
                args.append(default if default is not None else t.OpenFile(p.subtype, pos))
                continue
            value = self.value(b, p.subtype)
            if p.cls == "signal" and (root := signal_of(value)) is not None:
                root.observed = True
            if p.cls == "signal" or (p.cls == "variable" and p.mode != "in"):
                self.check_object(value, p, b.pos)
            args.append(value)
        result = sub.result if sub.result is not None else self.std.boolean
        return t.Call(result, pos, sub, args, target)

    def check_object(self, value: t.Expr, p: t.Object, pos: int) -> None:
        """A signal or variable parameter needs an object of its class (4.2.2)."""
        inner = value
        while isinstance(inner, (t.Index, t.Slice, t.FieldOf, t.Convert)):
            inner = inner.a
        if isinstance(inner, t.Deref):
            if p.cls == "signal":
                raise Wrong(pos, f"parameter '{p.text or p.name}' needs a signal", "class")
            return
        kind = ""
        if isinstance(inner, t.Ref):
            o = inner.object
            kind = o.cls if o.kind == "param" else o.kind
        if kind != p.cls:
            found = (
                f"'{inner.object.text or inner.object.name}' is a {kind}" if isinstance(inner, t.Ref) else "an expression is given"
            )
            raise Wrong(pos, f"parameter '{p.text or p.name}' needs a {p.cls}; {found}", "class")
        if isinstance(inner, t.Ref) and p.mode in ("out", "inout"):
            self.check_writable(inner.object, pos)
            if p.cls == "signal":
                self.drive(value, pos)

    def check_writable(self, o: t.Object, pos: int) -> None:
        if o.kind in ("constant", "loop") or (o.kind == "param" and o.cls == "constant"):
            what = {"loop": "the variable of a loop", "param": "a parameter of class constant"}.get(o.kind, "a constant")
            raise Wrong(pos, f"'{o.text or o.name}' is {what}: it can't be changed", "read-only")
        if o.mode == "in":
            what = "a port" if o.kind == "signal" else "a parameter"
            raise Wrong(pos, f"'{o.text or o.name}' is {what} of mode in: it can only be read", "mode-in")

    def drive(self, target: t.Expr, pos: int) -> None:
        raise NotImplementedError

    # ---- operators ----

    def operator_types(self, op: str, args: list[a.Expr]) -> list[t.BaseType]:
        found: list[t.BaseType] = []
        for sub, _ in self.operator_subs(op, args):
            assert sub.result is not None
            if sub.result.type not in found:
                found.append(sub.result.type)
        for _, result in self.predefined(op, args):
            if result not in found:
                found.append(result)
        return found

    def operator_subs(self, op: str, args: list[a.Expr]) -> list[tuple[t.Subprogram, Bound]]:
        candidates = self.scope.lookup(f'"{op}"')
        if not candidates:
            return []
        return self.matching(candidates, [a.Assoc(e.pos, [], e) for e in args], True)

    def predefined(self, op: str, args: list[a.Expr]) -> list[tuple[tuple[t.BaseType, ...], t.BaseType]]:
        """(types of the operands, type of the result) of each predefined operator that takes these operands."""
        if len(args) == 1:
            return [((kind,), result) for kind in self.types(args[0]) for result in self._unary(op, kind)]
        left, right = self.types(args[0]), self.types(args[1])
        found: list[tuple[tuple[t.BaseType, ...], t.BaseType]] = []
        for x in left:
            for y in right:
                for row in self._binary(op, x, y):
                    if row not in found:
                        found.append(row)
        if op == "&":
            found = self._concatenations(left, right)
        return found

    def _unary(self, op: str, kind: t.BaseType) -> list[t.BaseType]:
        if op in ("+", "-", "abs"):
            return [kind] if isinstance(kind, (t.Integer, t.Floating, t.Physical)) else []
        if op == "not":
            return [kind] if self.is_logic(kind) or self.is_logic(vector_of(kind)) else []
        if op == "??":
            return (
                [self.std.boolean.type] if kind is self.std.bit.type or kind is self.std.boolean.type or self.is_nine(kind) else []
            )
        if op in LOGICAL:
            element = vector_of(kind)
            return [element] if element is not None and self.is_logic(element) else []
        return []

    def _binary(self, op: str, x: t.BaseType, y: t.BaseType) -> list[tuple[tuple[t.BaseType, ...], t.BaseType]]:
        numeric = (t.Integer, t.Floating, t.Physical)
        same = x if self.agrees(y, x) else y if self.agrees(x, y) else None
        integer = self.std.integer.type
        boolean = self.std.boolean.type
        if same is not None and (isinstance(same, AnyText) or same in (ANY_AGGREGATE, ANY_NULL)):
            if op not in COMPARE:
                return []
            if isinstance(x, AnyText) and isinstance(y, AnyText):
                return [((self.std.string.type,) * 2, boolean)]
            return []
        if op in LOGICAL:
            if same is not None and (self.is_logic(same) or self.is_logic(vector_of(same))):
                return [((same, same), same)]
            for array, other in ((x, y), (y, x)):
                element = vector_of(array)
                if element is not None and self.is_logic(element) and self.agrees(other, element):
                    return [((x, y), array)]
            return []
        if op in ("=", "/="):
            return [((same, same), boolean)] if same is not None and not isinstance(same, (t.FileType, t.ProtectedType)) else []
        if op in COMPARE:
            if same is None:
                return []
            element = vector_of(same)
            if isinstance(same, (t.Enum, *numeric)) or (element is not None and isinstance(element, (t.Enum, t.Integer))):
                return [((same, same), boolean)]
            return []
        if op in MATCH:
            element = vector_of(same) if same is not None else None
            scalar = same is self.std.bit.type or self.is_nine(same)
            if same is not None and scalar:
                return [((same, same), same)]
            if (
                element is not None
                and same is not None
                and op in ("?=", "?/=")
                and (element is self.std.bit.type or self.is_nine(element))
            ):
                return [((same, same), element)]
            return []
        if op in SHIFTS:
            return [((x, integer), x)] if self.is_logic(vector_of(x)) and self.agrees(y, integer) else []
        if op in ("+", "-"):
            return [((same, same), same)] if isinstance(same, numeric) else []
        if op in ("mod", "rem"):
            return [((same, same), same)] if isinstance(same, (t.Integer, t.Physical)) else []
        if op == "**":
            return [((x, integer), x)] if isinstance(x, (t.Integer, t.Floating)) and self.agrees(y, integer) else []
        if op in ("*", "/"):
            if isinstance(same, (t.Integer, t.Floating)):
                return [((same, same), same)]
            if op == "/" and isinstance(same, t.Physical):
                return [((same, same), self.std.universal_integer.type)]
            if isinstance(x, t.Physical) and (self.agrees(y, integer) or self.agrees(y, self.std.real.type)):
                return [((x, integer if self.agrees(y, integer) else self.std.real.type), x)]
            if op == "*" and isinstance(y, t.Physical) and (self.agrees(x, integer) or self.agrees(x, self.std.real.type)):
                return [((integer if self.agrees(x, integer) else self.std.real.type, y), y)]
            if isinstance(x, t.Floating) and x.universal and isinstance(y, t.Integer) and y.universal:
                return [((x, y), x)]
            if op == "*" and isinstance(y, t.Floating) and y.universal and isinstance(x, t.Integer) and x.universal:
                return [((x, y), y)]
        return []

    def _concatenations(self, left: list[t.BaseType], right: list[t.BaseType]) -> list[tuple[tuple[t.BaseType, ...], t.BaseType]]:
        """9.2.5: array & array, array & element, element & array, element & element."""
        arrays: list[t.BaseType] = []
        for kind in (*left, *right):
            if vector_of(kind) is not None and kind not in arrays:
                arrays.append(kind)
        scalars = [k for k in left if not isinstance(k, t.ArrayType)]
        others = [k for k in right if not isinstance(k, t.ArrayType)]
        if not arrays or (scalars and others):
            for kind in self.vectors_in_view():
                element = vector_of(kind)
                if element is None or kind in arrays:
                    continue
                if any(self.agrees(x, element) or self.agrees(x, kind) for x in left) and any(
                    self.agrees(y, element) or self.agrees(y, kind) for y in right
                ):
                    arrays.append(kind)
        else:
            for kind in self.vectors_in_view():
                element = vector_of(kind)
                if kind not in arrays and element in arrays:
                    arrays.append(kind)
        found: list[tuple[tuple[t.BaseType, ...], t.BaseType]] = []
        for array in arrays:
            element = vector_of(array)
            assert element is not None
            for x in (array, element):
                if not any(self.agrees(k, x) for k in left):
                    continue
                for y in (array, element):
                    if any(self.agrees(k, y) for k in right):
                        found.append(((x, y), array))
        return found

    def vectors_in_view(self) -> list[t.BaseType]:
        """All one-dimensional array types that are visible: what element & element can be."""
        raise NotImplementedError

    def operator(self, op: str, args: list[a.Expr], want: t.Subtype | None, pos: int) -> t.Expr:
        """The value of an operator applied to its operands."""
        subs = self.operator_subs(op, args)
        rows = self.predefined(op, args)
        if want is not None:
            subs = [s for s in subs if s[0].result is not None and self.agrees(s[0].result.type, want.type)]
            rows = [r for r in rows if self.agrees(r[1], want.type)]
        for sub, _ in subs:
            profile = tuple(p.subtype.type for p in sub.params)
            rows = [r for r in rows if tuple(r[0]) != profile]
        if rows and subs:
            kinds = [self.types(e) for e in args]
            if all(len(k) == 1 and isinstance(k[0], (t.Integer, t.Floating)) and k[0].universal for k in kinds):
                subs = []
        if len(rows) > 1:
            rows = self._prefer(rows)
        if len(subs) > 1 and not rows:
            subs = self._exact(subs, args)
        if len(subs) + len(rows) == 1:
            if subs:
                return self.call(subs[0][0], subs[0][1], pos)
            return self._apply_predefined(op, args, rows[0], pos)
        raise Wrong(pos, self._no_operator(op, args, want, subs, rows), "ambiguous" if subs or rows else "no-operator")

    def _exact(self, subs: list[tuple[t.Subprogram, Bound]], args: list[a.Expr]) -> list[tuple[t.Subprogram, Bound]]:
        """Where a string literal fits several, the one whose operands are of the same type."""
        alike = [s for s in subs if len({id(p.subtype.type) for p in s[0].params}) == 1]
        return alike if len(alike) == 1 else subs

    def _prefer(self, rows: list[Any]) -> list[Any]:
        """Among the predefined ones the universal operator (9.3.6), then integer, then string."""
        for kind in (self.std.universal_integer.type, self.std.universal_real.type, self.std.integer.type, self.std.string.type):
            good = [r for r in rows if r[1] is kind or r[0][0] is kind]
            if len(good) == 1:
                return good
        return rows

    def _no_operator(self, op: str, args: list[a.Expr], want: t.Subtype | None, subs: list[Any], rows: list[Any]) -> str:
        for e in args:
            if isinstance(e, (a.Binary, a.Unary)) and not self.types(e):
                self.value(e, None)  # says what is wrong in it
        given = " and ".join(self.describe(e) for e in args)
        if subs or rows:
            return f"the operands of '{op}' ({given}) fit several operators; qualify one with its type: type'(value)"
        all_rows = self.operator_types(op, args)
        if all_rows and want is not None:
            return f"'{op}' gives {' or '.join(repr(k) for k in all_rows)} here, but {want!r} is needed"
        if args and all(isinstance(e, a.Text) for e in args):
            return f"the type of {given} can't be told here; qualify one with it: type'(\"...\")"
        text = f"no '{op}' takes {given}"
        missing = self.operator_hint(op, args)
        return f"{text}; {missing}" if missing else text

    def operator_hint(self, op: str, args: list[a.Expr]) -> str:
        kinds = [k for e in args for k in self.types(e)]
        names = {k.name for k in kinds}
        if "std_logic_vector" in names or "std_ulogic_vector" in names:
            if op in ("+", "-", "*", "/", "<", ">", "<=", ">=", "mod", "rem", "abs"):
                return "convert the vector with unsigned(...) or signed(...) of ieee.numeric_std first"
        numbers = {type(k) for k in kinds if isinstance(k, (t.Integer, t.Floating))}
        if len(numbers) == 2:
            return "nothing mixes integers and reals: convert one with real(...) or integer(...)"
        if op == "&" and "string" in names | {k.name for e in args if isinstance(e, a.Text) for k in [self.std.string.type]}:
            scalar = next((k.name for k in kinds if isinstance(k, (t.Integer, t.Floating, t.Physical, t.Enum))), "")
            if scalar and scalar != "character":
                return f"{scalar}'image(...) or to_string(...) makes text of it"
        if t.Integer in numbers and names & {"std_ulogic", "bit"}:
            return "a bit is written in quotes: '0', '1'"
        return ""

    def _apply_predefined(self, op: str, args: list[a.Expr], row: tuple[tuple[t.BaseType, ...], t.BaseType], pos: int) -> t.Expr:
        kinds, result = row
        values = [self.value(e, self.plain(kind)) for e, kind in zip(args, kinds, strict=True)]
        return self.apply(op, values, self.plain(result), pos)

    def plain(self, kind: t.BaseType) -> t.Subtype:
        """The unconstrained subtype of a type."""
        return t.Subtype(kind, kind.name)

    def apply(self, op: str, values: list[t.Expr], result: t.Subtype, pos: int) -> t.Expr:
        if all(isinstance(v, t.Const) for v in values) and result.scalar:
            if not (op in ("/", "mod", "rem") and values[1].value == 0):  # type: ignore[attr-defined]
                found = fold(op, [v.value for v in values], result.type)  # type: ignore[attr-defined]
                if found is not None:
                    return t.Const(result, pos, found)
        if op in LOGICAL and isinstance(result.type, t.ArrayType) and not self.dead:
            self._check_lengths(op, values, pos)
        return t.Op(self._shape(op, values, result), pos, op, values)

    @staticmethod
    def _check_lengths(op: str, values: list[t.Expr], pos: int) -> None:
        """9.2.2: a logical operator joins arrays of the same length."""
        x, y = values[0].type, values[-1].type
        if not (x.type is y.type and x.bounds is not None and y.bounds is not None and x.static and y.static):
            return
        if x.bounds[0].length != y.bounds[0].length:
            message = (
                f"'{op}' joins arrays of one length; these have {x.bounds[0].length} and {y.bounds[0].length} elements (9.2.2)"
            )
            raise Wrong(pos, message, "length")

    def _shape(self, op: str, values: list[t.Expr], result: t.Subtype) -> t.Subtype:
        """The bounds of a result where they are known (9.2.2, 9.2.5)."""
        if not isinstance(result.type, t.ArrayType):
            return result
        if op == "&":
            lengths = []
            for v in values:
                if v.type.type is result.type:
                    if v.type.bounds is None or not v.type.static:
                        return result
                    lengths.append(v.type.bounds[0].length)
                else:
                    lengths.append(1)
            index = result.type.indexes[0]
            whole = sum(lengths)
            if not whole:
                last = values[1].type
                return last if last.type is result.type else result
            rng = self.range_of(index, 0)
            if not rng.static:
                return result
            left, _, down = rng.ints
            right = left - whole + 1 if down else left + whole - 1
            bounds = t.Bounds(t.Const(index, 0, left), t.Const(index, 0, right), down)
            element = values[0].type.element if values[0].type.type is result.type else None
            return t.Subtype(result.type, result.name, None, [bounds], element)
        if op in ("minimum", "maximum"):
            return result
        for v in values:
            if v.type.type is result.type and v.type.bounds is not None and v.type.static:
                return v.type
        return result

    # ---- functions by name that the language predefines for every type ----

    def builtin_types(self, name: str, args: list[a.Assoc]) -> list[t.BaseType]:
        return [result for _, result in self._builtin_rows(name, args)]

    def _builtin_rows(self, name: str, args: list[a.Assoc]) -> list[tuple[tuple[t.BaseType, ...], t.BaseType]]:
        values = [x.value for x in args]
        if any(isinstance(v, (a.Range, a.SubtypeInd, a.Open)) for v in values):
            return []
        rows: list[tuple[tuple[t.BaseType, ...], t.BaseType]] = []
        if name in ("minimum", "maximum"):
            if len(values) == 2:
                for x in self.types(values[0]):
                    for y in self.types(values[1]):
                        same = x if self.agrees(y, x) else y if self.agrees(x, y) else None
                        element = vector_of(same) if same is not None else None
                        if isinstance(same, (t.Enum, t.Integer, t.Floating, t.Physical)) or isinstance(
                            element, (t.Enum, t.Integer)
                        ):
                            assert same is not None
                            rows.append(((same, same), same))
            elif len(values) == 1:
                for x in self.types(values[0]):
                    element = vector_of(x)
                    if isinstance(element, (t.Enum, t.Integer, t.Floating, t.Physical)):
                        rows.append(((x,), element))
        elif name == "to_string" and len(values) == 1:
            for x in self.types(values[0]):
                element = vector_of(x)
                if isinstance(x, (t.Enum, t.Integer, t.Floating, t.Physical)) or (
                    isinstance(element, t.Enum) and all(c[0] == "'" for c in element.literals)
                ):
                    rows.append(((x,), self.std.string.type))
            if len(rows) > 1:
                good = [r for r in rows if isinstance(r[0][0], t.Integer) or r[0][0] is self.std.character.type]
                rows = good[:1] or rows
        elif name in ("rising_edge", "falling_edge") and len(values) == 1:
            rows += [((x,), self.std.boolean.type) for x in self.types(values[0]) if self.is_logic(x)]
        return rows

    def builtin_call(self, name: str, args: list[a.Assoc], want: t.Subtype | None, pos: int) -> t.Expr | None:
        rows = self._builtin_rows(name, args)
        if want is not None:
            rows = [r for r in rows if self.agrees(r[1], want.type)]
        if len(rows) > 1:
            rows = self._prefer(rows)
        if len(rows) != 1:
            return None
        kinds, result = rows[0]
        values = [self.value(x.value, self.plain(k)) for x, k in zip(args, kinds, strict=True)]
        if name in ("rising_edge", "falling_edge") and (root := signal_of(values[0])) is not None:
            root.observed = True
        return self.apply(name, values, self.plain(result), pos)


def _chars(kind: t.Enum) -> frozenset[str]:
    found = _CHARS.get(id(kind))
    if found is None or found[0] is not kind:
        found = (kind, frozenset(x[1] for x in kind.literals if x[0] == "'"))
        _CHARS[id(kind)] = found
    return found[1]


_CHARS: dict[int, tuple[t.Enum, frozenset[str]]] = {}
__all__ = ["BUILTIN", "Bound", "Calls", "Literal", "is_char_enum", "vector_of"]
