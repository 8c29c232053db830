"""Sequential statements (IEEE 1076-2008 clause 10)."""

from __future__ import annotations

from typing import NoReturn

from mevrik.lang.cursor import Recover
from mevrik.lang.diagnostics import Mend, replacement
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.parser.expressions import ExpressionParser

# what can only begin something outside of a list of sequential statements: a forgotten `end` shows there
_OUTSIDE = (
    "process",
    "architecture",
    "entity",
    "package",
    "configuration",
    "component",
    "generate",
    "begin",
    "signal",
    "port",
    "library",
)


_ELSIF = ("elseif", "elif", "elsf", "elsiff")
_JOINED = {f"end{word}": word for word in ("if", "case", "loop", "process")}


class StatementParser(ExpressionParser):
    def statements(self, stops: tuple[str, ...]) -> list[a.Stmt]:
        found: list[a.Stmt] = []
        while self.kind not in stops and self.kind != "eof":
            start, mistakes = self.i, self.mistakes
            if self._opens_outside():
                return found
            if "elsif" in stops and self.kind == "id" and self.ids[self.i] in _ELSIF:
                mend = replacement(self.diagnostics.sources, self.pos, self.texts[self.i], "elsif", "Write elsif")
                self.complain(self.pos, f"'{self.texts[self.i]}' is written 'elsif'", "syntax", mend)
                self.kinds[self.i] = "elsif"
                return found
            try:
                found.append(self.statement())
                self.understood(mistakes)
            except Recover:
                if self.kind == "end":
                    continue
                if self.i == start:
                    self.i += 1
                while self.kind not in (";", "eof", "end", "elsif", "else", "when"):
                    self.i += 1
                self.accept(";")
        return found

    def split_end(self, word: str) -> None:
        """Go on as if `endif` had been `end if`."""
        at = self.i
        self.kinds[at : at + 1] = ["end", word]
        self.ids[at : at + 1] = ["end", word]
        self.texts[at : at + 1] = ["end", word]
        self.positions[at : at + 1] = [self.positions[at], self.positions[at] + 3]

    def _opens_outside(self) -> bool:
        at = self.i
        if self.kinds[at] == "id" and self.ahead() == ":":
            at += 2
        return self.kinds[min(at, len(self.kinds) - 1)] in _OUTSIDE

    def statement(self) -> a.Stmt:
        label = ""
        pos = self.pos
        if self.kind == "id" and self.ahead() == ":":
            label = self.ids[self.i]
            self.i += 2
        if self.kind == "id" and self.ids[self.i] in _JOINED and self.ahead() == ";":
            word = _JOINED[self.ids[self.i]]
            self.complain(self.pos, f"'end {word}' is written as two words")
            self.split_end(word)
            raise Recover
        match self.kind:
            case "if":
                return self._if(label)
            case "case":
                return self._case(label)
            case "for" | "while" | "loop":
                return self._loop(label)
            case "next" | "exit":
                return self._leave(label)
            case "return":
                self.i += 1
                value = self.expression() if self.kind not in (";", "when") else None
                self.expect(";")
                return a.Return(pos, self.end, label, value)
            case "wait":
                return self._wait(label)
            case "assert" | "report":
                return self.assertion(label)
            case "null":
                self.i += 1
                self.expect(";")
                return a.NullStmt(pos, self.end, label)
            case "with":
                return self.selected(label)
            case "when":
                self.misfit(self.pos, "this 'when' belongs to no 'case'")
                raise Recover
            case "else" | "elsif":
                self.misfit(self.pos, f"this '{self.kind}' belongs to no 'if'; is there an 'end if' or a ';' too many before it?")
                raise Recover
        target = self.aggregate() if self.kind == "(" else self.name()
        if self.kind == ":=":
            return self._assign(label, target, pos)
        if self.kind == "<=":
            return self.signal_assign(label, target, pos)
        if self.kind == "=":
            self.fail(self.pos, "'=' compares; a variable is assigned with ':=', a signal with '<='")
        self.expect(";", "after the call" if isinstance(target, a.Apply) else "or an assignment after the name")
        return a.Call(pos, self.end, label, target)

    def _assign(self, label: str, target: a.Expr, pos: int) -> a.Stmt:
        self.expect(":=")
        alternatives: list[tuple[a.Expr, a.Expr | None]] = []
        while True:
            value = self.expression()
            if not self.accept("when"):
                alternatives.append((value, None))
                break
            alternatives.append((value, self.expression()))
            if not self.accept("else"):
                break
        self.expect(";", "after the assignment")
        return a.Assign(pos, self.end, label, target, alternatives)

    def _delay(self) -> tuple[str, a.Expr | None]:
        if self.accept("transport"):
            return "transport", None
        if self.accept("reject"):
            reject = self.expression()
            self.expect("inertial")
            return "inertial", reject
        self.accept("inertial")
        return "inertial", None

    def waveform(self) -> list[a.Wave] | None:
        if self.accept("unaffected"):
            return None
        waves: list[a.Wave] = []
        while True:
            pos = self.pos
            value: a.Expr | None = self.expression()
            if isinstance(value, a.Null):
                value = None
            after = self.expression() if self.accept("after") else None
            waves.append(a.Wave(pos, value, after))
            if not self.accept(","):
                return waves

    def signal_assign(self, label: str, target: a.Expr, pos: int) -> a.Stmt:
        self.expect("<=")
        if self.accept("release"):
            if self.kind in ("in", "out"):
                self.i += 1
            self.expect(";")
            return a.Release(pos, self.end, label, target)
        guarded = self.accept("guarded")
        delay, reject = "force", None
        if self.accept("force"):
            if self.kind in ("in", "out"):
                self.i += 1
        else:
            delay, reject = self._delay()
        alternatives: list[tuple[list[a.Wave] | None, a.Expr | None]] = []
        while True:
            waves = self.waveform()
            if not self.accept("when"):
                alternatives.append((waves, None))
                break
            alternatives.append((waves, self.expression()))
            if self.kind not in ("else", ";"):
                self.missing("'else' or ';'", "after the condition")
            if not self.accept("else"):
                break
        if self.kind in (":=", "=>"):
            self.fail(self.pos, f"'{self.kind}' can't stand here")
        self.expect(";", "after the assignment")
        return a.SignalAssign(pos, self.end, label, target, delay, reject, alternatives, guarded)

    def selected(self, label: str) -> a.SelectedAssign:
        pos = self.expect("with")
        subject = self.expression()
        self.expect("select")
        matching = self._question()
        target = self.aggregate() if self.kind == "(" else self.name()
        variable = self.kind == ":="
        if not variable and self.kind != "<=":
            self.missing("'<='")
        self.i += 1
        guarded = self.accept("guarded")
        delay, reject = "force", None
        if not self.accept("force"):
            delay, reject = self._delay()
        alternatives: list[tuple[list[a.Wave] | None, list[a.Expr]]] = []
        while True:
            waves = self.waveform()
            self.expect("when")
            alternatives.append((waves, self.choices()))
            if not self.accept(","):
                break
        self.expect(";", "after the last choice")
        return a.SelectedAssign(pos, self.end, label, subject, matching, target, variable, delay, reject, alternatives, guarded)

    def _question(self) -> bool:
        return self.accept("?")

    def _if(self, label: str) -> a.Stmt:
        pos = self.expect("if")
        arms: list[tuple[a.Expr | None, list[a.Stmt]]] = []
        cond: a.Expr | None = self._condition()
        other_if = False
        while True:
            arms.append((cond, self.statements(("end", "elsif", "else"))))
            if self.accept("elsif"):
                cond = self._condition()
            elif self.accept("else"):
                other_if = self.kind == "if"
                cond = None
            else:
                break
        end = self.close("end", "of the 'if'")
        if self.kind != "if":
            hint = "; 'else if' begins an 'if' of its own, with an 'end if' of its own: 'elsif' does not" if other_if else ""
            self._wrong_end(end, "if", pos, hint)
        self.i += 1
        self.closing_name(label, "statement")
        self.close(";")
        return a.If(pos, self.end, label, arms)

    def _condition(self) -> a.Expr:
        """A condition and its 'then'. After a mistake in it the statements behind it are read all the same."""
        pos = self.pos
        try:
            found = self.expression()
            self.expect("then", "after the condition")
            return found
        except Recover:
            at = self.i
            while self.kinds[at] not in ("then", ";", "end", "eof"):
                at += 1
            if self.kinds[at] == "then":
                self.i = at + 1
            return a.Null(pos)

    def _wrong_end(self, end: int, word: str, pos: int, hint: str = "") -> NoReturn:
        line = self.diagnostics.sources.place(pos).line
        found = f"'end {self.texts[self.i]}'"
        self.misfit(end, f"'end {word};' expected for the '{word}' of line {line}, found {found}{hint}", "end-missing")
        raise Recover

    def _case(self, label: str) -> a.Stmt:
        pos = self.expect("case")
        matching = self._question()
        subject = self.expression()
        self.expect("is", "after the expression of the case")
        arms: list[tuple[list[a.Expr], list[a.Stmt], int]] = []
        while self.kind == "when":
            at = self.pos
            self.i += 1
            if self.kind == "id" and self.ahead() == ":" and self.ahead(2) != "=" and self._arrow_comes():
                self.i += 2
            chosen = self.choices()
            if self.kind == ":":
                self.complain(self.pos, "'=>' expected after the choices, found ':'", "syntax", self._instead_of_colon())
                self.i += 1
            else:
                self.expect("=>", "after the choices")
            arms.append((chosen, self.statements(("when", "end")), at))
        end = self.close("end", "of the 'case'")
        if self.kind != "case":
            self._wrong_end(end, "case", pos)
        self.i += 1
        self._question()
        self.closing_name(label, "statement")
        self.close(";")
        return a.Case(pos, self.end, label, subject, matching, arms)

    def _arrow_comes(self) -> bool:
        """Whether the alternative that begins here has an arrow behind its choices."""
        at = self.i
        while self.kinds[at] not in ("=>", ";", "when", "end", "eof"):
            at += 1
        return self.kinds[at] == "=>"

    def _instead_of_colon(self) -> Mend:
        return replacement(self.diagnostics.sources, self.pos, ":", "=>", "Write =>")

    def _loop(self, label: str) -> a.Stmt:
        pos = self.pos
        cond: a.Expr | None = None
        low = text = ""
        bounds: a.Expr | None = None
        try:
            if self.accept("for"):
                low, text, _ = self.identifier("the name of the loop variable")
                self.expect("in", f"after '{text}'")
                bounds = self.discrete_range()
            elif self.accept("while"):
                cond = self.expression()
        except Recover:
            while self.kind not in ("loop", ";", "end", "eof"):
                self.i += 1
        if not self.accept("loop"):
            self.misfit(self.pos, f"'loop' expected behind the head of the loop, found {self.describe()}")
            while self.kind not in ("eof", "end") and not self.accept(";"):
                self.i += 1
        body = self.statements(("end",))
        end = self.close("end", "of the loop")
        if self.kind != "loop":
            self._wrong_end(end, "loop", pos)
        self.i += 1
        self.closing_name(label, "loop")
        self.close(";")
        return a.Loop(pos, self.end, label, cond, low, text, bounds, body)

    def _leave(self, label: str) -> a.Stmt:
        pos, kind = self.pos, self.kind
        self.i += 1
        loop = ""
        if self.kind == "id":
            loop = self.identifier()[0]
        cond = self.expression() if self.accept("when") else None
        self.expect(";")
        return a.Leave(pos, self.end, label, kind, loop, cond)

    def _wait(self, label: str) -> a.Stmt:
        pos = self.expect("wait")
        on: list[a.Expr] = []
        until: a.Expr | None = None
        time: a.Expr | None = None
        if self.accept("on"):
            on.append(self.name())
            while self.accept(","):
                on.append(self.name())
        if self.accept("until"):
            until = self.expression()
        if self.accept("for"):
            time = self.expression()
        self.expect(";", "after the wait")
        return a.Wait(pos, self.end, label, on, until, time)

    def assertion(self, label: str) -> a.Assert:
        pos = self.pos
        cond: a.Expr | None = None
        report: a.Expr | None = None
        severity: a.Expr | None = None
        if self.accept("assert"):
            cond = self.expression()
        if self.accept("report"):
            report = self.expression()
        if self.accept("severity"):
            severity = self.expression()
        self.expect(";")
        return a.Assert(pos, self.end, label, cond, report, severity)
