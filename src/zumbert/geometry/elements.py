"""The pieces of a road alignment in plan: straights and circular arcs."""

from math import atan2, hypot, pi
from typing import Protocol

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]


class Element(Protocol):
    """A piece of an alignment, by distance s (m) from its own beginning; offset positive to the
    right.
    """

    @property
    def length(self) -> float:
        """Length along the piece, m."""

    def point(self, s: Array, off: Array) -> tuple[Array, Array]:
        """X and y (m) at distances and offsets; distances outside the piece carry on its curve."""

    def project(self, x: Array, y: Array) -> tuple[Array, Array]:
        """Distance along (unclamped) and offset (m) of the perpendicular foot of each point."""

    def bearing(self, s: Array) -> Array:
        """Direction of travel at distances, radians clockwise from north (y)."""


class Straight(Struct, frozen=True, tag="straight"):
    """A straight from (x0, y0) to (x1, y1), m."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def length(self) -> float:
        """Length, m."""
        return hypot(self.x1 - self.x0, self.y1 - self.y0)

    @property
    def unit(self) -> tuple[float, float]:
        """Its direction: x and y of one metre along it."""
        long = self.length or 1.0
        return (self.x1 - self.x0) / long, (self.y1 - self.y0) / long

    def point(self, s: Array, off: Array) -> tuple[Array, Array]:
        """X and y at distances and offsets."""
        ux, uy = self.unit
        return self.x0 + ux * s + uy * off, self.y0 + uy * s - ux * off

    def project(self, x: Array, y: Array) -> tuple[Array, Array]:
        """Distance along the line, carried on beyond its ends, and offset."""
        ux, uy = self.unit
        dx, dy = x - self.x0, y - self.y0
        return dx * ux + dy * uy, dx * uy - dy * ux

    def bearing(self, s: Array) -> Array:
        """Its one direction."""
        ux, uy = self.unit
        return np.full(np.shape(s), atan2(ux, uy) % (2 * pi))


class Arc(Struct, frozen=True, tag="arc"):
    """A circular arc from (x0, y0) to (x1, y1) about (xc, yc), m; clockwise turns right going
    up-chainage.
    """

    x0: float
    y0: float
    x1: float
    y1: float
    xc: float
    yc: float
    clockwise: bool

    @property
    def radius(self) -> float:
        """Radius, m, from the centre to the beginning."""
        return hypot(self.x0 - self.xc, self.y0 - self.yc)

    @property
    def turn(self) -> float:
        """+1 where it turns right, -1 where it turns left."""
        return 1.0 if self.clockwise else -1.0

    @property
    def sweep(self) -> float:
        """Angle from beginning to end, radians, more than 0 and at most one whole turn."""
        a0 = atan2(self.y0 - self.yc, self.x0 - self.xc)
        a1 = atan2(self.y1 - self.yc, self.x1 - self.xc)
        return (self.turn * (a0 - a1)) % (2 * pi) or 2 * pi

    @property
    def length(self) -> float:
        """Length along the arc, m."""
        return self.radius * self.sweep

    def point(self, s: Array, off: Array) -> tuple[Array, Array]:
        """X and y at distances and offsets: an offset to the right shortens the radius of a
        right turn.
        """
        a0 = atan2(self.y0 - self.yc, self.x0 - self.xc)
        angle = a0 - self.turn * s / self.radius
        r = self.radius - self.turn * off
        return self.xc + r * np.cos(angle), self.yc + r * np.sin(angle)

    def project(self, x: Array, y: Array) -> tuple[Array, Array]:
        """Distance along the circle and offset; of the two ways round the one nearer to the arc
        is taken.
        """
        dx, dy = x - self.xc, y - self.yc
        a0 = atan2(self.y0 - self.yc, self.x0 - self.xc)
        swept = (self.turn * (a0 - np.arctan2(dy, dx))) % (2 * pi)
        beyond = (swept > self.sweep) & (swept - self.sweep > 2 * pi - swept)
        swept = np.where(beyond, swept - 2 * pi, swept)
        return swept * self.radius, self.turn * (self.radius - np.hypot(dx, dy))

    def bearing(self, s: Array) -> Array:
        """Direction of the tangent."""
        a0 = atan2(self.y0 - self.yc, self.x0 - self.xc)
        radial = a0 - self.turn * np.asarray(s) / self.radius
        return np.asarray((np.where(self.clockwise, pi, 0.0) - radial) % (2 * pi))
