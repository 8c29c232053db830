"""Findings that predict a difference between simulation and hardware, and the designs that must have none."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse
from tests.conftest import DEMO

CASES = [
    ("always @(a) y = a & b;", "sensitivity", "'b' is read"),
    ("always @(a or b) if (a) y = b;", "latch", "'y' keeps its value"),
    ("always @* case ({a, b}) 2'b00: y = 0; 2'b01: y = 1; 2'b10: y = 1; endcase", "latch", "'y' keeps"),
    ("always @(posedge a) begin y = b; end always @(posedge b) y <= a;", "mixed-assignment", "depend on the order"),
    ("always @(posedge a) y <= b; always @(negedge a) y <= ~b;", "two-writers", "also written"),
    ("reg [2:0] n; always @* begin y = n == 4'd9; n = {a, b, a}; end", "never-true", "does not fit into 3 bits"),
]


def codes(text: str, folder: Path) -> list[tuple[str, int, str]]:
    path = folder / "m.v"
    path.write_text(text)
    analysis = analyse([path])
    assert analysis.elaborate("m") is not None, [d.headline() for d in analysis.diagnostics.items]
    return [(d.code, d.place.line, d.message) for d in analysis.diagnostics.sorted()]


@pytest.mark.parametrize("body, code, words", CASES, ids=[c[0] for c in CASES])
def test_finding(tmp_path: Path, body: str, code: str, words: str) -> None:
    found = codes(f"module m(input a, b, output reg y);\n{body}\nendmodule\n", tmp_path)
    assert [(c, line) for c, line, _ in found if c == code] == [(code, 2)]
    assert any(words in message for c, _, message in found if c == code)


@pytest.mark.parametrize(
    "body",
    [
        "always @* if (a) y = b; else y = 0;",
        "always @* begin y = 0; if (a) y = b; end",
        "always @* case ({a, b}) 2'b00: y = 0; 2'b01, 2'b10: y = 1; 2'b11: y = 0; endcase",
        "always @* casez ({a, b}) 2'b1?: y = 0; 2'b0?: y = 1; endcase",
        "always @(a or b) y = a ^ b;",
        "reg t; always @* begin t = a & b; y = ~t; end",
        "always @(posedge a or negedge b) if (!b) y <= 0; else y <= ~y;",
        "initial y = 0; always @(posedge a) y <= b;",
        "integer i; reg [3:0] v; always @* begin y = 0; for (i = 0; i < 4; i = i + 1) begin v[i] = a; y = y ^ v[i]; end end",
        "always @(posedge a) begin : p reg t; t = b; y <= t; end",
    ],
)
def test_clean_designs_have_none(tmp_path: Path, body: str) -> None:
    assert codes(f"module m(input a, b, output reg y);\n{body}\nendmodule\n", tmp_path) == []


def test_silenced_at_its_place(tmp_path: Path) -> None:
    text = "module m(input a, b, output reg y);\nalways @(a) y = a & b; // mevrik: allow sensitivity\nendmodule\n"
    assert codes(text, tmp_path) == []


def test_the_demo_is_clean() -> None:
    for path in DEMO.glob("*.v"):
        if path.stem != "paddle_pwm_tb":
            analysis = analyse([path])
            assert analysis.elaborate(path.stem) is not None
            assert analysis.diagnostics.items == []
