"""The system tasks that model programmable logic arrays, as ordinary statements (IEEE 1364-2005 17.5)."""

from __future__ import annotations

from itertools import product

from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.calls import number

_GATES = {"and": ("&", False), "nand": ("&", True), "or": ("|", False), "nor": ("|", True)}
LOGIC_ARRAYS = {"$" + "$".join(parts): parts for parts in product(("async", "sync"), _GATES, ("array", "plane"))}


def logic_array(
    call: ast.Call, name: str, memory: ast.Expr, rows: range, columns: range, inputs: ast.Expr, outputs: ast.Expr
) -> ast.Stmt:
    """What `$async$and$array(memory, inputs, outputs)` and its like do: the leftmost output is a gate over the inputs that the
    first word of the memory takes. The asynchronous ones go on doing so whenever an input or a word changes."""
    pos = call.pos
    kind, gate, form = LOGIC_ARRAYS[name]
    symbol, inverted = _GATES[gate]
    words: list[ast.Expr] = [ast.Index(pos, memory, number(pos, row)) for row in rows]
    terms: list[ast.Expr] = []
    for word in words:
        bits = [
            _taken(word, column, ast.Index(pos, ast.Concat(pos, [inputs]), number(pos, len(columns) - 1 - k)), symbol, form)
            for k, column in enumerate(columns)
        ]
        term: ast.Expr = ast.Unary(pos, symbol, ast.Concat(pos, bits))
        terms.append(ast.Unary(pos, "~", term) if inverted else term)
    assign = ast.Assign(pos, outputs, ast.Concat(pos, terms), False)
    if kind == "sync":
        return assign
    changes = [ast.EventExpr(pos, "", e) for e in (inputs, *words)]
    waiting = ast.Timed(pos, ast.TimingControl(pos, "event", events=changes), ast.Null(pos))
    again = ast.Forever(pos, ast.Block(pos, "", [], [assign, waiting]))
    return ast.Block(pos, "", [], [again], "join_none")


def _taken(word: ast.Expr, column: int, bit: ast.Expr, symbol: str, form: str) -> ast.Expr:
    """One input of a gate. Array: a 1 in the memory takes it, a 0 does not. Plane (17.5.4): 1 takes it, 0 its complement, x the
    worst case, z nothing."""
    pos = word.pos
    here = ast.Index(pos, word, number(pos, column))
    nothing = ast.Number(pos, 1, False, int(symbol == "&"), 0)
    if form == "array":
        return ast.Ternary(pos, here, bit, nothing)
    z = ast.Number(pos, 1, False, 0, 1)
    return ast.Ternary(pos, ast.Binary(pos, "===", here, z), nothing, ast.Binary(pos, "~^", here, bit))
