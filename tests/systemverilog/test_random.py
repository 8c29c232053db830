"""Random properties without constraints, randcase: IEEE 1800-2017 clause 18. What is random is checked by what must hold of any values."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]

CLASSES = """typedef enum {RED, GREEN = 5, BLUE} colour_e;
class Inner; rand bit [3:0] n; bit [3:0] fixed = 3; endclass
class Packet;
  rand bit [7:0] a; rand int unsigned b; rand bit [99:0] wide; rand colour_e c; randc bit [1:0] cyc; randc colour_e round;
  rand bit [3:0] arr[3]; rand byte dyn[]; rand Inner in; int plain = 7; rand logic signed [3:0] s; int pre = 0, post = 0;
  function new; in = new; dyn = new[4]; endfunction
  function void pre_randomize(); pre++; endfunction
  function void post_randomize(); post++; endfunction
endclass
class Big extends Packet;
  rand bit [15:0] extra; rand Inner none;
  function void post_randomize(); super.post_randomize(); post += 10; endfunction
endclass
class Plain; int x = 4; endclass
class More extends Plain; rand bit [63:0] y; endclass
"""


def test_randomize(simulate: Run) -> None:
    """18.4: all random properties of the object's own class and of those it extends, objects behind handles too; randc goes through
    all values before one comes again; 18.6.2: what is called before and behind it."""
    text = """module tb; Packet p; Big g; bit [255:0] seen; int counts[colour_e]; bit [3:0] cs; bit [15:0] all; bit [99:0] w; bit [3:0] in, at;
    int rounds[colour_e]; byte d[4]; initial begin
      g = new; p = g;
      for (int i = 0; i < 300; i++) begin
        if (p.randomize() != 1) $display("no");
        seen[p.a] = 1; counts[p.c]++; all |= g.extra; w |= p.wide; in |= p.in.n; at |= p.arr[2]; foreach (d[k]) d[k] |= p.dyn[k];
        cs[p.cyc] = 1; if (i % 4 == 3) begin if (cs != 4'hf) $display("cyc comes again early"); cs = 0; end
        rounds[p.round]++; if (i % 3 == 2 && rounds[RED] != i / 3 + 1) $display("round comes again early");
        if (^p.s === 1'bx) $display("unknown");
      end
      $display("%0d %0d %0d", $countones(seen) > 100, counts.num(), counts[GREEN] > 50);
      $display("%h %b %h %h %h%h", all, w == '1, in, at, d[0], d[3]);
      $display("pre %0d post %0d plain %0d fixed %0d none %b size %0d", p.pre, p.post, p.plain, p.in.fixed, g.none == null, p.dyn.size());
    end endmodule"""
    prints(simulate, CLASSES + text, "1 3 1\nffff 1 f f ffff\npre 300 post 3300 plain 7 fixed 3 none 1 size 4")


def test_randomize_of_a_class_without_random_properties(simulate: Run) -> None:
    """18.6.1: every class has it; the object's own class decides."""
    text = """module tb; Plain p; More m; bit [63:0] last; initial begin
      p = new; $display("%0d %0d", p.randomize(), p.x); m = new; p = m; last = m.y; assert (p.randomize()); $display("%b %0d", m.y != last, p.x);
    end endmodule"""
    prints(simulate, CLASSES + text, "1 4\n1 4")


def test_what_is_not_supported_is_named_at_its_line(simulate: Run) -> None:
    """18.5, 18.7: constraints."""
    text = """class C; rand int x;
  constraint small { x inside {[0:9]}; x != 3; }
endclass
module tb; C c; initial begin c = new;
  if (!c.randomize() with { x < 5; }) $display("no");
end endmodule"""
    done = simulate(text, suffix=".sv")
    assert done.status != 0
    assert "program.sv:2:3: error: a constraint is not supported yet (IEEE 1800-2017 18.5)" in done.err
    assert "program.sv:5:22: error: constraints of a call are not supported yet (IEEE 1800-2017 18.7)" in done.err
    assert done.err.count("error:") == 2


def test_randcase(simulate: Run) -> None:
    """18.16: by weight, which may be an expression; none where all weights are 0."""
    text = """module tb; int n[4]; int w = 0; initial begin
      for (int i = 0; i < 1000; i++) randcase 1: n[0]++; 3: n[1]++; w: n[2]++; 0: n[3]++; endcase
      $display("%0d %0d %0d %b", n[0] + n[1], n[2], n[3], n[1] > 2 * n[0] && n[1] < 4 * n[0]);
      randcase 0: $display("never"); endcase
      randcase 1: begin randcase 2: $display("inner"); endcase end endcase
    end endmodule"""
    prints(simulate, text, "1000 0 0 1\ninner")


def test_a_seed_gives_other_values(simulate: Run) -> None:
    text = CLASSES + 'module tb; Packet p; initial begin p = new; void\'(p.randomize()); $display("%h", p.wide); end endmodule'
    first = simulate(text, "--seed", "1", suffix=".sv").out
    assert first == simulate(text, "--seed", "1", suffix=".sv").out != simulate(text, "--seed", "2", suffix=".sv").out


def test_named_variables_alone(simulate: Run) -> None:
    """18.11: of an object only the properties that are named change, random or not by their declaration; null names none. 18.12: of
    variables all that are named."""
    text = """class p; rand bit [31:0] a, b; bit [31:0] c; int hooks; function void post_randomize(); hooks++; endfunction endclass
    module tb; p o = new; logic [63:0] wide; bit [7:0] small_; typedef enum {A = 3, B = 7, C = 11} e_t; e_t e; int seen[e_t]; bit [31:0] a, b;
      initial begin
        repeat (3) begin a = o.a; b = o.b; if (o.randomize(a) != 1) $display("failed"); if (o.a == a || o.b != b || o.c != 0) $display("a alone"); end
        a = o.a; void'(o.randomize(c)); if (o.a != a || o.c == 0) $display("c alone");
        a = o.a; b = o.c; if (!o.randomize(null)) $display("null"); if (o.a != a || o.c != b) $display("nothing changes");
        $display("%0d", o.hooks);
        if (std::randomize(wide, small_) != 1 || $isunknown(wide) || wide[63:32] == 0 || wide[31:0] == 0) $display("wide");
        repeat (60) begin void'(std::randomize(e)); seen[e]++; end $display("%0d %0d", seen.num(), seen.sum());
      end
    endmodule"""
    prints(simulate, text, "5\n3 60")


@pytest.mark.parametrize("call", ["o.a.rand_mode(0);", "o.constraint_mode(0);", "o.rand_mode(1);"])
def test_random_control_that_is_not_there(simulate: Run, call: str) -> None:
    done = simulate(f"class p; rand int a; endclass module tb; p o = new; initial begin {call} end endmodule", suffix=".sv")
    assert "is not supported yet (IEEE 1800-2017 18." in done.err and done.err.count("error") == 1


def test_a_seed_gives_the_same_numbers(simulate: Run) -> None:
    """18.13.1."""
    text = """module tb; int a, b, c, d;
      initial begin a = $urandom(3); b = $urandom; c = $urandom(3); d = $urandom; $display("%b %b %b", a == c, b == d, a == b); end endmodule"""
    assert simulate(text, suffix=".sv").out == "1 1 0\n"


def test_objects_inside_are_random_without_a_word(simulate: Run) -> None:
    """18.4: a random property that is an object is randomized with it; that nobody uses that result is no finding."""
    text = """class In; rand bit [15:0] a; endclass class Out; rand In inner; function new(); inner = new; endfunction endclass
      module tb; Out o; initial begin o = new; if (o.randomize()) $display("%b", o.inner.a !== 'x); end endmodule"""
    done = simulate(text, suffix=".sv")
    assert done.out == "1\n" and not done.err
