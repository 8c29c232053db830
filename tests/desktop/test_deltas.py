"""The delta ladder and the nine values in the real window."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QTextCursor
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from mevrik.desktop import theme
from mevrik.desktop.desks.sources import SourcesDesk
from mevrik.desktop.desks.waves import WavesDesk
from mevrik.desktop.desks.waves.ladder import HEAD
from mevrik.desktop.shell import Shell
from tests.desktop.conftest import settle


def waves_of(shell: Shell) -> WavesDesk:
    desk = shell.desks["Waves"]
    assert isinstance(desk, WavesDesk)
    return desk


def test_from_the_finding_to_the_ladder_and_the_statement(opened: Shell) -> None:
    """Two clicks: the account's Sources with its count, then the finding's last column."""
    session = opened.session
    session.choose("gate_position_copied")
    assert [d.code for d in session.diagnostics] == ["clock-skew"]
    opened.show_desk("Sources")
    sources = opened.desks["Sources"]
    assert isinstance(sources, SourcesDesk)
    rows = sources.said.rows
    item = rows.topLevelItem(0)
    assert item is not None and item.text(3) == "See it happen"
    rect = rows.visualItemRect(item)
    column = rows.header().sectionPosition(3) + 20
    QTest.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, pos=rect.center().__class__(column, rect.center().y()))
    desk = waves_of(opened)
    assert desk.ladder.isVisibleTo(desk) and desk.isVisible()
    by_name = {r.path.rsplit(".", 1)[-1]: r for r in desk.ladder.rungs if ".rtl." in r.path}
    assert by_name["clk_board"].delta == by_name["caught"].delta == by_name["second"].delta - 1
    assert by_name["second"].site is not None and by_name["second"].site.text == "second <= caught;"
    assert session.selection.line == 17 and session.selection.file.endswith("gate_position_copied.vhd")


def test_rungs_by_mouse_and_keyboard(opened: Shell) -> None:
    session = opened.session
    session.choose("gate_position_copied")
    opened.show_desk("Waves")
    desk = waves_of(opened)
    QTest.mouseClick(desk.opener, Qt.MouseButton.LeftButton)
    session.show_happening(str(next(d.place.file for d in session.diagnostics)), 17)
    canvas = desk.ladder.canvas
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=canvas.rect().topLeft().__class__(200, HEAD + 30))
    assert canvas.chosen == 1 and session.selection.signal == canvas.rungs[1].path
    woken = canvas.rungs[1].wakes
    assert [(w.line, w.text) for w in woken] == [(17, "clk_board <= clk;"), (19, "catch : process (clk, rst_n)")]
    QTest.keyClick(canvas, Qt.Key.Key_Down)
    assert canvas.chosen == 1 and session.selection.line == 17
    QTest.mouseClick(
        canvas, Qt.MouseButton.LeftButton, pos=canvas.rect().topLeft().__class__(200, int(canvas.top(1)) + 2 * theme.ROW + 5)
    )
    assert canvas.chosen == 1 and session.selection.line == 19
    QTest.keyClick(canvas, Qt.Key.Key_Down)
    assert canvas.chosen == 2 and canvas.chosen_place() is canvas.rungs[2].site
    site = canvas.rungs[2].site
    assert site is not None and session.selection.line == site.line
    QTest.keyClick(canvas, Qt.Key.Key_Return)
    assert opened.desks["Sources"].isVisible()
    opened.show_desk("Waves")
    QTest.mouseClick(desk.opener, Qt.MouseButton.LeftButton)
    assert not desk.ladder.isVisibleTo(desk)


def test_a_moment_without_changes(opened: Shell) -> None:
    opened.session.choose("gate_position_copied")
    opened.show_desk("Waves")
    desk = waves_of(opened)
    desk.open_ladder()
    opened.session.select(moment=7_123_456)
    assert desk.ladder.rungs == []
    desk.toggle_ladder()


def test_the_register_that_was_never_reset(opened: Shell) -> None:
    """Its first stretch is 'U', the rest X; the inspector says where that began."""
    session = opened.session
    session.choose("gate_position_unreset")
    opened.show_desk("Waves")
    desk = waves_of(opened)
    row = next(r for r in desk.view.rows if r.path.endswith(".count"))
    shape = desk.view.shape(row)
    record = session.record
    assert record is not None
    info = record.info(row.path)
    assert shape.unknown(0, 4) == "u" and shape.text(0, row, info) == "UUUU"
    assert shape.unknown(1, 4) == "x" and shape.text(1, row, info) == "XXXX"
    session.select(signal=row.path, moment=200_000_000)
    words = opened.inspector.view.toPlainText()
    assert "Where the unknown began" in words and "no initial value, and no reset" in words


def test_what_is_said_about_vhdl_while_it_is_edited(opened: Shell, qtbot: QtBot) -> None:
    """The text in the editor is elaborated as it stands, findings included; left unchanged, it keeps what was examined."""
    session = opened.session
    session.choose("gate_position_unreset")
    opened.show_desk("Sources")
    desk = opened.desks["Sources"]
    assert isinstance(desk, SourcesDesk) and desk.current is not None
    QTest.qWait(1200)
    assert [d.code for d in session.diagnostics] == ["never-reset"]
    editor = desk.current
    text = editor.toPlainText()

    def write(new: str) -> None:
        cursor = editor.textCursor()
        cursor.select(QTextCursor.SelectionType.Document)
        cursor.insertText(new)

    write(text.replace("moved <= '0';", "moved <= 0;"))
    qtbot.waitUntil(lambda: [d.code for d in session.diagnostics] == ["type"], timeout=8000)
    assert session.diagnostics[0].place.line == 20
    write(text.replace("(clk, rst_n)", "(clk)"))
    qtbot.waitUntil(lambda: sorted(d.code for d in session.diagnostics) == ["never-reset", "sensitivity"], timeout=8000)
    editor.document().setModified(False)


def test_what_is_said_of_one_subject_stays_with_it(opened: Shell, qtbot: QtBot) -> None:
    """An unsaved change of one subject says nothing about another one, however late its analysis ends."""
    session = opened.session
    session.choose("gate_position_copied")
    opened.show_desk("Sources")
    desk = opened.desks["Sources"]
    assert isinstance(desk, SourcesDesk) and desk.current is not None
    editor = desk.current
    editor.insertPlainText("-- ")
    QTest.qWait(350)
    session.choose("paddle_pwm")
    QTest.qWait(1500)
    assert session.diagnostics == []
    editor.document().setModified(False)


NINE = """library ieee; use ieee.std_logic_1164.all;
entity nine is port (go : in std_ulogic; s : out std_ulogic; v : out std_ulogic_vector(1 downto 0)); end;
architecture a of nine is
begin
  process
    constant all_of_them : std_ulogic_vector(0 to 8) := "UX01ZWLH-";
  begin
    for k in all_of_them'range loop
      s <= all_of_them(k); v <= all_of_them(k) & '1';
      wait for 10 ns;
    end loop;
    wait;
  end process;
