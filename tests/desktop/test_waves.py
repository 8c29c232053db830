"""The Waves desk and the ribbon, by mouse and keyboard."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu

from mevrik.desktop.desks.waves.rows import Row
from mevrik.desktop.shell import Shell
from tests.desktop.conftest import settle
from tests.desktop.hands import drag, turn, waves


def test_waves_zoom_about_the_pointer(opened: Shell) -> None:
    view = waves(opened).view
    x = view.left + 200
    before = view.time_at(x)
    turn(view, QPointF(x, 120), 2)
    assert view.time_at(x) == pytest.approx(before)
    low, high = opened.session.window
    assert high - low == pytest.approx(640_000 * 1.02 * 0.64)
    QTest.keyClick(view, Qt.Key.Key_0)
    assert opened.session.window == pytest.approx((0, 640_000 * 1.02))


def test_waves_keys_and_cursors(opened: Shell) -> None:
    view = waves(opened).view
    view.setFocus()
    opened.session.select(signal=view.rows[1].path, moment=0)
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert opened.session.selection.moment == 160_000  # level_high rises with row 16 of 64
    QTest.keyClick(view, Qt.Key.Key_M)
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert (opened.session.selection.moment, opened.session.mark) == (320_000, 160_000)
    assert "apart 160 ns" in waves(opened).facts.text()
    QTest.keyClick(view, Qt.Key.Key_Left)
    assert opened.session.selection.moment == 160_000


def test_waves_click_snaps_to_the_change(opened: Shell) -> None:
    view = waves(opened).view
    x = int(view.x_at(320_000)) + 3
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(x, int(view.row_top(0)) + 10))
    assert opened.session.selection.moment == 320_000
    assert opened.session.selection.signal.endswith(".level_low")


def test_waves_rows_drag_expand_radix_remove(opened: Shell) -> None:
    opened.session.choose("paddle_pwm")
    view = waves(opened).view
    names = [r.path.rsplit(".", 1)[-1] for r in view.rows]
    duty = names.index("duty")
    y = int(view.row_top(duty)) + 10
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(8, y))
    assert [r.bit for r in view.rows[duty + 1 : duty + 5]] == [3, 2, 1, 0]
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(8, y))
    assert view.rows[duty + 1].bit < 0
    opened.session.select(moment=10_000)
    assert view.value_text(view.rows[duty]) == "1010"
    view.set_radix(duty, "dec")
    assert view.value_text(view.rows[duty]) == "10"
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(60, y))
    QTest.mouseMove(view, QPoint(60, int(view.row_top(0)) + 2))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(60, int(view.row_top(0)) + 2))
    assert view.rows[0].path.endswith(".duty")
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert not any(r.path.endswith(".duty") for r in view.rows)
    waves(opened).add("dut.duty")
    assert view.rows[-1] == Row("paddle_pwm_tb.dut.duty")


STRUCTURES = """
package gate_pkg;
  typedef enum logic [1:0] {CLOSED, OPENING, OPEN, CLOSING} phase_e;
  typedef struct packed { phase_e phase; logic [5:0] position; logic alarm; logic [1:0][3:0] limits; } gate_t;
endpackage
module gate_tb;
  import gate_pkg::*;
  gate_t gate;
  initial begin
    gate = '{phase: CLOSED, position: 5, alarm: 0, limits: '{9, 2}};
    #10 gate.phase = OPENING;
    #10 gate.position = 7;
    #10 gate.limits[0] = 3;
    #10 gate.alarm = 1'bx;
    #10 $finish;
  end
