"""What stands in parentheses at the head of a statement, and loops (IEEE 1364-2005 9.6, IEEE 1800-2017 12.7)."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from mevrik.lang.cursor import Recover
from mevrik.lang.diagnostics import replacement
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.expressions import ASSIGN_OPS
from mevrik.lang.verilog.parser.properties import PropertyParser

T = TypeVar("T")


class LoopParser(PropertyParser):
    def statement(self) -> ast.Stmt:
        raise NotImplementedError

    def _head(self, word: str, read: Callable[[], T], after: str, ends: int = 0) -> T | None:
        """What stands in parentheses behind a word. After a mistake in it, which is None, the statement goes on behind it."""
        start = self.i
        try:
            self.expect("(", f"after '{word}'")
            found = read()
            self.expect(")", after)
            return found
        except Recover:
            if not self.behind_parenthesis(start, ends):
                raise
            return None

    def _condition(self) -> ast.Expr:
        cond = self.expression()
        self._no_assignment()
        return cond

    def _no_assignment(self) -> None:
        """`if (a = 1)`: reported as what it is meant to be, and read so."""
        if self.kind != "=":
            return
        mend = replacement(self.diagnostics.sources, self.pos, "=", "==", "Compare: ==")
        self.complain(self.pos, "'=' assigns and gives no value here; '==' compares", "assignment-in-condition", mend)
        self.i += 1
        self.expression()

    def _for(self, pos: int) -> ast.Stmt:
        self.i += 1
        head = self._head("for", self._for_head, "after the step of the loop", 2)
        body = self.statement()
        return ast.For(pos, *head, body) if head is not None else ast.Null(pos)

    def _for_head(self) -> tuple[list[ast.Item], list[ast.Stmt], ast.Expr | None, list[ast.Stmt]]:
        decls: list[ast.Item] = []
        init: list[ast.Stmt] = []
        if self.starts_type() or self.kind == "var":
            self.accept("var")
            at = self.pos
            dtype = self.data_type()
            while True:
                if decls and (self.starts_type() or self.kind == "var"):  # another one may have another type (A.6.8)
                    self.accept("var")
                    dtype = self.data_type()
                d = self.declarator()
                decls.append(ast.VarDecl(at, dtype, [ast.Declarator(d.pos, d.name, d.dims, None)], "automatic"))
                if d.init is not None:
                    init.append(ast.Assign(d.pos, ast.Name(d.pos, d.name), d.init, False))
                if not self.accept(","):
                    break
        elif self.kind != ";":
            init = self._for_assignments()
        self.expect(";", "after the start of the loop")
        cond = self.expression() if self.kind != ";" else None
        self.expect(";", "after the condition of the loop")
        step = self._for_assignments() if self.kind != ")" else []
        return decls, init, cond, step

    def _for_assignments(self) -> list[ast.Stmt]:
        found = [self.assignment_step("in the head of the loop")]
        while self.accept(","):
            found.append(self.assignment_step("in the head of the loop"))
        return found

    def assignment_step(self, where: str) -> ast.Stmt:
        """An assignment, `++` or `--` that is no statement of its own."""
        pos = self.pos
        target = self.unary()
        if isinstance(target, ast.Increment):
            return ast.Assign(pos, target.target, ast.Number(pos, None, True, 1, 0), False, target.op[0])
        op = ""
        if self.kind in ASSIGN_OPS:
            op = self.kind[:-1]
            self.i += 1
        else:
            self.expect("=", where)
        return ast.Assign(pos, target, self.expression(), False, op)

    def _foreach(self, pos: int) -> ast.Stmt:
        self.i += 1
        self.expect("(", "after 'foreach'")
        array: ast.Expr = ast.Name(self.pos, self.identifier("the name of an array"))
        while True:
            if self.kind == "[" and self._index_goes_on():
                array = self.selection(array)
                continue
            if not ((self.kind == "." and self.ahead() == "id") or self.kind == "::"):
                break
            dot = self.kind == "."
            self.i += 2
            name, at = self.texts[self.i - 1], self.positions[self.i - 1]
            if dot:
                array = ast.Member(at, array, name)
            else:
                array = ast.Name(at, f"{array.name}::{name}" if isinstance(array, ast.Name) else name)
        self.expect("[", "after the array")
        names: list[tuple[int, str | None]] = []
        while True:
            at = self.pos
            names.append((at, self.identifier("the name of an index") if self.kind == "id" else None))
            if not self.accept(","):
                break
        self.expect("]", "after the indexes")
        self.expect(")", "after the array")
        return ast.Foreach(pos, array, names, self.statement())

    def _index_goes_on(self) -> bool:
        """Whether behind the brackets here something other than the end of a foreach's head follows."""
        depth, at = 0, self.i
        while at < len(self.kinds):
            depth += (self.kinds[at] == "[") - (self.kinds[at] == "]")
            at += 1
            if depth == 0:
                return self.kinds[at] in ("[", ".")
        return False

    def _while(self, pos: int) -> ast.Stmt:
        self.i += 1
        cond = self._head("while", self._condition, "after the condition")
        body = self.statement()
        return ast.While(pos, cond, body) if cond is not None else ast.Null(pos)

    def _do(self, pos: int) -> ast.Stmt:
        self.i += 1
        body = self.statement()
        self.expect("while", "after the body of 'do'")
        self.expect("(")
        cond = self.expression()
        self.expect(")")
        self.expect(";")
        return ast.While(pos, cond, body, test_last=True)

    def _repeat(self, pos: int) -> ast.Stmt:
        self.i += 1
        count = self._head("repeat", self.expression, "after the count")
        body = self.statement()
        return ast.Repeat(pos, count, body) if count is not None else ast.Null(pos)

    def _forever(self, pos: int) -> ast.Stmt:
        self.i += 1
        return ast.Forever(pos, self.statement())
