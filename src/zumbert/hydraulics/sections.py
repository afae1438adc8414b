"""Shapes that water flows in: area, wetted perimeter and width of the surface at a depth."""

from math import acos, asin, hypot, sin, sqrt
from typing import Protocol

from msgspec import Struct


class FlowSection(Protocol):
    """A shape: depths in m from its lowest point. A closed one is full at its height; an open
    one has none.
    """

    @property
    def height(self) -> float | None:
        """Inside height, m; None: it is open at the top."""

    def area(self, y: float) -> float:
        """Area of the water, m²."""

    def perimeter(self, y: float) -> float:
        """Wetted perimeter, m; the whole perimeter where a closed section is full."""

    def width(self, y: float) -> float:
        """Width of the water's surface, m; 0 where a closed section is full."""


class Circle(Struct, frozen=True):
    """A round pipe."""

    diameter: float  # m, inside

    @property
    def height(self) -> float:
        """Its diameter."""
        return self.diameter

    def angle(self, y: float) -> float:
        """The angle at the centre over the water, radians."""
        return 2 * acos(max(-1.0, min(1.0, 1 - 2 * y / self.diameter)))

    def area(self, y: float) -> float:
        """D²/8 (t - sin t), t the angle at the centre."""
        t = self.angle(y)
        return self.diameter**2 / 8 * (t - sin(t))

    def perimeter(self, y: float) -> float:
        """D t / 2."""
        return self.diameter * self.angle(y) / 2

    def width(self, y: float) -> float:
        """2 sqrt(y (D - y))."""
        return 2 * sqrt(max(0.0, y * (self.diameter - y)))


class BoxSection(Struct, frozen=True):
    """A rectangular culvert."""

    span: float  # m, inside width
    height: float  # m

    def area(self, y: float) -> float:
        """Width times depth."""
        return self.span * min(y, self.height)

    def perimeter(self, y: float) -> float:
        """Bottom and sides; with the top where it is full."""
        return self.span + 2 * y if y < self.height else 2 * (self.span + self.height)

    def width(self, y: float) -> float:
        """Its width until it is full."""
        return self.span if y < self.height else 0.0


class Egg(Struct, frozen=True):
    """An egg of three radii: width to height as 2 to 3, r the radius of the top, r/2 of the
    bottom, 3r of the sides.
    """

    height: float  # m

    @property
    def _r(self) -> float:
        return self.height / 3

    def _half(self, y: float) -> float:
        r = self._r
        if y <= 0.2 * r:
            return sqrt(max(0.0, y * (r - y)))
        if y <= 2 * r:
            return sqrt(9 * r * r - (y - 2 * r) ** 2) - 2 * r
        return sqrt(max(0.0, r * r - (y - 2 * r) ** 2))

    def area(self, y: float) -> float:
        """Twice the integral of the half width, piece by piece."""
        r = self._r
        y = max(0.0, min(y, self.height))
        out = _segment(r / 2, min(y, 0.2 * r) - r / 2, -r / 2)
        if y > 0.2 * r:
            top = min(y, 2 * r)
            out += _segment(3 * r, top - 2 * r, -1.8 * r) - 2 * r * (top - 0.2 * r)
        if y > 2 * r:
            out += _segment(r, y - 2 * r, 0.0)
        return 2 * out

    def perimeter(self, y: float) -> float:
        """Twice the length of the arcs under water."""
        r = self._r
        y = max(0.0, min(y, self.height))
        out = r / 2 * _turn(r / 2, min(y, 0.2 * r) - r / 2, -r / 2)
        if y > 0.2 * r:
            out += 3 * r * _turn(3 * r, min(y, 2 * r) - 2 * r, -1.8 * r)
        if y > 2 * r:
            out += r * _turn(r, y - 2 * r, 0.0)
        return 2 * out

    def width(self, y: float) -> float:
        """Twice the half width."""
        return 2 * self._half(max(0.0, min(y, self.height)))


class Trapezoid(Struct, frozen=True):
    """An open channel or swale: m out per 1 up on each side; a triangle where its bottom has no
    width.
    """

    bottom: float  # m
    left: float
    right: float

    @property
    def height(self) -> None:
        """It is open."""

    def area(self, y: float) -> float:
        """Y (b + y (left + right) / 2)."""
        return y * (self.bottom + y * (self.left + self.right) / 2)

    def perimeter(self, y: float) -> float:
        """Bottom and both sides."""
        return self.bottom + y * (hypot(1, self.left) + hypot(1, self.right))

    def width(self, y: float) -> float:
        """B + y (left + right)."""
        return self.bottom + y * (self.left + self.right)


def _turn(radius: float, high: float, low: float) -> float:
    """The angle of an arc between two heights over its centre, radians."""
    return asin(max(-1.0, min(1.0, high / radius))) - asin(max(-1.0, min(1.0, low / radius)))


def _segment(radius: float, high: float, low: float) -> float:
    """The integral of sqrt(r² - t²) between two heights over the centre."""

    def stem(t: float) -> float:
        t = max(-radius, min(radius, t))
        return (
            t * sqrt(max(0.0, radius * radius - t * t)) + radius * radius * asin(t / radius)
        ) / 2

    return stem(high) - stem(low)
