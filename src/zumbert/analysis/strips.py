"""The strips of several roads as one surface: where they overlap the nearer alignment wins."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, level_at
from zumbert.geometry.stretches import strung
from zumbert.geometry.tin import Tin

HALVINGS = 40  # of a stretch in which the nearer road changes: exact to rounding


class Strips:
    """Strips with the alignments that they lie along."""

    def __init__(self, lines: Sequence[Alignment], tins: Sequence[Tin]) -> None:
        self.lines, self.tins = tuple(lines), tuple(tins)

    def level(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Levels (m) at points: of the strips that hold a point that of the nearest alignment;
        NaN outside all.
        """
        px, py = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
        z = np.stack([t.level(px, py) for t in self.tins])
        winner = self._nearest(px, py, ~np.isnan(z))
        return np.asarray(np.take_along_axis(z, winner[None], axis=0)[0])

    def _nearest(self, x: Array, y: Array, holds: np.ndarray) -> np.ndarray:
        """For each point the strip that counts, among those that hold it."""
        far = np.stack([a.foot(x, y)[2] for a in self.lines])
        return np.asarray(np.where(holds, far, np.inf).argmin(axis=0))

    def section(self, xy: ArrayLike) -> tuple[Array, Array]:
        """Distances and levels along a plan polyline, as those of a single surface."""
        return strung(self.sections, xy)

    def sections(self, start: ArrayLike, end: ArrayLike) -> tuple[np.ndarray, Array, Array]:
        """Ground lines along n straight lines, as those of a single surface. A line that no two
        strips share is that of its one strip; else each stretch is that of the nearer road, parted
        where the two are as near.
        """
        a, b = np.asarray(start, float).reshape(-1, 2), np.asarray(end, float).reshape(-1, 2)
        cut = [t.sections(a, b) for t in self.tins]
        lines: list[Line] = []
        for i in range(len(a)):
            own = [Line(s[o[i] : o[i + 1]], z[o[i] : o[i + 1]]) for o, s, z in cut]
            there = [k for k, line in enumerate(own) if not np.isnan(line.z).all()]
            if len(there) <= 1:
                lines.append(own[there[0]] if there else own[0])
            else:
                lines.append(self._merged(own, a[i], b[i]))
        offsets = np.concatenate([[0], np.cumsum([len(line.s) for line in lines])]).astype(np.int64)
        return (
            offsets,
            np.concatenate([line.s for line in lines]),
            np.concatenate([line.z for line in lines]),
        )

    def _merged(self, own: list[Line], a: Array, b: Array) -> Line:
        long = float(np.hypot(*(b - a))) or 1.0
        cuts = np.unique(np.concatenate([line.s for line in own]))
        cuts = self._parted(cuts, own, a, (b - a) / long)
        s0, s1 = cuts[:-1], cuts[1:]
        keep = s1 - s0 > 1e-9
        s0, s1 = s0[keep], s1[keep]
        winner, holds = self._winner((s0 + s1) / 2, own, a, (b - a) / long)
        z0 = np.stack([level_at(line, s0, "right") for line in own])
        z1 = np.stack([level_at(line, s1, "left") for line in own])
        rows = np.arange(len(s0))
        z0, z1 = (
            np.where(holds, z0[winner, rows], np.nan),
            np.where(holds, z1[winner, rows], np.nan),
        )
        s, z = np.column_stack([s0, s1]).ravel(), np.column_stack([z0, z1]).ravel()
        here = np.concatenate([[False], np.diff(s) <= 1e-9])
        bare, before = np.isnan(z), np.concatenate([[False], np.isnan(z[:-1])])
        same = here & ((bare & before) | (np.abs(z - np.concatenate([[np.nan], z[:-1]])) <= 1e-9))
        # a gap ends where a strip begins
        ends = np.concatenate([here[1:] & bare[:-1] & ~bare[1:], [False]])
        return Line(s[~(same | ends)], z[~(same | ends)])

    def _winner(
        self, s: Array, own: list[Line], a: Array, unit: Array
    ) -> tuple[np.ndarray, np.ndarray]:
        """Which strip counts at distances along a line, and whether any holds them."""
        there = np.stack([~np.isnan(level_at(line, s)) for line in own])
        x, y = a[0] + unit[0] * s, a[1] + unit[1] * s
        return self._nearest(x, y, there), np.asarray(there.any(axis=0))

    def _parted(self, cuts: Array, own: list[Line], a: Array, unit: Array) -> Array:
        """The cuts, with more of them where the strip that counts changes between two."""
        lean = 1e-7
        s0, s1 = cuts[:-1] + lean, cuts[1:] - lean
        first, _ = self._winner(s0, own, a, unit)
        last, _ = self._winner(s1, own, a, unit)
        for i in np.flatnonzero((first != last) & (s1 > s0)).tolist():
            low, high = float(s0[i]), float(s1[i])
            for _ in range(HALVINGS):
                mid = (low + high) / 2
                same = self._winner(np.array([mid]), own, a, unit)[0][0] == first[i]
                low, high = (mid, high) if same else (low, mid)
            cuts = np.append(cuts, (low + high) / 2)
        return np.unique(cuts)
