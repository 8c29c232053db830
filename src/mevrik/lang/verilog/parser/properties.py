"""Properties and sequences of concurrent assertions (IEEE 1800-2017 clause 16)."""

from __future__ import annotations

from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.timing import TimingParser

_GROUPED = {
    "##", "|->", "|=>", "throughout", "within", "intersect", "first_match", "and", "or", "not", "if", "@", "disable", "until", "until_with",
    "s_until", "s_until_with", "eventually", "s_eventually", "always", "s_always", "nexttime", "s_nexttime", "strong", "weak", "implies", "iff",
}  # fmt: skip
_BINARY = (("or",), ("and",), ("intersect",), ("within",))
_LATER = {
    "until", "until_with", "s_until", "s_until_with", "s_always", "s_eventually", "eventually", "nexttime", "s_nexttime", "implies",
    "accept_on", "reject_on", "sync_accept_on", "sync_reject_on", "strong", "weak",
}  # fmt: skip


class PropertyParser(TimingParser):
    def property_spec(self) -> ast.Prop:
        """`@(event) disable iff (condition) property`."""
        pos = self.pos
        if self.kind == "@":
            control = self.event_control()
            return ast.Prop(pos, "clocked", [self.property_spec()], control=control)
        if self.kind == "disable":
            self.i += 1
            self.expect("iff", "after 'disable'")
            self.expect("(")
            cond = self.expression()
            self.expect(")")
            return ast.Prop(pos, "disable", [self.property_spec()], cond)
        return self._implication()

    def _implication(self) -> ast.Prop:
        left = self._binary_property(0)
        pos = self.pos
        if self.kind in ("|->", "|=>"):
            op = "implies" if self.kind == "|->" else "follows"
            self.i += 1
            return ast.Prop(pos, op, [left, self.property_spec()])
        if self.kind in ("until", "s_until", "until_with", "s_until_with"):
            return self._until(left)
        if (
            self.kind == "#" and self.ahead() in ("-", "=") and self.kinds[self.i + 2] == "#"
        ):  # of sequences: the one behind the other (16.12.9)
            gap = ast.Number(pos, None, True, int(self.ahead() == "="), 0)
            self.i += 3
            return ast.Prop(pos, "delay", [left, self.property_spec()], low=gap, high=gap)
        if self.kind in ("implies", "iff") and left.op == "bool":
            word = self.kind
            self.i += 1
            right = self.property_spec()
            if word == "implies":  # of an expression: the same as an implication (16.12.7)
                return ast.Prop(pos, "implies", [left, right])
            return ast.Prop(
                pos, "bool", expr=ast.Binary(pos, "==", _truth(self._expression_of(left)), _truth(self._expression_of(right)))
            )
        if self.kind in _LATER:
            self.fail(pos, f"the property operator '{self.texts[self.i]}' is not supported (IEEE 1800-2017 16.12)", "unsupported")
        return left

    def _expression_of(self, p: ast.Prop) -> ast.Expr:
        if p.op != "bool" or p.expr is None:
            self.fail(p.pos, "this property operator is only supported for expressions (IEEE 1800-2017 16.12)", "unsupported")
        return p.expr

    def _until(self, left: ast.Prop) -> ast.Prop:
        """`a until b` fails where neither holds and b never did before; with `until_with` a has to hold where b does too (16.12.12)."""
        pos, both, strong = self.pos, self.kind.endswith("with"), self.kind.startswith("s_")
        self.i += 1
        a, b = self._expression_of(left), self._expression_of(self._binary_property(0))
        waiting = ast.Binary(pos, "&&", a, _not(b))
        broken = _not(a) if both else ast.Binary(pos, "&&", _not(a), _not(b))
        zero = ast.Number(pos, None, True, 0, 0)
        one = ast.Number(pos, None, True, 1, 0)
        held = ast.Prop(pos, "repeat", [ast.Prop(pos, "bool", expr=waiting)], low=zero)
        failing = ast.Prop(pos, "delay", [held, ast.Prop(pos, "bool", expr=broken)], low=one, high=one)
        return _strong(ast.Prop(pos, "not", [failing]), strong)

    def _binary_property(self, level: int) -> ast.Prop:
        if level == len(_BINARY):
            return self._throughout()
        left = self._binary_property(level + 1)
        while self.kind in _BINARY[level]:
            pos, op = self.pos, self.kind
            self.i += 1
            left = ast.Prop(pos, op, [left, self._binary_property(level + 1)])
        return left

    def _throughout(self) -> ast.Prop:
        left = self._delays()
        if self.kind != "throughout":
            return left
        pos = self.pos
        self.i += 1
        if left.op != "bool":
            self.fail(left.pos, "what stands before 'throughout' is an expression (16.9.9)", "property")
        return ast.Prop(pos, "throughout", [self._throughout()], left.expr)

    def _delays(self) -> ast.Prop:
        left = None if self.kind == "##" else self._property_primary()
        while self.kind == "##":
            pos = self.pos
            self.i += 1
            low, high = self._delay_range()
            right = self._property_primary()
            left = ast.Prop(pos, "delay", [right] if left is None else [left, right], low=low, high=high)
        assert left is not None
        return left

    def _delay_range(self) -> tuple[ast.Expr, ast.Expr | None]:
        if self.kind == "[" and self.ahead() in ("*", "+"):  # ##[*] and ##[+]
            pos, low = self.pos, int(self.ahead() == "+")
            self.i += 2
            self.expect("]")
            return ast.Number(pos, None, True, low, 0), None
        if self.accept("["):
            return self._range_behind()
        count = self.cycle_count()
        return count, count

    def _range_behind(self) -> tuple[ast.Expr, ast.Expr | None]:
        low = self.expression()
        high: ast.Expr | None = low
        if self.accept(":"):
            high = None if self.accept("$") else self.expression()
        self.expect("]", "after the range")
        return low, high

    def _property_primary(self) -> ast.Prop:
        pos = self.pos
        if self.kind in ("nexttime", "s_nexttime"):
            strong = self.kind == "s_nexttime"
            self.i += 1
            count = self.expression() if self.accept("[") else ast.Number(pos, None, True, 1, 0)
            if self.kinds[self.i] == "]":
                self.i += 1
            if strong:
                return _strong(ast.Prop(pos, "delay", [self._property_primary()], low=count, high=count))
            ticks = ast.Prop(pos, "delay", [_always_true(pos)], low=count, high=count)  # the tick meant, and from there (16.12.10)
            return ast.Prop(pos, "implies", [ticks, self._property_primary()])
        if self.kind in ("eventually", "s_eventually", "s_always", "always") and self.ahead() == "[":
            never, strong = self.kind.endswith("always"), self.kind.startswith("s_")
            self.i += 2
            low, high = self._range_behind()
            inner = self._property_primary()
            if never:  # no tick of the range without it
                inner = ast.Prop(pos, "bool", expr=_not(self._expression_of(inner)))
            somewhere = ast.Prop(pos, "delay", [inner], low=low, high=high)
            return _strong(ast.Prop(pos, "not", [somewhere]) if never else somewhere, strong)
        if self.accept("s_eventually"):
            zero = ast.Number(pos, None, True, 0, 0)
            return _strong(ast.Prop(pos, "delay", [self._property_primary()], low=zero))
        if self.kind in ("weak", "strong") and self.ahead() == "(":
            strong = self.kind == "strong"
            self.i += 2
            inner = self.property_spec()
            self.expect(")")
            return _strong(inner, strong)
        if self.kind in _LATER:
            self.fail(pos, f"the property operator '{self.texts[self.i]}' is not supported (IEEE 1800-2017 16.12)", "unsupported")
        if self.accept("not"):
            return ast.Prop(pos, "not", [self._property_primary()])
        if self.kind == "always":
            self.i += 1
            return self._property_primary()
        if self.accept("case"):
            return self._case_property(pos)
        if self.accept("if"):
            self.expect("(")
            cond = self.expression()
            self.expect(")")
            parts = [self.property_spec()]
            if self.accept("else"):
                parts.append(self.property_spec())
            return ast.Prop(pos, "if", parts, cond)
        if self.accept("first_match"):
            self.expect("(")
            inner = self.property_spec()
            self.expect(")")
            return self._repeated(ast.Prop(pos, "first_match", [inner]))
        if self.kind == "@":
            return self.property_spec()
        if self.kind == "(" and self._is_group():
            self.i += 1
            inner = self.property_spec()
            steps = self._match_items()
            self.expect(")")
            return self._repeated(ast.Prop(pos, "matched", [inner], steps=steps) if steps else inner)
        return self._repeated(ast.Prop(pos, "bool", expr=self.expression()))

    def _case_property(self, pos: int) -> ast.Prop:
        """`case (e) values : property ... endcase` as conditions one behind the other; without a default, none is a success (16.12.15)."""
        self.expect("(", "after 'case'")
        subject = self.expression()
        self.expect(")")
        arms: list[tuple[list[ast.Expr], ast.Prop]] = []
        otherwise: ast.Prop | None = None
        while self.kind not in ("endcase", "eof"):
            labels: list[ast.Expr] = []
            if self.accept("default"):
                self.accept(":")
            else:
                labels.append(self.expression())
                while self.accept(","):
                    labels.append(self.expression())
                self.expect(":", "after the values")
            chosen = self.property_spec()
            self.accept(";")
            if labels:
                arms.append((labels, chosen))
            else:
                otherwise = chosen
        self.expect("endcase", "to close 'case'")
        for labels, chosen in reversed(arms):
            cond: ast.Expr = ast.Binary(pos, "===", subject, labels[0])
            for label in labels[1:]:
                cond = ast.Binary(pos, "||", cond, ast.Binary(pos, "===", subject, label))
            otherwise = ast.Prop(pos, "if", [chosen] if otherwise is None else [chosen, otherwise], cond)
        return otherwise if otherwise is not None else _always_true(pos)

    def _match_items(self) -> list[ast.Stmt]:
        """`, x = e, y++, f(x)` behind a sequence: what is done when it matches (A.2.10)."""
        found: list[ast.Stmt] = []
        while self.accept(","):
            pos = self.pos
            if self.kind == "sys" or self.called_ahead():
                found.append(ast.CallStmt(pos, self.expression()))
            else:
                found.append(self.assignment_step("behind a sequence"))
        return found

    def called_ahead(self) -> bool:
        return self.kind == "id" and self.ahead() in ("(", "::", ".")

    def assignment_step(self, where: str) -> ast.Stmt:
        raise NotImplementedError

    def _is_group(self) -> bool:
        """Whether the parentheses here hold a property or sequence, not just an expression."""
        depth, at = 0, self.i
        while at < len(self.kinds) and self.kinds[at] not in (";", "eof"):
            kind = self.kinds[at]
            depth += (kind == "(") - (kind == ")")
            if kind in _GROUPED or (kind == "[" and self.kinds[at + 1] in ("*", "->", "=", "+")):
                return True
            if kind == "," and depth == 1:
                return True
            at += 1
            if depth == 0:
                return self.kinds[at] == "[" and self.kinds[at + 1] in ("*", "->", "=", "+")
        return False

    def _repeated(self, inner: ast.Prop) -> ast.Prop:
        while self.kind == "[" and self.ahead() in ("*", "->", "=", "+"):
            pos, word = self.pos, self.ahead()
            self.i += 2
            op = {"->": "goto", "=": "nonconsecutive"}.get(word, "repeat")
            if self.accept("]"):
                low: ast.Expr = ast.Number(pos, None, True, int(word == "+"), 0)
                high: ast.Expr | None = None
            else:
                low, high = self._range_behind()
            inner = ast.Prop(pos, op, [inner], low=low, high=high)
        return inner

    def property_declaration(self) -> ast.PropertyDecl:
        """A named property or sequence (16.8, 16.12)."""
        pos, word = self.pos, self.kind
        self.i += 1
        name = self.identifier(f"the name of the {word}")
        ports = self.formal_arguments() if self.accept("(") else []
        self.expect(";", f"after the head of the {word}")
        variables: list[ast.VarDecl] = []
        while self.starts_type() or self.kind == "var":
            variables.append(self.variable_declaration())
        body = self.property_spec()
        self.accept(";")
        self.expect(f"end{word}", f"to close the {word} '{name}'")
        if self.accept(":"):
            self.identifier()
        return ast.PropertyDecl(pos, name, ports, body, variables)

    def formal_arguments(self) -> list[tuple[str, ast.Expr | None]]:
        """The arguments of a property, sequence or let, the opening parenthesis taken; their types don't matter."""
        ports: list[tuple[str, ast.Expr | None]] = []
        while self.kind not in (")", "eof"):
            self.accept("local")
            if self.kind in ("untyped", "property", "sequence", "event"):
                self.i += 1
            elif self.starts_type() or (self.kind == "id" and self.ahead() == "id"):
                self.data_type_named()
            name = self.identifier("the name of an argument")
            self.ranges()
            ports.append((name, self.expression() if self.accept("=") else None))
            if not self.accept(","):
                break
        self.expect(")", "after the arguments")
        return ports


def _strong(p: ast.Prop, strong: bool = True) -> ast.Prop:
    """An attempt of it that is under way when the run ends has failed, if it is strong (16.12.2)."""
    return ast.Prop(p.pos, "strong", [p]) if strong else p


def _not(e: ast.Expr) -> ast.Expr:
    return ast.Unary(e.pos, "!", e)


def _truth(e: ast.Expr) -> ast.Expr:
    return _not(_not(e))


def _always_true(pos: int) -> ast.Prop:
    return ast.Prop(pos, "bool", expr=ast.Number(pos, None, True, 1, 0))
