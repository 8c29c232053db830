"""Local variables of sequences, calls at matches, first_match: IEEE 1800-2017 16.9.8, 16.10, 16.11. Each program drives its signals tick by
tick; what the assertions say is worked out tick by tick too."""

from __future__ import annotations

from collections.abc import Callable

from tests.conftest import Done
from tests.rows import prints

Run = Callable[..., Done]


def ticks(assertions: str, **driven: str) -> str:
    """A module with one signal for each name; a word of its text for each tick, held around the rising edge of the clock."""
    columns = {name: values.split() for name, values in driven.items()}
    count = max(map(len, columns.values()))
    declared = "".join(f"int {name}; " for name in columns)
    steps = "".join(
        f"{' '.join(f'{name} = {values[k]};' for name, values in columns.items() if k < len(values))} tick = {k}; #5 clk = 1; #5 clk = 0;\n"
        for k in range(count)
    )
    return f"module tb; bit clk; int tick; {declared}\ndefault clocking @(posedge clk); endclocking\n{assertions}\ninitial begin\n{steps}$finish; end\nendmodule"


def test_a_value_is_kept_until_it_is_compared(simulate: Run) -> None:
    """Attempts of three ticks that overlap, each with its own x: 10 comes out as 11, 20 as 22 (wrong), 50 as 51."""
    text = ticks(
        """property pipe; int x; (valid, x = data) |-> ##2 (out == x + 1); endproperty
           assert property (pipe) else $display("%0d fails", tick);
           cover property (valid ##2 1) $display("%0d ends", tick);""",
        valid="1 1 0 0 1 0 0", data="10 20 30 40 50 60 70", out="0 0 11 22 0 0 51",
    )  # fmt: skip
    prints(simulate, text, "2 ends\n3 fails\n3 ends\n6 ends")


def test_answers_out_of_order(simulate: Run) -> None:
    """Requests 7 and 8 at ticks 1 and 2 are answered at 5 and 4; 9 at tick 6 is never, so its attempt fails four ticks later. `|=>` too."""
    for form in ("|-> ##[1:4]", "|=> ##[0:3]"):
        text = ticks(
            f"""property answered; int t; (req, t = id) {form} (ack && back == t); endproperty
               assert property (answered) else $display("%0d fails", tick);""",
            req="0 1 1 0 0 0 1 0 0 0 0 0", id="0 7 8 7 7 7 9 0 0 0 0 0", ack="0 0 0 0 1 1 0 1 0 0 1 1", back="0 0 0 0 8 7 0 8 0 0 8 9",
        )  # fmt: skip
        prints(simulate, text, "10 fails")


def test_each_way_has_its_own_values(simulate: Run) -> None:
    """16.10: the two sides of `or` assign different values; one that fits is enough. At tick 0 d is 2 a tick later, at tick 2 it is 3."""
    text = ticks(
        """sequence s; int x; ((a, x = 1) or (b, x = 2)) ##1 (d == x); endsequence
           assert property (a |-> s) else $display("%0d fails", tick);
           cover property (s) $display("%0d matched", tick);""",
        a="1 0 1 0 1 0", b="1 0 1 0 0 0", d="0 2 0 3 0 1",
    )  # fmt: skip
    prints(simulate, text, "1 matched\n3 fails\n5 matched")


def test_assignments_in_order_and_in_repetitions(simulate: Run) -> None:
    """What `##0` brings sees what was assigned before it at the same tick; a repetition assigns at each match: 1 + 2 + 3, then 1 + 2."""
    text = ticks(
        """sequence same; int x; (a, x = d, x += 1) ##0 (e == x); endsequence
           cover property (same) $display("%0d same", tick);
           property total; int s; (a, s = d) ##1 (!stop, s += d)[*1:$] ##1 (stop, s++) |-> e == s; endproperty
           assert property (total) else $display("%0d wrong total", tick);""",
        a="1 0 0 0 1 0 0", stop="0 0 0 1 0 0 1", d="1 2 3 0 1 2 0", e="2 0 0 7 3 0 3",
    )  # fmt: skip
    prints(simulate, text, "0 same\n6 wrong total")


def test_arguments_start_values_and_counting(simulate: Run) -> None:
    """A variable with a start value; a named sequence with an argument in another one. a is high for 3 ticks, then for 2."""
    text = ticks(
        """sequence high(int lim); int n = lim; (a, n--)[*1:$] ##1 (!a && n == 0); endsequence
           sequence three; high(3); endsequence
           assert property ($rose(a) |-> three) else $display("%0d not three", tick);
           cover property ($rose(a) ##0 three) $display("%0d three", tick);""",
        a="0 1 1 1 0 0 1 1 0 0",
    )  # fmt: skip
    prints(simulate, text, "4 three\n8 not three")


