"""Declarations and interface lists (IEEE 1076-2008 clauses 4 to 7)."""

from __future__ import annotations

from mevrik.lang.cursor import Recover
from mevrik.lang.diagnostics import nearest, replacement
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.parser.interfaces import InterfaceParser

_STATEMENTS = ("process", "with", "if", "case", "while", "wait", "assert", "report", "return", "null", "loop", "postponed")
_LABELLED = ("process", "entity", "component", "block", "for", "if", "case", "postponed", "assert", "with", "while", "loop")


class DeclarationParser(InterfaceParser):
    begin_lost = False

    def declarations(self) -> list[a.Decl]:
        """Up to `begin`, `end` or what begins no declaration."""
        found: list[a.Decl] = []
        while self.kind not in ("begin", "end", "eof"):
            start, mistakes = self.i, self.mistakes
            try:
                item = self.declaration()
                if item is None and self._begin_is_misspelt():
                    return found
                if item is None and self._starts_statement():
                    self.misfit(self.pos, f"'begin' expected before {self.describe()}: statements stand behind it", "begin-missing")
                    self.begin_lost = True
                    return found
                if item is None:
                    self.missing("a declaration or 'begin'")
                found.append(item)
                self.understood(mistakes)
            except Recover:
                self._recover(start)
        return found

    def _begin_is_misspelt(self) -> bool:
        """Whether what stands here is meant to be `begin`, which is told."""
        if self.kind != "id" or not nearest(self.ids[self.i], ["begin"], 0.75) or self.ahead() in (":", "<=", ":=", ";"):
            return False
        mend = replacement(self.diagnostics.sources, self.pos, self.texts[self.i], "begin", "Write begin")
        self.complain(
            self.pos, f"a declaration or 'begin' expected, found '{self.texts[self.i]}'; did you mean 'begin'?", "syntax", mend
        )
        self.i += 1
        self.begin_lost = True
        return True

    def _starts_statement(self) -> bool:
        if self.kind != "id":
            return self.kind in _STATEMENTS
        if self.ahead() == ":":
            return self.ahead(2) in _LABELLED or (self.ahead(2) == "id" and self.ahead(3) in ("port", "generic"))
        return self.ahead() in ("<=", ":=")

    def begin(self, what: str = "") -> None:
        """The `begin` behind declarations, unless it was missed already."""
        if self.begin_lost:
            self.begin_lost = False
        else:
            self.close("begin", what)

    def _recover(self, start: int) -> None:
        """Go on behind the next ';' that is followed by something a declaration or statement can begin with."""
        if self.i == start:
            self.i += 1
        while self.kind not in (";", "eof", "begin", "end"):
            self.i += 1
        self.accept(";")

    def declaration(self) -> a.Decl | None:
        kind, pos = self.kind, self.pos
        match kind:
            case "type":
                return self.type_declaration()
            case "subtype":
                self.i += 1
                low, text, at = self.identifier()
                self.expect("is")
                indication = self.subtype()
                self.expect(";")
                return a.SubtypeDecl(at, low, text, indication)
            case "constant" | "signal" | "variable" | "file" | "shared":
                return self.object_declaration()
            case "alias":
                return self._alias()
            case "attribute":
                return self._attribute_declaration()
            case "component":
                return self._component()
            case "function" | "procedure" | "pure" | "impure":
                return self.subprogram()
            case "package":
                return self.package(pos, [])
            case "use":
                return self.use_clause()
            case "library":
                return self.library_clause()
            case "for":
                return self.config_spec()
            case "disconnect":
                self.i += 1
                names = [self.name()]
                while self.accept(","):
                    names.append(self.name())
                self.expect(":")
                mark = self.type_mark()
                self.expect("after")
                after = self.expression()
                self.expect(";")
                return a.DisconnectSpec(pos, names, mark, after)
            case "group":
                self.skip_past()
                return a.Ignored(pos)
            case "default" | "property" | "sequence":
                self.leave_property()
                return a.Ignored(pos)
        return None

    def library_clause(self) -> a.Decl:
        pos = self.expect("library")
        names = [self.identifier("the name of a library")]
        while self.accept(","):
            names.append(self.identifier("the name of a library"))
        self.expect(";")
        return a.LibraryClause(pos, [(low, at) for low, _, at in names])

    def use_clause(self) -> a.Decl:
        pos = self.expect("use")
        names = [self.name()]
        while self.accept(","):
            names.append(self.name())
        self.expect(";")
        return a.UseClause(pos, names)

    # ---- types ----

    def type_declaration(self) -> a.Decl:
        self.expect("type")
        low, text, pos = self.identifier("the name of a type")
        if self.accept(";"):
            return a.TypeDecl(pos, low, text, None)
        self.expect("is")
        definition = self._type_definition(low)
        self.expect(";")
        return a.TypeDecl(pos, low, text, definition)

    def _type_definition(self, name: str) -> a.TypeDef:
        kind, pos = self.kind, self.pos
        if kind == "(":
            self.i += 1
            literals: list[a.Name] = []
            while True:
                if self.kind == "char":
                    literals.append(a.Name(self.pos, self.ids[self.i], self.texts[self.i]))
                    self.i += 1
                else:
                    literals.append(self.simple_name("an enumeration literal"))
                if not self.accept(","):
                    break
            self.expect(")")
            return a.EnumDef(pos, literals)
        if kind == "range":
            self.i += 1
            bounds = self.element()
            if self.accept("units"):
                primary = self.identifier("the primary unit")[0]
                self.expect(";")
                secondary: list[tuple[str, a.Expr]] = []
                while self.kind == "id":
                    unit = self.identifier()[0]
                    self.expect("=")
                    secondary.append((unit, self._primary()))
                    self.expect(";")
                self.expect("end")
                self.expect("units")
                self.closing_name(name, "type")
                return a.PhysicalDef(pos, bounds, primary, secondary)
            return a.RangeDef(pos, bounds)
        if kind == "array":
            self.i += 1
            self.expect("(")
            indexes: list[a.Expr] = []
            unbounded = False
            while True:
                index = self.element()
                if isinstance(index, a.SubtypeInd) and isinstance(index.constraint, list):
                    unbounded = True
                indexes.append(index)
                if not self.accept(","):
                    break
            self.expect(")")
            self.expect("of")
            return a.ArrayDef(pos, indexes, unbounded, self.subtype())
        if kind == "record":
            self.i += 1
            fields: list[tuple[str, str, a.SubtypeInd, int]] = []
            while self.kind == "id":
                names = [self.identifier()]
                while self.accept(","):
                    names.append(self.identifier())
                self.expect(":")
                sub = self.subtype()
                self.expect(";")
                fields += [(low, text, sub, at) for low, text, at in names]
            self.expect("end")
            self.expect("record")
            self.closing_name(name, "record")
            return a.RecordDef(pos, fields)
        if kind == "access":
            self.i += 1
            return a.AccessDef(pos, self.subtype())
        if kind == "file":
            self.i += 1
            self.expect("of")
            return a.FileDef(pos, self.type_mark())
        if kind == "protected":
            self.i += 1
            body = self.accept("body")
            decls = self.declarations()
            self.expect("end")
            self.expect("protected")
            if body:
                self.expect("body")
            self.closing_name(name, "protected type")
            return a.ProtectedDef(pos, decls, body)
        self.missing("the definition of a type")

    # ---- objects ----

    def object_declaration(self) -> a.ObjectDecl:
        pos, kind = self.pos, self.kind
        self.i += 1
        if kind == "shared":
            self.expect("variable")
        names = [self.identifier()]
        while self.accept(","):
            names.append(self.identifier())
        self.expect(":", "after the name")
        sub = self.subtype()
        bus = ""
        if self.kind in ("bus", "register"):
            bus = self.kind
            self.i += 1
        init: a.Expr | None = None
        mode = ""
        open_kind: a.Expr | None = None
        if kind == "file":
            if self.accept("open"):
                open_kind = self.expression()
            if self.accept("is"):
                if self.kind in ("in", "out"):
                    mode = self.kind
                    self.i += 1
                init = self.expression()
        elif self.accept(":="):
            init = self.expression()
        elif self.kind == "<=":
            self.complain(self.pos, "an initial value is given with ':='")
            self.i += 1
            init = self.expression()
        self.expect(";", "after the declaration")
        return a.ObjectDecl(pos, kind, names, sub, init, mode, bus, open_kind)

    def _alias(self) -> a.Decl:
        self.expect("alias")
        pos = self.pos
        if self.kind in ("char", "string"):
            low, text = self.ids[self.i].lower() if self.kind == "string" else self.ids[self.i], self.texts[self.i]
            self.i += 1
        else:
            low, text, pos = self.identifier()
        sub = self.subtype() if self.accept(":") else None
        self.expect("is")
        name = self.name()
        signature = None
        if self.kind == "[":
            signature = self.signature()
        self.expect(";")
        return a.AliasDecl(pos, low, text, sub, name, signature)

    def _attribute_declaration(self) -> a.Decl:
        pos = self.expect("attribute")
        low = self.identifier("the name of an attribute")[0]
        if self.accept(":"):
            mark = self.type_mark()
            self.expect(";")
            return a.AttrDecl(pos, low, mark)
        self.expect("of")
        entities: list[tuple[str, a.Signature | None]] = []
        while True:
            if self.kind in ("others", "all"):
                entities.append((self.kind, None))
                self.i += 1
            else:
                word = self.ids[self.i].lower()
                if self.kind not in ("id", "char", "string"):
                    self.missing("a name")
                self.i += 1
                entities.append((word, self.signature() if self.kind == "[" else None))
            if not self.accept(","):
                break
        self.expect(":")
        kind = self.texts[self.i].lower()
        self.i += 1
        self.expect("is")
        value = self.expression()
        self.expect(";")
        return a.AttrSpec(pos, low, entities, kind, value)

    def _component(self) -> a.Decl:
        self.expect("component")
        low, text, pos = self.identifier("the name of a component")
        self.accept("is")
        generics = self._clause("generic", "constant")
        ports = self._clause("port", "signal")
        while self.kind not in ("end", "eof") and self.astray:
            self.i += 1
        self.close("end", "of the component")
        self.accept("component")
        self.closing_name(low, "component")
        self.close(";")
        return a.ComponentDecl(pos, low, text, generics, _objects(ports))

    def maps(self) -> tuple[list[a.Assoc], list[a.Assoc]]:
        generic_map: list[a.Assoc] = []
        port_map: list[a.Assoc] = []
        if self.kind == "generic" and self.ahead() == "map":
            self.i += 2
            generic_map = self.associations()
        if self.kind == "port" and self.ahead() == "map":
            self.i += 2
            port_map = self.associations()
        return generic_map, port_map

    # ---- subprograms ----

    def subprogram(self) -> a.Decl:
        pos = self.pos
        if self.ahead() == "id" and self.ahead(2) == "is" and self.ahead(3) == "new":
            function = self.kind == "function"
            self.i += 1
            low, text, at = self.identifier()
            self.i += 2
            name = self.name_without_call()
            signature = self.signature() if self.kind == "[" else None
            generic_map: list[a.Assoc] = []
            if self.accept("generic"):
                self.expect("map")
                generic_map = self.associations()
            self.expect(";")
            return a.SubprogramInst(at, low, text, function, name, signature, generic_map)
        spec = self._subprogram_spec()
        if self.accept(";"):
            return a.SubprogramDecl(pos, spec)
        self.expect("is", "and a body, or ';',")
        decls = self.declarations()
        self.begin()
        body = self.statements(("end",))
        self.close("end", f"of '{spec.text}'")
        what = "function" if spec.function else "procedure"
        self.accept(what)
        self.closing_name(spec.id, what)
        self.close(";")
        return a.SubprogramBody(pos, spec, decls, body)

    def name_without_call(self) -> a.Expr:
        found: a.Expr = self.simple_name()
        while self.kind == "." and self.ahead() in ("id", "string"):
            self.i += 1
            low, text, pos = self.ids[self.i], self.texts[self.i], self.pos
            self.i += 1
            found = a.Select(pos, found, low, text)
        return found

    # ---- configurations ----

    def config_spec(self) -> a.Decl:
        """for LABELS : COMPONENT use ...; (7.3)."""
        pos = self.expect("for")
        labels: list[str] = []
        while True:
            if self.kind in ("all", "others"):
                labels.append(self.kind)
                self.i += 1
            else:
                labels.append(self.identifier("a label")[0])
            if not self.accept(","):
                break
        self.expect(":")
        component = self.name()
        binding = self.binding() if self.accept("use") else None
        if self.accept(";"):
            if self.kind == "end" and self.ahead() == "for":
                self.i += 2
                self.expect(";")
            return a.ConfigSpec(pos, labels, component, binding)
        generic_map, port_map = self.maps()
        if generic_map or port_map:
            binding = a.Binding(pos, "", None, "", generic_map, port_map)
        self.expect(";")
        return a.ConfigSpec(pos, labels, component, binding)

    def binding(self) -> a.Binding:
        pos, kind = self.pos, self.kind
        unit: a.Expr | None = None
        arch = ""
        if self.accept("entity"):
            unit, arch = self.unit_name()
        elif self.accept("configuration"):
            unit = self.name_without_call()
        else:
            self.expect("open", "('entity', 'configuration' or 'open')")
        generic_map, port_map = self.maps()
        return a.Binding(pos, kind, unit, arch, generic_map, port_map)

    def unit_name(self) -> tuple[a.Expr, str]:
        """LIBRARY.ENTITY(ARCHITECTURE)"""
        unit = self.name_without_call()
        arch = ""
        if self.accept("("):
            arch = self.identifier("the name of an architecture")[0]
            self.expect(")")
        return unit, arch

    def block_config(self) -> a.BlockConfig:
        pos = self.expect("for")
        name = self.identifier("an architecture or a label")[0]
        index: a.Expr | None = None
        if self.accept("("):
            index = self.element()
            self.expect(")")
        items: list[a.Decl] = []
        while self.kind not in ("end", "eof"):
            if self.kind == "use":
                items.append(self.use_clause())
            elif self.ahead(2) in (":", ",") or self.ahead() in ("all", "others"):
                items.append(self._component_config())
            else:
                items.append(self.block_config())
        self.expect("end")
        self.expect("for")
        self.expect(";")
        return a.BlockConfig(pos, name, index, items)

    def _component_config(self) -> a.Decl:
        pos = self.expect("for")
        labels: list[str] = []
        while True:
            labels.append(self.kind if self.kind in ("all", "others") else self.ids[self.i])
            self.i += 1
            if not self.accept(","):
                break
        self.expect(":")
        component = self.name()
        binding: a.Binding | None = None
        inner: a.BlockConfig | None = None
        if self.accept("use"):
            binding = self.binding()
            self.expect(";")
        elif self.kind in ("generic", "port"):
            generic_map, port_map = self.maps()
            binding = a.Binding(pos, "", None, "", generic_map, port_map)
            self.expect(";")
        if self.kind == "for":
            inner = self.block_config()
        self.expect("end")
        self.expect("for")
        self.expect(";")
        return a.ConfigSpec(pos, labels, component, binding, inner)

    # ---- packages ----

    def package(self, pos: int, context: list[a.Decl]) -> a.PackageDecl | a.PackageBody | a.PackageInst:
        self.expect("package")
        if self.accept("body"):
            low, text, at = self.identifier("the name of a package")
            self.expect("is")
            decls = self.declarations()
            self.expect("end", "of the package body")
            if self.accept("package"):
                self.expect("body")
            self.closing_name(low, "package body")
            self.close(";")
            return a.PackageBody(at, self.end, low, text, context, decls)
        low, text, at = self.identifier("the name of a package")
        self.expect("is")
        if self.accept("new"):
            name = self.name_without_call()
            generic_map: list[a.Assoc] = []
            if self.accept("generic"):
                self.expect("map")
                generic_map = self.associations()
            self.expect(";")
            return a.PackageInst(at, self.end, low, text, context, name, generic_map)
        generics = self._clause("generic", "constant")
        generic_map = []
        if self.kind == "generic":
            self.i += 1
            self.expect("map")
            generic_map = self.associations()
            self.expect(";")
        decls = self.declarations()
        self.expect("end", "of the package")
        self.accept("package")
        self.closing_name(low, "package")
        self.close(";")
        return a.PackageDecl(at, self.end, low, text, context, generics, generic_map, decls)


def _objects(items: list[a.Decl]) -> list[a.ObjectDecl]:
    return [x for x in items if isinstance(x, a.ObjectDecl)]
