"""Fonts, colours and the style sheet of the window, all from the style table."""

from functools import lru_cache
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from zumbert.drawing.style import COLOUR_ROLES, FAMILY, Theme, colour

# widths, in drawing units at 100 %
RAIL, PANEL = 72, 320  # the stages at the left, the panel at the right
INSIDE = 288  # of a panel without its margins
NAMES = 98  # column of names in a panel
FIELD, LONG_FIELD = 150, 200  # fields of a panel, and those of names
VALUE, BAR = 76, 112  # a value with its unit, the range bar beside it
PIPES_HERE = (60, 40, 30, 54, 46, 46)  # columns of the pipes at a structure
FOLLOWS = (142, 62, 70)  # columns of what follows from a drag
ASIDES_WIDE = 196  # a name and the word beside it
REMARKS = 190  # column of remarks in a table

FONTS = Path(__file__).parents[1] / "fonts"


def load_fonts() -> None:
    """The shipped face; without it a machine with no fonts would draw boxes. Unpacked fonts load
    in a quarter of the time.
    """
    for name in ("Regular", "SemiBold"):
        QFontDatabase.addApplicationFont(str(FONTS / f"IBMPlexSans-{name}.ttf"))


@lru_cache(maxsize=256)
def font(size: float = 12.0, weight: int = 400) -> QFont:
    """The face at a size in pixels; shared, so never changed."""
    f = QFont(FAMILY)
    f.setPixelSize(round(size))
    f.setWeight(QFont.Weight(weight))
    f.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return f


@lru_cache(maxsize=512)
def qcolor(role: str, theme: Theme, alpha: float = 1.0) -> QColor:
    """A colour of the style table; shared, so never changed."""
    c = QColor(colour(role, theme))
    c.setAlphaF(alpha)
    return c


def restyle(widget: QWidget) -> None:
    """Applies the style sheet again after a property that it depends on has changed."""
    widget.style().unpolish(widget)
    widget.style().polish(widget)


def apply_theme(app: QApplication, theme: Theme) -> None:
    """Sets font, palette and style sheet of the whole program; its style is chosen where it
    starts.
    """
    app.setFont(font())
    palette = QPalette()
    for part, role in (
        (QPalette.ColorRole.Window, "chrome"),
        (QPalette.ColorRole.WindowText, "ink"),
        (QPalette.ColorRole.Base, "field"),
        (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.Button, "chrome"),
        (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.Highlight, "halo"),
        (QPalette.ColorRole.HighlightedText, "ink"),
        (QPalette.ColorRole.ToolTipBase, "field"),
        (QPalette.ColorRole.ToolTipText, "ink"),
        (QPalette.ColorRole.PlaceholderText, "ink-2"),
    ):
        palette.setColor(part, qcolor(role, theme))
    app.setPalette(palette)
    app.setStyleSheet(_sheet(theme))


def _sheet(theme: Theme) -> str:
    sheet = _SHEET
    for role in sorted(COLOUR_ROLES, key=len, reverse=True):
        sheet = sheet.replace(f"@{role};", f"{colour(role, theme)};").replace(
            f"@{role} ", f"{colour(role, theme)} "
        )
    return sheet


