"""What the rest of Mevrik sees of a typed model: units, and for each signal what of it is shown and recorded."""

from __future__ import annotations

from mevrik.design import typed as t
from mevrik.design.types import REAL, Nine, Type, Vec
from mevrik.design.unit import Design, InstanceDecl, Signal, Site, Unit

NINE, BITS, NUMBER = 0, 1, 2  # LEAF_ of kernel/typed.h
_MOST = 4096  # parts of one signal that are shown


def design_of(model: t.Model, sites: list[Site]) -> Design:
    """A design whose units stand for the regions of the model."""
    units: list[Unit] = []
    tops = [InstanceDecl(top.name, unit_of(top, units), top.pos) for top in model.tops if "." not in top.path]
    design = Design(tops, units, sites, -15, [], model)
    place_embedded(design, model)
    return design


def place_embedded(design: Design, model: t.Model) -> None:
    """The entities that modules instantiate stand below the instance that is there for them."""
    for top in model.tops:
        parent, dot, _ = top.path.rpartition(".")
        if dot:
            design.inside.setdefault(parent, []).append(InstanceDecl(top.name, unit_of(top, design.units), top.pos))


def unit_of(here: t.Instance, units: list[Unit]) -> Unit:
    """The unit that stands for a region; those below it are added to `units`."""
    if here.unit_of is not None:
        found: Unit = here.unit_of
        return found
    unit = Unit(here.unit or here.name, here.path, here.inside, here.inside, unit_exp=-15, precision_exp=-15)
    units.append(unit)
    for o in here.ports:
        shown = shown_of(o)
        unit.signals += shown
        unit.ports += shown
    for o in here.signals:
        unit.signals += shown_of(o)
    for child in here.children:
        unit.instances.append(InstanceDecl(child.name, unit_of(child, units), child.pos))
    return unit


def shown_of(o: t.Object) -> list[Signal]:
    """A signal as scalars and vectors of bits; records and arrays part by part."""
    found: list[Signal] = []
    if o.signal is not None:
        _parts(o, o.text or o.name, o.subtype, o.signal.at, found)
    return found


def _parts(o: t.Object, name: str, s: t.Subtype, at: int, found: list[Signal]) -> None:
    kind = s.type
    if len(found) >= _MOST:
        return
    if isinstance(kind, t.RecordType):
        offsets, _ = t.record_layout(s)
        for offset, f, of in zip(offsets, kind.fields, s.field_types(), strict=True):
            _parts(o, f"{name}.{f.text}", of, at + offset, found)
        return
    if isinstance(kind, t.ArrayType):
        form = _form(s.elem.type)
        assert s.bounds is not None
        if form != NUMBER and len(kind.indexes) == 1:
            if s.bounds[0].length:
                found.append(_signal(o, name, s, at, form, s.bounds[0].length))
            return
        if len(kind.indexes) == 1 and s.bounds[0].length <= _MOST:
            left, right, down = s.bounds[0].ints
            step = t.size_of(s.elem)
            for k, i in enumerate(range(left, right - 1, -1) if down else range(left, right + 1)):
                _parts(o, f"{name}({i})", s.elem, at + k * step, found)
        return
    found.append(_signal(o, name, s, at, _form(kind), 1))


def _form(kind: t.BaseType) -> int:
    if isinstance(kind, t.Enum):
        if kind.literals == ["'U'", "'X'", "'0'", "'1'", "'Z'", "'W'", "'L'", "'H'", "'-'"]:
            return NINE
        if len(kind.literals) == 2:
            return BITS
    return NUMBER


def _signal(o: t.Object, name: str, s: t.Subtype, at: int, form: int, count: int) -> Signal:
    assert o.signal is not None
    kind = s.type
    labels: dict[int, str] | None = None
    size = t.size_of(s)
    of: Type
    if form == NINE:
        of = Nine(count)
    elif form == BITS:
        of = Vec(count, False, False)
        element = kind.element.type if isinstance(kind, t.ArrayType) else kind
        if isinstance(element, t.Enum) and element.literals[0] != "'0'":
            labels = {0: element.literals[0], 1: element.literals[1]} if count == 1 else None
    elif isinstance(kind, t.Floating):
        of = REAL
    else:
        of = Vec(8 * size, isinstance(kind, (t.Integer, t.Physical)), False)
        if isinstance(kind, t.Enum):
            of = Vec(8 * size, False, False)
            labels = dict(enumerate(x.strip("'") if x[0] == "'" else x for x in kind.literals))
    left, right = count - 1, 0
    if isinstance(kind, t.ArrayType) and s.bounds is not None:
        left, right, _ = s.bounds[0].ints
    port = {"in": "input", "out": "output", "inout": "inout", "buffer": "output", "linkage": "inout"}.get(o.mode, "")
    signal = Signal(name, of, "var", o.pos, "", left, right, (), port, labels=labels, ranged=count > 1)
    signal.leaf = (o.signal.root.number, at, size, form, count)
    return signal
