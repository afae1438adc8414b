"""Contours of a triangulated surface, all levels at once."""

import numpy as np
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array
from zumbert.geometry.tin import Tin


def contours(tin: Tin, levels: ArrayLike) -> tuple[Array, np.ndarray]:
    """Straight contour pieces (m, 4) as x0, y0, x1, y1 in m, and for each the index of its level.

    A vertex exactly at a level counts as above it, so each triangle that a level crosses gives one
    piece, running with the higher ground on its left.
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
    # which corners lie above: the odd one out is the apex
    code = above[:, 0] + 2 * above[:, 1] + 4 * above[:, 2]
    corners = _CORNERS[code] + np.arange(len(face), dtype=np.int32)[:, None] * 3
    own, numbers = f.astype(np.int32).take(face, axis=0).ravel(), zc.ravel()
    apex, one, other = corners.T
    xy = np.ascontiguousarray(v[:, :2])
    p, zp = xy.take(own.take(apex), axis=0), numbers.take(apex)
    out = np.empty((len(face), 4))
    out[:, :2] = _cut(p, zp, xy.take(own.take(one), axis=0), numbers.take(one), at)
    out[:, 2:] = _cut(p, zp, xy.take(own.take(other), axis=0), numbers.take(other), at)
    return out, index


# by which corners lie above (1, 2, 4): the odd one out, then the two in the order that leaves
# higher ground on the left
_CORNERS = np.array(
    [(0, 1, 2), (0, 1, 2), (1, 2, 0), (2, 1, 0), (2, 0, 1), (1, 0, 2), (0, 2, 1), (0, 1, 2)],
    np.int32,
)


def _cut(a: Array, za: Array, b: Array, zb: Array, at: Array) -> Array:
    """Where a level cuts the edge from a to b."""
    return np.asarray(a + ((at - za) / (zb - za))[:, None] * (b - a))
