"""Strengths of nets: IEEE 1364-2005 clauses 4.6, 7.2 to 7.13. Each row: declarations, and what %v (17.1.1.6) shows at time 5."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done

Run = Callable[..., Done]
ROWS = [
    ("7.9: the stronger of two drivers wins", "wire {w}; buf (strong1, weak0) (({w}), 1'b0); pullup ({w});", "Pu1"),
    ("7.9: declared with the net and with assign", "wire (weak0, strong1) {w} = 1'b0; assign (pull0, pull1) {w} = 1'b1;", "Pu1"),
    ("6.1.4: highz0 lets go", "wire {w}; assign (highz0, strong1) {w} = 1'b0;", "HiZ"),
    ("6.1.4: strong1 of the same pair", "wire {w}; assign (highz0, strong1) {w} = 1'b1;", "St1"),
    ("7.3: an enabled buffer", "wire {w}; bufif1 ({w}, 1'b1, 1'b1);", "St1"),
    ("7.3, table 7-5: 0 or z is L", "wire {w}; bufif1 ({w}, 1'b0, 1'bx);", "StL"),
    ("7.3: 1 or z is H", "wire {w}; bufif0 ({w}, 1'b1, 1'bz);", "StH"),
    ("7.3: an inverting one", "wire {w}; notif1 ({w}, 1'b0, 1'bx);", "StH"),
    ("7.3: unknown data", "wire {w}; notif0 ({w}, 1'bx, 1'b0);", "StX"),
    ("7.10.2: L with a pull 0 stays 0", "wire {w}; bufif1 ({w}, 1'b0, 1'bx); pulldown ({w});", "650"),
    ("7.10.2: H with a pull 0 may be both", "wire {w}; bufif1 ({w}, 1'b1, 1'bx); pulldown ({w});", "56X"),
    ("7.5, table 7-6: a switch passes z on", "wire {w}; nmos ({w}, 1'bz, 1'bx);", "HiZ"),
    ("7.5: and L under an unknown control", "wire {w}; pmos ({w}, 1'b0, 1'bx);", "StL"),
    ("7.12: strong stays strong", "wire {w}, p{w}; assign p{w} = 1'b1; nmos ({w}, p{w}, 1'b1);", "St1"),
    ("7.12: pull stays pull", "wire {w}, p{w}; assign (pull0, pull1) p{w} = 1'b0; pmos ({w}, p{w}, 1'b0);", "Pu0"),
    ("7.12: supply becomes strong", "wire {w}; supply0 p{w}; nmos ({w}, p{w}, 1'b1);", "St0"),
    ("7.13, table 7-8: resistive, strong becomes pull", "wire {w}; rnmos ({w}, 1'b1, 1'b1);", "Pu1"),
    ("7.13: supply becomes pull", "wire {w}; supply1 p{w}; rpmos ({w}, p{w}, 1'b0);", "Pu1"),
    ("7.13: pull becomes weak", "wire {w}, p{w}; assign (pull0, pull1) p{w} = 1'b1; rnmos ({w}, p{w}, 1'b1);", "We1"),
    ("7.13: weak becomes medium", "wire {w}, p{w}; assign (weak0, weak1) p{w} = 1'b1; rtran ({w}, p{w});", "Me1"),
    ("7.13: twice", "wire {w}, p{w}, q{w}; assign q{w} = 1'b1; rtran (p{w}, q{w}); rtran ({w}, p{w});", "We1"),
    ("7.6: both ways", "wire {w}, p{w}; assign {w} = 1'b0; tran ({w}, p{w}); assign (pull0, pull1) p{w} = 1'b1;", "St0"),
    ("4.6.4: tri0 without a driver", "tri0 {w};", "Pu0"),
    ("4.6.4: tri1 without a driver", "tri1 {w};", "Pu1"),
    ("4.6.4: tri1 with a weaker one", "tri1 {w}; assign (weak0, weak1) {w} = 1'b0;", "Pu1"),
    ("4.6.5: supply nets", "supply1 {w};", "Su1"),
    ("4.6.2: wand, 0 wins", "wand {w}; assign {w} = 1'b1; assign {w} = 1'b0;", "St0"),
    ("4.6.2: wor, 1 wins", "wor {w}; assign {w} = 1'b1; assign {w} = 1'bx;", "St1"),
    ("4.6.1: equal and against each other", "wire {w}; assign {w} = 1'b1; assign {w} = 1'b0;", "StX"),
    ("4.6.1: a variable and a net", "reg r{w}; initial r{w} = 1; wire {w} = r{w};", "St1"),
    ("7.5: a variable as data", "reg r{w}; initial r{w} = 1; wire {w}; nmos ({w}, r{w}, 1'b1);", "St1"),
]  # fmt: skip


def test_levels(simulate: Run) -> None:
    items, prints, wanted = "", "", []
    for number, (_, text, level) in enumerate(ROWS):
        items += "  " + text.format(w=f"w{number}") + "\n"
        prints += f'    $display("%v", w{number});\n'
        wanted.append(level)
    done = simulate(f"module tb;\n{items}  initial begin #5;\n{prints}  end\nendmodule")
    assert done.status == 0, done.err
    found = done.out.split()
    wrong = [(clause, want, got) for (clause, _, want), got in zip(ROWS, found, strict=True) if want != got]
    assert not wrong


def test_charge_is_shared_by_size(simulate: Run) -> None:
    """4.4.1, 7.13: through a closed switch the large charge wins over the small one, which keeps what it got when it opens."""
    text = """module tb; trireg (large) big; trireg (small) little; reg b, l, on, joined;
      nmos (big, b, on), (little, l, on); tranif1 (big, little, joined);
      initial begin b = 1; l = 0; on = 1; joined = 0; #1 $display("%v %v", big, little); on = 0; #1 $display("%v %v", big, little);
        joined = 1; #1 $display("%v %v", big, little); joined = 0; #1 $display("%v %v", big, little); end endmodule"""
    assert simulate(text).out.splitlines() == ["St1 St0", "La1 Sm0", "La1 La1", "La1 Sm1"]


