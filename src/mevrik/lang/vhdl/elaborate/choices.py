"""The choices of case statements and selected assignments (IEEE 1076-2008, 10.9 and 10.5.4)."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.expressions import Expressions
from mevrik.lang.vhdl.elaborate.scope import Wrong

Listed = list[tuple[t.Expr | t.Bounds, a.Expr]]  # each choice and how it is written


class Choices(Expressions):
    def subject(self, e: a.Expr) -> t.Expr:
        kinds = self.types(e)
        value = self.value(e, None) if len(kinds) == 1 else self.value(e, self.plain(kinds[0]))
        if getattr(value.type.type, "universal", False):
            value = self.value(e, self.std.integer)
        kind = value.type.type
        if not value.type.discrete and not (
            isinstance(kind, t.ArrayType) and len(kind.indexes) == 1 and isinstance(kind.element.type, t.Enum)
        ):
            raise Wrong(e.pos, f"a case chooses among discrete values or strings of characters; this is {value.type!r}", "case")
        return value

    def choices(self, choices: list[a.Expr], subject: t.Expr) -> list[t.Expr | t.Bounds]:
        found: list[t.Expr | t.Bounds] = []
        for c in choices:
            if isinstance(c, a.Others):
                return []
            if self._is_range(c):
                bounds, _ = self.bounds_here(c, subject.type)
                found.append(t.Bounds(self._static(bounds.left), self._static(bounds.right), bounds.down))
            else:
                want = subject.type
                found.append(self._static(self.value(c, want if not want.scalar else self.plain(want.type))))
        return found

    def _static(self, choice: t.Expr) -> t.Expr:
        """10.9: a choice is known before the run."""
        if isinstance(choice, (t.Const, t.Data)):
            return choice
        for node in t.nodes(choice):
            if isinstance(node, t.Ref) and node.object.kind in ("signal", "variable", "param", "loop"):
                o = node.object
                what = {"param": "parameter", "loop": "loop parameter"}.get(o.kind, o.kind)
                message = (
                    f"'{o.text or o.name}' is a {what}, whose value only the run gives: a choice has to be known before (10.9)"
                )
                raise Wrong(choice.pos or node.pos, message, "not-static")
        if not choice.type.scalar:
            return choice
        if any(isinstance(node, t.Ref) and isinstance(node.object.owner, t.Subprogram) for node in t.nodes(choice)):
            raise Wrong(choice.pos, "the value of this choice has to be known before the run (10.9)", "not-static")
        return t.Const(choice.type, choice.pos, self.constant(choice))

    def check_choices(
        self,
        subject: t.Expr,
        arms: list[tuple[list[t.Expr | t.Bounds], list[t.Stmt]]],
        matching: bool,
        pos: int,
        written: list[list[a.Expr]],
    ) -> None:
        """10.9: 'others' at the end, and every value at one choice."""
        others = any(not choices for choices, _ in arms)
        for k, (choices, _) in enumerate(arms):
            if not choices and k != len(arms) - 1:
                raise Wrong(written[k][0].pos, "'others' has to be the last choice", "case-others")
        listed = [(c, tree) for (choices, _), trees in zip(arms, written, strict=True) for c, tree in zip(choices, trees)]
        if matching:
            self._check_matching(subject, listed)
        else:
            self._check_cover(subject, listed, others, pos)

    def _check_matching(self, subject: t.Expr, choices: Listed) -> None:
        """10.9: the choice of a matching case is the one whose `?=` gives '1' (9.2.3); a value that two of them match has none of its own."""
        kind = subject.type.type
        element = kind.element.type if isinstance(kind, t.ArrayType) else kind
        if not isinstance(element, t.Enum) or not (element is self.std.bit.type or self.is_nine(element)):
            raise Wrong(
                subject.pos,
                f"a matching case chooses among bits (bit, std_ulogic, vectors of them); this is {subject.type!r}",
                "case",
            )
        earlier: list[tuple[str, ...]] = []
        for choice, tree in choices:
            if not isinstance(choice, t.Const | t.Data):
                continue
            codes = choice.values if isinstance(choice, t.Data) else [choice.value]
            bits = tuple(element.literals[code][1] for code in codes)
            self._check_length(subject, len(bits), tree)
            both = next((shared for old in earlier if (shared := _matched_by_both(old, bits))), None)
            if both is not None:
                self.diagnostics.warning(
                    tree.pos,
                    f'"{both}" matches this choice and an earlier one, which takes it: let the choices exclude each other (10.9)',
                    "case-overlap",
                )
            earlier.append(bits)

    def _check_length(self, subject: t.Expr, length: int, choice: a.Expr) -> None:
        bounds = subject.type.bounds
        if bounds is not None and bounds[0].static and bounds[0].length != length:
            raise Wrong(
                choice.pos, f"this choice has {length} elements, the expression of the case {bounds[0].length}", "case-length"
            )

    def _check_cover(self, subject: t.Expr, choices: Listed, others: bool, pos: int) -> None:
        """10.9: every value of the expression once."""
        kind = subject.type.type
        seen: dict[object, int] = {}
        covered = 0
        for c, tree in choices:
            if isinstance(c, t.Bounds):
                if not c.static:
                    return
                if c.low > c.high:
                    continue
                if c.high - c.low > 100000:
                    covered += c.high - c.low + 1
                    continue
                keys: list[object] = list(range(c.low, c.high + 1))
            elif isinstance(c, t.Const):
                keys = [c.value]
            elif isinstance(c, t.Data):
                keys = [c.values]
                self._check_length(subject, len(c.values), tree)
            else:
                return
            for key in keys:
                if key in seen:
                    raise Wrong(tree.pos, f"{self._choice_name(key, subject)} is chosen twice", "case-twice")
                seen[key] = tree.pos
            covered += len(keys)
        if others:
            return
        if isinstance(kind, (t.Enum, t.Integer)):
            whole_range = self.range_of(subject.type, pos)
            if isinstance(kind, t.Enum) and not whole_range.static:
                return
            if whole_range.static and covered < whole_range.high - whole_range.low + 1:
                missing = [v for v in range(whole_range.low, min(whole_range.high, whole_range.low + 300) + 1) if v not in seen]
                names = ", ".join(self._choice_name(v, subject) for v in missing[:4]) + (", ..." if len(missing) > 4 else "")
                raise Wrong(pos, f"the choices leave out {names}; add them or 'when others'", "case-missing")
        elif isinstance(kind, t.ArrayType) and isinstance(kind.element.type, t.Enum):
            bounds2 = subject.type.bounds
            if bounds2 is not None and bounds2[0].static:
                whole = len(kind.element.type.literals) ** bounds2[0].length
                if covered < whole:
                    raise Wrong(
                        pos, f"the choices cover {covered} of {whole} values of {subject.type!r}; add 'when others'", "case-missing"
                    )

    def _choice_name(self, key: object, subject: t.Expr) -> str:
        kind = subject.type.type
        if isinstance(kind, t.Enum) and isinstance(key, int) and 0 <= key < len(kind.literals):
            return kind.literals[key]
        if isinstance(key, bytes) and isinstance(kind, t.ArrayType) and isinstance(kind.element.type, t.Enum):
            return '"' + "".join(kind.element.type.literals[b].strip("'") for b in key) + '"'
        return str(key)


MATCHED = {"0": "0", "L": "0", "1": "1", "H": "1", "-": "01"}  # by `?=` (9.2.3); with any other value it does not give '1'


def _matched_by_both(one: tuple[str, ...], other: tuple[str, ...]) -> str | None:
    """A value of zeros and ones that both choices match."""
    shared = [set(MATCHED.get(x, "")) & set(MATCHED.get(y, "")) for x, y in zip(one, other)]
    return "".join(max(values) for values in shared) if len(one) == len(other) and all(shared) else None


def never_chosen(subject: t.Expr, choices: list[t.Expr | t.Bounds], before: list[list[t.Expr | t.Bounds]]) -> bool:
    """Whether a case whose subject is known does not take these choices; none are `others`, behind those of `before`."""
    if not isinstance(subject, t.Const):
        return False
    value = subject.value

    def fits(c: t.Expr | t.Bounds) -> bool:
        if isinstance(c, t.Bounds):
            return not c.static or (c.low <= value <= c.high)
        return not isinstance(c, t.Const) or c.value == value

    if not choices:
        return any(fits(c) for arm in before for c in arm)
    return not any(fits(c) for c in choices)
