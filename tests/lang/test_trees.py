"""Trees of files are kept between runs by content: an edit reads one file anew, and nothing is taken from the cache that is not so."""

from __future__ import annotations

from pathlib import Path

import pytest

from mevrik import kept
from mevrik.lang.analysis import Analysis, Options, analyse
from mevrik.lang.verilog.preprocess import Preprocessor
from mevrik.lang.vhdl.elaborate import library as vhdl_library

PADDING = "".join(f"// a line of words that makes the file worth keeping, number {k}\n" for k in range(12))


@pytest.fixture
def read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The names of the files that were read, not taken from the cache."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    names: list[str] = []
    run, tokenize = Preprocessor.run, vhdl_library.tokenize

    def noted(self: Preprocessor, source, sv):  # type: ignore[no-untyped-def]
        names.append(Path(source.name).name)
        return run(self, source, sv)

    def noted_too(source, diagnostics):  # type: ignore[no-untyped-def]
        names.append(Path(source.name).name)
        return tokenize(source, diagnostics)

    monkeypatch.setattr(Preprocessor, "run", noted)
    monkeypatch.setattr(vhdl_library, "tokenize", noted_too)
    return names


def write(folder: Path, **texts: str) -> list[Path]:
    paths = []
    for name, text in texts.items():
        path = folder / name.replace("_dot_", ".")
        path.write_text(PADDING.replace("//", "--" if path.suffix == ".vhd" else "//") + text)
        paths.append(path)
    return paths


def constant(analysis: Analysis, top: str, name: str) -> int:
    """The value of a parameter of the top."""
    design = analysis.elaborate(top)
    assert design is not None, [d.headline() for d in analysis.diagnostics.items]
    signal = next(s for s in design.top.unit.signals if s.name == name)
    return signal.type.width  # type: ignore[union-attr]


def test_an_edit_reads_one_file(tmp_path: Path, read: list[str]) -> None:
    files = write(
        tmp_path,
        a_dot_v="`define WIDTH 5\nmodule low(input x); endmodule\n",
        b_dot_v="module mid(input x); low l(x); wire [`WIDTH-1:0] w; endmodule\n",
        c_dot_v="module tb; reg x; mid m(x); wire [`WIDTH:0] w; endmodule\n",
    )
    assert constant(analyse(files), "tb", "w") == 6
    assert read == ["a.v", "b.v", "c.v"]
    read.clear()
    assert constant(analyse(files), "tb", "w") == 6
    assert read == []
    files[1].write_text(files[1].read_text() + "// an edit that makes the file longer\n")
    assert constant(analyse(files), "tb", "w") == 6
    assert read == ["b.v"]


def test_a_macro_from_a_file_before(tmp_path: Path, read: list[str]) -> None:
    """What a file defines is a part of those behind it."""
    files = write(tmp_path, a_dot_v="`define WIDTH 5\n", c_dot_v="module tb; wire [`WIDTH-1:0] w; endmodule\n")
    assert constant(analyse(files), "tb", "w") == 5
    write(tmp_path, a_dot_v="`define WIDTH 7\n")
    assert constant(analyse(files), "tb", "w") == 7
    assert constant(analyse(files, Options(defines={"OTHER": "1"})), "tb", "w") == 7


def test_an_included_file(tmp_path: Path, read: list[str]) -> None:
    (tmp_path / "inc").mkdir()
    (inner,) = write(tmp_path / "inc", w_dot_vh="`define WIDTH 3\n")
    files = write(tmp_path, tb_dot_v='`include "w.vh"\nmodule tb; wire [`WIDTH-1:0] w; endmodule\n')
    options = Options([tmp_path / "inc"])
    for _ in range(2):
        analysis = analyse(files, options)
        assert constant(analysis, "tb", "w") == 3
        assert analysis.included == [inner]
        assert str(inner) in [t.name for t in analysis.sources.texts]
    assert read == ["tb.v"]
    write(tmp_path / "inc", w_dot_vh="`define WIDTH 4\n")
    assert constant(analyse(files, options), "tb", "w") == 4
    # a file of that name beside the source comes before it
    write(tmp_path, w_dot_vh="`define WIDTH 9\n")
    assert constant(analyse(files, options), "tb", "w") == 9
    (tmp_path / "w.vh").unlink()
    inner.unlink()
    assert analyse(files, options).diagnostics.failed


