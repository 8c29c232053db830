"""What $sdf_annotate does before the run: delays and limits from a file go to the instances they name (IEEE 1497, 1364-2005 16)."""

from __future__ import annotations

import re
from pathlib import Path

from mevrik.design import nodes as n
from mevrik.design.record import Identity
from mevrik.design.unit import Annotation, DelaySpot, Design, Signal
from mevrik.engine.layout import Instance, Layout
from mevrik.lang.sdf.read import Cell, DelayFile, Entry, SdfError, Triple, read_delays

Say = tuple[str, int, str]  # file, line, text of a warning
_CHOICES = {"MINIMUM": 0, "TYPICAL": 1, "MAXIMUM": 2}


class Annotator(Identity):
    """Collects what variables hold instead of their start values: `values` by number of the signal, in ticks."""

    design: Design
    layout: Layout
    root: Path | None
    values: dict[int, int]
    said: list[Say]

    def run(self) -> None:
        for annotation in self.design.annotations:
            for instance in self.layout.by_unit.get(annotation.unit, []):
                try:
                    at = self.layout.walk(instance, annotation.path)
                except KeyError:
                    continue
                self._annotate(annotation, at)

    def _annotate(self, annotation: Annotation, at: Instance) -> None:
        path = Path(annotation.file)
        if self.root is not None and not path.resolve().is_relative_to(self.root.resolve()):
            self.said.append((annotation.file, 1, "the delay file lies outside the project folder; --allow-files permits it"))
            return
        try:
            file = read_delays(path)
        except OSError as error:
            self.said.append((annotation.file, 1, f"the delay file can't be read: {error.strerror}"))
            return
        except SdfError as error:
            self.said.append((annotation.file, error.line, str(error)))
            return
        for cell in file.cells:
            self._cell(annotation, file, cell, at)

    def _cell(self, annotation: Annotation, file: DelayFile, cell: Cell, at: Instance) -> None:
        if cell.instance is None:
            targets = [i for i in self._below(at) if i.unit.name == cell.type]
        else:
            found = self._walk(at, cell.instance)
            targets = [found] if found is not None else []
        if not targets:
            where = cell.instance if cell.instance is not None else cell.type
            self.said.append(
                (str(file.path), cell.line, f"there is no instance '{where}' below {at.path}: its delays have no target")
            )
            return
        for instance in targets:
            if cell.instance and cell.type and instance.unit.name != cell.type:
                self.said.append((str(file.path), cell.line, f"{instance.path} is a '{instance.unit.name}', not a '{cell.type}'"))
            for entry in cell.entries:
                if not self._entry(annotation, entry, instance):
                    names = " ".join(p.name for p in entry.ports)
                    text = f"{entry.kind} {names} finds no target in {instance.path}"
                    self.said.append((str(file.path), entry.line, text))

    def _below(self, at: Instance) -> list[Instance]:
        found = [at]
        for child in at.children.values():
            found += self._below(child)
        return found

    def _walk(self, at: Instance, path: str) -> Instance | None:
        here: Instance | None = at
        left = path
        while left and here is not None:
            name = max((c for c in here.children if left == c or left.startswith(c + ".")), key=len, default=None)
            if name is None:
                return None
            here, left = here.children[name], left[len(name) + 1 :]
        return here

    # ---- entries ----

    def _entry(self, annotation: Annotation, entry: Entry, instance: Instance) -> bool:
        if entry.kind in ("PORT", "INTERCONNECT"):
            path, _, port = entry.ports[-1].name.rpartition(".")
            target = self._walk(instance, path)
            return target is not None and self._fill(
                annotation, entry, target, [s for s in self._spots(target, "port") if _same(s.target, port)]
            )
        if entry.kind == "DEVICE":
            wanted = entry.ports[0].name if entry.ports else ""
            spots = [s for s in self._spots(instance, "path") if not wanted or _same(s.target, wanted)]
            if not self._spots(instance, "path"):
                spots = [s for s in self._spots(instance, "device") if not wanted or _same(s.target, wanted)]
            return self._fill(annotation, entry, instance, spots)
        if entry.kind == "NETDELAY":
            return self._net(annotation, entry, instance)
        if entry.kind.startswith("PATHPULSE"):
            return self._pulses(annotation, entry, instance)
        if entry.kind == "IOPATH":
            spots = self._paths(entry, instance)
            if entry.condition:
                wanted = _plain(entry.condition)
                spots = [
                    s for s in spots if (s.condition == "ifnone" if entry.condition == "else" else _plain(s.condition) == wanted)
                ]
            elif any(s.condition == "" for s in spots):
                spots = [s for s in spots if s.condition in ("", "ifnone")]
            for spot in spots:
                self._limits(annotation, entry, instance, spot)
            return self._fill(annotation, entry, instance, spots)
        return self._check(annotation, entry, instance)

    def _paths(self, entry: Entry, instance: Instance) -> list[DelaySpot]:
        source, target = entry.ports
        return [
            s
            for s in self._spots(instance, "path")
            if _same(s.source, source.name) and _same(s.target, target.name) and s.edge == source.edge
        ]

    def _net(self, annotation: Annotation, entry: Entry, instance: Instance) -> bool:
        """The delay goes to each input of a cell at the net, which may be named by an output that drives it (1497 5.3.7)."""
        spots = self._spots(instance, "net")
        name = entry.ports[0].name
        names = {name, *(s.source for s in spots if s.condition == "output" and f"{s.name}.{s.target}" == name)}
        done = False
        for load in (s for s in spots if s.source in names and s.condition == "input"):
            target = self._walk(instance, load.name)
            if target is not None:
                ports = [s for s in self._spots(target, "port") if s.target == load.target]
                done |= self._fill(annotation, entry, target, ports)
        return done

    def _limits(self, annotation: Annotation, entry: Entry, instance: Instance, spot: DelaySpot) -> None:
        """The limits of pulses that stand with the delays of a path."""
        if not entry.limits or not spot.limits:
            return
        for half in (0, 1):
            given = [self._chosen(annotation, pair[half]) if pair is not None else None for pair in entry.limits]
            for signal, value in zip(spot.limits[12 * half : 12 * half + 12], _spread(given, 12), strict=True):
                if value is not None:
                    self._put(instance, signal, value, False)

    def _pulses(self, annotation: Annotation, entry: Entry, instance: Instance) -> bool:
        """Limits of pulses alone, in time or in percent of the delays that the path has by now (1497 5.3.4)."""
        spots = self._paths(entry, instance) if len(entry.ports) == 2 else self._spots(instance, "path")
        triples = [entry.values[0], entry.values[-1]] if entry.values else []
        for spot in spots:
            for half, triple in enumerate(triples):
                value = triple[annotation.choice]
                for delay, limit in zip(spot.signals, spot.limits[12 * half : 12 * half + 12]):
                    if value is None:
                        continue
                    if entry.kind == "PATHPULSE":
                        self._put(instance, limit, value * annotation.factors[annotation.choice], False)
                    else:
                        slot = self.layout.slot(instance, limit)
                        self.values[slot.number] = round(self._ticks_of(instance, delay) * value / 100)
        return bool(spots) and bool(triples)

    def _ticks_of(self, instance: Instance, signal: Signal) -> int:
        """What a variable holds at the start, by what the file has said so far."""
        set_to = self.values.get(self.layout.slot(instance, signal).number)
        return set_to if set_to is not None else signal.init.val if isinstance(signal.init, n.Const) else 0

    def _spots(self, instance: Instance, kind: str) -> list[DelaySpot]:
        return [s for s in instance.unit.delays if s.kind == kind]

    def _check(self, annotation: Annotation, entry: Entry, instance: Instance) -> bool:
        """Limits of timing checks; the events are matched by their ports and, where the file names them, by their edges."""
        name = "$" + entry.kind.lower()
        done = False
        for spot in self._spots(instance, "check"):
            parts = {"$setuphold": ("$setup", "$hold"), "$recrem": ("$recovery", "$removal")}.get(spot.name, (spot.name,))
            if name != spot.name and name not in parts and not (name in ("$setuphold", "$recrem") and spot.name in _halves(name)):
                continue
            wanted = list(entry.ports)
            given = [(spot.source, spot.edge), (spot.target, spot.condition)][: len(wanted)]
            if name == "$setup" or spot.name == "$setup":  # data and reference the other way round
                given = given if name == spot.name == "$setup" else given[::-1]
            if name == "$setuphold" and spot.name == "$setuphold":
                given = given[::-1]
            if any(not _same(g[0], p.name) or (p.edge and g[1] and p.edge != g[1]) for g, p in zip(given, wanted)):
                continue
            values = [self._chosen(annotation, v) for v in entry.values]
            if name == spot.name or len(spot.signals) == 1:
                pairs = list(zip(spot.signals, values if name == spot.name else values[_halves(name).index(spot.name) :]))
            else:
                pairs = [(spot.signals[parts.index(name)], values[0])]
            for signal, value in pairs:
                if value is not None:
                    self._put(instance, signal, value, False)
                    done = True
        return done

    def _fill(self, annotation: Annotation, entry: Entry, instance: Instance, spots: list[DelaySpot]) -> bool:
        values = [self._chosen(annotation, v) for v in entry.values]
        for spot in spots:
            for signal, value in zip(spot.signals, _spread(values, len(spot.signals))):
                if value is not None:
                    self._put(instance, signal, value, entry.increment)
        return bool(spots)

    def _chosen(self, annotation: Annotation, triple: Triple) -> float | None:
        which = annotation.choice
        value = triple[which]
        return value * annotation.factors[which] if value is not None else None

    def _put(self, instance: Instance, signal: Signal, seconds: float, increment: bool) -> None:
        slot = self.layout.slot(instance, signal)
        ticks = max(round(seconds / 10.0**self.design.tick_exp), 0)
        if increment:
            ticks += self._ticks_of(instance, signal)
        self.values[slot.number] = ticks


