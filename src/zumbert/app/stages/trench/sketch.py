"""A trench drawn with its dimensions as fields: what is typed into the drawing is the trench
type.
"""

from collections.abc import Callable
from functools import partial
from itertools import pairwise
from math import cos, pi, sin

import numpy as np
from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from zumbert.analysis.crosssection import floor_line
from zumbert.analysis.digs import TrenchShape
from zumbert.app.guard import guarded
from zumbert.app.panels.fields import ValueField
from zumbert.app.pen import Pen
from zumbert.app.theme import INSIDE, font, qcolor
from zumbert.drawing.marks import Fill, Mark, Segments, Stroke, points
from zumbert.edits.trenchtypes import dimension_words
from zumbert.model.display import Units
from zumbert.model.trench import SIZE_FIELDS, TrenchSize

TALL, WIDE = 262, 64  # of the drawing, and of a field
DEEP = 2.4  # m that are drawn at least
TOP, LOW, UNDER = 16, 192, 236  # where the first and the last field of a side stand, and the width
UNDER_WIDE = 150


def places() -> dict[str, QRect]:
    """Where the fields stand: those of a side spread from top to bottom in the order of the
    table.
    """
    out: dict[str, QRect] = {}
    for side, x in (("left", 0), ("right", INSIDE - WIDE)):
        keys = [k for k, f in SIZE_FIELDS.items() if f.at == side]
        step = (LOW - TOP) / max(1, len(keys) - 1)
        out |= {k: QRect(x, round(TOP + i * step), WIDE, 22) for i, k in enumerate(keys)}
    keys = [k for k, f in SIZE_FIELDS.items() if f.at == "under"]
    wide = min(UNDER_WIDE, INSIDE // max(1, len(keys)))
    x = (INSIDE - wide * len(keys)) // 2
    return out | {k: QRect(x + i * wide, UNDER, wide, 22) for i, k in enumerate(keys)}


@guarded
class TrenchSketch(QWidget):
    """Draws one row of a trench type to scale, for a pipe of an outside diameter; `take(key,
    text)` takes what is typed.
    """

    def __init__(self, pen: Pen, take: Callable[[str, str], bool]) -> None:
        super().__init__()
        self.pen = pen
        self.size_ = TrenchSize()
        self.outside = 0.4
        self.setFixedSize(INSIDE, TALL)
        self.setAccessibleName("Trench section with its dimensions")
        self.setObjectName("trench sketch")
        self.fields: dict[str, ValueField] = {}
        for key, box in places().items():
            field = self.fields[key] = ValueField(f"trench {key}", partial(take, key))
            field.setParent(self)
            field.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            field.setGeometry(box)
            of = SIZE_FIELDS[key]
            table = ". A number, or a table by the depth of the trench: 1.5: 0.9, 3: 1.1"
            field.setToolTip(
                f"{of.title}{table if of.table else ''}{', or none' if of.empty else ''}"
            )

    def sizeHint(self) -> QSize:
        return QSize(INSIDE, TALL)

    def show_size(self, u: Units, size: TrenchSize, outside: float) -> None:
        """Shows a row, for a pipe of an outside diameter (m)."""
        self.size_, self.outside = size, outside
        for key, field in self.fields.items():
            value = getattr(size, key)
            field.show_value(dimension_words(u, key, value), False)
            field.setPlaceholderText("none" if SIZE_FIELDS[key].empty else "")
            if not field.hasFocus():
                field.setCursorPosition(0)
        self.update()

    def marks(self) -> list[Mark]:
        """The drawing, in the units of the widget."""
        size, outside = self.size_, self.outside
        width = size.width_at(outside, DEEP)
        top = size.bedding + outside + (size.surround or 0.0)
        tall = max(DEEP, size.vertical_height + 0.6, top + 0.5)
        side = _side(size, width, tall)
        out = max(p[0] for p in side)
        scale = min(186.0 / tall, (INSIDE - 2 * WIDE - 16) / 2 / max(out, 0.3))
        x0, y0 = INSIDE / 2, 226.0

        def at(u: float, z: float) -> tuple[float, float]:
            return x0 + u * scale, y0 - z * scale

        right = [at(u, z) for u, z in side]
        left = [at(-u, z) for u, z in side]
        ground = y0 - tall * scale
        edge = WIDE + 6
        marks: list[Mark] = [
            Fill(
                "stratum-general",
                points(
                    (edge, ground), (INSIDE - edge, ground), (INSIDE - edge, y0 + 8), (edge, y0 + 8)
                ),
            ),
            Fill("paper", points(*left[::-1], *right)),
        ]
        for low, high, role in ((0.0, size.bedding, "bedding"), (size.bedding, top, "surround")):
            if high > low and (role == "bedding" or size.surround is not None):
                a, b = (_out_at(side, z) for z in (low, high))
                marks.append(
                    Fill(
                        role, points(at(-a, low), at(a, low), at(b, high), at(-b, high)), "bedding"
                    )
                )
        cx, cy = at(0.0, size.bedding + outside / 2)
        turn = [(cx + r[0], cy + r[1]) for r in _ring(outside / 2 * scale)]
        marks += [
            Fill("storm-wall", points(*turn), "storm-outside"),
            Stroke("trench-outline", points(*left[::-1], *right)),
        ]
        marks.append(Stroke("ground-cross", points((edge, ground), (INSIDE - edge, ground))))
        marks += self._leaders(side, at, width, top)
        return marks

    def _leaders(
        self,
        side: list[tuple[float, float]],
        at: Callable[[float, float], tuple[float, float]],
        width: float,
        top: float,
    ) -> list[Mark]:
        """Lines from the fields to what they set."""
        size = self.size_
        ends: dict[str, tuple[float, float]] = {
            "bedding": at(-width * 0.4, size.bedding / 2),
            "vertical_height": at(width / 2, size.vertical_height * 0.8),
            "side": at((width / 2 + self.outside / 2) / 2, size.bedding + self.outside / 2),
        }
        if size.surround is not None:
            ends["surround"] = at(-width * 0.4, top - size.surround / 2)
        if size.batter > 0:
            z = (size.vertical_height + max(z for _, z in side)) / 2
            ends["batter"] = at(_out_at(side, z), z)
        lines = []
        for key, (x, y) in ends.items():
            box = self.fields[key].geometry()
            start = box.right() + 2 if box.left() == 0 else box.left() - 2
            lines.append((float(start), float(box.center().y()), x, y))
        (a, b), (c, _) = at(-width / 2, 0.0), at(width / 2, 0.0)
        lines += [(a, b + 5, c, b + 5), (a, b + 1, a, b + 9), (c, b + 1, c, b + 9)]
        return [Segments("dimension", np.array(lines))]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        try:
            self.pen.ink(p, self.marks())
            p.setFont(font(11))
            p.setPen(qcolor("ink-2", self.pen.theme))
            for key, field in self.fields.items():
                of, y = SIZE_FIELDS[key], field.y() - 16
                left = of.at == "left"
                align = Qt.AlignmentFlag.AlignLeft if left else Qt.AlignmentFlag.AlignRight
                if of.at != "under":
                    p.drawText(
                        QRect(0 if left else INSIDE - 110, y, 110, 15), align, of.short or of.title
                    )
        finally:
            p.end()


def _side(size: TrenchSize, width: float, tall: float) -> list[tuple[float, float]]:
    """The right side of a trench (distance out, height over the bottom), up to a height."""
    line = floor_line(TrenchShape(size=size, width=width, outside=0.0), tall)
    cut = line[line[:, 1] <= tall + 1e-9]
    last = (float(np.interp(tall, line[:, 1], line[:, 0])), tall)
    return [*((float(a), float(b)) for a, b in cut), last]


def _out_at(side: list[tuple[float, float]], z: float) -> float:
    """How far out the side is at a height."""
    for (a, low), (b, high) in pairwise(side):
        if low <= z <= high and high > low:
            return a + (b - a) * (z - low) / (high - low)
    return side[-1][0]


def _ring(radius: float) -> list[tuple[float, float]]:
    return [(radius * cos(i * pi / 18), radius * sin(i * pi / 18)) for i in range(37)]
