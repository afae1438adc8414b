"""A line of levels by distance: a ground section, a pipe's crown, a least-cover line."""

from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zumbert.geometry.elements import Array

SAME = 1e-9  # m: distances closer than this are one place


class Line(NamedTuple):
    """Levels z (m) at rising distances s (m), straight between; two equal distances are a jump,
    NaN z a gap.
    """

    s: Array
    z: Array

    @property
    def solid(self) -> bool:
        """Whether it has no gap."""
        return not bool(np.isnan(self.z).any())


def line(*points: tuple[float, float]) -> Line:
    """A line from (distance, level) pairs."""
    s, z = np.array(points, float).reshape(-1, 2).T
    return Line(s, z)


def level_at(on: Line, s: ArrayLike, side: str = "right") -> Array:
    """Levels at distances; at a jump the level that goes on to the right or the left; NaN
    outside and in gaps.
    """
    at = np.asarray(s, float)
    if side == "right":
        i = np.clip(np.searchsorted(on.s, at, side="right") - 1, 0, len(on.s) - 2)
    else:
        i = np.clip(np.searchsorted(on.s, at, side="left") - 1, 0, len(on.s) - 2)
    ds = on.s[i + 1] - on.s[i]
    t = np.where(ds > 0, (at - on.s[i]) / np.where(ds > 0, ds, 1.0), 0.0)
    # a gap lasts to its end
    end = np.where(np.isnan(on.z[i]), np.nan, on.z[i + 1]) if side == "left" else on.z[i + 1]
    z = np.where(t == 0.0, on.z[i], np.where(t == 1.0, end, on.z[i] + t * (on.z[i + 1] - on.z[i])))
    return np.where((at < on.s[0] - SAME) | (at > on.s[-1] + SAME), np.nan, z)


def between(on: Line, a: float, b: float) -> Line:
    """The part of a line from distance a to b, with a point exactly at each."""
    keep = (on.s > a + SAME) & (on.s < b - SAME)
    za, zb = level_at(on, a, "right"), level_at(on, b, "left")
    return Line(np.concatenate([[a], on.s[keep], [b]]), np.concatenate([[za], on.z[keep], [zb]]))


def between_all(offsets: NDArray[np.int64], s: Array, z: Array, a: Array, b: Array) -> list[Line]:
    """`between` for n lines at once: line i has values offsets[i] to offsets[i + 1], cut to a[i]
    and b[i].
    """
    n = len(offsets) - 1
    count = np.diff(offsets)
    which = np.repeat(np.arange(n), count)
    za = _at(offsets, s, z, a, np.add.reduceat(s <= a[which], offsets[:-1]))
    zb = _at(offsets, s, z, b, np.add.reduceat(s < b[which], offsets[:-1]))
    keep = (s > (a + SAME)[which]) & (s < (b - SAME)[which])
    line_of = np.concatenate([np.arange(n), which[keep], np.arange(n)])
    all_s, all_z = np.concatenate([a, s[keep], b]), np.concatenate([za, z[keep], zb])
    rank = np.concatenate([np.full(n, -1), np.flatnonzero(keep), np.full(n, len(s))])
    order = np.lexsort((rank, line_of))
    all_s, all_z = all_s[order], all_z[order]
    cuts = np.searchsorted(line_of[order], np.arange(n + 1)).tolist()
    return [Line(all_s[p:q], all_z[p:q]) for p, q in pairwise(cuts)]


def _at(
    offsets: NDArray[np.int64], s: Array, z: Array, at: Array, before: NDArray[np.int64]
) -> Array:
    """Levels at one place of each line, by how many of its points lie before."""
    i = np.clip(offsets[:-1] + before - 1, offsets[:-1], offsets[1:] - 2)
    ds = s[i + 1] - s[i]
    t = np.where(ds > 0, (at - s[i]) / np.where(ds > 0, ds, 1.0), 0.0)
    return np.asarray(
        np.where(t <= 0.0, z[i], np.where(t >= 1.0, z[i + 1], z[i] + t * (z[i + 1] - z[i])))
    )


def lower(first: Line, second: Line) -> Line:
    """The lower of two lines over the same distances, with a point where they cross; a gap of one
    leaves the other, with a jump where it begins and ends.
    """
    cuts = np.unique(np.concatenate([first.s, second.s]))
    a, b = cuts[:-1], cuts[1:]
    long = b - a > SAME
    a, b = a[long], b[long]
    za, zb = level_at(first, a), level_at(second, a)
    ya, yb = level_at(first, b, "left"), level_at(second, b, "left")
    za, zb = np.where(np.isnan(za), zb, za), np.where(np.isnan(zb), za, zb)
    ya, yb = np.where(np.isnan(ya), yb, ya), np.where(np.isnan(yb), ya, yb)
    before, after = za - zb, ya - yb
    cross = before * after < 0
    share = np.where(cross, before / np.where(cross, before - after, 1.0), 0.0)
    at, z = a + share * (b - a), za + share * (ya - za)
    s = np.column_stack([a, at, b])
    levels = np.column_stack([np.minimum(za, zb), z, np.minimum(ya, yb)])
    use = np.column_stack([np.ones_like(cross), cross, np.ones_like(cross)])
    s, levels = s[use], levels[use]
    repeated = (np.diff(s) <= SAME) & (
        (np.abs(np.diff(levels)) <= SAME) | (np.isnan(levels[1:]) & np.isnan(levels[:-1]))
    )
    keep = np.concatenate([[True], ~repeated])
    return Line(s[keep], levels[keep])


def filled(first: Line, second: Line) -> Line:
    """The first line with its gaps filled by the second, which covers the same distances; a jump
    at each change.
    """
    if first.solid:
        return first
    if np.isnan(first.z).all():
        return second
    cuts = np.unique(np.concatenate([first.s, second.s]))
    a, b = cuts[:-1], cuts[1:]
    long = b - a > SAME
    a, b = a[long], b[long]
    use = ~np.isnan(level_at(first, (a + b) / 2))
    za = np.where(use, level_at(first, a), level_at(second, a))
    zb = np.where(use, level_at(first, b, "left"), level_at(second, b, "left"))
    s = np.column_stack([a, b]).ravel()
    z = np.column_stack([za, zb]).ravel()
    repeated = (np.diff(s) <= SAME) & (np.abs(np.diff(z)) <= SAME)
    keep = np.concatenate([[True], ~repeated])
    return Line(s[keep], z[keep])


def cut_at(s: Array, h: Array, mark: float) -> tuple[Array, Array]:
    """The same distances and values with a point at each place where the value passes a mark."""
    i = np.flatnonzero((h[:-1] - mark) * (h[1:] - mark) < 0)
    at = s[i] + (s[i + 1] - s[i]) * (mark - h[i]) / (h[i + 1] - h[i])
    return np.insert(s, i + 1, at), np.insert(h, i + 1, mark)
