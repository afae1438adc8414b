"""Volumes of many digs at once: over the triangles of their plots, and along their axes."""

from collections.abc import Sequence
from functools import cached_property
from math import pi
from typing import NamedTuple

import numpy as np

from zumbert.analysis.plots import Corners, Plot
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line
from zumbert.geometry.prisms import covered, volumes, volumes_of_sorted
from zumbert.model.digging import Digging


class Floor(NamedTuple):
    """The bottom of a dig: its level at distance 0, m above datum, and its fall, a fraction."""

    level: float
    slope: float = 0.0

    def at(self, s: float) -> float:
        """Level at a distance, m above datum."""
        return self.level - self.slope * s


class Heights:
    """The triangles of digs and how high a surface lies over their floors, in the order of the
    digs.
    """

    def __init__(
        self, corners: Sequence[Corners], floors: Sequence[Floor], under: Sequence[float] = ()
    ) -> None:
        """`under`: how far below its triangles the surface of each dig lies, m."""
        self.n = len(corners)
        count = np.array([len(c.area) for c in corners], np.int64)
        self.owner = np.repeat(np.arange(self.n), count)
        level, slope = np.array(floors).reshape(-1, 2).T
        if len(under):
            level = level + np.array(under)
        c = (
            corners[0]
            if self.n == 1
            else Corners(*(np.concatenate(v) for v in zip(*corners, strict=True)))
        )
        at = self.owner
        self.corners = c
        self.h = c.top - level[at][:, None] + slope[at][:, None] * c.s - c.rise

    @cached_property
    def _rising(self) -> Array:
        return np.sort(self.h, axis=1)

    def _sum(self, values: Array, owner: np.ndarray) -> Array:
        return np.asarray(np.bincount(owner, weights=values, minlength=self.n), float)

    def over(self, depth: float = 0.0) -> Array:
        """The volumes (m³) that lie over the floors lowered by a depth (m): what is deeper than
        that under the surface.
        """
        return self._sum(volumes_of_sorted(self.corners.area, self._rising - depth), self.owner)

    def up_to(self, height: Array) -> Array:
        """The volumes (m³) of digs up to heights (n, m) over their bottoms: of the strips whose
        floor lies lower.
        """
        limit = height[self.owner]
        low = np.flatnonzero(self.corners.zone <= limit + 1e-9)
        area, h, owner = self.corners.area[low], self.h[low], self.owner[low]
        upper = h + self.corners.rise[low] - limit[low][:, None]
        return self._sum(volumes(area, h) - volumes(area, upper), owner)

    def lacking(self, height: Array) -> Array:
        """The volumes (m³) over the bottoms between the surface and heights (n, m) over them,
        where it lies under those.
        """
        low = np.flatnonzero(self.corners.bottom)
        owner = self.owner[low]
        return self._sum(
            volumes(self.corners.area[low], height[owner][:, None] - self.h[low]), owner
        )

    def above(self, height: Array) -> Array:
        """The volumes (m³) over heights (n, m) over the floors; none over an infinite one."""
        limit = height[self.owner]
        some = np.flatnonzero(np.isfinite(limit))
        owner = self.owner[some]
        return self._sum(
            volumes(self.corners.area[some], self.h[some] - limit[some][:, None]), owner
        )

    def areas(self, kind: np.ndarray, kinds: int) -> Array:
        """The areas (n, kinds) in m² on which the surface lies over the floor, by the kind of
        each triangle.
        """
        found = np.bincount(
            self.owner * kinds + kind,
            weights=covered(self.corners.area, self.h),
            minlength=self.n * kinds,
        )
        return np.asarray(found.reshape(self.n, kinds))


