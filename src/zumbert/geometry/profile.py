"""A vertical profile of a road: points of intersection with parabolic curves."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike, NDArray

from zumbert.geometry.elements import Array, Mask


class Pvi(Struct, frozen=True):
    """A point of vertical intersection: chainage and level (m), length of its parabola (m, 0: a corner)."""

    chainage: float
    level: float
    length: float = 0.0


class Profile:
    """Levels along a road from PVIs in rising chainage; a parabola of length L is centred on its PVI.

    From chainage - L/2: z = z0 - g1 L/2 + g1 x + (g2 - g1) x² / (2 L), grades g as fractions, rising positive.
    Raises ValueError if chainages do not rise or two curves overlap.
    """

    def __init__(self, pvis: Sequence[Pvi]) -> None:
        if len(pvis) < 2:
            raise ValueError("a profile needs at least two points")
        self.pvis = tuple(pvis)
        self.ch = np.array([p.chainage for p in pvis], float)
        self.z = np.array([p.level for p in pvis], float)
        self.half = np.array([p.length for p in pvis], float) / 2
        self.half[[0, -1]] = 0.0
        if (np.diff(self.ch) <= 0).any():
            raise ValueError("the chainages of a profile must rise from point to point")
        if (np.diff(self.ch) - self.half[:-1] - self.half[1:] < -1e-6).any():
            raise ValueError("two vertical curves of a profile overlap")
        self.grades = np.diff(self.z) / np.diff(self.ch)

    @property
    def start(self) -> float:
        """Chainage where it begins, m."""
        return float(self.ch[0])

    @property
    def end(self) -> float:
        """Chainage where it ends, m."""
        return float(self.ch[-1])

    def _curve(self, c: Array) -> tuple[NDArray[np.int64], Array, Array, Mask]:
        """For each chainage: index of the grade ahead of its curve, place in the curve, curve length, on a curve."""
        i = np.clip(np.searchsorted(self.ch, c) - 1, 0, len(self.grades) - 1)
        ahead = i + 1
        use_ahead = (ahead < len(self.ch) - 1) & (c > self.ch[ahead] - self.half[ahead])
        use_behind = (i > 0) & (c < self.ch[i] + self.half[i])
        p = np.where(use_ahead, ahead, i)
        return p, c - (self.ch[p] - self.half[p]), 2 * self.half[p], use_ahead | use_behind

    def level(self, ch: ArrayLike) -> Array:
        """Level (m) at chainages; NaN beyond the ends."""
        c = np.asarray(ch, float)
        tangent = np.interp(c, self.ch, self.z)
        p, x, long, curved = self._curve(c)
        g1, g2 = self.grades[np.maximum(p - 1, 0)], self.grades[np.minimum(p, len(self.grades) - 1)]
        safe = np.where(long > 0, long, 1.0)
        parabola = self.z[p] - g1 * long / 2 + g1 * x + (g2 - g1) * x**2 / (2 * safe)
        z = np.where(curved & (long > 0), parabola, tangent)
        return np.where((c < self.start - 1e-9) | (c > self.end + 1e-9), np.nan, z)

    def grade(self, ch: ArrayLike) -> Array:
        """Grade (fraction, rising positive) at chainages; NaN beyond the ends, the grade behind at a corner."""
        c = np.asarray(ch, float)
        i = np.clip(np.searchsorted(self.ch, c) - 1, 0, len(self.grades) - 1)
        p, x, long, curved = self._curve(c)
        g1, g2 = self.grades[np.maximum(p - 1, 0)], self.grades[np.minimum(p, len(self.grades) - 1)]
        safe = np.where(long > 0, long, 1.0)
        g = np.where(curved & (long > 0), g1 + (g2 - g1) * x / safe, self.grades[i])
        return np.where((c < self.start - 1e-9) | (c > self.end + 1e-9), np.nan, g)

    def turning_points(self) -> list[tuple[float, str]]:
        """Chainages where the grade changes sign, each with "low" or "crest", in rising chainage."""
        out = []
        for i in range(1, len(self.ch) - 1):
            g1, g2 = self.grades[i - 1], self.grades[i]
            if g1 * g2 < 0:
                x = 2 * self.half[i] * -g1 / (g2 - g1)
                out.append((float(self.ch[i] - self.half[i] + x), "low" if g1 < 0 else "crest"))
        return out