def _halves(name: str) -> tuple[str, ...]:
    return ("$setup", "$hold") if name == "$setuphold" else ("$recovery", "$removal")


def _same(port: str, wanted: str) -> bool:
    """Whether a terminal of the source is the port of an entry; an entry without bits names all of them."""
    return port == wanted or port.partition("[")[0] == wanted or wanted.partition("[")[0] == port


def _plain(text: str) -> str:
    """A condition in comparable form: no blanks or parentheses, numbers by value."""
    flat = re.sub(r"[\s()]", "", text)
    return re.sub(r"\d*'[bB]([01]+)", lambda m: str(int(m[1], 2)), flat)


def _spread(values: list[float | None], count: int) -> list[float | None]:
    """One, two, three or six values for as many transitions as there are (IEEE 1497 5.3.2, 1364-2005 table 14-2)."""
    if not values:
        return [None] * count
    if count == 3:
        rise = values[0]
        fall = values[1] if len(values) > 1 else rise
        off = values[2] if len(values) > 2 else (min(rise, fall) if rise is not None and fall is not None else None)
        return [rise, fall, off]
    if count != 12:
        return (values + [values[-1]] * count)[:count]
    if len(values) == 12:
        return values
    if len(values) >= 6:
        six = values[:6]
    elif len(values) == 1:
        six = values * 6
    elif len(values) == 2:
        r, f = values
        six = [r, f, r, r, f, f]
    else:
        r, f, z = values[:3]
        six = [r, f, z, r, z, f]
    t01, t10, t0z, tz1, t1z, tz0 = six
    return [
        *six,
        _of(min, t01, t0z),
        _of(max, t01, tz1),
        _of(min, t10, t1z),
        _of(max, t10, tz0),
        _of(max, t0z, t1z),
        _of(min, tz0, tz1),
    ]


def _of(which: object, a: float | None, b: float | None) -> float | None:
    assert callable(which)
    return None if a is None or b is None else float(which(a, b))


def annotate(design: Design, layout: Layout, root: Path | None) -> tuple[dict[int, int], list[Say]]:
    """Start values, in ticks, by the number of the signal; and the warnings."""
    made = Annotator(design, layout, root, {}, [])
    made.run()
    return made.values, made.said
