"""Where a source with an origin of its own is placed: shifted, turned and scaled, by pairs of
points.
"""

from collections.abc import Sequence
from math import atan2, hypot

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array

Point = tuple[float, float]
NEAREST = 1e-3  # m: two points nearer than this tell no direction


class Placing(Struct, frozen=True):
    """x' = a x - b y + x0, y' = b x + a y + y0 (m): a turn and a scale in one, then a shift."""

    a: float = 1.0
    b: float = 0.0
    x: float = 0.0  # m
    y: float = 0.0

    @property
    def scale(self) -> float:
        """By how much lengths grow."""
        return hypot(self.a, self.b)

    @property
    def turn(self) -> float:
        """Radians by which it turns to the left."""
        return atan2(self.b, self.a)

    def apply(self, xy: ArrayLike) -> Array:
        """Places (n, 2) of the source where they are placed."""
        p = np.asarray(xy, float).reshape(-1, 2)
        return np.column_stack(
            [
                self.a * p[:, 0] - self.b * p[:, 1] + self.x,
                self.b * p[:, 0] + self.a * p[:, 1] + self.y,
            ]
        )

    def after(self, first: "Placing") -> "Placing":
        """The placing that does another first, then this one."""
        [[x, y]] = self.apply([(first.x, first.y)]).tolist()
        return Placing(
            self.a * first.a - self.b * first.b, self.b * first.a + self.a * first.b, x, y
        )

    @property
    def back(self) -> "Placing":
        """The way back to the source."""
        k = self.a**2 + self.b**2
        a, b = self.a / k, -self.b / k
        return Placing(a, b, -(a * self.x - b * self.y), -(b * self.x + a * self.y))


def by_pairs(pairs: Sequence[tuple[Point, Point]]) -> Placing:
    """The placing that takes each first point to its second: of one pair a shift, of two a shift,
    turn and scale.

    Raises ValueError for no pair, or for two whose points are one place.
    """
    if not pairs:
        raise ValueError("a pair of points is needed")
    (p, q), *more = pairs
    if not more:
        return Placing(1.0, 0.0, q[0] - p[0], q[1] - p[1])
    (r, s) = more[0]
    d, e = complex(r[0] - p[0], r[1] - p[1]), complex(s[0] - q[0], s[1] - q[1])
    if abs(d) < NEAREST or abs(e) < NEAREST:
        raise ValueError("the two points of a source, or those that they go to, are one place")
    k = e / d
    at = complex(*q) - k * complex(*p)
    return Placing(k.real, k.imag, at.real, at.imag)
