"""Sums, comparisons and conversions of numeric_std at every width that is made in line and some beyond, against whole numbers (IEEE
1076-2008 16.8.5: the result has the width of the operands and what does not fit is lost)."""

from __future__ import annotations

import random

import pytest

from tests.vhdl.rows import Row, Run, check_rows

DECLARATIONS = """
  function plus(a, b : unsigned) return string is begin return to_string(a + b); end function;
  function shown(yes : boolean) return string is begin return boolean'image(yes); end function;
"""


def rows(width: int, pick: random.Random) -> tuple[list[Row], str]:
    """Checks of two variables of this width, and their declarations."""
    x, y = pick.getrandbits(width), pick.getrandbits(width)
    whole = 1 << width
    signed_x, signed_y = (v - whole if v >> width - 1 else v for v in (x, y))
    spoilt = pick.randrange(width)
    declarations = (
        f'variable a{width} : unsigned({width - 1} downto 0) := "{x:0{width}b}"; '
        f'variable b{width} : unsigned(1 to {width}) := "{y:0{width}b}"; '
        f"variable c{width} : signed({width - 1} downto 0) := signed(a{width}); variable d{width} : signed(1 to {width}) := signed(b{width}); "
        f"variable weak{width} : unsigned({width - 1} downto 0) := a{width}; variable bad{width} : unsigned({width - 1} downto 0) := a{width};"
    )
    a, b, c, d = (f"{letter}{width}" for letter in "abcd")
    found = [
        ("16.8.5.6 +", f"to_string({a} + {b})", f"{(x + y) % whole:0{width}b}"),
        ("16.8.5.6 + of a function's parameters", f"plus({a}, {b})", f"{(x + y) % whole:0{width}b}"),
        ("16.8.5.6 -", f"to_string({d} - {c})", f"{(y - x) % whole:0{width}b}"),
        ("16.8.5.6 + of a whole number", f"to_string({a} + 1)", f"{(x + 1) % whole:0{width}b}"),
        ("16.8.5.7 <", f"shown({a} < {b})", str(x < y).lower()),
        ("16.8.5.7 < of signed", f"shown({c} < {d})", str(signed_x < signed_y).lower()),
        ("16.8.5.7 =", f"shown({a} = {b})", str(x == y).lower()),
        ("16.8.5.9 wider", f"to_string(resize({c}, {width + 3}))", f"{signed_x % (8 * whole):0{width + 3}b}"),
        ("16.7 no x in it", f"shown(is_x(std_logic_vector({a})))", "false"),
        ("16.7 H and L are known", f"to_string(weak{width} + {a})", f"{2 * x % whole:0{width}b}"),
        ("16.8.5.2 X if any value is unknown", f"to_string(bad{width} + {a})", "X" * width),
        ("16.7 an x in it", f"shown(is_x(std_logic_vector(bad{width})))", "true"),
    ]
    if width < 32:
        found.append(("16.8.5.9 to_integer", f"integer'image(to_integer({c}))", str(signed_x)))
    weak = "HL"[not x >> spoilt & 1]
    body = f"weak{width}({spoilt}) := '{weak}'; bad{width}({spoilt}) := '{pick.choice('UXZW-')}';"
    return found, declarations + "\x00" + body


@pytest.mark.parametrize("first", (1, 17, 33, 49))
def test_every_width(simulate: Run, first: int) -> None:
    pick = random.Random(first)
    found: list[Row] = []
    declarations, body = [], []
    for width in [*range(first, first + 16), *([70, 128] if first == 49 else [])]:
        more, text = rows(width, pick)
        found += more
        declarations.append(text.split("\x00")[0])
        body.append(text.split("\x00")[1])
    check_rows(simulate, found, DECLARATIONS, "\n".join(declarations), "\n".join(body))
