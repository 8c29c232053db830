"""unique, unique0, priority and deferred assertions: IEEE 1800-2017 clauses 12.4.2, 12.5.3 and 16.4."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest

from tests.conftest import Done

Run = Callable[..., Done]
SEVERAL, NONE = "more than one", "none of its items"


def warnings(done: Done) -> list[str]:
    """What was reported while the program ran."""
    assert done.status == 0, done.err
    return [line.partition("warning: ")[2] for line in done.err.splitlines() if re.search(r"\(at \d", line)]


@pytest.mark.parametrize(
    ("statement", "report"),
    [
        ("unique case (1'b1) a[0]: ; a[1]: ; endcase", SEVERAL),
        ("unique0 case (1'b1) a[0]: ; a[1]: ; endcase", SEVERAL),
        ("priority case (1'b1) a[0]: ; a[1]: ; endcase", ""),
        ("unique case (a) 1: ; 2: ; endcase", NONE),
        ("unique0 case (a) 1: ; 2: ; endcase", ""),
        ("priority case (a) 1: ; 2: ; endcase", NONE),
        ("unique case (a) 1: ; default: ; endcase", ""),
        ("unique casez (a) 3'b0?1: ; 3'b01?: ; endcase", SEVERAL),
        ("unique case (a) 3, 3: ; endcase", ""),
        ("unique case (a) inside [0:2]: ; [4:7]: ; endcase", "no condition"),
        ("unique if (a[0]) ; else if (a[1]) ;", SEVERAL),
        ("unique0 if (a[0]) ; else if (a[1]) ;", SEVERAL),
        ("priority if (a[0]) ; else if (a[1]) ;", ""),
        ("unique if (a == 1) ; else if (a == 2) ;", "no condition"),
        ("unique0 if (a == 1) ; else if (a == 2) ;", ""),
        ("priority if (a == 1) ;", "no condition"),
        ("unique if (a == 1) ; else ;", ""),
    ],
)  # fmt: skip
def test_what_is_reported(statement: str, report: str, simulate: Run) -> None:
    done = simulate(f"module tb; logic [2:0] a = 3'b011; initial begin {statement} end endmodule", suffix=".sv")
    found = warnings(done)
    assert len(found) == bool(report), done.err
    assert all(report in text for text in found)


def test_the_first_condition_that_holds_is_taken(simulate: Run) -> None:
    """12.4.2: a violation is only reported; the statement goes on as one without the word."""
    text = """module tb; logic [1:0] a; initial for (int k = 0; k < 4; k++) begin a = k[1:0];
      unique if (a[0]) $display("%0d first", k); else if (a[1]) $display("%0d second", k); else $display("%0d other", k); end endmodule"""
    done = simulate(text, suffix=".sv")
    assert done.out.splitlines() == ["0 other", "1 first", "2 second", "3 first"]
    assert len(warnings(done)) == 1


def test_a_glitch_is_not_reported(simulate: Run) -> None:
    """12.4.2.1: `b` follows `a` a delta later, so the process first sees 1 and 1; what counts is what it saw last, 1 and 0."""
    text = """module tb; logic a = 0, b, c; assign b = ~a; initial #1 a = 1;
      always_comb begin unique if (a) c = 1; else if (b) c = 0; end endmodule"""
    assert warnings(simulate(text, suffix=".sv")) == []


def test_deferred_assertions(simulate: Run) -> None:
    """16.4: at 1, 2 and 3 the simple assertion also judges the old `b`, the deferred one only what is left when all has settled."""
    text = """module tb; logic [1:0] a = 0, b; assign b = a + 1; initial begin #1 a = 1; #1 a = 2; end
      always_comb begin late: assert final (b == a + 1) $display("good %0t", $time); else $display("bad %0t", $time); end endmodule"""
    assert simulate(text, suffix=".sv").out.splitlines() == ["good 0", "good 1", "good 2"]


def test_an_immediate_cover_never_fails(simulate: Run) -> None:
    """16.3: a cover statement has only an action for success."""
    done = simulate('module tb; initial begin cover (0); cover (1) $display("hit"); end endmodule', suffix=".sv")
    assert (done.out, done.err) == ("hit\n", "")


def test_a_checked_case_is_no_latch(simulate: Run) -> None:
    """What unique promises never to happen leaves no path on which `c` keeps its value."""
    text = "module tb; logic [1:0] a = 0; logic c; always_comb unique case (a) 0: c = 0; 1: c = 1; endcase endmodule"
    assert "latch" not in simulate(text, suffix=".sv").err
    assert "latch" in simulate(text.replace("unique", ""), suffix=".sv").err
