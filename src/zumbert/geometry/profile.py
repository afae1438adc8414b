"""A vertical profile of a road: points of intersection with parabolic or circular curves."""

from collections.abc import Sequence
from itertools import pairwise
from math import atan, cos, sin, tan

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike, NDArray

from zumbert.geometry.elements import Array, Mask

LEVEL_GRADE = 1e-9  # fraction: a grade nearer to 0 is level


class Pvi(Struct, frozen=True):
    """A point of vertical intersection: chainage and level (m), length of its parabola (m, 0: a
    corner).

    `ahead` is the part of the length beyond the point where the parabola is unsymmetric; `radius`
    (m) makes the curve a circular arc, whose length follows from it.
    """

    chainage: float
    level: float
    length: float = 0.0
    ahead: float | None = None
    radius: float | None = None


class Profile:
    """Levels along a road from PVIs in rising chainage.

    A parabola of lengths l1 before and l2 beyond its PVI, grades g1 and g2 (fractions, rising
    positive), has the offset e = l1 l2 (g2 - g1) / (2 (l1 + l2)) at its PVI: z = z1 + g1 x + e (x /
    l1)² from its beginning, and the same from its end backwards. For l1 = l2 = L/2 that is z1 + g1
    x + (g2 - g1) x² / (2 L). A circular curve of radius R touches both tangents R tan(|a2 - a1| /
    2) from the PVI, a the angles of the grades. Raises ValueError if chainages do not rise or two
    curves overlap.
    """

    def __init__(self, pvis: Sequence[Pvi]) -> None:
        if len(pvis) < 2:
            raise ValueError("a profile needs at least two points")
        self.pvis = tuple(pvis)
        self.ch = np.array([p.chainage for p in pvis], float)
        self.z = np.array([p.level for p in pvis], float)
        if (np.diff(self.ch) <= 0).any():
            raise ValueError("the chainages of a profile must rise from point to point")
        self.grades = np.diff(self.z) / np.diff(self.ch)
        self.before, self.beyond = np.zeros(len(pvis)), np.zeros(len(pvis))
        self.radius, self.centre = (
            np.zeros(len(pvis)),
            np.zeros((len(pvis), 2)),
        )  # radius > 0: a sag, < 0: a crest
        for i in range(1, len(pvis) - 1):
            self._curve(i, pvis[i])
        if (np.diff(self.ch) - self.beyond[:-1] - self.before[1:] < -1e-6).any():
            raise ValueError("two vertical curves of a profile overlap")

    def _curve(self, i: int, p: Pvi) -> None:
        """Lengths before and beyond a PVI; for a circular curve its centre too."""
        if not p.radius:
            self.beyond[i] = p.length / 2 if p.ahead is None else p.ahead
            self.before[i] = p.length - self.beyond[i]
            if self.beyond[i] < 0 or self.before[i] < 0:
                raise ValueError(
                    f"the curve at chainage {p.chainage:.3f} has a part of negative length: "
                    "both are 0 or more"
                )
            return
        a1, a2 = atan(self.grades[i - 1]), atan(self.grades[i])
        turn = 1.0 if a2 > a1 else -1.0
        reach = p.radius * abs(tan((a2 - a1) / 2))
        self.before[i], self.beyond[i] = reach * cos(a1), reach * cos(a2)
        self.radius[i] = turn * p.radius
        start = self.ch[i] - self.before[i], self.z[i] - reach * sin(a1)
        self.centre[i] = start[0] - self.radius[i] * sin(a1), start[1] + self.radius[i] * cos(a1)

    @property
    def start(self) -> float:
        """Chainage where it begins, m."""
        return float(self.ch[0])

    @property
    def end(self) -> float:
        """Chainage where it ends, m."""
        return float(self.ch[-1])

    def _where(self, c: Array) -> tuple[NDArray[np.int64], NDArray[np.int64], Mask, Mask]:
        """For each chainage: its tangent, the PVI whose curve it may be on, whether on it,
        whether beyond the PVI.
        """
        i = np.clip(np.searchsorted(self.ch, c) - 1, 0, len(self.grades) - 1)
        ahead = c > self.ch[i + 1] - self.before[i + 1]
        behind = c < self.ch[i] + self.beyond[i]
        return i, np.where(ahead, i + 1, i), ahead | behind, ~ahead

    def level(self, ch: ArrayLike) -> Array:
        """Level (m) at chainages; NaN beyond the ends."""
        return self._evaluated(ch, grade=False)

    def grade(self, ch: ArrayLike) -> Array:
        """Grade (fraction, rising positive) at chainages; NaN beyond the ends, the grade behind
        at a corner.
        """
        return self._evaluated(ch, grade=True)

    def _evaluated(self, ch: ArrayLike, grade: bool) -> Array:
        c = np.asarray(ch, float)
        i, p, curved, beyond = self._where(c)
        plain = self.grades[i] if grade else np.interp(c, self.ch, self.z)
        g1, g2 = self.grades[np.maximum(p - 1, 0)], self.grades[np.minimum(p, len(self.grades) - 1)]
        l1, l2 = self.before[p], self.beyond[p]
        total = np.where(l1 + l2 > 0, l1 + l2, 1.0)
        e = l1 * l2 * (g2 - g1) / (2 * total)
        side = np.where(beyond, l2, l1)
        # from the curve's own end on this side
        x = np.where(beyond, self.ch[p] + l2 - c, c - (self.ch[p] - l1))
        sign = np.where(beyond, -1.0, 1.0)
        g = np.where(beyond, g2, g1)
        safe = np.where(side > 0, side, 1.0)
        slope = g + sign * 2 * e * x / safe**2
        height = self.z[p] - sign * g * side + sign * g * x + e * (x / safe) ** 2
        parabola = slope if grade else height
        curve = np.where(self.radius[p] != 0, self._circle(p, c, grade), parabola)
        z = np.where(curved & (l1 + l2 > 0), curve, plain)
        return np.where((c < self.start - 1e-9) | (c > self.end + 1e-9), np.nan, z)

    def _circle(self, p: NDArray[np.int64], c: Array, grade: bool) -> Array:
        r, dx = self.radius[p], c - self.centre[p, 0]
        rise = np.sqrt(np.maximum(r**2 - dx**2, 1e-12)) * np.sign(r)
        return np.asarray(
            dx / np.where(rise == 0, 1.0, rise) if grade else self.centre[p, 1] - rise
        )

    def turning_points(self) -> list[tuple[float, str]]:
        """Chainages where the grade changes sign, each with "low" or "crest", in rising chainage;
        of a level stretch between two grades its middle.
        """
        out = []
        sign = np.sign(np.where(np.abs(self.grades) < LEVEL_GRADE, 0.0, self.grades))
        sloped = np.flatnonzero(sign).tolist()
        for j, k in pairwise(sloped):  # tangents before and after, all between them level
            if sign[j] == sign[k]:
                continue
            kind = "low" if sign[j] < 0 else "crest"
            if k == j + 1:
                out.append((self._level_place(k), kind))
            else:
                out.append(
                    (
                        float(self.ch[j + 1] + self.beyond[j + 1] + self.ch[k] - self.before[k])
                        / 2,
                        kind,
                    )
                )
        return out

    def _level_place(self, i: int) -> float:
        """Where the curve at a PVI is level; the PVI itself where it is a corner."""
        if self.radius[i]:
            return float(self.centre[i, 0])
        l1, l2, g1, g2 = self.before[i], self.beyond[i], self.grades[i - 1], self.grades[i]
        if not l1 + l2:
            return float(self.ch[i])
        middle = (l1 * g1 + l2 * g2) / (l1 + l2)  # the grade at the PVI
        if g1 * middle <= 0:
            return float(self.ch[i] - l1 + l1 * g1 / (g1 - middle)) if l1 else float(self.ch[i])
        return float(self.ch[i] + l2 * middle / (middle - g2))
