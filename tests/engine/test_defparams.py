"""IEEE 1364-2005 12.2.1: a defparam changes a parameter of any instance in the hierarchy."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from tests.conftest import Done, mevrik

LEAF = 'module leaf; parameter P = 0; initial #1 $display("%m %0d", P); endmodule\n'


def test_a_module_at_the_top_annotates_another(tmp_path: Path) -> None:
    """As in the standard's own example: nothing instantiates either, so both are at the top, and only one of them is meant as the top.
    What stands last in the text counts."""
    (tmp_path / "t.v").write_text(
        LEAF
        + """module mid; parameter Q = 3; leaf l(); defparam l.P = Q + 1; endmodule
        module top; parameter W = 1; mid #(2) m1(); mid m2(); defparam m2.l.P = 7; initial $display("%0d", W); endmodule
        module annotate; localparam BIG = 10; defparam top.m1.l.P = BIG + 1, top.W = 5; endmodule"""
    )
    done = mevrik("run", tmp_path / "t.v")
    assert done.err == ""
    # the defparam in `top` stands behind that in `mid`
    assert sorted(done.out.splitlines()) == sorted(["5", "top.m1.l 11", "top.m2.l 7"])


def test_upwards_and_beside(simulate: Callable[..., Done]) -> None:
    """12.5, 12.6: the path begins with an instance or a module above, or is a parameter of the module itself; what is set may make
    instances that another defparam names, and give values that others are made of."""
    text = (
        LEAF
        + """module tb; parameter N = 2; side a(), b(); mid m(); endmodule
    module side; parameter S = 1; genvar g;
      generate for (g = 0; g < S; g = g + 1) begin : slot leaf l(); end endgenerate endmodule
    module mid;
      parameter K = 2;
      defparam a.S = K + 1;
      defparam tb.b.S = 2, b.slot[1].l.P = 5;
      defparam K = 0;
      defparam tb.N = 3;
      initial #2 $display("N %0d K %0d", tb.N, K);
    endmodule"""
    )
    done = simulate(text)
    assert done.err == ""
    assert sorted(done.out.splitlines()) == ["N 3 K 0", "tb.a.slot[0].l 0", "tb.b.slot[0].l 0", "tb.b.slot[1].l 5"]


def test_what_is_wrong_is_told_once(tmp_path: Path) -> None:
    (tmp_path / "t.v").write_text(
        LEAF
        + """module tb; leaf x(); mid m(); endmodule
        module mid; localparam L = 1;
          defparam nowhere.P = 2;
          defparam x.R = 2;
          defparam tb.x.y.R = 1;
          defparam L = 2;
        endmodule"""
    )
    done = mevrik("run", tmp_path / "t.v")
    said = [line.split(": ", 1)[1] for line in done.err.splitlines() if ": error: " in line]
    assert len(said) == 4
    for words in (
        "there is no instance 'nowhere' in or above 'mid'",
        "'leaf' has no parameter 'R'",
        "there is no instance 'y' in or above 'leaf'",
        "'mid' has no parameter 'L'",
    ):
        assert any(words in line for line in said), done.err


def test_two_that_chase_each_other_end(tmp_path: Path) -> None:
    (tmp_path / "t.v").write_text(
        """module tb; a x(); b y(); endmodule
        module a; parameter P = 1; defparam y.Q = P + 1; endmodule
        module b; parameter Q = 1; defparam x.P = Q + 1; endmodule"""
    )
    done = mevrik("run", tmp_path / "t.v")
    assert done.status != 0
    assert "change each other's values without an end" in done.err
