"""A surface from points, breaklines and boundaries, by constrained Delaunay triangulation."""

from collections.abc import Sequence
from functools import cached_property, lru_cache
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.tin import Tin

SAME_PLACE = 1e-3  # m: points nearer than this in plan are one
WIDEST = 1e7  # m: no survey is wider
SLIVER = 1e-9  # m²: less of a face beside a boundary is none
KEPT = 2  # meshes: of the same places in another unit

FaceArray = NDArray[np.int64]


class Boundary(NamedTuple):
    """A ring (n, 2 or 3), m: the surface ends at an outer one, a void cuts a hole, an island
    fills part of a void.
    """

    xy: Array
    kind: Literal["outer", "void", "island"]


class Fault(NamedTuple):
    """Something in the data that is not as it should be: what, where (m), and by how much (m)."""

    kind: Literal["double point", "crossing breaklines", "spike"]
    x: float
    y: float
    by: float
    vertex: int = -1  # of the surface, for a spike

    def scaled(self, by: float) -> "Fault":
        """The fault of a surface that is so many times as large."""
        return Fault(self.kind, self.x * by, self.y * by, self.by * by, self.vertex)


class Triangulated(NamedTuple):
    """Vertices (n, 3) in the unit of the points, faces (m, 3), and the faults that were found
    and how each was settled (m).
    """

    vertices: Array
    faces: FaceArray
    faults: tuple[Fault, ...]
    mesh: "_Mesh"

    @property
    def tin(self) -> Tin:
        """The surface, for levels and lines; the same one for places that were triangulated
        before.
        """
        return self.mesh.tin


class _Mesh:
    """Vertices (n, 3), faces (m, 3) and the faults of crossing breaklines, all in the unit of
    the points.
    """

    def __init__(self, vertices: Array, faces: FaceArray, faults: Sequence[Fault] = ()) -> None:
        vertices.flags.writeable = faces.flags.writeable = False  # many hold them
        self.vertices, self.faces, self.faults = vertices, faces, faults

    @cached_property
    def tin(self) -> Tin:
        return Tin(self.vertices, self.faces)


def triangulate(
    points: ArrayLike,
    breaklines: Sequence[ArrayLike] = (),
    boundaries: Sequence[Boundary] = (),
    unit: float = 1.0,
) -> Triangulated:
    """The surface over points (n, 3) in which each breakline (k, 3) is a chain of edges; one of
    their unit is `unit` m.

    Of points at one place (within 1 mm) the first counts; where their levels differ it is told.
    Where breaklines cross, a vertex is added at the mean of their levels there, and the difference
    is told. Boundaries clip the surface as it is. Raises ValueError where fewer than three places
    are given, or all on one line. Computed about a local origin, without which triangles are lost
    at survey coordinates. The triangles are those of the places as they are written, and kept:
    taken in another unit they are the same.
    """
    lines = [np.asarray(b, float).reshape(-1, 3) for b in breaklines]
    all_points = np.vstack([np.asarray(points, float).reshape(-1, 3), *lines])
    if len(all_points) and not np.isfinite(all_points).all():
        raise ValueError("a coordinate is no number")
    if len(all_points) and np.ptp(all_points[:, :2], axis=0).max() * unit > WIDEST:
        raise ValueError("its places lie more than 10,000 km apart: a coordinate is wrong")
    vertices, index, faults = _distinct(all_points, unit)
    if len(vertices) < 3:
        raise ValueError("a surface needs at least three places")
    loose = len(all_points) - sum(map(len, lines))
    edges = _edges(index[loose:], np.cumsum([len(b) for b in lines], dtype=np.int64))
    made = _mesh(vertices.tobytes(), edges.tobytes())
    crossings = (f.scaled(unit) for f in made.faults)
    if not len(made.faces):
        raise ValueError("all places of the surface lie on one line")
    rings = [b for b in boundaries if len(b.xy) >= 3]
    if not rings:
        return Triangulated(made.vertices, made.faces, (*faults, *crossings), made)
    whole = clipped(made.vertices, made.faces, rings, unit)
    if not len(whole[1]):
        raise ValueError("nothing of the surface lies inside its boundaries")
    return Triangulated(*whole, (*faults, *crossings), _Mesh(*whole))


