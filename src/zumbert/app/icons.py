"""Icons drawn for this program: 24 by 24, no fill, one stroke weight."""

from functools import cache

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from zumbert.drawing.style import Theme, colour

PATHS: dict[str, str] = {
    "tables": "M2 5h20v14H2z M2 10h20 M9 10v9",
    "mark": "M4 4v16 M20 4v16 M2 4h4 M18 4h4 M4 9 20 13 M4 14 20 18",
    "run": "M4.5 17.5 10.5 12.5 M13.5 10.8 19 6.5 M5.5 18.5a1.8 1.8 0 1 1-3.6 0a1.8 "
    "1.8 0 0 1 3.6 0 "
    "M13.8 11.6a1.8 1.8 0 1 1-3.6 0a1.8 1.8 0 0 1 3.6 0 M22 5.4a1.8 1.8 0 1 "
    "1-3.6 0a1.8 1.8 0 0 1 3.6 0",
    "chevron": "M6 9l6 6 6-6",
    "eye": (
        "M2.5 12s3.7-6.5 9.5-6.5 9.5 6.5 9.5 6.5-3.7 6.5-9.5 6.5S2.5 12 2.5 12 M15 12a3 3 0 1 "
        "1-6 0a3 3 0 0 1 6 0"
    ),
    "eye-off": "M2.5 12s3.7-6.5 9.5-6.5 9.5 6.5 9.5 6.5-3.7 6.5-9.5 6.5S2.5 12 2.5 12 "
    "M4.5 19.5 19.5 4.5",
    "find": "M16 10a6 6 0 1 1-12 0a6 6 0 0 1 12 0 M14.5 14.5 20.5 20.5",
}


def painted(
    painter: QPainter, name: str, role: str, theme: Theme, x: float, y: float, size: float
) -> None:
    """Draws an icon into a painter: one of the program by its name, another by its path."""
    _renderer(name, role, theme).render(painter, QRectF(x, y, size, size))


def icon(name: str, role: str, theme: Theme) -> QIcon:
    """An icon for buttons and menus."""
    pixmap = QPixmap(48, 48)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    try:
        painted(painter, name, role, theme, 0, 0, 48)
    finally:
        painter.end()
    return QIcon(pixmap)


@cache
def _renderer(name: str, role: str, theme: Theme) -> QSvgRenderer:
    svg = (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24" fill="none" '
        f'stroke="{colour(role, theme)}" stroke-width="1.5" stroke-linecap="round" '
        'stroke-linejoin="round">'
        f'<path d="{PATHS.get(name, name)}"/></svg>'
    )
    return QSvgRenderer(QByteArray(svg.encode()))