def test_types_of_packages(tmp_path: Path, read: list[str]) -> None:
    """Whether a name is a type decides how a text is read."""
    files = write(
        tmp_path,
        p_dot_sv="package p; typedef logic [3:0] nibble; endpackage\n",
        tb_dot_sv="module tb; import p::*; nibble n; logic [1:0] w = 2'(n); endmodule\n",
    )
    for _ in range(2):
        assert constant(analyse(files), "tb", "n") == 4
    assert read == ["p.sv", "tb.sv"]
    write(tmp_path, p_dot_sv="package p; typedef logic [6:0] nibble; typedef int other; endpackage\n")
    assert constant(analyse(files), "tb", "n") == 7


def test_what_was_said_is_said_again(tmp_path: Path, read: list[str]) -> None:
    files = write(tmp_path, tb_dot_v="module tb;\nreg a\nreg b;\nendmodule\n")
    said = [[d.headline() for d in analyse(files).diagnostics.items] for _ in range(2)]
    assert said[0] == said[1] and "';'" in said[0][0]
    assert read == ["tb.v", "tb.v"]
    files = write(tmp_path, tb_dot_v='module tb;\n`line 40 "other.v" 0\nwire w = missing;\nendmodule\n')
    for _ in range(2):
        analysis = analyse(files)
        analysis.elaborate("tb")
        assert any("other.v:40:" in d.headline() for d in analysis.diagnostics.items)


def test_places_are_those_of_the_text(tmp_path: Path, read: list[str]) -> None:
    files = write(
        tmp_path,
        a_dot_v="module low(input [3:0] x, output y); assign y = x; endmodule\n",
        tb_dot_v="module tb; wire [3:0] x; wire y; low l(x, y); endmodule\n",
    )
    said = []
    for _ in range(2):
        analysis = analyse(files)
        analysis.elaborate("tb")
        said.append([d.render() for d in analysis.diagnostics.sorted()])
    assert said[0] == said[1] and f"a.v:{PADDING.count(chr(10)) + 1}:" in "".join(said[0])
    assert read == ["a.v", "tb.v"]


def test_vhdl(tmp_path: Path, read: list[str]) -> None:
    files = write(
        tmp_path,
        a_dot_vhd="package p is constant n : natural := 4; end package;\n",
        b_dot_vhd="entity tb is end; architecture a of tb is signal w : bit_vector(1 to work.p.n); begin end;\n",
    )
    for _ in range(2):
        analysis = analyse(files)
        assert analysis.elaborate("tb") is not None
    assert read == ["a.vhd", "b.vhd"]
    files[0].write_text(files[0].read_text().replace("4", "44"))
    assert analyse(files).elaborate("tb") is not None
    assert read == ["a.vhd", "b.vhd", "a.vhd"]


def test_a_broken_cache_costs_nothing(tmp_path: Path, read: list[str]) -> None:
    files = write(tmp_path, tb_dot_v="module tb; wire [2:0] w; endmodule\n")
    analyse(files)
    (tree,) = kept.folder("trees").iterdir()
    for data in (b"", b"no pickle", tree.read_bytes()[:50]):
        tree.write_bytes(data)
        assert constant(analyse(files), "tb", "w") == 3
    kept.folder("trees").rename(tmp_path / "away")
    kept.folder("trees").write_text("a file where the folder should be")
    assert constant(analyse(files), "tb", "w") == 3


def test_the_newest_stay(tmp_path: Path) -> None:
    last = 3 * kept.EACH
    for k in range(last + 1):
        kept.keep(tmp_path / "some" / f"n{k}", b"x", 4)
    names = {p.name for p in (tmp_path / "some").iterdir()}
    assert len(names) <= 8 + kept.EACH and f"n{last}" in names
