"""A file that another program changed while it was open here: what is there is never written over without a question."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QMessageBox, QWidget

WRITE, TAKE, LEAVE = "Write over it", "Take what is there", "Leave it"


def content(path: Path) -> bytes | None:
    """What a file holds now; None if there is none, or it can't be read."""
    try:
        return path.read_bytes()
    except OSError:
        return None


def changed_elsewhere(path: Path, known: bytes | None) -> bool:
    """Whether a file holds something else than was read or written here last. One that is gone has nothing to lose."""
    now = content(path)
    return now is not None and now != known


def ask(parent: QWidget, path: Path) -> str:
    """WRITE, TAKE or LEAVE."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, "Changed elsewhere", "", parent=parent)
    box.setText(f"{path.name} was changed by another program since it was read here, and there are changes to it here as well.")
    buttons = {word: box.addButton(word, role) for word, role in (
        (WRITE, QMessageBox.ButtonRole.DestructiveRole), (TAKE, QMessageBox.ButtonRole.ResetRole), (LEAVE, QMessageBox.ButtonRole.RejectRole),
    )}  # fmt: skip
    box.setDefaultButton(buttons[LEAVE])
    box.exec()
    return next((word for word, button in buttons.items() if button is box.clickedButton()), LEAVE)
