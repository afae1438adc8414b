"""Rows of figures: a name, a second figure, a stacked bar and a value; a click asks what is in
it.
"""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QRectF, QSize, Qt
from PySide6.QtGui import QEnterEvent, QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.theme import INSIDE, font, qcolor

ROW = 19
BAR_FROM, BAR_TO = 74, 212  # drawing units: where bars stand
Bar = Sequence[tuple[str, float]]  # roles of areas, and shares of the longest bar


@guarded
class FigureRow(QAbstractButton):
    """One line. With `ask` it can be clicked: what it counts lights up."""

    def __init__(
        self,
        pen: Pen,
        name: str,
        value: str,
        second: str = "",
        bar: Bar = (),
        strong: bool = False,
        ask: Callable[[], object] | None = None,
        tip: str = "",
    ) -> None:
        super().__init__()
        self.pen, self.name, self.value, self.second, self.bar, self.strong = (
            pen,
            name,
            value,
            second,
            bar,
            strong,
        )
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(ROW)
        self.setObjectName(f"figure {name}")
        self.setAccessibleName(f"{name} {value}")
        self.setFocusPolicy(
            Qt.FocusPolicy.StrongFocus if ask is not None else Qt.FocusPolicy.NoFocus
        )
        self.asks = ask is not None
        if ask is not None:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
            self.clicked.connect(lambda _=False: ask())
        self.setToolTip(tip or ("Click to light up what is in this" if ask is not None else ""))

    def sizeHint(self) -> QSize:
        return QSize(INSIDE, ROW)

    def enterEvent(self, event: QEnterEvent) -> None:
        super().enterEvent(event)
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p, theme = QPainter(self), self.pen.theme
        try:
            box = QRectF(self.rect())
            if self.asks and (self.underMouse() or self.hasFocus()):
                p.fillRect(box, qcolor("chrome-2", theme))
            face = font(12, 600 if self.strong else 400)
            p.setFont(face)
            p.setPen(qcolor("ink" if self.strong else "ink-2", theme))
            room = box.width() - QFontMetrics(font(12, 600)).horizontalAdvance(self.value) - 8
            if self.second:
                room = min(room, BAR_FROM + 2) if not self.bar else BAR_FROM - 4
            elif self.bar:
                room = BAR_FROM - 4
            words = QFontMetrics(face).elidedText(self.name, Qt.TextElideMode.ElideRight, int(room))
            middle = Qt.AlignmentFlag.AlignVCenter
            p.drawText(box, middle | Qt.AlignmentFlag.AlignLeft, words)
            p.setFont(font(11.5))
            p.setPen(qcolor("ink-2", theme))
            if self.second:
                p.drawText(
                    box.adjusted(BAR_FROM, 0, 0, 0),
                    middle | Qt.AlignmentFlag.AlignLeft,
                    self.second,
                )
            self._paint_bar(p)
            p.setFont(font(12, 600 if self.strong or self.bar else 400))
            p.setPen(qcolor("ink", theme))
            p.drawText(box, middle | Qt.AlignmentFlag.AlignRight, self.value)
        finally:
            p.end()

    def _paint_bar(self, p: QPainter) -> None:
        x, wide = float(BAR_FROM), float(BAR_TO - BAR_FROM)
        for role, share in self.bar:
            long = wide * share
            p.fillRect(QRectF(x, 4, long, ROW - 8), self.pen.brush(role))
            p.setPen(QPen(qcolor("ink-2", self.pen.theme), 0.8))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(QRectF(x, 4, long, ROW - 8))
            x += long
