"""Contours of a triangulated surface, all levels at once."""

import numpy as np
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array
from zumbert.geometry.tin import Tin


def contours(tin: Tin, levels: ArrayLike) -> tuple[Array, np.ndarray]:
    """Straight contour pieces (m, 4) as x0, y0, x1, y1 in m, and for each the index of its level.

    A vertex exactly at a level counts as above it, so each triangle that a level crosses gives one piece,
    running with the higher ground on its left.
    """
    wanted = np.asarray(levels, float)
    p = tin.vertices[tin.faces]
    low, high = p[:, :, 2].min(axis=1), p[:, :, 2].max(axis=1)
    first, stop = np.searchsorted(wanted, low, "right"), np.searchsorted(wanted, high, "right")
    count = stop - first
    face = np.repeat(np.arange(len(p)), count)
    index = np.repeat(first, count) + np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count)
    q, z = p[face], wanted[index]
    above = q[:, :, 2] >= z[:, None]
    odd = np.where(above.sum(axis=1) == 1, above.argmax(axis=1), (~above).argmax(axis=1))
    rows = np.arange(len(q))
    apex, left, right = q[rows, odd], q[rows, (odd + 1) % 3], q[rows, (odd + 2) % 3]
    a, b = _cut(apex, left, z), _cut(apex, right, z)
    alone = above[rows, odd]
    return np.column_stack([np.where(alone[:, None], a, b), np.where(alone[:, None], b, a)]), index


def _cut(a: Array, b: Array, z: Array) -> Array:
    t = (z - a[:, 2]) / (b[:, 2] - a[:, 2])
    return np.asarray(a[:, :2] + t[:, None] * (b[:, :2] - a[:, :2]))
