"""Instances, gates, bindings and clocking blocks (IEEE 1364-2005 7, 12.1; IEEE 1800-2017 14, 23.11)."""

from __future__ import annotations

from mevrik.lang.cursor import Recover
from mevrik.lang.diagnostics import nearest, replacement
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.classes import ClassParser
from mevrik.lang.verilog.parser.subprograms import DIRECTIONS

PROCESSES = {"always", "initial", "always_comb", "always_ff", "always_latch", "final"}


class InstanceParser(ClassParser):
    # ---- instances ----

    def instances(self, found: list[ast.Item]) -> None:
        start = self.pos
        module = self.identifier()
        if self.kind in ("begin", "@"):
            self._procedure(found, start, module)
            return
        params: list[ast.Connection] = []
        strength = self.strength()
        if self.accept("#"):
            if self.accept("("):
                params = self.connections() if self.kind != ")" else []
                self.expect(")", "after the parameter values")
            else:
                params = [ast.Connection(self.pos, None, self.delay_value())]
        if self.kind in ("=", "<=", "++", "--") and not params:
            self.misfit(
                self.positions[self.i - 1],
                f"an assignment to '{module}' must stand in an always or initial block, or begin with 'assign'{self._ended(found)}",
            )
            raise Recover
        while True:
            pos = self.pos
            if self.kind == "(":
                name, dims = "", []
            else:
                if self.kind != "id":
                    hint, mend = self.keyword_hint()
                    self.misfit(
                        self.pos,
                        f"the name of an instance expected after '{module}', found {self.describe()}{hint}",
                        "syntax",
                        mend,
                    )
                    raise Recover
                name = self.identifier()
                dims = self.ranges()
            if self.kind == "#" and name:
                self.misfit(self.pos, f"the parameter values of an instance stand before its name: {module} #(…) {name} (…)")
                raise Recover
            self.expect("(", f"to begin the connections of '{name or module}'")
            ports = [] if self.kind == ")" else self.connections()
            if self.kind == ".":
                self.missing("','", "between two connections")
            self.expect(")", "after the connections")
            found.append(ast.Instance(pos, module, name, params, ports, dims, strength))
            if not self.accept(","):
                break
        self.expect(";", "after the instance")

    def _procedure(self, found: list[ast.Item], pos: int, word: str) -> None:
        """A procedure whose first word is misspelt; it is read as if it were not."""
        hint = nearest(word, PROCESSES)
        meant = hint.split("'")[1] if hint else ""
        mend = replacement(self.diagnostics.sources, pos, word, meant, f"Write {meant}") if meant else None
        self.misfit(pos, f"'{word}' begins nothing{hint}", "syntax", mend)
        found.append(ast.Always(pos, meant or "initial", self.statement()))

    def _ended(self, found: list[ast.Item]) -> str:
        """A hint at the procedure that ended, after its one statement, right before."""
        last = found[-1] if found else None
        if not isinstance(last, ast.Always) or isinstance(last.body, ast.Block):
            return ""
        line = self.diagnostics.sources.place(last.pos).line
        return f"; the '{last.kind}' of line {line} has ended: more than one statement needs 'begin' and 'end'"

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
        pos, edge = self.pos, ""
        if self.kind in ("posedge", "negedge", "edge"):
            edge = self.kind
            self.i += 1
        if not self.accept("#"):
            return ast.Skew(pos, None, edge) if edge else None
        if self.kind == "1step" or (self.kind == "num" and self.texts[self.i] == "1" and self.texts[self.i + 1] == "step"):
            self.i += 1 if self.kind == "1step" else 2
            return ast.Skew(pos, None, edge)
        if self.accept("("):
            value = self.min_typ_max()
            self.expect(")")
            return ast.Skew(pos, value, edge)
        return ast.Skew(pos, self.delay_value(), edge)

    def _let(self) -> ast.LetDecl:
        pos = self.expect("let")
        name = self.identifier("the name of the let")
        ports = self.formal_arguments() if self.accept("(") else []
        self.expect("=", f"after the head of '{name}'")
        value = self.expression()
        self.expect(";", "after the let")
        return ast.LetDecl(pos, name, ports, value)

    def bind(self) -> ast.Bind:
        """`bind module_or_instance module #(…) name (…);` or `bind module : instance, instance module …`"""
        pos = self.expect("bind")
        target = self._bind_target("the name of a module or instance")
        instances: list[list[str]] = []
        if self.accept(":"):
            instances.append(self._bind_target("the name of an instance"))
            while self.accept(","):
                instances.append(self._bind_target("the name of an instance"))
        items: list[ast.Item] = []
        self.instances(items)
        return ast.Bind(pos, target, items, instances)

    def _bind_target(self, what: str) -> list[str]:
        """The steps of a path; those into arrays and loops with their index: `lane[2]`."""
        if self.kind == "sys" and self.texts[self.i] == "$root":
            self.i += 1
            self.expect(".")
        found: list[str] = []
        while True:
            step = self.identifier(what)
            while self.accept("["):
                index = self.expression()
                if not isinstance(index, ast.Number) or index.unk:
                    self.fail(index.pos, "the index of an instance to bind to has to be a number here", "unsupported")
                step += f"[{index.val}]"
                self.expect("]")
            found.append(step)
            if not self.accept("."):
                return found
