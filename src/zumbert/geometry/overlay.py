"""Convex polygons cut with each other and with a surface, many at once.

Polygons are arrays (n, k, 2), anticlockwise; one with fewer than k corners repeats its last one,
which changes neither its area nor any cut.
"""

from typing import NamedTuple

import numpy as np

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.faces import Faces
from zumbert.geometry.stretches import cross

Rows = np.ndarray  # numbers of polygons
FEW_CORNERS = 9


class Pieces(NamedTuple):
    """Polygons cut with the faces of a surface."""

    row: Rows  # which polygon a piece is of
    face: Rows
    xy: Array  # (m, k, 2), m
    z: Array  # (m, k), m: the level of the surface at its corners


def cut(p: Array, normal: Array, offset: Array) -> tuple[Rows, Array]:
    """The parts of polygons where normal . p <= offset: the numbers of the polygons with a part,
    and the parts.

    Normals (n, 2), offsets (n).
    """
    return cut_by(p, p[:, :, 0] * normal[:, :1] + p[:, :, 1] * normal[:, 1:] - offset[:, None])


def cut_by(p: Array, d: Array) -> tuple[Rows, Array]:
    """The parts of polygons where values d (n, k) at their corners, linear between, are 0 or
    less.
    """
    inside = d <= 0
    some, whole = inside.any(axis=1), inside.all(axis=1)
    rows = np.flatnonzero(some)
    crossed = np.flatnonzero(some & ~whole)
    if not crossed.size:
        return rows, p[rows]
    q, e, ins = p[crossed], d[crossed], inside[crossed]
    over = np.roll(ins, -1, axis=1) != ins
    share = np.where(over, e / np.where(over, e - np.roll(e, -1, axis=1), 1.0), 0.0)
    crossing = q + share[:, :, None] * (np.roll(q, -1, axis=1) - q)
    source, place = _order(ins, over)
    part = np.where(
        place[:, :, None] == 0,
        np.take_along_axis(q, source[:, :, None], axis=1),
        np.take_along_axis(crossing, source[:, :, None], axis=1),
    )
    size = max(p.shape[1], part.shape[1])
    out = _padded(p[rows], size)
    out[np.searchsorted(rows, crossed)] = _padded(part, size)
    return rows, out


def _order(inside: Mask, over: Mask) -> tuple[np.ndarray, np.ndarray]:
    """Where each corner of a cut polygon comes from: the number of the old corner, and whether
    it is the crossing after that.
    """
    both = np.empty((len(inside), 2 * inside.shape[1]), bool)
    both[:, 0::2], both[:, 1::2] = inside, over
    many = both.sum(axis=1)
    size = int(many.max())
    order = np.argsort(~both, axis=1, kind="stable")[:, :size]
    order = np.take_along_axis(order, np.minimum(np.arange(size), many[:, None] - 1), axis=1)
    return order // 2, order % 2


def _padded(p: Array, size: int) -> Array:
    """The polygons with room for more corners: the last one is repeated."""
    if p.shape[1] == size:
        return p.copy()
    return np.concatenate([p, np.repeat(p[:, -1:], size - p.shape[1], axis=1)], axis=1)


def trimmed(p: Array) -> Array:
    """The same polygons with no more room than the one with the most corners needs; corners that
    repeat stand last.
    """
    if not len(p):
        return p[:, :3]
    apart = np.ones(p.shape[:2], bool)
    apart[:, 1:] = (p[:, 1:] != p[:, :-1]).any(axis=2)
    many = apart.sum(axis=1)
    size = max(3, int(many.max()))
    if size == p.shape[1]:
        return p
    order = np.argsort(~apart, axis=1, kind="stable")[:, :size]
    order = np.take_along_axis(order, np.minimum(np.arange(size), many[:, None] - 1), axis=1)
    return np.asarray(np.take_along_axis(p, order[:, :, None], axis=1))


def corner_counts(p: Array) -> np.ndarray:
    """How many corners polygons have, those that they repeat not counted."""
    return np.asarray((p[:, 1:] != p[:, :-1]).any(axis=2).sum(axis=1) + 1)


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

    What lies beside the surface is missing; a polygon's pieces have its whole area where the
    surface covers it.
    """
    if p.shape[1] > FEW_CORNERS:
        few = corner_counts(p) <= FEW_CORNERS
        if few.any():  # trimmed they are no wider
            return _both(faces, p, np.flatnonzero(few), np.flatnonzero(~few))
    local = trimmed(p) - faces.origin
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


def _both(faces: Faces, p: Array, few: Rows, many: Rows) -> Pieces:
    """Polygons with few corners and with many by themselves, so that the few do not carry the
    room of the many.
    """
    parts = [(rows, laid_on(faces, trimmed(p[rows]))) for rows in (few, many) if len(rows)]
    row = np.concatenate([rows[m.row] for rows, m in parts])
    order = np.argsort(row, kind="stable")
    face = np.concatenate([m.face for _, m in parts])
    xy = stacked([m.xy for _, m in parts])
    z = np.concatenate([_wide(m.z, xy.shape[1]) for _, m in parts])
    return Pieces(row[order], face[order], xy[order], z[order])


def _wide(z: Array, size: int) -> Array:
    return np.concatenate([z, np.repeat(z[:, -1:], size - z.shape[1], axis=1)], axis=1)


def near(faces: Faces, p: Array) -> tuple[Rows, Rows]:
    """Pairs of polygons (local to the surface) and faces whose boxes meet."""
    low, high = p.min(axis=1), p.max(axis=1)
    row, face = faces.in_boxes(low, high)
    box_low, box_high = faces.boxes
    meet = ((box_low[face] < high[row]) & (box_high[face] > low[row])).all(axis=1)
    return row[meet], face[meet]


def triangles(p: Array) -> tuple[Rows, np.ndarray]:
    """Polygons as triangles: the number of the polygon of each, and which of its corners (m, 3)
    it has.
    """
    e = p[:, 1:] - p[:, :1]
    real = cross(e[:, :-1], e[:, 1:]) > 1e-14
    row, i = np.nonzero(real)
    return row, np.column_stack([np.zeros_like(i), i + 1, i + 2])
