"""Warm paper and ink by day, a dusk theme by night; the shipped typefaces and their sizes."""

from dataclasses import dataclass
from functools import cache

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from eager_owl import ASSETS

# Sizes in points; nothing is smaller than SMALL.
SMALL, TEXT, NUMERAL, HEADING, TITLE = 11, 12, 14, 14, 19


@dataclass(frozen=True)
class Theme:
    """Colours by what they mean. `here` is the one accent for where you are, `pinned` for what you fixed."""

    name: str
    desk: str
    paper: str
    ink: str
    quiet: str
    rule: str
    string: str
    cell: str
    here: str
    on_here: str
    here_wash: str
    pinned: str
    pinned_wash: str
    wave: str
    ribbon: str


DAY = Theme(
    "day",
    desk="#f2eadb",
    paper="#fcf8ee",
    ink="#1d282b",
    quiet="#566260",
    rule="#dfd4be",
    string="#a89c86",
    cell="#e7dfcb",
    here="#9c4c04",
    on_here="#ffffff",
    here_wash="#f9e6c8",
    pinned="#12645a",
    pinned_wash="#d3e6e0",
    wave="#b3c2b8",
    ribbon="#6d7774",
)
DUSK = Theme(
    "dusk",
    desk="#1b212c",
    paper="#252c39",
    ink="#efe8d9",
    quiet="#adb4bb",
    rule="#3b4454",
    string="#657084",
    cell="#343d4d",
    here="#f2a65e",
    on_here="#1b212c",
    here_wash="#4d3d2e",
    pinned="#71c9b8",
    pinned_wash="#27463f",
    wave="#53656a",
    ribbon="#9fb0b4",
)
THEMES = {theme.name: theme for theme in (DAY, DUSK)}


def load_fonts() -> None:
    """Make the shipped typefaces known to Qt."""
    for path in sorted((ASSETS / "fonts").iterdir()):
        if path.suffix in (".otf", ".ttf"):
            QFontDatabase.addApplicationFont(str(path))


@cache
def text_font(points: int = TEXT, bold: bool = False, italic: bool = False) -> QFont:
    """The plain typeface."""
    font = QFont("Cabin", points)
    font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    font.setItalic(italic)
    font.setFeature(QFont.Tag("lnum"), 1)
    return font


@cache
def head_font(points: int = HEADING) -> QFont:
    """The typeface of headings and chord names."""
    font = QFont("Vollkorn", points)
    font.setWeight(QFont.Weight.DemiBold)
    font.setFeature(QFont.Tag("lnum"), 1)  # numerals that stand on the line and read from afar
    return font


def color(name: str) -> QColor:
    """A theme colour for painting."""
    return QColor(name)


def worn() -> Theme:
    """The theme that the application wears."""
    app = QApplication.instance()
    return THEMES.get(str(app.property("theme")) if app else "", DAY)


def apply(theme: Theme) -> None:
    """Dress the whole application in a theme, unless it wears it already."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    if app.property("theme") == theme.name:
        return
    app.setProperty("theme", theme.name)
    app.setStyle("Fusion")
    app.setFont(text_font())
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, name in (
        (roles.Window, theme.desk), (roles.WindowText, theme.ink), (roles.Base, theme.paper),
        (roles.AlternateBase, theme.cell), (roles.Text, theme.ink), (roles.Button, theme.paper),
        (roles.ButtonText, theme.ink), (roles.Highlight, theme.here), (roles.HighlightedText, theme.on_here),
        (roles.PlaceholderText, theme.quiet), (roles.ToolTipBase, theme.paper), (roles.ToolTipText, theme.ink),
    ):  # fmt: skip
        palette.setColor(role, QColor(name))
    app.setPalette(palette)
    arrow = (ASSETS / f"arrow-{theme.name}.svg").as_posix()
    app.setStyleSheet(_STYLE.format(**vars(theme), arrow=arrow))


_STYLE = """
QFrame#card {{ background: {paper}; border: 1px solid {rule}; border-radius: 7px; }}
QFrame[way="other"] {{ background: {paper}; border: 1px solid {rule}; border-radius: 6px; }}
QFrame[way="here"] {{ background: {here_wash}; border: 2px solid {here}; border-radius: 6px; }}
QLabel[row="other"] {{ border-left: 3px solid {rule}; padding: 2px 0 2px 8px; }}
QLabel[row="here"] {{ border-left: 3px solid {here}; background: {here_wash}; padding: 2px 0 2px 8px; }}
QLabel[row="other"]:focus, QLabel[row="here"]:focus {{ border: 2px solid {ink}; border-left: 3px solid {ink};
    padding: 0 0 0 8px; }}
