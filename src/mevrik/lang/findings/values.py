"""Findings about values: comparisons whose result is known, bits that get lost, case items that nothing reaches."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.evaluate import case_match
from mevrik.design.types import Handle, List, Text, Vec
from mevrik.design.unit import Process, Unit
from mevrik.design.values import Logic
from mevrik.lang.findings.base import Looker

_COMPARED = {"==", "===", "<", ">="}


class ValueFindings(Looker):
    def look(self, unit: Unit) -> None:
        for body in self.bodies.of_unit(unit):
            if isinstance(body.of, Process) and body.of.cell is not None:
                continue
            for s, parts in body.parts:
                for e in parts:
                    if isinstance(e, n.Binary) and e.op in _COMPARED:
                        self._compare(s, e)
                if isinstance(s, (n.Assign, n.Schedule, n.Drive)):
                    self._lost_bits(s)
                elif isinstance(s, n.Case):
                    self._overlap(s)

    def _compare(self, s: n.Stmt, e: n.Binary) -> None:
        for a, b in ((e.a, e.b), (e.b, e.a)):
            inner = a.a if isinstance(a, n.Resize) else a
            if not isinstance(b, n.Const) or not isinstance(inner, (n.Ref, n.Bits)) or not isinstance(inner.type, Vec):
                continue
            if b.unk and e.op == "==":
                self.warn(self.pos(s.site), "a comparison with x or z by '==' is never true: '===' compares them too", "never-true")
            elif e.op in ("==", "===") and not inner.type.signed and not b.unk and b.val >> inner.type.width:
                message = f"this comparison is never true: {b.val} does not fit into {inner.type.width} bits"
                self.warn(self.pos(s.site), message, "never-true")
            elif b is e.b and not b.unk and b.val == 0 and e.op in ("<", ">=") and not n.vec(e.a).signed:
                message = "this comparison is never true" if e.op == "<" else "this comparison is always true"
                self.warn(self.pos(s.site), f"{message}: an unsigned value is never below 0", "never-true")

    def _lost_bits(self, s: n.Assign | n.Schedule | n.Drive) -> None:
        """An operand that has more bits than the target holds. Sums wrap around on purpose, so carries are not counted."""
        value = s.value
        if (
            not isinstance(value, n.Resize)
            or value.meant
            or not isinstance(value.a.type, Vec)
            or isinstance(value.a.type, (Text, List, Handle))
        ):
            return
        width = n.vec(value).width
        if n.vec(value.a).width <= width or _pushes_out(value.a, s.target):
            return
        needed = _needed(value.a)
        if needed is not None and needed > width:
            target = s.target[0].signal.name
            self.warn(
                self.pos(s.site),
                f"the value has {needed} bits, '{target}' takes {width}: the upper {needed - width} are lost; select the bits that are meant",
                "truncated",
            )

    def _overlap(self, s: n.Case) -> None:
        """A constant label whose values earlier labels have all taken."""
        if s.kind not in ("case", "casez", "casex", "inside") or not isinstance(s.subject.type, Vec):
            return
        seen: list[n.Const] = []
        for labels, body in s.arms:
            for label in labels:
                if not isinstance(label, n.Const):
                    return
                if any(_within(s.kind, label, old) for old in seen):
                    at = body[0].site if body else s.site
                    self.warn(
                        self.pos(at) or self.pos(s.site),
                        "no value reaches this case item: earlier ones take all that it names",
                        "case-overlap",
                    )
                seen.append(label)


def _pushes_out(value: n.Expr, target: tuple[n.LRef, ...]) -> bool:
    """A shift register that lets its oldest bit fall out: `q <= {q, d}`."""
    first = value.parts[0] if isinstance(value, n.Concat) and value.parts else None
    return isinstance(first, n.Ref) and first.signal is target[0].signal


def _within(kind: str, label: n.Const, old: n.Const) -> bool:
    """Whether everything that `label` matches is matched by `old`."""
    width = n.vec(label).width
    a, b = Logic(width, label.val, label.unk), Logic(width, old.val, old.unk)
    if kind in ("case", "inside") and (a.unk or b.unk) and kind == "case":
        return a == b
    free_a = a.unk if kind in ("casex", "inside") else a.unk & ~a.val if kind == "casez" else 0
    free_b = b.unk if kind in ("casex", "inside") else b.unk & ~b.val if kind == "casez" else 0
    return not free_a & ~free_b and case_match(kind, a, b)


def _needed(e: n.Expr) -> int | None:
    """The bits that the operands of a value take; None where that can't be told."""
    match e:
        case n.Const(val=val, unk=unk):
            t = e.type
            if isinstance(t, Vec) and t.signed and not unk and val >> (t.width - 1) & 1:
                return ((1 << t.width) - 1 - val).bit_length() + 1  # a small negative number, whose sign fills the rest
            return (val | unk).bit_length()
        case n.Ref() | n.Bits():
            t = e.type
            if not isinstance(t, Vec) or (t.signed and t.width == 32):
                return None  # an integer holds small numbers most of the time
            return t.width
        case n.Resize(a=a):
            needed = _needed(a)
            return None if needed is None else min(needed, n.vec(e).width)
        case n.Unary(op=op, a=a):
            return _needed(a) if op in ("+", "-", "~") else 1
        case n.Binary(op=op, a=a, b=b):
            return _needed_by(op, a, b)
        case n.Choice(a=a, b=b):
            return _most(_needed(a), _needed(b))
        case n.Concat(parts=parts):
            total = n.vec(e).width
            first = _needed(parts[0]) if parts else 0
            return None if first is None else total - n.vec(parts[0]).width + first
    return None


def _summand(e: n.Expr) -> int | None:
    """Among unsigned operands a negative constant is a large one, but adds what it says."""
    if isinstance(e, n.Const) and not e.unk:
        return min(e.val.bit_length(), ((1 << n.vec(e).width) - 1 - e.val).bit_length() + 1)
    return _needed(e)


def _needed_by(op: str, a: n.Expr, b: n.Expr) -> int | None:
    if op in ("==", "!=", "===", "!==", "<", "<=", ">", ">=", "&&", "||", "==?", "!=?"):
        return 1
    if op in ("<<", "<<<"):
        return _needed(a)
    if op in (">>", ">>>"):
        needed = _needed(a)
        return None if needed is None or not isinstance(b, n.Const) else max(needed - b.val, 0)
    x, y = (_summand(a), _summand(b)) if op in ("+", "-") else (_needed(a), _needed(b))
    if op == "&":
        return min(x, y) if x is not None and y is not None else x if y is None else y
    if op in ("|", "^", "+", "-", "~^", "^~"):
        return _most(x, y)
    if op == "%" and isinstance(b, n.Const):
        return max(b.val - 1, 0).bit_length()
    return None


def _most(x: int | None, y: int | None) -> int | None:
    return None if x is None or y is None else max(x, y)
