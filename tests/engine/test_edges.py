"""The functions that do all that an edge of a clock wakes do exactly what the scheduler does: the same changes at the same times, in the
same deltas, by the same statements, and the same output (IEEE 1364-2005 clause 11)."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from tests.engine.both_ways import runs

CLOCK = "reg clk = 0; always #5 clk = ~clk; "
DESIGNS = {
    "counters": CLOCK
    + """reg rst = 1; reg [23:0] fast = 0, slow = 0; wire carry = fast[2:0] == 7; initial #12 rst = 0;
      always @(posedge clk) if (rst) fast <= 0; else fast <= fast + 1'b1;
      always @(posedge clk) if (rst) slow <= 0; else if (carry) slow <= slow + 1'b1;""",
    "both edges, a chain behind": CLOCK
    + """reg [7:0] a = 0, b = 0; wire [7:0] s = a + b, t = s ^ 8'h55; reg [7:0] u; always @* u = t + a;
      always @(posedge clk) a <= a + 3; always @(negedge clk) b <= u;""",
    "unknown at first": CLOCK + "reg [3:0] a; reg r; initial begin #33 r = 1; #20 r = 0; end always @(posedge clk) a <= r ? 4'd1 : a + 1;",
    "assigned twice in one run": CLOCK
    + """reg q = 0; integer edges = 0; always @(posedge q) edges = edges + 1;
      always @(posedge clk) begin q <= 0; q <= 1; end always @(negedge clk) q <= 0;""",
    "an asynchronous reset": CLOCK
    + """reg rst_n = 1; reg [3:0] c = 0; initial begin #22 rst_n = 0; #20 rst_n = 1; end
      always @(posedge clk or negedge rst_n) if (!rst_n) c <= 0; else c <= c + 1;""",
    "a memory and parts": CLOCK
    + """reg [7:0] m[0:3]; reg [15:0] w = 0; reg [1:0] at = 0; wire [7:0] out = m[at]; integer i;
      always @(posedge clk) begin at <= at + 1; m[at] <= {w[3:0], 4'h5}; w[at * 4 +: 4] <= w[3:0] + 1; w[15] <= ~w[15]; end""",
    "a loop of assignments": CLOCK
    + """reg [7:0] m[0:3]; reg rst = 1; reg [7:0] n = 0, k = 0; integer i; initial #17 rst = 0; wire [7:0] sum = m[0] + m[1] + k;
      always @(posedge clk) begin n <= n + 1; if (rst) for (i = 0; i < 4; i = i + 1) m[i] <= i; else m[n[1:0]] <= m[n[1:0]] + 1; k <= n; end""",
    "blocking assignments too": CLOCK
    + """reg [7:0] t = 0, a = 0, b = 0; wire [7:0] seen = t + 1;
      always @(posedge clk) begin t = a + 2; a <= t; t = t + 1; b <= t ^ seen; end""",
    "what one writes at once another reads": CLOCK + "reg [3:0] x = 0, y = 0; always @(posedge clk) x = x + 1; always @(posedge clk) y = x;",
    "a derived clock": CLOCK
    + """reg en = 1; wire gated = clk & en; reg [3:0] n = 0, m = 0; always @(posedge gated) n <= n + 1;
      always @(posedge clk) begin m <= n; en <= ~n[1]; end""",
    "a divided clock": CLOCK + "reg half = 0; reg [3:0] n = 0; always @(posedge clk) half <= ~half; always @(posedge half) n <= n + 1;",
    "wide registers": CLOCK + "reg [99:0] w = 1; reg [64:0] v = 0; wire [99:0] x = ~w; always @(posedge clk) begin w <= {w[98:0], w[99]}; v <= v + 1; end",
    "prints and functions": CLOCK
    + """reg [7:0] a = 1; function [7:0] twist(input [7:0] x); reg [7:0] y; begin y = x << 1; twist = y ^ {8{x[7]}} & 8'h1d; end endfunction
      always @(posedge clk) begin a <= twist(a); $display("%0t %h", $time, a); end""",
    "a process that waits beside it": CLOCK
    + """reg [3:0] n = 0; reg go = 0; always @(posedge clk) if (go) n <= n + 1;
      initial begin repeat (3) @(posedge clk); go = 1; @(negedge clk) go <= 0; wait (n == 1) go = 1; end""",
    "delayed assignments": CLOCK + "reg a = 0, b = 0; always @(posedge clk) begin a <= #2 ~a; b <= a; end",
    "two clocks": CLOCK
    + """reg c2 = 0; always #7 c2 = ~c2; reg [3:0] a = 0, b = 0, s1 = 0, s2 = 0; always @(posedge clk) a <= a + 1;
      always @(posedge c2) begin s1 <= a; s2 <= s1; b <= s2 + 1; end""",
    "instances": CLOCK + "wire [3:0] p, q; stage #(1) u(clk, q, p); stage #(3) v(clk, p, q);",
    "a counter that stops it": CLOCK + 'reg [3:0] n = 0; always @(posedge clk) begin n <= n + 1; if (n == 9) begin $display("end"); $finish(0); end end',
    "gates behind registers": CLOCK + "reg a = 0, b = 1; wire x, y; nand (x, a, b); not #2 (y, x); always @(posedge clk) begin a <= ~a; b <= y; end",
    "case and several targets": CLOCK
    + """reg [1:0] s = 0; reg [3:0] o = 0; reg c = 0; wire busy = s != 0; always @(posedge clk) begin
      case (s) 0: begin s <= 1; {c, o} <= 5'd9; end 1: s <= 3; 3: {c, o} <= {c, o} + 5'd11; default: s <= 2'bx; endcase if (o == 4) s <= 0; end""",
}  # fmt: skip
STAGE = """module stage #(parameter STEP = 1) (input clk, input [3:0] d, output reg [3:0] q = 0);
  reg [3:0] kept = 0; wire [3:0] next = d + kept; always @(posedge clk) begin kept <= d; q <= next + STEP; end endmodule\n"""