end;
library ieee; use ieee.std_logic_1164.all;
entity bench is end;
architecture t of bench is
  signal s : std_ulogic; signal v : std_ulogic_vector(1 downto 0);
begin
  u : entity work.nine port map ('1', s, v);
end;
"""


def test_each_of_the_nine_values_at_the_moment(shell: Shell, tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    """Wherever the moment stands the row says its value, and painting finds no fault."""
    (tmp_path / "nine.vhd").write_text(NINE)
    shell.open(tmp_path)
    settle(shell.session)
    shell.show_desk("Waves")
    view = waves_of(shell).view
    single = next(r for r in view.rows if r.path.endswith(".s"))
    vector = next(r for r in view.rows if r.path.endswith(".v"))
    for k, letter in enumerate("UX01ZWLH-"):
        shell.session.select(moment=k * 10_000_000 + 5_000_000)
        assert view.value_text(single) == letter
        assert view.value_text(vector) == f"{letter}1"
        shell.grab()
        QTest.qWait(1)
    assert "fault" not in capfd.readouterr().err


def test_a_fault_in_painting_is_printed_and_no_more(
    shell: Shell, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]
) -> None:
    """An exception that leaves an event handler would end the program."""
    shell.show_desk("Waves")
    view = waves_of(shell).view
    monkeypatch.setattr(view, "_names", lambda *_: 1 / 0)
    monkeypatch.setattr(view, "value_text", lambda *_: 1 / 0)
    monkeypatch.setattr(type(view), "rect", lambda self: 1 / 0)
    view.grab()
    said = capfd.readouterr().err
    assert "a fault of Mevrik's own" in said
    assert "ZeroDivisionError" in said
