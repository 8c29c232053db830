"""Files of Verilog and SystemVerilog: preprocessed, parsed, and put into the library, one after the other."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.source import SourceMap, SourceText
from mevrik.lang.verilog.library import Library
from mevrik.lang.verilog.parser import parse
from mevrik.lang.verilog.preprocess import Preprocessor

STD = Path(__file__).parent / "std.sv"
STD_WORDS = ("mailbox", "semaphore", "process::")  # what the built-in package declares


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

    @property
    def included(self) -> list[Path]:
        return self.preprocessor.included

    def read(self, source: SourceText, sv: bool) -> None:
        """One file. Raises RecursionError where something in it is nested too deeply."""
        tokens = self.preprocessor.run(source, sv)
        cut_short = any(d.code in ("ifdef-open", "comment-open") for d in self.diagnostics.items)
        # what is missing behind an open `ifdef or comment is its consequence: only the first message helps
        told = Diagnostics(self.sources) if cut_short else self.diagnostics
        self.library.add(parse(tokens, told, self.package_types), self.diagnostics)

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
        if any(word in source.text for source in self.sources.texts for word in STD_WORDS):
            tokens = self.preprocessor.run(self.sources.add(str(STD), STD.read_text()), True)
            self.library.add(parse(tokens, self.diagnostics, self.package_types), self.diagnostics)
