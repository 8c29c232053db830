"""Design units: modules and user-defined primitives (IEEE 1364-2005 clauses 8 and 12)."""

from __future__ import annotations

from mevrik.lang.cursor import Recover
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.declarations import NET_KINDS
from mevrik.lang.verilog.parser.items import ItemParser
from mevrik.lang.verilog.parser.statements import LostEnd
from mevrik.lang.verilog.parser.subprograms import DIRECTIONS
from mevrik.lang.verilog.tokens import TokenStream

# what stands outside of all units, beside data (IEEE 1800-2017 3.12.1)
PACKAGE_ITEMS = NET_KINDS | {
    "typedef", "parameter", "localparam", "function", "task", "let", "const", "var", "property", "sequence", "automatic", "static",
}  # fmt: skip
UNITS = {"module", "macromodule", "primitive"}  # at these a mistake outside of all units is over


class UnitParser(ItemParser):
    def __init__(self, tokens: TokenStream, diagnostics: Diagnostics) -> None:
        super().__init__(tokens, diagnostics)
        self.setting_at = 0
        self.open_module = False  # the last module did not end
        self.timescale: ast.Timescale | None = None
        self.nettype = "wire"
        self.cell = False
        self.pull = ""

    def unit(self) -> ast.SourceUnit:
        result = ast.SourceUnit(annotated=self._delay_files())
        while self.kind != "eof":
            start = self.i
            self.new_unit()
            try:
                self.skip_attributes()
                self._description(result)
            except (Recover, LostEnd):
                if self.i == start:
                    self.i += 1
                while self.kind not in UNITS and self.kind != "eof":
                    self.i += 1
        for (owner, name), item in self.awaited.items():
            self.diagnostics.error(item.pos, f"the extern method '{name}' of class '{owner}' has no body (8.24)", "extern-method")
        return result

    def _delay_files(self) -> list[str]:
        """What the first arguments of $sdf_annotate say."""
        if "$sdf_annotate" not in self.texts:
            return []
        places = [k for k, text in enumerate(self.texts) if text == "$sdf_annotate"]
        return [self.texts[k + 2].strip('"') if self.kinds[k + 2 : k + 3] == ["str"] else "" for k in places]

    def _apply_settings(self) -> None:
        while self.setting_at < len(self.settings) and self.settings[self.setting_at].at <= self.i:
            setting = self.settings[self.setting_at]
            self.setting_at += 1
            value = setting.value
            if setting.name == "timescale":
                self.timescale = value if isinstance(value, ast.Timescale) else None
            elif setting.name == "default_nettype":
                self.nettype = str(value)
            elif setting.name == "cell":
                self.cell = bool(value)
            elif setting.name == "unconnected_drive":
                self.pull = str(value)

    def _description(self, result: ast.SourceUnit) -> None:
        kind = self.kind
        if kind in ("module", "macromodule"):
            open_one = result.modules.pop() if self.open_module and result.modules else None
            made = self.module()
            result.modules += [x for x in (open_one,) if x is not None and x.name != made.name]  # a head that stands there twice
            result.modules.append(made)
        elif self.sv and (kind in ("class", "virtual") or (kind == "interface" and self.ahead() == "class")):
            self.item(result.items)
        elif kind == "program" and self.sv:
            made = self.module("endprogram")
            made.program = True
            result.modules.append(made)
        elif kind == "bind" and self.sv:
            result.binds.append(self.bind())
        elif kind == "interface" and self.sv:
            result.modules.append(self.module("endinterface"))
        elif kind == "package" and self.sv:
            result.packages.append(self.package())
        elif kind == "import" and self.sv:
            self.imports(result.items)
        elif kind in ("timeunit", "timeprecision") and self.sv:
            self.time_units()
        elif kind == "primitive":
            result.primitives.append(self.primitive())
        elif kind == ";":
            self.i += 1
        elif self.left_out():
            pass
        elif self.sv and (kind in PACKAGE_ITEMS or self._data_begins()):
            self.item(result.items)
        elif kind == "endmodule":
            self.fail(self.pos, "this 'endmodule' closes no module", "syntax")
        else:
            self.unexpected(self.pos, "a module")

    def _data_begins(self) -> bool:
        """Whether a variable is declared here: a name is its type only where it is known for one, else a misspelt word."""
        known = self.kind != "id" or self.texts[self.i] in self.types or self.ahead() == "::"
        return known and self.starts_type()

    def package(self) -> ast.Module:
        """A package: items as in a module, without ports (IEEE 1800-2017 26.2)."""
        self._apply_settings()
        pos = self.expect("package")
        self.lifetime()
        name = self.identifier("the name of the package")
        self.expect(";", f"after the head of package '{name}'")
        before = set(self.types)
        own = self.timescale
        items = self.items(("endpackage", "module", "macromodule", "package", "program", "interface"))
        end = self.pos
        if self.accept("endpackage"):
            self.end_label(name, "endpackage")
        else:
            self._still_open("endpackage", "package", name, pos)
        self.package_types[name] = self.types - before
        made = ast.Module(pos, name, [], [], True, items, end, self.timescale, self.nettype, False, self.sv)
        self.timescale = own
        return made

    def module(self, closing: str = "endmodule") -> ast.Module:
        """A module, or an interface: the same but for its last word (IEEE 1800-2017 25.3)."""
        self._apply_settings()
        pos = self.pos
        self.i += 1
        self.lifetime()
        name = self.identifier("the name of the module")
        params: list[ast.ParamDecl] = []
        ports: list[ast.Port | ast.PortRef] = []
        ansi = False
        own = self.timescale
        imported: list[ast.Item] = []
        try:
            while self.kind == "import" and self.sv:
                self.imports(imported)
            if self.accept("#"):
                self.expect("(", "after '#'")
                while self.kind != ")":
                    params.append(self.parameter_declaration())
                    if not self.accept(","):
                        break
                self.expect(")", "after the parameters")
            if self.accept("("):
                ports, ansi = self._port_list()
            self.expect(";", f"after the head of module '{name}'")
        except Recover:
            self.skip_to("endmodule", "always", "initial", "assign", "wire", "reg")
        nettype, cell, pull = self.nettype, self.cell, self.pull
        other = (
            ("endmodule", "endinterface", "endprogram") if closing != "endmodule" else ("endinterface", "endpackage", "endprogram")
        )
        ends = (closing, "module", "macromodule", *(other if self.sv else ()))
        items = imported + self.items(ends)
        while self.kind in ("module", "macromodule") and self._is_nested():
            self._leave_nested()
            items += self.items(ends)
        timescale, self.timescale = self.timescale, own
        end = self.pos
        self.open_module = self.kind != closing
        if self.kind == closing:
            self.i += 1
            self.end_label(name, closing)
        else:
            self._still_open(closing, closing.removeprefix("end"), name, pos)
            if self.kind in other:  # the wrong word, but its end
                self.i += 1
        self._apply_settings()
        return ast.Module(
            pos, name, params, ports, ansi, items, end, timescale, nettype, cell, self.sv, closing == "endinterface", pull=pull
        )

    def _still_open(self, closing: str, what: str, name: str, pos: int) -> None:
        line = self.diagnostics.sources.place(pos).line
        message = f"'{closing}' expected before {self.describe()}: {what} '{name}' of line {line} is still open"
        self.misfit(self.pos, message, "block-open")

    def _is_nested(self) -> bool:
        """Whether the module that begins here ends within the present one: then there is an `endmodule` more to come than modules."""
        rest = self.kinds[self.i :]
        return self.sv and rest.count("endmodule") == rest.count("module") + rest.count("macromodule") + 1

    def _leave_nested(self) -> None:
        """A module in a module is named as not supported, and left out with its instances."""
        self.diagnostics.error(self.pos, "a module in a module is not supported yet (IEEE 1800-2017 23.4)", "unsupported")
        depth = 0
        while True:
            depth += (self.kind in ("module", "macromodule")) - (self.kind == "endmodule")
            self.i += 1
            if not depth:
                return

    def _port_list(self) -> tuple[list[ast.Port | ast.PortRef], bool]:
        self.skip_attributes()
        if self.accept(")"):
            return [], True
        interface = self.sv and self.kind == "id" and (self.ahead() == "id" or (self.ahead() == "." and self.ahead(3) == "id"))
        ansi = (
            self.kind in DIRECTIONS
            or interface
            or (self.sv and (self.starts_type() or self.kind in ("var", "interface", "ref", "const")))
        )
        ports: list[ast.Port | ast.PortRef] = []
        if ansi:
            ports.extend(self.ansi_ports())
        else:
            while True:
                ports.append(self._port_reference())
                if not self.accept(","):
                    break
        if self.kind in DIRECTIONS or self.kind == "id":
            self.missing("','", "between two ports")
        self.expect(")", "after the ports")
        return ports, ansi

    def _port_reference(self) -> ast.PortRef:
        """`name`, `.name(expression)`, `{a, b}` or nothing (12.3.2)."""
        pos = self.pos
        if self.kind in (",", ")"):
            return ast.PortRef(pos, "", None)
        if self.accept("."):
            name = self.identifier("the name of a port")
            self.expect("(")
            expr = None if self.kind == ")" else self.expression()
            self.expect(")")
            return ast.PortRef(pos, name, expr)
        expr = self.unary()
        name = expr.name if isinstance(expr, ast.Name) else ""
        if isinstance(expr, (ast.Index, ast.PartSelect)) and isinstance(expr.base, ast.Name):
            name = expr.base.name
        return ast.PortRef(pos, name, expr)

    # ---- primitives ----

    def primitive(self) -> ast.Primitive:
        pos = self.expect("primitive")
        name = self.identifier("the name of the primitive")
        self.expect("(")
        output, inputs = "", []
        sequential = False
        init: int | None = None
        if self.kind in DIRECTIONS:
            self.expect("output")
            sequential = self.accept("reg")
            output = self.identifier()
            if self.accept("="):
                init = self._udp_init()
            while self.accept(","):
                self.accept("input")
                inputs.append(self.identifier())
            self.expect(")")
            self.expect(";")
        else:
            output = self.identifier()
            while self.accept(","):
                inputs.append(self.identifier())
            self.expect(")")
            self.expect(";")
        while self.kind in ("input", "output", "reg"):
            sequential = self.kind == "reg" or sequential
            if self.kind == "output" and self.ahead() == "reg":
                sequential = True
                self.i += 1
            self.i += 1
            names = self.declarators()
            if names[0].init is not None and isinstance(names[0].init, ast.Number):
                init = self._bit(names[0].init)
            self.expect(";")
        if self.accept("initial"):
            self.identifier()
            self.expect("=")
            init = self._udp_init()
            self.expect(";")
            sequential = True
        self.expect("table", f"in primitive '{name}'")
        rows: list[ast.UdpRow] = []
        while self.kind not in ("endtable", "eof"):
            row = self._udp_row()
            rows.append(row)
        self.expect("endtable")
        self.expect("endprimitive")
        self.end_label(name, "endprimitive")
        return ast.Primitive(pos, name, output, inputs, sequential, init, rows)

    def _udp_init(self) -> int:
        value = self.expression()
        return self._bit(value) if isinstance(value, ast.Number) else 2

    @staticmethod
    def _bit(value: ast.Number) -> int:
        return 2 if value.unk & 1 else value.val & 1

    def _udp_row(self) -> ast.UdpRow:
        """Symbols may stand together (`01?`), so the texts are joined and split into symbols."""
        pos = self.pos
        fields: list[list[str]] = [[]]
        while self.kind not in (";", "eof", "endtable"):
            if self.kind == ":":
                fields.append([])
                self.i += 1
                continue
            if self.kind == "(":
                edge = ""
                self.i += 1
                while self.kind not in (")", "eof", ";"):
                    edge += self.texts[self.i]
                    self.i += 1
                self.expect(")", "after the edge")
                fields[-1].append("(" + edge.lower() + ")")
                continue
            fields[-1].extend(self.texts[self.i].lower())
            self.i += 1
        self.expect(";", "after the row of the table")
        if len(fields) == 2:
            return ast.UdpRow(pos, fields[0], None, "".join(fields[1]))
        if len(fields) == 3:
            return ast.UdpRow(pos, fields[0], "".join(fields[1]), "".join(fields[2]))
        self.fail(pos, "a row of a table has inputs, ':', perhaps a state and ':', and an output", "udp-row")


def parse(tokens: TokenStream, diagnostics: Diagnostics, package_types: dict[str, set[str]] | None = None) -> ast.SourceUnit:
    """The syntax tree of one source file; what is wrong goes to `diagnostics`. `package_types` holds the names that packages
    of the files before declared as types, and takes those of this one."""
    parser = UnitParser(tokens, diagnostics)
    if package_types is not None:
        parser.package_types = package_types
    return parser.unit()
