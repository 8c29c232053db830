"""Concurrent statements and design units (IEEE 1076-2008 clauses 3, 11 and 13)."""

from __future__ import annotations

from mevrik.lang.cursor import Recover
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.parser.cursor import UNITS_OF_PROPERTIES
from mevrik.lang.vhdl.parser.declarations import DeclarationParser, _objects
from mevrik.lang.vhdl.tokens import Tokens

OBJECTS = ("variable", "constant", "type", "subtype", "file", "alias", "function", "procedure")  # what a process may declare
_UNITS = ("entity", "architecture", "package", "configuration", "library", "use", "context")


class UnitParser(DeclarationParser):
    # ---- concurrent statements ----

    def concurrents(self, stops: tuple[str, ...] = ("end",)) -> list[a.Concurrent]:
        found: list[a.Concurrent] = []
        while self.kind not in stops and self.kind != "eof":
            if self.kind in ("entity", "architecture", "library", "package", "configuration", "use"):
                return found
            start, mistakes, astray = self.i, self.mistakes, self.astray
            try:
                made = self.concurrent()
                if made is not None:
                    found.append(made)
                self.understood(mistakes, astray)
            except Recover:
                if self.i == start:
                    self.i += 1
                self._resume()
        return found

    def _resume(self) -> None:
        """Go on behind the next ';' after which a concurrent statement can begin."""
        while self.kind != "eof":
            if self.kind == "end" and self.ahead() in ("architecture", "generate", "block", "id", ";"):
                return
            if self.kind == "end" and self.ahead() == "process":
                self.skip_past()
                return
            if self.accept(";"):
                if self.kind in ("process", "end", "with", "assert", "eof") or (
                    self.kind == "id" and self.ahead() in (":", "<=", "(")
                ):
                    return
            else:
                self.i += 1

    def concurrent(self) -> a.Concurrent | None:
        pos = self.pos
        label = ""
        if self.kind == "id" and self.ahead() == ":":
            label = self.texts[self.i]
            self.i += 2
        postponed = self.accept("postponed")
        if self.is_property():
            self.leave_property()
            return None
        match self.kind:
            case "process":
                return self._process(pos, label, postponed)
            case "block":
                return self._block(pos, label)
            case "for" | "if" | "case":
                if self._is_sequential():
                    word = self.texts[self.i]
                    self.misfit(
                        self.pos,
                        f"'{word}' is a sequential statement here: it stands in a process; outside of one, a signal is assigned with "
                        "'<= ... when ... else ...', and structure is repeated with 'generate'",
                    )
                    return self._implied(pos, label, self.statement(), postponed)
                return self._generate(pos, label)
            case "component" | "entity" | "configuration":
                return self._instance(pos, label, None)
            case "assert":
                s: a.Stmt = self.assertion("")
                return self._implied(pos, label, s, postponed)
            case "with":
                return self._implied(pos, label, self.selected(""), postponed)
            case "when" | "wait" | "return" | "null" | "loop" | "while" | "next" | "exit" | "elsif" | "else":
                if self.kind in ("else", "when") and self.kinds[self.i - 1] == ";":
                    self.fail(self.pos, f"'{self.kind}' goes on with an assignment that a ';' has ended: that ';' is one too many")
                self.misfit(
                    self.pos,
                    f"'{self.texts[self.i]}' begins a sequential statement, which stands in a process; here, 'end process' may have come too soon",
                )
                raise Recover
        if self.kind in ("signal", "constant", "type", "subtype", "component", "function", "procedure", "shared", "variable"):
            self.misfit(self.pos, f"this {self.kind} stands behind 'begin': declarations come before the 'begin' of their region")
            raise Recover
        if self.kind in ("port", "generic"):
            self.fail(self.pos, f"'{self.kind} map' belongs to the instance before it: no ';' stands between them")
        if self.kind not in ("id", "(", "<<"):
            self.astray = self.shaken
            self.missing("a concurrent statement")
        target = self.aggregate() if self.kind == "(" else self.name()
        if self.kind == "<=":
            return self._implied(pos, label, self.signal_assign("", target, target.pos), postponed)
        if self.kind == ":=":
            self.misfit(self.pos, "':=' assigns a variable inside a process; a signal is assigned with '<='")
            raise Recover
        if self.kind == "=":
            self.fail(self.pos, "'=' compares; a signal is assigned with '<='")
        if self.kind in ("generic", "port"):
            return self._instance(pos, label, target)
        if self.kind == "is" and label:
            self.missing("a concurrent statement")
        self.expect(";", "after the call or instance")
        return self._implied(pos, label, a.Call(target.pos, self.end, "", target), postponed)

    def _is_sequential(self) -> bool:
        """An if with 'then', a case with 'is' or a loop, where a generate could stand."""
        at = 1
        while self.ahead(at) not in ("then", "is", "loop", "generate", ";", "eof", "begin"):
            at += 1
        return self.ahead(at) in ("then", "is", "loop")

    def _implied(self, pos: int, label: str, s: a.Stmt, postponed: bool) -> a.Concurrent:
        return a.Process(pos, self.end, label, None, False, [], [s], postponed, True)

    def _process(self, pos: int, label: str, postponed: bool) -> a.Concurrent:
        start = self.expect("process")
        sensitivity: list[a.Expr] | None = None
        every = False
        if self.accept("("):
            sensitivity = []
            if self.accept("all"):
                every = True
            else:
                try:
                    sensitivity.append(self.name())
                    while self.accept(","):
                        sensitivity.append(self.name())
                    self.expect(")", "after the sensitivity list")
                except Recover:
                    while self.kind not in (")", "is", "begin", *OBJECTS, "eof"):
                        self.i += 1
                    self.accept(")")
            if every:
                self.expect(")", "after 'all'")
        self.accept("is")
        decls = self.declarations()
        self.begin("of the process")
        body = self.statements(("end",))
        if self.kind != "end" or self.ahead() not in ("process", "postponed"):
            line = self.diagnostics.sources.place(start).line
            self.misfit(
                self.pos, f"'end process;' is missing for the process of line {line}, found {self.describe()}", "end-missing"
            )
            if self.kind == "end" and self.ahead() == ";" and self.ahead(2) not in (*_UNITS, "eof"):
                self.i += 2  # what follows belongs to the architecture still: it was the end of the process
            return a.Process(pos, self.end, label, sensitivity, every, decls, body, postponed)
        self.expect("end")
        self.accept("postponed")
        self.expect("process")
        self.closing_name(label.lower(), "process")
        self.close(";")
        return a.Process(pos, self.end, label, sensitivity, every, decls, body, postponed)

    def _block(self, pos: int, label: str) -> a.Concurrent:
        self.expect("block")
        guard: a.Expr | None = None
        if self.accept("("):
            guard = self.expression()
            self.expect(")")
        self.accept("is")
        generics: list[a.Decl] = []
        ports: list[a.ObjectDecl] = []
        generic_map: list[a.Assoc] = []
        port_map: list[a.Assoc] = []
        generics = self._clause("generic", "constant")
        if self.kind == "generic":
            generic_map, _ = self.maps()
            self.expect(";")
        ports = _objects(self._clause("port", "signal"))
        if self.kind == "port":
            _, port_map = self.maps()
            self.expect(";")
        decls = self.declarations()
        self.begin("of the block")
        body = self.concurrents()
        self.expect("end")
        self.expect("block")
        self.closing_name(label.lower(), "block")
        self.close(";")
        return a.Block(pos, self.end, label, guard, generics, generic_map, ports, port_map, decls, body)

    def _branch_body(self) -> tuple[list[a.Decl], list[a.Concurrent]]:
        decls: list[a.Decl] = []
        if self._begins_declarations():
            decls = self.declarations()
            self.begin("after the declarations")
        else:
            self.accept("begin")
        body = self.concurrents(("end", "elsif", "else", "when"))
        # a branch may end by itself: end [label];
        if self.kind == "end" and (self.ahead() == ";" or (self.ahead() == "id" and self.ahead(2) == ";")):
            self.i += 1
            self.accept("id")
            self.expect(";")
        return decls, body

    def _begins_declarations(self) -> bool:
        if self.kind in (
            "signal",
            "constant",
            "type",
            "subtype",
            "component",
            "function",
            "procedure",
            "pure",
            "impure",
            "shared",
            "alias",
            "attribute",
            "file",
            "use",
            "package",
            "variable",
            "disconnect",
        ):
            return True
        return self.kind == "for" and self.ahead(2) in (":", ",") and self.ahead(3) != "for"

    def _generate(self, pos: int, label: str) -> a.Concurrent:
        kind = self.kind
        self.i += 1
        if not label:
            self.complain(pos, "a generate statement needs a label: name : for ... generate", "label")
        branches: list[a.Branch] = []
        low = text = ""
        subject: a.Expr | None = None

        def alternative() -> str:
            if self.kind == "id" and self.ahead() == ":":
                self.i += 2
                return self.ids[self.i - 2]
            return ""

        if kind == "for":
            low, text, _ = self.identifier("the name of the index")
            self.expect("in")
            subject = self.discrete_range()
            self.expect("generate")
            at = self.pos
            branches.append(a.Branch(at, "", None, [], *self._branch_body()))
        elif kind == "if":
            at = self.pos
            name = alternative()
            cond: a.Expr | None = self.expression()
            self.expect("generate")
            while True:
                branches.append(a.Branch(at, name, cond, [], *self._branch_body()))
                at = self.pos
                if self.accept("elsif"):
                    name = alternative()
                    cond = self.expression()
                    self.expect("generate")
                elif self.accept("else"):
                    name = alternative()
                    cond = None
                    self.expect("generate")
                else:
                    break
        else:
            subject = self.expression()
            self.expect("generate")
            while self.kind == "when":
                at = self.pos
                self.i += 1
                name = alternative()
                chosen = self.choices()
                self.expect("=>")
                branches.append(a.Branch(at, name, None, chosen, *self._branch_body()))
        self.expect("end", "of the generate")
        self.expect("generate")
        self.closing_name(label.lower(), "generate statement")
        self.close(";")
        return a.Generate(pos, self.end, label, kind, low, text, subject, branches)

    def _instance(self, pos: int, label: str, unit: a.Expr | None) -> a.Concurrent:
        kind = "component"
        arch = ""
        if not label:
            self.complain(pos, "an instance needs a label: name : unit port map (...)", "label")
        if unit is None:
            kind = self.kind
            self.i += 1
            if kind == "component":
                unit = self.name_without_call()
            else:
                unit, arch = self.unit_name()
        generic_map, port_map = self.maps()
        self.expect(";", "after the instance")
        return a.Instance(pos, self.end, label, kind, unit, arch, generic_map, port_map)

    # ---- design units ----

    def design_file(self) -> list[a.Unit]:
        units: list[a.Unit] = []
        context: list[a.Decl] = []
        while self.kind != "eof":
            start = self.i
            if not self.astray or self._begins_unit():
                self.new_unit()
            try:
                if self.kind == "library":
                    context.append(self.library_clause())
                elif self.kind == "use":
                    context.append(self.use_clause())
                elif self.kind == "context" and self._is_reference():
                    pos = self.pos
                    self.i += 1
                    names = [self.name_without_call()]
                    while self.accept(","):
                        names.append(self.name_without_call())
                    self.expect(";")
                    context.append(a.ContextRef(pos, names))
                elif self.ids[self.i] in UNITS_OF_PROPERTIES:
                    self.leave_property()
                    context = []
                else:
                    units.append(self._unit(context))
                    context = []
            except Recover:
                context = []
                if self.i == start:
                    self.i += 1
                while self.kind != "eof" and not self._begins_unit():
                    self.i += 1
        return units

    def _begins_unit(self) -> bool:
        """Whether after a mistake a unit certainly begins here."""
        if self.kinds[self.i - 1] != ";":
            return False
        if self.kind == "package":
            return self.ahead() == "body" or self.ahead(2) == "is"
        if self.kind in ("entity", "architecture", "configuration", "context"):
            return self.ahead() == "id" and self.ahead(2) in ("is", "of")
        return self.kind == "library"

    def _is_reference(self) -> bool:
        at = 1
        while self.ahead(at) in ("id", ".", ","):
            at += 1
        return self.ahead(at) == ";"

    def _unit(self, context: list[a.Decl]) -> a.Unit:
        pos = self.pos
        match self.kind:
            case "entity":
                return self._entity(context)
            case "architecture":
                return self._architecture(context)
            case "package":
                return self.package(pos, context)
            case "configuration":
                self.i += 1
                low, text, pos = self.identifier("the name of a configuration")
                self.expect("of")
                entity = self.name_without_call()
                self.expect("is")
                decls: list[a.Decl] = []
                while self.kind in ("use", "attribute", "group"):
                    item = self.declaration()
                    if item is not None:
                        decls.append(item)
                block = self.block_config()
                self.expect("end")
                self.accept("configuration")
                self.closing_name(low, "configuration")
                self.close(";")
                return a.Configuration(pos, self.end, low, text, context, entity, decls, block)
            case "context":
                self.i += 1
                low, text, pos = self.identifier("the name of a context")
                self.expect("is")
                items: list[a.Decl] = []
                while self.kind in ("library", "use", "context"):
                    word = self.kinds[self.i]
                    if word == "library":
                        items.append(self.library_clause())
                    elif word == "use":
                        items.append(self.use_clause())
                    else:
                        at = self.pos
                        self.i += 1
                        items.append(a.ContextRef(at, [self.name_without_call()]))
                        self.expect(";")
                self.expect("end")
                self.accept("context")
                self.closing_name(low, "context")
                self.close(";")
                return a.Context(pos, self.end, low, text, items)
        self.astray = self.mistakes > 0  # in what went before
        self.missing("an entity, architecture, package or configuration")

    def _entity(self, context: list[a.Decl]) -> a.Unit:
        self.expect("entity")
        low, text, pos = self.identifier("the name of an entity")
        self.expect("is")
        generics = self._clause("generic", "constant")
        ports = _objects(self._clause("port", "signal"))
        decls = self.declarations()
        body: list[a.Concurrent] = []
        if self.accept("begin"):
            body = self.concurrents()
        self.close("end", "of the entity")
        self.accept("entity")
        self.closing_name(low, "entity")
        self.close(";")
        return a.Entity(pos, self.end, low, text, context, generics, ports, decls, body)

    def _architecture(self, context: list[a.Decl]) -> a.Unit:
        self.expect("architecture")
        low, text, pos = self.identifier("the name of an architecture")
        entity = ""
        try:
            self.expect("of", f"after '{text}'")
            entity = self.identifier("the name of an entity")[0]
            self.expect("is", "after the head of the architecture")
        except Recover:
            while self.kind not in ("is", "begin", ";", "eof"):
                self.i += 1
            self.accept("is")
        decls = self.declarations()
        self.begin("of the architecture")
        body = self.concurrents()
        self.close("end", "of the architecture")
        self.accept("architecture")
        self.closing_name(low, "architecture")
        self.close(";")
        return a.Architecture(pos, self.end, low, text, context, entity, decls, body)


def parse(tokens: Tokens, diagnostics: Diagnostics) -> list[a.Unit]:
    """The design units of a file; what can't be read is reported and left out."""
    parser = UnitParser(tokens, diagnostics)
    return parser.design_file()


def parse_expression(tokens: Tokens, diagnostics: Diagnostics) -> a.Expr | None:
    """A text that is one expression; None after a report."""
    parser = UnitParser(tokens, diagnostics)
    try:
        found = parser.expression()
        if parser.kind != "eof":
            parser.missing("the end of the expression")
        return found
    except Recover:
        return None