def test_calls_at_matches(simulate: Run) -> None:
    """16.11: once for each match, with sampled values, whether the rest matches or not."""
    text = ticks(
        """function void heard(int v); $display("%0d heard %0d", tick, v); endfunction
           cover property ((b, $display("%0d seen %0d", tick, d)) ##1 (c, heard(d))) $display("%0d matched", tick);""",
        b="0 1 0 1 0", c="0 0 1 0 0", d="4 5 6 7 8",
    )  # fmt: skip
    prints(simulate, text, "1 seen 5\n2 heard 6\n2 matched\n3 seen 7")


def test_disable_and_not(simulate: Run) -> None:
    """What is under way is dropped by `disable iff`; `not` turns the verdict round: x comes again at tick 5."""
    text = ticks(
        """property again; int x; disable iff (off) (a, x = d) ##2 (d == x); endproperty
           property never; int x; not ((a, x = d) ##2 (d == x)); endproperty
           cover property (again) $display("%0d again", tick);
           assert property (never) else $display("%0d comes again", tick);""",
        a="1 0 0 1 0 0", off="0 1 0 0 0 0", d="4 5 4 6 7 6",
    )  # fmt: skip
    prints(simulate, text, "2 comes again\n5 again\n5 comes again")


def test_first_match(simulate: Run) -> None:
    """16.9.8: of `a ##[1:3] b` only the match at tick 1 counts, so c at tick 1 is enough for the first assertion, and c at tick 3 too late
    for the second; without it, the match at tick 2 wants c too, and suits c a tick later."""
    text = ticks(
        """assert property (first_match(a ##[1:3] b) |-> c) else $display("%0d first fails", tick);
           assert property (a ##[1:3] b |-> c) else $display("%0d any fails", tick);
           assert property (a |-> first_match(##[1:3] b) ##1 e) else $display("%0d first ##1 fails", tick);
           assert property (a |-> ##[1:3] b ##1 e) else $display("%0d any ##1 fails", tick);
           property kept; int x; first_match((a, x = d) ##[1:3] b) |-> x == d - 1; endproperty
           assert property (kept) else $display("%0d kept fails", tick);""",
        a="1 0 0 0 0", b="0 1 1 0 0", c="0 1 0 0 0", e="0 0 0 1 0", d="1 2 3 4 5",
    )  # fmt: skip
    prints(simulate, text, "2 any fails\n2 first ##1 fails")


def test_what_is_not_supported_is_named(simulate: Run) -> None:
    for body, words in (
        (
            'property p; string s; (a, s = "x") |-> a; endproperty assert property (p);',
            "a local variable of a sequence that is no vector",
        ),
        (
            "property p; int x; if (a) (a, x = d) ##1 (d == x); endproperty assert property (p);",
            "local variables of sequences in this form of a property",
        ),
        (
            "property p; a ##1 q; endproperty property q; p; endproperty assert property (q);",
            "'q' names itself: recursive properties are not",
        ),
        ("assert property (a ##[1:2] first_match(a ##[1:2] d));", "a 'first_match' behind what may match at several ticks"),
    ):
        done = simulate(ticks(body, a="1", d="1"), suffix=".sv")
        assert done.status != 0 and words in done.err and done.err.count("error") == 1, done.err


def test_long_ranges(simulate: Run) -> None:
    """A wait of up to 300 ticks, and up to 300 repetitions, with and without a variable: d counts the ticks; c is high at tick 250 alone."""
    text = """module tb; bit clk; always #5 clk = ~clk; int d; always @(posedge clk) d <= d + 1; wire c = d == 250; bit a = 1;
      default clocking @(posedge clk); endclocking
      property kept; int x; (d == 10, x = d) |-> ##[1:300] (c && d == x + 240); endproperty
      assert property (kept) else $display("kept"); cover property (d == 10 ##[1:300] c) $display("%0d reached", $sampled(d));
      assert property (d == 20 |-> ##[1:200] c) else $display("%0d too late", $sampled(d));
      assert property (d == 5 |-> a[*1:300] ##1 c) else $display("repeated"); assert property (d == 5 |-> a[*2:4] ##1 c) else $display("%0d too few", $sampled(d));
      initial #4000 $finish; endmodule"""
    prints(simulate, text, "9 too few\n220 too late\n250 reached")