def crossed(breaklines: Sequence[ArrayLike], by: float = 1e-3) -> list[int]:
    """The numbers of breaklines that cross an earlier one at a level more than `by` (m) off it:
    of each two the later.
    """
    import shapely

    lines = [np.asarray(b, float).reshape(-1, 3) for b in breaklines]
    if not lines:
        return []
    p, q = np.vstack([b[:-1] for b in lines]), np.vstack([b[1:] for b in lines])
    of = np.repeat(np.arange(len(lines)), [len(b) - 1 for b in lines])
    tree = shapely.STRtree(shapely.linestrings(np.stack([p[:, :2], q[:, :2]], axis=1)))
    i, j = tree.query(tree.geometries, predicate="intersects")
    keep = of[i] < of[j]
    i, j = i[keep], j[keep]
    r, s, d = q[i] - p[i], q[j] - p[j], p[j] - p[i]
    det = r[:, 0] * s[:, 1] - r[:, 1] * s[:, 0]
    safe = np.where(np.abs(det) > 1e-12, det, np.nan)
    t, u = (
        (d[:, 0] * s[:, 1] - d[:, 1] * s[:, 0]) / safe,
        (d[:, 0] * r[:, 1] - d[:, 1] * r[:, 0]) / safe,
    )
    off = np.abs(p[i, 2] + t * r[:, 2] - p[j, 2] - u * s[:, 2])
    inside = (t > -1e-9) & (t < 1 + 1e-9) & (u > -1e-9) & (u < 1 + 1e-9)
    return sorted(set(of[j[inside & (off > by)]].tolist()))


def _distinct(points: Array, unit: float = 1.0) -> tuple[Array, FaceArray, list[Fault]]:
    """Points without doubles, for each point the number of its vertex, and doubles whose levels
    differ.
    """
    if not len(points):
        return points, np.zeros(0, np.int64), []
    cell = np.round((points[:, :2] - points[:, :2].min(axis=0)) / (SAME_PLACE / unit)).astype(
        np.int64
    )
    key = cell[:, 0] * (int(cell[:, 1].max()) + 1) + cell[:, 1]
    _, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    order = np.argsort(first)  # keep the order in which they came
    rank = np.empty(len(order), np.int64)
    rank[order] = np.arange(len(order))
    index = rank[inverse.ravel()]
    vertices = points[np.sort(first)]
    off = np.abs(points[:, 2] - vertices[index, 2]) * unit
    odd = np.flatnonzero(off > 0.0005)
    places = np.column_stack([points[odd, :2] * unit, off[odd]]).tolist()
    faults = [Fault("double point", x, y, by) for x, y, by in places]
    return vertices, index, faults


def _edges(index: FaceArray, ends: FaceArray) -> FaceArray:
    """The edges of chains strung one after another, each ending where the next begins; none
    twice.
    """
    pairs = np.column_stack([index[:-1], index[1:]])
    inner = np.ones(len(pairs), bool)
    inner[ends[:-1] - 1] = False
    return _once(pairs[inner])


