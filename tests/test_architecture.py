"""The core knows nothing of the interface."""

from __future__ import annotations

import re
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
