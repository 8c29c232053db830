"""Paper and ink: colours, fonts and sizes. Meaning is carried by form; colour only repeats it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication, QLabel

ASSETS = Path(__file__).parent / "assets"
UNIT = 8
ROW = 22
SMALL, BODY, LARGE = 11, 12, 15


@dataclass(frozen=True, slots=True)
class Theme:
    name: str
    paper: str  # behind everything
    sheet: str  # where one writes and reads
    shade: str  # a quiet area, a hovered row
    rule: str  # lines
    ink: str
    faint: str  # secondary text
    accent: str  # what can be acted on
    chosen: str  # behind the selected row
    agree: str
    differ: str
    unknown: str
    fill: str  # light fill below a signal that is 1


LIGHT = Theme(
    "light", "#FBFAF7", "#FFFFFF", "#F1EFE8", "#D5D1C5", "#1E2430", "#5A6070", "#1F5F8B", "#DCE8F0", "#2C6E49", "#A8321A", "#7A5200", "#E9EDF2",
)  # fmt: skip
DARK = Theme(
    "dark", "#1B1E24", "#21252C", "#2A2F38", "#3D434E", "#ECE8DE", "#A6ABB5", "#8FC1E3", "#2F4455", "#86CFA4", "#F09A82", "#E0BC6A", "#2E3945",
)  # fmt: skip
_THEMES = {t.name: t for t in (LIGHT, DARK)}
_current = LIGHT
_families = {"text": "Sans Serif", "code": "Monospace"}


def current() -> Theme:
    return _current


def colour(name: str) -> QColor:
    """A colour of the current theme by its role."""
    return QColor(getattr(_current, name))


def font(size: int = BODY, bold: bool = False, code: bool = False, italic: bool = False) -> QFont:
    made = QFont(_families["code" if code else "text"])
    made.setPixelSize(size)
    made.setBold(bold)
    made.setItalic(italic)
    return made


def _load_fonts() -> None:
    for key, file in (("text", "B612-Regular.otf"), ("code", "Hack-Regular.ttf")):
        number = QFontDatabase.addApplicationFont(str(ASSETS / "fonts" / file))
        found = QFontDatabase.applicationFontFamilies(number) if number >= 0 else []
        if found:
            _families[key] = found[0]
    for file in ("B612-Bold.otf", "B612-Italic.otf", "Hack-Bold.ttf", "Hack-Italic.ttf"):
        QFontDatabase.addApplicationFont(str(ASSETS / "fonts" / file))


def apply(app: QApplication, name: str | None = None) -> None:
    """Set fonts, palette and style sheet; without a name the one chosen last time."""
    global _current
    if name is None:
        name = str(QSettings().value("theme", LIGHT.name))
    _current = _THEMES.get(name, LIGHT)
    if _families["text"] == "Sans Serif":
        _load_fonts()
    t = _current
    if app.property("styled") is None:  # once: widgets that are about to go may still use the style that a second call would delete
        app.setStyle("Fusion")
        app.setProperty("styled", True)
    app.setFont(font())
    palette = QPalette()
    for role, value in (
        (QPalette.ColorRole.Window, t.paper), (QPalette.ColorRole.Base, t.sheet), (QPalette.ColorRole.AlternateBase, t.shade),
        (QPalette.ColorRole.Text, t.ink), (QPalette.ColorRole.WindowText, t.ink), (QPalette.ColorRole.Button, t.paper),
        (QPalette.ColorRole.ButtonText, t.accent), (QPalette.ColorRole.Highlight, t.chosen), (QPalette.ColorRole.HighlightedText, t.ink),
        (QPalette.ColorRole.ToolTipBase, t.sheet), (QPalette.ColorRole.ToolTipText, t.ink), (QPalette.ColorRole.PlaceholderText, t.faint),
        (QPalette.ColorRole.Link, t.accent), (QPalette.ColorRole.Mid, t.rule), (QPalette.ColorRole.Dark, t.rule),
    ):  # fmt: skip
        palette.setColor(role, QColor(value))
    app.setPalette(palette)
    app.setStyleSheet(_sheet(t))
    QSettings().setValue("theme", t.name)


def tint(label: QLabel, tone: str) -> None:
    """Writes a label in one of TONES; it follows when the theme changes."""
    label.setProperty("tone", tone)
    label.style().unpolish(label)
    label.style().polish(label)


TONES = ("ink", "faint", "agree", "differ", "unknown")


def _sheet(t: Theme) -> str:
    tones = "".join(f'QLabel[tone="{tone}"] {{ color: {getattr(t, tone)}; }}\n    ' for tone in TONES)
    return f"""
    {tones}* {{ outline: none; }}
    QToolTip {{ background: {t.sheet}; color: {t.ink}; border: 1px solid {t.rule}; padding: 3px; }}
    QSplitter::handle {{ background: {t.rule}; }}
    QSplitter::handle:horizontal {{ width: 1px; }}
    QSplitter::handle:vertical {{ height: 1px; }}
    QAbstractItemView {{ background: {t.sheet}; border: 0; border-top: 2px solid transparent; gridline-color: {t.rule}; selection-background-color: {t.chosen};
        selection-color: {t.ink}; }}
    QAbstractItemView:focus, QPlainTextEdit:focus {{ border-top: 2px solid {t.accent}; }}
    QTableView::item {{ padding-left: 4px; }}
    QHeaderView::section {{ background: {t.paper}; color: {t.faint}; border: 0; border-bottom: 1px solid {t.rule}; padding: 2px 6px;
        font-size: {SMALL}px; }}
    QHeaderView {{ background: {t.paper}; border: 0; }}
    QTableCornerButton::section {{ background: {t.paper}; border: 0; }}
    QPlainTextEdit {{ background: {t.sheet}; border: 0; border-top: 2px solid transparent; }}
    QLineEdit, QComboBox {{ background: {t.sheet}; color: {t.ink}; border: 1px solid {t.rule}; padding: 2px 5px; min-height: 16px; }}
    QLineEdit:focus, QComboBox:focus {{ border-color: {t.accent}; }}
    QPushButton {{ background: {t.sheet}; color: {t.accent}; border: 1px solid {t.rule}; border-radius: 3px; padding: 3px 10px; }}
    QPushButton:hover {{ background: {t.shade}; }}
    QPushButton:focus {{ border-color: {t.accent}; }}
    QPushButton:disabled {{ color: {t.faint}; }}
    QPushButton[word="true"] {{ background: transparent; border: 1px solid transparent; padding: 2px 5px; }}
    QPushButton[word="true"]:hover {{ background: {t.shade}; }}
    QPushButton[word="true"]:focus {{ border-color: {t.accent}; }}
    QPushButton[word="true"]:checked {{ color: {t.ink}; font-weight: bold; border-bottom: 2px solid {t.ink}; }}
    QScrollBar {{ background: {t.paper}; border: 0; }}
    QScrollBar:vertical {{ width: 9px; }}
    QScrollBar:horizontal {{ height: 9px; }}
    QScrollBar::handle {{ background: {t.rule}; border-radius: 4px; min-width: 24px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QMenu {{ background: {t.sheet}; border: 1px solid {t.rule}; padding: 4px; }}
    QMenu::item {{ padding: 4px 18px; color: {t.ink}; }}
    QMenu::item:selected {{ background: {t.chosen}; }}
    QMenu::item:disabled {{ color: {t.faint}; }}
    QMenu::separator {{ height: 1px; background: {t.rule}; margin: 4px; }}
    """


def elide_middle(text: str, most: int) -> str:
    """Shorten from the middle, so that both ends can still be read."""
    if len(text) <= most or most < 3:
        return text if len(text) <= most else text[:most]
    head = (most - 1) // 2
    return f"{text[:head]}…{text[len(text) - (most - 1 - head) :]}"


DASHED = Qt.PenStyle.DashLine
DOTTED = Qt.PenStyle.DotLine
