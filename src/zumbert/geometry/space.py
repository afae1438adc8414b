"""Distances between straight pieces in space."""

from typing import NamedTuple

import numpy as np

from zumbert.geometry.elements import Array

TINY = 1e-18  # m²


class Apart(NamedTuple):
    """How far apart (m) pieces are at the least, and how far along each of two that is, 0 to 1."""

    far: Array
    s: Array
    t: Array


def nearest(p: Array, q: Array) -> Apart:
    """The least distance between pieces p and q (..., 2, 3), which are paired as numpy pairs arrays; exact.

    The nearest places of two lines are found, each kept on its piece in turn (Ericson, Real-Time Collision Detection,
    2005, 5.1.9); a piece without length is a point. Pieces that run side by side have one nearest pair among many.
    """
    p0, q0 = p[..., 0, :], q[..., 0, :]
    u, v, w = p[..., 1, :] - p0, q[..., 1, :] - q0, p0 - q0
    a, e = (u * u).sum(-1), (v * v).sum(-1)
    b, c, f = (u * v).sum(-1), (u * w).sum(-1), (v * w).sum(-1)
    det = a * e - b * b
    s = np.where(det > 1e-12 * a * e, np.clip(_over(b * f - c * e, det), 0.0, 1.0), 0.0)
    t = np.where(e > TINY, _over(b * s + f, e), 0.0)
    kept = np.clip(t, 0.0, 1.0)
    s = np.where((t != kept) | (e <= TINY), np.clip(_over(b * kept - c, a), 0.0, 1.0), s)
    t = np.where(e > TINY, np.clip(_over(b * s + f, e), 0.0, 1.0), 0.0)
    gap = w + s[..., None] * u - t[..., None] * v
    return Apart(np.asarray(np.sqrt((gap * gap).sum(-1))), s, t)


def between_pieces(p: Array, q: Array) -> Array:
    """The least distance (m) between each piece of p (n, 2, 3) and each of q (m, 2, 3), as (n, m); exact."""
    return nearest(p[:, None], q[None]).far


def _over(a: Array, b: Array) -> Array:
    """A quotient; 0 where there is nothing to divide by."""
    return np.asarray(np.divide(a, b, out=np.zeros(np.broadcast_shapes(a.shape, b.shape)), where=np.abs(b) > TINY))