def test_charge_decays(simulate: Run) -> None:
    """4.4.2: the third delay of a trireg; let go at 10, x at 60; a driver that comes in time stops the decay."""
    text = """module tb; reg d, g; trireg #(0, 0, 50) c; nmos (c, d, g);
      initial begin d = 1; g = 1; #10 g = 0; #49 $display("%v", c); #2 $display("%v", c);
        g = 1; #1 g = 0; #40 g = 1; d = 0; #1 g = 0; #40 $display("%v", c); end endmodule"""
    assert simulate(text).out.splitlines() == ["Me1", "MeX", "Me0"]


def test_a_changing_pull_passes_through_a_switch(simulate: Run) -> None:
    """7.5: what the data of a switch becomes, its output becomes, when an array of switches gives each bit its own."""
    text = """module tb; reg [1:0] d; reg on; wire [1:0] w; nmos s[1:0] (w, d, on); pullup p[1:0] (w);
      initial begin on = 1; d = 2'b01; #1 $display("%b", w); d = 2'b10; #1 $display("%b", w); on = 0; #1 $display("%b", w);
        on = 1'bx; #1 $display("%b", w); end endmodule"""
    assert simulate(text).out.splitlines() == ["01", "10", "11", "1x"]


def test_delays_of_nets_before_which_switches_are(simulate: Callable[..., Done]) -> None:
    """4.4.2, 6.1.3, 7.5, 7.6: the first two delays of a trireg are those of the net, the third its decay, from when it is let go; the delay
    of a net counts for what a switch brings as well."""
    text = """`timescale 1ns/1ns
    module tb; reg d, g; trireg #(1,2,20) t; nmos (t, d, g); trireg #(1,2,20) u = g ? d : 1'bz; wire n2 = d;
      wire #5 n; nmos (n, d, g); wire #3 x; tranif1 (x, n2, g); wire [1:0] #2 v; rtran (v[1], n2); assign v[0] = d;
      initial begin d = 1; g = 1; #10 g = 0; #40 g = 1; d = 0; #10 g = 0; #10 g = 1; d = 1; #10 $finish; end
      always @(t) $display("%0t t %b", $time, t); always @(u) $display("%0t u %b", $time, u); always @(n) $display("%0t n %b", $time, n);
      always @(x) $display("%0t x %b", $time, x); always @(v) $display("%0t v %b", $time, v);
    endmodule"""
    found: dict[str, list[str]] = {}
    for line in simulate(text).out.splitlines():
        time, name, value = line.split()
        found.setdefault(name, []).append(f"{time} {value}")
    assert found == {
        "t": ["1 1", "30 x", "52 0", "71 1"],
        "u": ["1 1", "30 x", "52 0", "71 1"],
        "n": ["5 1", "15 z", "55 0", "65 z", "75 1"],
        "x": ["3 1", "13 z", "53 0", "63 z", "73 1"],
        "v": ["2 11", "52 00", "72 11"],
    }
