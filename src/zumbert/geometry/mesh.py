"""Closed surfaces of triangles: tubes along a path and bodies built up of rings."""

from collections.abc import Sequence
from itertools import pairwise
from math import pi
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zumbert.geometry.elements import Array

# of a round body: polygons of the circle's area, which leave it by 0.6 % of the radius at most
SIDES = 24
CREASE = 0.8  # cosine of the angle between faces from which on their edge is sharp
_TURN = 2 * pi / SIDES
GROWN = float(
    np.sqrt(_TURN / np.sin(_TURN))
)  # what makes the area of the polygon that of its circle


class Mesh(NamedTuple):
    """Vertices (n, 3) in m and faces (m, 3) of vertex numbers, anticlockwise seen from outside."""

    vertices: Array
    faces: NDArray[np.int64]

    @property
    def volume(self) -> float:
        """Its volume, m³; positive where its faces look outward. Exact for a closed
        surface, about its own middle.
        """
        if not len(self.faces):
            return 0.0
        p = (self.vertices - self.vertices.mean(axis=0))[self.faces]
        return float(np.einsum("ij,ij->", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6)

    @property
    def closed(self) -> bool:
        """Whether each edge is that of two faces, once in each direction."""
        a = self.faces
        edges = np.concatenate([a[:, [0, 1]], a[:, [1, 2]], a[:, [2, 0]]])
        n = len(self.vertices)
        there = np.unique(edges[:, 0] * n + edges[:, 1])
        back = np.unique(edges[:, 1] * n + edges[:, 0])
        return len(there) == len(edges) and bool(np.array_equal(there, back))


def merged(meshes: Sequence[Mesh]) -> Mesh:
    """Several surfaces as one."""
    if not meshes:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
    starts = np.cumsum([0, *(len(m.vertices) for m in meshes)])
    faces = [m.faces + k for m, k in zip(meshes, starts, strict=False)]
    return Mesh(np.concatenate([m.vertices for m in meshes]), np.concatenate(faces))


def _between(a: NDArray[np.int64], b: NDArray[np.int64]) -> NDArray[np.int64]:
    """Faces of the band from ring a to ring b, which have as many vertices."""
    a1, b1 = np.roll(a, -1), np.roll(b, -1)
    return np.concatenate([np.column_stack([a, a1, b1]), np.column_stack([a, b1, b])])


def rings(outlines: Sequence[ArrayLike], caps: bool = True) -> Mesh:
    """The body between rings (k, 3) of as many vertices each, from its underside on, anticlockwise
    seen from above.

    With `caps` the first and the last are flat ends, filled; else the last joins the first, as in a
    tube.
    """
    xyz = [np.asarray(o, float) for o in outlines]
    k = len(xyz[0])
    numbers = np.arange(len(xyz) * k, dtype=np.int64).reshape(len(xyz), k)
    faces = [_between(a, b) for a, b in pairwise(numbers if caps else [*numbers, numbers[0]])]
    vertices = np.concatenate(xyz)
    if caps:
        n = len(vertices)
        vertices = np.concatenate([vertices, [xyz[0].mean(axis=0), xyz[-1].mean(axis=0)]])
        first, last = numbers[0], numbers[-1]
        faces.append(np.column_stack([np.full(k, n), np.roll(first, -1), first]))
        faces.append(np.column_stack([np.full(k, n + 1), last, np.roll(last, -1)]))
    return Mesh(vertices, np.concatenate(faces))


def circle(x: float, y: float, z: float, across: float) -> Array:
    """A level ring of the area of a circle."""
    a = _TURN * (np.arange(SIDES) + 0.5)
    r = across / 2 * GROWN
    return np.column_stack([x + r * np.cos(a), y + r * np.sin(a), np.full(SIDES, z)])


def around(path: ArrayLike, across: float) -> Array:
    """Rings (n, SIDES, 3) about the vertices of a path (n, 3): upright, so that heights are
    vertical, and mitred at bends.

    A ring is the polygon of a circle's area, so the body between two rings has that area times its
    length in plan. A path that stands on one place has level rings.
    """
    p = np.asarray(path, float)
    step = np.diff(p, axis=0)
    plan = np.hypot(step[:, 0], step[:, 1])
    ahead = np.where(
        (plan > 1e-9)[:, None], step[:, :2] / np.where(plan > 1e-9, plan, 1.0)[:, None], 0.0
    )
    before, after = np.vstack([ahead[:1], ahead]), np.vstack([ahead, ahead[-1:]])
    upright = (before == 0).all(axis=1) & (after == 0).all(
        axis=1
    )  # a path that stands on one place
    mid = before + after
    far = np.hypot(mid[:, 0], mid[:, 1])
    far = np.where(far > 1e-6, far, 1.0)
    along = mid / far[:, None]
    right = np.column_stack([along[:, 1], -along[:, 0], np.zeros(len(p))])
    both = (before != 0).any(axis=1) & (after != 0).any(axis=1)
    # cosine of half the bend; a hairpin is cut short
    half = np.where(both, np.maximum((before * along).sum(axis=1), 0.2), 1.0)
    right /= half[:, None]
    up = np.tile([0.0, 0.0, 1.0], (len(p), 1))
    right[upright], up[upright] = [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]
    a = _TURN * (np.arange(SIDES) + 0.5)
    r = across / 2 * GROWN
    return np.asarray(
        p[:, None]
        + r * (np.cos(a)[None, :, None] * right[:, None] + np.sin(a)[None, :, None] * up[:, None]),
        dtype=float,
    )


def rod(path: ArrayLike, across: float) -> Mesh:
    """A full round body along a path (n, 3), m; a piece that stands upright is a body of its own.
    Pieces without length are passed over.
    """
    p = np.asarray(path, float)
    p = p[np.concatenate([[True], np.linalg.norm(np.diff(p, axis=0), axis=1) > 1e-9])]
    stands = np.hypot(*np.diff(p[:, :2], axis=0).T) <= 1e-9
    cuts = np.flatnonzero(stands[1:] != stands[:-1]) + 1
    ends = [0, *cuts.tolist(), len(p) - 1]
    parts = [p[a : b + 1] for a, b in pairwise(ends) if b > a]
    return merged([outward(rings(list(around(part, across)))) for part in parts])


def tube(path: ArrayLike, inside: float, outside: float) -> Mesh:
    """A pipe along a path (n, 3) of its axis: outer wall, inner wall and the rings at its ends. m.

    Its volume is the area of the ring times its length in plan.
    """
    outer, inner = around(path, outside), around(path, inside)
    return outward(rings([*outer, *inner[::-1]], caps=False))


def outward(mesh: Mesh) -> Mesh:
    """A closed surface with its faces turned outward."""
    return mesh if mesh.volume >= 0 else Mesh(mesh.vertices, mesh.faces[:, ::-1].copy())


def corner_normals(mesh: Mesh, crease: float = CREASE) -> Array:
    """Unit normals (m, 3, 3) at the corners of faces: at each the mean of the faces around its
    vertex that turn from its own by no more than a crease, weighted by their angles there. A face
    without area has none (zeros).
    """
    p = mesh.vertices[mesh.faces]
    own = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    size = np.linalg.norm(own, axis=1, keepdims=True)
    unit = own / np.where(size > 0, size, 1.0)
    out, back = np.roll(p, -1, axis=1) - p, np.roll(p, 1, axis=1) - p
    long = np.linalg.norm(out, axis=2) * np.linalg.norm(back, axis=2)
    angle = np.arccos(
        np.clip((out * back).sum(axis=2) / np.where(long > 0, long, 1.0), -1.0, 1.0)
    ).ravel()
    corner = mesh.faces.ravel()
    order = np.argsort(corner, kind="stable")
    starts = np.flatnonzero(np.concatenate([[True], np.diff(corner[order]) != 0]))
    count = np.diff(np.append(starts, len(order)))
    many = np.repeat(count, count)  # of each sorted corner: how many share its vertex
    first = np.repeat(starts, count)
    begins = np.concatenate([[0], np.cumsum(many)[:-1]])
    mine = np.repeat(np.arange(len(order)), many)
    other = np.arange(len(mine)) - np.repeat(begins, many) + np.repeat(first, many)
    a, b = order[mine] // 3, order[other] // 3  # faces
    near = (unit[a] * unit[b]).sum(axis=1) >= crease
    total = np.add.reduceat(
        np.where(near[:, None], unit[b] * angle[order[other]][:, None], 0.0), begins, axis=0
    )
    size = np.linalg.norm(total, axis=1, keepdims=True)
    normals = np.empty((len(order), 3))
    normals[order] = total / np.where(size > 0, size, 1.0)
    return normals.reshape(-1, 3, 3)
