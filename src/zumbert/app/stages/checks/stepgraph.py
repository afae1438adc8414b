"""A limit drawn as steps over the sizes or angles that it goes by."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.theme import qcolor
from zumbert.model.standard import Limit

WIDE, HIGH = 96, 26


@guarded
class StepGraph(QWidget):
    """Steps from left to right, each as high as its value; the other standard's, where one
    compares, dashed.
    """

    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self.pen = pen
        self.limit: Limit | None = None
        self.other: Limit | None = None
        self.setFixedSize(WIDE, HIGH)

    def show_limit(self, limit: Limit | None, other: Limit | None = None) -> None:
        """Shows a limit, and the one that it is compared with."""
        if (limit, other) != (self.limit, self.other):
            self.limit, self.other = limit, other
            self.update()

    def steps(self, limit: Limit) -> list[tuple[float, float, float]]:
        """From, to and value of each step, the ends as shares of the width."""
        if not isinstance(limit, tuple):
            return [(0.0, 1.0, limit)]
        ends = [k for one in (self.limit, self.other) if isinstance(one, tuple) for k, _ in one]
        most = max(ends) * 1.15
        out, at = [], 0.0
        for upto, value in limit:
            out.append((at / most, min(1.0, upto / most), value))
            at = upto
        last = out[-1]
        return [*out[:-1], (last[0], 1.0, last[2])]  # beyond the last entry the last applies

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            theme = self.pen.theme
            values = [
                v
                for one in (self.limit, self.other)
                if one is not None
                for _, _, v in self.steps(one)
            ]
            top = max(values, default=0.0) or 1.0
            for limit, dashed in ((self.other, True), (self.limit, False)):
                if limit is None:
                    continue
                line = QPolygonF()
                for a, b, v in self.steps(limit):
                    y = HIGH - 3 - v / top * (HIGH - 8)
                    line.append(QPointF(2 + a * (WIDE - 4), y))
                    line.append(QPointF(2 + b * (WIDE - 4), y))
                if not dashed:
                    area = QPolygonF(line)
                    area.append(QPointF(WIDE - 2, HIGH - 2))
                    area.append(QPointF(2, HIGH - 2))
                    p.setPen(Qt.PenStyle.NoPen)
                    p.setBrush(qcolor("legal-fill", theme))
                    p.drawPolygon(area)
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(
                    QPen(
                        qcolor("ink-2" if dashed else "legal", theme),
                        1.2,
                        Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine,
                    )
                )
                p.drawPolyline(line)
            p.setPen(QPen(qcolor("soft", theme), 1))
            p.drawLine(
                QRectF(0, 0, WIDE, HIGH - 2).bottomLeft(),
                QRectF(0, 0, WIDE, HIGH - 2).bottomRight(),
            )
        finally:
            p.end()
