"""Types in words, as $typename returns them (IEEE 1800-2017 20.6.1)."""

from __future__ import annotations

from mevrik.design.types import EventType, Link, List, Real, Text, Vec
from mevrik.lang.verilog.elaborate.scope import Shape

# The vector types that have a keyword.
CASTS: dict[str, Vec] = {
    "int": Vec(32, True, False), "integer": Vec(32, True), "byte": Vec(8, True, False), "shortint": Vec(16, True, False),
    "longint": Vec(64, True, False), "bit": Vec(1, False, False), "logic": Vec(1), "reg": Vec(1), "time": Vec(64),
}  # fmt: skip
_NAMES = {v: k for k, v in reversed(CASTS.items())}


def type_words(shape: Shape) -> str:
    """The type without default signs and blanks; an enum or structure shows what it is made of and then the name of its
    declaration, the ranges of a fixed array stand behind a `$`."""
    dims = "".join(f"[{a}:{b}]" for a, b in shape.unpacked)
    words = _element_words(shape)
    return f"{words}${dims}" if dims else words


def _element_words(shape: Shape) -> str:
    t = shape.type
    if shape.labels is not None and isinstance(t, Vec):
        sign = "s" if t.signed else ""
        values = ",".join(f"{name}={_signed(value, t)}{t.width}'{sign}d{_size(value, t)}" for value, name in shape.labels.items())
        base = "" if t == CASTS["int"] else " " + _vector_words(Shape(t, shape.packed))
        return f"enum{base}{{{values}}}{shape.named}"
    if shape.fields and isinstance(t, Vec):
        head = ("union" if shape.union else "struct") + ("" if shape.loose else " packed")
        head += " signed" if t.signed and not shape.loose else ""
        members = "".join(f"{_element_words(f.shape)} {f.name}{_bounds(f.shape)};" for f in shape.fields.values())
        return f"{head}{{{members}}}{shape.named}"
    if isinstance(t, Real):
        return "real"
    if isinstance(t, Text):
        return "string"
    if isinstance(t, List):
        key = "[$]" if t.queue else "[]" if t.key is None else "[" + type_words(shape.keys or Shape(t.key)) + "]"
        return type_words(shape.inner or Shape(t.element)) + "$" + key
    if isinstance(t, EventType):
        return "event"
    if isinstance(t, Link):
        return t.name
    return _vector_words(shape) if isinstance(t, Vec) else ""


def _vector_words(shape: Shape) -> str:
    t = shape.type
    assert isinstance(t, Vec)
    words = _NAMES.get(t, "")
    if words and not (t.width == 1 and shape.packed):
        return words
    ranges = shape.packed or (((t.width - 1, 0),) if t.width > 1 else ())
    return ("logic" if t.four else "bit") + (" signed" if t.signed else "") + "".join(f"[{a}:{b}]" for a, b in ranges)


def _bounds(shape: Shape) -> str:
    return "".join(f"[{a}:{b}]" for a, b in shape.unpacked)


def _size(value: int, t: Vec) -> int:
    return (1 << t.width) - value if _signed(value, t) else value


def _signed(value: int, t: Vec) -> str:
    return "-" if t.signed and value >> (t.width - 1) else ""
