"""Labels that never overlap: each tries its places in turn, then hides."""

from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise
from math import cos, hypot, radians, sin

from msgspec.structs import replace

from zumbert.drawing.marks import Anchor, Text
from zumbert.drawing.style import TEXTS, text_width
from zumbert.geometry.elements import Array

Box = tuple[float, float, float, float]  # x0, y0, x1, y1
Corners = tuple[tuple[float, float], ...]  # four, in turn
Taken = tuple[Box, Corners, str]  # the upright box about a shape, the shape, and what it is of
CELL, MANY = 48.0, 256  # drawing units; a box that touches more squares is looked at always
LEADING = 14.0  # drawing units from line to line of a label


def text_box(t: Text) -> Box:
    """The upright box about a text, turned or not."""
    if not t.angle:
        return _upright(t)
    xs, ys = zip(*corners(t), strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def corners(t: Text) -> Corners:
    """The corners of the box of a text, turned as it is."""
    if not t.angle:
        return _square(_upright(t))
    x0, y0, x1, y1 = _upright(t)
    c, s = cos(radians(t.angle)), sin(radians(t.angle))
    around_it = ((x - t.x, y - t.y) for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1)))
    return tuple((t.x + x * c - y * s, t.y + x * s + y * c) for x, y in around_it)


def _upright(t: Text) -> Box:
    wide, size = text_width(t.text, t.role) * t.squeeze, TEXTS[t.role].size
    left = {"left": t.x, "middle": t.x - wide / 2, "right": t.x - wide}[t.anchor]
    return left - 1.5, t.y - size * 0.82, left + wide + 1.5, t.y + size * 0.24


def _places(t: Text) -> tuple[Corners, Box]:
    """The corners of the box of a text, and the upright box about them."""
    if not t.angle:
        box = _upright(t)
        return _square(box), box
    return corners(t), text_box(t)


def _square(box: Box) -> Corners:
    x0, y0, x1, y1 = box
    return (x0, y0), (x1, y0), (x1, y1), (x0, y1)


def overlap(a: Corners, b: Corners) -> bool:
    """Whether two boxes, turned or not, share more than an edge: no line parallel to one of
    their sides parts them.
    """
    for shape in (a, b):
        for i in (0, 1):
            (x0, y0), (x1, y1) = shape[i], shape[i + 1]
            nx, ny = y0 - y1, x1 - x0
            p, q = [x * nx + y * ny for x, y in a], [x * nx + y * ny for x, y in b]
            if max(p) <= min(q) + 1e-9 or max(q) <= min(p) + 1e-9:
                return False
    return True


