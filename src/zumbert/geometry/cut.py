"""Triangles parted by an upright surface over a line in plan."""

from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.mesh import Mesh, merged

SLIVER = 1e-9  # m²: pieces smaller than this in plan are left out
SAME = 1e-9  # m: corners of a piece that are nearer to each other are one


class Parted(NamedTuple):
    """The parts left and right of a line, looking along it."""

    left: Mesh
    right: Mesh


def parted(mesh: Mesh, line: ArrayLike) -> Parted:
    """A surface with one level at each place, parted by a line in plan (n, 2), m, which is carried
    on straight beyond both ends.

    Triangles that the line runs through are cut on it, their levels are those of their planes:
    nothing is sampled. Raises ValueError for a line without length.
    """
    p = np.asarray(line, float)
    p = p[np.concatenate([[True], np.hypot(*np.diff(p, axis=0).T) > 1e-9])]
    if len(p) < 2:
        raise ValueError("a line without length parts nothing")
    if not len(mesh.faces):
        return Parted(mesh, mesh)
    origin = p[0]
    xy = mesh.vertices[:, :2] - origin
    path = _carried_on(np.round(p - origin, 9), xy)
    corners = xy[mesh.faces]
    blade = shapely.linestrings(path)
    shapely.prepare(blade)
    shapes = shapely.polygons(np.concatenate([corners, corners[:, :1]], axis=1))
    hit = shapely.crosses(blade, shapes) | shapely.contains_properly(shapes, blade)
    whole = ~hit
    left = on_left(path, corners.mean(axis=1))
    near = [_pieces(corners[i], shapes[i], blade) for i in np.flatnonzero(hit).tolist()]
    of = np.repeat(np.flatnonzero(hit), [len(p) for p in near])
    pieces = np.concatenate(near) if near else np.zeros(0, object)
    inner = shapely.point_on_surface(pieces)
    real = (shapely.area(pieces) >= SLIVER) & shapely.contains(shapes[of], inner)
    pieces, of, inner = pieces[real], of[real], inner[real]
    sides = on_left(path, shapely.get_coordinates(inner))
    out = []
    for rows, chosen in ((whole & left, sides), (whole & ~left, ~sides)):
        cut = _triangles(
            pieces[chosen], mesh.vertices[mesh.faces[of[chosen]]] - [*origin, 0.0], origin
        )
        out.append(merged([Mesh(mesh.vertices, mesh.faces[rows]), cut]))
    return Parted(*out)


def _carried_on(p: Array, xy: Array) -> Array:
    """A line with straight ends that leave everything."""
    far = 2 * (float(np.abs(xy).max()) + float(np.abs(p).max())) + 1.0
    a, b = p[0] - p[1], p[-1] - p[-2]
    return np.vstack([p[0] + a / np.hypot(*a) * far, p, p[-1] + b / np.hypot(*b) * far])


def on_left(path: Array, xy: Array) -> Mask:
    """Which places (n, 2) lie left of a line: by the piece of it that is nearest, at a corner by
    the outer of both.
    """
    a, d = path[:-1], np.diff(path, axis=0)
    square = (d * d).sum(axis=1)
    best, left = np.full(len(xy), np.inf), np.zeros(len(xy), bool)
    slack = np.full(len(xy), -1.0)
    for (ax, ay), (dx, dy), dd in zip(a.tolist(), d.tolist(), square.tolist(), strict=True):
        rx, ry = xy[:, 0] - ax, xy[:, 1] - ay
        t = np.clip((rx * dx + ry * dy) / dd, 0.0, 1.0)
        far = np.hypot(rx - t * dx, ry - t * dy)
        # its distance from the piece carried on, left is positive
        turn = (dx * ry - dy * rx) / np.sqrt(dd)
        tie = np.abs(far - best) <= 1e-9 * (1 + far)
        nearer = np.where(tie, np.abs(turn) > slack, far < best)
        best, left, slack = (
            np.where(nearer, far, best),
            np.where(nearer, turn > 0, left),
            np.where(nearer, np.abs(turn), slack),
        )
    return left


def _pieces(corners: Array, shape: shapely.Geometry, blade: shapely.Geometry) -> np.ndarray:
    """The pieces that the line makes of a triangle."""
    low, high = corners.min(axis=0) - 1.0, corners.max(axis=0) + 1.0
    # past the edges, so that it is surely parted there
    near = shapely.clip_by_rect(blade, *low.tolist(), *high.tolist())
    return np.asarray(
        shapely.get_parts(
            shapely.polygonize([shapely.node(shapely.union_all([shapely.boundary(shape), near]))])
        )
    )


def _triangles(pieces: np.ndarray, planes: Array, origin: Array) -> Mesh:
    """Pieces (n,) as triangles that lie in the planes of others (n, 3, 3) and turn as those do."""
    pieces = shapely.remove_repeated_points(pieces, SAME)
    parts, of = shapely.get_parts(shapely.constrained_delaunay_triangles(pieces), return_index=True)
    xy = shapely.get_coordinates(parts).reshape(-1, 4, 2)[:, :3]
    a, b, c = (planes[of, i, None] for i in range(3))
    p, q, r = b - a, c - a, xy - a[..., :2]
    area = p[..., 0] * q[..., 1] - q[..., 0] * p[..., 1]
    u = (r[..., 0] * q[..., 1] - q[..., 0] * r[..., 1]) / area
    v = (p[..., 0] * r[..., 1] - r[..., 0] * p[..., 1]) / area
    z = a[..., 2] + u * p[..., 2] + v * q[..., 2]
    e, f = xy[:, 1] - xy[:, 0], xy[:, 2] - xy[:, 0]
    alike = (e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0] > 0) == (area[:, 0] > 0)
    faces = np.arange(3 * len(xy)).reshape(-1, 3)
    faces[~alike] = faces[~alike][:, [0, 2, 1]]
    return Mesh(np.column_stack([xy.reshape(-1, 2) + origin, z.ravel()]), faces)