class Depths:
    """Depths along the axes of trenches, piecewise linear."""

    def __init__(self, lines: Sequence[Line]) -> None:
        count = np.array([len(line.s) for line in lines], np.int64)
        s, h = (
            np.concatenate([line.s for line in lines]),
            np.concatenate([line.z for line in lines]),
        )
        owner = np.repeat(np.arange(len(lines)), count)
        same = owner[1:] == owner[:-1]
        self.n, self.owner = len(lines), owner[1:][same]
        self.long, self.a, self.b = np.diff(s)[same], h[:-1][same], h[1:][same]

    def _sum(self, values: Array) -> Array:
        return np.asarray(np.bincount(self.owner, weights=values, minlength=self.n), float)

    @property
    def length(self) -> Array:
        """Their lengths, m."""
        return self._sum(self.long)

    def below(self, depth: Array | float) -> Array:
        """The lengths (m) over which they are less deep than depths (n or one, m)."""
        limit = np.broadcast_to(np.asarray(depth, float), (self.n,))[self.owner]
        low, high = np.minimum(self.a, self.b), np.maximum(self.a, self.b)
        rise = high - low
        share = np.where(
            rise > 1e-12,
            np.clip((limit - low) / np.where(rise > 1e-12, rise, 1.0), 0.0, 1.0),
            (low < limit) * 1.0,
        )
        return self._sum(self.long * share)

    def pipes(self, bedding: Array, radius: Array) -> Array:
        """The volumes (m³) of pipes under the surface, exact: the area of a circle up to a height,
        integrated over the heights that each straight stretch of the surface passes.
        """
        b, r = bedding[self.owner], radius[self.owner]
        one, two = self.a - b - r, self.b - b - r  # heights over the pipe's axis
        rise = two - one
        flat = np.abs(rise) < 1e-9
        mean = np.where(
            flat,
            _filled((one + two) / 2, r),
            (_rising(two, r) - _rising(one, r)) / np.where(flat, 1.0, rise),
        )
        return self._sum(self.long * mean)


def _filled(x: Array, r: Array) -> Array:
    """The area of a circle under a height x over its centre."""
    x = np.clip(x, -r, r)
    return np.asarray(
        x * np.sqrt(np.maximum(r**2 - x**2, 0.0)) + r**2 * (np.arcsin(x / r) + pi / 2)
    )


def _rising(height: Array, r: Array) -> Array:
    """The integral of that area over the heights up to one."""
    x = np.clip(height, -r, r)
    root = np.sqrt(np.maximum(r**2 - x**2, 0.0))
    inside = -(root**3) / 3 + r**2 * (x * np.arcsin(x / r) + root + pi / 2 * x)
    return np.asarray(inside + np.maximum(height - r, 0.0) * pi * r**2)


def stratum(plots: Sequence[Plot], floors: Sequence[Floor], i: int) -> Array:
    """The volumes (m³) of digs under the top of a stratum."""
    parts = [p.strata[i] for p in plots]
    return Heights([c for _, c, _ in parts], floors, [by for _, _, by in parts]).over()


def banded(under: Sequence[float], how: Digging) -> dict[str, float]:
    """Volumes by depth band from those that lie deeper than the beginning of each."""
    parts = {
        how.band_name(i): v - (under[i + 1] if i + 1 < len(under) else 0.0)
        for i, v in enumerate(under)
    }
    return {k: v for k, v in parts.items() if v > 1e-9}


def lengths(below: Sequence[float], how: Digging) -> dict[str, float]:
    """Lengths by depth band from those that are less deep than the end of each."""
    parts = {how.band_name(i): v - (below[i - 1] if i else 0.0) for i, v in enumerate(below)}
    return {k: v for k, v in parts.items() if v > 1e-9}


def stacked_up(names: Sequence[str], under: Sequence[float]) -> dict[str, float]:
    """Volumes by stratum from those under the top of each; two layers of one name are one."""
    out: dict[str, float] = {}
    for i, name in enumerate(names):
        out[name] = out.get(name, 0.0) + under[i] - (under[i + 1] if i + 1 < len(under) else 0.0)
    return {k: v for k, v in out.items() if v > 1e-9}
