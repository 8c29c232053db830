"""Procedural statements (IEEE 1364-2005 clause 9, IEEE 1800-2017 clause 12)."""

from __future__ import annotations

from mevrik.lang.cursor import Recover
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.expressions import ASSIGN_OPS, NO_PATTERNS
from mevrik.lang.verilog.parser.loops import LoopParser
from mevrik.lang.verilog.parser.rewrite import Arm, in_order, one_by_weight
from mevrik.lang.verilog.parser.timing import CONTROLS

# Words that can't stand inside a statement: meeting one means that an 'end' is missing.
MODULE_LEVEL = {
    "endmodule", "module", "macromodule", "always", "always_comb", "always_ff", "always_latch", "initial", "endfunction",
    "endtask", "endgenerate", "primitive", "specify", "generate", "eof", "endpackage", "endprogram", "endinterface",
}  # fmt: skip
BEGINS_ASSIGNMENT = {"id", "{", "'{", "++", "--", "this", "super"}
CLOSERS = {"begin": "end", "fork": "join"}
# as what a statement is read where an expression is expected
STATEMENTS = (ast.Name, ast.Member, ast.Index, ast.PartSelect, ast.Concat, ast.Call, ast.Binary)
ENDS = {"end", "join", "join_any", "join_none", "endcase", "endfunction", "endtask"}