def _once(pairs: FaceArray) -> FaceArray:
    """Edges without doubles and without those from a vertex to itself."""
    both = np.sort(pairs[pairs[:, 0] != pairs[:, 1]], axis=1)
    if not len(both):
        return both
    wide = int(both.max()) + 1
    key = np.unique(both[:, 0] * wide + both[:, 1])
    return np.column_stack([key // wide, key % wide])


def clipped(
    vertices: Array, faces: FaceArray, rings: Sequence[Boundary], unit: float = 1.0
) -> tuple[Array, FaceArray]:
    """A surface inside its boundaries: faces that a ring crosses are cut along it, with vertices on
    the surface there, and the ground is nowhere another. Vertices that no face is left to are left
    out.
    """
    import shapely

    origin = vertices[:, :2].mean(axis=0)
    corners = vertices[faces]
    plan = corners[:, :, :2] - origin
    within = _within(rings, origin, float(np.abs(plan).max(initial=1.0)))
    shapely.prepare(within)
    triangles = shapely.polygons(plan)
    whole = shapely.covers(within, triangles)
    cut = np.flatnonzero(~whole & shapely.intersects(within, triangles))
    made = shapely.constrained_delaunay_triangles(shapely.intersection(triangles[cut], within))
    parts, of = shapely.get_parts(made, return_index=True)
    solid = shapely.area(parts) * unit**2 > SLIVER
    parts, of = parts[solid], cut[of[solid]]
    xy = shapely.get_coordinates(parts).reshape(-1, 4, 2)[:, :3]
    e1, e2 = corners[of, 1] - corners[of, 0], corners[of, 2] - corners[of, 0]
    det = e1[:, 0] * e2[:, 1] - e2[:, 0] * e1[:, 1]
    gx, gy = (
        (e1[:, 2] * e2[:, 1] - e2[:, 2] * e1[:, 1]) / det,
        (e2[:, 2] * e1[:, 0] - e1[:, 2] * e2[:, 0]) / det,
    )
    d = xy - plan[of, :1]
    z = corners[of, :1, 2] + gx[:, None] * d[:, :, 0] + gy[:, None] * d[:, :, 1]
    added = np.column_stack([(xy + origin).reshape(-1, 2), z.ravel()])
    every, index, _ = _distinct(np.vstack([vertices, added]), unit)
    rows = np.vstack([index[faces[whole]], index[len(vertices) :].reshape(-1, 3)])
    rows = rows[
        (rows[:, 0] != rows[:, 1]) & (rows[:, 1] != rows[:, 2]) & (rows[:, 2] != rows[:, 0])
    ]
    used, number = np.unique(rows, return_inverse=True)
    return every[used], number.reshape(-1, 3)


def _within(rings: Sequence[Boundary], origin: Array, far: float) -> Any:
    """The area within boundaries, about a local origin: the outer ones (all, without any), less the
    voids, and the islands.
    """
    import shapely

    def union(kind: str) -> Any:
        found = [
            np.asarray(r.xy, float)[:, :2] - origin
            for r in rings
            if r.kind == kind and len(r.xy) >= 3
        ]
        return shapely.union_all([shapely.make_valid(shapely.Polygon(xy)) for xy in found])

    outer = union("outer")
    everything = shapely.box(-2 * far, -2 * far, 2 * far, 2 * far)
    left = everything if shapely.is_empty(outer) else outer
    return shapely.union(shapely.difference(left, union("void")), union("island"))


@lru_cache(maxsize=KEPT)
def _mesh(vertices: bytes, edges: bytes) -> _Mesh:
    """The mesh over vertices and edges, found again by what they are."""
    return _Mesh(
        *_constrained(
            np.frombuffer(vertices).reshape(-1, 3), np.frombuffer(edges, np.int64).reshape(-1, 2)
        )
    )


def _constrained(vertices: Array, edges: FaceArray) -> tuple[Array, FaceArray, list[Fault]]:
    import pythoncdt as cdt

    origin = vertices[:, :2].mean(axis=0)
    mesh: Any = cdt.Triangulation(
        cdt.VertexInsertionOrder.AUTO, cdt.IntersectingConstraintEdges.TRY_RESOLVE, 0.0
    )
    try:
        mesh.insert_vertices(np.ascontiguousarray(vertices[:, :2] - origin))
        if len(edges):
            mesh.insert_edges(np.ascontiguousarray(edges.astype(np.uint32)))
        mesh.erase_super_triangle()
    except (
        RuntimeError
    ) as e:  # the library's own: places that are one to it, edges that it cannot part
        raise ValueError(
            "its places cannot be triangulated: some are too near to each other"
        ) from e
    placed = np.array(mesh.vertices_array())
    xy = np.column_stack([placed["x"], placed["y"]]) + origin
    xy[: len(vertices)] = vertices[:, :2]  # as they were given, to the last digit
    faces = np.array(mesh.triangles_array()["vertices"], np.int64).reshape(-1, 3)
    z, faults = _levels(vertices, xy, mesh)
    return np.column_stack([xy, z]), faces, faults


def _levels(vertices: Array, xy: Array, mesh: Any) -> tuple[Array, list[Fault]]:
    """Levels of all vertices; where breaklines cross, the mean of theirs, with the difference as
    a fault.
    """
    z = np.concatenate([vertices[:, 2], np.zeros(len(xy) - len(vertices))])
    found: dict[int, list[float]] = {}
    for piece, originals in mesh.piece_to_originals.items():
        for v in (piece.v1, piece.v2):
            if v >= len(vertices):
                found.setdefault(v, []).extend(
                    _between(vertices, xy[v], e.v1, e.v2) for e in originals
                )
    faults = []
    for v, levels in found.items():
        z[v] = float(np.mean(levels))
        faults.append(
            Fault(
                "crossing breaklines", float(xy[v, 0]), float(xy[v, 1]), max(levels) - min(levels)
            )
        )
    return z, faults


def _between(vertices: Array, at: Array, a: int, b: int) -> float:
    p, q = vertices[a], vertices[b]
    whole, part = float(np.hypot(*(q - p)[:2])), float(np.hypot(*(at - p[:2])))
    return float(p[2] + (q[2] - p[2]) * part / whole)


def without(tin: Tin, vertices: Sequence[int]) -> tuple[Array, FaceArray]:
    """A surface without some of its vertices: the hole that each group of them leaves is
    triangulated anew from the corners about it; at the edge of the surface the faces go. Returns
    vertices (n, 3) and faces (m, 3).
    """
    out = np.zeros(len(tin.vertices), bool)
    out[np.asarray(vertices, np.int64)] = True
    gone = out[tin.faces].any(axis=1)
    faces = np.vstack([tin.faces[~gone], *_filled(tin.vertices, _holes(tin.faces[gone], out))])
    used = np.zeros(len(tin.vertices), bool)
    used[faces] = True
    return tin.vertices[used], (np.cumsum(used) - 1)[faces]


def _holes(faces: FaceArray, out: Mask) -> list[list[int]]:
    """The rings of corners about faces that go: chains of their outer edges that close upon
    themselves. The surface lies outside one that turns to the left, and inside one that turns to
    the right; no corner comes twice in a ring.
    """
    edges = np.vstack([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    there = {(a, b) for a, b in edges.tolist()}
    onward: dict[int, list[int]] = {}
    for a, b in there:
        if (b, a) not in there and not out[a] and not out[b]:
            onward.setdefault(a, []).append(b)
    rings = []
    while onward:
        chain = [next(iter(onward))]
        while chain[-1] in onward:
            ends = onward[chain[-1]]
            step = ends.pop()
            if not ends:
                del onward[chain[-1]]
            if step in chain:
                i = chain.index(step)
                rings.append(chain[i:])
                del chain[i + 1 :]
            else:
                chain.append(step)
    return rings


def _filled(vertices: Array, rings: list[list[int]]) -> list[FaceArray]:
    """Triangles over the corners of each ring that turns to the left: none outside it, none
    inside one that turns to the right.
    """
    import shapely

    shapes = [shapely.Polygon(vertices[ring, :2]) for ring in rings]
    left = [shapely.is_ccw(shape.exterior) for shape in shapes]
    whole = [i for i, turns in enumerate(left) if turns]
    islands: dict[int, list[int]] = {i: [] for i in whole}
    for j in (j for j, turns in enumerate(left) if not turns):
        about = [
            i
            for i in whole
            if shapely.contains_properly(shapes[i], shapely.point_on_surface(shapes[j]))
        ]
        if about:
            islands[min(about, key=lambda i: shapes[i].area)].append(j)
    return [_within_rings(vertices, [rings[i], *(rings[j] for j in islands[i])]) for i in whole]


def _within_rings(vertices: Array, rings: list[list[int]]) -> FaceArray:
    """Triangles over the corners of some rings: inside the first, outside the others."""
    import shapely

    corners = list(dict.fromkeys(c for ring in rings for c in ring))
    number = {c: i for i, c in enumerate(corners)}
    edges = [
        (number[a], number[b])
        for ring in rings
        for a, b in zip(ring, [*ring[1:], ring[0]], strict=True)
    ]
    v, f, _ = _constrained(vertices[corners], np.array(edges, np.int64))
    x, y = v[f][:, :, :2].mean(axis=1).T
    first, *rest = (shapely.make_valid(shapely.Polygon(vertices[ring, :2])) for ring in rings)
    inside = shapely.contains_xy(shapely.difference(first, shapely.union_all(rest)), x, y)
    return np.asarray(np.array(corners, np.int64)[f[inside & (f < len(corners)).all(axis=1)]])
