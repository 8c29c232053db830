"""Module items: declarations, instances, gates, generate constructs (IEEE 1364-2005 clauses 7, 10 and 12)."""

from __future__ import annotations

import math

from mevrik.lang.cursor import Recover
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.declarations import NET_KINDS
from mevrik.lang.verilog.parser.instances import PROCESSES, InstanceParser
from mevrik.lang.verilog.parser.statements import LostEnd
from mevrik.lang.verilog.parser.subprograms import DIRECTIONS

GATES = {
    "and", "nand", "or", "nor", "xor", "xnor", "buf", "not", "bufif0", "bufif1", "notif0", "notif1",
    "nmos", "pmos", "rnmos", "rpmos", "cmos", "rcmos", "tran", "rtran", "tranif0", "tranif1", "rtranif0", "rtranif1",
    "pullup", "pulldown",
}  # fmt: skip
ASSERTIONS = {"assert", "assume", "cover", "restrict"}
# At these an error in an item is over.
ITEM_STARTS = {
    "endmodule", "module", "macromodule", "endgenerate", "endfunction", "endtask", "always", "initial", "assign",
    "always_comb", "always_ff", "always_latch", "wire", "reg", "input", "output", "inout", "parameter", "localparam",
    "function", "task", "generate", "integer", "logic", "primitive", "endprimitive", "package", "endpackage", "eof",
}  # fmt: skip


_ELABORATION = ("$fatal", "$error", "$warning", "$info")
_CLOSES = {
    "end": "begin",
    "endcase": "case",
    "join": "fork",
    "endfunction": "function",
    "endtask": "task",
    "endgenerate": "generate",
}


class ItemParser(InstanceParser):
    def items(self, closing: tuple[str, ...]) -> list[ast.Item]:
        """Items up to one of `closing`, which is left to the caller."""
        found: list[ast.Item] = []
        while self.kind != "eof" and (self.kind not in closing or (self.kind == "interface" and self.ahead() == "class")):
            start, mistakes, astray = self.i, self.mistakes, self.astray
            try:
                self.item(found)
                if self.astray:
                    self.understood(mistakes, astray)
            except Recover:
                if self.i == start:
                    self.i += 1
                self.skip_to(*ITEM_STARTS)
            except LostEnd:
                while self.kind in ("end", "join", "endcase"):
                    self.i += 1
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
        elif kind == "alias" and self.sv:
            found.append(self._alias())
        elif kind == "let" and self.sv:
            found.append(self._let())
        elif kind == "bind" and self.sv:
            found.append(self.bind())
        elif kind in ("clocking", "global") and self.sv:
            found.append(self._clocking(False))
        elif kind == "default" and self.sv:
            self._default(found)
        elif kind == "modport" and self.sv:
            self._modports(found)
        elif kind == "import" and self.sv:
            self.imports(found)
        elif kind == "export" and self.sv and self.ahead() != "str":
            self.skip_to()  # what a package imports as a whole is visible to those that import it (26.6)
        elif kind in ("timeunit", "timeprecision") and self.sv:
            self.time_units()
        elif kind == "specparam":
            found += self.specparam()
        elif kind == ";":
            self.i += 1
        elif kind in ("const", "var", "automatic", "static") or self.starts_type():
            found.append(self.variable_declaration())
        elif kind == "id":
            self.instances(found)
        elif self.left_out():
            pass
        elif kind == "sys" and self.sv and self.texts[self.i] in _ELABORATION:
            self.i += 1
            found.append(ast.ElaborationTask(pos, self.texts[self.i - 1], self.arguments() if self.accept("(") else []))
            self.expect(";", "after the task")
        elif kind == "sys" and self.sv:
            tasks = ", ".join(_ELABORATION)
            self.misfit(pos, f"{self.texts[self.i]} must stand in a procedure; of the tasks only {tasks} may stand here (20.11)")
            raise Recover
        elif kind == "else":
            self.i += 1
            self.misfit(pos, "this 'else' has no 'if' before it")
        elif kind in _CLOSES:
            self.i += 1
            self.misfit(pos, f"this '{kind}' closes nothing: every '{_CLOSES[kind]}' before it is closed already")
        else:
            hint, mend = self.keyword_hint()
            self.misfit(pos, f"a module item expected, found {self.describe()}{hint}", "syntax", mend)
            raise Recover

    def _alias(self) -> ast.NetAlias:
        pos = self.expect("alias")
        nets = [self.postfix(self.primary())]
        self.expect("=", "after the first net of an alias")
        nets.append(self.postfix(self.primary()))
        while self.accept("="):
            nets.append(self.postfix(self.primary()))
        self.expect(";", "after the nets of an alias")
        return ast.NetAlias(pos, nets)

    def _modports(self, found: list[ast.Item]) -> None:
        """`modport name (input a, b, output c, import task t(…), clocking d), …;` (IEEE 1800-2017 25.5)."""
        self.expect("modport")
        while True:
            made = ast.Modport(self.pos, self.identifier("the name of a modport"), {}, {})
            self.expect("(", "after the name of a modport")
            way = ""
            while self.kind not in (")", "eof", ";"):
                if self.kind in ("input", "output", "inout", "ref", "import", "export", "clocking"):
                    way = self.kind
                    self.i += 1
                    if self.kind in ("function", "task"):
                        made.ways[self._prototype_name()] = way
                        self.accept(",")
                        continue
                if self.accept("."):  # a name for an expression (25.5.4)
                    name = self.identifier("a name of the modport")
                    made.ways[name] = way
                    self.expect("(", "after the name of the modport's own")
                    made.views[name] = self.expression()
                    self.expect(")", "after the expression")
                else:
                    made.ways[self.identifier("a name of the interface")] = way
                if not self.accept(","):
                    break
            self.expect(")", "after the names of a modport")
            found.append(made)
            if not self.accept(","):
                break
        self.expect(";", "after the modport")

    def _prototype_name(self) -> str:
        """The name in a head of a subprogram, whose ports are skipped."""
        self.i += 1
        while self.kind != "eof" and self.ahead() not in ("(", ",", ")"):
            self.i += 1
        name = self.identifier("the name of a subprogram")
        if self.kind == "(":
            self.skip_balanced("(", ")")
        return name

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
        exponent = round(math.log10(value.seconds))
        if not math.isclose(value.seconds, 10.0**exponent):
            self.fail(value.pos, "a time unit is 1, 10 or 100 of s, ms, us, ns, ps or fs (3.14.2)", "timescale")
        return exponent

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
        declares = self.accept("genvar")
        var = self.identifier("a genvar")
        self.expect("=")
        init = self.expression()
        self.expect(";")
        cond = self.expression()
        self.expect(";")
        step = self._for_assignments()
        self.expect(")")
        body = self.generate_body() or ast.GenBlock(pos, "", [])
        return ast.GenFor(pos, var, init, cond, step[0], body, declares)

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
