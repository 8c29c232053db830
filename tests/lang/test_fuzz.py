"""The front end never raises: whatever the bytes, there are diagnostics or a design. Mutates our own sources."""

from __future__ import annotations

import os
import random
import re
from pathlib import Path

import pytest

from mevrik.design.unit import Design
from mevrik.engine.layout import LayoutError, Unsupported
from mevrik.engine.simulation import prepare
from mevrik.lang.analysis import analyse
from tests.conftest import DEMO
from tests.rows import program
from tests.systemverilog import test_arrays, test_assertion_forms, test_bit_streams, test_classes, test_subprograms, test_types

ROUNDS = int(os.environ.get("MEVRIK_FUZZ_ROUNDS", "12"))
SEEDS = range(int(os.environ.get("MEVRIK_FUZZ_SEEDS", "12")))
_WORD = re.compile(r"\s+|\w+|[^\w\s]")


def corpus() -> list[tuple[str, str]]:
    """(text, suffix) of the demo, and of the programs in our own tests."""
    found = [(p.read_text(), p.suffix) for p in (*DEMO.glob("*.v"), *DEMO.glob("*.vhd"))]
    tests = Path(__file__).parent.parent
    for path in sorted([*tests.glob("engine/*.py"), *tests.glob("systemverilog/*.py")]):
        found += [(block, ".sv") for block in re.findall(r'"""((?:(?!""").)*module (?:(?!""").)*)"""', path.read_text(), re.S)]
    for path in sorted(tests.glob("vhdl/*.py")):
        found += [(block, ".vhd") for block in re.findall(r'"""((?:(?!""").)*\bentity (?:(?!""").)*)"""', path.read_text(), re.S)]
    found += [(path.read_text(), ".sv") for path in sorted(tests.glob("systemverilog/programs/*.sv"))]
    for design in sorted(x for x in (tests / "designs").iterdir() if x.is_dir()):
        for suffix in (".v", ".sv", ".vhd"):  # all files of a language as one; what they include is not beside it
            files = sorted(design.glob(f"*{suffix}"), key=lambda p: "package" not in p.name)
            if files:
                found.append(("\n".join(p.read_text() for p in files), suffix))
    tables = [test_arrays.FIXED, test_arrays.QUEUES, test_arrays.LOCATORS, test_arrays.KEYED, test_arrays.STRUCTURES]
    tables += [test_types.STRINGS, test_types.OPERATORS]
    for rows in tables:
        found += [(program(rows[k : k + 5]), ".sv") for k in range(0, len(rows), 5)]
    found += [(program(test_classes.ROWS[k : k + 5], test_classes.AROUND, test_classes.CLASSES), ".sv") for k in range(0, 20, 5)]
    found.append((program(test_subprograms.ROWS[:8], test_subprograms.AROUND), ".sv"))
    found.append((program(test_bit_streams.ROWS, test_bit_streams.AROUND), ".sv"))
    found += [(test_assertion_forms.text_of(row), ".sv") for row in test_assertion_forms.FORMS]
    return found


def mutated(text: str, source: random.Random) -> str:
    """Words dropped, doubled, swapped, or replaced by another of the text or by a stray sign; or only names exchanged, which goes deeper
    than the parser."""
    words = _WORD.findall(text)
    names = [k for k, word in enumerate(words) if word[0].isalpha()]
    if names and source.random() < 0.4:
        for _ in range(source.randint(1, 2)):
            words[source.choice(names)] = words[source.choice(names)]
        return "".join(words)
    for _ in range(source.randint(1, 6)):
        at = source.randrange(len(words))
        act = source.randrange(5)
        if act == 0:
            words[at] = ""
        elif act == 1:
            words[at] = words[source.randrange(len(words))]
        elif act == 2:
            words.insert(
                at, source.choice(["(", ")", "[", "]", "{", "}", ";", "'", '"', "`", "#", "@", "begin", "end", "::", "\x00", "é"])
            )
        elif act == 3:
            other = source.randrange(len(words))
            words[at], words[other] = words[other], words[at]
        else:
            words = words[:at] + words[at : at + 8] * 2 + words[at + 8 :]
    return "".join(words)


def lowered(design: Design) -> None:
    """The code of a design; what is too large or not there yet is said by errors of their own."""
    try:
        prepare(design)
    except (LayoutError, Unsupported):
        pass


@pytest.mark.parametrize("seed", SEEDS)
def test_mutated_sources_give_diagnostics(tmp_path: Path, seed: int) -> None:
    source = random.Random(seed)
    texts = corpus()
    assert len(texts) > 20
    for k in range(ROUNDS):
        text, suffix = source.choice(texts)
        broken = mutated(text, source)
        path = tmp_path / f"f{k}{suffix}"
        path.write_text(broken)
        try:
            analysis = analyse([path])
            for top in analysis.tops()[:2]:
                design = analysis.elaborate(top)
                if design is not None:
                    lowered(design)
        except Exception as error:
            raise AssertionError(f"{type(error).__name__}: {error}\n{broken}") from error


def test_random_bytes(tmp_path: Path) -> None:
    source = random.Random(1)
    for k in range(40):
        path = tmp_path / f"b{k}{source.choice(['.v', '.sv', '.vhd'])}"
        path.write_bytes(source.randbytes(source.randint(0, 400)).replace(b"\x00", b" "))
        analyse([path])