endmodule
"""


def test_a_structure_opens_into_its_members(shell: Shell, tmp_path: Path) -> None:
    """Each with its own name, range and labels; an array of vectors into its elements; both into bits."""
    (tmp_path / "gate.sv").write_text(STRUCTURES)
    shell.open(tmp_path)
    settle(shell.session)
    view, record = waves(shell).view, shell.session.record
    assert record is not None

    def seen() -> list[str]:
        return [f"{'  ' * r.depth}{r.label(record.info(r.path))} {view.value_text(r)}" for r in view.rows]

    def click(index: int) -> None:
        x = 8 + 14 * view.rows[index].depth
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(x, int(view.row_top(index)) + 10))

    shell.session.select(moment=15)
    assert [r.path for r in view.rows] == ["gate_tb.gate"]
    click(0)
    assert seen()[1:] == ["  phase[1:0] OPENING", "  position[5:0] 05", "  alarm 0", "  limits 92"]
    click(4)
    assert seen()[4:] == ["  limits 92", "    [1][3:0] 1001", "    [0][3:0] 0010"]
    click(6)
    assert seen()[6:] == ["    [0][3:0] 0010", "      [3] 0", "      [2] 0", "      [1] 1", "      [0] 0"]
    times = {r.label(record.info(r.path)): view.shape(r).times.tolist() for r in view.rows}
    assert times["position[5:0]"] == [0, 20]
    assert times["[0][3:0]"] == [0, 30]
    assert times["phase[1:0]"] == [0, 10]
    shell.session.select(moment=45)
    assert seen()[2:4] == ["  position[5:0] 07", "  alarm x"]
    view.set_radix(2, "dec")
    assert seen()[2] == "  position[5:0] 7"
    click(0)
    assert len(view.rows) == 1
    click(0)
    (tmp_path / "gate.sv").write_text(STRUCTURES.replace("logic [5:0] position; logic alarm; ", ""). replace(
        "position: 5, alarm: 0, ", "").replace("#10 gate.position = 7;", "").replace("#10 gate.alarm = 1'bx;", ""))  # fmt: skip
    shell.session.examine_all()
    settle(shell.session)
    assert all(r.way <= (1,) for r in view.rows)


def test_ribbon_moves_the_window(opened: Shell) -> None:
    opened.session.show_window(0, 100_000)
    ribbon = opened.ribbon
    QTest.mouseClick(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(ribbon.width() // 2, 15))
    low, high = opened.session.window
    assert low < 320_000 < high and high - low == pytest.approx(100_000)


# ---- by hand ----


def test_the_window_is_dragged_and_turned(opened: Shell) -> None:
    view = waves(opened).view
    opened.session.show_window(100_000, 200_000)
    y = int(view.row_top(0)) + 10
    start = QPoint(view.left + 300, y)
    drag(view, start, QPoint(view.left + 200, y), Qt.MouseButton.MiddleButton)
    low, high = opened.session.window
    assert high - low == pytest.approx(100_000)
    assert low == pytest.approx(100_000 + 100 / view.canvas_width * 100_000)
    turn(view, QPointF(view.left + 50, y), -1, Qt.KeyboardModifier.ShiftModifier)
    assert opened.session.window[0] == pytest.approx(low + 10_000)
    QTest.keyClick(view, Qt.Key.Key_PageUp)
    assert opened.session.window[0] == pytest.approx(low - 40_000)
    QTest.keyClick(view, Qt.Key.Key_PageDown)
    assert opened.session.window[0] == pytest.approx(low + 10_000)
    opened.session.select(moment=int(low + 60_000))
    QTest.keyClick(view, Qt.Key.Key_Plus)
    assert opened.session.window[1] - opened.session.window[0] == pytest.approx(80_000)
    QTest.keyClick(view, Qt.Key.Key_Minus)
    assert opened.session.window[1] - opened.session.window[0] == pytest.approx(100_000)


def test_the_column_of_names_is_made_wider(opened: Shell) -> None:
    view = waves(opened).view
    before, edge = view.names_width, view.names_width
    drag(view, QPoint(edge, 60), QPoint(edge + 70, 60))
    assert view.names_width == before + 70
    drag(view, QPoint(view.names_width, 60), QPoint(5, 60))
    assert view.names_width == 80  # never so narrow that nothing can be read


def test_rows_are_chosen_and_opened_with_keys(opened: Shell) -> None:
    opened.session.choose("paddle_pwm")
    view = waves(opened).view
    view.setFocus()
    names = [r.path.rsplit(".", 1)[-1] for r in view.rows]
    duty = names.index("duty")
    for _ in range(duty + 1):
        QTest.keyClick(view, Qt.Key.Key_Down)
    QTest.keyClick(view, Qt.Key.Key_Down)
    QTest.keyClick(view, Qt.Key.Key_Up)
    view._choose(duty)
    assert opened.session.selection.signal.endswith(".duty")
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert [r.bit for r in view.rows[duty + 1 : duty + 5]] == [3, 2, 1, 0]
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert len(view.rows) == len(names)
    opened.session.select(moment=10_000)
    seen = []
    for _ in range(4):
        QTest.keyClick(view, Qt.Key.Key_R)
        seen.append(view.value_text(view.rows[duty]))
    assert seen == ["a", "10", "-6", "12"]  # the same four bits: hexadecimal, whole, signed, octal
    QTest.keyClick(view, Qt.Key.Key_Backspace)
    assert not any(r.path.endswith(".duty") for r in view.rows)


def test_many_rows_scroll(opened: Shell) -> None:
    view = waves(opened).view
    view.set_rows(view.rows * 12)
    turn(view, QPointF(30, 200), -2)
    assert view.bar.value() > 0
    top = view.bar.value()
    turn(view, QPointF(30, 200), 1)
    assert view.bar.value() < top


def test_a_row_with_its_bits_moves_as_one(opened: Shell) -> None:
    opened.session.choose("paddle_pwm")
    view = waves(opened).view
    view.set_rows([r for r in view.rows if not r.measured][:4])
    duty = next(k for k, r in enumerate(view.rows) if r.path.endswith(".duty"))
    view._choose(duty)
    QTest.keyClick(view, Qt.Key.Key_Return)
    block = view.rows[duty : duty + 5]
    rest = [r for r in view.rows if r not in block]
    view.move_row(duty, len(view.rows))
    assert view.rows == rest + block
    view.move_row(len(rest), 0)
    assert view.rows == block + rest
    view.move_row(0, 3)  # into itself: nothing happens
    assert view.rows == block + rest


def menu_of(shell: Shell, at: QPoint, chosen: str) -> list[str]:
    """What the context menu offers at a point; `chosen` is clicked, else the menu is left."""
    view = waves(shell).view
    offered: list[str] = []

    def choose() -> None:
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        offered.extend(a.text() for a in menu.actions() if a.text())
        wanted = next((a for a in menu.actions() if a.text() == chosen), None)
        if wanted is not None:
            QTest.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(wanted).center())
        else:
            menu.close()

    timer = QTimer(singleShot=True, interval=0)
    timer.timeout.connect(choose)
    timer.start()
    QApplication.sendEvent(view, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, view.mapToGlobal(at)))
    timer.stop()
    return offered


def test_what_the_menu_does(opened: Shell) -> None:
    opened.session.choose("paddle_pwm")
    view = waves(opened).view
    duty = next(k for k, r in enumerate(view.rows) if r.path.endswith(".duty"))
    at = QPoint(view.left + 100, int(view.row_top(duty)) + 10)
    offered = menu_of(opened, at, "Decimal")
    assert offered[:2] == ["Put the mark here", "Whole run"] and "Decimal" in offered
    assert view.rows[duty].radix == "dec"
    menu_of(opened, at, "Put the mark here")
    assert opened.session.mark == view.snapped(at.x(), duty)
    opened.session.show_window(0, 10)
    menu_of(opened, at, "Whole run")
    assert opened.session.window[1] > 1000
    names = menu_of(opened, QPoint(60, at.y()), "Remove from the probe list")
    assert "Put the mark here" not in names and not any(r.path.endswith(".duty") for r in view.rows)
    assert menu_of(opened, QPoint(60, view.height() - 4), "") == []


def test_a_click_on_a_stretch_that_differs_selects_the_difference(opened: Shell) -> None:
    opened.session.choose("gate_interlock_flawed")
    view = waves(opened).view
    entry = opened.session.current.ledgers[0].entries[0]  # type: ignore[union-attr]
    row = next(k for k, r in enumerate(view.rows) if r.path == entry.path)
    x = int(view.x_at((entry.start + entry.end) / 2))
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(x, int(view.row_top(row)) + 10))
    assert opened.session.selection.entry == entry and opened.session.selection.row == entry.row


def test_the_ribbon_by_hand(opened: Shell) -> None:
    """Its frame is dragged at its ends and as a whole; the wheel zooms; a double click shows the whole run."""
    ribbon, session = opened.ribbon, opened.session
    session.show_window(200_000, 400_000)

    def at(time: float) -> QPoint:
        return QPoint(round(ribbon._x(time)), 15)

    step = 64_000  # ticks
    drag(ribbon, at(300_000), at(300_000 + step))
    low, high = session.window
    assert low == pytest.approx(264_000, abs=1200) and high - low == pytest.approx(200_000)
    drag(ribbon, at(low), at(low + step))
    assert session.window == (pytest.approx(low + step, abs=1200), pytest.approx(high))
    low = session.window[0]
    drag(ribbon, at(high), at(high + step))
    assert session.window == (pytest.approx(low), pytest.approx(high + step, abs=1200))
    span = session.window[1] - session.window[0]
    turn(ribbon, QPointF(at(low + 10_000)), 1)
    assert session.window[1] - session.window[0] == pytest.approx(span * 0.8)
    QTest.mouseDClick(ribbon, Qt.MouseButton.LeftButton, pos=at(300_000))
    assert session.window == pytest.approx((0, 640_000 * 1.02))
    drag(ribbon, at(100_000), at(500_000))
    assert session.selection.moment == pytest.approx(500_000, abs=1200)


def test_the_run_is_exported(opened: Shell, demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    target = demo / "run.vcd"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", staticmethod(lambda *a, **k: (str(target), "")))
    waves(opened).export_vcd()
    text = target.read_text()
    assert "$timescale" in text and "free_upper" in text and text.count("\n#") > 10
    monkeypatch.setattr(QFileDialog, "getSaveFileName", staticmethod(lambda *a, **k: (str(demo / "none" / "run.vcd"), "")))
    waves(opened).export_vcd()
    assert "can't be written" in opened.status.text()
