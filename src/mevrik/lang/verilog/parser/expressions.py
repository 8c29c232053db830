"""Expressions (IEEE 1364-2005 clause 5, IEEE 1800-2017 clause 11)."""

from __future__ import annotations

import re

from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.literals import LiteralParser, string_bytes

BINARY = {
    "->": 1, "<->": 1, "||": 2, "&&": 3, "|": 4, "^": 5, "^~": 5, "~^": 5, "&": 6,
    "==": 7, "!=": 7, "===": 7, "!==": 7, "==?": 7, "!=?": 7,
    "<": 8, "<=": 8, ">": 8, ">=": 8, "inside": 8,
    "<<": 9, ">>": 9, "<<<": 9, ">>>": 9, "+": 10, "-": 10, "*": 11, "/": 11, "%": 11, "**": 12,
}  # fmt: skip
UNARY = {"+", "-", "!", "~", "&", "~&", "|", "~|", "^", "~^", "^~"}
PREFIXES = UNARY | {"++", "--"}
POSTFIXES = {"[", "::", ".", "(", "'", "'{", "with", "++", "--", "(*"}
_TIME = re.compile(r"([\d_.]+)(fs|ps|ns|us|ms|s)$")
_TIME_UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9, "ps": 1e-12, "fs": 1e-15}
CAST_TYPES = {"int", "integer", "byte", "shortint", "longint", "bit", "logic", "reg", "real", "shortreal", "time", "string"}
TYPE_STARTS = CAST_TYPES | {"struct", "union", "enum"}
ASSIGN_OPS = {"+=", "-=", "*=", "/=", "%=", "&=", "|=", "^=", "<<=", ">>=", "<<<=", ">>>="}


NO_TAGS = "tagged unions are not supported (IEEE 1800-2017 7.3.2)"
NO_PATTERNS = "pattern matching is not supported yet (IEEE 1800-2017 12.6)"


