"""A drawing in layers: pixmaps that are drawn anew only when their key changes, and marks that
are drawn each time.
"""

from collections.abc import Callable
from typing import Any, NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.theme import qcolor
from zumbert.drawing.marks import Mark


class Stretched(NamedTuple):
    """A pixmap that stands for a drawing while one zooms: a place p of it lies at (x, y) + (kx,
    ky) p, inside a box.
    """

    pixmap: QPixmap
    x: float
    y: float
    kx: float
    ky: float
    box: QRectF


class Clipped(NamedTuple):
    """Marks that are drawn each time, inside a box alone."""

    marks: list[Mark]
    box: QRectF


# a pixmap and where it lies, one that is stretched, or marks that are drawn each time
Layer = tuple[QPixmap, float, float] | Stretched | Clipped | list[Mark]


@guarded
class Layered(QWidget, Reader):
    """Draws its layers and what lies over them. It is painted again when something that it read
    has changed.
    """

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.ringed = False  # the keyboard came by a key: where it is shows
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        session.changed.connect(self.follow)

    def refresh(self) -> None:
        self.update()

    def layer(
        self,
        name: str,
        own: tuple[Any, ...],
        make: Callable[[State], list[Mark]],
        margin: int = 0,
        paper: bool = False,
    ) -> QPixmap:
        """The pixmap of a layer, wider than the view by a margin all round; `make` gives its marks
        from the state and values of the view's own, when one of those has changed. On paper nothing
        shines through: it is drawn the faster.
        """
        return self.kept(name, (*own, *self.looks), lambda s: self._inked(make(s), margin, paper))

    @property
    def looks(self) -> tuple[Any, ...]:
        """The values that each pixmap depends on besides its marks."""
        return self.size().toTuple(), self.devicePixelRatioF(), self.pen.theme

    def _inked(self, marks: list[Mark], margin: int, paper: bool) -> QPixmap:
        pixmap = QPixmap()
        if marks or paper:
            pixmap = self.blank(margin, paper)
            painter = QPainter(pixmap)
            try:
                self.pen.ink(painter, marks)
            finally:
                painter.end()
        return pixmap

    def blank(self, margin: int, paper: bool) -> QPixmap:
        """A pixmap to draw a layer on, wider than the view by a margin all round."""
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap((self.size() + QSize(2 * margin, 2 * margin)) * ratio)
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(qcolor("paper", self.pen.theme) if paper else Qt.GlobalColor.transparent)
        return pixmap

    def layers(self) -> list[Layer]:
        """The layers of this drawing, the lowest first."""
        return []

    def overlay(self) -> list[Mark]:
        """The marks drawn over the pixmaps each time."""
        return []

    def paintEvent(self, event: QPaintEvent) -> None:
        with self.reading():
            self._paint()

    def _paint(self) -> None:
        painter = QPainter(self)
        try:
            for layer in self.layers():
                if isinstance(layer, list):
                    self.pen.ink(painter, layer)
                elif isinstance(layer, Clipped):
                    painter.setClipRect(layer.box)
                    self.pen.ink(painter, layer.marks)
                    painter.setClipping(False)
                elif isinstance(layer, Stretched):
                    painter.save()
                    painter.setClipRect(layer.box)
                    painter.translate(layer.x, layer.y)
                    painter.scale(layer.kx, layer.ky)
                    painter.drawPixmap(QPointF(0.0, 0.0), layer.pixmap)
                    painter.restore()
                else:
                    painter.drawPixmap(QPointF(layer[1], layer[2]), layer[0])
            self.pen.ink(painter, self.overlay())
            if self.ringed:
                painter.setPen(QPen(qcolor("ink", self.pen.theme), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        finally:
            painter.end()
