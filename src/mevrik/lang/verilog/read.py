"""Files of Verilog and SystemVerilog: preprocessed, parsed, and put into the library, one after the other."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path

from mevrik.design.record import Value
from mevrik.lang import trees
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.source import SourceError, SourceMap, SourceText
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.library import Library
from mevrik.lang.verilog.parser import parse
from mevrik.lang.verilog.preprocess import Macro, Preprocessor
from mevrik.lang.verilog.tokens import KEYWORDS

STD = Path(__file__).parent / "std.sv"
ONLY_SV = KEYWORDS[True].keys() - KEYWORDS[False].keys()
STD_WORDS = ("mailbox", "semaphore", "process::", "srandom", "randstate")  # what the built-in package declares


def digest(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8", "surrogateescape")).hexdigest()


class Kept(Value):
    """The tree of a file; the files it includes with their digests, and those that were looked for in vain, without; the macros and
    the types of packages that are known behind it."""

    unit: ast.SourceUnit
    includes: list[tuple[str, str]]
    macros: dict[str, Macro]
    package_types: dict[str, set[str]]


class Reader:
    """`included`: the files that were included so far."""

    def __init__(
        self,
        library: Library,
        sources: SourceMap,
        diagnostics: Diagnostics,
        include_dirs: list[Path],
        defines: dict[str, str],
        reader: Callable[[Path], str],
    ) -> None:
        self.library, self.sources, self.diagnostics = library, sources, diagnostics
        self.preprocessor = Preprocessor(sources, diagnostics, include_dirs, defines, reader)
        self.package_types: dict[str, set[str]] = {}
        self.systemverilog = False  # some file is

    @property
    def included(self) -> list[Path]:
        return self.preprocessor.included

    def read(self, source: SourceText, sv: bool) -> None:
        """One file, or its tree as it was kept. Raises RecursionError where something in it is nested too deeply."""
        self.systemverilog |= sv
        if len(source.text) < trees.LEAST:
            self.library.add(self._parsed(source, sv), self.diagnostics)
            return
        place = self._place(source, sv)
        found = trees.load(place)
        if isinstance(found, Kept) and self._as_before(found.includes):
            self.library.add(self._taken(found), self.diagnostics)
            return
        mark, lines = self.diagnostics.mark(), self.sources.renumberings
        texts, before = len(self.sources.texts), len(self.included)
        self.preprocessor.missed.clear()
        unit = self._parsed(source, sv)
        if self.diagnostics.mark() == mark and self.sources.renumberings == lines:
            digests = [digest(text.text) for text in self.sources.texts[texts:]]
            includes = [
                *zip(map(str, self.included[before:]), digests, strict=True),
                *((str(p), "") for p in self.preprocessor.missed),
            ]
            trees.keep(place, Kept(unit, includes, self.preprocessor.macros, self.package_types))
        self.library.add(unit, self.diagnostics)

    def _place(self, source: SourceText, sv: bool) -> str:
        """What a tree depends on beside the files that are included: the text, where its positions begin, and what came before."""
        macros = [(m.name, m.params, m.body) for m in self.preprocessor.macros.values()]
        types = [(name, sorted(names)) for name, names in self.package_types.items()]
        folders = [str(f) for f in self.preprocessor.include_dirs]
        return trees.key("verilog", source.name, source.base, sv, folders, macros, types, source.text)

    def _as_before(self, includes: list[tuple[str, str]]) -> bool:
        """Whether the files that were included are what they were, and those that were looked for before them still are not there."""
        for name, was in includes:
            path = Path(name)
            if not was:
                if path.is_file():
                    return False
                continue
            try:
                if digest(self.preprocessor.reader(path)) != was:
                    return False
            except SourceError:
                return False
        return True

    def _taken(self, found: Kept) -> ast.SourceUnit:
        """What reading the file would have left behind."""
        for name, was in found.includes:
            if was:
                self.sources.add(name, self.preprocessor.reader(Path(name)))
                self.included.append(Path(name))
        self.preprocessor.macros = found.macros
        self.package_types.clear()
        self.package_types.update(found.package_types)
        return found.unit

    def _parsed(self, source: SourceText, sv: bool) -> ast.SourceUnit:
        mark, before = self.diagnostics.mark(), dict(self.preprocessor.macros)
        tokens = self.preprocessor.run(source, sv)
        cut_short = any(d.code in ("ifdef-open", "comment-open") for d in self.diagnostics.items)
        # what is missing behind an open `ifdef or comment is its consequence: only the first message helps
        told = Diagnostics(self.sources) if cut_short else self.diagnostics
        unit = parse(tokens, told, self.package_types)
        if not sv and not cut_short and self.diagnostics.failed_since(mark) and not ONLY_SV.isdisjoint(tokens.texts):
            return self._as_systemverilog(source, mark, before) or unit
        return unit

    def _as_systemverilog(self, source: SourceText, mark: int, macros: dict[str, Macro]) -> ast.SourceUnit | None:
        """A file of Verilog with mistakes that are none in SystemVerilog, whose words it has: one message says so."""
        after, self.preprocessor.macros = self.preprocessor.macros, macros
        usual, self.preprocessor.diagnostics = self.diagnostics, Diagnostics(self.sources)
        try:
            tokens = self.preprocessor.run(source, True)
            alone = self.preprocessor.diagnostics
        finally:
            self.preprocessor.macros, self.preprocessor.diagnostics = after, usual
        first = next((k for k, kind in enumerate(tokens.kinds) if kind in ONLY_SV), -1)
        if first < 0:  # only escaped
            return None
        word, pos = tokens.texts[first], tokens.positions[first]
        unit = parse(tokens, alone, self.package_types)
        if len(alone.items) >= usual.mark() - mark:
            return None
        usual.forget(mark)
        path = Path(source.name)
        message = f"'{word}' is SystemVerilog, but a file that ends in {path.suffix} is read as Verilog (IEEE 1364-2005): "
        usual.error(pos, message + f"call it {path.stem}.sv, or run with --std 1800-2017", "systemverilog")
        usual.take(alone)
        return unit

    def is_fragment(self, source: SourceText, sv: bool) -> bool:
        """Whether a file that others include has more in it than directives: then it counts where it is included. Directives
        alone take effect here, for the files behind it."""
        kept, mark = dict(self.preprocessor.macros), self.diagnostics.mark()
        tokens = self.preprocessor.run(source, sv)
        self.diagnostics.forget(mark)
        if len(tokens.kinds) > 1:
            self.preprocessor.macros = kept
            return True
        return False

    def add_built_in(self) -> None:
        """The classes that the language declares itself, if any file names one."""
        words = (*STD_WORDS, "event") if self.systemverilog else STD_WORDS
        if any(word in source.text for source in self.sources.texts for word in words):
            self.sources.align()
            self.read(self.sources.add(str(STD), STD.read_text()), True)
