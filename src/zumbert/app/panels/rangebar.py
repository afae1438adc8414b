"""A value's place in the range that the rules allow."""

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.theme import font, qcolor
from zumbert.drawing.marks import notch


class Scale(Struct, frozen=True, kw_only=True):
    """The values of a bar: the allowed part, the value now and (while it changes) before, all in
    one unit.
    """

    low: float | None = None
    high: float | None = None
    now: float | None = None
    before: float | None = None
    words: str = ""  # limits under the bar

    @property
    def in_range(self) -> bool:
        """Whether the value keeps the range."""
        if self.now is None:
            return True
        above = self.low is None or self.now >= self.low - 1e-6
        return above and (self.high is None or self.now <= self.high + 1e-6)


@guarded
class RangeBar(QWidget):
    """112 by 8: the legal part filled, now a ring or (outside) a notch, before a dashed tick."""

    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self.pen = pen
        self.scale = Scale()
        self.setFixedSize(112, 34)
        # told a value, and whether it is the last; None: given up
        self.dragged: Callable[[float | None, bool], None] | None = None
        self._held = False
        self._kept: tuple[float, float] | None = None  # what the bar spans while one drags

    def show_scale(self, scale: Scale) -> None:
        """Shows another scale."""
        if scale != self.scale:
            self.scale = scale
            self.update()

    def tip(self, text: str) -> None:
        """The rules that set the limits, for the tooltip of the bar."""
        if text != self.toolTip():
            self.setToolTip(text)

    def _ends(self) -> tuple[float, float]:
        """The stretch of values that the bar spans."""
        if self._kept is not None:
            return self._kept
        s = self.scale
        known = [v for v in (s.low, s.high, s.now, s.before) if v is not None]
        low, high = min(known), max(known)
        if s.low is not None and s.high is not None:
            pad = max(0.3 * (s.high - s.low), 0.08 * (high - low), 1e-6)
        else:
            pad = max(0.5 * (high - low), 0.2 * abs(high), 1e-3)
        return low - pad, high + pad

    def x_of(self, value: float) -> float:
        """Drawing x of a value."""
        a, b = self._ends()
        return 4 + (value - a) / (b - a) * (self.width() - 8)

    def value_at(self, x: float) -> float:
        """The value at a drawing x."""
        a, b = self._ends()
        return a + (min(max(x, 4.0), self.width() - 4.0) - 4) / (self.width() - 8) * (b - a)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if (
            self.dragged is None
            or event.button() != Qt.MouseButton.LeftButton
            or self.scale.now is None
        ):
            super().mousePressEvent(event)
            return
        self._held, self._kept = True, self._ends()  # the bar stays as it is while one drags
        self.grabKeyboard()
        self.dragged(self.value_at(event.position().x()), False)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held and self.dragged is not None:
            self.dragged(self.value_at(event.position().x()), False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held and self.dragged is not None:
            value = self.value_at(event.position().x())
            self._let_go()
            self.dragged(value, True)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._held and self.dragged is not None:
            self._let_go()
            self.dragged(None, True)
        else:
            super().keyPressEvent(event)

    def _let_go(self) -> None:
        self._held, self._kept = False, None
        self.releaseKeyboard()

    def paintEvent(self, event: QPaintEvent) -> None:
        s = self.scale
        if s.now is None or (s.low is None and s.high is None):
            return
        theme = self.pen.theme
        p = QPainter(self)
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(QPen(qcolor("soft", theme), 1.5))
            p.drawLine(QPointF(0, 12), QPointF(self.width(), 12))
            empty = s.low is not None and s.high is not None and s.low > s.high
            if not empty:
                x0 = self.x_of(s.low) if s.low is not None else 0.0
                x1 = self.x_of(s.high) if s.high is not None else float(self.width())
                p.setPen(QPen(qcolor("legal", theme), 1))
                p.setBrush(qcolor("legal-bar", theme))
                p.drawRect(QRectF(x0, 8, max(2.0, x1 - x0), 8))
            if s.before is not None:
                dashed = QPen(qcolor("ink", theme), 1, Qt.PenStyle.DashLine)
                p.setPen(dashed)
                x = self.x_of(s.before)
                p.drawLine(QPointF(x, 5), QPointF(x, 19))
            self._now(p, self.x_of(s.now))
            p.setFont(font(11))
            p.setPen(qcolor("legal", theme))
            p.drawText(QRectF(-20, 18, self.width() + 20, 15), Qt.AlignmentFlag.AlignRight, s.words)
        finally:
            p.end()

    def _now(self, p: QPainter, x: float) -> None:
        theme = self.pen.theme
        if self.scale.in_range:
            p.setPen(QPen(qcolor("ink", theme), 1.5))
            p.setBrush(qcolor("field", theme))
            p.drawEllipse(QPointF(x, 12), 4.2, 4.2)
        else:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(qcolor("breach", theme))
            p.drawPolygon([QPointF(a, b) for a, b in notch(x, 18).tolist()])