_SHEET = """
QWidget { font-family: "IBM Plex Sans"; font-size: 12px; }
QMainWindow, QDialog, QMessageBox { background: @chrome; }
QWidget#head { background: @chrome; border-bottom: 1px solid @soft; }
QWidget#foot { background: @chrome; border-top: 1px solid @soft; }
QWidget#rail { background: @chrome; border-right: 1px solid @soft; }
QWidget#panel, QWidget#panelbody { background: @chrome; }
QScrollArea#panelscroll { background: @chrome; border: none; border-left: 1px solid @soft; }
QWidget#sectionhead { background: @chrome; border-top: 1px solid @soft;
    border-bottom: 1px solid @soft; }
QLabel { color: @ink; background: transparent; }
QLabel[role="title"] { font-size: 15px; font-weight: 600; }
QLabel[role="strong"] { font-size: 13px; font-weight: 600; }
QLabel[role="section"] { font-size: 12px; font-weight: 600; }
QLabel[role="second"] { color: @ink-2; }
QLabel[role="decided"] { color: @ink-2; font-weight: 600; }
QLabel[role="small"] { color: @ink-2; font-size: 11px; }
QLabel[role="breach"] { color: @breach; font-weight: 600; }
QLabel[role="breach-note"] { color: @breach; font-size: 11px; }
QLabel[role="caution"] { color: @caution; font-weight: 600; }
QFrame[role="rule"] { background: @soft; max-height: 1px; min-height: 1px; border: none; }
QScrollArea#striparea { background: @chrome; border: none; }
QFrame#regrade { background: @chrome; border-bottom: 1px solid @soft; }
QFrame#entry { background: @paper; border: 1px solid @ink; border-radius: 4px; }
QFrame#entryhead { background: @chrome; border: none; border-bottom: 1px solid @soft;
    border-top-left-radius: 4px;
    border-top-right-radius: 4px; }
QFrame#entrybody { border: none; background: @paper; border-bottom-left-radius: 4px;
    border-bottom-right-radius: 4px; }
QLineEdit { background: @field; color: @ink; border: 1px solid @soft; border-radius: 3px;
    padding: 1px 5px;
    selection-background-color: @halo; selection-color: @ink; }
QLineEdit:focus { border: 1px solid @ink; }
QLineEdit:disabled { color: @ink-2; background: @chrome; }
QLineEdit[role="value"] { background: transparent; border: 1px solid transparent; font-size: 13px;
    padding: 0 3px; }
QLineEdit[role="value"]:hover { border: 1px solid @soft; background: @field; }
QLineEdit[role="value"]:focus { border: 1px solid @ink; background: @field; font-weight: 600; }
QLineEdit[role="value"][bad="true"] { color: @breach; font-weight: 600; }
QLineEdit[role="value"]:read-only:hover { border: 1px solid transparent; background: transparent; }
QLineEdit[role="cell"] { border: 1px solid @ink; border-radius: 2px; padding: 0; font-size: 12px; }
QPushButton { background: @field; color: @ink; border: 1px solid @ink-2; border-radius: 4px;
    padding: 0 9px;
    min-height: 24px; }
QPushButton:hover { background: @chrome-2; }
QPushButton:focus { border: 2px solid @ink; padding: 0 8px; }
QPushButton:disabled { color: @ink-2; border-color: @soft; }
QPushButton[role="fix"] { text-align: left; }
QPushButton[role="chip"] { border-radius: 10px; min-height: 18px; max-height: 18px; padding: 0 8px;
    background: @paper;
    color: @ink-2; border: 1px solid @soft; font-size: 11px; }
QPushButton[role="chip"]:checked { color: @ink; border: 1px solid @ink; }
QPushButton[role="eye"] { border: none; background: transparent; min-height: 22px;
    max-height: 22px; padding: 0; }
QPushButton[role="item"] { border: 1px solid transparent; background: transparent;
    text-align: left; min-height: 20px;
    max-height: 20px; padding: 0 5px; border-radius: 4px; }
QPushButton[role="item"]:hover { background: @chrome-2; }
QPushButton[role="item"]:focus { border: 1px solid @ink-2; padding: 0 5px; }
QPushButton[role="item"]:checked { background: @field; border: 1px solid @ink; font-weight: 600; }
QPushButton[role="rail"] { border: none; background: transparent; border-radius: 0;
    min-height: 62px; max-height: 62px; }
QPushButton[role="mark"] { border: none; background: transparent; min-height: 43px;
    max-height: 43px; }
QPushButton[role="segment"] { border: 1px solid transparent; background: @chrome-2;
    min-height: 21px; padding: 0 8px;
    color: @ink-2; }
QPushButton[role="segment"]:checked { background: @field; border: 1px solid @ink; color: @ink;
    font-weight: 600; }
QPushButton[role="recent"] { text-align: left; padding: 8px 10px; border: 1px solid @soft;
    border-radius: 6px; background: @paper; }
QPushButton[role="recent"]:hover, QPushButton[role="recent"]:focus { border: 1px solid @ink; }
QScrollArea#welcome { border: none; background: @chrome; }
QPushButton[role="finding"] { text-align: left; border: 1px solid transparent;
    background: transparent; padding: 4px 6px;
    border-radius: 4px; }
QPushButton[role="bar"] { border: none; background: transparent; min-height: 18px;
    max-height: 18px; padding: 0;
    border-radius: 3px; }
QPushButton[role="bar"]:hover, QPushButton[role="bar"]:checked, QPushButton[role="bar"]:focus {
    background: @chrome-2; }
QPushButton[role="finding"]:focus { border: 1px solid @ink-2; padding: 4px 6px; }
QPushButton[role="finding"]:hover { background: @chrome-2; }
QPushButton[role="finding"]:checked { background: @field; border: 1px solid @ink; }
QComboBox { background: @field; color: @ink; border: 1px solid @soft; border-radius: 4px;
    padding: 0 8px; min-height: 21px; }
QComboBox:focus { border: 1px solid @ink; }
QComboBox::drop-down { border: none; width: 18px; }
QComboBox QAbstractItemView { background: @field; color: @ink; border: 1px solid @ink;
    outline: none;
    selection-background-color: @chrome-2; selection-color: @ink; }
QListWidget { background: @field; color: @ink; border: 1px solid @soft; border-radius: 4px;
    outline: none; }
QListWidget:focus { border: 1px solid @ink; }
QListWidget::item { padding: 4px 6px; border-radius: 3px; }
QListWidget::item:hover { background: @chrome-2; }
QListWidget::item:selected { background: @chrome-2; color: @ink; }
QMenu { background: @field; color: @ink; border: 1px solid @ink-2; padding: 4px; }
QMenu::item { padding: 4px 24px 4px 12px; border-radius: 3px; }
QMenu::item:selected { background: @chrome-2; }
QMenu::item:disabled { color: @ink-2; }
QMenu::separator { height: 1px; background: @soft; margin: 4px 6px; }
QCheckBox { color: @ink; spacing: 6px; }
QSplitter::handle { background: @soft; }
QSplitter::handle:vertical { height: 1px; }
QSplitter::handle:horizontal { width: 1px; }
QScrollBar:vertical { background: @chrome; width: 8px; margin: 0; }
QScrollBar::handle:vertical { background: @soft; border-radius: 4px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QScrollBar:horizontal { background: @chrome; height: 8px; margin: 0; }
QScrollBar::handle:horizontal { background: @soft; border-radius: 4px; min-width: 24px; }
QLabel#aside { background: @field; color: @ink; border: 1px solid @ink; padding: 2px 6px; }
QToolTip { background: @field; color: @ink; border: 1px solid @ink-2; padding: 3px; }
QHeaderView::section { background: @chrome; color: @ink-2; border: none;
    border-bottom: 1px solid @soft; font-size: 11px;
    padding: 1px 2px; }
QTableCornerButton::section { background: @chrome; border: none; }
QTableView::item:selected { background: @halo; color: @ink; }
QProgressBar { background: @chrome-2; border: none; border-radius: 4px; }
QProgressBar::chunk { background: @storm; border-radius: 4px; }
QSlider::groove:horizontal { height: 4px; background: @chrome-2; border-radius: 2px; }
QSlider::handle:horizontal { width: 12px; height: 12px; margin: -5px 0; border-radius: 6px;
    background: @field;
    border: 1px solid @ink; }
QSlider::handle:horizontal:focus { border: 2px solid @ink; }
QTableView::item { padding: 0 2px; }
QTableView { font-size: 11px; background: @paper; color: @ink; gridline-color: @hair;
    border: 1px solid @soft; }
"""
