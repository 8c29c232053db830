"""Expressions: names resolved, sizes and signs settled (IEEE 1364-2005 5.4 and 5.5).

Two steps: `shape` finds the self-determined type of a syntax tree, `build` makes the expression for the type that its
context gives it.
"""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.evaluate import NotConstant
from mevrik.design.types import BIT, INTEGER, REAL, TEXT, Array, EventType, Handle, Link, List, Real, Text, Type, Vec
from mevrik.design.unit import Signal
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate import events, streams
from mevrik.lang.verilog.elaborate.folding import constant_parts, fold, fold_if_constant, fold_resize, int_of
from mevrik.lang.verilog.elaborate.patterns import PatternElaborator, holds_pattern
from mevrik.lang.verilog.elaborate.scope import Param, Shape, lists_in, matching
from mevrik.lang.verilog.elaborate.streams import is_dynamic, reversed_slices

_CONTEXT = {"+", "-", "*", "/", "%", "&", "|", "^", "^~", "~^"}
_COMPARE = {"==", "!=", "===", "!==", "<", "<=", ">", ">=", "==?", "!=?"}
_SHIFT = {"<<", ">>", "<<<", ">>>"}
_EQUALITY = {"==", "!=", "===", "!=="}
_LOGIC = {"&&", "||", "->", "<->", "inside"}
NULL = Handle(64, False, False, "")
_Selection = (ast.Name, ast.Member, ast.Index, ast.PartSelect)

_PLAIN = (ast.Name, ast.Index, ast.PartSelect, ast.Member, ast.Unary, ast.Binary, ast.Concat)


