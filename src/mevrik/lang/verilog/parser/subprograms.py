"""Ports, functions and tasks (IEEE 1364-2005 10, 12.3)."""

from __future__ import annotations

from mevrik.lang.cursor import Recover
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.declarations import NET_KINDS
from mevrik.lang.verilog.parser.specify import SpecifyParser
from mevrik.lang.verilog.parser.statements import LostEnd
from mevrik.lang.verilog.tokens import TokenStream

DIRECTIONS = {"input", "output", "inout"}


class SubprogramParser(SpecifyParser):
    timescale: ast.Timescale | None = None

    def __init__(self, tokens: TokenStream, diagnostics: Diagnostics) -> None:
        super().__init__(tokens, diagnostics)
        self.awaited: dict[tuple[str, str], ast.ClassItem] = {}  # extern prototypes whose bodies are still to come

    def lifetime(self) -> None:
        """What the variables of subprograms and blocks of a module or package are where nothing else is said (6.21)."""
        self.automatic = self.kind == "automatic"
        if self.kind in ("automatic", "static"):
            self.i += 1

    def _automatic(self) -> bool:
        if self.accept("static"):
            return False
        return self.accept("automatic") or self.automatic

    # ---- ports ----

    def ansi_ports(self, direction: str = "inout") -> list[ast.Port]:
        """`(input wire [3:0] a, b, output reg c)`, the parentheses taken by the caller."""
        ports: list[ast.Port] = []
        kind, dtype, by_reference = "", ast.DataType(self.pos, ""), False
        while True:
            self.skip_attributes()
            pos = self.pos
            modport = ""
            if self.sv and self.kind == "id" and self.ahead() == "." and self.ahead(2) == "id" and self.ahead(3) == "id":
                direction, kind = "interface", ""  # bus.modport name
                dtype = ast.DataType(self.pos, "name", name=self.texts[self.i])
                modport = self.texts[self.i + 2]
                self.i += 3
            elif self.sv and self.kind == "interface":  # any one (25.3.3)
                direction, kind = "interface", ""
                dtype = ast.DataType(self.pos, "interface")
                self.i += 1
                modport = self.identifier("the name of a modport") if self.accept(".") else ""
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
            elif self.sv and self.kind == "id" and self.ahead() == "id":  # a type or interface that is read later
                kind, dtype = "var", ast.DataType(self.pos, "name", name=self.texts[self.i])
                self.i += 1
            name_pos = self.pos
            if self.sv and self.kind == "." and self.ahead(2) == "(":
                ports.append(self._explicit_port(direction))
            else:
                name = self.identifier("the name of a port")
                dims = self.ranges()
                init = self.expression() if self.accept("=") else None
                ports.append(
                    ast.Port(name_pos or pos, direction, kind, dtype, name, dims, init, by_reference=by_reference, modport=modport)
                )
            if not self.accept(","):
                return ports

    def _explicit_port(self, direction: str) -> ast.Port:
        """`.name(expression)`: a port that stands for something inside (IEEE 1800-2017 23.2.2.2)."""
        pos = self.expect(".")
        name = self.identifier("the name of a port")
        self.expect("(")
        inside = self.expression()
        self.expect(")", f"after what the port '{name}' stands for")
        return ast.Port(pos, direction, "", ast.DataType(pos, ""), name, [], stands_for=inside)

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
        automatic = self._automatic()
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
        automatic = self._automatic()
        return self._subprogram(pos, None, automatic, "endtask")

    def _subprogram(self, pos: int, dtype: ast.DataType | None, automatic: bool, closing: str) -> ast.Function:
        kept, self.automatic = self.automatic, False  # its own lifetime is that of all in it
        try:
            return self._subprogram_body(pos, dtype, automatic, closing)
        finally:
            self.automatic = kept

    def _subprogram_body(self, pos: int, dtype: ast.DataType | None, automatic: bool, closing: str) -> ast.Function:
        if self.kind == "new" and self.sv:  # a constructor with a type, which is told where it belongs to
            self.kinds[self.i] = "id"
        try:
            name = self.identifier("the name of the function" if dtype else "the name of the task")
        except Recover:
            self.skip_to(closing, "begin", "(")
            name = ""
        owner = ""
        if self.sv and self.accept("::"):
            owner = name
            if self.kind == "new":
                self.kinds[self.i] = "id"
                dtype = ast.DataType(pos, "name", name=owner)
            name = self.identifier("the name of the method")
        if self.sv and self.kind == "." and self.ahead() == "id":
            self.complain(
                self.pos,
                f"'{name}.{self.texts[self.i + 1]}' is given to an interface: not supported yet (IEEE 1800-2017 25.7.4)",
                "unsupported",
            )
            self.i += 2
        ports: list[ast.Port] = []
        try:
            if self.accept("("):
                if not self.accept(")"):
                    ports = self.ansi_ports("input")  # the default direction (IEEE 1800-2017 13.3)
                    self.expect(")", "after the ports")
            self.expect(";", f"after the head of '{name}'")
        except Recover:  # what stands in it is read all the same
            self.skip_to(closing, "begin")
        decls: list[ast.Item] = []
        while True:
            self.skip_attributes()
            if self.kind in DIRECTIONS:
                declared: list[ast.Item] = []
                self.port_declaration(declared)
                ports.extend(p for p in declared if isinstance(p, ast.Port))
            elif not self.block_declaration(decls):
                break
        _join_ports(ports, decls)
        body: list[ast.Stmt] = []
        at = self.pos
        while self.kind != closing:
            if self.kind in ("endmodule", "module", "function", "task", "always", "initial", "eof"):
                line = self.diagnostics.sources.place(pos).line
                message = f"'{closing}' expected before {self.describe()}: '{name}' of line {line} is still open"
                self.misfit(self.pos, message, "block-open")
                raise LostEnd
            if self.kind in ("endfunction", "endtask"):
                what = "task" if dtype is None else "function"
                self.misfit(self.pos, f"'{closing}' expected, found '{self.kind}': '{name}' is a {what}", "block-open")
                break
            if self.sv and self.starts_type() and self.block_declaration(decls):
                continue
            before = self.i
            body.append(self.statement())
            if self.i == before:  # a word that ends something around the subprogram
                self.misfit(self.pos, f"'{closing}' expected before {self.describe()}: '{name}' is still open", "block-open")
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


def _join_ports(ports: list[ast.Port], decls: list[ast.Item]) -> None:
    """`output [7:0] a; reg [7:0] a;` as sources of 1995 write it: the second declaration gives the type of the first one."""
    open_ports = {p.name: p for p in ports if not p.type.keyword}
    for item in decls:
        if isinstance(item, ast.VarDecl):
            for d in [d for d in item.names if d.name in open_ports and d.init is None]:
                port = open_ports.pop(d.name)
                port.type, port.dims = item.type, d.dims
                item.names.remove(d)
    decls[:] = [x for x in decls if not isinstance(x, ast.VarDecl) or x.names]
