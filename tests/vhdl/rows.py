"""Many small checks in one run: each row is a clause of IEEE 1076-2008, an expression of type string, and what it has to be."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from tests.conftest import Done
from tests.rows import Row, compare

Run = Callable[..., Done]
CONTEXT = "library ieee;\nuse ieee.std_logic_1164.all;\nuse ieee.numeric_std.all;\nuse std.textio.all;\n"
SAY = """  procedure say(t : string) is
    variable l : line;
  begin
    write(l, t);
    writeline(output, l);
  end procedure;
"""


def bench(body: str, declarations: str = "", concurrent: str = "", units: str = "", context: str = CONTEXT) -> str:
    """A testbench with `say`, one process and what else is given."""
    return (
        f"{units}\n{context}entity tb is end entity;\narchitecture sim of tb is\n{SAY}{declarations}\nbegin\n{concurrent}\n"
        f"  main : process\n{body}\n    wait;\n  end process;\nend architecture;\n"
    )


def check_rows(simulate: Run, rows: Sequence[Row], declarations: str = "", variables: str = "", first: str = "") -> None:
    """Say all rows, after the statements `first`, and compare line by line."""
    says = "\n".join(f"    say({expression});" for _, expression, _ in rows)
    done = simulate(bench(f"{variables}\n  begin\n{first}\n{says}", declarations), suffix=".vhd")
    compare(done, rows)


def prints(simulate: Run, text: str, wanted: str, *args: object) -> Done:
    """Run a program and compare all that it prints; `wanted` is indented as one likes."""
    done = simulate(text, *args, suffix=".vhd")
    lines = [line.strip() for line in wanted.strip().splitlines()]
    assert [x.strip() for x in done.out.splitlines()] == lines, done.out + done.err
    return done


def notes(err: str) -> list[str]:
    """What reports said, from the standard error."""
    return [line.split("note: ")[1].split(" (")[0] for line in err.splitlines()]
