"""Writes the pictures in docs/screenshots from the demo project."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

TARGET = Path(__file__).parent.parent / "docs" / "screenshots"
SIZE = (1280, 800)


def main() -> int:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    scratch = tempfile.mkdtemp()
    os.environ["XDG_CONFIG_HOME"] = scratch
    from PySide6.QtTest import QTest

    from mevrik.demo import fresh_copy
    from mevrik.desktop.app import application
    from mevrik.desktop.desks.sources import SourcesDesk
    from mevrik.desktop.desks.waves import WavesDesk
    from mevrik.desktop.session import Session
    from mevrik.desktop.shell import Shell
    from mevrik.engine.job import warm_up

    warm_up()
    application()
    session = Session()
    shell = Shell(session)
    shell.resize(*SIZE)
    shell.show()
    shell.open(fresh_copy(Path(scratch) / "tarnwick_lock"))
    limit = time.monotonic() + 60
    while session.busy and time.monotonic() < limit:
        QTest.qWait(20)
    TARGET.mkdir(parents=True, exist_ok=True)

    sources = shell.desks["Sources"]
    assert isinstance(sources, SourcesDesk)

    def ledger() -> None:
        session.choose("gate_interlock_flawed")
        shell.show_desk("Ledger")

    def alone(subject: str, desk: str) -> Callable[[], None]:
        def show() -> None:
            session.choose(subject)
            shell.one_desk()
            shell.show_desk(desk)

        return show

    def measured() -> None:
        alone("paddle_pwm", "Waves")()
        session.step_entry(1)

    def deltas() -> None:
        for editor in sources.editors.values():
            editor.take()  # what was typed for the last picture is given up
        alone("gate_position_copied", "Waves")()
        found = session.diagnostics[0]
        session.show_happening(found.place.file, found.place.line)
        desk = shell.desks["Waves"]
        assert isinstance(desk, WavesDesk)
        QTest.qWait(50)
        desk.ladder.canvas.choose(1)

    def unknowns() -> None:
        desk = shell.desks["Waves"]
        assert isinstance(desk, WavesDesk)
        if desk.ladder.isVisibleTo(desk):
            desk.toggle_ladder()
        alone("gate_position_unreset", "Waves")()
        session.show_window(0, 400e6)

    def mends() -> None:
        alone("gate_interlock", "Sources")()
        desk = sources
        assert desk.current is not None
        text = desk.current.toPlainText().replace("ask & at_lower", "ask & at_lover")
        text = text.replace(
            "endmodule", "  reg spare;\n  always @(ask)\n    spare = ask & at_uper;\n  wire [1:0] both = holt;\nendmodule"
        )
        desk.current.selectAll()
        desk.current.insertPlainText(text)
        while not session.diagnostics:
            QTest.qWait(20)
        desk.current.go_to(session.diagnostics[0].place.line, mark=False)

    def dark() -> None:
        shell.set_theme("dark")
        measured()

    for name, arrange in (
        ("ledger", ledger), ("tables", alone("gate_interlock_flawed", "Tables")), ("sources", alone("gate_interlock_flawed", "Sources")),
        ("stimulus", alone("lamp_timer", "Stimulus")), ("waves", measured), ("captures", alone("paddle_pwm", "Captures")), ("mends", mends),
        ("deltas", deltas), ("unknowns", unknowns), ("dark", dark),
    ):  # fmt: skip
        arrange()
        QTest.qWait(200)
        shell.status.setText("tarnwick_lock   9 subjects")
        path = TARGET / f"{name}.png"
        if not shell.grab().save(str(path)):
            print(f"{path} can't be written", file=sys.stderr)
            return 1
        print(path)
    shell.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
