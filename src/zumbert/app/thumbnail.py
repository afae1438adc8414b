"""A small picture of a project's plan."""

import numpy as np
from PySide6.QtGui import QPainter, QPixmap

from zumbert.app.pen import Pen
from zumbert.app.state import State
from zumbert.drawing.groundplan import base
from zumbert.drawing.marks import Text
from zumbert.drawing.plan import network
from zumbert.drawing.sight import MapSight

SIZE = (360, 252)


def thumbnail(state: State, pen: Pen) -> QPixmap | None:
    """The network fitted into a picture, without texts; None where nothing stands anywhere."""
    facts = state.current.facts
    xy = np.array([(p.x, p.y) for p in facts.places.values() if p.x is not None], float).reshape(
        -1, 2
    )
    if not len(xy):
        return None
    low, high = xy.min(axis=0), xy.max(axis=0)
    scale = min(
        (SIZE[0] - 30) / max(high[0] - low[0], 5.0), (SIZE[1] - 30) / max(high[1] - low[1], 5.0)
    )
    x, y = (low + high) / 2
    sight = MapSight(
        width=float(SIZE[0]), height=float(SIZE[1]), x=float(x), y=float(y), scale=float(scale)
    )
    marks = [*base(facts, sight), *network(state.picture, sight).marks]
    out = QPixmap(*SIZE)
    painter = QPainter(out)
    try:
        pen.ink(painter, [m for m in marks if not isinstance(m, Text)])
    finally:
        painter.end()
    return out