def _cells(box: Box) -> list[tuple[int, int]]:
    """The squares of a grid that a box touches, so that only its neighbours are looked at."""
    x0, y0, x1, y1 = (
        int(box[0] // CELL),
        int(box[1] // CELL),
        int(box[2] // CELL),
        int(box[3] // CELL),
    )
    if x0 == x1 and y0 == y1:
        return [(x0, y0)]
    return [(x, y) for x in range(x0, x1 + 1) for y in range(y0, y1 + 1)]


class Labels:
    """The labels of one drawing: boxes and lines that are taken, and texts that found a place."""

    def __init__(
        self, taken: Sequence[Box] = (), under: "Labels | None" = None, plates: bool = False
    ) -> None:
        """Boxes that are taken already, and the labels of what lies under this drawing; with plates
        each text has a clear ground, whatever lines run there.
        """
        self._plates = plates
        self._under = under
        self._cells: dict[tuple[int, int], list[Taken]] = {}
        self._large: list[Taken] = []
        self.texts: list[Text] = []
        for box in taken:
            self.block(box)

    def alone(self) -> "Labels":
        """These labels without those of what lies under."""
        self._under = None
        return self

    def block(self, box: Box) -> None:
        """Keeps labels out of a box."""
        self._take(_square(box), box, "")

    def block_shape(self, shape: Corners) -> None:
        """Keeps labels out of a parallelogram, told by its corners in turn."""
        xs, ys = zip(*shape, strict=True)
        if max(map(abs, (*xs, *ys))) < 1e6:  # NaN and what is far out of sight are left out
            self._take(shape, (min(xs), min(ys), max(xs), max(ys)), "")

    def block_line(self, xy: Array, of: str) -> None:
        """Keeps labels off a line (n, 2), but for those of the thing that it is of."""
        for (x0, y0), (x1, y1) in pairwise(xy.tolist()):
            far = hypot(x1 - x0, y1 - y0)
            if not far < 1e5:  # NaN too
                continue
            n = max(1, int(far // CELL) + 1)
            nx, ny = ((y0 - y1) / far, (x1 - x0) / far) if far else (0.0, 1.0)
            for i in range(n):
                a, b = i / n, (i + 1) / n
                px, py, qx, qy = (
                    x0 + a * (x1 - x0),
                    y0 + a * (y1 - y0),
                    x0 + b * (x1 - x0),
                    y0 + b * (y1 - y0),
                )
                shape = (
                    (px + nx, py + ny),
                    (qx + nx, qy + ny),
                    (qx - nx, qy - ny),
                    (px - nx, py - ny),
                )
                self._take(
                    shape, (min(px, qx) - 1, min(py, qy) - 1, max(px, qx) + 1, max(py, qy) + 1), of
                )

    def _take(self, shape: Corners, box: Box, of: str) -> None:
        x0, y0, x1, y1 = box
        if ((x1 - x0) / CELL + 1) * ((y1 - y0) / CELL + 1) > MANY:
            self._large.append((box, shape, of))
            return
        for cell in _cells(box):
            self._cells.setdefault(cell, []).append((box, shape, of))

    def free(self, box: Box) -> bool:
        """Whether nothing stands in a box yet."""
        return self._free(_square(box), box, "-")

    def _free(self, shape: Corners, box: Box, of: str) -> bool:
        x0, y0, x1, y1 = box
        if self._under is not None and not self._under._free(shape, box, of):
            return False
        for shapes in (self._large, *(self._cells.get(cell, ()) for cell in _cells(box))):
            for b, other, whose in shapes:
                near = x0 < b[2] and b[0] < x1 and y0 < b[3] and b[1] < y1
                if near and whose != of and overlap(shape, other):
                    return False
        return True

    def fits(self, texts: Iterable[Text], of: str = "-") -> bool:
        """Whether all lines of a label have room."""
        return all(self._free(shape, box, of) for shape, box in map(_places, texts))

    def set(self, texts: Sequence[Text]) -> None:
        """Sets the lines of a label where they are, whatever stands there."""
        for shape, box in map(_places, texts):
            self._take(shape, box, "")
        self.texts += texts

    def put(
        self,
        role: str,
        text: str,
        places: Sequence[tuple[float, float, Anchor]],
        always: bool = False,
    ) -> bool:
        """Sets a text at the first free of some places; where none is free it hides, or takes
        the first (`always`).
        """
        return self.put_lines([(role, text)], places, always)

    def put_lines(
        self,
        lines: Sequence[tuple[str, str]],
        places: Sequence[tuple[float, float, Anchor]],
        always: bool = False,
    ) -> bool:
        """The same with a label of several lines, each of a role; a place above its point holds
        the last line.
        """
        for x, y, anchor in places:
            texts = list(stacked(lines, x, y, anchor))
            if self.fits(texts):
                self.set([replace(t, plate=True) for t in texts] if self._plates else texts)
                return True
        if always and places:
            self.set([replace(t, plate=True) for t in stacked(lines, *places[0])])
            return True
        return False


def stacked(lines: Sequence[tuple[str, str]], x: float, y: float, anchor: Anchor) -> Iterator[Text]:
    """Lines under one another, the first with its baseline at a place."""
    for i, (role, text) in enumerate(lines):
        yield Text(role, text, x, y + i * LEADING, anchor, plate=len(lines) > 1)


def around(x: float, y: float, away: float, lines: int = 1) -> list[tuple[float, float, Anchor]]:
    """Places for a label about a point, best first: below left, above, right, below, left; then
    farther out.
    """
    up = (lines - 1) * LEADING  # a label above its point grows upwards
    near: list[tuple[float, float, Anchor]] = [
        (x - away, y + away + 6, "right"),
        (x, y - away - 4 - up, "middle"),
        (x + away, y + away + 6, "left"),
        (x + away + 2, y + 4 - up / 2, "left"),
        (x, y + away + 12, "middle"),
        (x - away - 2, y + 4 - up / 2, "right"),
        (x - away, y - away - up, "right"),
        (x + away, y - away - up, "left"),
    ]
    if lines == 1:
        return near
    far = away + 16
    return [
        *near,
        (x + far, y + far, "left"),
        (x - far, y + far, "right"),
        (x + far, y - far - up, "left"),
        (x - far, y - far - up, "right"),
        (x + 2 * far, y - up / 2, "left"),
        (x - 2 * far, y - up / 2, "right"),
    ]
