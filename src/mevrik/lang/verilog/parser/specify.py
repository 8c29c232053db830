"""Specify blocks: specparams, module paths, timing checks (IEEE 1364-2005 clauses 14 and 15, A.7)."""

from __future__ import annotations

from mevrik.lang.cursor import Recover
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.statements import StatementParser

TIMING_CHECKS = {
    "$setup", "$hold", "$setuphold", "$recovery", "$removal", "$recrem", "$skew", "$timeskew", "$fullskew", "$period", "$width", "$nochange",
}  # fmt: skip


class SpecifyParser(StatementParser):
    def specify_block(self, found: list[ast.Item]) -> None:
        self.expect("specify")
        while self.kind not in ("endspecify", "endmodule", "eof"):
            start = self.i
            try:
                self._specify_item(found)
            except Recover:
                if self.i == start:
                    self.i += 1
                self.skip_to("endspecify", "endmodule")
        self.expect("endspecify")

    def specparam(self) -> list[ast.Item]:
        pos = self.expect("specparam")
        dims = self.ranges()
        names: list[ast.Declarator] = []
        limits: list[ast.PulseLimit] = []
        while True:
            at = self.pos
            name = self.identifier("the name of a specparam")
            self.expect("=", f"after '{name}'")
            if name.startswith("PATHPULSE$"):
                limits.append(self._pulse_limit(at, name))
            else:
                names.append(ast.Declarator(at, name, [], self.min_typ_max()))
            if not self.accept(","):
                break
        self.expect(";", "after the specparams")
        declared = [ast.ParamDecl(pos, True, ast.DataType(pos, "", dims=dims), names)] if names else []
        return [*declared, *limits]

    def _pulse_limit(self, at: int, name: str) -> ast.PulseLimit:
        """`PATHPULSE$in$out = (reject, error)` or `= limit` (14.6.1)."""
        wrapped = self.accept("(")
        reject = error = self.min_typ_max()
        if wrapped:
            if self.accept(","):
                error = self.min_typ_max()
            self.expect(")", "after the limits of a pulse")
        source, _, target = name.removeprefix("PATHPULSE$").partition("$")
        return ast.PulseLimit(at, source, target, reject, error)

    def _pulse_style(self) -> ast.PulseStyle:
        pos, kind = self.pos, self.kind
        self.i += 1
        outputs = self._terminals()
        self.expect(";", f"after the outputs of {kind}")
        return ast.PulseStyle(pos, kind, outputs)

    def _specify_item(self, found: list[ast.Item]) -> None:
        kind = self.kind
        if kind == "specparam":
            found += self.specparam()
        elif kind == "sys":
            found.append(self._timing_check())
        elif kind in ("pulsestyle_onevent", "pulsestyle_ondetect", "showcancelled", "noshowcancelled"):
            found.append(self._pulse_style())
        elif kind == ";":
            self.i += 1
        else:
            found.append(self._path())

    def _path(self) -> ast.ModulePath:
        pos = self.pos
        condition: ast.Expr | None = None
        ifnone = False
        if self.accept("if"):
            self.expect("(", "after 'if'")
            condition = self.expression()
            self.expect(")", "after the condition")
        elif self.accept("ifnone"):
            ifnone = True
        self.expect("(", "to begin a module path")
        edge = ""
        if self.kind in ("posedge", "negedge", "edge"):
            edge = self.kind
            self.i += 1
        sources = self._terminals()
        if self.kind in ("+", "-"):
            self.i += 1
        full = self.kind == "*>"
        if not full and self.kind != "=>":
            self.missing("'=>' or '*>'", "in a module path")
        self.i += 1
        if self.accept("("):  # an edge-sensitive path: (target polarity: data)
            targets = self._terminals()
            self._data()
            self.expect(")", "after the data of the path")
        else:
            targets = self._terminals()
            if self.kind in ("+", "-", ":", "+:", "-:"):
                self._data()
        self.expect(")", "after the module path")
        self.expect("=", "after the module path")
        wrapped = self.kind == "(" and self._list_in_parentheses()
        if wrapped:
            self.i += 1
        delays = [self.min_typ_max()]
        while self.accept(","):
            delays.append(self.min_typ_max())
        if wrapped:
            self.expect(")", "after the delays")
        self.expect(";", "after the module path")
        if len(delays) not in (1, 2, 3, 6, 12):
            self.complain(pos, f"a module path has 1, 2, 3, 6 or 12 delays, not {len(delays)} (14.3)", "specify")
        return ast.ModulePath(pos, sources, targets, full, edge, condition, ifnone, delays)

    def _list_in_parentheses(self) -> bool:
        """Whether the '(' here encloses all delays: its match is followed by ';'."""
        depth, at = 0, self.i
        while at < len(self.kinds):
            if self.kinds[at] == "(":
                depth += 1
            elif self.kinds[at] == ")":
                depth -= 1
                if depth == 0:
                    return self.kinds[at + 1] == ";"
            at += 1
        return False

    def _terminals(self) -> list[ast.Expr]:
        found = [self.postfix(self.primary())]
        while self.accept(","):
            found.append(self.postfix(self.primary()))
        return found

    def _data(self) -> None:
        """`[+-]: expression`: what the target takes; it has no meaning for the delay."""
        if not (self.accept("+:") or self.accept("-:")):
            if self.kind in ("+", "-"):
                self.i += 1
            self.expect(":", "before the data of the path")
        self.expression()

    def _timing_check(self) -> ast.TimingCheck:
        pos, name = self.pos, self.texts[self.i]
        if name not in TIMING_CHECKS:
            self.fail(pos, f"'{name}' is no timing check (15.2)", "specify")
        self.i += 1
        self.expect("(", f"after {name}")
        args: list[ast.CheckEvent | None] = []
        while True:
            if self.kind in (",", ")"):
                args.append(None)
            else:
                at, edge = self.pos, ""
                changes: tuple[str, ...] = ()
                if self.kind in ("posedge", "negedge", "edge"):
                    edge = self.kind
                    self.i += 1
                    if self.kind == "[":
                        changes = self._edge_list()
                value = self.min_typ_max()
                condition = self.expression() if self.accept("&&&") else None
                args.append(ast.CheckEvent(at, edge, value, condition, changes))
            if not self.accept(","):
                break
        self.expect(")", f"after the arguments of {name}")
        self.expect(";", f"after {name}")
        return ast.TimingCheck(pos, name, args)

    def _edge_list(self) -> tuple[str, ...]:
        """`[01, x1, …]`: the changes that count as an edge (IEEE 1364-2005 15.4); z stands for x."""
        self.expect("[")
        found: list[str] = []
        while self.kind not in ("]", ")", "eof"):
            at, word = self.pos, self.texts[self.i]
            self.i += 1
            if self.kind == "id" and len(word) == 1:  # `1x` is read as a number and a name
                word += self.texts[self.i]
                self.i += 1
            word = word.lower().replace("z", "x")
            if word not in ("01", "0x", "10", "1x", "x0", "x1"):
                self.fail(at, f"'{word}' is no edge: 01, 0x, 10, 1x, x0 and x1 are (15.4)", "specify")
            found.append(word)
            if not self.accept(","):
                break
        self.expect("]", "after the edges")
        return tuple(found)
