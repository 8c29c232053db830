"""Data types, ranges, declarations (IEEE 1364-2005 clause 4, IEEE 1800-2017 clauses 6 and 7)."""

from __future__ import annotations

from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.expressions import NO_TAGS, ExpressionParser

NET_KINDS = {"wire", "tri", "wand", "wor", "triand", "trior", "tri0", "tri1", "trireg", "supply0", "supply1", "uwire"}
VECTOR_TYPES = {"reg", "logic", "bit"}
ATOM_TYPES = {"integer", "time", "byte", "shortint", "int", "longint"}
REAL_TYPES = {"real", "realtime", "shortreal"}
TYPE_WORDS = VECTOR_TYPES | ATOM_TYPES | REAL_TYPES | {"string", "enum", "void", "struct", "union", "chandle", "event"}
STRENGTHS = {
    "supply0", "strong0", "pull0", "weak0", "highz0", "supply1", "strong1", "pull1", "weak1", "highz1",
    "small", "medium", "large",
}  # fmt: skip


class DeclarationParser(ExpressionParser):
    def starts_type(self) -> bool:
        kind = self.kind
        if kind in TYPE_WORDS or (kind == "type" and self.sv and self.ahead() == "(") or self.starts_virtual():
            return True
        if kind != "id":
            return False
        if self.ahead() == "::" or (self.texts[self.i] in self.types and self.ahead() == "#"):
            behind = self._behind_scopes()
            if self.kinds[behind - 1] == ")" and self.ahead() == "#" and "::" not in self.kinds[self.i : behind]:
                return True
            return self.kinds[behind] == "id" or self._name_follows_ranges(behind - self.i)  # else a method or property of a class
        if self.texts[self.i] in self.types:
            return self.ahead() in ("id", "[")
        # a type of a package that is read later: an instance would go on with a parenthesis
        if not self.sv:
            return False
        if self.ahead() == "#":
            behind = self._behind_parameters(self.i + 1)
            return self.kinds[behind] == "id" and self.kinds[behind + 1] in (";", "=", ",", ")")
        if self.ahead() == "[":
            return self._name_follows_ranges(1)
        return self.ahead() == "id" and self.kinds[self._behind_ranges(self.i + 2)] in (";", "=", ",", ")")

    def _name_follows_ranges(self, at: int) -> bool:
        """Whether ranges in brackets begin so many tokens ahead and a name is behind them: `word_t [3:0] x`."""
        at += self.i
        return self.kinds[at] == "[" and self.kinds[self._behind_ranges(at)] == "id"

    def _behind_ranges(self, at: int) -> int:
        """The token behind the ranges in brackets, if any begin there."""
        depth = 0
        while self.kinds[at] not in ("eof", ";") and (depth or self.kinds[at] == "["):
            depth += (self.kinds[at] == "[") - (self.kinds[at] == "]")
            at += 1
        return at

    def _behind_scopes(self) -> int:
        """The token behind `name #(…)::name #(…)::name`, parameters being there or not."""
        at = self.i
        while True:
            at += 1
            if self.kinds[at] == "#" and self.kinds[at + 1] == "(":
                at = self._behind_parameters(at)
            if self.kinds[at] != "::" or self.kinds[at + 1] != "id":
                return at
            at += 1

    def starts_virtual(self) -> bool:
        """Whether a virtual interface is declared here."""
        if self.kind != "virtual" or not self.sv:
            return False
        return self.ahead() == "interface" or (self.ahead() == "id" and self.ahead(2) in ("id", ".", "#"))

    def _virtual_interface(self) -> ast.DataType:
        """`virtual interface name.modport` (IEEE 1800-2017 25.9)."""
        pos = self.expect("virtual")
        self.accept("interface")
        made = ast.DataType(pos, "virtual", name=self.identifier("the name of an interface"))
        if self.kind == "#":
            made.args = self.class_arguments()
        if self.accept("."):
            self.identifier("the name of a modport")
        return made

    def data_type(self, implicit: bool = True) -> ast.DataType:
        """A data type; an implicit one is just signing and ranges."""
        pos = self.pos
        kind = self.kind
        if kind == "enum":
            return self.enum_type()
        if kind in ("struct", "union"):
            return self.struct_type()
        if kind == "type" and self.sv:
            return self._type_of()
        if kind == "virtual" and self.sv:
            return self._virtual_interface()
        if kind in TYPE_WORDS:
            self.i += 1
            result = ast.DataType(pos, kind)
        elif kind == "id" and ((self.ahead() == "::" and self.ahead(2) == "id") or self.starts_type()):
            result = self._scoped_type()
        else:
            result = ast.DataType(pos, "")
        if self.accept("signed"):
            result.signed = True
        elif self.accept("unsigned"):
            result.signed = False
        result.dims = self.packed_ranges()
        return result

    def class_scope(self, pos: int) -> ast.Expr:
        """`class #(…)::member`, also by way of types that classes declare: `class #(…)::type::member`."""
        made: ast.DataType | None = None
        while True:
            made = self._named_type(made, member=True)
            if self.kind != "::":
                return ast.TypeExpr(pos, made)
            self.i += 1
            if self.kind != "id" or self._is_last_scope(self.i):
                break
        if self.kind == "new":
            return ast.Cast(pos, made, self.constructed())
        at = self.pos
        return ast.Member(at, ast.TypeExpr(pos, made), self.identifier("a member of the class"))

    def _is_last_scope(self, at: int) -> bool:
        """Whether a name has neither parameters nor further names behind it."""
        return self.kinds[at + 1] != "::" and not (self.kinds[at + 1] == "#" and self.kinds[at + 2] == "(")

    def _named_type(self, within: ast.DataType | None = None, member: bool = False) -> ast.DataType:
        """`name`, `package::name`, `class::name`, perhaps with parameters of a class; without the last name, if that is a `member`."""
        pos, name = self.pos, self.identifier("the name of a type")
        while self.kind == "::" and self.ahead() == "id" and not (member and self._is_last_scope(self.i + 1)):
            self.i += 2
            name += f"::{self.texts[self.i - 1]}"
        made = ast.DataType(pos, "name", name=name, within=within)
        if self.kind == "#":
            made.args = self.class_arguments()
        return made

    def _type_of(self) -> ast.DataType:
        """`type(expression)` (IEEE 1800-2017 6.23)."""
        pos = self.expect("type")
        self.expect("(", "after 'type'")
        known = self.kind in TYPE_WORDS or (self.kind == "id" and self.texts[self.i] in self.types)
        if known:
            made = self.data_type_here()
        else:
            made = ast.DataType(pos, "type", known=self.expression())
        self.expect(")")
        return made

    def class_arguments(self) -> list[tuple[str | None, ast.DataType | ast.Expr]]:
        """`#(int, 8)` or `#(.T(int))` behind the name of a class."""
        self.expect("#")
        self.expect("(", "after '#'")
        found: list[tuple[str | None, ast.DataType | ast.Expr]] = []
        while self.kind not in (")", "eof"):
            name = None
            if self.accept("."):
                name = self.identifier("the name of a parameter")
                self.expect("(")
            known = self.kind == "id" and self.texts[self.i] in self.types
            is_type = known or self.kind in TYPE_WORDS or self.kind == "virtual" or (self.kind == "type" and self.ahead() == "(")
            found.append((name, self.data_type_here() if is_type else self.expression()))
            if name is not None:
                self.expect(")")
            if not self.accept(","):
                break
        self.expect(")", "after the parameters of the class")
        return found

    def data_type_named(self) -> ast.DataType:
        """A data type where a name follows it: an identifier before another one is a type, declared before or not."""
        if self.kind == "id" and (self.ahead() == "id" or (self.sv and self._name_follows_ranges(1))):
            return self.data_type_here()
        return self.data_type()

    def data_type_here(self) -> ast.DataType:
        """A data type where no name follows it."""
        if self.kind != "id":
            return self.data_type()
        made = self._scoped_type()
        made.dims = self.ranges()
        return made

    def _scoped_type(self) -> ast.DataType:
        """`name`, or `class #(…)::type` by way of as many classes as there are."""
        made = self._named_type()
        while self.kind == "::" and self.ahead() == "id":
            self.i += 1
            made = self._named_type(made)
        return made

    def enum_type(self) -> ast.DataType:
        pos = self.expect("enum")
        base = self.data_type_here() if self.kind != "{" else None
        result = ast.DataType(pos, "enum", base=base)
        self.expect("{", "to begin the names of the enum")
        while True:
            at = self.pos
            name = self.identifier("the name of an enum value")
            count = self.ranges()
            value = self.expression() if self.accept("=") else None
            if count:
                result.items.extend(self._enum_series(at, name, count[0], value))
            else:
                result.items.append(ast.EnumItem(at, name, value))
            if not self.accept(","):
                break
        self.expect("}", "after the names of the enum")
        result.dims = self.packed_ranges()
        return result

    def _enum_series(self, pos: int, name: str, given: ast.Range, value: ast.Expr | None) -> list[ast.EnumItem]:
        """`name[n]` stands for name0 to name(n-1), `name[a:b]` for namea to nameb (IEEE 1800-2017 6.19.2)."""
        bounds = [given.left] if given.right is None else [given.left, given.right]
        numbers = [e.val for e in bounds if isinstance(e, ast.Number)]
        if len(numbers) != len(bounds) or (len(numbers) == 1 and numbers[0] < 1) or max(numbers) > 1 << 16:
            self.fail(given.pos, "the names of an enum are counted by whole numbers, such as LAMP[4] or LAMP[1:3]", "syntax")
        first, last = (0, numbers[0] - 1) if len(numbers) == 1 else (numbers[0], numbers[1])
        series = range(first, last + 1) if last >= first else range(first, last - 1, -1)
        return [ast.EnumItem(pos + k, f"{name}{number}", value if k == 0 else None) for k, number in enumerate(series)]

    def struct_type(self) -> ast.DataType:
        pos, kind = self.pos, self.kind
        self.i += 1
        result = ast.DataType(pos, kind)
        if self.accept("tagged"):
            self.diagnostics.error(pos, NO_TAGS, "unsupported")
        result.packed = self.accept("packed")
        if self.accept("signed"):
            result.signed = True
        else:
            self.accept("unsigned")
        self.expect("{")
        while self.kind not in ("}", "eof"):
            member = self.data_type_named()
            for declared in self.declarators():
                result.members.append((member, declared))
            self.expect(";", f"after a member of the {kind}")
        self.expect("}")
        result.dims = self.packed_ranges()
        return result

    def packed_ranges(self) -> list[ast.Range]:
        """Those of a type, before the names: each has two bounds (7.4.1)."""
        found = self.ranges()
        for r in found:
            if r.right is None and not (isinstance(r.left, ast.Name) and r.left.name in ("", "$", "[]", "*")):
                message = "a range of bits has two bounds, as in [7:0]; a size alone stands behind the name of an array (7.4)"
                self.complain(r.pos, message, "range")
                self.shaken = True
        return found

    def ranges(self) -> list[ast.Range]:
        found: list[ast.Range] = []
        while self.kinds[self.i] == "[":
            pos = self.pos
            self.i += 1
            if self.sv and self.kind in ("]", "$"):  # a dynamic array or a queue
                left: ast.Expr = ast.Name(pos, "$" if self.accept("$") else "[]")
            elif self.sv and self.kind == "*" and self.ahead() == "]":
                self.i += 1
                left = ast.Name(pos, "*")
            elif self.sv and self.kind in TYPE_WORDS:
                key = self.data_type_here()
                self.expect("]")
                found.append(ast.Range(pos, ast.Name(pos, ""), None, key))
                continue
            else:
                left = self.expression()
            right = self.expression() if self.accept(":") else None
            self.expect("]")
            found.append(ast.Range(pos, left, right))
        return found

    def declarator(self) -> ast.Declarator:
        pos = self.pos
        name = self.identifier()
        dims = self.ranges()
        init = self.expression() if self.accept("=") else None
        return ast.Declarator(pos, name, dims, init)

    def declarators(self) -> list[ast.Declarator]:
        found = [self.declarator()]
        while self.accept(","):
            found.append(self.declarator())
        return found

    def strength(self) -> tuple[str, str] | None:
        """`(strong1, pull0)`; also a charge strength."""
        if self.kind != "(" or self.ahead() not in STRENGTHS:
            return None
        self.i += 1
        first = self.kind
        self.i += 1
        second = ""
        if self.accept(","):
            if self.kind not in STRENGTHS:
                self.missing("a strength")
            second = self.kind
            self.i += 1
        self.expect(")", "after the strength")
        return first, second

    def delay(self, most: int) -> ast.Delay | None:
        if self.kind != "#":
            return None
        pos = self.pos
        self.i += 1
        if self.kind == "(":
            self.i += 1
            values = [self.min_typ_max()]
            while self.accept(","):
                values.append(self.min_typ_max())
            self.expect(")", "after the delays")
            if len(values) > most:
                self.complain(pos, f"at most {most} delays have a meaning here, {len(values)} are given", "syntax")
        else:
            values = [self.delay_value()]
        return ast.Delay(pos, values)

    def min_typ_max(self) -> ast.Expr:
        value = self.expression()
        if self.kind != ":":
            return value
        pos = self.pos
        self.i += 1
        typical = self.expression()
        self.expect(":")
        return ast.MinTypMax(pos, value, typical, self.expression())

    def delay_value(self) -> ast.Expr:
        """What may follow `#` without parentheses (A.2.2.3): a number or a name."""
        if self.kind == "id":
            base: ast.Expr = ast.Name(self.pos, self.identifier())
            while self.kind == "." and self.ahead() == "id":
                self.i += 2
                base = ast.Member(self.pos, base, self.texts[self.i - 1])
            return base
        if self.kind in ("num", "time"):
            return self.primary()
        if self.kind == "sys":
            return self.primary()
        self.missing("a delay", "after '#'")

    def net_declaration(self) -> ast.NetDecl:
        pos = self.pos
        kind = self.kind
        self.i += 1
        strength = self.strength()
        if not (self.accept("vectored") or self.accept("scalared")):
            pass
        dtype = self.data_type()
        delay = self.delay(3)
        names = self.declarators()
        self.expect(";", f"after the {kind} declaration")
        return ast.NetDecl(pos, kind, dtype, names, strength, delay)

    def variable_declaration(self) -> ast.VarDecl:
        pos = self.pos
        constant = self.accept("const")
        lifetime = ""
        if self.accept("var"):
            pass
        if self.kind in ("automatic", "static"):
            lifetime = self.kind
            self.i += 1
        dtype = self.data_type()
        names = self.declarators()
        self.expect(";", f"after the {dtype.keyword or dtype.name or 'variable'} declaration")
        return ast.VarDecl(pos, dtype, names, lifetime, constant)

    def parameter_declaration(self) -> ast.ParamDecl:
        """Up to, not including, the `;` or `,` that ends it."""
        pos = self.pos
        local = self.kind == "localparam"
        if self.kind in ("parameter", "localparam"):
            self.i += 1
        if self.sv and self.kind == "type" and self.ahead() == "id":
            return self._type_parameter(pos, local)
        dtype = self.data_type_named() if self.sv else self.data_type()
        names = [self.declarator()]
        while self.kind == "," and self.ahead() == "id" and self.ahead(2) in ("=", "[", ",", ";", ")"):
            if self.texts[self.i + 1] in self.types and self.ahead(2) == "id":
                break
            self.i += 1
            names.append(self.declarator())
        return ast.ParamDecl(pos, local, dtype, names)

    def _type_parameter(self, pos: int, local: bool) -> ast.ParamDecl:
        """`type T = int` (IEEE 1800-2017 6.20.3)."""
        self.expect("type")
        names: list[ast.Declarator] = []
        while True:
            at = self.pos
            name = self.identifier("the name of a type")
            self.types.add(name)
            init = ast.TypeExpr(self.pos, self.data_type_here()) if self.accept("=") else None
            names.append(ast.Declarator(at, name, [], init))
            if not (self.kind == "," and self.ahead() == "id" and self.ahead(2) in ("=", ",", ")", ";")):
                break
            self.i += 1
        return ast.ParamDecl(pos, local, ast.DataType(pos, ""), names, True)

    def typedef(self) -> ast.TypedefDecl:
        pos = self.expect("typedef")
        if self.kind == "class" or (self.kind in ("enum", "struct", "union") and self.ahead() == "id" and self.ahead(2) == ";"):
            self.i += 1  # a forward declaration (6.18)
            self.types.add(self.identifier("the name of the type"))
            self.expect(";", "after the typedef")
            return ast.TypedefDecl(pos, "", ast.DataType(pos, ""), [])
        if self.kind == "id" and self.ahead() == ";":
            self.types.add(self.identifier())
            self.i += 1
            return ast.TypedefDecl(pos, "", ast.DataType(pos, ""), [])
        dtype = self.data_type_named()
        name = self.identifier("the name of the type")
        self.types.add(name)
        dims = self.ranges()
        self.expect(";", "after the typedef")
        return ast.TypedefDecl(pos, name, dtype, dims)
