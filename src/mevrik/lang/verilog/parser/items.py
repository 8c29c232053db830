"""Module items: declarations, instances, gates, generate constructs (IEEE 1364-2005 clauses 7, 10 and 12)."""

from __future__ import annotations

import math

from mevrik.lang.cursor import Recover
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.declarations import NET_KINDS
from mevrik.lang.verilog.parser.specify import SpecifyParser
from mevrik.lang.verilog.parser.statements import LostEnd
from mevrik.lang.verilog.tokens import TokenStream

GATES = {
    "and", "nand", "or", "nor", "xor", "xnor", "buf", "not", "bufif0", "bufif1", "notif0", "notif1",
    "nmos", "pmos", "rnmos", "rpmos", "cmos", "rcmos", "tran", "rtran", "tranif0", "tranif1", "rtranif0", "rtranif1",
    "pullup", "pulldown",
}  # fmt: skip
ASSERTIONS = {"assert", "assume", "cover", "restrict"}
PROCESSES = {"always", "initial", "always_comb", "always_ff", "always_latch", "final"}
DIRECTIONS = {"input", "output", "inout"}
# At these an error in an item is over.
ITEM_STARTS = {
    "endmodule", "module", "macromodule", "endgenerate", "endfunction", "endtask", "always", "initial", "assign",
    "always_comb", "always_ff", "always_latch", "wire", "reg", "input", "output", "inout", "parameter", "localparam",
    "function", "task", "generate", "integer", "logic", "primitive", "endprimitive", "package", "endpackage", "eof",
}  # fmt: skip


