"""The Waves desk and the ribbon, by mouse and keyboard."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from mevrik.desktop.desks.waves.rows import Row
from mevrik.desktop.shell import Shell
from tests.desktop.conftest import settle
from tests.desktop.hands import turn, waves


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
