"""The packages that come with us, in parts: types and constants are there at once, subprograms by name when a name is first looked up.

They are VHDL text in `library/`, written with `template.py`; the body of a package is the declaration of its subprograms as well. Their trees are kept on disk between runs, by the content of the text and of what reads it, so that a
package costs a start what the program uses of it.
"""

from __future__ import annotations

import pickle
from functools import cache
from pathlib import Path

from mevrik.design.record import Value, field
from mevrik.lang import trees
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.source import SourceMap
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.template import Template
from mevrik.lang.vhdl.parser import parse
from mevrik.lang.vhdl.tokens import tokenize

FOLDER = Path(__file__).parent.parent / "library"
FIRST_BASE, ROOM = 1 << 40, 1 << 24  # positions in our texts are the same in every run
Parts = tuple[list[a.Decl], list[a.Decl]]  # of the declaration of a package, and of its body


class OurPackage(Value):
    """`decl` and `body` without their subprograms; those are in `named`, as trees or as bytes that hold them."""

    decl: a.PackageDecl
    body: a.PackageBody | None
    named: dict[str, Parts | bytes] = field(default_factory=dict)

    def take(self, name: str) -> Parts:
        """The declarations and bodies of the subprograms of a name; they are needed once for each elaboration."""
        found = self.named[name]
        if isinstance(found, bytes):
            parts: Parts = pickle.loads(found)
            return parts
        return found


def read(name: str, sources: SourceMap) -> OurPackage:
    """One of our packages; its text becomes part of `sources`, so that messages can show it."""
    written = _text(f"{name}.vhd")
    base = FIRST_BASE + _number(name) * ROOM
    place = trees.key("vhdl", base, _recipes(), written)
    found = trees.load(place)
    if isinstance(found, tuple):
        text, decl, body, named = found
        sources.add(f"<{name}>", text, base)
        return OurPackage(decl, body, named)
    text = Template(lambda file: _text(f"{file}.inc")).expand(written)
    quiet = Diagnostics(sources)
    units = parse(tokenize(sources.add(f"<{name}>", text, base), quiet), quiet)
    assert not quiet.failed, [d.headline() for d in quiet.items]
    decl = next(u for u in units if isinstance(u, a.PackageDecl))
    body = next((u for u in units if isinstance(u, a.PackageBody)), None)
    made = _in_parts(decl, body)
    trees.keep(place, (text, made.decl, made.body, {name: pickle.dumps(parts, 5) for name, parts in made.named.items()}))
    return made


def _text(file: str) -> str:
    return (FOLDER / file).read_text(encoding="latin-1")


def _in_parts(decl: a.PackageDecl, body: a.PackageBody | None) -> OurPackage:
    named: dict[str, Parts | bytes] = {}
    for half, unit in enumerate((decl, body)):
        if unit is None:
            continue
        rest: list[a.Decl] = []
        for d in unit.decls:
            name = _subprogram(d)
            if name:
                parts = named.setdefault(name, ([], []))
                assert not isinstance(parts, bytes)
                parts[half].append(d)
            else:
                rest.append(d)
        unit.decls = rest
    return OurPackage(decl, body, named)


def _subprogram(d: a.Decl) -> str:
    """The name under which a subprogram is looked up; "" for anything else."""
    match d:
        case a.SubprogramDecl(spec=spec) | a.SubprogramBody(spec=spec):
            return spec.id
        case a.AliasDecl(signature=signature) if signature is not None:
            return d.id
    return ""


@cache
def _number(name: str) -> int:
    return sorted(p.stem for p in FOLDER.glob("*.vhd")).index(name)


@cache
def _recipes() -> bytes:
    """What the trees depend on beside the text and the parser."""
    files = [Path(__file__), Path(__file__).with_name("template.py"), *sorted(FOLDER.glob("*.inc"))]
    return b"".join(p.read_bytes() for p in files)
