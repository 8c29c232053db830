"""Generate constructs, parameters and hierarchical names: IEEE 1364-2005 clause 12."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done

Run = Callable[..., Done]


def test_loop_and_conditional_generate(simulate: Run) -> None:
    """12.4: each round of a named loop is a scope with an index; 0101 with its odd bits inverted is 1111."""
    done = simulate(
        """module tb; genvar g; wire [3:0] y; reg [3:0] x = 5; generate for (g = 0; g < 4; g = g + 1) begin : bits
          wire inner; if (g % 2) begin : odd not (inner, x[g]); end else begin : even buf (inner, x[g]); end assign y[g] = inner; end
        endgenerate initial #1 $display("%b %b", y, bits[3].inner); endmodule"""
    )
    assert done.out == "1111 1\n"


def test_parameters_by_order_by_name_and_by_defparam(simulate: Run) -> None:
    """12.2: an instance sets parameters by order or name, defparam from outside; a localparam follows what it is made of."""
    done = simulate(
        """module leaf; parameter W = 2, D = 3; localparam S = W * D; endmodule
        module tb; leaf a(); leaf #(5) b(); leaf #(.D(7)) c(); leaf d(); defparam d.W = 4; leaf #(5) e(); defparam e.W = 6;
        initial $display("%0d %0d %0d %0d %0d", a.S, b.S, c.S, d.S, e.S); endmodule"""
    )
    assert done.out == "6 15 14 12 18\n"


def test_names_upwards(simulate: Run) -> None:
    """12.6: a name that is not found here is looked up in the modules above: the name of such a module, or what one declares."""
    done = simulate(
        """module leaf; initial #1 $display("%0d %0d", top.level, mid.kept); endmodule
        module mid; integer kept = 4; leaf l(); endmodule module top; integer level = 3; mid u(); endmodule"""
    )
    assert done.out == "3 4\n"


def test_array_of_instances(simulate: Run) -> None:
    """7.1.5: a port as wide as one instance goes to all, a wider one is dealt out with the last index at the lowest bit."""
    done = simulate(
        """module pair(input a, input b, output y); assign y = a & b; endmodule
        module tb; reg [3:0] a = 4'b1011; reg b = 1; wire [3:0] y; pair p[3:0] (a, b, y); initial #1 $display("%b", y); endmodule"""
    )
    assert done.out == "1011\n"


def test_case_generate_takes_one_arm(simulate: Run) -> None:
    """12.4.2: the arm whose label is equal, else the default; nothing of the others exists."""
    text = """module part; parameter K = 0; generate case (K) 0, 1: initial $write("low "); 2: initial $write("two ");
          default: initial $write("more "); endcase endgenerate endmodule
        module tb; part #(1) a(); part #(2) b(); part #(9) c(); endmodule"""
    assert sorted(simulate(text).out.split()) == ["low", "more", "two"]


def test_paths_of_defparams(simulate: Run) -> None:
    """12.2.1, 12.6: from the name of the module down, into arrays and generate blocks, out of the scope of a generate block; of
    two for one parameter the last in the text counts."""
    done = simulate(
        """module leaf #(parameter P = 1) (); initial $display("%m %0d", P); endmodule
        module mid (); leaf a(); leaf b(); defparam b.P = 4; endmodule
        module tb; mid m(); leaf u(); defparam tb.u.P = 7, tb.m.a.P = 8; genvar i;
          generate for (i = 0; i < 2; i = i + 1) begin : g leaf w(); defparam w.P = 10 * i; mid k(); defparam k.b.P = 20 + i; end endgenerate
          defparam g[1].k.a.P = 77; leaf x[0:1](); defparam x[0].P = 5, tb.x[1].P = 6;
        endmodule"""
    )
    wanted = "m.a 8, m.b 4, u 7, g[0].w 0, g[0].k.a 1, g[0].k.b 20, g[1].w 10, g[1].k.a 77, g[1].k.b 21, x[0] 5, x[1] 6"
    assert sorted(done.out.splitlines()) == sorted(f"tb.{x}" for x in wanted.split(", "))


def test_a_defparam_that_leads_nowhere_is_named(simulate: Run) -> None:
    """It would otherwise change nothing and nobody would know."""
    done = simulate(
        """module leaf #(parameter P = 1) (); endmodule
        module mid (); leaf a(); endmodule
        module tb; mid m(); defparam n.P = 3; defparam m.a.Q = 7; defparam m.b.P = 8; endmodule"""
    )
    assert done.status != 0
    for text in ("no instance 'n' in or above 'tb'", "'leaf' has no parameter 'Q'", "no instance 'b' in or above 'mid'"):
        assert text in done.err
