"""Lists of generics, ports and parameters, and the heads of subprograms (IEEE 1076-2008 4.2, 6.5)."""

from __future__ import annotations

from mevrik.lang.cursor import Recover
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.parser.statements import StatementParser

MODES = ("in", "out", "inout", "buffer", "linkage")
CLASSES = ("constant", "signal", "variable", "file")


class InterfaceParser(StatementParser):
    def interface_list(self, default: str) -> list[a.Decl]:
        """( ... ) of generics (default "constant"), ports ("signal") or parameters ("")."""
        start = self.i
        self.expect("(")
        found: list[a.Decl] = []
        while self.kind not in (")", "eof"):
            try:
                found.append(self._interface(default))
            except Recover:
                if not self._to_next_item(start):
                    return found
            if self.kind == ",":
                self.complain(self.pos, "the items of this list are parted by ';', not by ','")
                self.i += 1
                continue
            if not self.accept(";"):
                break
            if self.kind == ")":
                self.complain(self.pos, "no ';' stands before the closing ')': it only parts the items of the list")
        self.expect(")", "at the end of the list")
        return found

    def _to_next_item(self, start: int) -> bool:
        """After a mistake in a list that began with the '(' at `start`: go to what ends the item; False where there is no more of it."""
        depth = sum((k == "(") - (k == ")") for k in self.kinds[start : self.i])
        while self.kind not in ("eof", "end", "is", "begin", "return"):
            if depth <= 1 and self.kind in (";", ")"):
                return True
            depth += (self.kind == "(") - (self.kind == ")")
            self.i += 1
        return False

    def _interface(self, default: str) -> a.Decl:
        pos = self.pos
        if self.kind == "type":
            self.i += 1
            low, text, at = self.identifier()
            return a.TypeGeneric(at, low, text)
        if self.kind in ("function", "procedure", "pure", "impure"):
            spec = self._subprogram_spec()
            given: a.Expr | None = None
            if self.accept("is"):
                if self.kind == "<>":
                    given = a.Box(self.pos)
                    self.i += 1
                else:
                    given = self.name()
            return a.SubprogramGeneric(pos, spec, given)
        if self.kind == "package":
            self.i += 1
            low, text, at = self.identifier()
            self.expect("is")
            self.expect("new")
            name = self.name()
            if self.accept("generic"):
                self.expect("map")
                self.associations()
            return a.PackageGeneric(at, low, text, name)
        kind = default
        explicit = self.kind in CLASSES
        if explicit:
            kind = self.kind
            self.i += 1
        names = [self.identifier()]
        while self.accept(","):
            names.append(self.identifier())
        self.expect(":", "after the name")
        mode = "in"
        if self.kind in MODES:
            mode = self.kind
            self.i += 1
        elif self.kind == "id" and self.ahead() == "id":
            self.complain(self.pos, f"'{self.texts[self.i]}' is no mode: there are in, out, inout, buffer and linkage")
            self.i += 1
        if not kind:
            kind = "constant" if mode == "in" else "variable"
        sub = self.subtype()
        if self.kind == "[":
            self.fail(self.pos, "a range stands in parentheses: (3 downto 0)")
        bus = ""
        if self.kind in ("bus", "register"):
            bus = self.kind
            self.i += 1
        init = self.expression() if self.accept(":=") else None
        return a.ObjectDecl(pos, kind, names, sub, init, mode, bus, None, explicit)

    def _clause(self, word: str, default: str) -> list[a.Decl]:
        if not self.accept(word):
            return []
        found = self.interface_list(default)
        self.expect(";", f"after the {word} clause")
        return found

    def _subprogram_spec(self) -> a.SubprogramSpec:
        impure = self.accept("impure")
        self.accept("pure")
        function = self.kind == "function"
        if not function and self.kind != "procedure":
            self.missing("'function' or 'procedure'")
        self.i += 1
        pos = self.pos
        if self.kind == "string":
            low, text = self.texts[self.i].lower(), self.texts[self.i]
            self.i += 1
        else:
            low, text, pos = self.identifier("the name of a subprogram")
        generics: list[a.Decl] = []
        generic_map: list[a.Assoc] = []
        if self.kind == "generic":
            self.i += 1
            if self.accept("map"):
                generic_map = self.associations()
            else:
                generics = self.interface_list("constant")
                if self.kind == "generic" and self.ahead() == "map":
                    self.i += 2
                    generic_map = self.associations()
        params: list[a.Decl] = []
        self.accept("parameter")
        if self.kind == "(":
            params = self.interface_list("")
        result: a.Expr | None = None
        if function:
            self.expect("return", "and the type of the result")
            result = self.type_mark()
        return a.SubprogramSpec(pos, low, text, function, impure, params, result, generics, generic_map)
