"""Triangles parted by an upright surface over a line in plan."""

from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.mesh import Mesh, merged

SLIVER = 1e-9  # m²: pieces smaller than this in plan are left out


class Parted(NamedTuple):
    """What lies left and right of a line, looking along it."""

    left: Mesh
    right: Mesh


def parted(mesh: Mesh, line: ArrayLike) -> Parted:
    """A surface with one level at each place, parted by a line in plan (n, 2), m, which is carried on straight beyond both ends.

    Triangles that the line runs through are cut on it, their levels are those of their planes: nothing is sampled. Raises
    ValueError for a line without length.
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
    sides: tuple[list[Mesh], list[Mesh]] = ([], [])
    for side, chosen in zip(sides, (whole & left, whole & ~left), strict=True):
        side.append(Mesh(mesh.vertices, mesh.faces[chosen]))
    for i in np.flatnonzero(hit).tolist():
        _cut(mesh.vertices[mesh.faces[i]] - [*origin, 0.0], shapes[i], blade, path, [*origin, 0.0], sides)
    return Parted(*(merged(side) for side in sides))


def _carried_on(p: Array, xy: Array) -> Array:
    """A line with straight ends that leave everything."""
    far = 2 * (float(np.abs(xy).max()) + float(np.abs(p).max())) + 1.0
    a, b = p[0] - p[1], p[-1] - p[-2]
    return np.vstack([p[0] + a / np.hypot(*a) * far, p, p[-1] + b / np.hypot(*b) * far])


def on_left(path: Array, xy: Array) -> Mask:
    """Which places (n, 2) lie left of a line: by the piece of it that is nearest, at a corner by the outer of both."""
    a, d = path[:-1], np.diff(path, axis=0)
    square = (d * d).sum(axis=1)
    best, left = np.full(len(xy), np.inf), np.zeros(len(xy), bool)
    slack = np.full(len(xy), -1.0)
    for (ax, ay), (dx, dy), dd in zip(a.tolist(), d.tolist(), square.tolist(), strict=True):
        rx, ry = xy[:, 0] - ax, xy[:, 1] - ay
        t = np.clip((rx * dx + ry * dy) / dd, 0.0, 1.0)
        far = np.hypot(rx - t * dx, ry - t * dy)
        turn = (dx * ry - dy * rx) / np.sqrt(dd)  # its distance from the piece carried on, left is positive
        tie = np.abs(far - best) <= 1e-9 * (1 + far)
        nearer = np.where(tie, np.abs(turn) > slack, far < best)
        best, left, slack = np.where(nearer, far, best), np.where(nearer, turn > 0, left), np.where(nearer, np.abs(turn), slack)
    return left


def _cut(
    triangle: Array, shape: shapely.Geometry, blade: shapely.Geometry, path: Array, origin: list[float],
    sides: tuple[list[Mesh], list[Mesh]],
) -> None:  # fmt: skip
    """The pieces of one triangle, each to its side."""
    (x0, y0, z0), (x1, y1, z1), (x2, y2, z2) = triangle.tolist()
    area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
    low, high = (
        np.array([(x0, y0), (x1, y1), (x2, y2)]).min(axis=0) - 1.0,
        np.array([(x0, y0), (x1, y1), (x2, y2)]).max(axis=0) + 1.0,
    )
    near = shapely.clip_by_rect(blade, *low.tolist(), *high.tolist())  # past the edges, so that it is surely parted there
    pieces = shapely.polygonize([shapely.node(shapely.union_all([shapely.boundary(shape), near]))])
    for piece in shapely.get_parts(pieces):
        if shapely.area(piece) < SLIVER or not shapely.contains(shape, shapely.point_on_surface(piece)):
            continue
        inner = shapely.get_coordinates(shapely.point_on_surface(piece))
        side = sides[0] if on_left(path, inner)[0] else sides[1]
        for t in shapely.get_parts(shapely.constrained_delaunay_triangles(piece)):
            xy = shapely.get_coordinates(t)[:3]
            u = ((xy[:, 0] - x0) * (y2 - y0) - (x2 - x0) * (xy[:, 1] - y0)) / area
            v = ((x1 - x0) * (xy[:, 1] - y0) - (xy[:, 0] - x0) * (y1 - y0)) / area
            z = z0 + u * (z1 - z0) + v * (z2 - z0)
            (ax, ay), (bx, by) = (xy[1] - xy[0]).tolist(), (xy[2] - xy[0]).tolist()
            turned = ax * by - bx * ay > 0
            side.append(Mesh(np.column_stack([xy, z]) + origin, np.array([[0, 1, 2] if turned == (area > 0) else [0, 2, 1]])))
