"""The part over 0 of values that are linear on triangles: volumes and areas in closed form."""

import numpy as np

from zumbert.geometry.elements import Array
from zumbert.geometry.stretches import cross


def areas(xy: Array) -> Array:
    """Areas of triangles (n, 3, 2), m², positive anticlockwise."""
    return cross(xy[:, 1] - xy[:, 0], xy[:, 2] - xy[:, 0]) / 2


def volumes(area: Array, h: Array) -> Array:
    """The integral of max(h, 0) over triangles with areas (n), m², and heights (n, 3), m, at their
    corners.

    The part over 0 is the triangle less, or only, the corner that the line h = 0 cuts off; that
    corner is a pyramid over a triangle similar to it. With heights a <= b <= c: c³ / (3 (c - a)(c -
    b)) of the area where c alone is positive, and the mean height less a³ / (3 (a - b)(a - c))
    where a alone is negative.
    """
    return volumes_of_sorted(area, np.sort(h, axis=1))


def volumes_of_sorted(area: Array, h: Array) -> Array:
    """The same of heights that rise from corner to corner."""
    a, b, c = h[:, 0], h[:, 1], h[:, 2]
    one = (b < 0) & (c > 0)
    two = (a < 0) & (b >= 0)
    mean = (a + b + c) / 3
    low = np.where(two, a**3 / np.where(two, 3 * (a - b) * (a - c), 1.0), 0.0)
    top = np.where(one, c**3 / np.where(one, 3 * (c - a) * (c - b), 1.0), 0.0)
    return np.asarray(area * np.where(a >= 0, mean, np.where(two, mean - low, top)))


def covered(area: Array, h: Array) -> Array:
    """The part of the areas of triangles, m², on which h (n, 3) is over 0."""
    h = np.sort(h, axis=1)
    a, b, c = h[:, 0], h[:, 1], h[:, 2]
    one = (b < 0) & (c > 0)
    two = (a < 0) & (b >= 0) & (c > 0)
    low = np.where(two, a**2 / np.where(two, (a - b) * (a - c), 1.0), 0.0)
    top = np.where(one, c**2 / np.where(one, (c - a) * (c - b), 1.0), 0.0)
    return np.asarray(area * np.where((a >= 0) & (c > 0), 1.0, np.where(two, 1.0 - low, top)))


def stretches_over(long: Array, a: Array, b: Array) -> Array:
    """The integral of max(h, 0) over stretches (m) on which h runs straight from a to b."""
    low, high = np.minimum(a, b), np.maximum(a, b)
    part = high**2 / np.where(high - low > 0, 2 * (high - low), 1.0)
    return np.asarray(long * np.where(low >= 0, (a + b) / 2, np.where(high > 0, part, 0.0)))
