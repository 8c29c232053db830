"""Many small checks in one run: each row is a clause, statements, and the line that the clause requires them to print."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from tests.conftest import Done

Row = tuple[str, str, str]


def program(rows: Sequence[Row], around: str = "", outside: str = "") -> str:
    """All rows as blocks of one initial procedure; `around` are declarations of the module, `outside` stand before it."""
    blocks = "\n".join(f"  begin : row{k}\n    {body}\n  end" for k, (_, body, _) in enumerate(rows))
    return f"{outside}\nmodule tb;\n{around}\ninitial begin\n{blocks}\n  $finish(0);\nend\nendmodule"


def check_rows(
    simulate: Callable[..., Done], rows: Sequence[Row], around: str = "", suffix: str = ".sv", outside: str = ""
) -> None:
    """Run the program of the rows and compare line by line."""
    done = simulate(program(rows, around, outside), suffix=suffix)
    compare(done, rows)


def compare(done: Done, rows: Sequence[Row]) -> None:
    """What was printed, line by line, with what the rows want."""
    assert done.status == 0, done.err
    found = done.out.splitlines()
    wrong = [
        f"{clause}\n    {body}\n    wanted {line!r}\n    found  {got!r}"
        for (clause, body, line), got in zip(rows, [*found, *["(nothing)"] * len(rows)])
        if line != got
    ]
    assert not wrong, "\n".join(wrong)
    assert len(found) == len(rows), found[len(rows) :]


def prints(simulate: Callable[..., Done], text: str, wanted: str, *args: object) -> Done:
    """Run a program in SystemVerilog and compare all that it prints; `wanted` is indented as one likes."""
    done = simulate(text, *args, suffix=".sv")
    lines = [line.strip() for line in wanted.strip().splitlines()]
    assert [x.strip() for x in done.out.splitlines()] == lines, done.out + done.err
    return done