class ItemParser(SpecifyParser):
    timescale: ast.Timescale | None = None

    def __init__(self, tokens: TokenStream, diagnostics: Diagnostics) -> None:
        super().__init__(tokens, diagnostics)
        self.awaited: dict[tuple[str, str], ast.ClassItem] = {}  # extern prototypes whose bodies are still to come

    def items(self, closing: tuple[str, ...]) -> list[ast.Item]:
        """Items up to one of `closing`, which is left to the caller."""
        found: list[ast.Item] = []
        while self.kind not in closing and self.kind != "eof":
            start = self.i
            try:
                self.item(found)
            except Recover:
                if self.i == start:
                    self.i += 1
                self.skip_to(*ITEM_STARTS)
                self.last_error = self.i
            except LostEnd:
                while self.kind in ("end", "join", "endcase"):
                    self.i += 1
                self.last_error = self.i
                if closing != ("endmodule", "module", "macromodule") and self.kind in ("endmodule", "module"):
                    raise
        return found

    def item(self, found: list[ast.Item]) -> None:
        self.skip_attributes()
        kind = self.kind
        pos = self.pos
        if kind in PROCESSES:
            self.i += 1
            found.append(ast.Always(pos, kind, self.statement()))
        elif kind == "assign":
            self.continuous_assign(found)
        elif kind in NET_KINDS:
            found.append(self.net_declaration())
        elif kind in DIRECTIONS:
            self.port_declaration(found)
        elif kind == "parameter" or kind == "localparam":
            found.append(self.parameter_declaration())
            self.expect(";", f"after the {kind}")
        elif kind == "function":
            self._place_subprogram(found, self.function())
        elif kind == "task":
            self._place_subprogram(found, self.task())
        elif kind == "event":
            found.append(self.event_declaration())
        elif kind == "genvar":
            self.i += 1
            found.append(ast.GenvarDecl(pos, self.declarators()))
            self.expect(";", "after the genvar")
        elif kind == "generate":
            self.i += 1
            found.extend(self.items(("endgenerate",)))
            self.expect("endgenerate")
        elif kind == "for":
            found.append(self.generate_for())
        elif kind == "if":
            found.append(self.generate_if())
        elif kind == "case":
            found.append(self.generate_case())
        elif kind == "begin":
            found.append(self.generate_block())
        elif kind in GATES:
            self.gates(found)
        elif kind == "defparam":
            self.defparam(found)
        elif kind == "typedef":
            found.append(self.typedef())
        elif kind == "specify":
            self.specify_block(found)
        elif kind == "class" or (kind in ("virtual", "interface") and self.ahead() == "class"):
            found.append(self.class_declaration())
        elif kind in ("property", "sequence") and self.sv:
            found.append(self.property_declaration())
        elif self.sv and (kind in ASSERTIONS or (kind == "id" and self.ahead() == ":" and self.ahead(2) in ASSERTIONS)):
            found.append(ast.Always(pos, "assertion", self.statement()))
        elif kind == "let" and self.sv:
            found.append(self._let())
        elif kind == "bind" and self.sv:
            found.append(self.bind())
        elif kind in ("clocking", "global") and self.sv:
            found.append(self._clocking(False))
        elif kind == "default" and self.sv:
            self._default(found)
        elif kind == "modport" and self.sv:  # it only limits what may be used
            self.skip_to("endinterface", "endmodule")
        elif kind == "import" and self.sv:
            self.imports(found)
        elif kind == "export" and self.sv and self.ahead() != "str":
            self.skip_to()  # what a package imports as a whole is visible to those that import it (26.6)
        elif kind in ("timeunit", "timeprecision") and self.sv:
            self.time_units()
        elif kind == "specparam":
            found.append(self.specparam())
        elif kind == ";":
            self.i += 1
        elif kind in ("const", "var", "automatic", "static") or self.starts_type():
            found.append(self.variable_declaration())
        elif kind == "id":
            self.instances(found)
        elif self.left_out():
            pass
        elif kind == "sys" and self.sv:
            self.fail(pos, f"{self.texts[self.i]} at module level is not supported yet (IEEE 1800-2017 20.11)", "unsupported")
        elif kind == "else":
            self.i += 1
            self.fail(pos, "this 'else' has no 'if' before it", "syntax")
        else:
            self.unexpected(pos, "a module item")

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
        while self.kind not in ("endclass", "eof", "endmodule", "endpackage"):
            start = self.i
            try:
                self._class_item(items, name)
            except Recover:
                if self.i == start:
                    self.i += 1
                self.skip_to("endclass", "function", "task", "endmodule")
        self.expect("endclass", f"to close class '{name}'")
        self.end_label(name, "endclass")
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
            pos = self.pos
            self.accept("parameter")
            if self.accept("type"):
                name = self.identifier("the name of a type")
                self.types.add(name)
                default = self.data_type_here() if self.accept("=") else None
                found.append(ast.ClassParam(pos, name, default, None))
            else:
                declared = self.parameter_declaration()
                found.append(ast.ClassParam(pos, declared.names[0].name, None, declared))
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
        for word, clause in (("rand", "18.4"), ("randc", "18.4")):
            if word in qualifiers:
                self.diagnostics.error(pos, f"'{word}' is not supported yet (IEEE 1800-2017 {clause})", "unsupported")
        if self.left_out():
            return
        if self.kind in ("function", "task"):
            if "pure" in qualifiers or "extern" in qualifiers:
                made = self._prototype()
            elif self.kind == "function" and self.ahead() == "new":
                made = self._constructor(name)
            else:
                made = self.function() if self.kind == "function" else self.task()
            items.append(ast.ClassItem(pos, made, static, virtual))
            if "extern" in qualifiers:
                self.awaited[name, made.name] = items[-1]
            return
        found: list[ast.Item] = []
        self.item(found)
        items.extend(ast.ClassItem(pos, item, static, False) for item in found)

    def _let(self) -> ast.LetDecl:
        pos = self.expect("let")
        name = self.identifier("the name of the let")
        ports = self.formal_arguments() if self.accept("(") else []
        self.expect("=", f"after the head of '{name}'")
        value = self.expression()
        self.expect(";", "after the let")
        return ast.LetDecl(pos, name, ports, value)

    def bind(self) -> ast.Bind:
        """`bind module_or_instance module #(…) name (…);`"""
        pos = self.expect("bind")
        target = [self.identifier("the name of a module or instance")]
        while self.accept("."):
            target.append(self.identifier("the name of an instance"))
        if self.accept(":"):
            self.fail(self.pos, "a list of instances to bind to is not supported; one 'bind' each is (23.11)", "unsupported")
        items: list[ast.Item] = []
        self.instances(items)
        return ast.Bind(pos, target, items)

    def _default(self, found: list[ast.Item]) -> None:
        """`default clocking …` or `default disable iff …`."""
        pos = self.expect("default")
        if self.accept("disable"):
            self.expect("iff", "after 'disable'")
            found.append(ast.DefaultDisable(pos, self.expression()))
            self.expect(";")
        elif self.kind == "clocking" and self.ahead() == "id" and self.ahead(2) == ";":
            self.i += 2
            found.append(ast.DefaultClocking(pos, self.texts[self.i - 1]))
            self.i += 1
        else:
            found.append(self._clocking(True))

    def _clocking(self, default: bool) -> ast.Clocking:
        self.accept("global")
        pos = self.expect("clocking")
        name = self.identifier() if self.kind == "id" else ""
        event = self.event_control()
        self.expect(";", "after the event of the clocking block")
        made = ast.Clocking(pos, name, event, default, [], {})
        while self.kind not in ("endclocking", "eof", "endmodule"):
            self._clocking_item(made)
        self.expect("endclocking", "to close the clocking block")
        self.end_label(name, "endclocking")
        return made

    def _clocking_item(self, made: ast.Clocking) -> None:
        if self.accept("default"):
            while self.kind in ("input", "output"):
                word = self.kind
                self.i += 1
                made.skews[word] = self._skew() or ast.Skew(self.pos, None)
            self.expect(";")
            return
        if self.kind in ("property", "sequence", "let"):
            self.fail(self.pos, f"a {self.kind} in a clocking block is not supported; declare it beside it", "unsupported")
        if self.kind not in DIRECTIONS:
            self.missing("'input', 'output' or 'inout'", "in the clocking block")
        direction = self.kind
        self.i += 1
        skew = self._skew()
        if self.accept("output"):
            direction, skew = "inout", self._skew() or skew
        while True:
            name = self.identifier("the name of a signal")
            made.signals.append((direction, name, self.expression() if self.accept("=") else None, skew))
            if not self.accept(","):
                break
        self.expect(";", "after the signals of the clocking block")

    def _skew(self) -> ast.Skew | None:
        if self.kind in ("posedge", "negedge", "edge"):
            self.fail(self.pos, "an edge as a skew is not supported (IEEE 1800-2017 14.4)", "unsupported")
        if self.kind != "#":
            return None
        pos = self.pos
        self.i += 1
        if self.kind == "1step" or (self.kind == "num" and self.texts[self.i] == "1" and self.texts[self.i + 1] == "step"):
            self.i += 1 if self.kind == "1step" else 2
            return ast.Skew(pos, None)
        if self.accept("("):
            value = self.min_typ_max()
            self.expect(")")
            return ast.Skew(pos, value)
        return ast.Skew(pos, self.delay_value())

    def _constructor(self, name: str) -> ast.Function:
        pos = self.expect("function")
        self.kinds[self.i] = "id"  # `new` is the name of this one
        return self._subprogram(pos, ast.DataType(pos, "name", name=name), True, "endfunction")

    def _prototype(self) -> ast.Function:
        """`pure virtual function …;` or `extern function …;`: a head without a body."""
        pos, is_task = self.pos, self.kind == "task"
        self.i += 1
        if is_task:
            dtype = None
        elif self.accept("void") or self.kind == "new":
            dtype = ast.DataType(pos, "void")
        else:
            dtype = self.data_type_named()
        if dtype is not None and self.kind == "new":
            self.kinds[self.i] = "id"
        name = self.identifier("the name of the method")
        ports: list[ast.Port] = []
        if self.accept("(") and not self.accept(")"):
            ports = self.ansi_ports("input")
            self.expect(")", "after the ports")
        self.expect(";", "after the head of the method")
        return ast.Function(pos, name, dtype, ports, [], ast.Block(pos, "", [], []), True, is_task)

    def imports(self, found: list[ast.Item]) -> None:
        """`import a::x, b::*;`"""
        self.expect("import")
        if self.kind == "str":
            self._foreign(found)
            return
        while True:
            pos = self.pos
            package = self.identifier("the name of a package")
            self.expect("::", f"after the package '{package}'")
            name = "*" if self.accept("*") else self.identifier("a name of the package")
            if name == "*":
                self.types |= self.package_types.get(package, set())
            elif name in self.package_types.get(package, set()):
                self.types.add(name)
            found.append(ast.Import(pos, package, name))
            if not self.accept(","):
                break
        self.expect(";", "after the import")

    def _foreign(self, found: list[ast.Item]) -> None:
        """`import "…" function …;` is named as not supported; its name is known, so that its calls are not reported as well."""
        self.diagnostics.error(self.pos, "functions of another language are not supported (IEEE 1800-2017 35.5)", "unsupported")
        self.i += 1
        while self.kind in ("context", "pure", "id", "="):
            self.i += 1
        found.append(self._prototype())

    def time_units(self) -> None:
        """timeunit and timeprecision (IEEE 1800-2017 3.14.2.2)."""
        word = self.kind
        self.i += 1
        unit = self._time_exponent()
        precision = self._time_exponent() if word == "timeunit" and self.accept("/") else None
        self.expect(";", f"after the {word}")
        old = self.timescale or ast.Timescale(-9, -9)
        if word == "timeprecision":
            self.timescale = ast.Timescale(max(old.unit, unit), unit)
        else:
            fine = precision if precision is not None else min(old.precision, unit)
            self.timescale = ast.Timescale(unit, fine)

    def _time_exponent(self) -> int:
        value = self.primary()
        if not isinstance(value, ast.TimeLiteral):
            self.fail(value.pos, "a time such as 1ns is needed here", "timescale")
        return round(math.log10(value.seconds))

    def continuous_assign(self, found: list[ast.Item]) -> None:
        self.expect("assign")
        strength = self.strength()
        delay = self.delay(3)
        while True:
            pos = self.pos
            target = self.unary()
            self.expect("=", "after what is assigned")
            found.append(ast.ContinuousAssign(pos, target, self.expression(), delay, strength))
            if not self.accept(","):
                break
        self.expect(";", "after the assignment")

    # ---- ports ----

    def ansi_ports(self, direction: str = "inout") -> list[ast.Port]:
        """`(input wire [3:0] a, b, output reg c)`, the parentheses taken by the caller."""
        ports: list[ast.Port] = []
        kind, dtype, by_reference = "", ast.DataType(self.pos, ""), False
        while True:
            self.skip_attributes()
            pos = self.pos
            if self.sv and self.kind == "id" and self.ahead() == "." and self.ahead(2) == "id" and self.ahead(3) == "id":
                direction, kind = "interface", ""  # bus.modport name
                dtype = ast.DataType(self.pos, "name", name=self.texts[self.i])
                self.i += 3
            elif self.kind == "const" and self.ahead() == "ref":
                self.i += 2
                direction, by_reference = "input", True  # only read
                kind, dtype = self.port_type()
            elif self.kind in DIRECTIONS or (self.kind == "ref" and self.sv):
                by_reference = self.kind == "ref"
                direction = "inout" if by_reference else self.kind
                self.i += 1
                kind, dtype = self.port_type()
            elif self.kind in NET_KINDS or self.kind == "var" or self.starts_type() or self.kind in ("[", "signed"):
                kind, dtype = self.port_type()
            name_pos = self.pos
            name = self.identifier("the name of a port")
            dims = self.ranges()
            init = self.expression() if self.accept("=") else None
            ports.append(ast.Port(name_pos or pos, direction, kind, dtype, name, dims, init, by_reference=by_reference))
            if not self.accept(","):
                return ports

    def port_type(self) -> tuple[str, ast.DataType]:
        kind = ""
        if self.kind in NET_KINDS:
            kind = self.kind
            self.i += 1
        elif self.accept("var"):
            kind = "var"
        dtype = self.data_type()
        if not kind and dtype.keyword:
            kind = "var"
        return kind, dtype

    def port_declaration(self, found: list[ast.Item]) -> None:
        direction = self.kind
        self.i += 1
        kind, dtype = self.port_type()
        while True:
            pos = self.pos
            name = self.identifier("the name of a port")
            dims = self.ranges()
            init = self.expression() if self.accept("=") else None
            found.append(ast.Port(pos, direction, kind, dtype, name, dims, init, ansi=False))
            if not self.accept(","):
                break
        self.expect(";", f"after the {direction} declaration")

    # ---- subprograms ----

    def function(self) -> ast.Function:
        pos = self.expect("function")
        automatic = self.accept("automatic")
        if not automatic:
            self.accept("static")
        if self.kind == "void":
            self.i += 1
            dtype = ast.DataType(pos, "void")
        elif self.kind == "id" and (self.ahead() in (";", "(") or (self.ahead() == "::" and self.ahead(2) == "new")):
            dtype = ast.DataType(pos, "")
        else:
            dtype = self.data_type_named()
        return self._subprogram(pos, dtype, automatic, "endfunction")

    def task(self) -> ast.Function:
        pos = self.expect("task")
        automatic = self.accept("automatic")
        if not automatic:
            self.accept("static")
        return self._subprogram(pos, None, automatic, "endtask")

    def _subprogram(self, pos: int, dtype: ast.DataType | None, automatic: bool, closing: str) -> ast.Function:
        name = self.identifier("the name of the function" if dtype else "the name of the task")
        owner = ""
        if self.sv and self.accept("::"):
            owner = name
            if self.kind == "new":
                self.kinds[self.i] = "id"
                dtype = ast.DataType(pos, "name", name=owner)
            name = self.identifier("the name of the method")
        ports: list[ast.Port] = []
        if self.accept("("):
            if not self.accept(")"):
                ports = self.ansi_ports("input")  # the default direction (IEEE 1800-2017 13.3)
                self.expect(")", "after the ports")
        self.expect(";", f"after the head of '{name}'")
        decls: list[ast.Item] = []
        while True:
            self.skip_attributes()
            if self.kind in DIRECTIONS:
                declared: list[ast.Item] = []
                self.port_declaration(declared)
                ports.extend(p for p in declared if isinstance(p, ast.Port))
            elif not self.block_declaration(decls):
                break
        body: list[ast.Stmt] = []
        at = self.pos
        while self.kind != closing:
            if self.kind in ("endmodule", "module", "function", "task", "always", "initial", "eof"):
                line = self.diagnostics.sources.place(pos).line
                message = f"'{closing}' expected before {self.describe()}: '{name}' of line {line} is still open"
                self.complain(self.pos, message, "block-open")
                raise LostEnd
            if self.sv and self.starts_type() and self.block_declaration(decls):
                continue
            before = self.i
            body.append(self.statement())
            if self.i == before:  # a word that ends something around the subprogram
                self.complain(self.pos, f"'{closing}' expected before {self.describe()}: '{name}' is still open", "block-open")
                raise LostEnd
        end = self.pos
        self.i += 1
        self.end_label(name, closing)
        block = ast.Block(at, "", [], body)
        block.end = end
        return ast.Function(pos, name, dtype, ports, decls, block, automatic, dtype is None, end, owner)

    def _place_subprogram(self, found: list[ast.Item], made: ast.Function) -> None:
        """A method whose body stands outside its class takes the place of its prototype there (IEEE 1800-2017 8.24)."""
        if not made.owner:
            found.append(made)
            return
        item = self.awaited.pop((made.owner, made.name), None)
        if item is None:
            self.complain(
                made.pos, f"no class '{made.owner}' before it declares 'extern' the method '{made.name}' (8.24)", "extern-method"
            )
            return
        assert isinstance(item.item, ast.Function)
        for port, declared in zip(made.ports, item.item.ports):
            port.init = port.init or declared.init  # a default may stand in the prototype alone
        made.automatic = True
        item.item = made

    # ---- instances ----

    def instances(self, found: list[ast.Item]) -> None:
        module = self.identifier()
        params: list[ast.Connection] = []
        strength = self.strength()
        if self.accept("#"):
            if self.accept("("):
                params = self.connections() if self.kind != ")" else []
                self.expect(")", "after the parameter values")
            else:
                params = [ast.Connection(self.pos, None, self.delay_value())]
        if self.kind in ("=", "<=", "++", "--") and not params:
            self.fail(
                self.positions[self.i - 1],
                f"an assignment to '{module}' must stand in an always or initial block, or begin with 'assign'",
                "syntax",
            )
        while True:
            pos = self.pos
            if self.kind == "(":
                name, dims = "", []
            else:
                if self.kind != "id":
                    self.missing("the name of an instance", f"after '{module}'")
                name = self.identifier()
                dims = self.ranges()
            self.expect("(", f"to begin the connections of '{name or module}'")
            ports = [] if self.kind == ")" else self.connections()
            self.expect(")", "after the connections")
            found.append(ast.Instance(pos, module, name, params, ports, dims, strength))
            if not self.accept(","):
                break
        self.expect(";", "after the instance")

    def connections(self) -> list[ast.Connection]:
        found: list[ast.Connection] = []
        while True:
            self.skip_attributes()
            pos = self.pos
            if self.accept(".*"):
                found.append(ast.Connection(pos, None, None, wild=True))
            elif self.accept("."):
                name = self.identifier("the name of a port")
                if self.accept("("):
                    expr = None if self.kind == ")" else self.connection_value()
                    self.expect(")", f"after the connection of '{name}'")
                    found.append(ast.Connection(pos, name, expr))
                else:
                    found.append(ast.Connection(pos, name, ast.Name(pos + 1, name), short=True))
            elif self.kind in (",", ")"):
                found.append(ast.Connection(pos, None, None))
            else:
                found.append(ast.Connection(pos, None, self.connection_value()))
            if not self.accept(","):
                return found

    def connection_value(self) -> ast.Expr:
        return self.min_typ_max()

    def gates(self, found: list[ast.Item]) -> None:
        kind = self.kind
        self.i += 1
        strength = self.strength()
        delay = self.delay(3)
        while True:
            pos = self.pos
            name, dims = "", []
            if self.kind == "id":
                name = self.identifier()
                dims = self.ranges()
            self.expect("(", f"to begin the connections of the {kind} gate")
            ports = self.expression_list(")")
            self.expect(")", "after the connections")
            found.append(ast.Gate(pos, kind, name, ports, dims, delay, strength))
            if not self.accept(","):
                break
        self.expect(";", f"after the {kind} gate")

    def defparam(self, found: list[ast.Item]) -> None:
        self.expect("defparam")
        while True:
            pos = self.pos
            target = self.unary()
            self.expect("=", "after the parameter")
            found.append(ast.Defparam(pos, target, self.min_typ_max()))
            if not self.accept(","):
                break
        self.expect(";", "after the defparam")

    # ---- generate ----

    def generate_body(self) -> ast.GenBlock | None:
        if self.accept(";"):
            return None
        if self.kind == "begin":
            return self.generate_block()
        pos = self.pos
        found: list[ast.Item] = []
        self.item(found)
        return ast.GenBlock(pos, "", found)

    def generate_block(self) -> ast.GenBlock:
        pos = self.expect("begin")
        label = self.identifier("the name of the block") if self.accept(":") else ""
        found = self.items(("end",))
        self.expect("end", "after the generate block")
        self.end_label(label, "end")
        return ast.GenBlock(pos, label, found)

    def generate_for(self) -> ast.Item:
        pos = self.expect("for")
        self.expect("(")
        self.accept("genvar")
        var = self.identifier("a genvar")
        self.expect("=")
        init = self.expression()
        self.expect(";")
        cond = self.expression()
        self.expect(";")
        step = self._for_assignments()
        self.expect(")")
        body = self.generate_body() or ast.GenBlock(pos, "", [])
        return ast.GenFor(pos, var, init, cond, step[0], body)

    def generate_if(self) -> ast.Item:
        pos = self.expect("if")
        self.expect("(", "after 'if'")
        cond = self.expression()
        self.expect(")")
        then = self.generate_body()
        other = self.generate_body() if self.accept("else") else None
        return ast.GenIf(pos, cond, then, other)

    def generate_case(self) -> ast.Item:
        pos = self.expect("case")
        self.expect("(")
        subject = self.expression()
        self.expect(")")
        arms: list[tuple[list[ast.Expr], ast.GenBlock | None]] = []
        while self.kind not in ("endcase", "eof"):
            if self.accept("default"):
                self.accept(":")
                labels: list[ast.Expr] = []
            else:
                labels = self.expression_list(":")
                self.expect(":")
            arms.append((labels, self.generate_body()))
        self.expect("endcase")
        return ast.GenCase(pos, subject, arms)