class ExpressionElaborator(PatternElaborator):
    # ---- self-determined types ----

    def shape(self, e: ast.Expr) -> Type:
        match e:
            case ast.Number(width=width, signed=signed):
                return Vec(1 if e.fill else (32 if width is None else width), signed)
            case ast.RealNumber() | ast.TimeLiteral():
                return REAL
            case ast.StringLiteral(value=value):
                return Vec(max(8 * len(value), 8))
            case ast.Name(name=name):
                found = self.scope.find(name)  # the common cases first
                if found is not None and isinstance(found[0], Signal) and not found[0].dims:
                    return found[0].type
                if found is not None and isinstance(found[0], Param) and found[0].shape is None:
                    return found[0].value.type
                return self.shape_of(e).whole
            case ast.Unary(op=op, operand=operand):
                t = self.shape(operand)
                if op in ("+", "-"):
                    return t if isinstance(t, Real) else self.vector_type(t, operand)
                return self.vector_type(t, operand) if op == "~" else BIT
            case ast.Binary(op=op, left=left, right=right):
                return self._shape_of_binary(op, left, right)
            case ast.Ternary():
                return self.shape_of(e).whole
            case ast.Concat(parts=parts):
                if any(self._is_text(p) for p in parts):
                    return TEXT
                return Vec(sum(self._part_width(p) for p in parts))
            case ast.Replicate(count=count, parts=parts):
                if any(self._is_text(p) for p in parts) or self._repeats_text(count, parts):
                    return TEXT
                times = self.constant_int(count, "the count of a replication")
                return Vec(max(times, 0) * sum(self._part_width(p) for p in parts))
            case ast.Stream() if is_dynamic(self, e):
                return Vec(1)
            case ast.Stream(parts=parts):
                return Vec(sum(n.vec(self.as_bits(p)).width for p in parts))
            case ast.MinTypMax(typical=typical):
                return self.shape(typical)
        return self.shape_of(e).whole

    def shape_of(self, e: ast.Expr) -> Shape:
        """All that is known about the self-determined type of an expression."""
        if isinstance(e, (ast.Name, ast.Call)):
            let = self.let_value(e)
            if let is not None:
                return self.shape_of(let)
        match e:
            case ast.Name() | ast.Member() | ast.Index() | ast.PartSelect():
                if isinstance(e, ast.Name) and e.name in ("$", "null"):
                    return Shape(INTEGER if e.name == "$" else NULL)
                if isinstance(e, (ast.Name, ast.Member)):
                    method = self.shape_of_method(e) or self.shape_of_list_method(e)
                    if method is not None:
                        return method
                    if self.method_of(e) is not None:
                        return self.shape_of_call(ast.Call(e.pos, e, []))
                return self.selected(e).shape
            case ast.Call():
                return self.shape_of_call(e)
            case ast.With():
                found = self.shape_of_list_method(e)
                if found is None:
                    called = e.call.target if isinstance(e.call, ast.Call) else e.call
                    if isinstance(called, ast.Member):
                        self.shape(called.base)  # if that is nothing, it is the mistake
                    raise self.error(e.pos, "'with' follows a method of an array or queue (7.12)", "operand-type")
                return found
            case ast.Cast():
                return self.shape_of_cast(e)
            case ast.Ternary(then=then, other=other):
                return self._shape_of_choice(e, then, other)
            case ast.Increment(target=target) | ast.AssignExpr(target=target):
                return self.shape_of(target)
            case ast.Pattern():
                message = (
                    "the type of this pattern '{…} is not known here: write it before, as in type_name'{…} (IEEE 1800-2017 10.9)"
                )
                raise self.error(e.pos, message, "pattern")
            case ast.New():
                raise self.error(e.pos, "'new' is assigned to a variable of a class, or of a dynamic array", "operand-type")
            case ast.NamedArg() | ast.TypeExpr() | ast.EventArg():
                raise self.error(e.pos, "this has no value that could be used here", "no-value")
        return Shape(self.shape(e))

    def _shape_of_binary(self, op: str, left: ast.Expr, right: ast.Expr) -> Type:
        if op in _COMPARE or op in _LOGIC:
            return BIT
        a = self.shape(left)
        if op in _SHIFT:
            return self.vector_type(a, left)
        b = self.shape(right)
        if isinstance(a, Real) or isinstance(b, Real):
            return REAL
        if op == "**":
            return self.vector_type(a, left)
        return _wider(self.vector_type(a, left), self.vector_type(b, right))

    def _shape_of_choice(self, e: ast.Ternary, then: ast.Expr, other: ast.Expr) -> Shape:
        if isinstance(then, ast.Name) and then.name == "null":
            return self.shape_of(other)
        first, second = self.shape_of(then), self.shape_of(other)
        a, b = first.whole, second.whole
        if isinstance(a, Text) or isinstance(b, Text):
            return Shape(TEXT)
        if isinstance(a, Real) or isinstance(b, Real):
            return Shape(REAL)
        if isinstance(a, (Array, List, Handle)) or first.fields:
            return first
        return Shape(_wider(self.vector_type(a, then), self.vector_type(b, other)), labels=first.labels)

    def _part_width(self, part: ast.Expr) -> int:
        if isinstance(part, ast.Number) and part.width is None:
            if part.fill:
                return 1
            self.context.diagnostics.error(
                part.pos, "a number inside a concatenation needs a size, such as 8'd1 (5.1.14)", "unsized-concat"
            )
            return 32
        return self.vector_type(self.shape(part), part).width

    def _is_text(self, e: ast.Expr) -> bool:
        return not isinstance(e, (ast.Number, ast.StringLiteral)) and isinstance(self.shape(e), Text)

    def _repeats_text(self, count: ast.Expr, parts: list[ast.Expr]) -> bool:
        """Literals are repeated as a string where only the run tells how often (11.4.12.2)."""
        if not all(isinstance(p, ast.StringLiteral) for p in parts):
            return False
        return self.quietly(lambda: self.constant_int(count, "the count of a replication")) is None

    # ---- building ----

    def expr(self, e: ast.Expr) -> n.Expr:
        """The expression with its self-determined type."""
        if isinstance(e, (ast.Index, ast.PartSelect)):
            s = self.selected(e)
            if not s.dims and isinstance(s.type, Vec):
                return self.read_selected(s)
        return self.build(e, self.shape(e))

    def for_target(self, e: ast.Expr, target: Type, shape: Shape | None = None) -> n.Expr:
        """The value to assign to something of type `target` (5.4.1, 5.5.3); `shape` tells more of the target."""
        if type(target) is Vec and isinstance(e, _PLAIN) and (shape is None or (shape.labels is None and not shape.fields)):
            own = self.shape(e)
            if type(own) is Vec:  # by far the most
                return self._vector_for(e, own, target)
        if shape is not None and shape.labels is not None and not shape.unpacked:
            self.check_enum(e, shape.labels)
        if isinstance(e, ast.New) and not isinstance(target, List):
            return self.new_object(e, target)
        if isinstance(target, Array):
            return self.array_value(e, target, shape)
        if isinstance(target, List):
            return self.list_value(e, target, shape)
        if isinstance(e, ast.Pattern):
            return self.pattern_value(e, shape or Shape(target))
        if shape is not None and shape.spread is not None:
            packed = self.into_structure(e, shape)
            if packed is not None:
                return packed
        if (isinstance(e, ast.Ternary) and isinstance(target, (Handle, Text, Link))) or (
            isinstance(e, ast.Ternary) and holds_pattern(e)
        ):
            return n.Choice(
                target, self.expr(e.cond), self.for_target(e.then, target, shape), self.for_target(e.other, target, shape)
            )
        if isinstance(target, Text):
            return self.text(e, True)
        if isinstance(target, Link):
            return self.link_value(e, target)
        t = self.shape(e)
        if isinstance(target, Handle):
            return self.handle_value(e, target)
        if isinstance(t, Text) and isinstance(target, Vec):
            message = (
                f"{self.words(e)} is a string, which has no number of its own: a cast says that its characters are meant (6.16)"
            )
            self.context.diagnostics.warning(e.pos, message, "string-value")
            return n.SysCall(target, "$text_into", (self.build(e, TEXT),), e.pos)
        if isinstance(target, Real):
            made = self.to_real(self.build(e, t if isinstance(t, Real) else self.vector_type(t, e)))
            return fold_if_constant(n.ToReal(target, made)) if target.short and made.type != target else made
        if isinstance(target, EventType):
            raise self.error(e.pos, "an event holds no value; use '->' to trigger it", "operand-type")
        if isinstance(t, Real):
            return n.ToVec(target, self.build(e, t))
        if isinstance(t, EventType):
            raise self.error(e.pos, "an event has no value to assign", "operand-type")
        if isinstance(t, Handle):
            raise self.error(e.pos, "an object is no number; a variable of its class can hold it (8.4)", "operand-type")
        if isinstance(e, ast.Number) and e.fill:
            return _fill(e, target.width)
        t = self.vector_type(t, e)
        if isinstance(e, ast.Stream):
            return self._stream_for(e, target)
        made = self._vector_for(e, t, target)
        lists = lists_in(shape) if shape is not None and shape.fields else ()
        return n.Fresh(made.type, made, lists) if lists else made

    def _vector_for(self, e: ast.Expr, own: Vec, target: Vec) -> n.Expr:
        """The value of an expression, whose own type is `own`, in the width of the target where that is more."""
        wide = Vec(max(own.width, target.width), own.signed, own.four)
        return fold_resize(self.build(e, wide), Vec(target.width, own.signed, target.four))

    def handle_value(self, e: ast.Expr, target: Handle) -> n.Expr:
        """A handle for a variable of a class: null, or an object of that class or one that extends it (8.15)."""
        t = self.shape(e)
        if isinstance(t, EventType) and events.is_event_handle(target):
            return events.value_of(self.itself, self.itself.event_signal(e), e.pos)
        if not isinstance(t, Handle):
            needed = "an event or null" if events.is_event_handle(target) else f"an object of class '{target.name}' or null"
            raise self.error(e.pos, f"{needed} is needed here", "operand-type")
        wanted, given = self.class_of_type(target), self.class_of_type(t)
        if given is not None and wanted is not None and wanted not in given.line():
            message = f"an object of class '{given.tree.name}' is no '{wanted.tree.name}'; $cast tries it (8.16)"
            raise self.error(e.pos, message, "class")
        return self.build(e, t)

    def link_value(self, e: ast.Expr, target: Link) -> n.Expr:
        """A virtual interface: an instance, another virtual one of the same interface, or null."""
        if isinstance(e, ast.Name) and e.name == "null":
            return n.Const(target, 0)
        made = self.link_to(e) or self.expr(e)
        if made.type != target:
            raise self.error(e.pos, f"an instance of the interface '{target.name}' is needed here (25.9)", "operand-type")
        return made

    def truth(self, e: ast.Expr) -> n.Expr:
        built = self.expr(e)
        if isinstance(built.type, EventType):
            message = f"{self.words(e)} is an event, which has no value: '@' waits for it, '.triggered' tells whether it happened (15.5.3)"
            raise self.error(e.pos, message, "operand-type")
        if isinstance(built.type, (Array, List)):
            self.vector_type(built.type, e)
        return built

    def build(self, e: ast.Expr, t: Type) -> n.Expr:
        """The expression in a context of type `t`, which is at least as wide as its own."""
        if isinstance(e, (ast.Name, ast.Call)):
            let = self.let_value(e)
            if let is not None:
                return self.build(let, t)
        if isinstance(t, Real):
            return self._build_real(e)
        if not isinstance(t, Vec):
            return self._build_whole(e, t)
        match e:
            case ast.Number(val=val, unk=unk, width=width):
                if e.fill:
                    return _fill(e, t.width)
                own = Vec(32 if width is None else width, e.signed)
                if width is None and unk >> 31 and t.width > 32:  # 3.5.1: x and z extend an unsized number
                    high = ((1 << t.width) - 1) & ~((1 << 32) - 1)
                    return n.Const(t, val | (high if val >> 31 & 1 else 0), unk | high)
                return self._adapt(self._number(own, val, unk), t)
            case ast.StringLiteral(value=value):
                const = n.Const(Vec(max(8 * len(value), 8)), int.from_bytes(value, "big"), 0, True)
                return self._adapt(const, t)
            case ast.Name() | ast.Member() | ast.Index() | ast.PartSelect():
                return self._build_selection(e, t)
            case ast.Unary():
                return self._unary(e, t)
            case ast.Binary():
                return self._binary(e, t)
            case ast.Ternary(cond=cond, then=then, other=other):
                c = self.truth(cond)
                if isinstance(t, Text):
                    return n.Choice(TEXT, c, self.text(then), self.text(other))
                a, b = self.build_operand(then, t), self.build_operand(other, t)
                if isinstance(c, n.Const) and not c.unk:
                    return a if c.val & ~c.unk else b
                return n.Choice(t, c, a, b)
            case ast.Concat(parts=parts) if isinstance(t, Text):
                return self.text_concat(parts)
            case ast.Replicate(count=count, parts=parts) if isinstance(t, Text):
                return n.SysCall(TEXT, "$text_repeat", (self.text_concat(parts), self.expr(count)), e.pos)
            case ast.Concat(parts=parts):
                built = tuple(self._part(p) for p in parts)
                made = n.Concat(Vec(sum(n.vec(p).width for p in built)), built)
                return self._adapt(_folded(made, built), t)
            case ast.Replicate(count=count, parts=parts):
                times = self.constant_int(count, "the count of a replication")
                if times < 0:
                    raise self.error(e.pos, f"the count of a replication can't be {times}", "replication")
                built = tuple(self._part(p) for p in parts)
                inner: n.Expr = n.Concat(Vec(sum(n.vec(p).width for p in built)), built)
                if len(built) == 1:
                    inner = built[0]
                width = n.vec(inner).width * times
                return self._adapt(_folded(n.Repeat(Vec(width), times, inner), (inner,)), t)
            case ast.Stream():
                return self._adapt(self.stream(e), t)
            case ast.Call():
                return self._adapt(self.build_call(e), t)
            case ast.With():
                return self._adapt(self.build_list_method(e), t)
            case ast.Cast():
                return self._adapt(self.build_cast(e), t)
            case ast.Increment() | ast.AssignExpr():
                return self._adapt(self._assigning(e), t)
            case ast.MinTypMax(typical=typical):
                return self.build(typical, t)
        raise self.error(e.pos, "this has no value that could be used here", "no-value")

    def _build_selection(self, e: ast.Expr, t: Vec) -> n.Expr:
        if isinstance(e, ast.Name):
            if e.name == "null":
                return n.Const(t, 0)
            if e.name == "$":
                return self._adapt(self.last_index(e), t)
            found = self.scope.find(e.name)
            if found is not None and isinstance(found[0], Signal) and not found[0].dims:
                return self._adapt(n.Ref(found[0].type, found[0]), t)
        if isinstance(e, (ast.Name, ast.Member)):
            if self.method(e) is not None:
                return self._adapt(self.build_method(e), t)
            if self.shape_of_list_method(e) is not None:
                return self._adapt(self.build_list_method(e), t)
            if self.method_of(e) is not None:
                return self._adapt(self.build_call(ast.Call(e.pos, e, [])), t)
        got = self.read(e)
        if isinstance(got.type, EventType):
            raise self.error(e.pos, "an event has no value; '.triggered' says whether it happened", "operand-type")
        if isinstance(got.type, Array):
            self.vector_type(got.type, e)
        return self._adapt(got, t)

    def _build_whole(self, e: ast.Expr, t: Type) -> n.Expr:
        """A value that is no number: an array, or an event where it is waited for."""
        if isinstance(t, Array):
            return self.array_value(e, t, None)
        if isinstance(e, _Selection):
            return self.read(e)
        raise self.error(e.pos, "an event has no value that could be used here", "no-value")

    def build_operand(self, e: ast.Expr, t: Vec) -> n.Expr:
        own = self.shape(e)
        if isinstance(own, Real):
            return n.ToVec(t, self._build_real(e))
        return self.build(e, t)

    def _number(self, own: Vec, val: int, unk: int) -> n.Expr:
        keep = (1 << own.width) - 1
        return n.Const(own, val & keep, unk & keep)

    def _adapt(self, e: n.Expr, t: Vec) -> n.Expr:
        """A simple operand converted to the type of its context (5.5.2)."""
        if isinstance(e.type, Real):
            return n.ToVec(t, e)
        own = n.vec(e)
        if own.width == t.width:
            if own.signed == t.signed:
                return e
            return n.Resize(Vec(t.width, t.signed, own.four), e) if not isinstance(e, n.Const) else fold_resize(e, t)
        return fold_resize(e, Vec(t.width, t.signed, own.four))

    def _part(self, part: ast.Expr) -> n.Expr:
        if isinstance(part, ast.Replicate):
            times = self.constant_int(part.count, "the count of a replication")
            if times == 0:
                return n.Concat(Vec(0), ())
        e = self.expr(part)
        if not isinstance(e.type, Vec):
            raise self.error(part.pos, "a real number or event can't be part of a concatenation", "operand-type")
        return e

    def _build_real(self, e: ast.Expr) -> n.Expr:
        t = self.shape(e)
        if not isinstance(t, Real):
            return self.to_real(self.build(e, self.vector_type(t, e)))
        match e:
            case ast.RealNumber(value=value):
                return n.RealConst(REAL, value)
            case ast.TimeLiteral(seconds=seconds):
                return n.RealConst(REAL, seconds / 10.0 ** self.time_unit())
            case ast.Name() | ast.Member() | ast.Index():
                if isinstance(e, (ast.Name, ast.Member)):
                    if self.method(e) is not None:
                        return self.build_method(e)
                    if self.shape_of_list_method(e) is not None:
                        return self.build_list_method(e)
                    if self.method_of(e) is not None:
                        return self.build_call(ast.Call(e.pos, e, []))
                return self.read(e)
            case ast.Unary(op=op, operand=operand):
                return fold_if_constant(n.Unary(REAL, op, self._build_real(operand)))
            case ast.Binary(op=op, left=left, right=right):
                if op in ("%", "&", "|", "^", "^~", "~^"):
                    raise self.error(e.pos, f"the operator {op} takes no real numbers (5.1.2)", "operand-type")
                return fold_if_constant(n.Binary(REAL, op, self._build_real(left), self._build_real(right)))
            case ast.Ternary(cond=cond, then=then, other=other):
                return n.Choice(REAL, self.truth(cond), self._build_real(then), self._build_real(other))
            case ast.Call():
                return self.build_call(e)
            case ast.With():
                return self.build_list_method(e)
            case ast.Cast():
                return self.build_cast(e)
            case ast.Increment() | ast.AssignExpr():
                return self._assigning(e)
            case ast.MinTypMax(typical=typical):
                return self._build_real(typical)
        raise self.error(e.pos, "this has no value that could be used here", "no-value")

    def to_real(self, e: n.Expr) -> n.Expr:
        if isinstance(e.type, Real):
            return e
        return fold_if_constant(n.ToReal(REAL, e))

    def _unary(self, e: ast.Unary, t: Vec) -> n.Expr:
        op = e.op
        if op in ("+", "-", "~"):
            return fold_if_constant(n.Unary(t, op, self.build(e.operand, t)))
        operand = self.truth(e.operand)
        if op != "!" and not isinstance(operand.type, Vec):
            raise self.error(e.pos, f"the operator {op} takes no real numbers (5.1.2)", "operand-type")
        return self._adapt(fold_if_constant(n.Unary(BIT, op, operand)), t)

    def _binary(self, e: ast.Binary, t: Vec) -> n.Expr:
        op = e.op
        if op in _CONTEXT:
            return self._chain(e, t)
        if op in _SHIFT or op == "**":
            amount = self.expr(e.right)
            self.vector_type(amount.type, e.right)
            return fold_if_constant(n.Binary(t, op, self.build(e.left, t), amount))
        if op in ("&&", "||"):
            return self._adapt(fold_if_constant(n.Binary(BIT, op, self.truth(e.left), self.truth(e.right))), t)
        if op == "->":  # 11.4.7
            return self._adapt(n.Binary(BIT, "||", n.Unary(BIT, "!", self.truth(e.left)), self.truth(e.right)), t)
        if op == "<->":
            a, b = n.Unary(BIT, "!", self.truth(e.left)), n.Unary(BIT, "!", self.truth(e.right))
            return self._adapt(n.Binary(BIT, "==", a, b), t)
        if op == "inside":
            return self._adapt(self._inside(e), t)
        return self._adapt(self.compare(op, e.left, e.right), t)

    def _chain(self, e: ast.Binary, t: Vec) -> n.Expr:
        """a + b - c …: only its operands are asked for their types, not each sum on the way; none is real if the whole is not (11.3.1)."""
        links = [e]
        while isinstance(below := links[-1].left, ast.Binary) and below.op in _CONTEXT:
            links.append(below)
        made = self.build_operand(links[-1].left, t)
        for link in reversed(links):
            made = fold_if_constant(n.Binary(t, link.op, made, self.build_operand(link.right, t)))
        return made

    def compare(self, op: str, left: ast.Expr, right: ast.Expr) -> n.Expr:
        if isinstance(left, ast.TypeExpr) and isinstance(right, ast.TypeExpr) and op in _EQUALITY:  # 6.23
            same = matching(self.resolve_type(left.type), self.resolve_type(right.type))
            return n.Const(BIT, int(same == op.startswith("=")))
        if isinstance(right, ast.Pattern) or isinstance(left, ast.Pattern):
            known = self.shape_of(left if isinstance(right, ast.Pattern) else right)
            sides = [self.for_target(x, known.whole, known) for x in (left, right)]
            return self._compare_whole(op, sides[0], sides[1])
        a, b = self.shape(left), self.shape(right)
        if isinstance(a, (List, Array)) or isinstance(b, (List, Array)):
            if op not in _EQUALITY:
                raise self.error(left.pos, f"the operator {op} does not compare arrays (11.2.2)", "operand-type")
            if not isinstance(a, List) and not isinstance(b, List):  # one of them may be inside of a structure
                whole = a if isinstance(a, Array) else b
                assert isinstance(whole, Array)
                return self._compare_whole(op, self.array_value(left, whole, None), self.array_value(right, whole, None))
            return self._compare_whole(op, self.list_source(left, True)[0], self.list_source(right, True)[0])
        if isinstance(a, Text) or isinstance(b, Text):
            return self.text_compare(op, left, right)
        if op in _EQUALITY and any(isinstance(x, EventType) or events.is_event_handle(x) for x in (a, b)):  # 15.5.5.3
            kind = events.event_class(self.itself, left.pos).type
            return n.Binary(BIT, op, self.handle_value(left, kind), self.handle_value(right, kind))
        if isinstance(a, Real) or isinstance(b, Real):
            return fold_if_constant(n.Binary(BIT, op, self._build_real(left), self._build_real(right)))
        common = _wider(self.vector_type(a, left), self.vector_type(b, right))
        return fold_if_constant(n.Binary(BIT, op, self.build(left, common), self.build(right, common)))

    def _compare_whole(self, op: str, a: n.Expr, b: n.Expr) -> n.Expr:
        def listed(x: n.Expr) -> n.Expr:
            return n.ArrayList(List(64, False, False, x.type.element, False), x) if isinstance(x.type, Array) else x

        if isinstance(a.type, Vec) and not isinstance(a.type, List):
            return n.Binary(BIT, op, a, b)
        same = n.ListValue(BIT, "equal", listed(a), (listed(b),))
        return same if op[0] == "=" else n.Unary(BIT, "!", same)

    def _inside(self, e: ast.Binary) -> n.Expr:
        assert isinstance(e.right, ast.Concat)
        result: n.Expr | None = None
        for part in e.right.parts:
            if isinstance(part, ast.MinTypMax):
                bounds = [
                    self.compare(op, e.left, bound)
                    for op, bound in ((">=", part.low), ("<=", part.high))
                    if not (isinstance(bound, ast.Name) and bound.name == "$")  # no bound at this end
                ]
                if len(bounds) == 2 and isinstance(bounds[0], n.Binary) and bounds[0].b == n.Const(bounds[0].b.type, 0):
                    bounds = bounds[not n.vec(bounds[0].a).signed :]  # nothing unsigned is below 0
                hit: n.Expr = n.Const(BIT, 1)
                if bounds:
                    hit = bounds[0] if len(bounds) == 1 else n.Binary(BIT, "&&", *bounds)
            else:
                hit = self.list_has(e.left, part) or self.compare("==?", e.left, part)
            result = hit if result is None else n.Binary(BIT, "||", result, hit)
        assert result is not None
        return result

    def _assigning(self, e: ast.Increment | ast.AssignExpr) -> n.Expr:
        """`x++`, or an assignment as a value (11.3.6, 11.4.2)."""
        one = ast.Number(e.pos, None, True, 1, 0)
        if isinstance(e, ast.Increment):
            step = ast.Assign(e.pos, e.target, one, False, e.op[0])
        else:
            step = ast.Assign(e.pos, e.target, e.value, False, e.op)
        steps = self.statement(step)
        value = self.read(e.target)
        if isinstance(e, ast.AssignExpr) or e.before:
            return n.Effect(value.type, steps, value)
        old = self.local(value.type, e.pos)
        place = n.LRef(old, None, None, n.vec(value).width if isinstance(value.type, Vec) else 64)
        return n.Effect(value.type, [n.Assign(self.site(e), (place,), value), *steps], n.Ref(value.type, old))

    # ---- streams (IEEE 1800-2017 11.4.14) ----

    def slice_of(self, e: ast.Stream) -> int:
        if e.slice is None:
            return 1
        if isinstance(e.slice, ast.DataType):
            t = self.resolve_type(e.slice).type
            return self.vector_type(t, ast.Name(e.pos, "")).width
        meant = self.type_meant(e.slice)
        if meant is not None:
            return self.vector_type(meant.type, e.slice).width
        return max(self.constant_int(e.slice, "the size of the slices"), 1)

    def stream(self, e: ast.Stream) -> n.Expr:
        parts = tuple(self.as_bits(p) for p in e.parts)
        made: n.Expr = parts[0] if len(parts) == 1 else n.Concat(Vec(sum(n.vec(p).width for p in parts)), parts)
        if not e.left:
            return made
        if isinstance(made, (n.Ref, n.Const)):
            return reversed_slices(made, self.slice_of(e))
        kept = self.local(made.type, e.pos)
        keep = n.Assign(self.site(e), (n.LRef(kept, None, None, n.vec(made).width),), made)
        return n.Effect(made.type, [keep], reversed_slices(n.Ref(made.type, kept), self.slice_of(e)))

    def _stream_for(self, e: ast.Stream, target: Vec) -> n.Expr:
        """A stream fills its target from the left; what is left over is 0 (11.4.14.2)."""
        if is_dynamic(self, e):
            return fold_resize(
                streams.bits_of(streams.stream(self, e), target, e.pos, self.site(e)), Vec(target.width, False, target.four)
            )
        made = self.stream(e)
        width = n.vec(made).width
        if width > target.width:
            raise self.error(e.pos, f"the stream has {width} bits, more than the {target.width} of its target", "stream-width")
        if width < target.width:
            made = n.Concat(Vec(target.width), (made, n.Const(Vec(target.width - width), 0)))
        return fold_resize(made, Vec(target.width, False, target.four))

    # ---- constants ----

    def constant(self, e: ast.Expr, what: str) -> n.Expr:
        return self.constant_of(self.expr(e), e.pos, what)

    def constant_of(self, built: n.Expr, pos: int, what: str) -> n.Expr:
        if isinstance(built, (n.Const, n.RealConst, n.TextConst)):
            return built
        try:
            return constant_parts(built)
        except NotConstant as reason:
            raise self.error(pos, f"{what} must be constant: {reason}", "not-constant") from None
        except RecursionError:
            raise self.error(pos, f"{what} can't be computed: the function calls itself too deeply", "not-constant") from None

    def constant_int(self, e: ast.Expr, what: str) -> int:
        value = self.constant(e, what)
        if isinstance(value, n.RealConst):
            return round(value.value)
        if not isinstance(value, n.Const):
            raise self.error(e.pos, f"{what} must be a whole number", "not-constant")
        if value.unk:
            raise self.error(e.pos, f"{what} is unknown (x or z)", "not-constant")
        return int_of(value)


def _folded(made: n.Expr, parts: tuple[n.Expr, ...]) -> n.Expr:
    return fold(made) if all(isinstance(p, n.Const) for p in parts) else made


def _wider(a: Vec, b: Vec) -> Vec:
    return Vec(max(a.width, b.width), a.signed and b.signed, a.four or b.four)


def _fill(e: ast.Number, width: int) -> n.Expr:
    ones = (1 << width) - 1
    return n.Const(Vec(width), ones if e.val else 0, ones if e.unk else 0)
