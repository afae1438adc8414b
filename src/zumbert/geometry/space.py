"""Distances between straight pieces in space."""

from typing import NamedTuple

import numpy as np

from zumbert.geometry.elements import Array

TINY = 1e-18  # m²
# of the product of two squared lengths: with a lesser determinant pieces are almost parallel
ALONG = 1e-6


class Apart(NamedTuple):
    """How far apart (m) pieces are at the least, and how far along each of two that is, 0 to 1."""

    far: Array
    s: Array
    t: Array


def nearest(p: Array, q: Array) -> Apart:
    """The least distance between pieces p and q (..., 2, 3), which are paired as numpy pairs
    arrays; exact.

    The nearest places of two lines are found, each kept on its piece in turn (Ericson, Real-Time
    Collision Detection, 2005, 5.1.9); where an end is nearer to the other piece, as between pieces
    that are almost parallel, that counts. A piece without length is a point. Pieces that run side
    by side have one nearest pair among many.
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
    far = (gap * gap).sum(-1)
    if (det <= ALONG * a * e).any():  # there the place on a line is known badly, an end well
        ends = (
            (0.0, _kept(f, e)),
            (1.0, _kept(b + f, e)),
            (_kept(-c, a), 0.0),
            (_kept(b - c, a), 1.0),
        )
        for s1, t1 in ends:
            i, j = np.broadcast_arrays(s1, t1)
            gap = w + i[..., None] * u - j[..., None] * v
            other = (gap * gap).sum(-1)
            nearer = other < far * (1 - 1e-12) - TINY
            far, s, t = np.where(nearer, other, far), np.where(nearer, i, s), np.where(nearer, j, t)
    return Apart(np.asarray(np.sqrt(far)), s, t)


def _kept(a: Array, b: Array) -> Array:
    """A share of a piece, kept on it."""
    return np.asarray(np.clip(_over(a, b), 0.0, 1.0))


def between_pieces(p: Array, q: Array) -> Array:
    """The least distance (m) between each piece of p (n, 2, 3) and each of q (m, 2, 3), as (n,
    m); exact.
    """
    return nearest(p[:, None], q[None]).far


def _over(a: Array, b: Array) -> Array:
    """A quotient; 0 where there is nothing to divide by."""
    return np.asarray(
        np.divide(a, b, out=np.zeros(np.broadcast_shapes(a.shape, b.shape)), where=np.abs(b) > TINY)
    )
