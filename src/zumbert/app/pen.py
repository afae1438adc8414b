"""The screen pen: inks marks with a QPainter, by the style table."""

from collections.abc import Iterable
from ctypes import memmove

import numpy as np
import shiboken6
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontMetricsF,
    QPainter,
    QPen,
    QPolygonF,
    QStaticText,
)

from zumbert.app.theme import font, qcolor
from zumbert.drawing.marks import (
    Disc,
    Faded,
    Fill,
    Inset,
    Mark,
    Raster,
    Segments,
    Stroke,
    Text,
    draw_marks,
)
from zumbert.drawing.style import AREAS, LINES, TEXTS, Theme, text_width
from zumbert.geometry.elements import Array

MANY_TEXTS = 6_000  # laid out at most; then all are laid out anew
FEW = 8  # corners: of more, all are copied at once
HUGE = 30_000.0  # drawing units: Qt's rasteriser is not asked for farther


class Pen:
    """Inks marks; pens, brushes and fonts are made once a theme."""

    def __init__(self, theme: Theme) -> None:
        self.turn(theme)

    def turn(self, theme: Theme) -> None:
        """Inks by another theme from now on."""
        self.theme = theme
        self._pens: dict[str, QPen] = {}
        self._brushes: dict[str, QBrush] = {}
        self._fonts: dict[str, tuple[QFont, QColor]] = {}
        self._texts: dict[tuple[str, str], tuple[QStaticText, float]] = {}

    def ink(self, painter: QPainter, marks: Iterable[Mark]) -> None:
        """Draws marks in their order."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_marks(self, marks, painter)

    def pen(self, role: str) -> QPen:
        """The pen of a line role."""
        found = self._pens.get(role)
        if found is None:
            s = LINES[role]
            found = QPen(qcolor(s.colour, self.theme, s.alpha), s.width)
            found.setCapStyle(Qt.PenCapStyle.RoundCap if s.round else Qt.PenCapStyle.FlatCap)
            found.setJoinStyle(Qt.PenJoinStyle.RoundJoin if s.round else Qt.PenJoinStyle.MiterJoin)
            if s.dash:
                found.setDashPattern([d / s.width for d in s.dash])
            self._pens[role] = found
        return found

    def brush(self, role: str) -> QBrush:
        """The brush of an area role."""
        found = self._brushes.get(role)
        if found is None:
            a = AREAS[role]
            found = self._brushes[role] = QBrush(qcolor(a.colour, self.theme, a.alpha))
        return found

    def stroke(self, mark: Stroke, painter: QPainter) -> None:
        painter.setPen(self.pen(mark.role))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        polygon = _polygon(mark.xy)
        if mark.closed:
            painter.drawPolygon(polygon)
        else:
            painter.drawPolyline(polygon)

    def segments(self, mark: Segments, painter: QPainter) -> None:
        xy = np.ascontiguousarray(np.clip(mark.xy, -HUGE, HUGE), np.float64)
        if len(xy):
            painter.setPen(self.pen(mark.role))
            painter.drawLines(shiboken6.wrapInstance(xy.ctypes.data, QLineF), len(xy))  # type: ignore[call-overload]

    def raster(self, mark: Raster, painter: QPainter) -> None:
        from PySide6.QtGui import QImage

        colour = self.brush(mark.role).color()
        rows, columns = mark.strength.shape
        rgba = np.empty((rows, columns, 4), np.uint8)
        rgba[:, :, :3] = colour.red(), colour.green(), colour.blue()
        rgba[:, :, 3] = np.clip(
            np.nan_to_num(mark.strength) * 255 * colour.alphaF(), 0, 255
        ).astype(np.uint8)
        image = QImage(rgba.tobytes(), columns, rows, 4 * columns, QImage.Format.Format_RGBA8888)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(mark.x, mark.y, columns * mark.cell, rows * mark.cell), image)

    def disc(self, mark: Disc, painter: QPainter) -> None:
        painter.setPen(self.pen(mark.edge) if mark.edge else Qt.PenStyle.NoPen)
        painter.setBrush(self.brush(mark.role))
        painter.drawEllipse(QPointF(mark.x, mark.y), mark.radius, mark.radius)

    def faded(self, mark: Faded, painter: QPainter) -> None:
        before = painter.opacity()
        painter.setOpacity(before * mark.strength)
        draw_marks(self, mark.marks, painter)
        painter.setOpacity(before)

    def inset(self, mark: Inset, painter: QPainter) -> None:
        painter.save()
        painter.setClipRect(
            QRectF(mark.x, mark.y, mark.width, mark.height), Qt.ClipOperation.IntersectClip
        )
        painter.translate(mark.x, mark.y)
        painter.scale(mark.scale, mark.scale)
        draw_marks(self, mark.marks, painter)
        painter.restore()

    def fill(self, mark: Fill, painter: QPainter) -> None:
        if mark.edge is None and len(mark.xy) == 4:
            (x0, y0), (x1, y1), (x2, y2), (x3, y3) = mark.xy.tolist()
            if (
                x0 == x3
                and x1 == x2
                and y0 == y1
                and y2 == y3
                and abs(x0) + abs(x1) + abs(y0) + abs(y2) < HUGE
            ):
                painter.fillRect(
                    QRectF(x0, y0, x1 - x0, y2 - y0).normalized(), self.brush(mark.role)
                )
                return
        painter.setPen(self.pen(mark.edge) if mark.edge else Qt.PenStyle.NoPen)
        painter.setBrush(self.brush(mark.role))
        painter.drawPolygon(_polygon(mark.xy))

    def _laid(self, role: str, text: str, face: QFont) -> tuple[QStaticText, float]:
        """A text with its letters laid out, and how far its baseline lies under its top; most
        are drawn again and again.
        """
        found = self._texts.get((role, text))
        if found is None:
            made = QStaticText(text)
            made.setTextFormat(Qt.TextFormat.PlainText)
            made.setPerformanceHint(QStaticText.PerformanceHint.AggressiveCaching)
            made.prepare(font=face)
            if len(self._texts) >= MANY_TEXTS:
                self._texts.clear()
            found = self._texts[role, text] = made, QFontMetricsF(face).ascent()
        return found

    def text(self, mark: Text, painter: QPainter) -> None:
        found = self._fonts.get(mark.role)
        if found is None:
            s = TEXTS[mark.role]
            found = self._fonts[mark.role] = (font(s.size, s.weight), qcolor(s.colour, self.theme))
        face, colour = found
        wide = text_width(mark.text, mark.role) * mark.squeeze
        left = {"left": 0.0, "middle": -wide / 2, "right": -wide}[mark.anchor]
        x, y = mark.x + left, mark.y
        turned = bool(mark.angle) or mark.squeeze != 1.0
        if turned:
            painter.save()
            painter.translate(mark.x, mark.y)
            painter.rotate(mark.angle)
            x, y = left, 0.0
        if mark.plate:
            size = TEXTS[mark.role].size
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.brush("plate"))
            painter.drawRect(QRectF(x - 2, y - size * 0.85, wide + 4, size * 1.12))
        painter.setFont(face)
        painter.setPen(colour)
        laid, ascent = self._laid(mark.role, mark.text, face)
        if mark.squeeze != 1.0:
            painter.scale(mark.squeeze, 1.0)
            x /= mark.squeeze
        painter.drawStaticText(QPointF(x, y - ascent), laid)
        if turned:
            painter.restore()


def _polygon(xy: Array) -> QPolygonF:
    xy = np.ascontiguousarray(np.maximum(np.minimum(xy, HUGE), -HUGE), np.float64)
    if len(xy) < FEW:
        return QPolygonF([QPointF(x, y) for x, y in xy.tolist()])
    polygon = QPolygonF()
    polygon.resize(len(xy))
    memmove(shiboken6.getCppPointer(polygon.data())[0], xy.ctypes.data, xy.nbytes)
    return polygon
