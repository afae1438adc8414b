"""A pipe and what it crosses, drawn across the pipe at one scale for both ways, and what moving
either end does to the room.
"""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from zumbert.analysis.facts import Facts
from zumbert.app.guard import guarded
from zumbert.app.pen import Pen
from zumbert.app.theme import INSIDE, font, qcolor
from zumbert.checks.clearance import outside_of
from zumbert.checks.crossings import Room, room_when_moved
from zumbert.geometry.elements import Array
from zumbert.model.display import Units
from zumbert.model.pipe import End

HIGH, GRAPH = 190, 96
REACH = 0.5  # m up and down that the graph covers
ENDS: tuple[End, End] = ("up", "down")


@guarded
class SmallDrawing(QWidget):
    """A small drawing on paper, with a thin border."""

    pen: Pen

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.fillRect(self.rect(), qcolor("paper", self.pen.theme))
            self._drawn(p)
            p.setPen(QPen(qcolor("soft", self.pen.theme), 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1))
        finally:
            p.end()

    def _drawn(self, p: QPainter) -> None:
        """The content of the paper."""


class Across(SmallDrawing):
    """Looking down the pipe: the pipe as rings, the other as it lies, the true room and the
    upright one as dimensions.
    """

    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self.pen = pen
        self.facts: Facts | None = None
        self.room: Room | None = None
        self.setFixedSize(INSIDE, HIGH)

    def show_room(self, facts: Facts, room: Room | None) -> None:
        """Shows a pipe and what it crosses."""
        if (facts, room) != (self.facts, self.room):
            self.facts, self.room = facts, room
            self.update()

    def _line(self, facts: Facts, room: Room) -> tuple[Array, float, float]:
        """The other's axis seen along the pipe as (to the right, level) in m, its outside radius,
        and how far along the view it leans (0: square to the view, 1: along it).
        """
        f = facts.pipes[room.pipe]
        pieces, radius = outside_of(facts, room.other)
        middle = np.array([room.x, room.y])
        start, d = pieces[:, 0, :2], pieces[:, 1, :2] - pieces[:, 0, :2]
        share = np.clip(
            ((middle - start) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-12), 0, 1
        )
        p, q = pieces[int(np.hypot(*(start + share[:, None] * d - middle).T).argmin())]
        ahead = np.array([np.sin(f.span.bearing), np.cos(f.span.bearing)])
        right = np.array([ahead[1], -ahead[0]])
        ends = np.array([((e[:2] - middle) @ right, e[2]) for e in (p, q)])
        along = abs(float((q - p)[:2] @ ahead)) / max(float(np.linalg.norm(q - p)), 1e-9)
        return ends, radius, along

    def _drawn(self, p: QPainter) -> None:
        if self.facts is not None and self.room is not None and self.room.pipe in self.facts.pipes:
            self._draw(p, self.facts, self.room)

    def _draw(self, p: QPainter, facts: Facts, room: Room) -> None:
        theme, u = self.pen.theme, facts.units
        f = facts.pipes[room.pipe]
        own = f.invert(room.at) + f.inside / 2
        ends, radius, along = self._line(facts, room)
        outer = f.inside / 2 + f.wall
        low, high = min(own - outer, room.level - radius), max(own + outer, room.level + radius)
        scale = min((HIGH - 44) / max(high - low, 0.2), 110 / max(outer, radius))

        def at(x: float, z: float) -> QPointF:
            return QPointF(INSIDE / 2 + x * scale, HIGH / 2 - (z - (low + high) / 2) * scale)

        if along > 0.9:  # it runs the same way: seen as a ring
            share = (
                (room.level - ends[0, 1]) / (ends[1, 1] - ends[0, 1])
                if ends[1, 1] != ends[0, 1]
                else 0.5
            )
            x = float(ends[0, 0] + np.clip(share, 0, 1) * (ends[1, 0] - ends[0, 0]))
            p.setPen(QPen(qcolor("service", theme), 1.4))
            p.setBrush(qcolor("field", theme))
            p.drawEllipse(at(x, room.level), radius * scale, radius * scale)
        else:
            d = ends[1] - ends[0]
            d = d / max(float(np.hypot(*d)), 1e-9)
            n = np.array([-d[1], d[0]]) * radius
            mid = (
                np.array([0.0, room.level])
                if room.upright is not None
                else ends[np.abs(ends[:, 0]).argmin()]
            )
            long = INSIDE / scale
            band = QPolygonF(
                [at(*(mid + s * d * long + t * n)) for s, t in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
            )
            p.setPen(QPen(qcolor("service", theme), 1.4))
            p.setBrush(qcolor("field", theme))
            p.drawPolygon(band)
        water = f.pipe.service
        p.setPen(QPen(qcolor(water, theme), 1.3))
        p.setBrush(qcolor(f"{water}-wall", theme))
        p.drawEllipse(at(0, own), outer * scale, outer * scale)
        p.setBrush(qcolor(f"{water}-bore", theme))
        p.drawEllipse(at(0, own), f.inside / 2 * scale, f.inside / 2 * scale)
        p.setFont(font(11))
        p.setPen(qcolor("ink", theme))
        for text, dy in ((f"{f.pipe.label} {u.dn(f.dn)}", -2), (f"axis {u.level(own)}", 12)):
            p.drawText(at(0, own) + QPointF(outer * scale + 6, dy), text)
        above = room.level >= own
        y = 14 if above else HIGH - 8
        p.setPen(qcolor("service", theme))
        p.drawText(QPointF(8, y), f"axis {u.level(room.level)}")
        self._dimension(
            p,
            at(0, own + (outer if above else -outer)),
            at(0, room.level - (radius if above else -radius)),
            room,
            u,
        )

    def _dimension(self, p: QPainter, a: QPointF, b: QPointF, room: Room, u: Units) -> None:
        tight = room.clear < room.need - 1e-6
        role = "breach" if room.clear <= 1e-6 else "caution" if tight else "legal"
        p.setPen(QPen(qcolor(role, self.pen.theme), 1.2))
        if room.upright is not None and room.upright > 0:
            p.drawLine(a, b)
            for end in (a, b):
                p.drawLine(end - QPointF(5, 0), end + QPointF(5, 0))
        p.setFont(font(11, 600))
        words = "touching" if room.clear <= 1e-6 else f"{u.length(room.clear)} true"
        if room.upright is not None:
            words += f", {u.length(room.upright)} upright"
        p.drawText(QPointF(8, (a.y() + b.y()) / 2 + 4), words)


class RoomGraph(SmallDrawing):
    """The room against the move of each end, the limit as a line: what raising or lowering
    either end would do.
    """

    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self.pen = pen
        self.curves: dict[End, Array] = {}
        self.labels: dict[End, str] = {}
        self.need = 0.0
        self.units: Units | None = None
        self.setFixedSize(INSIDE, GRAPH)
        self._shown: object = None

    def show_room(self, facts: Facts, room: Room | None) -> None:
        """Shows what moves of the ends of a pipe would do."""
        if room is None or self._shown == (facts, room):
            return
        self._shown = facts, room
        f = facts.pipes[room.pipe]
        steps = np.linspace(-REACH, REACH, 41)
        self.curves = {end: room_when_moved(facts, f, room.other, end, steps) for end in ENDS}
        self.labels = {end: facts.project.structures[f.pipe.at(end)].label for end in ENDS}
        self.need, self.units = room.need, facts.units
        self.setAccessibleName(
            "; ".join(
                f"{self.labels[end]}: {facts.units.length(float(c[0]))} lowered by "
                f"{facts.units.length(REACH)}, "
                f"{facts.units.length(float(c[-1]))} raised by as much"
                for end, c in self.curves.items()
            )
        )
        self.update()

    def _drawn(self, p: QPainter) -> None:
        if self.curves and self.units is not None:
            self._draw(p, self.units)

    def _draw(self, p: QPainter, u: Units) -> None:
        theme = self.pen.theme
        values = np.concatenate([*self.curves.values(), [self.need, 0.0]])
        low, high = float(values.min()), float(values.max())
        left, right, top, bottom = 40.0, INSIDE - 46.0, 10.0, GRAPH - 20.0

        def at(by: float, value: float) -> QPointF:
            x = left + (by + REACH) / (2 * REACH) * (right - left)
            return QPointF(x, bottom - (value - low) / max(high - low, 1e-6) * (bottom - top))

        p.setFont(font(11))
        for value, role, words in (
            (0.0, "breach", "0"),
            (self.need, "caution", u.length(self.need)),
        ):
            p.setPen(QPen(qcolor(role, theme), 1, Qt.PenStyle.DashLine))
            p.drawLine(at(-REACH, value), at(REACH, value))
            p.setPen(qcolor(role, theme))
            if value == 0.0 or self.need > (high - low) * 0.15:
                p.drawText(QPointF(4, at(0, value).y() + 4), words)
        p.setPen(QPen(qcolor("soft", theme), 1))
        p.drawLine(at(0, low), at(0, high))
        steps = np.linspace(-REACH, REACH, 41).tolist()
        ys: list[float] = []
        for end, curve in self.curves.items():
            p.setPen(QPen(qcolor("storm" if end == "down" else "ink", theme), 1.6))
            p.drawPolyline(
                QPolygonF([at(s, v) for s, v in zip(steps, curve.tolist(), strict=True)])
            )
            y = at(REACH, float(curve[-1])).y() + 4
            y = y + 12 if ys and abs(y - ys[0]) < 11 else y
            ys.append(y)
            p.drawText(QPointF(right + 4, y), self.labels[end])
        p.setPen(qcolor("ink-2", theme))
        p.drawText(QPointF(left, GRAPH - 5), f"lowered {u.length(REACH)}")
        raised = f"raised {u.long(REACH)}"
        p.drawText(QRectF(0, GRAPH - 17, right, 15), Qt.AlignmentFlag.AlignRight, raised)