class StatementParser(LoopParser):
    automatic = False  # the lifetime of variables of the present module's blocks and subprograms

    def imports(self, found: list[ast.Item]) -> None:
        raise NotImplementedError

    def statement(self) -> ast.Stmt:
        """One statement; reports and repairs what is wrong in it."""
        if self.kinds[self.i] == "(*":
            self.skip_attributes()
        start = self.i
        pos = self.positions[start]
        mistakes = self.mistakes
        try:
            result = self._statement()
            if self.astray:
                self.understood(mistakes)
        except Recover:
            self._resume(start)
            result = ast.Null(pos)
        result.end = self.positions[self.i - 1] + len(self.texts[self.i - 1]) if self.i > start else pos
        return result

    def _resume(self, start: int) -> None:
        """After an error: go behind the next ';', or stop before a word that begins or ends a statement."""
        stops = ("end", "join", "endcase", "else", "begin", "if", "case", "for", *MODULE_LEVEL)
        if self.i == start and self.kind not in ("end", "join", "endcase", *MODULE_LEVEL):
            self.i += 1
        line = self.diagnostics.sources.place(self.pos).line
        while self.kind != "eof" and self.kind not in stops:
            self.i += 1
            if self.kinds[self.i - 1] == ";":
                break
            here = self.diagnostics.sources.place(self.pos).line
            if here > line and self.kind == "id" and self.ahead() in ("=", "<=") and self.kinds[self.i - 1] != ",":
                break

    def _statement(self) -> ast.Stmt:
        kind = self.kinds[self.i]
        pos = self.positions[self.i]
        handler = _HANDLERS.get(kind)
        if handler is not None:
            return handler(self, pos)
        if kind == "id" and self.kinds[self.i + 1] == ":" and self.ahead(2) in ("begin", "fork", "assert", "assume", "cover"):
            label = self.identifier()
            self.i += 1
            inner = self._statement()
            if isinstance(inner, (ast.Block, ast.Assert)) and not inner.label:
                inner.label = label
            return inner
        if self.sv and kind == "id" and self.kinds[self.i + 1] == ":" and self.ahead(2) != ":":
            label = self.identifier()  # any statement may have one (IEEE 1800-2017 9.3.5); that of a loop names its block (12.7.1)
            self.i += 1
            return ast.Block(pos, label, [], [self._statement()])
        if kind in BEGINS_ASSIGNMENT or (kind == "sys" and self.texts[self.i] in ("$root", "$unit")):
            return self._assignment_or_call(pos)
        if kind == "sys":
            self.i += 1
            target = ast.Name(pos, self.texts[self.i - 1])
            call = self.call(target) if self.kind == "(" else ast.Call(pos, target, [])
            self.expect(";", f"after {target.name}")
            return ast.CallStmt(pos, call)
        if self.left_out():
            return ast.Null(pos)
        if kind == "expect" and self.sv:
            return self._assert(pos)
        if kind == "else":
            self.i += 1
            self.misfit(pos, "this 'else' has no 'if' before it; a ';' or a second statement ended the 'if'")
            self.statement()
            return ast.Null(pos)
        if kind == "void" and self.ahead() == "'":
            self.i += 2
            self.expect("(")
            inner_expr = self.expression()
            self.expect(")")
            self.expect(";")
            return ast.CallStmt(pos, inner_expr, True)
        if kind in ENDS:
            self.misfit(pos, f"a statement expected, found '{kind}'")
            raise Recover
        self.unexpected(pos, "a statement")

    def _assignment_or_call(self, pos: int) -> ast.Stmt:
        target = self.unary()
        if isinstance(target, (ast.Call, ast.With)):
            self.expect(";", "after the call")
            return ast.CallStmt(pos, target)
        if isinstance(target, ast.Increment):
            self.expect(";")
            return ast.Assign(pos, target.target, ast.Number(pos, None, True, 1, 0), False, target.op[0])
        kind = self.kinds[self.i]
        if kind == "=" or kind == "<=":
            self.i += 1
            control = self.intra_control() if self.kinds[self.i] in CONTROLS else None
            value = self.expression()
            self.expect(";", "after the assignment")
            return ast.Assign(pos, target, value, kind == "<=", "", control)
        if kind in ASSIGN_OPS:
            self.i += 1
            value = self.expression()
            self.expect(";", "after the assignment")
            return ast.Assign(pos, target, value, False, kind[:-1])
        if kind == ";" and isinstance(target, (ast.Name, ast.Member)):
            self.i += 1
            return ast.CallStmt(pos, ast.Call(target.pos, target, []))
        if isinstance(target, ast.Name) and self.kind == "id":
            self.fail(pos, f"a statement expected, found '{target.name}'{self._statement_hint(target.name)}", "syntax")
        self.missing("'=' or '<='", "after the name of what is assigned")

    def _statement_hint(self, word: str) -> str:
        from mevrik.lang.diagnostics import nearest

        return nearest(word, [w for w in _HANDLERS if w.isalpha()] + ["reg", "wire", "integer", "assign", "input", "output"])

    def _null(self, pos: int) -> ast.Stmt:
        self.i += 1
        return ast.Null(pos)

    def _block(self, pos: int) -> ast.Stmt:
        opening = self.kind
        self.i += 1
        label = self.identifier("the name of the block") if self.accept(":") else ""
        decls: list[ast.Item] = []
        body: list[ast.Stmt] = []
        while self.block_declaration(decls):
            pass
        closing = ("end",) if opening == "begin" else ("join", "join_any", "join_none")
        while self.kind not in closing:
            if self.kind in MODULE_LEVEL or self.kind in ENDS:
                self._lost_end(pos, opening, label)
            before = self.i
            if self.sv and (self.starts_type() or self.kind in ("automatic", "static")) and self.block_declaration(decls):
                self._late_declaration(self.positions[before], pos)
                continue
            if self.kind == "id" and opening == "fork" and self.texts[self.i].startswith("join") and self.ahead() in MODULE_LEVEL:
                self.fail(self.pos, f"'{self.texts[self.i]}' ends no fork; join, join_any and join_none do (9.3.2)", "syntax")
            body.append(self.statement())
            if self.i == before:  # a word that ends something around the block
                self._lost_end(pos, opening, label)
        join = self.kind
        self.i += 1
        self.end_label(label, join)
        return ast.Block(pos, label, decls, body, "" if opening == "begin" else join)

    def _late_declaration(self, at: int, block: int) -> None:
        """It is read all the same, so that what uses it is no mistake."""
        line = self.diagnostics.sources.place(block).line
        message = (
            f"a declaration stands before all statements of its block: move it up to the 'begin' of line {line}, "
            "or open a block around it (IEEE 1800-2017 9.3.1)"
        )
        self.complain(at, message, "declaration-late")
        self.shaken = True

    def _lost_end(self, pos: int, opening: str, label: str) -> None:
        line = self.diagnostics.sources.place(pos).line
        name = f" '{label}'" if label else ""
        closing = CLOSERS[opening]
        message = f"'{closing}' expected before {self.describe()}: the '{opening}'{name} of line {line} is still open"
        self.misfit(self.pos, message, "block-open")
        raise LostEnd

    def end_label(self, label: str, closing: str) -> None:
        if self.kind == ":" and self.ahead() in ("id", "new"):
            self.i += 1
            pos = self.pos
            found = self.identifier()
            if found != label:
                self.complain(pos, f"'{closing} : {found}' closes what is named '{label}'", "label")

    def block_declaration(self, decls: list[ast.Item]) -> bool:
        kind = self.kind
        if kind == "parameter" or kind == "localparam":
            decls.append(self.parameter_declaration())
            self.expect(";", "after the parameter")
        elif kind == "event" and self.ahead() != "::":
            decls.append(self.event_declaration())
        elif kind == "typedef":
            decls.append(self.typedef())
        elif kind == "import":
            self.imports(decls)
        elif kind in ("automatic", "static", "const", "var") or self.starts_type():
            if kind == "void" or self.ahead() in ("'", "'{"):
                return False
            made = self.variable_declaration()
            if self.automatic and not made.lifetime:
                made.lifetime = "automatic"
            decls.append(made)
        else:
            return False
        return True

    def event_declaration(self) -> ast.EventDecl:
        pos = self.expect("event")
        names = self.declarators()
        self.expect(";", "after the event declaration")
        return ast.EventDecl(pos, names)

    def _if(self, pos: int) -> ast.Stmt:
        self.i += 1
        return self._if_behind(pos)

    def _if_behind(self, pos: int) -> ast.Stmt:
        """What follows the word 'if'."""
        try:
            cond = self._head("if", self._condition, "after the condition")
            then = self.statement()
        except Recover:  # the 'else' still belongs to it
            self._resume(self.i - 1)
            cond, then = None, ast.Null(pos)
        other = self._else() if self.accept("else") else None
        return ast.If(pos, cond, then, other) if cond is not None else ast.Null(pos)

    def _else(self) -> ast.Stmt:
        if self.kind == "(":
            self.complain(self.pos, "'else' takes no condition; 'else if' does", "syntax")
            return self._if_behind(self.pos)
        return self.statement()

    def _unique(self, pos: int) -> ast.Stmt:
        check = self.kind
        self.i += 1
        mistakes = self.mistakes
        found = self._statement()
        if isinstance(found, (ast.If, ast.Case)):
            found.check = check
        elif mistakes == self.mistakes:
            self.complain(pos, f"'if' or 'case' expected after '{check}'", "syntax")
        return found

    def _case(self, pos: int) -> ast.Stmt:
        kind = self.kind
        self.i += 1
        subject = self._head(kind, self.expression, "after the expression of the case")
        if self.accept("inside"):
            kind = "inside"
        if self.kind == "matches":
            self.diagnostics.error(self.pos, NO_PATTERNS, "unsupported")
            depth = 1
            while depth and self.kind != "eof":
                depth += (self.kind in ("case", "casez", "casex")) - (self.kind == "endcase")
                self.i += 1
            return ast.Null(pos)
        arms = self._arms(pos, kind)
        return ast.Case(pos, kind, subject, arms) if subject is not None else ast.Null(pos)

    def _randcase(self, pos: int) -> ast.Stmt:
        self.i += 1
        return one_by_weight(pos, [arm for arm in self._arms(pos, "randcase") if arm[0]])

    def _arms(self, pos: int, kind: str) -> list[Arm]:
        """What stands up to `endcase`."""
        arms: list[Arm] = []
        while self.kind != "endcase":
            if self.kind in MODULE_LEVEL or self.kind in ("end", "join"):
                line = self.diagnostics.sources.place(pos).line
                message = f"'endcase' expected before {self.describe()}: the '{kind}' of line {line} is still open"
                self.misfit(self.pos, message, "block-open")
                return arms
            start = self.i
            try:
                if self.accept("default"):
                    self.accept(":")
                    labels: list[ast.Expr] = []
                else:
                    labels = self._case_labels(kind)
                    if self.kind in (";", "=") and isinstance(labels[-1], STATEMENTS):
                        self.i = start  # it was a statement that stands behind the case
                        line = self.diagnostics.sources.place(pos).line
                        message = f"'endcase' expected before {self.describe()}: the '{kind}' of line {line} is still open"
                        self.misfit(self.pos, message, "block-open")
                        return arms
                    self.expect(":", "after the labels of a case item")
            except Recover:
                self._resume(start)
                continue
            arms.append((labels, self.statement()))
        self.i += 1
        return arms

    def _case_labels(self, kind: str) -> list[ast.Expr]:
        labels: list[ast.Expr] = []
        while True:
            if kind == "inside" and self.kind == "[":
                at = self.pos
                self.i += 1
                low = self.expression()
                self.expect(":")
                labels.append(ast.MinTypMax(at, low, low, self.expression()))
                self.expect("]")
            else:
                labels.append(self.expression())
            if not self.accept(","):
                return labels

    def _delayed(self, pos: int) -> ast.Stmt:
        control = self.delay_control()
        return ast.Timed(pos, control, self.statement())

    def _cycles(self, pos: int) -> ast.Stmt:
        self.i += 1
        count = self.cycle_count()
        return ast.Cycles(pos, count, self.statement())

    def _on_event(self, pos: int) -> ast.Stmt:
        control = self.event_control()
        return ast.Timed(pos, control, self.statement())

    def _wait(self, pos: int) -> ast.Stmt:
        self.i += 1
        if self.accept("fork"):
            self.expect(";", "after 'wait fork'")
            return ast.ForkControl(pos, "wait")
        self.expect("(", "after 'wait'")
        cond = self.expression()
        self.expect(")", "after the condition")
        return ast.Wait(pos, cond, self.statement())

    def _wait_order(self, pos: int) -> ast.Stmt:
        self.i += 1
        self.expect("(", "after 'wait_order'")
        events = [self.unary()]
        while self.accept(","):
            events.append(self.unary())
        self.expect(")", "after the events")
        then = self.statement() if self.kind != "else" else None
        return in_order(pos, events, then, self.statement() if self.accept("else") else None)

    def _trigger(self, pos: int) -> ast.Stmt:
        nonblocking = self.kind == "->>"
        self.i += 1
        control = self.intra_control() if nonblocking else None
        target = self.postfix(ast.Name(self.pos, self.identifier("the name of an event")))
        self.expect(";", "after the event")
        return ast.Trigger(pos, target, nonblocking, control)

    def _disable(self, pos: int) -> ast.Stmt:
        self.i += 1
        if self.kind == "fork":
            self.i += 1
            self.expect(";", "after 'disable fork'")
            return ast.ForkControl(pos, "disable")
        target = self.postfix(ast.Name(self.pos, self.identifier("the name of a block or task")))
        self.expect(";", "after the name")
        return ast.Disable(pos, target)

    def _procedural_assign(self, pos: int) -> ast.Stmt:
        kind = self.kind
        self.i += 1
        target = self.unary()
        value = None
        if kind in ("assign", "force"):
            self.expect("=", f"after what '{kind}' names")
            value = self.expression()
        self.expect(";", f"after '{kind}'")
        return ast.ProcAssign(pos, kind, target, value)

    def _jump(self, pos: int) -> ast.Stmt:
        kind = self.kind
        self.i += 1
        value = self.expression() if kind == "return" and self.kind != ";" else None
        self.expect(";", f"after '{kind}'")
        return ast.Jump(pos, kind, value)

    def _assert(self, pos: int) -> ast.Stmt:
        kind = self.kind
        self.i += 1
        deferred = False
        prop: ast.Prop | None = None
        cond: ast.Expr = ast.Number(pos, None, True, 1, 0)
        if kind == "expect":
            self.expect("(", "after 'expect'")
            prop = self.property_spec()
            self.expect(")", "after the property")
        elif self.kind in ("property", "sequence"):
            every = self.kind == "sequence" and kind == "cover"
            self.i += 1
            self.expect("(", f"after '{self.kinds[self.i - 1]}'")
            prop = self.property_spec()
            if every:
                prop = _each_match(prop)
            self.expect(")", "after the property")
        else:
            if self.accept("#"):
                deferred = True
                self.i += 1
            deferred = bool(self.accept("final")) or deferred
            cond = self._head(kind, self._condition, "after the condition") or cond
        if self.accept(";"):
            return ast.Assert(pos, kind, cond, None, None, prop=prop, deferred=deferred)
        then = self.statement() if self.kind != "else" else None
        other = self.statement() if self.accept("else") else None
        return ast.Assert(pos, kind, cond, then, other, prop=prop, deferred=deferred)


