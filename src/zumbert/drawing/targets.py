"""The targets of a drawing, searched by their boxes first."""

from collections.abc import Iterator, Sequence
from math import hypot

import numpy as np

from zumbert.drawing.marks import Target
from zumbert.geometry.elements import Array

# drawing units that boxes are larger: none leaves out what is hit to the last digit
ROUNDING = 1e-6


class Targets:
    """Many targets; the boxes about them are looked at all at once, and only the near ones
    exactly.
    """

    def __init__(self, targets: Sequence[Target] = ()) -> None:
        self.all = tuple(targets)
        if not self.all:
            self._boxes = np.empty((0, 4))
            return
        xy = np.concatenate([t.xy for t in self.all])
        starts = np.concatenate([[0], np.cumsum([len(t.xy) for t in self.all])[:-1]])
        r = np.array([t.radius for t in self.all])[:, None] + ROUNDING
        low, high = np.minimum.reduceat(xy, starts) - r, np.maximum.reduceat(xy, starts) + r
        self._boxes = np.hstack([low, high])

    def near(self, x: float, y: float) -> Iterator[tuple[Target, float]]:
        """The targets that a drawing place hits, with how far (drawing units) it is from each."""
        b = self._boxes
        for i in np.flatnonzero(
            (b[:, 0] <= x) & (b[:, 1] <= y) & (b[:, 2] >= x) & (b[:, 3] >= y)
        ).tolist():
            far = distance(self.all[i].xy, x, y)
            if far <= self.all[i].radius:
                yield self.all[i], far


def distance(xy: Array, x: float, y: float) -> float:
    """From a place to a point or the nearest part of a line (n, 2), drawing units."""
    if len(xy) <= 2:
        (ax, ay), (bx, by) = xy[0].tolist(), xy[-1].tolist()
        dx, dy = bx - ax, by - ay
        part = min(max(((x - ax) * dx + (y - ay) * dy) / max(dx * dx + dy * dy, 1e-12), 0.0), 1.0)
        return hypot(ax + part * dx - x, ay + part * dy - y)
    a, d = xy[:-1], np.diff(xy, axis=0)
    long = np.maximum((d**2).sum(axis=1), 1e-12)
    t = np.clip(((x - a[:, 0]) * d[:, 0] + (y - a[:, 1]) * d[:, 1]) / long, 0, 1)
    return float(np.hypot(a[:, 0] + t * d[:, 0] - x, a[:, 1] + t * d[:, 1] - y).min())
