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
    f, v = tin.faces, tin.vertices
    z = v[:, 2][f]
    z0, z1, z2 = z.T
    first = np.searchsorted(wanted, np.minimum(np.minimum(z0, z1), z2), "right")
    count = np.searchsorted(wanted, np.maximum(np.maximum(z0, z1), z2), "right") - first
    face = np.repeat(np.arange(len(f), dtype=np.int32), count)
    index = np.arange(len(face)) + np.repeat(first - (np.cumsum(count) - count), count)
    at = wanted[index]
    zc = z[face]
    above = zc >= at[:, None]
    code = above[:, 0] + 2 * above[:, 1] + 4 * above[:, 2]  # which corners lie above: the odd one out is the apex
    corners = _CORNERS[code]
    rows = np.arange(len(face)) * 3
    own, numbers = f[face].ravel(), zc.ravel()
    apex, left, right = (rows + corners[:, i] for i in range(3))
    xy, alone = v[:, :2], _ALONE[code]
    p, zp = xy[own[apex]], numbers[apex]
    a = _cut(p, zp, xy[own[left]], numbers[left], at)
    b = _cut(p, zp, xy[own[right]], numbers[right], at)
    out = np.empty((len(face), 4))
    out[:, :2], out[:, 2:] = np.where(alone[:, None], a, b), np.where(alone[:, None], b, a)
    return out, index


_CORNERS = np.array([(0, 1, 2), (0, 1, 2), (1, 2, 0), (2, 0, 1), (2, 0, 1), (1, 2, 0), (0, 1, 2), (0, 1, 2)])
_ALONE = np.array([False, True, True, False, True, False, False, False])


def _cut(a: Array, za: Array, b: Array, zb: Array, at: Array) -> Array:
    """Where a level cuts the edge from a to b."""
    return np.asarray(a + ((at - za) / (zb - za))[:, None] * (b - a))
