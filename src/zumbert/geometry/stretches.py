"""Stretches of lines over faces."""

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array


def strung(
    sections: Callable[[Array, Array], tuple[np.ndarray, Array, Array]], xy: ArrayLike
) -> tuple[Array, Array]:
    """The ground lines along the straights of a (k, 2) polyline, strung to one: distances and
    levels, m.
    """
    p = np.asarray(xy, float).reshape(-1, 2)
    long = np.hypot(*np.diff(p, axis=0).T)
    offsets, s, z = sections(p[:-1], p[1:])
    start = np.concatenate([[0.0], np.cumsum(long)])
    s = s + np.repeat(start[:-1], np.diff(offsets))
    double = np.concatenate([[False], (np.diff(s) <= 1e-12) & (np.abs(np.diff(z)) <= 1e-9)])
    gap = np.concatenate([[False], np.isnan(z[1:]) & np.isnan(z[:-1]) & (s[1:] < s[-1])])
    return s[~double & ~gap], z[~double & ~gap]


def unique_stretches(
    line: np.ndarray, face: np.ndarray, t0: Array, t1: Array
) -> tuple[np.ndarray, np.ndarray, Array, Array]:
    """Pieces by line and place, without those that others cover. Where two overlap the face of the
    lower number counts, as it does for the level of a point.
    """
    keep = t1 - t0 > 1e-11
    line, face, t0, t1 = line[keep], face[keep], t0[keep], t1[keep]
    order = np.lexsort((t1, t0, line))
    line, face, t0, t1 = line[order], face[order], t0[order], t1[order]
    if not line.size:
        return line, face, t0, t1
    reached = np.maximum.accumulate(t1 + 2.0 * line)
    before = np.concatenate([[-1.0], reached[:-1]]) - 2.0 * line
    layered = np.unique(line[before - t0 > 1e-9])
    if layered.size:
        several = np.isin(line, layered)
        parts = [
            _lowest(n, face[line == n], t0[line == n], t1[line == n]) for n in layered.tolist()
        ]
        line, face, t0, t1 = (
            np.concatenate([whole[~several], *(p[i] for p in parts)])
            for i, whole in enumerate((line, face, t0, t1))
        )
        order = np.lexsort((t1, t0, line))
        return line[order], face[order], t0[order], t1[order]
    t0 = np.maximum(t0, before)
    new = t1 - t0 > 1e-11
    return line[new], face[new], t0[new], t1[new]


def _lowest(
    line: int, face: np.ndarray, t0: Array, t1: Array
) -> tuple[np.ndarray, np.ndarray, Array, Array]:
    """The pieces of one line, each stretch on the face of the lowest number that holds it."""
    cuts = np.unique(np.concatenate([t0, t1]))
    cuts = cuts[np.concatenate([[True], np.diff(cuts) > 1e-11])]
    a, b = cuts[:-1], cuts[1:]
    mid = (a + b) / 2
    holds = (t0[:, None] < mid) & (t1[:, None] > mid)
    best = np.where(holds, face[:, None], np.iinfo(np.int64).max).min(axis=0)
    on = holds.any(axis=0)
    return np.full(int(on.sum()), line), best[on], a[on], b[on]


def place_in_run(count: np.ndarray) -> np.ndarray:
    """The numbers 0, 1, 2 … within each group of so many."""
    return np.asarray(np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count))


def expanded(start: np.ndarray, count: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Runs of numbers, each from a start on: which run every number is of, and the number."""
    row = np.repeat(np.arange(len(count)), count)
    return row, np.repeat(start, count) + place_in_run(count)


def cross(a: Array, b: Array) -> Array:
    """The cross products of plane vectors (…, 2)."""
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def clipped(a: Array, d: Array, corner: Array) -> tuple[Array, Array]:
    """The t range of each line a + t d (0 to 1) inside its counter-clockwise triangle; empty
    where from > to.
    """
    low, high = np.zeros(len(a)), np.ones(len(a))
    for k in range(3):
        p, e = corner[:, k], corner[:, (k + 1) % 3] - corner[:, k]
        size = np.hypot(e[:, 0], e[:, 1])
        f0 = cross(e, a - p) / size
        f1 = cross(e, d) / size
        along = np.abs(f1) <= 1e-12 * np.maximum(1.0, np.hypot(d[:, 0], d[:, 1]))
        t = -f0 / np.where(along, 1.0, f1)
        low = np.where(~along & (f1 > 0), np.maximum(low, t), low)
        high = np.where(~along & (f1 < 0), np.minimum(high, t), high)
        high = np.where(along & (f0 < -1e-9), -1.0, high)
    return low, high


def joined(
    n: int, long: Array, line: np.ndarray, t0: Array, t1: Array, z0: Array, z1: Array
) -> tuple[np.ndarray, Array, Array]:
    """Pieces inside faces strung to lines: shared ends once, a jump twice, a gap opened by a NaN
    level.
    """
    first = np.concatenate([[True], line[1:] != line[:-1]]) if line.size else np.zeros(0, bool)
    last = np.concatenate([first[1:], [True]]) if line.size else first
    t_before = np.where(first, 0.0, np.concatenate([[0.0], t1[:-1]]) if line.size else t1)
    z_before = np.where(first, np.nan, np.concatenate([[np.nan], z1[:-1]]) if line.size else z1)
    gap = t0 - t_before > 1e-9
    jump = gap | first | (np.abs(z0 - z_before) > 1e-9)
    tail = last & (1.0 - t1 > 1e-9)
    where, what_t, what_z = [line[gap]], [t_before[gap]], [np.full(int(gap.sum()), np.nan)]
    rank = [4 * np.flatnonzero(gap)]
    snapped = np.where(last & ~tail, 1.0, t1)
    for mask, t, z, place in (
        (jump, np.where(gap, t0, t_before), z0, 1),
        (np.ones_like(gap), snapped, z1, 2),
    ):
        where.append(line[mask])
        what_t.append(t[mask])
        what_z.append(z[mask])
        rank.append(4 * np.flatnonzero(mask) + place)
    for t in (t1[tail], np.ones(int(tail.sum()))):  # a gap to the end: it opens, and the end itself
        where.append(line[tail])
        what_t.append(t)
        what_z.append(np.full(int(tail.sum()), np.nan))
        rank.append(4 * np.flatnonzero(tail) + 3)
    bare = np.setdiff1d(np.arange(n), line)
    for end in (0.0, 1.0):
        where.append(bare)
        what_t.append(np.full(len(bare), end))
        what_z.append(np.full(len(bare), np.nan))
        rank.append(np.full(len(bare), int(end)))
    all_line, all_rank = np.concatenate(where), np.concatenate(rank)
    order = np.lexsort((all_rank, all_line))
    all_line = all_line[order]
    offsets = np.searchsorted(all_line, np.arange(n + 1))
    return offsets, np.concatenate(what_t)[order] * long[all_line], np.concatenate(what_z)[order]
