"""Aggregates (IEEE 1076-2008 9.3.3)."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.lang.diagnostics import counted, nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.meanings import Meanings
from mevrik.lang.vhdl.elaborate.scope import (
    Wrong,
)


class Aggregates(Meanings):
    def bounds_here(self, e: a.Expr, want: t.Subtype) -> tuple[t.Bounds, t.Subtype]:
        raise NotImplementedError

    # ---- aggregates (9.3.3) ----

    def aggregate(self, e: a.Aggregate, want: t.Subtype | None) -> t.Expr:
        if want is None:
            raise Wrong(e.pos, "it is not clear of which type this aggregate is; qualify it: type'(...)", "ambiguous")
        if isinstance(want.type, t.RecordType):
            return self._record_aggregate(e, want)
        if isinstance(want.type, t.ArrayType):
            return self._array_aggregate(e, want, 0)
        raise Wrong(e.pos, f"{want!r} is needed here; this is an aggregate", "type")

    def _record_aggregate(self, e: a.Aggregate, want: t.Subtype) -> t.Expr:
        kind = want.type
        assert isinstance(kind, t.RecordType)
        fields = want.field_types()
        values: list[t.Expr | None] = [None] * len(fields)
        for k, item in enumerate(e.items):
            if not item.choices:
                if k >= len(fields):
                    raise Wrong(item.pos, f"{want!r} has {counted(len(fields), 'element')}; this is one too many", "aggregate")
                chosen = [k]
            elif isinstance(item.choices[0], a.Others):
                chosen = [i for i, v in enumerate(values) if v is None]
                if not chosen:
                    continue
            else:
                chosen = []
                for choice in item.choices:
                    index = kind.index(choice.id) if isinstance(choice, a.Name) else -1
                    if index < 0:
                        name = getattr(choice, "text", "this")
                        hint = nearest(getattr(choice, "id", ""), [f.name for f in kind.fields])
                        raise Wrong(choice.pos, f"{want!r} has no element '{name}'{hint}", "undeclared")
                    chosen.append(index)
            for index in chosen:
                if values[index] is not None:
                    raise Wrong(item.pos, f"element '{kind.fields[index].text}' is given twice", "aggregate")
                values[index] = self.value(item.value, fields[index])
        missing = [kind.fields[i].text for i, v in enumerate(values) if v is None]
        if missing:
            raise Wrong(
                e.pos,
                f"the aggregate gives no value for element{'s' if len(missing) > 1 else ''} {', '.join(missing)} of {want!r}",
                "aggregate",
            )
        shape = want
        if not want.constrained:
            shape = t.Subtype(kind, want.name, fields=[v.type if not f.constrained else f for v, f in zip(values, fields)])  # type: ignore[union-attr]
        return t.Aggregate(shape, e.pos, [([], v) for v in values if v is not None])

    def _array_aggregate(self, e: a.Aggregate, want: t.Subtype, dim: int) -> t.Expr:
        kind = want.type
        assert isinstance(kind, t.ArrayType)
        if len(kind.indexes) > 1:
            return self._matrix(e, want)
        index, element = kind.indexes[0], want.elem
        items: list[tuple[list[t.Expr | t.Bounds | None], t.Expr]] = []
        positional = 0
        others = False
        spread = 0
        lows: list[Any] = []
        highs: list[Any] = []
        known = True
        down = False
        named = False
        for item in e.items:
            if not item.choices:
                value = self._element(item.value, element, kind)
                if value.type.type is kind and element.type is not kind:
                    spread += 1
                    if value.type.bounds is not None and value.type.static:
                        positional += value.type.bounds[0].length
                    else:
                        known = False
                    items.append(([], t.Convert(value.type, value.pos, value)))
                else:
                    positional += 1
                    items.append(([], value))
                continue
            if len(item.choices) == 1 and isinstance(item.choices[0], a.Others):
                others = True
                items.append(([None], self.value(item.value, element)))
                continue
            choices: list[t.Expr | t.Bounds | None] = []
            named = True
            for choice in item.choices:
                if self._is_range(choice):
                    bounds, _ = self.bounds_here(choice, index)
                    choices.append(bounds)
                    known = known and bounds.static
                    if bounds.static:
                        if bounds.low <= bounds.high:
                            lows.append(bounds.low)
                            highs.append(bounds.high)
                        down = bounds.ints[2]
                else:
                    at = self.value(choice, self.plain(index.type))
                    choices.append(at)
                    known = known and isinstance(at, t.Const)
                    if isinstance(at, t.Const):
                        lows.append(at.value)
                        highs.append(at.value)
            value = self._element(item.value, element, kind)
            items.append((choices, value))
        if named and positional:
            raise Wrong(e.pos, "an array aggregate is either positional or named, not both", "aggregate")
        target = want.bounds[0] if want.bounds is not None else None
        if others and target is None:
            raise Wrong(
                e.pos,
                f"'others' needs bounds, but {want!r} is unconstrained here; use an object or subtype with bounds",
                "aggregate",
            )
        if known and target is not None and target.static and not self.dead:
            count = positional if not named else len({i for lo, hi in zip(lows, highs) for i in range(lo, hi + 1)})
            self._count(e, want, target, count, others, named, lows, highs)
        bounds_out: list[t.Bounds] | None = None
        if target is not None and (others or not named):
            bounds_out = [target] if target.static or others else want.bounds
        elif known:
            if named:
                if not lows:
                    rng = target if target is not None else t.Bounds(t.Const(index, e.pos, 1), t.Const(index, e.pos, 0), False)
                else:
                    low, high = t.Const(index, e.pos, min(lows)), t.Const(index, e.pos, max(highs))
                    falls = target.down if target is not None and isinstance(target.down, bool) else False
                    single = len(e.items) == 1 and len(e.items[0].choices) == 1
                    if single and target is None:
                        falls = down
                    rng = t.Bounds(high, low, True) if falls else t.Bounds(low, high, False)
            else:
                start = self.range_of(index, e.pos)
                left = start.ints[0] if start.static else 0
                falls = start.ints[2] if start.static else False
                last = left - positional + 1 if falls else left + positional - 1
                rng = t.Bounds(t.Const(index, e.pos, left), t.Const(index, e.pos, last), falls)
            bounds_out = [rng]
        shape_element = want.element
        if not element.constrained and items:
            shape_element = items[0][1].type
        return t.Aggregate(t.Subtype(kind, want.name, None, bounds_out, shape_element), e.pos, items)

    def _count(
        self,
        e: a.Aggregate,
        want: t.Subtype,
        target: t.Bounds,
        count: int,
        others: bool,
        named: bool,
        lows: list[Any],
        highs: list[Any],
    ) -> None:
        length = target.length
        what = f"{want!r}" if want.name else "the array"
        if count > length or (count < length and not others):
            raise Wrong(e.pos, f"the aggregate has {count} elements, but the length of {what} is {length}", "aggregate-length")
        if others and named and lows and (min(lows) < target.low or max(highs) > target.high):
            bad = min(lows) if min(lows) < target.low else max(highs)
            raise Wrong(
                e.pos,
                f"index {bad} of the aggregate is outside of {what}, which is {target.ints[0]} {'downto' if target.down else 'to'} {target.ints[1]}",
                "index-range",
            )

    def _element(self, e: a.Expr, element: t.Subtype, array: t.ArrayType) -> t.Expr:
        """An element, or (2008) an array of the aggregate's type whose elements stand in line."""
        kinds = self.types(e)
        if any(self.agrees(k, element.type) for k in kinds):
            return self.value(e, element)
        if any(self.agrees(k, array) for k in kinds):
            return self.value(e, self.plain(array))
        return self.value(e, element)

    def _matrix(self, e: a.Aggregate, want: t.Subtype) -> t.Expr:
        """An array of several dimensions: nested aggregates, flattened to one level a dimension."""
        kind = want.type
        assert isinstance(kind, t.ArrayType)
        rest = t.ArrayType(kind.name, kind.pos, kind.indexes[1:], kind.element)
        inner = t.Subtype(rest, kind.name, None, want.bounds[1:] if want.bounds is not None else None, want.element)
        rows = t.ArrayType(kind.name, kind.pos, kind.indexes[:1], inner)
        outer = t.Subtype(rows, kind.name, None, want.bounds[:1] if want.bounds is not None else None, inner)
        made = self._array_aggregate(e, outer, 0)
        assert isinstance(made, t.Aggregate)
        bounds = None
        if made.type.bounds is not None:
            below = next((v.type.bounds for _, v in made.items if v.type.bounds is not None), None)
            if below is not None:
                bounds = [*made.type.bounds, *below]
        made.type = t.Subtype(kind, want.name, None, bounds, want.element)
        return made
