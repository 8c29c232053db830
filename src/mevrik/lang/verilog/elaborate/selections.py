"""What a name with its selections stands for: a walk from left to right over members, indexes and ranges.

The walk begins at a signal, a constant, a property or the result of a call, and goes on through structures, arrays, lists and
handles (IEEE 1364-2005 5.2, IEEE 1800-2017 7 and 11.5).
"""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.record import Value, replace
from mevrik.design.types import REAL, Array, EventType, Handle, Link, List, Real, Text, Type, Vec, count_of, width_of
from mevrik.design.unit import Signal
from mevrik.design.values import Logic
from mevrik.lang.diagnostics import nearest
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import Elaborator
from mevrik.lang.verilog.elaborate.classes import ClassElaborator
from mevrik.lang.verilog.elaborate.classinfo import ClassField
from mevrik.lang.verilog.elaborate.clocking import ClockingName
from mevrik.lang.verilog.elaborate.context import Abandon
from mevrik.lang.verilog.elaborate.folding import fold_if_constant, holds_text, int_of, part_at
from mevrik.lang.verilog.elaborate.scope import (
    BlockName,
    EventArray,
    InstanceName,
    Param,
    PropertyName,
    Scope,
    Shape,
    SubDecl,
    TypeName,
)
from mevrik.lang.verilog.elaborate.texts import BYTE

_FREE = -(1 << 62)


class Selected(Value):
    """`shape` is that of what is selected now, its `unpacked` the dimensions left. What the walk is in: a `signal`, a `keeper`
    (a property or an element of a list), or just a `value`. `base` is the type of that before `bits`."""

    shape: Shape
    base: Type
    signal: Signal | None = None
    keeper: n.FieldPlace | n.ElementPlace | None = None
    value: n.Expr | None = None
    element: n.Offset | None = None
    bits: n.Offset | None = None
    partial: bool = False  # a part-select: nothing more may follow
    character: n.Expr | None = None  # of a string
    clocking: ClockingName | None = None  # that a member may be named of

    @property
    def type(self) -> Type:
        return self.shape.type

    @property
    def dims(self) -> tuple[tuple[int, int], ...]:
        return self.shape.unpacked

    @property
    def width(self) -> int:
        return self.shape.type.width if isinstance(self.shape.type, Vec) else 64


