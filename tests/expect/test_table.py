"""Truth tables by hand-made cases."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik.design.ports import PortInfo
from mevrik.expect.coverage import RowFinder, coverage, input_text
from mevrik.expect.table import Table, TableError, bind, parse_cell, read_table_text

PORTS = [
    PortInfo("a", "input", 1, 0, 0), PortInfo("level", "input", 2, 1, 0), PortInfo("y", "output", 1, 0, 0), PortInfo("code", "output", 4, 3, 0),
]  # fmt: skip


def table(tmp_path: Path, text: str, ports: list[PortInfo] = PORTS) -> Table:
    path = tmp_path / "m.csv"
    path.write_text(text)
    return bind(read_table_text(path), ports)


def problems(tmp_path: Path, text: str) -> list[str]:
    with pytest.raises(TableError) as caught:
        table(tmp_path, text)
    return [f"{p.line}: {p.text}" for p in caught.value.problems]


@pytest.mark.parametrize(
    "text, width, val, unk, care",
    [
        ("1", 1, 1, 0, 1), ("01", 2, 1, 0, 3), ("10", 2, 2, 0, 3), ("10", 4, 10, 0, 15), ("0xA", 4, 10, 0, 15), ("0b11", 4, 3, 0, 15),
        ("-", 4, 0, 0, 0), ("1--0", 4, 8, 0, 9), ("x", 2, 3, 3, 3), ("z", 2, 0, 3, 3), ("1x", 2, 3, 1, 3), ("15", 4, 15, 0, 15),
    ],
)  # fmt: skip
def test_cells(text: str, width: int, val: int, unk: int, care: int) -> None:
    cell = parse_cell(text, width)
    assert (cell.value.val, cell.value.unk, cell.care) == (val, unk, care)


@pytest.mark.parametrize(
    "text, width, word",
    [("2", 1, "fit"), ("16", 4, "fit"), ("0xG", 4, "base 16"), ("", 1, "empty"), ("no", 2, "no value"), ("1-", 3, "digits")],
)
def test_wrong_cells(text: str, width: int, word: str) -> None:
    with pytest.raises(ValueError, match=word):
        parse_cell(text, width)


def test_complete_table(tmp_path: Path) -> None:
    found = coverage(table(tmp_path, "a,level,y\n0,-,0\n1,0-,1\n1,10,0\n1,11,1\n"))
    assert (found.total, found.missing, found.contradictions) == (8, 0, ())


def test_missing_rows_are_counted_and_named(tmp_path: Path) -> None:
    made = table(tmp_path, "a,level,y\n0,-,0\n1,11,1\n")
    found = coverage(made)
    assert found.missing == 3
    assert [input_text(made, e) for e in found.examples] == ["a=1 level=00", "a=1 level=01", "a=1 level=10"]


def test_contradictions(tmp_path: Path) -> None:
    found = coverage(table(tmp_path, "a,level,y,code\n0,-,0,-\n-,01,1,3\n1,01,1,0x3\n1,01,-,4\n"))
    pairs = {(c.other, c.row): c.columns for c in found.contradictions}
    assert pairs[0, 1] == ("y",)
    assert (1, 2) not in pairs
    assert pairs[1, 3] == ("code",)


def test_bits_of_a_port(tmp_path: Path) -> None:
    made = table(tmp_path, "a,level[1],level[0],code[3:2]\n1,0,1,10\n")
    assert [(c.low, c.width) for c in made.columns] == [(0, 1), (1, 1), (0, 1), (2, 2)]
    assert made.packed_inputs(0) == (0b101, 0b111)


def test_row_finder_beyond_twenty_bits(tmp_path: Path) -> None:
    import numpy as np

    ports = [PortInfo("w", "input", 40, 39, 0), PortInfo("y", "output", 1, 0, 0)]
    made = table(tmp_path, "w,y\n0x8000000000,1\n5,0\n", ports)
    assert RowFinder(made).rows(np.array([5, 1 << 39, 7])).tolist() == [1, 0, -1]
    assert coverage(made).total is None


def test_unknown_columns_and_cells_are_all_named(tmp_path: Path) -> None:
    found = problems(tmp_path, "a,levl,y\n0,00,0\n3,00,q\n")
    assert any("no port 'levl'; did you mean 'level'" in p and p.startswith("1:") for p in found)
    assert any(p.startswith("3:") and "column 'a'" in p for p in found)
    assert any(p.startswith("3:") and "column 'y'" in p for p in found)


@pytest.mark.parametrize(
    "text, word",
    [
        ("", "empty"),
        ("a,y\n0\n", "1 cells"),
        ("a,level\n0,00\n", "no output"),
        ("y\n0\n", "no input"),
        ("a,y\n", "no rows"),
        ("a,a,y\n0,0,0\n", "share"),
    ],
)
def test_tables_that_are_none(tmp_path: Path, text: str, word: str) -> None:
    assert any(word in p for p in problems(tmp_path, text))


def test_saving_is_atomic_and_faithful(tmp_path: Path) -> None:
    path = tmp_path / "m.csv"
    path.write_text("a,level,y\n0,-,0\n")
    text = read_table_text(path)
    text.rows[0][2] = "1"
    text.save()
    assert path.read_text() == "a,level,y\n0,-,1\n"
    assert [p.name for p in tmp_path.iterdir()] == ["m.csv"]
