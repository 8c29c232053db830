"""Delay and event controls (IEEE 1364-2005 9.7, IEEE 1800-2017 9.4)."""

from __future__ import annotations

from mevrik.lang.verilog import ast
from mevrik.lang.verilog.parser.declarations import DeclarationParser

CONTROLS = {"#", "@", "##", "repeat"}


class TimingParser(DeclarationParser):
    def intra_control(self) -> ast.TimingControl | None:
        pos = self.pos
        if self.kind == "#":
            return self.delay_control()
        if self.kind == "@":
            return self.event_control()
        if self.kind == "##":
            self.i += 1
            return ast.TimingControl(pos, "cycles", self.cycle_count())
        if self.kind == "repeat":
            self.i += 1
            self.expect("(")
            count = self.expression()
            self.expect(")")
            control = self.event_control()
            control.repeat = count
            control.pos = pos
            return control
        return None

    def delay_control(self) -> ast.TimingControl:
        pos = self.expect("#")
        if self.accept("("):
            value = self.min_typ_max()
            self.expect(")", "after the delay")
        else:
            value = self.delay_value()
        return ast.TimingControl(pos, "delay", value)

    def event_control(self) -> ast.TimingControl:
        pos = self.expect("@")
        if self.accept("*"):
            return ast.TimingControl(pos, "star")
        if self.kind == "(*" and self.ahead() == ")":
            self.i += 2
            return ast.TimingControl(pos, "star")
        if self.kind == "(" and self.ahead() in ("*", "*)"):
            star = self.ahead()
            self.i += 2
            if star == "*":
                self.expect(")")
            return ast.TimingControl(pos, "star")
        if self.kind == "id":
            base: ast.Expr = ast.Name(self.pos, self.identifier())
            while self.kind == "." or (self.kind == "[" and self.sv):
                if self.kind == "[":
                    base = self.selection(base)
                    continue
                self.i += 1
                base = ast.Member(self.pos, base, self.identifier())
            return ast.TimingControl(pos, "event", events=[ast.EventExpr(base.pos, "", base)])
        self.expect("(", "after '@'")
        events = [self.event_expression()]
        while self.kind in ("or", ","):
            self.i += 1
            events.append(self.event_expression())
        self.expect(")", "after the events")
        return ast.TimingControl(pos, "event", events=events)

    def event_expression(self) -> ast.EventExpr:
        pos = self.pos
        edge = ""
        if self.kind in ("posedge", "negedge", "edge"):
            edge = self.kind
            self.i += 1
        made = ast.EventExpr(pos, edge, self.expression())
        if self.sv and self.accept("iff"):
            made.guard = self.expression()
        return made

    def cycle_count(self) -> ast.Expr:
        """What may follow `##`: a number, a name or an expression in parentheses."""
        if self.accept("("):
            value = self.expression()
            self.expect(")")
            return value
        return self.delay_value()
