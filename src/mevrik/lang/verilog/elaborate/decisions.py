"""Conditional statements and immediate assertions (IEEE 1364-2005 9.4, 9.5; IEEE 1800-2017 12.4, 12.5, 16.3, 16.4)."""

from __future__ import annotations

from typing import TypeVar

from mevrik.design import nodes as n
from mevrik.design import walk
from mevrik.design.record import Value, field
from mevrik.design.types import BIT, TEXT, Real, Text, Type, Vec
from mevrik.design.unit import Process, Signal, Subprogram, Unit
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.base import whole
from mevrik.lang.verilog.elaborate.expressions import ExpressionElaborator
from mevrik.lang.verilog.elaborate.scope import matching

_FLAG = Vec(1, False, False)
_COUNT = Vec(32, False, False)
T = TypeVar("T")


class Breaks(Value):
    """The blocks that break, continue and return leave."""

    loop: n.Block | None = None
    step: n.Block | None = None
    body: n.Block | None = None
    sub: Subprogram | None = None
    open: list[n.Block] = field(default_factory=list)
    reports: list[Signal] = field(default_factory=list)  # flags of reports that wait until all has settled


class DecisionElaborator(ExpressionElaborator):
    unit: Unit
    breaks: Breaks
    process_name: str

    def body(self, s: ast.Stmt | None) -> list[n.Stmt]:
        raise NotImplementedError

    def site(self, s: ast.Node, end: int = 0) -> int:
        return self.context.site(s.pos, getattr(s, "end", 0) or end or s.pos, self.process_name)

    # ---- if ----

    def if_statement(self, s: ast.If) -> list[n.Stmt]:
        if s.check:
            return self._checked_if(s)
        return [n.If(self.site(s.cond), self.truth(s.cond), self.body(s.then), self.body(s.other))]

    def _checked_if(self, s: ast.If) -> list[n.Stmt]:
        """unique, unique0 and priority: all conditions are evaluated, and what they promise is checked (12.4.2)."""
        chain: list[ast.If] = []
        last: ast.Stmt | None = s
        while isinstance(last, ast.If) and (not last.check or last is s):
            chain.append(last)
            last = last.other
        made: list[n.Stmt] = []
        holds: list[n.Expr] = []
        for part in chain:
            kept = self.local(BIT, part.pos)
            made.append(n.Assign(self.site(part.cond), (whole(kept),), n.Unary(BIT, "!", n.Unary(BIT, "!", self.truth(part.cond)))))
            holds.append(n.Ref(BIT, kept))
        site = self.site(s.cond)
        missing = last is None and s.check != "unique0"
        tail = self._missed(s, "if", "no condition of it holds") if missing else self.body(last)
        for part, cond in zip(reversed(chain), reversed(holds)):
            tail = [n.If(self.site(part.cond), cond, self.body(part.then), tail)]
        if s.check != "priority" and len(chain) > 1:
            made += self._at_most_one(s, site, [[n.If(site, cond, step, [])] for cond, step in self._counting(site, holds)], "if")
        return made + tail

    def _counting(self, site: int, conditions: list[n.Expr]) -> list[tuple[n.Expr, list[n.Stmt]]]:
        self._counter = self.local(_COUNT, 0)
        return [(c, self._count_one(site)) for c in conditions]

    _counter: Signal

    def _count_one(self, site: int) -> list[n.Stmt]:
        one_more = n.Binary(_COUNT, "+", n.Ref(_COUNT, self._counter), n.Const(_COUNT, 1))
        return [n.Assign(site, (whole(self._counter),), one_more)]

    def _at_most_one(self, s: ast.If | ast.Case, site: int, steps: list[list[n.Stmt]], word: str) -> list[n.Stmt]:
        """The steps count what holds; more than one is a violation."""
        what = "more than one condition of it holds" if word == "if" else "the expression matches more than one of its items"
        several = n.Binary(BIT, ">", n.Ref(_COUNT, self._counter), n.Const(_COUNT, 1))
        start = n.Assign(site, (whole(self._counter),), n.Const(_COUNT, 0))
        found = n.If(site, several, self.report(s, self._violation(s, word, what)), [])
        return [start, *(x for step in steps for x in step), found]

    def _violation(self, s: ast.If | ast.Case, word: str, what: str) -> list[n.Stmt]:
        text = f"{s.check} {word}: {what}".encode()
        message = n.Const(Vec(8 * len(text)), int.from_bytes(text, "big"), 0, True)
        return [n.SysTask(self.site(s), "$warning", (message,), self.scope.prefix)]

    def _missed(self, s: ast.If | ast.Case, word: str, what: str) -> list[n.Stmt]:
        return [n.Block(self.site(s), self.report(s, self._violation(s, word, what)), never=True)]

    # ---- case ----

    def _case_as_ifs(self, s: ast.Case) -> list[n.Stmt]:
        """A case over strings, reals or with ranges as a chain of conditions, tried in their order (12.5.4)."""
        chosen: ast.Stmt | None = next((body for labels, body in s.arms if not labels), None)
        arms = [(labels, body) for labels, body in s.arms if labels]
        for index, (labels, body) in reversed(list(enumerate(arms))):
            if s.kind == "inside":
                test: ast.Expr = ast.Binary(s.pos, "inside", s.subject, ast.Concat(s.pos, labels))
            else:
                test = ast.Binary(s.pos, "==", s.subject, labels[0])
                for label in labels[1:]:
                    test = ast.Binary(s.pos, "||", test, ast.Binary(s.pos, "==", s.subject, label))
            chosen = ast.If(s.pos, test, body, chosen, "" if index else s.check)
        return self.body(chosen)

    def arm_of_type(self, subject: ast.TypeExpr, arms: list[tuple[list[ast.Expr], T]]) -> T | None:
        """The arm of a case over a type: the first with a label of that type, else the default (6.23)."""
        meant = self.resolve_type(subject.type)
        other: T | None = None
        for labels, body in arms:
            for label in labels:
                if not isinstance(label, ast.TypeExpr):
                    raise self.error(label.pos, "a case over a type has types as its labels (6.23)", "operand-type")
                if matching(meant, self.resolve_type(label.type)):
                    return body
            other = other if labels else body
        return other

    def case_statement(self, s: ast.Case) -> list[n.Stmt]:
        """All labels and the subject take the width of the widest of them (9.5)."""
        if isinstance(s.subject, ast.TypeExpr):
            return self.body(self.arm_of_type(s.subject, s.arms))
        trees = [s.subject]
        for labels, _ in s.arms:
            for label in labels:
                trees.extend([label.low, label.high] if isinstance(label, ast.MinTypMax) else [label])
        types = [self.shape(t) for t in trees]
        if any(isinstance(t, (Text, Real)) for t in types) or any(isinstance(x, ast.MinTypMax) for ls, _ in s.arms for x in ls):
            return self._case_as_ifs(s)
        site = self.site(s.subject)
        vectors = [t for t in types if isinstance(t, Vec)]
        common: Type = Vec(max(t.width for t in vectors), all(t.signed for t in vectors))
        subject = self.build(s.subject, common)
        arms: list[tuple[list[n.Expr], list[n.Stmt]]] = []
        for labels, body in s.arms:
            arms.append(([self.build(label, common) for label in labels], self.body(body)))
        made: list[n.Stmt] = []
        if s.check in ("unique", "unique0") and not _apart(s.kind, [labels for labels, _ in arms]):
            kept = self.local(common, s.pos)
            made.append(n.Assign(site, (whole(kept),), subject))
            subject = n.Ref(common, kept)
            self._counter = self.local(_COUNT, 0)
            steps: list[list[n.Stmt]] = [
                [n.Case(site, s.kind, subject, [(labels, self._count_one(site))])] for labels, _ in arms if labels
            ]
            made += self._at_most_one(s, site, steps, "case")
        if s.check in ("unique", "priority") and all(labels for labels, _ in arms):
            arms.append(([], self._missed(s, "case", "the expression matches none of its items")))
        return [*made, n.Case(site, s.kind, subject, arms)]

    # ---- immediate assertions, and reports that wait ----

    def assert_statement(self, s: ast.Assert) -> list[n.Stmt]:
        """A deferred one (`#0` or `final`) reports when all has settled, and only what its last evaluation found (16.4)."""
        site = self.site(s)
        passed, failed = self.body(s.then), self.body(s.other)
        if s.other is None and s.kind != "cover":
            text = n.Const(Vec(8 * 16), int.from_bytes(b"assertion failed", "big"), 0, True)
            failed = [n.SysTask(site, "$error", (text,), self.scope.prefix)]
        if not s.deferred:
            return self.if_switched_on(s, [n.If(site, self.truth(s.cond), passed, failed)])
        first = len(self.breaks.reports)
        good, bad = self.report(s, passed), self.report(s, failed)
        withdraw = [withdrawn(flag, site) for flag in self.breaks.reports[first:]]
        return self.if_switched_on(s, [*withdraw, n.If(site, self.truth(s.cond), good, bad)])

    def if_switched_on(self, tree: ast.Assert, body: list[n.Stmt]) -> list[n.Stmt]:
        """What $assertoff keeps from being done, if there is one."""
        if not self.context.assertions_switched:
            return body
        return [n.If(self.site(tree), n.SysCall(BIT, "$asserts_on", (self.assertion_name(tree),)), body, [])]

    def assertion_name(self, tree: ast.Assert) -> n.TextConst:
        """By what $assertoff knows an assertion inside of its instance."""
        return n.TextConst(TEXT, f"{self.scope.prefix}{tree.label}".encode())

    def report(self, s: ast.Node, actions: list[n.Stmt]) -> list[n.Stmt]:
        """Statements that make a hidden process run `actions` when all has settled, unless the flag is taken back before (12.4.2.1,
        16.4.2). Inside subprograms, or when the actions need variables of the procedure, they run at once."""
        own = any(r.signal.kind == "local" for r in walk.reads(actions))
        if not actions or self.breaks.sub is not None or own or walk.suspends(actions):
            return actions
        name = f"{self.scope.prefix}report.{len(self.unit.signals)}"
        flag = Signal(name, _FLAG, "var", s.pos, implicit=True)
        times = Signal(name + ".times", _COUNT, "var", s.pos, implicit=True, left=31)
        self.unit.signals += [flag, times]
        self.breaks.reports.append(flag)
        site = self.site(s)
        # it looks once by itself: what is reported at time 0 may come before it waits
        late: list[n.Stmt] = [n.If(site, n.Ref(_FLAG, flag), [withdrawn(flag, site), *actions], [])]
        sense = (n.Sense("any", n.Ref(_COUNT, times)),)
        self.unit.processes.append(Process("always_comb", late, s.pos, self.scope.prefix, sense, hidden=True, region="reactive"))
        one_more = n.Binary(_COUNT, "+", n.Ref(_COUNT, times), n.Const(_COUNT, 1))
        return [n.Assign(site, (whole(flag),), n.Const(_FLAG, 1)), n.Assign(site, (whole(times),), one_more)]


def withdrawn(flag: Signal, site: int) -> n.Stmt:
    return n.Assign(site, (whole(flag),), n.Const(_FLAG, 0))


def _apart(kind: str, arms: list[list[n.Expr]]) -> bool:
    """Whether the labels of a plain case are constants that all differ."""
    if kind != "case":
        return False
    seen: set[tuple[int, int]] = set()
    for labels in arms:
        own: set[tuple[int, int]] = set()
        for label in labels:
            if not isinstance(label, n.Const):
                return False
            own.add((label.val, label.unk))
        if own & seen:
            return False
        seen |= own
    return True


__all__ = ["Breaks", "DecisionElaborator", "withdrawn"]
