"""Convex polygons cut with each other and with a surface, many at once.

Polygons are arrays (n, k, 2), anticlockwise; one with fewer than k corners repeats its last one, which changes neither
its area nor any cut.
"""

from typing import NamedTuple

import numpy as np

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.faces import Faces
from zumbert.geometry.stretches import cross, place_in_run

Rows = np.ndarray  # numbers of polygons


class Pieces(NamedTuple):
    """Polygons cut with the faces of a surface."""

    row: Rows  # which polygon a piece is of
    face: Rows
    xy: Array  # (m, k, 2), m
    z: Array  # (m, k), m: the level of the surface at its corners


def cut(p: Array, normal: Array, offset: Array, *more: Array) -> tuple[Rows, Array, *tuple[Array, ...]]:
    """The parts of polygons where normal . p <= offset: the numbers of the polygons with a part, and the parts.

    Normals (n, 2), offsets (n). More values at the corners (n, k) are cut along, linear on each edge.
    """
    d = p[:, :, 0] * normal[:, :1] + p[:, :, 1] * normal[:, 1:] - offset[:, None]
    return cut_by(p, d, *more)


def cut_by(p: Array, d: Array, *more: Array) -> tuple[Rows, Array, *tuple[Array, ...]]:
    """The parts of polygons where values d (n, k) at their corners, linear between, are 0 or less."""
    inside = d <= 0
    some, whole = inside.any(axis=1), inside.all(axis=1)
    rows = np.flatnonzero(some)
    crossed = np.flatnonzero(some & ~whole)
    if not crossed.size:
        return (rows, p[rows], *(v[rows] for v in more))
    q, e, ins = p[crossed], d[crossed], inside[crossed]
    k = q.shape[1]
    over = np.roll(ins, -1, axis=1) != ins
    e1 = np.roll(e, -1, axis=1)
    share = np.where(over, e / np.where(over, e - e1, 1.0), 0.0)
    source, place = _order(ins, over)
    parts = []
    for v in (q, *(m[crossed] for m in more)):
        t = share[:, :, None] if v.ndim == 3 else share
        crossing = v + t * (np.roll(v, -1, axis=1) - v)
        parts.append(_mixed(v, crossing, source, place))
    size = max(k, source.shape[1])
    out = []
    at = np.searchsorted(rows, crossed)
    for v, part in zip((p, *more), parts, strict=True):
        full = _padded(v[rows], size)
        full[at] = _padded(part, size)
        out.append(full)
    return (rows, *out)  # type: ignore[return-value]


def _order(inside: Mask, over: Mask) -> tuple[np.ndarray, np.ndarray]:
    """For each corner of a cut polygon where it comes from: the number of the old corner, and whether it is the crossing after it."""
    n, k = inside.shape
    both = np.empty((n, 2 * k), bool)
    both[:, 0::2], both[:, 1::2] = inside, over
    many = both.sum(axis=1)
    size = int(many.max())
    order = np.argsort(~both, axis=1, kind="stable")[:, :size]
    order = np.take_along_axis(order, np.minimum(np.arange(size), many[:, None] - 1), axis=1)
    return order // 2, order % 2


def _mixed(own: Array, crossing: Array, source: np.ndarray, place: np.ndarray) -> Array:
    at = source[:, :, None] if own.ndim == 3 else source
    pick = place[:, :, None] if own.ndim == 3 else place
    return np.where(pick == 0, np.take_along_axis(own, at, axis=1), np.take_along_axis(crossing, at, axis=1))


def _padded(p: Array, size: int) -> Array:
    """The polygons with room for more corners: the last one is repeated."""
    if p.shape[1] == size:
        return p.copy()
    return np.concatenate([p, np.repeat(p[:, -1:], size - p.shape[1], axis=1)], axis=1)


def area(p: Array) -> Array:
    """Areas of polygons, m²."""
    e = p[:, 1:] - p[:, :1]
    return np.asarray(cross(e[:, :-1], e[:, 1:]).sum(axis=1) / 2)


def stacked(parts: list[Array]) -> Array:
    """Polygons, or values at their corners, of several arrays in one."""
    size = max((p.shape[1] for p in parts), default=3)
    return np.concatenate([_padded(p, size) for p in parts])


def laid_on(faces: Faces, p: Array) -> Pieces:
    """Polygons (n, k, 2), in m, cut with the faces of a surface: exact, each piece on one face.

    What lies beside the surface is missing; a polygon's pieces have its whole area where the surface covers it.
    """
    local = p - faces.origin
    row, face = near(faces, local)
    corner = faces.corners[face]
    piece = local[row]
    for k in range(3):
        a, e = corner[:, k, :2], corner[:, (k + 1) % 3, :2] - corner[:, k, :2]
        normal = np.column_stack([e[:, 1], -e[:, 0]])
        kept, piece = cut(piece, normal, (normal * a).sum(axis=1))
        row, face, corner = row[kept], face[kept], corner[kept]
    real = area(piece) > 1e-13
    row, face, piece = row[real], face[real], piece[real]
    z = faces.level_on(face, piece)
    return Pieces(row, face, piece + faces.origin, z)


def near(faces: Faces, p: Array) -> tuple[Rows, Rows]:
    """Pairs of polygons (local to the surface) and faces whose boxes meet."""
    low, high = p.min(axis=1), p.max(axis=1)
    row, face = faces.in_boxes(low, high)
    box_low, box_high = faces.boxes
    meet = ((box_low[face] < high[row]) & (box_high[face] > low[row])).all(axis=1)
    return row[meet], face[meet]


def triangles(p: Array) -> tuple[Rows, np.ndarray]:
    """Polygons as triangles: the number of the polygon of each, and which of its corners (m, 3) it has."""
    n, k = p.shape[:2]
    e = p[:, 1:] - p[:, :1]
    real = cross(e[:, :-1], e[:, 1:]) > 1e-14
    row, i = np.nonzero(real)
    return row, np.column_stack([np.zeros_like(i), i + 1, i + 2])


def pairs(low: Array, high: Array) -> tuple[Rows, Rows]:
    """Pairs i < j of boxes (n, 2) to (n, 2) that overlap."""
    import shapely

    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    a, b = shapely.STRtree(boxes).query(boxes)
    keep = a < b
    a, b = a[keep], b[keep]
    meet = ((low[a] < high[b]) & (high[a] > low[b])).all(axis=1)
    order = np.lexsort((b[meet], a[meet]))
    return a[meet][order], b[meet][order]


def expanded(start: np.ndarray, count: np.ndarray) -> tuple[Rows, np.ndarray]:
    """Runs of numbers from a start on: which run each is of, and the numbers."""
    row = np.repeat(np.arange(len(count)), count)
    return row, np.repeat(start, count) + place_in_run(count)
