"""The core knows nothing of the interface."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent / "src" / "mevrik"


def test_only_the_desktop_imports_qt() -> None:
    guilty = [
        str(p.relative_to(ROOT))
        for p in ROOT.rglob("*.py")
        if "desktop" not in p.relative_to(ROOT).parts and re.search(r"^\s*(from|import) PySide6", p.read_text(), re.M)
    ]
    assert guilty == []


def test_only_the_command_line_imports_the_desktop() -> None:
    guilty = [
        str(p.relative_to(ROOT))
        for p in ROOT.rglob("*.py")
        if "desktop" not in p.relative_to(ROOT).parts and p.name != "cli.py" and "mevrik.desktop" in p.read_text()
    ]
    assert guilty == []


def test_the_design_knows_neither_text_nor_engine() -> None:
    for path in (ROOT / "design").glob("*.py"):
        for module in re.findall(r"^(?:from|import) (mevrik\.\w+)", path.read_text(), re.M):
            assert module == "mevrik.design", f"{path.name} imports {module}"


def test_the_engine_knows_no_language() -> None:
    """It takes a design and delay files for it; of `lang/` it may only know how those are read and where a text stands."""
    for path in (ROOT / "engine").rglob("*.py"):
        for module in re.findall(r"^\s*(?:from|import) (mevrik\.lang[\w.]*)", path.read_text(), re.M):
            assert module in ("mevrik.lang.source", "mevrik.lang.sdf.read"), f"{path.name} imports {module}"


def test_no_file_has_become_long() -> None:
    """About 500 lines hold one subject; what is longer are the lists of nodes, and a few that lie just above."""
    found = {str(p.relative_to(ROOT)): len(p.read_text().splitlines()) for p in ROOT.rglob("*.py")}
    lists = {"design/typed.py", "lang/verilog/ast.py", "lang/vhdl/ast.py"}
    assert {name for name, lines in found.items() if lines > 640} <= lists
    assert sum(lines > 520 for lines in found.values()) <= 10


def test_what_is_not_needed_is_not_imported(tmp_path: Path) -> None:
    """A run of Verilog doesn't wait for what reads VHDL, for the interface or for numbers."""
    source = tmp_path / "a.v"
    source.write_text("module t; initial $finish(0); endmodule")
    program = (
        "import sys, pathlib\nfrom mevrik import cli\nfrom mevrik.engine.run import Run, RunOptions\nfrom mevrik.lang.analysis import analyse\n"
        f"a = analyse([pathlib.Path({str(source)!r})])\nd = a.elaborate('t')\nRun(d, a.sources, RunOptions(), print).go()\n"
        "print([m for m in sys.modules if m.startswith(('mevrik.lang.vhdl', 'mevrik.design.typed', 'PySide6', 'numpy'))])"
    )
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, timeout=60)
    assert done.stdout.strip() == "[]", done.stdout + done.stderr
