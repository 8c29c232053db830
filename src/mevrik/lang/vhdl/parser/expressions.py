"""Expressions, names, subtype indications, association lists (IEEE 1076-2008 clauses 6.3, 6.5.7, 8, 9)."""

from __future__ import annotations

from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.parser.cursor import Cursor
from mevrik.lang.vhdl.tokens import bit_string, number

LOGICAL = frozenset(("and", "or", "nand", "nor", "xor", "xnor"))
RELATIONAL = frozenset(("=", "/=", "<", "<=", ">", ">=", "?=", "?/=", "?<", "?<=", "?>", "?>="))
SHIFT = frozenset(("sll", "srl", "sla", "sra", "rol", "ror"))
_DEEP = 200


class ExpressionParser(Cursor):
    depth = 0

    def expression(self) -> a.Expr:
        self.depth += 1
        if self.depth > _DEEP:
            self.depth = 0
            self.fail(self.pos, "this expression is nested too deeply", "too-deep")
        try:
            if self.kind == "??":
                pos = self.pos
                self.i += 1
                return a.Unary(pos, "??", self._primary())
            left = self._relation()
            first = ""
            while self.kind in LOGICAL:
                op, pos = self.kind, self.pos
                if first and (op != first or op in ("nand", "nor")):
                    self.complain(pos, f"'{first}' and '{op}' can't stand side by side; add parentheses that say what comes first")
                first = op
                self.i += 1
                left = a.Binary(pos, op, left, self._relation())
            return left
        finally:
            self.depth -= 1

    def _relation(self) -> a.Expr:
        left = self._shift()
        if self.kind in RELATIONAL:
            op, pos = self.kind, self.pos
            self.i += 1
            left = a.Binary(pos, op, left, self._shift())
        return left

    def _shift(self) -> a.Expr:
        left = self._sum()
        if self.kind in SHIFT:
            op, pos = self.kind, self.pos
            self.i += 1
            left = a.Binary(pos, op, left, self._sum())
        return left

    def _sum(self) -> a.Expr:
        if self.kind in ("+", "-"):
            op, pos = self.kind, self.pos
            self.i += 1
            left: a.Expr = a.Unary(pos, op, self._term())
        else:
            left = self._term()
        while self.kind in ("+", "-", "&"):
            op, pos = self.kind, self.pos
            self.i += 1
            left = a.Binary(pos, op, left, self._term())
        return left

    def _term(self) -> a.Expr:
        left = self._factor()
        while self.kind in ("*", "/", "mod", "rem"):
            op, pos = self.kind, self.pos
            self.i += 1
            left = a.Binary(pos, op, left, self._factor())
        return left

    def _factor(self) -> a.Expr:
        if self.kind in ("abs", "not") or self.kind in LOGICAL:
            op, pos = self.kind, self.pos
            self.i += 1
            return a.Unary(pos, op, self._factor() if op in ("abs", "not") and self.kind == "not" else self._primary())
        left = self._primary()
        if self.kind == "**":
            pos = self.pos
            self.i += 1
            left = a.Binary(pos, "**", left, self._primary())
        return left

    def _primary(self) -> a.Expr:
        kind, pos = self.kind, self.pos
        if kind in ("number", "based"):
            word = self.texts[self.i]
            value = number(word)
            self.i += 1
            if value is None:
                self.complain(pos, f"'{word}' is no valid number")
                value = 0
            if self.kind == "id" and self.positions[self.i] > pos:
                return a.Physical(pos, value, self.simple_name())
            return a.Number(pos, value)
        if kind in ("id", "char"):
            return self.name()
        if kind == "string":
            text = self.texts[self.i]
            if self.ahead() == "(" or (self.ahead() == "[" and text[0] == '"'):
                return self.name()
            self.i += 1
            quote = text[0]
            literal = a.Text(pos, text[1:-1].replace(quote * 2, quote))
            return self._suffixes(literal) if self.kind == "'" else literal
        if kind == "bits":
            word = self.texts[self.i]
            bits = bit_string(word)
            self.i += 1
            if bits is None:
                self.complain(pos, f"'{word}' is no valid bit string: a digit does not fit its base, or its value its length")
                bits = ""
            return a.Text(pos, bits)
        if kind == "(":
            return self.aggregate()
        if kind == "new":
            self.i += 1
            mark = self.type_mark()
            if self.accept("'"):
                return a.New(pos, a.Qualified(mark.pos, mark, self.aggregate()))
            return a.New(pos, self.subtype_rest(mark))
        if kind == "null":
            self.i += 1
            return a.Null(pos)
        if kind == "open":
            self.i += 1
            return a.Open(pos)
        if kind == "<<":
            return self.name()
        if kind in ("+", "-"):
            self.complain(pos, f"a '{kind}' can't follow an operator; write the signed operand in parentheses")
            self.i += 1
            return a.Unary(pos, kind, self._primary())
        self.missing("an expression")

    # ---- names ----

    def name(self) -> a.Expr:
        if self.kind in ("string", "char"):
            found: a.Expr = a.Name(
                self.pos, self.ids[self.i] if self.kind == "char" else self.texts[self.i].lower(), self.texts[self.i]
            )
            self.i += 1
        elif self.kind == "<<":
            found = self._external()
        else:
            found = self.simple_name()
        return self._suffixes(found)

    def _suffixes(self, found: a.Expr) -> a.Expr:
        while True:
            kind, pos = self.kind, self.pos
            if kind == ".":
                self.i += 1
                if self.kind == "all":
                    self.i += 1
                    found = a.Select(pos, found, "all", "all")
                elif self.kind in ("char", "string"):
                    found = a.Select(
                        self.pos, found, self.ids[self.i].lower() if self.kind == "string" else self.ids[self.i], self.texts[self.i]
                    )
                    self.i += 1
                else:
                    low, text, at = self.identifier("a name after '.'")
                    found = a.Select(at, found, low, text)
            elif kind == "(":
                found = a.Apply(found.pos, found, self.associations())
            elif kind == "[":
                at = 1
                while self.ahead(at) not in ("]", "eof"):
                    at += 1
                if self.ahead(at + 1) != "'":
                    return found  # the signature of an alias
                signature = self.signature()
                self.expect("'", "after the signature")
                found = self._attribute(found, signature)
            elif kind == "'":
                self.i += 1
                if self.kind == "(":
                    found = a.Qualified(found.pos, found, self.aggregate())
                else:
                    found = self._attribute(found, None)
            else:
                return found

    def _attribute(self, prefix: a.Expr, signature: a.Signature | None) -> a.Expr:
        pos = self.pos
        if self.kind in ("range", "subtype"):
            name = self.kind
            self.i += 1
        else:
            name = self.identifier("the name of an attribute")[0]
        arg: a.Expr | None = None
        if self.kind == "(" and name not in (
            "subtype",
            "element",
            "base",
            "path_name",
            "simple_name",
            "instance_name",
            "event",
            "active",
            "last_event",
            "last_active",
            "last_value",
            "driving",
            "driving_value",
            "transaction",
        ):
            self.i += 1
            arg = self.expression()
            self.expect(")")
        return a.Attr(pos, prefix, name, arg, signature)

    def signature(self) -> a.Signature:
        pos = self.expect("[")
        params: list[a.Expr] = []
        result: a.Expr | None = None
        while self.kind not in ("]", "return", "eof"):
            params.append(self.type_mark())
            if not self.accept(","):
                break
        if self.accept("return"):
            result = self.type_mark()
        self.expect("]")
        return a.Signature(pos, params, result)

    def _external(self) -> a.Expr:
        pos = self.expect("<<")
        kind = self.kind
        if kind not in ("signal", "constant", "variable"):
            self.missing("'signal', 'constant' or 'variable'")
        self.i += 1
        path: list[tuple[str, a.Expr | None]] = []
        if self.accept("."):
            path.append((".", None))
        elif self.accept("@"):
            path.append(("@", None))
        while True:
            if self.accept("^"):
                path.append(("^", None))
            else:
                step = self.identifier("a step of the path")[0]
                index: a.Expr | None = None
                if self.accept("("):
                    index = self.expression()
                    self.expect(")")
                path.append((step, index))
            if not self.accept("."):
                break
        self.expect(":")
        subtype = self.subtype()
        self.expect(">>")
        return a.External(pos, kind, path, subtype)

    def type_mark(self) -> a.Expr:
        """A selected name with attributes, without parentheses."""
        found: a.Expr = self.simple_name("the name of a type")
        while True:
            if self.kind == "." and self.ahead() == "id":
                self.i += 1
                low, text, pos = self.identifier()
                found = a.Select(pos, found, low, text)
            elif self.kind == "'" and self.ahead() in ("id", "subtype", "range"):
                self.i += 1
                found = self._attribute(found, None)
            else:
                return found

    # ---- lists in parentheses ----

    def associations(self) -> list[a.Assoc]:
        """( [formal =>] actual, ... ), where an actual may be a range or `open`."""
        self.expect("(")
        items: list[a.Assoc] = []
        while True:
            item = self._association()
            if items and items[-1].choices and not item.choices:
                self.complain(item.pos, "what is given by its place comes before what is given by its name (6.5.7.1)", "positional")
            items.append(item)
            if not self.accept(","):
                break
        self.expect(")")
        return items

    def _association(self) -> a.Assoc:
        pos = self.pos
        self.accept("inertial")
        if self.kind == "<>":
            self.i += 1
            return a.Assoc(pos, [], a.Box(pos))
        value = self.element()
        if self.kind == "=>":
            self.i += 1
            if self.accept("inertial"):
                return a.Assoc(pos, [value], self.element())
            if self.kind == "<>":
                self.i += 1
                return a.Assoc(pos, [value], a.Box(self.pos))
            return a.Assoc(pos, [value], self.element())
        return a.Assoc(pos, [], value)

    def element(self) -> a.Expr:
        """An expression or a range."""
        left = self.expression()
        if self.kind in ("to", "downto"):
            down, pos = self.kind == "downto", self.pos
            self.i += 1
            return a.Range(pos, left, down, self.expression())
        if self.kind == "range" and isinstance(left, (a.Name, a.Select, a.Attr)):
            return self.subtype_rest(left)
        return left

    def choices(self) -> list[a.Expr]:
        found: list[a.Expr] = []
        while True:
            if self.kind == "others":
                found.append(a.Others(self.pos))
                self.i += 1
            else:
                found.append(self.element())
            if self.kind != "|" and self.kind != "!":
                return found
            self.i += 1

    def aggregate(self) -> a.Expr:
        """( ... ): a parenthesised expression or an aggregate."""
        pos = self.expect("(")
        items: list[a.Assoc] = []
        while True:
            at = self.pos
            chosen = self.choices()
            if self.accept("=>"):
                items.append(a.Assoc(at, chosen, self.expression()))
            else:
                if len(chosen) > 1:
                    self.missing("'=>'", "after the choices")
                items.append(a.Assoc(at, [], chosen[0]))
            if not self.accept(","):
                break
        self.expect(")")
        if len(items) == 1 and not items[0].choices and not isinstance(items[0].value, (a.Range, a.Others)):
            return items[0].value
        return a.Aggregate(pos, items)

    # ---- subtypes ----

    def subtype(self) -> a.SubtypeInd:
        pos = self.pos
        resolution: a.Expr | None = None
        if self.kind == "(":
            resolution = self.aggregate()
        mark = self.type_mark()
        if resolution is None and self.kind == "id":
            resolution, mark = mark, self.type_mark()
        found = self.subtype_rest(mark)
        found.pos = pos
        found.resolution = resolution
        return found

    def subtype_rest(self, mark: a.Expr) -> a.SubtypeInd:
        found = a.SubtypeInd(mark.pos, mark)
        if self.accept("range"):
            if self.kind == "<>":
                self.i += 1
                found.constraint = [a.Assoc(self.pos, [], a.Box(self.pos))]
                return found
            constraint = self.element()
            if not isinstance(constraint, (a.Range, a.Attr)):
                self.fail(constraint.pos, "a range such as '0 to 7' expected")
            found.constraint = constraint
        while self.kind == "(":
            part = self._constraint()
            if found.constraint is None:
                found.constraint = part
            else:
                found.more.append(part)
        return found

    def _constraint(self) -> list[a.Assoc]:
        self.expect("(")
        items: list[a.Assoc] = []
        if self.accept("open"):
            self.expect(")")
            return [a.Assoc(self.pos, [], a.Open(self.pos))]
        while True:
            pos = self.pos
            value = self.element()
            field = _field_constraint(value)
            if field is not None:
                while self.kind == "(":
                    field.more.append(self._constraint())
                items.append(a.Assoc(pos, [field.mark], field))
            else:
                items.append(a.Assoc(pos, [], value))
            if not self.accept(","):
                break
        self.expect(")")
        return items

    def discrete_range(self) -> a.Expr:
        """A range, or a discrete subtype (a name or a SubtypeInd)."""
        return self.element()


def _field_constraint(value: a.Expr) -> a.SubtypeInd | None:
    """`element(range)(range)...` of a record constraint, also `element(element(range), ...)`, which are read as calls; None for
    anything else."""
    parts: list[list[a.Assoc]] = []
    name = value
    while isinstance(name, a.Apply):
        items: list[a.Assoc] = []
        for x in name.args:
            inner = _field_constraint(x.value) if not x.choices else None
            if inner is not None:
                items.append(a.Assoc(x.pos, [inner.mark], inner))
            elif not x.choices and isinstance(x.value, (a.Range, a.SubtypeInd, a.Attr)):
                items.append(x)
            else:
                return None
        parts.insert(0, items)
        name = name.prefix
    if not parts or not isinstance(name, a.Name):
        return None
    return a.SubtypeInd(value.pos, name, None, parts[0], parts[1:])
