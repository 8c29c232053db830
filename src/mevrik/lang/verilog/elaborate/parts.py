"""What a packed structure or array is made of, for those who look at its value (IEEE 1800-2017 7.2, 7.4)."""

from __future__ import annotations

from mevrik.design.record import replace
from mevrik.design.types import Vec
from mevrik.design.unit import Part
from mevrik.lang.verilog.elaborate.scope import Shape

MOST = 256  # elements of an array that are shown one by one


def parts_of(shape: Shape) -> tuple[Part, ...]:
    """The members or elements, the highest bits first; nothing for what is just bits."""
    if type(shape.type) is not Vec or shape.unpacked:
        return ()
    around = len(shape.packed) - 1
    if around > 0:
        return _elements(shape, shape.type)
    members = [f for f in shape.fields.values() if type(f.type) is Vec]
    if shape.union:
        return tuple(_part(f.name, f.low, f.shape) for f in members)
    return tuple(_part(f.name, f.low, f.shape) for f in sorted(members, key=lambda f: -f.low))


def _elements(shape: Shape, whole: Vec) -> tuple[Part, ...]:
    left, right = shape.packed[0]
    count = abs(left - right) + 1
    if count > MOST:
        return ()
    width = whole.width // count
    inner = replace(shape, type=Vec(width, whole.signed, whole.four), packed=shape.packed[1:])
    step = 1 if left >= right else -1
    return tuple(_part(f"[{left - step * k}]", (count - 1 - k) * width, inner) for k in range(count))


def _part(name: str, low: int, shape: Shape) -> Part:
    t = shape.type
    assert isinstance(t, Vec)
    inner = parts_of(shape)
    left, right = shape.packed[0] if len(shape.packed) == 1 else (t.width - 1, 0)
    return Part(name, low, t.width, t.signed, left, right, None if len(shape.packed) > 1 else shape.labels, inner)
