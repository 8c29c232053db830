"""Statements of SystemVerilog that stand for others."""

from __future__ import annotations

from mevrik.lang.verilog import ast

Arm = tuple[list[ast.Expr], ast.Stmt]


def _number(pos: int, value: int) -> ast.Number:
    return ast.Number(pos, None, True, value, 0)


def _variable(pos: int, name: str, init: ast.Expr) -> ast.VarDecl:
    """Its name has a space in it, so no other can be the same."""
    return ast.VarDecl(pos, ast.DataType(pos, "int", signed=False), [ast.Declarator(pos, name, [], init)], "automatic")


def one_by_weight(pos: int, arms: list[Arm]) -> ast.Stmt:
    """randcase (18.16): a number below the sum of the weights lies in the share of one statement. No weight: none of them."""
    decls: list[ast.Item] = []
    total: ast.Expr = _number(pos, 0)
    for k, (weights, _) in enumerate(arms):
        total = ast.Binary(pos, "+", total, weights[0]) if k else weights[0]
        decls.append(_variable(weights[0].pos, f"weight {k}", total))
        total = ast.Name(pos, f"weight {k}")
    pick = ast.Call(pos, ast.Name(pos, "$urandom_range"), [ast.Binary(pos, "-", total, _number(pos, 1))])
    decls.append(_variable(pos, "weight picked", ast.Ternary(pos, total, pick, _number(pos, 0))))
    chain: ast.Stmt | None = None
    for k, (weights, body) in reversed(list(enumerate(arms))):
        cond = ast.Binary(weights[0].pos, "<", ast.Name(pos, "weight picked"), ast.Name(pos, f"weight {k}"))
        chain = ast.If(weights[0].pos, cond, body, chain)
    return ast.Block(pos, "", decls, [chain] if chain is not None else [])


def in_order(pos: int, events: list[ast.Expr], then: ast.Stmt | None, other: ast.Stmt | None) -> ast.Stmt:
    """wait_order (15.5.4): at each point only the next event may come, not one behind it; those before it may come again."""
    ok = ast.Name(pos, "in order")
    steps: list[ast.Stmt] = [ast.Assign(pos, ok, _number(pos, 1), False)]
    for k in reversed(range(len(events))):
        await_one = ast.TimingControl(pos, "event", None, [ast.EventExpr(e.pos, "", e) for e in events[k:]])
        came = ast.Member(events[k].pos, events[k], "triggered")
        steps = [ast.Timed(pos, await_one, ast.Null(pos)), ast.If(pos, came, ast.Block(pos, "", [], steps), None)]
    result = ast.If(pos, ok, then or ast.Null(pos), other)
    return ast.Block(pos, "", [_variable(pos, "in order", _number(pos, 0))], [*steps, result])
