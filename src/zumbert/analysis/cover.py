"""Cover over pipes: exact, since ground and pipe are straight between their points."""

from typing import NamedTuple

import numpy as np

from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line


class Cover(NamedTuple):
    """Least and greatest vertical cover (m) over a barrel, and the first distance (m) at which
    each occurs.
    """

    least: float
    least_at: float
    greatest: float
    greatest_at: float


class Top(NamedTuple):
    """The outside top of a pipe: level (m) at distance `start` (m), falling by `slope`
    (fraction) from there.
    """

    level: float
    start: float
    slope: float


def covers(barrels: list[Line], tops: list[Top]) -> list[Cover | None]:
    """Cover of each pipe under its own reference line; None where no level is known over it.

    The difference of two lines that are straight between their points is least and greatest at a
    point of one of them, and a top has none inside the barrel: so only the reference's points
    count. Nothing is sampled.
    """
    if not barrels:
        return []
    count = np.array([len(b.s) for b in barrels])
    s, z = np.concatenate([b.s for b in barrels]), np.concatenate([b.z for b in barrels])
    level, start, slope = np.repeat(np.array(tops, float), count, axis=0).T
    depth = z - (level - slope * (s - start))
    first = np.cumsum(count) - count
    least, least_at = _extreme(np.fmin, depth, s, first, count)
    most, most_at = _extreme(np.fmax, depth, s, first, count)
    rows = zip(least.tolist(), least_at.tolist(), most.tolist(), most_at.tolist(), strict=True)
    return [None if a != a else Cover(a, b, c, d) for a, b, c, d in rows]


def _extreme(
    of: np.ufunc, depth: Array, s: Array, first: np.ndarray, count: np.ndarray
) -> tuple[Array, Array]:
    best = of.reduceat(depth, first)
    at = np.where(depth == np.repeat(best, count), s, np.inf)
    return best, np.minimum.reduceat(at, first)


def stretches(barrel: Line, top: Top, limit: float, under: bool) -> list[tuple[float, float]]:
    """The stretches where cover is under (or over) a limit: exact distances from and to, m.
    Stretches that touch are joined.
    """
    depth = barrel.z - (top.level - top.slope * (barrel.s - top.start))
    wrong = limit - depth if under else depth - limit
    out: list[tuple[float, float]] = []
    for a, b, fa, fb in zip(barrel.s, barrel.s[1:], wrong, wrong[1:], strict=False):
        if not max(fa, fb) > 0 or b <= a:
            continue
        p = a if fa >= 0 else a + (b - a) * fa / (fa - fb)
        q = b if fb >= 0 else a + (b - a) * fa / (fa - fb)
        if out and p - out[-1][1] <= 1e-9:
            out[-1] = (out[-1][0], float(q))
        else:
            out.append((float(p), float(q)))
    return out
