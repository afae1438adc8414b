"""Icons drawn for this program: 24 by 24, no fill, one stroke weight."""

from functools import cache

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from zumbert.drawing.style import Theme, colour

PATHS: dict[str, str] = {
    "ground": "M2.5 18.5c3-4.5 5.5-6 9-4.5s6 1 10-3.5 M2.5 13c3-4 5-5.5 8.5-4.2s5.5 "
    "1.2 8-2.3 M5 7.5c1.8-2 3.6-2.8 5.8-2 "
    "M2.5 21.5h19",
    "layout": "M5.2 18.3 10 12.6 M12.9 10.4 17.8 6.6 M6.2 19.5a2 2 0 1 1-4 0a2 2 0 0 1 4 0 "
    "M13.4 11.3a2 2 0 1 1-4 0a2 2 0 0 1 4 0 M21.5 5.2a2 2 0 1 1-4 0a2 2 0 0 "
    "1 4 0 M14.5 19.5h7 M18 16v7",
    "levels": (
        "M4 3.5v17 M20 6.5v14 M2 3.5h4 M18 6.5h4 M4 12.2 20 15.4 M4 15.2 20 18.4 M12 10.2V4.5 "
        "M10 6.5l2-2 2 2"
    ),
    "flow": "M12 3c3.4 4.4 5.2 7.4 5.2 10a5.2 5.2 0 0 1-10.4 0C6.8 10.4 8.6 7.4 12 3 "
    "M3 21.2c1.5-1 3-1 4.5 0s3 1 4.5 0 3-1 4.5 0 3 1 4.5 0",
    "checks": (
        "M3 7.5h18 M3 17.5h18 M9.2 7.5l2.8 4.6 2.8-4.6 M15.5 14l1.6-2 M5 17.5v3 M19 17.5v3 M12 "
        "17.5v3"
    ),
    "trench": "M2 5.5h4.2L8.6 14v6.5h6.8V14l2.4-8.5H22 M15 16.9a3 3 0 1 1-6 0a3 3 0 0 1 6 0",
    "deliver": "M4 3.5h16v17H4z M12.5 20.5v-5.5H20 M12.5 17.7H20 M7 11c2-3.5 4-3.8 "
    "5.5-2.2S15.5 10 17 7",
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
    """Draws an icon into a painter."""
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
        f'<path d="{PATHS[name]}"/></svg>'
    )
    return QSvgRenderer(QByteArray(svg.encode()))
