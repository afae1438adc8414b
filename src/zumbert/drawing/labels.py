"""Labels that never overlap: each tries its places in turn, then hides."""

from collections.abc import Sequence
from math import cos, radians, sin

from msgspec.structs import replace

from zumbert.drawing.marks import Anchor, Text
from zumbert.drawing.style import TEXTS, text_width

Box = tuple[float, float, float, float]  # x0, y0, x1, y1
CELL, MANY = 48.0, 256  # drawing units; a box that touches more squares is looked at always


def text_box(t: Text) -> Box:
    """The box about a text, turned or not."""
    if t.angle:
        x0, y0, x1, y1 = _upright(replace(t, angle=0.0))
        c, s = cos(radians(t.angle)), sin(radians(t.angle))
        corners = [(x - t.x, y - t.y) for x in (x0, x1) for y in (y0, y1)]
        xs, ys = [t.x + x * c - y * s for x, y in corners], [t.y + x * s + y * c for x, y in corners]
        return min(xs), min(ys), max(xs), max(ys)
    return _upright(t)


def _upright(t: Text) -> Box:
    wide, size = text_width(t.text, t.role), TEXTS[t.role].size
    left = {"left": t.x, "middle": t.x - wide / 2, "right": t.x - wide}[t.anchor]
    return left - 1.5, t.y - size * 0.82, left + wide + 1.5, t.y + size * 0.24


def _cells(box: Box) -> list[tuple[int, int]]:
    """The squares of a grid that a box touches, so that only its neighbours are looked at."""
    x0, y0, x1, y1 = (int(v // CELL) for v in box)
    return [(x, y) for x in range(x0, x1 + 1) for y in range(y0, y1 + 1)]


class Labels:
    """The labels of one drawing: boxes that are taken, and texts that found a place."""

    def __init__(self, taken: Sequence[Box] = ()) -> None:
        self._cells: dict[tuple[int, int], list[Box]] = {}
        self._large: list[Box] = []
        self.texts: list[Text] = []
        for box in taken:
            self.block(box)

    def block(self, box: Box) -> None:
        """Keeps labels out of a box."""
        cells = _cells(box)
        if len(cells) > MANY:
            self._large.append(box)
            return
        for cell in cells:
            self._cells.setdefault(cell, []).append(box)

    def free(self, box: Box) -> bool:
        """Whether nothing stands in a box yet."""
        x0, y0, x1, y1 = box
        near = [self._large, *(self._cells.get(cell, ()) for cell in _cells(box))]
        return not any(x0 < b[2] and b[0] < x1 and y0 < b[3] and b[1] < y1 for boxes in near for b in boxes)

    def put(self, role: str, text: str, places: Sequence[tuple[float, float, Anchor]], always: bool = False) -> bool:
        """Sets a text at the first free of some places; where none is free it hides, or takes the first (`always`)."""
        for x, y, anchor in places:
            t = Text(role, text, x, y, anchor)
            if self.free(text_box(t)):
                return self._set(t)
        if always and places:
            return self._set(Text(role, text, *places[0][:2], places[0][2], plate=True))
        return False

    def _set(self, t: Text) -> bool:
        self.block(text_box(t))
        self.texts.append(t)
        return True


def around(x: float, y: float, away: float) -> list[tuple[float, float, Anchor]]:
    """Places for a label about a point, best first: below left, above, right, below, left."""
    return [
        (x - away, y + away + 6, "right"),
        (x, y - away - 4, "middle"),
        (x + away, y + away + 6, "left"),
        (x + away + 2, y + 4, "left"),
        (x, y + away + 12, "middle"),
        (x - away - 2, y + 4, "right"),
        (x - away, y - away, "right"),
        (x + away, y - away, "left"),
    ]
