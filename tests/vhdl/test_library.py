"""The packages for numbers, against arithmetic as IEEE 1076-2008 16.8 and 16.10 define it; and how they come to be there."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path

import pytest

from mevrik.design.typed import Subprogram
from mevrik.lang.analysis import analyse
from mevrik.lang.diagnostics import Diagnostics
from mevrik.lang.source import SourceMap
from mevrik.lang.vhdl.elaborate import ours
from mevrik.lang.vhdl.elaborate.design import Elaborator
from mevrik.lang.vhdl.elaborate.library import OURS, Library
from mevrik.lang.vhdl.elaborate.template import Template
from tests.conftest import Done, mevrik

Run = Callable[..., Done]


def bits(value: int, width: int) -> str:
    return format(value & ((1 << width) - 1), f"0{width}b")


def number(text: str, signed: bool) -> int:
    value = int(text, 2)
    return value - (1 << len(text)) if signed and text[0] == "1" else value


def quotient(a: int, b: int) -> int:
    """Towards zero (9.2.7)."""
    return abs(a) // abs(b) * (1 if (a < 0) == (b < 0) else -1)


def cases(signed: bool, seed: int, count: int = 60) -> list[tuple[str, str]]:
    """(VHDL expression that is a string, what it has to be)."""
    pick = random.Random(seed)
    kind = "signed" if signed else "unsigned"
    found: list[tuple[str, str]] = []
    for _ in range(count):
        wa, wb = pick.randint(1, 9), pick.randint(1, 9)
        a, b = (bits(pick.getrandbits(w), w) for w in (wa, wb))
        x, y = number(a, signed), number(b, signed)
        left, right = f'{kind}\'("{a}")', f'{kind}\'("{b}")'
        wide = max(wa, wb)
        for op, value in (("+", x + y), ("-", x - y)):
            found.append((f"to_string({left} {op} {right})", bits(value, wide)))
        found.append((f"to_string({left} * {right})", bits(x * y, wa + wb)))
        if y:
            found.append((f"to_string({left} / {right})", bits(quotient(x, y), wa)))
            found.append((f"to_string({left} rem {right})", bits(x - quotient(x, y) * y, wb)))
            found.append((f"to_string({left} mod {right})", bits(x % y, wb)))
        for op, holds in (("<", x < y), ("<=", x <= y), (">", x > y), (">=", x >= y), ("=", x == y), ("/=", x != y)):
            found.append((f"boolean'image({left} {op} {right})", str(holds).lower()))
            found.append((f"to_string({left} ?{op} {right})", str(int(holds))))
        least, most = (-(1 << wb - 1), (1 << wb - 1) - 1) if signed else (0, (1 << wb) - 1)
        n = pick.randint(least, most)
        as_text = f"({n})" if n < 0 else str(n)
        found.append((f"to_string({as_text} + {right})", bits(n + y, wb)))
        found.append((f"to_string({right} - {as_text})", bits(y - n, wb)))
        found.append((f"boolean'image({as_text} < {right})", str(n < y).lower()))
        found.append((f"boolean'image({right} >= 1000)", str(y >= 1000).lower()))
        found.append((f"integer'image(to_integer({left}))", str(x)))
        by = pick.randint(0, wa + 1)
        found.append((f"to_string(shift_left({left}, {by}))", bits(x << by, wa)))
        found.append((f"to_string(shift_right({left}, {by}))", bits(x >> by, wa)))
        turned = by % wa
        found.append((f"to_string(rotate_left({left}, {by}))", a[turned:] + a[:turned]))
        found.append((f"to_string({left} ror {by})", a[wa - turned :] + a[: wa - turned]))
        size = pick.randint(1, 12)
        shorter = (a[0] + a[wa - size + 1 :] if size < wa else bits(x, size)) if signed else bits(x, size)
        found.append((f"to_string(resize({left}, {size}))", shorter))
        found.append((f"to_string(maximum({left}, {right}))", bits(max(x, y), wide)))
        found.append((f"to_string({left} xor {kind}'(not {left}))", "1" * wa))
        found.append((f"to_string(and {left})", str(int("0" not in a))))
        found.append((f"integer'image(find_leftmost({left}, '1'))", str(a.find("1") if a.find("1") < 0 else wa - 1 - a.find("1"))))
        if signed:
            found.append((f"to_string(-{left})", bits(-x, wa)))
            found.append((f"to_string(abs {left})", bits(abs(x), wa)))
    return found


@pytest.mark.parametrize("package", ["numeric_std", "numeric_bit"])
@pytest.mark.parametrize("signed", [False, True])
def test_arithmetic(package: str, signed: bool, tmp_path: Path) -> None:
    """Every operator for values of several widths; find_leftmost gives an index, and a literal runs from 0 to the right."""
    rows = [(e, w) if "find_leftmost" not in e else (e, w if w == "-1" else None) for e, w in cases(signed, 1 + signed)]
    prints = "\n".join(f"    write(l, {e}); writeline(output, l);" for e, _ in rows)
    path = tmp_path / "t.vhd"
    path.write_text(
        f"library ieee; use ieee.std_logic_1164.all; use ieee.{package}.all; use std.textio.all;\nentity t is end;\n"
        f"architecture a of t is\nbegin\n  process variable l : line; begin\n{prints}\n    wait;\n  end process;\nend;\n"
    )
    done = mevrik("run", path, cwd=tmp_path)
    found = done.out.splitlines()
    assert len(found) == len(rows), done.err[-2000:]
    wrong = [(e, w, got) for (e, w), got in zip(rows, found) if w is not None and w != got]
    assert not wrong, wrong[:5]


def test_unknown_operands(simulate: Run) -> None:
    """16.8.3: an arithmetic operator with an unknown bit gives X everywhere; a comparison is false, /= true; both warn or not."""
    text = """library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all; entity t is end; architecture a of t is begin
    process begin report to_string(unsigned'("0X1") + 1) & " " & boolean'image(unsigned'("0X1") < 2) & " " & boolean'image(unsigned'("0X1") /= 2)
      & " " & to_string(unsigned'("0X1") ?< 2) & " " & to_string(to_01(unsigned'("HL1"))) & " " & to_string(to_01(unsigned'("0Z1"), 'X'))
      & " " & integer'image(to_integer(unsigned'("1-"))); wait; end process; end;"""
    done = simulate(text, suffix=".vhd")
    assert "XXX false true X 101 XXX 0" in done.err
    assert done.err.count("metavalue detected") == 3
    assert "metavalue" not in simulate(text, "--no-metavalue-warnings", suffix=".vhd").err


def test_texts_of_numeric_bit(simulate: Run) -> None:
    """16.10, 16.8.5: reading and writing of its vectors, as in numeric_std."""
    text = """use std.textio.all; library ieee; use ieee.numeric_bit.all; entity t is end; architecture a of t is begin process
      variable u : unsigned(7 downto 0) := X"5A"; variable l : line; variable good : boolean; begin
      write(l, u); write(l, ' '); hwrite(l, u); write(l, ' '); owrite(l, u); writeline(output, l);
      l := new string'("10110001 F0 Q"); read(l, u); report to_string(u); hread(l, u, good); report to_hstring(u) & boolean'image(good);
      hread(l, u, good); report boolean'image(good); wait; end process; end;"""
    done = simulate(text, suffix=".vhd")
    assert done.out == "01011010 5A 132\n"
    assert [line.split("note: ")[1].split(" (")[0] for line in done.err.splitlines() if "note: " in line] == [
        "10110001",
        "F0true",
        "false",
    ]


def test_a_template() -> None:
    """Tables, lists, parts with the values of their place, files, capitals, and a name that is the beginning of a longer one."""
    text = """--: include other X = seven
--: table kinds: T / N
--:   bit / 1
--:   word / 16
--: part line
  $T$UPPER(OP) $N $X;
--: end
--: each OP = a | b ;; Y =  | not
--: each kinds
--: insert line
--: end
$Y $OPs
--: end"""
    made = Template(lambda name: f"-- {name}\n--: table none: Q\nfrom_$X").expand(text)
    assert made.split("\n") == [
        "from_seven", "  bitA 1 seven;", "  wordA 16 seven;", " as", "  bitB 1 seven;", "  wordB 16 seven;", "not bs",
    ]  # fmt: skip


@pytest.mark.parametrize(
    "text", ["--: each A = 1\n$B\n--: end", "--: each A = 1\n", "--: nothing", "--: each A = 1 | 2 ;; B = 1\n--: end"]
)
def test_a_wrong_template(text: str) -> None:
    with pytest.raises(ValueError):
        Template(lambda name: "").expand(text)


def test_trees_are_kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The second reading takes the kept trees, a spoilt file is read anew, and both give the same subprograms at the same places."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    first, second = (ours.read("numeric_bit", SourceMap()) for _ in range(2))
    assert isinstance(second.named['"+"'], bytes) and not isinstance(first.named['"+"'], bytes)
    assert [d.pos for d in first.take('"+"')[1]] == [d.pos for d in second.take('"+"')[1]]
    (kept,) = (tmp_path / "mevrik" / "trees").iterdir()
    kept.write_bytes(b"spoilt")
    assert not isinstance(ours.read("numeric_bit", SourceMap()).named['"+"'], bytes)


def test_only_what_is_named_is_declared(simulate: Run) -> None:
    """A package function by its full name, an operator by a use clause of its own, a package that nothing is used of."""
    text = """library ieee; use ieee.numeric_std."+"; use ieee.math_real.all; entity t is end; architecture a of t is begin process
      variable u : ieee.numeric_std.unsigned(3 downto 0) := ieee.numeric_std.to_unsigned(5, 4); begin u := u + 1;
      report to_string(u(0)) & integer'image(ieee.numeric_std.to_integer(u)); wait; end process; end;"""
    assert "note: 06" in simulate(text, suffix=".vhd").err


def test_several_tops_of_the_same_files(tmp_path: Path) -> None:
    """Each elaboration has the packages anew."""
    path = tmp_path / "tops.vhd"
    unit = 'library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;\nentity e{0} is end;\narchitecture a of e{0} is signal u : unsigned(3 downto 0) := x"3"; begin u <= u + 1 after 1 ns; end;\n'
    path.write_text(unit.format(1) + unit.format(2))
    analysis = analyse([path])
    assert analysis.elaborate("e1") is not None and analysis.elaborate("e2") is not None and analysis.elaborate("e1") is not None


def test_every_subprogram_of_our_packages_is_free_of_mistakes() -> None:
    """They are analysed when they are called; here all of them are."""
    sources, library = SourceMap(), Library()
    diagnostics = Diagnostics(sources)
    elaborator = Elaborator(library, sources, diagnostics, lambda objects, value: None)
    analysed = 0
    for where, packages in OURS.items():
        for package in packages:
            scope = elaborator.package(where, package, 0).scope
            for name in library.standard(package, sources).named:
                for sub in scope.direct(name) or []:
                    if isinstance(sub, Subprogram) and sub.analyse is not None:
                        sub.analyse()
                        analysed += 1
    assert analysed > 1000
    assert [d.headline() for d in diagnostics.items] == []


def test_vectors_of_bits_as_numbers(simulate: Run) -> None:
    """16.8.5.3: sums as long as the longer operand, products as both; a comparison is of numbers, whatever the lengths."""
    text = """library ieee; use ieee.numeric_bit_unsigned.all; entity t is end; architecture a of t is begin process
      variable v : bit_vector(0 to 3) := "1011"; variable b : bit := '1';
    begin
      report to_string(v + 7) & " " & to_string(v - b) & " " & to_string(v * "11") & " " & to_string(v / 3) & " " & to_string(v mod 4);
      report to_string(v = "001011") & to_string(3 > v) & to_string(v ?>= 11) & " " & to_string(maximum(v, 12));
      report to_string(to_integer(v)) & " " & to_string(to_bitvector(5, 4)) & " " & to_string(to_bv(6, v)) & " " & to_string(resize(v, 6));
      report to_string(shift_left(v, 1)) & to_string(rotate_right(v, 1)) & " " & to_string(find_leftmost(v, '0'));
      wait; end process; end;"""
    done = simulate(text, suffix=".vhd")
    said = [line.partition("note: ")[2].partition(" (at")[0] for line in done.err.splitlines()]
    assert said == ["0010 1010 100001 0011 0011", "truefalse1 1100", "11 0101 0110 001011", "01101101 1"], done.err


def test_kept_trees_belong_to_the_place_of_their_text(monkeypatch: pytest.MonkeyPatch) -> None:
    """A package that comes to the others moves those behind it: what was kept of one at another place would name its lines wrongly."""
    for number in (3, 7, 3):
        monkeypatch.setattr(ours, "_number", lambda name, number=number: number)
        base = ours.FIRST_BASE + number * ours.ROOM
        assert base <= ours.read("math_real", SourceMap()).decl.pos < base + ours.ROOM