@pytest.mark.parametrize("but", ((), ("clk", "c2")), ids=("recorded", "clocks not recorded"))
@pytest.mark.parametrize("name", DESIGNS)
def test_the_same_as_through_the_queue(name: str, but: tuple[str, ...], tmp_path: Path) -> None:
    with_edges, without = runs(f"{STAGE}module tb;\n{DESIGNS[name]}\nendmodule\n", tmp_path, but=but)
    assert with_edges[1:] == without[1:]
    assert with_edges[2]


def test_which_clocks_get_a_function(tmp_path: Path) -> None:
    """Both edges of a plain clock; none where an assignment is delayed, or where one process waits for what another writes at once."""
    plain, _ = runs(f"module tb; {DESIGNS['counters']} endmodule", tmp_path)
    assert len(plain[0]) == 2
    delayed, _ = runs(f"module tb; {DESIGNS['delayed assignments']} endmodule", tmp_path)
    assert [value for _, value in delayed[0]] == [0]
    crossed, _ = runs(
        f"module tb; {CLOCK} reg r = 0; reg q = 0; always @(posedge clk) r = ~r; always @(posedge clk or posedge r) q <= r; endmodule",
        tmp_path,
    )
    assert [value for _, value in crossed[0]] == [0]


def random_design(seed: int) -> str:
    """Registers of random width behind random expressions of one another, some through wires, some only in some cycles."""
    pick = random.Random(seed)
    count = pick.randint(2, 6)
    widths = [pick.choice((1, 3, 8, 32, 64, 70)) for _ in range(count)]
    parts = [CLOCK]
    parts += [f"reg [{w - 1}:0] r{k}{'' if pick.random() < 0.2 else f' = {pick.randint(0, 1)}'};" for k, w in enumerate(widths)]

    def term() -> str:
        k = pick.randrange(count)
        return pick.choice((f"r{k}", f"r{k}[0]", f"~r{k}", f"w{k}", "1'b1", "8'd77"))

    def expression() -> str:
        return f"({term()} {pick.choice('+-^&|')} {term()})"

    parts += [f"wire [{w - 1}:0] w{k} = r{k} ^ {pick.choice(('1', f'r{pick.randrange(count)}'))};" for k, w in enumerate(widths)]
    for k in range(count):
        body = f"r{k} <= {expression()};"
        if pick.random() < 0.4:
            body = f"if ({term()}) {body}"
        if pick.random() < 0.3:
            body = f"begin {body} r{k}[0] <= {term()}; end"
        parts.append(f"always @({pick.choice(('posedge', 'posedge', 'negedge'))} clk) {body}")
    return "module tb;\n" + "\n".join(parts) + "\nendmodule\n"


@pytest.mark.parametrize("seed", range(12))
def test_random_designs(seed: int, tmp_path: Path) -> None:
    with_edges, without = runs(random_design(seed), tmp_path, but=("clk",) if seed % 2 else ())
    assert with_edges[1:] == without[1:], random_design(seed)
