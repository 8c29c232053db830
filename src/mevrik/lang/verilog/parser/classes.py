"""Classes (IEEE 1800-2017 8, A.1.2)."""

from __future__ import annotations

from mevrik.design.record import replace
from mevrik.lang.cursor import Recover
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.subprograms import SubprogramParser


class ClassParser(SubprogramParser):
    def item(self, found: list[ast.Item]) -> None:
        raise NotImplementedError

    def class_declaration(self) -> ast.ClassDecl:
        """A class or an interface class (IEEE 1800-2017 A.1.2)."""
        interface = self.accept("interface")
        abstract = self.accept("virtual") or interface
        pos = self.expect("class")
        if self.kind in ("automatic", "static"):
            self.i += 1
        name = self.identifier("the name of the class")
        self.types.add(name)
        params = self._class_parameters() if self.accept("#") else []
        base: ast.DataType | None = None
        interfaces: list[ast.DataType] = []
        base_arguments: list[ast.Expr | None] = []
        if self.accept("extends"):
            if interface:
                interfaces = self._class_names()
            else:
                base = self.data_type_here()
                if self.accept("("):  # for the constructor of the base (8.17)
                    base_arguments = self.arguments()
        if self.accept("implements"):
            interfaces += self._class_names()
        self.expect(";", f"after the head of class '{name}'")
        items: list[ast.ClassItem] = []
        while self.kind not in ("endclass", "eof", "end", "endmodule", "endpackage", "module", "program", "package"):
            start, mistakes = self.i, self.mistakes
            try:
                self._class_item(items, name)
                self.understood(mistakes)
            except Recover:
                if self.i == start:
                    self.i += 1
                self.skip_to("endclass", "function", "task", "endmodule")
        if self.accept("endclass"):
            self.end_label(name, "endclass")
        else:
            line = self.diagnostics.sources.place(pos).line
            self.misfit(
                self.pos, f"'endclass' expected before {self.describe()}: class '{name}' of line {line} is still open", "block-open"
            )
            self.accept("end")
        return ast.ClassDecl(pos, name, base, abstract, items, params, interfaces, interface, base_arguments)

    def _class_names(self) -> list[ast.DataType]:
        found = [self.data_type_here()]
        while self.accept(","):
            found.append(self.data_type_here())
        return found

    def _class_parameters(self) -> list[ast.ClassParam]:
        self.expect("(", "after '#'")
        found: list[ast.ClassParam] = []
        while self.kind not in (")", "eof"):
            declared = self.parameter_declaration()
            for d in declared.names:
                if declared.is_type:
                    default = d.init.type if isinstance(d.init, ast.TypeExpr) else None
                    found.append(ast.ClassParam(d.pos, d.name, default, None))
                else:
                    found.append(ast.ClassParam(d.pos, d.name, None, replace(declared, names=[d])))
            if not self.accept(","):
                break
        self.expect(")", "after the parameters of the class")
        return found

    def _class_item(self, items: list[ast.ClassItem], name: str) -> None:
        qualifiers: set[str] = set()
        pos = self.pos
        while self.kind in ("local", "protected", "static", "virtual", "pure", "extern", "rand", "randc", "const", "automatic"):
            if self.starts_virtual():
                break
            qualifiers.add(self.kind)
            self.i += 1
        static, virtual = "static" in qualifiers, "virtual" in qualifiers
        if self.kind == ";":
            self.i += 1
            return
        random = next((word for word in ("randc", "rand") if word in qualifiers), "")
        access = next((word for word in ("local", "protected") if word in qualifiers), "")
        if self.left_out():
            return
        if self.kind in ("function", "task"):
            if "pure" in qualifiers or "extern" in qualifiers:
                made = self._prototype()
            elif self.kind == "function" and self.ahead() == "new":
                made = self._constructor(name)
            else:
                made = self.function() if self.kind == "function" else self.task()
                if made.name in (name, "new"):
                    how = f"it is named 'new', not '{name}'" if made.name == name else "it has no type"
                    self.complain(made.pos, f"a constructor is written 'function new': {how} (8.7)", "constructor")
            items.append(ast.ClassItem(pos, made, static, virtual, pure="pure" in qualifiers, access=access))
            if "extern" in qualifiers:
                self.awaited[name, made.name] = items[-1]
            return
        found: list[ast.Item] = []
        self.item(found)
        for item in found:
            if isinstance(item, ast.VarDecl) and "const" in qualifiers:
                item.constant = True
        items.extend(ast.ClassItem(pos, item, static, False, random, access=access) for item in found)