QLabel {{ background: transparent; color: {ink}; }}
QLabel[quiet="true"] {{ color: {quiet}; }}
QLabel[complaint="true"], QLabel[loud="true"] {{ color: {here}; }}
QFrame[rule="true"] {{ background: {rule}; }}
QPushButton {{ background: {paper}; color: {ink}; border: 1px solid {rule}; border-radius: 7px;
    padding: 5px 11px; min-height: 22px; }}
QPushButton[close="true"] {{ padding: 5px 6px; }}
QPushButton[large="true"] {{ min-height: 44px; }}
QPushButton:hover {{ border-color: {quiet}; }}
QPushButton:focus {{ border: 2px solid {ink}; padding: 4px 10px; outline: none; }}
QPushButton:checked {{ background: {here_wash}; border: 2px solid {here}; padding: 4px 10px; }}
QPushButton[close="true"]:checked, QPushButton[close="true"]:focus {{ padding: 4px 5px; }}
QPushButton:disabled {{ color: {quiet}; border-style: dashed; }}
QPushButton[loud="true"] {{ background: {here}; color: {on_here}; border-color: {here}; }}
QPushButton[pin="true"] {{ background: {pinned_wash}; color: {ink}; border-color: {pinned}; }}
QPushButton[loud="true"]:disabled, QPushButton[pin="true"]:disabled {{ background: {paper}; color: {quiet};
    border-color: {rule}; }}
QPushButton[flat="true"] {{ background: transparent; border-color: transparent; padding: 1px 6px; }}
QPushButton[flat="true"]:hover {{ border-color: {string}; }}
QPushButton[flat="true"]:focus {{ border-color: {ink}; }}
QPushButton::menu-indicator {{ image: none; }}
QLineEdit, QPlainTextEdit, QSpinBox, QDoubleSpinBox, QComboBox {{ background: {paper}; color: {ink};
    border: 1px solid {string}; border-radius: 5px; padding: 3px 6px; selection-background-color: {here};
    selection-color: {on_here}; }}
QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus {{ border: 2px solid {here}; padding: 2px 5px; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url({arrow}); width: 10px; height: 6px; }}
QComboBox QAbstractItemView {{ background: {paper}; color: {ink}; selection-background-color: {here}; }}
QMenu {{ background: {paper}; color: {ink}; border: 1px solid {string}; padding: 4px; }}
QMenu::item {{ padding: 5px 26px 5px 14px; border-radius: 4px; }}
QMenu::item:selected {{ background: {here}; color: {on_here}; }}
QMenu::item:disabled {{ color: {quiet}; }}
QScrollArea {{ background: transparent; border: none; }}
QScrollArea > QWidget > QWidget {{ background: transparent; }}
QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
QScrollBar::handle:vertical {{ background: {string}; border-radius: 4px; min-height: 30px; }}
QScrollBar::handle:horizontal {{ background: {string}; border-radius: 4px; min-width: 30px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QProgressBar {{ background: {cell}; border: none; border-radius: 4px; height: 8px; text-align: center; }}
QProgressBar::chunk {{ background: {here}; border-radius: 4px; }}
QToolTip {{ background: {paper}; color: {ink}; border: 1px solid {string}; padding: 4px; }}
"""