class LostEnd(Exception):
    """An 'end' is missing: the whole item is given up, up to the word that showed it."""


_HANDLERS = {
    ";": StatementParser._null,
    "begin": StatementParser._block,
    "foreach": StatementParser._foreach,
    "fork": StatementParser._block,
    "if": StatementParser._if,
    "case": StatementParser._case,
    "casez": StatementParser._case,
    "casex": StatementParser._case,
    "unique": StatementParser._unique,
    "unique0": StatementParser._unique,
    "priority": StatementParser._unique,
    "for": StatementParser._for,
    "while": StatementParser._while,
    "do": StatementParser._do,
    "repeat": StatementParser._repeat,
    "forever": StatementParser._forever,
    "#": StatementParser._delayed,
    "@": StatementParser._on_event,
    "##": StatementParser._cycles,
    "wait": StatementParser._wait,
    "wait_order": StatementParser._wait_order,
    "randcase": StatementParser._randcase,
    "->": StatementParser._trigger,
    "->>": StatementParser._trigger,
    "disable": StatementParser._disable,
    "assign": StatementParser._procedural_assign,
    "deassign": StatementParser._procedural_assign,
    "force": StatementParser._procedural_assign,
    "release": StatementParser._procedural_assign,
    "break": StatementParser._jump,
    "continue": StatementParser._jump,
    "return": StatementParser._jump,
    "assert": StatementParser._assert,
    "assume": StatementParser._assert,
    "cover": StatementParser._assert,
    "restrict": StatementParser._assert,
}


def _each_match(p: ast.Prop) -> ast.Prop:
    """Of `cover sequence`: each match counts, not each attempt that succeeds (IEEE 1800-2017 16.14.3). The clock stays outside."""
    if p.op in ("clocked", "disable"):
        return ast.Prop(p.pos, p.op, [_each_match(p.parts[0])], p.expr, control=p.control)
    return ast.Prop(p.pos, "every", [p])