class SelectionElaborator(ClassElaborator, Elaborator):
    # ---- where the walk begins ----

    def selected(self, e: ast.Expr) -> Selected:
        steps: list[ast.Expr] = []
        tree = e
        while isinstance(tree, (ast.Member, ast.Index, ast.PartSelect)):
            steps.append(tree)
            tree = tree.base
        steps.reverse()
        if isinstance(tree, ast.Name) and tree.name not in ("this", "super"):
            entity, steps = self._entity(e, tree, steps)
            while isinstance(entity, EventArray) and steps and isinstance(steps[0], ast.Index):
                at = self.constant_int(steps[0].index, "the index of this event")
                if at not in entity.items:
                    raise self.error(steps[0].pos, f"the index {at} is outside of {entity.left} to {entity.right}", "index-range")
                entity, steps = entity.items[at], steps[1:]
            s = self._start(e, entity)
        elif isinstance(tree, ast.Name):
            s = self._from_object(tree)
        elif isinstance(tree, ast.TypeExpr) and steps and isinstance(steps[0], ast.Member):
            info = self.class_of_type(self.resolve_type(tree.type).type)
            if info is None:
                raise self.error(tree.pos, "only a class has members that are named by '::' (8.23)", "class")
            s = self._start(e, self.static_member(info, steps[0].name, steps[0].pos))
            steps = steps[1:]
        else:
            shape = self.shape_of(tree)
            if isinstance(tree, (ast.Concat, ast.Replicate)) and type(shape.type) is Vec:  # 11.4.12
                shape = Shape(shape.type, ((shape.type.width - 1, 0),))
            s = Selected(shape, shape.type, value=self.build(tree, shape.whole))
        for step in steps:
            self._select(s, step)
        return s

    def _entity(self, e: ast.Expr, tree: ast.Name, steps: list[ast.Expr]) -> tuple[object, list[ast.Expr]]:
        owner, colons, name = tree.name.rpartition("::")
        if colons:
            info = self.class_named(owner)
            if info is not None:
                return self.static_member(info, name, tree.pos), steps
        return self.resolve(e, self.scope)

    def _from_object(self, tree: ast.Name) -> Selected:
        this = self.this_value(tree.pos)
        if tree.name == "super":
            info = self.this_class()
            if info is None or info.base is None:
                raise self.error(tree.pos, "'super' has a meaning only in a class that extends another (8.15)", "class")
            return Selected(Shape(info.base.type), info.base.type, value=this)
        return Selected(Shape(this.type), this.type, value=this)

    def _start(self, e: ast.Expr, entity: object) -> Selected:
        if isinstance(entity, Signal):
            shape = self.shape_of_signal(entity)
            return Selected(shape, entity.type, signal=entity)
        if isinstance(entity, Param):
            t = entity.value.type
            if entity.shape is not None:
                return Selected(entity.shape, entity.shape.type, value=entity.value)
            packed = entity.packed or (((t.width - 1, 0),) if isinstance(t, Vec) else ())
            return Selected(Shape(t, packed), t, value=entity.value)
        if isinstance(entity, ClassField):
            mine = self.this_class()
            if mine is not None:
                self.check_access(mine, entity.name, e.pos)
            return self._property(self.this_value(e.pos), entity, e)
        if isinstance(entity, EventArray):
            event_type = EventType()
            return Selected(Shape(event_type, unpacked=entity.ranges), event_type)
        if isinstance(entity, ClockingName):  # as an event (14.10)
            event = entity.event
            return Selected(Shape(event.type), event.type, signal=event, clocking=entity)
        if isinstance(entity, PropertyName):
            event = self.sequence_event(entity)
            return Selected(Shape(event.type), event.type, signal=event)
        owner = self.class_named(e.base.name) if isinstance(e, ast.Member) and isinstance(e.base, ast.Name) else None
        if owner is not None and isinstance(e, ast.Member):
            message = f"'{owner.tree.name}' is a class: what is static in it is written {owner.tree.name}::{e.name} (8.23)"
            raise self.error(e.pos, message, "class")
        raise self.error(e.pos, f"{self.words(e)} is {kind_of(entity)}; a signal or constant is needed here", "not-a-value")

    def sequence_event(self, named: PropertyName) -> Signal:
        raise NotImplementedError

    def _property(self, obj: n.Expr, made: ClassField, e: ast.Node) -> Selected:
        place = n.FieldPlace(obj, made.word, made.shape.type, self.site(e))
        return Selected(made.shape, made.shape.type, keeper=place)

    # ---- its steps ----

    def _select(self, s: Selected, step: ast.Expr) -> None:
        if isinstance(step, ast.Member):
            self._select_member(s, step)
            return
        assert isinstance(step, (ast.Index, ast.PartSelect))
        if s.dims:
            if isinstance(step, ast.PartSelect):
                self._select_elements(s, step)
            else:
                self._select_element(s, step)
        elif isinstance(s.type, List):
            self._select_from_list(s, step)
        elif isinstance(s.type, Text) and isinstance(step, ast.Index):
            s.character = self.expr(step.index)
            s.shape = Shape(BYTE, ((7, 0),))
            text = self.read_selected(replace(s, character=None, shape=Shape(s.base)))
            s.value = n.SysCall(BYTE, "$text_get", (text, s.character), step.pos)
        else:
            self._select_bits(s, step)

    def _select_member(self, s: Selected, step: ast.Member) -> None:
        if isinstance(s.type, Handle) and not s.dims:
            info = self.class_of_type(s.type)
            assert info is not None
            member = info.find_field(step.name)
            if member is None:
                static = self.static_member(info, step.name, step.pos)
                new = self._start(step, static)
            else:
                self.check_access(info, step.name, step.pos)
                new = self._property(self.read_selected(s), member, step)
            self._restart(s, new)
            return
        if isinstance(s.type, Link) and not s.dims:
            self._restart(s, self._start(step, self.through_link(self.read_selected(s), step.name, step.pos)))
            return
        if s.clocking is not None and step.name != "triggered":
            self._restart(s, self._start(step, self.clock_sample(s.clocking, step)))
            return
        if isinstance(s.type, EventType) and step.name == "triggered":  # 15.5.3
            flag = Vec(1, False, False)
            s.value = n.SysCall(flag, "$triggered", (self.read_selected(s),), step.pos)
            s.shape, s.base, s.signal, s.element = Shape(flag), flag, None, None
            return
        field = s.shape.fields.get(step.name) if not s.dims else None
        if field is None:
            if s.shape.fields:
                hint = nearest(step.name, s.shape.fields)
                raise self.error(step.pos, f"the structure has no member '{step.name}'{hint}", "unknown-name")
            if s.signal is not None and s.signal.implicit and s.signal.kind == "net":
                message = f"'{s.signal.name}' is not declared: {self.made_a_net(s.signal)}, which has no member '{step.name}'"
                raise self.error_of(s.signal.name, step.pos, message, "unknown-name")
            raise self.error(step.pos, f"{self.words(step.base)} has no member '{step.name}'", "unknown-name")
        old = s.bits or n.Offset(0)
        s.bits = n.Offset(old.const + field.low, old.terms)
        s.shape = field.shape

    @staticmethod
    def _restart(s: Selected, new: Selected) -> None:
        for name in ("shape", "base", "signal", "keeper", "value", "element", "bits", "clocking"):
            setattr(s, name, getattr(new, name))

    def _select_element(self, s: Selected, step: ast.Index) -> None:
        left, right = s.dims[0]
        inner = count_of(s.dims[1:])
        index = self.index_value(self.expr(step.index), step.index)
        low, high = min(left, right), max(left, right)
        old = s.element or n.Offset(0)
        if isinstance(index, n.Const) and not index.unk:
            value = int_of(index)
            if not low <= value <= high:
                self._outside(step.index.pos, value, low, high, self.words(step.base))
                s.element = n.Offset(old.const, (*old.terms, n.Term(index, inner, low, high)))
            else:
                s.element = n.Offset(old.const + (value - low) * inner, old.terms)
        else:
            s.element = n.Offset(old.const - low * inner, (*old.terms, n.Term(index, inner, low, high)))
        s.shape = replace(s.shape, unpacked=s.dims[1:])

    def _select_elements(self, s: Selected, step: ast.PartSelect) -> None:
        """A range of the elements of an array (IEEE 1800-2017 7.4.5)."""
        left, right = s.dims[0]
        inner = count_of(s.dims[1:])
        const, terms, count = self._range(step, left, right, inner)
        if left > right:  # counted here from the element of the lowest index on
            low = const
        else:
            low = (count_of(s.dims[:1]) * inner) - const - count * inner
            terms = tuple(replace(t, scale=-t.scale) for t in terms)
            if terms:
                low = self._low_of_rising(step, left, inner, count)
        old = s.element or n.Offset(0)
        s.element = n.Offset(old.const + low, old.terms + terms)
        bounds = (count - 1, 0) if left > right else (0, count - 1)
        s.shape = replace(s.shape, unpacked=(bounds, *s.dims[1:]))

    def _low_of_rising(self, step: ast.PartSelect, left: int, inner: int, count: int) -> int:
        return (-left - (count - 1 if step.mode == "-:" else 0)) * inner

    def _select_from_list(self, s: Selected, step: ast.Index | ast.PartSelect) -> None:
        t = s.type
        assert isinstance(t, List)
        of = self.read_selected(s)
        if isinstance(step, ast.PartSelect):
            if step.mode != ":":
                raise self.error(step.pos, "a range of a queue is written [first:last] (7.10.1)", "select")
            first, last = self.list_index(of, step.left), self.list_index(of, step.right)
            s.value = n.ListValue(t, "slice", of, (first, last))
            s.signal = s.keeper = s.element = s.bits = None
            return
        index = self.key_value(of, step.index, s.shape.keys)
        inner = s.shape.inner or Shape(t.element)
        # a value that can't be written, such as the result of a call, can't have its elements written
        place = self.list_place(s) if s.value is None else None
        s.keeper = n.ElementPlace(place, index, t.element) if place is not None else None
        s.value = n.ListValue(t.element, "get", of, (index,)) if place is None else None
        s.signal = s.element = s.bits = None
        s.shape, s.base = inner, t.element

    def _select_bits(self, s: Selected, step: ast.Index | ast.PartSelect) -> None:
        if s.partial or not s.shape.packed or not isinstance(s.type, Vec):
            why = "is already a selection of bits" if s.partial else "is a single bit"
            if isinstance(s.type, Real):
                why = "is a real number"
            signal = s.signal
            if signal is not None and signal.implicit and signal.kind == "net":
                message = f"'{signal.name}' is not declared: {self.made_a_net(signal)}, so nothing can be selected from it"
                raise self.error_of(signal.name, step.pos, message, "unknown-name")
            raise self.error(step.pos, f"{self.words(step.base)} {why}, so nothing can be selected from it", "select")
        (left, right), *others = s.shape.packed
        stride = s.width // (abs(left - right) + 1)
        old = s.bits or n.Offset(0)
        four = s.type.four
        if isinstance(step, ast.Index):
            extra = self._offset(step, left, right, stride, self.words(step.base))
            s.bits = n.Offset(old.const + extra.const, old.terms + extra.terms)
            inner = s.shape.inner
            if inner is not None and not others:
                s.shape = inner
            else:
                s.shape = Shape(Vec(stride, False, four), tuple(others), inner=inner)
            return
        const, terms, count = self._range(step, left, right, stride)
        s.bits = n.Offset(old.const + const, old.terms + terms)
        s.partial = not others
        s.shape = Shape(Vec(count * stride, False, four), ((count - 1, 0), *others), inner=s.shape.inner)

    # ---- positions ----

    def index_value(self, index: n.Expr, tree: ast.Expr) -> n.Expr:
        if not isinstance(index.type, Vec) or isinstance(index.type, (Text, List, Handle)):
            raise self.error(tree.pos, "an index must be a whole number, not a real one", "operand-type")
        return index

    def _outside(self, pos: int, value: int, low: int, high: int, name: str) -> None:
        self.context.diagnostics.warning(
            pos,
            f"the index {value} is outside the range {low} to {high} of {name}: reading gives x, writing is lost",
            "index-range",
        )

    def _offset(self, step: ast.Index, left: int, right: int, stride: int, name: str) -> n.Offset:
        index = self.index_value(self.expr(step.index), step.index)
        low, high = min(left, right), max(left, right)
        sign = 1 if left >= right else -1
        if isinstance(index, n.Const) and not index.unk:
            value = int_of(index)
            if not low <= value <= high:
                self._outside(step.index.pos, value, low, high, name)
                return n.Offset(0, (n.Term(index, stride, low, high),))
            return n.Offset((value - right) * sign * stride)
        return n.Offset(-right * sign * stride, (n.Term(index, sign * stride, low, high),))

    def _range(self, step: ast.PartSelect, left: int, right: int, stride: int) -> tuple[int, tuple[n.Term, ...], int]:
        """Constant part, terms and count of a range, counted in `stride` from the right end."""
        down = left >= right
        name = self.words(step.base)
        if step.mode == ":":
            a = self.constant_int(step.left, "the left bound of a part-select")
            b = self.constant_int(step.right, "the right bound of a part-select")
            if (a < b) if down else (a > b):
                order = f"[{left}:{right}]"
                raise self.error(step.pos, f"the part-select [{a}:{b}] runs against the range {order} of {name}", "select-order")
            low, high = min(left, right), max(left, right)
            for bound, tree in ((a, step.left), (b, step.right)):
                if not low <= bound <= high:
                    self._outside(tree.pos, bound, low, high, name)
                    break
            return ((b - right) if down else (right - b)) * stride, (), abs(a - b) + 1
        count = self.constant_int(step.right, "the width of a part-select")
        if count <= 0:
            raise self.error(step.right.pos, f"the width of a part-select must be positive, not {count}", "select-order")
        # the lowest selected bit is at `index + shift`, counted along the declared range
        shift = 0
        if down and step.mode == "-:":
            shift = -(count - 1)
        elif not down and step.mode == "+:":
            shift = count - 1
        index = self.index_value(self.expr(step.left), step.left)
        sign = 1 if down else -1
        const = (shift - right) * sign * stride
        if isinstance(index, n.Const) and not index.unk:
            value = int_of(index)
            low, high = min(left, right), max(left, right)
            ends = (value, value + (count - 1 if step.mode == "+:" else 1 - count))
            for bound in ends:
                if not low <= bound <= high:
                    self._outside(step.left.pos, bound, low, high, name)
                    break
            return const + value * sign * stride, (), count
        return const, (n.Term(index, sign * stride, _FREE, -_FREE),), count

    # ---- what is found there ----

    def read(self, e: ast.Expr) -> n.Expr:
        s = self.selected(e)
        if isinstance(s.type, EventType) and s.signal is None and s.value is None:
            raise self.error(e.pos, f"{self.words(e)} is an array of events: it has no value", "operand-type")
        return self.read_selected(s)

    def read_selected(self, s: Selected) -> n.Expr:
        whole = self._whole(s)
        if s.bits is None or s.dims or s.character is not None:
            return whole
        t = s.type
        if isinstance(t, EventType):
            raise AssertionError("an event in a structure")
        plain = t if type(t) is Vec else Vec(width_of(t), False, True)
        if holds_text(whole) and isinstance(whole, n.Concat) and not s.bits.terms:
            member = part_at(whole, s.bits.const, plain.width)
            if member is not None:
                return member
        got = fold_if_constant(n.Bits(Vec(plain.width, plain.signed, True), whole, s.bits))
        if isinstance(t, Real):
            return n.SysCall(REAL, "$bitstoreal", (got,), 0)
        assert isinstance(t, Vec)
        if type(t) is Vec and t.four:
            return got
        if type(t) is Vec and isinstance(whole.type, Vec) and not whole.type.four:
            return replace(got, type=t) if isinstance(got, (n.Bits, n.Const)) else got
        return n.Resize(t, got)  # a two-state member of a four-state structure

    def _whole(self, s: Selected) -> n.Expr:
        """The value before `bits`."""
        t: Type = Array(s.base, s.dims) if s.dims else s.base
        if s.character is not None and s.value is not None:
            return s.value
        if s.signal is not None:
            return n.Ref(t, s.signal, s.element)
        if isinstance(s.keeper, n.FieldPlace):
            return n.FieldValue(t, s.keeper.object, s.keeper.word, s.keeper.site, s.element)
        if isinstance(s.keeper, n.ElementPlace):
            return n.ListValue(s.base, "get", self.list_at(s.keeper.list), (s.keeper.index,))
        assert s.value is not None
        if s.element is None:
            return s.value
        if not s.dims and isinstance(s.value, n.ArrayConst) and not s.element.terms:
            return s.value.items[s.element.const]
        return n.Item(t, s.value, s.element)

    def list_at(self, place: n.ListPlace) -> n.Expr:
        """The list that is kept in a place."""
        match place:
            case n.LRef(signal=signal, element=element):
                return n.Ref(signal.type, signal, element)
            case n.FieldPlace():
                return n.FieldValue(place.type, place.object, place.word, place.site, place.element)
            case n.ElementPlace():
                return n.ListValue(place.type, "get", self.list_at(place.list), (place.index,))
            case n.MemberPlace():
                return n.Resize(place.type, n.Bits(Vec(64), self.list_at(place.place), n.Offset(place.bits)))

    def list_place(self, s: Selected) -> n.ListPlace | None:
        """Where a selected list is kept; None for a value that is kept nowhere."""
        if s.bits is not None and (s.bits.terms or s.bits.const % 8):
            return None
        place: n.ListPlace | None = s.keeper
        if s.signal is not None:
            place = n.LRef(s.signal, s.element, None, 64)
        elif isinstance(s.keeper, n.FieldPlace):
            place = replace(s.keeper, element=s.element)
        return n.MemberPlace(place, s.bits.const, s.type) if place is not None and s.bits is not None else place

    def unassignable(self, e: ast.Expr) -> Abandon:
        """The error about a target that keeps nothing."""
        what = "an expression" if isinstance(e, (ast.Binary, ast.Unary, ast.Ternary, ast.Call)) else "a constant"
        return self.error(e.pos, f"{self.words(e)} is {what}; it can't be assigned", "assign-constant")

    def place(self, e: ast.Expr) -> tuple[n.LRef, ...]:
        """Where an assignment writes to, the highest bits first."""
        if isinstance(e, ast.Concat):
            return tuple(p for part in e.parts for p in self.place(part))
        if isinstance(e, ast.Name):
            plain = self.plain_vector(e)
            if plain is not None and isinstance(plain.type, Vec):  # by far the most
                return (n.LRef(plain, None, None, plain.type.width),)
        s = self.selected(e)
        if s.signal is None or s.character is not None:
            if s.keeper is not None:
                raise self.error(e.pos, f"{self.words(e)} lies in an object or a list: assign it with a plain '='", "operand-type")
            raise self.unassignable(e)
        if s.dims:
            raise self.error(e.pos, f"'{s.signal.name}' is an array: assign one element at a time", "array-value")
        if isinstance(s.signal.type, EventType):
            raise self.error(e.pos, f"'{s.signal.name}' is an event; use '->' to trigger it", "operand-type")
        return (n.LRef(s.signal, s.element, s.bits, s.width),)

    def place_type(self, places: tuple[n.LRef, ...]) -> Type:
        if len(places) == 1 and places[0].bits is None and not isinstance(places[0].signal.type, Vec):
            return places[0].signal.type
        if len(places) == 1 and places[0].bits is None and isinstance(places[0].signal.type, (Text, List, Handle, Link)):
            return places[0].signal.type
        four = any(isinstance(p.signal.type, Vec) and p.signal.type.four for p in places)
        return Vec(sum(p.width for p in places), False, four)


def kind_of(entity: object) -> str:
    if isinstance(entity, SubDecl):
        return "a task" if entity.tree.is_task else "a function"
    if isinstance(entity, InstanceName):
        return "an instance"
    if isinstance(entity, (Scope, BlockName)):
        return "a block"
    if isinstance(entity, TypeName):
        return "a type"
    return "something else"


__all__ = ["Logic", "Selected", "SelectionElaborator", "kind_of"]