class ExpressionParser(LiteralParser):
    def expression(self) -> ast.Expr:
        left = self.binary(0)
        if self.kinds[self.i] == "?":
            pos = self.pos
            self.i += 1
            self.skip_attributes()
            then = self.expression()
            self.expect(":", "between the two choices of '?'")
            return ast.Ternary(pos, left, then, self.expression())
        return left

    def binary(self, floor: int) -> ast.Expr:
        left = self.unary()
        while True:
            op = self.kinds[self.i]
            rank = BINARY.get(op)
            if rank is None or rank <= floor or (rank == 1 and not self.sv):
                if op == "matches":
                    self.fail(self.pos, NO_PATTERNS, "unsupported")
                return left
            pos = self.positions[self.i]
            self.i += 1
            if self.kinds[self.i] == "(*":
                self.skip_attributes()
            if op == "inside":
                left = ast.Binary(pos, op, left, self._value_set())
            else:
                left = ast.Binary(pos, op, left, self.binary(rank))

    def _value_set(self) -> ast.Expr:
        pos = self.expect("{", "after 'inside'")
        parts: list[ast.Expr] = []
        while True:
            if self.kind == "[":
                at = self.pos
                self.i += 1
                low = self._bound()
                self.expect(":")
                high = self._bound()
                self.expect("]")
                parts.append(ast.MinTypMax(at, low, low, high))
            else:
                parts.append(self.expression())
            if not self.accept(","):
                break
        self.expect("}")
        return ast.Concat(pos, parts)

    def _bound(self) -> ast.Expr:
        """An end of a range; `$` is the lowest or highest value there is."""
        if self.kind == "$":
            self.i += 1
            return ast.Name(self.positions[self.i - 1], "$")
        return self.expression()

    def unary(self) -> ast.Expr:
        kind = self.kinds[self.i]
        if kind not in PREFIXES:
            made = self.primary()
            return self.postfix(made) if self.kinds[self.i] in POSTFIXES else made
        pos = self.pos
        self.i += 1
        if kind not in UNARY:
            return ast.Increment(pos, self.unary(), kind, True)
        self.skip_attributes()
        return ast.Unary(pos, kind, self.unary())

    def primary(self) -> ast.Expr:
        kind = self.kinds[self.i]
        pos = self.positions[self.i]
        text = self.texts[self.i]
        if kind == "id":
            self.i += 1
            if self.sv and self.kinds[self.i] in ("#", "::"):
                self.i -= 1
                if self._has_class_parameters():
                    return self.class_scope(pos)
                self.i += 1
            return ast.Name(pos, text)
        if kind == "num":
            self.i += 1
            if self.kinds[self.i] == "num" and text.isdigit() and self.texts[self.i].startswith("'"):  # `WIDTH'd200
                self.i += 1
                text += self.texts[self.i - 1]
            if self.kinds[self.i] == "'" and self.ahead() == "id":
                self.no_digits()
            return self.number(text, pos)
        if kind == "(":
            self.i += 1
            inner = self.expression()
            if self.sv and (self.kind == "=" or self.kind in ASSIGN_OPS):
                op = self.kind[:-1]
                self.i += 1
                inner = ast.AssignExpr(pos, inner, self.expression(), op)
            if self.kind == ":":
                self.i += 1
                typical = self.expression()
                self.expect(":")
                inner = ast.MinTypMax(pos, inner, typical, self.expression())
            self.expect(")")
            return inner
        if kind == "{":
            return self.braces()
        if kind == "'{":
            return self.pattern()
        if kind in ("this", "super", "null") and self.sv:
            self.i += 1
            return ast.Name(pos, kind)
        if kind == "new" and self.sv and self.ahead() != "[":
            self.i += 1
            nothing = ast.Number(pos, None, True, 0, 0)
            if self.kind == "(":
                called = self.call(ast.Name(pos, "new"))
                assert isinstance(called, ast.Call)
                return ast.New(pos, nothing, None, called.args)
            if self.kind in ("id", "this"):
                return ast.New(pos, nothing, self.postfix(self.primary()), [], True)
            return ast.New(pos, nothing, None)
        if kind == "$" and self.sv:
            self.i += 1
            return ast.Name(pos, "$")
        if kind == "new" and self.ahead() == "[":
            self.i += 2
            count = self.expression()
            self.expect("]", "after the number of elements")
            source = None
            if self.accept("("):
                source = self.expression()
                self.expect(")")
            return ast.New(pos, count, source)
        if kind == "str":
            self.i += 1
            return ast.StringLiteral(pos, string_bytes(text))
        if kind == "sys":
            self.i += 1
            if text == "$root" and self.kind == ".":  # a path from the top
                return ast.Name(pos, text)
            if text == "$unit" and self.kind == "::" and self.ahead() == "id":  # what stands outside of all units (3.12.1)
                self.i += 2
                return ast.Name(pos, f"{text}::{self.texts[self.i - 1]}")
            return self.call(ast.Name(pos, text)) if self.kind == "(" else ast.Call(pos, ast.Name(pos, text), [])
        if kind == "time" and (match := _TIME.match(text)):  # a literal; the keyword is of the same kind
            self.i += 1
            return ast.TimeLiteral(pos, float(match[1].replace("_", "")) * _TIME_UNITS[match[2]])
        if kind in CAST_TYPES or kind in ("signed", "unsigned") or (kind == "const" and self.sv):
            if self.ahead() in ("'", "'{", ":"):
                self.i += 1
                return ast.Name(pos, kind)
            if kind in TYPE_STARTS and self.sv:
                return ast.TypeExpr(pos, self.data_type_here())
        if self.sv and kind in ("struct", "union", "enum"):
            return ast.TypeExpr(pos, self.data_type_here())
        if self.sv and kind == "type" and self.ahead() == "(":
            return ast.TypeExpr(pos, self.data_type_here())
        if kind == "eof":
            self.missing("an expression")
        if kind == "tagged" and self.sv:
            self.fail(pos, NO_TAGS, "unsupported")
        self.unexpected(pos, "an expression")

    def constructed(self) -> ast.Expr:
        """`new(…)` behind the name of a class (IEEE 1800-2017 8.8)."""
        pos = self.expect("new")
        args = self.arguments() if self.accept("(") else []
        return ast.New(pos, ast.Number(pos, None, True, 0, 0), None, args)

    def class_scope(self, pos: int) -> ast.Expr:
        raise NotImplementedError

    def _has_class_parameters(self) -> bool:
        """Whether `class #(…)`, perhaps in a package or a class, begins here."""
        at = self.i
        while self.kinds[at + 1] == "::" and self.kinds[at + 2] == "id":
            at += 2
        if self.kinds[at + 1] != "#" or self.kinds[at + 2] != "(":
            return False
        # a class of a package that is read later has a member behind its parameters
        return at > self.i or self.texts[at] in self.types or self.kinds[self._behind_parameters(at + 1)] == "::"

    def _behind_parameters(self, sharp: int) -> int:
        """The token behind `#(…)`."""
        at, depth = sharp + 1, 0
        while self.kinds[at] != "eof":
            depth += (self.kinds[at] == "(") - (self.kinds[at] == ")")
            at += 1
            if depth <= 0:
                break
        return at

    def event_control(self) -> ast.TimingControl:
        raise NotImplementedError

    def event_expression(self) -> ast.EventExpr:
        raise NotImplementedError

    def data_type_here(self) -> ast.DataType:
        raise NotImplementedError

    def postfix(self, base: ast.Expr) -> ast.Expr:
        while True:
            kind = self.kinds[self.i]
            if kind == "[":
                if self.sv and self.ahead() in ("*", "->", "=", "+") and self.ahead(2) != "(":
                    return base  # a repetition in a sequence
                base = self.selection(base)
            elif kind == "::" and self.ahead() == "id" and isinstance(base, ast.Name):
                self.i += 2
                base = ast.Name(base.pos, f"{base.name}::{self.texts[self.i - 1]}")
            elif kind == "::" and self.ahead() == "new" and isinstance(base, ast.Name):
                self.i += 1
                base = ast.Cast(base.pos, base, self.constructed())
            elif kind == "." and (self.ahead() == "id" or self.ahead() in ("and", "or", "xor", "new", "unique")):
                pos = self.pos
                self.i += 2
                base = ast.Member(pos, base, self.texts[self.i - 1])
            elif kind == "(" and isinstance(base, (ast.Name, ast.Member)):
                base = self.call(base)
            elif kind == "'" and self.ahead() == "(":
                pos = self.pos
                self.i += 2
                operand = self.expression()
                self.expect(")")
                base = ast.Cast(pos, base, operand)
            elif kind == "'{" and self.sv and isinstance(base, ast.Name):  # a pattern with its type before it
                base = ast.Cast(self.pos, base, self.pattern())
            elif kind == "with" and self.sv and self.ahead() == "(" and isinstance(base, (ast.Call, ast.Member)):
                pos = self.pos
                self.i += 2
                body = self.expression()
                self.expect(")", "after the expression of 'with'")
                base = ast.With(pos, base, body)
            elif kind == "with" and self.sv and isinstance(base, ast.Call):
                self.diagnostics.error(self.pos, "constraints of a call are not supported yet (IEEE 1800-2017 18.7)", "unsupported")
                self.i += 1
                self.skip_balanced("{", "}")
            elif kind in ("++", "--") and isinstance(base, (ast.Name, ast.Member, ast.Index, ast.PartSelect)):
                pos = self.pos
                self.i += 1
                base = ast.Increment(pos, base, kind)
            elif kind == "(*" and self.ahead() != ")":
                self.skip_attributes()
            else:
                return base

    def selection(self, base: ast.Expr) -> ast.Expr:
        pos = self.pos
        self.i += 1
        left = self.expression()
        mode = self.kind
        if mode in (":", "+:", "-:"):
            self.i += 1
            right = self.expression()
            self.expect("]")
            return ast.PartSelect(pos, base, left, right, mode)
        self.expect("]")
        return ast.Index(pos, base, left)

    def call(self, target: ast.Expr) -> ast.Expr:
        self.expect("(")
        return ast.Call(target.pos, target, self.arguments())

    def arguments(self) -> list[ast.Expr | None]:
        """Up to and with the closing parenthesis."""
        args: list[ast.Expr | None] = []
        if not self.accept(")"):
            while True:
                if self.kind in (",", ")"):
                    args.append(None)
                else:
                    args.append(self._argument())
                if not self.accept(","):
                    break
            self.expect(")", "after the arguments")
        return args

    def _argument(self) -> ast.Expr:
        if self.sv and self.kind == "@":
            return ast.EventArg(self.pos, self.event_control())
        if self.sv and self.kind in ("posedge", "negedge", "edge"):  # of a property (16.8)
            return ast.EventArg(self.pos, ast.TimingControl(self.pos, "event", events=[self.event_expression()]))
        if not (self.sv and self.kind == "." and self.ahead() == "id"):
            return self.expression()
        pos = self.pos
        self.i += 2
        name = self.texts[self.i - 1]
        self.expect("(", f"after '.{name}'")
        value = None if self.kind == ")" else self.expression()
        self.expect(")", f"after the value of '{name}'")
        return ast.NamedArg(pos, name, value)

    def pattern(self) -> ast.Expr:
        """An assignment pattern (IEEE 1800-2017 10.9)."""
        pos = self.expect("'{")
        parts: list[tuple[ast.Expr | None, ast.Expr]] = []
        keyed = plain = False
        while self.kind not in ("}", "eof"):
            start = self.pos
            if self.accept("default"):
                self.expect(":", "after 'default'")
                keyed = True
                parts.append((None, self.expression()))
            else:
                if self.kind in CAST_TYPES and self.ahead() == ":":
                    first: ast.Expr = ast.TypeExpr(self.pos, ast.DataType(self.pos, self.kind))
                    self.i += 1
                else:
                    first = self.expression()
                if self.kind == "{" and not parts:  # '{n{…}}
                    self.i += 1
                    inner = [(None, e) for e in self.expression_list("}")]
                    self.expect("}")
                    self.expect("}", "after the pattern")
                    return ast.Pattern(pos, list(inner), False, first)
                if self.accept(":"):
                    keyed = True
                    parts.append((first, self.expression()))
                else:
                    plain = True
                    parts.append((None, first))
            if keyed and plain:
                self.fail(
                    start, "a pattern gives its values by position or by name, not some this way and some that (A.6.7.1)", "pattern"
                )
            if not self.accept(","):
                break
        self.expect("}", "after the pattern")
        return ast.Pattern(pos, parts, keyed)

    def braces(self) -> ast.Expr:
        pos = self.pos
        self.i += 1
        if self.sv and self.accept("}"):
            return ast.Concat(pos, [])
        if self.sv and self.kind in ("<<", ">>"):
            return self._stream(pos)
        first = self.expression()
        if self.kind == "{":
            self.i += 1
            parts = self.expression_list("}")
            self.expect("}")
            self.expect("}")
            return ast.Replicate(pos, first, parts)
        parts = [first]
        while self.accept(","):
            parts.append(self.expression())
        self.expect("}")
        return ast.Concat(pos, parts)

    def _stream(self, pos: int) -> ast.Expr:
        """`{<< slice {parts}}` (IEEE 1800-2017 11.4.14)."""
        left = self.kind == "<<"
        self.i += 1
        size: ast.DataType | ast.Expr | None = None
        if self.kind in TYPE_STARTS:
            size = self.data_type_here()
        elif self.kind != "{":
            size = self.postfix(self.primary())
        self.expect("{", "to begin the parts of the stream")
        parts = self.expression_list("}")
        self.expect("}")
        self.expect("}", "after the stream")
        return ast.Stream(pos, left, size, parts)

    def expression_list(self, closing: str) -> list[ast.Expr]:
        parts = [self.expression()]
        while self.accept(","):
            parts.append(self.expression())
        return parts
