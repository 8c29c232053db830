"""Findings that predict a difference between simulation and hardware, and the designs that must have none."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from mevrik.lang.analysis import analyse
from mevrik.project.load import load_project
from tests.conftest import DEMO, mevrik

CASES = [
    ("always @(a) y = a & b;", "sensitivity", "'b' is read"),
    ("always @(a or b) if (a) y = b;", "latch", "'y' keeps its value"),
    ("always @* case ({a, b}) 2'b00: y = 0; 2'b01: y = 1; 2'b10: y = 1; endcase", "latch", "'y' keeps"),
    ("always @(posedge a) begin y = b; end always @(posedge b) y <= a;", "mixed-assignment", "depend on the order"),
    ("always @(posedge a or b) if (b) y <= 0; else y <= ~y;", "edge-and-level", "each change of 'b'"),
    (
        "always @(posedge a or negedge b) if (b) y <= 0; else y <= ~y;",
        "reset-edge",
        "the negedge of 'b', but its first branch is for 'b' being 1",
    ),
    (
        "always @(posedge a or posedge b) begin if (!b) y <= 0; else y <= ~y; end",
        "reset-edge",
        "test for 1, or wait for the negedge",
    ),
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
    """All but the two modules that were flawed so that something is said before a run."""
    for subject in load_project(DEMO).subjects:
        if subject.name not in ("gate_position_copied", "gate_position_unreset"):
            analysis = analyse(subject.sources)
            assert analysis.elaborate(subject.module) is not None
            assert analysis.diagnostics.items == []


# (code, a design that has the flaw, the line that is told, the same design without it)
FLAWS = [
    (
        "race",
        "module m(input c, input d, output reg q);\nreg a;\nalways @(posedge c)\n  a = d;\nalways @(posedge c) q <= a;\nendmodule",
        4,
        "module m(input c, input d, output reg q);\nreg a;\nalways @(posedge c)\n  a <= d;\nalways @(posedge c) q <= a;\nendmodule",
    ),
    (
        "clock-assignment",
        "module m(input c, d, output reg q);\nreg h = 0, r;\nalways @(posedge c) begin\n h <= ~h; r <= d; end\nalways @(posedge h) q <= r;\nendmodule",
        4,
        "module m(input c, d, output reg q);\nreg h = 0, r;\nalways @(posedge c) begin\n h <= ~h; r <= d; end\nalways @(posedge c) if (h) q <= r;\nendmodule",
    ),
    (
        "never-true",
        "module m(input [3:0] a, output reg y);\nalways @*\n  y = a == 4'bx;\nendmodule",
        3,
        "module m(input [3:0] a, output reg y);\nalways @*\n  y = a === 4'bx;\nendmodule",
    ),
    (
        "never-true",
        "module m(input [3:0] a, output y);\nassign y = a < 0;\nendmodule",
        2,
        "module m(input signed [3:0] a, output y);\nassign y = a < 0;\nendmodule",
    ),
    (
        "truncated",
        "module m(input [11:0] a, output [7:0] y);\nassign y = a;\nendmodule",
        2,
        "module m(input [11:0] a, output [7:0] y);\nassign y = a[7:0] + 1;\nendmodule",
    ),
    (
        "truncated",
        "module m #(parameter STEP = -40) (input [3:0] q, output [3:0] y);\nassign y = q + STEP;\nendmodule",
        2,
        "module m #(parameter STEP = -1) (input [3:0] q, output [3:0] y);\nassign y = q + STEP;\nendmodule",
    ),
    (
        "case-overlap",
        "module m(input [1:0] a, output reg y);\nalways @* casez (a)\n2'b1?: y = 1;\n2'b10: y = 0;\ndefault: y = 0; endcase\nendmodule",
        4,
        "module m(input [1:0] a, output reg y);\nalways @* casez (a)\n2'b10: y = 0;\n2'b1?: y = 1;\ndefault: y = 0; endcase\nendmodule",
    ),
    (
        "undriven",
        "module m(input a, output y);\nwire w;\nassign y = a & w;\nendmodule",
        2,
        "module m(input a, output y);\nwire w = ~a;\nassign y = a & w;\nendmodule",
    ),
    (
        "several-drivers",
        "module m(input a, b, output y);\nassign y = a & b;\nassign y = a | b;\nendmodule",
        3,
        "module m(input a, b, output y);\nassign y = a ? b : 1'bz;\nassign y = a ? 1'bz : ~b;\nendmodule",
    ),
    (
        "never-known",
        "module m(input c, output reg [3:0] q);\nalways @(posedge c)\n  q <= q + 1;\nendmodule",
        3,
        "module m(input c, r, output reg [3:0] q);\nalways @(posedge c)\n  if (r) q <= 0; else q <= q + 1;\nendmodule",
    ),
    (
        "edge-missing",
        "module m(input c, r, d, output reg [3:0] q);\nalways @(c)\n  if (r) q <= 0; else q <= q + d;\nendmodule",
        2,
        "module m(input c, r, d, output reg [3:0] q);\nalways @(negedge c)\n  if (r) q <= 0; else q <= q + d;\nendmodule",
    ),
    (
        "reset-edge",
        "module m(input c, r, d, output reg q);\nalways @(posedge c or negedge r)\n  if (r) q <= 0; else q <= d;\nendmodule",
        3,
        "module m(input c, d, output reg q);\nalways @(posedge c or negedge c)\n  if (c) q <= 0; else q <= d;\nendmodule",
    ),
    (
        "never-starts",
        "module m(output q);\nreg c;\nalways #5 c = ~c;\nassign q = c;\nendmodule",
        2,
        "module m(output q);\nreg c;\ninitial c = 0;\nalways #5 c = ~c;\nassign q = c;\nendmodule",
    ),
    (
        "comb-loop",
        "module m(input a, output y);\nwire u;\nassign u = a ^ y;\nassign y = ~u;\nendmodule",
        3,
        "module m(input a, c, output reg y);\nwire u;\nassign u = a ^ y;\nalways @(posedge c) y <= ~u;\nendmodule",
    ),
]


@pytest.mark.parametrize(("code", "flawed", "line", "clean"), FLAWS, ids=[f"{f[0]}-{k}" for k, f in enumerate(FLAWS)])
def test_a_flaw_is_found_and_its_mend_is_quiet(tmp_path: Path, code: str, flawed: str, line: int, clean: str) -> None:
    """Each finding names its line once; the mended design has none; a comment on the line silences it."""
    path = tmp_path / "m.v"
    path.write_text(flawed)
    told = [d for d in json.loads(mevrik("lint", path, "--json").out) if d["code"] == code]
    assert [d["line"] for d in told] in ([line], [line + 1]), told
    at = told[0]["line"]
    path.write_text(clean)
    assert json.loads(mevrik("lint", path, "--json").out) == []
    rows = flawed.split("\n")
    rows[at - 1] += f" // mevrik: allow {code}"
    path.write_text("\n".join(rows))
    assert not [d for d in json.loads(mevrik("lint", path, "--json").out) if d["code"] == code]


def test_a_cast_says_that_bits_are_meant_to_go(tmp_path: Path) -> None:
    path = tmp_path / "m.sv"
    head = "module m #(W = 8) (input [11:0] a, output logic [7:0] x, y, z);\n"
    path.write_text(head + "assign x = 8'(a >> 1);\nassign y = W'(a);\nassign z = byte'(a + 1);\nendmodule")
    assert json.loads(mevrik("lint", path, "--json").out) == []
    path.write_text(head + "assign x = a >> 1;\nassign y = a;\nassign z = 9'(a);\nendmodule")
    assert [d["line"] for d in json.loads(mevrik("lint", path, "--json").out)] == [2, 3, 4]


def test_a_loop_is_one_of_values_not_of_processes(tmp_path: Path) -> None:
    """One process may give what another one needs and take what that gives back, if no value goes round; own variables and arrays count
    with what they are made of."""
    path = tmp_path / "m.sv"
    head = "module m(input logic [1:0] r, input logic [7:0] a, b, output logic e, f, output logic [7:0] y);\n"
    clean = """  logic g, k, n; logic [1:0] t; logic [15:0] p [2]; logic [8:0] s;
  always_comb begin g = |r; n = g; if (r[0]) n = 0; e = k; t = {n, k}; f = t[0]; end
  assign k = g;
  always_comb begin p = '{a * b, b}; s = 9'(p[0] - p[1]); for (int i = 0; i < 2; i++) s += p[i][0]; y = s[7:0]; end
endmodule"""
    path.write_text(head + clean)
    assert json.loads(mevrik("lint", path, "--json").out) == []
    for wrong in ("assign k = g & f;", "assign k = t[1];"):
        path.write_text(head + clean.replace("assign k = g;", wrong).replace("e = k;", "e = k; if (k) g = 0;"))
        assert "comb-loop" in {d["code"] for d in json.loads(mevrik("lint", path, "--json").out)}
