"""A sheet on the screen: as it is printed, zoomed and moved with the hand, its labels moved by
hand.
"""

from collections.abc import Callable
from math import hypot

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import (
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from zumbert.analysis.facts import Facts
from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.theme import qcolor
from zumbert.app.tools.labeldrag import UP
from zumbert.app.tools.near import STRAY
from zumbert.delivery.paper import Page, windows_of
from zumbert.drawing.marks import Disc, Fill, Inset, Mark, Stroke, Target, Text, points, texts_in
from zumbert.drawing.plan import label_base
from zumbert.drawing.sight import MapSight, StraightSight
from zumbert.drawing.style import Inks
from zumbert.drawing.targets import Targets

LATER = 60  # ms after the last step of a zoom or move the sheet is drawn sharp again
BESIDE = 0.5  # of the view that is drawn beyond each of its edges
AROUND = 18.0  # pixels round a sheet that is fitted
LEAST, MOST = 0.05, 40.0  # pixels a unit
ZOOM = 1.25
PICTURE = 150  # dots to the inch of a sheet's picture
DOTS = 96 / 25.4  # pixels in a mm, at 1:1

MoveLabel = Callable[[str, tuple[float, float]], None]


@guarded
class SheetView(QWidget):
    """idle -press on a label-> label in hand -release-> idle (moved); -press elsewhere-> moving
    the sheet. Esc: as it was.
    """

    def __init__(self, pen: Pen, move_label: MoveLabel, turn: Callable[[int], None]) -> None:
        super().__init__()
        self.pen, self._move_label, self._turn = pen, move_label, turn
        self.inks = Pen("colour")
        self.page: Page | None = None
        self.facts: Facts | None = None
        self.zoom = 1.0  # pixels a unit
        self.origin = QPointF(0.0, 0.0)  # pixels: where the page's corner lies
        self.words = ""  # what stands where there is no page
        self._fitted = True
        # what was drawn: of which page, at which zoom, its part
        self._made: tuple[Page, float, QRectF, QPixmap] | None = None
        self._targets = Targets()
        # "pan" or a label's key, and where it was pressed
        self._hand: tuple[str, QPointF] | None = None
        self._at = QPointF(0.0, 0.0)
        self._hover: Target | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER)
        self._later.timeout.connect(self._sharpen)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 200)
        self.setAccessibleName("Sheet")
        self.setObjectName("sheet")

    def show_page(self, page: Page | None, facts: Facts | None, inks: Inks, words: str) -> None:
        """Shows a page as it is printed, or words where there is none."""
        if self.inks.theme != inks:
            self.inks, self._made = Pen(inks), None
        before = self.page
        self.page, self.facts, self.words = page, facts, words
        self._targets = Targets(page.targets if page is not None else ())
        self._hand = None
        if page is not None and (
            before is None
            or self._fitted
            or (before.width, before.height) != (page.width, page.height)
        ):
            self.fit()
        self._look_again()
        self._sharpen()

    # -- what is in sight --------------------------------------------------------------------------

    def fit(self) -> None:
        """Shows the whole sheet."""
        if self.page is None:
            return
        wide, tall = self.page.units
        self.zoom = max(
            LEAST, min((self.width() - 2 * AROUND) / wide, (self.height() - 2 * AROUND) / tall)
        )
        self.origin = QPointF(
            (self.width() - wide * self.zoom) / 2, (self.height() - tall * self.zoom) / 2
        )
        self._fitted = True
        self._moved()

    def one_to_one(self) -> None:
        """As large as it is on paper, on a screen of 96 dots to the inch."""
        if self.page is not None:
            self._zoom_to(self.page.unit * DOTS, QPointF(self.width() / 2, self.height() / 2))

    def _zoom_to(self, zoom: float, at: QPointF) -> None:
        zoom = min(MOST, max(LEAST, zoom))
        self.origin = at + (self.origin - at) * (zoom / self.zoom)
        self.zoom = zoom
        self._fitted = False
        self._moved()

    def _moved(self) -> None:
        self._later.start()
        self._look_again()
        self.update()

    def _look_again(self) -> None:
        """The sheet has moved under the mouse, or is another: the label that lies there now is
        the one pointed at.
        """
        if self._hand is None:
            self._hover = self.label_under(self._at) if self.underMouse() else None
            self.setCursor(
                Qt.CursorShape.SizeAllCursor
                if self._hover is not None
                else Qt.CursorShape.ArrowCursor
            )

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._fitted:
            self.fit()
        self._moved()

    def place(self, at: QPointF) -> tuple[float, float]:
        """The place of the page, in its units, under a pixel."""
        p = (at - self.origin) / self.zoom
        return p.x(), p.y()

    # -- drawing -----------------------------------------------------------------------------------

    def _sharpen(self) -> None:
        """Draws what is in sight, and what lies beside it, at the zoom of now."""
        self._later.stop()
        if self.page is None or not self.width():
            self._made = None
            self.update()
            return
        wide, tall = self.page.units
        sight = QRectF(
            -self.origin.x() / self.zoom,
            -self.origin.y() / self.zoom,
            self.width() / self.zoom,
            self.height() / self.zoom,
        )
        more = sight.adjusted(
            -BESIDE * sight.width(),
            -BESIDE * sight.height(),
            BESIDE * sight.width(),
            BESIDE * sight.height(),
        )
        part = more.intersected(QRectF(0, 0, wide, tall))
        if self._made is not None and self._made[0] is self.page and self._made[1] == self.zoom:
            if self._made[2].contains(sight.intersected(QRectF(0, 0, wide, tall))):
                self.update()
                return
        if part.isEmpty():
            self._made = None
            self.update()
            return
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(
            max(1, round(part.width() * self.zoom * ratio)),
            max(1, round(part.height() * self.zoom * ratio)),
        )
        pixmap.fill(Qt.GlobalColor.white)
        painter = QPainter(pixmap)
        try:
            painter.scale(self.zoom * ratio, self.zoom * ratio)
            painter.translate(-part.x(), -part.y())
            self.inks.ink(painter, self.page.marks)
        finally:
            painter.end()
        self._made = self.page, self.zoom, part, pixmap
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        try:
            painter.fillRect(self.rect(), qcolor("chrome-2", self.pen.theme))
            if self.page is None:
                painter.setPen(qcolor("ink-2", self.pen.theme))
                painter.drawText(
                    self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.words
                )
                return
            wide, tall = self.page.units
            paper = QRectF(self.origin.x(), self.origin.y(), wide * self.zoom, tall * self.zoom)
            painter.fillRect(paper, Qt.GlobalColor.white)
            if self._made is not None:
                part = self._made[2]
                box = QRectF(self.origin + part.topLeft() * self.zoom, part.size() * self.zoom)
                painter.setRenderHint(
                    QPainter.RenderHint.SmoothPixmapTransform, self._made[1] != self.zoom
                )
                painter.drawPixmap(box, self._made[3], QRectF(self._made[3].rect()))
            painter.setPen(qcolor("soft", self.pen.theme))
            painter.drawRect(paper)
            painter.translate(self.origin)
            painter.scale(self.zoom, self.zoom)
            self.inks.ink(painter, self._over())
        finally:
            painter.end()

    def _over(self) -> list[Mark]:
        """The label under the pointer, or in hand where it would lie, with a line to its thing."""
        if self._hover is None or self.page is None:
            return []
        low, high = self._hover.xy.min(axis=0), self._hover.xy.max(axis=0)
        (x0, y0), (x1, y1) = low.tolist(), high.tolist()
        ring = points((x0 - 4, y0 - 8), (x1 + 4, y0 - 8), (x1 + 4, y1 + 8), (x0 - 4, y1 + 8))
        if self._hand is None or self._hand[0] == "pan":
            return [Stroke("legal", ring, closed=True)]
        dx, dy = ((self._at - self._hand[1]) / self.zoom).toTuple()
        out: list[Mark] = [Fill("plate", ring + np.array([dx, dy]), "legal")]
        base = self._base(self._hover)
        if base is not None:
            out += [
                Stroke("leader", points(base[:2], ((x0 + x1) / 2 + dx, (y0 + y1) / 2 + dy))),
                Disc("ink", *base[:2], 2.0),
            ]
        words = self._words(self._hover)
        return [*out, Text("strong", words, (x0 + x1) / 2 + dx, (y0 + y1) / 2 + UP + dy, "middle")]

    def _words(self, target: Target) -> str:
        """The text that a target is the line of."""
        if self.page is None:
            return ""
        x, y = target.xy.mean(axis=0).tolist()
        near = [
            (hypot(t.x + m.x - x, t.y + m.y - y), t.text)
            for m in self.page.marks
            if isinstance(m, Inset)
            for t in texts_in([m])
        ]
        return min(near)[1] if near else ""

    def picture(self, wide: int = 0) -> QImage:
        """The whole sheet at 150 dots to the inch, however wide the view."""
        if self.page is None:
            return QImage()
        by = self.page.unit / 25.4 * PICTURE
        across, tall = self.page.units
        image = QImage(round(across * by), round(tall * by), QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.white)
        painter = QPainter(image)
        try:
            painter.scale(by, by)
            self.inks.ink(painter, self.page.marks)
        finally:
            painter.end()
        return image

    # -- labels ------------------------------------------------------------------------------------

    def _base(self, target: Target) -> tuple[float, float, float, float] | None:
        """Where the thing of a label lies on the page, and how far (units) its label lies from
        it now.
        """
        if self.page is None or self.facts is None:
            return None
        x, y = target.xy.mean(axis=0).tolist()
        for window, m in windows_of(self.page.marks):
            inside = m.x <= x <= m.x + m.width and m.y <= y <= m.y + m.height
            if inside and isinstance(window.sight, (MapSight, StraightSight)):
                bx, by = label_base(self.facts, target.id, window.sight)
                (x0, y0), (x1, y1) = target.xy.tolist()
                turn = float(np.arctan2(y1 - y0, x1 - x0))
                tx, ty = (
                    (x0, y0)
                    if target.id in self.facts.project.structures
                    else ((x0 + x1) / 2, (y0 + y1) / 2)
                )
                bx, by = bx + m.x, by + m.y
                return bx, by, tx - UP * np.sin(turn) - bx, ty + UP * np.cos(turn) - by
        return None

    def label_under(self, at: QPointF) -> Target | None:
        """The label under a pixel."""
        near = [t for t in self._targets.near(*self.place(at)) if t[0].kind == "label"]
        if not near:
            return None
        key = min(near, key=lambda t: t[1])[0].id
        # its first line
        return next(t for t in self._targets.all if t.kind == "label" and t.id == key)

    # -- hands -------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self._at = at
        label = self.label_under(at) if event.button() == Qt.MouseButton.LeftButton else None
        self._hand = (str(label.id) if label is not None else "pan", at)
        self._hover = label

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._hand is not None and self._hand[0] == "pan":
            self.origin += at - self._at
            self._fitted = False
            self._moved()
        self._at = at
        self._look_again()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        hand, hover, self._hand = self._hand, self._hover, None
        if hand is None or hand[0] == "pan" or hover is None:
            return
        moved = event.position() - hand[1]
        base = self._base(hover)
        if base is not None and hypot(*moved.toTuple()) > STRAY:
            by = moved / self.zoom
            self._move_label(hand[0], (round(base[2] + by.x(), 1), round(base[3] + by.y(), 1)))
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps, self._at = event.angleDelta().y() / 120, event.position()
        if steps and self._hand is None:
            self._zoom_to(self.zoom * ZOOM**steps, event.position())
        event.accept()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._fitted:
            self.one_to_one()
        else:
            self.fit()

    def leaveEvent(self, event: object) -> None:
        if self._hand is None:
            self._hover = None
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {
            Qt.Key.Key_Left: (1, 0),
            Qt.Key.Key_Right: (-1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self._hand is not None:
            self._hand = None
            self.update()
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            by = 1 / ZOOM if event.key() == Qt.Key.Key_Minus else ZOOM
            self._zoom_to(self.zoom * by, QPointF(self.width() / 2, self.height() / 2))
        elif event.key() == Qt.Key.Key_1:
            self.one_to_one()
        elif step is not None:
            self.origin += QPointF(60.0 * step[0], 60.0 * step[1])
            self._fitted = False
            self._moved()
        else:
            super().keyPressEvent(event)
